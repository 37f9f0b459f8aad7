"""The ground along a line: heights at stations, straight in between."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import LONGEST_JOB_M
from gnomonic.core.prose import Both
from gnomonic.core.say import Say
from gnomonic.core.units import FOOT_M, rounded

LOWEST_M, HIGHEST_M = -500.0, 9000.0  # no ground lies beyond these
STEEP_HALF = 0.6  # half a line steeper than that: its heights are in another unit than its lengths
CLIFF_M, CLIFF_GRADE = 3.0, 10.0  # a rise that is higher and steeper is no ground a fence follows
LONGEST_M = float(LONGEST_JOB_M)
Floats = NDArray[np.float64]


def _height(height_m: float) -> Both:
    """A height as a surveyor writes it, below the datum too."""
    return Both(f"{rounded(height_m / FOOT_M)} ft", f"{height_m:g} m")


def half_slope(run_m: Floats, rise_m: Floats) -> float:
    """The slope (rise over run) that half of a line's legs are steeper than."""
    return float(np.median(np.abs(rise_m) / run_m))


@dataclass(frozen=True, slots=True)
class Profile:
    """Ground heights z(s): ``stations_m`` (n,) strictly rising plan distances, ``heights_m`` (n,); piecewise linear.

    Source: common practice (shots joined by straight ground).
    """

    stations_m: Floats
    heights_m: Floats

    @staticmethod
    def of(pairs: Sequence[Sequence[float]]) -> "Profile":
        """From rows of (station, height)."""
        table = np.asarray(pairs, dtype=np.float64)
        return Profile(np.ascontiguousarray(table[:, 0]), np.ascontiguousarray(table[:, 1]))

    def at(self, stations_m: Floats) -> Floats:
        """Heights at stations (any shape); beyond the ends the end height holds."""
        return np.interp(stations_m, self.stations_m, self.heights_m)

    def breaks_between(self, from_m: float, to_m: float) -> Floats:
        """Stations of the shots strictly inside a stretch."""
        inside = (self.stations_m > from_m) & (self.stations_m < to_m)
        return self.stations_m[inside]

    def slope_length_m(self) -> float:
        """Length along the ground.

        >>> Profile.of([(0, 0), (3, 4), (6, 4)]).slope_length_m()
        8.0
        """
        return float(np.hypot(np.diff(self.stations_m), np.diff(self.heights_m)).sum())

    def unlikely(self) -> tuple[list[int], list[int]]:
        """Shots (by index) that lie beyond all ground, and those behind which it rises or falls like a wall."""
        beyond = (self.heights_m < LOWEST_M) | (self.heights_m > HIGHEST_M)
        rise, run = np.abs(np.diff(self.heights_m)), np.diff(self.stations_m)
        walls = (rise > CLIFF_M) & (rise > CLIFF_GRADE * run)
        return np.flatnonzero(beyond).tolist(), np.flatnonzero(walls).tolist()

    def check(self, field: str, named: str) -> None:
        """Raises BadInput for heights no ground has, a wall, or more than 50 km along the slope.

        ``named`` and ``field`` take the shot's number, counted from 0 (``{k}``) or from 1 (``{n}``).
        """
        beyond, walls = self.unlikely()
        if beyond:
            k = beyond[0]
            raise BadInput(
                field.format(k=k, n=k + 1),
                Say(
                    "{shot} has a height of {h}: ground lies between {low} and {high}; is it in another unit, "
                    "or a slip of the pen?",
                    {
                        "shot": named.format(k=k, n=k + 1),
                        "h": _height(float(self.heights_m[k])),
                        "low": Both(rounded(LOWEST_M / FOOT_M), f"{LOWEST_M:g}"),
                        "high": _height(HIGHEST_M),
                    },
                ),
            )
        if walls:
            k = walls[0]
            rise, run = self.heights_m[k + 1] - self.heights_m[k], self.stations_m[k + 1] - self.stations_m[k]
            raise BadInput(
                field.format(k=k + 1, n=k + 2),
                Say(
                    f"between {{shot}} and the next the ground {'rises' if rise > 0 else 'falls'} {{rise}} over {{run}}: "
                    "that is a wall, not a fence line; is a height in another unit, or wrong?",
                    {
                        "shot": named.format(k=k, n=k + 1),
                        "rise": (abs(float(rise)), "station"),
                        "run": (float(run), "station"),
                    },
                ),
            )
        if (long := self.slope_length_m()) > LONGEST_M:
            raise BadInput(
                field.format(k=0, n=1).split("[")[0],
                f"the line is {long / 1000:.1f} km long along the slope; more than {LONGEST_M / 1000:.0f} km is more than one job",
            )
