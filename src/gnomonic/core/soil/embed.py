"""Posts in soil: how deep, how much they hold sideways, how far they lean.

Two methods: the building code's non-constrained pole (conservative, allowable) and Broms' short free-headed pile (ultimate,
used with a factor).  Rigid posts; heights ``e_m`` of the force are above the ground.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from gnomonic.core.record import row

Family = Literal["sand", "clay"]
IBC_DEEPEST_FT = 12.0  # pressure stops growing there
DEEPEST_M = 100.0


def root(low: float, high: float, rising_through: Callable[[float], float]) -> float:
    """Where a rising function crosses zero between two values, by halving."""
    for _ in range(100):
        middle = (low + high) / 2
        if middle in (low, high):
            break
        low, high = (middle, high) if rising_through(middle) < 0 else (low, middle)
    return (low + high) / 2


def ibc_depth_ft(p_lb: float, h_ft: float, b_ft: float, s_psf_per_ft: float) -> float:
    """Embedment of a post that is free at the ground: d = 0.5·A·(1 + √(1 + 4.36·h/A)), A = 2.34·P/(S1·b).

    ``S1`` is the lateral bearing at a third of the depth, which stops growing at 12 ft.  The right side falls as d grows, so
    there is one root.  Source: International Building Code §1807.3.2.1.

    >>> round(ibc_depth_ft(300, 4, 0.5, 150), 2), round(ibc_depth_ft(500, 4, 8 / 12, 200), 2), ibc_depth_ft(0, 4, 1, 100)
    (6.79, 6.61, 0.0)
    """
    if p_lb == 0:
        return 0.0

    def short_of(d: float) -> float:
        a = 2.34 * p_lb / (s_psf_per_ft * min(d, IBC_DEEPEST_FT) / 3 * b_ft)
        return d - 0.5 * a * (1 + math.sqrt(1 + 4.36 * h_ft / a))

    high = 1.0
    while short_of(high) < 0:
        high *= 2
    return root(1e-9, high, short_of)


def ibc_holds_n(depth_m: float, e_m: float, b_m: float, s_pa_per_m: float) -> float:
    """The force the same clause allows at a depth: solved for P.  Any one system of units; here SI.

    With x = 2.34·P/(S1·b): 2d/x − 1 = √(1 + 4.36·h/x) gives x = d²/(d + 1.09·h).  Derived from
    International Building Code §1807.3.2.1.

    >>> round(ibc_holds_n(6.79 * 0.3048, 4 * 0.3048, 0.5 * 0.3048, 150 * 157.0875) / 4.4482)
    300
    """
    s1 = s_pa_per_m * min(depth_m, IBC_DEEPEST_FT * 0.3048) / 3
    return depth_m**2 / (depth_m + 1.09 * e_m) * s1 * b_m / 2.34


def broms_sand_n(gamma_n_m3: float, kp: float, b_m: float, depth_m: float, e_m: float) -> float:
    """Ultimate lateral force on a short free-headed post in sand: 0.5·γ·b·L³·Kp/(e + L).  Source: Broms (1964).

    >>> broms_sand_n(17300, 3, 0.15, 1.0, 0.0), broms_sand_n(17300, 3, 0.15, 1.0, 1.0)
    (3892.5, 1946.25)
    """
    return 0.5 * gamma_n_m3 * b_m * depth_m**3 * kp / (e_m + depth_m) if depth_m > 0 else 0.0


@dataclass(frozen=True, slots=True)
class InClay:
    """Ultimate force on a short free-headed post in clay, and where its greatest moment lies."""

    hu_n: float
    f_m: float
    g_m: float
    max_moment_nm: float


def broms_clay(cu_pa: float, b_m: float, depth_m: float, e_m: float) -> InClay:
    """L = 1.5·b + f + g, f = Hu/(9·cu·b), Hu·(e + 1.5·b + 0.5·f) = 2.25·cu·b·g²; nothing where L ≤ 1.5·b.

    Source: Broms (1964).

    >>> round(broms_clay(50e3, 0.15, 1.0, 0.0).hu_n), round(broms_clay(50e3, 0.15, 1.0, 1.0).hu_n)
    (15158, 6197)
    """
    free = depth_m - 1.5 * b_m
    if free <= 0:
        return InClay(0.0, 0.0, 0.0, 0.0)

    def over(hu: float) -> float:
        f = hu / (9 * cu_pa * b_m)
        return hu * (e_m + 1.5 * b_m + 0.5 * f) - 2.25 * cu_pa * b_m * (free - f) ** 2

    hu = root(0.0, 9 * cu_pa * b_m * free, over)
    f = hu / (9 * cu_pa * b_m)
    return InClay(hu, f, free - f, hu * (e_m + 1.5 * b_m + 0.5 * f))


def broms_sand_moment_nm(pull_n: float, gamma_n_m3: float, kp: float, b_m: float, e_m: float) -> float:
    """Greatest bending moment below ground in sand: H·(e + 2f/3), f = √(H/(1.5·γ·b·Kp)) where the shear is none.

    Source: Broms (1964).

    >>> round(broms_sand_moment_nm(1000, 17300, 3, 0.15, 0.0), 1)
    195.1
    """
    f = math.sqrt(abs(pull_n) / (1.5 * gamma_n_m3 * b_m * kp))
    return abs(pull_n) * (e_m + 2 * f / 3)


@row
class Ground:
    """What a soil holds with, by its family: sand ``gamma_n_m3`` and ``kp``, clay ``cu_pa``."""

    family: Family
    gamma_n_m3: float = 0.0
    kp: float = 0.0
    cu_pa: float = 0.0

    def ultimate_n(self, b_m: float, depth_m: float, e_m: float) -> float:
        """Broms' ultimate force."""
        if self.family == "sand":
            return broms_sand_n(self.gamma_n_m3, self.kp, b_m, depth_m, e_m)
        return broms_clay(self.cu_pa, b_m, depth_m, e_m).hu_n

    def moment_nm(self, pull_n: float, b_m: float, e_m: float) -> float:
        """Greatest moment in a post below ground under a force: sand as above, clay H·(e + 1.5·b + 0.5·f)."""
        if self.family == "sand":
            return broms_sand_moment_nm(pull_n, self.gamma_n_m3, self.kp, b_m, e_m)
        return abs(pull_n) * (e_m + 1.5 * b_m + 0.5 * abs(pull_n) / (9 * self.cu_pa * b_m))

    def depth_for_m(self, need_n: float, b_m: float, e_m: float) -> float | None:
        """The depth at which so much is held; none where none to a hundred metres does."""
        if self.ultimate_n(b_m, DEEPEST_M, e_m) < need_n:
            return None
        return root(0.0, DEEPEST_M, lambda d: self.ultimate_n(b_m, d, e_m) - need_n)

    def width_for_m(self, need_n: float, depth_m: float, e_m: float) -> float | None:
        """The least width that holds so much at a depth; none where no width does (in clay the upper 1.5 widths hold nothing)."""
        if self.family == "sand":
            one = self.ultimate_n(1.0, depth_m, e_m)
            return need_n / one if one > 0 else None
        low, high = 0.0, depth_m / 1.5  # holds most somewhere between: more width, less depth that counts
        for _ in range(100):
            a, b = low + (high - low) / 3, high - (high - low) / 3
            low, high = (a, high) if self.ultimate_n(a, depth_m, e_m) < self.ultimate_n(b, depth_m, e_m) else (low, b)
        if self.ultimate_n(high, depth_m, e_m) < need_n:
            return None
        return root(0.0, high, lambda b: self.ultimate_n(b, depth_m, e_m) - need_n)


@dataclass(frozen=True, slots=True)
class Lean:
    """How far a rigid post moves: at the ground, its turn (rad), and the depth of the point that stays."""

    ground_m: float
    rotation_rad: float

    @property
    def turns_about_m(self) -> float:
        """Depth of the still point; none to speak of without a turn."""
        return self.ground_m / self.rotation_rad if self.rotation_rad else 0.0

    def at_m(self, height_m: float) -> float:
        """Movement at a height above the ground."""
        return self.ground_m + self.rotation_rad * height_m


def lean_clay(pull_n: float, e_m: float, depth_m: float, k_pa: float) -> Lean:
    """Soil springs alike at every depth, ``k_pa`` (N/m² of depth): y0 = 4H(1 + 1.5·e/L)/(kL), turn 6H(L + 2e)/(kL³).

    Derived from the balance of forces and of moments; the same as Broms (1964) for short free-headed piles.

    >>> round(lean_clay(3000, 0.6, 0.9, 3.35e6).ground_m * 1000, 2)
    7.96
    """
    return Lean(
        4 * pull_n * (1 + 1.5 * e_m / depth_m) / (k_pa * depth_m),
        6 * pull_n * (depth_m + 2 * e_m) / (k_pa * depth_m**3),
    )


def lean_sand(pull_n: float, e_m: float, depth_m: float, nh_n_m3: float) -> Lean:
    """Soil springs that grow with depth, nh·z: y0 = 18H(1 + 4/3·e/L)/(nh·L²), turn 24H(L + 1.5·e)/(nh·L⁴).

    >>> round(lean_sand(3000, 0.6, 0.9, 5e6).ground_m * 1000, 1)
    25.2
    """
    return Lean(
        18 * pull_n * (1 + 4 / 3 * e_m / depth_m) / (nh_n_m3 * depth_m**2),
        24 * pull_n * (depth_m + 1.5 * e_m) / (nh_n_m3 * depth_m**4),
    )


def pull_out_n(perimeter_m: float, depth_m: float, friction_pa: float) -> float:
    """What a post's sides hold against being drawn up: perimeter · depth · skin friction.  Source: common practice."""
    return perimeter_m * depth_m * friction_pa
