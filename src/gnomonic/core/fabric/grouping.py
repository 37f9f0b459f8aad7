"""Grouping of many runs by constraint programming: runs and offcuts into groups, rolls per group.

A group with need S, offcuts Q and b new rolls holds when S + (|Q| + b − 1)·overlap ≤ ΣQ + b·roll; it has |Q| + b − 1
splices.  Fewest rolls first, then fewest splices, each stage under a time limit and with its bound.
"""

import math
from collections.abc import Sequence

from ortools.sat.python import cp_model

MM = 1000


def group_large(
    need_m: Sequence[float], offcuts_m: Sequence[float], roll_m: float, overlap_m: float, time_limit_s: float
) -> tuple[tuple[int, int, float], list[tuple[tuple[int, ...], tuple[int, ...], int]]]:
    """Bounds (rolls, splices given those rolls, −inf for the offcut) and groups as (runs, offcuts, new rolls).

    Lengths in m; needs are rounded up and stock down to whole millimetres, so a grouping always holds.
    """
    need = [math.ceil(v * MM - 1e-6) for v in need_m]
    own = [math.floor(v * MM + 1e-6) for v in offcuts_m]
    roll, lap = math.floor(roll_m * MM + 1e-6), math.ceil(overlap_m * MM - 1e-6)
    n, m = len(need), len(own)
    most = [max(1, math.ceil((v - lap) / (roll - lap))) for v in need]
    model = cp_model.CpModel()
    run_in = [[model.new_bool_var(f"run{i}in{g}") for g in range(i + 1)] for i in range(n)]
    own_in = [[model.new_bool_var(f"own{q}in{g}") for g in range(n)] for q in range(m)]
    rolls = [model.new_int_var(0, sum(most), f"rolls{g}") for g in range(n)]
    leads = []  # group g exists when run g, its first, is in it
    for g in range(n):
        lead = run_in[g][g]
        leads.append(lead)
        members = [(i, run_in[i][g]) for i in range(g, n)]
        for _, var in members:
            model.add_implication(var, lead)
        items = rolls[g] + sum(own_in[q][g] for q in range(m))
        taken = cp_model.LinearExpr.weighted_sum([var for _, var in members], [need[i] for i, _ in members])
        model.add(taken + lap * items - lap * lead <= roll * rolls[g] + sum(own[q] * own_in[q][g] for q in range(m)))
        model.add(items >= lead)
        for q in range(m):
            model.add_implication(own_in[q][g], lead)
        model.add(rolls[g] == 0).only_enforce_if(lead.negated())
    for i in range(n):
        model.add_exactly_one(v for v in run_in[i])
    for q in range(m):
        model.add_at_most_one(own_in[q])
    _hint(model, run_in, rolls, need, roll, lap)
    total = sum(rolls)
    floor = math.ceil((sum(need) - sum(own)) / roll - 1e-9)
    model.add(total >= max(0, floor))
    first = _solve(model, total, time_limit_s / 2)
    fewest = sum(first.value(r) for r in rolls)
    bound_rolls = max(0, math.ceil(first.best_objective_bound - 1e-6))
    model.add(total <= fewest)
    model.clear_hints()  # type: ignore[no-untyped-call]
    for row in run_in:
        for var in row:
            model.add_hint(var, first.boolean_value(var))
    splices = total + sum(v for row in own_in for v in row) - sum(leads)
    second = _solve(model, splices, time_limit_s / 2)
    bound_splices = max(0, math.ceil(second.best_objective_bound - 1e-6))
    groups = []
    for g in range(n):
        if second.boolean_value(leads[g]):
            runs = tuple(i for i in range(g, n) if second.boolean_value(run_in[i][g]))
            offcuts = tuple(q for q in range(m) if second.boolean_value(own_in[q][g]))
            groups.append((runs, offcuts, second.value(rolls[g])))
    return (bound_rolls, bound_splices, -math.inf), groups


def _hint(
    model: cp_model.CpModel,
    run_in: list[list[cp_model.IntVar]],
    rolls: list[cp_model.IntVar],
    need: list[int],
    roll: int,
    lap: int,
) -> None:
    """Start from one group of everything, which wastes least."""
    for row in run_in:
        for g, var in enumerate(row):
            model.add_hint(var, g == 0)
    model.add_hint(rolls[0], max(1, math.ceil((sum(need) - lap) / (roll - lap))))
    for g in range(1, len(rolls)):
        model.add_hint(rolls[g], 0)


def _solve(model: cp_model.CpModel, aim: cp_model.LinearExprT, seconds: float) -> cp_model.CpSolver:
    model.minimize(aim)
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.num_workers = 2
    solver.parameters.random_seed = 1
    status = solver.solve(model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        raise RuntimeError(f"the grouping of rolls found no answer ({solver.status_name(status)})")
    return solver
