"""Pocket sums of posts and braces against values worked by hand or published (each source beside its check)."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gnomonic.core.calc import calc
from gnomonic.core.errors import BadInput

H = {"type": "h", "pull_n": 4000.0, "pull_height_m": 0.9, "rail_height_m": 1.05, "spacing_m": 2.4}
FT, IN, LB = 0.3048, 0.0254, 4.4482216


def test_a_brace_uphill_by_hand():
    """Ground rises 0.33 m over 2.40 m (13.7 %); the pull acts along it: cos β 0.9907, sin β 0.1362.  Level rail 1.05 m up the end
    post: C = 4000·0.9907·0.9/1.05 = 3396.6 N; it meets the inner post 0.72 m up; wire from there, along 2.40 by 1.05:
    T = 3396.6·(2.6196/2.4) = 3707.5 N; uplift = 3707.5·(1.05/2.6196) + 4000·0.1362 = 2030.9 N; shear 3962.7 N."""
    b = calc("brace", {**H, "rise_m": 0.33})
    assert b["stands"] and b["rail_on_inner_m"] == pytest.approx(0.72)
    assert b["rail_n"] == pytest.approx([3396.6], abs=0.1) and b["wire_n"] == pytest.approx([3707.5], abs=0.1)
    assert b["end_post_uplift_n"] == pytest.approx(2030.9, abs=0.1) and b["foot_shear_n"][0] == pytest.approx(
        3962.7, abs=0.1
    )
    assert (b["rail_length_m"], b["wire_length_m"]) == pytest.approx((2.4, 2.61964), abs=1e-5)
    # along the ground: rail √(2.4² + 0.33²), wire √(2.4² + 1.38²); C = H·hp/hr again
    g = calc("brace", {**H, "rise_m": 0.33, "rail": "ground"})
    assert (g["rail_length_m"], g["wire_length_m"]) == pytest.approx((2.42258, 2.76846), abs=1e-5)
    assert g["rail_n"] == pytest.approx([3428.6], abs=0.1)


def test_half_the_slope_of_a_roof_puts_a_level_rail_under_ground_and_a_fall_above_the_post():
    """51 %: 1.224 m up in 2.40 m, more than the 1.05 m of the rail.  −15 %: it meets a 48 in post 1.41 m up, over its head."""
    up = calc("brace", {**H, "rise_m": 1.224})
    assert not up["stands"] and "under its ground" in up["because"] and up["rail_n"] is None
    down = calc("brace", {**H, "rise_m": -0.36, "post_top_m": 48 * IN})
    assert not down["stands"] and "above its top" in down["because"] and down["rail_on_inner_m"] == pytest.approx(1.41)
    assert calc("brace", {**H, "rise_m": -0.36})["end_post_uplift_n"] < 1500  # downhill: the pull itself presses
    assert calc("brace", {**H, "rise_m": 1.224, "rail": "ground"})["wire_length_m"] == pytest.approx(
        math.hypot(2.4, 2.274)
    )


@pytest.mark.parametrize(
    ("data", "field"),
    [
        ({**H, "rise_m": 0.2, "panels": 2}, "rise_m"),
        ({"type": "diagonal", "pull_n": 1.0, "pull_height_m": 1.0, "strut_height_m": 1.0, "reach_m": 1.0, "rise_m": 0.1}, "rise_m"),
        ({**H, "rail": "steep"}, "rail"),
    ],
)  # fmt: skip
def test_rises_refused(data, field):
    with pytest.raises(BadInput) as caught:
        calc("brace", data)
    assert caught.value.field == field


@given(st.floats(0.1, 5), st.floats(0.2, 2), st.floats(0.3, 2), st.integers(1, 3))
def test_a_rise_of_nothing_is_level_and_a_longer_rail_never_lifts_more(spacing, hp, hr, panels):
    level = calc("brace", {**H, "spacing_m": spacing, "pull_height_m": hp, "rail_height_m": hr, "panels": panels})
    same = calc("brace", {**H, "spacing_m": spacing, "pull_height_m": hp, "rail_height_m": hr, "panels": panels, "rise_m": 0.0, "rail": "ground"})  # fmt: skip
    longer = calc(
        "brace", {**H, "spacing_m": spacing * 1.1, "pull_height_m": hp, "rail_height_m": hr, "panels": panels}
    )
    assert {k: v for k, v in level.items() if k != "why"} == {k: v for k, v in same.items() if k != "why"}
    assert longer["end_post_uplift_n"] <= level["end_post_uplift_n"] * (1 + 1e-9)


def run(bearing, pull=5600.0, panels=1):
    return {"pull_n": pull, "bearing_deg": bearing, "pull_height_m": 0.7, "rail_height_m": 0.95, "spacing_m": 2.4, "panels": panels}  # fmt: skip


def test_a_square_corner_of_barbed_wire():
    """5.6 kN a run at right angles: 7.92 kN at the foot, to 45°; uplift 2 · 5600·0.7/2.4 = 3267 N."""
    c = calc("corner", {"runs": [run(0.0), run(90.0)]})
    assert c["resultant_n"] == pytest.approx(7919.6, abs=0.1) and c["resultant_bearing_deg"] == pytest.approx(45)
    assert c["foot_shear_n"] == pytest.approx(7919.6, abs=0.1) and c["uplift_n"] == pytest.approx(3266.7, abs=0.1)
    assert c["worst_single"] == pytest.approx({"run": 0, "foot_shear_n": 5600, "uplift_n": 1633.3}, abs=0.1)
    # in line the pulls cancel, their uplifts do not; of two panels the first takes (1 + 0.804)/(2 + 0.804) = 0.6434, cos φ = 2.4/2.581,
    # which leaves 6000·(1 − 0.7/0.95·0.3566) = 4423.6 N at the foot
    straight = calc("corner", {"runs": [run(90.0), run(270.0, 6000.0, 2)]})
    assert straight["worst_single"]["run"] == 0 and straight["uplift_n"] > 1633
    assert straight["foot_shear_n"] == pytest.approx(5600 - 4423.6, abs=1)
    even = calc("corner", {"runs": [run(10.0), run(190.0)]})
    assert even["resultant_n"] == 0 and even["resultant_bearing_deg"] is None


def test_lift_in_a_dip_and_over_a_hump():
    a = calc("lift", {"pull_n": 4000.0, "m1": -0.10, "m2": 0.12})
    assert a["lift_n"] == pytest.approx(874.6, abs=0.05) and a["total_n"] == pytest.approx(
        math.hypot(874.6, 8.64), abs=0.05
    )
    assert calc("lift", {"pull_n": 4000.0, "m1": 0.12, "m2": -0.10})["lift_n"] == pytest.approx(-874.6, abs=0.05)
    # 50 % down, 50 % up: 2·T·sin 26.565° = 0.8944·T
    assert calc("lift", {"pull_n": 1000.0, "m1": -0.5, "m2": 0.5})["lift_n"] == pytest.approx(894.4, abs=0.05)


def test_a_man_can_not_push_a_tight_strong_fabric_into_a_dip():
    """A 260 lb man can't push a tight 13-wire high-tensile fabric down 3½ ft over a 48 ft dip (common practice): 13 wires
    at 225 lb, 24 ft each way: √(24² + 3.5²) − 24 = 0.254 ft each; at the first tension 2·2925·3.5/24.254 = 844 lb."""
    wires = [{"d_m": 0.0025146, "a0_m": 0.0025, "p_m": 0.12, "count": 13}]
    p = calc("press", {"wires": wires, "pull_n": 2925 * LB, "a_m": 24 * FT, "b_m": 24 * FT, "depth_m": 3.5 * FT, "run_m": 330 * FT})  # fmt: skip
    assert p["force_at_start_n"] / LB == pytest.approx(844, abs=1) and p["extra_m"] / FT == pytest.approx(
        0.508, abs=0.002
    )
    assert p["force_n"] > p["force_at_start_n"] > 3 * 260 * LB and 0.5 < p["out_after"][0] < 0.8 and p["breaks"] is None
    straight = [{"d_m": 0.0025146, "count": 1, "break_n": 5800.0}]
    q = calc("press", {"wires": straight, "pull_n": 1000.0, "a_m": 5.0, "b_m": 5.0, "depth_m": 0.5})
    # extra 2(√25.25 − 5) = 49.88 mm over 10 m: + EA·0.004988 = 993.3 kN · 0.004988 = 4955 N
    assert q["pull_after_n"] == pytest.approx(5954.6, abs=2) and q["breaks"] is True and q["out_after"] == [None]
    nothing = calc("press", {"wires": wires, "pull_n": "half_sum", "a_m": 5.0, "b_m": 5.0, "depth_m": 0.0})
    assert nothing["force_n"] == 0 and nothing["pull_after_n"] == pytest.approx(nothing["pull_n"])
    for bad, field in (({"run_m": 3.0}, "run_m"), ({"wires": [{"d_m": 0.002, "a0_m": 0.003}]}, "wires[0].p_m"), ({"wires": straight, "pull_n": "half_first"}, "pull_n")):  # fmt: skip
        with pytest.raises(BadInput) as caught:
            calc("press", {"wires": wires, "pull_n": 1000.0, "a_m": 5.0, "b_m": 5.0, "depth_m": 0.5, **bad})
        assert caught.value.field == field


def test_a_hump_under_a_rail():
    """10 m with a hump of 0.10 m in the middle, 1.15 m clear: both ends 1.25, or one of them 1.35, or a trench of 0.10."""
    a = calc("stringline", {"profile": [[0.0, 0.0], [5.0, 0.1], [10.0, 0.0]], "h_min_m": 1.15})
    got = [
        a[k]
        for k in (
            "hA_m",
            "hB_m",
            "worst_clear_m",
            "least_clear_m",
            "raise_both_m",
            "raise_a_only_m",
            "trench_m",
            "trench_at_m",
        )
    ]
    assert got == pytest.approx([1.25, 1.25, 1.25, 1.15, 0.1, 0.2, 0.1, 5.0])
    # near the first end: 0.06 over the string at 2 m: both 0.06, the first alone 0.06/0.8, the last alone 0.06/0.2
    b = calc("stringline", {"profile": [[0.0, 5.0], [2.0, 5.06], [10.0, 5.0]], "h_min_m": 1.0})
    assert [b[k] for k in ("raise_both_m", "raise_a_only_m", "raise_b_only_m", "hump_at_m")] == pytest.approx(
        [0.06, 0.075, 0.3, 2.0]
    )
    dip = calc("stringline", {"profile": [[0.0, 1.0], [5.0, 0.5], [10.0, 1.0]], "h_min_m": 1.0})
    assert dip["hump_at_m"] is None and (dip["hA_m"], dip["worst_clear_m"]) == pytest.approx((1.0, 1.5))
    with pytest.raises(BadInput) as caught:
        calc("stringline", {"profile": [[0.0, 1.0], [5.0, 0.5]], "h_min_m": 1.0, "length_m": 9.0})
    assert caught.value.field == "length_m"


@pytest.mark.parametrize(
    ("data", "key", "value", "give"),
    [
        # International Building Code §1807.3.2.1, worked by hand
        ({"method": "ibc", "p_lb": 300.0, "h_ft": 4.0, "b_ft": 0.5, "s_psf_per_ft": 150.0}, "depth_ft", 6.79, 0.005),
        ({"method": "ibc", "p_lb": 500.0, "h_ft": 4.0, "b_ft": 8 / 12, "s_psf_per_ft": 200.0}, "depth_ft", 6.61, 0.005),
        ({"method": "ibc", "p_lb": 200.0, "h_ft": 3.0, "b_ft": 1.0, "s_psf_per_ft": 100.0}, "depth_ft", 4.85, 0.005),
        # Broms (1964): 0.5·17300·0.15·1³·3/1; clay: f² + (4e + 6b + 2F)f = F², F = L − 1.5b: 0.775² at e = 0 gives f 0.2246
        ({"method": "broms_sand", "gamma_n_m3": 17300.0, "kp": 3.0, "b_m": 0.15, "depth_m": 1.0, "e_m": 0.0}, "hu_n", 3892.5, 0.01),
        ({"method": "broms_sand", "gamma_n_m3": 17300.0, "kp": 3.0, "b_m": 0.15, "depth_m": 1.0, "e_m": 1.0}, "hu_n", 1946.25, 0.01),
        ({"method": "broms_clay", "cu_pa": 50e3, "b_m": 0.15, "depth_m": 1.0, "e_m": 0.0}, "hu_n", 15158, 1),
        ({"method": "broms_clay", "cu_pa": 50e3, "b_m": 0.15, "depth_m": 1.0, "e_m": 1.0}, "hu_n", 6197, 1),
        # springs: 4·3000·(1 + 1)/(3.35e6·0.9); 18·3000·(1 + 4/3·2/3)/(5e6·0.81)
        ({"method": "lean", "soil": "clay", "k_pa": 3.35e6, "pull_n": 3000.0, "e_m": 0.6, "depth_m": 0.9}, "ground_m", 0.00796, 5e-6),
        ({"method": "lean", "soil": "sand", "nh_n_m3": 5e6, "pull_n": 3000.0, "e_m": 0.6, "depth_m": 0.9}, "ground_m", 0.0252, 5e-5),
    ],
)  # fmt: skip
def test_posts_in_soil_by_hand(data, key, value, give):
    assert calc("embed", data)[key] == pytest.approx(value, abs=give)


def test_34_of_36_passes_and_22_does_not():
    """Common practice.  Sand holds by L³/(e + L): 34 in of 36 keep 0.872 of it with the force 3 ft up, 22 in only 0.284."""
    rock = {"method": "rock", "soil": "sand", "gamma_n_m3": 17300.0, "kp": 3.0, "b_m": 0.15, "depth_planned_m": 36 * IN, "e_m": 36 * IN, "pull_n": 900.0, "factor": 1.5}  # fmt: skip
    good, bad = (calc("embed", {**rock, "depth_reached_m": inches * IN}) for inches in (34, 22))
    assert good["hu_n"] / good["hu_planned_n"] == pytest.approx((34 / 36) ** 3 * 72 / 70, abs=1e-6) and good["ok"]
    assert bad["hu_n"] / bad["hu_planned_n"] == pytest.approx((22 / 36) ** 3 * 72 / 58, abs=1e-6) and not bad["ok"]
    again = calc("embed", {**rock, "depth_reached_m": bad["depth_needed_m"]})
    assert again["hu_n"] == pytest.approx(1350, abs=0.1)
    wide = calc("embed", {**rock, "depth_reached_m": 22 * IN, "b_m": bad["width_needed_m"]})
    assert wide["hu_n"] == pytest.approx(1350, abs=0.1)
    clay = {**{k: v for k, v in rock.items() if k not in ("gamma_n_m3", "kp")}, "soil": "clay", "cu_pa": 50e3}
    shallow = calc("embed", {**clay, "depth_reached_m": 8 * IN})
    assert shallow["hu_n"] == 0 and shallow["width_needed_m"] is None and not shallow["ok"]


@given(st.sampled_from(["sand", "clay"]), st.floats(0.05, 0.5), st.floats(0.3, 3), st.floats(0, 2))
def test_a_deeper_post_never_holds_less(soil, b, depth, e):
    about = {"gamma_n_m3": 17000.0, "kp": 3.0} if soil == "sand" else {"cu_pa": 40e3}
    rock = {"method": "rock", "soil": soil, **about, "b_m": b, "depth_planned_m": depth * 1.05, "depth_reached_m": depth, "e_m": e, "pull_n": 500.0, "factor": 2.0}  # fmt: skip
    a = calc("embed", rock)
    assert a["hu_n"] <= a["hu_planned_n"] and a["ok"] == (a["depth_needed_m"] <= depth * (1 + 1e-9))


@pytest.mark.parametrize(
    ("kind", "data", "field"),
    [
        ("embed", {"method": "broms_clay", "cu_pa": 5e4, "b_m": 0.2, "depth_m": 0.3, "e_m": 0.0}, "depth_m"),
        ("embed", {"method": "bromz"}, "method"),
        ("embed", {"method": "lean", "soil": "sand", "k_pa": 1.0, "nh_n_m3": 1.0, "pull_n": 1.0, "e_m": 0.0, "depth_m": 1.0}, "k_pa"),
        ("embed", {"method": "lean", "soil": "clay", "pull_n": 1.0, "e_m": 0.0, "depth_m": 1.0}, "k_pa"),
        ("embed", {"method": "broms_sand", "gamma_n_m3": 1.0, "kp": 3.0, "b_m": 0.1, "depth_m": 0.0, "e_m": 0.0}, "depth_m"),
        ("lift", {"pull_n": 1.0, "m1": 0.0}, "m2"),
        ("lift", {"pull_n": 1.0, "m1": 0.0, "m2": float("nan")}, "m2"),
        ("corner", {"runs": []}, "runs"),
        ("backfill", {"fill": "concrete", "hole_m": 0.15, "post_m": 0.15, "depth_m": 1.0}, "post_m"),
        ("backfill", {"fill": "concrete", "hole_m": 0.2, "post_m": 0.15, "depth_m": 1.0, "square": True}, "post_m"),
        ("backfill", {"fill": "porridge", "hole_m": 0.2, "post_m": 0.1, "depth_m": 1.0}, "fill"),
    ],
)  # fmt: skip
def test_refusals_name_the_field(kind, data, field):
    with pytest.raises(BadInput) as caught:
        calc(kind, data)
    assert caught.value.field == field


def test_what_a_hole_takes():
    """A 12 in hole round a 6 in post, 36 in: π/4·(12² − 6²)·36 = 3053.6 cu in = 0.0500 m³: three 80 lb bags of 0.017 m³; by a
    5-gal bucket (0.0189 m³) at 70 %: soil-cement round a heavy post takes some 3 to 4 loose buckets."""
    a = calc("backfill", {"fill": "concrete", "hole_m": 12 * IN, "post_m": 6 * IN, "depth_m": 36 * IN, "count": 8})
    assert a["round_m3"] == pytest.approx(3053.6 * IN**3, rel=1e-4) and a["bags"] == pytest.approx(2.94, abs=0.01)
    assert a["all"]["bags"] == 24 and a["all"]["hole_m3"] == pytest.approx(8 * math.pi / 4 * 12**2 * 36 * IN**3)
    s = calc("backfill", {"fill": "soil_cement", "hole_m": 12 * IN, "post_m": 6 * IN, "depth_m": 36 * IN})
    assert s["cement_kg"] == pytest.approx(0.05004 * 0.1 * 1505, abs=0.01) and s["lifts"] == 6 and s["bags"] == 0
