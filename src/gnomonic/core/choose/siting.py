"""Where along a line a gate hangs best: it is slid along a stretch, and the ground judges its swing at every place; the best places are then
planned, so that what each costs the fence is known.

Source: geometry (docs/method.md §13); ranked by what is left under the leaf, then by how high it must hang.
"""

import math
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.core.finish.hanging import HungGate
from gnomonic.core.ground.course import Course, course
from gnomonic.core.ground.profile import Floats
from gnomonic.core.job.fence import Fence, changed
from gnomonic.core.plan.gates import beside, hang
from gnomonic.core.plan.line import LineMemo, lay_out
from gnomonic.core.plan.model import Asked, Plan
from gnomonic.core.plan.shared import asked_of
from gnomonic.core.say import Say, Values
from gnomonic.core.setout.runs import SHORTEST_RUN_M, Gap

STEP_M = 0.25
MOST_M = 1000.0
ANGLES, SPREAD = 10, 8
PLANNED = 4
APART_M = 3.0  # two places nearer than this are one
WATER_M = 0.5
OFF_M = 1e-6


@dataclass(frozen=True, slots=True)
class Sites:
    """Every place tried: ``at_m`` of the first post, what is left under the leaf and how high it hangs at its best way round; why none may
    stand where ``ruled_out`` says so (empty where one may)."""

    at_m: Floats
    gap_m: Floats
    bottom_m: Floats
    ruled_out: tuple[str, ...]

    @property
    def open(self) -> list[int]:
        """Places where the gate may hang."""
        return [k for k, why in enumerate(self.ruled_out) if not why]


@dataclass(frozen=True, slots=True)
class Place:
    """A place worth a look: the gate as it would hang there, posts more or less on the line, and posts, fill and cut together (in posts)."""

    gate: HungGate
    posts: int
    cost: float


def sites(fence: Fence, plan: Plan, gate: HungGate, from_m: float, to_m: float) -> Sites:
    """The gate slid along a stretch, its leaf the same.  Raises BadInput for a stretch it does not fit in, or too long a one."""
    line, wide = plan.course, gate.opening_m
    low, high = max(0.0, from_m), min(line.length_m, to_m)
    if high - low < wide or high - low > MOST_M:
        values: Values = {"wide": (wide, "station"), "most": (MOST_M, "station")}
        raise BadInput(
            "to_m", Say("the stretch must be longer than the gate ({wide}) and at most {most}", dict(values))
        )
    at = np.unique(
        np.append(np.arange(low, high - wide + 1e-9, STEP_M), gate.at_m if low <= gate.at_m <= high - wide else low)
    )
    gap, bottom = _judged(plan, gate, at)
    return Sites(at, gap, bottom, tuple(_ruled_out(fence, plan, gate, at)))


def _judged(plan: Plan, gate: HungGate, at: Floats) -> tuple[Floats, Floats]:
    """What is left under the leaf at its best way round, and how high it hangs, at every place; breaks of the ground between what is tried are
    missed here by a little, and met when the place is planned.  The leaf hangs from the ground at its pin."""
    if not gate.kind.leaves:
        return np.zeros_like(at), np.zeros_like(at)
    profile, leaf, open_rad = plan.course.profile, gate.leaf_m, math.radians(gate.gate.open_deg)
    angles, far = np.linspace(0, open_rad, ANGLES), np.linspace(0, leaf, SPREAD + 1)
    along, out = np.outer(np.cos(angles), far).ravel(), np.outer(np.sin(angles), far).ravel()
    reach = np.tile(far, ANGLES)
    ways = []
    both = gate.kind.leaves == 2
    for end, way in ((0.0, 1), (gate.opening_m, -1)):
        if gate.gate.hinge and not both and (gate.gate.hinge == "first") != (way == 1):
            continue
        pin = at + end + way * (gate.posts_m[0] / 2 + gate.kind.hinge_gap_m)
        base = profile.at(pin)
        ground = profile.at(pin[:, None] + way * along[None, :]) - base[:, None]
        closed = profile.at(pin[:, None] + way * far[None, :]) - base[:, None]
        for side in [gate.gate.side] if gate.gate.side else ["left", "right"]:
            across = gate.across[0] * (1 if side == "left" else -1) * out[None, :]
            for lie in [gate.gate.lie] if gate.gate.lie else ["level", "land"]:
                slope = closed[:, -1:] / leaf if lie == "land" else np.zeros((len(at), 1))
                hangs = np.maximum(0.0, (ground + across - slope * reach[None, :]).max(axis=1)) + gate.clearance_m
                left = (hangs[:, None] + slope * far[None, :] - closed).max(axis=1)
                ways.append((left, hangs))
    gaps, hung = np.array([w[0] for w in ways]), np.array([w[1] for w in ways])
    if both:  # both leaves hang alike; the worse of the two is what is left
        half = len(ways) // 2
        gaps, hung = np.maximum(gaps[:half], gaps[half:]), np.maximum(hung[:half], hung[half:])
    best = gaps.argmin(axis=0)
    rows = np.arange(len(at))
    return gaps[best, rows], hung[best, rows]


def _ruled_out(fence: Fence, plan: Plan, gate: HungGate, at: Floats) -> list[str]:
    """Why the gate can't hang from each station; empty where it may."""
    line, end = plan.course, at + gate.opening_m
    limit, noticed = fence.decisions.corner_angle_deg, plan.system.rule("noticed_turn_deg")
    found = np.full(len(at), "", dtype=object)

    def rule_out(which: np.ndarray[Any, Any], why: str) -> None:
        found[which & (found == "")] = why

    for station, turn in zip(line.stations_m[1:-1].tolist(), np.abs(line.turns_deg()[1:-1]).tolist(), strict=True):
        if turn > noticed:
            inside = (at + 1e-6 < station) & (station < end - 1e-6)
            rule_out(inside, "across a corner" if turn > limit else "across a bend")
    for other in plan.gates:
        if other.id != gate.id:
            near = (at < other.end_m + SHORTEST_RUN_M) & (other.at_m - SHORTEST_RUN_M < end)
            rule_out(near, f"in the way of {other.name}")
    for water in plan.waters:
        rule_out((at < water.to_m + WATER_M) & (water.from_m - WATER_M < end), f"in {water.name}")
    for bar in plan.barred:
        stands = [(bar.from_m < s) & (s < bar.to_m) for s in (at, end)]
        rule_out(stands[0] | stands[1], f"a post in {bar.reason or 'a forbidden stretch'}")
    return [str(w) for w in found]


def hung_at(fence: Fence, plan: Plan, gate: HungGate, at_m: float) -> HungGate:
    """The gate as it would hang from another station, its posts alike; nothing else is planned.  Raises BadInput (``at``) off the line."""
    if not 0 <= at_m <= plan.course.length_m - gate.opening_m + OFF_M:
        values: Values = {"end": (plan.course.length_m - gate.opening_m, "station")}
        raise BadInput("at", Say("the gate hangs between 0 and {end} of this line", values))
    moved = tuple(g.model_copy(update={"at_m": at_m}) if g.id == gate.id else g for g in fence.gates)
    there, wide = changed(fence, gates=moved), gate.posts_m[0]
    gap = Gap(gate.id, gate.name, at_m, gate.opening_m)
    return hang(there, plan.section, plan.course, [gap], lambda _: wide, beside(there, plan.course))[0]


def best_places(fence: Fence, plan: Plan, gate: HungGate, found: Sites, memo: LineMemo | None = None) -> list[Place]:
    """The gate where it is and at the best places of those tried, each planned.

    Places are taken by what is left under the leaf beyond what is allowed, then by how high it hangs, then by how near they are.
    """
    rows = sorted(
        found.open,
        key=lambda k: (
            round(max(0.0, float(found.gap_m[k]) - gate.most_gap_m), 3),
            round(float(found.bottom_m[k]), 2),
            abs(float(found.at_m[k]) - gate.at_m),
        ),
    )
    taken: list[float] = []
    for k in rows:
        at = float(found.at_m[k])
        if len(taken) < PLANNED and all(abs(at - t) >= APART_M for t in [*taken, gate.at_m]):
            taken.append(at)
    memo = memo or LineMemo()
    made = [Place(gate, 0, 0.0)]
    line = plan.course
    asked, ends = _asked(fence, line)
    for at in taken:
        moved = tuple(g.model_copy(update={"at_m": at}) if g.id == gate.id else g for g in fence.gates)
        there = changed(fence, gates=moved)
        try:
            laid = lay_out(there, line, asked, ends, replace(memo), (), beside(there, line)).plan
        except BadInput:
            continue
        hung = next(g for g in laid.gates if g.id == gate.id)
        made.append(Place(hung, len(laid.posts) - len(plan.posts), laid.cost - plan.cost))
    return made


def _asked(fence: Fence, line: Course) -> tuple[tuple[Asked, ...], dict[str, str]]:
    """What other lines ask of this one, and whose posts its ends stand on."""
    if not fence.job.joins:
        return (), {}
    courses = {other.id: line if other.id == fence.id else course(other.measured) for other in fence.job.lines}
    asked, there = asked_of(fence.job, courses)
    return asked.get(fence.id, ()), dict(there.get(fence.id, ()))
