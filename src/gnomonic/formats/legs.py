"""Legs as typed: the field book (``core/ground/book.py``) as a file."""

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.book import read_book
from gnomonic.core.limits import MOST_BOOK_CHARACTERS
from gnomonic.formats.raw import Question, RawLine, decode


def read_legs(data: bytes, answers: dict[str, str]) -> RawLine:
    """Read a field book.  ``answers["units"]`` (m or ft) is the unit of numbers that have none."""
    text, unit = decode(data, "the legs"), answers.get("units")
    if len(text) > MOST_BOOK_CHARACTERS:
        raise BadInput(
            "legs", f"the legs are {len(text):,} characters long; more than {MOST_BOOK_CHARACTERS:,} are not taken"
        )
    page = read_book(text, unit)
    table = np.array([(s.e_m, s.n_m, s.h_m) for s in page.spots])
    raw = RawLine("legs", False, table, "point", closed=page.comes_back)
    raw.names = {k: s.name for k, s in enumerate(page.spots) if s.name}
    raw.book, raw.unit = text, page.unit
    raw.how = [(s.how, s.good_m) for s in page.spots]
    raw.notes.append(
        "distances taken as level (plan) distances unless the book says slope; heights count from 0 at the start"
    )
    if page.declination_deg is not None:
        raw.notes.append(f"bearings turned by the declination of {page.declination_deg:g}°, east positive")
    if page.levels is not None:
        raw.notes.append(
            "the page of staff readings agrees" if page.levels.agree else "the page of staff readings does not agree"
        )
    if page.bare and unit is None:
        raw.questions.append(
            Question("units", "Some numbers have no unit: what are they?", (("m", "metres"), ("ft", "feet")))
        )
    return raw
