"""Haul: what is taken out of the application: sheets, the print, the Job itself."""

import json
from datetime import date
from typing import Annotated, Any

from fastapi import APIRouter, Body, Request
from fastapi.responses import JSONResponse, Response

from gnomonic.core.ground.marking import may_dig, state_of
from gnomonic.core.haul.takeoff import UNIT_KINDS, job_take_off
from gnomonic.core.plan.identity import tag_name
from gnomonic.core.say import Say
from gnomonic.core.tell.needs import named
from gnomonic.core.tell.steps import steps_of
from gnomonic.core.tell.tag_job import job_tag
from gnomonic.core.units import System, format_quantity
from gnomonic.formats.ground_sheets import dip_rows, hole_rows, low_rows
from gnomonic.formats.opening_sheets import crossing_rows, gate_rows
from gnomonic.formats.sheets import as_csv, brace_rows, plan_geojson, plan_gpx, stake_out, take_off_rows
from gnomonic.store import jobs
from gnomonic.store.jobs import Stored
from gnomonic.web.days.board import ahead
from gnomonic.web.days.current import current
from gnomonic.web.draw.lanes import take_off_json
from gnomonic.web.parts import MARKING_WORDS, file_out, line_page, planned_job, planned_of, safe
from gnomonic.web.plans import Planned, PlannedJob
from gnomonic.web.problems import a_file
from gnomonic.web.room import room

router = APIRouter()
DAYS_PRINTED = 14  # day sheets in the packet
LEAST_CHANGE = 5e-4


def _system(units: str) -> System:
    return "metric" if units == "metric" else "us"


@router.get("/jobs/{job_id}/haul", include_in_schema=False)
def haul_page(request: Request, job_id: str) -> Response:
    """What is needed: the take-off of all lines or of one."""
    stored, planned = planned_of(request, job_id)
    haul = safe(json.dumps(haul_json(request, stored), ensure_ascii=False))
    return line_page(request, "haul.html", stored, planned, haul=haul)


@router.get("/api/v1/jobs/{job_id}/needs")
def needs(request: Request, job_id: str) -> Response:
    """The take-off of all lines with each line's part, and what changed since the last print."""
    return JSONResponse(haul_json(request, jobs.glance(room(request).scope, job_id)))


def haul_json(request: Request, stored: Stored) -> dict[str, Any]:
    """The take-off, and what it was when a sheet went to paper last."""
    job = planned_job(request, stored)
    rows = take_off_json(job.job, job.plan)
    offcuts = [{"label": o.label, "length": o.length_m} for o in job.job.stock.offcuts]
    local = job.job.frame.kind == "local"
    return {
        "rows": rows,
        "offcuts": offcuts,
        "local": local,
        "since": _since(request, stored.job_id, stored.digest, job, rows),
    }


def _since(
    request: Request, job_id: str, digest: str, job: PlannedJob, rows: list[dict[str, Any]]
) -> dict[str, Any] | None:
    """Rows that changed since the last print: by their place among ``rows`` what they were, and those that are gone."""
    last = jobs.printed(room(request).scope, job_id)
    if last is None:
        return None
    document, was_digest, day = last
    if was_digest == digest:
        return {"day": day.date().isoformat(), "was": {}, "gone": []}
    before = room(request).plans.of(job_id, was_digest, document)
    old = {both["alike"]: both for both in take_off_json(before.job, before.plan)}
    was = {}
    for k, row in enumerate(rows):
        count = old.pop(row["alike"])["count"] if row["alike"] in old else 0
        if abs(count - row["count"]) > LEAST_CHANGE:
            was[k] = count
    return {
        "day": day.date().isoformat(),
        "was": was,
        "gone": [{"name": o["name"], "count": o["count"], "unit": o["unit"]} for o in old.values()],
    }


@router.post("/api/v1/jobs/{job_id}/printed", status_code=204, response_class=Response)
def went_to_paper(request: Request, job_id: str, version: Annotated[int, Body(embed=True)]) -> Response:
    """A sheet of this version was printed: changes are counted from it."""
    jobs.keep_printed(room(request).scope, job_id, version)
    return Response(status_code=204)


@router.get("/jobs/{job_id}/stake-out.csv", **a_file("text/csv"))
def stake_out_csv(request: Request, job_id: str, units: str = "us") -> Response:
    """The stake-out sheet."""
    _, planned = planned_of(request, job_id)
    return file_out(
        as_csv(stake_out(planned.plan, _system(units), tag_name(planned.fence, ""))),
        "text/csv; charset=utf-8",
        planned.fence.title,
        "-stake-out.csv",
    )


@router.get("/jobs/{job_id}/take-off.csv", **a_file("text/csv"))
def take_off_csv(request: Request, job_id: str, units: str = "us") -> Response:
    """The take-off."""
    _, planned = planned_of(request, job_id)
    rows = take_off_rows(planned.fence, planned.plan, _system(units))
    return file_out(as_csv(rows), "text/csv; charset=utf-8", planned.fence.title, "-take-off.csv")


@router.get("/jobs/{job_id}/job.json", **a_file("application/json"))
def job_json(request: Request, job_id: str) -> Response:
    """The Job document, exactly as saved."""
    stored, planned = planned_of(request, job_id)
    return file_out(
        jobs.document(room(request).scope, stored.version).encode(),
        "application/json",
        planned.fence.title,
        ".json",
    )


@router.get("/jobs/{job_id}/line.geojson", **a_file("application/geo+json"))
def line_geojson(request: Request, job_id: str) -> Response:
    """The line and its posts."""
    _, planned = planned_of(request, job_id)
    return file_out(plan_geojson(planned.fence, planned.plan), "application/geo+json", planned.fence.title, ".geojson")


@router.get("/jobs/{job_id}/posts.gpx", **a_file("application/gpx+xml"))
def posts_gpx(request: Request, job_id: str) -> Response:
    """The posts as waypoints."""
    _, planned = planned_of(request, job_id)
    body = plan_gpx(planned.fence, planned.plan)
    return file_out(body, "application/gpx+xml", planned.fence.title, "-posts.gpx")


@router.get("/jobs/{job_id}/print", include_in_schema=False)
def printed(request: Request, job_id: str, units: str = "us") -> Response:
    """The sheet of a line to print: its strip, stake-out, braces and take-off."""
    stored, planned = planned_of(request, job_id)
    system = _system(units)
    sheets = [_sheet(planned, system)]
    context = {
        "job_id": job_id,
        "name": planned.fence.title,
        "units": system,
        "sheets": sheets,
        "version": stored.version,
    }
    return request.app.state.templates.TemplateResponse(request, "print.html", context | {"together": None})  # type: ignore[no-any-return]


@router.get("/jobs/{job_id}/print-all", include_in_schema=False)
def printed_all(request: Request, job_id: str, units: str = "us") -> Response:
    """All lines of a job to print: their plan, what they need together, then a sheet a line."""
    stored = jobs.load(room(request).scope, job_id)
    job, system = planned_job(request, stored), _system(units)
    views, now = job.all(), current(room(request), job_id)
    sides = [(it.fence, it.plan) for it in views]
    letters = [it.fence.id for it in views]
    together = {
        "letters": letters,
        "lines": [
            {
                "letter": line.id,
                "name": line.name,
                "length": format_quantity(job.plan.courses[line.id].length_m, "station", system),
                "stands": "; ".join(
                    Say(
                        "{end} on {on} at {at}",
                        {"end": j.end, "on": job.job.line(j.on).name, "at": (j.at_m, "station")},
                    ).text(system)
                    for j in job.job.joins
                    if j.line == line.id
                ),
                "there": line.standing == "there",
            }
            for line in job.job.lines
        ],
        "rows": [
            {
                "item": named(both.need).text(system),
                "count": format_quantity(both.count, UNIT_KINDS[both.need.unit], system),
                "parts": [
                    format_quantity(both.parts[k], UNIT_KINDS[both.need.unit], system) if k in both.parts else ""
                    for k in letters
                ],
            }
            for both in job_take_off(sides)
        ],
        "ground": safe(job.ground()),
    }
    context = {
        "job_id": job_id,
        "name": job.job.name,
        "units": system,
        "version": stored.version,
        "sheets": [_sheet(it, system) for it in views],
        "boards": ahead(now.given, now.made, system, DAYS_PRINTED),
        "together": together,
    }
    return request.app.state.templates.TemplateResponse(request, "print.html", context)  # type: ignore[no-any-return]


def _sheet(planned: Planned, system: System) -> dict[str, Any]:
    """A line as it is printed."""
    state = state_of(planned.fence.marking, planned.plan.course, date.today())
    hung = planned.plan.section
    return {
        "letter": planned.fence.id,
        "name": planned.fence.name,
        "marking": MARKING_WORDS[state],
        "may_dig": may_dig(state),
        "facts": [
            (f.name, f.value.text(system), f.why.working.text(system))
            for f in job_tag(planned.fence, planned.plan).facts
        ],
        "hung": ", ".join([hung.system.title, hung.named, *(Say(e.title).text(system) for e in hung.extras)]),
        "steps": [(s.text.text(system), s.caution.text(system)) for s in steps_of(planned.fence, planned.plan)],
        "stake_out": stake_out(planned.plan, system, tag_name(planned.fence, "")),
        "take_off": take_off_rows(planned.fence, planned.plan, system),
        "braces": brace_rows(planned.plan, system, tag_name(planned.fence, "")),
        "gates": gate_rows(planned.plan, system),
        "crossings": crossing_rows(planned.plan, system),
        "lows": low_rows(planned.fence, planned.plan, system),
        "holes": hole_rows(planned.fence, planned.plan, system),
        "dips": dip_rows(planned.fence, planned.plan, system),
        "snags": [(s.title.text(system), s.consequence.text(system)) for s in planned.snags],
        "drawing": safe(planned.drawing),
    }
