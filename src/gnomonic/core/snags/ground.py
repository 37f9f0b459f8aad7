"""Snags of the ground itself: services not marked, posts in zones, heights that can't be trusted, finds to see to."""

from datetime import date

from gnomonic.core.ground.found import called
from gnomonic.core.ground.marking import may_dig, state_of
from gnomonic.core.ground.measuring import rule
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Barred, Plan, posts_in
from gnomonic.core.say import Say
from gnomonic.core.snags.snag import Remedy, Snag

UNMARKED = {
    "not asked": Say("Buried services have not been asked about"),
    "requested": Say("Buried services are asked about, the marks are not in"),
    "expired": Say("The marks of buried services have run out"),
    "elsewhere": Say("The line has left the ground that was asked about"),
}
GATE_NEAR_M = 2.0


def ground_snags(fence: Fence, plan: Plan, today: date) -> list[Snag]:
    """Every snag of the ground on a day."""
    return [*_unmarked(fence, plan, today), *_zones(plan), *_heights(fence), *_gates(fence, plan)]


def _unmarked(fence: Fence, plan: Plan, today: date) -> list[Snag]:
    state = state_of(fence.marking, plan.course, today)
    if may_dig(state):
        return []
    wait = Say("do not dig: ask the marking service, wait for its marks, dig by hand beside them")
    return [Snag("unmarked", True, 1e6, 0.0, UNMARKED[state], wait, go="marking")]


def _zones(plan: Plan) -> list[Snag]:
    """Posts that stand where something was found, because they can't be moved or no bay spans it."""
    found = []
    for stretch in plan.barred:
        inside = posts_in(plan, stretch) if stretch.found_id else []
        if not inside:
            continue
        first = inside[0]
        what = "its tolerance zone" if stretch.hand_dig else "it"
        many = "A post stands" if len(inside) == 1 else f"{len(inside)} posts stand"
        found.append(
            Snag(
                "hand-dig" if stretch.hand_dig else "in-the-way",
                stretch.hand_dig,
                90.0 if stretch.hand_dig else 20.0,
                first.station_m,
                Say(
                    "{many} in the tolerance zone of {what} at {at}"
                    if stretch.hand_dig
                    else "{many} in {what} at {at}",
                    {"many": many, "what": stretch.reason, "at": (first.station_m, "station")},
                ),
                _zone_says(stretch, what),
            )
        )
    return found


def _zone_says(stretch: Barred, what: str) -> Say:
    dig = "dig by hand" if stretch.hand_dig else "expect short or slow holes"
    if stretch.kept:
        return Say(dig + ": the post carries tension and the set-out can't move it; or move the line or the gate")
    wide: tuple[float, str] = (stretch.to_m - stretch.from_m, "station")
    return Say(dig + f": no bay spans {what}, {{wide}} along the line", {"wide": wide})


def _heights(fence: Fence) -> list[Snag]:
    grid = fence.line.grid
    if grid is not None:
        cell: dict[str, tuple[float, str] | str] = {"cell": (grid.cell_m, "cut"), "twice": (2 * grid.cell_m, "cut")}
        return [
            Snag(
                "grid",
                False,
                3.0,
                0.0,
                Say("Heights come from a grid of {cell} cells", cell),
                Say("it can't see ditches and ruts narrower than {twice}: walk the gaps before cutting posts", cell),
                go="walk",
            )
        ]
    if fence.line.level:
        level = Say("the ground is taken as level: nothing is known about gaps under the wire")
        return [Snag("level", False, 3.0, 0.0, Say("The line has no heights"), level, go="walk")]
    return []


def _gates(fence: Fence, plan: Plan) -> list[Snag]:
    """Openings that were asked for while walking and are not hung yet."""
    found = []
    for thing in plan.things:
        for low, high in thing.stretches if thing.kind.effect == "gate" else ():
            if any(g.at_m - GATE_NEAR_M < high and low < g.at_m + g.opening_m + GATE_NEAR_M for g in plan.gates):
                continue
            wide = high - low if high - low >= 0.5 else rule("wanted_gate_m")
            edit = {"do": "add_gate", "at_m": round(low, 3), "opening_m": round(wide, 3), "name": called(thing.found)}
            found.append(
                Snag(
                    "gate-wanted",
                    False,
                    4.0,
                    low,
                    Say("{name} is wanted at {at}", {"name": called(thing.found), "at": (low, "station")}),
                    Say("no gate hangs there yet"),
                    (Remedy(Say("hang one of {wide}", {"wide": (wide, "station")}), edit),),
                )
            )
    return found
