"""The ground along a line: heights at stations, straight in between."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


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
