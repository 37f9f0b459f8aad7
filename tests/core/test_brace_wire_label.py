"""Braces, wire and labels: worked values and refusals."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from gnomonic.core.brace.statics import h_brace
from gnomonic.core.calc import calc
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.fabrics import fabrics
from gnomonic.core.fabric.wire import Crimped, bar_strain, cold_n

H = {"type": "h", "pull_n": 4000, "pull_height_m": 0.9, "rail_height_m": 1.05, "spacing_m": 2.4}
D = {"type": "diagonal", "pull_n": 1000, "pull_height_m": 0.9, "strut_height_m": 1.0}


@pytest.mark.parametrize(("spacing", "uplift"), [(1.8, 2000), (2.4, 1500), (3.0, 1200)])
def test_h_brace_closed_form(spacing, uplift):
    b = calc("brace", {**H, "spacing_m": spacing})
    assert b["end_post_uplift_n"] == pytest.approx(uplift) and b["rail_n"] == pytest.approx([3428.571], abs=1e-3)
    assert b["stands"] and b["first_panel_share"] == 1 and b["base_shear_n"] == 4000
    if spacing == 2.4:
        assert b["wire_n"] == pytest.approx([3742.3], abs=0.05)


def test_two_panels_share_by_stiffness():
    b = calc("brace", {**H, "panels": 2})
    assert b["first_panel_share"] == pytest.approx(0.64, abs=0.005)
    assert b["uplift_equal_sharing_n"] == 750
    assert b["end_post_uplift_n"] == pytest.approx(1500 * b["first_panel_share"])
    soft_wire = calc("brace", {**H, "panels": 2, "ea_rail_n": 8e7, "ea_wire_n": 8e6})
    assert soft_wire["first_panel_share"] == pytest.approx(0.52, abs=0.01)


def test_wire_on_the_wrong_diagonal():
    b = calc("brace", {**H, "wire": "wrong"})
    assert b["stands"] is False and b["wire_n"] == [0] and b["rail_n"] is None and "slack" in b["why"][0]["working"]


@given(st.floats(0.4, 1.4), st.integers(1, 5), st.floats(0.01, 10))
def test_any_h_brace_is_in_balance(wire_height, panels, ratio):
    b = h_brace(4000, 0.9, 1.05, 2.4, panels, wire_height_m=wire_height, ea_ratio=ratio)
    assert sum(b.foot_shear_n) == pytest.approx(4000) and sum(b.wire_share) == pytest.approx(1)
    assert list(b.rail_n) == sorted(b.rail_n, reverse=True)


def test_lower_wire_pulls_harder_for_the_same_uplift():
    low = calc("brace", {**H, "wire_height_m": 0.8})
    assert low["wire_n"][0] == pytest.approx(4000 * 0.9 / 0.8 * (1 + (0.8 / 2.4) ** 2) ** 0.5)
    assert low["end_post_uplift_n"] == pytest.approx(1500)


@pytest.mark.parametrize(("tie", "tie_n", "out"), [("none", 0, 900), ("foot", 900, 0), ("mid", 1272.79, 0)])
def test_diagonal(tie, tie_n, out):
    d = calc("brace", {**D, "angle_deg": 45, "tie": tie})
    assert d["reach_m"] == pytest.approx(1.0) and d["strut_n"] == pytest.approx(1272.79, abs=0.01)
    assert d["tie_n"] == pytest.approx(tie_n, abs=0.01) and d["foot_reaction_n"] == pytest.approx([out, 900])
    assert d["end_post_uplift_n"] == pytest.approx(900)


@pytest.mark.parametrize(
    ("data", "field"),
    [
        ({**H, "pull_n": -1}, "pull_n"),
        ({**H, "panels": 0}, "panels"),
        ({**H, "ea_rail_n": 1e7}, "ea_wire_n"),
        ({**H, "type": "box"}, "type"),
        ({k: v for k, v in H.items() if k != "spacing_m"}, "spacing_m"),
        ({**H, "railheight": 1}, "railheight"),
        (D, "reach_m"),
        ({**D, "reach_m": 1.0, "angle_deg": 45}, "reach_m"),
        ({**D, "angle_deg": 90}, "angle_deg"),
        ([], ""),
    ],
)
def test_brace_refusals(data, field):
    with pytest.raises(BadInput) as caught:
        calc("brace", data)
    assert caught.value.field == field


def test_tension_curve_figures():
    thick, thin = Crimped(0.00251, 0.004, 0.1524), Crimped(0.00193, 0.004, 0.1524)
    assert thin.half_n == pytest.approx(231.5, abs=0.05) and thin.out(thin.half_n) == 0.5
    assert thin.strain(231.5) == pytest.approx(0.005495, abs=1e-6)
    # the wires share one strain: less than half in every wire is 2801 N, not 2945 N
    nine = [thick] * 2 + [thin] * 7
    assert sum(w.tension_n(bar_strain(nine)) for w in nine) == pytest.approx(2801, abs=1.5)
    assert [round(cold_n(thick, thick.half_n, drop)) for drop in (-30, -20, 40)] == [572, 600, 808]


def test_a_high_tensile_fabric_is_pulled_to_its_working_tension_not_to_its_stays():
    """Common practice: 200 to 250 lb a 12½ gauge high-tensile wire; its curve is about 120 mm long whatever the stays are.
    Taking 12 in stays for it gave 37 lb.  A hinge-joint fabric of 12½ outer and 14½ filler wires: 662 and 231 N at half."""
    for label in ("13-48-12", "9-49-12"):
        strong = fabrics()[label]
        assert all(200 <= t / 4.44822 <= 250 for t in strong.wires_n), label
        assert strong.pull_n == pytest.approx(strong.wires * 1000, rel=0.01)
    light = fabrics()["9-49-6"]
    assert light.pull_n == pytest.approx(2 * 664 + 7 * 229, rel=0.06)
    assert light.wires_n[0] > 2 * light.wires_n[1]


def test_gauge():
    g = calc("gauge", {"gauge": 12.5})
    assert (
        g["inch"] == 0.099 and g["m"] == pytest.approx(0.0025146) and g["ea_n"] == pytest.approx(200e9 * g["area_m2"])
    )
    assert calc("gauge", {"gauge": 11.5})["inch"] == pytest.approx((0.1205 + 0.1055) / 2)


@pytest.mark.parametrize("number", [12.3, -1, 21, float("inf"), "12", None])
def test_gauge_refusals(number):
    with pytest.raises(BadInput) as caught:
        calc("gauge", {"gauge": number})
    assert caught.value.field == "gauge"


@pytest.mark.parametrize(
    ("text", "expected"),
    [
        ("9-49-6", {"kind": "woven", "line_wires": 9, "height_in": 49, "stay_in": 6}),
        ("949-6", {"kind": "woven", "line_wires": 9, "height_in": 49, "stay_in": 6}),
        ("1348-12", {"kind": "woven", "line_wires": 13, "height_in": 48, "stay_in": 12}),
        ("2096-6", {"kind": "woven", "line_wires": 20, "height_in": 96, "stay_in": 6}),
        ("  13 – 48 — 4 ", {"kind": "woven", "line_wires": 13, "height_in": 48, "stay_in": 4}),
        ('9−49″-6"', {"kind": "woven", "line_wires": 9, "height_in": 49, "stay_in": 6}),
        ("12½/14½", {"kind": "gauge_pair", "outer_gauge": 12.5, "filler_gauge": 14.5}),
        ("12 1/2/14 1/2", {"kind": "gauge_pair", "outer_gauge": 12.5, "filler_gauge": 14.5}),
        ("12.5/14.5 ga", {"kind": "gauge_pair", "outer_gauge": 12.5, "filler_gauge": 14.5}),
        ("10/12½", {"kind": "gauge_pair", "outer_gauge": 10, "filler_gauge": 12.5}),
        ("48-11-2", {"kind": "chain_link", "height_in": 48, "gauge": 11, "diamond_in": 2}),
        ("72-11½-2 1/4", {"kind": "chain_link", "height_in": 72, "gauge": 11.5, "diamond_in": 2.25}),
    ],
)
def test_labels(text, expected):
    answer = calc("label", {"label": text})
    assert {k: answer[k] for k in expected} == expected and answer["words"]


@pytest.mark.parametrize(
    "text", ["", "fence", "9-49", "0-49-6", "9-4900-6", "14/9", "99-99-99", "949-", "2-48-6", "9-49-0", "1/0/2"]
)
def test_label_refusals(text):
    with pytest.raises(BadInput) as caught:
        calc("label", {"label": text})
    assert caught.value.field == "label"


def test_a_label_that_reads_two_ways_is_refused_with_both(monkeypatch):
    monkeypatch.setattr("gnomonic.core.fabric.label.WIRES", (1, 130))  # no label made today reads two ways
    monkeypatch.setattr("gnomonic.core.fabric.label.WIRE_APART_IN", (0.1, 14.0))
    with pytest.raises(BadInput, match=r"reads two ways: .*12 line wires, 120 in.*; or .*121 line wires, 20 in"):
        calc("label", {"label": "12120-6"})
