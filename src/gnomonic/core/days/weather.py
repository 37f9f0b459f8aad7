"""Weather by the day: what is forecast, what work it stops, and what it is like when nobody can know yet."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, time, timedelta
from typing import Annotated

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from gnomonic.core.days.book import days_rule, stops
from gnomonic.core.pull.climate import Climate
from gnomonic.core.record import Record

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]
USUAL = 0.55  # how far a day strays from the usual towards the record, at most
FORENOON = 0.7  # of the way from the night to the noon: when wire is pulled
DAYS_OF_MONTH = 30.4
STORM_MIN = (12 * 60, 20 * 60)  # when thunder comes
STORM_LONG_MIN = 120


class Weather(Record):
    """A day's weather: °C at night and at noon, mm of rain, m/s in the strongest hour, and from when to when thunder is likely."""

    day: date
    night_c: Annotated[float, Field(ge=-90, le=60)]
    noon_c: Annotated[float, Field(ge=-90, le=60)]
    rain_mm: Annotated[float, Field(ge=0, le=2000)] = 0.0
    wind_ms: Annotated[float, Field(ge=0, le=120)] = 0.0
    thunder_from: time | None = None
    thunder_until: time | None = None

    @model_validator(mode="after")
    def _whole(self) -> "Weather":
        if (self.thunder_from is None) != (self.thunder_until is None):
            raise ValueError("thunder has a beginning and an end")
        if self.thunder_from is not None and self.thunder_until is not None and self.thunder_from >= self.thunder_until:
            raise ValueError("thunder ends after it begins")
        if self.night_c > self.noon_c:
            raise ValueError("the night is colder than the noon")
        return self

    @property
    def working_c(self) -> float:
        """The forenoon, when wire is pulled."""
        return round(self.night_c + FORENOON * (self.noon_c - self.night_c))

    @property
    def stand_off(self) -> tuple[int, int] | None:
        """From when to when (minutes of the day) nobody is near wire: from the thunder until half an hour after."""
        if self.thunder_from is None or self.thunder_until is None:
            return None
        begins, ends = (t.hour * 60 + t.minute for t in (self.thunder_from, self.thunder_until))
        return begins, ends + round(days_rule("stand_off_min"))


@dataclass(frozen=True, slots=True)
class Chance:
    """Rows of seasons, columns of days: °C, mm, m/s, and when thunder begins (minutes of the day, -1: none)."""

    night_c: Floats
    noon_c: Floats
    rain_mm: Floats
    wind_ms: Floats
    thunder: Ints


def made_up(of: Climate, months: Ints, rolls: Floats) -> Chance:
    """Days of these months (0…11) in a climate from rolls (…, days, 4) between 0 and 1; the days are independent of each other.

    Rain falls on as many days as the climate has, its amount exponential; wind is Rayleigh's; temperature strays from the usual towards
    the record (common shapes, from memory).
    """
    cold, hot, night, noon = (np.array(row)[months] for row in (of.cold, of.hot, of.night, of.noon))
    stray = (rolls[..., 0] - 0.5) * 2 * USUAL
    warm = stray >= 0
    nights = np.where(warm, night + stray * 0.5 * (hot - noon), night + stray * (night - cold))
    noons = np.where(warm, noon + stray * 0.5 * (hot - noon), noon + stray * (noon - night))
    wet = np.array(of.rain)[months] / DAYS_OF_MONTH
    within = np.clip(rolls[..., 1] / np.maximum(wet, 1e-9), 0.0, 1.0)
    rain = np.where(rolls[..., 1] < wet, 1.0 - (of.wet_mm - 1.0) * np.log(np.maximum(1.0 - within, 1e-12)), 0.0)
    wind = of.wind_ms * 2 / np.sqrt(np.pi) * np.sqrt(-np.log(np.maximum(1.0 - rolls[..., 2], 1e-12)))
    chance = np.array(of.thunder)[months] / DAYS_OF_MONTH
    at = STORM_MIN[0] + rolls[..., 3] / np.maximum(chance, 1e-9) * (STORM_MIN[1] - STORM_MIN[0] - STORM_LONG_MIN)
    thunder = np.where(rolls[..., 3] < chance, at, -1).astype(np.int64)
    nights, noons, rain, wind = (np.round(row, 1).astype(np.float64) for row in (nights, noons, rain, wind))
    return Chance(nights, noons, rain, wind, thunder)


def days_in(of: Climate, first: date, count: int, rolls: Floats) -> list[Weather]:
    """Days made up in a climate, from rolls (days, 4)."""
    dates = [first + timedelta(days=k) for k in range(count)]
    made = made_up(of, np.array([d.month - 1 for d in dates]), rolls)
    found = []
    for k, day in enumerate(dates):
        begins = int(made.thunder[k]) // 15 * 15
        ends = begins + STORM_LONG_MIN
        storm = (time(begins // 60, begins % 60), time(ends // 60, ends % 60)) if begins >= 0 else (None, None)
        night, noon = float(made.night_c[k]), float(made.noon_c[k])
        found.append(
            Weather(day=day, night_c=night, noon_c=noon, rain_mm=float(made.rain_mm[k]), wind_ms=float(made.wind_ms[k]), thunder_from=storm[0], thunder_until=storm[1])
        )  # fmt: skip
    return found


def bits(night_c: Floats, noon_c: Floats, rain_mm: Floats, wind_ms: Floats, rain_before: Floats) -> Ints:
    """What can't be done all day (masks), by the weather of the day and the rain of the day before."""
    found = np.zeros(np.shape(rain_mm), np.int64)
    for stop in stops().values():
        met = np.zeros(np.shape(rain_mm), np.bool_)
        if stop.rain_mm is not None:
            met |= rain_mm >= stop.rain_mm
        if stop.rain_before_mm is not None:
            met |= rain_before >= stop.rain_before_mm
        if stop.below_c is not None:
            met |= night_c < stop.below_c
        if stop.above_c is not None:
            met |= noon_c > stop.above_c
        if stop.wind_ms is not None:
            met |= wind_ms > stop.wind_ms
        found |= np.where(met, stop.bit, 0)
    return found


def bits_of(days: Iterable[Weather]) -> dict[date, int]:
    """What can't be done all day, for days one after the other."""
    found: dict[date, int] = {}
    before: Weather | None = None
    for w in days:
        wet = before.rain_mm if before and before.day == w.day - timedelta(days=1) else 0.0
        row = (np.array([v]) for v in (w.night_c, w.noon_c, w.rain_mm, w.wind_ms, wet))
        found[w.day] = int(bits(*row)[0])
        before = w
    return found


def storm_words(day: Weather) -> str:
    """What is said of a day's thunder where wire is pulled; empty where none is likely."""
    if day.thunder_from is None or day.stand_off is None:
        return ""
    until = day.stand_off[1]
    return (
        f"Thunder likely from {day.thunder_from:%-H:%M}: start no pull that ends later, and keep off the wire until {until // 60}:{until % 60:02d}, "
        "half an hour after the last of it"
    )
