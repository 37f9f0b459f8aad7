"""What fabric bears on while it is pulled: drawn taut it lies on the highs and hangs over the lows.

Source: a taut string over a profile is its upper hull; docs/method.md §8.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise


@dataclass(frozen=True, slots=True)
class High:
    """A place it bears on: index into the places given, and how much it is bent there (radians)."""

    index: int
    rad: float


def highs(stations_m: Sequence[float], heights_m: Sequence[float]) -> tuple[High, ...]:
    """The places between the ends on which a string drawn taut from the first to the last bears.

    >>> [(h.index, round(math.degrees(h.rad), 1)) for h in highs([0, 10, 20, 30], [0, 1, 0.2, 0])]
    [(1, 8.6)]
    """
    hull: list[int] = []
    for k in range(len(stations_m)):
        while len(hull) > 1 and _below(stations_m, heights_m, hull[-2], hull[-1], k):
            hull.pop()
        hull.append(k)
    found = []
    for a, b, c in zip(hull, hull[1:], hull[2:], strict=False):
        arrive = math.atan2(heights_m[b] - heights_m[a], stations_m[b] - stations_m[a])
        leave = math.atan2(heights_m[c] - heights_m[b], stations_m[c] - stations_m[b])
        found.append(High(b, arrive - leave))
    return tuple(found)


def _below(x: Sequence[float], y: Sequence[float], a: int, b: int, c: int) -> bool:
    """Whether b lies on or under the straight from a to c."""
    return (y[b] - y[a]) * (x[c] - x[a]) <= (y[c] - y[a]) * (x[b] - x[a]) + 1e-12


def hung_over(
    stations_m: Sequence[float], heights_m: Sequence[float], bears: Sequence[High]
) -> tuple[tuple[float, ...], float]:
    """How far the string hangs over each place, and how much longer the way along all places is than along the highs."""
    nodes = [0, *(h.index for h in bears), len(stations_m) - 1]
    over, spare = [0.0] * len(stations_m), 0.0
    for a, b in pairwise(nodes):
        span, rise = stations_m[b] - stations_m[a], heights_m[b] - heights_m[a]
        for k in range(a + 1, b):
            over[k] = max(0.0, heights_m[a] + rise * (stations_m[k] - stations_m[a]) / span - heights_m[k])
        way = sum(math.hypot(stations_m[k + 1] - stations_m[k], heights_m[k + 1] - heights_m[k]) for k in range(a, b))
        spare += max(0.0, way - math.hypot(span, rise))
    return tuple(over), spare
