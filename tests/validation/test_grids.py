"""Heights from grids written by rasterio (GDAL), against numpy's own bilinear sum and planes known exactly."""

import numpy as np
import pytest
import rasterio.shutil
from rasterio.io import MemoryFile
from rasterio.transform import from_origin

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import course
from gnomonic.core.ground.mend import drape as lay
from gnomonic.core.job.parts import Frame
from gnomonic.formats.bring_in import bring_in
from gnomonic.formats.grid import drape

CELL = 2.0
LINE = b"easting (m),northing (m),height (m)\n1003.0,2004.0,0\n1043.0,2004.0,0\n1043.0,2034.0,0\n"


def cells(height):
    """Heights at the middles of a 40 x 30 grid whose south-west corner is (1000, 2000)."""
    e = 1000 + CELL * (np.arange(40) + 0.5)
    n = 2000 + CELL * (np.arange(30)[::-1] + 0.5)
    return height(*np.meshgrid(e, n)).astype("float64")


def tiff(values, crs="EPSG:32626", **more):
    with MemoryFile() as file:
        profile = {
            "driver": "GTiff",
            "height": values.shape[0],
            "width": values.shape[1],
            "count": 1,
            "dtype": "float64",
        }
        place = from_origin(1000, 2000 + CELL * 30, CELL, CELL)
        with file.open(**profile, transform=place, crs=crs, **more) as grid:
            grid.write(values, 1)
        return file.read()


def ascii_grid(values):
    with MemoryFile(tiff(values, None)) as file, file.open() as grid, MemoryFile(ext=".asc") as out:
        rasterio.shutil.copy(grid, out.name, driver="AAIGrid")
        return out.read()


@pytest.fixture
def local():
    line = bring_in("a.csv", LINE).line
    return line, course(line)


@pytest.mark.parametrize("kind", ["tif", "asc"])
def test_a_plane_is_met_exactly(local, kind):
    _, walked = local
    values = cells(lambda e, n: 5 + 0.02 * (e - 1000) - 0.01 * (n - 2000))
    data = tiff(values, None) if kind == "tif" else ascii_grid(values)
    found = drape(f"h.{kind}", data, walked, Frame(), {"crs": "local"})
    east, north = walked.places(found.stations_m)
    expected = 5 + 0.02 * (np.array(east) - 1000) - 0.01 * (np.array(north) - 2000)
    assert found.heights_m == pytest.approx(expected, abs=1e-5) and found.cell_m == CELL
    assert "narrower than 4 m" in found.notes[0]
    assert set(walked.stations_m) <= set(found.stations_m)


def test_rough_ground_is_the_bilinear_sum(local):
    _, walked = local
    values = cells(lambda e, n: np.sin(e / 3) + np.cos(n / 5) * 2)
    found = drape("h.tif", tiff(values, None), walked, Frame(), {"crs": "local"})
    for station, height in zip(found.stations_m[::5], found.heights_m[::5], strict=True):
        e, n = walked.place(station)
        x, y = (e - 1001) / CELL, (2059 - n) / CELL
        c, r = int(x), int(y)
        block, fx, fy = values[r : r + 2, c : c + 2], x - c, y - r
        assert height == pytest.approx(np.array([1 - fy, fy]) @ block @ np.array([1 - fx, fx]), abs=1e-9)


def test_a_grid_in_another_system_is_found_by_its_coordinates():
    line = bring_in("a.csv", LINE.replace(b"1003", b"501003").replace(b"1043", b"501043").replace(b"2004", b"5202004").replace(b"2034", b"5202034"), {"crs": "32626"})  # fmt: skip
    line, frame = line.line, line.frame
    values = cells(lambda e, n: 5 + 0.02 * (e - 1000))
    with MemoryFile() as file:
        with file.open(driver="GTiff", height=30, width=40, count=1, dtype="float64", crs="EPSG:32626", transform=from_origin(501000, 5202060, CELL, CELL)) as grid:  # fmt: skip
            grid.write(values, 1)
        data = file.read()
    found = drape("h.tif", data, course(line), frame, {})
    assert found.heights_m[0] == pytest.approx(5.06, abs=1e-4) and found.heights_m[-1] == pytest.approx(5.86, abs=1e-4)
    feet = drape("h.tif", data, course(line), frame, {"heights": "ft"})
    assert feet.heights_m[0] == pytest.approx(5.06 * 0.3048, abs=1e-4)


def test_what_a_line_becomes_under_a_grid(local):
    line, walked = local
    values = cells(lambda e, n: 5 - 1.0 * (abs(e - 1023) < 2))
    found = drape("h.tif", tiff(values, None), walked, Frame(), {"crs": "local"})
    laid = lay(line, found.stations_m.tolist(), found.heights_m.tolist(), found.cell_m, "h.tif").line
    assert laid.grid.cell_m == CELL and not laid.level
    assert min(p.h_m for p in laid.points) == pytest.approx(4, abs=0.01), "the ditch between two points came in"
    assert course(laid).length_m == pytest.approx(walked.length_m)


@pytest.mark.parametrize(
    ("data", "answers", "words"),
    [
        (b"once upon a time", {"crs": "local"}, "is not an Esri ASCII grid or a GeoTIFF"),
        (tiff(cells(lambda e, n: e)[:, :10], None), {"crs": "local"}, "does not cover the line from 18.0 to 70.0 m"),
        (tiff(np.where(cells(lambda e, n: e) > 1030, -9.0, 1.0), None, nodata=-9), {"crs": "local"}, "has no heights under the line from 2"),
        (tiff(cells(lambda e, n: e)), {}, "the line is in local metres of its own and the grid is not"),
        (tiff(cells(lambda e, n: e), None), {"crs": "nowhere"}, "is not a coordinate system"),
    ],
)  # fmt: skip
def test_grids_that_do_not_do(local, data, answers, words):
    _, walked = local
    with pytest.raises(BadInput) as caught:
        drape("h.asc", data, walked, Frame(), answers)
    assert words in caught.value.sentence and "\n" not in caught.value.sentence


def test_a_grid_that_does_not_say_its_coordinates_is_asked_about(local):
    _, walked = local
    found = drape("h.asc", ascii_grid(cells(lambda e, n: e)), walked, Frame(), {})
    assert found.questions[0].key == "crs" and found.questions[0].choices[0][0] == "local"
