"""Every barrier on one level line, each post, fitting and length counted by hand; the count is written out beside it."""

import math

import pytest
from places import apply, fence, plan

from gnomonic.core.edits.all import read_edit
from gnomonic.core.haul.takeoff import take_off
from gnomonic.core.job.parts import MeasuredLine, Point, Source

FT = 0.3048


def line(*points, closed=False):
    measured = tuple(Point(e_m=e, n_m=n, h_m=5.0) for e, n in points)
    source = Source(kind="legs", points_read=len(points))
    return fence("By hand", MeasuredLine(points=measured, closed=closed, source=source))


def hung(job, system, label, **more):
    return apply(job, read_edit({"do": "hang_barrier", "system": system, "label": label, **more}))


def counts(job):
    return {i.key: i.count for i in take_off(job, plan(job))}


def straight(length, system, label, **more):
    return counts(hung(line((0, 0), (length, 0)), system, label, **more))


def wire_of_brace(spacing, rail):
    """Two turns of twice the diagonal, and a metre for the wraps."""
    return 4 * math.hypot(spacing, rail) + 1


def test_high_tensile():
    """60 m, 15 ft bays, 10 ft rails: 53.904 m between brace posts is 12 bays, 11 line posts, the 5th and 10th wood.

    13 wires: 26 tie-offs; staples 13 on each of 2 brace posts, 2 + 2 and 4 of the 9 between on each of 2 wood posts:
    26 + 16 = 42; never one at a terminal.  9 steel posts: 45 clips, 9 caps.  Each brace: its diagonal stapled twice on
    both posts, and a twist stick stapled once.
    """
    rail = 0.775 * (0.0635 + 48 * 0.0254)
    assert straight(60.0, "high_tensile", "13-48-12") == {
        "post_terminal_2.44": 2, "post_brace_2.44": 2, "post_wood_2.13": 2, "post_steel_1.98": 9, "rail": 2, "pin": 4,
        "brace_wire": pytest.approx(2 * wire_of_brace(3.048, rail)), "roll": 1, "tie_off": 26, "long_staple": 42,
        "clip": 45, "cap": 9, "brace_staple": 10, "twist_stick": 2,
    }  # fmt: skip


def test_the_other_school_of_ends():
    found = straight(60.0, "high_tensile", "13-48-12", schools={"ends": "clip"})
    assert found["tie_off_clip"] == 26 and "tie_off" not in found


def test_barbed_broken_by_a_braced_post():
    """120 m is longer than 300 ft: a braced post at 60 m, where the strands of both runs end; its one panel serves both
    with two crossed wires.

    Run 1: 8 ft rails leave 55.12 m, 16 bays of 12 ft at most, 15 line posts.  Run 2 begins at the braced post:
    57.56 m, 16 bays, 15 line posts.  Of each 15 the 5th, 10th and 15th are wood: 6 wood, 24 steel; 3 terminals, 3 brace.
    Five strands: tie-offs 5 × (1 + 2 + 1) = 20; staples 20 + 3 × 5 + 6 × 5 = 65; clips 24 × 5 = 120; 24 caps.
    Rails 3, pins 6, diagonals 4, each with a stick and 5 staples.  Wire 5 × (120 + 4 tails of 1 m) = 620 m: 2 coils, 1
    joiner.  Steel: 47 in and 2 over it, 18 in in the ground: 67 in, so 6 ft.  Wood: 47 + ½ + 36 = 83½ in, 7 ft.
    """
    rail = 0.775 * (0.2032 + 0.9906)
    found = straight(120.0, "barbed", "5 strands")
    assert found == {
        "post_terminal_2.13": 3, "post_brace_2.13": 3, "post_wood_1.98": 6, "post_steel_1.83": 24, "rail": 3, "pin": 6,
        "brace_wire": pytest.approx(4 * wire_of_brace(2.4384, rail)), "coil_barbed": 2, "joiner": 1, "tie_off": 20,
        "staple": 65, "strand_clip": 120, "cap": 24, "brace_staple": 20, "twist_stick": 4,
    }  # fmt: skip


def test_plain_wires_with_battens():
    """40 m: 35.12 m between brace posts is 8 bays of at most 5 m, 7 line posts.  Eight wires: 16 tie-offs, staples
    8 × (2 + 7) = 72, 8 tensioners.  Battens a metre apart: 2 in each brace panel of 2.44 m, 4 in each bay of 4.39 m:
    2 × 2 + 8 × 4 = 36, and 8 clips on each.  Wire 8 × 42 = 336 m: one coil of 1000.  The top wire is 1.05 m up and half
    an inch of post over it: strainers 1.063 + 1.067 = 2.130 m, 7 ft; line posts 1.063 + 0.762 = 1.825 m, 6 ft.
    """
    found = straight(40.0, "multiwire", "8 wires")
    assert found == {
        "post_terminal_2.13": 2, "post_brace_2.13": 2, "post_wood_1.83": 7, "rail": 2, "pin": 4,
        "brace_wire": pytest.approx(2 * wire_of_brace(2.4384, 0.775 * 1.05)), "coil_plain": 1, "tie_off": 16,
        "long_staple": 72, "tensioner": 8, "batten": 36, "batten_clip": 288, "brace_staple": 10, "twist_stick": 2,
    }  # fmt: skip


def test_welded_mesh():
    """30 m: 25.12 m between brace posts is 7 bays of at most 12 ft, 6 steel posts.  60 in by 4 in squares: a staple a
    square is 15 at each end; every other on 2 brace posts, 7 each: 44.  Clips 30, caps 6.  30 m and two 6 in folds:
    30.30 m, one roll of 30.48.  Steel: 61 in and 2 over it leave 15 in of a 6½ ft post, under 18: 7 ft.
    """
    found = straight(30.0, "welded", "welded 60-2×4")
    rail = 0.775 * (0.0254 + 1.524)
    assert found == {
        "post_terminal_2.74": 2, "post_brace_2.44": 2, "post_steel_2.13": 6, "rail": 2, "pin": 4,
        "brace_wire": pytest.approx(2 * wire_of_brace(2.4384, rail)), "roll": 1, "staple": 44, "clip": 30, "cap": 6,
        "brace_staple": 10, "twist_stick": 2,
    }  # fmt: skip


def test_netting_over_hardware_cloth():
    """12 m: 5 bays of at most 8 ft, 4 line posts.  24 in of cloth and 36 in of netting lapped 3 in: 57 in.  Staples
    every 4 in at 2 ends: 14 each; every 8 in on 4 line posts: 7 each; 28 + 28 = 56.  One seam of 12 m takes 24 m.
    An L of cloth 24 in out: a roll more, and a peg each 2 ft along it: 12 / 0.6096 = 19.7, 20; covered
    5 cm deep: 12 × 0.6096 × 0.05 m³.
    """
    found = straight(12.0, "garden", "cloth 24 + hex 36", extras=["l_apron"])
    assert found == {
        "post_terminal_2.44": 2, "post_wood_2.44": 4, "roll": 1, "roll_2": 1, "roll_3": 1, "staple": 56,
        "sewing_wire": pytest.approx(24.0), "peg": 20, "apron_cover": pytest.approx(0.36576),
    }  # fmt: skip


def test_netting_on_wires():
    """50 m: 10 bays of 5 m, 9 line posts, a strut at each end.  Seven wires: 14 tie-offs, 63 staples, 7 tensioners.
    Rings a foot apart, 16 in each bay on each of 3 wires: 480; 50.3 m of netting is two rolls of 50, ringed together
    every 10 cm of 1.2 m: 12 more.  Pegs a metre apart: 4 a bay, 40.  Support wire 3 × 52, free wire 4 × 52: a coil each.
    """
    found = straight(50.0, "orchard", "netting 48, wires to 2.4 m")
    high = 0.75 * (0.0254 + 2.4)
    tie = 4 * math.hypot(high * 1.5 / 2, high / 2) + 1
    assert found == {
        "post_terminal_3.60": 2, "post_wood_3.60": 9, "strut": 2, "strut_wire": pytest.approx(2 * tie), "roll": 2,
        "coil_support": 1, "coil_plain": 1, "tie_off": 14, "long_staple": 63, "tensioner": 7, "net_ring": 492, "peg": 40,
    }  # fmt: skip


def test_tall_fabric_with_a_two_high_gate():
    """60 m with a 4 m gate from 20 m: runs of 20 and 36 m, 4 terminals, 4 brace posts.  10 ft rails leave 13.904 and
    29.904 m: 3 and 7 bays of at most 16 ft, 2 + 6 line posts.  20 wires: tie-offs 80; staples 4 × 20 on brace posts,
    2 + 2 and 8 of the 16 between on 8 line posts: 80 + 96 = 176.  14 holes of 12 in round 6 in posts, 2 round the 8 in gate posts, 6 ft deep; the guide wire once round each of the 16.  Two leaves:
    2 sleeves, in each 2 screws each side of the joint on both faces: 16; 2 hinges a leaf, 2 nuts on each, 2 chains in 2 slots of 2 screws.  The hinge post's
    panel has a second wire: 5 diagonals, 25 staples with those of the sticks.
    """
    job = hung(line((0, 0), (60, 0)), "deer", "20-96-6, guide wire")
    found = counts(apply(job, read_edit({"do": "add_gate", "at_m": 20.0, "opening_m": 4.0, "name": "gate"})))
    hole = math.pi / 4 * (0.3048**2 - 0.1524**2) * 1.8288
    stout = math.pi / 4 * (0.3048**2 - 0.2032**2) * 1.8288
    rail = 0.6 * (0.0635 + 96 * 0.0254)
    assert found == {
        "post_terminal_4.88": 2, "post_terminal_4.88_wood_gate_post": 2, "post_brace_4.88": 4, "post_wood_4.88": 8, "crushed_rock": pytest.approx(14 * hole + 2 * stout),
        "rail": 4, "pin": 8, "brace_wire": pytest.approx(5 * wire_of_brace(3.048, rail)), "roll": 1, "coil_guide": 1,
        "tie_off": 80, "long_staple": 176, "gate_sleeve": 2, "gate_screw": 16, "gate_g1": 2, "hinge_nut": 8,
        "gate_hinge": 4, "gate_chain": 2, "chain_slot": 2, "lag_screw": 4, "guide_wrap": 16, "brace_staple": 25, "twist_stick": 5,
    }  # fmt: skip


def test_chain_link_round_a_square():
    """A square of 40 ft: 4 bays of 10 ft a side, 3 line posts a side, a corner post between two sides: 8 ends.

    At each end: a bar, 4 tension bands (4 ft), 2 brace bands (rail and tension wire), a rail end, 6 bolts.
    Line posts: 12 loop caps, 4 ties each: 48.  Rail ties every 9 diamonds, 9 × 2 in × √2 = 25.5 in: 4 in a bay of
    120 in, 64; hog rings every 24 in: 4 a bay, 64.  Rail: 40 ft less 2⅜ in, less 3 in = 12.055 m: two of 21 ft
    with a 6 in swage reach 12.649, one and a 10½ ft one only 9.449: 8 lengths of 21 ft.
    Fabric: 12.1317 m / (0.07184 × 1.01) = 167.2, so 168 diamonds or 12.0695 m a side: 48.28 m, 4 rolls of 50 ft.
    """
    side = 40 * FT
    job = hung(line((0, 0), (0, side), (side, side), (side, 0), closed=True), "chainlink", "48-11-2")
    made = plan(job)
    found = {i.key: i.count for i in take_off(job, made)}
    terminal = math.pi / 4 * (0.254**2 - 0.060325**2) * 0.762
    own = math.pi / 4 * (0.2032**2 - 0.047625**2) * 0.6096
    assert found == {
        "post_terminal_2.13": 4, "post_pipe_1.83": 12, "concrete": pytest.approx(4 * terminal + 12 * own), "roll": 4,
        "coil_tension": 1, "top_rail_6.40": 8, "hog_ring": 64, "brace_band": 16, "tension_band": 32, "tension_bar": 8,
        "rail_end": 8, "loop_cap": 12, "cap_dome": 4, "carriage_bolt": 48, "tie": 112,
    }  # fmt: skip
    assert made.rolls.need_m == pytest.approx([168 * 0.0508 * math.sqrt(2)] * 4)
    assert made.sticks[0].cuts_m == pytest.approx([12.055475 - 6.2484] * 4)
    tops = {p.kind: round(p.above_m / 0.0254, 3) for p in made.posts}
    assert tops == {"terminal": 50.0, "pipe": 46.0}
    fewer = apply(job, read_edit({"do": "choose_way", "school": "bands", "way": "fewer"}))
    assert counts(fewer)["tension_band"] == 24 and counts(fewer)["carriage_bolt"] == 40
    even = apply(job, read_edit({"do": "choose_way", "school": "ties", "way": "standard"}))
    assert counts(even)["tie"] == 48 + 64  # 120 in / 24 in is 5, 4 between posts


def test_small_fauna_sheet():
    """30 m: 17 bays of at most 6 ft, 18 posts, each with the guide wire once round, 3 ties and a cap.  A clip and a
    bracket every 3 ft along the line, not one a bay: 30 / 0.9144 = 32.8, 33.  30.61 m of sheet is two rolls of 30.48: one seam, sewn with its
    40 in and 5 in of wire.  Five inches are buried, 30 stand, 5 are the lip.
    """
    job = hung(line((0, 0), (30, 0)), "fauna", "sheet 40")
    found = counts(job)
    assert found == {
        "post_terminal_1.52": 2, "post_steel_1.52": 16, "roll": 2, "coil_guide": 1, "guide_wrap": 18, "plastic_tie": 54,
        "cap": 18, "guide_clip": 33, "lip_bracket": 33, "seam_wire": pytest.approx(45 * 0.0254),
        "trench": pytest.approx(30.0),
    }  # fmt: skip
    made = plan(job)
    (sheet,) = made.section.layers
    buried = -job.decisions.clearance_m
    assert (buried, made.fence_height_m, sheet.lip_m) == pytest.approx((5 * 0.0254, 30 * 0.0254, 5 * 0.0254))


def test_boarded_mesh_goes_round_the_corner():
    """Two sides of 24 ft: 3 bays of 8 ft each, 4 line posts and 3 at ends and corner.  One length of mesh goes round the
    corner: 48 ft and two 4 in ends, one roll.  A staple each 6 in of 48, 8 on each of 7 posts; screws each 8 in, 6: 42;
    two in each end of six top boards: 24, in all 66.  Boards on 7 posts of 48 in: three from a 12 ft one: 2 of 12 ft, and 8 ft for the last.
    Top boards: six of 8 ft, two from each 16 ft one: 3.
    """
    job = hung(line((0, 0), (0, 24 * FT), (24 * FT, 24 * FT)), "kennel", "welded 48-2×2, boards")
    assert counts(job) == {
        "post_terminal_2.13": 3, "post_timber_2.13": 4, "roll": 1, "post_board_2.44": 1, "post_board_3.66": 2,
        "top_board_4.88": 3, "staple": 56, "board_screw": 66,
    }  # fmt: skip
    assert len(plan(job).rolls.need_m) == 1 and len(plan(job).runs) == 2


def test_concrete_posts():
    """40 m: box stays of 3 m leave 34 m, 10 bays of at most 12 ft, 9 line posts.  Nine wires: 18 ended over 18 sleeves,
    tied at 2 brace and 9 line posts: 99; caps on 2 terminals and 2 brace posts.
    """
    found = straight(40.0, "concrete", "9-39-6")
    rail = 0.9 * (0.0635 + 39 * 0.0254)
    assert found == {
        "post_terminal_2.44": 2, "post_brace_2.44": 2, "post_concrete_1.83": 9, "rail": 2, "pin": 4,
        "brace_wire": pytest.approx(2 * wire_of_brace(3.0, rail)), "roll": 1, "tie_off": 18, "wire_sleeve": 18,
        "tie_wire": 99, "post_cap": 4, "twist_stick": 2,
    }  # fmt: skip


def test_a_post_shared_with_another_line_is_not_bought_twice():
    job = hung(line((0, 0), (30, 0)), "welded", "welded 60-2×4")
    shared = apply(job, read_edit({"do": "share_post", "at": "start", "of": "yard fence"}))
    before, after = counts(job), counts(shared)
    assert after["post_terminal_2.74"] == before["post_terminal_2.74"] - 1 and after["staple"] == before["staple"]
    assert plan(shared).posts[0].shared == "yard fence"
    link = hung(line((0, 0), (30, 0)), "chainlink", "48-11-2")
    one = counts(apply(link, read_edit({"do": "share_post", "at": "end", "of": "yard fence"})))
    assert (one["cap_dome"], one["tension_band"]) == (1, 8)  # its cap is there already, this side's bands are not
    assert apply(shared, read_edit({"do": "share_post", "at": "start", "of": ""})).shared == ()
