"""``label`` and ``gauge``: what a roll label says, which demands it meets, and the size of a wire."""

from typing import Annotated, Any

from pydantic import Field

from gnomonic.core.calc.parts import Answer, Input, why
from gnomonic.core.demand.animals import Book
from gnomonic.core.demand.by_label import fabric_said, knot_verdict, on_file
from gnomonic.core.demand.demand import demand_of
from gnomonic.core.demand.judge import Verdict, judge
from gnomonic.core.demand.section import HungLayer, Section
from gnomonic.core.demand.starts import starts_of
from gnomonic.core.demand.system import system
from gnomonic.core.fabric.counter import KNOT_WORDS, read_roll
from gnomonic.core.fabric.fabrics import Fabric
from gnomonic.core.fabric.wire import gauge
from gnomonic.core.job.parts import Hold, Presence
from gnomonic.core.say import Say
from gnomonic.core.units import System

RULES = {
    "woven": "line wires – height in inches – stay spacing in inches",
    "chain_link": "height in inches – gauge – diamond in inches",
    "gauge_pair": "gauge of the top and bottom wires / gauge of the filler wires",
}
KEYS = {
    "woven": ("line_wires", "height_in", "stay_in"),
    "chain_link": ("height_in", "gauge", "diamond_in"),
    "gauge_pair": ("outer_gauge", "filler_gauge"),
}


class LabelInput(Input):
    """``label``."""

    label: Annotated[str, Field(min_length=1, max_length=80)]
    animals: Annotated[list[str], Field(max_length=20)] = Field(default_factory=list)


def _verdicts(fabric: Fabric, hold: Hold, book: Book | None, bay_m: float | None) -> list[Verdict]:
    of = system("chainlink" if fabric.kind == "link" else "high_tensile" if fabric.tensile == "high" else "woven")
    demand = demand_of(hold, book)
    hung = Section(of, fabric.label, (HungLayer(fabric, 0.0),), ())
    starts = starts_of(demand, hung)
    knot = knot_verdict(fabric, demand, starts["longest_bay_m"] if bay_m is None else bay_m)
    return [*judge(hung, demand, starts["clearance_m"], starts["gap_max_m"]), *([knot] if knot else [])]


def calc_label(q: LabelInput) -> Answer:
    """Read a roll label, explain it, and say which demands of some animals the fabric meets."""
    return explain_label(q.label, Hold(animals=tuple(Presence(animal=a, side="left") for a in q.animals)))


def explain_label(
    text: str, hold: Hold, book: Book | None = None, bay_m: float | None = None, units: System = "us"
) -> Answer:
    """What a label says, held against what a barrier must hold, in bays so long (a new fence's unless given)."""
    said = read_roll(text)
    label = said.label or said.gauges
    assert label is not None
    words = [label.words]
    if said.label and said.gauges:
        words.append(said.gauges.words)
    if said.knot:
        words.append(KNOT_WORDS[said.knot])
    values: dict[str, tuple[float, str] | str] = {}
    if said.roll_m:
        words.append("a roll of {roll}")
        values["roll"] = (said.roll_m, "station")
    if said.assumed:
        words.append(said.assumed)
    sentence = Say("; ".join(words), values)
    answer: Answer = {
        "kind": label.kind,
        **{k: getattr(label, k) for k in KEYS[label.kind]},
        "words": sentence.text(units),
        "knot": said.knot or None,
        "roll_m": said.roll_m,
        "why": [why(RULES[label.kind], text.strip(), "common practice")],
    }
    if label.kind == "gauge_pair":
        thick = [gauge(g).m for g in (label.outer_gauge or 0.0, label.filler_gauge or 0.0)]
        return answer | {"outer_m": thick[0], "filler_m": thick[1], "drawn": None}
    fabric, known = fabric_said(said, label), on_file(label)
    answer["on_file"] = known is not None
    if label.kind == "woven":
        answer["spacing_in"] = [round(s, 3) for s in fabric.spacing_in]
        source = fabric.source if known else "no such fabric is on file: drawn as they usually are, from memory"
        answer["why"].append(why("spacing of the line wires from the bottom up", f"{fabric.wires} wires", source))
    answer["drawn"] = _drawn(fabric, known is not None)
    if hold.animals:
        answer["meets"] = [
            {
                "demand": v.title,
                "ok": v.ok,
                "wanted": v.wanted.text(units),
                "given": v.given.text(units),
                "by": v.by,
                "reason": Say(v.reason).text(units),
            }
            for v in _verdicts(fabric, hold, book, bay_m)
        ]
    return answer


def _drawn(fabric: Fabric, on_file: bool) -> dict[str, Any]:
    """What a drawing to scale takes (m)."""
    thick = fabric.gauge or fabric.filler_gauge
    return {
        "label": fabric.label,
        "kind": fabric.kind,
        "knot": fabric.knot,
        "high": fabric.height_m,
        "wires": list(fabric.wire_heights_m),
        "stay": fabric.stay_m,
        "mesh": list(fabric.mesh_m),
        "outer": gauge(fabric.outer_gauge or thick).m,
        "filler": gauge(thick).m,
        "outer_gauge": fabric.outer_gauge or thick,
        "filler_gauge": thick,
        "on_file": on_file,
    }


class GaugeInput(Input):
    """``gauge``."""

    gauge: Annotated[float, Field(allow_inf_nan=False, ge=0, le=20)]


def calc_gauge(q: GaugeInput) -> Answer:
    """A wire gauge's diameter, section and stiffness."""
    g = gauge(q.gauge)
    source = "Steel Wire Gauge table" if g.printed else "mean of the neighbouring gauges of the Steel Wire Gauge table"
    return {
        "inch": g.inch,
        "m": g.m,
        "area_m2": g.area_m2,
        "ea_n": g.ea_n,
        "why": [why("A = π·d²/4, E = 200 GPa", f"π·{g.m * 1000:.4g}²/4 = {g.area_m2 * 1e6:.4g} mm²", source)],
    }
