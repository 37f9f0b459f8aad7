"""``./gnomonic mutate [PLACE]``: changes the core wrongly in one place at a time and names what no test found.

All tests are collected once; for each change a fork of that process puts the changed code into the function wherever it is held
and runs the tests that go through it, fastest first, until one fails.  What none finds so is tried once more from the beginning.
"""

import gc
import json
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
import tomllib
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from types import FunctionType
from typing import Any

from gnomonic.core.errors import BadInput
from gnomonic.workshop.mutate.changes import Change, changes_of
from gnomonic.workshop.mutate.fresh import CHANGE
from gnomonic.workshop.mutate.nearest import TESTS, nearest

CORE = "src/gnomonic/core"
EQUIVALENT = "tests/equivalent.toml"
LONGEST_S = 60.0  # of tests for one change; slower ones are left out
ENDLESS = 4.0  # times as long as the tests take: a change that makes them endless is found
PATIENCE_S = 400.0
FOUND, LEFT, SKIPPED = 1, 0, 3


@dataclass(frozen=True, slots=True)
class Equivalent:
    """A change that changes nothing anybody could see, with the reason."""

    file: str
    function: str
    before: str
    after: str
    reason: str


def equivalents(home: Path) -> list[Equivalent]:
    """The list that is kept."""
    return [Equivalent(**row) for row in tomllib.loads((home / EQUIVALENT).read_text()).get("change", [])]


def chosen(home: Path, place: str, count: int, seed: int) -> list[Change]:
    """So many changes of a place in the core: drawn evenly over its functions, none twice, none that is known to change nothing."""
    root = (home / (place or CORE)).resolve()
    if not root.is_relative_to(home / CORE) or not root.exists():
        raise BadInput("place", f"“{place}” is not in the core: name a file or folder below {CORE}")
    files = sorted(root.rglob("*.py")) if root.is_dir() else [root]
    known = {(e.file, e.function, e.before, e.after) for e in equivalents(home)}
    by_function: dict[tuple[Path, str], list[Change]] = {}
    for file in files:
        for change in changes_of(file):
            if (str(file.relative_to(home)), *change.key) not in known:
                by_function.setdefault((file, change.function), []).append(change)
    draw = random.Random(seed)
    for rows in by_function.values():
        draw.shuffle(rows)
    order: list[Change] = []
    while len(order) < count and any(by_function.values()):
        turn = [rows for rows in by_function.values() if rows]
        draw.shuffle(turn)
        order += [rows.pop() for rows in turn]
    return order[:count]


def put_in(change: Change) -> bool:
    """Put the changed code into the function wherever this process holds it; whether it was found."""
    code = change.code()
    if code is None:
        return False
    held = [
        f
        for f in gc.get_objects()
        if isinstance(f, FunctionType)
        and f.__code__.co_qualname == change.function
        and f.__code__.co_firstlineno == change.first_line
        and f.__code__.co_filename == str(change.path)
        and len(f.__code__.co_freevars) == len(code.co_freevars)
    ]
    for function in held:
        function.__code__ = code
    if b"njit" in change.path.read_bytes():
        _forget_compiled()
    return bool(held)


def _forget_compiled() -> None:
    """Loops compiled before, and kept on disk, would be of the code as it was."""
    from numba.core.caching import NullCache
    from numba.core.registry import CPUDispatcher

    for loop in [d for d in gc.get_objects() if isinstance(d, CPUDispatcher)]:
        vars(loop)["_cache"] = NullCache()


class Runner:
    """A plugin of pytest: instead of running what was collected, tries changes on it."""

    def __init__(self, home: Path, changes: Sequence[Change], at_once: int) -> None:
        self.home, self.changes, self.at_once = home, changes, at_once
        self.tests, self.seconds = nearest(home)
        self.ended: dict[int, int] = {}
        self.names: dict[int, list[str]] = {}

    def pytest_runtestloop(self, session: Any) -> bool:
        """Try every change in a fork of its own, as many at once as there are cores.

        What a module of tests calls ``before_changes`` is done once, of the core as it is.
        """
        items = {item.nodeid: item for item in session.items}
        for module in {item.module for item in session.items if hasattr(item, "module")}:
            getattr(module, "before_changes", lambda: None)()
        running: dict[int, tuple[int, float]] = {}
        for k, change in enumerate(self.changes):
            while len(running) >= self.at_once:
                self._wait(running)
            names, total = [], 0.0
            for name in self.tests.get(f"{change.path.relative_to(self.home)}::{change.function}", []):
                total += self.seconds.get(name, 1.0)
                if name in items and total < LONGEST_S:
                    names.append(name)
            self.names[k] = names
            if pid := os.fork():
                running[pid] = (k, time.monotonic() + 20 + ENDLESS * min(total, LONGEST_S))
            else:
                self._try(change, [items[n] for n in names])
        while running:
            self._wait(running)
        with ThreadPoolExecutor(self.at_once) as pool:
            list(pool.map(self._once_more, [k for k, ended in self.ended.items() if ended == LEFT]))
        return True

    def _once_more(self, k: int) -> None:
        """Try a change that was not found from the beginning, in a process of its own."""
        c, found = self.changes[k], False
        if names := self.names[k]:
            module = ".".join(c.path.relative_to(self.home / "src").with_suffix("").parts).removesuffix(".__init__")
            words = json.dumps({"module": module, "span": c.span, "after": c.after})
            command = [
                sys.executable,
                "-m",
                "pytest",
                "-p",
                "gnomonic.workshop.mutate.fresh",
                "-p",
                "no:cacheprovider",
                "-x",
                "-q",
                *names,
            ]
            with tempfile.TemporaryDirectory() as loops:  # compiled ones that are kept would be of the code as it was
                kept = {"NUMBA_CACHE_DIR": loops} if b"njit" in c.path.read_bytes() else {}
                try:
                    done = subprocess.run(
                        command,
                        cwd=self.home,
                        env={**os.environ, CHANGE: words, **kept},
                        capture_output=True,
                        check=False,
                        timeout=PATIENCE_S,
                    )
                    found = done.returncode != 0
                except subprocess.TimeoutExpired:
                    found = True
        if found:
            self.ended[k] = FOUND
        else:
            place = f"{c.path.relative_to(self.home)}:{c.line} {c.function}"
            print(f"NOT FOUND  {place}: {c.before}  →  {c.after}", flush=True)

    def _wait(self, running: dict[int, tuple[int, float]]) -> None:
        """Until one has ended; one that takes far too long is ended, and found."""
        while True:
            pid, status = os.waitpid(-1, os.WNOHANG)
            if pid in running:
                k, _ = running.pop(pid)
                self.ended[k] = os.waitstatus_to_exitcode(status)
                return
            for late in [p for p, (_, until) in running.items() if time.monotonic() > until]:
                os.killpg(late, signal.SIGKILL)
            time.sleep(0.02)

    def _try(self, change: Change, items: list[Any]) -> None:
        """In the fork: change, test, and end with what came of it."""
        os.setpgid(0, 0)
        nothing = os.open(os.devnull, os.O_WRONLY)
        os.dup2(nothing, 1)
        os.dup2(nothing, 2)
        ended = SKIPPED
        try:
            if put_in(change):
                ended = (
                    FOUND
                    if any(_fails(item, later) for item, later in zip(items, [*items[1:], None], strict=True))
                    else LEFT
                )
        except BaseException:  # whatever it is, it was noticed
            ended = FOUND
        finally:
            os._exit(ended)


def _fails(item: Any, later: Any) -> bool:
    from _pytest.runner import runtestprotocol

    return any(report.failed for report in runtestprotocol(item, nextitem=later, log=False))


def mutate(home: Path, place: str, count: int, seed: int) -> int:
    """Make changes, print what no test found, and how many were; 1 where more than one in twelve was not."""
    import pytest

    changes = chosen(home, place, count, seed)
    if not changes:
        print(f"there is nothing to change in {place}", file=sys.stderr)
        return 2
    runner = Runner(home, changes, os.cpu_count() or 1)
    os.environ["HYPOTHESIS_PROFILE"] = "mutate"
    os.chdir(home)
    if pytest.main(["-p", "no:cacheprovider", "-p", "no:xdist", "-q", "-s", *TESTS], plugins=[runner]) > 1:
        return 2
    tried = [k for k, ended in runner.ended.items() if ended != SKIPPED]
    found = [k for k in tried if runner.ended[k] != LEFT]
    print(f"{len(found)} of {len(tried)} wrong changes found ({100 * len(found) / max(1, len(tried)):.0f} %)")
    return 0 if len(found) >= 0.92 * len(tried) else 1
