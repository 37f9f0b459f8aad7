"""Small rules, each by hand on the case that tells its limit, sign or term from a neighbour's."""

from datetime import datetime, timedelta
from fractions import Fraction as F
from types import SimpleNamespace as Made

import numpy as np
import pytest
from crews import MONDAY, crew, job, person
from ground import BARBED, SAND, line
from places import apply, plan, snags_of
from pydantic import ValidationError

from gnomonic.core.calc import calc
from gnomonic.core.choose.siting import hung_at
from gnomonic.core.choose.typical import _on_posts
from gnomonic.core.days.bound import heads, tails
from gnomonic.core.days.clock import clock_of
from gnomonic.core.days.laying import Given, _earliest, lay
from gnomonic.core.days.progress import Rate, drifts, usual_minutes
from gnomonic.core.days.simulate import GRID, _pert
from gnomonic.core.days.solve import Solved
from gnomonic.core.days.words import _once, hands_words
from gnomonic.core.demand.section import Section
from gnomonic.core.edits import all as edits
from gnomonic.core.edits.all import read_edit
from gnomonic.core.edits.lines import named
from gnomonic.core.edits.measured import route_of
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.bar import Bar
from gnomonic.core.fabric.counter import _roll_length, nearest
from gnomonic.core.fabric.grouping import _Bin, _joined, group_large
from gnomonic.core.fabric.label import RollLabel
from gnomonic.core.fabric.layers import Width, _keeps, _placed
from gnomonic.core.fabric.lengths import Lengths as Cut
from gnomonic.core.fabric.mixed import RollKind, _choices
from gnomonic.core.fabric.wire import Crimped
from gnomonic.core.finish.cable import cables, span_it_can_m
from gnomonic.core.finish.crossing import flaps, longest_span_m
from gnomonic.core.ground.book_page import Lengths
from gnomonic.core.ground.course import LONGEST_M, course
from gnomonic.core.ground.found import wanted_posts
from gnomonic.core.ground.joined import check_circles, vertex_at
from gnomonic.core.ground.profile import Profile, half_slope
from gnomonic.core.ground.simplify import simplify
from gnomonic.core.ground.walking import EARTH_M, Fix, Watch
from gnomonic.core.haul.buying import Offer, Supplier, alone
from gnomonic.core.haul.work import minutes_of
from gnomonic.core.job.parts import Frame, Point, Stretch
from gnomonic.core.kept import KeptBy
from gnomonic.core.log.facts import Built
from gnomonic.core.log.upkeep import pulled_on
from gnomonic.core.plan import road
from gnomonic.core.plan.braces import Site, ea_ratio
from gnomonic.core.plan.crossings import rules_of
from gnomonic.core.plan.line import _full_bays
from gnomonic.core.pull.gear import puller, pullers_needed, takes
from gnomonic.core.pull.path import Path
from gnomonic.core.pull.release import let_go_joined
from gnomonic.core.pull.strands import strung
from gnomonic.core.pull.ways import Way
from gnomonic.core.say import Say
from gnomonic.core.setout.guide import CLEAR_M, REACH_M, _side
from gnomonic.core.setout.least_cost import Limits
from gnomonic.core.snags.all import _short_posts
from gnomonic.core.snags.standing import _side_fails
from gnomonic.core.soil.embed import Ground, Lean
from gnomonic.core.tell.compare import _built
from gnomonic.core.tell.facts import pull_facts
from gnomonic.core.tell.field_log import gap_planned_m
from gnomonic.core.tell.pull_facts import _enough
from gnomonic.core.tell.steps import _hazards, _post_values
from gnomonic.core.tell.tag_job import _bought
from gnomonic.core.tell.unchanged import unchanged

FLAT = line((0, 0, 5), (60, 0, 5), edits=[BARBED, SAND])


# --- what is said -------------------------------------------------------------------------------------------------------------
def test_gaps_are_told_from_the_least_of_all_bays_to_the_worst():
    bays = [Made(ground=Made(least_gap_m=a * 0.0254, worst_gap_m=b * 0.0254)) for a, b in ((3, 4), (1, 2), (2, 6))]
    same = unchanged(FLAT, line((0, 0, 5), (61, 0, 5)), Made(bays=bays), {"do": "decide", "key": "gap_max_m"})
    assert same.text("us") == "the plan is the same: the gaps planned run from 1 in to 6 in anyway"


def test_nothing_to_be_careful_of_is_no_sentence():
    assert _once([]) == []


def test_seven_kinds_of_work_are_named_the_most_first():
    kinds = ["end_posts", "braces", "unroll", "pull", "drive", "set", "splice", "hang"]
    tasks = [job(k, 8 - n, least=2, key=k) for n, k in enumerate(kinds)]
    (said,) = hands_words(tasks, {t.key: t.minutes[1] for t in tasks})
    assert said.count(",") == 6 and tasks[0].of.what in said and tasks[7].of.what not in said


def test_how_many_pullers_would_do():
    """Two and a half times what one carries, in the middle of the bar: three share it alike.  A hundred times: no bar takes so many."""
    kind = puller("lever")
    asked = [Made(kind=kind, drawn=Made(aim=Made(pull_n=kind.can_n * n), at_m=0.6, high_m=1.2)) for n in (2.5, 100.0)]
    assert [_enough(run) for run in asked] == ["3 do.", "no number of them does: take stronger ones."]


def test_a_crossing_that_grows_by_a_few_millimetres_is_the_same():
    one, two, three = (Made(built=Made(cable_key="c", flap_key="f", push_n=900.0, section=Made(span_m=m))) for m in (5.001, 5.004, 5.02))  # fmt: skip
    assert _built(one) == _built(two) != _built(three)


def test_rolls_bought_are_told_the_longest_first():
    text, values = _bought(Made(bought_m=(50.0, 100.0, 50.0)), 0.0)
    assert Say(text, values).text("metric") == "1 of 100.00 m and 2 of 50.00 m"
    assert Say(*_bought(Made(bought_m=(), new_rolls=3), 50.0)).text("metric") == "3 of 50.00 m"


def test_posts_within_half_a_metre_of_scrap_are_named():
    scrap = Made(kind=Made(group="hazard"), found=Made(kind="scrap", name="old wire"), stretches=((10.0, 20.0),))
    posts = [Made(name=n, fixed=False, station_m=at) for n, at in (("1", 9.4), ("2", 9.6), ("3", 20.4), ("4", 20.6))]
    (said,) = _hazards(Made(things=[scrap], posts=posts), "all")
    assert said.text("us").startswith("Posts 2 and 3: ")


def test_turns_are_told_the_least_first():
    """Turns of 90, 12 and 45°."""
    at = np.cumsum([[10, 0], [0, 10], [-10 * np.sin(np.pi / 15), 10 * np.cos(np.pi / 15)], [-10 * np.sin(np.pi * 57 / 180), 10 * np.cos(np.pi * 57 / 180)]], axis=0)  # fmt: skip
    it = line((0, 0, 5), *((float(e), float(n), 5) for e, n in at))
    same = unchanged(it, FLAT, Made(course=course(it.line)), {"do": "decide", "key": "corner_angle_deg"})
    assert same.text("us").endswith("its turns are 12°, 45°, 90°")


def test_posts_shared_and_posts_asked_for_are_too_short_each_in_its_words():
    rows = [Made(short_m=0.1, station_m=3.0, joined=("B",)), Made(short_m=0.1, station_m=6.0, joined=()), Made(short_m=0.0, station_m=9.0, joined=())]  # fmt: skip
    found = _short_posts(Made(section=Made(posts={}), fence_height_m=1.2, posts=rows))
    assert [(s.at_m, s.code == "less-deep") for s in found] == [(3.0, False), (6.0, True)]


def test_a_gap_is_held_against_the_bay_after_its_post():
    bays = [Made(from_post=k, ground=Made(worst_gap_m=m)) for k, m in enumerate((0.1, 0.2, 0.3))]
    assert [gap_planned_m(Made(bays=bays), Made(index=k)) for k in (0, 1, 2, 3)] == [0.1, 0.2, 0.3, None]


def test_a_run_just_over_a_roll_can_be_built():
    """100.3 m of line and what is wrapped at its ends are just over a roll of 330 ft: a splice, no hindrance."""
    it = line((0, 0, 5), (100.3, 0, 5))
    over = next(s for s in snags_of(it, plan(it)) if s.code == "just-over")
    assert not over.grave and over.title.text("us").startswith("Run 1 is ")


# --- edits, documents ----------------------------------------------------------------------------------------------------------
@pytest.mark.parametrize("data", ["hang", 5, None, {}, []])
def test_what_is_no_edit_is_refused(data):
    with pytest.raises(BadInput):
        read_edit(data)


def test_a_book_without_a_place_begins_at_the_origin():
    it = apply(FLAT, read_edit({"do": "write_book", "text": "N 0 E 40 m\nE 30 m", "lose": True}))
    assert next((p.e_m, p.n_m, p.h_m) for p in it.line.points) == (0.0, 0.0, 0.0)


@pytest.mark.parametrize("text", ["N 0 E 40 m\nE 0 m", "E 40 m\nE 0 m"])
def test_a_leg_of_no_length_is_none(text):
    with pytest.raises(BadInput):
        apply(FLAT, read_edit({"do": "write_book", "text": text}))


def test_services_are_asked_about_along_the_line_and_back_only_where_it_is_closed():
    square = [(0, 0, 0), (9, 0, 0), (9, 9, 0)]
    assert len(route_of(line(*square).line)) == 3 and route_of(line(*square, closed=True).line)[3] == (0.0, 0.0)


def test_a_stretch_has_some_length_and_half_a_frame_is_none():
    for wrong in (lambda: Stretch(from_m=3, to_m=3), lambda: Frame(kind="geographic", lat0_deg=50.0), lambda: Frame(kind="geographic", lon0_deg=5.0)):  # fmt: skip
        with pytest.raises(ValidationError):
            wrong()


def test_as_many_lengths_in_feet_as_in_metres_are_mostly_neither():
    told = [Lengths(None, metric=m, feet=f).mostly() for m, f in ((2, 2), (3, 2), (2, 3), (0, 0))]
    assert told == ["", "m", "ft", ""]


def test_the_end_of_a_closed_line_is_its_first_point():
    way = course(line((0, 0, 0), (9, 0, 0), (9, 9, 0), closed=True).line)
    assert (vertex_at(way, way.length_m), vertex_at(way, 18.0), vertex_at(way, 4.0)) == (0, 2, None)


@pytest.mark.parametrize("far", [100_500.0])
def test_a_line_too_long_is_told_in_kilometres(far):
    with pytest.raises(BadInput, match=f"the line is {far / 1000:.0f} km long; more than {LONGEST_M / 1000:.0f} km"):
        course(line((0, 0, 0), (LONGEST_M - 1, 0, 0)).line.model_copy(update={"points": (Point(e_m=0, n_m=0, h_m=0), Point(e_m=far, n_m=0, h_m=0))}))  # fmt: skip


def test_a_line_was_pulled_when_it_was_pulled_first():
    rows = [("A", "depth", 1), ("B", "pulled", 2), ("A", "pulled", 5), ("A", "pulled", 4), ("A", "gap", 3)]
    stand = [Made(event=Made(line=line, kind=kind), order=(datetime(2026, 5, day),)) for line, kind, day in rows]
    assert pulled_on(stand, "A") == datetime(2026, 5, 4).date() and pulled_on(stand, "C") is None


def test_twelve_lines_are_named_where_one_is_asked_for_that_is_not_there():
    it = FLAT.job
    many = it.model_copy(update={"lines": tuple(it.lines[0].model_copy(update={"id": c, "name": f"line {c}"}) for c in "ABCDEFGHIJKLMN")})  # fmt: skip
    with pytest.raises(BadInput) as refused:
        named(many, "Z")
    assert "L (line L)" in refused.value.sentence and "line M" not in refused.value.sentence


def test_lines_in_a_circle_that_another_hangs_on_are_found():
    """B stands on C, C on D and D on C: whoever is looked at first, it ends."""
    ways = {k: course(line(*at).line) for k, at in (("B", ((0, 0, 0), (0, 9, 0))), ("C", ((0, 9, 0), (9, 9, 0))), ("D", ((9, 9, 0), (0, 9, 0))))}  # fmt: skip
    joins = [Made(line="B", end="end", on="C", at_m=0.0), Made(line="C", end="start", on="D", at_m=9.0), Made(line="D", end="end", on="C", at_m=0.0)]  # fmt: skip
    with pytest.raises(BadInput, match="itself stands on"):
        check_circles(Made(joins=joins, line=lambda k: Made(name=k)), ways)


# --- ground and walking ------------------------------------------------------------------------------------------------------
def test_half_of_the_legs_are_steeper_than_the_slope_in_the_middle():
    """Rises of 1, −2 and 8 m over 10, 4 and 100 m: 10, 50 and 8 %; half are steeper than 10 %."""
    assert half_slope(np.array([10.0, 4.0, 100.0]), np.array([1.0, -2.0, 8.0])) == pytest.approx(0.1)


def test_after_a_long_pause_nobody_has_walked_for_all_of_it():
    """Ten seconds' walk are allowed and what fixes scatter, however long nothing came: 2 km away after an hour is a jump."""
    watch = Watch(fastest_mps=3.0)
    north = 2000 / EARTH_M * 180 / np.pi
    assert watch.judge(Fix(0.0, 5.0, 50.0, 0.0, 4)) == "good"
    assert watch.judge(Fix(3600.0, 5.0, 50.0 + north, 0.0, 4)) == "jump"


def test_a_string_that_a_dip_takes_out_of_reach_stands_on_a_pole_there():
    """A dip deeper than a hand reaches below the string needs a pole at its bottom; one a hand short of that needs none."""
    poles = []
    for deep in (REACH_M - 1.0 + 0.1, REACH_M - 1.0 - 0.1):
        ground = Profile(np.array([0.0, 10.0, 20.0]), np.array([0.0, -deep, 0.0]))
        poles.append(len(_side(ground, 0.0, 20.0, 1.0).sights))
    hump = Profile(np.array([0.0, 10.0, 20.0]), np.array([0.0, 1.0 - CLEAR_M / 2, 0.0]))
    assert poles == [1, 0] and len(_side(hump, 0.0, 20.0, 1.0).sights) == 1


def test_something_that_asks_for_a_post_has_it_in_its_middle():
    asks = [Made(kind=Made(effect=e), stretches=((10.0, 12.0),)) for e in ("post", "no_post")]
    assert wanted_posts(asks) == [11.0]


def test_heights_of_a_grid_see_what_is_twice_a_cell_wide():
    it = apply(FLAT, read_edit({"do": "drape", "cell_m": 2.0, "heights_m": [5, 5], "stations_m": [0, 60]}))
    (grid,) = [s for s in snags_of(it, plan(it)) if s.code == "grid"]
    assert "narrower than 4.000 m" in grid.consequence.text("metric")


def test_ground_measured_by_another_line_tilts_a_gate_again_where_it_is_mended():
    """A line runs beside a gate half a metre higher than it, then is lowered: with what the plan before knew, or without, the plan is the same."""
    it = line((0, 0, 5), (60, 0, 5), edits=[BARBED, {"do": "add_gate", "at_m": 20, "leaf_m": 3.6576, "measured": True}])
    beside = {"do": "add_line", "given": {"name": "beside", "measured": {"points": [{"e_m": e, "n_m": 2.0, "h_m": 5.5} for e in (15.0, 30.0)], "source": {"kind": "legs", "points_read": 2}}}}  # fmt: skip
    high = edits.apply(it.job, read_edit(beside))
    low = edits.apply(high, read_edit({"do": "set_heights", "line": "B", "first": 0, "heights_m": [4.5, 4.5]}))
    memo = road.PlanMemo()
    tilts = [road.plan(job, memo).lines["A"].gates[0].across for job in (high, low)]
    assert tilts[0][0] > 0.1 and tilts[1][0] < -0.1 and tilts[1] == road.plan(low).lines["A"].gates[0].across


def test_ground_goes_on_past_the_seam_of_a_closed_line():
    """A triangle of 12, 9 and 15 m that rises to 3 m at its second corner: a metre before its start is a metre before its end."""
    it = line((0, 0, 0), (12, 0, 3), (12, 9, 3), closed=True)
    way = course(it.line)
    site = Site(it, plan(FLAT).section, way, 1.2, 0.1)
    assert site.ground([-1.0, way.length_m - 1.0, way.length_m + 4.0, 4.0]) == pytest.approx([0.2, 0.2, 1.0, 1.0])


@pytest.mark.parametrize(("off_m", "kept"), [(0.07, 3), (0.04, 2)])
def test_a_point_that_stands_off_by_more_than_half_the_tolerance_is_kept(off_m, kept):
    assert len(simplify(np.array([[0.0, 0.0, 0.0], [5.0, off_m, 0.0], [10.0, 0.0, 0.0]]), 0.1)) == kept


# --- posts, soil, braces ----------------------------------------------------------------------------------------------------
@pytest.mark.parametrize(
    ("high", "posts"), [(9.5, [3, 6, 9 - 1.25]), (10.0, [3, 6, 9]), (6.5, [3, 4.75]), (3.5, [1.75]), (2.9, [])]
)
def test_an_odd_bay_too_short_to_stand_a_post_is_shared(high, posts):
    """Full bays of 3 m; an odd one under ¾ m halves what is left from the post before: 6 … 9.5 m at 7.75."""
    assert _full_bays(0.0, high, Limits(3.0, 0.1, 0.0, 0.2, 4.0, 8.0)) == pytest.approx(posts)


def test_an_end_that_only_leans_fails_sideways():
    rows = [(1.2, False, False), (0.5, True, False), (0.5, False, True), (0.5, False, False)]
    assert [_side_fails(Made(side_share=s, leans=a, bends=b)) for s, a, b in rows] == [True, True, True, False]


def test_a_post_that_does_not_turn_turns_about_nothing():
    assert Lean(0.02, 0.0).turns_about_m == 0.0 and Lean(0.02, 0.04).turns_about_m == 0.5


def test_width_for_a_force_holds_just_that_force():
    clay, sand = Ground("clay", cu_pa=50e3), Ground("sand", gamma_n_m3=17e3, kp=3.0)
    for soil in (clay, sand):
        wide = soil.width_for_m(3000.0, 0.9, 0.6)
        assert soil.ultimate_n(wide, 0.9, 0.6) == pytest.approx(3000.0, rel=1e-6)
    assert clay.width_for_m(1e9, 0.9, 0.6) is None and sand.width_for_m(3000.0, 0.0, 0.6) is None


def test_a_welded_brace_is_pipe_throughout():
    assert ea_ratio(plan(FLAT).section, "welded") == 1.0


def test_a_brace_wire_against_its_rail():
    """Two turns are four strands of 9 gauge (0.1483 in, 11.14 mm², 200 GPa): 8.915 MN; a 4 in round of wood at 8 GPa: 64.86 MN."""
    assert ea_ratio(plan(FLAT).section, "h") == pytest.approx(8.915 / 64.86, rel=1e-3)


def test_concrete_a_post_always_stands_in_is_no_work_of_its_own():
    """Asked for round a post that is otherwise tamped it is charged; what the barrier's own posts stand in is not."""
    asked = apply(FLAT, read_edit({"do": "ask_post", "at_m": 0.0, "fill": "concrete"}))
    yard = line((0, 0, 5), (30, 0, 5), edits=[{"do": "hang_barrier", "system": "chainlink", "label": "48-11-2"}])
    one, none, always = (minutes_of(plan(it))["concrete"] for it in (asked, FLAT, yard))
    assert one > 0 and none == 0 and any(p.fill == "concrete" for p in plan(yard).posts) and always == 0


def test_strands_tightened_one_after_another_are_drawn_once():
    """Ends that give nothing: every strand is drawn to its own stretch in the first round, and nothing changes after."""
    made = strung([900.0, 1200.0], [3000.0, 3000.0], 0.0, 0.02)
    assert made.drawn_m == pytest.approx((0.3, 0.4)) and made.rounds_n == ((900.0, 1200.0),)


def test_a_hole_in_rock_is_dearer_and_one_on_a_root_is_not():
    """A hole or its pilot met rock: so many minutes each (the trade's)."""
    first = plan(FLAT).posts[0].name
    minutes = []
    for met, pilot in (("rock", None), ("root", None), ("root", "rock"), (None, None)):
        known = {"A": (Built(first, 0.0, 0.9, met=met, pilot_met=pilot),)}
        minutes.append(minutes_of(road.plan(FLAT.job, known=known).lines["A"])["rock"])
    assert minutes[0] == minutes[2] > 0 == minutes[1] == minutes[3]


def test_what_the_thickest_rope_spans_carries_its_own_weight_too():
    rules = Made(most_m=1e9, sag=0.1, clip_share=0.8, rest_factor=5.0)
    size, flap = list(cables().values())[-1], next(iter(flaps().values()))
    weighs = (flap.kg_m2 * 1.2 + size.kg_m) * 9.80665
    assert longest_span_m(rules, 1.2) == pytest.approx(span_it_can_m(weighs, 0.1, 0.8 * size.break_n / 5.0))


def test_lines_that_pull_on_one_post_pull_together():
    """3 kN east and 4 kN north are 5 kN together, to the north-east (37° from north); what their braces lift adds."""
    east, north = (Made(pull_n=n, bearing_deg=b, uplift_n=u, name=k) for n, b, u, k in ((3000.0, 90.0, 400.0, "A"), (4000.0, 0.0, 100.0, "B")))  # fmt: skip
    both, lift = pull_facts([east, north])
    assert both.value.text("metric") == "5.0 kN together, to N 37°00' E" and lift.value.text("metric") == "500 N"
    (one,) = pull_facts([Made(pull_n=3000.0, bearing_deg=90.0, uplift_n=0.0, name="A")])
    assert one.name == "A line pulls on it" and one.value.text("metric").startswith("3.0 kN, to ")


def test_cattle_lean_on_a_crossing_and_sheep_do_not():
    rules = [rules_of(Made(hold=Made(animals=[Made(animal=a)])), plan(FLAT).section) for a in ("cattle", "sheep")]
    assert rules[0].nose_n > rules[1].nose_n


def test_a_line_of_two_posts_has_no_line_post():
    it = line((0, 0, 5), (1.2, 0, 5), edits=[BARBED])
    made = plan(it)
    assert [p.kind for p in made.posts] == ["terminal", "terminal"] and _post_values(made)["line_top"] == (0.0, "cut")


def test_a_fitting_s_worth_lies_where_it_is_fitted():
    """Two staples on a line post and three clips: of the staples 2 × 0.7."""
    post = Made(name="3", kind="steel", fixed=False, role="line", fittings=[Made(item="staple", count=2, per_end=False), Made(item="clip", count=3, per_end=False)])  # fmt: skip
    worth = _on_posts(Made(posts=("3",), use="fitting", of="staple", each=0.7), Made(posts=[post]))
    assert worth == pytest.approx({"end": 0, "run_end": 0, "brace": 0, "line": 1.4})


def test_a_gate_can_t_hang_beyond_its_line():
    it = line((0, 0, 5), (60, 0, 5), edits=[BARBED, {"do": "add_gate", "at_m": 20, "leaf_m": 3.6576, "measured": True}])
    made = plan(it)
    (gate,) = made.gates
    with pytest.raises(BadInput) as refused:
        hung_at(it, made, gate, 59.0)
    assert refused.value.said.text("metric") == f"the gate hangs between 0 and {60 - gate.opening_m:.2f} m of this line"


def test_a_joint_takes_all_wires_or_none():
    joint = Made(thin_m=0.002, most_m=0.004)
    assert [takes(joint, d) for d in ([0.0025, 0.003], [0.0025, 0.005], [0.001, 0.003])] == [True, False, False]


def test_a_joint_let_go_is_one_pull_on_both_sides():
    """300 and 120 m that drag 2 N a metre, drawn to 2 kN at their joint, which gives a centimetre: what is left at it is the same from either side."""
    bar = Bar(((Crimped(0.00251), 1),))
    made = let_go_joined(bar, [Path(300.0, (), 2.0), Path(120.0, (), 2.0)], 2000.0, 0.010)
    assert made[0].end_n == pytest.approx(made[1].end_n, abs=0.01) and 1500 < made[0].end_n < 2000


def test_pullers_on_tall_fabric_are_three_at_least_and_more_where_it_takes_more():
    kind = puller("lever")
    assert [pullers_needed(kind.can_n * n, 1.2, 2.4, kind) for n in (0.5, 2.5, 3.5)] == [3, 3, 4]


def test_a_run_pulled_both_ways_is_drawn_twice():
    parts = [Made(way=w) for w in ("both", "start", "end")]
    assert Way.pulls.fget(Made(parts=parts)) == 4


def test_what_a_post_in_rock_holds_just_so_is_enough():
    given = {"method": "rock", "soil": "sand", "b_m": 0.3, "e_m": 0.6, "depth_planned_m": 0.9, "depth_reached_m": 0.6, "gamma_n_m3": 17000.0, "kp": 3.0, "factor": 1.0}  # fmt: skip
    holds = calc("embed", {**given, "pull_n": 1.0})["hu_n"]
    assert [calc("embed", {**given, "pull_n": holds * k})["ok"] for k in (1.0, 1.001)] == [True, False]


def test_a_corner_post_in_a_forbidden_stretch_is_named_as_one():
    it = line((0, 0, 5), (60, 0, 5), (60, 60, 5), edits=[BARBED, {"do": "forbid", "from_m": 59.0, "to_m": 61.0, "reason": "old well"}])  # fmt: skip
    (said,) = [s.title.text("metric") for s in snags_of(it, plan(it)) if s.code == "forbidden"]
    assert said == "The corner post at 60.00 m stands in old well"


# --- days, rolls, buying --------------------------------------------------------------------------------------------------
def test_proven_where_nothing_can_end_sooner():
    assert [Solved(None, fair, 5).proven for fair in (4, 5, 6)] == [True, True, False]


def test_times_of_a_task_have_the_mean_that_pert_says():
    """(least + 4 · usual + most)/6 (common practice), weighed by how often the normal throw comes."""
    table = _pert(0.5, 2.0)
    weight = np.exp(-(GRID**2) / 2)
    assert (table * weight).sum() / weight.sum() == pytest.approx((0.5 + 4 + 2) / 6, rel=2e-3)
    assert table[0] >= 0.5 and table[-1] <= 2.0


def test_marks_long_in_do_not_bring_a_task_forward():
    dig = job("end_holes", 2)
    begins = datetime.combine(MONDAY + timedelta(days=2), datetime.min.time())
    early, none, late = (
        _earliest(dig, Given(begins, marks=marks))
        for marks in ({"A": MONDAY - timedelta(days=7)}, {}, {"A": MONDAY + timedelta(days=3)})
    )
    assert early == none == begins < late


def test_lengths_are_reckoned_in_whole_millimetres_to_the_safe_side():
    """A need half a millimetre over a roll takes two; two rolls lapped by 0.3004 m lack what they just had at 0.3 m."""
    assert [group_large([m], [], 10.0, 0.3, 1.0)[0][0] for m in (10.0, 10.0005)] == [1, 2]
    assert [group_large([19.7], [], 10.0, lap, 1.0)[0][0] for lap in (0.3, 0.3004)] == [2, 3]
    assert [group_large([9.0], [own], 10.0, 0.3, 1.0)[1][0][1] for own in (9.0, 8.9996)] == [(0,), ()]


def test_no_grouping_has_fewer_rolls_than_its_metal_takes():
    """Two runs of 19.7 m and rolls of 10 m lapped by 0.3 m: each is spliced once at least, 39.4 + 0.6 m are four rolls; with the offcut of 12 m three."""
    assert Cut(need=[19700, 19700], own=[], roll=10000, lap=300).least_splices() == 2
    assert Cut(need=[19701, 19700], own=[], roll=10000, lap=300).least_rolls() == 5
    assert Cut(need=[19700, 19700], own=[12000], roll=10000, lap=300).least_rolls() == 3


def test_a_rate_one_has_said_oneself_is_no_drift():
    found = {"fasten": Rate("fasten", 1.5, 3, False), "pull": Rate("pull", 1.5, 0, True)}
    assert len(drifts(found, {"fasten": 6.0, "pull": 30.0}, {"fasten": "post", "pull": "run"})) == 1


def test_as_many_results_are_kept_as_is_said():
    kept, things, made = KeptBy(2), [[1], [2], [3]], []
    for thing in (*things[:2], *things[:2], things[2], things[0]):
        kept.of(thing, None, lambda thing=thing: made.append(thing[0]))
    assert made == [1, 2, 3, 1], "two are kept, the one not asked for longest goes"


def test_work_of_which_there_is_none_has_no_rate():
    rows = [job("fasten", 1, quantity=0.0), job("pull", 2, unit="run", quantity=4.0), job("set", 1, quantity=0.5)]
    assert usual_minutes(rows, crew()) == {"pull": 30.0, "set": 120.0}


def test_choices_of_rolls_come_the_cheapest_first_and_once_each():
    """Of 50 and 100 m rolls at 5 and 9: none is no choice; then 5, 9, 10 (two short), 14 (one of each, once), 15, 18 …"""
    kinds = [RollKind(50.0, 5.0), RollKind(100.0, 9.0)]
    found = [row for row, _ in zip(_choices(kinds), range(8), strict=False) if row[0] > 0]
    assert [cost for cost, _ in found][:5] == [5, 9, 10, 14, 15] and len({counts for _, counts in found}) == len(found)


def test_a_layer_that_would_lap_all_of_the_one_below_is_none():
    low = Width("w", 0.3, 0.1)
    assert _placed([low, low], 0.3) is None and _placed([low, low], 0.2)[1].bottom_m == pytest.approx(0.1)


def test_a_coarse_layer_above_a_fine_one_closes_no_low_band():
    """Fine mesh of 5 cm to half a metre, coarse above: closed to half a metre, not to 0.6."""
    layers = _placed([Width("fine", 0.5, 0.05), Width("coarse", 1.0, 0.1)], 0.1)
    assert _keeps(layers, [(0.0, 0.5, 0.05)]) and not _keeps(layers, [(0.0, 0.6, 0.05)])


def test_every_kind_of_plant_has_a_row_of_its_own():
    clock = clock_of(crew(plant=("auger", "driver", "pullers")), MONDAY)
    assert [clock.resource(p) for p in clock.plant] == [1 + len(clock.groups) + k for k in range(3)]
    assert clock.capacity.shape[0] == 1 + len(clock.groups) + 3


def test_what_waits_for_settling_is_a_fortnight_from_its_end():
    """Four quarters, a fortnight and four more.  Begun first they end before 330, ten days of 33 quarters; the shortest a fortnight can be is
    the nine days after one that is used up to its evening: 4 + 297 + 4."""
    waits = [job("end_posts", 1), job("gates", 1, [("A.1.end_posts", 14)], unit="gate")]
    problem = lay(waits, crew(person("Ann")), Given(MONDAY)).problem
    assert (tails(problem), heads(problem).tolist()) == ([305, 4], [0, 330])


def test_parts_of_a_long_task_follow_each_other():
    """Two at once are there on two days a week: a task of 60 hours for two is done in parts, one after the other."""
    laid = lay([job("pull", 60, least=2, unit="m")], crew(person("Ann"), person("Ben", range(2))), Given(MONDAY))
    acts = laid.problem.activities
    assert len(acts) > 1 and [[p.key for p in a.after] for a in acts] == [[], *([b.key] for b in acts[:-1])]


def test_what_is_left_of_three_rolls_makes_up_one_exactly():
    """Three rolls of 9 m with 3 m free each, not lapped: the third is saved with nothing left; with a lap it is not."""
    bins = lambda: [_Bin(3000, runs=[k]) for k in range(3)]  # noqa: E731
    saved = _joined(Cut(need=[6000] * 3, own=[], roll=9000, lap=0), bins())
    assert saved is not None and (saved[-1].free, saved[-1].rolls, sorted(saved[-1].runs)) == (0, 2, [0, 1, 2])
    assert _joined(Cut(need=[6000] * 3, own=[], roll=9000, lap=1), bins()) is None


def test_what_is_not_needed_is_not_missing():
    seller = Supplier("s", 0, 0, (Offer("clip", F(100), 500, None),))
    made, missing = alone({"clip": F(40), "post": F(0)}, seller)
    assert made is not None and made.total == 500 and missing == []
    assert alone({"clip": F(40), "post": F(1)}, seller) == (None, ["post"])


# --- labels and shelves ---------------------------------------------------------------------------------------------------
def test_a_chain_link_without_a_height_is_nearest_to_the_lowest():
    assert nearest(RollLabel("chain_link"))[0].height_m == pytest.approx(48 * 0.0254)


def test_up_to_ten_feet_is_a_height_and_more_is_a_roll():
    assert _roll_length("woven 10 ft")[2] == 120 and _roll_length("woven 330 ft")[1] == pytest.approx(100.584)
    with pytest.raises(Exception, match="not sold"):
        _roll_length("woven 11 ft")


def test_plastic_in_one_layer_is_plastic():
    both = Made(layers=[Made(fabric=Made(plastic=False))], linings=[Made(plastic=True)])
    assert Section.plastic.fget(both) and not Section.plastic.fget(Made(layers=both.layers, linings=[]))
