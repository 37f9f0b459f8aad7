"""Doors as a person meets them: the database away, an answer lost, a file with bad lines, a grid that is asked about."""

import json
import re

import pytest
from playwright.sync_api import expect

from gnomonic.demo.load import single_jobs
from gnomonic.store import cluster, jobs
from gnomonic.store.scope import Scope, connect
from gnomonic.workshop.attack.wire import Wire
from gnomonic.workshop.running import PATIENCE, serving

PROBLEM = {"type": "urn:gnomonic:problem:unknown", "title": "away", "status": 503, "field": "database"}


@pytest.fixture(scope="module")
def wired(postgres, template):
    """A server of its own whose database is reached over a wire; gives (address, wire, id of a job, of one in degrees)."""
    url = cluster.clone_database(postgres, template, "doors_of_the_page")
    port = int(re.search(r":(\d+)/", url).group(1))
    wire = Wire(port)
    scope = Scope(connect(url, PATIENCE))
    local, world = (jobs.create(scope, job) for job in (single_jobs()[0], single_jobs()[-1]))
    scope.engine.dispose()
    with serving(url.replace(f":{port}/", f":{wire.port}/")) as address:
        yield address, wire, local, world
    wire.close()


def test_a_page_that_finds_the_database_away_comes_back_by_itself(page, wired):
    address, wire, local, _ = wired
    wire.set("down")
    page.goto(f"{address}/jobs/{local}")
    expect(page.get_by_role("heading", name="The database does not answer")).to_be_visible()
    expect(page.locator("#looking")).to_contain_text("comes back by itself")
    assert page.get_by_role("link", name="Look now").bounding_box()["height"] >= 34
    wire.set("pass")
    expect(page.locator("#strip")).to_be_visible(timeout=15_000)


def test_a_form_pressed_while_it_is_away_says_what_to_do(page, wired):
    address, wire, *_ = wired
    page.goto(f"{address}/bring-in")
    page.fill("#legs", "N 0 E 30 m\nE 40 m\n")
    page.locator("form:has(#legs) button").click()
    page.fill("input[name=name]", "typed while away")
    wire.set("down")
    page.get_by_role("button", name="Save and set it out").click()
    expect(page.get_by_role("heading", name="The database does not answer")).to_be_visible()
    expect(page.locator("main")).to_contain_text("nothing was saved")
    wire.set("pass")
    expect(page.get_by_role("heading", name="The database answers again")).to_be_visible(timeout=15_000)
    page.get_by_role("link", name="Back to the page").click()
    expect(page.locator("input[name=name]")).to_have_value("typed while away")
    page.get_by_role("button", name="Save and set it out").click()
    expect(page.locator("#jobname")).to_have_text("typed while away")


def test_an_edit_whose_answer_is_lost_is_asked_for_again_and_done_once(page, wired):
    address, wire, local, _ = wired
    page.goto(f"{address}/jobs/{local}")
    page.wait_for_selector("body[data-ready]")
    keys = []
    page.on(
        "request",
        lambda r: (
            keys.append(r.headers.get("idempotency-key")) if r.url.endswith("/edits") or "/edits?" in r.url else None
        ),
    )
    wire.set("cut_after")
    place_by_hand(page)
    expect(page.locator("#said")).to_contain_text("that was saved already", timeout=15_000)
    assert len(keys) >= 2 and len(set(keys)) == 1 and wire.cuts >= 1
    expect(page.locator("#undo")).to_be_enabled()


def place_by_hand(page, bay="9 ft"):
    """Change a number of the sentence."""
    page.fill("#d-longest_bay_m", bay)
    page.keyboard.press("Enter")


def test_an_edit_that_is_known_not_to_be_saved_offers_to_try_again(page, wired):
    address, _, local, _ = wired
    page.goto(f"{address}/jobs/{local}")
    page.wait_for_selector("body[data-ready]")
    body = {
        **PROBLEM,
        "kind": "away",
        "detail": "the database does not answer: nothing was saved; try again in a moment",
    }
    page.route(
        "**/edits*",
        lambda route: route.fulfill(status=503, content_type="application/problem+json", body=json.dumps(body)),
        times=1,
    )
    place_by_hand(page, "8 ft")
    expect(page.locator("#said")).to_contain_text("nothing was saved")
    page.get_by_role("button", name="Try again").click()
    expect(page.locator("#said")).not_to_contain_text("nothing was saved")


def test_what_a_line_in_metres_of_its_own_can_go_out_as(page, wired):
    address, _, local, world = wired
    page.goto(f"{address}/jobs/{local}/haul")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#files")).to_contain_text("The Job, JSON")
    expect(page.locator("#files")).not_to_contain_text("GeoJSON")
    page.goto(f"{address}/jobs/{world}/haul")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#files")).to_contain_text("GeoJSON")


KML = (
    "<kml><Document>"
    "<Placemark><name>far road</name><LineString><coordinates>0,0 0,1.067</coordinates></LineString></Placemark>"
    "<Placemark><name>north edge</name><LineString><coordinates>3,0,5 3,0.001,6</coordinates></LineString></Placemark>"
    "<Placemark><name>south edge</name><LineString><coordinates>3,-0.0002,5 3.001,-0.0002,6</coordinates></LineString></Placemark>"
    "</Document></kml>"
)


def test_of_a_file_with_a_bad_line_the_good_ones_are_offered(page, wired, tmp_path):
    address, *_ = wired
    (tmp_path / "edges.kml").write_text(KML)
    page.goto(f"{address}/bring-in")
    page.set_input_files("#file", tmp_path / "edges.kml")
    page.locator("form:has(#file) button").click()
    expect(page.locator(".cannot")).to_contain_text("far road: the line is 118 km long")
    assert page.locator("select[name=shape] option").all_inner_texts() == [
        "2: north edge, 2 points",
        "3: south edge, 2 points",
    ]
    page.select_option("select[name=shape]", "3")
    page.get_by_role("button", name="Look at that one").click()
    expect(page.locator(".notes").first).to_contain_text("Line 3 of 3 in the file taken: south edge")
    expect(page.locator("#preview-ve")).to_have_text(re.compile(r"heights ×\d|heights to scale"))


def test_a_tiny_line_is_not_drawn_with_heights_times_nothing(page, wired, tmp_path):
    address, *_ = wired
    (tmp_path / "tiny.csv").write_text("station (m),height (m)\n0,0\n0.02,30\n")
    page.goto(f"{address}/bring-in")
    page.set_input_files("#file", tmp_path / "tiny.csv")
    page.locator("form:has(#file) button").click()
    expect(page.locator("#preview-ve")).not_to_have_text("")
    assert "×0.0" not in page.locator("#preview-ve").inner_text()


def test_a_grid_is_asked_about_twice_and_laid(page, wired, tmp_path):
    """It says neither its coordinates nor a unit ground could have: both are asked, then its 1,000 ft lie under the line."""
    address, _, local, _ = wired
    rows = "\n".join(" ".join(["10000"] * 40) for _ in range(40))
    (tmp_path / "g.asc").write_text(f"ncols 40\nnrows 40\nxllcorner -200\nyllcorner -200\ncellsize 10\n{rows}\n")
    page.goto(f"{address}/jobs/{local}/walk")
    page.wait_for_selector("body[data-ready]")
    page.click("[data-tab=ground]")
    page.set_input_files("#gridfile", tmp_path / "g.asc")
    page.get_by_role("button", name="Lay it under the line").click()
    page.get_by_role("button", name="take another grid").click()
    expect(page.locator("#said")).to_contain_text("Nothing was laid under the line")
    page.set_input_files("#gridfile", tmp_path / "g.asc")
    page.get_by_role("button", name="Lay it under the line").click()
    page.get_by_role("button", name="the same metres as the line’s").click()
    expect(page.locator("#pane .question")).to_contain_text("no ground is that high in metres")
    page.get_by_role("button", name="feet").click()
    expect(page.locator("#said")).to_contain_text("heights from a grid", timeout=20_000)


def test_a_walk_page_says_when_the_database_is_away_and_goes_on(page, wired):
    address, wire, *_ = wired
    page.goto(f"{address}/rover")
    page.get_by_role("button", name="Walk with the practice rover").click()
    expect(page.locator("#counts")).to_contain_text("fixes kept", timeout=15_000)
    wire.set("down")
    expect(page.locator("#quality")).to_have_text("The database does not answer", timeout=15_000)
    wire.set("pass")
    expect(page.locator("#quality")).not_to_have_text("The database does not answer", timeout=20_000)
    page.get_by_role("button", name="Pause").click()
    expect(page.get_by_role("button", name="Go on walking")).to_be_visible()


def test_a_file_that_is_too_large_is_said_to_be_before_it_is_sent(page, wired, tmp_path):
    address, *_ = wired
    (tmp_path / "big.gpx").write_bytes(b"<gpx>" + b" " * 40_100_000)
    (tmp_path / "small.gpx").write_bytes(b"<gpx/>")
    page.goto(f"{address}/bring-in")
    page.set_input_files("#file", tmp_path / "big.gpx")
    expect(page.locator("#toolarge")).to_contain_text(
        "“big.gpx” is 40 MB; a measured line of more than 40 MB is not taken"
    )
    expect(page.locator("form:has(#file) button")).to_be_disabled()
    page.set_input_files("#file", tmp_path / "small.gpx")
    expect(page.locator("#toolarge")).to_be_hidden()
    expect(page.locator("form:has(#file) button")).to_be_enabled()
