"""A gate's opening: from the leaf to the clear distance between post faces, to post centres, to the tape on a slope.

Source: geometry; a 16 ft leaf hangs in 16 ft 3 in clear (common practice).
"""

import math
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Opening:
    """``clear_m`` level between post faces, ``centres_m`` level between post centres, ``on_slope_m`` the same along the ground."""

    clear_m: float
    centres_m: float
    on_slope_m: float


def taken_m(leaves: int, hinge_gap_m: float, latch_gap_m: float) -> float:
    """What hinges and latch take of a clear opening: two leaves have hinges at both posts and the latch between them."""
    return leaves * hinge_gap_m + latch_gap_m


def opening(
    leaf_m: float,
    leaves: int,
    gaps_m: tuple[float, float],
    posts_m: tuple[float, float],
    grade: float = 0.0,
) -> Opening:
    """The opening of ``leaves`` leaves of ``leaf_m`` each, hung level.

    ``gaps_m`` at a hinge and at the latch, ``posts_m`` the widths of both posts along the fence, ``grade`` the ground's
    rise over level run.

    >>> from gnomonic.core.units import FOOT_M, INCH_M
    >>> found = opening(16 * FOOT_M, 1, (2 * INCH_M, 1 * INCH_M), (7 * INCH_M, 7 * INCH_M))
    >>> round(found.clear_m / INCH_M, 6), round(found.centres_m / INCH_M, 6)
    (195.0, 202.0)
    """
    clear = leaves * leaf_m + taken_m(leaves, *gaps_m)
    centres = clear + sum(posts_m) / 2
    return Opening(clear, centres, centres * math.hypot(1.0, grade))


def leaf_that_fits_m(centres_m: float, leaves: int, gaps_m: tuple[float, float], posts_m: tuple[float, float]) -> float:
    """The leaf (both leaves together, where there are two) that fits between post centres; not above 0 where none does."""
    return centres_m - sum(posts_m) / 2 - taken_m(leaves, *gaps_m)
