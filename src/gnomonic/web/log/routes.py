"""The log in the office: what was done along the lines, what asks for somebody, the planner's yes, the fence's book; the way out, and a client's look."""

import base64
import binascii
import json
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response
from pydantic import ValidationError

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.marking import may_dig, state_of
from gnomonic.core.job.fence import Fence, fences
from gnomonic.core.log.events import Event, Kept
from gnomonic.core.log.facts import Facts
from gnomonic.core.log.safety import without_marks
from gnomonic.core.log.upkeep import repairs, rounds
from gnomonic.core.plain_json import read_json
from gnomonic.core.tell.field_log import book_of, marks_span, of_post, troubles, words_of
from gnomonic.core.units import System
from gnomonic.formats.beside import beside
from gnomonic.formats.field_log import LogRow, log_csv, log_geojson, log_xlsx
from gnomonic.formats.photo import shown
from gnomonic.store import events, field, jobs
from gnomonic.store.accounts import OWNER, PLANNER
from gnomonic.store.jobs import Stored
from gnomonic.web.door.known import asks
from gnomonic.web.field.pack import changed
from gnomonic.web.haul.costed import system_of
from gnomonic.web.home.summary import BOX, outlines
from gnomonic.web.log.known import known
from gnomonic.web.log.lane import lane
from gnomonic.web.parts import file_out, planned_job
from gnomonic.web.plans import PlannedJob
from gnomonic.web.problems import a_file
from gnomonic.web.room import room

router = APIRouter()
SHOWN = 120
CSV, GEOJSON = "text/csv; charset=utf-8", "application/geo+json"
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


@dataclass(frozen=True, slots=True)
class Logged:
    """A job with its plan and all that is written of it."""

    stored: Stored
    job: PlannedJob
    kept: list[Kept]
    known: Facts
    fences: dict[str, Fence]

    def of(self, event: Event) -> str:
        """What an event is of."""
        return of_post(self.fences.get(event.line), event)


def logged(request: Request, job_id: str) -> Logged:
    """It, as it stands.  Raises NotThere."""
    scope = room(request).scope
    stored = jobs.glance(scope, job_id)
    job = planned_job(request, stored)
    kept, folded = known(scope, job_id)
    return Logged(stored, job, kept, folded, {f.id: f for f in fences(job.job)})


@router.get("/jobs/{job_id}/log", include_in_schema=False)
def log_page(request: Request, job_id: str, units: str = "") -> Response:
    """The log."""
    return _page(request, job_id, units)


def _page(
    request: Request, job_id: str, units: str = "", status: int = 200, error: str = "", told: str = ""
) -> Response:
    it, scope, who = logged(request, job_id), room(request).scope, asks(request)
    system = system_of(units, it.job)
    views = it.job.all()
    marks = {v.fence.id: (v.fence.marking, v.plan.course) for v in views}
    states = {k: state_of(m, course, date.today()) for k, (m, course) in marks.items()}
    held = {k: marks_span(m, may_dig(states[k]) or states[k] == "expired") for k, (m, _) in marks.items()}
    unmarked = without_marks(it.known.stand, held)
    issues = field.issues(scope, job_id)
    gone_on = bool(issues) and (issues[0].version, issues[0].last_event) != (it.stored.version, it.stored.events)
    changes = changed(json.loads(field.pack(scope, job_id, issues[0].number)), it.job) if gone_on else ""
    waiting = events.rows_of(scope, job_id, 0, None, events.WAIT)
    lines: list[dict[str, Any]] = [
        {"fence": v.fence, "lane": lane(v.fence, v.plan, it.known), "book": book_of(v.fence, v.plan, it.known), "trouble": [(t, t.text.text(system)) for t in troubles(v.fence, v.plan, it.known, unmarked)]}
        for v in views
    ]  # fmt: skip
    live = {k.event.id for k in it.known.stand}
    trail = [
        _said(it, k, system, k.event.id in live) for k in sorted(it.kept, key=lambda k: k.order, reverse=True)[:SHOWN]
    ]
    context = {
        "job_id": job_id, "name": it.stored.name, "units": system, "verb_here": "Log", "here": "log", "line": "", "more_asked": "", "error": error, "told": told, "lines": lines, "trail": trail,
        "count": len(it.kept), "issues": issues, "gone_on": gone_on, "changes": changes, "given": bool(issues), "may_plan": who is not None and who.role in (OWNER, PLANNER), "owner": who is not None and who.role == OWNER,
        "waiting": _by(waiting), "trouble": [(v["fence"], t, words) for v in lines for t, words in v["trouble"]], "photos": field.photos(scope, job_id), "repairs": repairs(), "spell": lambda minutes: f"{minutes} min" if minutes < 100 else f"{minutes / 60:.3g} h", "rounds": rounds(), "today": date.today(),
        "safety": [_said(it, k, system, True) for k in [*reversed(it.known.of("miss", "hazard", "dig_anyway")), *it.known.of("brief")[-1:]]][:40],
        "words": lambda k: words_of(k.event).text(system),
    }  # fmt: skip
    return room(request).templates.TemplateResponse(request, "log.html", context, status_code=status)


def _said(it: Logged, k: Kept, system: System, stands: bool) -> dict[str, Any]:
    return {
        "when": k.order[0],
        "of": it.of(k.event),
        "words": words_of(k.event).text(system),
        "by": k.event.author or k.by,
        "via": k.by,
        "stands": stands,
        "photo": k.event.photo,
        "kind": k.event.kind,
    }


def _by(rows: list[events.Row]) -> list[tuple[str, int, datetime]]:
    """What waits for an owner's word, by who delivered it: how much, and when the first came."""
    found: dict[str, list[datetime]] = {}
    for r in rows:
        found.setdefault(r.kept.by, []).append(r.received_at)
    return [(who, len(times), min(times)) for who, times in found.items()]


@router.post("/jobs/{job_id}/log/decide", include_in_schema=False)
def decide(
    request: Request,
    job_id: str,
    actor: Annotated[str, Form(max_length=200)] = "",
    take: Annotated[str, Form(max_length=5)] = "",
) -> Response:
    """An owner's word on what somebody delivered whose role was taken away."""
    events.decide(room(request).scope, job_id, actor, take == "yes")
    return RedirectResponse(f"/jobs/{job_id}/log", 303)


@router.post("/jobs/{job_id}/log/phone", include_in_schema=False)
def read_phone(request: Request, job_id: str, file: Annotated[UploadFile, File()]) -> Response:
    """Read what a phone saved to a file: the same as if it had been sent, and as often as one likes."""
    try:
        told = _phone_read(request, job_id, file.file.read())
    except BadInput as error:
        return _page(request, job_id, status=422, error=error.sentence)
    return _page(request, job_id, told=told)


def _phone_read(request: Request, job_id: str, body: bytes) -> str:
    scope = room(request).scope
    jobs.glance(scope, job_id)
    data = read_json(body)
    if not isinstance(data, dict) or data.get("form") != "gnomonic-phone/1":
        raise BadInput(
            "file",
            "that is no file a phone saved: press “Save to a file” on the phone’s page of what is not sent, and choose that one",
        )
    try:
        now = datetime.fromisoformat(str(data["now"]))
        rows = [row["event"] for row in data["events"] if row["job"] == job_id]
        pictures = [row for row in data.get("photos", []) if row["job"] == job_id]
        others = len(data["events"]) - len(rows)
    except (KeyError, TypeError, ValueError):
        raise BadInput("file", "the phone’s file is damaged: save it anew on the phone; nothing was read") from None
    if data.get("workspace") not in ("", scope.workspace):
        raise BadInput("file", "the phone’s file is of another workspace: nothing was read")
    good, bad = [], 0
    for row in rows:
        try:
            good.append(Event.model_validate(row))
        except ValidationError:
            bad += 1
    offset = timedelta() if now.tzinfo is None else datetime.now(now.tzinfo) - now
    # the file was carried: what lies between its saving and now is no fault of the clock
    added = events.add(scope, job_id, good, min(offset, timedelta()))
    kept = 0
    for row in pictures:
        try:
            made, wide, high = beside(shown, str(row["digest"]), base64.b64decode(str(row["base64"]), validate=True))
            field.keep_photo(scope, job_id, str(row["digest"]), wide, high, made)
        except (BadInput, binascii.Error, KeyError, field.TooManyPhotos):
            bad += 1
            continue
        kept += 1
    parts = [
        f"{len(added.new)} read",
        f"{len(added.again)} were here already" if added.again else "",
        f"{kept} photos" if kept else "",
    ]
    parts += [
        f"{bad + len(added.other)} can’t be read and stay on the phone" if bad or added.other else "",
        f"{others} are of other jobs: read the file there too" if others else "",
    ]
    return f"The phone’s file: {', '.join(p for p in parts if p)}."


def _rows(it: Logged) -> list[LogRow]:
    stand = {k.event.id for k in it.known.stand}
    gone = {k.event.of for k in it.kept if k.event.kind == "void"}
    system = system_of("", it.job)
    rows = sorted(it.kept, key=lambda k: k.order)
    return [
        LogRow(
            k,
            words_of(k.event).text(system),
            "yes"
            if k.event.id in stand
            else "taken back"
            if k.event.id in gone or k.event.kind == "void"
            else "earlier",
        )
        for k in rows
    ]


@router.get("/jobs/{job_id}/log.csv", **a_file(CSV))
def out_csv(request: Request, job_id: str) -> Response:
    """The log as a table."""
    it = logged(request, job_id)
    return file_out(log_csv(_rows(it)), CSV, it.stored.name, "-log.csv")


@router.get("/jobs/{job_id}/log.xlsx", **a_file(XLSX))
def out_xlsx(request: Request, job_id: str) -> Response:
    """The log as a workbook."""
    it = logged(request, job_id)
    return file_out(log_xlsx(f"{it.stored.name}: log", _rows(it)), XLSX, it.stored.name, "-log.xlsx")


@router.get("/jobs/{job_id}/log.geojson", **a_file(GEOJSON))
def out_geojson(request: Request, job_id: str) -> Response:
    """The log as points."""
    it = logged(request, job_id)
    return file_out(log_geojson(_rows(it), it.job.job.frame), GEOJSON, it.stored.name, "-log.geojson")


@router.get("/jobs/{job_id}/look", include_in_schema=False)
def look_page(request: Request, job_id: str) -> Response:
    """What a client sees: the lines on their ground, how far each is, the last photos.  No prices, nobody's names."""
    it = logged(request, job_id)
    views = it.job.all()
    books = [book_of(v.fence, v.plan, it.known) for v in views]
    courses = it.job.plan.courses
    standing = {f.id: f.own.standing for f in it.fences.values()}
    here = field.photos(room(request).scope, job_id)
    pictures = [k.event.photo for k in reversed(it.known.of("photo")) if k.event.photo in here]
    context = {
        "job_id": job_id, "name": it.stored.name, "books": books, "box": BOX, "paths": [(path, standing[k], k) for k, path in zip(courses, outlines(list(courses.values())), strict=True)],
        "pictures": pictures[:12], "last": max((b.last for b in books if b.last), default=None),
    }  # fmt: skip
    return room(request).templates.TemplateResponse(request, "look.html", context)
