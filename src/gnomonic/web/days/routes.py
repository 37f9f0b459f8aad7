"""Days: the line across and the days down, a day's board, what if, what was done, moving a task."""

import json
from datetime import date, datetime, timedelta
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from gnomonic.core.days.book import stops
from gnomonic.core.days.laying import minutes_left, must_follow_marks
from gnomonic.core.days.made import Asked, Made
from gnomonic.core.days.progress import drifts, usual_minutes
from gnomonic.core.days.task import CONCRETE
from gnomonic.core.days.words import (
    chain,
    chances_words,
    day_words,
    hands_words,
    held_by,
    hours_words,
    when_words,
    why_later,
)
from gnomonic.core.errors import BadInput
from gnomonic.core.units import System
from gnomonic.store import days, jobs
from gnomonic.web.days.board import board, line_name, people_words, plant_words
from gnomonic.web.days.current import SEARCH, Current, current, look_further, queued
from gnomonic.web.days.ifs import If, is_done, what_ifs
from gnomonic.web.days.pages import day_of, line_of, show
from gnomonic.web.days.picture import picture
from gnomonic.web.flowing import flowing, one_by_one
from gnomonic.web.haul.costed import system_of
from gnomonic.web.haul.pages import head_of
from gnomonic.web.parts import safe
from gnomonic.web.room import room

router = APIRouter()
Json = dict[str, Any]


@router.get("/jobs/{job_id}/days", include_in_schema=False)
def days_page(request: Request, job_id: str, units: str = "", day: str = "", task: str = "") -> Response:
    """The plan of days, with the board of one of them."""
    return _days(request, current(room(request), job_id), units, day, task)


def _days(
    request: Request, now: Current, units: str, day: str = "", task: str = "", status: int = 200, **more: Any
) -> Response:
    system, given, made = system_of(units, now.given.job), now.given, now.made
    context: Json = {
        "people": people_words(given.crew), "plant": plant_words(given.crew), "said": given.said, "asked": given.plan.asked if given.plan else None,
        "today": given.now.date(), "tasks": len(given.tasks), "hours": hours_words(sum(t.minutes[1] for t in given.tasks.values())), "made": made, **more,
    }  # fmt: skip
    if made is None:
        return show(request, now, system, "days", "days.html", status, **context)
    picked = next((p for p in made.placed if p.key == task), None)
    on = picked.begins.date() if picked and not day else day_of(day, now)
    names = {line.id: line.name for line in given.job.job.lines}
    drawn = picture(
        given.job.plan.lines, names, made.placed, given.tasks, given.crew, given.weather, given.now, given.done.share, system, line_of(request, now)
    )  # fmt: skip
    columns = [[c.line, c.x, c.wide, c.length_m] for c in drawn.columns]
    context |= _told(request, now, made, system)
    context |= {"board": board(given, made, on, system), "task": _task(now, made, task, system), "picture": drawn}
    context["across"] = safe(json.dumps({"units": system, "high": drawn.high, "columns": columns}))
    context["lines"] = [(k, names[k]) for k in given.job.plan.lines]
    return show(request, now, system, "days", "days.html", status, **context)


def _told(request: Request, now: Current, made: Made, units: System) -> Json:
    """What is said of the plan as a whole."""
    given = now.given
    tasks = given.tasks
    what = given.given()
    left = {key: minutes_left(t, what, given.crew) for key, t in tasks.items()}
    open_now = [p for p in made.placed if given.done.share.get(p.key, 0.0) < 1]
    off = drifts(given.rates, usual_minutes(tasks.values(), given.crew), {t.kind: t.unit for t in tasks.values()})
    return {
        "chances": chances_words(made.both, made.seasons) if open_now else "All of it is done",
        "later": why_later(made) if open_now else "",
        "all_done": not open_now,
        "fair": day_words(made.fair.date()),
        "bound": day_words(made.bound.date()),
        "short": (made.fair.date() - made.bound.date()).days,
        "chain": chain(made, tasks),
        "held_by": held_by(made),
        "left": hours_words(sum(left.values())),
        "done": sum(s >= 1 for k, s in given.done.share.items() if k in tasks),
        "drifts": [d.text(units) for d in off],
        "drifted": made.drifted,
        "hands": hands_words(list(tasks.values()), left),
        "looking": room(request).queue.waiting(SEARCH, queued(room(request), given.stored.job_id)),
        "away": given.away,
        "practice": room(request).skies.is_practice,
        "marks": given.marks_from,
        "run_out": _marks_run_out(now, made),
        "late_pins": _late_pins(now, made),
    }


def _marks_run_out(now: Current, made: Made) -> str:
    """Where marks run out before the last hole is planned."""
    marking = now.given.job.job.marking
    if marking is None or marking.expires_on is None:
        return ""
    tasks = now.given.tasks
    dug = [
        p for p in made.placed if p.key in tasks and tasks[p.key].of.digs and now.given.done.share.get(p.key, 0.0) < 1
    ]
    late = sum(p.ends.date() > marking.expires_on for p in dug)
    if not late:
        return ""
    some = "1 task in the ground is" if late == 1 else f"{late} tasks in the ground are"
    return f"The marks run out on {day_words(marking.expires_on)}, and {some} planned after that: ask again in time"


def _late_pins(now: Current, made: Made) -> list[str]:
    """Tasks that were to begin at a time and can't before a later one."""
    by_key = {p.key: p for p in made.placed}
    said = []
    for key, when in now.given.asked.pins.items():
        row, task = by_key.get(key), now.given.tasks.get(key)
        if row and task and row.begins.date() > when.date() and now.given.done.share.get(key, 0.0) < 1:
            said.append(
                f"“{task.of.what}” (line {task.line}) was to begin on {day_words(when.date())}; what comes before it, marks, people and plant let it begin on {day_words(row.begins.date())}"
            )
    return said


def _task(now: Current, made: Made, key: str, units: System) -> Json | None:
    """One task whole: what it is, when, by whom, after what, and why."""
    task = now.given.tasks.get(key)
    row = next((p for p in made.placed if p.key == key), None)
    if task is None or row is None:
        return None
    kind, given = task.of, now.given
    names = {p.id: p.name for p in given.crew.people}
    rate = given.rates.get(task.kind)
    tight = {"use": "it waits for people or plant that the task before it has", "after": "it waits for what comes before it", "there": "it waits until who it needs is there", "hour": "it begins as soon as it may"}  # fmt: skip
    return {
        "key": key, "what": kind.what, "line": task.line, "line_name": line_name(given, task.line), "side": None if task.side is None else task.side + 1,
        "amount": task.amount.text(units), "when": when_words(row), "hands": row.hands, "least": task.crew, "most": kind.hands,
        "who": list(dict.fromkeys(names.get(w, "?") for s in row.spells for w in s.people)), "minutes": [hours_words(m) for m in task.minutes],
        "rate": rate, "reason": kind.reason, "source": kind.source, "text": task.text.text(units), "caution": task.caution.text(units),
        "after": [{"key": k, "what": given.tasks[k].of.what, "line": given.tasks[k].line, "days": d} for k, d in task.after if k in given.tasks],
        "tight": tight.get(row.by, ""), "done": given.done.share.get(key, 0.0), "pin": given.asked.pins.get(key), "begins": row.begins, "trails": kind.trails,
        "at_m": task.from_m, "day": row.begins.date(), "stops": [stops()[k].title for k in kind.stops if task.poured or k != CONCRETE],
    }  # fmt: skip


@router.post("/jobs/{job_id}/days", include_in_schema=False)
def begin(
    request: Request, job_id: str, start: Annotated[str, Form()] = "", units: Annotated[str, Form()] = ""
) -> Response:
    """Say when a job begins."""
    scope = room(request).scope
    now = current(room(request), job_id)
    try:
        first = _start(start, now)
    except BadInput as error:
        return _days(request, now, units, status=422, error=error.sentence, typed={"start": start})
    was = now.given.plan.asked if now.given.plan else None
    rank = was.rank if was else max((r.asked.rank for r in days.day_plans(scope)), default=0) + 1
    days.ask_days(scope, job_id, Asked(start=first, rank=rank, pins=was.pins if was else {}))
    made = current(room(request), job_id, anew=True)
    if made.refused:
        return _days(request, made, units, status=422)
    look_further(room(request), job_id)
    return RedirectResponse(f"/jobs/{job_id}/days?units={units}", 303)


def _start(text: str, now: Current) -> date:
    try:
        first = date.fromisoformat(text)
    except ValueError:
        raise BadInput("start", f"Begins: “{text[:20]}” is not a day; write it like 2026-03-02") from None
    today = now.given.now.date()
    if not today - timedelta(days=366) <= first <= today + timedelta(days=3 * 366):
        raise BadInput(
            "start", f"Begins: {first:%-d %B %Y} is too far away; give a day within a year past or three to come"
        )
    return first


@router.post("/jobs/{job_id}/days/search", include_in_schema=False)
def search(request: Request, job_id: str, units: Annotated[str, Form()] = "") -> Response:
    """Look for a better order of the work, beside the pages."""
    jobs.glance(room(request).scope, job_id)
    look_further(room(request), job_id)
    return RedirectResponse(f"/jobs/{job_id}/days?units={units}", 303)


@router.post("/jobs/{job_id}/days/pin", include_in_schema=False)
def pin(
    request: Request, job_id: str, task: Annotated[str, Form()], at: Annotated[str, Form()] = "", units: Annotated[str, Form()] = "", line: Annotated[str, Form()] = ""
) -> Response:  # fmt: skip
    """Begin a task no sooner than a time, or let it go again."""
    now = current(room(request), job_id)
    plan = now.given.plan
    if plan is None or task not in now.given.tasks:
        raise jobs.NotThere(task)
    pins = {k: v for k, v in plan.asked.pins.items() if k in now.given.tasks and k != task}
    try:
        if at:
            pins[task] = _moment(at, now)
            must_follow_marks(now.given.tasks[task], pins[task], now.given.given().marks)
    except BadInput as error:
        return _days(request, now, units, task=task, status=422, error=error.sentence)
    days.ask_days(room(request).scope, job_id, Asked(start=plan.asked.start, rank=plan.asked.rank, pins=pins))
    made = current(room(request), job_id)
    if made.refused:
        days.ask_days(room(request).scope, job_id, plan.asked)
        return _days(request, now, units, task=task, status=422, error=made.refused)
    row = next((p for p in made.made.placed if p.key == task), None) if made.made else None
    on = f"&day={row.begins.date()}" if row else ""
    return RedirectResponse(
        f"/jobs/{job_id}/days?units={units}&task={task}{on}" + (f"&line={line[:3]}" if line else ""), 303
    )


def _moment(text: str, now: Current) -> datetime:
    try:
        at = datetime.fromisoformat(text)
    except ValueError:
        raise BadInput("at", f"Not before: “{text[:30]}” is no day and time; write it like 2026-03-02 7:30") from None
    if at.tzinfo is not None:
        raise BadInput("at", "Not before: give the time by the clocks where the fence is, without a zone")
    if not now.given.asked.start <= at.date() <= now.given.asked.start + timedelta(days=500):
        raise BadInput(
            "at", f"Not before: {at:%-d %B %Y} is outside the plan, which begins on {now.given.asked.start:%-d %B %Y}"
        )
    return at


@router.get("/jobs/{job_id}/days/what-if", include_in_schema=False)
def what_if(request: Request, job_id: str, units: str = "") -> Response:
    """What would be different with other people, other plant, another beginning."""
    now = current(room(request), job_id)
    system = system_of(units, now.given.job)
    head = {**head_of(request, now.stored, system, "days/what-if"), "error": now.refused, "line": line_of(request, now)}
    looks = one_by_one(what_ifs(room(request), now), lambda why: [If("anything else", "", None, why)])
    return flowing(request, "whatif.html", {**head, "looks": looks, "made": now.made, "done": is_done(now)})
