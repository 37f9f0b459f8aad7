"""Options: the same line planned another way, with what is different and what it would come to; and each over the years."""

import contextlib
from collections.abc import Iterator, Mapping, Sequence
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from gnomonic.core.choose.rank import rank
from gnomonic.core.demand.demand import demand_of
from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.errors import Away, BadInput
from gnomonic.core.haul.costing import rehung
from gnomonic.core.haul.life import over_years, yearly
from gnomonic.core.haul.prices import Seller
from gnomonic.core.haul.wares import ware_of
from gnomonic.core.haul.work import minutes_of
from gnomonic.core.limits import MOST_OFFERS
from gnomonic.core.snags.hold import verdicts_of
from gnomonic.core.tell.compare import difference
from gnomonic.core.tell.options import Way, ways
from gnomonic.core.units import System
from gnomonic.store import hauling, jobs
from gnomonic.store.jobs import Stored
from gnomonic.web.flowing import flowing, one_by_one
from gnomonic.web.haul.costed import Costed, books, costed, costed_of, needs_of, system_of
from gnomonic.web.haul.pages import head_of
from gnomonic.web.haul.selling import suppliers_page
from gnomonic.web.parts import planned_job
from gnomonic.web.plans import Planned, PlannedJob, Plans
from gnomonic.web.room import room

router = APIRouter()
BARRIERS = 3
KEPT = 32
MOST_YEARS = 3  # that are named one by one


@router.get("/jobs/{job_id}/options", include_in_schema=False)
def options_page(request: Request, job_id: str, line: str = "", units: str = "") -> Response:
    """Ways to build a line side by side."""
    stored, now = costed_of(request, job_id)
    job = now.job
    try:
        planned = job.line(line[:3])
    except KeyError:
        raise jobs.NotThere(job_id) from None
    system, terms = system_of(units, job), now.books.terms
    rows = one_by_one(_once_made(request, stored, job, planned, now, system), _stopped)
    context: dict[str, Any] = {
        "lines": [(it.fence.id, it.fence.name) for it in job.all()],
        "line": planned.fence.id,
        "line_name": planned.fence.name,
        "rows": rows,
        "priced": bool(now.books.sellers),
        "rate": f"{terms.rate * 100:.2f}".rstrip("0").rstrip("."),
        "years": terms.years,
        "asked": planned.fence.hold.years,
    }
    return flowing(request, "options.html", {**head_of(request, stored, system, "options"), **context})


def _stopped(why: str) -> dict[str, Any]:
    return {"title": "and the other ways", "refused": why, "change": "", "but": ""}


def _once_made(
    request: Request, stored: Stored, job: PlannedJob, planned: Planned, now: Costed, units: System
) -> Iterator[dict[str, Any]]:
    """Options of a line as they are made, once for a job as it stands and books as they are."""
    plans, kept = room(request).plans, room(request).options
    key = (stored.job_id, plans.key(stored.key + stored.names), planned.fence.id, units, now.books.mark)

    def made() -> Iterator[dict[str, Any]]:
        rows = []
        for row in options_of(plans, stored.job_id, job, planned, now, units):
            rows.append(row)
            yield row
        kept[key] = rows
        while len(kept) > KEPT:
            kept.popitem(last=False)

    return iter(kept[key]) if key in kept else made()


def options_of(
    plans: Plans, job_id: str, job: PlannedJob, planned: Planned, now: Costed, units: System
) -> Iterator[dict[str, Any]]:
    """The line as it stands and every other way, each with its sum and how it differs, as they are made."""
    yield _row("as it is planned", "", "", planned, now, now)
    for way in _ways(plans, planned):
        try:
            other = _planned(plans, job_id, job, way)
        except BadInput as error:
            yield {"title": way.title.text(units), "refused": error.sentence, "change": "", "but": way.but.text(units)}
            continue
        made = costed(other, now.books)
        line = other.line(planned.fence.id)
        change = difference([(planned.fence, planned.plan)], [(line.fence, line.plan)])
        words = change.text(units) if change else "the plan of the line stays as it is: nothing on it hangs on this"
        title, but = way.title.text(units), way.but.text(units)
        row = _row(title, words, but, line, made, now, second_hand=way.second_hand)
        yield row | {"misses": _misses(plans, line, planned, units)}


def _ways(plans: Plans, planned: Planned) -> list[Way]:
    """Ways for a line, among them the barriers that meet its demands best."""
    hung, barriers = planned.plan.section, list[tuple[str, dict[str, Any]]]()
    with contextlib.suppress(BadInput):  # demands that contradict each other have no ranking
        for found in rank(planned.fence, planned.plan, plans.book()).meets:
            of = found.section
            if (of.system.title, of.label) != (hung.system.title, hung.label):
                barriers.append((f"{of.named}, {of.system.title.lower()}", {**found.edit, "line": planned.fence.id}))
    return ways(planned.fence, planned.plan, barriers[:BARRIERS])


def _planned(plans: Plans, job_id: str, job: PlannedJob, way: Way) -> PlannedJob:
    """The job with a way taken, planned beside the one that stands."""
    after = job.job
    for edit in way.edits:
        after = apply(after, read_edit(edit), plans.book())
    return plans.after(job_id, job, after)


@router.post("/jobs/{job_id}/suppliers/ask", include_in_schema=False)
def ask_prices(request: Request, job_id: str, line: Annotated[str, Form()] = "") -> Response:
    """Ask every supplier on line for what the job needs, and for what other ways to build a ``line`` would; where one is away its
    last prices stay."""
    scope, desk = room(request).scope, room(request).suppliers
    job = planned_job(request, jobs.glance(scope, job_id))
    known = books(request, job_id)
    needs = needs_of(job)
    if line in job.plan.lines:
        for way in _ways(room(request).plans, job.line(line)):
            with contextlib.suppress(BadInput):
                needs += needs_of(_planned(room(request).plans, job_id, job, way))
    keys = {ware_of(n.need).key: None for n in needs}
    try:
        found = [desk.prices(name, list(keys)) for name in desk.names()]
        hauling.put_sellers(scope, [_kept(s, known.everyone, keys) for s in found])
    except (Away, BadInput) as error:
        kept = "; the last prices are kept, each with its day" if known.everyone else ""
        status = 503 if isinstance(error, Away) else 422
        return suppliers_page(request, job_id, "", status, error.sentence + kept)
    return RedirectResponse(f"/jobs/{job_id}/options?line={line}" if line else f"/jobs/{job_id}/suppliers", 303)


def _kept(seller: Seller, before: list[Seller], asked: Mapping[str, None]) -> Seller:
    """A supplier's prices of today, with those it gave today already for what was not asked again."""
    same = (s for s in before if (s.name, s.dated, s.currency) == (seller.name, seller.dated, seller.currency))
    old = next(same, None)
    more = [p for p in old.prices if p.item not in asked] if old else []
    return seller.model_copy(update={"prices": (*seller.prices, *more)[:MOST_OFFERS]})


def _row(
    title: str, change: str, but: str, line: Planned, made: Costed, now: Costed, *, second_hand: bool = False
) -> dict[str, Any]:
    """One way: the line's net sum, the whole job's against now, and what the line costs over the years.

    Where something of it has no price that has one now, or is new, it has no sum: one that is short would look cheap.
    """
    own, terms = made.cost.by_line().get(line.fence.id, 0), now.books.terms
    life = line.plan.section.life_years
    again = rehung(made.cost, line.fence.id)
    years = over_years(again, life, terms.years, float(terms.rate))
    present = years.present + own - again
    more = made.cost.net - now.cost.net
    return {
        "title": title,
        "change": change,
        "but": but,
        "refused": "",
        "short": made.cost.missing if made.cost.missing and made is not now else 0,
        "own": now.money(own),
        "more": "" if made is now else "the same" if not more else ("+" if more > 0 else "") + now.money(more),
        "less": more < 0,
        "more_cents": more,
        "hours": f"{sum(minutes_of(line.plan).values()) / 60:.0f} h",
        "life": f"{life:g}",
        "bought": _again(years.bought_in[1:], life),
        "yearly": now.money(round(yearly(present, float(terms.rate), terms.years))),
        "stock": _from_stock(made) if second_hand else "",
    }


def _again(years: Sequence[float], life: float) -> str:
    """The years in which it is hung again."""
    if len(years) > MOST_YEARS:
        return "every year" if life == 1 else f"every {life:g} years"
    return ", ".join(f"{y:g}" for y in years)


def _misses(plans: Plans, line: Planned, now: Planned, units: System) -> list[str]:
    """Demands a way does not meet that the line as it is planned does."""
    with contextlib.suppress(BadInput):  # demands that contradict each other are met by nothing
        demand = demand_of(now.fence.hold, plans.book())
        met = {v.key for v in verdicts_of(now.fence, now.plan, demand) if v.ok}
        found = [v for v in verdicts_of(line.fence, line.plan, demand) if not v.ok and v.key in met]
        return [f"{v.title.lower()}: {v.given.text(units)}, where {v.wanted.text(units)} is asked for" for v in found]
    return []


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
