"""Days by mouse, keys and thumb: begun, a task opened and moved, ticked on a phone, a search that ends while one looks."""

import re
from datetime import date, timedelta

import pytest
from crews import crew, worked_off
from playwright.sync_api import expect

from gnomonic.demo.load import demo_jobs
from gnomonic.store import days, jobs

PHONE = {"width": 390, "height": 844}
PENS = next(j for j in demo_jobs() if "alpaca pens" in j.name)


@pytest.fixture
def job(server):
    """The address of a job of one line, in a workspace with a crew of two who come every day."""
    address, scope = server
    days.put_crew(
        scope,
        crew().model_copy(
            update={"people": tuple(p.model_copy(update={"days": tuple(range(7))}) for p in crew().people)}
        ),
    )
    job_id = jobs.create(scope, PENS)
    yield f"{address}/jobs/{job_id}"
    jobs.remove(scope, job_id)


def begun(page, job):
    page.goto(f"{job}/days")
    page.get_by_role("button", name="Plan the days").click()
    page.wait_for_selector("#daysview")
    page.wait_for_load_state()  # what listens to keys is there


def test_begun_by_keys_and_drawn_to_its_days(page, job):
    page.goto(f"{job}/days")
    expect(page.get_by_role("heading", name="When is it done?")).to_be_visible()
    page.get_by_label("Begins").press("Enter")
    expect(page.locator(".chances")).to_contain_text(re.compile(r"Done by \w{3} \d+ \w+ half the time"))
    strokes = page.locator("#daysview a.task")
    count = strokes.count()
    assert count > 20
    page.get_by_text("The same as a table").click()
    expect(page.locator(".astable tbody tr")).to_have_count(count)
    tops = page.evaluate(
        "[...document.querySelectorAll('#daysview .dayname')].map((n) => n.getBoundingClientRect().top)"
    )
    assert tops == sorted(tops), "days go down"
    inside = page.evaluate(
        "(() => { const v = document.getElementById('daysview').getBoundingClientRect();"
        " return [...document.querySelectorAll('#daysview .stroke')].slice(8).every((n) => { const b = n.getBoundingClientRect(); return b.left >= v.left && b.right <= v.right + 1 && b.bottom <= v.bottom + 1; }); })()"
    )
    assert inside


def test_a_task_is_opened_by_a_press_and_moved(page, job):
    begun(page, job)
    stroke = page.locator('#daysview a.task[data-key$=".marks"]').first
    stroke.locator(".reach").click(force=True)
    tag = page.locator("#task")
    expect(tag.get_by_role("heading", name="Mark out and clear")).to_be_visible()
    tag.get_by_text("why?").click()
    expect(tag.get_by_text("a swath is cleared by as many as can keep out of each other's way")).to_be_visible()
    later = date.today() + timedelta(days=9)
    tag.get_by_label("Not before").fill(f"{later}T10:00")
    tag.get_by_role("button", name="Move it").click()
    expect(page.locator("#task dd").first).to_contain_text(f"{later:%a} {later.day} {later:%B}, 10:00")
    expect(page.locator(".boardhead h2")).to_have_text(f"{later:%a} {later.day} {later:%B}")
    page.get_by_role("button", name="Let it begin as early as it can").click()
    expect(page.locator("#task dd").first).not_to_contain_text(f"{later:%B}, 10:00")
    page.wait_for_load_state()
    page.keyboard.press("Escape")
    expect(page.locator("#task")).to_have_count(0)


def test_a_move_before_the_marks_is_refused_where_it_is_asked(page, job):
    begun(page, job)
    key = page.evaluate(
        "[...document.querySelectorAll('#daysview a.task')].map((a) => a.dataset.key).find((k) => /holes|drill|drive|set/.test(k))"
    )
    page.goto(f"{job}/days?task={key}")
    page.get_by_label("Not before").fill(f"{date.today()}T08:00")
    page.get_by_role("button", name="Move it").click()
    expect(page.locator("#refused")).to_contain_text("before the marks are in")
    expect(page.locator("#task")).to_be_visible()


def test_days_and_verbs_by_keys(page, job):
    begun(page, job)
    first = page.locator(".boardhead h2").inner_text()
    page.keyboard.press("ArrowRight")
    expect(page.locator(".boardhead h2")).not_to_have_text(first)
    page.wait_for_load_state()
    page.keyboard.press("ArrowLeft")
    expect(page.locator(".boardhead h2")).to_have_text(first)
    page.wait_for_load_state()
    other = page.locator(".unitlink").inner_text()
    page.keyboard.press("u")
    expect(page.locator(".unitlink")).not_to_have_text(other)
    page.wait_for_load_state()
    page.keyboard.press("3")
    page.wait_for_url(re.compile(r"/jobs/\w+$"))
    page.wait_for_selector("body[data-ready]")
    page.keyboard.press("7")
    page.wait_for_url(re.compile("/days$"))


def test_strokes_by_keys_and_the_cursor_over_the_tape(page, job):
    begun(page, job)
    page.locator("#daysview a.task").first.focus()
    first = page.evaluate("document.activeElement.dataset.key")
    page.keyboard.press("ArrowRight")
    assert page.evaluate("document.activeElement.dataset.key") != first
    box = page.locator("#daysview").bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.6, box["y"] + 120)
    expect(page.locator(".cursortext")).to_have_text(re.compile(r"^A \d+(\.\d)? (ft|m)$"))
    page.mouse.move(5, 5)
    expect(page.locator(".cursortext")).to_have_text("")


def test_a_stroke_goes_to_its_place_on_the_strip(page, job):
    begun(page, job)
    key = page.evaluate(
        "[...document.querySelectorAll('#daysview a.task')].map((a) => a.dataset.key).find((k) => k.startsWith('A.2'))"
    ) or page.evaluate("document.querySelector('#daysview a.task').dataset.key")
    page.goto(f"{job}/days?task={key}")
    page.get_by_role("link", name="Go there on the strip").click()
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("#strip")).to_be_visible()


def test_ticked_on_a_phone(page, job):
    begun(page, job)
    page.set_viewport_size(PHONE)
    page.goto(f"{job}/day")
    assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    first = page.locator(".sheetrows li").first
    name = first.get_attribute("id")
    done = first.get_by_role("button", name="Done")
    box = done.bounding_box()
    assert box["height"] >= 56
    done.click()
    mine = page.locator(f'[id="{name}"]')
    expect(mine.get_by_role("button", name="not done after all")).to_be_visible()
    mine.get_by_role("button", name="not done after all").click()
    expect(mine.get_by_role("button", name="Done", exact=True)).to_be_visible()
    mine.get_by_text("Part of it, or how long it took").click()
    mine.get_by_label("How much of it is done").fill("abc")
    mine.get_by_role("button", name="Say so").click()
    expect(page.locator("#refused")).to_contain_text("“abc” is not a number")
    expect(mine.get_by_label("How much of it is done")).to_have_value("abc")
    mine.get_by_label("How much of it is done").fill("50")
    mine.get_by_label("Hours of all who were at it").fill("0.5")
    mine.get_by_role("button", name="Say so").click()
    expect(page.locator("#refused")).to_have_count(0)
    for step in page.locator(".boardhead .step").all():
        assert step.bounding_box()["height"] >= 48


def test_every_target_of_the_day_sheet_suits_a_glove(page, job):
    begun(page, job)
    page.set_viewport_size(PHONE)
    page.goto(f"{job}/day")
    small = page.evaluate(
        "[...document.querySelectorAll('.onesheet button, .onesheet summary, .onesheet a')].filter((n) => n.offsetParent && n.getBoundingClientRect().height < 48).map((n) => n.textContent)"
    )
    assert small == []


def test_a_search_that_ends_while_one_looks(page, server, job):
    """The page says that a worker looks, and shows what it found without being asked."""
    _, scope = server
    begun(page, job)
    expect(page.locator("#looking")).to_be_visible()
    worked_off(scope)
    expect(page.locator("#looking")).to_have_count(0, timeout=20_000)
    expect(page.locator(".daysband")).to_contain_text("1000 seasons simulated")


def test_what_is_typed_stays_when_a_search_ends(page, server, job):
    _, scope = server
    begun(page, job)
    page.get_by_text("Begin on another day").click()
    page.get_by_label("Begins").fill("2031-03-03")
    worked_off(scope)
    expect(page.locator("#looking")).to_contain_text("What was waited for is there: show it", timeout=20_000)
    expect(page.get_by_label("Begins")).to_have_value("2031-03-03")
    page.get_by_role("link", name="show it").click()
    expect(page.locator(".daysband")).to_contain_text("1000 seasons simulated")


def test_one_on_the_way_to_the_next_day_comes_there_though_a_search_ends(page, server, job):
    _, scope = server
    begun(page, job)
    page.goto(f"{job}/days")  # no answer to a form: what is looked for is looked for by this address
    first = page.locator(".boardhead h2").inner_text()
    page.route("**/days", lambda route: (worked_off(scope), route.continue_()))

    def once_it_is_found(route):
        page.wait_for_event("requestfinished", lambda r: "x-look" in r.headers)
        route.continue_()

    page.route("**/days?*day=*", once_it_is_found)
    page.keyboard.press("ArrowRight")
    expect(page.locator(".boardhead h2")).not_to_have_text(first, timeout=20_000)


def test_a_crew_is_said_and_a_bad_time_keeps_what_was_typed(page, job):
    begun(page, job)
    page.get_by_role("link", name="Crew and plant").first.click()
    page.get_by_label("Name").first.fill("Anna")
    page.locator("[name=p0_begins]").fill("early")
    page.get_by_role("button", name="Save crew and plant").click()
    expect(page.locator("#refused")).to_contain_text("Anna begins: “early” is not a time")
    expect(page.get_by_label("Name").first).to_have_value("Anna")
    page.locator("[name=p0_begins]").fill("8:00")
    page.get_by_text("Somebody more").first.click()
    page.locator("[name=p2_name]").fill("Cy")
    page.get_by_role("button", name="Save crew and plant").click()
    expect(page.locator("#refused")).to_have_count(0)
    expect(page.locator("[name=p2_name]")).to_have_value("Cy")
    page.get_by_role("link", name="What if").click()
    expect(page.get_by_role("row", name=re.compile("Without Cy"))).to_be_visible()
    page.get_by_role("link", name="Calendar").click()
    expect(page.locator(".jobday").first).to_be_visible()
    page.locator(".jobday").first.click()
    page.wait_for_selector("#daysview")
