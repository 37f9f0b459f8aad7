"""Lasting names of posts: what hangs on a post is found on it after many edits."""

import json
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from places import examples, fence

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.job.fence import fence_of
from gnomonic.core.job.parts import Fact, MeasuredLine, Point, Source
from gnomonic.core.job.reading import read_job
from gnomonic.core.plan.identity import Named, _nearest, carried, in_order, named
from gnomonic.core.plan.road import plan


def line(*points):
    made = tuple(Point(e_m=e, n_m=n, h_m=5.0) for e, n in points)
    return fence("Named", MeasuredLine(points=made, source=Source(kind="legs", points_read=2))).job


def do(job, **edit):
    return apply(job, read_edit(edit))


def after(made, job):
    """The plan of an edited job, its posts called after the plan before."""
    return plan(job, names_of=lambda _, one: carried(named(made), one)).lines["A"]


def places(made):
    return {p.name: (round(p.east_m, 3), round(p.north_m, 3)) for p in made.posts}


CORNER = line((0, 0), (40, 0), (40, 50))


def test_a_new_post_is_called_after_the_one_before_it_and_no_other_name_changes():
    """A level side of 30 m, 10 ft bays: a gate on the far side changes nothing here; a post in bay 5 to 6 is 5a."""
    job = do(line((0, 0), (33, 0)), do="decide", key="longest_bay_m", value=3.0)
    made = plan(job).lines["A"]
    assert [p.name for p in made.posts] == [str(k + 1) for k in range(len(made.posts))]
    five, six = made.posts[4], made.posts[5]
    middle = (five.station_m + six.station_m) / 2
    more = do(job, do="place_post", at_m=five.station_m)
    more = do(do(more, do="place_post", at_m=six.station_m), do="place_post", at_m=middle)
    new = after(made, more)
    assert len(new.posts) == len(made.posts) + 1
    (extra,) = set(places(new)) - set(places(made))
    assert extra == "5a" and places(new)["5a"] == (round(middle, 3), 0)
    back = after(new, do(more, do="release_post", at_m=middle))
    assert places(back) == places(made), "and when it goes, its name goes"


def test_an_edit_of_one_side_leaves_the_names_of_the_other():
    made = plan(CORNER).lines["A"]
    corner = next(p for p in made.posts if p.role == "corner")
    for edit in (
        {"do": "add_gate", "at_m": 60.0, "opening_m": 4.0},
        {"do": "forbid", "from_m": 52.0, "to_m": 54.0, "reason": "rock"},
        {"do": "move_point", "index": 2, "e_m": 45.0, "n_m": 60.0},
        {"do": "add_point", "e_m": 80.0, "n_m": 50.0},
    ):
        new = after(made, do(CORNER, **edit))
        for post in made.posts[: corner.index + 1]:
            assert places(new)[post.name] == places(made)[post.name]
        assert len({p.name for p in new.posts}) == len(new.posts)
        assert next(p.name for p in new.posts if p.role == "corner") == corner.name


@pytest.mark.parametrize(
    ("old", "new", "pairs"),
    [
        ((0, 3, 6), (1, 2.9, 5), [(0, 0), (1, 1), (2, 2)]),  # 0.1 m, then 1 m at both sides
        ((0,), (0.2, 0.5), [(0, 0)]),  # one for one, the nearer
        ((0, 0.3), (0.1,), [(0, 0)]),
        ((0, 1), (1, 0), [(0, 1)]),  # the line turns back: the other pair would cross the first
        ((0, 4), (1.6, 2.4), []),  # all beyond 1.5 m
    ],
)
def test_posts_are_paired_the_nearest_first_each_once_and_none_past_another(old, new, pairs):
    then, now = ([Named(str(k), float(x), 0.0, "line", False) for k, x in enumerate(row)] for row in (old, new))
    assert sorted(_nearest(then, now, range(len(then)), range(len(now)), 1.5)) == pairs


def test_a_corner_that_is_moved_keeps_its_name():
    made = plan(CORNER).lines["A"]
    new = after(made, do(CORNER, do="move_point", index=1, e_m=44, n_m=-6))
    assert [p.name for p in new.posts if p.role in ("end", "corner")] == [
        p.name for p in made.posts if p.role in ("end", "corner")
    ]


def test_a_fact_is_found_on_its_post_after_ten_edits_and_in_a_document_read_anew():
    job, made = CORNER, plan(CORNER).lines["A"]
    nine = next(p for p in made.posts if p.name == "9")
    job = do(job, do="hang_fact", post="9", at_m=nine.station_m, text="rock at 22 in")
    steps = [
        {"do": "add_gate", "at_m": 70.0, "opening_m": 4.0, "name": "far gate"},
        {"do": "add_point", "e_m": -20.0, "n_m": 3.0, "at_start": True},
        {"do": "place_post", "at_m": 31.0},
        {"do": "decide", "key": "longest_bay_m", "value": 2.9},
        {"do": "forbid", "from_m": 75.0, "to_m": 76.0, "reason": "root"},
        {"do": "hang_fabric", "label": "9-39-6"},
        {"do": "split_leg", "at_m": 90.0, "e_m": 42.0, "n_m": 30.0},
        {"do": "move_gate", "id": "g1", "at_m": 92.0},
        {"do": "decide", "key": "brace_spacing_m", "value": 2.2},
        {"do": "release_post", "at_m": 31.0},
    ]
    for step in steps:
        job = do(job, **step)
        made = after(made, job)
    (fact,) = fence_of(job).facts
    post = next(p for p in made.posts if p.name == "9")
    assert math.dist((post.east_m, post.north_m), (nine.east_m, nine.north_m)) <= 1.5, (
        "within half a bay of where it was"
    )
    assert abs(fact.at_m - (nine.station_m + math.hypot(20, 3))) < 1e-6, "the line begins 20.22 m earlier now"
    again = read_job(job.canonical_json())
    cold = plan(again).lines["A"]
    same = next(p for p in cold.posts if p.name == "9")
    assert same.station_m == post.station_m and json.loads(job.canonical_json())["lines"][0]["facts"][0]["post"] == "9"


def test_names_kept_by_facts_are_numbered_round():
    made = plan(do(CORNER, do="decide", key="longest_bay_m", value=3.0)).lines["A"]
    stations = [p.station_m for p in made.posts]
    facts = [
        Fact(post="7", at_m=stations[4], text="x"),
        Fact(post="8", at_m=stations[7], text="y"),
        Fact(post="40", at_m=999.0, text="gone"),
    ]
    assert in_order(made, facts)[:10] == ("1", "2", "3", "4", "7", "7a", "7b", "8", "9", "10")


EDITS = st.one_of(
    st.builds(lambda a: {"do": "place_post", "at_m": round(a, 2)}, st.floats(5, 85)),
    st.builds(lambda a: {"do": "forbid", "from_m": round(a, 2), "to_m": round(a, 2) + 1.5}, st.floats(5, 80)),
    st.builds(lambda a, w: {"do": "add_gate", "at_m": round(a, 2), "opening_m": w}, st.floats(8, 80), st.sampled_from([1.3, 3.7])),
    st.builds(lambda k, e, n: {"do": "move_point", "index": k, "e_m": e, "n_m": n}, st.integers(0, 2), st.integers(0, 60), st.integers(0, 60)),
    st.builds(lambda v: {"do": "decide", "key": "longest_bay_m", "value": v}, st.sampled_from([2.0, 2.6, 3.0, 4.0])),
)  # fmt: skip


@pytest.mark.no_cover
@examples(100, 12)
@given(st.lists(EDITS, min_size=1, max_size=6))
def test_names_are_never_given_twice_and_what_stands_still_keeps_its_own(edits):
    job, made = CORNER, plan(CORNER).lines["A"]
    for edit in edits:
        try:
            job = do(job, **edit)
            new = after(made, job)
        except BadInput:
            continue
        names = [p.name for p in new.posts]
        assert len(set(names)) == len(names)
        old, ends = places(made), [p for p in (*made.posts, *new.posts) if p.role in ("end", "corner", "gate", "pull")]
        still = {at for at in old.values() if at in places(new).values()} - {
            (round(p.east_m, 3), round(p.north_m, 3)) for p in ends
        }
        kept = [name for name, at in old.items() if at in still and places(new).get(name) == at]
        assert len(kept) >= 0.9 * len(still), "a post in its old place has its old name"
        made = new
