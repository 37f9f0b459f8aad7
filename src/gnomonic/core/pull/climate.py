"""Climates by class: what a year's temperatures are, a month at a time (``data/climates.toml``)."""

from functools import cache

from pydantic import model_validator

from gnomonic.core.errors import BadInput
from gnomonic.core.sourced import Sourced, read_data

MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
Year = tuple[float, ...]


class Climate(Sourced):
    """A class of climate: by month the coldest night and the hottest day on record, a usual night and a usual noon, °C; days with
    ``rain`` (1 mm and more) and with ``thunder``; millimetres of a rainy day and the wind of a day's strongest hour, as they are on average."""

    title: str
    cold: Year
    hot: Year
    night: Year
    noon: Year
    rain: Year
    thunder: Year
    wet_mm: float
    wind_ms: float

    @model_validator(mode="after")
    def _sound(self) -> "Climate":
        if any(
            len(row) != len(MONTHS) for row in (self.cold, self.hot, self.night, self.noon, self.rain, self.thunder)
        ):
            raise ValueError("a climate has twelve months")
        if any(not a <= b < c <= d for a, b, c, d in zip(self.cold, self.night, self.noon, self.hot, strict=True)):
            raise ValueError("a month's record frames its usual days")
        return self

    @property
    def coldest_c(self) -> float:
        """The coldest night on record."""
        return min(self.cold)

    @property
    def hottest_c(self) -> float:
        """The hottest day on record."""
        return max(self.hot)

    def check_day(self, day_c: float) -> float:
        """A day's temperature that this climate has.  Raises BadInput (``temp_c``) beyond its record."""
        if not self.coldest_c <= day_c <= self.hottest_c:
            which, record = ("colder", self.coldest_c) if day_c < self.coldest_c else ("hotter", self.hottest_c)
            raise BadInput(
                "temp_c",
                f"{day_c:g} °C is {which} than the record of this climate ({self.title}: {record:g} °C): choose the climate the fence stands in, or wait",
            )
        return day_c


@cache
def climates() -> dict[str, Climate]:
    """Every climate by its key."""
    return {key: Climate.model_validate(row) for key, row in read_data("climates.toml", "pull").items()}


def climate(key: str) -> Climate:
    """A climate by its key.  Raises BadInput (``climate``)."""
    if key not in climates():
        known = ", ".join(climates())
        raise BadInput("climate", f"there is no climate “{key[:24]}” on file; there are: {known}")
    return climates()[key]
