"""How long a line takes one person on easy ground, by what the time goes into.

Source: minutes of the systems' data files (common practice).
"""

from dataclasses import dataclass

from gnomonic.core.demand.tasks import Task, handling
from gnomonic.core.haul.counts import own_posts
from gnomonic.core.haul.rules import haul_rule
from gnomonic.core.plan.model import Plan


@dataclass(frozen=True, slots=True)
class Work:
    """Minutes for ends with their braces, for line posts, for hanging, and for extras."""

    ends: float
    line: float
    hanging: float
    extras: float


def work_of(plan: Plan) -> Work:
    """A line's work; at a braced post within a side one panel serves both runs and is built once."""
    rates, section = plan.system.labour, plan.section
    along = sum(r.length_m for r in plan.runs)
    firm = sum(p.slot in ("firm", "held") and not p.fixed for p in plan.posts)
    light = sum(p.slot == "light" for p in plan.posts)
    layers = rates.layer_min_m * sum(handling(x.fabric) for x in section.layers)
    return Work(
        (2 * len(plan.runs) - sum(b.end.crossed for b in plan.braces)) * rates.terminal_min,
        firm * rates.firm_min + light * rates.light_min,
        (layers + rates.strand_min_m * len(section.strands)) * along,
        sum(e.minutes_m for e in section.extras) * along,
    )


def minutes_of(plan: Plan) -> dict[str, float]:
    """A line's work by the steps it is charged in, one person on easy ground: besides ``work_of`` its gates, holes that met rock, and
    concrete round posts that was asked for."""
    work, posts = work_of(plan), own_posts(plan)
    rock = sum(p.built is not None and "rock" in (p.built.met, p.built.pilot_met) for p in posts)
    poured = sum(p.fill == "concrete" and not p.rule.fill for p in posts)
    return {
        "ends": work.ends,
        "line": work.line,
        "hanging": work.hanging,
        "extras": work.extras,
        "gates": haul_rule("gate_min") * sum(max(1, g.kind.leaves) for g in plan.gates),
        "rock": haul_rule("rock_hole_min") * rock,
        "concrete": haul_rule("concrete_hole_min") * poured,
    }


def settling(plan: Plan, task: Task) -> tuple[int, str]:
    """How many days posts that a step set are waited for before anything pulls on them, and why: the longest of those it set.

    A driven post stands in ground that was never opened: it is not waited for.
    """
    if not task.wait_days:
        return 0, ""
    waits = {(0, "")}
    for post in own_posts(plan):
        if post.rule.fit != "drive" and (post.fixed or task.of == "posts"):
            poured = post.fill == "concrete" and task.concrete_days
            waits.add((task.concrete_days, task.concrete) if poured else (task.wait_days, task.wait))
    return max(waits)
