"""How a line's runs are stretched: what is drawn, how hard on a day, from where, with what, and what it is then all the year.

Made from a plan when it is asked for, never by ``plan()`` itself; the search is kept by what it was asked.  Source: docs/method.md §8.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise

import numpy as np

from gnomonic.core.fabric.bar import Bar
from gnomonic.core.fabric.lay import RunNeed
from gnomonic.core.job.fence import Fence
from gnomonic.core.job.parts import PullWay
from gnomonic.core.plan.drawn import Drawn, drag_n_m, drawn_on, fabric_drawn
from gnomonic.core.plan.model import Holding, Plan, Post
from gnomonic.core.pull.aim import Days
from gnomonic.core.pull.climate import Climate, climate
from gnomonic.core.pull.gear import (
    Hooked,
    Puller,
    Start,
    bar_start,
    clicks,
    friction,
    hooked,
    puller,
    pullers_needed,
    rule,
)
from gnomonic.core.pull.highs import High, highs, hung_over
from gnomonic.core.pull.path import Bend, Path
from gnomonic.core.pull.strands import Strung, strung
from gnomonic.core.pull.ways import Gives, Part, Search, Way, both_ways, one_way

NEAR_END_M = 0.05
SAME_SPLICE_M = 0.5
SAME_KEPT = 0.003


@dataclass(frozen=True, slots=True)
class Option:
    """A way to pull with what it costs: minutes of pulls, splices and ends, splices and ended posts more than the plan has.

    ``recut`` where its splices are not where the rolls have theirs: they are cut anew for it.
    """

    way: Way
    minutes: float
    splices: int
    ends: int
    keeps: float
    said: bool = False
    recut: bool = False

    @property
    def enough(self) -> bool:
        """Whether no place keeps so little of the pull that it hangs visibly slacker than its neighbours."""
        return self.keeps >= rule("least_share")


@dataclass(frozen=True, slots=True)
class Support:
    """A post at which the fabric hangs while it is drawn: how far it travels there, and how often its knots come by."""

    post: int
    travel_m: float
    moves: int


@dataclass(frozen=True, slots=True)
class RunPull:
    """One run as one thing is drawn along it; ``posts`` are indices into the plan's, ``along_m`` their places along the fabric."""

    number: int
    from_m: float
    to_m: float
    drawn: Drawn
    posts: tuple[int, ...]
    along_m: tuple[float, ...]
    stations_m: tuple[float, ...]
    path: Path
    bears: tuple[High, ...]
    over_m: tuple[float, ...]
    dips_m: float
    gives: Gives
    options: tuple[Option, ...]
    chosen: int
    kind: Puller
    count: int
    hooks: tuple[Hooked, ...]
    supports: tuple[Support, ...]
    risks: tuple[Holding, ...]

    @property
    def option(self) -> Option:
        """The way it is pulled."""
        return self.options[self.chosen]

    @property
    def carries(self) -> bool:
        """Whether the pullers carry the pull."""
        return self.count > 0 and max(h.load_n for h in self.hooks) <= self.kind.can_n * (1 + 1e-9)

    def station(self, along_m: float) -> float:
        """Station of the line of a place along the fabric."""
        return float(np.interp(along_m, self.along_m, self.stations_m))

    def starts(self, tail_m: float) -> tuple[Start, ...]:
        """Where each bar of the chosen way starts."""
        return tuple(bar_start(t, p.to_m - p.from_m, tail_m) for p in self.option.way.parts for t in p.take_up_m)

    def strokes(self, start: Start) -> tuple[int, int]:
        """Clicks and hookings of a bar: of what is drawn in, not of the tail."""
        return clicks(start.take_up_m + start.slack_m, self.kind)


@dataclass(frozen=True, slots=True)
class Stretching:
    """A line's pulls on a day: its climate, the day's temperature and where that comes from, and every run."""

    climate: Climate
    day_c: float
    said: bool
    runs: tuple[RunPull, ...]
    strands: tuple[Strung | None, ...]


def stretching(fence: Fence, plan: Plan, day_c: float) -> Stretching:
    """How every run of a line is stretched on a day of so many °C, unless the line itself says another.

    Raises BadInput (``temp_c``) for a day the climate never had, (``puller``) for one that is not on file.
    """
    ask, of = fence.own.pull, climate(fence.job.climate)
    day = of.check_day(day_c if ask.temp_c is None else ask.temp_c)
    found: list[RunPull] = []
    many: list[Strung | None] = []
    everything = drawn_on(plan.section, Days(day, of.coldest_c, of.hottest_c))
    for k in range(len(plan.runs)):
        for drawn in everything:
            made = _run(fence, plan, k, drawn)
            found.append(made)
            many.append(_many(plan, made) if not drawn.fabric and drawn.count > 1 else None)
    return Stretching(of, day, ask.temp_c is not None, tuple(found), tuple(many))


def bent_runs(fence: Fence, plan: Plan) -> list[RunPull]:
    """Runs whose fabric is drawn round bends, as they are pulled on a mild day."""
    of = climate(fence.job.climate)
    day = min(max(rule("mild_c"), of.coldest_c), of.hottest_c)
    if not plan.section.layers or not plan.section.layers[0].fabric.line_wires:
        return []
    found = []
    for k, run in enumerate(plan.runs):
        ends, turns = (run.start.station_m, run.end.station_m), plan.course.turns_deg().tolist()
        if _turns(plan.course.stations_m.tolist(), turns, ends, plan.system.rule("noticed_turn_deg")):
            drawn = fabric_drawn(plan.section, plan.section.layers[0], Days(day, of.coldest_c, of.hottest_c))
            found.append(_run(fence, plan, k, drawn))
    return found


def tail_m(plan: Plan, number: int) -> float:
    """Fabric beyond a run's end post to tie with."""
    need = _need(plan, number)
    return need.posts_m[0] if need is not None and need.posts_m else 0.0


def _need(plan: Plan, number: int) -> RunNeed | None:
    """What was asked of the rolls for a run; none where its fabric goes on round a corner, or nothing is rolled out."""
    firsts = plan.rolls.runs
    if number not in firsts or not plan.rolls.needs:
        return None
    k = firsts.index(number)
    alone = (firsts[k + 1] if k + 1 < len(firsts) else len(plan.runs)) == number + 1
    return plan.rolls.needs[k] if alone else None


def _run(fence: Fence, plan: Plan, number: int, drawn: Drawn) -> RunPull:
    low, high = plan.runs[number].start.station_m, plan.runs[number].end.station_m
    posts = [p for p in plan.posts if low - 1e-6 <= p.station_m <= high + 1e-6]
    stations = [p.station_m for p in posts]
    if plan.course.closed and high > stations[-1] + 1e-6:  # a closed line's last run ends on its first post
        posts, stations = [*posts, plan.posts[0]], [*stations, high]
    ground = [p.ground_m for p in posts]
    steps = [math.hypot(b - a, z - y) for (a, b), (y, z) in zip(pairwise(stations), pairwise(ground), strict=True)]
    along = tuple(float(v) for v in np.concatenate([[0.0], np.cumsum(steps)]))
    bears = tuple(h for h in highs(stations, ground) if h.rad > math.radians(rule("hump_deg"))) if drawn.fabric else ()
    over, spare = hung_over(stations, ground, highs(stations, ground)) if drawn.fabric else ((), 0.0)
    path = Path(along[-1], _bends(plan, posts, stations, along, bears, drawn), drag_n_m(drawn))
    gives = _gives(plan, posts, drawn)
    search = Search(path, drawn.bar, drawn.aim.pull_n, gives, _windows(plan, number, along, drawn))
    options, chosen = _options(fence, plan, search, drawn, number, (stations, along))
    kind = puller(fence.own.pull.puller)
    high_m = drawn.high_m if drawn.fabric else 0.2
    at = drawn.at_m if drawn.fabric else 0.1
    needed = pullers_needed(drawn.aim.pull_n, at, high_m, kind) if drawn.fabric else 1
    asked = fence.own.pull.pullers or 0
    count = asked if asked and drawn.fabric else needed
    made = RunPull(
        number, low, high, drawn, tuple(p.index for p in posts), along, tuple(stations), path, bears, over, spare, gives, options, chosen, kind, count,
        hooked(drawn.aim.pull_n, at, high_m, count) if count else (), (), tuple(h for h in plan.holds if h.why == "bend" and low < plan.posts[h.post].station_m < high),
    )  # fmt: skip
    return made if not drawn.fabric else _with_supports(made)


def _bends(
    plan: Plan,
    posts: Sequence[Post],
    stations: Sequence[float],
    along: Sequence[float],
    bears: Sequence[High],
    drawn: Drawn,
) -> tuple[Bend, ...]:
    """Turns of the line within a run, round the posts there, and highs that the lower edge is drawn over."""
    course = plan.course
    noticed = plan.system.rule("noticed_turn_deg")
    at = {round(along[h.index], 6): (h.rad * friction()["ground"].mu, h.rad, 0.0) for h in bears}
    for s, deg in _turns(course.stations_m.tolist(), course.turns_deg().tolist(), (stations[0], stations[-1]), noticed):
        post = min(posts, key=lambda p: abs(p.station_m - s))
        over = friction()["wood" if post.rule.material == "wood" else "steel"]
        caught = over.catch_n * max(1, drawn.wires) if abs(deg) >= noticed else 0.0
        key, rad = round(float(np.interp(s, stations, along)), 6), math.radians(abs(deg))
        grip, turned, catch = at.get(key, (0.0, 0.0, 0.0))
        at[key] = (grip + rad * over.mu, turned + rad, catch + caught)
    return tuple(
        Bend(k, turned, grip / turned, catch)
        for k, (grip, turned, catch) in sorted(at.items())
        if 0 < k < along[-1] and turned > 0
    )


def _turns(
    stations: Sequence[float], turns_deg: Sequence[float], ends: tuple[float, float], noticed: float
) -> list[tuple[float, float]]:
    """Turns within a run that fabric is drawn round: noticeable ones, and what smaller ones on the same side add up to.

    A walked line wanders by a few degrees each way, and that is strung straight.
    """
    found, gathered = [], 0.0
    for s, deg in zip(stations, turns_deg, strict=True):
        if not ends[0] + NEAR_END_M < s < ends[1] - NEAR_END_M:
            continue
        gathered += deg
        if abs(deg) >= noticed:
            found.append((s, deg))
            gathered = 0.0
        elif abs(gathered) >= noticed:
            found.append((s, gathered))
            gathered = 0.0
    return found


def _gives(plan: Plan, posts: Sequence[Post], drawn: Drawn) -> Gives:
    if not drawn.known or drawn.tie_key == "tensioner":  # what a tensioner's end gives is wound up again
        return Gives()
    leans = {h.post: h.lean_m for h in plan.holds}
    share = drawn.aim.pull_n / plan.section.cold_n if plan.section.cold_n else 0.0
    if drawn.fabric:  # the dummy brace leans on the terminal already: its foot gets the rest as the pull passes over
        foot = plan.limits.clearance_m + drawn.foot_m
        share *= 1 - (foot + drawn.at_m) / (foot + drawn.high_m + rule("dummy_over_m"))
    start, end = (max(0.0, leans.get(p.index, 0.0)) * share for p in (posts[0], posts[-1]))
    return Gives(drawn.tie.slip_m, drawn.joint.slip_m, start, end, max(start, end))


def _windows(plan: Plan, number: int, along: tuple[float, ...], drawn: Drawn) -> tuple[tuple[float, float], ...]:
    """Where a run's fabric may be spliced, along it between its posts: the middle of an overlap that keeps clear of posts and end bays."""
    need, rules = _need(plan, number), plan.rolls.rules
    if not drawn.fabric or need is None or rules is None or not need.posts_m:
        return ()
    back = need.posts_m[0] + rules.overlap_m / 2
    return tuple((low - back, high - back) for low, high in rules.splice_windows(need))


@lru_cache(maxsize=512)
def _searched(search: Search) -> tuple[Way, ...]:
    return search.ways()


def _options(
    fence: Fence,
    plan: Plan,
    search: Search,
    drawn: Drawn,
    number: int,
    places: tuple[Sequence[float], Sequence[float]],
) -> tuple[tuple[Option, ...], int]:
    """Ways to pull a run with what each costs, and which is taken: the one that was said, or the cheapest that keeps enough everywhere.

    A splice the rolls make anyway costs nothing more.
    """
    stations, along = places
    low, high = stations[0], stations[-1]
    there = [float(np.interp((s.from_m + s.at_m) / 2, stations, along)) for s in plan.rolls.splices if low < s.at_m < high] if drawn.fabric else []  # fmt: skip
    ways = [w for w in _searched(search) if w.ends_m or not _is_there(w, there)]
    ways += [Way((both_ways(search.path, search.bar, search.pull_n, s, search.gives.splice_m),)) for s in there]
    said = fence.pulled_from(low, high)
    own = _said(search, said, there, (stations, along)) if said and drawn.fabric else None
    made = [_option(w, search, drawn, there, own is not None and w == own) for w in ways]
    if own is not None and not any(o.said for o in made):
        made.append(_option(own, search, drawn, there, True))
    made.sort(key=lambda o: (-round(o.keeps, 3), o.minutes))
    taken = next((k for k, o in enumerate(made) if o.said), None)
    if taken is None:
        # ended at a bend it would be two runs, and rolls are cut anew for a splice elsewhere: both are the fencer's to say
        whole = [k for k, o in enumerate(made) if not o.ends and not o.recut]
        enough = [k for k in whole if made[k].enough]
        taken = (
            min(enough, key=lambda k: (made[k].minutes, -made[k].keeps))
            if enough
            else max(whole, key=lambda k: (round(made[k].keeps, 2), -made[k].minutes))
        )
    shown = [k for k, o in enumerate(made) if k == taken or not any(_beats(p, o) for p in made)]
    return tuple(made[k] for k in shown), shown.index(taken)


def _beats(one: Option, other: Option) -> bool:
    """Whether a way keeps at least as much in no more time, and one of the two is better."""
    better = one.keeps > other.keeps + SAME_KEPT or one.minutes < other.minutes
    return better and one.keeps >= other.keeps - SAME_KEPT and one.minutes <= other.minutes


def _is_there(way: Way, there: Sequence[float]) -> bool:
    """Whether the splice a run is pulled to is one the rolls make anyway, to half a metre."""
    return any(abs(s - t) <= SAME_SPLICE_M for s in way.splices_m for t in there)


def _said(
    search: Search, said: PullWay, there: Sequence[float], places: tuple[Sequence[float], Sequence[float]]
) -> Way | None:
    """The way that was said; its splice is the one of the rolls that lies nearest, none where none could be made."""
    g = search.gives
    if said.way == "both" and said.splice_m is not None:
        if not there:
            return None
        asked = float(np.interp(said.splice_m, *places))
        at = min(there, key=lambda s: abs(s - asked))
        return Way((both_ways(search.path, search.bar, search.pull_n, at, g.splice_m),))
    start = said.way == "start"
    return Way((one_way(search.path, search.bar, search.pull_n, start, g.tie_m + (g.start_m if start else g.end_m)),))


def _option(way: Way, search: Search, drawn: Drawn, there: Sequence[float], said: bool) -> Option:
    recut = any(min((abs(s - t) for t in there), default=math.inf) > SAME_SPLICE_M for s in way.splices_m)
    more = max(0, len(way.splices_m) - len(there))
    minutes = (
        way.pulls * (rule("set_up_min") + rule("draw_min"))
        + more * drawn.wires * drawn.joint.minutes
        + len(way.ends_m) * (rule("end_min") + 2 * drawn.wires * drawn.tie.minutes)
    )
    keeps = way.least_n / search.pull_n if search.pull_n else 0.0
    return Option(way, minutes, more, len(way.ends_m), keeps, said, recut)


def _with_supports(run: RunPull) -> RunPull:
    """The run with its temporary supports: every few posts, with how far the fabric travels there while it is drawn."""
    every = int(rule("support_posts"))
    found = []
    for k in range(every, len(run.posts) - 1, every):
        travel = _travel(run, run.along_m[k])
        moves = int(travel / run.drawn.stay_m) if run.drawn.stay_m else 0
        found.append(Support(run.posts[k], travel, moves))
    return replace(run, supports=tuple(found))


def _travel(run: RunPull, at_m: float) -> float:
    """How far the fabric moves past a place while it is drawn: what everything between it and the fixed end takes up."""
    if not run.drawn.known:
        return 0.0
    for part in run.option.way.parts:
        if part.from_m <= at_m <= part.to_m:
            return _given(run.drawn.bar, part, *_fixed_side(part, at_m))
    return 0.0


def _fixed_side(part: Part, at_m: float) -> tuple[float, float]:
    towards_start = part.way == "end" or (part.way == "both" and part.splice_m is not None and at_m <= part.splice_m)
    return (part.from_m, at_m) if towards_start else (at_m, part.to_m)


def _given(hung: Bar, part: Part, low: float, high: float) -> float:
    total = 0.0
    for s in part.stretches:
        a, b = max(s.from_m, low), min(s.to_m, high)
        if b > a:
            total += hung.length_of(s.at_n(a), s.at_n(b), b - a)
    return total


def _many(plan: Plan, run: RunPull) -> Strung | None:
    """What tightening one strand does to the others, through both end posts' give; none where that is not known."""
    leans = {h.post: h.lean_m for h in plan.holds}
    give = sum(max(0.0, leans.get(run.posts[k], 0.0)) for k in (0, -1))
    if not plan.section.cold_n or give <= 0:
        return None
    stiff = run.drawn.bar.wires[0][0].ea_n / run.path.length_m
    pull = run.drawn.aim.pull_n
    return strung([pull] * run.drawn.count, [stiff] * run.drawn.count, give / plan.section.cold_n)
