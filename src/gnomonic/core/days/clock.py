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
from gnomonic.core.errors import BadInput

STEP_MIN = 15
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
        return (0, 24 * 60) if elevation(there, noon) > 0 else None
    middle = datetime.combine(day, time(), at)
    low, high = (
        (t.astimezone(at).replace(tzinfo=None) - middle.replace(tzinfo=None)).total_seconds() / 60
        for t in (rises, sets)
    )
    return max(0, math.ceil(low)), min(24 * 60, math.floor(high)) if high > low else 24 * 60


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


def quarters(crew: Crew, day: date) -> list[tuple[int, Bools]]:
    """The working quarters of a day with who is there (by their place in ``crew.people``): within their hours, the midday break left out,
    and within daylight where the place is known."""
    here = {p.id for p in crew.there(day)}
    if not here:
        return []
    light: Sun | None = (0, 24 * 60)
    if crew.lat_deg is not None and crew.lon_deg is not None:
        light = sun(crew.lat_deg, crew.lon_deg, crew.zone, day)
    if light is None:
        return []
    rest = minute(crew.rest_from), minute(crew.rest_from) + crew.rest_min
    found = []
    for at in range(0, 24 * 60, STEP_MIN):
        until = at + STEP_MIN
        if at < light[0] or until > light[1] or (crew.rest_min and at < rest[1] and until > rest[0]):
            continue
        who = np.array([p.id in here and minute(p.begins) <= at and until <= minute(p.ends) for p in crew.people])
        if who.any():
            found.append((at, who))
    return found


def clock_of(crew: Crew, first: date, days: int = HORIZON_DAYS) -> Clock:
    """The working clock from a day on.  Raises BadInput (``crew``) where nobody works on any day of it."""
    day, at, there = list[int](), list[int](), list[Bools]()
    for k in range(days):
        for m, who in quarters(crew, first + timedelta(days=k)):
            day.append(k)
            at.append(m)
            there.append(who)
    if not day:
        raise BadInput(
            "crew",
            f"nobody works on any day from {first:%-d %B %Y} on: say who comes, on which days, and when there is light",
        )
    who_is = np.array(there).T
    groups = tuple(g for n in range(1, len(skills()) + 1) for g in combinations(skills(), n))
    knows = [np.array([bool(set(g) & set(p.skills)) for p in crew.people]) for g in groups]
    plant = tuple(p.kind for p in crew.plant if p.count)
    by_kind = {p.kind: p for p in crew.plant}
    days_there = np.array([[by_kind[k].there(first + timedelta(days=d)) for d in range(days)] for k in plant]).reshape(
        len(plant), days
    )
    rows = [who_is.sum(axis=0), *(who_is[k].sum(axis=0) for k in knows), *(row[day] for row in days_there)]
    return Clock(first, crew.people, np.array(day), np.array(at), who_is, plant, groups, np.array(rows, np.int64))
