"""What a file's line means: its coordinates, its field book, the other lines beside it, what was marked on the way."""

import math
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.booked import Reduced, reduce_book
from gnomonic.core.ground.course import self_crossing
from gnomonic.core.ground.found import kind_of
from gnomonic.core.ground.profile import LONGEST_M
from gnomonic.core.job.parts import FieldBook, Found, Frame
from gnomonic.formats.coordinates import degrees, linear_unit, system, to_degrees
from gnomonic.formats.frame import to_local
from gnomonic.formats.raw import Floats, Question, RawLine
from gnomonic.formats.shape import crs_question

SAME_PLACE_M = 0.001
BY_M = 2000.0  # a find farther from the part of a walk that is taken belongs to another part


@dataclass(frozen=True, slots=True)
class ShapeWords:
    """One of the lines a file holds, as the preview offers it; ``why`` it can't be taken, empty where it can; ``places`` (east, north) drawn faintly."""

    layer: str
    name: str
    points: int
    taken: bool
    why: str
    places: tuple[tuple[float, float], ...]


SHOWN = 500  # lines of a file that are listed
LOOKED_AT = 100_000  # points of them that are looked at for what is wrong
DRAWN = 200  # points a line, drawn faintly


def from_system(raw: RawLine, answers: dict[str, str]) -> None:
    """Coordinates of a known system become longitude and latitude; where only the fencer knows it, that is asked."""
    asked = answers.get("crs", "").strip()
    if asked and asked != "local" and not raw.geographic:
        raw.crs = asked
    elif asked == "local":
        raw.crs = ""
    elif raw.asks_crs and not asked:
        raw.questions.append(crs_question())
    if not raw.crs or raw.geographic:
        return
    crs = system(raw.crs)
    if crs.is_geographic and not _could_be_degrees(raw):
        if asked:
            raise BadInput("crs", f"{crs.name} is in degrees, and the numbers of the file are not: write another code")
        e, n = (f"{v:g}" for v in raw.table[0, :2])
        text = (
            f"The file says its coordinates are degrees ({crs.name}), but its first point is {e}, {n}: which are they?"
        )
        raw.questions.append(replace(crs_question(), text=text))
        raw.crs = ""
        return
    lon, lat, notes = to_degrees(crs, raw.table[:, 0], raw.table[:, 1])
    raw.table[:, 0], raw.table[:, 1], raw.geographic, raw.system = lon, lat, True, raw.crs
    raw.notes += notes
    unit, factor = linear_unit(crs)
    if np.nan_to_num(raw.table[:, 2]).any() and factor and abs(factor - 1) > 1e-6 and answers.get("heights") is None:
        text = f"The coordinates are in {unit}: are the heights in feet too?"
        choices = (("feet", "yes, heights are feet"), ("asis", "no, heights are metres"))
        raw.questions.append(Question("heights", text, choices))


def _could_be_degrees(raw: RawLine) -> bool:
    return bool(np.all(np.abs(raw.table[:, 0]) <= 360) and np.all(np.abs(raw.table[:, 1]) <= 90))


def shape_words(raw: RawLine, frame: Frame) -> list[ShapeWords]:
    """The lines of a file with several: where they lie, and why one can't be taken where that is known."""
    words, left = [], LOOKED_AT
    for k, shape in enumerate(raw.shapes[:SHOWN] if len(raw.shapes) > 1 else ()):
        places: list[tuple[float, float]] = []
        why = shape.why
        if k != raw.chosen and len(shape.table) > 1 and np.isfinite(shape.table[:, :2]).all():
            whole = left >= len(shape.table)
            left -= len(shape.table) if whole else 0
            step = max(1, len(shape.table) // DRAWN)
            east, north = _in_metres(raw, shape.table if whole else shape.table[::step], frame)
            if np.isfinite(east).all() and np.isfinite(north).all():
                why = why or (wrong_of(east, north, shape.closed) if whole else "")
                thin = step if whole else 1
                places = list(zip(east[::thin].tolist(), north[::thin].tolist(), strict=True))
            else:
                why = why or "nowhere on Earth"
        words.append(ShapeWords(shape.layer, shape.name, len(shape.table), k == raw.chosen, why, tuple(places)))
    return words


def _in_metres(raw: RawLine, table: Floats, frame: Frame) -> tuple[Floats, Floats]:
    """Places of another line of the file on the grid of the one taken; not finite where they lie nowhere."""
    east, north = table[:, 0], table[:, 1]
    if raw.system:
        east, north = degrees(system(raw.system), east, north)
    if not raw.geographic:
        return east, north
    if not (np.all(np.abs(east) <= 360) and np.all(np.abs(north) <= 90)):
        return east * np.inf, north
    return to_local(frame, east, north)


def wrong_of(east: Floats, north: Floats, closed: bool) -> str:
    """Why places (m) can't be a line of a fence: too long, or across itself; empty where they can."""
    long = float(np.hypot(np.diff(east), np.diff(north)).sum())
    if long > LONGEST_M:
        return f"{long / 1000:.0f} km long"
    if long < 2 * SAME_PLACE_M:
        return "all its points are one place"
    apart = np.concatenate([[True], np.hypot(np.diff(east), np.diff(north)) >= SAME_PLACE_M])
    east, north = east[apart], north[apart]
    back = closed and math.hypot(east[0] - east[-1], north[0] - north[-1]) >= SAME_PLACE_M
    if back:
        east, north = np.append(east, east[0]), np.append(north, north[0])
    return "crosses itself" if self_crossing(east, north) else ""


def finds(raw: RawLine, frame: Frame) -> list[Found]:
    """What was marked on a walk, on the map; of a walk in several parts what lies by the one taken."""
    found = []
    for k, find in enumerate(raw.finds):
        east, north = to_local(frame, np.array([find.place[0]]), np.array([find.place[1]]))
        off = np.hypot(raw.table[:, 0] - east, raw.table[:, 1] - north)
        if len(raw.shapes) > 1 and not np.min(off) <= BY_M:
            continue
        place = (round(float(east[0]), 4), round(float(north[0]), 4))
        found.append(Found(id=f"f{k + 1}", kind=find.kind, name=find.name, shape=(place,)))
    for one in found:
        kind_of(one)
    return found


def booked(raw: RawLine, answers: dict[str, str]) -> tuple[FieldBook | None, Reduced | None]:
    """The field book a line came from; its misclosure spread by the compass rule where that was answered."""
    if not raw.book:
        return None, None
    unit = answers.get("units", "")
    reduced = reduce_book(raw.book, unit or None)
    adjust = "compass" if answers.get("adjust") == "compass" and reduced.closure is not None else "none"
    if adjust == "compass" and reduced.closure is not None and len(raw.table) == len(reduced.page.spots) - 1:
        raw.table = reduced.closure.adjusted[:-1].copy()
        raw.notes.append(f"misclosure of {reduced.closure.miss_m:.2f} m spread over the legs by the compass rule")
    return FieldBook.model_validate({"text": raw.book, "unit": unit, "adjust": adjust}), reduced


def got(raw: RawLine, k: int) -> dict[str, Any]:
    """How a point was got, and how good that is."""
    if k >= len(raw.how):
        kind = {"gpx": "track" if raw.recorded else "file", "csv": "", "legs": ""}.get(raw.kind, "file")
        return {"how": kind}
    how, good = raw.how[k]
    return {} if how == "start" else {"how": how, "good_m": round(good, 4)}
