"""Height grids: Esri ASCII and GeoTIFF, read by rasterio, laid under a line."""

import re
from dataclasses import dataclass
from typing import Any

import numpy as np
from pyproj import CRS

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import Course
from gnomonic.core.ground.measuring import rule
from gnomonic.core.ground.profile import HIGHEST_M, LOWEST_M, STEEP_HALF, half_slope
from gnomonic.core.ground.simplify import simplify
from gnomonic.core.job.parts import Frame
from gnomonic.core.limits import MB, MOST_CELLS, MOST_GRID_BYTES
from gnomonic.core.units import FOOT_M
from gnomonic.formats.coordinates import from_degrees, linear_unit, system
from gnomonic.formats.frame import to_world
from gnomonic.formats.raw import Floats, Question
from gnomonic.formats.reading import not_more, reading

MOST_STATIONS = 50_000
BREAK_M = 0.02
TIFF = (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+")
_HEAD = re.compile(rb"(?:[ \t]*[A-Za-z_]+[ \t]+\S+[ \t]*\r?\n)+")
UNITS_M = {"m": 1.0, "ft": FOOT_M, "cm": 0.01, "mm": 0.001}
METRES_A_DEGREE = 111_320.0


@dataclass(frozen=True, slots=True)
class Draped:
    """Heights under a line: stations (rising, every point's own among them), heights, the grid's cell (m), notes."""

    stations_m: Floats
    heights_m: Floats
    cell_m: float
    notes: tuple[str, ...]
    questions: tuple[Question, ...] = ()


def drape(name: str, data: bytes, line: Course, frame: Frame, answers: dict[str, str]) -> Draped:
    """Heights of a grid under a line, bilinear between cell middles, with the breaks a walk along it would feel.

    ``answers``: ``crs`` (an EPSG code, or local for the line's own metres) where the grid does not say it, ``heights``
    m | ft | cm | mm.  Raises BadInput (``grid``) where the file is no grid or does not cover the line.
    """
    import rasterio
    from rasterio.errors import RasterioError
    from rasterio.io import MemoryFile

    if len(data) > MOST_GRID_BYTES:
        raise BadInput(
            "grid", f"the grid is larger than {MOST_GRID_BYTES / MB:.0f} MB: cut it to the line's surroundings"
        )
    if not data.strip():
        raise BadInput("grid", "the grid is empty")
    ending = ".tif" if data[:4] in TIFF else ".asc"
    if ending == ".asc":
        _numbers_only(data)
    with reading("height grid", "heights", "grid"):
        try:
            with (
                rasterio.Env(GDAL_DISABLE_READDIR_ON_OPEN="EMPTY_DIR"),
                MemoryFile(data, ext=ending) as file,
                file.open(driver="GTiff" if ending == ".tif" else "AAIGrid") as grid,
            ):
                _could_hold(grid, len(data))
                return _laid(grid, line, frame, answers)
        except (RasterioError, rasterio.errors.CRSError):
            raise BadInput("grid", f"“{name[:80]}” is not an Esri ASCII grid or a GeoTIFF that can be read") from None


def _could_hold(grid: Any, size: int) -> None:
    """Raises BadInput (``grid``) where a header says more cells than the file can hold, or than are read at once."""
    if grid.driver == "AAIGrid" and grid.width * grid.height > size:
        raise BadInput(
            "grid",
            f"the grid says it has {grid.height:,} rows of {grid.width:,} cells, which the file is too short for",
        )
    not_more(int(np.prod(grid.block_shapes[0])), MOST_CELLS, "cells in one block", "grid")


def _numbers_only(data: bytes) -> None:
    """The library reads a word among the heights of an ASCII grid as 0: it is refused.  Raises BadInput (``grid``)."""
    head = _HEAD.match(data)
    body = data[head.end() :] if head else b""
    odd = body.translate(None, b"0123456789+-.eE \t\r\n")
    if odd:
        at = body.index(odd[:1])
        row = len([r for r in body[:at].split(b"\n")[:-1] if r.strip()]) + 1
        start, words = max(body.rfind(c, 0, at) for c in b" \t\r\n") + 1, body[at : at + 200].split()
        word = (body[start:at] + (words[0] if words else b"")).decode("utf-8", "replace")
        raise BadInput("grid", f"row {row} of the grid’s heights has “{word}”, which is not a number")


def _laid(grid: Any, line: Course, frame: Frame, answers: dict[str, str]) -> Draped:
    """Heights of an open grid under a line, or what is to be asked first."""
    said = answers.get("crs", "").strip()
    crs = CRS.from_wkt(grid.crs.to_wkt()) if grid.crs else None
    across = (abs(grid.transform.a), abs(grid.transform.e))
    if not all(np.isfinite(v) and v > 0 for v in across) or not all(np.isfinite(v) for v in grid.transform):
        raise BadInput("grid", "the grid's cells have no size: its cellsize must be larger than 0")
    if crs is None and not said:
        return _ask(line)
    if crs is None and said != "local":
        crs = system(said)
    if frame.kind == "local" and crs is not None and said != "local":
        raise BadInput(
            "grid",
            "the line is in local metres of its own and the grid is not: bring the line in with its "
            "coordinates, or say that both share the same metres",
        )
    cell, stations = _stations(grid, crs, line)
    east, north = (np.array(v) for v in line.places(stations))
    if crs is not None and frame.kind == "geographic":
        east, north = from_degrees(crs, *to_world(frame, east, north))
    heights = _sampled(grid, east, north, stations)
    low, high = float(heights.min()), float(heights.max())
    factor = UNITS_M.get(answers.get("heights", ""), 1.0)
    if low * factor < LOWEST_M or high * factor > HIGHEST_M:
        return _what_are_they(line, low, high, "no ground is that high in metres", sure=True)
    if answers.get("heights", "") not in UNITS_M and (doubt := _doubt(line, frame, stations, heights)):
        return _what_are_they(line, low, high, doubt)
    heights = heights * factor
    notes = [
        f"heights from a grid of {cell:.2f} m cells: a ditch, rut or bank narrower than {2 * cell:.2g} m is not in it",
        f"between cell middles the ground is taken as even: a gap figure can be out by what a {cell:.2g} m cell hides",
    ]
    keep = np.union1d(_own(stations, line), simplify(np.column_stack([stations, 0 * stations, heights]), BREAK_M))
    return Draped(stations[keep], heights[keep], cell, tuple(notes))


def _doubt(line: Course, frame: Frame, stations: Floats, heights: Floats) -> str:
    """Why a grid's numbers may be no metres; empty where nothing speaks against it."""
    if heights.max() > rule("highest_fence_m"):
        return "no fence stands that high in metres"
    measured = line.profile.heights_m
    if frame.kind == "geographic" and np.ptp(measured) > 0:
        mine, its = float(np.median(measured)), float(np.median(heights))
        if abs(mine - its) > rule("datums_apart_m"):
            return f"the line was measured at {mine:,.0f} m"
    apart = np.diff(stations)
    steep = half_slope(apart[apart > 0], np.diff(heights)[apart > 0])
    return f"half the line would be steeper than {steep * 100:.0f} %" if steep > STEEP_HALF else ""


def _what_are_they(line: Course, low: float, high: float, why: str, sure: bool = False) -> Draped:
    """The question where a grid's numbers can't be (``sure``), or hardly are, heights in metres."""
    text = f"Under the line the grid's numbers run from {low:,.0f} to {high:,.0f}: {why}. What are they?"
    choices = (("m", "metres, as they stand"), ("ft", "feet"), ("cm", "centimetres"), ("mm", "millimetres"))
    question = Question("heights", text, choices[1:] if sure else choices)
    return Draped(line.stations_m, line.profile.heights_m, 0.0, (), (question,))


def _ask(line: Course) -> Draped:
    question = Question(
        "crs",
        "The grid does not say what its coordinates are: which are they?",
        (("local", "the same metres as the line’s"),),
        typed="EPSG code, such as 32626",
    )
    return Draped(line.stations_m, line.profile.heights_m, 0.0, (), (question,))


def _stations(grid: Any, crs: CRS | None, line: Course) -> tuple[float, Floats]:
    """The grid's cell in metres, and stations every half cell with the line's own."""
    across = float(max(abs(grid.transform.a), abs(grid.transform.e)))
    unit = 1.0 if crs is None else linear_unit(crs)[1]
    cell = across * (unit if unit else METRES_A_DEGREE)
    step = max(cell / 2, line.length_m / MOST_STATIONS, 0.05)
    between = np.linspace(0, line.length_m, max(2, int(np.ceil(line.length_m / step)) + 1))
    own = line.stations_m
    after = np.clip(np.searchsorted(own, between), 0, len(own) - 1)
    near = np.abs(between - own[after]) < 0.01
    near |= np.abs(between - own[np.clip(np.searchsorted(own, between) - 1, 0, len(own) - 1)]) < 0.01
    return cell, np.union1d(own, between[~near])


def _own(stations: Floats, line: Course) -> "np.ndarray[tuple[int], np.dtype[np.intp]]":
    return np.flatnonzero(np.isin(stations, line.stations_m))


def _sampled(grid: Any, east: Floats, north: Floats, stations: Floats) -> Floats:
    """Bilinear heights between cell middles.  Raises BadInput naming the stations that are not covered."""
    back = ~grid.transform
    x = back.a * east + back.b * north + back.c - 0.5
    y = back.d * east + back.e * north + back.f - 0.5
    width, height = grid.width, grid.height
    # half a cell at the border has no neighbour: the border cell's own height holds there
    outside = (x < -0.5 - 1e-6) | (y < -0.5 - 1e-6) | (x > width - 0.5 + 1e-6) | (y > height - 0.5 + 1e-6)
    _covered(outside, stations, "the grid does not cover the line")
    x, y = np.clip(x, 0, width - 1), np.clip(y, 0, height - 1)
    c0, r0 = (
        np.clip(np.floor(x).astype(int), 0, max(width - 2, 0)),
        np.clip(np.floor(y).astype(int), 0, max(height - 2, 0)),
    )
    (a, b), (c, d) = (int(r0.min()), int(r0.max()) + 2), (int(c0.min()), int(c0.max()) + 2)
    window = ((a, min(b, height)), (c, min(d, width)))
    not_more((b - a) * (d - c), MOST_CELLS, "cells round the line", "grid")
    cells = grid.read(1, window=window, masked=True).astype(np.float64).filled(np.nan)
    j0, i0 = r0 - a, c0 - c
    j1, i1 = np.minimum(j0 + 1, cells.shape[0] - 1), np.minimum(i0 + 1, cells.shape[1] - 1)
    fx, fy = x - c0, y - r0
    corners = [(j0, i0, (1 - fx) * (1 - fy)), (j0, i1, fx * (1 - fy)), (j1, i0, (1 - fx) * fy), (j1, i1, fx * fy)]
    heights = np.zeros(len(stations))
    for j, i, share in corners:
        heights += np.where(share > 1e-12, cells[j, i] * np.where(share > 1e-12, share, 1.0), 0.0)
    _covered(~np.isfinite(heights), stations, "the grid has no heights under the line")
    return heights


def _covered(missing: "np.ndarray[tuple[int], np.dtype[np.bool_]]", stations: Floats, what: str) -> None:
    """Raises BadInput with the stretches that are missing."""
    if not missing.any():
        return
    edges = np.flatnonzero(np.diff(np.concatenate([[0], missing.view(np.int8), [0]])))
    spans = [(stations[a], stations[b - 1]) for a, b in zip(edges[::2], edges[1::2], strict=True)]
    said = ", ".join(f"{a:.1f} m" if b - a < 0.05 else f"{a:.1f} to {b:.1f} m" for a, b in spans[:3])
    more = f" and {len(spans) - 3} more stretches" if len(spans) > 3 else ""
    raise BadInput("grid", f"{what} from {said}{more}: bring a larger one in")
