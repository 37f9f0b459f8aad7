"""How hard: the pull of the day, so that no wire has lost more than half its curve on the coldest night nor hangs slack on the hottest day.

Strain is what stays when ends are fixed: a wire that is to be at half its curve on the coldest night is pulled today to that strain
less what the cold takes from its length.  Source: docs/method.md §8.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from gnomonic.core.fabric.bar import Bar
from gnomonic.core.fabric.wire import ALPHA_STEEL

By = Literal["curve", "working", "ends"]


@dataclass(frozen=True, slots=True)
class Days:
    """The day of the pull, and the coldest and hottest of the record, °C."""

    day_c: float
    cold_c: float
    hot_c: float

    @property
    def drop_k(self) -> float:
        """How much colder it may become."""
        return self.day_c - self.cold_c

    @property
    def rise_k(self) -> float:
        """How much hotter it may become."""
        return self.hot_c - self.day_c


@dataclass(frozen=True, slots=True)
class Aim:
    """What is pulled to today and what decides it: half the curve on the coldest night, the working tension today, or what the
    ends hold on the coldest night.  ``slack_n`` is the pull today under which it hangs slack on the
    hottest day; ``slack`` when more than that is not allowed."""

    pull_n: float
    by: By
    days: Days
    cold_n: float
    hot_n: float
    slack_n: float

    @property
    def slack(self) -> bool:
        """Whether it hangs slack on the hottest day."""
        return self.hot_n <= 0


def aim(bar: Bar, days: Days, working_n: Sequence[float] = (), ends_n: float | None = None) -> Aim:
    """The pull of the day on wires of a bar: the least of what half the curve, the working tension and the ends allow.

    ``working_n`` is what each kind of wire is pulled to at most, ``ends_n`` what the ends are designed for on the coldest night.

    >>> from gnomonic.core.fabric.wire import Crimped
    >>> straight = Bar(((Crimped(0.0025146), 1),))
    >>> found = aim(straight, Days(20.0, -20.0, 35.0), (1112.0,), 1400.0)
    >>> round(found.pull_n), found.by, round(found.cold_n)
    (935, 'ends', 1400)
    """
    cold = ALPHA_STEEL * days.drop_k
    limits: list[tuple[float, By]] = [(bar.half_strain - cold, "curve")]
    if working_n:
        # straight wires too: each is kept under its own working tension
        wires = [w for w, _ in bar.wires]
        limits.append((min(w.strain(n) for w, n in zip(wires, working_n, strict=True)), "working"))
    if ends_n is not None:
        limits.append((bar.strain(ends_n) - cold, "ends"))
    strain, by = min(limits)
    pull = bar.pull_n(max(0.0, strain))
    slack = bar.pull_n(ALPHA_STEEL * days.rise_k)
    return Aim(pull, by, days, bar.warmer_n(pull, -days.drop_k), bar.warmer_n(pull, days.rise_k), slack)
