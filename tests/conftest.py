"""Shared by all tests: Hypothesis settings, a throwaway PostgreSQL cluster, a database per test, a server per worker.

What a test of the core does not need is imported where it is made, so that such a test begins at once.
"""

import os
import time
import uuid
from datetime import UTC, datetime
from pathlib import Path

import pytest
from hypothesis import HealthCheck, Phase, settings


def morning() -> None:
    """It is nine in the morning where the tests begin, and in every process they start: no day ends while they run."""
    ahead = 9 - datetime.now(UTC).hour
    ahead += 24 if ahead < -12 else 0
    os.environ["TZ"] = f"Etc/GMT{-ahead:+d}"  # the signs of these zones are the other way round
    time.tzset()


if "PYTEST_XDIST_WORKER" not in os.environ:  # a worker has it from who began
    morning()

EXAMPLES = {"quick": 30, "deep": 400, "mutate": 60}  # a wrong change is found, not explained: no shrinking
for name, examples in EXAMPLES.items():
    phases = [p for p in Phase if name != "mutate" or p is not Phase.shrink]
    settings.register_profile(
        name,
        deadline=None,
        max_examples=examples,
        suppress_health_check=[HealthCheck.too_slow],
        derandomize=True,
        phases=phases,
    )
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "quick"))


LONGEST_FIRST = (
    "faces", "serving", "field", "rights", "room", "walking", "days", "attack", "haul_money", "days_begun", "gate", "walk", "away", "doors", "strewn", "shaken", "limits", "days_crew",
    "hold", "parts", "surface", "lines", "commands_of_measuring", "damaged", "walk_more", "kept", "pull", "days_beside", "sync",
)  # fmt: skip


@pytest.hookimpl(wrapper=True)
def pytest_collect_file():
    """Examples stand in the core; nobody looks for any in the tests."""
    return [found for found in (yield) if type(found).__name__ != "DoctestModule"]


def pytest_collection_modifyitems(items):
    """A process takes a file at a time: those that take longest come first, so that nobody waits for one at the end."""
    rank = {f"test_{name}.py": n for n, name in enumerate(LONGEST_FIRST)}
    items.sort(key=lambda item: rank.get(item.path.name, len(rank)))


@pytest.fixture(scope="session")
def postgres(request):
    """One throwaway cluster for all workers; the last command of the suite to end leaves it stopped."""
    from gnomonic.store import cluster

    shared = Path("/dev/shm") if os.access("/dev/shm", os.W_OK) else Path("/tmp")
    run = os.environ.get("PYTEST_XDIST_TESTRUNUID", uuid.uuid4().hex)
    worker = os.environ.get("PYTEST_XDIST_WORKER", "only")
    made = cluster.ensure(shared / f"gnomonic-test-{run[:8]}-{worker}", throwaway=True)
    yield made
    cluster.stop(made.root)
    cluster.remove(made.root)


@pytest.fixture(scope="session")
def template(postgres):
    """A migrated database that the others are cloned from."""
    from gnomonic.store import cluster, jobs

    jobs.migrate(cluster.ensure_database(postgres, "template"))
    return "template"


@pytest.fixture
def database(postgres, template):
    """Address of a fresh, migrated database."""
    from gnomonic.store import cluster

    return cluster.clone_database(postgres, template, f"t{uuid.uuid4().hex[:12]}")


@pytest.fixture
def scope(database):
    """The own workspace's rows of a fresh database."""
    from gnomonic.store.scope import Scope, connect
    from gnomonic.workshop.running import PATIENCE

    made = Scope(connect(database, PATIENCE))
    yield made
    made.engine.dispose()


@pytest.fixture(scope="session")
def paddock():
    """The demo paddock."""
    from gnomonic.demo.load import single_jobs

    return single_jobs()[-1]


@pytest.fixture(scope="session")
def server(postgres, template):
    """A running server with its own database; yields (address, scope)."""
    from gnomonic.store import cluster
    from gnomonic.store.scope import Scope, connect
    from gnomonic.workshop.running import PATIENCE, serving

    url = cluster.clone_database(postgres, template, f"s{uuid.uuid4().hex[:12]}")
    made = Scope(connect(url, PATIENCE))
    with serving(url) as address:
        yield address, made
    made.engine.dispose()


@pytest.fixture
def readers(context, server):
    """The readers of files are loaded before the first file comes, as where Gnomonic serves."""
    track = {"name": "walk.gpx", "mimeType": "application/gpx+xml", "buffer": b"<gpx>"}
    assert context.request.post(f"{server[0]}/bring-in", multipart={"file": track}).status == 422


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args):
    from gnomonic.workshop.running import headless

    return {**browser_type_launch_args, **headless()}


@pytest.fixture(scope="session")
def browser_context_args(browser_context_args):
    return {**browser_context_args, "viewport": {"width": 1280, "height": 800}}
