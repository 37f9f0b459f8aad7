"""GPX 1.0 and 1.1: a track, a route or waypoints in; waypoints out."""

from functools import cache
from xml.etree.ElementTree import Element, ParseError

import gpxpy.gpx
import numpy as np
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring

from gnomonic.core.errors import BadInput
from gnomonic.formats.raw import RawLine, check_world, plain


@cache
def _local(tag: str) -> str:
    return tag.rpartition("}")[2]


def parse_xml(data: bytes, what: str) -> Element:
    """The root of an XML file, with document types and entities refused.  Raises BadInput."""
    try:
        root: Element = fromstring(data, forbid_dtd=True)
    except DefusedXmlException:
        raise BadInput(
            "file", f"{what} declares a document type or entities, which a measured line has no use for: refused"
        ) from None
    except ParseError as error:
        line, column = error.position
        if not data.lstrip(b"\xef\xbb\xbf \r\n\t").startswith(b"<"):
            raise BadInput("file", f"{what} is not GPX: it does not begin as XML does") from None
        raise BadInput(
            "file",
            f"{what} is broken XML at line {line}, column {column + 1}: it may have been cut short; copy it again",
        ) from None
    return root


def _numbers(texts: list[str | None], name: str, item: str) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    """One attribute of all points; heights may be missing (nan).  Raises BadInput naming the first point at fault."""
    values = np.empty(len(texts))
    for k, text in enumerate(texts):
        try:
            values[k] = float(text) if text is not None else np.nan
        except ValueError:
            raise BadInput("file", f"{item} {k + 1} has {name} “{text}”, which is not a number") from None
    missing = np.array([text is None for text in texts])
    if name != "ele" and missing.any():
        raise BadInput("file", f"{item} {int(np.argmax(missing)) + 1} has no {name}")
    wild = ~missing & ~np.isfinite(values)
    if wild.any():
        k = int(np.argmax(wild))
        raise BadInput("file", f"{item} {k + 1} has {name} “{texts[k]}”, which is not a finite number")
    return values


def read_gpx(data: bytes) -> RawLine:
    """Read the first track (all its segments), or else the first route, or else the waypoints in order."""
    root = parse_xml(data, "the file")
    if _local(root.tag) != "gpx":
        raise BadInput("file", f"the file is XML but not GPX: its outermost element is <{_local(root.tag)}>")
    tracks = [c for c in root if _local(c.tag) == "trk"]
    routes = [c for c in root if _local(c.tag) == "rte"]
    waypoints = [c for c in root if _local(c.tag) == "wpt"]
    notes = []
    if tracks:
        segments = [s for s in tracks[0] if _local(s.tag) == "trkseg"]
        points, item = [p for s in segments for p in s if _local(p.tag) == "trkpt"], "track point"
        if len(segments) > 1:
            notes.append(f"the {len(segments)} segments of the track are joined end to end")
    elif routes:
        points, item = [p for p in routes[0] if _local(p.tag) == "rtept"], "route point"
    else:
        points, item = waypoints, "waypoint"
    others = max(0, len(tracks) - 1), max(0, len(routes) - (not tracks)), len(waypoints) if tracks or routes else 0
    for count, one in zip(others, ("track", "route", "waypoint"), strict=True):
        if count:
            notes.append(f"{count} more {one}{'' if count == 1 else 's'} in the file left out")
    if not points:
        raise BadInput("file", "the GPX file holds no track, route or waypoints")
    heights: list[str | None] = []
    names = {}
    for k, point in enumerate(points):
        height = None
        for child in point:
            tag = _local(child.tag)
            if tag == "ele":
                height = child.text
            elif tag == "name" and child.text and item != "track point":
                names[k] = plain(child.text)
        heights.append(height)
    columns = [("lon", [p.get("lon") for p in points]), ("lat", [p.get("lat") for p in points]), ("ele", heights)]
    table = np.column_stack([_numbers(texts, name, item) for name, texts in columns])
    raw = RawLine("gpx", True, table, item, first=1, recorded=item == "track point", names=names, notes=notes)
    check_world(raw)
    return raw


def write_gpx(name: str, waypoints: list[tuple[float, float, float, str, str]]) -> bytes:
    """Waypoints (longitude, latitude, height, name, description) as GPX 1.1."""
    document = gpxpy.gpx.GPX()
    document.name, document.creator = name, "Gnomonic"
    for lon, lat, height, label, words in waypoints:
        document.waypoints.append(
            gpxpy.gpx.GPXWaypoint(round(lat, 9), round(lon, 9), round(height, 3), name=label, description=words)
        )
    return document.to_xml(version="1.1").encode()
