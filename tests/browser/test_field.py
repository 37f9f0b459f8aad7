"""The field pages on a phone: two presses a post, four a brace, a cold start without a signal, nothing said to be kept that is not."""

import hashlib
import json
import random
import time
from datetime import UTC, date, datetime, timedelta

import pytest
from crews import crew, person
from events import some_row
from looks import COLOURS, faults
from playwright.sync_api import expect

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.job.fence import one_line
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.core.log.events import Event, Kept
from gnomonic.core.log.facts import facts
from gnomonic.core.log.kinds import kinds
from gnomonic.demo.field import marks, picture
from gnomonic.demo.load import single_jobs
from gnomonic.store import days, events, field, jobs
from gnomonic.web.home import sample

PHONE = {"width": 390, "height": 844}
STORED = """async () => {
  const { openDB } = await import(document.querySelector("script[type=module]").src.replace("field/app.js", "static/vendor/idb/idb.js"));
  const db = await openDB("gnomonic-field");
  const rows = await db.getAll("events");
  db.close();
  return rows.map(({ event, sent, job }) => ({ ...event, sent, job }));
}"""

LEFT_AFTER_SIGNING_OUT = """async () => {
  const keep = await import(document.querySelector("script[type=module]").src.replace("app.js", "keep.js"));
  await keep.leave("");
  const { openDB } = await import(document.querySelector("script[type=module]").src.replace("field/app.js", "static/vendor/idb/idb.js"));
  const db = await openDB("gnomonic-field");
  const left = (await db.count("photos")) + (await db.count("packs"));
  db.close();
  return left;
}"""


@pytest.fixture
def job(server):
    """A demo line whose marks are in, on the shared server."""
    _, scope = server
    made = single_jobs()[-1]
    for edit in marks(date.today()):
        made = apply(made, read_edit(edit))
    job_id = jobs.create(scope, made)
    yield job_id
    jobs.remove(scope, job_id)


@pytest.fixture
def phone(context, page, server, job):
    """A phone that has taken the job along; the application is kept on it."""
    address, _ = server
    page.set_viewport_size(PHONE)
    page.goto(f"{address}/field/")
    page.evaluate("navigator.serviceWorker.ready")
    page.wait_for_function("() => navigator.serviceWorker.controller !== null")
    take_along(page, job)
    return page


def take_along(page, job):
    """Take a job along, as its button does."""
    page.evaluate(
        "async (job) => { const { takeJob } = await import(document.querySelector('script[type=module]').src.replace('app.js', 'sync.js')); await takeJob(job); location.hash = `#job/${job}`; }",
        job,
    )
    page.wait_for_selector(".posthead")
    ready(page)


def ready(page):
    page.wait_for_selector("body[data-ready=yes]")


def name(page):
    return page.inner_text(".posthead h1")


def test_a_post_is_written_down_in_one_press_and_on_rock_in_two(phone, server, job):
    _, scope = server
    first = name(phone)
    begun = time.perf_counter()
    phone.locator(".press.main").click()
    expect(phone.locator(".posthead h1")).not_to_have_text(first)
    took = time.perf_counter() - begun
    expect(phone.locator("#waiting")).to_have_text("all sent")
    second = name(phone)
    phone.get_by_role("button", name="Hit rock").click()
    phone.locator("dialog .chip").nth(6).click()
    expect(phone.locator(".posthead h1")).not_to_have_text(second)
    expect(phone.locator("#told")).to_contain_text("on rock at")
    rows = phone.evaluate(STORED)
    assert [(r["kind"], r["post"], r.get("met")) for r in sorted(rows, key=lambda r: r["seq"])] == [
        ("depth", first, None),
        ("depth", second, "rock"),
    ]
    expect(phone.locator("#waiting")).to_have_text("all sent")
    assert len(events.of_job(scope, job)) == 2 and took < 5
    phone.get_by_role("button", name="take back").click()
    expect(phone.locator("#told")).to_contain_text("Taken back")
    expect(phone.locator(".posthead h1")).to_have_text(second)


def test_on_a_steep_slope_the_card_says_which_distance_is_which_and_how_it_is_drawn(page, server):
    """50 %, in metres: 30 m level are 30·√1.25 = 33.54 m on a tape laid on the ground; 12 m of rise do not fit the strip to scale."""
    address, scope = server
    points = tuple(Point(e_m=30.0 * k, n_m=0.0, h_m=50 + 15.0 * k) for k in range(4))
    made = one_line("steep", MeasuredLine(points=points, source=Source(kind="drawn", points_read=4)))
    for edit in (*marks(date.today()), {"do": "place_post", "at_m": 30}):
        made = apply(made, read_edit(edit))
    job_id = jobs.create(scope, made)
    page.set_viewport_size(PHONE)
    page.goto(f"{address}/field/")
    page.get_by_role("button", name="Feet and inches").click()
    take_along(page, job_id)
    name = page.evaluate(f"fetch('/api/v1/jobs/{job_id}/field').then(r => r.json()).then(r => r.pack.lines[0].posts.find(p => Math.abs(p.at - 30) < 0.01).name)")  # fmt: skip
    page.goto(f"{address}/field/#job/{job_id}/posts/A/{name}")
    expect(page.locator(".posthead h1")).to_have_text(name)
    expect(page.locator(".taped b")).to_have_text("30.00 m")
    assert page.locator(".taped small").all_inner_texts() == ["level, from post 1", "33.54 m along the ground"]
    expect(page.locator(".strip .times")).to_contain_text("heights ×0.")
    page.locator("#foot a", has_text="Wire").click()
    expect(page.locator("#main")).to_contain_text("90.00 m level, 100.62 m along the ground")
    jobs.remove(scope, job_id)


def test_a_brace_as_measured_in_four_presses(phone, server, job):
    _, scope = server
    phone.locator("#foot a", has_text="Braces").click()
    planned = phone.locator(".chip.planned").inner_text()
    phone.locator(".chip.planned + .chip").click()
    expect(phone.locator(".cut")).to_contain_text("Cut the rail")
    phone.locator(".cut .press").click()
    expect(phone.locator("#told")).to_contain_text("clear")
    expect(phone.locator("#waiting")).to_have_text("all sent")
    (kept,) = events.of_job(scope, job)
    assert kept.event.kind == "clear" and planned not in phone.locator("#told").inner_text()


def test_a_cold_start_without_a_signal_has_the_whole_job_and_loses_nothing(phone, context, server, job):
    address, scope = server
    context.set_offline(True)
    cold = context.new_page()
    cold.set_viewport_size(PHONE)
    begun = time.perf_counter()
    cold.goto(f"{address}/field/#job/{job}")
    cold.wait_for_selector(".posthead")
    opened = time.perf_counter() - begun
    for _ in range(3):
        was = name(cold)
        cold.locator(".press.main").click()
        expect(cold.locator(".posthead h1")).not_to_have_text(was)
    expect(cold.locator("#waiting")).to_have_text("3 not sent")
    cold.close()  # the phone is switched off
    again = context.new_page()
    again.goto(f"{address}/field/#waiting")
    expect(again.locator("h1")).to_have_text("3 written down: not sent yet")
    expect(again.locator("#main")).to_contain_text("No signal. What waits is kept on this phone.")
    assert events.of_job(scope, job) == []
    context.set_offline(False)
    again.get_by_role("button", name="Send now").click()
    expect(again.locator("#waiting")).to_have_text("all sent")
    assert len(events.of_job(scope, job)) == 3 and opened < 10


def test_what_the_phone_keeps_of_the_application_is_whole_and_small(phone, server):
    """No part is loaded that is not kept, and all of it is under 3 MB."""
    kept, size = phone.evaluate(
        """async () => { const name = (await caches.keys()).find((k) => k.startsWith("gnomonic-field-")); const store = await caches.open(name); const keys = await store.keys();
        const sizes = await Promise.all(keys.map(async (k) => (await (await store.match(k)).blob()).size)); return [keys.map((k) => new URL(k.url).pathname), sizes.reduce((a, b) => a + b)]; }"""
    )
    loaded = phone.evaluate("performance.getEntriesByType('resource').map((r) => new URL(r.name).pathname)")
    assert {p for p in loaded if p.startswith("/assets/")} <= set(kept) and size < 3_000_000


def test_without_marks_no_hole_is_done_until_a_named_person_says_why(page, server):
    address, scope = server
    bare = jobs.create(scope, sample.job())
    page.set_viewport_size(PHONE)
    page.goto(f"{address}/field/")
    take_along(page, bare)
    expect(page.locator(".press.main")).to_have_count(0)
    expect(page.locator("#main")).to_contain_text("No marks in date")
    page.get_by_role("button", name="Dig all the same").click()
    page.get_by_role("button", name="Take it on me").click()
    expect(page.locator("dialog .alarmhere")).to_contain_text("A name and a reason")
    page.get_by_label("Who decides it").fill("Wren")
    page.get_by_label("Why it may be dug").fill("our own field, no service crosses it")
    page.get_by_role("button", name="Take it on me").click()
    expect(page.locator(".press.main")).to_be_visible()
    expect(page.locator("#waiting")).to_have_text("all sent")
    assert events.of_job(scope, bare)[0].event.note == "Wren: our own field, no service crosses it"
    jobs.remove(scope, bare)


def test_what_the_phone_could_not_keep_is_said_not_to_be_kept(phone):
    phone.evaluate(
        "() => { const put = IDBObjectStore.prototype.put; IDBObjectStore.prototype.put = function (row, ...more) { if (row?.event) throw new DOMException('full', 'QuotaExceededError'); return put.call(this, row, ...more); }; }"
    )
    was = name(phone)
    phone.locator(".press.main").click()
    expect(phone.locator("#alarm")).to_contain_text("NOT KEPT: this phone has no room left")
    assert name(phone) == was and phone.evaluate(STORED) == []


def test_what_hangs_where_the_signal_went_is_given_up_when_it_comes_back(phone, server, job):
    """Sent and never answered: with the signal back it is sent again at once, not after twenty seconds, and is there once."""
    _, scope = server
    hung = []
    phone.route("**/log", lambda route: route.continue_() if hung else hung.append(route))
    with phone.expect_request("**/log"):
        phone.locator(".press.main").click()
    expect(phone.locator("#waiting")).to_have_text("1 not sent")
    phone.evaluate("dispatchEvent(new Event('online'))")
    expect(phone.locator("#waiting")).to_have_text("all sent")
    assert len(events.of_job(scope, job)) == 1


def test_what_is_kept_is_not_said_to_be_lost_where_the_page_can_not_be_drawn(phone, job):
    """The other way round: a fault after the phone has it on its store is told as a fault of the page, not as nothing kept."""
    fault = """async () => {
      const hand = await import(document.querySelector("script[type=module]").src.replace("app.js", "hand.js"));
      hand.drawnBy(async () => { throw new Error("a fault of drawing"); });
      const told = await hand.note({ kind: "thunder" }).catch((error) => error.message);
      return [told, document.getElementById("alarm").textContent];
    }"""
    assert phone.evaluate(fault) == ["a fault of drawing", ""]
    assert [row["kind"] for row in phone.evaluate(STORED)] == ["thunder"]


def test_a_photo_is_scaled_down_kept_until_sent_and_shown_in_the_office(phone, context, server, job, readers):
    _, scope = server
    context.set_offline(True)
    with phone.expect_file_chooser() as chosen:
        phone.get_by_role("button", name="Photo", exact=True).click()
    chosen.value.set_files({"name": "hole.jpg", "mimeType": "image/jpeg", "buffer": picture()})
    expect(phone.locator("#waiting")).to_have_text("2 not sent")
    context.set_offline(False)
    expect(phone.locator("#waiting")).to_have_text("all sent")
    assert len(field.photos(scope, job)) == 1
    with phone.expect_file_chooser() as chosen:
        phone.get_by_role("button", name="Photo", exact=True).click()
    chosen.value.set_files({"name": "hole.jpg", "mimeType": "image/jpeg", "buffer": b"none"})
    expect(phone.locator("#alarm")).to_contain_text("No photo was kept")


def test_the_day_and_photos_of_others_are_on_the_phone_and_go_from_it_with_who_holds_it(phone, context, server, job):
    """Without a signal the day sheet is there, as old as it says; a photo of another's is fetched once and then stays."""
    address, scope = server
    days.put_crew(scope, crew(person("Ann"), person("Odo").model_copy(update={"name": "the demo’s owner"})))
    phone.locator("#foot a", has_text="Day").click()
    expect(phone.locator("#main")).to_contain_text("a planner says when the job begins")
    phone.request.post(f"{address}/jobs/{job}/days", form={"start": (date.today() + timedelta(days=1)).isoformat()})
    body = picture()
    digest = hashlib.sha256(body).hexdigest()
    phone.request.post(
        f"{address}/api/v1/jobs/{job}/photos/{digest}", data=body, headers={"Content-Type": "image/jpeg"}
    )
    first = phone.evaluate(f"fetch('/api/v1/jobs/{job}/field').then(r => r.json()).then(r => r.pack.lines[0].id + ' ' + r.pack.lines[0].posts[2].name)").split()  # fmt: skip
    others = Event(id="00000000-0000-4000-8000-00000000000a", device="another", seq=1, clock=datetime.now(UTC) - timedelta(minutes=5), line=first[0], post=first[1], kind="photo", photo=digest, author="Odo")  # fmt: skip
    events.add(scope, job, [others], timedelta())
    take_along(phone, job)
    phone.goto(f"{address}/field/#waiting")
    with phone.expect_event("requestfinished", lambda r: r.url.endswith(f"/jobs/{job}/log")):
        phone.get_by_role("button", name="Send now").click()
    phone.goto(f"{address}/field/#job/{job}/day")
    mine = phone.locator(".dayrows li.mine", has_text="you")
    expect(mine.first).to_be_visible()
    sheet = phone.locator(".dayhead h1").inner_text()
    phone.goto(f"{address}/field/#job/{job}/posts/{first[0]}/{first[1]}")
    context.set_offline(True)
    phone.get_by_role("button", name="Its photo").click()
    expect(phone.locator("figure")).to_contain_text("it comes when there is a signal")
    phone.get_by_role("button", name="Back").click()
    context.set_offline(False)
    phone.get_by_role("button", name="Its photo").click()
    expect(phone.locator("figure img")).to_be_visible()
    expect(phone.locator("figcaption")).to_contain_text("Odo")
    context.set_offline(True)
    phone.goto(f"{address}/field/#job/{job}/day")
    phone.reload()
    expect(phone.locator(".dayhead h1")).to_have_text(sheet)
    expect(phone.locator("#main")).to_contain_text("As the office had it")
    phone.goto(f"{address}/field/#job/{job}/posts/{first[0]}/{first[1]}")
    phone.get_by_role("button", name="Its photo").click()
    expect(phone.locator("figure img")).to_be_visible()
    assert phone.evaluate(LEFT_AFTER_SIGNING_OUT) == 0


def test_a_page_that_was_left_does_not_come_to_stand_over_the_next(phone, job):
    """What is not sent, left for the posts before it is drawn: the posts stay, whichever takes longer to read from the phone."""
    left = f"""new Promise((done) => {{
      addEventListener("hashchange", () => {{ location.hash = "#job/{job}"; done(); }}, {{ once: true }});
      location.hash = "#waiting";
    }})"""
    for _ in range(5):
        phone.evaluate(left)
        expect(phone.locator(".posthead")).to_be_visible()
        phone.get_by_role("button", name="Found…").click()
        phone.get_by_role("button", name="Back").click()


def test_a_new_issue_is_said_and_taken(phone, server, job):
    address, _ = server
    phone.request.post(f"{address}/jobs/{job}/issues")
    phone.locator(".press.main").click()
    expect(phone.locator(".issue.old")).to_contain_text("Issue 1 of the plan is out")
    phone.get_by_role("button", name="Take it").click()
    expect(phone.locator(".issue")).to_have_count(0)


def test_a_head_measured_too_high_after_the_cut_brings_its_warning_back(phone):
    """On rock at a few inches, cut, and then found standing proud: too shallow again, and no word of a cut."""
    first = name(phone)
    phone.get_by_role("button", name="Hit rock").click()
    phone.locator("dialog .chip").last.click()
    expect(phone.locator(".posthead h1")).not_to_have_text(first)
    phone.get_by_role("button", name="Post before").click()
    expect(phone.locator(".isin")).to_contain_text("oo shallow")
    phone.get_by_role("button", name="More…").click()
    phone.get_by_role("button", name="Cut and capped").click()
    expect(phone.locator(".isin")).to_contain_text("cut and capped")
    expect(phone.locator(".isin")).not_to_contain_text("oo shallow")
    phone.get_by_role("button", name="More…").click()
    phone.get_by_role("button", name="Stands proud").click()
    phone.locator("dialog .chip").last.click()
    expect(phone.locator(".isin")).to_contain_text("oo shallow")
    expect(phone.locator(".isin")).not_to_contain_text("cut and capped")


FOLDED = """async (streams) => { const { fold, posts } = await import(document.querySelector('script[type=module]').src.replace('app.js', 'fold.js'));
  return streams.map((rows) => { const made = fold([...rows, ...rows.slice(0, 50)]);
    return { stand: made.stand.map((r) => r.event.id), earlier: Object.fromEntries(made.earlier), posts: Object.fromEntries(posts(made)) }; }); }"""
OF_PLAN = ("reached_m", "met", "proud_m", "along_m", "across_m", "pilot_m", "pilot_met", "accepted", "cut")


def test_the_phone_folds_events_of_every_kind_as_the_office_does(phone):
    """What stands, over what, and what is known of each post then: 40 streams of 200 events, every kind in them."""
    rng = random.Random(5)
    streams = [[some_row(rng, n, 200) for n in range(200)] for _ in range(40)]
    streams.append(
        [
            row(n, *what)
            for n, what in enumerate(
                (("depth", {"reached_m": 0.5, "met": "rock"}), ("cut", {}), ("proud", {"proud_m": 0.2}))
            )
        ]
    )
    mixed = [rng.sample(rows, len(rows)) for rows in streams]
    for theirs, rows in zip(phone.evaluate(FOLDED, mixed), streams, strict=True):
        here = facts(Kept(Event.model_validate(r["event"]), timedelta(seconds=r["offset_s"])) for r in rows)
        assert theirs["stand"] == [k.event.id for k in here.stand]
        assert {k: tuple(v) for k, v in theirs["earlier"].items()} == dict(here.earlier)
        for line, built in here.built.items():
            for b in built:
                known = theirs["posts"][line + b.post]
                for name in OF_PLAN:
                    assert (known.get(name) or None) == (getattr(b, name) or None), (line, b.post, name)
    assert {r["event"]["kind"] for rows in streams for r in rows} == set(kinds())
    assert "cut" not in theirs["posts"]["A1"] and theirs["posts"]["A1"]["proud_m"] == 0.2


def row(n, kind, values):
    clock = datetime(2026, 6, 1, 8, n, tzinfo=UTC).isoformat()
    return {
        "event": {
            "id": f"00000000-0000-4000-8000-{n:012d}",
            "device": "a",
            "seq": n,
            "clock": clock,
            "kind": kind,
            "line": "A",
            "post": "1",
            "at_m": 1.0,
            **values,
        },
        "offset_s": 0,
    }


NEAR = """async (given) => { const { clock, fold } = await import(document.querySelector('script[type=module]').src.replace('app.js', 'fold.js')); const { nearHazards, marksHold } = await import(document.querySelector('script[type=module]').src.replace('app.js', 'safety.js'));
clock.off_s = given.off ?? 0; const made = fold(given.events.map((event) => ({ event, offset_s: clock.off_s }))); return [nearHazards(made, 0, 0).map(([far, e]) => [far, e.id]), marksHold({ id: 'A', marks: given.marks }, made)]; }"""


def seen(n, kind, ago_h=0.0, **values):
    clock = datetime.now(UTC) - timedelta(hours=ago_h)
    return {"id": str(n), "device": "a", "seq": n, "clock": clock.isoformat(), "kind": kind, **values}


def test_what_was_seen_within_twenty_metres_comes_up_the_nearest_first(phone):
    rows = [seen(n, kind, what=what, e_m=e, n_m=0.0) for n, kind, what, e in ((1, "hazard", "nest", 21.0), (2, "hazard", "nest", 19.9), (3, "found", "wire", 5.0), (4, "found", "rock", 1.0))]  # fmt: skip
    near, _ = phone.evaluate(NEAR, {"events": rows, "marks": {"state": "clear", "until": ""}})
    assert near == [[5.0, "3"], [19.9, "2"]]


def test_marks_hold_to_the_end_of_their_day_and_a_reason_for_twelve_hours(phone):
    for state, until, reason, holds in (
        ("clear", 0, None, True),
        ("marked", 0, None, True),
        ("marked", -1, None, False),
        ("requested", 5, None, False),
        ("not asked", None, ("A", 11.9), True),
        ("not asked", None, ("", 1.0), True),
        ("not asked", None, ("A", 12.1), False),
        ("not asked", None, ("B", 1.0), False),
    ):
        last = "" if until is None else (date.today() + timedelta(days=until)).isoformat()
        rows = [seen(1, "dig_anyway", reason[1], line=reason[0], note="Wren: our own field")] if reason else []
        found = phone.evaluate(NEAR, {"events": rows, "marks": {"state": state, "until": last}})[1]
        assert found is holds, (state, until, reason)


def test_a_phone_whose_clock_is_a_day_off_goes_by_the_offices(phone):
    for off_h, until, reason_h, holds in (
        (24, 0, None, False),  # a day behind: what the phone takes for their last day is over in the office
        (24, 1, None, True),
        (-24, -1, None, True),  # a day ahead: by the office it is their last day still
        (24, None, 1.0, True),  # a reason given an hour ago, on the phone's own clock
        (-24, None, 1.0, True),
        (24, None, 12.1, False),
    ):
        last = "" if until is None else (date.today() + timedelta(days=until)).isoformat()
        state = "marked" if until is not None else "not asked"
        rows = [seen(1, "dig_anyway", reason_h, line="A", note="Wren: our own field")] if reason_h else []
        given = {"events": rows, "marks": {"state": state, "until": last}, "off": off_h * 3600}
        assert phone.evaluate(NEAR, given)[1] is holds, (off_h, until, reason_h)


def test_a_reading_the_office_would_refuse_is_not_taken_on_the_phone(phone):
    """By the bounds of the one table of events: air of 500 °F is none; the sheet stays open, and what was meant is kept."""
    phone.locator("#foot a", has_text="Wire").click()
    expect(phone.locator("#foot a[aria-current]")).to_contain_text("Wire")
    ready(phone)
    phone.locator("#main button", has_text=" to ").first.click()
    phone.get_by_label("Tension read, lb").fill("200")
    phone.get_by_label("Temperature, °F").fill("500")
    phone.get_by_role("button", name="Keep the reading").click()
    expect(phone.locator(".alarmhere")).to_have_text(
        "The temperature lies between −76 °F and 140 °F: nothing was kept."
    )
    expect(phone.locator(".alarmhere")).to_be_in_viewport(ratio=1)
    phone.get_by_label("Temperature, °F").fill("50")
    phone.get_by_role("button", name="Keep the reading").click()
    expect(phone.locator("#told")).to_contain_text("Reading kept.")


def test_a_clock_that_is_off_is_said_and_thunder_counts_from_when_it_was(phone):
    off = "async () => { const keep = await import(document.querySelector('script[type=module]').src.replace('app.js', 'keep.js')); await keep.remember('offset_s', 86400); }"
    phone.evaluate(off)
    phone.locator("#foot a", has_text="Safety").click()
    phone.route("**/api/v1/**", lambda route: route.abort())  # nobody puts it right meanwhile
    phone.get_by_role("button", name="Thunder heard").click()
    expect(phone.locator(".caution.big")).to_contain_text("Stand off until")
    phone.locator("#waiting").click()
    expect(phone.locator("#main")).to_contain_text("clock is 24 h behind the office’s")


def test_after_thunder_everybody_stands_off_for_half_an_hour_after_the_last(phone):
    phone.locator("#foot a", has_text="Safety").click()
    phone.get_by_role("button", name="Thunder heard").click()
    said = phone.locator(".caution.big")
    expect(said).to_contain_text("Stand off until")
    half = "[0, 1].map((back) => new Date(Date.now() + (30 - back) * 60000).toLocaleTimeString([], { hour: '2-digit', minute: '2-digit' }))"
    assert any(moment in said.inner_text() for moment in phone.evaluate(half))  # the minute may have turned meanwhile
    expect(phone.get_by_role("button", name="Thunder again")).to_be_visible()


def test_every_press_is_large_enough_and_every_view_free_of_faults(phone, server, job):
    begins = (date.today() + timedelta(days=1)).isoformat()
    phone.request.post(f"{server[0]}/jobs/{job}/days", form={"start": begins})
    take_along(phone, job)
    for tab in ("posts", "braces", "wire", "day", "safety", "more"):
        phone.goto(phone.url.split("#")[0] + f"#job/{job}/{tab}")
        ready(phone)
        for sun in (False, True):
            phone.evaluate(
                "(sun) => { if (sun) document.documentElement.dataset.theme = 'sun'; else delete document.documentElement.dataset.theme; }",
                sun,
            )
            small = phone.evaluate(
                "[...document.querySelectorAll('#main button, #main a, #main summary, #foot a')].filter((b) => b.offsetParent && b.getBoundingClientRect().height < 55.5).map((b) => b.textContent)"
            )
            assert small == [], tab
            wrong = faults(phone, COLOURS if sun else {})
            assert wrong == [], (tab, sun, json.dumps(wrong)[:600])
        assert phone.evaluate("document.documentElement.scrollWidth") <= 390


@pytest.mark.answers("403")
@pytest.mark.parametrize(
    ("status", "said", "way", "shown"),
    [
        (422, "the office can’t read that just now", "Try those again", "1 not taken"),
        (403, "this page is older than your sign-in", "Send now", "1 not sent"),
    ],
)
def test_what_the_office_refuses_stays_in_sight_and_goes_with_the_next(phone, server, job, status, said, way, shown):
    """What can't be read is told as not taken; a refusal that may pass is none: what was written waits."""
    _, scope = server
    body = {"type": "x", "title": "x", "status": status, "detail": said, "kind": "input"}
    answer = {"status": status, "content_type": "application/problem+json", "body": json.dumps(body)}
    phone.route("**/log", lambda route: route.fulfill(**answer), times=1)
    was = name(phone)
    phone.locator(".press.main").click()
    expect(phone.locator(".posthead h1")).not_to_have_text(was)
    expect(phone.locator("#waiting")).to_have_text(shown)
    phone.locator("#waiting").click()
    expect(phone.locator("#main")).to_contain_text(said)
    phone.get_by_role("button", name=way).click()
    expect(phone.locator("#waiting")).to_have_text("all sent")
    assert len(events.of_job(scope, job)) == 1
