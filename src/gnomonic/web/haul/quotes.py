"""Quotes, change orders and what is due: made from the plan, frozen, taken out as PDF and XLSX."""

from collections.abc import Sequence
from datetime import date, timedelta
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from gnomonic.core.errors import BadInput
from gnomonic.core.haul.costing import Cost
from gnomonic.core.haul.money import percent, show
from gnomonic.core.haul.quoting import Option, Quote, QuoteLine, Sold, changes, dues, key_of, sold_of, taxed
from gnomonic.core.job.reading import first_error
from gnomonic.core.tell.money import charge_words, scope_of
from gnomonic.core.units import System, format_quantity
from gnomonic.formats.paper import pdf
from gnomonic.formats.workbook import quote_xlsx
from gnomonic.store import hauling
from gnomonic.store.hauling import StoredQuote
from gnomonic.store.jobs import NotThere
from gnomonic.web.haul.costed import Costed, costed_of, old_prices, system_of
from gnomonic.web.haul.money import page
from gnomonic.web.haul.options import options_of
from gnomonic.web.parts import file_out
from gnomonic.web.problems import a_file

router = APIRouter()
KINDS = ("quote", "change")
LABOUR = "h"


@router.get("/jobs/{job_id}/quotes", include_in_schema=False)
def quotes_page(request: Request, job_id: str, units: str = "") -> Response:
    """Every quote and change order of the job, what stands, and what is due."""
    stored, job = costed_of(request, job_id)
    return _quotes(request, stored.job_id, job, system_of(units, job.job))


def _quotes(request: Request, job_id: str, job: Costed, units: System, status: int = 200, **more: Any) -> Response:
    stored, _ = costed_of(request, job_id)
    rows = hauling.quotes(request.app.state.scope, job_id)
    base = baseline(rows)
    context = {
        "rows": [_listed(row, rows) for row in rows],
        "base": base.quote.called if base else "",
        "base_number": base.quote.number if base else 0,
        "changed": _changed(job, rows, units) if base else None,
        "missing": [charge_words(c).text(units) for c in job.cost.charges if c.cents is None],
        "warnings": old_prices(job.books.sellers, date.today()),
        "net": job.money(job.cost.net),
        "total": job.money(job.cost.total),
        "due": _due(rows),
        "lines": [(it.fence.id, it.fence.name) for it in job.job.all()],
        "today": date.today().isoformat(),
    }
    return page(request, "quotes.html", stored, units, "quotes", status, **(context | more))


def _listed(row: StoredQuote, rows: Sequence[StoredQuote]) -> dict[str, Any]:
    q = row.quote
    last = max(r.quote.revision for r in rows if (r.quote.kind, r.quote.number) == (q.kind, q.number))
    closed = any(r.accepted_on for r in rows if (r.quote.kind, r.quote.number) == (q.kind, q.number))
    return {
        "called": q.called, "kind": q.kind, "number": q.number, "revision": q.revision, "made": q.made_on.isoformat(), "until": q.valid_until.isoformat(),
        "customer": q.customer, "total": show(q.total, q.currency), "accepted": row.accepted_on.isoformat() if row.accepted_on else "", "by": row.accepted_by,
        "open": not closed and q.revision == last, "over": not closed and date.today() > q.valid_until, "older": q.revision < last, "last": q.revision == last,
    }  # fmt: skip


def baseline(rows: Sequence[StoredQuote]) -> StoredQuote | None:
    """The quote that was accepted last: what is built by."""
    accepted = [r for r in rows if r.quote.kind == "quote" and r.accepted_on]
    return max(accepted, key=lambda r: (r.accepted_on or date.min, r.quote.number, r.quote.revision), default=None)


def sold_now(job: Costed, units: System) -> tuple[Sold, ...]:
    """What is sold as the job stands, at what one of each is."""
    words, measured = {}, {}
    for charge in job.cost.charges:
        key = key_of(charge.need.alike if charge.need else (), charge.what, charge.step)
        words[key] = charge_words(charge).text(units)
        measured[key] = charge.need.unit if charge.need else LABOUR
    return sold_of(job.cost, words, measured, job.books.terms)


def _standing(rows: Sequence[StoredQuote]) -> list[StoredQuote]:
    """Change orders of the baseline, the last revision of each."""
    base = baseline(rows)
    if base is None:
        return []
    orders = [r for r in rows if r.quote.kind == "change" and r.quote.of == base.quote.called]
    return [
        r
        for r in orders
        if not any(o.quote.number == r.quote.number and o.quote.revision > r.quote.revision for o in orders)
    ]


def _told(sold: Sequence[Sold], now: Sequence[Sold], units: System) -> list[tuple[str, int]]:
    rows = []
    for row, more, cents in changes(sold, now):
        kind = {"m": "station", "m3": "volume", LABOUR: "h"}.get(row.unit, "count")
        much = f"{abs(more):.1f} h" if kind == "h" else format_quantity(abs(more), kind, units)
        rows.append((f"{'+' if more > 0 else '−'}{much} {row.text}", cents))
    return rows


def _last_sold(rows: Sequence[StoredQuote]) -> tuple[Sold, ...]:
    """What stands as sold: of the last change order that was accepted, or of the baseline."""
    base = baseline(rows)
    accepted = [r for r in _standing(rows) if r.accepted_on]
    last = max(accepted, key=lambda r: r.quote.number, default=base)
    return last.quote.sold if last else ()


def _changed(job: Costed, rows: Sequence[StoredQuote], units: System) -> dict[str, Any]:
    """What is other than was sold, as the job stands now."""
    told = _told(_last_sold(rows), sold_now(job, units), units)
    net = sum(cents for _, cents in told)
    return {"rows": [(text, job.money(cents)) for text, cents in told], "net": job.money(net), "any": bool(told)}


def _due(rows: Sequence[StoredQuote]) -> dict[str, Any] | None:
    """Invoice figures: the payments of the baseline, and every change order that was accepted, which is due with the last of them."""
    base = baseline(rows)
    if base is None:
        return None
    q, orders = base.quote, [r.quote for r in _standing(rows) if r.accepted_on]
    lines = [(d.text, percent(d.share), show(d.cents, q.currency)) for d in q.due]
    lines += [(f"{o.called}, due with the last payment", "", show(o.total, q.currency)) for o in orders]
    total = sum(d.cents for d in q.due) + sum(o.total for o in orders)
    return {
        "lines": lines,
        "total": show(total, q.currency),
        "net": show(q.net + sum(o.net for o in orders), q.currency),
        "tax": show(q.tax + sum(o.tax for o in orders), q.currency),
        "tax_name": q.tax_name,
    }


@router.post("/jobs/{job_id}/quotes", include_in_schema=False)
def make_quote(
    request: Request,
    job_id: str,
    customer: Annotated[str, Form()] = "",
    kind: Annotated[str, Form()] = "quote",
    revises: Annotated[int, Form()] = 0,
    option_line: Annotated[str, Form()] = "",
    units: Annotated[str, Form()] = "",
) -> Response:
    """Make a quote from the job as it stands, the next revision of one, or a change order against the one that was accepted."""
    stored, job = costed_of(request, job_id)
    system = system_of(units, job.job)
    rows = hauling.quotes(request.app.state.scope, job_id)
    try:
        must_be_priced(job)
        if kind not in KINDS:
            raise BadInput("kind", "kind: a quote or a change")
        make = _quote if kind == "quote" else _change
        made = make(request, job, system, rows, customer.strip(), stored.version, option_line)
        kept = hauling.add_quote(request.app.state.scope, job_id, made, revises)
    except ValidationError as error:
        return _quotes(
            request, job_id, job, system, 422, error=first_error(error).sentence, typed={"customer": customer}
        )
    except BadInput as error:
        return _quotes(request, job_id, job, system, 422, error=error.sentence, typed={"customer": customer})
    return RedirectResponse(f"/jobs/{job_id}/quotes/{kept.kind}/{kept.number}/{kept.revision}", 303)


def must_be_priced(job: Costed) -> None:
    """Raises BadInput where a sum would be short of something that has no price."""
    if job.supply.refused:
        raise BadInput("suppliers", f"there is no order to reckon by: {job.supply.refused}")
    if job.cost.missing:
        none = [charge_words(c).text("us") for c in job.cost.charges if c.cents is None]
        more = f" and {len(none) - 3} more" if len(none) > 3 else ""
        raise BadInput(
            "prices",
            f"these have no price yet: {', '.join(none[:3])}{more}; a sum without them would be short: find who sells them, or say your rates",
        )


def _head(job: Costed, customer: str, version: int) -> dict[str, Any]:
    terms, today = job.books.terms, date.today()
    return {
        "number": 1, "version": version, "job": job.job.job.name, "made_on": today, "valid_until": today + timedelta(days=terms.valid_days), "customer": customer,
        "who": terms.who, "currency": terms.currency, "tax_name": terms.tax_name, "tax_share": terms.tax, "exclusions": terms.exclusions,
    }  # fmt: skip


def _quote(
    request: Request,
    job: Costed,
    units: System,
    rows: Sequence[StoredQuote],
    customer: str,
    version: int,
    option_line: str,
) -> Quote:
    """A quote of the job: a line of it for each of its lines, which sum to the net."""
    cost: Cost = job.cost
    by = cost.by_line()
    views = job.job.all()
    lines = tuple(QuoteLine(text=scope_of(it.fence, it.plan).text(units), cents=by.get(it.fence.id, 0)) for it in views)
    options: tuple[Option, ...] = ()
    shown = next((it for it in views if it.fence.id == option_line), None)
    if shown is not None:
        options = tuple(
            Option(title=f"{shown.fence.name}: {row['title']}", change=row["change"][:2000], cents=row["more_cents"])
            for row in options_of(request, job.job, shown, job, units)[1:]
            if not row["refused"] and not row["missing"] and row["more_cents"]
        )
    return Quote.model_validate(
        {
            **_head(job, customer, version), "kind": "quote", "scope": tuple(line.text for line in lines), "lines": lines, "net": cost.net, "tax": cost.tax,
            "total": cost.total, "due": dues(cost.total, job.books.terms), "options": options, "sold": sold_now(job, units),
        }
    )  # fmt: skip


def _change(
    request: Request, job: Costed, units: System, rows: Sequence[StoredQuote], customer: str, version: int, _line: str
) -> Quote:
    """A change order: what is more or less than was sold, at the prices it was sold for."""
    base = baseline(rows)
    if base is None:
        raise BadInput("quote", "no quote of this job was accepted yet: until then a new revision says what changed")
    now = sold_now(job, units)
    told = _told(_last_sold(rows), now, units)
    if not told:
        raise BadInput("quote", f"nothing is other than in {base.quote.called}: there is no change to order")
    net = sum(cents for _, cents in told)
    tax = taxed(net, base.quote.tax_share)
    head = _head(job, customer or base.quote.customer, version) | {
        "tax_share": base.quote.tax_share,
        "tax_name": base.quote.tax_name,
        "currency": base.quote.currency,
    }
    return Quote.model_validate(
        {
            **head, "kind": "change", "scope": (f"Against {base.quote.called} of {base.quote.made_on.isoformat()}, at the prices of that quote.", *_found(job, units)),
            "lines": tuple(QuoteLine(text=text, cents=cents) for text, cents in told), "net": net, "tax": tax, "total": net + tax, "due": (), "sold": now, "of": base.quote.called,
        }
    )  # fmt: skip


def _found(job: Costed, units: System) -> list[str]:
    """What was found in the ground that the change comes from."""
    rows = []
    for it in job.job.all():
        hit = [p for p in it.plan.posts if p.built is not None and p.built.met == "rock"]
        if hit:
            names = ", ".join(f"{it.fence.id}{p.name}" for p in hit)
            rows.append(
                f"Rock in {len(hit)} hole{'' if len(hit) == 1 else 's'} of {it.fence.name}: post{'' if len(hit) == 1 else 's'} {names}."
            )
    return rows


@router.post("/jobs/{job_id}/quotes/{kind}/{number}/{revision}/accept", include_in_schema=False)
def accept(
    request: Request, job_id: str, kind: str, number: int, revision: int, by: Annotated[str, Form()] = ""
) -> Response:
    """Say that a quote was accepted, and by whom."""
    try:
        if not by.strip():
            raise BadInput("by", "Accepted by: say who accepted it")
        hauling.accept(request.app.state.scope, kind, number, revision, by.strip()[:120], date.today())
    except BadInput as error:
        _, job = costed_of(request, job_id)
        return _quotes(request, job_id, job, system_of("", job.job), 422, error=error.sentence)
    return RedirectResponse(f"/jobs/{job_id}/quotes", 303)


def _paper(request: Request, job_id: str, kind: str, number: int, revision: int) -> tuple[StoredQuote, dict[str, Any]]:
    row = hauling.quote(request.app.state.scope, kind, number, revision)
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
