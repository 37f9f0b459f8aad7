"""Every page in both themes, in its empty, failing and first states: found free of faults, and saying what to do."""

import re
from datetime import date, timedelta

import pytest
from crews import crew
from looks import COLOURS, TWO_FRAMES, WIDE, faults
from places import ALL, few
from playwright.sync_api import expect

from gnomonic.core.days.made import Asked
from gnomonic.demo.load import holm, single_jobs
from gnomonic.store import days, jobs
from gnomonic.web.haul import sample as books
from gnomonic.web.plans import Plans
from gnomonic.workshop.running import serving

JOB_PAGES = [
    "",
    "#hang",
    "/walk",
    "/hold",
    "/print",
    "/haul?of=all",
    "/stand",
    "/stand#soil",
    "/stand#holes",
    "/lines",
    "/pull",
    "/pull#gear",
    "/pull-sheet",
    "/print-all",
    "/marking",
    "/walk-sheet",
    "/stock",
    "/suppliers",
    "/cost",
    "/options?line=B",
    "/quotes",
    "/quotes/quote/1/1",
    "/shopping",
    "/days",
    "/days?line=B&task=B.1.pull",
    "/day",
    "/days/what-if",
    "/calendar",
    "/crew",
    "/day-sheets",
    "/log",
    "/look",
]
OWN_PAGES = [
    "/",
    "/sign-in",
    "/people",
    "/me",
    "/bring-in",
    "/draw",
    "/rover",
    "/labels?label=9-49-6",
    "/rules",
    "/catalog",
    "/sums/brace",
    "/patterns",
    "/walk-sheet",
]


LIKE_ANOTHER = {
    "#hang", "/stand#soil", "/stand#holes", "/pull#gear", "/print-all", "/days?line=B&task=B.1.pull", "/quotes", "/look", "/stock", "/walk-sheet", "own:/catalog",
    "own:/me", "own:/bring-in", "own:/rover",
}  # pages made of the same parts as one that is looked at: in ``test --all``  # fmt: skip


@pytest.fixture(scope="module")
def ground(server):
    scope, made = server[1], holm()
    job_id = jobs.create(scope, made)
    books.fill(scope, Plans(), job_id, [])
    days.put_crew(scope, crew())
    days.ask_days(scope, job_id, Asked(start=date.today() + timedelta(days=200)))  # in nobody's way
    return job_id


LONG = (
    "/print",
    "/print-all",
    "/stand#holes",
)  # one row after the other: looked through on a small job, by its width on the large


@pytest.fixture(scope="module")
def small(server):
    return jobs.create(server[1], next(j for j in single_jobs() if "seed beds" in j.name))


@pytest.mark.parametrize("path", LONG)
@pytest.mark.parametrize("width", few([1280, 390], 1))
def test_no_long_sheet_runs_over(page, server, ground, path, width):
    page.set_viewport_size({"width": width, "height": 844})
    page.goto(f"{server[0]}/jobs/{ground}{path}", wait_until="networkidle")
    assert page.evaluate(WIDE) <= width


@pytest.mark.parametrize(
    "path", [p for p in (*JOB_PAGES, *(f"own:{p}" for p in OWN_PAGES)) if ALL or p not in LIKE_ANOTHER]
)
def test_no_page_has_a_fault_in_either_theme_nor_runs_over(page, server, ground, small, path):
    """Once through every rule on paper at 1280 px; then in the sun on a phone, where only colours, sizes and widths are others."""
    path = path.removeprefix("own:") if path.startswith("own:") else f"/jobs/{small if path in LONG else ground}{path}"
    page.goto(server[0] + path, wait_until="networkidle")
    page.evaluate(TWO_FRAMES)
    assert page.evaluate("document.documentElement.dataset.theme ?? 'paper'") == "paper"
    assert faults(page) == [] and page.evaluate(WIDE) <= 1280
    page.set_viewport_size({"width": 390, "height": 844})
    page.evaluate("document.documentElement.dataset.theme = 'sun'")
    page.evaluate(TWO_FRAMES)
    assert faults(page, COLOURS) == [] and page.evaluate(WIDE) <= 390


def test_the_sun_is_switched_on_every_page_and_remembered(page, server, ground):
    address, _ = server
    page.goto(f"{address}/jobs/{ground}")
    wire = "getComputedStyle(document.querySelector('.wire')).strokeWidth"
    page.wait_for_selector("body[data-ready]")
    thin = page.evaluate(f"parseFloat({wire})")
    page.click("[data-sun]")
    expect(page.locator("[data-sun]")).to_have_attribute("aria-pressed", "true")
    assert (
        page.evaluate(f"parseFloat({wire})") > thin
        and page.evaluate("getComputedStyle(document.body).color") == "rgb(0, 0, 0)"
    )
    page.goto(address)
    assert page.evaluate("document.documentElement.dataset.theme") == "sun"
    page.emulate_media(media="print")
    assert page.evaluate("getComputedStyle(document.body).backgroundColor") == "rgb(255, 255, 255)"
    page.emulate_media(media="screen", reduced_motion="reduce")
    assert page.evaluate("getComputedStyle(document.querySelector('a')).transitionProperty") in ("none", "all")
    page.click("[data-sun]")
    page.reload()
    assert page.evaluate("document.documentElement.dataset.theme ?? ''") == ""


@pytest.fixture
def empty(database):
    """A server without a job."""
    with serving(database) as address:
        yield address


def test_the_first_page_shows_three_ways_in_and_a_sample_to_throw_away(page, empty):
    page.goto(empty)
    expect(page.locator(".three li h2")).to_have_text(["Walk it", "Tape it", "Draw it"])
    assert page.locator(".three svg").count() == 3
    page.click("text=Try a sample line")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#sentence")).to_contain_text("Bays up to")
    page.click("#jobname")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#next li").first).to_contain_text("Say what Sample line must hold or keep out")
    page.click("text=throw it away")
    expect(page.locator(".three")).to_be_visible()


def test_the_walk_round_has_eight_stops_and_is_offered_once(page, server):
    address, scope = server
    page.goto(f"{address}/jobs/{jobs.create(scope, single_jobs()[-1])}")
    page.wait_for_selector("body[data-ready]")
    page.click("text=Show me round, eight stops")
    for k in range(1, 9):
        expect(page.locator(".round")).to_contain_text(f"{k} of 8")
        box = page.locator(".round").bounding_box()
        assert box["x"] >= 0 and box["y"] >= 0 and box["x"] + box["width"] <= 1280 and box["y"] + box["height"] <= 800
        assert page.locator(".rounded").count() == 1
        page.keyboard.press("Enter")
    expect(page.locator(".round")).to_have_count(0)
    page.reload()
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("text=Show me round, eight stops")).to_have_count(0)
    page.click("#keys")
    page.click("#showround")
    expect(page.locator(".round")).to_contain_text("1 of 8")
    page.keyboard.press("Escape")
    expect(page.locator(".round")).to_have_count(0)


def test_the_take_off_is_filtered_searched_and_held_against_the_print(page, server, ground):
    address, scope = server
    job_id = jobs.create(scope, holm())
    page.goto(f"{address}/jobs/{job_id}/haul?line=B")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#of [aria-pressed=true]")).to_have_text("B")
    own = page.locator("#takeoff tbody tr:not(.group)").count()
    page.click("#of >> text=all lines")
    assert page.locator("#takeoff tbody tr:not(.group)").count() > own
    expect(page.locator("#takeoff .group").first).to_have_text("Posts")
    page.keyboard.press("/")
    page.keyboard.type("staple")
    found = page.locator("#takeoff tbody tr:not(.group) th").all_text_contents()
    assert "fence staple" in found and not any("gate leaf" in row for row in found)
    page.fill("#q", "gold")
    expect(page.locator("#takeoff")).to_contain_text("Nothing in this take-off has “gold” in it")
    page.fill("#q", "")
    expect(page.locator("#takeoff caption")).to_contain_text("No sheet has been printed yet")
    page.goto(f"{address}/jobs/{job_id}/print-all")
    with page.expect_response("**/printed"):
        page.evaluate("dispatchEvent(new Event('beforeprint'))")
    page.goto(f"{address}/jobs/{job_id}?line=B")
    page.wait_for_selector("body[data-ready]")
    page.fill("#d-longest_bay_m", "8 ft")
    page.keyboard.press("Enter")
    expect(page.locator("#said")).to_contain_text("posts")
    page.goto(f"{address}/jobs/{job_id}/haul?of=all")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#takeoff caption")).to_contain_text(re.compile(r"\d+ items changed since the print of"))
    changed = page.locator("#takeoff tr", has_text="driven steel post, 6 ft").locator(".since")
    expect(changed).to_contain_text(re.compile(r"^\+\d+ was \d+"))
    page.locator("#strip").click(position={"x": 600, "y": 60})
    page.wait_for_url("**/jobs/*#at=*")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#tag h2")).to_contain_text("ost ")


def test_the_jobs_page_points_at_its_worst_snags_and_zooms(page, server, ground):
    address, _ = server
    page.goto(f"{address}/jobs/{ground}/lines")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#next li")).to_have_count(3)
    expect(page.locator("#totals")).to_contain_text("7321 ft 3 in")
    assert page.locator("#worst li").count() >= 10 and page.locator("#ground .mapgate").count() == 9
    bar = page.locator("#ground .scaletext").text_content()
    page.click("[aria-label='nearer: plan']")
    page.click("[aria-label='nearer: plan']")
    page.evaluate("new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")
    assert page.locator("#ground .scaletext").text_content() != bar
    page.locator("#worst a", has_text="under the wire").first.click()
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#snags li.chosen")).to_contain_text("under the wire")
    expect(page.locator("#strip .scalenote")).to_have_text("heights to scale")


def test_names_of_barriers_are_whole_and_figures_have_units(page, server):
    address, scope = server
    job = next(j for j in single_jobs() if "seed beds" in j.name)
    page.goto(f"{address}/jobs/{jobs.create(scope, job)}/hold")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator(".rankhead")).to_contain_text("9-49-6 = 100")
    expect(page.locator(".barrier-row .figure", has_text="years").first).to_be_visible()
    for name in page.locator(".barrier-row .what span, .barrier-row .what strong").all():
        assert name.evaluate(
            "n => n.scrollWidth <= n.clientWidth + 1 && getComputedStyle(n).textOverflow !== 'ellipsis'"
        )


def test_when_the_counts_do_not_come_the_pages_say_so(page, server, ground):
    address, _ = server
    page.route("**/api/v1/jobs/*/lines", lambda route: route.abort())
    page.goto(f"{address}/jobs/{ground}/lines")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#said")).to_contain_text("does not answer")
    assert page.locator("#ground .jobline").count() == 9, "the lines stand all the same"
    page.route("**/api/v1/jobs/*/steps*", lambda route: route.abort())
    page.goto(f"{address}/jobs/{ground}#hang")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#steps")).to_contain_text("does not answer")
