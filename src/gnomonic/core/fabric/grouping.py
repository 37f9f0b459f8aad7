"""Grouping of many runs: which share rolls so that there are fewest rolls, then fewest splices.

A run by itself takes b−1 whole rolls and a tail.  Tails that fit one roll together form a group without a splice of
their own, so packing tails into rolls (and owned offcuts) is a bin packing; m bins whose free lengths make up a roll can
be joined into m−1 at the price of m−2 splices.  Best fit over several orders with such joining gives a start; where it
does not reach the bounds, a dozen runs are grouped over all their subsets; for more, constraint programming goes on from
the start, each aim under a limit of work and with its bound.

Source: derived in docs/method.md §9; best fit decreasing: any text on bin packing.
"""

import math
import random
from collections.abc import Sequence
from dataclasses import dataclass, field

from gnomonic.core.fabric.lengths import Grouping, Lengths
from gnomonic.core.fabric.subsets import MOST, over_all_subsets

MM = 1000
ORDERS = 60


@dataclass(slots=True)
class _Bin:
    """Tails in one roll (``offcut`` None) or in an owned offcut; ``rolls`` counts the rolls of joined bins."""

    free: int
    offcut: int | None = None
    runs: list[int] = field(default_factory=list)
    rolls: int = 1


def group_large(
    need_m: Sequence[float], offcuts_m: Sequence[float], roll_m: float, overlap_m: float, work_s: float
) -> tuple[tuple[int, int, float], Grouping]:
    """Bounds (rolls; splices given those rolls; −inf for the offcut) and groups as (runs, offcuts, new rolls).

    Lengths in m; ``work_s`` limits the search in deterministic seconds, so that the answer is repeatable.
    """
    lengths = Lengths(
        need=[math.ceil(v * MM - 1e-6) for v in need_m],
        own=[math.floor(v * MM + 1e-6) for v in offcuts_m],
        roll=math.floor(roll_m * MM + 1e-6),
        lap=math.ceil(overlap_m * MM - 1e-6),
    )
    if len(need_m) + len(offcuts_m) <= MOST:
        best = over_all_subsets(lengths)
        return (*score(best), -math.inf), best
    start = _start(lengths)
    rolls, splices = score(start)
    if rolls == lengths.least_rolls() and splices == lengths.least_splices():
        return (rolls, splices, -math.inf), start
    from gnomonic.core.fabric.grouping_search import improve

    return improve(lengths, start, work_s)


def score(grouping: Grouping) -> tuple[int, int]:
    """New rolls and splices of a grouping."""
    rolls = sum(new for _, _, new in grouping)
    return rolls, rolls + sum(len(own) for _, own, _ in grouping) - len(grouping)


def _start(lengths: Lengths) -> Grouping:
    """The best of several orders of packing, the longest tails first being the first tried."""
    order = sorted(range(len(lengths.need)), key=lambda k: -lengths.tail(k))
    shuffle = random.Random(1)
    best = _packed(lengths, order)
    for _ in range(ORDERS):
        mixed = sorted(order, key=lambda k: -lengths.tail(k) * shuffle.uniform(0.6, 1.4))
        best = min(best, _packed(lengths, mixed), key=score)
    return best


def _packed(lengths: Lengths, order: Sequence[int]) -> Grouping:
    """Best fit of tails into offcuts and rolls in this order, then bins joined to save rolls."""
    bins = [_Bin(length, offcut=k) for k, length in enumerate(lengths.own)]
    for run in order:
        tail = lengths.tail(run)
        fit = min((b for b in bins if b.free >= tail), key=lambda b: b.free, default=None)
        if fit is None:
            fit = _Bin(lengths.roll)
            bins.append(fit)
        fit.free -= tail
        fit.runs.append(run)
    bins = [b for b in bins if b.runs]
    while joined := _joined(lengths, bins):
        bins = joined
    return [
        (
            tuple(sorted(b.runs)),
            () if b.offcut is None else (b.offcut,),
            sum(lengths.whole_rolls(r) for r in b.runs) + (b.rolls if b.offcut is None else 0),
        )
        for b in bins
    ]


def _joined(lengths: Lengths, bins: list[_Bin]) -> list[_Bin] | None:
    """The emptiest bins joined so that one roll is saved, or None when their free lengths do not make one up."""
    rolls = sorted((b for b in bins if b.offcut is None), key=lambda b: -b.free)
    free = 0
    for count, emptiest in enumerate(rolls, 1):
        free += emptiest.free
        left = free - lengths.roll - (count - 2) * lengths.lap
        if count >= 2 and left >= 0:
            taken = rolls[:count]
            whole = _Bin(left, None, [r for b in taken for r in b.runs], sum(b.rolls for b in taken) - 1)
            return [b for b in bins if b not in taken] + [whole]
    return None
