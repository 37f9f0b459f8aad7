"""What lies there: what of it a job uses, how it is cut, what is reserved."""

import re
import secrets
from collections import defaultdict
from collections.abc import Mapping
from decimal import Decimal, InvalidOperation
from fractions import Fraction
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool

from gnomonic.core.errors import BadInput
from gnomonic.core.haul.held import CONDITIONS, Held
from gnomonic.core.haul.money import read_money
from gnomonic.core.haul.rules import haul_rules
from gnomonic.core.haul.supply import Sawn, supply
from gnomonic.core.haul.terms import Terms
from gnomonic.core.haul.wares import Ware, family_of, ware, ware_of
from gnomonic.core.job.reading import first_error
from gnomonic.core.tell.needs import named
from gnomonic.core.units import System, format_quantity, parse_length_m
from gnomonic.store import hauling, jobs
from gnomonic.store.jobs import Stored
from gnomonic.web.haul.costed import Costed, costed_of, system_of
from gnomonic.web.haul.pages import called, counted, page, words_of
from gnomonic.web.parts import change_job
from gnomonic.web.room import room

router = APIRouter()
TOOL = "tool"  # what is no ware of a fence: called by its own name, used up by no job


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
            "what": row.held.what if row.held.item == TOOL else called(row.held.item, words, units),
            "condition": CONDITIONS[row.held.condition],
            "lasting": row.held.lasting,
            "age": f"{row.held.age_years} years" if row.held.age_years else "",
            "heartwood": row.held.heartwood,
            "where": row.held.where,
            "count": counted(row.held.item, row.held.count, units),
            "value": job.money(row.held.value) if row.held.value else "nothing",
            "uses": counted(row.held.item, used, units) if (used := job.supply.used.get(row.held.id)) else "",
            "mine": counted(row.held.item, mine, units) if (mine := row.of(stored.job_id)) else "",
            "rolled": bool(_hung_from(job, row.held.item)),
            "hang": bool(_hung_from(job, row.held.item)) and row.free >= 1,
            "others": [(name, job_id, counted(row.held.item, n, units)) for job_id, name, n in row.reserved if job_id != stored.job_id],
        }
        for row in job.books.rows
    ]  # fmt: skip
    context = {
        "rows": rows,
        "saved": _saved(job),
        "cuts": [_drawn(s, job, words, units) for s in job.supply.sawn if s.lots or s.cut.opened < sum(len(r.cuts_m) for r in s.cut.layout)],
        "items": sorted({(ware_of(n.need).family, called(ware_of(n.need).family, {}, units) if not ware_of(n.need).long_mm else named(n.need).text(units).partition(",")[0]) for n in job.needs}, key=lambda r: r[1]),
        "tool": TOOL,
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
        terms = hauling.terms(room(request).scope) or Terms()
        hauling.put_held(room(request).scope, [_read_held(typed, terms.currency)])
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
    name = " ".join(typed.get("what", "").split())
    if family == TOOL and not name:
        raise BadInput("what", "Called: say what it is")
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
        "what": name[:120] if family == TOOL else "",
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
    hauling.drop_held(room(request).scope, held_id)
    return RedirectResponse(f"/jobs/{job_id}/stock#held", 303)


def left_over(job: Costed, job_id: str, units: System) -> list[Held]:
    """What comes back when the work is done: rests of packs, longer rests of what was cut, offcuts of rolls."""
    words, rows = words_of(job, units), list[tuple[str, Decimal]]()
    for key, qty in job.supply.short.items():
        over = job.supply.units(key) - qty
        if over > 0:
            rows.append((key, round(Decimal(over.numerator) / Decimal(over.denominator), 4)))
    rests: dict[str, int] = defaultdict(int)
    for sawn in job.supply.sawn:
        for cut in sawn.cut.layout:
            if cut.left_m >= haul_rules()["keep_m"].value:
                rests[Ware(sawn.family, int(cut.left_m * 1000)).key] += 1
    for it in job.job.all():
        fabric = it.plan.fabric
        for _, rest_m in it.plan.rolls.rolls.offcuts_kept_m if fabric else ():
            if fabric and rest_m >= haul_rules()["keep_m"].value:
                rests[Ware(family_of(fabric.label, fabric.kind), int(rest_m * 1000)).key] += 1
    rows += [(key, Decimal(count)) for key, count in rests.items()]
    where = f"left over from {job.job.job.name}"[:120]
    return [
        Held(
            id=f"{job_id}-{k}", item=key, what=called(key, words, units)[:120], count=count, condition="new", where=where
        )
        for k, (key, count) in enumerate(rows)
    ]  # fmt: skip


@router.post("/jobs/{job_id}/settle", include_in_schema=False)
def settle(request: Request, job_id: str, units: Annotated[str, Form()] = "") -> Response:
    """The work is done: what was reserved is used up, what is left comes back."""
    _, job = costed_of(request, job_id)
    hauling.settle(room(request).scope, job_id, left_over(job, job_id, system_of(units, job.job)))
    return RedirectResponse(f"/jobs/{job_id}/stock#held", 303)


@router.post("/jobs/{job_id}/stock/{held_id}/hang", include_in_schema=False)
def hang(request: Request, job_id: str, held_id: str, out: Annotated[bool, Form()] = False) -> Response:
    """An offcut is cut into the rolls of this job, or taken ``out`` of them: the plan is made with it, and it is reserved."""
    stored, job = costed_of(request, job_id)
    row = next((r for r in job.books.rows if r.held.id == held_id), None)
    line = _hung_from(job, row.held.item) if row else ""
    fabric = job.job.plan.lines[line].fabric if line else None
    if row is None or fabric is None:
        raise jobs.NotThere(held_id)
    offcuts = [o.length_m for o in job.job.job.stock.offcuts if o.label == fabric.label and not o.worn]
    long, before = ware(row.held.item).long_m, row.of(job_id)
    if out:
        offcuts = [m for k, m in enumerate(offcuts) if m != long or long in offcuts[:k]]
    else:
        offcuts.append(long)
    hauling.reserve(room(request).scope, job_id, [(held_id, max(Decimal(0), before - 1) if out else before + 1)])
    try:
        change_job(request, job_id, stored.version, {"do": "own_offcuts", "offcuts_m": offcuts, "line": line})
    except Exception:
        hauling.reserve(room(request).scope, job_id, [(held_id, before)])
        raise
    return RedirectResponse(f"/jobs/{job_id}/stock#held", 303)


def _hung_from(job: Costed, key: str) -> str:
    """The first line of the job that hangs what an offcut is of; empty where none does."""
    of = ware(key)
    if not of.long_mm:
        return ""
    lines = ((k, p.fabric) for k, p in job.job.plan.lines.items())
    return next((k for k, fabric in lines if fabric and family_of(fabric.label, fabric.kind) == of.family), "")


@router.post("/jobs/{job_id}/reserve", include_in_schema=False)
def reserve(request: Request, job_id: str) -> Response:
    """Reserve what this job would use, in place of what it had; offcuts stay with the rolls they are cut into."""
    _, job = costed_of(request, job_id)
    wanted = []
    for row in job.books.rows:
        uses = job.supply.used.get(row.held.id, Fraction(0))
        if (uses or row.of(job_id)) and not _hung_from(job, row.held.item):
            wanted.append((row.held.id, round(Decimal(uses.numerator) / Decimal(uses.denominator), 4)))
    hauling.reserve(room(request).scope, job_id, wanted)
    return RedirectResponse(f"/jobs/{job_id}/stock#held", 303)


@router.post("/jobs/{job_id}/release", include_in_schema=False)
def release(request: Request, job_id: str) -> Response:
    """Release everything this job had reserved but offcuts, which are taken out of the rolls one by one."""
    _, job = costed_of(request, job_id)
    rows = [r for r in job.books.rows if r.of(job_id) and not _hung_from(job, r.held.item)]
    hauling.reserve(room(request).scope, job_id, [(r.held.id, Decimal(0)) for r in rows])
    return RedirectResponse(f"/jobs/{job_id}/stock#held", 303)
