"""The rover page: connect to a receiver, walk, mark, and bring the walk in."""

import asyncio
import json
import os
from collections.abc import AsyncIterator
from datetime import date
from typing import Annotated, Any

from fastapi import APIRouter, Body, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response, StreamingResponse
from starlette.concurrency import run_in_threadpool

from gnomonic.core.errors import Away, BadInput
from gnomonic.core.ground.found import found_kinds
from gnomonic.core.limits import MOST_A_PAGE, MOST_NAME, MOST_WALKS
from gnomonic.formats.raw import plain
from gnomonic.formats.reading import whole
from gnomonic.standins.rover import Manners
from gnomonic.store import jobs, walks
from gnomonic.store.scope import Scope
from gnomonic.web.room import room
from gnomonic.web.walk import recorder
from gnomonic.web.walk.receiver import document

router = APIRouter()
TICK_S = 0.25
AWAY_S = 2.0
MARKED = ("corner", "gate", "rock", "tree", "water", "wet", "bank", "fence_keep", "fence_pull", "service", "scrap", "wire", "nest", "overhead")  # fmt: skip


def _hub(request: Request) -> recorder.Hub:
    return room(request).hub


@router.get("/rover", include_in_schema=False)
def walks_page(request: Request, page: int = 1) -> Response:
    """The walks so far, and a new one."""
    page = min(max(page, 1), MOST_WALKS)
    rows = walks.listed(room(request).scope, page)
    context = {
        "walks": rows[:MOST_A_PAGE],
        "page": page,
        "more": len(rows) > MOST_A_PAGE,
        "configured": os.environ.get("GNOMONIC_ROVER", ""),
    }
    return request.app.state.templates.TemplateResponse(request, "rovers.html", context)  # type: ignore[no-any-return]


@router.get("/rover/{walk_id}", include_in_schema=False)
def rover_page(request: Request, walk_id: str) -> Response:
    """One walk, live."""
    row = walks.there(room(request).scope, walk_id)
    kinds = {k: found_kinds()[k].title for k in MARKED}
    context = {"walk_id": walk_id, "source": row.source, "kinds": kinds, "live": row.wanted, "ended": row.ended}
    return request.app.state.templates.TemplateResponse(request, "rover.html", context)  # type: ignore[no-any-return]


@router.post("/rover", include_in_schema=False)
async def begin(request: Request) -> Response:
    """Start a walk."""
    form = {k: str(v) for k, v in (await request.form()).items()}
    source = "receiver" if form.get("source") == "receiver" else "practice"
    manners = Manners(
        noise_m=_number(form, "noise_cm", 2, 0, 500) / 100,
        lose_fix_every_s=_number(form, "lose", 0, 0, 3600),
        jump_every_s=_number(form, "jump", 0, 0, 3600),
        hang_up_every_s=_number(form, "hang_up", 0, 0, 3600),
        garble_every_s=_number(form, "garble", 0, 0, 3600),
        speed_mps=_number(form, "speed", 1.4, 0.1, 10),
    )
    walk_id = await run_in_threadpool(recorder.begin, _hub(request), source, manners)
    return RedirectResponse(f"/rover/{walk_id}", 303)


def _number(form: dict[str, str], key: str, usual: float, least: float, most: float) -> float:
    text = form.get(key, "").strip()
    if not text:
        return usual
    try:
        value = float(text)
    except ValueError:
        raise BadInput(key, f"“{text[:20]}” is not a number") from None
    if not least <= value <= most:
        raise BadInput(key, f"{key.replace('_', ' ')} must lie between {least:g} and {most:g}, not {text[:20]}")
    return value


@router.get(
    "/api/v1/walks/{walk_id}/live",
    response_model=None,
    response_class=StreamingResponse,
    responses={200: {"description": "The walk as it goes on", "content": {"text/event-stream": {}}}},
)
async def live(request: Request, walk_id: str, after: int = -1) -> StreamingResponse:
    """The walk as server-sent events: how it stands, what was marked, and the trail beyond a fix number.

    Each event's id is the last fix drawn, so a page that comes back goes on where it was.
    """
    scope = room(request).scope
    await run_in_threadpool(walks.there, scope, walk_id)
    last = request.headers.get("last-event-id", "")
    seen = whole(last)
    start = after if seen is None else seen

    async def events() -> AsyncIterator[str]:
        at = start
        while not await request.is_disconnected():
            try:
                row = await run_in_threadpool(walks.there, scope, walk_id)
                new = await run_in_threadpool(walks.trail, scope, walk_id, at)
                body = await run_in_threadpool(_standing, scope, row)
                marks = await run_in_threadpool(walks.marks, scope, walk_id)
            except Away as error:
                yield f"event: away\ndata: {json.dumps({'said': error.sentence})}\n\n"
                await asyncio.sleep(AWAY_S)
                continue
            at = new[-1].n if new else at
            body["trail"] = [[j.n, j.fix.lon_deg, j.fix.lat_deg, round(j.fix.h_m, 3)] for j in new]
            body["marks"] = marks
            yield f"id: {max(at, 0)}\ndata: {json.dumps(body)}\n\n"
            if body["state"] == "ended":
                return
            await asyncio.sleep(TICK_S)

    return StreamingResponse(events(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})


@router.post("/api/v1/walks/{walk_id}/marks")
def mark(
    request: Request,
    walk_id: str,
    kind: Annotated[str, Body()],
    name: Annotated[str, Body(max_length=MOST_NAME)] = "",
    seconds: Annotated[float, Body()] = 5.0,
) -> Response:
    """Average where the walker stands, and name it."""
    if not walks.there(room(request).scope, walk_id).wanted:
        raise BadInput("walk", "this walk is not being recorded now: go on with it first")
    recorder.ordered(_hub(request), walk_id, "mark", kind=kind, name=plain(name), seconds=seconds)
    return JSONResponse({"said": f"stand still for {seconds:g} s"})


@router.delete("/api/v1/walks/{walk_id}/marks/{mark_id}")
def unmark(request: Request, walk_id: str, mark_id: int) -> Response:
    """Take a mark back."""
    walks.unmark(room(request).scope, walk_id, mark_id)
    return JSONResponse({"said": "taken back"})


@router.post("/rover/{walk_id}/go-on", include_in_schema=False)
def go_on(request: Request, walk_id: str) -> Response:
    """Record on, after a pause or a restart."""
    row = walks.there(room(request).scope, walk_id)
    recorder.go_on(_hub(request), walk_id, row.source)
    return RedirectResponse(f"/rover/{walk_id}", 303)


@router.post("/rover/{walk_id}/pause", include_in_schema=False)
def pause(request: Request, walk_id: str) -> Response:
    """Stop recording; the walk stays."""
    walks.there(room(request).scope, walk_id)
    walks.want(room(request).scope, walk_id, False)
    recorder.settled(_hub(request), walk_id)
    return RedirectResponse(f"/rover/{walk_id}", 303)


@router.post("/rover/{walk_id}/remove", include_in_schema=False)
def remove(request: Request, walk_id: str) -> Response:
    """Throw a walk away."""
    walks.there(room(request).scope, walk_id)
    walks.remove(room(request).scope, walk_id)
    _hub(request).notice()
    return RedirectResponse("/rover", 303)


@router.post("/rover/{walk_id}/bring-in", include_in_schema=False)
async def bring_in(request: Request, walk_id: str) -> Response:
    """The walk becomes a line to be looked at."""
    form = {k: str(v) for k, v in (await request.form()).items()}
    tolerance = _number(form, "tolerance_cm", 5, 0.5, 1000) / 100
    return await run_in_threadpool(_brought, request, walk_id, tolerance)


def _brought(request: Request, walk_id: str, tolerance_m: float) -> Response:
    scope = room(request).scope
    row = walks.there(scope, walk_id)
    if row.wanted:
        recorder.ordered(_hub(request), walk_id, "save")
    arrival = jobs.keep_arrival(scope, f"walk of {date.today()}.json", document(scope, walk_id, tolerance_m))
    walks.want(scope, walk_id, False, ended=True)  # the receiver is free for the next
    _hub(request).notice()
    return RedirectResponse(f"/bring-in/{arrival}", 303)


def _standing(scope: Scope, row: walks.Walk) -> dict[str, Any]:
    """How a walk stands, as the recorder told it last; ended where nothing is wanted of it."""
    if not row.wanted:
        return {"state": "ended", "counts": walks.count(scope, row.walk_id)}
    told = {k: v for k, v in row.told.items() if k != "answer"}
    if not told or told["state"] == "ended" or not row.fresh:
        return {"state": "connecting", "said": "", "counts": walks.count(scope, row.walk_id)}
    return told
