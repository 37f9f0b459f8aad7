"""What braces carry on a slope and what posts hold, each number worked by hand from the balance of the parts.

Source: statics of two-force members (any text), the trade's sizes common practice.
"""

import math
from dataclasses import replace

import pytest
from ground import BARBED, IN, SAND, do, held_at, line
from places import plan

from gnomonic.core.brace.statics import crossed_wire, diagonal_brace, panel_on
from gnomonic.core.plan.holds import holds_of

LEVEL_M = 2.4384  # an 8 ft panel


@pytest.mark.parametrize(
    ("grade", "rise_m", "wire_n", "uplift_n", "behind_n", "foot_n", "drawn_n"),
    [
        # 4000·0.9/1.05 = 3428.57 level; the wire falls 1.05 − 0.36 = 0.69 on 2.4: √(2.4² + 0.69²)/2.4 = 1.040508
        (0.0, 0.36, 3567.5, -985.7, 985.7, 571.4, 3428.6),
        # the ground behind lies 0.36 lower: 1.41 on 2.4, 1.159808
        (0.0, -0.36, 3976.5, -2014.3, 2014.3, 571.4, 3428.6),
        # 15 % all along: cos 0.988936, sin 0.148340; 3390.64 level, 593.36 up with the fence, 3390.64·1.41/2.4 = 1992.0 down
        (0.15, -0.36, 3932.5, -1398.6, 1992.0, 565.1, 3390.6),
        # 50 % all along: cos 0.894427; 3066.6 level; (1.05 + 1.2)/2.4 of it 2874.96 down, 1788.85 up with the fence
        (0.5, -1.2, 4203.5, -1086.1, 2875.0, 511.1, 3066.6),
    ],
)
def test_the_second_wire_of_a_braced_post_on_a_slope(grade, rise_m, wire_n, uplift_n, behind_n, foot_n, drawn_n):
    """4000 N at 0.9 m; the wire from 1.05 m up the braced post to the foot of the brace post behind it, whose ground is ``rise_m`` higher."""
    held = crossed_wire(4000, 0.9, grade, panel_on(2.4, rise_m, 1.05))
    assert held.wire_n[0] == pytest.approx(wire_n, abs=0.2)
    assert held.uplift_n == pytest.approx((uplift_n, behind_n), abs=0.1)
    assert held.foot_shear_n == pytest.approx((foot_n, drawn_n), abs=0.1)


@pytest.mark.parametrize(
    ("tie", "tie_n", "uplift_n", "foot_n", "bends_nm", "out_n"),
    [
        # 15 %: 3000·0.988936·0.8/1.1 = 2157.68 pushes the strut's head; up with the fence 3000·0.148340 = 445.02
        ("none", 0.0, 445.02 + 2157.68 * 0.875 / 1.5, 2966.81 - 2157.68, 0.0, 2157.68),
        ("foot", 2157.68 * math.hypot(1.5, 0.225) / 1.5, 445.02 + 2157.68 * 1.1 / 1.5, 2966.81, 0.0, 0.0),
        # to mid-strut, which lies (1.1 + 0.225)/2 high and 0.75 out: √(1.5² + 1.325²)/1.5 = 1.334271
        ("mid", 2157.68 * 1.334271, 445.02 + 2157.68 * 1.1 / 1.5, 2966.81, 2157.68 * 0.55, 0.0),
    ],
)
def test_a_strut_on_a_slope(tie, tie_n, uplift_n, foot_n, bends_nm, out_n):
    """3000 N at 0.8 m; a strut from 1.1 m to a footing 1.5 m out, 15 % up: 1.1 − 0.225 = 0.875 m of fall."""
    d = diagonal_brace(3000, 0.8, 1.1, 1.5, tie, 0.225)
    assert d.strut_n == pytest.approx(2157.68 * math.hypot(1.5, 0.875) / 1.5, abs=0.05)
    assert (d.tie_n, d.end_post_uplift_n) == pytest.approx((tie_n, uplift_n), abs=0.05)
    assert (d.foot_shear_n, d.strut_moment_nm) == pytest.approx((foot_n, bends_nm), abs=0.05)
    assert d.foot_reaction_n == pytest.approx((out_n, uplift_n - 445.02), abs=0.05)
    assert d.angle_deg == pytest.approx(30.256, abs=0.001)  # atan 0.875/1.5
    # all at once: what goes into the ground at both feet is the pull, and what lifts one presses the other
    assert d.foot_shear_n + d.foot_reaction_n[0] == pytest.approx(2966.81, abs=0.01)


COLD_N = 5 * 2041.6  # five strands of barbed wire, pulled at 250 lb, at their coldest
HIGH_M = (8 + 16 + 25 + 35 + 47) / 5 * IN


def test_at_a_corner_the_run_that_lifts_most_need_not_be_the_one_that_pulls_most():
    """One side is level, the other climbs 15 %.  The level one leaves all of its pull at the foot and lifts by hp/l of it; the climbing
    one leaves cos β = 0.988936 and lifts by sin β + cos β·hp/l = 0.148340 + 0.988936·0.272917 = 0.418237 of it."""
    made = plan(line((0, 0, 5), (60, 0, 5), (60, 60, 14), edits=[BARBED, SAND]))
    corner = held_at(made, 60.0)
    level, climbing = COLD_N * HIGH_M / LEVEL_M, COLD_N * 0.418237
    assert corner.alone == pytest.approx((COLD_N, climbing), rel=1e-3)
    assert corner.lift_n == pytest.approx(level + climbing, rel=1e-3)
    assert corner.side_n == pytest.approx(COLD_N * math.hypot(1, 0.988936), rel=1e-3)


def test_two_panels_on_one_brace_post_lift_it_together_and_push_it_one_at_a_time():
    """Uplifts add as numbers; level forces of runs pulled one after the other do not: the worse of both counts."""
    made = plan(line((0, 0, 5), (60, 0, 5), edits=[BARBED, SAND]))
    first = made.braces[0]
    both = tuple(
        replace(first, statics=replace(first.statics, foot_shear_n=(0.0, shear), uplift_n=(0.0, up)))
        for shear, up in ((-1500.0, 900.0), (1200.0, 400.0), (100.0, -700.0))  # what presses it down is not counted on
    )
    inner = held_at(
        replace(made, holds=holds_of(line((0, 0, 5), (60, 0, 5), edits=[BARBED, SAND]), replace(made, braces=both))),
        LEVEL_M,
    )
    assert inner.why == "brace" and (inner.side_n, inner.lift_n) == (1500.0, 1300.0)


def test_a_bend_pulls_as_high_as_the_wires_hang_over_the_ground():
    """Fabric set 4 in over the ground pulls 1½ in higher than set 2½ in over it."""
    way = [(0, 0, 5), (60, 0, 5), (60 + 60 * math.cos(math.radians(15)), -60 * math.sin(math.radians(15)), 5)]
    it = line(*way, edits=[{"do": "hang_barrier", "system": "woven", "label": "9-49-6"}, SAND])
    low, high = (plan(do(it, do="decide", key="clearance_m", value=c * IN)) for c in (2.5, 4.0))
    at = [held_at(made, 60.0).side_at_m for made in (low, high)]
    assert at[1] - at[0] == pytest.approx(1.5 * IN)
    assert at[0] == pytest.approx(2.5 * IN + low.section.pull_height_m)


@pytest.mark.parametrize(("soil", "panels", "where"), [("sand", 1, "ground"), ("stony", 3, "rail")])
def test_an_end_post_is_bent_most_below_ground_or_under_its_rail(soil, panels, where):
    """Held at its foot and at the rail it is a beam on two supports: H·hp·(hr − hp)/hr.  Below ground Broms has for a push H at the ground
    line 2/3·H·√(2H/(3γ·b·Kp)) in sand and H·(1.5·b + 0.5·H/(9·cu·b)) in clay.  The greater over π·d³/32 is its stress."""
    asked = [BARBED, {"do": "say_soil", "soil": soil}, {"do": "ask_post", "at_m": 0.0, "panels": panels}]
    made = plan(line((0, 0, 5), (60, 0, 5), edits=asked))
    rail, end = made.braces[0].rail_height_m, held_at(made, 0.0)
    d = 7 * IN
    at_rail = COLD_N * HIGH_M * (rail - HIGH_M) / rail
    push = made.braces[0].statics.foot_shear_n[0]
    in_sand = 2 / 3 * push * math.sqrt(2 * push / (3 * 17300 * d * 3.25))
    in_clay = push * (1.5 * d + 0.5 * push / (9 * 120e3 * d))
    below = in_sand if soil == "sand" else in_clay
    assert ("rail" if at_rail > below else "ground") == where
    assert end.bend_pa == pytest.approx(max(below, at_rail) / (math.pi * d**3 / 32), rel=1e-3)
