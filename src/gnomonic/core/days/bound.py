"""What no schedule ends before: the longest chain, and the work there is for those who are there.

For tasks that can't begin before some quarter and have at least so much waiting for their end, all the work in them has to be done after
the one and before the other (the energy bound of cumulative scheduling; Baptiste, Le Pape and Nuijten 2001, from memory).
"""

import numpy as np

from gnomonic.core.days.problem import NO_WAIT, Ints, Problem, in_order


def heads(problem: Problem) -> Ints:
    """The quarter before which each activity can't begin, by what comes before it alone."""
    index = problem.index()
    shortest = [min(m.slots for m in a.modes) for a in problem.activities]
    found = np.zeros(len(shortest), np.int64)
    for key in in_order([(a.key, [p.key for p in a.after]) for a in problem.activities]):
        k = index[key]
        at = problem.activities[k].earliest
        for p in problem.activities[k].after:
            end = int(found[index[p.key]]) + shortest[index[p.key]]
            ready = int(problem.ready[p.wait, min(end, problem.ready.shape[1] - 1)]) if p.wait != NO_WAIT else 0
            at = max(at, end + p.lag, ready)
        found[k] = at
    return found


def _least_wait(ready: Ints, slots: int) -> int:
    """The fewest quarters that a wait takes, after whichever quarter it begins, of those after which something can still begin."""
    waits = (ready - np.arange(ready.size))[1:][ready[1:] < slots]
    return max(0, int(waits.min())) if waits.size else 0


def tails(problem: Problem) -> list[int]:
    """How long it takes at least from the beginning of each activity to the end of all that waits for it."""
    index = problem.index()
    shortest = [min(m.slots for m in a.modes) for a in problem.activities]
    tail, keys = list(shortest), [(a.key, [p.key for p in a.after]) for a in problem.activities]
    least = [_least_wait(row, problem.slots) for row in problem.ready]
    for key in reversed(in_order(keys)):
        k = index[key]
        for p in problem.activities[k].after:
            j = index[p.key]
            lag = p.lag + (least[p.wait] if p.wait != NO_WAIT else 0)
            tail[j] = max(tail[j], shortest[j] + lag + tail[k])
    return tail


def bound(problem: Problem) -> int:
    """The quarter before which no schedule ends, in weather that stops nothing."""
    acts = problem.activities
    if not acts:
        return 0
    head, tail = heads(problem), np.array(tails(problem))
    shortest = np.array([min(m.slots for m in a.modes) for a in acts])
    after = tail - shortest
    best = int(np.max(head + tail))
    for r in range(problem.capacity.shape[0]):
        energy = np.array([min(m.slots * sum(u for q, u in m.uses if q == r) for m in a.modes) for a in acts])
        mine = energy > 0
        if not mine.any():
            continue
        there = np.concatenate([[0], np.cumsum(problem.capacity[r])])
        for h in np.unique(head[mine]):
            late = mine & (head >= h)
            for q in np.unique(after[late]):
                need = int(energy[late & (after >= q)].sum())
                best = max(best, int(np.searchsorted(there, there[h] + need)) + int(q))
    return best
