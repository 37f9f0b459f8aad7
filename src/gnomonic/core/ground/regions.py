"""Areas: what a closed line encloses, and what lies on each side of lines across it."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.ops import split

from gnomonic.core.ground.course import Course

SHORTEST_M = 0.01
Places = Sequence[tuple[float, float]]


@dataclass(frozen=True, slots=True)
class Region:
    """A part of the ground: area (m²), perimeter (m) and a place inside it (east, north)."""

    area_m2: float
    perimeter_m: float
    inside: tuple[float, float]


def outline(course: Course) -> shapely.Polygon | None:
    """The enclosed figure of a closed line, None for an open one."""
    return shapely.Polygon(np.column_stack([course.east_m, course.north_m])) if course.closed else None


def whole(course: Course) -> Region | None:
    """The enclosed area and perimeter of a closed line."""
    figure = outline(course)
    return None if figure is None else _region(figure)


def across(course: Course, internal: Sequence[Places]) -> list[Region]:
    """The parts a closed line's ground is cut into by internal lines, largest first; empty where none cuts it.

    An internal line's ends are run on by up to 2 m to meet the line.
    """
    figure = outline(course)
    if figure is None or not internal:
        return []
    parts = [figure]
    for places in internal:
        line = shapely.remove_repeated_points(shapely.LineString(places)) if len(places) > 1 else shapely.LineString()
        if line.length < SHORTEST_M:
            continue
        cutter = _run_on(line, figure)
        parts = [piece for part in parts for piece in split(part, cutter).geoms]
    if len(parts) < 2:
        return []
    return sorted((_region(p) for p in parts), key=lambda r: -r.area_m2)


def _run_on(line: shapely.LineString, figure: shapely.Polygon, reach_m: float = 2.0) -> shapely.LineString:
    places = list(line.coords)
    for end, inner in ((0, 1), (-1, -2)):
        (x, y), (u, v) = places[end][:2], places[inner][:2]
        if figure.boundary.distance(shapely.Point(x, y)) <= reach_m:
            size = math.hypot(x - u, y - v)
            places[end] = (x + (x - u) / size * reach_m, y + (y - v) / size * reach_m)
    return shapely.LineString(places)


def _region(figure: shapely.Polygon) -> Region:
    at = figure.representative_point()
    return Region(float(figure.area), float(figure.length), (float(at.x), float(at.y)))


def swath_m2(course: Course, reach_m: float) -> float:
    """Ground within ``reach_m`` each side of the line, square at open ends; overlapping sides count once."""
    line = shapely.LineString(np.column_stack([course.east_m, course.north_m]))
    return float(line.buffer(reach_m, cap_style="flat", join_style="mitre").area)
