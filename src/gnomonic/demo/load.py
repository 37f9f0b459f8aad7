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
            {"do": "add_found", "kind": "water", "name": "the brook", "from_m": 68.2, "to_m": 69.8, "zone_m": 0.3},
            {"do": "add_found", "kind": "water", "name": "the brook", "from_m": 465.9, "to_m": 467.7, "zone_m": 0.3},
            {
                "do": "add_found",
                "kind": "service",
                "name": "trough pipe",
                "from_m": 313.3,
                "to_m": 313.3,
                "zone_m": 1.3,
            },
            {"do": "add_found", "kind": "wet", "name": "rushes", "from_m": 455.0, "to_m": 462.0},
            {"do": "add_found", "kind": "wire", "name": "old wire", "from_m": 505.0, "to_m": 530.0},
            {"do": "add_found", "kind": "scrap", "name": "nail boards", "from_m": 131.0, "to_m": 131.0},
            {"do": "add_found", "kind": "tree", "name": "leaning alder", "from_m": 256.4, "to_m": 256.4, "count": 1},
            {
                "do": "add_found",
                "kind": "neighbour",
                "name": "upper farm",
                "from_m": 137.0,
                "to_m": 352.0,
                "side": "left",
            },
            {"do": "add_found", "kind": "stock", "name": "ewes", "from_m": 0.0, "to_m": 716.0, "side": "right"},
            {"do": "add_found", "kind": "access", "name": "way in from the lane", "from_m": 20.0, "to_m": 20.0},
            {
                "do": "add_found",
                "kind": "internal",
                "name": "cross fence to come",
                "shape": [[-108.0, -8.0], [110.0, -2.0]],
            },
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
