"""What lines that share posts ask of one another, and all that pulls on a shared post."""

from collections.abc import Mapping
from dataclasses import replace

from gnomonic.core.ground.course import Course
from gnomonic.core.ground.joined import brought_by_other, root_of
from gnomonic.core.job.document import Job
from gnomonic.core.job.fence import fence_of
from gnomonic.core.plan.line import section_of
from gnomonic.core.plan.model import Asked, Plan, Pull


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
        for station, pull in made.ends:
            root = root_of(job, courses, line, station)
            at = (root.line, round(root.at_m, 3))
            if at in found:
                found[at].append(pull)
    return found


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
