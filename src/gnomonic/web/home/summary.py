"""What the list shows of a job: worked out when the job is planned anyhow, and kept beside it."""

import json
from collections.abc import Sequence
from typing import Any

import numpy as np

from gnomonic.core.ground.course import Course
from gnomonic.core.tell.compare import hung
from gnomonic.store import jobs
from gnomonic.store.scope import Scope
from gnomonic.web.plans import PlannedJob

BOX = (340.0, 150.0)
PAD = 8.0
MOST_POINTS = 120
MOST_NAMED = 3


def outlines(courses: Sequence[Course]) -> list[str]:
    """Plans of lines, fitted together into the box, as SVG paths."""
    east, north = (np.concatenate([getattr(c, k) for c in courses]) for k in ("east_m", "north_m"))
    wide, high = float(np.ptp(east)), float(np.ptp(north))
    scale = min((BOX[0] - 2 * PAD) / max(wide, 1e-6), (BOX[1] - 2 * PAD) / max(high, 1e-6))
    left, top = (BOX[0] - wide * scale) / 2, (BOX[1] - high * scale) / 2
    found = []
    for line in courses:
        step = max(1, len(line.east_m) // MOST_POINTS)
        pick = np.unique(np.append(np.arange(0, len(line.east_m), step), len(line.east_m) - 1))
        x = left + (line.east_m[pick] - east.min()) * scale
        y = BOX[1] - top - (line.north_m[pick] - north.min()) * scale
        places = "L".join(f"{a:.1f} {b:.1f}" for a, b in zip(x.tolist(), y.tolist(), strict=True))
        found.append(f"M{places}{'Z' if line.closed else ''}")
    return found


def named(kinds: Sequence[str]) -> str:
    """What hangs on the lines, the first few by name."""
    kinds = list(dict.fromkeys(kinds))
    more = f" and {len(kinds) - MOST_NAMED + 1} more barriers" if len(kinds) > MOST_NAMED else ""
    return "; ".join(kinds[: MOST_NAMED - 1] if more else kinds) + more or "stands already"


def summary(job: PlannedJob) -> dict[str, Any]:
    """Figures and plan of a job for the list."""
    made = list(job.plan.lines.values())
    standing = {line.id: line.standing for line in job.job.lines}
    courses = job.plan.courses
    return {
        "lines": len(job.job.lines),
        "closed": len(courses) == 1 and all(c.closed for c in courses.values()),
        "length_m": round(sum(c.length_m for c in courses.values()), 3),
        "posts": sum(not p.shared for one in made for p in one.posts),
        "gates": sum(len(one.gates) for one in made),
        "hung": named([hung(one) for one in made]),
        "snags": job.snag_count(),
        "grave": job.snag_count(grave=True),
        "paths": [[path, standing[k]] for k, path in zip(courses, outlines(list(courses.values())), strict=True)],
    }


def keep(scope: Scope, job_id: str, version: int, job: PlannedJob) -> dict[str, Any]:
    """Work the summary out and keep it."""
    made = summary(job)
    jobs.keep_summary(scope, job_id, version, json.dumps(made, ensure_ascii=False), made["hung"])
    return made
