"""Bearings as typed: quadrant (N 4 30 E), whole circle (87.5, 87°30'), the four winds.

Degrees clockwise from north inside.
"""

import re

from gnomonic.core.errors import BadInput

_ANGLE = r"(\d+(?:\.\d+)?)\s*°?(?:\s*(\d+(?:\.\d+)?)\s*['′]?)?"
_QUADRANT = re.compile(rf"\s*([NS])\s*{_ANGLE}\s*([EW])\b[,;]?\s*(.*)$", re.IGNORECASE)
_CARDINAL = re.compile(r"\s*(due\s+)?(north|south|east|west|[NSEW])\b[,;]?\s+(.*)$", re.IGNORECASE)
# after one of the four winds: a number without a unit, and another number behind it
_HALF = re.compile(r"(\d+(?:\.\d+)?\s*°?)\s(?=\d)(?!\d/\d)", re.IGNORECASE)
_CIRCLE = re.compile(r"\s*(\d+(?:\.\d+)?)(?:\s*°\s*(?:(\d+(?:\.\d+)?)\s*['′])?)?(?:\s*[,;]\s*|\s+)(.*)$")
_DECLINATION = re.compile(rf"{_ANGLE}\s*([EW])?$", re.IGNORECASE)


def bearing_deg(line: str) -> tuple[float, str]:
    """Bearing clockwise from north, and what follows it on the line.  Raises BadInput.

    >>> bearing_deg("S 86 30 E  148 ft")
    (93.5, '148 ft')
    """
    if match := _QUADRANT.match(line):
        ns, degrees, minutes, ew, rest = match.groups()
        angle = _degrees(degrees, minutes)
        if angle > 90 or float(minutes or 0) >= 60:
            raise BadInput("", f"“{line.strip()}” has a quadrant bearing beyond 90 degrees or 60 minutes")
        north, east = ns.upper() == "N", ew.upper() == "E"
        return ((angle if east else 360 - angle) if north else (180 - angle if east else 180 + angle)) % 360, rest
    if match := _CARDINAL.match(line):
        if half := _HALF.match(match.group(3)):
            raise BadInput(
                "",
                f"“{line.strip()}” has half a bearing: {match.group(2)} {half.group(1)} E or {match.group(2)} {half.group(1)} W? "
                f"For {match.group(2)} by itself write the distance with its unit: {match.group(2)}  {half.group(1)} ft",
            )
        return {"N": 0.0, "E": 90.0, "S": 180.0, "W": 270.0}[match.group(2)[0].upper()], match.group(3)
    if match := _CIRCLE.match(line):
        degrees, minutes, rest = match.groups()
        angle = _degrees(degrees, minutes)
        if angle >= 360.0001 or float(minutes or 0) >= 60:
            raise BadInput("", f"“{line.strip()}” has a bearing of {angle:g}°, and a circle has 360")
        return angle % 360, rest
    raise BadInput("", f"“{line.strip()}” does not begin with a bearing such as N 4 30 E or 87.5")


def _degrees(degrees: str, minutes: str | None) -> float:
    return float(degrees) + float(minutes or 0) / 60


def angle_deg(text: str) -> float:
    """An angle by itself: ``6``, ``6.5°``, ``6°30'``.  Raises BadInput.

    >>> angle_deg("6°30'")
    6.5
    """
    match = re.fullmatch(_ANGLE, text.strip())
    if not match:
        raise BadInput("", f"“{text.strip()}” is not an angle: write it like 6, 6.5° or 6°30'")
    return _degrees(match.group(1), match.group(2))


def declination_deg(text: str) -> float:
    """A declination, east positive: ``3 30 W`` → −3.5.  Raises BadInput.

    >>> declination_deg("3°30' W")
    -3.5
    """
    match = _DECLINATION.fullmatch(text.strip())
    if not match or not match.group(3) or _degrees(match.group(1), match.group(2)) > 60:
        raise BadInput("", f"“{text.strip()}” is not a declination: write it like 3.5 E or 3°30' W, up to 60 degrees")
    return _degrees(match.group(1), match.group(2)) * (1 if match.group(3).upper() == "E" else -1)


def quadrant(bearing: float) -> str:
    """A bearing in words of the compass, to the minute: ``N 4°30' E``.

    >>> quadrant(93.5), quadrant(0)
    ("S 86°30' E", "N 0°00' E")
    """
    minutes = round(bearing % 360 * 60) % 21600
    north, east = minutes <= 5400 or minutes > 16200, minutes <= 10800
    off = (minutes if east else 21600 - minutes) if north else abs(10800 - minutes)
    return f"{'N' if north else 'S'} {off // 60}°{off % 60:02d}' {'E' if east else 'W'}"
