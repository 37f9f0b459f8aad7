"""From a Job to a plan: counts by hand, edits, snags, the tag, the take-off."""

import json
import math

import pytest
from places import apply, fence, plan, snags_of

from gnomonic.core.edits.all import read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.haul.takeoff import take_off
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.core.job.reading import read_job
from gnomonic.core.plan.road import PlanMemo
from gnomonic.core.tell.compare import against_even, difference
from gnomonic.core.tell.tag import bay_tag, post_tag, splice_tag
from gnomonic.core.tell.tag_job import job_tag
from gnomonic.core.units import TAPE_M

SOURCE = Source(kind="legs", points_read=2)


def job_of(points, closed=False, edits=()):
    line = MeasuredLine(points=tuple(Point(e_m=e, n_m=n, h_m=h) for e, n, h in points), closed=closed, source=SOURCE)
    job = fence("Test line", line)
    for edit in edits:
        job = apply(job, read_edit(edit))
    return job


def straight(length=60.0, **decisions):
    edits = [{"do": "say_soil", "soil": "stony"}] + [
        {"do": "decide", "key": k, "value": v}
        for k, v in {"longest_bay_m": 3.0, "brace_spacing_m": 2.5, **decisions}.items()
    ]
    return job_of([(0, 0, 5), (length, 0, 5)], edits=edits)


def square(side=40.0):
    return job_of([(0, 0, 5), (0, side, 5), (side, side, 5), (side, 0, 5)], closed=True)


def test_a_straight_line_counted_by_hand():
    """60 m level, 3 m bays, 2.5 m braces: 55 m between brace posts is 19 bays of 2.895 m.

    Posts: 2 terminals + 2 brace + 18 line posts, of which wood are the 5th, 10th and 15th; 15 driven steel.
    Staples: terminals 9 each, brace 9 each, wood line 2+2 and every other of 5 between = 6 each → 18+18+18 = 54.
    Clips 15×5 = 75; tie-offs 9 wires × 2 ends = 18; rails 2, pins 4; fabric 60 + 2×0.6096 → one roll; caps 15.
    Each brace's diagonal has 4 staples, a twist stick and the staple that holds it.
    Brace wire a panel: 4·√(2.5² + rail²) + 1, rail = 0.775·(0.0635 + 49 in).
    """
    made = plan(straight())
    items = {i.key: i.count for i in take_off(straight(), made)}
    rail = 0.775 * (0.0635 + 49 * 0.0254)
    assert items == {
        "post_terminal_2.44": 2, "post_brace_2.44": 2, "post_wood_2.13": 3, "post_steel_1.83": 15,
        "rail": 2, "pin": 4, "brace_wire": pytest.approx(2 * (4 * math.hypot(2.5, rail) + 1)),
        "roll": 1, "tie_off": 18, "staple": 54, "clip": 75, "cap": 15, "brace_staple": 10, "twist_stick": 2,
    }  # fmt: skip
    assert made.rolls.need_m == (pytest.approx(60 + 2 * 0.6096),)
    assert [p.kind for p in made.posts[:8]] == [
        "terminal",
        "brace",
        "steel",
        "steel",
        "steel",
        "steel",
        "wood",
        "steel",
    ]
    assert snags_of(straight(), made) == []


def test_a_closed_square_shares_its_corners():
    made = plan(square())
    assert len(made.runs) == 4 and sum(p.kind == "terminal" for p in made.posts) == 4
    assert [p.role for p in made.posts if p.kind == "terminal"] == ["corner"] * 4
    assert made.posts[0].count("tie_off") == 18 and made.bays[-1].to_post == 0
    assert len(made.posts) == sum(len(layout.stations_m) for layout in made.layout) - 4
    assert made.course.area_m2() == pytest.approx(1600)
    assert {round(abs(p.turn_deg)) for p in made.posts if p.kind == "terminal"} == {90}
    names = [f.name for f in post_tag(square(), made, 0).facts]
    assert "Rail pushes, run ahead" in names and "Rail pushes, run behind" in names


def test_slope_length_buys_fabric_and_plan_length_sets_posts():
    made = plan(job_of([(0, 0, 0), (40, 0, 10)]))
    assert made.rolls.need_m[0] == pytest.approx(math.hypot(40, 10) + 2 * 0.6096)
    assert max(b.to_m - b.from_m for b in made.bays) <= 0.8 * 3.048 + 1e-9  # steeper than 25 %: shorter bays


def test_gates_split_runs_and_are_refused_where_they_do_not_fit():
    job = job_of([(0, 0, 5), (60, 0, 5)], edits=[{"do": "add_gate", "at_m": 20, "opening_m": 4, "name": "lane"}])
    made = plan(job)
    assert [(r.start.station_m, r.end.station_m) for r in made.runs] == [(0, 20), (24, 60)]
    assert not any(20 < p.station_m < 24 for p in made.posts)
    assert {i.key for i in take_off(job, made)} >= {"gate_g1"}
    for edit, words in (
        ({"do": "move_gate", "id": "g1", "at_m": 58}, "beyond the line's end"),
        ({"do": "add_gate", "at_m": 22, "opening_m": 4}, "overlaps lane"),
        ({"do": "add_gate", "at_m": 24.1, "opening_m": 4}, "lane and gate would hang on one post"),
    ):
        with pytest.raises(BadInput, match=words):
            plan(apply(job, read_edit(edit)))
    with pytest.raises(BadInput, match="span the corner"):
        plan(apply(square(), read_edit({"do": "add_gate", "at_m": 38, "opening_m": 4})))
    assert plan(apply(job, read_edit({"do": "remove_gate", "id": "g1"}))).gates == ()
    whole = job_of([(0, 0, 5), (4, 0, 5)], edits=[{"do": "add_gate", "at_m": 0, "opening_m": 4}])
    with pytest.raises(BadInput, match="no fence at all"):
        plan(whole)


@pytest.mark.parametrize(
    ("length", "panels", "shared"), [(3.0, 1, True), (4.0, 1, True), (6.0, 1, False), (9.0, 1, False), (30.0, 2, False)]
)
def test_braces_fit_short_runs(length, panels, shared):
    made = plan(straight(length, brace_panels=2))
    assert [(b.end.panels, b.end.shared) for b in made.braces] == [(panels, shared)] * 2
    assert any(s.code == "short-run" for s in snags_of(straight(length), made)) == shared
    rails = {i.key: i.count for i in take_off(straight(length), made)}["rail"]
    assert rails == {3.0: 1, 4.0: 2, 6.0: 2, 9.0: 2, 30.0: 4}[length]


def test_a_brace_post_steps_aside_for_a_forbidden_stretch():
    job = apply(straight(), read_edit({"do": "forbid", "from_m": 2.2, "to_m": 2.8, "reason": "pipe"}))
    assert plan(job).braces[0].end.stations_m == (0.0, 2.2)
    job = apply(straight(), read_edit({"do": "forbid", "from_m": 1.0, "to_m": 3.9, "reason": "rock"}))
    grave = [s for s in snags_of(job, plan(job)) if s.grave]
    assert [s.code for s in grave] == ["forbidden"] and "rock" in grave[0].title.text("us")
    assert plan(apply(job, read_edit(grave[0].remedies[0].edit))).posts


def test_placed_posts():
    job = apply(straight(), read_edit({"do": "place_post", "at_m": 31.3}))
    assert any(p.station_m == 31.3 and p.forced for p in plan(job).posts)
    moved = apply(job, read_edit({"do": "move_post", "from_m": 31.3, "to_m": 30.9}))
    assert [p.at_m for p in moved.posts] == [30.9]
    assert apply(moved, read_edit({"do": "release_post", "at_m": 30.9})).posts == ()
    ignored = apply(job, read_edit({"do": "place_post", "at_m": 1.2}))
    assert [s.code for s in snags_of(ignored, plan(ignored))] == ["ignored"]
    forbidden = apply(straight(), read_edit({"do": "forbid", "from_m": 20, "to_m": 22}))
    with pytest.raises(BadInput, match=r"no post may stand at 21\.00 m"):
        apply(forbidden, read_edit({"do": "place_post", "at_m": 21.0}))
    late = apply(job, read_edit({"do": "forbid", "from_m": 31, "to_m": 32}))
    assert plan(late).ignored_posts_m == (31.3,)
    assert apply(late, read_edit({"do": "allow", "from_m": 31, "to_m": 32})).forbidden == ()


@pytest.mark.parametrize(
    ("edit", "field"),
    [
        ({"do": "decide", "key": "longest_bay_m", "value": 99}, "longest_bay_m"),
        ({"do": "decide", "key": "colour", "value": 1}, "key"),
        ({"do": "decide", "key": "clearance_m", "value": 0.3}, "the wire's clearance"),
        ({"do": "decide", "key": "wood_every", "value": 2.5}, "wood_every"),
        ({"do": "decide", "key": "roll_m", "value": float("nan")}, "roll_m"),
        ({"do": "release_post", "at_m": 3}, "at_m"),
        ({"do": "allow", "from_m": 3, "to_m": 4}, "from_m"),
        ({"do": "forbid", "from_m": 4, "to_m": 3}, ""),
        ({"do": "move_gate", "id": "g9", "at_m": 3}, "id"),
        ({"do": "rename", "name": ""}, "name"),
        ({"do": "explode"}, ""),
        ({"do": "place_post", "at_m": -1}, "at_m"),
        ({"do": "place_post", "at_m": 3, "why": "x"}, "why"),
    ],
)
def test_edits_refused(edit, field):
    with pytest.raises(BadInput) as caught:
        apply(straight(), read_edit(edit))
    assert caught.value.field == field or field in caught.value.sentence


def test_other_edits():
    job = apply(straight(), read_edit({"do": "rename", "name": "East <b>side</b>"}))
    job = apply(job, read_edit({"do": "own_offcuts", "offcuts_m": [70.0]}))
    job = apply(job, read_edit({"do": "hang_fabric", "label": "1348-6"}))
    made = plan(job)
    assert made.fabric.wires == 13 and made.rolls.rolls.new_rolls == 1, "the offcut is of another fabric"
    again = plan(apply(job, read_edit({"do": "hang_fabric", "label": "9-49-6"})))
    assert again.rolls.rolls.new_rolls == 0, "it is still there"
    with pytest.raises(BadInput, match="no line-wire spacing on file"):
        plan(apply(job, read_edit({"do": "hang_fabric", "label": "20-96-6"})))
    assert (
        read_job(job.job.canonical_json()) == job.job
        and read_job(job.job.canonical_json()).canonical_json() == job.job.canonical_json()
    )


def test_dips_humps_bends_and_slopes_are_snags_whose_remedies_are_edits():
    points = [
        (k * 2.0, 0, 5 - 1.5 * math.exp(-(((k - 15) / 1.1) ** 2)) + 0.9 * math.exp(-(((k - 25) / 0.8) ** 2)))
        for k in range(31)
    ]
    points += [(62, 0.3, 5), (80, 3.5, 5)]
    job = job_of(points)
    job = apply(job, read_edit({"do": "forbid", "from_m": 28.6, "to_m": 31.4, "reason": "ditch"}))
    job = apply(job, read_edit({"do": "forbid", "from_m": 49, "to_m": 51.5}))
    made = plan(job)
    found = snags_of(job, made)
    assert {s.code for s in found} >= {"dip", "hump", "bend", "steep"}
    for snag in found:
        assert snag.title.text("us") and snag.consequence.text("metric")
        for remedy in snag.remedies:
            assert plan(apply(job, read_edit(remedy.edit))).posts and remedy.label.text("us")
    assert {"dip", "hump", "bend"} <= {p.role for p in made.posts}
    assert all(p.kind == "wood" for p in made.posts if p.role in ("dip", "hump", "bend"))
    assert any(abs(p.station_m - made.course.stations_m[-3]) < 1e-6 for p in made.posts), "a post stands in the bend"
    assert "where none may stand" in against_even(made).text("us")


def test_a_run_just_longer_than_a_roll_is_the_classic_mistake():
    job = straight(100.584 - 0.5)
    (snag,) = [s for s in snags_of(job, plan(job)) if s.code == "just-over"]
    assert snag.title.text("metric") == "Run 1 is 0.720 m longer than a roll"
    made = plan(job)
    assert len(made.rolls.splices) == 1 and made.rolls.splices[0].clear_m >= 0.3048
    assert splice_tag(job, made, 0).cautions


def test_run_that_cannot_be_spliced_says_so():
    job = straight(150.0, longest_bay_m=1.0, brace_spacing_m=1.0, splice_clear_m=0.9)
    with pytest.raises(BadInput, match="run 1 can't be laid"):
        plan(job)
    ditch = apply(straight(), read_edit({"do": "forbid", "from_m": 20, "to_m": 26}))
    with pytest.raises(BadInput, match=r"between 20\.00 m and 26\.00 m no post may stand.*longer than the longest bay"):
        plan(ditch)


def test_fence_too_high_for_any_post_on_file(monkeypatch):
    job = straight(clearance_m=0.06)
    made = plan(job)
    object.__setattr__(made, "fence_height_m", 3.0)
    assert [s.code for s in snags_of(job, made) if s.grave] == ["short-post"] * 4


def test_every_number_of_the_tag_can_be_asked_why(paddock):
    made = plan(paddock)
    tags = [job_tag(paddock, made), *(post_tag(paddock, made, k) for k in range(len(made.posts)))]
    tags += [bay_tag(paddock, made, k) for k in range(0, len(made.bays), 7)]
    tags += [splice_tag(paddock, made, k) for k in range(len(made.rolls.splices))]
    for tag in tags:
        for fact in tag.facts:
            assert fact.value.text("us") and fact.why.rule and fact.why.source
            assert fact.why.working.text("metric")
    for ask, words in ((post_tag, "no post"), (bay_tag, "no bay"), (splice_tag, "no splice")):
        with pytest.raises(BadInput, match=words):
            ask(paddock, made, 9999)


def test_what_an_edit_did_is_said(paddock):
    before = plan(paddock)
    wide = apply(paddock, read_edit({"do": "decide", "key": "longest_bay_m", "value": 3.6}))
    said = difference([(paddock, before)], [(wide, plan(wide))]).text("us")
    assert said.startswith("−") and "posts" in said
    assert difference([(paddock, before)], [(paddock, before)]) is None


def test_an_edit_in_one_place_solves_only_what_can_change(paddock):
    memo = PlanMemo()
    plan(paddock, memo)
    whole = memo.work
    edited = apply(paddock, read_edit({"do": "forbid", "from_m": 300.0, "to_m": 301.0}))
    made = plan(edited, memo)
    assert 0 < memo.work < whole / 5
    anew = plan(edited)
    assert [p.station_m for p in made.posts] == [p.station_m for p in anew.posts]


def test_a_later_edit_of_the_demo_keeps_every_post_out_of_forbidden_ground(paddock):
    made = plan(paddock)
    for stretch in paddock.forbidden:
        assert not any(stretch.from_m + 1e-6 < p.station_m < stretch.to_m - 1e-6 for p in made.posts)
    assert all(b.to_m - b.from_m <= paddock.decisions.longest_bay_m + TAPE_M + 1e-6 for b in made.bays)
    assert made.rolls.rolls.proven["new_rolls"] and made.rolls.rolls.proven["splices"]


V1 = """{"format": "gnomonic-job/1", "name": "Old line", "line": {"points": [
 {"e_m": 0, "n_m": 0, "h_m": 5}, {"e_m": 60, "n_m": 0, "h_m": 5}], "source": {"kind": "csv", "points_read": 2}}}"""


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"format": "gnomonic-job/3"}, "format"),
        ({"name": ""}, "name"),
        ({"colour": 1}, "colour"),
        ({"line": {"points": [], "source": {"kind": "csv", "points_read": 2}}}, "line.points"),
        ({"decisions": {"longest_bay_m": 0.1}}, "decisions"),
        ({"decisions": {"clearance_m": 0.4}}, "decisions"),
        ({"line": {"frame": {"kind": "geographic"}}}, "line.frame"),
    ],
)
def test_job_documents_refused(change, field):
    data = {**json.loads(V1), **change}
    with pytest.raises(BadInput) as caught:
        read_job(json.dumps(data))
    assert caught.value.field == field and "\n" not in caught.value.sentence


@pytest.mark.parametrize(("panels", "share"), [(1, 1.0), (2, 0.52)])  # a wood rail gives: about 52 % on the first
def test_the_working_of_a_brace_multiplies_out(panels, share):
    job = straight(brace_panels=panels)
    made = plan(job)
    facts = {f.name: f for f in post_tag(job, made, 0).facts}
    v = facts["Lifts this post by"].why.working.v
    first = v["share"][0] if panels > 1 else 1.0
    assert first == pytest.approx(share, abs=0.02)
    assert ("{share}" in facts["Lifts this post by"].why.working.t) == (panels > 1)
    assert v["uplift"][0] == pytest.approx(first * v["pull"][0] * v["hp"][0] / v["l"][0])
    wire = facts["Brace wire pulls"].why.working.v
    assert wire["wire"][0] == pytest.approx(first * wire["rail"][0] / math.cos(math.radians(wire["angle"][0])))


def test_rails_are_cut_to_the_posts_they_meet():
    terminal, inner = 0.1778, 0.1524
    for length, span, second in ((3.0, 3.0, terminal), (4.0, 2.0, inner), (30.0, 2.5, inner)):
        (cut, *_) = plan(straight(length)).braces[0].rail_cut_m
        assert cut == pytest.approx(span - (terminal + second) / 2)
