"""The lane of work done along a line, for the log's page: posts to set and in, what was found, what is pulled, gaps."""

from dataclasses import dataclass

from gnomonic.core.job.fence import Fence
from gnomonic.core.log.facts import Facts
from gnomonic.core.plan.model import Plan
from gnomonic.core.tell.field_log import falls_short, gap_planned_m, too_wide

WIDE, EDGE = 1000.0, 12.0  # of the drawing in log.html


@dataclass(frozen=True, slots=True)
class Mark:
    """Something drawn at a place: ``kind`` in | to | short | found | gap | over, how it is said."""

    x: float
    kind: str
    words: str


@dataclass(frozen=True, slots=True)
class Lane:
    """A line's lane: marks, and its runs (from, to, whether it is pulled)."""

    marks: tuple[Mark, ...]
    runs: tuple[tuple[float, float, bool], ...]


def lane(fence: Fence, plan: Plan, known: Facts) -> Lane:
    """It, to scale along the line."""
    scale = (WIDE - 2 * EDGE) / max(plan.course.length_m, 1e-6)

    def x(station_m: float) -> float:
        return round(EDGE + station_m * scale, 1)

    own = [k.event for k in known.stand if k.event.line == fence.id]
    depth = {e.post: e for e in own if e.kind == "depth"}
    pulled = {e.post for e in own if e.kind == "pulled"}
    at = {p.name: p.station_m for p in plan.posts}
    marks = []
    for p in plan.posts:
        e = depth.get(p.name)
        kind = "to" if e is None else "short" if falls_short(e, p) or e.plumb is False else "in"
        marks.append(Mark(x(p.station_m), kind, f"{fence.id}{p.name}"))
    marks += [
        Mark(x(at.get(e.post, e.at_m)), "found", f"{fence.id}{e.post}: {e.what}") for e in own if e.kind == "found"
    ]
    by_name = {p.name: p for p in plan.posts}
    for e in own:
        if e.kind == "gap" and e.post in at:
            planned = gap_planned_m(plan, by_name[e.post])
            kind = "over" if planned is not None and too_wide(e, planned) else "gap"
            marks.append(Mark(x(at[e.post]), kind, f"{fence.id}{e.post}: gap"))
    runs = []
    for r in plan.runs:
        start = plan.post_at(r.start.station_m)
        runs.append((x(r.start.station_m), x(r.end.station_m), start is not None and start.name in pulled))
    return Lane(tuple(marks), tuple(runs))
