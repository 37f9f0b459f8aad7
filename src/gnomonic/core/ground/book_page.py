"""What a field book is made of: spots, the page they make, and lengths as they are written on it."""

import math
import re
from dataclasses import dataclass, field
from typing import Literal

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.bearing import angle_deg
from gnomonic.core.ground.levels import Levels
from gnomonic.core.units import parse_length_m

_APART = re.compile(r"(?:\s{2,}|\t|[,;]|\s(?=[-+−]))\s*")
_SLOPE = re.compile(r"slope\s+(.+?)\s+(?:at\s+(?P<at>\S.*)|(?:rise|fall)\s+(?P<rise>\S.*))$", re.IGNORECASE)
_BARE = re.compile(r"[-+−]?\s*\d+(?:\.\d+)?$|[-+−]?\s*\.\d+$")
_METRIC = re.compile(r"\d\s*(?:mm|cm|km|m|met(?:re|er)s?)\b", re.IGNORECASE)
STEEPEST_DEG = 80.0


@dataclass(slots=True)
class Spot:
    """A point as booked (m): ``good_m`` is how well the leg to it is known, along and across together."""

    e_m: float
    n_m: float
    h_m: float
    name: str = ""
    how: str = "tape"
    good_m: float = 0.0
    line_no: int = 0
    rise_known: bool = False


@dataclass(slots=True)
class Page:
    """A field book read: the points of the line in order, the pegs beside it, and what is to be said of it."""

    spots: list[Spot]
    pegs: dict[str, Spot] = field(default_factory=dict)
    comes_back: bool = False
    bare: bool = False
    declination_deg: float | None = None
    levels: Levels | None = None
    notes: list[str] = field(default_factory=list)
    unit: Literal["", "m", "ft"] = ""

    def known(self, name: str) -> Spot:
        """A point by its number (1 is the start), its name, or a peg's name.  Raises BadInput."""
        if name in self.pegs:
            return self.pegs[name]
        if name.isdigit() and 1 <= int(name) <= len(self.spots):
            return self.spots[int(name) - 1]
        for spot in self.spots:
            if spot.name and spot.name.lower() == name.lower():
                return spot
        raise BadInput("", f"there is no point “{name}” above this line: name one with @, or number them from 1")


@dataclass(slots=True)
class Lengths:
    """Reads lengths as written; ``unit`` is what bare numbers are in, ``bare`` whether there were any, ``metric`` and
    ``feet`` how many were written in either system."""

    unit: str | None
    bare: bool = False
    metric: int = 0
    feet: int = 0

    def metres(self, text: str) -> float:
        """One length in metres.  Raises BadInput."""
        bare = _BARE.match(text.strip()) is not None
        self.bare |= bare
        value = parse_length_m(text, self.unit or "m")
        if self.unit == "m" if bare else _METRIC.search(text):
            self.metric += 1
        elif not bare or self.unit == "ft":
            self.feet += 1
        return value

    def mostly(self) -> Literal["", "m", "ft"]:
        """What most of the lengths were in."""
        return "" if self.metric == self.feet else "m" if self.metric > self.feet else "ft"

    def with_rise(self, text: str) -> tuple[float, float | None]:
        """A length and the rise written after it, None where none is.  Raises BadInput."""
        parts = [p for p in _APART.split(text.strip(), maxsplit=1) if p.strip()]
        if not parts:
            raise BadInput("", f"“{text.strip()}” is not a length: write it like 16' 3\", 10 ft or 2.4 m")
        return self.metres(parts[0]), self.rise(parts[1] if len(parts) > 1 else "")

    def rise(self, text: str) -> float | None:
        """A rise, None where none is written."""
        return self.metres(text) if text.strip() else None

    def sloped(self, rest: str) -> tuple[float, float]:
        """Level distance and rise of a slope distance with its angle, grade or rise.  Raises BadInput."""
        match = _SLOPE.match(rest)
        if not match:
            raise BadInput("", "a slope distance needs its angle: slope 96' 6\" at 6°, at 11 %, or rise 2 ft")
        slope = self.metres(match.group(1))
        if match["rise"]:
            rise = self.metres(match["rise"]) * (-1 if re.search(r"\sfall\s", rest, re.I) else 1)
        else:
            at = match["at"].strip().replace("−", "-")
            sign = -1.0 if at.startswith("-") else 1.0
            at = at.lstrip("+-").strip()
            steep = math.atan(float(_number(at[:-1])) / 100) if at.endswith("%") else math.radians(angle_deg(at))
            if steep > math.radians(STEEPEST_DEG):
                raise BadInput("", f"a slope of {math.degrees(steep):.0f}° is a wall, not a fence line")
            rise = sign * slope * math.sin(steep)
        if abs(rise) >= slope:
            raise BadInput("", f"a rise of {abs(rise):.2f} m is more than the slope distance of {slope:.2f} m")
        return math.sqrt(slope**2 - rise**2), rise

    def two(self, text: str) -> tuple[float, float]:
        """Two lengths one after the other: the only place to part them where both are lengths."""
        words, found = text.replace(",", " ").split(), []
        for k in range(1, len(words)):
            try:
                found.append((self.metres(" ".join(words[:k])), self.metres(" ".join(words[k:]))))
            except BadInput:
                continue
        if not found:
            raise BadInput("", f"“{text}” is not two distances: write them one after the other, as in 12.3 m 15.2 m")
        return found[0]


def _number(text: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise BadInput("", f"“{text.strip()}” is not a number") from None
