"""A line set out between fixed points: candidates, forbidden stretches, and what even spacing would have cost.

Source: docs/method.md §2.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.profile import Profile
from gnomonic.core.say import Say
from gnomonic.core.setout.kernels import Floats
from gnomonic.core.setout.least_cost import BayGround, Limits, Solved, bays_ground, solve

SAME_M = 1e-7
Stretches = Sequence[tuple[float, float]]


@dataclass(frozen=True, slots=True)
class Layout:
    """Posts along a line and what lies under each bay: ``stations_m`` (n,), ``bays`` (n−1)."""

    stations_m: tuple[float, ...]
    bays: tuple[BayGround, ...]
    limits: Limits

    @property
    def fill_m2(self) -> float:
        """Side-on area to fill under the fabric."""
        return sum(b.fill_m2 for b in self.bays)

    @property
    def cut_m2(self) -> float:
        """Side-on area to cut away so that the fabric clears the ground."""
        return sum(b.cut_m2 for b in self.bays)

    @property
    def cost(self) -> float:
        """Post-equivalents: posts + k_fill·fill + k_cut·cut."""
        return len(self.stations_m) + self.limits.k_fill * self.fill_m2 + self.limits.k_cut * self.cut_m2

    def figures(self) -> dict[str, float | int | list[float]]:
        """The keys of the ``setout`` answer."""
        worst = max(self.bays, key=lambda b: b.worst_gap_m)
        least = min(self.bays, key=lambda b: b.least_gap_m)
        lengths = np.diff(self.stations_m)
        return {
            "stations_m": list(self.stations_m),
            "posts": len(self.stations_m),
            "bays": len(self.bays),
            "cost": self.cost,
            "fill_m2": self.fill_m2,
            "cut_m2": self.cut_m2,
            "worst_gap_m": worst.worst_gap_m,
            "worst_gap_at_m": worst.worst_gap_at_m,
            "least_gap_m": least.least_gap_m,
            "least_gap_at_m": least.least_gap_at_m,
            "longest_bay_m": float(lengths.max()),
            "sum_len2_m2": float((lengths**2).sum()),
        }


def merged(*groups: Sequence[float] | NDArray[np.floating[Any]]) -> Floats:
    """One rising array of stations; of stations closer than a ten-thousandth of a millimetre the first group's stays.

    >>> merged([0.0, 10.0], [5.0, 10.00000001]).tolist()
    [0.0, 5.0, 10.0]
    """
    stations = np.concatenate([np.asarray(g, dtype=np.float64) for g in groups])
    rank = np.repeat(np.arange(len(groups)), [len(g) for g in groups])
    order = np.lexsort((rank, stations))
    stations = stations[order]
    first = np.flatnonzero(np.concatenate([[True], stations[1:] - stations[:-1] > SAME_M]))
    if len(first) == len(stations):
        return stations
    place = rank[order] * len(stations) + np.arange(len(stations))  # least by group, then by station
    kept: Floats = stations[np.minimum.reduceat(place, first) % len(stations)]
    return kept


def inside_any(stations_m: Floats, forbidden: Stretches) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Which stations lie inside an open forbidden stretch."""
    inside = np.zeros(len(stations_m), dtype=np.bool_)
    for low, high in forbidden:
        inside |= (stations_m > low + SAME_M) & (stations_m < high - SAME_M)
    return inside


def even_grid(from_m: float, to_m: float, max_spacing_m: float, grid_m: float, give_m: float = 0.0) -> Floats:
    """The planner's candidates between two fixed points: a grid that divides the longest bay, measured from both
    ends, and the even stations (a quarter-metre grid would turn 8 ft bays into 2.25 m ones)."""
    step = max_spacing_m / math.ceil(max_spacing_m / grid_m - 1e-9)
    count = int(math.floor((to_m - from_m) / step + 1e-9))
    steps = np.arange(1, count + 1) * step
    bays = max(1, math.ceil((to_m - from_m - give_m) / max_spacing_m - 1e-9))
    return merged(np.linspace(from_m, to_m, bays + 1), from_m + steps[from_m + steps < to_m], (to_m - steps)[::-1])


def solve_between(
    profile: Profile,
    from_m: float,
    to_m: float,
    candidates: Floats,
    forbidden: Stretches,
    limits: Limits,
    previous: Solved | None = None,
) -> Solved:
    """Posts between two fixed points.  Raises BadInput (field ``forbidden_m``) when no chain of bays spans it."""
    own = candidates[(candidates > from_m) & (candidates < to_m)]
    breaks = profile.breaks_between(from_m, to_m)
    nodes = merged([from_m, to_m], own, breaks)
    allowed = ~inside_any(nodes, forbidden)
    solved = solve(nodes, profile.at(nodes), allowed, limits, previous)
    if not solved.chosen:
        raise _no_feasible(nodes, allowed, limits)
    return solved


def _no_feasible(nodes: Floats, allowed: np.ndarray[tuple[int], np.dtype[np.bool_]], limits: Limits) -> BadInput:
    stand = nodes[allowed | (nodes == nodes[0]) | (nodes == nodes[-1])]  # the fixed points stand wherever they are
    gap = int(np.argmax(np.diff(stand)))
    low, high = float(stand[gap]), float(stand[gap + 1])
    if high - low > limits.max_spacing_m + 1e-9:
        sentence = Say(
            "no feasible set-out: between {low} and {high} no post may stand, which is longer than "
            "max_spacing_m ({most}); shorten the forbidden stretch or allow longer bays there",
            {"low": (low, "station"), "high": (high, "station"), "most": (limits.max_spacing_m, "station")},
        )
    else:
        sentence = Say(
            "no feasible set-out between {low} and {high}: with the shorter bays for steep "
            "ground no chain of posts spans the forbidden stretch; shorten it or allow longer bays on slopes",
            {"low": (float(nodes[0]), "station"), "high": (float(nodes[-1]), "station")},
        )
    return BadInput("forbidden_m", sentence)


def measure(profile: Profile, stations_m: Sequence[float], limits: Limits) -> Layout:
    """The figures of posts that stand where they stand."""
    nodes = merged(stations_m, profile.breaks_between(stations_m[0], stations_m[-1]))
    z = profile.at(nodes)
    index = np.searchsorted(nodes, np.asarray(stations_m) - SAME_M)
    bays = bays_ground(nodes, z, index.astype(np.int64), limits)
    return Layout(tuple(float(s) for s in stations_m), bays, limits)


def even_layout(profile: Profile, fixed_m: Sequence[float], limits: Limits) -> Layout:
    """Even bays between fixed points, forbidden stretches ignored: what is done by eye and tape today."""
    stations = [fixed_m[0]]
    for low, high in pairwise(fixed_m):
        bays = max(1, math.ceil((high - low - limits.give_m) / limits.max_spacing_m - 1e-9))
        stations += [low + (high - low) * k / bays for k in range(1, bays)] + [high]
    return measure(profile, stations, limits)


def set_out(
    profile: Profile,
    length_m: float,
    limits: Limits,
    forced_m: Sequence[float],
    forbidden: Stretches,
    grid_m: float,
    extra_m: Sequence[float],
) -> Layout:
    """The pocket sum: one grid from station 0 over the whole line, posts at both ends and every forced station.

    Raises BadInput for a forced station off the line or inside a forbidden stretch, and when nothing is feasible.
    """
    for k, station in enumerate(forced_m):
        if not 0.0 <= station <= length_m:
            raise BadInput(f"forced_m[{k}]", f"forced_m[{k}] is {station:g} m, off the line of {length_m:g} m")
        ends = min(abs(station), abs(length_m - station)) <= SAME_M
        if not ends and inside_any(np.array([station]), forbidden)[0]:
            raise BadInput(
                f"forced_m[{k}]", f"forced_m[{k}] ({station:g} m) lies inside a forbidden stretch; move one of them"
            )
    fixed = merged([0.0, length_m], forced_m).tolist()
    grid = np.arange(0, math.floor(length_m / grid_m + 1e-9) + 1) * grid_m
    breaks = profile.breaks_between(0.0, length_m)
    candidates = merged(fixed, list(extra_m), breaks, grid)
    stations = [0.0]
    for low, high in pairwise(fixed):
        solved = solve_between(profile, low, high, candidates, forbidden, limits)
        stations += solved.posts_m[1:].tolist()
    return measure(profile, stations, limits)
