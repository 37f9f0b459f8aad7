"""Links that open something: invitations, new passwords, a client's look at a job.  Their digests alone are kept."""

import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import Connection, Engine, delete, func, insert, select, update

from gnomonic.core.errors import BadInput
from gnomonic.store import passwords
from gnomonic.store.accounts import INVITED, RENEWED, ROLES, NoSuchPass, Who, audit, begin_session, digest_of, places_of
from gnomonic.store.models import JobRow, MemberRow, PasskeyRow, PassRow, PersonRow, SessionRow, WorkspaceRow
from gnomonic.store.people import join_in, made_person, members, name_of
from gnomonic.store.scope import Scope


@dataclass(frozen=True, slots=True)
class Pass:
    """A link that is open: an invitation, or a client's look at a job."""

    digest: str
    kind: str
    role: str
    whom: str
    job_id: str
    made_by: str
    until: datetime


def give_pass(scope: Scope, kind: str, lasts: timedelta, **more: str) -> str:
    """A link's secret: to join in a role, to choose a new password (renew), to look at a job.  Raises BadInput."""
    secret = secrets.token_urlsafe(32)
    with scope.writing() as connection:
        row = {"digest": digest_of(secret), "workspace": scope.workspace, "kind": kind, "made_by": scope.actor, **more}
        connection.execute(insert(PassRow).values(until=func.now() + lasts, **row))
        words = {"join": "invited", "renew": "gave a link for a new password", "look": "gave a client's link"}
        audit(connection, scope, words[kind], ", ".join(v for k, v in more.items() if k != "person" and v))
    return secret


def invite(scope: Scope, role: str, whom: str) -> str:
    """An invitation's secret.  Raises BadInput."""
    if role not in ROLES:
        raise BadInput("role", f"a role is one of {', '.join(ROLES)}")
    return give_pass(scope, "join", INVITED, role=role, whom=name_of(whom))


def renewing(scope: Scope, person: str, anywhere: bool = False) -> str:
    """The secret of a link by which a member chooses a new password.  Raises NoSuchPass; BadInput for one who works in another workspace
    too (unless ``anywhere``): an owner of one would come into the other by it."""
    found = next((m for m in members(scope) if m.person == person), None)
    if found is None:
        raise NoSuchPass("there is nobody here by that name")
    if not anywhere and any(key != scope.workspace for key, _ in places_of(scope.engine, person)):
        raise BadInput(
            "person",
            f"{found.name} works in another workspace too: whoever runs Gnomonic gives the link, with ./gnomonic renew",
        )
    return give_pass(scope, "renew", RENEWED, person=person, whom=found.name)


def open_ones(scope: Scope) -> list[Pass]:
    """Invitations and clients' links that are open."""
    query = select(
        PassRow.digest, PassRow.kind, PassRow.role, PassRow.whom, PassRow.job_id, PassRow.made_by, PassRow.until
    )
    query = query.where(
        PassRow.workspace == scope.workspace,
        PassRow.kind != "renew",
        PassRow.until > func.now(),
        PassRow.used_at.is_(None),
    )
    with scope.reading() as connection:
        return [Pass(*row) for row in connection.execute(query.order_by(PassRow.made_at.desc()))]


def end_pass(scope: Scope, digest: str) -> None:
    """Take a link back; who came in by it is out."""
    own = (PassRow.workspace == scope.workspace, PassRow.digest == digest)
    with scope.writing() as connection:
        gone = connection.execute(delete(PassRow).where(*own).returning(PassRow.kind, PassRow.whom)).first()
        if gone is not None:
            connection.execute(
                delete(SessionRow).where(SessionRow.workspace == scope.workspace, SessionRow.given_by == digest)
            )
            audit(connection, scope, "took a link back", f"{gone.kind}, {gone.whom}")


@dataclass(frozen=True, slots=True)
class Opened:
    """What a link opens."""

    digest: str
    kind: str
    workspace: str
    called: str
    role: str
    person: str
    whom: str
    job_id: str
    made_by: str


def opened(engine: Engine, secret: str, kind: str, connection: Connection | None = None) -> Opened:
    """What a link opens, if it still does.  Raises NoSuchPass."""
    query = select(
        PassRow.digest,
        PassRow.kind,
        PassRow.workspace,
        WorkspaceRow.name,
        PassRow.role,
        PassRow.person,
        PassRow.whom,
        PassRow.job_id,
        PassRow.made_by,
    )
    query = query.join(WorkspaceRow, WorkspaceRow.workspace == PassRow.workspace)
    query = query.where(
        PassRow.digest == digest_of(secret), PassRow.kind == kind, PassRow.until > func.now(), PassRow.used_at.is_(None)
    )
    if connection is not None:
        row = connection.execute(query.with_for_update(of=PassRow)).first()
    else:
        with Scope(engine).reading() as reading:
            row = reading.execute(query).first()
    if row is None:
        raise NoSuchPass(
            "this link opens nothing any more: it was used, it ran out, or it was taken back. Ask for another"
        )
    return Opened(*(value or "" for value in row))


def _used(connection: Connection, digest: str) -> None:
    connection.execute(update(PassRow).where(PassRow.digest == digest).values(used_at=func.now()))


def join(engine: Engine, secret: str, login: str, name: str, password: str, agent: str) -> str:
    """Take an invitation up with a new account; the secret for the browser.  Raises NoSuchPass, BadInput."""
    with Scope(engine).writing() as connection:
        found = opened(engine, secret, "join", connection)
        person = made_person(connection, login, name, password or "?")
        join_in(connection, found.workspace, person, found.role)
        _used(connection, found.digest)
        audit(
            connection,
            Scope(engine, found.workspace, name),
            "came in by invitation",
            f"{name}, {found.role}, asked by {found.made_by}",
        )
        return begin_session(connection, found.workspace, person, agent)


def join_as(engine: Engine, secret: str, asks: Who) -> None:
    """Take an invitation up with the account one has: the session works there from now on.  Raises NoSuchPass, BadInput."""
    with Scope(engine).writing() as connection:
        found = opened(engine, secret, "join", connection)
        own = (MemberRow.workspace == found.workspace, MemberRow.person == asks.person)
        again = update(MemberRow).where(*own, MemberRow.left_at.isnot(None)).values(role=found.role, left_at=None)
        there = connection.execute(select(MemberRow.role).where(*own)).first()
        if there is None:
            join_in(connection, found.workspace, asks.person, found.role)
        else:
            connection.execute(again)
        _used(connection, found.digest)
        audit(
            connection, Scope(engine, found.workspace, asks.name), "came in by invitation", f"{asks.name}, {found.role}"
        )
        connection.execute(
            update(SessionRow).where(SessionRow.digest == asks.session).values(workspace=found.workspace)
        )


def renew(engine: Engine, secret: str, password: str, agent: str) -> str:
    """Choose a new password by a link; every session before ends, every passkey goes.  Raises NoSuchPass, BadInput."""
    with Scope(engine).writing() as connection:
        found = opened(engine, secret, "renew", connection)
        row = connection.execute(select(PersonRow.login, PersonRow.name).where(PersonRow.id == found.person)).one()
        passwords.must_do(password or "?", (row.login, row.name))
        connection.execute(
            update(PersonRow).where(PersonRow.id == found.person).values(password=passwords.hashed(password))
        )
        connection.execute(delete(SessionRow).where(SessionRow.person == found.person))
        connection.execute(
            delete(PasskeyRow).where(PasskeyRow.person == found.person)
        )  # the device may be what was lost
        _used(connection, found.digest)
        audit(
            connection,
            Scope(engine, found.workspace, row.name),
            "chose a new password by a link",
            f"given by {found.made_by or 'the command line'}",
        )
        return begin_session(connection, found.workspace, found.person, agent)


def look(engine: Engine, secret: str, agent: str) -> tuple[str, str]:
    """Come in as a client: the secret for the browser and the job that may be looked at.  Raises NoSuchPass."""
    with Scope(engine).writing() as connection:
        found = opened(engine, secret, "look", connection)
        there = (JobRow.workspace == found.workspace, JobRow.id == found.job_id)
        if connection.execute(select(JobRow.id).where(*there)).first() is None:
            raise NoSuchPass("the job this link showed was removed")
        made = begin_session(connection, found.workspace, None, agent, job_id=found.job_id, given_by=found.digest)
        return made, found.job_id
