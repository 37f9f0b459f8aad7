"""Measured files: what is understood, and every bad file refused with one sentence that names what is wrong."""

import json
import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely import LineString, Point

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.bearing import bearing_deg
from gnomonic.core.ground.simplify import simplify
from gnomonic.formats.bring_in import bring_in


def gpx(points, kind="trkpt", wrap="<trk><trkseg>{}</trkseg></trk>"):
    body = "".join(f'<{kind} lat="{la}" lon="{lo}"><ele>{z}</ele></{kind}>' for lo, la, z in points)
    return f'<?xml version="1.0"?><gpx xmlns="http://www.topografix.com/GPX/1/1">{wrap.format(body)}</gpx>'.encode()


def geojson(points, kind="LineString"):
    coordinates = points if kind == "LineString" else [points]
    return json.dumps(
        {"type": "Feature", "properties": {}, "geometry": {"type": kind, "coordinates": coordinates}}
    ).encode()


FT = 0.3048
WALK = [(-30.0, 47.0, 5.0), (-29.999, 47.0, 6.0), (-29.999, 47.001, 7.5)]


@pytest.mark.parametrize(
    ("kind", "wrap"),
    [("trkpt", "<trk><trkseg>{}</trkseg></trk>"), ("rtept", "<rte>{}</rte>"), ("wpt", "{}")],
)
def test_gpx_of_every_kind_gives_the_same_line(kind, wrap):
    brought = bring_in("walk.gpx", gpx(WALK, kind, wrap))
    assert brought.course.length_m == pytest.approx(187.23, abs=0.01)
    assert [p.h_m for p in brought.line.points] == [5.0, 6.0, 7.5] and not brought.line.closed


def test_geojson_line_polygon_and_line_without_heights():
    line = bring_in("a.geojson", geojson(WALK))
    assert line.course.length_m == pytest.approx(bring_in("walk.gpx", gpx(WALK)).course.length_m)
    ring = bring_in("a.json", geojson([*WALK, WALK[0]], "Polygon"))
    assert ring.line.closed and len(ring.line.points) == 3 and ring.misclosure_m == pytest.approx(0)
    flat = bring_in("a.geojson", geojson([p[:2] for p in WALK]))
    assert any("no heights" in n for n in flat.notes)


def test_tables_in_feet_and_metres():
    feet = bring_in("a.csv", b"Station (ft),Height (ft)\n0,100\n10,101\n30,99\n")
    assert feet.course.length_m == pytest.approx(9.144) and feet.line.points[1].h_m == pytest.approx(30.7848)
    metres = bring_in("a.csv", b"easting_m;northing_m;level_m\n500000;4000000;5\n500030;4000040;6\n")
    assert metres.course.length_m == 50 and metres.course.profile.heights_m.tolist() == [5, 6]


def test_a_table_without_units_asks_and_takes_the_answer():
    table = b"station,height\n0,5\n100,6\n"
    (question,) = bring_in("a.csv", table).questions
    assert question.key == "units" and [c[0] for c in question.choices] == ["m", "ft"]
    answered = bring_in("a.csv", table, {"units": "ft"})
    assert not answered.questions and answered.course.length_m == pytest.approx(30.48)


def test_feet_taken_for_metres_are_asked_about():
    rows = [(k * 32.808, k * 10.0, 0.0, 5.0 + k % 2) for k in range(6)]
    table = "station (m),easting (m),northing (m),height (m)\n" + "".join(",".join(map(str, r)) + "\n" for r in rows)
    (question,) = bring_in("a.csv", table.encode()).questions
    assert "3.28 times longer" in question.text
    assert bring_in("a.csv", table.encode(), {"lengths": "feet"}).course.length_m == pytest.approx(50 * 0.3048)
    steep = b"station (m),height (m)\n0,0\n3,3\n6,0\n9,3\n12,0\n"
    (question,) = bring_in("a.csv", steep).questions
    assert "heights in feet" in question.text
    assert not bring_in("a.csv", steep, {"heights": "feet"}).questions
    assert not bring_in("a.csv", steep, {"heights": "asis"}).questions
    (question,) = bring_in("a.csv", b"station (ft),height (m)\n0,5\n9,6\n").questions
    assert "Lengths are said to be in ft but heights in m" in question.text


def test_a_height_no_ground_has_is_asked_about_and_left_out_on_ones_word():
    """A shot of 1e5 m between 5 m and 7 m, 30 m apart: bridged it is 6 m.  In feet it is 30 480 m, still no ground: asked
    again, and it can be both."""
    slip = b"station (m),height (m)\n0,5\n30,100000\n60,7\n"
    (question,) = bring_in("a.csv", slip).questions
    assert question.key == "slips" and "100000 m" in question.text and question.choices[0][0] == "bridge"
    mended = bring_in("a.csv", slip, {"slips": "bridge"})
    assert not mended.questions and [p.h_m for p in mended.line.points] == pytest.approx([5, 6, 7])
    assert any("1 height left out on your word" in n for n in mended.notes)
    (again,) = bring_in("a.csv", slip, {"slips": "feet"}).questions
    assert again.key == "slips" and "30480 m" in again.text
    ring = geojson(
        [(-30.0, 47.0, 5.0), (-29.999, 47.0, 99999.0), (-29.999, 47.001, 5.0), (-30.0, 47.0, 5.0)], "Polygon"
    )
    assert [q.key for q in bring_in("a.json", ring).questions] == ["slips"]
    both = bring_in("a.csv", slip, {"slips": "both"})
    assert [p.h_m for p in both.line.points] == pytest.approx([5 * FT, 6 * FT, 7 * FT])
    # 60 m apart, 100 m of rise: steep if metres, and no more is asked once they are feet
    steep = b"station (m),height (m)\n0,0\n60,100\n120,0\n180,100000\n240,0\n"
    assert not bring_in("a.csv", steep, {"slips": "both"}).questions


def test_legs_close_and_say_by_how_much():
    legs = b"N 0 E 100 m +1 m\nE 100 m\nS 100.2 m  # a shot long\n270 99.9 m\n"
    brought = bring_in("typed.legs", legs)
    assert brought.line.closed and brought.misclosure_m == pytest.approx(0.2236, abs=1e-4)
    assert any("1:1789" in n for n in brought.notes)
    assert not bring_in("typed.legs", legs, {"closed": "no"}).line.closed
    assert bring_in("typed.legs", b"N 30 30 E 10\n", {}).questions[0].key == "units"
    assert bring_in("t.legs", b"0 40 m\n90 40 m\n", {"closed": "yes"}).course.length_m == pytest.approx(
        80 + math.hypot(40, 40)
    )


@pytest.mark.parametrize(
    ("text", "degrees"),
    [
        ("N 4 30 E 9", 4.5),
        ("n86°30'w 9", 273.5),
        ("S 3 E 9", 177),
        ("S45W 9", 225),
        ("87.5 9", 87.5),
        ("87°30' 9", 87.5),
        ("due west 9", 270),
    ],
)
def test_bearings(text, degrees):
    assert bearing_deg(text) == (pytest.approx(degrees), "9")


TRUNCATED = gpx(WALK)[:-60]
BOMB = b'<?xml version="1.0"?><!DOCTYPE g [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><gpx><trk><name>&b;</name></trk></gpx>'
CROSSING = [(0, 0, 0), (0.001, 0.001, 0), (0.001, 0, 0), (0, 0.001, 0)]


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("walk.gpx", b"once upon a time", "is not GPX: it does not begin as XML does"),
        ("walk.gpx", b"<html><body/></html>", "outermost element is <html>"),
        ("walk.gpx", TRUNCATED, "broken XML at line 1, column"),
        ("walk.gpx", BOMB, "declares a document type or entities"),
        ("walk.gpx", b"<gpx></gpx>", "holds no track, route or waypoints"),
        ("walk.gpx", gpx([(0, 0, "NaN"), (0.1, 0, 1)]), "track point 1 has ele “NaN”, which is not a finite number"),
        ("walk.gpx", gpx([(0, 0, 1), (0.1, 0, "inf")]), "track point 2 has ele “inf”"),
        ("walk.gpx", gpx([(0, "north", 1)]), "has lat “north”, which is not a number"),
        ("walk.gpx", b'<gpx><wpt lat="1"/></gpx>', "waypoint 1 has no lon"),
        (
            "walk.gpx",
            b'<gpx><wpt lat="1" lon="1"><ele>1</ele></wpt><wpt lat="1" lon="1.1"/></gpx>',
            "waypoint 2 has no height",
        ),
        ("walk.gpx", gpx([(47.0, -130.0, 1), (47.1, -130.1, 1)]), "latitude and longitude look swapped: track point 1"),
        ("walk.gpx", gpx([(0, 0, 1)]), "only one point"),
        ("walk.gpx", gpx(CROSSING), "the line crosses itself: its leg from 0.0 m"),
        ("walk.gpx", gpx([(0, 0, 1), (0, 0, 1)]), "are the same place"),
        ("a.geojson", b'{"type": "LineString", "coord', "broken JSON at line 1"),
        ("a.geojson", b'{"type": "Point", "coordinates": [1, 2]}', "holds no LineString or Polygon"),
        ("a.geojson", geojson([(1, 1), (1, 1), (1, 1)]), "position 0 and position 1 are the same place"),
        ("a.geojson", geojson([(0, 0), (150, 60)]), "12,867 km long; more than 50 km is more than one job"),
        ("a.geojson", geojson([(0, 0), ("1", 1)]), "coordinates[1] is not a position"),
        (
            "a.geojson",
            b'{"type":"LineString","coordinates":[[0,0,NaN],[1,1,1]]}',
            "coordinates[0] has a value that is not a finite",
        ),
        ("a.geojson", geojson([(47, 130), (47, 131)]), "look swapped"),
        ("a.geojson", geojson([(400, 13), (401, 13)]), "nowhere on Earth"),
        (
            "a.geojson",
            b'{"type":"LineString","crs":{"name":"the parish"},"coordinates":[[0,0],[1,1]]}',
            "names a coordinate system that can't be read",
        ),
        ("a.csv", b"station (m),height (m)\n0,1\n5,2\n4,3\n", "row 4 goes back behind row 3"),
        ("a.csv", b"station (m),height (m)\n0,1\n5,2\n5,3\n", "row 4 repeats the station of row 3"),
        (
            "a.csv",
            b"station (m);height (m)\n0;1,5\n5;2,5\n",
            "row 2 has “1,5” under “height (m)”: write decimals with a point",
        ),
        ("a.csv", b"station (m),height (m)\n0,5,1,5\n", "write decimals with a point, not a comma"),
        ("a.csv", b"station (m),height (m)\n0,nan\n5,2\n", "which is not a finite number"),
        ("a.csv", b"station (m),height (m)\n0,high\n5,2\n", "row 2 has “high”"),
        ("a.csv", b"station (m),height (m)\n0,\n5,2\n", "row 2 has nothing under"),
        ("a.csv", b"a,b\n0,1\n", "is not a header with station and height"),
        ("a.csv", b"easting (m),northing (m),height (m)\n-30.001,47.001,5\n-30.002,47.002,5\n", "look like degrees"),
        ("a.geojson", geojson([(0, 0), (1, 1)]), "more than 50 km is more than one job"),
        ("a.csv", b"\n\n", "the file is empty"),
        ("a.csv", b"\xff\xfe\x00\x00", "not a text file"),
        ("a.legs", b"N 95 E 10 m\n", "line 1: “N 95 E 10 m” has a quadrant bearing beyond 90"),
        ("a.legs", b"361 10 m\n", "a circle has 360"),
        ("a.legs", b"N 5 E\n", "has a bearing but no distance"),
        ("a.legs", b"N 5 E 0 m\n", "longer than nothing"),
        ("a.legs", b"forward 10 m\n", "does not begin with a bearing"),
        ("a.legs", b"# nothing\n", "no legs were typed"),
        ("photo.jpg", b"\x89PNG....", "is not a file that can be read"),
        ("walk.gpx", b"<gpx>" + b" " * 40_000_001, "a measured line of more than 40 MB is not taken"),
    ],
)
def test_bad_files(name, data, words):
    with pytest.raises(BadInput) as caught:
        bring_in(name, data)
    assert words in caught.value.sentence and "\n" not in caught.value.sentence


def test_a_recorded_track_that_stood_still_is_taken_and_says_so():
    brought = bring_in("walk.gpx", gpx([WALK[0], WALK[0], WALK[1], WALK[2], WALK[2]]))
    assert len(brought.line.points) == 3 and any("2 points where the receiver stood still" in n for n in brought.notes)


def test_names_with_markup_are_kept_as_text():
    data = gpx([]).replace(
        b"<trk>", b'<wpt lat="0" lon="0"><name>&lt;b&gt;x&lt;/b&gt;</name></wpt><wpt lat="0" lon="0.001"/><trk>'
    )
    points = bring_in("walk.gpx", data.replace(b"<trk><trkseg></trkseg></trk>", b"")).line.points
    assert points[0].name == "<b>x</b>"


def test_names_are_kept_on_one_line_without_control_characters():
    data = gpx([]).replace(
        b"<trk><trkseg></trkseg></trk>",
        b'<wpt lat="0" lon="0"><name> gate&#10;post \xc2\x85 </name></wpt><wpt lat="0" lon="0.001"/>',
    )
    brought = bring_in("two\nlines\x07.gpx", data)
    assert brought.line.points[0].name == "gate post" and brought.line.source.file == "two lines.gpx"


def test_two_hundred_thousand_points_are_simplified_within_the_tolerance_said():
    k = np.arange(200_000)
    lon, lat = -30 + k * 1e-7, 47 + 1e-5 * np.sin(k / 4000)
    data = gpx(zip(lon.tolist(), lat.tolist(), (5 + np.sin(k / 9000)).round(3).tolist(), strict=True))
    brought = bring_in("long.gpx", data)
    assert brought.line.source.points_read == 200_000 and len(brought.line.points) <= 6000
    tolerance = brought.line.source.simplified_m
    assert tolerance is not None and any(f"by more than {tolerance * 1000:.0f} mm" in n for n in brought.notes)
    assert brought.course.length_m > 1000


@given(st.lists(st.tuples(st.floats(-5, 5), st.floats(-1, 1)), min_size=3, max_size=60), st.floats(0.005, 0.5))
def test_simplifying_never_moves_the_line_further_than_it_says(wobble, tolerance):
    table = np.array([(k * 2.0, n, z) for k, (n, z) in enumerate(wobble)])
    keep = simplify(table, tolerance)
    assert keep[0] == 0 and keep[-1] == len(table) - 1
    thin = LineString(table[keep, :2])
    stations = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(table[:, :2], axis=0).T))])
    ground = LineString(np.column_stack([stations, table[:, 2]])[keep])
    for k, (e, n, z) in enumerate(table):
        assert thin.distance(Point(e, n)) <= tolerance + 1e-9
        assert ground.distance(Point(stations[k], z)) <= tolerance + 1e-9
