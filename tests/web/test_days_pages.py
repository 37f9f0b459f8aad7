"""The pages of days over HTTP and a real database: begun, moved, ticked, shared by jobs, searched beside the pages."""

import html
import json
import re
from datetime import date, datetime, time, timedelta
from io import BytesIO

import pytest
import vobject
from crews import MONDAY, check_plan, crew, person, worked_off
from fastapi.testclient import TestClient
from places import edit_page
from pypdf import PdfReader
from sqlalchemy import text

from gnomonic.core.days.crew import Crew, Plant
from gnomonic.core.days.laying import Given
from gnomonic.core.days.made import Made
from gnomonic.core.days.placing import Placed
from gnomonic.core.days.weather import Weather
from gnomonic.core.days.work import tasks_of
from gnomonic.demo.load import demo_jobs
from gnomonic.standins.service import Service
from gnomonic.standins.weather import PracticeWeather, forecast
from gnomonic.store import days, jobs
from gnomonic.store.queue import Queue
from gnomonic.web.app import create_app
from gnomonic.web.days import inputs
from gnomonic.web.days.current import SEARCH, current

JOBS = demo_jobs()
PENS = next(j for j in JOBS if "alpaca pens" in j.name)
RUN = next(j for j in JOBS if "dog run" in j.name)
MORNING = datetime(2026, 3, 2, 6, 30)


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
def client(scope):
    with TestClient(create_app(scope), base_url="http://localhost") as made:
        yield made


@pytest.fixture
def job(client, scope):
    """The pens, marked, begun on Monday with two who know everything."""
    days.put_crew(scope, crew())
    job_id = jobs.create(scope, PENS.model_copy(update={"marking": None}))
    assert begin(client, job_id).status_code == 303
    return job_id


def begin(client, job_id, start="2026-03-02"):
    return client.post(f"/jobs/{job_id}/days", data={"start": start}, follow_redirects=False)


def plan(client, job_id):
    """A job's plan of days by task, as the API has it."""
    made = client.get(f"/api/v1/jobs/{job_id}/days").json()["plan"]
    return {p.key: p for p in Made.model_validate_json(json.dumps(made)).placed}


def page(client, job_id, place="days", **query):
    answer = client.get(f"/jobs/{job_id}/{place}", params=query)
    assert answer.status_code == 200, answer.text[:400]
    return html.unescape(" ".join(answer.text.split()))


def post(client, job_id, place, **data):
    return client.post(f"/jobs/{job_id}/{place}", data=data, follow_redirects=False)


def refusal(answer):
    assert answer.status_code == 422, answer.text[:300]
    said = re.search(r'id="refused">(.*?)</p>', answer.text, re.S).group(1).partition(" <a")[0]
    return html.unescape(said)


# --- begun ------------------------------------------------------------------------------------------------------------------
def test_before_it_has_a_beginning(client, scope):
    job_id = jobs.create(scope, PENS)
    whole = page(client, job_id)
    assert "When is it done?" in whole and "That crew is assumed" in whole and "Plan the days" in whole
    assert client.get(f"/api/v1/jobs/{job_id}/days").json() == {"stamp": "", "looking": "", "refused": "", "plan": None}
    for place in ("day", "days/what-if", "day-sheets"):
        assert "say when the job begins" in page(client, job_id, place)
    assert "No job has a beginning yet" in page(client, job_id, "calendar")
    assert not hasattr(vobject.readOne(client.get(f"/jobs/{job_id}/days.ics").text), "vevent")
    refused = post(client, job_id, "day-sheets")
    assert refused.status_code == 422 and "no day sheets before the job has a beginning" in refused.text
    assert client.get(f"/jobs/{job_id}/day-sheets.pdf").status_code == 404


def test_a_job_is_begun_and_its_plan_holds(client, scope, job):
    whole = page(client, job)
    assert re.search(r"Done by \w{3} \d+ \w+ half the time, by \w{3} \d+ \w+ nine times in ten", whole)
    assert "2 people" in whole and "Begins <b>Mon 2 March</b>" in whole
    rows = plan(client, job)
    it = next(
        iter(create_app(scope).state.plans.of("x", jobs.load(scope, job).key, jobs.load(scope, job).document, "").all())
    )
    tasks = tasks_of(it.fence, it.plan)
    assert set(rows) == {t.key for t in tasks}
    check_plan(rows, tasks, crew(), Given(MONDAY, marks={"A": date(2026, 3, 7)}))
    stroked = re.findall(r'data-key="([^"]+)" class="task', whole)
    assert sorted(stroked) == sorted(rows), "every task is drawn once"


def test_what_is_drawn_is_where_it_is_planned(client, job):
    """A stroke ends as far down as its day; its row of the table says the same day."""
    rows, whole = plan(client, job), page(client, job)
    for key, row in rows.items():
        link = re.search(rf'href="[^"]*day=([\d-]+)[^"]*task={re.escape(key)}"', whole)
        assert link and date.fromisoformat(link.group(1)) == row.begins.date()


@pytest.mark.parametrize(
    ("start", "words"),
    [
        ("soon", "Begins: “soon” is not a day; write it like 2026-03-02"),
        ("2026-02-30", "Begins: “2026-02-30” is not a day"),
        ("1999-01-01", "Begins: 1 January 1999 is too far away"),
        ("2099-01-01", "is too far away; give a day within a year past or three to come"),
        ("", "is not a day"),
    ],
)
def test_a_beginning_that_is_none(client, job, start, words):
    before = client.get(f"/api/v1/jobs/{job}/days").json()
    assert words in refusal(begin(client, job, start))
    assert client.get(f"/api/v1/jobs/{job}/days").json() == before, "nothing was lost"


def test_no_hole_before_the_marks(client, job):
    """Nobody has asked: five days from now.  Clearing goes on meanwhile."""
    rows = plan(client, job)
    dug = [r for k, r in rows.items() if "holes" in k or "drill" in k or "drive" in k or k.endswith("_posts")]
    assert dug and min(r.begins.date() for r in dug) >= date(2026, 3, 7)
    assert "No hole before the marks are in: planned from 7 March on" in page(client, job)


def test_another_process_shows_the_same(client, scope, job):
    """Nothing is held in a process: one that is started between two requests answers as the first."""
    with TestClient(create_app(scope), base_url="http://localhost") as other:
        assert other.get(f"/api/v1/jobs/{job}/days").json() == client.get(f"/api/v1/jobs/{job}/days").json()
        key = next(k for k in plan(client, job) if "marks" in k)
        assert post(other, job, "ticks", task=key, share="100", day="2026-03-02").status_code == 303
    assert "1 of" in page(client, job) and f't-{key}" class="gone"' in page(client, job, "day", day="2026-03-02")


def test_an_edit_of_the_job_is_in_its_days(client, job):
    before = plan(client, job)
    edit_page(client, job, do="decide", key="longest_bay_m", value=1.5)
    after = plan(client, job)
    assert set(before) == set(after)
    longer = sum((r.ends - r.begins).total_seconds() for r in after.values())
    assert longer > sum((r.ends - r.begins).total_seconds() for r in before.values())


def test_what_was_not_done_is_planned_anew_in_the_morning(client, job, today):
    today["at"] = datetime(2026, 3, 5, 6, 0)
    assert min(r.begins for r in plan(client, job).values()) >= datetime(2026, 3, 5, 7, 30)


def test_the_page_of_one_line_and_one_task(client, job):
    key = next(k for k in plan(client, job) if k.endswith(".pull") or k.endswith(".hang"))
    whole = page(client, job, task=key)
    assert 'id="task"' in whole and "One person" in whole and "why?" in whole
    assert f"/jobs/{job}?line=A#at=" in whole, "a way to the place on the strip"
    assert "pulls" in page(client, job, line="A")
    assert client.get(f"/jobs/{job}/days?day=soon").status_code == 422
    assert client.get("/jobs/nothere/days").status_code == 404


# --- moved -------------------------------------------------------------------------------------------------------------------
def test_a_task_is_moved_and_let_go_again(client, job):
    first = plan(client, job)
    key = min((r.begins, k) for k, r in first.items())[1]
    answer = post(client, job, "days/pin", task=key, at="2026-03-05T10:00")
    assert (
        answer.status_code == 303
        and f"task={key}" in answer.headers["location"]
        and "day=2026-03-05" in answer.headers["location"]
    )
    assert plan(client, job)[key].begins == datetime(2026, 3, 5, 10, 0)
    assert "Let it begin as early as it can" in page(client, job, task=key)
    assert post(client, job, "days/pin", task=key).status_code == 303
    assert plan(client, job)[key].begins < datetime(2026, 3, 5)


@pytest.mark.parametrize(
    ("which", "at", "words"),
    [
        (
            "A.1.drill",
            "2026-03-03T08:00",
            "is work in the ground: it can’t begin on 3 March 2026, before the marks are in (7 March 2026)",
        ),
        ("A.1.inspect", "2026-02-01T08:00", "1 February 2026 is outside the plan, which begins on 2 March 2026"),
        ("A.1.inspect", "2031-02-01T08:00", "is outside the plan"),
        ("A.1.inspect", "noon", "“noon” is no day and time"),
        ("A.1.inspect", "2026-03-20T08:00+02:00", "by the clocks where the fence is, without a zone"),
    ],
)
def test_a_move_that_can_not_be(client, job, which, at, words):
    rows = plan(client, job)
    key = next(
        k
        for k in rows
        if k.split(".")[-1]
        in ((which.split(".")[-1], "drive", "end_holes") if "drill" in which else (which.split(".")[-1],))
    )
    assert words in refusal(post(client, job, "days/pin", task=key, at=at))
    assert plan(client, job) == rows


def test_a_task_that_is_not_there(client, job):
    assert post(client, job, "days/pin", task="Z.9.knit", at="2026-03-05T10:00").status_code == 404
    assert post(client, job, "ticks", task="Z.9.knit").status_code == 404
    assert 'id="task"' not in page(client, job, task="Z.9.knit")


# --- done ----------------------------------------------------------------------------------------------------------------------
def test_a_tick_moves_the_plan_and_counts_once(client, scope, job):
    rows = plan(client, job)
    key = min((r.begins, k) for k, r in rows.items())[1]
    for _ in range(3):
        answer = post(
            client, job, "ticks", task=key, share="100", hours="1.5", by=["ann"], id="tap-1", day="2026-03-02"
        )
        assert answer.status_code == 303 and answer.headers["location"].endswith(f"#t-{key}")
    (kept,) = days.day_ticks(scope, job)
    assert (kept.share, kept.hours, kept.by) == (1.0, 1.5, ("Ann",))
    assert "1 of" in page(client, job)
    sheet = page(client, job, "day", day="2026-03-02")
    assert "not done after all" in sheet
    post(client, job, "ticks", task=key, share="0", id="tap-2")
    assert "not done after all" not in page(client, job, "day", day=str(plan(client, job)[key].begins.date()))


def test_when_all_of_it_is_done(client, job, today):
    """Everything ticked: said so, nothing left to do, on no page a fault."""
    rows = plan(client, job)
    for n, key in enumerate(rows):
        post(client, job, "ticks", task=key, share="100", id=f"tap-{n}")
    whole = page(client, job)
    assert "All of it is done." in whole and "0 min of one person left" in whole
    assert "does not end within the calendar" not in whole
    for place in ("day", "days/what-if", "calendar", "crew", "day-sheets"):
        page(client, job, place)
    today["at"] += timedelta(days=3)
    assert "All of it is done." in page(client, job)


def test_part_of_a_task_leaves_the_rest(client, job, today):
    rows = plan(client, job)
    key = max(rows, key=lambda k: (rows[k].ends - rows[k].begins, k))
    whole = sum(s.ends - s.begins for s in rows[key].spells) * rows[key].hands
    post(client, job, "ticks", task=key, share="part", share_part="75", id="tap-1")
    after = plan(client, job)[key]
    left = sum(s.ends - s.begins for s in after.spells) * after.hands
    assert left == pytest.approx(whole / 4, abs=30)


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"share_part": "half"}, "How much of it: “half” is not a number; write 100 for all of it"),
        ({"share_part": "120"}, "How much of it: 120 is not between 0 and 100 %"),
        ({"share_part": "nan"}, "is not between"),
        ({"share_part": "50", "hours": "lots"}, "Hours of all who were at it: “lots” is not a number"),
        ({"share_part": "50", "hours": "0"}, "Hours of all who were at it: 0 is not between"),
        ({"share_part": "50", "hours": "1e9"}, "is not between 0 and 1000"),
    ],
)
def test_a_tick_that_can_not_be(client, scope, job, typed, words):
    rows = plan(client, job)
    key = min((r.begins, k) for k, r in rows.items())[1]
    answer = post(client, job, "ticks", task=key, share="part", day=str(rows[key].begins.date()), **typed)
    assert words in refusal(answer)
    assert not days.day_ticks(scope, job)
    assert f'value="{typed["share_part"]}"' in answer.text, "what was typed is still there"


def test_rates_are_learned_from_ticks_and_the_end_moves(client, scope, job):
    """Three tasks of a kind in twice the usual: from the third on that counts, is shown where rates are, and said as a drift."""
    state = create_app(scope).state
    tasks = current(state, job).given.tasks
    kind = next(t.kind for t in tasks.values() if sum(o.kind == t.kind for o in tasks.values()) >= 4)
    mine = [t for t in tasks.values() if t.kind == kind][:3]
    for n, task in enumerate(mine):
        twice = f"{task.minutes[1] * 2 / 60:.4f}"
        post(client, job, "ticks", task=task.key, share="part", share_part="100", hours=twice, id=f"tap-{n}")
        assert ("median of 3" in page(client, job)) == (n == 2)
    assert re.search(r"[\d.]+ of 3</td>", page(client, job, "crew"))
    assert "The whole ends" in page(client, job)


# --- crew ------------------------------------------------------------------------------------------------------------------------
def typed_crew(client, job_id, **change):
    """What the crew form would send, changed."""
    sent = client.get(f"/jobs/{job_id}/crew").text
    form: dict[str, list[str]] = {}
    for tag in re.findall(r"<input[^>]*>", sent):
        name, value = re.search(r'name="([^"]*)"', tag), re.search(r'value="([^"]*)"', tag)
        if name and not ("checkbox" in tag and "checked" not in tag):
            form.setdefault(name.group(1), []).append(value.group(1) if value else "1")
    for name, options in re.findall(r'<select[^>]*name="([^"]*)"[^>]*>(.*?)</select>', sent, re.S):
        picked = re.search(r'value="([^"]*)" selected', options) or re.search(r'value="([^"]*)"', options)
        form[name] = [picked.group(1)]
    form |= {k: v if isinstance(v, list) else [v] for k, v in change.items()}
    return form


def save_crew(client, job_id, **change):
    return client.post(f"/jobs/{job_id}/crew", data=typed_crew(client, job_id, **change), follow_redirects=False)


def test_a_crew_is_said_and_every_plan_is_made_anew(client, scope, job):
    before = plan(client, job)
    answer = save_crew(client, job, p2_name="Cy Young", p2_kind="helper", p2_days=["5"], p2_begins="8:00", p2_ends="14:30", p2_skills=["wire"], p2_away="2026-03-14; 2026-07-03 to 2026-07-10 hay", off="2026-03-10 market", country="pt", m_auger="2", m_auger_hired="1", r_marks="2.5")  # fmt: skip
    assert answer.status_code == 303
    kept = days.crew(scope)
    cy = kept.people[2]
    assert (cy.id, cy.name, cy.days, cy.begins, cy.skills) == ("cy-young", "Cy Young", (5,), time(8), ("wire",))
    assert [(o.first.day, o.last.day, o.why) for o in cy.away] == [(14, 14, ""), (3, 10, "hay")]
    assert kept.country == "PT" and kept.off[0].why == "market"
    assert next(p for p in kept.plant if p.kind == "auger") == Plant(kind="auger", count=2, hired=True)
    assert kept.rates["marks"] == pytest.approx(2.5 / 3.048), "2.5 minutes for 10 ft"
    assert days.crew(scope).people[0].name == "Ann", "the others are who they were"
    assert all(s.day != date(2026, 3, 10) for r in plan(client, job).values() for s in r.spells)
    assert plan(client, job) != before
    assert client.app.state.queue.waiting(SEARCH, f"own {job}") == "todo"


def test_who_comes_no_more_is_gone(client, scope, job):
    assert save_crew(client, job, p1_gone="1").status_code == 303
    assert [p.name for p in days.crew(scope).people] == ["Ann"]
    whole = page(client, job)
    assert "takes 2 people at once, and there is never more than 1: say who comes and helps" in whole
    assert client.get(f"/api/v1/jobs/{job}/days").json()["refused"].startswith("“")


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"p0_begins": "half seven"}, "Ann begins: “half seven” is not a time; write it like 7:30"),
        ({"p0_begins": "25:00"}, "is not a time"),
        ({"p0_begins": "17:00"}, "Ann stops before beginning"),
        ({"p1_name": "Ann"}, "two people have the same name"),
        ({"p0_away": "next week"}, "Ann is away: “next week” can’t be read"),
        ({"p0_away": "2026-07-10 to 2026-07-03"}, "the last day off is before the first"),
        ({"p0_comes": "2026-13-01"}, "is not a day"),
        ({"off": "hay in July"}, "Nobody comes: “hay in July” can’t be read"),
        ({"zone": "Middle/Earth"}, "there is no time zone “Middle/Earth”"),
        ({"country": "XX"}, "no holidays of “XX” are on file"),
        ({"country": "DE", "region": "ZZ"}, "DE has no region “ZZ”"),
        ({"lat": "47"}, "a place has latitude and longitude"),
        ({"lat": "north", "lon": "1"}, "Latitude: “north” is not a number"),
        ({"lat": "95", "lon": "1"}, "less than or equal to 90"),
        ({"m_auger": "two"}, "How many augers: “two” is not a whole number"),
        ({"r_marks": "0"}, "greater than 0"),
        ({"rest_min": "-5"}, "Midday break: “-5” is not a whole number"),
        ({"p0_name": "A" * 61}, "60"),
    ],
)
def test_a_crew_that_can_not_be_is_refused_and_nothing_typed_is_lost(client, scope, job, change, words):
    before = days.crew(scope)
    answer = save_crew(client, job, **change)
    assert words.lower() in refusal(answer).lower()
    assert days.crew(scope) == before
    for name, value in change.items():
        assert value in html.unescape(answer.text), name


def test_two_windows_do_not_write_over_each_other(client, scope, job):
    mine = typed_crew(client, job, p1_name="Bea")
    assert save_crew(client, job, p1_name="Bob").status_code == 303
    answer = client.post(f"/jobs/{job}/crew", data=mine, follow_redirects=False)
    assert "changed in another window; nothing of yours was saved over it" in refusal(answer)
    assert [p.name for p in days.crew(scope).people] == ["Ann", "Bob"]


def test_rates_not_asked_about_stay(client, scope, job):
    days.put_crew(scope, crew(rates={"crossings": 300.0}))
    assert save_crew(client, job, r_marks="3", units="metric").status_code == 303
    assert days.crew(scope).rates == {"crossings": 300.0, "marks": pytest.approx(0.3)}


# --- weather -----------------------------------------------------------------------------------------------------------------------
def rows_of(*rows):
    return lambda first: [
        Weather(day=first + timedelta(days=k), **{"night_c": 4, "noon_c": 10, **row}).model_dump(mode="json")
        for k, row in enumerate(rows)
    ]


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


# --- several jobs ------------------------------------------------------------------------------------------------------------------
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


def test_a_month_that_is_none(client, job):
    assert client.get(f"/jobs/{job}/calendar?month=spring").status_code == 422
    assert post(client, job, "calendar/first", which="nothere").status_code == 404
    assert "April 2026" in page(client, job, "calendar", month="2026-04")
    assert "December 2025" in page(client, job, "calendar", month="2025-12")


# --- what if ---------------------------------------------------------------------------------------------------------------------
def test_what_if_never_says_the_wrong_way(client, job):
    sent = client.get(f"/jobs/{job}/days/what-if").text
    rows = re.findall(
        r'<tr class="[^"]*"><th scope="row">(.*?)</th><td>(.*?)</td><td class="num">(.*?)</td><td>(.*?)</td></tr>',
        sent,
        re.S,
    )
    said = {what: re.sub(r"<[^>]+>", "", cell).strip() for what, _, cell, _ in rows}
    assert rows[0][0] == "As it is"
    for what, cell in said.items():
        if what.startswith(("One more", "Everybody works")):
            assert "later" not in cell, what
        if what.startswith(("Without Ben", "Begun a week")):
            assert "later" in cell or cell in ("0", ""), what
    refused = next(why for what, ends, _, why in rows if what == "Without Ben")
    assert "takes 2 people at once" in refused
    assert any(why == "Nothing: something else holds the end" for _, _, _, why in rows)


# --- beside the pages ------------------------------------------------------------------------------------------------------------
def test_the_search_runs_beside_the_pages(client, scope, job):
    assert client.get(f"/api/v1/jobs/{job}/days").json()["looking"] == "todo"
    assert "Waiting for a worker to look for a better order" in page(client, job)
    before = client.get(f"/api/v1/jobs/{job}/days").json()["plan"]
    worked_off(scope)
    answer = client.get(f"/api/v1/jobs/{job}/days").json()
    assert answer["looking"] == "" and answer["plan"]["state"] == "searched"
    assert answer["plan"]["ends"] <= before["ends"] and answer["plan"]["seasons"] == 1000
    assert answer["plan"]["bound"] <= answer["plan"]["fair"]
    assert 'id="looking"' not in page(client, job)
    post(client, job, "days/search")
    assert client.get(f"/api/v1/jobs/{job}/days").json()["looking"] == "todo"


def test_the_same_work_waits_once(scope, job):
    queue = Queue(scope.engine)
    assert not queue.put(SEARCH, f"own {job}", workspace="own", job_id=job), "it waits already"
    assert queue.put(SEARCH, "own another", workspace="own", job_id="another")
    worked_off(scope)
    assert queue.waiting(SEARCH, f"own {job}") == queue.waiting(SEARCH, "own another") == "", (
        "of a job that is gone nothing is made"
    )
    queue.close()


def test_what_a_dead_worker_had_begun_is_taken_up(client, scope, job):
    """A worker that has not been heard of for minutes: nobody is said to be looking, and the next one does it."""
    with scope.writing() as connection:
        gone = connection.execute(
            text(
                "INSERT INTO procrastinate_workers (last_heartbeat) VALUES (now() - interval '5 minutes') RETURNING id"
            )
        ).scalar_one()
        connection.execute(
            text("UPDATE procrastinate_jobs SET status = 'doing', worker_id = :w WHERE lock = :k"),
            {"w": gone, "k": f"{SEARCH} own {job}"},
        )
    assert client.get(f"/api/v1/jobs/{job}/days").json()["looking"] == ""
    worked_off(scope)
    assert client.get(f"/api/v1/jobs/{job}/days").json()["plan"]["state"] == "searched"


def test_a_search_does_not_write_over_what_was_changed_meanwhile(client, scope, job):
    """The plan was made of other things by the time the search ends: it is thrown away."""
    made = days.day_plan(scope, job).made
    assert not days.keep_days(scope, job, made.model_copy(update={"state": "searched"}), "x", only="another stamp")
    assert days.day_plan(scope, job).made.state == "quick"


def test_a_plan_that_another_version_made_is_made_anew(client, scope, job):
    """A kept plan is worked out, not said: one with a field more, or torn, is no fault."""
    for odd in ('{"state": "quick", "of": "another version"}', '{"sta'):
        with scope.writing() as connection:
            connection.execute(text("UPDATE day_plans SET made = :odd WHERE job_id = :job"), {"odd": odd, "job": job})
        assert plan(client, job)
        assert "Done by" in page(client, job)


def test_day_sheets_on_paper(client, scope, job):
    assert "Lay the day sheets out" in page(client, job, "day-sheets")
    assert post(client, job, "day-sheets", units="metric").status_code == 303
    assert "Waiting for a worker to lay them out" in page(client, job, "day-sheets", units="metric")
    assert client.get(f"/jobs/{job}/day-sheets.pdf").status_code == 404
    with scope.writing() as connection:
        connection.execute(text("DELETE FROM procrastinate_jobs WHERE task_name = :t"), {"t": SEARCH})
    worked_off(scope)
    assert "Take the day sheets, PDF" in page(client, job, "day-sheets", units="metric")
    answer = client.get(f"/jobs/{job}/day-sheets.pdf")
    assert answer.status_code == 200 and answer.headers["content-type"] == "application/pdf"
    sheets = [p.extract_text() for p in PdfReader(BytesIO(answer.content)).pages]
    worked = sorted({s.day for r in plan(client, job).values() for s in r.spells})
    for day in worked:
        mine = next(s for s in sheets if f"{day:%a} {day.day} {day:%B}" in s)
        assert "Ann" in mine
    before = days.ask_paper(scope, job, "day_sheets", days.paper(scope, job, "day_sheets")[0])
    assert not before, "of the same plan it is not asked for twice"
    today_key = next(k for k in plan(client, job) if "marks" in k)
    post(client, job, "ticks", task=today_key, share="100")
    assert "of an older plan" in page(client, job, "day-sheets", units="metric")


def test_the_packet_has_the_day_sheets(client, job):
    whole = client.get(f"/jobs/{job}/print-all").text
    assert whole.count('class="daypaper"') == min(
        14, len({s.day for r in plan(client, job).values() for s in r.spells})
    )


# --- out ---------------------------------------------------------------------------------------------------------------------------
def test_days_for_a_calendar(client, job):
    rows = plan(client, job)
    events = vobject.readOne(client.get(f"/jobs/{job}/days.ics").text).vevent_list
    assert len(events) == len({(k, s.day) for k, r in rows.items() for s in r.spells})
    hers = vobject.readOne(client.get(f"/jobs/{job}/days.ics?who=ann").text).vevent_list
    assert len(hers) == len({(k, s.day) for k, r in rows.items() for s in r.spells if "ann" in s.people})
    refused = client.get(f"/jobs/{job}/days.ics?who=zoe")
    assert refused.status_code == 422 and "obody is called “zoe” here" in refused.text
    first = min(rows.values(), key=lambda r: r.begins)
    starts = [e.dtstart.value.replace(tzinfo=None) for e in events]
    assert min(starts) == first.begins, "UTC, where the crew is in UTC"


def test_a_crew_without_anybody_is_said(client, scope, job):
    days.put_crew(scope, Crew(people=()))
    assert "Nobody works on any day from 2 March 2026 on" in page(client, job)
    assert client.get(f"/jobs/{job}/day").status_code == 200
    days.put_crew(scope, crew(person("Ann"), person("Ben")))
    assert plan(client, job), "and planned again when somebody comes"
