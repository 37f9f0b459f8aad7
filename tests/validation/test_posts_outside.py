"""Rails over uneven ground against scipy's linear programming, posts in soil against an independent reading of the same
clauses, a brace on a slope against the frame-analysis library Pynite."""

import math

import numpy as np
import pytest
from Pynite import FEModel3D
from scipy.optimize import brentq, linprog, minimize_scalar

from gnomonic.core.brace.statics import Panel, braced
from gnomonic.core.setout.string_line import string_line
from gnomonic.core.soil.embed import broms_clay, broms_sand_n, ibc_depth_ft, lean_clay, lean_sand


@pytest.mark.parametrize("seed", range(60))
def test_string_line_is_the_linear_program(seed):
    rng = np.random.default_rng(seed)
    s = np.unique(np.concatenate([[0.0, 40.0], rng.uniform(0, 40, rng.integers(1, 25))]))
    z = rng.normal(0, 0.4, len(s)) + s * rng.normal(0, 0.2)
    u, h = s / s[-1], 1.2
    chord = z[0] * (1 - u) + z[-1] * u
    over = np.column_stack([-(1 - u), -u, np.zeros_like(u)])
    under = np.column_stack([1 - u, u, -np.ones_like(u)])
    rows, most = np.vstack([over, under]), np.concatenate([chord - z - h, z - chord])
    first = linprog([0, 0, 1], A_ub=rows, b_ub=most, bounds=[(h, None), (h, None), (None, None)])
    second = linprog([1, 1, 0], A_ub=rows, b_ub=most, bounds=[(h, None), (h, None), (None, first.fun + 0.01)])
    ours = string_line(s, z, h)
    assert ours.worst_clear_m <= first.fun + 0.01 + 1e-7 and ours.least_clear_m >= h - 1e-9
    assert ours.a_m + ours.b_m == pytest.approx(second.fun, abs=1e-6)
    # the repairs: each just clears the ground, and no less does
    string = chord + h
    for a, b, repair in ((1, 1, ours.raise_both_m), (1, 0, ours.raise_a_only_m), (0, 1, ours.raise_b_only_m)):
        lifted = string + repair * (a * (1 - u) + b * u) - z - h
        assert lifted.min() == pytest.approx(0, abs=1e-9) or repair == 0
    raised = string_line(s, z, h + 0.1)
    assert raised.least_clear_m >= ours.least_clear_m  # higher ends never lower the least clearance


def rigid_pile(e, length, resist, at_toe):
    """Ultimate head force of a rigid pile: soil pressure ``resist(z)`` against it above a turning point, for it below;
    or, in sand as Broms has it, a single force at the toe."""
    z = np.linspace(0, length, 20001)
    p = resist(z)
    if at_toe:
        return np.trapezoid(p * (length - z), z) / (e + length)

    def moment(turn):
        signed = np.where(z <= turn, p, -p)
        head = np.trapezoid(signed, z)
        return np.trapezoid(signed * z, z) + head * e

    turn = brentq(moment, 0.3 * length, length)
    return np.trapezoid(np.where(z <= turn, p, -p), z)


@pytest.mark.parametrize(("e", "length", "b"), [(0.0, 1.0, 0.15), (1.0, 1.0, 0.15), (0.7, 0.76, 0.1143)])
def test_broms_from_the_pressures_he_assumes(e, length, b):
    """Broms (1964): 3·γ·z·Kp·b in sand with the reaction at the toe; 9·cu·b below 1.5·b in clay, turning below."""
    assert broms_sand_n(17300, 3.0, b, length, e) == pytest.approx(rigid_pile(e, length, lambda z: 3 * 17300 * z * 3.0 * b, True) , rel=1e-3)  # fmt: skip
    clay = rigid_pile(e, length, lambda z: np.where(z < 1.5 * b, 0.0, 9 * 50e3 * b), False)
    assert broms_clay(50e3, b, length, e).hu_n == pytest.approx(clay, rel=2e-3)


def test_the_code_s_clause_read_again():
    """International Building Code §1807.3.2.1, solved with another root finder."""
    for p, h, b, s in ((300, 4, 0.5, 150), (900, 2.5, 8 / 12, 100), (50, 6, 1 / 3, 300)):

        def gap(d, p=p, h=h, b=b, s=s):
            a = 2.34 * p / (s * min(d, 12) / 3 * b)
            return d - 0.5 * a * (1 + math.sqrt(1 + 4.36 * h / a))

        assert ibc_depth_ft(p, h, b, s) == pytest.approx(brentq(gap, 0.01, 500), rel=1e-9)


@pytest.mark.parametrize(("kind", "stiff"), [("clay", 3.35e6), ("sand", 5e6)])
def test_lean_is_least_energy(kind, stiff):
    """The springs' energy less the work of the pull, made least over movement and turn."""
    pull, e, depth = 3000.0, 0.6, 0.9
    z = np.linspace(0, depth, 20001)
    k = np.full_like(z, stiff) if kind == "clay" else stiff * z

    def at_turn(turn):
        y0 = (pull + np.trapezoid(k * z, z) * turn) / np.trapezoid(k, z)
        return np.trapezoid(k * (y0 - turn * z) ** 2, z) / 2 - pull * (y0 + turn * e), y0

    found = minimize_scalar(lambda t: at_turn(t)[0], bounds=(0, 0.2), method="bounded", options={"xatol": 1e-12})
    ours = (lean_clay if kind == "clay" else lean_sand)(pull, e, depth, stiff)
    assert ours.ground_m == pytest.approx(at_turn(found.x)[1], rel=1e-3)
    assert ours.rotation_rad == pytest.approx(found.x, rel=1e-3)


def frame():
    model = FEModel3D()
    model.add_material("steel", 200e9, 77e9, 0.3, 0)
    model.add_section("stiff", 0.1, 1.0, 1.0, 1.0)
    model.add_section("bar", 1e-4, 1e-8, 1e-8, 1e-8)
    return model


@pytest.mark.parametrize("rises", [[0.33], [-0.3], [1.2], [0.3, 0.1], [0.2, -0.25, 0.3]])
@pytest.mark.parametrize("lay", ["level", "ground"])
def test_h_brace_on_a_slope(rises, lay):
    newton, at, rail, apart = 4000.0, 0.7, 1.3, 2.4
    model, z = frame(), np.concatenate([[0.0], np.cumsum(rises)])
    panels, tops = [], []
    for k in range(len(z)):
        model.add_node(f"foot{k}", k * apart, z[k], 0)
        model.def_support(f"foot{k}", True, True, True, True, True, False)
        tops.append(rail - (z[k] if lay == "level" else 0))
        model.add_node(f"top{k}", k * apart, z[k] + tops[k], 0)
        model.def_support(f"top{k}", False, False, True, True, True, False)
        if k == 0:
            model.add_node("pull", 0, at, 0)
            model.def_support("pull", False, False, True, True, True, False)
            model.add_member("lower", "foot0", "pull", "steel", "stiff")
            model.add_member("upper", "pull", "top0", "steel", "stiff")
            continue
        model.add_member(f"post{k}", f"foot{k}", f"top{k}", "steel", "stiff")
        for name, i, j in ((f"rail{k}", f"top{k - 1}", f"top{k}"), (f"wire{k}", f"top{k}", f"foot{k - 1}")):
            model.add_member(name, i, j, "steel", "bar")
            model.def_releases(name, Rzi=True, Rzj=True)
        panels.append(Panel(apart, tops[k - 1], tops[k], tops[k], rises[k - 1]))
    if min(tops) <= 0.05:
        assert min(tops) > 0 or not braced(newton, at, 0.0, panels).stands
        return
    grade = rises[0] / apart
    model.add_node_load("pull", "FX", newton * math.cos(math.atan(grade)))
    model.add_node_load("pull", "FY", newton * math.sin(math.atan(grade)))
    model.analyze(check_statics=False)
    ours = braced(newton, at, grade, panels)
    for k in range(len(panels)):
        assert abs(model.members[f"rail{k + 1}"].axial(0, "Combo 1")) == pytest.approx(
            abs(ours.rail_n[k]), rel=3e-3, abs=10
        )
        assert abs(model.members[f"wire{k + 1}"].axial(0, "Combo 1")) == pytest.approx(
            abs(ours.wire_n[k]), rel=3e-3, abs=10
        )
    for k in range(len(panels) + 1):
        assert -model.nodes[f"foot{k}"].RxnFX["Combo 1"] == pytest.approx(ours.foot_shear_n[k], abs=newton * 3e-3)
        assert -model.nodes[f"foot{k}"].RxnFY["Combo 1"] == pytest.approx(ours.uplift_n[k], abs=newton * 3e-3)
