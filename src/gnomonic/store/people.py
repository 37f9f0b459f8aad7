"""People and what they may do in a workspace: accounts made, roles given and taken away, passwords changed."""

import secrets
from dataclasses import dataclass, replace
from datetime import datetime

from sqlalchemy import Connection, Engine, delete, func, insert, select, update

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import MOST_NAME
from gnomonic.store import passwords
from gnomonic.store.accounts import (
    OWNER,
    ROLES,
    NoSuchPass,
    Who,
    audit,
    begin_session,
    proves_anew,
)
from gnomonic.store.models import MemberRow, PersonRow, SessionRow, WorkspaceRow
from gnomonic.store.scope import Scope


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


def _login(text: str) -> str:
    login = text.strip().lower()
    if not 2 <= len(login) <= MOST_NAME or not login.isprintable() or any(c.isspace() for c in login):
        raise BadInput(
            "login",
            f"the name to sign in by is an e-mail address or a word of 2 to {MOST_NAME} characters, without spaces",
        )
    return login


def name_of(text: str) -> str:
    """A name as it is kept.  Raises BadInput (``name``)."""
    name = " ".join(text.split())
    if not name or len(name) > MOST_NAME or not name.isprintable():
        raise BadInput("name", f"a name has 1 to {MOST_NAME} characters")
    return name


def made_person(connection: Connection, login: str, name: str, password: str) -> str:
    """An account, without a role yet; its id.  Raises BadInput."""
    login, name = _login(login), name_of(name)
    if password:
        passwords.must_do(password, (login, name))
    if connection.execute(select(PersonRow.id).where(PersonRow.login == login)).first() is not None:
        raise BadInput("login", f"somebody signs in as “{login}” already: take another name to sign in by")
    person = secrets.token_hex(6)
    row = {"id": person, "login": login, "name": name, "password": passwords.hashed(password) if password else ""}
    connection.execute(insert(PersonRow).values(**row))
    return person


def join_in(connection: Connection, workspace: str, person: str, role: str) -> None:
    """Give somebody who is not of a workspace a role in it.  Raises BadInput (``name``) where somebody there is called the same: what
    is written down is told apart by the name."""
    name = connection.execute(select(PersonRow.name).where(PersonRow.id == person)).scalar_one()
    same = select(PersonRow.id).join(MemberRow, MemberRow.person == PersonRow.id)
    same = same.where(MemberRow.workspace == workspace, func.lower(PersonRow.name) == name.lower())
    connection.execute(select(WorkspaceRow).where(WorkspaceRow.workspace == workspace).with_for_update())
    if connection.execute(same.limit(1)).first() is not None:
        raise BadInput("name", f"somebody here is called {name} already: say a name the two can be told apart by")
    connection.execute(insert(MemberRow).values(workspace=workspace, person=person, role=role))


def add_person(scope: Scope, login: str, name: str, role: str, password: str = "") -> str:
    """Make somebody an account with a role in a workspace; their id.  Raises BadInput."""
    with scope.writing() as connection:
        person = made_person(connection, login, name, password)
        join_in(connection, scope.workspace, person, role)
        audit(connection, scope, "made an account", f"{name}, {role}")
    return person


def first_owner(scope: Scope, login: str, name: str, password: str, agent: str) -> str:
    """The first account of all, its owner's; the secret for the browser.  Raises BadInput, also where there is one already."""
    with scope.writing() as connection:
        connection.execute(select(WorkspaceRow).where(WorkspaceRow.workspace == scope.workspace).with_for_update())
        if connection.execute(select(PersonRow.id).limit(1)).first() is not None:
            raise BadInput("login", "there is an account already: its owner invites others")
        person = made_person(connection, login, name, password)
        join_in(connection, scope.workspace, person, OWNER)
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
    """Change one's own password; every other session ends.  Raises BadInput (``again``, ``password``), TooOften."""
    login = proves_anew(engine, found, old)
    passwords.must_do(new, (login, found.name))
    kept, scope = passwords.hashed(new), Scope(engine, found.workspace, found.name)
    with scope.writing() as connection:
        connection.execute(update(PersonRow).where(PersonRow.id == found.person).values(password=kept))
        connection.execute(
            delete(SessionRow).where(SessionRow.person == found.person, SessionRow.digest != found.session)
        )
        audit(connection, scope, "changed the password")
