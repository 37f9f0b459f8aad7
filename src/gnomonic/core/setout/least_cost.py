"""Where posts go between two fixed points: the exact least-cost set-out along real ground.

A bay from one candidate to a later one is an edge of a directed acyclic graph; it costs one post plus the fill and
the cut under a straight fabric edge.  The cheapest path is exact over the candidates.  Three aims in order: cost,
then the least Σ bay², then the smallest stations.

Source: shortest path on a DAG by backward induction (any algorithms text); bay cost derived in docs/method.md §2.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.setout.kernels import LENGTH_EPS_M, Bools, Floats, bay_table, sweep, walk, weigh


@dataclass(frozen=True, slots=True)
class Limits:
    """What a bay may do. ``steep`` is rows of (least grade, longest bay in m), rising in grade; may be empty."""

    max_spacing_m: float
    clearance_m: float
    gap_min_m: float
    gap_max_m: float
    k_fill: float
    k_cut: float
    steep: tuple[tuple[float, float], ...] = ()


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


@dataclass(frozen=True, slots=True)
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
    last = np.searchsorted(x, x + limits.max_spacing_m + LENGTH_EPS_M, side="right") - 1
    reach = max(1, int(np.max(last - np.arange(n))))
    low, high = 0, n
    weight, cost, squares = np.empty((n, reach)), np.full(n, np.inf), np.full(n, np.inf)
    if previous is not None and previous.limits == limits and previous.weight.shape == weight.shape:
        same = (previous.stations_m == x) & (previous.heights_m == z) & (previous.allowed == allowed)
        changed = np.flatnonzero(~same)
        if not len(changed):
            return previous
        low, high = max(0, int(changed[0]) - reach), int(changed[-1]) + 1
        weight[:low], weight[high:] = previous.weight[:low], previous.weight[high:]
        cost[high:], squares[high:] = previous.cost_to_go[high:], previous.squares_to_go[high:]
        old_cost, old_squares, settled = previous.cost_to_go, previous.squares_to_go, low - reach
    else:
        old_cost, old_squares, settled = cost, squares, -1
    rooms = (limits.gap_max_m - limits.clearance_m, limits.clearance_m - limits.gap_min_m)
    numbers = np.array([limits.max_spacing_m, *rooms, limits.k_fill, limits.k_cut])
    weigh(x, z, allowed, numbers, np.array(limits.steep, dtype=np.float64).reshape(-1, 2), weight, low, high)
    cost[-1] = squares[-1] = 0.0
    work = sweep(x, weight, cost, squares, min(high, n - 1), settled, old_cost, old_squares)
    chosen = tuple(walk(x, weight, cost, squares).tolist()) if cost[0] < np.inf else ()
    return Solved(x, z, allowed, limits, weight, cost, squares, chosen, int(work))


def bays_ground(x: Floats, z: Floats, ends: NDArray[np.int64], limits: Limits) -> tuple[BayGround, ...]:
    """Measure the bays between ground nodes ``ends`` (n,), rising indices into ``x`` and ``z``."""
    up, down = limits.gap_max_m - limits.clearance_m, limits.clearance_m - limits.gap_min_m
    return tuple(BayGround(*row) for row in bay_table(x, z, ends, limits.clearance_m, up, down).tolist())
