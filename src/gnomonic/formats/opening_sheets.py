"""Gates and crossings of a line as rows for a sheet."""

from gnomonic.core.plan.model import Plan
from gnomonic.core.tell.openings import way_words
from gnomonic.core.units import System, format_length, format_quantity

Rows = list[dict[str, str]]


def gate_rows(plan: Plan, system: System) -> Rows:
    """Every gate with what it is set out and hung by; measured between faces, level."""
    return [
        {
            "gate": g.name,
            "first post at": format_length(g.at_m, system),
            "kind": g.kind.title,
            "leaf": (f"{g.kind.panes} × " if g.kind.panes > 1 else "")
            + format_length(g.leaf_m, system, "cut")
            + ("" if g.gate.measured or not g.kind.leaves else ", measure it first"),
            "clear between faces": format_length(g.clear_m, system, "cut"),
            "between centres": format_length(g.opening_m, system, "cut"),
            "hung": way_words(g),
            "bottom at hinge": format_length(max(s.bottom_m for s in g.turn.swings), system, "gap")
            if g.kind.leaves
            else "",
            "pins over ground": " and ".join(format_length(m, system, "cut") for m in g.hinges_m)
            + ", lower up, upper down"
            if g.kind.leaves
            else "",
        }
        for g in plan.gates
    ]


def crossing_rows(plan: Plan, system: System) -> Rows:
    """Every crossing with what it is built by."""
    return [
        {
            "water": c.name,
            "posts at": f"{format_length(c.at_m, system)} and {format_length(c.to_m, system)}",
            "rope": f"{c.built.cable.title}, sags {format_length(c.built.sag_m, system, 'cut')}",
            "clips": f"{c.built.cable.clips} at each end, {format_length(c.built.cable.back_m, system, 'gap')} turned back, saddle on the live side",
            "hangs from it": c.built.flap.title,
            "flood": format_length(c.built.flood_m, system, "depth")
            + ("" if c.built.flood_said else ", taken: not known"),
            "pull at rest": format_quantity(c.built.rest_end_n, "force", system),
            "lets go at": f"{format_quantity(c.built.first_n, 'force', system)} across: {c.built.ties} ties of {c.built.tie_gauge:g} gauge",
        }
        for c in plan.crossings
    ]
