"""A calendar of all jobs of a workspace on one crew: what is done on which day, where two jobs want the same, which goes first."""

import calendar
from datetime import date, timedelta
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from gnomonic.core.days.book import plant_kinds
from gnomonic.core.days.crew import Crew
from gnomonic.core.days.sharing import clashes
from gnomonic.core.days.words import day_words
from gnomonic.core.errors import BadInput
from gnomonic.store import days, jobs
from gnomonic.web.days.board import days_of
from gnomonic.web.days.current import Current, current
from gnomonic.web.days.pages import show
from gnomonic.web.haul.costed import system_of
from gnomonic.web.room import room

router = APIRouter()
COLOURS = 6


@router.get("/jobs/{job_id}/calendar", include_in_schema=False)
def calendar_page(request: Request, job_id: str, units: str = "", month: str = "") -> Response:
    """A month of it."""
    now = current(room(request), job_id)
    first = _month(month, now)
    rows = days.day_plans(room(request).scope, job_id, since=min(first, now.given.now.date()) - timedelta(days=7))
    crew = now.given.crew
    colour = {r.job_id: k % COLOURS for k, r in enumerate(rows)}
    done: dict[date, list[dict[str, Any]]] = {}
    for r in rows:
        for p in r.made.placed if r.made else ():
            for s in p.spells:
                cell = done.setdefault(s.day, [])
                mine = next((c for c in cell if c["job_id"] == r.job_id), None)
                if mine is None:
                    mine = {
                        "job_id": r.job_id,
                        "name": r.name,
                        "colour": colour[r.job_id],
                        "tasks": set(),
                        "people": set(),
                    }
                    cell.append(mine)
                mine["tasks"].add(p.key)
                mine["people"].update(s.people)
    clash: dict[date, list[tuple[str, list[str]]]] = {}
    for day, who, which in clashes({r.job_id: r.made.placed for r in rows if r.made}, crew):
        clash.setdefault(day, []).append((_called(who, crew), [r.name for r in rows if r.job_id in which]))
    weeks = [
        [
            {
                "day": d, "in": d.month == first.month, "today": d == now.given.now.date(), "closed": crew.closed(d), "people": len(crew.there(d)),
                "jobs": [{**c, "tasks": len(c["tasks"]), "people": len(c["people"])} for c in done.get(d, [])], "clash": clash.get(d, []),
            }
            for d in week
        ]
        for week in calendar.Calendar().monthdatescalendar(first.year, first.month)
    ]  # fmt: skip
    return show(
        request, now, system_of(units, now.given.job), "calendar", "calendar.html", weeks=weeks, month=f"{first:%B %Y}", before=_moved(first, -1), after=_moved(first, 1), more_asked=f"&month={first:%Y-%m}",
        rows=[{"id": r.job_id, "name": r.name, "colour": colour[r.job_id], "start": day_words(r.asked.start), "ends": day_words(r.made.ends.date()) if r.made else "not planned yet"} for r in rows],
        clashes=[(day_words(d), *c) for d, found in clash.items() for c in found][:8], people=crew.people,
    )  # fmt: skip


def _called(who: str, crew: Crew) -> str:
    return (
        plant_kinds()[who].title
        if who in plant_kinds()
        else next((p.name for p in crew.people if p.id == who), "somebody who has left")
    )


def _month(text: str, now: Current) -> date:
    """The month asked for; else the one in which this job goes on."""
    if text:
        try:
            return date.fromisoformat(f"{text}-01")
        except ValueError:
            raise BadInput("month", f"“{text[:12]}” is not a month: write it like 2026-03") from None
    today = now.given.now.date()
    worked = [d for d in days_of(now.made) if d >= today] if now.made else []
    return (worked[0] if worked else today).replace(day=1)


def _moved(first: date, months: int) -> str:
    at = first.year * 12 + first.month - 1 + months
    return f"{at // 12:04d}-{at % 12 + 1:02d}"


@router.post("/jobs/{job_id}/calendar/first", include_in_schema=False)
def goes_first(
    request: Request, job_id: str, which: Annotated[str, Form()] = "", units: Annotated[str, Form()] = ""
) -> Response:
    """Let a job go before the others; all are planned one after the other again."""
    scope = room(request).scope
    jobs.glance(scope, job_id)
    rows = days.day_plans(scope)
    if which and which not in [r.job_id for r in rows]:
        raise jobs.NotThere(which)
    order = sorted(rows, key=lambda r: r.job_id != which) if which else rows
    for k, r in enumerate(order):
        days.ask_days(scope, r.job_id, r.asked.model_copy(update={"rank": k + 1}))
    for r in order:
        current(room(request), r.job_id)
    return RedirectResponse(f"/jobs/{job_id}/calendar?units={units}", 303)
