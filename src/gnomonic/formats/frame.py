"""Longitude and latitude to local metres and back: a transverse Mercator grid about the line's own middle."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from pyproj import Transformer

from gnomonic.core.job.parts import Frame, MeasuredLine

Floats = NDArray[np.float64]


@lru_cache(maxsize=64)
def _grid(lon0_deg: float, lat0_deg: float) -> Transformer:
    local = f"+proj=tmerc +lat_0={lat0_deg!r} +lon_0={lon0_deg!r} +k=1 +x_0=0 +y_0=0 +ellps=WGS84 +units=m +no_defs"
    return Transformer.from_crs("OGC:CRS84", local, always_xy=True)


def frame_about(lon_deg: Floats, lat_deg: Floats) -> Frame:
    """A frame whose origin is the middle of the given points, to six decimals of a degree."""
    lon = (float(lon_deg.min()) + float(lon_deg.max())) / 2
    lat = (float(lat_deg.min()) + float(lat_deg.max())) / 2
    return Frame(kind="geographic", lon0_deg=round(lon, 6), lat0_deg=round(lat, 6))


def to_local(frame: Frame, lon_deg: Floats, lat_deg: Floats) -> tuple[Floats, Floats]:
    """East and north in metres."""
    assert frame.lon0_deg is not None and frame.lat0_deg is not None
    return _grid(frame.lon0_deg, frame.lat0_deg).transform(lon_deg, lat_deg)


def to_world(frame: Frame, east_m: Floats, north_m: Floats) -> tuple[Floats, Floats]:
    """Longitude and latitude in degrees (WGS 84)."""
    assert frame.lon0_deg is not None and frame.lat0_deg is not None
    return _grid(frame.lon0_deg, frame.lat0_deg).transform(east_m, north_m, direction="INVERSE")


def reframed(line: MeasuredLine, was: Frame, now: Frame) -> MeasuredLine:
    """A measured line in another frame: through longitude and latitude between two geographic ones, else as it is."""
    if was == now or was.kind == "local":
        return line
    lon, lat = to_world(was, np.array([p.e_m for p in line.points]), np.array([p.n_m for p in line.points]))
    east, north = to_local(now, lon, lat)
    points = tuple(
        p.model_copy(update={"e_m": round(e, 6), "n_m": round(n, 6)})
        for p, e, n in zip(line.points, east.tolist(), north.tolist(), strict=True)
    )
    return line.model_copy(update={"points": points})
