"""The phone and the office over HTTP: once each however often sent, in any order, with clocks that are wrong; photos; issues; files."""

import base64
import csv
import hashlib
import io
import json
import random
import re
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import openpyxl
import pytest
from fastapi.testclient import TestClient
from gate import PASSWORD, press, token
from PIL import Image

from gnomonic.core.log.facts import facts
from gnomonic.core.say import Say
from gnomonic.demo.field import picture
from gnomonic.store import accounts, events, jobs, people
from gnomonic.web.app import create_app
from gnomonic.web.home import sample


def send(client, job, rows, after=0, now=None, **more):
    body = {"events": rows, "now": (now or datetime.now(UTC)).isoformat(), "after": after}
    return client.post(f"/api/v1/jobs/{job}/log", json=body, **more)


def test_an_event_is_kept_once_and_each_is_answered_for_by_itself(client, job, phone):
    good, bad = phone(1, reached_m=0.75, plumb=True), phone(2, reached_m=9.0)
    answer = send(client, job, [good, bad, phone(3, "gap", gap_m=0.05)]).json()
    assert answer["took"][good["id"]] == "kept" and answer["took"][bad["id"]].startswith("reached_m")
    assert [row["event"]["id"][-1] for row in answer["events"]] == ["1", "3"] and answer["issue"] == 0
    again = send(client, job, [good], after=answer["n"]).json()
    assert again["took"] == {good["id"]: "again"} and again["events"] == [] and again["n"] == answer["n"]
    forged = {**good, "reached_m": 0.2}
    assert send(client, job, [forged]).json()["took"] == {good["id"]: "other"}
    assert [k.event.reached_m for k in events.of_job(client.app.state.room.scope, job) if k.event.kind == "depth"] == [
        0.75
    ]


def test_one_id_twice_in_a_delivery_is_the_first_and_only_what_is_new_moves_the_plan(client, scope, job, phone):
    first, other = phone(1, reached_m=0.75), phone(1, reached_m=0.2)
    assert send(client, job, [first, other]).json()["took"] == {first["id"]: "kept"}
    assert [k.event.reached_m for k in events.of_job(scope, job)] == [0.75]
    before = jobs.glance(scope, job).events
    assert set(send(client, job, [first, phone(2, "note", note="wet here")]).json()["took"].values()) == {
        "again",
        "kept",
    }
    assert jobs.glance(scope, job).events == before  # a note is nothing the plan answers to


def test_any_order_and_any_number_of_times_comes_to_the_same_rows(client, scope, job, phone):
    rows = [
        phone(n, post=str(n % 7 + 1), ago=n, device=f"phone-{'abc'[n % 3]}", reached_m=0.5 + n / 100)
        for n in range(1, 41)
    ]
    rng = random.Random(3)
    for _ in range(4):
        part = rng.sample(rows, 25)
        assert set(send(client, job, part).json()["took"].values()) <= {"kept", "again"}
    send(client, job, rows[::-1])
    kept = events.of_job(scope, job)
    assert len(kept) == 40
    straight = facts(sorted(kept, key=lambda k: k.event.seq))
    assert [k.event.id for k in facts(kept).stand] == [k.event.id for k in straight.stand]


@pytest.mark.parametrize("off", [timedelta(days=1), timedelta(days=-1), timedelta(days=-56 * 365)])
def test_a_clock_that_is_wrong_by_a_day_or_stands_in_1970_is_put_right(client, scope, job, phone, off):
    """A phone that is off writes at its noon, and sends five of its minutes later; one that is right wrote between."""
    here = datetime.now(UTC)
    theirs = phone(1, reached_m=0.6)
    theirs["clock"] = (here + off - timedelta(minutes=5)).isoformat()
    right = phone(2, ago=8, device="phone-b", reached_m=0.7)
    assert send(client, job, [theirs], now=here + off).json()["took"] == {theirs["id"]: "kept"}
    send(client, job, [right])
    by = {k.event.seq: k for k in events.of_job(scope, job)}
    assert abs(by[1].order[0] - (here - timedelta(minutes=5))) < timedelta(seconds=20)
    assert facts(by.values()).built["A"][0].reached_m == 0.6


def test_no_event_happened_after_it_came(client, scope, job, phone):
    ahead = phone(1, reached_m=0.6)
    ahead["clock"] = (datetime.now(UTC) + timedelta(days=400)).isoformat()
    send(client, job, [ahead])
    assert events.of_job(scope, job)[0].order[0] <= datetime.now(UTC) + events.AHEAD


def test_what_was_written_of_a_line_or_a_post_that_is_gone_is_kept(client, job, phone):
    rows = [phone(1, post="999z", reached_m=0.5), {**phone(2, "gap", gap_m=0.1), "line": "Q"}]
    assert set(send(client, job, rows).json()["took"].values()) == {"kept"}
    page = client.get(f"/jobs/{job}/log")
    assert page.status_code == 200 and "does not have any more" in page.text


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"events": [], "now": "yesterday"}, "now"),
        ({"events": [], "now": "2026-06-01T08:00:00"}, "now"),
        ({"events": {}, "now": "2026-06-01T08:00:00Z"}, "events"),
        ({"events": [1], "now": "2026-06-01T08:00:00Z"}, "events.0"),
        ({"events": [], "now": "2026-06-01T08:00:00Z", "after": -1}, "after"),
    ],
)
def test_a_delivery_that_is_none_is_refused_whole(client, job, body, field):
    answer = client.post(f"/api/v1/jobs/{job}/log", json=body)
    assert answer.status_code == 422 and answer.json()["field"] == field


def test_nothing_is_delivered_to_a_job_that_is_not_there_or_of_another_workspace(client, scope, job, phone):
    assert send(client, "nosuch", [phone(1, reached_m=0.5)]).status_code == 404
    far = replace(scope, workspace="next-door")
    theirs = jobs.create(far, sample.job())
    assert send(client, theirs, [phone(1, reached_m=0.5)]).status_code == 404 and events.of_job(far, theirs) == []


def test_too_many_are_refused_whole_and_said(client, job, phone, monkeypatch):
    monkeypatch.setattr(events, "MOST_EVENTS", 2)
    answer = send(client, job, [phone(n, post=str(n), reached_m=0.5) for n in range(1, 4)])
    assert answer.status_code == 422 and "stays on the phone" in answer.json()["detail"]
    assert (
        client.post(
            f"/api/v1/jobs/{job}/log", json={"events": [phone(n) for n in range(501)], "now": "2026-06-01T08:00:00Z"}
        ).status_code
        == 422
    )


# --- a role taken away while offline -------------------------------------------------------------------------------------------
@pytest.fixture
def staffed(scope, quick_hashes):
    return {role: people.add_person(scope, f"{role}@holm", f"the {role}", role, PASSWORD) for role in accounts.ROLES}


def test_what_one_who_left_delivers_waits_for_an_owner(scope, job, phone, staffed):
    app = create_app(scope)
    out, owner = (TestClient(app, base_url="http://localhost", follow_redirects=False) for _ in range(2))
    for one, who in ((out, "crew"), (owner, "owner")):
        one.post("/sign-in", data={"login": f"{who}@holm", "password": PASSWORD})
    mark = {"headers": {"X-Page-Token": token(out)}}
    people.take_away(scope, staffed["crew"])
    rows = [phone(n, post=str(n), reached_m=0.75) for n in (1, 2, 3)]
    answer = send(out, job, rows, **mark).json()
    assert (
        set(answer["took"].values()) == {"held"} and answer["left"] and "events" not in answer and "issue" not in answer
    )
    assert out.get(f"/api/v1/jobs/{job}/field").status_code == 403 and events.of_job(scope, job) == []
    before = send(owner, job, [], headers={"X-Page-Token": token(owner)}).json()["n"]
    assert "the crew</b> delivered 3 events" in owner.get(f"/jobs/{job}/log").text
    assert press(owner, f"/jobs/{job}/log/decide", actor="the crew", take="yes").status_code == 303
    news = send(owner, job, [], after=before, headers={"X-Page-Token": token(owner)}).json()
    assert len(news["events"]) == 3 and news["events"][0]["by"] == "the crew"
    send(out, job, [phone(9, post="9", reached_m=0.75)], **mark)
    press(owner, f"/jobs/{job}/log/decide", actor="the crew", take="no")
    assert (
        len(events.of_job(scope, job)) == 3
        and "delivered" not in owner.get(f"/jobs/{job}/log").text.split("Work done")[0]
    )
    assert [a.what for a in accounts.audited(scope)][:2] == [
        "left out what was delivered late",
        "took in what was delivered late",
    ]


# --- photos --------------------------------------------------------------------------------------------------------------------
def post_photo(client, job, body, digest=None, kind="image/jpeg"):
    digest = digest or hashlib.sha256(body).hexdigest()
    return client.post(f"/api/v1/jobs/{job}/photos/{digest}", content=body, headers={"Content-Type": kind}), digest


def test_a_photo_is_kept_upright_scaled_down_and_without_what_it_says_besides(client, job):
    wide = Image.new("RGB", (2400, 1200), "#7d8f5a")
    exif = Image.Exif()
    exif[0x0112], exif[0x010F] = 6, "a maker's name"  # lies on its side
    out = io.BytesIO()
    wide.save(out, "JPEG", exif=exif)
    answer, digest = post_photo(client, job, out.getvalue())
    assert answer.status_code == 200 and post_photo(client, job, out.getvalue())[0].status_code == 200
    shown = client.get(f"/api/v1/jobs/{job}/photos/{digest}")
    made = Image.open(io.BytesIO(shown.content))
    assert made.size == (800, 1600) and not dict(made.getexif()) and shown.headers["content-type"] == "image/jpeg"
    assert b"maker" not in shown.content


def test_what_is_no_photo_is_refused(client, job):
    bomb = io.BytesIO()
    Image.new("1", (20_000, 20_000)).save(bomb, "PNG")
    gif = io.BytesIO()
    Image.new("P", (10, 10)).save(gif, "GIF")
    for body in (
        b"not a photo",
        b"<svg xmlns='http://www.w3.org/2000/svg'/>",
        b"",
        picture()[:2000],
        bomb.getvalue(),
        gif.getvalue(),
    ):
        answer, digest = post_photo(client, job, body)
        assert answer.status_code == 422 and answer.json()["field"] == "photo", body[:20]
        assert client.get(f"/api/v1/jobs/{job}/photos/{digest}").status_code == 404
    assert post_photo(client, job, picture(), "0" * 64)[0].status_code == 422
    large = post_photo(client, job, b"x" * 50_000_000)[0]
    assert large.status_code == 413 and "3 MB" in large.json()["detail"]


# --- issues --------------------------------------------------------------------------------------------------------------------
def test_the_crew_works_from_an_issue_until_the_planner_gives_out_the_next(client, job, phone):
    first = client.get(f"/api/v1/jobs/{job}/field").json()
    assert first["issue"] == 0 and first["pack"]["lines"][0]["marks"]["state"] == "clear"
    post = next(p for p in first["pack"]["lines"][0]["posts"] if p["role"] == "Line post")
    assert "Give out issue 1" in client.get(f"/jobs/{job}/log").text
    client.post(f"/jobs/{job}/issues")
    moved = phone(1, "moved", post=post["name"], along_m=0.25)
    moved["at_m"], moved["e_m"], moved["n_m"] = post["at"], post["e"], post["n"]
    assert send(client, job, [moved]).json()["issue"] == 1
    page = client.get(f"/jobs/{job}/log").text
    assert "The crew has issue 1" in page and f"moved A{post['name']}" in page and "Give out issue 2" in page
    kept = client.get(f"/api/v1/jobs/{job}/field").json()
    assert (
        kept["issue"] == 1
        and next(p for p in kept["pack"]["lines"][0]["posts"] if p["name"] == post["name"])["at"] == post["at"]
    )
    client.post(f"/jobs/{job}/issues")
    now = client.get(f"/api/v1/jobs/{job}/field").json()
    assert now["issue"] == 2 and next(p for p in now["pack"]["lines"][0]["posts"] if p["name"] == post["name"])[
        "at"
    ] == pytest.approx(post["at"] + 0.25, abs=0.002)
    assert "It is the plan as it stands" in client.get(f"/jobs/{job}/log").text


def test_marks_are_news_whatever_issue_a_phone_has(client, scope, job):
    client.post(f"/jobs/{job}/issues")
    stored = jobs.load(scope, job)
    edit = {"base": stored.version, "edit": {"do": "forget_marking"}}
    assert client.post(f"/api/v1/jobs/{job}/edits", json=edit).status_code == 200
    page = client.get(f"/jobs/{job}/log").text
    assert "no post is another" in page and "Give out issue 2" in page  # the plan has another version all the same
    answer = send(client, job, []).json()
    assert answer["issue"] == 1 and answer["marks"]["A"]["state"] == "not asked"
    assert client.get(f"/api/v1/jobs/{job}/field").json()["pack"]["lines"][0]["marks"]["state"] == "clear"


def test_thirty_four_inches_of_thirty_six_are_let_pass_and_twenty_two_are_not(client, job):
    """Common practice: a post that reached 34 in of 36 is usually let pass, one that stopped at 22 is not."""
    posts = client.get(f"/api/v1/jobs/{job}/field").json()["pack"]["lines"][0]["posts"]
    braces = [p for p in posts if p["role"] == "Brace post" and p["deep"] == pytest.approx(36 * 0.0254, abs=1e-3)]
    assert braces and all(22 * 0.0254 < p["pass"] <= 34 * 0.0254 for p in braces)
    assert all(0 < p["pass"] <= p["deep"] for p in posts)


def test_how_deep_a_post_came_is_no_snag_of_an_issue(client, job, phone):
    """An issue is frozen, the ground goes on telling: on the phone it is said from what was logged last."""
    before = client.get(f"/api/v1/jobs/{job}/field").json()["pack"]["lines"][0]
    post = next(p for p in before["posts"] if p["role"] == "Brace post")
    assert send(client, job, [phone(1, post=post["name"], at_m=post["at"], reached_m=0.3)]).status_code == 200
    office = client.get(f"/api/v1/jobs/{job}/lines").json()["snags"]
    after = client.get(f"/api/v1/jobs/{job}/field").json()["pack"]["lines"][0]["snags"]
    assert "stopped at" in str(office) and after and "stopped at" not in str(after)


def test_what_a_rail_is_cut_to_on_the_phone_is_what_the_brace_sheet_says(client, job):
    pack = client.get(f"/api/v1/jobs/{job}/field").json()["pack"]
    brace = pack["lines"][0]["braces"][0]
    clear, rail, wire = brace["cuts"]["us"][10]
    given = {
        "at": brace["at"],
        "ahead": str(brace["ahead"]).lower(),
        "clear": f"{clear / 0.0254} in",
        "outer": f"{brace['outer'] / 0.0254} in",
        "inner": f"{brace['inner'] / 0.0254} in",
    }
    sheet = client.get(f"/jobs/{job}/brace", params=given).text
    assert Say("{r} as measured", {"r": (rail, "cut")}).text("us") in sheet
    assert rail >= clear and wire > 4 * clear  # two turns of twice the diagonal


# --- a file carried in, and the ways out ---------------------------------------------------------------------------------------
def phone_file(job, rows, pictures=(), **more):
    body = {
        "form": "gnomonic-phone/1",
        "device": "phone-a",
        "now": datetime.now(UTC).isoformat(),
        "workspace": "own",
        "by": "Wren",
        "events": [{"job": job, "event": e} for e in rows],
    }
    body["photos"] = [
        {"job": job, "digest": hashlib.sha256(p).hexdigest(), "base64": base64.b64encode(p).decode()} for p in pictures
    ]
    return json.dumps({**body, **more}).encode()


def read_file(client, job, body):
    return client.post(f"/jobs/{job}/log/phone", files={"file": ("phone.json", body, "application/json")})


def test_a_file_a_phone_saved_is_read_once_however_often(client, scope, job, phone):
    rows = [phone(1, reached_m=0.7), phone(2, "photo", photo=hashlib.sha256(picture()).hexdigest())]
    body = phone_file(job, rows, [picture()], now=(datetime.now(UTC) - timedelta(days=3)).isoformat())
    assert "2 read, 1 photos." in read_file(client, job, body).text
    assert "0 read, 2 were here already" in read_file(client, job, body).text and len(events.of_job(scope, job)) == 2
    kept = events.of_job(scope, job)[0]
    assert abs(kept.order[0] - kept.event.clock) < timedelta(seconds=30)  # carried for days: no fault of its clock


@pytest.mark.parametrize(
    ("change", "why"),
    [
        (lambda b: b[: len(b) // 2], "JSON"),
        (lambda b: b.replace(b"gnomonic-phone/1", b"gnomonic-phone/9"), "no file a phone saved"),
        (lambda b: b.replace(b'"events"', b'"evnts"'), "damaged"),
        (lambda b: b.replace(b'"own"', b'"far"'), "of another workspace"),
        (lambda b: b"\xff\xfe\x00", "JSON|read"),
    ],
)
def test_a_phones_file_that_is_damaged_is_refused_and_nothing_read(client, scope, job, phone, change, why):
    answer = read_file(client, job, change(phone_file(job, [phone(1, reached_m=0.7)])))
    assert answer.status_code == 422 and re.search(why, answer.text) and events.of_job(scope, job) == []


def test_the_log_goes_out_as_csv_xlsx_and_geojson_with_everything_in_it(client, job, phone):
    first = phone(1, ago=9, reached_m=0.75, plumb=True, e_m=3.0, n_m=4.0, note="=HYPERLINK(1)")
    send(client, job, [first, phone(2, ago=5, reached_m=0.5, met="rock"), phone(3, "void", of=first["id"])])
    rows = list(csv.DictReader(io.StringIO(client.get(f"/jobs/{job}/log.csv").content.decode("utf-8-sig"))))
    assert [(r["kind"], r["depth (m)"], r["stands"]) for r in rows] == [
        ("depth", "0.75", "taken back"),
        ("depth", "0.5", "yes"),
        ("void", "", "taken back"),
    ]
    assert rows[0]["note"] == "'=HYPERLINK(1)" and rows[0]["plumb"] == "yes"
    book = openpyxl.load_workbook(io.BytesIO(client.get(f"/jobs/{job}/log.xlsx").content)).active
    assert (
        book.cell(3, 9).value == 0.75
        and book.cell(3, 20).value == "=HYPERLINK(1)"
        and book.cell(3, 20).data_type == "s"
    )
    points = json.loads(client.get(f"/jobs/{job}/log.geojson").content)["features"]
    assert len(points) == 3 and points[0]["geometry"]["type"] == "Point" and points[1]["geometry"] is None


def test_a_client_sees_how_far_it_is_and_neither_names_nor_prices(client, job, phone):
    send(client, job, [phone(1, reached_m=0.75)])
    page = client.get(f"/jobs/{job}/look").text
    assert "1 of " in page and "posts stand" in page and "Wren" not in page and "$" not in page
