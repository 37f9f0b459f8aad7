"""Gates of a line: the opening each leaf asks for, and how it hangs once its posts stand."""

import math
from collections.abc import Callable, Sequence

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.demand.section import Section
from gnomonic.core.finish.gates import GateKind, gate_kind
from gnomonic.core.finish.hanging import HungGate, turned
from gnomonic.core.finish.opening import leaf_that_fits_m, opening
from gnomonic.core.ground.course import Course
from gnomonic.core.job.fence import Fence
from gnomonic.core.job.parts import Gate, MeasuredLine
from gnomonic.core.kept import KeptBy
from gnomonic.core.plan.model import Pull
from gnomonic.core.setout.runs import Gap

LEAST_LEAF_M = 0.25
UNDER_LEAST_M = 0.0127
BESIDE_M = 10.0  # another line's points so near a gate say how the ground lies beside it
OFF_LINE_M = 0.5
Beside = tuple[tuple[float, float, float], ...]
Width = Callable[[float], float]


def kind_of(section: Section, gate: Gate) -> tuple[str, GateKind]:
    """A gate's kind: its own, or the barrier's."""
    key = gate.kind or section.system.gate
    return key, gate_kind(key)


def span_m(section: Section, gate: Gate, width: Width | None = None) -> float:
    """Between the centres of a gate's posts: as staked, or as its leaf asks; ``width`` of the post that stands at a station."""
    if gate.opening_m is not None:
        return gate.opening_m
    assert gate.leaf_m is not None
    _, kind = kind_of(section, gate)
    own = section.gate_post.diameter_m
    first = width(gate.at_m) if width else own
    made = opening(gate.leaf_m, kind.panes, kind.gaps_m, (first, own))
    if width:  # the far post may be another line's, and stouter
        made = opening(gate.leaf_m, kind.panes, kind.gaps_m, (first, width(gate.at_m + made.centres_m)))
    return made.centres_m


def gaps_for(fence: Fence, section: Section, width: Width) -> list[Gap]:
    """What is left open for gates."""
    return [Gap(g.id, g.name, g.at_m, span_m(section, g, width), "gate", g.opening_m is None) for g in fence.gates]


def beside(fence: Fence, line: Course) -> Beside:
    """Measured points of the job's other lines that lie near a gate of this one."""
    if not fence.gates or fence.line.level:
        return ()
    at = [line.place(min(g.at_m, line.length_m)) for g in fence.gates]
    others = (o.measured for o in fence.job.lines if o is not fence.own and not o.measured.level)
    return tuple(p for other in others for p in _points_near(other, at))


LINES_KEPT = 256
_measured: KeptBy[tuple[NDArray[np.float64], tuple[float, ...]]] = KeptBy(LINES_KEPT)


def _points_near(line: MeasuredLine, places: Sequence[tuple[float, float]]) -> list[tuple[float, float, float]]:
    """Measured points of a line near any of some places, in order along it; one that lies far off is not looked through."""

    def laid() -> tuple[NDArray[np.float64], tuple[float, ...]]:
        rows = np.array([(p.e_m, p.n_m, p.h_m) for p in line.points])
        return rows, (*rows.min(axis=0)[:2].tolist(), *rows.max(axis=0)[:2].tolist())

    rows, (e0, n0, e1, n1) = _measured.of(line, None, laid)
    close = [(e, n) for e, n in places if e0 - BESIDE_M < e < e1 + BESIDE_M and n0 - BESIDE_M < n < n1 + BESIDE_M]
    if not close:
        return []
    off = np.array([np.hypot(rows[:, 0] - e, rows[:, 1] - n) for e, n in close]).min(axis=0)
    return [(e, n, h) for e, n, h in rows[off < BESIDE_M].tolist()]


def across(fence: Fence, line: Course, gate: Gate, gap: Gap, near: Beside) -> tuple[float, str]:
    """How much the ground rises to the left a metre at a gate, and how that is known: said, from measured points beside the line, or not at all.

    Least squares through the fence's own ground: Σ w·o·r / Σ w·o², o off the line, r over its ground, w one over the distance.
    """
    if gate.rise_left is not None:
        return gate.rise_left, "said"
    (e0, n0), (e1, n1) = line.place(gap.at_m), line.place(gap.end_m)
    long = math.hypot(e1 - e0, n1 - n0)
    if not near or long <= 0:
        return 0.0, ""
    ux, uy = (e1 - e0) / long, (n1 - n0) / long
    top = under = 0.0
    for e, n, h in near:
        along, off = (e - e0) * ux + (n - n0) * uy, (n - n0) * ux - (e - e0) * uy
        if abs(off) < OFF_LINE_M or not -BESIDE_M < along < long + BESIDE_M or abs(off) > BESIDE_M:
            continue
        over = h - float(line.profile.at(line.stations_m[:1] * 0 + min(max(gap.at_m + along, 0.0), line.length_m))[0])
        weight = 1 / math.hypot(off, along - long / 2)
        top, under = top + weight * off * over, under + weight * off * off
    return (top / under, "measured") if under else (0.0, "")


def hang(
    fence: Fence, section: Section, line: Course, hung: Sequence[Gap], width: Width, near: Beside
) -> tuple[HungGate, ...]:
    """Gates in their places; ``width`` of the post that stands at a station.  The order is that of ``hung``."""
    made = []
    by_id = {g.id: g for g in fence.gates}
    most = fence.decisions.gap_max_m
    clearance = min(section.system.rule("gate_under_m"), max(most, UNDER_LEAST_M))
    for gap in hung:
        gate = by_id[gap.key]
        key, kind = kind_of(section, gate)
        posts = width(gap.at_m), width(gap.end_m)
        total = leaf_that_fits_m(gap.wide_m, kind.panes, kind.gaps_m, posts)
        leaf = gate.leaf_m if gate.leaf_m is not None else max(total / kind.panes, LEAST_LEAF_M)
        ends = [float(z) for z in line.profile.at(line.stations_m[:2] * 0 + [gap.at_m, gap.end_m])]
        said = across(fence, line, gate, gap, near)
        turns = turned(
            gate,
            kind,
            line.profile,
            ((gap.at_m, posts[0]), (gap.end_m, posts[1])),
            leaf,
            said[0],
            clearance,
            max(most, clearance),
        )
        made.append(
            HungGate(
                gate=gate,
                kind=kind,
                key=key,
                at_m=gap.at_m,
                opening_m=gap.wide_m,
                posts_m=posts,
                clear_m=gap.wide_m - sum(posts) / 2,
                leaf_m=leaf,
                high_m=fence.decisions.clearance_m + section.top_m - clearance,
                rise_m=ends[1] - ends[0],
                clearance_m=clearance,
                most_gap_m=max(most, clearance),
                made=gate.leaf_m is not None,
                across=said,
                turns=turns,
            )
        )
    return tuple(made)


def leaf_pulls(fence: Fence, line: Course, gates: Sequence[HungGate]) -> list[tuple[float, Pull]]:
    """What each leaf does to the post it hangs on, opened as far as it goes: its upper hinge's pull, taken to act there alone.

    Derived: the leaf's weight turns its post by W·(leaf/2 + …) whichever way it stands; that moment over the upper hinge's height is
    a force there.  The lower hinge pushes back nearly as much lower down, which is left out on the safe side.
    """
    found = []
    for gate in gates:
        for at in gate.hinge_posts_m:
            way = 1 if at == gate.at_m else -1
            (e0, n0), (e1, n1) = line.place(gate.at_m), line.place(gate.end_m)
            closed = math.degrees(math.atan2(e1 - e0, n1 - n0)) + (0 if way > 0 else 180)
            opened = gate.gate.open_deg if (gate.turn.side == "right") == (way > 0) else -gate.gate.open_deg
            high = gate.hinges_m[1]
            push = gate.moment_nm / high
            found.append(
                (at, Pull(fence.id, f"the leaf of {gate.name}", (closed + opened) % 360, push, 0.0, push, high))
            )
    return found
