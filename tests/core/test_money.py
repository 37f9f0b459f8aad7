"""What a job costs and what a quote says: expectations reckoned by hand, sums held to their lines."""

from datetime import date, timedelta
from decimal import Decimal
from fractions import Fraction as F

import pytest
from hypothesis import given
from hypothesis import strategies as st
from places import demo_fences, plan

from gnomonic.core.errors import BadInput
from gnomonic.core.haul.costing import cost_of, rehung
from gnomonic.core.haul.held import Held
from gnomonic.core.haul.money import half_up, must_be_currency, percent, read_money, shared_out, show
from gnomonic.core.haul.prices import Price, Seller, unit_prices
from gnomonic.core.haul.quoting import (
    Quote,
    QuoteLine,
    Sold,
    at_prices_sold,
    changes,
    dues,
    must_change,
    sold_of,
    taxed,
)
from gnomonic.core.haul.supply import Lot, substitutes, supply
from gnomonic.core.haul.takeoff import JobNeed, Need, job_take_off
from gnomonic.core.haul.terms import Payment, Terms
from gnomonic.core.haul.wares import ware_of
from gnomonic.core.haul.work import minutes_of
from gnomonic.core.tell.money import more_or_less, scope_of
from gnomonic.formats.price_csv import read_prices, write_prices

TODAY = date(2026, 11, 27)


def seller(name, *prices, **more):
    rows = tuple(Price(item=i, pack=Decimal(pack), price=cents, stock=stock) for i, pack, cents, stock in prices)
    return Seller(name=name, currency="USD", dated=TODAY, prices=rows, **more)


def posts(count, long_m, use="post", line="A"):
    need = Need(
        f"p{long_m}",
        "post",
        count,
        use,
        sold_as="wood line post",
        size_m=long_m,
        across_m=0.1,
        cuts_m=(long_m,) * count,
        each=100.0,
    )
    return JobNeed(((line, need),))  # fmt: skip


def small(count, of="staple", line="A", unit=""):
    return JobNeed(((line, Need(of, of, count, "fitting", unit=unit, each=1.0)),))


def held(item, count, value=0, **more):
    return Held(id=f"{item[:4]}{count}".replace(".", "-"), item=item, count=Decimal(count), value=value, **more)


def lots(*rows):
    return [Lot(row, F(row.count)) for row in rows]


POST_10 = "post.wood-line-post.100@3000"


def test_fourteen_foot_posts_cut_to_ten():
    """Nine posts of 3 m: four of 4.2 m lie there, which give one each at $1; five are bought at $12.25, nothing is thrown away that is sold."""
    old = held("post.wood-line-post.100@4200", 4, value=100)
    made = supply([posts(9, 3.0)], lots(old), [seller("yard", (POST_10, 1, 1225, None))])
    assert made.used == {old.id: 4} and made.short == {POST_10: 5}
    assert made.buying.total == 5 * 1225 and made.sawn[0].cut.proven["cost"]
    cost = cost_of({}, made, [old], Terms())
    assert [(c.cents, c.stock) for c in cost.charges] == [(5 * 1225 + 400, 400)]


def test_an_old_post_dearer_than_a_new_one_stays_where_it_is():
    old = held("post.wood-line-post.100@4200", 4, value=2000)
    assert supply([posts(2, 3.0)], lots(old), [seller("yard", (POST_10, 1, 1225, None))]).used == {}


def test_two_short_posts_come_out_of_one_long_one_that_is_sold():
    """2 × 1.8 m and a saw of 3 mm fit 3.7 m at $9, cheaper than two of 1.8 m at $5."""
    rows = (("post.wood-line-post.100@1800", 1, 500, None), ("post.wood-line-post.100@3700", 1, 900, None))
    made = supply([posts(2, 1.8)], [], [seller("yard", *rows)])
    assert made.short == {"post.wood-line-post.100@3700": 1} and made.buying.total == 900


def test_what_is_worn_goes_into_temporary_work_only():
    old = lots(held(POST_10, 5, condition="worn"))
    yard = [seller("yard", (POST_10, 1, 1225, None))]
    assert supply([posts(3, 3.0)], old, yard).used == {}
    assert supply([posts(3, 3.0)], old, yard, temporary=True).used == {old[0].held.id: 3}


@pytest.mark.parametrize(("more", "lasts"), [({"age_years": 9}, True), ({"age_years": 10}, False), ({"age_years": 40, "heartwood": True}, True), ({"condition": "worn", "heartwood": True}, False)])  # fmt: skip
def test_old_sapwood_does_not_go_into_a_lasting_line(more, lasts):
    old = lots(held(POST_10, 5, **more))
    made = supply([posts(3, 3.0)], old, [seller("yard", (POST_10, 1, 1225, None))])
    assert made.used == ({old[0].held.id: 3} if lasts else {})
    assert held("staple", 5, age_years=30).lasting, "it is of posts that this is said"


def test_small_fittings_have_a_spare_for_every_hundred_begun():
    """430 staples take 5 spares; 35 lie there: 400 are left, four boxes of 100."""
    made = supply([small(430)], lots(held("staple", 35)), [seller("yard", ("staple", 100, 250, None))])
    (wanted,) = made.wanted
    assert (wanted.qty, wanted.spare, wanted.held, made.short) == (430, 5, 35, {"staple": 400})
    assert made.buying.total == 1000


def test_what_nobody_sells_is_named_and_in_no_sum():
    made = supply([small(10), small(4, "clip")], [], [seller("yard", ("staple", 100, 250, None))])
    assert made.unpriced == ("clip",) and made.buying.total == 250
    cost = cost_of({}, made, [], Terms())
    assert (cost.missing, cost.cost) == (1, 250) and [c.cents for c in cost.charges] == [250, None]


def test_too_little_everywhere_is_without_a_price_too():
    made = supply([small(300)], [], [seller("yard", ("staple", 100, 250, 2))])
    assert made.unpriced == ("staple",)


def test_an_order_under_its_least_is_said():
    made = supply([small(10)], [], [seller("mill", ("staple", 100, 250, 3), least_order=10_000)])
    assert "least" in made.refused and made.unpriced == ("staple",)
    cost = cost_of({}, made, [], Terms())
    assert (cost.missing, cost.cost) == (1, 0), "no material for nothing"


def test_a_thicker_pipe_is_offered_and_never_taken():
    """1⅞ in (48 mm) for 1⅝ (41 mm), as long: cheaper by 60 ¢ each; 2⅜ (60 mm) is too thick to offer."""
    thin, thick, stout = (f"post.pipe-line-post.{d}@2000" for d in (41, 48, 60))
    need = JobNeed(
        (("A", Need("p", "post", 6, "post", sold_as="pipe line post", size_m=2.0, across_m=0.041, each=80.0)),)
    )
    yard = [seller("yard", (thin, 1, 1000, None), (thick, 1, 940, None), (stout, 1, 100, None))]
    made = supply([need], [], yard)
    assert made.short == {thin: 6} and made.buying.total == 6000
    assert [(s.key, s.instead_of, s.saves) for s in substitutes(made, [], yard)] == [(thick, thin, 360)]
    (on_hand,) = substitutes(supply([need], [], yard[:0]), lots(held(thick, 8)), [])
    assert (on_hand.key, on_hand.on_hand, on_hand.saves) == (thick, 8, None)


TERMS = Terms(hour=4800, steps={"rock": 5600}, plant_hour=2600, fuel_hour=900, margin=Decimal("0.12"), tax=Decimal("0.0725"))  # fmt: skip


def whole_job():
    """A demo line and what it costs at one price for everything."""
    it = demo_fences()[0]
    made = plan(it)
    needs = job_take_off([(it, made)])
    keys = dict.fromkeys(ware_of(n.need).key for n in needs)
    supplied = supply(needs, [], [seller("yard", *((k, 1, 137, None) for k in keys), delivery=4500)])
    return made, cost_of({it.id: made}, supplied, [], TERMS)


def test_a_job_by_hand():
    made, cost = whole_job()
    minutes = minutes_of(made)
    ends = minutes["ends"] / 60
    by_step = {c.step: c.cents for c in cost.charges if c.what == "labour"}
    assert by_step["ends"] == half_up(F(str(round(minutes["ends"], 3))) * 4800 / 60) and ends > 0
    digging = sum(F(str(round(minutes[s], 3))) for s in ("ends", "line", "rock")) / 60
    assert cost.of("plant") == half_up(digging * 2600) and cost.of("fuel") == half_up(digging * 900)
    assert cost.of("delivery") == 4500 and cost.missing == 0
    assert cost.margin == half_up(F(cost.cost) * F(12, 100)) and cost.tax == half_up(F(cost.net) * F(725, 10_000))
    assert cost.total == cost.cost + cost.margin + cost.tax


@given(st.integers(0, 10**9), st.lists(st.integers(0, 10**6), min_size=1, max_size=12))
def test_an_amount_shared_out_sums_to_itself(cents, weights):
    parts = shared_out(cents, [F(w) for w in weights])
    assert sum(parts) == cents and all(p >= 0 for p in parts)
    total = sum(weights)
    if total:
        assert all(abs(p - F(cents * w, total)) <= 1 for p, w in zip(parts, weights, strict=True))


@given(
    st.lists(st.tuples(st.sampled_from("ABC"), st.integers(1, 400), st.integers(1, 9000)), min_size=1, max_size=8),
    st.decimals(0, 1, places=3),
    st.decimals(0, 1, places=4),
    st.integers(0, 9999),
)
def test_every_sum_is_the_sum_of_its_lines(rows, margin, tax, delivery):
    needs = [small(count, of, line) for (line, count, _), of in zip(rows, ("staple", "clip", "cap", "sleeve", "peg", "batten", "pin", "joiner"), strict=False)]  # fmt: skip
    prices = [(n.need.of, 1, cents, None) for n, (_, _, cents) in zip(needs, rows, strict=True)]
    made = supply(needs, [], [seller("yard", *prices, delivery=delivery)])
    terms = Terms(margin=margin, tax=tax)
    lines = {line: object() for line, _, _ in rows}
    cost = cost_of({}, made, [], terms)
    assert cost.cost == made.buying.total and sum(cost.by_line().values()) == cost.net
    assert all(sum(c.lines.values()) == c.cents for c in cost.charges) and set(cost.by_line()) <= set(lines)
    assert sum(d.cents for d in dues(cost.total, terms)) == cost.total


def sold(key, amount, each, unit=""):
    return Sold(key=key, text=key, amount=amount, unit=unit, each=str(F(each)))


def test_a_change_is_counted_at_what_was_sold():
    """Three holes on rock: +0.083 m³ of concrete, new, at today's 40 000 a m³; +1.5 h at the 6272 that were sold, not at today's 9999."""
    was = (sold("rock", 1.0, 6272, "h"), sold("staple", 100, 2.5), sold("cap", 40, 60))
    now = (sold("rock", 2.5, 9999, "h"), sold("staple", 100.2, 9), sold("concrete", 0.083, 40_000, "m3"))
    found = [(row.key, round(more, 4), cents) for row, more, cents in changes(was, now)]
    assert found == [("rock", 1.5, 9408), ("concrete", 0.083, 3320), ("cap", -40.0, -2400)]


def test_the_second_change_is_counted_at_what_was_sold_too():
    """Sold 100 staples at 2½ ¢; 20 more when they cost 9, then 10 more when they cost 11: 50 ¢, then 25 ¢, never today's price."""
    was = (sold("staple", 100, 2.5),)
    first = at_prices_sold(was, (sold("staple", 120, 9), sold("cap", 5, 60)))
    assert [(s.key, cents) for s, _, cents in changes(was, first)] == [("staple", 50), ("cap", 300)]
    second = at_prices_sold(first, (sold("staple", 130, 11), sold("cap", 6, 99)))
    assert [(s.key, cents) for s, _, cents in changes(first, second)] == [("staple", 25), ("cap", 60)]


def test_an_accepted_quote_stays():
    quote = Quote(number=7, version=1, job="j", made_on=TODAY, valid_until=TODAY, currency="USD", scope=(), lines=(QuoteLine(text="all", cents=100),), net=100, tax=7, tax_name="tax", tax_share=Decimal("0.07"), total=107, due=())  # fmt: skip
    must_change(quote, accepted=False)
    with pytest.raises(BadInput, match="Q-0007 was accepted and stays as it is: make a new revision"):
        must_change(quote, accepted=True)
    assert taxed(199, Decimal("0.075")) == 15  # 14.925 up


def test_delivery_is_not_sold_on_as_a_change():
    _, cost = whole_job()
    words = {" ".join([c.what, c.step, *map(str, c.need.alike if c.need else ())]).strip(): "x" for c in cost.charges}
    kinds = {s.key.split()[0] for s in sold_of(cost, words, {}, TERMS)}
    assert "delivery" not in kinds and {"material", "labour"} <= kinds


@pytest.mark.parametrize(
    ("text", "currency", "words"),
    [("12.345", "USD", "finer than USD"), ("-1", "USD", "less than nothing"), ("twelve", "USD", "not an amount"), ("1.5", "JPY", "finer"), ("1,2,3", "USD", "not an amount"), ("9" * 20, "USD", "more than is taken"), ("", "EUR", "not an amount"), ("1e5", "USD", "not an amount"), ("NaN", "USD", "not an amount")],
)  # fmt: skip
def test_amounts_that_are_none(text, currency, words):
    assert read_money("$12.50", "USD", "price") == 1250
    with pytest.raises(BadInput, match=words):
        read_money(text, currency, "price")


def test_currencies_and_shares():
    assert (show(-123450, "USD"), show(5, "BHD").replace("\xa0", ""), percent(Decimal("0.0825"))) == (
        "−$1,234.50",
        "BHD0.005",
        "8.25 %",
    )
    for code in ("usd", "XQQ", "US", ""):
        with pytest.raises(BadInput, match="not a currency"):
            must_be_currency(code)


def test_terms_must_come_to_the_whole():
    for spoiled, words in (
        ({"payments": (Payment(text="now", share=Decimal("0.9")),)}, "100 %"),
        ({"steps": {"tea": 100}}, "no step of work"),
        ({"currency": "gold"}, "not a currency"),
        ({"margin": "1.5"}, "less than or equal to 1"),
    ):
        with pytest.raises((ValueError, BadInput), match=words):
            Terms.model_validate(spoiled)


def test_old_prices_are_said_to_be_old():
    yard = seller("yard", ("staple", 1, 1, None))
    assert yard.old(TODAY + timedelta(days=30)) == "" and "of 2026-11-27" in yard.old(TODAY + timedelta(days=31))
    until = seller("yard", valid_until=TODAY)
    assert until.old(TODAY) == "" and "held until 2026-11-27" in until.old(TODAY + timedelta(days=1))


def test_what_a_change_is_worth():
    """Two more staples at 2½ ¢ and 40 posts fewer at $12.25; on the index where something has no price."""
    each = unit_prices([seller("yard", ("staple", 100, 250, None), (POST_10, 1, 1225, None), ("clip", 1, 5, 0))])
    assert each == {"staple": F(5, 2), POST_10: 1225}
    was, now = [posts(60, 3.0), small(100)], [posts(20, 3.0), small(102)]
    assert more_or_less(was, now, each, "USD") == "−$490 of material"  # 40 × 12.25 less 5 ¢
    assert more_or_less(was, now, {}, "USD") == "−3998 on the price index"  # 40 posts of 100 less 2 of 1
    assert more_or_less(was, was, each, "USD") == ""
    assert "not all of it has a price" in more_or_less(was, now, {"staple": F(1)}, "USD")


LIST = "supplier,item,unit,pack,price,currency,stock,delivery,least order,lead days,valid until\n"
GOOD = "yard,staple,each,100,2.50,USD,,45,0,2,2026-12-31\nyard,brace-wire.9-gauge,m,30,18,USD,4,45,0,2,2026-12-31\n"


def test_a_price_list_comes_back_as_it_went_out():
    (yard,) = read_prices((LIST + GOOD).encode(), TODAY)
    assert (yard.delivery, yard.lead_days, yard.valid_until) == (4500, 2, date(2026, 12, 31))
    assert [(p.item, p.pack, p.price, p.stock) for p in yard.prices] == [("staple", 100, 250, None), ("brace-wire.9-gauge", 30, 1800, 4)]  # fmt: skip
    again = write_prices([yard], [("staple", "staples"), ("clip", "=clips")], "USD")
    assert read_prices(again, TODAY) == [yard] and b"'=clips" in again


@pytest.mark.parametrize(
    ("row", "words"),
    [
        ("yard,staple,,100,2.50,USD", "row 3, column unit: it is empty"),
        ("yard,staple,m,100,2.50,USD", "row 3, column unit: “m” is not the unit of staple"),
        ("yard,clip,each,100,-2.50,USD", "row 3, column price: -2.50 is less than nothing"),
        ("yard,clip,each,0,2.50,USD", "row 3, column pack: a pack holds more than nothing"),
        ("yard,clip,each,ten,2.50,USD", "row 3, column pack: “ten” is not a number"),
        ("yard,clip,each,10,2.50,EUR", "row 3, column currency: “EUR” is not what row 2 says of yard"),
        ("mill,clip,each,10,2.50,XXQ", "row 3, column currency: “XXQ” is not a currency"),
        ("yard,a b c,each,10,2.50,USD", "row 3, column item: “a b c” is not an item’s key"),
        ("yard,staple,each,100,9,USD", "row 3, column item: a pack of this size of staple stands above"),
        ("yard,clip,each,10,2.50,USD,many", "row 3, column stock: “many” is not a number"),
        ("yard,clip,each,10,2.505,USD", "row 3, column price: 2.505 is finer"),
        ("yard,clip,each,10,,USD", "row 3, column price: it is empty"),
    ],
)
def test_a_price_list_with_a_row_spoiled(row, words):
    start = "supplier,item,unit,pack,price,currency,stock\nyard,staple,each,100,2.50,USD,\n"
    assert len(read_prices((start + "yard,clip,each,10,2.50,USD,5").encode(), TODAY)[0].prices) == 2
    with pytest.raises(BadInput) as caught:
        read_prices((start + row).encode(), TODAY)
    assert caught.value.sentence.startswith(words)


@pytest.mark.parametrize(
    ("body", "words"),
    [
        (b"", "empty"),
        (b"supplier,item\n", "no column “unit”"),
        (b"supplier,item,unit,pack,price,currency\n,clip,each,,,USD", "no price in it"),
        (b"\xff\xfe", "UTF-8"),
        (LIST.encode() + b"".join(b"s%d,clip,each,1,1,USD\n" % k for k in range(9)), "at most 8"),
    ],
)
def test_a_price_list_that_is_none(body, words):
    with pytest.raises(BadInput, match=words):
        read_prices(body, TODAY)


def test_posts_stay_when_a_net_is_hung_again():
    """Posts 600, net 100, staples 50, margin a tenth: of 825 net the net and its staples are 165."""
    net = JobNeed((("A", Need("roll", "net", 1, "fabric", sold_as="netting", each=3.0, metres=30.0)),))
    prices = [(POST_10, 1, 6000, None), ("net.netting", 1, 10_000, None), ("staple", 100, 5000, None)]
    made = supply([posts(10, 3.0), net, small(90)], [], [seller("yard", *prices)])
    cost = cost_of({}, made, [], Terms(margin=Decimal("0.1")))
    assert (cost.net, rehung(cost, "A"), rehung(cost, "B")) == (82_500, 16_500, 0)


def test_gates_take_their_time_by_leaves():
    """Common practice, 45 min a leaf: one leaf of the cross fence; of the summer grazing two leaves and a gap without any."""
    by_name = {it.name.split(" · ")[1]: it for it in demo_fences()}
    assert minutes_of(plan(by_name["cross fence"]))["gates"] == 45
    assert minutes_of(plan(by_name["summer grazing"]))["gates"] == 135


@pytest.mark.parametrize(("units", "said"), [("us", "apron 24 in out"), ("metric", "apron 610 mm out")])
def test_the_scope_of_a_quote_is_in_the_readers_units(units, said):
    it = next(it for it in demo_fences() if it.name.endswith("young orchard"))
    words = scope_of(it, plan(it)).text(units)
    assert said in words and "{" not in words
