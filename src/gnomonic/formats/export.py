"""The line out again, in every form it can come in: KML, KMZ, DXF, shapefile, GeoJSON, GPX, CSV, and the field book."""

import csv
import io
from collections.abc import Sequence

import numpy as np
from pyproj import CRS

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.bearing import quadrant
from gnomonic.core.ground.legs import legs
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Plan
from gnomonic.formats.coordinates import from_degrees, must_suit, system
from gnomonic.formats.dxf import write_dxf
from gnomonic.formats.frame import to_world
from gnomonic.formats.gpx import write_track
from gnomonic.formats.kml import write_kml, write_kmz
from gnomonic.formats.shape import write_shapefile

Rows = Sequence[tuple[tuple[float, float, float], str, str]]
FORMS = ("kml", "kmz", "dxf", "shp.zip", "csv", "legs", "gpx")
MEDIA = {
    "kml": "application/vnd.google-earth.kml+xml",
    "kmz": "application/vnd.google-earth.kmz",
    "dxf": "image/vnd.dxf",
    "shp.zip": "application/zip",
    "csv": "text/csv; charset=utf-8",
    "legs": "text/plain; charset=utf-8",
    "gpx": "application/gpx+xml",
}


def export_line(fence: Fence, plan: Plan, form: str, epsg: str = "") -> bytes:
    """The line (and, where the form can, its posts).  ``epsg`` chooses the coordinates of DXF, shapefile and CSV.

    Raises BadInput for a form that needs longitude and latitude on a line without them, or a system not known.
    """
    if form not in FORMS:
        raise BadInput("form", f"there is no {form[:20]}: a line goes out as {', '.join(FORMS)}")
    closed = plan.course.closed
    if form == "legs":
        return _book(fence, plan)
    if form in ("kml", "kmz", "gpx"):
        must_have_degrees(fence, form.upper())
        line, posts = _line(fence, plan, "OGC:CRS84", 9), _posts(fence, plan, "OGC:CRS84", 9)
        if form == "gpx":
            return write_track(fence.name, line)
        kml = write_kml(fence.name, line, False, posts)
        return kml if form == "kml" else write_kmz(kml)
    if epsg and fence.frame.kind == "local":
        raise BadInput("epsg", "this line is in local metres of its own, which no coordinate system can be told from")
    if epsg:
        _suits(fence, plan, epsg)
    where, digits = (epsg, 9 if epsg and system(epsg).is_geographic else 4)
    line, posts = _line(fence, plan, where, digits), _posts(fence, plan, where, digits)
    if form == "dxf":
        return write_dxf(line[:-1] if closed else line, closed, posts)
    if form == "shp.zip":
        prj = system(where).to_wkt("WKT1_ESRI") if where else _local_prj(fence)
        return write_shapefile(line, False, posts, prj)
    return _csv(line, where)


def must_have_degrees(fence: Fence, form: str) -> None:
    """Raises BadInput (``line``) for a line in metres of its own, where a form means longitude and latitude by its numbers."""
    if fence.frame.kind == "local":
        raise BadInput(
            "line",
            f"this line is in local metres of its own, and {form} means longitude and latitude: take DXF, CSV, a shapefile, the "
            "field book or the Job document",
        )


def _suits(fence: Fence, plan: Plan, epsg: str) -> None:
    """Raises BadInput (``epsg``) for a system that is meant for another part of the world."""
    must_suit(system(epsg), *to_world(fence.frame, plan.course.east_m, plan.course.north_m))


def _local_prj(fence: Fence) -> str:
    """The WKT of the job's own grid; none for local metres."""
    frame = fence.frame
    if frame.kind == "local":
        return ""
    own = f"+proj=tmerc +lat_0={frame.lat0_deg!r} +lon_0={frame.lon0_deg!r} +k=1 +x_0=0 +y_0=0 +datum=WGS84 +units=m +type=crs"
    return CRS.from_proj4(own).to_wkt("WKT1_ESRI")


def _places(fence: Fence, east: Sequence[float], north: Sequence[float], where: str) -> tuple[list[float], list[float]]:
    if not where:
        return list(east), list(north)
    lon, lat = to_world(fence.frame, np.asarray(east), np.asarray(north))
    if where != "OGC:CRS84":
        lon, lat = from_degrees(system(where), lon, lat)
    return lon.tolist(), lat.tolist()


def _line(fence: Fence, plan: Plan, where: str, digits: int) -> list[tuple[float, float, float]]:
    """Points of the line; a closed one ends on its first again."""
    course = plan.course
    east, north = _places(fence, course.east_m.tolist(), course.north_m.tolist(), where)
    heights = course.profile.heights_m.tolist()
    return [(round(e, digits), round(n, digits), round(h, 4)) for e, n, h in zip(east, north, heights, strict=True)]


def _posts(fence: Fence, plan: Plan, where: str, digits: int) -> Rows:
    east, north = _places(fence, [p.east_m for p in plan.posts], [p.north_m for p in plan.posts], where)
    return [
        ((round(e, digits), round(n, digits), round(p.ground_m, 4)), p.name, p.kind)
        for e, n, p in zip(east, north, plan.posts, strict=True)
    ]


def _csv(line: Sequence[tuple[float, float, float]], where: str) -> bytes:
    degrees = bool(where) and system(where).is_geographic
    if degrees:
        raise BadInput("epsg", "a table of degrees would not read back as metres: take KML, GeoJSON or GPX for those")
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["easting (m)", "northing (m)", "height (m)"])
    writer.writerows(line)
    return out.getvalue().encode("utf-8")


def _book(fence: Fence, plan: Plan) -> bytes:
    """The field book as written; for a line that has none, one that would measure the same."""
    if fence.line.book is not None and not fence.line.book.mended and fence.line.book.adjust == "none":
        return fence.line.book.text.encode()
    rows = [f"# {fence.name}"]
    for leg in legs(fence.line, plan.course):
        name = f"  @ {leg.name}" if leg.name and leg.to else ""
        rows.append(
            f"{leg.bearing_deg:.5f}  {leg.level_m:.4f} m  {leg.rise_m:+.4f} m{name}  # {quadrant(leg.bearing_deg)}"
        )
    if plan.course.closed:
        rows.append("close")
    return ("\n".join(rows) + "\n").encode()
