"""The list of jobs."""

from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from gnomonic.store import jobs

router = APIRouter()


@dataclass(frozen=True, slots=True)
class JobCard:
    """A job as the list shows it; ``outline`` is its plan as SVG points in a 120 × 80 box."""

    job_id: str
    name: str
    length_m: float
    posts: int
    rolls: int
    runs: int
    snags: int
    outline: str
    closed: bool


@router.get("/", include_in_schema=False)
def home(request: Request) -> Response:
    """All jobs, the last changed first."""
    plans, cards = request.app.state.plans, []
    for row in jobs.listed(request.app.state.engine):
        planned = plans.of(row.job_id, row.digest, row.document)
        line = planned.plan.course
        wide, high = float(line.east_m.max() - line.east_m.min()), float(line.north_m.max() - line.north_m.min())
        scale = min(110 / max(wide, 1e-6), 70 / max(high, 1e-6))
        left, top = (120 - wide * scale) / 2, (80 - high * scale) / 2
        step = max(1, len(line.east_m) // 200)
        pairs = list(zip(line.east_m[::step].tolist(), line.north_m[::step].tolist(), strict=True))
        pairs.append((float(line.east_m[-1]), float(line.north_m[-1])))
        outline = " ".join(
            f"{left + (e - line.east_m.min()) * scale:.1f},{80 - top - (n - line.north_m.min()) * scale:.1f}"
            for e, n in pairs
        )
        rolls = planned.plan.rolls.rolls.new_rolls
        runs, count = len(planned.plan.runs), len(planned.snags)
        posts = len(planned.plan.posts)
        cards.append(JobCard(row.job_id, row.name, line.length_m, posts, rolls, runs, count, outline, line.closed))
    return request.app.state.templates.TemplateResponse(request, "home.html", {"cards": cards})  # type: ignore[no-any-return]


@router.post("/jobs/{job_id}/remove", include_in_schema=False)
def remove(request: Request, job_id: str) -> Response:
    """Remove a job."""
    jobs.load(request.app.state.engine, job_id)
    jobs.remove(request.app.state.engine, job_id)
    return RedirectResponse("/", 303)
