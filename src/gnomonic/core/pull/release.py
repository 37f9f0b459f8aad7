"""Letting go: the pulled end gives back, and friction turns round.

Near the released end the wire slides back; every bend and metre of drag now holds the tension in, so that inward it rises until it
meets the pull that was there.  Beyond that nothing moved.  Source: the anchorage set of a post-tensioned tendon (EN 1992-1-1
§5.10.5 and any text on prestressing), with the wires' own law of strain; docs/method.md §8.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from gnomonic.core.fabric.bar import Bar
from gnomonic.core.pull.path import Path, Pulled, Stretch, pulled


@dataclass(frozen=True, slots=True)
class Released:
    """A run after its pulled end gave back ``slip_m``: the pull at that end, how far in anything slid, the pull along it now,
    and what was left over once the end had none."""

    slip_m: float
    end_n: float
    affected_m: float
    stretches: Pulled
    slack_m: float = 0.0


@dataclass(slots=True)
class _Slide:
    """One try: the end at a pull, what the wires gave back for that, and what is along the run then."""

    lost_m: float
    affected_m: float
    stretches: list[Stretch]


def _slide(path: Path, bar: Bar, before: Pulled, end_n: float) -> _Slide:
    drag, now, lost = path.drag_n_m, end_n, 0.0
    made: list[Stretch] = []
    bends = {b.at_m: b for b in path.bends}
    for k, s in enumerate(before):
        if now >= s.start_n:  # here it was no tighter: the bend or the drag before it holds
            return _Slide(lost, s.from_m, [*made, *before[k:]])
        fall = s.start_n - s.end_n
        closes = fall + drag * s.long_m
        meets = (s.start_n - now) / closes if closes > 0 else math.inf
        if meets <= 1:
            at, level = s.from_m + meets * s.long_m, s.start_n - meets * fall
            lost += bar.length_of(s.start_n, level, at - s.from_m) - bar.length_of(now, level, at - s.from_m)
            rest = [Stretch(at, s.to_m, level, s.end_n)] if meets < 1 else []
            return _Slide(lost, at, [*made, Stretch(s.from_m, at, now, level), *rest, *before[k + 1 :]])
        top = now + drag * s.long_m
        lost += bar.length_of(s.start_n, s.end_n, s.long_m) - bar.length_of(now, top, s.long_m)
        made.append(Stretch(s.from_m, s.to_m, now, top))
        now = top
        if k + 1 < len(before) and (bend := bends.get(s.to_m)):
            now = bend.holds_n(now)
    return _Slide(lost, path.length_m, made)


def release(path: Path, bar: Bar, pull_n: float, slip_m: float) -> Released:
    """A run pulled at station 0 to ``pull_n``, fixed at its far end, whose pulled end then gives back ``slip_m``.

    >>> from gnomonic.core.fabric.wire import Crimped
    >>> straight = Bar(((Crimped(0.00251), 1),))
    >>> r = release(Path(500.0, (), 2.0), straight, 2000.0, 0.010)
    >>> round(r.affected_m, 1), round(2000.0 - r.end_n)
    (70.3, 281)
    """
    (left,), slack = _let_go(bar, [(path, pulled(path, pull_n))], pull_n, slip_m)
    return Released(slip_m, left.stretches[0].start_n, left.affected_m, tuple(left.stretches), slack)


def let_go_joined(bar: Bar, sides: Sequence[Path], pull_n: float, slip_m: float) -> tuple[Released, ...]:
    """Runs drawn towards one joint, spliced, and let go: the joint gives ``slip_m`` in all and is one pull on both sides."""
    made, slack = _let_go(bar, [(side, pulled(side, pull_n)) for side in sides], pull_n, slip_m)
    return tuple(Released(slip_m, s.stretches[0].start_n, s.affected_m, tuple(s.stretches), slack) for s in made)


def _let_go(bar: Bar, sides: Sequence[tuple[Path, Pulled]], pull_n: float, slip_m: float) -> tuple[list[_Slide], float]:
    """Every side with its end at the one pull at which together they gave back so much; what is left over when that is none."""

    from scipy.optimize import brentq  # half a second to load: not for those who never let go

    def lost(end_n: float) -> float:
        return sum(_slide(path, bar, before, end_n).lost_m for path, before in sides)

    if slip_m <= 0 or pull_n <= 0:
        end = max(0.0, pull_n)
    elif (most := lost(0.0)) <= slip_m:
        return [_slide(path, bar, before, 0.0) for path, before in sides], slip_m - most
    else:
        end = brentq(lambda n: lost(n) - slip_m, 0.0, pull_n, xtol=1e-9, rtol=1e-13)
    return [_slide(path, bar, before, end) for path, before in sides], max(0.0, slip_m) if pull_n <= 0 else 0.0
