"""Mending a measured line by hand: points added, moved, taken out, split and joined; heights set.

Each function returns the next line and where the old line's vertices went, so that what lives at stations (gates, posts,
finds) stays where it stood on the ground.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import Course, course, self_crossing
from gnomonic.core.ground.measuring import methods
from gnomonic.core.job.parts import FieldBook, HeightGrid, MeasuredLine, Point

SAME_PLACE_M = 0.001
Matches = list[tuple[int, int]]


@dataclass(frozen=True, slots=True)
class Mended:
    """The next line, and pairs of (old, new) point numbers that are the same place on the ground."""

    line: MeasuredLine
    same: Matches


def with_points(line: MeasuredLine, points: Sequence[Point], **more: Any) -> MeasuredLine:
    """The line with other points; a book it came from is marked as mended by hand.  Raises BadInput (``line``)."""
    closed = more.get("closed", line.closed)
    check_places(points, closed)
    book = line.book
    if book is not None and "book" not in more:
        book = FieldBook.model_validate({**book.model_dump(), "mended": True})
    fields: dict[str, Any] = {"source": line.source, "grid": line.grid, "level": line.level}
    fields |= {"book": book, "closed": closed, **more}
    return MeasuredLine.model_validate({"points": tuple(points), **fields})


def check_places(points: Sequence[Point], closed: bool) -> None:
    """Raises BadInput (``line``) for too few points, two in one place, or legs that cross."""
    if len(points) < (3 if closed else 2):
        raise BadInput("line", "the line would have too few points: an open one needs two, a closed one three")
    table = np.array([(p.e_m, p.n_m) for p in points])
    ring = np.vstack([table, table[:1]]) if closed else table
    gaps = np.hypot(*np.diff(ring, axis=0).T)
    if (gaps < SAME_PLACE_M).any():
        k = int(np.argmin(gaps))
        raise BadInput("line", f"points {k + 1} and {(k + 1) % len(points) + 1} would be the same place")
    hit = self_crossing(ring[:, 0], ring[:, 1])
    if hit is not None:
        raise BadInput("line", f"the line would cross itself: leg {hit[0] + 1} would meet leg {hit[1] + 1}")


def _point(line: MeasuredLine, index: int) -> Point:
    if not 0 <= index < len(line.points):
        raise BadInput("index", f"there is no point {index + 1}; the line has {len(line.points)}")
    return line.points[index]


def _unmeasured(points: Sequence[Point], *numbers: int) -> tuple[Point, ...]:
    """The points with some legs to them as nobody measured them: an end of the leg was drawn, or a point between was taken out."""
    made = list(points)
    for k in numbers:
        if 0 <= k < len(made) and made[k].how:
            made[k] = made[k].model_copy(update={"how": "drawn", "good_m": methods()["drawn"].fixed_m})
    return tuple(made)


def _drawn(e_m: float, n_m: float, h_m: float, name: str = "") -> Point:
    return Point(e_m=e_m, n_m=n_m, h_m=h_m, name=name, how="drawn", good_m=methods()["drawn"].fixed_m)


def move_point(line: MeasuredLine, index: int, e_m: float, n_m: float, h_m: float | None) -> Mended:
    """Put a point somewhere else; its height stays unless given."""
    old = _point(line, index)
    new = _drawn(e_m, n_m, old.h_m if h_m is None else h_m, old.name)
    points = _unmeasured((*line.points[:index], new, *line.points[index + 1 :]), index + 1)
    return Mended(with_points(line, points), [(k, k) for k in range(len(points))])


def add_point(line: MeasuredLine, e_m: float, n_m: float, h_m: float | None, at_start: bool) -> Mended:
    """Run an open line on beyond its end (or its start); the height of that end is taken unless given."""
    if line.closed:
        raise BadInput("line", "a closed line has no end to run on from: split a leg instead, or open the line")
    end = line.points[0 if at_start else -1]
    new = _drawn(e_m, n_m, end.h_m if h_m is None else h_m)
    points = (new, *line.points) if at_start else (*line.points, new)
    return Mended(with_points(line, points), [(k, k + at_start) for k in range(len(line.points))])


def split_leg(line: MeasuredLine, at_m: float, e_m: float | None, n_m: float | None) -> Mended:
    """A new point at a station, on the line where no place is given, else there; its height is the ground's."""
    was = course(line)
    if not 0 < at_m < was.length_m:
        raise BadInput("at_m", f"at_m is {at_m:.2f} m; a leg is split between 0 and {was.length_m:.2f} m")
    k = int(np.searchsorted(was.stations_m, at_m))
    east, north = was.place(at_m)
    height = float(was.profile.at(np.array([at_m]))[0])
    end = line.points[k % len(line.points)]  # how the leg that is split was got stands at its end
    if e_m is None or n_m is None:
        new = Point(e_m=east, n_m=north, h_m=height, how=end.how, good_m=end.good_m)
    else:
        new = _drawn(e_m, n_m, height)
    points = (*line.points[:k], new, *line.points[k:])
    if e_m is not None:
        points = _unmeasured(points, k + 1)
    return Mended(with_points(line, points), [(j, j + (j >= k)) for j in range(len(line.points))])


def remove_point(line: MeasuredLine, index: int) -> Mended:
    """Take a point out; its neighbours are joined straight."""
    _point(line, index)
    points = _unmeasured((*line.points[:index], *line.points[index + 1 :]), index)
    same = [(k, k - (k > index)) for k in range(len(line.points)) if k != index]
    return Mended(with_points(line, points), same)


def join_points(line: MeasuredLine, index: int) -> Mended:
    """One point midway in place of a point and the next."""
    first = _point(line, index)
    if index + 1 >= len(line.points):
        raise BadInput("index", "the last point has no next one to be joined with; close the line to join its ends")
    second = line.points[index + 1]
    new = _drawn(
        (first.e_m + second.e_m) / 2, (first.n_m + second.n_m) / 2, (first.h_m + second.h_m) / 2,
        first.name or second.name,
    )  # fmt: skip
    points = _unmeasured((*line.points[:index], new, *line.points[index + 2 :]), index + 1)
    return Mended(with_points(line, points), [(k, k - (k > index)) for k in range(len(line.points)) if k != index + 1])


def close_line(line: MeasuredLine, closed: bool) -> Mended:
    """Join the last point to the first by a straight leg, or take that leg out."""
    if closed == line.closed:
        raise BadInput("closed", "the line is closed already" if closed else "the line is open already")
    same = [(k, k) for k in range(len(line.points))]
    return Mended(with_points(line, line.points, closed=closed), same)


def set_heights(line: MeasuredLine, heights_m: Sequence[float], first: int) -> Mended:
    """Give points their heights from a column, starting at a point.  Plan and stations stay."""
    _point(line, first)
    if first + len(heights_m) > len(line.points):
        raise BadInput(
            "heights_m",
            f"{len(heights_m)} heights from point {first + 1} on are more than the line's {len(line.points)} points",
        )
    points = list(line.points)
    for k, height in enumerate(heights_m, first):
        points[k] = Point.model_validate({**points[k].model_dump(), "h_m": height})
    return Mended(with_points(line, points, level=False), [(k, k) for k in range(len(points))])


def drape(
    line: MeasuredLine, stations_m: Sequence[float], heights_m: Sequence[float], cell_m: float, file: str
) -> Mended:
    """Heights from a grid: at every point of the line, and new points between them where the ground breaks.

    Stations rise and hold every point's own station.  Every height is replaced; every point stays.
    """
    was = course(line)
    ends = was.stations_m
    places = list(zip(*was.places(np.asarray(stations_m, dtype=np.float64)), strict=True))
    numbers = {round(float(s), 6): k for k, s in enumerate(ends[: len(line.points)])}
    points: list[Point] = []
    same: Matches = []
    for station, height, (east, north) in zip(stations_m, heights_m, places, strict=True):
        own = numbers.pop(round(station, 6), None)
        if line.closed and station >= was.length_m - SAME_PLACE_M:
            continue
        if own is not None:
            same.append((own, len(points)))
            points.append(Point.model_validate({**line.points[own].model_dump(), "h_m": height}))
        else:
            points.append(Point(e_m=east, n_m=north, h_m=height, how="grid"))
    if numbers:
        raise BadInput("stations_m", "the heights leave out some points of the line")
    return Mended(
        with_points(line, points, grid=HeightGrid(cell_m=cell_m, file=file), book=line.book, level=False), same
    )


Carry = Callable[[float], float | None]


def carry(was: Course, now: Course, same: Matches, old_points: int, new_points: int) -> Carry:
    """Where an old station is on the mended line: straight between points that stayed what they were, round a closed line
    wherever it starts now; None where there is no line any more.
    """
    pairs = sorted(same)
    if not pairs:
        raise BadInput("line", "nothing of the old line is left")
    old = np.array([was.stations_m[a] for a, _ in pairs])
    new = np.array([now.stations_m[b] for _, b in pairs])
    if was.closed and now.closed:  # unrolled: once round from the first point that stayed
        new = np.concatenate([new, [new[0]]])
        new = new + now.length_m * np.concatenate([[0], np.cumsum(np.diff(new) < 0)])
        old = np.concatenate([old, [old[0] + was.length_m]])

    def round_it(station_m: float) -> float:
        shifted = station_m if station_m >= old[0] else station_m + was.length_m
        at = float(np.interp(shifted, old, new))
        return at if at <= now.length_m + SAME_PLACE_M else at - now.length_m

    def along(station_m: float) -> float | None:
        at = float(np.interp(station_m, old, new))
        at += min(0.0, station_m - old[0]) + max(0.0, station_m - old[-1])
        return min(max(0.0, at), now.length_m) if -SAME_PLACE_M <= at <= now.length_m + SAME_PLACE_M else None

    return round_it if was.closed and now.closed else along
