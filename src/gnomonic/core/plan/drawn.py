"""What is drawn at once along a run: a fabric by its bar, or strands of one kind, with the pull of the day on it."""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from gnomonic.core.demand.section import HungLayer, Section
from gnomonic.core.fabric.bar import Bar, bar
from gnomonic.core.fabric.fabrics import CurveClass, Wire
from gnomonic.core.fabric.wire import Crimped
from gnomonic.core.finish.cable import GRAVITY
from gnomonic.core.pull.aim import Aim, Days, aim
from gnomonic.core.pull.gear import (
    Joint,
    Tie,
    friction,
    joints,
    rule,
    ties,
)

MESH = Bar(((Crimped(0.0025), 1),))  # stands for a mesh whose own give is not known: only friction is followed


@dataclass(frozen=True, slots=True)
class Drawn:
    """What is drawn at once along a run: one fabric by its bar, or strands of one kind one after the other.

    ``at_m`` is where its pull acts over its lower edge; ``known`` false where the mesh's own give is not on file;
    ``curve`` the class of its wires' curve, none where they have none.
    """

    title: str
    bar: Bar
    known: bool
    count: int
    foot_m: float
    high_m: float
    at_m: float
    mass_kg_m: float
    stay_m: float
    tie: Tie
    tie_key: str
    joint: Joint
    aim: Aim
    fabric: bool
    barbs: bool
    wires: int
    curve: CurveClass | None

    @property
    def relaxed_share(self) -> float:
        """What of its tension the first year takes."""
        return self.curve.relax_share if self.curve else rule("strand_relaxed_share")


def drawn_on(section: Section, days: Days) -> list[Drawn]:
    """Everything of a barrier that is drawn along its runs, in the order it is: the lowest fabric, then strands by kind."""
    found = [fabric_drawn(section, layer, days) for layer in section.layers[:1]]
    for key, count in Counter(s.key for s in section.strands if s.wire.pull_n > 0 and s.wire.break_n > 0).items():
        heights = [s.at_m for s in section.strands if s.key == key]
        wire = next(s.wire for s in section.strands if s.key == key)
        found.append(strand_drawn(section, key, wire, count, heights, days))
    return found


LAPPED = {"link": "weave", "hex": "seam", "cloth": "seam", "netting": "seam", "sheet": "seam", "welded": "sleeve"}

ENDED = {"link": "bar", "hex": "corner", "cloth": "corner", "netting": "corner", "sheet": "corner", "welded": "tie"}


def fabric_drawn(section: Section, layer: HungLayer, days: Days) -> Drawn:
    """A fabric as it is drawn on a day."""
    fabric = layer.fabric
    known = bool(fabric.line_wires)
    hung = bar(fabric.line_wires) if known else MESH
    if known:
        working = dict(zip(fabric.line_wires, fabric.working_n, strict=True)) if fabric.working_n else {}
        ends = fabric.cold_pull_n(section.system.rule("cold_drop_k"))
        goal = aim(hung, days, [working[w] for w, _ in hung.wires] if working else (), ends)
        tensions = dict(zip((w for w, _ in hung.wires), hung.wires_n(goal.pull_n), strict=True))
        each = [tensions[w] for w in fabric.line_wires]
        at = sum(h * t for h, t in zip(fabric.wire_heights_m, each, strict=True)) / sum(each)
    else:
        pull, at = fabric.rolled_pull_n, fabric.height_m / 2
        goal = Aim(pull, "working", days, pull, pull, 0.0)
    tie = section.school("ends") or ENDED.get(fabric.kind, "clip" if fabric.tensile == "high" else "tie")
    joint = section.school("splice") or LAPPED.get(fabric.kind, "sleeve")
    return Drawn(
        fabric.label, hung, known, 1, layer.bottom_m, fabric.height_m, at, fabric.mass_kg_m, fabric.stay_m, ties()[tie], tie, joints()[joint],
        goal, True, False, fabric.wires, fabric.curve,
    )  # fmt: skip


def strand_drawn(section: Section, key: str, wire: Wire, count: int, heights: Sequence[float], days: Days) -> Drawn:
    """Strands of one kind as each is drawn on a day."""
    hung = bar([wire.steel])
    goal = aim(hung, days, (wire.pull_n,), wire.cold_pull_n(section.system.rule("cold_drop_k")))
    taut = any(f.item == "tensioner" and f.of in ("", "strands", key) for f in section.system.fittings)
    tie, joint = "tensioner" if taut else "turns", "loops" if wire.barbs else "sleeve"
    foot = min(heights)
    mass = wire.steel.ea_n / wire.steel.e_pa * 7850.0
    return Drawn(
        wire.word, hung, True, count, foot, 0.0, 0.0, mass, 0.0, ties()[tie], tie, joints()[joint], goal, False, wire.barbs, 1, None,
    )  # fmt: skip


def drag_n_m(drawn: Drawn) -> float:
    """What drags a metre of it while it is drawn."""
    if not drawn.fabric:
        return rule("strand_drag_n_m")
    return drawn.mass_kg_m * GRAVITY * friction()["ground"].mu * rule("dragged_share")
