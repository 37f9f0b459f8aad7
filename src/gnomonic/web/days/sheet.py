"""The day sheet: what is done on a day, by whom; ticked off on the phone."""

import secrets
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from starlette.concurrency import run_in_threadpool

from gnomonic.core.days.laying import usual_minutes_of
from gnomonic.core.days.progress import Tick
from gnomonic.core.errors import BadInput
from gnomonic.store import days, jobs
from gnomonic.web.days.board import Board, board
from gnomonic.web.days.current import Current, current
from gnomonic.web.days.pages import day_of, show
from gnomonic.web.haul.costed import system_of
from gnomonic.web.parts import asking
from gnomonic.web.room import room

router = APIRouter()


@router.get("/jobs/{job_id}/day", include_in_schema=False)
def day_page(request: Request, job_id: str, units: str = "", day: str = "") -> Response:
    """The day sheet: what is done today, by whom; ticked off on the phone."""
    now = current(room(request), job_id)
    return _sheet(request, now, units, day)


def _sheet(request: Request, now: Current, units: str, day: str, status: int = 200, **more: Any) -> Response:
    system = system_of(units, now.given.job)
    on = day_of(day, now)
    shown: Board | None = board(now.given, now.made, on, system) if now.made else None
    return show(
        request, now, system, "day", "daysheet.html", status, board=shown, people=now.given.crew.people, fresh=secrets.token_hex(8), more_asked=f"&day={on}",
        practice=room(request).skies.is_practice, **more,
    )  # fmt: skip


@router.post("/jobs/{job_id}/ticks", include_in_schema=False)
async def tick(request: Request, job_id: str) -> Response:
    """Say what is done of a task."""
    form = await request.form()
    typed = {k: str(v) for k, v in form.items() if k != "by"}
    by = tuple(str(v) for v in form.getlist("by"))
    return await run_in_threadpool(_tick, request, job_id, typed, by)


def _tick(request: Request, job_id: str, typed: dict[str, str], by: tuple[str, ...]) -> Response:
    now = current(room(request), job_id)
    units, day = typed.get("units", ""), typed.get("day", "")
    task = now.given.tasks.get(typed.get("task", ""))
    if task is None:
        raise jobs.NotThere(typed.get("task", ""))
    try:
        names = {p.id: p.name for p in now.given.crew.people}
        row = Tick(
            id=typed.get("id", "") or secrets.token_hex(8), task=task.key, kind=task.kind, share=_percent(typed.get("share_part", "") if typed.get("share") == "part" else typed.get("share", "100")), hours=_hours(typed.get("hours", "")),
            quantity=task.quantity, minutes=usual_minutes_of(task, now.given.crew), by=tuple(names[b] for b in by if b in names), at=now.given.now, note="",
        )  # fmt: skip
    except BadInput as error:
        return _sheet(request, now, units, day, 422, error=error.sentence, typed=typed)
    days.add_ticks(asking(request), job_id, [row])
    current(room(request), job_id)
    back = (
        f"/jobs/{job_id}/day?day={day}&units={units}"
        if typed.get("back") != "days"
        else f"/jobs/{job_id}/days?day={day}&units={units}"
    )
    return RedirectResponse(f"{back}#t-{task.key}", 303)


def _percent(text: str) -> float:
    try:
        share = float(text.strip().rstrip("%")) / 100
    except ValueError:
        raise BadInput("share", f"How much of it: “{text[:20]}” is not a number; write 100 for all of it") from None
    if not 0 <= share <= 1:
        raise BadInput("share", f"How much of it: {text[:20]} is not between 0 and 100 %")
    return share


def _hours(text: str) -> float | None:
    if not text.strip():
        return None
    try:
        hours = float(text.replace(",", "."))
    except ValueError:
        raise BadInput("hours", f"Hours of all who were at it: “{text[:20]}” is not a number") from None
    if not 0 < hours <= 1000:
        raise BadInput("hours", f"Hours of all who were at it: {text[:20]} is not between 0 and 1000")
    return hours
