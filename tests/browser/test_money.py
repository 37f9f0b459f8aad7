"""Money by mouse, keys and thumb: prices asked for, a quote made, the list ticked off without a signal."""

import re

import pytest
from playwright.sync_api import expect

from gnomonic.demo.load import demo_jobs, holm_books
from gnomonic.store import hauling, jobs

PHONE = {"width": 390, "height": 844}


@pytest.fixture
def job(server):
    """The address of a job of one line, with terms."""
    address, scope = server
    made = next(job for job in demo_jobs() if len(job.lines) == 1)
    hauling.put_terms(scope, holm_books()[0])
    return f"{address}/jobs/{jobs.create(scope, made)}"


def test_from_prices_to_an_accepted_quote_by_keys(page, job):
    page.goto(f"{job}/haul")
    page.get_by_role("link", name="Suppliers").focus()
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Ask for today’s prices").focus()
    page.keyboard.press("Enter")
    expect(page.locator(".house")).to_have_count(2)
    page.get_by_role("link", name="Cost").click()
    total = page.locator(".headline b").inner_text()
    page.get_by_role("link", name="Make a quote of it").click()
    page.get_by_label("For whom").fill("the far meadow")
    page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name=re.compile("Quote Q-"))).to_be_visible()
    expect(page.locator(".grand .num")).to_have_text(total)
    page.get_by_role("link", name="Back to the quotes").click()
    page.get_by_label("Accepted by").fill("the owner")
    page.keyboard.press("Enter")
    expect(page.get_by_text("by the owner")).to_be_visible()
    expect(page.get_by_text("Nothing is other than was sold")).to_be_visible()


KEPT_WITH_ITS_PARTS = """async () => {
  let kept;
  while (!(kept = await caches.match(location.href))) await new Promise((done) => setTimeout(done, 20));
  const parts = [...(await kept.text()).matchAll(/(?:href|src)="([^"]*\\/assets\\/[^"]+)"/g)].map((m) => m[1]);
  return parts.length > 2 && (await Promise.all(parts.map((part) => caches.match(part)))).every(Boolean);
}"""
OF_ANOTHER = """async () => {
  const store = await caches.open("gnomonic-shopping-1");
  const put = (path, text) => store.put(path, new Response(text));
  await put("/jobs/another/shopping", '<script src="/assets/older/list.js"></script>');
  await put("/assets/older/list.js", "");
  await put("/assets/oldest/nobody.js", "");
}"""


def test_what_another_list_is_drawn_with_stays_and_what_none_is_goes(page, job):
    page.request.post(f"{job}/suppliers/ask")
    page.goto(f"{job}/shopping")
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    assert page.evaluate(KEPT_WITH_ITS_PARTS)
    page.evaluate(OF_ANOTHER)
    page.goto(f"{job}/shopping?units=metric")
    assert page.evaluate(KEPT_WITH_ITS_PARTS)
    gone = "async () => { while (await caches.match('/assets/oldest/nobody.js')) await new Promise((done) => setTimeout(done, 20)); }"
    page.evaluate(gone)
    assert page.evaluate("caches.match('/assets/older/list.js').then(Boolean)")


def test_the_list_is_ticked_without_a_signal_and_found_again(page, job, context):
    page.request.post(f"{job}/suppliers/ask")
    page.set_viewport_size(PHONE)
    page.goto(f"{job}/shopping")
    page.wait_for_selector("body[data-ready]")
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    assert page.evaluate(KEPT_WITH_ITS_PARTS), "once it is kept, all it is drawn with is"
    first, second = page.locator("[data-item]").nth(0), page.locator("[data-item]").nth(1)
    box = first.locator(".tick").bounding_box()
    assert box["height"] >= 48 and box["x"] + box["width"] <= PHONE["width"]
    context.set_offline(True)
    first.locator(".tick").click()
    expect(first.locator(".tick")).to_have_attribute("aria-pressed", "true")
    second.get_by_role("button", name="Something else").click()
    page.locator("#got").fill("a thicker one")
    page.get_by_role("button", name="Got that").click()
    expect(second.locator(".got")).to_have_text("got: a thicker one")
    expect(page.locator("#unsent")).to_contain_text("2 ticks are on this phone only")
    page.reload()
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("[data-item]").nth(0).locator(".tick")).to_have_attribute("aria-pressed", "true")
    context.set_offline(False)
    expect(page.locator("#kept")).to_have_text("Everything ticked is kept.")
    expect(page.locator("#unsent")).to_be_hidden()
    server_side = page.request.get(f"{job}/shopping").text()
    assert "a thicker one" in server_side
    page.evaluate("localStorage.clear()")
    page.reload()
    page.wait_for_selector("body[data-ready]")
    expect(page.locator("[data-item]").nth(1).locator(".got")).to_have_text("got: a thicker one")


@pytest.mark.parametrize("place", ["stock", "suppliers", "cost", "options", "quotes", "shopping"])
def test_on_a_phone_nothing_runs_out_of_the_page(page, job, place):
    page.request.post(f"{job}/suppliers/ask")
    page.set_viewport_size(PHONE)
    page.goto(f"{job}/{place}")
    wide = page.evaluate("document.documentElement.scrollWidth")
    assert wide <= PHONE["width"]
    small = page.evaluate(
        "[...document.querySelectorAll('main button, main .haulnav a, main .btn')].filter((b) => b.checkVisibility() && b.getBoundingClientRect().height < 47.5).map((b) => b.textContent)"
    )
    assert small == []


def test_a_tick_the_server_refuses_is_no_missing_signal(page, job):
    page.request.post(f"{job}/suppliers/ask")
    page.goto(f"{job}/shopping")
    page.wait_for_selector("body[data-ready]")
    page.route("**/api/v1/jobs/*/shopping", lambda route: route.fulfill(status=422, content_type="application/problem+json", body='{"detail": "that job is gone"}'))  # fmt: skip
    page.locator("[data-item] .tick").first.click()
    expect(page.locator("#kept")).to_have_text("Not taken by the server, kept on this phone: that job is gone.")
    expect(page.locator("#unsent")).to_contain_text("1 tick is on this phone only")
