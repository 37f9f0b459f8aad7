"""More of Walk as it is used: looking about, two windows, touch, answers in the preview, the sheets that are printed."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import expect

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.job.fence import one_line
from gnomonic.demo.load import single_jobs
from gnomonic.formats.bring_in import bring_in
from gnomonic.store import jobs

BOOK = b"N 0 E 100 m\nE 100 m\nS 100.2 m\nW 99.9 m\nclose\n"
UTM = "easting (m),northing (m),height (m)\n500000,5205000,4\n500100,5205000,5\n500100,5205080,6\n"


def opened(page, server, job, path="/walk"):
    """A page of a saved job; gives its id."""
    address, scope = server
    job_id = jobs.create(scope, job)
    page.goto(f"{address}/jobs/{job_id}{path}")
    page.wait_for_selector("body[data-ready]")
    return job_id


@pytest.fixture
def booked(page, server):
    """The Walk page of a line that came from a field book."""
    opened(page, server, one_line("Booked", bring_in("b.legs", BOOK).line))
    return page


def scale(page):
    """Metres on the screen, by the scale bar's words."""
    return page.locator("#plan text").filter(has_text=re.compile(r"^\d+ m$")).first.text_content()


def test_looking_about_the_plan(booked):
    box = booked.locator("#plan").bounding_box()
    middle = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    whole = booked.locator("#plan .line").get_attribute("d")
    bar = scale(booked)
    booked.mouse.move(*middle)
    for _ in range(4):
        booked.mouse.wheel(0, -300)
    expect(booked.locator("#plan .line")).not_to_have_attribute("d", whole)
    assert int(scale(booked).split()[0]) < int(bar.split()[0])
    near = booked.locator("#plan .line").get_attribute("d")
    booked.mouse.down()
    booked.mouse.move(middle[0] + 60, middle[1] + 30, steps=4)
    booked.mouse.up()
    expect(booked.locator("#plan .line")).not_to_have_attribute("d", near)
    booked.click("#fit")
    expect(booked.locator("#plan .line")).to_have_attribute("d", whole)


def test_the_cursor_is_shared_by_plan_and_profile(booked):
    strip = booked.locator("#strip").bounding_box()
    booked.mouse.move(strip["x"] + strip["width"] / 2, strip["y"] + 60)
    first = booked.locator("#plan .mapcursor").get_attribute("cx")
    booked.mouse.move(strip["x"] + strip["width"] / 3, strip["y"] + 60)
    expect(booked.locator("#plan .mapcursor")).not_to_have_attribute("cx", first)
    booked.mouse.click(strip["x"] + strip["width"] / 2, strip["y"] + 60)
    expect(booked.locator("#pane h2").first).to_contain_text("Point 3")
    booked.click("[data-zoom=in]")
    expect(booked.locator("#strip .tape")).to_contain_text("m")
    booked.click("#scale")
    expect(booked.locator("#scale")).to_contain_text("to scale")


def test_units_change_everywhere_and_typed_numbers_follow_them(booked):
    expect(booked.locator("#pane")).to_contain_text("100.00 m")  # measured in metres, it opens in metres
    booked.keyboard.press("u")
    expect(booked.locator("#pane")).to_contain_text("328 ft 1 in")
    booked.reload()
    expect(booked.locator("#pane")).to_contain_text("328 ft 1 in")  # as it was read last
    booked.keyboard.press("u")
    expect(booked.locator("#units")).to_have_text("metres")
    booked.click("[data-mode=mend]")
    booked.locator("#plan").focus()
    for _ in range(2):
        booked.keyboard.press("ArrowRight")
    booked.fill("#typed", "N 0 E 90")
    booked.locator("#typed").press("Enter")
    expect(booked.locator("#pane tr.picked").first).to_contain_text("90.00 m")
    booked.keyboard.press("Escape")
    booked.locator("#pane input[aria-label='Height of the point']").fill("2.5")
    booked.locator("#pane input[aria-label='Height of the point']").press("Enter")
    expect(booked.locator("#pane .facts")).to_contain_text("2.500 m")


def test_a_book_mended_by_hand_says_what_reading_it_again_undoes(booked):
    booked.locator("#plan").focus()
    booked.keyboard.press("ArrowRight")
    booked.keyboard.press("ArrowRight")
    booked.keyboard.press("Delete")
    expect(booked.locator("#plan .peg")).to_have_count(3)
    booked.click("[data-tab=book]")
    expect(booked.locator("#pane .caution")).to_contain_text("reading it again undoes that")
    booked.click("text=Read it into the line")
    expect(booked.locator("#plan .peg")).to_have_count(4)
    expect(booked.locator("#pane .caution")).to_have_count(0)
    booked.fill("#booktext", "")
    expect(booked.locator("#understood")).to_contain_text("no legs were typed")


def test_staff_readings_are_shown_as_a_page_with_its_check(booked):
    booked.click("[data-tab=book]")
    booked.fill("#booktext", "E 20 m @ a\nstaff back 1.52 m on 1\nstaff inter 1.1 m on a\nstaff fore 0.98 m on 1")
    expect(booked.locator("#understood")).to_contain_text("the page agrees")
    expect(booked.locator("#understood table").nth(1).locator("tbody tr")).to_have_count(3)
    booked.click("text=How a line is written")
    expect(booked.locator(".bookhelp")).to_contain_text("triangle 1 P 12.3 m 15.2 m left")


def test_two_windows_never_overwrite_each_other(booked, server, context):
    other = context.new_page()
    other.goto(booked.url)
    other.wait_for_selector("body[data-ready]")
    other.click("text=Open the line")
    expect(other.locator("#pane")).to_contain_text("Close the line")
    booked.locator("#plan").focus()
    booked.keyboard.press("ArrowRight")
    booked.keyboard.press("Delete")
    expect(booked.locator("#said")).to_contain_text("changed in another window")
    expect(booked.locator("#plan .peg")).to_have_count(4)
    booked.click("text=Show it as it is now, and do mine again")
    expect(booked.locator("#plan .peg")).to_have_count(3)
    other.close()


def test_a_closed_line_is_not_run_on(booked):
    booked.keyboard.press("d")
    expect(booked.locator("#said")).to_contain_text("A closed line has no end to run on from")
    booked.click("text=Open the line")
    expect(booked.locator("#pane")).to_contain_text("Close the line")
    booked.locator("#plan").focus()
    booked.keyboard.press("d")
    expect(booked.locator("[data-mode=draw]")).to_have_attribute("aria-pressed", "true")
    booked.keyboard.press("Escape")
    expect(booked.locator("[data-mode=mend]")).to_have_attribute("aria-pressed", "true")


def test_a_line_with_its_finds_on_the_work_surface(page, server):
    job = single_jobs()[-1]
    for change in (
        {"do": "add_found", "kind": "gate", "name": "field gate", "from_m": 600.0, "to_m": 600.0},
        {"do": "add_found", "kind": "service", "name": "old main", "from_m": 640.0, "to_m": 655.0},
    ):
        job = apply(job, read_edit(change))
    opened(page, server, job, "")
    expect(page.locator("#strip .lane.found .thing")).not_to_have_count(0)
    expect(page.locator("#snags")).to_contain_text("in the tolerance zone of old main")
    wanted = page.locator("#snags li", has_text="field gate is wanted")
    expect(wanted).to_contain_text("no gate hangs there yet")
    wanted.locator(".place").click()
    wanted.locator("button.remedy").click()
    expect(page.locator("#said")).to_contain_text("+1 gate")
    expect(page.locator("#snags")).not_to_contain_text("field gate is wanted")
    page.locator("#snags .place").first.click()
    page.click("text=see to the marks")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("main")).to_contain_text("old main, noted by hand")
    expect(page.locator("main")).to_contain_text("Dig by hand at posts")


def test_a_stop_at_a_hand_dug_post_says_so_on_its_tag_and_on_the_sheets(page, server):
    change = {"do": "add_found", "kind": "service", "name": "old main", "from_m": 640.0, "to_m": 655.0}
    job_id = opened(page, server, apply(single_jobs()[-1], read_edit(change)), "")
    page.fill("#station", "2122 ft")
    page.keyboard.press("Enter")
    expect(page.locator("#tag .caution")).to_contain_text("Dig by hand here: old main")
    page.goto(f"{server[0]}/jobs/{job_id}/print")
    expect(page.locator(".dontdig")).to_contain_text("DO NOT DIG")
    expect(page.locator(".stake")).to_contain_text("DIG BY HAND")


def test_coordinates_are_named_in_the_preview(page, server, tmp_path):
    file = tmp_path / "utm.csv"
    file.write_text(UTM)
    page.goto(f"{server[0]}/bring-in")
    page.set_input_files("#file", file)
    page.click("text=Look at it >> nth=0")
    expect(page.locator("main")).to_contain_text("590 ft 6½ in")
    page.fill("input[name=crs]", "nowhere")
    page.click("text=Look again")
    expect(page.locator(".refusal")).to_contain_text("is not a coordinate system that is known")
    page.fill("input[name=crs]", "32626")
    page.click("text=Look again")
    expect(page.locator("main")).to_contain_text("Coordinates read as WGS 84 / UTM zone 26N")
    page.click("text=Save and go on measuring")
    page.wait_for_selector("body[data-ready]")
    page.click("[data-tab=ground]")
    expect(page.locator("#pane .exports").first).to_contain_text("KMZ")
    page.fill("#pane input[aria-label^=EPSG]", "32626")
    page.locator("#pane input[aria-label^=EPSG]").press("Tab")
    with page.expect_download() as download:
        page.click("#pane .exports a:has-text('CSV')")
    text = Path(download.value.path()).read_text("utf8")
    assert "500000.0,5205000.0,4.0" in text, "the same coordinates come out again"


def test_the_misclosure_is_spread_in_the_preview(page, server):
    page.goto(f"{server[0]}/bring-in")
    page.fill("#legs", BOOK.decode())
    page.click("text=Look at it >> nth=1")
    expect(page.locator("main")).to_contain_text("1:1789")
    expect(page.locator("#preview-map .other")).to_have_count(1)
    page.check("input[name=adjust][value=compass]")
    page.click("text=Look again")
    expect(page.locator("main")).to_contain_text("spread over the legs by the compass rule")
    page.fill("input[name=name]", "Spread")
    page.click("text=Save and go on measuring")
    page.wait_for_selector("body[data-ready]")
    page.click("[data-tab=book]")
    expect(page.locator("#adjust")).to_be_checked()


def test_a_rectangle_is_pegged_out_with_its_diagonal(page, server):
    page.goto(f"{server[0]}/draw")
    page.wait_for_selector("body[data-ready]")
    page.click("text=Peg it out")
    expect(page.locator("#diagonal")).to_contain_text(
        "Both diagonals tape 100 ft; square the corners by 60, 80, 100 ft"
    )
    expect(page.locator("#plan .peg")).to_have_count(4)
    page.fill("#side-a", "wide")
    page.click("text=Peg it out")
    expect(page.locator("#said")).to_contain_text("is not a length")
    page.click("#back")
    page.click("#back")
    expect(page.locator("#plan .peg")).to_have_count(3)
    page.click("text=Save and measure on")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#pane")).to_contain_text("2 legs, 140 ft")


@pytest.mark.parametrize("width", [1280, 390])
def test_the_blank_sheet_has_room_to_write(page, server, width):
    page.set_viewport_size({"width": width, "height": 844})
    page.goto(f"{server[0]}/walk-sheet")
    expect(page.locator(".blank").first.locator("tbody tr")).to_have_count(14)
    expect(page.locator(".ticks")).to_contain_text("Overhead line")
    expect(page.locator(".dontdig")).to_contain_text("DO NOT DIG until the marks are in")
    assert page.locator(".blank td").first.bounding_box()["height"] >= 30
    assert page.evaluate("document.documentElement.scrollWidth") <= width


def test_thumbs_hit_everything_on_the_phone(page, server):
    page.set_viewport_size({"width": 390, "height": 844})
    opened(page, server, single_jobs()[0])
    for target in page.locator(".planbar button, .planbar input, .tabs button, .tools button, .verbs a").all():
        if target.is_visible():
            assert target.bounding_box()["height"] >= 46, target.inner_text()
    page.click("[data-tab=found]")
    for target in page.locator(".findform input, .findform select, .findform .btn").all():
        assert target.bounding_box()["height"] >= 46
