"""What readings in the field say: a push at mid-bay, tensions before and behind bends.

Source: statics and the belt-friction equation; docs/method.md §8.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True, slots=True)
class Deflected:
    """Tension read from a push, by the small-push rule and exactly."""

    simple_n: float
    exact_n: float


def deflection_n(force_n: float, push_m: float, bay_m: float) -> Deflected:
    """Tension of a wire or fabric that a force at the middle of a bay pushes aside by so much.

    >>> d = deflection_n(100.0, 0.1, 3.0)
    >>> round(d.simple_n), round(d.exact_n, 1)
    (750, 751.7)
    """
    half = bay_m / 2
    return Deflected(force_n * bay_m / (4 * push_m), force_n * math.hypot(push_m, half) / (2 * push_m))


def push_m(force_n: float, tension_n: float, bay_m: float) -> float:
    """How far a force at the middle of a bay pushes a wire or fabric aside: the small-push rule turned round.

    >>> round(push_m(200.0, 2800.0, 3.048) * 1000)
    54
    """
    return force_n * bay_m / (4 * tension_n) if tension_n > 0 else math.inf


@dataclass(frozen=True, slots=True)
class Friction:
    """Friction and the pull at the puller that readings fit best, with what is left over: of log T, and in newtons."""

    mu: float
    t0_n: float
    residuals: tuple[float, ...]
    residuals_n: tuple[float, ...]


def fit_friction(turns_rad: Sequence[float], tensions_n: Sequence[float]) -> Friction:
    """Least squares of log T over the turn that lies between the puller and each reading; two different turns at least."""
    turns, logs = np.array(turns_rad), np.log(np.array(tensions_n))
    slope, level = np.polyfit(turns, logs, 1)
    fitted = level + slope * turns
    return Friction(
        float(-slope),
        float(math.exp(level)),
        tuple((logs - fitted).tolist()),
        tuple((np.exp(logs) - np.exp(fitted)).tolist()),
    )
