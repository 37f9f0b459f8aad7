"""Set and Hang: the work surface, its edits, and what stands behind its numbers."""

import json
from collections import OrderedDict
from functools import cache
from typing import Annotated, Any

from fastapi import APIRouter, Body, Request
from fastapi.responses import JSONResponse, Response

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.say import Say
from gnomonic.core.tell.tag import bay_tag, post_tag, splice_tag
from gnomonic.core.tell.tag_job import job_tag
from gnomonic.core.units import parse_length_m
from gnomonic.store import jobs
from gnomonic.web.door.known import sees_money
from gnomonic.web.draw.lanes import steps_json
from gnomonic.web.draw.words import refusal, said, tag_json
from gnomonic.web.haul.worth import Worth
from gnomonic.web.parts import (
    answered,
    as_it_stands,
    asking,
    change_job,
    line_asked,
    line_page,
    of_line,
    planned_job,
    planned_of,
    safe,
    told,
)
from gnomonic.web.plans import PlannedJob, decision_words, fabric_labels
from gnomonic.web.room import room

router = APIRouter()
_weighed: OrderedDict[tuple[str, str, Worth], dict[str, Any]] = OrderedDict()
WEIGHED_KEPT = 512
BARE_UNITS = ("ft", "in", "m", "mm")


@cache
def _words() -> str:
    """What decisions and fabrics are called, for the page: data that never change while the program runs."""
    return safe(json.dumps({"decisions": decision_words(), "fabrics": fabric_labels()}, ensure_ascii=False))


@router.get("/jobs/{job_id}", include_in_schema=False)
def surface(request: Request, job_id: str) -> Response:
    """The work surface of a job."""
    stored, it = planned_of(request, job_id)
    return line_page(request, "set.html", stored, it, words=_words())


@router.get("/api/v1/jobs/{job_id}/plan")
def current(request: Request, job_id: str) -> Response:
    """The job as it stands: version and drawing."""
    stored = jobs.load(room(request).scope, job_id)
    return answered(request, stored, planned_job(request, stored), line_asked(request), Say("as it stands"))


@router.post("/api/v1/jobs/{job_id}/edits")
def edit(
    request: Request, job_id: str, base: Annotated[int, Body()], edit: Annotated[dict[str, Any], Body()]
) -> Response:
    """Apply an edit to the version the caller saw; 409 when the job has moved on."""
    return change_job(request, job_id, base, _lengths_read(edit), edit)


def _lengths_read(edit: dict[str, Any]) -> dict[str, Any]:
    """Lengths may come as typed (``12 ft 6 in``) under the key they have in metres."""
    read = dict(edit)
    if "bare" in edit and edit["bare"] not in BARE_UNITS:
        raise BadInput("bare", f"bare must be one of {', '.join(BARE_UNITS)}: the unit of numbers typed without one")
    for key, value in edit.items():
        typed = key.endswith("_m") or (key == "value" and str(edit.get("key", "")).endswith("_m"))
        if typed and isinstance(value, str | list):
            try:
                read[key] = _metres(value, edit.get("bare"))
            except BadInput as error:
                raise BadInput(key, error.sentence) from None
    read.pop("bare", None)
    return read


def _metres(value: Any, bare: str | None) -> Any:
    """Typed lengths, also in a list, as metres; anything else as it is."""
    if isinstance(value, list):
        return tuple(_metres(part, bare) for part in value)
    return parse_length_m(value, bare) if isinstance(value, str) else value


@router.post("/api/v1/jobs/{job_id}/undo")
def undo(request: Request, job_id: str, base: Annotated[int, Body(embed=True)]) -> Response:
    """Take the last edit back."""
    return _step(request, job_id, base, True)


@router.post("/api/v1/jobs/{job_id}/redo")
def redo(request: Request, job_id: str, base: Annotated[int, Body(embed=True)]) -> Response:
    """Do the edit again that was taken back."""
    return _step(request, job_id, base, False)


def _step(request: Request, job_id: str, base: int, back: bool) -> Response:
    before = jobs.load(room(request).scope, job_id)
    try:
        stored = jobs.step(asking(request), job_id, base, back)
    except jobs.Done:
        return as_it_stands(request, job_id)
    now, line = planned_job(request, stored), line_asked(request)
    if stored.version == before.version:
        return answered(request, stored, now, line, Say("nothing to " + ("undo" if back else "redo")))
    was = planned_job(request, before)
    change = told(was, now, {"line": line}, Worth.now(room(request).scope))
    words = Say(("undone: " if back else "done again: ") + change.t, change.v)
    return answered(request, stored, now, line, words, (before, was))


@router.post("/api/v1/jobs/{job_id}/weigh")
def weigh(request: Request, job_id: str, edit: Annotated[dict[str, Any], Body(embed=True)]) -> Response:
    """What an edit would do, without doing it."""
    stored = jobs.load(room(request).scope, job_id)
    plans = room(request).plans
    edit = of_line(request, edit)
    if edit.get("do") == "log":
        return JSONResponse(
            {"said": said(Say("written down as a fact of that post: nothing is planned anew by it")), "fewer_snags": 1}
        )
    worth = Worth.now(room(request).scope) if sees_money(request) else Worth("", ())  # the crew weighs on the index
    key = (plans.key(stored.key), json.dumps(edit, sort_keys=True), worth)
    if key not in _weighed:
        was = planned_job(request, stored)
        try:
            after = plans.after(job_id, was, apply(was.job, read_edit(_lengths_read(edit)), plans.book()))
            _weighed[key] = {
                "said": said(told(was, after, edit, worth)),
                "fewer_snags": _snags(was, edit) - _snags(after, edit),
            }
        except BadInput as error:
            _weighed[key] = {"said": said(refusal(error)), "fewer_snags": 0}
        while len(_weighed) > WEIGHED_KEPT:
            _weighed.popitem(last=False)
    return JSONResponse(_weighed[key])


def _snags(job: PlannedJob, edit: dict[str, Any]) -> int:
    """Snags of the line an edit is of; none where it is there no more."""
    line = str(edit.get("line", ""))
    return len(job.line(line).snags) if line in ("", *job.plan.lines) else 0


@router.get("/api/v1/jobs/{job_id}/steps")
def steps(request: Request, job_id: str) -> Response:
    """The work on a line, in order."""
    _, it = planned_of(request, job_id)
    return JSONResponse(steps_json(it.fence, it.plan))


@router.get("/api/v1/jobs/{job_id}/tag")
def tag(
    request: Request, job_id: str, post: int | None = None, bay: int | None = None, splice: int | None = None
) -> Response:
    """What is known of a post, a bay or a splice; of the whole job when none is named."""
    _, it = planned_of(request, job_id)
    if post is not None:
        found = post_tag(it.fence, it.plan, post)
    elif bay is not None:
        found = bay_tag(it.fence, it.plan, bay)
    elif splice is not None:
        found = splice_tag(it.fence, it.plan, splice)
    else:
        found = job_tag(it.fence, it.plan)
    return JSONResponse(tag_json(found))
