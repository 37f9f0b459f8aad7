"""Many lines of one job in the browser: drawn, joined by dragging, mended together, undone, printed."""

import json

import pytest
from playwright.sync_api import expect

from gnomonic.core.job.reading import read_job
from gnomonic.demo.load import holm
from gnomonic.store import jobs


def ready(page):
    page.wait_for_selector("body[data-ready]")


def test_two_lines_drawn_joined_by_dragging_mended_together_undone_and_printed(page, server):
    address, scope = server
    page.goto(f"{address}/draw")
    ready(page)
    page.fill("#typed", "E 60 m")
    page.keyboard.press("Enter")
    expect(page.locator("#said")).to_contain_text("2 points")
    page.fill("#name", "Two lines")
    page.click("text=Save and measure on")
    page.wait_for_url("**/walk")
    ready(page)
    job = page.url.split("/jobs/")[1].split("/")[0]
    page.goto(f"{address}/jobs/{job}/lines")
    ready(page)
    expect(page.locator("#count")).to_contain_text("1 line, together 196 ft 10")
    page.click("text=Draw one more")
    ready(page)
    expect(page.locator("h1")).to_contain_text("Draw one more line for Two lines")
    box = page.locator("#plan .otherline").bounding_box()
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] - 60)
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] - 150)
    page.fill("#name", "Second")
    page.click("text=Save and measure on")
    page.wait_for_url("**/walk?line=B")
    ready(page)
    expect(page.locator("#lines")).to_have_value("B")
    peg, other = page.locator("#plan .peg.start").bounding_box(), page.locator("#plan .otherline").bounding_box()
    page.mouse.move(peg["x"] + 5, peg["y"] + 5)
    page.mouse.down()
    page.mouse.move(peg["x"] + 5, other["y"] - 20, steps=4)
    page.mouse.move(peg["x"] + 5, other["y"] + 1, steps=4)
    expect(page.locator("#plan .ghosttext")).to_contain_text("on Two lines")
    page.mouse.up()
    page.wait_for_selector("body[data-version]")
    expect(page.locator("#said.wrong")).to_have_count(0)
    (join,) = read_job(jobs.load(scope, job).document).joins
    assert (join.line, join.end, join.on) == ("B", "start", "A") and 25 < join.at_m < 35
    page.select_option("#lines", "A")
    page.wait_for_url("**/walk?line=A")
    ready(page)
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("m")
    for _ in range(12):
        page.keyboard.press("Shift+ArrowUp")
    page.keyboard.press("Enter")
    expect(page.locator("#undo")).to_be_enabled()
    expect(page.locator("#said")).to_contain_text("(with Second)")
    moved = read_job(jobs.load(scope, job).document)
    assert moved.line("A").measured.points[1].n_m > 5 and moved.line("B").measured.points[0].n_m > 2, "both moved"
    page.click("#undo")
    expect(page.locator("#said")).to_contain_text("undone")
    assert abs(read_job(jobs.load(scope, job).document).line("B").measured.points[0].n_m) < 0.01
    page.goto(f"{address}/jobs/{job}/lines")
    ready(page)
    expect(page.locator("#linelist")).to_contain_text("its start stands on Two lines")
    page.click("text=Take-off")
    expect(page.locator("#takeoff thead th")).to_have_text(["Item", "All lines", "A", "B"])
    page.go_back()
    ready(page)
    page.click("#printall")
    expect(page.locator(".linesheet h1")).to_have_text(["A Two lines", "B Second"])
    expect(page.locator("table", has_text="stands already: Two lines")).to_be_visible()


@pytest.fixture
def ground(page, server):
    address, scope = server
    job = jobs.create(scope, holm())
    page.goto(f"{address}/jobs/{job}/lines")
    ready(page)
    return page, scope, job


def head(scope, job):
    return read_job(jobs.load(scope, job).document)


def test_the_jobs_page_changes_its_lines(ground):
    page, scope, job = ground
    row = page.locator("[data-line=E]")
    row.locator("summary").click()
    row.get_by_label("Name of the line").fill("lower gully")
    row.get_by_role("button", name="Rename").click()
    expect(page.locator("[data-line=E] h3")).to_have_text("lower gully")
    row = page.locator("[data-line=E]")
    row.get_by_label("Name of the copy").fill("lane side")
    row.get_by_role("button", name="Copy").click()
    expect(page.locator("#said")).to_contain_text("two lines of this job are called lane side")
    row.get_by_label("How lower gully stands").select_option("temporary")
    expect(page.locator("[data-line=E] .linehead")).to_contain_text("for a time")
    page.locator("[data-line=D] summary").click()
    page.locator("[data-line=D]").get_by_role("button", name="Take hill boundary out").click()
    expect(page.locator("#said")).to_contain_text(
        "summer grazing would stand on a post of its own where hill boundary was"
    )
    page.click("text=Do it all the same")
    expect(page.locator("#count")).to_contain_text("8 lines")
    page.click("#undo")
    expect(page.locator("#count")).to_contain_text("9 lines")
    page.locator("[data-line=C]").get_by_role("button", name="part them").click()
    expect(page.locator(".meeting")).to_contain_text("The start of lane side lies 0 in from brook paddock.")
    page.click(".meeting >> text=Join them")
    expect(page.locator(".meeting")).to_have_count(0)
    assert len(head(scope, job).joins) == 8


def test_a_line_goes_to_another_job_and_back_by_undo(ground, server):
    page, scope, job = ground
    address, _ = server
    page.goto(f"{address}/draw")
    ready(page)
    page.fill("#typed", "E 60 m")
    page.keyboard.press("Enter")
    page.fill("#name", "Local metres")
    page.click("text=Save and measure on")
    page.wait_for_url("**/walk")
    page.goto(f"{address}/jobs/{job}/lines")
    ready(page)
    row = page.locator("[data-line=I]")
    row.locator("summary").click()
    row.get_by_label("Job it goes to").select_option(label="Local metres")
    row.get_by_role("button", name="Move").click()
    expect(page.locator("#said")).to_contain_text("came with longitude and latitude")
    assert len(head(scope, job).lines) == 9
    other = jobs.create(scope, holm().model_copy(update={"name": "Twin"}))
    page.reload()
    ready(page)
    row = page.locator("[data-line=I]")
    row.locator("summary").click()
    row.get_by_label("Job it goes to").select_option(other)
    row.get_by_role("button", name="Move").click()
    page.wait_for_url(f"**/jobs/{other}/lines")
    ready(page)
    expect(page.locator("#count")).to_contain_text("10 lines")
    assert len(head(scope, job).lines) == 8 and head(scope, other).lines[-1].name == "nursery beds 2"
    page.click("#undo")
    expect(page.locator("#count")).to_contain_text("9 lines")


def test_lines_of_a_file_become_one_job_and_one_more_line_of_a_job(page, server, tmp_path):
    address, scope = server
    lines = [[[-29.99, 47.0, 10], [-29.989, 47.0, 11]], [[-29.989, 47.0, 11], [-29.989, 47.0005, 12]]]
    shapes = [{"type": "Feature", "properties": {"name": f"side {k}"}, "geometry": {"type": "LineString", "coordinates": c}} for k, c in enumerate(lines)]  # fmt: skip
    (tmp_path / "two.geojson").write_text(json.dumps({"type": "FeatureCollection", "features": shapes}))
    page.goto(f"{address}/bring-in")
    page.set_input_files("#file", tmp_path / "two.geojson")
    page.click("text=Look at it >> nth=0")
    page.check("input[name=all]")
    page.click("text=Save and set it out")
    ready(page)
    expect(page.locator("#count")).to_contain_text("2 lines")
    expect(page.locator(".meeting")).to_contain_text("The end of side 0 lies 0 in from side 1.")
    job = page.url.split("/jobs/")[1].split("/")[0]
    page.click("text=Bring one in")
    page.fill("#legs", "N 4 E 40 m +1 m\nN 8 E 30 m")
    page.click("text=Look at it >> nth=1")
    page.click("text=Save and set it out")
    expect(page.locator(".refusal")).to_contain_text("say on which post of which line it starts")
    page.select_option("select[name=start]", index=1)
    page.fill("input[name=name]", "third")
    page.click("text=Save and set it out")
    ready(page)
    assert page.url.endswith("?line=C")
    third = head(scope, job)
    assert third.joins[-1].line == "C" and third.joins[-1].on == "A"
    first = third.line("A").measured.points[0]
    assert third.line("C").measured.points[0].h_m == pytest.approx(first.h_m, abs=1e-3)


def test_a_line_is_picked_on_the_map_and_one_that_stands_already_is_not(ground, server):
    page, _, job = ground
    address, _ = server
    page.goto(f"{address}/jobs/{job}?line=B")
    ready(page)
    expect(page.locator("#jobname")).to_have_text("Larkspur Holm")
    line = page.locator("#map .otherline").nth(8 - 1).bounding_box()  # nursery beds, a ring
    page.mouse.click(line["x"] + line["width"] / 2, line["y"])
    page.wait_for_url("**?line=I")
    ready(page)
    expect(page.locator("#lines")).to_have_value("I")
    page.goto(f"{address}/jobs/{job}/lines")
    ready(page)
    page.locator("[data-line=E] summary").click()
    page.get_by_label("How gully fence stands").select_option("there")
    expect(page.locator("[data-line=E] .linefacts")).to_contain_text("nothing is planned on it")
    answer = page.request.get(f"{address}/jobs/{job}?line=E")
    assert answer.status == 422 and "ully fence stands already: nothing is planned on it" in answer.text()
    assert page.request.get(f"{address}/jobs/{job}?line=Q").status == 404
