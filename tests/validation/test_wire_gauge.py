"""Steel Wire Gauge diameters against the table in the general engineering library ``fluids`` (schedule SWG, there
after Machinery's Handbook, Industrial Press, 2012).  Half gauges are not in it."""

import pytest
from fluids.piping import t_from_gauge

from gnomonic.core.fabric.wire import STEEL_WIRE_GAUGE_IN, gauge


@pytest.mark.parametrize("number", [g for g in STEEL_WIRE_GAUGE_IN if g == int(g) and g >= 1])
def test_whole_gauges(number):
    assert gauge(number).inch == pytest.approx(t_from_gauge(number, SI=False, schedule="SWG"), abs=5e-5)


def test_half_gauge_printed_by_the_trade_lies_by_its_neighbours_mean():
    mean = (t_from_gauge(12, SI=False, schedule="SWG") + t_from_gauge(13, SI=False, schedule="SWG")) / 2
    assert gauge(12.5).inch == 0.0990  # common practice
    assert gauge(12.5).inch == pytest.approx(mean, abs=0.0006)
