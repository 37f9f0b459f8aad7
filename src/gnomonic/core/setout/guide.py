"""Guide wires and the line of heads: what line posts are set to.

One guide wire a side, before its line posts; a straight wire over a hump or a dip is held by sighting poles.  Posts that were holed before
they are set have their heads on straight lines, so that what runs through them bears on none.

Source: common practice; geometry.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from gnomonic.core.ground.course import Course
from gnomonic.core.ground.profile import Profile

CLEAR_M = 0.05  # a wire nearer to the ground than this drags
REACH_M = 1.5  # and one higher is out of sight of a post's foot
MOST_SIGHTS = 60


@dataclass(frozen=True, slots=True)
class Side:
    """A straight side between two stations, and where its guide wire is held, both ends first and last: (station, height over its ground)."""

    from_m: float
    to_m: float
    held_m: tuple[tuple[float, float], ...]
    length_m: float
    least_m: float
    most_m: float

    @property
    def sights(self) -> tuple[tuple[float, float], ...]:
        """Sighting poles between its ends."""
        return self.held_m[1:-1]

    def over_m(self, profile: Profile, station_m: float) -> float:
        """Height of the wire over the ground at a station."""
        at = np.array([s for s, _ in self.held_m])
        z = profile.at(at) + np.array([h for _, h in self.held_m])
        ground = float(profile.at(np.array([station_m]))[0])
        return float(np.interp(station_m, at, z)) - ground


def sides_of(line: Course, high_m: float, turn_deg: float) -> list[Side]:
    """The sides of a line between turns of more than ``turn_deg``, each with its guide wire ``high_m`` over the ground at both ends.

    Where that would drag on a hump or stand out of reach over a dip a pole holds it there at the same height.
    """
    turns = np.abs(line.turns_deg())
    breaks = [float(s) for s, t in zip(line.stations_m[1:-1], turns[1:-1], strict=True) if t > turn_deg]
    return [_side(line.profile, a, b, high_m) for a, b in pairwise([0.0, *breaks, line.length_m]) if b - a > CLEAR_M]


def _side(profile: Profile, low: float, high: float, up_m: float) -> Side:
    at = np.concatenate([[low], profile.breaks_between(low, high), [high]])
    z = profile.at(at)
    nodes = [0, len(at) - 1]
    while len(nodes) < MOST_SIGHTS:
        over = np.interp(at, at[nodes], z[nodes] + up_m) - z
        off = np.maximum(CLEAR_M - over, over - REACH_M)
        off[nodes] = -np.inf
        worst = int(off.argmax())
        if off[worst] <= 0:
            break
        nodes = sorted([*nodes, worst])
    wire = z[nodes] + up_m
    over = np.interp(at, at[nodes], wire) - z
    long = float(np.hypot(np.diff(at[nodes]), np.diff(wire)).sum())
    return Side(low, high, tuple((float(at[n]), up_m) for n in nodes), long, float(over.min()), float(over.max()))


def head_line(stations_m: Sequence[float], heads_m: Sequence[float], give_m: float) -> tuple[list[int], list[float]]:
    """Posts whose heads carry the string, by index, and how much higher (positive) or lower each head is set to stand on it.

    Heads that lie within ``give_m`` of a string are set to it; where more is needed the string is broken at that post.

    >>> head_line([0, 3, 6, 9], [1.0, 1.02, 1.0, 1.0], 0.05)[0], [round(v, 3) for v in head_line([0, 3, 6, 9], [1.0, 1.02, 1.0, 1.0], 0.05)[1]]
    ([0, 3], [0.0, -0.02, 0.0, 0.0])
    """
    s, z = np.asarray(stations_m, dtype=float), np.asarray(heads_m, dtype=float)
    nodes = [0, len(s) - 1] if len(s) > 1 else [0]
    while True:
        off = np.interp(s, s[nodes], z[nodes]) - z
        worst = int(np.abs(off).argmax())
        if abs(off[worst]) <= give_m + 1e-9:
            return nodes, [float(v) for v in off]
        nodes = sorted([*nodes, worst])
