"""Walk: bring a measured line in, look at what was understood, then save it as a job."""

import secrets
from collections import OrderedDict
from typing import Annotated, Any
from urllib.parse import quote

from fastapi import APIRouter, File, Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response
from starlette.concurrency import run_in_threadpool

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.edits.lines import next_letter
from gnomonic.core.errors import BadInput
from gnomonic.core.job.document import Job
from gnomonic.core.job.fence import checked, one_line
from gnomonic.core.job.reading import is_job, must_fit, read_job
from gnomonic.core.limits import MB, MOST_FILE_BYTES
from gnomonic.core.plan.road import plan
from gnomonic.formats.beside import beside
from gnomonic.formats.bring_in import Brought, bring_in, preview_json
from gnomonic.formats.frame import reframed
from gnomonic.formats.raw import plain
from gnomonic.store import jobs
from gnomonic.web.lines.routes import MOST_JOBS_OFFERED, given_line, placed, places_to_start
from gnomonic.web.parts import asking, change_job, planned_job
from gnomonic.web.room import room
from gnomonic.web.walk.line import reduced_json

router = APIRouter()
ANSWERS = ("units", "lengths", "heights", "slips", "closed", "shape", "crs", "adjust")
HELD = 4
EXAMPLE = "N 4 E      96' 6\"   +1' 2\"\nS 86 30 E  148 ft   -0' 8\"\nS 3 30 W   98' 2\"   -1' 1\"\nN 86 W     149' 4\"  +7 in\n"


def _page(request: Request, status: int = 200, error: str = "", legs: str = EXAMPLE) -> Response:
    onto = request.query_params.get("job", "")
    context = {"error": error, "legs": legs, "most_mb": MOST_FILE_BYTES // MB, "onto": onto}
    context["onto_name"] = jobs.load(room(request).scope, onto).name if onto else ""
    return request.app.state.templates.TemplateResponse(request, "walk.html", context, status_code=status)  # type: ignore[no-any-return]


@router.get("/bring-in", include_in_schema=False)
def walk(request: Request) -> Response:
    """Choose a file or type legs."""
    return _page(request)


@router.post("/bring-in", include_in_schema=False)
async def arrive(
    request: Request, file: Annotated[UploadFile | None, File()] = None, legs: Annotated[str, Form()] = ""
) -> Response:
    """Take a file or typed legs, and go to its preview; a file that can't be read is refused here."""
    name, body = "typed.legs", legs.encode()
    if file is not None and file.filename:
        name, body = plain(file.filename[-120:]), await file.read(MOST_FILE_BYTES + 1)
        if len(body) > MOST_FILE_BYTES:
            size = f"{(file.size or len(body)) / 1e6:.0f} MB"
            return _page(
                request,
                422,
                f"“{name}” is {size}; a measured line of more than {MOST_FILE_BYTES // MB} MB is not taken.",
            )
    if not body.strip():
        return _page(request, 422, "Choose a file, or type the legs below.")
    try:
        arrival = await run_in_threadpool(_take, request, name, body)
    except BadInput as error:
        typed = file is None or not file.filename
        said = error.sentence if typed else f"“{name[:80]}”: {error.sentence}"
        return _page(request, 422, _sentence(said), legs if typed else EXAMPLE)
    onto = request.query_params.get("job", "")
    return RedirectResponse(
        f"{arrival}?job={quote(onto)}" if onto and arrival.startswith("/bring-in/") else arrival, 303
    )


def _sentence(text: str) -> str:
    return text[:1].upper() + text[1:] + ("" if text.endswith((".", "?")) else ".")


def _take(request: Request, name: str, body: bytes) -> str:
    """Where to go next: a saved Job document becomes a job at once, anything else is previewed."""
    if is_job(body):
        must_fit(body)
        job = read_job(body)
        plan(job)
        return f"/jobs/{jobs.create(room(request).scope, job)}"
    brought = beside(bring_in, name, body)
    arrival = jobs.keep_arrival(room(request).scope, name, body)
    _keep(request, arrival, {}, brought)
    return f"/bring-in/{arrival}"


def _keep(request: Request, arrival_id: str, answers: dict[str, str], brought: Brought) -> None:
    """Hold what was read of the last few files, so that a preview need not read them again."""
    held: OrderedDict[Any, Brought] = room(request).brought
    held[arrival_id, tuple(sorted(answers.items()))] = brought
    while len(held) > HELD:
        held.popitem(last=False)


def _read(request: Request, arrival_id: str, answers: dict[str, str]) -> tuple[str, Brought]:
    """A kept file's name, and what it is under some answers.  Raises NotThere, BadInput."""
    name = jobs.arrival_name(room(request).scope, arrival_id)
    held = room(request).brought.get((arrival_id, tuple(sorted(answers.items()))))
    if held is not None:
        return name, held
    brought = beside(bring_in, *jobs.arrival(room(request).scope, arrival_id), answers)
    _keep(request, arrival_id, answers, brought)
    return name, brought


def _answers(given: dict[str, str]) -> dict[str, str]:
    return {k: v.strip() for k, v in given.items() if k in ANSWERS and v.strip()}


def _preview(
    request: Request, arrival_id: str, answers: dict[str, str], error: str = "", name: str = "", onto: str = ""
) -> Response:
    try:
        file_name, brought = _read(request, arrival_id, answers)
    except BadInput as bad:
        if not answers:
            return _page(request, 422, _sentence(bad.sentence))
        return _preview(request, arrival_id, {}, _sentence(bad.sentence), name)
    onto = onto or request.query_params.get("job", "")
    suggested = name or file_name.rpartition(".")[0].replace("-", " ").replace("_", " ").capitalize() or "New line"
    context = {
        "arrival": arrival_id,
        "file": file_name,
        "brought": brought,
        "answers": answers,
        "name": suggested,
        "error": error,
        "preview": preview_json(brought),
        "heights": _heights(brought),
        "reduced": reduced_json(brought.reduced) if brought.reduced else None,
        "onto": onto,
        "jobs": jobs.recent(room(request).scope, MOST_JOBS_OFFERED),
        "starts": _starts(request, onto) if onto else [],
        "asked": secrets.token_hex(12),
    }
    status = 422 if error else 200
    return request.app.state.templates.TemplateResponse(request, "preview.html", context, status_code=status)  # type: ignore[no-any-return]


def _heights(brought: Brought) -> tuple[float, float]:
    z = brought.course.profile.heights_m
    return float(z.min()), float(z.max())


@router.get("/bring-in/{arrival_id}", include_in_schema=False)
def preview(request: Request, arrival_id: str) -> Response:
    """What was understood, before anything is saved."""
    return _preview(request, arrival_id, _answers(dict(request.query_params)))


@router.post("/bring-in/{arrival_id}/save", include_in_schema=False)
async def save(request: Request, arrival_id: str) -> Response:
    """Save the line as a job; open questions must have been answered."""
    form = {k: str(v) for k, v in (await request.form()).items()}
    return await run_in_threadpool(_save, request, arrival_id, form)


def _save(request: Request, arrival_id: str, form: dict[str, str]) -> Response:
    answers, name = _answers(form), form.get("name", "").strip()
    request.state.asked = form.get("asked", "")
    try:
        _, brought = _read(request, arrival_id, answers)
    except BadInput as bad:
        return _preview(request, arrival_id, answers, _sentence(bad.sentence), name)
    if brought.questions:
        return _preview(request, arrival_id, answers, "Answer the question below first.", name)
    if not 0 < len(name) <= 120:
        return _preview(request, arrival_id, answers, "Give the job a name of at most 120 characters.", name)
    if form.get("onto"):
        return _add_line(request, arrival_id, answers, form, brought, name)
    try:
        job = _as_job(request, arrival_id, answers, brought, name) if form.get("all") else None
        job = job or checked(one_line(name, brought.line, brought.frame), found=brought.found)
        plan(job)
    except BadInput as error:
        return _preview(request, arrival_id, answers, _sentence(error.sentence), name)
    way = "/walk" if form.get("next") == "walk" else "/lines" if len(job.lines) > 1 else ""
    return RedirectResponse(f"/jobs/{jobs.create(asking(request), job)}{way}", 303)


def _as_job(request: Request, arrival_id: str, answers: dict[str, str], first: Brought, name: str) -> Job:
    """All lines of a file as one job, in the frame of the one that was looked at.  Raises BadInput naming the line."""
    job = checked(one_line(_called(first, name), first.line, first.frame, name), found=first.found)
    for k, shape in enumerate(first.shapes, 1):
        if shape.taken or shape.why:
            continue
        try:
            _, other = _read(request, arrival_id, {**answers, "shape": str(k)})
            if other.questions:
                raise BadInput("file", other.questions[0].text)
        except BadInput as error:
            raise BadInput("shape", f"line {k} of the file: {error.sentence}") from None
        given = given_line(reframed(other.line, other.frame, job.frame), _called(other, f"{name[:100]} {k}"))
        job = apply(job, read_edit({"do": "add_line", "given": given}))
    return job


def _called(brought: Brought, otherwise: str) -> str:
    """What the line that was taken from a file is called there."""
    return next((s.name for s in brought.shapes if s.taken and s.name), otherwise)[:120]


def _add_line(
    request: Request, arrival_id: str, answers: dict[str, str], form: dict[str, str], brought: Brought, name: str
) -> Response:
    """The line becomes a line of a job that is there."""
    scope, job_id = asking(request), form["onto"]
    stored = jobs.load(scope, job_id)
    job = planned_job(request, stored).job
    try:
        jobs.done_before(scope)
    except jobs.Done:
        return RedirectResponse(f"/jobs/{job_id}?line={job.lines[-1].id}", 303)
    start = form.get("start", "")
    try:
        measured = placed(brought.line, brought.frame, job.frame, bool(start))
        edit: dict[str, Any] = {"do": "add_line", "given": given_line(measured, name)}
        edit["found"] = [f.model_dump(mode="json") for f in brought.found] if not start else []
        if start:
            line, _, station = start.partition(":")
            edit |= {"onto": line, "onto_m": _station(station)}
        change_job(request, job_id, stored.version, edit, {"do": "add_line", "name": name})
    except BadInput as error:
        return _preview(request, arrival_id, answers, _sentence(error.sentence), name, job_id)
    letter = next_letter(job)
    return RedirectResponse(f"/jobs/{job_id}{'/walk' if form.get('next') == 'walk' else ''}?line={letter}", 303)


def _station(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise BadInput("start", "choose a post to start on from the list") from None


def _starts(request: Request, job_id: str) -> list[tuple[str, str]]:
    """Posts of a job a line may start on."""
    return places_to_start(planned_job(request, jobs.load(room(request).scope, job_id)))
