"""The schedule with the earliest end: placed by rule, bettered by chance, proven or bounded by CP-SAT."""

import math
import random
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise, permutations, product
from typing import TYPE_CHECKING

import numpy as np

from gnomonic.core.days.bound import bound as energy_bound
from gnomonic.core.days.bound import tails
from gnomonic.core.days.kernel import NEVER, placer_of
from gnomonic.core.days.problem import NO_WAIT, Ints, Problem, Schedule
from gnomonic.core.errors import NoPlan
from gnomonic.core.fabric.solving import solver

if TYPE_CHECKING:
    from ortools.sat.python import cp_model

TRIES = 4000
WIDE = 0.6  # of the time any order that ends as early is gone on from, the rest only those that are worth more
MANY, BY_CHANCE = 150, 0.7  # of more activities most of the time goes into other orders, the rest into a proof
ENDLESS = 10**7
MOST_ORDERS = (
    800  # six activities done one way: placed in every order in a few milliseconds, sooner than a model is made
)
FEW_TRIES = 200
Worth = Callable[[Ints], tuple[int, ...]]  # what of two schedules that end alike is better: less is


@dataclass(frozen=True, slots=True)
class Solved:
    """A schedule pushed left, and where the same order of work ends (``fair``, slots) where no weather stops it; in such weather no
    schedule ends before ``bound``, and where that is its end it is ``proven`` earliest."""

    schedule: Schedule
    fair: int
    bound: int

    @property
    def proven(self) -> bool:
        """Whether no schedule ends earlier in fair weather."""
        return self.fair <= self.bound


def nothing_worth(_: Ints) -> tuple[int, ...]:
    """Schedules that end alike are alike."""
    return ()


def quick(
    problem: Problem, seconds: float, worth: Worth = nothing_worth, tries: int = TRIES, seed: int = 1
) -> Schedule:
    """A good schedule soon: the longest way to the end first, then as many other orders as there is time for, the best kept.

    Raises NoPlan (``days``) where the clock is too short for all of it.
    """
    if not problem.activities:
        return Schedule((), (), ())
    placer, tail = placer_of(problem), tails(problem)
    rules = [
        [-float(t) for t in tail],
        [float(a.earliest) - t / 1e6 for a, t in zip(problem.activities, tail, strict=True)],
    ]
    found = [(end, out) for end, out in (placer.place(placer.order(rule)) for rule in rules) if end != NEVER]
    if not found:
        raise NoPlan("days", "not all of it can be done in the days there are: see who is there, and until when")
    best = min(found, key=lambda row: (row[0], *worth(row[1])))[1]
    return better(problem, placer.schedule(best), seconds, worth, tries, seed)


def better(
    problem: Problem, start: Schedule, seconds: float, worth: Worth, tries: int = TRIES, seed: int = 1
) -> Schedule:
    """A schedule that ends no later and is worth no less than the one given, and of those one in which everything ends early: orders near
    the last one that ended as early, by chance, then orders near the best; repeatable where there is time for all tries."""
    if not problem.activities:
        return start
    begun, chance, placer = time.monotonic(), random.Random(seed), placer_of(problem)

    def key_of(end: int, out: Ints) -> tuple[int, ...]:
        return (end, *worth(out), int(out[:, 1].sum()))

    now = best = start.table()
    end_now, best_key = start.makespan, key_of(start.makespan, best)
    modes = best_modes = np.full(len(start.starts), -1, np.int64)
    for n in range(tries):
        spent = max((time.monotonic() - begun) / seconds if seconds > 0 else 1.0, n / tries)
        if spent >= 1:
            break
        wide = spent < WIDE
        if not wide and now is not best:
            now, modes, end_now = best, best_modes, best_key[0]
        starts, ways = now[:, 0].astype(float), modes.copy()
        for _ in range(1 + chance.randrange(3)):
            starts[chance.randrange(starts.size)] += chance.gauss(0, 0.15 * end_now + 1)
        k = chance.randrange(starts.size)
        ways[k] = chance.randrange(-1, int(placer.modes[k]))
        end, out = placer.place(placer.order(starts), ways)
        if end == NEVER or end > end_now:
            continue
        if wide:
            now, modes, end_now = out, ways, end
        key = key_of(end, out) if end <= best_key[0] else best_key
        if key < best_key:
            best, best_modes, best_key = out, ways, key
            if not wide:
                now, modes, end_now = out, ways, end
    return placer.schedule(best)


def every_order(problem: Problem) -> Schedule | None:
    """The schedule with the earliest end, by trying every order and mode; None where there are more than ``MOST_ORDERS``.

    Each activity is placed as early as the ones before it allow.  One of these schedules ends first of all (active schedules; Sprecher
    et al. 1995, from memory).
    """
    acts, index = problem.activities, problem.index()
    ways = math.prod(len(a.modes) for a in acts)
    if math.factorial(min(len(acts), 20)) * ways > MOST_ORDERS:
        return None
    placer, best, least = placer_of(problem), None, NEVER
    before = [{index[p.key] for p in a.after} for a in acts]
    choices = [np.array(c, np.int64) for c in product(*(range(len(a.modes)) for a in acts))]
    for order in permutations(range(len(acts))):
        if any(before[k] - set(order[:n]) for n, k in enumerate(order)):
            continue
        for modes in choices:
            end, out = placer.place(list(order), modes)
            if best is None or end < least:
                best, least = out, end
    return placer.schedule(best) if best is not None and least != NEVER else None


def judged(problem: Problem, made: Schedule) -> Solved:
    """A schedule with what is known of it without a search."""
    return Solved(made, again(_fair(problem), made).makespan, energy_bound(problem))


def solve(
    problem: Problem, work_s: float, wall_s: float, start: Schedule | None = None, worth: Worth = nothing_worth
) -> Solved:
    """The earliest end, or as early as could be found in the time, with what is proven; then what is worth more among such that end
    alike.  Raises NoPlan (``days``)."""
    if not problem.activities:
        return Solved(Schedule((), (), ()), 0, 0)
    fair = _fair(problem)
    if start is None and (least := every_order(fair)) is not None:
        start = again(problem, least)
        if start.makespan == least.makespan:
            return Solved(
                better(problem, start, min(1.0, wall_s / 4), worth, FEW_TRIES), least.makespan, least.makespan
            )
    best = start or quick(problem, min(1.0, wall_s / 4), worth)
    known, low = again(fair, best), energy_bound(problem)
    if known.makespan > low and len(problem.activities) > MANY:
        best = better(problem, best, BY_CHANCE * wall_s, worth, ENDLESS)
        known = min(known, again(fair, best), key=lambda s: s.makespan)
        work_s, wall_s = (1 - BY_CHANCE) * work_s, (1 - BY_CHANCE) * wall_s
    if known.makespan > low:
        found, low = _search(fair, known, low, work_s, wall_s)
        if found.makespan < known.makespan:
            known, other = found, again(problem, found)
            if other.makespan <= best.makespan:
                best = better(problem, other, min(1.0, wall_s / 8), worth)
                known = min(known, again(fair, best), key=lambda s: s.makespan)
    return Solved(best, known.makespan, low)


def _fair(problem: Problem) -> Problem:
    """The same in weather that stops nothing."""
    return replace(problem, stopped=np.zeros(0, np.int64))


def again(problem: Problem, made: Schedule) -> Schedule:
    """The same order of work and the same hands at it, each as early as what is there now allows; the schedule itself where the clock is too
    short for that."""
    placer = placer_of(problem)
    end, out = placer.place(made.order(), np.array(made.modes, np.int64))
    return placer.schedule(out) if end != NEVER else made


def _search(problem: Problem, known: Schedule, low: int, work_s: float, wall_s: float) -> tuple[Schedule, int]:
    """What CP-SAT makes of it, from a schedule that is known; and what no schedule ends before."""
    from gnomonic.core.fabric.solving import cp_model

    model, horizon = cp_model.CpModel(), known.makespan
    acts, index = problem.activities, problem.index()
    starts = [model.new_int_var(a.earliest, horizon, f"s{k}") for k, a in enumerate(acts)]
    ends = [model.new_int_var(0, horizon, f"e{k}") for k in range(len(acts))]
    use: list[list[tuple[cp_model.IntervalVar, int]]] = [[] for _ in range(problem.capacity.shape[0])]
    taken: list[list[cp_model.IntVar]] = []
    for k, a in enumerate(acts):
        here = [model.new_bool_var(f"m{k}_{m}") for m in range(len(a.modes))] if len(a.modes) > 1 else []
        taken.append(here)
        for m, mode in enumerate(a.modes):
            if here:
                interval = model.new_optional_fixed_size_interval_var(starts[k], mode.slots, here[m], f"i{k}_{m}")
                model.add(ends[k] == starts[k] + mode.slots).only_enforce_if(here[m])
                model.add_hint(here[m], m == known.modes[k])
            else:
                interval = model.new_interval_var(starts[k], mode.slots, ends[k], f"i{k}")
            for r, units in mode.uses:
                if units:
                    use[r].append((interval, units))
        if here:
            model.add_exactly_one(here)
            model.add(ends[k] >= starts[k] + min(mode.slots for mode in a.modes))
        model.add_hint(starts[k], known.starts[k])
        for p in a.after:
            j = index[p.key]
            model.add(starts[k] >= ends[j] + p.lag)
            if p.wait != NO_WAIT:
                row = [int(v) for v in problem.ready[p.wait, : horizon + 1]]
                ready = model.new_int_var(0, max(row), f"r{k}_{j}")
                model.add_element(ends[j], row, ready)
                model.add(starts[k] >= ready)
    for r, rows in enumerate(use):
        _at_most(model, problem.capacity[r, :horizon], rows)
    last = model.new_int_var(min(low, horizon), horizon, "last")
    model.add_max_equality(last, ends)
    model.minimize(last)
    searching = solver(work_s, wall_s)
    status = searching.solve(model)
    bound = max(low, round(searching.best_objective_bound + 0.4999))
    if status == cp_model.OPTIMAL:
        bound = round(searching.objective_value)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return known, min(bound, known.makespan)
    modes = tuple(next((m for m, var in enumerate(here) if searching.value(var)), 0) for here in taken)
    found = Schedule(tuple(searching.value(v) for v in starts), tuple(searching.value(v) for v in ends), modes)
    return again(problem, found), bound


def _at_most(model: "cp_model.CpModel", there: Ints, rows: "Sequence[tuple[cp_model.IntervalVar, int]]") -> None:
    """What is used at once is never more than there is, where that changes from slot to slot."""
    if not rows or not there.size:
        return
    most = int(there.max())
    intervals, units = [i for i, _ in rows], [u for _, u in rows]
    edges = [0, *(np.flatnonzero(np.diff(there)) + 1).tolist(), there.size]
    for low, high in pairwise(edges):
        missing = most - int(there[low])
        if missing:
            intervals.append(model.new_fixed_size_interval_var(low, high - low, f"gone{low}"))
            units.append(missing)
    if most == 1 and all(u == 1 for u in units):
        model.add_no_overlap(intervals)
    elif sum(units) > most:
        model.add_cumulative(intervals, units, most)
