"""What hangs on a plan's posts: rolls of every layer with their splices, coils of every wire, rails and boards."""

import math
from collections import Counter, defaultdict
from collections.abc import Sequence

import numpy as np

from gnomonic.core.brace.layout import BraceEnd
from gnomonic.core.demand.fabrics import Fabric
from gnomonic.core.demand.section import Section
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.lay import Rules, RunNeed
from gnomonic.core.fabric.rolls import RollPlan, plan_rolls
from gnomonic.core.finish.fittings import Sticks, bay_counts, diamond_m, sticks
from gnomonic.core.ground.course import Course
from gnomonic.core.job.document import Job
from gnomonic.core.plan.model import Bay, Coils, FabricPlan, LaidPiece, MoreRolls, Splice
from gnomonic.core.setout.line import Layout
from gnomonic.core.setout.runs import Run
from gnomonic.core.units import TAPE_M, reaching

PLAN_WORK_S = 0.5
CLEAR_OF_POSTS_M = 1e-6
NO_ROLLS = RollPlan(
    (), 0, 0, 0.0, {"new_rolls": True, "splices": True, "longest_offcut": True}, {"new_rolls": 0, "splices": 0},
    {"new_rolls": 0, "splices": 0}, (), (),
)  # fmt: skip
Memo = dict[tuple[object, ...], RollPlan]
Floats = np.ndarray[tuple[int], np.dtype[np.float64]]


def slope_lengths(layouts: list[Layout], line: Course) -> list[Floats]:
    """Slope distance of every post from its run's start."""
    found = []
    for layout in layouts:
        stations = np.array(layout.stations_m)
        chords = np.hypot(np.diff(stations), np.diff(line.profile.at(stations)))
        found.append(np.concatenate([[0.0], np.cumsum(chords)]))
    return found


def _sides(section: Section, runs: list[Run]) -> list[list[int]]:
    """Runs whose fabric is one length: each by itself, or all that meet at corners where it goes round them."""
    groups: list[list[int]] = []
    for run in runs:
        round_it = section.system.continuous and run.start.role in ("corner", "pull")
        if groups and round_it and abs(runs[groups[-1][-1]].end.station_m - run.start.station_m) < 1e-6:
            groups[-1].append(run.index)
        else:
            groups.append([run.index])
    return groups


def link_need_m(clear_m: float, fabric: Fabric, stretch_share: float) -> float:
    """Chain link to cut for a clear length: whole diamonds, less what it lengthens when pulled.  Source: geometry;
    the stretch is the system's rule.
    """
    pitch = diamond_m(fabric.mesh_m[1])
    return reaching(clear_m, pitch * (1 + stretch_share)) * pitch


def _stock_cut(fabric: Fabric, lengths_m: Sequence[float]) -> list[float]:
    """What is used of rolls and offcuts: chain link parts only between whole diamonds."""
    if fabric.kind != "link":
        return list(lengths_m)
    pitch = diamond_m(fabric.mesh_m[1])
    return [math.floor(m / pitch + 1e-6) * pitch for m in lengths_m]


def _shut(ends: Sequence[BraceEnd], side: Sequence[int]) -> tuple[int, int]:
    """Bays at the start and the end of a side that take no splice: every panel of its braces, or its end bay."""
    return max(1, _own_panels(ends[2 * side[0]])), max(1, _own_panels(ends[2 * side[-1] + 1]))


def _own_panels(end: BraceEnd) -> int:
    return 0 if end.crossed else end.panels


def hang_rolls(
    job: Job,
    section: Section,
    runs: list[Run],
    ends: Sequence[BraceEnd],
    layouts: list[Layout],
    lengths: list[Floats],
    memo: Memo,
) -> tuple[FabricPlan, tuple[MoreRolls, ...], Memo]:
    """Rolls of the lowest fabric with their splices clear of posts, rolls of further layers, and the memo of this plan."""
    if not section.layers:
        return FabricPlan(NO_ROLLS, (), (), (), ()), (), {}
    d, fabric = job.decisions, section.layers[0].fabric
    needs, along, stations = [], [], []
    sides = _sides(section, runs)
    for side in sides:
        starts = np.cumsum([0.0, *(lengths[k][-1] for k in side)])
        posts = np.concatenate([lengths[k][bool(n) :] + starts[n] for n, k in enumerate(side)])
        need = float(posts[-1]) + 2 * d.tie_off_m
        if fabric.kind == "link":
            clear = float(posts[-1]) - section.posts["terminal"].diameter_m
            need = link_need_m(clear, fabric, section.system.rule("stretch_share"))
        along.append(d.tie_off_m + posts)
        stations.append(np.concatenate([layouts[k].stations_m[bool(n) :] for n, k in enumerate(side)]))
        needs.append(RunNeed(need, tuple(along[-1].tolist()) if fabric.wires else None, _shut(ends, side)))
    roll, *offcuts = _stock_cut(fabric, (d.roll_m, *job.offcuts_m))
    (least,) = _stock_cut(fabric, (d.piece_min_m,))
    if fabric.kind == "link" and least < d.piece_min_m - 1e-6:
        least += diamond_m(fabric.mesh_m[1])
    give = 0.0 if fabric.kind == "link" else TAPE_M  # diamonds are counted, not taped
    rules = Rules(d.overlap_m, least, d.splice_clear_m + CLEAR_OF_POSTS_M, give)
    used: Memo = {}
    found = _planned_rolls(needs, roll, tuple(offcuts), rules, memo, used)
    pieces, splices = [], []
    for k, laid in enumerate(found.pieces):

        def station(fabric_m: float, k: int = k) -> float:
            return float(np.interp(fabric_m, along[k], stations[k]))

        reached = 0.0
        for piece in laid:
            start = max(0.0, reached - d.overlap_m) if reached else 0.0
            reached = start + piece.length_m
            pieces.append(LaidPiece(sides[k][0], piece.stock, piece.length_m, station(start), station(reached)))
        for c in found.splices_at_m[k]:
            gap = float(np.min(np.maximum(along[k] - c, c - d.overlap_m - along[k])))
            splices.append(Splice(sides[k][0], station(c - d.overlap_m), station(c), max(0.0, gap)))
    more = []
    tied = [RunNeed(n.need_m) for n in needs]
    ringed = [RunNeed(float(posts[-1]) - d.tie_off_m) for posts in along]  # along the side: nothing goes round a post
    named = [(layer.fabric, f"layer {n + 2}", tied) for n, layer in enumerate(section.layers[1:])]
    named += [(apron, "apron", ringed) for apron in section.aprons]
    named += [(lining, "fine mesh low", ringed) for lining in section.linings]
    for other, what, wanted in named:
        short = Rules(d.overlap_m, min(d.piece_min_m, other.roll_m), 0.0, TAPE_M)
        rolls = _planned_rolls(wanted, other.roll_m, (), short, memo, used)
        more.append(MoreRolls(other, sum(n.need_m for n in wanted), rolls.new_rolls, rolls.splices, what))
    return (
        FabricPlan(found, tuple(n.need_m for n in needs), tuple(s[0] for s in sides), tuple(pieces), tuple(splices)),
        tuple(more),
        used,
    )


def _planned_rolls(
    needs: list[RunNeed], roll_m: float, offcuts_m: tuple[float, ...], rules: Rules, memo: Memo, used: Memo
) -> RollPlan:
    key = (tuple(needs), roll_m, offcuts_m, rules)
    found = used.get(key) or memo.get(key)
    if found is None:
        try:
            found = plan_rolls(needs, roll_m, offcuts_m, rules, PLAN_WORK_S)
        except BadInput as error:
            number = int(error.field.removeprefix("runs_m[").rstrip("]")) + 1
            raise BadInput(
                "decisions",
                f"run {number} can't be laid: no splices keep clear of posts and end bays with pieces long enough; "
                "lessen the shortest piece, the clearance or the overlap of splices, or use longer rolls",
            ) from None
    used[key] = found
    return found


def wind_coils(section: Section, runs: list[Run], lengths: list[Floats]) -> tuple[Coils, ...]:
    """Coils of every wire: slope length and a tail at both ends of every run, one coil joined to the next."""
    tail = section.system.rule("wire_tail_m")
    total = sum(float(posts[-1]) for posts in lengths) + 2 * tail * len(runs)
    found = []
    for key, count in Counter(s.key for s in section.strands).items():
        wire = next(s.wire for s in section.strands if s.key == key)
        if wire.coil_m:
            coils = reaching(total * count, wire.coil_m)
            found.append(Coils(key, wire, count, total * count, coils, coils - 1))
    return tuple(found)


def count_between(job: Job, section: Section, bays: tuple[Bay, ...]) -> tuple[tuple[str, float], ...]:
    """What goes between posts in the whole job, by item."""
    counts: dict[str, float] = defaultdict(float)
    decided = {"batten_m": job.decisions.batten_m}
    lengths = Counter(round(b.slope_m, 6) for b in bays)
    for length, times in lengths.items():
        for item, number in bay_counts(section, length, decided).items():
            counts[item] += number * times
    return tuple(counts.items())


def cut_sticks(section: Section, bays: tuple[Bay, ...], posts: int, lengths: list[Floats]) -> tuple[Sticks, ...]:
    """Rails and boards of the job."""
    if not section.system.sticks:
        return ()
    wide = section.posts["terminal"].diameter_m
    clear = [float(along[-1]) - wide for along in lengths]
    return tuple(sticks(section, clear, [b.slope_m for b in bays], posts, section.top_m))
