"""Wire that yields before half its curve is out: part of the set stays.

A crest carries the moment T·a; it can carry no more than the plastic moment σy·d³/6 of a round section (any text on plasticity;
the tension in the section itself is left out).  So under T the curve is no higher than that moment over T, and what was bent out
beyond the elastic stays out when the pull is gone.  Where between the elastic law and this one a roll lies only a reading
tells; docs/method.md §8.
"""

from dataclasses import dataclass, replace

from gnomonic.core.fabric.wire import Crimped


@dataclass(frozen=True, slots=True)
class Soft:
    """What a line wire is after a pull if it yields at ``yield_pa``: ``stands_m`` of its curve's height under that pull, and
    the wire as its curve is now without one."""

    out: float
    stands_m: float
    now: Crimped

    @property
    def set_m(self) -> float:
        """Height of the curve that is gone for good."""
        return self._was_m - self.now.curve_m

    @property
    def _was_m(self) -> float:
        return self.stands_m / (1 - self.out) if self.out < 1 else 0.0


def plastic_nm(wire: Crimped, yield_pa: float) -> float:
    """The most a round section is bent by: σy·d³/6."""
    return yield_pa * wire.d_m**3 / 6


def softened(wire: Crimped, tension_n: float, yield_pa: float) -> Soft:
    """A curved wire that was pulled to a tension for the first time.

    >>> s = softened(Crimped(0.00251, 0.004, 0.1524), 461.2, 350e6)
    >>> round(s.out, 2), round(s.now.curve_m * 1000, 2)
    (0.5, 3.39)
    """
    elastic = wire.curve_m * (1 - wire.out(tension_n))
    plastic = plastic_nm(wire, yield_pa) / tension_n if tension_n > 0 else elastic
    stands = min(elastic, plastic)
    back = stands * (1 + tension_n / wire.half_n)
    return Soft(1 - stands / wire.curve_m, stands, replace(wire, curve_m=back))


def half_soft_n(wire: Crimped, yield_pa: float) -> float:
    """Tension at which half the curve is out if the wire yields at so much; that of the elastic wire where it does not.

    >>> round(half_soft_n(Crimped(0.00251, 0.004, 0.1524), 350e6)), round(half_soft_n(Crimped(0.00251, 0.004, 0.1524), 2e9))
    (461, 662)
    """
    return min(wire.half_n, 2 * plastic_nm(wire, yield_pa) / wire.curve_m)
