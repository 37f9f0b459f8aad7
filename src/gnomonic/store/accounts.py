"""Accounts: who comes in where and what they may do; sessions, links that open something, the audit trail.

Of every secret a browser or a link holds the database keeps the digest alone.
"""

import hashlib
import secrets
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import Connection, Engine, delete, func, insert, select, update

from gnomonic.core.errors import BadInput, GnomonicError
from gnomonic.store import passwords
from gnomonic.store.models import AuditRow, MemberRow, PersonRow, SessionRow, TryRow, WorkspaceRow
from gnomonic.store.scope import Scope

OWNER, PLANNER, CREW, CLIENT, LEFT = "owner", "planner", "crew", "client", "left"
ROLES = (OWNER, PLANNER, CREW)
UNUSED, LONGEST = timedelta(days=30), timedelta(days=180)  # a phone is out for weeks
SEEN_EVERY = timedelta(minutes=5)
PROVED = timedelta(minutes=30)  # how long one need not say again who one is before what matters
INVITED, RENEWED, LOOKED = timedelta(days=7), timedelta(days=1), timedelta(days=90)
SHORT, SHORT_MOST, SHORT_FROM = timedelta(minutes=15), 10, 60  # tries to sign in: with one name, from one address
MOST_AUDIT = 200


class TooOften(GnomonicError):
    """Something was tried more often than is let."""


class NoSuchPass(GnomonicError):
    """A link that opens nothing: used, run out, or never given."""


@dataclass(frozen=True, slots=True)
class Who:
    """Who asks: a person in a role in a workspace (``left``: one whose role was taken away), or a client who may look at one job.

    ``alone`` where nobody signed in because whoever sits at the machine is the owner; ``session`` the digest of what the browser holds;
    ``proved`` where its password or passkey was asked for lately.
    """

    person: str
    name: str
    role: str
    workspace: str
    called: str
    session: str = ""
    job_id: str = ""
    alone: bool = False
    proved: bool = False


@dataclass(frozen=True, slots=True)
class Session:
    """A browser somebody is signed in with."""

    digest: str
    agent: str
    made_at: datetime
    seen_at: datetime


@dataclass(frozen=True, slots=True)
class Audited:
    """One line of the audit trail."""

    at: datetime
    actor: str
    what: str
    about: str


def digest_of(secret: str) -> str:
    """What is kept of a secret that is long and random."""
    return hashlib.sha256(secret.encode()).hexdigest()


def audit(connection: Connection, scope: Scope, what: str, about: str = "") -> None:
    """Write a line of the audit trail, in the transaction of what it tells."""
    connection.execute(
        insert(AuditRow).values(workspace=scope.workspace, actor=scope.actor, what=what, about=about[:400])
    )


def audited(scope: Scope) -> list[Audited]:
    """The audit trail, the last first."""
    query = select(AuditRow.at, AuditRow.actor, AuditRow.what, AuditRow.about).where(
        AuditRow.workspace == scope.workspace
    )
    with scope.reading() as connection:
        return [Audited(*row) for row in connection.execute(query.order_by(AuditRow.n.desc()).limit(MOST_AUDIT))]


def anybody(engine: Engine) -> bool:
    """Whether there is any account at all."""
    with Scope(engine).reading() as connection:
        return connection.execute(select(PersonRow.id).limit(1)).first() is not None


def called(scope: Scope) -> str:
    """What the workspace is called."""
    query = select(WorkspaceRow.name).where(WorkspaceRow.workspace == scope.workspace)
    with scope.reading() as connection:
        return connection.execute(query).scalar_one_or_none() or scope.workspace


def make_workspace(engine: Engine, workspace: str, name: str) -> None:
    """Make a workspace, or call one that is there something else."""
    with Scope(engine, workspace).writing() as connection:
        row = update(WorkspaceRow).where(WorkspaceRow.workspace == workspace).values(name=name)
        if not connection.execute(row).rowcount:
            connection.execute(insert(WorkspaceRow).values(workspace=workspace, name=name))


def who(engine: Engine, secret: str) -> Who | None:
    """Who holds a session's secret; none where it has ended."""
    digest = digest_of(secret)
    query = (
        select(
            SessionRow.person, PersonRow.name, MemberRow.role, MemberRow.left_at, SessionRow.workspace, WorkspaceRow.name,
            SessionRow.job_id, SessionRow.seen_at < func.now() - SEEN_EVERY, SessionRow.proved_at > func.now() - PROVED,
        )
        .join(WorkspaceRow, WorkspaceRow.workspace == SessionRow.workspace)
        .outerjoin(PersonRow, PersonRow.id == SessionRow.person)
        .outerjoin(MemberRow, (MemberRow.person == SessionRow.person) & (MemberRow.workspace == SessionRow.workspace))
        .where(SessionRow.digest == digest, SessionRow.until > func.now(), SessionRow.made_at > func.now() - LONGEST)
    )  # fmt: skip
    scope = Scope(engine)
    with scope.reading() as connection:
        row = connection.execute(query).first()
    if row is None:
        return None
    person, name, role, left_at, workspace, its_name, job_id, stale, proved = row
    if person is not None and role is None:
        return None
    if stale:
        with scope.writing() as connection:
            row_of = update(SessionRow).where(SessionRow.digest == digest)
            lasting = {"until": func.now() + UNUSED} if person is not None else {}
            connection.execute(row_of.values(seen_at=func.now(), **lasting))
    if person is None:
        return Who("", "a client", CLIENT, workspace, its_name, digest, job_id)
    return Who(person, name, LEFT if left_at else role, workspace, its_name, digest, proved=proved)


def begin_session(connection: Connection, workspace: str, person: str | None, agent: str, **more: str) -> str:
    """Sign somebody in; the secret their browser is to hold."""
    secret = secrets.token_urlsafe(32)
    until = func.now() + (UNUSED if person else LOOKED)
    row = {
        "digest": digest_of(secret),
        "workspace": workspace,
        "person": person,
        "agent": agent[:200],
        "until": until,
        **more,
    }
    connection.execute(insert(SessionRow).values(**row))
    connection.execute(delete(SessionRow).where(SessionRow.until < func.now()))
    return secret


def must_not_be_too_often(engine: Engine, *keys: tuple[str, int]) -> None:
    """Count a try under each key.  Raises TooOften where there were so many in the last quarter of an hour."""
    with Scope(engine).writing() as connection:
        connection.execute(delete(TryRow).where(TryRow.at < func.now() - SHORT))
        for key, most in keys:
            digest = digest_of(key)
            if (
                connection.execute(select(func.count()).select_from(TryRow).where(TryRow.key == digest)).scalar_one()
                >= most
            ):
                raise TooOften("that was tried too often: wait a quarter of an hour, then try again")
            connection.execute(insert(TryRow).values(key=digest))


def where_to(connection: Connection, person: str) -> str | None:
    """The workspace somebody comes into: the one they joined last, before those they left."""
    of = select(MemberRow.workspace).where(MemberRow.person == person)
    return connection.execute(of.order_by(MemberRow.left_at.isnot(None), MemberRow.since.desc()).limit(1)).scalar()


def sign_in(engine: Engine, login: str, password: str, agent: str, address: str) -> str:
    """Sign in with a password; the secret for the browser.  Raises BadInput (``password``), TooOften."""
    login = login.strip().lower()
    must_not_be_too_often(engine, (f"from {address}", SHORT_FROM), (f"as {login}", SHORT_MOST))
    scope = Scope(engine)
    with scope.reading() as connection:
        row = connection.execute(select(PersonRow.id, PersonRow.password).where(PersonRow.login == login)).first()
        workspace = where_to(connection, row.id if row else "")
    right, anew = passwords.fits(password, row.password if row else "")
    if row is None or not right or workspace is None:
        raise BadInput("password", "that name and that password don't go together")
    with scope.writing() as connection:
        if anew:
            connection.execute(update(PersonRow).where(PersonRow.id == row.id).values(password=anew))
        connection.execute(delete(TryRow).where(TryRow.key == digest_of(f"as {login}")))
        secret = begin_session(connection, workspace, row.id, agent)
        audit(connection, Scope(engine, workspace, login), "signed in", agent)
    return secret


def proves_anew(engine: Engine, found: Who, password: str) -> str:
    """The name somebody signs in by, where they know their password.  Raises BadInput (``again``), TooOften."""
    must_not_be_too_often(engine, (f"password of {found.person}", SHORT_MOST))
    with Scope(engine).reading() as connection:
        row = connection.execute(select(PersonRow.password, PersonRow.login).where(PersonRow.id == found.person)).one()
    if not passwords.fits(password, row.password)[0]:
        raise BadInput("again", "the password you have now is another")
    return str(row.login)


def proved(engine: Engine, found: Who) -> None:
    """Have it kept that a session has just shown who holds it."""
    with Scope(engine, found.workspace, found.name).writing() as connection:
        connection.execute(update(SessionRow).where(SessionRow.digest == found.session).values(proved_at=func.now()))
        connection.execute(delete(TryRow).where(TryRow.key == digest_of(f"password of {found.person}")))


def sign_out(engine: Engine, found: Who, everywhere: bool = False) -> int:
    """End the session, or every session of the person; how many ended."""
    scope = Scope(engine, found.workspace, found.name)
    which = SessionRow.person == found.person if everywhere and found.person else SessionRow.digest == found.session
    with scope.writing() as connection:
        audit(connection, scope, "signed out everywhere" if everywhere else "signed out")
        return connection.execute(delete(SessionRow).where(which)).rowcount


def sessions_of(engine: Engine, person: str) -> list[Session]:
    """The browsers somebody is signed in with, the last seen first."""
    query = select(SessionRow.digest, SessionRow.agent, SessionRow.made_at, SessionRow.seen_at)
    query = query.where(SessionRow.person == person, SessionRow.until > func.now()).order_by(SessionRow.seen_at.desc())
    with Scope(engine).reading() as connection:
        return [Session(*row) for row in connection.execute(query)]


def places_of(engine: Engine, person: str) -> list[tuple[str, str]]:
    """The workspaces somebody may come into: key and name."""
    query = select(MemberRow.workspace, WorkspaceRow.name).join(
        WorkspaceRow, WorkspaceRow.workspace == MemberRow.workspace
    )
    with Scope(engine).reading() as connection:
        return [(w, n) for w, n in connection.execute(query.where(MemberRow.person == person, MemberRow.left_at.is_(None)).order_by(WorkspaceRow.name))]  # fmt: skip


def go_to(engine: Engine, found: Who, workspace: str) -> None:
    """Have a session work in another of the person's workspaces.  Raises NoSuchPass where they have no role there."""
    if workspace not in dict(places_of(engine, found.person)):
        raise NoSuchPass("you have no role there")
    with Scope(engine, workspace, found.name).writing() as connection:
        connection.execute(update(SessionRow).where(SessionRow.digest == found.session).values(workspace=workspace))
