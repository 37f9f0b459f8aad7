"""Wire gauges, and what the tension curves of a fabric allow."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from gnomonic.core.errors import BadInput
from gnomonic.core.units import INCH_M

E_STEEL_PA = 200e9
ALPHA_STEEL = 11.7e-6  # a kelvin
# Steel Wire Gauge (Washburn & Moen), inches; whole gauges as in general engineering libraries, halves as printed by
# the trade (common practice).
STEEL_WIRE_GAUGE_IN = {
    0: 0.3065, 1: 0.2830, 2: 0.2625, 3: 0.2437, 4: 0.2253, 5: 0.2070, 6: 0.1920, 7: 0.1770, 8: 0.1620, 9: 0.1483,
    10: 0.1350, 11: 0.1205, 12: 0.1055, 12.5: 0.0990, 13: 0.0915, 14: 0.0800, 14.5: 0.0760, 15: 0.0720, 15.5: 0.0670,
    16: 0.0625, 17: 0.0540, 18: 0.0475, 19: 0.0410, 20: 0.0348,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Gauge:
    """A wire of one gauge: diameter, section and axial stiffness E·A (E 200 GPa)."""

    gauge: float
    inch: float
    printed: bool

    @property
    def m(self) -> float:
        """Diameter in metres."""
        return self.inch * INCH_M

    @property
    def area_m2(self) -> float:
        """Section π·d²/4."""
        return math.pi * self.m**2 / 4

    @property
    def ea_n(self) -> float:
        """Axial stiffness in newtons."""
        return E_STEEL_PA * self.area_m2


def gauge(number: float) -> Gauge:
    """Look a Steel Wire Gauge number up; a half gauge the trade does not print is its neighbours' mean.

    Source: Steel Wire Gauge table.  Raises BadInput (field ``gauge``) off the table.

    >>> gauge(12.5).inch
    0.099
    """
    if number in STEEL_WIRE_GAUGE_IN:
        return Gauge(number, STEEL_WIRE_GAUGE_IN[number], True)
    low, high = math.floor(number), math.ceil(number)
    if number * 2 != int(number * 2) or low not in STEEL_WIRE_GAUGE_IN or high not in STEEL_WIRE_GAUGE_IN:
        raise BadInput(
            "gauge", f"gauge {number:g} is not a Steel Wire Gauge number: use 0 to 20 in whole or half steps"
        )
    return Gauge(number, (STEEL_WIRE_GAUGE_IN[low] + STEEL_WIRE_GAUGE_IN[high]) / 2, False)


def half_curve_tension_n(diameter_m: float, pitch_m: float) -> float:
    """Tension at which half the height of a wire's tension curve is out: EI·(2π/p)².

    Source: elastic shallow bow under tension, derived in docs/method.md §8.

    >>> round(half_curve_tension_n(0.00251, 0.1524), 1)
    662.3
    """
    return E_STEEL_PA * math.pi * diameter_m**4 / 64 * (2 * math.pi / pitch_m) ** 2


def curve_strain(tension_n: float, diameter_m: float, curve_m: float, pitch_m: float) -> float:
    """Strain of a wire with a sinusoidal tension curve of amplitude ``curve_m`` under tension.

    >>> round(curve_strain(662.3, 0.00251, 0.004, 0.1524) * 100, 4)
    0.5769
    """
    ea = E_STEEL_PA * math.pi * diameter_m**2 / 4
    out = 1 / (1 + tension_n / half_curve_tension_n(diameter_m, pitch_m))
    return tension_n / ea + (math.pi * curve_m / pitch_m) ** 2 * (1 - out**2)


def _tension_at(strain: float, most_n: float, diameter_m: float, curve_m: float, pitch_m: float) -> float:
    """Tension (N, 0 to ``most_n``) at which a wire is strained so much."""
    low, high = 0.0, most_n
    for _ in range(60):
        middle = (low + high) / 2
        low, high = (middle, high) if curve_strain(middle, diameter_m, curve_m, pitch_m) < strain else (low, middle)
    return low


def cold_tension_n(
    tension_n: float, drop_k: float, diameter_m: float, curve_m: float = 0.0, pitch_m: float = 1.0
) -> float:
    """Tension of a wire with fixed ends when it has cooled by ``drop_k``: strain(T) − α·drop stays what it was.

    Source: docs/method.md §8; a straight wire (``curve_m`` 0) gains E·A·α·drop.

    >>> round(cold_tension_n(662.3, 40, 0.00251, 0.004, 0.1524)), round(cold_tension_n(1100, 40, 0.00251))
    (808, 1563)
    """
    want = curve_strain(tension_n, diameter_m, curve_m, pitch_m) + ALPHA_STEEL * drop_k
    straight = tension_n + E_STEEL_PA * math.pi * diameter_m**2 / 4 * ALPHA_STEEL * drop_k
    return _tension_at(want, straight, diameter_m, curve_m, pitch_m)


def fabric_wires_n(diameters_m: Sequence[float], curve_m: float, pitch_m: float) -> list[float]:
    """Tension of each wire of a fabric pulled so that half the curve is left in every one; the wires share one strain.

    >>> round(sum(fabric_wires_n([0.00251] * 2 + [0.00193] * 7, 0.004, 0.1524)), -1)
    2800.0
    """
    limit = min(curve_strain(half_curve_tension_n(d, pitch_m), d, curve_m, pitch_m) for d in diameters_m)
    return [_tension_at(limit, half_curve_tension_n(d, pitch_m), d, curve_m, pitch_m) for d in diameters_m]
