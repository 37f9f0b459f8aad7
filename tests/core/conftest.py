"""For tests of the core: the demo paddock as a line by itself."""

import pytest
from places import demo_fences


@pytest.fixture(scope="session")
def paddock():
    """The demo paddock."""
    return demo_fences()[-1]
