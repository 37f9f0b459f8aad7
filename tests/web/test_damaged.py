"""Damaged, hostile and odd files at every door: one sentence or a line, within memory and time; and the limits."""

import io
import json
import re
import struct
import time
import zipfile
from itertools import pairwise

import ezdxf
import numpy as np
import pytest
import shapefile
from places import ALL, HOME
from pyproj import CRS, Geod

from gnomonic.core import limits
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import course
from gnomonic.core.job.parts import Frame, MeasuredLine, Point, Source
from gnomonic.core.plain_json import read_json
from gnomonic.formats.beside import beside
from gnomonic.formats.bring_in import bring_in
from gnomonic.formats.catalog_csv import read_catalog
from gnomonic.formats.cells import as_it_was, harmless
from gnomonic.formats.coordinates import system
from gnomonic.formats.grid import drape
from gnomonic.formats.nmea import NmeaReader
from gnomonic.formats.zipped import members
from gnomonic.workshop.attack.mutants import attack, sound

KML = "<kml><Document>{}</Document></kml>"


def mark(places, name="", ring=False):
    kind = "LinearRing" if ring else "LineString"
    body = f"<{kind}><coordinates>{places}</coordinates></{kind}>"
    return f"<Placemark><name>{name}</name>{body}</Placemark>"


def refused(name, data, answers=None):
    with pytest.raises(BadInput) as caught:
        bring_in(name, data, answers)
    sound(caught.value)
    return caught.value.sentence


def zipped(method=zipfile.ZIP_DEFLATED, **files):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", method) as archive:
        for name, body in files.items():
            archive.writestr(name.replace("__", "."), body)
    return out.getvalue()


def test_hundreds_of_mutants_of_every_form():
    count = 1200 if ALL else 250
    tally = attack(count)
    assert tally.wrong == [] and tally.tried == count and tally.read > 0.12 * count and tally.refused > 0.4 * count


@pytest.mark.parametrize("method", [zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA])
def test_a_bomb_packed_otherwise_is_not_opened(method):
    bomb = zipped(method, doc__kml=b"0" * 5_000_000)
    assert len(bomb) < 2000 and "in a way that is not opened" in refused("a.kmz", bomb)


def test_what_a_zip_says_of_its_sizes_is_not_believed():
    """The header says 10 bytes; what comes out is 60 MB: unpacking stops at the limit, not at what is said."""
    body = zipped(doc__kml=b"0" * 60_000_000)
    lies = body.replace(struct.pack("<I", 60_000_000), struct.pack("<I", 10))
    with pytest.raises(BadInput):
        members(lies, "the KMZ", (".kml",))
    assert "unpacks to more than 40 MB" in refused("a.kmz", body)
    assert "holds more than 1,000 files" in refused("a.zip", zipped(**{f"f{k}__shp": b"" for k in range(1001)}))
    nested = zipped(doc__kml=zipped(doc__kml=b"<kml/>"))
    assert "it does not begin as XML does" in refused("a.kmz", nested), "a zip within the zip is not opened"
    locked = bytearray(zipped(doc__kml=b"<kml/>"))
    locked[6] |= 1
    locked[locked.rindex(b"PK\x01\x02") + 8] |= 1
    assert "password" in refused("a.kmz", bytes(locked))


KINDS = {
    "KML of 10 million empty elements": ("a.kml", lambda: b"<kml>" + b"<a/>" * 9_990_000 + b"</kml>", "elements"),
    "GeoJSON of 13 million empty objects": ("a.json", lambda: b'{"features":[' + b"{}," * 13_000_000 + b"{}]}", "objects"),
    "GeoJSON of 5.7 million positions": ("a.json", lambda: b"[" + b"[1,2]," * 5_700_000 + b"1]", "lists"),
    "DXF of 60,000 lines": ("a.dxf", lambda: b"  0\nLINE\n  8\n0\n 10\n0\n 20\n0\n 11\n1\n 21\n1\n" * 60_000, "lines of text"),
    "table of 4 million rows": ("a.csv", lambda: b"station (m),height (m)\n" + b"1,1\n" * 4_000_000, "rows"),
    "KML of 1.4 million positions": ("a.kml", lambda: KML.format(mark("1,2 " * 1_400_000)).encode(), "positions in one line"),
}  # fmt: skip


@pytest.mark.parametrize("kind", KINDS)
def test_too_much_of_anything_is_refused_before_it_is_read(kind):
    name, made, what = KINDS[kind]
    body = made()
    start = time.process_time()
    sentence = refused(name, body)
    assert re.search(rf"holds [\d,]+ {what}; more than [\d,]+ are not read", sentence), sentence
    assert time.process_time() - start < 5


def test_a_noisy_track_of_400_000_points_takes_seconds():
    """Its own limit of CPU in the process beside (20 s) is not what ends it: a walk that returns on itself is refused as such."""
    steps = np.cumsum(np.random.default_rng(1).normal(0, 1e-6, (400_000, 2)), axis=0)
    rows = "".join(f'<trkpt lat="{47 + a:.8f}" lon="{b - 30:.8f}"><ele>1</ele></trkpt>' for a, b in steps.tolist())
    start = time.process_time()
    assert "the line crosses itself" in refused("a.gpx", f"<gpx><trk><trkseg>{rows}</trkseg></trk></gpx>".encode())
    assert time.process_time() - start < 10


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("a.json", b'{"type":"LineString","coordinates":[[' + b"9" * 400 + b",1],[1,1]]}", "coordinates[0] has a value that is not a finite"),
        ("a.json", b'{"type":"LineString","coordinates":[[' + b"9" * 5000 + b",1],[1,1]]}", "thousands of digits"),
        ("a.json", b'{"coordinates":[[0,0],[1,1]]}', "holds no LineString"),
        ("a.json", b'{"type":"LineString","crs":{"name":"EPSG:' + b"1" * 5000 + b'"},"coordinates":[[0,0],[1,1]]}', "names a coordinate system"),
        ("a.json", b'{"type":"LineString","coordinates":[[1e7,0],[1e8,0]]}', "nowhere on Earth"),
        ("a.kml", b"<kml>" + b"<Folder>" * 3000 + b"</Folder>" * 3000 + b"</kml>", "holds no LineString or Polygon"),
        ("a.kml", KML.format(mark("1,2,inf 1,2.001,5")).encode(), "not a finite number"),
        ("a.kml", KML.format(mark("x" * 5000 + " 1,2")).encode(), "position 1 reads “xxxx"),
        ("a.gpx", b"<" + b"a" * 5000 + b"/>", "outermost element is <aaaa"),
        ("a.csv", b"easting (m),northing (m),height (m)\n1e9,0,0\n2e9,5,0\n", "farther than anything on Earth"),
        ("a.csv", "station (m),height (m)\n0,²\n5,2\n".encode(), "row 2 has “²”"),
        ("a.legs", ("²" * 5000).encode(), "does not begin with a bearing"),
        ("a.dxf", b"  0\nSECTION\n  2\nENTITIES\n  0\nLWPOLYLINE\n  8\n0\n 90\n2\n 70\n1\n  0\nENDSEC\n  0\nEOF\n", "DXF"),
        ("walk.json", b'{"format":"gnomonic-walk/1","tolerance_m":NaN,"points":[[1,2,3,4,""],[1,2,3,4,""]],"marks":[]}', "walk"),
        ("walk.json", b'{"format":"gnomonic-walk/1","tolerance_m":1,"points":[[1,2,3,NaN,""],[1,2.001,3,4,""]],"marks":[]}', "walk"),
        ("line.zip", zipped(a__shp=b"\x00\x00\x27\x0a" + b"\xff" * 300), "shapefile is damaged in its shapes"),
    ],
)  # fmt: skip
def test_one_sentence_for_every_damaged_file(name, data, words):
    assert words in refused(name, data)


@pytest.mark.parametrize("asked", ["²", "9" * 5000, "0", "-1", "1.0", "١", " 1"])
def test_which_line_is_asked_for_in_plain_numbers(asked):
    both = KML.format(mark("0,0 0.001,0") + mark("0,1 0.001,1")).encode()
    with pytest.raises(BadInput, match="it holds 2"):
        bring_in("a.kml", both, {"shape": asked})


@pytest.mark.parametrize(
    "asked", ["9" * 5000, "²", "+proj=longlat +nadgrids=@/etc/passwd", "/etc/passwd", "EPSG:1", "EPSG:99999", "urn:x",
              'GEOGCS["x",EXTENSION["PROJ4","+proj=longlat +nadgrids=/tmp/g"]]', "WGS84", "32626\x00"],
)  # fmt: skip
def test_only_numbers_and_known_names_are_coordinate_systems(asked):
    with pytest.raises(BadInput, match="write an EPSG code") as caught:
        system(asked)
    sound(caught.value)
    assert system("32626") == system("EPSG:32626") == CRS.from_epsg(32626)


def shape_zip(rows, prj="", kind=shapefile.POLYLINE):
    parts = {k: io.BytesIO() for k in ("shp", "shx", "dbf")}
    with shapefile.Writer(**parts, shapeType=kind) as writer:
        writer.field("id", "N")
        for k, row in enumerate(rows):
            writer.line([row])
            writer.record(k)
    return zipped(**{f"edge__{k}": v.getvalue() for k, v in parts.items()}, **({"edge__prj": prj} if prj else {}))


def test_degrees_that_are_metres_are_asked_about():
    """A .prj that says degrees over numbers in metres: the line is 100 m on the grid; in UTM that is 100 / 0.9996 m."""
    body = shape_zip([[[500000, 5205000], [500100, 5205000]]], CRS.from_epsg(4326).to_wkt("WKT1_ESRI"))
    (question,) = bring_in("edge.zip", body).questions
    assert question.key == "crs" and "500000" in question.text and "degrees" in question.text
    assert bring_in("edge.zip", body, {"crs": "local"}).course.length_m == pytest.approx(100)
    assert bring_in("edge.zip", body, {"crs": "32626"}).course.length_m == pytest.approx(100 / 0.9996, abs=0.01)
    assert "in degrees, and the numbers of the file are not" in refused("edge.zip", body, {"crs": "4326"})


def test_a_zone_that_does_not_fit_the_place_is_remarked_on():
    """Zone 33 is for 12° to 18° east.  At 30° west its metres are those of the ground times 1 + x²/2R² and more: the line of
    its coordinates is longer than the ground's, by Geod."""
    lon, lat = np.array([-29.99, -29.98]), np.array([47.0, 47.0])
    from gnomonic.formats.coordinates import from_degrees

    east, north = from_degrees(system("32633"), lon, lat)
    rows = "".join(f"{e:.3f},{n:.3f},5\n" for e, n in zip(east, north, strict=True))
    brought = bring_in("a.csv", f"easting (m),northing (m),height (m)\n{rows}".encode(), {"crs": "32633"})
    ground = Geod(ellps="WGS84").line_length(lon, lat)
    grid = float(np.hypot(*np.diff([east, north])).item())
    assert grid / ground > 1.1
    assert any(f"{grid:.1f} m long, over the ground there {ground:.1f} m" in note for note in brought.notes)
    assert brought.course.length_m == pytest.approx(ground, abs=0.05)


def test_a_bad_shape_does_not_refuse_the_file():
    """Four shapes: 118 km long, across itself, one point, and a good one of 2 × 0.001° of latitude (2 × 111.2 m)."""
    far = mark("0,0 0,1.067", "far")
    eight = mark("1,0 1.001,0.001 1.001,0 1,0.001", "eight")
    dot, good = mark("2,0", "dot"), mark("3,0 3,0.001 3.001,0.001", "good")
    body = KML.format(far + eight + dot + good).encode()
    brought = bring_in("a.kml", body)
    assert [(s.name, s.taken, bool(s.why)) for s in brought.shapes] == [
        ("far", False, True), ("eight", False, True), ("dot", False, True), ("good", True, False)
    ]  # fmt: skip
    whys = [s.why for s in brought.shapes]
    assert "118 km long" in whys[0] and "crosses itself" in whys[1] and whys[2] == "one point"
    assert "line 4 of 4 in the file taken" in brought.notes[0]
    later = bring_in("a.kml", KML.format(good + far + eight).encode())
    assert [s.why for s in later.shapes] == ["", "118 km long", "crosses itself"]
    assert "none of the 2 lines in the file can be a fence" in refused("a.kml", KML.format(far + eight).encode())
    assert "crosses itself" in refused("a.kml", body, {"shape": "2"})


def drawing(lines, insunits=6, layer="EDGE"):
    made = ezdxf.new("R2010")
    made.header["$INSUNITS"] = insunits
    for a, b in lines:
        made.modelspace().add_line(a, b, dxfattribs={"layer": layer})
    return made


def dxf_bytes(made):
    out = io.StringIO()
    made.write(out)
    return out.getvalue().encode()


def test_lines_that_meet_end_to_end_are_one():
    """A chain of 10 lines of 5 m drawn out of order and some backwards, and an outline of 109 pieces round a circle of 40 m."""
    chain = [((k * 5.0, 0), (k * 5.0 + 5, 0)) for k in range(10)]
    shuffled = [chain[k] if k % 3 else chain[k][::-1] for k in (4, 0, 9, 2, 7, 1, 3, 8, 6, 5)]
    brought = bring_in("a.dxf", dxf_bytes(drawing(shuffled)))
    assert brought.course.length_m == pytest.approx(50) and len(brought.line.points) == 11 and len(brought.shapes) == 0
    assert brought.line.points[0].e_m == 0, "in the direction of its first piece, which runs east"
    assert any("9 of the 10 lines" in n and "within 1 mm" in n for n in brought.notes)
    turn = np.linspace(0, 2 * np.pi, 110)
    round_ = [(40 * np.cos(t), 40 * np.sin(t)) for t in turn]
    ring = bring_in("a.dxf", dxf_bytes(drawing(list(pairwise(round_)))))
    assert ring.line.closed and len(ring.line.points) == 109
    assert ring.course.length_m == pytest.approx(109 * 80 * np.sin(np.pi / 109), abs=1e-6)
    apart = bring_in("a.dxf", dxf_bytes(drawing([((0, 0), (5, 0)), ((5.01, 0), (9, 0))])))
    assert len(apart.shapes) == 2, "ends a centimetre apart do not meet"
    crossroads = bring_in("a.dxf", dxf_bytes(drawing([((0, 0), (5, 0)), ((5, 0), (9, 0)), ((5, 0), (5, 4))])))
    assert len(crossroads.shapes) == 3, "where three meet, all end"


def test_a_binary_drawing_and_units_that_were_asked(tmp_path):
    made = drawing([((0, 0), (100, 0))], insunits=0)
    made.saveas(tmp_path / "a.dxf", fmt="bin")
    body = (tmp_path / "a.dxf").read_bytes()
    (question,) = bring_in("a.dxf", body).questions
    assert question.key == "units"
    assert bring_in("a.dxf", body, {"units": "ft"}).course.length_m == pytest.approx(30.48)
    assert bring_in("a.dxf", body, {"units": "mm"}).course.length_m == pytest.approx(0.1)
    metres = dxf_bytes(drawing([((0, 0), (100, 0))], insunits=6))
    assert bring_in("a.dxf", metres, {"units": "ft"}).course.length_m == pytest.approx(30.48), "what is said stands"


@pytest.mark.parametrize("root", ["kml", "Folder", "Placemark", "Document"])
@pytest.mark.parametrize("space", ["", ' xmlns="http://www.opengis.net/kml/2.2"'])
def test_kml_may_begin_with_any_of_its_parts(root, space):
    inner = "<LineString><coordinates>0,0,1 0.001,0,2</coordinates></LineString>"
    inner = inner if root == "Placemark" else f"<Placemark>{inner}</Placemark>"
    brought = bring_in("a.kml", f"<{root}{space}>{inner}</{root}>".encode())
    assert brought.course.length_m == pytest.approx(111.32, abs=0.01), "0.001° along the equator (WGS 84)"


def test_a_multipolygon_is_its_outlines_and_repeated_vertices_go_with_a_note():
    square = [[0, 0, 1], [0.001, 0, 1], [0.001, 0, 1], [0.001, 0.001, 1], [0, 0.001, 1], [0, 0, 1]]
    hole = [[0.0002, 0.0002], [0.0003, 0.0002], [0.0003, 0.0003], [0.0002, 0.0002]]
    away = [[[x + 1, y, z] for x, y, z in square]]
    brought = bring_in("a.json", json.dumps({"type": "MultiPolygon", "coordinates": [[square, hole], away]}).encode())
    assert len(brought.shapes) == 2 and brought.line.closed and len(brought.line.points) == 4
    assert any("1 point that repeats the one before" in n for n in brought.notes)


GRID = "ncols 3\nnrows 3\nxllcorner 0\nyllcorner 0\ncellsize {}\nNODATA_value -9999\n" + "{} 5 6\n5 6 7\n6 7 8\n"
LINE = course(
    MeasuredLine(points=(Point(e_m=5, n_m=5, h_m=0), Point(e_m=25, n_m=25, h_m=0)), source=Source(kind="csv", points_read=2))
)  # fmt: skip


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "the grid is empty"),
        (GRID.format(0, 5).encode(), "cellsize must be larger than 0"),
        (GRID.format("nan", 5).encode(), "grid"),
        (GRID.format(-10, 5).encode(), "grid"),
        (GRID.format(10, "x").encode(), "row 1 of the grid’s heights has “x”, which is not a number"),
        (
            GRID.format(10, 5).replace("nrows 3", "nrows 41e7").encode(),
            "which the file is too short for",
        ),
        (b"II*\x00" + b"\xff" * 400, "not an Esri ASCII grid or a GeoTIFF"),
        (b"once", "not an Esri ASCII grid or a GeoTIFF"),
    ],
)
def test_height_grids_that_are_damaged(data, words):
    with pytest.raises(BadInput) as caught:
        drape("g.asc", data, LINE, Frame(), {"crs": "local"})
    sound(caught.value)
    assert words in caught.value.sentence


def test_a_grid_whose_numbers_are_no_heights_is_asked_about():
    """8,200 to 12,900 of a survey in feet: 2,499 to 3,932 m."""
    rows = "8200 8200 8200\n10000 10000 10000\n12900 12900 12900\n"
    grid = f"ncols 3\nnrows 3\nxllcorner 0\nyllcorner 0\ncellsize 10\n{rows}".encode()
    (question,) = drape("g.asc", grid, LINE, Frame(), {"crs": "local"}).questions
    assert question.key == "heights" and "12,900" in question.text
    taken = drape("g.asc", grid, LINE, Frame(), {"crs": "local", "heights": "ft"})
    assert not taken.questions and taken.heights_m.max() == pytest.approx(12900 * 0.3048)


def test_a_grid_that_may_be_no_metres_is_asked_about():
    """A hill of 250 m in feet (820 to 836), laid under a line that a receiver measured at 250 m; one of 8,200; one as steep as a wall."""
    places = [[30, 47, 250], [30.0004, 47, 252], [30.0008, 47.0002, 255]]
    walked = bring_in("a.geojson", json.dumps({"type": "LineString", "coordinates": places}).encode())

    def under(line, frame, numbers, **said):
        table = "\n".join(" ".join(str(n) for n in row) for row in numbers)
        data = f"ncols 3\nnrows 3\nxllcorner -150\nyllcorner -150\ncellsize 100\n{table}\n".encode()
        return drape("g.asc", data, line, frame, {"crs": "local", **said})

    hill = [[820, 828, 836]] * 3
    (question,) = under(walked.course, walked.frame, hill).questions
    assert "the line was measured at 252 m" in question.text and [c[0] for c in question.choices] == [
        "m",
        "ft",
        "cm",
        "mm",
    ]
    feet, metres = (under(walked.course, walked.frame, hill, heights=unit) for unit in ("ft", "m"))
    assert (
        feet.heights_m.max() < 836 * 0.3048 + 1e-9
        and not feet.questions
        and not metres.questions
        and metres.heights_m.max() > 820
    )
    assert not under(walked.course, walked.frame, [[245, 250, 260]] * 3).questions, "within what a geoid explains"
    ends = (Point(e_m=0, n_m=0, h_m=0), Point(e_m=60, n_m=0, h_m=0))
    local = course(MeasuredLine(points=ends, source=Source(kind="csv", points_read=2)))
    assert not under(local, Frame(), hill).questions, "metres of its own have a height of their own"
    assert "no fence stands that high" in under(local, Frame(), [[8200] * 3] * 3).questions[0].text
    steep = under(local, Frame(), [[100, 400, 900]] * 3).questions[0].text
    assert "half the line would be steeper than 500 %" in steep


def hog(size):
    return len(bytearray(size))


def spin():
    while True:
        pass


def test_a_reading_beside_is_held_to_its_memory_and_time():
    assert beside(hog, 50_000_000) == 50_000_000
    with pytest.raises(BadInput, match="or 100 MB to read, and was left"):
        beside(hog, 900_000_000, size=100_000_000)
    start = time.monotonic()
    with pytest.raises(BadInput, match="took more than 1 s"):
        beside(spin, seconds=1)
    assert time.monotonic() - start < 8
    assert beside(bring_in, "a.csv", b"station (m),height (m)\n0,1\n5,2\n", {}).course.length_m == 5, "the next goes on"
    with pytest.raises(BadInput, match="not a header"):
        beside(bring_in, "a.csv", b"x,y\n", {})


@pytest.mark.parametrize(
    "text", ['{"a": NaN}', '{"a": 1e999}', '{"a": "\\ud800"}', '{"\\u0000": 1}', '{"a": ' + "9" * 30 + "}", "[" * 200 + "]" * 200, '{"a": ' + "9" * 5000 + "}", "{", b"\xff"],
)  # fmt: skip
def test_json_that_can_not_be_kept(text):
    with pytest.raises(BadInput) as caught:
        read_json(text)
    sound(caught.value)


@pytest.mark.parametrize(
    "cell", ["=1", "+x", "-a", "@b", "\tq", "\rq", "'=1", "'", "''-", "-5", "+2.5e3", "plain", "'quoted'"]
)
def test_cells_run_nothing_and_come_back(cell):
    safe = harmless(cell)
    assert as_it_was(safe) == cell
    assert safe[:1] not in "=@\t\r" and (safe[:1] not in "+-" or re.fullmatch(r"[+-][\d.e]+", safe))
    text = f'key,title,group,index\n"{harmless("-k")}","{safe.strip()}",tools,100\n'
    if cell.strip() == cell and cell.isprintable() and as_it_was(safe.strip()) == cell:
        (item,) = read_catalog(text.encode())
        assert (item.key, item.title) == ("-k", cell)


def test_every_limit_stands_in_the_table_of_the_manual():
    manual = (HOME / "docs" / "operating.md").read_text("utf8")
    for limit in limits.TABLE:
        assert f"| {limit.what} | {limit.text()} | {limit.otherwise} |" in manual, limit.what


def test_damaged_packing_is_named():
    body = bytearray(zipped(doc__kml=b"<kml>" + bytes(range(256)) * 40 + b"</kml>"))
    body[60] ^= 0xFF
    assert "KMZ" in refused("a.kmz", bytes(body))


@pytest.mark.parametrize("kind", ["GGAGGA", "RMCRMC", "GSTX", "", "²"])
def test_a_sentence_of_a_kind_nobody_knows_is_counted_as_bad(kind):
    """Its checksum is right, so only its kind is not."""
    line = f"GP{kind},123519,A"
    total = 0
    for c in line.encode():
        total ^= c
    reader = NmeaReader()
    assert reader.feed(f"${line}*{total:02X}\r\n".encode()) == [] and reader.bad + reader.other == 1
