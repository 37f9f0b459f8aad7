"""One line by itself: runs, braces, posts set out, and what it asks of the job's rolls and coils."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np

from gnomonic.core.brace.layout import BraceEnd
from gnomonic.core.demand.section import Section, section
from gnomonic.core.demand.system import System
from gnomonic.core.errors import BadInput, NoPlan
from gnomonic.core.ground.course import Course
from gnomonic.core.ground.found import on_line, wanted_posts
from gnomonic.core.ground.profile import Floats
from gnomonic.core.job.fence import Fence
from gnomonic.core.log.facts import Built
from gnomonic.core.plan.barred import barred_stretches
from gnomonic.core.plan.braces import Site, brace_all, pulls_on, run_ends
from gnomonic.core.plan.crossings import gaps_of, waters
from gnomonic.core.plan.gates import Beside, gaps_for, hang
from gnomonic.core.plan.hung import Want, WireWant, count_between, cut_sticks, slope_lengths, wants_of, wires_of
from gnomonic.core.plan.model import Asked, Barred, Plan
from gnomonic.core.plan.open_ends import with_openings
from gnomonic.core.plan.posts import CLOSE_M, Ground, asked_rule, place_posts
from gnomonic.core.plan.rails import Rail, rail_layout, raked_rail, straight_rail
from gnomonic.core.plan.stock import NOTHING_HUNG
from gnomonic.core.say import Say, Values
from gnomonic.core.setout.least_cost import Limits, Solved
from gnomonic.core.setout.line import (
    Layout,
    even_grid,
    even_layout,
    inside_any,
    measure,
    merged,
    solve_between,
)
from gnomonic.core.setout.runs import Gap, Run, split_runs
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
    held: Plan | None = None
    held_of: Plan | None = None
    named: Plan | None = None
    named_of: Plan | None = None
    stretches: dict[tuple[float, float], Solved] = field(default_factory=dict)
    work: int = 0


@dataclass(frozen=True, slots=True, eq=False)
class Laid:
    """A line set out, with what it asks of the job's rolls and coils."""

    plan: Plan
    wants: tuple[Want, ...]
    wires: tuple[WireWant, ...]


def limits_of(fence: Fence, system: System) -> Limits:
    """What a bay may do under the job's decisions."""
    d = fence.decisions
    steep = tuple((s.grade, s.share * d.longest_bay_m) for s in system.steep_bays)
    return Limits(d.longest_bay_m, d.clearance_m, d.gap_min_m, d.gap_max_m, d.k_fill, d.k_cut, steep, TAPE_M)


def section_of(fence: Fence) -> Section:
    """What hangs on a job's posts.  Raises BadInput (``barrier…``)."""
    b = fence.barrier
    return section(b.system, b.label, b.extras, b.schools, b.strands_m, b.own)


def lay_out(
    fence: Fence,
    line: Course,
    asked: tuple[Asked, ...],
    there: dict[str, str],
    memo: LineMemo,
    built: tuple[Built, ...] = (),
    near: Beside = (),
) -> Laid:
    """One line by itself: runs, braces, posts, and what it asks of rolls and coils."""
    hung, d = section_of(fence), fence.decisions
    limits = limits_of(fence, hung.system)
    things = on_line(line, fence.found)
    barred = barred_stretches(fence, things)
    spans = [(b.from_m, b.to_m) for b in barred]
    height = d.clearance_m + hung.top_m

    def width(at_m: float) -> float:
        """Of a gate's post that stands at a station, which may be another line's too."""
        joined = [a for a in asked if abs(a.at_m - at_m) < CLOSE_M]
        return asked_rule(hung.gate_post, height, 0.0, "", joined)[0].diameter_m

    wanted = gaps_for(fence, hung, width)
    found = waters(fence, hung, line, things, wanted, [a.at_m for a in asked], height)
    runs, gaps = split_runs(
        line, [*wanted, *gaps_of(found)], d.corner_angle_deg, d.longest_run_m, spans, fence.own.ends_at
    )
    ends = run_ends(fence, hung, runs, spans)
    tees = _tees(fence, line, runs, gaps, ends, asked)
    stage = _Stage(fence, line, hung, limits, barred, wanted_posts(things), tees, built)
    layouts, evens, ignored, rails = _laid_out(stage, runs, ends, memo, height)
    site = Site(fence, hung, line, height, d.clearance_m)
    held = brace_all(site, runs, ends)
    posts, bays = place_posts(
        Ground(fence, line, hung, things, asked, there, built), runs, ends, layouts, height, rails
    )
    lengths = slope_lengths(layouts, line, rails)
    gates = [g for g in gaps if g.role == "gate"]
    made = Plan(
        course=line,
        section=hung,
        limits=limits,
        fence_height_m=height,
        runs=tuple(runs),
        gates=hang(fence, hung, line, gates, width, near),
        waters=tuple(found),
        posts=posts,
        bays=bays,
        braces=held[0],
        struts=held[1],
        anchors=held[2],
        ends=pulls_on(site, runs, held),
        rolls=NOTHING_HUNG,
        more=(),
        coils=(),
        slope_m=tuple(float(along[-1]) for along in lengths),
        between=count_between(fence, hung, bays),
        sticks=cut_sticks(hung, runs, bays, len(posts), lengths),
        layout=tuple(layouts),
        rails=tuple(rails),
        even=tuple(evens),
        ignored_posts_m=tuple(ignored),
        barred=tuple(barred),
        things=tuple(things),
    )
    made = with_openings(fence, made, [g for g in gaps if g.role == "crossing"], found)
    return Laid(made, wants_of(fence, hung, runs, ends, layouts, lengths), wires_of(hung, runs, lengths))


def _tees(
    fence: Fence, line: Course, runs: list[Run], gaps: list[Gap], ends: list[BraceEnd], asked: tuple[Asked, ...]
) -> list[float]:
    """Stations within runs where other lines stand.  Raises BadInput (``joins``) for one in a gate or a brace panel."""
    terminals = [t.station_m for r in runs for t in (r.start, r.end)]
    found = []
    for ask in asked:
        if min(abs(ask.at_m - t) for t in terminals) < CLOSE_M:
            continue
        values: Values = {"name": ask.name, "on": fence.name, "at": (ask.at_m, "station")}
        for gap in gaps:
            if gap.at_m < ask.at_m < gap.end_m:
                text = "{name} can't stand on {on} at {at}: {gate} hangs there; join it to a gate post or beyond"
                raise NoPlan("joins", Say(text, {**values, "gate": gap.name}))
        for end in ends:
            low, high = min(end.stations_m), max(end.stations_m)
            if end.panels and low < ask.at_m < high:
                panel: Values = {**values, "a": (low, "station"), "b": (high, "station")}
                text = "{name} can't stand on {on} at {at}: that is within its brace from {a} to {b}; join it beyond, or to the end post"
                raise NoPlan("joins", Say(text, panel))
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
    built: tuple[Built, ...]


def _laid_out(
    stage: _Stage, runs: list[Run], ends: list[BraceEnd], memo: LineMemo, height_m: float
) -> tuple[list[Layout], list[Layout], list[float], list[Rail]]:
    """Posts of every run, those that stand already where they stand.

    Under a rigid rail posts stand evenly, since where they stand changes nothing under the fabric, but follow the ground where a
    straight rail leaves too much under it.
    """
    found = _by_school(stage, runs, ends, memo, height_m, ())
    stations = np.array([s for x in found[0] for s in x.stations_m])
    if any(np.abs(stations - b.stands_m).min() > SAME_PLACE_M for b in stage.built):
        return _by_school(stage, runs, ends, memo, height_m, stage.built)
    return found


def _by_school(
    stage: _Stage, runs: list[Run], ends: list[BraceEnd], memo: LineMemo, height_m: float, pinned: tuple[Built, ...]
) -> tuple[list[Layout], list[Layout], list[float], list[Rail]]:
    """Posts of every run by the school chosen, and the rails over them."""
    school = stage.fence.own.spacing
    if not stage.hung.railed:
        even = replace(stage.limits, k_fill=0.0, k_cut=0.0) if school else stage.limits
        laid, evens, ignored = _set_out(stage, even, runs, ends, memo, school == "rule", pinned)
        if school:  # what lies under the bays counts as it does, wherever its cost was set aside
            laid = [measure(stage.line.profile, x.stations_m, stage.limits) for x in laid]
        return laid, evens, ignored, []
    limits, fabric, asked = stage.limits, stage.hung.top_m, stage.fence.own.rail
    profile = stage.line.profile
    free = replace(limits, k_fill=0.0, k_cut=0.0)
    layouts, evens, ignored = _set_out(stage, free, runs, ends, LineMemo(), False, pinned)
    rails = [straight_rail(profile, x.stations_m, height_m, asked) for x in layouts]
    most = limits.gap_max_m + stage.hung.system.rule("rail_leaves_m")
    fits = [r.string.worst_clear_m - fabric <= most + TAPE_M for r in rails]
    if asked == "raked" or (not asked and not all(fits)):
        following, _, ignored = _set_out(stage, limits, runs, ends, memo, False, pinned)
        for k, fit in enumerate(fits):
            if asked or not fit:
                layouts[k] = following[k]
                rails[k] = raked_rail(profile, following[k].stations_m, height_m, fabric, limits)
    made = [rail_layout(profile, x.stations_m, r, fabric, limits) for x, r in zip(layouts, rails, strict=True)]
    return made, evens, ignored, rails


def _set_out(
    stage: _Stage,
    limits: Limits,
    runs: list[Run],
    ends: list[BraceEnd],
    memo: LineMemo,
    by_rule: bool = False,
    pinned: tuple[Built, ...] = (),
) -> tuple[list[Layout], list[Layout], list[float]]:
    """Posts of every run (``by_rule`` a full bay at a time, the odd one last), what even spacing would have been, and the placed posts that could not be kept."""
    fence, line, barred = stage.fence, stage.line, stage.barred
    solved_now: dict[tuple[float, float], Solved] = {}
    layouts, evens, kept = [], [], set()
    placed, bends = sorted(_placed(fence, pinned)), _bends(fence, line, stage.hung.system)
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
            if by_rule and (full := _full_bays(low, high, limits)) is not None and not inside_any(np.array(full), [*forbidden, *by_hand]).any():  # fmt: skip
                stations += [*full, high]
                continue
            before = memo.stretches.get((low, high))
            solved = _between(line, low, high, candidates, (forbidden, by_hand), limits, before)
            memo.work += 0 if solved is before else solved.work
            solved_now[low, high] = solved
            stations += solved.posts_m[1:].tolist()
        layouts.append(measure(line.profile, stations, limits))
        evens.append(even_layout(line.profile, bent, stage.limits))
    memo.stretches = solved_now
    by_hand_m = {p.at_m for p in fence.posts}
    return layouts, evens, [at for at in placed if at not in kept and at in by_hand_m]


def _full_bays(low: float, high: float, limits: Limits) -> list[float] | None:
    """Posts at full bays from a fixed point, the odd bay last; where that is too short to stand a post it is shared with the
    one before."""
    step = limits.max_spacing_m
    count = int((high - low - limits.give_m) // step)
    full = [low + step * (k + 1) for k in range(count)]
    if full and high - full[-1] < SHORT_SHARE * step:
        before = full[-2] if len(full) > 1 else low
        full[-1] = (before + high) / 2
    return full


SHORT_SHARE = 0.25  # an odd bay shorter than this of a full one is shared with the one before it


def _placed(fence: Fence, pinned: Sequence[Built]) -> list[float]:
    """Stations of posts placed by hand and of those that stand already, which the plan answers to."""
    moved = {round(b.at_m, 3) for b in pinned}
    by_hand = [p.at_m for p in fence.posts if not any(abs(p.at_m - m) < SAME_PLACE_M for m in moved)]
    return [*by_hand, *(b.stands_m for b in pinned)]


SAME_PLACE_M = 0.02


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
            raise NoPlan("forbidden", Say(said.t.replace("max_spacing_m", "the longest bay"), said.v)) from None


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
