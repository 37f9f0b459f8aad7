"""Fabric pushed down in a dip or lifted over a hump."""

import math
from dataclasses import dataclass

from gnomonic.core.fabric.bar import Bar, shares_out


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
    strain = bar.strain(pull_n) + extra / run_m
    wires = tuple(wire.tension_n(strain) for wire, _ in bar.wires)
    after = bar.pull_n(strain)
    steep = depth_m / left + depth_m / right
    return Pressed(extra, after, wires, shares_out(bar.wires, wires), after * steep, pull_n * steep)
