"""What Python and the page both work out, held to one table of cases written by hand (``cases_of_both.json``)."""

import json

import numpy as np
import pytest
from places import HOME

from gnomonic.core.ground.bearing import quadrant
from gnomonic.core.ground.profile import Profile
from gnomonic.core.setout.least_cost import Limits
from gnomonic.core.setout.line import measure
from gnomonic.core.units import format_quantity, parse_length_m

CASES = json.loads((HOME / "tests" / "cases_of_both.json").read_text("utf8"))


def test_units_and_bearings():
    assert [format_quantity(v, kind, system) for v, kind, system, _ in CASES["quantity"]] == [
        r[3] for r in CASES["quantity"]
    ]
    for text, bare, metres in CASES["typed"]:
        assert parse_length_m(text, bare) == pytest.approx(metres)
    assert [quadrant(b) for b, _ in CASES["quadrant"]] == [words for _, words in CASES["quadrant"]]
    for east, north, bearing in CASES["bearing"]:
        assert np.degrees(np.arctan2(east, north)) % 360 == pytest.approx(bearing)


def test_the_gap_under_a_bay():
    case = CASES["gap"]
    x, z = np.array(case["ground"]).T
    (bay,) = measure(Profile(x, z), [case["from"], case["to"]], Limits(9.0, case["clear"], 0.0, 0.2, 4.0, 8.0)).bays
    gaps = [g for _, g in case["gaps"]]
    assert (bay.worst_gap_m, bay.least_gap_m) == pytest.approx((max(gaps), min(gaps))) and bay.worst_gap_at_m == 4
