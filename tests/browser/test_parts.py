"""The parts of the work surface one by one: strip, map, tag, rolls, take-off, list, print."""

import re
from datetime import datetime, timedelta
from itertools import pairwise

import pytest
from playwright.sync_api import expect

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.demo.load import single_jobs
from gnomonic.store import jobs


def said(page):
    return page.locator("#said")


def texts(page, selector):
    return page.locator(selector).all_inner_texts()


def frame(page):
    """What was asked of the drawing is drawn."""
    page.evaluate("new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")


def tape(page):
    frame(page)
    return page.evaluate("[...document.querySelectorAll('.strip .tape text')].map(t => t.textContent)")


def lane_height(page, lane):
    return page.locator(f"#strip .lane.{lane} > .rule").evaluate("l => Number(l.getAttribute('y1'))")


def box_of(page, lane):
    strip = page.locator("#strip").bounding_box()
    top = page.locator(f"#strip .lane.{lane}").evaluate("g => g.transform.baseVal[0].matrix.f")
    return strip["x"], strip["y"] + top, strip["width"]


def test_the_tape_has_round_divisions_in_either_unit_and_at_any_zoom(surface):
    assert tape(surface)[:3] == ["0", "500 ft", "1000 ft"]
    surface.keyboard.press("u")
    assert tape(surface)[:3] in (["0", "100 m", "200 m"], ["0", "200 m", "400 m"])
    for _ in range(4):
        surface.click("[data-zoom=in]")
    values = [float(t.split()[0]) for t in tape(surface)]
    steps = {round(b - a, 3) for a, b in pairwise(values)}
    assert len(steps) == 1 and steps.pop() in (0.5, 1, 2, 5, 10, 20)
    surface.click("[data-zoom=all]")
    assert tape(surface)[0] == "0"


def test_exaggeration_is_shown_and_can_be_set_to_none(surface):
    expect(surface.locator("#strip .scalenote")).to_have_text(re.compile(r"heights ×\d"))
    surface.click("#scale")
    expect(surface.locator("#strip .scalenote")).to_have_text("heights to scale")
    expect(surface.locator("#scale")).to_have_text("to scale: fill the height")
    surface.click("#scale")
    expect(surface.locator("#strip .scalenote")).to_have_text(re.compile(r"heights ×\d"))


def test_lanes_fold_by_mouse_and_by_key(surface):
    tall = lane_height(surface, "ground")
    surface.click("#strip .lane.under .fold")
    assert lane_height(surface, "under") < 20 and lane_height(surface, "ground") > tall
    expect(surface.locator("#strip .lane.under .fold")).to_have_attribute("aria-expanded", "false")
    surface.locator("#strip .lane.under .fold").focus()
    surface.keyboard.press("Enter")
    assert lane_height(surface, "ground") == tall


def test_wheel_zooms_about_the_pointer_and_dragging_pans(surface):
    x, y, wide = box_of(surface, "ground")
    surface.mouse.move(x + wide * 0.6, y + 60)
    before = surface.locator("#strip .cursortext").text_content()
    for _ in range(6):
        surface.mouse.wheel(0, -120)
    surface.mouse.move(x + wide * 0.6 + 1, y + 60)
    feet = [float(t.split(" ft")[0]) for t in (before, surface.locator("#strip .cursortext").text_content())]
    assert abs(feet[0] - feet[1]) < 15
    first = tape(surface)[0]
    surface.mouse.down()
    surface.mouse.move(x + wide * 0.6 - 300, y + 60, steps=5)
    surface.mouse.up()
    assert tape(surface)[0] != first


def test_cursor_is_shared_by_strip_and_map(surface):
    x, y, wide = box_of(surface, "ground")
    surface.mouse.move(x + wide * 0.5, y + 50)
    dot = surface.locator("#map .mapcursor")
    expect(dot).to_have_attribute("visibility", "visible")
    at = dot.get_attribute("cx")
    surface.mouse.move(x + wide * 0.8, y + 50)
    assert dot.get_attribute("cx") != at
    corner = surface.locator("#map rect.terminal").nth(2).bounding_box()
    surface.mouse.move(corner["x"] + 4, corner["y"] + 4)
    expect(surface.locator("#strip .cursortext")).to_be_attached()
    surface.mouse.click(corner["x"] + 4, corner["y"] + 4)
    expect(surface.locator("#tag h2")).to_have_text(re.compile(r"(Corner|Gate) post \d+"))


def test_bays_are_chosen_in_the_under_lane(surface):
    surface.fill("#station", "150 m")
    surface.keyboard.press("Enter")
    x, y, wide = box_of(surface, "under")
    surface.mouse.click(x + wide * 0.52, y + 30)
    expect(surface.locator("#tag h2")).to_have_text(re.compile(r"(Bay from post|Post) \d+"))
    surface.mouse.click(x + wide * 0.545, y + 30)
    expect(surface.locator("#tag")).to_contain_text(re.compile("Grade, and fabric used|Under the wire"))


def test_the_tables_say_what_the_drawings_show(surface):
    surface.click("text=As a table")
    rows = surface.locator("#table tbody tr")
    posts = surface.locator("#tag .fact:has(dt:text-is('Posts')) dd >> nth=0").inner_text().split()[0]
    expect(rows).to_have_count(int(posts))
    expect(rows.first).to_contain_text("corner terminal")
    assert texts(surface, "#table thead th")[0] == "Post"


def test_hang_draws_rolls_with_their_cuts_and_takes_offcuts(surface):
    surface.keyboard.press("4")
    expect(surface.locator(".rollwords b")).to_have_text(re.compile(r"\d+ rolls, \d+ splices"))
    rolls = int(surface.locator(".rollwords b").inner_text().split()[0])
    assert surface.locator(".rollbars .rollname").count() == rolls == surface.locator("#rolls ol li").count()
    per = [
        (rect["w"] / length)
        for rect, length in zip(
            surface.evaluate(
                "[...document.querySelectorAll('.rollbars .piece')].map(r => ({w: Number(r.getAttribute('width'))}))"
            ),
            surface.evaluate(
                "JSON.parse(document.getElementById('drawing').textContent).stocks.flatMap(s => s.cuts.map(c => c.length))"
            ),
            strict=True,
        )
    ]
    assert max(per) - min(per) < 0.01 * max(per), "one scale for all"
    expect(surface.locator("#steps .worksteps > li").first).to_contain_text("buried services")
    expect(surface.locator("#steps .caution").first).to_contain_text("No hole before the marks")
    surface.click(".rollwords button >> nth=0")
    expect(surface.locator("#tag h2")).to_have_text("Splice 1")
    expect(surface.locator("#tag")).to_contain_text("9 × crimp sleeve")
    expect(surface.locator("#tag .caution")).to_contain_text("stand clear")
    offcuts = surface.locator("input[aria-label^=Offcuts]")
    offcuts.fill("120 ft, 66 ft 6 in")
    offcuts.press("Enter")
    expect(surface.locator("input[aria-label^=Offcuts]")).to_have_value("120 ft, 66 ft 6 in")
    surface.select_option("select[aria-label^=Fabric]", "13-48-6")
    expect(said(surface)).to_contain_text("13-48-6 hung instead of 9-49-6")


def test_haul_counts_and_a_job_gets_another_name(surface):
    surface.keyboard.press("6")
    surface.wait_for_selector("#takeoff tbody")
    expect(surface.locator("#takeoff")).to_contain_text("driven steel post, 6 ft")
    expect(surface.locator("#takeoff")).to_contain_text("gate leaf, 16 ft")
    surface.keyboard.press("3")
    shown = surface.wait_for_selector("#tag .facts", state="attached")
    surface.keyboard.press("Escape")
    shown.wait_for_element_state("hidden")  # what Escape asked for stands there now
    surface.locator("#tag summary", has_text="Change the line here").click()
    form = surface.locator("#tag form", has_text="Call this job")
    form.locator("input").fill("Water meadow")
    form.locator("button").click()
    expect(surface.locator("#jobname")).to_have_text("Water meadow")


def test_what_may_be_changed_at_a_post_is_open_however_late_the_answer(surface):
    late = surface.locator("#tag", has_text="Looking it up")
    surface.route("**/tag?post=*", lambda route: (late.wait_for(), route.continue_()), times=1)
    surface.fill("#station", "640 ft")
    surface.keyboard.press("Enter")
    change = surface.locator("#tag details.change")
    expect(change).to_have_attribute("open", "")
    change.locator("summary").click()
    expect(change).not_to_have_attribute("open", "")


def test_what_is_opened_while_an_answer_is_under_way_stays_open(surface):
    """The answer comes in time, so nothing is shown meanwhile: what was opened in what it replaces is open in what comes."""
    first = surface.wait_for_selector("#tag .facts", state="attached")
    surface.keyboard.press("Escape")
    first.wait_for_element_state("hidden")
    shown = surface.wait_for_selector("#tag .facts")
    change = surface.locator("#tag details.change")
    expect(change).not_to_have_attribute("open", "")
    surface.clock.install()
    a_minute_on = datetime.now() + timedelta(minutes=1)
    surface.clock.pause_at(a_minute_on)  # no quarter of a second passes, however slow the machine
    surface.route("**/tag", lambda route: (change.locator("summary").click(), route.continue_()), times=1)
    surface.keyboard.press("Escape")
    shown.wait_for_element_state("hidden")
    expect(change).to_have_attribute("open", "")


def test_forbidding_and_allowing_again(surface):
    surface.fill("#station", "640 ft")
    surface.keyboard.press("Enter")
    form = surface.locator("#tag form", has_text="No post from")
    form.locator("input").nth(0).fill("640 ft")
    form.locator("input").nth(1).fill("644 ft")
    form.locator("input").nth(2).fill("culvert")
    with surface.expect_response("**/tag?*"):
        form.locator("button").click()
    expect(surface.locator("#strip .lane.ground .forbidden title").first).to_have_text(re.compile("culvert|brook|pipe"))
    with surface.expect_response("**/tag?*"):
        surface.click("text=Allow posts again: culvert")
    expect(surface.locator("text=Allow posts again: culvert")).to_have_count(0)
    form = surface.locator("#tag form", has_text="its centre to")
    form.locator("input").fill("here")
    form.locator("button").click()
    expect(said(surface)).to_contain_text("is not a length")


@pytest.mark.parametrize("text", ["everywhere", "99999 ft", "-4 m", ""])
def test_a_station_that_is_not_on_the_line_is_refused(surface, text):
    surface.fill("#station", text)
    surface.locator("#station").press("Enter")
    expect(said(surface)).to_contain_text("is not a station")


def test_a_grave_snag_comes_first_and_its_remedy_clears_it(page, server):
    address, scope = server
    job = single_jobs()[-1]
    for edit in ({"do": "forbid", "from_m": 141.0, "to_m": 143.0, "reason": "old well"},):
        job = apply(job, read_edit(edit))
    page.goto(f"{address}/jobs/{jobs.create(scope, job)}")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#snags li").first).to_contain_text("Buried services have not been asked about")
    second = page.locator("#snags li").nth(1)
    expect(second).to_have_class("grave")
    expect(second).to_contain_text("stands in old well")
    second.locator(".place").click()
    second.locator(".remedy").first.click()
    expect(page.locator("#snags li.grave")).to_have_count(1)


def test_an_empty_line_of_snags_says_so(page, server):
    address, scope = server
    job = single_jobs()[0]
    for edit in (
        {"do": "say_soil", "soil": "stony"},
        {"do": "ask_marking", "ticket": "T1", "asked_on": "2026-01-05", "wait_until": "2026-01-08", "reach_m": 3},
        {"do": "take_marks", "ticket": "T1", "state": "clear", "expires_on": "2199-01-01"},
    ):
        job = apply(job, read_edit(edit))
    page.goto(f"{address}/jobs/{jobs.create(scope, job)}")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#snagcount")).to_have_text("No snags")
    expect(page.locator("#snags")).to_contain_text("Nothing on this line needs a second look")
    page.keyboard.press("Shift+ArrowRight")


def test_jobs_are_listed_and_removed(page, server):
    address, scope = server
    job = jobs.create(scope, apply(single_jobs()[0], read_edit({"do": "rename", "name": "Short lived"})))
    page.goto(address)
    row = page.locator(".jobs li", has_text="Short lived")
    expect(row).to_contain_text("491 ft 6 in")
    expect(row.locator("svg path")).to_be_attached()
    row.locator("summary").click()
    row.locator("button").click()
    expect(page.locator(".jobs li", has_text="Short lived")).to_have_count(0)
    gone = page.request.get(f"{address}/jobs/{job}")
    assert gone.status == 404 and "Nothing here" in gone.text()


def test_the_printed_sheet_changes_units(page, server):
    address, scope = server
    page.goto(f"{address}/jobs/{jobs.create(scope, single_jobs()[-1])}/print")
    expect(page.locator("caption", has_text="Braces")).to_be_visible()
    expect(page.locator("body")).to_contain_text("7 ft 5½ in")
    page.click("text=metres")
    expect(page.locator("body")).to_contain_text("2.275 m")
    expect(page.locator(".strip .tape text").nth(1)).to_have_text(re.compile(r" m$"))


def test_a_question_is_answered_before_saving(page, server, tmp_path):
    table = tmp_path / "east.csv"
    table.write_text("station,height\n" + "".join(f"{k * 10},{5 + k % 3}\n" for k in range(20)))
    page.goto(f"{server[0]}/bring-in")
    page.set_input_files("#file", table)
    page.click("text=Look at it >> nth=0")
    expect(page.locator(".question legend").first).to_contain_text("has no unit")
    page.check("text=feet")
    page.click("text=Look again with that")
    expect(page.locator(".facts")).to_contain_text("190 ft")
    expect(page.locator(".question", has_text="has no unit")).to_have_count(0)
    page.click("text=Save and set it out")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#tag")).to_contain_text("190 ft")


def test_pocket_sums_answer_and_refuse(page, server):
    page.goto(f"{server[0]}/sums/brace")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#sumfigure text", has_text="8 ft")).to_have_count(1)
    page.fill("#f-spacing_m", "")
    page.click("text=Work it out")
    expect(page.locator("[role=alert]")).to_contain_text("End post to brace post, centres: this is missing")
    assert page.input_value("#f-pull_n") == "900 lb" and page.get_attribute("#f-spacing_m", "aria-invalid") == "true"
    page.fill("#f-spacing_m", "10'")
    page.click("text=Work it out")
    expect(page.locator("#answer")).to_contain_text("The end post is lifted by 270 lb")  # 900 · 3 / 10
    page.select_option("[name='f.type']", "diagonal")
    expect(page.locator("#f-spacing_m")).to_be_hidden()
    page.click("text=As JSON, for a program")
    page.fill("#text", '{"type": "h"}')
    page.click("text=Work the JSON out")
    expect(page.locator("[role=alert]")).to_contain_text("Pull_n: is missing")
    assert page.input_value("#text") == '{"type": "h"}'


def test_on_a_phone_the_strip_comes_first(page, server):
    address, scope = server
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{address}/jobs/{jobs.create(scope, single_jobs()[-1])}")
    page.wait_for_selector("#tag .facts", state="attached")
    tops = [page.locator(s).bounding_box()["y"] for s in ("#strip", ".decide", ".tabs", "#panel-snags", ".mapbox")]
    assert tops == sorted(tops) and page.locator("#strip").bounding_box()["height"] >= 844 / 2 - 1
    expect(page.locator("#sentence")).to_be_hidden()
    page.locator(".decide summary").click()
    expect(page.locator("#d-longest_bay_m")).to_be_visible()
    x, y, wide = box_of(page, "posts")
    page.mouse.click(x + wide / 2, y + 18)
    expect(page.locator("#tag h2")).to_have_text(re.compile(r"[Pp]ost \d+"))
    page.mouse.wheel(0, 0)
    page.evaluate("scrollTo(0, 600)")
    assert page.locator("#strip").bounding_box()["y"] == 0, "the strip stays in sight while the tag scrolls"
