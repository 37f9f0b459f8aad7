"""Rare cases, each by hand: values exactly at a limit, nothing to count, a second of a kind."""

from datetime import date, time
from types import SimpleNamespace as Made

import numpy as np
import pytest
from ground import line
from places import plan

from gnomonic.core.calc import calc
from gnomonic.core.days.crew import Person
from gnomonic.core.days.weather import Weather
from gnomonic.core.days.work import _Line
from gnomonic.core.demand.animals import check_override, paths
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.layers import Width
from gnomonic.core.fabric.layers import _placed as _layered
from gnomonic.core.finish.fittings import _heights
from gnomonic.core.finish.hanging import HungGate, Turn
from gnomonic.core.ground.book import read_book
from gnomonic.core.ground.found import soft_ground
from gnomonic.core.ground.mend import _unmeasured
from gnomonic.core.ground.profile import HIGHEST_M, Profile
from gnomonic.core.haul.wares import across_mm
from gnomonic.core.job import fence
from gnomonic.core.job.fence import _way_moved
from gnomonic.core.job.reading import is_job
from gnomonic.core.plan.holds import braced_here
from gnomonic.core.plan.hung import _shut, wires_of
from gnomonic.core.plan.line import _placed
from gnomonic.core.plan.model import Holding
from gnomonic.core.plan.posts import Ground
from gnomonic.core.plan.stock import _offcuts
from gnomonic.core.setout.least_cost import Limits
from gnomonic.core.snags.all import _bends, _forbidden
from gnomonic.core.snags.standing import _only_bent
from gnomonic.core.tell.field_log import MORE_GAP_M, too_wide
from gnomonic.core.tell.walk_list import figures


def test_every_run_has_a_tail_of_every_wire_at_both_ends():
    """Two runs of 10 m, tails of 0.6 m: 20 + 2 · 2 · 0.6 = 22.4 m."""
    wire = Made(coil_m=500.0)
    section = Made(system=Made(rule=lambda key: 0.6), strands=[Made(key="w", wire=wire)] * 3)
    (want,) = wires_of(section, [Made()] * 2, [np.array([0.0, 10.0])] * 2)
    assert (want.strands, want.total_m) == (3, pytest.approx(3 * 22.4))


def test_who_goes_on_a_day_is_there_that_day():
    person = Person(id="a", name="Ada", goes=date(2026, 5, 8), days=tuple(range(7)))
    assert person.there(date(2026, 5, 8)) and not person.there(date(2026, 5, 9))


def test_only_a_line_inside_parts_a_plot():
    pen = line((0, 0, 5), (40, 0, 5), (40, 30, 5), (0, 30, 5), closed=True, edits=[{"do": "add_found", "kind": "rock", "shape": [[20, -5], [20, 35]]}])  # fmt: skip
    assert figures(pen, plan(pen)).parts == ()  # a rock lies right across it


@pytest.mark.parametrize(("asked", "share"), [(0.0, 0.0), (0.5, 0.01)])
def test_a_lift_of_half_a_newton_is_a_lift(asked, share):
    """0.5 N with a factor of 2 against 100 N: a hundredth."""
    assert Holding.lift_share.fget(Made(asked_lift_n=asked, factor=2.0, grip_n=100.0)) == share


def test_of_two_leaves_the_one_with_less_ground_under_it_has_the_lower_head():
    assert HungGate.top_m.fget(Made(high_m=1.2, turn=Made(swings=[Made(least_m=0.1), Made(least_m=0.3)]))) == 1.3


def test_ground_as_high_as_any_is_likely():
    assert Profile.of([(0, HIGHEST_M), (9, HIGHEST_M + 0.1)]).unlikely()[0] == [1]


def test_a_bend_inside_a_gate_far_along_is_no_snag_of_the_wire():
    course = Made(stations_m=np.array([0.0, 32.0, 60.0]), turns_deg=lambda: np.array([0.0, 8.0, 0.0]))
    decided = Made(decisions=Made(corner_angle_deg=20.0))
    made = Made(course=course, system=Made(rule=lambda key: 2.0), gates=[Made(at_m=30.0, opening_m=4.0)])
    assert _bends(decided, made) == []


def test_every_layer_takes_the_rolls_of_every_side():
    """Sides of 40 and 25 m in rolls of 25 m: two and one, of each of two layers."""
    widths = [{"name": "a", "width_m": 0.9, "mesh_m": 0.0254}]
    found = calc("layers", {"height_m": 1.4, "widths": widths, "sides_m": [40.0, 25.0], "roll_m": 25.0})
    assert (found["rolls_each_side"], found["rolls"]) == ([4, 2], 6)


def test_an_offset_from_a_base_that_begins_north_of_the_start():
    """From (0, 30) to (10, 30), 4 m along and 3 m to its right: (4, 27)."""
    text = "N 0 E 30 m\nN 90 E 10 m\npeg P N 90 E 1 m\nbase 2 3\nat 4 m right 3 m"
    last = read_book(text).spots[-1]
    assert (last.e_m, last.n_m) == pytest.approx((4.0, 27.0))


def test_a_panel_that_does_not_stand_holds_nothing_the_other_way():
    panel = Made(end=Made(stations_m=(12.0,)), kind="h", statics=Made(stands=False))
    assert braced_here(Made(braces=[panel]), 12.0) is None
    panel.statics.stands = True
    assert braced_here(Made(braces=[panel]), 12.0) is panel


def test_a_line_without_posts_of_its_own_digs_nothing():
    plan_ = Made(system=Made(labour=Made(terminal_min=20.0, light_min=5.0, firm_min=9.0)), posts=[], not_own=())
    assert _Line._fits(Made(plan=plan_), "posts") == (1.0, 0.0)


def test_a_pull_that_lies_before_the_start_is_from_the_start():
    moved = Made(at_m=3.0, splice_m=None, model_copy=lambda update: update)
    assert _way_moved(moved, lambda at: at - 5.0) == {"at_m": 0.0, "splice_m": None}


def test_the_first_point_too_can_be_unmeasured():
    point = Made(how="tape", model_copy=lambda update: Made(**update))
    assert [p.how for p in _unmeasured([point, point], 0)] == ["drawn", "tape"]


def test_a_row_of_offcuts_goes_to_one_group_only():
    wants = [("A", None), ("B", None), ("C", None)]
    assert _offcuts(wants, {"A": (20.0,), "B": (7.5,)}, {(7.5,)}) == (20.0,)


def test_a_post_that_can_not_leave_a_forbidden_stretch_weighs_a_hundred():
    stretch = Made(found_id="", reason="a drain", from_m=4.0, to_m=6.0, hand_dig=False)
    posts = [Made(station_m=0.0, role="end"), Made(station_m=5.0, role="corner")]
    (snag,) = _forbidden(Made(barred=[stretch], posts=posts))
    assert (snag.weight, snag.at_m, snag.grave) == (100.0, 5.0, True)
    assert snag.title.text("metric") == "The corner post at 5.00 m stands in a drain"


@pytest.mark.parametrize(("side", "lift", "holds"), [(1.0, 1.0, True), (1.001, 1.0, False), (1.0, 1.001, False)])
def test_what_is_asked_all_it_has_still_holds(side, lift, holds):
    held = Made(stands=True, side_share=side, lift_share=lift, leans=False, bends=False)
    assert Holding.holds.fget(held) is holds


def test_a_post_that_is_bent_where_the_ground_holds_all_it_can_is_only_bent():
    assert _only_bent(Made(bends=True, side_share=1.0, leans=False))
    assert not _only_bent(Made(bends=True, side_share=1.01, leans=False))


def test_three_even_heights_have_one_in_the_middle():
    """Of 1 m, 0.05 m in at either end: 0.05, 0.50, 0.95."""
    rule = Made(place="even", number=3)
    assert _heights(rule, Made(layers=[], top_m=1.0), 1.3) == pytest.approx((0.05, 0.50, 0.95))


def test_under_the_worse_of_two_leaves():
    assert Turn.gap_m.fget(Made(swings=[Made(gap_m=0.1), Made(gap_m=0.3)])) == 0.3


def test_the_first_line_that_is_to_be_built(monkeypatch):
    monkeypatch.setattr(fence, "Fence", lambda job, line: line.id)
    there, new = Made(id="A", standing="there"), Made(id="B", standing="temporary")
    assert (fence.fence_of(Made(lines=[there, new])), fence.fence_of(Made(lines=[there]))) == ("B", "A")


def test_a_bay_may_give_beyond_its_spacing():
    assert Limits.longest_m.fget(Made(max_spacing_m=4.0, give_m=0.15)) == 4.15


def test_a_built_post_is_found_where_it_stands_and_where_it_was_planned():
    built = Made(stands_m=12.4, at_m=12.0)
    ground = Made(built=(built,))
    assert [Ground.built_at(ground, m) for m in (12.4, 12.0, 12.2)] == [built, built, None]


@pytest.mark.parametrize(("gap_m", "too"), [(0.10, False), (0.10 + MORE_GAP_M - 0.001, False), (0.10 + MORE_GAP_M + 0.001, True), (None, False)])  # fmt: skip
def test_a_gap_a_little_wider_than_planned_is_none(gap_m, too):
    assert too_wide(Made(gap_m=gap_m), 0.10) is too


def test_a_post_by_hand_before_one_that_stands_is_kept():
    """Posts by hand at 5 and 12 m; one that stands, planned at 12 and found at 12.3: the one at 5 stays, whichever side it lies."""
    by_hand = Made(posts=[Made(at_m=5.0), Made(at_m=12.0), Made(at_m=20.0)])
    assert _placed(by_hand, [Made(at_m=12.0, stands_m=12.3)]) == [5.0, 20.0, 12.3]


def test_a_crossed_panel_takes_a_splice_as_far_as_its_end_bay():
    ends = [Made(crossed=True, panels=2), Made(crossed=False, panels=3)]
    assert _shut(ends, [0]) == (1, 3)


def test_clay_holds_nothing_down_to_one_and_a_half_widths():
    """0.25 m wide: a post exactly 0.375 m deep has nothing to hold it."""
    given = {"method": "broms_clay", "cu_pa": 40_000, "b_m": 0.25, "e_m": 1.0}
    with pytest.raises(BadInput, match=r"1\.5·b_m"):
        calc("embed", {**given, "depth_m": 0.375})
    assert calc("embed", {**given, "depth_m": 0.376})["hu_n"] > 0


def test_a_strength_may_be_three_and_not_three_and_a_half():
    path = next(p for p in paths() if p.endswith("strength.value"))
    assert check_override(path, 3.0, "seen on the hill last year").value == 3.0
    with pytest.raises(BadInput, match="1, 2, 3, 4 or 5"):
        check_override(path, 3.5, "seen on the hill last year")


@pytest.mark.parametrize(("lap_m", "layers"), [(0.75, None), (0.5, 2)])
def test_a_layer_may_not_lie_on_all_of_the_one_below(lap_m, layers):
    """0.75 m wide in meshes of 0.25 m: a lap of three holes would put the second where the first is."""
    width = Width("a", 0.75, 0.25)
    placed = _layered([width, width], lap_m)
    assert (placed and len(placed)) == layers


def test_a_temporary_line_stands_until_a_day():
    made = line((0, 0, 5), (60, 0, 5), edits=[{"do": "stand_line", "standing": "temporary", "until": "2026-09-01"}])
    assert (made.own.standing, made.own.until) == ("temporary", date(2026, 9, 1))


def test_of_soft_ground_the_deepest_comes_first():
    bog, marsh = (Made(kind=Made(effect="wood", deeper_m=m), found=Made(name=name, kind=name), stretches=[(at, at + 2)]) for name, m, at in (("bog", 0.3, 4), ("marsh", 0.6, 20)))  # fmt: skip
    assert [row[:3] for row in soft_ground([bog, marsh])] == [(20, 22, 0.6), (4, 6, 0.3)]


def test_an_offset_is_measured_from_where_its_base_line_begins():
    """The base runs north from (10, 0): five along it and three to its left is (7, 5)."""
    spot = read_book("E 10 m\npeg P N 0 E 20 m\nbase 2 P\nat 5 m left 3 m").spots[-1]
    assert (spot.e_m, spot.n_m) == (pytest.approx(7.0), pytest.approx(5.0))


def test_thunder_is_kept_away_from_to_the_minute():
    """From 14:20 until half an hour after 15:10."""
    day = Weather(day=date(2026, 6, 1), night_c=9, noon_c=20, rain_mm=0, wind_ms=3, thunder_from=time(14, 20), thunder_until=time(15, 10))  # fmt: skip
    assert day.stand_off == (14 * 60 + 20, 15 * 60 + 40)


@pytest.mark.parametrize(("family", "thick"), [("post.wood.120", 120), ("post.wood", 0), ("120", 0)])
def test_a_ware_is_as_thick_as_its_last_word_says(family, thick):
    assert across_mm(family) == thick


@pytest.mark.parametrize(
    ("body", "job"),
    [(b'\xef\xbb\xbf\r\n {"form": "gnomonic-job/2"}', True), (b'<gpx name="gnomonic-job/2"/>', False), (b'{"type": "Feature"}', False)],
)  # fmt: skip
def test_a_file_is_a_job_that_is_json_and_says_so(body, job):
    assert is_job(body) is job
