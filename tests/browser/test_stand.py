"""Posts and braces by mouse, keys and thumb: an end is looked at and braced otherwise, the soil is said, a hole tells."""

import pytest
from playwright.sync_api import expect

from gnomonic.demo.load import single_jobs
from gnomonic.store import jobs


@pytest.fixture
def job(server):
    address, scope = server
    return f"{address}/jobs/{jobs.create(scope, next(j for j in single_jobs() if 'lane side' in j.name))}"


def opened(page, address):
    page.goto(address)
    page.wait_for_selector("body[data-ready]")
    return page


def said(page):
    return page.locator("#said")


def test_an_end_is_seen_from_every_side_and_braced_otherwise(page, job):
    opened(page, f"{job}/stand")
    ends = page.locator("#ends button")
    expect(ends).not_to_have_count(0)
    expect(page.locator("#body .forceline")).to_have_count(5)  # pull, rail, wire, the soil sideways and down
    expect(page.locator("#ways tbody tr")).to_have_count(45)
    expect(page.locator("#ways tr.now")).to_have_count(1)
    first = page.locator("#ends [aria-current=true]").inner_text()
    page.locator("#body").click()
    page.keyboard.press("ArrowRight")
    expect(page.locator("#ends [aria-current=true]")).not_to_have_text(first)
    page.keyboard.press("ArrowLeft")
    page.locator("#ways tbody tr", has_text="2 × 8 ft at 78 %").locator("button").click()
    expect(said(page)).to_contain_text("brace rail")
    expect(page.locator("#ends [aria-current=true]")).to_contain_text("H-brace")
    page.select_option("#ask [name=kind]", "strut")
    page.click("text=Brace this end so")
    expect(page.locator("#ends [aria-current=true]")).to_contain_text("diagonal strut")
    page.fill("#ask [name=angle_deg]", "90")
    page.click("text=Brace this end so")
    expect(said(page)).to_contain_text("angle_deg")
    expect(said(page)).to_have_class("said wrong")
    page.fill("#ask [name=angle_deg]", "45")
    page.click("text=Every end of the line")
    expect(page.locator("#ends button small", has_text="diagonal strut")).to_have_count(ends.count())
    page.click("#undo")
    page.click("#undo")
    page.click("#undo")
    expect(page.locator("#ends button small", has_text="diagonal strut")).to_have_count(0)


def test_the_soil_is_said_and_everything_answers(page, job):
    opened(page, f"{job}/stand#soil")
    expect(page.locator("#ends .bad")).not_to_have_count(0)
    page.select_option("#panel-soil [name=soil]", "stony")
    page.click("text=Say so")
    expect(page.locator("#ends .bad")).to_have_count(0)
    page.locator("#panel-soil input").nth(1).fill("0")
    page.locator("#panel-soil input").nth(2).fill("100 ft")
    page.select_option("#panel-soil [name=soil]", "peat")
    page.click("text=Say so")
    expect(page.locator("#panel-soil table").first).to_contain_text("peat or made ground")
    expect(page.locator("#ends .bad")).not_to_have_count(0)
    page.click("text=forget")
    expect(page.locator("#ends .bad")).to_have_count(0)


def test_a_hole_that_stopped_short_is_noted_let_pass_and_outlives_undo(page, job):
    opened(page, f"{job}/stand#holes")
    row = page.locator("#panel-holes tbody tr").first
    name = row.locator("th").inner_text()
    row.locator("input").fill("22")
    row.locator("select").nth(1).select_option("rock")
    row.locator("button").click()
    expect(said(page)).to_contain_text("written down")
    expect(page.locator("#panel-holes tbody tr", has_text=name).first).to_contain_text("reached 1 ft 10 in")
    row.locator("select").first.select_option("on")
    row.locator("input").fill("8")
    row.locator("button").click()
    expect(page.locator("#panel-holes tbody tr", has_text=name).first).to_contain_text("moved 8 in on")
    row.locator("input").fill("22 ft")
    row.locator("button").click()
    expect(said(page)).to_have_class("said wrong")
    opened(page, job)
    snag = page.locator("#snags li", has_text="stopped at 1 ft 10 in")
    snag.locator(".place").click()
    expect(snag.locator(".remedy", has_text="let it pass")).to_be_visible()
    snag.locator(".remedy", has_text="let it pass").click()
    expect(page.locator("#snags li", has_text="stopped at 1 ft 10 in")).to_have_count(0)
    opened(page, f"{job}/stand#holes")
    expect(page.locator("#panel-holes tbody tr", has_text=name).first).to_contain_text("let pass")


def test_a_brace_is_cut_on_the_phone(page, job):
    page.set_viewport_size({"width": 390, "height": 844})
    opened(page, f"{job}/stand")
    page.click("text=Brace sheet")
    page.fill("[name=clear]", "92¼")
    page.fill("[name=outer]", "7½")
    page.fill("[name=inner]", "6")
    page.click("text=Cut from these")
    expect(page.locator(".bracerows").first).to_contain_text("7 ft 8¼ in as measured")
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    page.click("text=Keep these with the post")
    expect(page.locator(".bracerows").first).to_contain_text("7 ft 8¼ in as measured")
    page.fill("[name=outer]", "7½")
    page.fill("[name=inner]", "6")
    page.fill("[name=clear]", "50 ft")
    page.click("text=Cut from these")
    expect(page.locator("[role=alert]")).to_contain_text("between the faces")
    expect(page.locator("[name=outer]")).to_have_value("7½")
    for box in page.locator(".measured .btn, .measured input.form-control").all():
        assert box.bounding_box()["height"] >= 48


def test_words_are_whole_and_apart_on_the_phone(page, job):
    """Tabs uncut, each depth, length and auger named where no head stands over it, the words of two forces not on each other."""
    page.set_viewport_size({"width": 390, "height": 844})
    opened(page, f"{job}/stand")
    assert page.evaluate("[...document.querySelectorAll('[role=tab]')].every((t) => t.scrollWidth <= t.clientWidth)")
    boxes = page.evaluate(
        "[...document.querySelectorAll('#body text.force')].map((t) => t.getBBox()).map(({ x, y, width, height }) => ({ x, y, width, height }))"
    )
    assert len(boxes) >= 3
    for k, a in enumerate(boxes):
        for b in boxes[:k]:
            wide = min(a["x"] + a["width"], b["x"] + b["width"]) - max(a["x"], b["x"])
            high = min(a["y"] + a["height"], b["y"] + b["height"]) - max(a["y"], b["y"])
            assert wide <= 0 or high <= 0.01
    page.click("#tab-holes")
    named = "[...document.querySelectorAll('#panel-holes tbody tr:first-child td.num')].map((t) => getComputedStyle(t, '::before').content)"
    assert {"Deep", "Long", "Auger", "Pilot"} <= {
        "".join(c for c in word if c.isalpha()) for word in page.evaluate(named)
    }


def test_lows_are_filled_and_spacing_is_chosen_by_hand(page, server):
    address, scope = server
    job = jobs.create(scope, single_jobs()[-1])
    opened(page, f"{address}/jobs/{job}/stand#ground")
    panel = page.locator("#panel-ground")
    before = panel.locator("tbody tr").count()
    panel.locator("select").first.select_option("even")
    expect(said(page)).to_contain_text("fill")
    low = panel.locator("tbody tr", has_text="low").first
    expect(low).to_be_visible()
    low.locator("select").select_option("stone")
    expect(said(page)).to_contain_text("stone for lows", timeout=15_000)
    assert panel.locator("tbody tr").count() >= before
