"""A pull drawn round a bend, over the ground, and let go: every number worked by hand from the belt equation and Hooke's law.

Straight 2.51 mm wire: EA = 200 GPa·π·2.51²/4 mm² = 989 602 N.  A right angle (π/2) at μ 0.2: e^(μθ) = e^0.314159 = 1.369107,
e^(−μθ) = 0.730403; its knots catch 50 N besides.
"""

import math

import pytest

from gnomonic.core.fabric.bar import Bar
from gnomonic.core.fabric.wire import Crimped, relief
from gnomonic.core.pull.path import Bend, Path, pulled
from gnomonic.core.pull.release import release
from gnomonic.core.pull.ways import Gives, Search, best_point, both_ways, ended_at

WIRE = Crimped(0.00251)
STRAIGHT = Bar(((WIRE, 1),))
EA_N = 200e9 * math.pi * 0.00251**2 / 4
ROUND = Bend(40.0, math.pi / 2, 0.2, 50.0)
KEEPS, HOLDS = 0.7304027, 1.3691077


def along(stretches):
    """From and to, and the pull there, of every stretch that is one."""
    return [pytest.approx((s.from_m, s.to_m, s.start_n, s.end_n), abs=0.05) for s in stretches if s.long_m > 1e-9]


def test_a_bend_that_slips_holds_its_catch_as_often_as_its_friction():
    """2000 N beyond the bend: 2000·0.7304 − 50 = 1410.8.  The end falls to 900: the bend holds (900 + 50)·1.369107 = 1300.7 behind it,
    less than there was, so all 100 m slide and give (1100·40 + 110.15·60)/EA = 51.14 mm."""
    beyond = 2000 * KEEPS - 50
    behind = 950 * HOLDS
    slip = (1100 * 40 + (beyond - behind) * 60) / EA_N
    assert slip == pytest.approx(0.05114, abs=1e-5)
    freed = release(Path(100.0, (ROUND,)), STRAIGHT, 2000.0, slip)
    assert along(freed.stretches) == [(0, 40, 900, 900), (40, 100, 1300.65, 1300.65)]
    assert freed.affected_m == 100 and freed.end_n == pytest.approx(900)


def test_a_bend_that_does_not_slip_keeps_what_lies_behind_it():
    """The end falls to 1100: the bend could hold 1150·1.369107 = 1574, over the 1410.8 there are: nothing moves beyond 40 m."""
    freed = release(Path(100.0, (ROUND,)), STRAIGHT, 2000.0, 900 * 40 / EA_N)
    assert along(freed.stretches) == [(0, 40, 1100, 1100), (40, 100, 1410.8, 1410.8)]
    assert freed.affected_m == 40


def test_behind_a_bend_it_slides_until_the_drag_meets_what_was_pulled():
    """2 N of drag a metre.  Drawn: 2000, 1920 at the bend, 1920·0.7304 − 50 = 1352.37 behind it and 2 less each metre.  Let go to 800: 880 at
    the bend, 930·1.369107 = 1273.27 behind it and 2 more each metre: they meet after (1352.37 − 1273.27)/4 = 19.78 m."""
    path = Path(500.0, (ROUND,), 2.0)
    behind, now = 1920 * KEEPS - 50, 930 * HOLDS
    reach = (behind - now) / 4
    slip = ((1960 - 840) * 40 + (behind - now) / 2 * reach) / EA_N
    freed = release(path, STRAIGHT, 2000.0, slip)
    assert freed.affected_m == pytest.approx(40 + 19.776, abs=0.01)
    level = behind - 2 * reach
    assert along(freed.stretches) == [
        (0, 40, 800, 880),
        (40, 40 + reach, now, level),
        (40 + reach, 500, level, behind - 2 * 460),
    ]


def test_drawn_both_ways_each_side_is_seen_from_the_joint():
    """Joint at 70 m of 100, bend at 40: 30 m of drag bring 1940 to the bend, 1940·0.7304 − 50 = 1366.98 beyond it, 1286.98 at the start."""
    drawn = both_ways(Path(100.0, (ROUND,), 2.0), STRAIGHT, 2000.0, 70.0, 0.0)
    assert along(drawn.stretches) == [(0, 40, 1286.98, 1366.98), (40, 70, 1940, 2000), (70, 100, 2000, 1940)]
    assert drawn.splice_m == 70 and drawn.after == drawn.stretches


def test_every_end_gives_what_its_own_post_does():
    """100 m without friction from 2000 N: δ·EA/L lost.  Tie 10 mm; the first post moves 2 mm, the last 30: 118.75 N and 395.8 N."""
    gives = Gives(tie_m=0.010, splice_m=0.004, start_m=0.002, end_m=0.030, post_m=0.005)
    search = Search(Path(100.0), STRAIGHT, 2000.0, gives, ((0.0, 100.0),))
    start, end, joint = search.parts(0.0, 100.0)
    assert (start.way, end.way, joint.way) == ("start", "end", "both")
    assert start.least_n == pytest.approx(2000 - 0.012 * EA_N / 100) and end.least_n == pytest.approx(
        2000 - 0.040 * EA_N / 100
    )
    assert joint.least_n == pytest.approx(2000 - 0.004 * EA_N / 100)
    # ended on a post at 40 m: 60 m from there, which gives 10 + 5 mm there and 10 + 30 at the far end
    start, end, joint = search.parts(40.0, 100.0)
    assert start.least_n == pytest.approx(2000 - 0.015 * EA_N / 60) and end.least_n == pytest.approx(
        2000 - 0.040 * EA_N / 60
    )
    start, end, _ = search.parts(0.0, 40.0)
    assert start.least_n == pytest.approx(2000 - 0.012 * EA_N / 40) and end.least_n == pytest.approx(
        2000 - 0.015 * EA_N / 40
    )


@pytest.mark.parametrize(("allowed", "part", "at"), [
    (((0.0, 100.0),), (0.0, 100.0), 50.0),  # all places leave as much: the middle is taken
    (((0.0, 100.0),), (40.0, 100.0), 70.0),  # the middle of the part, not of the run
    (((0.0, 30.0), (80.0, 100.0)), (0.0, 100.0), 30.0),  # as near to it as may be
    (((0.0, 10.0), (65.0, 66.0), (95.0, 100.0)), (0.0, 100.0), 65.0),
])  # fmt: skip
def test_a_splice_is_made_as_near_the_middle_as_may_be(allowed, part, at):
    search = Search(Path(100.0), STRAIGHT, 2000.0, Gives(splice_m=0.004), allowed)
    assert search.parts(*part)[2].splice_m == pytest.approx(at)


def test_one_end_more_at_a_bend_is_worth_what_the_bend_takes():
    """Bend at 40 of 100 m without drag: from either end 1410.8 is left behind it, ended there 2000 everywhere; drawn both ways from anywhere
    it is 1410.8 too."""
    path = Path(100.0, (ROUND,))
    assert ended_at(path, 2000.0, 40.0) == 2000
    point = best_point(path, 2000.0, 10.0)
    assert (point.from_m, point.to_m, point.least_n) == (0.0, 100.0, pytest.approx(1410.8, abs=0.05))
    ways = Search(path, STRAIGHT, 2000.0, Gives(), ((0.0, 100.0),)).ways()
    assert ways[0].ends_m == (40.0,) and ways[0].least_n == 2000 and ways[-1].least_n == pytest.approx(1410.8, abs=0.05)


@pytest.mark.parametrize(("drag", "gone"), [(30.0, 66.67), (20.0, 100.0)])
def test_drag_uses_a_pull_up(drag, gone):
    """2000 N over 30 N a metre are gone after 66.67 m, over 20 N a metre at the very end of 100."""
    stretches = pulled(Path(100.0, (), drag), 2000.0)
    assert next(s.to_m for s in stretches if s.end_n == 0) == pytest.approx(gone, abs=0.01) and stretches[-1].end_n == 0


def test_a_mesh_keeps_its_part_however_far_the_wires_give():
    """Two straight wires at 1000 N and 500 N of mesh that does not grow less: given half their strain back (500 + 1000)/2500, all of it
    500/2500, a quarter (500 + 1500)/2500."""
    strain = WIRE.strain(1000.0)
    given, share = relief(((WIRE, strain, 2),), 500.0)
    assert (given[0], share[0]) == (0.0, 1.0) and (given[-1], share[-1]) == (pytest.approx(strain), pytest.approx(0.2))
    assert given[20] == pytest.approx(strain / 4) and share[20] == pytest.approx(0.8)
