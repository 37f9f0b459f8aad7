"""What is told of lines strewn over all grounds, barriers and edits, and of pocket sums one thing away from another, stays what it was.

The sums in ``tests/kept/strewn.json`` are of the program's own texts (``strewn.py``) and prove nothing by themselves.  Where one changes
on purpose, run this file with ``GNOMONIC_KEEP=1`` before and after, which writes the texts below ``var/strewn``, and read the difference.
"""

import json
import os
import zlib

import pytest
from places import ALL, HOME
from strewn import GROUNDS, days_strewn, jobs_strewn, logs_strewn, strewn, sums_strewn
from told import words

KEPT = HOME / "tests" / "kept"
ROUNDS, JOB_ROUNDS = (5, 2) if ALL or "GNOMONIC_KEEP" in os.environ else (3, 1)  # of all grounds
SUMS = json.loads((KEPT / "sums.json").read_text())


def same_as_kept(name, sections):
    """Sections by title, against the sums kept for them."""
    kept = KEPT / "strewn.json"
    found = {title: zlib.crc32(text.encode()) for title, text in sections.items()}
    if os.environ.get("GNOMONIC_KEEP"):
        below = HOME / "var" / "strewn" / f"{name}.txt"
        below.parent.mkdir(parents=True, exist_ok=True)
        below.write_text("\n".join(f"# {title}\n{text}\n" for title, text in sections.items()))
        rows = {**(json.loads(kept.read_text()) if kept.exists() else {}), name: found}
        kept.write_text("{\n" + ",\n".join(f"{json.dumps(k)}: {json.dumps(rows[k])}" for k in sorted(rows)) + "\n}\n")
    were = json.loads(kept.read_text())[name]
    assert [title for title in {**were, **found} if were.get(title) != found.get(title)] == []


def units_of(number):
    return "us" if number // len(GROUNDS) % 2 else "metric"


def same_of(name, number, said, units):
    rows = {f"{k} {title}": "\n".join(words(row, units) for row in rows) for k, (title, rows) in enumerate(said)}
    same_as_kept(f"{name} {number}", rows)


@pytest.mark.parametrize("of", [strewn, logs_strewn], ids=["lines", "logs"])
@pytest.mark.parametrize("ground", range(len(GROUNDS)), ids=list(GROUNDS))
def test_of_lines(ground, of):
    for number in range(ground, ROUNDS * len(GROUNDS), len(GROUNDS)):
        same_of(of.__name__, number, of(number, units_of(number)), units_of(number))


@pytest.mark.parametrize("ground", range(len(GROUNDS)), ids=list(GROUNDS))
def test_of_jobs_and_days(ground):
    for number in range(ground, JOB_ROUNDS * len(GROUNDS), len(GROUNDS)):
        same_of("job", number, jobs_strewn(number, units_of(number)), units_of(number))
    same_of("days", ground, days_strewn(ground), "us")


@pytest.mark.parametrize("kind", sorted({kind for kind, _ in SUMS}))
def test_of_sums(kind):
    givens = [given for k, given in SUMS if k == kind]
    same_as_kept(f"sum {kind}", {str(k): words(row, "us") for k, row in enumerate(sums_strewn(kind, givens))})
