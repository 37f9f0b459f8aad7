"""Braces of a plan: which ends are braced and how, what each carries, what it is cut from."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

import numpy as np

from gnomonic.core.brace.layout import BraceEnd, Spec, brace_ends
from gnomonic.core.brace.statics import Panel, braced, crossed_wire, diagonal_brace, fallen, why_not
from gnomonic.core.demand.section import Section
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.wire import gauge
from gnomonic.core.ground.course import Course
from gnomonic.core.job.fence import Fence
from gnomonic.core.job.parts import BraceAsk, BraceKind
from gnomonic.core.plan.model import Anchor, Brace, Pull, Strut
from gnomonic.core.setout.runs import Run

PANELLED = ("h", "box", "welded")
TIES: dict[str, Literal["none", "foot", "mid"]] = {"none": "none", "foot": "foot", "mid": "mid"}


def kind_of(section: Section, ask: BraceAsk) -> BraceKind:
    """How an end is braced: as asked, or as the barrier system does it."""
    if ask.kind:
        return ask.kind
    own: dict[str, BraceKind] = {"h": "h", "diagonal": "strut", "none": "none"}
    return own[section.system.brace]


def spec_of(fence: Fence, section: Section, ask: BraceAsk) -> Spec:
    """Post centres of a panel and how many; none for an end without panels."""
    kind, d = kind_of(section, ask), fence.decisions
    if kind not in PANELLED:
        return 0.0, 0
    panels = ask.panels or (1 if kind == "box" else int(d.brace_panels))
    usual = section.system.rule("box_rail_m") if kind == "box" else d.brace_spacing_m
    return (ask.spacing_m or min(usual, max(d.longest_bay_m, usual if kind == "box" else 0.0))), panels


def run_ends(fence: Fence, section: Section, runs: list[Run], forbidden: list[tuple[float, float]]) -> list[BraceEnd]:
    """Both ends of every run: braced by panels, or by their post alone.

    At a braced post within a side both runs end on that post; the panel before it serves both, with a second wire on its
    other diagonal for the run ahead.
    """
    found: list[BraceEnd] = []
    for run in runs:
        low, high = run.start.station_m, run.end.station_m
        asks = fence.bracing(low, True), fence.bracing(high, False)
        specs = spec_of(fence, section, asks[0]), spec_of(fence, section, asks[1])
        first, last = brace_ends(run.index, low, high, specs, fence.decisions.longest_bay_m, forbidden)
        own = asks[0].kind == "" or kind_of(section, asks[0]) in PANELLED
        if run.start.role == "pull" and found and found[-1].panels and not found[-1].shared and own:
            first = BraceEnd(run.index, True, found[-1].stations_m[:2], False, False, True)
        found += [first, last]
    return found


@dataclass(frozen=True, slots=True)
class Site:
    """Where braces stand: the line's ground, how high the fence and its bottom edge are."""

    fence: Fence
    section: Section
    course: Course
    height_m: float
    clearance_m: float

    @property
    def pull_n(self) -> float:
        """What an end is designed for: the coldest day."""
        return self.section.cold_n

    @property
    def pull_height_m(self) -> float:
        """Height of that pull above the ground."""
        return self.clearance_m + self.section.pull_height_m

    def ground(self, stations_m: Sequence[float]) -> list[float]:
        """Heights of the ground; on past the seam of a closed line."""
        at = np.array(stations_m)
        if self.course.closed:
            at = np.where(
                at > self.course.length_m, at - self.course.length_m, np.where(at < 0, at + self.course.length_m, at)
            )
        return [float(z) for z in self.course.profile.at(at)]

    def grade(self, station_m: float, way: int, over_m: float) -> float:
        """Rise over level run of the ground from a post along the fence that pulls on it."""
        here, there = self.ground([station_m, station_m + way * over_m])
        return (there - here) / over_m


def _panels(site: Site, end: BraceEnd, ask: BraceAsk, rail_m: float) -> tuple[tuple[Panel, ...], str]:
    """The panels on their ground, and how the rail lies: level where it stays on both posts, else along the ground."""
    z = site.ground(end.stations_m)
    apart = [abs(b - a) for a, b in pairwise(end.stations_m)]
    level = [rail_m - (h - z[0]) for h in z]
    least = site.section.system.rule("rail_least_share") * rail_m
    fits = all(least <= h <= site.height_m for h in level)
    lay = ask.lay or ("level" if fits else "ground")
    heights = level if lay == "level" else [rail_m] * len(z)
    made = tuple(Panel(s, heights[k], heights[k + 1], heights[k + 1], z[k + 1] - z[k]) for k, s in enumerate(apart))
    return made, lay


def ea_ratio(section: Section, kind: BraceKind) -> float:
    """EA of the brace wire's strands over that of the rail; a welded brace is pipe throughout."""
    if kind == "welded":
        return 1.0
    rule = section.system.rule
    rail = rule("rail_e_pa") * math.pi / 4 * rule("rail_diameter_m") ** 2
    return 2 * rule("brace_wire_loops") * gauge(rule("brace_wire_gauge")).ea_n / rail


def build_brace(site: Site, end: BraceEnd, run: Run, ask: BraceAsk) -> Brace:
    """Statics and cut lengths of one braced end; the pull acts where the tensions of all wires balance, on the coldest day."""
    section, system = site.section, site.section.system
    kind = kind_of(section, ask)
    share = ask.rail_share or system.rule("box_rail_share" if kind == "box" else "rail_share")
    rail = share * site.height_m
    panels, lay = _panels(site, end, ask, rail)
    pull, high = site.pull_n, site.pull_height_m
    if end.crossed:
        way = 1 if end.at_start else -1
        statics = crossed_wire(pull, high, site.grade(end.stations_m[0], way, panels[0].level_m), panels[0])
    else:
        bad = next((b for p in panels if (b := why_not(p, site.height_m + section.posts["brace"].over_m))), "")
        grade = panels[0].rise_m / panels[0].level_m
        statics = fallen(len(panels), bad) if bad else braced(pull, high, grade, panels, ea_ratio(section, kind))
    inner = section.posts["brace"].diameter_m
    first, other = (run.start, run.end) if end.at_start else (run.end, run.start)
    terminal = section.terminal(first.role).diameter_m
    second = section.terminal(other.role).diameter_m if end.stations_m[-1] == other.station_m else inner
    faces = [(terminal + second) / 2] + [inner] * (end.panels - 1)
    loops, wraps = system.rule("brace_wire_loops"), system.rule("brace_wire_wraps_m")
    cuts = tuple(
        p.rail_m * (1 - f / p.level_m) + system.rule("rail_seat_m") for p, f in zip(panels, faces, strict=True)
    )
    diagonals = tuple(math.hypot(p.level_m, p.rail_out_m - p.rise_m) if end.crossed else p.wire_m for p in panels)
    return Brace(
        end=end,
        kind=kind,
        statics=statics,
        pull_n=pull,
        pull_height_m=high,
        rail_height_m=rail,
        panels=panels,
        lay=lay,
        rail_cut_m=cuts,
        wire_m=tuple(0.0 if kind == "welded" else loops * 2 * d + wraps for d in diagonals),
        diagonal_m=diagonals,
    )


def build_strut(site: Site, at_m: float, run: Run, ahead: bool, ask: BraceAsk) -> Strut:
    """A diagonal brace: strut, its tie by the school chosen, the trench its foot lies in."""
    section, rule = site.section, site.section.system.rule
    high = (ask.rail_share or rule("strut_share")) * site.height_m
    reach = high / math.tan(math.radians(ask.angle_deg)) if ask.angle_deg else rule("strut_reach") * high
    school = section.school("strut_tie") if any(s.key == "strut_tie" for s in section.system.schools) else "mid"
    tie = TIES[ask.tie or school]
    rise = site.grade(at_m, 1 if ahead else -1, reach) * reach
    statics = diagonal_brace(site.pull_n, site.pull_height_m, high, reach, tie, rise)
    long, buried = math.hypot(reach, high - rise), rule("strut_buried_m")
    wire = {"none": 0.0, "foot": math.hypot(reach, rise), "mid": math.hypot(reach, high + rise) / 2}[tie]
    return Strut(
        run=run.index,
        at_start=ahead,
        station_m=at_m,
        statics=statics,
        pull_n=site.pull_n,
        pull_height_m=site.pull_height_m,
        height_m=high,
        length_m=long + buried,
        wire_m=rule("brace_wire_loops") * 2 * wire + rule("brace_wire_wraps_m") if wire else 0.0,
        tie=tie,
        buried_m=buried,
        rise_m=rise,
        side=ask.side,
    )


def build_anchor(site: Site, at_m: float, run: Run, ahead: bool, kind: BraceKind) -> Anchor:
    """An end held by a wire back to a buried log, by boards against its post, or by its post alone."""
    rule, pull, high = site.section.system.rule, site.pull_n, site.pull_height_m
    way = 1 if ahead else -1
    grade = site.grade(at_m, way, 1.0)
    along, up = pull * math.cos(math.atan(grade)), pull * math.sin(math.atan(grade))
    if site.section.railed and kind == "none":  # the rail along the top keeps both ends of its run apart
        rail = along * high / site.height_m
        return Anchor(run.index, ahead, at_m, "rail", pull, high, along - rail, 0.0, up, site.height_m, 0.0, rail)
    if kind != "deadman":
        return Anchor(run.index, ahead, at_m, kind, pull, high, along, high, up)
    head = rule("deadman_share") * site.height_m
    reach = rule("deadman_reach") * head
    rise = site.grade(at_m, -way, reach) * reach
    level = along * high / head
    press = level * (head - rise) / reach
    wire = math.hypot(reach, head - rise)
    guy = level * wire / reach
    return Anchor(
        run.index, ahead, at_m, kind, pull, high, along - level, 0.0, up - press, head, reach, guy,
        rule("brace_wire_loops") * 2 * wire + rule("brace_wire_wraps_m"),
    )  # fmt: skip


def brace_all(
    site: Site, runs: Sequence[Run], ends: Sequence[BraceEnd]
) -> tuple[tuple[Brace, ...], tuple[Strut, ...], tuple[Anchor, ...]]:
    """Every end of every run, braced as asked.  Raises BadInput (``bracing``) for a strut that can't stand."""
    braces: list[Brace] = []
    struts: list[Strut] = []
    anchors: list[Anchor] = []
    for end in ends:
        run = runs[end.run]
        ahead, at = end.at_start, run.start.station_m if end.at_start else run.end.station_m
        ask = site.fence.bracing(at, ahead)
        kind = kind_of(site.section, ask)
        if end.panels:
            braces.append(build_brace(site, end, run, ask))
        elif kind == "strut":
            try:
                struts.append(build_strut(site, at, run, ahead, ask))
            except BadInput as error:
                raise BadInput("bracing", error.sentence) from None
        else:
            anchors.append(build_anchor(site, at, run, ahead, "none" if kind in PANELLED else kind))
    return tuple(braces), tuple(struts), tuple(anchors)


def pulls_on(
    site: Site, runs: Sequence[Run], held: tuple[tuple[Brace, ...], tuple[Strut, ...], tuple[Anchor, ...]]
) -> tuple[tuple[float, Pull], ...]:
    """What every run's end does to its post: the pull along the fence, what is left at its foot or where it acts, the lift."""
    braces, struts, anchors = held
    found = []
    for brace in braces:
        s, run = brace.statics, runs[brace.end.run]
        bend = abs(site.pull_n * site.pull_height_m * (brace.rail_height_m - site.pull_height_m) / brace.rail_height_m)
        at = run.start.station_m if brace.end.at_start else run.end.station_m
        if s.foot_shear_n is None or s.end_post_uplift_n is None:
            found.append((at, _pull(site, run, brace.end.at_start, at, site.pull_n, site.pull_height_m, 0.0, False)))
        else:
            found.append((at, _pull(site, run, brace.end.at_start, at, s.foot_shear_n[0], 0.0, s.end_post_uplift_n, True, brace.end.crossed, bend)))  # fmt: skip
    for strut in struts:
        d = strut.statics
        found.append((strut.station_m, _pull(site, runs[strut.run], strut.at_start, strut.station_m, d.foot_shear_n, 0.0, d.end_post_uplift_n)))  # fmt: skip
    for anchor in anchors:
        a = anchor
        found.append((a.station_m, _pull(site, runs[a.run], a.at_start, a.station_m, a.shear_n, a.shear_at_m, a.uplift_n)))  # fmt: skip
    return tuple(found)


def _pull(
    site: Site,
    run: Run,
    ahead: bool,
    at_m: float,
    shear_n: float,
    shear_at_m: float,
    uplift_n: float,
    stands: bool = True,
    crossed: bool = False,
    moment_nm: float = 0.0,
) -> Pull:
    """The pull of a run on the post it ends on, along the fence from there."""
    fence, way = site.fence, site.course
    (e0, n0), (e1, n1) = way.place(at_m), way.place(at_m + (1 if ahead else -1) * min(1.0, run.length_m))
    bearing = math.degrees(math.atan2(e1 - e0, n1 - n0)) % 360
    return Pull(
        fence.id, fence.name, bearing, site.pull_n, uplift_n, shear_n, shear_at_m, stands, crossed, moment_nm, run.length_m,
        site.section.relief,
    )  # fmt: skip
