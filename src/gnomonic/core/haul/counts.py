"""Counts that the take-off, the steps and the sheets share: posts of a line's own, what is filled round them, rails, fittings."""

import math
from collections import defaultdict

from gnomonic.core.finish.fittings import run_counts, splice_counts
from gnomonic.core.plan.crossings import OverWater
from gnomonic.core.plan.holds import braced_here
from gnomonic.core.plan.model import Brace, Plan, Post


def own_posts(plan: Plan) -> list[Post]:
    """Posts this line brings itself: not those it shares with another."""
    return [p for p in plan.posts if not p.shared]


def filled_round(plan: Plan, post: Post) -> tuple[str, float]:
    """What is filled round a post and how much (m³): hole less post; nothing where the soil goes back."""
    volume = post.rule.round_m3(post.depth_m)
    return (post.fill, volume) if post.fill and volume else ("", 0.0)


def filled_m3(plan: Plan) -> dict[str, float]:
    """What is filled round the line's own posts, by material."""
    filled: dict[str, float] = defaultdict(float)
    for post in own_posts(plan):
        fill, volume = filled_round(plan, post)
        if fill:
            filled[fill] += volume
    return dict(filled)


def panel_rails_m(plan: Plan) -> list[float]:
    """Cut length of every brace rail; a panel shared by two braces has one."""
    spanned: dict[tuple[float, float], float] = {}
    for brace in (b for b in plan.braces if b.kind != "welded"):
        for a, b, cut in zip(brace.end.stations_m[:-1], brace.end.stations_m[1:], brace.rail_cut_m, strict=True):
            spanned[min(a, b), max(a, b)] = cut
    return list(spanned.values())


def fitted_here(post: Post, item: str) -> int:
    """How many of an item this line puts on a post; what is put once on a post that lines share is on it already."""
    return sum(f.count for f in post.fittings if f.item == item and (f.per_end or not post.shared))


def fitting_counts(plan: Plan) -> dict[str, float]:
    """Every fitting of the line: on posts, between them, on runs, at splices and corners."""
    counts: dict[str, float] = defaultdict(float)
    joints = [len(plan.rolls.splices), *(m.splices for m in plan.more if m.what.startswith("layer"))]
    for layer, splices in zip(plan.section.layers, joints, strict=False):
        for item, number in splice_counts(plan.section, layer).items():
            counts[item] += number * (splices + plan.corner_seams)
    for post in plan.posts:
        for item in dict.fromkeys(f.item for f in post.fittings):
            counts[item] += fitted_here(post, item)
    for item, number in plan.between:
        counts[item] += number
    for slope_m in plan.slope_m:
        for item, number in run_counts(plan.section, slope_m).items():
            counts[item] += number
    return dict(counts)


def gate_counts(plan: Plan) -> dict[str, int]:
    """Hardware of all gates, by item."""
    counts: dict[str, int] = defaultdict(int)
    for gate in plan.gates:
        for item, number in gate.kind.counts(gate.high_m).items():
            counts[item] += number
    return dict(counts)


def second_wires(plan: Plan) -> list[tuple[Brace, float]]:
    """Panels with a second wire on their other diagonal, from the outer post's head to the inner's foot, and what it takes: behind posts that
    a leaf or a rope draws the other way.  A shared or crossed panel has both already."""
    rule, found = plan.system.rule, []
    drawn = [
        *(at for g in plan.gates for at in g.hinge_posts_m),
        *(at for c in plan.crossings for at in (c.at_m, c.to_m)),
    ]
    for at in drawn:
        brace = braced_here(plan, at)
        if brace is None or brace.end.shared or brace.end.crossed:
            continue
        first = brace.panels[0]
        diagonal = math.hypot(first.level_m, first.rail_out_m - first.rise_m)
        found.append((brace, rule("brace_wire_loops") * 2 * diagonal + rule("brace_wire_wraps_m")))
    return found


TURNS_ROUND = 2  # a rope goes twice round its post before it is clipped


def rope_bought_m(plan: Plan, over: OverWater) -> float:
    """Rope of a crossing: as it hangs, twice round each post, and what is turned back at both ends."""
    built = over.built
    round_m = sum(TURNS_ROUND * math.pi * p.rule.diameter_m for at in (over.at_m, over.to_m) if (p := plan.post_at(at)))
    return built.rope_m + round_m + 2 * built.cable.back_m
