"""Walking a line with a receiver: which fixes count, what a stop averages to, what is kept of the walk."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np

from gnomonic.core.ground.measuring import rule, rules

Verdict = Literal["good", "jump", "nofix"]
QUALITY = {
    0: "no fix",
    1: "single",
    2: "differential",
    3: "precise service",
    4: "fixed",
    5: "float",
    6: "dead reckoning",
    8: "simulated",
}
NEAR_M = 1.0
AGREED = 30
OUTLIERS = 4.0
EARTH_M = 6_371_000.0


def usual_good_m(quality: int) -> float:
    """Standard uncertainty (m) of a fix of this quality that does not say its own; that of a single fix if unknown."""
    return rule(f"fix_{quality}_m" if f"fix_{quality}_m" in rules() else "fix_1_m")


@dataclass(frozen=True, slots=True)
class Fix:
    """One position: seconds of the day, degrees, height (m), quality as NMEA's GGA has it, standard uncertainty (m)."""

    t_s: float
    lon_deg: float
    lat_deg: float
    h_m: float
    quality: int
    satellites: int = 0
    hdop: float = 0.0
    good_m: float = 3.0


def apart_m(a: Fix, b: Fix) -> float:
    """Distance between two fixes over short distances (equirectangular, derived)."""
    north = math.radians(b.lat_deg - a.lat_deg) * EARTH_M
    east = math.radians(b.lon_deg - a.lon_deg) * EARTH_M * math.cos(math.radians(a.lat_deg))
    return math.hypot(east, north)


@dataclass(slots=True)
class Watch:
    """Judges fixes one after another; holds only the last good one and the last that did not fit.

    A fix that would take faster walking than ``fastest_mps`` from the last good one is a jump (multipath), unless
    ``AGREED`` in a row agree with each other: then the walker really is there.
    """

    fastest_mps: float = field(default_factory=lambda: rule("fastest_mps"))
    last: Fix | None = None
    stray: Fix | None = None
    strays: int = 0

    def judge(self, fix: Fix) -> Verdict:
        """The verdict on the next fix."""
        if fix.quality == 0:
            return "nofix"
        if self.last is None or self._reachable(self.last, fix):
            self.last, self.stray, self.strays = fix, None, 0
            return "good"
        self.strays = self.strays + 1 if self.stray is not None and self._reachable(self.stray, fix) else 1
        self.stray = fix
        if self.strays >= AGREED:
            self.last, self.stray, self.strays = fix, None, 0
            return "good"
        return "jump"

    def _reachable(self, a: Fix, b: Fix) -> bool:
        seconds = (b.t_s - a.t_s) % 86_400
        allowed = NEAR_M + self.fastest_mps * min(seconds, 10.0) + 3 * math.hypot(a.good_m, b.good_m)
        return apart_m(a, b) <= allowed


@dataclass(frozen=True, slots=True)
class Stop:
    """What standing still averages to: the mean place, how far fixes scatter, how many were used and left out."""

    lon_deg: float
    lat_deg: float
    h_m: float
    good_m: float
    scatter_m: float
    used: int
    left_out: int


def average(fixes: Sequence[Fix]) -> Stop | None:
    """Average a stop.  Fixes without a position are left out, and those farther from the median place than ``OUTLIERS``
    times the median distance from it (and 0.1 m).  None when nothing is left.

    The mean of n correlated fixes is not √n better: the better of the scatter and the best fix's own word is kept.
    """
    seen = [f for f in fixes if f.quality]
    if not seen:
        return None
    lon, lat = float(np.median([f.lon_deg for f in seen])), float(np.median([f.lat_deg for f in seen]))
    middle = Fix(0, lon, lat, 0, 1)
    away = [apart_m(middle, f) for f in seen]
    limit = max(0.1, OUTLIERS * float(np.median(away)))
    used = [f for f, far in zip(seen, away, strict=True) if far <= limit]
    weights = np.array([1 / max(f.good_m, 1e-3) ** 2 for f in used])
    weights /= weights.sum()
    mean = [float(np.dot(weights, [getattr(f, k) for f in used])) for k in ("lon_deg", "lat_deg", "h_m")]
    place = Fix(0, mean[0], mean[1], mean[2], 1)
    scatter = math.sqrt(sum(apart_m(place, f) ** 2 for f in used) / len(used))
    good = max(scatter / 2, min(f.good_m for f in used) / 2)
    return Stop(mean[0], mean[1], mean[2], good, scatter, len(used), len(fixes) - len(used))


def worth_keeping(last: Fix | None, fix: Fix, step_m: float) -> bool:
    """Whether a good fix is far enough from the last one kept to say something new: a step, or three times its own
    uncertainty where that is more."""
    return last is None or apart_m(last, fix) >= max(step_m, 3 * min(fix.good_m, 5.0))
