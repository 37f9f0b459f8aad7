"""Legs as typed: bearing, distance and difference in height, a leg a line.

    N 4 E      96' 6"    +1' 2"
    87°30'     24.60 m   -0.15 m

Bearings are quadrant (N 4 30 E) or whole-circle degrees, distances are level (plan) distances; a word after ``#`` is a
comment.
"""  # fmt: skip

import math
import re

import numpy as np

from gnomonic.core.errors import BadInput
from gnomonic.core.units import parse_length_m
from gnomonic.formats.raw import Question, RawLine, decode

_ANGLE = r"(\d+(?:\.\d+)?)\s*°?(?:\s*(\d+(?:\.\d+)?)\s*['′]?)?"
_QUADRANT = re.compile(rf"\s*([NS])\s*{_ANGLE}\s*([EW])\b[,;]?\s*(.*)$", re.IGNORECASE)
_CARDINAL = re.compile(r"\s*(due\s+)?(north|south|east|west|[NSEW])\b[,;]?\s+(.*)$", re.IGNORECASE)
_CIRCLE = re.compile(r"\s*(\d+(?:\.\d+)?)(?:\s*°\s*(?:(\d+(?:\.\d+)?)\s*['′])?)?(?:\s*[,;]\s*|\s+)(.*)$")
_RISE = re.compile(r"(?:\s{2,}|\t|[,;]|\s(?=[-+−]))\s*")


def bearing_deg(line: str) -> tuple[float, str]:
    """Bearing clockwise from north, and what follows it on the line.

    >>> bearing_deg("S 86 30 E  148 ft")
    (93.5, '148 ft')
    """
    if match := _QUADRANT.match(line):
        ns, degrees, minutes, ew, rest = match.groups()
        angle = float(degrees) + float(minutes or 0) / 60
        if angle > 90 or float(minutes or 0) >= 60:
            raise BadInput("", f"“{line.strip()}” has a quadrant bearing beyond 90 degrees or 60 minutes")
        north = ns.upper() == "N"
        east = ew.upper() == "E"
        return ((angle if east else 360 - angle) if north else (180 - angle if east else 180 + angle)) % 360, rest
    if match := _CARDINAL.match(line):
        return {"N": 0.0, "E": 90.0, "S": 180.0, "W": 270.0}[match.group(2)[0].upper()], match.group(3)
    if match := _CIRCLE.match(line):
        degrees, minutes, rest = match.groups()
        angle = float(degrees) + float(minutes or 0) / 60
        if angle >= 360.0001 or float(minutes or 0) >= 60:
            raise BadInput("", f"“{line.strip()}” has a bearing of {angle:g}°, and a circle has 360")
        return angle % 360, rest
    raise BadInput("", f"“{line.strip()}” does not begin with a bearing such as N 4 30 E or 87.5")


def read_legs(data: bytes, answers: dict[str, str]) -> RawLine:
    """Read legs.  ``answers["units"]`` (m or ft) is the unit of numbers that have none."""
    place, height = np.zeros(2), 0.0
    rows = [(0.0, 0.0, 0.0)]
    unit, bare = answers.get("units"), False
    for number, whole in enumerate(decode(data, "the legs").splitlines(), 1):
        line = whole.split("#")[0].rstrip()
        if not line.strip():
            continue
        try:
            angle, rest = bearing_deg(line)
            parts = [p for p in _RISE.split(rest.strip(), maxsplit=1) if p.strip()]
            if not parts:
                raise BadInput("", f"“{line.strip()}” has a bearing but no distance")
            bare |= any(re.fullmatch(r"[-+−]?\s*[\d.]+", p.strip()) is not None for p in parts)
            distance = parse_length_m(parts[0], unit or "m")
            rise = parse_length_m(parts[1], unit or "m") if len(parts) > 1 else 0.0
        except BadInput as error:
            raise BadInput(f"legs[{len(rows) - 1}]", f"line {number}: {error.sentence}") from None
        if distance <= 0:
            raise BadInput(f"legs[{len(rows) - 1}]", f"line {number}: a leg must be longer than nothing")
        place = place + distance * np.array([math.sin(math.radians(angle)), math.cos(math.radians(angle))])
        height += rise
        rows.append((float(place[0]), float(place[1]), height))
    if len(rows) < 2:
        raise BadInput("legs", "no legs were typed: write one a line, as in N 4 30 E  96' 6\"  +1' 2\"")
    raw = RawLine("legs", False, np.array(rows), "point", names={0: "start"})
    raw.notes.append("distances taken as level (plan) distances; heights count from 0 at the start")
    if bare and unit is None:
        raw.questions.append(
            Question("units", "Some numbers have no unit: what are they?", (("m", "metres"), ("ft", "feet")))
        )
    return raw
