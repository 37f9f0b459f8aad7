"""From a file's bytes to a measured line, checked, with what was understood said in words."""

import json
import math
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import Course, course, self_crossing
from gnomonic.core.job import Frame, MeasuredLine, Point, Source
from gnomonic.formats.frame import frame_about, to_local
from gnomonic.formats.geojson import read_geojson
from gnomonic.formats.gpx import read_gpx
from gnomonic.formats.legs import read_legs
from gnomonic.formats.raw import MOST_BYTES, MOST_POINTS, Floats, Question, RawLine, plain
from gnomonic.formats.table import read_csv

Indices = NDArray[np.intp]
SAME_PLACE_M = 0.001
SIMPLIFY_FROM = 3000
FIRST_TOLERANCE_M = 0.01
CLOSES_WITHIN = 0.02
STEEP_HALF = 0.6
MOST_M = 1e7


@dataclass(frozen=True, slots=True)
class Brought:
    """A line ready to become a Job, and what to say about it before it does."""

    line: MeasuredLine
    course: Course
    misclosure_m: float | None
    notes: tuple[str, ...]
    questions: tuple[Question, ...]


def read_any(name: str, data: bytes, answers: dict[str, str]) -> RawLine:
    """Pick the reader by what the file is, its name helping."""
    if len(data) > MOST_BYTES:
        raise BadInput(
            "file",
            f"the file is {len(data) / 1e6:.0f} MB; a measured line of more than {MOST_BYTES / 1e6:.0f} MB is not taken",
        )
    if not data.strip():
        raise BadInput("file", "the file is empty")
    head = data[:400].lstrip(b"\xef\xbb\xbf \r\n\t")
    suffix = name.lower().rpartition(".")[2]
    if suffix == "gpx" or head.startswith(b"<"):
        return read_gpx(data)
    if suffix in ("geojson", "json") or head.startswith((b"{", b"[")):
        return read_geojson(data)
    if suffix in ("legs", "txt"):
        return read_legs(data, answers)
    if suffix == "csv" or suffix == "tsv":
        return read_csv(data, answers)
    raise BadInput(
        "file", f"“{name[:80]}” is not a GPX, GeoJSON, CSV or legs file, going by its name and its first lines"
    )


def bring_in(name: str, data: bytes, answers: dict[str, str] | None = None) -> Brought:
    """Read a file into a measured line.  Raises BadInput with one sentence; nothing is kept then.

    ``answers`` settle questions asked before: ``units`` m | ft, ``lengths``, ``heights``, ``closed`` yes | no.
    """
    answers = answers or {}
    raw = read_any(name, data, answers)
    if len(raw.table) < 2:
        raise BadInput("file", "the line has only one point; a fence needs two at least")
    if len(raw.table) > MOST_POINTS:
        raise BadInput("file", f"the line has {len(raw.table):,} points; more than {MOST_POINTS:,} are not taken")
    points_read = len(raw.table)
    _possible(raw)
    _heights(raw, answers)
    frame = Frame()
    if raw.geographic:
        frame = frame_about(raw.table[:, 0], raw.table[:, 1])
        raw.table[:, 0], raw.table[:, 1] = to_local(frame, raw.table[:, 0], raw.table[:, 1])
        raw.notes.append("longitude and latitude laid on a local metric grid about the line's middle (WGS 84)")
    elif (
        np.all(np.abs(raw.table[:, 0]) <= 180)
        and np.all(np.abs(raw.table[:, 1]) <= 90)
        and np.ptp(raw.table[:, :2])
        and np.max(np.ptp(raw.table[:, :2], axis=0)) < 0.05
    ):
        raise BadInput("file", "the coordinates look like degrees, not metres or feet: bring them in as GeoJSON or GPX")
    _equal_points(raw)
    closed, misclosure = _closure(raw, answers)
    simplified = _simplify(raw)
    _crossing(raw, closed)
    _steepness(raw, answers)
    points = tuple(
        Point(e_m=round(float(e), 6), n_m=round(float(n), 6), h_m=round(float(h), 6), name=raw.names.get(k, ""))
        for k, (e, n, h) in enumerate(raw.table)
    )
    source = Source(
        kind=raw.kind, file=plain(name[-120:]), points_read=points_read, simplified_m=simplified, notes=tuple(raw.notes)
    )
    line = MeasuredLine(points=points, closed=closed, frame=frame, source=source)
    return Brought(line, course(line), misclosure, tuple(raw.notes), tuple(raw.questions))


def _possible(raw: RawLine) -> None:
    """No number may be larger than anything on Earth."""
    far = np.abs(raw.table) > MOST_M
    if far.any():
        k = int(np.argmax(far.any(axis=1)))
        value = float(raw.table[k][far[k]][0])
        raise BadInput("file", f"{raw.label(k)} has a value of {value:g}, which is farther than anything on Earth")


def _heights(raw: RawLine, answers: dict[str, str]) -> None:
    missing = np.isnan(raw.table[:, 2])
    if missing.all():
        raw.table[:, 2] = 0.0
        raw.notes.append("the file has no heights: the ground is taken as level, so nothing is known about gaps")
    elif missing.any():
        k = int(np.argmax(missing))
        raise BadInput("file", f"{raw.label(k)} has no height though others have: give it one or take all heights out")


def _equal_points(raw: RawLine) -> None:
    same = np.hypot(np.diff(raw.table[:, 0]), np.diff(raw.table[:, 1])) < SAME_PLACE_M
    if not same.any():
        return
    k = int(np.argmax(same))
    if not raw.recorded or len(raw.table) - int(same.sum()) < 2:
        raise BadInput("file", f"{raw.label(k)} and {raw.label(k + 1)} are the same place: take one of them out")
    keep = np.concatenate([[True], ~same])
    raw.notes.append(
        f"{int(same.sum())} points where the receiver stood still left out, the first after {raw.label(k)}"
    )
    raw.table = raw.table[keep]


def _closure(raw: RawLine, answers: dict[str, str]) -> tuple[bool, float | None]:
    """Whether the line closes, and by how much it misses; the repeated end point is dropped."""
    table = raw.table
    length = float(np.hypot(np.diff(table[:, 0]), np.diff(table[:, 1])).sum())
    miss = float(math.hypot(*(table[-1, :2] - table[0, :2])))
    near = len(table) > 3 and miss <= max(1.0, CLOSES_WITHIN * length) and miss < length / 4
    closed = {"yes": True, "no": False}.get(answers.get("closed", ""), raw.closed or near)
    if not closed:
        return False, None
    if len(table) - near < 3:
        raise BadInput("closed", "a closed line needs three points at least")
    if not near:
        raw.notes.append(f"closed by a straight leg of {miss:.2f} m from the last point to the first")
        return True, None
    raw.table = table[:-1]
    ratio = "exactly" if miss < SAME_PLACE_M else f"to {miss:.2f} m, 1:{length / miss:.0f}"
    rise = float(table[-1, 2] - table[0, 2])
    raw.notes.append(f"the line closes {ratio}; {abs(rise):.2f} m in height; the last point is taken as the first")
    return True, miss


def simplify(table: Floats, tolerance_m: float) -> Indices:
    """Indices of points to keep so that neither plan nor heights move by more than the tolerance (m).

    Douglas–Peucker at half the tolerance on the plan and on the profile; keeping what either keeps splits a chord at
    points of the line itself, which at most doubles how far it is off.
    """
    plan = _kept(table[:, :2], tolerance_m / 2)
    stations = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(table[:, 0]), np.diff(table[:, 1])))])
    ground = _kept(np.column_stack([stations, table[:, 2]]), tolerance_m / 2)
    return np.union1d(plan, ground)


def _kept(points: Floats, tolerance_m: float) -> Indices:
    """Indices of the vertices Douglas–Peucker keeps."""
    kept = shapely.get_coordinates(shapely.simplify(shapely.linestrings(points), tolerance_m, preserve_topology=False))
    indices, k = np.empty(len(kept), dtype=np.intp), 0
    columns = points.T.tolist()
    for n, (a, b) in enumerate(kept.tolist()):
        while columns[0][k] != a or columns[1][k] != b:
            k += 1
        indices[n] = k
        k += 1
    return indices


def _simplify(raw: RawLine) -> float | None:
    if len(raw.table) <= SIMPLIFY_FROM:
        return None
    before, tolerance = len(raw.table), FIRST_TOLERANCE_M
    keep = simplify(raw.table, tolerance)
    while len(keep) > 2 * SIMPLIFY_FROM:
        tolerance *= 1.5
        keep = simplify(raw.table, tolerance)
    raw.names = {n: raw.names[int(k)] for n, k in enumerate(keep) if int(k) in raw.names}
    raw.table = raw.table[keep]
    tolerance = round(tolerance, 3)
    raw.notes.append(
        f"{before:,} points simplified to {len(keep):,}: nothing moved by more than {tolerance * 1000:.0f} mm"
    )
    return tolerance


def _crossing(raw: RawLine, closed: bool) -> None:
    table = np.vstack([raw.table, raw.table[:1]]) if closed else raw.table
    hit = self_crossing(table[:, 0], table[:, 1])
    if hit is None:
        return
    stations = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(table[:, 0]), np.diff(table[:, 1])))])
    (a, b), (c, d) = stations[hit[0] : hit[0] + 2], stations[hit[1] : hit[1] + 2]
    raise BadInput(
        "file",
        f"the line crosses itself: its leg from {a:.1f} m to {b:.1f} m meets the leg from {c:.1f} m to {d:.1f} m; "
        "bring the sides in as separate lines, or mend the point that is out of place",
    )


def _steepness(raw: RawLine, answers: dict[str, str]) -> None:
    """Heights in feet on a line in metres make the ground absurdly steep: ask."""
    run = np.hypot(np.diff(raw.table[:, 0]), np.diff(raw.table[:, 1]))
    steep = float(np.median(np.abs(np.diff(raw.table[:, 2])) / run))
    choice = answers.get("heights")
    if choice == "feet":
        raw.table[:, 2] *= 0.3048
        raw.notes.append("heights taken as feet, on your word")
    elif steep > STEEP_HALF and choice != "asis":
        text = f"Half the line is steeper than {steep * 100:.0f} %: are the heights in feet and the lengths in metres?"
        raw.questions.append(
            Question("heights", text, (("feet", "yes, heights are feet"), ("asis", "no, it is that steep")))
        )


def preview_json(brought: Brought) -> str:
    """What the preview page draws: plan and profile, thinned to what a screen can show."""
    line = brought.course
    step = max(1, len(line.stations_m) // 1500)
    pick = np.unique(np.append(np.arange(0, len(line.stations_m), step), len(line.stations_m) - 1))
    rows = zip(
        line.stations_m[pick].tolist(),
        line.east_m[pick].tolist(),
        line.north_m[pick].tolist(),
        line.profile.heights_m[pick].tolist(),
        strict=True,
    )
    return json.dumps([[round(v, 3) for v in row] for row in rows])
