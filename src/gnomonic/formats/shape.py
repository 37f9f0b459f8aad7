"""Shapefiles, zipped: lines and outlines in; the line and its posts out.  Read and written by pyshp."""

import io
import zipfile
from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import shapefile

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import MOST_POINTS, MOST_SHAPES
from gnomonic.formats.raw import Question, RawLine, Shape, gathered, plain
from gnomonic.formats.reading import not_more, reading
from gnomonic.formats.zipped import members

LINES = (shapefile.POLYLINE, shapefile.POLYLINEZ, shapefile.POLYLINEM)
RINGS = (shapefile.POLYGON, shapefile.POLYGONZ, shapefile.POLYGONM)


def read_shapefile(data: bytes) -> RawLine:
    """Every line and outline of the first shapefile in a zip.

    Without a ``.prj`` only the fencer knows the coordinates: that is asked.  Raises BadInput.
    """
    found = members(data, "the zip", (".shp", ".shx", ".dbf", ".prj", ".kml"))
    stems = sorted({n[:-4] for n in found if n.lower().endswith(".shp")})
    if not stems:
        raise BadInput("file", "the zip holds no shapefile (.shp)")
    own = {n.lower()[-3:]: body for n, body in found.items() if n[:-4] == stems[0]}
    layer = plain(stems[0].rpartition("/")[2])
    notes = []
    with reading("shapefile", "shapes (.shp)"):
        reader = shapefile.Reader(shp=io.BytesIO(own["shp"]))
        shapes: list[Shape] = []
        for k, one in enumerate(reader.iterShapes()):
            shapes += _lines(one, layer, k)
            not_more(len(shapes), MOST_SHAPES, "lines or more")
    raw = gathered("shapefile", False, shapes, "the shapefile holds no lines or outlines")
    raw.crs = own["prj"].decode("utf-8", "replace").strip() if "prj" in own else ""
    raw.asks_crs = not raw.crs
    if len(stems) > 1:
        notes.append(f"{len(stems) - 1} more shapefiles in the zip left out: bring them in by themselves")
    raw.notes = notes
    return raw


def _lines(one: "shapefile.Shape", layer: str, number: int) -> list[Shape]:
    if one.shapeType not in (*LINES, *RINGS):
        return []
    not_more(len(one.points), MOST_POINTS, "points in one shape")
    heights = list(one.z) if hasattr(one, "z") else [np.nan] * len(one.points)
    table = np.column_stack([np.array([p[:2] for p in one.points]).reshape(-1, 2), heights])
    starts = [*one.parts, len(one.points)]
    found = []
    for k, (a, b) in enumerate(pairwise(starts)):
        part = f", part {k + 1}" if len(starts) > 2 else ""
        shape = Shape(layer, f"shape {number + 1}{part}", table[a:b], one.shapeType in RINGS)
        if not np.isfinite(shape.table[:, :2]).all() or np.isinf(shape.table[:, 2]).any():
            shape.why = "a value that is not a finite number"
        found.append(shape)
    return found


def write_shapefile(
    line: Sequence[Sequence[float]], closed: bool, posts: Sequence[tuple[Sequence[float], str, str]], prj: str
) -> bytes:
    """A zip of two shapefiles, ``line`` and ``posts`` (3D); ``prj`` as WKT, or empty for local metres."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, kind in (("line", shapefile.POLYLINEZ), ("posts", shapefile.POINTZ)):
            parts = {k: io.BytesIO() for k in ("shp", "shx", "dbf")}
            with shapefile.Writer(**parts, shapeType=kind) as writer:
                writer.field("name", "C", 40)
                writer.field("kind", "C", 20)
                if name == "line":
                    writer.linez([[list(p) for p in ([*line, line[0]] if closed and line[0] != line[-1] else line)]])
                    writer.record("line", "closed" if closed else "open")
                else:
                    for place, number, words in posts:
                        writer.pointz(*place)
                        writer.record(number, words)
            for ending, part in parts.items():
                archive.writestr(f"{name}.{ending}", part.getvalue())
            if prj:
                archive.writestr(f"{name}.prj", prj)
    return out.getvalue()


def crs_question() -> Question:
    """What is asked where a file of coordinates does not say what they are."""
    return Question(
        "crs",
        "The file does not say what its coordinates are (it has no .prj): which are they?",
        (("local", "metres of their own, nowhere in particular"),),
        typed="EPSG code, such as 32626",
    )
