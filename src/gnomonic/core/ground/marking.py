"""Asking where services are buried: what is asked about, what state the answer is in, what is painted first.

The call to the marking service is always the fencer's own; this keeps its state beside the line.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from itertools import pairwise
from typing import Literal

import numpy as np
import shapely

from gnomonic.core.ground.course import Course
from gnomonic.core.ground.measuring import rule
from gnomonic.core.job.parts import Marking

State = Literal["not asked", "requested", "marked", "clear", "expired", "elsewhere"]


@dataclass(frozen=True, slots=True)
class WhiteMark:
    """A white flag or paint mark that shows where digging is meant: its station and place."""

    station_m: float
    east_m: float
    north_m: float
    why: str


def state_of(marking: Marking | None, course: Course, today: date) -> State:
    """Where the marking stands on a day; ``elsewhere`` when the line has left what was asked about."""
    if marking is None:
        return "not asked"
    if not covered(marking, course):
        return "elsewhere"
    if marking.state == "requested":
        return "requested"
    if marking.expires_on is not None and today > marking.expires_on:
        return "expired"
    return marking.state


def covered(marking: Marking, course: Course) -> bool:
    """Whether the line still lies within the ground that was asked about."""
    asked = shapely.MultiLineString(marking.routes).buffer(marking.reach_m)
    return bool(asked.covers(shapely.LineString(np.column_stack([course.east_m, course.north_m]))))


def astray_m(marking: Marking, shape: Sequence[tuple[float, float]]) -> float:
    """How far a mark (m east, m north) lies from what was asked about, where that is further than any answer to it can be; else 0."""
    places = shapely.LineString(shape) if len(shape) > 1 else shapely.Point(shape[0])
    far = float(shapely.MultiLineString(marking.routes).distance(places))
    return far if far > rule("believed_mark_m") else 0.0


def may_dig(state: State) -> bool:
    """Whether marks are in and good."""
    return state in ("marked", "clear")


def white_lining(course: Course, corners_m: list[float]) -> list[WhiteMark]:
    """Where to paint or flag white before asking: both ends, every corner, and between them (``data/rules.toml``).

    Source: common practice.
    """
    marks = {0.0: "start", course.length_m: "end"} | dict.fromkeys(corners_m, "corner")
    fixed = sorted(marks)
    for low, high in pairwise(fixed):
        count = int((high - low) / rule("white_every_m"))
        for k in range(1, count + 1):
            at = low + (high - low) * k / (count + 1)
            marks[at] = "between"
    stations = sorted(s for s in marks if not (course.closed and s == course.length_m))
    east, north = course.places(np.array(stations))
    return [WhiteMark(s, e, n, marks[s]) for s, e, n in zip(stations, east, north, strict=True)]
