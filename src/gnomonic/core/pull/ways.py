"""From where a run is pulled: every end, both ways to a splice in the middle, ended at its bends; each with its release.

Searched, not guessed: of all the ways the one that leaves the most tension where there is least, never pulling harder than asked.
Source: docs/method.md §8.
"""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations, pairwise
from typing import Literal

from gnomonic.core.fabric.bar import Bar
from gnomonic.core.pull.path import AT_M, Path, Pulled, Stretch, greatest, least_n, pulled, take_up_m
from gnomonic.core.pull.release import let_go_joined, release

From = Literal["start", "end", "both"]
SAME = 1e-9
CLEAR_OF_BEND_M = 0.05
MOST_TRIED = 6  # bends a run is tried to be ended at: those that grip most


@dataclass(frozen=True, slots=True)
class Gives:
    """What ends give back, in metres: a tie-off, a splice in all, and the posts at both ends as they take the pull over from
    the puller (a post within the run gives ``post_m``)."""

    tie_m: float = 0.0
    splice_m: float = 0.0
    start_m: float = 0.0
    end_m: float = 0.0
    post_m: float = 0.0


@dataclass(frozen=True, slots=True)
class Part:
    """A run, or what of it lies between two posts it is ended on, pulled one way.

    ``stretches`` is the pull along it (stations of the run) while it is drawn, ``after`` once it is tied and let go; ``end_n`` is what is left then at the end or the joint that was let go.
    """

    from_m: float
    to_m: float
    way: From
    splice_m: float | None
    take_up_m: tuple[float, ...]
    stretches: Pulled
    after: Pulled
    affected_m: float
    end_n: float

    @property
    def least_n(self) -> float:
        """The least pull left along it."""
        return least_n(self.after)


@dataclass(frozen=True, slots=True)
class Way:
    """One way to pull a run: its parts, ended on posts at ``ends_m`` between."""

    parts: tuple[Part, ...]

    @property
    def ends_m(self) -> tuple[float, ...]:
        """Stations at which it is ended."""
        return tuple(p.to_m for p in self.parts[:-1])

    @property
    def splices_m(self) -> tuple[float, ...]:
        """Stations of splices that are made under tension."""
        return tuple(p.splice_m for p in self.parts if p.splice_m is not None)

    @property
    def pulls(self) -> int:
        """How often a bar is drawn."""
        return sum(2 if p.way == "both" else 1 for p in self.parts)

    @property
    def least_n(self) -> float:
        """The least pull left anywhere."""
        return min(p.least_n for p in self.parts)

    @property
    def greatest_n(self) -> float:
        """The greatest pull left anywhere."""
        return max(greatest(p.after)[0] for p in self.parts)

    @property
    def after(self) -> Pulled:
        """The pull along the run once all is tied."""
        return tuple(s for p in self.parts for s in p.after)


def one_way(path: Path, bar: Bar, pull_n: float, from_start: bool, give_m: float, at_m: float = 0.0) -> Part:
    """A path pulled from one of its ends, which then gives back."""
    seen = path if from_start else path.turned()
    before, freed = pulled(seen, pull_n), release(seen, bar, pull_n, give_m)
    return Part(
        at_m,
        at_m + path.length_m,
        "start" if from_start else "end",
        None,
        (take_up_m(bar, before),),
        _placed(before, path.length_m, not from_start, at_m),
        _placed(freed.stretches, path.length_m, not from_start, at_m),
        freed.affected_m,
        freed.end_n,
    )


def both_ways(path: Path, bar: Bar, pull_n: float, splice_m: float, give_m: float, at_m: float = 0.0) -> Part:
    """A path drawn together from both sides at a place between its ends, spliced there, and let go."""
    low, high = path.part(0.0, splice_m).turned(), path.part(splice_m, path.length_m)
    drawn = [pulled(side, pull_n) for side in (low, high)]
    freed = let_go_joined(bar, (low, high), pull_n, give_m)
    place = [
        [*_placed(rows[0], splice_m, True, at_m), *_placed(rows[1], 0.0, False, at_m + splice_m)]
        for rows in (drawn, [f.stretches for f in freed])
    ]
    return Part(
        at_m,
        at_m + path.length_m,
        "both",
        at_m + splice_m,
        tuple(take_up_m(bar, rows) for rows in drawn),
        tuple(place[0]),
        tuple(place[1]),
        max(f.affected_m for f in freed),
        freed[0].end_n,
    )


def _placed(stretches: Sequence[Stretch], length_m: float, turned: bool, at_m: float) -> Pulled:
    rows = [s.flipped(length_m) for s in reversed(stretches)] if turned else stretches
    return tuple(s.moved(at_m) for s in rows)


@dataclass(frozen=True, slots=True)
class Search:
    """What is asked: the path, what hangs on it, the pull at every puller, what gives, where a splice may be made (stretches of
    the run), and how many bends it may be ended at."""

    path: Path
    bar: Bar
    pull_n: float
    gives: Gives
    splices_m: tuple[tuple[float, float], ...]
    most_ends: int = 3

    def ways(self) -> tuple[Way, ...]:
        """The best of every kind, the most tension left first: from one end, from the other, spliced in the middle, ended at one bend, two …"""
        grips = sorted(self.path.bends, key=lambda b: -b.mu * b.rad)[:MOST_TRIED]
        bends = sorted(b.at_m for b in grips if 0 < b.at_m < self.path.length_m)
        made: dict[tuple[float, float], list[Part]] = {}

        def best(low: float, high: float, spliced: bool) -> Part:
            if (low, high) not in made:
                made[low, high] = self.parts(low, high)
            return max((p for p in made[low, high] if spliced or p.splice_m is None), key=lambda p: p.least_n)

        found = [Way((part,)) for part in self.parts(0.0, self.path.length_m)]
        for count in range(1, min(self.most_ends, len(bends)) + 1):
            for spliced in (False, True):
                tries = (
                    Way(tuple(best(a, b, spliced) for a, b in pairwise((0.0, *chosen, self.path.length_m))))
                    for chosen in combinations(bends, count)
                )
                found.append(max(tries, key=lambda w: (w.least_n, -w.pulls)))
        return tuple(sorted(dict.fromkeys(found), key=lambda w: -w.least_n))

    def parts(self, low_m: float, high_m: float) -> list[Part]:
        """A part pulled from its start, from its end, and both ways to the best splice in it, where one can be made."""
        path = self.path.part(low_m, high_m)
        start, end = self._end_gives(low_m, high_m)
        found = [
            one_way(path, self.bar, self.pull_n, True, start, low_m),
            one_way(path, self.bar, self.pull_n, False, end, low_m),
        ]
        places = [s - low_m for s in self._places(low_m, high_m)]
        tries = [both_ways(path, self.bar, self.pull_n, s, self.gives.splice_m, low_m) for s in places]
        if tries:
            most = max(p.least_n for p in tries)
            middle = (low_m + high_m) / 2
            good = [p for p in tries if p.least_n >= most * (1 - SAME)]
            found.append(min(good, key=lambda p: abs((p.splice_m or 0.0) - middle)))
        return found

    def _end_gives(self, low_m: float, high_m: float) -> tuple[float, float]:
        g, length = self.gives, self.path.length_m
        start = g.start_m if low_m < AT_M else g.post_m
        end = g.end_m if high_m > length - AT_M else g.post_m
        return g.tie_m + start, g.tie_m + end

    def _places(self, low_m: float, high_m: float) -> list[float]:
        """Where a splice is tried in a part: of every straight between bends the allowed places nearest its middle and its ends."""
        straights = pairwise([low_m, *(b.at_m for b in self.path.bends if low_m < b.at_m < high_m), high_m])
        found: list[float] = []
        for a, b in straights:
            low, high = a + CLEAR_OF_BEND_M, b - CLEAR_OF_BEND_M
            inside = [(max(x, low), min(y, high)) for x, y in self.splices_m if min(y, high) > max(x, low)]
            if inside:
                found += {_nearest(inside, at) for at in (a, (a + b) / 2, b)}
        return sorted(found)


def _nearest(spans: Iterable[tuple[float, float]], at_m: float) -> float:
    """The place within the spans that lies nearest a station."""
    return min((min(max(at_m, a), b) for a, b in spans), key=lambda s: abs(s - at_m))


@dataclass(frozen=True, slots=True)
class Point:
    """The place from which pulling both ways leaves most, before anything is let go: from and to, and what is left."""

    from_m: float
    to_m: float
    least_n: float


def best_point(path: Path, pull_n: float, step_m: float) -> Point:
    """Every place of a grid tried, and both sides of every bend; the first stretch of places that tie."""
    edges = [0.0, *(b.at_m for b in path.bends), path.length_m]
    tried: list[tuple[float, float]] = []
    for behind, (low, high) in enumerate(pairwise(edges)):
        first, last = math.ceil(low / step_m - SAME), math.floor(high / step_m + SAME)
        for at in sorted({low, high, *(k * step_m for k in range(first, last + 1) if low < k * step_m < high)}):
            tried.append((at, min(least_n(pulled(side, pull_n)) for side in path.split(at, behind))))
    most = max(n for _, n in tried)
    tied = [n >= most * (1 - SAME) for _, n in tried]
    start = tied.index(True)
    end = next((k for k in range(start, len(tried)) if not tied[k]), len(tried)) - 1
    return Point(tried[start][0], tried[end][0], most)


def ended_at(path: Path, pull_n: float, at_m: float) -> float:
    """Least pull of a run ended on a post at a bend, each side drawn from its better end, before anything is let go."""
    sides = (path.part(0.0, at_m), path.part(at_m, path.length_m))
    return min(max(least_n(pulled(s, pull_n)), least_n(pulled(s.turned(), pull_n))) for s in sides)
