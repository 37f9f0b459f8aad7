"""A job whose marks are in, on one machine, and events as a phone sends them."""

from datetime import UTC, date, datetime, timedelta

import pytest

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.demo.field import marks
from gnomonic.demo.load import single_jobs
from gnomonic.store import jobs


@pytest.fixture
def job(scope):
    """A demo line with its marks in; its id."""
    made = single_jobs()[-1]
    for edit in marks(date.today()):
        made = apply(made, read_edit(edit))
    return jobs.create(scope, made)


@pytest.fixture
def phone():
    """Makes events: number, kind, post, and how many minutes ago."""

    def write(n, kind="depth", post="5", ago=0, device="phone-a", **values):
        clock = (datetime.now(UTC) - timedelta(minutes=ago)).isoformat()
        of = {"line": "A", "post": post, "at_m": 10.0} if post else {}
        return {
            "id": f"00000000-0000-4000-8000-{n:012d}",
            "device": device,
            "seq": n,
            "clock": clock,
            "author": "Wren",
            "kind": kind,
            **of,
            **values,
        }

    return write
