"""Hold in the browser: saying who is where, the ranking, hanging a barrier; fittings, labels, rules, catalog."""

import re

import pytest
from places import few
from playwright.sync_api import expect

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.job.fence import one_line
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.demo.load import single_jobs
from gnomonic.store import jobs


def demo(name):
    return next(j for j in single_jobs() if j.name.endswith(name))


def opened(page, server, job, path="/hold"):
    address, scope = server
    job_id = jobs.create(scope, job)
    page.goto(f"{address}/jobs/{job_id}{path}")
    page.wait_for_selector("body[data-ready]")
    return address, job_id


@pytest.fixture
def plain():
    points = (Point(e_m=0.0, n_m=0.0, h_m=5.0), Point(e_m=60.0, n_m=0.0, h_m=5.2))
    return one_line("Plain line", MeasuredLine(points=points, source=Source(kind="drawn", points_read=2)))


def test_from_animals_to_a_hung_barrier_and_back(page, server, plain):
    opened(page, server, plain)
    expect(page.locator("#demands")).to_contain_text("Nothing is demanded yet")
    page.select_option(".side.left select.add", label="deer")
    expect(page.locator("#demands")).to_contain_text("at least 8 ft")
    expect(page.locator("#demands .fact").first).to_contain_text("deer")
    expect(page.locator(".rankhead")).to_contain_text(re.compile(r"\d barriers do it"))
    expect(page.locator("#barrier h2")).to_contain_text("as it hangs now")
    expect(page.locator("#barrier .fails").first).to_contain_text("4 ft 3½ in for at least 8 ft")
    page.keyboard.press("ArrowDown")
    expect(page.locator("#barrier h2")).to_have_text("Tall deer fence on wood posts")
    page.click("#hang")
    expect(page.locator("#hang")).to_have_text("Hangs on this line")
    expect(page.locator("#said")).to_contain_text("hung instead of 9-49-6")
    page.select_option(".side.left select.also", label="squeezes under")
    expect(page.locator("#demands")).to_contain_text("deer, squeezes under")
    page.click("text=squeezes under >> nth=0")
    expect(page.locator("#demands")).not_to_contain_text("squeezes under")
    for _ in range(4):
        page.keyboard.press("Control+z")
        page.wait_for_load_state("networkidle")
    expect(page.locator("#demands")).to_contain_text("Nothing is demanded yet")


def test_why_units_and_what_contradicts(page, server, plain):
    opened(
        page,
        server,
        apply(plain, read_edit({"do": "say_hold", "hold": {"animals": [{"animal": "horses", "side": "left"}]}})),
    )
    page.locator("#demands .why").first.click()
    expect(page.locator("#demands .because").first).to_contain_text("they lean over what is lower")
    page.keyboard.press("u")
    expect(page.locator("#demands")).to_contain_text("at least 1.370 m")
    page.select_option("select[aria-label='Sort of barrier']", label="barbed wire only")
    expect(page.locator("#said")).to_contain_text("horses must not meet barbs")
    expect(page.locator("select[aria-label='Sort of barrier']")).to_have_value("")
    page.fill("input[aria-label='Years it must last']", "60")
    page.keyboard.press("Enter")
    expect(page.locator("#ranking")).to_contain_text("No barrier on file does all of it")


def test_schools_sides_and_a_shared_post(page, server):
    opened(page, server, demo("lane side"))
    opened(page, server, demo("workshop yard"))
    page.locator("label.way", has_text="one fewer than feet of height").click()
    expect(page.locator("#said")).not_to_be_empty()
    expect(page.locator("label.way", has_text="one fewer").locator("input")).to_be_checked()
    opened(page, server, demo("newt barrier"))
    with page.expect_response("**/hold"):
        page.select_option("select[aria-label='Post at the start']", label="Larkspur Holm · lane side")
    expect(page.locator("select[aria-label='Post at the start']")).to_have_value("Larkspur Holm · lane side")
    with page.expect_response("**/hold"):
        page.select_option("select[aria-label='Side of the posts it hangs on']", "right")
    page.click("text=3 Set")
    expect(page.locator("#snags")).to_contain_text("Posts must stand on the right")
    page.keyboard.press("ArrowRight")
    expect(page.locator("#tag")).to_contain_text("shared with Larkspur Holm · lane side")


BARRIERS = ["hill boundary", "summer grazing", "gully fence", "seed beds", "young orchard", "workshop yard", "newt barrier", "dog run", "lane side"]  # fmt: skip


@pytest.mark.parametrize("name", few(BARRIERS, 1, 5, 8))
def test_every_barriers_posts_show_their_fittings_in_order(page, server, name):
    opened(page, server, demo(name), "")
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    expect(page.locator(".fitfigure .fitname").first).to_have_text(re.compile(r"^\d+\. .+ × \d+$"))
    assert page.locator(".fitfigure .fitting").count() > 0
    page.keyboard.press("4")
    expect(page.locator("#steps .worksteps li").first).to_contain_text("buried services")
    page.keyboard.press("6")
    expect(page.locator("#takeoff")).to_contain_text("post")


def test_extras_are_ticked_by_hand_and_say_what_they_add(page, server):
    address, scope = server
    page.goto(f"{address}/jobs/{jobs.create(scope, single_jobs()[0])}/hold")
    page.wait_for_selector("body[data-ready]")
    tick = page.locator(".extras label", has_text="ribbons on top")
    expect(tick.locator(".price")).to_contain_text("visibility ribbon")
    tick.locator("input").check()
    expect(page.locator("#said")).to_contain_text("visibility ribbon")
    expect(page.locator(".extras label", has_text="ribbons on top").locator("input")).to_be_checked()
    expect(page.locator("select[aria-label='Side of the posts it hangs on']")).to_be_visible()


def test_a_label_read_from_a_job_is_hung_on_it(page, server):
    address, scope = server
    job_id = jobs.create(scope, single_jobs()[0])
    page.goto(f"{address}/labels?job={job_id}&label=9 49")
    expect(page.locator("[role=alert]")).to_contain_text("how far apart its stays")
    page.click(".examples >> text=9-49-6 >> nth=0")
    page.fill("input[name=label]", "11-47-6 square lock 12½/14½")
    page.click("text=Read it")
    page.click("#hang")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#barrier")).to_contain_text("11-47-6")
    stored = jobs.load(scope, job_id)
    assert '"11-47-6"' in stored.document and stored.can_undo


def test_label_reader_draws_what_it_reads(page, server):
    address, _ = server
    page.goto(f"{address}/labels?label=9-49-6&animal=goats")
    expect(page.locator("#drawn .dim").first).to_have_text("4 in")
    expect(page.locator(".verdicts .fails")).to_contain_text("Stays apart")
    page.fill("input[name=label]", "12½/14½")
    page.click("text=Read it")
    expect(page.locator("#gauges circle")).to_have_count(2)
    page.fill("input[name=label]", "soup")
    page.click("text=Read it")
    expect(page.get_by_role("alert")).to_contain_text("soup")
    expect(page.locator("input[name=label]")).to_have_value("soup")


def test_an_override_is_made_and_taken_back_on_the_page(page, server):
    address, _ = server
    page.goto(f"{address}/rules")
    page.click("#lambs > summary")
    page.locator("#lambs summary", has_text="override").first.click()
    page.locator("#lambs input[name=value]").first.fill("34 in")
    page.locator("#lambs button", has_text="Override").first.click()
    expect(page.get_by_role("alert")).to_contain_text("needs a reason")
    page.fill("input[name=reason] >> nth=0", "our lambs come late and are big")
    page.click("text=Try again")
    expect(page.locator("#lambs tr.own")).to_contain_text("shipped: 2 ft 8 in")
    page.click("#lambs >> text=Back to the shipped value")
    expect(page.locator("tr.own")).to_have_count(0)


def test_catalog_takes_items_in_and_keeps_out_what_is_wrong(page, server):
    address, _ = server
    page.goto(f"{address}/catalog")
    head = "key,title,group,unit,length,width,diameter,mass,strength,index,wires,gauges,roll\n"
    page.set_input_files(
        "input[type=file]",
        {"name": "mine.csv", "mimeType": "text/csv", "buffer": (head + "hook,Hook,fitting,,5,,,,,2,,,\n").encode()},
    )
    page.click("text=Take them in")
    expect(page.get_by_role("alert")).to_contain_text("Row 2, column length: “5” has no unit")
    page.set_input_files(
        "input[type=file]",
        {"name": "mine.csv", "mimeType": "text/csv", "buffer": (head + "hook,Hook,fitting,,5 mm,,,,,2,,,\n").encode()},
    )
    page.click("text=Take them in")
    expect(page.locator("tr.own")).to_contain_text("Hook")
    page.click("text=Forget it")
    expect(page.locator("tr.own")).to_have_count(0)


def test_thumbs_can_hit_what_hold_has(page, server):
    page.set_viewport_size({"width": 390, "height": 844})
    opened(page, server, demo("seed beds"))
    small = page.evaluate(
        "[...document.querySelectorAll('main button, main select, main a')].filter(e => e.offsetParent && e.getBoundingClientRect().height < 44).map(e => e.outerHTML.slice(0, 90))"
    )
    assert small == []
