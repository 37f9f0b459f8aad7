"""Edits of a job's lines: added, copied, split at a post, renamed, taken out, joined to one another."""

import json
import math
from datetime import date
from typing import Any, Literal

import numpy as np
from pydantic import Field

from gnomonic.core.edits.command import NEAR_M, Command, Coordinate, Station
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import Course, course
from gnomonic.core.ground.joined import SAME_M, end_station, nearest_station, vertex_at
from gnomonic.core.job.document import End, Job, Join, Line
from gnomonic.core.job.fence import Fence, checked, fence_of, stationed
from gnomonic.core.job.parts import PLAIN_TEXT, Found, Gate, MeasuredLine, Point, Stretch
from gnomonic.core.limits import MOST_NAME
from gnomonic.core.plan.gates import span_m
from gnomonic.core.plan.line import section_of
from gnomonic.core.say import Say, Values

NAMED = Field(min_length=1, max_length=MOST_NAME, pattern=PLAIN_TEXT)


class Rename(Command):
    """Give the job another name; a line by itself that is called like it goes with it."""

    do: Literal["rename"]
    name: str = NAMED


class AddLine(Command):
    """A further line, as a line of a Job document without its letter, in this job's frame; with finds of its own map.

    Its start stands on a post of another line, and the whole line goes there, where ``onto`` names one; or its first point
    lies at a place (``e_m``, ``n_m``).
    """

    do: Literal["add_line"]
    given: dict[str, Any]
    found: tuple[dict[str, Any], ...] = ()
    onto: str = Field("", max_length=3)
    onto_m: Station = 0.0
    e_m: Coordinate | None = None
    n_m: Coordinate | None = None


class CopyLine(Command):
    """The same line once more, so far to the right of the first; nothing stands on the copy."""

    do: Literal["copy_line"]
    name: str = NAMED
    beside_m: float = Field(5.0, ge=-1000, le=1000, allow_inf_nan=False)


class SplitLine(Command):
    """Two lines joined at a post in place of one; a closed line is split there and at its start."""

    do: Literal["split_line"]
    at_m: Station
    name: str = NAMED


class RenameLine(Command):
    """Give a line another name."""

    do: Literal["rename_line"]
    name: str = NAMED


class StandLine(Command):
    """A line is built to stay, stands for a time, or is there already."""

    do: Literal["stand_line"]
    standing: Literal["permanent", "temporary", "there"]
    until: date | None = None


class RemoveLine(Command):
    """Take a line out; ``lose`` when lines that stand on it may stand alone."""

    do: Literal["remove_line"]
    lose: bool = False


class JoinLine(Command):
    """An end of a line stands on a post of another, at a station or where that line is nearest to a place.

    With ``bring`` the whole line goes there, else only its end.
    """

    do: Literal["join_line"]
    end: End
    on: str = Field(max_length=3)
    at_m: Station | None = None
    e_m: Coordinate | None = None
    n_m: Coordinate | None = None
    bring: bool = False


class PartLine(Command):
    """An end of a line stands on a post of its own again."""

    do: Literal["part_line"]
    end: End


LinesEdit = Rename | AddLine | CopyLine | SplitLine | RenameLine | StandLine | RemoveLine | JoinLine | PartLine


def apply_to_lines(job: Job, edit: LinesEdit) -> Job:
    """The next version of a job.  Raises BadInput, and Pydantic's error for a line or a join that is none."""
    match edit:
        case Rename(name=name):
            if len(job.lines) == 1 and job.lines[0].name == job.name:
                job = _put(job, job.lines[0], job.lines[0].model_copy(update={"name": name}))
            return checked(job, name=name)
        case AddLine():
            return _added(job, edit)
        case _:
            pass
    fence = named(job, edit.line)
    match edit:
        case CopyLine(name=name, beside_m=aside):
            return _copied(job, fence, name, aside)
        case SplitLine(at_m=at, name=name):
            return _split(job, fence, at, name)
        case RenameLine(name=name):
            return _put(job, fence.own, fence.own.model_copy(update={"name": name}))
        case StandLine(standing=standing, until=until):
            return _put(job, fence.own, fence.own.model_copy(update={"standing": standing, "until": until}))
        case RemoveLine(lose=lose):
            return _removed(job, fence, lose)
        case JoinLine():
            return _joined(job, fence, edit)
        case PartLine(end=end):
            left = tuple(j for j in job.joins if (j.line, j.end) != (fence.id, end))
            if len(left) == len(job.joins):
                raise BadInput("end", f"the {end} of {fence.name} stands on no other line")
            return checked(job, joins=left)


def named(job: Job, line_id: str, field: str = "line") -> Fence:
    """A line by its letter.  Raises BadInput."""
    try:
        return fence_of(job, line_id)
    except KeyError:
        names = ", ".join(f"{line.id} ({line.name})" for line in job.lines[:12])
        raise BadInput(field, f"this job has no line {line_id[:3]}: it has {names}") from None


def next_letter(job: Job) -> str:
    """The letter after the last one: … Z, AA, AB …

    >>> from types import SimpleNamespace as N
    >>> [next_letter(N(lines=[N(id=k)])) for k in ("A", "Z", "AZ")]
    ['B', 'AA', 'BA']
    """
    last = max((line.id for line in job.lines), key=lambda k: (len(k), k))
    number = 0
    for letter in last:
        number = number * 26 + ord(letter) - 64
    number, text = number + 1, ""
    while number:
        number, rest = divmod(number - 1, 26)
        text = chr(65 + rest) + text
    return text


def _put(job: Job, old: Line, new: Line) -> Job:
    return checked(job, lines=tuple(new if line is old else line for line in job.lines))


def free_name(job: Job, wanted: str) -> str:
    """The name, or with a number where a line of the job is called so."""
    taken = {line.name for line in job.lines}
    tries = (wanted[:110] + f" {n}" for n in range(2, 1000))
    return wanted if wanted not in taken else next(t for t in tries if t not in taken)


def _fresh(job: Job, found: tuple[Found, ...], taken: tuple[Found, ...] = ()) -> tuple[Found, ...]:
    """Finds under names that no other of the job has; marks keep to the job that asked for them."""
    used = {f.id for line in job.lines for f in line.found} | {f.id for f in (*job.found, *taken)}
    made: list[Found] = []
    for find in found:
        number, name = 1, find.id
        while name in used:
            name, number = f"f{number}", number + 1
        used.add(name)
        made.append(find if name == find.id else find.model_copy(update={"id": name}))
    return tuple(made)


def _added(job: Job, edit: AddLine) -> Job:
    letter = next_letter(job)
    line = Line.model_validate_json(json.dumps({"name": "line", **edit.given, "id": letter}))
    on_map = tuple(Found.model_validate_json(json.dumps(f)) for f in edit.found)
    own = _fresh(job, line.found)
    on_map = _fresh(job, on_map, own)
    measured = line.measured
    if edit.e_m is not None and edit.n_m is not None:
        first = measured.points[0]
        measured = shifted(measured, edit.e_m - first.e_m, edit.n_m - first.n_m)
    line = line.model_copy(update={"name": free_name(job, line.name), "found": own, "measured": measured})
    after = checked(job, lines=(*job.lines, line), found=(*job.found, *on_map))
    if not edit.onto:
        return after
    join = JoinLine(do="join_line", line=letter, end="start", on=edit.onto, at_m=edit.onto_m, bring=True)
    return _joined(after, fence_of(after, letter), join)


def shifted(line: MeasuredLine, east_m: float, north_m: float, up_m: float = 0.0) -> MeasuredLine:
    """A line somewhere else, its book with it."""
    points = tuple(
        p.model_copy(
            update={
                "e_m": round(p.e_m + east_m, 6),
                "n_m": round(p.n_m + north_m, 6),
                "h_m": round(p.h_m + up_m, 6) if up_m else p.h_m,
            }
        )
        for p in line.points
    )
    book = line.book
    if book is not None:
        e, n, up = book.start
        book = book.model_copy(update={"start": (e + east_m, n + north_m, up + up_m)})
    return line.model_copy(update={"points": points, "book": book})


def _copied(job: Job, fence: Fence, name: str, aside_m: float) -> Job:
    way = course(fence.line)
    east, north = way.place(min(way.length_m, 1.0))
    along = math.atan2(east - way.east_m[0], north - way.north_m[0])
    moved = shifted(fence.line, aside_m * math.cos(along), -aside_m * math.sin(along))
    copy = fence.own.model_copy(
        update={
            "id": next_letter(job),
            "name": name,
            "measured": moved,
            "shared": (),
            "facts": (),
            "found": _fresh(job, fence.own.found),
        }
    )
    return checked(job, lines=(*job.lines, copy))


def _removed(job: Job, fence: Fence, lose: bool) -> Job:
    if len(job.lines) == 1:
        raise BadInput("line", "a job has one line at least: remove the job instead")
    standing = [job.line(j.line).name for j in job.joins if j.on == fence.id]
    if standing and not lose:
        names = " and ".join(dict.fromkeys(standing))
        raise BadInput(
            "lose",
            Say("{names} would stand on a post of its own where {gone} was. Undo brings it back", {"names": names, "gone": fence.name}),
        )  # fmt: skip
    joins = tuple(j for j in job.joins if fence.id not in (j.line, j.on))
    return checked(job, lines=tuple(line for line in job.lines if line is not fence.own), joins=joins)


def _joined(job: Job, fence: Fence, edit: JoinLine) -> Job:
    """The end on its post; where the place is a bend's or an end's within a tape's reach, it is that one."""
    other = named(job, edit.on, "on")
    way = course(other.line)
    at_m = edit.at_m
    if at_m is None:
        if edit.e_m is None or edit.n_m is None:
            raise BadInput("at_m", "say where: a station of the other line (at_m), or a place (e_m, n_m)")
        at_m, _ = nearest_station(way, edit.e_m, edit.n_m)
    if at_m > way.length_m + SAME_M:
        values: Values = {"on": other.name, "end": (way.length_m, "station")}
        raise BadInput("at_m", Say("{on} ends at {end}: there is no post beyond it", values))
    near = float(way.stations_m[int(np.argmin(np.abs(way.stations_m - at_m)))])
    at = near if abs(near - at_m) < NEAR_M else min(at_m, way.length_m)
    kept = tuple(j for j in job.joins if (j.line, j.end) != (fence.id, edit.end))
    join = Join(line=fence.id, end=edit.end, on=edit.on, at_m=at)
    own = course(fence.line)
    if edit.bring:
        if any(j.line == fence.id for j in kept):
            raise BadInput("bring", f"the other end of {fence.name} stands on a line too: only its end can go there")
        (e0, n0), (e1, n1) = own.place(end_station(own, edit.end)), way.place(at)
        job = _put(job, fence.own, fence.own.model_copy(update={"measured": shifted(fence.line, e1 - e0, n1 - n0)}))
    alone = not any(fence.id in (j.line, j.on) for j in kept)
    if alone and not (fence.line.level or other.line.level):  # its heights are counted from that post's ground
        here, there = end_station(own, edit.end), float(way.profile.at(np.array([at]))[0])
        up = there - float(own.profile.at(np.array([here]))[0])
        moved = job.line(fence.id)
        job = _put(job, moved, moved.model_copy(update={"measured": shifted(moved.measured, 0.0, 0.0, up)}))
    shared = tuple(s for s in fence.shared if s.at != edit.end)
    job = _put(job, job.line(fence.id), job.line(fence.id).model_copy(update={"shared": shared}))
    return checked(job, joins=(*kept, join))


def _split(job: Job, fence: Fence, at_m: float, name: str) -> Job:
    """Two lines for one: what lives at stations goes with its part, joins too."""
    way = course(fence.line)
    if not 0.3 < at_m < way.length_m - 0.3:
        values: Values = {"name": fence.name, "end": (way.length_m, "station")}
        raise BadInput("at_m", Say("{name} is split at a post between its ends, 0 and {end}", values))
    near = float(way.stations_m[int(np.argmin(np.abs(way.stations_m - at_m)))])
    at = near if abs(near - at_m) < NEAR_M else at_m
    for gate in fence.gates:
        if gate.at_m + SAME_M < at < gate.at_m + span_m(section_of(fence), gate) - SAME_M:
            raise BadInput(
                "at_m", Say("{name} hangs across {at}: split beside it", {"name": gate.name, "at": (at, "station")})
            )
    letter = next_letter(job)
    first = _part(fence, way, 0.0, at, {"id": fence.id, "name": fence.name})
    second = _part(fence, way, at, way.length_m, {"id": letter, "name": name, "shared": ()})
    if fence.line.closed:
        first = first.model_copy(update={"shared": ()})
    else:
        ends = {s.at: s for s in fence.shared}
        first = first.model_copy(update={"shared": tuple(s for k, s in ends.items() if k == "start")})
        second = second.model_copy(update={"shared": tuple(s for k, s in ends.items() if k == "end")})
    lines = [second if line is fence.own else line for line in job.lines]
    lines.insert(lines.index(second), first)
    second_fresh = second.model_copy(
        update={
            "found": _fresh(checked(job, lines=(first, *[ln for ln in job.lines if ln is not fence.own])), second.found)
        }
    )
    lines[lines.index(second)] = second_fresh
    joins = [_carried(j, fence.id, letter, at) for j in job.joins]
    joins.append(Join(line=letter, end="start", on=fence.id, at_m=at))
    if fence.line.closed:
        joins.append(Join(line=letter, end="end", on=fence.id, at_m=0.0))
    return checked(job, lines=tuple(lines), joins=tuple(joins))


def _carried(join: Join, first: str, second: str, at_m: float) -> Join:
    """A join of a line that is split: its end goes with the second part, what stands on it with the part it stands on."""
    if join.line == first and join.end == "end":
        join = join.model_copy(update={"line": second})
    if join.on == first and join.at_m > at_m + SAME_M:
        join = join.model_copy(update={"on": second, "at_m": join.at_m - at_m})
    return join


def _part(fence: Fence, way: Course, low_m: float, high_m: float, update: dict[str, Any]) -> Line:
    """A line between two stations of another, both ends measured points."""
    measured = fence.line
    inner = [
        measured.points[k % len(measured.points)]
        for k, s in enumerate(way.stations_m.tolist())
        if low_m - SAME_M <= s <= high_m + SAME_M
    ]
    if vertex_at(way, low_m) is None:
        inner.insert(0, _between(measured, way, low_m))
    if vertex_at(way, high_m) is None:
        inner.append(_between(measured, way, high_m))
    points = tuple(inner)
    cut = measured.model_copy(update={"points": points, "closed": False, "book": None})

    def inside(at: float) -> bool:
        return low_m - SAME_M <= at <= high_m + SAME_M

    def clip(low: float, high: float) -> tuple[float, float]:
        return max(low, low_m) - low_m, min(high, high_m) - low_m

    hung = [(g, g.at_m + span_m(section_of(fence), g)) for g in fence.gates]
    gates = tuple(_at(g, g.at_m - low_m) for g, end in hung if inside(g.at_m) and inside(end))
    posts = tuple(
        p.model_copy(update={"at_m": p.at_m - low_m}) for p in fence.posts if low_m + SAME_M < p.at_m < high_m - SAME_M
    )
    facts = tuple(f.model_copy(update={"at_m": max(0.0, f.at_m - low_m)}) for f in fence.facts if inside(f.at_m))

    def spans(low: float, high: float) -> list[tuple[float, float]]:
        a, b = clip(low, high)
        return [(a, b)] if b - a > SAME_M else []

    forbidden = tuple(
        Stretch(from_m=a, to_m=b, reason=s.reason) for s in fence.forbidden for a, b in spans(s.from_m, s.to_m)
    )
    finds = [(f, *clip(f.from_m or 0.0, f.to_m or 0.0)) for f in fence.own.found]
    found = tuple(
        f.model_copy(update={"from_m": max(0.0, a), "to_m": max(a, b)})
        for f, a, b in finds
        if b > a or (b == a and (b > 0 or low_m == 0))
    )
    asks = stationed(fence.own, lambda at: at - low_m if inside(at) else None, spans)
    rest = asks | {
        "measured": cut,
        "gates": gates,
        "posts": posts,
        "forbidden": forbidden,
        "found": found,
        "facts": facts,
    }
    return fence.own.model_copy(update={**rest, **update})


def _at(gate: Gate, at_m: float) -> Gate:
    return gate.model_copy(update={"at_m": max(0.0, at_m)})


def _between(measured: MeasuredLine, way: Course, at_m: float) -> Point:
    """A point on a leg, on its ground; how it was got is what the leg was."""
    east, north = way.place(at_m)
    k = int(np.searchsorted(way.stations_m, at_m)) % len(measured.points)
    end = measured.points[k]
    height = float(way.profile.at(np.array([at_m]))[0])
    return Point(e_m=round(east, 6), n_m=round(north, 6), h_m=round(height, 6), how=end.how, good_m=end.good_m)
