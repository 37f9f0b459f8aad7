"""Course, turns, crossings, runs and braces: worked values and what must hold on any line."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gnomonic.core.brace.layout import brace_ends
from gnomonic.core.demand.section import section
from gnomonic.core.demand.system import system
from gnomonic.core.errors import BadInput
from gnomonic.core.finish.fittings import post_fittings, slot_of
from gnomonic.core.ground.course import course, self_crossing
from gnomonic.core.ground.profile import Profile
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.core.setout.line import merged
from gnomonic.core.setout.runs import Gap, split_runs


def line_of(*points, closed=False):
    made = tuple(Point(e_m=float(e), n_m=float(n), h_m=float(h)) for e, n, h in points)
    return course(MeasuredLine(points=made, closed=closed, source=Source(kind="legs", points_read=2)))


SQUARE = [(0, 0, 1), (0, 30, 2), (30, 30, 3), (30, 0, 2)]


def test_stations_run_along_the_plan_and_heights_along_them():
    line = line_of((0, 0, 10), (3, 4, 12), (3, 14, 8))
    assert line.stations_m.tolist() == [0, 5, 15] and line.length_m == 15
    assert line.profile.at(np.array([2.5, 10.0])).tolist() == [11, 10]
    assert line.place(10.0) == (3.0, 9.0)
    assert line.area_m2() is None


def test_turns_are_right_positive_and_a_closed_line_turns_at_its_start_too():
    square = line_of(*SQUARE, closed=True)
    assert square.turns_deg().tolist() == pytest.approx([90] * 5)
    assert line_of(*SQUARE[::-1], closed=True).turns_deg().tolist() == pytest.approx([-90] * 5)
    assert line_of(*SQUARE).turns_deg().tolist() == pytest.approx([0, 90, 90, 0])
    assert square.area_m2() == 900


@given(st.lists(st.tuples(st.floats(-50, 50), st.floats(-50, 50)), min_size=3, max_size=12, unique=True))
def test_turns_of_any_closed_line_add_up_to_whole_circles(points):
    line = line_of(*[(round(e, 3), round(n, 3), 0) for e, n in points], closed=True)
    if np.diff(line.stations_m).min() < 0.01:
        return
    total = float(line.turns_deg()[1:].sum()) % 360
    assert min(total, 360 - total) < 1e-6


@given(st.floats(0.1, 359.9), st.floats(-1000, 1000), st.floats(-1000, 1000))
def test_area_does_not_care_where_or_how_the_figure_lies(angle, east, north):
    a = math.radians(angle)
    turned = [
        (east + e * math.cos(a) - n * math.sin(a), north + e * math.sin(a) + n * math.cos(a), 0) for e, n, _ in SQUARE
    ]
    assert line_of(*turned, closed=True).area_m2() == pytest.approx(900, rel=1e-9)


@pytest.mark.parametrize(
    ("points", "hit"),
    [
        ([(0, 0), (10, 0), (10, 10), (5, -5)], (0, 2)),
        ([(0, 0), (10, 0), (10, 10), (0, 10)], None),
        ([(0, 0), (10, 0), (10, 10), (0, 10), (0, 0)], None),
        ([(0, 0), (10, 0), (10, 10), (5, 0), (0, 10)], (0, 2)),
    ],
)
def test_crossings(points, hit):
    table = np.array(points, dtype=float)
    assert self_crossing(table[:, 0], table[:, 1]) == hit


@given(st.lists(st.tuples(st.integers(0, 9), st.integers(0, 9)), min_size=3, max_size=9, unique=True))
def test_crossings_agree_with_looking_at_every_pair_of_legs(points):
    def side(p, q, r):
        return (q[0] - p[0]) * (r[1] - p[1]) - (q[1] - p[1]) * (r[0] - p[0])

    def properly(a, b, c, d):
        return side(a, b, c) * side(a, b, d) < 0 and side(c, d, a) * side(c, d, b) < 0

    legs = list(pairwise(points))
    crossed = any(properly(*legs[i], *legs[j]) for i in range(len(legs)) for j in range(i + 2, len(legs)))
    table = np.array(points, dtype=float)
    if crossed:
        assert self_crossing(table[:, 0], table[:, 1]) is not None


def test_profiles():
    profile = Profile.of([(0, 0), (3, 4), (6, 4)])
    assert profile.slope_length_m() == 8 and profile.breaks_between(0, 6).tolist() == [3]
    assert profile.at(np.array([-1.0, 99.0])).tolist() == [0, 4]


def test_a_height_that_can_not_be_is_said_in_feet_too():
    """9001 m are 29 531 ft, 9000 m 29 528, −500 m −1640 (÷ 0.3048)."""
    with pytest.raises(BadInput) as caught:
        Profile.of([(0, 5), (10, 9001)]).check("line", "point {n}")
    assert "point 2 has a height of 29531 ft: ground lies between −1640 and 29528 ft" in caught.value.said.text("us")


@pytest.mark.parametrize(
    ("spots", "words"),
    [
        # up and down 40 m every 100 m: 490 legs of 107.703 m are 52.77 km
        ([(100.0 * k, 40.0 * (k % 2)) for k in range(491)], "52.8 km long along the slope"),
        ([(0, 5), (10, 5), (20, 9001)], "{shot 3} has a height of 9001 m"),
        ([(0, -501), (2000, 5)], "{shot 1} has a height of -501 m"),
        (
            [(0, 5), (10, 5), (11, 45)],
            "between {shot 2} and the next the ground rises 40.00 m over 1.00 m: that is a wall",
        ),
    ],
)
def test_ground_that_can_not_be_is_refused_with_its_shot(spots, words):
    with pytest.raises(BadInput) as caught:
        Profile.of(spots).check("line[{k}]", "{{shot {n}}}")
    assert words in caught.value.sentence


@given(st.lists(st.floats(0, 50), min_size=1, max_size=20), st.lists(st.floats(0, 50), max_size=20))
def test_merged_stations_rise_and_keep_the_first_groups_own_values(first, second):
    made = merged(first, second).tolist()
    assert all(b - a > 1e-8 for a, b in pairwise(made))
    for value in first + second:
        assert min(abs(value - m) for m in made) <= 1e-6
    assert all(any(m == v for v in first + second) for m in made)


def test_runs_end_at_corners_beyond_the_stated_angle():
    bent = line_of((0, 0, 0), (20, 0, 0), (40, 5, 0), (40, 30, 0))
    runs, _ = split_runs(bent, (), 20.0)
    assert [(r.start.role, r.end.role) for r in runs] == [("end", "corner"), ("corner", "end")]
    assert len(split_runs(bent, (), 10.0)[0]) == 3 and len(split_runs(bent, (), 80.0)[0]) == 1


def test_a_gate_hung_on_a_corner_post_shares_it():
    square = line_of(*SQUARE, closed=True)
    runs, gates = split_runs(square, [Gap("g1", "gate", 30.1, 4.0)], 20.0)
    assert [round(r.start.station_m, 2) for r in runs] == [0, 34.1, 60, 90] and len(gates) == 1
    assert runs[0].end.role == "gate" and runs[0].end.turn_deg == pytest.approx(90)


def test_a_gate_made_for_its_leaf_moves_and_does_not_stretch():
    """Staked 0.1 m beyond the corner at 30 m it stretched to 4.1 m; one that is its leaf's hangs from the corner and stays 4 m wide, from
    either side; caught between two corners it can't, and says so by its width."""
    square = line_of(*SQUARE, closed=True)
    for at, low, high in ((30.1, 30.0, 34.0), (55.9, 56.0, 60.0), (26.1, 26.0, 30.0)):
        _, (gap,) = split_runs(square, [Gap("g1", "gate", at, 4.0, "gate", True)], 20.0)
        assert (gap.at_m, gap.end_m) == pytest.approx((low, high))
    _, (gap,) = split_runs(square, [Gap("g1", "gate", 0.1, 29.8, "gate", True)], 20.0)
    assert (gap.at_m, gap.end_m) == pytest.approx((0.0, 30.0))


@given(
    st.floats(0.5, 60), st.floats(1.5, 3.0), st.integers(1, 3), st.floats(2, 5),
    st.lists(st.tuples(st.floats(0, 60), st.floats(0.1, 2)), max_size=3),
)  # fmt: skip
def test_braces_of_any_run(length, spacing, panels, longest, stretches):
    forbidden = [(low, low + wide) for low, wide in stretches]
    first, second = brace_ends(0, 100.0, 100.0 + length, ((min(spacing, longest), panels),) * 2, longest, forbidden)
    assert first.stations_m[0] == 100.0 and second.stations_m[0] == 100.0 + length
    assert list(first.stations_m) == sorted(first.stations_m)
    assert list(second.stations_m) == sorted(second.stations_m, reverse=True)
    assert 1 <= first.panels <= panels and first.panels == second.panels
    if not first.shared:
        assert first.stations_m[-1] <= second.stations_m[-1] + 1e-6
        for end in (first, second):
            widths = np.abs(np.diff(end.stations_m))
            assert np.all(widths <= max(1.25 * min(spacing, longest), longest) + 1e-9)


@pytest.mark.parametrize(
    ("kind", "role", "ends", "expected"),
    [
        ("terminal", "corner", 2, {"staple": 18, "tie_off": 18}),
        ("terminal", "end", 1, {"staple": 9, "tie_off": 9}),
        ("brace", "brace", 1, {"staple": 9}),
        ("wood", "line", 1, {"staple": 6}),
        ("wood", "dip", 1, {"staple": 9}),
        ("steel", "line", 1, {"clip": 5, "cap": 1}),
    ],
)
def test_fasteners_by_hand(kind, role, ends, expected):
    slot = slot_of(system("woven"), kind, role)
    found = post_fittings(section("woven", "9-49-6"), slot, ends, 0.06, 1.4)
    assert {f.item: f.count for f in found} == expected


@pytest.mark.parametrize(("label", "staples"), [("832-6", 6), ("13-48-6", 8)])  # 1 2 · 4 · 6 · 7 8 → two between
def test_fasteners_of_eight_and_thirteen_wires(label, staples):
    (found,) = post_fittings(section("woven", label), "firm", 1, 0.06, 1.4)
    assert (found.item, found.count) == ("staple", staples) and found.heights_m[0] == 0.06
