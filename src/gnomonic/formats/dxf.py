"""DXF: polylines and lines in, by layer; the line and its posts out.  Read and written by ezdxf."""

import io
from collections.abc import Iterator, Sequence
from typing import Any

import numpy as np
import shapely

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import MOST_DXF_LINES, MOST_POINTS
from gnomonic.core.units import FOOT_M, INCH_M
from gnomonic.formats.raw import Question, RawLine, Shape, gathered, plain
from gnomonic.formats.reading import not_more, reading

# $INSUNITS of the drawing → metres
UNITS_M = {1: INCH_M, 2: FOOT_M, 4: 0.001, 5: 0.01, 6: 1.0, 7: 1000.0, 10: 0.9144, 21: 1200 / 3937}
WORDS = {1: "inches", 2: "feet", 4: "millimetres", 5: "centimetres", 6: "metres", 7: "kilometres", 10: "yards", 21: "US survey feet"}  # fmt: skip
ANSWERED = {"m": 6, "ft": 2, "mm": 4, "cm": 5, "in": 1}
BINARY = b"AutoCAD Binary DXF"  # how the open format marks its binary form
MEET_M = 0.001
PIECE = "line"


def read_dxf(data: bytes, answers: dict[str, str]) -> RawLine:
    """Every polyline of the model space, and its lines, those that meet end to end joined.  Raises BadInput."""
    drawing = _drawing(data)
    with reading("DXF drawing", "lines"):
        shapes = list(_shapes(drawing))
        code = int(drawing.header.get("$INSUNITS", 0))
    raw = gathered("dxf", False, shapes, "the DXF drawing holds no polyline or line in its model space")
    said = ANSWERED.get(answers.get("units", ""))
    if said is None and code not in UNITS_M:
        choices = (("m", "metres"), ("ft", "feet"), ("mm", "millimetres"), ("in", "inches"))
        raw.questions.append(Question("units", "The drawing does not say its units: what are they?", choices))
    unit = said or (code if code in UNITS_M else 6)
    if not raw.questions:
        raw.notes.append(f"drawn in {WORDS[unit]}" + (", on your word" if said else ""))
    raw.scale(UNITS_M[unit])
    pieces = sum(s.name.startswith(PIECE + " ") for s in raw.shapes)
    raw.shapes = joined(raw.shapes)
    if gone := pieces - sum(s.name.startswith(PIECE + " ") for s in raw.shapes):
        raw.notes.append(
            f"{gone} of the {pieces} lines of the drawing are joined where their ends meet within {MEET_M * 1000:g} mm"
        )
    return raw


def _drawing(data: bytes) -> Any:
    """The drawing, mended where ezdxf can.  Raises BadInput."""
    from ezdxf import recover
    from ezdxf.document import Drawing
    from ezdxf.filemanagement import read
    from ezdxf.lldxf.const import DXFError
    from ezdxf.lldxf.tagger import binary_tags_loader

    with reading("DXF drawing", "text"):
        if data.startswith(BINARY):
            not_more(len(data) // 8, MOST_DXF_LINES, "tags or more")
            return Drawing.load(binary_tags_loader(data))
        not_more(data.count(b"\n"), MOST_DXF_LINES, "lines of text")
        try:
            return read(io.StringIO(data.decode("utf-8")))
        except (DXFError, ValueError, KeyError, IndexError, AttributeError, TypeError):
            pass  # to be mended
        try:
            drawing, auditor = recover.read(io.BytesIO(data))
        except (DXFError, OSError, ValueError, KeyError, IndexError, AttributeError, TypeError):
            raise BadInput(
                "file", "the file is not a DXF drawing that can be read: it may have been cut short"
            ) from None
        if auditor.has_errors:
            raise BadInput(
                "file", "the DXF drawing is damaged beyond what can be trusted: save it anew and bring that in"
            )
        return drawing


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
        if closed and places and places[0] != places[-1]:
            places.append(places[0])  # as every other format writes a ring
        table = np.array(places, dtype=np.float64).reshape(-1, 3)
        not_more(len(table), MOST_POINTS, "points in one polyline")
        shape = Shape(layer, f"{kind.lower()} {plain(str(entity.dxf.handle))}", table, closed)
        if not np.isfinite(table).all():
            shape.why = "a value that is not a finite number"
        elif not table[:, 2].any():
            table[:, 2] = np.nan
        yield shape


def joined(shapes: list[Shape]) -> list[Shape]:
    """Shapes with the single lines of each layer that meet end to end (plan and height, within MEET_M) made one.

    A line stays in the place, and in the direction, of its first piece; where three ends meet, all lines end.
    """
    made: dict[int, Shape] = {}
    gone: set[int] = set()
    pieces = [k for k, s in enumerate(shapes) if s.name.startswith(PIECE + " ") and not s.why]
    for layer in dict.fromkeys(shapes[k].layer for k in pieces):
        own = [k for k in pieces if shapes[k].layer == layer]
        if len(own) > 1:
            made |= _chains(shapes, own)
            gone |= set(own)
    return [made.get(k, shape) for k, shape in enumerate(shapes) if k in made or k not in gone]


def _chains(shapes: list[Shape], own: list[int]) -> dict[int, Shape]:
    """Lines of one layer as chains, by the number of the first piece of each."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components
    from scipy.spatial import cKDTree

    ends = np.nan_to_num(np.concatenate([shapes[k].table for k in own]))  # two a piece
    pairs = cKDTree(ends).query_pairs(MEET_M, output_type="ndarray")
    meets = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(ends), len(ends)))
    knots = connected_components(meets, directed=False)[1].reshape(-1, 2)
    spot = dict(zip(knots.ravel()[::-1].tolist(), ends[::-1].tolist(), strict=True))  # where each knot first stands
    number: dict[tuple[int, int], int] = {}
    for k, (a, b) in zip(own[::-1], knots[::-1].tolist(), strict=True):
        number[a, b] = number[b, a] = k
    direction = dict(zip(own, knots.tolist(), strict=True))
    graph = [((a, 0), (b, 0)) for a, b in knots.tolist() if a != b]
    chains: dict[int, Shape] = {}
    for line in shapely.get_parts(shapely.line_merge(shapely.multilinestrings(graph))):
        way = [int(e) for e, _ in line.coords]
        first = min(range(len(way) - 1), key=lambda j: number[way[j], way[j + 1]])
        k = number[way[first], way[first + 1]]
        if direction[k] != way[first : first + 2]:
            way.reverse()
        table = np.array([spot[knot] for knot in way])
        if not table[:, 2].any():
            table[:, 2] = np.nan
        name = shapes[k].name if len(way) == 2 else f"{shapes[k].name} and {len(way) - 2} that meet it"
        chains[k] = Shape(shapes[k].layer, name, table, closed=len(way) > 3 and way[0] == way[-1])
    return chains


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
