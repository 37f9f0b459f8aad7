"""What lines that share posts ask of one another, and all that pulls on a shared post."""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from gnomonic.core.ground.course import Course
from gnomonic.core.ground.joined import brought_by_other, root_of
from gnomonic.core.job.document import Job
from gnomonic.core.job.fence import fence_of
from gnomonic.core.plan.line import section_of
from gnomonic.core.plan.model import Asked, Plan, Pull
from gnomonic.core.setout.runs import Run


def asked_of(
    job: Job, courses: dict[str, Course]
) -> tuple[dict[str, tuple[Asked, ...]], dict[str, tuple[tuple[str, str], ...]]]:
    """What every line is asked for by lines that stand on it, and whose posts its own ends stand on (end, name)."""
    asked: dict[str, list[Asked]] = {}
    there: dict[str, list[tuple[str, str]]] = {}
    for join in job.joins:
        if not brought_by_other(job, courses, join):
            continue
        fence = fence_of(job, join.line)
        root = root_of(job, courses, join.on, join.at_m)
        there.setdefault(join.line, []).append((join.end, job.line(root.line).name))
        if fence.own.standing == "there":
            continue
        hung = section_of(fence)
        high = fence.decisions.clearance_m + hung.top_m
        asked.setdefault(root.line, []).append(Asked(root.at_m, fence.id, fence.name, high, hung.posts["terminal"]))
    return (
        {k: tuple(sorted(v, key=lambda a: (a.at_m, a.line))) for k, v in asked.items()},
        {k: tuple(v) for k, v in there.items()},
    )


Pulls = dict[tuple[str, float], list[Pull]]


def pulls_of(job: Job, courses: dict[str, Course], plans: Mapping[str, Plan]) -> Pulls:
    """All that pulls on every shared post, by the line that brings it and the station there."""
    roots = {root_of(job, courses, j.on, j.at_m) for j in job.joins if brought_by_other(job, courses, j)}
    found: Pulls = {(r.line, round(r.at_m, 3)): [] for r in roots}
    for line, made in plans.items():
        way = courses[line]
        for run in made.runs:
            for terminal, inward in ((run.start, 1.0), (run.end, -1.0)):
                root = root_of(job, courses, line, terminal.station_m)
                at = (root.line, round(root.at_m, 3))
                if at in found:
                    found[at].append(_pull(job.line(line).name, line, way, made, run, terminal.station_m, inward))
    return found


def _pull(name: str, line: str, way: Course, made: Plan, run: Run, at_m: float, inward: float) -> Pull:
    """The pull of a run on the post it ends on, along the fence from there."""
    (e0, n0), (e1, n1) = way.place(at_m), way.place(at_m + inward * min(1.0, run.length_m))
    bearing = float(np.degrees(np.arctan2(e1 - e0, n1 - n0))) % 360
    lifts = [
        b.statics.end_post_uplift_n or 0.0
        for b in made.braces
        if b.end.run == run.index and b.end.at_start == (inward > 0)
    ]
    lifts += [s.statics.end_post_uplift_n for s in made.struts if s.run == run.index and abs(s.station_m - at_m) < 1e-6]
    return Pull(line, name, bearing, made.section.pull_n, max(0.0, *lifts) if lifts else 0.0)


def with_pulls(job: Job, courses: Mapping[str, Course], made: Plan, line: str, pulls: Pulls) -> Plan:
    """A plan that knows what pulls on its shared posts."""
    rows = []
    for post in made.posts:
        if post.joined or post.shared:
            root = root_of(job, courses, line, post.station_m)
            if found := pulls.get((root.line, round(root.at_m, 3))):
                rows.append((post.index, tuple(found)))
    own = tuple(rows)
    return made if own == made.pulls else replace(made, pulls=own)
