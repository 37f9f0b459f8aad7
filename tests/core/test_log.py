"""Facts from the field: any order of arrival gives the same, a correction drops nothing, the plan answers to them."""

from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st
from places import HOME, apply, fence, snags_of
from pydantic import ValidationError

from gnomonic.core.edits.all import read_edit
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.core.log.events import Event, Kept
from gnomonic.core.log.facts import fold
from gnomonic.core.log.kinds import as_tables, kinds, values
from gnomonic.core.plan import road
from gnomonic.core.tell.tag import post_tag

IN = 0.0254
NOON = datetime(2026, 6, 1, 12, tzinfo=UTC)


def event(n, kind, post="5", at_m=12.0, minute=0, device="phone-a", **values):
    return Event(
        id=f"00000000-0000-4000-8000-{n:012d}",
        device=device,
        seq=n,
        clock=NOON + timedelta(minutes=minute),
        line="A",
        post=post,
        at_m=at_m,
        kind=kind,
        **values,
    )


def it(soil="loam"):
    line = MeasuredLine(
        points=tuple(Point(e_m=e, n_m=0.0, h_m=5.0) for e in (0.0, 60.0)), source=Source(kind="legs", points_read=2)
    )
    made = fence("Test line", line)
    return apply(made, read_edit({"do": "say_soil", "soil": soil}))


def planned(f, *events, offset=timedelta()):
    return road.plan(f.job, known=fold(Kept(e, offset) for e in events)).lines["A"]


@given(st.permutations(range(6)))
def test_any_order_of_arrival_and_anything_twice_folds_alike(order):
    events = [
        event(1, "depth", reached_m=0.6, met="rock"),
        event(2, "depth", minute=5, reached_m=0.7, device="phone-b"),
        event(3, "accept", minute=6),
        event(4, "moved", post="7", at_m=18.0, along_m=0.2),
        event(5, "pilot", post="7", at_m=18.0, reached_m=0.4, met="root"),
        event(6, "void", post="7", at_m=18.0, of="00000000-0000-4000-8000-000000000005"),
    ]
    kept = [Kept(events[k]) for k in order]
    (five, seven) = fold(kept + kept[:3])["A"]
    assert (five.reached_m, five.accepted, five.met, len(five.earlier)) == (0.7, True, "", 1)
    assert seven.along_m == 0.2 and seven.pilot_met == ""


def test_a_slow_clock_is_put_right_before_two_phones_are_put_in_order():
    early = Kept(event(1, "depth", reached_m=0.5, minute=30), timedelta(minutes=-40))  # its clock ran ahead
    late = Kept(event(2, "depth", reached_m=0.7, minute=0, device="phone-b"))
    assert fold([early, late])["A"][0].reached_m == 0.7 == fold([late, early])["A"][0].reached_m


def test_a_depth_after_it_was_let_pass_asks_again():
    (b,) = fold(Kept(e) for e in (event(1, "accept"), event(2, "depth", minute=1, reached_m=0.5)))["A"]
    assert not b.accepted


def test_as_built_as_planned_changes_nothing():
    f = it()
    plain = planned(f)
    post = next(p for p in plain.posts if p.kind == "wood")
    same = planned(f, event(1, "depth", post=post.name, at_m=post.station_m, reached_m=post.depth_m))
    assert [(p.station_m, p.depth_m, p.length_m, p.kind) for p in same.posts] == [
        (p.station_m, p.depth_m, p.length_m, p.kind) for p in plain.posts
    ]
    assert not [s for s in snags_of(f, same) if s.code == "short-hole"] and same.posts[post.index].built is not None


@pytest.mark.parametrize(
    ("soil", "reached", "passes"), [("loam", 34, True), ("loam", 22, False), ("sand", 34, True), ("sand", 22, False)]
)
def test_34_of_36_is_let_pass_and_22_is_not(soil, reached, passes):
    """Common practice.  In clay the top 1½ widths hold nothing: of 36 in a 7 in post keeps much less at 22 in still."""
    f = it(soil)
    end = planned(f).posts[0]
    assert end.depth_m == pytest.approx(36 * IN)
    made = planned(f, event(1, "depth", post=end.name, at_m=0.0, reached_m=reached * IN, met="rock"))
    assert made.posts[0].depth_m == pytest.approx(reached * IN) and made.posts[0].above_m == pytest.approx(
        end.above_m + (36 - reached) * IN
    )
    snag = next(s for s in snags_of(f, made) if s.code == "short-hole")
    assert ("usually let pass" in snag.consequence.text("us")) == passes and "on rock" in snag.title.text("us")
    says = [r.label.text("us") for r in snag.remedies]
    assert says[0 if passes else -1].startswith("let it pass")
    if passes:
        log = snag.remedies[0].edit
        assert (log["do"], log["kind"]) == ("log", "accept")
        assert not [s for s in snags_of(f, planned(f, event(1, "depth", post=end.name, at_m=0.0, reached_m=reached * IN), event(2, "accept", post=end.name, at_m=0.0, minute=1))) if s.code == "short-hole"]  # fmt: skip
    cut = planned(
        f,
        event(1, "depth", post=end.name, at_m=0.0, reached_m=reached * IN),
        event(2, "cut", post=end.name, at_m=0.0, minute=1),
    )
    assert cut.posts[0].above_m == pytest.approx(end.above_m)


def test_a_post_that_moved_is_pinned_where_it_stands():
    f = it()
    plain = planned(f)
    post = next(p for p in plain.posts if not p.fixed and 20 < p.station_m < 40)
    moved = planned(f, event(1, "moved", post=post.name, at_m=post.station_m, along_m=8 * IN))
    assert any(abs(p.station_m - post.station_m - 8 * IN) < 1e-6 for p in moved.posts)
    there = min(moved.posts, key=lambda p: abs(p.station_m - post.station_m - 8 * IN))
    assert there.built is not None and "As built, moved" in {x.name for x in post_tag(f, moved, there.index).facts}
    longer = apply(f, read_edit({"do": "decide", "key": "longest_bay_m", "value": 2.0}))
    pinned = road.plan(
        longer.job, known=fold([Kept(event(1, "depth", post=post.name, at_m=post.station_m, reached_m=0.5))])
    ).lines["A"]
    assert any(abs(p.station_m - post.station_m) < 1e-6 for p in pinned.posts)


def test_something_buried_stops_the_work():
    f = it()
    made = planned(f, event(1, "pilot", post="5", at_m=planned(f).posts[4].station_m, reached_m=0.3, met="pipe"))
    (snag,) = [s for s in snags_of(f, made) if s.code == "met-pipe"]
    assert snag.grave and "marking service" in snag.consequence.text("us")


@pytest.mark.parametrize(
    ("kind", "values"),
    [
        ("depth", {}), ("depth", {"reached_m": -0.1}), ("depth", {"reached_m": 9.0}), ("depth", {"reached_m": 0.5, "clear_m": 2.0}),
        ("clear", {"clear_m": 0.0, "ahead": True}), ("clear", {"clear_m": 15.24, "ahead": True}), ("clear", {"clear_m": 2.0}),
        ("void", {}), ("moved", {"along_m": 40.0}), ("pilot", {"reached_m": 0.3, "met": "gold"}),
    ],
)  # fmt: skip
def test_events_that_say_nothing_sensible_are_refused(kind, values):
    with pytest.raises(ValidationError):
        event(1, kind, **values)


def test_a_clock_says_its_zone():
    with pytest.raises(ValidationError, match="time zone"):
        Event(
            id="00000000-0000-4000-8000-000000000001",
            device="a",
            seq=1,
            clock=datetime(2026, 6, 1),
            line="A",
            post="1",
            at_m=0.0,
            kind="accept",
        )


def test_an_event_has_the_values_of_the_table_and_its_bounds():
    """The model's bounds, as its schema tells them, are those written in the table; each is tried at its edge."""
    properties = Event.model_json_schema()["properties"]
    assert set(values()) <= set(properties) and set(properties["kind"]["enum"]) == set(kinds())
    for name, value in values().items():
        told = properties[name]
        told = next((t for t in told.get("anyOf", ()) if t.get("type") != "null"), told)
        if bounds := value.number or value.whole:
            assert (told.get("minimum"), told.get("exclusiveMinimum"), told["maximum"]) == (
                bounds.least,
                bounds.above,
                bounds.most,
            ), name
        elif value.words:
            assert tuple(told["enum"]) == value.words
        elif value.text:
            assert (told["pattern"], told["maxLength"]) == (value.text, value.longest)


def test_the_document_has_the_table_of_kinds():
    assert as_tables() in (HOME / "docs" / "job-format.md").read_text()


def test_a_hole_given_up_and_dug_again_leaves_one_post():
    f = it()
    plain = planned(f)
    post = next(p for p in plain.posts if not p.fixed and 20 < p.station_m < 40)
    deep = event(1, "depth", post=post.name, at_m=post.station_m, reached_m=0.3, met="rock")
    snag = next(s for s in snags_of(f, planned(f, deep)) if s.code == "short-hole")
    redug = next(r.edit for r in snag.remedies if r.edit.get("kind") == "redug")
    assert (redug["post"], redug["along_m"]) == (post.name, pytest.approx(0.3048))
    made = planned(f, deep, event(2, "redug", post=post.name, at_m=post.station_m, minute=9, along_m=redug["along_m"]))
    near = [p.station_m for p in made.posts if abs(p.station_m - post.station_m) < 0.5]
    assert near == [pytest.approx(post.station_m + 0.3048)] and not [
        s for s in snags_of(f, made) if s.code == "short-hole"
    ]


def test_a_fact_stays_on_its_ground_when_the_line_is_mended():
    f = it()
    post = next(p for p in planned(f).posts if not p.fixed and 20 < p.station_m < 40)
    fact = event(1, "depth", post=post.name, at_m=post.station_m, reached_m=0.3, e_m=post.east_m, n_m=post.north_m)
    longer = apply(f, read_edit({"do": "move_point", "index": 0, "e_m": -20.0, "n_m": 0.0, "h_m": 5.0}))
    (there,) = [p for p in planned(longer, fact).posts if p.built]
    assert (
        there.station_m == pytest.approx(post.station_m + 20)
        and there.east_m == pytest.approx(post.east_m)
        and there.depth_m == 0.3
    )
    away = apply(f, read_edit({"do": "move_point", "index": 1, "e_m": 0.0, "n_m": 60.0, "h_m": 5.0}))
    assert not [p for p in planned(away, fact).posts if p.built]
