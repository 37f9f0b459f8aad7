"""How a pull falls off along a run: bends it is drawn round, ground and clips it drags over.

Source: the belt-friction equation T·e^(−μθ) (any statics text), less what knots that dig in catch at each bend, and an even drag
a metre; docs/method.md §8.  All lengths are along the fabric.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from gnomonic.core.fabric.bar import Bar


@dataclass(frozen=True, slots=True)
class Bend:
    """A place where the fabric is turned by ``rad`` over something of friction ``mu`` that catches ``catch_n`` besides."""

    at_m: float
    rad: float
    mu: float
    catch_n: float = 0.0

    def moved(self, by_m: float) -> "Bend":
        """The same bend by stations that begin elsewhere."""
        return Bend(self.at_m + by_m, self.rad, self.mu, self.catch_n)

    def after_n(self, before_n: float) -> float:
        """What is left of a pull beyond it.

        >>> round(Bend(10.0, math.pi / 2, 0.3).after_n(1000.0), 1)
        624.2
        """
        return max(0.0, before_n * math.exp(-self.mu * self.rad) - self.catch_n)

    def holds_n(self, outer_n: float) -> float:
        """The most it holds back inward of itself when the pull outside it is let go: friction the other way round."""
        return (outer_n + self.catch_n) * math.exp(self.mu * self.rad)


@dataclass(frozen=True, slots=True)
class Path:
    """A run as it is pulled: its length, its bends in order of station, and the drag a metre."""

    length_m: float
    bends: tuple[Bend, ...] = ()
    drag_n_m: float = 0.0

    def turned(self) -> "Path":
        """The same run seen from its other end."""
        bends = tuple(b.moved(self.length_m - 2 * b.at_m) for b in reversed(self.bends))
        return Path(self.length_m, bends, self.drag_n_m)

    def part(self, from_m: float, to_m: float) -> "Path":
        """What of it lies between two stations, seen from the first; a bend on an edge belongs to neither part."""
        inside = tuple(b.moved(-from_m) for b in self.bends if from_m + AT_M < b.at_m < to_m - AT_M)
        return Path(to_m - from_m, inside, self.drag_n_m)

    def split(self, at_m: float, behind: int) -> "tuple[Path, Path]":
        """Both sides of a place that has so many bends behind it, each seen from there."""
        back = Path(at_m, self.bends[:behind], self.drag_n_m)
        ahead = tuple(b.moved(-at_m) for b in self.bends[behind:])
        return back.turned(), Path(self.length_m - at_m, ahead, self.drag_n_m)


AT_M = 1e-9


@dataclass(frozen=True, slots=True)
class Stretch:
    """A piece of a run along which the pull goes evenly from ``start_n`` to ``end_n``."""

    from_m: float
    to_m: float
    start_n: float
    end_n: float

    @property
    def long_m(self) -> float:
        """Its length."""
        return self.to_m - self.from_m

    def at_n(self, at_m: float) -> float:
        """Pull at a station of it."""
        if self.long_m <= 0:
            return self.start_n
        return self.start_n + (self.end_n - self.start_n) * (at_m - self.from_m) / self.long_m

    def flipped(self, length_m: float) -> "Stretch":
        """The same piece by stations from the other end."""
        return Stretch(length_m - self.to_m, length_m - self.from_m, self.end_n, self.start_n)

    def moved(self, by_m: float) -> "Stretch":
        """The same piece by stations that begin elsewhere."""
        return Stretch(self.from_m + by_m, self.to_m + by_m, self.start_n, self.end_n)


Pulled = tuple[Stretch, ...]


def pulled(path: Path, pull_n: float) -> Pulled:
    """The pull along a run that is drawn at station 0 and fixed at its other end.

    A stretch a bend; where drag uses the pull up within one, it is parted there.
    """
    found: list[Stretch] = []
    at, now = 0.0, pull_n
    for bend in (*path.bends, None):
        to = path.length_m if bend is None else bend.at_m
        end = now - path.drag_n_m * (to - at)
        if end < 0:
            gone = at + now / path.drag_n_m
            if gone > at:
                found.append(Stretch(at, gone, now, 0.0))
            found.append(Stretch(gone, to, 0.0, 0.0))
            end = 0.0
        else:
            found.append(Stretch(at, to, now, end))
        at, now = to, end if bend is None else bend.after_n(end)
    return tuple(found)


def take_up_m(bar: Bar, stretches: Sequence[Stretch]) -> float:
    """What the wires of a bar give in length along stretches."""
    return sum(bar.length_of(s.start_n, s.end_n, s.long_m) for s in stretches)


def least_n(stretches: Sequence[Stretch]) -> float:
    """The least pull along stretches."""
    return min(min(s.start_n, s.end_n) for s in stretches)


def greatest(stretches: Sequence[Stretch]) -> tuple[float, float]:
    """The greatest pull along stretches, and the first station it is at."""
    best = max(max(s.start_n, s.end_n) for s in stretches)
    for s in stretches:
        for n, at in ((s.start_n, s.from_m), (s.end_n, s.to_m)):
            if n >= best - 1e-9 * max(1.0, best):
                return best, at
    raise AssertionError("a run has a greatest pull")
