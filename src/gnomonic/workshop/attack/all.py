"""``gnomonic attack``: the long forms of the attacks, in one table."""

import logging
import resource
import shutil
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

from fastapi.testclient import TestClient

from gnomonic.demo.load import holm, single_jobs
from gnomonic.provision import say
from gnomonic.store import cluster, jobs
from gnomonic.store.scope import Scope, connect
from gnomonic.web.app import create_app
from gnomonic.workshop.attack import kills, mutants, requests

QUICK = {"mutants": 20_000, "requests": 10_000, "kills": 30}
SHOWN = 12
MOST_BYTES = 4_000_000_000
Row = tuple[str, str, list[str]]


def known_things(scope: Scope) -> dict[str, list[str]]:
    """What odd requests may name that is there."""
    ids = [jobs.create(scope, job) for job in (single_jobs()[0], single_jobs()[-1], holm())]
    versions = [str(jobs.load(scope, job_id).version) for job_id in ids]
    return {"job_id": ids, "line_id": ["A", "B"], "base": [*versions, "1", "999"], "kind": ["gauge", "setout", "brace", "rolls", "pull"], "form": ["kml", "csv", "dxf", "shp.zip"]}  # fmt: skip


def _mutants(count: int, seed: int) -> Row:
    soft, hard = resource.getrlimit(resource.RLIMIT_DATA)
    resource.setrlimit(
        resource.RLIMIT_DATA, (MOST_BYTES, hard)
    )  # a reader that takes more says so, and does not take the machine
    try:
        told = mutants.attack(count, seed)
    finally:
        resource.setrlimit(resource.RLIMIT_DATA, (soft, hard))
    said = f"{told.tried:,} damaged files: {told.read:,} read, {told.refused:,} refused ({told.caught} of them by the guard alone)"
    return "damaged files", said, told.wrong


def _requests(count: int, seed: int, root: Path) -> Row:
    made = cluster.ensure(root / "requests", throwaway=True)
    url = cluster.ensure_database(made, "requests")
    jobs.migrate(url)
    scope = Scope(connect(url))
    client = TestClient(create_app(scope), raise_server_exceptions=False)
    try:
        told = requests.attack(client, known_things(scope), count, seed)
    finally:
        client.app.state.room.hub.close()  # type: ignore[attr-defined]
        client.app.state.room.desk.close()  # type: ignore[attr-defined]
        scope.engine.dispose()
        cluster.stop(made.root)
    shown = ", ".join(f"{n:,} × {status}" for status, n in sorted(told.statuses.items()))
    return "odd requests", f"{told.tried:,}: {shown}", told.wrong


def _kills(count: int, seed: int, root: Path) -> Row:
    told = kills.attack(count, root, seed)
    said = (
        f"{told.application} of the application, {told.database} of the database: {told.acknowledged:,} edits acknowledged, "
        f"{told.unknown:,} answers lost and asked for again"
    )
    return "kills", said, told.wrong


def attack(home: Path, quick: bool, hours: float, seed: int) -> int:
    """Run every attack, the long forms for so many hours with a new seed each time; 1 where anything was wrong."""
    root = home / "var" / "attack"
    root.mkdir(parents=True, exist_ok=True)
    logging.basicConfig(
        filename=root / "log"
    )  # what the readers' guard alone held against, for whoever wants to see it
    rows: list[Row] = []
    until = time.monotonic() + hours * 3600
    while True:
        parts: list[Callable[[], Row]] = [
            partial(_requests, QUICK["requests"], seed, root),
            partial(_kills, QUICK["kills"], seed, root),
            partial(_mutants, QUICK["mutants"], seed),
        ]
        for part in parts:
            start = time.monotonic()
            name, said, wrong = part()
            say(f"{name}, seed {seed}: {time.monotonic() - start:.0f} s")
            rows.append((name, f"{said} (seed {seed})", wrong))
        if quick or time.monotonic() > until:
            break
        seed += 1
    shutil.rmtree(root / "home", ignore_errors=True)
    for name, said, wrong in rows:
        print(f"{name:16}{'good' if not wrong else f'{len(wrong)} WRONG':10}{said}")
        for one in wrong[:SHOWN]:
            print(f"                {one}")
    return 1 if any(wrong for *_, wrong in rows) else 0
