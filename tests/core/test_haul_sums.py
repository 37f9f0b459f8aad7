"""Cutting, buying, years and masses: against brute force, published values and a checker that knows nothing of the search."""

import math
import random
from fractions import Fraction as F
from itertools import combinations, product

import ht
import numpy_financial
import pytest
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st
from places import examples

from gnomonic.core.calc import calc
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.wire import STEEL_WIRE_GAUGE_IN
from gnomonic.core.haul import buying
from gnomonic.core.haul.buying import Offer, Supplier, buy
from gnomonic.core.haul.cutting import Length, TooLittle, cut_lengths

# 5600 mm stock, 13 widths, no kerf: 73 lengths, area bound 72.7 (textbook instance of the literature, from memory).
TEXTBOOK = [(1380, 22), (1520, 25), (1560, 12), (1710, 14), (1820, 18), (1880, 18), (1930, 20), (2000, 10), (2050, 12), (2100, 14), (2140, 16), (2150, 18), (2200, 20)]  # fmt: skip


def test_the_textbook_instance():
    made = calc("stock", {"need": [{"length_m": w / 1000, "count": n} for w, n in TEXTBOOK], "buy": [{"length_m": 5.6, "price": 1}], "kerf_m": 0})  # fmt: skip
    assert (made["opened"], made["cost"], made["proven"]) == (73, 73, {"cost": True, "opened": True})
    assert sum(len(row["cuts_m"]) for row in made["layout"]) == sum(n for _, n in TEXTBOOK)


def partitions(pieces):
    """Every way to put pieces into groups."""
    if not pieces:
        yield []
        return
    first, rest = pieces[0], pieces[1:]
    for r in range(len(rest) + 1):
        for chosen in combinations(range(len(rest)), r):
            group = [first, *(rest[k] for k in chosen)]
            for others in partitions([p for k, p in enumerate(rest) if k not in chosen]):
                yield [group, *others]


def least_cut(pieces, lengths, kerf):
    """(cost, opened) by trying everything: groups onto lengths, each group the cheapest length that is still there."""
    best = None
    for groups in partitions(pieces):
        for picked in product(range(len(lengths)), repeat=len(groups)):
            if any(lengths[k].count is not None and picked.count(k) > lengths[k].count for k in set(picked)):
                continue
            fits = all(sum(g) + kerf * (len(g) - 1) <= lengths[k].length_m + 1e-9 for g, k in zip(groups, picked, strict=True))  # fmt: skip
            if fits:
                key = sum(lengths[k].price for k in picked), len(groups)
                best = key if best is None else min(best, key)
    return best


tenths = st.integers(3, 30).map(lambda n: n / 10)


@settings(max_examples=60, deadline=None)
@given(
    st.lists(tenths, min_size=1, max_size=5),
    st.lists(st.tuples(tenths, st.integers(0, 9), st.integers(0, 2) | st.none()), min_size=1, max_size=3),
    st.sampled_from([0.0, 0.003, 0.1]),
)
@example([2.0, 2.0, 2.0], [(4.0, 5, None)], 0.003)  # two of 2 m and a saw don't come out of 4 m
@example([1.0, 1.0], [(2.0, 0, 1), (1.0, 0, 2)], 0.0)  # the same money: one length is fewer than two
def test_cutting_does_as_well_as_trying_everything(pieces, sold, kerf):
    lengths = [Length(f"s{k}", m, price, count) for k, (m, price, count) in enumerate(sold)]
    least = least_cut(pieces, lengths, kerf)
    if least is None:
        with pytest.raises(BadInput):
            cut_lengths([(p, 1) for p in pieces], lengths, kerf)
        return
    made = cut_lengths([(p, 1) for p in pieces], lengths, kerf)
    assert (made.cost, made.opened) == least
    assert made.cost_bound <= made.cost and made.opened_bound <= made.opened


@examples(60, 10)
@given(st.lists(st.tuples(st.integers(300, 3000), st.integers(1, 20)), min_size=1, max_size=8), st.integers(0, 5))
def test_every_cut_plan_keeps_its_lengths(needs, kerf_mm):
    ask = {
        "need": [{"length_m": w / 1000, "count": n} for w, n in needs],
        "have": [{"length_m": 4.2, "count": 3}],
        "buy": [{"length_m": 3.0, "price": 9.5}, {"length_m": 6.0, "price": 17.25}],
        "kerf_m": kerf_mm / 1000,
    }
    made = calc("stock", ask)
    cut = sorted(m for row in made["layout"] for m in row["cuts_m"])
    assert cut == pytest.approx(sorted(w / 1000 for w, n in needs for _ in range(n)))
    for row in made["layout"]:
        used = sum(row["cuts_m"]) + ask["kerf_m"] * (len(row["cuts_m"]) - 1)
        assert used <= row["length_m"] + 1e-6 and row["cuts_m"]
        assert row["left_m"] == pytest.approx(max(0, row["length_m"] - sum(row["cuts_m"]) - ask["kerf_m"] * len(row["cuts_m"])))  # fmt: skip
    assert sum(row["stock"] == "have0" for row in made["layout"]) <= 3
    paid = sum(b["count"] * {3.0: 9.5, 6.0: 17.25}[b["length_m"]] for b in made["bought"])
    assert paid == pytest.approx(made["cost"]) and made["bound"]["cost"] <= made["cost"]
    total = sum(row["length_m"] for row in made["layout"])
    assert sum(cut) + sum(made["offcuts_m"]) + made["waste_m"] == pytest.approx(total)


@pytest.mark.parametrize(
    ("spoiled", "field", "words"),
    [
        ({"need": [{"length_m": 2}, {"length_m": 1, "kind": "rail"}, {"length_m": 5}]}, "need[2].length_m", "fits none"),
        ({"need": [{"length_m": 2, "count": 9}], "buy": []}, "need[0].count", "too little"),
        ({"buy": [{"length_m": 4, "price": -1}]}, "buy[0].price", "greater than or equal to 0"),
        ({"buy": [{"length_m": 4, "price": 0.1234567}]}, "buy[0].price", "decimal places"),
        ({"need": [{"length_m": 2, "kind": "beam"}]}, "need[0].length_m", "fits none of the lengths there are"),
    ],
)  # fmt: skip
def test_cutting_refuses(spoiled, field, words):
    sound = {"need": [{"length_m": 2}], "have": [{"length_m": 4}], "buy": [{"length_m": 4, "price": 5}, {"length_m": 4, "price": 5, "kind": "rail"}]}  # fmt: skip
    assert calc("stock", sound)["cost"] == 0
    with pytest.raises(BadInput, match=words) as caught:
        calc("stock", {**sound, **spoiled})
    assert caught.value.field == field


def test_lengths_that_are_too_few():
    # three pieces of 2 m from two lengths of 3.1 m: 6 m of 6.2, but each length gives one piece only
    with pytest.raises(TooLittle, match="too little to cut all of this from"):
        cut_lengths([(2.0, 3)], [Length("a", 3.1, 1, 2)], 0.0)


def least_bought(needs, suppliers):
    """(total, suppliers) by trying every number of packs."""
    offers = [(k, o) for k, s in enumerate(suppliers) for o in s.offers if o.item in needs]
    most = [min(o.stock if o.stock is not None else 6, 6) for _, o in offers]
    best = None
    for packs in product(*(range(m + 1) for m in most)):
        got = {item: sum(o.pack * n for (_, o), n in zip(offers, packs, strict=True) if o.item == item) for item in needs}  # fmt: skip
        goods = {k: sum(o.price * n for (at, o), n in zip(offers, packs, strict=True) if at == k) for k in range(len(suppliers))}  # fmt: skip
        used = {k for (k, _), n in zip(offers, packs, strict=True) if n}
        if all(got[i] >= q for i, q in needs.items()) and all(goods[k] >= suppliers[k].least_order for k in used):
            key = sum(goods.values()) + sum(suppliers[k].delivery for k in used), len(used)
            best = key if best is None else min(best, key)
    return best


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.integers(1, 6), min_size=1, max_size=2),
    st.lists(
        st.tuples(
            st.integers(0, 9), st.sampled_from([0, 0, 8, 20]),
            st.lists(st.tuples(st.integers(0, 1), st.integers(1, 4), st.integers(1, 9), st.integers(0, 4) | st.none()), min_size=1, max_size=2),
        ),
        min_size=1, max_size=2,
    ),
)  # fmt: skip
@example([3], [(0, 20, [(0, 1, 5, None)])])  # one more than is needed, to reach the least order
@example([2], [(5, 0, [(0, 1, 1, None)]), (0, 0, [(0, 2, 7, None)])])  # as dear: one supplier either way
def test_buying_does_as_well_as_trying_everything(qty, rows):
    needs = {f"i{k}": F(q) for k, q in enumerate(qty)}
    suppliers = [
        Supplier(f"s{k}", delivery, least, tuple(Offer(f"i{i}", F(pack), price, stock) for i, pack, price, stock in offers))
        for k, (delivery, least, offers) in enumerate(rows)
    ]  # fmt: skip
    # trying everything stops at six packs of an offer; a least order never asks for more here
    assume(all(o.price * 6 >= s.least_order for s in suppliers for o in s.offers))
    least = least_bought(needs, suppliers)
    if least is None:
        with pytest.raises(BadInput):
            buy(needs, suppliers)
        return
    made = buy(needs, suppliers)
    assert made.proven and (made.total, len(made.orders)) == least


@pytest.mark.parametrize("seed", [3, 7, 25])
def test_a_search_that_is_stopped_proves_nothing_and_bounds_what_it_missed(seed, monkeypatch):
    """Four yards with least orders: stopped after one node it is dearer than what the whole search finds, and says how cheap it could be."""
    rng = random.Random(seed)
    needs = {f"i{k}": F(rng.randrange(20, 60)) for k in range(5)}

    def yard(name):
        offers = tuple(Offer(i, F(rng.choice((3, 5, 7, 11))), rng.randrange(300, 1900)) for i in needs)
        return Supplier(name, rng.randrange(500, 3000), rng.randrange(8000, 30000), offers)

    yards = [yard(f"s{k}") for k in range(4)]
    whole = buy(needs, yards)
    monkeypatch.setattr(buying, "NODES", 1)
    stopped = buy(needs, yards)
    assert whole.proven and not stopped.proven and stopped.bound <= whole.total <= stopped.total


def test_buying_from_two_yards_by_hand():
    ask = {
        "need": [{"item": "clip", "qty": 430}, {"item": "post", "qty": 62}],
        "owned": [{"item": "clip", "qty": 30}],
        "suppliers": [
            {"name": "A", "delivery": 60, "offers": [{"item": "clip", "pack": 100, "price": 12.5}, {"item": "post", "pack": 1, "price": 9.2, "stock": 50}]},
            {"name": "B", "delivery": 35, "least_order": 100, "offers": [{"item": "clip", "pack": 50, "price": 7}, {"item": "post", "pack": 5, "price": 48}]},
        ],
    }  # fmt: skip
    made = calc("buy", ask)
    # by hand: of both 50 + 432.40 + 144 + 95 = 721.40; of B alone 8 × 7 + 13 × 48 + 35 = 715
    assert (made["total"], made["proven"], made["over"]) == (715, True, [{"item": "post", "units": 3}])
    assert made["single"] == [{"name": "A", "total": None, "missing": ["post"]}, {"name": "B", "total": 715, "missing": []}]  # fmt: skip
    for spoil, words in (
        (lambda a: a["need"].append({"item": "gate", "qty": 1}), "nobody offers “gate”"),
        (lambda a: a["suppliers"].pop(), "have 50 of the 62"),
        (lambda a: a["suppliers"][0]["offers"][0].update(pack=0), r"suppliers\[0\].offers\[0\].pack"),
        (lambda a: a["suppliers"][1].update(name="A"), "two are called"),
    ):
        spoiled = {**ask, "need": [*ask["need"]], "suppliers": [{**s, "offers": [dict(o) for o in s["offers"]]} for s in ask["suppliers"]]}  # fmt: skip
        spoil(spoiled)
        with pytest.raises(BadInput, match=words):
            calc("buy", spoiled)


# Capital recovery factors (A/P) as tabulated in engineering-economics texts, from memory.
@pytest.mark.parametrize(
    ("rate", "years", "factor"),
    [(0.05, 10, 0.1295), (0.05, 1, 1.05), (0.08, 20, 0.10185), (0.10, 5, 0.26380), (0.12, 15, 0.14682), (0.0, 10, 0.1)],
)
def test_equal_yearly_cost_is_the_tables(rate, years, factor):
    made = calc("eac", {"cost": 1000.0, "rate": rate, "years": years})
    assert made["yearly"] == pytest.approx(factor * 1000, abs=0.005 + factor * 1000 * 5e-5)
    assert made["yearly"] == pytest.approx(-numpy_financial.pmt(rate, years, 1000.0))


def test_a_net_each_season_against_wire_each_decade():
    # by hand at 5 %: 100 now and after 1 … 9 years is 100·(1 + 7.10782) = 810.78; 900 once is 900
    net = calc("eac", {"cost": 100.0, "rate": 0.05, "years": 10, "life_years": 1})
    assert net["present"] == pytest.approx(810.78, abs=0.01) and net["bought_in"] == list(range(10))
    wire = calc("eac", {"cost": 900.0, "rate": 0.05, "years": 10, "life_years": 25})
    assert (wire["present"], wire["left_years"]) == (900, 15)
    assert net["present"] == pytest.approx(numpy_financial.npv(0.05, [100] * 10))


@pytest.mark.parametrize("number", sorted(STEEL_WIRE_GAUGE_IN))
def test_wire_weighs_what_its_section_does(number):
    """The gauge table's diameter by a general library's density of steel."""
    dense = ht.insulation.rho_material(ht.insulation.nearest_material("steel"))
    metre = math.pi / 4 * (STEEL_WIRE_GAUGE_IN[number] * 0.0254) ** 2 * dense
    assert calc("mass", {"of": "wire", "gauge": number, "length_m": 1.0})["mass_kg"] == pytest.approx(metre, rel=0.01)


def test_masses_by_hand():
    # nine 12½ gauge wires 38.98 g/m, stays 14½ (1.930 mm, 22.98 g/m) of 1.2446 m every 6 in: 350.8 + 187.7 g/m
    roll = calc("mass", {"of": "fabric", "gauge": 12.5, "stay_gauge": 14.5, "line_wires": 9, "height_m": 1.2446, "stay_m": 0.1524, "length_m": 100.584})  # fmt: skip
    assert roll["kg_per_m"] == pytest.approx(0.5385, abs=0.0003) and roll["mass_kg"] == pytest.approx(54.2, abs=0.1)
    assert calc("mass", {"of": "concrete", "volume_m3": 2.0})["mass_kg"] == 4700
    post = calc("mass", {"of": "wood", "d_m": 0.1524, "length_m": 2.4384, "count": 10})
    assert post["mass_kg"] == pytest.approx(222.4, abs=0.1)  # π/4 · 0.1524² · 2.4384 · 500 · 10
    with pytest.raises(BadInput, match="line_wires is missing"):
        calc("mass", {"of": "fabric", "gauge": 12.5, "height_m": 1.2, "stay_m": 0.15, "length_m": 10.0})
    with pytest.raises(BadInput, match="once: d_m or gauge"):
        calc("mass", {"of": "wire", "gauge": 12.5, "d_m": 0.002, "length_m": 10.0})


def test_sums_too_large_to_be_exact_are_refused():
    def ask(price, qty):
        return {"need": [{"item": "a", "qty": qty}], "suppliers": [{"name": "s", "offers": [{"item": "a", "pack": 1, "price": price}]}]}  # fmt: skip

    assert calc("buy", ask(1e9, 90_000))["total"] == 9e13, "whole units of money: still exact"
    for price, qty in ((999_999.999999, 90_000), (1e9, 1e9)):  # 9e16 and 1e18 parts of money; exact is up to 4.5e15
        with pytest.raises(BadInput, match="too large to be reckoned") as caught:
            calc("buy", ask(price, qty))
        assert caught.value.field == "suppliers"
