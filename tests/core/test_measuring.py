"""Measuring: the field book, closure and its blunders, levels, squares, finds and their stretches."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely import LineString, Point

from gnomonic.core.calc import calc
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.bearing import bearing_deg, declination_deg, quadrant
from gnomonic.core.ground.book import read_book
from gnomonic.core.ground.booked import booked_points, reduce_book
from gnomonic.core.ground.square import two_distances
from gnomonic.core.ground.traverse import closure, suspects


def spots(text, unit=None):
    return [(round(s.e_m, 4), round(s.n_m, 4), round(s.h_m, 4)) for s in read_book(text, unit).spots]


@pytest.mark.parametrize(
    ("book", "last"),
    [
        ("N 0 E 100 m +1 m", (0, 100, 1)),
        ("90 2 chains", (40.2336, 0, 0)),
        ("E 1 rod", (5.0292, 0, 0)),
        ("E 96' 6 1/2\"  -1' 2\"", (29.4259, 0, -0.3556)),
        ("E 100.5 ft", (30.6324, 0, 0)),
        ("E slope 100 m at 30°", (86.6025, 0, 50)),
        ("E slope 100 m at -30", (86.6025, 0, -50)),
        ("E slope 100 m at 75 %", (80, 0, 60)),
        ("E slope 5 m rise 3 m", (4, 0, 3)),
        ("E slope 5 m fall 3 m", (4, 0, -3)),
        ("pace 0.8 m\nE 50 paces", (40, 0, 0)),
        ("declination 10 E\n80 100 m", (100, 0, 0)),
        ("declination 3°30' W\n93.5 100 m  +2 m", (100, 0, 2)),
        ("N 0 E 10 m\nsquare right 5 m", (5, 10, 0)),
        ("N 0 E 10 m\nsquare left 5 m  +1 m", (-5, 10, 1)),
        ("N 0 E 10 m\nturn right 30 10 m", (5, 18.6603, 0)),
        ("N 0 E 10 m\npeg P E 20 m\nbase 1 P\nat 5 m left 3 m", None),
        ("E 5 m @ b\nN 0 E 7 m\ntriangle 1 b 3 m 4 m left", (1.8, 2.4, 0)),
        ("E 5 m\nN 0 E 7 m\ntriangle 1 2 3 m, 4 m right", (1.8, -2.4, 0)),
    ],
)
def test_every_way_of_measuring_a_point(book, last):
    found = spots(book)
    if last is not None:
        assert found[-1] == pytest.approx(last, abs=1e-3)
    else:  # the base runs from (0, 0) to (20, 10): five along it and three to its left
        along, off = np.array([2, 1]) / math.sqrt(5), np.array([-1, 2]) / math.sqrt(5)
        assert found[-1][:2] == pytest.approx(tuple(5 * along + 3 * off), abs=1e-3)


def test_a_leg_remembers_how_it_was_got_and_how_good_it_is():
    page = read_book("pace 0.8 m\ndeclination 1 E\nE 50 paces\nE 40 m @ gate\nE slope 40 m at 4°\nsquare left 3 m")
    assert [s.how for s in page.spots] == ["start", "pace", "tape", "slope", "tape"]
    pace, tape, slope, square = (s.good_m for s in page.spots[1:])
    assert pace > slope > tape > square > 0.01
    assert page.spots[2].name == "gate" and page.spots[2].line_no == 4


def test_a_string_gives_ground_heights_along_its_leg():
    page = read_book("E 8 m\nstring 1.20 m: 4 m 1.35 m, 6 m 1.50 m, 8 m 1.10 m\nE 2 m  +0.5 m")
    assert [(round(s.e_m, 3), round(s.h_m, 3)) for s in page.spots] == [
        (0, 0), (4, -0.15), (6, -0.3), (8, 0.1), (10, 0.6),
    ]  # fmt: skip
    assert [s.how for s in page.spots] == ["start", "string", "string", "tape", "tape"]


def test_staff_readings_lift_what_was_booked_from_their_points():
    page = read_book(
        "E 8 m @ a\nE 8 m @ b\nE 2 m  +0.5 m\nstaff back 1.5 m on 1\nstaff inter 1.0 m on a\n"
        "staff fore 0.8 m on b\nstaff back 1.1 m on b\nstaff fore 2.0 m on 1"
    )
    assert page.levels.agree is True
    assert [round(s.h_m, 3) for s in page.spots] == [-0.2, 0.5, 0.7, 1.2]


@pytest.mark.parametrize(
    ("book", "words"),
    [
        ("E 10 m\nN 400 E 5 m", "line 2: “N 400 E 5 m” has a quadrant bearing beyond 90"),
        ("370 5 m", "a circle has 360"),
        ("E 40 paces", "no pace is given"),
        ("pace 5 m", "nobody's"),
        ("declination north", "is not a declination"),
        ("E slope 10 m", "needs its angle"),
        ("E slope 10 m at 85", "a wall"),
        ("E slope 10 m at x %", "is not a number"),
        ("E slope 10 m rise 12 m", "more than the slope distance"),
        ("square right 10 m", "a turn follows a leg"),
        ("E 5 m\nturn left 200 5 m", "less than 180"),
        ("E 5 m\nat 3 m left 1 m", "needs a base line"),
        ("E 5 m\nbase 1 7", "there is no point “7”"),
        ("E 5 m\nbase 1 1", "the same place"),
        ("E 5 m\nbase 1", "runs between two known points"),
        ("E 5 m\nbase 1 2\nat 3 m", "an offset reads"),
        ("E 40 m\ntriangle 1 2 12 m 15 m left", "close no triangle: the two shorter are 13.00 m short"),
        ("E 40 m\ntriangle 1 2 12 m left", "is not two distances"),
        ("E 40 m\ntriangle 1 2 left", "a triangle reads"),
        ("peg 7 E 5 m", "a peg has a name"),
        ("string 1 m: 2 m 1 m", "write the leg first"),
        ("E 5 m\nstring 1 m", "a string reads"),
        ("E 5 m\nstring 1 m: 4 m 1 m, 2 m 1 m", "distances rise"),
        ("E 5 m\nstaff back 1 m", "says what and where"),
        ("E 5 m\nstaff fore 1 m on 1\nstaff back 1 m on 2", "do not make a page"),
        ("E 5 m\nE 0 m", "longer than nothing"),
    ],
)
def test_a_book_that_cannot_be(book, words):
    with pytest.raises(BadInput) as caught:
        read_book(book)
    assert words in caught.value.sentence and "\n" not in caught.value.sentence


@given(st.floats(0, 359.99))
def test_quadrant_bearings_read_back(bearing):
    back, _ = bearing_deg(quadrant(bearing) + " 5 m")
    assert abs((back - bearing + 180) % 360 - 180) <= 0.5 / 60 + 1e-9


def test_declinations():
    assert (declination_deg("3 30 W"), declination_deg("12.5° e")) == (-3.5, 12.5)


legs_of = st.lists(
    st.tuples(st.floats(-300, 300), st.floats(-300, 300), st.floats(-5, 5)).filter(lambda v: math.hypot(v[0], v[1]) > 1),
    min_size=2, max_size=20,
)  # fmt: skip


@given(legs_of, st.tuples(st.floats(-2, 2), st.floats(-2, 2), st.floats(-1, 1)))
def test_the_compass_rule_closes_and_moves_points_in_proportion(legs, target):
    found = closure(np.array(legs), (0, 0, 0), target)
    assert found.adjusted[0] == pytest.approx((0, 0, 0)) and found.adjusted[-1] == pytest.approx(target, abs=1e-9)
    moved = np.hypot(*(found.adjusted - found.points)[:, :2].T)
    assert (np.diff(moved) >= -1e-9).all() and moved[-1] == pytest.approx(found.miss_m, abs=1e-9)


SIDES = [(0, 122), (75, 88), (140, 96), (200, 130), (301, 113.7)]


def traverse(rows):
    return np.array([(d * math.sin(math.radians(b)), d * math.cos(math.radians(b)), 0.0) for b, d in rows])


@pytest.fixture(scope="module")
def closing():
    """Five legs that close: the last is whatever is left."""
    legs = traverse(SIDES[:4])
    return [*SIDES[:4], (math.degrees(math.atan2(*(-legs.sum(axis=0)[:2]))) % 360, math.hypot(*legs.sum(axis=0)[:2]))]


@pytest.mark.parametrize(
    ("leg", "bearing", "distance", "kind", "likely"),
    [
        (1, 0, -30, "distance", "a tape of 30 m not counted"),
        (3, 0, 30.48, "distance", "a tape of 100 ft counted twice"),
        (2, 0, -27, "distance", "two figures changed over: 96 m for 69 m"),
        (1, 0, 88 / 0.3048 - 88, "distance", "feet booked as metres"),
        (0, 7.3, 0, "bearing", ""),
        (2, 180, 0, "bearing", "read from the wrong end"),
        (1, 210, 0, "bearing", "E and W changed over"),
        (3, -60 - 160, 0, "bearing", "N and S changed over"),
        (2, 10, 0, "bearing", "ten degrees misread"),
    ],
)
def test_the_blunder_is_named(closing, leg, bearing, distance, kind, likely):
    rows = list(closing)
    rows[leg] = (rows[leg][0] + bearing, rows[leg][1] + distance)
    legs = traverse(rows)
    found = suspects(legs, legs.sum(axis=0)[:2])
    first = next(s for s in found if s.leg == leg and s.kind == kind)
    assert first.explains == pytest.approx(1, abs=1e-6) and first.likely == likely
    assert found.index(first) == 0 or not likely
    expected = -distance if kind == "distance" else (-bearing + 180) % 360 - 180
    assert first.change == pytest.approx(expected, abs=1e-6)


def test_a_line_that_closes_has_no_suspect(closing):
    legs = traverse(closing)
    assert suspects(legs, (0.0, 0.0)) == []
    assert closure(legs, (0, 0, 0), legs.sum(axis=0)).ratio is None


def test_a_book_says_whether_its_misclosure_is_more_than_measuring_explains():
    fair = reduce_book("N 0 E 100 m\nE 100 m\nS 100.2 m\nW 99.9 m")
    assert fair.closed and not fair.wants_looking_at
    slip = reduce_book("N 0 E 100 m\nE 100 m\nS 100 m\nW 90 m\nclose")
    assert slip.wants_looking_at
    likely = {(s.leg, s.likely) for s in slip.suspects if s.likely}
    assert likely == {(1, "a tape of 10 m counted twice"), (3, "a tape of 10 m not counted")}, (
        "parallel legs explain alike"
    )
    assert {s.leg for s in slip.suspects if s.kind == "bearing"} == {0, 2}, "and so may a bearing of the legs across"
    assert [p.e_m for p in booked_points(slip, "none")] == [0, 0, 100, 100]
    adjusted = booked_points(slip, "compass")
    assert adjusted[3].e_m == pytest.approx(100 - 10 * 300 / 390, abs=1e-6)


@given(st.floats(1, 50), st.floats(1, 50), st.floats(0.1, 40))
def test_two_taped_distances_meet_where_both_hold(first, second, base):
    if max(base, first, second) * 2 > base + first + second - 1e-3:
        return
    e, n = two_distances((3, 4), first, (3, 4 + base), second, True)
    assert math.dist((e, n), (3, 4)) == pytest.approx(first) and math.dist((e, n), (3, 4 + base)) == pytest.approx(
        second
    )
    assert e < 3, "left of a line that runs north is west"


def test_square_finds_the_corner_that_is_out():
    true = calc("square", {"a_m": 12, "b_m": 9, "diagonal_m": [15, 15]})
    assert true["square"] is True and true["corners_out"] == []
    moved = Point(11.9, 9.1)
    asked = {"a_m": 12, "b_m": math.dist((12, 0), (11.9, 9.1)), "diagonal_m": [moved.distance(Point(0, 0)), 0]}
    asked["diagonal_m"][1] = math.hypot(12, asked["b_m"])
    (out,) = calc("square", asked)["corners_out"]
    assert out["corner"] == "C" and out["move_m"] == pytest.approx([0.1, asked["b_m"] - 9.1])
    with pytest.raises(BadInput) as caught:
        calc("square", {"a_m": 12, "b_m": 9, "diagonal_m": [15, 40]})
    assert caught.value.field == "diagonal_m[1]" and "close no triangle" in caught.value.sentence
    assert LineString(true["pegs"]).length == 33


@pytest.mark.parametrize(
    ("leg", "words"),
    [
        ({"bearing_deg": 10}, "has dist_m (level) or slope_m"),
        ({"bearing_deg": 400, "dist_m": 5}, "legs[0].bearing_deg"),
        ({"bearing_deg": 10, "slope_m": 5}, "needs vert_deg or dh_m"),
        ({"bearing_deg": 10, "slope_m": 5, "dh_m": 6}, "dh_m must be less"),
        ({"bearing_deg": 10, "dist_m": 5, "vert_deg": 6}, "vert_deg belongs with slope_m"),
    ],
)
def test_traverse_refuses(leg, words):
    with pytest.raises(BadInput) as caught:
        calc("traverse", {"legs": [leg]})
    assert words in caught.value.sentence


@pytest.mark.parametrize(
    ("readings", "where"),
    [
        ([{"fore_m": 1}, {"fore_m": 1}], 0),
        ([{"back_m": 1}, {"back_m": 1}], 1),
        ([{"back_m": 1}, {"back_m": 1}, {"fore_m": 1}], 1),
        ([{"back_m": 1}, {"inter_m": 1, "fore_m": 2}, {"fore_m": 1}], 1),
        ([{"back_m": 1}, {}, {"fore_m": 1}], 1),
    ],
)
def test_levels_refuse_a_page_that_is_not_one(readings, where):
    with pytest.raises(BadInput) as caught:
        calc("levels", {"start_rl_m": 5.0, "readings": readings})
    assert caught.value.field == f"readings[{where}]"


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("N 45 96 ft", "half a bearing: N 45 E or N 45 W"),
        ("S 30° 12 m", "half a bearing: S 30° E or S 30° W"),
        ("E 10 2 m", "half a bearing"),
        ("N 5 E 3 m 2 ft", "mixes metres with feet"),
        ("N 5 E 96 ft 2 m", "mixes metres with feet"),
    ],
)
def test_half_bearings_and_mixed_units_are_refused_by_line(line, words):
    with pytest.raises(BadInput) as caught:
        read_book(f"E 10 m\n{line}", "m")
    assert caught.value.sentence.startswith("line 2: ") and words in caught.value.sentence


@pytest.mark.parametrize(
    "line", ["N 45 ft", "N  12 1/2 ft", "due east 96' 6\"", "N 10 m  2 m", "N 40 paces", "W 8 m  +0.5 m"]
)
def test_one_of_the_four_winds_and_a_distance_are_read(line):
    page = read_book(f"pace 0.8 m\nE 10 m\n{line}")
    assert len(page.spots) == 3


def test_a_string_s_own_points_do_not_add_to_what_measuring_explains():
    square = "N 30 m\n{string}E 30 m\nS 30 m\nW 30 m\nclose"
    plain = reduce_book(square.format(string=""))
    strung = reduce_book(square.format(string="string 1.20 m: 8 m 1.3 m, 16 m 1.1 m, 24 m 1.2 m\n"))
    assert strung.expected_m == pytest.approx(plain.expected_m)
