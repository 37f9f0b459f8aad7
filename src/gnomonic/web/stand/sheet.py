"""The brace sheet of one end, for the print and the phone: cut from what was measured, which is kept with the post when asked."""

from datetime import UTC, datetime, timedelta
from time import time_ns
from urllib.parse import urlencode
from uuid import uuid4

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response
from starlette.concurrency import run_in_threadpool

from gnomonic.core.demand.system import common_caution
from gnomonic.core.errors import BadInput
from gnomonic.core.job.fence import Fence
from gnomonic.core.log.events import Event
from gnomonic.core.plan.identity import tag_name
from gnomonic.core.plan.model import Brace, Plan, Post
from gnomonic.core.say import Say, Value
from gnomonic.core.tell.brace_sheet import BraceSheet, Measured, brace_at, brace_sheet, check_measured
from gnomonic.core.tell.holding import hold_facts
from gnomonic.core.units import System, parse_length_m
from gnomonic.store import events
from gnomonic.web.parts import Station, line_asked, planned_of
from gnomonic.web.room import room

router = APIRouter()
CAUTION = "A brace wire under twist can snap back: stand clear of it and out of its line, children and bystanders away, staple the stick."


def _system(units: str) -> System:
    return "metric" if units == "metric" else "us"


def _typed(text: str, key: str, units: System, ask: str) -> float:
    try:
        return parse_length_m(text, "in" if units == "us" else "mm")
    except BadInput as error:
        raise BadInput(key, f"{ask}: {error.sentence}") from None


@router.get("/jobs/{job_id}/brace", include_in_schema=False)
def sheet_page(
    request: Request,
    job_id: str,
    at: Station,
    ahead: bool = True,
    units: str = "us",
    clear: str = "",
    outer: str = "",
    inner: str = "",
) -> Response:
    """The brace sheet of one end, for the print and the phone; cut from what was measured where that is typed in."""
    _, it = planned_of(request, job_id)
    system = _system(units)
    post, brace = brace_at(it.plan, at, ahead)
    error, measured = None, _from_log(post, ahead, it.plan)
    if clear or outer or inner:
        try:
            measured = Measured(
                _typed(clear, "clear", system, "Clear distance"), _typed(outer, "outer", system, "End post"), _typed(inner, "inner", system, "Brace post")
            )  # fmt: skip
            sheet = brace_sheet(it.plan, brace, measured)
        except BadInput as wrong:
            error, measured = (wrong.said.text(system) if wrong.said else wrong.sentence), None
            sheet = brace_sheet(it.plan, brace)
    else:
        sheet = brace_sheet(it.plan, brace, measured)
    held = next((h for h in it.plan.holds if h.post == post.index), None)
    context = {
        "job_id": job_id,
        "name": it.fence.title,
        "units": system,
        "line": it.fence.id,
        "post": tag_name(it.fence, post.name),
        "post_name": post.name,
        "at": at,
        "ahead": ahead,
        "typed": {"clear": clear, "outer": outer, "inner": inner},
        "measured": measured is not None,
        "error": error,
        "rows": [(n.text(system), v.text(system)) for n, v in _sheet_rows(it.fence, post, brace, sheet)],
        "steps": [s.text(system) for s in _sheet_steps(brace, sheet)],
        "holds": [(f.name, f.value.text(system)) for f in hold_facts(it.plan, post, held)] if held else [],
        "caution": CAUTION,
        "auger": common_caution("auger"),
    }
    status = 422 if error else 200
    return request.app.state.templates.TemplateResponse(request, "brace.html", context, status_code=status)  # type: ignore[no-any-return]


@router.post("/jobs/{job_id}/brace", include_in_schema=False)
async def keep_measured(request: Request, job_id: str) -> Response:
    """Keep what was measured of a brace as a fact of its post, and show the sheet cut from it."""
    given = {k: str(v) for k, v in (await request.form()).items()}
    return await run_in_threadpool(_kept, request, job_id, given)


def _kept(request: Request, job_id: str, given: dict[str, str]) -> Response:
    system, ahead = _system(given.get("units", "us")), given.get("ahead") != "false"
    try:
        at = float(given.get("at", ""))
    except ValueError:
        raise BadInput("at", "at is no station: open the sheet from the list of ends") from None
    stored, it = planned_of(request, job_id)
    post, _ = brace_at(it.plan, at, ahead)
    measured = Measured(
        _typed(given.get("clear", ""), "clear", system, "Clear distance"), _typed(given.get("outer", ""), "outer", system, "End post"), _typed(given.get("inner", ""), "inner", system, "Brace post")
    )  # fmt: skip
    check_measured(measured)
    event = Event(
        id=str(uuid4()), device="page", seq=time_ns() // 1_000_000, clock=datetime.now(UTC), line=it.fence.id, post=post.name, at_m=post.station_m, kind="clear",
        ahead=ahead, clear_m=measured.clear_m, outer_m=measured.outer_m, inner_m=measured.inner_m, e_m=round(post.east_m, 4), n_m=round(post.north_m, 4),
    )  # fmt: skip
    events.add(room(request).scope, stored.job_id, [event], timedelta())
    back = urlencode(
        {
            "at": at,
            "ahead": str(ahead).lower(),
            "units": system,
            **({"line": line_asked(request)} if line_asked(request) else {}),
        }
    )
    return RedirectResponse(f"/jobs/{job_id}/brace?{back}", 303)


def _from_log(post: Post, ahead: bool, plan: Plan) -> Measured | None:
    """What was written down of this brace, its posts' thickness as planned where it was not."""
    known = next((c for c in post.built.clear if c.ahead == ahead), None) if post.built else None
    if known is None:
        return None
    inner = known.inner_m or plan.section.posts["brace"].diameter_m
    return Measured(known.clear_m, known.outer_m or post.rule.diameter_m, inner)


def _sheet_rows(fence: Fence, post: Post, brace: Brace, sheet: BraceSheet) -> list[tuple[Say, Say]]:
    def row(name: str, text: str, **values: Value) -> tuple[Say, Say]:
        return Say(name), Say(text, values)

    rows = [
        row("Where", "{post} at {at}, the run " + ("ahead" if brace.end.at_start else "behind"), post=tag_name(fence, post.name), at=(brace.end.stations_m[0], "station")),
        row("Level string", "{up} over the ground at the end post", up=(sheet.string_m, "cut")),
    ]  # fmt: skip
    for k, p in enumerate(sheet.panels):
        which = "" if len(sheet.panels) == 1 else f", panel {k + 1}"
        rows += [
            row("Rail mark, outer post" + which, "{below} below the string ({over} over its ground)", below=(p.outer.below_m, "cut"), over=(p.outer.over_m, "cut")),
            row("Rail mark, inner post" + which, "{below} below the string ({over} over its ground)", below=(p.inner.below_m, "cut"), over=(p.inner.over_m, "cut")),
            row("Cut the rail" + which, "{rail}" + (" as measured" if p.measured else ", about: cut it to what you measure"), rail=(p.rail_m, "cut")),
        ]  # fmt: skip
        if p.wire_m:
            rows.append(row("Brace wire" + which, f"{{wire}}: {sheet.loops:g} turns of twice {{d}} and the wraps", wire=(p.wire_m, "station"), d=(p.diagonal_m, "cut")))  # fmt: skip
    rows += [
        row("Through spikes", "drill {d}, spikes of {long}", d=(sheet.pin_m, "gap"), long=(sheet.spike_long_m, "gap")),
        row("or half-hidden pins", "drill {d}, {half} into the post and {half} into the rail's end, pins of {long}", d=(sheet.pin_m, "gap"), half=(sheet.pin_long_m / 2, "gap"), long=(sheet.pin_long_m, "gap")),
        row("Set the end post", "{deep} deep", deep=(post.depth_m, "depth")),
    ]  # fmt: skip
    return rows


def _sheet_steps(brace: Brace, sheet: BraceSheet) -> list[Say]:
    way = (
        "from the top of this post to the foot of the brace post behind"
        if brace.end.crossed
        else "from the top of the inner post to the foot of the end post: on the other diagonal it goes slack"
    )
    found = [
        Say(
            "Stretch the string level, with a line level or a builder's level; measure down from it, not up from the ground."
        ),
        Say("Cut the rail last, to the clear distance measured at its marks, and set it snug."),
    ]
    if brace.kind != "welded":
        found += [
            Say(f"Run the wire {way}. Staple it askew to the grain at the outer posts' far sides, staples not driven home."),
            Say("Twist with a stick, or a ratchet, to about {aim}; the wire rings, the rail can't be shaken. Too much: the rail bows or the end post leans back. Staple the stick and leave it.", {"aim": (sheet.aim_n, "force")}),
        ]  # fmt: skip
    return found
