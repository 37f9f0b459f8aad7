"""A right-angled plot: pegs, the diagonal to tape, 3-4-5 triangles, and what two measured diagonals say."""

import math
from dataclasses import dataclass

from gnomonic.core.errors import BadInput

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
