"""Haul: what is taken out of the application: sheets, the print, the Job itself."""

import re

from fastapi import APIRouter, Request
from fastapi.responses import Response

from gnomonic.core.errors import BadInput
from gnomonic.core.tag import job_tag
from gnomonic.core.units import System
from gnomonic.formats.sheets import as_csv, brace_rows, plan_geojson, plan_gpx, stake_out, take_off_rows
from gnomonic.store import jobs
from gnomonic.web.plans import Planned

router = APIRouter()


def _planned(request: Request, job_id: str) -> tuple[Planned, str]:
    stored = jobs.load(request.app.state.engine, job_id)
    return request.app.state.plans.of(job_id, stored.digest, stored.document), stored.document


def _system(units: str) -> System:
    return "metric" if units == "metric" else "us"


def _file(body: bytes, media: str, name: str, ending: str) -> Response:
    """A download whose file name is the job's, in plain letters."""
    stem = re.sub(r"[^A-Za-z0-9]+", "-", name).strip("-").lower()[:60] or "job"
    return Response(body, media_type=media, headers={"Content-Disposition": f'attachment; filename="{stem}{ending}"'})


@router.get("/jobs/{job_id}/stake-out.csv")
def stake_out_csv(request: Request, job_id: str, units: str = "us") -> Response:
    """The stake-out sheet."""
    planned, _ = _planned(request, job_id)
    return _file(
        as_csv(stake_out(planned.plan, _system(units))), "text/csv; charset=utf-8", planned.job.name, "-stake-out.csv"
    )


@router.get("/jobs/{job_id}/take-off.csv")
def take_off_csv(request: Request, job_id: str, units: str = "us") -> Response:
    """The take-off."""
    planned, _ = _planned(request, job_id)
    rows = take_off_rows(planned.job, planned.plan, _system(units))
    return _file(as_csv(rows), "text/csv; charset=utf-8", planned.job.name, "-take-off.csv")


@router.get("/jobs/{job_id}/job.json")
def job_json(request: Request, job_id: str) -> Response:
    """The Job document, exactly as saved."""
    planned, document = _planned(request, job_id)
    return _file(document.encode(), "application/json", planned.job.name, ".json")


@router.get("/jobs/{job_id}/line.geojson")
def line_geojson(request: Request, job_id: str) -> Response:
    """The line and its posts."""
    planned, _ = _planned(request, job_id)
    return _file(plan_geojson(planned.job, planned.plan), "application/geo+json", planned.job.name, ".geojson")


@router.get("/jobs/{job_id}/posts.gpx")
def posts_gpx(request: Request, job_id: str) -> Response:
    """The posts as waypoints."""
    planned, _ = _planned(request, job_id)
    body = plan_gpx(planned.job, planned.plan)
    if body is None:
        raise BadInput(
            "line", "this line came without longitude and latitude, so it has no GPX: take the GeoJSON or the CSV"
        )
    return _file(body, "application/gpx+xml", planned.job.name, "-posts.gpx")


@router.get("/jobs/{job_id}/print", include_in_schema=False)
def printed(request: Request, job_id: str, units: str = "us") -> Response:
    """The sheet to print: the strip, the stake-out and the take-off."""
    planned, _ = _planned(request, job_id)
    system = _system(units)
    facts = [
        (f.name, f.value.text(system), f.why.working.text(system)) for f in job_tag(planned.job, planned.plan).facts
    ]
    context = {
        "job_id": job_id,
        "name": planned.job.name,
        "units": system,
        "facts": facts,
        "stake_out": stake_out(planned.plan, system),
        "take_off": take_off_rows(planned.job, planned.plan, system),
        "braces": brace_rows(planned.plan, system),
        "snags": [(s.title.text(system), s.consequence.text(system)) for s in planned.snags],
        "drawing": planned.drawing.replace("<", "\\u003c"),
    }
    return request.app.state.templates.TemplateResponse(request, "print.html", context)  # type: ignore[no-any-return]
