"""Counts that the take-off, the steps and the sheets share: posts of a line's own, what is filled round them, rails, fittings."""

from collections import defaultdict

from gnomonic.core.finish.fittings import run_counts, splice_counts
from gnomonic.core.plan.model import Plan, Post


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
    """Every fitting of the line: on posts, between them, on runs, at splices and corners, and at gates."""
    counts: dict[str, float] = defaultdict(float)
    joints = [len(plan.rolls.splices), *(m.splices for m in plan.more if m.what.startswith("layer"))]
    for layer, splices in zip(plan.section.layers, joints, strict=False):
        for item, number in splice_counts(plan.section, layer).items():
            counts[item] += number * (splices + plan.corner_seams)
    for post in plan.posts:
        for item in {f.item for f in post.fittings}:
            counts[item] += fitted_here(post, item)
    for item, number in plan.between:
        counts[item] += number
    for slope_m in plan.slope_m:
        for item, number in run_counts(plan.section, slope_m).items():
            counts[item] += number
    for gate in plan.system.gate_fittings:
        counts[gate.item] += gate.number * len(plan.gates)
    return dict(counts)
