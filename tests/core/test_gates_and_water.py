"""Gates, crossings and wind in a plan, counted and worked by hand; cases that hurt."""

import math
from itertools import pairwise

import ground
import numpy as np
import pytest
from ground import FT, IN, LOAM
from hypothesis import given
from hypothesis import strategies as st
from places import apply, plan, snags_of

from gnomonic.core.choose.siting import best_places, hung_at, sites
from gnomonic.core.edits.all import apply as apply_to_job
from gnomonic.core.edits.all import read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.finish.gates import gate_kinds
from gnomonic.core.haul.takeoff import take_off
from gnomonic.core.job.document import Line
from gnomonic.core.job.fence import checked, fence_of
from gnomonic.core.plan.wind import faces, wind_on
from gnomonic.core.setout.guide import head_line, sides_of
from gnomonic.core.tell.openings import crossing_facts, crossing_order, gate_facts, gate_order
from gnomonic.core.tell.steps import steps_of


def line(*points, edits=(), closed=False):
    """A line in firm loam."""
    return ground.line(*points, edits=(LOAM, *edits), closed=closed)


def gate(at=20.0, leaf=3.6576, **more):
    return {"do": "add_gate", "at_m": at, "leaf_m": leaf, "name": "gate", **more}


def hung(it):
    (one,) = plan(it).gates
    return one


def codes(it):
    return {s.code: s for s in snags_of(it, plan(it))}


def slope(grade, *edits, long=60.0):
    return line((0, 0, 100), (long, 0, 100 + grade * long), edits=edits)


def brook(edits=(), deep=1.0, wide=3.0, at=30.0, long=60.0):
    """A ditch ``deep`` with its bed from at−1 to at+1 and banks sloping up over ``wide`` on both sides; 2 m of water found in it."""
    found = {"do": "add_found", "kind": "water", "name": "the brook", "from_m": at - 1, "to_m": at + 1, "zone_m": 0.3}
    points = [
        (0, 0, 10),
        (at - 1 - wide, 0, 10),
        (at - 1, 0, 10 - deep),
        (at + 1, 0, 10 - deep),
        (at + 1 + wide, 0, 10),
        (long, 0, 10),
    ]
    return line(*points, edits=[found, *edits])


def test_the_opening_of_a_leaf_between_real_posts():
    """12 ft leaf, 2 in at the hinge, 1 in at the latch: 147 in clear; woven gate posts are 8 in: 155 in between centres, on the level as on a
    slope of 50 %, where the tape along the ground reads 155·√1.25 = 173.3 in."""
    for grade in (0.0, 0.15, 0.5):
        it = hung(slope(grade, gate()))
        assert (it.clear_m / IN, it.opening_m / IN) == pytest.approx((147, 155))
        assert it.slope_tape_m / IN == pytest.approx(155 * math.hypot(1, grade)) and it.fits_m == pytest.approx(
            0, abs=1e-9
        )
        made = plan(slope(grade, gate()))
        first, last = (made.post_at(s) for s in (it.at_m, it.end_m))
        assert last.station_m - first.station_m - (first.rule.diameter_m + last.rule.diameter_m) / 2 == pytest.approx(
            147 * IN
        )
    # another barrier has other posts, the leaf stays what it is: chain link, 2⅞ in
    link = slope(0.0, {"do": "hang_barrier", "system": "chainlink", "label": "48-11-2"}, gate())
    assert hung(link).opening_m / IN == pytest.approx(147 + 2.875) and hung(link).leaf_m == pytest.approx(12 * FT)


def test_a_staked_gate_is_asked_about_once_and_mended():
    """Staked 16 ft 3 in between centres: 15 ft 7 in between 8 in posts, a leaf of 15 ft 4 in.  Sold: 16 ft, then 16 ft 11 in between centres."""
    it = line((0, 0, 0), (60, 0, 0), edits=[{"do": "add_gate", "at_m": 20.0, "opening_m": 16.25 * FT, "name": "old"}])
    snag = codes(it)["gate-staked"]
    assert hung(it).leaf_m == pytest.approx((15 + 4 / 12) * FT) and not hung(it).made
    assert [r.edit["leaf_m"] for r in snag.remedies] == pytest.approx([16 * FT, (15 + 4 / 12) * FT], abs=1e-4)
    for how, leaf, centres in (("widen", 16 * FT, (16 * 12 + 3 + 8) * IN), ("made", (15 * 12 + 4) * IN, 195 * IN)):
        job = apply_to_job(it.job, read_edit({"do": "mend_gates", "how": how}))
        mended = fence_of(job)
        assert hung(mended).leaf_m == pytest.approx(leaf, abs=1e-4) and hung(mended).opening_m == pytest.approx(
            centres, abs=1e-4
        )
        assert "gate-staked" not in codes(mended)
        assert apply_to_job(job, read_edit({"do": "mend_gates", "how": how})) == job
    narrow = line((0, 0, 0), (60, 0, 0), edits=[{"do": "add_gate", "at_m": 20.0, "opening_m": 0.5, "name": "slot"}])
    with pytest.raises(BadInput, match="no leaf fits slot"):
        apply_to_job(narrow.job, read_edit({"do": "mend_gates", "how": "made"}))
    assert codes(narrow)["gate-staked"].remedies[0].edit["do"] == "remove_gate"


def test_who_passes_chooses_the_leaf():
    """A trailer wants 12 ft: the 12 ft leaf; a 14 ft drill and a foot each side 16 ft; what is wider than any leaf is refused, by name."""
    it = slope(0.0, {"do": "add_gate", "at_m": 20.0, "use": "tractor", "name": "gate"})
    assert hung(it).leaf_m == pytest.approx(12 * FT)
    it = apply(it, read_edit({"do": "set_gate", "id": "g1", "use": "implement", "wide_m": 14 * FT}))
    assert hung(it).leaf_m == pytest.approx(16 * FT)
    for wrong, says in (
        ({"use": "implement"}, "how wide"),
        ({"use": "implement", "wide_m": 9.0}, "choose a double gate"),
        ({"use": "ship"}, "nobody called"),
        ({"kind": "drawbridge"}, "no gate called"),
    ):
        with pytest.raises(BadInput, match=says):
            apply(it, read_edit({"do": "set_gate", "id": "g1", **wrong}))
    with pytest.raises(BadInput, match="one of them"):
        apply(it, read_edit({"do": "add_gate", "at_m": 5.0, "leaf_m": 3.0, "opening_m": 3.0}))


@pytest.mark.parametrize(("grade", "hinge"), [(0.15, "first"), (-0.15, "last")])
def test_a_level_leaf_on_a_slope_hangs_from_below_or_with_the_land(grade, hinge):
    """15 % over a 12 ft leaf: 1.8 ft at the tip.  Hung level from its lower post it clears 2 in at the tip and 2 in + 0.15·3.6576 at the hinge; from the
    upper one the same is left under the tip.  With the land it leaves 2 in everywhere and swings over level ground across: from the lower
    post its tip stands high there, from the upper it would dig in."""
    it = hung(slope(grade, gate()))
    assert (it.turn.lie, it.turn.hinge) == ("land", hinge) and it.turn.gap_m == pytest.approx(2 * IN, abs=1e-6)
    level = [t for t in it.turns if t.lie == "level"]
    assert [t.gap_m for t in level] == pytest.approx([2 * IN + 0.15 * 3.6576] * len(level), abs=1e-3)
    wrong = next(t for t in it.turns if t.lie == "land" and t.hinge != hinge)
    assert wrong.worst.bottom_m == pytest.approx(2 * IN + 0.15 * 3.6576, abs=1e-3)
    said = apply(slope(grade, gate()), read_edit({"do": "set_gate", "id": "g1", "lie": "level"}))
    assert hung(said).turn.lie == "level" and codes(said)["gate-gap"].title.text("us").startswith("2")


def test_ground_across_is_said_or_measured_and_never_made_up():
    """Another line runs 5 m to the left, 0.5 m higher: the ground rises 10 % to the left, and the leaf opens to the right."""
    it = line((0, 0, 0), (60, 0, 0), edits=[gate()])
    assert hung(it).across == (0.0, "")
    upper = Line(id="B", name="upper", measured=line((15, 5, 0.5), (30, 5, 0.5)).line)
    both = fence_of(checked(it.job, lines=(*it.job.lines, upper)), "A")
    assert hung(both).across == (pytest.approx(0.1), "measured") and hung(both).turn.side == "right"
    said = apply(it, read_edit({"do": "set_gate", "id": "g1", "rise_left": 0.1}))
    assert hung(said).across == (0.1, "said") and hung(said).turn.side == "right"
    left = next(t for t in hung(said).turns if t.side == "left" and t.lie == "level")
    assert left.worst.highest_m == pytest.approx(0.1 * 3.6576, abs=1e-3)
    assert hung(apply(said, read_edit({"do": "set_gate", "id": "g1", "forget": ["rise_left"]}))).across == (0.0, "")


def test_a_gate_post_carries_its_leaf():
    """12 ft single leaf, as high as the fence of 51½ in less 2 in under it: 9 kg/m² · 3.6576 · 1.2573 · 9.80665 = 405.9 N; about the post's axis ½·3.6576 + 2 in + 4 in = 1.9812 m: 804 N·m.
    The upper pin stands at its bottom + 0.85 of its height; the post is asked the fence's pull and that, and nothing is asked of the latch post for it."""
    made = plan(slope(0.0, gate(hinge="first")))
    it = made.gates[0]
    assert it.weight_n == pytest.approx(405.86, abs=0.05) and it.moment_nm == pytest.approx(804.09, abs=0.1)
    low, high = it.hinges_m
    assert high - low == pytest.approx(0.7 * 1.2573) and it.hinge_n == pytest.approx(
        405.86 * 1.8288 / (0.7 * 1.2573), abs=0.1
    )
    pulls = [(at, p) for at, p in made.ends if p.name.startswith("the leaf")]
    assert [at for at, _ in pulls] == [it.at_m] and pulls[0][1].shear_n * high == pytest.approx(804.09, abs=0.1)
    held = {made.posts[h.post].station_m: h for h in made.holds}
    hinge, latch = held[it.at_m], held[it.end_m]
    assert hinge.side_n > latch.side_n + 50 and made.post_at(it.at_m).rule.diameter_m == pytest.approx(8 * IN)
    # opened a quarter turn the leaf pulls across: the two add as √(a² + b²)
    fence_pull = latch.side_n
    assert hinge.side_n == pytest.approx(math.hypot(fence_pull, pulls[0][1].pull_n), rel=0.02)
    double = plan(slope(0.0, gate(kind="double", leaf=2.4384)))
    assert sum(p.name.startswith("the leaf") for _, p in double.ends) == 2


def test_a_full_gate_counted_to_the_last_bolt():
    """Double gate of two 8 ft leaves: 2 leaves, 2 hinges and 4 nuts a leaf, drop bolt and keeper, chain and slot with 2 screws.  Slip rails under 49 in: one a foot,
    5 rails, 10 brackets, 40 screws, 5 pins.  A walk-through gap: 4 boards, 16 screws, no leaf."""

    def parts(*edits):
        it = slope(0.0, *edits)
        return {n.key: n.count for n in take_off(it, plan(it)) if n.use in ("gate", "gate_part")}

    assert parts(gate(kind="double", leaf=2.4384)) == {"gate_g1": 2, "gate_hinge": 4, "hinge_nut": 8, "drop_bolt": 1, "bolt_keeper": 1, "gate_chain": 1, "chain_slot": 1, "lag_screw": 2}  # fmt: skip
    assert parts(gate(kind="slip_rails")) == {"slip_rail": 5, "rail_bracket": 10, "lag_screw": 40, "rail_pin": 5}
    assert parts(gate(kind="walk_through", leaf=0.3556)) == {"squeeze_board": 4, "lag_screw": 16}
    assert parts(gate(kind="boundary")) == {
        "gate_g1": 1,
        "gate_hinge": 2,
        "hinge_nut": 4,
        "gate_chain": 1,
        "padlock": 2,
    }
    assert parts(gate(kind="person", leaf=1.2192)) == {
        "gate_g1": 1,
        "gate_hinge": 2,
        "hinge_nut": 4,
        "gate_latch": 1,
        "lag_screw": 6,
    }


@pytest.mark.parametrize("kind", list(gate_kinds()))
def test_every_kind_of_gate_is_told_and_hung_in_order(kind):
    leaf = gate_kinds()[kind].leaves_m[-1]
    made = plan(slope(0.06, gate(kind=kind, leaf=leaf)))
    it = made.gates[0]
    for system in ("us", "metric"):
        words = [f.value.text(system) + f.why.working.text(system) for f in gate_facts(made, it)] + [
            s.text(system) for s in gate_order(made, it)
        ]
        assert words and not any("{" in w for w in words), [w for w in words if "{" in w]
    order = " ".join(s.text("us") for s in gate_order(made, it))
    if it.kind.leaves:
        assert "UP" in order.upper() and "DOWN" in order and "thread" in order


def test_leaves_are_joined_and_measured_before_their_openings_are_set_out():
    it = slope(0.0, {"do": "hang_barrier", "system": "deer", "label": "20-96-6, guide wire"}, gate(kind="two_high"))
    steps = steps_of(it, plan(it))
    order = [s.key for s in steps]
    ends = next(k for k, s in enumerate(steps) if s.task.of == "ends" or s.key.startswith("ends"))
    assert order.index("gate_frames") < order.index("measure_gates") < ends
    assert {"gate_frames", "measure_gates"} <= set(steps[ends].after)
    words = steps[order.index("measure_gates")].text.text("us")
    assert "gate 12 ft 3 in" in words and "16 screws" in steps[order.index("gate_frames")].text.text("us")
    assert "gate-unmeasured" in codes(it)
    assert "gate-unmeasured" not in codes(apply(it, read_edit(codes(it)["gate-unmeasured"].remedies[0].edit)))


def test_a_gate_that_a_corner_moves_keeps_its_leaf_and_says_so():
    it = line((0, 0, 0), (30, 0, 0), (30, 30, 0), edits=[gate(at=29.9)])
    assert hung(it).at_m == pytest.approx(30.0) and hung(it).clear_m == pytest.approx(147 * IN)
    assert "moved on by" in codes(it)["gate-moved"].title.text("us")
    # between two corners it can't keep it: 3.8 m leave 3.597 m between 8 in posts where 147 in (3.734 m) are needed, 4.1 m leave 6½ in too many
    tight = codes(line((0, 0, 0), (30, 0, 0), (30, 3.8, 0), (60, 3.8, 0), edits=[gate(at=30.1)]))["gate-tight"]
    assert tight.grave and tight.title.v["short"][0] == pytest.approx(3.7338 - 3.5968, abs=1e-3)
    loose = codes(line((0, 0, 0), (30, 0, 0), (30, 4.1, 0), (60, 4.1, 0), edits=[gate(at=30.1)]))["gate-loose"]
    assert loose.title.v["more"][0] == pytest.approx(0.163, abs=1e-3)


@pytest.mark.parametrize(
    ("edits", "says"),
    [
        ([gate(at=57.0)], "beyond the line's end"),
        ([gate(at=20.0), gate(at=24.0)], "would hang on one post"),
        ([gate(at=20.0), gate(at=21.0)], "overlaps"),
        ([gate(at=1.0, leaf=14.9, kind="double")], "beyond|span|no fence"),
    ],
)
def test_gates_that_can_not_hang_are_refused(edits, says):
    with pytest.raises(BadInput, match=says):
        plan(line((0, 0, 0), (26, 0, 0) if "double" in str(edits) else (60, 0, 0), edits=edits))


def test_a_gate_on_a_bend_in_a_brace_or_over_water_is_a_snag_with_remedies():
    bent = line((0, 0, 0), (22, 0, 0), (60, 8, 0), edits=[gate(at=20.0)])
    snag = codes(bent)["gate-bend"]
    moved = apply(bent, read_edit(snag.remedies[0].edit))
    assert snag.grave and "gate-bend" not in codes(moved)
    near = line((0, 0, 0), (60, 0, 0), edits=[gate(at=2.0)])
    snag = codes(near)["gate-panel"]
    for remedy in snag.remedies:
        assert "gate-panel" not in codes(apply(near, read_edit(remedy.edit))), remedy
    wet = codes(brook([gate(at=28.0)]))
    assert wet["gate-water"].grave and wet["water-gate"].grave
    dry = apply(brook([gate(at=28.0)]), read_edit(wet["gate-water"].remedies[0].edit))
    assert not {"gate-water", "water-gate"} & set(codes(dry)) and len(plan(dry).crossings) == 1


def test_who_walks_through_a_gap_is_said():
    sheep = {"do": "say_hold", "hold": {"animals": [{"animal": "sheep", "side": "left"}]}}
    cattle = {"do": "say_hold", "hold": {"animals": [{"animal": "cattle", "side": "left"}]}}
    through = gate(kind="walk_through", leaf=0.3556)
    assert codes(slope(0.0, sheep, through))["gate-passed"].grave
    assert "gate-passed" not in codes(slope(0.0, cattle, through))


def test_the_best_place_is_that_of_a_brute_search():
    """Level but for a hump 20 m along: the gate is best away from it; every place is judged as the planner does where it is planned."""
    points = [(0, 0, 0), (16, 0, 0), (20, 0, 0.6), (24, 0, 0), (40, 0, 0.0), (52, 0, -2.4), (60, 0, -2.4)]
    it = line(*points, edits=[gate(at=18.0)])
    made = plan(it)
    found = sites(it, made, made.gates[0], 0.0, 60.0)
    for k in range(0, len(found.at_m), 9):
        if found.ruled_out[k]:
            continue
        there = hung_at(it, made, made.gates[0], float(found.at_m[k]))
        best = min(there.turns, key=lambda t: t.gap_m)
        assert found.gap_m[k] == pytest.approx(best.gap_m, abs=0.03), found.at_m[k]
    places = best_places(it, made, made.gates[0], found)
    assert places[0].gate is made.gates[0] and len(places) > 2
    assert all(p.gate.turn.gap_m <= p.gate.most_gap_m + 0.005 for p in places[1:])
    moved = plan(apply(it, read_edit({"do": "move_gate", "id": "g1", "at_m": places[1].gate.at_m})))
    assert len(moved.posts) - len(made.posts) == places[1].posts and moved.cost - made.cost == pytest.approx(
        places[1].cost
    )
    with pytest.raises(BadInput, match="longer than the gate"):
        sites(it, made, made.gates[0], 10.0, 12.0)


def test_nothing_is_planned_in_running_water():
    """Water from 29 to 31 m and 0.3 m clear of it: terminals at 28.7 and 31.3, no post and no fabric between; a panel behind each."""
    made = plan(brook())
    (over,) = made.crossings
    assert (over.at_m, over.to_m) == pytest.approx((28.7, 31.3))
    assert not [p for p in made.posts if 28.75 < p.station_m < 31.25]
    assert [made.post_at(s).role for s in (over.at_m, over.to_m)] == ["crossing", "crossing"]
    assert [(r.start.station_m, r.end.station_m) for r in made.runs] == [
        (0, pytest.approx(28.7)),
        (pytest.approx(31.3), 60),
    ]
    carried = plan(brook([{"do": "say_crossing", "at_m": 30.0, "how": "over"}]))
    assert not carried.crossings and len(carried.runs) == 1


def test_the_posts_of_a_crossing_stand_out_of_its_flood():
    """Bed 1 m down, banks 1 in 3: a flood of 0.6 m reaches 1.8 m up each bank, from 27.2 to 32.8 m."""
    made = plan(brook([{"do": "say_crossing", "at_m": 30.0, "flood_m": 0.6}]))
    (over,) = made.crossings
    assert over.at_m == pytest.approx(27.2, abs=0.11) and over.to_m == pytest.approx(32.8, abs=0.11)
    level = over.built.section.lowest_m + 0.6
    assert min(over.built.section.banks_m) >= level - 1e-6


def test_a_full_crossing_by_hand():
    """Span s, rope at 51.5 in on both banks, sag a tenth; heavy pipe 54 kg/m² and ¼ in rope 0.1637 kg/m.  Every figure from the section anew."""
    made = plan(
        brook([{"do": "say_crossing", "at_m": 30.0, "flood_m": 0.6, "speed_m_s": 2.0, "flap": "heavy", "cable": "c6"}])
    )
    c = made.crossings[0].built
    head = made.fence_height_m
    s = np.linspace(made.crossings[0].at_m, made.crossings[0].to_m, 20_001)
    bed = np.interp(s, [0, 26, 29, 31, 34, 60], [10, 10, 9, 9, 10, 10])
    span = s[-1] - s[0]
    x = (s - s[0]) / span
    rope = bed[0] + head + (bed[-1] - bed[0]) * x - 4 * 0.1 * span * x * (1 - x)
    drop = np.clip(rope - bed - 0.1, 0, None)
    face = np.trapezoid(drop, s)
    weight = (54.0 * face / span + 0.1637) * 9.80665
    assert c.weight_n_m == pytest.approx(weight, rel=1e-4)
    level = weight * span**2 / (8 * 0.1 * span)
    assert c.rest_n == pytest.approx(level, rel=1e-4)
    assert c.rest_end_n == pytest.approx(math.hypot(level, weight * span / 2), rel=5e-3)
    wet = np.trapezoid(np.clip(np.minimum(rope, 9.6) - bed - 0.1, 0, None), s)
    assert c.drag_n == pytest.approx(0.5 * 1000 * 2.0 * wet * 4.0, rel=1e-3)
    # ties: single strands of 380 MPa, they carry what hangs besides and let go under four fifths of the weaker of posts and rope
    strand = (
        380e6
        * math.pi
        / 4
        * {20: 0.0348, 19: 0.041, 18: 0.0475, 17: 0.054, 16: 0.0625, 15.5: 0.067, 14.5: 0.076, 14: 0.08}[c.tie_gauge]
        ** 2
        * IN**2
    )
    assert c.first_n == pytest.approx(math.sqrt((c.ties * strand) ** 2 - (weight * span) ** 2), rel=1e-3)
    assert (
        c.ties * strand >= 1.25 * weight * span and c.first_n <= 0.8 * min(c.posts_n, c.rope_stands_n) and c.fails_first
    )
    post = made.post_at(made.crossings[0].at_m)
    bends = 13e6 * math.pi * post.rule.diameter_m**3 / 32 / head
    assert c.posts_n <= 2 * bends + 1e-6
    # clips, rope and ties bought: two clips a joint, 4¾ in turned back at both ends, twice round both posts
    needs = {n.key: n.count for n in take_off(fence_of_brook(), made) if n.use == "crossing"}
    assert needs["rope_clip"] == 4 and needs["flap_tie"] == c.ties and needs["flap_keeper"] == 1
    assert needs["cable_6"] == pytest.approx(c.rope_m + 4 * math.pi * post.rule.diameter_m + 2 * 4.75 * IN)
    assert needs["flap_pipe_heavy"] == pytest.approx(face / 0.1016, rel=1e-3)


def fence_of_brook():
    return brook(
        [{"do": "say_crossing", "at_m": 30.0, "flood_m": 0.6, "speed_m_s": 2.0, "flap": "heavy", "cable": "c6"}]
    )


def test_the_rope_is_held_by_a_second_wire():
    """At rest and in flood the rope pulls the terminal to the water: nothing of that is left at its foot, the brace post behind is dragged by it and lifted by H·h/l."""
    made = plan(brook([{"do": "say_crossing", "at_m": 30.0, "flood_m": 0.6}]))
    (over,) = made.crossings
    pulls = {p.name: p for at, p in made.ends if at == over.at_m}
    rope = pulls["the rope over the brook"]
    assert rope.shear_n == 0 and rope.pull_n == pytest.approx(over.built.at_first_level_n)
    assert pulls["the brook in flood"].shear_n == pytest.approx(over.built.push_n / 2)
    brace = next(b for b in made.braces if b.end.stations_m[0] == over.at_m)
    inner = next(h for h in made.holds if abs(made.posts[h.post].station_m - brace.end.stations_m[1]) < 1e-6)
    assert inner.lift_n >= over.built.at_first_level_n * made.fence_height_m / brace.panels[0].level_m - 1e-6
    strut = brook([{"do": "say_crossing", "at_m": 30.0, "flood_m": 0.6}, {"do": "brace_end", "kind": "strut"}])
    alone = [p for at, p in plan(strut).ends if p.name == "the rope over the brook"]
    assert all(p.shear_n == p.pull_n for p in alone)  # no panel to wire: the post stands alone against it


@pytest.mark.parametrize(
    ("found", "code"),
    [
        ([(10.0, 45.0)], "water-along"),
        ([(0.0, 2.0)], "water-end"),
    ],
)
def test_water_that_no_rope_crosses_is_said_with_the_span_it_can(found, code):
    edits = [{"do": "add_found", "kind": "water", "name": "the brook", "from_m": a, "to_m": b} for a, b in found]
    it = line((0, 0, 0), (60, 0, 0), edits=edits)
    snag = codes(it)[code]
    assert snag.grave and not plan(it).crossings
    if code == "water-along":
        assert "82 ft ½ in at most" in snag.consequence.text("us")  # 25 m, what is hung by hand


def test_what_stands_in_a_floods_way_is_no_reason_to_stand_in_the_channel():
    """A flood of 0.8 m reaches 2.4 m up each bank, to 26.6; a gate's post at 27 keeps it from that: the rope still spans the channel, and the flood round its
    posts is said.  A bend inside the channel has no straight rope."""
    said = {"do": "say_crossing", "at_m": 30.0, "flood_m": 0.8}
    it = brook([gate(at=23.0), said])
    (over,) = plan(it).crossings
    assert over.at_m == pytest.approx(28.7) and "flood-wide" in codes(it)
    assert "flood-wide" not in codes(brook([said]))
    bent = line(
        (0, 0, 0),
        (30, 0, 0),
        (60, 8, 0),
        edits=[{"do": "add_found", "kind": "water", "name": "the brook", "from_m": 29, "to_m": 31}],
    )
    assert codes(bent)["water-corner"].grave and not plan(bent).crossings


def test_a_rill_is_stepped_over_unless_it_is_said():
    rill = {"do": "add_found", "kind": "water", "name": "the rill", "from_m": 30.0, "to_m": 30.3}
    it = line((0, 0, 0), (60, 0, 0), edits=[rill])
    snag = codes(it)["water-narrow"]
    assert not plan(it).crossings and not snag.grave
    hung_over, stays = (apply(it, read_edit(r.edit)) for r in snag.remedies)
    assert len(plan(hung_over).crossings) == 1 and not plan(stays).crossings and "water-narrow" not in codes(stays)


def test_two_channels_close_together_lie_under_one_rope():
    def creeks(second):
        edits = [
            {"do": "add_found", "kind": "water", "name": n, "from_m": a, "to_m": a + 1.5}
            for n, a in (("the brook", 20.0), ("the leat", second))
        ]
        return plan(line((0, 0, 0), (60, 0, 0), edits=edits))

    (one,) = creeks(24.0).crossings
    assert (
        one.channels == 2
        and (one.at_m, one.to_m) == pytest.approx((19.7, 25.8))
        and one.name == "the brook and the leat"
    )
    assert [c.channels for c in creeks(36.0).crossings] == [1, 1]


def test_two_rivers_too_near_and_too_wide_for_one_rope_are_said():
    """14 m of water twice, 0.4 m of ground between, 0.3 m clear of each asked: 28.4 m is past the 25 m of one rope and no post stands between.
    The first is crossed; the second is a grave snag, not silence.  With 5 m between both are crossed."""

    def rivers(apart):
        edits = [
            {"do": "add_found", "kind": "water", "name": n, "from_m": a, "to_m": a + 14, "zone_m": 0.1}
            for n, a in (("the brook", 20.0), ("the river", 34.0 + apart))
        ]
        return line((0, 0, 0), (90, 0, 0), edits=edits)

    near = rivers(0.4)
    (one,), snag = plan(near).crossings, codes(near)["water-near"]
    assert one.name == "the brook" and snag.grave and snag.at_m == pytest.approx(41.4)
    assert "the river" in snag.title.text("us") and "82 ft ½ in" in snag.consequence.text("us")
    assert [w.why for w in plan(near).waters] == ["", "near"]
    far = rivers(5.0)
    assert len(plan(far).crossings) == 2 and "water-near" not in codes(far)


@pytest.mark.parametrize(("sag", "ways"), [(0.02, 1), (0.05, 2)])
def test_a_remedy_for_a_rope_holds(sag, ways):
    """20 m of water under the heaviest pipe on the thinnest rope: whatever is offered clears the snag; more sag than it has is what more sag means."""
    found = {"do": "add_found", "kind": "water", "name": "the river", "from_m": 20, "to_m": 40}
    hung_so = {"do": "say_crossing", "at_m": 30.0, "flap": "heavy", "cable": "c6", "sag": sag}
    it = line((0, 0, 0), (60, 0, 0), edits=[found, hung_so])
    snag = codes(it)["rope"]
    assert snag.grave and len(snag.remedies) == ways
    for remedy in snag.remedies:
        assert remedy.edit.get("sag", 1) > sag
        assert "rope" not in codes(apply(it, read_edit(remedy.edit)))


def test_a_flood_over_the_posts_is_refused_and_nothing_is_lost():
    it = brook()
    with pytest.raises(BadInput, match="stands over the posts") as bad:
        apply(it, read_edit({"do": "say_crossing", "at_m": 30.0, "flood_m": 2.5}))
    assert bad.value.field == "flood_m" and not it.own.crossings
    for wrong, says in (
        ({"at_m": 5.0}, "no running water"),
        ({"at_m": 30.0, "flap": "tea"}, "no flap"),
        ({"at_m": 30.0, "cable": "c99"}, "no cable"),
    ):
        with pytest.raises(BadInput, match=says):
            apply(it, read_edit({"do": "say_crossing", **wrong}))
    kept = apply(it, read_edit({"do": "say_crossing", "at_m": 30.0, "flood_m": 0.5}))
    again = apply(kept, read_edit({"do": "say_crossing", "at_m": 30.0, "sag": 0.2}))
    assert (
        again.own.crossings[0].flood_m == 0.5
        and not apply(again, read_edit({"do": "say_crossing", "at_m": 30.0, "forget": True})).own.crossings
    )


def test_a_crossing_is_told_in_both_units():
    made = plan(fence_of_brook())
    for system in ("us", "metric"):
        words = [f.value.text(system) + f.why.working.text(system) for f in crossing_facts(made, made.crossings[0])]
        words += [s.text(system) for s in crossing_order(made, made.crossings[0])]
        assert not any("{" in w for w in words) and any("saddle on the live side" in w for w in words)
    steps = {s.key: s.text.text("us") for s in steps_of(fence_of_brook(), made)}
    assert "4 clips" in steps["crossings"]


def test_wind_on_a_sheet_by_hand():
    """Sheet 40 with its 5 in lip, 5 in in the ground: 30 in over it.  30 m/s, Cf 1.3: 551.7·1.3·0.762 = 546.5 N/m, a fifth of an inch more for its crease wire."""
    it = line((0, 0, 0), (60, 0, 0), edits=[{"do": "hang_barrier", "system": "fauna", "label": "sheet 40"}])
    made = plan(it)
    bare = faces(made.section, 30.0, it.decisions.clearance_m)[0]
    assert bare.push_n_m == pytest.approx(546.5, rel=0.02) and bare.at_m + it.decisions.clearance_m == pytest.approx(
        0.381, abs=0.02
    )
    worst = wind_on(it, made)[0]
    assert worst.push_n == pytest.approx(bare.push_n_m * worst.bay_m) and not worst.holds and "wind" in codes(it)
    calm = apply(it, read_edit({"do": "decide", "key": "wind_m_s", "value": 8.0}))
    assert "wind" not in codes(calm) and not wind_on(
        apply(it, read_edit({"do": "decide", "key": "wind_m_s", "value": 0.0})), made
    )


def test_a_remedy_for_wind_holds():
    it = line(
        (0, 0, 0),
        (60, 0, 0),
        edits=[
            {"do": "hang_barrier", "system": "welded", "label": "welded 60-2×4"},
            {"do": "decide", "key": "wind_m_s", "value": 38.0},
        ],
    )
    snag = codes(it)["wind"]
    for remedy in snag.remedies:
        assert "wind" not in codes(apply(it, read_edit(remedy.edit))), remedy.label.text("us")
    assert snag.remedies


def test_guide_wires_one_a_side_held_over_humps():
    """A hump of 1 m in the middle of 40 m, the wire at 3 ft: it would run 9 cm under the hump's top, so a pole holds it there."""
    made = plan(line((0, 0, 0), (20, 0, 1.0), (40, 0, 0), (40, 30, 0)))
    sides = sides_of(made.course, 0.9144, 8.0)
    assert [(s.from_m, s.to_m) for s in sides] == [(0, 40), (40, 70)]
    assert sides[0].sights == ((20.0, 0.9144),) and not sides[1].sights
    assert sides[0].over_m(made.course.profile, 10.0) == pytest.approx(0.9144)
    assert sides[0].length_m == pytest.approx(2 * math.hypot(20, 1))


@given(st.lists(st.floats(-0.4, 0.4), min_size=3, max_size=25), st.sampled_from([0.0, 0.02, 0.1]))
def test_heads_stand_on_their_strings(bumps, give):
    at = [3.0 * k for k in range(len(bumps))]
    nodes, off = head_line(at, bumps, give)
    set_to = [z + o for z, o in zip(bumps, off, strict=True)]
    assert nodes[0] == 0 and nodes[-1] == len(at) - 1 and max(map(abs, off)) <= give + 1e-6
    for a, b in pairwise(nodes):
        for k in range(a, b + 1):
            assert set_to[k] == pytest.approx(np.interp(at[k], [at[a], at[b]], [bumps[a], bumps[b]]), abs=1e-6)


def test_gates_and_crossings_come_through_an_edit_of_the_line():
    """A point put in and the line split: gates keep their leaf and words, crossings what was said of them."""
    it = brook(
        [gate(at=10.0, side="left", measured=True), {"do": "say_crossing", "at_m": 30.0, "flood_m": 0.5}], long=80.0
    )
    mended = apply(it, read_edit({"do": "move_point", "index": 5, "e_m": 80.0, "n_m": 6.0}))
    assert (
        mended.gates[0].leaf_m == it.gates[0].leaf_m
        and mended.gates[0].measured
        and mended.own.crossings[0].flood_m == 0.5
    )
    split = apply_to_job(it.job, read_edit({"do": "split_line", "line": "A", "at_m": 20.0, "name": "rest"}))
    assert len(split.lines[0].gates) == 1 and split.lines[1].crossings[0].at_m == pytest.approx(10.0, abs=0.01)
    with pytest.raises(BadInput, match="hangs across"):
        apply_to_job(it.job, read_edit({"do": "split_line", "line": "A", "at_m": 12.0, "name": "rest"}))
