"""Events from the field: kept once, whatever comes twice."""

from datetime import UTC, datetime, timedelta
from typing import Annotated, Any

from fastapi import APIRouter, Body, Request
from fastapi.responses import JSONResponse, Response
from pydantic import ValidationError

from gnomonic.core.errors import BadInput
from gnomonic.core.job.reading import first_error
from gnomonic.core.limits import MOST_EVENTS, MOST_EVENTS_AT_ONCE
from gnomonic.core.log.events import Event
from gnomonic.core.log.facts import fold
from gnomonic.core.say import Say
from gnomonic.core.units import parse_length_m
from gnomonic.store import events, jobs
from gnomonic.web.parts import answered, line_asked, planned_job
from gnomonic.web.plans import PlannedJob
from gnomonic.web.room import room

router = APIRouter()
DEEPER_THAN_POST_M = 0.005


def read_events(rows: list[Any]) -> list[Event]:
    """Events as they came.  Raises BadInput with the path of the field."""
    if len(rows) > MOST_EVENTS_AT_ONCE:
        raise BadInput("events", f"events: {len(rows)} at once are more than {MOST_EVENTS_AT_ONCE}; send them in parts")
    found = []
    for k, row in enumerate(rows):
        try:
            found.append(Event.model_validate(row))
        except ValidationError as error:
            bad = first_error(error)
            raise BadInput(f"events[{k}].{bad.field}", f"events[{k}]: {bad.sentence}") from None
    return found


TYPED = {"reached": "reached_m", "proud": "proud_m", "along": "along_m", "clear": "clear_m"}


def _typed(row: dict[str, Any]) -> dict[str, Any]:
    """An event whose lengths may come as typed (``reached`` for ``reached_m``), bare ones in ``bare``."""
    made = {k: v for k, v in row.items() if k != "bare" and k not in TYPED and v is not None}
    for typed, key in TYPED.items():
        if isinstance(row.get(typed), str):
            try:
                made[key] = parse_length_m(
                    row[typed], row.get("bare") if row.get("bare") in ("in", "ft", "m", "mm") else None
                )
            except BadInput as error:
                raise BadInput(key, error.sentence) from None
    return made


@router.post("/api/v1/jobs/{job_id}/events")
def keep_events(
    request: Request,
    job_id: str,
    rows: Annotated[list[dict[str, Any]], Body(alias="events", min_length=1)],
    now: Annotated[datetime | None, Body()] = None,
    base: Annotated[int | None, Body()] = None,
) -> Response:
    """Keep events; ``now`` is the device's clock as it sends them.  Answers like an edit: the plan takes them in."""
    scope = room(request).scope
    before = jobs.load(scope, job_id)
    was = planned_job(request, before)
    read = read_events([_typed(row) for row in rows])
    read = [_of_a_post(was, event, k) for k, event in enumerate(read)]
    here = datetime.now(UTC)
    offset = here - now if now and now.tzinfo else timedelta()
    try:
        new = events.add(scope, job_id, read, offset).new
    except events.TooMany:
        raise BadInput("events", f"a job keeps {MOST_EVENTS:,} events at most") from None
    stored = jobs.load(scope, job_id)
    words = Say("written down; the plan takes it in") if new else Say("that was written down already")
    return answered(
        request, stored, planned_job(request, stored), line_asked(request) or read[0].line, words, (before, was)
    )


def _of_a_post(was: PlannedJob, event: Event, k: int) -> Event:
    """The event with its post's place on the ground; a depth deeper than the post is long, and a line that is not there, are refused."""
    plan = was.plan.lines.get(event.line)
    if plan is None:
        raise BadInput(f"events[{k}].line", f"events[{k}].line: nothing is planned on a line {event.line} of this job")
    post = next((p for p in plan.posts if p.name == event.post), None)
    if post is not None and event.kind == "depth" and (event.reached_m or 0.0) > post.length_m + DEEPER_THAN_POST_M:
        text = "events[{k}].reached_m is {d}: post {p} is only {long} long"
        raise BadInput(
            f"events[{k}].reached_m",
            Say(
                text.replace("{k}", str(k)),
                {
                    "d": (event.reached_m or 0.0, "depth"),
                    "long": (post.length_m, "depth"),
                    "p": event.line + event.post,
                },
            ),
        )
    if post is None or event.e_m is not None:
        return event
    return event.model_copy(update={"e_m": round(post.east_m, 4), "n_m": round(post.north_m, 4)})


@router.get("/api/v1/jobs/{job_id}/events")
def list_events(request: Request, job_id: str) -> Response:
    """Every event of a job as it was kept, and what they come to, by line and post."""
    jobs.glance(room(request).scope, job_id)
    kept = events.of_job(room(request).scope, job_id)
    known = {
        line: [{"post": b.post, "at_m": b.at_m, "reached_m": b.reached_m, "met": b.met, "along_m": b.along_m, "accepted": b.accepted, "cut": b.cut, "earlier": list(b.earlier)} for b in rows]
        for line, rows in fold(kept).items()
    }  # fmt: skip
    return JSONResponse({"events": [k.event.model_dump(mode="json", exclude_none=True) for k in kept], "known": known})
