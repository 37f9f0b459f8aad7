"""Mending the line by hand, what was found on it, and the marking of services: edits of the ground."""

import math
from datetime import date

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from places import TODAY, apply, fence, plan, snags_of

from gnomonic.core.edits.all import read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import course
from gnomonic.core.ground.found import found_kinds, on_line, stretches_near
from gnomonic.core.ground.marking import covered, state_of, white_lining
from gnomonic.core.ground.regions import across, swath_m2, whole
from gnomonic.core.ground.simplify import simplify
from gnomonic.core.ground.walking import Fix, Watch, apart_m, average, worth_keeping
from gnomonic.core.job.document import Job
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.core.plan.model import hand_dug
from gnomonic.core.snags.all import snags
from gnomonic.core.tell.walk_list import figures, walk_list


def job_of(*places, closed=False, **more):
    points = tuple(Point(e_m=e, n_m=n, h_m=h) for e, n, h in places)
    line = MeasuredLine(points=points, closed=closed, source=Source(kind="csv", points_read=len(points)), **more)
    return fence("j", line)


def does(job, *edits):
    for edit in edits:
        job = apply(job, read_edit(edit))
    return job


STRAIGHT = job_of((0, 0, 0), (40, 0, 1), (80, 0, 0))
FIELD = job_of((0, 0, 0), (60, 0, 0), (60, 40, 0), (0, 40, 0), closed=True)


def table(job):
    return [(round(p.e_m, 3), round(p.n_m, 3), round(p.h_m, 3)) for p in job.line.points]


@pytest.mark.parametrize(
    ("edit", "points"),
    [
        ({"do": "move_point", "index": 1, "e_m": 40, "n_m": 5}, [(0, 0, 0), (40, 5, 1), (80, 0, 0)]),
        ({"do": "move_point", "index": 1, "e_m": 40, "n_m": 5, "h_m": 2}, [(0, 0, 0), (40, 5, 2), (80, 0, 0)]),
        ({"do": "add_point", "e_m": 90, "n_m": 0}, [(0, 0, 0), (40, 0, 1), (80, 0, 0), (90, 0, 0)]),
        ({"do": "add_point", "e_m": -9, "n_m": 0, "at_start": True}, [(-9, 0, 0), (0, 0, 0), (40, 0, 1), (80, 0, 0)]),
        ({"do": "split_leg", "at_m": 20}, [(0, 0, 0), (20, 0, 0.5), (40, 0, 1), (80, 0, 0)]),
        ({"do": "split_leg", "at_m": 60, "e_m": 60, "n_m": 3}, [(0, 0, 0), (40, 0, 1), (60, 3, 0.5), (80, 0, 0)]),
        ({"do": "remove_point", "index": 1}, [(0, 0, 0), (80, 0, 0)]),
        ({"do": "join_points", "index": 1}, [(0, 0, 0), (60, 0, 0.5)]),
        ({"do": "set_heights", "heights_m": [5, 6], "first": 1}, [(0, 0, 0), (40, 0, 5), (80, 0, 6)]),
    ],
)
def test_each_way_of_mending(edit, points):
    mended = does(STRAIGHT, edit)
    assert table(mended) == points and plan(mended).posts


@pytest.mark.parametrize(
    ("job", "edit", "words"),
    [
        (STRAIGHT, {"do": "move_point", "index": 9, "e_m": 0, "n_m": 0}, "there is no point 10"),
        (STRAIGHT, {"do": "move_point", "index": 0, "e_m": 40, "n_m": 0}, "would be the same place"),
        (STRAIGHT, {"do": "remove_point", "index": 5}, "there is no point 6"),
        (STRAIGHT, {"do": "split_leg", "at_m": 90}, "a leg is split between 0 and 80.00 m"),
        (STRAIGHT, {"do": "join_points", "index": 2}, "the last point has no next one"),
        (STRAIGHT, {"do": "close_line", "closed": False}, "open already"),
        (STRAIGHT, {"do": "set_heights", "heights_m": [1, 2, 3], "first": 1}, "more than the line's 3 points"),
        (FIELD, {"do": "add_point", "e_m": 5, "n_m": 5}, "has no end to run on from"),
        (FIELD, {"do": "move_point", "index": 1, "e_m": 5, "n_m": 60}, "would cross itself: leg"),
        (job_of((0, 0, 0), (9, 0, 0)), {"do": "remove_point", "index": 0}, "too few points"),
        (STRAIGHT, {"do": "drape", "stations_m": [0, 80], "heights_m": [0, 1], "cell_m": 1}, "leave out some points"),
        (STRAIGHT, {"do": "drape", "stations_m": [0, 80], "heights_m": [0, 1, 2], "cell_m": 1}, "3 heights for 2"),
        (STRAIGHT, {"do": "add_found", "kind": "dragon", "from_m": 1, "to_m": 2}, "no kind of find called dragon"),
        (STRAIGHT, {"do": "add_found", "kind": "rock", "from_m": 100, "to_m": 101}, "beyond the line's end"),
        (STRAIGHT, {"do": "add_found", "kind": "rock", "from_m": 9, "to_m": 2}, "ends before it starts"),
        (STRAIGHT, {"do": "add_found", "kind": "rock"}, "between two stations"),
        (STRAIGHT, {"do": "remove_found", "id": "f1"}, "nothing called f1"),
        (STRAIGHT, {"do": "take_marks", "ticket": "T", "state": "clear", "expires_on": "2026-01-01"}, "did not ask"),
        (STRAIGHT, {"do": "write_book", "text": "N 5 E 10"}, "have no unit"),
        (STRAIGHT, {"do": "write_book", "text": "N 0 E 9 m\nE 9 m\nS 45 W 20 m\nN 45 W 30 m"}, "would cross itself: leg 1 would meet leg 3"),
    ],
)  # fmt: skip
def test_mending_that_cannot_be(job, edit, words):
    with pytest.raises(BadInput) as caught:
        does(job, edit)
    assert words in caught.value.sentence


def test_closing_and_opening():
    open_field = does(FIELD, {"do": "close_line", "closed": False})
    assert course(open_field.line).length_m == 160 and not plan(open_field).course.closed
    assert does(open_field, {"do": "close_line", "closed": True}).line == FIELD.line


@given(st.floats(3, 75), st.sampled_from(["split_leg", "move_point", "add_point", "remove_point"]), st.floats(-4, 4))
def test_what_lives_at_stations_keeps_its_place_on_the_ground(station, do, off):
    job = does(
        STRAIGHT,
        {"do": "place_post", "at_m": station},
        {"do": "add_found", "kind": "wire", "from_m": station, "to_m": min(80, station + 2)},
    )
    edit = {
        "split_leg": {"at_m": 12.5},
        "move_point": {"index": 2, "e_m": 85, "n_m": off},
        "add_point": {"e_m": -10, "n_m": 0, "at_start": True},
        "remove_point": {"index": 1},
    }[do]
    mended = does(job, {"do": do, **edit})
    was, now = course(job.line), course(mended.line)
    old, new = was.place(station), now.place(mended.posts[0].at_m)
    beyond = station > 40 and do == "move_point"
    assert math.dist(old, new) < (11 if beyond else 1e-6)
    find = mended.found[0]
    lies = find.shape[0] if find.from_m is None else now.place(find.from_m)
    assert math.dist(old, lies) < 0.05  # what was found stays where it was found


# FIELD is 60 by 40, closed: corners at stations 0, 60, 100 and 160.
ON_FIELD = [
    {"do": "forbid", "from_m": 5.0, "to_m": 8.0, "reason": "old well"},
    {"do": "forbid", "from_m": 110.0, "to_m": 113.0, "reason": "ledge"},
    {"do": "forbid", "from_m": 170.0, "to_m": 173.0, "reason": "stump"},
    {"do": "add_found", "kind": "rock", "name": "slab", "from_m": 20.0, "to_m": 22.0},
    {"do": "add_found", "kind": "service", "name": "water main", "from_m": 30.0, "to_m": 30.0},
    {"do": "add_gate", "at_m": 70.0, "opening_m": 4.0, "name": "field gate"},
    {"do": "add_gate", "at_m": 180.0, "opening_m": 4.0, "name": "lane gate"},
]


def places_of(job):
    """Where everything is on the ground, by name."""
    line = course(job.line)
    found = {f.name: (f.shape or [line.place(f.from_m), line.place(f.to_m)])[0] for f in job.found}
    return (
        found
        | {g.name: line.place(g.at_m) for g in job.gates}
        | {s.reason: line.place(s.from_m) for s in job.forbidden}
    )


def test_taking_out_the_first_point_of_a_closed_line_names_what_it_moves_and_leaves_the_rest_where_it_is():
    """Without the corner at station 0 the sides of 60 m and 40 m beside it become one diagonal: the well and the stump, with
    the lane gate, lay on them; the ledge and the field gate lie on the sides that stay, the slab and the main in the
    ground, wherever the line runs."""
    job = does(FIELD, *ON_FIELD)
    edit = {"do": "remove_point", "index": 0}
    with pytest.raises(BadInput) as caught:
        does(job, edit)
    assert caught.value.field == "lose" and "lane gate at 180.00 m would move by" in caught.value.sentence
    assert "field gate" not in caught.value.sentence
    before, after = places_of(job), places_of(does(job, {**edit, "lose": True}))
    for name in ("ledge", "field gate", "slab", "water main"):
        assert math.dist(before[name], after[name]) < 1e-6, name
    assert set(after) == set(before)  # nothing is dropped


def test_a_side_goes_with_the_line_past_the_place_where_it_begins_anew():
    """A neighbour from 50 m to 110 m, round the corner at 60 m that becomes the beginning.  The first side is now nine tenths of
    the diagonal of 72.11 m from the corner at 100 m: the last 7.21 m of the line, and its first 50 m."""
    job = does(FIELD, {"do": "add_found", "kind": "neighbour", "from_m": 50, "to_m": 110, "side": "left"})
    made = does(job, {"do": "remove_point", "index": 0})
    ends = [(f.id, round(f.from_m, 2), round(f.to_m, 2)) for f in made.found]
    assert ends == [("f1", 164.9, 172.11), ("f2", 0.0, 50.0)]


def test_opening_a_line_names_what_lay_on_the_leg_that_goes():
    job = does(FIELD, *ON_FIELD)
    with pytest.raises(BadInput) as caught:
        does(job, {"do": "close_line", "closed": False})
    assert "lane gate at 180.00 m would go" in caught.value.sentence and "(stump) would go" in caught.value.sentence
    opened = does(job, {"do": "close_line", "closed": False, "lose": True})
    assert [g.name for g in opened.gates] == ["field gate"] and [s.reason for s in opened.forbidden] == [
        "old well",
        "ledge",
    ]
    assert math.dist(places_of(job)["water main"], places_of(opened)["water main"]) < 1e-6


def test_taking_the_first_point_of_an_open_line_out_never_slides_what_lay_there_to_the_start():
    job = does(STRAIGHT, ON_FIELD[4], {"do": "place_post", "at_m": 10.0})
    with pytest.raises(BadInput, match=r"the post placed by hand at 10\.00 m would go"):
        does(job, {"do": "remove_point", "index": 0})
    shorter = does(job, {"do": "remove_point", "index": 0, "lose": True})
    assert shorter.posts == () and shorter.found[0].shape == ((30.0, 0.0),)
    assert on_line(course(shorter.line), shorter.found)[0].stretches == ()


@pytest.mark.parametrize(
    ("edit", "drawn"),
    [
        ({"do": "move_point", "index": 1, "e_m": 0.5, "n_m": 30.0}, [1, 2]),
        ({"do": "remove_point", "index": 1}, [1]),
        ({"do": "join_points", "index": 1}, [1, 2]),
        ({"do": "split_leg", "at_m": 10.0, "e_m": 1.0, "n_m": 10.0}, [1, 2]),
    ],
)
def test_legs_that_nobody_measured_no_longer_say_tape(edit, drawn):
    job = does(STRAIGHT, {"do": "write_book", "text": "N 0 E 30 m\nE 30 m\nS 30 m\nE 20 m\nN 10 m"})
    mended = does(job, edit)
    assert [k for k, p in enumerate(mended.line.points) if p.how == "drawn"] == drawn
    assert {p.how for k, p in enumerate(mended.line.points) if k and k not in drawn} == {"tape"}


def test_a_book_kept_with_the_line_and_mended_by_hand():
    text = "N 0 E 30 m  +1 m @ gate\nE 30 m\nS 30.1 m\nW 29.9 m\nclose"
    job = does(STRAIGHT, {"do": "write_book", "text": text})
    assert job.line.closed and job.line.book.text == text and job.line.points[1].name == "gate"
    assert [p.how for p in job.line.points] == ["", "tape", "tape", "tape"] and job.line.points[1].good_m > 0
    spread = does(job, {"do": "write_book", "text": text, "adjust": "compass"})
    assert spread.line.points[3].n_m == pytest.approx(-0.1 + 0.1 * 90.1 / 120, abs=1e-6)
    moved = does(job, {"do": "move_point", "index": 2, "e_m": 31, "n_m": 31})
    assert moved.line.book.mended and moved.line.points[2].how == "drawn"
    assert not does(moved, {"do": "write_book", "text": text}).line.book.mended


def test_every_kind_of_find_does_what_its_row_says():
    effects = {k.effect for k in found_kinds().values()}
    assert effects == {"no_post", "hand_dig", "wood", "post", "gate", "look"}
    base = plan(STRAIGHT)
    stations = [p.station_m for p in base.posts]
    at = next(p.station_m for p in base.posts if p.kind == "steel" and p.station_m > 50)
    for key, kind in found_kinds().items():
        job = does(STRAIGHT, {"do": "add_found", "kind": key, "from_m": at - 0.4, "to_m": at + 0.4})
        made = plan(job)
        near = [p for p in made.posts if abs(p.station_m - at) < 0.35]
        if kind.effect in ("no_post", "hand_dig"):
            assert not near and not hand_dug(made), key
        elif kind.effect == "wood":
            assert [p.kind for p in near] == ["wood"] and near[0].because, key
            assert near[0].depth_m == pytest.approx(0.762 + kind.deeper_m), key
        elif kind.effect == "gate":
            (snag,) = [s for s in snags_of(job, made) if s.code == "gate-wanted"]
            assert len(plan(does(job, snag.remedies[0].edit)).gates) == 1
            assert not [
                s
                for s in snags_of(does(job, snag.remedies[0].edit), plan(does(job, snag.remedies[0].edit)))
                if s.code == "gate-wanted"
            ]
        elif kind.effect == "post":
            assert any(abs(p.station_m - at) < 1e-6 for p in made.posts), key
        else:
            assert [p.station_m for p in made.posts] == stations, key


def test_a_zone_no_bay_can_span_is_flagged_hand_dig_and_a_corner_in_one_too():
    wide = does(STRAIGHT, {"do": "add_found", "kind": "service", "name": "gas pipe", "from_m": 50, "to_m": 62})
    made = plan(wide)
    inside = [p for p in made.posts if 49.4 < p.station_m < 62.6]
    assert inside and hand_dug(made) == {p.index for p in inside}
    (snag,) = [s for s in snags_of(wide, made) if s.code == "hand-dig"]
    assert snag.grave and "gas pipe" in snag.title.text("us") and "no bay spans" in snag.consequence.text("us")
    corner = does(FIELD, {"do": "add_found", "kind": "service", "shape": [[55, -5], [65, 5]], "zone_m": 0.5})
    (snag,) = [s for s in snags_of(corner, plan(corner)) if s.code == "hand-dig"]
    assert "can't move it" in snag.consequence.text("metric") and snag.at_m == pytest.approx(60)
    rock = does(STRAIGHT, {"do": "add_found", "kind": "rock", "from_m": 50, "to_m": 62})
    (snag,) = [s for s in snags_of(rock, plan(rock)) if s.code == "in-the-way"]
    assert not snag.grave and "slow holes" in snag.consequence.text("us")


@given(
    st.lists(st.tuples(st.floats(-5, 65), st.floats(-5, 45)), min_size=1, max_size=4, unique=True), st.floats(0.1, 3)
)
def test_stretches_are_where_the_line_runs_within_reach_of_a_shape(shape, reach):
    line = course(FIELD.line)
    figure = shapely.Point(shape[0]) if len(shape) == 1 else shapely.LineString(shape)
    spans = stretches_near(line, shape, reach)
    for station in np.linspace(0, line.length_m, 97).tolist():
        far = figure.distance(shapely.Point(line.place(station)))
        inside = any(low - 1e-6 <= station <= high + 1e-6 for low, high in spans)
        if abs(far - reach) > 0.01:
            assert inside == (far < reach)


def test_an_area_and_a_crossing_line():
    line = course(STRAIGHT.line)
    area = [(10, -5), (20, -5), (20, 5), (10, 5), (10, -5)]
    assert stretches_near(line, area, 0) == [(10, 20)]
    (crossing,) = stretches_near(line, [(30, -5), (30, 5)], 0)
    assert crossing == pytest.approx((30, 30))
    assert (
        on_line(line, does(STRAIGHT, {"do": "add_found", "kind": "rock", "shape": [[5, 50]]}).found)[0].stretches == ()
    )


ASK = {"do": "ask_marking", "ticket": "T1", "asked_on": "2026-05-04", "wait_until": "2026-05-07", "reach_m": 3}
MARKS = [{"name": "gas pipe", "shape": [[30, -5], [30, 5]], "zone_m": 0.6}]
TAKE = {"do": "take_marks", "ticket": "T1", "state": "marked", "expires_on": "2026-06-10", "marks": MARKS}


def state(job, day=TODAY):
    return state_of(job.marking, course(job.line), day)


def test_a_marking_from_asking_to_running_out():
    def top(job, day=TODAY):
        first = snags(job, plan(job), day)[:1]
        return first[0] if first and first[0].code == "unmarked" else None

    assert (
        state(STRAIGHT) == "not asked" and top(STRAIGHT).grave and "do not dig" in top(STRAIGHT).consequence.text("us")
    )
    asked = does(STRAIGHT, ASK)
    assert state(asked) == "requested" and "not in" in top(asked).title.text("us")
    marked = does(asked, TAKE)
    assert state(marked) == "marked" and top(marked) is None
    assert [(f.id, f.ticket, f.kind) for f in marked.found] == [("m0", "T1", "service")]
    assert state(marked, date(2026, 6, 10)) == "marked" and state(marked, date(2026, 6, 11)) == "expired"
    assert "run out" in top(marked, date(2026, 6, 11)).title.text("us")
    astray = does(marked, {"do": "add_point", "e_m": 95, "n_m": 20})
    assert state(astray) == "elsewhere" and not covered(astray.marking, course(astray.line))
    assert state(does(marked, {"do": "move_point", "index": 1, "e_m": 40, "n_m": 2})) == "marked", (
        "within what was asked"
    )
    again = does(marked, {**ASK, "ticket": "T2"})
    assert again.found == () and state(again) == "requested"
    assert does(marked, {"do": "forget_marking"}).marking is None
    clear = does(asked, {**TAKE, "state": "clear", "marks": []})
    assert state(clear) == "clear" and Job.model_validate_json(clear.job.canonical_json()) == clear.job
    with pytest.raises(BadInput, match="either clear"):
        does(asked, {**TAKE, "state": "clear"})


def test_white_lining_names_ends_corners_and_every_fifty_feet():
    marks = white_lining(course(FIELD.line), [0.0, 60.0, 100.0, 160.0])
    assert [m.why for m in marks if m.why != "between"] == ["corner"] * 4
    gaps = np.diff([m.station_m for m in marks] + [200.0])
    assert gaps.max() <= 15.24 + 1e-9 and marks[-1].station_m < 200


def test_figures_of_the_ground():
    assert (whole(course(FIELD.line)).area_m2, whole(course(FIELD.line)).perimeter_m) == (2400, 200)
    assert whole(course(STRAIGHT.line)) is None and across(course(STRAIGHT.line), [[(0, 0), (1, 1)]]) == []
    parts = across(course(FIELD.line), [[(20, 1), (20, 39)], [(20, 10), (61, 10)]])
    assert [p.area_m2 for p in parts] == pytest.approx([1200, 800, 400])
    assert sum(p.area_m2 for p in parts) == pytest.approx(2400)
    assert swath_m2(course(STRAIGHT.line), 3) == pytest.approx(480)
    job = does(
        FIELD,
        {"do": "add_found", "kind": "internal", "shape": [[30, 0], [30, 40]]},
        {"do": "add_found", "kind": "tree", "from_m": 5, "to_m": 5, "count": 3},
        {"do": "add_found", "kind": "tree", "from_m": 9, "to_m": 9},
        {"do": "add_found", "kind": "scrap", "name": "nails", "from_m": 50, "to_m": 55, "side": "left"},
        {"do": "add_found", "kind": "wire", "shape": [[30, 20]]},
        {"do": "swath", "swath_m": 2},
    )
    found = figures(job, plan(job))
    assert found.to_fell == 4 and [p.area_m2 for p in found.parts] == [1200, 1200] and found.swath_m == 2
    rows = walk_list(plan(job))
    assert [r.group for r in rows] == ["hazard", "hazard", "ground", "ground"] and rows[1].title.endswith("nails")
    assert rows[0].where.text("us") == "beside the line" and rows[1].where.text("metric") == "50.00 m to 55.00 m"


def test_snags_of_heights():
    assert "level" in {
        s.code for s in snags_of(job_of((0, 0, 0), (9, 0, 0), level=True), plan(job_of((0, 0, 0), (9, 0, 0))))
    }
    draped = does(
        STRAIGHT,
        {"do": "drape", "stations_m": [0, 40, 60, 80], "heights_m": [1, 2, 3, 1], "cell_m": 1.0, "file": "h.asc"},
    )
    assert table(draped)[2] == (60, 0, 3) and draped.line.points[2].how == "grid"
    (snag,) = [s for s in snags_of(draped, plan(draped)) if s.code == "grid"]
    assert "narrower than 2.000 m" in snag.consequence.text("metric")


def fix(t, east=0.0, north=0.0, quality=4, good=0.02, h=5.0):
    return Fix(
        t,
        -30 + math.degrees(east / 6_371_000 / math.cos(math.radians(47))),
        47 + math.degrees(north / 6_371_000),
        h,
        quality,
        12,
        0.8,
        good,
    )


def test_a_jump_is_flagged_until_it_proves_true():
    watch = Watch()
    assert [watch.judge(fix(k * 0.1, k * 0.14)) for k in range(20)] == ["good"] * 20
    assert [watch.judge(fix(2 + k * 0.1, 42)) for k in range(5)] == ["jump"] * 5
    assert watch.judge(fix(2.5, 3.0)) == "good", "back where the walker is"
    assert watch.judge(fix(2.6, quality=0)) == "nofix"
    verdicts = [watch.judge(fix(3 + k * 0.1, 60 + k * 0.1)) for k in range(40)]
    assert verdicts[:29] == ["jump"] * 29 and verdicts[29:] == ["good"] * 11, "thirty that agree are believed"


def test_a_stop_is_averaged_without_its_jumps():
    noise = np.random.default_rng(3).normal(0, 0.02, (50, 2))
    seen = [fix(k * 0.1, e, n) for k, (e, n) in enumerate(noise.tolist())]
    stop = average([*seen, *(fix(6, 40 + k) for k in range(5)), fix(7, quality=0)])
    assert (stop.used, stop.left_out) == (50, 6) or stop.used >= 45
    assert apart_m(Fix(0, stop.lon_deg, stop.lat_deg, 0, 1), fix(0)) < 0.01 and 0.01 <= stop.good_m < 0.03
    assert average([fix(0, quality=0)]) is None
    better = average([fix(0, 0, good=0.02), fix(0, 0.05, good=1.0)])
    assert apart_m(Fix(0, better.lon_deg, better.lat_deg, 0, 1), fix(0)) < 0.001, "the better fix weighs more"


def test_only_steps_are_worth_keeping():
    assert worth_keeping(None, fix(0), 0.3) and not worth_keeping(fix(0), fix(1, 0.2), 0.3)
    assert worth_keeping(fix(0), fix(1, 0.4), 0.3) and not worth_keeping(fix(0), fix(1, 0.4, good=1.0), 0.3)


def test_simplifying_a_straight_line_keeps_its_ends():
    line = np.column_stack([np.arange(9.0), np.zeros(9), np.zeros(9)])
    assert simplify(line, 0.01).tolist() == [0, 8]


def test_a_split_leg_keeps_how_good_it_was():
    job = does(STRAIGHT, {"do": "write_book", "text": "E 30 m\npace 0.8 m\nE 50 paces"})
    good = [p.good_m for p in job.line.points]
    split = does(job, {"do": "split_leg", "at_m": 10}, {"do": "split_leg", "at_m": 50})
    assert [p.good_m for p in split.line.points] == [None, good[1], good[1], good[2], good[2]]
    assert [p.how for p in split.line.points] == ["", "tape", "tape", "pace", "pace"]
