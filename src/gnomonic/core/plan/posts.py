"""Posts of a plan: numbered along the line, of the kind each place asks for, with what is put on them; and the bays."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gnomonic.core.brace.layout import BraceEnd
from gnomonic.core.demand.section import Section
from gnomonic.core.demand.system import PostKind, PostRule
from gnomonic.core.finish.fittings import Fitting, post_fittings, slot_of
from gnomonic.core.ground.course import Course
from gnomonic.core.ground.found import OnLine, soft_ground
from gnomonic.core.job.fence import Fence
from gnomonic.core.job.parts import PostAsk
from gnomonic.core.log.events import SAME_DEPTH_M
from gnomonic.core.log.facts import Built
from gnomonic.core.plan.model import Asked, Bay, Post
from gnomonic.core.plan.rails import Rail
from gnomonic.core.setout.line import SAME_M, Layout
from gnomonic.core.setout.runs import Run

HALF_INCH_M = 0.0127
BUILT_M = 0.02  # a logged post stands where it was logged
CLOSE_M = 0.3  # a join so near a post is on it
Soft = tuple[float, float, float, str]
NOTHING_SOFT: Soft = (0.0, 0.0, 0.0, "")


def softest(soft: Sequence[Soft], station_m: float) -> Soft | None:
    """The stretch of soft ground that takes posts deepest here."""
    return next((row for row in soft if row[0] <= station_m <= row[1]), None)


@dataclass(frozen=True, slots=True)
class Ground:
    """What posts are placed on: the line with what hangs and what was found, lines that stand on it (``asked``), and by end
    the names of lines whose posts its own ends stand on (``there``).
    """

    fence: Fence
    line: Course
    section: Section
    things: list[OnLine]
    asked: tuple[Asked, ...]
    there: dict[str, str]
    built: tuple[Built, ...] = ()

    def built_at(self, station_m: float) -> Built | None:
        """What is known of the post here as built."""
        if not self.built:
            return None
        return next(
            (b for b in self.built if abs(b.stands_m - station_m) < BUILT_M or abs(b.at_m - station_m) < BUILT_M), None
        )

    def ends_on(self) -> dict[float, str]:
        """Stations of the line's ends that stand on another fence, and what that is called."""
        if self.line.closed:
            return {}
        names = self.there | {s.at: s.of for s in self.fence.shared}
        return {0.0 if end == "start" else round(self.line.length_m, 6): name for end, name in names.items()}

    def joined_at(self, station_m: float) -> list[Asked]:
        """What other lines ask of the post here."""
        if not self.asked:
            return []
        return [a for a in self.asked if abs(a.at_m - station_m) < CLOSE_M]


def _kinds(
    ground: Ground, runs: list[Run], ends: list[BraceEnd], layouts: list[Layout], soft: Sequence[Soft]
) -> dict[float, tuple[PostKind, str, float, float, int]]:
    """Kind, role, turn, change of grade and runs tied, by station."""
    fence, line, system = ground.fence, ground.line, ground.section.system
    inner = {round(s, 6) for e in ends for s in e.stations_m[1:]}
    dip, noticed = system.rule("dip_grade"), system.rule("noticed_turn_deg")
    turns = dict(zip(np.round(line.stations_m, 6).tolist(), line.turns_deg().tolist(), strict=True))
    rows: dict[float, tuple[PostKind, str, float, float, int]] = {}
    every = fence.decisions.wood_every
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
            if ground.joined_at(station):
                rows[station] = ("terminal", "join", turn, change, 0)
                since = 0
                continue
            bent = noticed < abs(turn) <= fence.decisions.corner_angle_deg
            role = "dip" if change > dip else "hump" if change < -dip else "bend" if bent else "line"
            since += 1
            ask = fence.asked_at(station)
            firm = role != "line" or softest(soft, station) or (every and since >= every)
            kind = system.firm_post if firm else system.line_post
            rows[station] = (ask.kind if ask and ask.kind in system.posts else kind, role, turn, change, 1)
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


def asked_rule(
    own: PostRule, height_m: float, deeper_m: float, because: str, joined: Sequence[Asked]
) -> tuple[PostRule, float, float, str]:
    """Of what kind, how high and how much deeper a post is, as the line that brings it and those that join it ask together.

    The longest and then the stoutest kind asked for, as deep as any of them sets it.  Source: common practice.
    """
    if not joined:
        return own, height_m, deeper_m, because
    wanted = [(height_m, own, because), *((a.height_m, a.rule, a.name) for a in joined)]
    high = max(h for h, _, _ in wanted)
    rule = max(
        (r for _, r, _ in wanted),
        key=lambda r: (max(r.stock_m) >= high + r.over_m + r.depth_m - SAME_M, r.depth_m, r.diameter_m),
    )
    deepest = max(own.depth_m + deeper_m, *(r.depth_m for _, r, _ in wanted))
    if deepest - rule.depth_m > deeper_m + SAME_M:
        because = (
            next(name for _, r, name in wanted if r.depth_m == deepest) if deepest > own.depth_m + deeper_m else because
        )
    return rule, high, deepest - rule.depth_m, because


def _heights(line: Course, layouts: list[Layout], rails: Sequence[Rail]) -> dict[float, float]:
    """How high what hangs stands at each post under a rigid rail; where two runs meet, as high as the higher."""
    found: dict[float, float] = {}
    for layout, rail in zip(layouts, rails, strict=False):
        for station, high in zip(layout.stations_m, rail.heights_m, strict=True):
            at = 0.0 if line.closed and station > line.length_m - SAME_M else round(station, 6)
            found[at] = max(high, found.get(at, 0.0))
    return found


FILLS = {"concrete": "concrete", "soil_cement": "soil cement", "gravel": "crushed rock", "tamped": ""}


def _filled(section: Section, rule: PostRule, ask: PostAsk | None) -> str:
    """What is filled round a post: as asked for it, as its kind is set, or as the school has it; nothing round one that is driven."""
    if ask and ask.fill:
        return FILLS[ask.fill]
    return rule.fill or (FILLS.get(section.school("setting"), "") if rule.hole_m else "")


def _as_asked(
    section: Section, rule: PostRule, deeper_m: float, because: str, ask: PostAsk, fill: str
) -> tuple[PostRule, float, str]:
    """A post as the fencer asks for it here: so deep, in a hole where something is filled round it."""
    if fill and not rule.hole_m:
        rule = rule.model_copy(update={"hole_m": rule.diameter_m + section.system.rule("footing_round_m")})
    if ask.depth_m is not None:
        return rule, ask.depth_m - rule.depth_m, "asked for here"
    return rule, deeper_m, because


def _short_of(ask: PostAsk | None, depth_m: float) -> float:
    """By how much no length sold stands as deep as was asked."""
    short = ask.depth_m - depth_m if ask and ask.depth_m else 0.0
    return short if short > HALF_INCH_M else 0.0


def as_built(known: Built, depth_m: float, length_m: float) -> tuple[float, float]:
    """How deep and how long a post is that was set: where it stopped short its head stands proud, until it is cut."""
    reached = known.reached_m
    if reached is None and known.proud_m is not None:
        reached = depth_m - known.proud_m
    if reached is None or abs(reached - depth_m) < SAME_DEPTH_M:
        return depth_m, length_m
    reached = min(max(reached, 0.0), length_m)
    return reached, (length_m - (depth_m - reached) if known.cut else length_m)


def place_posts(
    ground: Ground,
    runs: list[Run],
    ends: list[BraceEnd],
    layouts: list[Layout],
    height_m: float,
    rails: Sequence[Rail] = (),
) -> tuple[tuple[Post, ...], tuple[Bay, ...]]:
    """Number the posts along the line, choose their kinds, fasten them, and join them by bays."""
    fence, line, section = ground.fence, ground.line, ground.section
    forced = {round(p.at_m, 6) for p in fence.posts}
    soft = soft_ground(ground.things)
    heights = _heights(line, layouts, rails)
    rows = _kinds(ground, runs, ends, layouts, soft)
    there = ground.ends_on()
    posts: list[Post] = []
    stations = sorted(rows)
    easts, norths = line.places(np.array(stations))
    grounds = line.profile.at(np.array(stations)).tolist()
    sizes: dict[tuple[int, float, float], tuple[float, float, float]] = {}
    fitted: dict[tuple[str, int, float], tuple[Fitting, ...]] = {}
    fills: dict[int, str] = {}
    for number, station in enumerate(stations):
        kind, role, turn, change, tied = rows[station]
        _, _, deeper, because = softest(soft, station) or NOTHING_SOFT
        joined = ground.joined_at(station)
        own_high = heights.get(round(station, 6), height_m)
        own_kind = section.terminal(role) if kind == "terminal" else section.posts[kind]
        rule, high, deeper, because = asked_rule(own_kind, own_high, deeper, because, joined)
        ask = fence.asked_at(station)
        if ask or id(rule) not in fills:
            fills[id(rule)] = _filled(section, rule, None)
        fill = _filled(section, rule, ask) if ask else fills[id(rule)]
        if ask:
            rule, deeper, because = _as_asked(section, rule, deeper, because, ask, fill)
        if (id(rule), deeper, high) not in sizes:
            sizes[id(rule), deeper, high] = sized(rule, high, deeper)
        depth, length, stock = sizes[id(rule), deeper, high]
        planned, known = depth, ground.built_at(station)
        if known:
            depth, length = as_built(known, depth, length)
        slot = slot_of(section.system, kind, role)
        key = (slot, tied, length - depth)
        if key not in fitted:
            fitted[key] = post_fittings(section, slot, tied, fence.decisions.clearance_m, length - depth)
        at = round(station, 6)
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
                fill=fill,
                block=bool(ask and ask.block),
                planned_m=planned,
                built=known,
                deeper_m=deeper,
                because=because,
                shared=there.get(at, ""),
                joined=tuple(a.line for a in joined),
                rule=rule,
                name=str(number + 1),
                short_m=max(0.0, high + rule.over_m - (length - depth)) if joined else _short_of(ask, planned),
            )
        )
    return tuple(posts), _bays(line, runs, layouts, {round(s, 6): k for k, s in enumerate(stations)})


def _bays(line: Course, runs: list[Run], layouts: list[Layout], index: dict[float, int]) -> tuple[Bay, ...]:
    """Bays from post to post of every run; ``index`` of posts by their station."""
    bays = []
    for run, layout in zip(runs, layouts, strict=True):
        for low, high, under in zip(layout.stations_m[:-1], layout.stations_m[1:], layout.bays, strict=True):
            wraps = line.closed and high > line.length_m - SAME_M
            to = index[0.0] if wraps else index[round(high, 6)]
            bays.append(Bay(run.index, index[round(low, 6)], to, low, high, under))
    return tuple(bays)
