"""A marking desk that answers nonsense: one sentence, no service taken that was not marked, nothing changed."""

import json
import socket
import threading
from datetime import date, timedelta

import pytest
from fastapi.testclient import TestClient

from gnomonic.core.job.fence import one_line
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.core.job.reading import read_job
from gnomonic.core.limits import MOST_DESK_BYTES
from gnomonic.demo.load import single_jobs
from gnomonic.store import jobs
from gnomonic.web.app import create_app

TOMORROW = (date.today() + timedelta(days=1)).isoformat()
MARK = {"name": "pipe", "shape": [[10.0, -5.0], [10.0, 5.0]], "zone_m": 0.6}  # across a line from 0, 0 eastward
ODD_MARKS = (
    [{**MARK, "zone_m": -1}], [{**MARK, "zone_m": 1e300}], [{**MARK, "zone_m": True}], [{**MARK, "shape": []}], [{**MARK, "shape": [[1]]}],
    [{**MARK, "shape": [[1.0, 2.0]] * 2001}], [{**MARK, "shape": "on the road"}], [{**MARK, "shape": [["nan", "1"]]}],
    [{**MARK, "shape": [[10.0, 1001.0], [20.0, 1001.0]]}], [MARK, {**MARK, "shape": [[500_000.0, 4_000_000.0]]}], [{**MARK, "name": "\u0000"}], ["pipe"], "none", {"a": 1},
)  # fmt: skip


def http(body, status="200 OK", length=None):
    data = body if isinstance(body, bytes) else json.dumps(body).encode()
    said = len(data) if length is None else length
    return f"HTTP/1.1 {status}\r\nContent-Type: application/json\r\nContent-Length: {said}\r\n\r\n".encode() + data


def answer(**other):
    return {"state": "marked", "expires_on": TOMORROW, "marks": [MARK], **other}


LOOKED = [
    ("not HTTP", b"\x16\x03\x01 hello\r\n\r\n"), ("nothing", b""), ("cut short", http(answer())[:-9]), ("no JSON", http(b"<html>")), ("a list", http([1])),
    ("NaN", http(b'{"state": NaN}')), ("deep", http(b'{"state":' + b"[" * 100_000)), ("another state", http(answer(state="fine"))), ("marked, without marks", http(answer(marks=[]))),
    ("clear, with marks", http(answer(state="clear"))), ("no day", http(answer(expires_on="soon"))), ("too long", http(b" " * (MOST_DESK_BYTES + 1) + b"{}")), ("500", http({}, "500 Oh")),
    ("1e999", http(b'{"state":"marked","expires_on":"2030-01-01","marks":[{"name":"a","shape":[[1e999,0],[1,1]],"zone_m":1}]}')),
    *((f"marks {k}", http(answer(marks=marks))) for k, marks in enumerate(ODD_MARKS)),
]  # fmt: skip
FILED = [
    ("no ticket", http({"wait_until": TOMORROW})), ("a ticket of nothing", http({"ticket": "", "wait_until": TOMORROW})), ("a long one", http({"ticket": "x" * 41, "wait_until": TOMORROW})),
    ("a ticket that is none", http({"ticket": {"a": 1}, "wait_until": TOMORROW})), ("no day", http({"ticket": "T1", "wait_until": "later"})), ("half a letter", http(b'{"ticket": "\\ud800", "wait_until": "2030-01-01"}')),
    ("not HTTP", b"SSH-2.0\r\n"), ("a line without end", b"HTTP/1.1 200 " + b"x" * 70_000),
]  # fmt: skip


@pytest.fixture
def desk(monkeypatch):
    """A desk that says what a test tells it to."""
    listener, told = socket.create_server(("127.0.0.1", 0)), [b""]

    def talk():
        while True:
            try:
                caller, _ = listener.accept()
            except OSError:
                return
            with caller:
                caller.settimeout(5)
                asked = b""
                while b"\r\n\r\n" not in asked:
                    asked += caller.recv(65536) or b"\r\n\r\n"
                head, _, body = asked.partition(b"\r\n\r\n")
                length = next(
                    (int(h.split(b":")[1]) for h in head.split(b"\r\n") if h.lower().startswith(b"content-length")), 0
                )
                while len(body) < length:
                    body += caller.recv(65536)
                try:
                    caller.sendall(told[0])
                except OSError:
                    continue  # it was hung up on

    threading.Thread(target=talk, daemon=True).start()
    monkeypatch.setenv("GNOMONIC_DESK_URL", f"http://127.0.0.1:{listener.getsockname()[1]}")
    yield told
    listener.close()


@pytest.fixture
def client(scope):
    with TestClient(create_app(scope), raise_server_exceptions=False) as made:
        yield made


def line_job(scope):
    """A line of 80 m to the east in metres of its own."""
    points = tuple(Point(e_m=e, n_m=0, h_m=0) for e in (0, 80))
    return jobs.create(scope, one_line("east", MeasuredLine(points=points, source=Source(kind="drawn", points_read=2))))


def asked_of(client, scope, what, job):
    """What a route of the marking answers, and whether the job still stands where it stood."""
    base = jobs.load(scope, job).version
    found = client.post(f"/api/v1/jobs/{job}/marking/{what}", json={"base": base})
    return found, jobs.load(scope, job).version == base


def test_a_desk_that_files_nonsense_is_not_believed(client, scope, desk):
    job = jobs.create(scope, single_jobs()[-1])
    for words, said in FILED:
        desk[0] = said
        found, stands = asked_of(client, scope, "ask", job)
        assert found.status_code == 503 and stands, (words, found.status_code, found.text)
        assert "marking desk" in found.json()["detail"] and "nothing was changed" in found.json()["detail"], words


def test_an_address_that_is_none_is_said_to_be(client, scope, monkeypatch):
    job = jobs.create(scope, single_jobs()[-1])
    for address in (
        "desk",
        "http://",
        "http://[::1",
        "http://127.0.0.1:port",
        "http://" + "a" * 70 + ".example",
        "file:///etc/hosts#",
    ):
        monkeypatch.setenv("GNOMONIC_DESK_URL", address)
        found, stands = asked_of(client, scope, "ask", job)
        assert found.status_code == 503 and stands and "nothing was changed" in found.json()["detail"], (
            address,
            found.text,
        )


def test_marks_that_can_t_be_are_not_taken(client, scope, desk):
    job = line_job(scope)
    desk[0] = http({"ticket": "T1", "wait_until": TOMORROW})
    assert asked_of(client, scope, "ask", job)[0].status_code == 200
    for words, said in LOOKED:
        desk[0] = said
        found, stands = asked_of(client, scope, "look", job)
        assert found.status_code == 503 and stands, (words, found.status_code, found.text)
        assert "marking desk" in found.json()["detail"] and "nothing was changed" in found.json()["detail"], words
    desk[0] = http(answer(state="requested", marks=[]))
    found, stands = asked_of(client, scope, "look", job)
    assert found.json()["waiting"] and stands
    desk[0] = http(answer(marks=[MARK, {**MARK, "shape": [[10.0, 999.0]]}]))
    found, stands = asked_of(client, scope, "look", job)
    assert found.status_code == 200 and not stands, "the same marks where they can be are taken"
    (mark, far) = read_job(jobs.load(scope, job).document).found
    assert mark.shape == ((10.0, -5.0), (10.0, 5.0)) and far.kind == "service"


def test_a_mark_of_another_place_says_how_far_it_is(client, scope, desk):
    """1,001 m north of a line that runs east is 3,284 ft 1 in from it; of a line asked about in degrees, metres are nowhere."""
    job = line_job(scope)
    desk[0] = http({"ticket": "T1", "wait_until": TOMORROW})
    asked_of(client, scope, "ask", job)
    desk[0] = http(answer(marks=[{**MARK, "shape": [[10.0, 1001.0], [20.0, 1001.0]]}]))
    found, stands = asked_of(client, scope, "look", job)
    assert stands and "pipe is marked 1001.00 m from the lines" in found.json()["detail"], found.text
    world = jobs.create(scope, single_jobs()[-1])
    desk[0] = http({"ticket": "T2", "wait_until": TOMORROW})
    assert asked_of(client, scope, "ask", world)[0].status_code == 200
    for shape in ([[500_000.0, 4_000_000.0]], [[1.0, 1.0], [1.0, 1.001]]):
        desk[0] = http(answer(marks=[{**MARK, "shape": shape}]))
        found, stands = asked_of(client, scope, "look", world)
        assert found.status_code == 503 and stands and "nothing was changed" in found.json()["detail"], found.text
