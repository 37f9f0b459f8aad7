"""Accounts: who comes in where and what they may do; sessions, links that open something, the audit trail.

Of every secret a browser or a link holds the database keeps the digest alone.
"""

import hashlib
import secrets
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from sqlalchemy import Connection, Engine, delete, func, insert, select, update

from gnomonic.core.errors import BadInput, GnomonicError
from gnomonic.core.limits import MOST_NAME
from gnomonic.store import passwords
from gnomonic.store.models import AuditRow, JobRow, MemberRow, PassRow, PersonRow, SessionRow, TryRow, WorkspaceRow
from gnomonic.store.scope import Scope

OWNER, PLANNER, CREW, CLIENT, LEFT = "owner", "planner", "crew", "client", "left"
ROLES = (OWNER, PLANNER, CREW)
UNUSED, LONGEST = timedelta(days=30), timedelta(days=180)  # a phone is out for weeks
SEEN_EVERY = timedelta(minutes=5)
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

    ``alone`` where nobody signed in because whoever sits at the machine is the owner; ``session`` the digest of what the browser holds.
    """

    person: str
    name: str
    role: str
    workspace: str
    called: str
    session: str = ""
    job_id: str = ""
    alone: bool = False


@dataclass(frozen=True, slots=True)
class Member:
    """Somebody of a workspace as its page of people shows them."""

    person: str
    name: str
    login: str
    role: str
    since: datetime
    left_at: datetime | None
    chosen: bool
    seen_at: datetime | None


@dataclass(frozen=True, slots=True)
class Session:
    """A browser somebody is signed in with."""

    digest: str
    agent: str
    made_at: datetime
    seen_at: datetime


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


# ---- who asks


def who(engine: Engine, secret: str) -> Who | None:
    """Who holds a session's secret; none where it has ended."""
    digest = digest_of(secret)
    query = (
        select(
            SessionRow.person, PersonRow.name, MemberRow.role, MemberRow.left_at, SessionRow.workspace, WorkspaceRow.name,
            SessionRow.job_id, SessionRow.seen_at < func.now() - SEEN_EVERY,
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
    person, name, role, left_at, workspace, its_name, job_id, stale = row
    if person is not None and role is None:
        return None
    if stale:
        with scope.writing() as connection:
            row_of = update(SessionRow).where(SessionRow.digest == digest)
            lasting = {"until": func.now() + UNUSED} if person is not None else {}
            connection.execute(row_of.values(seen_at=func.now(), **lasting))
    if person is None:
        return Who("", "a client", CLIENT, workspace, its_name, digest, job_id)
    return Who(person, name, LEFT if left_at else role, workspace, its_name, digest)


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


def sign_in(engine: Engine, login: str, password: str, agent: str, address: str) -> str:
    """Sign in with a password; the secret for the browser.  Raises BadInput (``password``), TooOften."""
    login = login.strip().lower()
    must_not_be_too_often(engine, (f"from {address}", SHORT_FROM), (f"as {login}", SHORT_MOST))
    scope = Scope(engine)
    with scope.reading() as connection:
        row = connection.execute(select(PersonRow.id, PersonRow.password).where(PersonRow.login == login)).first()
        of = select(MemberRow.workspace).where(MemberRow.person == (row.id if row else ""))
        workspace = connection.execute(
            of.order_by(MemberRow.left_at.isnot(None), MemberRow.since.desc()).limit(1)
        ).scalar()
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


# ---- people


def _login(text: str) -> str:
    login = text.strip().lower()
    if not 2 <= len(login) <= MOST_NAME or not login.isprintable() or any(c.isspace() for c in login):
        raise BadInput(
            "login",
            f"the name to sign in by is an e-mail address or a word of 2 to {MOST_NAME} characters, without spaces",
        )
    return login


def _name(text: str) -> str:
    name = " ".join(text.split())
    if not name or len(name) > MOST_NAME or not name.isprintable():
        raise BadInput("name", f"a name has 1 to {MOST_NAME} characters")
    return name


def _made_person(connection: Connection, login: str, name: str, password: str) -> str:
    login, name = _login(login), _name(name)
    if password:
        passwords.must_do(password, (login, name))
    if connection.execute(select(PersonRow.id).where(PersonRow.login == login)).first() is not None:
        raise BadInput("login", f"somebody signs in as “{login}” already: take another name to sign in by")
    person = secrets.token_hex(6)
    row = {"id": person, "login": login, "name": name, "password": passwords.hashed(password) if password else ""}
    connection.execute(insert(PersonRow).values(**row))
    return person


def add_person(scope: Scope, login: str, name: str, role: str, password: str = "") -> str:
    """Make somebody an account with a role in a workspace; their id.  Raises BadInput."""
    with scope.writing() as connection:
        person = _made_person(connection, login, name, password)
        connection.execute(insert(MemberRow).values(workspace=scope.workspace, person=person, role=role))
        audit(connection, scope, "made an account", f"{name}, {role}")
    return person


def first_owner(scope: Scope, login: str, name: str, password: str, agent: str) -> str:
    """The first account of all, its owner's; the secret for the browser.  Raises BadInput, also where there is one already."""
    with scope.writing() as connection:
        connection.execute(select(WorkspaceRow).where(WorkspaceRow.workspace == scope.workspace).with_for_update())
        if connection.execute(select(PersonRow.id).limit(1)).first() is not None:
            raise BadInput("login", "there is an account already: its owner invites others")
        person = _made_person(connection, login, name, password)
        connection.execute(insert(MemberRow).values(workspace=scope.workspace, person=person, role=OWNER))
        audit(connection, replace(scope, actor=name), "made the first account", f"{name}, {OWNER}")
        return begin_session(connection, scope.workspace, person, agent)


def members(scope: Scope) -> list[Member]:
    """Everybody of the workspace, also those who left."""
    seen = (
        select(func.max(SessionRow.seen_at))
        .where(SessionRow.person == PersonRow.id, SessionRow.workspace == scope.workspace)
        .scalar_subquery()
    )
    query = select(
        PersonRow.id,
        PersonRow.name,
        PersonRow.login,
        MemberRow.role,
        MemberRow.since,
        MemberRow.left_at,
        PersonRow.password != "",
        seen,
    )
    query = query.join(MemberRow, MemberRow.person == PersonRow.id).where(MemberRow.workspace == scope.workspace)
    with scope.reading() as connection:
        return [
            Member(*row) for row in connection.execute(query.order_by(MemberRow.left_at.isnot(None), MemberRow.since))
        ]


def _change(connection: Connection, scope: Scope, person: str) -> tuple[str, str, bool]:
    """A member's name, role and whether they left, with the workspace held so that two owners can't both go.  Raises NoSuchPass."""
    connection.execute(select(WorkspaceRow).where(WorkspaceRow.workspace == scope.workspace).with_for_update())
    query = select(PersonRow.name, MemberRow.role, MemberRow.left_at).join(MemberRow, MemberRow.person == PersonRow.id)
    row = connection.execute(query.where(MemberRow.workspace == scope.workspace, MemberRow.person == person)).first()
    if row is None:
        raise NoSuchPass("there is nobody here by that name")
    return row.name, row.role, row.left_at is not None


def _one_owner_stays(connection: Connection, scope: Scope, but: str) -> None:
    others = select(func.count()).select_from(MemberRow).where(
        MemberRow.workspace == scope.workspace, MemberRow.role == OWNER, MemberRow.left_at.is_(None), MemberRow.person != but
    )  # fmt: skip
    if not connection.execute(others).scalar_one():
        raise BadInput("role", "this is the last owner: make somebody else an owner first")


def set_role(scope: Scope, person: str, role: str) -> None:
    """Give a member a role, also one who left.  Raises BadInput for the last owner, NoSuchPass."""
    if role not in ROLES:
        raise BadInput("role", f"a role is one of {', '.join(ROLES)}")
    with scope.writing() as connection:
        name, was, left = _change(connection, scope, person)
        if was == OWNER and role != OWNER and not left:
            _one_owner_stays(connection, scope, person)
        own = (MemberRow.workspace == scope.workspace, MemberRow.person == person)
        connection.execute(update(MemberRow).where(*own).values(role=role, left_at=None))
        audit(connection, scope, "gave a role", f"{name}: {role}{' again' if left else f' (was {was})'}")


def take_away(scope: Scope, person: str) -> None:
    """Take a member's role away: what their phone still holds can be delivered, and waits for an owner.  Raises BadInput, NoSuchPass."""
    with scope.writing() as connection:
        name, was, left = _change(connection, scope, person)
        if left:
            return
        if was == OWNER:
            _one_owner_stays(connection, scope, person)
        own = (MemberRow.workspace == scope.workspace, MemberRow.person == person)
        connection.execute(update(MemberRow).where(*own).values(left_at=func.now()))
        audit(connection, scope, "took a role away", f"{name}: was {was}")


def login_of(engine: Engine, person: str) -> str:
    """The name somebody signs in by."""
    with Scope(engine).reading() as connection:
        return connection.execute(select(PersonRow.login).where(PersonRow.id == person)).scalar_one()


def found_by(engine: Engine, login: str) -> tuple[str, str] | None:
    """Who signs in by a name, and a workspace they are or were in."""
    query = select(PersonRow.id, MemberRow.workspace).join(MemberRow, MemberRow.person == PersonRow.id)
    with Scope(engine).reading() as connection:
        row = connection.execute(query.where(PersonRow.login == login.strip().lower()).limit(1)).first()
    return (row.id, row.workspace) if row else None


def set_password(engine: Engine, found: Who, old: str, new: str) -> None:
    """Change one's own password; every other session ends.  Raises BadInput (``old``, ``password``), TooOften."""
    must_not_be_too_often(engine, (f"password of {found.person}", SHORT_MOST))
    scope = Scope(engine, found.workspace, found.name)
    with scope.reading() as connection:
        row = connection.execute(select(PersonRow.password, PersonRow.login).where(PersonRow.id == found.person)).one()
    if not passwords.fits(old, row.password)[0]:
        raise BadInput("old", "the password you have now is another")
    passwords.must_do(new, (row.login, found.name))
    kept = passwords.hashed(new)
    with scope.writing() as connection:
        connection.execute(update(PersonRow).where(PersonRow.id == found.person).values(password=kept))
        connection.execute(
            delete(SessionRow).where(SessionRow.person == found.person, SessionRow.digest != found.session)
        )
        audit(connection, scope, "changed the password")


# ---- links that open something


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
    return give_pass(scope, "join", INVITED, role=role, whom=_name(whom))


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


def passes(scope: Scope) -> list[Pass]:
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
        person = _made_person(connection, login, name, password or "?")
        connection.execute(insert(MemberRow).values(workspace=found.workspace, person=person, role=found.role))
        _used(connection, found.digest)
        audit(
            connection,
            Scope(engine, found.workspace, name),
            "came in by invitation",
            f"{name}, {found.role}, asked by {found.made_by}",
        )
        return begin_session(connection, found.workspace, person, agent)


def join_as(engine: Engine, secret: str, asks: Who) -> None:
    """Take an invitation up with the account one has: the session works there from now on.  Raises NoSuchPass."""
    with Scope(engine).writing() as connection:
        found = opened(engine, secret, "join", connection)
        own = (MemberRow.workspace == found.workspace, MemberRow.person == asks.person)
        again = update(MemberRow).where(*own, MemberRow.left_at.isnot(None)).values(role=found.role, left_at=None)
        there = connection.execute(select(MemberRow.role).where(*own)).first()
        if there is None:
            connection.execute(insert(MemberRow).values(workspace=found.workspace, person=asks.person, role=found.role))
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
    """Choose a new password by a link; every session before ends.  Raises NoSuchPass, BadInput."""
    with Scope(engine).writing() as connection:
        found = opened(engine, secret, "renew", connection)
        row = connection.execute(select(PersonRow.login, PersonRow.name).where(PersonRow.id == found.person)).one()
        passwords.must_do(password or "?", (row.login, row.name))
        connection.execute(
            update(PersonRow).where(PersonRow.id == found.person).values(password=passwords.hashed(password))
        )
        connection.execute(delete(SessionRow).where(SessionRow.person == found.person))
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
