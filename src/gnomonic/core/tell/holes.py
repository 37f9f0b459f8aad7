"""The hole list: every post's hole in the order they are dug, with what comes out and what goes in."""

import math
from dataclasses import dataclass

from gnomonic.core.haul.counts import own_posts
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.holds import in_soil
from gnomonic.core.plan.model import Plan, Post, hand_dug
from gnomonic.core.soil.backfill import Backfill, backfill, fills

ORDER = ("end", "corner", "gate", "crossing", "pull", "join", "brace")
FILL_KEYS = {"concrete": "concrete", "soil cement": "soil_cement", "crushed rock": "gravel", "": "tamped"}


@dataclass(frozen=True, slots=True)
class Hole:
    """One hole: ``auger_m`` across (0: the post is driven, in ``pilot_m`` where the ground is hard), what fills it."""

    post: Post
    auger_m: float
    pilot_m: float
    soil: str
    wet: bool
    fill: str
    takes: Backfill | None
    by_hand: bool
    over_frost: bool


def holes(fence: Fence, plan: Plan) -> list[Hole]:
    """Terminals first, then brace posts, then along the line; posts that stand already are left out."""
    hand, found = hand_dug(plan), []
    for post in own_posts(plan):
        at = in_soil(fence, plan, post)
        across = post.rule.hole_m if post.rule.fit != "drive" or post.fill else 0.0
        takes = None
        if across:
            post_area = math.pi / 4 * post.rule.diameter_m**2
            takes = backfill(fills()[FILL_KEYS[post.fill]], math.pi / 4 * across**2, post_area, post.depth_m)
        shallow = fence.soil.frost_m > 0 and post.depth_m < fence.soil.frost_m
        found.append(
            Hole(
                post,
                across,
                plan.system.rule("pilot_m") if across or at.soil.hard else 0.0,
                at.soil.words,
                at.wet,
                post.fill,
                takes,
                post.index in hand,
                shallow,
            )
        )
    return sorted(
        found, key=lambda h: (ORDER.index(h.post.role) if h.post.role in ORDER else len(ORDER), h.post.station_m)
    )
