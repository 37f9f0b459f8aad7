"""Days as they are kept: a workspace's crew, what is asked and made of jobs' days, ticks, papers made beside the pages."""

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from pydantic import ValidationError
from sqlalchemy import func, select, update
from sqlalchemy.dialects.postgresql import insert

from gnomonic.core.days.crew import Crew
from gnomonic.core.days.made import Asked, Made
from gnomonic.core.days.progress import Tick
from gnomonic.core.errors import BadInput
from gnomonic.core.limits import MOST_TICKS
from gnomonic.store.jobs import must_be_there
from gnomonic.store.models import CrewRow, DayPlanRow, DayTickRow, JobRow, PaperRow
from gnomonic.store.scope import Scope

TELLING = 2000  # of the last ticks, the jobs that rates are found from


def crew(scope: Scope) -> Crew | None:
    """The workspace's crew; none before it was said."""
    row = _crew_row(scope)
    return Crew.model_validate_json(row) if row else None


def crew_mark(scope: Scope) -> str:
    """What a page says it has drawn of the crew."""
    return _mark(_crew_row(scope))


def _crew_row(scope: Scope) -> str:
    with scope.reading() as connection:
        return (
            connection.execute(select(CrewRow.row).where(CrewRow.workspace == scope.workspace)).scalar_one_or_none()
            or ""
        )


def put_crew(scope: Scope, made: Crew, seen: str | None = None) -> None:
    """Say the workspace's crew.  Raises BadInput where it was changed since the page was drawn (``crew_mark``)."""
    with scope.writing() as connection:
        query = select(CrewRow.row).where(CrewRow.workspace == scope.workspace).with_for_update()
        there = connection.execute(query).scalar_one_or_none() or ""
        if seen is not None and seen != _mark(there):
            raise BadInput(
                "crew",
                "the crew was changed in another window; nothing of yours was saved over it: look at it and say again",
            )
        values = {"row": made.model_dump_json()}
        statement = insert(CrewRow).values(workspace=scope.workspace, **values)
        connection.execute(statement.on_conflict_do_update(index_elements=["workspace"], set_=values))


def _mark(row: str) -> str:
    return hashlib.sha256(row.encode()).hexdigest()[:12]


@dataclass(frozen=True, slots=True)
class DayPlan:
    """A job's days: what is asked, the plan made of it (none yet), the stamp of what it was made from and a mark of what was made."""

    job_id: str
    name: str
    asked: Asked
    made: Made | None
    stamp: str
    mark: str


def day_plans(scope: Scope, job_id: str = "", since: date | None = None) -> list[DayPlan]:
    """Jobs of the workspace that have a beginning, in the order in which they go: all, or those that do not end before a day (``since``)
    and the one that is named; that one alone where no day is."""
    query = (
        select(DayPlanRow.job_id, JobRow.name, DayPlanRow.asked, DayPlanRow.made, DayPlanRow.stamp)
        .join(JobRow, (JobRow.workspace == DayPlanRow.workspace) & (JobRow.id == DayPlanRow.job_id))
        .where(DayPlanRow.workspace == scope.workspace)
    )
    if since is not None:
        lasting = (DayPlanRow.until.is_(None)) | (DayPlanRow.until >= since)
        query = query.where(lasting | (DayPlanRow.job_id == job_id))
    elif job_id:
        query = query.where(DayPlanRow.job_id == job_id)
    with scope.reading() as connection:
        rows = [
            DayPlan(job, name, Asked.model_validate_json(asked), _made(made), stamp, _mark(made))
            for job, name, asked, made, stamp in connection.execute(query)
        ]
    return sorted(rows, key=lambda r: (r.asked.rank, r.asked.start, r.job_id))


def _made(row: str) -> Made | None:
    """The plan as it was kept; none where there is none yet, or one that another version made: it is made anew."""
    try:
        return Made.model_validate_json(row) if row else None
    except ValidationError:
        return None


def day_plan(scope: Scope, job_id: str) -> DayPlan | None:
    """A job's days; none before it has a beginning."""
    return next(iter(day_plans(scope, job_id)), None)


def ask_days(scope: Scope, job_id: str, asked: Asked) -> None:
    """Say what is asked of a job's days.  Raises NotThere."""
    with scope.writing() as connection:
        must_be_there(connection, scope, job_id)
        values = {"asked": asked.model_dump_json()}
        statement = insert(DayPlanRow).values(workspace=scope.workspace, job_id=job_id, **values)
        connection.execute(statement.on_conflict_do_update(index_elements=["workspace", "job_id"], set_=values))


def keep_days(scope: Scope, job_id: str, made: Made, stamp: str, only: str | None = None) -> bool:
    """Keep the plan made of a job's days; where ``only`` names a stamp, only over a plan of that one.  Whether it was kept."""
    with scope.writing() as connection:
        own = [DayPlanRow.workspace == scope.workspace, DayPlanRow.job_id == job_id]
        if only is not None:
            own.append(DayPlanRow.stamp == only)
        done = connection.execute(
            update(DayPlanRow).where(*own).values(made=made.model_dump_json(), stamp=stamp, until=made.ends.date())
        )
    return bool(done.rowcount)


def day_ticks(scope: Scope, job_id: str) -> list[Tick]:
    """What was ticked of a job."""
    query = select(DayTickRow.row).where(DayTickRow.workspace == scope.workspace, DayTickRow.job_id == job_id)
    with scope.reading() as connection:
        return [
            Tick.model_validate_json(row) for row in connection.execute(query.order_by(DayTickRow.kept_at)).scalars()
        ]


def telling_ticks(scope: Scope) -> list[list[Tick]]:
    """What was ticked of each of the workspace's jobs that were ticked last: all of a job or nothing, so that parts of a task are told from all of it."""
    mine = DayTickRow.workspace == scope.workspace
    last = select(DayTickRow.job_id).where(mine).order_by(DayTickRow.kept_at.desc()).limit(TELLING).subquery()
    query = select(DayTickRow.job_id, DayTickRow.row).where(mine, DayTickRow.job_id.in_(select(last.c.job_id)))
    jobs: dict[str, list[Tick]] = {}
    with scope.reading() as connection:
        for job_id, row in connection.execute(query.order_by(DayTickRow.kept_at)):
            jobs.setdefault(job_id, []).append(Tick.model_validate_json(row))
    return list(jobs.values())


def add_ticks(scope: Scope, job_id: str, rows: Sequence[Tick]) -> None:
    """Keep ticks, each once however often it is sent.  Raises NotThere, BadInput beyond ``MOST_TICKS``."""
    with scope.writing() as connection:
        must_be_there(connection, scope, job_id)
        for row in rows:
            values = {"id": row.id, "row": row.model_dump_json()}
            statement = insert(DayTickRow).values(workspace=scope.workspace, job_id=job_id, **values)
            connection.execute(statement.on_conflict_do_nothing())
        of = select(func.count()).where(DayTickRow.workspace == scope.workspace, DayTickRow.job_id == job_id)
        if connection.execute(of).scalar_one() > MOST_TICKS:
            raise BadInput("ticks", f"at most {MOST_TICKS} ticks are kept of a job")


def ask_paper(scope: Scope, job_id: str, kind: str, stamp: str) -> bool:
    """Ask for a paper; false where one of the same stamp is made or being made already."""
    with scope.writing() as connection:
        own = (PaperRow.workspace == scope.workspace, PaperRow.job_id == job_id, PaperRow.kind == kind)
        there = connection.execute(select(PaperRow.stamp, PaperRow.state).where(*own).with_for_update()).first()
        if there is not None and there.stamp == stamp and there.state != "failed":
            return False
        values = {"stamp": stamp, "state": "asked", "body": None}
        statement = insert(PaperRow).values(workspace=scope.workspace, job_id=job_id, kind=kind, **values)
        connection.execute(statement.on_conflict_do_update(index_elements=["workspace", "job_id", "kind"], set_=values))
    return True


def keep_paper(scope: Scope, job_id: str, kind: str, stamp: str, body: bytes | None) -> None:
    """Keep a paper that was asked for, or that it could not be made (none)."""
    with scope.writing() as connection:
        own = (
            PaperRow.workspace == scope.workspace,
            PaperRow.job_id == job_id,
            PaperRow.kind == kind,
            PaperRow.stamp == stamp,
        )
        connection.execute(
            update(PaperRow).where(*own).values(state="made" if body is not None else "failed", body=body)
        )


def paper(scope: Scope, job_id: str, kind: str) -> tuple[str, str, bytes | None]:
    """The stamp, state and bytes of a paper; empty where none was asked for."""
    with scope.reading() as connection:
        own = (PaperRow.workspace == scope.workspace, PaperRow.job_id == job_id, PaperRow.kind == kind)
        row = connection.execute(select(PaperRow.stamp, PaperRow.state, PaperRow.body).where(*own)).first()
    return (row.stamp, row.state, row.body) if row is not None else ("", "", None)
