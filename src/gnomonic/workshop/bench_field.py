"""The field measured: events folded, and a week of three phones delivered over a line that breaks."""

import hashlib
import io
import json
import random
import statistics
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime, timedelta
from http.client import HTTPConnection, HTTPException
from pathlib import Path
from typing import Any

from PIL import Image

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.log.events import Event, Kept
from gnomonic.core.log.facts import facts
from gnomonic.demo.field import marks, picture
from gnomonic.demo.load import holm, single_jobs
from gnomonic.store import cluster, events, field, jobs
from gnomonic.store.scope import Scope, connect
from gnomonic.workshop.attack.wire import Wire
from gnomonic.workshop.measures import median_s, row
from gnomonic.workshop.running import headless, serving

PHONES, WEEK, PHOTOS, BREAKS, AT_ONCE = 3, 4000, 200, 20, 200


def written(count: int, devices: int, seed: int = 18) -> list[dict[str, Any]]:
    """So many events by so many devices, as phones write them."""
    rng, now = random.Random(seed), datetime.now(UTC)
    kinds: list[tuple[str, dict[str, Any]]] = [("depth", {"reached_m": 0.75, "plumb": True}), ("gap", {"gap_m": 0.05}), ("found", {"what": "rock"}), ("moved", {"along_m": 0.05}), ("note", {"note": "wet"})]  # fmt: skip
    made = []
    for n in range(count):
        kind, values = rng.choices(kinds, (12, 3, 1, 1, 1))[0]
        clock = (now - timedelta(minutes=rng.randrange(10_000))).isoformat()
        made.append({"id": f"00000000-0000-4000-8000-{n:012d}", "device": f"phone-{n % devices}", "seq": n, "clock": clock, "line": "A", "post": str(rng.randrange(1, 240)), "at_m": 1.0, "kind": kind, **values})  # fmt: skip
    return made


def _folded() -> None:
    kept = [Kept(Event.model_validate(e)) for e in written(10_000, 5)] * 2
    random.Random(1).shuffle(kept)
    row(
        "field: 10,000 events of 5 devices, doubled and mixed, folded",
        f"{median_s(lambda: facts(kept), 3):.2f} s",
        "≤ 1 s",
    )


class _Phone:
    """Delivers as the phone's own script does: in parts, again until it is answered."""

    def __init__(self, port: int, job_id: str, rows: list[dict[str, Any]], photos: list[bytes]) -> None:
        self.port, self.job_id, self.rows, self.photos, self.tries = port, job_id, rows, photos, 0

    def _ask(self, path: str, body: bytes, kind: str) -> dict[str, Any]:
        while True:
            self.tries += 1
            link = HTTPConnection("127.0.0.1", self.port, timeout=10)
            try:
                link.request("POST", path, body, {"Content-Type": kind})
                answer = link.getresponse()
                data = answer.read()
                if answer.status == 200:
                    return dict(json.loads(data))
            except (OSError, HTTPException):
                pass
            finally:
                link.close()
            time.sleep(0.02)

    def deliver(self) -> None:
        after, waiting = 0, list(self.rows)
        while waiting:
            part = waiting[:AT_ONCE]
            body = json.dumps({"now": datetime.now(UTC).isoformat(), "after": after, "events": part}).encode()
            answer = self._ask(f"/api/v1/jobs/{self.job_id}/log", body, "application/json")
            waiting = [e for e in waiting if answer["took"].get(e["id"]) not in ("kept", "again")]
            after = answer["n"]
        for photo in self.photos:
            self._ask(f"/api/v1/jobs/{self.job_id}/photos/{hashlib.sha256(photo).hexdigest()}", photo, "image/jpeg")


def _photo(n: int) -> bytes:
    made = Image.open(io.BytesIO(picture()))
    made.putpixel((0, 0), (n % 256, n // 256, 7))
    out = io.BytesIO()
    made.save(out, "JPEG", quality=90)
    return out.getvalue() + n.to_bytes(4, "big")


@contextmanager
def _rows(home: Path, name: str) -> Iterator[tuple[str, Scope]]:
    """A database of its own, and its rows."""
    made = cluster.ensure(cluster.default_root(home, "field"), throwaway=True)
    try:
        url = cluster.ensure_database(made, name)
        jobs.migrate(url)
        scope = Scope(connect(url))
        yield url, scope
        scope.engine.dispose()
    finally:
        cluster.stop(made.root)


def _delivered(home: Path) -> None:
    with _rows(home, "field") as (url, scope):
        job_id = jobs.create(scope, single_jobs()[-1])
        rows, photos = written(WEEK, PHONES), [_photo(n) for n in range(PHOTOS)]
        with serving(url, "warmed") as address:
            wire = Wire(int(address.rpartition(":")[2]))
            phones = [_Phone(wire.port, job_id, rows[k::PHONES], photos[k::PHONES]) for k in range(PHONES)]
            threads = [threading.Thread(target=p.deliver) for p in phones]
            begun, broke = time.perf_counter(), 0
            for t in threads:
                t.start()
            while any(t.is_alive() for t in threads):
                time.sleep(0.35)
                if broke < BREAKS:
                    wire.set("down")
                    time.sleep(0.15)
                    wire.set("pass")
                    broke += 1
            took = time.perf_counter() - begun
            wire.close()
        kept, pictures = events.of_job(scope, job_id), field.photos(scope, job_id)
        ids = {k.event.id for k in kept}
        lost, double = WEEK - len(ids), len(kept) - len(ids)
        row(
            f"field: {PHONES} phones' week ({WEEK:,} events, {PHOTOS} photos) over a line that broke {broke} times",
            f"{took:.0f} s",
            "in one go",
        )
        row(
            "  lost, doubled; photos there; tries",
            f"{lost}, {double}; {len(pictures)}; {sum(p.tries for p in phones)}",
            "0, 0; 200; —",
        )


def _on_the_phone(home: Path) -> None:
    """The co-op's nine lines taken along; the signal goes, the phone is switched on, a post is written down."""
    from playwright.sync_api import sync_playwright

    with _rows(home, "phone") as (url, scope):
        job = holm()
        for edit in marks(datetime.now(UTC).date()):
            job = apply(job, read_edit(edit))
        jobs.create(scope, job)
        with serving(url, "warmed") as address, sync_playwright() as play:
            browser = play.chromium.launch(**headless())
            context = browser.new_context(viewport={"width": 390, "height": 844})
            page = context.new_page()
            page.goto(f"{address}/field/")
            page.evaluate("navigator.serviceWorker.ready")
            page.locator(".press.job.other").first.click()
            page.wait_for_selector(".posthead")
            where = page.url
            page.close()
            context.set_offline(True)
            opened, written_s = [], []
            for _ in range(5):
                page = context.new_page()
                begun = time.perf_counter()
                page.goto(where)
                page.wait_for_selector(".press.main")
                opened.append(time.perf_counter() - begun)
                before = page.inner_text(".posthead h1")
                begun = time.perf_counter()
                page.locator(".press.main").click()
                page.wait_for_function(
                    "(name) => document.querySelector('.posthead h1').textContent !== name", arg=before
                )
                written_s.append(time.perf_counter() - begun)
                page.close()
            browser.close()
        row(
            "field: cold start without a signal, nine lines on the phone", f"{statistics.median(opened):.2f} s", "< 2 s"
        )
        row("  one press, from card to stored and the next card", f"{statistics.median(written_s):.2f} s", "—")


def in_field(home: Path) -> None:
    """Every figure."""
    _folded()
    _delivered(home)
    _on_the_phone(home)
