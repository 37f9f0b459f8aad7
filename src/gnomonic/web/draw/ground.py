"""All lines of a job on their ground, for the map and the list of lines."""

from typing import Any

import numpy as np

from gnomonic.core.ground.course import Course
from gnomonic.core.job.document import Job
from gnomonic.core.plan.model import JobPlan
from gnomonic.core.tell.compare import hung

MOST_DRAWN = 400


def places(course: Course) -> list[list[float]]:
    """East and north along a line, thinned to what a small plan can show."""
    step = max(1, len(course.east_m) // MOST_DRAWN)
    pick = np.unique(np.append(np.arange(0, len(course.east_m), step), len(course.east_m) - 1))
    return [
        [round(e, 2), round(n, 2)]
        for e, n in zip(course.east_m[pick].tolist(), course.north_m[pick].tolist(), strict=True)
    ]


def lines_json(job: Job, plan: JobPlan) -> list[dict[str, Any]]:
    """Every line: its letter and name, where it runs, what hangs on it, whose posts its ends stand on."""
    names = {line.id: line.name for line in job.lines}
    found = []
    for line in job.lines:
        course, made = plan.courses[line.id], plan.lines.get(line.id)
        found.append(
            {
                "id": line.id,
                "name": line.name,
                "standing": line.standing,
                "until": line.until.isoformat() if line.until else "",
                "closed": course.closed,
                "length": round(course.length_m, 4),
                "places": places(course),
                "hung": hung(made) if made else "",
                "posts": [p.station_m for p in made.posts if p.fixed] if made else [],
                "joins": [
                    {"end": j.end, "on": j.on, "name": names[j.on], "at": round(j.at_m, 4)}
                    for j in job.joins
                    if j.line == line.id
                ],
            }
        )
    return found
