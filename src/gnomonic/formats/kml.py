"""KML 2.x and KMZ: LineStrings and Polygon outlines in; a line with its posts out.

Read with the same guarded parser as GPX: the KML library at hand drops shapes it can't read without a word.
"""

from collections.abc import Iterator, Sequence
from xml.etree.ElementTree import Element, SubElement, tostring

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import MOST_POINTS
from gnomonic.formats.gpx import local_tag, parse_xml, xml_text
from gnomonic.formats.raw import Floats, RawLine, Shape, gathered, plain
from gnomonic.formats.reading import not_more
from gnomonic.formats.zipped import members

NAMESPACE = "http://www.opengis.net/kml/2.2"


ROOTS = ("kml", "Document", "Folder", "Placemark")


def read_kmz(data: bytes) -> RawLine:
    """The first KML document of a KMZ.  Raises BadInput."""
    found = members(data, "the KMZ", (".kml",))
    if not found:
        raise BadInput("file", "the KMZ holds no KML document")
    return read_kml(next(iter(found.values())))


def read_kml(data: bytes) -> RawLine:
    """Every LineString and Polygon outline of a KML document, or of a part of one, with or without its namespace."""
    root = parse_xml(data, "the file", "KML")
    if local_tag(root.tag) not in ROOTS:
        raise BadInput("file", f"the file is XML but not KML: its outermost element is <{local_tag(root.tag)[:40]}>")
    return gathered("kml", True, list(_shapes(root)), "the KML file holds no LineString or Polygon")


def _shapes(root: Element) -> Iterator[Shape]:
    """Lines and outlines in the order of the document, however deep its folders nest."""
    waiting = [(root, "", "")]
    while waiting:
        element, layer, name = waiting.pop()
        tag = local_tag(element.tag)
        if tag in ("Folder", "Document"):
            layer = _own_name(element) or layer
        elif tag == "Placemark":
            name = _own_name(element)
        if tag in ("LineString", "LinearRing"):
            text = next((c.text for c in element if local_tag(c.tag) == "coordinates"), None)
            yield Shape(layer, name, _coordinates(text or "", name or layer), closed=tag == "LinearRing")
            continue
        inside = [(c, layer, name) for c in element if local_tag(c.tag) != "innerBoundaryIs"]
        waiting.extend(reversed(inside))


def _own_name(element: Element) -> str:
    return next((plain(c.text) for c in element if local_tag(c.tag) == "name" and c.text), "")


def _coordinates(text: str, name: str) -> Floats:
    tuples = text.split()
    not_more(len(tuples), MOST_POINTS, "positions in one line")
    table = np.full((len(tuples), 3), np.nan)
    for k, one in enumerate(tuples):
        parts = one.split(",")
        try:
            if not 2 <= len(parts) <= 3:
                raise ValueError
            table[k, : len(parts)] = [float(p) for p in parts]
        except ValueError:
            where = f" of “{name}”" if name else ""
            raise BadInput(
                "file", f"position {k + 1}{where} reads “{one[:40]}”, which is not longitude,latitude,height"
            ) from None
    if not np.isfinite(table[:, :2]).all() or np.isinf(table[:, 2]).any():
        raise BadInput("file", "a position has a value that is not a finite number")
    return table


def write_kml(
    name: str, line: Sequence[Sequence[float]], closed: bool, posts: Sequence[tuple[Sequence[float], str, str]]
) -> bytes:
    """The line and its posts (position, name, words) as KML 2.2; positions are longitude, latitude, height."""
    kml = Element("kml", xmlns=NAMESPACE)
    document = SubElement(kml, "Document")
    SubElement(document, "name").text = xml_text(name)

    def placemark(parent: Element, title: str, words: str, kind: str, places: Sequence[Sequence[float]]) -> None:
        mark = SubElement(parent, "Placemark")
        SubElement(mark, "name").text = xml_text(title)
        if words:
            SubElement(mark, "description").text = xml_text(words)
        shape = SubElement(mark, kind)
        SubElement(shape, "coordinates").text = " ".join(",".join(f"{v:.9g}" if abs(v) > 1e6 else f"{v:.9f}".rstrip("0").rstrip(".") for v in p) for p in places)  # fmt: skip

    placemark(document, name, "", "LineString", [*line, line[0]] if closed and line[0] != line[-1] else line)
    folder = SubElement(document, "Folder")
    SubElement(folder, "name").text = "Posts"
    for place, title, words in posts:
        placemark(folder, title, words, "Point", [place])
    return b'<?xml version="1.0" encoding="UTF-8"?>\n' + tostring(kml)


def write_kmz(kml: bytes) -> bytes:
    """A KMZ of one KML document."""
    import io
    import zipfile

    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("doc.kml", kml)
    return out.getvalue()
