"""The dip sheet: where fabric hangs over a low, how far, and what it takes to draw it down and keep it there."""

from dataclasses import dataclass

from gnomonic.core.fabric.bar import Bar, bar
from gnomonic.core.fabric.press import Pressed, press
from gnomonic.core.plan.model import Holding, Plan, Post

WORTH_M = 0.05
EACH_WAY = 3


@dataclass(frozen=True, slots=True)
class Dip:
    """A post in a low: fabric held at ``from_m`` and ``to_m`` hangs ``hangs_m`` over where it is to be there."""

    post: Post
    held: Holding
    from_m: float
    to_m: float
    hangs_m: float
    pressed: Pressed
    bars: int
    ties: tuple[str, ...]
    wires: int


def _hung(plan: Plan) -> tuple[Bar, float] | None:
    """What is drawn down with one bar, and its pull: the fabric, or the strands where there is none."""
    layers = [layer.fabric for layer in plan.section.layers if layer.fabric.line_wires]
    if layers:
        return bar(w for f in layers for w in f.line_wires), sum(f.pull_n for f in layers)
    strands = [s.wire for s in plan.section.strands if s.wire.pull_n]
    return (bar(w.steel for w in strands), sum(w.pull_n for w in strands)) if strands else None


def dips(plan: Plan) -> list[Dip]:
    """Posts that the fabric lifts, with what it takes to press it down there before it is fastened.

    It hangs straight between the highs on both sides: the nearest posts each way that rise over that line; fastened there first.
    """
    hung, found = _hung(plan), list[Dip]()
    if hung is None or plan.section.railed:
        return []
    wires = sum(n for _, n in hung[0].wires)
    for held in plan.holds:
        if held.why != "dip" or held.lift_n <= 0:
            continue
        post = plan.posts[held.post]
        low, high = _highs(plan, post)
        a, b = post.station_m - low.station_m, high.station_m - post.station_m
        chord = low.ground_m + (high.ground_m - low.ground_m) * a / (a + b)
        hangs = chord - post.ground_m
        if hangs < WORTH_M:
            continue
        run = next((r for r in plan.runs if r.start.station_m <= post.station_m <= r.end.station_m), plan.runs[0])
        pressed = press(*hung, a, b, hangs, max(run.length_m, a + b))
        near = range(max(0, post.index - EACH_WAY), min(len(plan.posts), post.index + EACH_WAY + 1))
        found.append(
            Dip(
                post,
                held,
                low.station_m,
                high.station_m,
                hangs,
                pressed,
                max(2, min(3, wires)),
                tuple(plan.posts[k].name for k in near if k != post.index),
                wires,
            )
        )
    return found


def _highs(plan: Plan, post: Post) -> tuple[Post, Post]:
    """The posts each way between which the fabric hangs clear of the ground over this one: where the hull of the ground
    touches."""
    run = next((r for r in plan.runs if r.start.station_m <= post.station_m <= r.end.station_m), plan.runs[0])
    own = [p for p in plan.posts if run.start.station_m - 1e-6 <= p.station_m <= run.end.station_m + 1e-6]
    hull: list[Post] = []
    for p in own:
        while len(hull) > 1 and _turns_up(hull[-2], hull[-1], p):
            hull.pop()
        hull.append(p)
    before = [p for p in hull if p.station_m < post.station_m]
    after = [p for p in hull if p.station_m > post.station_m]
    return (before or own)[-1 if before else 0], (after or own)[0 if after else -1]


def _turns_up(a: Post, b: Post, c: Post) -> bool:
    return (b.ground_m - a.ground_m) * (c.station_m - b.station_m) <= (c.ground_m - b.ground_m) * (
        b.station_m - a.station_m
    )
