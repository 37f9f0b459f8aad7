"""Parse and print lengths, angles and forces; SI inside, the trade's units at the edges.

Numbers show what a tape or a hand level can deliver and no more: ⅛ in / 5 mm for cuts and gaps, ½ in / 10 mm for
stations (common practice).  The page's ``units.js`` prints the same text from the same table of kinds.
"""

import math
import re
from typing import Literal

from gnomonic.core.errors import BadInput

System = Literal["us", "metric"]

INCH_M = 0.0254
FOOT_M = 0.3048
ACRE_M2 = 4046.8564224
POUND_FORCE_N = 4.4482216152605
POUND_KG = 0.45359237
MILE_H_M_S = 0.44704
VULGAR = {"½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8", "⅓": "1/3", "⅔": "2/3"}
PRINTED = {"1/2": "½", "1/4": "¼", "3/4": "¾", "1/8": "⅛", "3/8": "⅜", "5/8": "⅝", "7/8": "⅞"}
LENGTH_UNITS_M = {
    "mm": 0.001, "cm": 0.01, "m": 1.0, "km": 1000.0, "metre": 1.0, "metres": 1.0, "meter": 1.0, "meters": 1.0,
    "in": INCH_M, "inch": INCH_M, "inches": INCH_M, '"': INCH_M, "″": INCH_M, "”": INCH_M,
    "ft": FOOT_M, "foot": FOOT_M, "feet": FOOT_M, "'": FOOT_M, "′": FOOT_M, "’": FOOT_M,
    "yd": 0.9144, "yard": 0.9144, "yards": 0.9144, "rod": 5.0292, "rods": 5.0292, "chain": 20.1168, "chains": 20.1168,
}  # fmt: skip
METRIC = {"mm", "cm", "m", "km", "metre", "metres", "meter", "meters"}
TAPE_M = 0.005  # what a tape can't tell apart: lengths nearer than this are the same length
# kind of length → (denominator of the inch it is printed to, step in mm)
LENGTH_KINDS: dict[str, tuple[int, int]] = {"station": (2, 10), "cut": (8, 5), "gap": (8, 5), "depth": (2, 10)}

_NUMBER = r"(?:\d+\s+\d+/\d+|\d+/\d+|\d+(?:\.\d+)?|\.\d+)"
_UNIT = "|".join(sorted((re.escape(u) for u in LENGTH_UNITS_M), key=len, reverse=True))
_TERM = re.compile(rf"\s*({_NUMBER})\s*({_UNIT})?(?![A-Za-z])\.?\s*", re.IGNORECASE)


def plain_fractions(text: str) -> str:
    """Write printed fractions out: ``12½`` → ``12 1/2``.

    >>> plain_fractions("12½")
    '12 1/2'
    """
    for sign, fraction in VULGAR.items():
        text = re.sub(rf"(\d){sign}", rf"\1 {fraction}", text).replace(sign, fraction)
    return text


def number(text: str) -> float:
    """Read ``3``, ``3.5``, ``3 1/2``, ``1/2``; the text has been matched already."""
    total = 0.0
    for part in text.split():
        if "/" in part:
            top, bottom = part.split("/")
            if int(bottom) == 0:
                raise BadInput("", f"the fraction {part} has nothing under the line")
            total += int(top) / int(bottom)
        else:
            total += float(part)
    return total


def parse_length_m(text: str, bare: str | None = None) -> float:
    """Read a length as typed and return metres.

    ``bare`` is the unit meant by a number without one; None refuses such a number.
    Raises BadInput with one sentence.

    >>> round(parse_length_m("16' 3\\""), 4)
    4.9530
    >>> parse_length_m("12 1/2 ft") == parse_length_m("12½ ft")
    True
    """
    shown = text.strip()
    body = plain_fractions(shown).replace("−", "-")
    sign = 1.0
    if body.startswith(("-", "+")):
        sign = -1.0 if body[0] == "-" else 1.0
        body = body[1:].strip()
    if re.search(r"\d,\d", body):
        raise BadInput("", f"“{shown}” has a comma in it: write decimals with a point, as in 12.5 m")
    total, position, last, metric = 0.0, 0, math.inf, None
    while position < len(body):
        match = _TERM.match(body, position)
        if not match:
            raise BadInput("", f"“{shown}” is not a length: write it like 16' 3\", 10 ft, 12½ in or 2.4 m")
        unit = match.group(2)
        if unit is None:
            if bare is None or last != math.inf:
                raise BadInput("", f"“{shown}” lacks a unit: write it like 16' 3\", 10 ft or 2.4 m")
            unit = bare
        factor = LENGTH_UNITS_M[unit.lower()]
        if metric is not None and metric != (unit.lower() in METRIC):
            raise BadInput("", f"“{shown}” mixes metres with feet: write it in one of them, as in 16 ft 3 in or 4.95 m")
        metric = unit.lower() in METRIC
        if factor >= last:
            raise BadInput("", f"“{shown}” names its units out of order: larger first, as in 16 ft 3 in")
        total += number(match.group(1)) * factor
        last, position = factor, match.end()
    if last == math.inf:
        raise BadInput("", "a length is missing: write it like 16' 3\", 10 ft or 2.4 m")
    return sign * total


def _in_parts(value: float, parts: int) -> int:
    """Round half away from zero to whole parts."""
    return int(math.floor(abs(value) * parts + 0.5 + 1e-9))


def reaching(length_m: float, each_m: float) -> int:
    """How many of ``each_m`` reach a length, at a tape's precision.

    >>> reaching(100.584, 50.292), reaching(100.5841, 50.292), reaching(100.6, 50.292), reaching(0.0, 3.0)
    (2, 2, 3, 0)
    """
    return max(0, math.ceil((length_m - TAPE_M) / each_m))


def rounded(value: float, digits: int = 0) -> str:
    """A number to so many digits, halves away from zero, as the page rounds them too.

    >>> rounded(2.5), rounded(-0.5), rounded(0.125, 2), rounded(-0.004, 2)
    ('3', '−1', '0.13', '0.00')
    """
    parts = _in_parts(value, 10**digits)
    sign = "−" if value < 0 and parts else ""
    return f"{sign}{parts / 10**digits:.{digits}f}"


def _tens(value: float) -> str:
    count = _in_parts(value / 10, 1)
    return f"{'−' if value < 0 and count else ''}{count * 10}"


def format_length(length_m: float, system: System, kind: str = "station") -> str:
    """Print a length to the precision of its kind.

    >>> format_length(116.84, "us"), format_length(116.84, "metric")
    ('383 ft 4 in', '116.84 m')
    >>> format_length(0.0635, "us", "gap"), format_length(0.0635, "metric", "gap")
    ('2½ in', '65 mm')
    """
    denominator, step_mm = LENGTH_KINDS[kind]
    if system == "metric":
        steps = _in_parts(length_m * 1000.0 / step_mm, 1)
        sign = "−" if length_m < 0 and steps else ""
        mm = steps * step_mm
        return f"{sign}{mm} mm" if kind == "gap" and mm < 1000 else f"{sign}{mm / 1000:.{2 if step_mm >= 10 else 3}f} m"
    parts = _in_parts(length_m / INCH_M, denominator)
    sign = "−" if length_m < 0 and parts else ""
    inches, rest = divmod(parts, denominator)
    feet, inches = (0, inches) if kind == "gap" and inches < 24 else divmod(inches, 12)
    fraction = ""
    if rest:
        divisor = math.gcd(rest, denominator)
        fraction = PRINTED[f"{rest // divisor}/{denominator // divisor}"]
    inch_text = f"{inches if inches or not fraction else ''}{fraction} in"
    if not feet:
        return "0 ft" if kind == "station" and inch_text == "0 in" else sign + inch_text
    return f"{sign}{feet} ft" if inch_text == "0 in" else f"{sign}{feet} ft {inch_text}"


def format_quantity(value: float, kind: str, system: System) -> str:
    """Print any quantity Gnomonic shows: lengths, ``area``, ``land``, ``volume``, ``force``, ``grade``, ``angle``, ``count``, ``share``, ``strain``, a ``stretch`` of line (m), ``rain`` (mm),
    ``warmth``, a difference of temperature (K), ``temperature`` (°C), ``speed`` (m/s), ``load`` (N/m), ``mass`` (kg), ``moment`` and ``torque`` of a nut (N·m).

    >>> format_quantity(1500.0, "force", "us"), format_quantity(1500.0, "force", "metric")
    ('340 lb', '1.5 kN')
    """
    if kind in LENGTH_KINDS:
        return format_length(value, system, kind)
    us = system == "us"
    if kind == "area":
        return f"{rounded(value / FOOT_M**2, 1)} sq ft" if us else f"{rounded(value, 2)} m²"
    if kind == "land":
        return f"{rounded(value / ACRE_M2, 2)} acres" if us else f"{rounded(value / 10_000, 3)} ha"
    if kind == "volume":
        return f"{rounded(value / FOOT_M**3, 1)} cu ft" if us else f"{rounded(value, 2)} m³"
    if kind == "force":
        if us:
            return f"{_tens(value / POUND_FORCE_N)} lb"
        return f"{rounded(value / 1000, 1)} kN" if abs(value) >= 995 else f"{_tens(value)} N"
    if kind == "strain":
        return f"{rounded(value * 100, 2)} %"
    if kind in ("grade", "share"):
        return f"{rounded(value * 100)} %"
    if kind == "angle":
        return f"{rounded(value)}°"
    if kind == "warmth":
        return f"{rounded(value * 1.8)} °F" if us else f"{rounded(value)} °C"
    if kind == "temperature":
        return f"{rounded(value * 1.8 + 32)} °F" if us else f"{rounded(value)} °C"
    if kind == "count":
        return rounded(value)
    if kind == "speed":
        return f"{rounded(value / MILE_H_M_S)} mph" if us else f"{rounded(value)} m/s"
    if kind == "load":
        return f"{rounded(value / POUND_FORCE_N * FOOT_M)} lb/ft" if us else f"{rounded(value)} N/m"
    if kind == "mass":
        return f"{rounded(value / POUND_KG)} lb" if us else f"{rounded(value)} kg"
    if kind in ("moment", "torque"):
        whole = _tens if kind == "moment" else rounded
        return f"{whole(value / POUND_FORCE_N / FOOT_M)} ft·lb" if us else f"{whole(value)} N·m"
    if kind == "stretch":
        return f"{rounded(value / FOOT_M)} ft" if us else f"{rounded(value)} m"
    if kind == "rain":
        return f"{rounded(value / 25.4, 1)} in" if us else f"{rounded(value)} mm"
    if kind == "times":
        return f"{rounded(value, 1)} ×"
    raise ValueError(f"no such kind of quantity: {kind}")
