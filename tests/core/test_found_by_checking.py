"""Mistakes found by using the product and counting by hand: each expectation was worked out before the code was asked."""

import math
from datetime import date

import pytest
from core.test_hand_counts import counts, hung, line
from places import apply, demo_fences, fence, plan

from gnomonic.core.brace.statics import crossed_wire, panel_on
from gnomonic.core.demand.animals import check_override, with_overrides
from gnomonic.core.demand.section import section
from gnomonic.core.demand.system import systems
from gnomonic.core.edits.all import read_edit
from gnomonic.core.fabric.fabrics import fabrics, wires
from gnomonic.core.fabric.lay import Rules, RunNeed
from gnomonic.core.fabric.rolls import plan_rolls
from gnomonic.core.fabric.wire import Crimped, cold_n
from gnomonic.core.haul.takeoff import take_off
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.core.plan.barred import barred_stretches, barring
from gnomonic.core.snags.all import snags
from gnomonic.core.tell.compare import difference
from gnomonic.core.tell.needs import named, where
from gnomonic.core.tell.tag import post_tag
from gnomonic.core.tell.unchanged import unchanged
from gnomonic.formats.sheets import brace_rows, stake_out

DAY = date(2026, 11, 26)
FT, INCH = 0.3048, 0.0254
REAL = ("clip", "strand_clip", "staple", "long_staple", "tie")


def square(side_ft, system, label, **more):
    side = side_ft * FT
    return hung(line((0, 0), (0, side), (side, side), (side, 0), closed=True), system, label, **more)


def heights(post, item):
    return [round(h / INCH, 2) for f in post.fittings if f.item == item for h in f.heights_m]


def test_clips_sit_on_wires_with_the_top_and_the_bottom_one_among_them():
    """9-49-6 hung 2½ in up has wires at 2½, 6½, 11, 16, 21½, 27½, 34½, 42½ and 51½ in.  Five clips: the ends, and those
    nearest to a quarter, a half and three quarters of the way (14¾, 27, 39¼ in): 16, 27½, 42½."""
    made = plan(hung(line((0, 0), (60, 0)), "woven", "9-49-6"))
    steel = next(p for p in made.posts if p.kind == "steel")
    assert heights(steel, "clip") == [2.5, 16.0, 27.5, 42.5, 51.5]
    four = plan(hung(line((0, 0), (60, 0)), "woven", "9-49-6", schools={"clips": "four"}))
    assert heights(next(p for p in four.posts if p.kind == "steel"), "clip") == [2.5, 21.5, 34.5, 51.5]


@pytest.mark.parametrize("key", systems())
def test_what_fastens_to_a_wire_lies_on_one_and_no_head_stands_under_it(key):
    for label in systems()[key].labels():
        for extras in ((), tuple(e.key for e in systems()[key].extras)):
            job = hung(line((0, 0), (40, 0)), key, label, extras=list(extras))
            made = plan(job)
            clear = job.decisions.clearance_m
            rows = [clear + h for h in (*made.section.rows_m, *made.section.strand_heights_m())]
            upright = key in ("welded", "garden")  # stapled astride upright wires, which are there at every height
            for post in made.posts:
                assert post.length_m == pytest.approx(post.above_m + post.depth_m)
                for f in post.fittings:
                    if f.item in REAL and not (upright and f.item == "staple"):
                        assert all(min(abs(h - r) for r in rows) < 1e-6 for h in f.heights_m), (label, f.item)
                if key != "chainlink":  # its posts end under the rail they carry
                    on_it = (*REAL, "tie_off", "tie_off_clip", "tie_wire", "guide_wrap")
                    carried = max(h for f in post.fittings for h in f.heights_m if f.item in on_it)
                    assert post.above_m >= carried - 1e-9, (label, post.kind)
                caps = [h for f in post.fittings if f.item == "cap" for h in f.heights_m]
                assert all(c > max(rows) + 0.02 for c in caps), (label, post.kind)


def test_a_driven_post_goes_in_by_what_is_left_to_the_half_inch():
    """13-48-12 at 2½ in: 50½ in and 2 in over it stand out of a 6½ ft post: 25½ in in the ground, not 27½."""
    made = plan(hung(line((0, 0), (60, 0)), "high_tensile", "13-48-12"))
    steel = next(p for p in made.posts if p.kind == "steel")
    assert (steel.length_m / INCH, steel.above_m / INCH, steel.depth_m / INCH) == pytest.approx((78, 52.5, 25.5))
    row = next(r for r in stake_out(made, "us") if r["mark"] == "T drive")
    assert (row["length"], row["depth"]) == ("6 ft 6 in", "2 ft 1½ in")


def test_depths_that_differ_are_all_named_in_the_take_off():
    wet = {"do": "add_found", "kind": "wet", "name": "rushes", "from_m": 15.0, "to_m": 25.0}
    for key, label in (("concrete", "9-39-6"), ("deer", "20-96-6")):
        job = apply(hung(line((0, 0), (40, 0)), key, label), read_edit(wet))
        made = plan(job)
        for kind in {p.kind for p in made.posts}:
            said = " ".join(where(i, made).text("us") for i in take_off(job, made) if i.key.startswith(f"post_{kind}"))
            deep = {r["depth"] for r in stake_out(made, "us") if r["kind"].endswith(kind)}
            assert all(f"{d} deep" in said for d in deep) and (len(deep) == 1 or "for rushes" in said)


def test_four_sides_of_exactly_one_roll_take_four_rolls_and_no_splice():
    job = apply(
        square(50, "garden", "cloth 24 + hex 36"), read_edit({"do": "decide", "key": "tie_off_m", "value": 0.0})
    )
    for step in (0.0, 1e-9, 1e-4, 0.004):  # a tape can't tell these apart
        moved = apply(job, read_edit({"do": "move_point", "index": 2, "e_m": 50 * FT + step, "n_m": 50 * FT + step}))
        made = plan(moved)
        assert (made.rolls.rolls.new_rolls, made.rolls.rolls.splices, [m.rolls for m in made.more]) == (4, 0, [4])
        assert not [s for s in snags(moved, made, DAY) if s.code == "just-over"]
    longer = apply(job, read_edit({"do": "move_point", "index": 2, "e_m": 50 * FT, "n_m": 50 * FT + 0.05}))
    assert plan(longer).rolls.rolls.new_rolls > 4  # two inches are seen


@pytest.mark.parametrize(("system", "label"), [("woven", "9-49-6"), ("chainlink", "48-11-2"), ("deer", "20-96-6")])
def test_an_apron_is_ringed_on_along_its_side_and_goes_round_no_post(system, label):
    """A side of 50 m takes one apron roll of 50 m, whatever the fabric above needs for its ties or gives when it is pulled."""
    made = plan(hung(line((0, 0), (50, 0)), system, label, extras=["apron"]))
    (apron,) = made.more
    assert (apron.what, apron.rolls, apron.splices) == ("apron", 1, 0) and apron.need_m == pytest.approx(50.0)


def test_short_runs_that_can_take_no_splice_are_proven():
    """Five runs of 12 m from rolls of 15: 60 m is four rolls, but a run of two bays has no bay for a splice."""
    posts = (0.0, 6.0, 12.0)
    found = plan_rolls([RunNeed(12.0, posts)] * 5, 15.0, (), Rules(0.1, 3.0, 0.3))
    assert found.new_rolls == 5 and found.bound["new_rolls"] == 5 and found.proven["new_rolls"]


@pytest.mark.parametrize("panels", [1, 2, 3])
def test_no_splice_lies_in_a_brace_panel(panels):
    for length in (105.36, 109.0, 112.0, 118.3, 131.0):
        job = hung(line((0, 0), (length, 0)), "woven", "9-49-6")
        job = apply(job, read_edit({"do": "decide", "key": "brace_panels", "value": panels}))
        made = plan(job)
        assert made.rolls.splices
        for splice in made.rolls.splices:
            for brace in made.braces:
                low, high = min(brace.end.stations_m), max(brace.end.stations_m)
                assert splice.at_m <= low or splice.from_m >= high


def test_a_braced_post_within_a_side_says_one_thing_everywhere():
    """120 m of five strands: both runs end on the post at 60 m.  Five tie-offs for each of its two runs; 5 × 124 m of
    wire.  The run ahead pulls away from its panel: the rail can't pull, the crossed wire holds like a stay and lifts the
    brace post behind.  Drawn to 1112 N, on the coldest day 40 K later 1112 + 1986 kN · 11.7e-6 · 40 = 2041.6 N a strand, at the
    strands' mean height; rail at 0.775 of 47 in, 8 ft apart."""
    job = hung(line((0, 0), (120, 0)), "barbed", "5 strands")
    made = plan(job)
    post = next(p for p in made.posts if p.role == "pull")
    assert post.station_m == 60.0 and post.count("tie_off") == 10
    assert made.coils[0].total_m == pytest.approx(5 * (120 + 4))
    ahead = next(b for b in made.braces if b.end.crossed)
    assert ahead.end.stations_m == (60.0, pytest.approx(60 - 2.4384)) and ahead.statics.rail_n == (0.0,)
    high, rail = (8 + 16 + 25 + 35 + 47) / 5 * INCH, 0.775 * 47 * INCH
    pull = 5 * 2041.6
    assert ahead.statics.wire_n[0] == pytest.approx(pull * high / rail / math.cos(math.atan2(rail, 2.4384)), rel=1e-3)
    assert -ahead.statics.end_post_uplift_n == pytest.approx(pull * high / 2.4384, rel=1e-3)
    rows = [r for r in brace_rows(made, "metric") if r["terminal"] == "60.00 m"]
    assert [r["brace post"] for r in rows] == ["57.56 m", "57.56 m"] and len({r["its wire runs"] for r in rows}) == 2
    facts = {f.name: f.value.text("metric") for f in post_tag(job, made, post.index).facts}
    assert facts["Rail, run ahead"] == "not loaded by this run" and facts["Rail pushes, run behind"].endswith("kN")
    assert next(r for r in stake_out(made, "metric") if r["station"] == "60.00 m")["kind"] == "pull terminal"


def test_the_crossed_wire_balances_by_hand():
    """H 4000 at 0.9, rail at 1.05, 2.4 apart: moment about the post's foot 3600 = 1.05 · T cos φ."""
    w = crossed_wire(4000, 0.9, 0.0, panel_on(2.4, 0.0, 1.05))
    assert w.wire_n[0] * math.cos(math.atan2(1.05, 2.4)) * 1.05 == pytest.approx(3600)
    assert w.end_post_uplift_n == pytest.approx(-w.wire_n[0] * math.sin(math.atan2(1.05, 2.4)))
    assert sum(w.foot_shear_n) == pytest.approx(4000)


def test_cold_is_worked_out_for_each_wire():
    """Temperature law, hand values: a straight 12½ wire from 1112 N gains EAα·40 = 465 N, 42 %; from +20 to −40 63 %; a
    curved 2.51 mm wire from 662.3 N stands at 808 N after 40; 9-49-6 grows by a quarter, never by "a fifth" for all."""
    plain = wires()["plain"]
    assert plain.cold_pull_n(40) / 1112 == pytest.approx(1.418, abs=0.002)
    assert plain.cold_pull_n(60) / 1112 == pytest.approx(1.627, abs=0.002)
    assert cold_n(Crimped(0.00251, 0.004, 0.1524), 662.3, 40) == pytest.approx(808, abs=1)
    field = fabrics()["9-49-6"]
    assert field.cold_pull_n(40) / field.pull_n == pytest.approx(1.25, abs=0.02)
    assert fabrics()["48-11-2"].cold_pull_n(40) is None
    job = hung(line((0, 0), (60, 0)), "barbed", "5 strands")
    why = next(f for f in post_tag(job, plan(job), 0).facts if f.name.startswith("Pull of")).why
    assert "Cold: barbed wire 2.0 kN, 84 % more" in why.other.text("metric")
    assert why.working.text("us").startswith("2290 lb after a drop of 72 °F, 1 ft 6¼ in above")


def test_a_corner_of_sheet_or_netting_is_sewn_like_any_seam():
    """A square of 80 ft of sheet: four corners, each side 80 ft and two tails of a foot, one roll of 100 ft, no other seam:
    four seams of 45 in of wire."""
    found = counts(square(80, "fauna", "sheet 40"))
    assert found["roll"] == 4 and found["seam_wire"] == pytest.approx(4 * 45 * INCH)
    open_ends = counts(hung(line((0, 0), (24, 0), (24, 24)), "fauna", "sheet 40"))
    assert open_ends["seam_wire"] == pytest.approx(45 * INCH)


def test_chain_link_is_cut_between_whole_diamonds():
    made = plan(square(77, "chainlink", "48-11-2"))
    pitch = 2 * INCH * math.sqrt(2)
    assert made.rolls.splices
    for piece in made.rolls.pieces:
        assert piece.length_m / pitch == pytest.approx(round(piece.length_m / pitch))
    for stock in {p.stock for p in made.rolls.pieces}:
        assert sum(p.length_m for p in made.rolls.pieces if p.stock == stock) <= 50 * FT


def test_a_barbed_strand_above_fabric_is_fastened_like_any_other():
    """60 m less two panels of 8 ft is 19 bays: 18 line posts, three of them wood.  9-49-6: 18 tie-offs; staples 9 on both end and both brace
    posts, bottom two, top two and two between on a wood post: 36 + 18; five clips a steel post: 75.  A strand above: a tie-off at both ends
    more, a staple on each brace and wood post, a clip of its own on each steel one; wood posts a foot longer, steel ones 6 in, to carry it."""
    plain = counts(hung(line((0, 0), (60, 0)), "woven", "9-49-6"))
    barbed = counts(hung(line((0, 0), (60, 0)), "woven", "9-49-6", extras=["top_barb"]))
    asked = (
        "tie_off",
        "staple",
        "clip",
        "strand_clip",
        "coil_barbed",
        "post_wood_2.13",
        "post_wood_2.44",
        "post_steel_1.83",
        "post_steel_1.98",
    )
    assert [plain.get(k, 0) for k in asked] == [18, 54, 75, 0, 0, 3, 0, 15, 0]
    assert [barbed.get(k, 0) for k in asked] == [20, 59, 75, 15, 1, 0, 3, 0, 15]


def test_gates_take_hinges_and_a_chain():
    """A single gate: 2 hinges, 2 nuts on each of them, a chain in a slot held by 2 screws.  Its hinge post's panel has a second wire for the leaf:
    5 ratchets and 5 × 4 staples for four panels."""
    job = apply(
        hung(line((0, 0), (60, 0)), "woven", "9-49-6"), read_edit({"do": "add_gate", "at_m": 20.0, "opening_m": 4.0})
    )
    found = counts(job)
    assert [found[k] for k in ("gate_hinge", "hinge_nut", "gate_chain", "chain_slot", "lag_screw")] == [2, 4, 1, 1, 2]
    ratchet = counts(apply(job, read_edit({"do": "choose_way", "school": "twist", "way": "ratchet"})))
    assert ratchet["brace_ratchet"] == 5 and "twist_stick" not in ratchet and ratchet["brace_staple"] == 20


def test_a_lap_splice_has_its_fittings_too():
    job = hung(line((0, 0), (120, 0)), "woven", "9-49-6", schools={"splice": "lap"})
    assert counts(job)["lap_wrap"] == 9
    assert section("deer", "20-96-6, guide wire").strand_heights_m("guide")


def change(job, edit):
    """What an edit says it did, or why it did nothing."""
    after = apply(job, read_edit(edit))
    made = plan(after)
    done = difference([(job, plan(job))], [(after, made)]) or unchanged(job, after, made, edit)
    return done.text("us")


def test_what_changed_is_the_difference_of_two_take_offs():
    """Battens twice as close: 2 in a panel of 2.44 m become 4, 4 in a bay of 4.39 m become 8: 36 to 72 and eight clips each."""
    wires8 = hung(line((0, 0), (40, 0)), "multiwire", "8 wires")
    said = change(wires8, {"do": "decide", "key": "batten_m", "value": 0.5})
    assert "+36 × batten" in said and "+288 × batten clip" in said
    woven = hung(line((0, 0), (60, 0)), "woven", "9-49-6")
    # π/4 times: 2 ends (144 − 49)·36, 2 brace posts (144 − 36)·36, 3 wood posts (81 − 20.25)·30 cu in: 15 774 cu in, 9.1 cu ft
    assert "+9.1 cu ft concrete" in change(woven, {"do": "choose_way", "school": "setting", "way": "concrete"})
    ratchet = change(woven, {"do": "choose_way", "school": "twist", "way": "ratchet"})
    assert "+2 × ratchet for a brace wire" in ratchet and "−2 × twist stick" in ratchet


@pytest.mark.parametrize(
    ("system", "label", "edit", "says"),
    [
        ("woven", "9-49-6", {"do": "own_offcuts", "offcuts_m": [18 * FT]}, "18 ft is shorter than the shortest piece you allow, 20 ft"),
        ("woven", "9-49-6", {"do": "decide", "key": "batten_m", "value": 1.0}, "this barrier hangs no battens"),
        ("woven", "9-49-6", {"do": "decide", "key": "corner_angle_deg", "value": 30.0}, "the line has no turns"),
        ("woven", "9-49-6", {"do": "decide", "key": "piece_min_m", "value": 7.0}, "nothing is spliced"),
        ("woven", "9-49-6", {"do": "decide", "key": "wood_every", "value": 6.0}, "driven posts stand in a row anyway"),
        ("barbed", "5 strands", {"do": "decide", "key": "roll_m", "value": 300.0}, "strung from coils"),
        ("multiwire", "8 wires", {"do": "decide", "key": "wood_every", "value": 6.0}, "every line post of this barrier is alike"),
        ("kennel", "welded 48-2×2, boards", {"do": "decide", "key": "brace_panels", "value": 2.0}, "not braced by panels"),
        ("woven", "9-49-6", {"do": "swath", "swath_m": 4.0}, "the swath is cleared"),
        ("woven", "9-49-6", {"do": "decide", "key": "k_fill", "value": 5.0}, "no bay gains by it"),
        # 24 m less a brace panel of 8 ft at each end is seven bays of 2.732 m, at most 10 ft or 2.8 m; level ground has one gap
        ("woven", "9-49-6", {"do": "decide", "key": "longest_bay_m", "value": 2.8}, "its longest bay is 8 ft 11½ in"),
        ("woven", "9-49-6", {"do": "decide", "key": "gap_max_m", "value": 0.1}, "the gaps planned run from 2½ in to 2½ in anyway"),
        ("woven", "9-49-6", {"do": "decide", "key": "longest_run_m", "value": 90.0}, "the longest run is 78 ft 9 in"),
        ("woven", "9-49-6", {"do": "forbid", "from_m": 8.0, "to_m": 8.5}, "no post stood there"),
        ("woven", "9-49-6", {"do": "rename", "name": "By the brook"}, "it has another name"),
        ("woven", "9-49-6", {"do": "say_hold", "hold": {"years": 9}}, "what is asked of the barrier changed"),
        ("woven", "9-49-6", {"do": "add_found", "kind": "tree", "shape": [[8.0, 5.0]]}, "nothing of it lies where a post stands"),
        ("barbed", "5 strands", {"do": "own_offcuts", "offcuts_m": [40.0]}, "strung from coils: offcuts"),
        ("multiwire", "8 wires", {"do": "decide", "key": "tie_off_m", "value": 0.9}, "the wires' tails are counted by themselves"),
    ],
)  # fmt: skip
def test_when_nothing_changes_it_says_why(system, label, edit, says):
    job = hung(line((0, 0), (24, 0)), system, label)
    said = change(job, edit)
    assert said.startswith("the plan is the same: ") and says in said


def test_a_gate_by_a_corner_hangs_in_the_opening_it_gets():
    """A gate of 4 m from 0.2 m: its first post all but falls on the end post at 0, so it opens from 0 to 4.2 m; between its
    8 in posts lie 3.9968 m, its leaf is that less 3 in."""
    job = hung(line((0, 0), (60, 0)), "woven", "9-49-6")
    job = apply(job, read_edit({"do": "add_gate", "at_m": 0.2, "opening_m": 4.0}))
    made = plan(job)
    assert [(g.at_m, g.opening_m) for g in made.gates] == [(0.0, pytest.approx(4.2))]
    assert made.runs[0].start.station_m == pytest.approx(4.2)
    leaf = next(i for i in take_off(job, made) if i.key == "gate_g1")
    assert named(leaf).text("metric") == "gate leaf, 3.92 m long, 1.255 m high"


def test_ending_the_run_at_a_bend_of_whole_degrees_ends_it_there():
    turn = math.radians(15)
    job = hung(line((0, 0), (40, 0), (40 + 40 * math.cos(turn), 40 * math.sin(turn))), "woven", "9-49-6")
    (snag,) = [s for s in snags(job, plan(job), DAY) if s.code == "bend"]
    mended = plan(apply(job, read_edit(snag.remedies[0].edit)))
    assert len(mended.runs) == 2 and mended.runs[1].start.station_m == pytest.approx(40.0)


def test_a_post_may_be_placed_wherever_the_planner_itself_puts_one():
    for job in demo_fences():
        bars = barred_stretches(job, plan(job).things)
        for post in plan(job).posts:
            if not post.fixed and not barring(bars, post.station_m):
                apply(job, read_edit({"do": "move_post", "from_m": post.station_m, "to_m": post.station_m}))
    wide = {"do": "add_found", "kind": "rock", "name": "ledge", "from_m": 20.0, "to_m": 32.0}
    job = apply(hung(line((0, 0), (60, 0)), "woven", "9-49-6"), read_edit(wide))
    near = {"do": "add_found", "kind": "rock", "name": "slab", "from_m": 32.0, "to_m": 33.0}
    job = apply(job, read_edit(near))  # alone a bay spans it, beside the ledge none does
    inside = [p.station_m for p in plan(job).posts if 20.0 < p.station_m < 33.0]
    assert inside
    for at in inside:
        apply(job, read_edit({"do": "place_post", "at_m": at}))


def test_a_new_barrier_keeps_the_schools_chosen_and_the_workspace_s_rules():
    job = hung(line((0, 0), (60, 0)), "woven", "9-49-6", schools={"twist": "ratchet", "ends": "clip"})
    moved = apply(job, read_edit({"do": "hang_barrier", "system": "barbed", "label": "5 strands"}))
    assert moved.barrier.schools == {"twist": "ratchet"}
    own = check_override("sheep.gap.value", 0.05, "our ewes lift what is higher than 2 in")
    book = with_overrides((own,), DAY)
    held = apply(job, read_edit({"do": "say_hold", "hold": {"animals": [{"animal": "sheep", "side": "left"}]}}), book)
    for system, label in (("woven", "9-39-6"), ("high_tensile", "9-49-12"), ("concrete", "9-39-6")):
        after = apply(held, read_edit({"do": "hang_barrier", "system": system, "label": label}), book)
        assert after.decisions.gap_max_m <= 0.05 + 1e-9


def test_tags_speak_of_the_posts_this_barrier_has():
    hump = tuple(Point(e_m=float(e), n_m=0.0, h_m=h) for e, h in ((0, 5.0), (20, 8.0), (40, 5.0)))
    ground = MeasuredLine(points=hump, source=Source(kind="legs", points_read=3))
    for key, label in (("concrete", "9-39-6"), ("chainlink", "48-11-2"), ("multiwire", "8 wires")):
        job = hung(fence("Hump", ground), key, label)
        made = plan(job)
        post = next(p for p in made.posts if p.role == "hump")
        kind = next(f for f in post_tag(job, made, post.index).facts if f.name == "Kind")
        assert "driven steel" not in kind.why.rule and "presses the post down" in kind.why.rule
    two = apply(
        hung(line((0, 0), (60, 0)), "woven", "9-49-6"), read_edit({"do": "decide", "key": "brace_panels", "value": 2})
    )
    cuts = next(f for f in post_tag(two, plan(two), 0).facts if f.name.startswith("Cut the rail")).value.text("us")
    assert cuts == "about 7 ft 5½ in, 7 ft 6 in"  # 96 in less (7 + 6)/2, and less 6
