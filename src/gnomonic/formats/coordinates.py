"""Coordinate systems by name: any that pyproj reads, to longitude and latitude and back."""

import warnings

import numpy as np
from pyproj import CRS, Transformer
from pyproj.exceptions import CRSError
from pyproj.transformer import TransformerGroup

from gnomonic.core.errors import BadInput
from gnomonic.formats.raw import Floats

WORLD = "OGC:CRS84"


def system(text: str) -> CRS:
    """A coordinate system from an EPSG code (with or without ``EPSG:``) or WKT.  Raises BadInput (``crs``)."""
    shown = text.strip()
    try:
        return CRS.from_user_input(int(shown) if shown.isdigit() else shown)
    except CRSError:
        name = shown if len(shown) < 40 else "what the file says"
        raise BadInput(
            "crs", f"“{name}” is not a coordinate system that is known: write an EPSG code such as 32626"
        ) from None


def to_degrees(crs: CRS, east: Floats, north: Floats) -> tuple[Floats, Floats, list[str]]:
    """Longitude and latitude, and what is to be said of how exact that is.  Raises BadInput (``crs``)."""
    with warnings.catch_warnings():  # what it warns of is said in the notes
        warnings.simplefilter("ignore", UserWarning)
        group = TransformerGroup(crs, WORLD, always_xy=True)
    lon, lat = group.transformers[0].transform(east, north) if group.transformers else (east * np.inf, north)
    bad = ~(np.isfinite(lon) & np.isfinite(lat))
    if bad.any():
        k = int(np.argmax(bad))
        raise BadInput(
            "crs", f"position {k + 1} ({east[k]:.0f}, {north[k]:.0f}) lies outside of where {crs.name} is used"
        )
    notes = [f"coordinates read as {crs.name}"]
    area = crs.area_of_use
    if area is not None and not (
        area.south <= float(np.median(lat)) <= area.north
        and (float(np.median(lon)) - area.west) % 360 <= (area.east - area.west) % 360
    ):
        notes.append(f"that places the line outside of where {crs.name} is meant to be used: is the code right?")
    accuracy = group.transformers[0].accuracy
    if not group.best_available:
        notes.append("the most exact way to those coordinates needs a grid that is not here" + (f": good to about {accuracy:g} m" if accuracy > 0 else ""))  # fmt: skip
    return np.asarray(lon), np.asarray(lat), notes


def from_degrees(crs: CRS, lon: Floats, lat: Floats) -> tuple[Floats, Floats]:
    """Coordinates in a system from longitude and latitude."""
    east, north = Transformer.from_crs(WORLD, crs, always_xy=True).transform(lon, lat)
    return np.asarray(east), np.asarray(north)


def linear_unit(crs: CRS) -> tuple[str, float]:
    """Name and size (m) of a projected system's unit; degrees give ("degree", 0)."""
    axis = crs.axis_info[0]
    return ("degree", 0.0) if crs.is_geographic else (axis.unit_name, float(axis.unit_conversion_factor))
