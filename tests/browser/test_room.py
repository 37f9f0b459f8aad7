"""The drawing has the room: lane and column, what is in view at the cursor, dimensions, touch; nothing clipped or on another."""

import json

import pytest
from places import few
from playwright.sync_api import expect

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.job.fence import one_line
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.demo.load import holm, single_jobs
from gnomonic.store import jobs

SIZES = [(1280, 800), (1920, 1080), (390, 844), (640, 400)]  # the last is 1280 × 800 at 200 %


def line_over(name, heights, step_m=5.0):
    """A straight line over ground given by a height every few metres."""
    points = tuple(Point(e_m=k * step_m, n_m=0.0, h_m=h, how="tape", good_m=0.01) for k, h in enumerate(heights))
    return one_line(name, MeasuredLine(points=points, source=Source(kind="drawn", points_read=len(points))))


GROUNDS = {
    "15 %": [k * 0.75 for k in range(13)],
    "50 %": [k * 2.5 for k in range(13)],
    "a dip": [5, 5, 5, 4.6, 3.4, 2.2, 3.4, 4.6, 5, 5, 5],
    "a hump": [1, 1, 1.2, 2.4, 3.4, 3.6, 3.4, 2.4, 1.2, 1, 1],
}
MODULES = "const base = document.querySelector('script[type=module]').src.replace(/set\\/set\\.js$/, '');"
IN_VIEW = (
    """async ([wide, high]) => {"""
    + MODULES
    + """
  const { View } = await import(base + 'strip/view.js');
  const { groundAt, edgeAt, bayAt } = await import(base + 'strip/profile.js');
  const data = JSON.parse(document.getElementById('drawing').textContent);
  const bad = [], scales = [];
  for (const exaggerate of [true, false]) for (const share of [1, 0.5, 0.2, 0.07, 0]) for (const at of [0, 0.13, 0.31, 0.5, 0.71, 1]) {
    const station = at * data.length;
    const probe = new View(data, { width: wide + 20, left: 6, window: [0, data.length], exaggerate }).stand(high);
    const span = Math.max(probe.shortest(high), share * data.length);
    const from = Math.min(Math.max(station - span / 3, 0), data.length - span);
    const view = new View(data, { width: wide + 20, left: 6, window: [from, from + span], exaggerate }).stand(high);
    view.middle = view.follow(station);
    const bay = bayAt(data, station);
    const posts = bay ? [bay.a, bay.b].map((k) => data.posts[k]) : [];
    const near = posts.sort((p, q) => Math.abs(p.s - station) - Math.abs(q.s - station))[0];
    const heights = { ground: groundAt(data.ground, station), ...(bay ? { edge: edgeAt(data, bay, station) } : {}), ...(near ? { foot: near.z - near.depth, head: near.z + near.above } : {}) };
    for (const [what, z] of Object.entries(heights)) if (!(view.y(z) >= 0 && view.y(z) <= high)) bad.push([what, exaggerate, share, at, view.y(z)]);
    const drawn = (view.y(0) - view.y(1)) / (view.x(from + 1) - view.x(from));
    if (Math.abs(drawn - view.times) > 1e-9 || view.times < 1 - 1e-9 || (!exaggerate && view.times !== 1)) bad.push(['scale', drawn, view.times]);
    if (share === 0) scales.push(view.times);
  }
  return [bad, scales];
}"""
)


def opened(page, server, job, path=""):
    address, scope = server
    page.goto(f"{address}/jobs/{jobs.create(scope, job)}{path}")
    page.wait_for_selector("body[data-ready]")
    return page


def frame(page):
    page.evaluate("new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))")


@pytest.mark.parametrize("ground", few([*GROUNDS, "young trees", "seed beds", "workshop yard"], 1, 2, 6))
def test_at_every_zoom_what_stands_at_the_cursor_is_inside_the_lane(page, server, ground):
    made = line_over(f"over {ground}", GROUNDS[ground]) if ground in GROUNDS else None
    opened(page, server, made or next(j for j in single_jobs() if ground in j.name))
    for wide, high in ((780, 380), (780, 450), (360, 250), (1400, 700)):
        bad, nearest = page.evaluate(IN_VIEW, [wide, high])
        assert bad == [] and nearest == pytest.approx([1.0] * len(nearest)), "the nearest zoom is to scale"


def test_the_lane_is_high_enough_and_follows_the_pointer_over_steep_ground(page, server):
    opened(page, server, line_over("steep", GROUNDS["50 %"]))
    lane = "() => Number(document.querySelector('#strip .lane.ground > .rule').getAttribute('y1'))"
    assert page.evaluate(lane) >= 380
    page.click("#scale")
    page.fill("#station", "60 ft")
    page.press("#station", "Enter")
    frame(page)
    expect(page.locator("#strip .scalenote")).to_have_text("heights to scale")
    strip = page.locator("#strip").bounding_box()
    seen = []
    for x in (140, 400, 700, 860):
        page.mouse.move(strip["x"] + x, strip["y"] + 200)
        boxes = page.evaluate(
            "() => { const t = document.querySelector('#strip').getBoundingClientRect().top; return [...document.querySelectorAll('.dims .dimension')].map(d => { const b = d.getBoundingClientRect(); return [b.top - t, b.bottom - t]; }); }"
        )
        assert boxes and all(top >= 27 and bottom <= 28 + page.evaluate(lane) for top, bottom in boxes), x
        seen.append(page.locator("#strip .heights").get_attribute("transform") or "0")
    assert len(set(seen)) > 1, "the heights moved with the pointer"
    page.keyboard.press("4")
    assert page.evaluate(lane) >= 380


def test_dimensions_say_what_a_tape_would(page, server):
    """By hand: level ground but for a hollow 8 in deep in the middle of a 10 ft bay; the lower edge hangs 2½ in up at posts."""
    heights = [10.0] * 9
    job = line_over("hollow", heights, 1.524)  # posts every 10 ft stand on shots
    points = list(job.lines[0].measured.points)
    points[5] = points[5].model_copy(update={"h_m": 10.0 - 8 * 0.0254})
    measured = job.lines[0].measured.model_copy(update={"points": tuple(points)})
    job = one_line("hollow", MeasuredLine.model_validate(measured.model_dump()))
    for at in (6.096, 9.144):
        job = apply(job, read_edit({"do": "place_post", "at_m": at}))
    opened(page, server, job)
    page.fill("#station", "20 ft")
    page.press("#station", "Enter")
    frame(page)
    strip = page.locator("#strip").bounding_box()
    x = page.evaluate(
        "() => { const t = [...document.querySelectorAll('.strip .tape text')].find(t => t.textContent === '25 ft'); return Number(t.getAttribute('x')) - 4; }"
    )
    page.mouse.move(strip["x"] + x, strip["y"] + 200)
    said = page.locator(".dims .dimtext").all_text_contents()
    assert "10½ in under" in said, "2½ in at the posts and a hollow of 8 in"
    assert "10 ft" in said and "2½ in at the post" in said, said
    assert "4 ft 3½ in" in said, "49 in of fabric on 2½ in"
    assert any(text.endswith("deep") for text in said)


def test_one_column_holds_six_snags_or_a_drawing_and_eight_facts_and_one_scroll_bar(page, server):
    opened(page, server, single_jobs()[-1])
    inside = "(name) => { const p = document.querySelector('.panel:not([hidden])').getBoundingClientRect(); return [...document.querySelectorAll(name)].filter(n => { const b = n.getBoundingClientRect(); return b.height && b.top >= p.top && b.bottom <= p.bottom; }).length; }"
    assert page.evaluate(inside, "#snags li") >= 6
    assert (
        page.locator("#panel-snags").bounding_box()["height"] + page.locator("#panel-snags").bounding_box()["y"] == 800
    )
    for _ in range(3):
        page.keyboard.press("ArrowRight")
    last = page.locator("#tab-tag").inner_text()  # called so at once; the tag comes when it is answered
    expect(page.locator("#tag h2")).to_have_text(last)
    expect(page.locator(".fitfigure")).to_be_visible()
    assert page.evaluate(inside, ".fitfigure") == 1 and page.evaluate(inside, "#tag .fact") >= 8
    for why in page.locator("#tag .why").all():
        why.click()
    for more in page.locator("#tag .because").all():
        more.scroll_into_view_if_needed()
        assert more.evaluate("n => n.scrollHeight <= n.clientHeight + 1"), "whole, in place"
    bars = page.evaluate(
        "[...document.querySelectorAll('.column, .column *')].filter(n => /auto|scroll/.test(getComputedStyle(n).overflowY) && n.scrollHeight > n.clientHeight + 1).length"
    )
    assert bars == 1


def test_a_snag_is_gone_to_so_near_that_its_place_can_be_read(page, server):
    opened(page, server, single_jobs()[-1])
    page.locator("#snags .place", has_text="under the wire at 1538").click()
    frame(page)
    expect(page.locator("#strip .scalenote")).to_have_text("heights to scale")
    expect(page.locator(".dims .snagwords")).to_contain_text("under the wire at 1538")
    expect(page.locator(".dims .dimtext.wrong")).to_contain_text("under")
    gap = page.locator("#strip .fill").first.bounding_box()
    assert gap["height"] >= 12 and gap["width"] >= 30
    page.locator("#foldmap").click()
    expect(page.locator("#map")).to_be_hidden()
    page.reload()
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#map")).to_be_hidden()


def test_lanes_are_made_taller_by_mouse_and_key_and_stay_so(page, server):
    opened(page, server, single_jobs()[-1])
    lane = "(key) => document.querySelector(`#strip .lane.${key} > .rule`).getAttribute('y1')"
    under, ground = (float(page.evaluate(lane, key)) for key in ("under", "ground"))
    edge = page.locator("#strip .lane.under .handle").bounding_box()
    page.mouse.move(500, edge["y"] + 4)
    page.mouse.down()
    page.mouse.move(500, edge["y"] - 46, steps=5)
    page.mouse.up()
    assert float(page.evaluate(lane, "under")) == pytest.approx(under + 50, abs=1)
    assert float(page.evaluate(lane, "ground")) == pytest.approx(ground - 50, abs=1)
    page.locator("#strip .lane.posts .handle").focus()
    page.keyboard.press("ArrowUp")
    assert float(page.evaluate(lane, "posts")) == 46
    page.reload()
    page.wait_for_selector("body[data-ready]")
    assert float(page.evaluate(lane, "under")) == pytest.approx(under + 50, abs=1)
    assert float(page.evaluate(lane, "posts")) == 46


WRONGLY = ["{", "null", "5", '{"heights":7,"folded":3}', '{"heights":{"under":"much"},"folded":["ground","x"]}']


@pytest.mark.parametrize("kept", few(WRONGLY, 0, 4))
def test_lanes_remembered_wrongly_are_forgotten_and_a_folded_ground_still_zooms(page, server, kept):
    page.add_init_script(f"if (!localStorage.lanes) localStorage.lanes = {json.dumps(kept)}")
    opened(page, server, single_jobs()[0])
    if page.locator("#strip .lane.ground .fold").get_attribute("aria-expanded") == "true":
        page.click("#strip .lane.ground .fold")
    for _ in range(6):
        page.click("[data-zoom=in]")
    frame(page)
    tape = page.locator("#strip .tape text").all_text_contents()
    assert "0" not in tape[1:] and len(tape) >= 2 and tape[1] != "100 ft"
    page.click("#strip .lane.ground .fold")
    frame(page)
    expect(page.locator("#strip .scalenote")).to_have_text("heights to scale")


def touch(session, kind, *points):
    session.send(
        "Input.dispatchTouchEvent",
        {"type": kind, "touchPoints": [{"x": x, "y": y, "id": k} for k, (x, y) in enumerate(points)]},
    )


def test_one_finger_pans_and_two_fingers_zoom_about_themselves(browser, server):
    context = browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True)
    page = opened(context.new_page(), server, single_jobs()[-1])
    window = lambda: [float(t.split()[0]) for t in page.locator("#strip .tape text").all_text_contents()]  # noqa: E731
    session = context.new_cdp_session(page)
    box = page.locator("#strip").bounding_box()
    y = box["y"] + 150
    whole = window()
    touch(session, "touchStart", (150, y), (250, y))
    for k in range(1, 9):
        touch(session, "touchMove", (150 - 12 * k, y), (250 + 12 * k, y))
    touch(session, "touchEnd")
    frame(page)
    near = window()
    assert max(near) < max(whole) and min(near) > 0, "zoomed about the middle"
    touch(session, "touchStart", (300, y))
    for k in range(1, 9):
        touch(session, "touchMove", (300 - 20 * k, y))
    touch(session, "touchEnd")
    frame(page)
    assert min(window()) > min(near), "panned along"
    touch(session, "touchStart", (200, y))
    touch(session, "touchEnd")
    expect(page.locator("#tag h2")).to_contain_text("ost ")
    assert page.locator("#strip").bounding_box()["height"] >= 422
    context.close()


PATHS = {"set": "", "hang": "#hang", "walk": "/walk", "hold": "/hold", "haul": "/haul", "job": "/lines"}
OVERLAPS = """(names) => {
  const boxes = names.flatMap((n) => [...document.querySelectorAll(n)].map((e) => [n, e.getBoundingClientRect(), e])).filter(([, b, e]) => b.width > 1 && b.height > 1 && getComputedStyle(e).position !== 'sticky');
  const bad = [];
  boxes.forEach(([n, a, e], k) => boxes.slice(k + 1).forEach(([m, b, f]) => {
    if (e.contains(f) || f.contains(e)) return;
    if (a.left < b.right - 1 && b.left < a.right - 1 && a.top < b.bottom - 1 && b.top < a.bottom - 1) bad.push([n, m]);
  }));
  return bad;
}"""
PARTS = [
    ".top",
    ".decide",
    ".stripbar",
    "#strip",
    ".rolls",
    "#said",
    ".mapbox",
    ".tabs",
    ".panel:not([hidden])",
    ".planbox",
    ".upper > .side",
    ".saidbar",
    ".holdcols > section",
    ".bandstrip",
    ".haulbar",
    ".haultable",
    ".groundbox",
    ".besides",
    ".linelist",
]
CLIPPED = """() => {
  const bad = [];
  const wide = document.documentElement.clientWidth;
  const scrolls = (e) => { for (let p = e.parentElement; p; p = p.parentElement) if (/auto|scroll/.test(getComputedStyle(p).overflowX) && p.scrollWidth > p.clientWidth) return true; return false; };
  for (const e of document.querySelectorAll('button, a, h1, h2, h3, th, td, dt, dd, label, strong, p, summary, option:checked')) {
    const b = e.getBoundingClientRect(), s = getComputedStyle(e);
    if (!b.width || !b.height || e.closest('.visually-hidden, .visually-hidden-focusable, [hidden]') || s.textOverflow === 'ellipsis' || scrolls(e)) continue;
    if (b.left < -1 || b.right > wide + 1) bad.push(['out', e.outerHTML.slice(0, 80)]);
    if (e.scrollWidth > e.clientWidth + 2 && s.overflowX === 'hidden') bad.push(['cut', e.outerHTML.slice(0, 80)]);
  }
  for (const svg of document.querySelectorAll('svg')) {
    const box = svg.getBoundingClientRect();
    if (!box.width || svg.closest('[hidden]')) continue;
    const texts = [...svg.querySelectorAll('text')].filter((t) => t.textContent.trim()).map((t) => [t, t.getBoundingClientRect()]).filter(([, b]) => b.width);
    for (const [t, b] of texts) if (b.left < box.left - 2 || b.right > box.right + 2 || b.top < box.top - 2 || b.bottom > box.bottom + 2) bad.push(['label out', svg.id || svg.getAttribute('class'), t.textContent]);
    const fixed = texts.filter(([t]) => !t.closest('.over') && !t.matches('.thingname, .lanename'));
    fixed.forEach(([t, a], k) => fixed.slice(k + 1).forEach(([u, b]) => {
      const across = Math.min(a.right, b.right) - Math.max(a.left, b.left), down = Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top);
      if (across > 3 && down > 5) bad.push(['label on label', svg.id || svg.getAttribute('class'), t.textContent, u.textContent]);
    }));
  }
  return bad;
}"""


@pytest.fixture(scope="module")
def ground(server):
    return jobs.create(server[1], holm())


@pytest.mark.parametrize("size", SIZES, ids=lambda s: f"{s[0]}x{s[1]}")
@pytest.mark.parametrize("view", PATHS)
def test_nothing_is_clipped_or_lies_on_another(page, server, ground, view, size):
    page.set_viewport_size({"width": size[0], "height": size[1]})
    page.goto(f"{server[0]}/jobs/{ground}{PATHS[view]}")
    page.wait_for_selector("body[data-ready]")
    if view == "hang":
        page.wait_for_selector(".worksteps")
    frame(page)
    assert page.evaluate(OVERLAPS, PARTS) == []
    assert page.evaluate(CLIPPED) == []
    assert page.evaluate("document.documentElement.scrollWidth") <= size[0]
    if view in ("set", "hang") and size[0] > 700:
        page.keyboard.press("Shift+ArrowRight")
        page.keyboard.press("Shift+ArrowRight")
        frame(page)
        labels = page.evaluate(
            "[...document.querySelectorAll('.dims .dimback')].map(r => { const b = r.getBoundingClientRect(); return [b.left, b.top, b.right, b.bottom]; })"
        )
        for k, a in enumerate(labels):
            for b in labels[k + 1 :]:
                assert not (a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]), json.dumps([a, b])


def test_a_line_is_picked_on_the_map_which_zooms_and_pans_by_itself(page, server):
    opened(page, server, holm(), "?line=A")
    places = "(n) => { const p = n.getPointAtLength(n.getTotalLength() / 2), m = n.getScreenCTM(); return [p.x * m.a + m.e, p.y * m.d + m.f]; }"
    other = page.locator("#map .otherline", has=page.locator("title", has_text="summer grazing"))
    x, y = other.evaluate(places)
    page.mouse.move(x, y)
    page.mouse.wheel(0, -300)
    frame(page)
    near = other.evaluate(places)
    assert abs(near[0] - x) < 3 and abs(near[1] - y) < 3, "zoomed about the pointer"
    page.mouse.down()
    page.mouse.move(x - 30, y + 20, steps=4)
    page.mouse.up()
    frame(page)
    x, y = other.evaluate(places)
    assert abs(x - near[0] + 30) < 7 and abs(y - near[1] - 20) < 7, "panned, and that was no click"
    assert "line=A" in page.url
    page.mouse.click(x, y)
    page.wait_for_url("**line=H*")
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#map .linename.own")).to_have_text("summer grazing")
