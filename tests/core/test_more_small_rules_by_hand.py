"""More small rules, each by hand: of rolls, water, zones, splitting, books, searches and schedules."""

from datetime import date, datetime, timedelta
from types import SimpleNamespace as Made

import numpy as np
import pytest
from crews import MONDAY
from ground import BARBED, SAND, do, line
from places import plan, snags_of

from gnomonic.core.calc import calc
from gnomonic.core.choose.rank import Candidate, _things, stacked_label
from gnomonic.core.days.bound import _least_wait, bound
from gnomonic.core.days.laying import Given, _free
from gnomonic.core.days.problem import Activity, Mode, Problem, Schedule
from gnomonic.core.days.simulate import GRID, _pert
from gnomonic.core.days.solve import MOST_ORDERS, again, every_order
from gnomonic.core.days.task import amount
from gnomonic.core.days.weather import Weather
from gnomonic.core.days.words import weather_words
from gnomonic.core.demand.animals import shipped
from gnomonic.core.demand.section import Section
from gnomonic.core.edits import all as all_edits
from gnomonic.core.edits.lines import _carried
from gnomonic.core.edits.measured import _stretch_of
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.fabrics import Wire
from gnomonic.core.fabric.label import _link, gauge_pair
from gnomonic.core.fabric.lay import Rules, RunNeed, Stock, _Search, lay_group
from gnomonic.core.fabric.wire import Crimped
from gnomonic.core.finish import crossing
from gnomonic.core.finish.crossing import Crossed
from gnomonic.core.finish.hanging import HungGate
from gnomonic.core.ground.book import read_book
from gnomonic.core.ground.book_page import Lengths
from gnomonic.core.ground.booked import level_only, returned
from gnomonic.core.ground.course import course
from gnomonic.core.ground.found import no_post_stretches
from gnomonic.core.ground.walking import EARTH_M, Fix, worth_keeping
from gnomonic.core.haul import supply
from gnomonic.core.haul.costing import rehung
from gnomonic.core.haul.supply import _from_lots
from gnomonic.core.haul.takeoff import take_off
from gnomonic.core.job.fence import Fence, fence_of
from gnomonic.core.log.safety import without_marks
from gnomonic.core.plan import lows, stretch
from gnomonic.core.plan.gates import beside
from gnomonic.core.plan.posts import asked_rule, softest
from gnomonic.core.plan.stretch import RunPull
from gnomonic.core.setout.kernels import excess_area
from gnomonic.core.snags import standing
from gnomonic.core.snags.ground import _heights, _zones
from gnomonic.core.snags.hold import hold_snags
from gnomonic.core.snags.water import _flap, _water
from gnomonic.core.tell import compare
from gnomonic.core.tell.compare import against_even
from gnomonic.core.tell.field_log import falls_short
from gnomonic.core.tell.pull_facts import _risk
from gnomonic.core.tell.pull_laying import weave
from gnomonic.core.tell.steps import _foot_values, _ground_values
from gnomonic.core.tell.tag import _join

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


def test_throws_are_on_the_whole_as_far_off_as_pert_says():
    """From a half to twice the usual they come to (0.5 + 4 + 2)/6 of it (PERT, from memory)."""
    middle = _pert(0.5, 2.0)
    weights = np.exp(-(np.asarray(GRID) ** 2) / 2)
    assert np.average(middle, weights=weights) == pytest.approx((0.5 + 4 + 2) / 6, rel=0.001)


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


def test_posts_of_lines_that_meet_are_as_deep_as_the_deepest_and_a_bog_stays_the_reason():
    def rule(depth):
        return Made(depth_m=depth, stock_m=(2.4,), over_m=0.1, diameter_m=0.1)

    own, deep = rule(0.6), rule(0.9)
    asked = [Made(height_m=1.0, rule=deep, name="B")]
    assert asked_rule(own, 1.2, 0.0, "", asked) == (deep, 1.2, 0.0, "")
    shallow = [Made(height_m=1.0, rule=rule(0.5), name="C")]
    assert asked_rule(own, 1.2, 0.2, "bog", shallow)[2:] == (pytest.approx(0.2), "bog")


def test_channels_that_lie_close_are_one_where_a_rope_spans_both():
    """A ditch in a brook of 6 m is one water; in a river wider than any rope spans it is told by itself, not as wide as the ditch."""
    found = []
    for wide in (6.0, 40.0):
        it = do(FLAT, do="add_found", kind="water", name="brook", from_m=10.0, to_m=10.0 + wide)
        it = do(it, do="add_found", kind="water", name="ditch", from_m=12.0, to_m=14.0)
        found.append([(w.name, round(w.from_m), round(w.to_m)) for w in plan(it).waters])
    assert [[(low, high) for _, low, high in rows] for rows in found] == [[(10, 16)], [(10, 50), (12, 14)]]


def test_a_gate_over_water_hangs_half_a_metre_beside_it():
    """A brook at 20 to 23 m with 30 cm on both sides: a gate hangs from 23.8 m on, or so that it ends at 19.2 m."""
    it = do(line((0, 0, 5), (60, 0, 5), edits=[BARBED, SAND]), do="add_found", kind="water", name="brook", from_m=20, to_m=23)  # fmt: skip
    it = do(it, do="add_gate", at_m=21, leaf_m=3.0, measured=True, name="gate")
    made = plan(it)
    (gate,) = made.gates
    snag = next(s for s in snags_of(it, made) if s.code == "gate-water")
    assert sorted(r.edit["at_m"] for r in snag.remedies if r.edit["do"] == "move_gate") == pytest.approx(
        [19.2 - gate.opening_m, 23.8], abs=0.001
    )


def test_wires_pressed_down_stretch_over_the_whole_run():
    """The run may be longer than the bay and its neighbour; shorter than both it can't be."""
    given = {"wires": [{"d_m": 0.0025, "a0_m": 0.004, "p_m": 0.15}], "pull_n": 900, "a_m": 3, "b_m": 4, "depth_m": 0.5}
    short, long = calc("press", {**given, "run_m": 7.0}), calc("press", {**given, "run_m": 70.0})
    assert calc("press", given)["force_n"] == short["force_n"] > long["force_n"]
    with pytest.raises(BadInput, match="at least a_m \\+ b_m \\(7\\)"):
        calc("press", {**given, "run_m": 6.9})


def test_stretches_without_length_bar_no_post():
    things = [Made(kind=Made(effect="no_post"), stretches=((5.0, 5.0), (7.0, 8.0)), found="it")]
    assert no_post_stretches(things) == [(7.0, 8.0, "it")]


def test_flaps_are_offered_the_lightest_first(monkeypatch):
    """Whatever order the file has them in."""
    rows = crossing.read_data("cables.toml", "finish")["flaps"]
    monkeypatch.setattr(crossing, "read_data", lambda *_: {"flaps": dict(reversed(rows.items()))})
    masses = [f.kg_m2 for f in crossing.flaps.__wrapped__().values()]
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


def test_a_post_as_deep_as_another_line_asks_but_too_short_for_it_keeps_its_reason():
    """Its own kind is too short at 1 m of stock, so it is of the other's: 20 cm deeper in the bog than its own 60 all the same."""
    short, long = (Made(depth_m=d, stock_m=(s,), over_m=0.1, diameter_m=0.1) for d, s in ((0.6, 1.0), (0.5, 4.0)))
    asked = asked_rule(short, 1.2, 0.2, "bog", [Made(height_m=1.0, rule=long, name="B")])
    assert asked == (long, 1.2, pytest.approx(0.3), "bog")


def test_declination_turns_a_bearing_past_north():
    it = do(FLAT, do="write_book", text="declination 10 E\n355 40 m\n355 20 m", lose=True)
    assert it.line.points[-1].e_m == pytest.approx(60 * np.sin(np.radians(5)))


@pytest.mark.parametrize(
    ("kind", "said"), [("link", "one wire woven through both"), ("woven", "a lap splice, by hand")]
)
def test_edges_without_a_fitting_are_joined_by_what_they_are(kind, said):
    (join,) = _join(Made(system=Made(splice_fittings=()), section=Made(layers=[Made(fabric=Made(kind=kind))])))
    assert join.why.working.text("us") == said


@pytest.mark.parametrize(("way", "more"), [("start", 0.21), ("end", 0.31)])
def test_a_run_pulled_to_an_end_gives_as_much_as_that_end(monkeypatch, way, more):
    """1 cm at the tie and 20 cm at the start, 30 at the end."""
    monkeypatch.setattr(stretch, "one_way", lambda path, bar, pull_n, start, give_m: (start, give_m))
    search = Made(gives=Made(tie_m=0.01, start_m=0.2, end_m=0.3), path=None, bar=None, pull_n=900.0)
    (pull,) = stretch._said(search, Made(way=way, splice_m=None), (), ((), ())).parts
    assert pull == (way == "start", pytest.approx(more))


def test_no_piece_is_cut_before_the_one_before_ends():
    """50 m are covered, 1 m overlaps: a splice at 75 m ends a piece of 26 m; one at 10 m would end it before it began."""
    search = _Search([], [], Rules(1.0, 5.0), {0: [(0.0, 10.0), (60.0, 75.0)]})
    assert list(search._cuts(0, RunNeed(100.0), 50.0, 60.0, 20.0, 1)) == [26.0]


def test_of_what_is_given_twice_the_most_counts():
    section = Made(system=Made(gives={"apron": 0.9, "pegs": 1.0}), extras=[Made(gives={"apron": 0.6, "pegs": 2.0})], layers=[])  # fmt: skip
    assert Section.gives.func(section) == {"apron": 0.9, "pegs": 2.0}


def test_ground_beside_a_line_taken_as_level_tilts_no_gate():
    it = line((0, 0, 5), (60, 0, 5), edits=[BARBED, {"do": "add_gate", "at_m": 20, "leaf_m": 3.6, "measured": True}])
    near = {"name": "near", "measured": {"points": [{"e_m": e, "n_m": 2.0, "h_m": 5.5} for e in (15.0, 30.0)], "source": {"kind": "legs", "points_read": 2}}}  # fmt: skip
    job = all_edits.apply(it.job, all_edits.read_edit({"do": "add_line", "given": near}))
    for level, found in ((False, 1), (True, 0)):  # of its two points one lies near the gate
        own = job.lines[0].model_copy(update={"measured": job.lines[0].measured.model_copy(update={"level": level})})
        here = fence_of(job.model_copy(update={"lines": (own, *job.lines[1:])}), "A")
        assert len(beside(here, course(own.measured))) == found
    bare = fence_of(job.model_copy(update={"lines": (job.lines[0].model_copy(update={"gates": ()}), job.lines[1])}), "A")  # fmt: skip
    assert beside(bare, course(bare.line)) == ()


def test_work_that_does_not_fit_the_clock_stays_as_it_was():
    problem = Problem((Activity("a", (Mode(5, ()),)),), np.ones((1, 3), np.int64))
    made = Schedule((0,), (5,), (0,))
    assert again(problem, made) is made
    longer = Problem(problem.activities, np.ones((1, 30), np.int64))
    assert again(longer, Schedule((7,), (12,), (0,))).starts == (0,)


def test_narrow_water_is_told_as_wide_as_it_is():
    narrow = Made(why="narrow", from_m=9.0, to_m=10.0, at_m=9.5, name="ditch")
    assert "1.000 m from post to post" in _water(Made(), narrow).title.text("metric")


@pytest.mark.parametrize(("unit", "text", "metric", "feet"), [("ft", "3 m", 1, 0), ("m", "3 ft", 0, 1), ("ft", "3", 0, 1), ("m", "3", 1, 0), (None, "3", 0, 0)])  # fmt: skip
def test_lengths_are_counted_by_the_unit_they_are_written_in(unit, text, metric, feet):
    read = Lengths(unit)
    read.metres(text)
    assert (read.metric, read.feet) == (metric, feet)


def test_posts_are_named_with_what_they_are_filled_with():
    it = do(do(line((0, 0, 5), (30, 0, 5), edits=[BARBED, SAND]), do="ask_post", at_m=0.0, fill="concrete"), do="ask_post", at_m=30.0, fill="gravel")  # fmt: skip
    made = plan(it)
    by = {n.key: set(n.posts) for n in take_off(it, made) if n.use == "fill"}
    assert made.posts[0].name in by["concrete"] and made.posts[-1].name not in by["concrete"]
    assert made.posts[-1].name in next(v for k, v in by.items() if k != "concrete")


def test_a_bend_close_to_an_end_is_none_of_the_run():
    """A run from 0 to 30 m: bends 9 and 12 cm from its start, and one of 2°, less than is noticed."""
    bends = {0.09: 15.0, 0.12: -15.0, 12.0: 2.0, 29.95: 15.0}
    way = Made(stations_m=np.array(list(bends)), turns_deg=lambda: np.array(list(bends.values())))
    posts = [Made(name="1", station_m=0.12), Made(name="2", station_m=12.0)]
    found = weave(FLAT, Made(course=way, posts=posts, system=Made(rule=lambda _: 5.0)), Made(from_m=0.0, to_m=30.0, posts=(0, 1)))  # fmt: skip
    assert [s.text("us") for s in found] == ["At post 1 the fabric passes on the right, outside of the bend: it bears on the post."]  # fmt: skip


def test_what_is_built_twice_is_paid_twice_over_the_years_asked():
    """300 of cost and 100 of labour, alike: 200, built twice in 20 years."""
    assert Candidate.yearly.fget(Made(cost=300.0, labour=100.0, builds=2, years=20.0)) == 20.0


def test_no_pegs_are_none():
    said = _foot_values(Made(section=Made(extras=[]), slope_m=(30.0,)), {})
    assert (said["pegs"], said["rings"]) == ("0", "0")


def test_the_post_that_leans_most_is_named_among_those_in_bends():
    posts = [Made(name="4", station_m=10.0), Made(name="9", station_m=20.0)]
    risks = [Made(post=k, lean_m=lean, asked_side_n=900.0, holds=k == 0) for k, lean in ((0, 0.01), (1, 0.04))]
    (fact,) = _risk(Made(posts=posts), Made(risks=risks))
    assert fact.value.text("metric") == "9 would not stay put; the worst leans 40 mm at 20.00 m"


@pytest.mark.parametrize(("outer", "filler", "pair"), [(12.5, 14.5, True), (14.5, 12.5, False), (7.0, 12.5, False), (12.5, 21.0, False), (10.0, 10.0, True)])  # fmt: skip
def test_two_gauges_of_wire_are_a_pair_the_thicker_first(outer, filler, pair):
    assert (gauge_pair(outer, filler) is not None) is pair


def test_who_is_busy_elsewhere_is_missing_in_every_skill_of_theirs():
    """Ann does both, Ben machines; Ann is away in the second quarter: one is there, nobody for wire, one for machines."""
    people = [Made(id="ann", skills=("wire", "machines")), Made(id="ben", skills=("machines",))]
    clock = Made(capacity=np.full((3, 3), 9), there=np.ones((2, 3), bool), plant=(), people=people, groups=(("wire",), ("machines",)), slot_at=int)  # fmt: skip
    free, there = _free(clock, [Made(who="ann", begins=1, ends=2)])
    assert free.tolist() == [[2, 1, 2], [1, 0, 1], [2, 1, 2]] and there.tolist() == [[True, False, True], [True, True, True]]  # fmt: skip


def test_a_wire_that_is_not_pulled_is_not_tightened_by_cold():
    wire = Made(steel=Crimped(0.0025), pull_n=0.0)
    assert Wire.cold_pull_n(wire, 30.0) == 0.0 and Wire.cold_pull_n(Made(steel=wire.steel, pull_n=900.0), 30.0) > 900.0


@pytest.mark.parametrize(("hinge", "nm"), [("first", 300.0 * (1.2 + 0.05 + 0.1)), ("last", 300.0 * (1.2 + 0.05 + 0.06))])  # fmt: skip
def test_a_leaf_turns_the_post_it_hangs_on(hinge, nm):
    gate = Made(posts_m=(0.2, 0.12), turn=Made(hinge=hinge), weight_n=300.0, leaf_m=2.4, kind=Made(hinge_gap_m=0.05))
    assert HungGate.moment_nm.fget(gate) == pytest.approx(nm)


@pytest.mark.parametrize(("quantity", "said"), [(2.5, "2.5 posts"), (2.04, "2 posts"), (1.0, "1 post"), (2.06, "2.1 posts")])  # fmt: skip
def test_amounts_are_whole_where_they_are(quantity, said):
    assert amount(quantity, "post").text("us") == said


@pytest.mark.parametrize(("ready", "waits"), [([0, 1, 2, 3], 0), ([0, 9, 9, 9], 0), ([0, 3, 9, 9], 2)])
def test_the_least_a_wait_takes(ready, waits):
    """By the quarter in which something ended, when the next may begin; 4 quarters in all."""
    assert _least_wait(np.array(ready), 4) == waits


def test_patches_are_told_in_order_along_the_line(monkeypatch):
    """A hump in the first metres of a bay and a low behind it."""
    gap = np.array([-0.5, -0.5, 0.05, 0.05, 0.6, 0.6])
    monkeypatch.setattr(lows, "edge_gaps", lambda plan, bay: (np.arange(6.0), gap))
    made = Made(bays=[Made(ground=Made(fill_m2=1.0, cut_m2=1.0))], limits=Made(gap_max_m=0.1, gap_min_m=0.0))
    assert [p.low for p in lows.patches(made)] == [False, True]


def test_two_gates_that_hang_otherwise_are_counted(monkeypatch):
    monkeypatch.setattr(compare, "_hangs", lambda gate: gate.way)
    one, two = ([Made(id=k, way=way) for k in ("g1", "g2")] for way in ("left", "right"))
    said, _ = compare._gates([(Made(id="A"), Made(gates=one))], [(Made(id="A"), Made(gates=two))])
    assert said == ["2 gates hang otherwise: openings made for their leaves"]


@pytest.mark.parametrize(("good_m", "north_m", "kept"), [(0.01, 0.9, False), (0.01, 1.1, True), (2.0, 5.0, False), (2.0, 6.5, True), (40.0, 15.5, True)])  # fmt: skip
def test_a_fix_says_something_new_beyond_a_step_or_three_times_its_scatter_of_five_metres_at_most(good_m, north_m, kept):  # fmt: skip
    here = Fix(0.0, 5.0, 50.0, 0.0, 4)
    north = Made(lon_deg=5.0, lat_deg=50.0 + np.degrees(north_m / EARTH_M), h_m=0.0, good_m=good_m)
    assert worth_keeping(here, north, 1.0) is kept


def test_nothing_to_do_takes_no_time():
    assert bound(Problem((), np.ones((1, 4), np.int64))) == 0


@pytest.mark.parametrize(("pace", "taken"), [("0.3 m", True), ("0.31 m", True), ("0.29 m", False), ("2.5 m", True), ("2.51 m", False)])  # fmt: skip
def test_a_pace_is_one_that_a_person_takes(pace, taken):
    if taken:
        assert read_book(f"pace {pace}\nE 50 paces").spots
    else:
        with pytest.raises(BadInput, match="nobody's"):
            read_book(f"pace {pace}\nE 50 paces")


@pytest.mark.parametrize(("blocked", "side_share", "boards"), [(False, 1.2, 1), (True, 1.2, 0), (False, 0.5, 0)])
def test_a_board_is_offered_to_an_end_that_fails_sideways_and_has_none(monkeypatch, blocked, side_share, boards):
    monkeypatch.setattr(standing, "_remedies", lambda plan, own: [])
    held = Made(post=0, side_share=side_share, leans=False, bends=False)
    ways = standing._end_remedies(Made(posts=[Made(station_m=3.0, block=blocked)]), [held])
    assert len(ways) == boards and all(w.edit["block"] and w.edit["at_m"] == 3.0 for w in ways)
    monkeypatch.setattr(standing, "_remedies", lambda plan, own: ["deeper"])
    assert standing._end_remedies(Made(posts=[Made(station_m=3.0, block=False)]), [held]) == ("deeper",)


def test_what_a_line_has_none_of_is_told_as_none():
    it = line((0, 0, 5), (40, 0, 5), edits=[{"do": "hang_fabric", "label": "9-39-6"}, SAND])
    said = _ground_values(it, plan(it), {})
    assert [said[k][0] for k in ("strand_pull", "concrete", "cover", "sewing", "seam_wire")] == [0.0] * 5


@pytest.mark.parametrize(("reached", "short"), [(0.748, True), (0.752, False), (None, True)])
def test_a_post_within_half_an_inch_is_as_deep_as_planned(reached, short):
    assert falls_short(Made(reached_m=reached), Made(planned_m=0.762)) is short


@pytest.mark.parametrize(("points", "length", "miss", "said", "back"), [(5, 400.0, 3.0, False, True), (5, 400.0, 90.0, True, True), (5, 400.0, 110.0, True, False), (3, 400.0, 3.0, True, False), (5, 3.0, 0.9, False, False)])  # fmt: skip
def test_a_line_that_ends_far_from_its_start_is_closed_by_a_leg(points, length, miss, said, back):
    assert returned(points, length, miss, said) is back


def test_what_hangs_is_bought_again_what_stands_is_not():
    """Of 1,000 of net for 800 of charges: fabric 200 and hanging 100 of them are done again, posts and an hour of setting are not: 3/8."""
    rows = [("fabric", "fabric", 200), ("post", "post", 400), (None, "hanging", 100), (None, "setting", 100)]
    charges = [Made(what="item", need=use and Made(use=use), step=step, lines={"A": cents}) for use, step, cents in rows]  # fmt: skip
    cost = Made(by_line=lambda: {"A": 1000}, charges=[*charges, Made(what="delivery", need=None, step="", lines={"A": 50})])  # fmt: skip
    assert rehung(cost, "A") == 375 and rehung(Made(by_line=dict, charges=[]), "A") == 0


@pytest.mark.parametrize(("flap", "ways"), [("heavy", 0), ("timber", 1)])
def test_the_heaviest_flap_is_offered_where_it_does_not_hang_yet(flap, ways):
    over = Made(built=Made(heavy=False, flap_key=flap), middle_m=9.0, key="A")
    assert len(_flap(over, {"name": "brook", "nose": "20 N", "wanted": "90 N"}).remedies) == ways
    assert _flap(Made(built=Made(heavy=True)), {}) is None


def test_a_new_gate_is_numbered_after_the_last():
    it = FLAT
    for at in (8.0, 20.0, 32.0):
        it = do(it, do="add_gate", at_m=at, leaf_m=2.4, measured=True, name="gate")
    it = do(do(it, do="remove_gate", id="g2"), do="add_gate", at_m=44.0, leaf_m=2.4, measured=True, name="gate")
    assert [g.id for g in it.gates] == ["g1", "g3", "g4"]


def test_a_run_is_pulled_as_was_said_last_of_a_place_within_it():
    ways = tuple(Made(at_m=at, way=way) for at, way in ((10.0, "start"), (20.0, "end"), (25.0, "start"), (30.0, "end")))
    own = Made(own=Made(pull=Made(ways=ways)))
    assert Fence.pulled_from(own, 10.0, 30.0) is ways[2] and Fence.pulled_from(own, 10.0, 21.0) is ways[1]
    assert Fence.pulled_from(own, 0.0, 10.0) is None


def test_a_dummy_gives_its_brace_the_moment_the_fence_will():
    """2,800 N at 0.65 m are 1,820 Nm, whatever height the member lies at."""
    given = {"pull_n": 2800.0, "pull_height_m": 0.65, "rail_height_m": 0.95, "top_m": 1.27, "end_post_m": 0.18, "loose_post_m": 0.15}  # fmt: skip
    told = calc("dummy", given)
    assert told["brace_sees_nm"] == pytest.approx(1820.0) == told["fence_gives_nm"] and told["member_at_m"] > 1.27
    assert told["member_n"] == pytest.approx(1820.0 / told["member_at_m"])


def test_even_spacing_is_told_with_the_posts_it_would_set_where_none_may_stand(monkeypatch):
    """Posts at 0, 5 and 10 m: the first stretch, which was kept free, bars one; the second was not kept."""
    monkeypatch.setattr(compare, "_too_long", lambda layout: 0)
    even = [Made(fill_m2=0.0, cut_m2=0.0, stations_m=(0.0, 5.0, 10.0), bays=[Made(worst_gap_m=0.1)])]
    barred = [Made(kept=True, from_m=4.0, to_m=6.0), Made(kept=False, from_m=9.0, to_m=11.0)]
    said = against_even(Made(even=even, layout=[Made(stations_m=(0.0, 4.0, 8.0, 10.0))], barred=barred)).text("metric")
    assert said == "Even spacing would take 1 fewer post and leave 100 mm under the wire, with 1 post where none may stand."  # fmt: skip


def test_bays_too_long_for_steep_ground_are_counted():
    """At most 3 m where it rises by 25 % or more: of 3, 3.2 and 3.2 m only the second is both, downhill as well as up."""
    bays = [Made(grade=0.3), Made(grade=-0.3), Made(grade=0.2)]
    steep = Made(limits=Made(steep=((0.25, 3.0),)), stations_m=(0.0, 3.0, 6.2, 9.4), bays=bays)
    assert compare._too_long(steep) == 1


@pytest.mark.parametrize(("angle", "share"), [(30.0, 3**0.5), (45.0, 1.0), (60.0, 3**-0.5)])
def test_a_strut_reaches_as_far_as_its_angle_has_it(angle, share):
    """On level ground: at 30° √3 times as far as it is high, at 60° a √3rd; its length by Pythagoras, and what is buried of it."""
    it = do(line((0, 0, 5), (30, 0, 5), edits=[{"do": "hang_fabric", "label": "9-39-6"}, SAND]), do="brace_end", kind="strut", angle_deg=angle, rail_share=0.8)  # fmt: skip
    strut, high = plan(it).struts[0], 0.8 * plan(it).fence_height_m
    assert strut.length_m - strut.buried_m == pytest.approx(high * (1 + share**2) ** 0.5)


def test_who_only_wants_to_see_the_fence_is_told_where_it_is_not_seen():
    it = do(line((0, 0, 5), (30, 0, 5), edits=[BARBED, SAND]), do="say_hold", hold={"visible": True})
    assert [s.code for s in hold_snags(it, plan(it), shipped())] == ["hold-visible"]
    assert hold_snags(FLAT, plan(FLAT), shipped()) == []


@pytest.mark.parametrize(("loads", "count", "carries"), [((900.0, 1000.0), 2, True), ((900.0, 1001.0), 2, False), ((), 0, False), ((500.0,), 1, True)])  # fmt: skip
def test_pullers_carry_where_the_hardest_hook_is_carried(loads, count, carries):
    run = Made(count=count, hooks=[Made(load_n=n) for n in loads], kind=Made(can_n=1000.0))
    assert RunPull.carries.fget(run) is carries


def test_one_reason_of_several_excuses_a_hole():
    """Reasons of another line and of yesterday beside one of this morning: the hole at ten is excused, one on line B is not."""
    morning = datetime(2026, 5, 4, 8)
    rows = [("dig_anyway", "C", 0), ("dig_anyway", "A", -30), ("dig_anyway", "A", 0), ("depth", "A", 2), ("depth", "B", 2)]  # fmt: skip
    stand = [Made(event=Made(kind=kind, line=ln, post="1"), order=(morning + timedelta(hours=h),)) for kind, ln, h in rows]  # fmt: skip
    assert [k.event.line for k in without_marks(stand, {"A": None, "B": None})] == ["B"]


def test_wind_below_six_metres_a_second_is_light():
    said = [weather_words(Weather(day=MONDAY, night_c=2, noon_c=9, rain_mm=0.4, wind_ms=w)).text("metric") for w in (5.9, 6.0)]  # fmt: skip
    assert said == ["2 °C to 9 °C, dry, light wind", "2 °C to 9 °C, dry, wind to 6 m/s"]


def test_rock_and_wet_ground_are_told_each_in_its_words():
    rows = [Made(stretches=((1, 2),), found=Made(kind="rock")), Made(stretches=((1, 2),), found=Made(kind="wet")), Made(stretches=(), found=Made(kind="rock"))]  # fmt: skip
    assert _things(rows) == {"rock": "rock was found on it", "wet": "some of it is wet"}
    assert _things(rows[2:]) == {}


@pytest.mark.parametrize(("height", "gauge", "diamond", "link"), [(48, 11, 2, True), (23, 11, 2, False), (48, 15, 2, False), (48, 11, 3.1, False)])  # fmt: skip
def test_chain_link_has_heights_gauges_and_diamonds_of_its_own(height, gauge, diamond, link):
    assert (_link(height, gauge, diamond) is not None) is link


def test_no_more_pieces_come_from_what_is_on_hand_than_are_wanted(monkeypatch):
    """Two of 2 m are wanted and three are cut there, one of 1 m and none is: two."""
    monkeypatch.setattr(supply, "ware_of", lambda need: Made(long_m=0.0))
    cut = Made(layout=[Made(name="have1", cuts_m=(2.0, 2.0, 2.0)), Made(name="new1", cuts_m=(1.0,))])
    need = Made(need=Made(), needs=[("A", Made(cuts_m=(2.0, 2.0, 1.0)))])
    assert _from_lots("rail", need, [Made(family="rail", cut=cut), Made(family="post", cut=cut)]) == 2
