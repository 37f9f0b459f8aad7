"""The take-off in words: what each need is called, and where it goes."""

from collections import Counter

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.haul.counts import panel_rails_m
from gnomonic.core.haul.takeoff import UNIT_KINDS, JobNeed, Need
from gnomonic.core.plan.model import Plan, Post
from gnomonic.core.say import Say, Values, together

CALLED = {
    "post": "{kind}, {long}",
    "gate_leaf": "gate leaf, {long} long, {across} high",
    "brace_rail": "brace rail, {across} or more across",
    "brace_wire": "brace wire, {kind} soft",
}
GOES = {
    "fill": "round the posts: hole less post",
    "strut": "one at each end of a run",
    "strut_wire": "from each end post's foot to its strut",
    "brace_pipe": "rails and diagonals of welded braces",
    "anchor": "at ends held by boards or by a wire to a buried log",
    "low": "under lows: see the list of lows and humps",
    "strand_joint": "where a coil runs out",
    "crossing": "over running water: see its sheet",
}

# What a take-off is read by, in the order things are used: title, and the uses that belong to it.
GROUPS = {
    "Posts": ("post", "fill"),
    "Braces": (
        "brace_rail",
        "brace_pin",
        "brace_wire",
        "brace_staple",
        "twist",
        "strut",
        "strut_wire",
        "brace_pipe",
        "anchor",
    ),
    "Lows": ("low",),
    "Fabric and wire": ("fabric", "strand", "strand_joint"),
    "Rails, boards and battens": ("stick",),
    "Fittings": ("fitting",),
    "Gates": ("gate", "gate_part"),
    "Crossings": ("crossing",),
}


def group_of(need: Need) -> str:
    """The group of a need; fabric of further layers, aprons and the like is fabric."""
    return next((title for title, uses in GROUPS.items() if need.use in uses), "Fabric and wire")


def named(need: Need) -> Say:
    """What a need is called: goods by the name they are sold under, which stays what it is in either unit system."""
    item = catalog().get(need.of)
    values: Values = {
        "kind": need.sold_as,
        "item": item.title if item else need.of,
        "long": (need.size_m, "depth"),
        "across": (need.across_m, "gap"),
    }
    said = CALLED.get(need.of) or ("{item}, {long}" if need.size_m else "{item}")
    if need.of == "post" and need.across_m:
        said += ", {across} across"
    elif need.of == "gate_leaf":
        values |= {"long": (need.size_m, "station"), "across": (need.across_m, "cut")}
    elif need.of == "strut":
        values["long"] = (need.size_m, "cut")
    elif need.use == "strand":
        said, values["long"] = "coil of {kind}, {long}", (need.size_m, "station")
    elif need.on_rolls:
        said = "roll of {item}" + (" woven fabric" if need.sold_as == "woven" else "") + ", {long}"
        values["long"] = (need.size_m, "station")
    return Say(said, {k: v for k, v in values.items() if f"{{{k}}}" in said})


def where(need: Need, plan: Plan) -> Say:
    """Where a line's need goes, and how it was counted."""
    match need.use:
        case "post":
            wanted = set(need.posts)
            return _depths([p for p in plan.posts if p.name in wanted])
        case "brace_rail" | "brace_pin" | "brace_wire" | "brace_staple" | "twist":
            return _braced(need, plan)
        case "fabric":
            return Say(_rolls(plan))
        case "strand":
            coil = next(c for c in plan.coils if c.key == need.of)
            strands = f"{coil.strands} strand{'' if coil.strands == 1 else 's'}"
            return Say(f"{{total}} for {strands}, tails counted in", {"total": (coil.total_m, "station")})
        case "stick":
            return Say(next(cut.rule.way for cut in plan.sticks if cut.rule.item == need.of))
        case "fitting":
            return Say(_ways(plan).get(need.of, catalog()[need.of].reason))
        case "gate":
            gate = next(g for g in plan.gates if need.key == f"gate_{g.id}")
            values: Values = {
                "name": gate.name,
                "at": (gate.at_m, "station"),
                "clear": (gate.clear_m, "cut"),
                "wide": (gate.opening_m, "cut"),
            }
            return Say("{name} at {at}: {clear} clear between post faces, {wide} between their centres", values)
        case "gate_part":
            return Say(_gate_ways(plan).get(need.of, catalog()[need.of].reason))
        case use if use in GOES:
            return Say(GOES[use])
        case use:
            which = "the layer above" if use.startswith("layer") else use
            return Say("{need} of " + which, {"need": (need.metres, "station")})


def where_of_job(both: JobNeed, plan: Plan) -> Say:
    """Where a job's need goes: how much on each line, where it is on several; ``plan`` is its first line's."""
    parts = both.parts
    if len(parts) == 1:
        return together("", [where(need, plan) for _, need in both.needs], "")
    values: Values = {f"c{k}": (count, UNIT_KINDS[both.need.unit]) for k, count in enumerate(parts.values())}
    return Say(", ".join(f"{line} {{c{k}}}" for k, line in enumerate(parts)), values)


def _depths(posts: list[Post]) -> Say:
    """How deep posts bought alike are set, the deepest last with what makes them so."""
    counts = Counter((round(p.depth_m, 4), p.because) for p in posts)
    values: Values = {}
    parts = []
    for k, ((depth, because), count) in enumerate(sorted(counts.items())):
        values[f"d{k}"], values[f"b{k}"] = (depth, "depth"), because
        number = f"{count} " if len(counts) > 1 else ""
        parts.append(number + f"{{d{k}}} deep" + (f" for {{b{k}}}" if because else ""))
    return Say("set " + ", ".join(parts), values)


def _braced(need: Need, plan: Plan) -> Say:
    """Rails, pins, wire, staples and twists of the braces."""
    system, diagonals = plan.system, sum(b.end.panels for b in plan.braces)
    each = f"on each of {diagonals} diagonals"
    match need.use:
        case "brace_rail":
            return Say("cut to fit, longest about {m}", {"m": (max(panel_rails_m(plan)), "cut")})
        case "brace_pin":
            return Say(f"{system.rule('pins_per_rail'):g} a rail")
        case "brace_wire":
            return Say(f"{system.rule('brace_wire_loops'):g} turns {each}")
        case "brace_staple":
            stick = plan.section.school("twist") == "stick"
            return Say("two on each post; one for the stick" if stick else "two on each post")
        case _:
            return Say(f"one {each}")


def _rolls(plan: Plan) -> str:
    """Whether fewer rolls of the lowest fabric could do."""
    rolls, whole, over = plan.rolls.rolls, plan.rolls.whole, plan.rolls.over

    def least(proven: bool, bound: int) -> str:
        return "no fewer can do" if proven else f"at least {bound} are needed"

    proof = least(rolls.proven["new_rolls"], rolls.bound["new_rolls"])
    if len(over) > 1:
        proof = f"opened here, of {whole.new_rolls} for {len(over)} lines together: " + least(
            whole.proven["new_rolls"], whole.bound["new_rolls"]
        )
    link = plan.fabric is not None and plan.fabric.kind == "link"
    return proof + (", cut between whole diamonds" if link else "")


def _ways(plan: Plan) -> dict[str, str]:
    """How each fitting is used here."""
    of = plan.system
    ways = {r.item: r.way for r in of.splice_fittings}
    ways |= {r.item: r.way for r in of.run_fittings} | {r.item: r.way for r in of.bay_fittings}
    return ways | {r.item: r.way for r in of.fittings}


def _gate_ways(plan: Plan) -> dict[str, str]:
    """How each part of the gates is used here, by the first gate that has it."""
    return {h.item: h.way for gate in reversed(plan.gates) for h in gate.kind.hardware}
