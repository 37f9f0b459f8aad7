"""What lies there, who sells what, what it costs: the pages of money of a job, and the terms they work by."""

import re
import secrets
from collections import defaultdict
from collections.abc import Mapping
from datetime import date
from decimal import Decimal, InvalidOperation
from fractions import Fraction
from typing import Annotated, Any

from fastapi import APIRouter, File, Request, UploadFile
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool

from gnomonic.core.errors import Away, BadInput
from gnomonic.core.haul.buying import alone
from gnomonic.core.haul.held import CONDITIONS, Held
from gnomonic.core.haul.money import amount, percent, read_money, show
from gnomonic.core.haul.rules import haul_rules
from gnomonic.core.haul.supply import Sawn, substitutes, supply
from gnomonic.core.haul.takeoff import UNIT_KINDS
from gnomonic.core.haul.terms import STEPS, Payment, Terms
from gnomonic.core.haul.wares import Ware, unit_of, ware, ware_of
from gnomonic.core.job.reading import first_error
from gnomonic.core.limits import MOST_CATALOG_BYTES
from gnomonic.core.tell.money import charge_amount, charge_words, grouped, index_of
from gnomonic.core.tell.needs import group_of, named
from gnomonic.core.units import System, format_quantity, parse_length_m
from gnomonic.formats.price_csv import read_prices, write_prices
from gnomonic.store import hauling, jobs
from gnomonic.store.jobs import Stored
from gnomonic.web.haul.costed import Costed, books, costed, costed_of, needs_of, old_prices, system_of
from gnomonic.web.parts import file_out, planned_job
from gnomonic.web.problems import a_file

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


def page(
    request: Request, template: str, stored: Stored, units: System, here: str, status: int = 200, **more: Any
) -> Response:
    """A page of money, with what stands over all of them."""
    line = request.query_params.get("line", "")[:3]
    head = {
        "job_id": stored.job_id,
        "name": stored.name,
        "units": units,
        "here": here,
        "line": line,
        "error": "",
        "typed": {},
    }
    return request.app.state.templates.TemplateResponse(request, template, {**head, **more}, status_code=status)  # type: ignore[no-any-return]


def words_of(job: Costed, units: System) -> dict[str, str]:
    """What wares of a job are called, by key; of what is on hand as it was called there."""
    words = {row.held.item: row.held.what for row in job.books.rows if row.held.what}
    return words | {ware_of(n.need).key: named(n.need).text(units) for n in job.needs}


def called(key: str, words: Mapping[str, str], units: System) -> str:
    """A ware in words; one that is only longer or shorter than one the job needs is called like that."""
    if key in words:
        return words[key]
    of = ware(key)
    alike = next((text for k, text in words.items() if ware(k).family == of.family), "")
    name = (
        alike.partition(",")[0]
        or of.family.partition(".")[2].rpartition(".")[0].replace("-", " ")
        or of.family.replace("-", " ")
    )
    return f"{name}, {format_quantity(of.long_m, 'depth', units)}" if of.long_mm else name


def counted(key: str, amount_of: Fraction | Decimal | float, units: System) -> str:
    """An amount of a ware in its unit."""
    return format_quantity(float(amount_of), UNIT_KINDS[unit_of(key)], units)


# --- stock


@router.get("/jobs/{job_id}/stock", include_in_schema=False)
def stock_page(request: Request, job_id: str, units: str = "") -> Response:
    """What lies there, what of it this job would use, and how it is cut."""
    stored, job = costed_of(request, job_id)
    return _stock(request, stored, job, system_of(units, job.job))


def _stock(request: Request, stored: Stored, job: Costed, units: System, status: int = 200, **more: Any) -> Response:
    words = words_of(job, units)
    rows = [
        {
            "id": row.held.id,
            "what": called(row.held.item, words, units),
            "condition": CONDITIONS[row.held.condition],
            "age": f"{row.held.age_years} years" if row.held.age_years else "",
            "heartwood": row.held.heartwood,
            "where": row.held.where,
            "count": counted(row.held.item, row.held.count, units),
            "value": job.money(row.held.value) if row.held.value else "nothing",
            "uses": counted(row.held.item, used, units) if (used := job.supply.used.get(row.held.id)) else "",
            "mine": counted(row.held.item, mine, units) if (mine := row.of(stored.job_id)) else "",
            "others": [(name, job_id, counted(row.held.item, n, units)) for job_id, name, n in row.reserved if job_id != stored.job_id],
        }
        for row in job.books.rows
    ]  # fmt: skip
    context = {
        "rows": rows,
        "saved": _saved(job),
        "cuts": [_drawn(s, job, words, units) for s in job.supply.sawn if s.lots or s.cut.opened < sum(len(r.cuts_m) for r in s.cut.layout)],
        "items": sorted({(ware_of(n.need).family, called(ware_of(n.need).family, {}, units) if not ware_of(n.need).long_mm else named(n.need).text(units).partition(",")[0]) for n in job.needs}, key=lambda r: r[1]),
        "conditions": CONDITIONS,
        "rules": [haul_rules()[k] for k in ("kerf_m", "keep_m")],
        "reservable": any(row["uses"] and row["uses"] != row["mine"] for row in rows),
        "any_mine": any(row["mine"] for row in rows),
    }  # fmt: skip
    return page(request, "stock.html", stored, units, "stock", status, **(context | more))


def _saved(job: Costed) -> str:
    """What using what lies there saves in money bought, less what it is charged; empty where prices are not known."""
    if not job.books.sellers or not job.supply.used:
        return ""
    without = supply(job.needs, [], job.books.sellers)
    values = {row.held.id: row.held.value for row in job.books.rows}
    charged = sum(Fraction(values[k]) * n for k, n in job.supply.used.items())
    saved = without.buying.total - job.supply.buying.total - int(charged)
    return job.money(saved) if saved > 0 and without.unpriced == job.supply.unpriced else ""


def _drawn(sawn: Sawn, job: Costed, words: Mapping[str, str], units: System) -> dict[str, Any]:
    """How lengths of a family are cut, alike ones once, to scale."""
    ways: dict[tuple[Any, ...], int] = defaultdict(int)
    for row in sawn.cut.layout:
        if row.name.startswith("have") or len(row.cuts_m) > 1:
            ways[row.name, row.length_m, row.cuts_m, round(row.left_m, 4)] += 1
    longest = max((length for _, length, _, _ in ways), default=1.0)
    rows = []
    for (name, length, cuts, left), times in ways.items():
        at, pieces = 0.0, []
        for cut in cuts:
            pieces.append(
                {"x": 1000 * at / longest, "w": 1000 * cut / longest, "text": format_quantity(cut, "cut", units)}
            )
            at += cut + haul_rules()["kerf_m"].value
        rest = format_quantity(left, "cut", units)
        rows.append(
            {
                "times": times,
                "whose": "on hand" if name.startswith("have") else "to buy",
                "what": format_quantity(length, "cut", units),
                "pieces": pieces,
                "wide": 1000 * length / longest,
                "left": rest,
                "keep": left >= haul_rules()["keep_m"].value,
            }
        )
    return {
        "title": called(sawn.family, words, units).partition(",")[0],
        "rows": rows,
        "proof": "no cheaper way to cut them is possible" if sawn.cut.proven["cost"] else "within reach of the cheapest, not proven to be it",
    }  # fmt: skip


@router.post("/jobs/{job_id}/stock", include_in_schema=False)
async def stock_put(request: Request, job_id: str) -> Response:
    """Say that something lies there."""
    typed = {k: str(v) for k, v in (await request.form()).items()}
    return await run_in_threadpool(_put_stock, request, job_id, typed)


def _put_stock(request: Request, job_id: str, typed: dict[str, str]) -> Response:
    try:
        terms = hauling.terms(request.app.state.scope) or Terms()
        hauling.put_held(request.app.state.scope, [_read_held(typed, terms.currency)])
    except BadInput as error:
        stored, job = costed_of(request, job_id)
        return _stock(
            request, stored, job, system_of(typed.get("units", ""), job.job), 422, error=error.sentence, typed=typed
        )
    return RedirectResponse(f"/jobs/{job_id}/stock?units={typed.get('units', '')}#held", 303)


def _read_held(typed: Mapping[str, str], currency: str) -> Held:
    """What the form says lies there.  Raises BadInput."""
    family = typed.get("item", "")
    unit = "m" if typed.get("units") == "metric" else "ft"
    long = parse_length_m(typed["length"], unit) if typed.get("length", "").strip() else 0.0
    if not family:
        raise BadInput("item", "What: choose what it is")
    if re.match(r"post\.|gate-leaf|strut", family) and not long:
        raise BadInput("length", "Length: say how long one of them is")
    value = read_money(typed["value"], currency, "Charged for one") if typed.get("value", "").strip() else 0
    try:
        count = Decimal(typed.get("count", "").strip())
    except InvalidOperation:
        raise BadInput("count", f"How many: “{typed.get('count', '')[:20]}” is not a number") from None
    given = {
        "id": secrets.token_hex(6),
        "item": Ware(family, round(long * 1000)).key,
        "what": "",
        "count": count,
        "condition": typed.get("condition", "sound"),
        "age_years": int(typed["age"]) if typed.get("age", "").strip().isdigit() else 0,
        "heartwood": bool(typed.get("heartwood")),
        "where": typed.get("where", "").strip(),
        "value": value,
    }
    try:
        return Held.model_validate(given)
    except ValidationError as error:
        bad = first_error(error)
        raise BadInput(bad.field, f"{bad.field}: {bad.sentence.partition(': ')[2]}") from None


@router.post("/jobs/{job_id}/stock/{held_id}/forget", include_in_schema=False)
def stock_forget(request: Request, job_id: str, held_id: str) -> Response:
    """It lies there no more."""
    hauling.drop_held(request.app.state.scope, held_id)
    return RedirectResponse(f"/jobs/{job_id}/stock#held", 303)


@router.post("/jobs/{job_id}/reserve", include_in_schema=False)
def reserve(request: Request, job_id: str) -> Response:
    """Reserve what this job would use, in place of what it had."""
    _, job = costed_of(request, job_id)
    places = Decimal("0.0001")
    wanted = [
        (row.held.id, Decimal(n.numerator) / Decimal(n.denominator))
        for row in job.books.rows
        if (n := job.supply.used.get(row.held.id, Fraction(0))) or row.of(job_id)
    ]
    hauling.reserve(request.app.state.scope, job_id, [(held, n.quantize(places)) for held, n in wanted])
    return RedirectResponse(f"/jobs/{job_id}/stock#held", 303)


@router.post("/jobs/{job_id}/release", include_in_schema=False)
def release(request: Request, job_id: str) -> Response:
    """Release everything this job had reserved."""
    mine = [(row.held.id, Decimal(0)) for row in books(request, job_id).rows if row.of(job_id)]
    hauling.reserve(request.app.state.scope, job_id, mine)
    return RedirectResponse(f"/jobs/{job_id}/stock#held", 303)


# --- suppliers


@router.get("/jobs/{job_id}/suppliers", include_in_schema=False)
def suppliers_page(request: Request, job_id: str, units: str = "") -> Response:
    """Who sells what this job needs, and from whom it is bought."""
    stored, job = costed_of(request, job_id)
    return _suppliers(request, stored, job, system_of(units, job.job))


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
                "offers": sum(p.item in made.short for p in s.prices), "of": len(made.short), "currency": s.currency, "other": s.currency != job.books.terms.currency, "asked": bool(s.address),
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
            {"take": called(s.key, words, units), "of": called(s.instead_of, words, units), "saves": job.money(int(s.saves)) if s.saves is not None and s.saves > 0 else "", "dearer": job.money(-int(s.saves)) if s.saves is not None and s.saves < 0 else "", "hand": counted(s.key, s.on_hand, units) if s.on_hand else "", "thick": (across(s.instead_of), across(s.key))}
            for s in substitutes(made, job.books.lots, job.books.sellers)
        ],
        "practice": request.app.state.suppliers.is_practice,
        "currency": job.books.terms.currency,
    }  # fmt: skip
    return page(request, "suppliers.html", stored, units, "suppliers", status, **(context | more))


def across(key: str) -> str:
    """How thick a ware is, in mm."""
    return f"{ware(key).family.rpartition('.')[2]} mm"


@router.post("/jobs/{job_id}/suppliers/ask", include_in_schema=False)
def ask_prices(request: Request, job_id: str) -> Response:
    """Ask every supplier on line for what the job needs; where one is away its last prices stay."""
    scope, desk = request.app.state.scope, request.app.state.suppliers
    stored = jobs.glance(scope, job_id)
    job = planned_job(request, stored)
    keys = list(dict.fromkeys(ware_of(n.need).key for n in needs_of(job)))
    try:
        found = [desk.prices(name, keys) for name in desk.names()]
        hauling.put_sellers(scope, found)
    except (Away, BadInput) as error:
        made = costed(job, books(request, job_id))
        kept = "; the last prices are kept, each with its day" if made.books.everyone else ""
        return _suppliers(
            request,
            stored,
            made,
            system_of("", job),
            503 if isinstance(error, Away) else 422,
            error=error.sentence + kept,
        )
    return RedirectResponse(f"/jobs/{job_id}/suppliers", 303)


@router.post("/jobs/{job_id}/suppliers", include_in_schema=False)
async def bring_prices(request: Request, job_id: str, file: Annotated[UploadFile, File()]) -> Response:
    """Prices from CSV: all of the file, or none of it."""
    body = await file.read(MOST_CATALOG_BYTES + 1)
    return await run_in_threadpool(_bring_prices, request, job_id, body)


def _bring_prices(request: Request, job_id: str, body: bytes) -> Response:
    try:
        if len(body) > MOST_CATALOG_BYTES:
            raise BadInput("file", "the file is larger than 2 MB: a price list is a table of offers")
        hauling.put_sellers(request.app.state.scope, read_prices(body, date.today()))
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
    await run_in_threadpool(hauling.drop_seller, request.app.state.scope, str(form.get("name", "")))
    return RedirectResponse(f"/jobs/{job_id}/suppliers", 303)


# --- cost


@router.get("/jobs/{job_id}/cost", include_in_schema=False)
def cost_page(request: Request, job_id: str, units: str = "") -> Response:
    """What the job costs, and each of its lines."""
    stored, job = costed_of(request, job_id)
    return _cost(request, stored, job, system_of(units, job.job))


def _cost(request: Request, stored: Stored, job: Costed, units: System, status: int = 200, **more: Any) -> Response:
    cost, terms = job.cost, job.books.terms
    context: dict[str, Any] = {
        "priced": bool(job.books.sellers),
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
        "cost": job.money(cost.cost), "margin": job.money(cost.margin), "margin_share": percent(terms.margin), "net": job.money(cost.net),
        "tax": job.money(cost.tax), "tax_share": percent(terms.tax), "tax_name": terms.tax_name, "total": job.money(cost.total),
        "hours": f"{cost.hours:.0f} h", "missing": [charge_words(c).text(units) for c in cost.charges if c.cents is None],
        "bar": _bar(job), "waste": _waste(job, units), "index": _indices(job, units),
    }  # fmt: skip
    return page(request, "cost.html", stored, units, "cost", status, **(context | more))


def _per_line(job: Costed, units: System) -> list[dict[str, str]]:
    """Each line's part of the net sum, and by the length the fencer measures in."""
    each = 0.3048 if units == "us" else 1.0
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
                    "share": f"{100 * cents / total:.0f} %",
                }
            )
            at += wide
    return rows


def _waste(job: Costed, units: System) -> list[tuple[str, str, str]]:
    """What is bought beyond what is built in, by rule: rests of packs, of cut lengths, spares."""
    words, rules = words_of(job, units), haul_rules()
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
    del words
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
        key: str(amount(getattr(terms, key), terms.currency)) if getattr(terms, key) else ""
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
    Terms.model_validate({"currency": currency}) if currency in ("", "USD") else _currency(currency)
    for key, name in names.items():
        given[key] = read_money(typed[key], currency, name) if typed.get(key, "").strip() else 0
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


def _currency(code: str) -> None:
    try:
        Terms.model_validate({"currency": code})
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
        hauling.put_terms(request.app.state.scope, read_terms(typed))
    except BadInput as error:
        stored, job = costed_of(request, job_id)
        return _cost(
            request, stored, job, system_of(typed.get("units", ""), job.job), 422, error=error.sentence, terms=typed
        )
    return RedirectResponse(f"/jobs/{job_id}/cost?units={typed.get('units', '')}", 303)
