"""Rolls and splices against exhaustive search over all groupings, and (for many runs) against a cutting-stock bound.

The bound is Gilmore and Gomory's (Operations Research 9, 1961): no fewer rolls than the material divided by a roll.
"""

import math
import random
from itertools import product

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from places import examples

from gnomonic.core.fabric.check import layout_breaks
from gnomonic.core.fabric.grouping import score
from gnomonic.core.fabric.lay import Rules, RunNeed
from gnomonic.core.fabric.lengths import Lengths
from gnomonic.core.fabric.rolls import plan_rolls
from gnomonic.core.fabric.subsets import over_all_subsets
from gnomonic.core.job.fence import fences
from gnomonic.core.plan.road import plan
from gnomonic.demo.load import holm


def exhaustive(needs, offcuts, roll, lap):
    """Fewest (rolls, splices) over every assignment of runs and offcuts to groups."""
    best = (math.inf, math.inf)
    groups = range(len(needs))
    for runs in product(groups, repeat=len(needs)):
        for own in product([None, *groups], repeat=len(offcuts)):
            rolls = splices = 0
            for g in groups:
                need = sum(n for n, r in zip(needs, runs, strict=True) if r == g)
                mine = [o for o, q in zip(offcuts, own, strict=True) if q == g]
                if not need:
                    continue
                new = max(0 if mine else 1, math.ceil((need + (len(mine) - 1) * lap - sum(mine)) / (roll - lap) - 1e-9))
                rolls, splices = rolls + new, splices + new + len(mine) - 1
            best = min(best, (rolls, splices))
    return best


lengths = st.floats(8, 260).map(lambda v: round(v, 2))


@pytest.mark.no_cover
@given(st.lists(lengths, min_size=1, max_size=4), st.lists(st.floats(10, 60).map(lambda v: round(v, 2)), max_size=2))
def test_exhaustive(needs, offcuts):
    rules = Rules(0.3, 0.0)
    plan = plan_rolls([RunNeed(n) for n in needs], 100.0, offcuts, rules)
    assert (plan.bound["new_rolls"], plan.bound["splices"]) == exhaustive(needs, offcuts, 100.0, 0.3)
    if plan.proven["splices"]:
        assert (plan.new_rolls, plan.splices) == (plan.bound["new_rolls"], plan.bound["splices"])


@pytest.mark.no_cover
@examples(400, 10)
@given(st.lists(lengths, min_size=1, max_size=6), st.lists(st.floats(5, 60), max_size=2), st.floats(0, 8))
def test_layouts_keep_every_rule(needs, offcuts, least):
    runs, rules = [RunNeed(n, tuple(k * 3.0 for k in range(int(n // 3) + 1))) for n in needs], Rules(0.3, least, 0.3)
    plan = plan_rolls(runs, 100.0, offcuts, rules)
    breaks, left = layout_breaks(plan.pieces, runs, 100.0, offcuts, rules)
    assert breaks == []
    assert plan.longest_offcut_m == pytest.approx(max(left.values(), default=0.0), abs=1e-6)
    assert plan.new_rolls >= plan.bound["new_rolls"]


def test_many_runs():
    needs = [37.0 + 61.7 * ((k * 7) % 5) + k for k in range(22)]
    plan = plan_rolls([RunNeed(n) for n in needs], 100.0, [25.0], Rules(0.3, 3.0), work_s=2)
    material = sum(needs) + 0.3 * plan.splices
    assert plan.new_rolls >= math.ceil((material - 25.0) / 100.0)
    assert plan.bound["new_rolls"] <= plan.new_rolls <= plan.greedy["new_rolls"]
    assert plan.bound["splices"] <= plan.splices <= plan.greedy["splices"]
    assert layout_breaks(plan.pieces, [RunNeed(n) for n in needs], 100.0, [25.0], Rules(0.3, 3.0))[0] == []


def test_search_goes_on_where_packing_alone_wastes_a_roll():
    """Eleven runs of 40 to 95 m: packing whole tails takes 8 rolls, sharing them takes 7 with 3 splices, proven."""
    chosen = random.Random(3)
    needs = [round(chosen.uniform(40, 95), 1) for _ in range(11)]
    plan = plan_rolls([RunNeed(n) for n in needs], 100.0, [25.0], Rules(0.3, 0.0), work_s=1.0)
    assert (plan.new_rolls, plan.splices) == (7, 3) and plan.proven["splices"]
    assert math.ceil((sum(needs) - 25.0) / 100.0) == 7
    assert layout_breaks(plan.pieces, [RunNeed(n) for n in needs], 100.0, [25.0], Rules(0.3, 0.0))[0] == []


@settings(max_examples=20)
@given(st.lists(lengths, min_size=1, max_size=4), st.lists(st.floats(10, 60).map(lambda v: round(v, 2)), max_size=1))
def test_grouping_over_all_subsets_is_the_exhaustive_best(needs, offcuts):
    found = Lengths(
        [math.ceil(n * 1000 - 1e-6) for n in needs], [math.floor(o * 1000 + 1e-6) for o in offcuts], 100_000, 300
    )
    assert score(over_all_subsets(found)) == exhaustive(needs, offcuts, 100.0, 0.3)


def test_rolls_over_the_lines_of_a_job_keep_every_rule():
    """Every fabric of the demo ground, cut over all its lines, judged by the checker of layouts made by hand."""
    job = holm()
    made, wants = plan(job), {}
    for fence in fences(job):
        laid = made.lines[fence.id]
        if laid.rolls.over:
            wants.setdefault(laid.rolls.over, []).append((fence, laid))
    assert ("A", "B", "C", "F") in wants
    for over, members in wants.items():
        whole = members[0][1].rolls.whole
        assert all(laid.rolls.whole is whole for _, laid in members) and over == tuple(f.id for f, _ in members)
        d = members[0][0].decisions
        needs = [n for _, laid in members for n in laid.rolls.need_m]
        offcuts = members[0][0].offcuts_m if over[0] == "A" else ()
        breaks, _ = layout_breaks(
            whole.pieces,
            [RunNeed(n) for n in needs],
            d.roll_m + 0.005,
            [o + 0.005 for o in offcuts],
            Rules(d.overlap_m, d.piece_min_m),
        )
        assert breaks == []
        assert sum(laid.rolls.rolls.new_rolls for _, laid in members) == whole.new_rolls
        assert sum(laid.rolls.rolls.splices for _, laid in members) == whole.splices
        assert sum(len(laid.rolls.splices) for _, laid in members) == whole.splices
        assert all(s.clear_m >= d.splice_clear_m - 1e-6 for _, laid in members for s in laid.rolls.splices)
