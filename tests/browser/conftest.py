"""Pages for the browser tests: an error in a script, or a request that leaves the machine, fails the test."""

import pytest

from gnomonic.demo.load import single_jobs
from gnomonic.store import jobs

EXPECTED = ("409", "422", "503", "ERR_FAILED", "ERR_INTERNET_DISCONNECTED")  # answers that a test asks for


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
