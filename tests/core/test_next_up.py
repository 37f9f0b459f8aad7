"""What to do next on a job, in the order of the work."""

from datetime import date

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.plan.road import plan
from gnomonic.core.tell.next_up import next_up
from gnomonic.demo.load import holm, single_jobs
from gnomonic.web.home.sample import job as sample

DAY = date(2026, 3, 2)


def said(job, grave=None):
    return [(n.said.text("us"), n.go, n.line) for n in next_up(job, plan(job), grave or {}, DAY)]


def do(job, **edit):
    return apply(job, read_edit(edit))


def test_first_heights_then_demands_then_what_stops_it_then_marks():
    job = sample()
    level = job.lines[0].model_copy(update={"measured": job.lines[0].measured.model_copy(update={"level": True})})
    job = job.model_copy(update={"lines": (level,)})
    assert said(job, {"A": 2}) == [
        ("Give Sample line its heights", "walk", "A"),
        ("Say what Sample line must hold or keep out", "hold", "A"),
        ("See to what stops Sample line", "", "A"),
        ("Ask for the buried services to be marked along Sample line", "marking", "A"),
    ]


def test_marks_that_are_asked_for_are_waited_for_and_then_the_sheets_come():
    job = single_jobs()[-1]
    asked = do(job, do="ask_marking", ticket="T1", asked_on="2026-03-01", wait_until="2026-03-05", reach_m=3)
    assert said(asked)[-1][0].startswith("Wait for the marks along")
    marked = do(asked, do="take_marks", ticket="T1", state="clear", expires_on="2026-04-01")
    assert said(marked) == [("Print the sheets, stake out, order", "print-all", "")]
    assert next_up(marked, plan(marked), {}, date(2026, 5, 1))[0].go == "marking", "they have run out"


def test_lines_that_nearly_meet_and_lines_that_stand_already():
    job = do(holm(), do="part_line", line="B", end="end")
    rows = said(job)
    assert ("Join or part the place where lines nearly meet", "lines", "B") in rows
    assert "orchard cross fence and nursery beds" in rows[0][0]
    there = do(single_jobs()[0], do="stand_line", line="A", standing="there")
    assert said(there) == []
