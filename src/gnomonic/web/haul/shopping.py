"""The shopping list: what to ask for at which counter, ticked off on the phone without a signal, and taken along as PDF or XLSX."""

from collections.abc import Sequence
from datetime import datetime
from decimal import Decimal
from pathlib import Path
from typing import Annotated, Any

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse, JSONResponse, Response
from pydantic import AwareDatetime, Field

from gnomonic.core.haul.held import Words
from gnomonic.core.haul.money import amount
from gnomonic.core.haul.takeoff import UNIT_KINDS
from gnomonic.core.haul.wares import KEY, unit_of
from gnomonic.core.record import Record
from gnomonic.core.tell.needs import group_of, named
from gnomonic.core.units import System, format_quantity
from gnomonic.formats.paper import pdf
from gnomonic.formats.workbook import Row, list_xlsx
from gnomonic.store import hauling
from gnomonic.web.door.known import sees_money
from gnomonic.web.haul.costed import Costed, costed_of, system_of
from gnomonic.web.haul.pages import called, counted, page, words_of
from gnomonic.web.parts import file_out
from gnomonic.web.problems import a_file
from gnomonic.web.room import room

router = APIRouter()
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


class Tick(Record):
    """What was got of a line of the list (empty: not yet), how much was asked for, and when that was said.

    A line is a ware's key after its counter: the same thing may be on hand, and sold by two.
    """

    item: Annotated[str, Field(pattern=r"^[^\x00-\x1f:]{1,60}:" + KEY.removeprefix("^"))]
    got: Words = ""
    much: Words = ""
    at: AwareDatetime


class Ticks(Record):
    """Ticks made since the list was last in touch."""

    ticks: Annotated[tuple[Tick, ...], Field(max_length=500)]


def counters(job: Costed, units: System, prices: bool = True) -> list[dict[str, Any]]:
    """What to ask for, by supplier, with or without its prices; what lies there first, what nobody is known to sell last."""
    words, found = words_of(job, units), []
    here = [
        {"item": row.held.item, "what": called(row.held.item, words, units), "much": counted(row.held.item, n, units), "where": row.held.where}
        for row in job.books.rows
        if (n := job.supply.used.get(row.held.id))
    ]  # fmt: skip
    if here:
        found.append({"name": "On hand", "lines": here, "total": ""})
    for order in job.supply.buying.orders:
        lines = []
        for b in order.lines:
            whole = b.offer.pack == 1 and not unit_of(b.offer.item)
            much = f"{b.packs}" if whole else f"{b.packs} × {counted(b.offer.item, b.offer.pack, units)}"
            lines.append(
                {
                    "item": b.offer.item,
                    "what": called(b.offer.item, words, units),
                    "much": much,
                    "where": job.money(b.price) if prices else "",
                }
            )
        found.append({"name": order.supplier.name, "lines": lines, "total": job.money(order.goods) if prices else ""})
    none = [
        {"item": k, "what": called(k, words, units), "much": counted(k, job.supply.short[k], units), "where": ""}
        for k in job.supply.unpriced
    ]
    if none:
        found.append({"name": "Nobody is known to sell this", "lines": none, "total": ""})
    return found


def ticked(rows: Sequence[hauling.Ticked]) -> dict[str, dict[str, str]]:
    """Ticks as the page keeps them."""
    return {row.item: {"got": row.got, "much": row.much, "at": row.at.isoformat()} for row in rows}


@router.get("/jobs/{job_id}/shopping", include_in_schema=False)
def shopping_page(request: Request, job_id: str, units: str = "") -> Response:
    """The list, for the phone."""
    stored, job = costed_of(request, job_id)
    system = system_of(units, job.job)
    ticks = ticked(hauling.ticks(room(request).scope, job_id))
    made = counters(job, system, sees_money(request))
    return page(
        request,
        "shopping.html",
        stored,
        system,
        "shopping",
        counters=made,
        ticks=ticks,
        refused=job.supply.refused,
    )


@router.post("/api/v1/jobs/{job_id}/shopping")
def take_ticks(request: Request, job_id: str, given: Ticks) -> Response:
    """Take ticks in, in any order and however often: the later one of an item stands.  Answers with all of them."""
    scope = room(request).scope
    hauling.tick(scope, job_id, [hauling.Ticked(t.item, t.got, t.much, t.at) for t in given.ticks])
    return JSONResponse({"ticks": ticked(hauling.ticks(scope, job_id))})


@router.get("/shopping-worker.js", include_in_schema=False)
def worker() -> Response:
    """What keeps the shopping list on the phone; served from the root, so that it may answer for the list's pages."""
    return FileResponse(
        Path(__file__).parent / "shopping-worker.js",
        media_type="text/javascript",
        headers={"Cache-Control": "no-cache"},
    )


def _rows(job: Costed, units: System) -> list[Row]:
    words = words_of(job, units)
    return [
        Row(order.supplier.name, called(b.offer.item, words, units), b.packs, counted(b.offer.item, b.offer.pack, units), amount(b.offer.price, job.books.terms.currency))
        for order in job.supply.buying.orders
        for b in order.lines
    ] + [Row("nobody is known to sell this", called(k, words, units), float(job.supply.short[k]), "", None) for k in job.supply.unpriced]  # fmt: skip


@router.get("/jobs/{job_id}/shopping.xlsx", **a_file(XLSX))
def shopping_xlsx(request: Request, job_id: str, units: str = "") -> Response:
    """The list as a workbook."""
    stored, job = costed_of(request, job_id)
    currency = job.books.terms.currency
    more: Sequence[tuple[str, Decimal]] = [
        (f"delivery, {o.supplier.name}", amount(o.supplier.delivery, currency)) for o in job.supply.buying.orders
    ]
    body = list_xlsx(f"{stored.name}: shopping list", _rows(job, system_of(units, job.job)), currency, more)
    return file_out(body, XLSX, stored.name, "-shopping.xlsx")


@router.get("/jobs/{job_id}/shopping.pdf", **a_file("application/pdf"))
def shopping_pdf(request: Request, job_id: str, units: str = "") -> Response:
    """The list on paper."""
    stored, job = costed_of(request, job_id)
    context = {
        "title": "Shopping list",
        "name": stored.name,
        "counters": counters(job, system_of(units, job.job)),
        "total": job.money(job.supply.buying.total),
        "day": datetime.now().date().isoformat(),
    }
    html = request.app.state.templates.get_template("list_paper.html").render(context)
    return file_out(pdf(html), "application/pdf", stored.name, "-shopping.pdf")


def _needed(job: Costed, units: System) -> list[tuple[str, str, str, Any]]:
    return [
        (group_of(n.need), named(n.need).text(units), format_quantity(n.count, UNIT_KINDS[n.need.unit], units), n)
        for n in job.needs
    ]


@router.get("/jobs/{job_id}/take-off.xlsx", **a_file(XLSX))
def take_off_xlsx(request: Request, job_id: str, units: str = "") -> Response:
    """The take-off of all lines as a workbook, in SI where it is measured."""
    stored, job = costed_of(request, job_id)
    rows = [
        Row(group, what, round(n.count, 3), {"": "pieces", "m": "m", "m3": "m³"}[n.need.unit])
        for group, what, _, n in _needed(job, system_of(units, job.job))
    ]
    return file_out(
        list_xlsx(f"{stored.name}: take-off", rows, job.books.terms.currency), XLSX, stored.name, "-take-off.xlsx"
    )


@router.get("/jobs/{job_id}/take-off.pdf", **a_file("application/pdf"))
def take_off_pdf(request: Request, job_id: str, units: str = "") -> Response:
    """The take-off of all lines on paper."""
    stored, job = costed_of(request, job_id)
    groups: dict[str, list[dict[str, str]]] = {}
    for group, what, much, _ in _needed(job, system_of(units, job.job)):
        groups.setdefault(group, []).append({"what": what, "much": much, "where": ""})
    made = [{"name": group, "lines": lines, "total": ""} for group, lines in groups.items()]
    context = {
        "title": "Take-off of all lines",
        "name": stored.name,
        "counters": made,
        "total": "",
        "day": datetime.now().date().isoformat(),
    }
    html = request.app.state.templates.get_template("list_paper.html").render(context)
    return file_out(pdf(html), "application/pdf", stored.name, "-take-off.pdf")
