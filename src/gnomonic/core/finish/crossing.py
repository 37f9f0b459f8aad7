"""Water crossed without anything solid in it: the rope, what hangs from it, what it is asked for at rest and in flood, and what lets go
first.

Source: statics of the parabola; drag ½ρ·Cd·A·V² of a mat of drift (docs/method.md §15).
"""

import math
from dataclasses import dataclass
from functools import cache
from typing import Any

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.wire import gauge
from gnomonic.core.finish.cable import GRAVITY, CableSize, cables, hung, span_it_can_m
from gnomonic.core.ground.profile import Floats, Profile
from gnomonic.core.sourced import Sourced, read_data

WATER_KG_M3 = 1000.0
TIE_GAUGES = (20.0, 19.0, 18.0, 17.0, 16.0, 15.5, 14.5, 14.0, 12.5, 11.0, 9.0)
TIES_M = (0.5, 1.0, 1.5)  # of the usual number
ACROSS = 161  # places across the channel besides the bed's own breaks


class Flap(Sourced):
    """What hangs from the rope: its mass a square metre, how far apart its parts hang."""

    title: str
    item: str
    kg_m2: float
    pitch_m: float


@cache
def flaps() -> dict[str, Flap]:
    """Every kind of flap by its key, the lightest first."""
    found = {key: Flap.model_validate(row) for key, row in read_data("cables.toml", "finish")["flaps"].items()}
    return dict(sorted(found.items(), key=lambda kv: kv[1].kg_m2))


@dataclass(frozen=True, slots=True)
class Rules:
    """What a crossing is reckoned by (``crossing_…`` in the rules, SI)."""

    sag: float
    under_m: float
    rest_factor: float
    flood_factor: float
    clip_share: float
    first_share: float
    most_m: float
    speed_m_s: float
    drag: float
    tie_pa: float
    ties_m: float
    tie_factor: float
    nose_m: float
    nose_n: float
    flood_m: float


@dataclass(frozen=True, slots=True)
class Section:
    """The channel between two posts: ``stations_m`` and ``bed_m`` of it, heights of both posts' heads where the rope is made fast
    (``heads_m``)."""

    stations_m: Floats
    bed_m: Floats
    heads_m: tuple[float, float]

    @property
    def span_m(self) -> float:
        """Level, post to post."""
        return float(self.stations_m[-1] - self.stations_m[0])

    @property
    def lowest_m(self) -> float:
        """The bed at its lowest."""
        return float(self.bed_m.min())

    @property
    def banks_m(self) -> tuple[float, float]:
        """The ground at both posts."""
        return float(self.bed_m[0]), float(self.bed_m[-1])

    def rope_m(self, sag_m: float) -> Floats:
        """Heights of the rope, a parabola below its chord."""
        x = (self.stations_m - self.stations_m[0]) / self.span_m
        found: Floats = self.heads_m[0] + (self.heads_m[1] - self.heads_m[0]) * x - 4 * sag_m * x * (1 - x)
        return found


def section_of(profile: Profile, low_m: float, high_m: float, head_m: float) -> Section:
    """The channel between two stations, the rope made fast ``head_m`` over the ground at both."""
    even = np.linspace(low_m, high_m, ACROSS)
    stations = np.union1d(even, profile.breaks_between(low_m, high_m))
    bed = profile.at(stations)
    return Section(stations, bed, (float(bed[0]) + head_m, float(bed[-1]) + head_m))


@dataclass(frozen=True, slots=True)
class Crossed:
    """A crossing worked out.

    ``drop_m`` from rope to the foot of what hangs, on average and at most; ``weight_n_m`` of it all along the span; at rest ``rest_n`` pulls
    the rope level and ``rest_end_n`` at its higher end; ``flood_m`` over the lowest of the bed, ``wet_m2`` of the hung face in it, ``drag_n`` on
    that with a mat of drift, ``first_n`` the push at which the ties let go, ``stands_n`` what posts across the stream and rope
    hold; ``nose_n_m`` what pushes its foot open as far as is allowed.
    """

    cable: CableSize
    cable_key: str
    flap: Flap
    flap_key: str
    section: Section
    sag_m: float
    drop_m: float
    drop_most_m: float
    weight_n_m: float
    rope_m: float
    rest_n: float
    rest_end_n: float
    flood_m: float
    speed_m_s: float
    wet_m2: float
    drag_n: float
    posts_n: float
    rope_stands_n: float
    first_n: float
    tie_gauge: float
    ties: int
    nose_n_m: float
    wanted_nose_n_m: float
    over_posts: bool
    flood_said: bool
    rules: Rules

    @property
    def rest_holds(self) -> bool:
        """Whether the rope carries what hangs with its factor."""
        return self.rest_share <= 1

    @property
    def rest_share(self) -> float:
        """What the rope is asked at rest, with its factor, over what it has."""
        return self.rest_end_n * self.rules.rest_factor / (self.rules.clip_share * self.cable.break_n)

    @property
    def fails_first(self) -> bool:
        """Whether the ties let go before posts and rope."""
        return 0 < self.first_n < min(self.posts_n, self.rope_stands_n)

    @property
    def heavy(self) -> bool:
        """Whether stock is kept from pushing through."""
        return self.nose_n_m >= self.wanted_nose_n_m

    @property
    def push_n(self) -> float:
        """The most that is pushed across: what the flood pushes, but no more than lets the ties go."""
        return min(self.first_n, self.drag_n)

    @property
    def at_first_level_n(self) -> float:
        """The rope's level pull then."""
        span = self.section.span_m
        return math.hypot(self.weight_n_m, self.push_n / span) * span**2 / (8 * self.sag_m)

    @property
    def at_first_n(self) -> float:
        """The rope's pull at its higher end then."""
        return rope_end_n(self.section, self.sag_m, self.weight_n_m, self.push_n)

    @property
    def face_m2(self) -> float:
        """The hung face."""
        return self.drop_m * self.section.span_m

    @property
    def hung_m(self) -> float:
        """Metres of droppers or boards."""
        return self.face_m2 / self.flap.pitch_m


def rope_end_n(section: Section, sag_m: float, weight_n_m: float, push_n: float) -> float:
    """Pull at the rope's higher end under what hangs and a push across, spread along the span; its sag is taken to stay."""
    span, (a, b) = section.span_m, section.heads_m
    load = math.hypot(weight_n_m, push_n / span)
    level = load * span**2 / (8 * sag_m)
    return math.hypot(level, load * span / 2 + level * abs(b - a) / span)


def wet_face_m2(section: Section, rope: Floats, under_m: float, flood_m: float) -> float:
    """Area of the hung face under the flood's level (``flood_m`` over the lowest of the bed)."""
    level = section.lowest_m + flood_m
    foot = section.bed_m + under_m
    wet = np.clip(np.minimum(rope, level) - foot, 0.0, None)
    return float(np.trapezoid(wet, section.stations_m))


def nose_n_m(kg_m: float, drop_m: float, nose_m: float) -> float:
    """Push a metre, at two thirds of the drop, that opens a hung flap by ``nose_m`` at its foot: P·⅔h·cos θ = W·½h·sin θ, sin θ = nose/h.

    >>> round(nose_n_m(50.0, 1.2, 0.3), 1)
    95.0
    """
    sine = min(0.95, nose_m / drop_m) if drop_m > 0 else 0.0
    return kg_m * GRAVITY * 0.75 * math.tan(math.asin(sine))


def cross(
    section: Section,
    rules: Rules,
    posts_n: float,
    flap_key: str = "",
    cable_key: str = "",
    flood_m: float | None = None,
    speed_m_s: float | None = None,
    sag: float | None = None,
) -> Crossed:
    """Work a crossing out: flap and rope are the lightest that do, unless they are said.

    ``posts_n`` is what both posts together hold across the stream at the rope's height.  Raises BadInput for keys that are not there.
    """
    for key, known, what in ((flap_key, flaps(), "flap"), (cable_key, cables(), "cable")):
        if key and key not in known:
            raise BadInput(what, f"there is no {what} called “{key[:24]}”; there are: {', '.join(known)}")
    sag_m = (sag or rules.sag) * section.span_m
    flood = max(min(section.banks_m) - section.lowest_m, rules.flood_m) if flood_m is None else flood_m
    speed = rules.speed_m_s if speed_m_s is None else speed_m_s
    rope = section.rope_m(sag_m)
    drop = np.clip(rope - section.bed_m - rules.under_m, 0.0, None)
    wet = wet_face_m2(section, rope, rules.under_m, flood)
    chord = math.hypot(section.span_m, section.heads_m[1] - section.heads_m[0])
    fixed: dict[str, Any] = {
        "section": section,
        "rules": rules,
        "sag_m": sag_m,
        "drop_m": float(np.trapezoid(drop, section.stations_m)) / section.span_m,
        "drop_most_m": float(drop.max()),
        "rope_m": _rope_long_m(section.span_m, chord, sag_m),
        "flood_m": flood,
        "flood_said": flood_m is not None,
        "speed_m_s": speed,
        "wet_m2": wet,
        "drag_n": WATER_KG_M3 / 2 * rules.drag * wet * speed**2,
        "posts_n": posts_n,
        "over_posts": section.lowest_m + flood >= min(section.heads_m),
    }
    chosen = None
    for flap in [flap_key] if flap_key else list(flaps()):
        for cable in [cable_key] if cable_key else list(cables()):
            loads = _loads(section, rules, sag_m, fixed["drop_m"], (flap, cable))
            chosen = (flap, cable, loads)
            rests = loads.rest_end_n * rules.rest_factor <= rules.clip_share * cables()[cable].break_n
            if rests and loads.stands_n >= min(fixed["drag_n"], posts_n):
                break
        if nose_n_m(flaps()[flap].kg_m2 * fixed["drop_m"], fixed["drop_most_m"], rules.nose_m) >= rules.nose_n:
            break
    assert chosen is not None
    return _made(fixed, *chosen)


@dataclass(frozen=True, slots=True)
class _Loads:
    """What a flap and a rope come to: the load a metre, the rope's end at rest, the push across that it stands."""

    weight_n_m: float
    rest_end_n: float
    stands_n: float


def _loads(section: Section, rules: Rules, sag_m: float, drop_m: float, keys: tuple[str, str]) -> _Loads:
    flap, cable = flaps()[keys[0]], cables()[keys[1]]
    weight = (flap.kg_m2 * drop_m + cable.kg_m) * GRAVITY
    # the load a metre at which the rope's end, with its factor, comes to what it has; what of it is left for a push across
    most = rules.clip_share * cable.break_n / rules.flood_factor / rope_end_n(section, sag_m, 1.0, 0.0)
    stands = section.span_m * math.sqrt(max(0.0, most**2 - weight**2))
    return _Loads(weight, rope_end_n(section, sag_m, weight, 0.0), stands)


def _made(fixed: dict[str, Any], flap_key: str, cable_key: str, loads: _Loads) -> Crossed:
    """A crossing with one flap and one rope: its loads, what it stands, its weak ties."""
    flap, section, rules, sag_m = flaps()[flap_key], fixed["section"], fixed["rules"], fixed["sag_m"]
    span, weight = section.span_m, loads.weight_n_m
    least = rules.first_share * min(fixed["posts_n"], loads.stands_n)
    tie, ties, first = weak_ties(rules, span, weight * span, least)
    return Crossed(
        **fixed,
        cable=cables()[cable_key],
        cable_key=cable_key,
        flap=flap,
        flap_key=flap_key,
        weight_n_m=weight,
        rest_n=weight * span**2 / (8 * sag_m),
        rest_end_n=loads.rest_end_n,
        rope_stands_n=loads.stands_n,
        first_n=first,
        tie_gauge=tie,
        ties=ties,
        nose_n_m=nose_n_m(flap.kg_m2 * fixed["drop_m"], fixed["drop_most_m"], rules.nose_m),
        wanted_nose_n_m=rules.nose_n,
    )


def weak_ties(rules: Rules, span_m: float, weight_n: float, least_n: float) -> tuple[float, int, float]:
    """Gauge and number of single ties, and the push across at which they let go: they carry what hangs besides, so √((n·b)² − W²).

    Of those that carry ``weight_n`` with their factor the strongest that lets go under ``least_n``; where none does, the weakest that
    carries it.
    """
    found = []
    for share in TIES_M:
        ties = max(2, math.ceil(share * rules.ties_m * span_m - 1e-9))
        for tie in TIE_GAUGES:
            holds = ties * rules.tie_pa * gauge(tie).area_m2
            if holds >= rules.tie_factor * weight_n:
                found.append((math.sqrt(holds**2 - weight_n**2), tie, ties))
    fits = [row for row in found if row[0] <= least_n]
    first, tie, ties = (
        max(fits, key=lambda r: (r[0], -abs(r[2] - rules.ties_m * span_m)))
        if fits
        else min(found, default=(0.0, TIE_GAUGES[-1], 2))
    )
    return tie, ties, first


def _rope_long_m(span_m: float, chord_m: float, sag_m: float) -> float:
    """Length of the hung rope: the catenary's over the span, lengthened as its chord is."""
    return hung(1.0, span_m, sag_m).catenary_length_m * chord_m / span_m


def longest_span_m(rules: Rules, high_m: float) -> float:
    """The widest water the thickest rope on file spans with the lightest flap, at most what is hung by hand."""
    size, flap = list(cables().values())[-1], next(iter(flaps().values()))
    weight = (flap.kg_m2 * high_m + size.kg_m) * GRAVITY
    return min(rules.most_m, span_it_can_m(weight, rules.sag, rules.clip_share * size.break_n / rules.rest_factor))
