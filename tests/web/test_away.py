"""The database away, frozen, or gone in the middle of a commit: true words, and every change done once."""

import re

import psycopg
import pytest
from fastapi.testclient import TestClient
from sqlalchemy import select

from gnomonic.core.limits import DATABASE_S
from gnomonic.store import jobs
from gnomonic.store.models import AskedRow, VersionRow
from gnomonic.store.scope import CONNECT_S, Patient, Scope, connect
from gnomonic.web.app import create_app
from gnomonic.web.guard import HEADERS, most_bytes
from gnomonic.workshop.attack.wire import Wire
from gnomonic.workshop.running import PATIENCE

EDIT = {"do": "rename", "name": "another name"}


@pytest.fixture
def wired(request, database, paddock):
    """An application whose database is reached over a wire; gives (client, wire, id of a job, scope past the wire).

    The application waits as long as a test's parameter says: ``PATIENCE`` times where it says nothing.
    """
    port = int(re.search(r":(\d+)/", database).group(1))
    wire = Wire(port)
    near = Scope(connect(database, PATIENCE))
    job = jobs.create(near, paddock)
    far = Scope(connect(database.replace(f":{port}/", f":{wire.port}/"), getattr(request, "param", PATIENCE)))
    client = TestClient(create_app(far))
    yield client, wire, job, near
    wire.close()
    client.app.state.room.hub.close()
    near.engine.dispose()
    far.engine.dispose()


def edits_of(scope, job):
    with scope.reading() as connection:
        rows = connection.execute(select(VersionRow.edit).where(VersionRow.job_id == job).order_by(VersionRow.id))
        return [row.edit for row in rows if row.edit]


def post(client, job, path, body, key):
    return client.post(f"/api/v1/jobs/{job}/{path}", json=body, headers={"Idempotency-Key": key})


def test_a_commit_whose_answer_is_lost_is_said_to_be_unknown_and_done_once(wired):
    client, wire, job, near = wired
    base = client.get(f"/api/v1/jobs/{job}/plan").json()["version"]
    wire.set("cut_after")
    lost = post(client, job, "edits", {"base": base, "edit": EDIT}, "k1")
    assert wire.cuts == 1 and lost.status_code == 503 and lost.json()["kind"] == "unknown"
    assert "not known yet" in lost.json()["detail"] and "nothing was saved" not in lost.json()["detail"]
    again = post(client, job, "edits", {"base": base, "edit": EDIT}, "k1")
    assert again.status_code == 200 and again.json()["version"] > base
    assert again.json()["said"]["t"] == "that was saved already"
    assert len(edits_of(near, job)) == 1


def test_a_commit_that_never_reached_the_database_is_done_when_asked_again(wired):
    client, wire, job, near = wired
    base = client.get(f"/api/v1/jobs/{job}/plan").json()["version"]
    wire.set("cut_before")
    lost = post(client, job, "edits", {"base": base, "edit": EDIT}, "k1")
    assert lost.status_code == 503 and lost.json()["kind"] == "unknown" and edits_of(near, job) == []
    again = post(client, job, "edits", {"base": base, "edit": EDIT}, "k1")
    assert again.status_code == 200 and len(edits_of(near, job)) == 1


@pytest.mark.parametrize("way", ["undo", "redo"])
def test_undo_and_redo_lost_on_the_way_back_are_not_called_somebody_elses(wired, way):
    client, wire, job, near = wired
    base = client.get(f"/api/v1/jobs/{job}/plan").json()["version"]
    there = post(client, job, "edits", {"base": base, "edit": EDIT}, "k0").json()["version"]
    if way == "redo":
        there = post(client, job, "undo", {"base": there}, "k1").json()["version"]
        assert there == base
    wire.set("cut_after")
    assert post(client, job, way, {"base": there}, "k2").json()["kind"] == "unknown"
    again = post(client, job, way, {"base": there}, "k2")
    assert again.status_code == 200 and len(edits_of(near, job)) == 1
    assert again.json()["undo"] == (way == "redo")


def test_a_late_second_asking_does_nothing_though_the_version_would_fit(wired):
    """Edited under a key and undone: the job stands at its base again.  The first request, sent again by a slow proxy, must not
    edit it a second time."""
    client, _, job, near = wired
    base = client.get(f"/api/v1/jobs/{job}/plan").json()["version"]
    there = post(client, job, "edits", {"base": base, "edit": EDIT}, "slow").json()["version"]
    post(client, job, "undo", {"base": there}, "other")
    late = post(client, job, "edits", {"base": base, "edit": EDIT}, "slow")
    assert late.status_code == 200 and late.json()["version"] == base and len(edits_of(near, job)) == 1
    moved = post(client, job, "edits", {"base": there, "edit": EDIT}, "new")
    assert moved.status_code == 409 and moved.json()["head"] == base, "another change is another matter"
    for key in ("x" * 81, "tab\there"):
        assert post(client, job, "edits", {"base": base, "edit": EDIT}, key).status_code == 422


def test_new_jobs_and_drawn_lines_are_made_once(wired):
    client, wire, job, near = wired
    body = {"name": "drawn", "points": [[0, 0], [50, 0]]}
    wire.set("cut_after")
    headers = {"Idempotency-Key": "d1"}
    assert client.post("/api/v1/jobs", json=body, headers=headers).json()["kind"] == "unknown"
    first = client.post("/api/v1/jobs", json=body, headers=headers).json()["job"]
    assert client.post("/api/v1/jobs", json=body, headers=headers).json()["job"] == first and jobs.count(near) == 2
    base = client.get(f"/api/v1/jobs/{job}/plan").json()["version"]
    line = {"base": base, "name": "spur", "points": [[-9, 0], [-60, 9]], "joins": []}
    wire.set("cut_after")
    assert post(client, job, "drawn", line, "d2").status_code == 503
    again = post(client, job, "drawn", line, "d2")
    assert again.status_code == 201 and again.json()["line"] == "B" and len(edits_of(near, job)) == 1


def test_a_line_moved_to_another_job_is_moved_once(wired):
    client, wire, _, near = wired
    other = client.post("/api/v1/jobs", json={"name": "other", "points": [[0, 0], [50, 0]]}).json()["job"]
    third = client.post("/api/v1/jobs", json={"name": "third", "points": [[0, 9], [50, 9]]}).json()["job"]
    base = client.get(f"/api/v1/jobs/{third}/plan").json()["version"]
    post(client, third, "drawn", {"base": base, "name": "spur", "points": [[-9, 0], [-60, 9]], "joins": []}, "m0")
    base = client.get(f"/api/v1/jobs/{third}/plan").json()["version"]
    wire.set("cut_after")
    body = {"base": base, "to": other}
    assert post(client, third, "lines/B/move", body, "m1").json()["kind"] == "unknown"
    again = post(client, third, "lines/B/move", body, "m1")
    assert again.status_code == 200 and again.json() == {"job": other, "line": "B"}
    assert len(edits_of(near, other)) == 1


def test_a_form_sent_twice_saves_one_job(wired):
    client, _, _, near = wired
    page = client.post("/bring-in", data={"legs": "N 0 E 30 m\nE 40 m\n"}).text
    arrival, key = (
        re.search(r"/bring-in/(\w+)/save", page).group(1),
        re.search(r'name="asked" value="(\w+)"', page).group(1),
    )
    form = {"name": "typed", "asked": key}
    first, second = (client.post(f"/bring-in/{arrival}/save", data=form, follow_redirects=False) for _ in "12")
    assert first.headers["location"] == second.headers["location"] and jobs.count(near) == 2
    spur = {"name": "spur", "asked": key + "b", "onto": first.headers["location"].split("/")[2]}
    spur |= {"start": "A:30.000000"}
    one, two = (client.post(f"/bring-in/{arrival}/save", data=spur, follow_redirects=False) for _ in "12")
    assert one.headers["location"].endswith("?line=B") and two.headers["location"].endswith("?line=B")


@pytest.fixture
def ran_out(monkeypatch):
    """The waits for a database, in seconds, that ran out: what a person waited, whatever else the machine does."""
    found = []
    connected, waited = Patient.connect.__func__, Patient.wait

    def connecting(cls, *args, **given):
        try:
            return connected(cls, *args, **given)
        except psycopg.errors.ConnectionTimeout:
            found.append(CONNECT_S)
            raise

    def waiting(self, gen, interval=0.1, timeout=None):
        try:
            return waited(self, gen, interval, timeout)
        except psycopg.OperationalError:
            found.append(self.patience_s if timeout is None else timeout)
            raise

    monkeypatch.setattr(Patient, "connect", classmethod(connecting))
    monkeypatch.setattr(Patient, "wait", waiting)
    return found


@pytest.mark.parametrize("wired", [1], indirect=True, ids=["as served"])
@pytest.mark.parametrize("way", ["freeze", "down"])
def test_while_the_database_is_away_every_page_says_so_in_time_and_comes_back(wired, way, ran_out):
    """Frozen, the first page waits for a statement, or for a look and a new connection; each after it once for a connection."""
    client, wire, job, _ = wired
    assert client.get(f"/jobs/{job}").status_code == 200
    wire.set(way)
    for path in (f"/jobs/{job}", "/", f"/api/v1/jobs/{job}/plan", "/rover", "/catalog", "/api/v1/health"):
        before = len(ran_out)
        away = client.get(path)
        if way == "freeze":
            waited = ran_out[before:]
            assert waited == [CONNECT_S] if before else 0 < sum(waited) <= DATABASE_S, path
        assert away.status_code == 503 and away.headers["retry-after"] == "3", path
        assert "the database does not answer" in away.text.lower()
        assert away.headers["content-security-policy"]
        if path.startswith("/api/"):
            assert away.json()["kind"] == "away" and away.headers["content-type"] == "application/problem+json"
        else:
            assert "comes back by itself" in away.text
    edit = post(client, job, "edits", {"base": 1, "edit": EDIT}, "k")
    assert edit.status_code == 503 and edit.json()["kind"] == "away" and "nothing was saved" in edit.json()["detail"]
    assert client.get("/sums/setout").status_code == 200, "what needs no database goes on"
    wire.set("pass")
    assert client.get(f"/jobs/{job}").status_code == 200 and client.get("/api/v1/health").json() == {"database": True}


def test_what_was_saved_before_the_database_went_is_not_called_unsaved(wired, monkeypatch):
    """The edit is committed; reading what came of it fails: the page is told to ask again, and is told that it was saved."""
    client, wire, job, near = wired
    base = client.get(f"/api/v1/jobs/{job}/plan").json()["version"]
    from gnomonic.web import parts

    answered = parts.answered
    monkeypatch.setattr(parts, "answered", lambda *a: [wire.set("down"), jobs.load(client.app.state.room.scope, job)])
    lost = post(client, job, "edits", {"base": base, "edit": EDIT}, "k")
    assert (
        lost.status_code == 503 and lost.json()["kind"] == "unknown" and "that was saved, but" in lost.json()["detail"]
    )
    monkeypatch.setattr(parts, "answered", answered)
    wire.set("pass")
    assert (
        post(client, job, "edits", {"base": base, "edit": EDIT}, "k").status_code == 200
        and len(edits_of(near, job)) == 1
    )


def test_a_job_held_by_somebody_else_is_said_to_be(wired):
    client, _, job, near = wired
    base = client.get(f"/api/v1/jobs/{job}/plan").json()["version"]
    with jobs.holding(near, job, base):
        held = post(client, job, "edits", {"base": base, "edit": EDIT}, "k")
    assert (
        held.status_code == 503
        and "somebody else is changing this just now: nothing was saved" in held.json()["detail"]
    )


def test_keys_are_forgotten_after_a_day(scope, paddock):
    from dataclasses import replace

    asked = replace(scope, asked="once")
    first = jobs.create(asked, paddock)
    assert jobs.create(asked, paddock) == first and jobs.count(scope) == 1
    with scope.writing() as connection:
        connection.exec_driver_sql("UPDATE asked SET made_at = now() - interval '2 days'")
    jobs.create(replace(scope, asked="another"), paddock)
    with scope.reading() as connection:
        assert [row.key for row in connection.execute(select(AskedRow.key))] == ["another"]


def test_a_refusal_of_a_server_that_is_there_is_known(scope, paddock):
    """A deferred constraint fails at the commit itself: the server says so, and nothing was kept."""
    from sqlalchemy.exc import IntegrityError

    with scope.writing() as connection:
        connection.exec_driver_sql("CREATE TABLE once (n int UNIQUE DEFERRABLE INITIALLY DEFERRED)")
    with pytest.raises(IntegrityError), scope.writing() as connection:
        connection.exec_driver_sql("INSERT INTO once VALUES (1), (1)")
    with scope.reading() as connection:
        assert connection.exec_driver_sql("SELECT count(*) FROM once").scalar() == 0


@pytest.fixture(scope="module")
def far_client():
    """An application without a database: what the guard answers needs none."""
    app = create_app(Scope(connect("postgresql+psycopg://nobody@127.0.0.1:9/none")))
    return TestClient(app, raise_server_exceptions=False)


@pytest.mark.parametrize(
    ("path", "size"),
    [("/api/v1/jobs/x/edits", 1_000_001), ("/api/v1/calc/gauge", 4_000_001), ("/bring-in", 40_500_001),
     ("/api/v1/jobs/x/grid", 200_500_001), ("/catalog", 2_500_001), ("/rules", 1_000_001)],
)  # fmt: skip
def test_bodies_are_refused_while_they_stream(far_client, path, size):
    """By what the header says, before a byte is read; and where it says nothing, as soon as the limit is passed."""
    assert sum(most_bytes(path)) == size - 1
    said = far_client.post(path, headers={"Content-Length": str(size), "Content-Type": "application/json"}, content=b"")
    assert said.status_code == 413 and said.headers["content-security-policy"]
    taken = 0

    def stream():
        nonlocal taken
        while taken < size + 20_000_000:
            taken += 1_000_000
            yield b" " * 1_000_000

    kind = (
        "application/json"
        if path.startswith("/api/v1/calc") or path.endswith("edits")
        else "multipart/form-data; boundary=x"
    )
    refused = far_client.post(path, headers={"Content-Type": kind}, content=stream())
    assert refused.status_code in (413, 400) and refused.headers["x-content-type-options"] == "nosniff"


def test_every_answer_carries_the_headers_also_a_fault_of_our_own(far_client, monkeypatch):
    from gnomonic.web.sums import routes

    monkeypatch.setattr(routes, "_titles", lambda: 1 / 0)
    broken = far_client.get("/sums/gauge")
    assert broken.status_code == 500 and "look whether what you did is there" in broken.text
    for answer in (broken, far_client.get("/nowhere"), far_client.get("/", headers={"Host": "elsewhere.example"})):
        for name, value in HEADERS:
            assert answer.headers[name.decode()] == value.decode()
    problem = far_client.get("/api/v1/nowhere")
    assert problem.headers["content-type"] == "application/problem+json"
    assert (
        set(problem.json()) == {"type", "title", "status", "detail", "field", "kind"}
        and problem.json()["status"] == 404
    )


def test_head_answers_where_get_does(far_client):
    for path in ("/sums/gauge", "/openapi.json", "/draw"):
        get, head = far_client.get(path), far_client.head(path)
        assert head.status_code == get.status_code == 200 and head.content == b""
        assert head.headers["content-type"] == get.headers["content-type"]
    assert far_client.head("/nowhere").status_code == 404


def test_the_api_says_what_is_true_of_its_errors(far_client):
    document = far_client.get("/openapi.json").json()
    assert "HTTPValidationError" not in str(document) and "Problem" in document["components"]["schemas"]
    for path, ways in document["paths"].items():
        for way, operation in ways.items():
            content = operation["responses"]["422"]["content"]
            kind = "application/problem+json" if path.startswith("/api/") else "text/html"
            assert list(content) == [kind], (path, way)
