"""A job of several lines over the API and its pages: one line at a time, all together, and what is refused."""

import json

import pytest
from fastapi.testclient import TestClient

from gnomonic.core.job.fence import one_line
from gnomonic.core.job.reading import read_job
from gnomonic.demo.load import holm, single_jobs
from gnomonic.formats.bring_in import bring_in
from gnomonic.store import jobs
from gnomonic.web.app import create_app


@pytest.fixture
def client(scope):
    with TestClient(create_app(scope), follow_redirects=False) as made:
        yield made


@pytest.fixture
def job(scope):
    return jobs.create(scope, holm())


def head(scope, job):
    return read_job(jobs.load(scope, job).document)


def edit(client, scope, job, change, line="", base=None):
    body = {"base": base or jobs.load(scope, job).version, "edit": change}
    return client.post(f"/api/v1/jobs/{job}/edits" + (f"?line={line}" if line else ""), json=body)


def drawn(client, job, line="A"):
    return client.get(f"/api/v1/jobs/{job}/plan?line={line}").json()["drawing"]


def test_every_page_and_sheet_is_of_the_line_that_is_asked_for(client, job):
    for path in (
        "",
        "/walk",
        "/hold",
        "/marking",
        "/print",
        "/walk-sheet",
        "/stake-out.csv",
        "/take-off.csv",
        "/line.geojson",
        "/out/csv",
    ):
        one, other = (client.get(f"/jobs/{job}{path}?line={k}") for k in ("B", "I"))
        assert one.status_code == other.status_code == 200 and one.text != other.text, path
        assert client.get(f"/jobs/{job}{path}?line=ZZ").status_code == 404, path
    rows = client.get(f"/jobs/{job}/stake-out.csv?line=B").text.splitlines()
    assert rows[1].startswith("B1,1,0 ft") and "stands already: brook paddock" in rows[1]
    assert client.get(f"/jobs/{job}/stake-out.csv").text.splitlines()[1].startswith("A1,")
    assert drawn(client, job, "F")["posts"][0]["name"] == "F1"


def test_the_jobs_page_and_its_sheet_count_all_lines_and_shared_posts_once(client, job):
    state = client.get(f"/api/v1/jobs/{job}/lines").json()
    assert set(state["figures"]) == set("ABCDEFGHI") and state["meetings"] == []
    own = {k: len(drawn(client, job, k)["posts"]) for k in "ABCDEFGHI"}
    shared = sum("shared" in p for k in own for p in drawn(client, job, k)["posts"])
    assert shared == 8 == len(holm().joins)
    assert sum(f["posts"] for f in state["figures"].values()) == sum(own.values()) - shared
    needs = client.get(f"/api/v1/jobs/{job}/needs").json()["rows"]
    assert sum(i["count"] for i in needs if i["of"] == "post") == sum(own.values()) - shared
    for item in needs:
        assert sum(item["lines"].values()) == pytest.approx(item["count"], abs=1e-3)
    sheet = client.get(f"/jobs/{job}/print-all?units=metric").text
    assert sheet.count('class="paper-sheet linesheet"') == 9 and "start on brook paddock at 76.00 m" in sheet
    assert ">Larkspur Holm<" in client.get("/").text and "9 lines" in client.get("/").text


def test_names_of_posts_stay_over_edits_a_new_server_and_undo(client, scope, job):
    before = {p["name"]: p["s"] for p in drawn(client, job, "I")["posts"]}
    nine = before["I9"]
    assert (
        edit(
            client, scope, job, {"do": "hang_fact", "post": "9", "at_m": nine, "text": "rock at 22 in"}, "I"
        ).status_code
        == 200
    )
    five, six = before["I10"], before["I11"]
    for at in (five, six, (five + six) / 2):
        assert edit(client, scope, job, {"do": "place_post", "at_m": at}, "I").status_code == 200
    after = {p["name"]: p["s"] for p in drawn(client, job, "I")["posts"]}
    assert after["I9"] == nine and any(name.endswith("a") for name in after)
    with TestClient(create_app(scope)) as again:
        assert {p["name"]: p["s"] for p in drawn(again, job, "I")["posts"]} == after, "after a start of the server too"
        index = list(after).index("I9")
        tag = again.get(f"/api/v1/jobs/{job}/tag?post={index}&line=I").json()
        assert tag["title"].endswith("I9") and "rock at 22 in" in json.dumps(tag)
    for _ in range(4):
        client.post(f"/api/v1/jobs/{job}/undo?line=I", json={"base": jobs.load(scope, job).version})
    assert {p["name"]: p["s"] for p in drawn(client, job, "I")["posts"]} == before
    refused = edit(client, scope, job, {"do": "drop_fact", "post": "9", "text": "rock"}, "I")
    assert refused.status_code == 422 and "nothing like that is known of post 9" in refused.json()["detail"]


def test_what_an_edit_of_one_line_did_to_others_is_said(client, scope, job):
    moved = edit(client, scope, job, {"do": "move_point", "line": "F", "index": 0, "e_m": 108.5, "n_m": -40.0}).json()
    text = moved["said"]["t"] + json.dumps(moved["said"]["v"])
    assert moved["line"] == "F" and "(with" in text and "brook paddock" in text
    again = edit(client, scope, job, {"do": "rename_line", "name": "lower cross fence"}, "F").json()
    assert again["said"]["t"].startswith("the plan is the same")
    assert next(line["name"] for line in again["lines"] if line["id"] == "F") == "lower cross fence"
    gone = edit(client, scope, job, {"do": "remove_line", "line": "I"}).json()
    assert gone["line"] == "A" and len(gone["lines"]) == 8 and "−" in gone["said"]["t"]
    weighed = client.post(
        f"/api/v1/jobs/{job}/weigh?line=B", json={"edit": {"do": "decide", "key": "longest_bay_m", "value": 2.0}}
    )
    assert "posts" in weighed.json()["said"]["t"]


@pytest.mark.parametrize(
    ("change", "status", "kind", "words"),
    [
        (
            {"do": "add_gate", "line": "A", "at_m": 75.0, "opening_m": 3.0},
            422,
            "plan",
            "can't stand on brook paddock at",
        ),
        (
            {"do": "join_line", "line": "G", "end": "end", "on": "G", "at_m": 1.0},
            422,
            "input",
            "can't be joined to itself",
        ),
        ({"do": "join_line", "line": "E", "end": "end", "on": "A"}, 422, "input", "say where"),
        (
            {"do": "join_line", "line": "D", "end": "end", "on": "H", "at_m": 100.0},
            422,
            "input",
            "which itself stands on",
        ),
        (
            {"do": "rename_line", "line": "D", "name": "brook paddock"},
            422,
            "input",
            "two lines of this job are called brook paddock",
        ),
        ({"do": "remove_line", "line": "D"}, 422, "input", "summer grazing would stand on a post of its own"),
    ],
)
def test_refusals_name_their_kind_and_change_nothing(client, scope, job, change, status, kind, words):
    before = jobs.load(scope, job)
    answer = edit(client, scope, job, change)
    assert answer.status_code == status and answer.json()["kind"] == kind and words in answer.json()["detail"]
    assert jobs.load(scope, job) == before


def test_a_line_drawn_onto_a_job_is_joined_where_it_was_drawn(client, scope, job):
    page = client.get(f"/draw?job={job}").text
    assert "Draw one more line for Larkspur Holm" in page and '"id":"I"' in page
    base = jobs.load(scope, job).version
    body = {
        "base": base,
        "name": "new drift",
        "points": [[-20.0, -140.0], [-60.0, -120.0]],
        "joins": [{"end": "start", "on": "I", "e_m": -20.0, "n_m": -140.0}],
    }
    made = client.post(f"/api/v1/jobs/{job}/drawn", json=body)
    assert made.status_code == 201 and made.json()["line"] == "J"
    assert [(j.line, j.on, j.at_m) for j in head(scope, job).joins][-1] == ("J", "I", 0.0)
    assert client.post(f"/api/v1/jobs/{job}/drawn", json=body).status_code == 409, "the job has moved on"
    assert (
        client.post(
            f"/api/v1/jobs/{job}/drawn", json={**body, "base": jobs.load(scope, job).version, "name": " "}
        ).status_code
        == 422
    )
    assert client.get("/draw?job=nowhere").status_code == 404


def test_a_line_moves_to_another_job_with_all_that_was_decided(client, scope, job):
    other = jobs.create(scope, single_jobs()[-1])
    base = jobs.load(scope, job).version
    stale = client.post(f"/api/v1/jobs/{job}/lines/I/move", json={"base": base - 1, "to": other})
    assert stale.status_code == 409
    kept = client.post(f"/api/v1/jobs/{job}/lines/D/move", json={"base": base, "to": other})
    assert kept.status_code == 422 and kept.json()["field"] == "lose" and len(head(scope, job).lines) == 9
    moved = client.post(f"/api/v1/jobs/{job}/lines/I/move", json={"base": base, "to": other}).json()
    assert moved == {"job": other, "line": "B"}
    was, now = holm().line("I"), head(scope, other).line("B")
    assert (now.name, now.barrier, now.gates, now.decisions) == (was.name, was.barrier, was.gates, was.decisions)
    for to, status in ((job, 422), ("nowhere", 404)):
        assert (
            client.post(
                f"/api/v1/jobs/{job}/lines/A/move", json={"base": jobs.load(scope, job).version, "to": to}
            ).status_code
            == status
        )
    assert (
        client.post(
            f"/api/v1/jobs/{job}/lines/Q/move", json={"base": jobs.load(scope, job).version, "to": other}
        ).status_code
        == 404
    )
    local = jobs.create(scope, one_line("local", bring_in("b.legs", b"N 4 E 40 m\nE 30 m\n").line))
    into = client.post(f"/api/v1/jobs/{local}/lines/A/move", json={"base": jobs.load(scope, local).version, "to": job})
    assert into.status_code == 422 and "a job has one line at least" in into.json()["detail"]


def test_documents_of_every_form_come_in_and_go_out(client, scope, job):
    saved = client.get(f"/jobs/{job}/job.json").content
    assert read_job(saved) == holm()
    came = client.post("/bring-in", files={"file": ("saved.json", saved)})
    assert len(head(scope, came.headers["location"].split("/")[2]).lines) == 9
    old = {"format": "gnomonic-job/1", "name": "Old", "line": {"points": [{"e_m": 0, "n_m": 0, "h_m": 5}, {"e_m": 60, "n_m": 0, "h_m": 5}], "source": {"kind": "csv", "points_read": 2}}}  # fmt: skip
    came = client.post("/bring-in", files={"file": ("old.json", json.dumps(old).encode())})
    assert head(scope, came.headers["location"].split("/")[2]).line("A").name == "Old"
    later = client.post(
        "/bring-in", files={"file": ("new.json", json.dumps({**old, "format": "gnomonic-job/7"}).encode())}
    )
    assert later.status_code == 422 and "made by a later Gnomonic" in later.text
