"""Traverses and levels against worked examples of surveying texts.

The traverse of five legs and its compass-rule adjustment: Wolf & Ghilani, Elementary Surveying, chapter 10 (traverse
computations), from memory: figures as printed to 0.01 ft, taken here as metres.  The page of levels is the usual
rise-and-fall page of the same kind of text, from memory.  The closure check is ENGINE §1.
"""

import pytest
from shapely import Polygon

from gnomonic.core.calc import calc

# azimuth (balanced), distance
LEGS = [
    (126 + 55 / 60 + 17 / 3600, 647.25),
    (178 + 18 / 60 + 58 / 3600, 203.03),
    (15 + 31 / 60 + 54 / 3600, 720.35),
    (284 + 35 / 60 + 20 / 3600, 610.24),
    (206 + 9 / 60 + 41 / 3600, 285.13),
]
START = [10000.00, 5000.00]


def wolf():
    legs = [{"bearing_deg": b, "dist_m": d} for b, d in LEGS]
    return calc("traverse", {"legs": legs, "start": START})


def test_misclosure_and_precision():
    answer = wolf()
    assert answer["perimeter_m"] == pytest.approx(2466.00, abs=0.005)
    assert (answer["misclosure_e_m"], answer["misclosure_n_m"]) == pytest.approx((0.026, 0.077), abs=0.006)
    assert answer["misclosure_m"] == pytest.approx(0.08, abs=0.005)
    assert answer["ratio"] == pytest.approx(30_000, rel=0.05)


def test_compass_rule_coordinates_and_area():
    answer = wolf()
    printed = [(10517.45, 4611.18), (10523.42, 4408.22), (10716.29, 5102.26), (10125.73, 5255.93), (10000.0, 5000.0)]
    for found, book in zip(answer["adjusted"][1:], printed, strict=True):
        assert found == pytest.approx(book, abs=0.03)  # the text rounds every latitude and departure to 0.01
    assert answer["area_m2"] == pytest.approx(272_600, rel=0.001)
    assert answer["area_m2"] == pytest.approx(Polygon(answer["adjusted"]).area, rel=1e-12)


def test_the_engines_own_closure_check():
    legs = [{"bearing_deg": b, "dist_m": d} for b, d in ((0, 100), (90, 100), (180, 100.2), (270, 99.9))]
    answer = calc("traverse", {"legs": legs})
    assert (answer["misclosure_e_m"], answer["misclosure_n_m"]) == pytest.approx((0.1, -0.2), abs=1e-9)
    assert round(answer["misclosure_m"], 4) == 0.2236 and round(answer["ratio"]) == 1789
    assert answer["perimeter_m"] == pytest.approx(400.1)


def test_slope_legs_by_angle_and_by_rise():
    by_angle = calc("traverse", {"legs": [{"bearing_deg": 90, "slope_m": 100, "vert_deg": 30}]})
    assert by_angle["perimeter_m"] == pytest.approx(86.6025, abs=1e-4) and by_angle["heights_m"][-1] == pytest.approx(
        50
    )
    by_rise = calc("traverse", {"legs": [{"bearing_deg": 90, "slope_m": 5, "dh_m": -3}]})
    assert by_rise["perimeter_m"] == pytest.approx(4) and by_rise["heights_m"] == [0, -3]


PAGE = [
    {"back_m": 0.663},
    {"inter_m": 1.946},
    {"fore_m": 1.008, "back_m": 1.153},
    {"fore_m": 1.585, "back_m": 2.787},
    {"inter_m": 2.270},
    {"fore_m": 1.218, "back_m": 0.646},
    {"fore_m": 1.418},
]  # a rise-and-fall page; from memory
HEIGHTS = [98.760, 97.477, 98.415, 97.983, 98.500, 99.552, 98.780]


def test_a_page_of_rises_and_falls():
    answer = calc("levels", {"start_rl_m": 98.760, "readings": PAGE})
    assert answer["rl_m"] == pytest.approx(HEIGHTS, abs=5e-4)
    assert [None if r is None else round(r, 3) for r in answer["rise_m"]] == [
        None,
        None,
        0.938,
        None,
        0.517,
        1.052,
        None,
    ]
    assert [None if f is None else round(f, 3) for f in answer["fall_m"]] == [
        None,
        1.283,
        None,
        0.432,
        None,
        None,
        0.772,
    ]
    check = answer["check"]
    assert (check["sum_back"], check["sum_fore"]) == pytest.approx((5.249, 5.229))
    assert check["last_minus_first"] == pytest.approx(0.020) and check["agree"] is True
    assert answer["instrument_m"][0] == pytest.approx(99.423) and answer["instrument_m"][2] == pytest.approx(99.568)
