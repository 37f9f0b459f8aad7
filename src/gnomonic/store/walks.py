"""Walks with a receiver: every fix is kept as it came."""

import json
import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import ColumnElement, Engine, delete, func, insert, select, text, update

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.walking import Fix, Stop, Verdict
from gnomonic.core.limits import MOST_A_PAGE, MOST_FIXES, MOST_WALKS
from gnomonic.store.jobs import NotThere
from gnomonic.store.models import FixRow, MarkRow, WalkRow
from gnomonic.store.scope import Scope


@dataclass(frozen=True, slots=True)
class Judged:
    """A numbered fix with its verdict."""

    n: int
    fix: Fix
    verdict: Verdict
    shown: bool


@dataclass(frozen=True, slots=True)
class Listed:
    """A walk in the list; ``wanted`` while it is being recorded, ``ended`` when it was brought in."""

    walk_id: str
    source: str
    started_at: datetime
    wanted: bool
    ended: bool
    fixes: int
    marks: int


@dataclass(frozen=True, slots=True)
class Wanted:
    """A walk that is to be recorded, with an order to the recorder where there is one (JSON)."""

    walk_id: str
    source: str
    started_at: datetime
    manners: str
    order: str


@dataclass(frozen=True, slots=True)
class Walk:
    """A walk as it stands; what the recorder ``told`` last, ``fresh`` where that is of now."""

    walk_id: str
    source: str
    wanted: bool
    ended: bool
    told: dict[str, Any]
    fresh: bool


def begin(scope: Scope, source: str, manners: str = "", wanted: bool = True) -> str:
    """Start a walk and return its id.  Raises BadInput (``walk``) where the workspace holds as many as it may."""
    walk_id = secrets.token_hex(6)
    with scope.writing() as connection:
        held = select(func.count()).select_from(WalkRow).where(WalkRow.workspace == scope.workspace)
        if connection.execute(held).scalar_one() >= MOST_WALKS:
            raise BadInput("walk", f"there are {MOST_WALKS} walks already: throw some away first")
        values = {"workspace": scope.workspace, "id": walk_id, "source": source, "manners": manners, "wanted": wanted}
        connection.execute(insert(WalkRow).values(values))
    return walk_id


def _own(scope: Scope, walk_id: str) -> tuple[ColumnElement[bool], ...]:
    return (WalkRow.workspace == scope.workspace, WalkRow.id == walk_id)


def is_there(scope: Scope, walk_id: str) -> bool:
    """Whether a walk is there."""
    with scope.reading() as connection:
        return connection.execute(select(WalkRow.id).where(*_own(scope, walk_id))).first() is not None


def there(scope: Scope, walk_id: str) -> Walk:
    """A walk.  Raises NotThere."""
    fresh = func.coalesce(WalkRow.told_at > func.now() - text("interval '5 seconds'"), False)
    query = select(WalkRow.id, WalkRow.source, WalkRow.wanted, WalkRow.ended, WalkRow.told, fresh)
    with scope.reading() as connection:
        row = connection.execute(query.where(*_own(scope, walk_id))).first() if walk_id.isprintable() else None
    if row is None:
        raise NotThere(walk_id)
    return Walk(row[0], row[1], row[2], row[3], json.loads(row[4]) if row[4] else {}, row[5])


def recording_in(engine: Engine) -> set[str]:
    """The workspaces that have a walk to be recorded."""
    with Scope(engine).reading() as connection:
        return set(connection.execute(select(WalkRow.workspace).where(WalkRow.wanted).distinct()).scalars())


def wanted(scope: Scope) -> list[Wanted]:
    """Every walk that is to be recorded, the oldest first."""
    query = select(WalkRow.id, WalkRow.source, WalkRow.started_at, WalkRow.manners, WalkRow.order)
    query = query.where(WalkRow.workspace == scope.workspace, WalkRow.wanted).order_by(WalkRow.started_at)
    with scope.reading() as connection:
        return [Wanted(*row) for row in connection.execute(query)]


def want(scope: Scope, walk_id: str, wanted: bool, ended: bool = False) -> None:
    """Have a walk recorded, or no more; ``ended`` when it was brought in."""
    with scope.writing() as connection:
        values = {"wanted": wanted, "ended": ended, "order": ""}
        connection.execute(update(WalkRow).where(*_own(scope, walk_id)).values(values))


def give(scope: Scope, walk_id: str, order: str, anyway: bool = False) -> bool:
    """Give the recorder an order; False where it has not taken up the last one."""
    with scope.writing() as connection:
        free = () if anyway else (WalkRow.order == "",)
        done = connection.execute(update(WalkRow).where(*_own(scope, walk_id), *free).values(order=order))
        return bool(done.rowcount)


def tell(scope: Scope, walk_id: str, told: dict[str, Any], taken: str = "") -> None:
    """What the recorder tells of a walk; ``taken`` is the order it took up.  The last answer stays until the next."""
    with scope.writing() as connection:
        if "answer" not in told:
            before = connection.execute(select(WalkRow.told).where(*_own(scope, walk_id))).scalar()
            answer = json.loads(before).get("answer") if before else None
            told = told | ({"answer": answer} if answer else {})
        values: dict[str, Any] = {"told": json.dumps(told), "told_at": func.now()}
        connection.execute(update(WalkRow).where(*_own(scope, walk_id)).values(values))
        if taken:
            connection.execute(update(WalkRow).where(*_own(scope, walk_id), WalkRow.order == taken).values(order=""))


def listed(scope: Scope, page: int = 1) -> Sequence[Listed]:
    """A page of the walks, the newest first."""
    fixes = (
        select(func.coalesce(func.max(FixRow.n) + 1, 0))
        .where(FixRow.workspace == WalkRow.workspace, FixRow.walk_id == WalkRow.id)
        .scalar_subquery()
    )
    marks = (
        select(func.count())
        .where(MarkRow.workspace == WalkRow.workspace, MarkRow.walk_id == WalkRow.id)
        .scalar_subquery()
    )
    query = select(WalkRow.id, WalkRow.source, WalkRow.started_at, WalkRow.wanted, WalkRow.ended, fixes, marks)
    query = query.where(WalkRow.workspace == scope.workspace).order_by(WalkRow.started_at.desc())
    with scope.reading() as connection:
        rows = connection.execute(query.limit(MOST_A_PAGE + 1).offset((page - 1) * MOST_A_PAGE))
        return [Listed(*row) for row in rows]


def keep(scope: Scope, walk_id: str, judged: Sequence[Judged]) -> None:
    """Save fixes, all of them or none."""
    rows = [
        {
            "workspace": scope.workspace, "walk_id": walk_id, "n": j.n, "t_s": j.fix.t_s, "lon": j.fix.lon_deg, "lat": j.fix.lat_deg, "h_m": j.fix.h_m,
            "good_m": j.fix.good_m, "quality": j.fix.quality, "satellites": j.fix.satellites, "verdict": j.verdict,
            "shown": j.shown,
        }
        for j in judged
    ]  # fmt: skip
    if rows:
        with scope.writing() as connection:
            connection.execute(insert(FixRow), rows)


def count(scope: Scope, walk_id: str) -> dict[str, int]:
    """Fixes saved, by verdict; ``next`` is the number the next one takes."""
    query = select(FixRow.verdict, func.count(), func.max(FixRow.n)).where(
        FixRow.workspace == scope.workspace, FixRow.walk_id == walk_id
    )
    with scope.reading() as connection:
        rows = list(connection.execute(query.group_by(FixRow.verdict)))
    counts = {verdict: number for verdict, number, _ in rows}
    return {"good": 0, "jump": 0, "nofix": 0, **counts, "next": max((last for *_, last in rows), default=-1) + 1}


def _fix(row: Any) -> Fix:
    return Fix(row.t_s, row.lon, row.lat, row.h_m, row.quality, row.satellites, 0.0, row.good_m)


def trail(scope: Scope, walk_id: str, after: int = -1, limit: int = MOST_FIXES) -> list[Judged]:
    """The fixes worth drawing, in order, from beyond a number."""
    query = (
        select(FixRow)
        .where(FixRow.workspace == scope.workspace, FixRow.walk_id == walk_id, FixRow.shown, FixRow.n > after)
        .order_by(FixRow.n)
    )
    with scope.reading() as connection:
        rows = connection.execute(query.limit(limit))
        return [Judged(r.n, _fix(r), r.verdict, True) for r in rows]


def between(scope: Scope, walk_id: str, from_n: int, to_n: int) -> list[Judged]:
    """All fixes with numbers in a range, ends counted."""
    query = (
        select(FixRow)
        .where(FixRow.workspace == scope.workspace, FixRow.walk_id == walk_id, FixRow.n.between(from_n, to_n))
        .order_by(FixRow.n)
    )
    with scope.reading() as connection:
        return [Judged(r.n, _fix(r), r.verdict, r.shown) for r in connection.execute(query)]


def mark(scope: Scope, walk_id: str, kind: str, name: str, stop: Stop, from_n: int, to_n: int) -> None:
    """Save an averaged stop."""
    values = {
        "workspace": scope.workspace, "walk_id": walk_id, "kind": kind, "name": name, "lon": stop.lon_deg, "lat": stop.lat_deg, "h_m": stop.h_m,
        "good_m": stop.good_m, "scatter_m": stop.scatter_m, "used": stop.used, "left_out": stop.left_out,
        "from_n": from_n, "to_n": to_n,
    }  # fmt: skip
    with scope.writing() as connection:
        connection.execute(insert(MarkRow).values(values))


def marks(scope: Scope, walk_id: str) -> list[dict[str, Any]]:
    """What was marked, in order."""
    query = (
        select(MarkRow.__table__)
        .where(MarkRow.workspace == scope.workspace, MarkRow.walk_id == walk_id)
        .order_by(MarkRow.id)
    )
    with scope.reading() as connection:
        return [dict(row) for row in connection.execute(query).mappings()]


def unmark(scope: Scope, walk_id: str, mark_id: int) -> None:
    """Take a mark back.  Raises NotThere."""
    with scope.writing() as connection:
        gone = connection.execute(
            delete(MarkRow).where(
                MarkRow.workspace == scope.workspace, MarkRow.walk_id == walk_id, MarkRow.id == mark_id
            )
        )
        if not gone.rowcount:
            raise NotThere(str(mark_id))


def remove(scope: Scope, walk_id: str) -> None:
    """Remove a walk with all its fixes."""
    with scope.writing() as connection:
        connection.execute(delete(WalkRow).where(WalkRow.workspace == scope.workspace, WalkRow.id == walk_id))
