"""Coordinate systems by name: any that pyproj reads, to longitude and latitude and back."""

import re
import warnings
from functools import lru_cache

import numpy as np
from pyproj import CRS, Geod, Transformer
from pyproj.exceptions import CRSError
from pyproj.transformer import TransformerGroup

from gnomonic.core.errors import BadInput
from gnomonic.formats.raw import Floats

WORLD = "OGC:CRS84"
CODE = re.compile(r"(?:EPSG:{1,2})?(\d{4,6})", re.ASCII | re.IGNORECASE)
WKT = re.compile(r"\s*(?:GEOGCS|PROJCS|GEOGCRS|GEODCRS|PROJCRS|COMPD_CS|COMPOUNDCRS|BOUNDCRS|GEODETICCRS|PROJECTEDCRS)\s*\[", re.IGNORECASE)  # fmt: skip
MOST_WKT = 20_000
SCALE_OUT = 0.004  # UTM itself is out by 0.0004 at its middle, and by 0.001 at its edge
_ELLIPSOID = Geod(ellps="WGS84")


def system(text: str) -> CRS:
    """A coordinate system from an EPSG code (with or without ``EPSG:``), OGC:CRS84, or the WKT of a file.

    Nothing else that the library would take is let through: no PROJ strings, no files, no grids of one's own.  Raises
    BadInput (``crs``).
    """
    shown = text.strip()
    code = CODE.fullmatch(shown)
    wkt = len(shown) <= MOST_WKT and WKT.match(shown) and not re.search(r"nadgrids=(?!@null)|geoidgrids=", shown)
    try:
        if code:
            return _by_code(int(code.group(1)))
        if shown.upper() == WORLD:
            return CRS.from_user_input(WORLD)
        if wkt:
            return CRS.from_wkt(shown)
    except CRSError:
        pass
    name = shown if len(shown) < 40 else "what the file says"
    raise BadInput("crs", f"“{name}” is not a coordinate system that is known: write an EPSG code such as 32626")


@lru_cache(maxsize=64)
def _by_code(code: int) -> CRS:
    return CRS.from_epsg(code)


@lru_cache(maxsize=16)
def _ways(wkt: str) -> TransformerGroup:
    with warnings.catch_warnings():  # what it warns of is said in the notes
        warnings.simplefilter("ignore", UserWarning)
        return TransformerGroup(CRS.from_wkt(wkt), WORLD, always_xy=True)


def apart_m(lon: Floats, lat: Floats) -> Floats:
    """How far each place (degrees) lies on the ellipsoid from the one before (n − 1,)."""
    return np.asarray(_ELLIPSOID.inv(lon[:-1], lat[:-1], lon[1:], lat[1:])[2])


def length_m(lon: Floats, lat: Floats) -> float:
    """Length on the ellipsoid of a line given in degrees."""
    return float(apart_m(lon, lat).sum())


def degrees(crs: CRS, east: Floats, north: Floats) -> tuple[Floats, Floats]:
    """Longitude and latitude of positions in a system; not finite where it does not reach."""
    group = _ways(crs.to_wkt())
    lon, lat = group.transformers[0].transform(east, north) if group.transformers else (east * np.inf, north)
    return np.asarray(lon), np.asarray(lat)


def to_degrees(crs: CRS, east: Floats, north: Floats) -> tuple[Floats, Floats, list[str]]:
    """Longitude and latitude, and what is to be said of how exact that is.  Raises BadInput (``crs``)."""
    lon, lat = degrees(crs, east, north)
    bad = ~(np.isfinite(lon) & np.isfinite(lat))
    if bad.any():
        k = int(np.argmax(bad))
        raise BadInput(
            "crs", f"position {k + 1} ({east[k]:.6g}, {north[k]:.6g}) lies outside of where {crs.name} is used"
        )
    notes = [f"coordinates read as {crs.name}"]
    if not _used_at(crs, lon, lat):
        notes.append(f"that places the line outside of where {crs.name} is meant to be used: is the code right?")
    unit, factor = linear_unit(crs)
    on_grid = float(np.hypot(np.diff(east), np.diff(north)).sum()) * factor
    on_ground = length_m(lon, lat)
    if unit != "degree" and on_ground > 0 and abs(on_grid / on_ground - 1) > SCALE_OUT:
        notes.append(
            f"in the coordinates of {crs.name} the line is {on_grid:.1f} m long, over the ground there {on_ground:.1f} m: "
            "the ground's length is taken; is the code right?"
        )
    group = _ways(crs.to_wkt())
    accuracy = group.transformers[0].accuracy
    if not group.best_available:
        notes.append("the most exact way to those coordinates needs a grid that is not here" + (f": good to about {accuracy:g} m" if accuracy > 0 else ""))  # fmt: skip
    return lon, lat, notes


def _used_at(crs: CRS, lon: Floats, lat: Floats) -> bool:
    """Whether a system is meant for the middle of these places (where nothing says, it is)."""
    area = crs.area_of_use
    if area is None:
        return True
    east, north = float(np.median(lon)), float(np.median(lat))
    return area.south <= north <= area.north and (east - area.west) % 360 <= (area.east - area.west) % 360


def must_suit(crs: CRS, lon: Floats, lat: Floats) -> None:
    """Raises BadInput (``epsg``) for a projected system meant for elsewhere, whose metres would not be those of the ground."""
    area = crs.area_of_use
    if area is None or crs.is_geographic or _used_at(crs, lon, lat):
        return
    raise BadInput(
        "epsg",
        f"{crs.name} is meant for {area.west:g}° to {area.east:g}° east and {area.south:g}° to {area.north:g}° north; this line "
        f"lies at {float(np.median(lon)):.2f}°, {float(np.median(lat)):.2f}°, where its metres are not those of the ground: "
        "choose a code for the place",
    )


def from_degrees(crs: CRS, lon: Floats, lat: Floats) -> tuple[Floats, Floats]:
    """Coordinates in a system from longitude and latitude."""
    east, north = Transformer.from_crs(WORLD, crs, always_xy=True).transform(lon, lat)
    return np.asarray(east), np.asarray(north)


def linear_unit(crs: CRS) -> tuple[str, float]:
    """Name and size (m) of a projected system's unit; degrees give ("degree", 0)."""
    axis = crs.axis_info[0]
    return ("degree", 0.0) if crs.is_geographic else (axis.unit_name, float(axis.unit_conversion_factor))
