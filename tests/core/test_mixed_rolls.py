"""Rolls of several lengths, splices paid for: against brute force, and what a plan and its take-off make of them."""

import math
from collections import Counter
from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from places import apply, demo_fences, plan

from gnomonic.core.calc import calc
from gnomonic.core.edits.all import read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.check import layout_breaks
from gnomonic.core.fabric.lay import Rules, RunNeed
from gnomonic.core.fabric.mixed import RollKind, as_rolls, plan_mixed
from gnomonic.core.haul.takeoff import take_off

LAP = 0.3


def fewest_splices(needs, stock):
    """Over every way to put runs and rolls into groups: a group of b rolls has b − 1 splices and must cover its runs."""
    best = math.inf
    for runs in product(range(len(needs)), repeat=len(needs)):
        for rolls in product([None, *range(len(needs))], repeat=len(stock)):
            splices = 0
            for g in set(runs):
                mine = [s for s, r in zip(stock, rolls, strict=True) if r == g]
                need = sum(n for n, r in zip(needs, runs, strict=True) if r == g)
                if not mine or need + (len(mine) - 1) * LAP > sum(mine) + 1e-9:
                    break
                splices += len(mine) - 1
            else:
                best = min(best, splices)
    return best


def brute(needs, kinds, splice_price):
    best = math.inf
    for counts in product(range(5), repeat=len(kinds)):
        stock = [k.length_m for k, n in zip(kinds, counts, strict=True) for _ in range(n)]
        if len(stock) <= 4 and (splices := fewest_splices(needs, stock)) < math.inf:
            best = min(best, sum(k.price * n for k, n in zip(kinds, counts, strict=True)) + splice_price * splices)
    return best


@settings(max_examples=40, deadline=None)
@given(
    st.lists(st.integers(20, 110), min_size=1, max_size=3),
    st.integers(30, 60),
    st.integers(40, 200),
    st.sampled_from([0.0, 15.0, 120.0]),
)
def test_the_cheapest_against_brute_force(needs, short_m, short_price, splice_price):
    kinds = [RollKind(100.0, 200.0), RollKind(float(short_m), float(short_price))]
    made = plan_mixed([RunNeed(float(n)) for n in needs], kinds, [], Rules(LAP, 0.0), splice_price)
    least = brute([float(n) for n in needs], kinds, splice_price)
    if sum(made.counts) <= 4:  # what brute force looked at
        assert made.cost == pytest.approx(least)
    else:
        assert made.cost <= least + 1e-6


@settings(max_examples=40, deadline=None)
@given(st.lists(st.floats(8, 140), min_size=1, max_size=5), st.lists(st.floats(10, 60), max_size=2))
def test_every_layout_keeps_the_rules(needs, offcuts):
    kinds, rules = [RollKind(100.0, 100.0), RollKind(50.0, 50.0)], Rules(LAP, 3.0)
    made = plan_mixed([RunNeed(n) for n in needs], kinds, offcuts, rules)
    bought = [k.length_m for k, n in zip(kinds, made.counts, strict=True) for _ in range(n)]
    breaks, _ = layout_breaks(made.plan.pieces, [RunNeed(n) for n in needs], 100.0, [*offcuts, *bought], rules)
    assert breaks == []
    named = as_rolls(made, kinds, len(offcuts))
    assert named.new_rolls == len(named.bought_m) <= len(bought)
    assert {p.stock for row in named.pieces for p in row if p.stock.startswith("new")} == {f"new{k}" for k in range(named.new_rolls)}  # fmt: skip


def test_a_splice_that_costs_more_than_a_roll_is_not_made():
    """Runs of 70, 70 and 58 from rolls of 100: two rolls and a splice, or three rolls without."""
    runs = [RunNeed(70.0), RunNeed(70.0), RunNeed(58.0)]
    for price, rolls, splices in ((0.0, 2, 1), (99.0, 2, 1), (101.0, 3, 0)):
        made = plan_mixed(runs, [RollKind(100.0, 100.0)], [], Rules(LAP, 3.0), price)
        assert (sum(made.counts), made.plan.splices) == (rolls, splices)


def test_of_choices_that_cost_the_same_the_one_with_fewest_splices():
    made = plan_mixed([RunNeed(95.0)], [RollKind(100.0, 100.0), RollKind(50.0, 50.0)], [], Rules(LAP, 3.0))
    assert made.counts == (1, 0) and made.plan.splices == 0


@pytest.mark.parametrize(
    ("more", "field"),
    [
        ({}, "roll_m"),
        ({"roll_m": 100.0, "rolls_m": [{"length_m": 50.0}]}, "roll_m"),
        ({"roll_m": 100.0, "splice_price": 5.0}, "splice_price"),
        ({"rolls_m": [{"length_m": 0.5}]}, "overlap_m"),
        ({"rolls_m": [{"length_m": 2.0}]}, "piece_min_m"),
        ({"rolls_m": [{"length_m": 100.0, "cost": 3.0}]}, "rolls_m[0].cost"),
        ({"rolls_m": [{"length_m": 5.0}]}, "rolls_m"),
        ({"rolls_m": [{"length_m": 100.0}], "mode": "check"}, "mode"),
    ],
)
def test_rolls_that_can_t_be_said_so(more, field):
    """Among them a roll shorter than its tails and its shortest piece: no number of such rolls covers a run."""
    ask = {"runs_m": [60.0, 900.0], "overlap_m": 0.3, "piece_min_m": 3.0, **more}
    with pytest.raises(BadInput) as refused:
        calc("rolls", ask)
    assert refused.value.field == field


def test_a_plan_buys_what_covers_it_with_least_fabric_and_its_take_off_says_which():
    fence = next(f for f in demo_fences() if f.barrier.label == "9-39-6")
    one = plan(fence)
    also = apply(fence, read_edit({"do": "say_rolls", "also_m": [50.292]}))
    made = plan(also)
    bought = made.rolls.rolls.bought_m
    assert sum(bought) <= one.rolls.rolls.new_rolls * fence.decisions.roll_m + 1e-6
    rows = {round(n.size_m, 3): n.count for n in take_off(also, made) if n.use == "fabric"}
    assert rows == {round(m, 3): n for m, n in Counter(bought).items()}
    assert sum(p.length_m for p in made.rolls.pieces) <= sum(bought) + sum(fence.offcuts_m) + 0.01
    back = apply(also, read_edit({"do": "say_rolls", "also_m": []}))
    assert plan(back).rolls.rolls == one.rolls.rolls


def test_a_splice_worth_much_fabric_is_not_made():
    fence = next(f for f in demo_fences() if plan(f).rolls.splices)
    dear = apply(fence, read_edit({"do": "say_rolls", "splice_worth_m": 200.0}))
    before, after = plan(fence), plan(dear)
    assert len(after.rolls.splices) <= len(before.rolls.splices)
    assert after.rolls.rolls.new_rolls >= before.rolls.rolls.new_rolls
    with pytest.raises(BadInput):
        apply(fence, read_edit({"do": "say_rolls", "also_m": [0.5]}))


def test_no_splice_is_made_in_a_stretch_that_is_kept_whole():
    """Posts every 3 m, laps of 0.3, 0.2 clear: in the bay from 6 to 9 c lies in 6.5…8.8; none over 7…8 leaves c ≤ 7 or ≥ 8.3."""
    posts = tuple(3.0 * k for k in range(6))
    rules = Rules(LAP, 1.0, 0.2)
    assert rules.splice_windows(RunNeed(15.0, posts))[1] == (pytest.approx(6.5), pytest.approx(8.8))
    kept = rules.splice_windows(RunNeed(15.0, posts, barred=((7.0, 8.0),)))
    assert [w for w in kept if 6 < w[0] < 9] == [(pytest.approx(6.5), 7.0), (pytest.approx(8.3), pytest.approx(8.8))]
    gone = rules.splice_windows(RunNeed(15.0, posts, barred=((5.0, 10.0),)))
    assert all(c <= 5.0 or c >= 10.3 for w in gone for c in w)


def test_a_plan_keeps_a_stretch_whole_and_says_so_where_it_can_not():
    fence = next(f for f in demo_fences() if plan(f).rolls.splices)
    splice = plan(fence).rolls.splices[0]
    low, high = splice.from_m - 12.0, splice.at_m + 12.0
    kept = plan(apply(fence, read_edit({"do": "say_rolls", "whole": [{"from_m": max(0.0, low), "to_m": high}]})))
    assert all(s.at_m <= low + 0.01 or s.from_m >= high - 0.01 for s in kept.rolls.splices)
    length = kept.course.length_m
    with pytest.raises(BadInput, match="can't be laid"):
        plan(apply(fence, read_edit({"do": "say_rolls", "whole": [{"from_m": 0.0, "to_m": length}]})))
    with pytest.raises(BadInput, match="ends beyond where it begins"):
        apply(fence, read_edit({"do": "say_rolls", "whole": [{"from_m": 20.0, "to_m": 10.0}]}))


def test_worn_offcuts_hang_on_temporary_lines_only():
    fence = apply(demo_fences()[0], read_edit({"do": "own_offcuts", "offcuts_m": [20.0], "worn_m": [30.0, 12.0]}))
    assert (fence.on_hand_m(False), fence.on_hand_m(True), fence.offcuts_m) == ((20.0,), (30.0, 12.0), (20.0,))
    used = {p.stock: p.length_m for p in plan(fence).rolls.pieces}
    assert used.get("offcut0", 0.0) <= 20.01 and "offcut1" not in used
    passing = apply(fence, read_edit({"do": "stand_line", "standing": "temporary"}))
    assert passing.offcuts_m == (30.0, 12.0)
    more = apply(passing, read_edit({"do": "own_offcuts", "offcuts_m": [25.0]}))  # the worn stay as they were
    assert (more.on_hand_m(False), more.worn_m) == ((25.0,), (30.0, 12.0))
    none = apply(more, read_edit({"do": "own_offcuts", "worn_m": []}))
    assert (none.offcuts_m, none.worn_m) == ((25.0,), ())
