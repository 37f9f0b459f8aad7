"""The walk list: what must be seen to on the ground before work begins, and the areas of it."""

from dataclasses import dataclass

from gnomonic.core.ground.found import OnLine, called
from gnomonic.core.ground.regions import Region, across, swath_m2, whole
from gnomonic.core.ground.square import Plot, plot_of
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Plan
from gnomonic.core.say import Say


@dataclass(frozen=True, slots=True)
class Row:
    """One thing to see to: what, where along the line, and what to take care of."""

    group: str
    title: str
    where: Say
    caution: str
    thing: OnLine


@dataclass(frozen=True, slots=True)
class Figures:
    """Areas and counts of the ground; ``plot`` where the line is a rectangle."""

    figure: Region | None
    parts: tuple[Region, ...]
    swath_m2: float
    swath_m: float
    to_fell: int
    line_m: float
    ground_m: float
    plot: Plot | None


def figures(fence: Fence, plan: Plan) -> Figures:
    """Enclosed area, parts across internal lines, the swath and the felling."""
    internal = [f.shape for f in fence.found if f.kind == "internal" and len(f.shape) > 1]
    fell = sum(1 if t.found.count is None else t.found.count for t in plan.things if t.found.kind == "tree")
    course = plan.course
    return Figures(
        whole(course),
        tuple(across(course, internal)),
        swath_m2(course, fence.swath_m),
        fence.swath_m,
        fell,
        course.length_m,
        course.profile.slope_length_m(),
        plot_of(course),
    )


def where(thing: OnLine) -> Say:
    """Where a thing lies along the line."""
    if not thing.stretches:
        return Say("beside the line")
    low, high = thing.stretches[0]
    more = f" and {len(thing.stretches) - 1} more" if len(thing.stretches) > 1 else ""
    if high - low < 0.05:
        return Say("at {low}" + more, {"low": (low, "station")})
    return Say("{low} to {high}" + more, {"low": (low, "station"), "high": (high, "station")})


def walk_list(plan: Plan) -> list[Row]:
    """Everything found, hazards first, then along the line."""
    order = {"hazard": 0, "service": 1, "ground": 2, "structure": 3, "side": 4, "figure": 5}
    rows = [
        Row(t.kind.group, t.kind.title if called(t.found) == t.kind.title.lower() else f"{t.kind.title}: {t.found.name}", where(t), t.kind.caution, t)
        for t in plan.things
        if t.found.kind != "internal"
    ]  # fmt: skip
    return sorted(rows, key=lambda r: (order[r.group], r.thing.stretches[0][0] if r.thing.stretches else 0.0))
