"""The fabric a label names: on file, or made as such fabrics usually are; how it is hung, and what its knot is good for."""

from functools import cache
from typing import TYPE_CHECKING, Any

from gnomonic.core.demand.demand import Demand
from gnomonic.core.demand.judge import Verdict
from gnomonic.core.demand.system import systems
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.counter import RollSaid, graduated_in, nearest
from gnomonic.core.fabric.fabrics import Fabric, fabrics
from gnomonic.core.fabric.label import RollLabel, read_label
from gnomonic.core.say import Say
from gnomonic.core.sourced import Sourced, read_data
from gnomonic.core.units import INCH_M

if TYPE_CHECKING:
    from gnomonic.core.job.parts import Barrier

LEANS = 3  # the strength demanded from which on a bay's length tells (1 a net … 5 yard)


class Knot(Sourced):
    """A knot: the longest bay in which it holds its wires apart, and against what strength (1 a net … 5 yard)."""

    title: str
    bay_m: float
    strength: int


@cache
def knots() -> dict[str, Knot]:
    """Every knot by its key."""
    return {key: Knot.model_validate(row) for key, row in read_data("knots.toml").items()}


def on_file(label: RollLabel) -> Fabric | None:
    """The fabric on file that a label names."""
    for fabric in fabrics().values():
        if fabric.kind in ("woven", "link") and read_label(fabric.label) == label:
            return fabric
    return None


def fabric_said(said: RollSaid, label: RollLabel) -> Fabric:
    """The fabric a label names: as on file, or as such fabrics usually are; gauges, knot and roll as said."""
    changes: dict[str, Any] = {"knot": said.knot} if said.knot else {}
    if said.gauges and label.kind == "woven":
        changes |= {"outer_gauge": said.gauges.outer_gauge, "filler_gauge": said.gauges.filler_gauge}
    if said.roll_m:
        changes["roll_m"] = said.roll_m
    if known := on_file(label):
        return known.model_copy(update=changes)
    height, wide = label.height_in or 0.0, label.diamond_in or 0.0
    if label.kind == "woven":
        changes |= {
            "label": f"{label.line_wires}-{height:g}-{label.stay_in:g}",
            "spacing_in": graduated_in(label.line_wires or 2, height),
        }
    else:
        mesh = (wide * INCH_M, wide * INCH_M)
        name = f"{height:g}-{label.gauge:g}-{wide:g}"
        changes |= {"label": name, "wide_m": height * INCH_M, "mesh_m": mesh, "gauge": label.gauge or 0.0}
    return nearest(label)[0].model_copy(update=changes)


def hang_said(said: RollSaid, barrier: "Barrier") -> dict[str, Any]:
    """The edit that hangs what was read, on the barrier's own system where that hangs such fabric.

    Raises BadInput (``label``) for gauges alone and for chain link that is not on file, whose rail height nobody knows.
    """
    label = said.label
    if label is None:
        raise BadInput("label", "gauges alone can't be hung: add the label, like 9-49-6 12½/14½")
    fabric = fabric_said(said, label)
    own = fabric != on_file(label)
    if label.kind == "chain_link" and own and not on_file(label):
        known = ", ".join(f.label for f in nearest(label))
        raise BadInput(
            "label", f"{fabric.label} is not on file, so its rail's height is not known; nearest are {known}"
        )
    takes = [key for key, s in systems().items() if fabric.label in s.labels()]
    takes = takes or [key for key, s in systems().items() if any(fabrics()[f].spacing_in for f in s.fabrics)]
    if not takes:
        raise BadInput("label", f"no barrier on file hangs {fabric.label} by itself")
    key = barrier.system if barrier.system in takes else takes[0]
    edit: dict[str, Any] = {"do": "hang_barrier", "system": key, "label": fabric.label, "side": barrier.side}
    return edit | ({"own": fabric.model_dump(mode="json")} if own and fabric.spacing_in else {})


def knot_verdict(fabric: Fabric, demand: Demand, bay_m: float) -> Verdict | None:
    """What its knot means for who is held, in bays so long; None for a fabric without knots.

    Only what leans on a fabric or pushes a head through limits the bay.
    """
    if not fabric.knot:
        return None
    knot = knots()[fabric.knot]
    want = demand.strength
    strong = want is None or want.value <= knot.strength
    leans = want is None or want.value >= LEANS
    return Verdict(
        "knot",
        "Knot",
        strong and (not leans or bay_m <= knot.bay_m + 0.01),
        Say(
            "wires kept apart in bays of {m}" + ("" if strong else ", and by what leans hard"),
            {"m": (bay_m, "station")},
        ),
        Say(knot.title + ", good for bays up to {m}", {"m": (knot.bay_m, "station")}),
        want.by if want else "the bay",
        knot.reason,
        knot.source,
    )
