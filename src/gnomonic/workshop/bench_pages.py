"""What ``./gnomonic bench`` measures on a running server and in a browser."""

import statistics
import time
import tracemalloc
from http.client import HTTPConnection
from pathlib import Path
from typing import Any

from gnomonic.demo.load import single_jobs
from gnomonic.web.plans import Plans
from gnomonic.workshop.measures import MANY, many_lines, median_s, row


def _walk(url: str) -> None:
    """Half an hour at 10 Hz, as fast as it goes, with hang-ups: nothing lost, nothing held."""
    from gnomonic.demo.load import demo_path
    from gnomonic.standins.rover import Manners, Rover
    from gnomonic.store import walks
    from gnomonic.store.scope import Scope, connect
    from gnomonic.web.walk.receiver import LiveWalk

    scope = Scope(connect(url))
    manners = Manners(flat_out=True, speed_mps=0.403, hang_up_every_s=97, garble_every_s=61, jump_every_s=120)
    rover = Rover(demo_path(), manners)
    live = LiveWalk(scope, walks.begin(scope, "practice"), *rover.address)
    tracemalloc.start()
    start = time.perf_counter()
    live.start()
    third = 0
    while live.next_n < rover.fixes or not rover.done.is_set():
        if not third and live.next_n > 6000:
            third = tracemalloc.get_traced_memory()[0]
        rover.done.wait(0.02)
        if rover.done.is_set() and live.next_n + 1 >= rover.fixes:
            break
    held = tracemalloc.get_traced_memory()[0]
    tracemalloc.stop()
    live.end()
    rover.stop()
    taken = time.perf_counter() - start
    stored = walks.count(scope, live.walk_id)["next"]
    row(f"half an hour at 10 Hz ({rover.sent} epochs): fixes lost", f"{rover.fixes - stored}", "0")
    row("  memory held at its end / at a third of it", f"{held / third:.2f}×", "about 1×")
    row("  faster than it walks by", f"{rover.sent / 10 / taken:.0f}×", "> 1×")
    walks.remove(scope, live.walk_id)
    scope.engine.dispose()


def _fetches(address: str, path: str) -> float:
    """Median seconds of a request over a connection that is kept open."""
    connection = HTTPConnection(address.removeprefix("http://"))

    def get() -> None:
        connection.request("GET", path)
        answer = connection.getresponse()
        assert answer.status == 200
        answer.read()

    for _ in range(50):
        get()
    return median_s(get, 400)


LISTED = 4000


def pages(home: Path) -> None:
    """Walks, pages and the list as a running server has them, beside a bare endpoint; and what a browser shows."""
    from gnomonic.store import cluster, jobs
    from gnomonic.store.scope import Scope, connect
    from gnomonic.workshop.running import serving

    made = cluster.ensure(cluster.default_root(home, "bench"))
    try:
        url = cluster.ensure_database(made, "bench")
        jobs.migrate(url)
        scope = Scope(connect(url))
        job_id = jobs.create(scope, single_jobs()[-1])
        many_id = jobs.create(scope, many_lines())
        _list_up(scope)
        scope.engine.dispose()
        _walk(url)
        with serving(url) as address, serving(url, "bare") as plain:
            bare = _fetches(plain, "/bring-in")
            for words, path in (
                ("page of a saved job", f"/jobs/{job_id}"),
                (f"job's page of {MANY} lines", f"/jobs/{many_id}/lines"),
                ("a line of that job", f"/jobs/{many_id}?line=C"),
                (f"list of {LISTED} jobs", "/"),
                ("  and looked through", "/?q=field%20117"),
            ):
                row(f"{words} / bare endpoint reading one row", f"{_fetches(address, path) / bare:.1f}×", "≤ 3×")
        with serving(url) as address:
            _in_the_browser(f"{address}/jobs/{job_id}")
    finally:
        cluster.stop(made.root)


def _list_up(scope: Any) -> None:
    """As many jobs as the list is to carry, each with its summary."""
    import json

    from sqlalchemy import text

    from gnomonic.store import jobs
    from gnomonic.web.home.summary import summary

    job = single_jobs()[0]
    made = summary(Plans().make("j", job))
    for k in range(jobs.count(scope), LISTED):
        job_id = jobs.create(scope, job.model_copy(update={"name": f"Field {k}"}))
        jobs.keep_summary(scope, job_id, jobs.load(scope, job_id).version, json.dumps(made), made["hung"])
    with scope.engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
        connection.execute(text("VACUUM ANALYZE jobs"))  # which the database does by itself within a minute


def _in_the_browser(address: str) -> None:
    from playwright.sync_api import sync_playwright

    from gnomonic.workshop.running import headless

    with sync_playwright() as play:
        browser = play.chromium.launch(**headless())
        surface = browser.new_page(viewport={"width": 1280, "height": 800})
        surface.goto(address)
        surface.wait_for_selector("body[data-ready]")
        surface.wait_for_selector("#tag .facts", state="attached")
        high = surface.locator("#strip .lane.ground > .rule").get_attribute("y1")
        row("height of the ground lane at 1280 × 800", f"{float(high or 0):.0f} px", "≥ 380 px")
        row("snags in view beside it", str(surface.evaluate(SNAGS)), "≥ 6")
        taken = [surface.evaluate(EDIT, f"{9 + k % 3 / 2} ft") for k in range(18)]
        row("an edit to the redrawn page, median", f"{statistics.median(taken[3:]):.0f} ms", "≤ 100 ms")
        for words, times in (("the whole line", 0), ("mesh drawn", 3)):
            surface.evaluate("document.querySelector('[data-zoom=all]').click()")
            for _ in range(times):
                surface.evaluate("document.querySelector('[data-zoom=in]').click()")
            frames = sorted(surface.evaluate(FRAMES))
            middle, worst = statistics.median(frames), frames[len(frames) * 9 // 10]
            row(
                f"a frame while zooming, {words}: median, worst tenth",
                f"{middle:.0f}, {worst:.0f} ms",
                "17 ms (60 a second)",
            )
        surface.goto(f"{address}/pull")
        surface.wait_for_selector("body[data-ready]")
        slid = sorted(surface.evaluate(SEASON))
        row(
            "the season slid by a degree: to the redrawn lane, median, worst",
            f"{statistics.median(slid):.0f}, {slid[-1]:.0f} ms",
            "one frame",
        )
        browser.close()


SEASON = """async () => {
  const warm = document.getElementById('warm'), times = [];
  for (let k = 0; k < 30; k++) {
    await new Promise(requestAnimationFrame);
    const start = performance.now();
    warm.value = Number(warm.min) + k;
    warm.dispatchEvent(new Event('input'));
    await new Promise((done) => requestAnimationFrame(() => setTimeout(done)));
    times.push(performance.now() - start);
  }
  return times;
}"""
SNAGS = """() => {
  const panel = document.querySelector('#panel-snags').getBoundingClientRect();
  return [...document.querySelectorAll('#snags li')].filter(n => n.getBoundingClientRect().bottom <= panel.bottom).length;
}"""
FRAMES = """async () => {
  const svg = document.getElementById('strip'), box = svg.getBoundingClientRect(), times = [];
  const frame = () => new Promise(requestAnimationFrame);
  await frame();
  let last = performance.now();
  for (let k = 0; k < 120; k++) {
    svg.dispatchEvent(new WheelEvent('wheel', {deltaY: k % 30 < 15 ? -40 : 40, clientX: box.left + 300 + k, clientY: box.top + 100, cancelable: true}));
    await frame();
    const now = performance.now();
    times.push(now - last);
    last = now;
  }
  return times;
}"""
EDIT = """async (value) => {
  const input = document.getElementById('d-longest_bay_m'), said = document.getElementById('said');
  const start = performance.now();
  const done = new Promise(r => new MutationObserver((_, o) => { o.disconnect(); requestAnimationFrame(() => setTimeout(r)); })
    .observe(said, {childList: true}));
  input.value = value;
  input.dispatchEvent(new Event('change'));
  await done;
  return performance.now() - start;
}"""
