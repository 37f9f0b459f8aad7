"""What a job costs, by what it is for and by line; and the terms of the workspace."""

import re
from collections import defaultdict
from collections.abc import Mapping
from datetime import date
from decimal import Decimal
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool

from gnomonic.core.errors import BadInput
from gnomonic.core.haul.money import amount, must_be_currency, percent, read_money
from gnomonic.core.haul.rules import haul_rules
from gnomonic.core.haul.terms import STEPS, Payment, Terms
from gnomonic.core.job.reading import first_error
from gnomonic.core.tell.money import charge_amount, charge_words, grouped, index_of
from gnomonic.core.tell.needs import group_of
from gnomonic.core.units import FOOT_M, System, format_quantity
from gnomonic.store import hauling
from gnomonic.store.jobs import Stored
from gnomonic.web.haul.costed import Costed, costed_of, old_prices, system_of
from gnomonic.web.haul.pages import page
from gnomonic.web.room import room

router = APIRouter()
PARTS = ("material", "labour", "plant", "fuel", "delivery")
PART_WORDS = {
    "material": "Material",
    "labour": "Work",
    "plant": "Plant",
    "fuel": "Fuel",
    "delivery": "Delivery",
    "margin": "Margin",
    "tax": "Tax",
}


@router.get("/jobs/{job_id}/cost", include_in_schema=False)
def cost_page(request: Request, job_id: str, units: str = "") -> Response:
    """What the job costs, and each of its lines."""
    stored, job = costed_of(request, job_id)
    return _cost(request, stored, job, system_of(units, job.job))


def _cost(request: Request, stored: Stored, job: Costed, units: System, status: int = 200, **more: Any) -> Response:
    cost, terms = job.cost, job.books.terms
    context: dict[str, Any] = {
        "priced": bool(job.books.sellers),
        "refused": job.supply.refused,
        "said": job.books.said,
        "terms": terms_typed(terms),
        "steps": STEPS,
        "warnings": old_prices(job.books.sellers, date.today()),
        "groups": [
            (
                group,
                [
                    {"what": charge_words(c).text(units), "amount": charge_amount(c, units), "cents": job.money(c.cents) if c.cents is not None else "", "stock": job.money(c.stock) if c.stock else ""}
                    for c in charges
                ],
                job.money(sum(c.cents or 0 for c in charges)),
            )
            for group, charges in grouped(cost)
        ],
        "lines": _per_line(job, units),
        "systems": _per_system(job),
        "cost": job.money(cost.cost), "margin": job.money(cost.margin), "margin_share": percent(terms.margin), "net": job.money(cost.net),
        "tax": job.money(cost.tax), "tax_share": percent(terms.tax), "tax_name": terms.tax_name, "total": job.money(cost.total),
        "hours": f"{cost.hours:.0f} h", "missing": [charge_words(c).text(units) for c in cost.charges if c.cents is None],
        "bar": _bar(job), "waste": _waste(job, units), "index": _indices(job, units),
    }  # fmt: skip
    return page(request, "cost.html", stored, units, "cost", status, **(context | more))


def _per_line(job: Costed, units: System) -> list[dict[str, str]]:
    """Each line's part of the net sum, and by the length the fencer measures in."""
    each = FOOT_M if units == "us" else 1.0
    by, rows = job.cost.by_line(), []
    for it in job.job.all():
        cents, long = by.get(it.fence.id, 0), it.plan.course.length_m
        hung = it.plan.section
        rows.append(
            {
                "letter": it.fence.id, "name": it.fence.name, "system": f"{hung.named}, {hung.system.title.lower()}", "long": format_quantity(long, "station", units),
                "net": job.money(cents), "each": job.money(round(cents / (long / each))) if long else "",
            }
        )  # fmt: skip
    return rows


def _per_system(job: Costed) -> list[tuple[str, str]]:
    """What all lines of a barrier come to together, where there are several barriers."""
    by, sums = job.cost.by_line(), defaultdict[str, int](int)
    for it in job.job.all():
        sums[it.plan.section.system.title] += by.get(it.fence.id, 0)
    return [(title, job.money(cents)) for title, cents in sums.items()] if len(sums) > 1 else []


def _bar(job: Costed) -> list[dict[str, Any]]:
    """The sum as a tape: its parts in a row, to scale."""
    parts = [(what, job.cost.of(what)) for what in PARTS] + [("margin", job.cost.margin), ("tax", job.cost.tax)]
    total, at, rows = sum(c for _, c in parts) or 1, 0.0, []
    for what, cents in parts:
        if cents:
            wide = 1000 * cents / total
            rows.append(
                {
                    "key": what,
                    "word": PART_WORDS[what],
                    "x": at,
                    "w": wide,
                    "money": job.money(cents),
                    "share": "under 1 %" if cents < total / 100 else f"{100 * cents / total:.0f} %",
                }
            )
            at += wide
    return rows


def _waste(job: Costed, units: System) -> list[tuple[str, str, str]]:
    """What is bought beyond what is built in, by rule: rests of packs, of cut lengths, spares."""
    rules = haul_rules()
    over = sum(
        (job.supply.units(k) - q) / job.supply.units(k) * job.supply.paid(k)
        for k, q in job.supply.short.items()
        if job.supply.units(k) > q
    )
    spares = sum(w.spare for w in job.supply.wanted)
    cut = sum(
        r.length_m - sum(r.cuts_m) - (r.left_m if r.left_m >= rules["keep_m"].value else 0)
        for s in job.supply.sawn
        for r in s.cut.layout
    )
    kept = [r.left_m for s in job.supply.sawn for r in s.cut.layout if r.left_m >= rules["keep_m"].value]
    return [
        ("in whole packs", job.money(int(over)), "left over from packs that are not split; it comes back as stock"),
        ("in cutting", format_quantity(cut, "station", units), f"saw and short ends; {len(kept)} longer rests come back as stock"),
        ("spares", f"{float(spares):.0f} pieces", rules["spare_per_hundred"].reason),
    ]  # fmt: skip


def _indices(job: Costed, units: System) -> list[tuple[str, str, str]]:
    """What each group comes to on the price index, for a job without prices."""
    groups: dict[str, float] = defaultdict(float)
    for both in job.needs:
        groups[group_of(both.need)] += sum(index_of(need) for _, need in both.needs)
    total = sum(groups.values()) or 1.0
    return [(group, f"{value:,.0f}", f"{100 * value / total:.0f} %") for group, value in groups.items() if value]


def terms_typed(terms: Terms) -> dict[str, str]:
    """Terms as they stand in the form."""
    money = {
        key: str(amount(getattr(terms, key), terms.currency)) if getattr(terms, key) is not None else ""
        for key in ("hour", "plant_hour", "fuel_hour")
    }
    shares = {key: percent(getattr(terms, key)).removesuffix(" %") for key in ("margin", "tax", "rate")}
    steps = {f"step_{k}": str(amount(v, terms.currency)) for k, v in terms.steps.items()}
    rows = "\n".join(f"{percent(p.share)} {p.text}" for p in terms.payments)
    return {
        "who": terms.who, "currency": terms.currency, "tax_name": terms.tax_name, "valid_days": str(terms.valid_days), "years": str(terms.years),
        "payments": rows, "exclusions": "\n".join(terms.exclusions), **money, **shares, **steps,
    }  # fmt: skip


def read_terms(typed: Mapping[str, str]) -> Terms:
    """Terms as they were typed.  Raises BadInput with what a field is called."""
    currency = typed.get("currency", "").strip().upper()
    names = {"hour": "An hour of one person", "plant_hour": "Plant an hour", "fuel_hour": "Fuel an hour"}
    given: dict[str, Any] = {k: typed.get(k, "").strip() for k in ("who", "tax_name")} | {"currency": currency}
    must_be_currency(currency, "Currency")
    for key, name in names.items():
        given[key] = read_money(typed[key], currency, name) if typed.get(key, "").strip() else None
    given["steps"] = {k: read_money(v, currency, STEPS[k]) for k in STEPS if (v := typed.get(f"step_{k}", "").strip())}
    for key, name in (("margin", "Margin"), ("tax", "Tax"), ("rate", "Rate a year")):
        given[key] = _share(typed.get(key, ""), name)
    for key, name in (("valid_days", "Quotes are good for"), ("years", "Compared over")):
        text = typed.get(key, "").strip()
        if not text.isdigit():
            raise BadInput(key, f"{name}: “{text[:20]}” is not a whole number")
        given[key] = int(text)
    given["payments"] = [_payment(row) for row in typed.get("payments", "").splitlines() if row.strip()]
    given["exclusions"] = [row.strip() for row in typed.get("exclusions", "").splitlines() if row.strip()]
    try:
        return Terms.model_validate(given)
    except ValidationError as error:
        raise first_error(error) from None


def _share(text: str, name: str) -> Decimal:
    plain = text.strip().removesuffix("%").strip() or "0"
    if not re.fullmatch(r"\d{1,3}(\.\d{1,4})?", plain) or Decimal(plain) > 100:
        raise BadInput(name, f"{name}: “{text.strip()[:20]}” is not a percentage from 0 to 100")
    return Decimal(plain) / 100


def _payment(row: str) -> Payment:
    share, mark, text = row.strip().partition("%")
    if not mark or not text.strip():
        raise BadInput("payments", f"Payments: “{row.strip()[:40]}” is not a payment; write it like 40 % on acceptance")
    return Payment(text=text.strip(), share=_share(share, "Payments"))


@router.post("/jobs/{job_id}/terms", include_in_schema=False)
async def say_terms(request: Request, job_id: str) -> Response:
    """Say the workspace's terms."""
    typed = {k: str(v) for k, v in (await request.form()).items()}
    return await run_in_threadpool(_say_terms, request, job_id, typed)


def _say_terms(request: Request, job_id: str, typed: dict[str, str]) -> Response:
    try:
        hauling.put_terms(room(request).scope, read_terms(typed))
    except BadInput as error:
        stored, job = costed_of(request, job_id)
        return _cost(
            request, stored, job, system_of(typed.get("units", ""), job.job), 422, error=error.sentence, terms=typed
        )
    return RedirectResponse(f"/jobs/{job_id}/cost?units={typed.get('units', '')}", 303)
