"""Monday morning in fair weather, and a job that has begun."""

import re
from datetime import date, timedelta

import pytest
from crews import crew
from days_pages import MORNING, PENS, begin

from gnomonic.core.days.weather import Weather
from gnomonic.standins.service import Service
from gnomonic.store import days, jobs
from gnomonic.web.days import inputs


@pytest.fixture(autouse=True)
def today(monkeypatch):
    """It is half past six on Monday, 2 March 2026, until a test says otherwise; no weather is forecast that stops anything."""
    now = {"at": MORNING}
    monkeypatch.setattr(inputs, "local_now", lambda _: now["at"])
    return now


@pytest.fixture(autouse=True)
def fair(monkeypatch):
    """A weather service of fair days, at the documented interface."""
    answer = {"days": None}

    def get(path):
        first = date.fromisoformat(re.search(r"from=([\d-]+)", path).group(1))
        rows = answer["days"]
        made = [Weather(day=first + timedelta(days=k), night_c=4, noon_c=10).model_dump(mode="json") for k in range(7)]
        return 200, {"days": made if rows is None else rows(first) if callable(rows) else rows}

    service = Service("weather of a test", get, lambda path, body: (404, {}), 1000)
    monkeypatch.setenv("GNOMONIC_WEATHER_URL", service.address)
    yield answer
    service.stop()


@pytest.fixture
def job(client, scope):
    """The pens, marked, begun on Monday with two who know everything."""
    days.put_crew(scope, crew())
    job_id = jobs.create(scope, PENS.model_copy(update={"marking": None}))
    assert begin(client, job_id).status_code == 303
    return job_id
