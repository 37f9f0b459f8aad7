"""Job → Plan: the one road through the computations, in the order of the work.

``plan`` is deterministic and has no side effect; the optional memo only saves work.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from gnomonic.core.brace.layout import BraceEnd, brace_ends
from gnomonic.core.brace.statics import h_brace
from gnomonic.core.demand.system import Fabric, PostKind, WovenSystem, woven
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.lay import Rules, RunNeed
from gnomonic.core.fabric.rolls import RollPlan, plan_rolls
from gnomonic.core.finish.fasten import fasteners
from gnomonic.core.ground.course import Course, course
from gnomonic.core.ground.found import OnLine, called, no_post_stretches, on_line, soft_ground, wanted_posts
from gnomonic.core.ground.profile import Floats
from gnomonic.core.job import Job
from gnomonic.core.planned import Barred, Bay, Brace, FabricPlan, LaidPiece, Plan, Post, Splice
from gnomonic.core.setout.least_cost import Limits, Solved
from gnomonic.core.setout.line import (
    SAME_M,
    Layout,
    even_grid,
    even_layout,
    measure,
    merged,
    solve_between,
)
from gnomonic.core.setout.runs import Run, split_runs

GRID_M = 0.25
CLOSE_M = 0.3
PLAN_WORK_S = 0.5
CLEAR_OF_POSTS_M = 1e-6
Soft = tuple[float, float, float, str]
NOTHING_SOFT: Soft = (0.0, 0.0, 0.0, "")


@dataclass(slots=True)
class PlanMemo:
    """Stretches solved for the plan before, by their ends; ``work`` counts nodes solved in the last plan."""

    stretches: dict[tuple[float, float], Solved] = field(default_factory=dict)
    rolls: dict[tuple[object, ...], RollPlan] = field(default_factory=dict)
    work: int = 0


def limits_of(job: Job, system: WovenSystem) -> Limits:
    """What a bay may do under the job's decisions."""
    d = job.decisions
    steep = tuple((s.grade, s.share * d.longest_bay_m) for s in system.steep_bays)
    return Limits(d.longest_bay_m, d.clearance_m, d.gap_min_m, d.gap_max_m, d.k_fill, d.k_cut, steep)


def plan(job: Job, memo: PlanMemo | None = None) -> Plan:
    """Plan a job.  Raises BadInput when the ground, gates or forbidden stretches leave no plan."""
    memo = PlanMemo() if memo is None else memo
    system = woven()
    fabric, limits, line = system.fabric(job.barrier.label), limits_of(job, system), course(job.line)
    runs, gates = split_runs(line, job.gates, job.decisions.corner_angle_deg)
    things = on_line(line, job.found)
    barred = _barred(job, things)
    spans = [(b.from_m, b.to_m) for b in barred]
    ends = [e for run in runs for e in _braces_of(run, job, spans)]
    layouts, evens, ignored = _set_out(job, line, runs, ends, limits, barred, wanted_posts(things), memo)
    height = job.decisions.clearance_m + fabric.height_m
    posts, bays = _posts(job, line, system, fabric, runs, ends, layouts, height, things)
    braces = tuple(_brace(e, runs[e.run], system, fabric, height, job.decisions.clearance_m) for e in ends)
    rolls = _rolls(job, runs, layouts, line, memo)
    return Plan(
        course=line,
        fabric=fabric,
        limits=limits,
        fence_height_m=height,
        runs=tuple(runs),
        gates=tuple(gates),
        posts=posts,
        bays=bays,
        braces=braces,
        rolls=rolls,
        layout=tuple(layouts),
        even=tuple(evens),
        ignored_posts_m=tuple(ignored),
        barred=tuple(barred),
        things=tuple(things),
    )


def _barred(job: Job, things: list[OnLine]) -> list[Barred]:
    """Where no post should stand: by hand and by what was found.

    Stretches found that lie together longer than the longest bay can't be spanned: posts will stand in them, flagged.
    """
    found = sorted(no_post_stretches(things), key=lambda s: s[:2])
    clusters: list[list[float]] = []
    for low, high in sorted([(s.from_m, s.to_m) for s in job.forbidden] + [s[:2] for s in found]):
        if clusters and low < clusters[-1][1]:
            clusters[-1][1] = max(clusters[-1][1], high)
        else:
            clusters.append([low, high])
    wide = [(a, b) for a, b in clusters if b - a > job.decisions.longest_bay_m]
    digs = {t.found.id for t in things if t.kind.effect == "hand_dig"}
    return [Barred(s.from_m, s.to_m, s.reason) for s in job.forbidden] + [
        Barred(low, high, called(f), f.id, f.id in digs, not any(a <= low and high <= b for a, b in wide))
        for low, high, f in found
    ]


def _braces_of(run: Run, job: Job, forbidden: list[tuple[float, float]]) -> tuple[BraceEnd, BraceEnd]:
    d = job.decisions
    return brace_ends(
        run.index,
        run.start.station_m,
        run.end.station_m,
        d.brace_spacing_m,
        int(d.brace_panels),
        d.longest_bay_m,
        forbidden,
    )


def _set_out(
    job: Job,
    line: Course,
    runs: list[Run],
    ends: list[BraceEnd],
    limits: Limits,
    barred: list[Barred],
    wanted: list[float],
    memo: PlanMemo,
) -> tuple[list[Layout], list[Layout], list[float]]:
    """Posts of every run, what even spacing would have been, and the placed posts that could not be kept."""
    solved_now: dict[tuple[float, float], Solved] = {}
    layouts, evens, kept = [], [], set()
    placed, bends = sorted(p.at_m for p in job.posts), _bends(job, line)
    forbidden = [(b.from_m, b.to_m) for b in barred if b.kept]
    by_hand = [(b.from_m, b.to_m) for b in barred if not b.found_id]
    edges = [s for b in barred for s in (b.from_m, b.to_m)]
    memo.work = 0
    for run in runs:
        own = ends[2 * run.index : 2 * run.index + 2]
        braced = sorted({s for e in own for s in e.stations_m})
        panels = {(min(pair), max(pair)) for e in own for pair in pairwise(e.stations_m)}
        bent = _added(braced, bends, own, ())
        asked = _added(bent, placed, own, forbidden)
        kept |= set(asked) - set(bent)
        fixed = _added(asked, wanted, own, forbidden)
        stations = [fixed[0]]
        for low, high in pairwise(fixed):
            if (low, high) in panels:  # a brace panel is one bay
                stations.append(high)
                continue
            breaks = line.profile.breaks_between(low, high)
            candidates = merged(even_grid(low, high, limits.max_spacing_m, GRID_M), edges, breaks)
            before = memo.stretches.get((low, high))
            solved = _between(line, low, high, candidates, (forbidden, by_hand), limits, before)
            memo.work += 0 if solved is before else solved.work
            solved_now[low, high] = solved
            stations += solved.posts_m[1:].tolist()
        layouts.append(measure(line.profile, stations, limits))
        evens.append(even_layout(line.profile, bent, limits))
    memo.stretches = solved_now
    return layouts, evens, [at for at in placed if at not in kept]


def _between(
    line: Course,
    low: float,
    high: float,
    candidates: Floats,
    tries: tuple[list[tuple[float, float]], list[tuple[float, float]]],
    limits: Limits,
    before: Solved | None,
) -> Solved:
    """Posts between two fixed points: clear of everything barred, or else of what was forbidden by hand."""
    everything, by_hand = tries
    try:
        return solve_between(line.profile, low, high, candidates, everything, limits, before)
    except BadInput:
        try:
            return solve_between(line.profile, low, high, candidates, by_hand, limits)
        except BadInput as error:
            sentence = error.sentence.replace("max_spacing_m", "the longest bay")
            raise BadInput("forbidden", sentence) from None


def _bends(job: Job, line: Course) -> list[float]:
    """Stations where the line bends noticeably within a run: a post must stand there."""
    noticed, turns = woven().rule("noticed_turn_deg"), np.abs(line.turns_deg())
    at = (turns > noticed) & (turns <= job.decisions.corner_angle_deg)
    at[[0, -1]] = False
    return [float(s) for s in line.stations_m[at]]


def _added(
    fixed: list[float], wanted: list[float], own: list[BraceEnd], forbidden: Sequence[tuple[float, float]]
) -> list[float]:
    """Fixed points with those wanted that lie between the braces, where posts may stand, and on no other post."""
    taken = list(fixed)
    panels = [(min(e.stations_m) - CLOSE_M, max(e.stations_m) + CLOSE_M) for e in own]
    for at in wanted:
        if (
            fixed[0] < at < fixed[-1]
            and not any(low < at < high for low, high in [*panels, *forbidden])
            and min(abs(at - f) for f in taken) > CLOSE_M
        ):
            taken.append(at)
    return sorted(taken)


def _softest(soft: Sequence[Soft], station_m: float) -> Soft | None:
    """The stretch of soft ground that takes posts deepest here."""
    return next((row for row in soft if row[0] <= station_m <= row[1]), None)


def _posts(
    job: Job,
    line: Course,
    system: WovenSystem,
    fabric: Fabric,
    runs: list[Run],
    ends: list[BraceEnd],
    layouts: list[Layout],
    height_m: float,
    things: list[OnLine],
) -> tuple[tuple[Post, ...], tuple[Bay, ...]]:
    """Number the posts along the line, choose their kinds, and join them by bays."""
    inner = {round(s, 6) for e in ends for s in e.stations_m[1:]}
    forced = {round(p.at_m, 6) for p in job.posts}
    dip, noticed = system.rule("dip_grade"), system.rule("noticed_turn_deg")
    soft = soft_ground(things)
    turns = dict(zip(np.round(line.stations_m, 6).tolist(), line.turns_deg().tolist(), strict=True))
    rows: dict[float, tuple[PostKind, str, float, float, int]] = {}
    for run, layout in zip(runs, layouts, strict=True):
        since = 0
        for k, station in enumerate(layout.stations_m):
            terminal = run.start if k == 0 else run.end if k == len(layout.stations_m) - 1 else None
            if terminal is not None:
                at = 0.0 if line.closed and terminal.station_m > line.length_m - SAME_M else terminal.station_m
                known = rows.get(at)
                here = "gate" if known and known[1] == "gate" else terminal.role
                rows[at] = ("terminal", here, terminal.turn_deg, 0.0, (known[4] if known else 0) + 1)
                since = 0
                continue
            change = layout.bays[k].grade - layout.bays[k - 1].grade
            turn = turns.get(round(station, 6), 0.0)
            if round(station, 6) in inner:
                rows[station] = ("brace", "brace", turn, change, 1)
                since = 0
                continue
            bent = noticed < abs(turn) <= job.decisions.corner_angle_deg
            role = "dip" if change > dip else "hump" if change < -dip else "bend" if bent else "line"
            since += 1
            wood = (
                role != "line"
                or _softest(soft, station)
                or (job.decisions.wood_every and since >= job.decisions.wood_every)
            )
            rows[station] = ("wood" if wood else "steel", role, turn, change, 1)
            since = 0 if wood else since
    posts, index = [], {}
    stations = sorted(rows)
    easts, norths = line.places(np.array(stations))
    grounds = line.profile.at(np.array(stations)).tolist()
    for number, station in enumerate(stations):
        kind, role, turn, change, tied = rows[station]
        rule = system.posts[kind]
        _, _, deeper, because = _softest(soft, station) or NOTHING_SOFT
        stock = rule.stock_for(height_m + deeper)
        depth = stock - height_m if kind == "steel" else rule.depth_m + deeper
        index[round(station, 6)] = number
        posts.append(
            Post(
                index=number,
                station_m=station,
                kind=kind,
                role=role,
                east_m=easts[number],
                north_m=norths[number],
                ground_m=grounds[number],
                depth_m=depth,
                length_m=stock,
                turn_deg=turn,
                grade_change=change,
                forced=round(station, 6) in forced,
                fasteners=fasteners(system, fabric, kind, role, tied),
                deeper_m=deeper,
                because=because,
            )
        )
    bays = []
    for run, layout in zip(runs, layouts, strict=True):
        for low, high, ground in zip(layout.stations_m[:-1], layout.stations_m[1:], layout.bays, strict=True):
            wraps = line.closed and high > line.length_m - SAME_M
            to = index[0.0] if wraps else index[round(high, 6)]
            bays.append(Bay(run.index, index[round(low, 6)], to, low, high, ground))
    return tuple(posts), tuple(bays)


def _brace(end: BraceEnd, run: Run, system: WovenSystem, fabric: Fabric, height_m: float, clearance_m: float) -> Brace:
    """Statics and cut lengths of one braced end; the pull acts at the middle of the fabric's wires."""
    pull = fabric.pull_n
    middle = clearance_m + sum(fabric.wire_heights_m) / fabric.wires
    rail = system.rule("rail_share") * height_m
    spacings = [abs(b - a) for a, b in pairwise(end.stations_m)]
    terminal, inner = system.posts["terminal"].diameter_m, system.posts["brace"].diameter_m
    second = terminal if end.stations_m[-1] in (run.start.station_m, run.end.station_m) else inner
    faces = [(terminal + second) / 2] + [inner] * (end.panels - 1)
    loops, wraps = system.rule("brace_wire_loops"), system.rule("brace_wire_wraps_m")
    return Brace(
        end=end,
        statics=h_brace(pull, middle, rail, spacings[0], end.panels),
        pull_n=pull,
        pull_height_m=middle,
        rail_height_m=rail,
        rail_cut_m=tuple(s - f + system.rule("rail_seat_m") for s, f in zip(spacings, faces, strict=True)),
        wire_m=tuple(loops * 2 * float(np.hypot(s, rail)) + wraps for s in spacings),
    )


def _rolls(job: Job, runs: list[Run], layouts: list[Layout], line: Course, memo: PlanMemo) -> FabricPlan:
    """Fabric per run by slope length and tie-offs, cut from rolls, with splice stations clear of posts."""
    d = job.decisions
    along: list[np.ndarray[tuple[int], np.dtype[np.float64]]] = []
    needs = []
    for layout in layouts:
        stations = np.array(layout.stations_m)
        chords = np.hypot(np.diff(stations), np.diff(line.profile.at(stations)))
        posts = d.tie_off_m + np.concatenate([[0.0], np.cumsum(chords)])
        along.append(posts)
        needs.append(RunNeed(float(posts[-1]) + d.tie_off_m, tuple(posts.tolist())))
    rules = Rules(d.overlap_m, d.piece_min_m, d.splice_clear_m + CLEAR_OF_POSTS_M)
    key = (tuple(needs), d.roll_m, job.offcuts_m, rules)
    found = memo.rolls.get(key)
    if found is None:
        try:
            found = plan_rolls(needs, d.roll_m, job.offcuts_m, rules, PLAN_WORK_S)
        except BadInput as error:
            number = int(error.field.removeprefix("runs_m[").rstrip("]")) + 1
            raise BadInput(
                "decisions",
                f"run {number} can't be laid: no splices keep clear of posts and end bays with pieces long enough; "
                "lessen the shortest piece, the clearance or the overlap of splices, or use longer rolls",
            ) from None
    memo.rolls = {key: found}
    pieces, splices = [], []
    for k, (laid, layout) in enumerate(zip(found.pieces, layouts, strict=True)):

        def station(fabric_m: float, k: int = k, layout: Layout = layout) -> float:
            return float(np.interp(fabric_m, along[k], layout.stations_m))

        reached = 0.0
        for piece in laid:
            start = max(0.0, reached - d.overlap_m) if reached else 0.0
            reached = start + piece.length_m
            pieces.append(LaidPiece(k, piece.stock, piece.length_m, station(start), station(reached)))
        for c in found.splices_at_m[k]:
            gap = float(np.min(np.maximum(along[k] - c, c - d.overlap_m - along[k])))
            splices.append(Splice(k, station(c - d.overlap_m), station(c), gap))
    return FabricPlan(found, tuple(n.need_m for n in needs), tuple(pieces), tuple(splices))
