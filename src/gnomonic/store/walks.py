"""Walks with a receiver: every fix is kept as it came."""

import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import delete, func, insert, select

from gnomonic.core.ground.walking import Fix, Stop, Verdict
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
    """A walk in the list."""

    walk_id: str
    source: str
    started_at: datetime
    fixes: int
    marks: int


def begin(scope: Scope, source: str) -> str:
    """Start a walk and return its id."""
    walk_id = secrets.token_hex(6)
    with scope.engine.begin() as connection:
        connection.execute(insert(WalkRow).values(workspace=scope.workspace, id=walk_id, source=source))
    return walk_id


def there(scope: Scope, walk_id: str) -> WalkRow:
    """A walk.  Raises NotThere."""
    row = None
    if walk_id.isprintable():
        with scope.engine.connect() as connection:
            row = connection.execute(
                select(WalkRow.id, WalkRow.source).where(WalkRow.workspace == scope.workspace, WalkRow.id == walk_id)
            ).first()
    if row is None:
        raise NotThere(walk_id)
    return row  # type: ignore[return-value]


def listed(scope: Scope) -> Sequence[Listed]:
    """All walks, the newest first."""
    fixes = (
        select(func.count())
        .where(FixRow.workspace == WalkRow.workspace, FixRow.walk_id == WalkRow.id)
        .scalar_subquery()
    )
    marks = (
        select(func.count())
        .where(MarkRow.workspace == WalkRow.workspace, MarkRow.walk_id == WalkRow.id)
        .scalar_subquery()
    )
    query = select(WalkRow.id, WalkRow.source, WalkRow.started_at, fixes, marks)
    query = query.where(WalkRow.workspace == scope.workspace).order_by(WalkRow.started_at.desc())
    with scope.engine.connect() as connection:
        return [Listed(*row) for row in connection.execute(query)]


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
        with scope.engine.begin() as connection:
            connection.execute(insert(FixRow), rows)


def count(scope: Scope, walk_id: str) -> dict[str, int]:
    """Fixes saved, by verdict; ``next`` is the number the next one takes."""
    query = select(FixRow.verdict, func.count(), func.max(FixRow.n)).where(
        FixRow.workspace == scope.workspace, FixRow.walk_id == walk_id
    )
    with scope.engine.connect() as connection:
        rows = list(connection.execute(query.group_by(FixRow.verdict)))
    counts = {verdict: number for verdict, number, _ in rows}
    return {"good": 0, "jump": 0, "nofix": 0, **counts, "next": max((last for *_, last in rows), default=-1) + 1}


def _fix(row: Any) -> Fix:
    return Fix(row.t_s, row.lon, row.lat, row.h_m, row.quality, row.satellites, 0.0, row.good_m)


def trail(scope: Scope, walk_id: str, after: int = -1, limit: int = 20_000) -> list[Judged]:
    """The fixes worth drawing, in order, from beyond a number."""
    query = (
        select(FixRow)
        .where(FixRow.workspace == scope.workspace, FixRow.walk_id == walk_id, FixRow.shown, FixRow.n > after)
        .order_by(FixRow.n)
    )
    with scope.engine.connect() as connection:
        rows = connection.execute(query.limit(limit))
        return [Judged(r.n, _fix(r), r.verdict, True) for r in rows]


def between(scope: Scope, walk_id: str, from_n: int, to_n: int) -> list[Judged]:
    """All fixes with numbers in a range, ends counted."""
    query = (
        select(FixRow)
        .where(FixRow.workspace == scope.workspace, FixRow.walk_id == walk_id, FixRow.n.between(from_n, to_n))
        .order_by(FixRow.n)
    )
    with scope.engine.connect() as connection:
        return [Judged(r.n, _fix(r), r.verdict, r.shown) for r in connection.execute(query)]


def mark(scope: Scope, walk_id: str, kind: str, name: str, stop: Stop, from_n: int, to_n: int) -> None:
    """Save an averaged stop."""
    values = {
        "workspace": scope.workspace, "walk_id": walk_id, "kind": kind, "name": name, "lon": stop.lon_deg, "lat": stop.lat_deg, "h_m": stop.h_m,
        "good_m": stop.good_m, "scatter_m": stop.scatter_m, "used": stop.used, "left_out": stop.left_out,
        "from_n": from_n, "to_n": to_n,
    }  # fmt: skip
    with scope.engine.begin() as connection:
        connection.execute(insert(MarkRow).values(values))


def marks(scope: Scope, walk_id: str) -> list[dict[str, Any]]:
    """What was marked, in order."""
    query = (
        select(MarkRow.__table__)
        .where(MarkRow.workspace == scope.workspace, MarkRow.walk_id == walk_id)
        .order_by(MarkRow.id)
    )
    with scope.engine.connect() as connection:
        return [dict(row) for row in connection.execute(query).mappings()]


def unmark(scope: Scope, walk_id: str, mark_id: int) -> None:
    """Take a mark back.  Raises NotThere."""
    with scope.engine.begin() as connection:
        gone = connection.execute(
            delete(MarkRow).where(
                MarkRow.workspace == scope.workspace, MarkRow.walk_id == walk_id, MarkRow.id == mark_id
            )
        )
        if not gone.rowcount:
            raise NotThere(str(mark_id))


def remove(scope: Scope, walk_id: str) -> None:
    """Remove a walk with all its fixes."""
    with scope.engine.begin() as connection:
        connection.execute(delete(WalkRow).where(WalkRow.workspace == scope.workspace, WalkRow.id == walk_id))
