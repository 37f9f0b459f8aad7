"""Nonsense and long runs of edits of the ground: one sentence, or a job that is whole."""

import json
import math
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st
from places import apply, fence, plan

from gnomonic.core.edits.all import read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.booked import booked_points, reduce_book
from gnomonic.core.ground.course import course
from gnomonic.core.ground.found import found_kinds
from gnomonic.core.ground.legs import legs
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.core.job.reading import read_job
from gnomonic.core.snags.all import snags
from gnomonic.core.tell.walk_list import figures, walk_list


def one_sentence(error):
    assert error.sentence and "\n" not in error.sentence and "Traceback" not in error.sentence


WORDS = [
    "N 4 30 E", "S 86 E", "87.5", "due west", "400", "N 95 E", "96' 6\"", "24.6 m", "-3 m", "+1' 2\"", "0", "1e9 m", "40 paces",
    "slope", "at", "6°", "11 %", "rise", "fall", "square", "turn", "left", "right", "35", "peg", "P", "base", "1", "2", "triangle",
    "string", ":", ",", "staff", "back", "inter", "fore", "on", "declination", "3°30' W", "pace", "2' 7\"", "close", "@", "gate",
    "#", "½", "−", "°", "nan m", "inf m",
]  # fmt: skip
lines = st.lists(st.sampled_from(WORDS), min_size=1, max_size=6).map(" ".join)
good_lines = st.sampled_from(
    ["N 4 30 E  30 m  +1 m", "S 86 E  25 m", "square right 12 m", "turn left 40 8 m", "E slope 20 m at 6°", "N 0 E 9 m"]
)


@given(st.lists(lines | good_lines, min_size=1, max_size=8).map("\n".join), st.sampled_from(["m", "ft", None]))
def test_any_book_is_read_or_refused_in_one_sentence(text, unit):
    try:
        reduced = reduce_book(text, unit)
    except BadInput as error:
        one_sentence(error)
        return
    points = booked_points(reduced, "compass")
    assert len(points) >= 2 and all(math.isfinite(p.e_m) and math.isfinite(p.h_m) for p in points)
    if reduced.closure is not None:
        assert reduced.closure.adjusted[-1].tolist() == pytest.approx(reduced.closure.adjusted[0].tolist(), abs=1e-6)


def field(closed):
    places = [(0, 0, 5), (45, 3, 6), (60, 40, 5), (20, 55, 4), (-10, 30, 5)]
    points = tuple(Point(e_m=e, n_m=n, h_m=h) for e, n, h in places)
    return fence("f", MeasuredLine(points=points, closed=closed, source=Source(kind="csv", points_read=5)))


index = st.integers(0, 7)
near = st.floats(-15, 65).map(lambda v: round(v, 2))
station = st.floats(0, 220).map(lambda v: round(v, 2))


def edit(do, **keys):
    return st.fixed_dictionaries({"do": st.just(do), **keys})


edits = st.one_of(
    edit("add_point", e_m=near, n_m=near),
    edit("move_point", index=index, e_m=near, n_m=near),
    edit("split_leg", at_m=station),
    edit("remove_point", index=index),
    edit("join_points", index=index),
    edit("close_line", closed=st.booleans()),
    edit("set_heights", heights_m=st.lists(st.floats(0, 9), min_size=1, max_size=7), first=index),
    edit("add_found", kind=st.sampled_from(sorted(found_kinds())), from_m=station, to_m=station),
    edit("add_found", kind=st.sampled_from(sorted(found_kinds())), shape=st.lists(st.tuples(near, near), min_size=1, max_size=4)),
    edit("remove_found", id=st.sampled_from(["f1", "f2", "m0"])),
    edit("place_post", at_m=station),
    edit("add_gate", at_m=station, opening_m=st.just(3.0)),
    edit("forbid", from_m=station, to_m=station),
    edit("ask_marking", ticket=st.just("T"), asked_on=st.just("2026-05-04"), wait_until=st.just("2026-05-07"), reach_m=st.just(3)),
    edit("take_marks", ticket=st.just("T"), state=st.just("marked"), expires_on=st.just("2026-06-04"), marks=st.just([{"name": "gas", "shape": [[20, -9], [22, 60]], "zone_m": 0.6}])),
    edit("forget_marking"),
    edit("swath", swath_m=st.floats(0, 40)),
    edit("write_book", text=st.lists(good_lines, min_size=2, max_size=5).map("\n".join)),
)  # fmt: skip


@pytest.mark.no_cover
@given(st.booleans(), st.lists(edits, min_size=1, max_size=7))
def test_any_run_of_edits_of_the_ground_leaves_a_whole_job(closed, changes):
    job = field(closed)
    for change in changes:
        try:
            after = apply(job, read_edit(change))
            made = plan(after)
        except BadInput as error:
            one_sentence(error)
            continue
        assert read_job(after.job.canonical_json()) == after.job, "what is saved reads back the same"
        assert json.loads(after.job.canonical_json())["format"] == "gnomonic-job/2"
        line = course(after.line)
        rows = legs(after.line, line)
        assert sum(r.level_m for r in rows) == pytest.approx(line.length_m)
        assert [r.number for r in rows] == list(range(len(after.line.points) - (not after.line.closed)))
        for thing in [*after.gates, *after.posts]:
            assert thing.at_m >= 0
        for stretch in made.barred:
            assert (
                0
                <= stretch.from_m
                <= stretch.to_m
                <= max(line.length_m, stretch.to_m if not stretch.found_id else 0) + 1e-6
            )
            if stretch.found_id and stretch.kept:
                loose = [p for p in made.posts if stretch.from_m + 1e-6 < p.station_m < stretch.to_m - 1e-6]
                assert all(p.kind in ("terminal", "brace") or p.role == "bend" or p.forced or loose for p in loose)
        found = figures(after, made)
        assert (found.figure is None) != after.line.closed and found.swath_m2 > 0
        assert sum(p.area_m2 for p in found.parts) == pytest.approx(found.figure.area_m2 if found.parts else 0)
        assert len(walk_list(made)) == sum(f.kind != "internal" for f in after.found)
        for snag in snags(after, made, date(2026, 5, 20)):
            assert snag.title.text("us") and snag.consequence.text("metric") and 0 <= snag.at_m <= line.length_m
        job = after


anything = st.recursive(
    st.none() | st.booleans() | st.integers(-5, 200) | st.floats() | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=6), inner, max_size=3),
    max_leaves=8,
)


@given(edits, st.data())
def test_an_edit_with_one_key_spoiled_is_refused_or_whole(change, data):
    key = data.draw(st.sampled_from(sorted(change)))
    spoiled = {**change, key: data.draw(anything)}
    try:
        after = apply(field(False), read_edit(spoiled))
    except BadInput as error:
        one_sentence(error)
    else:
        assert read_job(after.job.canonical_json()) == after.job
