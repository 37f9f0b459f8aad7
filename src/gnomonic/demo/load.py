"""The demo jobs, made from the shipped files through the importers and edits a user would use."""

import tomllib
from functools import cache
from importlib.resources import files
from typing import Any

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.job.document import Job
from gnomonic.core.job.fence import one_line
from gnomonic.formats.bring_in import bring_in
from gnomonic.formats.gpx import read_gpx


@cache
def _lines() -> list[dict[str, Any]]:
    """Demo lines in the order they are saved: measured file, name, edits."""
    return list(tomllib.loads(files("gnomonic.demo").joinpath("lines.toml").read_text("utf8"))["lines"])


def single_jobs() -> list[Job]:
    """Every demo line by itself, as a job of one line."""
    made = []
    for line in _lines():
        brought = bring_in(line["file"], files("gnomonic.demo").joinpath(line["file"]).read_bytes())
        job = one_line(line["name"], brought.line, brought.frame)
        for edit in line["edits"]:
            job = apply(job, read_edit(edit))
        made.append(job)
    return made


def demo_jobs() -> list[Job]:
    """The demo jobs, in the order they are saved."""
    return single_jobs()


def demo_path() -> list[tuple[float, float, float]]:
    """The paddock's line as the practice rover walks it: longitude, latitude, height."""
    raw = read_gpx(files("gnomonic.demo").joinpath("brook-paddock.gpx").read_bytes(), {})
    return [(lon, lat, height) for lon, lat, height in raw.table.tolist()]
