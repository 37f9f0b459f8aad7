"""The phone and the office: events and photos come in, once each however often they are sent; what others wrote goes out."""

from datetime import UTC, datetime
from typing import Annotated, Any

from fastapi import APIRouter, Body, Request
from fastapi.responses import JSONResponse, Response
from pydantic import ValidationError
from starlette.concurrency import run_in_threadpool

from gnomonic.core.errors import BadInput
from gnomonic.core.job.reading import first_error
from gnomonic.core.limits import MOST_EVENTS, MOST_EVENTS_AT_ONCE, MOST_PHOTOS
from gnomonic.core.log.events import Event
from gnomonic.formats.beside import beside
from gnomonic.formats.photo import shown
from gnomonic.store import events, field, jobs
from gnomonic.store.accounts import LEFT
from gnomonic.web.door.known import asks
from gnomonic.web.field.marks import marks_today
from gnomonic.web.room import room

router = APIRouter()
AT_ONCE = 1000  # of others' events in one answer


@router.post("/api/v1/jobs/{job_id}/log")
def deliver(
    request: Request,
    job_id: str,
    rows: Annotated[list[dict[str, Any]], Body(alias="events", max_length=MOST_EVENTS_AT_ONCE)],
    now: Annotated[datetime, Body()],
    after: Annotated[int, Body(ge=0)] = 0,
) -> Response:
    """Take events in and give those of others back that came ``after`` a number; ``now`` is the device's clock as it sends.

    Every event is answered for by itself (``took``): kept | again (it was here already) | held (an owner decides) | other (another event has
    its id) | the sentence why it can't be read.  Nothing is refused for being late, for a line that is gone, or for a clock that is wrong.
    """
    scope, found = room(request).scope, asks(request)
    if now.tzinfo is None:
        raise BadInput("now", "now must say its time zone, as in 2026-06-01T08:30:00Z")
    left = found is not None and found.role == LEFT
    offset = datetime.now(UTC) - now
    took, read = _read(rows)
    try:
        added = events.add(scope, job_id, read, offset, events.WAIT if left else "")
    except events.TooMany:
        raise BadInput(
            "events", f"a job keeps {MOST_EVENTS:,} events at most: nothing of this was kept; it stays on the phone"
        ) from None
    took |= (
        dict.fromkeys(added.new, "held" if left else "kept")
        | dict.fromkeys(added.again, "again")
        | dict.fromkeys(added.other, "other")
    )
    answer: dict[str, Any] = {"took": took, "offset_s": offset.total_seconds(), "left": left}
    if left:  # one who left delivers, and learns nothing more
        return JSONResponse(answer)
    news = events.rows_of(scope, job_id, after, AT_ONCE)
    answer |= {
        "n": news[-1].n if news else after,
        "more": len(news) == AT_ONCE,
        "events": [{"event": r.kept.event.model_dump(mode="json", exclude_none=True), "offset_s": r.kept.offset.total_seconds(), "by": r.kept.by} for r in news],
        "issue": field.last_issues(scope).get(job_id, 0),
        "marks": marks_today(scope, job_id),
    }  # fmt: skip
    return JSONResponse(answer)


def _read(rows: list[dict[str, Any]]) -> tuple[dict[str, str], list[Event]]:
    """Events that can be read, and what is said of those that can't, by their id."""
    took, read = {}, []
    for row in rows:
        try:
            read.append(Event.model_validate(row))
        except ValidationError as error:
            took[str(row.get("id", ""))[:36]] = first_error(error).sentence
    return took, read


@router.post("/api/v1/jobs/{job_id}/photos/{digest}")
async def take_photo(request: Request, job_id: str, digest: str) -> Response:
    """Take a photo in: the body is the picture, the address its SHA-256."""
    body = await request.body()
    return await run_in_threadpool(_photo_kept, request, job_id, digest, body)


def _photo_kept(request: Request, job_id: str, digest: str, body: bytes) -> Response:
    scope = room(request).scope
    jobs.glance(scope, job_id)
    made, wide, high = beside(shown, digest, body)
    try:
        field.keep_photo(scope, job_id, digest, wide, high, made)
    except field.TooManyPhotos:
        raise BadInput("photo", f"a job keeps {MOST_PHOTOS:,} photos at most: this one stays on the phone") from None
    return JSONResponse({"kept": digest})


@router.get("/api/v1/jobs/{job_id}/photos/{digest}")
def show_photo(request: Request, job_id: str, digest: str) -> Response:
    """A photo as it is kept."""
    body = field.photo(room(request).scope, job_id, digest)
    headers = {"Cache-Control": "private, max-age=31536000, immutable"}
    return Response(body, media_type="image/jpeg", headers=headers)
