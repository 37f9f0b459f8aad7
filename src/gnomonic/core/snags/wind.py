"""Snags of wind: line posts that a gust pushes over, with what would stand it."""

from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Plan
from gnomonic.core.plan.wind import Blown, wind_on
from gnomonic.core.say import Say, Values
from gnomonic.core.snags.snag import Remedy, Snag

PAGE = "openings"
WIND_CASES = {"bare": "bare", "ice": "a quarter inch of ice on its wires", "litter": "three tenths of it caught full"}
STEP_M, DEEPEST_M, MOST_STEPS = 0.0508, 1.5, 40
SURELY = 0.97  # bays come out a little longer where posts share a stretch out


def wind_snags(fence: Fence, plan: Plan) -> list[Snag]:
    """Line posts that a gust pushes over, the worst named."""
    bad = [b for b in wind_on(fence, plan) if not b.holds]
    if not bad:
        return []
    worst = bad[0]
    values: Values = {
        "at": (worst.post.station_m, "station"), "push": (worst.push_n, "force"), "up": (worst.at_m, "cut"), "has": (min(worst.has_n, worst.stands_n or worst.has_n), "force"),
        "need": (worst.push_n * worst.factor, "force"), "speed": (worst.face.speed_m_s, "speed"), "case": WIND_CASES[worst.face.case], "share": (worst.face.solidity, "share"),
        "kind": worst.post.rule.title,
    }  # fmt: skip
    ways = []
    shorter = _bays_that_stand(fence, worst)
    if shorter:
        edit = {"do": "decide", "key": "longest_bay_m", "value": shorter}
        ways.append(Remedy(Say("bays of {bay}", {"bay": (shorter, "station")}), edit))
    deep = next(
        (d for k in range(1, MOST_STEPS) if (d := worst.at.depth_m + k * STEP_M) <= DEEPEST_M and _stands(worst, d)),
        None,
    )
    if deep:
        at = sorted({round(p.station_m, 3) for p in plan.posts if not p.fixed})
        edit = {"do": "ask_post", "at_m": at[0], "also": at[1:400], "depth_m": round(deep, 3)}
        ways.append(Remedy(Say("line posts {deep} deep", {"deep": (deep, "depth")}), edit))
    title = Say("A gust of {speed} pushes line posts {push} each, {up} up: {has} is what they hold", values)
    why = Say(
        "{case}, {share} of its face covered; with the factor they should hold {need}: it leans by spring", values
    )
    return [Snag("wind", False, min(40.0, 10.0 * worst.share), worst.post.station_m, title, why, tuple(ways), PAGE)]


def _stands(worst: Blown, depth_m: float) -> bool:
    """Whether the post would stand the gust, so deep."""
    has = worst.at.like(depth_m, worst.at.wide_m).ultimate_n(worst.at_m)
    return worst.push_n * worst.factor <= (min(has, worst.stands_n) if worst.stands_n else has)


def _bays_that_stand(fence: Fence, worst: Blown) -> float | None:
    """The longest bay of a few that the post would stand in, beside a brace panel too; none where it takes less than half of what is now."""
    now, panel = fence.decisions.longest_bay_m, fence.decisions.brace_spacing_m
    has = min(worst.has_n, worst.stands_n or worst.has_n)
    for k in range(1, 20):
        bay = round(now * (1 - 0.05 * k), 2)
        along = max(bay, (bay + min(panel, bay)) / 2)
        if bay < now / 2:
            return None
        if worst.push_n / worst.bay_m * along * worst.factor <= has * SURELY:
            return bay
    return None
