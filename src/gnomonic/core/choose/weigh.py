"""What a barrier costs and how long it takes a metre, as indices, without setting it out.

Source: indices and minutes of the data files (from memory, common practice); they rank, they are no price.
"""

import math
from dataclasses import dataclass

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.demand.section import Section
from gnomonic.core.demand.system import Slot
from gnomonic.core.demand.tasks import handling
from gnomonic.core.finish.fittings import bay_counts, post_fittings, run_counts
from gnomonic.core.units import reaching


@dataclass(frozen=True, slots=True)
class Ground:
    """What of a line's ground bears on a choice: lengths (m), runs, and which of ``suits`` apply, with why."""

    length_m: float
    runs: int
    is_: dict[str, str]


@dataclass(frozen=True, slots=True)
class Weighed:
    """Price index and minutes a metre, by what they go into."""

    cost: dict[str, float]
    minutes: dict[str, float]


def weigh(hung: Section, ground: Ground) -> Weighed:
    """Weigh a barrier on a line's ground: bays as long as its system starts with, shorter where much of it is steep."""
    system, starts = hung.system, hung.system.starts()
    clearance = starts["clearance_m"] if hung.clearance_m is None else hung.clearance_m
    bay = starts["longest_bay_m"]
    if "steep" in ground.is_:
        bay *= min(s.share for s in system.steep_bays)
    every = starts["wood_every"] if system.firm_post != system.line_post else 0.0
    firm = 1 / every if every else 0.0
    runs = ground.runs
    if longest := starts["longest_run_m"]:  # a long side is broken by braced posts, whose panel serves both its runs
        runs *= max(1, reaching(ground.length_m / ground.runs, longest))
    braced = runs + ground.runs if system.brace == "h" else 2 * runs
    ends, inner = (runs + 1) / ground.length_m, braced / ground.length_m
    items = catalog()
    price = {
        "what hangs": sum(x.fabric.index for x in hung.layers) + sum(a.index for a in (*hung.aprons, *hung.linings)),
        "strands, rails and boards": sum(s.wire.index for s in hung.strands),
        "between posts": sum(n * items[key].index for key, n in bay_counts(hung, bay, starts).items()) / bay
        + sum(n * items[key].index for key, n in run_counts(hung, ground.length_m).items()) / ground.length_m,
        "line posts": (
            (1 - firm) * _post(hung, system.line_post, "light", clearance)
            + firm * _post(hung, system.firm_post, "firm", clearance)
        )
        / bay,
        "ends": ends * _post(hung, "terminal", "terminal", clearance),
        "braces": 0.0,
    }
    if system.brace == "h":
        price["braces"] = inner * (_post(hung, "brace", "brace", clearance) + items["brace_rail"].index)
    elif system.brace == "diagonal":
        price["braces"] = inner * items["strut"].index
    work = system.labour
    minutes = {
        "line posts": ((1 - firm) * work.light_min + firm * work.firm_min) / bay,
        "ends and braces": inner * work.terminal_min,
        "hanging": work.layer_min_m * sum(handling(x.fabric) for x in hung.layers)
        + work.strand_min_m * len(hung.strands),
        "extras": sum(e.minutes_m for e in hung.extras),
    }
    plain = sum(minutes.values())
    share = math.prod(system.suits[what].share for what in ground.is_ if what in system.suits)
    minutes["the ground"] = plain * (share - 1)
    return Weighed({k: v for k, v in price.items() if v}, {k: v for k, v in minutes.items() if v})


def _post(hung: Section, kind: str, slot: Slot, clearance_m: float) -> float:
    """A post with its fill and fittings; a terminal with two runs on it."""
    rule, high = hung.posts[kind], clearance_m + hung.top_m
    price = rule.stock_for(high + rule.over_m) * rule.index_m
    if rule.fill:
        price += rule.round_m3(rule.depth_m) * catalog()[rule.fill.replace(" ", "_")].index
    fittings = post_fittings(hung, slot, 2 if slot == "terminal" else 1, clearance_m, high)
    return price + sum(f.count * catalog()[f.item].index for f in fittings)
