"""A cable across a channel: what it pulls, what it is held by.

Source: statics of the parabola and the catenary (any text on statics); tables of cables and clips in ``data/cables.toml``.
"""

import math
from dataclasses import dataclass
from functools import cache

from gnomonic.core.errors import BadInput
from gnomonic.core.sourced import Sourced, read_data

GRAVITY = 9.80665
HALVINGS = 60
DEEPEST_SHARE = 10.0  # of the span: a sag beyond that is no cable across


@dataclass(frozen=True, slots=True)
class Hung:
    """``horizontal_n`` all along it, ``support_n`` what its anchors see; the catenary's own, and its length."""

    horizontal_n: float
    support_n: float
    catenary_horizontal_n: float
    catenary_support_n: float
    catenary_length_m: float


def hung(w_n_m: float, span_m: float, sag_m: float) -> Hung:
    """A cable of ``w_n_m`` over a level span with a sag at its middle: the parabola (load spread along the span) and the
    catenary (along the cable), whose parameter a solves a·(cosh(L/2a) − 1) = f.
    """
    horizontal = w_n_m * span_m**2 / (8 * sag_m)
    support = math.hypot(horizontal, w_n_m * span_m / 2)
    if sag_m > DEEPEST_SHARE * span_m:
        raise BadInput("sag_m", f"sag_m is {sag_m:g}: more than {DEEPEST_SHARE:g} times the span is no cable across it")

    low, high = 0.0, min(12.0, 4 * sag_m / span_m)  # t = L/2a: f/L = sinh²(t/2)/t rises with t, faster than t/4
    for _ in range(HALVINGS):
        t = (low + high) / 2
        low, high = (t, high) if math.sinh(t / 2) ** 2 / t < sag_m / span_m else (low, t)
    t = (low + high) / 2
    a = span_m / (2 * t)
    return Hung(horizontal, support, w_n_m * a, w_n_m * (a + sag_m), 2 * a * math.sinh(t))


class CableSize(Sourced):
    """A wire rope: its least breaking strength and mass, and how many clips a joint takes, how far apart the turned-back end
    begins and how tight their nuts."""

    title: str
    item: str
    diameter_m: float
    break_n: float
    kg_m: float
    clips: int
    back_m: float
    torque_nm: float


@cache
def cables() -> dict[str, CableSize]:
    """Every size by its key, the thinnest first."""
    return {key: CableSize.model_validate(row) for key, row in read_data("cables.toml", "finish")["cables"].items()}


def span_it_can_m(w_n_m: float, sag_share: float, holds_n: float) -> float:
    """The longest span over which a cable that may be pulled ``holds_n`` carries ``w_n_m``, its sag a share of the span."""
    return holds_n / (w_n_m * math.sqrt(1 / (64 * sag_share**2) + 0.25))
