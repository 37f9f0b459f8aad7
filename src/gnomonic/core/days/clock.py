"""The working clock: every quarter of an hour in which somebody works, one after the other, laid over the calendar.

A task's hours run on it; a wait runs on the calendar and ends on the first working quarter of its day.
"""

import math
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from functools import lru_cache
from itertools import combinations
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.days.book import skills
from gnomonic.core.days.crew import Crew, Person
from gnomonic.core.days.problem import STEP_MIN
from gnomonic.core.errors import BadInput

DAY_MIN = 24 * 60
HORIZON_DAYS = 550
Ints = NDArray[np.int64]
Bools = NDArray[np.bool_]
Sun = tuple[int, int]  # minutes of the day, local


@lru_cache(maxsize=4096)
def sun(lat_deg: float, lon_deg: float, zone: str, day: date) -> Sun | None:
    """Sunrise and sunset in minutes of the local day; None where the sun does not rise, all day where it does not set.

    Source: a general astronomy library (NOAA's equations, refraction included).
    """
    from astral import Observer
    from astral.sun import elevation, sunrise, sunset

    there, at = Observer(lat_deg, lon_deg), ZoneInfo(zone)
    try:
        rises, sets = sunrise(there, day, tzinfo=at), sunset(there, day, tzinfo=at)
    except ValueError:
        noon = datetime.combine(day, time(12), UTC) - timedelta(hours=lon_deg / 15)
        return (0, DAY_MIN) if elevation(there, noon) > 0 else None
    middle = datetime.combine(day, time(), at)
    low, high = (
        (t.astimezone(at).replace(tzinfo=None) - middle.replace(tzinfo=None)).total_seconds() / 60
        for t in (rises, sets)
    )
    return max(0, math.ceil(low)), min(DAY_MIN, math.floor(high)) if high > low else DAY_MIN


def minute(t: time) -> int:
    """Minutes since midnight."""
    return t.hour * 60 + t.minute


def clock_words(minutes: int) -> str:
    """Minutes of the day as they are printed: 7:30."""
    return f"{minutes // 60}:{minutes % 60:02d}"


@dataclass(frozen=True, slots=True)
class Clock:
    """Quarters by number: ``day`` (days since ``first``), ``minute`` of the day, who is ``there`` (people, quarters), how much of each
    kind of ``plant``; ``resources`` names the rows of ``capacity``: people, each group of skills, each kind of plant."""

    first: date
    people: tuple[Person, ...]
    day: Ints
    minute: Ints
    there: Bools
    plant: tuple[str, ...]
    groups: tuple[tuple[str, ...], ...]
    capacity: Ints

    @property
    def slots(self) -> int:
        """How many quarters there are."""
        return int(self.day.size)

    def begins(self, slot: int) -> datetime:
        """When a quarter begins, by the local clock."""
        return self._at(int(self.day[slot]), int(self.minute[slot]))

    def ends(self, slot: int) -> datetime:
        """When something ends that has every quarter before this one; the beginning for none."""
        if slot == 0:
            return self.begins(0)
        return self._at(int(self.day[slot - 1]), int(self.minute[slot - 1]) + STEP_MIN)

    def _at(self, day: int, minutes: int) -> datetime:
        return datetime.combine(self.first + timedelta(days=day), time()) + timedelta(minutes=minutes)

    def slot_at(self, when: datetime) -> int:
        """The first quarter that does not begin before a time; one past the last where there is none."""
        wanted = (when.date() - self.first).days * 1440 + when.hour * 60 + when.minute + (when.second > 0)
        return int(np.searchsorted(self.day * 1440 + self.minute, wanted))

    def after_days(self, days: int) -> Ints:
        """For a wait of so many days: the quarter from which the next may begin, by the quarter in which the one before ended."""
        ended = np.concatenate([[-(10**6)], self.day])
        return (
            np.searchsorted(self.day, ended + days, side="left").astype(np.int64) if days else np.arange(self.slots + 1)
        )

    def resource(self, plant: str) -> int:
        """The row of a kind of plant."""
        return 1 + len(self.groups) + self.plant.index(plant)

    def skilled(self, skill: str) -> list[int]:
        """The rows of capacity that one who has a skill is counted in."""
        return [1 + k for k, group in enumerate(self.groups) if skill in group]


def quarters(crew: Crew, day: date) -> tuple[Ints, Bools]:
    """The working quarters of a day (minutes), and who of ``crew.people`` is there in each (people, quarters): within their hours, the
    midday break left out, and within daylight where the place is known."""
    here = {p.id for p in crew.there(day)}
    light: Sun | None = (0, DAY_MIN)
    if here and crew.lat_deg is not None and crew.lon_deg is not None:
        light = sun(crew.lat_deg, crew.lon_deg, crew.zone, day)
    if not here or light is None:
        return np.zeros(0, np.int64), np.zeros((len(crew.people), 0), np.bool_)
    at = np.arange(0, DAY_MIN, STEP_MIN)
    rest = minute(crew.rest_from), minute(crew.rest_from) + crew.rest_min
    open_now = (at >= light[0]) & (at + STEP_MIN <= light[1])
    if crew.rest_min:
        open_now &= (at >= rest[1]) | (at + STEP_MIN <= rest[0])
    low, high = (
        np.array([minute(t) for t in times])[:, None]
        for times in ([p.begins for p in crew.people], [p.ends for p in crew.people])
    )
    who = (low <= at) & (at + STEP_MIN <= high) & np.array([p.id in here for p in crew.people])[:, None] & open_now
    worked = who.any(axis=0)
    return at[worked], who[:, worked]


@lru_cache(maxsize=16)
def _clock_of(crew_json: str, first: date, days: int) -> Clock:
    return _made(Crew.model_validate_json(crew_json), first, days)


def clock_of(crew: Crew, first: date, days: int = HORIZON_DAYS) -> Clock:
    """The working clock from a day on.  Raises BadInput (``crew``) where nobody works on any day of it."""
    return _clock_of(crew.model_dump_json(), first, days)


def _made(crew: Crew, first: date, days: int) -> Clock:
    rows = [quarters(crew, first + timedelta(days=k)) for k in range(days)] if crew.people else []
    if not any(at.size for at, _ in rows):
        raise BadInput(
            "crew",
            f"nobody works on any day from {first:%-d %B %Y} on: say who comes, on which days, and when there is light",
        )
    day = np.repeat(np.arange(days), [at.size for at, _ in rows])
    at, who_is = np.concatenate([at for at, _ in rows]), np.concatenate([who for _, who in rows], axis=1)
    groups = tuple(g for n in range(1, len(skills()) + 1) for g in combinations(skills(), n))
    knows = [np.array([bool(set(g) & set(p.skills)) for p in crew.people]) for g in groups]
    plant = tuple(p.kind for p in crew.plant if p.count)
    by_kind = {p.kind: p for p in crew.plant}
    days_there = np.array([[by_kind[k].there(first + timedelta(days=d)) for d in range(days)] for k in plant]).reshape(
        len(plant), days
    )
    capacity = [who_is.sum(axis=0), *(who_is[k].sum(axis=0) for k in knows), *(row[day] for row in days_there)]
    return Clock(first, crew.people, day, at, who_is, plant, groups, np.array(capacity, np.int64))
