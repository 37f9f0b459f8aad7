"""Wire gauges, and what the tension curves of a fabric allow."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

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


@dataclass(frozen=True, slots=True)
class Crimped:
    """A line wire with a sinusoidal tension curve of amplitude ``curve_m`` and wavelength ``pitch_m`` (0: straight).

    Both belong to the wire as it was crimped, not to the stays.  Source: elastic shallow bow under tension, derived in
    docs/method.md §8.
    """

    d_m: float
    curve_m: float = 0.0
    pitch_m: float = 0.0
    e_pa: float = E_STEEL_PA

    @property
    def ea_n(self) -> float:
        """Axial stiffness."""
        return self.e_pa * math.pi * self.d_m**2 / 4

    @property
    def half_n(self) -> float:
        """Tension at which half the height of the curve is out: EI·(2π/p)²; endless for a straight wire.

        >>> round(Crimped(0.00251, 0.004, 0.1524).half_n, 1), round(Crimped(0.00193, 0.004, 0.1524).half_n, 1)
        (662.3, 231.5)
        """
        if not self.curve_m:
            return math.inf
        return self.e_pa * math.pi * self.d_m**4 / 64 * (2 * math.pi / self.pitch_m) ** 2

    def out(self, tension_n: float) -> float:
        """Share of the curve's height that is out: 1 − 1/(1 + T/Tc)."""
        return 1 - 1 / (1 + tension_n / self.half_n)

    def strain(self, tension_n: float) -> float:
        """T/EA + (π·a0/p)²·(1 − 1/(1 + T/Tc)²).

        >>> wire = Crimped(0.00251, 0.004, 0.1524)
        >>> round(wire.strain(wire.half_n) * 100, 4)
        0.5769
        """
        if not self.curve_m:
            return tension_n / self.ea_n
        return tension_n / self.ea_n + (math.pi * self.curve_m / self.pitch_m) ** 2 * (
            1 - (1 - self.out(tension_n)) ** 2
        )

    def tension_n(self, strain: float) -> float:
        """Tension of a wire strained so much; none where it is slack."""
        if not self.curve_m:
            return max(0.0, strain * self.ea_n)
        if strain <= 0:
            return 0.0
        # with u = 1 + T/Tc the strain is b·(u − 1) + K·(1 − 1/u²): b·u³ + (K − b − ε)·u² − K = 0, one root above 1
        spare, b = (math.pi * self.curve_m / self.pitch_m) ** 2, self.half_n / self.ea_n
        low, high = 1.0, 1.0 + strain / b
        u = min(high, (1 - strain / spare) ** -0.5) if strain < spare else high
        for _ in range(100):
            value = (b * u + spare - b - strain) * u * u - spare
            low, high = (u, high) if value < 0 else (low, u)
            step = value / ((3 * b * u + 2 * (spare - b - strain)) * u) if value else 0.0
            after = u - step
            if not low <= after <= high:
                after = (low + high) / 2
            if abs(after - u) <= 1e-14 * u:
                break
            u = after
        return (u - 1) * self.half_n


@cache
def cold_strain(wire: Crimped, tension_n: float, drop_k: float) -> float:
    """Strain of a wire with fixed ends when it has cooled: what it was, and what the cold takes from its length."""
    return wire.strain(tension_n) + ALPHA_STEEL * drop_k


@cache
def cold_n(wire: Crimped, tension_n: float, drop_k: float) -> float:
    """Tension of a wire with fixed ends when it has cooled by ``drop_k``.

    >>> round(cold_n(Crimped(0.00251, 0.004, 0.1524), 662.3, 40)), round(cold_n(Crimped(0.00251), 1100, 40))
    (808, 1563)
    """
    return wire.tension_n(cold_strain(wire, tension_n, drop_k))


STEPS = 40
Strung = tuple[tuple[Crimped, float, int], ...]  # wires alike: the wire, its strain, how many


@cache
def relief(strung: Strung, still_n: float) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """What is left of a pull when its ends give: strains given back (rising from 0), and the share of the pull left at each.

    ``still_n`` is what does not grow less (a mesh whose own give is not known).
    """
    most = max(strain for _, strain, _ in strung)
    given = tuple(most * (k / STEPS) ** 2 for k in range(STEPS + 1))
    pulls = [still_n + sum(n * wire.tension_n(strain - back) for wire, strain, n in strung) for back in given]
    return given, tuple(p / pulls[0] for p in pulls)


def bar_strain(wires: Sequence[Crimped], working: Sequence[float] = ()) -> float:
    """The strain at which no wire of a bar is past half its curve, nor past its ``working`` tension (N, one a wire).

    Wires clamped by one bar share one strain.

    >>> wires = [Crimped(0.00251, 0.004, 0.1524)] * 2 + [Crimped(0.00193, 0.004, 0.1524)] * 7
    >>> round(sum(w.tension_n(bar_strain(wires)) for w in wires), -1)
    2800.0
    """
    halves = [w.strain(w.half_n) for w in wires if w.curve_m]
    return min(halves + [w.strain(t) for w, t in zip(wires, working, strict=False)])
