"""Sheets for the print and the phone: of a gate, its opening from the leaf as it was measured, and how it is hung; of a crossing."""

import json
from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.edits.all import read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.say import Say
from gnomonic.core.tell.openings import crossing_facts, crossing_order, gate_facts, gate_order
from gnomonic.core.units import System, format_length, parse_length_m
from gnomonic.web.openings.routes import crossing_json, gate_json, gate_of
from gnomonic.web.parts import Station, change_job, line_asked, planned_of, safe

router = APIRouter()
NEAR_M = 0.5
WATER = "Never work in the channel with water coming. A rope under load whips: stand out of its line. Rules on watercourses are local: ask before anything is set on a bank."
CAUTION = "A leaf falls: blocks under it and two people until both pins carry it; fingers clear of eye and pin."


@router.get("/jobs/{job_id}/gate", include_in_schema=False)
def sheet_page(request: Request, job_id: str, id: str, units: str = "us", leaf: str = "", error: str = "") -> Response:
    """The sheet of a gate."""
    stored, it = planned_of(request, job_id)
    system: System = "metric" if units == "metric" else "us"
    gate = gate_of(it.plan, id)
    counts = gate.kind.counts(gate.high_m)
    context = {
        "job_id": job_id,
        "name": it.fence.title,
        "gate": gate,
        "units": system,
        "line": line_asked(request),
        "base": stored.version,
        "typed": leaf,
        "error": error,
        "rows": [(f.name, f.value.text(system)) for f in gate_facts(it.plan, gate)],
        "steps": [s.text(system) for s in gate_order(it.plan, gate)],
        "hardware": [(counts[h.item], catalog()[h.item].title, h.way) for h in gate.kind.hardware],
        "caution": CAUTION,
        "shown": safe(json.dumps(gate_json(it.fence, it.plan, gate), ensure_ascii=False)),
        "about": format_length(gate.leaf_m - 0.003, system, "cut"),
    }
    made: Response = request.app.state.templates.TemplateResponse(
        request, "gate.html", context, status_code=422 if error else 200
    )
    return made


@router.get("/jobs/{job_id}/crossing", include_in_schema=False)
def crossing_page(request: Request, job_id: str, at: Station, units: str = "us") -> Response:
    """The sheet of a crossing, by a station within it.  Raises BadInput (``at``)."""
    _, it = planned_of(request, job_id)
    system: System = "metric" if units == "metric" else "us"
    over = next((c for c in it.plan.crossings if c.at_m - NEAR_M <= at <= c.to_m + NEAR_M), None)
    if over is None:
        raise BadInput("at", Say("no water is crossed by a rope at {at} of this line", {"at": (at, "station")}))
    context = {
        "job_id": job_id,
        "name": it.fence.title,
        "title": over.name,
        "units": system,
        "at": at,
        "rows": [(f.name, f.value.text(system)) for f in crossing_facts(it.plan, over)],
        "steps": [s.text(system) for s in crossing_order(it.plan, over)],
        "caution": WATER,
        "shown": safe(json.dumps(crossing_json(it.fence, it.plan, over), ensure_ascii=False)),
    }
    made: Response = request.app.state.templates.TemplateResponse(request, "crossing.html", context)
    return made


@router.post("/jobs/{job_id}/gate", include_in_schema=False)
def keep_leaf(
    request: Request,
    job_id: str,
    id: Annotated[str, Form()],
    leaf: Annotated[str, Form()] = "",
    base: Annotated[int, Form()] = 0,
    units: Annotated[str, Form()] = "us",
) -> Response:
    """Keep the leaf as it was measured: its opening is set out from it."""
    try:
        long = parse_length_m(leaf, "in" if units == "us" else "mm")
        edit = {"do": "set_gate", "id": id, "leaf_m": long, "measured": True}
        read_edit(edit)
        change_job(request, job_id, base, edit)
    except BadInput as wrong:
        system: System = "metric" if units == "metric" else "us"
        return sheet_page(
            request, job_id, id, units, leaf, "Leaf: " + (wrong.said.text(system) if wrong.said else wrong.sentence)
        )
    line = line_asked(request)
    return RedirectResponse(f"/jobs/{job_id}/gate?id={id}&units={units}" + (f"&line={line}" if line else ""), 303)
