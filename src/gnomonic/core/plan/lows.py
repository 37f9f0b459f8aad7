"""Lows to fill and humps to shave: where, how deep, how much of the ground, with what.

Source: docs/method.md §2.  A low or a hump is a stretch within one bay on which the gap is wider, or narrower, than allowed.
"""

import math
from dataclasses import dataclass
from functools import cache

import numpy as np

from gnomonic.core.ground.profile import Floats
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Bay, Plan
from gnomonic.core.plan.rails import areas_over
from gnomonic.core.say import Say, Values
from gnomonic.core.setout.line import merged
from gnomonic.core.sourced import Sourced, read_data

WORTH_M2 = 0.005
NEAR_LOW_M = 0.3
STRAND_APART_M = 0.127  # a strand every 5 in


class FillerKind(Sourced):
    """One thing that fills a low (``soil/data/fillers.toml``)."""

    title: str
    item: str
    piece_m: float
    lap_m: float
    deepest_m: float


@cache
def filler_kinds() -> dict[str, FillerKind]:
    """Every filler by key."""
    return {key: FillerKind.model_validate(row) for key, row in read_data("fillers.toml", "soil").items()}


@dataclass(frozen=True, slots=True)
class Patch:
    """A low (``low``) or a hump under one bay, ``from_m`` to ``to_m`` along the line.

    ``beyond_m`` is how far the gap goes beyond what is allowed at its worst place ``at_m``, ``gap_m`` the gap there; ``area_m2`` side-on beyond
    the limit.
    """

    bay: int
    low: bool
    from_m: float
    to_m: float
    at_m: float
    gap_m: float
    beyond_m: float
    area_m2: float

    @property
    def length_m(self) -> float:
        """Along the line."""
        return self.to_m - self.from_m


def edge_gaps(plan: Plan, bay: Bay) -> tuple[Floats, Floats]:
    """Stations of a bay's ground and the gap under the bottom edge at each (n,)."""
    profile = plan.course.profile
    nodes = merged([bay.from_m, bay.to_m], profile.breaks_between(bay.from_m, bay.to_m))
    z = profile.at(nodes)
    ends = [plan.edge_m(bay, False), plan.edge_m(bay, True)]
    return nodes, np.interp(nodes, [bay.from_m, bay.to_m], [z[0] + ends[0], z[-1] + ends[1]]) - z


def _stretches(x: Floats, over: Floats) -> list[tuple[float, float, int]]:
    """Stretches on which a piecewise straight function is above nothing: from, to, node of its greatest value."""
    found: list[tuple[float, float, int]] = []
    start: float | None = None
    for k in range(len(x)):
        if over[k] > 0 and start is None:
            start = float(
                x[k] if k == 0 else x[k - 1] + (x[k] - x[k - 1]) * (0 - over[k - 1]) / (over[k] - over[k - 1])
            )
        if over[k] <= 0 and start is not None:
            end = float(x[k - 1] + (x[k] - x[k - 1]) * over[k - 1] / (over[k - 1] - over[k]))
            found.append((start, end, 0))
            start = None
    if start is not None:
        found.append((start, float(x[-1]), 0))
    return [(a, b, int(np.argmax(np.where((x >= a - 1e-9) & (x <= b + 1e-9), over, -np.inf)))) for a, b, _ in found]


def patches(plan: Plan) -> list[Patch]:
    """Every low and hump worth a word, in order along the line."""
    found: list[Patch] = []
    limits = plan.limits
    for number, bay in enumerate(plan.bays):
        if bay.ground.fill_m2 < WORTH_M2 and bay.ground.cut_m2 < WORTH_M2:
            continue
        x, gap = edge_gaps(plan, bay)
        for low in (True, False):
            over = gap - limits.gap_max_m if low else limits.gap_min_m - gap
            areas = areas_over(x, over)
            for a, b, k in _stretches(x, over):
                area = float(areas[(x[:-1] < b - 1e-9) & (x[1:] > a + 1e-9)].sum())
                if area >= WORTH_M2:
                    found.append(Patch(number, low, a, b, float(x[k]), float(gap[k]), float(over[k]), area))
    return sorted(found, key=lambda p: p.from_m)


@dataclass(frozen=True, slots=True)
class Filled:
    """A low with what fills it: pieces, their length in all (m), the volume (m³) of stone or soil, strands below."""

    patch: Patch
    what: str
    pieces: int
    length_m: float
    volume_m3: float
    strands: int


def filled(fence: Fence, patch: Patch, wide_m: float) -> Filled:
    """What the filler chosen for a low comes to; without one, soil as wide as humps are shaved."""
    what = next(
        (f.what for f in fence.own.fillers if patch.from_m - NEAR_LOW_M <= f.at_m <= patch.to_m + NEAR_LOW_M), ""
    )
    if not what:
        return Filled(patch, "", 0, 0.0, patch.area_m2 * wide_m, 0)
    kind = filler_kinds()[what]
    length = patch.length_m + 2 * kind.lap_m
    match what:
        case "stone":  # its foot is wider than the low is deep, on both sides
            return Filled(patch, what, 0, 0.0, patch.area_m2 * (0.3 + patch.beyond_m), 0)
        case "strand":
            strands = max(1, math.ceil(patch.beyond_m / STRAND_APART_M - 1e-6))
            return Filled(patch, what, 0, length * strands, 0.0, strands)
        case _:
            return Filled(patch, what, max(1, math.ceil(length / kind.piece_m - 1e-6)), length, 0.0, 0)


def blade(fence: Fence, plan: Plan) -> Say:
    """Whether the line is worth blading smooth before it is set out, how much ground that is, and where it must not be.

    Source: common practice: rutted ground is bladed first; not on steep or wet ground, not where services lie or trees root.
    """
    found = patches(plan)
    length = plan.course.length_m
    rule = plan.system.rule
    often = len(found) * 100.0 / length if length else 0.0
    steep = [b for b in plan.bays if abs(b.ground.grade) > rule("steep_run_grade")]
    kept = [t for t in plan.things if t.found.kind in ("service", "roots", "wet", "habitat")]
    values: Values = {"area": (length * 2 * fence.swath_m, "land"), "often": f"{often:.1f}"}
    where = [w for w, there in (("on the steep stretches", steep), ("over what was found there", kept)) if there]
    but = f"; not {' nor '.join(where)}" if where else ""
    if often >= rule("blade_over"):
        return Say(
            "Worth blading smooth before posts are set out: {often} lows and humps in 100 m; the swath is {area}"
            + but
            + ".",
            values,
        )
    return Say("Not worth blading: {often} lows and humps in 100 m of line are done by hand.", values)
