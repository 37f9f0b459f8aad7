"""The pictures in docs/screenshots, taken from the demo data at 1280 × 800 and 390 × 844."""

import re
from pathlib import Path

from gnomonic.demo.load import demo_jobs
from gnomonic.provision import ensure_chromium, say
from gnomonic.store import cluster, jobs
from gnomonic.store.scope import Scope, connect
from gnomonic.workshop.running import CHROMIUM, serving

WIDE, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}

LINE = "<Placemark><name>{}</name><LineString><coordinates>{}</coordinates></LineString></Placemark>"
EDGES = "<kml><Document><name>Edges</name>{}</Document></kml>".format(
    "".join(
        LINE.format(name, places)
        for name, places in (
            ("lane to the ridge", "-30,47,5 -30,47.9,90"),
            ("north edge", "-30,47,5 -29.9994,47.0003,7.5 -29.9985,47.0004,6 -29.9979,47.0002,9"),
            ("stile", "-30,47,5"),
            ("brook side", "-30,46.9992,2 -29.9991,46.9994,2.5 -29.998,46.9993,3"),
            ("crossed by hand", "-30,47,1 -29.999,47.001,1 -29.999,47,1 -30,47.001,1"),
        )
    )
)


def screens(home: Path) -> int:
    """Take every picture anew."""
    from playwright.sync_api import sync_playwright

    ensure_chromium()
    made = cluster.ensure(cluster.default_root(home, "pictures"), throwaway=True)
    try:
        url = cluster.ensure_database(made, "pictures")
        jobs.migrate(url)
        scope = Scope(connect(url))
        for row in jobs.listed(scope):
            jobs.remove(scope, row.job_id)
        ids = [jobs.create(scope, job) for job in demo_jobs()]
        _count(scope, ids)
        scope.engine.dispose()
        folder = home / "docs" / "screenshots"
        folder.mkdir(parents=True, exist_ok=True)
        with serving(url) as address, sync_playwright() as play:
            browser = play.chromium.launch(**CHROMIUM)  # type: ignore[arg-type]
            wide, phone = browser.new_page(viewport=WIDE), browser.new_page(viewport=PHONE)  # type: ignore[arg-type]
            _take(wide, phone, address, ids[-1], folder)
            _take_hold(wide, address, dict(zip([j.name for j in demo_jobs()], ids, strict=True)), folder)
            _take_walk(wide, phone, address, ids, folder)
            browser.close()
    finally:
        cluster.stop(made.root)
    return 0


def _count(scope: Scope, ids: list[str]) -> None:
    """What the list shows, kept as the demo keeps it."""
    from gnomonic.web.home import summary
    from gnomonic.web.plans import Plans

    for job_id in ids:
        row = jobs.load(scope, job_id)
        summary.keep(scope, job_id, row.version, Plans().of(job_id, row.digest, row.document))


def _shot(page, name: str, folder: Path) -> None:  # type: ignore[no-untyped-def]
    say(f"docs/screenshots/{name}.png")
    page.screenshot(path=folder / f"{name}.png")


def _take_hold(page, address: str, ids: dict[str, str], folder: Path) -> None:  # type: ignore[no-untyped-def]
    """The views of choosing a barrier, and a post with its fittings."""
    ready = "body[data-ready]"
    page.goto(f"{address}/jobs/{ids['Larkspur Holm · seed beds']}/hold")
    page.wait_for_selector(ready)
    _shot(page, "hold", folder)


def _take_walk(page, phone, address: str, ids: list[str], folder: Path) -> None:  # type: ignore[no-untyped-def]
    """The views of measuring."""
    ready = "body[data-ready]"
    page.goto(f"{address}/jobs/{ids[0]}/walk")
    page.wait_for_selector(ready)
    page.focus("#plan")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    _shot(page, "walk", folder)
    page.click("[data-tab=book]")
    page.wait_for_selector("#understood table")
    page.locator("#understood").scroll_into_view_if_needed()
    _shot(page, "walk-book", folder)
    page.goto(f"{address}/jobs/{ids[-1]}/marking")
    page.wait_for_selector(ready)
    with page.expect_navigation():
        page.click("#ask")
    while "not in" in page.inner_text(".statebox"):
        page.wait_for_selector(ready)
        page.click("#look")
        page.wait_for_load_state("networkidle")
    page.wait_for_selector(ready)
    _shot(page, "marking", folder)
    page.goto(f"{address}/jobs/{ids[-1]}/walk")
    page.wait_for_selector(ready)
    page.click("[data-tab=found]")
    page.wait_for_selector("#pane h2")
    page.goto(f"{address}/bring-in")
    page.set_input_files("#file", {"name": "edges.kml", "mimeType": "application/xml", "buffer": EDGES.encode()})
    page.click("form:has(#file) button")
    page.wait_for_selector(".cannot")
    page.wait_for_selector("#preview-map .measured")
    _shot(page, "preview", folder)
    phone.goto(f"{address}/rover")
    phone.click("text=Walk with the practice rover >> nth=-1")
    phone.wait_for_selector(ready)
    phone.fill("#seconds", "2")
    phone.click("[data-kind=corner]")
    phone.wait_for_selector("#marks table")
    phone.locator("#counts", has_text=re.compile(r"2[2-9]\d fixes")).wait_for()
    phone.evaluate("scrollTo(0, 0)")
    _shot(phone, "rover-phone", folder)
    phone.click("text=Pause")


def _take_openings(page, address: str, job: str, folder: Path) -> None:  # type: ignore[no-untyped-def]
    """Gates and a crossing."""
    page.goto(f"{address}/jobs/{job}/openings?line=A#at=433")
    page.wait_for_selector("#places tbody")
    _shot(page, "gates", folder)
    page.click("#tab-water")
    page.wait_for_selector("#channel .ropeline")
    _shot(page, "crossing", folder)


def _take_pull(page, phone, address: str, job: str, folder: Path) -> None:  # type: ignore[no-untyped-def]
    """The tension of a line on a winter night, and the sheet of a run."""
    page.goto(f"{address}/jobs/{job}/pull?line=A#at=200")
    page.wait_for_selector("body[data-ready]")
    page.click("text=usual winter night")
    page.click("#tab-figures")
    page.wait_for_selector("#strip .lane.tension .pullnow")
    _shot(page, "pull", folder)
    phone.goto(f"{address}/jobs/{job}/pull-sheet?line=A&run=1")
    phone.wait_for_selector("body[data-ready]")
    _shot(phone, "pull-phone", folder)


def _take(page, phone, address: str, job: str, folder: Path) -> None:  # type: ignore[no-untyped-def]
    """Go through the main views."""

    def shot(which, name: str) -> None:  # type: ignore[no-untyped-def]
        _shot(which, name, folder)

    def settled(which) -> None:  # type: ignore[no-untyped-def]
        which.wait_for_selector("body[data-ready]")
        which.wait_for_selector("#tag .facts", state="attached")
        which.wait_for_selector(".price.waiting", state="detached")

    page.goto(address)
    page.wait_for_selector("body[data-ready]")
    shot(page, "jobs")
    page.goto(f"{address}/jobs/{job}/lines")
    page.wait_for_selector("body[data-ready]")
    shot(page, "lines")
    for which, name in ((page, "set"), (phone, "set-phone")):
        which.goto(f"{address}/jobs/{job}")
        settled(which)
        if which is phone:
            which.click("text=Not now")
        which.locator("#snags .place", has_text="under the wire").first.click()
        which.wait_for_selector(".snagwords")
        which.evaluate("scrollTo(0, 0)")
        settled(which)
        shot(which, name)
    page.keyboard.press("0")
    page.keyboard.press("4")
    page.wait_for_selector(".worksteps")
    shot(page, "hang")
    page.goto(f"{address}/jobs/{job}/stand?line=A")
    page.wait_for_selector("#ways tr.now")
    shot(page, "stand")
    _take_openings(page, address, job, folder)
    _take_pull(page, phone, address, job, folder)
    page.goto(f"{address}/jobs/{job}/haul?of=all")
    page.wait_for_selector("#takeoff tbody")
    shot(page, "haul")
    page.goto(f"{address}/jobs/{job}/print-all?units=us")
    page.wait_for_selector("#ground .jobline")
    shot(page, "print")
    page.goto(f"{address}/sums/setout")
    shot(page, "sums")
