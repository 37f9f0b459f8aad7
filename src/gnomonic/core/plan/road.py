"""Job → Plan: the one road through the computations, in the order of the work.

``plan`` is deterministic and has no side effect; the optional memo only saves work.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from gnomonic.core.brace.layout import BraceEnd
from gnomonic.core.demand.section import Section, section
from gnomonic.core.demand.system import System
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.rolls import RollPlan
from gnomonic.core.ground.course import Course, course
from gnomonic.core.ground.found import on_line, wanted_posts
from gnomonic.core.ground.profile import Floats
from gnomonic.core.job.document import Job
from gnomonic.core.plan.barred import barred_stretches
from gnomonic.core.plan.braces import build_brace, build_struts, run_ends
from gnomonic.core.plan.hung import count_between, cut_sticks, hang_rolls, slope_lengths, wind_coils
from gnomonic.core.plan.model import Barred, Plan
from gnomonic.core.plan.posts import place_posts
from gnomonic.core.say import Say
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
CLOSE_M = 0.3


@dataclass(slots=True)
class PlanMemo:
    """Stretches solved for the plan before, by their ends; ``work`` counts nodes solved in the last plan."""

    stretches: dict[tuple[float, float], Solved] = field(default_factory=dict)
    rolls: dict[tuple[object, ...], RollPlan] = field(default_factory=dict)
    work: int = 0


def limits_of(job: Job, system: System) -> Limits:
    """What a bay may do under the job's decisions."""
    d = job.decisions
    steep = tuple((s.grade, s.share * d.longest_bay_m) for s in system.steep_bays)
    return Limits(d.longest_bay_m, d.clearance_m, d.gap_min_m, d.gap_max_m, d.k_fill, d.k_cut, steep, TAPE_M)


def section_of(job: Job) -> Section:
    """What hangs on a job's posts.  Raises BadInput (``barrier…``)."""
    b = job.barrier
    return section(b.system, b.label, b.extras, b.schools, b.strands_m, b.own)


def plan(job: Job, memo: PlanMemo | None = None) -> Plan:
    """Plan a job.  Raises BadInput when the barrier, ground, gates or forbidden stretches leave no plan."""
    memo = PlanMemo() if memo is None else memo
    hung, line, d = section_of(job), course(job.line), job.decisions
    limits = limits_of(job, hung.system)
    things = on_line(line, job.found)
    barred = barred_stretches(job, things)
    spans = [(b.from_m, b.to_m) for b in barred]
    runs, gates = split_runs(line, job.gates, d.corner_angle_deg, d.longest_run_m, spans)
    ends = run_ends(job, hung, runs, spans)
    layouts, evens, ignored = _set_out(job, line, hung, runs, ends, limits, barred, wanted_posts(things), memo)
    height = d.clearance_m + hung.top_m
    posts, bays = place_posts(job, line, hung, runs, ends, layouts, height, things)
    lengths = slope_lengths(layouts, line)
    rolls, more, memo.rolls = hang_rolls(job, hung, runs, ends, layouts, lengths, memo.rolls)
    return Plan(
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
        rolls=rolls,
        more=more,
        coils=wind_coils(hung, runs, lengths),
        slope_m=tuple(float(posts[-1]) for posts in lengths),
        between=count_between(job, hung, bays),
        sticks=cut_sticks(hung, bays, len(posts), lengths),
        layout=tuple(layouts),
        even=tuple(evens),
        ignored_posts_m=tuple(ignored),
        barred=tuple(barred),
        things=tuple(things),
    )


def _set_out(
    job: Job,
    line: Course,
    hung: Section,
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
    placed, bends = sorted(p.at_m for p in job.posts), _bends(job, line, hung.system)
    forbidden = [(b.from_m, b.to_m) for b in barred if b.kept]
    by_hand = [(b.from_m, b.to_m) for b in barred if not b.found_id]
    edges = [s for b in barred for s in (b.from_m, b.to_m)]
    memo.work = 0
    for run in runs:
        own = ends[2 * run.index : 2 * run.index + 2]
        low_m, high_m = run.start.station_m, run.end.station_m
        braced = sorted({low_m, high_m, *(s for e in own for s in e.stations_m if low_m <= s <= high_m)})
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


def _bends(job: Job, line: Course, system: System) -> list[float]:
    """Stations where the line bends noticeably within a run: a post must stand there."""
    noticed, turns = system.rule("noticed_turn_deg"), np.abs(line.turns_deg())
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
