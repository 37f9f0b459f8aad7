"""What is told of the demo's lines, of edits and of pocket sums stays what was read.

The texts in ``tests/read`` were read by a person beside the ground they speak of; they prove nothing by themselves (that the numbers are
right is worked out by hand elsewhere), but no word and no number of them changes unnoticed.  Where one changes on purpose, run this
file with ``GNOMONIC_READ=1`` and read the difference line by line before it is kept.
"""

import json
import os
from datetime import date
from decimal import Decimal
from pathlib import Path

import pytest
from places import demo_fences, plan
from told import choices_told, edits_told, job_told, text_of, told, words
from told_days import days_told, log_told, sites_told

from gnomonic.core.calc import calc
from gnomonic.core.haul.prices import Price, Seller
from gnomonic.core.haul.wares import ware_of
from gnomonic.core.plan import road
from gnomonic.demo.load import holm
from gnomonic.standins.suppliers import HOUSES, Houses

READ = Path(__file__).parents[1] / "read"
LINES = {it.title.partition(" · ")[2]: it for it in demo_fences()}
FEET = {"brook paddock", "cross fence", "young orchard", "dog run", "gully fence", "hill boundary", "newt barrier"}


def same_as_read(name, now):
    kept = READ / f"{name.replace(' ', '-')}.txt"
    if os.environ.get("GNOMONIC_READ"):
        kept.write_text(now)
    assert now == kept.read_text()


@pytest.mark.parametrize("name", LINES)
def test_of_a_line(name):
    it, units = LINES[name], "us" if name in FEET else "metric"
    same_as_read(name, text_of(told(it, plan(it), units), units))


@pytest.mark.parametrize("name", ["gully fence", "hill boundary"])
def test_of_days(name):
    it = LINES[name]
    same_as_read(f"days of {name}", text_of(days_told(it, plan(it)), "us"))


@pytest.mark.parametrize("name", ["gully fence", "cross fence"])
def test_of_a_log(name):
    same_as_read(f"log of {name}", text_of(log_told(LINES[name]), "us"))


@pytest.mark.parametrize("name", ["cross fence", "hill boundary", "summer grazing"])
def test_of_sites(name):
    it = LINES[name]
    same_as_read(f"sites of {name}", text_of(sites_told(it, plan(it)), "metric"))


def test_of_choices():
    rows = [
        (name, choices_told(LINES[name], plan(LINES[name]))) for name in ("gully fence", "dog run", "young orchard")
    ]
    same_as_read("choices", text_of(rows, "us"))


def test_of_all_lines_together():
    job = holm()
    same_as_read("co-op", text_of(job_told(job, road.plan(job), practice), "us"))


def practice(needs):
    """What both practice suppliers ask."""
    keys = [ware_of(n.need).key for n in needs]
    for house in HOUSES:
        rows = tuple(
            Price(item=o["item"], pack=Decimal(o["pack"]), price=int(Decimal(o["price"]) * 100), stock=o["stock"])
            for o in Houses().prices(house.name, keys)["offers"]
        )
        yield Seller(name=house.name, currency="USD", dated=date(2026, 5, 27), delivery=int(house.delivery * 100), least_order=int(house.least_order * 100), prices=rows)  # fmt: skip


EDITS = json.loads((READ / "edits.json").read_text())


@pytest.mark.parametrize("name", sorted({name for name, _ in EDITS}))
def test_of_edits(name):
    job = holm() if name == "holm" else LINES[name].job
    rows = [("", edits_told(job, edits)) for line, edits in EDITS if line == name]
    same_as_read(f"edits of {name}", text_of(rows, "us"))


def test_of_pocket_sums():
    asked = json.loads((READ / "sums.json").read_text())
    same_as_read("sums", text_of([(kind, [words((given, calc(kind, given)), "us")]) for kind, given in asked], "us"))
