"""What a reader hands over: coordinates as they stood in the file, and what is open to question."""

from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.errors import BadInput
from gnomonic.core.job.parts import SourceKind
from gnomonic.core.limits import MOST_NAME, MOST_SHAPES
from gnomonic.formats.reading import not_more, whole

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Question:
    """Something only the fencer knows; ``choices`` are (value, words), the first being the likelier;
    ``typed`` says what else may be typed."""

    key: str
    text: str
    choices: tuple[tuple[str, str], ...]
    typed: str = ""


@dataclass(slots=True)
class Shape:
    """One of the lines in a file: its layer, its name, its table (n, 3) as it stands there, heights nan where none.

    ``names`` of single points; ``recorded`` where it was walked; ``item`` names a point, for messages; ``why`` it can't be a
    line, empty where it can or was not looked at; ``how`` each point was got, with its goodness."""

    layer: str
    name: str
    table: Floats
    closed: bool = False
    names: dict[int, str] = field(default_factory=dict)
    recorded: bool = False
    item: str = "position"
    why: str = ""
    how: list[tuple[str, float]] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Find:
    """Something noted while walking, at a place in the file's own coordinates."""

    kind: str
    name: str
    place: tuple[float, float]


@dataclass(slots=True)
class RawLine:
    """A line as read.  ``table`` (n, 3): longitude, latitude, height or east, north, height in metres; heights may
    be nan where the file has none.  ``recorded`` lines were walked with a receiver that may have stood still.
    ``item`` names a point, for messages; ``first`` is the number of the first one in the file.

    ``crs`` names the coordinate system of east and north (an EPSG code or WKT) where the file says it, ``asks_crs``
    that only the fencer can; ``system`` the one its longitudes came from; ``shapes`` are all the lines of a file that holds
    several, ``chosen`` the one taken; ``how`` each point was got,
    with its goodness; ``tolerance_m`` to thin it to; ``book`` a field book's text; ``unit`` what it was measured in; ``straight`` where the file has no plan."""

    kind: SourceKind
    geographic: bool
    table: Floats
    item: str
    first: int = 0
    recorded: bool = False
    closed: bool = False
    names: dict[int, str] = field(default_factory=dict)
    notes: list[str] = field(default_factory=list)
    questions: list[Question] = field(default_factory=list)
    book: str = ""
    how: list[tuple[str, float]] = field(default_factory=list)
    shapes: list[Shape] = field(default_factory=list)
    chosen: int = 0
    crs: str = ""
    asks_crs: bool = False
    system: str = ""
    finds: list[Find] = field(default_factory=list)
    tolerance_m: float | None = None
    unit: Literal["", "m", "ft"] = ""
    straight: bool = False

    def scale(self, factor: float) -> None:
        """Turn the file's units of length into metres, in every line of it."""
        for shape in self.shapes:
            shape.table *= factor

    def label(self, index: int) -> str:
        """How messages name a point."""
        return f"{self.item} {index + self.first}"


def gathered(
    kind: SourceKind, geographic: bool, shapes: list[Shape], none: str, first: int = 1, notes: list[str] | None = None
) -> RawLine:
    """All lines of a file, none taken yet.  Raises BadInput (``file``) where it holds none with two points."""
    not_more(len(shapes), MOST_SHAPES, "lines")
    shapes = [s for s in shapes if len(s.table)]
    for shape in shapes:
        if len(shape.table) == 1:
            shape.why = "one point"
    if not any(len(s.table) > 1 for s in shapes):
        raise BadInput("file", none)
    raw = RawLine(kind, geographic, shapes[0].table, shapes[0].item, first=first, notes=notes or [])
    raw.shapes = shapes
    return raw


def taken(raw: RawLine, number: int) -> RawLine:
    """One of the lines of a file (counting from 0), on a table of its own."""
    shape = raw.shapes[number]
    notes = list(raw.notes)
    if len(raw.shapes) > 1:
        called = ", ".join(p for p in (shape.layer, shape.name) if p)
        notes.insert(0, f"line {number + 1} of {len(raw.shapes)} in the file taken" + (f": {called}" if called else ""))
    return replace(
        raw,
        table=shape.table.copy(),
        closed=shape.closed,
        names=dict(shape.names),
        recorded=shape.recorded,
        item=shape.item,
        how=list(shape.how),
        chosen=number,
        notes=notes,
        questions=list(raw.questions),
    )


def asked_for(raw: RawLine, answer: str) -> int:
    """Which line was answered for (``answers["shape"]``, counting from 1), from 0.  Raises BadInput (``shape``)."""
    number = whole(answer)
    if number is None or not 1 <= number <= len(raw.shapes):
        raise BadInput("shape", f"there is no line “{answer[:12]}” in the file; it holds {len(raw.shapes)}")
    return number - 1


def plain(text: str) -> str:
    """A name on one line: runs of white space become single spaces, characters that can't be printed go."""
    return "".join(c for c in " ".join(text[: 20 * MOST_NAME].split()) if c.isprintable())[:MOST_NAME]


def decode(data: bytes, what: str) -> str:
    """Text of a file.  Raises BadInput where it is not text."""
    for encoding in ("utf-8-sig", "utf-16") if data[:2] in (b"\xff\xfe", b"\xfe\xff") else ("utf-8-sig",):
        try:
            text = data.decode(encoding)
        except UnicodeDecodeError:
            continue
        if "\0" not in text:
            return text
    raise BadInput("file", f"{what} is not a text file: export it as GPX, GeoJSON or CSV and bring that in")


def check_world(raw: RawLine) -> None:
    """Longitudes and latitudes must be possible; swapped ones are named as such."""
    lon, lat = raw.table[:, 0], raw.table[:, 1]
    bad = np.flatnonzero(~(np.abs(lat) <= 90) | ~(np.abs(lon) <= 180))
    if not len(bad):
        return
    k = int(bad[0])
    if abs(lat[k]) > 90 and abs(lat[k]) <= 180 and np.all(np.abs(lon) <= 90):
        raise BadInput(
            "file",
            f"latitude and longitude look swapped: {raw.label(k)} has latitude {lat[k]:g}, and none goes beyond 90",
        )
    raise BadInput(
        "file", f"{raw.label(k)} has latitude {lat[k]:g} and longitude {lon[k]:g}, which is nowhere on Earth"
    )
