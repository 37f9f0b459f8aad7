"""Posts and braces that stay put, against values worked by hand from statics and the trade; cases that hurt."""

import json
import math
from dataclasses import replace

import pytest
from ground import BARBED, FT, HIGH, IN, LINK, LOAM, SAND, do, held_at, line
from hypothesis import given
from hypothesis import strategies as st
from places import apply, plan, snags_of

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.demand.system import systems
from gnomonic.core.edits.all import read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.haul.takeoff import take_off
from gnomonic.core.plan.lows import edge_gaps, patches
from gnomonic.core.snags.standing import would_hold
from gnomonic.core.soil.embed import broms_sand_n
from gnomonic.core.tell.bends import bends
from gnomonic.core.tell.brace_sheet import Measured, brace_at, brace_sheet
from gnomonic.core.tell.compare_braces import compare
from gnomonic.core.tell.dips import dips
from gnomonic.core.tell.holes import holes
from gnomonic.core.tell.tag import post_tag


@pytest.mark.parametrize(("grade", "lay"), [(0.0, "level"), (0.15, "level"), (-0.15, "ground"), (0.51, "ground")])
def test_a_brace_on_real_ground(grade, lay):
    """8 ft panel under a 48 in fabric; rail at 0.775 of 51.5 in = 39.9 in.  15 % up puts a level rail 14.4 in lower on the inner post (25.5 in
    of ground clear), 15 % down puts it at 54.3 in, over the fence's own height: along the ground then, as at 51 %."""
    made = plan(line((0, 0, 0), (60, 0, 60 * grade), edits=[LOAM]))
    brace = made.braces[0]
    rise, apart = grade * 2.4384, 2.4384
    rail = 0.775 * made.fence_height_m
    assert brace.lay == lay and brace.panels[0].rise_m == pytest.approx(rise)
    wire = math.hypot(apart, rail) if lay == "level" else math.hypot(apart, rail + rise)
    assert brace.wire_m[0] == pytest.approx(2 * 2 * wire + 1.0, abs=1e-6)
    clear = apart - (made.section.posts["terminal"].diameter_m + made.section.posts["brace"].diameter_m) / 2
    slant = 1.0 if lay == "level" else math.hypot(1.0, grade)
    assert brace.rail_cut_m[0] == pytest.approx(clear * slant)
    # moments about the end post's foot and the whole panel's balance along the slope and up
    s, beta = brace.statics, math.atan(grade)
    assert sum(s.foot_shear_n) == pytest.approx(brace.pull_n * math.cos(beta))
    assert sum(s.uplift_n) == pytest.approx(brace.pull_n * math.sin(beta), abs=1e-6)
    turning = brace.pull_n * math.cos(beta) * brace.pull_height_m
    assert s.uplift_n[1] * apart - s.foot_shear_n[1] * rise == pytest.approx(-turning, abs=1e-6)


def test_the_wire_of_a_51_percent_slope_is_46_ft_10_in_not_37_ft_11():
    """9-49-6 hangs 51½ in high at 2½ in: rail 39.9 in; level ground 4·√(96² + 39.9²) + 39.4 in = 37 ft 11 in; 51 % up 4·√(96² + 88.9²) + 39.4 in."""
    level, steep = (plan(line((0, 0, 0), (60, 0, 60 * g), edits=[LOAM])).braces[0].wire_m[0] for g in (0.0, 0.51))
    assert level / FT == pytest.approx(37 + 11 / 12, abs=0.06) and steep / FT == pytest.approx(46 + 10 / 12, abs=0.06)


def test_a_square_corner_adds_pulls_as_vectors_and_uplifts_as_numbers():
    """Five barbed strands, cold 2041.6 N each: 10 208 N a run at the foot, √2 of it at a right angle; 10 208·hp/2.4384 up, twice."""
    it = line((0, 0, 5), (60, 0, 5), (60, 60, 5), edits=[BARBED, SAND])
    made = plan(it)
    corner = held_at(made, 60.0)
    assert corner.side_n == pytest.approx(5 * 2041.6 * math.sqrt(2), rel=1e-3) and corner.alone[0] == pytest.approx(
        10208, rel=1e-3
    )
    high = (8 + 16 + 25 + 35 + 47) / 5 * IN
    assert corner.lift_n == pytest.approx(2 * 10208 * high / 2.4384, rel=2e-3)
    # 7 in post 3 ft deep in firm sand: Broms, load at the ground line
    assert corner.has_n == pytest.approx(broms_sand_n(17300, 3.25, 7 * IN, 36 * IN, 0.0), rel=1e-6)
    (snag,) = [s for s in snags_of(it, made) if s.code == "foot"]
    assert "3 end posts" in snag.title.text("us") and snag.remedies and snag.at_m == 60.0
    # the remedy of the snag makes it hold
    mended = plan(apply(it, read_edit(snag.remedies[0].edit)))
    assert all(h.holds for h in mended.holds if h.why == "ends")


def test_a_thin_post_in_a_dip_is_lifted():
    """Ground falls 20 % and rises 20 % again: high-tensile fabric, cold about 18 kN, lifts the post in the dip by 2·T·sin 11.31° = 0.392 T;
    a 4½ in post 30 in deep in loose sand is held by π·4.5·30 sq in times 250 psf: 3.27 kN."""
    it = line((0, 0, 10), (50, 0, 0), (100, 0, 10), edits=[HIGH, {"do": "place_post", "at_m": 50}])
    made = plan(it)
    dip = held_at(made, 50.0)
    assert made.posts[dip.post].kind == "wood" and dip.why == "dip"
    assert dip.lift_n == pytest.approx(made.section.cold_n * 2 * math.sin(math.atan(0.2)), rel=1e-6)
    assert dip.grip_n == pytest.approx(math.pi * 4.5 * 30 / 144 * 250 * 4.44822, rel=2e-3)
    snag = next(s for s in snags_of(it, made) if s.code == "lifted" and abs(s.at_m - 50) < 0.01)
    ends = next(r.edit for r in snag.remedies if r.edit["do"] == "end_run")
    assert any(p.role == "pull" and abs(p.station_m - 50) < 0.01 for p in plan(apply(it, read_edit(ends))).posts)
    (sheet,) = [d for d in dips(made) if abs(d.post.station_m - 50) < 0.01]
    assert sheet.hangs_m == pytest.approx(10.0) and sheet.pressed.force_n > sheet.pressed.force_at_start_n > 2300
    # over a hump it is pressed down, and nothing is to be said
    over = plan(line((0, 0, 0), (50, 0, 10), (100, 0, 0), edits=[HIGH, {"do": "place_post", "at_m": 50}]))
    assert held_at(over, 50.0).lift_n == pytest.approx(-dip.lift_n, rel=1e-6) and held_at(over, 50.0).holds


def test_a_bend_carried_round_a_post_pulls_it_sideways():
    """15° round: 2·T·sin 7.5° = 0.261 T.  Carried, held by boards, or the end of two runs; the fabric goes on the outside."""
    way = [(0, 0, 5), (60, 0, 5), (60 + 60 * math.cos(math.radians(15)), -60 * math.sin(math.radians(15)), 5)]
    it = line(*way, edits=[HIGH, SAND])
    made = plan(it)
    (bend,) = bends(it, made)
    assert bend.side_n == pytest.approx(made.section.cold_n * 2 * math.sin(math.radians(7.5)), rel=1e-3)
    assert bend.outside == "left" and bend.how == "carry" and not bend.held.holds
    assert any(s.code == "bend-post" for s in snags_of(it, made))
    boards = do(it, do="ask_post", at_m=60.0, block=True)
    stiff = plan(boards)
    assert held_at(stiff, 60.0).has_n > 1.5 * bend.held.has_n
    assert {n.of: n.count for n in take_off(boards, stiff)}["breast_board"] == 2
    ended = do(it, do="end_run", at_m=60.0)
    assert [p.role for p in plan(ended).posts if abs(p.station_m - 60) < 0.01] == ["corner"] and len(
        plan(ended).runs
    ) == 2
    with pytest.raises(BadInput) as caught:
        do(it, do="end_run", at_m=60.0, end=False)
    assert caught.value.field == "at_m"


def test_a_braced_post_within_a_side_meets_both_pulls():
    """Both runs pulled cancel at its foot; the worst alone is the run behind, all of its pull."""
    it = line((0, 0, 5), (120, 0, 5), edits=[BARBED, LOAM])
    post = held_at(plan(it), 60.0)
    assert post.side_n < 1 and post.alone[0] == pytest.approx(10208, rel=1e-3) and post.asked_side_n == post.alone[0]


def test_pull_lean_and_slack_are_solved_together():
    """A wire 60 m long pulled by two ends that each give y: strain less 2y/60.  At rest the post's own give equals what is left of the pull."""
    it = line((0, 0, 5), (59, 0, 5), edits=[BARBED])
    made = plan(it)
    end = held_at(made, 0.0)
    unit = end.at.lean(1.0, 0.0).ground_m
    straight = 5 * (2041.6 - 1985.8e3 * 2 * end.lean_m / 59)
    assert end.lean_m == pytest.approx(unit * straight, rel=0.02) and end.left < 0.8
    assert end.lean_m < unit * end.side_n


def test_soil_by_stretch_wet_and_unknown():
    it = line((0, 0, 5), (60, 0, 5), (60, 60, 5))
    unknown = next(s for s in snags_of(it, plan(it)) if s.code == "soil")
    assert "loose sand" in unknown.title.text("us") and unknown.remedies
    said = do(it, do="say_soil", soil="clay")
    assert not [s for s in snags_of(said, plan(said)) if s.code == "soil"]
    wet = do(said, do="say_soil", soil="loam", wet=True, from_m=50.0, to_m=70.0)
    made = plan(wet)
    assert (held_at(made, 60.0).at.soil.words, held_at(made, 60.0).at.wet) == ("firm loam", True)
    assert held_at(made, 0.0).at.soil.words == "stiff clay"
    assert (
        held_at(made, 60.0).has_n
        < held_at(plan(do(said, do="say_soil", soil="loam", from_m=50.0, to_m=70.0)), 60.0).has_n
    )
    assert plan(do(wet, do="say_soil", soil="", from_m=50.0, to_m=70.0)).holds == plan(said).holds
    code = plan(do(said, do="say_ground", method="code", frost_m=1.2))
    assert (
        held_at(code, 60.0).side_share > 1 > held_at(plan(said), 60.0).side_share
    )  # no fence post passes the code's clause
    assert all(h.over_frost for h in holes(do(said, do="say_ground", frost_m=1.2), code))
    for bad in (
        {"soil": "cheese"},
        {"soil": "loam", "from_m": 3.0},
        {"soil": "loam", "from_m": 3.0, "to_m": 3.0},
        {"soil": "", "from_m": 1.0, "to_m": 2.0},
    ):
        with pytest.raises(BadInput):
            do(it, do="say_soil", **bad)


def test_a_hump_under_a_rigid_rail_is_no_kink():
    """10 m side of chain link with a hump of 4 in at its middle: both ends 4 in higher, one straight top, line posts cut to it;
    the post on the hump stands as it would on level ground, those at the ends 4 in taller; at most 4 in more under the fabric."""
    flat = line((0, 0, 5), (10, 0, 5), edits=[LINK])
    it = line((0, 0, 5), (5, 0, 5 + 4 * IN), (10, 0, 5), edits=[LINK])
    made, level = plan(it), plan(flat)
    tops = [p.ground_m + p.above_m for p in made.posts if p.kind != "terminal"]
    assert made.rails[0].straight and max(tops) - min(tops) < 1e-9
    middle = min(made.posts, key=lambda p: abs(p.station_m - 5))
    nearest = abs(middle.station_m - 5) / 5 * 4 * IN
    assert middle.above_m == pytest.approx(level.posts[1].above_m + nearest, abs=1e-6)
    assert made.posts[0].above_m == pytest.approx(level.posts[0].above_m + 4 * IN)
    clear = made.limits.clearance_m
    assert max(b.ground.worst_gap_m for b in made.bays) == pytest.approx(clear + 4 * IN, abs=1e-6)
    assert min(b.ground.least_gap_m for b in made.bays) == pytest.approx(clear, abs=1e-6)
    dug = plan(do(it, do="lay_rail", rail="trench"))
    assert (
        dug.posts[0].above_m == pytest.approx(level.posts[0].above_m) and sum(b.ground.cut_m2 for b in dug.bays) > 0.2
    )
    raked = plan(do(it, do="lay_rail", rail="raked"))
    assert not raked.rails[0].straight and max(b.ground.worst_gap_m for b in raked.bays) <= made.limits.gap_max_m + 1e-6
    steep = plan(line((0, 0, 5), (5, 0, 6), (10, 0, 5), edits=[LINK]))  # a straight rail would leave a yard
    assert not steep.rails[0].straight and len(steep.rails[0].nodes_m) == 3


def test_lows_and_humps_are_measured_on_the_ground():
    """A hollow 8 in deep and 2 m wide between posts 3 m apart, bottom edge 2½ in: 10½ in of gap, 6½ in beyond the 4 allowed; side-on a triangle
    whose base is what lies beyond: 2·6.5/8 m wide, 6.5 in high."""
    it = line(
        (0, 0, 5),
        (29, 0, 5),
        (30, 0, 5 - 8 * IN),
        (31, 0, 5),
        (60, 0, 5),
        edits=[LOAM, {"do": "forbid", "from_m": 28.6, "to_m": 31.4}],
    )
    made = plan(it)
    (low,) = [p for p in patches(made) if p.low]
    assert (low.gap_m, low.beyond_m) == pytest.approx((10.5 * IN, 6.5 * IN), abs=1e-6)
    assert low.length_m == pytest.approx(2 * 6.5 / 8) and low.area_m2 == pytest.approx(low.length_m * 6.5 * IN / 2)
    x, gap = edge_gaps(made, made.bays[low.bay])
    assert gap.max() == pytest.approx(low.gap_m) and x[gap.argmax()] == pytest.approx(30.0)
    assert {n.of: n.count for n in take_off(it, made)}["filler_soil"] == pytest.approx(low.area_m2 * 36 * IN)
    for what, of in (
        ("log", "filler_log"),
        ("stone", "filler_stone"),
        ("skirt", "filler_skirt"),
        ("strand", "filler_strand"),
    ):
        filled = do(it, do="fill_low", at_m=30.0, what=what)
        counts = {n.of: n.count for n in take_off(filled, plan(filled))}
        assert counts[of] > 0 and "filler_soil" not in counts
        assert not [s for s in snags_of(filled, plan(filled)) if s.code == "dip"]
    strands = {n.of: n.count for n in take_off(filled, plan(filled))}["filler_strand"]
    assert strands == pytest.approx(2 * (low.length_m + 1.2))  # 6.5 in: two strands 5 in apart, run on 2 ft at each end


def test_spacing_schools():
    """60 m between braces 2.4384 in: even bays; or full bays of 10 ft, the odd one last; by the ground never dearer than either."""
    it = line((0, 0, 5), (20, 0, 4), (40, 0, 5.5), (60, 0, 5), edits=[LOAM])
    ground, even, rule = (plan(it if not s else do(it, do="choose_spacing", spacing=s)) for s in ("", "even", "rule"))
    assert ground.cost <= even.cost + 1e-9 and ground.cost <= rule.cost + 1e-9
    inner = [b.to_m - b.from_m for b in even.bays][1:-1]
    assert max(inner) - min(inner) < 1e-6
    full = [b.to_m - b.from_m for b in rule.bays][1:-3]
    assert full == pytest.approx([3.048] * len(full), abs=1e-6)


def test_wet_ground_that_was_found_is_wet_for_its_holes_too():
    """Rushes from 20 to 40 m: what a post there holds, what is left of it when its hole stops short and the hole list all
    say wet; level line of 60 m, nothing wet was said of the soil itself."""
    it = line(
        (0, 0, 5),
        (60, 0, 5),
        edits=[LOAM, {"do": "add_found", "kind": "wet", "name": "rushes", "from_m": 20, "to_m": 40}],
    )
    told = {h.post.station_m: h.wet for h in holes(it, plan(it))}
    assert len(told) > 8 and all(wet == (20 <= at <= 40) for at, wet in told.items())
    clay = {h.post.station_m: h.pilot_m for h in holes(do(it, do="say_soil", soil="clay"), plan(it))}
    loam = {h.post.station_m: h.pilot_m for h in holes(it, plan(it))}
    driven = [at for at, pilot in loam.items() if not pilot]
    assert driven and all(clay[at] == 0.09 for at in driven)  # common practice: 3.5 in pilot hole in hard ground


def test_a_brace_that_does_not_stand_at_the_seam_of_a_closed_line():
    """240 m round, the last side falls 40 m to the first post: a level rail there would pass over the inner post's head."""
    it = line((0, 0, 0), (60, 0, 0), (60, 60, 0), (0, 60, -40), closed=True, edits=[LOAM])
    level = do(it, do="brace_end", kind="h", lay="level", at_m=240.0, ahead=False)
    fallen = next(s for s in snags_of(level, plan(level)) if s.code == "brace-falls")
    assert fallen.grave and fallen.consequence.text("us")
    mended = apply(level, read_edit(fallen.remedies[0].edit))
    assert not [s for s in snags_of(mended, plan(mended)) if s.code == "brace-falls"]
    fact_names = {f.name for f in post_tag(level, plan(level), 0).facts}
    assert "Pushed sideways, cold" in fact_names


@pytest.mark.parametrize("fill", ["concrete", ""])
def test_a_remedy_and_the_verdict_count_the_same_hold(fill):
    """A footing's weight holds a post down in what is told (23 kN/m³) and so in what a remedy promises: each post as it is
    would hold exactly if it does, and no remedy asks for more depth than is needed."""
    it = line(
        (0, 0, 0),
        (60, 0, 0),
        (120, 0, 9),
        edits=[LOAM, {"do": "ask_post", "at_m": 0.0, "also": [60.0, 120.0], "fill": fill}],
    )
    made = plan(it)
    assert made.holds
    for held in made.holds:
        if held.stands and not held.bends:
            assert would_hold(held, held.at.depth_m, held.at.wide_m) == held.holds
    solid = held_at(made, 0.0)
    weighs = solid.grip_n - solid.at.up_n
    wide, post = solid.at.wide_m, made.posts[0].rule.diameter_m
    concrete = 23000.0 * math.pi / 4 * (wide**2 - post**2) * made.posts[0].depth_m
    assert weighs == pytest.approx(concrete if fill else 0.0)
    between = replace(
        solid, side_n=0.0, alone=None, lift_n=(solid.at.up_n + weighs / 2) / solid.factor, lean_m=0.0, bend_pa=0.0
    )
    assert between.holds == would_hold(between, solid.at.depth_m, wide) is True
    over = replace(between, lift_n=(solid.grip_n + 1.0) / solid.factor)
    assert not over.holds and not would_hold(over, solid.at.depth_m, wide)


def test_every_kind_of_brace_on_any_end():
    it = line((0, 0, 5), (60, 0, 5), edits=[LOAM])
    for kind, counted in (
        ("strut", "strut"),
        ("box", "brace_rail"),
        ("welded", "brace_pipe"),
        ("deadman", "anchor_log"),
        ("boards", "breast_board"),
        ("none", None),
    ):
        braced = do(it, do="brace_end", kind=kind, at_m=0.0, ahead=True)
        made = plan(braced)
        needs = {n.of: n.count for n in take_off(braced, made)}
        assert needs.get("brace_rail", 0) == (2 if kind == "box" else 1), kind
        assert counted is None or needs[counted] > 0, kind
        names = {f.name for f in post_tag(braced, made, 0).facts}
        assert "Pull of what hangs, cold" in names and "Pushed sideways, cold" in names
    strut = plan(do(it, do="brace_end", kind="strut", angle_deg=45.0, tie="foot", at_m=0.0, ahead=True)).struts[0]
    high = 0.75 * plan(it).fence_height_m
    start, end, deep = strut.trench_m
    # common practice: at 45° about 3 ft up the trench runs from 3 ft to some 5 ft out and 22 in deep, 30 in of strut in it
    assert (
        start == pytest.approx(high)
        and deep == pytest.approx(30 * IN * math.sin(math.pi / 4))
        and end - start == pytest.approx(deep)
    )
    assert deep / IN == pytest.approx(21.2, abs=0.1) and strut.statics.end_post_uplift_n == pytest.approx(
        strut.pull_n * strut.pull_height_m / high
    )
    everywhere = plan(do(it, do="brace_end", kind="strut"))
    assert len(everywhere.struts) == 2 and not everywhere.braces
    triple = plan(do(it, do="brace_end", kind="h", panels=3, at_m=60.0, ahead=False))
    assert [b.end.panels for b in triple.braces] == [1, 3]
    for bad in (
        {"angle_deg": 0},
        {"angle_deg": 90},
        {"panels": 4},
        {"spacing_m": 0.0},
        {"rail_share": 1.2},
        {"kind": "magic"},
    ):
        with pytest.raises(BadInput) as caught:
            do(it, do="brace_end", **bad)
        assert caught.value.field == next(iter(bad))


def test_the_comparison_is_the_plan_and_a_longer_rail_never_lifts_more():
    it = line((0, 0, 5), (60, 0, 5), edits=[LOAM])
    made = plan(it)
    rows = compare(it, made, 0.0, True)
    assert len(rows) == 3 * 4 * 3 + 3 * 3
    own = next(
        r for r in rows if (r.ask.panels, r.ask.rail_share) == (1, 0.775) and abs(r.ask.spacing_m - 2.4384) < 1e-6
    )
    s = made.braces[0].statics
    assert (own.rail_n, own.wire_n, own.shear_n, own.uplift_n) == pytest.approx(
        (s.rail_n[0], s.wire_n[0], s.foot_shear_n[0], s.end_post_uplift_n)
    )
    for panels in (1, 2, 3):
        for share in (0.6, 0.775, 0.9):
            lifts = [r.uplift_n for r in rows if r.ask.panels == panels and r.ask.rail_share == share]
            assert lifts == sorted(lifts, reverse=True)
    taken = plan(
        apply(it, read_edit({"do": "brace_end", "at_m": 0.0, "ahead": True, **own.ask.model_dump(exclude_none=True)}))
    )
    assert taken.braces[0].statics == made.braces[0].statics


@pytest.mark.parametrize(("grade", "ahead"), [(0.15, True), (0.15, False), (0.5, True), (0.5, False)])
def test_a_row_of_the_comparison_is_what_the_end_then_is(grade, ahead):
    """Up and down 15 and 50 %: what a row says of a way is what the plan has once it is taken; what can't stand says why.
    A foot tie of a strut lies along the ground: its two strands, there and back, are 4 times the slant of its reach and 1 m."""
    it, at = line((0, 0, 0), (60, 0, 60 * grade), edits=[LOAM]), 0.0 if ahead else math.hypot(60, 0)
    rows, stood = compare(it, plan(it), at, ahead), 0
    for row in rows[::5]:
        if row.because:
            continue
        ask = {"do": "brace_end", "at_m": at, "ahead": ahead, **row.ask.model_dump(exclude_none=True)}
        made = plan(apply(it, read_edit(ask)))
        if row.ask.kind == "strut":
            (s,) = [s.statics for s in made.struts if s.at_start == ahead]
            has = (s.strut_n, s.foot_shear_n, s.end_post_uplift_n)
        else:
            (s,) = [b.statics for b in made.braces if b.end.at_start == ahead]
            has = (s.rail_n[0], s.foot_shear_n[0], s.end_post_uplift_n)
        assert (row.rail_n, row.shear_n, row.uplift_n) == pytest.approx(has)
        stood += 1
    assert stood >= 4
    tied, none = (
        next(r for r in rows if r.ask.kind == "strut" and r.ask.angle_deg == 45 and r.ask.tie == t)
        for t in ("foot", "none")
    )
    if not tied.because:
        slant = 0.75 * plan(it).fence_height_m * math.hypot(1, grade)
        assert tied.cost - none.cost == pytest.approx((4 * slant + 1) * catalog()["strut_wire"].index / 100)
    with pytest.raises(BadInput, match="no run ends at"):
        compare(it, plan(it), 17.0, ahead)


def test_the_brace_sheet_is_cut_from_what_was_measured():
    """92¼ in between, 7½ and 6 in posts, on level ground: the rail 92¼ in; centres 99 in; wire 4·√(99² + rail²) and the wraps."""
    made = plan(line((0, 0, 5), (60, 0, 5), edits=[LOAM]))
    _, brace = brace_at(made, 0.0, True)
    sheet = brace_sheet(made, brace, Measured(92.25 * IN, 7.5 * IN, 6 * IN))
    (panel,) = sheet.panels
    assert panel.rail_m == pytest.approx(92.25 * IN) and panel.centres_m == pytest.approx(99 * IN)
    assert panel.wire_m == pytest.approx(4 * math.hypot(99 * IN, brace.rail_height_m) + 1.0)
    assert panel.outer.below_m == pytest.approx(panel.inner.below_m) and sheet.string_m == pytest.approx(
        panel.outer.below_m + brace.rail_height_m
    )
    # uphill the level string stands lower over the inner post's ground, its mark as far below the string
    up = plan(line((0, 0, 5), (60, 0, 11), edits=[LOAM]))
    own = brace_sheet(up, brace_at(up, 0.0, True)[1]).panels[0]
    assert own.outer.below_m == pytest.approx(
        own.inner.below_m
    ) and own.outer.over_m - own.inner.over_m == pytest.approx(0.24384, abs=1e-6)
    for bad, key in (
        (Measured(0.0, 0.19, 0.15), "clear"),
        (Measured(50 * FT, 0.19, 0.15), "clear"),
        (Measured(2.3, 0.0, 0.15), "outer"),
        (Measured(2.3, 0.19, 2.0), "inner"),
    ):
        with pytest.raises(BadInput) as caught:
            brace_sheet(made, brace, bad)
        assert caught.value.field == key
    with pytest.raises(BadInput, match="no brace stands"):
        brace_at(made, 30.0, True)


def test_what_is_asked_of_a_post_goes_with_it_when_the_line_is_mended():
    it = line((0, 0, 5), (40, 0, 5), (80, 0, 5), edits=[LOAM])
    it = do(it, do="ask_post", at_m=40.0, depth_m=1.2, fill="concrete", kind="wood")
    it = do(
        do(it, do="brace_end", kind="strut", at_m=80.0, ahead=False), do="say_soil", soil="sand", from_m=60.0, to_m=80.0
    )
    post = next(p for p in plan(do(it, do="place_post", at_m=40.0)).posts if abs(p.station_m - 40) < 0.01)
    assert post.depth_m == pytest.approx(1.2) and post.fill == "concrete" and post.rule.hole_m > post.rule.diameter_m
    longer = do(it, do="move_point", index=0, e_m=-20.0, n_m=0.0, h_m=5.0)
    assert longer.own.asked[0].at_m == pytest.approx(60.0) and longer.own.braces[0].at_m == pytest.approx(100.0)
    assert (longer.soil.stretches[0].from_m, longer.soil.stretches[0].to_m) == pytest.approx((80.0, 100.0))
    again = json.loads(longer.job.canonical_json())
    assert again["lines"][0]["soil"]["stretches"][0]["soil"] == "sand"
    assert do(it, do="ask_post", at_m=40.0, forget=True).own.asked == ()
    with pytest.raises(BadInput):
        do(it, do="ask_post", at_m=10.0, forget=True)


@given(st.floats(-0.3, 0.3), st.floats(1.8, 3.6), st.integers(1, 3), st.sampled_from(["level", "ground", ""]))
def test_any_brace_of_any_end_is_in_balance(grade, apart, panels, lay):
    it = line(
        (0, 0, 50),
        (80, 0, 50 + 80 * grade),
        edits=[LOAM, {"do": "brace_end", "kind": "h", "panels": panels, "spacing_m": apart, "lay": lay}],
    )
    for brace in plan(it).braces:
        s = brace.statics
        if not s.stands:
            assert s.because
            continue
        beta = math.atan(brace.panels[0].rise_m / brace.panels[0].level_m)
        assert sum(s.foot_shear_n) == pytest.approx(brace.pull_n * math.cos(beta), rel=1e-6)
        assert sum(s.uplift_n) == pytest.approx(brace.pull_n * math.sin(beta), rel=1e-6, abs=1e-3)


def test_posts_bend_too():
    """Between foot and rail M = H·hp·(hr − hp)/hr; below ground in clay H·(1.5·b + 0.5·H/(9·cu·b)) with the shear at the ground line; over
    π·d³/32.  A thin post that carries a strong fabric round a bend is bent beyond 13 MPa."""
    made = plan(line((0, 0, 5), (60, 0, 5), edits=[LOAM]))
    end, brace = held_at(made, 0.0), made.braces[0]
    h, hp, hr, d = brace.pull_n, brace.pull_height_m, brace.rail_height_m, 7 * IN
    below = end.asked_side_n * (1.5 * d + 0.5 * end.asked_side_n / (9 * 40e3 * d))
    assert (
        end.bend_pa == pytest.approx(max(below, h * hp * (hr - hp) / hr) / (math.pi * d**3 / 32), rel=1e-6)
        and not end.bends
    )
    way = [(0, 0, 5), (60, 0, 5), (60 + 60 * math.cos(math.radians(18)), -60 * math.sin(math.radians(18)), 5)]
    bent = held_at(plan(line(*way, edits=[HIGH, {"do": "say_soil", "soil": "stony"}])), 60.0)
    assert bent.bends and not bent.holds


def test_a_rail_that_comes_in_higher_than_it_goes_out_is_said():
    """A hump of 6 in on one side only lifts that rail's ends: at the corner it comes in 6 in over the other."""
    it = line((0, 0, 5), (5, 0, 5 + 6 * IN), (10, 0, 5), (10, 12, 5), edits=[LINK])
    (step,) = [s for s in snags_of(it, plan(it)) if s.code == "rail-step"]
    assert step.at_m == pytest.approx(10.0) and step.title.v["a"][0] - step.title.v["b"][0] == pytest.approx(6 * IN)


def test_one_end_of_a_rail_raised_alone():
    """A hump of 4 in in the middle of 10 m: one end alone goes up 8 in, the other stays."""
    it = line((0, 0, 5), (5, 0, 5 + 4 * IN), (10, 0, 5), edits=[LINK])
    high = plan(it).fence_height_m
    for way, ends in (("first", (high + 8 * IN, high)), ("last", (high, high + 8 * IN))):
        rail = plan(do(it, do="lay_rail", rail=way)).rails[0]
        assert (rail.heights_m[0], rail.heights_m[-1]) == pytest.approx(ends)


@pytest.mark.parametrize("key", sorted(systems()))
def test_any_end_of_any_barrier_can_be_braced_any_way(key):
    label = systems()[key].labels()[0] if systems()[key].labels() else ""
    it = line((0, 0, 5), (60, 0, 8), edits=[LOAM, {"do": "hang_barrier", "system": key, "label": label}])
    for kind in ("h", "strut", "box", "welded", "deadman", "boards", "none"):
        braced = do(it, do="brace_end", kind=kind)
        made = plan(braced)
        assert take_off(braced, made) and len(made.ends) == 2, (key, kind)
        assert snags_of(braced, made) is not None and post_tag(braced, made, 0).facts and holes(braced, made)
