"""What every post is asked to hold, followed to the ground: ends, corners, bends, dips and humps.

Source: docs/method.md §5–6.  Forces are those of the coldest day.
"""

import math
from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from gnomonic.core.brace.forces import Ends, corner, lift, side_n, together
from gnomonic.core.demand.section import Section
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Bay, Brace, Holding, Plan, Post, Pull
from gnomonic.core.soil.soils import InSoil, soil

SOLID = ("concrete", "soil cement")  # what goes into the ground with the post as one piece
CLOSE_ENOUGH_M = 1e-6
BOTH_WAYS = ("h", "box")  # panels that a second wire makes hold both ways


def in_soil(fence: Fence, plan: Plan, post: Post) -> InSoil:
    """A post where it stands.  A footing bears with its hole's width; what is tamped round a post leaves it its own."""
    section = plan.section
    key, wet = fence.soil.at(post.station_m)
    wet = wet or any(a <= post.station_m <= b for a, b in plan.wet_at)
    wide = post.rule.hole_m if post.fill in SOLID and post.rule.hole_m else post.rule.diameter_m
    round_it = (
        section.system.rule("sheet_perimeter")
        if post.rule.material == "steel" and wide == post.rule.diameter_m
        else math.pi
    )
    return InSoil(soil(key), wet, wide, post.depth_m, round_it * wide)


def grip_n(section: Section, post: Post, at: InSoil) -> float:
    """What holds a post down: its sides' grip and, of a footing, its weight."""
    footing = post.rule.round_m3(post.depth_m) if post.fill in SOLID else 0.0
    return at.up_n + footing * section.system.rule("concrete_n_m3")


def board_n(section: Section, post: Post, at: InSoil, e_m: float) -> float:
    """What a breast board adds: the soil's passive pressure on it, about the post's toe.

    Derived: the board's force acts at its middle, so Hb = p·A·(L − z)/(e + L); sand p = 3·γ·z·Kp, as Broms
    has them, clay p = 2·cu, what his 9·cu comes to near the top.  A board behind the foot keeps the toe where it is.
    """
    if not post.block:
        return 0.0
    rule, wide = section.system.rule, at.wide_m
    high, z = rule("board_wide_m"), rule("board_wide_m") / 2
    if at.depth_m <= high:
        return 0.0
    g = at.ground
    pressure = 3 * g.gamma_n_m3 * z * g.kp if g.family == "sand" else 2 * g.cu_pa  # near the top clay gives 2·cu
    force = pressure * max(0.0, rule("board_long_m") - wide) * high
    return force * (at.depth_m - z) / (e_m + at.depth_m)


@dataclass(frozen=True, slots=True)
class Sideways:
    """What pushes a post sideways: together, how high, to where; the worst run alone; and how much it is pushed by when it has
    moved (N of m)."""

    together_n: float
    at_m: float = 0.0
    bearing_deg: float | None = None
    alone: tuple[float, float] | None = None
    when_moved: Callable[[float], float] | None = None
    moment_nm: float = 0.0

    @property
    def asked_n(self) -> float:
        """The greater of both."""
        return max(self.together_n, self.alone[0] if self.alone else 0.0)


def _held(
    fence: Fence,
    plan: Plan,
    post: Post,
    why: str,
    side: Sideways,
    lift_n: float,
    stands: bool = True,
) -> Holding:
    section, e, asked = plan.section, side.at_m, side.asked_n
    at = in_soil(fence, plan, post)
    board = board_n(section, post, at, e) if asked else 0.0
    has = at.ultimate_n(e) + board if asked else 0.0
    moved, top = 0.0, 0.0
    left = 1.0
    if asked:
        unit = at.lean(1.0 - board / has if has else 1.0, e)
        moved = _comes_to_rest(unit.ground_m, asked, side.when_moved)
        left = moved / (unit.ground_m * asked)
        top = unit.at_m(plan.fence_height_m) * asked * left
    return Holding(
        post=post.index,
        why=why,
        side_n=side.together_n,
        side_at_m=e,
        side_deg=side.bearing_deg,
        lift_n=lift_n,
        alone=side.alone,
        at=at,
        has_n=has,
        code_n=at.allowed_n(e) if asked else 0.0,
        lean_m=moved,
        top_m=top,
        left=left,
        grip_n=grip_n(section, post, at),
        board_n=board,
        bend_pa=_bend_pa(post, at, side),
        breaks_pa=section.system.rule("wood_bends_pa") if post.rule.material == "wood" else 0.0,
        factor=fence.decisions.hold_factor,
        method=fence.soil.method,
        stop_m=section.system.rule("lean_stop_m"),
        stands=stands,
    )


def _bend_pa(post: Post, at: InSoil, side: Sideways) -> float:
    """Greatest bending stress in a round post: between its foot and the rail, or below ground."""
    if not side.asked_n:
        return 0.0
    below = at.ground.moment_nm(side.asked_n, at.wide_m, side.at_m)
    return max(below, side.moment_nm) / (math.pi * post.rule.diameter_m**3 / 32)


def _comes_to_rest(give_m_n: float, asked_n: float, when_moved: Callable[[float], float] | None) -> float:
    """Where a post that gives ``give_m_n`` a newton stops: moving it gives length back to the wire, which then pulls less."""
    low, high = 0.0, give_m_n * asked_n
    if when_moved is None or not high:
        return high
    over, under = high, give_m_n * when_moved(high) - high
    for _ in range(40):  # regula falsi with the Illinois rule: it closes in from both sides
        if under > -CLOSE_ENOUGH_M:
            return high
        at = low + (high - low) * over / (over - under)
        left = give_m_n * when_moved(at) - at
        if abs(left) < CLOSE_ENOUGH_M:
            return at
        if left > 0:
            low, over, under = at, left, under / 2
        else:
            high, under, over = at, left, over / 2
    return high


def _of_ends(fence: Fence, plan: Plan, post: Post, pulls: Sequence[Pull]) -> Holding:
    """A post that runs end on: forces as vectors, uplifts as numbers, and the worst run alone.

    Where a second wire in the panel behind holds one of two runs, both pulled at once meet in the post: what is left at its
    foot is the difference of their pulls.
    """
    met = len(pulls) > 1 and any(p.crossed for p in pulls)
    shears = [p.pull_n if met else p.shear_n for p in pulls]
    made = corner([Ends(p.pull_n, p.bearing_deg, s, p.uplift_n) for p, s in zip(pulls, shears, strict=True)])
    turning = sum(abs(p.shear_n) * p.shear_at_m for p in pulls)
    total = sum(abs(p.shear_n) for p in pulls)
    one = max(pulls, key=lambda p: (abs(p.shear_n), p.uplift_n))
    alone = (abs(one.shear_n), max(p.uplift_n for p in pulls)) if len(pulls) > 1 else None
    leads = alone is not None and alone[0] > made.foot_shear_n

    def when_moved(by_m: float) -> float:
        if leads or made.foot_bearing_deg is None:
            return abs(one.shear_n) * one.left(by_m)
        left = [p.left(by_m * math.cos(math.radians(p.bearing_deg - made.foot_bearing_deg))) for p in pulls]
        return together([(s * k, p.bearing_deg) for s, k, p in zip(shears, left, pulls, strict=True)])[0]

    side = Sideways(
        made.foot_shear_n,
        turning / total if total else 0.0,
        made.foot_bearing_deg,
        alone,
        when_moved,
        max(p.moment_nm for p in pulls),
    )
    return _held(fence, plan, post, "ends", side, made.uplift_n, all(p.stands for p in pulls))


def _passing(fence: Fence, plan: Plan, post: Post, before: Bay, after: Bay) -> Holding | None:
    """A post that fabric passes: what its change of grade lifts, and of direction pulls sideways."""
    if plan.section.railed:
        return None
    pull, tell = plan.section.cold_n, plan.section.system.rule("tell_lift_n")
    if not post.turn_deg and abs(after.ground.grade - before.ground.grade) * pull < tell:
        return None  # |sin θ2 − sin θ1| is at most |m2 − m1|
    up = lift(pull, before.ground.grade, after.ground.grade).lift_n
    side = side_n(pull, post.turn_deg) if post.turn_deg else 0.0
    up, side = up if abs(up) >= tell else 0.0, side if side >= plan.section.system.rule("tell_side_n") else 0.0
    if not up and not side:
        return None
    why = "bend" if side >= abs(up) else "dip" if up > 0 else "hump"
    height = plan.fence_height_m - plan.section.top_m + plan.section.pull_height_m
    return _held(fence, plan, post, why, Sideways(side, height if side else 0.0), up)


def braced_here(plan: Plan, at_m: float) -> Brace | None:
    """The panel behind a post that can take a second wire, for what pulls it the other way."""
    return next(
        (b for b in plan.braces if abs(b.end.stations_m[0] - at_m) < 1e-3 and b.kind in BOTH_WAYS and b.statics.stands),
        None,
    )


def _inner(fence: Fence, plan: Plan) -> dict[int, Holding]:
    """Brace posts that a panel behind them, or a crossed wire, pulls on more than a little."""
    asked: dict[int, tuple[float, float]] = defaultdict(lambda: (0.0, 0.0))
    for brace in plan.braces:
        s = brace.statics
        if s.foot_shear_n is None or s.uplift_n is None:
            continue
        for at, shear, up in zip(brace.end.stations_m[1:], s.foot_shear_n[1:], s.uplift_n[1:], strict=True):
            post = plan.post_at(at % plan.course.length_m if plan.course.closed else at)
            if post is not None and post.kind == "brace":
                now = asked[post.index]
                asked[post.index] = (max(now[0], abs(shear)), now[1] + max(0.0, up))
    for over in plan.crossings:
        for at in (over.at_m, over.to_m):
            held = braced_here(plan, at)
            inner = plan.post_at(held.end.stations_m[1]) if held else None
            if (
                held and inner is not None and inner.kind == "brace"
            ):  # the second wire draws its foot to the water, and up
                level, now = over.built.at_first_level_n, asked[inner.index]
                up = level * plan.fence_height_m / held.panels[0].level_m
                asked[inner.index] = (max(now[0], level), max(now[1], up))
    tell = plan.section.system.rule("tell_lift_n")
    return {
        k: _held(fence, plan, plan.posts[k], "brace", Sideways(shear), up)
        for k, (shear, up) in asked.items()
        if shear >= tell or up >= tell
    }


def holds_of(fence: Fence, plan: Plan) -> tuple[Holding, ...]:
    """What every post of a line is asked, where it is worth a word, in order along the line."""
    shared: Mapping[int, tuple[Pull, ...]] = dict(plan.pulls)
    own: dict[int, list[Pull]] = defaultdict(list)
    for at, pull in plan.ends:
        post = plan.post_at(at)
        if post is not None:
            own[post.index].append(pull)
    found: dict[int, Holding] = _inner(fence, plan)
    for k in {*own, *shared}:
        pulls = shared.get(k) or own[k]
        if any(p.pull_n for p in pulls):
            found[k] = _of_ends(fence, plan, plan.posts[k], pulls)
    before: dict[int, Bay] = {b.to_post: b for b in plan.bays}
    for bay in plan.bays:
        post = plan.posts[bay.from_post]
        if post.kind not in ("terminal", "brace") and post.index in before:
            held = _passing(fence, plan, post, before[post.index], bay)
            if held is not None:
                found[post.index] = held
    return tuple(found[k] for k in sorted(found))


def wood_stands_n(plan: Plan, post: Post, high_m: float) -> float:
    """What bends a wood post as far as it may be bent, pushed ``high_m`` over its ground; of other posts that is not known (infinite)."""
    if post.rule.material != "wood":
        return math.inf
    return plan.system.rule("wood_bends_pa") * math.pi * post.rule.diameter_m**3 / 32 / high_m
