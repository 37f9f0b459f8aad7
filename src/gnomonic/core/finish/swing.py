"""What lies under a leaf as it swings: over a plane exactly, over measured ground by sampling its breaks.

Source: geometry, derived in docs/method.md §13.  Angles are counted from the closed leaf.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from gnomonic.core.ground.profile import Floats

STEPS = 61  # places of the leaf that are tried: a degree and a half apart over a quarter turn
SQUARE = 1e-9
Height = Callable[[Floats, Floats], Floats]


@dataclass(frozen=True, slots=True)
class Sweep:
    """``highest_m`` ground under the swing over the ground at the hinge (never below 0), and where the leaf then stands;
    ``bottom_m`` is how high the leaf's bottom hangs at the hinge, ``gap_m`` the largest under its tip."""

    highest_m: float
    at_rad: float
    bottom_m: float
    gap_m: float


def plane_sweep(leaf_m: float, m1: float, m2: float, open_rad: float, clearance_m: float) -> Sweep:
    """A level leaf over a plane that rises ``m1`` along the closed leaf and ``m2`` across, to the side it opens to.

    The ground under the tip is leaf·(m1 cos φ + m2 sin φ) = leaf·√(m1² + m2²)·cos(φ − φ0).
    """
    steepest, towards = math.hypot(m1, m2), math.atan2(m2, m1)
    tries = [0.0, open_rad, *(a for a in (towards, towards + math.pi, towards - math.pi) if 0 < a < open_rad)]

    def tip(angle: float) -> float:
        return leaf_m * steepest * math.cos(angle - towards)

    at = max(tries, key=lambda a: (round(tip(a), 12), -a))
    highest = max(0.0, tip(at))
    bottom = highest + clearance_m
    return Sweep(highest, at if highest > 0 else 0.0, bottom, bottom - min(tip(a) for a in tries))


@dataclass(frozen=True, slots=True)
class Swing:
    """A leaf over measured ground, hung so that its bottom rises ``slope`` along it from the hinge.

    ``bottom_m`` is its height over the ground at the hinge; ``highest_m`` the ground it must clear there, met ``at_m`` along
    the leaf, opened by ``at_rad``; ``gap_m`` and ``gap_at_m`` the most that is left under the closed leaf; ``tip_gap_m`` under its closed tip, ``least_m`` the least under the closed leaf;
    ``tips_m`` the ground under the tip at ``angles_rad``.
    """

    slope: float
    bottom_m: float
    highest_m: float
    at_rad: float
    at_m: float
    gap_m: float
    gap_at_m: float
    tip_gap_m: float
    least_m: float
    angles_rad: Floats
    tips_m: Floats


def swing(
    height: Height,
    leaf_m: float,
    open_rad: float,
    clearance_m: float,
    slope: float = 0.0,
    breaks_m: Sequence[float] = (),
) -> Swing:
    """A leaf swung from closed to ``open_rad`` over ground ``height(along, out)`` m over the ground at the hinge.

    ``along`` counts from the hinge along the closed leaf, ``out`` to the side it opens to; ``breaks_m`` are places along at which
    the ground breaks (behind the hinge negative): the leaf is tried over each.  The whole leaf is swept, not its tip alone.
    """
    return swings(height, leaf_m, open_rad, clearance_m, (slope,), breaks_m)[0]


def swings(
    height: Height,
    leaf_m: float,
    open_rad: float,
    clearance_m: float,
    slopes: Sequence[float],
    breaks_m: Sequence[float] = (),
) -> list[Swing]:
    """The same leaf hung at several slopes (``swing``)."""
    angles = np.linspace(0.0, open_rad, STEPS)
    cos, sin = np.cos(angles), np.sin(angles)
    far = np.tile(
        [0.0, leaf_m], (STEPS, 1)
    )  # ground is straight between its breaks: along the leaf the most stands at one of them or an end
    if len(breaks_m):
        ahead = np.where(np.abs(cos) > SQUARE, cos, np.inf)[:, None]
        over = np.asarray(breaks_m)[None, :] / ahead
        far = np.hstack([far, np.where((over > 0) & (over < leaf_m), over, 0.0)])
    ground = height((far * cos[:, None]).ravel(), (far * sin[:, None]).ravel()).reshape(far.shape)
    closed = np.unique(np.clip([0.0, leaf_m, *breaks_m], 0.0, leaf_m))
    below = height(closed, np.zeros_like(closed))
    tips = ground[:, 1]
    found = []
    for slope in slopes:
        needed = ground - slope * far
        row, col = divmod(int(needed.argmax()), needed.shape[1])
        highest = max(0.0, float(needed[row, col]))
        bottom = highest + clearance_m
        gaps = bottom + slope * closed - below
        worst = int(gaps.argmax())
        found.append(
            Swing(
                slope, bottom, highest, float(angles[row]) if highest > 0 else 0.0, float(far[row, col]) if highest > 0 else 0.0,
                float(gaps[worst]), float(closed[worst]), float(gaps[-1]), float(gaps.min()), angles, tips,
            )
        )  # fmt: skip
    return found


def hinge_n(weight_n: float, leaf_m: float, apart_m: float) -> float:
    """Pull of the upper hinge, and push of the lower: the leaf's weight at its middle over the hinges' distance.

    >>> hinge_n(500.0, 4.0, 1.0)
    1000.0
    """
    return weight_n * leaf_m / 2 / apart_m
