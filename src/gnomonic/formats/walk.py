"""A recorded walk (gnomonic-walk/1): the fixes that make the line, in order, and what was marked on the way.

    {"format": "gnomonic-walk/1", "tolerance_m": 0.05,
     "points": [[longitude, latitude, height_m, good_m, "name"], …],
     "marks": [{"kind": "rock", "name": "", "at": [longitude, latitude]}, …]}
"""  # fmt: skip

import json
from typing import Any

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import MOST_POINTS
from gnomonic.formats.raw import Find, RawLine, plain
from gnomonic.formats.reading import not_more

FORMAT = "gnomonic-walk/1"


def read_walk(document: dict[str, Any]) -> RawLine:
    """Read a recorded walk.  Raises BadInput (``file``)."""
    try:
        rows = document["points"]
        not_more(len(rows), MOST_POINTS, "fixes")
        table = np.array([[float(v) for v in row[:3]] for row in rows], dtype=np.float64).reshape(-1, 3)
        good = [float(row[3]) for row in rows]
        names = {k: plain(str(row[4])) for k, row in enumerate(rows) if row[4]}
        finds = [
            Find(str(m["kind"]), plain(str(m["name"])), (float(m["at"][0]), float(m["at"][1])))
            for m in document["marks"]
        ]
        tolerance = float(document["tolerance_m"])
    except (KeyError, TypeError, ValueError, IndexError, OverflowError):
        raise BadInput("file", "the recorded walk is damaged: its points or marks do not read") from None
    places = np.array([f.place for f in finds]).reshape(-1, 2)
    if not (np.isfinite(table).all() and np.isfinite(good).all() and np.isfinite(places).all() and 0 < tolerance <= 10):
        raise BadInput("file", "the recorded walk has a value that is not a finite number, or no tolerance up to 10 m")
    raw = RawLine("walk", True, table, "fix", first=1, recorded=True, names=names)
    raw.how, raw.finds, raw.tolerance_m = [("rover", g) for g in good], finds, tolerance
    return raw


def write_walk(points: list[list[Any]], marks: list[dict[str, Any]], tolerance_m: float) -> bytes:
    """The document of a recorded walk."""
    body = {"format": FORMAT, "tolerance_m": tolerance_m, "points": points, "marks": marks}
    return json.dumps(body, ensure_ascii=False).encode()
