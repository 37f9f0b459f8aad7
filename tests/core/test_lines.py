"""Many lines of one job: joined, mended together, counted once; expectations worked out by hand beside each."""

import json
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from places import TODAY, demo_fences, examples
from places import plan as places_plan

from gnomonic.core.demand.system import system
from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.haul.takeoff import job_take_off, take_off
from gnomonic.core.job.document import Join
from gnomonic.core.job.fence import checked, fence_of, fences, one_line
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.core.job.reading import read_job
from gnomonic.core.plan.road import PlanMemo, plan
from gnomonic.core.snags.all import snags
from gnomonic.core.tell.needs import named, where_of_job
from gnomonic.core.tell.tag import post_tag
from gnomonic.demo.load import holm

TERMINAL = "wood terminal post, 2.44 m, 180 mm across"
BAYS = {"longest_bay_m": 3.0, "brace_spacing_m": 2.5}


def line(*points):
    made = tuple(Point(e_m=e, n_m=n, h_m=h) for e, n, h in points)
    return MeasuredLine(points=made, source=Source(kind="legs", points_read=2))


def do(job, *edits):
    for edit in edits:
        job = apply(job, read_edit(edit))
    return job


def job_of(*lines):
    """A job of several measured lines, bays of 3 m, braces 2.5 m; named by their letters."""
    job = one_line("line A", lines[0], job_name="Test")
    for k, more in enumerate(lines[1:], 1):
        job = do(
            job,
            {
                "do": "add_line",
                "given": {"name": f"line {chr(65 + k)}", "measured": json.loads(more.model_dump_json())},
            },
        )
    return do(
        job, *({"do": "decide", "line": own.id, "key": k, "value": v} for own in job.lines for k, v in BAYS.items())
    )


def tee(length=40.0, at=30.0):
    """A level line of 60 m eastward with another that starts on it and runs north."""
    job = job_of(line((0, 0, 5), (60, 0, 5)), line((at, 0.4, 5), (at, length, 5)))
    return do(job, {"do": "join_line", "line": "B", "end": "start", "on": "A", "at_m": at})


def taken(job, made=None):
    made = made or plan(job)
    return {named(i.need).text("metric"): i.count for i in job_take_off([(f, made.lines[f.id]) for f in fences(job)])}


def keyed(job, line_id, made=None):
    made = made or plan(job)
    return {i.key: i.count for i in take_off(fence_of(job, line_id), made.lines[line_id])}


def test_a_line_that_ends_on_another_counted_by_hand():
    """A: 60 m, brace posts at 2.5 and 57.5, the joined post at 30: 27.5 m each side is 10 bays of 2.75 m, 9 posts.

    Of each 9 the 5th is wood: 2 wood, 16 driven.  Posts 2 ends + 1 joined = 3 of 8 ft.  Staples: ends and brace posts 9 each,
    the joined post every wire 9, wood 6 each: 18 + 18 + 9 + 12 = 57.  Clips 16 × 5.
    B: 40 m, brace posts at 2.5 and 37.5: 35 m is 12 bays, 11 posts, 2 of them wood; it brings one end post, the joined one
    is A's; both its ends are tied and stapled: 18 tie-offs, 9 + 9 + 18 + 12 = 48 staples.
    """
    job = tee()
    made = plan(job)
    a, b = made.lines["A"], made.lines["B"]
    (joined,) = [p for p in a.posts if p.role == "join"]
    assert joined.station_m == pytest.approx(30.0) and joined.kind == "terminal" and joined.joined == ("B",)
    assert len(a.posts) == 23 and len(b.posts) == 15 and b.posts[0].shared == "line A"
    counts = keyed(job, "A", made)
    assert (
        counts["post_terminal_2.44"],
        counts["post_brace_2.44"],
        counts["post_wood_2.13"],
        counts["post_steel_1.83"],
    ) == (3, 2, 2, 16)
    assert (counts["staple"], counts["clip"], counts["tie_off"], counts["rail"]) == (57, 80, 18, 2)
    counts = keyed(job, "B", made)
    assert (
        counts["post_terminal_2.44"],
        counts["post_brace_2.44"],
        counts["post_wood_2.13"],
        counts["post_steel_1.83"],
    ) == (1, 2, 2, 9)
    assert (counts["staple"], counts["clip"], counts["tie_off"], counts["rail"]) == (48, 45, 18, 2)
    assert taken(job, made)[TERMINAL] == 4
    assert [r.length_m for r in a.runs] == [60.0], "the fabric of the line that is joined runs through"


def test_a_need_says_what_it_is_and_which_posts_it_goes_to():
    """The tee counted above: A brings 3 posts of 8 ft (its ends and the joined one), B one; braces hold both ends of each.

    A gate of 3.66 m from 12 m: its leaf hangs between the posts at 12 and 15.66, one size bigger than the others.
    """
    job = do(tee(), {"do": "add_gate", "line": "A", "at_m": 12.0, "opening_m": 3.66, "name": "field gate"})
    made = plan(job)
    posts = {k: {p.name: round(p.station_m, 2) for p in made.lines[k].posts} for k in "AB"}
    needs = {k: {n.key: n for n in take_off(fence_of(job, k), made.lines[k])} for k in "AB"}
    stations = {k: {key: [posts[k][p] for p in n.posts] for key, n in needs[k].items()} for k in "AB"}
    assert stations["A"]["post_terminal_2.44"] == [0, 30, 60] and stations["B"]["post_terminal_2.44"] == [40]
    assert next(v for k, v in stations["A"].items() if k.endswith("gate_post")) == [12, 15.66]
    assert stations["A"]["rail"] == [0, 12, 15.66, 60] and stations["B"]["rail"] == [0, 40]
    assert stations["A"]["gate_g1"] == [12, 15.66] and needs["A"]["gate_g1"].size_m < 3.66
    roll = needs["A"]["roll"]
    assert (roll.of, roll.sold_as, roll.size_m, roll.posts) == ("9-49-6", "woven", pytest.approx(100.584), ())
    for line_id, of in needs.items():
        assert sum(n.count for n in of.values() if n.of == "post") == len(
            {p for n in of.values() if n.of == "post" for p in n.posts}
        ), line_id


def test_fabric_of_one_kind_in_two_places_of_a_line_is_bought_once_and_all_of_it():
    """The seed beds hang 24 in cloth, 50 ft rolls, and lay an apron of the same: 4 rolls and 4, 8 for the line in all."""
    beds = next(fence for fence in demo_fences() if fence.title.endswith("seed beds"))
    made = places_plan(beds)
    cloth = [n for n in take_off(beds, made) if n.of == "cloth 24"]
    assert [(n.use, n.count) for n in cloth] == [("fabric", 4), ("apron", 4)]
    (both,) = [b for b in job_take_off([(beds, made)]) if b.need.of == "cloth 24"]
    assert (both.count, both.parts) == (8, {beds.id: 8})
    said = where_of_job(both, made).text("us")
    assert said.startswith("no fewer can do; ") and said.endswith(" of apron")


def test_the_rest_of_a_roll_goes_to_the_next_line():
    """61.2192 m of A and 36 + 1.2192 m of B are 98.44 m: one roll of 100.584 m, the rest of 2.15 m stays with B.

    By itself each line would open a roll.
    """
    made = plan(tee(length=36.0))
    a, b = made.lines["A"].rolls, made.lines["B"].rolls
    assert (a.rolls.new_rolls, b.rolls.new_rolls, a.whole.new_rolls) == (1, 0, 1) and a.over == ("A", "B")
    assert a.pieces[0].rest == "B" and b.pieces[0].opened == "A" and b.pieces[0].stock == a.pieces[0].stock
    assert b.rolls.longest_offcut_m == pytest.approx(100.584 - 61.2192 - 37.2192) and a.rolls.longest_offcut_m == 0
    assert a.whole.proven["new_rolls"] and a.whole.proven["splices"]
    longer = plan(tee(length=39.0))
    assert sum(p.rolls.rolls.new_rolls for p in longer.lines.values()) == 2


def test_an_offcut_on_hand_serves_any_line_that_hangs_its_fabric():
    job = do(tee(), {"do": "own_offcuts", "line": "B", "offcuts_m": [41.3]})
    made = plan(job)
    assert sum(p.rolls.rolls.new_rolls for p in made.lines.values()) == 1
    assert {p.stock for line in made.lines.values() for p in line.rolls.pieces} == {"offcut0", "new0"}
    other = do(job, {"do": "hang_fabric", "line": "B", "label": "9-39-6"})
    assert fence_of(other, "A").offcuts_m == (41.3,) and fence_of(other, "B").offcuts_m == ()


def test_coils_are_strung_on_where_the_last_line_left_off():
    """5 strands of 60 m and 40 m with a tail at both ends: together one coil where each alone opens one."""
    job = do(tee(), *({"do": "hang_barrier", "line": k, "system": "barbed", "label": "5 strands"} for k in "AB"))
    made = plan(job)
    coils = [made.lines[k].coils[0] for k in "AB"]
    total = sum(c.total_m for c in coils)
    assert coils[0].coils + coils[1].coils == math.ceil(total / coils[0].wire.coil_m)
    assert coils[0].joins + coils[1].joins == coils[0].coils + coils[1].coils - 1, "no join where one line ends"


def test_pulls_on_a_shared_corner_add_as_vectors_and_lifts_as_numbers():
    """A turns at (40, 0) from east to north: its runs pull the corner west and north.  B leaves it to the south-east.

    (−P, 0) + (0, P) + (P·sin 135°, P·cos 135°) = (−0.2929 P, 0.2929 P): 0.4142 P to the north-west.
    """
    far = 40 + 50 * math.sqrt(0.5)
    job = job_of(line((0, 0, 5), (40, 0, 5), (40, 40, 5)), line((40, 0, 5), (far, 40 - far, 5)))
    job = do(job, {"do": "join_line", "line": "B", "end": "start", "on": "A", "at_m": 40})
    made = plan(job)
    corner = next(p for p in made.lines["A"].posts if p.role == "corner")
    pulls = dict(made.lines["A"].pulls)[corner.index]
    p = made.lines["A"].section.cold_n
    assert sorted(round(x.bearing_deg) for x in pulls) == [0, 135, 270] and all(x.pull_n == p for x in pulls)
    facts = {f.name: f for f in post_tag(fence_of(job, "A"), made.lines["A"], corner.index).facts}
    together, way = facts["Lines pull on it"].value.v["all"], facts["Lines pull on it"].value.v["way"]
    assert together[0] == pytest.approx(math.sqrt(2) * (1 - math.sqrt(0.5)) * p, rel=1e-9) and way == "N 45°00' W"
    assert (
        facts["Their braces lift it"].value.v["lift"][0] == pytest.approx(sum(x.uplift_n for x in pulls))
        and len(pulls) == 3
    )
    assert dict(made.lines["B"].pulls)[0] == pulls, "seen from either line"
    assert made.lines["B"].posts[0].shared == "line A" and made.lines["A"].posts[corner.index].joined == ("B",)


def test_a_post_two_lines_share_is_as_long_and_as_deep_as_the_taller_asks():
    job = do(tee(), {"do": "hang_barrier", "line": "B", "system": "deer", "label": "20-96-6"})
    made = plan(job)
    (joined,) = [p for p in made.lines["A"].posts if p.role == "join"]
    assert joined.above_m >= made.lines["B"].fence_height_m > made.lines["A"].fence_height_m
    assert joined.depth_m >= made.lines["B"].posts[-1].depth_m - 1e-9
    assert joined.stock_m > next(p for p in made.lines["A"].posts if p.role == "end").stock_m


def places(job, line_id, index):
    p = fence_of(job, line_id).line.points[index]
    return p.e_m, p.n_m, p.h_m


def test_both_move_together_when_either_is_mended():
    job = job_of(line((0, 0, 5), (40, 0, 6), (40, 40, 7)), line((41, 0, 5), (80, 0, 5)), line((20, 10, 0), (20, 50, 1)))
    job = do(
        job,
        {"do": "join_line", "line": "B", "end": "start", "on": "A", "at_m": 40.02},
        {"do": "join_line", "line": "C", "end": "start", "on": "A", "at_m": 20},
    )
    assert places(job, "B", 0) == (40, 0, 6) and job.joins[0].at_m == 40.0, (
        "a corner within a tape's reach is the corner"
    )
    assert places(job, "C", 0) == (20, 0, 5.5) and places(job, "C", 1)[2] == pytest.approx(6.5), (
        "its heights come along"
    )
    moved = do(job, {"do": "move_point", "line": "A", "index": 1, "e_m": 50, "n_m": 0})
    assert places(moved, "B", 0)[:2] == (50, 0) and places(moved, "C", 0)[:2] == pytest.approx((25, 0)), (
        "half way stays half way"
    )
    back = do(job, {"do": "move_point", "line": "B", "index": 0, "e_m": 45, "n_m": -3})
    assert places(back, "A", 1)[:2] == (45, -3) and places(back, "B", 0)[:2] == (45, -3), "the corner goes with the end"
    slid = do(job, {"do": "move_point", "line": "C", "index": 0, "e_m": 26, "n_m": 3})
    assert places(slid, "A", 1) == (40, 0, 6) and places(slid, "C", 0)[:2] == pytest.approx((26, 0)), (
        "on a leg it slides along"
    )
    assert read_job(slid.canonical_json()) == slid


def test_a_chain_of_lines_goes_on_to_the_last_and_the_post_is_bought_by_the_first():
    """B ends on A's end, C starts on B's end: one post, A's."""
    job = job_of(line((0, 0, 5), (40, 0, 5)), line((80, 0, 5), (40, 1, 5)), line((41, 0, 5), (40, 40, 5)))
    job = do(
        job,
        {"do": "join_line", "line": "B", "end": "end", "on": "A", "at_m": 40},
        {"do": "join_line", "line": "C", "end": "start", "on": "B", "at_m": 40},
    )
    made = plan(do(job, {"do": "move_point", "line": "A", "index": 1, "e_m": 42, "n_m": 2}))
    ends = [made.lines["A"].posts[-1], made.lines["B"].posts[-1], made.lines["C"].posts[0]]
    assert {(round(p.east_m, 4), round(p.north_m, 4)) for p in ends} == {(42, 2)}
    assert [p.shared for p in ends] == ["", "line A", "line A"] and ends[0].joined == ("B", "C")
    assert len(dict(made.lines["A"].pulls)[ends[0].index]) == 3
    assert taken(job)[TERMINAL] == 4


def test_a_ring_of_lines_is_no_circle():
    corners = [(0, 0, 5), (50, 0, 5), (50, 50, 5), (0, 50, 5)]
    job = job_of(*(line(corners[k], corners[(k + 1) % 4]) for k in range(4)))
    for k, letter in enumerate("ABCD"):
        job = do(job, {"do": "join_line", "line": letter, "end": "end", "on": "BCDA"[k], "at_m": 0})
    closed = one_line("Ring", line(*corners).model_copy(update={"closed": True}))
    closed = do(closed, *({"do": "decide", "key": k, "value": v} for k, v in BAYS.items()))
    assert taken(job) == pytest.approx(taken(closed)), "four joined sides are a closed line"
    with pytest.raises(BadInput, match="which itself stands on line B"):
        do(job_of(line((0, 0, 5), (40, 0, 5)), line((20, 0, 5), (20, 40, 5))), {"do": "join_line", "line": "B", "end": "start", "on": "A", "at_m": 20}, {"do": "join_line", "line": "A", "end": "end", "on": "B", "at_m": 20})  # fmt: skip


BAD = [
    ({"do": "join_line", "line": "B", "end": "end", "on": "B", "at_m": 3}, "can't be joined to itself"),
    ({"do": "join_line", "line": "B", "end": "end", "on": "Z", "at_m": 3}, "this job has no line Z"),
    ({"do": "join_line", "line": "B", "end": "end", "on": "A", "at_m": 61}, "ends at 60"),
    (
        {"do": "join_line", "line": "B", "end": "start", "on": "A", "at_m": 1.5},
        "within its brace from 0.00 m to 2.50 m",
    ),
    ({"do": "add_gate", "line": "A", "at_m": 28, "opening_m": 4}, "gate hangs there"),
    ({"do": "remove_line", "line": "A"}, "line B would stand on a post of its own where line A was"),
    ({"do": "rename_line", "line": "B", "name": "line A"}, "two lines of this job are called line A"),
    ({"do": "split_line", "line": "A", "at_m": 60, "name": "x"}, "split at a post between its ends"),
    ({"do": "add_point", "line": "B", "e_m": 9, "n_m": 9, "at_start": True}, "part it from there before it is run on"),
    ({"do": "close_line", "line": "B", "closed": True}, "part it from there before it is closed"),
    ({"do": "part_line", "line": "B", "end": "end"}, "stands on no other line"),
    (
        {"do": "decide", "line": "Q", "key": "longest_bay_m", "value": 3},
        "this job has no line Q: it has A (line A), B (line B)",
    ),
    ({"do": "add_line", "given": {"name": "no line"}}, "measured: is missing"),
    ({"do": "stand_line", "line": "B", "standing": "permanent", "until": "2027-01-01"}, "a day until which"),
]


@pytest.mark.parametrize(("edit", "words"), BAD, ids=[f"{e['do']}-{k}" for k, (e, _) in enumerate(BAD)])
def test_what_can_not_be_is_said_and_nothing_is_lost(edit, words):
    job = tee()
    before = job.canonical_json()
    if edit["do"] == "stand_line":
        edit = {**edit, "until": TODAY.replace(year=2027)}
    with pytest.raises(BadInput) as caught:
        plan(do(job, edit))
    assert words in caught.value.sentence and "\n" not in caught.value.sentence
    assert job.canonical_json() == before


def test_what_a_line_stood_on_can_go_when_that_is_meant():
    left = do(tee(), {"do": "remove_line", "line": "A", "lose": True})
    assert [own.id for own in left.lines] == ["B"] and left.joins == () and plan(left).lines["B"].posts[0].shared == ""
    with pytest.raises(BadInput, match="one line at least"):
        do(left, {"do": "remove_line", "line": "B"})
    long = do(tee(at=50.0), {"do": "split_leg", "line": "A", "at_m": 40})
    with pytest.raises(BadInput, match="line B would no longer stand on it at 50"):
        do(long, {"do": "remove_point", "line": "A", "index": 2})
    gone = do(long, {"do": "remove_point", "line": "A", "index": 2, "lose": True})
    assert gone.joins == () and places(gone, "B", 0)[:2] == (50, 0), "the line stays where it was"


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda d: d["lines"].clear(), "lines"),
        (lambda d: d["lines"].pop(0), "a join speaks of line A, which this job does not have"),
        (lambda d: d["lines"][1].update(id="A"), "two lines of this job are called A"),
        (lambda d: d["joins"][0].update(on="B"), "can't be joined to itself"),
        (lambda d: d["joins"].append(d["joins"][0]), "stands on one post, not on two"),
        (lambda d: d["lines"].extend([{**d["lines"][1], "id": f"A{chr(65 + k % 26)}{chr(65 + k // 26)}", "name": f"n{k}"} for k in range(200)]), "more than the 100 a job holds"),
        (lambda d: d.update(format="gnomonic-job/9"), "made by a later Gnomonic"),
    ],
)  # fmt: skip
def test_documents_of_several_lines_refused(change, words):
    data = json.loads(tee().canonical_json())
    change(data)
    with pytest.raises(BadInput) as caught:
        read_job(json.dumps(data))
    assert words in caught.value.sentence and "\n" not in caught.value.sentence
    data = json.loads(tee().canonical_json())
    data["lines"][1]["measured"]["points"][0]["n_m"] = 9.0
    with pytest.raises(BadInput, match="is said to stand on line A at 30"):
        plan(read_job(json.dumps(data)))


def test_lines_that_nearly_meet_or_cross_are_asked_about():
    """B starts 0.4 m from A, C crosses A at 50 m, D stands 1 m off: only the first two are asked about."""
    job = job_of(
        line((0, 0, 5), (60, 0, 5)),
        line((30, 0.4, 5), (30, 40, 5)),
        line((50, -20, 5), (50, 20, 5)),
        line((10, 1, 5), (10, 30, 5)),
    )
    made = plan(job)
    met = [(m.line, m.end, m.on, round(m.at_m, 3), round(m.off_m, 3)) for m in made.meetings]
    assert sorted(met) == [
        ("A", "", "C", 20, 0),
        ("B", "start", "A", 30, 0.4),
    ]
    codes = {f.id: {s.code: s for s in snags(f, made.lines[f.id], TODAY, meetings=made.meetings)} for f in fences(job)}
    assert (
        "nearly-meets" in codes["B"]
        and "crosses" in codes["A"]
        and "crosses" in codes["C"]
        and "nearly-meets" not in codes["D"]
    )
    joined = do(job, codes["B"]["nearly-meets"].remedies[0].edit)
    assert places(joined, "B", 0)[:2] == (30, 0) and [m.on for m in plan(joined).meetings] == ["C"]
    split = do(job, codes["C"]["crosses"].remedies[0].edit)
    assert [own.name for own in split.lines][2:4] == ["line C", "line C beyond line A"]


def test_an_old_fence_is_joined_and_nothing_is_planned_on_it():
    """At its end the old post is there; between its posts the joining line brings one itself."""
    job = do(tee(), {"do": "stand_line", "line": "A", "standing": "there"})
    made = plan(job)
    assert set(made.lines) == {"B"} and made.lines["B"].posts[0].shared == ""
    end = do(job, {"do": "join_line", "line": "B", "end": "start", "on": "A", "at_m": 60})
    assert plan(end).lines["B"].posts[0].shared == "line A"


def test_a_line_for_a_time_says_when_it_is_over():
    job = do(tee(), {"do": "stand_line", "line": "B", "standing": "temporary", "until": TODAY})
    fence, made = fence_of(job, "B"), plan(job).lines["B"]
    assert not [s for s in snags(fence, made, TODAY) if s.code == "overdue"]
    assert [s.code for s in snags(fence, made, TODAY.replace(month=7)) if s.code == "overdue"]


SPLIT = [f for f in demo_fences() if not (of := system(f.barrier.system)).continuous and not of.corner_seam]


@pytest.mark.parametrize("fence", SPLIT, ids=[f.name.split(" · ")[1] for f in SPLIT])
def test_a_line_split_at_a_corner_needs_what_it_needed(fence):
    """Every corner in turn: posts, fabric and hardware stay the same, the shared post is in it once."""
    made = plan(fence.job)
    whole = taken(fence.job, made)
    corners = [p.station_m for p in made.lines["A"].posts if p.role == "corner" and p.station_m > 0.3]
    for at in corners:
        parts = do(fence.job, {"do": "split_line", "at_m": at, "name": "the rest"})
        assert len(parts.joins) == 1 + fence.line.closed
        halves = plan(parts)
        assert taken(parts, halves) == pytest.approx(whole), at
        assert sum(not p.shared for one in halves.lines.values() for p in one.posts) == len(made.lines["A"].posts)
        assert halves.lines["A"].rolls.whole.new_rolls == made.lines["A"].rolls.whole.new_rolls


def test_what_was_found_decided_and_joined_goes_with_its_part():
    job = do(
        tee(),
        {"do": "add_found", "line": "A", "kind": "wet", "from_m": 10, "to_m": 50},
        {"do": "forbid", "line": "A", "from_m": 35, "to_m": 36, "reason": "rock"},
        {"do": "place_post", "line": "A", "at_m": 45},
        {"do": "split_line", "line": "A", "at_m": 40, "name": "far part"},
    )
    a, c = fence_of(job, "A").own, fence_of(job, "C").own
    assert [(f.from_m, f.to_m) for f in (*a.found, *c.found)] == [(10, 40), (0, 10)] and len(
        {f.id for f in (*a.found, *c.found)}
    ) == 2
    assert (
        [(s.from_m, s.to_m) for s in a.forbidden] == [(35, 36)]
        and c.forbidden == ()
        and [p.at_m for p in c.posts] == [5]
    )
    assert [(j.line, j.end, j.on, j.at_m) for j in job.joins] == [("B", "start", "A", 30), ("C", "start", "A", 40)]
    assert [own.id for own in job.lines] == ["A", "C", "B"]
    copy = do(job, {"do": "copy_line", "line": "A", "name": "again", "beside_m": 5})
    assert places(copy, "D", 0)[:2] == (0, -5) and len(copy.joins) == 2


def test_the_order_of_lines_never_matters():
    job = holm()
    turned = checked(job, lines=tuple(reversed(job.lines)), joins=tuple(reversed(job.joins)))
    first, second = plan(job), plan(turned)
    assert taken(job, first) == pytest.approx(taken(turned, second))
    for k, made in first.lines.items():
        assert [p.station_m for p in made.posts] == [p.station_m for p in second.lines[k].posts]
        assert made.rolls.pieces == second.lines[k].rolls.pieces


def test_an_edit_of_one_line_lays_out_that_line_only():
    job, memo = holm(), PlanMemo()
    before = plan(job, memo)
    after = plan(do(job, {"do": "decide", "line": "I", "key": "longest_bay_m", "value": 2.5}), memo)
    assert memo.laid == ("I",)
    same = [k for k in before.lines if before.lines[k] is after.lines[k]]
    assert same == [k for k in before.lines if k != "I"], "what an edit does not touch stays the same object"
    anew = plan(do(job, {"do": "decide", "line": "I", "key": "longest_bay_m", "value": 2.5}))
    assert [p.station_m for p in anew.lines["I"].posts] == [p.station_m for p in after.lines["I"].posts]


def test_finds_of_every_line_have_names_of_their_own():
    job = do(tee(), *({"do": "add_found", "line": k, "kind": "tree", "from_m": 5, "to_m": 5} for k in "ABA"))
    assert [f.id for own in job.lines for f in own.found] == ["f1", "f3", "f2"]
    on_map = do(job, {"do": "add_found", "line": "B", "kind": "service", "shape": ((5.0, -5.0), (5.0, 5.0))})
    assert (
        on_map.found[0].id == "f4" and [t.found.id for t in plan(on_map).lines["A"].things if t.stretches][-1] == "f4"
    )
    assert [t.stretches for t in plan(on_map).lines["B"].things if t.found.id == "f4"] == [()], (
        "it lies on the other line"
    )


moves = st.tuples(
    st.sampled_from(["A", "B", "C", "D"]), st.integers(0, 1), st.floats(-4, 4).map(lambda x: round(x, 2)), st.floats(-4, 4).map(lambda x: round(x, 2))
)  # fmt: skip


@pytest.mark.no_cover
@examples(60, 10)
@given(st.lists(moves, min_size=1, max_size=5))
def test_joined_ends_are_on_their_posts_whatever_is_moved(steps):
    job = job_of(
        line((0, 0, 5), (60, 0, 5)),
        line((30, 0, 5), (30, 40, 6)),
        line((60, 0, 5), (60, 40, 5)),
        line((30, 40, 5), (60, 40, 7)),
    )
    for join in (("B", "start", "A", 30), ("C", "start", "A", 60), ("D", "start", "B", 40), ("D", "end", "C", 40)):
        job = do(job, dict(zip(("do", "line", "end", "on", "at_m"), ("join_line", *join), strict=True)))
    for letter, index, east, north in steps:
        e, n, _ = places(job, letter, index)
        try:
            job = do(job, {"do": "move_point", "line": letter, "index": index, "e_m": e + east, "n_m": n + north})
        except BadInput:  # a line would cross itself or end beyond a post
            continue
        made = plan(job)
        for join in job.joins:
            own = places(job, join.line, 0 if join.end == "start" else -1)
            assert math.dist(own[:2], made.courses[join.on].place(join.at_m)) < 0.002
        assert read_job(job.canonical_json()) == job and isinstance(job.joins[0], Join)
