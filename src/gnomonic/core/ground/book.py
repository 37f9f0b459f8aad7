"""The field book: what was measured, a line a measurement, as it was written in the field.

A leg is a bearing, a distance and a rise; words begin every other kind of line:

    declination 3°30' W            the bearings that follow are magnetic
    pace 2' 7"                     how long one pace is
    N 4 30 E   96' 6"   +1' 2"     bearing, level distance, rise
    N 4 30 E   slope 96' 6" at 6°  slope distance with a clinometer's angle, or at 11 %, or rise 2 ft
    S 86 E     40 paces
    square right 148 ft            a square corner, turned right from the leg before (or turn right 35 …)
    peg P  N 80 E  30 m            a peg beside the line; the line goes on from the point before it
    base 1 P                       offsets that follow are measured along the line from point 1 to peg P
    at 12 m left 3.2 m             a point of the line beside the base line
    triangle 1 P 12.3 m 15.2 m left   a point at two taped distances from two known points
    string 1.20 m: 4 m 1.35 m, 8 m 1.10 m   down from a level string over the last leg, at distances along it
    staff back 1.52 m on 1         level and staff: back, inter and fore sights on points
    close                          the line ends where it began

``@ name`` at a line's end names the point, ``#`` begins a comment.  Angles in degrees, lengths with their units.
"""  # fmt: skip

import math
import re

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.bearing import angle_deg, bearing_deg, declination_deg
from gnomonic.core.ground.book_page import Lengths, Page, Spot
from gnomonic.core.ground.levels import Sight, level_page
from gnomonic.core.ground.measuring import directions, methods
from gnomonic.core.ground.square import two_distances

_UNWRITTEN = re.compile(r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f]")
_PACES = re.compile(r"(\d+(?:\.\d+)?)\s*paces?\b[,;]?\s*(.*)$", re.IGNORECASE)
_SIDE = re.compile(r"at\s+(.+?)\s+(left|right)\s+(\S.*)$|at\s+(.+?)\s+on()()$", re.IGNORECASE)
_TURN = re.compile(
    r"(?:square\s+(left|right)|turn\s+(left|right)\s+(\d+(?:\.\d+)?(?:\s*°)?(?:\s*\d+['′])?))[,;]?\s+(\S.*)$", re.I
)
_TRIANGLE = re.compile(r"triangle\s+(\S+)\s+(\S+)\s+(\S.*?)\s+(left|right)\b\s*(.*)$", re.IGNORECASE)
_STAFF = re.compile(r"staff\s+(back|inter|fore)\s+(\S.*?)\s+on\s+(\S+)$", re.IGNORECASE)


class _Reader:
    """Reads a book line by line; the state is what the lines so far have said."""

    def __init__(self, unit: str | None) -> None:
        self.lengths = Lengths(unit)
        self.page = Page([Spot(0.0, 0.0, 0.0, "start", "start", rise_known=True)])
        self.pace_m: float | None = None
        self.base: tuple[Spot, Spot] | None = None
        self.sights: list[tuple[Sight, float, Spot]] = []
        self.line_no = 0

    # what a line may begin with → what reads it
    def line(self, text: str) -> None:
        """Read one line, comment and name taken off."""
        text, _, name = (part.strip() for part in text.partition("@"))
        if not text:
            raise BadInput("", f"“@ {name}” names nothing: write the name at the end of its leg")
        word = text.split(maxsplit=1)[0].lower()
        rest = text[len(word) :].strip()
        known = {
            "declination": self._declination, "pace": self._pace, "base": self._base, "string": self._string,
            "close": self._close,
        }  # fmt: skip
        if word in known:
            known[word](rest)
        elif word == "staff":
            self._staff(text)
        elif word == "peg":
            self._peg(rest)
        else:
            self._add(self._spot(word, text), name)

    def _spot(self, word: str, text: str) -> Spot:
        here = self.page.spots[-1]
        if word == "at":
            return self._offset(text)
        if word == "triangle":
            return self._triangle(text)
        if word in ("square", "turn"):
            return self._turned(text, here)
        return self._leg(text, here)

    def _add(self, spot: Spot, name: str) -> None:
        here = self.page.spots[-1]
        if math.hypot(spot.e_m - here.e_m, spot.n_m - here.n_m) < 1e-6:
            raise BadInput("", "a leg must be longer than nothing")
        spot.name, spot.line_no = name[:120], self.line_no
        self.page.spots.append(spot)

    def _declination(self, rest: str) -> None:
        self.page.declination_deg = declination_deg(rest)

    def _pace(self, rest: str) -> None:
        self.pace_m = self.lengths.metres(rest)
        if not 0.3 <= self.pace_m <= 2.5:
            raise BadInput("", f"a pace of {self.pace_m:.2f} m is nobody's: one pace is 0.3 to 2.5 m")

    def _close(self, rest: str) -> None:
        self.page.comes_back = True

    def _bearing(self, text: str) -> tuple[float, str]:
        angle, rest = bearing_deg(text)
        return (angle + (self.page.declination_deg or 0.0)) % 360, rest

    def _leg(self, text: str, here: Spot) -> Spot:
        angle, rest = self._bearing(text)
        if not rest.strip():
            raise BadInput("", f"“{text.strip()}” has a bearing but no distance")
        return self._go(here, angle, rest, "circle" if self.page.declination_deg is None else "compass")

    def _turned(self, text: str, here: Spot) -> Spot:
        match = _TURN.match(text)
        if not match or len(self.page.spots) < 2:
            raise BadInput("", "a turn follows a leg and reads: square right 80 ft, or turn left 35 80 ft")
        square, way, turn, rest = match.groups()
        before = self.page.spots[-2]
        angle = 90.0 if square else angle_deg(turn)
        if angle >= 180:
            raise BadInput("", f"a turn of {angle:g}° is not one: less than 180 to the left or the right")
        heading = math.degrees(math.atan2(here.e_m - before.e_m, here.n_m - before.n_m))
        angle = heading + (angle if (square or way).lower() == "right" else -angle)
        return self._go(here, angle, rest, "square" if square else "circle")

    def _go(self, here: Spot, angle: float, rest: str, sighted: str) -> Spot:
        """A leg from a spot: level distance, slope distance or paces, with its rise."""
        if match := _PACES.match(rest):
            if self.pace_m is None:
                raise BadInput("", "paces are counted but no pace is given: write one above, as in pace 2' 7\"")
            count, tail = match.groups()
            distance, rise, how = float(count) * self.pace_m, self.lengths.rise(tail), "pace"
        elif rest.lower().startswith("slope"):
            (distance, rise), how = self.lengths.sloped(rest), "slope"
        else:
            distance, rise = self.lengths.with_rise(rest)
            how = "tape"
        if distance <= 0:
            raise BadInput("", "a leg must be longer than nothing")
        along, across = methods()[how].along_m(distance), directions()[sighted].across_m(distance)
        east, north = math.sin(math.radians(angle)), math.cos(math.radians(angle))
        return Spot(
            here.e_m + distance * east,
            here.n_m + distance * north,
            here.h_m + (rise or 0.0),
            how=how,
            good_m=math.hypot(along, across),
            rise_known=rise is not None,
        )

    def _peg(self, rest: str) -> None:
        name, _, leg = rest.partition(" ")
        if not leg.strip() or name.isdigit():
            raise BadInput("", "a peg has a name and a leg from the point before it: peg P N 80 E 30 m")
        here = self.page.spots[-1]
        word = leg.strip().split(maxsplit=1)[0].lower()
        self.page.pegs[name] = self._spot(word, leg.strip())
        self.page.pegs[name].name = name
        if math.dist((here.e_m, here.n_m), (self.page.pegs[name].e_m, self.page.pegs[name].n_m)) < 1e-6:
            raise BadInput("", "a leg must be longer than nothing")

    def _base(self, rest: str) -> None:
        names = rest.split()
        if len(names) != 2:
            raise BadInput("", "a base line runs between two known points: base 1 P")
        first, second = (self.page.known(n) for n in names)
        if math.dist((first.e_m, first.n_m), (second.e_m, second.n_m)) < 1e-6:
            raise BadInput("", "the base line's two points are the same place")
        self.base = (first, second)

    def _offset(self, text: str) -> Spot:
        if self.base is None:
            raise BadInput("", "an offset needs a base line above it: base 1 P")
        match = _SIDE.match(text)
        if not match:
            raise BadInput("", "an offset reads: at 12 m left 3.2 m, at 12 m right 3.2 m, or at 12 m on")
        along = self.lengths.metres(match.group(1) or match.group(4))
        beside, rise = self.lengths.with_rise(match.group(3) or "0 m")
        off = beside * (1 if (match.group(2) or "right").lower() == "right" else -1)
        a, b = self.base
        size = math.dist((a.e_m, a.n_m), (b.e_m, b.n_m))
        ue, un = (b.e_m - a.e_m) / size, (b.n_m - a.n_m) / size
        height = a.h_m + (b.h_m - a.h_m) * along / size
        good = methods()["offset"].along_m(abs(off))
        return Spot(
            a.e_m + ue * along + un * off,
            a.n_m + un * along - ue * off,
            height + (rise or 0.0),
            how="offset",
            good_m=math.hypot(good, methods()["tape"].along_m(abs(along))),
            rise_known=rise is not None,
        )

    def _triangle(self, text: str) -> Spot:
        match = _TRIANGLE.match(text)
        if not match:
            raise BadInput("", "a triangle reads: triangle 1 P 12.3 m 15.2 m left, from two known points")
        first, second = self.page.known(match.group(1)), self.page.known(match.group(2))
        one, two = self.lengths.two(match.group(3))
        rise = self.lengths.rise(match.group(5))
        left = match.group(4).lower() == "left"
        e, n = two_distances((first.e_m, first.n_m), one, (second.e_m, second.n_m), two, left)
        good = math.hypot(methods()["triangle"].along_m(one), methods()["triangle"].along_m(two))
        return Spot(e, n, first.h_m + (rise or 0.0), how="triangle", good_m=good, rise_known=rise is not None)

    def _string(self, rest: str) -> None:
        """Ground heights along the last leg, measured down from a level string."""
        if len(self.page.spots) < 2:
            raise BadInput("", "a string is stretched over a leg: write the leg first")
        start_text, colon, pairs = rest.partition(":")
        if not colon or not pairs.strip():
            raise BadInput("", "a string reads: string 1.20 m: 4 m 1.35 m, 8 m 1.10 m")
        a, b = self.page.spots[-2], self.page.spots[-1]
        level = a.h_m + self.lengths.metres(start_text)
        size = math.dist((a.e_m, a.n_m), (b.e_m, b.n_m))
        made: list[Spot] = []
        for pair in pairs.split(","):
            along, down = self.lengths.two(pair.strip())
            if along > size + 0.05 or along <= (made[-1].good_m if made else 0.0):
                raise BadInput(
                    "", f"{along:.2f} m along the string: distances rise from its start and end at {size:.2f} m"
                )
            share = min(1.0, along / size)
            if share > 1 - 0.05 / size:
                b.h_m, b.rise_known = level - down, True
                continue
            spot = Spot(
                a.e_m + (b.e_m - a.e_m) * share,
                a.n_m + (b.n_m - a.n_m) * share,
                level - down,
                how="string",
                good_m=along,  # the distance along, until the string is done
                line_no=self.line_no,
                rise_known=True,
            )
            made.append(spot)
        for spot in made:
            spot.good_m = methods()["string"].along_m(size)
        self.page.spots[-1:] = [*made, b]

    def _staff(self, text: str) -> None:
        match = _STAFF.match(text)
        if not match:
            raise BadInput(
                "", "a staff reading says what and where: staff back 1.52 m on 1, staff inter …, staff fore …"
            )
        sight: Sight = match.group(1).lower()  # type: ignore[assignment]
        self.sights.append((sight, self.lengths.metres(match.group(2)), self.page.known(match.group(3))))

    def staffed(self) -> None:
        """Reduce the staff readings and give their points the heights found."""
        if not self.sights:
            return
        rows: list[dict[Sight, float]] = []
        places: list[Spot] = []
        for sight, value, spot in self.sights:
            if sight == "back" and rows and "fore" in rows[-1] and places[-1] is spot:
                rows[-1]["back"] = value
                continue
            rows.append({sight: value})
            places.append(spot)
        try:
            page = level_page(places[0].h_m, rows)
        except BadInput as error:
            raise BadInput("", "the staff readings do not make a page: " + error.sentence.split(": ", 1)[-1]) from None
        found = {id(spot): row.rl_m for spot, row in zip(places, page.rows, strict=True)}
        lift = 0.0
        for spot in [*self.page.spots, *self.page.pegs.values()]:
            if id(spot) in found:
                lift, spot.rise_known = found[id(spot)] - spot.h_m, True
            spot.h_m += lift  # what was booked from a staffed point goes with it
        self.page.levels = page


def read_book(text: str, unit: str | None = None) -> Page:
    """Read a field book; ``unit`` is what numbers without one are in (``page.bare`` says whether there are any).

    Raises BadInput (``legs[k]``, k counting the points booked so far) with the line's number.
    """
    reader = _Reader(unit)
    if strange := _UNWRITTEN.search(text):
        raise BadInput(
            "legs", f"the book holds a character that can't be written (number {ord(strange.group())}): take it out"
        )
    for number, whole in enumerate(text.splitlines(), 1):
        line = whole.split("#")[0].rstrip()
        if not line.strip():
            continue
        reader.line_no = number
        try:
            reader.line(line.strip())
        except BadInput as error:
            raise BadInput(f"legs[{len(reader.page.spots) - 1}]", f"line {number}: {error.sentence}") from None
    if len(reader.page.spots) < 2:
        raise BadInput("legs", "no legs were typed: write one a line, as in N 4 30 E  96' 6\"  +1' 2\"")
    reader.staffed()
    reader.page.bare, reader.page.unit = reader.lengths.bare, reader.lengths.mostly()
    return reader.page
