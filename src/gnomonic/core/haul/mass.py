"""What stuff weighs.  Source: volume by density (``data/masses.toml``)."""

import math
from collections.abc import Sequence
from functools import cache

from gnomonic.core.sourced import Rule, read_data


@cache
def densities() -> dict[str, Rule]:
    """Densities by what it is made of, kg/m³."""
    return {key: Rule.model_validate(row) for key, row in read_data("masses.toml", "haul").items()}


def wire_kg_m(d_m: float) -> float:
    """A metre of steel wire so thick.

    >>> round(wire_kg_m(0.00251) * 1000, 1)
    38.8
    """
    return densities()["steel"].value * math.pi / 4 * d_m**2


def fabric_kg_m(line_wires_m: Sequence[float], stay_m: float, stay_d_m: float, height_m: float) -> float:
    """A metre of fabric of these line wires (diameters) with a stay every ``stay_m``; knots and tension curves add a little and are not
    counted.

    >>> round(fabric_kg_m([0.0025] * 4, 0.15, 0.0025, 0.9), 3)
    0.385
    """
    return sum(map(wire_kg_m, line_wires_m)) + wire_kg_m(stay_d_m) * height_m / stay_m
