"""Wires clamped by one bar: they share one strain, whatever their gauges.

A ``Bar`` turns a pull into a strain and back, and knows what a stretch along which the pull falls evenly gives in length:
∫ε ds = ∫ε dP / w, and ∫ε dP is what P·ε leaves of the energy ∫P dε (derived, docs/method.md §8).
"""

import math
from bisect import bisect_right
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from functools import cached_property, lru_cache

import numpy as np

from gnomonic.core.fabric.wire import ALPHA_STEEL, Crimped, bar_strain

POINTS = 1200
UTMOST_PA = 4e9  # no steel wire carries more: the table ends there
EVEN_N = 1e-6  # a pull that changes by less over a stretch is one pull


@dataclass(frozen=True)
class Bar:
    """Wires of a bar by kind: each wire and how many of it."""

    wires: tuple[tuple[Crimped, int], ...]
    _table: "_Table" = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        if not self.wires:
            raise ValueError("a bar holds one wire at least")
        object.__setattr__(self, "_table", _table(self.wires))

    def pull_n(self, strain: float) -> float:
        """Pull of all wires at a strain; none where they are slack.

        >>> bar = Bar(((Crimped(0.00251, 0.004, 0.1524), 2), (Crimped(0.00193, 0.004, 0.1524), 7)))
        >>> round(bar.pull_n(bar.strain(2945.1)), 4)
        2945.1
        """
        return sum(count * wire.tension_n(strain) for wire, count in self.wires) if strain > 0 else 0.0

    def strain(self, pull_n: float) -> float:
        """The one strain at which they pull so much together."""
        return self._table.strain(pull_n) if pull_n > 0 else 0.0

    def length_of(self, from_n: float, to_n: float, over_m: float) -> float:
        """What a stretch gives in length along which the pull goes evenly from one value to another."""
        if over_m <= 0:
            return 0.0
        if abs(from_n - to_n) < EVEN_N * (1.0 + max(from_n, to_n)):
            return self.strain((from_n + to_n) / 2) * over_m
        return (self._table.work(from_n) - self._table.work(to_n)) / (from_n - to_n) * over_m

    def wires_n(self, pull_n: float) -> tuple[float, ...]:
        """Tension of a wire of each kind."""
        strain = self.strain(pull_n)
        return tuple(wire.tension_n(strain) for wire, _ in self.wires)

    def out(self, pull_n: float) -> tuple[float | None, ...]:
        """Share of the curve that is out, of each kind; none of a straight wire."""
        return shares_out(self.wires, self.wires_n(pull_n))

    @cached_property
    def half_sum_n(self) -> float | None:
        """Sum of what each wire stands at with half its curve out, as if each were pulled by itself; none with a straight wire."""
        halves = [count * wire.half_n for wire, count in self.wires]
        return None if math.inf in halves else sum(halves)

    @cached_property
    def half_first_n(self) -> float | None:
        """The pull at which the first wire has lost half its curve; none where no wire has one."""
        curved = [wire for wire, _ in self.wires if wire.curve_m]
        return self.pull_n(bar_strain(curved)) if curved else None

    @cached_property
    def half_strain(self) -> float:
        """The strain at which the first wire has lost half its curve; endless where none has one."""
        return min((wire.strain(wire.half_n) for wire, _ in self.wires if wire.curve_m), default=math.inf)

    def warmer_n(self, pull_n: float, warmer_k: float) -> float:
        """Pull at a place whose ends are fixed when it is so much warmer: its length stays, the wires grow."""
        return self.pull_n(self.strain(pull_n) - ALPHA_STEEL * warmer_k)


def bar(wires: Iterable[Crimped]) -> Bar:
    """Wires one by one as a bar: alike ones together, in the order they come."""
    counts: dict[Crimped, int] = {}
    for wire in wires:
        counts[wire] = counts.get(wire, 0) + 1
    return _kept(tuple(counts.items()))


@lru_cache(maxsize=256)
def _kept(wires: tuple[tuple[Crimped, int], ...]) -> Bar:
    return Bar(wires)


def shares_out(wires: Sequence[tuple[Crimped, int]], tensions_n: Sequence[float]) -> tuple[float | None, ...]:
    """Share of the curve that is out at a tension of each kind; none of a straight wire."""
    return tuple(w.out(t) if w.curve_m else None for (w, _), t in zip(wires, tensions_n, strict=True))


class _Table:
    """Strain and ∫ε dP at rising pulls, read between them by cubics that have the right slope at both ends."""

    __slots__ = ("even", "pulls", "slopes", "strains", "works")

    def __init__(self, wires: tuple[tuple[Crimped, int], ...]) -> None:
        self.even = sum(n * w.ea_n for w, n in wires) if all(not w.curve_m for w, _ in wires) else 0.0
        if self.even:
            return
        most = min(w.strain(UTMOST_PA * math.pi * w.d_m**2 / 4) for w, _ in wires)
        strains = most * np.linspace(0.0, 1.0, POINTS) ** 2
        pulls, stiff, energy = np.zeros(POINTS), np.zeros(POINTS), np.zeros(POINTS)
        for w, n in wires:
            tension = _tensions(w, strains)
            x = tension / w.half_n if w.curve_m else np.zeros(POINTS)
            spare = (math.pi * w.curve_m / w.pitch_m) ** 2 if w.curve_m else 0.0
            soft = 2 * spare / w.half_n / (1 + x) ** 3 if w.curve_m else 0.0
            pulls += n * tension
            stiff += n / (1 / w.ea_n + soft)
            stored = spare * w.half_n * (x / (1 + x)) ** 2 if w.curve_m else 0.0
            energy += n * (tension**2 / (2 * w.ea_n) + stored)
        self.pulls: list[float] = pulls.tolist()
        self.strains: list[float] = strains.tolist()
        self.slopes: list[float] = (1 / stiff).tolist()
        self.works: list[float] = (pulls * strains - energy).tolist()

    def strain(self, pull_n: float) -> float:
        """Strain at a pull."""
        if self.even:
            return pull_n / self.even
        return self._read(pull_n, self.strains, self.slopes)

    def work(self, pull_n: float) -> float:
        """∫ε dP from nothing up to a pull."""
        if self.even:
            return pull_n**2 / (2 * self.even)
        return self._read(pull_n, self.works, self.strains)

    def _read(self, pull_n: float, values: list[float], slopes: list[float]) -> float:
        k = min(max(bisect_right(self.pulls, pull_n) - 1, 0), POINTS - 2)
        low, step = self.pulls[k], self.pulls[k + 1] - self.pulls[k]
        t = (pull_n - low) / step
        if t > 1:  # beyond what any wire carries
            return values[k + 1] + slopes[k + 1] * (pull_n - self.pulls[k + 1])
        u = 1 - t
        return u * u * ((1 + 2 * t) * values[k] + t * step * slopes[k]) + t * t * (
            (3 - 2 * t) * values[k + 1] - u * step * slopes[k + 1]
        )


def _tensions(
    wire: Crimped, strains: "np.ndarray[tuple[int], np.dtype[np.float64]]"
) -> "np.ndarray[tuple[int], np.dtype[np.float64]]":
    return np.array([wire.tension_n(s) for s in strains.tolist()])


@lru_cache(maxsize=256)
def _table(wires: tuple[tuple[Crimped, int], ...]) -> _Table:
    return _Table(wires)
