"""Ways to brace one end side by side: what each carries, leaves at the foot and lifts, whether the soil holds that, what it costs."""

from dataclasses import dataclass
from itertools import product

from gnomonic.core.brace.layout import BraceEnd
from gnomonic.core.demand.catalog import catalog
from gnomonic.core.errors import BadInput
from gnomonic.core.job.fence import Fence
from gnomonic.core.job.parts import BraceAsk
from gnomonic.core.plan.braces import TIES, Site, build_brace, build_strut
from gnomonic.core.plan.model import Brace, Holding, Plan
from gnomonic.core.say import Say
from gnomonic.core.setout.runs import Run
from gnomonic.core.units import FOOT_M

RAILS_M = tuple(f * FOOT_M for f in (6, 8, 10, 12))
SHARES = (0.6, 0.775, 0.9)
ANGLES = (30.0, 45.0, 60.0)
USUAL_RAIL_M = 8 * FOOT_M  # the rail whose cost the catalog has
SAME_END_M = 0.02


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
    """H-braces of 6 to 12 ft rails at 60 to 90 % in one to three panels, struts of 30 to 60° with each tie, for one end.

    Raises BadInput (``at``) where no run starts (``ahead``) or ends.
    """
    site = Site(fence, plan.section, plan.course, plan.fence_height_m, plan.limits.clearance_m)
    run = next((r for r in plan.runs if abs((r.start if ahead else r.end).station_m - at_m) < SAME_END_M), None)
    if run is None:
        raise BadInput("at", Say("no run ends at {at}: choose an end from the list", {"at": (at_m, "station")}))
    at_m = (run.start if ahead else run.end).station_m
    held = next((h for h in plan.holds if plan.posts[h.post] is plan.post_at(at_m)), None)
    rows = []
    for count, apart, share in product((1, 2, 3), RAILS_M, SHARES):
        ask = BraceAsk(kind="h", panels=count, spacing_m=apart, rail_share=share)
        rows.append(_panels(site, held, run, ahead, at_m, ask))
    asks = (BraceAsk(kind="strut", angle_deg=angle, tie=TIES[tie]) for angle, tie in product(ANGLES, TIES))
    return rows + [_strut(site, held, run, ahead, at_m, ask) for ask in asks]


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


def _panels(site: Site, held: Holding | None, run: Run, ahead: bool, at_m: float, ask: BraceAsk) -> Row:
    way, apart = 1 if ahead else -1, ask.spacing_m or 0.0
    stations = tuple(at_m + way * apart * k for k in range((ask.panels or 1) + 1))
    made = build_brace(site, BraceEnd(run.index, ahead, stations, False, False), run, ask)
    cost, s = _cost(site, made), made.statics
    if s.rail_n is None or s.foot_shear_n is None or s.end_post_uplift_n is None:
        return Row(ask, 0.0, 0.0, 0.0, 0.0, False, 0.0, 0.0, cost, f"{s.because} ({made.lay})")
    shear, up = s.foot_shear_n[0], s.end_post_uplift_n
    return Row(ask, s.rail_n[0], s.wire_n[0], shear, up, *_verdict(held, shear, up), cost)


def _strut(site: Site, held: Holding | None, run: Run, ahead: bool, at_m: float, ask: BraceAsk) -> Row:
    strut_cost, wire_m = catalog()["strut"].index / 100, catalog()["strut_wire"].index / 100
    try:
        made = build_strut(site, at_m, run, ahead, ask)
    except BadInput as error:
        return Row(ask, 0.0, 0.0, 0.0, 0.0, False, 0.0, 0.0, strut_cost, error.sentence)
    d, cost = made.statics, strut_cost + wire_m * made.wire_m
    return Row(ask, d.strut_n, d.tie_n, d.foot_shear_n, d.end_post_uplift_n, *_verdict(held, d.foot_shear_n, d.end_post_uplift_n), cost)  # fmt: skip


def _cost(site: Site, made: Brace) -> float:
    """Brace posts, rails by their length, wire: in driven steel posts."""
    post = site.section.posts["brace"]
    each = post.index_m * post.stock_for(site.height_m + post.over_m)
    rails = catalog()["brace_rail"].index * sum(p.level_m for p in made.panels) / USUAL_RAIL_M
    return (made.end.panels * each + rails + catalog()["strut_wire"].index * sum(made.wire_m)) / 100
