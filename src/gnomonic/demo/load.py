"""The demo jobs, made from the shipped files through the importers and edits a user would use."""

import tomllib
from functools import cache
from importlib.resources import files
from typing import Any

from gnomonic.core.days.crew import Crew
from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.edits.lines import next_letter
from gnomonic.core.haul.held import Held
from gnomonic.core.haul.terms import Terms
from gnomonic.core.job.document import Job
from gnomonic.core.job.fence import one_line
from gnomonic.core.log.events import Event
from gnomonic.core.plan.road import plan
from gnomonic.formats.bring_in import Brought, bring_in
from gnomonic.formats.gpx import read_gpx


@cache
def _lines() -> list[dict[str, Any]]:
    """Demo lines in the order they are saved: measured file, name, edits."""
    return list(tomllib.loads(files("gnomonic.demo").joinpath("lines.toml").read_text("utf8"))["lines"])


PLACE = "Larkspur Holm"
OLD = 3  # of the jobs in the order they are saved, the one that has stood for a while


def _measured(line: dict[str, Any]) -> Brought:
    return bring_in(line["file"], files("gnomonic.demo").joinpath(line["file"]).read_bytes())


def _single(line: dict[str, Any]) -> Job:
    """A line by itself, with its edits."""
    brought = _measured(line)
    job = one_line(f"{PLACE} · {line['name']}", brought.line, brought.frame)
    for edit in line["edits"]:
        job = apply(job, read_edit(edit))
    return job


def single_jobs() -> list[Job]:
    """Every demo line by itself, as a job of one line."""
    return list(_singles())


@cache
def _singles() -> tuple[Job, ...]:
    return tuple(_single(line) for line in _lines())


@cache
def holm() -> Job:
    """The co-op's own ground: all lines that meet there, as one job."""
    first, *rest = sorted((line for line in _lines() if "holm" in line), key=lambda line: int(line["holm"]))
    brought = _measured(first)
    job = one_line(first["name"], brought.line, brought.frame, PLACE)
    letters = {first["name"]: "A"}
    for edit in first["edits"]:
        job = apply(job, read_edit({**edit, "line": "A"}))
    for line in rest:
        letter = letters[line["name"]] = next_letter(job)
        given = {"name": line["name"], "measured": _measured(line).line.model_dump(mode="json")}
        added: dict[str, Any] = {"do": "add_line", "given": given}
        if "onto" in line:
            added |= {"onto": letters[line["onto"][0]], "onto_m": line["onto"][1]}
        if "place" in line:
            added |= {"e_m": line["place"][0], "n_m": line["place"][1]}
        job = apply(job, read_edit(added))
        if "ends" in line:
            ends = {"end": "end", "on": letters[line["ends"][0]], "at_m": line["ends"][1]}
            job = apply(job, read_edit({"do": "join_line", "line": letter, **ends}))
        for edit in line["edits"]:
            job = apply(job, read_edit({**edit, "line": letter}))
    return job


def demo_jobs() -> list[Job]:
    """The demo jobs, in the order they are saved: lines by themselves, then the co-op's own ground."""
    return [*(_single(line) for line in _lines() if "holm" not in line), holm()]


def demo_path() -> list[tuple[float, float, float]]:
    """The paddock's line as the practice rover walks it: longitude, latitude, height."""
    raw = read_gpx(files("gnomonic.demo").joinpath("brook-paddock.gpx").read_bytes())
    return [(lon, lat, height) for lon, lat, height in raw.table.tolist()]


def holm_facts(job: Job, when: str = "2026-03-02T09:00:00Z") -> list[Event]:
    """What was found on the co-op's ground, of the posts nearest to where it was."""
    rows = tomllib.loads(files("gnomonic.demo").joinpath("facts.toml").read_text("utf8"))["facts"]
    made, letters = plan(job), {line.name: line.id for line in job.lines}
    found = []
    for k, row in enumerate(rows):
        line = letters[row.pop("line")]
        near = row.pop("near_m")
        post = min(made.lines[line].posts, key=lambda p: abs(p.station_m - near))
        event = {
            "id": f"0f0f0f0f-0000-4000-8000-{k:012d}", "device": "demo", "seq": k, "clock": when, "line": line, "post": post.name,
            "at_m": post.station_m, "e_m": round(post.east_m, 4), "n_m": round(post.north_m, 4), **row,
        }  # fmt: skip
        found.append(Event.model_validate(event))
    return found


def holm_crew() -> tuple[Crew, list[dict[str, Any]]]:
    """The co-op's crew and plant, and what it has done in its first days: kind of work, how often the usual time it took."""
    data = tomllib.loads(files("gnomonic.demo").joinpath("crew.toml").read_text("utf8"))
    return Crew.model_validate(data["crew"]), data["done"]


def holm_books() -> tuple[Terms, list[Held]]:
    """The co-op's terms, and what lies about the place."""
    data = tomllib.loads(files("gnomonic.demo").joinpath("books.toml").read_text("utf8"))
    return Terms.model_validate(data["terms"]), [Held.model_validate(row) for row in data["stock"]]
