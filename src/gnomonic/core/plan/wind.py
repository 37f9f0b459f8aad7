"""Wind on a line: what hangs pushes its line posts, bare, iced and littered, against what they hold.

Source: docs/method.md §16.  What is not reckoned: the bending of steel, pipe and concrete posts, ends and corners of the fence (where gusts
are stronger), leaves of gates.
"""

import math
from dataclasses import dataclass

from gnomonic.core.demand.section import Section
from gnomonic.core.finish.wind import covered, force_coefficient, velocity_pressure_pa
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.holds import in_soil, wood_stands_n
from gnomonic.core.plan.model import Plan, Post
from gnomonic.core.soil.soils import InSoil

FINE_M = 0.06  # a mesh no wider than chain link's catches litter
CASES = ("bare", "ice", "litter")


@dataclass(frozen=True, slots=True)
class Face:
    """What wind meets in one case: the push a metre along the line, how high over the bottom edge, the share covered of the whole face, and
    the gust."""

    case: str
    push_n_m: float
    at_m: float
    solidity: float
    speed_m_s: float


@dataclass(frozen=True, slots=True)
class Blown:
    """A line post and the worst case for it: ``push_n`` at ``at_m`` over its ground, what its soil holds there at last and what its wood stands
    (0: not reckoned)."""

    post: Post
    face: Face
    bay_m: float
    push_n: float
    at_m: float
    has_n: float
    stands_n: float
    factor: float
    at: InSoil

    @property
    def share(self) -> float:
        """What it is asked, with the factor, over what it has."""
        has = min(self.has_n, self.stands_n) if self.stands_n else self.has_n
        return self.push_n * self.factor / has if has > 0 else math.inf

    @property
    def holds(self) -> bool:
        """Whether it stands the gust."""
        return self.share <= 1


def faces(section: Section, speed_m_s: float, clearance_m: float = 0.0) -> list[Face]:
    """Bare, iced (at less than the whole gust) and, where a mesh is fine enough to catch any, littered; what is buried counts not."""
    rule, ground = section.system.rule, max(0.0, -clearance_m)
    found = []
    for case in CASES:
        ice = rule("ice_m") if case == "ice" else 0.0
        speed = speed_m_s * (rule("ice_wind") if case == "ice" else 1.0)
        q = velocity_pressure_pa(speed)
        parts: list[tuple[float, float, float]] = []  # push, height, covered area
        littered = False
        hung = [(x.fabric, x.bottom_m, x.top_m) for x in section.layers] + [
            (f, 0.0, min(f.height_m, section.top_m)) for f in section.linings
        ]
        for fabric, foot, high in hung:
            low = max(foot, ground)
            share, thick = covered(fabric, ice)
            if case == "litter" and fabric.kind != "sheet" and max(fabric.mesh_m) <= FINE_M and not fabric.spacing_in:
                littered |= share < rule("litter_share")
                share = max(share, rule("litter_share"))
            area = share * (high - low)
            parts.append((q * force_coefficient(share, thick, q) * area, (low + high) / 2, area))
        for strand in (s for s in section.strands if s.at_m >= ground):
            thick = strand.wire.diameter_m + 2 * ice
            parts.append((q * force_coefficient(0.0, thick, q) * thick, strand.at_m, thick))
        push = sum(p for p, _, _ in parts)
        if case == "litter" and not littered:
            continue
        high_m = sum(p * h for p, h, _ in parts) / push if push else section.top_m / 2
        shut = min(1.0, sum(a for _, _, a in parts) / (section.top_m - ground))
        found.append(Face(case, push, high_m, shut, speed))
    return found


def wind_on(fence: Fence, plan: Plan) -> list[Blown]:
    """Line posts of every kind, soil and depth, each the one with the widest bays, in the case that is worst for it; the worst first."""
    if not fence.decisions.wind_m_s:
        return []
    made = faces(plan.section, fence.decisions.wind_m_s, fence.decisions.clearance_m)
    along: dict[int, float] = {}
    for bay in plan.bays:
        for k in (bay.from_post, bay.to_post):
            along[k] = along.get(k, 0.0) + bay.slope_m / 2
    widest: dict[tuple[object, ...], Post] = {}
    for post in plan.posts:
        if post.fixed or post.index not in along:
            continue
        at = in_soil(fence, plan, post)
        key = (post.rule.title, at.soil.words, at.wet, round(post.depth_m, 3))
        if key not in widest or along[post.index] > along[widest[key].index] + 1e-9:
            widest[key] = post
    found = []
    for post in widest.values():
        at = in_soil(fence, plan, post)
        rows = []
        for face in made:
            high = fence.decisions.clearance_m + face.at_m
            push = face.push_n_m * along[post.index]
            bends = wood_stands_n(plan, post, max(high, 0.01))
            stands = bends if math.isfinite(bends) else 0.0
            factor = plan.system.rule("wind_factor")
            rows.append(
                Blown(post, face, along[post.index], push, high, at.ultimate_n(max(high, 0.0)), stands, factor, at)
            )
        found.append(max(rows, key=lambda r: r.share))
    return sorted(found, key=lambda r: -r.share)
