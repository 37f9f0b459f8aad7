"""A right-angled plot: pegs, the diagonal to tape, 3-4-5 triangles, and what two measured diagonals say."""

import math
from dataclasses import dataclass

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import Course
from gnomonic.core.units import FOOT_M

NO_CORNER_DEG, SQUARE_DEG = 15.0, 3.0
CORNERS = ("A", "B", "C", "D")


@dataclass(frozen=True, slots=True)
class PegOut:
    """A far peg that is not where it belongs: move it by (``east_m``, ``north_m``), A at the origin and B due east."""

    corner: str
    out_m: float
    east_m: float
    north_m: float


def pegs(a_m: float, b_m: float) -> list[tuple[float, float]]:
    """Corners A, B, C, D of a plot ``a_m`` along A–B and ``b_m`` deep."""
    return [(0.0, 0.0), (a_m, 0.0), (a_m, b_m), (0.0, b_m)]


def three_four_five(a_m: float, b_m: float, unit_m: float) -> list[int]:
    """Whole multiples k of a 3-4-5 triangle (in units of ``unit_m``) whose legs lie within the plot's sides."""
    short, long = sorted((a_m, b_m))
    most = int(min(short / 3, long / 4) / unit_m + 1e-9)
    return list(range(1, most + 1))


def out_of_square(a_m: float, b_m: float, ac_m: float, bd_m: float) -> list[PegOut]:
    """Which far peg is out, from diagonals A–C and B–D, the sides A–B, A–D and B–C being right (derived).

    D lies where circles of b about A and of BD about B meet, C where those of b about B and of AC about A do.
    Raises BadInput where they do not meet.
    """
    true = pegs(a_m, b_m)
    found = []
    for corner, near, far, diagonal in (("C", (a_m, 0.0), (0.0, 0.0), ac_m), ("D", (0.0, 0.0), (a_m, 0.0), bd_m)):
        e, n = _meet(near, b_m, far, diagonal, corner)
        east, north = true[CORNERS.index(corner)]
        out = math.hypot(east - e, north - n)
        if out > 5e-4:
            found.append(PegOut(corner, out, east - e, north - n))
    return found


@dataclass(frozen=True, slots=True)
class Plot:
    """A rectangular line: its sides (m) as meant, both diagonals as measured, and the largest 3-4-5 that fits, in feet and in
    metres (0: none).
    """

    a_m: float
    b_m: float
    diagonals_m: tuple[float, float]
    feet: int
    metres: int

    @property
    def diagonal_m(self) -> float:
        """What both diagonals ought to tape."""
        return math.hypot(self.a_m, self.b_m)


def plot_of(course: Course) -> Plot | None:
    """The rectangle a closed line is: four corners of about 90°, opposite sides alike within a fiftieth; else None."""
    turns = course.turns_deg()[:-1].tolist()
    corners = [k for k, turn in enumerate(turns) if abs(turn) > NO_CORNER_DEG]
    if not course.closed or len(corners) != 4 or len({turns[k] > 0 for k in corners}) != 1:
        return None
    if any(abs(abs(turns[k]) - 90) > SQUARE_DEG for k in corners):
        return None
    at = [(float(course.east_m[k]), float(course.north_m[k])) for k in corners]
    sides = [math.dist(at[k], at[(k + 1) % 4]) for k in range(4)]
    a, b = (sides[0] + sides[2]) / 2, (sides[1] + sides[3]) / 2
    if abs(sides[0] - sides[2]) > a / 50 or abs(sides[1] - sides[3]) > b / 50:
        return None
    feet, metres = (max(three_four_five(a, b, unit), default=0) for unit in (FOOT_M, 1.0))
    return Plot(a, b, (math.dist(at[0], at[2]), math.dist(at[1], at[3])), feet, metres)


def _meet(near: tuple[float, float], b_m: float, far: tuple[float, float], diagonal_m: float, corner: str) -> tuple[float, float]:  # fmt: skip
    try:
        return two_distances(near, b_m, far, diagonal_m, left=near[0] < far[0])
    except BadInput as error:
        which = 0 if corner == "C" else 1
        raise BadInput(f"diagonal_m[{which}]", f"diagonal_m[{which}] cannot be: {error.sentence}") from None


def two_distances(
    first: tuple[float, float], first_m: float, second: tuple[float, float], second_m: float, left: bool
) -> tuple[float, float]:
    """The point at two taped distances from two known points, to the left or right of the line from first to second.

    Source: any surveying text (linear intersection).  Raises BadInput where no triangle closes.

    >>> two_distances((0, 0), 3, (5, 0), 4, True)
    (1.8, 2.4)
    """
    dx, dy = second[0] - first[0], second[1] - first[1]
    base = math.hypot(dx, dy)
    if base < 1e-6:
        raise BadInput("", "the two known points are the same place")
    longest = max(base, first_m, second_m)
    short = 2 * longest - base - first_m - second_m
    if short > 1e-9:
        raise BadInput(
            "",
            f"sides of {base:.2f} m, {first_m:.2f} m and {second_m:.2f} m close no triangle: the two shorter are "
            f"{short:.2f} m short of the longest",
        )
    along = (base**2 + first_m**2 - second_m**2) / (2 * base)
    off = math.sqrt(max(0.0, first_m**2 - along**2)) * (1 if left else -1)
    ux, uy = dx / base, dy / base
    return first[0] + ux * along - uy * off, first[1] + uy * along + ux * off
