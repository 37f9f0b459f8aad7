"""GeoJSON (RFC 7946, CRS84): a LineString or a Polygon's outline in; a line with its posts out."""

import json
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.formats.raw import RawLine, check_world, decode


def _geometries(data: Any) -> Iterator[dict[str, Any]]:
    if not isinstance(data, dict):
        return
    kind = data.get("type")
    if kind == "FeatureCollection" and isinstance(data.get("features"), list):
        for feature in data["features"]:
            yield from _geometries(feature)
    elif kind == "Feature":
        yield from _geometries(data.get("geometry"))
    elif kind == "GeometryCollection" and isinstance(data.get("geometries"), list):
        for geometry in data["geometries"]:
            yield from _geometries(geometry)
    elif isinstance(data.get("coordinates"), list):
        yield data


def read_geojson(data: bytes) -> RawLine:
    """Read the first LineString, or else the first Polygon's outline."""
    try:
        document = json.loads(decode(data, "the file"))
    except json.JSONDecodeError as error:
        raise BadInput(
            "file", f"the file is broken JSON at line {error.lineno}, column {error.colno}: it may have been cut short"
        ) from None
    except RecursionError:
        raise BadInput("file", "the file nests its JSON too deeply to be a measured line") from None
    crs = document.get("crs") if isinstance(document, dict) else None
    if crs and not any(word in json.dumps(crs) for word in ("CRS84", "EPSG::4326", "EPSG:4326")):
        raise BadInput(
            "file", "the file names a coordinate system other than CRS84 (longitude, latitude): convert it first"
        )
    shapes = list(_geometries(document))
    lines = [g for g in shapes if g["type"] == "LineString"]
    rings = [g for g in shapes if g["type"] == "Polygon"]
    if not lines and not rings:
        raise BadInput("file", "the file holds no LineString or Polygon to take a line from")
    closed = not lines
    coordinates = lines[0]["coordinates"] if lines else (rings[0]["coordinates"] or [[]])[0]
    notes = [f"{len(shapes) - 1} more shapes in the file left out"] if len(shapes) > 1 else []
    if not isinstance(coordinates, list):
        raise BadInput("file", "coordinates is not a list of positions")
    table = np.full((len(coordinates), 3), np.nan)
    for k, position in enumerate(coordinates):
        good = isinstance(position, list) and len(position) in (2, 3)
        if not good or not all(isinstance(v, int | float) and not isinstance(v, bool) for v in position):
            raise BadInput("file", f"coordinates[{k}] is not a position of two or three numbers")
        if not all(np.isfinite(v) for v in position):
            raise BadInput("file", f"coordinates[{k}] has a value that is not a finite number")
        table[k, : len(position)] = position
    raw = RawLine("geojson", True, table, "position", closed=closed, notes=notes)
    check_world(raw)
    return raw


def write_geojson(
    name: str, line: Sequence[Sequence[float]], posts: Sequence[tuple[Sequence[float], dict[str, Any]]]
) -> bytes:
    """A FeatureCollection of the line and its posts; positions are longitude, latitude, height."""

    def feature(kind: str, coordinates: Any, properties: dict[str, Any]) -> dict[str, Any]:
        return {"type": "Feature", "geometry": {"type": kind, "coordinates": coordinates}, "properties": properties}

    features = [feature("LineString", [list(p) for p in line], {"name": name})]
    features += [feature("Point", list(place), properties) for place, properties in posts]
    return json.dumps({"type": "FeatureCollection", "features": features}, ensure_ascii=False, indent=1).encode()
