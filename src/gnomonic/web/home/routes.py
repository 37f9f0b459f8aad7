"""The list of jobs: a page of them, searched, from what is kept of each; nothing is planned for it."""

import json
from typing import Annotated, Any
from urllib.parse import urlencode

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response

from gnomonic.store import jobs
from gnomonic.web.home import sample, summary
from gnomonic.web.parts import planned_job

router = APIRouter()
A_PAGE = 24
MOST_PAGES = 10**6
MOST_SEARCHED = 80


@router.get("/", include_in_schema=False)
def home(request: Request, q: Annotated[str, Query(max_length=MOST_SEARCHED)] = "", page: int = 1) -> Response:
    """Jobs, the last changed first, a page of them."""
    scope = request.app.state.scope
    rows = jobs.listed(scope, q, (min(max(page, 1), MOST_PAGES) - 1) * A_PAGE, A_PAGE)
    if page > 1 and not rows:
        return RedirectResponse(f"/?{urlencode({'q': q})}" if q else "/", 303)
    page, count = max(page, 1), rows[0].of_all if rows else 0
    cards = [
        {"id": r.job_id, "name": r.name, "fresh": r.fresh, **(json.loads(r.summary) if r.summary else {})} for r in rows
    ]
    more = page * A_PAGE < count
    context: dict[str, Any] = {
        "cards": cards,
        "q": q,
        "page": page,
        "more": more,
        "count": count,
        "box": summary.BOX,
        "size": A_PAGE,
    }
    return request.app.state.templates.TemplateResponse(request, "home.html", context)  # type: ignore[no-any-return]


@router.get("/api/v1/jobs/{job_id}/summary")
def summarized(request: Request, job_id: str) -> Response:
    """What the list shows of a job, worked out as it stands and kept."""
    stored = jobs.glance(request.app.state.scope, job_id)
    made = summary.keep(request.app.state.scope, job_id, stored.version, planned_job(request, stored))
    return JSONResponse({"name": stored.name, **made})


@router.post("/sample", include_in_schema=False)
def try_sample(request: Request) -> Response:
    """A line to try everything on."""
    return RedirectResponse(f"/jobs/{jobs.create(request.app.state.scope, sample.job())}", 303)


@router.post("/jobs/{job_id}/remove", include_in_schema=False)
def remove(request: Request, job_id: str, q: Annotated[str, Form(max_length=MOST_SEARCHED)] = "") -> Response:
    """Remove a job."""
    jobs.load(request.app.state.scope, job_id)
    jobs.remove(request.app.state.scope, job_id)
    return RedirectResponse(f"/?{urlencode({'q': q})}" if q else "/", 303)
