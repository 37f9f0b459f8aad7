"""What every verb's routes share: a stored job with its plan, and the answer after an edit."""

import json
import re
from collections.abc import Callable
from dataclasses import replace
from typing import Annotated, Any

from fastapi import Query, Request
from fastapi.responses import Response

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.job.fence import fence_of
from gnomonic.core.limits import MOST_KEY
from gnomonic.core.say import Say
from gnomonic.core.tell.compare import difference
from gnomonic.core.tell.unchanged import too_short, unchanged
from gnomonic.store import jobs
from gnomonic.store.jobs import Stored
from gnomonic.store.scope import Scope
from gnomonic.web.draw.words import said
from gnomonic.web.haul.worth import Worth
from gnomonic.web.plans import Planned, PlannedJob, Plans, together
from gnomonic.web.room import Room, room

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


Station = Annotated[float, Query(ge=-1e6, le=1e6, allow_inf_nan=False)]


def asking(request: Request) -> Scope:
    """Whose rows, for a change: with what the page calls it (``Idempotency-Key``, or a field of its form), so that asked for twice it is done once."""
    key = getattr(request.state, "asked", "") or request.headers.get("idempotency-key", "")
    if len(key) > MOST_KEY or not key.isprintable():
        raise BadInput("Idempotency-Key", f"Idempotency-Key: at most {MOST_KEY} characters that can be printed")
    scope: Scope = room(request).scope
    return replace(scope, asked=key)


def as_it_stands(request: Request, job_id: str) -> Response:
    """The answer to a change that was done already, when it was asked for the first time."""
    stored = jobs.load(room(request).scope, job_id)
    return answered(request, stored, planned_job(request, stored), line_asked(request), Say("that was saved already"))


def planned_job(request: Request, stored: Stored) -> PlannedJob:
    """The plan of a stored job."""
    return plan_of(room(request), stored)


def plan_of(state: Room, stored: Stored) -> PlannedJob:
    """The plan of a stored job, by an application's plans, with or without a request."""
    plans: Plans = state.plans
    if found := plans.known(stored.key, stored.names):
        return found
    document = stored.document or jobs.document(state.scope, stored.version)
    return plans.of(stored.job_id, stored.key, document, stored.names)


def line_asked(request: Request) -> str:
    """The letter of the line a page or a call is about (``?line=B``); empty for the first."""
    return request.query_params.get("line", "")[:3]


def planned_of(request: Request, job_id: str) -> tuple[Stored, Planned]:
    """A job as it stands and the plan of the line that is asked for.  Raises NotThere, BadInput for one that stands already."""
    stored = jobs.glance(room(request).scope, job_id)
    try:
        return stored, planned_job(request, stored).line(line_asked(request))
    except KeyError:
        raise jobs.NotThere(job_id) from None


def safe(text: str) -> str:
    """JSON that can stand inside a script element."""
    return text.replace("<", "\\u003c")


def state_of_page(request: Request, stored: Stored, planned: Planned) -> str:
    """What a line's page starts from, as JSON in a script element: where the job stands, its lines, what it was measured in."""
    source = planned.fence.line.source
    mark = drawn_mark(request, stored, planned.fence.id)
    head = json.dumps(
        {"job": stored.job_id, "line": planned.fence.id, "units": source.unit, "seen": mark, **standing(stored)}
    )
    return safe(f'{head[:-1]},"lines":{planned.lines}}}')


def drawn_mark(request: Request, stored: Stored, line_id: str) -> str:
    """The mark of what a page draws of a line of a stored job today."""
    plans: Plans = room(request).plans
    return plans.mark(stored.key + stored.names, line_id)


def line_page(request: Request, template: str, stored: Stored, planned: Planned, **more: Any) -> Response:
    """A page of a line: where it is, its drawing, and what else the page shows."""
    context = {
        "job_id": stored.job_id,
        "name": planned.fence.title,
        "drawing": safe(planned.drawing),
        "state": state_of_page(request, stored, planned),
        **more,
    }
    return request.app.state.templates.TemplateResponse(request, template, context)  # type: ignore[no-any-return]


def standing(stored: Stored) -> dict[str, Any]:
    """Where a job stands among its versions."""
    return {"version": stored.version, "undo": stored.can_undo, "redo": stored.can_redo}


def answered(
    request: Request,
    stored: Stored,
    job: PlannedJob,
    line_id: str,
    sentence: Say,
    was: tuple[Stored, PlannedJob] | None = None,
) -> Response:
    """The new version, what happened, all lines, and the drawing of one; of the first where that one is there no more.

    A page that says (``?seen=``) it has drawn what the job ``was`` gets the parts that changed, named in ``parts``.
    """
    known = line_id in job.plan.lines
    drawn = job.line(line_id if known else "") if job.plan.lines else None
    shown = drawn.fence.id if drawn else ""
    head: dict[str, Any] = {**standing(stored), "said": said(sentence), "line": shown}
    head["seen"] = drawn_mark(request, stored, shown)
    parts, lines = (drawn.parts if drawn else {}), job.ground()
    has = request.query_params.get("seen", "")
    if was and shown in was[1].plan.lines and has == drawn_mark(request, was[0], shown):
        before = was[1].line(shown).parts
        parts = {key: text for key, text in parts.items() if before[key] != text}
        same = was[1].ground() == lines
        head["parts"] = [*parts, *([] if same else ["lines"])]
        lines = "null" if same else lines
    drawing = together(parts.values()) if drawn else "null"
    text = json.dumps(head, ensure_ascii=False)
    return Response(f'{text[:-1]},"lines":{lines},"drawing":{drawing}}}', media_type="application/json")


def told(was: PlannedJob, now: PlannedJob, edit: dict[str, Any], worth: Worth) -> Say:
    """What an edit changed in the plan and what that is ``worth``, or why it changed nothing.

    Lines whose plan stayed the same count alike before and after; others than the one that was edited are named where their
    posts changed.
    """
    line_id = str(edit.get("line") or "")
    touched = [k for k in {**was.plan.lines, **now.plan.lines} if was.plan.lines.get(k) is not now.plan.lines.get(k)]
    sides = [
        [(fence_of(side.job, k), side.plan.lines[k]) for k in touched if k in side.plan.lines] for side in (was, now)
    ]
    change = difference(*sides)
    if change is None:
        return _nothing(was, now, edit, line_id)
    if money := worth.of(was, now):
        change = Say(f"{change.t}, {{worth}}", {**change.v, "worth": money})
    names = {line.id: line.name for line in (*was.job.lines, *now.job.lines)}
    own = line_id or (fence_of(now.job).id if len(now.job.lines) == 1 else "")
    others = [names[k] for k in touched if k != own and _posts(was, k) != _posts(now, k)] if own else []
    if others and len(now.job.lines) > 1:
        lines = {f"other{k}": name for k, name in enumerate(others)}
        change = Say(f"{change.t} (with {', '.join(f'{{{k}}}' for k in lines)})", {**change.v, **lines})
    if edit.get("do") == "own_offcuts" and line_id in ("", *now.plan.lines):
        fence = fence_of(now.job, line_id)
        short = too_short(fence, now.plan.lines[fence.id])
        return Say(f"{change.t}; {short.t}", {**change.v, **short.v}) if short else change
    return change


def _posts(job: PlannedJob, line_id: str) -> list[float]:
    """Where a line's posts stand: rolls that are cut otherwise are no change of it worth a word."""
    made = job.plan.lines.get(line_id)
    return [p.station_m for p in made.posts] if made else []


def _nothing(was: PlannedJob, now: PlannedJob, edit: dict[str, Any], line_id: str) -> Say:
    """Why nothing of the plan changed."""
    ids = [
        line.id for line in now.job.lines if line.id in now.plan.lines and any(line.id == w.id for w in was.job.lines)
    ]
    own = line_id if line_id in ids else next(iter(ids), "")
    if not own:
        return Say("nothing is planned on these lines")
    return unchanged(fence_of(was.job, own), fence_of(now.job, own), now.plan.lines[own], edit)


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
    scope, plans = asking(request), room(request).plans
    before = jobs.load(scope, job_id)
    try:
        jobs.must_stand(scope, before, base)
        edit = of_line(request, edit)
        was = planned_job(request, before)
        job = apply(was.job, read_edit(edit), plans.book())
        made = plans.after(job_id, was, job)
        with jobs.holding(scope, job_id, base) as save:
            if outside is not None:
                given, words = outside()
                edit = of_line(request, given)
                job = apply(was.job, read_edit(edit), plans.book())
                made = plans.after(job_id, was, job)
            stored = save(job, json.dumps(asked or edit, ensure_ascii=False, default=str), made.names())
    except jobs.Done:
        return as_it_stands(request, job_id)
    now = plans.keep(stored.key, made, stored.names) if stored.events == before.events else planned_job(request, stored)
    change = told(was, now, edit, Worth.now(scope))
    lead = f"{words}: " if words else ""
    return answered(request, stored, now, edit.get("line", ""), Say(lead + change.t, change.v), (before, was))


def of_line(request: Request, edit: dict[str, Any]) -> dict[str, Any]:
    """An edit with the line it is of: its own, or the one the page shows."""
    asked = line_asked(request)
    return {"line": asked, **edit} if asked else edit
