"""More small rules, each by hand: of rolls, water, zones, splitting, books, searches and schedules."""

from datetime import date, datetime
from types import SimpleNamespace as Made

import numpy as np
import pytest
from crews import MONDAY
from ground import BARBED, SAND, do, line
from places import plan, snags_of

from gnomonic.core.calc import calc
from gnomonic.core.choose.rank import stacked_label
from gnomonic.core.days.laying import Given
from gnomonic.core.days.problem import Activity, Mode, Problem
from gnomonic.core.days.simulate import GRID, _pert
from gnomonic.core.days.solve import MOST_ORDERS, every_order
from gnomonic.core.edits.lines import _carried
from gnomonic.core.edits.measured import _stretch_of
from gnomonic.core.fabric.lay import Rules, RunNeed, Stock, lay_group
from gnomonic.core.finish.crossing import Crossed, flaps
from gnomonic.core.ground.booked import level_only
from gnomonic.core.ground.course import course
from gnomonic.core.ground.found import no_post_stretches
from gnomonic.core.plan.posts import asked_rule, softest
from gnomonic.core.setout.kernels import excess_area
from gnomonic.core.snags.ground import _heights, _zones

FLAT = line((0, 0, 5), (60, 0, 5), edits=[BARBED, SAND])


def test_a_document_ends_its_last_line():
    assert FLAT.job.canonical_json().endswith("}\n")


@pytest.mark.parametrize(("dig", "said"), [(True, "in the tolerance zone of gas at"), (False, "A post stands in gas at")])  # fmt: skip
def test_what_a_post_stands_in(dig, said):
    stretch = Made(found_id="f1", hand_dig=dig, reason="gas", kept=True, from_m=4.0, to_m=6.0)
    (found,) = _zones(Made(barred=[stretch], posts=[Made(station_m=5.0)]))
    assert said in found.title.text("metric") and found.at_m == 5.0


def test_heights_that_are_none_are_told_of_the_whole_line():
    grid = Made(line=Made(grid=Made(cell_m=2.0), level=False))
    level = Made(line=Made(grid=None, level=True))
    assert [s.at_m for it in (grid, level) for s in _heights(it)] == [0.0, 0.0]


def test_what_stands_on_a_line_that_is_split_goes_with_its_part():
    """A split at 20 m of line A, whose second part is C: the end of A is C's; what joins at 30 m joins C at 10, at 20 m still A."""

    class Join(Made):
        def model_copy(self, update):
            return Join(**{**vars(self), **update})

    rows = [("A", "start", "B", 5.0), ("A", "end", "B", 5.0), ("B", "end", "A", 30.0), ("B", "end", "A", 20.0)]
    after = [_carried(Join(line=ln, end=end, on=on, at_m=at), "A", "C", 20.0) for ln, end, on, at in rows]
    assert [(j.line, j.on, j.at_m) for j in after] == [("A", "B", 5.0), ("C", "B", 5.0), ("B", "C", 10.0), ("B", "A", 20.0)]  # fmt: skip


def test_half_of_all_throws_stray_as_far_as_pert_says():
    """From a half to twice the usual: mean (0.5 + 4 + 2)/6 of the usual (PERT); as sure of the usual as four to one."""
    middle = _pert(0.5, 2.0)
    weights = np.exp(-(np.asarray(GRID) ** 2) / 2)
    assert np.average(middle, weights=weights) == pytest.approx((0.5 + 4 + 2) / 6, rel=0.01)


def test_more_orders_than_can_be_tried_are_not():
    """Four activities in 24 orders: done one way all are tried, each in 2 ways 384; with 3 ways each 1,944 are too many."""

    def of(ways):
        acts = tuple(Activity(str(k), tuple(Mode(1 + m, ()) for m in range(ways))) for k in range(4))
        return Problem(acts, np.ones((1, 40), np.int64))

    assert 24 * 3**4 > MOST_ORDERS > 24 * 2**4
    assert every_order(of(1)) is not None and every_order(of(2)) is not None and every_order(of(3)) is None


def test_soft_ground_reaches_from_its_first_station_to_its_last():
    rows = [(10.0, 20.0, 0.3, "bog"), (15.0, 30.0, 0.1, "wet")]
    assert [(softest(rows, at) or (0, 0, 0, ""))[3] for at in (9.9, 10.0, 16.0, 20.0, 20.1, 30.1)] == ["", "bog", "bog", "bog", "wet", ""]  # fmt: skip


def test_posts_of_lines_that_meet_are_as_deep_as_the_deepest_and_say_for_whom():
    def rule(depth):
        return Made(depth_m=depth, stock_m=(2.4,), over_m=0.1, diameter_m=0.1)

    own, deep = rule(0.6), rule(0.9)
    asked = [Made(height_m=1.0, rule=deep, name="B")]
    assert asked_rule(own, 1.2, 0.0, "", asked) == (deep, 1.2, 0.0, "")
    shallow = [Made(height_m=1.0, rule=rule(0.5), name="C")]
    assert asked_rule(own, 1.2, 0.2, "bog", shallow)[2:] == (pytest.approx(0.2), "bog")


def test_channels_that_lie_close_are_one_as_wide_as_the_widest_reaches():
    """A brook at 20 to 30 m and a ditch at 22 to 24 m: together they reach to 30 m, not to 24."""
    it = line((0, 0, 5), (60, 0, 5), edits=[BARBED, SAND])
    for low, high, name in ((20.0, 26.0, "brook"), (22.0, 24.0, "ditch")):
        it = do(it, do="add_found", kind="water", name=name, from_m=low, to_m=high)
    (water,) = plan(it).waters
    assert water.from_m == pytest.approx(20.0, abs=0.31) and water.to_m == pytest.approx(26.0, abs=0.31)


@pytest.mark.parametrize(("declination", "said", "east"), [("", "360", 0.0), ("declination 10 E\n", "350", 0.0)])
def test_a_bearing_of_a_full_circle_is_north(declination, said, east):
    it = do(FLAT, do="write_book", text=f"{declination}{said} 40 m\n{said} 20 m", lose=True)
    assert it.line.points[-1].e_m == pytest.approx(east, abs=1e-6) and it.line.points[-1].n_m == pytest.approx(60.0)


def test_a_gate_over_water_hangs_half_a_metre_beside_it():
    """A brook at 20 to 23 m with its zone; a gate of 3 m that begins in it hangs after it, or so that it ends before it."""
    it = do(line((0, 0, 5), (60, 0, 5), edits=[BARBED, SAND]), do="add_found", kind="water", name="brook", from_m=20, to_m=23)  # fmt: skip
    it = do(it, do="add_gate", at_m=21, leaf_m=3.0, measured=True, name="gate")
    made = plan(it)
    (water,), (gate,) = made.waters, made.gates
    snag = next(s for s in snags_of(it, made) if s.code == "gate-water")
    assert sorted(r.edit["at_m"] for r in snag.remedies if r.edit["do"] == "move_gate") == pytest.approx(
        [water.from_m - gate.opening_m - 0.5, water.to_m + 0.5], abs=0.001
    )


def test_wires_pressed_down_stretch_over_the_whole_run():
    """The run may be longer than the bay and its neighbour; shorter than both it can't be."""
    given = {"wires": [{"d_m": 0.0025, "a0_m": 0.004, "p_m": 0.15}], "pull_n": 900, "a_m": 3, "b_m": 4, "depth_m": 0.5}
    short, long = calc("press", {**given, "run_m": 7.0}), calc("press", {**given, "run_m": 70.0})
    assert calc("press", given)["force_n"] == short["force_n"] > long["force_n"]
    with pytest.raises(Exception, match="at least a_m \\+ b_m \\(7\\)"):
        calc("press", {**given, "run_m": 6.9})


def test_stretches_without_length_bar_no_post():
    things = [Made(kind=Made(effect="no_post"), stretches=((5.0, 5.0), (7.0, 8.0)), found="it")]
    assert no_post_stretches(things) == [(7.0, 8.0, "it")]


def test_flaps_are_offered_the_lightest_first():
    masses = [f.kg_m2 for f in flaps().values()]
    assert masses == sorted(masses) and len(masses) == 3


@pytest.mark.parametrize(("first", "posts", "rope", "ties"), [(2.0, 3.0, 4.0, True), (3.0, 3.0, 4.0, False), (0.0, 3.0, 4.0, False), (3.5, 4.0, 3.0, False)])  # fmt: skip
def test_ties_that_let_go_first_save_the_posts(first, posts, rope, ties):
    assert Crossed.fails_first.fget(Made(first_n=first, posts_n=posts, rope_stands_n=rope)) is ties


def test_a_book_with_a_rise_anywhere_is_not_level():
    def book(*known):
        return Made(page=Made(spots=[Made(rise_known=k) for k in known]))

    assert [level_only(book(*k)) for k in ((True, False, False), (False, True, False), (False, False, True))] == [True, False, False]  # fmt: skip


def test_a_stretch_of_a_line_has_its_corners_between_its_ends():
    way = course(line((0, 0, 0), (10, 0, 0), (10, 10, 0)).line)
    assert _stretch_of(way, 10.0, 15.0) == [(10, 0), (10, 5)] and _stretch_of(way, 5.0, 15.0) == [(5, 0), (10, 0), (10, 5)]  # fmt: skip
    assert _stretch_of(way, 5.0, 10.0) == [(5, 0), (10, 0)] and _stretch_of(way, 4.0, 4.0) == [(4, 0)]


@pytest.mark.parametrize(("heights", "area"), [((0, 0, 0), 0.0), ((0, -1, 0), 2.0), ((0, 2, -2, 0), 0.75)])
def test_the_area_of_a_chord_over_the_ground(heights, area):
    """2 m apart: a dip of 1 m under 4 m of chord is 2 m².  With 1 m of room, ground that falls from 2 m over the chord to 2 m under it in
    2 m lies deeper than that over the last ½ m, to 1 m more: ¼ m²; where it rises by 2 m again, over 1 m: ½ m²."""
    x, z = np.arange(len(heights)) * 2.0, np.array(heights, float)
    room = 0.0 if len(heights) == 3 else 1.0
    assert excess_area.py_func(x, z, 0, len(x) - 1, 0.0, 1.0, room) == pytest.approx(area)


def test_work_is_planned_from_the_first_day_or_from_now_where_that_is_later():
    noon = datetime(2026, 3, 2, 12)
    assert Given(MONDAY).begins == datetime(2026, 3, 2)
    assert Given(MONDAY, now=noon).begins == noon and Given(date(2026, 3, 9), now=noon).begins == datetime(2026, 3, 9)


def test_pieces_of_a_run_keep_their_overlap():
    """A run of 100 m from rolls of 60 m: 60 and what is left with 1 m of overlap, 41 m."""
    rules = Rules(overlap_m=1.0, piece_min_m=5.0)
    pieces, left = lay_group([(0, RunNeed(100.0))], [Stock("new0", 60.0), Stock("new1", 60.0)], rules)
    assert sum(p.length_m for p in pieces) == pytest.approx(101.0) and left == pytest.approx(19.0)


def test_netting_is_stacked_with_its_small_mesh_where_it_is_demanded():
    """1.5 m high: with openings of at most 15 mm up to 1.4 m hardware cloth all the way, else only below."""

    def of(*openings):
        return stacked_label(Made(rule=lambda _: 0.05), Made(height=Made(value=1.5), openings=openings))

    assert stacked_label(Made(), Made(height=None)) == ""
    fine, any_mesh = of(Made(from_m=0.2, to_m=1.4, want=Made(value=0.015))), of()
    assert fine.count("cloth") == 2 and any_mesh.count("cloth") == 1
