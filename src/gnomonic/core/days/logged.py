"""What the log of the field says is done of a crew's tasks: posts that are in, braces measured, runs pulled, gates and crossings hung.

A task nobody logs is done when it is ticked; of the two whichever says more holds (docs/method.md §19).
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from datetime import datetime

from gnomonic.core.days.progress import Done
from gnomonic.core.days.task import DayTask
from gnomonic.core.log.facts import Facts
from gnomonic.core.plan.model import JobPlan, Plan, Post

NEAR_M = 0.05
POSTS = ("ends", "line", "posts")


@dataclass(frozen=True, slots=True)
class _Seen:
    """What is logged of a line: posts in, ends measured, runs pulled by their first post, gates and crossings hung; each with when."""

    posts: dict[str, datetime]
    ends: dict[tuple[str, bool], datetime]
    pulled: dict[str, datetime]
    hung: dict[tuple[str, str], datetime]


def _seen(known: Facts, line: str) -> _Seen:
    made = _Seen({}, {}, {}, {})
    for k in known.stand:
        e, at = k.event, k.order[0]
        if e.line != line:
            continue
        if e.kind == "depth":
            made.posts[e.post] = at
        elif e.kind == "clear":
            made.ends[e.post, bool(e.ahead)] = at
        elif e.kind == "pulled":
            made.pulled[e.post] = at
        elif e.kind in ("gate", "crossing"):
            made.hung[e.kind, e.thing or ""] = at
    return made


def _of(task: DayTask, plan: Plan, seen: _Seen) -> list[datetime | None]:
    """When each of the things a task is made of was logged; none where the log has no such things of it."""
    kind = task.of

    def here(at_m: float) -> bool:
        low, high = task.from_m - NEAR_M, task.to_m + NEAR_M
        closes = plan.course.closed and at_m < NEAR_M and high > plan.course.length_m
        return low <= at_m <= high or closes

    def belongs(p: Post) -> bool:
        stands = not p.shared and here(p.station_m) and (p.rule.fit == "drive") == kind.driven
        return stands and (kind.step == "posts" or p.fixed == (kind.step == "ends"))

    if kind.step in POSTS and (kind.dug or kind.driven):
        return [seen.posts.get(p.name) for p in plan.posts if belongs(p)]
    if kind.braced:
        ends = [
            (p.name, b.end.at_start)
            for b in plan.braces
            if here(b.end.stations_m[0]) and (p := plan.post_at(b.end.stations_m[0]))
        ]
        return [seen.ends.get(end) for end in ends]
    if kind.step == "pull":
        starts = [plan.post_at(r.start.station_m) for r in plan.runs if here((r.start.station_m + r.end.station_m) / 2)]
        return [seen.pulled.get(p.name) for p in starts if p is not None]
    if kind.step == "gates":
        return [seen.hung.get(("gate", g.id)) for g in plan.gates if here(g.at_m)]
    if kind.step == "crossings":
        return [seen.hung.get(("crossing", c.thing)) for c in plan.crossings if here(c.middle_m)]
    return []


def logged(tasks: Iterable[DayTask], job: JobPlan, known: Facts) -> dict[str, tuple[float, datetime]]:
    """By task, the share of it that is logged and when the last of that was; only where any is."""
    seen = {line: _seen(known, line) for line in job.lines}
    found = {}
    for task in tasks:
        rows = _of(task, job.lines[task.line], seen[task.line])
        done = [at for at in rows if at is not None]
        if done:
            found[task.key] = (len(done) / len(rows), max(done))
    return found


def with_log(ticked: Done, log: Mapping[str, tuple[float, datetime]]) -> Done:
    """What is done, ticked or logged: whichever says more; ``log`` by the clock the ticks go by."""
    share, at = dict(ticked.share), dict(ticked.at)
    for key, (part, when) in log.items():
        if part > share.get(key, 0.0):
            share[key], at[key] = part, when
    return Done(share, at)
