"""Events of jobs: inserted once, never changed; the same id twice is once."""

from collections.abc import Sequence
from datetime import timedelta

from sqlalchemy import func, select, update
from sqlalchemy.dialects.postgresql import insert

from gnomonic.core.limits import MOST_EVENTS
from gnomonic.core.log.events import Event, Kept
from gnomonic.store.jobs import NotThere
from gnomonic.store.models import EventRow, JobRow
from gnomonic.store.scope import Scope


class TooMany(Exception):
    """A job holds so many events and no more."""


def add(scope: Scope, job_id: str, events: Sequence[Event], offset: timedelta) -> int:
    """Keep events of a job; how many were new.  Raises NotThere, TooMany."""
    rows = [
        {
            "workspace": scope.workspace,
            "job_id": job_id,
            "id": e.id,
            "event": e.model_dump_json(exclude_none=True),
            "offset_s": offset.total_seconds(),
            "actor": scope.actor,
        }
        for e in events
    ]
    own = (JobRow.workspace == scope.workspace, JobRow.id == job_id)
    with scope.writing() as connection:
        if connection.execute(select(JobRow.id).where(*own).with_for_update()).first() is None:
            raise NotThere(job_id)
        of_job = (EventRow.workspace == scope.workspace, EventRow.job_id == job_id)
        there = connection.execute(select(func.count()).select_from(EventRow).where(*of_job)).scalar_one()
        if there + len(rows) > MOST_EVENTS:
            raise TooMany(job_id)
        if not rows:
            return 0
        done = connection.execute(insert(EventRow).on_conflict_do_nothing().returning(EventRow.n), rows)
        new = [row.n for row in done]
        if new:  # what the list shows of the job is of before
            connection.execute(update(JobRow).where(*own).values(summary_of=None, last_event=max(new)))
        return len(new)


def of_job(scope: Scope, job_id: str) -> list[Kept]:
    """Every event of a job, in order of arrival."""
    query = (
        select(EventRow.event, EventRow.offset_s)
        .where(EventRow.workspace == scope.workspace, EventRow.job_id == job_id)
        .order_by(EventRow.n)
    )
    with scope.reading() as connection:
        rows = connection.execute(query).all()
    return [Kept(Event.model_validate_json(row.event), timedelta(seconds=row.offset_s)) for row in rows]
