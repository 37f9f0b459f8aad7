"""Asking where services are buried: the page, the request to the desk, its answer taken into the job."""

import os
from datetime import date
from pathlib import Path
from typing import Annotated, Any
from urllib.parse import quote

import numpy as np
from fastapi import APIRouter, Body, Request
from fastapi.responses import JSONResponse, Response

from gnomonic.core.edits.all import read_edit
from gnomonic.core.edits.measured import route_of
from gnomonic.core.errors import Away, BadInput, NoPlan
from gnomonic.core.ground.marking import may_dig, state_of, white_lining
from gnomonic.core.ground.measuring import rule
from gnomonic.core.job.fence import Fence, fences
from gnomonic.core.plan.model import hand_dug
from gnomonic.core.units import System
from gnomonic.formats.frame import to_local, to_world
from gnomonic.standins.desk import Desk as PracticeBooks
from gnomonic.standins.desk import PracticeDesk
from gnomonic.store import jobs
from gnomonic.web.outside import OnLine, Outside
from gnomonic.web.parts import (
    MARKING_WORDS,
    as_it_stands,
    asking,
    change_job,
    planned_job,
    planned_of,
    safe,
    state_of_page,
)
from gnomonic.web.plans import Planned
from gnomonic.web.room import room

router = APIRouter()
UNCHANGED = "nothing was changed"
UNREAD = f"the marking desk's answer can't be read: {UNCHANGED}"
OUTSIDE = Outside(
    "desk", "the marking desk", "GNOMONIC_DESK_URL", UNCHANGED, "; try again, or call it",
    ("ticket", "the marking desk does not know this ticket: ask again"),
)  # fmt: skip


def _practice() -> PracticeDesk:
    """The practice desk; it keeps its tickets where the checkout has a place for them."""
    home = os.environ.get("GNOMONIC_HOME")
    return PracticeDesk(PracticeBooks(file=Path(home) / "var" / "practice-desk.json" if home else None))


class Desk(OnLine):
    """The marking desk: the one at ``GNOMONIC_DESK_URL``, or the practice desk that ships with Gnomonic."""

    def __init__(self) -> None:
        super().__init__("GNOMONIC_DESK_URL", _practice)

    def call(self, path: str, body: dict[str, Any] | None = None) -> dict[str, Any]:
        """One call.  Raises Away with one sentence."""
        return OUTSIDE.call(self.address() + path, body)


def _number(value: object) -> float:
    """A number as JSON has them; a word or a yes is none.  Raises TypeError."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise TypeError("not a number")
    return float(value)


def _corners(planned: Planned) -> list[float]:
    return [r.start.station_m for r in planned.plan.runs if r.start.role != "gate"]


def _places(fence: Fence, places: list[tuple[float, float]], out: bool) -> list[list[float]]:
    """Places of the job as the desk writes them, or back."""
    if fence.frame.kind == "local" or not places:
        return [list(p) for p in places]
    table = np.array(places)
    east, north = (to_world if out else to_local)(fence.frame, table[:, 0], table[:, 1])
    return [
        [round(a, 9 if out else 4), round(b, 9 if out else 4)]
        for a, b in zip(east.tolist(), north.tolist(), strict=True)
    ]


@router.get("/jobs/{job_id}/marking", include_in_schema=False)
def marking_page(request: Request, job_id: str, units: str = "us") -> Response:
    """Where the marking stands, what to flag white, and what was marked."""
    stored, planned = planned_of(request, job_id)
    fence, line = planned.fence, planned.plan.course
    state = state_of(fence.marking, line, date.today())
    system: System = "metric" if units == "metric" else "us"
    marks = white_lining(line, _corners(planned))
    world = _places(fence, [(m.east_m, m.north_m) for m in marks], True)
    context = {
        "job_id": job_id,
        "name": fence.title,
        "units": system,
        "state": state,
        "words": MARKING_WORDS[state],
        "may_dig": may_dig(state),
        "marking": fence.marking,
        "practice": room(request).desk.is_practice,
        "geographic": fence.frame.kind == "geographic",
        "white_every_m": rule("white_every_m"),
        "white": [{"at": m.station_m, "why": m.why, "place": p} for m, p in zip(marks, world, strict=True)],
        "services": [t for t in planned.plan.things if t.found.kind == "service"],
        "hand_dug": sorted(hand_dug(planned.plan)),
        "drawing": safe(planned.drawing),
        "state_json": state_of_page(request, stored, planned),
    }
    return request.app.state.templates.TemplateResponse(request, "marking.html", context)  # type: ignore[no-any-return]


@router.post("/api/v1/jobs/{job_id}/marking/ask")
def ask(request: Request, job_id: str, base: Annotated[int, Body(embed=True)]) -> Response:
    """File a request for the line as it stands, with its white-lining list."""
    stored, planned = planned_of(request, job_id)
    try:
        jobs.must_stand(asking(request), stored, base)
    except jobs.Done:
        return as_it_stands(request, job_id)
    fence = planned.fence
    routes = [list(route_of(f.line)) for f in fences(fence.job) if f.own.standing != "there"]
    views = planned_job(request, stored).all()
    white = [m for it in views for m in white_lining(it.plan.course, _corners(it))]
    body = {
        "routes": [_places(fence, route, True) for route in routes],
        "frame": fence.frame.kind,
        "reach_m": rule("reach_m"),
        "white": _places(fence, [(m.east_m, m.north_m) for m in white], True),
    }
    today = date.today().isoformat()

    def edit(ticket: str, wait_until: str) -> dict[str, Any]:
        asked = {"asked_on": today, "wait_until": wait_until, "reach_m": rule("reach_m")}
        return {"do": "ask_marking", "ticket": ticket, **asked}

    def filed() -> tuple[dict[str, Any], str]:
        reply = room(request).desk.call("/tickets", body)
        try:
            made = edit(reply["ticket"], reply["wait_until"])
            read_edit(made)
        except (KeyError, BadInput):
            raise Away("desk", UNREAD) from None
        return made, f"asked under ticket {made['ticket']}"

    return change_job(request, job_id, base, edit("not filed yet", today), outside=filed)


@router.post("/api/v1/jobs/{job_id}/marking/look")
def look(request: Request, job_id: str, base: Annotated[int, Body(embed=True)]) -> Response:
    """See whether the marks are in, and take them."""
    stored, planned = planned_of(request, job_id)
    if stored.version != base:
        raise jobs.Moved(stored.version)
    fence = planned.fence
    if fence.marking is None:
        raise BadInput("marking", "nothing was asked yet: ask first")
    reply = room(request).desk.call(f"/tickets/{quote(fence.marking.ticket, safe='')}")
    if reply.get("state") == "requested":
        return JSONResponse({"waiting": True, "said": "the marks are not in yet"})
    try:
        marks = [
            {
                "name": str(m["name"])[:120],
                "shape": _places(fence, [(_number(e), _number(n)) for e, n in m["shape"]], False),
                "zone_m": _number(m["zone_m"]),
            }
            for m in reply.get("marks", [])
        ]
        edit = {
            "do": "take_marks",
            "ticket": fence.marking.ticket,
            "state": reply["state"],
            "expires_on": reply["expires_on"],
            "marks": marks,
        }
    except (KeyError, TypeError, ValueError):
        raise Away("desk", UNREAD) from None
    count = f"{len(marks)} service{'' if len(marks) == 1 else 's'} marked" if marks else "clear"
    try:
        return change_job(request, job_id, base, edit, words=count)
    except NoPlan:
        raise
    except BadInput as error:
        raise Away("desk", f"the marking desk's answer can't be used ({error.sentence}): {UNCHANGED}") from None
