"""Out and in again: every form gives the same line within its precision; and what each reader refuses."""

import csv
import io
import json
import zipfile

import ezdxf
import fastkml
import gpxpy
import numpy as np
import pytest
import shapefile
import shapely
from fastkml.utils import find_all
from hypothesis import given
from hypothesis import strategies as st
from places import HOME, demo_fences, fence, plan

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import MOST_FILE_BYTES
from gnomonic.formats.bring_in import bring_in
from gnomonic.formats.coordinates import system
from gnomonic.formats.export import FORMS, export_line
from gnomonic.formats.frame import to_local, to_world
from gnomonic.formats.sheets import plan_geojson, plan_gpx
from gnomonic.formats.walk import write_walk
from gnomonic.formats.zipped import members
from gnomonic.workshop.attack.mutants import demo_fences as built_fences

UTM = "32626"  # the demo lies at 47 N 30 W


@pytest.fixture(scope="module")
def paddock_out():
    job = demo_fences()[-1]
    return job, plan(job)


def world(frame, line):
    lon, lat = to_world(frame, np.array([p.e_m for p in line.points]), np.array([p.n_m for p in line.points]))
    return np.column_stack([lon, lat, [p.h_m for p in line.points]])


@pytest.mark.parametrize(
    ("form", "epsg", "answers"),
    [
        ("kml", "", {}),
        ("kmz", "", {}),
        ("gpx", "", {}),
        ("shp.zip", "", {}),
        ("shp.zip", UTM, {}),
        ("shp.zip", "4326", {}),
        ("dxf", UTM, {"crs": UTM}),
        ("csv", "EPSG:" + UTM, {"crs": UTM}),
    ],
)
def test_out_and_in_again_is_the_same_line(paddock_out, form, epsg, answers):
    job, made = paddock_out
    name = "line." + form.replace("shp.zip", "zip")
    back = bring_in(name, export_line(job, made, form, epsg), answers)
    assert not back.questions and back.line.closed == job.line.closed
    assert len(back.line.points) == len(job.line.points)
    there, here = world(back.frame, back.line), world(job.frame, job.line)
    assert np.abs(there[:, :2] - here[:, :2]).max() < 2e-9, "a tenth of a millimetre on the ground"
    assert np.abs(there[:, 2] - here[:, 2]).max() < 1e-3
    assert back.course.length_m == pytest.approx(made.course.length_m, abs=0.01)


@pytest.mark.parametrize("form", ["dxf", "csv", "legs"])
def test_forms_in_local_metres_give_the_same_shape(paddock_out, form):
    job, made = paddock_out
    back = bring_in(f"line.{form}", export_line(job, made, form), {"units": "m"})
    assert back.course.length_m == pytest.approx(made.course.length_m, abs=0.02)
    assert back.course.area_m2() == pytest.approx(made.course.area_m2(), abs=1)
    assert [p.h_m - back.line.points[0].h_m for p in back.line.points] == pytest.approx(
        [p.h_m - job.line.points[0].h_m for p in job.line.points], abs=0.05
    )


def test_a_field_book_goes_out_as_it_was_written():
    job = demo_fences()[0]
    text = (HOME / "src/gnomonic/demo/nursery-beds.legs").read_bytes()
    assert export_line(job, plan(job), "legs") == text
    for form in ("kml", "gpx"):
        with pytest.raises(BadInput, match="means longitude and latitude: take DXF"):
            export_line(job, plan(job), form)
    with pytest.raises(BadInput, match="local metres of its own"):
        export_line(job, plan(job), "dxf", UTM)


def test_other_programs_libraries_read_what_goes_out(paddock_out):
    """fastkml, ezdxf and pyshp read the files by themselves."""
    job, made = paddock_out
    marks = list(find_all(fastkml.KML.from_string(export_line(job, made, "kml")), of_type=fastkml.Placemark))
    (track,) = [m for m in marks if m.name == job.name]
    assert len(marks) == 1 + len(made.posts) and len(track.geometry.coords) == len(job.line.points) + 1
    drawing = ezdxf.read(io.StringIO(export_line(job, made, "dxf").decode()))
    assert drawing.units == 6 and len(drawing.modelspace().query("POINT")) == len(made.posts)
    (line,) = drawing.modelspace().query("POLYLINE")
    assert line.is_closed and len(line.vertices) == len(job.line.points)
    parts = members(export_line(job, made, "shp.zip", UTM), "zip", (".shp", ".dbf", ".shx", ".prj"))
    reader = shapefile.Reader(**{k: io.BytesIO(parts[f"posts.{k}"]) for k in ("shp", "dbf", "shx")})
    assert len(reader) == len(made.posts) and reader.record(0)["kind"] == "terminal"
    assert system(parts["line.prj"].decode()).to_epsg() == int(UTM)


def test_refused_on_the_way_out(paddock_out):
    job, made = paddock_out
    for form, epsg, words in (("doc", "", "there is no doc"), ("csv", "4326", "table of degrees"), ("dxf", "999999", "not a coordinate system")):  # fmt: skip
        with pytest.raises(BadInput, match=words):
            export_line(job, made, form, epsg)
    assert len(FORMS) == 7


KML = '<kml xmlns="http://www.opengis.net/kml/2.2"><Document>{}</Document></kml>'
MARK = "<Placemark><name>{}</name><LineString><coordinates>{}</coordinates></LineString></Placemark>"
HERE = "-30,47,5 -29.999,47,6 -29.999,47.001,7"


def zipped(**files):
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, body in files.items():
            archive.writestr(name.replace("__", "."), body)
    return out.getvalue()


def test_a_file_of_several_lines_is_chosen_from():
    data = KML.format(
        f"<Folder><name>Edges</name>{MARK.format('west', HERE)}</Folder>{MARK.format('east', '0,0 0.001,0')}"
    )
    first = bring_in("a.kml", data.encode())
    assert [(s.layer, s.name, s.points, s.taken) for s in first.shapes] == [
        ("Edges", "west", 3, True),
        ("", "east", 2, False),
    ]
    second = bring_in("a.kml", data.encode(), {"shape": "2"})
    assert len(second.line.points) == 2 and second.course.length_m == pytest.approx(111.3, abs=0.1)
    with pytest.raises(BadInput, match="there is no line “3” in the file; it holds 2"):
        bring_in("a.kml", data.encode(), {"shape": "3"})
    assert bring_in("a.kmz", zipped(doc__kml=data)).course.length_m == first.course.length_m


def test_dxf_units_and_layers():
    drawing = ezdxf.new()
    drawing.header["$INSUNITS"] = 2
    drawing.modelspace().add_lwpolyline([(0, 0), (100, 0), (100, 50)], close=True, dxfattribs={"layer": "FENCE"})
    drawing.modelspace().add_line((0, 0), (10, 0))
    out = io.StringIO()
    drawing.write(out)
    feet = bring_in("a.dxf", out.getvalue().encode())
    assert (
        feet.course.length_m == pytest.approx((150 + 125**0.5 * 10) * 0.3048) and feet.line.closed and feet.line.level
    )
    assert feet.shapes[0].layer == "FENCE" and len(feet.shapes) == 2
    unitless = out.getvalue().replace("$INSUNITS\n 70\n2\n", "$INSUNITS\n 70\n0\n")
    assert bring_in("a.dxf", unitless.encode()).questions[0].key == "units"
    assert bring_in("a.dxf", unitless.encode(), {"units": "m"}).course.length_m == pytest.approx(261.8, abs=0.1)


def shape_zip(prj):
    parts = {k: io.BytesIO() for k in ("shp", "shx", "dbf")}
    with shapefile.Writer(**parts, shapeType=shapefile.POLYLINE) as writer:
        writer.field("id", "N")
        writer.line([[[500000, 5205000], [500100, 5205000], [500100, 5205100]]])
        writer.record(1)
    files = {f"edge__{k}": v.getvalue() for k, v in parts.items()}
    return zipped(**files, **({"edge__prj": prj} if prj else {}))


def test_a_shapefile_without_prj_asks_and_takes_the_answer():
    asked = bring_in("edge.zip", shape_zip(""))
    assert [q.key for q in asked.questions] == ["crs"] and asked.questions[0].typed
    local = bring_in("edge.zip", shape_zip(""), {"crs": "local"})
    assert not local.questions and local.course.length_m == 200 and local.frame.kind == "local"
    known = bring_in("edge.zip", shape_zip(""), {"crs": "EPSG:32626"})
    assert known.frame.kind == "geographic" and known.course.length_m == pytest.approx(200 / 0.9996, abs=0.01)
    said = bring_in("edge.zip", shape_zip(system(UTM).to_wkt()))
    assert not said.questions and said.course.length_m == pytest.approx(known.course.length_m)
    with pytest.raises(BadInput, match="write an EPSG code"):
        bring_in("edge.zip", shape_zip(""), {"crs": "the parish"})
    with pytest.raises(BadInput, match="lies outside of where"):
        bring_in("far.csv", b"easting (m),northing (m),height (m)\n9e6,-9e6,1\n9000100,-9e6,1\n", {"crs": "3035"})
    astray = bring_in("edge.zip", shape_zip(""), {"crs": "27700"})
    assert any("is the code right?" in note for note in astray.notes)
    edge = b"easting (m),northing (m),height (m)\n600000,200000,300\n600100,200000,310\n"
    feet = bring_in("edge.csv", edge, {"crs": "2263"})
    assert [q.key for q in feet.questions] == ["heights"], "a grid in feet: are the heights too?"
    taken = bring_in("edge.csv", edge, {"crs": "2263", "heights": "feet"}).line.points
    assert [p.h_m for p in taken] == pytest.approx([91.44, 94.488]), "300 and 310 ft, taken as feet once"


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("a.kml", KML.format(MARK.format("west", "1,2 3")).encode(), "position 2 of “west” reads “3”"),
        ("a.kml", KML.format(MARK.format("", "1,2 x,3")).encode(), "position 2 reads “x,3”"),
        ("a.kml", KML.format(MARK.format("", "1,inf 2,3")).encode(), "not a finite number"),
        ("a.kml", KML.format("").encode(), "holds no LineString or Polygon"),
        ("a.kml", b"<gpx/>", "not KML: its outermost element is <gpx>"),
        ("a.kml", b"once", "is not KML: it does not begin"),
        ("a.kml", b'<!DOCTYPE kml [<!ENTITY a "b">]><kml>&a;</kml>', "declares a document type"),
        ("a.kmz", b"PK once", "is not a zip that can be opened"),
        ("a.kmz", zipped(readme__txt="x"), "holds no KML document"),
        ("a.kmz", zipped(doc__kml=b"0" * (MOST_FILE_BYTES + 1)), "unpacks to more than 40 MB: refused"),
        ("a.zip", zipped(readme__txt="x"), "holds no shapefile"),
        ("a.zip", zipped(edge__shp=b"x" * 200, edge__shx=b"x", edge__dbf=b"x"), "shapefile"),
        ("a.shp", b"\x00\x00\x27\x0a", "lacks its other parts"),
        ("a.dxf", b"once upon a time", "not a DXF drawing"),
        ("a.dxf", b"  0\nSECTION\n  2\nENTITIES\n  0\nENDSEC\n  0\nEOF\n", "holds no polyline"),
        ("a.csv", b"station (m),height (m)\n0,1\n5,2 ft\n", "row 3 has “2 ft” under “height (m)” where the rows above are in m"),
        ("a.csv", b"station,height\n0 m,1\n5 ft,2\n", "row 3 has “5 ft” under “station” where the rows above are in m"),
        ("a.json", b'{"format": "gnomonic-walk/1", "points": [[1, 2]], "marks": []}', "the recorded walk is damaged"),
    ],
)  # fmt: skip
def test_bad_files_of_the_newer_kinds(name, data, words):
    with pytest.raises(BadInput) as caught:
        bring_in(name, data)
    assert words in caught.value.sentence and "\n" not in caught.value.sentence


def test_a_column_may_carry_its_unit_in_every_cell():
    assert bring_in("a.csv", b"station,height\n0 ft,1 ft\n10 ft,2 ft\n").course.length_m == pytest.approx(3.048)


def test_an_older_geojson_that_names_its_coordinates_is_read_in_them():
    text = {"type": "LineString", "crs": {"properties": {"name": "urn:ogc:def:crs:EPSG::32626"}}}
    text["coordinates"] = [[500000, 5205000, 1], [500100, 5205000, 2]]
    assert bring_in("a.json", json.dumps(text).encode()).course.length_m == pytest.approx(100.04, abs=0.01)


@given(st.floats(0.01, 0.5), st.integers(1, 3))
def test_a_recorded_walk_keeps_its_corners_and_its_tolerance(tolerance, every):
    rows = [[-30 + k * 1e-5, 47 + 1e-6 * (k % 7), 5.0, 0.02, ""] for k in range(60)]
    for k in range(0, 60, 20 * every):
        rows[k][4] = f"corner {k}"
    finds = [{"kind": "gate", "name": "", "at": [-29.9998, 47.0]}]
    back = bring_in("walk.json", write_walk(rows, finds, tolerance))
    assert [p.name for p in back.line.points if p.name] == [r[4] for r in rows if r[4]]
    assert back.line.source.simplified_m == tolerance and back.line.points[1].how == "rover"
    (gate,) = back.found
    assert gate.kind == "gate" and fence("w", back.line, found=back.found).found == back.found


def test_the_lines_left_out_of_a_file_in_coordinates_are_still_counted_and_drawn():
    parts = {k: io.BytesIO() for k in ("shp", "shx", "dbf")}
    with shapefile.Writer(**parts, shapeType=shapefile.POLYLINE) as writer:
        writer.field("id", "N")
        for north in (0, 50):
            writer.line([[[500000, 5205000 + north], [500100, 5205000 + north], [500200, 5205000 + north]]])
            writer.record(north)
    files = {f"edge__{k}": v.getvalue() for k, v in parts.items()}
    found = bring_in("edge.zip", zipped(**files, edge__prj=system(UTM).to_wkt()))
    assert [(s.points, s.taken) for s in found.shapes] == [(3, True), (3, False)]
    (_east, north), *_ = found.shapes[1].places
    assert north - found.line.points[0].n_m == pytest.approx(50 / 0.9996, abs=0.01), "beside the one taken, 50 m away"


ODD = "=2+2 \"fence\" 'of' <the> & \ufffe\U0001f40f; @home"


def every_line():
    """Every line of every job of the demo that is to be built."""
    return [pytest.param(f, id=f"{k} {f.own.name}"[:40]) for k, f in enumerate(built_fences())]


def outside(form, body):
    """Positions of the line as an outside library reads them: gpxpy, fastkml, ezdxf, GDAL's rules by struct, csv, shapely."""
    if form == "gpx":
        (track,) = gpxpy.parse(body.decode()).tracks
        return [(p.longitude, p.latitude, p.elevation) for p in track.segments[0].points], track.name
    if form in ("kml", "kmz"):
        text = zipfile.ZipFile(io.BytesIO(body)).read("doc.kml") if form == "kmz" else body
        document = fastkml.KML.from_string(text.decode().replace('<?xml version="1.0" encoding="UTF-8"?>', ""))
        marks = [m for m in find_all(document, of_type=fastkml.Placemark) if m.geometry.geom_type == "LineString"]
        return list(marks[0].geometry.coords), marks[0].name
    if form == "dxf":
        drawing = ezdxf.read(io.StringIO(body.decode()))
        (line,) = drawing.modelspace().query("POLYLINE")
        places = [tuple(v.dxf.location) for v in line.vertices]
        return [*places, places[0]] if line.is_closed else places, ""
    if form == "shp.zip":
        with zipfile.ZipFile(io.BytesIO(body)) as archive:
            reader = shapefile.Reader(shp=io.BytesIO(archive.read("line.shp")))
            (line,) = reader.shapes()
        return [(x, y, z) for (x, y, *_), z in zip(line.points, line.z, strict=True)], ""
    rows = list(csv.reader(io.StringIO(body.decode())))
    return [tuple(map(float, row)) for row in rows[1:]], ""


@pytest.mark.parametrize("job", every_line())
def test_every_line_of_the_demo_comes_back_from_every_form_to_a_millimetre(job):
    """By our own reader and by an outside one; local lines are refused in the forms that mean degrees, and say which can."""
    made = plan(job)
    course = made.course
    want = np.column_stack([course.east_m, course.north_m, course.profile.heights_m])
    for form in FORMS:
        if job.frame.kind == "local" and form in ("kml", "kmz", "gpx"):
            with pytest.raises(BadInput, match="take DXF, CSV, a shapefile"):
                export_line(job, made, form)
            continue
        body = export_line(job, made, form)
        name = "line." + form.replace("shp.zip", "zip")
        back = bring_in(name, body, {"crs": "local", "closed": "yes" if course.closed else "no"} if form in ("dxf", "csv", "shp.zip") else {"closed": "yes" if course.closed else "no"})  # fmt: skip
        here = back.course
        assert not back.questions, (form, back.questions)
        assert len(here.stations_m) == len(course.stations_m), form
        got = np.column_stack([here.east_m, here.north_m, here.profile.heights_m])
        if back.frame.kind == "geographic" and job.frame.kind == "geographic":
            lon, lat = to_world(back.frame, here.east_m, here.north_m)
            got[:, 0], got[:, 1] = to_local(job.frame, lon, lat)
        elif form == "legs":  # counts from its own start
            got, want_here = got - got[0], want - want[0]
            assert np.abs(got - want_here).max() < 2e-3, form
            continue
        assert np.abs(got - want).max() < 1e-3, form
        if form == "legs":
            continue
        places, _ = outside(form, body)
        seen = np.array(places)
        if form in ("kml", "kmz", "gpx"):
            seen[:, 0], seen[:, 1] = to_local(job.frame, seen[:, 0], seen[:, 1])
        assert np.abs(seen - want).max() < 1e-3, form
    if job.frame.kind == "geographic":
        body = plan_geojson(job, made)
        again = bring_in("line.geojson", body, {"closed": "yes" if course.closed else "no"})
        assert again.course.length_m == pytest.approx(course.length_m, abs=1e-3)
        line = shapely.from_geojson(json.dumps(json.loads(body)["features"][0]["geometry"]))
        east, north = to_local(job.frame, *(np.array(v) for v in shapely.get_coordinates(line).T))
        assert np.abs(np.column_stack([east, north]) - want[:, :2]).max() < 1e-3
        assert len(gpxpy.parse(plan_gpx(job, made).decode()).waypoints) == len(made.posts)
    else:
        with pytest.raises(BadInput, match="GeoJSON means longitude and latitude"):
            plan_geojson(job, made)


def test_names_no_xml_can_hold_go_out_without_what_it_can_not():
    job = next(f for f in demo_fences() if f.frame.kind == "geographic")
    odd = fence(ODD, job.line, frame=job.frame)
    made = plan(odd)
    want = ODD.replace("\ufffe", "")
    for form in ("gpx", "kml", "kmz"):
        places, name = outside(form, export_line(odd, made, form))
        assert name == want and len(places) == len(made.course.stations_m)
        assert not bring_in(f"a.{form}", export_line(odd, made, form)).questions
    waypoints = gpxpy.parse(plan_gpx(odd, made).decode())
    assert waypoints.name == want
    assert json.loads(plan_geojson(odd, made))["features"][0]["properties"]["name"] == ODD
    for form in ("dxf", "shp.zip", "csv", "legs"):
        assert bring_in(
            "a." + form.replace("shp.zip", "zip"), export_line(odd, made, form), {"crs": "local"}
        ).line.points


@pytest.mark.parametrize("form", ["dxf", "shp.zip", "csv"])
def test_a_zone_of_elsewhere_is_refused_on_the_way_out(paddock_out, form):
    with pytest.raises(BadInput, match="is meant for 12° to 18° east") as caught:
        export_line(*paddock_out, form, "32633")
    assert caught.value.field == "epsg"
    assert export_line(*paddock_out, form, UTM)
