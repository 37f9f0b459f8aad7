"""Jobs and their versions: create, read, edit, undo, redo; and files that have arrived."""

import hashlib
import secrets
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from datetime import datetime
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from sqlalchemy import (
    BigInteger,
    Connection,
    Row,
    Select,
    Text,
    bindparam,
    delete,
    false,
    func,
    insert,
    literal,
    select,
    text,
    update,
)
from sqlalchemy.dialects.postgresql import insert as upsert
from sqlalchemy.exc import DBAPIError

from gnomonic.core.job.document import Job
from gnomonic.core.job.reading import must_fit, read_job
from gnomonic.store.models import ArrivalRow, AskedRow, JobRow, VersionRow
from gnomonic.store.scope import Scope

if TYPE_CHECKING:  # heavy, and only where tables are made
    from alembic.config import Config


class NotThere(Exception):
    """No such job or arrival."""


class TooNew(OSError):
    """A database that a later version of the program has changed; the program can't start on it."""


class NotReady(OSError):
    """A database that can't be reached, or refuses what the program needs; the program can't start on it."""


class Moved(Exception):
    """Somebody else moved the job on; ``head`` is where it stands now."""

    def __init__(self, head: int) -> None:
        super().__init__("this job was changed in another window")
        self.head = head


class Done(Exception):
    """What is asked for was done already, under the same key: it made this ``version`` of this job."""

    def __init__(self, job_id: str, version: int) -> None:
        super().__init__("that was saved already")
        self.job_id, self.version = job_id, version


@dataclass(frozen=True, slots=True)
class Stored:
    """A job as it stands: the document's text is exactly what was saved; empty where it was not asked for."""

    job_id: str
    name: str
    version: int
    document: str
    digest: str
    names: str
    can_undo: bool
    can_redo: bool
    events: int = 0

    @property
    def key(self) -> str:
        """What its plan hangs on: the document, and the last event from the field where there is one."""
        return f"{self.digest}#{self.events}" if self.events else self.digest


@dataclass(frozen=True, slots=True)
class Listed:
    """A job in the list, one ``of_all`` that were looked for.

    Its ``summary`` (JSON) is what it was at an earlier version where it is not ``fresh``, empty where it was never made.
    """

    job_id: str
    name: str
    changed_at: datetime
    summary: str
    fresh: bool
    of_all: int


def alembic_config() -> "Config":
    """Where the migrations are."""
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", "gnomonic.store:migrations")
    return config


def migrate(url: str) -> None:
    """Bring the database's tables up to date.  Raises TooNew, NotReady."""
    from alembic import command
    from alembic.util import CommandError

    config = alembic_config()
    config.attributes["url"] = url
    try:
        command.upgrade(config, "head")
    except DBAPIError as error:
        why = str(error.orig).strip().partition("\n")[0]
        raise NotReady(f"the database can't be used as it is: {why}") from None
    except CommandError as error:
        if "locate revision" not in str(error):
            raise
        raise TooNew(
            "this database was made by a later Gnomonic: start that one, or restore an earlier backup"
        ) from None


_later = VersionRow.__table__.alias("later")
_HEAD = (
    select(
        JobRow.id,
        JobRow.name,
        VersionRow.id.label("version"),
        VersionRow.document,
        VersionRow.digest,
        VersionRow.names,
        VersionRow.parent_id,
        select(_later.c.id)
        .where(_later.c.workspace == JobRow.workspace, _later.c.job_id == JobRow.id, _later.c.parent_id == JobRow.head_id)
        .limit(1)
        .scalar_subquery()
        .label("child"),
        JobRow.last_event.label("events"),
    )
    .join(VersionRow, VersionRow.id == JobRow.head_id)
)  # fmt: skip


def _stored(row: Row[Any]) -> Stored:
    return Stored(
        row.id,
        row.name,
        row.version,
        row.document,
        row.digest,
        row.names,
        row.parent_id is not None,
        row.child is not None,
        row.events,
    )


_GLANCE = _HEAD.with_only_columns(
    *(literal("").label("document") if c.key == "document" else c for c in _HEAD.selected_columns),
    maintain_column_froms=True,
)


def load(scope: Scope, job_id: str) -> Stored:
    """A job at its head.  Raises NotThere."""
    with scope.reading() as connection:
        return _load(connection, scope, job_id)


def glance(scope: Scope, job_id: str) -> Stored:
    """A job at its head without its document, which may be long.  Raises NotThere."""
    with scope.reading() as connection:
        return _load(connection, scope, job_id, _GLANCE)


def document(scope: Scope, version: int) -> str:
    """The document of a version.  Raises NotThere."""
    query = select(VersionRow.document).where(VersionRow.workspace == scope.workspace, VersionRow.id == version)
    with scope.reading() as connection:
        found = connection.execute(query).scalar()
    if found is None:
        raise NotThere(str(version))
    return str(found)


def _own(scope: Scope, job_id: str) -> tuple[Any, Any]:
    """The job of this name in this workspace."""
    return JobRow.workspace == scope.workspace, JobRow.id == job_id


def _load(connection: Connection, scope: Scope, job_id: str, query: Select[Any] = _HEAD) -> Stored:
    row = connection.execute(query.where(*_own(scope, job_id))).first() if job_id.isprintable() else None
    if row is None:
        raise NotThere(job_id)
    return _stored(row)


@lru_cache(maxsize=32)
def _listing(words: int) -> Select[*tuple[Any, ...]]:
    """The query of a page of jobs whose name, or what hangs on them, has so many words; built once, it is run often."""
    own = JobRow.workspace == bindparam("workspace")
    has = [JobRow.sought.like(bindparam(f"word{k}", type_=Text), escape="\\") for k in range(words)]
    of_all = func.count().over() if words else select(func.count()).select_from(JobRow).where(own).scalar_subquery()
    fresh = func.coalesce(JobRow.summary_of == JobRow.head_id, false())
    shown = (JobRow.id, JobRow.name, JobRow.changed_at, func.coalesce(JobRow.summary, ""), fresh)
    order = (JobRow.changed_at.desc(), JobRow.id)

    def part(query: Select[Any]) -> Select[Any]:
        query = query.where(own, *has).order_by(*order)
        return query.offset(bindparam("first", type_=BigInteger)).limit(bindparam("most", type_=BigInteger))

    if not words:  # read in the order of an index: no more rows than are shown
        return part(select(*shown, of_all))
    # first which jobs stand on the page, by narrow rows; what the list shows only of those
    page = part(select(JobRow.id, of_all.label("of_all"))).subquery()
    return select(*shown, page.c.of_all).join(page, page.c.id == JobRow.id).where(own).order_by(*order)


def listed(scope: Scope, search: str = "", first: int = 0, most: int | None = None) -> Sequence[Listed]:
    """Jobs that have every word that is looked for, the last changed first: ``most`` of them from the ``first`` on."""
    if not search.isprintable():  # a NUL can't even be asked for
        return []
    plain = search.lower().translate({ord(sign): f"\\{sign}" for sign in "\\%_"})
    words = {f"word{k}": f"%{word}%" for k, word in enumerate(plain.split())}
    values = {"workspace": scope.workspace, "first": first, "most": most, **words}
    with scope.reading() as connection:
        return [Listed(*row) for row in connection.execute(_listing(len(words)), values)]


def count(scope: Scope) -> int:
    """How many jobs there are."""
    with scope.reading() as connection:
        query = select(func.count()).select_from(JobRow).where(JobRow.workspace == scope.workspace)
        return int(connection.execute(query).scalar_one())


def keep_summary(scope: Scope, job_id: str, version: int, summary: str, hung: str = "") -> None:
    """What the list shows of a job at a version, and what ``hung`` it is found by; of an older version than is kept: forgotten."""
    older = func.coalesce(JobRow.summary_of, 0) <= version
    changed = JobRow.summary.is_distinct_from(summary) | JobRow.summary_of.is_distinct_from(version)
    with scope.writing() as connection:
        values = {"summary": summary, "summary_of": version, "hung": hung}
        connection.execute(
            update(JobRow).where(*_own(scope, job_id), older | (JobRow.head_id == version), changed).values(values)
        )


def forget_summaries(scope: Scope) -> None:
    """What the list shows of jobs is to be worked out anew: something all of them follow has changed."""
    with scope.writing() as connection:
        connection.execute(update(JobRow).where(JobRow.workspace == scope.workspace).values(summary_of=None))


def keep_printed(scope: Scope, job_id: str, version: int) -> None:
    """A version went to paper.  Raises NotThere."""
    with scope.writing() as connection:
        owned = select(VersionRow.id).where(
            VersionRow.workspace == scope.workspace, VersionRow.job_id == job_id, VersionRow.id == version
        )
        if connection.execute(owned).scalar() is None:
            raise NotThere(job_id)
        connection.execute(update(JobRow).where(*_own(scope, job_id)).values(printed_id=version, printed_at=func.now()))


def printed(scope: Scope, job_id: str) -> tuple[str, str, datetime] | None:
    """Document and digest of the version that was printed last, and when that was; None where none was."""
    query = (
        select(VersionRow.document, VersionRow.digest, JobRow.printed_at)
        .join(JobRow, VersionRow.id == JobRow.printed_id)
        .where(*_own(scope, job_id))
    )
    with scope.reading() as connection:
        row = connection.execute(query).first()
        return None if row is None or row[2] is None else (row[0], row[1], row[2])


def recent(scope: Scope, most: int) -> Sequence[Row[str, str]]:
    """Ids and names of the jobs last changed."""
    query = select(JobRow.id.label("job_id"), JobRow.name).where(JobRow.workspace == scope.workspace)
    query = query.order_by(JobRow.changed_at.desc(), JobRow.id).limit(most)
    with scope.reading() as connection:
        return connection.execute(query).all()


def names(scope: Scope) -> list[str]:
    """Names of all jobs."""
    with scope.reading() as connection:
        query = select(JobRow.name).where(JobRow.workspace == scope.workspace)
        return list(connection.execute(query.distinct().order_by(JobRow.name)).scalars())


def _add_version(
    connection: Connection,
    scope: Scope,
    job_id: str,
    parent: int | None,
    document: str,
    edit: str | None,
    names: str = "",
) -> int:
    must_fit(document)
    values = {
        "workspace": scope.workspace,
        "actor": scope.actor,
        "job_id": job_id,
        "parent_id": parent,
        "document": document,
        "digest": hashlib.sha256(document.encode()).hexdigest(),
        "edit": edit,
        "names": names,
    }
    return int(connection.execute(insert(VersionRow).values(values).returning(VersionRow.id)).scalar_one())


def done_before(scope: Scope) -> None:
    """Raises Done where what is asked for was done already."""
    if scope.asked:
        with scope.reading() as connection:
            _raise_done(connection, scope)


def _raise_done(connection: Connection, scope: Scope) -> None:
    if scope.asked:
        own = (AskedRow.workspace == scope.workspace, AskedRow.key == scope.asked)
        row = connection.execute(select(AskedRow.job_id, AskedRow.version).where(*own)).first()
        if row is not None:
            raise Done(row.job_id, row.version)


def _once(connection: Connection, scope: Scope, job_id: str, version: int) -> None:
    """Write down, with the change itself, that it was asked for; keys older than a day go.  Raises Done for a second time."""
    if not scope.asked:
        return
    old = AskedRow.made_at < func.now() - text("interval '1 day'")
    connection.execute(delete(AskedRow).where(AskedRow.workspace == scope.workspace, old))
    values = {"workspace": scope.workspace, "key": scope.asked, "job_id": job_id, "version": version}
    made = connection.execute(upsert(AskedRow).values(values).on_conflict_do_nothing().returning(AskedRow.key))
    if made.first() is None:
        _raise_done(connection, scope)


def must_be_there(connection: Connection, scope: Scope, job_id: str) -> None:
    """Raises NotThere where the workspace has no such job."""
    own = (JobRow.workspace == scope.workspace, JobRow.id == job_id)
    if connection.execute(select(JobRow.id).where(*own)).first() is None:
        raise NotThere(job_id)


def create(scope: Scope, job: Job) -> str:
    """Save a new job and return its id; of one that was asked for before, that one's."""
    job_id = secrets.token_hex(6)
    try:
        _create(scope, job_id, job)
    except Done as done:
        return done.job_id
    return job_id


def _create(scope: Scope, job_id: str, job: Job) -> None:
    with scope.writing() as connection:
        _raise_done(connection, scope)
        connection.execute(insert(JobRow).values(workspace=scope.workspace, id=job_id, name=job.name, head_id=0))
        head = _add_version(connection, scope, job_id, None, job.canonical_json(), None)
        connection.execute(update(JobRow).where(*_own(scope, job_id)).values(head_id=head))
        _once(connection, scope, job_id, head)


def _hold(connection: Connection, scope: Scope, job_id: str, base: int) -> None:
    """Lock a job, which must still stand where the caller saw it.  Raises NotThere, Moved, and Done for what was done already."""
    head = connection.execute(select(JobRow.head_id).where(*_own(scope, job_id)).with_for_update()).scalar()
    _raise_done(connection, scope)
    if head is None:
        raise NotThere(job_id)
    if head != base:
        raise Moved(head)


def must_stand(scope: Scope, stored: Stored, base: int) -> None:
    """Raises Moved where a job was moved on since ``base``; Done where it was by this very change."""
    if stored.version != base:
        done_before(scope)
        raise Moved(stored.version)


def _move(connection: Connection, scope: Scope, job_id: str, head: int, name: str) -> None:
    values = {"head_id": head, "name": name, "changed_at": func.clock_timestamp()}
    connection.execute(update(JobRow).where(*_own(scope, job_id)).values(values))


Save = Callable[[Job, str, str], Stored]


@contextmanager
def holding(scope: Scope, job_id: str, base: int) -> Iterator[Save]:
    """Hold a job at ``base`` while something outside is done, and add the next version by what is given.

    Nobody else changes the job meanwhile.  Raises Moved when it no longer stands there.
    """
    with scope.writing() as connection:
        _hold(connection, scope, job_id, base)

        def save(job: Job, edit: str, names: str) -> Stored:
            document = job.canonical_json()
            version = _add_version(connection, scope, job_id, base, document, edit, names)
            _move(connection, scope, job_id, version, job.name)
            _once(connection, scope, job_id, version)
            return replace(_load(connection, scope, job_id, _GLANCE), document=document)

        yield save


def save(scope: Scope, job_id: str, base: int, job: Job, edit: str, names: str = "") -> Stored:
    """Add the next version after ``base``.  Raises Moved when the job no longer stands there."""
    with holding(scope, job_id, base) as keep:
        return keep(job, edit, names)


def save_together(scope: Scope, versions: Sequence[tuple[str, int, Job, str, str]]) -> list[Stored]:
    """The next versions of several jobs (id, base, job, edit, names of posts), all or none.  Raises Moved where one no longer stands there."""
    with scope.writing() as connection:
        for job_id, base, *_ in sorted(versions, key=lambda v: v[0]):
            _hold(connection, scope, job_id, base)
        for job_id, base, job, edit, names in versions:
            version = _add_version(connection, scope, job_id, base, job.canonical_json(), edit, names)
            _move(connection, scope, job_id, version, job.name)
        _once(connection, scope, versions[-1][0], version)
        return [_load(connection, scope, job_id) for job_id, *_ in versions]


def step(scope: Scope, job_id: str, base: int, back: bool) -> Stored:
    """Undo (back) or redo one edit; where there is none the job stays as it is.  Raises Moved, NotThere."""
    with scope.writing() as connection:
        _hold(connection, scope, job_id, base)
        if back:
            query = select(VersionRow.parent_id).where(VersionRow.id == base)
        else:
            later = (VersionRow.workspace == scope.workspace, VersionRow.job_id == job_id, VersionRow.parent_id == base)
            query = select(VersionRow.id).where(*later).order_by(VersionRow.id.desc()).limit(1)
        target = connection.execute(query).scalar()
        if target is not None:
            document = connection.execute(select(VersionRow.document).where(VersionRow.id == target)).scalar_one()
            _move(connection, scope, job_id, target, read_job(document).name)
            _once(connection, scope, job_id, target)
        return _load(connection, scope, job_id)


def remove(scope: Scope, job_id: str) -> None:
    """Remove a job with all its versions."""
    with scope.writing() as connection:
        connection.execute(delete(JobRow).where(*_own(scope, job_id)))


def keep_arrival(scope: Scope, name: str, body: bytes) -> str:
    """Keep a file while its preview is looked at; those older than a day go."""
    arrival = secrets.token_hex(8)
    with scope.writing() as connection:
        connection.execute(delete(ArrivalRow).where(ArrivalRow.arrived_at < func.now() - text("interval '1 day'")))
        connection.execute(insert(ArrivalRow).values(workspace=scope.workspace, id=arrival, name=name, body=body))
    return arrival


def arrival(scope: Scope, arrival_id: str) -> tuple[str, bytes]:
    """Name and bytes of a kept file.  Raises NotThere."""
    name, body = _arrival(scope, arrival_id, ArrivalRow.name, ArrivalRow.body)
    return str(name), bytes(body)


def arrival_name(scope: Scope, arrival_id: str) -> str:
    """Name of a kept file.  Raises NotThere."""
    return str(_arrival(scope, arrival_id, ArrivalRow.name)[0])


def _arrival(scope: Scope, arrival_id: str, *columns: Any) -> Sequence[Any]:
    if not arrival_id.isprintable():  # a NUL can't even be asked for
        raise NotThere(arrival_id)
    with scope.reading() as connection:
        row = connection.execute(
            select(*columns).where(ArrivalRow.workspace == scope.workspace, ArrivalRow.id == arrival_id)
        ).first()
    if row is None:
        raise NotThere(arrival_id)
    return row
