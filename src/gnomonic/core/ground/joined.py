"""Lines that meet: where one stands on another, the post that is bought for both, lines that nearly meet or cross.

Source: geometry; how near counts as nearly is common practice (``data/rules.toml``).
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import shapely

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import Course
from gnomonic.core.ground.measuring import rule
from gnomonic.core.job.document import End, Job, Join
from gnomonic.core.say import Say, Values

SAME_M = 0.001
HELD_M = 0.005  # a joined end nearer than this to its post is on it

Courses = Mapping[str, Course]


def end_station(course: Course, end: str) -> float:
    """Station of an end of a line."""
    return 0.0 if end == "start" else course.length_m


def vertex_at(course: Course, station_m: float) -> int | None:
    """The measured point at a station (counted from 0; the first again for the end of a closed line), or None between two."""
    k = int(np.argmin(np.abs(course.stations_m - station_m)))
    if abs(float(course.stations_m[k]) - station_m) > SAME_M:
        return None
    return k % (len(course.stations_m) - 1) if course.closed else k


def nearest_station(course: Course, east_m: float, north_m: float) -> tuple[float, float]:
    """Station of the place on a line nearest to another, and how far that is.

    >>> from gnomonic.core.ground.profile import Profile
    >>> s = np.array([0.0, 10.0])
    >>> nearest_station(Course(s, s, s * 0, Profile(s, s * 0), False), 4.0, 3.0)
    (4.0, 3.0)
    """
    way = shapely.LineString(np.column_stack([course.east_m, course.north_m]))
    place = shapely.Point(east_m, north_m)
    return float(way.project(place)), float(way.distance(place))


@dataclass(frozen=True, slots=True)
class Standing:
    """The post an end stands on in truth: on the line that brings it, at a station of that line."""

    line: str
    at_m: float


def root_of(job: Job, courses: Courses, line_id: str, station_m: float) -> Standing:
    """The post at a station of a line, followed from line to line where that post itself stands on another.

    A line that is there already brings the posts at its ends and corners; between them the line that joins brings its own.
    """
    here = Standing(line_id, station_m)
    for _ in range(len(job.joins) + 1):
        course = courses[here.line]
        end = "start" if here.at_m < SAME_M else "end" if here.at_m > course.length_m - SAME_M else ""
        if course.closed or not end:
            break
        join = next((j for j in job.joins if (j.line, j.end) == (here.line, end)), None)
        if join is None or not brought_by_other(job, courses, join):
            break
        here = Standing(join.on, join.at_m)
    course = courses[here.line]
    if course.closed and here.at_m > course.length_m - SAME_M:
        here = Standing(here.line, 0.0)
    return here


def brought_by_other(job: Job, courses: Courses, join: Join) -> bool:
    """Whether the line that is joined brings the post: not where a line that is there already is joined between its posts."""
    return job.line(join.on).standing != "there" or vertex_at(courses[join.on], join.at_m) is not None


def check_joins(job: Job, courses: Courses) -> None:
    """Raises BadInput (``joins``) for a join beyond its line's end, off its post, or that leads back to itself."""
    for join in job.joins:
        name, on, length = job.line(join.line).name, job.line(join.on).name, courses[join.on].length_m
        values: Values = {"name": name, "on": on, "at": (join.at_m, "station"), "end": (length, "station")}
        if join.at_m > length + SAME_M:
            raise BadInput("joins", Say("{name} is joined to {on} at {at}, beyond its end at {end}", values))
        place = courses[join.on].place(join.at_m)
        off = math.dist(place, courses[join.line].place(end_station(courses[join.line], join.end)))
        if off > rule("meets_m"):
            far: Values = {**values, "off": (off, "station")}
            raise BadInput("joins", Say("{name} is said to stand on {on} at {at}, but ends {off} from there", far))
    check_circles(job, courses)


def check_circles(job: Job, courses: Courses) -> None:
    """Raises BadInput (``joins``) for a join that leads back to itself."""
    for join in job.joins:
        _no_circle(job, courses, join)


def _rests_on(job: Job, courses: Courses, join: Join) -> list[tuple[str, End]]:
    """Ends of other lines whose place decides where a joined end is: those of the leg it stands on, or the end itself."""
    course = courses[join.on]
    if course.closed:
        return []
    k, last = vertex_at(course, join.at_m), len(course.stations_m) - 1
    points = {k} if k is not None else {int(np.searchsorted(course.stations_m, join.at_m)) - 1 + i for i in (0, 1)}
    ends: list[tuple[str, End]] = [(join.on, "start")] if 0 in points else []
    return [*ends, (join.on, "end")] if last in points else ends


def _no_circle(job: Job, courses: Courses, first: Join) -> None:
    """Raises BadInput (``joins``) when where an end stands hangs, over other joins, on where it stands itself."""
    by_end = {(j.line, j.end): j for j in job.joins}
    seen: set[tuple[str, str]] = set()
    todo = [first]
    while todo:
        join = todo.pop()
        for end in _rests_on(job, courses, join):
            if end == (first.line, first.end):
                names = {"a": job.line(first.line).name, "b": job.line(first.on).name}
                raise BadInput(
                    "joins",
                    Say(
                        "{a} would stand on {b}, which itself stands on {a}: one of them must have a place of its own",
                        names,
                    ),
                )
            if end in by_end and end not in seen:
                seen.add(end)
                todo.append(by_end[end])


@dataclass(frozen=True, slots=True)
class Meeting:
    """Where a line all but meets another, or crosses it, and no join says so.

    ``end`` of ``line`` lies ``off_m`` from ``on`` at its station ``at_m``; for a crossing ``end`` is empty and ``here_m`` the
    station of the line itself.
    """

    line: str
    end: str
    on: str
    here_m: float
    at_m: float
    off_m: float


def meetings(job: Job, courses: Courses) -> list[Meeting]:
    """Ends within reach of another line that are not joined to it, and lines that cross."""
    ids = list(courses)
    ways = [shapely.LineString(np.column_stack([courses[k].east_m, courses[k].north_m])) for k in ids]
    joined = {(j.line, j.end): j for j in job.joins}
    reach = rule("meets_m")
    found: list[Meeting] = []
    first, second = shapely.STRtree(ways).query([w.buffer(reach) for w in ways], predicate="intersects")
    for a, b in sorted(zip(first.tolist(), second.tolist(), strict=True)):
        if a == b:
            continue
        one, other = courses[ids[a]], courses[ids[b]]
        ends: tuple[End, ...] = () if one.closed else ("start", "end")
        for end in ends:
            here = end_station(one, end)
            at, off = nearest_station(other, *one.place(here))
            if off <= reach and not _linked(job, courses, ids[a], here, ids[b], at):
                mirrored = any(m.line == ids[b] and m.on == ids[a] and abs(m.at_m - here) < reach for m in found)
                if (ids[a], end) not in joined and not mirrored:
                    found.append(Meeting(ids[a], end, ids[b], here, at, off))
        if a < b:
            found += _crossings(job, courses, (ids[a], ids[b]), (ways[a], ways[b]), reach)
    return found


def _linked(job: Job, courses: Courses, a: str, here_m: float, b: str, at_m: float) -> bool:
    """Whether a place of one line and one of another are the same post already."""
    one, two = root_of(job, courses, a, here_m), root_of(job, courses, b, at_m)
    if one.line == two.line and abs(one.at_m - two.at_m) < rule("meets_m"):
        return True
    return any(
        j.on == b and abs(j.at_m - at_m) < rule("meets_m") and root_of(job, courses, j.line, end_station(courses[j.line], j.end)) == one
        for j in job.joins
    )  # fmt: skip


def _crossings(
    job: Job,
    courses: Courses,
    ids: tuple[str, str],
    ways: tuple[shapely.LineString, shapely.LineString],
    reach_m: float,
) -> list[Meeting]:
    """Where two lines cross away from their ends."""
    found = []
    for part in shapely.get_parts(shapely.intersection(*ways)).tolist():
        if shapely.is_empty(part):
            continue
        east, north = shapely.get_coordinates(part)[0].tolist()
        stations = [float(w.project(shapely.Point(east, north))) for w in ways]
        ends = [
            min(s, c.length_m - s) if not c.closed else math.inf
            for s, c in zip(stations, (courses[k] for k in ids), strict=True)
        ]
        if min(ends) > reach_m:
            found.append(Meeting(ids[0], "", ids[1], stations[0], stations[1], 0.0))
    return found
