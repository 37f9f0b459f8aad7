"""What is bought, spared and paid over the years, each number counted or worked by hand; the trade's sizes common practice."""

import math
from datetime import date
from decimal import Decimal
from fractions import Fraction as F

import pytest
from ground import FT, line
from places import plan

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.demand.system import systems
from gnomonic.core.haul.held import Held
from gnomonic.core.haul.life import over_years
from gnomonic.core.haul.prices import Price, Seller
from gnomonic.core.haul.supply import Lot, substitutes, supply
from gnomonic.core.haul.takeoff import JobNeed, Need, take_off
from gnomonic.core.haul.wares import ware_of
from gnomonic.standins.suppliers import indexed

HIGH = {"do": "hang_barrier", "system": "deer", "label": "20-96-6"}


def needs_of(*points, edits=()):
    it = line(*points, edits=edits)
    return {n.key: n for n in take_off(it, plan(it))}, plan(it)


def test_a_strut_is_as_long_as_the_ground_under_its_foot_asks():
    """Level at the first end; at the last the ground falls 15 % away from the post, so that the foot lies 0.15·reach lower.  Both are
    sold by the longer."""
    struts = [{"do": "brace_end", "kind": "strut"}]
    needs, made = needs_of((0, 0, 0), (50, 0, 0), (60, 0, 1.5), edits=struts)
    first, _ = made.struts
    high, reach, buried = first.height_m, first.statics.reach_m, first.buried_m
    lengths = [math.hypot(reach, high) + buried, math.hypot(reach, high + 0.15 * reach) + buried]
    assert needs["strut"].cuts_m == pytest.approx(lengths) and lengths[1] > lengths[0] + 0.05
    assert needs["strut"].size_m == pytest.approx(lengths[1]) and needs["strut"].count == 2


def test_a_gate_of_two_leaves_one_over_the_other_is_bought_as_two_leaves_of_half_the_height():
    """Joined bottom to bottom (common practice): an 8 ft fence takes two 4 ft leaves."""
    needs, made = needs_of(
        (0, 0, 5),
        (60, 0, 5),
        edits=[HIGH, {"do": "add_gate", "at_m": 20.0, "leaf_m": 3.6576, "name": "gate", "kind": "two_high"}],
    )
    (gate,) = made.gates
    (leaf,) = [n for n in needs.values() if n.of == "gate_leaf"]
    assert leaf.count == 2 * gate.kind.leaves and leaf.across_m == pytest.approx(gate.high_m / 2)
    assert leaf.size_m == pytest.approx(12 * FT)


@pytest.mark.parametrize(("side_ft", "system", "label", "item", "lengths_ft"), [
    # 40 ft between end posts less 2⅜ in and 3 in is 12.055 m: two of 21 ft, whose swage takes 6 in, reach 12.649 m
    (40, "chainlink", "48-11-2", "top_rail", {21.0}),
    # 30 ft less as much is 9.007 m: one of 21 ft and one of 10½ ft reach 9.449 m
    (30, "chainlink", "48-11-2", "top_rail", {21.0, 10.5}),
])  # fmt: skip
def test_a_rail_costs_by_its_length(side_ft, system, label, item, lengths_ft):
    """The catalog's index of 200 is a tube of 21 ft: one of 10½ ft is 100 (common practice: tube is sold by the foot)."""
    needs, _ = needs_of(
        (0, 0, 5), (side_ft * FT, 0, 5), edits=[{"do": "hang_barrier", "system": system, "label": label}]
    )
    rails = {round(n.size_m / FT, 1): n for n in needs.values() if n.of == item}
    assert set(rails) == lengths_ft
    for long_ft, rail in rails.items():
        assert rail.each == pytest.approx(200 * long_ft / 21)
        assert float(indexed(ware_of(rail).key)[1]) == pytest.approx(200 * long_ft / 21, rel=1e-3)


@pytest.mark.parametrize("item", ["top_rail", "post_board", "top_board"])
def test_what_is_sold_in_lengths_says_which_one_its_index_is_of(item):
    assert {rule.item for of in systems().values() for rule in of.sticks} == {"top_rail", "post_board", "top_board"}
    assert catalog()[item].length_m > 0


def need(of, count, use, **more):
    return JobNeed((("A", Need(of, of, count, use, **more)),))


@pytest.mark.parametrize(("count", "use", "unit", "spare"), [
    (1, "fitting", "", 1), (100, "fitting", "", 1), (101, "fitting", "", 2), (200, "brace_staple", "", 2), (201, "brace_pin", "", 3),
    (150, "post", "", 0), (150, "twist", "", 0), (150, "fitting", "m", 0),
])  # fmt: skip
def test_one_spare_for_every_hundred_begun_of_small_fittings(count, use, unit, spare):
    (wanted,) = supply([need("staple", count, use, unit=unit)], [], []).wanted
    assert (wanted.qty, wanted.spare, wanted.left) == (count, spare, count + spare)


def lot(key, item, count, free=None):
    return Lot(Held(id=key, item=item, count=Decimal(count)), F(count if free is None else free))


def test_spares_are_taken_from_stock_too():
    """250 staples and 3 spares: 120 and 100 lie there, 33 are short; with 300 there nothing is, and 253 are used."""
    asked = [need("staple", 250, "fitting")]
    short = supply(asked, [lot("a", "staple", 120), lot("b", "staple", 100)], [])
    assert short.used == {"a": 120, "b": 100} and short.short == {"staple": 33}
    enough = supply(asked, [lot("c", "staple", 300)], [])
    assert enough.used == {"c": 253} and not enough.short


def test_what_is_used_up_is_no_substitute_and_what_is_too_thick_is_none_either():
    """Five 100 mm posts are needed and none lie there; of six 120 mm posts the job takes two for itself: four could stand in.  130 mm is the
    thickest that does (a third over), 131 is too thick, and of another length none."""
    post = {"use": "post", "sold_as": "wood line post", "size_m": 2.4}
    asked = [need("post", 5, across_m=0.100, **post), need("post", 2, across_m=0.120, **post)]
    lots = [lot(str(k), f"post.wood-line-post.{k}@2400", 6) for k in (120, 130, 131)] + [
        lot("long", "post.wood-line-post.110@3000", 6)
    ]
    made = supply(asked, lots, [])
    found = {s.key: s.on_hand for s in substitutes(made, lots, [])}
    assert made.used == {"120": 2} and made.short == {"post.wood-line-post.100@2400": 5}
    assert found == {"post.wood-line-post.120@2400": 4, "post.wood-line-post.130@2400": 6}


def test_a_substitute_saves_the_difference_for_every_piece():
    """Five posts at 10.00, the thicker ones at 8.00 each: 10.00 saved."""
    post = {"use": "post", "sold_as": "wood line post", "size_m": 2.4}
    rows = [
        Price(item=f"post.wood-line-post.{k}@2400", pack=Decimal(1), price=p)
        for k, p in ((100, 1000), (120, 800), (125, 1000))
    ]
    sellers = [Seller(name="a", currency="USD", dated=date(2026, 11, 27), prices=tuple(rows))]
    made = supply([need("post", 5, across_m=0.100, **post)], [], sellers)
    assert [(s.key, s.saves) for s in substitutes(made, [], sellers)] == [("post.wood-line-post.120@2400", 1000)]


def test_upkeep_is_paid_every_year_and_worth_less_the_later():
    """1000 now and 50 at the end of each of 10 years at 5 %: 50·(1 − 1.05^−10)/0.05 = 386.09 more, 129.50 + 50 a year (any
    engineering-economics text).  Bought again after 6 years of 10: 1000/1.05^6 = 746.22 more, and 2 years are left."""
    once = over_years(1000, 10, 10, 0.05, 50)
    assert (once.present, once.yearly) == pytest.approx((1386.09, 179.50), abs=0.01)
    again = over_years(1000, 6, 10, 0.05)
    assert again.present == pytest.approx(1746.22, abs=0.01) and again.bought_in == (0, 6) and again.left_years == 2
    assert over_years(1000, 10, 10, 0.0, 50).present == pytest.approx(1500)
