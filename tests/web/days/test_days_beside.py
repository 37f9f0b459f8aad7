"""What is made beside the pages, and what is taken away: searches, day sheets, calendars."""

from dataclasses import replace
from datetime import timedelta
from io import BytesIO

import vobject
from crews import crew, person, worked_off
from days_pages import page, plan, post
from pypdf import PdfReader
from sqlalchemy import text

from gnomonic.core.days.crew import Crew
from gnomonic.store import days
from gnomonic.store.queue import Queue
from gnomonic.web.days.current import SEARCH


# --- beside the pages --------------------------------------------------------------------------------------------------------
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


def test_what_is_of_an_order_that_was_bettered_is_of_an_older_plan(client, scope, job):
    """Day sheets and what if follow the plan, not only what it is made from."""
    post(client, job, "day-sheets")
    worked_off(scope)
    assert "Take the day sheets, PDF" in page(client, job, "day-sheets")
    kept = days.day_plan(scope, job)
    first, *rest = kept.made.placed
    later = replace(first, begins=first.begins + timedelta(minutes=15))
    worse = kept.made.model_copy(update={"placed": (later, *rest), "fair": kept.made.fair + timedelta(days=9)})
    assert "the plan as kept ends" not in page(client, job, "days/what-if")
    assert days.keep_days(scope, job, worse, kept.stamp, only=kept.stamp)
    assert "of an older plan" in page(client, job, "day-sheets")
    assert "the plan as kept ends" in page(client, job, "days/what-if")


def test_the_packet_has_the_day_sheets(client, job):
    whole = client.get(f"/jobs/{job}/print-all").text
    assert whole.count('class="daypaper"') == min(
        14, len({s.day for r in plan(client, job).values() for s in r.spells})
    )


# --- out ---------------------------------------------------------------------------------------------------------------------
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
