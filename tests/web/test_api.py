"""The application through its API and pages, on a real PostgreSQL."""

import csv
import io
import json

import gpxpy
import pytest
from fastapi.testclient import TestClient
from jsonschema import Draft202012Validator

from gnomonic.core.job.document import Job
from gnomonic.core.job.reading import read_job
from gnomonic.demo.load import single_jobs
from gnomonic.formats.bring_in import bring_in
from gnomonic.store import jobs
from gnomonic.web.app import create_app

DECIDE = {"do": "decide", "key": "longest_bay_m", "value": 3.5}


@pytest.fixture
def client(scope):
    with TestClient(create_app(scope), raise_server_exceptions=False) as made:
        yield made


@pytest.fixture
def job(scope, paddock):
    return jobs.create(scope, paddock)


def now(client, job):
    return client.get(f"/api/v1/jobs/{job}/plan").json()


def edit(client, job, change, base=None):
    base = now(client, job)["version"] if base is None else base
    return client.post(f"/api/v1/jobs/{job}/edits", json={"base": base, "edit": change})


def test_undo_and_redo_over_many_edits_and_a_restart(client, scope, job):
    bays = [3.5, 3.2, 3.1, 3.048]
    for value in bays:
        assert edit(client, job, {**DECIDE, "value": value}).status_code == 200
    other = TestClient(create_app(scope))  # a restarted server knows nothing but the database
    seen = []
    for _ in bays:
        answer = other.post(f"/api/v1/jobs/{job}/undo", json={"base": now(other, job)["version"]}).json()
        seen.append(answer["drawing"]["decisions"]["longest_bay_m"])
    assert seen == [3.1, 3.2, 3.5, 3.048] and answer["undo"] is False and answer["redo"] is True
    nothing = other.post(f"/api/v1/jobs/{job}/undo", json={"base": answer["version"]}).json()
    assert nothing["said"]["t"] == "nothing to undo" and nothing["version"] == answer["version"]
    for value in bays:
        answer = client.post(f"/api/v1/jobs/{job}/redo", json={"base": now(client, job)["version"]}).json()
        assert answer["drawing"]["decisions"]["longest_bay_m"] == value
    assert answer["redo"] is False


def test_an_edit_after_undo_opens_a_new_way_forward(client, job):
    edit(client, job, DECIDE)
    client.post(f"/api/v1/jobs/{job}/undo", json={"base": now(client, job)["version"]})
    edit(client, job, {"do": "rename", "name": "Other way"})
    client.post(f"/api/v1/jobs/{job}/undo", json={"base": now(client, job)["version"]})
    redone = client.post(f"/api/v1/jobs/{job}/redo", json={"base": now(client, job)["version"]}).json()
    assert redone["drawing"]["name"] == "Other way" and redone["drawing"]["decisions"]["longest_bay_m"] == 3.048


def test_the_later_of_two_windows_is_told_and_nothing_is_overwritten(client, job):
    base = now(client, job)["version"]
    assert edit(client, job, DECIDE, base).status_code == 200
    late = edit(client, job, {"do": "rename", "name": "Late"}, base)
    assert late.status_code == 409 and "another window" in late.json()["detail"]
    assert now(client, job)["drawing"]["name"] != "Late" and late.json()["head"] == now(client, job)["version"]
    assert edit(client, job, {"do": "rename", "name": "Late"}, late.json()["head"]).status_code == 200
    assert client.post(f"/api/v1/jobs/{job}/undo", json={"base": base}).status_code == 409


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({**DECIDE, "value": "12,5 m"}, "value", "a comma"),
        ({**DECIDE, "value": "-3 ft"}, "longest_bay_m", "must lie between"),
        ({"do": "add_gate", "at_m": "3000 ft", "opening_m": "12 ft"}, "gates", "beyond the line's end"),
        ({"do": "forbid", "from_m": 100, "to_m": 110}, "forbidden", "no feasible set-out"),
        ({"do": "place_post", "at_m": None}, "at_m", "must be a number"),
        ({}, "", "discriminator"),
        ({"do": "place_post", "at_m": "12", "bare": "furlong"}, "bare", "must be one of ft, in, m, mm"),
        ({"do": "place_post", "at_m": "12", "bare": 5}, "bare", "must be one of"),
        ({"do": "rename", "name": "two\nlines"}, "name", "plain text on one line"),
        ({"do": "rename", "name": "nul\u0000"}, "edit.name", "a character that is no text"),
        ({"do": ["rename"]}, "", "does not match"),
    ],
)
def test_a_refused_edit_leaves_the_job_as_it_was(client, job, change, field, words):
    before = now(client, job)
    answer = edit(client, job, change)
    assert answer.status_code == 422 and answer.json()["field"] == field and words in answer.json()["detail"]
    assert now(client, job)["version"] == before["version"]


def test_typed_lengths_and_what_they_did(client, job):
    answer = edit(client, job, {**DECIDE, "value": "12", "bare": "ft"}).json()
    assert answer["drawing"]["decisions"]["longest_bay_m"] == pytest.approx(3.6576)
    assert "posts" in answer["said"]["t"]
    offcuts = edit(client, job, {"do": "own_offcuts", "offcuts_m": ["120 ft", "30"], "bare": "ft"}).json()
    assert offcuts["drawing"]["offcuts"] == [pytest.approx(36.576), pytest.approx(9.144)]
    answer = edit(client, job, {"do": "hang_fabric", "label": "13-48-6"}).json()
    assert "13-48-6 hung instead of 9-49-6" in answer["said"]["t"]
    weighed = client.post(f"/api/v1/jobs/{job}/weigh", json={"edit": {**DECIDE, "value": 3.048}}).json()
    assert "posts" in weighed["said"]["t"] and now(client, job)["version"] == answer["version"]
    refused = client.post(f"/api/v1/jobs/{job}/weigh", json={"edit": {"do": "forbid", "from_m": 100, "to_m": 110}})
    assert "no feasible" in refused.json()["said"]["t"]


def test_an_offcut_too_short_to_use_is_said_beside_what_changed(client, job):
    """A whole roll on hand saves one; 10 ft is under the shortest piece allowed, 20 ft."""
    said = edit(client, job, {"do": "own_offcuts", "offcuts_m": ["330 ft", "10 ft"], "bare": "ft"}).json()["said"]
    assert "−1 roll" in said["t"] and said["t"].endswith("{s0} is shorter than the shortest piece you allow, {least}")
    assert [said["v"][k][0] for k in ("s0", "least")] == pytest.approx([3.048, 6.096])


def test_tags(client, job):
    for ask, title in (
        ("", "The whole line"),
        ("?post=0", "Corner post 1"),
        ("?bay=3", "Bay from post 4 to 5"),
        ("?splice=0", "Splice 1"),
    ):
        tag = client.get(f"/api/v1/jobs/{job}/tag{ask}").json()
        assert tag["title"] == title and all(f["why"]["rule"] for f in tag["facts"])
    assert client.get(f"/api/v1/jobs/{job}/tag?post=9999").status_code == 422


def test_what_is_taken_out(client, scope, job, paddock):
    drawing = now(client, job)["drawing"]
    rows = list(
        csv.DictReader(io.StringIO(client.get(f"/jobs/{job}/stake-out.csv?units=metric").content.decode("utf-8-sig")))
    )
    assert len(rows) == len(drawing["posts"]) and rows[0]["station"] == "0.00 m"
    assert {r["kind"] for r in rows} >= {"corner terminal", "gate terminal", "brace", "steel", "wood"}
    starts = [float(r["tape"].split()[0]) for r in rows if r["kind"].endswith("terminal")]
    assert min(starts) == 0.0
    items = list(csv.DictReader(io.StringIO(client.get(f"/jobs/{job}/take-off.csv").content.decode("utf-8-sig"))))
    assert sum(int(i["count"]) for i in items if "post," in i["item"]) == len(drawing["posts"])
    document = client.get(f"/jobs/{job}/job.json").text
    assert document == paddock.canonical_json() and read_job(document) == paddock
    shapes = client.get(f"/jobs/{job}/line.geojson").json()["features"]
    assert len(shapes) == 1 + len(drawing["posts"])
    again = bring_in("back.geojson", json.dumps({"type": "FeatureCollection", "features": shapes}).encode())
    assert again.course.length_m == pytest.approx(drawing["length"], abs=0.002) and again.line.closed
    waypoints = gpxpy.parse(client.get(f"/jobs/{job}/posts.gpx").text).waypoints
    assert len(waypoints) == len(drawing["posts"]) and waypoints[0].latitude == pytest.approx(47.0, abs=1e-7)
    printed = client.get(f"/jobs/{job}/print?units=metric").text
    assert "Uplift" in printed and "2.275 m" in printed
    assert "utility-marking" in printed and f"<td>{len(rows)}</td>" in printed
    local = jobs.create(scope, single_jobs()[0])
    assert "GPX means longitude and latitude" in client.get(f"/jobs/{local}/posts.gpx").text
    metres = client.get(f"/jobs/{local}/line.geojson")
    assert metres.status_code == 422 and "GeoJSON means longitude and latitude" in metres.text


def test_bring_in_previews_asks_saves_and_half_imports_nothing(client, scope):
    def send(name, body, **more):
        return client.post("/bring-in", files={"file": (name, body)}, follow_redirects=False, **more)

    bad = send("walk.gpx", b"<gpx><trk>")
    assert bad.status_code == 422 and "broken XML at line 1" in bad.text
    big = send("walk.gpx", b"<gpx>" + b" " * 50_000_000)
    assert big.status_code == 413 and "longer than 40 MB" in big.text
    typed = client.post("/bring-in", data={"legs": "N 95 E 12 m <script>"})
    assert typed.status_code == 422 and "&lt;script&gt;" in typed.text and '<script>"' not in typed.text
    assert client.post("/bring-in", data={"legs": " "}).status_code == 422
    assert jobs.listed(scope) == []
    went = send("east side.csv", b"station,height\n0,5\n100,6\n").headers["location"]
    assert "has no unit" in client.get(went).text
    unanswered = client.post(f"{went}/save", data={"name": "East"})
    assert unanswered.status_code == 422 and jobs.listed(scope) == []
    nameless = client.post(f"{went}/save", data={"name": " ", "units": "ft"})
    assert nameless.status_code == 422 and jobs.listed(scope) == []
    saved = client.post(f"{went}/save", data={"name": "<b>East</b>", "units": "ft"}, follow_redirects=False)
    page = client.get(saved.headers["location"]).text
    assert "&lt;b&gt;East&lt;/b&gt;" in page and "<b>East</b>" not in page
    assert "not counted yet" in client.get("/").text, "the list plans nothing"
    assert client.get(f"/api/v1{saved.headers['location'].removesuffix('/walk')}/summary").status_code == 200
    home = client.get("/").text
    assert "&lt;b&gt;East&lt;/b&gt;" in home and "open line" in home and "not counted yet" not in home
    whole = send("saved.json", single_jobs()[0].canonical_json().encode())
    assert whole.headers["location"].startswith("/jobs/") and len(jobs.listed(scope)) == 2
    assert client.post(f"{whole.headers['location']}/remove", follow_redirects=False).status_code == 303
    assert len(jobs.listed(scope)) == 1 and client.get(whole.headers["location"]).status_code == 404
    assert client.get("/bring-in/nothing").status_code == 404


def test_pocket_sums_have_one_shape_of_answer_and_of_error(client):
    assert client.post("/api/v1/calc/gauge", json={"gauge": 9}).json()["inch"] == 0.1483
    bad = client.post("/api/v1/calc/gauge", json={"gage": 9})
    assert bad.status_code == 422 and bad.headers["content-type"] == "application/problem+json"
    assert set(bad.json()) == {"type", "title", "status", "detail", "field", "kind"} and bad.json()["status"] == 422
    broken = client.post("/api/v1/calc/gauge", content=b"{")
    assert broken.status_code == 422 and "not JSON at line 1" in broken.json()["detail"]
    assert client.post("/api/v1/calc/horoscope", json={}).status_code == 422
    assert client.get("/sums/horoscope").status_code == 422


def test_nothing_leaves_the_machine_and_nothing_foreign_comes_in(client, job):
    answer = client.get(f"/jobs/{job}")
    policy = answer.headers["content-security-policy"]
    assert "default-src 'self'" in policy and "unsafe" not in policy
    assert "http://" not in answer.text.replace("http://www.w3.org", "") and "https://" not in answer.text
    foreign = client.post(f"/jobs/{job}/remove", headers={"Origin": "http://elsewhere.example"})
    assert foreign.status_code == 403 and client.get(f"/jobs/{job}").status_code == 200
    assert client.get("/", headers={"Host": "elsewhere.example"}).status_code == 400
    assert client.get("/assets/x/../app.py").status_code == 404 and client.get("/assets/x/app.py").status_code == 404
    assert client.get("/assets/x/static/base.css").headers["content-type"].startswith("text/css")
    assert client.get("/api/v1/jobs/none/plan").json()["field"] == ""
    assert client.get("/nowhere").status_code == 404
    for path in ("/jobs/%00", "/bring-in/%00", "/jobs/a%0Ab/job.json"):
        assert client.get(path).status_code == 404


def test_the_shipped_schema_is_the_models(paddock):
    from places import HOME

    shipped = json.loads((HOME / "docs" / "job.schema.json").read_text())
    assert shipped == Job.model_json_schema()
    Draft202012Validator(shipped).validate(json.loads(paddock.canonical_json()))
