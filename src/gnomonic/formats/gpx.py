"""GPX 1.0 and 1.1: a track, a route or waypoints in; waypoints out."""

import re
from collections.abc import Sequence
from functools import cache
from xml.etree.ElementTree import Element, ParseError, fromstring
from xml.parsers.expat import ExpatError, ParserCreate

import gpxpy.gpx
import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import MOST_XML_ELEMENTS
from gnomonic.formats.raw import Floats, RawLine, Shape, gathered, plain
from gnomonic.formats.reading import not_more

LONG = 5000
NO_LINE = "the line has only one point; a fence needs two at least"
_POINT = re.compile(
    rb'<trkpt\s+lat="([^"<>&]*)"\s+lon="([^"<>&]*)"\s*>\s*<ele>([^<&]*)</ele>\s*(?:<time>[^<&]*</time>\s*)?</trkpt>\s*'
)
_NO_XML = re.compile("[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")


@cache
def local_tag(tag: str) -> str:
    """An element's name without its namespace."""
    return tag.rpartition("}")[2]


def check_xml(data: bytes, what: str, form: str = "GPX") -> None:
    """The file is well-formed XML without a document type (and so without entities).  Raises BadInput."""
    not_more(data.count(b"<") - data.count(b"</"), MOST_XML_ELEMENTS, "elements")
    guard = ParserCreate()
    guard.StartDoctypeDeclHandler = _refuse
    try:
        guard.Parse(data, True)
    except _Declares:
        raise BadInput(
            "file", f"{what} declares a document type or entities, which a measured line has no use for: refused"
        ) from None
    except ExpatError as error:
        if not data.lstrip(b"\xef\xbb\xbf \r\n\t").startswith(b"<"):
            raise BadInput("file", f"{what} is not {form}: it does not begin as XML does") from None
        raise BadInput(
            "file",
            f"the {form} file is broken XML at line {error.lineno}, column {error.offset + 1}: it may have been cut short; "
            "copy it again",
        ) from None
    except (LookupError, ValueError):
        raise BadInput("file", f"{what} is XML in an encoding that can't be read: save it as UTF-8") from None


def parse_xml(data: bytes, what: str, form: str = "GPX") -> Element:
    """The root of an XML file that has been checked.  Raises BadInput."""
    check_xml(data, what, form)
    try:
        return fromstring(data)
    except (ParseError, LookupError, ValueError):
        raise BadInput("file", f"{what} is XML in an encoding that can't be read: save it as UTF-8") from None


class _Declares(Exception):
    """The file declares a document type."""


def _refuse(*_: object) -> None:
    raise _Declares


def _numbers(texts: list[str | None], name: str, item: str) -> Floats:
    """One attribute of all points; heights may be missing (nan).  Raises BadInput naming the first point at fault."""
    try:
        values = np.array([np.nan if text is None else float(text) for text in texts])
    except ValueError:
        k = next(k for k, text in enumerate(texts) if text is not None and not _reads(text))
        raise BadInput("file", f"{item} {k + 1} has {name} “{texts[k]}”, which is not a number") from None
    wild = np.flatnonzero(~np.isfinite(values))
    for k in wild.tolist():
        if texts[k] is not None:
            raise BadInput("file", f"{item} {k + 1} has {name} “{texts[k]}”, which is not a finite number")
        if name != "ele":
            raise BadInput("file", f"{item} {k + 1} has no {name}")
    return values


def _reads(text: str) -> bool:
    try:
        float(text)
    except ValueError:
        return False
    return True


def read_gpx(data: bytes) -> RawLine:
    """Read every track (its segments joined) and every route; where there is neither, the waypoints in order."""
    if (table := _long_track(data)) is not None:
        return gathered("gpx", True, [Shape("track", "", table, recorded=True, item="track point")], NO_LINE)
    root = parse_xml(data, "the file")
    if local_tag(root.tag) != "gpx":
        raise BadInput("file", f"the file is XML but not GPX: its outermost element is <{local_tag(root.tag)[:40]}>")
    notes, shapes = [], []
    for track in (c for c in root if local_tag(c.tag) == "trk"):
        segments = [s for s in track if local_tag(s.tag) == "trkseg"]
        points = [p for s in segments for p in s if local_tag(p.tag) == "trkpt"]
        table = _table(points, "track point")
        shapes.append(Shape("track", _name(track), table, recorded=True, item="track point"))
        if len(segments) > 1:
            notes.append(f"the {len(segments)} segments of the track are joined end to end")
    routes = [c for c in root if local_tag(c.tag) == "rte"]
    waypoints = [c for c in root if local_tag(c.tag) == "wpt"]
    for route in routes:
        points = [p for p in route if local_tag(p.tag) == "rtept"]
        table = _table(points, "route point")
        shapes.append(Shape("route", _name(route), table, names=_names(points), item="route point"))
    if not shapes and waypoints:
        shapes.append(Shape("waypoints", "", _table(waypoints, "waypoint"), names=_names(waypoints), item="waypoint"))
    elif waypoints:
        notes.append(f"{len(waypoints)} waypoint{'' if len(waypoints) == 1 else 's'} in the file left out")
    if not any(len(s.table) for s in shapes):
        raise BadInput("file", "the GPX file holds no track, route or waypoints")
    return gathered("gpx", True, shapes, NO_LINE, notes=notes)


def _long_track(data: bytes) -> Floats | None:
    """The table of a file that is one recorded track of plain points, without building its tree: three times as fast.

    Each point taken out is well-formed by its pattern, and so is the file when what is left of it is; any other file
    gives None and is read the long way, which also finds what is wrong with it.
    """
    if data.count(b"<trkpt") < LONG:
        return None
    parts = _POINT.split(data)
    head, tail = parts[0], parts[-1]
    left = head + tail
    whole = len(parts) > 4 * LONG and not any(parts[4:-1:4]) and head.rstrip().endswith(b"<trkseg>")
    if not whole or any(word in left for word in (b"<trkpt", b"<!", b"<wpt", b"<rte")) or left.count(b"<trk>") != 1:
        return None
    try:
        check_xml(left, "the file")
        values = np.array([float(v) for k in (2, 1, 3) for v in parts[k::4]]).reshape(3, -1).T
    except (BadInput, ValueError):
        return None
    return np.ascontiguousarray(values) if np.isfinite(values).all() else None


def _table(points: list[Element], item: str) -> Floats:
    if not points:
        return np.empty((0, 3))
    space = points[0].tag.rpartition("}")[0]
    ele = f"{space}}}ele" if space else "ele"
    columns = [
        ("lon", [p.get("lon") for p in points]),
        ("lat", [p.get("lat") for p in points]),
        ("ele", [p.findtext(ele) for p in points]),
    ]
    return np.column_stack([_numbers(texts, name, item) for name, texts in columns])


def _name(element: Element) -> str:
    return next((plain(c.text) for c in element if local_tag(c.tag) == "name" and c.text), "")


def _names(points: list[Element]) -> dict[int, str]:
    return {k: name for k, p in enumerate(points) if (name := _name(p))}


def xml_text(text: str) -> str:
    """A name without the characters that XML can't hold (control characters, half pairs, U+FFFE and U+FFFF)."""
    return _NO_XML.sub("", text)


def write_track(name: str, places: Sequence[Sequence[float]]) -> bytes:
    """A line (longitude, latitude, height) as one GPX 1.1 track."""
    document = gpxpy.gpx.GPX()
    document.creator = "Gnomonic"
    segment = gpxpy.gpx.GPXTrackSegment([gpxpy.gpx.GPXTrackPoint(lat, lon, height) for lon, lat, height in places])
    document.tracks.append(gpxpy.gpx.GPXTrack(xml_text(name)))
    document.tracks[0].segments.append(segment)
    return document.to_xml(version="1.1").encode()


def write_gpx(name: str, waypoints: list[tuple[float, float, float, str, str]]) -> bytes:
    """Waypoints (longitude, latitude, height, name, description) as GPX 1.1."""
    document = gpxpy.gpx.GPX()
    document.name, document.creator = xml_text(name), "Gnomonic"
    for lon, lat, height, label, words in waypoints:
        document.waypoints.append(
            gpxpy.gpx.GPXWaypoint(
                round(lat, 9), round(lon, 9), round(height, 3), name=xml_text(label), description=xml_text(words)
            )
        )
    return document.to_xml(version="1.1").encode()
