"""Ways to brace one end side by side: what each carries, leaves at the foot and lifts, whether the soil holds that, what it costs."""

import math
from dataclasses import dataclass
from itertools import product

from gnomonic.core.brace.statics import braced, diagonal_brace, panel_on, why_not
from gnomonic.core.demand.catalog import catalog
from gnomonic.core.errors import BadInput
from gnomonic.core.job.fence import Fence
from gnomonic.core.job.parts import BraceAsk
from gnomonic.core.plan.braces import TIES, Site, ea_ratio
from gnomonic.core.plan.model import Holding, Plan
from gnomonic.core.units import FOOT_M

RAILS_M = tuple(f * FOOT_M for f in (6, 8, 10, 12))
SHARES = (0.6, 0.775, 0.9)
ANGLES = (30.0, 45.0, 60.0)


@dataclass(frozen=True, slots=True)
class Row:
    """One way: forces in N of the first panel or the strut; ``holds`` of this run by itself; ``cost`` in driven steel posts."""

    ask: BraceAsk
    rail_n: float
    wire_n: float
    shear_n: float
    uplift_n: float
    holds: bool | None
    side_share: float
    lift_share: float
    cost: float
    because: str = ""


def compare(fence: Fence, plan: Plan, at_m: float, ahead: bool) -> list[Row]:
    """H-braces of 6 to 12 ft rails at 60 to 90 % in one to three panels, struts of 30 to 60° with each tie, for one end."""
    site = Site(fence, plan.section, plan.course, plan.fence_height_m, plan.limits.clearance_m)
    station = 0.0 if plan.course.closed and at_m > plan.course.length_m - 1e-4 else at_m
    held = next((h for h in plan.holds if abs(plan.posts[h.post].station_m - station) < 1e-3), None)
    way = 1 if ahead else -1
    rows = [_panels(site, held, at_m, way, r, s, n) for n, r, s in product((1, 2, 3), RAILS_M, SHARES)]
    return rows + [_strut(site, held, at_m, way, angle, tie) for angle, tie in product(ANGLES, TIES)]


def _verdict(held: Holding | None, shear_n: float, uplift_n: float) -> tuple[bool | None, float, float]:
    if held is None:
        return None, 0.0, 0.0
    at = held.at
    has = at.allowed_n(0.0) if held.method == "code" else at.ultimate_n(0.0) + held.board_n
    times = 1.0 if held.method == "code" else held.factor
    side = abs(shear_n) * times / has if has else 99.0
    lift = max(0.0, uplift_n) * held.factor / held.grip_n if held.grip_n else 99.0
    leans = at.lean(abs(shear_n), 0.0).ground_m * held.left > held.stop_m
    return side <= 1 and lift <= 1 and not leans, side, lift


def _panels(site: Site, held: Holding | None, at_m: float, way: int, apart_m: float, share: float, count: int) -> Row:
    system, rail = site.section.system, share * site.height_m
    z = site.ground([at_m + way * apart_m * k for k in range(count + 1)])
    fits = all(system.rule("rail_least_share") * rail <= rail - (h - z[0]) <= site.height_m for h in z)
    lay = "level" if fits else "ground"
    panels = []
    for k in range(count):
        out = rail - (z[k] - z[0]) if fits else rail
        one = panel_on(apart_m, z[k + 1] - z[k], out, "level" if fits else "ground")
        panels.append(one)
    ask = BraceAsk(kind="h", panels=count, spacing_m=apart_m, rail_share=share)
    because = next((b for p in panels if (b := why_not(p, site.height_m + 0.05))), "")
    cost = _cost(site, panels=count, rail_m=apart_m, wire_m=sum(4 * p.wire_m + 1 for p in panels))
    if because:
        return Row(ask, 0.0, 0.0, 0.0, 0.0, False, 0.0, 0.0, cost, f"{because} ({lay})")
    grade = panels[0].rise_m / apart_m
    made = braced(site.pull_n, site.pull_height_m, grade, panels, ea_ratio(site.section, "h"))
    assert made.rail_n and made.foot_shear_n and made.end_post_uplift_n is not None
    shear, up = made.foot_shear_n[0], made.end_post_uplift_n
    return Row(ask, made.rail_n[0], made.wire_n[0], shear, up, *_verdict(held, shear, up), cost)


def _strut(site: Site, held: Holding | None, at_m: float, way: int, angle: float, tie: str) -> Row:
    high = site.section.system.rule("strut_share") * site.height_m
    reach = high / math.tan(math.radians(angle))
    rise = site.grade(at_m, way, reach) * reach
    ask = BraceAsk(kind="strut", angle_deg=angle, tie=TIES[tie])
    cost = (catalog()["strut"].index + (0.0 if tie == "none" else 3.0 * (4 * reach + 1))) / 100
    try:
        d = diagonal_brace(site.pull_n, site.pull_height_m, high, reach, TIES[tie], rise)
    except BadInput as error:
        return Row(ask, 0.0, 0.0, 0.0, 0.0, False, 0.0, 0.0, cost, error.sentence)
    return Row(ask, d.strut_n, d.tie_n, d.foot_shear_n, d.end_post_uplift_n, *_verdict(held, d.foot_shear_n, d.end_post_uplift_n), cost)  # fmt: skip


def _cost(site: Site, panels: int, rail_m: float, wire_m: float) -> float:
    """Brace posts, rails by their length, wire: in driven steel posts."""
    post = site.section.posts["brace"]
    long = post.stock_for(site.height_m + post.over_m)
    each = post.index_m * long + catalog()["brace_rail"].index * rail_m / 2.4384
    return (panels * each + catalog()["strut_wire"].index * wire_m) / 100
