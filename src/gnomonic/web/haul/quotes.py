"""Quotes, change orders and what is due: made from the plan, frozen, taken out as PDF and XLSX."""

from collections.abc import Sequence
from datetime import date
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from gnomonic.core.errors import BadInput
from gnomonic.core.haul.money import percent, show
from gnomonic.core.job.reading import first_error
from gnomonic.core.tell.money import charge_words
from gnomonic.core.units import System
from gnomonic.formats.paper import pdf
from gnomonic.formats.workbook import quote_xlsx
from gnomonic.store import hauling, jobs
from gnomonic.store.hauling import StoredQuote
from gnomonic.store.jobs import NotThere, Stored
from gnomonic.web.haul.costed import Costed, costed_of, old_prices, system_of
from gnomonic.web.haul.pages import page
from gnomonic.web.haul.quoted import baseline, change_of, changed_since, due_now, must_be_priced, quote_of
from gnomonic.web.parts import file_out
from gnomonic.web.problems import a_file
from gnomonic.web.room import room

router = APIRouter()
KINDS = ("quote", "change")


@router.get("/jobs/{job_id}/quotes", include_in_schema=False)
def quotes_page(request: Request, job_id: str, units: str = "") -> Response:
    """Every quote and change order of the job, what stands, and what is due."""
    stored, job = costed_of(request, job_id)
    return _quotes(request, stored, job, system_of(units, job.job))


def _quotes(request: Request, stored: Stored, job: Costed, units: System, status: int = 200, **more: Any) -> Response:
    rows = hauling.quotes(room(request).scope, stored.job_id)
    base = baseline(rows)
    context = {
        "rows": [_listed(row, rows) for row in rows],
        "base": base.quote.called if base else "",
        "changed": changed_since(job, rows, units) if base else None,
        "missing": [charge_words(c).text(units) for c in job.cost.charges if c.cents is None],
        "warnings": old_prices(job.books.sellers, date.today()),
        "total": job.money(job.cost.total),
        "due": due_now(rows),
        "lines": [(it.fence.id, it.fence.name) for it in job.job.all()],
    }
    return page(request, "quotes.html", stored, units, "quotes", status, **(context | more))


def _listed(row: StoredQuote, rows: Sequence[StoredQuote]) -> dict[str, Any]:
    q = row.quote
    last = max(r.quote.revision for r in rows if (r.quote.kind, r.quote.number) == (q.kind, q.number))
    closed = row.accepted_on is not None
    return {
        "called": q.called, "kind": q.kind, "number": q.number, "revision": q.revision, "made": q.made_on.isoformat(), "until": q.valid_until.isoformat(),
        "customer": q.customer, "total": show(q.total, q.currency), "accepted": row.accepted_on.isoformat() if row.accepted_on else "", "by": row.accepted_by,
        "open": not closed and q.revision == last, "over": not closed and date.today() > q.valid_until, "older": q.revision < last, "last": q.revision == last,
    }  # fmt: skip


@router.post("/jobs/{job_id}/quotes", include_in_schema=False)
def make_quote(
    request: Request,
    job_id: str,
    customer: Annotated[str, Form()] = "",
    kind: Annotated[str, Form()] = "quote",
    revises: Annotated[int, Form()] = 0,
    option_line: Annotated[str, Form()] = "",
    units: Annotated[str, Form()] = "",
    seen: Annotated[int | None, Form()] = None,
) -> Response:
    """Make a quote from the job as it stands, the next revision of one, or a change order against the one that was accepted."""
    stored, job = costed_of(request, job_id)
    system = system_of(units, job.job)
    try:
        must_be_priced(job, system)
        if kind not in KINDS:
            raise BadInput("kind", "kind: a quote or a change")
        if kind == "quote":
            made = quote_of(room(request).plans, job_id, job, system, customer.strip(), stored.version, option_line)
        else:
            rows = hauling.quotes(room(request).scope, job_id)
            made = change_of(job, system, rows, customer.strip(), stored.version)
        kept = hauling.add_quote(room(request).scope, job_id, made, revises, seen)
    except hauling.QuotedMeanwhile:
        return RedirectResponse(f"/jobs/{job_id}/quotes", 303)
    except ValidationError as error:
        return _quotes(
            request, stored, job, system, 422, error=first_error(error).sentence, typed={"customer": customer}
        )
    except BadInput as error:
        return _quotes(request, stored, job, system, 422, error=error.sentence, typed={"customer": customer})
    return RedirectResponse(f"/jobs/{job_id}/quotes/{kept.kind}/{kept.number}/{kept.revision}", 303)


@router.post("/jobs/{job_id}/quotes/{kind}/{number}/{revision}/accept", include_in_schema=False)
def accept(
    request: Request, job_id: str, kind: str, number: int, revision: int, by: Annotated[str, Form()] = ""
) -> Response:
    """Say that a quote was accepted, and by whom."""
    try:
        if not by.strip():
            raise BadInput("by", "Accepted by: say who accepted it")
        hauling.accept(room(request).scope, kind, number, revision, by.strip()[:120], date.today())
    except BadInput as error:
        stored, job = costed_of(request, job_id)
        return _quotes(request, stored, job, system_of("", job.job), 422, error=error.sentence)
    return RedirectResponse(f"/jobs/{job_id}/quotes", 303)


def _paper(request: Request, job_id: str, kind: str, number: int, revision: int) -> tuple[StoredQuote, dict[str, Any]]:
    row = hauling.quote(room(request).scope, kind, number, revision)
    if row.job_id != job_id:
        raise NotThere(job_id)
    q = row.quote

    def money(cents: int) -> str:
        return show(cents, q.currency)

    context = {
        "job_id": job_id, "q": q, "row": row, "money": money, "tax": percent(q.tax_share), "due": [(d.text, percent(d.share), money(d.cents)) for d in q.due],
        "options": [(o.title, o.change, ("+" if o.cents > 0 else "") + money(o.cents)) for o in q.options],
    }  # fmt: skip
    return row, context


@router.get("/jobs/{job_id}/quotes/{kind}/{number}/{revision}", include_in_schema=False)
def quote_page(request: Request, job_id: str, kind: str, number: int, revision: int) -> Response:
    """A quote as it went out."""
    _, context = _paper(request, job_id, kind, number, revision)
    return request.app.state.templates.TemplateResponse(request, "quote.html", context)  # type: ignore[no-any-return]


@router.get("/jobs/{job_id}/quotes/{kind}/{number}/{revision}/job.json", **a_file("application/json"))
def quoted_job(request: Request, job_id: str, kind: str, number: int, revision: int) -> Response:
    """The Job as it was when the quote was made, exactly as saved then."""
    row, _ = _paper(request, job_id, kind, number, revision)
    body = jobs.document(room(request).scope, row.quote.version).encode()
    return file_out(body, "application/json", row.quote.job, f"-{row.quote.called.replace(' ', '-')}-job.json")


@router.get("/jobs/{job_id}/quotes/{kind}/{number}/{revision}/quote.pdf", **a_file("application/pdf"))
def quote_pdf(request: Request, job_id: str, kind: str, number: int, revision: int) -> Response:
    """The same on paper."""
    row, context = _paper(request, job_id, kind, number, revision)
    html = request.app.state.templates.get_template("quote_paper.html").render(context)
    return file_out(pdf(html), "application/pdf", row.quote.job, f"-{row.quote.called.replace(' ', '-')}.pdf")


@router.get(
    "/jobs/{job_id}/quotes/{kind}/{number}/{revision}/quote.xlsx",
    **a_file("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"),
)
def quote_sheet(request: Request, job_id: str, kind: str, number: int, revision: int) -> Response:
    """The same as a workbook that reckons."""
    row, _ = _paper(request, job_id, kind, number, revision)
    media = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    return file_out(quote_xlsx(row.quote), media, row.quote.job, f"-{row.quote.called.replace(' ', '-')}.xlsx")
