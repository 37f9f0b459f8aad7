"""From a field book to a measured line: reduced, closed, adjusted where asked, with what it says of itself."""

from dataclasses import dataclass
from typing import Literal

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.book import read_book
from gnomonic.core.ground.book_page import Page
from gnomonic.core.ground.mend import check_places
from gnomonic.core.ground.traverse import Closure, Suspect, closure, suspects
from gnomonic.core.job.parts import FieldBook, MeasuredLine, Point, Source

CLOSES_WITHIN = 0.02
EXPECTED_AT_MOST = 3.0  # misclosures of more than three standard uncertainties want a blunder


@dataclass(frozen=True, slots=True)
class Reduced:
    """A book reduced.  ``closure`` and what follows are None or empty for a line whose end is not its start again."""

    page: Page
    closed: bool
    closure: Closure | None
    expected_m: float
    suspects: tuple[Suspect, ...]

    @property
    def wants_looking_at(self) -> bool:
        """Whether the misclosure is more than the measuring explains."""
        return self.closure is not None and self.closure.miss_m > EXPECTED_AT_MOST * self.expected_m


def returned(points: int, length_m: float, miss_m: float, said: bool) -> bool:
    """Whether the last of a line's points is its first again: it all but is, or is said to be and could be.

    A line that is said to close but ends far from its start (a quarter of its length) is closed by a straight leg.
    """
    near = miss_m <= max(1.0, CLOSES_WITHIN * length_m)
    return points > 3 and (near or said) and miss_m < length_m / 4


def reduce_book(text: str, unit: str | None = None) -> Reduced:
    """Read a book and see how it closes.  Raises BadInput."""
    page = read_book(text, unit)
    table = np.array([(s.e_m, s.n_m, s.h_m) for s in page.spots])
    legs = np.diff(table, axis=0)
    length = float(np.hypot(legs[:, 0], legs[:, 1]).sum())
    miss = float(np.hypot(*(table[-1, :2] - table[0, :2])))
    expected = float(np.sqrt(sum(s.good_m**2 for s in page.spots if s.how != "string")))
    if not returned(len(table), length, miss, page.comes_back):
        return Reduced(page, page.comes_back and len(table) > 2, None, expected, ())
    closing = closure(legs, table[0].tolist(), table[0].tolist())
    found = suspects(legs, (closing.miss_e_m, closing.miss_n_m)) if closing.miss_m > expected else []
    return Reduced(page, True, closing, expected, tuple(found))


def booked_points(reduced: Reduced, adjust: Literal["none", "compass"]) -> list[Point]:
    """The line's points; the repeated last one of a closed line is left out."""
    spots = reduced.page.spots
    table = [(s.e_m, s.n_m, s.h_m) for s in spots]
    if reduced.closure is not None and adjust == "compass":
        table = [(row[0], row[1], row[2]) for row in reduced.closure.adjusted.tolist()]
    count = len(spots) - 1 if reduced.closure is not None else len(spots)
    return [
        Point(
            e_m=round(e, 6), n_m=round(n, 6), h_m=round(h, 6), name=s.name, how="" if s.how == "start" else s.how,
            good_m=None if s.how == "start" else round(s.good_m, 4),
        )
        for (e, n, h), s in zip(table[:count], spots[:count], strict=True)
    ]  # fmt: skip


def booked_line(
    text: str,
    unit: Literal["", "m", "ft"],
    adjust: Literal["none", "compass"],
    source: Source,
    start: tuple[float, float, float] = (0.0, 0.0, 0.0),
) -> MeasuredLine:
    """The measured line a book makes, the book's own origin laid at ``start`` (east, north, up).

    Raises BadInput (``legs[k]``, ``line``).
    """
    reduced = reduce_book(text, unit or None)
    if reduced.page.bare and not unit:
        raise BadInput("unit", "some numbers in the book have no unit: say whether they are metres or feet")
    points = [
        p.model_copy(update={"e_m": p.e_m + start[0], "n_m": p.n_m + start[1], "h_m": p.h_m + start[2]})
        if any(start)
        else p
        for p in booked_points(reduced, adjust)
    ]
    check_places(points, reduced.closed)
    book = FieldBook(text=text, unit=unit, adjust=adjust, start=start)
    return MeasuredLine(
        points=tuple(points), closed=reduced.closed, source=source, book=book, level=level_only(reduced)
    )


def level_only(reduced: Reduced) -> bool:
    """Whether a book says nothing of heights."""
    return not any(s.rise_known for s in reduced.page.spots[1:])
