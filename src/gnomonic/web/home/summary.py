"""What the list shows of a job: worked out when the job is planned anyhow, and kept beside it."""

import json
from collections.abc import Sequence
from typing import Any

import numpy as np

from gnomonic.core.ground.course import Course
from gnomonic.core.tell.compare import hung
from gnomonic.store import jobs
from gnomonic.store.scope import Scope
from gnomonic.web.draw.ground import places
from gnomonic.web.plans import PlannedJob

BOX = (340.0, 150.0)
PAD = 8.0
MOST_NAMED = 3


def outlines(courses: Sequence[Course]) -> list[str]:
    """Plans of lines, fitted together into the box, as SVG paths."""
    lines = [np.array(places(course)) for course in courses]
    low, high = (fold([fold(line, axis=0) for line in lines], axis=0) for fold in (np.min, np.max))
    room, size = np.array(BOX) - 2 * PAD, np.maximum(high - low, 1e-6)
    scale = float(np.min(room / size))
    left, top = (np.array(BOX) - (high - low) * scale) / 2
    found = []
    for course, line in zip(courses, lines, strict=True):
        x, y = left + (line[:, 0] - low[0]) * scale, BOX[1] - top - (line[:, 1] - low[1]) * scale
        path = "L".join(f"{a:.1f} {b:.1f}" for a, b in zip(x.tolist(), y.tolist(), strict=True))
        found.append(f"M{path}{'Z' if course.closed else ''}")
    return found


def named(kinds: Sequence[str]) -> str:
    """What hangs on the lines, the first few by name."""
    kinds = list(dict.fromkeys(kinds))
    more = f" and {len(kinds) - MOST_NAMED + 1} more barriers" if len(kinds) > MOST_NAMED else ""
    return "; ".join(kinds[: MOST_NAMED - 1] if more else kinds) + more or "stands already"


def summary(job: PlannedJob) -> dict[str, Any]:
    """Figures and plan of a job for the list."""
    made, snags = list(job.plan.lines.values()), job.worst()
    standing = {line.id: line.standing for line in job.job.lines}
    courses = job.plan.courses
    return {
        "lines": len(job.job.lines),
        "closed": len(courses) == 1 and all(c.closed for c in courses.values()),
        "length_m": round(sum(c.length_m for c in courses.values()), 3),
        "posts": sum(not p.shared for one in made for p in one.posts),
        "gates": sum(len(one.gates) for one in made),
        "hung": named([hung(one) for one in made]),
        "snags": len(snags),
        "grave": sum(s.grave for _, _, s in snags),
        "day": job.today.isoformat(),
        "paths": [[path, standing[k]] for k, path in zip(courses, outlines(list(courses.values())), strict=True)],
    }


def keep(scope: Scope, job_id: str, version: int, job: PlannedJob) -> dict[str, Any]:
    """Work the summary out and keep it."""
    made = summary(job)
    jobs.keep_summary(scope, job_id, version, json.dumps(made, ensure_ascii=False), made["hung"])
    return made
