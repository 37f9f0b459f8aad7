"""What hangs on a line's posts: how much fabric and wire it asks for, what goes between posts, rails and boards."""

import math
from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from gnomonic.core.brace.layout import BraceEnd
from gnomonic.core.demand.section import Section
from gnomonic.core.fabric.fabrics import Fabric, Wire
from gnomonic.core.fabric.lay import Rules, RunNeed
from gnomonic.core.fabric.mixed import RollKind
from gnomonic.core.finish.fittings import Sticks, bay_counts, diamond_m, sticks
from gnomonic.core.ground.course import Course
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Bay
from gnomonic.core.plan.rails import Rail
from gnomonic.core.setout.line import Layout
from gnomonic.core.setout.runs import Run
from gnomonic.core.units import TAPE_M, reaching

CLEAR_OF_POSTS_M = 1e-6
Floats = np.ndarray[tuple[int], np.dtype[np.float64]]


def slope_lengths(layouts: list[Layout], line: Course, rails: Sequence[Rail] = ()) -> list[Floats]:
    """Slope distance of every post from its run's start, along the ground or the rail."""
    found = []
    for k, layout in enumerate(layouts):
        stations = np.array(layout.stations_m)
        over = np.array(rails[k].heights_m) if rails else 0.0
        chords = np.hypot(np.diff(stations), np.diff(line.profile.at(stations) + over))
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


def stock_cut(fabric: Fabric, lengths_m: Sequence[float]) -> list[float]:
    """What is used of rolls and offcuts: chain link parts only between whole diamonds."""
    if fabric.kind != "link":
        return list(lengths_m)
    pitch = diamond_m(fabric.mesh_m[1])
    return [math.floor(m / pitch + 1e-6) * pitch for m in lengths_m]


def ends_wide_m(section: Section, first: Run, last: Run) -> float:
    """What both terminals of a side take of it: half of each."""
    return (section.terminal(first.start.role).diameter_m + section.terminal(last.end.role).diameter_m) / 2


def _shut(ends: Sequence[BraceEnd], side: Sequence[int]) -> tuple[int, int]:
    """Bays at the start and the end of a side that take no splice: every panel of its braces, or its end bay."""
    return max(1, _own_panels(ends[2 * side[0]])), max(1, _own_panels(ends[2 * side[-1] + 1]))


def _own_panels(end: BraceEnd) -> int:
    return 0 if end.crossed else end.panels


@dataclass(frozen=True, eq=False)
class Want:
    """Fabric a line asks for: ``what`` is empty for the lowest, else what it is; one need a side.

    ``along`` are the posts' places along the fabric and ``stations`` theirs along the line, a row a need.  A side that is to be
    spliced where the fencer said is two needs or more; ``whole`` are the sides as they would be without.
    """

    what: str
    fabric: Fabric
    roll_m: float
    rules: Rules
    needs: tuple[RunNeed, ...]
    runs: tuple[int, ...]
    along: tuple[Floats, ...] = ()
    stations: tuple[Floats, ...] = ()
    whole: tuple[RunNeed, ...] = ()
    sold: tuple[RollKind, ...] = ()
    splice_worth_m: float = 0.0
    worn_m: tuple[float, ...] = ()

    @cached_property
    def key(self) -> tuple[object, ...]:
        """Wants of one key are cut from the same rolls."""
        return self.what, self.fabric, self.roll_m, self.rules, self.sold, self.splice_worth_m, self.worn_m


def wants_of(
    fence: Fence,
    section: Section,
    runs: list[Run],
    ends: Sequence[BraceEnd],
    layouts: list[Layout],
    lengths: list[Floats],
) -> tuple[Want, ...]:
    """Fabric of the lowest layer with what keeps its splices clear of posts, and of further layers, aprons and linings."""
    if not section.layers:
        return ()
    d, fabric = fence.decisions, section.layers[0].fabric
    needs, along, stations = [], [], []
    sides = _sides(section, runs)
    for side in sides:
        starts = np.cumsum([0.0, *(lengths[k][-1] for k in side)])
        posts = np.concatenate([lengths[k][bool(n) :] + starts[n] for n, k in enumerate(side)])
        need = float(posts[-1]) + 2 * d.tie_off_m
        if fabric.kind == "link":
            clear = float(posts[-1]) - ends_wide_m(section, runs[side[0]], runs[side[-1]])
            need = link_need_m(clear, fabric, section.system.rule("stretch_share"))
        along.append(d.tie_off_m + posts)
        stations.append(np.concatenate([layouts[k].stations_m[bool(n) :] for n, k in enumerate(side)]))
        posts_m = tuple(along[-1].tolist()) if fabric.wires else None
        needs.append(RunNeed(need, posts_m, _shut(ends, side), _whole(fence, along[-1], stations[-1])))
    (roll,) = stock_cut(fabric, (d.roll_m,))
    (least,) = stock_cut(fabric, (d.piece_min_m,))
    if fabric.kind == "link" and least < d.piece_min_m - 1e-6:
        least += diamond_m(fabric.mesh_m[1])
    give = 0.0 if fabric.kind == "link" else TAPE_M  # diamonds are counted, not taped
    rules = Rules(d.overlap_m, least, d.splice_clear_m + CLEAR_OF_POSTS_M, give)
    firsts = tuple(side[0] for side in sides)
    tied = tuple(RunNeed(n.need_m) for n in needs)
    ringed = tuple(
        RunNeed(float(posts[-1]) - d.tie_off_m) for posts in along
    )  # along the side: nothing goes round a post
    parted = [_parted(fence, rules, *row) for row in zip(needs, firsts, along, stations, strict=True)]
    laid = [part for row in parted for part in row]
    found = [
        Want(
            "",
            fabric,
            roll,
            rules,
            tuple(n for n, _, _, _ in laid),
            tuple(k for _, k, _, _ in laid),
            tuple(a for _, _, a, _ in laid),
            tuple(s for _, _, _, s in laid),
            tuple(needs),
            _sold(fence, fabric, roll),
            fence.own.rolls.splice_worth_m,
            fence.worn_m,
        )
    ]
    named = [(layer.fabric, f"layer {n + 2}", tied) for n, layer in enumerate(section.layers[1:])]
    named += [(apron, "apron", ringed) for apron in section.aprons]
    named += [(lining, "fine mesh low", ringed) for lining in section.linings]
    for other, what, wanted in named:
        short = Rules(d.overlap_m, min(d.piece_min_m, other.roll_m), 0.0, TAPE_M)
        found.append(Want(what, other, other.roll_m, short, wanted, firsts))
    return tuple(found)


def _whole(fence: Fence, along: Floats, stations: Floats) -> tuple[tuple[float, float], ...]:
    """Stretches of a side, along its fabric, in which no splice is made."""
    met = [(w.from_m, w.to_m) for w in fence.own.rolls.whole if w.from_m < stations[-1] and w.to_m > stations[0]]
    return tuple((float(np.interp(a, stations, along)), float(np.interp(b, stations, along))) for a, b in met)


def _sold(fence: Fence, fabric: Fabric, roll_m: float) -> tuple[RollKind, ...]:
    """Every length its rolls are sold in, paid for by their length; none where there is one and splices cost nothing."""
    ask, usual = fence.own.rolls, fence.decisions.roll_m
    if not ask.also_m and not ask.splice_worth_m:
        return ()
    more = sorted({m for m in ask.also_m if abs(m - usual) > TAPE_M}, reverse=True)
    return (
        RollKind(roll_m, usual, usual),
        *(RollKind(cut, m, m) for m, cut in zip(more, stock_cut(fabric, more), strict=True)),
    )


def _parted(
    fence: Fence, rules: Rules, need: RunNeed, first: int, along: Floats, stations: Floats
) -> list[tuple[RunNeed, int, Floats, Floats]]:
    """A side as needs of their own: one, or parted where the fencer has it pulled both ways to a splice.

    The splice is made where one is allowed that lies nearest to the place that was said; none where none is.
    """
    way = fence.pulled_from(float(stations[0]), float(stations[-1]))
    windows = rules.splice_windows(need)
    if way is None or way.splice_m is None or need.posts_m is None or not windows:
        return [(need, first, along, stations)]
    posts, lap = need.posts_m, rules.overlap_m
    asked = float(np.interp(way.splice_m, stations, along)) + lap / 2
    cut = min((min(max(asked, a), b) for a, b in windows), key=lambda c: abs(c - asked))
    start = cut - lap
    barred = tuple((a - start, b - start) for a, b in need.barred)
    before = RunNeed(cut, tuple(p for p in posts if p <= start), (need.shut[0], 0), need.barred)
    behind = RunNeed(need.need_m - start, tuple(p - start for p in posts if p >= cut), (0, need.shut[1]), barred)
    return [(before, first, along, stations), (behind, first, along - start, stations)]


@dataclass(frozen=True, slots=True)
class WireWant:
    """Wire a line asks for: so many strands, metres in all with the tails."""

    key: str
    wire: Wire
    strands: int
    total_m: float


def wires_of(section: Section, runs: list[Run], lengths: list[Floats]) -> tuple[WireWant, ...]:
    """Metres of every wire: slope length and a tail at both ends of every run."""
    tail = section.system.rule("wire_tail_m")
    total = sum(float(posts[-1]) for posts in lengths) + 2 * tail * len(runs)
    found = []
    for key, count in Counter(s.key for s in section.strands).items():
        wire = next(s.wire for s in section.strands if s.key == key)
        if wire.coil_m:
            found.append(WireWant(key, wire, count, total * count))
    return tuple(found)


def count_between(fence: Fence, section: Section, bays: tuple[Bay, ...]) -> tuple[tuple[str, float], ...]:
    """What goes between posts in the whole job, by item."""
    counts: dict[str, float] = defaultdict(float)
    decided = {"batten_m": fence.decisions.batten_m}
    lengths = Counter(round(b.slope_m, 6) for b in bays)
    for length, times in lengths.items():
        for item, number in bay_counts(section, length, decided).items():
            counts[item] += number * times
    return tuple(counts.items())


def cut_sticks(
    section: Section, runs: Sequence[Run], bays: tuple[Bay, ...], posts: int, lengths: list[Floats]
) -> tuple[Sticks, ...]:
    """Rails and boards of the job."""
    if not section.system.sticks:
        return ()
    clear = [float(along[-1]) - ends_wide_m(section, run, run) for run, along in zip(runs, lengths, strict=True)]
    return tuple(sticks(section, clear, [b.slope_m for b in bays], posts, section.top_m))
