"""Quotes made from a job: what is sold, what is other than was sold, what is due."""

from collections.abc import Sequence
from datetime import date, timedelta
from typing import Any

from gnomonic.core.errors import BadInput
from gnomonic.core.haul.money import percent, show
from gnomonic.core.haul.quoting import (
    Option,
    Quote,
    QuoteLine,
    Sold,
    at_prices_sold,
    changes,
    dues,
    key_of,
    sold_of,
    taxed,
)
from gnomonic.core.haul.takeoff import UNIT_KINDS
from gnomonic.core.tell.money import charge_words, scope_of
from gnomonic.core.units import System, format_quantity
from gnomonic.store.hauling import StoredQuote
from gnomonic.web.haul.costed import Costed
from gnomonic.web.haul.options import options_of
from gnomonic.web.plans import Plans

LABOUR = "h"


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


def told_of(sold: Sequence[Sold], now: Sequence[Sold], units: System) -> list[tuple[str, int]]:
    """What is more or less than was sold, in words, with what that comes to."""
    rows = []
    for row, more, cents in changes(sold, now):
        hours = row.unit == LABOUR
        much = f"{abs(more):.1f} h" if hours else format_quantity(abs(more), UNIT_KINDS[row.unit], units)
        rows.append((f"{'+' if more > 0 else '−'}{much} {row.text}", cents))
    return rows


def _last_sold(rows: Sequence[StoredQuote]) -> tuple[Sold, ...]:
    """What stands as sold: of the last change order that was accepted, or of the baseline."""
    base = baseline(rows)
    accepted = [r for r in _standing(rows) if r.accepted_on]
    last = max(accepted, key=lambda r: r.quote.number, default=base)
    return last.quote.sold if last else ()


def changed_since(job: Costed, rows: Sequence[StoredQuote], units: System) -> dict[str, Any]:
    """What is other than was sold, as the job stands now, and the open change order that has all of it already."""
    now = sold_now(job, units)
    told = told_of(_last_sold(rows), now, units)
    waiting = next((r.quote for r in _standing(rows) if not r.accepted_on), None)
    same = waiting is not None and not changes(waiting.sold, now)
    return {
        "rows": [(text, job.money(cents)) for text, cents in told],
        "net": job.money(sum(cents for _, cents in told)),
        "waiting": waiting.called if waiting and same else "",
        "revises": waiting.number if waiting and not same else 0,
    }


def due_now(rows: Sequence[StoredQuote]) -> dict[str, Any] | None:
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


def must_be_priced(job: Costed, units: System) -> None:
    """Raises BadInput where a sum would be short of something that has no price."""
    if job.supply.refused:
        raise BadInput("suppliers", f"there is no order to reckon by: {job.supply.refused}")
    if not job.cost.charges:
        raise BadInput("quote", "there is nothing to quote: every line of this job stands already")
    if job.cost.missing:
        none = [charge_words(c).text(units) for c in job.cost.charges if c.cents is None]
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


def quote_of(
    plans: Plans, job_id: str, job: Costed, units: System, customer: str, version: int, option_line: str = ""
) -> Quote:
    """A quote of the job: an amount for each of its lines, which sum to the net; with other ways to build one of them."""
    cost = job.cost
    by = cost.by_line()
    views = job.job.all()
    lines = tuple(QuoteLine(text=scope_of(it.fence, it.plan).text(units), cents=by.get(it.fence.id, 0)) for it in views)
    options: tuple[Option, ...] = ()
    shown = next((it for it in views if it.fence.id == option_line), None)
    if shown is not None:
        options = tuple(
            Option(title=f"{shown.fence.name}: {row['title']}", change=row["change"][:2000], cents=row["more_cents"])
            for row in list(options_of(plans, job_id, job.job, shown, job, units))[1:]
            if not row["refused"] and not row["short"] and row["more_cents"]
        )
    return Quote.model_validate(
        {
            **_head(job, customer, version), "kind": "quote", "scope": tuple(line.text for line in lines), "lines": lines, "net": cost.net, "tax": cost.tax,
            "total": cost.total, "due": dues(cost.total, job.books.terms), "options": options, "sold": sold_now(job, units),
        }
    )  # fmt: skip


def change_of(job: Costed, units: System, rows: Sequence[StoredQuote], customer: str, version: int) -> Quote:
    """A change order: what is more or less than was sold, at the prices it was sold for."""
    base = baseline(rows)
    if base is None:
        raise BadInput("quote", "no quote of this job was accepted yet: until then a new revision says what changed")
    if job.books.terms.currency != base.quote.currency:
        raise BadInput(
            "currency",
            f"{base.quote.called} is in {base.quote.currency}, your terms are in {job.books.terms.currency}: amounts of the two are not added",
        )
    was = _last_sold(rows)
    now = at_prices_sold(was, sold_now(job, units))
    told = told_of(was, now, units)
    if not told:
        raise BadInput("quote", f"nothing is other than in {base.quote.called}: there is no change to order")
    net = sum(cents for _, cents in told)
    tax = taxed(net, base.quote.tax_share)
    head = _head(job, customer or base.quote.customer, version) | {
        "tax_share": base.quote.tax_share,
        "tax_name": base.quote.tax_name,
        "exclusions": (),
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
