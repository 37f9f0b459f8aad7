"""Events of jobs: inserted once, never changed; the same id twice is once."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from sqlalchemy import ColumnElement, Connection, func, select, text, update
from sqlalchemy.dialects.postgresql import insert

from gnomonic.core.limits import MOST_EVENTS
from gnomonic.core.log.events import PLAN_KINDS, Event, Kept
from gnomonic.store.accounts import audit
from gnomonic.store.jobs import NotThere
from gnomonic.store.models import EventRow, JobRow
from gnomonic.store.scope import Scope

WAIT, DROPPED = "wait", "dropped"
AHEAD = timedelta(minutes=2)  # of this machine's clock: no event happened later than it came


class TooMany(Exception):
    """A job holds so many events and no more."""


@dataclass(frozen=True, slots=True)
class Added:
    """What became of events that came: how many were ``new``; the ids that had come before, alike (``again``) or as something else (``other``)."""

    new: tuple[str, ...]
    again: tuple[str, ...]
    other: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Row:
    """An event as it lies here: its number, and why it is not taken in (``held``)."""

    n: int
    kept: Kept
    held: str
    received_at: datetime


def _of_job(scope: Scope, job_id: str) -> tuple[ColumnElement[bool], ...]:
    return (EventRow.workspace == scope.workspace, EventRow.job_id == job_id)


def _offset_s(event: Event, offset: timedelta, now: datetime) -> float:
    """How far an event's clock is put right: by what the device was off when it sent, and never beyond now."""
    return min(offset.total_seconds(), (now + AHEAD - event.clock).total_seconds())


def add(scope: Scope, job_id: str, events: Sequence[Event], offset: timedelta, held: str = "") -> Added:
    """Keep events of a job, to be taken in or ``held`` for an owner's word.  Raises NotThere, TooMany."""
    now = datetime.now(UTC)
    once: dict[str, Event] = {}
    for e in events:
        once.setdefault(e.id, e)
    own = (JobRow.workspace == scope.workspace, JobRow.id == job_id)
    with scope.writing() as connection:
        if connection.execute(select(JobRow.id).where(*own).with_for_update()).first() is None:
            raise NotThere(job_id)
        found = select(EventRow.id, EventRow.event).where(*_of_job(scope, job_id), EventRow.id.in_(list(once)))
        there = {row.id: Event.model_validate_json(row.event) for row in connection.execute(found)}
        fresh = [e for key, e in once.items() if key not in there]
        count = connection.execute(
            select(func.count()).select_from(EventRow).where(*_of_job(scope, job_id))
        ).scalar_one()
        if count + len(fresh) > MOST_EVENTS:
            raise TooMany(job_id)
        if fresh:
            of = {"workspace": scope.workspace, "job_id": job_id, "actor": scope.actor, "held": held}
            rows = [
                of | {"id": e.id, "event": e.model_dump_json(exclude_none=True), "offset_s": _offset_s(e, offset, now)}
                for e in fresh
            ]
            last = max(row.n for row in connection.execute(insert(EventRow).returning(EventRow.n), rows))
            if not held and any(e.kind in PLAN_KINDS or e.kind == "void" for e in fresh):
                _changed(connection, own, last)
        again = tuple(key for key, e in there.items() if e == once[key])
        return Added(tuple(e.id for e in fresh), again, tuple(key for key in there if key not in again))


def _changed(connection: Connection, own: tuple[ColumnElement[bool], ...], last: int) -> None:
    """The plan answers to it, and what the list shows of the job is of before."""
    connection.execute(
        update(JobRow).where(*own).values(summary_of=None, last_event=func.greatest(JobRow.last_event + 1, last))
    )


def rows_of(scope: Scope, job_id: str, after: int = 0, most: int | None = None, *held: str) -> list[Row]:
    """Events of a job in order of arrival, those ``after`` a number; those taken in, or those that are ``held`` so."""
    query = select(EventRow.n, EventRow.event, EventRow.offset_s, EventRow.actor, EventRow.held, EventRow.received_at)
    query = (
        query.where(*_of_job(scope, job_id), EventRow.n > after, EventRow.held.in_(held or ("",)))
        .order_by(EventRow.n)
        .limit(most)
    )
    with scope.reading() as connection:
        found = connection.execute(query).all()
    return [
        Row(
            r.n, Kept(Event.model_validate_json(r.event), timedelta(seconds=r.offset_s), r.actor), r.held, r.received_at
        )
        for r in found
    ]


def of_job(scope: Scope, job_id: str) -> list[Kept]:
    """Every event of a job that is taken in, in order of arrival."""
    return [row.kept for row in rows_of(scope, job_id)]


def decide(scope: Scope, job_id: str, actor: str, take: bool) -> int:
    """An owner's word on what somebody delivered whose role was taken away: taken in, or left out; how many.  Raises NotThere."""
    own = (JobRow.workspace == scope.workspace, JobRow.id == job_id)
    which = (*_of_job(scope, job_id), EventRow.held == WAIT, EventRow.actor == actor)
    with scope.writing() as connection:
        last = connection.execute(select(JobRow.last_event).where(*own).with_for_update()).scalar_one_or_none()
        if last is None:
            raise NotThere(job_id)
        values = (
            {"held": "", "n": text("DEFAULT")} if take else {"held": DROPPED}
        )  # taken in now, it is news to every phone
        done = connection.execute(update(EventRow).where(*which).values(**values)).rowcount
        if done and take:
            _changed(connection, own, last + 1)
        if done:
            audit(
                connection,
                scope,
                "took in what was delivered late" if take else "left out what was delivered late",
                f"{done} of {actor}, job {job_id}",
            )
        return done
