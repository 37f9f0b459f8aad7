"""Walk on a job: its legs, its field book, its map, what is on it, heights from a grid, the walk sheet, the line out."""

import json
from dataclasses import asdict
from datetime import date
from typing import Annotated, Any

from fastapi import APIRouter, Body, File, Form, Request, UploadFile
from fastapi.responses import JSONResponse, Response
from starlette.concurrency import run_in_threadpool

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.edits.lines import next_letter
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.bearing import quadrant
from gnomonic.core.ground.booked import Reduced, reduce_book
from gnomonic.core.ground.found import found_kinds
from gnomonic.core.ground.legs import legs
from gnomonic.core.ground.marking import state_of
from gnomonic.core.ground.measuring import methods
from gnomonic.core.ground.mend import with_points
from gnomonic.core.job.fence import one_line
from gnomonic.core.job.parts import MeasuredLine, Place, Point, Source
from gnomonic.core.limits import MOST_BOOK_CHARACTERS, MOST_DRAWN, MOST_GRID_BYTES, MOST_NAME
from gnomonic.core.plan.road import plan
from gnomonic.core.say import Say
from gnomonic.core.tell.walk_list import figures, walk_list
from gnomonic.core.units import System
from gnomonic.formats.beside import beside
from gnomonic.formats.export import MEDIA, export_line
from gnomonic.formats.grid import drape
from gnomonic.formats.raw import plain
from gnomonic.store import jobs
from gnomonic.web.draw.words import said
from gnomonic.web.parts import MARKING_WORDS, asking, change_job, file_out, line_page, planned_job, planned_of, safe
from gnomonic.web.plans import Planned
from gnomonic.web.problems import a_file
from gnomonic.web.room import room

router = APIRouter()


@router.get("/jobs/{job_id}/walk", include_in_schema=False)
def walk_page(request: Request, job_id: str) -> Response:
    """Plan, profile and legs of a job."""
    stored, planned = planned_of(request, job_id)
    kinds = {
        k: {"title": v.title, "group": v.group, "zone": v.zone_m, "reason": said(v.reason)}
        for k, v in found_kinds().items()
    }
    walk, kinds_json = (safe(json.dumps(part, ensure_ascii=False)) for part in (walk_json(planned), kinds))
    return line_page(request, "line.html", stored, planned, walk=walk, kinds=kinds_json)


@router.get("/api/v1/jobs/{job_id}/walk")
def walk_state(request: Request, job_id: str) -> Response:
    """Legs, field book, closure and figures of the job as it stands."""
    _, planned = planned_of(request, job_id)
    return JSONResponse(walk_json(planned))


def walk_json(planned: Planned) -> dict[str, Any]:
    """What the Walk page shows beside the drawing."""
    fence, made = planned.fence, planned.plan
    book = fence.line.book
    rows = [{**asdict(row), "quadrant": quadrant(row.bearing_deg)} for row in legs(fence.line, made.course)]
    found = figures(fence, made)
    return {
        "legs": rows,
        "points": [[p.e_m, p.n_m, p.h_m, p.name, p.how] for p in fence.line.points],
        "book": None if book is None else book.model_dump(),
        "reduced": None if book is None else reduced_json(reduce_book(book.text, book.unit or None)),
        "figures": {
            "line": found.line_m,
            "ground": found.ground_m,
            "area": found.figure.area_m2 if found.figure else None,
            "parts": [{"area": p.area_m2, "perimeter": p.perimeter_m, "at": p.inside} for p in found.parts],
            "swath": found.swath_m,
            "swath_area": found.swath_m2,
            "fell": found.to_fell,
        },
        "frame": fence.frame.kind,
        "level": fence.line.level,
        "grid": None if fence.line.grid is None else fence.line.grid.model_dump(),
        "marking": state_of(fence.marking, made.course, date.today()),
        "list": [
            {
                "id": r.thing.found.id,
                "group": r.group,
                "title": r.title,
                "where": said(r.where),
                "caution": said(r.caution) if r.caution else "",
            }
            for r in walk_list(made)
        ],
        "notes": list(fence.line.source.notes),
        "source": fence.line.source.file or fence.line.source.kind,
    }


def reduced_json(reduced: Reduced) -> dict[str, Any]:
    """A book as it was understood: a row a point with the line it was written on, its closure and its suspects."""
    closing = reduced.closure
    suspected = [
        {
            "leg": s.leg,
            "line_no": reduced.page.spots[s.leg + 1].line_no,
            "kind": s.kind,
            "change": s.change,
            "explains": s.explains,
            "likely": s.likely,
        }
        for s in reduced.suspects
    ]
    return {
        "points": [
            {
                "line_no": s.line_no, "name": s.name, "how": methods()[s.how].title if s.how in methods() else "",
                "good": s.good_m, "e": s.e_m, "n": s.n_m, "h": s.h_m,
            }
            for s in reduced.page.spots
        ],
        "pegs": [{"name": name, "e": s.e_m, "n": s.n_m, "h": s.h_m} for name, s in reduced.page.pegs.items()],
        "closed": reduced.closed,
        "bare": reduced.page.bare,
        "closure": None
        if closing is None
        else {
            "perimeter": closing.perimeter_m,
            "miss": closing.miss_m,
            "miss_e": closing.miss_e_m,
            "miss_n": closing.miss_n_m,
            "miss_h": closing.miss_h_m,
            "ratio": closing.ratio,
            "expected": reduced.expected_m,
            "adjusted": closing.adjusted[:, :2].tolist(),
        },
        "wants_looking_at": reduced.wants_looking_at,
        "suspects": suspected if reduced.wants_looking_at else [],
        "levels": None
        if reduced.page.levels is None
        else {
            "agree": reduced.page.levels.agree,
            "rows": [asdict(row) for row in reduced.page.levels.rows],
            "back": reduced.page.levels.sum_back_m,
            "fore": reduced.page.levels.sum_fore_m,
            "difference": reduced.page.levels.last_minus_first_m,
        },
    }  # fmt: skip


@router.post("/api/v1/book")
def read(text: Annotated[str, Body(max_length=MOST_BOOK_CHARACTERS)], unit: Annotated[str, Body()] = "") -> Response:
    """Read a field book without saving it: what each line was understood as, and how it closes."""
    return JSONResponse(reduced_json(reduce_book(text, unit if unit in ("m", "ft") else None)))


@router.post("/api/v1/jobs/{job_id}/grid")
async def grid(
    request: Request,
    job_id: str,
    base: Annotated[int, Form()],
    file: Annotated[UploadFile, File()],
    crs: Annotated[str, Form()] = "",
    heights: Annotated[str, Form()] = "",
) -> Response:
    """Lay a height grid under the line; a grid that does not say its coordinates is answered with a question."""
    name, body = plain((file.filename or "grid")[-120:]), await file.read(MOST_GRID_BYTES + 1)
    return await run_in_threadpool(_draped, request, job_id, base, name, body, {"crs": crs, "heights": heights})


def _draped(request: Request, job_id: str, base: int, name: str, body: bytes, answers: dict[str, str]) -> Response:
    _, planned = planned_of(request, job_id)
    draped = beside(drape, name, body, planned.plan.course, planned.fence.frame, answers)
    if draped.questions:
        question = draped.questions[0]
        return JSONResponse({"question": {"key": question.key, "text": question.text, "choices": question.choices, "typed": question.typed}})  # fmt: skip
    edit = {
        "do": "drape",
        "stations_m": draped.stations_m.tolist(),
        "heights_m": [round(h, 4) for h in draped.heights_m.tolist()],
        "cell_m": draped.cell_m,
        "file": name,
    }
    asked = {"do": "drape", "file": name, "cell_m": draped.cell_m}
    return change_job(request, job_id, base, edit, asked, draped.notes[0])


@router.get("/draw", include_in_schema=False)
def draw_page(request: Request, job: str = "") -> Response:
    """Draw a line by hand and by typed legs: on empty ground, or beside the lines of a job."""
    context = {"onto": "", "onto_name": "", "lines": "[]", "version": 0}
    if job:
        stored = jobs.load(room(request).scope, job)
        lines = planned_job(request, stored).ground()
        context |= {"onto": job, "onto_name": stored.name, "lines": safe(lines), "version": stored.version}
    return request.app.state.templates.TemplateResponse(request, "draw.html", context)  # type: ignore[no-any-return]


def drawn_line(points: list[tuple[float, float]], closed: bool) -> MeasuredLine:
    """A line as drawn: on ground taken as level.  Raises BadInput (``line``)."""
    good = methods()["drawn"].fixed_m
    places = tuple(Point(e_m=e, n_m=n, h_m=0.0, how="drawn", good_m=good) for e, n in points)
    source = Source(kind="drawn", points_read=len(points), notes=("drawn on the map: the ground is taken as level",))
    return with_points(MeasuredLine(points=places, closed=closed, source=source, level=True), places)


@router.post("/api/v1/jobs/{job_id}/drawn", status_code=201)
def drawn_onto(
    request: Request,
    job_id: str,
    base: Annotated[int, Body()],
    name: Annotated[str, Body(max_length=MOST_NAME)],
    points: Annotated[list[Place], Body(min_length=2, max_length=MOST_DRAWN)],
    closed: Annotated[bool, Body()] = False,
    joins: Annotated[list[dict[str, Any]], Body(max_length=2)] = [],  # noqa: B006
) -> Response:
    """Save a drawn line as one more line of a job, its ends joined where they were drawn onto other lines."""
    title = plain(name)
    if not title:
        raise BadInput("name", "give the line a name of at most 120 characters")
    scope = asking(request)
    stored = jobs.load(scope, job_id)
    try:
        jobs.must_stand(scope, stored, base)
    except jobs.Done:
        return JSONResponse({"job": job_id, "line": planned_job(request, stored).job.lines[-1].id}, 201)
    was, book = planned_job(request, stored), room(request).plans.book()
    before = was.job
    given = {"name": title, "measured": drawn_line(points, closed).model_dump(mode="json")}
    job = apply(before, read_edit({"do": "add_line", "given": given}), book)
    letter = next_letter(before)
    for join in joins:
        job = apply(job, read_edit({**join, "do": "join_line", "line": letter}), book)
    made = room(request).plans.after(job_id, was, job)
    asked = json.dumps({"do": "add_line", "name": title, "joins": joins})
    try:
        kept = jobs.save(scope, job_id, base, job, asked, made.names())
    except jobs.Done:  # by the same request, sent twice at once
        return JSONResponse({"job": job_id, "line": letter}, 201)
    room(request).plans.keep(kept.key, made, kept.names)
    return JSONResponse({"job": job_id, "line": letter}, 201)


@router.post("/api/v1/jobs", status_code=201)
def drawn(
    request: Request,
    name: Annotated[str, Body(max_length=MOST_NAME)],
    points: Annotated[list[Place], Body(min_length=2, max_length=MOST_DRAWN)],
    closed: Annotated[bool, Body()] = False,
) -> Response:
    """Save a drawn line as a job."""
    title = plain(name)
    if not title:
        raise BadInput("name", "give the job a name of at most 120 characters")
    job = one_line(title, drawn_line(points, closed))
    plan(job)
    return JSONResponse({"job": jobs.create(asking(request), job)}, 201)


@router.get("/jobs/{job_id}/out/{form}", **a_file(*MEDIA.values()))
def out(request: Request, job_id: str, form: str, epsg: str = "") -> Response:
    """The line in one of the forms it can come in."""
    _, planned = planned_of(request, job_id)
    body = export_line(planned.fence, planned.plan, form, epsg.strip())
    return file_out(body, MEDIA[form], planned.fence.title, f".{form}")


@router.get("/walk-sheet", include_in_schema=False)
def blank_sheet(request: Request) -> Response:
    """An empty walk sheet for the clipboard."""
    return request.app.state.templates.TemplateResponse(request, "blank.html", {"kinds": found_kinds()})  # type: ignore[no-any-return]


@router.get("/jobs/{job_id}/walk-sheet", include_in_schema=False)
def walk_sheet(request: Request, job_id: str, units: str = "us") -> Response:
    """The walk sheet to print: what was found, what to take care of, the swath to clear."""
    _, planned = planned_of(request, job_id)
    system: System = "metric" if units == "metric" else "us"
    state = state_of(planned.fence.marking, planned.plan.course, date.today())
    context = {
        "job_id": job_id,
        "name": planned.fence.title,
        "units": system,
        "state": state,
        "words": MARKING_WORDS[state],
        "marking": planned.fence.marking,
        "rows": [
            {"group": r.group, "title": r.title, "where": r.where.text(system), "caution": Say(r.caution).text(system), "side": r.thing.found.side, "count": r.thing.found.count}
            for r in walk_list(planned.plan)
        ],
        "figures": figures(planned.fence, planned.plan),
        "drawing": safe(planned.drawing),
    }  # fmt: skip
    return request.app.state.templates.TemplateResponse(request, "sheet.html", context)  # type: ignore[no-any-return]
