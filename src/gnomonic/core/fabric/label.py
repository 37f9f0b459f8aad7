"""What is printed on a roll's label, read into a fabric.

Source: common practice.  Ranges that make a reading sensible are below; a label with two sensible readings is refused.
"""

import re
from dataclasses import dataclass
from typing import Literal

from gnomonic.core.errors import BadInput
from gnomonic.core.units import number, plain_fractions

WIRES = (3, 36)
WOVEN_HEIGHT_IN = (18.0, 120.0)
STAY_IN = (2.0, 24.0)
WIRE_APART_IN = (1.0, 14.0)
LINK_HEIGHT_IN = (24.0, 288.0)
LINK_GAUGE = (5.0, 14.0)
DIAMOND_IN = (0.25, 3.0)
PAIR_GAUGE = (8.0, 20.0)
HELP = "write it like 9-49-6, 1348-12, 12½/14½ or 48-11-2"
_PART = r"(?:\d+ \d+/\d+|\d+/\d+|\d+(?:\.\d+)?)"


def halves(value: float) -> str:
    """A number as the trade prints it.

    >>> halves(12.5), halves(9.0)
    ('12½', '9')
    """
    return f"{int(value)}½" if value % 1 == 0.5 else f"{value:g}"


@dataclass(frozen=True, slots=True)
class RollLabel:
    """One reading of a label; only the fields of its kind are set.  Heights, stays and diamonds in inches."""

    kind: Literal["woven", "chain_link", "gauge_pair"]
    line_wires: int | None = None
    height_in: float | None = None
    stay_in: float | None = None
    gauge: float | None = None
    diamond_in: float | None = None
    outer_gauge: float | None = None
    filler_gauge: float | None = None

    @property
    def words(self) -> str:
        """The label said aloud."""
        if self.kind == "woven":
            return f"woven fabric, {self.line_wires} line wires, {self.height_in:g} in high, a stay every {self.stay_in:g} in"
        if self.kind == "chain_link":
            return f"chain link, {self.height_in:g} in high, {halves(self.gauge or 0)} gauge wire, {self.diamond_in:g} in diamonds"
        return f"top and bottom wires {halves(self.outer_gauge or 0)} gauge, filler wires {halves(self.filler_gauge or 0)} gauge"


def within(value: float, limits: tuple[float, float]) -> bool:
    """Whether a value lies between two limits."""
    return limits[0] <= value <= limits[1]


def _woven(wires: float, height: float, stay: float) -> RollLabel | None:
    if wires != int(wires) or not within(wires, WIRES) or not within(height, WOVEN_HEIGHT_IN):
        return None
    if not within(stay, STAY_IN) or not within(height / (wires - 1), WIRE_APART_IN):
        return None
    return RollLabel("woven", line_wires=int(wires), height_in=height, stay_in=stay)


def _link(height: float, gauge: float, diamond: float) -> RollLabel | None:
    if within(height, LINK_HEIGHT_IN) and within(gauge, LINK_GAUGE) and within(diamond, DIAMOND_IN):
        return RollLabel("chain_link", height_in=height, gauge=gauge, diamond_in=diamond)
    return None


def triples(a: float, b: float, c: float) -> list[RollLabel]:
    """What three numbers can say: line wires – height – stays, or height – gauge – diamond."""
    return [r for r in (_woven(a, b, c), _link(a, b, c)) if r]


def run_together(digits: str, stay: float) -> list[RollLabel]:
    """What line wires and height written as one number can say."""
    splits = [(digits[:k], digits[k:]) for k in range(1, len(digits)) if digits[k] != "0"]
    return [r for a, b in splits if (r := _woven(float(a), float(b), stay))]


def gauge_pair(outer: float, filler: float) -> RollLabel | None:
    """Two gauges, the thicker wire first."""
    if within(outer, PAIR_GAUGE) and within(filler, PAIR_GAUGE) and outer <= filler:
        return RollLabel("gauge_pair", outer_gauge=outer, filler_gauge=filler)
    return None


def read_label(text: str) -> RollLabel:
    """Read a roll label.  Raises BadInput (field ``label``) for nonsense and for what reads two ways.

    >>> read_label("1348-12").words
    'woven fabric, 13 line wires, 48 in high, a stay every 12 in'
    >>> read_label("48-11-2").kind
    'chain_link'
    """
    shown = text.strip()
    body = re.sub(r"[‐‑‒–—―−]", "-", plain_fractions(shown))
    body = re.sub(r"[\"″”']|\b(?:in|inch|inches|ga|gauge)\b\.?", " ", body, flags=re.IGNORECASE)
    body = re.sub(r"\s+", " ", re.sub(r"\s*([-/⁄])\s*", r"\1", body)).strip().replace("⁄", "/")
    readings: list[RollLabel] = []
    if match := re.fullmatch(rf"({_PART})-({_PART})-({_PART})", body):
        readings = triples(*(number(g) for g in match.groups()))
    elif match := re.fullmatch(rf"(\d{{3,5}})-({_PART})", body):
        readings = run_together(match.group(1), number(match.group(2)))
    elif match := re.fullmatch(r"(\d+(?:\.\d+)?(?: 1/2)?)/(\d+(?:\.\d+)?(?: 1/2)?)", body):
        readings = [r] if (r := gauge_pair(*(number(g) for g in match.groups()))) else []
    if not readings:
        raise BadInput("label", f"label “{shown}” is not a roll that is made: {HELP}")
    if len(readings) > 1:
        both = "; or ".join(r.words for r in readings)
        raise BadInput("label", f"label “{shown}” reads two ways: {both}: write it with dashes between all its parts")
    return readings[0]
