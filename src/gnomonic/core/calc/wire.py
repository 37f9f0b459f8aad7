"""``label`` and ``gauge``: what a roll label says, and the size of a wire."""

from typing import Annotated

from pydantic import Field

from gnomonic.core.calc.parts import Answer, Input, why
from gnomonic.core.fabric.label import read_label
from gnomonic.core.fabric.wire import gauge


class LabelInput(Input):
    """``label``."""

    label: Annotated[str, Field(min_length=1, max_length=60)]


def calc_label(q: LabelInput) -> Answer:
    """Read a roll label."""
    r = read_label(q.label)
    keys = {
        "woven": ("line_wires", "height_in", "stay_in"),
        "chain_link": ("height_in", "gauge", "diamond_in"),
        "gauge_pair": ("outer_gauge", "filler_gauge"),
    }[r.kind]
    rule = {
        "woven": "line wires – height in inches – stay spacing in inches",
        "chain_link": "height in inches – gauge – diamond in inches",
        "gauge_pair": "gauge of the top and bottom wires / gauge of the filler wires",
    }[r.kind]
    return {
        "kind": r.kind,
        **{k: getattr(r, k) for k in keys},
        "words": r.words,
        "why": [why(rule, q.label.strip(), "common practice")],
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
