"""Gates, crossings, wind: pocket sums and the pieces under them, against values worked by hand."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gnomonic.core.calc import calc
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.fabrics import fabrics
from gnomonic.core.finish.cable import cables, hung
from gnomonic.core.finish.swing import hinge_n, plane_sweep, swing
from gnomonic.core.finish.wind import covered, force_coefficient

IN, FT = 0.0254, 0.3048


def test_a_16_ft_leaf_hangs_in_16_ft_3_in_and_its_7_in_posts_stand_16_ft_10_in_apart():
    """Common practice: 16 ft leaf, 16 ft 3 in clear; 195 in + 7 in = 202 in between centres; up 15 % the tape reads 202·√1.0225 = 204.26 in."""
    ask = {"hinge_gap_m": 2 * IN, "latch_gap_m": 1 * IN, "hinge_post_m": 7 * IN, "latch_post_m": 7 * IN}
    a = calc("gate_opening", {"leaf_m": 16 * FT, "grade": 0.15, **ask})
    assert a["clear_m"] == pytest.approx(16.25 * FT) and a["centres_m"] == pytest.approx((16 + 10 / 12) * FT)
    assert a["tape_on_slope_m"] == pytest.approx(204.26 * IN, abs=0.0002)
    back = calc("gate_opening", {"centres_m": a["centres_m"], **ask})
    assert back["leaf_that_fits_m"] == pytest.approx(16 * FT)


def test_two_leaves_have_hinges_at_both_posts():
    """Two 8 ft leaves: 192 + 2·2 + 1 = 197 in clear; an 8 in and a 6 in post put the centres 204 in apart."""
    ask = {"leaves": 2, "hinge_gap_m": 2 * IN, "latch_gap_m": 1 * IN, "hinge_post_m": 8 * IN, "latch_post_m": 6 * IN}
    a = calc("gate_opening", {"leaf_m": 8 * FT, **ask})
    assert (a["clear_m"] / IN, a["centres_m"] / IN) == pytest.approx((197, 204))
    assert calc("gate_opening", {"centres_m": 204 * IN, **ask})["leaf_that_fits_m"] == pytest.approx(16 * FT)


def test_an_opening_that_no_leaf_fits_is_refused():
    ask = {"hinge_gap_m": 0.05, "latch_gap_m": 0.03, "hinge_post_m": 0.2, "latch_post_m": 0.2}
    with pytest.raises(BadInput, match="no leaf fits") as bad:
        calc("gate_opening", {"centres_m": 0.28, **ask})
    assert bad.value.field == "centres_m"
    for wrong in ({}, {"leaf_m": 3.0, "centres_m": 3.3}, {"leaf_m": 3.0, "leaves": 3}, {"leaf_m": -1.0}):
        with pytest.raises(BadInput):
            calc("gate_opening", {**ask, **wrong})


def test_a_swing_uphill_across():
    """4 m leaf, ground rising 10 % along and 5 % across: steepest 11.18 % at 26.57°, 0.4472 m there; closed the tip stands over 0.4 m, open over 0.2."""
    a = calc("gate_sweep", {"leaf_m": 4.0, "m1": 0.10, "m2": 0.05, "clearance_m": 0.05})
    assert a["highest_ground_m"] == pytest.approx(0.44721, abs=1e-5) and a["at_deg"] == pytest.approx(26.565, abs=1e-3)
    assert a["bottom_clearance_m"] == pytest.approx(0.49721, abs=1e-5)
    assert a["largest_gap_under_tip_m"] == pytest.approx(0.29721, abs=1e-5)
    assert a["better_hinge"] == "other"  # from there the tip falls away: 0.2 m when open


def test_a_swing_downhill_is_ruled_by_the_hinge():
    """Falling both ways nothing stands over the hinge's ground: 2 in there, and 0.05 + 4·0.1118 under the tip at 26.57°."""
    a = calc("gate_sweep", {"leaf_m": 4.0, "m1": -0.10, "m2": -0.05})
    assert (a["highest_ground_m"], a["at_deg"], a["bottom_clearance_m"]) == (0.0, 0.0, 0.05)
    assert (
        a["largest_gap_under_tip_m"] == pytest.approx(0.05 + 4 * math.hypot(0.1, 0.05)) and a["better_hinge"] == "this"
    )


@given(
    st.floats(0.5, 6), st.floats(-0.6, 0.6), st.floats(-0.6, 0.6), st.floats(10, 180), st.sampled_from([0.0, 0.02, 0.3])
)
def test_a_swing_over_a_plane_is_that_of_a_brute_sweep(leaf, m1, m2, opened, clearance):
    angles = np.radians(np.linspace(0, opened, 20_001))
    tips = leaf * (m1 * np.cos(angles) + m2 * np.sin(angles))
    found = plane_sweep(leaf, m1, m2, math.radians(opened), clearance)
    assert found.highest_m == pytest.approx(max(0.0, tips.max()), abs=1e-6)
    assert found.gap_m == pytest.approx(found.bottom_m - tips.min(), abs=1e-6)
    measured = swing(lambda a, o: m1 * a + m2 * o, leaf, math.radians(opened), clearance)
    half_a_step = math.radians(opened) / 60 / 2  # 61 places of the leaf: the highest lies between two of them at worst
    lower = leaf * math.hypot(m1, m2) * (1 - math.cos(half_a_step))
    assert found.highest_m - lower - 1e-9 <= measured.highest_m <= found.highest_m + 1e-9


def test_a_swing_over_a_hump_and_a_dip_finds_both():
    """Ground level but for a 0.3 m hump 2 m along; across it falls 10 %: the closed leaf, not its tip, is what the hump lifts."""
    profile = ([-5, 1, 2, 3, 9], [0, 0, 0.3, 0, 0])

    def height(along, out):
        return np.interp(along, *profile) - 0.1 * out

    found = swing(height, 4.0, math.pi / 2, 0.05, breaks_m=[1, 2, 3])
    assert found.highest_m == pytest.approx(0.3, abs=1e-9) and found.at_m == pytest.approx(2.0)
    assert found.gap_m == pytest.approx(0.35) and found.tip_gap_m == pytest.approx(0.35)
    racked = swing(lambda a, o: -0.1 * a, 4.0, math.pi / 2, 0.05, slope=-0.1)
    assert racked.gap_m == pytest.approx(0.4 + 0.05)  # hung with the land it digs in when open: 0.4 m up


def test_hinges_of_a_16_ft_leaf_by_hand():
    """54 kg on 4.877 m, hinges 0.9 m apart: 529.6 N · 2.4384 m / 0.9 m = 1434.8 N out at the top, in at the foot."""
    assert hinge_n(54 * 9.80665, 4.8768, 0.9) == pytest.approx(1434.8, abs=0.1)


def test_a_cable_by_hand_and_by_the_catenary():
    """w 150 N/m, 9 m, 0.6 m sag: H = 150·81/4.8 = 2531.25 N, V = 675 N, 2619.7 N at the anchor.  The catenary through the same three points has
    a = 17.0, by its own equation."""
    a = calc("cable", {"w_n_per_m": 150.0, "span_m": 9.0, "sag_m": 0.6})
    assert a["horizontal_n"] == pytest.approx(2531.25) and a["support_n"] == pytest.approx(2619.71, abs=0.01)
    c = a["catenary_horizontal_n"] / 150.0
    assert c * (math.cosh(4.5 / c) - 1) == pytest.approx(0.6, abs=1e-9)
    assert a["catenary_support_n"] == pytest.approx(150 * c * math.cosh(4.5 / c))
    steps = np.linspace(-4.5, 4.5, 200_001)
    length = np.hypot(np.diff(steps), np.diff(c * np.cosh(steps / c))).sum()
    assert a["catenary_length_m"] == pytest.approx(length, abs=1e-6)


@given(st.floats(0.1, 500), st.floats(0.5, 200), st.floats(1e-4, 3.0))
def test_parabola_and_catenary_agree_where_the_sag_is_small(w, span, share):
    found = hung(w, span, share * span)
    assert found.catenary_horizontal_n / found.horizontal_n == pytest.approx(1.0, abs=max(1e-6, 1.5 * share**2))


def test_a_sag_of_many_spans_is_refused():
    with pytest.raises(BadInput, match="no cable across"):
        calc("cable", {"w_n_per_m": 1.0, "span_m": 1.0, "sag_m": 11.0})


def test_clips_by_the_published_table():
    """U-bolt clips as published (DOE-STD-1090 and makers' tables alike; from memory): clips, turned-back length in inches, torque in ft·lb."""
    table = {"c6": (2, 4.75, 15), "c8": (2, 5.25, 30), "c10": (2, 6.5, 45), "c13": (3, 11.5, 65)}
    for key, (clips, back_in, torque) in table.items():
        size = cables()[key]
        assert size.clips == clips and size.back_m == pytest.approx(back_in * IN)
        assert size.torque_nm == pytest.approx(torque * 1.35582, abs=0.06)


def test_wind_by_hand():
    """30 m/s: 0.613·900 = 551.7 Pa.  A 30 in sheet on 5 ft bays, Cf 1.3: 551.7·1.3·0.762 = 546.5 N/m, 832.9 N a post."""
    a = calc("wind", {"speed_m_s": 30, "height_m": 0.762, "bay_m": 1.524, "label": "sheet 40"})
    assert a["q_pa"] == pytest.approx(551.7) and a["push_n_per_m"] == pytest.approx(546.51, abs=0.01)
    assert a["post_n"] == pytest.approx(832.88, abs=0.01) and a["moment_nm"] == pytest.approx(317.33, abs=0.01)


def test_how_much_of_a_fabric_is_wire():
    """9-49-6, 12½ and 14½ gauge (0.099 and 0.076 in): 2·2.5146 + 7·1.9304 = 18.54 mm of level wire in 1.2446 m, 1.490 %; stays 1.9304 in 152.4,
    1.267 %: 1 − 0.98510·0.98733 = 2.738 % together."""
    fabric = fabrics()["9-49-6"]
    share, mean = covered(fabric)
    assert share == pytest.approx(0.02738, rel=2e-3)
    iced, _ = covered(fabric, 0.006)
    assert iced / share == pytest.approx((mean + 0.012) / mean, rel=0.06)
    assert covered(fabrics()["sheet 40"]) == (1.0, 0.0)
    assert covered(fabrics()["cloth 24"])[0] == pytest.approx(1 - (1 - 0.041 / 0.5) ** 2)
    assert [force_coefficient(s, 0.0025, 550) for s in (0.05, 0.2, 0.5, 1.0)] == [1.2, 1.3, 1.5, 1.3]


def test_what_wind_refuses():
    ask = {"speed_m_s": 30, "height_m": 2.0, "bay_m": 4.0}
    for wrong in ({}, {"label": "tea"}, {"label": "9-49-6", "solidity": 0.1}, {"solidity": 0.2, "ice_m": 0.01}):
        with pytest.raises(BadInput):
            calc("wind", {**ask, **wrong})
    assert calc("wind", {**ask, "solidity": 0.05, "litter": 0.4})["solidity"] == 0.4
