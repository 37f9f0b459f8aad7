"""From a file's bytes to a measured line, checked, with what was understood said in words."""

import json
import math
from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.booked import Reduced, returned
from gnomonic.core.ground.course import Course, course, self_crossing
from gnomonic.core.ground.profile import LONGEST_M, STEEP_HALF, Profile, half_slope
from gnomonic.core.ground.simplify import Indices, simplify, weights_m
from gnomonic.core.job.parts import Found, Frame, MeasuredLine, Point, Source
from gnomonic.core.limits import MB, MOST_FILE_BYTES, MOST_POINTS
from gnomonic.core.units import FOOT_M
from gnomonic.formats.coordinates import length_m
from gnomonic.formats.dxf import BINARY, read_dxf
from gnomonic.formats.frame import frame_about, to_local
from gnomonic.formats.geojson import read_geojson
from gnomonic.formats.gpx import read_gpx
from gnomonic.formats.kml import read_kml, read_kmz
from gnomonic.formats.legs import read_legs
from gnomonic.formats.raw import Question, RawLine, asked_for, check_world, plain, taken
from gnomonic.formats.reading import reading
from gnomonic.formats.shape import read_shapefile
from gnomonic.formats.table import read_csv
from gnomonic.formats.understood import SAME_PLACE_M, ShapeWords, booked, finds, from_system, got, shape_words

SIMPLIFY_FROM = 3000
FIRST_TOLERANCE_M = 0.01
MOST_M = 1e7
BESIDE = 4.0  # times the size of the line taken: others farther away are not drawn beside it
TRIED = 200  # lines of a file that are tried for one that can be a fence

LOCAL = Frame()


@dataclass(frozen=True, slots=True)
class Brought:
    """A line ready to become a Job, and what to say about it before it does."""

    line: MeasuredLine
    course: Course
    misclosure_m: float | None
    notes: tuple[str, ...]
    questions: tuple[Question, ...]
    shapes: tuple[ShapeWords, ...] = ()
    planar: bool = False
    reduced: Reduced | None = None
    found: tuple[Found, ...] = ()
    frame: Frame = LOCAL


Reader = Callable[[bytes, dict[str, str]], RawLine]
_READERS: dict[str, Reader] = {
    "KMZ": lambda data, _: read_kmz(data),
    "shapefile": lambda data, _: read_shapefile(data),
    "KML": lambda data, _: read_kml(data),
    "GPX": lambda data, _: read_gpx(data),
    "GeoJSON": lambda data, _: read_geojson(data),
    "DXF drawing": read_dxf,
    "field book": read_legs,
    "table": read_csv,
}


def form_of(name: str, data: bytes) -> str:
    """What form a file is in, going by what it is, its name helping.  Raises BadInput."""
    if len(data) > MOST_FILE_BYTES:
        raise BadInput(
            "file",
            f"the file is {len(data) / MB:.0f} MB; a measured line of more than {MOST_FILE_BYTES / MB:.0f} MB is not taken",
        )
    if not data.strip():
        raise BadInput("file", "the file is empty")
    head = data[:400].lstrip(b"\xef\xbb\xbf \r\n\t")
    suffix = name.lower().rpartition(".")[2]
    if suffix == "kmz":
        return "KMZ"
    if head.startswith(b"PK"):
        return "shapefile"
    if suffix == "kml" or (head.startswith(b"<") and b"<kml" in head):
        return "KML"
    if suffix == "gpx" or head.startswith(b"<"):
        return "GPX"
    if suffix in ("geojson", "json") or head.startswith((b"{", b"[")):
        return "GeoJSON"
    if suffix == "dxf" or data.startswith(BINARY):
        return "DXF drawing"
    if suffix == "shp":
        raise BadInput("file", "a .shp by itself lacks its other parts: zip it with its .shx, .dbf and .prj")
    if suffix in ("legs", "txt"):
        return "field book"
    if suffix in ("csv", "tsv"):
        return "table"
    raise BadInput(
        "file",
        f"“{name[:80]}” is not a file that can be read (GPX, GeoJSON, KML, KMZ, DXF, zipped shapefile, CSV, legs), going by its name and its first lines",
    )


def bring_in(name: str, data: bytes, answers: dict[str, str] | None = None) -> Brought:
    """Read a file into a measured line.  Raises BadInput with one sentence, and nothing else; nothing is kept then.

    ``answers`` settle questions asked before: ``units`` m | ft (mm, cm and in too for a drawing), ``lengths``, ``heights``,
    ``slips``, ``closed`` yes | no, ``shape`` (which of several lines, from 1), ``crs`` (an EPSG code or local), ``adjust`` none | compass.
    Where no line of several is asked for, the first that can be one is taken.
    """
    answers = dict(answers or {})
    if answers.get("slips") in ("feet", "both"):  # said with a slip, it is said of all heights
        answers["heights"] = "feet"
    form = form_of(name, data)
    with reading(form, "contents"):
        raw = _READERS[form](data, answers)
    with reading(form, "coordinates"):
        if not raw.shapes:
            return _understood(name, raw, answers)
        if "shape" in answers:
            raw.questions = [q for q in raw.questions if q.key != "shape"]
            return _understood(name, taken(raw, asked_for(raw, answers["shape"])), answers)
        return _first_that_can(name, raw, answers)


def _first_that_can(name: str, raw: RawLine, answers: dict[str, str]) -> Brought:
    """The first line of a file that can be a fence; those before it keep why they can't.  Raises BadInput where none can."""
    first: BadInput | None = None
    for k, shape in enumerate(raw.shapes[:TRIED]):
        if shape.why:
            continue
        try:
            return _understood(name, taken(raw, k), answers)
        except BadInput as error:
            if error.field not in ("file", "line"):
                raise
            first, shape.why = first or error, error.sentence
    if first is None or len(raw.shapes) == 1:
        raise first or BadInput("file", f"no line of the file can be a fence: {raw.shapes[0].why}")
    raise BadInput(
        first.field, f"none of the {len(raw.shapes)} lines in the file can be a fence; the first: {first.sentence}"
    )


def _understood(name: str, raw: RawLine, answers: dict[str, str]) -> Brought:
    """A line, checked and on its local grid."""
    planar = not raw.geographic and raw.kind not in ("legs",)
    if len(raw.table) < 2:
        raise BadInput("file", "the line has only one point; a fence needs two at least")
    if len(raw.table) > MOST_POINTS:
        raise BadInput("file", f"the line has {len(raw.table):,} points; more than {MOST_POINTS:,} are not taken")
    if raw.geographic:
        check_world(raw)
    points_read = len(raw.table)
    _possible(raw)
    level = _heights(raw)
    from_system(raw, answers)
    _in_feet(raw, answers)
    frame = Frame()
    if raw.geographic:
        long = length_m(raw.table[:, 0], raw.table[:, 1])
        if long > LONGEST_M * 1.01:
            raise BadInput(
                "line",
                f"the line is {long / 1000:,.0f} km long; more than {LONGEST_M / 1000:.0f} km is more than one job",
            )
        frame = frame_about(raw.table[:, 0], raw.table[:, 1])
        raw.table[:, 0], raw.table[:, 1] = to_local(frame, raw.table[:, 0], raw.table[:, 1])
        raw.notes.append("longitude and latitude laid on a local metric grid about the line's middle (WGS 84)")
    elif not (raw.questions or raw.straight or raw.book) and (
        np.all(np.abs(raw.table[:, 0]) <= 180)
        and np.all(np.abs(raw.table[:, 1]) <= 90)
        and np.ptp(raw.table[:, :2])
        and np.max(np.ptp(raw.table[:, :2], axis=0)) < 0.05
    ):
        raise BadInput("file", "the coordinates look like degrees, not metres or feet: bring them in as GeoJSON or GPX")
    _equal_points(raw)
    closed, misclosure = _closure(raw, answers)
    book, reduced = booked(raw, answers)
    simplified = _simplify(raw)
    _crossing(raw, closed)
    if not _unlikely(raw, answers, closed):
        _steepness(raw, answers)
    points = tuple(
        Point(e_m=round(float(e), 6), n_m=round(float(n), 6), h_m=round(float(h), 6), name=raw.names.get(k, ""), **got(raw, k))
        for k, (e, n, h) in enumerate(raw.table)
    )  # fmt: skip
    source = Source(
        kind=raw.kind,
        file=plain(name[-120:]),
        points_read=points_read,
        simplified_m=simplified,
        notes=tuple(raw.notes),
        unit=raw.unit,
    )
    line = MeasuredLine(points=points, closed=closed, source=source, book=book, level=level)
    words = tuple(shape_words(raw, frame))
    found = tuple(finds(raw, frame))
    notes, questions = tuple(raw.notes), tuple(raw.questions)
    return Brought(line, course(line), misclosure, notes, questions, words, planar, reduced, found, frame)


def _possible(raw: RawLine) -> None:
    """No number may be larger than anything on Earth."""
    far = np.abs(raw.table) > MOST_M
    if far.any():
        k = int(np.argmax(far.any(axis=1)))
        value = float(raw.table[k][far[k]][0])
        raise BadInput("file", f"{raw.label(k)} has a value of {value:g}, which is farther than anything on Earth")


def _heights(raw: RawLine) -> bool:
    """Fill in heights that are not there; whether the ground is only taken as level."""
    missing = np.isnan(raw.table[:, 2])
    if missing.all():
        raw.table[:, 2] = 0.0
        raw.notes.append("the file has no heights: the ground is taken as level, so nothing is known about gaps")
        return True
    if missing.any():
        k = int(np.argmax(missing))
        raise BadInput("file", f"{raw.label(k)} has no height though others have: give it one or take all heights out")
    return bool(raw.book) and not raw.table[:, 2].any()


def _equal_points(raw: RawLine) -> None:
    """A vertex that repeats the one before it goes, and that is said; a receiver may have stood still for long."""
    same = np.hypot(np.diff(raw.table[:, 0]), np.diff(raw.table[:, 1])) < SAME_PLACE_M
    if not same.any():
        return
    k, gone = int(np.argmax(same)), int(same.sum())
    if len(raw.table) - gone < 2:
        raise BadInput("file", f"{raw.label(k)} and {raw.label(k + 1)} are the same place: take one of them out")
    after = f"left out, the first after {raw.label(k)}"
    if raw.recorded:
        raw.notes.append(f"{gone} points where the receiver stood still {after}")
    else:
        raw.notes.append(
            f"{gone} point{'' if gone == 1 else 's'} that repeat{'s' if gone == 1 else ''} the one before {after}"
        )
    _keep(raw, np.flatnonzero(np.concatenate([[True], ~same])))


def _closure(raw: RawLine, answers: dict[str, str]) -> tuple[bool, float | None]:
    """Whether the line closes, and by how much it misses; the repeated end point is dropped."""
    table = raw.table
    length = float(np.hypot(np.diff(table[:, 0]), np.diff(table[:, 1])).sum())
    miss = float(math.hypot(*(table[-1, :2] - table[0, :2])))
    near = returned(len(table), length, miss, bool(raw.book) and raw.closed)
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


def _simplify(raw: RawLine) -> float | None:
    if raw.tolerance_m is not None:
        return _thin_walk(raw, raw.tolerance_m)
    if len(raw.table) <= SIMPLIFY_FROM:
        return None
    before, tolerance = len(raw.table), FIRST_TOLERANCE_M
    weights = weights_m(raw.table)
    while np.count_nonzero(weights > tolerance / 2) > 2 * SIMPLIFY_FROM:
        tolerance *= 1.5
    keep = np.flatnonzero(weights > tolerance / 2)
    _keep(raw, keep)
    tolerance = round(tolerance, 3)
    raw.notes.append(
        f"{before:,} points simplified to {len(keep):,}: nothing moved by more than {tolerance * 1000:.0f} mm"
    )
    return tolerance


def _keep(raw: RawLine, keep: Indices) -> None:
    """Only these points go on, with their names and how they were got."""
    raw.names = {n: raw.names[int(k)] for n, k in enumerate(keep) if int(k) in raw.names}
    raw.how = [raw.how[int(k)] for k in keep if int(k) < len(raw.how)]
    raw.table = raw.table[keep]


def _thin_walk(raw: RawLine, tolerance: float) -> float:
    """A recorded walk thinned between the places that were marked, which all stay."""
    before, last = len(raw.table), len(raw.table) - 1
    corners = sorted({0, last, *(k for k in raw.names if k <= last)})
    kept = [
        a + simplify(raw.table[a : b + 1], tolerance) if b - a > 1 else np.array([a, b], dtype=np.intp)
        for a, b in pairwise(corners)
    ]
    _keep(raw, np.unique(np.concatenate(kept)))
    raw.notes.append(
        f"{before:,} fixes simplified to {len(raw.table):,}: nothing moved by more than {tolerance * 1000:.0f} mm"
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


def _in_feet(raw: RawLine, answers: dict[str, str]) -> None:
    """Heights in feet beside lengths in metres, where the fencer has said so."""
    if answers.get("heights") == "feet":
        raw.table[:, 2] *= FOOT_M
        raw.notes.append("heights taken as feet, on your word")


def _steepness(raw: RawLine, answers: dict[str, str]) -> None:
    """Heights in feet on a line in metres make the ground absurdly steep: ask."""
    run = np.hypot(np.diff(raw.table[:, 0]), np.diff(raw.table[:, 1]))
    steep = half_slope(run, np.diff(raw.table[:, 2]))
    if steep > STEEP_HALF and "heights" not in (*answers, *(q.key for q in raw.questions)):
        text = f"Half the line is steeper than {steep * 100:.0f} %: are the heights in feet and the lengths in metres?"
        choices = (("feet", "yes, heights are feet"), ("asis", "no, it is that steep"))
        raw.questions.append(Question("heights", text, choices))


def _unlikely(raw: RawLine, answers: dict[str, str], closed: bool) -> bool:
    """Heights that no ground has, and shots that stand like walls: ask, and leave them out on the fencer's word.

    Whether it is still open what they are: nothing is planned on the heights until it is answered.
    """
    wrong = _wrong_heights(raw, closed)
    if answers.get("slips") in ("bridge", "both") and 0 < len(wrong) < len(raw.table):
        east, north = raw.table[:, 0], raw.table[:, 1]
        own = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(east), np.diff(north)))])
        good = np.setdiff1d(np.arange(len(own)), wrong)
        raw.table[wrong, 2] = np.interp(own[wrong], own[good], raw.table[good, 2])
        ending = "" if len(wrong) == 1 else "s"
        raw.notes.append(f"{len(wrong)} height{ending} left out on your word: straight between neighbours there")
        wrong = _wrong_heights(raw, closed)
    if not wrong:
        return False
    raw.questions[:] = [q for q in raw.questions if q.key != "heights"]
    k = wrong[0]
    more = "" if len(wrong) == 1 else f", and {len(wrong) - 1} more like it"
    shot = raw.label(k)
    text = (
        f"{shot[:1].upper()}{shot[1:]} has a height of {raw.table[k, 2]:g} m, which can't be the ground beside its "
        f"neighbours{more}; all is drawn flat until it is known. What is it?"
    )
    choices = (
        ("bridge", "leave it out: straight between its neighbours"),
        ("feet", "the heights are in feet"),
        ("both", "the heights are in feet, and leave it out"),
    )
    raw.questions.append(Question("slips", text, choices))
    raw.table[:, 2] = 0.0
    return True


def _wrong_heights(raw: RawLine, closed: bool) -> list[int]:
    """Shots, counted from 0, that lie beyond all ground, or on the farther side of a wall from the others."""
    table = np.vstack([raw.table, raw.table[:1]]) if closed else raw.table
    run = np.hypot(np.diff(table[:, 0]), np.diff(table[:, 1]))
    heights = table[:, 2]
    beyond, walls = Profile(np.concatenate([[0.0], np.cumsum(run)]), heights).unlikely()
    middle = float(np.median(heights))
    steps = {k if abs(heights[k] - middle) > abs(heights[k + 1] - middle) else k + 1 for k in walls}
    return sorted({k % len(raw.table) for k in (*beyond, *steps)})


def _is_near(line: Course, other: ShapeWords) -> bool:
    """Whether another line of the file lies so near that drawing it leaves the one taken large enough to be seen."""
    if len(other.places) < 2:
        return False
    places = np.array(other.places)
    own = np.column_stack([line.east_m, line.north_m])
    reach = BESIDE * max(float(np.ptp(own, axis=0).max()), 1.0)
    return bool(np.all(np.abs(places - own.mean(axis=0)) < reach))


def preview_json(brought: Brought) -> str:
    """What the preview page draws: plan and profile, thinned to what a screen can show, and the file's other lines."""
    line = brought.course
    step = max(1, len(line.stations_m) // 1500)
    pick = np.unique(np.append(np.arange(0, len(line.stations_m), step), len(line.stations_m) - 1))
    columns = (line.stations_m, line.east_m, line.north_m, line.profile.heights_m)
    rows = zip(*(c[pick].tolist() for c in columns), strict=True)
    others = [[[round(e, 2), round(n, 2)] for e, n in s.places] for s in brought.shapes if _is_near(line, s)]
    if brought.reduced is not None and brought.reduced.closure is not None:  # as booked, with its misclosure
        others.append([[round(s.e_m, 3), round(s.n_m, 3)] for s in brought.reduced.page.spots])
    return json.dumps({"line": [[round(v, 3) for v in row] for row in rows], "others": others})
