"""The road a user takes, with real clicks and keys: bring in, plan, edit, undo, take out."""

from pathlib import Path

from playwright.sync_api import expect

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.units import format_quantity
from gnomonic.demo.load import single_jobs
from gnomonic.store import jobs

DEMO = Path(__file__).parents[2] / "src" / "gnomonic" / "demo"


def said(page):
    return page.locator("#said")


def set_bay(page, text):
    page.fill("#d-longest_bay_m", text)
    page.keyboard.press("Enter")


def test_from_a_file_to_the_sheets(page, server):
    page.goto(f"{server[0]}/bring-in")
    page.set_input_files("#file", DEMO / "brook-paddock.gpx")
    page.click("text=Look at it >> nth=0")
    expect(page.locator("main")).to_contain_text("2351 ft 1 in")
    expect(page.locator("main")).to_contain_text("The line closes exactly")
    page.fill("input[name=name]", "Brook <i>paddock</i>")
    page.click("text=Save and set it out")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#jobname")).to_have_text("Brook <i>paddock</i>")
    page.click("#tab-tag")
    expect(page.locator("#tag")).to_contain_text("The whole line")
    posts = page.locator("#tag .fact", has_text="Posts").locator("dd").first.inner_text()
    set_bay(page, "12 ft")
    expect(said(page)).to_contain_text("posts")
    expect(page.locator("#tag .fact", has_text="Posts").locator("dd").first).not_to_have_text(posts)
    page.keyboard.press("Escape")
    page.locator("#strip").focus()
    page.keyboard.press("Control+z")
    expect(said(page)).to_contain_text("undone: +")
    expect(page.locator("#tag .fact", has_text="Posts").locator("dd").first).to_have_text(posts)
    page.keyboard.press("Control+Shift+Z")
    expect(said(page)).to_contain_text("done again: −")
    page.reload()
    page.wait_for_selector("body[data-ready]")
    page.click("#undo")
    expect(said(page)).to_contain_text("undone")
    page.keyboard.press("6")
    page.wait_for_selector("#takeoff tbody")
    for words, ending in (
        ("Stake-out, CSV", "-stake-out.csv"),
        ("The Job, JSON", ".json"),
        ("Posts, GPX", "-posts.gpx"),
    ):
        with page.expect_download() as download:
            page.click(f"text={words}")
        assert download.value.suggested_filename.endswith(ending) and Path(download.value.path()).stat().st_size > 1000
    page.click("text=Sheet to print")
    expect(page.locator("h1")).to_have_text("Brook <i>paddock</i>")
    expect(page.locator(".stake tbody tr")).to_have_count(int(posts.split()[0]))
    expect(page.locator(".strip .tape")).to_be_attached()


def test_a_refused_file_says_why_and_keeps_what_was_typed(page, server):
    page.goto(f"{server[0]}/bring-in")
    page.fill("#legs", "N 4 E 12 m\nN 95 E 3 m")
    page.click("text=Look at it >> nth=1")
    expect(page.locator("[role=alert]")).to_contain_text("Line 2: “N 95 E 3 m” has a quadrant bearing beyond 90")
    assert page.input_value("#legs") == "N 4 E 12 m\nN 95 E 3 m"


def test_keys_go_from_post_to_post_and_snag_to_snag(surface):
    surface.locator("#strip").focus()
    surface.keyboard.press("ArrowRight")
    expect(surface.locator("#tag h2")).to_have_text("Corner post 1")
    surface.keyboard.press("ArrowRight")
    expect(surface.locator("#tag h2")).to_have_text("Brace post 2")
    expect(surface.locator("#tag .station")).to_have_text("8 ft")
    surface.keyboard.press("u")
    expect(surface.locator("#tag .station")).to_have_text("2.44 m")
    surface.keyboard.press("ArrowLeft")
    expect(surface.locator("#tag h2")).to_have_text("Corner post 1")
    why = surface.locator("#tag .fact", has_text="Lifts this post").locator("button").first
    why.click()
    expect(surface.locator("#tag .because:visible")).to_contain_text("H·hp/l")
    surface.keyboard.press("Shift+ArrowRight")
    expect(surface.locator("#snags li.chosen .place")).to_contain_text("services")
    surface.keyboard.press("Shift+ArrowRight")
    expect(surface.locator("#snags li.chosen .place")).to_contain_text("under the wire")
    surface.keyboard.press("/")
    surface.keyboard.type("100 m")
    surface.keyboard.press("Enter")
    expect(surface.locator("#tag .station")).to_contain_text("m")
    surface.keyboard.press("?")
    expect(surface.locator("#help")).to_be_visible()
    surface.keyboard.press("Escape")
    surface.reload()
    surface.wait_for_selector("body[data-ready]")
    expect(surface.locator("#units")).to_have_text("metres")


def test_a_remedy_shows_its_price_and_takes_it(surface):
    surface.click("#tab-snags")
    surface.locator("#snags .place", has_text="bays are steeper").click()
    for _ in range(9):  # to the next that a post mends
        surface.keyboard.press("Shift+ArrowRight")
        if surface.locator(".chosen .remedy", has_text="post in the dip").count():
            break
    surface.wait_for_selector(".price.waiting", state="detached")
    remedy = surface.locator(".chosen .remedies > div", has_text="post in the dip")
    price = remedy.locator(".price").inner_text()
    assert price
    remedy.locator(".remedy").click()
    expect(said(surface)).to_have_text(price)


def test_prices_are_weighed_anew_and_decisions_shown_as_read_after_an_edit_that_changed_neither(surface):
    surface.click("#tab-snags")
    surface.locator("#snags .place", has_text="under the wire at 1538").click()
    surface.wait_for_selector(".price.waiting", state="detached")
    with surface.expect_response("**/weigh*"):
        set_bay(surface, "120 in")  # what it is, in other words
    expect(surface.locator("#d-longest_bay_m")).to_have_value("10 ft")
    expect(surface.locator("#snags li.chosen .price").first).not_to_have_text("…")


def test_dragging_a_post_moves_it_and_shift_drag_forbids(surface):
    surface.locator("#strip").focus()
    surface.fill("#station", "640 ft")
    surface.keyboard.press("Enter")
    box = surface.locator("#strip").bounding_box()
    place = "(s) => { const d = s.querySelector('.over .chosen'); return Number(d.getAttribute('x1')); }"
    x = surface.locator("#strip").evaluate(place)
    y = box["y"] + surface.locator("#strip .lane.posts").evaluate("g => g.transform.baseVal[0].matrix.f") + 18
    surface.mouse.move(box["x"] + x, y)
    surface.mouse.down()
    surface.mouse.move(box["x"] + x + 14, y, steps=4)
    surface.mouse.up()
    expect(surface.locator("#undo")).to_be_enabled()
    expect(surface.locator("#tag")).to_contain_text("Let this post go where it costs least")
    surface.keyboard.down("Shift")
    surface.mouse.move(box["x"] + x + 60, box["y"] + 80)
    surface.mouse.down()
    surface.mouse.move(box["x"] + x + 95, box["y"] + 80, steps=4)
    surface.mouse.up()
    surface.keyboard.up("Shift")
    expect(surface.locator("#strip .lane.posts .forbidden")).to_have_count(1)


def test_gates_are_added_and_closed_from_the_tag(surface):
    surface.keyboard.press("ArrowRight")
    expect(surface.locator("#tag h2")).to_have_text("Corner post 1")
    form = surface.locator("#tag form", has_text="Gate from")
    form.locator("input").nth(0).fill("700 ft")
    form.locator("input").nth(1).fill("12 ft 3 in")
    form.locator("input").nth(2).fill("hay gate")
    with surface.expect_response("**/tag?*"):
        form.locator("button").click()
    expect(said(surface)).to_contain_text("+1 gate")
    expect(surface.locator("#map")).to_contain_text("hay gate")
    form = surface.locator("#tag form", has_text="Gate from")
    form.locator("input").nth(0).fill("9000 ft")
    form.locator("button").click()
    expect(said(surface)).to_contain_text("beyond the line's end")


def test_a_wrong_number_is_refused_in_place(surface):
    set_bay(surface, "12,5 m")
    expect(said(surface)).to_contain_text("write decimals with a point")
    assert surface.input_value("#d-longest_bay_m") == "12,5 m"
    expect(surface.locator("#undo")).to_be_disabled()


def test_two_windows(surface, context):
    other = context.new_page()
    other.goto(surface.url)
    other.wait_for_selector("body[data-ready]")
    set_bay(surface, "11 ft")
    expect(said(surface)).to_contain_text("posts")
    other.fill("#d-wood_every", "4")
    other.keyboard.press("Enter")
    expect(said(other)).to_contain_text("changed in another window")
    other.click("text=Show it as it is now, and do mine again")
    expect(other.locator("#d-wood_every")).to_have_value("4")
    expect(other.locator("#d-longest_bay_m")).to_have_value("11 ft")
    expect(said(other)).to_contain_text("wood posts")


def test_the_page_prints_quantities_as_the_core_does(surface):
    rows = [
        [v, k]
        for k in ("station", "cut", "gap", "depth")
        for v in (0, 0.0127, -0.05, 0.3048, 0.61, 1.2345, 99.9996, 716.6159)
    ]
    rows += [[v, "force"] for v in (3.0, 994.9, 1500.4, 7787.2)] + [
        [0.153, "area"],
        [0.123, "grade"],
        [93.4, "angle"],
        [3, "count"],
        *([v, k] for v in (0.5, 1.5, 2.5, -2.5, 0.125, 0.375) for k in ("count", "angle")),
        *(
            [v, k]
            for v in (0.125, 0.005, 0.015, -0.025)
            for k in ("area", "grade", "share", "strain", "volume", "land")
        ),
        *([v, "force"] for v in (22.2411080763, 15.0, 25.0, -1500.0)),
        [40.0, "warmth"],
        [-16.4, "temperature"],
    ]
    module = surface.evaluate("document.querySelector('script[type=module]').src").replace(
        "set/set.js", "static/units.js"
    )
    script = "async ([module, rows, system]) => { const u = await import(module); u.setUnits(system); return rows.map(([v, k]) => u.quantity(v, k)); }"
    for system in ("us", "metric"):
        assert surface.evaluate(script, [module, rows, system]) == [format_quantity(v, k, system) for v, k in rows]
    typed = "async ([module, texts, bare]) => { const u = await import(module); return texts.map((t) => u.parseLength(t, bare)); }"
    stations = [k * 0.0127 for k in range(0, 20000, 97)]
    for system, bare, step in (("us", "ft", 0.00636), ("metric", "m", 0.00501)):
        printed = [format_quantity(s, "station", system) for s in stations]
        read = surface.evaluate(typed, [module, printed, bare])
        assert all(abs(r - s) <= step for r, s in zip(read, stations, strict=True))
    odd = ["164 ft ½ in", "383' 4\"", "12½ ft", "36.5 m", "120", "1/2 in", "", "ft", "5 in 3 ft", "3 potatoes"]
    metres = [50.0, 116.84, 3.81, 36.5, 36.576, 0.0127, None, None, None, None]
    for r, m in zip(surface.evaluate(typed, [module, odd, "ft"]), metres, strict=True):
        assert (r is None) == (m is None) and (m is None or abs(r - m) < 1e-3)


def test_a_station_goes_to_where_the_page_prints_it(surface):
    surface.fill("#station", "164 ft ½ in")
    surface.press("#station", "Enter")
    expect(surface.locator("#tag h2")).to_contain_text("ost ")
    assert "wrong" not in (surface.locator("#said").get_attribute("class") or "")


def test_what_an_edit_of_the_line_would_lose_is_named_and_asked_first(page, server):
    address, scope = server
    job = next(j for j in single_jobs() if "nursery" in j.name)
    job = apply(job, read_edit({"do": "forbid", "from_m": 5.0, "to_m": 8.0, "reason": "well"}))
    page.goto(f"{address}/jobs/{jobs.create(scope, job)}/walk")
    page.wait_for_selector("body[data-ready]")
    gates = len(job.lines[0].gates)
    page.focus("#plan")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Delete")
    expect(page.locator("#said")).to_contain_text("bed gate at 39 ft 4½ in would move by")
    page.click("text=Do it all the same")
    expect(page.locator("#undo")).to_be_enabled()
    page.wait_for_function("() => !document.querySelector('#said').classList.contains('wrong')")
    page.click("#undo")
    expect(page.locator("#said")).to_contain_text("undone")
    assert gates == 1


def test_thumbs_can_hit_what_the_field_uses(page, server):
    address, scope = server
    page.set_viewport_size({"width": 390, "height": 844})
    page.goto(f"{address}/jobs/{jobs.create(scope, single_jobs()[-1])}")
    page.wait_for_selector("#tag .facts", state="attached")
    page.click("#tab-tag")
    small = page.evaluate("""[...document.querySelectorAll('button, summary, .stripbar input')].filter(b => b.offsetParent)
      .map(b => [b.textContent.trim() || b.id, b.getBoundingClientRect().height]).filter(([, h]) => h > 0 && h < 47.5)""")
    assert small == []


def test_when_the_server_is_gone_the_page_says_so_and_keeps_what_was_typed(surface):
    surface.context.set_offline(True)
    surface.route("**/api/**", lambda route: route.abort())
    surface.fill("#d-longest_bay_m", "9 ft")
    surface.keyboard.press("Enter")
    expect(said(surface)).to_contain_text("does not answer")
    assert surface.input_value("#d-longest_bay_m") == "9 ft"
    surface.context.set_offline(False)
    surface.unroute("**/api/**")
    set_bay(surface, "9 ft 1 in")
    expect(said(surface)).to_contain_text("post")
