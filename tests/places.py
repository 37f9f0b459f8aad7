"""Where things are and what day it is, for tests; one line of a job, edited and planned by itself."""

import contextlib
import io
import os
import subprocess
import sys
from datetime import date
from pathlib import Path
from unittest import mock

import pytest
from hypothesis import settings

from gnomonic.core.edits import all as edits
from gnomonic.core.job.fence import Fence, changed, fence_of, one_line
from gnomonic.core.plan import road
from gnomonic.core.snags import all as snags
from gnomonic.demo.load import single_jobs

HOME = Path(__file__).parents[1]
TODAY = date(2026, 6, 1)


def fence(name, line, **more) -> Fence:
    """A job of one line, seen from that line."""
    made = fence_of(one_line(name, line))
    return changed(made, **more) if more else made


def demo_fences() -> list[Fence]:
    """Every demo line by itself."""
    return [fence_of(job) for job in single_jobs()]


def apply(it: Fence, edit, book=None) -> Fence:
    """The line after an edit of it."""
    edit = edit if edit.line else edit.model_copy(update={"line": it.id})
    return fence_of(edits.apply(it.job, edit, book), it.id)


def plan(it: Fence, memo=None):
    """The plan of a line."""
    return road.plan(it.job, memo).lines[it.id]


def snags_of(it, made, day=TODAY):
    """Snags on a day, without the one every job starts with: nobody has asked where services are buried."""
    return [s for s in snags.snags(it, made, day) if s.code != "unmarked"]


def edit_page(client, job, **change):
    """An edit of a job as its page sends it, on the version it stands at."""
    version = client.get(f"/api/v1/jobs/{job}/plan").json()["version"]
    return client.post(f"/api/v1/jobs/{job}/edits", json={"base": version, "edit": change})


ALL = bool(os.environ.get("GNOMONIC_TEST_ALL"))  # ``./gnomonic test --all``
thorough = pytest.mark.skipif(not ALL, reason="only in test --all")


def examples(deep, quick):
    """How many a test of what is drawn looks at, in ``test --all`` and in the suite."""
    return settings(max_examples=deep if ALL else quick, deadline=None)


def telling(rows, *words):
    """Of the demo's lines (or their numbers) those that tell most, named by a part of their titles; all of them in ``test --all``."""
    return rows if ALL else [r for r in rows if any(w in (r.title if isinstance(r, Fence) else r[1]) for w in words)]


def few(rows, *kept):
    """Of the variants of a test those that tell most, by their places; all of them in ``test --all``."""
    return rows if ALL else [rows[k] for k in kept]


class Standard:
    """A standard stream as a command has it: text, and bytes beneath."""

    def __init__(self, text=""):
        self.stream = io.TextIOWrapper(io.BytesIO(text.encode()), "utf8", newline="")

    def read(self):
        self.stream.flush()
        return self.stream.buffer.getvalue().decode()


def run(*words, stdin=None, cwd=None):
    """A command of the program in this process, as a shell would see it; ``run_really`` starts one."""
    from gnomonic import cli

    given, out, err = Standard(stdin or ""), Standard(), Standard()
    there = os.getcwd()
    with (
        contextlib.redirect_stdout(out.stream),
        contextlib.redirect_stderr(err.stream),
        mock.patch("sys.stdin", given.stream),
    ):
        try:
            os.chdir(cwd or there)
            code = cli.main([str(w) for w in words])
        except SystemExit as ended:
            code = ended.code
        finally:
            os.chdir(there)
    return subprocess.CompletedProcess(words, code, out.read(), err.read())


def run_really(*words, stdin=None, cwd=None):
    """A command of the program, as from a shell."""
    environment = {**os.environ, "PYTHONPATH": str(HOME / "src")}
    command = [sys.executable, "-m", "gnomonic.cli", *map(str, words)]
    return subprocess.run(command, capture_output=True, text=True, input=stdin, cwd=cwd, env=environment, check=False)
