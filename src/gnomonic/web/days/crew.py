"""Crew and plant: who comes on which days, what there is to work with, holidays and days off, the place, own rates."""

import re
from collections.abc import Mapping
from datetime import date, time
from typing import Any, TypeVar

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool

from gnomonic.core.days.book import days_rule, kinds, plant_kinds, skills
from gnomonic.core.days.crew import MOST_PEOPLE, WEEK, Crew, Off, Person, Plant
from gnomonic.core.days.progress import found_rates, usual_minutes
from gnomonic.core.errors import BadInput
from gnomonic.core.job.reading import first_error
from gnomonic.core.record import Record
from gnomonic.store import days
from gnomonic.web.days.current import Current, current, look_further
from gnomonic.web.days.pages import show
from gnomonic.web.haul.costed import system_of
from gnomonic.web.room import room

router = APIRouter()
Kind = TypeVar("Kind", bound=Record)
KINDS = {"own": "of the crew", "helper": "helps now and then", "contractor": "contractor"}
Typed = Mapping[str, str]
Lists = Mapping[str, list[str]]
LENGTHS = {"us": ("10 ft", 3.048), "metric": ("10 m", 10.0)}  # what rates along a line are said for


@router.get("/jobs/{job_id}/crew", include_in_schema=False)
def crew_page(request: Request, job_id: str, units: str = "") -> Response:
    """Who there is and what there is."""
    return _page(request, current(room(request), job_id), units)


def _page(
    request: Request,
    now: Current,
    units: str,
    status: int = 200,
    typed: Typed | None = None,
    ticked: Lists | None = None,
    **more: Any,
) -> Response:
    """The page; after a refusal as it was filled in."""
    scope, crew = room(request).scope, now.given.crew
    usual, found = usual_minutes(now.given.tasks.values(), crew), found_rates(days.telling_ticks(scope))
    system = system_of(units, now.given.job)
    per = {t.kind: t.unit for t in now.given.tasks.values()}
    length, times = LENGTHS[system]
    much = {k: times if per[k] == "m" else 1.0 for k in per}
    rates = [
        {
            "kind": k, "what": kinds()[k].what, "per": length if per[k] == "m" else per[k], "usual": f"{usual[k] * much[k]:.1f}", "own": f"{crew.rates[k] * much[k]:.4g}" if k in crew.rates else "",
            "found": f"{usual[k] * much[k] * found[k][0]:.1f}" if k in found else "", "count": found[k][1] if k in found else 0, "reason": kinds()[k].reason,
            "holds": "own" if k in crew.rates else "found" if k in found and found[k][1] >= days_rule("learned_from") else "usual",
        }
        for k in kinds() if k in usual
    ]  # fmt: skip
    plant = [
        {
            "kind": k,
            "title": kind.title,
            "reason": kind.reason,
            "have": next((p for p in crew.plant if p.kind == k), None),
            "wears": kind.wears,
        }
        for k, kind in plant_kinds().items()
    ]
    return show(
        request, now, system, "crew", "crew.html", status, crew=crew, week=WEEK, kinds=KINDS, skills=skills(), plant=plant, rates=rates, said=now.given.said,
        off="\n".join(off_words(o) for o in crew.off), away={p.id: "; ".join(off_words(o) for o in p.away) for p in crew.people}, mark=days.crew_mark(scope),
        learned_from=round(days_rule("learned_from")), blanks=range(max(0, min(2, MOST_PEOPLE - len(crew.people)))), typed=typed or {}, ticked=ticked,
        saved="saved" in request.query_params, **more,
    )  # fmt: skip


def off_words(off: Off) -> str:
    """Days off as they are typed."""
    days_off = f"{off.first}" if off.first == off.last else f"{off.first} to {off.last}"
    return f"{days_off} {off.why}".strip()


@router.post("/jobs/{job_id}/crew", include_in_schema=False)
async def crew_put(request: Request, job_id: str) -> Response:
    """Say who there is and what there is."""
    form = await request.form(max_fields=3000)
    typed = {k: str(v) for k, v in form.items()}
    lists = {k: [str(v) for v in form.getlist(k)] for k in form}
    return await run_in_threadpool(_put, request, job_id, typed, lists)


def _put(request: Request, job_id: str, typed: dict[str, str], lists: Lists) -> Response:
    scope, units = room(request).scope, typed.get("units", "")
    try:
        now = current(room(request), job_id)
        along = {t.kind: LENGTHS[system_of(units, now.given.job)][1] for t in now.given.tasks.values() if t.unit == "m"}
        made = read_crew(typed, lists, along, now.given.crew.rates)
        days.put_crew(scope, made, typed.get("mark"))
    except BadInput as error:
        return _page(request, current(room(request), job_id), units, 422, typed, lists, error=error.sentence)
    for plan in days.day_plans(scope):
        look_further(room(request), plan.job_id)
    return RedirectResponse(f"/jobs/{job_id}/crew?units={units}&saved=1", 303)


def read_crew(typed: Typed, lists: Lists, along: Mapping[str, float], known: Mapping[str, float]) -> Crew:
    """What the form says; rates of kinds of work ``along`` a line are for so many metres, those it does not ask about stay as they are
    ``known``.  Raises BadInput, naming the field by what it asks."""
    people = []
    for n in range(MOST_PEOPLE):
        name = " ".join(typed.get(f"p{n}_name", "").split())
        if name and not typed.get(f"p{n}_gone"):
            people.append(_person(n, name, typed, lists))
    taken: set[str] = set()
    for k, p in enumerate(people):
        if p.id in taken:
            people[k] = p.model_copy(update={"id": f"{p.id[:20]}-{k}"})
        taken.add(people[k].id)
    plant = []
    for key in plant_kinds():
        count = _whole(typed.get(f"m_{key}", "0") or "0", f"How many {plant_kinds()[key].title}s")
        given = {
            "kind": key,
            "count": count,
            "hired": bool(typed.get(f"m_{key}_hired")),
            "posts_done": _whole(typed.get(f"m_{key}_done", "0") or "0", "Posts done with it"),
        }
        given |= {
            "comes": _day(typed.get(f"m_{key}_comes", ""), "Comes"),
            "goes": _day(typed.get(f"m_{key}_goes", ""), "Goes"),
        }
        if count:
            plant.append(_made(Plant, given, plant_kinds()[key].title))
    rates = {work: minutes for work, minutes in known.items() if f"r_{work}" not in typed}
    for key, kind in kinds().items():
        if own := typed.get(f"r_{key}", "").strip():
            rates[key] = _number(own, f"Own minutes, {kind.what}") / along.get(key, 1.0)
    lat, lon = (
        _number(v, what) if (v := typed.get(key, "").strip()) else None
        for key, what in (("lat", "Latitude"), ("lon", "Longitude"))
    )
    off = [o for line in typed.get("off", "").splitlines() if line.strip() for o in read_offs(line, "Nobody comes")]
    given_all = {
        "people": tuple(people), "plant": tuple(plant), "country": typed.get("country", "").strip().upper(), "region": typed.get("region", "").strip(), "off": tuple(off),
        "rest_from": _time(typed.get("rest_from", "12:00"), "Midday break"), "rest_min": _whole(typed.get("rest_min", "45") or "0", "Midday break"), "lat_deg": lat, "lon_deg": lon,
        "zone": typed.get("zone", "").strip() or "UTC", "rates": rates,
    }  # fmt: skip
    return _made(Crew, given_all, "")


def _person(n: int, name: str, typed: Typed, lists: Lists) -> Person:
    key = typed.get(f"p{n}_id") or re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:24] or f"person-{n}"
    given = {
        "id": key, "name": name, "kind": typed.get(f"p{n}_kind", "own"), "days": tuple(int(d) for d in lists.get(f"p{n}_days", []) if d.isdigit()),
        "begins": _time(typed.get(f"p{n}_begins", "7:30"), f"{name} begins"), "ends": _time(typed.get(f"p{n}_ends", "16:30"), f"{name} stops"),
        "skills": tuple(s for s in lists.get(f"p{n}_skills", []) if s in skills()), "away": tuple(o for part in typed.get(f"p{n}_away", "").split(";") if part.strip() for o in read_offs(part, f"{name} is away")),
        "comes": _day(typed.get(f"p{n}_comes", ""), f"{name} comes"), "goes": _day(typed.get(f"p{n}_goes", ""), f"{name} goes"),
    }  # fmt: skip
    return _made(Person, given, name)


def _made(model: type[Kind], given: dict[str, Any], whose: str) -> Kind:
    try:
        return model.model_validate(given)
    except ValidationError as error:
        bad = first_error(error)
        words = bad.sentence.removeprefix(f"{bad.field}: ")
        raise BadInput(bad.field, f"{whose}: {words}" if whose and whose not in words else words) from None


def read_offs(text: str, whose: str) -> list[Off]:
    """Days off as typed: 2026-07-03 to 2026-07-10 hay.  Raises BadInput."""
    match = re.fullmatch(r"\s*(\d{4}-\d{2}-\d{2})(?:\s*(?:to|–|-)\s*(\d{4}-\d{2}-\d{2}))?\s*(.*?)\s*", text)
    if match is None:
        raise BadInput(
            "off",
            f"{whose}: “{text.strip()[:60]}” can’t be read; write a day, or the first and the last, and why: 2026-07-03 to 2026-07-10 hay",
        )
    first, last, why = match.groups()
    given = {"first": _day(first, whose), "last": _day(last or first, whose), "why": why}
    return [_made(Off, given, whose)]


def _day(text: str, whose: str) -> date | None:
    if not text.strip():
        return None
    try:
        return date.fromisoformat(text.strip())
    except ValueError:
        raise BadInput("day", f"{whose}: “{text[:20]}” is not a day; write it like 2026-07-03") from None


def _time(text: str, whose: str) -> time:
    match = re.fullmatch(r"\s*(\d{1,2})[:.](\d{2})\s*", text)
    if match is None or int(match.group(1)) > 23 or int(match.group(2)) > 59:
        raise BadInput("time", f"{whose}: “{text[:20]}” is not a time; write it like 7:30")
    return time(int(match.group(1)), int(match.group(2)))


def _whole(text: str, whose: str) -> int:
    if not text.strip().isdigit() or len(text) > 9:
        raise BadInput("count", f"{whose}: “{text[:20]}” is not a whole number")
    return int(text)


def _number(text: str, whose: str) -> float:
    try:
        return float(text.replace("−", "-"))
    except ValueError:
        raise BadInput("number", f"{whose}: “{text[:20]}” is not a number") from None
