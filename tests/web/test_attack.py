"""The attacks in their short forms: odd requests, kills, a full disk, and what a tool that reads the API's own words finds."""

import contextlib
import os
import subprocess
from pathlib import Path

import pytest
import schemathesis
from fastapi.testclient import TestClient
from hypothesis import HealthCheck, given, settings
from places import ALL
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from gnomonic.demo.load import single_jobs
from gnomonic.store import cluster, jobs
from gnomonic.store.scope import Scope, connect
from gnomonic.web.app import create_app
from gnomonic.workshop.attack import kills, requests
from gnomonic.workshop.attack.all import known_things
from gnomonic.workshop.attack.requests import LEFT_OUT
from gnomonic.workshop.running import PATIENCE

TRUE_WORDS = (
    not_a_server_error,
    status_code_conformance,
    content_type_conformance,
    response_schema_conformance,
)
EACH = 25 if ALL else 3
REQUESTS, KILLS = (800, 10) if ALL else (120, 2)


@pytest.fixture(scope="module")
def attacked(postgres, template):
    url = cluster.clone_database(postgres, template, f"attacked{os.getpid()}")
    scope = Scope(connect(url, PATIENCE))
    app = create_app(scope)
    with TestClient(app, raise_server_exceptions=False) as client:
        yield client, known_things(scope)
    scope.engine.dispose()


def test_hundreds_of_odd_requests(attacked):
    told = requests.attack(*attacked, REQUESTS)
    assert told.wrong == [] and told.tried == REQUESTS
    assert {200, 404, 409, 422} <= set(told.statuses) and told.statuses[200] > 0.18 * REQUESTS


def test_the_api_does_what_its_description_says(attacked):
    """Statuses, kinds of content and bodies of every operation, as schemathesis reads them from /openapi.json."""
    schema = schemathesis.openapi.from_asgi("/openapi.json", attacked[0].app)
    wrong, tried = [], 0
    for found in schema.exclude(path=list(LEFT_OUT)).get_all_operations():
        operation = found.ok()

        @given(case=operation.as_strategy())
        @settings(max_examples=EACH, deadline=None, suppress_health_check=list(HealthCheck), derandomize=True)
        def asked(case):
            case.call_and_validate(checks=TRUE_WORDS)

        tried += 1
        try:
            asked()
        except (Exception, BaseExceptionGroup) as error:
            wrong.append(f"{operation.label}: {str(error)[:600]}")
    assert tried > 35
    assert not wrong, "\n\n".join(wrong)


def test_kills_lose_no_acknowledged_edit(tmp_path_factory):
    root = Path("/tmp") / f"gnomonic-kills-{os.getpid()}"
    root.mkdir(mode=0o755, exist_ok=True)
    try:
        told = kills.attack(KILLS, root)
    finally:
        subprocess.run(["rm", "-rf", str(root)], check=False)
    assert told.wrong == [] and told.application == told.database == KILLS // 2
    assert told.acknowledged >= KILLS


@pytest.fixture
def small_disk():
    """A folder on a disk of 160 MB, where the machine lets one be made."""
    root = Path("/tmp") / f"gnomonic-small-{os.getpid()}"
    root.mkdir(mode=0o755)
    made = subprocess.run(["mount", "-t", "tmpfs", "-o", "size=160m,mode=0755", "tmpfs", str(root)], capture_output=True, check=False)  # fmt: skip
    if made.returncode:
        root.rmdir()
        pytest.skip("this machine lets no small disk be made")
    yield root
    cluster.stop(root / "postgres")
    subprocess.run(["umount", "-l", str(root)], check=False)
    root.rmdir()


def test_a_full_disk_is_said_and_nothing_is_lost(small_disk):
    made = cluster.ensure(small_disk / "postgres")
    url = cluster.ensure_database(made, "full")
    jobs.migrate(url)
    scope = Scope(connect(url, PATIENCE))
    client = TestClient(create_app(scope), raise_server_exceptions=False)
    job = jobs.create(scope, single_jobs()[-1])
    version = jobs.load(scope, job).version
    filler = small_disk / "filler"
    with filler.open("wb") as handle, contextlib.suppress(OSError):  # until nothing more goes on it
        while handle.write(bytes(1 << 16)):
            handle.flush()
    said, last, names = [], -1, {jobs.load(scope, job).name}
    for k in range(400):
        body = {"base": version, "edit": {"do": "rename", "name": f"name {k}"}}
        answer = client.post(f"/api/v1/jobs/{job}/edits", json=body, headers={"Idempotency-Key": f"k{k}"})
        if answer.status_code != 200:
            said.append(answer)
            break
        version, last, names = answer.json()["version"], k, {f"name {k}"}
    assert said[0].status_code == 503 and said[0].json()["kind"] in ("away", "unknown"), said[0].text
    filler.unlink()
    cluster.ensure(small_disk / "postgres")
    stored = jobs.load(scope, job)
    assert stored.name in names | {f"name {last + 1}"} and stored.version >= version
    again = client.post(f"/api/v1/jobs/{job}/edits", json=body, headers={"Idempotency-Key": f"k{last + 1}"})
    assert again.status_code == 200 and again.json()["version"] >= version
    scope.engine.dispose()
