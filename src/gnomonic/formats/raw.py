"""What a reader hands over: coordinates as they stood in the file, and what is open to question."""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.errors import BadInput
from gnomonic.core.job.parts import SourceKind

Floats = NDArray[np.float64]
MOST_BYTES = 40_000_000
MOST_POINTS = 500_000


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
    """One of the lines in a file: its layer, its name, its table (n, 3) as it stands there, heights nan where none."""

    layer: str
    name: str
    table: Floats
    closed: bool = False


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

    ``crs`` names the coordinate system of east and north (anything pyproj reads) where the file says it, ``asks_crs``
    that only the fencer can; ``shapes`` are all the lines of a file that holds
    several, ``chosen`` the one taken; ``how`` each point was got,
    with its goodness; ``tolerance_m`` to thin it to; ``book`` a field book's text; ``unit`` what it was measured in."""

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
    finds: list[Find] = field(default_factory=list)
    tolerance_m: float | None = None
    unit: Literal["", "m", "ft"] = ""

    def scale(self, factor: float) -> None:
        """Turn the file's units of length into metres, in every line of it."""
        for shape in self.shapes:
            shape.table *= factor
        if not any(shape.table is self.table for shape in self.shapes):
            self.table *= factor

    def label(self, index: int) -> str:
        """How messages name a point."""
        return f"{self.item} {index + self.first}"


def choose(
    kind: SourceKind, geographic: bool, shapes: list[Shape], answers: dict[str, str], none: str, item: str = "position"
) -> RawLine:
    """The line answered for (``answers["shape"]``, counting from 1), or the first.  Raises BadInput (``file``)."""
    shapes = [s for s in shapes if len(s.table) > 1]
    if not shapes:
        raise BadInput("file", none)
    asked = answers.get("shape", "1")
    if not asked.isdigit() or not 1 <= int(asked) <= len(shapes):
        raise BadInput("shape", f"there is no line {asked[:12]} in the file; it holds {len(shapes)}")
    taken = shapes[int(asked) - 1]
    raw = RawLine(kind, geographic, taken.table, item, first=1, closed=taken.closed)
    raw.shapes, raw.chosen = shapes, int(asked) - 1
    if len(shapes) > 1:
        called = ", ".join(p for p in (taken.layer, taken.name) if p)
        raw.notes.append(f"line {asked} of {len(shapes)} in the file taken" + (f": {called}" if called else ""))
    return raw


def plain(text: str) -> str:
    """A name on one line: runs of white space become single spaces, control characters go."""
    return "".join(c for c in " ".join(text.split()) if c.isprintable())[:120]


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
