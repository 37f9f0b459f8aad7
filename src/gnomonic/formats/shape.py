"""Shapefiles, zipped: lines and outlines in; the line and its posts out.  Read and written by pyshp."""

import io
import zipfile
from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import shapefile

from gnomonic.core.errors import BadInput
from gnomonic.formats.raw import Question, RawLine, Shape, choose, plain
from gnomonic.formats.zipped import members

LINES = (shapefile.POLYLINE, shapefile.POLYLINEZ, shapefile.POLYLINEM)
RINGS = (shapefile.POLYGON, shapefile.POLYGONZ, shapefile.POLYGONM)


def read_shapefile(data: bytes, answers: dict[str, str]) -> RawLine:
    """Every line and outline of the first shapefile in a zip; the one answered for, or the first.

    Without a ``.prj`` only the fencer knows the coordinates: that is asked.  Raises BadInput.
    """
    found = members(data, "the zip", (".shp", ".shx", ".dbf", ".prj", ".kml"))
    stems = sorted({n[:-4] for n in found if n.lower().endswith(".shp")})
    if not stems:
        raise BadInput("file", "the zip holds no shapefile (.shp)")
    own = {n.lower()[-3:]: body for n, body in found.items() if n[:-4] == stems[0]}
    layer = plain(stems[0].rpartition("/")[2])
    try:
        parts = {k: io.BytesIO(own[k]) for k in ("shp", "shx", "dbf") if k in own}
        reader = shapefile.Reader(**parts)
        shapes = [s for k, one in enumerate(reader.iterShapes()) for s in _lines(one, layer, k)]
    except (shapefile.ShapefileException, ValueError, IndexError, OSError, EOFError) as error:
        if isinstance(error, BadInput):
            raise
        raise BadInput("file", "the shapefile can't be read: it may have been cut short") from None
    except Exception as error:  # struct.error and the like from a damaged file
        if isinstance(error, BadInput):
            raise
        raise BadInput("file", "the shapefile is damaged: copy it again") from None
    raw = choose("shapefile", False, shapes, answers, "the shapefile holds no lines or outlines")
    raw.crs = own["prj"].decode("utf-8", "replace").strip() if "prj" in own else ""
    raw.asks_crs = not raw.crs
    if len(stems) > 1:
        raw.notes.append(f"{len(stems) - 1} more shapefiles in the zip left out: bring them in by themselves")
    return raw


def _lines(one: "shapefile.Shape", layer: str, number: int) -> list[Shape]:
    if one.shapeType not in (*LINES, *RINGS):
        return []
    heights = list(one.z) if hasattr(one, "z") else [np.nan] * len(one.points)
    table = np.column_stack([np.array([p[:2] for p in one.points]), heights])
    if not np.isfinite(table[:, :2]).all():
        raise BadInput("file", f"shape {number + 1} has a value that is not a finite number")
    starts = [*one.parts, len(one.points)]
    return [
        Shape(layer, f"shape {number + 1}" + (f", part {k + 1}" if len(starts) > 2 else ""), table[a:b], one.shapeType in RINGS)
        for k, (a, b) in enumerate(pairwise(starts))
    ]  # fmt: skip


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
