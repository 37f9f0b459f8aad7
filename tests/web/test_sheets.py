"""What is taken out, counted again from the drawing by other code than made it."""

import csv
import io
import json
import math
from itertools import pairwise

import gpxpy
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from places import apply, demo_fences, plan, snags_of
from pyproj import Geod

from gnomonic.core.edits.all import read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.job.fence import changed
from gnomonic.core.tell.tag import post_tag
from gnomonic.core.units import parse_length_m
from gnomonic.formats.bring_in import bring_in
from gnomonic.formats.sheets import as_csv, brace_rows, plan_geojson, plan_gpx, stake_out, take_off_rows
from gnomonic.web.draw.lanes import drawing

JOBS = demo_fences()
NAMES = [job.name.split(" · ")[1] for job in JOBS]
whole = pytest.mark.parametrize("job", JOBS, ids=NAMES)
WOVEN = [job for job in JOBS if job.barrier.system == "woven"]
woven = pytest.mark.parametrize("job", WOVEN, ids=[job.name.split(" · ")[1] for job in WOVEN])


def counts(job, made):
    """The take-off by the name of each item, whole numbers as such."""
    rows = take_off_rows(job, made, "metric")
    return {r["item"]: r["count"] for r in rows}


def item(found, words):
    """How many of the items whose name begins with these words, in whatever lengths; 0 when none is needed."""
    return sum(int(v) for k, v in found.items() if k.startswith(words))


@woven
def test_the_take_off_is_what_the_drawing_shows(job):
    made = plan(job)
    shown = json.loads(json.dumps(drawing(job, made, snags_of(job, made))))
    found, wires = counts(job, made), len(shown["fabric"]["wires"])
    kinds = [p["kind"] for p in shown["posts"]]
    assert item(found, "wood terminal post") + item(found, "wood gate post") == kinds.count("terminal")
    assert item(found, "wood brace post") == kinds.count("brace")
    assert item(found, "wood line post") == kinds.count("wood")
    assert item(found, "driven steel post") == kinds.count("steel")
    assert item(found, "cap for") == kinds.count("steel") and item(found, "steel-post clip") == 5 * kinds.count("steel")
    assert item(found, "end tie-off") == 2 * wires * len(shown["runs"])
    assert item(found, "crimp sleeve") == wires * len(shown["splices"])
    assert item(found, "roll of") == len({p["stock"] for p in shown["pieces"] if p["stock"].startswith("new")})
    panels = {tuple(sorted((a, b))) for brace in shown["braces"] for a, b in pairwise(brace["at"])}
    assert item(found, "brace rail") == len(panels) and item(found, "⅜ in brace pin") == 2 * len(panels)
    line_wood = sum(p["kind"] == "wood" and p["role"] == "line" for p in shown["posts"])
    full = sum(p["kind"] == "brace" or p["role"] in ("dip", "hump", "bend") for p in shown["posts"])
    between = (wires - 4) // 2
    assert item(found, "fence staple") == 2 * wires * len(shown["runs"]) + wires * full + (4 + between) * line_wood
    assert sum(v == "1" for k, v in found.items() if k.startswith("gate leaf")) >= min(1, len(shown["gates"]))


@whole
def test_bays_join_up_along_every_run(job):
    made = plan(job)
    for run in made.runs:
        bays = [b for b in made.bays if b.run == run.index]
        assert bays[0].from_m == run.start.station_m and bays[-1].to_m == run.end.station_m
        for before, after in pairwise(bays):
            assert before.to_m == after.from_m and before.to_post == after.from_post
    fenced = sum(b.to_m - b.from_m for b in made.bays)
    openings = sum(r.start.station_m for r in made.runs[1:]) - sum(r.end.station_m for r in made.runs[:-1])
    assert fenced + openings == pytest.approx(made.course.length_m)


@woven
def test_fabric_is_chords_and_tails(job):
    made = plan(job)
    for run, need in zip(made.runs, made.rolls.need_m, strict=True):
        heights = {p.station_m: p.ground_m for p in made.posts}
        total = 0.0
        for bay in (b for b in made.bays if b.run == run.index):
            rise = made.posts[bay.to_post].ground_m - heights[bay.from_m]
            total += math.hypot(bay.to_m - bay.from_m, rise)
        assert need == pytest.approx(total + 2 * job.decisions.tie_off_m, abs=1e-6)


@woven
def test_splices_stand_clear_of_every_post(job):
    made = plan(job)
    for splice in made.rolls.splices:
        assert splice.clear_m >= job.decisions.splice_clear_m - 1e-6
        inside = [p for p in made.posts if splice.from_m < p.station_m < splice.at_m]
        run = made.runs[splice.run]
        bays = [b for b in made.bays if b.run == run.index]
        assert inside == [] and bays[0].to_m < splice.from_m and splice.at_m < bays[-1].from_m


@pytest.mark.parametrize("system", ["us", "metric"])
@whole
def test_the_tape_starts_anew_at_every_run_and_reads_up(job, system):
    made = plan(job)
    rows = stake_out(made, system)
    assert [r["post"] for r in rows] == [str(k + 1) for k in range(len(made.posts))]
    tolerance = 0.02
    for run in made.runs:
        own = [r for r in rows if r["run"] == str(run.index + 1)]
        taped = [parse_length_m(r["tape"]) for r in own]
        assert taped[0] == 0 and taped == sorted(taped)
        for row, at in zip(own, taped, strict=True):
            assert parse_length_m(row["station"]) - at == pytest.approx(run.start.station_m, abs=tolerance)


@whole
def test_tag_and_sheet_read_the_same_tape(job):
    made = plan(job)
    for post, row in zip(made.posts, stake_out(made, "us"), strict=True):
        fact = post_tag(job, made, post.index).facts[0]
        assert fact.name == "Tape from the terminal, centres" and fact.value.text("us") == row["tape"]


@woven
def test_brace_rows_are_the_statics(job):
    made = plan(job)
    rows = brace_rows(made, "metric")
    assert len(rows) == 2 * len(made.runs)
    for row, brace in zip(rows, made.braces, strict=True):
        rail = parse_length_m(row["rail height"])
        level = abs(parse_length_m(row["terminal"]) - parse_length_m(row["brace post"])) / int(row["panels"])
        assert rail == pytest.approx(0.775 * made.fence_height_m, abs=0.003)
        (foot, other) = made.course.profile.at(np.array(brace.end.stations_m[:2]))
        rise = other - foot
        if (
            row["rail lies"] == "level" and not brace.end.crossed
        ):  # C = H·cos β·hp/hr; up by C·hr/l and the pull's own climb
            wire = parse_length_m(row["brace wire"].split(",")[0])
            assert wire == pytest.approx(4 * math.hypot(rail, level) + 1.0, abs=0.06)
            grade = math.atan2(rise, level)
            uplift = brace.pull_n * (math.cos(grade) * brace.pull_height_m / level + math.sin(grade))
            if brace.end.panels == 1:
                shown = row["uplift"].split()
                assert float(shown[0]) * (1000 if shown[1] == "kN" else 1) == pytest.approx(uplift, rel=0.05, abs=20)


def test_csv_can_be_read_and_runs_nothing():
    rows = [{"item": "=2+2", "where": 'gate, "north"'}, {"item": "+1", "where": "é"}, {"item": "@x", "where": "-3 ft"}]
    back = list(csv.DictReader(io.StringIO(as_csv(rows).decode("utf-8-sig"))))
    assert [r["item"] for r in back] == ["'=2+2", "+1", "'@x"] and back[0]["where"] == 'gate, "north"'
    assert back[2]["where"] == "'-3 ft", "a text that begins with a sign, not a number"


def test_geographic_posts_lie_where_the_line_was_walked():
    """Distances between neighbouring posts, as geodesics by pyproj.Geod, are the bays."""
    job = JOBS[-1]
    made = plan(job)
    points = gpxpy.parse(plan_gpx(job, made).decode()).waypoints
    geod = Geod(ellps="WGS84")
    for bay in made.bays[::5]:
        a, b = points[bay.from_post], points[bay.to_post]
        _, _, far = geod.inv(a.longitude, a.latitude, b.longitude, b.latitude)
        assert far <= bay.to_m - bay.from_m + 0.005
        assert far == pytest.approx(bay.to_m - bay.from_m, abs=0.03)
        assert a.elevation == pytest.approx(made.posts[bay.from_post].ground_m, abs=0.001)


def test_a_line_brought_in_again_gives_the_same_plan():
    job = JOBS[-1]
    made = plan(job)
    again = bring_in("back.geojson", plan_geojson(job, made))
    copy = changed(job, line=again.line, frame=again.frame)
    twice = plan(copy)
    assert abs(len(twice.posts) - len(made.posts)) <= 1
    assert twice.cost == pytest.approx(made.cost, abs=1.5)
    assert twice.course.length_m == pytest.approx(made.course.length_m, abs=0.002)


def test_a_line_in_local_metres_is_never_written_as_degrees():
    """RFC 7946 §4: positions of a GeoJSON are longitude and latitude.  GPX 1.1: lat and lon are WGS 84 degrees."""
    job = JOBS[0]
    for write in (plan_geojson, plan_gpx):
        with pytest.raises(BadInput, match="take DXF, CSV, a shapefile"):
            write(job, plan(job))


@given(
    st.floats(2.2, 4.5),
    st.sampled_from(["8-32-6", "9-39-6", "9-49-6", "13-48-6"]),
    st.integers(0, 8),
    st.integers(1, 2),
)
def test_counts_follow_from_the_posts_whatever_is_decided(bay, label, every, panels):
    job = JOBS[0]
    for key, value in (("longest_bay_m", round(bay, 2)), ("wood_every", every), ("brace_panels", panels)):
        job = apply(job, read_edit({"do": "decide", "key": key, "value": value}))
    job = apply(job, read_edit({"do": "hang_fabric", "label": label}))
    made = plan(job)
    found = counts(job, made)
    assert sum(int(v) for k, v in found.items() if " post, " in k) == len(made.posts)
    assert item(found, "end tie-off") == 2 * made.fabric.wires * len(made.runs)
    assert item(found, "fence staple") == sum(p.count("staple") for p in made.posts)
    line = [p for p in made.posts if p.kind in ("wood", "steel")]
    if every == 0:
        assert all(p.kind == "steel" for p in line if p.role == "line")
    if every == 1:
        assert all(p.kind == "wood" for p in line)
    steel = [p for p in made.posts if p.kind == "steel"]
    for p in steel:  # 2 in over the fabric, and what is left of a half inch of depth
        assert 0.0508 - 1e-6 <= p.above_m - made.fence_height_m < 0.0508 + 0.0127 and p.depth_m >= 0.457 - 1e-6
