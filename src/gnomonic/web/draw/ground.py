"""All lines of a job on their ground, for the map and the list of lines."""

import json
from typing import Any

import numpy as np
import shapely

from gnomonic.core.ground.course import Course
from gnomonic.core.job.document import Job, Line
from gnomonic.core.plan.model import JobPlan
from gnomonic.core.tell.compare import hung

STRAIGHT_M = 0.25  # what a small plan can't show


def places(course: Course) -> list[list[float]]:
    """East and north along a line, without the points that a small plan can't show."""
    line = shapely.LineString(np.column_stack([course.east_m, course.north_m])).simplify(STRAIGHT_M)
    return [[round(e, 2), round(n, 2)] for e, n in line.coords]


Kept = dict[str, tuple[tuple[object, ...], str]]


def lines_json(job: Job, plan: JobPlan, kept: Kept) -> str:
    """Every line as JSON; those that are what they were the last time are taken from ``kept``, which holds these then."""
    names = {line.id: line.name for line in job.lines}
    texts = []
    for line in job.lines:
        joins = tuple(j for j in job.joins if j.line == line.id)
        key = (line, plan.courses[line.id], plan.lines.get(line.id), joins, tuple(names[j.on] for j in joins))
        old = kept.get(line.id)
        if (
            old is None
            or any(a is not b and a != b for a, b in zip(old[0][3:], key[3:], strict=True))
            or any(a is not b for a, b in zip(old[0][:3], key[:3], strict=True))
        ):
            kept[line.id] = (
                key,
                json.dumps(_line_json(job, plan, line, names), ensure_ascii=False, separators=(",", ":")),
            )
        texts.append(kept[line.id][1])
    return f"[{','.join(texts)}]"


def _line_json(job: Job, plan: JobPlan, line: Line, names: dict[str, str]) -> dict[str, Any]:
    """A line: its letter and name, where it runs, what hangs on it, whose posts its ends stand on."""
    course, made = plan.courses[line.id], plan.lines.get(line.id)
    joins = [
        {"end": j.end, "on": j.on, "name": names[j.on], "at": round(j.at_m, 4)} for j in job.joins if j.line == line.id
    ]
    return {
        "id": line.id,
        "name": line.name,
        "standing": line.standing,
        "until": line.until.isoformat() if line.until else "",
        "closed": course.closed,
        "length": round(course.length_m, 4),
        "places": places(course),
        "hung": hung(made) if made else "",
        "joins": joins,
    }
