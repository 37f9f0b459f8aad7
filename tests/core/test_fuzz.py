"""Anything at all, thrown at what takes input from outside: an answer or one clear sentence, never another error."""

import json
import math

import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from places import apply, examples, fence, plan, snags_of

from gnomonic.core.calc import KINDS, calc, read_json
from gnomonic.core.choose.rank import rank
from gnomonic.core.demand.animals import shipped
from gnomonic.core.demand.system import systems
from gnomonic.core.edits.all import read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.label import read_label
from gnomonic.core.finish.gates import gate_kinds
from gnomonic.core.haul.takeoff import take_off
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.core.job.reading import read_job
from gnomonic.core.plan.road import PlanMemo
from gnomonic.core.tell.steps import steps_of
from gnomonic.core.units import TAPE_M
from gnomonic.formats.bring_in import bring_in

anything = st.recursive(
    st.none() | st.booleans() | st.integers(-5, 200) | st.floats() | st.text(max_size=8),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=8), inner, max_size=4),
    max_leaves=12,
)


def one_sentence(error: BadInput) -> None:
    assert error.sentence.strip() and "\n" not in error.sentence
    assert "Traceback" not in error.sentence and "pydantic" not in error.sentence


EXAMPLES = {
    "setout": {
        "profile": [[0, 1], [10, 0], [20, 1]],
        "clearance_m": 0.05,
        "gap_min_m": 0.0,
        "gap_max_m": 0.1,
        "max_spacing_m": 4.0,
    },
    "brace": {"type": "h", "pull_n": 4000, "pull_height_m": 0.9, "rail_height_m": 1.05, "spacing_m": 2.4},
    "corner": {
        "runs": [
            {
                "pull_n": 4e3,
                "bearing_deg": 10,
                "pull_height_m": 0.9,
                "rail_height_m": 1.05,
                "spacing_m": 2.4,
                "panels": 2,
            }
        ]
    },
    "lift": {"pull_n": 4000, "m1": -0.1, "m2": 0.12},
    "press": {
        "wires": [{"d_m": 0.0025, "a0_m": 0.004, "p_m": 0.15}],
        "pull_n": 900,
        "a_m": 3,
        "b_m": 4,
        "depth_m": 0.5,
    },
    "stringline": {"profile": [[0, 1], [10, 0], [20, 1]], "h_min_m": 1.1},
    "gate_opening": {"leaf_m": 4.8, "hinge_gap_m": 0.05, "latch_gap_m": 0.03, "hinge_post_m": 0.2, "latch_post_m": 0.2},
    "gate_sweep": {"leaf_m": 3.6, "m1": 0.1, "m2": -0.05},
    "cable": {"w_n_per_m": 150.0, "span_m": 9.0, "sag_m": 0.6},
    "wind": {"speed_m_s": 30, "height_m": 2.4, "bay_m": 4.8, "label": "20-96-6"},
    "embed": {"method": "broms_clay", "cu_pa": 5e4, "b_m": 0.15, "depth_m": 1.0, "e_m": 0.5},
    "backfill": {"fill": "concrete", "hole_m": 0.3, "post_m": 0.1, "depth_m": 0.8},
    "pull": {
        "task": "profile",
        "wires": [{"d_m": 0.0025, "a0_m": 0.004, "p_m": 0.15}],
        "pull_n": "half_first",
        "length_m": 90.0,
    },
    "tieoff": {"what": "end", "method": "tie", "wires": [{"d_m": 0.0025, "count": 9}]},
    "dummy": {
        "pull_n": 2800.0,
        "pull_height_m": 0.65,
        "rail_height_m": 0.95,
        "top_m": 1.27,
        "end_post_m": 0.18,
        "loose_post_m": 0.15,
    },
    "rolls": {"roll_m": 100.0, "runs_m": [60.0, 60.0], "overlap_m": 0.3, "piece_min_m": 3.0},
    "label": {"label": "9-49-6"},
    "gauge": {"gauge": 12.5},
    "traverse": {"legs": [{"bearing_deg": 0, "dist_m": 100}, {"bearing_deg": 120, "slope_m": 100, "vert_deg": 3}]},
    "levels": {"start_rl_m": 50.0, "readings": [{"back_m": 1.5}, {"fore_m": 1.1}]},
    "square": {"a_m": 12.0, "b_m": 9.0},
    "demand": {"animals": [{"animal": "sheep", "side": "left", "also": ["jump"]}]},
    "layers": {"height_m": 1.4, "widths": [{"name": "a", "width_m": 0.9, "mesh_m": 0.0254}]},
    "chainlink": {"sides_m": [12.0, 9.5]},
    "stock": {"need": [{"length_m": 2.0, "count": 3}], "buy": [{"length_m": 4.1, "price": 7.5}]},
    "buy": {
        "need": [{"item": "clip", "qty": 60}],
        "suppliers": [{"name": "a", "delivery": 10, "offers": [{"item": "clip", "pack": 25, "price": 4}]}],
    },
    "eac": {"cost": 1000.0, "rate": 0.05, "years": 10},
    "days": {"tasks": [{"id": "drill", "hours": 2.5}], "crew": 1},
    "mass": {"of": "wire", "d_m": 0.0025, "length_m": 100.0},
}


@pytest.mark.parametrize("kind", sorted(KINDS))
@given(data=st.data())
def test_pocket_sums_with_one_field_spoiled(kind, data):
    ask = dict(EXAMPLES[kind])
    field = data.draw(st.sampled_from(sorted(ask)))
    ask[field] = data.draw(anything)
    try:
        answer = calc(kind, ask)
    except BadInput as error:
        one_sentence(error)
    else:
        json.dumps(answer, allow_nan=False)
        assert answer["why"] and all(set(w) == {"rule", "working", "source"} for w in answer["why"])


IN_PLACE_OF = {("stock", "buy"): "need[0].length_m"}  # without a length to cut from it is the piece that fits none


@pytest.mark.parametrize(("kind", "field"), [(kind, field) for kind, ask in sorted(EXAMPLES.items()) for field in ask])
def test_pocket_sums_with_one_field_missing_or_misspelt(kind, field):
    ask = EXAMPLES[kind]
    without = {k: v for k, v in ask.items() if k != field}
    with pytest.raises(BadInput) as missing:
        calc(kind, without)
    assert missing.value.field == IN_PLACE_OF.get((kind, field), field)
    with pytest.raises(BadInput) as misspelt:
        calc(kind, {**ask, field + "x": ask[field]})
    assert misspelt.value.field == field + "x" and "not a key" in misspelt.value.sentence


@given(anything)
def test_pocket_sums_with_anything(data):
    for kind in KINDS:
        with pytest.raises(BadInput) as caught:
            calc(kind, data)
        one_sentence(caught.value)


@given(st.text(max_size=60) | st.binary(max_size=60))
def test_json_text(text):
    try:
        read_json(text)
    except BadInput as error:
        one_sentence(error)


@given(st.text(alphabet='0123456789-–/½¼ ."ga', max_size=14))
def test_labels(text):
    try:
        reading = read_label(text)
    except BadInput as error:
        one_sentence(error)
    else:
        assert reading.words
        if reading.kind == "woven":
            again = read_label(f"{reading.line_wires}-{reading.height_in:g}-{reading.stay_in:g}")
            assert again == reading


lines_of_text = st.text(alphabet="NSEW0123456789 .,;-+'\"°mftin#\n<>{}[]", max_size=80)


@given(
    st.sampled_from(["a.gpx", "a.geojson", "a.csv", "a.legs", "a.txt", "a"]),
    st.binary(max_size=120) | lines_of_text.map(str.encode),
)
@example("a.legs", b"N 5 E 10 m\nS 5 W 10 m\n")
@example("a.csv", b"station (m),height (m)\n0,1e308\n1,-1e308\n")
@example("a.geojson", b'{"type":"LineString","coordinates":[[1e400,0],[0,0]]}')
@example("a.geojson", b'{"type":"LineString","coordinates":null}')
@example("a.geojson", b'{"type":"Polygon","coordinates":[]}')
@example("a.geojson", b"[" * 5000)
@example("a.gpx", b'<gpx><trk><trkseg><trkpt lat="1" lon="1"/></trkseg><trkseg/></trk></gpx>')
def test_files(name, data):
    try:
        brought = bring_in(name, data)
    except BadInput as error:
        one_sentence(error)
    else:
        assert len(brought.line.points) >= 2 and math.isfinite(brought.course.length_m)


@given(anything)
def test_job_documents(data):
    with pytest.raises(BadInput) as caught:
        read_job(json.dumps(data))
    one_sentence(caught.value)


@given(
    st.dictionaries(
        st.sampled_from(["do", "key", "value", "at_m", "from_m", "to_m", "id", "name", "label"]), anything, max_size=4
    )
)
def test_edits_with_anything(data):
    try:
        read_edit(data)
    except BadInput as error:
        one_sentence(error)


stations = st.floats(0, 84).map(lambda v: round(v, 2))
edits = st.one_of(
    st.builds(lambda s: {"do": "place_post", "at_m": s}, stations),
    st.builds(lambda a, b: {"do": "move_post", "from_m": a, "to_m": b}, stations, stations),
    st.builds(
        lambda a, w: {"do": "forbid", "from_m": a, "to_m": round(a + w, 2), "reason": "rock"},
        stations,
        st.floats(0.1, 2.5),
    ),
    st.builds(
        lambda a, w: {"do": "add_gate", "at_m": a, "opening_m": w}, stations, st.floats(1, 6).map(lambda v: round(v, 2))
    ),
    st.builds(
        lambda a, leaf, kind: {"do": "add_gate", "at_m": a, "leaf_m": leaf, "kind": kind},
        stations,
        st.floats(0.3, 5).map(lambda v: round(v, 2)),
        st.sampled_from(sorted(gate_kinds())),
    ),
    st.builds(
        lambda k, side, lie, opened, rise: {
            "do": "set_gate",
            "id": f"g{k}",
            "side": side,
            "lie": lie,
            "open_deg": opened,
            "rise_left": rise,
        },
        st.integers(1, 3),
        st.sampled_from(["", "left", "right"]),
        st.sampled_from(["", "level", "land"]),
        st.floats(10, 180),
        st.floats(-1, 1),
    ),
    st.builds(
        lambda a, w: {"do": "add_found", "kind": "water", "name": "beck", "from_m": a, "to_m": round(a + w, 2)},
        stations,
        st.floats(0.1, 9),
    ),
    st.builds(
        lambda a, flood, how: {"do": "say_crossing", "at_m": a, "flood_m": flood, "how": how},
        stations,
        st.floats(0, 1.2),
        st.sampled_from(["hung", "over"]),
    ),
    st.builds(
        lambda kind: {"do": "brace_end", "kind": kind}, st.sampled_from(["", "h", "strut", "box", "deadman", "none"])
    ),
    st.just({"do": "mend_gates", "how": "widen"}),
    st.builds(lambda k: {"do": "remove_gate", "id": f"g{k}"}, st.integers(1, 3)),
    st.builds(
        lambda v: {"do": "decide", "key": "longest_bay_m", "value": v}, st.floats(2, 5).map(lambda v: round(v, 2))
    ),
    st.builds(lambda v: {"do": "decide", "key": "corner_angle_deg", "value": v}, st.floats(5, 90).map(round)),
    st.builds(lambda v: {"do": "decide", "key": "brace_panels", "value": v}, st.integers(1, 3)),
    st.builds(lambda v: {"do": "decide", "key": "roll_m", "value": v}, st.floats(20, 120).map(round)),
    st.builds(lambda v: {"do": "decide", "key": "longest_run_m", "value": v}, st.floats(10, 60).map(round)),
    st.builds(
        lambda choice, n: {
            "do": "hang_barrier",
            "system": choice[0],
            "label": choice[1],
            "extras": list(choice[2][:n]),
        },
        st.sampled_from(
            [(s.key, label, [e.key for e in s.extras]) for s in systems().values() for label in s.labels()]
        ),
        st.integers(0, 2),
    ),
    st.builds(
        lambda names, years, only: {
            "do": "say_hold",
            "hold": {"animals": [{"animal": a, "side": s} for a, s in names], "years": years, "only": only},
        },
        st.lists(st.tuples(st.sampled_from(sorted(shipped().animals)), st.sampled_from(["left", "right"])), max_size=3),
        st.sampled_from([0, 2, 30]),
        st.sampled_from(["", "barbs", "mesh", "wires"]),
    ),
)


def bent_line(closed):
    shape = [(0, 0, 5), (22, 3, 5.5), (40, -2, 4.4), (41, 18, 5), (20, 21, 5.2)]
    points = tuple(Point(e_m=float(e), n_m=float(n), h_m=h) for e, n, h in shape)
    return fence("Bent", MeasuredLine(points=points, closed=closed, source=Source(kind="legs", points_read=5)))


@pytest.mark.no_cover
@examples(100, 14)
@given(st.booleans(), st.lists(edits, max_size=8))
def test_any_run_of_edits_leaves_a_plan_that_can_be_built(closed, changes):
    job, memo = bent_line(closed), PlanMemo()
    made = plan(job, memo)
    for change in changes:
        try:
            after = apply(job, read_edit(change))
            made = plan(after, memo)
            job = after
        except BadInput as error:
            one_sentence(error)
            made = plan(job, memo)
    posts = [p.station_m for p in made.posts]
    assert posts == sorted(posts) and len(set(posts)) == len(posts)
    assert posts == [p.station_m for p in plan(job).posts], "what was kept from before never changes the answer"
    for gate in made.gates:
        assert not any(gate.at_m + 0.31 < s < gate.at_m + gate.opening_m - 0.31 for s in posts)
    for over in made.crossings:
        assert not any(over.at_m + 1e-6 < s < over.to_m - 1e-6 for s in posts)
        assert not any(b.from_m < over.to_m - 1e-6 and over.at_m + 1e-6 < b.to_m for b in made.bays)
    assert snags_of(job, made) is not None
    inner = {round(s, 6) for b in made.braces for s in b.end.stations_m}
    ends = {round(t.station_m, 6) for r in made.runs for t in (r.start, r.end)}
    for bay in made.bays:
        assert (
            0 < bay.to_m - bay.from_m <= max(job.decisions.longest_bay_m, 1.25 * job.decisions.brace_spacing_m) + TAPE_M
        )
    for post in made.posts:
        if round(post.station_m, 6) not in inner | ends | {0.0} and abs(post.turn_deg) <= 8:  # a bend keeps its post
            assert not any(s.from_m + 1e-6 < post.station_m < s.to_m - 1e-6 for s in job.forbidden)
    fabric = made.rolls
    for k, need in enumerate(fabric.need_m):
        pieces = fabric.rolls.pieces[k]
        assert sum(p.length_m for p in pieces) - (len(pieces) - 1) * job.decisions.overlap_m == pytest.approx(need)
    for snag in snags_of(job, made):
        assert snag.title.text("us") and 0 <= snag.at_m <= made.course.length_m
        for remedy in snag.remedies:
            read_edit(remedy.edit)
    assert take_off(job, made) and steps_of(job, made)
    ranking = rank(job, made, shipped())
    assert ranking.tried and all(c.cost > 0 and c.labour > 0 for c in (*ranking.meets, *ranking.near))
