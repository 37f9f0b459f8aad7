"""Weather from a service over HTTP, and jobs that share a crew."""

import json
import re
from datetime import date

import pytest
from crews import MONDAY, crew, worked_off
from days_pages import PENS, RUN, begin, page, plan, post, rows_of
from fastapi.testclient import TestClient
from sqlalchemy import text

from gnomonic.core.days.placing import Placed
from gnomonic.core.days.weather import Weather
from gnomonic.standins.weather import PracticeWeather, forecast
from gnomonic.store import days, jobs
from gnomonic.web.app import create_app
from gnomonic.web.days.current import SEARCH


# --- weather -----------------------------------------------------------------------------------------------------------------
def test_the_forecast_stops_work_and_is_shown(client, scope, fair):
    fair["days"] = rows_of({"rain_mm": 22.0}, {}, {"thunder_from": "15:00", "thunder_until": "16:00"})
    days.put_crew(scope, crew())
    job_id = jobs.create(scope, PENS)
    begin(client, job_id)
    rows = plan(client, job_id)
    assert min(r.begins.date() for r in rows.values() if r.key.split(".")[-1] == "marks") == date(2026, 3, 3)
    assert "39 °F to 50 °F, 0.9 in of rain" in page(client, job_id, "day", day="2026-03-02", units="us")
    assert "4 °C to 10 °C, 22 mm of rain" in page(client, job_id, "day", day="2026-03-02", units="metric")
    assert "rain likely" not in page(client, job_id, day="2026-03-03")[:100]


def test_a_storm_is_said_where_wire_is_pulled(client, scope, fair):
    fair["days"] = rows_of({"thunder_from": "15:00", "thunder_until": "17:00"})
    job_id = jobs.create(scope, PENS)
    climate = client.get(f"/api/v1/jobs/{job_id}/pulls").json()["climate"]
    assert climate["thunder"].startswith(
        "Thunder likely from 15:00: start no pull that ends later, and keep off the wire until 17:30"
    )
    assert climate["source"] == "forecast of the weather service: read the thermometer"
    assert climate["day"] == 8, "seven tenths of the way from 4 to 10"


AWAY = "the plan goes by what the season usually brings"


@pytest.mark.parametrize(
    ("answer", "words"),
    [
        ([], f"answer is not of the days that were asked about: {AWAY}"),
        ("fine", f"answer is not of the days that were asked about: {AWAY}"),
        ([{"day": "2026-03-09", "night_c": 4, "noon_c": 9}], "not of the days that were asked about"),
        ([{"day": "2026-03-02", "night_c": "cold", "noon_c": 9}], "can't be read (night_c)"),
        ([{"day": "2026-03-02", "night_c": 9, "noon_c": 4}], "can't be read"),
        ([{"day": "2026-03-02", "noon_c": 4}], "can't be read (night_c)"),
    ],
)
def test_a_forecast_that_can_not_be_read_is_said_and_the_plan_goes_on(client, scope, fair, answer, words):
    fair["days"] = answer
    job_id = jobs.create(scope, PENS)
    assert begin(client, job_id).status_code == 303
    whole = page(client, job_id)
    assert words in whole and AWAY in whole
    assert plan(client, job_id)


def test_a_service_that_is_away_is_said(client, scope, monkeypatch):
    monkeypatch.setenv("GNOMONIC_WEATHER_URL", "http://127.0.0.1:9")
    job_id = jobs.create(scope, PENS)
    assert begin(client, job_id).status_code == 303
    assert f"The weather service does not answer: {AWAY}" in page(client, job_id)
    source = client.get(f"/api/v1/jobs/{job_id}/pulls").json()["climate"]["source"]
    assert source == f"the weather service does not answer: {AWAY}: read the thermometer"
    monkeypatch.setenv("GNOMONIC_WEATHER_URL", "not an address")
    with TestClient(create_app(scope), base_url="http://localhost") as other:
        assert "GNOMONIC_WEATHER_URL is no address of a weather service" in " ".join(
            other.get(f"/jobs/{job_id}/days").text.split()
        )


def test_the_practice_service_answers_at_its_interface(client):
    service = PracticeWeather()
    try:
        import urllib.error
        import urllib.request

        def get(path):
            try:
                with urllib.request.urlopen(service.address + path) as reply:
                    return reply.status, json.load(reply)
            except urllib.error.HTTPError as error:
                return error.code, json.load(error)

        status, said = get("/forecast?climate=oceanic&place=here&from=2026-03-02")
        assert status == 200
        assert [Weather.model_validate(row) for row in said["days"]] == forecast("oceanic", MONDAY, place="here")
        assert get("/forecast?climate=lunar&from=2026-03-02")[0] == 422
        assert get("/forecast?climate=oceanic&from=today") == (422, {"detail": "from: write a day as 2026-03-02"})
        assert get("/else")[0] == 404
    finally:
        service.stop()


# --- several jobs ------------------------------------------------------------------------------------------------------------
def test_jobs_share_crew_and_plant(client, scope, job):
    other = jobs.create(scope, RUN)
    begin(client, other)
    first, second = plan(client, job), plan(client, other)
    spans = [
        (s.day, s.begins, s.ends, who, which)
        for which, rows in ((1, first), (2, second))
        for r in rows.values()
        for s in r.spells
        for who in s.people
    ]
    for day, low, high, who, which in spans:
        for day2, low2, high2, who2, which2 in spans:
            assert (which, which2) == (which2, which) or who != who2 or day != day2 or high <= low2 or high2 <= low, (
                day,
                who,
            )
    whole = page(client, job, "calendar", month="2026-03")
    assert "alpaca pens" in whole and "dog run" in whole and "Two jobs want the same" not in whole
    assert "has crew and plant first" in whole
    post(client, job, "calendar/first", which=other)
    assert [r.job_id for r in days.day_plans(scope)] == [other, job]
    assert min(r.begins for r in plan(client, other).values()) <= min(r.begins for r in plan(client, job).values())


def test_a_conflict_is_shown_and_solved(client, scope, job):
    """A second job's plan that was made as if the first were not there."""
    other = jobs.create(scope, RUN)
    begin(client, other)
    mine = next(r for r in days.day_plans(scope) if r.job_id == job)
    theirs = next(r for r in days.day_plans(scope) if r.job_id == other)
    first = next(p for p in mine.made.placed if p.spells)
    key = theirs.made.placed[0].key
    same = Placed(key, first.begins, first.ends, first.hands, first.spells, "", ())
    days.keep_days(scope, other, theirs.made.model_copy(update={"placed": (same,)}), theirs.stamp)
    whole = page(client, job, "calendar", month="2026-03")
    assert "Two jobs want the same" in whole and "wanted twice" in whole
    assert re.search(r"Mon 2 March: (Ann|Ben), for .*alpaca pens and .*dog run", whole)
    days.keep_days(scope, other, theirs.made.model_copy(update={"placed": (same,)}), "old")
    post(client, job, "calendar/first")
    assert "Two jobs want the same" not in page(client, job, "calendar", month="2026-03")


def test_a_job_keeps_off_what_the_first_job_has_come_to_want(client, scope, job):
    """A search finds an order for the first job in which it wants the second's first hour: that is a conflict until they are planned one after
    the other, and from then on the second is elsewhere."""
    other = jobs.create(scope, RUN)
    begin(client, other)
    mine = days.day_plan(scope, job)
    wanted = next(p for p in plan(client, other).values() if p.spells)
    same = Placed(mine.made.placed[0].key, wanted.begins, wanted.ends, wanted.hands, wanted.spells, "", ())
    assert days.keep_days(scope, job, mine.made.model_copy(update={"placed": (same,)}), mine.stamp, only=mine.stamp)
    assert "Two jobs want the same" in page(client, job, "calendar", month="2026-03")
    assert post(client, job, "calendar/first").status_code == 303
    assert "Two jobs want the same" not in page(client, job, "calendar", month="2026-03")
    assert all(s not in wanted.spells for s in plan(client, other)[wanted.key].spells)


def test_after_a_search_the_jobs_behind_are_planned_again(client, scope, job):
    """The worker plans them: their pages find a plan that is of what the search left."""
    other = jobs.create(scope, RUN)
    begin(client, other)
    with scope.writing() as connection:
        connection.execute(text("DELETE FROM procrastinate_jobs WHERE lock = :of"), {"of": f"{SEARCH} own {other}"})
    worked_off(scope)
    assert days.day_plan(scope, job).made.state == "searched" and days.day_plan(scope, other).made.state == "quick"
    behind = days.day_plan(scope, other)
    page(client, other)
    assert days.day_plan(scope, other) == behind


def test_a_month_that_is_none(client, job):
    assert client.get(f"/jobs/{job}/calendar?month=spring").status_code == 422
    assert post(client, job, "calendar/first", which="nothere").status_code == 404
    assert "April 2026" in page(client, job, "calendar", month="2026-04")
    assert "December 2025" in page(client, job, "calendar", month="2025-12")
