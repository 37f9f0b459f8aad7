"""Shared by the tests of the gate: quick hashes, a workspace with somebody in every role, browsers signed in as each."""

from dataclasses import replace

import pytest
from fastapi.testclient import TestClient
from gate import PASSWORD

from gnomonic.store import accounts, people
from gnomonic.web.app import create_app


@pytest.fixture(autouse=True)
def _quick(quick_hashes):
    """No test here waits for a hash."""


@pytest.fixture
def staffed(scope):
    """The own workspace with an owner, a planner and one of the crew; their ids by role."""
    by = replace(scope, actor="the test")
    return {role: people.add_person(by, f"{role}@holm", f"the {role}", role, PASSWORD) for role in accounts.ROLES}


@pytest.fixture
def signed(scope):
    """Browsers on one application: call with a name to sign in by, or nothing for a stranger's."""
    app = create_app(scope)
    opened = []

    def open_one(login=""):
        made = TestClient(app, base_url="http://localhost", follow_redirects=False)
        if opened:
            made.portal = opened[0].portal  # one thread for all of them, else each request starts its own
        else:
            made.__enter__()
        opened.append(made)
        if login:
            done = made.post("/sign-in", data={"login": login, "password": PASSWORD})
            assert done.status_code == 303, done.text
        return made

    yield open_one
    if opened:
        opened[0].__exit__(None, None, None)
