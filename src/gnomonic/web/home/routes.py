"""The list of jobs: a page of them, searched, from what is kept of each; nothing is planned for it."""

import json
from datetime import date
from functools import lru_cache
from typing import Annotated, Any
from urllib.parse import urlencode

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response
from fastapi.templating import Jinja2Templates
from jinja2 import Template
from markupsafe import Markup

from gnomonic.core.limits import MOST_A_PAGE, MOST_SEARCHED
from gnomonic.store import jobs
from gnomonic.web.door.known import page_token, plans
from gnomonic.web.home import sample, summary
from gnomonic.web.parts import planned_job
from gnomonic.web.room import not_away, room

router = APIRouter()
MOST_PAGES = 10**6


@router.get("/", include_in_schema=False)
def home(request: Request, q: Annotated[str, Query(max_length=MOST_SEARCHED)] = "", page: int = 1) -> Response:
    """Jobs, the last changed first, a page of them."""
    scope = room(request).scope
    rows = jobs.listed(scope, q, (min(max(page, 1), MOST_PAGES) - 1) * MOST_A_PAGE, MOST_A_PAGE)
    if page > 1 and not rows:
        return RedirectResponse(f"/?{urlencode({'q': q})}" if q else "/", 303)
    page, count = max(page, 1), rows[0].of_all if rows else 0
    templates: Jinja2Templates = request.app.state.templates
    cards = _cards(
        templates.get_template("cards.html"),
        tuple(rows),
        q,
        date.today().isoformat(),
        page_token(request),
        plans(request),
    )
    shown, more = len(rows), page * MOST_A_PAGE < count
    context = {
        "cards": cards,
        "shown": shown,
        "q": q,
        "page": page,
        "more": more,
        "count": count,
        "size": MOST_A_PAGE,
        "searched": MOST_SEARCHED,
    }
    return templates.TemplateResponse(request, "home.html", context)


@router.get("/api/v1/health")
def health(request: Request) -> dict[str, bool]:
    """Whether this process and the database answer; 503 where the database does not."""
    not_away(request)
    request.app.state.house.scope.look()
    return {"database": True}


@lru_cache(maxsize=64)
def _cards(
    template: Template, rows: tuple[jobs.Listed, ...], q: str, today: str, token: str, its_plans: bool
) -> Markup:
    """Jobs as the list shows them, written anew only where one of them is another."""
    return Markup(
        template.render(cards=[_card(row, today) for row in rows], q=q, box=summary.BOX, token=token, plans=its_plans)
    )


def _card(row: jobs.Listed, today: str) -> dict[str, Any]:
    """A job as the list shows it; marks run out, so that what was counted on another day is counted anew."""
    kept = json.loads(row.summary) if row.summary else {}
    return {"id": row.job_id, "name": row.name, **kept, "fresh": row.fresh and kept["day"] == today}


@router.get("/api/v1/jobs/{job_id}/summary")
def summarized(request: Request, job_id: str) -> Response:
    """What the list shows of a job, worked out as it stands and kept."""
    stored = jobs.glance(room(request).scope, job_id)
    made = summary.keep(room(request).scope, job_id, stored.version, planned_job(request, stored))
    return JSONResponse({"name": stored.name, **made})


@router.post("/sample", include_in_schema=False)
def try_sample(request: Request) -> Response:
    """A line to try everything on."""
    return RedirectResponse(f"/jobs/{jobs.create(room(request).scope, sample.job())}", 303)


@router.post("/jobs/{job_id}/remove", include_in_schema=False)
def remove(request: Request, job_id: str, q: Annotated[str, Form(max_length=MOST_SEARCHED)] = "") -> Response:
    """Remove a job."""
    jobs.glance(room(request).scope, job_id)
    jobs.remove(room(request).scope, job_id)
    return RedirectResponse(f"/?{urlencode({'q': q})}" if q else "/", 303)
