"""GeoJSON (RFC 7946, CRS84): a LineString or a Polygon's outline in; a line with its posts out."""

import json
import math
import re
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import MOST_JSON_PARTS, MOST_POINTS
from gnomonic.formats.raw import Floats, RawLine, Shape, decode, gathered, plain
from gnomonic.formats.reading import not_more
from gnomonic.formats.walk import read_walk


def _geometries(data: Any, name: str = "") -> Iterator[tuple[str, dict[str, Any]]]:
    """Geometries with the name of their feature."""
    if not isinstance(data, dict):
        return
    kind = data.get("type")
    if kind == "FeatureCollection" and isinstance(data.get("features"), list):
        for feature in data["features"]:
            yield from _geometries(feature)
    elif kind == "Feature":
        properties = data.get("properties")
        called = properties.get("name") if isinstance(properties, dict) else ""
        yield from _geometries(data.get("geometry"), plain(str(called or "")))
    elif kind == "GeometryCollection" and isinstance(data.get("geometries"), list):
        for geometry in data["geometries"]:
            yield from _geometries(geometry, name)
    elif isinstance(data.get("coordinates"), list):
        yield name, data


def parsed(data: bytes) -> Any:
    """JSON text as data, counted before it is read.  Raises BadInput."""
    for mark, what in ((b"{", "objects"), (b"[", "lists"), (b",", "values")):
        not_more(data.count(mark), MOST_JSON_PARTS, what)
    try:
        return json.loads(decode(data, "the file"))
    except json.JSONDecodeError as error:
        raise BadInput(
            "file", f"the file is broken JSON at line {error.lineno}, column {error.colno}: it may have been cut short"
        ) from None
    except ValueError:
        raise BadInput("file", "the file has a number with thousands of digits, which no place has") from None
    except RecursionError:
        raise BadInput("file", "the file nests its JSON too deeply to be a measured line") from None


def read_geojson(data: bytes) -> RawLine:
    """Read every LineString and every outline of a Polygon; lines stand before outlines."""
    document = parsed(data)
    if isinstance(document, dict) and document.get("format") == "gnomonic-walk/1":
        return read_walk(document)
    named = document.get("crs") if isinstance(document, dict) else None
    crs = (
        "" if not named or any(w in json.dumps(named) for w in ("CRS84", "EPSG::4326", "EPSG:4326")) else _named(named)
    )
    shapes = []
    for name, geometry in _geometries(document):
        places = geometry["coordinates"]
        match geometry.get("type"):
            case "LineString":
                shapes.append((0, Shape("", name, _positions(places))))
            case "MultiLineString":
                shapes += [(0, Shape("", name, _positions(part))) for part in places]
            case "Polygon":
                shapes.append((1, Shape("", name, _positions(_outline(places)), closed=True)))
            case "MultiPolygon":
                shapes += [(1, Shape("", name, _positions(_outline(part)), closed=True)) for part in places]
    ordered = [s for _, s in sorted(shapes, key=lambda pair: pair[0])]
    none = "the file holds no LineString or Polygon to take a line from"
    raw = gathered("geojson", not crs, ordered, none, first=0)
    raw.crs = crs
    return raw


def _outline(rings: Any) -> Any:
    """The outer ring of a polygon."""
    return rings[0] if isinstance(rings, list) and rings else []


def _named(crs: Any) -> str:
    """The coordinate system an older GeoJSON names, as an EPSG code."""
    match = re.search(r"EPSG:+(\d{4,6})\b", json.dumps(crs)[:2000])
    if not match:
        raise BadInput(
            "file", "the file names a coordinate system that can't be read: convert it to longitude, latitude"
        )
    return f"EPSG:{match.group(1)}"


def _positions(coordinates: Any) -> Floats:
    if not isinstance(coordinates, list):
        raise BadInput("file", "coordinates is not a list of positions")
    not_more(len(coordinates), MOST_POINTS, "positions in one line")
    table = np.full((len(coordinates), 3), np.nan)
    for k, position in enumerate(coordinates):
        good = isinstance(position, list) and len(position) in (2, 3)
        if not good or not all(isinstance(v, int | float) and not isinstance(v, bool) for v in position):
            raise BadInput("file", f"coordinates[{k}] is not a position of two or three numbers")
        try:
            table[k, : len(position)] = position
            finite = all(math.isfinite(v) for v in position)
        except OverflowError:
            finite = False
        if not finite:
            raise BadInput("file", f"coordinates[{k}] has a value that is not a finite number")
    return table


def write_geojson(
    name: str, line: Sequence[Sequence[float]], posts: Sequence[tuple[Sequence[float], dict[str, Any]]]
) -> bytes:
    """A FeatureCollection of the line and its posts; positions are longitude, latitude, height."""

    def feature(kind: str, coordinates: Any, properties: dict[str, Any]) -> dict[str, Any]:
        return {"type": "Feature", "geometry": {"type": kind, "coordinates": coordinates}, "properties": properties}

    features = [feature("LineString", [list(p) for p in line], {"name": name})]
    features += [feature("Point", list(place), properties) for place, properties in posts]
    return json.dumps({"type": "FeatureCollection", "features": features}, ensure_ascii=False, indent=1).encode()
