"""Plain ways to the same answers, for the bench and the tests to hold the fast ones to: the set-out loop by loop, a wire as an
elastica, take-up added up part by part, splices by a model anybody would write."""

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from scipy.integrate import solve_bvp
from scipy.interpolate import CubicSpline

from gnomonic.core.fabric.bar import Bar
from gnomonic.core.fabric.wire import Crimped

Best = tuple[float, float]


def positive_area(first: float, second: float, width: float) -> float:
    """∫ max(0, f) over a segment on which f runs straight from first to second."""
    if first <= 0 and second <= 0:
        return 0.0
    if first >= 0 and second >= 0:
        return (first + second) / 2 * width
    top = max(first, second)
    return top * top / (2 * abs(first - second)) * width


def bay_cost(
    x: list[float], z: list[float], i: int, j: int, clearance: float, low: float, high: float, fill: float, cut: float
) -> float:
    """One post, and the fill and cut under the chord from node i to node j."""
    slope = (z[j] - z[i]) / (x[j] - x[i])
    total = 1.0
    before = clearance
    for m in range(i + 1, j + 1):
        after = clearance + z[i] + slope * (x[m] - x[i]) - z[m]
        width = x[m] - x[m - 1]
        total += fill * positive_area(before - high, after - high, width)
        total += cut * positive_area(low - before, low - after, width)
        before = after
    return total


def plain_set_out(
    x: list[float], z: list[float], allowed: list[bool], longest: float, clearance: float, low: float, high: float,
    fill: float = 4.0, cut: float = 8.0,
) -> Best:  # fmt: skip
    """Least (cost, Σ bay²) from the first node to the last; cost counts one post a bay."""
    n = len(x)
    best: list[Best] = [(float("inf"), float("inf"))] * n
    best[0] = (0.0, 0.0)
    for i in range(n - 1):
        if best[i][0] == float("inf") or not (allowed[i] or i == 0):
            continue
        for j in range(i + 1, n):
            length = x[j] - x[i]
            if length > longest + 1e-9:
                break
            if not (allowed[j] or j == n - 1):
                continue
            cost = round(best[i][0] + bay_cost(x, z, i, j, clearance, low, high, fill, cut), 9)
            candidate = (cost, best[i][1] + length * length)
            if candidate[0] < best[j][0] - 1e-7 or (
                abs(candidate[0] - best[j][0]) <= 1e-7 and candidate[1] < best[j][1]
            ):
                best[j] = candidate
    return best[-1]


def elastica_strain(wire: Crimped, tension_n: float) -> float:
    """A quarter wave of a rod that is bent to a sine in space, straightened by T: EI·(θ' − κ0)' = T·sin θ, large angles and all."""
    k, stiff = 2 * math.pi / wire.pitch_m, wire.e_pa * math.pi * wire.d_m**4 / 64
    steep = wire.curve_m * k
    xs = np.linspace(0, wire.pitch_m / 4, 8001)
    mids = (xs[1:] + xs[:-1]) / 2
    along = np.concatenate([[0], np.cumsum(np.sqrt(1 + (steep * np.cos(k * mids)) ** 2) * np.diff(xs))])
    place = CubicSpline(along, xs)

    def natural(s: Any) -> Any:
        x = place(s)
        return -steep * k * np.sin(k * x) / (1 + (steep * np.cos(k * x)) ** 2) ** 1.5

    def laws(s: Any, y: Any) -> Any:
        return np.array([y[1] / stiff + natural(s), tension_n * np.sin(y[0]), np.cos(y[0])])

    start = np.linspace(0, along[-1], 300)
    guess = np.array([np.arctan(steep * np.cos(k * place(start))), 0 * start, place(start)])
    solved = solve_bvp(laws, lambda a, b: np.array([a[1], b[0], a[2]]), start, guess, tol=1e-9, max_nodes=50_000)
    if not solved.success:
        raise ArithmeticError(solved.message)
    return float(solved.y[2, -1] / (wire.pitch_m / 4) - 1 + tension_n / wire.ea_n)


def plain_take_up_m(bar: Bar, from_n: float, to_n: float, long_m: float, parts: int = 20_000) -> float:
    """What a stretch gives in length, added up in many parts: the strain at each sought by bisection."""
    total = 0.0
    for k in range(parts):
        pull = from_n + (to_n - from_n) * (k + 0.5) / parts
        low, high = 0.0, 0.05
        for _ in range(40):
            middle = (low + high) / 2
            low, high = (middle, high) if bar.pull_n(middle) < pull else (low, middle)
        total += low
    return total * long_m / parts


def plain_splices(
    needs_m: Sequence[float], stock_m: Sequence[float], lap_m: float, least_m: float, seconds: float
) -> tuple[int | None, float]:
    """Fewest splices that cut runs from given stock, a variable a piece, as anybody would write it; and its bound.

    Where a splice may lie is left out, so that what it finds is no worse than what keeps those rules.
    """
    from ortools.sat.python import cp_model

    model, cm = cp_model.CpModel(), 100
    lap, least = round(lap_m * cm), round(least_m * cm)
    used, long = {}, {}
    for k, need in enumerate(needs_m):
        for i, stock in enumerate(stock_m):
            used[k, i] = model.new_bool_var("")
            long[k, i] = model.new_int_var(0, round(stock * cm), "")
            model.add(long[k, i] <= round(stock * cm) * used[k, i])
            model.add(long[k, i] >= min(least, round(need * cm)) * used[k, i])
        row = range(len(stock_m))
        pieces = sum(used[k, i] for i in row)
        model.add(sum(long[k, i] for i in row) == round(need * cm) + lap * (pieces - 1))
        model.add(pieces >= 1)
    for i, stock in enumerate(stock_m):
        model.add(sum(long[k, i] for k in range(len(needs_m))) <= round(stock * cm))
    model.minimize(sum(used.values()) - len(needs_m))
    solver = cp_model.CpSolver()
    solver.parameters.max_time_in_seconds = seconds
    solver.parameters.num_workers = 2
    status = solver.solve(model)
    found = status in (cp_model.OPTIMAL, cp_model.FEASIBLE)
    return (round(solver.objective_value) if found else None), solver.best_objective_bound
