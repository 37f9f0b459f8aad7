"""What pulls on one post: fabric that changes grade or direction there, and runs that end on it."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

NOTHING_N = 1e-6  # forces this small have cancelled


@dataclass(frozen=True, slots=True)
class Lift:
    """What fabric does to a post it passes: up (negative: it presses down), along the line, and both together (N)."""

    lift_n: float
    along_n: float
    total_n: float


def lift(pull_n: float, m1: float, m2: float) -> Lift:
    """Fabric under a pull arrives at a slope ``m1`` and leaves at ``m2`` (rise over level run): T·(sin θ2 − sin θ1) up.

    Source: balance of two equal tensions, common practice.

    >>> round(lift(4000, -0.10, 0.12).lift_n, 1)
    874.6
    """
    a, b = math.atan(m1), math.atan(m2)
    up, along = pull_n * (math.sin(b) - math.sin(a)), pull_n * (math.cos(b) - math.cos(a))
    return Lift(up, along, math.hypot(up, along))


def side_n(pull_n: float, turn_deg: float) -> float:
    """Level force on a post that fabric is carried round by an angle: 2·T·sin(θ/2), toward the inside of the bend.

    >>> round(side_n(4000, 60), 6)
    4000.0
    """
    return 2 * pull_n * math.sin(math.radians(abs(turn_deg)) / 2)


def together(forces: Sequence[tuple[float, float]]) -> tuple[float, float | None]:
    """Resultant of level forces (N, bearing in degrees clockwise from north) and its bearing; none where they cancel.

    >>> round(together([(3000, 0), (4000, 90)])[0], 6), together([(1, 0), (1, 180)])[1]
    (5000.0, None)
    """
    east = sum(f * math.sin(math.radians(b)) for f, b in forces)
    north = sum(f * math.cos(math.radians(b)) for f, b in forces)
    total = math.hypot(east, north)
    if total <= NOTHING_N + 1e-12 * sum(abs(f) for f, _ in forces):
        return 0.0, None
    return total, math.degrees(math.atan2(east, north)) % 360


@dataclass(frozen=True, slots=True)
class Ends:
    """One run that ends on a post: its pull and the way it runs, what it leaves at the post's foot and lifts it by."""

    pull_n: float
    bearing_deg: float
    foot_shear_n: float
    uplift_n: float


@dataclass(frozen=True, slots=True)
class Corner:
    """All runs on one post; ``worst`` is the run that by itself, the others not yet pulled, asks most of its foot."""

    resultant_n: float
    bearing_deg: float | None
    foot_shear_n: float
    foot_bearing_deg: float | None
    uplift_n: float
    worst: int


def corner(runs: Sequence[Ends]) -> Corner:
    """Forces add as vectors, uplifts as numbers (a safe rule)."""
    pull, bearing = together([(r.pull_n, r.bearing_deg) for r in runs])
    foot, foot_bearing = together([(r.foot_shear_n, r.bearing_deg) for r in runs])
    worst = max(range(len(runs)), key=lambda k: (abs(runs[k].foot_shear_n), runs[k].uplift_n))
    return Corner(pull, bearing, foot, foot_bearing, sum(r.uplift_n for r in runs), worst)
