"""Plans of many lines kept and made again, jobs saved together, and the shell over several lines."""

import json
import threading

import pytest
from places import run
from sqlalchemy import text

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.job.reading import read_job
from gnomonic.demo.load import demo_jobs, holm, single_jobs
from gnomonic.store import jobs
from gnomonic.web.draw.ground import lines_json
from gnomonic.web.haul.worth import Worth
from gnomonic.web.parts import told
from gnomonic.web.plans import Plans

NO_PRICES = Worth("", ())


def do(job, **edit):
    return apply(job, read_edit(edit))


def test_jobs_are_saved_together_or_not_at_all(scope):
    one, two = holm(), single_jobs()[0]
    first, second = jobs.create(scope, one), jobs.create(scope, two)
    bases = [jobs.load(scope, k).version for k in (first, second)]
    jobs.save(scope, second, bases[1], do(two, do="rename", name="Moved on"), "{}")
    with pytest.raises(jobs.Moved):
        jobs.save_together(
            scope, [(first, bases[0], do(one, do="rename", name="New"), "{}", ""), (second, bases[1], two, "{}", "")]
        )
    assert jobs.load(scope, first).name == "Larkspur Holm" and jobs.load(scope, second).name == "Moved on"
    base = jobs.load(scope, second).version
    stored = jobs.save_together(
        scope, [(second, base, two, "{}", '{"A":["1"]}'), (first, bases[0], do(one, do="rename", name="New"), "{}", "")]
    )
    assert [s.name for s in stored] == [two.name, "New"] and stored[0].names == '{"A":["1"]}'
    with scope.engine.connect() as connection:
        assert connection.execute(text("SELECT count(*) FROM versions")).scalar() == 5


def test_two_windows_that_save_together_never_wait_for_each_other_for_ever(scope):
    """Each moves something between the same two jobs, named in the other order: one wins, one is told."""
    ids = [jobs.create(scope, job) for job in single_jobs()[:2]]
    made, bases = single_jobs()[:2], [jobs.load(scope, k).version for k in ids]
    told_of, ready = [], threading.Barrier(2)

    def window(order):
        ready.wait()
        try:
            jobs.save_together(scope, [(ids[k], bases[k], made[k], "{}", "") for k in order])
            told_of.append("saved")
        except jobs.Moved:
            told_of.append("moved")

    threads = [threading.Thread(target=window, args=(order,)) for order in ((0, 1), (1, 0))]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(timeout=20)
    assert sorted(told_of) == ["moved", "saved"]


def test_only_what_is_asked_for_is_drawn_and_what_stayed_is_the_same():
    plans, job = Plans(), holm()
    was = plans.make("j", job)
    assert was.seen == {} and was.line("B").drawn == {} and set(was.seen) == {"B"}
    assert json.loads(was.line("B").drawing)["id"] == "B" and was.line("B").drawn
    now = plans.after("j", was, do(job, do="decide", line="I", key="longest_bay_m", value=2.5))
    assert [k for k in job.lines if now.plan.lines[k.id] is not was.plan.lines[k.id]] == [job.line("I")]
    assert now.kept is was.kept and json.loads(now.ground())[1] == json.loads(was.ground())[1]
    kept = {}
    first = lines_json(job, was.plan, kept)
    rows = dict(kept)
    assert lines_json(job, was.plan, kept) == first and all(kept[k] is rows[k] for k in rows)
    parted = do(job, do="part_line", line="B", end="end")
    assert [j["end"] for j in json.loads(lines_json(parted, plans.after("j", was, parted).plan, kept))[1]["joins"]] == [
        "start"
    ]


def test_an_edit_tried_and_not_taken_leaves_names_alone():
    """Weighing a remedy plans the job with it: the posts of the job itself are called what they were."""
    plans, job = Plans(), holm()
    was = plans.make("j", job)
    before = [p.name for p in was.plan.lines["I"].posts]
    for value in (2.0, 2.5, 4.0):
        tried = plans.after("j", was, do(job, do="decide", line="I", key="longest_bay_m", value=value))
        assert len({p.name for p in tried.plan.lines["I"].posts}) == len(tried.plan.lines["I"].posts)
    assert [p.name for p in was.plan.lines["I"].posts] == before and was.names() == ""
    more = plans.after("j", was, do(job, do="decide", line="I", key="longest_bay_m", value=2.0))
    odd = json.loads(more.names())
    assert set(odd) == {"I"} and any(not name.isdigit() for name in odd["I"])
    again = plans.of("other", "digest", more.job.canonical_json(), more.names())
    assert [p.name for p in again.plan.lines["I"].posts] == odd["I"]
    stale = plans.of("other", "digest of another", was.job.canonical_json(), more.names())
    assert [p.name for p in stale.plan.lines["I"].posts] == before, (
        "names that do not fit the plan are not forced on it"
    )


def test_what_is_said_names_other_lines_only_where_their_posts_moved():
    plans, job = Plans(), holm()
    was = plans.make("j", job)
    longer = {"do": "decide", "line": "B", "key": "roll_m", "value": 50.0}
    words = told(was, plans.after("j", was, do(job, **longer)), longer, NO_PRICES).text("us")
    assert "roll" in words and "(with" not in words, "rolls cut otherwise elsewhere are no news of those lines"
    moved = {"do": "move_point", "line": "B", "index": 0, "e_m": -106.6, "n_m": 2.0}
    assert "(with brook paddock)" in told(was, plans.after("j", was, do(job, **moved)), moved, NO_PRICES).text("us")
    gone = {"do": "remove_line", "line": "I"}
    assert "−55 posts" in told(was, plans.after("j", was, do(job, **gone)), gone, NO_PRICES).text("us")
    same = {"do": "stand_line", "line": "I", "standing": "temporary"}
    assert (
        told(was, plans.after("j", was, do(job, **same)), same, NO_PRICES).text("us").startswith("the plan is the same")
    )


def test_a_job_whose_lines_all_stand_already_has_a_page_and_no_plan():
    plans, job = Plans(), single_jobs()[0]
    there = plans.make("j", do(job, do="stand_line", line="A", standing="there"))
    assert there.plan.lines == {} and there.all() == [] and json.loads(there.ground())[0]["standing"] == "there"
    with pytest.raises(BadInput, match="stands already"):
        there.line()


def test_many_lines_from_the_shell(tmp_path):
    (tmp_path / "holm.json").write_text(holm().canonical_json())
    done = run("plan", "holm.json", "-o", "plan.json", cwd=tmp_path)
    assert done.returncode == 0 and done.stderr.startswith("gnomonic: lines 9, posts ")
    made = json.loads((tmp_path / "plan.json").read_text())
    assert made["format"] == "gnomonic-plan/2" and [line["id"] for line in made["lines"]] == list("ABCDEFGHI")
    own = sum(not p.get("shared") for line in made["lines"] for p in line["posts"])
    assert f"posts {own}," in done.stderr
    (tmp_path / "torn.json").write_text(holm().canonical_json().replace('"on": "A"', '"on": "Q"', 1))
    torn = run("plan", "torn.json", cwd=tmp_path)
    assert torn.returncode == 2 and torn.stderr.count("\n") == 1 and "speaks of line Q" in torn.stderr


def test_the_demo_has_a_line_for_every_barrier_and_one_ground_of_many():
    made = demo_jobs()
    *alone, ground = made
    assert len(ground.lines) == 9 and len(ground.joins) == 8 and len(alone) == 6
    assert {line.barrier.system for job in made for line in job.lines} == {
        "woven", "high_tensile", "barbed", "multiwire", "welded", "garden", "orchard", "deer", "chainlink", "fauna", "kennel", "concrete",
    }  # fmt: skip
    assert read_job(ground.canonical_json()) == ground
