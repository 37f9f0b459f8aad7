"""Snags of what hangs against what it must hold: each demand not met, with what would mend it."""

from typing import Any

from gnomonic.core.demand.animals import Book
from gnomonic.core.demand.by_label import knot_verdict
from gnomonic.core.demand.demand import Demand, demand_of
from gnomonic.core.demand.judge import Verdict, judge
from gnomonic.core.demand.section import section
from gnomonic.core.errors import BadInput
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Plan
from gnomonic.core.say import Say, Value
from gnomonic.core.snags.snag import Remedy, Snag

Mends = list[tuple[Remedy, set[str]]]
HURTS = ("barbs",)
OTHER = {"left": "right", "right": "left"}


def verdicts_of(fence: Fence, plan: Plan, demand: Demand) -> tuple[Verdict, ...]:
    """What hangs, as decided, against a demand."""
    found = judge(plan.section, demand, fence.decisions.clearance_m, fence.decisions.gap_max_m)
    knot = knot_verdict(plan.fabric, demand, fence.decisions.longest_bay_m) if plan.fabric else None
    return (*found, *([knot] if knot else []))


def hold_snags(fence: Fence, plan: Plan, book: Book) -> list[Snag]:
    """Demands the barrier does not meet, contradictions, and things on the wrong side."""
    if not fence.hold.animals and not fence.hold.visible and not fence.hold.never:
        return []
    try:
        demand = demand_of(fence.hold, book)
    except BadInput as error:
        return [
            Snag("hold", True, 90.0, 0.0, Say("What it must hold contradicts itself"), Say(error.sentence), (), "hold")
        ]
    missed = [v for v in verdicts_of(fence, plan, demand) if not v.ok]
    mends = _mends(fence, plan, demand, {v.key for v in missed}) if missed else []
    found = [_snag(fence, demand, v, mends) for v in missed]
    return [*found, *_sides(fence, plan, demand), *_lasting(fence, plan)]


def _snag(fence: Fence, demand: Demand, verdict: Verdict, mends: Mends) -> Snag:
    values: dict[str, Value] = {
        **{f"w_{k}": v for k, v in verdict.wanted.v.items()},
        **{f"g_{k}": v for k, v in verdict.given.v.items()},
    }
    wanted = verdict.wanted.t.replace("{", "{w_")
    given = verdict.given.t.replace("{", "{g_")
    title = Say(f"{verdict.title}: {wanted} for {verdict.by}, {given} planned", values)
    hurts = verdict.key in HURTS
    return Snag(
        "hold-" + verdict.key,
        hurts,
        60.0 if hurts else 20.0,
        0.0,
        title,
        Say(verdict.reason),
        _remedies(fence, demand, verdict, mends),
        "hold",
    )


def _hang(fence: Fence, **changes: Any) -> dict[str, Any]:
    b = fence.barrier.model_copy(update=changes)
    return {"do": "hang_barrier", **b.model_dump(mode="json")}


def _mends(fence: Fence, plan: Plan, demand: Demand, missed: set[str]) -> Mends:
    """Extras of this system that lose no demand, each with what is still missed with it."""
    b, d, found = fence.barrier, fence.decisions, []
    for extra in plan.system.extras:
        if extra.key not in b.extras:
            extras = (*b.extras, extra.key)
            hung = section(b.system, b.label, extras, b.schools, b.strands_m, b.own)
            after = {v.key for v in judge(hung, demand, d.clearance_m, d.gap_max_m) if not v.ok}
            if after < missed:
                found.append((Remedy(Say("add " + extra.title), _hang(fence, extras=extras)), after))
    return found


def _remedies(fence: Fence, demand: Demand, verdict: Verdict, mends: Mends) -> tuple[Remedy, ...]:
    """The gap closed, or an extra of this system that meets this demand; the rest is on the Hold page."""
    found = []
    if verdict.key == "gap" and demand.gap and fence.decisions.clearance_m <= demand.gap.value:
        edit = {"do": "decide", "key": "gap_max_m", "value": demand.gap.value}
        found.append(Remedy(Say("allow no more than {m}", {"m": (demand.gap.value, "gap")}), edit))
    found += [remedy for remedy, after in mends if verdict.key not in after]
    return tuple(found[:2])


def _sides(fence: Fence, plan: Plan, demand: Demand) -> list[Snag]:
    """Posts and struts on the animals' side where they must not be."""
    found = []
    for named in demand.sides:
        away = OTHER[named.side]
        if named.what == "posts_away" and fence.barrier.side != named.side:
            found.append(
                Snag(
                    "hold-posts",
                    False,
                    20.0,
                    0.0,
                    Say(f"Posts must stand on the {away}: {named.want.by} are on the {named.side}"),
                    Say(named.want.reason),
                    (Remedy(Say(f"hang it on the {named.side}"), _hang(fence, side=named.side)),),
                    "hold",
                )
            )
        elif named.what == "struts_away" and any(s.side != away for s in plan.struts):
            found.append(
                Snag(
                    "hold-struts",
                    False,
                    5.0,
                    plan.struts[0].station_m,
                    Say(
                        f"{len(plan.struts)} struts stand in the line: keep {named.want.by} from their {named.side} side"
                    ),
                    Say(named.want.reason),
                    (
                        Remedy(
                            Say(f"struts on the {away}, no stay to climb on the {named.side}"),
                            {
                                "do": "brace_end",
                                **fence.own.bracing.model_dump(exclude_defaults=True),
                                "kind": "strut",
                                "side": away,
                            },
                        ),
                    ),
                    "hold",
                )
            )
    return found


def _lasting(fence: Fence, plan: Plan) -> list[Snag]:
    """Plastic ties on a barrier that is to stand longer than they last."""
    rule = plan.system.rules.get("temporary_years")
    if rule is None or fence.hold.years <= rule.value or plan.section.school("ties") != "plastic":
        return []
    return [
        Snag(
            "hold-ties",
            False,
            10.0,
            0.0,
            Say(f"Plastic ties on a barrier for {fence.hold.years:g} years"),
            Say(rule.reason),
            (Remedy(Say("tie it with wire"), {"do": "choose_way", "school": "ties", "way": "wire"}),),
            "hold",
        )
    ]
