"""The job as a document and its stock: lines added and named, older forms, rolls and coils told line by line."""

import json
import math

import pytest
from core.test_lines import do, job_of, line, taken, tee
from hypothesis import given, settings
from hypothesis import strategies as st

from gnomonic.core.demand.kinds import kind_of_post, kinds
from gnomonic.core.demand.system import systems
from gnomonic.core.demand.tasks import tasks
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.fabrics import fabrics, wires
from gnomonic.core.fabric.lay import Rules, RunNeed
from gnomonic.core.job.fence import changed, fence_of, fences
from gnomonic.core.job.older import from_1, where_in_1
from gnomonic.core.job.reading import read_job
from gnomonic.core.plan.hung import Want, WireWant
from gnomonic.core.plan.road import PlanMemo, plan
from gnomonic.core.plan.stock import RollMemo, share_coils, share_rolls
from gnomonic.core.tell.compare import difference

OLD = {
    "format": "gnomonic-job/1",
    "name": "Old",
    "line": {
        "points": [{"e_m": 0, "n_m": 0, "h_m": 5}, {"e_m": 60, "n_m": 0, "h_m": 5}],
        "source": {"kind": "gpx", "points_read": 2},
        "frame": {"kind": "geographic", "lon0_deg": -30.0, "lat0_deg": 47.0},
    },
    "offcuts_m": [41.5],
    "barrier": {"label": "9-39-6"},
    "found": [
        {"id": "f1", "kind": "wet", "from_m": 3, "to_m": 9},
        {"id": "f2", "kind": "service", "shape": [[5, -5], [5, 5]]},
    ],
}


def test_a_job_of_one_line_comes_apart_into_the_job_and_its_line():
    job = read_job(json.dumps(OLD))
    (own,) = job.lines
    assert (job.frame.kind, job.stock.offcuts[0].label, job.stock.offcuts[0].length_m) == ("geographic", "9-39-6", 41.5)
    assert [f.id for f in own.found] == ["f1"] and [f.id for f in job.found] == ["f2"]
    fence = fence_of(job)
    assert fence.offcuts_m == (41.5,) and [f.id for f in fence.found] == ["f1", "f2"] and fence.title == "Old"
    assert from_1(OLD)["format"] == "gnomonic-job/2" and OLD["format"] == "gnomonic-job/1", (
        "what was given stays as it was"
    )
    without = {k: v for k, v in OLD.items() if k != "format"}
    assert read_job(json.dumps(without)) == job, "the first form did not have to say what it is"


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"colour": "red"}, "colour", "is not a key of this document"),
        ({"line": {**OLD["line"], "frame": {"kind": "geographic"}}}, "line.frame", "lon0_deg"),
        ({"line": {**OLD["line"], "points": OLD["line"]["points"][:1]}}, "line.points", "at least 2"),
        ({"offcuts_m": [-3]}, "offcuts_m[0].length_m", "greater than 0"),
        ({"gates": [{"id": "G!", "at_m": 3, "opening_m": 3}]}, "gates[0].id", ""),
        ({"name": None}, "name", "is missing"),
        ({"found": 7}, "found", ""),
        ({"line": "east"}, "line", ""),
    ],
)
def test_what_is_wrong_in_an_older_document_is_named_as_it_stands_there(change, field, words):
    with pytest.raises(BadInput) as caught:
        read_job(json.dumps({**OLD, **change}))
    assert caught.value.field == field and words in caught.value.sentence and "lines[0]" not in caught.value.sentence
    assert where_in_1("lines[0].measured.points[3].h_m") == "line.points[3].h_m"


@pytest.mark.parametrize(
    "text",
    [
        "",
        "[]",
        "{",
        "[" * 3000,
        '{"format": "gnomonic-job/2"}',
        '{"format": 7}',
        '{"format": "gnomonic-job/99999999"}',
        b"\xff\xfe",
    ],
)
def test_what_is_no_job_is_refused_in_one_sentence(text):
    with pytest.raises(BadInput) as caught:
        read_job(text)
    assert "\n" not in caught.value.sentence and len(caught.value.sentence) < 300


def test_lines_get_the_next_letter_a_free_name_and_finds_of_their_own():
    job = job_of(line((0, 0, 5), (60, 0, 5)))
    given = json.loads(line((0, 10, 5), (60, 10, 5)).model_dump_json())
    wet = {"id": "f1", "kind": "wet", "from_m": 3, "to_m": 9}
    for _ in range(30):
        job = do(job, {"do": "add_line", "given": {"name": "lane", "measured": given, "found": [wet]}})
    assert [own.id for own in job.lines][24:29] == ["Y", "Z", "AA", "AB", "AC"] and job.lines[3].name == "lane 3"
    names = [f.id for own in job.lines for f in own.found]
    assert len(set(names)) == len(names) == 30
    less = do(job, {"do": "remove_line", "line": "AE"})
    again = do(less, {"do": "add_line", "given": {"name": "x", "measured": given}, "e_m": 5.0, "n_m": 7.0})
    first = again.lines[-1].measured.points[0]
    assert again.lines[-1].id == "AE" and (first.e_m, first.n_m) == (5, 7)
    for _ in range(69):
        again = do(again, {"do": "copy_line", "line": "A", "name": f"copy {len(again.lines)}"})
    with pytest.raises(BadInput, match="more than the 100 a job holds"):
        do(again, {"do": "copy_line", "line": "A", "name": "one too many"})


def test_a_fence_changes_its_own_line_and_what_is_the_jobs():
    job = do(tee(), {"do": "own_offcuts", "line": "A", "offcuts_m": [30.0]})
    fence = fence_of(job, "B")
    other = changed(fence, swath_m=5.0, offcuts_m=(12.0,), marking=None)
    assert (
        other.job.line("A") is job.line("A") and other.job.line("B").swath_m == 5.0 and other.own is other.job.line("B")
    )
    assert [o.length_m for o in other.job.stock.offcuts] == [12.0], "of the fabric that hangs on both"
    assert fence.title == "Test › line B" and [f.id for f in fences(job)] == ["A", "B"]
    with pytest.raises(KeyError):
        fence_of(job, "Z")


def want(metres, what="", roll=100.0, rules=Rules(0.3, 3.0)):  # noqa: B008
    needs = tuple(RunNeed(m) for m in metres)
    along = tuple([0.0, m] for m in metres)
    return Want(what, fabrics()["9-49-6"], roll, rules, needs, tuple(range(len(metres))), along, along)


NAMES = {k: f"line {k}" for k in "ABC"}


def test_rolls_are_opened_where_they_are_first_cut_and_their_rests_go_on():
    """A takes 60 of one roll and B the other 39.7 with C's 0.3 left over: C opens the second for its 50."""
    shares, _ = share_rolls({"A": (want([60]),), "B": (want([39.7]),), "C": (want([50]),)}, {}, NAMES, RollMemo())
    opened = {k: s.rolls.new_rolls for k, s in shares.fabric.items()}
    assert opened == {"A": 1, "B": 0, "C": 1} and shares.fabric["B"].pieces[0].opened == "A"
    assert shares.fabric["A"].pieces[0].rest == "B" and shares.fabric["C"].rolls.longest_offcut_m == pytest.approx(50)
    apart, _ = share_rolls(
        {"A": (want([60]),), "B": (want([39.7], roll=50.0),), "C": (want([30], rules=Rules(0.5, 3.0)),)},
        {},
        NAMES,
        RollMemo(),
    )
    assert {k: s.rolls.new_rolls for k, s in apart.fabric.items()} == {"A": 1, "B": 1, "C": 1}, (
        "other rolls, other rules"
    )


def test_further_layers_are_cut_over_the_lines_too():
    wanted = {k: (want([40]), want([40], "apron")) for k in "AB"}
    shares, _ = share_rolls(wanted, {}, NAMES, RollMemo())
    assert [[m.rolls for m in shares.more[k]] for k in "AB"] == [[1], [0]] and shares.more["B"][0].need_m == 40


def test_what_was_cut_is_not_cut_again_while_nobody_asks_otherwise():
    wanted = {"A": (want([60, 80]),), "B": (want([39.7]),)}
    first, memo = share_rolls(wanted, {}, NAMES, RollMemo())
    second, again = share_rolls(wanted, {}, NAMES, memo)
    assert all(first.fabric[k] is second.fabric[k] for k in "AB") and again.groups.keys() == memo.groups.keys()
    third, _ = share_rolls({**wanted, "B": (want([39.6]),)}, {}, NAMES, again)
    assert third.fabric["B"] is not second.fabric["B"]
    with_offcut, _ = share_rolls(wanted, {"A": (39.7,), "B": (39.7,)}, NAMES, memo)
    assert with_offcut.fabric["B"].pieces[0].stock == "offcut0", "one offcut, on hand for either line"
    assert with_offcut.fabric["A"].whole.offcuts_kept_m == (("new0", 40.0), ("new1", 20.0))


def test_a_run_that_can_not_be_laid_is_named_with_its_line():
    tight = RunNeed(150.0, tuple(float(k) for k in range(151)))
    rules = Rules(0.5, 3.0, 0.4)
    bad = Want("", fabrics()["9-49-6"], 100.0, rules, (tight,), (2,), ([0.0, 150.0],), ([0.0, 150.0],))
    with pytest.raises(BadInput, match="run 3 of line B can't be laid"):
        share_rolls({"A": (want([60], rules=rules),), "B": (bad,)}, {}, NAMES, RollMemo())


@settings(max_examples=40)
@given(st.lists(st.floats(5, 2000), min_size=1, max_size=6))
def test_coils_add_up_to_those_of_one_long_line(lengths):
    wire = wires()["barbed"]
    wanted = {chr(65 + k): (WireWant("barbed", wire, 5, metres),) for k, metres in enumerate(lengths)}
    found = share_coils(wanted)
    total, parts = sum(lengths), [rows[0] for rows in found.values()]
    assert sum(c.coils for c in parts) == max(0, math.ceil((total - 0.005) / wire.coil_m)) and all(
        c.joins >= 0 for c in parts
    )
    assert sum(c.joins for c in parts) <= sum(c.coils for c in parts), (
        "a coil that ends with a line is joined on neither"
    )


def test_what_changed_is_told_over_the_lines_that_changed():
    job = tee()
    made = plan(job)
    sides = [(f, made.lines[f.id]) for f in fences(job)]
    added = difference(sides[:1], sides).text("us")
    assert "+14 posts" in added and "+1 run" in added and difference(sides, sides) is None
    assert "−14 posts" in difference(sides, sides[:1]).text("us")
    hung = do(job, {"do": "hang_fabric", "line": "B", "label": "9-39-6"})
    now = plan(hung)
    words = difference(sides, [(f, now.lines[f.id]) for f in fences(hung)]).text("us")
    assert "9-39-6 hung instead of 9-49-6" in words and "post" in words


def test_a_plan_that_is_planned_again_is_the_same_object_line_by_line():
    job, memo = tee(), PlanMemo()
    first = plan(job, memo)
    assert memo.laid == ("A", "B")
    second = plan(read_job(job.canonical_json()), memo)
    assert memo.laid == () and all(second.lines[k] is first.lines[k] for k in "AB"), (
        "an equal document asks for nothing new"
    )
    renamed = plan(do(job, {"do": "rename_line", "line": "B", "name": "other"}), memo)
    assert renamed.lines["A"].posts[0] == first.lines["A"].posts[0] and taken(job, first) == taken(job, renamed)


def test_kinds_of_posts_and_of_work_are_on_file():
    used = {kind for of in systems().values() for kind in of.posts}
    assert used <= set(kinds()) and kind_of_post("obelisk").mark == "obelisk", (
        "a kind that is not on file is told plainly"
    )
    for of in systems().values():
        assert {s.task for s in of.steps} <= set(tasks()), of.key
    for key, task in tasks().items():
        assert 0 < task.least < 1 < task.most and task.crew >= 1 and key not in task.after
        assert bool(task.of) != bool(task.minutes), "minutes come from one place"
        assert bool(task.wait_days) == bool(task.wait)
