"""Stretching against things outside the project: a fine elastica, the belt equation integrated, a run cut into grains."""

import math

import numpy as np
import pytest
from scipy.integrate import quad, solve_ivp

from gnomonic.core.fabric.bar import Bar
from gnomonic.core.fabric.wire import Crimped
from gnomonic.core.pull.path import Bend, Path, pulled, take_up_m
from gnomonic.core.pull.release import release
from gnomonic.workshop.plain import elastica_strain

OUTER, FILLER = Crimped(0.00251, 0.004, 0.1524), Crimped(0.00193, 0.004, 0.1524)
NINE = Bar(((OUTER, 2), (FILLER, 7)))


@pytest.mark.parametrize("wire", [OUTER, FILLER, Crimped(0.0025146, 0.0025, 0.12)])
def test_the_shallow_bow_against_an_elastica(wire):
    """Where fabric works, from a third of Tc to Tc and a half, the shallow bow is within a quarter of a percent of the elastica, at Tc within 0.12 %."""
    for share, off in ((0.35, 0.002), (0.5, 0.001), (1.0, 0.0012), (1.5, 0.0025)):
        tension = share * wire.half_n
        assert wire.strain(tension) == pytest.approx(elastica_strain(wire, tension), rel=off)


def test_the_belt_equation_integrated():
    """dT/dθ = −μ·T round the post, by a general solver of differential equations."""
    for mu, deg in ((0.3, 90.0), (0.15, 200.0)):
        solved = solve_ivp(lambda _, t, mu=mu: -mu * t, (0, math.radians(deg)), [1000.0], rtol=1e-10, atol=1e-8)
        assert Bend(1.0, math.radians(deg), mu).after_n(1000.0) == pytest.approx(solved.y[0, -1], rel=1e-7)


def test_take_up_under_drag_against_quadrature():
    """∫ε(P(s)) ds by adaptive quadrature, the wires' strain sought by bisection on their own law."""

    def strain(pull):
        low, high = 0.0, 0.05
        for _ in range(70):
            mid = (low + high) / 2
            low, high = (mid, high) if sum(n * _tension(w, mid) for w, n in NINE.wires) < pull else (low, mid)
        return low

    def _tension(wire, wanted):
        low, high = 0.0, 1e5
        for _ in range(70):
            mid = (low + high) / 2
            low, high = (mid, high) if wire.strain(mid) < wanted else (low, mid)
        return low

    whole = quad(lambda s: strain(2801.0 - 9.0 * s), 0, 100.0, epsabs=1e-9, limit=60)[0]
    assert take_up_m(NINE, pulled(Path(100.0, (), 9.0), 2801.0)) == pytest.approx(whole, rel=1e-6)


def test_release_against_a_run_cut_into_grains():
    """Twenty thousand grains of 5 mm, each held by its own friction: the end let down little by little until they gave 20 mm."""
    bend, drag, length, pull = Bend(40.0, math.radians(70), 0.3, 60.0), 3.0, 100.0, 2801.0
    step = length / 20_000
    mids = np.arange(step / 2, length, step)
    before = np.where(
        mids < bend.at_m, pull - drag * mids, bend.after_n(pull - drag * bend.at_m) - drag * (mids - bend.at_m)
    )
    lawful = np.linspace(0, 3500, 7001)
    strains = np.array([NINE.strain(n) for n in lawful])

    def given(end):
        inward = np.where(
            mids < bend.at_m, end + drag * mids, bend.holds_n(end + drag * bend.at_m) + drag * (mids - bend.at_m)
        )
        after = np.minimum(before, inward)
        return step * (np.interp(before, lawful, strains) - np.interp(after, lawful, strains)).sum(), after

    low, high = 0.0, pull
    for _ in range(60):
        mid = (low + high) / 2
        low, high = (mid, high) if given(mid)[0] > 0.020 else (low, mid)
    freed = release(Path(length, (bend,), drag), NINE, pull, 0.020)
    assert freed.end_n == pytest.approx(low, abs=1.0)
    after = given(low)[1]
    assert min(min(s.start_n, s.end_n) for s in freed.stretches) == pytest.approx(after.min(), abs=1.0)
