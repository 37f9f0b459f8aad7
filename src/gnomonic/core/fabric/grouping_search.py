"""The search behind ``grouping``: CP-SAT from a start, fewest rolls and then fewest splices, with bounds."""

import math
from typing import TYPE_CHECKING

from gnomonic.core.fabric.lengths import Grouping, Lengths
from gnomonic.core.fabric.solving import solver

if TYPE_CHECKING:
    from ortools.sat.python import cp_model


def improve(lengths: Lengths, start: Grouping, work_s: float) -> tuple[tuple[int, int, float], Grouping]:
    """Bounds and the best grouping found; ``start`` is always kept when nothing better turns up.

    Group g is led by run g, the first in it; it holds when Σ need + (items − 1)·overlap ≤ Σ stock.
    """
    from gnomonic.core.fabric.solving import cp_model

    n, m = len(lengths.need), len(lengths.own)
    model = cp_model.CpModel()
    run_in = [[model.new_bool_var(f"run{i}in{g}") for g in range(i + 1)] for i in range(n)]
    own_in = [[model.new_bool_var(f"own{q}in{g}") for g in range(n)] for q in range(m)]
    most = sum(new for _, _, new in start)
    rolls = [model.new_int_var(0, most, f"rolls{g}") for g in range(n)]
    for g in range(n):
        lead = run_in[g][g]
        members = [run_in[i][g] for i in range(g, n)]
        offcuts = [own_in[q][g] for q in range(m)]
        for var in [*members, *offcuts]:
            model.add_implication(var, lead)
        items = rolls[g] + sum(offcuts)
        need = cp_model.LinearExpr.weighted_sum(members, lengths.need[g:])
        stock = lengths.roll * rolls[g] + cp_model.LinearExpr.weighted_sum(offcuts, lengths.own)
        model.add(need + lengths.lap * items - lengths.lap * lead <= stock)
        model.add(items >= lead)
        model.add(rolls[g] <= most * lead)
    for row in run_in:
        model.add_exactly_one(row)
    for row in own_in:
        model.add_at_most_one(row)
    total = sum(rolls)
    splices = total + sum(v for row in own_in for v in row) - sum(run_in[g][g] for g in range(n))
    model.add(total >= lengths.least_rolls())
    model.add(splices >= lengths.least_splices())
    best = start

    def stage(aim: "cp_model.LinearExprT") -> float:
        """Minimise an aim from the best so far; returns its bound."""
        nonlocal best
        _hint(model, best, run_in, own_in, rolls)
        model.minimize(aim)
        solved = solver(work_s / 2)
        if solved.solve(model) in (cp_model.OPTIMAL, cp_model.FEASIBLE):
            best = [
                (
                    tuple(i for i in range(g, n) if solved.boolean_value(run_in[i][g])),
                    tuple(q for q in range(m) if solved.boolean_value(own_in[q][g])),
                    solved.value(rolls[g]),
                )
                for g in range(n)
                if solved.boolean_value(run_in[g][g])
            ]
        return solved.best_objective_bound

    opened = sum(new for _, _, new in start)
    bound_rolls = lengths.least_rolls()
    if opened > bound_rolls:
        bound_rolls = max(bound_rolls, math.ceil(stage(total) - 1e-6))
    model.add(total <= sum(new for _, _, new in best))
    bound_splices = max(lengths.least_splices(), math.ceil(stage(splices) - 1e-6))
    return (bound_rolls, bound_splices, -math.inf), best


def _hint(
    model: "cp_model.CpModel",
    best: Grouping,
    run_in: "list[list[cp_model.IntVar]]",
    own_in: "list[list[cp_model.IntVar]]",
    rolls: "list[cp_model.IntVar]",
) -> None:
    """Start the search from a grouping."""
    model.clear_hints()  # type: ignore[no-untyped-call]
    placed = {run: min(runs) for runs, _, _ in best for run in runs}
    for i, row in enumerate(run_in):
        for g, var in enumerate(row):
            model.add_hint(var, placed[i] == g)
    used = {q: min(runs) for runs, own, _ in best for q in own}
    for q, row in enumerate(own_in):
        for g, var in enumerate(row):
            model.add_hint(var, used.get(q) == g)
    counts = {min(runs): new for runs, _, new in best}
    for g, count in enumerate(rolls):
        model.add_hint(count, counts.get(g, 0))
