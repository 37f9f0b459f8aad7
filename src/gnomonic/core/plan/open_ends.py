"""What stands on either side of an opening: what leaves and ropes do to their posts."""

import math
from collections.abc import Sequence
from dataclasses import replace

from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.crossings import OverWater, Water, over_water
from gnomonic.core.plan.gates import leaf_pulls
from gnomonic.core.plan.holds import braced_here, in_soil, wood_stands_n
from gnomonic.core.plan.model import Plan, Post, Pull
from gnomonic.core.setout.runs import Gap
from gnomonic.core.soil.soils import InSoil


def with_openings(fence: Fence, plan: Plan, crossed: Sequence[Gap], found: Sequence[Water]) -> Plan:
    """A line's plan with its crossings built, and what leaves and ropes pull on their posts."""
    if not plan.gates and not crossed:
        return plan
    height = plan.fence_height_m
    stands = [sum(2 * [min(across_n(fence, plan, post, height) for post in _posts(plan, gap))]) for gap in crossed]
    over = over_water(fence, plan.section, plan.course, crossed, found, height, stands)
    pulls = [*leaf_pulls(fence, plan.course, plan.gates), *(p for one in over for p in rope_pulls(fence, plan, one))]
    return replace(plan, crossings=over, ends=(*plan.ends, *pulls))


def _posts(plan: Plan, gap: Gap) -> list[Post]:
    found = [plan.post_at(at) for at in (gap.at_m, gap.end_m)]
    return [p for p in found if p is not None]


def across_n(fence: Fence, plan: Plan, post: Post, high_m: float) -> float:
    """What a post holds across the stream, pushed ``high_m`` over its ground: in its soil with the factor, and by its own section."""
    return stands_across_n(fence, plan, post, in_soil(fence, plan, post), high_m)


def stands_across_n(fence: Fence, plan: Plan, post: Post, at: InSoil, high_m: float) -> float:
    """As ``across_n``, set as ``at`` says."""
    return min(at.ultimate_n(high_m) / fence.decisions.hold_factor, wood_stands_n(plan, post, high_m))


def rope_pulls(fence: Fence, plan: Plan, over: OverWater) -> list[tuple[float, Pull]]:
    """What a rope does to the posts on both banks: toward the water, where a second wire in the panel behind takes it, and half the flood's push
    across the stream.

    Derived: the second wire, made fast where the rope is, takes all of it: nothing is left at the post's foot, the post is pressed down.
    """
    built, found = over.built, []
    level = built.at_first_level_n
    push = built.push_n / 2
    for at, to in ((over.at_m, over.to_m), (over.to_m, over.at_m)):
        (e0, n0), (e1, n1) = plan.course.place(at), plan.course.place(to)
        bearing = math.degrees(math.atan2(e1 - e0, n1 - n0)) % 360
        held = braced_here(plan, at) is not None
        high = plan.fence_height_m
        found.append(
            (
                at,
                Pull(
                    fence.id,
                    f"the rope over {over.name}",
                    bearing,
                    level,
                    0.0,
                    0.0 if held else level,
                    0.0 if held else high,
                ),
            )
        )
        found.append((at, Pull(fence.id, f"{over.name} in flood", (bearing + 90) % 360, push, 0.0, push, high)))
    return found
