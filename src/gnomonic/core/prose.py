"""Lengths and forces written in prose (“2 to 3 in”, “600 mm”, “250 lb”), said in either unit system.

Data of the trade is written in the units the trade says it in; whoever reads in the other system is told the same in
theirs, to the precision of such a figure.  Names of goods (1⅜-inch tube, 2 × 4 in mesh) stay as they are printed.
"""

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

from gnomonic.core.units import (
    FOOT_M,
    INCH_M,
    format_length,
    format_quantity,
    number,
    plain_fractions,
    rounded,
)

_VALUE = r"(?:\d[\d,]*(?:\.\d+)?[½¼¾⅛⅜⅝⅞]?|[½¼¾⅛⅜⅝⅞])"
_APART = r"(?: to |–|-| or | and |, )"
_UNIT = r"(?:ft|in|mm|cm|m|lb)"
# not a name of goods (2 × 4 in, 9-49-6), not a count (5 in all, 1 in 100)
_LENGTH = re.compile(
    rf"(?<![\d.,½¼¾⅛⅜⅝⅞×x/-])(?<!× )({_VALUE}(?:{_APART}{_VALUE})*) ({_UNIT})(?![\w²³])(?: ({_VALUE}) in(?!\w))?"
    r"(?! (?:all|a row|order|total|place)(?!\w))(?! \d)"
)
_METRIC = ("mm", "cm", "m")
_SI = {"ft": FOOT_M, "in": INCH_M, "mm": 0.001, "cm": 0.01, "m": 1.0}
POUND_N = 4.4482216152605


@dataclass(frozen=True, slots=True)
class Both:
    """The same quantity as said in either unit system."""

    us: str
    metric: str


def _number(text: str) -> float:
    return number(plain_fractions(text.replace(",", "")))


def _metric(length_m: float) -> tuple[str, str]:
    """As many digits as a figure of speech has."""
    if abs(length_m) < 0.02:
        return rounded(length_m * 1000), "mm"
    if abs(length_m) < 1:
        return rounded(round(length_m * 200) * 5), "mm"
    return rounded(length_m, 1 if length_m >= 20 else 2).rstrip("0").rstrip("."), "m"


def _us(length_m: float) -> tuple[str, str]:
    if length_m >= 30 * FOOT_M:
        return rounded(length_m / FOOT_M), "ft"
    text = format_length(length_m, "us", "gap" if length_m < 0.3 else "station")
    value, _, unit = text.rpartition(" ")
    return value, unit


def _force(pounds: float) -> tuple[str, str]:
    value, _, unit = format_quantity(pounds * POUND_N, "force", "metric").rpartition(" ")
    return value, unit


def _said(match: re.Match[str]) -> Both:
    """One literal in both systems; its own stays to the letter."""
    figures, unit, inches = match.group(1), match.group(2), match.group(3)
    turn: Callable[[float], tuple[str, str]] = _us if unit in _METRIC else _metric
    if unit == "lb":
        turn = _force
    parts = re.split(f"({_APART})", figures)
    values = [_number(p) * _SI.get(unit, 1.0) for p in parts[::2]]
    if inches:
        values[-1] += _number(inches) * INCH_M
    turned = [turn(v) for v in values]
    alike = len({u for _, u in turned}) == 1
    words = [value if alike and k < len(turned) - 1 else f"{value} {u}" for k, (value, u) in enumerate(turned)]
    other = "".join(w + (parts[2 * k + 1] if 2 * k + 1 < len(parts) else "") for k, w in enumerate(words))
    own = match.group(0)
    return Both(other, own) if unit in _METRIC else Both(own, other)


@lru_cache(maxsize=4096)
def in_both(text: str) -> tuple[str, tuple[tuple[str, Both], ...]]:
    """The text with each literal as a placeholder, and the literals in both systems.

    >>> template, values = in_both("leave 2 to 3 in, a boot toe; 5 in all, 2 × 4 in mesh")
    >>> template, values[0][1].metric, len(values)
    ('leave {~0}, a boot toe; 5 in all, 2 × 4 in mesh', '50 to 75 mm', 1)
    >>> in_both("up to 1.2 m of mesh, 330 ft rolls, 250 lb")[1][0][1].us
    '3 ft 11 in'
    """
    found: list[tuple[str, Both]] = []

    def put(match: re.Match[str]) -> str:
        found.append((f"~{len(found)}", _said(match)))
        return f"{{~{len(found) - 1}}}"

    return _LENGTH.sub(put, text), tuple(found)
