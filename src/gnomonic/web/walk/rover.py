"""The rover page: connect to a receiver, walk, mark, and bring the walk in."""

import asyncio
import json
import os
from collections.abc import AsyncIterator
from dataclasses import dataclass, field
from datetime import date
from typing import Annotated, Any

from fastapi import APIRouter, Body, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response, StreamingResponse
from starlette.concurrency import run_in_threadpool

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.found import found_kinds
from gnomonic.demo.load import demo_path
from gnomonic.formats.raw import plain
from gnomonic.standins.rover import Manners, Rover
from gnomonic.store import jobs, walks
from gnomonic.store.scope import Scope
from gnomonic.web.walk.receiver import LiveWalk, document

router = APIRouter()
TICK_S = 0.25
MARKED = ("corner", "gate", "rock", "tree", "water", "wet", "bank", "fence_keep", "fence_pull", "service", "scrap", "wire", "nest", "overhead")  # fmt: skip


@dataclass(slots=True)
class Hub:
    """The walks being recorded now, and the practice rover."""

    scope: Scope
    live: dict[str, LiveWalk] = field(default_factory=dict)
    practice: dict[str, Rover] = field(default_factory=dict)

    def connect(self, walk_id: str, source: str, manners: Manners) -> LiveWalk:
        """Go on with a walk: from the practice rover, or the configured receiver."""
        self.hang_up(walk_id)
        if source == "practice":
            if walk_id not in self.practice:
                self.practice[walk_id] = Rover(demo_path(), manners)
            host, port = self.practice[walk_id].address
        else:
            host, port = configured()
        walk = LiveWalk(self.scope, walk_id, host, port)
        self.live[walk_id] = walk
        walk.start()
        return walk

    def hang_up(self, walk_id: str) -> None:
        """End the recording; what came is saved.  A practice rover stands where it is until it is heard again."""
        if walk_id in self.live:
            self.live.pop(walk_id).end()

    def forget(self, walk_id: str) -> None:
        """End the recording, and the practice rover with it."""
        self.hang_up(walk_id)
        if walk_id in self.practice:
            self.practice.pop(walk_id).stop()

    def close(self) -> None:
        """End every recording and every practice rover."""
        for walk_id in [*self.live, *self.practice]:
            self.forget(walk_id)


def configured() -> tuple[str, int]:
    """Host and port of the receiver in ``GNOMONIC_ROVER``.  Raises BadInput where there is none."""
    host, _, port = os.environ.get("GNOMONIC_ROVER", "").rpartition(":")
    if not host or not port.isdigit():
        raise BadInput(
            "source", "no receiver is configured: start Gnomonic with GNOMONIC_ROVER=host:port, or walk with the practice rover"
        )  # fmt: skip
    return host, int(port)


def _hub(request: Request) -> Hub:
    return request.app.state.hub  # type: ignore[no-any-return]


@router.get("/rover", include_in_schema=False)
def walks_page(request: Request) -> Response:
    """The walks so far, and a new one."""
    context = {
        "walks": walks.listed(request.app.state.scope),
        "live": set(_hub(request).live),
        "configured": os.environ.get("GNOMONIC_ROVER", ""),
    }
    return request.app.state.templates.TemplateResponse(request, "rovers.html", context)  # type: ignore[no-any-return]


@router.get("/rover/{walk_id}", include_in_schema=False)
def rover_page(request: Request, walk_id: str) -> Response:
    """One walk, live."""
    row = walks.there(request.app.state.scope, walk_id)
    kinds = {k: found_kinds()[k].title for k in MARKED}
    context = {"walk_id": walk_id, "source": row.source, "kinds": kinds, "live": walk_id in _hub(request).live}
    return request.app.state.templates.TemplateResponse(request, "rover.html", context)  # type: ignore[no-any-return]


@router.post("/rover", include_in_schema=False)
async def begin(request: Request) -> Response:
    """Start a walk."""
    form = {k: str(v) for k, v in (await request.form()).items()}
    source = "receiver" if form.get("source") == "receiver" else "practice"
    if source == "receiver":
        configured()
    manners = Manners(
        noise_m=_number(form, "noise_cm", 2, 0, 500) / 100,
        lose_fix_every_s=_number(form, "lose", 0, 0, 3600),
        jump_every_s=_number(form, "jump", 0, 0, 3600),
        hang_up_every_s=_number(form, "hang_up", 0, 0, 3600),
        garble_every_s=_number(form, "garble", 0, 0, 3600),
        speed_mps=_number(form, "speed", 1.4, 0.1, 10),
    )
    walk_id = await run_in_threadpool(walks.begin, request.app.state.scope, source)
    await run_in_threadpool(_hub(request).connect, walk_id, source, manners)
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


def _live(request: Request, walk_id: str) -> LiveWalk:
    walks.there(request.app.state.scope, walk_id)
    live = _hub(request).live.get(walk_id)
    if live is None:
        raise BadInput("walk", "this walk is not being recorded now: go on with it first")
    return live


@router.get("/api/v1/walks/{walk_id}/live", response_model=None)
async def live(request: Request, walk_id: str, after: int = -1) -> StreamingResponse:
    """The walk as server-sent events: how it stands, what was marked, and the trail beyond a fix number.

    Each event's id is the last fix drawn, so a page that comes back goes on where it was.
    """
    scope = request.app.state.scope
    await run_in_threadpool(walks.there, scope, walk_id)
    last = request.headers.get("last-event-id", "")
    start = int(last) if last.isdigit() else after

    async def events() -> AsyncIterator[str]:
        at = start
        while not await request.is_disconnected():
            walk = _hub(request).live.get(walk_id)
            new = await run_in_threadpool(walks.trail, scope, walk_id, at)
            at = new[-1].n if new else at
            body: dict[str, Any] = (
                walk.snapshot()
                if walk
                else {"state": "ended", "counts": await run_in_threadpool(walks.count, scope, walk_id)}
            )
            body["trail"] = [[j.n, j.fix.lon_deg, j.fix.lat_deg, round(j.fix.h_m, 3)] for j in new]
            body["marks"] = await run_in_threadpool(walks.marks, scope, walk_id)
            yield f"id: {max(at, 0)}\ndata: {json.dumps(body)}\n\n"
            if walk is None:
                return
            await asyncio.sleep(TICK_S)

    return StreamingResponse(events(), media_type="text/event-stream", headers={"Cache-Control": "no-store"})


@router.post("/api/v1/walks/{walk_id}/marks")
def mark(
    request: Request,
    walk_id: str,
    kind: Annotated[str, Body()],
    name: Annotated[str, Body(max_length=120)] = "",
    seconds: Annotated[float, Body()] = 5.0,
) -> Response:
    """Average where the walker stands, and name it."""
    _live(request, walk_id).mark(kind, plain(name), seconds)
    if walk_id in _hub(request).practice:
        _hub(request).practice[walk_id].stand(seconds)
    return JSONResponse({"said": f"stand still for {seconds:g} s"})


@router.delete("/api/v1/walks/{walk_id}/marks/{mark_id}")
def unmark(request: Request, walk_id: str, mark_id: int) -> Response:
    """Take a mark back."""
    walks.unmark(request.app.state.scope, walk_id, mark_id)
    return JSONResponse({"said": "taken back"})


@router.post("/rover/{walk_id}/go-on", include_in_schema=False)
def go_on(request: Request, walk_id: str) -> Response:
    """Record on, after a pause or a restart."""
    row = walks.there(request.app.state.scope, walk_id)
    _hub(request).connect(walk_id, row.source, Manners())
    return RedirectResponse(f"/rover/{walk_id}", 303)


@router.post("/rover/{walk_id}/pause", include_in_schema=False)
def pause(request: Request, walk_id: str) -> Response:
    """Stop recording; the walk stays."""
    walks.there(request.app.state.scope, walk_id)
    _hub(request).hang_up(walk_id)
    return RedirectResponse(f"/rover/{walk_id}", 303)


@router.post("/rover/{walk_id}/remove", include_in_schema=False)
def remove(request: Request, walk_id: str) -> Response:
    """Throw a walk away."""
    walks.there(request.app.state.scope, walk_id)
    _hub(request).forget(walk_id)
    walks.remove(request.app.state.scope, walk_id)
    return RedirectResponse("/rover", 303)


@router.post("/rover/{walk_id}/bring-in", include_in_schema=False)
async def bring_in(request: Request, walk_id: str) -> Response:
    """The walk becomes a line to be looked at."""
    form = {k: str(v) for k, v in (await request.form()).items()}
    tolerance = _number(form, "tolerance_cm", 5, 0.5, 1000) / 100
    return await run_in_threadpool(_brought, request, walk_id, tolerance)


def _brought(request: Request, walk_id: str, tolerance_m: float) -> Response:
    scope = request.app.state.scope
    walks.there(scope, walk_id)
    live: LiveWalk | None = _hub(request).live.get(walk_id)
    if live is not None:
        live.flush()
    body: Any = document(scope, walk_id, tolerance_m)
    return RedirectResponse(f"/bring-in/{jobs.keep_arrival(scope, f'walk of {date.today()}.json', body)}", 303)
