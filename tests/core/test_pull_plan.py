"""A line's pulls: how hard, from where, with what, and what is told of it.  Expectations by hand, from the trade and the physics."""

import math
import re
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from places import apply, demo_fences, fence, plan

from gnomonic.core.edits.all import read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.bar import Bar
from gnomonic.core.fabric.fabrics import fabrics, wires
from gnomonic.core.fabric.wire import ALPHA_STEEL, Crimped
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.core.plan.stretch import stretching, tail_m
from gnomonic.core.pull.aim import Days, aim
from gnomonic.core.pull.climate import climate, climates
from gnomonic.core.pull.dummy import dummy
from gnomonic.core.pull.gear import bar_start, clicks, hooked, joints, puller, pullers, pullers_needed, takes, ties
from gnomonic.core.pull.highs import highs, hung_over
from gnomonic.core.pull.strands import strung
from gnomonic.core.tell.pull_facts import run_facts, wire_rows
from gnomonic.core.tell.pull_laying import laying, tie_advice, weave
from gnomonic.core.tell.pull_order import run_order
from gnomonic.core.tell.pulling import dummy_of, ends_pulled, ok, verdict, way_words
from gnomonic.standins.weather import forecast

FT = 0.3048
NINE = Bar(((Crimped(0.00251, 0.004, 0.1524), 2), (Crimped(0.00193, 0.004, 0.1524), 7)))


def line_of(*legs, heights=None):
    """A line by (length, turn before it in degrees) from due east, and heights at its points."""
    east, north, bearing, points = 0.0, 0.0, 90.0, [(0.0, 0.0)]
    for long, turn in legs:
        bearing += turn
        east, north = east + long * math.sin(math.radians(bearing)), north + long * math.cos(math.radians(bearing))
        points.append((east, north))
    up = heights or [10.0] * len(points)
    made = tuple(Point(e_m=e, n_m=n, h_m=h) for (e, n), h in zip(points, up, strict=True))
    return MeasuredLine(points=made, source=Source(kind="drawn", points_read=len(points)))


def edited(it, *edits):
    for edit in edits:
        it = apply(it, read_edit(edit))
    return it


def pulls(it, day_c=10.0):
    made = plan(it)
    return made, stretching(it, made, day_c)


STRAIGHT = fence("straight", line_of((100.0, 0.0)))
ROUND_CORNERS = {"do": "decide", "key": "corner_angle_deg", "value": 80}
ZIGZAG = edited(fence("zigzag", line_of((30, 0), (30, 45), (30, -60), (30, 45))), ROUND_CORNERS)


# --- how hard ------------------------------------------------------------------------------------------------------------
def test_half_the_curve_on_the_coldest_night_is_less_today():
    """Half of the fillers at 0.5495 %; 30 K of cold take 11.7e-6·30 = 0.0351 %: pulled to 0.5144 %."""
    found = aim(NINE, Days(15.0, -15.0, 35.0))
    assert found.by == "curve"
    assert NINE.strain(found.pull_n) == pytest.approx(0.005495 - 0.000351, abs=2e-6)
    assert max(o for o in NINE.out(found.cold_n) if o is not None) == pytest.approx(0.5, abs=1e-4)
    assert found.pull_n < 2801 < found.cold_n + 1


def test_a_high_tensile_wire_stops_at_its_working_tension():
    wire = Bar(((Crimped(0.0025146, 0.0025, 0.12), 13),))
    found = aim(wire, Days(-10.0, -15.0, 30.0), (1000.0,))
    assert found.by == "working" and found.pull_n == pytest.approx(13_000, rel=1e-4)


def test_a_straight_wire_pulled_in_heat_is_pulled_to_less():
    """EA·α = 993 kN·11.7e-6 = 11.6 N a kelvin: 1400 N on a night 60 K colder is 703 N today."""
    found = aim(Bar(((Crimped(0.0025146), 1),)), Days(35.0, -25.0, 38.0), (1112.0,), 1400.0)
    assert found.by == "ends"
    assert found.pull_n == pytest.approx(1400 - 60 * 11.62, abs=3)


def test_what_would_hang_slack_on_the_hottest_day_is_said():
    wire = Bar(((Crimped(0.0025146), 1),))
    cold_pull = aim(wire, Days(-30.0, -34.0, 41.0), (500.0,))
    assert cold_pull.slack and cold_pull.hot_n == 0.0
    assert cold_pull.slack_n == pytest.approx(71 * ALPHA_STEEL * wire.wires[0][0].ea_n, rel=1e-6)


@given(st.sampled_from(sorted(climates())), st.floats(0, 1))
def test_every_day_of_every_climate_keeps_half_the_curve(key, share):
    of = climate(key)
    day = of.coldest_c + share * (of.hottest_c - of.coldest_c)
    found = aim(NINE, Days(day, of.coldest_c, of.hottest_c))
    assert max(o for o in NINE.out(found.cold_n) if o is not None) <= 0.5 + 1e-6
    assert not found.slack  # a curve takes up any heat there is: why it is left in


def test_a_day_colder_than_the_record_is_refused():
    with pytest.raises(BadInput, match="colder than the record"):
        climate("oceanic").check_day(-40.0)
    with pytest.raises(BadInput) as refused:
        edited(STRAIGHT, {"do": "set_pull", "temp_c": 50.0})
    assert refused.value.field == "temp_c"
    with pytest.raises(BadInput, match="no climate"):
        edited(STRAIGHT, {"do": "set_climate", "climate": "lunar"})


def test_the_weather_desk_says_the_same_twice_and_stays_within_the_record():
    from datetime import date, timedelta

    for key, of in climates().items():
        for k in range(0, 365, 9):
            day = date(2026, 1, 1) + timedelta(days=k)
            said = forecast(key, day, 1, "somewhere")[0]
            assert [said] == forecast(key, day, 1, "somewhere")
            assert of.coldest_c <= said.night_c < said.noon_c <= of.hottest_c
            assert of.check_day(said.working_c) == said.working_c


# --- with what -----------------------------------------------------------------------------------------------------------
def test_two_pullers_balance_a_pull_that_acts_low():
    """Pullers at 0.25 and 0.95 m of a bar of 1.2, 2800 N at 0.5 m: about the lower one 2800·0.25 = upper·0.7: 1000 N, 1800 below."""
    low, high = hooked(2800.0, 0.5, 1.2, 2)
    assert (low.at_m, low.load_n) == (pytest.approx(0.25), pytest.approx(1800))
    assert (high.at_m, high.load_n) == (pytest.approx(0.95), pytest.approx(1000))


@given(st.floats(100, 30_000), st.floats(0.1, 1.0), st.floats(0.9, 2.6), st.integers(1, 6))
def test_loads_on_a_bar_balance(pull_n, share, high_m, count):
    rows = hooked(pull_n, share * high_m, high_m, count)
    assert sum(h.load_n for h in rows) == pytest.approx(pull_n)
    if count > 1:
        assert sum(h.load_n * h.at_m for h in rows) == pytest.approx(pull_n * share * high_m, rel=1e-6)


def test_no_puller_and_too_weak_pullers():
    with pytest.raises(BadInput, match="one at least pulls"):
        hooked(2800.0, 0.5, 1.2, 0)
    with pytest.raises(BadInput, match="0 pullers can't draw it"):
        edited(STRAIGHT, {"do": "set_pull", "pullers": 0})
    with pytest.raises(BadInput, match="no puller"):
        edited(STRAIGHT, {"do": "set_pull", "puller": "tractor"})
    weak = puller("strap")
    assert pullers_needed(2500.0, 0.6, 1.2, weak) == 2
    assert pullers_needed(9000.0, 0.6, 1.2, weak) == 3
    assert pullers_needed(60_000.0, 0.6, 1.2, weak) == 0
    assert pullers_needed(2500.0, 1.0, 2.4, puller("chain")) == 3  # tall fabric: top, middle, bottom


def test_four_parts_of_rope():
    """80 lb of the hand through four sheaves that leave 92 % each: 0.92 + 0.846 + 0.779 + 0.716 = 3.26 times."""
    ropes = pullers()["ropes"]
    assert ropes.advantage == pytest.approx(3.262, abs=0.002)
    assert ropes.can_n == pytest.approx(350 * 3.262, abs=1)


def test_where_the_bar_starts():
    """330 ft: 0.55 m taken up, 0.15 + 0.2 m loose, 2 ft of tail: 1.51 m, under 8 ft; a long soft run needs more."""
    short = bar_start(0.55, 100.0, 0.61)
    assert short.least and short.back_m == pytest.approx(8 * FT)
    long = bar_start(1.6, 300.0, 0.61)
    assert not long.least and long.back_m == pytest.approx(1.6 + 0.15 + 0.6 + 0.61)
    assert clicks(0.90, pullers()["chain"]) == (48, 1)
    assert clicks(0.91, pullers()["chain"])[1] == 2


def test_the_dummy_brace_gives_the_brace_the_moment_the_fence_will():
    """2800 N at 0.65 m, member 4 in over a fabric of 1.27 m: 2800·0.65/1.37 = 1328 N; 1472 at the loose post's foot."""
    made = dummy(2800.0, 0.65, 0.95, 1.27, (0.18, 0.15))
    assert made.member_at_m == pytest.approx(1.37)
    assert made.member_n * made.member_at_m == pytest.approx(2800 * 0.65)
    assert made.member_n + made.foot_n == pytest.approx(2800)
    assert made.member_cut_m == pytest.approx(1.2 - 0.165)
    with pytest.raises(BadInput, match="above the permanent rail"):
        dummy(2800.0, 0.65, 0.95, 1.27, (0.18, 0.15), member_at_m=0.9)
    with pytest.raises(BadInput, match="posts alone take"):
        dummy(2800.0, 0.65, 0.95, 1.27, (0.18, 0.15), off_m=0.1)


def test_what_ends_and_splices_take():
    assert not takes(joints()["lap"], [0.00343])  # 10 gauge: too stiff to lap
    assert takes(joints()["sleeve"], [0.0025, 0.0019])
    assert ties()["clip"].slip_m < ties()["tie"].slip_m < 0.15  # less than a stay


# --- many strands --------------------------------------------------------------------------------------------------------
def test_each_strand_tightened_lets_the_others_down():
    """Two of 5000 N/m on ends that give 1e-5 m/N: drawn to 1000 N the second moves the ends, the first is left with 952."""
    two = strung([1000.0] * 2, [5000.0] * 2, 1e-5, near=0.01)
    assert two.rounds_n[0] == (pytest.approx(952.4, abs=0.1), 1000.0)
    assert two.rounds > 1 and min(two.rounds_n[-1]) > 990
    assert two.single_n[0] == pytest.approx(1047.6, abs=0.1)


@given(st.integers(2, 9), st.floats(100, 50_000), st.floats(1e-8, 3e-5))
def test_drawn_as_said_one_round_leaves_all_alike(count, stiff, give):
    """Replayed: each strand takes the length it has at its turn; with all in, every tension is the target."""
    target = 1112.0
    lengths = []
    for k, drawn_to in enumerate(strung([target] * count, [stiff] * count, give).single_n):
        others = sum(stiff * e for e in lengths)
        total = (drawn_to + others) / (1 + give * stiff * k)
        lengths.append(drawn_to / stiff + give * total)
    ends = give * sum(stiff * e for e in lengths) / (1 + give * stiff * count)
    assert [stiff * (e - ends) for e in lengths] == pytest.approx([target] * count, rel=1e-6)


# --- the ground ----------------------------------------------------------------------------------------------------------
def test_drawn_taut_it_lies_on_the_highs():
    """A hump of 1 m at 10 of 30 m: 5.7° up, 2.9° down; the low at 20 hangs 0.3 m over the straight behind it."""
    bears = highs([0, 10, 20, 30], [0, 1, 0.2, 0])
    assert [h.index for h in bears] == [1]
    assert math.degrees(bears[0].rad) == pytest.approx(5.71 + 2.86, abs=0.02)
    over, spare = hung_over([0, 10, 20, 30], [0, 1, 0.2, 0], bears)
    assert over == pytest.approx((0, 0, 0.3, 0))
    assert spare == pytest.approx(math.hypot(10, 0.8) + math.hypot(10, 0.2) - math.hypot(20, 1), abs=1e-9)


@given(st.lists(st.floats(-3, 3), min_size=3, max_size=12))
def test_a_taut_string_is_over_the_ground_and_turns_down_only(heights):
    stations = [4.0 * k for k in range(len(heights))]
    bears = highs(stations, heights)
    over, spare = hung_over(stations, heights, bears)
    assert all(h.rad >= -1e-9 for h in bears) and all(v >= 0 for v in over) and spare >= 0


# --- a line --------------------------------------------------------------------------------------------------------------
def test_a_straight_run_is_pulled_from_one_end():
    made, whole = pulls(STRAIGHT)
    (run,) = whole.runs
    assert run.option.way.pulls == 1 and run.option.keeps > 0.75
    assert run.path.bends == () and run.count == 2 and run.carries and ok(run)
    assert run.drawn.aim.pull_n == pytest.approx(aim(run.drawn.bar, Days(10.0, -16.0, 37.0)).pull_n)
    assert tail_m(made, 0) == pytest.approx(2 * FT)
    assert list(ends_pulled(run)) in ([True], [False])


def test_a_zig_zag_fails_and_the_page_says_what_does_it():
    made, whole = pulls(ZIGZAG)
    (run,) = whole.runs
    assert [round(math.degrees(b.rad)) for b in run.path.bends] == [45, 60, 45]
    assert run.option.keeps < 0.6 and not ok(run)
    assert "only 3" in verdict(run).text("us")
    ended = [o for o in run.options if o.ends]
    assert max(o.keeps for o in ended) > 2 * run.option.keeps
    spliced = [o for o in run.options if o.recut and not o.ends]
    assert spliced and spliced[0].keeps > run.option.keeps
    sides = [s.text("us") for s in weave(ZIGZAG, made, run)]
    assert "left" in sides[0] and "right" in sides[1] and "left" in sides[2] and "both ways" in sides[3]
    names = {f.name: f.value.text("us") for f in run_facts(made, run)}
    assert "would not stay put" in names["Posts in bends"]


def test_a_splice_chosen_for_tension_is_where_the_rolls_are_cut():
    made, whole = pulls(ZIGZAG)
    chosen = edited(ZIGZAG, {"do": "pull_from", "at_m": 60.0, "way": "both", "splice_m": 45.0})
    after, now = pulls(chosen)
    assert len(after.rolls.splices) == len(made.rolls.splices) == 1
    splice = after.rolls.splices[0]
    assert splice.from_m < 45.5 and splice.at_m > 44.0 and splice.clear_m >= 0.299
    assert sum(p.length_m for p in after.rolls.pieces) == pytest.approx(sum(after.rolls.need_m))
    assert after.rolls.need_m[0] == pytest.approx(made.rolls.need_m[0] + FT)  # one lap more than the side itself
    run = now.runs[0]
    assert run.option.said and run.option.keeps > whole.runs[0].option.keeps + 0.1
    back = edited(chosen, {"do": "pull_from", "at_m": 60.0})
    assert plan(back).rolls.splices == made.rolls.splices


def test_a_splice_said_where_none_can_be_made_goes_to_the_nearest_place():
    chosen = edited(STRAIGHT, {"do": "pull_from", "at_m": 50.0, "way": "both", "splice_m": 0.5})
    (splice,) = plan(chosen).rolls.splices
    first_bays = [p.station_m for p in plan(chosen).posts[:3]]
    assert splice.from_m > first_bays[1]  # clear of the end bay and the brace
    with pytest.raises(BadInput, match="spliced somewhere"):
        edited(STRAIGHT, {"do": "pull_from", "at_m": 50.0, "way": "both"})
    with pytest.raises(BadInput, match="the line ends"):
        edited(STRAIGHT, {"do": "pull_from", "at_m": 500.0, "way": "start"})


def test_a_run_is_pulled_from_where_it_was_said():
    said = edited(STRAIGHT, {"do": "pull_from", "at_m": 50.0, "way": "end"})
    run = pulls(said)[1].runs[0]
    assert run.option.said and run.option.way.parts[0].way == "end"
    assert "from its end" in way_words(run, run.option).text("us")


def test_a_short_run_wants_end_clips():
    """Common practice: a run of 100 ft won't stay tight on wraps; one-way clips."""
    short = fence("short", line_of((20.0, 0.0)))
    made, whole = pulls(short)
    advice = " ".join(s.text("us") for s in tie_advice(whole.runs[0]))
    assert "end clips" in advice
    clipped = edited(short, {"do": "choose_way", "school": "ends", "way": "clip"})
    assert pulls(clipped)[1].runs[0].option.keeps > whole.runs[0].option.keeps + 0.1
    lost = next(f for f in run_facts(made, whole.runs[0]) if f.name == "Lost at tie-off")
    long = next(f for f in run_facts(*_first(STRAIGHT)) if f.name == "Lost at tie-off")

    def share(fact):
        return fact.value.v["kb"][0]

    assert share(lost) > 2.5 * share(long)


def _first(it):
    made, whole = pulls(it)
    return made, whole.runs[0]


def test_pullers_too_few_are_said_with_how_many_do():
    few = edited(STRAIGHT, {"do": "set_pull", "puller": "strap", "pullers": 1})
    made, whole = pulls(few)
    run = whole.runs[0]
    assert run.drawn.aim.pull_n < run.kind.can_n or not run.carries
    heavy = edited(fence("tall", line_of((80.0, 0.0))), {"do": "hang_barrier", "system": "deer", "label": "20-96-6"}, {"do": "set_pull", "puller": "strap", "pullers": 2})  # fmt: skip
    made, whole = pulls(heavy)
    assert not whole.runs[0].carries and not ok(whole.runs[0])
    gear = next(f for f in run_facts(made, whole.runs[0]) if f.name == "Pullers")
    assert "beyond what it may carry" in gear.why.working.text("us")


def test_the_colder_the_night_to_come_the_less_is_pulled_today():
    mild, hard = (edited(STRAIGHT, {"do": "set_climate", "climate": k}) for k in ("oceanic", "subarctic"))
    pulled = [pulls(it)[1].runs[0].drawn.aim.pull_n for it in (mild, hard)]
    assert pulled[1] < pulled[0]
    said = edited(STRAIGHT, {"do": "set_pull", "temp_c": -10.0})
    assert stretching(said, plan(said), 25.0).day_c == -10.0
    assert stretching(STRAIGHT, plan(STRAIGHT), 25.0).day_c == 25.0
    assert edited(said, {"do": "set_pull", "forget": ["temp_c"]}).own.pull.temp_c is None


def test_lows_are_drawn_down_after_the_highs_the_shallow_ones_first():
    dipped = fence("dips", line_of(*[(12.0, 0.0)] * 6, heights=[10, 9.4, 10, 9.0, 10, 9.7, 10]))
    made, whole = pulls(dipped)
    run = whole.runs[0]
    assert run.dips_m > 0.05 and max(run.over_m) == pytest.approx(1.0, abs=0.05)
    steps = [d.text for d in run_order(dipped, made, whole, run)]
    told = next(t for t in steps if t.t.startswith("Fasten the highs first"))
    after = [t.t.split()[0] for t in steps[steps.index(told) + 1 :]]
    assert after[0] == "Tie" and after[-1] == "Fasten"  # drawn down with the pullers on, before anything is let go
    assert told.t.startswith("Fasten the highs first") and "the pullers still on, the shallow ones first" in told.t
    order = [told.v[key][0] for key in re.findall(r"\{(d\d+)\}", told.t)]
    assert order == sorted(order) and order[-1] == pytest.approx(1.0, abs=0.05)


def test_over_a_hump_the_top_goes_tight_first_and_through_a_hollow_the_bottom():
    hump = fence("hump", line_of((40.0, 0.0), (40.0, 0.0), heights=[10, 14, 10]))
    hollow = fence("hollow", line_of((40.0, 0.0), (40.0, 0.0), heights=[14, 10, 14]))
    words = [next(f for f in run_facts(*_first(it)) if f.name == "Top against bottom") for it in (hump, hollow)]
    assert "the top puller" in words[0].value.text("us") and "the bottom puller" in words[1].value.text("us")
    # 1.2446 m high over 2·atan(0.1) = 11.4°: 0.248 m
    assert words[0].value.v["more"][0] == pytest.approx(fabrics()["9-49-6"].height_m * 2 * math.atan(0.1), rel=0.02)


def test_a_walked_line_s_wander_is_strung_straight_but_a_slow_bend_counts():
    wander = fence("wander", line_of(*[(8.0, 3.0 if k % 2 else -3.0) for k in range(12)]))
    curve = fence("curve", line_of(*[(8.0, 3.0) for _ in range(12)]))
    assert sum(b.rad for b in pulls(wander)[1].runs[0].path.bends) == pytest.approx(0.0)
    turned = math.degrees(sum(b.rad for b in pulls(curve)[1].runs[0].path.bends))
    assert 24 <= turned <= 36


def test_per_wire_where_gauges_differ():
    rows = wire_rows(pulls(edited(STRAIGHT, {"do": "hang_barrier", "system": "woven", "label": "9-39-6"}))[1].runs[0])
    thick, thin = rows
    assert thick.wire.d_m > thin.wire.d_m and thick.count == 2
    assert 2.5 < thick.today_n / thin.today_n < 3.46  # one strain; at one share of curve it would be (3.43/2.51)⁴
    assert thick.cold_n > thick.today_n > thick.hot_n
    assert thick.out_cold is not None and thin.out_cold == pytest.approx(0.5, abs=1e-3)


def test_a_wire_is_200_to_250_pounds_in_high_tensile_fabric():
    strong = edited(STRAIGHT, {"do": "hang_barrier", "system": "high_tensile", "label": "13-48-12"})
    (row,) = wire_rows(pulls(strong, 15.0)[1].runs[0])
    assert 190 <= row.today_n / 4.448 <= 250


def test_barbed_strands_have_their_caution_and_their_rounds():
    barbed = edited(STRAIGHT, {"do": "hang_barrier", "system": "barbed", "label": "5 strands"})
    made, whole = pulls(barbed)
    run = whole.runs[0]
    assert not run.drawn.fabric and run.drawn.count == 5 and run.drawn.aim.pull_n <= wires()["barbed"].pull_n
    order = run_order(barbed, made, whole, run)
    assert any("coils and cuts" in d.caution for d in order)
    assert any("middle strand first" in d.text.text("us") for d in order)
    assert dummy_of(made, run, True) is None


def test_every_demo_line_is_told_without_a_hole():
    """Every run of every barrier: facts, order, laying in both units, no name of a value left unsaid."""
    for it in demo_fences():
        made, whole = pulls(it, 12.0)
        for run in whole.runs:
            said = [f.value for f in run_facts(made, run)] + [d.text for d in run_order(it, made, whole, run)]
            said += [f.why.working for f in run_facts(made, run)] + [
                verdict(run),
                *laying(made, run.number),
                *tie_advice(run),
            ]
            said += [way_words(run, o) for o in run.options]
            for sentence in said:
                for units in ("us", "metric"):
                    text = sentence if isinstance(sentence, str) else sentence.text(units)
                    assert text and "{" not in text and "nan" not in text.split(), (it.name, text)
            for option in run.options:
                assert 0 <= option.keeps <= 1 + 1e-9


def test_rolls_are_set_down_so_that_they_stay_or_are_braked():
    steep = fence("steep", line_of((80.0, 0.0), heights=[10.0, 50.0]))
    made = plan(steep)
    told = laying(made, 0)[0].text("metric")
    assert "downhill" in told and "Chock" in told and "set it down at 80.00 m" in told
    gentle = fence("gentle", line_of((90.0, 0.0), heights=[10.0, 13.0]))
    made = plan(gentle)
    assert "uphill" in laying(made, 0)[0].text("metric")


def test_a_run_without_a_straight_between_its_bends_says_so():
    """Bends at every post: nowhere is a bay between them that takes a lap and its clearance and is no end bay."""
    tight = edited(fence("tight", line_of(*[(2.0, 15.0 * (-1) ** k) for k in range(7)])), ROUND_CORNERS, {"do": "decide", "key": "splice_clear_m", "value": 0.9})  # fmt: skip
    made, whole = pulls(tight)
    run = whole.runs[0]
    assert all(not o.way.splices_m for o in run.options)
    assert any("takes a splice" in s.text("us") for s in tie_advice(run))
    assert run_facts(made, run)


@pytest.mark.parametrize("share", [0.2, 0.5, 0.83])
def test_wherever_a_splice_is_said_every_rule_of_splices_is_kept(share):
    """On every demo line with line wires: clear of posts, pieces that lap without a gap, and counted once."""
    for it in [f for f in demo_fences() if plan(f).fabric is not None and plan(f).fabric.wires]:
        at = share * plan(it).course.length_m
        made = plan(edited(it, {"do": "pull_from", "at_m": at, "way": "both", "splice_m": at}))
        assert made.rolls.rolls.splices == len(made.rolls.splices)
        assert all(s.clear_m >= it.decisions.splice_clear_m - 1e-3 for s in made.rolls.splices)
        for a, b in pairwise(made.rolls.pieces):
            assert a.run != b.run or b.from_m <= a.to_m + 1e-6


def test_what_was_said_last_of_a_run_holds_for_its_rolls_too():
    """Both ways to a splice, then from one end: the splice goes back to where the rolls had it, wherever in the run it was said."""
    usual = plan(ZIGZAG).rolls.splices
    both = edited(ZIGZAG, {"do": "pull_from", "at_m": 60.0, "way": "both", "splice_m": 45.0})
    after = edited(both, {"do": "pull_from", "at_m": 61.0, "way": "start"})
    assert plan(both).rolls.splices != usual == plan(after).rolls.splices
    run = pulls(after)[1].runs[0]
    assert run.option.said and run.option.way.parts[0].way == "start"


def test_the_first_year_and_the_dummy_brace_are_told_with_their_reasons():
    """8 % of low-carbon fabric's tension, from memory; 2800 N at hp of the fabric's pull over its member's height, at the foot the rest."""
    made, run = _first(STRAIGHT)
    facts = {f.name: f for f in run_facts(made, run)}
    assert facts["First year"].value.v["share"][0] == 0.08 and facts["First year"].why.source == "from memory"
    brace = dummy_of(made, run, ends_pulled(run)[0])
    foot = made.limits.clearance_m + run.drawn.at_m
    assert brace.member_n == pytest.approx(run.drawn.aim.pull_n * foot / brace.member_at_m)
    assert facts["Dummy brace"].value.v["member"][0] == pytest.approx(brace.member_n)
    assert brace.member_at_m > made.fence_height_m
