"""What is told of the demo's lines, of edits, logs, days and pocket sums stays what it was.

The texts in ``tests/kept`` are the program's own and prove nothing by themselves: that numbers are right is worked out by hand elsewhere.
But no word and no number changes unnoticed.  Where one changes on purpose, run this file with ``GNOMONIC_KEEP=1`` and read the
difference line by line.
"""

import json
import os
from pathlib import Path

import pytest
from places import demo_fences, plan
from suppliers import practice
from told import choices_told, edits_told, job_told, text_of, told, words
from told_days import days_told, log_told, sites_told

from gnomonic.core.calc import calc
from gnomonic.core.plan import road
from gnomonic.demo.load import holm

KEPT = Path(__file__).parents[1] / "kept"
LINES = {it.title.partition(" · ")[2]: it for it in demo_fences()}
FEET = {"brook paddock", "cross fence", "young orchard", "dog run", "gully fence", "hill boundary", "newt barrier"}


def same_as_kept(name, now):
    kept = KEPT / f"{name.replace(' ', '-')}.txt"
    if os.environ.get("GNOMONIC_KEEP"):
        kept.write_text(now)
    assert now == kept.read_text()


@pytest.mark.parametrize("name", LINES)
def test_of_a_line(name):
    it, units = LINES[name], "us" if name in FEET else "metric"
    same_as_kept(name, text_of(told(it, plan(it), units), units))


@pytest.mark.parametrize("name", ["gully fence", "hill boundary"])
def test_of_days(name):
    it = LINES[name]
    same_as_kept(f"days of {name}", text_of(days_told(it, plan(it)), "us"))


@pytest.mark.parametrize("name", ["gully fence", "cross fence"])
def test_of_a_log(name):
    same_as_kept(f"log of {name}", text_of(log_told(LINES[name]), "us"))


@pytest.mark.parametrize("name", ["cross fence", "hill boundary", "summer grazing"])
def test_of_sites(name):
    it = LINES[name]
    same_as_kept(f"sites of {name}", text_of(sites_told(it, plan(it)), "metric"))


def test_of_choices():
    rows = [
        (name, choices_told(LINES[name], plan(LINES[name]))) for name in ("gully fence", "dog run", "young orchard")
    ]
    same_as_kept("choices", text_of(rows, "us"))


def test_of_all_lines_together():
    job = holm()
    same_as_kept("co-op", text_of(job_told(job, road.plan(job), practice), "us"))


EDITS = json.loads((KEPT / "edits.json").read_text())


@pytest.mark.parametrize("name", sorted({name for name, _ in EDITS}))
def test_of_edits(name):
    job = holm() if name == "holm" else LINES[name].job
    rows = [("", edits_told(job, edits)) for line, edits in EDITS if line == name]
    same_as_kept(f"edits of {name}", text_of(rows, "us"))


def test_of_pocket_sums():
    asked = json.loads((KEPT / "sums.json").read_text())
    same_as_kept("sums", text_of([(kind, [words((given, calc(kind, given)), "us")]) for kind, given in asked], "us"))
