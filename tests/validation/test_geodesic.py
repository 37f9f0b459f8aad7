"""Lengths on the local grid against geodesics on WGS 84 by pyproj.Geod (GeographicLib), and the line's own way back."""

import json

import numpy as np
import pytest
from pyproj import Geod

from gnomonic.formats.bring_in import bring_in
from gnomonic.formats.frame import to_world


@pytest.mark.parametrize("lat", [-62.0, -1.0, 0.0, 35.0, 71.0])
def test_length_and_return(lat):
    lons, lats = np.array([-30.0, -29.991, -29.985]), np.array([lat, lat + 0.004, lat + 0.001])
    line = {"type": "LineString", "coordinates": [[a, b, 5.0] for a, b in zip(lons, lats, strict=True)]}
    brought = bring_in("x.geojson", json.dumps(line).encode())
    geodesic = Geod(ellps="WGS84").line_length(lons, lats)
    assert brought.course.length_m == pytest.approx(geodesic, rel=1e-6)
    back = to_world(brought.frame, brought.course.east_m, brought.course.north_m)
    assert np.allclose(back, [lons, lats], atol=2e-11, rtol=0)
