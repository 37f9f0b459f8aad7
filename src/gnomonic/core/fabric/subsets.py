"""The best grouping of a dozen runs over all their subsets: fewest new rolls, then fewest splices, by lengths alone.

Source: derived in docs/method.md §9; dynamic programming over subsets, any text on algorithms.
"""

import numpy as np
from numba import njit
from numpy.typing import NDArray

from gnomonic.core.fabric.lengths import Grouping, Lengths

Ints = NDArray[np.int64]
MOST = 17  # runs and offcuts together
ROLL = 1 << 20  # a roll outweighs any number of splices
NEVER = 1 << 60


@njit(cache=True, nogil=True)
def _costs(need: Ints, own: Ints, roll: int, lap: int) -> Ints:
    """What every subset of runs (low bits) and offcuts (high bits) costs as one group; never for one without a run."""
    runs, both = len(need), len(need) + len(own)
    cost = np.full(1 << both, NEVER, dtype=np.int64)
    short = np.zeros(1 << both, dtype=np.int64)
    items = np.zeros(1 << both, dtype=np.int64)
    for mask in range(1, 1 << both):
        low = 0
        while not mask >> low & 1:
            low += 1
        rest = mask & (mask - 1)
        short[mask] = short[rest] + (need[low] if low < runs else -own[low - runs])
        items[mask] = items[rest] + (low >= runs)
        if mask & ((1 << runs) - 1):
            missing = short[mask] + (items[mask] - 1) * lap
            new = max(0, -(-missing // (roll - lap)))
            if new + items[mask] < 1:
                new = 1
            cost[mask] = new * ROLL + new + items[mask] - 1
    return cost


@njit(cache=True, nogil=True)
def _best(cost: Ints, runs: int) -> Ints:
    """The group that holds the first run of every subset in its best grouping; 0 where no run is left."""
    total = np.full(len(cost), NEVER, dtype=np.int64)
    chosen = np.zeros(len(cost), dtype=np.int64)
    own_runs = (1 << runs) - 1
    for mask in range(len(cost)):
        held = mask & own_runs
        if not held:
            total[mask] = 0
            continue
        first = held & -held
        rest = mask ^ first
        subset = rest
        while True:
            group = subset | first
            value = cost[group] + total[mask ^ group]
            if value < total[mask]:
                total[mask] = value
                chosen[mask] = group
            if not subset:
                break
            subset = (subset - 1) & rest
    return chosen


def over_all_subsets(lengths: Lengths) -> Grouping:
    """The best grouping there is by lengths alone; for ``MOST`` runs and offcuts at most."""
    runs = len(lengths.need)
    cost = _costs(
        np.array(lengths.need, dtype=np.int64), np.array(lengths.own, dtype=np.int64), lengths.roll, lengths.lap
    )
    chosen = _best(cost, runs)
    found: Grouping = []
    mask = len(cost) - 1
    while chosen[mask]:
        group = int(chosen[mask])
        names = tuple(k for k in range(runs) if group >> k & 1)
        own = tuple(k for k in range(len(lengths.own)) if group >> (runs + k) & 1)
        found.append((names, own, int(cost[group]) // ROLL))
        mask ^= group
    return found
