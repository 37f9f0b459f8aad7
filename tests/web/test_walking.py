"""A walk with a receiver, the marking desk, and the Walk routes, on a real database."""

import itertools
import json
import math
import threading
import time
import urllib.error
import urllib.request

import pytest
from fastapi.testclient import TestClient
from sqlalchemy.exc import OperationalError

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.walking import Fix, apart_m
from gnomonic.core.job.reading import read_job
from gnomonic.demo.load import demo_path, single_jobs
from gnomonic.formats.bring_in import bring_in
from gnomonic.formats.walk import write_walk
from gnomonic.standins.desk import Desk, PracticeDesk, invented
from gnomonic.standins.rover import Manners, Rover
from gnomonic.store import jobs, walks
from gnomonic.web.app import create_app
from gnomonic.web.walk import recorder
from gnomonic.web.walk.receiver import LiveWalk, document
from gnomonic.web.walk.recorder import Hub

PATH = [(-30.0, 47.0, 60.0), (-30.0, 47.0003, 61.0), (-29.9996, 47.0003, 62.0), (-29.9996, 47.0, 61.5)]


def until(true, seconds=20.0):
    """Wait for a thread to get somewhere."""
    end, tick = time.monotonic() + seconds, threading.Event()
    while not true():
        assert time.monotonic() < end, "it did not come to that"
        tick.wait(0.01)


def walked(scope, manners, path=PATH):
    rover = Rover(path, manners)
    live = LiveWalk(scope, walks.begin(scope, "practice"), *rover.address)
    live.start()
    until(rover.done.is_set)
    until(lambda: live.next_n + (live.reader.pending is not None) >= rover.fixes)
    live.end()
    rover.stop()
    return rover, live


def test_no_fix_is_lost_over_hang_ups_garbled_sentences_and_lost_fixes(scope):
    manners = Manners(flat_out=True, hang_up_every_s=7, garble_every_s=11, lose_fix_every_s=13, jump_every_s=17)
    rover, live = walked(scope, manners)
    counts = walks.count(scope, live.walk_id)
    stored = walks.between(scope, live.walk_id, 0, 10**6)
    assert rover.sent > 800 and len(stored) == rover.fixes == rover.sent - live.reader.bad
    assert [j.n for j in stored] == list(range(len(stored))) and live.reader.cut == 0 and live.reconnects >= 10
    assert counts["jump"] > 20 and counts["nofix"] > 100 and counts["good"] > 500
    for judged in stored:
        if judged.verdict == "good":
            assert min(apart_m(judged.fix, Fix(0, lon, lat, 0, 1)) for lon, lat, _ in dense()) < 0.6


def dense():
    """The true path, a place every metre or so."""
    for a, b in itertools.pairwise(PATH):
        for k in range(41):
            yield tuple(x + (y - x) * k / 40 for x, y in zip(a, b, strict=True))


def test_a_walk_goes_on_after_a_restart_and_holds_nothing_but_the_last(scope):
    rover = Rover(PATH, Manners(flat_out=True, hang_up_every_s=20))
    walk_id = walks.begin(scope, "practice")
    first = LiveWalk(scope, walk_id, *rover.address)
    first.start()
    until(lambda: first.next_n > 150)
    first.end()
    second = LiveWalk(scope, walk_id, *rover.address)
    second.start()
    until(rover.done.is_set)
    second.end()
    rover.stop()
    assert second.next_n > first.next_n > 150 and second.waiting == [] and len(second.reader.rest) < 400
    assert walks.count(scope, walk_id)["next"] == second.next_n


def test_a_stop_is_averaged_marked_and_brought_in(scope):
    rover = Rover(PATH, Manners(hz=50, speed_mps=6, jump_every_s=1, jump_for_s=0.2))
    live = LiveWalk(scope, walks.begin(scope, "practice"), *rover.address)
    live.watch.fastest_mps = 10
    live.start()
    until(lambda: live.state == "walking")
    rover.stand(5)
    live.mark("corner", "yard", 4)  # 200 fixes; a busy machine reads fewer in that time
    with pytest.raises(Exception, match="a stop is being averaged already"):
        live.mark("gate", "", 1)
    until(lambda: live.stopping is None)
    (mark,) = walks.marks(scope, live.walk_id)
    assert mark["name"] == "yard" and mark["used"] > 40 and mark["left_out"] >= 10, "the jumps were left out"
    assert apart_m(Fix(0, mark["lon"], mark["lat"], 0, 1), Fix(0, *PATH[0], 1)) < 0.1
    until(lambda: live.next_n > 500)
    live.mark("rock", "", 0.3)
    until(lambda: len(walks.marks(scope, live.walk_id)) == 2)
    live.end()
    rover.stop()
    back = bring_in("walk.json", document(scope, live.walk_id, 0.05))
    assert any(p.name == "yard" for p in back.line.points) and [f.kind for f in back.found] == ["rock"]
    assert back.line.source.kind == "walk" and back.line.source.simplified_m == 0.05
    walks.unmark(scope, live.walk_id, mark["id"])
    walks.remove(scope, live.walk_id)
    assert walks.listed(scope) == []


def test_nobody_answers_and_nobody_stands(scope):
    live = LiveWalk(scope, walks.begin(scope, "receiver"), "127.0.0.1", 9)
    live.start()
    until(lambda: "no receiver answers at 127.0.0.1:9" in live.said)
    for kind, seconds, words in (("dragon", 1, "no kind of find"), ("corner", 999, "averaged for up to 120"), ("corner", 1, "not heard just now")):  # fmt: skip
        with pytest.raises(Exception, match=words):
            live.mark(kind, "", seconds)
    live.end()
    with pytest.raises(Exception, match="fewer than two places"):
        document(scope, live.walk_id, 0.05)


@pytest.fixture
def client(scope):
    app = create_app(scope)
    with TestClient(app) as made:
        app.state.room.desk.practice = PracticeDesk(Desk(answers_after_s=0))
        yield made


@pytest.fixture
def job(scope):
    return jobs.create(scope, single_jobs()[-1])


def version(client, job):
    return client.get(f"/api/v1/jobs/{job}/plan").json()["version"]


def test_services_are_asked_about_marked_and_kept_clear_of(client, job):
    before = client.get(f"/api/v1/jobs/{job}/plan").json()["drawing"]
    assert before["snags"][0]["title"]["t"] == "Buried services have not been asked about"
    assert "DO NOT DIG" in client.get(f"/jobs/{job}/print").text
    assert "DO NOT DIG" in client.get(f"/jobs/{job}/walk-sheet").text
    refused = client.post(f"/api/v1/jobs/{job}/marking/look", json={"base": version(client, job)})
    assert refused.status_code == 422 and "ask first" in refused.json()["detail"]
    asked = client.post(f"/api/v1/jobs/{job}/marking/ask", json={"base": version(client, job)}).json()
    assert "asked under ticket" in asked["said"]["t"]
    page = client.get(f"/jobs/{job}/marking").text
    assert "wait until" in page and "Do not dig" in page and "always your own" in page
    looked = client.post(f"/api/v1/jobs/{job}/marking/look", json={"base": version(client, job)}).json()
    assert looked["said"]["t"].startswith("2 services marked")
    drawing = looked["drawing"]
    assert not any("services" in s["title"]["t"] for s in drawing["snags"])
    zones = [(f["from"], f["to"]) for f in drawing["forbidden"] if f["found"].startswith("m")]
    assert len(zones) == 2 and not any(a < p["s"] < b for a, b in zones for p in drawing["posts"])
    for path in ("print", "walk-sheet", "marking"):
        assert "DO NOT DIG" not in client.get(f"/jobs/{job}/{path}").text
    stale = client.post(f"/api/v1/jobs/{job}/marking/ask", json={"base": 1})
    assert stale.status_code == 409
    undone = client.post(f"/api/v1/jobs/{job}/undo", json={"base": version(client, job)}).json()
    assert any("marks are not in" in s["title"]["t"] for s in undone["drawing"]["snags"])


def test_a_desk_that_is_down_or_strange_changes_nothing(client, job, scope):
    client.app.state.room.desk.practice.stop()
    base = version(client, job)
    down = client.post(f"/api/v1/jobs/{job}/marking/ask", json={"base": base})
    assert down.status_code == 503 and "does not answer: nothing was changed" in down.json()["detail"]
    books = Desk(answers_after_s=0)
    client.app.state.room.desk.practice = PracticeDesk(books)
    client.post(f"/api/v1/jobs/{job}/marking/ask", json={"base": base})
    books.tickets.clear()
    lost = client.post(f"/api/v1/jobs/{job}/marking/look", json={"base": version(client, job)})
    assert lost.status_code == 422 and "does not know this ticket" in lost.json()["detail"]


def test_no_ticket_is_filed_for_a_save_that_another_window_refuses(client, job, scope, monkeypatch):
    """While the desk is asked nobody else changes the job: the other window waits, and is told that the job moved on."""
    base, moved, waiting = version(client, job), [], []
    desk, call = type(client.app.state.room.desk), type(client.app.state.room.desk).call

    def other():
        try:
            jobs.save(scope, job, base, read_job(jobs.load(scope, job).document), "{}")
        except jobs.Moved:
            moved.append(True)

    def asked(self, path, body=None):
        waiting.append(threading.Thread(target=other))
        waiting[0].start()
        waiting[0].join(0.2)  # it can't come through before the ticket is in
        assert waiting[0].is_alive()
        return call(self, path, body)

    monkeypatch.setattr(desk, "call", asked)
    answer = client.post(f"/api/v1/jobs/{job}/marking/ask", json={"base": base})
    waiting[0].join(10)
    assert answer.status_code == 200 and moved == [True]


def test_the_practice_desk_speaks_http_and_remembers(tmp_path):
    file = tmp_path / "desk.json"
    desk = PracticeDesk(Desk(answers_after_s=3600, file=file))

    def call(path, body=None):
        data = None if body is None else json.dumps(body).encode()
        with urllib.request.urlopen(urllib.request.Request(desk.address + path, data), timeout=5) as reply:
            return json.load(reply)

    route = {"route": [[0, 0], [100, 0]], "frame": "local", "white": [[0, 0]]}
    ticket = call("/tickets", route)["ticket"]
    assert call(f"/tickets/{ticket}") == {"ticket": ticket, "state": "requested"}
    for path, body, status in (
        ("/tickets", {"route": [[0, 0]]}, 422),
        ("/elsewhere", route, 422),
        ("/tickets/none", None, 404),
    ):
        with pytest.raises(urllib.error.HTTPError) as refused:
            call(path, body)
        refused.value.close()
        assert refused.value.code == status
    desk.stop()
    again = Desk(answers_after_s=0, file=file).look(ticket)
    assert again["state"] == "marked" and len(again["marks"]) == 2
    assert invented([[0, 0], [30, 0]], False) == [], "a short line is clear"
    (east, north), _ = invented([[-30, 47], [-29.99, 47]], True)[0]["shape"]
    assert math.hypot((east + 29.9956) * 76_000, (north - 47) * 111_320) < 15


def test_the_walk_routes_answer(client, job):
    page = client.get(f"/jobs/{job}/walk")
    assert page.status_code == 200 and "Field book" in page.text
    walk = client.get(f"/api/v1/jobs/{job}/walk").json()
    assert len(walk["legs"]) == 446 and walk["legs"][-1]["to"] == 0 and walk["legs"][-1]["how"] == "closes the line"
    assert sum(leg["level_m"] for leg in walk["legs"]) == pytest.approx(walk["figures"]["line"])
    assert sum(p["area"] for p in walk["figures"]["parts"]) == pytest.approx(walk["figures"]["area"])
    read = client.post("/api/v1/book", json={"text": "N 0 E 10\nE 10", "unit": "ft"}).json()
    assert read["points"][1]["n"] == pytest.approx(3.048) and read["bare"] and read["closure"] is None
    bad = client.post("/api/v1/book", json={"text": "N 95 E 10 m"})
    assert bad.status_code == 422 and bad.json()["field"] == "legs[0]"
    for form in ("kml", "kmz", "gpx", "dxf", "shp.zip", "csv", "legs"):
        out = client.get(f"/jobs/{job}/out/{form}")
        assert out.status_code == 200 and f".{form}" in out.headers["content-disposition"], form
    assert client.get(f"/jobs/{job}/out/doc").status_code == 422
    for path in ("/walk-sheet", "/draw", "/rover", f"/jobs/{job}/walk-sheet?units=metric"):
        assert client.get(path).status_code == 200
    for path in ("/jobs/none/walk", "/rover/none", "/jobs/none/marking", "/api/v1/walks/none/live"):
        assert client.get(path).status_code == 404, path


def test_a_drawn_line_becomes_a_job(client):
    made = client.post("/api/v1/jobs", json={"name": "Drawn", "points": [[0, 0], [30, 0], [30, 20]], "closed": True})
    walk = client.get(f"/api/v1/jobs/{made.json()['job']}/walk").json()
    assert walk["level"] and walk["figures"]["area"] == 300 and walk["points"][1][4] == "drawn"
    for points, words in (
        ([[0, 0], [0, 0]], "same place"),
        ([[0, 0], [9, 9], [9, 0], [0, 9]], "cross itself"),
        ([[0, 0]], "points"),
    ):
        refused = client.post("/api/v1/jobs", json={"name": "Drawn", "points": points})
        assert refused.status_code == 422 and words in refused.json()["detail"]
    assert client.post("/api/v1/jobs", json={"name": " ", "points": [[0, 0], [9, 0]]}).status_code == 422


def test_a_grid_is_asked_about_laid_and_undone(client, job):
    table = "\n".join(
        ["ncols 30", "nrows 24", "xllcorner -150", "yllcorner -120", "cellsize 10"] + [" ".join(["5"] * 30)] * 24
    )
    files = {"file": ("h.asc", table.encode())}
    base = version(client, job)
    asked = client.post(f"/api/v1/jobs/{job}/grid", data={"base": base}, files=files).json()
    assert asked["question"]["key"] == "crs"
    laid = client.post(f"/api/v1/jobs/{job}/grid", data={"base": base, "crs": "local"}, files=files).json()
    assert laid["said"]["t"].startswith("heights from a grid of {~0} cells")
    assert {g[3] for g in laid["drawing"]["ground"]} == {5.0} and laid["undo"]
    walk = client.get(f"/api/v1/jobs/{job}/walk").json()
    assert walk["grid"] == {"cell_m": 10.0, "file": "h.asc"}
    bad = client.post(f"/api/v1/jobs/{job}/grid", data={"base": laid["version"]}, files={"file": ("h.tif", b"x")})
    assert bad.status_code == 422 and "is not an Esri ASCII grid" in bad.json()["detail"]


def recording(client, walk):
    """The recording of a walk, once the recorder has taken it up."""
    until(lambda: walk in client.app.state.room.hub.live)
    return client.app.state.room.hub.live[walk]


def test_a_walk_over_the_web(client, scope):
    began = client.post("/rover", data={"source": "practice", "speed": "3", "noise_cm": "1"}, follow_redirects=False)
    walk = began.headers["location"].rpartition("/")[2]
    live = recording(client, walk)
    until(lambda: live.next_n > 5)
    assert client.post(f"/api/v1/walks/{walk}/marks", json={"kind": "corner", "seconds": 0.2}).status_code == 200
    until(lambda: walks.marks(scope, walk))
    mark = walks.marks(scope, walk)[0]["id"]
    assert client.delete(f"/api/v1/walks/{walk}/marks/{mark}").status_code == 200
    assert client.delete(f"/api/v1/walks/{walk}/marks/{mark}").status_code == 404
    until(lambda: live.next_n > 60)
    assert "walking now" in client.get("/rover").text
    client.post(f"/rover/{walk}/pause")
    assert walk not in client.app.state.room.hub.live and not walks.there(scope, walk).wanted
    events = client.get(f"/api/v1/walks/{walk}/live").text
    first = json.loads(events.split("data: ")[1].split("\n")[0])
    assert first["state"] == "ended" and len(first["trail"]) >= 2 and first["counts"]["good"] == live.counts["good"]
    resumed = client.get(f"/api/v1/walks/{walk}/live", headers={"Last-Event-ID": str(first["trail"][-1][0])}).text
    assert json.loads(resumed.split("data: ")[1].split("\n")[0])["trail"] == []
    refused = client.post(f"/api/v1/walks/{walk}/marks", json={"kind": "corner"})
    assert refused.status_code == 422 and "not being recorded" in refused.json()["detail"]
    preview = client.post(f"/rover/{walk}/bring-in", data={"tolerance_cm": "3"})
    assert preview.status_code == 200 and "nothing moved by more than 30 mm" in preview.text
    assert f"{live.next_n} fixes came; left out:" in preview.text and "places of the line" in preview.text
    assert walks.there(scope, walk).ended and "brought in" in client.get("/rover").text
    for form in ({"tolerance_cm": "none"}, {"tolerance_cm": "0"}):
        assert client.post(f"/rover/{walk}/bring-in", data=form).status_code == 422
    assert client.post("/rover", data={"source": "receiver"}).status_code == 422
    client.post(f"/rover/{walk}/go-on")
    until(lambda: recording(client, walk).next_n > live.next_n)
    client.post(f"/rover/{walk}/remove")
    assert client.get(f"/rover/{walk}").status_code == 404


def test_a_receiver_of_ones_own_uses_the_same_code(client, monkeypatch):
    rover = Rover(demo_path(), Manners(flat_out=True))
    monkeypatch.setenv("GNOMONIC_ROVER", f"127.0.0.1:{rover.address[1]}")
    assert f"127.0.0.1:{rover.address[1]}" in client.get("/rover").text
    walk = (
        client.post("/rover", data={"source": "receiver"}, follow_redirects=False)
        .headers["location"]
        .rpartition("/")[2]
    )
    live = recording(client, walk)
    until(lambda: live.next_n > 1000)
    client.post(f"/rover/{walk}/pause")
    rover.stop()
    assert live.counts["good"] > 1000


def test_a_paused_practice_rover_goes_on_from_where_it_stood(client, scope):
    walk = (
        client.post("/rover", data={"source": "practice"}, follow_redirects=False)
        .headers["location"]
        .rpartition("/")[2]
    )
    live = recording(client, walk)
    until(lambda: live.next_n > 60)
    client.post(f"/rover/{walk}/pause")
    client.post(f"/rover/{walk}/go-on")
    again = recording(client, walk)
    until(lambda: again.next_n > live.next_n + 3)
    client.post(f"/rover/{walk}/pause")
    seen = walks.between(scope, walk, live.next_n - 1, live.next_n + 2)
    assert apart_m(seen[0].fix, seen[-1].fix) < 1.5, "not back at the start of the line"


def test_fixes_wait_for_a_database_that_does_not_answer(scope, monkeypatch):
    rover = Rover(PATH, Manners(flat_out=True))
    live = LiveWalk(scope, walks.begin(scope, "practice"), *rover.address)
    keep = walks.keep
    monkeypatch.setattr(walks, "keep", lambda *_: (_ for _ in ()).throw(OperationalError("", {}, Exception())))
    live.start()
    until(lambda: "the database does not answer" in live.said or rover.done.is_set())
    live.flush()
    assert "fixes wait to be saved" in live.said and len(live.waiting) == live.next_n > 0
    monkeypatch.setattr(walks, "keep", keep)
    until(rover.done.is_set)
    until(lambda: live.next_n + 1 >= rover.fixes)
    live.end()
    rover.stop()
    assert walks.count(scope, live.walk_id)["next"] == rover.fixes, "all of them saved once it answered"


def test_another_process_takes_a_walk_up_where_the_first_left_it(scope):
    """Two processes serve one database: one records.  It ends without letting go of what is wanted; the other goes on."""
    first, second = Hub(scope), Hub(scope)
    walk = recorder.begin(first, "practice", Manners(speed_mps=3))
    second.notice()
    until(lambda: walk in first.live and first.live[walk].next_n > 20)
    assert walk not in second.live, "one of them records"
    seen = first.live[walk].next_n
    with pytest.raises(BadInput, match="no kind of find"):
        recorder.ordered(second, walk, "mark", kind="unicorn", name="", seconds=0.2)
    recorder.ordered(second, walk, "mark", kind="rock", name="asked of the other", seconds=0.2)
    until(lambda: walks.marks(scope, walk))
    first.close()
    until(lambda: walk in second.live and second.live[walk].next_n > seen + 5)
    walks.want(scope, walk, False)
    recorder.settled(second, walk)
    second.close()
    counts = walks.count(scope, walk)
    assert counts["next"] == counts["good"] + counts["jump"] + counts["nofix"] > seen, "no fix twice, none left out"


def test_a_receiver_that_another_walk_holds_is_said_so_by_name(client, scope, monkeypatch):
    rover = Rover(demo_path(), Manners())
    monkeypatch.setenv("GNOMONIC_ROVER", f"127.0.0.1:{rover.address[1]}")

    def start():
        return client.post("/rover", data={"source": "receiver"}, follow_redirects=False)

    first = start().headers["location"].rpartition("/")[2]
    (row,) = walks.listed(scope)
    held = start()
    assert held.status_code == 422 and f"held by the walk begun {row.started_at:%Y-%m-%d %H:%M}" in held.text
    until(lambda: len(walks.trail(scope, first)) > 3)
    client.post(f"/rover/{first}/bring-in", data={"tolerance_cm": "3"})
    assert not walks.there(scope, first).wanted, "bringing a walk in ends it"
    second = start()
    assert second.status_code == 303, "and the receiver is free"
    again = client.post(f"/rover/{first}/go-on")
    assert again.status_code == 422 and "held by the walk begun" in again.text
    client.post(f"{second.headers['location']}/pause")
    rover.stop()


def test_fixes_that_jump_to_another_country_begin_a_new_trail(scope):
    """Twelve places at 47 N and nine at 52 N, 556 km apart: which part is the line is asked, and each can be had."""
    here = [[-30 + k * 1e-4, 47.0, 5.0, 0.02, ""] for k in range(12)]
    there = [[-30 + k * 1e-4, 52.0, 5.0, 0.02, "far" if k == 3 else ""] for k in range(9)]
    marks = [{"kind": "rock", "name": str(lat), "at": [-30.0005, lat + 1e-4]} for lat in (47, 52)]
    body = write_walk([*here, *there], marks, 0.05, "21 fixes came")
    asked = bring_in("walk.json", body)
    (question,) = [q for q in asked.questions if q.key == "shape"]
    assert "jump 556 km after the first 12" in question.text and [c[0] for c in question.choices] == ["1", "2"]
    assert "21 fixes came" in asked.notes
    first, second = (bring_in("walk.json", body, {"shape": k}) for k in "12")
    assert not first.questions and first.course.length_m == pytest.approx(11 * 7.609, abs=0.05)
    assert second.course.length_m == pytest.approx(8 * 6.869, abs=0.05)
    assert [f.name for f in first.found] == ["47"] and [f.name for f in second.found] == ["52"], "each its own rock"
    assert [p.name for p in second.line.points if p.name] == ["far"] and second.line.points[1].good_m == 0.02


def test_a_workspace_holds_so_many_walks_and_no_more(scope, monkeypatch):
    monkeypatch.setattr(walks, "MOST_WALKS", 2)
    for _ in range(2):
        walks.begin(scope, "practice", wanted=False)
    with pytest.raises(BadInput, match="there are 2 walks already"):
        walks.begin(scope, "practice")


def test_a_walk_that_is_full_stops(scope, monkeypatch):
    from gnomonic.web.walk import receiver

    monkeypatch.setattr(receiver, "MOST_FIXES", 30)
    hub = Hub(scope)
    walk = recorder.begin(hub, "practice", Manners(speed_mps=5))
    until(lambda: not walks.there(scope, walk).wanted)
    recorder.settled(hub, walk)
    hub.close()
    assert walks.count(scope, walk)["next"] >= 30


class OddDesk(Desk):
    """A desk whose tickets are called as no practice desk calls them."""

    def ask(self, body):
        ticket = super().ask(body)
        self.tickets["A 12/3 ü?#"] = self.tickets.pop(ticket["ticket"])
        return {**ticket, "ticket": "A 12/3 ü?#"}


def test_a_ticket_with_spaces_and_slashes_is_found_again(client, job):
    client.app.state.room.desk.practice = PracticeDesk(OddDesk(answers_after_s=0))
    asked = client.post(f"/api/v1/jobs/{job}/marking/ask", json={"base": version(client, job)})
    assert asked.status_code == 200 and "A 12/3 ü?#" in json.dumps(asked.json()["said"], ensure_ascii=False)
    looked = client.post(f"/api/v1/jobs/{job}/marking/look", json={"base": version(client, job)})
    assert looked.status_code == 200, looked.text
    assert "marked" in json.dumps(looked.json()["said"]) or "clear" in json.dumps(looked.json()["said"])


def test_a_practice_desk_of_two_processes_keeps_one_book(tmp_path):
    one, two = (Desk(answers_after_s=0, file=tmp_path / "desk.json") for _ in "12")
    body = {"routes": [[[0, 0], [90, 0]]], "frame": "local", "white": [[0, 0]]}
    first, second = one.ask(body)["ticket"], two.ask(body)["ticket"]
    assert first != second and one.look(second) and two.look(first)
    (tmp_path / "desk.json").write_text("[{torn")
    assert two.look(first), "a torn book forgets nothing that is known"
