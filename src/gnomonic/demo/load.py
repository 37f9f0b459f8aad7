"""The demo jobs, made from the shipped files through the importers and edits a user would use."""

from importlib.resources import files
from typing import Any

from gnomonic.core.edits import apply, read_edit
from gnomonic.core.job import Job
from gnomonic.formats.bring_in import bring_in
from gnomonic.formats.gpx import read_gpx

DEMO: list[tuple[str, str, list[dict[str, Any]]]] = [
    (
        "nursery-beds.legs",
        "Larkspur Holm · nursery beds",
        [
            {"do": "hang_fabric", "label": "9-39-6"},
            {"do": "add_gate", "at_m": 12.0, "opening_m": 1.3, "name": "bed gate"},
        ],
    ),
    (
        "orchard-cross-fence.csv",
        "Larkspur Holm · orchard cross fence",
        [{"do": "own_offcuts", "offcuts_m": [41.5, 18.3]}],
    ),
    (
        "brook-paddock.gpx",
        "Larkspur Holm · brook paddock",
        [
            {"do": "add_gate", "at_m": 18.0, "opening_m": 4.9530, "name": "lane gate"},
            {"do": "add_gate", "at_m": 432.0, "opening_m": 3.7338, "name": "brook gate"},
            {"do": "forbid", "from_m": 67.9, "to_m": 70.1, "reason": "the brook's bed"},
            {"do": "forbid", "from_m": 465.6, "to_m": 468.0, "reason": "the brook's bed"},
            {"do": "forbid", "from_m": 312.0, "to_m": 314.6, "reason": "the water pipe to the trough"},
        ],
    ),
]


def demo_jobs() -> list[Job]:
    """The demo jobs, in the order they are saved."""
    made = []
    for file, name, edits in DEMO:
        brought = bring_in(file, files("gnomonic.demo").joinpath(file).read_bytes())
        job = Job(name=name, line=brought.line)
        for edit in edits:
            job = apply(job, read_edit(edit))
        made.append(job)
    return made


def demo_path() -> list[tuple[float, float, float]]:
    """The paddock's line as the practice rover walks it: longitude, latitude, height."""
    raw = read_gpx(files("gnomonic.demo").joinpath("brook-paddock.gpx").read_bytes(), {})
    return [(lon, lat, height) for lon, lat, height in raw.table.tolist()]
