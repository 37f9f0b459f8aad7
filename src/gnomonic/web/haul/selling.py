"""Who sells what: price lists in and out, and from whom it is bought."""

from datetime import date
from typing import Annotated, Any

from fastapi import APIRouter, File, Request, UploadFile
from fastapi.responses import RedirectResponse, Response
from starlette.concurrency import run_in_threadpool

from gnomonic.core.errors import BadInput
from gnomonic.core.haul.buying import alone
from gnomonic.core.haul.money import show
from gnomonic.core.haul.supply import substitutes
from gnomonic.core.haul.wares import across_mm, ware, ware_of
from gnomonic.core.limits import MOST_CATALOG_BYTES
from gnomonic.core.units import System, format_quantity
from gnomonic.formats.price_csv import read_prices, write_prices
from gnomonic.store import hauling
from gnomonic.store.jobs import Stored
from gnomonic.web.haul.costed import Costed, costed_of, system_of
from gnomonic.web.haul.pages import called, counted, page, words_of
from gnomonic.web.parts import file_out
from gnomonic.web.problems import a_file
from gnomonic.web.room import room

router = APIRouter()


@router.get("/jobs/{job_id}/suppliers", include_in_schema=False)
def suppliers(request: Request, job_id: str, units: str = "") -> Response:
    """Who sells what this job needs, and from whom it is bought."""
    return suppliers_page(request, job_id, units)


def suppliers_page(request: Request, job_id: str, units: str, status: int = 200, error: str = "") -> Response:
    """The page of suppliers, and what went wrong with what was asked of it."""
    stored, job = costed_of(request, job_id)
    return _suppliers(request, stored, job, system_of(units, job.job), status, error=error)


def _suppliers(
    request: Request, stored: Stored, job: Costed, units: System, status: int = 200, **more: Any
) -> Response:
    words, made, today = words_of(job, units), job.supply, date.today()
    wanted = {key: qty for key, qty in made.short.items() if key not in made.unpriced}
    singles = []
    for seller in job.books.sellers:
        one, missing = alone(wanted, seller.sells(wanted)) if wanted else (None, [])
        singles.append((seller.name, one, [called(k, words, units) for k in missing]))
    least = min((one.total for _, one, _ in singles if one), default=None)
    context = {
        "sellers": [
            {
                "name": s.name, "dated": s.dated.isoformat(), "until": s.valid_until.isoformat() if s.valid_until else "", "old": s.old(today),
                "delivery": show(s.delivery, s.currency), "least": show(s.least_order, s.currency) if s.least_order else "", "lead": s.lead_days,
                "offers": sum(p.item in made.short for p in s.prices), "of": len(made.short), "currency": s.currency, "other": s.currency != job.books.terms.currency,
            }
            for s in job.books.everyone
        ],
        "orders": [
            {
                "name": order.supplier.name,
                "lines": [
                    {"what": called(b.offer.item, words, units), "packs": b.packs, "pack": counted(b.offer.item, b.offer.pack, units), "units": counted(b.offer.item, b.units, units),
                     "over": counted(b.offer.item, over, units) if (over := made.units(b.offer.item) - made.short.get(b.offer.item, 0)) > 0 else "", "each": job.money(b.offer.price), "price": job.money(b.price)}
                    for b in order.lines
                ],
                "goods": job.money(order.goods), "delivery": job.money(order.supplier.delivery), "total": job.money(order.goods + order.supplier.delivery),
            }
            for order in made.buying.orders
        ],
        "total": job.money(made.buying.total), "proven": made.buying.proven, "bound": job.money(made.buying.bound), "refused": made.refused,
        "singles": [(name, job.money(one.total) if one else "", missing) for name, one, missing in singles],
        "saves": job.money(least - made.buying.total) if least is not None and least > made.buying.total else "",
        "unpriced": [(called(k, words, units), counted(k, made.short[k], units)) for k in made.unpriced],
        "instead": [
            {"take": called(s.key, words, units), "of": called(s.instead_of, words, units), "saves": job.money(int(s.saves)) if s.saves is not None and s.saves > 0 else "", "dearer": job.money(-int(s.saves)) if s.saves is not None and s.saves < 0 else "", "hand": counted(s.key, s.on_hand, units) if s.on_hand else "", "thick": (across(s.instead_of, units), across(s.key, units))}
            for s in substitutes(made, job.books.lots, job.books.sellers)
        ],
        "practice": room(request).suppliers.is_practice,
        "currency": job.books.terms.currency,
    }  # fmt: skip
    return page(request, "suppliers.html", stored, units, "suppliers", status, **(context | more))


def across(key: str, units: System) -> str:
    """How thick a ware is."""
    return format_quantity(across_mm(ware(key).family) / 1000, "gap", units)


@router.post("/jobs/{job_id}/suppliers", include_in_schema=False)
async def bring_prices(request: Request, job_id: str, file: Annotated[UploadFile, File()]) -> Response:
    """Prices from CSV: all of the file, or none of it."""
    body = await file.read(MOST_CATALOG_BYTES + 1)
    return await run_in_threadpool(_bring_prices, request, job_id, body)


def _bring_prices(request: Request, job_id: str, body: bytes) -> Response:
    try:
        if len(body) > MOST_CATALOG_BYTES:
            raise BadInput("file", "the file is larger than 2 MB: a price list is a table of offers")
        hauling.put_sellers(room(request).scope, read_prices(body, date.today()))
    except BadInput as error:
        stored, job = costed_of(request, job_id)
        return _suppliers(
            request,
            stored,
            job,
            system_of("", job.job),
            422,
            error=f"{error.sentence}. Nothing of the file was taken in",
        )
    return RedirectResponse(f"/jobs/{job_id}/suppliers", 303)


@router.get("/jobs/{job_id}/prices.csv", **a_file("text/csv"))
def prices_out(request: Request, job_id: str, units: str = "") -> Response:
    """The price list of a job, to be filled in: what is known, and a row for what nobody sells."""
    stored, job = costed_of(request, job_id)
    system = system_of(units, job.job)
    wanted = [
        (key, called(key, words_of(job, system), system))
        for key in dict.fromkeys(ware_of(w.both.need).key for w in job.supply.wanted)
    ]
    body = write_prices(job.books.sellers, wanted, job.books.terms.currency)
    return file_out(body, "text/csv; charset=utf-8", stored.name, "-prices.csv")


@router.post("/jobs/{job_id}/suppliers/forget", include_in_schema=False)
async def seller_forget(request: Request, job_id: str) -> Response:
    """Forget a supplier."""
    form = await request.form()
    await run_in_threadpool(hauling.drop_seller, room(request).scope, str(form.get("name", "")))
    return RedirectResponse(f"/jobs/{job_id}/suppliers", 303)
