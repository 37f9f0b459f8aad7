"""A practice weather service: what a day is like at a place, made up from the month's records of its climate.

The same day and place always get the same answer.  The real thermometer at the fence is always the fencer's own.
"""

import argparse
import hashlib
from datetime import date, timedelta
from urllib.parse import parse_qs, urlsplit

import numpy as np

from gnomonic.core.days.weather import Weather, days_in
from gnomonic.core.errors import BadInput
from gnomonic.core.pull.climate import climate
from gnomonic.shell import port
from gnomonic.standins.service import Answer, Service

DAYS = 7
MOST_BYTES = 4096


def forecast(key: str, first: date, count: int = DAYS, place: str = "") -> list[Weather]:
    """The forecast of some days in a climate.  Raises BadInput (``climate``)."""
    of, rolls = climate(key), []
    for k in range(count):
        digest = hashlib.sha256(f"{key} {first + timedelta(days=k)} {place}".encode()).digest()
        rolls.append([digest[0] / 255, *(int.from_bytes(digest[n : n + 4], "big") / 2**32 for n in (4, 8, 12))])
    return days_in(of, first, count, np.array(rolls))


class PracticeWeather(Service):
    """It, listening on loopback: ``GET /forecast?climate=oceanic&place=NAME&from=2026-03-02``."""

    def __init__(self, port: int = 0) -> None:
        def get(path: str) -> Answer:
            parts = urlsplit(path)
            asked = {k: v[0] for k, v in parse_qs(parts.query).items()}
            if parts.path != "/forecast":
                return 404, {"detail": "ask for /forecast"}
            try:
                days = forecast(
                    asked.get("climate", ""), date.fromisoformat(asked.get("from", "")), place=asked.get("place", "")
                )
            except (BadInput, ValueError, OverflowError) as error:
                return 422, {
                    "detail": error.sentence if isinstance(error, BadInput) else "from: write a day as 2026-03-02"
                }
            return 200, {"days": [d.model_dump(mode="json") for d in days]}

        def post(path: str, body: dict[str, object]) -> Answer:
            raise ValueError("ask for /forecast")

        super().__init__("practice weather", get, post, MOST_BYTES, port)


def main(words: list[str]) -> int:
    """``gnomonic practice weather``: the practice weather service by itself."""
    parser = argparse.ArgumentParser(
        prog="gnomonic practice weather", description="A practice weather service on loopback."
    )
    parser.add_argument("--port", type=port, default=0)
    return PracticeWeather(parser.parse_args(words).port).until_interrupted("practice weather")
