"""The two inner loops of the set-out, compiled: what every bay costs, and the sweep back from the end.

Plain loops over arrays; ``numba`` compiles them once and keeps the result on disk.  Costs and squares are rounded to
2⁻³⁰ so that sums are exact in binary up to ``EXACT`` and equal layouts compare equal; beyond it nothing is taken over
from an older solution, and no loop relies on sums being equal to end.
"""

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
FIXED = 2.0**30
EXACT = 2.0**22  # sums of costs up to here are exact in a double
LENGTH_EPS_M = 1e-9


@njit(cache=True, nogil=True)
def excess_area(x: Floats, z: Floats, i: int, j: int, slope: float, sign: float, room: float) -> float:
    """Area (m²) by which the chord from node i stands more than ``room`` above (sign 1) or below (−1) the ground.

    Exact for straight ground between nodes: over a segment on which the excess runs from a to b the area is
    w·(a+b)/2, or w·p²/2|a−b| where only the end p is positive.
    """
    area, before = 0.0, -room
    for m in range(i + 1, j + 1):
        after = sign * (slope * (x[m] - x[i]) - (z[m] - z[i])) - room
        if before > 0.0 or after > 0.0:
            width = x[m] - x[m - 1]
            if before >= 0.0 and after >= 0.0:
                area += 0.5 * (before + after) * width
            else:
                top = max(before, after)
                area += 0.5 * top * top / abs(after - before) * width
        before = after
    return area


@njit(cache=True, nogil=True)
def weigh(
    x: Floats, z: Floats, allowed: Bools, limits: Floats, steep: Floats, weight: Floats, low: int, high: int
) -> None:
    """Fill ``weight`` (n, reach) for starts low…high-1: the bay i → i+d+1 at [i, d]; inf where none may be built.

    ``limits`` is (longest bay, room above, room below, k_fill, k_cut); ``steep`` rows of (least grade, longest bay).
    The interval of slopes that keep every node in between inside the limits is carried along, so areas are
    integrated only for chords that leave it.
    """
    n, reach = weight.shape
    longest, up, down, k_fill, k_cut = limits[0], limits[1], limits[2], limits[3], limits[4]
    for i in range(low, high):
        weight[i, :] = np.inf
        if not allowed[i]:
            continue
        least, most = -np.inf, np.inf
        for d in range(reach):
            j = i + d + 1
            if j >= n:
                break
            run, rise = x[j] - x[i], z[j] - z[i]
            if run > longest + LENGTH_EPS_M:
                break
            slope = rise / run
            fits = allowed[j]
            for row in range(steep.shape[0]):
                if abs(slope) >= steep[row, 0] and run > steep[row, 1] + LENGTH_EPS_M:
                    fits = False
            if fits:
                cost = 1.0
                if slope > most:
                    cost += k_fill * excess_area(x, z, i, j, slope, 1.0, up)
                if slope < least:
                    cost += k_cut * excess_area(x, z, i, j, slope, -1.0, down)
                weight[i, d] = math.floor(cost * FIXED + 0.5) / FIXED
            most = min(most, (rise + up) / run)
            least = max(least, (rise - down) / run)


@njit(cache=True, nogil=True)
def sweep(
    x: Floats, weight: Floats, cost: Floats, squares: Floats, top: int, settled: int, old_cost: Floats, old_sq: Floats
) -> int:
    """Backward induction over nodes top-1 … 0: least cost to the end, then least Σ bay² among the cheapest.

    Stops early below node ``settled`` (no row below it has changed) once the last ``reach`` values differ from the
    old ones by one constant, since then all earlier ones do.  Returns the number of nodes computed.
    """
    n, reach = weight.shape
    for i in range(top - 1, -1, -1):
        best, best_sq = np.inf, np.inf
        for d in range(min(reach, n - 1 - i)):
            total = weight[i, d] + cost[i + d + 1]
            if total <= best and total < np.inf:
                bay = x[i + d + 1] - x[i]
                square = math.floor(bay * bay * FIXED + 0.5) / FIXED + squares[i + d + 1]
                if total < best or square < best_sq:
                    best, best_sq = total, square
        cost[i], squares[i] = best, best_sq
        if i <= settled and i + reach < n and cost[i] < EXACT and old_cost[i] < EXACT:
            shift, shift_sq = cost[i] - old_cost[i], squares[i] - old_sq[i]
            same = True
            for k in range(i, i + reach):
                if cost[k] - old_cost[k] != shift or squares[k] - old_sq[k] != shift_sq:
                    same = False  # also for inf − inf, which is never equal to anything
                    break
            if same:
                for k in range(i):
                    cost[k], squares[k] = old_cost[k] + shift, old_sq[k] + shift_sq
                return top - i
    return top


@njit(cache=True, nogil=True)
def walk(x: Floats, weight: Floats, cost: Floats, squares: Floats) -> NDArray[np.int64]:
    """Node indices of the posts: from the first node, always the nearest of the best next posts.

    Every step goes forward, so that it ends whatever the costs are; where nothing leads on the last index is not n−1.
    """
    n, reach = weight.shape
    chosen, count, i = np.zeros(n, dtype=np.int64), 1, 0
    while i < n - 1:
        best, best_sq, to = np.inf, np.inf, -1
        for d in range(min(reach, n - 1 - i)):
            j = i + d + 1
            total = weight[i, d] + cost[j]
            if total <= best and total < np.inf:
                bay = x[j] - x[i]
                square = math.floor(bay * bay * FIXED + 0.5) / FIXED + squares[j]
                if total < best or square < best_sq:
                    best, best_sq, to = total, square, j
        if to < 0:
            break
        i = to
        chosen[count] = i
        count += 1
    return chosen[:count]


@njit(cache=True, nogil=True)
def bay_table(
    x: Floats, z: Floats, ends: NDArray[np.int64], clearance: float, up: float, down: float
) -> NDArray[np.float64]:
    """What lies under each bay between ground nodes ``ends`` (n,): rows (n−1, 7) of fill, cut, worst gap and its
    station, least gap and its station, grade.  Gaps are extreme at nodes, the ground being straight between."""
    table = np.empty((len(ends) - 1, 7))
    for row in range(len(ends) - 1):
        i, j = ends[row], ends[row + 1]
        slope = (z[j] - z[i]) / (x[j] - x[i])
        worst, worst_at, least, least_at = clearance, x[i], clearance, x[i]
        for m in range(i + 1, j + 1):
            gap = clearance + slope * (x[m] - x[i]) - (z[m] - z[i])
            if gap > worst:
                worst, worst_at = gap, x[m]
            if gap < least:
                least, least_at = gap, x[m]
        table[row, 0] = excess_area(x, z, i, j, slope, 1.0, up)
        table[row, 1] = excess_area(x, z, i, j, slope, -1.0, down)
        table[row, 2], table[row, 3], table[row, 4], table[row, 5] = worst, worst_at, least, least_at
        table[row, 6] = slope
    return table
