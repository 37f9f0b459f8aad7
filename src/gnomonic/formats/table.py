"""CSV: station and height, or easting, northing and height, with a header that says the units."""

import csv
import io
import math
import re
from itertools import pairwise

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import MOST_POINTS
from gnomonic.core.units import FOOT_M, LENGTH_UNITS_M, METRIC
from gnomonic.formats.raw import Question, RawLine, decode
from gnomonic.formats.reading import not_more

COLUMNS = {
    "station": ("station", "chainage", "distance", "dist", "s"),
    "height": ("height", "elevation", "elev", "level", "z", "h", "rl"),
    "east": ("easting", "east", "e", "x"),
    "north": ("northing", "north", "n", "y"),
}
FEET_RATIO = 1 / FOOT_M
_PLAIN = re.compile(r"[-+]?\d{1,12}(\.\d{0,20})?", re.ASCII)
_WITH_UNIT = re.compile(r"([-+]?[\d.]+)\s*([A-Za-z'′\"″]+)")


def _column(head: str) -> tuple[str | None, str | None]:
    """Meaning and unit of a heading such as ``Station (ft)``, ``height_m`` or ``E [m]``."""
    words = [w for w in re.split(r"[\s_()\[\]/.,]+", head.strip().lower()) if w]
    unit = words[-1] if len(words) > 1 and words[-1] in LENGTH_UNITS_M else None
    meaning = next((m for m, names in COLUMNS.items() if words and words[0] in names), None)
    return meaning, unit


def read_csv(data: bytes, answers: dict[str, str]) -> RawLine:
    """Read a table.  ``answers["units"]`` (m or ft) settles a header without units."""
    not_more(data.count(b"\n"), MOST_POINTS + 1000, "rows")
    text = decode(data, "the file")
    first = next((line for line in text.splitlines() if line.strip()), "")
    delimiter = max(";\t,", key=first.count) if first else ","
    try:
        rows = [(number, row) for number, row in _rows(text, delimiter) if any(c.strip() for c in row)]
    except csv.Error as error:
        raise BadInput("file", f"the file is not a table that can be read: {error}") from None
    if not rows:
        raise BadInput("file", "the file is empty")
    header = rows[0][1]
    found = {m: (k, u) for k, (m, u) in ((k, _column(h)) for k, h in enumerate(header)) if m}
    planned = "east" in found and "north" in found
    if "height" not in found or not (planned or "station" in found):
        raise BadInput(
            "file",
            f"row {rows[0][0]} is not a header with station and height, or easting, northing and height, and their "
            "units: write for example “station (m),height (m)”",
        )
    wanted: list[str] = [m for m in ("station", "east", "north", "height") if m in found]
    for number, row in rows[1:]:
        if len(row) > len(header) and delimiter == ",":
            raise BadInput(
                "file",
                f"row {number} has {len(row)} cells where the header has {len(header)}: write decimals with a point, not a comma",
            )
    questions: list[Question] = []
    values = {}
    for meaning in wanted:
        column, unit = found[meaning]
        cells = [_number(row, column, header, number) for number, row in rows[1:]]
        unit = _unit_of([u for _, u in cells], unit, rows, column)
        if unit is None:
            unit = answers.get("units")
            if unit is None and not questions:
                text = f"The column “{header[column].strip()}” has no unit: what are its numbers?"
                questions.append(Question("units", text, (("m", "metres"), ("ft", "feet"))))
        found[meaning] = (column, unit)
        values[meaning] = np.array([value for value, _ in cells]) * LENGTH_UNITS_M[unit or "m"]
    numbers = [number for number, _ in rows[1:]]
    if "station" in values:
        _rising(values["station"], numbers)
    raw = _line(values, planned)
    raw.questions += questions
    lengths = found["east" if "east" in found else "station"][1]
    raw.unit = "" if lengths is None else "m" if lengths in METRIC else "ft"
    raw.notes.append("columns " + ", ".join(f"{header[found[m][0]].strip()}" for m in wanted))
    _doubts(raw, values, found, answers)
    return raw


def _rows(text: str, delimiter: str) -> list[tuple[int, list[str]]]:
    reader = csv.reader(io.StringIO(text), delimiter=delimiter)
    return [(reader.line_num, row) for row in reader]


def _unit_of(units: list[str | None], head: str | None, rows: list[tuple[int, list[str]]], column: int) -> str | None:
    """The one unit of a column, from its cells or its heading.  Raises BadInput where they differ."""
    said = [u or head for u in units]
    for k, unit in enumerate(said):
        if unit != said[0] and (not unit or not said[0] or LENGTH_UNITS_M[unit] != LENGTH_UNITS_M[said[0]]):
            number, row = rows[k + 1]
            raise BadInput(
                "file",
                f"row {number} has “{row[column].strip()}” under “{rows[0][1][column].strip()}” where the rows above are "
                f"in {said[0] or 'no unit'}: write a column in one unit",
            )
    return said[0] if said else head


def _number(row: list[str], column: int, header: list[str], number: int) -> tuple[float, str | None]:
    """A cell's number and the unit written with it, if one is."""
    name = header[column].strip()
    cell = row[column].strip() if column < len(row) else ""
    if _PLAIN.fullmatch(cell):
        return float(cell), None
    if not cell:
        raise BadInput("file", f"row {number} has nothing under “{name}”")
    if re.fullmatch(r"[-+]?\d+,\d+", cell):
        raise BadInput("file", f"row {number} has “{cell}” under “{name}”: write decimals with a point, not a comma")
    unit = None
    if (match := _WITH_UNIT.fullmatch(cell)) and match.group(2).lower() in LENGTH_UNITS_M:
        cell, unit = match.group(1), match.group(2).lower()
    try:
        value = float(cell)
    except ValueError:
        raise BadInput("file", f"row {number} has “{cell}” under “{name}”, which is not a number") from None
    if not math.isfinite(value):
        raise BadInput("file", f"row {number} has “{cell}” under “{name}”, which is not a finite number")
    return value, unit


def _rising(stations: np.ndarray[tuple[int], np.dtype[np.float64]], numbers: list[int]) -> None:
    for k, (before, after) in enumerate(pairwise(stations.tolist())):
        if after <= before:
            what = "repeats the station of" if after == before else "goes back behind"
            raise BadInput("file", f"row {numbers[k + 1]} {what} row {numbers[k]}: stations must rise down the table")


def _line(values: dict[str, np.ndarray[tuple[int], np.dtype[np.float64]]], planned: bool) -> RawLine:
    if planned:
        table = np.column_stack([values["east"], values["north"], values["height"]])
        return RawLine("csv", False, table, "point", first=1)
    east = values["station"] - values["station"][:1]
    table = np.column_stack([east, np.zeros(len(east)), values["height"]])
    raw = RawLine("csv", False, table, "point", first=1)
    raw.straight = True
    raw.notes.append("no plan in the table: the line is drawn straight, heading east")
    return raw


def _doubts(
    raw: RawLine,
    values: dict[str, np.ndarray[tuple[int], np.dtype[np.float64]]],
    found: dict[str, tuple[int, str | None]],
    answers: dict[str, str],
) -> None:
    """Ask where lengths and heights, or stations and coordinates, do not fit each other."""
    table = raw.table
    if "station" in values and "east" in values and len(table) > 1:
        plan = float(np.hypot(np.diff(table[:, 0]), np.diff(table[:, 1])).sum())
        said = float(values["station"][-1] - values["station"][0])
        ratio = said / plan if plan else 1.0
        for factor, words in ((FEET_RATIO, "longer"), (1 / FEET_RATIO, "shorter")):
            if abs(ratio / factor - 1) < 0.05:
                _ask(
                    raw,
                    answers,
                    f"The stations are {max(ratio, 1 / ratio):.2f} times {words} than the coordinates make the line: are the coordinates in other units than the header says?",
                )
                return
    length_unit = found["east" if "east" in found else "station"][1]
    height_unit = found["height"][1]
    if length_unit and height_unit and LENGTH_UNITS_M[length_unit] != LENGTH_UNITS_M[height_unit]:
        _ask(raw, answers, f"Lengths are said to be in {length_unit} but heights in {height_unit}: is that so?")


def _ask(raw: RawLine, answers: dict[str, str], text: str) -> None:
    """Feet or metres for the plan lengths."""
    choice = answers.get("lengths")
    if choice in ("feet", "metres"):
        raw.table[:, :2] *= FOOT_M if choice == "feet" else FEET_RATIO
        raw.notes.append(f"lengths taken as {choice}, on your word")
    elif choice != "asis":
        choices = (
            ("asis", "as the header says"),
            ("feet", "lengths are really feet"),
            ("metres", "lengths are really metres"),
        )
        raw.questions.append(Question("lengths", text, choices))
