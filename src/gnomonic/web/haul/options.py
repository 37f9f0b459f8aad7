"""Options: the same line planned another way, with what is different and what it would come to; and each over the years."""

from fractions import Fraction
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import Response

from gnomonic.core.choose.rank import rank
from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.haul.costing import Cost
from gnomonic.core.haul.life import over_years
from gnomonic.core.tell.compare import difference
from gnomonic.core.tell.options import Way, ways
from gnomonic.core.units import System
from gnomonic.store import jobs
from gnomonic.web.haul.costed import Costed, books, costed, system_of
from gnomonic.web.haul.money import page
from gnomonic.web.parts import planned_job
from gnomonic.web.plans import Planned, PlannedJob

router = APIRouter()
BARRIERS = 3


@router.get("/jobs/{job_id}/options", include_in_schema=False)
def options_page(request: Request, job_id: str, line: str = "", units: str = "") -> Response:
    """Ways to build a line side by side."""
    stored = jobs.glance(request.app.state.scope, job_id)
    job = planned_job(request, stored)
    try:
        planned = job.line(line[:3])
    except KeyError:
        raise jobs.NotThere(job_id) from None
    known = books(request, job_id)
    now, system = costed(job, known), system_of(units, job)
    rows = options_of(request, job, planned, now, system)
    terms = known.terms
    context: dict[str, Any] = {
        "lines": [(it.fence.id, it.fence.name) for it in job.all()],
        "line": planned.fence.id,
        "line_name": planned.fence.name,
        "rows": rows,
        "priced": bool(known.sellers),
        "rate": f"{terms.rate * 100:.2f}".rstrip("0").rstrip("."),
        "years": terms.years,
        "asked": planned.fence.hold.years,
    }
    return page(request, "options.html", stored, system, "options", **context)


def options_of(request: Request, job: PlannedJob, planned: Planned, now: Costed, units: System) -> list[dict[str, Any]]:
    """The line as it stands and every other way, each with its sum and how it differs."""
    book = request.app.state.plans.book()
    hung = planned.plan.section
    barriers: list[tuple[str, dict[str, Any]]] = []
    try:
        for candidate in rank(planned.fence, planned.plan, book).meets:
            name = f"{candidate.section.named}, {candidate.section.system.title.lower()}"
            if len(barriers) < BARRIERS and (candidate.section.system.title, candidate.section.label) != (
                hung.system.title,
                hung.label,
            ):
                barriers.append((name, {**candidate.edit, "line": planned.fence.id}))
    except BadInput:
        barriers = []
    rows = [_row("as it is planned", "", "", planned.fence.id, planned, now, now, False)]
    for way in ways(planned.fence, planned.plan, barriers):
        try:
            other = _planned(request, job, way)
        except BadInput as error:
            rows.append(
                {"title": way.title.text(units), "refused": error.sentence, "change": "", "but": way.but.text(units)}
            )
            continue
        made = costed(other, now.books)
        line = other.line(planned.fence.id)
        change = difference([(planned.fence, planned.plan)], [(line.fence, line.plan)])
        words = change.text(units) if change else "the plan of the line stays as it is: nothing on it hangs on this"
        rows.append(
            _row(way.title.text(units), words, way.but.text(units), planned.fence.id, line, made, now, way.second_hand)
        )
    return rows


def _planned(request: Request, job: PlannedJob, way: Way) -> PlannedJob:
    """The job with a way taken, planned beside the one that stands."""
    after = job.job
    for edit in way.edits:
        after = apply(after, read_edit(edit), request.app.state.plans.book())
    made: PlannedJob = request.app.state.plans.after("", job, after)
    return made


def _row(
    title: str, change: str, but: str, line_id: str, line: Planned, made: Costed, now: Costed, second_hand: bool
) -> dict[str, Any]:
    """One way: the line's net sum, the whole job's against now, and what the line costs over the years."""
    own, all_now = made.cost.by_line().get(line_id, 0), now.cost.net
    terms = now.books.terms
    life = line.plan.section.life_years
    years = over_years(own, life, terms.years, float(terms.rate))
    more = made.cost.net - all_now
    return {
        "title": title,
        "change": change,
        "but": but,
        "refused": "",
        "own": now.money(own),
        "more": ("+" if more > 0 else "") + now.money(more) if title != "as it is planned" else "",
        "less": more < 0,
        "more_cents": more,
        "hours": f"{_hours(made.cost, line_id):.0f} h",
        "life": f"{life:g}",
        "bought": ", ".join(f"{y:g}" for y in years.bought_in if y),
        "yearly": now.money(round(years.yearly)),
        "present": now.money(round(years.present)),
        "missing": made.cost.missing,
        "stock": _from_stock(made) if second_hand else "",
    }


def _hours(cost: Cost, line_id: str) -> float:
    """Hours on a line, by its part of what each step is charged; all of them where nothing is charged."""
    total = 0.0
    for charge in cost.charges:
        if charge.what == "labour" and charge.cents:
            total += charge.amount * float(Fraction(charge.lines.get(line_id, 0), charge.cents))
    return total


def _from_stock(made: Costed) -> str:
    """How many posts that lie there are used for it."""
    used = sum(
        n
        for key, n in made.supply.used.items()
        for row in made.books.rows
        if row.held.id == key and row.held.item.startswith("post.")
    )
    return (
        f"{float(used):.0f} posts on hand are used" if used else "no post that fits lies there: all of them are bought"
    )
