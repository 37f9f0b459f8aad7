"""Traverses: how far legs fail to close, the compass rule, and which leg alone would explain the misclosure.

Source: closure and compass (Bowditch) rule as in any surveying text; the blunder finder is derived below.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.ground.measuring import tapes
from gnomonic.core.units import FOOT_M

Floats = NDArray[np.float64]
EXACT_M = 1e-9
EXPLAINS = 0.7


@dataclass(frozen=True, slots=True)
class Closure:
    """What a traverse does where it should close.

    ``points`` (n+1, 3) east, north, height as booked, ``adjusted`` by the compass rule; ``ratio`` is n of 1:n, None
    when it closes exactly.
    """

    perimeter_m: float
    miss_e_m: float
    miss_n_m: float
    miss_h_m: float
    points: Floats
    adjusted: Floats

    @property
    def miss_m(self) -> float:
        """Length of the misclosure in plan."""
        return math.hypot(self.miss_e_m, self.miss_n_m)

    @property
    def ratio(self) -> float | None:
        """n of 1:n."""
        return None if self.miss_m <= EXACT_M else self.perimeter_m / self.miss_m


def closure(legs: Floats, start: Sequence[float], close_on: Sequence[float]) -> Closure:
    """Close ``legs`` (n, 3) of east, north and rise (m) from ``start`` on ``close_on`` (each east, north, height).

    Compass rule: each point moves by the misclosure in proportion to the distance travelled to it.

    >>> c = closure(np.array([[0, 100, 0], [100, 0, 0], [0, -100.2, 0], [-99.9, 0, 0]]), (0, 0, 0), (0, 0, 0))
    >>> round(c.miss_e_m, 3), round(c.miss_n_m, 3), round(c.miss_m, 4), round(c.ratio)
    (0.1, -0.2, 0.2236, 1789)
    """
    points = np.vstack([[start], np.asarray(start) + np.cumsum(legs, axis=0)])
    lengths = np.hypot(legs[:, 0], legs[:, 1])
    along = np.concatenate([[0.0], np.cumsum(lengths)])
    miss = points[-1] - np.asarray(close_on, dtype=np.float64)
    adjusted = points - np.outer(along / along[-1], miss)
    return Closure(float(along[-1]), float(miss[0]), float(miss[1]), float(miss[2]), points, adjusted)


@dataclass(frozen=True, slots=True)
class Suspect:
    """A leg that alone would explain most of a misclosure.

    ``kind`` distance | bearing; ``change`` is what must be added to the booked value (m or degrees); ``explains`` the
    share of the misclosure it takes away; ``likely`` a usual slip that makes this change, in words, or empty.
    """

    leg: int
    kind: str
    change: float
    explains: float
    likely: str


def suspects(legs: Floats, miss: Sequence[float]) -> list[Suspect]:
    """Legs (n, ≥2) that by one wrong distance or bearing explain most of the misclosure (east, north), best first.

    Derived: a distance changed by d moves the end by d along the leg, so the best d is minus the misclosure's part
    along it; a bearing changed turns the leg to point at where it would have to end, leaving only the difference in
    length.  Parallel legs explain alike: all of them are named.
    """
    w = np.asarray(miss[:2], dtype=np.float64)
    size = float(np.hypot(*w))
    if size <= EXACT_M:
        return []
    found = []
    for k, (e, n) in enumerate(np.asarray(legs)[:, :2].tolist()):
        length = math.hypot(e, n)
        along = (w[0] * e + w[1] * n) / length
        left = math.sqrt(max(0.0, size**2 - along**2))
        if left <= (1 - EXPLAINS) * size and length - along > 0:
            found.append(Suspect(k, "distance", -along, 1 - left / size, _slip_of_distance(length, -along)))
        wanted = (e - w[0], n - w[1])
        left = abs(math.hypot(*wanted) - length)
        if left <= (1 - EXPLAINS) * size:
            turn = math.degrees(math.atan2(wanted[0], wanted[1]) - math.atan2(e, n))
            turn = (turn + 180) % 360 - 180
            bearing = math.degrees(math.atan2(e, n)) % 360
            found.append(Suspect(k, "bearing", turn, 1 - left / size, _slip_of_bearing(bearing, turn, size / length)))
    return sorted(found, key=lambda s: (not s.likely, -s.explains))


def _slip_of_distance(length_m: float, change_m: float) -> str:
    """The usual slip that makes this change in a distance."""
    near = max(0.03, 0.005 * abs(change_m))
    for tape in tapes():
        if abs(abs(change_m) - tape.length_m) < near:
            return f"a tape of {tape.said} {'not counted' if change_m > 0 else 'counted twice'}"
    true = length_m + change_m
    for factor, words in ((FOOT_M, "feet booked as metres"), (1 / FOOT_M, "metres booked as feet")):
        if abs(true - length_m * factor) < near:
            return words
    for unit, name in ((1.0, "m"), (FOOT_M, "ft")):
        booked, meant = f"{length_m / unit:.2f}", true / unit
        for k in range(len(booked) - 1):
            swapped = booked[:k] + booked[k + 1] + booked[k] + booked[k + 2 :]
            if swapped != booked and "." not in booked[k : k + 2] and abs(float(swapped) - meant) * unit < near / 2:
                return f"two figures changed over: {float(swapped):g} {name} for {float(booked):g} {name}"
    return ""


def _slip_of_bearing(bearing: float, turn: float, size: float) -> str:
    """The usual slip that makes this change in a bearing; ``size`` is the misclosure in leg lengths."""

    def near(a: float, b: float) -> bool:
        return abs((a - b + 180) % 360 - 180) < 1.5

    true = (bearing + turn) % 360
    if abs(turn) < 5 or size < 0.05:
        return ""
    if near(true, bearing + 180):
        return "read from the wrong end"
    if near(true, 360 - bearing):
        return "E and W changed over"
    if near(true, 180 - bearing):
        return "N and S changed over"
    if near(abs(turn), 10):
        return "ten degrees misread"
    return ""
