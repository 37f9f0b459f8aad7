"""Edits of the measured line, of what was found on it, and of the marking of services."""

import math
from collections.abc import Sequence
from datetime import date
from typing import Annotated, Any, Literal

from pydantic import Field

from gnomonic.core.edits.command import NEAR_M, Command, Coordinate, Station
from gnomonic.core.errors import BadInput
from gnomonic.core.ground import mend
from gnomonic.core.ground.booked import booked_line
from gnomonic.core.ground.course import Course, course
from gnomonic.core.ground.found import kind_of
from gnomonic.core.ground.marking import astray_m
from gnomonic.core.job.document import Join
from gnomonic.core.job.fence import Fence, changed, fences, stationed
from gnomonic.core.job.parts import ForcedPost, Found, Marking, MeasuredLine, Stretch
from gnomonic.core.job.parts import Place as MapPlace
from gnomonic.core.limits import MOST_BOOK_CHARACTERS, MOST_HEIGHTS, MOST_NAME, MOST_OUTLINE
from gnomonic.core.record import Record
from gnomonic.core.say import Say, together

Index = Annotated[int, Field(ge=0, le=1_000_000)]
Height = Annotated[float, Field(ge=-1e5, le=1e5, allow_inf_nan=False)]


class AddPoint(Command):
    """Run the line on to a new end point."""

    do: Literal["add_point"]
    e_m: Coordinate
    n_m: Coordinate
    h_m: Height | None = None
    at_start: bool = False


class MovePoint(Command):
    """Put a point of the line somewhere else."""

    do: Literal["move_point"]
    index: Index
    e_m: Coordinate
    n_m: Coordinate
    h_m: Height | None = None


class SplitLeg(Command):
    """A new point on a leg, at a station; beside it when a place is given."""

    do: Literal["split_leg"]
    at_m: Station
    e_m: Coordinate | None = None
    n_m: Coordinate | None = None


class RemovePoint(Command):
    """Take a point out; ``lose`` (here and below) when what can't be carried may go."""

    do: Literal["remove_point"]
    index: Index
    lose: bool = False


class JoinPoints(Command):
    """One point midway in place of a point and the next."""

    do: Literal["join_points"]
    index: Index
    lose: bool = False


class CloseLine(Command):
    """Close the line by a straight leg, or open it."""

    do: Literal["close_line"]
    closed: bool
    lose: bool = False


class SetHeights(Command):
    """A column of heights, from a point on."""

    do: Literal["set_heights"]
    heights_m: Annotated[tuple[Height, ...], Field(min_length=1, max_length=MOST_HEIGHTS)]
    first: Index = 0


class Drape(Command):
    """Heights from a grid, at rising stations that hold every point's own."""

    do: Literal["drape"]
    stations_m: Annotated[tuple[Station, ...], Field(min_length=2, max_length=MOST_HEIGHTS)]
    heights_m: Annotated[tuple[Height, ...], Field(min_length=2, max_length=MOST_HEIGHTS)]
    cell_m: Annotated[float, Field(gt=0, le=1e5)]
    file: str = Field("", max_length=MOST_NAME)


class WriteBook(Command):
    """Read the field book anew: its text, the unit of bare numbers, and whether the misclosure is spread."""

    do: Literal["write_book"]
    text: str = Field(max_length=MOST_BOOK_CHARACTERS)
    unit: Literal["", "m", "ft"] = ""
    adjust: Literal["none", "compass"] = "none"
    lose: bool = False


class AddFound(Command):
    """Note something on the line, under it or beside it."""

    do: Literal["add_found"]
    kind: str = Field(max_length=24)
    name: str = Field("", max_length=MOST_NAME)
    from_m: Station | None = None
    to_m: Station | None = None
    shape: Annotated[tuple[MapPlace, ...], Field(max_length=MOST_OUTLINE)] = ()
    zone_m: float | None = None
    side: Literal["", "left", "right"] = ""
    count: int | None = None


class RemoveFound(Command):
    """Take a find back."""

    do: Literal["remove_found"]
    id: str


class AskMarking(Command):
    """Services along the line were asked about, within ``reach_m`` each side."""

    do: Literal["ask_marking"]
    ticket: str = Field(min_length=1, max_length=40)
    asked_on: date
    wait_until: date
    reach_m: float


class Mark(Record):
    """A buried service as marked: a shape on the map and its tolerance each side."""

    name: str = Field(max_length=MOST_NAME)
    shape: Annotated[tuple[MapPlace, ...], Field(min_length=1, max_length=MOST_OUTLINE)]
    zone_m: Annotated[float, Field(ge=0, le=100)]


class TakeMarks(Command):
    """The marking service's answer: clear, or marks as shapes, and the day they run out."""

    do: Literal["take_marks"]
    ticket: str = Field(max_length=40)
    state: Literal["marked", "clear"]
    expires_on: date
    marks: tuple[Mark, ...] = ()


class ForgetMarking(Command):
    """Drop the request and its marks."""

    do: Literal["forget_marking"]


class Swath(Command):
    """How far each side of the line is cleared."""

    do: Literal["swath"]
    swath_m: float


LineEdit = (
    AddPoint | MovePoint | SplitLeg | RemovePoint | JoinPoints | CloseLine | SetHeights | Drape | WriteBook | AddFound
    | RemoveFound | AskMarking | TakeMarks | ForgetMarking | Swath
)  # fmt: skip


def apply_to_line(fence: Fence, edit: LineEdit) -> Fence:
    """The next version of a line and its job.  Raises BadInput when the edit does not fit it."""
    line = fence.line
    match edit:
        case AddPoint(e_m=e, n_m=n, h_m=h, at_start=first):
            return mended_fence(fence, mend.add_point(line, e, n, h, first))
        case MovePoint(index=k, e_m=e, n_m=n, h_m=h):
            return mended_fence(fence, mend.move_point(line, k, e, n, h))
        case SplitLeg(at_m=at, e_m=split_e, n_m=split_n):
            return mended_fence(fence, mend.split_leg(line, at, split_e, split_n))
        case RemovePoint(index=k):
            return mended_fence(fence, mend.remove_point(line, k), edit.lose)
        case JoinPoints(index=k):
            return mended_fence(fence, mend.join_points(line, k), edit.lose)
        case CloseLine(closed=closed):
            return mended_fence(fence, mend.close_line(line, closed), edit.lose)
        case SetHeights(heights_m=heights, first=first_point):
            return mended_fence(fence, mend.set_heights(line, heights, first_point))
        case Drape(stations_m=stations, heights_m=heights, cell_m=cell, file=file):
            if len(stations) != len(heights):
                raise BadInput("heights_m", f"{len(heights)} heights for {len(stations)} stations")
            return mended_fence(fence, mend.drape(line, stations, heights, cell, file))
        case WriteBook(text=text, unit=unit, adjust=adjust):
            booked = booked_line(text, unit, adjust, line.source, line.book.start if line.book else (0.0, 0.0, 0.0))
            return mended_fence(fence, mend.Mended(booked, _nearest(fence, booked)), edit.lose)
        case AddFound():
            found = Found.model_validate({**edit.model_dump(exclude={"do", "line"}), "id": next_find(fence)})
            kind_of(found)
            if found.from_m is not None and found.from_m > course(line).length_m:
                raise BadInput("from_m", f"from_m is {found.from_m:.2f} m, beyond the line's end")
            return changed(fence, found=(*fence.found, found))
        case RemoveFound(id=found_id):
            left = tuple(f for f in fence.found if f.id != found_id)
            if len(left) == len(fence.found):
                raise BadInput("id", f"nothing called {found_id} was found on this job")
            return changed(fence, found=left)
        case AskMarking(ticket=ticket, asked_on=asked, wait_until=until, reach_m=reach):
            routes = tuple(route_of(f.line) for f in fences(fence.job) if f.own.standing != "there")
            data: dict[str, Any] = {"ticket": ticket, "asked_on": asked, "wait_until": until, "reach_m": reach}
            marking = Marking.model_validate({"state": "requested", "routes": routes, **data})
            return changed(fence, marking=marking, found=_unmarked(fence))
        case TakeMarks(ticket=ticket, state=state, expires_on=expires, marks=marks):
            if fence.marking is None or fence.marking.ticket != ticket:
                raise BadInput("ticket", f"this job did not ask for marks under ticket {ticket}")
            if (state == "marked") != bool(marks):
                raise BadInput("marks", "an answer is either clear, without marks, or marked, with one at least")
            for mark in marks:
                if far_m := astray_m(fence.marking, mark.shape):
                    raise BadInput(
                        "marks",
                        Say("{name} is marked {far} from the lines", {"name": mark.name, "far": (far_m, "station")}),
                    )
            taken = {**fence.marking.model_dump(), "state": state, "expires_on": expires}
            services = [
                Found.model_validate({**m.model_dump(), "kind": "service", "id": f"m{k}", "ticket": ticket})
                for k, m in enumerate(marks)
            ]
            return changed(fence, marking=Marking.model_validate(taken), found=(*_unmarked(fence), *services))
        case ForgetMarking():
            return changed(fence, marking=None, found=_unmarked(fence))
        case Swath(swath_m=reach):
            return changed(fence, swath_m=reach)


def route_of(line: MeasuredLine) -> tuple[MapPlace, ...]:
    """A measured line's places, back to its start where it is closed."""
    route = tuple((p.e_m, p.n_m) for p in line.points)
    return (*route, *route[:1]) if line.closed else route


def next_find(fence: Fence) -> str:
    """A name for a find that no other of the job has."""
    return _next_id([f for line in fence.job.lines for f in line.found] + list(fence.job.found))


def _unmarked(fence: Fence) -> tuple[Found, ...]:
    """What was found, less the marks of any ticket."""
    return tuple(f for f in fence.found if not f.ticket)


def _nearest(fence: Fence, line: MeasuredLine) -> mend.Matches:
    """Points of a re-read book that are the old ones: by name, or else by number when there are as many."""
    old, new = fence.line.points, line.points
    if len(old) == len(new):
        return [(k, k) for k in range(len(old))]
    names = {p.name: k for k, p in enumerate(new) if p.name}
    same = [(k, names[p.name]) for k, p in enumerate(old) if p.name in names]
    rising = [(a, b) for i, (a, b) in enumerate(same) if i == 0 or b > same[i - 1][1]]
    return rising or [(0, 0)]


MOVED_M = 1.0  # what a gate or a post placed by hand may shift along the ground without being asked about


def mended_fence(fence: Fence, mended: mend.Mended, lose: bool = True) -> Fence:
    """The fence on its mended line; what lives at stations keeps its place on the ground, lines that stand on it too.

    Raises BadInput (``lose``), unless ``lose``, naming what has no place on the mended line or another one.
    """
    was, now = course(fence.line), course(mended.line)
    if _same_stations(was.stations_m.tolist(), now.stations_m.tolist()) and was.closed == now.closed:
        return _found_kept(fence, mended.line, was, now, lambda s: s)
    at = mend.carry(was, now, mended.same, len(fence.line.points), len(mended.line.points))
    lost: list[Say] = []

    def kept(station_m: float, name: str) -> float | None:
        to = at(station_m)
        here: dict[str, tuple[float, str] | str] = {"at": (station_m, "station")}
        if to is None:
            lost.append(Say(f"{name} at {{at}} would go", here))
        elif (moved := math.dist(was.place(station_m), now.place(to))) > MOVED_M:
            lost.append(Say(f"{name} at {{at}} would move by {{by}}", {**here, "by": (moved, "station")}))
        return to

    gates = [(g, kept(g.at_m, g.name)) for g in fence.gates]
    posts = [(p, kept(p.at_m, "the post placed by hand")) for p in fence.posts]
    forbidden: list[Stretch] = []

    def spans(from_m: float, to_m: float) -> list[tuple[float, float]]:
        low, high = at(from_m), at(to_m)
        if low is None or high is None or abs(high - low) < 1e-6:
            return []
        both = [(low, high)] if low < high else [(low, now.length_m), (0.0, high)]
        return [(a, b) for a, b in both if b - a > 1e-6]

    for s in fence.forbidden:
        there = spans(s.from_m, s.to_m)
        if not there:
            where: dict[str, tuple[float, str] | str] = {"a": (s.from_m, "station"), "b": (s.to_m, "station")}
            lost.append(
                Say("the forbidden stretch {a} to {b}" + (f" ({s.reason})" if s.reason else "") + " would go", where)
            )
            continue
        forbidden += [Stretch(from_m=a, to_m=b, reason=s.reason) for a, b in there]
    facts = [(f, kept(f.at_m, f"what is known of post {f.post}")) for f in fence.facts]
    joins: list[Join] = []
    for join in fence.job.joins:
        stands = at(join.at_m) if join.on == fence.id else join.at_m
        if stands is None:
            lost.append(
                Say(
                    "{name} would no longer stand on it at {at}",
                    {"name": fence.job.line(join.line).name, "at": (join.at_m, "station")},
                )
            )
        else:
            joins.append(join if stands == join.at_m else join.model_copy(update={"at_m": stands}))
    if lost and not lose:
        raise BadInput(
            "lose", together("not everything can be carried to the mended line: ", lost, ". Undo brings it back")
        )
    moved = changed(
        fence,
        gates=tuple(g.model_copy(update={"at_m": to}) for g, to in gates if to is not None),
        posts=tuple(ForcedPost(at_m=to) for _, to in posts if to is not None),
        forbidden=tuple(forbidden),
        facts=tuple(f.model_copy(update={"at_m": to}) for f, to in facts if to is not None),
        joins=tuple(joins),
        **stationed(fence.own, at, spans),
    )
    return _found_kept(moved, mended.line, was, now, at)


def _found_kept(fence: Fence, line: MeasuredLine, was: Course, now: Course, at: mend.Carry) -> Fence:
    """The fence on a mended line with what was found where it is on the ground.

    A find by stations keeps to them while the ground under them stays; else it is noted on the map where it lies, so that no
    edit of something else moves it.  What lies along a side goes with the line.
    """
    found: list[Found] = []
    rest: list[Found] = []
    for f in fence.found:
        if f.from_m is None or f.to_m is None:
            found.append(f)
            continue
        low, high = at(f.from_m), at(f.to_m)
        places = _stretch_of(was, f.from_m, f.to_m)
        side = kind_of(f).group == "side"
        stays = low is not None and high is not None and low <= high
        if stays and not side:
            after = _stretch_of(now, low or 0.0, high or 0.0)
            stays = all(math.dist(p, q) < NEAR_M for p, q in ((places[0], after[0]), (places[-1], after[-1])))
        if stays:
            found.append(f.model_copy(update={"from_m": low, "to_m": high}))
        elif not side:
            found.append(f.model_copy(update={"from_m": None, "to_m": None, "shape": tuple(places)}))
        else:
            first, last = low if low is not None else 0.0, high if high is not None else now.length_m
            found.append(f.model_copy(update={"from_m": first, "to_m": last if first <= last else now.length_m}))
            if first > last:  # it runs on past the place where the line now begins
                rest.append(f.model_copy(update={"from_m": 0.0, "to_m": last}))
    taken = [f for own in fence.job.lines for f in own.found]
    for f in rest:
        found.append(f.model_copy(update={"id": _next_id([*taken, *found])}))
    return changed(fence, line=line, found=tuple(found))


def _next_id(found: Sequence[Found]) -> str:
    return f"f{1 + max((int(f.id[1:]) for f in found if f.id[1:].isdigit()), default=0)}"


def _stretch_of(line: Course, from_m: float, to_m: float) -> list[tuple[float, float]]:
    """Places along a line between two stations, its corners among them."""
    between = line.stations_m[(line.stations_m > from_m + 1e-6) & (line.stations_m < to_m - 1e-6)]
    stations = [from_m, *between.tolist(), *([to_m] if to_m > from_m else [])]
    return [line.place(s) for s in stations]


def _same_stations(a: list[float], b: list[float]) -> bool:
    """Whether two lists of stations are the same to a tenth of a millimetre."""
    return len(a) == len(b) and all(abs(x - y) < 1e-4 for x, y in zip(a, b, strict=True))
