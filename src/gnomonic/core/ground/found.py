"""What is on the line: where each thing lies along it, and what that does to posts."""

import tomllib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import numpy as np
import shapely

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import Course
from gnomonic.core.job.parts import Found
from gnomonic.core.sourced import Sourced

JOIN_M = 0.01


class FoundKind(Sourced):
    """One kind of thing: what it does to posts, how far, and what to take care of."""

    title: str
    group: str
    effect: str
    zone_m: float
    deeper_m: float = 0.0
    caution: str


@cache
def found_kinds() -> dict[str, FoundKind]:
    """Every kind by key, in the order of the file."""
    text = files("gnomonic.core.ground").joinpath("data", "found.toml").read_text("utf8")
    return {key: FoundKind.model_validate(row) for key, row in tomllib.loads(text).items()}


def kind_of(found: Found) -> FoundKind:
    """The kind of a thing.  Raises BadInput (``kind``)."""
    try:
        return found_kinds()[found.kind]
    except KeyError:
        raise BadInput(
            "kind", f"there is no kind of find called {found.kind}: use {', '.join(found_kinds())}"
        ) from None


def zone_m(found: Found) -> float:
    """How far from a thing its effect reaches."""
    return kind_of(found).zone_m if found.zone_m is None else found.zone_m


def called(found: Found) -> str:
    """What a thing is called: its name, or its kind."""
    return found.name or kind_of(found).title.lower()


@dataclass(frozen=True, slots=True)
class OnLine:
    """A thing with the stretches of the line it lies on, its zone counted in (stations, m)."""

    found: Found
    kind: FoundKind
    stretches: tuple[tuple[float, float], ...]


def on_line(course: Course, found: Sequence[Found]) -> list[OnLine]:
    """Every thing with its stretches, in the order given; a shape that stays clear of the line has none."""
    return [OnLine(f, kind_of(f), tuple(_stretches(course, f))) for f in found]


def _stretches(course: Course, found: Found) -> list[tuple[float, float]]:
    reach = zone_m(found)
    if found.from_m is not None and found.to_m is not None:
        if found.from_m > course.length_m + JOIN_M:
            return []
        return [(max(0.0, found.from_m - reach), min(course.length_m, found.to_m + reach))]
    return stretches_near(course, found.shape, reach)


def stretches_near(course: Course, shape: Sequence[tuple[float, float]], reach_m: float) -> list[tuple[float, float]]:
    """Stations between which a line runs within ``reach_m`` of a shape (a place, a line, or a closed area).

    A shape that ends where it began is an area.  Where a line without width only crosses, the crossing is one station.
    """
    distinct = list(dict.fromkeys(shape))
    figure: shapely.Geometry = shapely.Point(shape[0]) if len(distinct) == 1 else shapely.LineString(shape)
    if len(distinct) > 2 and shape[0] == shape[-1]:
        figure = shapely.make_valid(shapely.Polygon(shape))
    if reach_m > 0:
        figure = figure.buffer(reach_m, quad_segs=32)
    places = np.column_stack([course.east_m, course.north_m])
    legs = shapely.linestrings(np.stack([places[:-1], places[1:]], axis=1))
    shapely.prepare(figure)
    met = np.flatnonzero(shapely.intersects(legs, figure))
    found: list[tuple[float, float]] = []
    for k in met.tolist():
        start = float(course.stations_m[k])
        for part in shapely.get_parts(shapely.intersection(legs[k], figure)).tolist():
            ends = [start + float(np.hypot(*(np.array(c) - places[k]))) for c in shapely.get_coordinates(part).tolist()]
            if not ends:
                continue
            low, high = min(ends), max(ends)
            if found and low <= found[-1][1] + JOIN_M:
                found[-1] = (found[-1][0], max(high, found[-1][1]))
            else:
                found.append((low, high))
    return found


def no_post_stretches(things: Sequence[OnLine]) -> list[tuple[float, float, Found]]:
    """Stretches where no post may stand because of what is there."""
    return [
        (low, high, t.found)
        for t in things
        if t.kind.effect in ("no_post", "hand_dig")
        for low, high in t.stretches
        if high > low
    ]


def wanted_posts(things: Sequence[OnLine]) -> list[float]:
    """Stations where something asks for a post."""
    return [(low + high) / 2 for t in things if t.kind.effect == "post" for low, high in t.stretches]


def soft_ground(things: Sequence[OnLine]) -> list[tuple[float, float, float, str]]:
    """Stretches whose line posts are wood: from, to, how much deeper, and because of what; the deepest first."""
    rows = [
        (low, high, t.kind.deeper_m, called(t.found))
        for t in things
        if t.kind.effect == "wood"
        for low, high in t.stretches
    ]
    return sorted(rows, key=lambda row: -row[2])
