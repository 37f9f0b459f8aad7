"""Pages for the browser tests: an error in a script, or a request that leaves the machine, fails the test."""

import pytest
from playwright.sync_api import Error, expect

from gnomonic.demo.load import single_jobs
from gnomonic.store import jobs

expect.set_options(timeout=30_000)  # a machine that others use too takes its time; what comes sooner is not waited for
EXPECTED = ("409", "422", "503", "ERR_FAILED", "ERR_INTERNET_DISCONNECTED")  # answers that a test asks for


ALONE = ("test_field", "test_money", "test_doors", "test_gate")  # what they keep in the browser is what they are about


@pytest.fixture(scope="module")
def visits(browser, browser_context_args):
    """One browser for the tests of a file, so that scripts and styles are fetched once."""
    made = []

    def one():
        if not made:
            made.append(browser.new_context(**browser_context_args))
        return made[0]

    def anew():
        made.pop().close()

    one.anew = anew
    yield one
    if made:
        anew()


@pytest.fixture
def context(request, visits):
    """A visit that knows nothing of the one before; a test of what is kept in the browser has a browser of its own."""
    if request.path.stem in ALONE:
        yield request.getfixturevalue("new_context")()
        return
    here = visits()
    yield here
    try:
        here.set_offline(False)
        here.unroute_all()
        here.clear_cookies()
        for page in here.pages:
            if page.url.startswith("http"):
                page.evaluate("() => { localStorage.clear(); sessionStorage.clear(); }")
            page.close()
    except Error:
        visits.anew()


@pytest.fixture
def page(page, request):
    """A page that is watched; a test that asks for other refusals says which (``answers``)."""
    wrong = []
    expected = (*EXPECTED, *(word for mark in request.node.iter_markers("answers") for word in mark.args))
    page.on("pageerror", lambda error: wrong.append(str(error)))
    page.on(
        "console",
        lambda m: wrong.append(m.text) if m.type == "error" and not any(w in m.text for w in expected) else None,
    )
    page.on(
        "request",
        lambda r: (
            wrong.append(r.url) if not r.url.startswith(("http://127.0.0.1", "http://localhost", "data:")) else None
        ),
    )
    yield page
    assert wrong == []


@pytest.fixture
def surface(page, server):
    """The demo paddock's work surface."""
    address, scope = server
    page.goto(f"{address}/jobs/{jobs.create(scope, single_jobs()[-1])}")
    page.wait_for_selector("body[data-ready]")
    page.wait_for_selector("#tag .facts", state="attached")
    page.click("#tab-tag")
    return page
