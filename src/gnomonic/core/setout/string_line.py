"""A rigid top rail: the straight line over a run's ground from terminal to terminal.

Source: docs/method.md §2.  For a rail of slope m the lowest that clears everything by h stands at c(m) = max(z − m·s) + h,
and its largest clear height M(m) = h + max(z − m·s) + max(m·s − z) is the upright width of the ground: convex, piecewise
linear, its corners the slopes of the hull's edges, so that the least is found exactly among them.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

from gnomonic.core.ground.profile import Floats

ALIKE_M = 0.010  # largest clear heights nearer than this count as one: else a hump near an end lifts both for nothing
TOUCHES_M = 1e-9


@dataclass(frozen=True, slots=True)
class StringLine:
    """Heights of both terminals' tops over their ground, what that leaves between, and the repairs from the least height.

    ``hump_at_m`` is where ground stands highest over the string stretched at the least height; none where it does not.
    ``raise_a_only_m`` and ``raise_b_only_m`` lift one end alone.
    """

    a_m: float
    b_m: float
    worst_clear_m: float
    worst_clear_at_m: float
    least_clear_m: float
    hump_at_m: float | None
    raise_both_m: float
    raise_a_only_m: float
    raise_b_only_m: float
    trench_m: float
    trench_at_m: float | None


def _hull(s: Floats, z: Floats, way: float) -> list[int]:
    """Corners of the upper (``way`` 1) or lower (−1) hull, left to right."""
    kept: list[int] = []
    for k in range(len(s)):
        while len(kept) > 1:
            i, j = kept[-2], kept[-1]
            if way * ((s[j] - s[i]) * (z[k] - z[i]) - (z[j] - z[i]) * (s[k] - s[i])) < 0:
                break
            kept.pop()
        kept.append(k)
    return kept


def _slopes(s: Floats, z: Floats, hull: Sequence[int]) -> list[float]:
    return [float((z[j] - z[i]) / (s[j] - s[i])) for i, j in pairwise(hull)]


def string_line(stations_m: Floats, heights_m: Floats, h_min_m: float) -> StringLine:
    """Least largest clear height, then least hA + hB with that within 10 mm, then least |hA − hB|.

    ``stations_m`` (n,) rising from one terminal to the other, straight ground between.
    """
    s, z = stations_m - stations_m[0], heights_m
    length = float(s[-1])
    upper, lower = _hull(s, z, 1.0), _hull(s, z, -1.0)
    over, under = _slopes(s, z, upper), _slopes(s, z, lower)
    su, zu, sl, zl = s[upper], z[upper], s[lower], z[lower]

    def rest(m: float) -> float:
        return float((zu - m * su).max())

    def clear(m: float) -> float:
        return h_min_m + rest(m) + float((m * sl - zl).max())

    corners = sorted({*over, *under})
    best = min(clear(m) for m in corners)
    most = best + ALIKE_M
    low, high = _within(corners, clear, most, length)

    def middle(m: float) -> float:  # half of hA + hB but for a constant
        return rest(m) + m * length / 2

    tries = sorted({low, high, *(m for m in over if low < m < high)})
    least = min(middle(m) for m in tries)
    flat = [m for m in tries if middle(m) <= least + TOUCHES_M]
    m = min(max(float(z[-1] - z[0]) / length, flat[0]), flat[-1])
    at = rest(m) + h_min_m
    a, b = at - float(z[0]), at + m * length - float(z[-1])
    heights = at + m * s - z
    worst = int(heights.argmax())
    return StringLine(
        a, b, float(heights[worst]), float(stations_m[worst]), float(heights.min()), *_repairs(stations_m, z)
    )


def _within(
    corners: Sequence[float], clear: Callable[[float], float], most: float, length: float
) -> tuple[float, float]:
    """Slopes between which the largest clear height is no more than ``most``; it is linear between corners and beyond them."""
    inside = [m for m in corners if clear(m) <= most]
    ends = []
    for edge, step in ((inside[0], -1), (inside[-1], 1)):
        k = corners.index(edge) + step
        beyond = corners[k] if 0 <= k < len(corners) else edge + step * most / length
        at_edge, at_beyond = clear(edge), clear(beyond)
        share = 1.0 if at_beyond <= most else (most - at_edge) / (at_beyond - at_edge)
        ends.append(edge + share * (beyond - edge))
    return ends[0], ends[1]


def _repairs(stations_m: Floats, z: Floats) -> tuple[float | None, float, float, float, float, float | None]:
    """Hump over the string between tops of equal height, and what lifting both, one or the other, or digging takes."""
    along = (stations_m - stations_m[0]) / (stations_m[-1] - stations_m[0])
    proud = z - (z[0] + along * (z[-1] - z[0]))
    inner = slice(1, -1)
    if len(z) < 3 or proud[inner].max() <= TOUCHES_M:
        return None, 0.0, 0.0, 0.0, 0.0, None
    k = 1 + int(proud[inner].argmax())
    both = float(proud[k])
    a_only = float((proud[inner] / (1 - along[inner])).max())
    b_only = float((proud[inner] / along[inner]).max())
    at = float(stations_m[k])
    return at, both, a_only, b_only, both, at
