"""Shared by the tests of pages."""

import pytest
from fastapi.testclient import TestClient
from pwdlib import PasswordHash
from pwdlib.hashers.argon2 import Argon2Hasher

from gnomonic.store import passwords
from gnomonic.web.app import create_app
from gnomonic.web.days import ifs, making


@pytest.fixture(autouse=True)
def short_searches(monkeypatch):
    """No page waits here for a better order of days: what is looked for is whether it holds, not how good it is."""
    monkeypatch.setattr(making, "QUICK_S", 0.1)
    monkeypatch.setattr(ifs, "BASE_S", 0.1)
    monkeypatch.setattr(ifs, "SEARCH_S", 0.05)


@pytest.fixture
def client(scope):
    """A browser on the application, started and stopped as it is served."""
    with TestClient(create_app(scope), base_url="http://localhost") as made:
        yield made


@pytest.fixture
def quick_hashes(monkeypatch):
    """Passwords hashed in no time."""
    quick = PasswordHash((Argon2Hasher(time_cost=1, memory_cost=8, parallelism=1),))
    monkeypatch.setattr(passwords, "hasher", lambda: quick)
    passwords._nobodys.cache_clear()
    yield
    passwords._nobodys.cache_clear()
