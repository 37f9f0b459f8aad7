"""Walk in the browser: mending by mouse and keys, the field book, finds, grids, the rover, the request for marks."""

import re

import pytest
from playwright.sync_api import expect

from gnomonic.core.job.fence import one_line
from gnomonic.formats.bring_in import bring_in
from gnomonic.store import jobs

FIELD = b"easting (m),northing (m),height (m)\n0,0,5\n60,0,5.5\n60,40,6\n0,40,5\n"


@pytest.fixture
def walk(page, server, request):
    """The Walk page of a small field, in metres; open unless the test asks for a closed one."""
    address, scope = server
    page.goto(address)
    page.evaluate("localStorage.setItem('units', 'metric')")
    line = bring_in("f.csv", FIELD, {"closed": getattr(request, "param", "no")}).line
    page.goto(f"{address}/jobs/{jobs.create(scope, one_line('Field', line))}/walk")
    page.wait_for_selector("body[data-ready]")
    return page


def said(page):
    return page.locator("#said")


def points(page):
    page.wait_for_load_state("networkidle")
    return page.evaluate(
        "fetch(location.pathname.replace('/jobs', '/api/v1/jobs')).then(r => r.json()).then(w => w.points)"
    )


def spot(page, k):
    """Where a point is drawn."""
    box = page.locator("#plan .peg").nth(k).bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def drag(page, start, end):
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move((start[0] + end[0]) / 2, (start[1] + end[1]) / 2, steps=3)
    page.mouse.move(*end, steps=3)
    page.mouse.up()


def test_a_point_is_dragged_and_comes_back(walk):
    x, y = spot(walk, 1)
    drag(walk, (x, y), (x + 40, y + 55))
    expect(said(walk)).not_to_have_text("")
    expect(walk.locator("body")).to_have_attribute("data-version", re.compile(r"\d+"))
    moved = points(walk)[1]
    assert moved[0] > 62 and moved[1] < -3 and moved[4] == "drawn"
    walk.keyboard.press("Control+z")
    expect(said(walk)).to_contain_text("undone")
    assert points(walk)[1][:2] == [60, 0]


def test_a_place_near_a_right_angle_snaps_to_it(walk):
    x, y = spot(walk, 2)
    drag(walk, (x, y), (x + 3, y - 60))
    expect(said(walk)).not_to_have_text("")
    moved = points(walk)[2]
    assert moved[0] == pytest.approx(60, abs=1e-3) and moved[1] > 44, "square to the leg before"


def test_splitting_joining_taking_out_and_moving_by_keys(walk):
    (x0, y0), (x1, y1) = spot(walk, 0), spot(walk, 1)
    walk.mouse.dblclick((x0 + x1) / 2, (y0 + y1) / 2)
    expect(walk.locator("#plan .peg")).to_have_count(5)
    assert points(walk)[1][0] == pytest.approx(30, abs=0.6)
    walk.locator("#plan").focus()
    for _ in range(2):
        walk.keyboard.press("ArrowRight")
    expect(walk.locator("#pane h2").first).to_contain_text("Point 2")
    walk.keyboard.press("m")
    for key in ("ArrowUp", "ArrowUp", "Shift+ArrowUp", "Enter"):
        walk.keyboard.press(key)
    expect(walk.locator("#pane tr.picked").first).to_contain_text("drawn on the map")
    assert points(walk)[1][1] == pytest.approx(1.2, abs=0.01)
    walk.keyboard.press("j")
    expect(walk.locator("#plan .peg")).to_have_count(4)
    walk.keyboard.press("Delete")
    expect(walk.locator("#plan .peg")).to_have_count(3)
    walk.locator("#undo").click()
    expect(walk.locator("#plan .peg")).to_have_count(4)


def test_running_the_line_on_by_mouse_and_by_typed_legs(walk):
    walk.click("text=Run on")
    expect(said(walk)).to_contain_text("Click where the line runs on")
    walk.fill("#typed", "N 0 E 25 m  +1 m")
    walk.keyboard.press("Enter")
    expect(walk.locator("#plan .peg")).to_have_count(5)
    assert points(walk)[4][:3] == pytest.approx([0, 65, 6], abs=1e-3)
    walk.fill("#typed", "square left 10 m")
    walk.locator("#typed").press("Enter")
    expect(walk.locator("#plan .peg")).to_have_count(6)
    assert points(walk)[5][:2] == pytest.approx([-10, 65], abs=1e-3)
    walk.fill("#typed", "N 95 E 10 m")
    walk.locator("#typed").press("Enter")
    expect(said(walk)).to_contain_text("beyond 90 degrees")
    box = walk.locator("#plan").bounding_box()
    walk.mouse.click(box["x"] + 60, box["y"] + box["height"] - 90)
    expect(walk.locator("#plan .peg")).to_have_count(7)


def test_the_field_book_is_read_as_it_is_written(walk):
    walk.click("[data-tab=book]")
    walk.fill("#booktext", "N 0 E 100 m @ gate\nE 100 m\nS 100 m\nW 70 m\nclose")
    expect(walk.locator("#understood")).to_contain_text("a tape of 30 m not counted?")
    expect(walk.locator("#understood")).to_contain_text("1:12")
    walk.fill("#booktext", "N 400 E 5 m")
    expect(walk.locator("#understood .refusal")).to_contain_text("line 1:")
    walk.fill("#booktext", "N 0 E 100 m @ gate\nE 100 m\nS 100.2 m\nW 99.9 m\nclose")
    expect(walk.locator("#understood")).to_contain_text("1:1789")
    walk.check("#adjust")
    with walk.expect_response("**/edits*"):
        walk.click("text=Replace the line by it")
    expect(walk.locator("#plan .peg")).to_have_count(4)
    assert points(walk)[1][:4] == [pytest.approx(-0.024994), pytest.approx(100.049988), 0, "gate"]
    expect(walk.locator("#pane")).to_contain_text("Read it into the line")


@pytest.mark.parametrize("walk", ["yes"], indirect=True)
def test_finds_are_noted_by_station_and_on_the_plan(walk):
    walk.click("[data-tab=found]")
    walk.select_option("#find-kind", "rock")
    walk.fill("#find-from", "25 m")
    walk.fill("#find-to", "26")
    walk.fill("#find-name", "ledge")
    walk.click("text=Note it")
    expect(walk.locator(".finds")).to_contain_text("Rock: ledge 24.85 m to 26.15 m")
    expect(walk.locator("#strip .thing.ground")).to_have_count(1)
    walk.select_option("#find-kind", "internal")
    walk.click("text=or on the plan")
    (x0, y0), (x2, y2) = spot(walk, 0), spot(walk, 2)
    walk.mouse.click((x0 + x2) / 2, y0)
    walk.mouse.click((x0 + x2) / 2, y2)
    expect(walk.locator("#pane")).to_contain_text("2 places on the plan")
    walk.click("text=Note it")
    expect(walk.locator("#plan .regionname")).to_have_count(2)
    walk.click("[data-tab=ground]")
    expect(walk.locator("#pane")).to_contain_text("Part A")
    walk.click("[data-tab=found]")
    walk.locator(".finds button").first.click()
    expect(walk.locator("#strip .thing.ground")).to_have_count(0)
    walk.fill("#find-from", "900 m")
    walk.click("text=Note it")
    expect(said(walk)).to_contain_text("beyond the line's end")
    expect(walk.locator("#find-from")).to_have_value("900 m")  # nothing typed is lost


def test_heights_pasted_and_laid_from_a_grid(walk, readers, tmp_path):
    walk.click("text=Paste a column of heights")
    walk.fill("#pane textarea", "5\n5.5\n6")
    walk.click("text=Set the heights")
    expect(said(walk)).to_contain_text("3 heights for 4 points")
    walk.fill("#pane textarea", "5\n5.5\n6\n7.25")
    walk.click("text=Set the heights")
    expect(walk.locator("body")).to_have_attribute("data-version", re.compile(r"\d+"))
    assert [p[2] for p in points(walk)] == [5, 5.5, 6, 7.25]
    grid = tmp_path / "hills.asc"
    rows = "\n".join(" ".join(str(r + c % 3) for c in range(20)) for r in range(14))
    grid.write_text(f"ncols 20\nnrows 14\nxllcorner -10\nyllcorner -10\ncellsize 5\n{rows}\n")
    walk.click("[data-tab=ground]")
    walk.set_input_files("#gridfile", grid)
    walk.click("text=Lay it under the line")
    expect(said(walk)).to_contain_text("does not say what its coordinates are")
    walk.click("text=the same metres as the line’s")
    expect(said(walk)).to_contain_text("heights from a grid of 5.00 m cells", timeout=20_000)
    expect(walk.locator("#pane")).to_contain_text("can't see ditches and ruts narrower than 10.00 m")


def test_asking_for_marks_to_a_plan_that_may_be_dug(walk):
    expect(walk.locator("#dig")).to_contain_text("Do not dig")
    walk.click("#dig a")
    walk.wait_for_selector("body[data-ready]")
    expect(walk.locator(".statebox")).to_contain_text("Not asked yet")
    with walk.expect_navigation():
        walk.click("#ask")
    expect(walk.locator(".statebox")).to_contain_text("the marks are not in")
    walk.wait_for_selector("body[data-ready]")
    walk.click("#look")
    expect(said(walk)).to_contain_text("not in yet")
    with walk.expect_navigation():
        walk.click("text=Drop the request")
    expect(walk.locator(".statebox")).to_contain_text("Not asked yet")


def test_a_walk_with_the_practice_rover(page, server):
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{server[0]}/rover")
    page.fill("[name=speed]", "4")
    page.click("text=Walk with the practice rover >> nth=-1")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#quality")).to_have_text("Fixed")
    page.fill("#seconds", "0.5")
    page.fill("#name", "yard corner")
    page.locator("[data-kind=corner]").click()
    expect(page.locator("#marks")).to_contain_text("1 yard corner")
    expect(page.locator("[data-kind=corner]")).to_be_enabled()
    page.locator("#quality").click()
    page.keyboard.press("3")
    expect(page.locator("#marks")).to_contain_text("2 Rock")
    for button in page.locator(".markers button, .walkform .btn").all():
        assert button.bounding_box()["height"] >= 48
    page.reload()
    expect(page.locator("#marks")).to_contain_text("2 Rock")  # nothing is lost with the page
    expect(page.locator("#trail .trail")).to_have_attribute("d", re.compile("L"))
    expect(page.locator("#counts")).to_contain_text(re.compile(r"1\d\d fixes kept"), timeout=20_000)
    page.click("text=Bring this walk in as a line")
    expect(page.locator("main")).to_contain_text("Marked on the way: rock")
    page.click("text=Save and go on measuring")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#plan .pegname", has_text="yard corner")).to_have_count(1)
    page.goto(f"{server[0]}/rover")
    page.click("table a >> nth=0")
    page.wait_for_selector("body[data-ready]")
    page.click("text=Pause")
    expect(page.locator("text=Go on walking")).to_be_visible()


def test_a_leg_on_its_way_is_taken_once_and_not_left_behind(page, server):
    """Enter twice and Save at once, while the reader of legs is slow: each leg once, and saved with the line."""
    page.goto(f"{server[0]}/draw")
    page.wait_for_selector("body[data-ready]")
    page.route("**/api/v1/book", lambda route: (page.keyboard.press("Enter"), route.continue_()), times=1)
    page.fill("#typed", "E 60 m")
    page.keyboard.press("Enter")
    expect(page.locator("#typed")).to_have_value("")
    page.fill("#typed", "N 0 E 40 m")
    page.fill("#name", "In haste")
    page.click("text=Save and measure on")
    page.wait_for_url("**/walk")
    page.wait_for_selector("body[data-ready]")
    assert [p[:2] for p in points(page)] == [[0, 0], [60, 0], [60, 40]]


def test_a_leg_typed_before_the_last_one_is_drawn_begins_where_that_ends(walk):
    walk.click("text=Run on")

    def meanwhile(route):
        walk.fill("#typed", "square left 10 m")
        walk.locator("#typed").press("Enter")
        route.continue_()

    walk.route(re.compile(r"/api/v1/jobs/\w+(/lines/\w+)?/walk"), meanwhile, times=1)
    walk.fill("#typed", "N 0 E 25 m")
    walk.locator("#typed").press("Enter")
    expect(walk.locator("#plan .peg")).to_have_count(6)
    assert points(walk)[5][:2] == pytest.approx([-10, 65], abs=1e-3)


def test_where_the_walk_as_it_is_now_does_not_come_that_is_said_and_no_leg_is_hung_on_the_old_one(walk):
    walk.click("text=Run on")
    walk.route(re.compile(r"/api/v1/jobs/\w+(/lines/\w+)?/walk"), lambda route: route.fulfill(status=503, json={"detail": "It is away."}), times=1)  # fmt: skip
    walk.fill("#typed", "N 0 E 25 m")
    walk.locator("#typed").press("Enter")
    expect(said(walk)).to_contain_text("It is away. What stands here is of before.")
    walk.fill("#typed", "square left 10 m")
    walk.locator("#typed").press("Enter")
    expect(said(walk)).to_contain_text("load the page anew, then type the leg")
    expect(walk.locator("#typed")).to_have_value("square left 10 m")
    assert len(points(walk)) == 5


def test_an_answer_that_breaks_off_leaves_what_became_of_it_open_and_the_page_alive(walk):
    """The head of an answer came and the line broke: asked again under the same key, done once, and the next change goes on."""
    keys = []
    walk.on("request", lambda r: keys.append(r.headers["idempotency-key"]) if r.method == "POST" and "/edits" in r.url else None)  # fmt: skip
    walk.evaluate("""() => {
      const whole = window.fetch;
      window.fetch = async (...asked) => {
        const answer = await whole(...asked);
        if (!String(asked[0]).includes("/edits")) return answer;
        window.fetch = whole;
        return new Response(new ReadableStream({ start: (way) => way.error(new TypeError("broke off")) }));
      };
    }""")
    walk.click("text=Run on")
    for leg, count in (("N 0 E 25 m", 5), ("square left 10 m", 6)):
        walk.fill("#typed", leg)
        walk.locator("#typed").press("Enter")
        expect(walk.locator("#plan .peg")).to_have_count(count)
    assert points(walk)[5][:2] == pytest.approx([-10, 65], abs=1e-3)
    assert keys[0] == keys[1] != keys[2] and len(keys) == 3


def test_drawing_a_line_on_empty_ground(page, server):
    page.goto(f"{server[0]}/draw")
    page.wait_for_selector("body[data-ready]")
    for leg in ("N 0 E 100 ft", "square right 80 ft", "square right 100 ft"):
        page.fill("#typed", leg)
        page.locator("#typed").press("Enter")
        expect(page.locator("#typed")).to_have_value("")
    page.fill("#typed", "nonsense")
    page.locator("#typed").press("Enter")
    expect(page.locator("#said")).to_contain_text("does not begin with a bearing")
    page.click("#close")
    expect(page.locator("#said")).to_contain_text("280 ft and the leg that closes it")
    page.fill("#name", "Pen")
    page.click("text=Save and measure on")
    expect(page.locator("#said")).to_have_text("“nonsense” is no leg of the line yet: mend it or clear it, then save.")
    page.fill("#typed", "")
    page.click("text=Save and measure on")
    page.wait_for_url("**/walk")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#pane")).to_contain_text("4 legs, 360 ft")
    expect(page.locator("#pane")).to_contain_text("drawn on the map")


def test_a_file_of_several_lines_is_chosen_in_the_preview(page, server, tmp_path):
    mark = "<Placemark><name>{}</name><LineString><coordinates>{}</coordinates></LineString></Placemark>"
    lines = mark.format("west", "-30,47 -29.999,47") + mark.format("east", "-30,47.001 -29.998,47.001")
    file = tmp_path / "edges.kml"
    file.write_text(f'<kml xmlns="http://www.opengis.net/kml/2.2"><Document>{lines}</Document></kml>')
    page.goto(f"{server[0]}/bring-in")
    page.set_input_files("#file", file)
    page.click("text=Look at it >> nth=0")
    expect(page.locator("#preview-map .other")).to_have_count(1)
    page.select_option("select[name=shape]", "2")
    page.click("text=Look at that one")
    expect(page.locator("main")).to_contain_text("Line 2 of 2 in the file taken: east")
    page.click("text=Save and set it out")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#snags")).to_contain_text("The line has no heights")
