"""Rigid top rails: straight from terminal to terminal where that leaves little enough under the fabric, else raked at posts.

Source: docs/method.md §2.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from gnomonic.core.ground.profile import Floats, Profile
from gnomonic.core.setout.least_cost import BayGround, Limits
from gnomonic.core.setout.line import Layout, merged
from gnomonic.core.setout.string_line import StringLine, string_line


@dataclass(frozen=True, slots=True, eq=False)
class Rail:
    """The rail of one run: ``nodes_m`` (station, height over the ground) where it is straight in between, ``heights_m`` over the ground
    at each post; ``string`` what one straight rail would be, ``straight`` whether it is that."""

    nodes_m: tuple[tuple[float, float], ...]
    heights_m: tuple[float, ...]
    string: StringLine
    straight: bool


def areas_over(x: Floats, over: Floats) -> Floats:
    """Area (m²) of each stretch between nodes where ``over`` is above nothing; it runs straight between nodes.

    >>> areas_over(np.array([0.0, 2.0, 4.0]), np.array([-1.0, 1.0, 1.0])).tolist()
    [0.5, 2.0]
    """
    a, b, w = over[:-1], over[1:], np.diff(x)
    top = np.maximum(a, b)
    both = (a >= 0) & (b >= 0)
    crossing = np.where((top > 0) & ~both, top**2 / np.where(a == b, 1.0, np.abs(a - b)), 0.0)
    return w / 2 * np.where(both, a + b, crossing)


def rail_layout(profile: Profile, stations_m: Sequence[float], rail: Rail, fabric_m: float, limits: Limits) -> Layout:
    """What lies under each bay where fabric ``fabric_m`` high hangs from a rail."""
    posts = np.asarray(stations_m)
    nodes = merged(posts, profile.breaks_between(posts[0], posts[-1]))
    z = profile.at(nodes)
    tops = profile.at(posts) + np.asarray(rail.heights_m)
    gap = np.interp(nodes, posts, tops) - fabric_m - z
    fill, cut = areas_over(nodes, gap - limits.gap_max_m), areas_over(nodes, limits.gap_min_m - gap)
    grades = np.diff(tops) / np.diff(posts)
    index = np.searchsorted(nodes, posts - 1e-7)
    bays = []
    for k, (i, j) in enumerate(pairwise(index.tolist())):
        own = slice(i, j + 1)
        worst, least = i + int(gap[own].argmax()), i + int(gap[own].argmin())
        bays.append(
            BayGround(
                float(fill[i:j].sum()),
                float(cut[i:j].sum()),
                float(gap[worst]),
                float(nodes[worst]),
                float(gap[least]),
                float(nodes[least]),
                float(grades[k]),
            )
        )
    return Layout(tuple(float(s) for s in stations_m), tuple(bays), limits)


def straight_rail(profile: Profile, stations_m: Sequence[float], high_m: float, way: str = "") -> Rail:
    """One straight rail over a run, nowhere less than ``high_m`` over the ground: as little over it as can be, or by raising only
    its ``first`` or its ``last`` end; or that high at both ends, humps dug (``trench``)."""
    low, high = stations_m[0], stations_m[-1]
    s = merged([low, high], profile.breaks_between(low, high))
    string = string_line(s, profile.at(s), high_m)
    ends = {
        "first": (high_m + string.raise_a_only_m, high_m),
        "last": (high_m, high_m + string.raise_b_only_m),
        "trench": (high_m, high_m),
    }
    a, b = ends.get(way, (string.a_m, string.b_m))
    return _through(profile, stations_m, ((low, a), (high, b)), string, True)


def raked_rail(profile: Profile, stations_m: Sequence[float], high_m: float, fabric_m: float, limits: Limits) -> Rail:
    """A rail ``high_m`` up at terminals and at as few posts between as keep its fabric within the gaps allowed.

    Fewest kinks, then the least area to fill and cut; exact over the posts.
    """
    posts = np.asarray(stations_m)
    nodes = merged(posts, profile.breaks_between(posts[0], posts[-1]))
    z, index = profile.at(nodes), np.searchsorted(nodes, posts - 1e-7)
    n = len(posts)
    best: list[tuple[int, float, int]] = [(0, 0.0, -1)] + [(n + 1, 0.0, -1)] * (n - 1)
    for j in range(1, n):
        for i in range(j - 1, -1, -1):
            a, b = index[i], index[j]
            chord = np.interp(nodes[a : b + 1], [nodes[a], nodes[b]], [z[a], z[b]])
            gap = high_m - fabric_m + chord - z[a : b + 1]
            bad = float(
                areas_over(nodes[a : b + 1], gap - limits.gap_max_m).sum()
                + areas_over(nodes[a : b + 1], limits.gap_min_m - gap).sum()
            )
            if bad > 1e-6 and j - i > 1:
                if bad > 10.0:  # it only gets worse further back
                    break
                continue
            best[j] = min(best[j], (best[i][0] + 1, best[i][1] + bad, i))
    kinks, k = [n - 1], n - 1
    while k > 0:
        k = best[k][2]
        kinks.append(k)
    chosen = tuple((float(posts[k]), high_m) for k in reversed(kinks))
    s = merged([posts[0], posts[-1]], profile.breaks_between(posts[0], posts[-1]))
    return _through(profile, stations_m, chosen, string_line(s, profile.at(s), high_m), len(chosen) == 2)


def _through(
    profile: Profile,
    stations_m: Sequence[float],
    nodes_m: tuple[tuple[float, float], ...],
    string: StringLine,
    straight: bool,
) -> Rail:
    posts, at = np.asarray(stations_m), np.array([s for s, _ in nodes_m])
    tops = profile.at(at) + np.array([h for _, h in nodes_m])
    heights = np.interp(posts, at, tops) - profile.at(posts)
    return Rail(nodes_m, tuple(float(h) for h in heights), string, straight)
