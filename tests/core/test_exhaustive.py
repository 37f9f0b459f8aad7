"""Small lines solved by trying every layout there is: cost, then Σ bay², then the smallest stations."""

from itertools import combinations, pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gnomonic.core.calc import calc
from gnomonic.core.errors import BadInput

LONGEST = 3.0


def height(profile, s):
    stations, heights = zip(*profile, strict=True)
    return float(np.interp(s, stations, heights))


def excess(profile, a, b, clearance, limit, sign):
    """Area beyond a limit under the chord from a to b, by fine sampling of every straight piece (exact where it is)."""
    knots = sorted({a, b, *(s for s, _ in profile if a < s < b)})
    za, zb = height(profile, a), height(profile, b)

    def over(s):
        gap = clearance + za + (zb - za) * (s - a) / (b - a) - height(profile, s)
        return sign * (gap - limit)

    total = 0.0
    for p, q in pairwise(knots):
        first, second = over(p), over(q)
        if first <= 0 and second <= 0:
            continue
        low, high = p, q
        if first < 0:
            low = p + (q - p) * -first / (second - first)
        if second < 0:
            high = p + (q - p) * first / (first - second)
        total += (max(first, 0) + max(second, 0)) / 2 * (high - low)
    return total


def every_layout(profile, length, grid, forced, forbidden):
    """(cost, Σ bay², stations) of every layout allowed."""
    stations = {0.0, length, *forced, *(s for s, _ in profile if 0 < s < length)}
    stations |= {k * grid for k in range(int(length / grid + 1e-9) + 1)}
    inside = {s for s in stations if any(a < s < b for a, b in forbidden)} - {0.0, length}
    free = sorted(stations - inside - {0.0, length, *forced})
    for count in range(len(free) + 1):
        for chosen in combinations(free, count):
            posts = sorted({0.0, length, *forced, *chosen})
            bays = list(pairwise(posts))
            if any(b - a > LONGEST + 1e-9 for a, b in bays):
                continue
            fill = sum(excess(profile, a, b, 0.05, 0.1, 1) for a, b in bays)
            cut = sum(excess(profile, a, b, 0.05, 0.0, -1) for a, b in bays)
            yield len(posts) + 4 * fill + 8 * cut, sum((b - a) ** 2 for a, b in bays), posts


heights = st.lists(st.sampled_from([0.0, 0.05, 0.1, 0.2, 0.4, -0.1, -0.3]), min_size=3, max_size=5)


@given(heights, st.booleans(), st.lists(st.tuples(st.integers(0, 7), st.integers(1, 2)), max_size=1))
def test_the_best_of_all_layouts(levels, force, stretches):
    profile = [[2.0 * k, z] for k, z in enumerate(levels)]
    length = profile[-1][0]
    forced = [2.0] if force else []
    forbidden = [[float(a), float(a + w)] for a, w in stretches]
    ask = {
        "profile": profile, "clearance_m": 0.05, "gap_min_m": 0.0, "gap_max_m": 0.1, "max_spacing_m": LONGEST,
        "grid_m": 1.0, "forced_m": forced, "forbidden_m": forbidden,
    }  # fmt: skip
    layouts = list(every_layout(profile, length, 1.0, forced, forbidden))
    try:
        answer = calc("setout", ask)
    except BadInput as error:
        blocked = (
            any(a < f < b for f in forced for a, b in forbidden) and "inside a forbidden stretch" in error.sentence
        )
        assert blocked or not layouts
        return
    least = min(cost for cost, _, _ in layouts)
    cheapest = [(squares, posts) for cost, squares, posts in layouts if cost <= least + 1e-7]
    evenest = min(squares for squares, _ in cheapest)
    first = min(posts for squares, posts in cheapest if squares <= evenest + 1e-7)
    assert answer["cost"] == pytest.approx(least, abs=1e-6)
    assert answer["sum_len2_m2"] == pytest.approx(evenest, abs=1e-6)
    assert answer["stations_m"] == first
    assert answer["fill_m2"] == pytest.approx(
        sum(excess(profile, a, b, 0.05, 0.1, 1) for a, b in pairwise(first)), abs=1e-9
    )
    assert answer["cut_m2"] == pytest.approx(
        sum(excess(profile, a, b, 0.05, 0.0, -1) for a, b in pairwise(first)), abs=1e-9
    )


@given(heights)
def test_gaps_are_the_extremes_along_the_fabric(levels):
    profile = [[2.0 * k, z] for k, z in enumerate(levels)]
    answer = calc(
        "setout",
        {
            "profile": profile,
            "clearance_m": 0.05,
            "gap_min_m": 0.0,
            "gap_max_m": 0.1,
            "max_spacing_m": 4.0,
            "grid_m": 1.0,
        },
    )
    posts = answer["stations_m"]
    along = np.linspace(0, posts[-1], 40 * int(posts[-1]) + 1)
    bottom = np.interp(along, posts, [height(profile, s) + 0.05 for s in posts])
    gap = bottom - [height(profile, s) for s in along]
    assert answer["worst_gap_m"] == pytest.approx(gap.max(), abs=1e-9)
    assert answer["least_gap_m"] == pytest.approx(gap.min(), abs=1e-9)
    assert gap[np.argmin(np.abs(along - answer["worst_gap_at_m"]))] == pytest.approx(gap.max(), abs=1e-9)
