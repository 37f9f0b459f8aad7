"""What goes to the field and comes back beside events: issues of a plan, photos."""

from dataclasses import dataclass
from datetime import datetime
from typing import TypeVar

from sqlalchemy import Select, func, select
from sqlalchemy.dialects.postgresql import insert

from gnomonic.core.limits import MOST_PHOTOS
from gnomonic.store.jobs import NotThere
from gnomonic.store.models import EventRow, IssueRow, JobRow, PhotoRow
from gnomonic.store.scope import Scope

Kind = TypeVar("Kind")


class TooManyPhotos(Exception):
    """A job holds so many photos and no more."""


@dataclass(frozen=True, slots=True)
class Issue:
    """A plan as it was given to the crew."""

    number: int
    version: int
    last_event: int
    said: str
    actor: str
    made_at: datetime


@dataclass(frozen=True, slots=True)
class Photo:
    """A photo as it is shown."""

    digest: str
    wide: int
    high: int
    actor: str


_ISSUE = (IssueRow.number, IssueRow.version, IssueRow.last_event, IssueRow.said, IssueRow.actor, IssueRow.made_at)


def issues(scope: Scope, job_id: str) -> list[Issue]:
    """Every issue of a job, the last first."""
    query = select(*_ISSUE).where(IssueRow.workspace == scope.workspace, IssueRow.job_id == job_id)
    with scope.reading() as connection:
        return [Issue(*row) for row in connection.execute(query.order_by(IssueRow.number.desc()))]


def last_issues(scope: Scope) -> dict[str, int]:
    """The number of the last issue of every job that has one."""
    query = select(IssueRow.job_id, func.max(IssueRow.number)).where(IssueRow.workspace == scope.workspace)
    with scope.reading() as connection:
        return {row[0]: row[1] for row in connection.execute(query.group_by(IssueRow.job_id))}


def _one(scope: Scope, job_id: str, query: Select[Kind]) -> Kind:
    with scope.reading() as connection:
        found = connection.execute(query).scalar_one_or_none()
    if found is None:
        raise NotThere(job_id)
    return found


def pack(scope: Scope, job_id: str, number: int) -> str:
    """What the phone gets of an issue (JSON).  Raises NotThere."""
    query = select(IssueRow.pack).where(
        IssueRow.workspace == scope.workspace, IssueRow.job_id == job_id, IssueRow.number == number
    )
    return _one(scope, job_id, query)


def last_arrival(scope: Scope, job_id: str) -> int:
    """The number of the last event of a job that came, 0 where none did."""
    query = select(func.max(EventRow.n)).where(
        EventRow.workspace == scope.workspace, EventRow.job_id == job_id, EventRow.held == ""
    )
    with scope.reading() as connection:
        return connection.execute(query).scalar_one() or 0


def give_out(scope: Scope, job_id: str, version: int, last_event: int, said: str, made: str) -> int:
    """Give a plan to the crew as the next issue; its number.  Raises NotThere."""
    own = (JobRow.workspace == scope.workspace, JobRow.id == job_id)
    with scope.writing() as connection:
        if connection.execute(select(JobRow.id).where(*own).with_for_update()).first() is None:
            raise NotThere(job_id)
        of_job = (IssueRow.workspace == scope.workspace, IssueRow.job_id == job_id)
        number = (connection.execute(select(func.max(IssueRow.number)).where(*of_job)).scalar_one() or 0) + 1
        row = {
            "workspace": scope.workspace,
            "job_id": job_id,
            "number": number,
            "version": version,
            "last_event": last_event,
        }
        connection.execute(insert(IssueRow).values(**row, said=said, pack=made, actor=scope.actor))
        return number


def keep_photo(scope: Scope, job_id: str, digest: str, wide: int, high: int, body: bytes) -> None:
    """Keep a photo once.  Raises NotThere, TooManyPhotos."""
    own = (JobRow.workspace == scope.workspace, JobRow.id == job_id)
    with scope.writing() as connection:
        if connection.execute(select(JobRow.id).where(*own).with_for_update()).first() is None:
            raise NotThere(job_id)
        of_job = (PhotoRow.workspace == scope.workspace, PhotoRow.job_id == job_id)
        if connection.execute(select(func.count()).select_from(PhotoRow).where(*of_job)).scalar_one() >= MOST_PHOTOS:
            raise TooManyPhotos(job_id)
        row = {
            "workspace": scope.workspace,
            "job_id": job_id,
            "digest": digest,
            "wide": wide,
            "high": high,
            "body": body,
            "actor": scope.actor,
        }
        connection.execute(insert(PhotoRow).values(**row).on_conflict_do_nothing())


def photo(scope: Scope, job_id: str, digest: str) -> bytes:
    """A photo as it is shown.  Raises NotThere."""
    query = select(PhotoRow.body).where(
        PhotoRow.workspace == scope.workspace, PhotoRow.job_id == job_id, PhotoRow.digest == digest
    )
    return _one(scope, job_id, query)


def photos(scope: Scope, job_id: str) -> dict[str, Photo]:
    """The photos of a job that are here, by what the phone calls them."""
    query = select(PhotoRow.digest, PhotoRow.wide, PhotoRow.high, PhotoRow.actor).where(
        PhotoRow.workspace == scope.workspace, PhotoRow.job_id == job_id
    )
    with scope.reading() as connection:
        return {row.digest: Photo(*row) for row in connection.execute(query)}
