"""Fabric pushed down in a dip or lifted over a hump, and wires of a bar that share one strain."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from gnomonic.core.fabric.wire import Crimped

Bar = Sequence[tuple[Crimped, int]]


def pull_at_n(bar: Bar, strain: float) -> float:
    """Pull of all wires at a strain."""
    return sum(count * wire.tension_n(strain) for wire, count in bar)


def strain_at(bar: Bar, pull_n: float) -> float:
    """The one strain at which the wires of a bar pull so much together."""
    low, high = 0.0, max(wire.strain(pull_n) for wire, _ in bar)
    for _ in range(80):
        middle = (low + high) / 2
        low, high = (middle, high) if pull_at_n(bar, middle) < pull_n else (low, middle)
    return (low + high) / 2


@dataclass(frozen=True, slots=True)
class Pressed:
    """Fabric pressed out of its straight line: the length that takes, the pull and each wire's tension then, and the force
    it takes at the end and with the pull there was before."""

    extra_m: float
    pull_n: float
    wires_n: tuple[float, ...]
    out: tuple[float | None, ...]
    force_n: float
    force_at_start_n: float


def press(bar: Bar, pull_n: float, a_m: float, b_m: float, depth_m: float, run_m: float) -> Pressed:
    """Push fabric ``depth_m`` off the straight line between where it is held ``a_m`` and ``b_m`` away.

    The extra length √(a²+d²) + √(b²+d²) − (a+b) is taken up by the strain of the wires over ``run_m``; force
    T′·(sin θa + sin θb).  Source: geometry and docs/method.md §8.
    """
    left, right = math.hypot(a_m, depth_m), math.hypot(b_m, depth_m)
    extra = left + right - a_m - b_m
    strain = strain_at(bar, pull_n) + extra / run_m
    wires = tuple(wire.tension_n(strain) for wire, _ in bar)
    after = sum(t * count for t, (_, count) in zip(wires, bar, strict=True))
    steep = depth_m / left + depth_m / right
    out = tuple(wire.out(t) if wire.curve_m else None for t, (wire, _) in zip(wires, bar, strict=True))
    return Pressed(extra, after, wires, out, after * steep, pull_n * steep)
