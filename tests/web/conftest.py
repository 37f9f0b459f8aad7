"""Shared by the tests of pages."""

import pytest
from fastapi.testclient import TestClient

from gnomonic.web.app import create_app


@pytest.fixture
def client(scope):
    """A browser on the application, started and stopped as it is served."""
    with TestClient(create_app(scope), base_url="http://localhost") as made:
        yield made
