"""Where water crosses a line: what of it is crossed by a rope and what can't be, and how each crossing is built."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gnomonic.core.demand.section import Section as Barrier
from gnomonic.core.finish.crossing import Crossed, Rules, cross, longest_span_m, section_of
from gnomonic.core.ground.course import Course
from gnomonic.core.ground.found import OnLine, called
from gnomonic.core.job.fence import Fence
from gnomonic.core.job.parts import Crossing
from gnomonic.core.setout.runs import SHORTEST_RUN_M, Gap

WATER = "water"
LEANERS = ("cattle", "calves", "horses", "foals")
NEAR_M = 0.5
FLOOD_STEP_M = 0.1


@dataclass(frozen=True, slots=True)
class Water:
    """A stretch of water on a line, posts kept clear of it: crossed, or ``why`` it is not (``along`` the line, over a ``corner``, under a
    ``gate``, at an ``end``, another line's ``join`` in it, too ``near`` the crossing before it, or the fencer's ``over``; so ``narrow`` that the fabric goes over it unless it is said)."""

    from_m: float
    to_m: float
    name: str
    channels: int
    ask: Crossing | None
    most_m: float
    why: str = ""

    @property
    def key(self) -> str:
        """Its own among the gaps of its line."""
        return f"water-{self.from_m:.2f}"

    @property
    def at_m(self) -> float:
        """Its middle."""
        return (self.from_m + self.to_m) / 2


@dataclass(frozen=True, slots=True)
class OverWater:
    """A crossing in its place, between posts at two stations."""

    at_m: float
    to_m: float
    name: str
    channels: int
    built: Crossed

    @property
    def middle_m(self) -> float:
        """Its middle, by which it is asked for."""
        return (self.at_m + self.to_m) / 2

    @property
    def thing(self) -> str:
        """What the log calls it: by its middle, to a metre, so that mending the line a little does not rename it."""
        return f"water-{self.middle_m:.0f}"


def rules_of(fence: Fence, barrier: Barrier) -> Rules:
    """What crossings of a line are reckoned by; cattle and horses push harder."""
    rule = barrier.system.rule
    leans = any(p.animal in LEANERS for p in fence.hold.animals)
    return Rules(
        sag=rule("crossing_sag"), under_m=rule("crossing_under_m"), rest_factor=rule("crossing_rest_factor"), flood_factor=rule("crossing_flood_factor"),
        clip_share=rule("crossing_clip_share"), first_share=rule("crossing_first_share"), most_m=rule("crossing_most_m"), speed_m_s=rule("crossing_speed_m_s"),
        drag=rule("crossing_drag"), tie_pa=rule("crossing_tie_pa"), ties_m=rule("crossing_ties_m"), tie_factor=rule("crossing_tie_factor"), nose_m=rule("crossing_nose_m"),
        nose_n=rule("crossing_lean_n" if leans else "crossing_nose_n"), flood_m=rule("crossing_flood_m"),
    )  # fmt: skip


def waters(
    fence: Fence,
    barrier: Barrier,
    line: Course,
    things: Sequence[OnLine],
    gaps: Sequence[Gap],
    joins_m: Sequence[float],
    height_m: float,
) -> list[Water]:
    """All running water on a line in order, channels that lie close as one where a rope spans both."""
    rule = barrier.system.rule
    said = [c for c in fence.own.crossings if c.flood_m is not None]
    most = longest_span_m(rules_of(fence, barrier), height_m)
    way = _InTheWay.of(fence, barrier, line, gaps, joins_m)
    rows = []
    for low, high, name in sorted((a, b, called(t.found)) for t in things if t.found.kind == WATER for a, b in t.stretches if b > a):  # fmt: skip
        wide = _in_flood(
            line, low, high, next((c for c in said if low - NEAR_M <= c.at_m <= high + NEAR_M), None), most
        )
        # what stands in the way of a flood's width is no reason to stand in the channel
        rows.append((*(wide if not way.of_stretch(*wide) or way.of_stretch(low, high) else (low, high)), name))
    merged: list[tuple[float, float, list[str], int]] = []
    for a, b, name in sorted(rows):
        if merged and a - merged[-1][1] < rule("crossing_apart_m") and max(b, merged[-1][1]) - merged[-1][0] <= most:
            low, high, names, count = merged[-1]
            merged[-1] = (low, max(b, high), names if name in names else [*names, name], count + (a > high))
        else:
            merged.append((a, b, [name], 1))
    found, crossed_to = [], -math.inf
    for a, b, names, count in merged:
        ask = next((c for c in fence.own.crossings if a - NEAR_M <= c.at_m <= b + NEAR_M), None)
        if ask is not None and ask.how == "over":
            why = "over"
        elif ask is None and b - a < rule("crossing_least_m"):
            why = "narrow"
        else:
            why = "along" if b - a > most else way.of_stretch(a, b)
        if not why and a < crossed_to + SHORTEST_RUN_M:
            why = "near"
        if not why:
            crossed_to = b
        found.append(Water(a, b, " and ".join(names), count, ask, most, why))
    return found


@dataclass(frozen=True, slots=True)
class _InTheWay:
    """What may stand in the way of a rope from bank to bank: gates, turns of the line, its ends, other lines' posts."""

    gaps: Sequence[Gap]
    corners_m: tuple[float, ...]
    bends_m: tuple[float, ...]
    length_m: float
    joins_m: Sequence[float]

    @staticmethod
    def of(fence: Fence, barrier: Barrier, line: Course, gaps: Sequence[Gap], joins_m: Sequence[float]) -> "_InTheWay":
        limit, noticed = fence.decisions.corner_angle_deg, barrier.system.rule("noticed_turn_deg")
        turns = [
            (float(s), float(t)) for s, t in zip(line.stations_m[1:-1], np.abs(line.turns_deg())[1:-1], strict=True)
        ]
        corners, bends = (tuple(s for s, t in turns if t > least) for least in (limit, noticed))
        return _InTheWay(gaps, corners, bends, line.length_m, joins_m)

    def of_stretch(self, a: float, b: float) -> str:
        """What is in the way; empty where nothing is."""
        if any(g.at_m - SHORTEST_RUN_M < b and a < g.end_m + SHORTEST_RUN_M for g in self.gaps):
            return "gate"
        if any(a - SHORTEST_RUN_M < s < b + SHORTEST_RUN_M for s in self.corners_m) or any(
            a < s < b for s in self.bends_m
        ):
            return "corner"
        if a < SHORTEST_RUN_M or b > self.length_m - SHORTEST_RUN_M:
            return "end"
        return "join" if any(a < s < b for s in self.joins_m) else ""


def _in_flood(line: Course, low_m: float, high_m: float, said: Crossing | None, most_m: float) -> tuple[float, float]:
    """A stretch of water out to where the ground stands over the flood that was said of it; as it is where that is wider than a rope spans."""
    if said is None or said.flood_m is None:
        return low_m, high_m
    profile = line.profile
    within = np.concatenate([[low_m], profile.breaks_between(low_m, high_m), [high_m]])
    level = float(profile.at(within).min()) + said.flood_m
    at = np.concatenate(
        [
            np.arange(max(0.0, low_m - most_m), low_m, FLOOD_STEP_M),
            within,
            np.arange(high_m, min(line.length_m, high_m + most_m), FLOOD_STEP_M),
        ]
    )
    at = np.unique(at)
    dry = profile.at(at) >= level
    left, right = at[(at <= low_m) & dry], at[(at >= high_m) & dry]
    low, high = (float(left[-1]) if len(left) else low_m), (float(right[0]) if len(right) else high_m)
    return (low, high) if high - low <= most_m else (low_m, high_m)


def gaps_of(found: Sequence[Water]) -> list[Gap]:
    """What is left open for the water that is crossed."""
    return [Gap(w.key, w.name, w.from_m, w.to_m - w.from_m, "crossing") for w in found if not w.why]


def over_water(
    fence: Fence,
    barrier: Barrier,
    line: Course,
    hung: Sequence[Gap],
    found: Sequence[Water],
    height_m: float,
    posts_n: Sequence[float],
) -> tuple[OverWater, ...]:
    """Every crossing built; ``posts_n`` is what each one's posts hold across the stream."""
    rules, made = rules_of(fence, barrier), []
    by_key = {w.key: w for w in found}
    for gap, stands in zip(hung, posts_n, strict=True):
        water = by_key[gap.key]
        ask = water.ask or Crossing(at_m=water.at_m)
        channel = section_of(line.profile, gap.at_m, gap.end_m, height_m)
        built = cross(channel, rules, stands, ask.flap, ask.cable, ask.flood_m, ask.speed_m_s, ask.sag)
        made.append(OverWater(gap.at_m, gap.end_m, water.name, water.channels, built))
    return tuple(made)
