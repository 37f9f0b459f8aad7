"""A recorded walk (gnomonic-walk/1): the fixes that make the line, in order, and what was marked on the way.

    {"format": "gnomonic-walk/1", "tolerance_m": 0.05,
     "points": [[longitude, latitude, height_m, good_m, "name"], …],
     "marks": [{"kind": "rock", "name": "", "at": [longitude, latitude]}, …], "said": ""}
"""  # fmt: skip

import json
from itertools import pairwise
from typing import Any

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import MOST_POINTS
from gnomonic.formats.coordinates import apart_m
from gnomonic.formats.raw import Find, Question, RawLine, Shape, plain
from gnomonic.formats.reading import not_more

FORMAT = "gnomonic-walk/1"
FAR_M = 2000.0  # no walker is there by the next fix: a new trail


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
    apart = apart_m(table[:, 0], table[:, 1])
    cuts = [0, *(np.flatnonzero(apart > FAR_M) + 1).tolist(), len(table)]
    raw = RawLine("walk", True, table, "fix", first=1, finds=finds, tolerance_m=tolerance)
    if said := plain(str(document.get("said", ""))):
        raw.notes.append(said)
    for k, (a, b) in enumerate(pairwise(cuts)):
        own = {n - a: name for n, name in names.items() if a <= n < b}
        part = f"part {k + 1}" if len(cuts) > 2 else ""
        shape = Shape("", part, table[a:b], names=own, recorded=True, item="fix")
        shape.how = [("rover", g) for g in good[a:b]]
        shape.why = "one fix" if b - a == 1 else ""
        raw.shapes.append(shape)
    if len(raw.shapes) > 1:
        far = float(apart[cuts[1] - 1]) / 1000
        text = f"The fixes jump {far:,.0f} km after the first {cuts[1]:,}: which part is the line?"
        choices = tuple((str(k + 1), f"part {k + 1}: {len(s.table):,} places") for k, s in enumerate(raw.shapes) if not s.why)  # fmt: skip
        raw.questions.append(Question("shape", text, choices))
    return raw


def write_walk(points: list[list[Any]], marks: list[dict[str, Any]], tolerance_m: float, said: str = "") -> bytes:
    """The document of a recorded walk; ``said`` is how its fixes came to its points."""
    body = {"format": FORMAT, "tolerance_m": tolerance_m, "points": points, "marks": marks, "said": said}
    return json.dumps(body, ensure_ascii=False).encode()
