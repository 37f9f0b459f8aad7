"""The pages of posts and braces, their API, and events kept once."""

import pytest
from fastapi.testclient import TestClient

from gnomonic.demo.load import single_jobs
from gnomonic.store import jobs
from gnomonic.web.app import create_app

EVENT = {
    "id": "11111111-2222-4333-8444-555555555555", "device": "phone-a", "seq": 1, "clock": "2026-06-01T08:00:00Z", "line": "A", "post": "1",
    "at_m": 0.0, "kind": "depth", "reached_m": 0.5, "met": "rock",
}  # fmt: skip


@pytest.fixture
def job(scope):
    return jobs.create(scope, next(j for j in single_jobs() if "cross fence" in j.name and "orchard" not in j.name))


def stand(client, job):
    return client.get(f"/api/v1/jobs/{job}/stand").json()


def test_every_demo_line_has_its_page_and_its_sheets(client, scope):
    for made in single_jobs():
        one = jobs.create(scope, made)
        page = client.get(f"/jobs/{one}/stand")
        assert page.status_code == 200 and 'id="stand"' in page.text
        data = stand(client, one)
        assert data["holes"] and all(h["soil"] for h in data["holes"])
        for end in data["ends"][:2]:
            rows = client.get(f"/api/v1/jobs/{one}/compare", params={"at": end["at"], "ahead": end["ahead"]}).json()
            assert len(rows) == 45
        for end in [e for e in data["ends"] if e.get("panels")][:1]:
            sheet = client.get(f"/jobs/{one}/brace", params={"at": end["at"], "ahead": end["ahead"], "units": "metric"})
            assert sheet.status_code == 200 and "Cut the rail" in sheet.text
        assert "Holes in the order they are dug" in client.get(f"/jobs/{one}/print").text


def test_a_brace_sheet_from_what_was_measured_and_from_nonsense(client, job):
    at = stand(client, job)["ends"][0]["at"]
    ask = {"at": at, "ahead": True, "units": "us"}
    good = client.get(f"/jobs/{job}/brace", params={**ask, "clear": "92 1/4", "outer": "7 1/2", "inner": "6"})
    assert good.status_code == 200 and "7 ft 8¼ in as measured" in good.text
    for clear, says in (
        ("0", "between the faces"),
        ("50 ft", "between the faces"),
        ("wide", "is not a length"),
        ("", "a length is missing"),
    ):
        bad = client.get(f"/jobs/{job}/brace", params={**ask, "clear": clear, "outer": "7 1/2", "inner": "6"})
        assert bad.status_code == 422 and says in bad.text and "Cut the rail" in bad.text, clear
    assert client.get(f"/jobs/{job}/brace", params={**ask, "at": 33.0}).status_code == 422


def test_an_event_is_kept_once_whatever_comes_twice_and_the_plan_answers(client, job, scope):
    before = jobs.load(scope, job)
    first = client.post(f"/api/v1/jobs/{job}/events", json={"events": [EVENT]})
    assert first.status_code == 200 and "written down" in str(first.json()["said"])
    assert first.json()["version"] == before.version, "a fact is no edit"
    again = client.post(f"/api/v1/jobs/{job}/events", json={"events": [EVENT, EVENT], "now": "2026-06-01T08:00:10Z"})
    assert "already" in str(again.json()["said"])
    kept = client.get(f"/api/v1/jobs/{job}/events").json()
    assert len(kept["events"]) == 1 and kept["known"]["A"][0]["reached_m"] == 0.5
    hole = next(h for h in stand(client, job)["holes"] if h["post"] == 0)
    assert hole["depth"] == 0.5 and hole["built"]["met"] == "rock"
    assert any(
        "stopped at" in s["title"]["t"] for s in client.get(f"/api/v1/jobs/{job}/plan").json()["drawing"]["snags"]
    )
    fresh = TestClient(create_app(scope))  # a restart between two requests
    assert next(h for h in stand(fresh, job)["holes"] if h["post"] == 0)["depth"] == 0.5
    edited = client.post(
        f"/api/v1/jobs/{job}/edits",
        json={"base": before.version, "edit": {"do": "ask_post", "at_m": 0.0, "fill": "concrete"}},
    )
    assert (
        edited.status_code == 200
        and next(h for h in stand(client, job)["holes"] if h["post"] == 0)["fill"]["t"] == "concrete"
    )
    undone = client.post(f"/api/v1/jobs/{job}/undo", json={"base": edited.json()["version"]})
    assert (
        undone.status_code == 200 and next(h for h in stand(client, job)["holes"] if h["post"] == 0)["depth"] == 0.5
    ), "undo takes no fact back"


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"reached_m": 9.0}, "events[0].reached_m"),
        ({"reached_m": 3.9}, "events[0].reached_m"),
        ({"line": "Z"}, "events[0].line"),
        ({"id": "1"}, "events[0].id"),
        ({"kind": "wish"}, "events[0].kind"),
        ({"colour": "red"}, "events[0].colour"),
        ({"clock": "yesterday"}, "events[0].clock"),
        ({"reached": "deep", "reached_m": None}, "reached_m"),
    ],
)
def test_events_refused_name_the_field_and_keep_nothing(client, job, change, field):
    answer = client.post(f"/api/v1/jobs/{job}/events", json={"events": [{**EVENT, **change}]})
    assert answer.status_code == 422 and answer.json()["field"] == field, answer.json()
    assert client.get(f"/api/v1/jobs/{job}/events").json()["events"] == []


def test_lengths_as_typed_and_jobs_that_are_not_there(client, job):
    typed = {k: v for k, v in EVENT.items() if k != "reached_m"} | {"reached": "22", "bare": "in"}
    client.post(f"/api/v1/jobs/{job}/events", json={"events": [typed]})
    assert client.get(f"/api/v1/jobs/{job}/events").json()["known"]["A"][0]["reached_m"] == pytest.approx(22 * 0.0254)
    assert client.post("/api/v1/jobs/nobody/events", json={"events": [EVENT]}).status_code == 404
    assert client.get("/api/v1/jobs/nobody/stand").status_code == 404
    far = client.post(f"/api/v1/jobs/{job}/events", json={"events": [EVENT], "now": "1999-01-01T00:00:00Z"})
    assert far.status_code == 200  # a clock that stands in another century is put right, nothing is refused for it


def test_a_job_removed_takes_its_events_with_it(client, job, scope):
    client.post(f"/api/v1/jobs/{job}/events", json={"events": [EVENT]})
    jobs.remove(scope, job)
    assert client.get(f"/api/v1/jobs/{job}/events").status_code == 404
