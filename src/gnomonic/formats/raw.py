"""What a reader hands over: coordinates as they stood in the file, and what is open to question."""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.errors import BadInput

Floats = NDArray[np.float64]
MOST_BYTES = 40_000_000
MOST_POINTS = 500_000


@dataclass(frozen=True, slots=True)
class Question:
    """Something only the fencer knows; ``choices`` are (value, words), the first being the likelier."""

    key: str
    text: str
    choices: tuple[tuple[str, str], ...]


@dataclass(slots=True)
class RawLine:
    """A line as read.  ``table`` (n, 3): longitude, latitude, height or east, north, height in metres; heights may
    be nan where the file has none.  ``recorded`` lines were walked with a receiver that may have stood still.
    ``item`` names a point, for messages; ``first`` is the number of the first one in the file."""

    kind: Literal["gpx", "geojson", "csv", "legs"]
    geographic: bool
    table: Floats
    item: str
    first: int = 0
    recorded: bool = False
    closed: bool = False
    names: dict[int, str] = field(default_factory=dict)
    notes: list[str] = field(default_factory=list)
    questions: list[Question] = field(default_factory=list)

    def label(self, index: int) -> str:
        """How messages name a point."""
        return f"{self.item} {index + self.first}"


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
