"""A few runs cut piece by piece by constraint programming: what the search in groups leaves open is proven or beaten.

Every run has slots for its pieces in laying order; a slot holds one stock item and a length (tenths of a mm).  The far edge of every
splice lies in one of the run's windows, an item gives a run one piece at most, and no item is cut longer than it is.

Source: derived in docs/method.md §9; CP-SAT.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from gnomonic.core.fabric.lay import Piece, Rules, RunNeed

if TYPE_CHECKING:
    from ortools.sat.python import cp_model

MM = 10_000  # parts of a metre
MOST_SLOTS = 4
Pieces = list[list[Piece]]


def cut_with(
    runs: Sequence[RunNeed],
    offcuts_m: Sequence[float],
    roll_m: float,
    rules: Rules,
    rolls: int,
    splices: int,
    work_s: float,
) -> tuple[Pieces | None, bool]:
    """Pieces per run from at most so many new rolls with at most so many splices, or None; and whether that is proven.

    Lengths in m; ``work_s`` limits the search in deterministic seconds.
    """
    from gnomonic.core.fabric.solving import cp_model, solver

    names = [f"offcut{k}" for k in range(len(offcuts_m))] + [f"new{k}" for k in range(rolls)]
    stock = [math.floor((m + rules.give_m) * MM + 1e-6) for m in (*offcuts_m, *([roll_m] * rolls))]
    slots = [1 + min(rules.most_splices(run), splices, MOST_SLOTS - 1) for run in runs]
    all_slots = all(
        n < MOST_SLOTS or n == 1 + min(rules.most_splices(r), splices) for n, r in zip(slots, runs, strict=True)
    )
    model = cp_model.CpModel()
    cut: list[list[cp_model.IntVar]] = [[] for _ in names]
    slotted = [_slots(model, run, number, stock, cut, rules) for run, number in zip(runs, slots, strict=True)]
    for j, parts in enumerate(cut):
        model.add(sum(parts) <= stock[j])
        if j > len(offcuts_m):  # rolls are alike: the earlier is cut no less
            model.add(sum(cut[j - 1]) >= sum(parts))
    model.add(sum(sum(map(sum, of.used)) - 1 for of in slotted) <= splices)
    solved = solver(work_s)
    status = solved.solve(model)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return None, status == cp_model.INFEASIBLE and all_slots
    found: Pieces = []
    for i, (run, of) in enumerate(zip(runs, slotted, strict=True)):
        row = [
            (names[j], solved.value(of.cut[k][j]) / MM)
            for k, used in enumerate(of.used)
            for j in range(len(names))
            if solved.boolean_value(used[j])
        ]
        found.append(_to_length(row, run, i, rules))
    return found, True


@dataclass(frozen=True, slots=True)
class _Slots:
    """A run's slots in laying order: whether an item is used in each, and how much of it is cut."""

    used: list[list[Any]]
    cut: list[list[Any]]


def _slots(
    model: "cp_model.CpModel", run: RunNeed, number: int, stock: Sequence[int], cut: list[list[Any]], rules: Rules
) -> _Slots:
    """A run of so many slots: its pieces reach from end to end, joined where a splice may be; ``cut`` gathers them by item."""
    lap, need = math.ceil(rules.overlap_m * MM - 1e-6), math.ceil(run.need_m * MM - 1e-6)
    least = math.ceil(rules.least_piece_m(run) * MM - 1e-6)
    windows = [(math.ceil(a * MM - 1e-6), math.floor(b * MM + 1e-6)) for a, b in rules.splice_windows(run)]
    y = [[model.new_bool_var("") for _ in stock] for _ in range(number)]
    x = [[model.new_int_var(0, most, "") for most in stock] for _ in range(number)]
    used = [sum(row) for row in y]
    model.add(used[0] == 1)
    for k in range(number):
        model.add(used[k] <= (used[k - 1] if k else 1))
        for j, most in enumerate(stock):
            model.add(x[k][j] <= most * y[k][j])
            model.add(x[k][j] >= least * y[k][j])
            cut[j].append(x[k][j])
        if k:
            _in_a_window(model, sum(sum(x[h]) for h in range(k)) - lap * (k - 1), used[k], windows)
    for j in range(len(stock)):
        model.add(sum(y[k][j] for k in range(number)) <= 1)
    model.add(sum(sum(row) for row in x) - lap * (sum(used) - 1) == need)
    return _Slots(y, x)


def _in_a_window(model: "cp_model.CpModel", reached: Any, used: Any, windows: Sequence[tuple[int, int]]) -> None:
    """The joint before a piece that is used lies in one of the run's windows."""
    inside = [model.new_bool_var("") for _ in windows]
    model.add(sum(inside) == used)
    for (low, high), here in zip(windows, inside, strict=True):
        model.add(reached >= low).only_enforce_if(here)
        model.add(reached <= high).only_enforce_if(here)


def _to_length(row: list[tuple[str, float]], run: RunNeed, number: int, rules: Rules) -> list[Piece]:
    """A run's pieces, the last one cut to the run's own length."""
    last = run.need_m + rules.overlap_m * (len(row) - 1) - sum(m for _, m in row[:-1])
    return [Piece(name, m, number) for name, m in [*row[:-1], (row[-1][0], last)]]
