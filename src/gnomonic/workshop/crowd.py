"""Many at once: users who look at a page, its plan, and edit, each on a job of their own."""

import json
import random
import statistics
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from http.client import HTTPConnection
from pathlib import Path

from gnomonic.demo.load import single_jobs
from gnomonic.store import accounts, cluster, jobs, people
from gnomonic.store.scope import Scope, connect
from gnomonic.web.door.known import token_of
from gnomonic.workshop.running import serving

USERS = 50
THINK_S = 3.0
LOADED_S = 8.0
SIZES = ("2.4", "3.0", "3.6", "4.2")


@dataclass(slots=True)
class Waits:
    """How long answers took (s), by what was asked, and what went wrong."""

    by_kind: dict[str, list[float]] = field(default_factory=dict)
    errors: list[str] = field(default_factory=list)

    def p95_ms(self, kind: str = "") -> float:
        """What 95 of 100 answers stay under."""
        taken = [t for k, times in self.by_kind.items() if kind in ("", k) for t in times]
        return statistics.quantiles(taken, n=20)[-1] * 1000 if len(taken) > 20 else 0.0

    @property
    def count(self) -> int:
        """How many were answered."""
        return sum(len(times) for times in self.by_kind.values())


def user(port: int, job_id: str, until: float, waits: Waits, bare: bool, seed: int, secret: str) -> None:
    """One user, signed in: page, plan, edit, with time to think between."""
    chance = random.Random(seed)
    link = HTTPConnection("127.0.0.1", port, timeout=30)
    version, turn = 0, 0
    signed = {
        "Content-Type": "application/json",
        "Cookie": f"gnomonic={secret}",
        "X-Page-Token": token_of(accounts.digest_of(secret)),
    }
    time.sleep(chance.uniform(0, THINK_S))
    while time.monotonic() < until:
        kind = ("page", "plan", "edit")[turn % 3]
        path = "/bring-in" if bare else {"page": f"/jobs/{job_id}", "plan": f"/api/v1/jobs/{job_id}/plan", "edit": f"/api/v1/jobs/{job_id}/edits"}[kind]  # fmt: skip
        edit = {"do": "decide", "key": "longest_bay_m", "value": f"{chance.choice(SIZES)} m"}
        body = None if bare or kind != "edit" else json.dumps({"base": version, "edit": edit})
        start = time.perf_counter()
        try:
            link.request("POST" if body else "GET", path, body, signed)
            answer = link.getresponse()
            data = answer.read()
        except OSError as error:
            waits.errors.append(f"{kind}: {error}")
            link.close()
            continue
        waits.by_kind.setdefault(kind, []).append(time.perf_counter() - start)
        if answer.status != 200:
            waits.errors.append(f"{kind}: {answer.status} {data[:200]!r}")
        elif not bare and kind != "page":
            version = json.loads(data)["version"]
        turn += 1
        time.sleep(chance.expovariate(1 / THINK_S))
    link.close()


def crowd(port: int, ids: list[str], secrets: list[str], seconds: float, bare: bool = False) -> Waits:
    """So many users at once for so long."""
    waits = Waits()
    until = time.monotonic() + seconds
    threads = [
        threading.Thread(target=user, args=(port, job_id, until, waits, bare, k, secrets[k]))
        for k, job_id in enumerate(ids)
    ]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return waits


def memory_mb(pid: int) -> float:
    """What the largest of a server's processes takes (MB); memory that several share is divided among them."""
    largest = 0.0
    for entry in Path("/proc").iterdir():
        try:
            if entry.name.isdigit() and pid in (
                int(entry.name),
                int((entry / "stat").read_text().rpartition(")")[2].split()[1]),
            ):
                lines = (entry / "smaps_rollup").read_text().splitlines()
                shares = (float(line.split()[1]) for line in lines if line.startswith("Pss:"))
                largest = max(largest, sum(shares) * 1024 / 1e6)
        except (OSError, ValueError):
            continue
    return largest


def _port(address: str) -> int:
    return int(address.rpartition(":")[2])


def _signed_in(scope: Scope, k: int) -> str:
    """A planner's session; its secret."""
    login = f"user{k}-{time.time_ns()}"
    person = people.add_person(scope, login, login, accounts.PLANNER)
    with scope.writing() as connection:
        return accounts.begin_session(connection, scope.workspace, person, "the bench")


def many(root: Path, seconds: float = 60.0, workers: int = 2) -> tuple[Waits, Waits, list[float]]:
    """Fifty users on jobs of their own, and on a bare endpoint; memory after each third of the time."""
    made = cluster.ensure(root / "crowd", throwaway=True)
    try:
        url = cluster.ensure_database(made, "crowd")
        jobs.migrate(url)
        scope = Scope(connect(url))
        job = single_jobs()[-1]
        ids = [jobs.create(scope, job) for _ in range(USERS)]
        secrets = [_signed_in(scope, k) for k in range(USERS)]
        scope.engine.dispose()
        with serving(url, "bare", workers) as address:
            plain = crowd(_port(address), ids, secrets, min(seconds, 15.0), bare=True)
        held = []
        with serving(url, "warmed", workers) as address:
            time.sleep(LOADED_S)  # the other workers have loaded what they need too
            told = Waits()
            for _ in range(3):
                part = crowd(_port(address), ids, secrets, seconds / 3)
                for kind, times in part.by_kind.items():
                    told.by_kind.setdefault(kind, []).extend(times)
                told.errors += part.errors
                held.append(memory_mb(address.pid))
    finally:
        cluster.stop(made.root)
    return told, plain, held


def report(home: Path, row: Callable[[str, str, str], None]) -> None:
    """Rows of the bench."""
    told, plain, held = many(cluster.default_root(home, "many").parent)
    row(f"{USERS} users thinking {THINK_S:g} s, 60 s, 2 workers: p95", f"{told.p95_ms():.0f} ms", "≤ 300 ms")
    for kind in told.by_kind:
        row(f"  {kind}", f"{told.p95_ms(kind):.0f} ms", "—")
    row("  a bare endpoint's own p95", f"{plain.p95_ms():.0f} ms", "—")
    row(f"  errors of {told.count}", f"{len(told.errors)}", "0")
    row("  the largest process after 20, 40, 60 s", " ".join(f"{mb:.0f}" for mb in held) + " MB", "≤ 350 MB")
