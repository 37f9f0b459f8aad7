"""A practice weather service: what a day is like at a place, made up from the month's records of its climate.

The same day and place always get the same answer.  The real thermometer at the fence is always the fencer's own.
"""

import hashlib
from dataclasses import dataclass
from datetime import date

from gnomonic.core.pull.climate import climate

USUAL = 0.55  # how far a day strays from the usual towards the record, at most


@dataclass(frozen=True, slots=True)
class Forecast:
    """A day: how cold the night, how warm the noon, °C; what an hour of work in the forenoon finds."""

    night_c: float
    noon_c: float

    @property
    def working_c(self) -> float:
        """The forenoon, when wire is pulled."""
        return round(self.night_c + 0.7 * (self.noon_c - self.night_c))


def forecast(key: str, day: date, place: str = "") -> Forecast:
    """The forecast of a day in a climate.  Raises BadInput (``climate``)."""
    of, k = climate(key), day.month - 1
    digest = hashlib.sha256(f"{key} {day} {place}".encode()).digest()
    stray = (digest[0] / 255 - 0.5) * 2 * USUAL
    if stray >= 0:
        night, noon = (a + stray * 0.5 * (b - c) for a, b, c in ((of.night[k], of.hot[k], of.noon[k]), (of.noon[k], of.hot[k], of.noon[k])))  # fmt: skip
    else:
        night, noon = (a + stray * (a - b) for a, b in ((of.night[k], of.cold[k]), (of.noon[k], of.night[k])))
    return Forecast(round(night, 1), round(noon, 1))
