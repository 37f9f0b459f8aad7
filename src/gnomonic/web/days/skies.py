"""The weather of the next days: from ``GNOMONIC_WEATHER_URL``, or the practice service that ships with Gnomonic.

The interface: ``GET {url}/forecast?climate=KEY&place=NAME&from=2026-03-02`` (and ``lat``, ``lon`` where the place is known) answers
``{"days": [{"day", "night_c", "noon_c", "rain_mm", "wind_ms", "thunder_from", "thunder_until"}, …]}``, days one after the other from that day
on, times by the local clock, thunder null where none is likely.
"""

import threading
import time
from collections import OrderedDict
from datetime import date, timedelta
from urllib.parse import urlencode

from pydantic import ValidationError

from gnomonic.core.days.weather import Weather
from gnomonic.core.errors import Away
from gnomonic.standins.weather import PracticeWeather
from gnomonic.web.outside import OnLine, Outside

SETTING = "GNOMONIC_WEATHER_URL"
INSTEAD = "the plan goes by what the season usually brings"
OUTSIDE = Outside("weather", "the weather service", SETTING, INSTEAD)
FRESH_S, AWAY_S, KEPT, MOST_DAYS = 1800.0, 60.0, 64, 16


class Skies(OnLine):
    """What answers for the weather; an answer holds for half an hour, that it is away for a minute."""

    def __init__(self) -> None:
        super().__init__(SETTING, PracticeWeather)
        self.kept: OrderedDict[str, tuple[float, list[Weather] | Away]] = OrderedDict()
        self.guard = threading.Lock()

    def days(self, climate: str, place: str, first: date, at: tuple[float, float] | None = None) -> list[Weather]:
        """The days that are forecast from a day on.  Raises Away."""
        asked = {"climate": climate, "place": place, "from": first.isoformat()}
        if at is not None:
            asked |= {"lat": f"{at[0]:.3f}", "lon": f"{at[1]:.3f}"}
        address = f"{self.address()}/forecast?{urlencode(asked)}"
        with self.guard:
            known = self.kept.get(address)
        if known is None or time.monotonic() > known[0]:
            try:
                known = (time.monotonic() + FRESH_S, _read(OUTSIDE.call(address), first))
            except Away as error:
                known = (time.monotonic() + AWAY_S, error)
            with self.guard:
                self.kept[address] = known
                while len(self.kept) > KEPT:
                    self.kept.popitem(last=False)
        if isinstance(known[1], Away):
            raise Away(known[1].field, known[1].sentence)
        return known[1]


def _read(answer: dict[str, object], first: date) -> list[Weather]:
    """Days from an answer.  Raises Away where they are none, or not the ones that were asked for."""
    rows = answer.get("days")
    try:
        days = [Weather.model_validate(row) for row in rows] if isinstance(rows, list) else []
    except ValidationError as error:
        field = ".".join(str(p) for p in error.errors()[0]["loc"])
        raise Away("weather", f"the weather service's answer can't be read ({field}): {INSTEAD}") from None
    if not days or len(days) > MOST_DAYS or any(d.day != first + timedelta(days=k) for k, d in enumerate(days)):
        raise Away("weather", f"the weather service's answer is not of the days that were asked about: {INSTEAD}")
    return days
