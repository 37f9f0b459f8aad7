"""Day sheets on paper: asked for on a page, laid out beside the pages, taken when they are made."""

from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from starlette.exceptions import HTTPException

from gnomonic.core.days.words import day_words
from gnomonic.core.errors import Away, BadInput
from gnomonic.formats.paper import pdf
from gnomonic.store import days, jobs
from gnomonic.web.days.board import ahead, to_come
from gnomonic.web.days.current import SHEETS, current, queued
from gnomonic.web.days.pages import show
from gnomonic.web.haul.costed import system_of
from gnomonic.web.parts import file_out
from gnomonic.web.problems import a_file
from gnomonic.web.room import Room, room

router = APIRouter()
MOST_SHEETS = 31


def sheets_html(state: Room, job_id: str, units: str) -> tuple[str, str]:
    """The day sheets of the days to come on paper, and the stamp of what they are of."""
    now = current(state, job_id)
    system = system_of(units, now.given.job)
    boards = ahead(now.given, now.made, system, MOST_SHEETS)
    html = state.templates.get_template("sheets_paper.html").render(name=now.stored.name, boards=boards, made=now.made)
    return html, f"{now.mark} {system}"


@router.post("/jobs/{job_id}/day-sheets", include_in_schema=False)
def ask_sheets(request: Request, job_id: str, units: Annotated[str, Form()] = "") -> Response:
    """Have the day sheets laid out on paper, beside the pages."""
    now = current(room(request), job_id)
    if now.made is None:
        raise BadInput("days", "there are no day sheets before the job has a beginning: say when it begins")
    scope, system = room(request).scope, system_of(units, now.given.job)
    if days.ask_paper(scope, job_id, SHEETS, f"{now.mark} {system}"):
        room(request).queue.put(
            SHEETS, queued(room(request), job_id), workspace=scope.workspace, job_id=job_id, units=system
        )
    return RedirectResponse(f"/jobs/{job_id}/day-sheets?units={units}", 303)


@router.get("/jobs/{job_id}/day-sheets", include_in_schema=False)
def sheets_page(request: Request, job_id: str, units: str = "") -> Response:
    """Whether the day sheets are made, with a way to them."""
    now = current(room(request), job_id)
    stamp, state, _ = days.paper(room(request).scope, job_id, SHEETS)
    waiting = room(request).queue.waiting(SHEETS, queued(room(request), job_id))
    system = system_of(units, now.given.job)
    fresh = stamp == f"{now.mark} {system}"
    return show(
        request,
        now,
        system,
        "day-sheets",
        "sheets.html",
        state=state,
        waiting=waiting,
        fresh=fresh,
        made=now.made,
        coming=[day_words(d) for d in to_come(now.given, now.made, MOST_SHEETS)],
    )


@router.get("/jobs/{job_id}/day-sheets.pdf", **a_file("application/pdf"))
def sheets_pdf(request: Request, job_id: str) -> Response:
    """The day sheets."""
    stored = jobs.glance(room(request).scope, job_id)
    _, state, body = days.paper(room(request).scope, job_id, SHEETS)
    if body is None:
        again = (
            "could not be laid out: ask for them again"
            if state == "failed"
            else "are not laid out yet: ask for them, and come back in a moment"
        )
        raise HTTPException(404, f"the day sheets {again}")
    return file_out(body, "application/pdf", stored.name, "-day-sheets.pdf")


def lay_out(state: Room, job_id: str, units: str) -> None:
    """In the worker: lay the day sheets out and keep them."""
    scope = state.scope
    html, stamp = sheets_html(state, job_id, units)
    days.ask_paper(scope, job_id, SHEETS, stamp)
    try:
        days.keep_paper(scope, job_id, SHEETS, stamp, pdf(html))
    except Away:
        days.keep_paper(scope, job_id, SHEETS, stamp, None)
