"""What a file's line means: its coordinates, its field book, the other lines beside it, what was marked on the way."""

from dataclasses import dataclass
from typing import Any

import numpy as np

from gnomonic.core.ground.booked import Reduced, reduce_book
from gnomonic.core.ground.found import kind_of
from gnomonic.core.job.parts import FieldBook, Found, Frame
from gnomonic.formats.coordinates import linear_unit, system, to_degrees
from gnomonic.formats.frame import to_local
from gnomonic.formats.raw import Question, RawLine
from gnomonic.formats.shape import crs_question


@dataclass(frozen=True, slots=True)
class ShapeWords:
    """One of the lines a file holds, as the preview offers it; ``places`` (east, north) drawn faintly."""

    layer: str
    name: str
    points: int
    taken: bool
    places: tuple[tuple[float, float], ...]


def from_system(raw: RawLine, answers: dict[str, str]) -> None:
    """Coordinates of a known system become longitude and latitude; where only the fencer knows it, that is asked."""
    asked = answers.get("crs", "").strip()
    if asked and asked != "local" and not raw.geographic:
        raw.crs = asked
    elif raw.asks_crs and not asked:
        raw.questions.append(crs_question())
    if not raw.crs or raw.geographic:
        return
    crs = system(raw.crs)
    lon, lat, notes = to_degrees(crs, raw.table[:, 0], raw.table[:, 1])
    raw.table[:, 0], raw.table[:, 1], raw.geographic = lon, lat, True
    raw.notes += notes
    unit, factor = linear_unit(crs)
    if raw.table[:, 2].any() and factor and abs(factor - 1) > 1e-6 and answers.get("heights") is None:
        text = f"The coordinates are in {unit}: are the heights in feet too?"
        choices = (("feet", "yes, heights are feet"), ("asis", "no, heights are metres"))
        raw.questions.append(Question("heights", text, choices))
    for other in raw.shapes:
        if other.table is not raw.table:
            other.table[:, 0], other.table[:, 1], _ = to_degrees(crs, other.table[:, 0], other.table[:, 1])


def shape_words(raw: RawLine, frame: Frame) -> list[ShapeWords]:
    """The lines of a file with several, thinned for drawing."""
    words = []
    for k, shape in enumerate(raw.shapes if len(raw.shapes) > 1 else ()):
        step = max(1, len(shape.table) // 200)
        east, north = shape.table[::step, 0], shape.table[::step, 1]
        if k == raw.chosen:
            east, north = east[:0], north[:0]
        elif raw.geographic and len(east):
            east, north = to_local(frame, east, north)
        places = tuple(zip(np.asarray(east).tolist(), np.asarray(north).tolist(), strict=True))
        words.append(ShapeWords(shape.layer, shape.name, len(shape.table), k == raw.chosen, places))
    return words


def finds(raw: RawLine, frame: Frame) -> list[Found]:
    """What was marked on a walk, on the map."""
    found = []
    for k, find in enumerate(raw.finds):
        east, north = to_local(frame, np.array([find.place[0]]), np.array([find.place[1]]))
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
