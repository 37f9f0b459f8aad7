"""What every verb's routes share: a stored job with its plan, and the answer after an edit."""

import json
import re
from collections.abc import Callable
from typing import Any

from fastapi import Request
from fastapi.responses import Response

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.say import Say
from gnomonic.core.tell.compare import difference
from gnomonic.core.tell.unchanged import too_short, unchanged
from gnomonic.store import jobs
from gnomonic.store.jobs import Stored
from gnomonic.web.plans import Planned, Plans, said

MARKING_WORDS = {
    "not asked": "Not asked yet",
    "requested": "Asked; the marks are not in",
    "marked": "Marked",
    "clear": "Clear: nothing is buried there, says the desk",
    "expired": "The marks have run out",
    "elsewhere": "The line has left the ground that was asked about",
}


def file_out(body: bytes, media: str, name: str, ending: str) -> Response:
    """A download whose file name is the job's, in plain letters."""
    stem = re.sub(r"[^A-Za-z0-9]+", "-", name).strip("-").lower()[:60] or "job"
    return Response(body, media_type=media, headers={"Content-Disposition": f'attachment; filename="{stem}{ending}"'})


def planned(request: Request, stored: Stored) -> Planned:
    """The plan of a stored job."""
    plans: Plans = request.app.state.plans
    return plans.of(stored.job_id, stored.digest, stored.document)


def planned_of(request: Request, job_id: str) -> tuple[Stored, Planned]:
    """A job as it stands with its plan.  Raises NotThere."""
    stored = jobs.load(request.app.state.engine, job_id)
    return stored, planned(request, stored)


def safe(text: str) -> str:
    """JSON that can stand inside a script element."""
    return text.replace("<", "\\u003c")


def state_of_page(stored: Stored, planned: Planned) -> str:
    """What a job's page starts from, as JSON in a script element: where the job stands, and what it was measured in."""
    source = planned.job.line.source
    return safe(json.dumps({"job": stored.job_id, "units": source.unit, **standing(stored)}))


def standing(stored: Stored) -> dict[str, Any]:
    """Where a job stands among its versions."""
    return {"version": stored.version, "undo": stored.can_undo, "redo": stored.can_redo}


def answered(stored: Stored, planned: Planned, sentence: Say) -> Response:
    """The new version, what happened, and the drawing."""
    head = json.dumps({**standing(stored), "said": said(sentence)}, ensure_ascii=False)
    return Response(f'{head[:-1]},"drawing":{planned.drawing}}}', media_type="application/json")


def answer(stored: Stored, now: Planned, was: Planned, edit: dict[str, Any], words: str = "") -> Response:
    """The answer after an edit: words of its own and what changed in the plan, or why nothing did."""
    change = told(was, now, edit)
    lead = f"{words}: " if words else ""
    return answered(stored, now, Say(lead + change.t, change.v))


def told(was: Planned, now: Planned, edit: dict[str, Any]) -> Say:
    """What an edit changed in the plan, or why it changed nothing."""
    change = difference((was.job, was.plan), (now.job, now.plan))
    if change is None:
        return unchanged(was.job, now.job, now.plan, edit)
    short = too_short(now.job, now.plan) if edit.get("do") == "own_offcuts" else None
    return Say(f"{change.t}; {short.t}", {**change.v, **short.v}) if short else change


def change_job(
    request: Request,
    job_id: str,
    base: int,
    edit: dict[str, Any],
    asked: dict[str, Any] | None = None,
    words: str = "",
    outside: Callable[[], tuple[dict[str, Any], str]] | None = None,
) -> Response:
    """Apply an edit to the version the caller saw, save and answer; ``asked`` is what is recorded of it.

    ``outside`` does something that can't be taken back and returns the edit that records it, with words: it is done only
    when ``edit``, its rehearsal, was not refused, and while nobody else can change the job.  Raises Moved, NotThere, BadInput.
    """
    engine, plans = request.app.state.engine, request.app.state.plans
    before = jobs.load(engine, job_id)
    if before.version != base:
        raise jobs.Moved(before.version)
    was = planned(request, before)
    job = apply(was.job, read_edit(edit), plans.book())
    made = plans.make(job_id, job)
    with jobs.holding(engine, job_id, base) as save:
        if outside is not None:
            edit, words = outside()
            job = apply(was.job, read_edit(edit), plans.book())
            made = plans.make(job_id, job)
        stored = save(job, json.dumps(asked or edit, ensure_ascii=False))
    return answer(stored, plans.keep(stored.digest, made), was, edit, words)
