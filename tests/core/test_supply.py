"""Where stuff comes from, held to the books by a checker that knows nothing of how it was found."""

from collections import Counter
from decimal import Decimal
from fractions import Fraction as F
from functools import cache

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from places import demo_fences, plan
from suppliers import TODAY, practice

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.haul.costing import cost_of
from gnomonic.core.haul.held import Held
from gnomonic.core.haul.prices import Price, Seller, of_currency
from gnomonic.core.haul.supply import Lot, supply
from gnomonic.core.haul.takeoff import UNIT_KINDS, job_take_off
from gnomonic.core.haul.terms import Terms
from gnomonic.core.haul.wares import KEY, UNIT_WORDS, unit_of, ware, ware_of
from gnomonic.core.tell.money import charge_amount, charge_words, group_of_charge, grouped, index_of
from gnomonic.standins.suppliers import indexed


@cache
def demo(k):
    it = demo_fences()[k]
    return it, plan(it)


@cache
def needs_of(k):
    return tuple(job_take_off([demo(k)]))


LINES = range(len(demo_fences()))


@pytest.mark.parametrize("k", LINES)
def test_every_need_has_a_ware_of_its_unit_and_a_price(k):
    for both in needs_of(k):
        key = ware_of(both.need).key
        assert unit_of(key) == both.need.unit and UNIT_WORDS[both.need.unit] and both.need.unit in UNIT_KINDS
        assert Price(item=key, pack=Decimal(1), price=1).item == key, KEY
        item = catalog().get(both.need.of)
        if item is None or item.index:
            assert indexed(key) is not None, key
        if both.need.cuts_m:
            assert len(both.need.cuts_m) == both.needs[0][1].count


def check(made, needs, lots, sellers):
    """Everything needed is there, nothing is used that is not, every sum is the sum of its parts."""
    free = {lot.held.id: lot.free for lot in lots}
    assert all(0 < used <= free[key] for key, used in made.used.items())
    for wanted in made.wanted:
        if not wanted.both.need.cuts_m:
            got = wanted.held + (made.units(wanted.ware.key) if wanted.left else 0)
            assert got >= wanted.qty or wanted.ware.key in made.unpriced
    for sawn in made.sawn:
        cuts = Counter(m for row in sawn.cut.layout for m in row.cuts_m)
        asked = Counter()
        for both in needs:
            if both.need.cuts_m and ware_of(both.need).family == sawn.family:
                most = ware_of(both.need).long_m or 1e9
                asked.update(round(min(m, most), 4) for _, n in both.needs for m in n.cuts_m)
        assert cuts == asked
        opened = Counter(sawn.names[row.name] for row in sawn.cut.layout if row.name.startswith("have"))
        assert opened == Counter(sawn.lots) and all(n <= free[key] for key, n in opened.items())
        for row in sawn.cut.layout:
            assert sum(row.cuts_m) + 0.003 * (len(row.cuts_m) - 1) <= row.length_m + 1e-4
    for order in made.buying.orders:
        assert order.goods >= order.supplier.least_order
        for line in order.lines:
            assert line.offer.stock is None or line.packs <= line.offer.stock
            assert any(p.item == line.offer.item and p.price == line.offer.price for s in sellers if s.name == order.supplier.name for p in s.prices)  # fmt: skip
    goods = sum(line.price for order in made.buying.orders for line in order.lines)
    assert made.buying.total == goods + sum(o.supplier.delivery for o in made.buying.orders)


@settings(max_examples=25)
@given(st.data())
def test_supply_keeps_the_books(data):
    k = data.draw(st.sampled_from(list(LINES)))
    needs, sellers = needs_of(k), practice(needs_of(k))
    keys = [ware_of(n.need) for n in needs]
    lots = []
    for n, of in enumerate(data.draw(st.lists(st.sampled_from(keys), max_size=6))):
        long = of.long_mm * data.draw(st.integers(1, 3)) + data.draw(st.integers(-300, 300)) if of.long_mm else 0
        item = f"{of.family}@{max(long, 1)}" if of.long_mm else of.family
        held = Held(id=f"h{n}", item=item, count=Decimal(data.draw(st.integers(1, 400))), value=data.draw(st.integers(0, 900)), condition=data.draw(st.sampled_from(["new", "sound", "worn"])))  # fmt: skip
        lots.append(Lot(held, F(data.draw(st.integers(0, int(held.count))))))
    gone = data.draw(st.sets(st.sampled_from([w.key for w in keys]), max_size=3))
    sellers = [s.model_copy(update={"prices": tuple(p for p in s.prices if p.item not in gone)}) for s in sellers]
    made = supply(needs, lots, sellers)
    check(made, needs, [lot for lot in lots if lot.held.condition != "worn"], sellers)
    it, planned = demo(k)
    cost = cost_of({it.id: planned}, made, [lot.held for lot in lots], Terms(hour=4000, margin=Decimal("0.1")))
    values = {lot.held.id: lot.held.value for lot in lots}
    used = sum(values[key] * n for key, n in made.used.items())
    lost = made.buying.goods + used - cost.of("material")
    assert lost <= len(made.used) or made.unpriced, "what has no price is in no sum, nor what lies there of it"
    assert lost >= -len(made.used), "no cent is made but by rounding parts"
    assert sum(cost.by_line().values()) == cost.net
    for charge in cost.charges:
        assert charge_words(charge).text("metric") and charge_amount(charge, "us") and group_of_charge(charge)
        assert charge.cents is None or charge.cents >= charge.stock >= 0
    assert sum(len(rows) for _, rows in grouped(cost)) == len(cost.charges)


@pytest.mark.parametrize("k", [0, len(LINES) - 1])
def test_with_stock_it_never_costs_more_than_without(k):
    needs, sellers = needs_of(k), practice(needs_of(k))
    bare = supply(needs, [], sellers)
    lots = [Lot(Held(id="st", item="staple", count=Decimal(300)), F(300)), Lot(Held(id="rail", item="brace-rail.102@5000", count=Decimal(3)), F(3))]  # fmt: skip
    assert supply(needs, lots, sellers).buying.total <= bare.buying.total


def test_indices_stand_in_for_prices():
    total = sum(index_of(need) for both in needs_of(0) for _, need in both.needs)
    assert total > 0 and indexed("no-such-thing") is None and indexed("post.no-such-post.100@2000") is None
    steel = indexed("post.driven-steel-post@1829")
    assert steel is not None and steel[0] == "steel" and abs(steel[1] - 100) < 2, "a driven 6 ft steel post is 100"


def test_another_currency_is_another_thing():
    rows = [Seller(name="a", currency="USD", dated=TODAY), Seller(name="b", currency="EUR", dated=TODAY)]
    assert [s.name for s in of_currency(rows, "EUR")] == ["b"] and ware("staple").long_m == 0
