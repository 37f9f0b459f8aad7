"""Job → plan: the one road through the computations, in the order of the work.

``plan`` is deterministic and has no side effect; the optional memo only saves work.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np

from gnomonic.core.brace.layout import BraceEnd
from gnomonic.core.demand.section import Section, section
from gnomonic.core.demand.system import System
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import Course, course
from gnomonic.core.ground.found import on_line, wanted_posts
from gnomonic.core.ground.joined import Meeting, brought_by_other, check_joins, meetings, root_of
from gnomonic.core.ground.profile import Floats
from gnomonic.core.job.document import Job
from gnomonic.core.job.fence import Fence, fence_of, fences
from gnomonic.core.job.parts import Gate, MeasuredLine
from gnomonic.core.plan.barred import barred_stretches
from gnomonic.core.plan.braces import build_brace, build_struts, run_ends
from gnomonic.core.plan.hung import Want, WireWant, count_between, cut_sticks, slope_lengths, wants_of, wires_of
from gnomonic.core.plan.identity import Names, in_order, renamed
from gnomonic.core.plan.model import Asked, Barred, JobPlan, Plan, Pull
from gnomonic.core.plan.posts import CLOSE_M, Ground, place_posts
from gnomonic.core.plan.stock import NOTHING_HUNG, RollMemo, share_coils, share_rolls
from gnomonic.core.say import Say, Values
from gnomonic.core.setout.least_cost import Limits, Solved
from gnomonic.core.setout.line import (
    Layout,
    even_grid,
    even_layout,
    measure,
    merged,
    solve_between,
)
from gnomonic.core.setout.runs import Run, split_runs
from gnomonic.core.units import TAPE_M

GRID_M = 0.25


@dataclass(slots=True)
class LineMemo:
    """What a line was laid out from and what came of it; stretches solved, by their ends."""

    key: tuple[object, ...] = ()
    laid: "Laid | None" = None
    parts: tuple[object, ...] = ()
    plan: Plan | None = None
    pulled: Plan | None = None
    pulled_of: tuple[object, ...] = ()
    named: Plan | None = None
    named_of: Plan | None = None
    stretches: dict[tuple[float, float], Solved] = field(default_factory=dict)
    work: int = 0


@dataclass(slots=True)
class Met:
    """Where lines met, and the lines and joins that was found for."""

    ways: list[Course] = field(default_factory=list)
    key: object = None
    found: tuple[Meeting, ...] = ()


@dataclass(slots=True)
class PlanMemo:
    """What the plan before was made of, so that only what an edit touched is made anew.

    ``work`` counts nodes solved in the last plan, ``laid`` the lines laid out in it.
    """

    lines: dict[str, LineMemo] = field(default_factory=dict)
    rolls: RollMemo = field(default_factory=RollMemo)
    courses: dict[str, tuple[MeasuredLine, Course]] = field(default_factory=dict)
    met: Met = field(default_factory=Met)
    work: int = 0
    laid: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, eq=False)
class Laid:
    """A line set out, with what it asks of the job's rolls and coils."""

    plan: Plan
    wants: tuple[Want, ...]
    wires: tuple[WireWant, ...]


NamesOf = Callable[[str, Plan], Names | None]


def limits_of(fence: Fence, system: System) -> Limits:
    """What a bay may do under the job's decisions."""
    d = fence.decisions
    steep = tuple((s.grade, s.share * d.longest_bay_m) for s in system.steep_bays)
    return Limits(d.longest_bay_m, d.clearance_m, d.gap_min_m, d.gap_max_m, d.k_fill, d.k_cut, steep, TAPE_M)


def section_of(fence: Fence) -> Section:
    """What hangs on a job's posts.  Raises BadInput (``barrier…``)."""
    b = fence.barrier
    return section(b.system, b.label, b.extras, b.schools, b.strands_m, b.own)


def plan(job: Job, memo: PlanMemo | None = None, names_of: NamesOf | None = None) -> JobPlan:
    """Plan a job: each line by itself, then rolls and coils over all of them.

    Lines that are there already are not planned.  ``names_of`` calls a line's posts as they were called before; where it says
    nothing they are numbered in order.  Raises BadInput when a barrier, the ground, gates, joins or forbidden
    stretches leave no plan.
    """
    memo = PlanMemo() if memo is None else memo
    courses = _courses(job, memo)
    check_joins(job, courses)
    asked, there = _joins(job, courses)
    laid: dict[str, Laid] = {}
    built = [fence for fence in fences(job) if fence.own.standing != "there"]
    several = len(job.lines) > 1
    before, memo.work, done = memo.lines, 0, []
    memo.lines = {}
    for fence in built:
        own = before.get(fence.id) or LineMemo()
        key = (fence.own, fence.job.found, asked.get(fence.id, ()), there.get(fence.id, ()))
        if own.laid is None or own.key != key:
            try:
                own.laid = _lay_out(
                    fence, courses[fence.id], asked.get(fence.id, ()), dict(there.get(fence.id, ())), own
                )
            except BadInput as error:
                raise (_of_line(fence.name, error) if several else error) from None
            own.key = key
            memo.work += own.work
            done.append(fence.id)
        memo.lines[fence.id] = own
        laid[fence.id] = own.laid
    memo.laid = tuple(done)
    names = {line.id: line.name for line in job.lines}
    offcuts = {fence.id: fence.offcuts_m for fence in built}
    shares, memo.rolls = share_rolls({k: v.wants for k, v in laid.items()}, offcuts, names, memo.rolls)
    coils = share_coils({k: v.wires for k, v in laid.items()})
    lines = {}
    for key_of, one in laid.items():
        own = memo.lines[key_of]
        parts = (one, shares.fabric[key_of], tuple(shares.more[key_of]), coils[key_of])
        if own.plan is None or own.parts != parts:
            own.parts = parts
            own.plan = replace(one.plan, rolls=parts[1], more=parts[2], coils=parts[3])
        lines[key_of] = own.plan
    if job.joins:
        pulls = _pulls(job, courses, lines)
        for k, made in lines.items():
            now, kept = _pulled(job, courses, made, k, pulls), memo.lines[k].pulled
            if kept is None or memo.lines[k].parts != memo.lines[k].pulled_of or kept.pulls != now.pulls:
                memo.lines[k].pulled, memo.lines[k].pulled_of = now, memo.lines[k].parts
        lines = {k: memo.lines[k].pulled or made for k, made in lines.items()}
    for fence in built:
        own, made = memo.lines[fence.id], lines[fence.id]
        called = (names_of(fence.id, made) if names_of else None) or in_order(made, fence.facts)
        if own.named is None or own.named_of is not made or tuple(p.name for p in own.named.posts) != called:
            own.named, own.named_of = renamed(made, called), made
        lines[fence.id] = own.named
    return JobPlan(lines, courses, _met(job, courses, memo))


def _of_line(name: str, error: BadInput) -> BadInput:
    """A refusal of one line among several, by its name."""
    if error.said is not None:
        return BadInput(error.field, Say("{of_line}: " + error.said.t, {**error.said.v, "of_line": name}))
    return BadInput(error.field, f"{name}: {error.sentence}")


def _courses(job: Job, memo: PlanMemo) -> dict[str, Course]:
    """Courses of all lines; those of lines not mended since the last plan stay the same objects."""
    kept = memo.courses
    memo.courses = {
        line.id: found
        if (found := kept.get(line.id)) and (found[0] is line.measured or found[0] == line.measured)
        else (line.measured, course(line.measured))
        for line in job.lines
    }
    return {k: made for k, (_, made) in memo.courses.items()}


def _met(job: Job, courses: dict[str, Course], memo: PlanMemo) -> tuple[Meeting, ...]:
    """Where lines nearly meet or cross, kept while no line and no join changes."""
    if len(courses) < 2:
        return ()
    ways, key = list(courses.values()), (job.joins, tuple((line.id, line.standing) for line in job.lines))
    old = memo.met
    if old.key != key or len(old.ways) != len(ways) or any(a is not b for a, b in zip(old.ways, ways, strict=True)):
        memo.met = Met(ways, key, tuple(meetings(job, courses)))
    return memo.met.found


def _joins(
    job: Job, courses: dict[str, Course]
) -> tuple[dict[str, tuple[Asked, ...]], dict[str, tuple[tuple[str, str], ...]]]:
    """What every line is asked for by lines that stand on it, and whose posts its own ends stand on (end, name)."""
    asked: dict[str, list[Asked]] = {}
    there: dict[str, list[tuple[str, str]]] = {}
    for join in job.joins:
        if not brought_by_other(job, courses, join):
            continue
        fence = fence_of(job, join.line)
        root = root_of(job, courses, join.on, join.at_m)
        there.setdefault(join.line, []).append((join.end, job.line(root.line).name))
        if fence.own.standing == "there":
            continue
        hung = section_of(fence)
        high = fence.decisions.clearance_m + hung.top_m
        asked.setdefault(root.line, []).append(Asked(root.at_m, fence.id, fence.name, high, hung.posts["terminal"]))
    return (
        {k: tuple(sorted(v, key=lambda a: (a.at_m, a.line))) for k, v in asked.items()},
        {k: tuple(v) for k, v in there.items()},
    )


Pulls = dict[tuple[str, float], list[Pull]]


def _pulls(job: Job, courses: dict[str, Course], plans: Mapping[str, Plan]) -> Pulls:
    """All that pulls on every shared post, by the line that brings it and the station there."""
    roots = {root_of(job, courses, j.on, j.at_m) for j in job.joins if brought_by_other(job, courses, j)}
    found: Pulls = {(r.line, round(r.at_m, 3)): [] for r in roots}
    for line, made in plans.items():
        way = courses[line]
        for run in made.runs:
            for terminal, inward in ((run.start, 1.0), (run.end, -1.0)):
                root = root_of(job, courses, line, terminal.station_m)
                at = (root.line, round(root.at_m, 3))
                if at in found:
                    found[at].append(_pull(job.line(line).name, line, way, made, run, terminal.station_m, inward))
    return found


def _pull(name: str, line: str, way: Course, made: Plan, run: Run, at_m: float, inward: float) -> Pull:
    """The pull of a run on the post it ends on, along the fence from there."""
    (e0, n0), (e1, n1) = way.place(at_m), way.place(at_m + inward * min(1.0, run.length_m))
    bearing = float(np.degrees(np.arctan2(e1 - e0, n1 - n0))) % 360
    lifts = [
        b.statics.end_post_uplift_n or 0.0
        for b in made.braces
        if b.end.run == run.index and b.end.at_start == (inward > 0)
    ]
    lifts += [s.statics.end_post_uplift_n for s in made.struts if s.run == run.index and abs(s.station_m - at_m) < 1e-6]
    return Pull(line, name, bearing, made.section.pull_n, max(0.0, *lifts) if lifts else 0.0)


def _pulled(job: Job, courses: Mapping[str, Course], made: Plan, line: str, pulls: Pulls) -> Plan:
    """A plan that knows what pulls on its shared posts."""
    rows = []
    for post in made.posts:
        if post.joined or post.shared:
            root = root_of(job, courses, line, post.station_m)
            if found := pulls.get((root.line, round(root.at_m, 3))):
                rows.append((post.index, tuple(found)))
    own = tuple(rows)
    return made if own == made.pulls else replace(made, pulls=own)


def _lay_out(fence: Fence, line: Course, asked: tuple[Asked, ...], there: dict[str, str], memo: LineMemo) -> Laid:
    """One line by itself: runs, braces, posts, and what it asks of rolls and coils."""
    hung, d = section_of(fence), fence.decisions
    limits = limits_of(fence, hung.system)
    things = on_line(line, fence.found)
    barred = barred_stretches(fence, things)
    spans = [(b.from_m, b.to_m) for b in barred]
    runs, gates = split_runs(line, fence.gates, d.corner_angle_deg, d.longest_run_m, spans)
    ends = run_ends(fence, hung, runs, spans)
    tees = _tees(fence, line, runs, gates, ends, asked)
    stage = _Stage(fence, line, hung, limits, barred, wanted_posts(things), tees)
    layouts, evens, ignored = _set_out(stage, runs, ends, memo)
    height = d.clearance_m + hung.top_m
    posts, bays = place_posts(Ground(fence, line, hung, things, asked, there), runs, ends, layouts, height)
    lengths = slope_lengths(layouts, line)
    made = Plan(
        course=line,
        section=hung,
        limits=limits,
        fence_height_m=height,
        runs=tuple(runs),
        gates=tuple(gates),
        posts=posts,
        bays=bays,
        braces=tuple(build_brace(e, runs[e.run], hung, height, d.clearance_m) for e in ends if e.panels),
        struts=build_struts(hung, runs, height, d.clearance_m),
        rolls=NOTHING_HUNG,
        more=(),
        coils=(),
        slope_m=tuple(float(along[-1]) for along in lengths),
        between=count_between(fence, hung, bays),
        sticks=cut_sticks(hung, bays, len(posts), lengths),
        layout=tuple(layouts),
        even=tuple(evens),
        ignored_posts_m=tuple(ignored),
        barred=tuple(barred),
        things=tuple(things),
    )
    return Laid(made, wants_of(fence, hung, runs, ends, layouts, lengths), wires_of(hung, runs, lengths))


def _tees(
    fence: Fence, line: Course, runs: list[Run], gates: list[Gate], ends: list[BraceEnd], asked: tuple[Asked, ...]
) -> list[float]:
    """Stations within runs where other lines stand.  Raises BadInput (``joins``) for one in a gate or a brace panel."""
    terminals = [t.station_m for r in runs for t in (r.start, r.end)]
    found = []
    for ask in asked:
        if min(abs(ask.at_m - t) for t in terminals) < CLOSE_M:
            continue
        values: Values = {"name": ask.name, "on": fence.name, "at": (ask.at_m, "station")}
        for gate in gates:
            if gate.at_m < ask.at_m < gate.at_m + gate.opening_m:
                text = "{name} can't stand on {on} at {at}: {gate} hangs there; join it to a gate post or beyond"
                raise BadInput("joins", Say(text, {**values, "gate": gate.name}))
        for end in ends:
            low, high = min(end.stations_m), max(end.stations_m)
            if end.panels and low < ask.at_m < high:
                panel: Values = {**values, "a": (low, "station"), "b": (high, "station")}
                text = "{name} can't stand on {on} at {at}: that is within its brace from {a} to {b}; join it beyond, or to the end post"
                raise BadInput("joins", Say(text, panel))
        found.append(ask.at_m)
    return sorted(set(found))


@dataclass(frozen=True, slots=True)
class _Stage:
    """What posts are set out under: the line, what hangs, what is barred, what is wanted, where other lines stand."""

    fence: Fence
    line: Course
    hung: Section
    limits: Limits
    barred: list[Barred]
    wanted: list[float]
    tees: list[float]


def _set_out(
    stage: _Stage, runs: list[Run], ends: list[BraceEnd], memo: LineMemo
) -> tuple[list[Layout], list[Layout], list[float]]:
    """Posts of every run, what even spacing would have been, and the placed posts that could not be kept."""
    fence, line, limits, barred = stage.fence, stage.line, stage.limits, stage.barred
    solved_now: dict[tuple[float, float], Solved] = {}
    layouts, evens, kept = [], [], set()
    placed, bends = sorted(p.at_m for p in fence.posts), _bends(fence, line, stage.hung.system)
    forbidden = [(b.from_m, b.to_m) for b in barred if b.kept]
    by_hand = [(b.from_m, b.to_m) for b in barred if not b.found_id]
    edges = [s for b in barred for s in (b.from_m, b.to_m)]
    memo.work = 0
    for run in runs:
        own = ends[2 * run.index : 2 * run.index + 2]
        low_m, high_m = run.start.station_m, run.end.station_m
        braced = sorted({low_m, high_m, *(s for e in own for s in e.stations_m if low_m <= s <= high_m)})
        braced = sorted({*braced, *(s for s in stage.tees if low_m < s < high_m)})
        panels = {(min(pair), max(pair)) for e in own for pair in pairwise(e.stations_m)}
        bent = _added(braced, bends, own, ())
        asked = _added(bent, placed, own, forbidden)
        kept |= set(asked) - set(bent)
        fixed = _added(asked, stage.wanted, own, forbidden)
        stations = [fixed[0]]
        for low, high in pairwise(fixed):
            if (low, high) in panels:  # a brace panel is one bay
                stations.append(high)
                continue
            breaks = line.profile.breaks_between(low, high)
            candidates = merged(even_grid(low, high, limits.max_spacing_m, GRID_M, limits.give_m), edges, breaks)
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
            said = error.said
            assert said is not None
            raise BadInput("forbidden", Say(said.t.replace("max_spacing_m", "the longest bay"), said.v)) from None


def _bends(fence: Fence, line: Course, system: System) -> list[float]:
    """Stations where the line bends noticeably within a run: a post must stand there."""
    noticed, turns = system.rule("noticed_turn_deg"), np.abs(line.turns_deg())
    at = (turns > noticed) & (turns <= fence.decisions.corner_angle_deg)
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
