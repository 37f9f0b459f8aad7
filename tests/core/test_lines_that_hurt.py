"""Joined lines where it hurts: slopes, dips, gates, exact lengths, both sides of one post, closed lines, books read again."""

import json
import math

import pytest
from core.test_lines import do, job_of, keyed, line, places, taken, tee
from places import TODAY

from gnomonic.core.errors import BadInput, NoPlan
from gnomonic.core.ground.joined import nearest_station, root_of, vertex_at
from gnomonic.core.ground.marking import state_of
from gnomonic.core.job.fence import fence_of, one_line
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.core.plan.road import plan
from gnomonic.core.tell.steps import steps_of
from gnomonic.formats.bring_in import bring_in


@pytest.mark.parametrize("grade", [0.15, 0.5, -0.5])
def test_on_a_slope_the_joined_end_comes_to_the_ground_of_its_post(grade):
    """A rises by its grade over 40 m; half way it stands 20·grade up.  B was measured from its own zero, 30 m with 3 m of rise."""
    job = job_of(line((0, 0, 0), (40, 0, 40 * grade)), line((20, 0, 0), (20, 30, 3)))
    job = do(job, {"do": "join_line", "line": "B", "end": "start", "on": "A", "at_m": 20})
    assert places(job, "B", 0) == pytest.approx((20, 0, 20 * grade)) and places(job, "B", 1)[2] == pytest.approx(
        20 * grade + 3
    )
    made = plan(job)
    (post,) = [p for p in made.lines["A"].posts if p.role == "join"]
    assert post.ground_m == pytest.approx(20 * grade) and made.lines["B"].posts[0].ground_m == pytest.approx(20 * grade)
    assert made.lines["B"].rolls.need_m[0] == pytest.approx(math.hypot(30, 3) + 2 * 0.6096), "bought by its own slope"
    steeper = do(job, {"do": "move_point", "line": "A", "index": 1, "e_m": 40, "n_m": 0, "h_m": 40 * grade + 2})
    assert places(steeper, "B", 0)[2] == pytest.approx(20 * grade + 1), "the ground of the post is the end's ground"


def test_in_a_dip_a_joined_post_is_a_joined_post():
    """A dip of 1 m at 20 m, 2 m wide each side: the T stands in its bottom, nothing else does."""
    job = job_of(line((0, 0, 5), (18, 0, 5), (20, 0, 4), (22, 0, 5), (40, 0, 5)), line((20, 1, 4), (20, 30, 4)))
    job = do(job, {"do": "join_line", "line": "B", "end": "start", "on": "A", "at_m": 20})
    (post,) = [p for p in plan(job).lines["A"].posts if abs(p.station_m - 20) < 0.3]
    assert (post.role, post.kind, post.slot) == ("join", "terminal", "held") and post.grade_change > 0.5


def test_a_gate_post_can_carry_a_line_and_the_gate_itself_can_not():
    """A gate from 20 to 24 m: B on its far post is one post; anywhere between the two there is none."""
    job = do(
        job_of(line((0, 0, 5), (60, 0, 5)), line((24, 0, 5), (24, 30, 5))),
        {"do": "add_gate", "line": "A", "at_m": 20, "opening_m": 4},
    )
    before = len(plan(job).lines["A"].posts)
    joined = do(job, {"do": "join_line", "line": "B", "end": "start", "on": "A", "at_m": 24})
    made = plan(joined)
    assert len(made.lines["A"].posts) == before and made.lines["B"].posts[0].shared == "line A"
    (post,) = [p for p in made.lines["A"].posts if p.joined]
    assert post.role == "gate" and len(dict(made.lines["A"].pulls)[post.index]) == 2, "its own run ahead, and B"
    for at in (22.0, 20.31, 23.69):
        with pytest.raises(NoPlan, match="gate hangs there"):
            plan(do(job, {"do": "join_line", "line": "B", "end": "start", "on": "A", "at_m": at}))


def test_two_lines_from_both_sides_share_one_post():
    """B from the north and C from the south on A at 30 m: one post, pulls against each other, nothing left of them."""
    job = job_of(line((0, 0, 5), (60, 0, 5)), line((30, 0, 5), (30, 30, 5)), line((30, 0, 5), (30, -30, 5)))
    for k in "BC":
        job = do(job, {"do": "join_line", "line": k, "end": "start", "on": "A", "at_m": 30})
    made = plan(job)
    (post,) = [p for p in made.lines["A"].posts if p.role == "join"]
    assert post.joined == ("B", "C")
    pulls = dict(made.lines["A"].pulls)[post.index]
    assert sum(p.pull_n * math.cos(math.radians(p.bearing_deg)) for p in pulls) == pytest.approx(0, abs=1e-6)
    assert keyed(job, "A", made)["post_terminal_2.44"] == 3
    assert sum(keyed(job, k, made)["post_terminal_2.44"] for k in "BC") == 2


def test_two_lines_of_exactly_one_roll_together_take_one():
    """61.2192 m of A with tails; B as long as leaves nothing: 100.584 − 61.2192 − 1.2192 = 38.1456 m.  5 mm more still does."""
    for more, rolls in ((0.0, 1), (0.004, 1), (0.02, 2)):
        job = tee(length=38.1456 + more)
        made = plan(job)
        assert sum(p.rolls.rolls.new_rolls for p in made.lines.values()) == rolls, more
        assert all(p.rolls.whole.proven["new_rolls"] for p in made.lines.values())


def test_a_closed_line_is_stood_on_at_its_start_and_beyond_its_last_point():
    ring = line((0, 0, 5), (0, 40, 5), (40, 40, 5), (40, 0, 5)).model_copy(update={"closed": True})
    job = job_of(ring, line((0, 0, 5), (-30, -30, 5)), line((20, 0, 5), (20, -30, 5)))
    job = do(
        job,
        {"do": "join_line", "line": "B", "end": "start", "on": "A", "at_m": 160},
        {"do": "join_line", "line": "C", "end": "start", "on": "A", "at_m": 140},
    )
    made = plan(job)
    assert made.lines["A"].posts[0].joined == ("B",) and made.lines["B"].posts[0].shared == "line A"
    (tee_post,) = [p for p in made.lines["A"].posts if p.role == "join"]
    assert (tee_post.east_m, tee_post.north_m) == pytest.approx((20, 0)) and tee_post.joined == ("C",)
    moved = do(job, {"do": "move_point", "line": "A", "index": 0, "e_m": -2, "n_m": -1})
    assert places(moved, "B", 0)[:2] == (-2, -1)
    with pytest.raises(BadInput, match="is closed: it has no end"):
        do(job, {"do": "join_line", "line": "A", "end": "end", "on": "B", "at_m": 5})


def test_split_at_a_joined_post_the_joining_line_stands_where_it_stood():
    """A splits at the T: A's end and C's start stand there with B; A brings the post, a brace more goes to each side."""
    job = tee()
    split = do(job, {"do": "split_line", "line": "A", "at_m": 30, "name": "far half"})
    assert sorted((j.line, j.on, j.at_m) for j in split.joins) == [("B", "A", 30), ("C", "A", 30)]
    made = plan(split)
    ends = [made.lines[k].posts[i] for k, i in (("A", -1), ("B", 0), ("C", 0))]
    assert [p.shared for p in ends] == ["", "line A", "line A"] and ends[0].joined == ("B", "C")
    assert len(dict(made.lines["A"].pulls)[ends[0].index]) == 3
    whole, parts = taken(job), taken(split, made)
    assert (
        parts["⅜ in brace pin"] - whole["⅜ in brace pin"] == 4 and parts["end tie-off"]
        if "end tie-off" in parts
        else True
    )
    terminal = next(k for k in whole if k.startswith("wood terminal"))
    assert parts[terminal] == whole[terminal]


def test_a_field_book_is_read_again_where_its_line_stands():
    """A book from its own zero, brought onto A's corner at (40, 0, 6): read again with a longer leg it stays there."""
    book = bring_in("b.legs", b"N 0 E 30 m +1 m\nN 0 E 10 m\n").line
    job = one_line("line A", line((0, 0, 5), (40, 0, 6), (80, 20, 6)), job_name="Test")
    given = {"name": "booked", "measured": json.loads(book.model_dump_json())}
    job = do(job, {"do": "add_line", "given": given, "onto": "A", "onto_m": 40.0})
    assert places(job, "B", 0) == (40, 0, 6) and places(job, "B", 1) == (40, 30, 7)
    longer = do(job, {"do": "write_book", "line": "B", "text": "N 0 E 35 m +1 m\nN 0 E 10 m\n"})
    assert places(longer, "B", 0) == (40, 0, 6) and places(longer, "B", 1) == (40, 35, 7)


def test_services_are_asked_about_for_all_lines_and_each_knows_whether_it_left():
    job = tee()
    ask = {"do": "ask_marking", "ticket": "T1", "asked_on": TODAY, "wait_until": TODAY, "reach_m": 3.0}
    job = do(
        job,
        ask,
        {"do": "take_marks", "ticket": "T1", "state": "clear", "expires_on": TODAY.replace(month=7), "marks": ()},
    )
    courses = plan(job).courses
    assert [state_of(job.marking, courses[k], TODAY) for k in "AB"] == ["clear", "clear"] and len(
        job.marking.routes
    ) == 2
    moved = do(job, {"do": "move_point", "line": "B", "index": 1, "e_m": 60, "n_m": 40})
    courses = plan(moved).courses
    assert [state_of(moved.marking, courses[k], TODAY) for k in "AB"] == ["clear", "elsewhere"]


def test_the_steps_of_a_line_set_its_own_posts_and_unroll_what_is_used_on_it():
    """B brings one of its two terminals, and takes the rest of A's roll: one roll is unrolled on each."""
    job = tee(length=36.0)
    made = plan(job)
    steps = {k: " ".join(s.text.text("us") for s in steps_of(fence_of(job, k), made.lines[k])) for k in "AB"}
    assert "Set the 3 terminal posts" in steps["A"] and "Set the one terminal post and build 2 braces" in steps["B"]
    assert (
        "Unroll 1 roll " in steps["A"] and "Unroll 1 roll " in steps["B"] and made.lines["B"].rolls.rolls.new_rolls == 0
    )
    between = do(
        job_of(line((0, 0, 5), (60, 0, 5)), line((0, 40, 5), (60, 40, 5)), line((30, 0, 5), (30, 40, 5))),
        *(
            {"do": "join_line", "line": "C", "end": end, "on": on, "at_m": 30}
            for end, on in (("start", "A"), ("end", "B"))
        ),
    )
    words = steps_of(fence_of(between, "C"), plan(between).lines["C"])[1].text.text("us")
    assert words.startswith("Set no terminal posts (they stand already) and build 2 braces")


def test_where_a_post_is_in_truth():
    """C starts on B's start, which stands on A at 30 m; half along B nothing else is meant than B itself."""
    job = do(job_of(line((0, 0, 5), (60, 0, 5)), line((30, 0, 5), (30, 30, 5)), line((30, 0, 5), (50, 30, 5))), {"do": "join_line", "line": "B", "end": "start", "on": "A", "at_m": 30}, {"do": "join_line", "line": "C", "end": "start", "on": "B", "at_m": 0})  # fmt: skip
    courses = plan(job).courses
    assert [
        (r.line, r.at_m)
        for r in (root_of(job, courses, "C", 0), root_of(job, courses, "B", 0), root_of(job, courses, "B", 15))
    ] == [("A", 30), ("A", 30), ("B", 15)]
    assert vertex_at(courses["A"], 60) == 1 and vertex_at(courses["A"], 59.9) is None
    assert nearest_station(courses["B"], 33, 12) == (12, 3)
    assert [
        p.line for p in dict(plan(job).lines["A"].pulls)[next(p.index for p in plan(job).lines["A"].posts if p.joined)]
    ] == ["B", "C"]


def test_level_ground_joins_without_heights():
    """A drawn line has no heights: joined to one that has, neither takes the other's."""
    drawn = MeasuredLine(
        points=(Point(e_m=30, n_m=1, h_m=0), Point(e_m=30, n_m=40, h_m=0)),
        source=Source(kind="drawn", points_read=2),
        level=True,
    )
    job = do(
        job_of(line((0, 0, 5), (60, 0, 7)), drawn),
        {"do": "join_line", "line": "B", "end": "start", "on": "A", "at_m": 30},
    )
    assert places(job, "B", 0) == (30, 0, 0) and places(job, "A", 0)[2] == 5 and plan(job).lines["B"].posts
