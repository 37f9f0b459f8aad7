"""Who there is and what there is to work with: people with their days, plant, holidays, days on which nobody comes, the place."""

from datetime import date, time
from functools import lru_cache
from typing import Annotated, Literal
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

from pydantic import Field, field_validator, model_validator

from gnomonic.core.days.book import kinds, plant_kinds, skills
from gnomonic.core.errors import BadInput
from gnomonic.core.log.events import PLAIN_TEXT
from gnomonic.core.record import Record

SAID_IN = "en_US"  # what holidays are called in, where their table has it
MOST_PEOPLE, MOST_PLANT, MOST_OFF = 24, 24, 100
Words = Annotated[str, Field(min_length=1, max_length=60, pattern=PLAIN_TEXT)]
Note = Annotated[str, Field(max_length=120, pattern=PLAIN_TEXT)]
Key = Annotated[str, Field(pattern=r"^[a-z0-9_-]{1,24}$")]
Weekday = Annotated[int, Field(ge=0, le=6)]
WEEK = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


class Off(Record):
    """Days on which somebody, or nobody, comes: both days counted."""

    first: date
    last: date
    why: Note = ""

    @model_validator(mode="after")
    def _sound(self) -> "Off":
        if self.last < self.first:
            raise ValueError("the last day off is before the first")
        return self

    def on(self, day: date) -> bool:
        """Whether a day is one of them."""
        return self.first <= day <= self.last


class Person(Record):
    """Somebody who works: on which days of the week (0 is Monday), from when to when, from and until which day, and what they know."""

    id: Key
    name: Words
    kind: Literal["own", "helper", "contractor"] = "own"
    days: Annotated[tuple[Weekday, ...], Field(max_length=7)] = (0, 1, 2, 3, 4)
    begins: time = time(7, 30)
    ends: time = time(16, 30)
    skills: tuple[Key, ...] = ()
    away: Annotated[tuple[Off, ...], Field(max_length=MOST_OFF)] = ()
    comes: date | None = None
    goes: date | None = None

    @model_validator(mode="after")
    def _sound(self) -> "Person":
        if self.begins >= self.ends:
            raise ValueError(f"{self.name} stops before beginning: say from when to when")
        if odd := next((s for s in self.skills if s not in skills()), None):
            raise ValueError(f"there is no skill “{odd}”; there are: {', '.join(skills())}")
        if self.comes and self.goes and self.goes < self.comes:
            raise ValueError(f"{self.name} goes before coming")
        return self

    def there(self, day: date) -> bool:
        """Whether they come on a day that is no holiday."""
        if day.weekday() not in self.days or (self.comes and day < self.comes) or (self.goes and day > self.goes):
            return False
        return not any(o.on(day) for o in self.away)


class Plant(Record):
    """Machines and tools there are few of: how many, whether by the day from somebody else, from and until when."""

    kind: Key
    count: Annotated[int, Field(ge=0, le=20)] = 1
    hired: bool = False
    comes: date | None = None
    goes: date | None = None
    posts_done: Annotated[int, Field(ge=0, le=1_000_000)] = 0

    @field_validator("kind")
    @classmethod
    def _known(cls, key: str) -> str:
        if key not in plant_kinds():
            raise ValueError(f"there is no plant “{key}”; there is: {', '.join(plant_kinds())}")
        return key

    def there(self, day: date) -> int:
        """How many there are on a day."""
        if (self.comes and day < self.comes) or (self.goes and day > self.goes):
            return 0
        return self.count


FIRST = (
    Person(id="one", name="First of the crew", skills=("machines", "wire")),
    Person(id="two", name="Second of the crew"),
)
YARD = (Plant(kind="auger"), Plant(kind="driver"), Plant(kind="pullers"))


class Crew(Record):
    """A workspace's people and plant; holidays of a ``country`` (and ``region``); days on which nobody comes (``off``); the midday
    break; where the sun rises (``lat_deg``, ``lon_deg``) and what the clocks say there (``zone``); minutes for one of a kind of work where
    the workspace has its own (``rates``)."""

    people: Annotated[tuple[Person, ...], Field(max_length=MOST_PEOPLE)] = FIRST
    plant: Annotated[tuple[Plant, ...], Field(max_length=MOST_PLANT)] = YARD
    country: Annotated[str, Field(max_length=12, pattern=r"^[A-Z]{0,3}$")] = ""
    region: Annotated[str, Field(max_length=12, pattern=r"^[A-Za-z0-9-]{0,12}$")] = ""
    off: Annotated[tuple[Off, ...], Field(max_length=MOST_OFF)] = ()
    rest_from: time = time(12, 0)
    rest_min: Annotated[int, Field(ge=0, le=180)] = 45
    lat_deg: Annotated[float, Field(ge=-90, le=90)] | None = None
    lon_deg: Annotated[float, Field(ge=-180, le=180)] | None = None
    zone: Annotated[str, Field(max_length=60)] = "UTC"
    rates: dict[Key, Annotated[float, Field(gt=0, le=100_000)]] = Field(default_factory=dict)

    @field_validator("zone")
    @classmethod
    def _a_zone(cls, name: str) -> str:
        try:
            ZoneInfo(name)
        except (ZoneInfoNotFoundError, ValueError, OSError):
            raise ValueError(f"there is no time zone “{name[:40]}”: write it like Europe/Lisbon") from None
        return name

    @model_validator(mode="after")
    def _sound(self) -> "Crew":
        ids = [p.id for p in self.people]
        names = [p.name for p in self.people]
        if len(set(ids)) < len(ids) or len(set(names)) < len(names):
            raise ValueError("two people have the same name: tell them apart")
        which = [p.kind for p in self.plant]
        if len(set(which)) < len(which):
            raise ValueError("a kind of plant stands once, with how many there are")
        if (self.lat_deg is None) != (self.lon_deg is None):
            raise ValueError("a place has latitude and longitude")
        if odd := next((k for k in self.rates if k not in kinds()), None):
            raise ValueError(f"there is no kind of work “{odd}”")
        if self.country:
            holidays_of(self.country, self.region, 2026)
        return self

    def holiday(self, day: date) -> str:
        """What holiday a day is in the country that was named; empty where it is none."""
        return holidays_of(self.country, self.region, day.year).get(day, "") if self.country else ""

    def closed(self, day: date) -> str:
        """Why nobody comes on a day; empty where it is a day like others."""
        if name := self.holiday(day):
            return name
        return next((o.why or "a day off" for o in self.off if o.on(day)), "")

    def there(self, day: date) -> list[Person]:
        """Who comes on a day."""
        return [] if self.closed(day) else [p for p in self.people if p.there(day)]


@lru_cache(maxsize=256)
def holidays_of(country: str, region: str, year: int) -> dict[date, str]:
    """Public holidays of a year.  Raises BadInput (``country``, ``region``)."""
    import holidays

    try:
        return dict(holidays.country_holidays(country, subdiv=region or None, years=year, language=SAID_IN).items())
    except NotImplementedError:
        known = holidays.list_supported_countries()
        if country not in known:
            raise BadInput(
                "country", f"no holidays of “{country}” are on file: write the country's two letters, as PT or US"
            ) from None
        regions = ", ".join(known[country][:20]) or "none"
        raise BadInput("region", f"{country} has no region “{region}”; there are: {regions}") from None
