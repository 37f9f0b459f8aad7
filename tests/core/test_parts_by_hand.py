"""Small parts of the core, each number worked by hand; what a wrong sign or a forgotten limit in them would change."""

import math
from datetime import date
from decimal import Decimal

import pytest
from ground import BARBED, IN, LOAM, line
from places import plan

from gnomonic.core.calc import calc
from gnomonic.core.demand.catalog import catalog
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.bar import Bar
from gnomonic.core.fabric.fabrics import fabrics
from gnomonic.core.fabric.lengths import Lengths
from gnomonic.core.fabric.wire import Crimped
from gnomonic.core.ground.walking import Fix, average
from gnomonic.core.haul.costing import cost_of
from gnomonic.core.haul.prices import Price, Seller
from gnomonic.core.haul.supply import supply
from gnomonic.core.haul.takeoff import JobNeed, Need
from gnomonic.core.haul.terms import Terms
from gnomonic.core.plan.stretch import _given, stretching
from gnomonic.core.pull.gear import pullers, pullers_needed
from gnomonic.core.pull.path import Path
from gnomonic.core.pull.readings import fit_friction
from gnomonic.core.pull.ways import both_ways, one_way
from gnomonic.core.soil.embed import broms_clay
from gnomonic.core.soil.soils import InSoil, soil
from gnomonic.core.tell.tag import post_tag


# --- soil: Broms (1964); the wet leaves 0.55 of sand, 0.6 of clay (from memory) ---------------------------------------------
def test_wet_ground_holds_less_and_gives_more():
    """Sand: 0.5·(17.3 kN/m³·0.55)·0.15·1³·3.25/1 = 2319 N; leans 18·H(1 + 4/3·e/L)/(nh·0.55·L²).  Clay with cu 75 kPa·0.6 = 45 kPa."""
    sand, clay = (InSoil(soil(k), True, 0.15, 1.0, math.pi * 0.15) for k in ("sand", "clay"))
    assert sand.ultimate_n(0.0) == pytest.approx(2319.3, abs=0.1)
    hu = clay.ultimate_n(0.0)
    f = hu / (9 * 45e3 * 0.15)
    assert hu * (1.5 * 0.15 + 0.5 * f) == pytest.approx(2.25 * 45e3 * 0.15 * (1 - 0.225 - f) ** 2, rel=1e-6)
    short = [InSoil(soil(k), True, 0.15, 0.9, 1.0).lean(3000, 0.6).ground_m for k in ("clay", "sand")]
    assert short[0] == pytest.approx(4 * 3000 * 2 / (3e6 * 0.9))  # 8.9 mm
    assert short[1] == pytest.approx(18 * 3000 * (1 + 4 / 3 * 0.6 / 0.9) / (4.4e6 * 0.81))  # 28.6 mm
    assert clay.up_n / InSoil(soil("clay"), False, 0.15, 1.0, math.pi * 0.15).up_n == pytest.approx(0.6)


def test_a_post_that_is_hardly_in_the_ground_holds_nothing_and_no_sum_breaks():
    for key in ("sand", "clay"):
        out = InSoil(soil(key), False, 0.15, 0.0, 0.5)
        assert (
            out.ultimate_n(0.5) == out.allowed_n(0.5) == out.up_n == 0.0
            and 0.5 < out.lean(100, 0.5).ground_m < math.inf
        )


def test_the_greatest_moment_in_clay():
    """cu 50 kPa, b 0.15, L 1, e 1: Hu 6197, f 0.0918: 6197·(1 + 0.225 + 0.0459) = 7876 Nm, which is 2.25·cu·b·g² too."""
    c = broms_clay(50e3, 0.15, 1.0, 1.0)
    assert c.max_moment_nm == pytest.approx(7876, abs=2) == pytest.approx(2.25 * 50e3 * 0.15 * c.g_m**2, rel=1e-4)
    assert (c.f_m, c.g_m) == pytest.approx((0.0918, 0.6832), abs=1e-4)


# --- pulling -----------------------------------------------------------------------------------------------------------------
def test_a_puller_does_no_more_than_its_rating_nor_than_the_hand_makes_of_it():
    ropes = pullers()["ropes"]
    assert ropes.model_copy(update={"rated_n": 500.0}).can_n == 500.0
    assert ropes.model_copy(update={"rated_n": 1e5}).can_n == pytest.approx(ropes.hand_n * ropes.advantage)


def test_as_many_pullers_as_hook_on_a_bar_and_no_more():
    """Drawn at the bar's middle each carries as much: six carry six times what one can do, a hair more is too much."""
    strap = pullers()["strap"]
    assert (
        pullers_needed(5.99 * strap.can_n, 0.6, 1.2, strap) == 6
        and pullers_needed(6.01 * strap.can_n, 0.6, 1.2, strap) == 0
    )


def test_readings_that_do_not_lie_on_one_line():
    """log T of 0, −0.1 and −0.5 after 0, 1 and 2 rad: the line 0.05 − 0.25·θ leaves −0.05, 0.1 and −0.05."""
    fitted = fit_friction([0, 1, 2], [1.0, math.exp(-0.1), math.exp(-0.5)])
    assert (fitted.mu, fitted.t0_n) == pytest.approx((0.25, math.exp(0.05)))
    assert fitted.residuals == pytest.approx((-0.05, 0.1, -0.05))
    assert fitted.residuals_n[1] == pytest.approx(math.exp(-0.1) - math.exp(-0.2))


def test_what_passes_a_place_is_what_lies_between_it_and_the_fixed_end():
    """Straight 2.51 mm wire, 2000 N over 100 m: 2000/989 618 of every metre.  Past 40 m goes what 60 m give; to a joint at 70 m what 40 m give."""
    bar, each = Bar(((Crimped(0.00251), 1),)), 2000 / (200e9 * math.pi * 0.00251**2 / 4)
    from_start = one_way(Path(100.0), bar, 2000.0, True, 0.0)
    assert _given(bar, from_start, 40.0, 100.0) == pytest.approx(60 * each)
    joined = both_ways(Path(100.0), bar, 2000.0, 70.0, 0.0)
    assert _given(bar, joined, 0.0, 40.0) == pytest.approx(40 * each) and _given(
        bar, joined, 40.0, 100.0
    ) == pytest.approx(60 * each)
    assert joined.take_up_m == pytest.approx((70 * each, 30 * each))


def test_a_temperature_that_was_said_is_said_to_be():
    it = line((0, 0, 5), (60, 0, 5), edits=[LOAM, {"do": "set_pull", "temp_c": 4.0}])
    said, usual = (
        stretching(it, plan(it), 20.0),
        stretching(line((0, 0, 5), (60, 0, 5)), plan(line((0, 0, 5), (60, 0, 5))), 20.0),
    )
    assert (said.day_c, said.said, usual.day_c, usual.said) == (4.0, True, 20.0, False)


# --- fabric ------------------------------------------------------------------------------------------------------------------
@pytest.mark.parametrize(("need", "whole", "tail"), [(100, 0, 100), (101, 1, 2), (199, 1, 100), (200, 2, 2)])
def test_rolls_used_up_before_a_tail(need, whole, tail):
    """Rolls of 100 with 1 of lap reach 100, 199, 298 …"""
    lengths = Lengths([need], [], 100, 1)
    assert (lengths.whole_rolls(0), lengths.tail(0)) == (whole, tail)


def test_rows_of_a_mesh_go_from_edge_to_edge():
    """48 in of 2 × 2: 25 wires, 2 in apart.  Chain link of 2 in diamonds crosses every 1.414 in: 33 times over 48 in, the edge itself is none."""
    mesh = fabrics()["welded 48-2×2"].rows_m
    assert len(mesh) == 25 and mesh[0] == 0 and mesh[-1] == pytest.approx(48 * IN) and mesh[1] == pytest.approx(2 * IN)
    link = fabrics()["48-11-2"].rows_m
    assert len(link) == 34 and link[1] == pytest.approx(math.sqrt(2) * IN)


# --- gates -------------------------------------------------------------------------------------------------------------------
@pytest.mark.parametrize(
    ("hinge", "side", "bearing"),
    [("first", "right", 180.0), ("first", "left", 0.0), ("last", "right", 180.0), ("last", "left", 0.0)],
)
def test_a_leaf_pulls_the_way_it_stands_open(hinge, side, bearing):
    """On a line due east it swings out to the south on the right, to the north on the left, whichever post it hangs on."""
    gate = {"do": "add_gate", "at_m": 20.0, "leaf_m": 3.6576, "name": "gate", "hinge": hinge, "side": side}
    made = plan(line((0, 0, 5), (60, 0, 5), edits=[LOAM, BARBED, gate]))
    ((at, leaf),) = [(at, p) for at, p in made.ends if p.name.startswith("the leaf")]
    (hung,) = made.gates
    assert at == (hung.at_m if hinge == "first" else hung.end_m)
    assert leaf.bearing_deg == pytest.approx(bearing) and hung.gate.open_deg == 90


@pytest.mark.parametrize(("leaves", "words"), [(1, "a hinge and a latch"), (2, "both posts have hinges")])
def test_a_sum_of_an_opening_says_what_hangs_in_it(leaves, words):
    answer = calc(
        "gate_opening",
        {
            "leaf_m": 3.6576,
            "leaves": leaves,
            "hinge_gap_m": 0.05,
            "latch_gap_m": 0.025,
            "hinge_post_m": 0.1778,
            "latch_post_m": 0.1778,
        },
    )
    assert words in answer["why"][0]["working"]


# --- haul --------------------------------------------------------------------------------------------------------------------
def test_what_is_made_on_the_spot_is_not_bought_and_everything_else_is():
    for key, item in catalog().items():
        asked = JobNeed((("A", Need(key, key, 3, "fitting", unit=item.unit)),))
        assert bool(supply([asked], [], []).wanted) == (item.index > 0), key


def test_only_fabric_is_on_rolls():
    assert Need("roll", "9-49-6", 2, "fabric", metres=120).on_rolls
    assert not Need("coil", "barbed", 2, "strand", metres=700).on_rolls and not Need("post", "post", 2, "post").on_rolls


@pytest.mark.parametrize(("price", "cents"), [(None, None), (1250, 5 * 1250)])
def test_posts_that_nobody_sells_have_no_sum(price, cents):
    """Five posts of 2.4 m, cut from nothing longer: five times the price of one, or no sum at all."""
    posts = Need("post", "post", 5, "post", sold_as="wood line post", size_m=2.4, across_m=0.1, cuts_m=(2.4,) * 5)
    rows = [Price(item="post.wood-line-post.100@2400", pack=Decimal(1), price=price)] if price else []
    sellers = [Seller(name="a", currency="USD", dated=date(2026, 11, 27), prices=tuple(rows))]
    made = cost_of({}, supply([JobNeed((("A", posts),))], [], sellers), [], Terms())
    (charge,) = [c for c in made.charges if c.what == "material"]
    assert charge.cents == cents and charge.lines == ({"A": cents} if cents else {})


# --- walking -----------------------------------------------------------------------------------------------------------------
def test_a_fix_four_times_as_far_off_as_most_is_left_out():
    """Two fixes a metre north, two a metre south, one that jumped: the median place lies a metre north, the median distance from it is 2 m,
    so that 8 m from it is the limit: at 8.9 m north it counts, at 9.1 it does not."""
    metre = 360 / 40_030_174  # of latitude, on a sphere of 6371 km
    for far, used in ((8.9, 5), (9.1, 4)):
        off = (1, -1, 1, -1, far)
        stop = average([Fix(k, 10.0, 47.0 + n * metre, 5.0, 1, good_m=1.0) for k, n in enumerate(off)])
        assert stop is not None and stop.used == used, far


# --- a plan ------------------------------------------------------------------------------------------------------------------
def test_under_a_rigid_rail_the_bottom_edge_hangs_from_the_rail():
    """Chain link of 48 in on level ground, 1 in over it: the rail lies 49 in up at every post, the edge 1 in."""
    made = plan(line((0, 0, 5), (12, 0, 5), edits=[{"do": "hang_barrier", "system": "chainlink", "label": "48-11-2"}]))
    assert made.rails and [made.edge_m(b, far) for b in made.bays for far in (False, True)] == pytest.approx(
        [1 * IN] * 2 * len(made.bays)
    )


def test_there_is_no_tag_of_a_post_that_is_not_there():
    it = line((0, 0, 5), (20, 0, 5))
    made = plan(it)
    assert post_tag(it, made, len(made.posts) - 1).facts
    for number in (-1, len(made.posts)):
        with pytest.raises(BadInput):
            post_tag(it, made, number)


def test_what_is_cut_from_the_same_lengths_is_paid_by_its_length():
    """Two pieces of 2 m and three of 1 m, cut from lengths of 4.1 m at 10.00 each: 7 m take two lengths; 4/7 of 20.00 and 3/7."""
    posts = [
        JobNeed(
            (
                (
                    "A",
                    Need(
                        f"post{n}",
                        "post",
                        n,
                        "post",
                        sold_as="wood line post",
                        size_m=long,
                        across_m=0.1,
                        cuts_m=(long,) * n,
                    ),
                ),
            )
        )
        for long, n in ((2.0, 2), (1.0, 3))
    ]
    rows = (Price(item="post.wood-line-post.100@4100", pack=Decimal(1), price=1000),)
    made = supply(posts, [], [Seller(name="a", currency="USD", dated=date(2026, 11, 27), prices=rows)])
    cents = [c.cents for c in cost_of({}, made, [], Terms()).charges if c.what == "material"]
    assert made.buying.total == 2000 and cents == [1143, 857]
