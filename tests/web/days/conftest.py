"""Monday morning in fair weather, and a job that has begun."""

import re
import uuid
from contextlib import contextmanager
from datetime import date, timedelta

import pytest
from crews import crew
from days_pages import MORNING, PENS, begin
from fastapi.testclient import TestClient

from gnomonic.core.days.weather import Weather
from gnomonic.standins.service import Service
from gnomonic.store import cluster, days, jobs
from gnomonic.store.scope import Scope, connect
from gnomonic.web.app import create_app
from gnomonic.web.days import inputs
from gnomonic.workshop.running import PATIENCE


@pytest.fixture(autouse=True)
def today(monkeypatch):
    """It is half past six on Monday, 2 March 2026, until a test says otherwise; no weather is forecast that stops anything."""
    now = {"at": MORNING}
    monkeypatch.setattr(inputs, "local_now", lambda _: now["at"])
    return now


@contextmanager
def fair_service(patch):
    """A weather service of fair days, at the documented interface."""
    answer = {"days": None}

    def get(path):
        first = date.fromisoformat(re.search(r"from=([\d-]+)", path).group(1))
        rows = answer["days"]
        made = [Weather(day=first + timedelta(days=k), night_c=4, noon_c=10).model_dump(mode="json") for k in range(7)]
        return 200, {"days": made if rows is None else rows(first) if callable(rows) else rows}

    service = Service("weather of a test", get, lambda path, body: (404, {}), 1000)
    patch.setenv("GNOMONIC_WEATHER_URL", service.address)
    yield answer
    service.stop()


@pytest.fixture(autouse=True)
def fair(monkeypatch):
    """Fair weather, or what a test says."""
    with fair_service(monkeypatch) as answer:
        yield answer


@pytest.fixture(scope="session")
def begun(postgres, template):
    """A database in which the pens, marked, are begun on Monday with two who know everything; the job's name with it."""
    url = cluster.clone_database(postgres, template, "begun")
    scope = Scope(connect(url, PATIENCE))
    with pytest.MonkeyPatch.context() as patch, TestClient(create_app(scope), base_url="http://localhost") as client:
        patch.setattr(inputs, "local_now", lambda _: MORNING)
        with fair_service(patch):
            days.put_crew(scope, crew())
            job_id = jobs.create(scope, PENS.model_copy(update={"marking": None}))
            assert begin(client, job_id).status_code == 303
    scope.engine.dispose()
    return "begun", job_id


@pytest.fixture
def database(request, postgres, template):
    """Address of a fresh database; one in which the pens are begun for a test that asks for the job."""
    copied = request.getfixturevalue("begun")[0] if "job" in request.fixturenames else template
    return cluster.clone_database(postgres, copied, f"t{uuid.uuid4().hex[:12]}")


@pytest.fixture
def job(begun):
    """The pens, begun."""
    return begun[1]
