"""Bends within runs: what carrying the fabric round each asks of its post, and what was chosen there."""

from dataclasses import dataclass

import numpy as np

from gnomonic.core.brace.forces import side_n
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Holding, Plan, Post


@dataclass(frozen=True, slots=True)
class Bend:
    """A bend of the line between its ends: carried round its post, held by boards, or an end of two runs.

    The fabric goes on the ``outside`` of the bend, so that it draws against the post and not off it.
    """

    at_m: float
    turn_deg: float
    side_n: float
    post: Post | None
    held: Holding | None
    how: str
    outside: str


def bends(fence: Fence, plan: Plan) -> list[Bend]:
    """Bends between the line's ends that are noticed or pull enough, but those in gates; corners beyond the line's own angle are ends."""
    course, found, rule = plan.course, [], plan.system.rule
    limit = fence.decisions.corner_angle_deg
    posts = np.array([p.station_m for p in plan.posts])
    for station, turn in zip(course.stations_m[1:-1].tolist(), course.turns_deg()[1:-1].tolist(), strict=True):
        pulls = side_n(plan.section.cold_n, turn)
        small = abs(turn) < rule("noticed_turn_deg") and pulls < rule("tell_side_n")
        if small or abs(turn) > limit or any(g.at_m < station < g.at_m + g.opening_m for g in plan.gates):
            continue
        near = int(np.abs(posts - station).argmin())
        post = plan.posts[near] if abs(posts[near] - station) < 0.05 else None
        held = next((h for h in plan.holds if post and h.post == post.index), None)
        how = "end" if post and post.kind == "terminal" else "boards" if post and post.block else "carry"
        outside = "left" if turn > 0 else "right"
        found.append(Bend(station, turn, pulls, post, held, how, outside))
    return found
