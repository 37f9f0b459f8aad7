"""Pull by mouse, keys and thumb: the season slid, another way taken, the day said, the sheet carried."""

import re

import pytest
from playwright.sync_api import expect
from zigzag import zigzag

from gnomonic.demo.load import single_jobs
from gnomonic.store import jobs


@pytest.fixture
def job(server):
    address, scope = server
    return f"{address}/jobs/{jobs.create(scope, single_jobs()[-1])}"


@pytest.fixture
def bent(server):
    address, scope = server
    return f"{address}/jobs/{jobs.create(scope, zigzag())}"


def opened(page, address):
    page.goto(address)
    page.wait_for_selector("body[data-ready]")
    return page


def pounds(text):
    return int(re.search(r"(\d+) lb", text).group(1))


def test_the_season_is_slid_and_the_tension_follows(page, job):
    opened(page, f"{job}/pull")
    expect(page.locator("#strip .lane.tension .pullnow")).not_to_have_count(0)
    page.click("text=coldest on record")
    expect(page.locator("#warmsaid")).to_contain_text("3 °F")
    cold = pounds(page.locator("#warmsaid").inner_text())
    before = page.locator("#strip .lane.tension .pullnow").first.get_attribute("d")
    page.click("text=hottest on record")
    expect(page.locator("#warmsaid")).to_contain_text("99 °F")
    assert pounds(page.locator("#warmsaid").inner_text()) < cold
    expect(page.locator("#strip .lane.tension .pullnow").first).not_to_have_attribute("d", before)
    page.locator("#warm").focus()
    page.keyboard.press("ArrowLeft")
    expect(page.locator("#warmsaid")).to_contain_text("97 °F")


def test_another_way_is_taken_and_the_lane_shows_its_splice(page, bent):
    opened(page, f"{bent}/pull")
    expect(page.locator("#runs .bad")).to_have_count(1)
    expect(page.locator("#panel-ways")).to_contain_text("leaves a part of the run slack")
    row = page.locator(".waystable tbody tr", has_text="rolls cut anew").filter(has_not_text="braced post").first
    row.locator("button").click()
    expect(page.locator(".waystable tr.now")).to_contain_text("as you said")
    expect(page.locator("#strip .lane.tension .splice")).to_have_count(1)
    page.click("text=Take the best again")
    expect(page.locator(".waystable tr.now")).to_contain_text("taken")
    # ended at a bend: two runs and more, each with its own pull
    page.locator(".waystable tbody tr", has_text="1 braced post").first.locator("button").click()
    expect(page.locator("#runs button")).to_have_count(2)
    expect(page.locator("#runs .bad")).to_have_count(0)


def test_the_day_the_climate_and_the_pullers_are_said(page, job):
    opened(page, f"{job}/pull#figures")
    was = page.locator("#panel-figures").inner_text()
    page.fill("[name=temp]", "86")
    page.keyboard.press("Tab")
    expect(page.locator("#panel-figures")).to_contain_text("at 86 °F")
    assert page.locator("#panel-figures").inner_text() != was
    page.fill("[name=temp]", "-40")
    page.keyboard.press("Tab")
    expect(page.locator("#said")).to_have_class("said wrong")
    expect(page.locator("#said")).to_contain_text("colder than the record")
    expect(page.locator("#panel-figures")).to_contain_text("at 86 °F")
    page.fill("[name=temp]", "warm")
    page.keyboard.press("Tab")
    expect(page.locator("#said")).to_contain_text("is not a temperature")
    page.click("text=take the forecast")
    expect(page.locator(".dayfrom")).to_contain_text("forecast, made up")
    page.select_option("[name=puller]", "strap")
    page.select_option("[name=pullers]", "1")
    expect(page.locator("#panel-figures")).to_contain_text("1 × ratchet strap")
    page.select_option("[name=climate]", "subarctic")
    expect(page.locator("#warm")).to_have_attribute("min", "-48")
    page.click("text=coldest on record")
    expect(page.locator("#warmsaid")).to_contain_text("−54 °F")


def test_runs_by_keys_tabs_and_metres(page, job):
    opened(page, f"{job}/pull")
    page.locator("#strip").focus()
    page.keyboard.press("ArrowRight")
    expect(page.locator("#runs [aria-current=true]")).to_contain_text("Run 2")
    page.keyboard.press("u")
    expect(page.locator("#pullask")).to_contain_text("Temperature, °C")
    for tab, words in (
        ("order", "In this order"),
        ("figures", "Left along it"),
        ("gear", "dummy brace"),
        ("year", "month by month"),
    ):
        page.click(f"#tab-{tab}")
        expect(page.locator(f"#panel-{tab}")).to_contain_text(words)
    expect(page.locator("#yearview .yearband")).to_have_count(12)
    page.keyboard.press("3")
    page.wait_for_selector("#snags")


@pytest.mark.parametrize("units", ["us", "metric"])
def test_on_a_phone(page, job, units):
    page.set_viewport_size({"width": 390, "height": 844})
    opened(page, f"{job}/pull")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    small = "[...document.querySelectorAll('main button, main select, main input')].filter(n => n.offsetParent && n.getBoundingClientRect().height < 47.5).map(n => n.outerHTML.slice(0, 80))"
    assert page.evaluate(small) == []
    opened(page, f"{job}/pull-sheet?run=1&units={units}")
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    expect(page.locator("article")).to_contain_text("In this order")
    expect(page.locator("article")).to_contain_text("°F" if units == "us" else "°C")
    expect(page.locator("#bar .pullbarline")).to_have_count(1)
    expect(page.locator("#year .yearband")).to_have_count(12)


def test_hang_says_what_rolls_are_sold_and_where_no_splice_is_made(page, job):
    opened(page, f"{job}#hang")
    expect(page.locator("#rolls")).to_contain_text("rolls")
    page.fill("[aria-label^='Other lengths']", "165 ft")
    page.keyboard.press("Tab")
    expect(page.locator("[aria-label^='Other lengths']")).to_have_value("165 ft", timeout=15000)
    expect(page.locator("#said")).not_to_have_class("said wrong")
    whole = page.locator("[aria-label^='Stretches']")
    whole.fill("here to there")
    page.keyboard.press("Tab")
    expect(page.locator("#said")).to_contain_text("is not a stretch: write it like 120 ft to 180 ft")
    whole.fill("500 ft to 560 ft")
    page.keyboard.press("Tab")
    expect(page.locator("[aria-label^='Stretches']")).to_have_value("500 ft to 560 ft", timeout=15000)
    expect(page.locator("#said")).to_have_class("said", timeout=15000)
    page.locator(".laying summary").click()
    expect(page.locator(".laying li").first).to_contain_text("set it down at")
