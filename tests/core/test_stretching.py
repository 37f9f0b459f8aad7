"""Tension along a run: expectations by hand from the belt equation, the wire's law and the trade."""

import math
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gnomonic.core.calc import calc
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.bar import Bar, bar
from gnomonic.core.fabric.fabrics import Fabric, fabrics
from gnomonic.core.fabric.wire import ALPHA_STEEL, Crimped
from gnomonic.core.pull.path import Bend, Path, greatest, least_n, pulled, take_up_m
from gnomonic.core.pull.readings import deflection_n, push_m
from gnomonic.core.pull.release import let_go_joined, release
from gnomonic.core.pull.soft import half_soft_n, softened
from gnomonic.core.pull.ways import Gives, Search, best_point, ended_at

OUTER, FILLER = Crimped(0.00251, 0.004, 0.1524), Crimped(0.00193, 0.004, 0.1524)
NINE = Bar(((OUTER, 2), (FILLER, 7)))
STRAIGHT = Bar(((Crimped(0.00251), 1),))
WIRES = [
    {"d_m": 0.00251, "a0_m": 0.004, "p_m": 0.1524, "count": 2},
    {"d_m": 0.00193, "a0_m": 0.004, "p_m": 0.1524, "count": 7},
]


def test_wires_of_one_bar_share_a_strain_not_a_share_of_their_curve():
    assert NINE.half_sum_n == pytest.approx(2945, abs=1)
    assert NINE.half_first_n == pytest.approx(2801, abs=1.5)
    assert NINE.out(2945.0) == pytest.approx((0.483, 0.513), abs=0.001)
    assert sum(n * t for t, (_, n) in zip(NINE.wires_n(2945.0), NINE.wires, strict=True)) == pytest.approx(2945)


@given(st.floats(0.01, 60_000))
def test_a_pull_read_back_from_its_strain(pull_n):
    assert NINE.pull_n(NINE.strain(pull_n)) == pytest.approx(pull_n, rel=1e-6)


@given(st.floats(1, 1e5), st.floats(1e-4, 0.02), st.floats(0.05, 0.3), st.floats(0.001, 0.006))
def test_a_wire_s_tension_read_back_from_its_strain(tension_n, curve_m, pitch_m, d_m):
    wire = Crimped(d_m, curve_m, pitch_m)
    assert wire.tension_n(wire.strain(tension_n)) == pytest.approx(tension_n, rel=1e-7, abs=1e-6)


def test_the_straight_wire_s_law_of_temperature():
    """ΔT = E·A·α·Δθ: 989.6 kN·11.7e-6·40 = 463 N."""
    assert STRAIGHT.warmer_n(1100.0, -40.0) == pytest.approx(1563, abs=1)
    assert STRAIGHT.warmer_n(1100.0, 20.0) == pytest.approx(868, abs=1)
    assert STRAIGHT.warmer_n(1100.0, 1100 / (989_600 * ALPHA_STEEL) + 1) == 0.0


def test_the_curve_is_why_a_hot_day_undoes_little():
    curved = Bar(((OUTER, 1),))
    assert [round(curved.warmer_n(662.3, k)) for k in (-40, 20, 30)] == [808, 600, 572]


def test_the_belt_equation_at_a_right_angle():
    """1000·e^(−0.3·π/2) = 624.2; less 90 caught; none below 0."""
    quarter = Bend(10.0, math.pi / 2, 0.3)
    assert quarter.after_n(1000.0) == pytest.approx(624.23, abs=0.01)
    assert Bend(10.0, math.pi / 2, 0.3, 90.0).after_n(1000.0) == pytest.approx(534.23, abs=0.01)
    assert Bend(10.0, math.pi / 2, 0.3, 90.0).after_n(100.0) == 0.0
    assert quarter.holds_n(quarter.after_n(1000.0)) == pytest.approx(1000.0)


def test_drag_that_uses_the_pull_up_leaves_the_rest_slack():
    rows = pulled(Path(100.0, (), 20.0), 1000.0)
    assert [(s.from_m, s.to_m, s.start_n, s.end_n) for s in rows] == [(0, 50, 1000, 0), (50, 100, 0, 0)]
    assert take_up_m(STRAIGHT, rows) == pytest.approx(500 * 50 / 989_600, rel=1e-3)  # mean pull × length / EA


def test_take_up_of_a_hundred_metres_at_half_the_curve():
    one = Bar(((OUTER, 1),))
    assert take_up_m(one, pulled(Path(100.0), 662.3)) == pytest.approx(0.5769, abs=1e-3)


def test_letting_go_of_a_straight_wire_is_the_anchorage_set_of_a_tendon():
    """EN 1992-1-1 §5.10.5: reach √(δ·EA/w) = √(0.010·989 600/2) = 70.3 m, loss at the end 2·w·70.3 = 281 N."""
    freed = release(Path(500.0, (), 2.0), STRAIGHT, 2000.0, 0.010)
    assert freed.affected_m == pytest.approx(70.3, abs=0.1)
    assert 2000.0 - freed.end_n == pytest.approx(281, abs=0.5)
    assert greatest(freed.stretches) == (pytest.approx(2000 - 140.7, abs=0.2), pytest.approx(70.3, abs=0.1))
    assert least_n(freed.stretches) == pytest.approx(1000.0)  # the far end never noticed


def test_a_short_run_is_unforgiving():
    """A curved wire on 30 m: 10 mm cost 13 %, 25 mm 29 %; on 100 m a third of that (common practice, and §8)."""
    lost = {
        (long, slip): 1 - release(Path(long), Bar(((OUTER, 1),)), 662.3, slip).end_n / 662.3
        for long in (30.0, 100.0)
        for slip in (0.010, 0.025)
    }
    assert lost[30.0, 0.010] == pytest.approx(0.13, abs=0.005)
    assert lost[30.0, 0.025] == pytest.approx(0.29, abs=0.005)
    assert lost[30.0, 0.010] / lost[100.0, 0.010] > 2.9


def test_the_slack_between_bar_and_post_runs_back_within_a_stay():
    """On 100 m what is let go is taken from half a metre and more: under a stay of it (150 mm) leaves most of the tension (common practice)."""
    free = release(Path(100.584), NINE, 2801.0, 0.150)
    dragged = release(Path(100.584, (), 3.0), NINE, 2801.0, 0.150)
    assert take_up_m(NINE, pulled(Path(100.584), 2801.0)) == pytest.approx(0.553, abs=0.01)
    assert free.end_n > 0.4 * 2801
    assert dragged.affected_m == pytest.approx(100.584)


def test_bends_keep_a_loss_near_the_end():
    bent = Path(100.0, (Bend(10.0, math.pi / 2, 0.3, 50.0),))
    freed = release(bent, NINE, 2800.0, 0.010)
    assert freed.affected_m == 10.0
    assert freed.stretches[-1].end_n == pytest.approx(2800 * math.exp(-0.3 * math.pi / 2) - 50)
    assert freed.end_n == pytest.approx(NINE.pull_n(NINE.strain(2800.0) - 0.010 / 10.0), rel=1e-6)


def test_a_slip_longer_than_what_was_taken_up_leaves_slack():
    rows = pulled(Path(30.0), 2800.0)
    spare = take_up_m(NINE, rows)
    freed = release(Path(30.0), NINE, 2800.0, spare + 0.1)
    assert freed.end_n == 0.0
    assert freed.slack_m == pytest.approx(0.1)


BENDS = st.lists(st.tuples(st.floats(0.02, 0.98), st.floats(0, 2.0), st.floats(0, 0.6), st.floats(0, 200)), max_size=5)


def _path(long, bends, drag):
    stations = sorted({round(share * long, 3): rest for share, *rest in bends}.items())
    return Path(long, tuple(Bend(at, *rest) for at, rest in stations), drag)


@settings(max_examples=150)
@given(st.floats(5, 300), BENDS, st.floats(0, 8), st.floats(50, 6000), st.floats(0, 0.4))
def test_every_release_keeps_what_physics_asks(long, bends, drag, pull_n, slip_m):
    path = _path(long, bends, drag)
    before, freed = pulled(path, pull_n), release(path, NINE, pull_n, slip_m)
    # what the strains gave back is the slip, less what was left over
    given = take_up_m(NINE, before) - take_up_m(NINE, freed.stretches)
    assert given + freed.slack_m == pytest.approx(slip_m, abs=1e-6)
    # nothing is tighter than it was, and it covers the run without a gap
    assert freed.stretches[0].from_m == 0.0 and freed.stretches[-1].to_m == pytest.approx(long)
    assert all(a.to_m == pytest.approx(b.from_m) for a, b in pairwise(freed.stretches))
    for s in freed.stretches:
        for share in (0.001, 0.5, 0.999):  # within it: a bend's two sides are two pulls
            at = s.from_m + share * s.long_m
            assert s.at_n(at) <= _at(before, at) * (1 + 1e-6) + 1e-3
    # no bend holds more than friction allows, either way
    for (a, b), bend in _bends_of(freed.stretches, path):
        assert b <= bend.holds_n(a) + 1e-5 * (1 + b)
        assert a * math.exp(-bend.mu * bend.rad) - bend.catch_n <= b + 1e-5 * (1 + a)


def _at(rows, at_m):
    return next(s for s in rows if s.from_m <= at_m <= s.to_m).at_n(at_m)


def _bends_of(rows, path):
    bends = {b.at_m: b for b in path.bends}
    return [((a.end_n, b.start_n), bends[a.to_m]) for a, b in pairwise(rows) if a.to_m in bends]


@given(st.floats(5, 300), BENDS, st.floats(0, 8), st.floats(50, 6000))
def test_pulling_harder_leaves_no_place_slacker(long, bends, drag, pull_n):
    path = _path(long, bends, drag)
    assert least_n(pulled(path, pull_n * 1.1)) >= least_n(pulled(path, pull_n)) - 1e-9
    assert take_up_m(NINE, pulled(path, pull_n * 1.1)) >= take_up_m(NINE, pulled(path, pull_n)) - 1e-12


def test_a_joint_let_go_is_one_pull_on_both_sides():
    left, right = Path(20.0), Path(60.0, (Bend(30.0, 0.5, 0.3, 20.0),))
    both = let_go_joined(NINE, (left, right), 2800.0, 0.020)
    assert both[0].end_n == pytest.approx(both[1].end_n)
    given = sum(
        take_up_m(NINE, pulled(path, 2800.0)) - take_up_m(NINE, freed.stretches)
        for path, freed in zip((left, right), both, strict=True)
    )
    assert given == pytest.approx(0.020, abs=1e-8)


THREE = Path(
    100.584,
    (Bend(30.0, math.pi / 2, 0.3, 90), Bend(60.0, math.pi / 4, 0.3, 90), Bend(80.0, math.pi / 6, 0.3, 90)),
    0.67,
)


def test_where_three_bends_are_best_pulled_from():
    """Nine wires, 330 ft, bends of 90, 45 and 30° that keep 0.624228, 0.790081 and 0.854636 less 90 N; 0.67 N of drag a metre, 20.1 N over 30 m.
    From the start 2945 → 2924.9 → 1735.8 → 1715.7 → 1265.6 → 1252.2 → 980.2, 966.4 at the end; from the end 2931.2 → 2415.1 → 2401.7 → 1807.6 →
    1787.5 → 1025.8, 1005.7 at the start.  Both ways from just past the first: 2945 → 1748.4, 1728.3 at the start; ahead 2924.9 → 2220.9 →
    2207.5 → 1796.6, 1782.8.  Ended on that post: the part ahead is better drawn from the far end, 1787.5."""
    from_start, from_end = least_n(pulled(THREE, 2945.0)), least_n(pulled(THREE.turned(), 2945.0))
    assert (from_start, from_end) == pytest.approx((966.4, 1005.7), abs=0.1)
    found = best_point(THREE, 2945.0, 0.5)
    assert (found.from_m, found.to_m) == (30.0, 30.0)  # with drag, right behind the bend
    assert found.least_n == pytest.approx(1728.3, abs=0.1)
    assert ended_at(THREE, 2945.0, 30.0) == pytest.approx(1787.5, abs=0.1)


def test_without_drag_every_place_of_a_straight_ties():
    found = best_point(Path(100.0, (Bend(30.0, 1.0, 0.3), Bend(60.0, 1.0, 0.3))), 1000.0, 0.5)
    assert (found.from_m, found.to_m) == (30.0, 60.0)
    assert found.least_n == pytest.approx(1000 * math.exp(-0.3))
    assert best_point(Path(40.0), 1000.0, 0.5).to_m == 40.0
    either = best_point(Path(50.0, (Bend(25.0, 1.5, 0.3),)), 1000.0, 0.3)
    assert (either.from_m, either.to_m) == (0.0, 50.0)  # one bend in the middle: anywhere is as good


def test_a_zig_zag_of_three_bends_leaves_the_far_side_slack_and_what_mends_it():
    """Common practice: several bends on one pull do not work; end the run, or splice in the straight beyond a bend."""
    windows = tuple((3.0 * k + 0.5, 3.0 * k + 2.5) for k in range(1, 33))
    ways = Search(THREE, NINE, 2801.0, Gives(0.025, 0.010, 0.005, 0.005, 0.005), windows).ways()
    kinds = {(len(w.parts), w.parts[0].way): w for w in ways}
    one_end = max(kinds[1, "start"].least_n, kinds[1, "end"].least_n)
    assert one_end < 0.36 * 2801
    assert kinds[1, "both"].least_n > 1.7 * one_end
    ended = next(w for w in ways if len(w.parts) > 1)
    assert ended.least_n > kinds[1, "both"].least_n * 0.9
    assert ways[0].least_n == max(w.least_n for w in ways)
    assert all(greatest(p.stretches)[0] <= 2801.0 + 1e-6 for w in ways for p in w.parts)


def test_tied_off_apart_at_a_bend_loses_what_a_splice_keeps():
    """§8: 10 mm at each tie-off can halve the least tension on a short part; spliced before letting go the least stays."""
    path = Path(40.0, (Bend(6.0, math.pi / 2, 0.3, 90.0),))
    search = Search(path, NINE, 2801.0, Gives(tie_m=0.010, splice_m=0.010), ((10.0, 12.0),))
    apart = next(w for w in search.ways() if len(w.parts) == 2)
    joined = next(w for w in search.ways() if w.splices_m)
    short = apart.parts[0]
    assert (short.from_m, short.to_m) == (0.0, 6.0)
    assert short.least_n < 0.62 * 2801
    assert joined.least_n == pytest.approx(2801 * math.exp(-0.3 * math.pi / 2) - 90, rel=0.02)


def test_no_splice_is_tried_where_none_can_be_made():
    assert all(not w.splices_m for w in Search(THREE, NINE, 2801.0, Gives(), ()).ways())


def test_soft_wire_loses_half_its_curve_before_the_elastic_law_says():
    """A crest of 2 mm carries σy·d³/6 = 350e6·(2.51 mm)³/6 = 0.922 N·m at 461 N; elastic it would take 662 N."""
    assert half_soft_n(OUTER, 350e6) == pytest.approx(461, abs=1)
    assert half_soft_n(OUTER, 2e9) == pytest.approx(OUTER.half_n)
    soft = softened(OUTER, 461.2, 350e6)
    assert soft.out == pytest.approx(0.5, abs=0.001)
    # let go, it springs back only as far as its own law takes it from there: 2 mm·(1 + 461/662) = 3.39 mm of the 4
    assert soft.now.curve_m == pytest.approx(0.00339, abs=1e-5)
    assert soft.set_m == pytest.approx(0.00061, abs=1e-5)
    assert softened(OUTER, 100.0, 350e6).set_m == pytest.approx(0.0, abs=1e-12)


def test_four_to_six_inches_of_give_at_mid_bay():
    """Common practice: 4–6 in of sideways give between posts 10 ft apart; a push of some 90 lb on a whole fabric at half its curve."""
    assert 0.1016 <= push_m(90 * 4.448, 2801.0, 3.048) <= 0.1524
    assert deflection_n(100.0, 0.1, 3.0).exact_n == pytest.approx(100 * math.hypot(0.1, 1.5) / 0.2)


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({"task": "profile", "length_m": 10.0, "bends": [[12.0, 3.0]]}, "bends[0]"),
        ({"task": "profile", "length_m": 10.0, "bends": [[4.0, 3.0], [4.0, 3.0]]}, "bends[1]"),
        ({"task": "profile", "length_m": 10.0, "bends": [[4.0]]}, "bends[0]"),
        ({"task": "profile", "length_m": 0.0}, "length_m"),
        ({"task": "profile", "length_m": 10.0, "mu": -1.0}, "mu"),
        ({"task": "profile", "length_m": 10.0, "mew": 0.3}, "mew"),
        ({"task": "best_point", "length_m": 1e4, "search_step_m": 1e-3}, "search_step_m"),
        ({"task": "temperature", "dtheta_c": []}, "dtheta_c"),
        ({"task": "slip", "length_m": 10.0, "slip_m": [-1.0]}, "slip_m[0]"),
        ({"task": "pull"}, "task"),
        ({}, "task"),
    ],
)
def test_a_sum_that_can_t_be_done_names_its_field(more, field):
    with pytest.raises(BadInput) as refused:
        calc("pull", {"wires": WIRES, "pull_n": "half_first", **more})
    assert refused.value.field == field


@pytest.mark.parametrize("pull", [-1.0, "half", True, None, math.inf, math.nan])
def test_a_pull_that_is_none(pull):
    with pytest.raises(BadInput) as refused:
        calc("pull", {"task": "slip", "wires": WIRES, "pull_n": pull, "length_m": 30.0, "slip_m": [0.01]})
    assert refused.value.field == "pull_n"


def test_a_pull_beyond_the_wire_s_strength_is_refused_with_the_figure():
    wire = {"d_m": 0.00251, "break_n": 5800.0}
    with pytest.raises(BadInput, match="breaks at 5800 N"):
        calc("pull", {"task": "slip", "wires": [wire], "pull_n": 6000.0, "length_m": 30.0, "slip_m": [0.01]})


def test_no_steel_carries_a_meganewton():
    with pytest.raises(BadInput, match=r"no steel wire of 2\.51 mm carries over 12370 N"):
        calc("pull", {"task": "slip", "wires": WIRES, "pull_n": 1e6, "length_m": 30.0, "slip_m": [0.01]})


def test_a_fabric_whose_gauge_nobody_said_is_asked_for():
    said = fabrics()["9-49-6"].model_dump() | {"outer_gauge": 0.0, "label": "9-49-6 own"}
    with pytest.raises(ValueError, match="how thick its wires are is missing"):
        Fabric.model_validate(said)


def test_the_sum_s_answers_hold_all_that_its_contract_names():
    along = {
        "length_m": 100.584,
        "bends": [[30.0, 90.0], [60.0, 45.0]],
        "mu": 0.3,
        "catch_n": 90.0,
        "drag_n_per_m": 0.67,
    }
    asked = {"wires": WIRES, "pull_n": "half_sum", **along}
    said = calc("pull", {"task": "profile", "dtheta_c": [-40.0], **asked})
    assert said["tc_n"] == pytest.approx([662.3, 231.5], abs=0.1)
    assert [(s["from_m"], s["to_m"]) for s in said["segments"]] == [(0, 30), (30, 60), (60, 100.584)]
    first, second = said["segments"][:2]
    assert second["start_n"] == pytest.approx((2945.44 - 20.1) * math.exp(-0.3 * math.pi / 2) - 90, abs=0.1)
    assert first["seasons"][0]["start_n"] == pytest.approx(NINE.warmer_n(2945.44, -40.0), abs=0.1)
    assert said["take_up_m"] == pytest.approx(sum(s["take_up_m"] for s in said["segments"]))
    best = calc("pull", {"task": "best_point", "search_step_m": 0.5, **asked})
    assert {t["terminate_at_m"] for t in best["terminate"]} == {30.0, 60.0}
    freed = calc("pull", {"task": "release", "slip_m": [0.0, 0.01], **asked})["rows"]
    assert freed[0]["end_n"] == pytest.approx(2945.44, abs=0.1) and freed[0]["affected_m"] == 0.0
    assert freed[1]["affected_m"] == 30.0 and freed[1]["end_n"] < freed[0]["end_n"]
    heat = calc("pull", {"task": "temperature", "wires": [{"d_m": 0.00251}], "pull_n": 1100.0, "dtheta_c": [150.0]})
    assert heat["rows"][0]["slack"] is True and heat["tc_n"] == [None]
    fitted = calc("pull", {"task": "fit_mu", "readings": [[0.0, 1000.0], [90.0, 624.23], [180.0, 389.67]]})
    assert fitted["mu"] == pytest.approx(0.3, abs=1e-4) and fitted["t0_n"] == pytest.approx(1000, abs=0.1)
    with pytest.raises(BadInput, match="same turn"):
        calc("pull", {"task": "fit_mu", "readings": [[90.0, 1000.0], [90.0, 900.0]]})


def test_alike_wires_are_one_kind():
    assert bar([OUTER, FILLER, OUTER]).wires == ((OUTER, 2), (FILLER, 1))
