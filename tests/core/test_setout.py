"""The set-out: worked values, and what must hold on any ground."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gnomonic.core.calc import calc
from gnomonic.core.errors import BadInput
from gnomonic.core.setout import kernels
from gnomonic.core.setout.least_cost import Limits, solve
from gnomonic.core.setout.line import even_grid

DIP = {
    "profile": [[0, 1], [20, 0], [40, 1]],
    "clearance_m": 0.05,
    "gap_min_m": 0.0,
    "gap_max_m": 0.1,
    "max_spacing_m": 5.0,
}


def test_flat():
    flat = calc("setout", {**DIP, "profile": [[0, 3], [100, 3]], "max_spacing_m": 4.0})
    assert flat["bays"] == 25 and np.allclose(np.diff(flat["stations_m"]), 4.0)
    assert (flat["cost"], flat["fill_m2"], flat["cut_m2"], flat["gain_vs_even"]) == (26, 0, 0, 0)


def test_dip():
    dip = calc("setout", DIP)
    assert dip["bays"] == 8 and 20.0 in dip["stations_m"] and dip["worst_gap_m"] == pytest.approx(0.05)


def test_dip_with_its_bottom_forbidden():
    dip = calc("setout", {**DIP, "forbidden_m": [[18, 22]]})
    assert dip["bays"] == 9 and dip["fill_m2"] == pytest.approx(0.05) and dip["cost"] == pytest.approx(10.2)
    assert dip["worst_gap_m"] == pytest.approx(0.15) and dip["worst_gap_at_m"] == 20.0
    assert dip["even"]["posts_in_forbidden"] == 1


def test_a_hump_is_cut_where_no_post_may_stand():
    hump = calc("setout", {**DIP, "profile": [[0, 0], [20, 1], [40, 0]], "forbidden_m": [[18, 22]]})
    # chord level between 18 and 22, ground 0.1 higher in the middle: a triangle of base 2, height 0.05
    assert hump["cut_m2"] == pytest.approx(0.05) and hump["least_gap_m"] == pytest.approx(-0.05)


def test_grid_trap():
    grid = even_grid(0.0, 42 * 2.4384, 2.4384, 0.25)
    solved = solve(grid, np.zeros(len(grid)), np.ones(len(grid), bool), Limits(2.4384, 0.05, 0, 0.1, 4, 8))
    assert len(solved.chosen) == 43


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"forbidden_m": [[10, 16]]}, "forbidden_m", "no feasible set-out: between 10.00 m and 16.00 m"),
        ({"forced_m": [20.0], "forbidden_m": [[18, 22]]}, "forced_m[0]", "lies inside a forbidden stretch"),
        ({"forced_m": [41.0]}, "forced_m[0]", "off the line of 40 m"),
        ({"profile": [[0, 1], [20, float("nan")], [40, 1]]}, "profile[1][1]", "must be a finite number"),
        ({"profile": [[0, 1], [20, 0], [20, 1]]}, "profile[2]", "stations must rise"),
        ({"profile": [[0, 1]]}, "profile", "at least 2"),
        ({"profile": [[1, 1], [40, 0]]}, "profile[0]", "must cover the line from 0 m"),
        ({"length_m": 50.0}, "length_m", "ends at 40 m"),
        ({"gap_min_m": 0.06}, "gap_min_m", "must leave clearance_m"),
        ({"gap_max_m": 0.04}, "gap_max_m", "must leave clearance_m"),
        ({"max_spacing_m": 0}, "max_spacing_m", "greater than 0"),
        ({"max_spacing": 5}, "max_spacing", "is not a key"),
        ({"grid_m": 1e-6}, "grid_m", "too fine"),
        ({"forbidden_m": [[9, 9]]}, "forbidden_m[0]", "not beyond its start"),
        ({"extra_m": [-1.0]}, "extra_m[0]", "off the line"),
        ({"clearance_m": True}, "clearance_m", "must be a number"),
        ({"clearance_m": "0.05"}, "clearance_m", "must be a number"),
    ],
)
def test_refusals(change, field, words):
    with pytest.raises(BadInput, match=words.replace("[", r"\[").replace("]", r"\]")) as caught:
        calc("setout", {**DIP, **change})
    assert caught.value.field == field
    assert "\n" not in caught.value.sentence


grounds = st.lists(st.floats(-0.6, 0.6).map(lambda v: round(v, 3)), min_size=3, max_size=30)


def ask(heights, **more):
    profile = [[k * 1.5, z] for k, z in enumerate(heights)]
    return calc("setout", {**DIP, "profile": profile, **more})


@given(grounds)
def test_never_dearer_than_even_spacing_whose_stations_are_candidates(heights):
    even = ask(heights)["even"]["stations_m"]
    best = ask(heights, extra_m=even)
    assert best["cost"] <= best["even"]["cost"] + 1e-6
    assert best["longest_bay_m"] <= 5.0 + 1e-9


@given(grounds)
def test_mirrored_ground_costs_the_same(heights):
    whole = [*heights, heights[0]] if len(heights) % 2 == 0 else heights  # an end on the grid from both sides
    there, back = ask(whole), ask(whole[::-1])
    assert there["cost"] == pytest.approx(back["cost"], abs=1e-6)
    assert there["sum_len2_m2"] == pytest.approx(back["sum_len2_m2"], abs=1e-6)


@given(grounds, st.lists(st.floats(0, 1), max_size=5))
def test_another_candidate_never_makes_it_worse(heights, shares):
    length = (len(heights) - 1) * 1.5
    more = ask(heights, extra_m=[round(s * length, 3) for s in shares])
    assert more["cost"] <= ask(heights)["cost"] + 1e-6


@given(st.integers(0, 10_000), st.integers(5, 380), st.integers(1, 8))
def test_a_local_change_gives_the_same_answer_as_starting_over(seed, at, wide):
    random = np.random.default_rng(seed)
    x = np.arange(0, 100.01, 0.25)
    z = np.cumsum(random.normal(0, 0.02, len(x)))
    limits = Limits(4.0, 0.06, 0.0, 0.1, 4.0, 8.0)
    before = solve(x, z, np.ones(len(x), bool), limits)
    allowed, ground = np.ones(len(x), bool), z.copy()
    allowed[at : at + wide] = False
    ground[at] += 0.1
    again, anew = solve(x, ground, allowed, limits, before), solve(x, ground, allowed, limits)
    assert again.chosen == anew.chosen and np.array_equal(again.cost_to_go, anew.cost_to_go)
    assert again.work <= anew.work
    assert solve(x, z, np.ones(len(x), bool), limits, before) is before


@pytest.mark.parametrize("seed", range(4))
def test_the_compiled_loops_do_as_their_text_says(monkeypatch, seed):
    random = np.random.default_rng(seed)
    x = np.cumsum(random.uniform(0.1, 0.9, 60))
    z, allowed = np.cumsum(random.normal(0, 0.05, 60)), random.random(60) > 0.1
    limits = Limits(3.0, 0.06, 0.0, 0.1, 4.0, 8.0, ((0.05, 2.0),))
    changed = allowed.copy()
    changed[50] ^= True
    fast = solve(x, z, allowed, limits)
    again = solve(x, z, changed, limits, fast)
    measured = kernels.bay_table(x, z, np.array(fast.chosen), 0.06, 0.04, 0.06)
    plain = [getattr(kernels, name).py_func for name in ("excess_area", "weigh", "sweep", "walk", "bay_table")]
    monkeypatch.setattr(kernels, "excess_area", plain[0])
    for name, function in zip(("weigh", "sweep", "walk"), plain[1:], strict=False):
        monkeypatch.setattr(f"gnomonic.core.setout.least_cost.{name}", function)
    with np.errstate(invalid="ignore"):  # inf − inf in the plain text; the compiled loops do not warn
        slow = solve(x, z, allowed, limits)
        assert slow.chosen == fast.chosen and np.array_equal(slow.weight, fast.weight)
        assert solve(x, z, changed, limits, slow).chosen == again.chosen == solve(x, z, changed, limits).chosen
    assert np.array_equal(plain[4](x, z, np.array(fast.chosen), 0.06, 0.04, 0.06), measured)


@pytest.mark.parametrize(("height", "k_cut"), [(1e5, 1000.0), (9e6, 8.0), (2e4, 1000.0)])
def test_a_height_from_another_world_never_runs_the_loops_past_their_arrays(height, k_cut):
    """Costs beyond 2²² are no longer exact in a double: the way back still ends, with and without an older solution."""
    x = even_grid(0.0, 200.0, 5.0, 0.25)
    z = np.where(np.abs(x - 100.0) < 0.3, height, 0.0)
    limits = Limits(5.0, 0.1, 0.0, 0.2, 4.0, k_cut, ((0.25, 3.0),))
    old = None
    for low, high in ((-1.0, -0.5), (40.0, 43.0), (60.0, 62.0), (140.0, 144.0), (99.0, 101.0)):
        allowed = ~((x > low) & (x < high))
        now, fresh = solve(x, z, allowed, limits, old), solve(x, z, allowed, limits)
        assert now.chosen[0] == 0 and now.chosen[-1] == len(x) - 1 and now.chosen == fresh.chosen
        old = now


def test_ground_that_cannot_be_is_refused_by_name():
    for profile, field, words in (
        ([[0, 1], [20, 1e5], [40, 1]], "profile[1]", "ground lies between -500 and 9000 m"),
        ([[0, 1], [20, 1], [20.5, 61]], "profile[2]", "rises 60.00 m over 0.50 m"),
    ):
        with pytest.raises(BadInput) as caught:
            calc("setout", {**DIP, "profile": profile})
        assert caught.value.field == field and words in caught.value.sentence
    steep = calc("setout", {**DIP, "profile": [[0, 0], [20, 10], [40, 0]]})  # 50 % is steep, not impossible
    assert steep["posts"] > 2
