"""The inner loop of scheduling, compiled: activities are placed one after the other, each as early as what is left allows.

A schedule made so can't be pushed left: none could begin earlier with all others where they are (Kolisch 1996, from memory).
"""

from collections.abc import Sequence

import numpy as np
from numba import njit
from numpy.typing import NDArray

from gnomonic.core.days.problem import STEP_MIN, Activity, After, Ints, Mode, Problem, Schedule, in_order
from gnomonic.core.kept import KeptBy

NEVER = -1
Shape = tuple[Ints, ...]


@njit(cache=True, nogil=True)
def place(
    order: Ints, slots: Ints, fixed: Ints, shape: Shape, free: Ints, ready: Ints, stopped: Ints, day: Ints, out: Ints
) -> int:
    """Fill ``out`` (n, 3: start, end, mode) in the order given; the end of the last, or ``NEVER`` where one finds no place.

    ``shape`` is ``Placer.shape``; ``slots`` (n, modes) how long each takes.
    ``free`` (resources, slots) is used up.  A begun activity pauses where ``stops`` meets ``stopped`` and uses nothing then, one that is
    ``whole`` begins anew after it and after a night; ``fixed`` is the one mode to use, or -1.  Of several modes the one that ends first is taken, of those the first.
    """  # fmt: skip
    uses, modes, ptr, before, lag, wait, earliest, stops, whole = shape
    end_of_clock, kinds = free.shape[1], free.shape[0]
    last = 0
    for k in order:
        first = earliest[k]
        for q in range(ptr[k], ptr[k + 1]):
            end = out[before[q], 1]
            first = max(first, end + lag[q])
            if wait[q] >= 0:
                first = max(first, ready[wait[q], end])
        best_end, best_start, best_mode = end_of_clock + 1, -1, -1
        for m in range(modes[k]):
            if fixed[k] >= 0 and m != fixed[k]:
                continue
            start, done, t = -1, 0, first
            while t < end_of_clock and t + 1 < best_end:
                if stopped[t] & stops[k]:
                    if whole[k]:
                        done = 0
                    t += 1
                    continue
                if whole[k] and done > 0 and day[t] != day[start]:
                    done = 0
                fits = True
                for r in range(kinds):
                    if uses[k, m, r] > free[r, t]:
                        fits = False
                        break
                if fits:
                    if done == 0:
                        start = t
                    done += 1
                    if done == slots[k, m]:
                        best_end, best_start, best_mode = t + 1, start, m
                        break
                else:
                    done = 0
                t += 1
        if best_mode < 0:
            return NEVER
        for t in range(best_start, best_end):
            if not stopped[t] & stops[k]:
                for r in range(kinds):
                    free[r, t] -= uses[k, best_mode, r]
        out[k, 0], out[k, 1], out[k, 2] = best_start, best_end, best_mode
        last = max(last, best_end)
    return last


@njit(cache=True, nogil=True)
def listed(first: NDArray[np.float64], by_rank: Ints, ptr: Ints, before: Ints) -> Ints:
    """Activities by their number ``first``, those that come before others before them; ``by_rank`` is any order that keeps to that."""
    mine = first.copy()
    for k in by_rank:
        for q in range(ptr[k], ptr[k + 1]):
            mine[k] = max(mine[k], mine[before[q]] + 1e-6)
    return np.argsort(mine, kind="mergesort")


@njit(cache=True, nogil=True)
def seasons(
    order: Ints, slots: Ints, fixed: Ints, shape: Shape, capacity: Ints, ready: Ints, day: Ints, minute: Ints, bits: Ints, thunder: Ints, off: Ints,
    lightning: int, settled: Ints, rains_wait: int, ends: Ints,
) -> None:  # fmt: skip
    """Fill ``ends`` (seasons): the same order of work in season after season.

    ``slots`` (seasons, n, modes), ``shape`` as ``place``'s; ``bits`` and ``thunder`` (seasons, days) what can't be done all day and when thunder
    begins (-1: none), ``off`` until when nobody is near wire (seasons, days); ``settled`` (seasons, days) the day on which what ended has settled, for the wait of
    row ``rains_wait`` (-1: none).
    """  # fmt: skip
    n, last_day, clock = slots.shape[1], bits.shape[1] - 1, day.size
    stopped = np.zeros(clock, np.int64)
    first = np.full(last_day + 2, clock, np.int64)
    for t in range(clock - 1, -1, -1):
        first[day[t]] = t
    for d in range(last_day, -1, -1):
        first[d] = min(first[d], first[d + 1])
    mine = ready.copy()
    out = np.zeros((n, 3), np.int64)
    for s in range(slots.shape[0]):
        for t in range(clock):
            d = day[t]
            stopped[t] = bits[s, d]
            storm = thunder[s, d]
            if storm >= 0 and storm - STEP_MIN < minute[t] < off[s, d]:
                stopped[t] |= lightning
        if rains_wait >= 0:
            mine[rains_wait, 0] = 0
            for t in range(clock):
                mine[rains_wait, t + 1] = first[min(settled[s, day[t]], last_day + 1)]
        ends[s] = place(order, slots[s], fixed, shape, capacity.copy(), mine, stopped, day, out)


PLACERS_KEPT = 16


def placer_of(problem: Problem) -> "Placer":
    """The placer of a problem, made once while it is asked for."""
    return _placers.of(problem, None, lambda: Placer(problem))


class Placer:
    """A problem as arrays, ready to be placed again and again; nothing of it changes when it is."""

    def __init__(self, problem: Problem) -> None:
        acts, index = problem.activities, problem.index()
        n, most = len(acts), max((len(a.modes) for a in acts), default=1)
        self.problem = problem
        self.slots = np.zeros((n, most), np.int64)
        self.uses = np.zeros((n, most, problem.capacity.shape[0]), np.int64)
        for k, a in enumerate(acts):
            for m, mode in enumerate(a.modes):
                self.slots[k, m] = mode.slots
                for r, units in mode.uses:
                    self.uses[k, m, r] = units
        links = [(index[p.key], p.lag, p.wait) for a in acts for p in a.after]
        self.ptr = np.cumsum([0, *(len(a.after) for a in acts)]).astype(np.int64)
        self.before, self.lag, self.wait = (np.array([row[c] for row in links], np.int64) for c in range(3))
        self.modes = np.array([len(a.modes) for a in acts], np.int64)
        self.earliest = np.array([a.earliest for a in acts], np.int64)
        self.stops = np.array([a.stops for a in acts], np.int64)
        self.whole = np.array([a.whole for a in acts], np.int64)
        self.day = problem.day if problem.day.size else np.zeros(problem.slots, np.int64)
        self.any_mode = np.full(n, -1, np.int64)
        self.stopped = problem.stopped if problem.stopped.size else np.zeros(problem.slots, np.int64)
        ranked = in_order([(a.key, [p.key for p in a.after]) for a in acts])
        self.by_rank = np.array([index[key] for key in ranked], np.int64)

    def order(self, first: Sequence[float] | NDArray[np.float64]) -> Ints:
        """Activities with what comes first before them, otherwise those with the least number ``first``."""
        return listed(np.asarray(first, np.float64), self.by_rank, self.ptr, self.before)

    @property
    def shape(self) -> Shape:
        """What of the activities does not change from one order or season to the next."""
        return (
            self.uses, self.modes, self.ptr, self.before, self.lag, self.wait, self.earliest, self.stops, self.whole,
        )  # fmt: skip

    def place(self, order: list[int] | Ints, fixed: Ints | None = None) -> tuple[int, Ints]:
        """When the last ends (``NEVER`` where one finds no place on this clock) and start, end and mode of each; ``fixed`` is the one mode of each to
        use, -1 for any."""  # fmt: skip
        out = np.zeros((len(self.modes), 3), np.int64)
        end = place(
            np.asarray(order, np.int64), self.slots, self.any_mode if fixed is None else fixed, self.shape, self.problem.capacity.copy(),
            self.problem.ready, self.stopped, self.day, out,
        )  # fmt: skip
        return int(end), out

    def schedule(self, out: Ints) -> Schedule:
        """What was placed, as a schedule."""
        starts, ends, modes = (tuple(int(v) for v in column) for column in out.T)
        return Schedule(starts, ends, modes)


_placers: KeptBy[Placer] = KeptBy(PLACERS_KEPT)


def warm() -> None:
    """Have the loops compiled, or read from where they are kept."""
    acts = (Activity("a", (Mode(1, ((0, 1),)),)), Activity("b", (Mode(1, ((0, 1),)),), (After("a", 0, 0),)))
    row = np.arange(5, dtype=np.int64)
    problem = Problem(acts, np.ones((1, 4), np.int64), row[None].copy())
    placer = Placer(problem)
    _, out = placer.place(placer.order([0.0, 1.0]))
    none, days = np.zeros((1, 1), np.int64), np.zeros(4, np.int64)
    seasons(
        np.arange(2), np.ones((1, 2, 1), np.int64), out[:, 2].copy(), placer.shape, problem.capacity, problem.ready, days, days, none, none - 1, none, 0,
        none, -1, np.zeros(1, np.int64),
    )  # fmt: skip
