"""KML 2.x and KMZ: LineStrings and Polygon outlines in; a line with its posts out.

Read with the same guarded parser as GPX: the KML library at hand drops shapes it can't read without a word.
"""

from collections.abc import Iterator, Sequence
from xml.etree.ElementTree import Element, SubElement, tostring

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.formats.gpx import local_tag, parse_xml
from gnomonic.formats.raw import Floats, RawLine, Shape, check_world, choose, plain
from gnomonic.formats.zipped import members

NAMESPACE = "http://www.opengis.net/kml/2.2"


def read_kmz(data: bytes, answers: dict[str, str]) -> RawLine:
    """The first KML document of a KMZ.  Raises BadInput."""
    found = members(data, "the KMZ", (".kml",))
    if not found:
        raise BadInput("file", "the KMZ holds no KML document")
    return read_kml(next(iter(found.values())), answers)


def read_kml(data: bytes, answers: dict[str, str]) -> RawLine:
    """Every LineString and Polygon outline of a KML document; the one answered for, or the first."""
    root = parse_xml(data, "the file", "KML")
    if local_tag(root.tag) != "kml":
        raise BadInput("file", f"the file is XML but not KML: its outermost element is <{local_tag(root.tag)}>")
    raw = choose("kml", True, list(_shapes(root, "", "")), answers, "the KML file holds no LineString or Polygon")
    check_world(raw)
    return raw


def _shapes(element: Element, layer: str, name: str) -> Iterator[Shape]:
    tag = local_tag(element.tag)
    own = next((plain(c.text) for c in element if local_tag(c.tag) == "name" and c.text), "")
    if tag in ("Folder", "Document"):
        layer = own or layer
    elif tag == "Placemark":
        name = own
    if tag in ("LineString", "LinearRing"):
        text = next((c.text for c in element if local_tag(c.tag) == "coordinates"), None)
        table = _coordinates(text or "", name or layer)
        ring = tag == "LinearRing"
        yield Shape(layer, name, table, closed=ring)
        return
    for child in element:
        if local_tag(child.tag) != "innerBoundaryIs":
            yield from _shapes(child, layer, name)


def _coordinates(text: str, name: str) -> Floats:
    tuples = text.split()
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
    if not np.isfinite(table[:, :2]).all():
        raise BadInput("file", "a position has a value that is not a finite number")
    return table


def write_kml(
    name: str, line: Sequence[Sequence[float]], closed: bool, posts: Sequence[tuple[Sequence[float], str, str]]
) -> bytes:
    """The line and its posts (position, name, words) as KML 2.2; positions are longitude, latitude, height."""
    kml = Element("kml", xmlns=NAMESPACE)
    document = SubElement(kml, "Document")
    SubElement(document, "name").text = name

    def placemark(parent: Element, title: str, words: str, kind: str, places: Sequence[Sequence[float]]) -> None:
        mark = SubElement(parent, "Placemark")
        SubElement(mark, "name").text = title
        if words:
            SubElement(mark, "description").text = words
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
