"""Kills: the application and its database are ended without warning while edits come in; what was acknowledged must be there, once."""

import json
import os
import random
import re
import secrets
import signal
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
from dataclasses import dataclass, field
from http.client import HTTPException
from itertools import pairwise
from pathlib import Path
from typing import Any

from sqlalchemy import select

from gnomonic.demo.load import single_jobs
from gnomonic.store import cluster, jobs
from gnomonic.store.cluster import Cluster
from gnomonic.store.models import VersionRow
from gnomonic.store.scope import Scope, connect

PATIENCE_S = 90.0
REST_S = (0.2, 1.2)


@dataclass(slots=True)
class Kills:
    """What was killed, what was acknowledged meanwhile, and what should not be."""

    application: int = 0
    database: int = 0
    acknowledged: int = 0
    unknown: int = 0
    wrong: list[str] = field(default_factory=list)


@dataclass(slots=True)
class Server:
    """The application as a command starts it, in a folder of its own."""

    home: Path
    url: str
    process: subprocess.Popen[bytes] | None = None
    address: str = ""

    def start(self) -> None:
        """Start it and wait until it says where it listens."""
        source = str(Path(__file__).parents[3])
        environment = {**os.environ, "PYTHONPATH": source, "GNOMONIC_HOME": str(self.home)}
        environment["GNOMONIC_DATABASE_URL"] = self.url.replace("+psycopg", "")
        command = [sys.executable, "-m", "gnomonic.cli", "serve", "--workers", "1", "--helpers", "0"]
        self.home.mkdir(parents=True, exist_ok=True)
        log = self.home / f"log-{secrets.token_hex(4)}"
        with log.open("w") as said:
            self.process = subprocess.Popen(command, env=environment, stderr=said)
        while not (found := re.search(r"open (http://127\.0\.0\.1:\d+)/", log.read_text())):
            if self.process.poll() is not None:
                raise RuntimeError(f"the server did not start: {log.read_text()[-600:]}")
            time.sleep(0.05)
        self.address = found.group(1)

    def kill(self) -> None:
        """End it without warning."""
        if self.process is not None:
            self.process.kill()
            self.process.wait()


def attack(count: int, root: Path, seed: int = 15) -> Kills:
    """Kill so often while one editor works, each edit asked for until its fate is known.  ``root`` holds what is made for it."""
    made = cluster.ensure(root / "kills")
    url = cluster.ensure_database(made, f"kills_{secrets.token_hex(4)}")
    jobs.migrate(url)
    near = Scope(connect(url))
    job_id = jobs.create(near, single_jobs()[0])
    base = jobs.load(near, job_id).version
    near.engine.dispose()
    server = Server(root / "home", url)
    server.start()
    told, done = Kills(), threading.Event()
    editor = Editor(server, job_id, base, told, done)
    thread = threading.Thread(target=editor.work, daemon=True)
    thread.start()
    chance = random.Random(seed)
    try:
        for k in range(count):
            _until_edited(told, thread)
            time.sleep(chance.uniform(*REST_S))
            if k % 2:
                _kill_database(made)
                told.database += 1
                time.sleep(chance.uniform(0, 1))
                made = cluster.ensure(root / "kills")
            else:
                server.kill()
                told.application += 1
                server.start()
        done.set()
        thread.join(PATIENCE_S)
        if thread.is_alive():
            told.wrong.append("the editor never learnt what became of its last edit")
        _check(Scope(connect(url)), job_id, editor, told)
    finally:
        done.set()
        server.kill()
        cluster.stop(root / "kills")
    return told


def _until_edited(told: Kills, thread: threading.Thread) -> None:
    """Wait until one more edit was acknowledged, so that every kill falls among edits."""
    seen, deadline = told.acknowledged, time.monotonic() + PATIENCE_S
    while told.acknowledged == seen and thread.is_alive() and time.monotonic() < deadline:
        time.sleep(0.02)


def _kill_database(made: Cluster) -> None:
    pid = int((made.data / "postmaster.pid").read_text().split()[0])
    os.kill(pid, signal.SIGKILL)


@dataclass(slots=True)
class Editor:
    """Somebody who renames a job again and again, and asks until each time is known."""

    server: Server
    job_id: str
    base: int
    told: Kills
    done: threading.Event
    names: list[str] = field(default_factory=list)

    def work(self) -> None:
        """Edit until told to stop."""
        while not self.done.is_set():
            name = f"name {len(self.names)}"
            key = secrets.token_hex(8)
            deadline = time.monotonic() + PATIENCE_S
            while (answer := self._ask(name, key)) is None:
                if time.monotonic() > deadline:
                    self.told.wrong.append(f"{name}: not answered in {PATIENCE_S:.0f} s")
                    return
                time.sleep(0.1)
            status, body = answer
            if status != 200:
                self.told.wrong.append(f"{name}: {status} {body.get('detail')}")
                return
            self.names.append(name)
            self.base = body["version"]
            self.told.acknowledged += 1

    def _ask(self, name: str, key: str) -> tuple[int, dict[str, Any]] | None:
        """The answer, or None where it is not known what became of it."""
        data = json.dumps({"base": self.base, "edit": {"do": "rename", "name": name}}).encode()
        headers = {"Content-Type": "application/json", "Idempotency-Key": key}
        asked = urllib.request.Request(f"{self.server.address}/api/v1/jobs/{self.job_id}/edits", data, headers)
        try:
            with urllib.request.urlopen(asked, timeout=10) as answer:
                return answer.status, json.loads(answer.read())
        except urllib.error.HTTPError as error:
            with error:
                body = json.loads(error.read() or b"{}")
            if error.code == 503:
                self.told.unknown += body.get("kind") == "unknown"
                return None
            return error.code, body
        except (OSError, ValueError, HTTPException):  # an answer may end in the middle
            self.told.unknown += 1
            return None


def _check(scope: Scope, job_id: str, editor: Editor, told: Kills) -> None:
    """Every acknowledged edit is there once, in order, each on the one before; and the job can be read."""
    with scope.reading() as connection:
        own = select(VersionRow.id, VersionRow.parent_id, VersionRow.edit).where(VersionRow.job_id == job_id)
        rows = connection.execute(own.order_by(VersionRow.id)).all()
    names = [json.loads(row.edit)["name"] for row in rows if row.edit]
    if names[: len(editor.names)] != editor.names or len(names) > len(editor.names) + 1:
        told.wrong.append(f"acknowledged {len(editor.names)} edits, found {len(names)}")
    if any(row.parent_id != before.id for before, row in pairwise(rows)):
        told.wrong.append("a version does not stand on the one before")
    if jobs.load(scope, job_id).version != rows[-1].id:
        told.wrong.append("the job does not stand at its last version")
    scope.engine.dispose()
