"""Serving from a checkout: one server of it at a time, found and named by the second; ended with all it started.

State files are written whole; one that is torn or of a process that is gone counts for nothing.
"""

import contextlib
import ctypes
import fcntl
import gc
import json
import os
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from gnomonic.provision import CannotInstall, say, write_whole

FIRST_PORT = 8470
PORTS = 50
PATIENCE_S = 10.0
SWITCH_S = 0.001
HELPER_S, HELPER_ENDS_S = 1.0, 4.0
YOUNG = 50_000  # objects made before the collector looks at the young ones
ARENA_MAX = -8  # as the C library's mallopt calls it
ARENAS = 2  # pools that threads take memory from: with one a thread much lies idle
ID = "GNOMONIC_SERVE_ID"
DATABASE, DEMO = "GNOMONIC_SERVE_DATABASE", "GNOMONIC_SERVE_DEMO"


@dataclass(frozen=True, slots=True)
class Serving:
    """A server of this checkout: its process, when that began (ticks since boot), where it listens, what it serves."""

    pid: int
    began: int
    port: int
    command: str
    key: str

    @property
    def address(self) -> str:
        """Where a browser finds it."""
        return f"http://127.0.0.1:{self.port}/"


def _record(home: Path) -> Path:
    return home / "var" / "serve.json"


def _began(pid: int) -> int | None:
    """When a process began (ticks since boot); None where there is none, or only its remains."""
    try:
        fields = Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()
    except OSError:
        return None
    return None if fields[0] in "ZX" else int(fields[19])


def standing(home: Path) -> Serving | None:
    """The server of this checkout, where it is alive; None for a record that is torn or of a process that is gone."""
    try:
        found = Serving(**json.loads(_record(home).read_text("utf8")))
    except (OSError, ValueError, TypeError):
        return None
    return found if _began(found.pid) == found.began else None


def belongings(home: Path) -> list[int]:
    """Processes that a server of this checkout started, itself among them, whether it is still there or not."""
    mine = f"GNOMONIC_HOME={home}".encode()
    found = []
    for entry in Path("/proc").iterdir():
        if not entry.name.isdigit() or int(entry.name) == os.getpid():
            continue
        try:
            surroundings = (entry / "environ").read_bytes().split(b"\0")
            words = (entry / "cmdline").read_bytes().split(b"\0")
            database = (entry / "comm").read_text().strip() == "postgres"  # is stopped as a cluster is
        except OSError:
            continue
        started = any(s.startswith(f"{ID}=".encode()) for s in surroundings)
        if (
            mine in surroundings
            and not database
            and (started or (b"gnomonic.cli" in words and {b"serve", b"demo"} & set(words)))
        ):
            found.append(int(entry.name))
    return found


@contextmanager
def alone(home: Path, command: str, port: int | None, at: str = "127.0.0.1") -> Iterator[tuple[socket.socket, str]]:
    """Be the one server of this checkout; gives its listening socket and its key.

    Raises CannotInstall, naming the one that is there already.  What a killed one left over is ended first.
    """
    lock = home / "var" / "serve.lock"
    lock.parent.mkdir(parents=True, exist_ok=True)
    with open(lock, "a") as handle:
        try:
            fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise CannotInstall(_taken(home)) from None
        left_over = [pid for pid in belongings(home) if _is_left_over(pid)]
        for pid in left_over:
            say(f"ending process {pid}, left over from a server that was killed")
        _end(left_over)  # together: one that only keeps watch over the others ends when they have
        listener = listen(port, at)
        key = os.urandom(6).hex()
        os.environ[ID] = key
        mine = Serving(os.getpid(), _began(os.getpid()) or 0, listener.getsockname()[1], command, key)
        write_whole(_record(home), json.dumps(asdict(mine)) + "\n")
        try:
            yield listener, mine.address
        finally:
            listener.close()
            if (left := standing(home)) is not None and left.key == key:
                _record(home).unlink(missing_ok=True)


def _is_left_over(pid: int) -> bool:
    """A process of a server whose own process is gone: the system has taken it over, or its line ends there."""
    try:
        parent = int(Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[1])
        words = Path(f"/proc/{parent}/cmdline").read_bytes()
    except (OSError, ValueError):
        return True
    return parent == 1 or (b"gnomonic" not in words and b"multiprocessing" not in words)


def _taken(home: Path) -> str:
    for _ in range(20):
        there = standing(home)
        if there is not None:
            return (
                f"Gnomonic runs from this checkout already: {there.address} ({there.command}, process {there.pid}). Open that, or end it "
                "with ./gnomonic stop"
            )
        time.sleep(0.1)  # it has the lock and has not written its record yet
    others = ", ".join(str(pid) for pid in belongings(home)) or "unknown"
    return f"Gnomonic is being started from this checkout already (process {others}): wait for it, or end it with ./gnomonic stop"


def listen(port: int | None, at: str = "127.0.0.1") -> socket.socket:
    """A listening socket, on loopback unless another address is asked for: the port asked for, or the first free one from the usual.  Raises CannotInstall."""
    for candidate in [port] if port is not None else range(FIRST_PORT, FIRST_PORT + PORTS):
        listener = socket.socket()
        listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        listener.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)  # accepted connections inherit it
        try:
            listener.bind((at, candidate))
        except (OSError, OverflowError):
            listener.close()
            continue
        listener.listen(512)
        return listener
    raise CannotInstall(f"port {port or FIRST_PORT} on {at} is taken: give another with --port")


def end(home: Path) -> list[int]:
    """End the server of this checkout with all it started; the processes that ended."""
    there = standing(home)
    mine = belongings(home)
    if there is not None:
        _end([there.pid])
        mine.append(there.pid)
    _end([pid for pid in belongings(home) if _is_left_over(pid) or there is None])
    if standing(home) is None:
        _record(home).unlink(missing_ok=True)
    return sorted({pid for pid in mine if _began(pid) is None})


def _end(pids: list[int]) -> None:
    """End processes: asked first, then made to."""
    known = {pid: began for pid in pids if (began := _began(pid)) is not None}
    for sent, patience in ((signal.SIGINT, PATIENCE_S), (signal.SIGTERM, PATIENCE_S / 2), (signal.SIGKILL, PATIENCE_S)):
        left = [pid for pid, began in known.items() if _began(pid) == began]
        for pid in left:
            os.kill(pid, sent)
        deadline = time.monotonic() + patience
        while left and time.monotonic() < deadline:
            time.sleep(0.05)
            left = [pid for pid in left if _began(pid) == known[pid]]
        if not left:
            return


def application() -> Any:
    """The application a worker serves, on what its environment names; uvicorn calls this in every process."""
    from gnomonic.store.scope import Scope, connect
    from gnomonic.web.app import LOOPBACK, create_app

    hosts = os.environ.get("GNOMONIC_HOSTS")
    named = [*LOOPBACK, *hosts.split(",")] if hosts else None
    warm()
    return create_app(Scope(connect(os.environ[DATABASE])), named, bool(os.environ.get(DEMO)))


def warm() -> None:
    """Have everything loaded, and the loops compiled, before the first page: a plan of the sample, and what is said of it."""
    with contextlib.suppress(OSError, AttributeError):  # another C library has other ways
        ctypes.CDLL(None).mallopt(ARENA_MAX, ARENAS)

    from gnomonic.core.days import kernel
    from gnomonic.web.home import sample
    from gnomonic.web.plans import Plans

    kernel.warm()

    made = Plans().make("sample", sample.job())
    for it in made.all():
        assert it.drawing
    made.ground()
    gc.collect()
    gc.freeze()  # what is loaded stays: no collection looks at it again
    gc.set_threshold(YOUNG, 20, 100)
    sys.setswitchinterval(SWITCH_S)  # who waits for the database gets its turn soon beside somebody's planning


@contextmanager
def helped(count: int) -> Iterator[None]:
    """So many workers for what is heavy beside what is served, ended with it; one that dies is started again."""
    command, over = [sys.executable, "-m", "gnomonic.working"], threading.Event()
    helpers = [subprocess.Popen(command) for _ in range(count)]

    def watch() -> None:
        while not over.wait(HELPER_S):
            for k, helper in enumerate(helpers):
                if helper.poll() is not None and not over.is_set():
                    helpers[k] = subprocess.Popen(command)

    watching = threading.Thread(target=watch, daemon=True, name="helpers")
    watching.start()
    try:
        yield
    finally:
        over.set()
        watching.join()
        for helper in helpers:
            helper.terminate()
        for helper in helpers:
            try:
                helper.wait(HELPER_ENDS_S)
            except subprocess.TimeoutExpired:  # what it had begun is taken up by another
                helper.kill()
                helper.wait()


def run(listener: socket.socket, url: str, demo: bool, workers: int, helpers: int = 0) -> None:
    """Serve with so many processes until interrupted, and ``helpers`` for what is heavy; one that dies is started again."""
    import uvicorn
    from uvicorn.supervisors import Multiprocess

    os.environ[DATABASE] = url
    os.environ[DEMO] = "yes" if demo else ""
    config = uvicorn.Config(
        "gnomonic.serving:application",
        factory=True,
        log_level="warning",
        access_log=False,
        timeout_graceful_shutdown=2,
        timeout_keep_alive=65,  # longer than a user thinks between two presses
        workers=workers,
        limit_concurrency=400,
    )
    server = uvicorn.Server(config)
    with helped(helpers):
        try:
            if workers == 1:
                server.run(sockets=[listener])
            else:
                Multiprocess(config, sockets=[listener]).run()
        except KeyboardInterrupt:
            pass
