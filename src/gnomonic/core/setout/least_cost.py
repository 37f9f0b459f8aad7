"""Where posts go between two fixed points: the exact least-cost set-out along real ground.

A bay from one candidate to a later one is an edge of a directed acyclic graph; it costs one post plus the fill and
the cut under a straight fabric edge.  The cheapest path is exact over the candidates.  Three aims in order: cost,
then the least Σ bay², then the smallest stations.

Source: shortest path on a DAG by backward induction (any algorithms text); bay cost derived in docs/method.md §2.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.record import row
from gnomonic.core.setout.kernels import LENGTH_EPS_M, Bools, Floats, bay_table, sweep, walk, weigh


@dataclass(frozen=True, slots=True)
class Limits:
    """What a bay may do. ``steep`` is rows of (least grade, longest bay in m), rising in grade; may be empty.

    ``give_m`` is what a bay may be longer and still be called as long: nothing, or a tape's precision.
    """

    max_spacing_m: float
    clearance_m: float
    gap_min_m: float
    gap_max_m: float
    k_fill: float
    k_cut: float
    steep: tuple[tuple[float, float], ...] = ()
    give_m: float = 0.0

    @property
    def longest_m(self) -> float:
        """The longest bay, its give counted in."""
        return self.max_spacing_m + self.give_m


@dataclass(frozen=True, slots=True)
class Solved:
    """A solved stretch, with what a later solve of nearly the same stretch can use again.

    ``stations_m`` (n,) and ``heights_m`` (n,) are ground nodes, ``allowed`` (n,) where a post may stand,
    ``weight`` (n, reach) what each bay costs, ``cost_to_go`` and ``squares_to_go`` (n,), ``chosen`` the node indices
    of the posts (empty when no chain of allowed bays spans the stretch), ``work`` how many nodes were computed
    rather than taken over.
    """

    stations_m: Floats
    heights_m: Floats
    allowed: Bools
    limits: Limits
    weight: Floats
    cost_to_go: Floats
    squares_to_go: Floats
    chosen: tuple[int, ...]
    work: int

    @property
    def posts_m(self) -> Floats:
        """Stations of the posts, both ends included."""
        return self.stations_m[list(self.chosen)]


@row
class BayGround:
    """What lies under one bay: areas beyond the limits (m²), the extreme gaps (m) and their stations, chord grade."""

    fill_m2: float
    cut_m2: float
    worst_gap_m: float
    worst_gap_at_m: float
    least_gap_m: float
    least_gap_at_m: float
    grade: float


def solve(x: Floats, z: Floats, allowed: Bools, limits: Limits, previous: Solved | None = None) -> Solved:
    """Least-cost posts from the first node to the last, both of which get a post whatever ``allowed`` says.

    ``x`` (n,) rising stations in m, ``z`` (n,) ground heights in m.  ``previous`` is a solved stretch that may differ
    anywhere: only bays that can have changed are weighed again, and the sweep back stops once the costs to go differ
    from the old ones by a constant.  The answer is the same with and without it.
    """
    allowed = allowed.copy()
    allowed[[0, -1]] = True
    n = len(x)
    last = np.searchsorted(x, x + limits.longest_m + LENGTH_EPS_M, side="right") - 1
    reach = max(1, int(np.max(last - np.arange(n))))
    low, high = 0, n
    old_cost = old_squares = np.empty(0)
    settled = -1
    if previous is not None and previous.limits == limits:
        head, tail = _same_ends(x, z, allowed, previous)
        if head == n == len(previous.stations_m):
            return previous
        reach = max(reach, previous.weight.shape[1])
        low, high, settled = max(0, head - reach), n - tail, head - reach
        old_cost, old_squares = previous.cost_to_go, previous.squares_to_go
    weight, cost, squares = np.full((n, reach), np.inf), np.full(n, np.inf), np.full(n, np.inf)
    if previous is not None and len(old_cost):
        old_reach, shift = previous.weight.shape[1], len(old_cost) - n
        weight[:low, :old_reach] = previous.weight[:low]
        weight[high:, :old_reach] = previous.weight[high + shift :]
        cost[high:], squares[high:] = old_cost[high + shift :], old_squares[high + shift :]
    rooms = (limits.gap_max_m - limits.clearance_m, limits.clearance_m - limits.gap_min_m)
    numbers = np.array([limits.longest_m, *rooms, limits.k_fill, limits.k_cut])
    weigh(x, z, allowed, numbers, np.array(limits.steep, dtype=np.float64).reshape(-1, 2), weight, low, high)
    cost[-1] = squares[-1] = 0.0
    work = sweep(x, weight, cost, squares, min(high, n - 1), settled, old_cost, old_squares)
    chosen = tuple(walk(x, weight, cost, squares).tolist()) if cost[0] < np.inf else ()
    if chosen and chosen[-1] != n - 1:
        raise ArithmeticError("the set-out found no way to the last node though one has a finite cost")
    return Solved(x, z, allowed, limits, weight, cost, squares, chosen, int(work))


def _same_ends(x: Floats, z: Floats, allowed: Bools, old: Solved) -> tuple[int, int]:
    """How many nodes at the start and at the end are as they were in an older stretch."""
    m = min(len(x), len(old.stations_m))
    at_start = (x[:m] == old.stations_m[:m]) & (z[:m] == old.heights_m[:m]) & (allowed[:m] == old.allowed[:m])
    head = m if at_start.all() else int(np.argmin(at_start))
    at_end = (x[-m:] == old.stations_m[-m:]) & (z[-m:] == old.heights_m[-m:]) & (allowed[-m:] == old.allowed[-m:])
    tail = m if at_end.all() else int(np.argmin(at_end[::-1]))
    return head, min(tail, m - head)


def bays_ground(x: Floats, z: Floats, ends: NDArray[np.int64], limits: Limits) -> tuple[BayGround, ...]:
    """Measure the bays between ground nodes ``ends`` (n,), rising indices into ``x`` and ``z``."""
    up, down = limits.gap_max_m - limits.clearance_m, limits.clearance_m - limits.gap_min_m
    return tuple(BayGround(*row) for row in bay_table(x, z, ends, limits.clearance_m, up, down).tolist())
