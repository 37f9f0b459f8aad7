"""The job's page: all its lines on their ground, what they need together, lines added, moved and taken out."""

import json
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Body, Request
from fastapi.responses import JSONResponse, Response

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.edits.lines import next_letter
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.found import called
from gnomonic.core.job.fence import fence_of, fences
from gnomonic.core.job.parts import Frame, MeasuredLine
from gnomonic.core.snags.snag import Snag
from gnomonic.core.tell.next_up import next_up
from gnomonic.formats.frame import reframed
from gnomonic.store import jobs
from gnomonic.web.draw.words import mm, said
from gnomonic.web.home import summary
from gnomonic.web.home.sample import is_sample
from gnomonic.web.parts import asking, planned_job, safe, standing
from gnomonic.web.plans import Planned, PlannedJob
from gnomonic.web.room import room

router = APIRouter()
MOST_JOBS_OFFERED = 30
MOST_SNAGS = 24


@router.get("/jobs/{job_id}/lines", include_in_schema=False)
def lines_page(request: Request, job_id: str) -> Response:
    """The job's page: where its lines run; what it counts and finds comes after."""
    stored = jobs.glance(room(request).scope, job_id)
    job = planned_job(request, stored)
    head = json.dumps({"job": stored.job_id, "line": None, "units": "", **standing(stored)})
    context = {
        "job_id": job_id,
        "name": stored.name,
        "sample": is_sample(job.job),
        "state": safe(f'{head[:-1]},"lines":{job.ground()}}}'),
    }
    return request.app.state.templates.TemplateResponse(request, "lines.html", context)  # type: ignore[no-any-return]


@router.get("/api/v1/jobs/{job_id}/lines")
def lines_now(request: Request, job_id: str) -> Response:
    """Figures of every line, what to do next, the worst snags, what lies on the ground, and where lines nearly meet."""
    scope = room(request).scope
    stored = jobs.glance(scope, job_id)
    job = planned_job(request, stored)
    summary.keep(scope, job_id, stored.version, job)
    return JSONResponse(lines_state(request, job_id, job))


def _figures(it: Planned) -> dict[str, Any]:
    plan = it.plan
    return {
        "posts": sum(not p.shared for p in plan.posts),
        "rolls": plan.rolls.rolls.new_rolls + sum(m.rolls for m in plan.more),
        "coils": sum(c.coils for c in plan.coils),
        "splices": plan.rolls.rolls.splices,
        "gates": [[g.name, mm(g.at_m), mm(g.opening_m)] for g in plan.gates],
        "snags": len(it.snags),
        "grave": sum(s.grave for s in it.snags),
        "area": plan.course.area_m2(),
        "sites": [
            [mm(p.station_m), p.role, mm(p.east_m), mm(p.north_m)] for p in plan.posts if p.fixed and p.role != "brace"
        ],
    }


def _snag(it: Planned, number: int, snag: Snag) -> dict[str, Any]:
    told = {"title": said(snag.title), "consequence": said(snag.consequence)}
    return {"line": it.fence.id, "snag": number, "at": mm(snag.at_m), "grave": snag.grave, **told}


def _things(views: list[Planned]) -> list[dict[str, Any]]:
    """What was found, each thing once: by its shape on the map, or along the stretches of the line where it was found."""
    seen: set[str] = set()
    rows = []
    for it in views:
        for t in it.plan.things:
            if t.kind.group == "side" or (t.found.shape and t.found.id in seen):
                continue
            seen.add(t.found.id)
            along = [[it.plan.course.place(s) for s in np.linspace(low, high, 5)] for low, high in t.stretches]
            shapes = [list(t.found.shape)] if t.found.shape else along
            rows.append(
                {
                    "group": t.kind.group,
                    "kind": t.found.kind,
                    "name": called(t.found),
                    "shapes": [[[mm(e), mm(n)] for e, n in shape] for shape in shapes],
                }
            )
    return rows


def lines_state(request: Request, job_id: str, job: PlannedJob) -> dict[str, Any]:
    """What the job's page shows beside the map."""
    views, worst = job.all(), job.worst()
    figures = {it.fence.id: _figures(it) for it in views}
    names = {line.id: line.name for line in job.job.lines}
    met = [
        {"line": m.line, "end": m.end, "on": m.on, "name": names[m.line], "other": names[m.on], "off": mm(m.off_m), "here": mm(m.here_m), "at": mm(m.at_m)}
        for m in job.plan.meetings
    ]  # fmt: skip
    others = [
        {"job": row.job_id, "name": row.name}
        for row in jobs.recent(room(request).scope, MOST_JOBS_OFFERED)
        if row.job_id != job_id
    ]
    stuck = {it.fence.id: sum(s.grave and s.code != "unmarked" for s in it.snags) for it in views}
    todo = next_up(job.job, job.plan, stuck, job.today)
    return {
        "name": job.job.name,
        "frame": job.job.frame.kind,
        "figures": figures,
        "meetings": met,
        "snags": [_snag(*row) for row in worst[:MOST_SNAGS]],
        "snag_count": len(worst),
        "things": _things(views),
        "next": [{"said": said(n.said), "why": said(n.why), "go": n.go, "line": n.line} for n in todo],
        "others": others,
    }


def given_line(measured: MeasuredLine, name: str) -> dict[str, Any]:
    """A measured line as an edit adds it."""
    return {"name": name, "measured": measured.model_dump(mode="json")}


def placed(measured: MeasuredLine, frame: Frame, onto: Frame, joined: bool) -> MeasuredLine:
    """A line in a job's own frame.  Raises BadInput (``frame``) where nobody knows where on the job's ground it lies.

    A line in metres of its own keeps them where the job has metres of its own too, or where its start is joined to a line.
    """
    if frame.kind == "local" and onto.kind == "geographic" and not joined:
        raise BadInput(
            "onto",
            "this line came without longitude and latitude, and the job has them: say on which post of which line it starts",
        )
    if frame.kind == "geographic" and onto.kind == "local":
        raise BadInput(
            "frame",
            "this line came with longitude and latitude, and the job's lines lie in metres of their own: make it a job of its own",
        )
    return reframed(measured, frame, onto)


@router.post("/api/v1/jobs/{job_id}/lines/{line_id}/move")
def move(
    request: Request,
    job_id: str,
    line_id: str,
    base: Annotated[int, Body()],
    to: Annotated[str, Body()],
    lose: Annotated[bool, Body()] = False,
) -> Response:
    """A line goes to another job, with all that was decided of it; joins to the lines it leaves are undone."""
    scope, plans = asking(request), room(request).plans
    if to == job_id:
        raise BadInput("to", "it is in this job already")
    here, there = jobs.load(scope, job_id), jobs.load(scope, to)
    try:
        jobs.must_stand(scope, here, base)
    except jobs.Done:
        return JSONResponse({"job": to, "line": planned_job(request, there).job.lines[-1].id})
    were = planned_job(request, here), planned_job(request, there)
    source, target = (was.job for was in were)
    try:
        fence = fence_of(source, line_id)
    except KeyError:
        raise jobs.NotThere(line_id) from None
    out = {"do": "remove_line", "line": fence.id, "lose": lose}
    left = apply(source, read_edit(out), plans.book())
    measured = placed(fence.line, source.frame, target.frame, False)
    given = fence.own.model_dump(mode="json", exclude={"id"}) | {"measured": measured.model_dump(mode="json")}
    brought = apply(target, read_edit({"do": "add_line", "given": given}), plans.book())
    made = [plans.after(job_id, were[0], left), plans.after(to, were[1], brought)]
    asked = json.dumps({"do": "move_line", "line": fence.id, "from": job_id, "to": to})
    stored = jobs.save_together(
        scope,
        [(job_id, here.version, left, asked, made[0].names()), (to, there.version, brought, asked, made[1].names())],
    )
    for row, plan in zip(stored, made, strict=True):
        plans.keep(row.key, plan, row.names)
    return JSONResponse({"job": to, "line": next_letter(target)})


def places_to_start(job: PlannedJob) -> list[tuple[str, str]]:
    """Posts a further line may start on: ends and corners of every line, by ``letter:station``, in words."""
    found = []
    for fence in fences(job.job):
        course = job.plan.courses[fence.id]
        last = len(course.stations_m) - 1
        plan = job.plan.lines.get(fence.id)
        corners = {round(p.station_m, 6) for p in plan.posts if p.role == "corner"} if plan else set()
        for k, station in enumerate(course.stations_m.tolist()):
            if course.closed and k == last:
                continue
            what = "start" if k == 0 else "end" if k == last else "corner"
            if k in (0, last) or round(station, 6) in corners:
                found.append((f"{fence.id}:{station:.6f}", f"{fence.name}, {what} at {station:.2f} m"))
    return found[:200]
