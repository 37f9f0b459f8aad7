"""DXF: polylines and lines in, by layer; the line and its posts out.  Read and written by ezdxf."""

import io
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.core.units import FOOT_M, INCH_M
from gnomonic.formats.raw import Question, RawLine, Shape, choose, plain

# $INSUNITS of the drawing → metres
UNITS_M = {1: INCH_M, 2: FOOT_M, 4: 0.001, 5: 0.01, 6: 1.0, 7: 1000.0, 10: 0.9144, 21: 1200 / 3937}
WORDS = {1: "inches", 2: "feet", 4: "millimetres", 5: "centimetres", 6: "metres", 7: "kilometres", 10: "yards", 21: "US survey feet"}  # fmt: skip


def read_dxf(data: bytes, answers: dict[str, str]) -> RawLine:
    """Every polyline and line of the model space; the one answered for, or the first.  Raises BadInput."""
    from ezdxf import recover
    from ezdxf.lldxf.const import DXFError

    try:
        drawing, auditor = recover.read(io.BytesIO(data))
    except (DXFError, OSError, ValueError, KeyError, IndexError, AttributeError, TypeError):
        raise BadInput("file", "the file is not a DXF drawing that can be read: it may have been cut short") from None
    if auditor.has_errors:
        raise BadInput("file", "the DXF drawing is damaged beyond what can be trusted: save it anew and bring that in")
    shapes = list(_shapes(drawing))
    raw = choose("dxf", False, shapes, answers, "the DXF drawing holds no polyline or line in its model space")
    code = int(drawing.header.get("$INSUNITS", 0))
    unit = answers.get("units")
    factor = {"m": 1.0, "ft": FOOT_M}.get(unit or "") or UNITS_M.get(code)
    if factor is None:
        raw.questions.append(
            Question("units", "The drawing does not say its units: what are they?", (("m", "metres"), ("ft", "feet")))
        )
        factor = 1.0
    else:
        raw.notes.append(f"drawn in {'metres' if unit == 'm' else 'feet' if unit == 'ft' else WORDS[code]}")
    raw.scale(factor)
    return raw


def _shapes(drawing: Any) -> Iterator[Shape]:
    for entity in drawing.modelspace():
        kind, layer = entity.dxftype(), plain(str(entity.dxf.layer))
        closed = False
        if kind == "LWPOLYLINE":
            places = [(x, y, entity.dxf.elevation) for x, y in entity.get_points("xy")]
            closed = bool(entity.closed)
        elif kind == "POLYLINE" and (entity.is_2d_polyline or entity.is_3d_polyline):
            places = [tuple(v.dxf.location) for v in entity.vertices]
            closed = bool(entity.is_closed)
        elif kind == "LINE":
            places = [tuple(entity.dxf.start), tuple(entity.dxf.end)]
        else:
            continue
        if closed and places[0] != places[-1]:
            places.append(places[0])  # as every other format writes a ring
        table = np.array(places, dtype=np.float64).reshape(-1, 3)
        if not np.isfinite(table).all():
            raise BadInput("file", f"a {kind.lower()} on layer {layer} has a value that is not a finite number")
        if not table[:, 2].any():
            table[:, 2] = np.nan
        yield Shape(layer, f"{kind.lower()} {entity.dxf.handle}", table, closed)


def write_dxf(
    line: Sequence[Sequence[float]], closed: bool, posts: Sequence[tuple[Sequence[float], str, str]]
) -> bytes:
    """The line as a 3D polyline on layer LINE and the posts as points on layers by kind, in metres (DXF R2010)."""
    from ezdxf.filemanagement import new

    drawing = new("R2010")
    drawing.header["$INSUNITS"] = 6
    space = drawing.modelspace()
    drawing.layers.add("LINE")
    space.add_polyline3d([tuple(p) for p in line], close=closed, dxfattribs={"layer": "LINE"})
    for place, number, kind in posts:
        layer = f"POST-{kind.upper()}"
        if layer not in drawing.layers:
            drawing.layers.add(layer)
        space.add_point(tuple(place), dxfattribs={"layer": layer})
        space.add_text(number, height=0.3, dxfattribs={"layer": layer}).set_placement((place[0], place[1]))
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode("utf-8")
