"""Posts of a plan: numbered along the line, of the kind each place asks for, with what is put on them; and the bays."""

import math
from collections.abc import Sequence

import numpy as np

from gnomonic.core.brace.layout import BraceEnd
from gnomonic.core.demand.section import Section
from gnomonic.core.demand.system import PostKind, PostRule
from gnomonic.core.finish.fittings import Fitting, post_fittings, slot_of
from gnomonic.core.ground.course import Course
from gnomonic.core.ground.found import OnLine, soft_ground
from gnomonic.core.job.document import Job
from gnomonic.core.plan.model import Bay, Post
from gnomonic.core.setout.line import SAME_M, Layout
from gnomonic.core.setout.runs import Run

HALF_INCH_M = 0.0127
Soft = tuple[float, float, float, str]
NOTHING_SOFT: Soft = (0.0, 0.0, 0.0, "")


def softest(soft: Sequence[Soft], station_m: float) -> Soft | None:
    """The stretch of soft ground that takes posts deepest here."""
    return next((row for row in soft if row[0] <= station_m <= row[1]), None)


def _kinds(
    job: Job,
    line: Course,
    section: Section,
    runs: list[Run],
    ends: list[BraceEnd],
    layouts: list[Layout],
    soft: Sequence[Soft],
) -> dict[float, tuple[PostKind, str, float, float, int]]:
    """Kind, role, turn, change of grade and runs tied, by station."""
    system = section.system
    inner = {round(s, 6) for e in ends for s in e.stations_m[1:]}
    dip, noticed = system.rule("dip_grade"), system.rule("noticed_turn_deg")
    turns = dict(zip(np.round(line.stations_m, 6).tolist(), line.turns_deg().tolist(), strict=True))
    rows: dict[float, tuple[PostKind, str, float, float, int]] = {}
    every = job.decisions.wood_every
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
            firm = role != "line" or softest(soft, station) or (every and since >= every)
            rows[station] = (system.firm_post if firm else system.line_post, role, turn, change, 1)
            since = 0 if firm else since
    return rows


def sized(rule: PostRule, height_m: float, deeper_m: float) -> tuple[float, float, float]:
    """Depth, length and length bought of a post under a barrier this high; its length is what stands out and the depth.

    A driven post goes in by what is left of its length, to the half inch less, so that its head is never under what it
    carries; where no length sold is long enough, what is sold is driven as deep as it goes.
    """
    above = height_m + rule.over_m
    stock = rule.stock_for(above + deeper_m)
    if rule.fit == "drive":
        depth = math.floor((stock - above) / HALF_INCH_M + 1e-6) * HALF_INCH_M
        return depth, stock, stock
    depth = rule.depth_m + deeper_m
    return depth, above + depth if rule.fit == "cut" else stock, stock


def place_posts(
    job: Job,
    line: Course,
    section: Section,
    runs: list[Run],
    ends: list[BraceEnd],
    layouts: list[Layout],
    height_m: float,
    things: list[OnLine],
) -> tuple[tuple[Post, ...], tuple[Bay, ...]]:
    """Number the posts along the line, choose their kinds, fasten them, and join them by bays."""
    forced = {round(p.at_m, 6) for p in job.posts}
    soft = soft_ground(things)
    rows = _kinds(job, line, section, runs, ends, layouts, soft)
    there = {0.0 if s.at == "start" else round(line.length_m, 6): s.of for s in job.shared if not line.closed}
    posts: list[Post] = []
    index = {}
    stations = sorted(rows)
    easts, norths = line.places(np.array(stations))
    grounds = line.profile.at(np.array(stations)).tolist()
    sizes: dict[tuple[str, float], tuple[float, float, float]] = {}
    fitted: dict[tuple[str, int, float], tuple[Fitting, ...]] = {}
    for number, station in enumerate(stations):
        kind, role, turn, change, tied = rows[station]
        _, _, deeper, because = softest(soft, station) or NOTHING_SOFT
        if (kind, deeper) not in sizes:
            sizes[kind, deeper] = sized(section.posts[kind], height_m, deeper)
        depth, length, stock = sizes[kind, deeper]
        slot = slot_of(section.system, kind, role)
        key = (slot, tied, length - depth)
        if key not in fitted:
            fitted[key] = post_fittings(section, slot, tied, job.decisions.clearance_m, length - depth)
        at = round(station, 6)
        index[at] = number
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
                length_m=length,
                turn_deg=turn,
                grade_change=change,
                forced=at in forced,
                fittings=fitted[key],
                slot=slot,
                stock_m=stock,
                deeper_m=deeper,
                because=because,
                shared=there.get(at, ""),
            )
        )
    bays = []
    for run, layout in zip(runs, layouts, strict=True):
        for low, high, ground in zip(layout.stations_m[:-1], layout.stations_m[1:], layout.bays, strict=True):
            wraps = line.closed and high > line.length_m - SAME_M
            to = index[0.0] if wraps else index[round(high, 6)]
            bays.append(Bay(run.index, index[round(low, 6)], to, low, high, ground))
    return tuple(posts), tuple(bays)
