"""``demand``, ``layers``, ``chainlink``: what animals ask for, netting stacked to height, a chain-link line counted."""

import json
from collections import Counter
from dataclasses import asdict
from itertools import pairwise
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from gnomonic.core.calc.parts import Answer, Input, NotNegative, Number, Positive, why
from gnomonic.core.demand.demand import Demand, Want, demand_of
from gnomonic.core.demand.judge import Verdict, judge
from gnomonic.core.demand.section import section
from gnomonic.core.demand.starts import starts_of
from gnomonic.core.demand.system import system
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.fabrics import fabrics
from gnomonic.core.fabric.layers import (
    Width,
    hexagon_length_share,
    rolls_each_side,
    sheet_section,
    stack,
)
from gnomonic.core.finish.fittings import bay_counts, diamond_m, joined, post_fittings
from gnomonic.core.job.parts import Hold
from gnomonic.core.job.reading import first_error
from gnomonic.core.plan.hung import link_need_m
from gnomonic.core.units import reaching


class PresenceInput(Input):
    """An animal on a side."""

    animal: str
    side: Literal["left", "right"] = "left"
    also: list[str] = Field(default_factory=list)


class BarrierInput(Input):
    """A barrier to be judged."""

    system: str
    label: str
    extras: list[str] = Field(default_factory=list)
    strands_m: list[NotNegative] = Field(default_factory=list)
    clearance_m: Number | None = None
    gap_m: Number | None = None


class DemandInput(Input):
    """``demand``."""

    animals: Annotated[list[PresenceInput], Field(min_length=1, max_length=40)]
    years: Annotated[float, Field(ge=0, le=100)] = 0.0
    visible: bool = False
    never: list[Literal["barbs", "plastic"]] = Field(default_factory=list)
    only: Literal["", "barbs", "mesh", "wires"] = ""
    barrier: BarrierInput | None = None


def _set(want: Want | None) -> dict[str, Any] | None:
    return None if want is None else {"value": want.value, "by": want.by}


def demand_json(demand: Demand) -> dict[str, Any]:
    """A demand as plain data: each value with the animal that set it."""
    return {
        "height_m": _set(demand.height),
        "openings": [
            {"from_m": b.from_m, "to_m": b.to_m, "most_m": b.want.value, "by": b.want.by} for b in demand.openings
        ],
        "gap_m": _set(demand.gap),
        "strength": _set(demand.strength),
        "stuck": [{"low_m": s.low_m, "high_m": s.high_m, "by": s.want.by} for s in demand.stuck],
        "below": [{"any": dict(b.any), "by": b.want.by} for b in demand.below],
        "top": [{"needs": t.what, "by": t.want.by} for t in demand.top],
        "avoid": [{"what": a.what, "by": a.want.by} for a in demand.avoid],
        "sides": [{"rule": s.what, "side": s.side, "by": s.want.by} for s in demand.sides],
    }


def verdict_json(v: Verdict) -> dict[str, Any]:
    """A verdict in words, in metres."""
    return {
        "demand": v.title,
        "ok": v.ok,
        "wanted": v.wanted.text("metric"),
        "given": v.given.text("metric"),
        "margin_m": v.margin_m,
        "by": v.by,
    }


def _wants(demand: Demand) -> list[tuple[str, Want]]:
    named = [("height", demand.height), ("gap", demand.gap), ("strength", demand.strength)]
    found = [(name, want) for name, want in named if want]
    found += [(f"opening up to {b.to_m:g} m", b.want) for b in demand.openings]
    for rows, name in ((demand.below, "at the ground"), (demand.top, "top"), (demand.avoid, "avoid")):
        found += [(name, row.want) for row in rows]
    return found


def hold_of(q: DemandInput) -> Hold:
    """The hold a question speaks of."""
    data = q.model_dump(exclude={"barrier"})
    return Hold.model_validate_json(json.dumps(data))


def calc_demand(q: DemandInput) -> Answer:
    """The strictest of each demand, and whether a barrier meets it."""
    try:
        demand = demand_of(hold_of(q))
    except ValidationError as error:
        raise first_error(error) from None
    except BadInput as error:
        raise BadInput(error.field.removeprefix("hold."), error.sentence) from None
    answer: Answer = demand_json(demand)
    if q.barrier:
        b = q.barrier
        hung = section(b.system, b.label, b.extras, {}, b.strands_m)
        starts = starts_of(demand, hung)
        clear = starts["clearance_m"] if b.clearance_m is None else b.clearance_m
        gap = starts["gap_max_m"] if b.gap_m is None else b.gap_m
        verdicts = judge(hung, demand, clear, gap)
        answer["verdicts"] = [verdict_json(v) for v in verdicts]
        answer["meets"] = all(v.ok for v in verdicts)
    answer["why"] = [why(f"{name}: {w.reason}", f"set by {w.by}", w.source) for name, w in _wants(demand)]
    return answer


class WidthInput(Input):
    """A width on hand."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    width_m: Positive
    mesh_m: Positive


class OpeningInput(Input):
    """The largest opening up to a height."""

    upto_m: Positive
    most_m: Positive


class LayersInput(Input):
    """``layers``."""

    kind: Literal["stack", "sheet", "hexagons"] = "stack"
    height_m: Positive | None = None
    widths: Annotated[list[WidthInput], Field(max_length=20)] = Field(default_factory=list)
    openings: Annotated[list[OpeningInput], Field(max_length=10)] = Field(default_factory=list)
    lap_least_m: NotNegative = 0.0762
    sides_m: Annotated[list[Positive], Field(max_length=200)] = Field(default_factory=list)
    roll_m: Positive = 15.24
    width_m: Positive | None = None
    lip_m: NotNegative | None = None
    above_m: NotNegative | None = None
    buried_m: NotNegative | None = None
    stretch: Number = 0.0
    length_m: Positive | None = None


def calc_layers(q: LayersInput) -> Answer:
    """Netting stacked to height; a sheet across; or the length hexagons keep."""
    if q.kind == "sheet":
        s = sheet_section(q.width_m, q.lip_m, q.above_m, q.buried_m)
        working = f"{s.lip_m:g} + {s.above_m:g} + {s.buried_m:g} = {s.width_m:g} m"
        return {**asdict(s), "why": [why("lip + above + buried = width", working, "common practice")]}
    if q.kind == "hexagons":
        share = hexagon_length_share(q.stretch)
        rule = "half a cell is a·sin θ high and a + a·cos θ long; θ = 60° as made"
        return {
            "length_share": share,
            "length_m": None if q.length_m is None else q.length_m * share,
            "why": [why(rule, f"{q.stretch:+.1%} height keeps {share:.1%} of the length", "derived")],
        }
    if q.height_m is None:
        raise BadInput("height_m", "height_m is missing: how high the stack must reach, in metres")
    if not q.widths:
        raise BadInput("widths", "widths is empty: name the widths on hand, each with width_m and mesh_m")
    edges = [0.0, *sorted(o.upto_m for o in q.openings)]
    bands = [(low, high, min(o.most_m for o in q.openings if o.upto_m >= high - 1e-9)) for low, high in pairwise(edges)]
    found = stack(q.height_m, bands, [Width(w.name, w.width_m, w.mesh_m) for w in q.widths], q.lap_least_m)
    if found is None:
        raise BadInput(
            "height_m",
            f"no three of these widths reach {q.height_m:g} m with meshes as fine as asked: add a wider or finer one",
        )
    sides = rolls_each_side(q.sides_m, q.roll_m)
    seams = len(found.layers) - 1
    return {
        "layers": [
            {
                "name": p.width.name,
                "bottom_m": p.bottom_m,
                "top_m": p.top_m,
                "lap_m": p.lap_m,
                "lap_holes": p.lap_holes,
            }
            for p in found.layers
        ],
        "height_m": found.height_m,
        "waste_m": found.waste_m,
        "seams": seams,
        "seam_m": seams * sum(q.sides_m),
        "rolls_each_side": [n * len(found.layers) for n in sides],
        "rolls": sum(sides) * len(found.layers),
        "why": [
            why(
                "least width wasted, then fewest seams; laps in whole holes of the coarser mesh",
                f"{found.height_m:g} m from {sum(p.width.wide_m for p in found.layers):g} m of width",
                "exhaustive over the widths on hand",
            )
        ],
    }


class ChainlinkInput(Input):
    """``chainlink``."""

    label: Annotated[str, Field(max_length=40)] = "48-11-2"
    sides_m: Annotated[list[Positive], Field(min_length=1, max_length=100)]
    closed: bool = False
    longest_bay_m: Positive = 3.048
    terminal_od_m: Positive | None = None
    line_od_m: Positive | None = None
    bands: Literal["foot", "fewer"] = "foot"
    ties: Literal["nine", "standard"] = "nine"


def _chainlink_whys(q: ChainlinkInput, cuts: list[float], stretch: float) -> list[dict[str, str]]:
    return [
        why(
            "rail = gap − 1½ in at each end; 6 in of each swage goes into the next",
            f"last cuts {[round(c, 3) for c in cuts]}",
            "common practice",
        ),
        why(
            "whole diamonds of mesh·√2, less the stretch",
            f"{stretch:.0%} of {sum(q.sides_m):g} m",
            "geometry; stretch from memory",
        ),
        why(
            "ties and rings at most so far apart in every bay",
            f"{q.ties}",
            "common practice; ASTM F567, from memory",
        ),
    ]


def calc_chainlink(q: ChainlinkInput) -> Answer:
    """A chain-link line counted side by side: posts, bands, rails, ties, rings and fabric."""
    hung = section("chainlink", q.label, (), {"bands": q.bands, "ties": q.ties})
    of, fabric = system("chainlink"), fabrics()[hung.label]
    clear_m, posts = of.starts()["clearance_m"], hung.posts
    stout, thin = q.terminal_od_m or posts["terminal"].diameter_m, q.line_od_m or posts["pipe"].diameter_m
    if stout <= thin:
        raise BadInput("line_od_m", "line_od_m must be less than terminal_od_m: line posts are the thinner ones")
    if min(q.sides_m) <= 2 * stout:
        raise BadInput("sides_m", "a side must be longer than two posts are wide")
    counts: Counter[str] = Counter()
    stretch, end = of.rule("stretch_share"), of.rule("rail_end_m")
    rule = of.sticks[0]
    rails: Counter[float] = Counter()
    cuts, fabric_m, line_posts, bays_m = [], 0.0, 0, []
    for side in q.sides_m:
        bays = reaching(side, q.longest_bay_m)
        line_posts += bays - 1
        bays_m.append(side / bays)
        for item, number in bay_counts(hung, side / bays, {}).items():
            counts[item] += round(number) * bays
        clear = side - stout
        sticks, last = joined(clear - 2 * end, rule.stock_m, rule.lap_m)
        rails.update(sticks)
        cuts.append(last)
        fabric_m += link_need_m(clear, fabric, stretch)
    terminals = len(q.sides_m) + (0 if q.closed else 1)
    single = 0 if q.closed else 2
    for tied, number in ((2, terminals - single), (1, single)):
        for f in post_fittings(hung, "terminal", tied, 0.0, 1.0):
            counts[f.item] += f.count * number
    for f in post_fittings(hung, "light", 1, 0.0, 1.0):
        counts[f.item] += f.count * line_posts
    pitch = diamond_m(fabric.mesh_m[1])
    return {
        "terminals": terminals,
        "line_posts": line_posts,
        "bays_m": bays_m,
        "line_top_m": clear_m + hung.top_m + posts["pipe"].over_m,
        "terminal_top_m": clear_m + hung.top_m + posts["terminal"].over_m,
        "string_offset_m": (stout - thin) / 2,
        "rails": [{"stock_m": stock, "count": n} for stock, n in sorted(rails.items())],
        "last_cuts_m": cuts,
        "diamond_m": pitch,
        "diamonds": round(fabric_m / pitch),
        "fabric_m": fabric_m,
        "rolls": reaching(fabric_m, fabric.roll_m),
        "fittings": dict(sorted(counts.items())),
        "why": _chainlink_whys(q, cuts, stretch),
    }
