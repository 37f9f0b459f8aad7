"""The pictures in docs/screenshots, taken from the demo data at 1280 × 800 and 390 × 844."""

import io
from pathlib import Path

from PIL import Image

from gnomonic import working
from gnomonic.demo.load import demo_jobs
from gnomonic.provision import ensure_chromium, say
from gnomonic.store import cluster, jobs
from gnomonic.store.scope import Scope, connect
from gnomonic.web import showcase
from gnomonic.web.app import create_app
from gnomonic.workshop.running import headless, serving

WIDE, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}


def screens(home: Path) -> int:
    """Take every picture anew."""
    from playwright.sync_api import sync_playwright

    ensure_chromium()
    made = cluster.ensure(cluster.default_root(home, "pictures"), throwaway=True)
    try:
        url = cluster.ensure_database(made, "pictures")
        jobs.migrate(url)
        scope = Scope(connect(url))
        ids = showcase.fill(create_app(scope).state.room)
        working.run(url, wait=False)
        scope.engine.dispose()
        folder = home / "docs" / "screenshots"
        folder.mkdir(parents=True, exist_ok=True)
        with serving(url) as address, sync_playwright() as play:
            browser = play.chromium.launch(**headless())
            wide, phone = browser.new_page(viewport=WIDE), browser.new_page(viewport=PHONE)  # type: ignore[arg-type]
            _take(wide, address, ids[-1], folder)
            _take_hold(wide, address, dict(zip([j.name for j in demo_jobs()], ids, strict=True)), folder)
            _take_walk(wide, address, ids, folder)
            _take_money(wide, phone, address, ids[-1], folder)
            _take_days(wide, phone, address, ids[-1], folder)
            _take_log(wide, browser, address, ids[-1], folder)
            browser.close()
    finally:
        cluster.stop(made.root)
        cluster.remove(made.root)
    return 0


def _shot(page, name: str, folder: Path) -> None:  # type: ignore[no-untyped-def]
    say(f"docs/screenshots/{name}.png")
    page.screenshot(path=folder / f"{name}.png")


def _take_hold(page, address: str, ids: dict[str, str], folder: Path) -> None:  # type: ignore[no-untyped-def]
    """The views of choosing a barrier, and a post with its fittings."""
    ready = "body[data-ready]"
    page.goto(f"{address}/jobs/{ids['Larkspur Holm · seed beds']}/hold")
    page.wait_for_selector(ready)
    _shot(page, "hold", folder)


def _take_walk(page, address: str, ids: list[str], folder: Path) -> None:  # type: ignore[no-untyped-def]
    """The views of measuring."""
    ready = "body[data-ready]"
    page.goto(f"{address}/jobs/{ids[0]}/walk")
    page.wait_for_selector(ready)
    page.focus("#plan")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    _shot(page, "walk", folder)
    page.goto(f"{address}/jobs/{ids[2]}/marking")
    page.wait_for_selector(ready)
    with page.expect_navigation():
        page.click("#ask")
    while "not in" in page.inner_text(".statebox"):
        page.wait_for_selector(ready)
        page.click("#look")
        page.wait_for_load_state("networkidle")
    page.wait_for_selector(ready)
    _shot(page, "marking", folder)


def _take_money(page, phone, address: str, job: str, folder: Path) -> None:  # type: ignore[no-untyped-def]
    """What lies there, what it costs, the quote, the list for the phone."""
    for place, name in (("cost", "cost"), ("quotes/quote/1/1", "quote")):
        page.goto(f"{address}/jobs/{job}/{place}")
        _shot(page, name, folder)
    phone.goto(f"{address}/jobs/{job}/shopping")
    phone.wait_for_selector("body[data-ready]")
    for at in (0, 2, 4):
        phone.locator("[data-item] .tick").nth(at).click()
    phone.wait_for_selector("#unsent", state="hidden")
    phone.evaluate("scrollTo(0, 0)")
    _shot(phone, "shopping-phone", folder)


def _take_days(page, phone, address: str, job: str, folder: Path) -> None:  # type: ignore[no-untyped-def]
    """The lines across and the days down; a day on the phone."""
    page.goto(f"{address}/jobs/{job}/days")
    page.wait_for_selector("#daysview")
    _shot(page, "days", folder)
    phone.goto(f"{address}/jobs/{job}/day")
    phone.wait_for_selector(".sheetrows")
    _shot(phone, "day-phone", folder)


def _take_log(page, browser, address: str, job: str, folder: Path) -> None:  # type: ignore[no-untyped-def]
    """The log in the office, people, and six faces of the field pages side by side."""
    for path, name in ((f"/jobs/{job}/log", "log"), ("/people", "people")):
        page.goto(address + path)
        page.wait_for_load_state("networkidle")
        _shot(page, name, folder)
    hand = browser.new_context(viewport=PHONE)
    phone, faces = hand.new_page(), []

    def face() -> None:
        phone.wait_for_selector("body[data-ready=yes]")
        faces.append(Image.open(io.BytesIO(phone.screenshot())))

    phone.goto(f"{address}/field/")
    phone.evaluate("navigator.serviceWorker.ready")
    phone.locator(".press.job.other b").get_by_text("Larkspur Holm", exact=True).click()
    phone.wait_for_selector(".posthead")
    face()
    phone.get_by_role("button", name="Found…").click()
    phone.wait_for_selector("dialog .grid")
    face()
    phone.get_by_role("button", name="Back").click()
    phone.locator("#foot a", has_text="Braces").click()
    phone.wait_for_selector(".chip.planned")
    phone.locator(".chip.planned + .chip").click()
    face()
    phone.locator("#foot a", has_text="Day").click()
    phone.wait_for_selector(".dayhead")
    face()
    phone.locator("#foot a", has_text="Safety").click()
    phone.wait_for_selector(".aid")
    face()
    hand.set_offline(True)
    phone.locator("#foot a", has_text="Posts").click()
    for _ in range(2):
        before = phone.inner_text(".posthead h1")
        phone.locator(".press.main").click()
        phone.wait_for_function("(name) => document.querySelector('.posthead h1').textContent !== name", arg=before)
    phone.locator("#waiting").click()
    phone.wait_for_selector("h1:has-text('not sent yet')")
    face()
    hand.close()
    made = Image.new("RGB", (sum(f.width for f in faces) + 20 * (len(faces) - 1), faces[0].height), "#8f886f")
    for k, one in enumerate(faces):
        made.paste(one, (k * (one.width + 20), 0))
    made.thumbnail((1680, 1400))
    say("docs/screenshots/field.png")
    made.save(folder / "field.png", optimize=True)


def _take_openings(page, address: str, job: str, folder: Path) -> None:  # type: ignore[no-untyped-def]
    """Gates."""
    page.goto(f"{address}/jobs/{job}/openings?line=A#at=433")
    page.wait_for_selector("#places tbody")
    _shot(page, "gates", folder)


def _take_pull(page, address: str, job: str, folder: Path) -> None:  # type: ignore[no-untyped-def]
    """The tension of a line on a winter night."""
    page.goto(f"{address}/jobs/{job}/pull?line=A#at=200")
    page.wait_for_selector("body[data-ready]")
    page.click("text=usual winter night")
    page.click("#tab-figures")
    page.wait_for_selector("#strip .lane.tension .pullnow")
    _shot(page, "pull", folder)


def _take(page, address: str, job: str, folder: Path) -> None:  # type: ignore[no-untyped-def]
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
    page.goto(f"{address}/jobs/{job}")
    settled(page)
    page.locator("#snags .place", has_text="under the wire").first.click()
    page.wait_for_selector(".snagwords")
    page.evaluate("scrollTo(0, 0)")
    settled(page)
    shot(page, "set")
    page.keyboard.press("0")
    page.keyboard.press("4")
    page.wait_for_selector(".worksteps")
    shot(page, "hang")
    page.goto(f"{address}/jobs/{job}/stand?line=A")
    page.wait_for_selector("#ways tr.now")
    shot(page, "stand")
    _take_openings(page, address, job, folder)
    _take_pull(page, address, job, folder)
    page.goto(f"{address}/jobs/{job}/haul?of=all")
    page.wait_for_selector("#takeoff tbody")
    shot(page, "haul")
