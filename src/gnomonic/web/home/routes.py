"""The list of jobs."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from fastapi import APIRouter, Request
from fastapi.responses import RedirectResponse, Response

from gnomonic.core.ground.course import Course
from gnomonic.core.plan.model import Plan
from gnomonic.core.tell.compare import hung
from gnomonic.store import jobs
from gnomonic.web.plans import PlannedJob

router = APIRouter()


@dataclass(frozen=True, slots=True)
class JobCard:
    """A job as the list shows it: plans of its lines as SVG points, and one line's ground and posts in a box of 600 × 70."""

    job_id: str
    name: str
    length_m: float
    posts: int
    hung: str
    runs: int
    snags: int
    lines: int
    outlines: list[tuple[str, bool]]
    ground: str
    posts_path: str
    times: float


STRIP = (600.0, 70.0)
SMALL, LARGE = (120.0, 80.0), (600.0, 170.0)
MOST_NAMED = 3
MOST_EXAGGERATED = 15.0


def _outlines(courses: Sequence[Course], box: tuple[float, float]) -> list[tuple[str, bool]]:
    """Plans of the lines, fitted together into a box; and whether each is closed."""
    east, north = (np.concatenate([getattr(c, k) for c in courses]) for k in ("east_m", "north_m"))
    wide, high = float(np.ptp(east)), float(np.ptp(north))
    scale = min((box[0] - 10) / max(wide, 1e-6), (box[1] - 10) / max(high, 1e-6))
    left, top = (box[0] - wide * scale) / 2, (box[1] - high * scale) / 2
    found = []
    for line in courses:
        step = max(1, len(line.east_m) // 200)
        pick = np.unique(np.append(np.arange(0, len(line.east_m), step), len(line.east_m) - 1))
        x = left + (line.east_m[pick] - east.min()) * scale
        y = box[1] - top - (line.north_m[pick] - north.min()) * scale
        points = " ".join(f"{a:.1f},{b:.1f}" for a, b in zip(x.tolist(), y.tolist(), strict=True))
        found.append((points, line.closed))
    return found


def _little_strip(made: Plan) -> tuple[str, str, float]:
    """Ground (polygon points), posts (path) and how many times heights are drawn."""
    line, (wide, high) = made.course, STRIP
    heights = line.profile.heights_m
    across = wide / line.length_m
    room = (high - 4) / (float(np.ptp(heights)) + made.fence_height_m + 0.6)
    up = min(room, MOST_EXAGGERATED * across)
    foot = (high - (float(np.ptp(heights)) + made.fence_height_m) * up) / 2 + up * 0.3

    def y(z: float) -> float:
        return high - foot - (z - float(heights.min())) * up

    step = max(1, len(heights) // 400)
    pick = np.unique(np.append(np.arange(0, len(heights), step), len(heights) - 1))
    top = " ".join(f"{line.stations_m[k] * across:.1f},{y(float(heights[k])):.1f}" for k in pick.tolist())
    posts = "".join(
        f"M{p.station_m * across:.1f} {y(p.ground_m):.1f}v{-made.fence_height_m * up:.1f}" for p in made.posts
    )
    return f"{top} {wide:.0f},{high:.0f} 0,{high:.0f}", posts, up / across


@router.get("/", include_in_schema=False)
def home(request: Request) -> Response:
    """All jobs, the last changed first."""
    plans = request.app.state.plans
    cards = [
        _card(row, plans.of(row.job_id, row.digest, row.document, row.names))
        for row in jobs.listed(request.app.state.scope)
    ]
    return request.app.state.templates.TemplateResponse(request, "home.html", {"cards": cards})  # type: ignore[no-any-return]


def _hung(names: list[str]) -> str:
    """What hangs on the lines, the first few by name."""
    kinds = list(dict.fromkeys(names))
    more = f" and {len(kinds) - MOST_NAMED + 1} more barriers" if len(kinds) > MOST_NAMED else ""
    return "; ".join(kinds[: MOST_NAMED - 1] if more else kinds) + more or "stands already"


def _card(row: jobs.Listed, job: PlannedJob) -> JobCard:
    made = list(job.plan.lines.values())
    ground, posts_path, times = _little_strip(made[0]) if len(job.job.lines) == 1 and made else ("", "", 0.0)
    return JobCard(
        job_id=row.job_id,
        name=row.name,
        length_m=sum(c.length_m for c in job.plan.courses.values()),
        posts=sum(not p.shared for one in made for p in one.posts),
        hung=_hung([hung(one) for one in made]),
        runs=sum(len(one.runs) for one in made),
        snags=job.snag_count(),
        lines=len(job.job.lines),
        outlines=_outlines(list(job.plan.courses.values()), SMALL if len(job.job.lines) == 1 else LARGE),
        ground=ground,
        posts_path=posts_path,
        times=times,
    )


@router.post("/jobs/{job_id}/remove", include_in_schema=False)
def remove(request: Request, job_id: str) -> Response:
    """Remove a job."""
    jobs.load(request.app.state.scope, job_id)
    jobs.remove(request.app.state.scope, job_id)
    return RedirectResponse("/", 303)
