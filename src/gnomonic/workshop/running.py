"""A server on a socket of its own and a browser, for the bench, the pictures and the browser tests."""

import atexit
import json
import os
import select
import signal
import socket
import subprocess
import sys
import threading
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any

from gnomonic.provision import chromium

STARTS_WITHIN_S = 60
PATIENCE = 10  # a test waits so many times as long for the database as a page does for a person


def headless() -> dict[str, Any]:
    """How the browser that is there is started, so that nothing leaves the machine."""
    return {
        "executable_path": chromium(),
        "chromium_sandbox": False,
        "args": [
            "--disable-quic",
            "--disable-gpu",
            "--host-resolver-rules=MAP * ~NOTFOUND, EXCLUDE 127.0.0.1, EXCLUDE localhost",
        ],
    }


def application() -> object:
    """The application on the database named in the environment; uvicorn calls this."""
    return _application(demo=True)


def own() -> object:
    """The application as ``serve`` has it: once there is an account everybody signs in."""
    return _application(demo=False)


def _application(demo: bool) -> object:
    from gnomonic.store.scope import Scope, connect
    from gnomonic.web.app import create_app

    made = create_app(Scope(connect(os.environ["GNOMONIC_DATABASE_URL"], PATIENCE)), demo=demo)
    made.state.early = False  # few that serve for a test read a file
    return made


def warmed() -> object:
    """The same, with everything loaded before the first request, as ``serve`` has it."""
    from gnomonic.serving import warm

    warm()
    return application()


def bare() -> object:
    """The same stack with one endpoint that reads one row: what a page's time is held against."""
    from fastapi import FastAPI
    from sqlalchemy import text

    from gnomonic.store.scope import connect

    app = FastAPI()
    engine = connect(os.environ["GNOMONIC_DATABASE_URL"])

    @app.get("/bring-in")
    def one() -> dict[str, str]:
        with engine.connect() as connection:
            return {"name": connection.execute(text("SELECT name FROM jobs LIMIT 1")).scalar_one()}

    return app


class Running(str):
    """An address, with the process (``pid``) that serves there."""

    pid: int = 0


@cache
def _seed() -> socket.socket:
    """The process servers are forked from; it ends with this one."""
    here, there = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
    there.set_inheritable(True)
    process = subprocess.Popen(
        [sys.executable, "-m", "gnomonic.workshop.seed", str(there.fileno())], pass_fds=[there.fileno()],
        env={**os.environ, "PYTHONPATH": os.pathsep.join(p for p in sys.path if p)},
    )  # fmt: skip
    there.close()

    def over() -> None:
        here.close()
        process.wait()

    atexit.register(over)
    return here


_asking = threading.Lock()


@contextmanager
def serving(url: str, factory: str = "application", workers: int = 1) -> Iterator[Running]:
    """Serve a database on a free port of loopback; yields the address, and what process serves there."""
    listener = socket.socket()
    listener.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
    listener.bind(("127.0.0.1", 0))
    listener.listen(128)
    address = Running(f"http://127.0.0.1:{listener.getsockname()[1]}")
    environment, called = {"GNOMONIC_DATABASE_URL": url}, f"gnomonic.workshop.running:{factory}"
    with (_forked if workers == 1 else _started)(listener, environment, called, workers) as address.pid:
        listener.close()
        _until_it_answers(address)
        yield address


def _until_it_answers(address: Running) -> None:
    deadline = time.monotonic() + STARTS_WITHIN_S
    while True:
        try:
            urllib.request.urlopen(f"{address}/bring-in", timeout=STARTS_WITHIN_S).close()
            return
        except OSError:
            if not Path(f"/proc/{address.pid}").exists() or time.monotonic() > deadline:
                raise RuntimeError("the server did not start") from None


@contextmanager
def _forked(listener: socket.socket, environment: dict[str, str], factory: str, _: int) -> Iterator[int]:
    """A server forked from one that has everything loaded."""
    with _asking:
        words = json.dumps({"environment": environment, "factory": factory}).encode()
        socket.send_fds(_seed(), [words], [listener.fileno()])
        pid = int(_seed().recv(32))
    handle = os.pidfd_open(pid)
    try:
        yield pid
    finally:
        signal.pidfd_send_signal(handle, signal.SIGTERM)
        select.select([handle], [], [], STARTS_WITHIN_S)
        os.close(handle)


@contextmanager
def _started(listener: socket.socket, environment: dict[str, str], factory: str, workers: int) -> Iterator[int]:
    """A server with several workers, as a command starts it."""
    listener.set_inheritable(True)
    command = [
        sys.executable, "-m", "uvicorn", "--factory", factory, "--fd", str(listener.fileno()), "--log-level", "warning", "--no-access-log",
        "--timeout-graceful-shutdown", "1", "--timeout-keep-alive", "65", "--workers", str(workers),
    ]  # fmt: skip
    whole = {**os.environ, **environment, "PYTHONPATH": os.pathsep.join(p for p in sys.path if p)}
    process = subprocess.Popen(command, pass_fds=[listener.fileno()], env=whole)
    try:
        yield process.pid
    finally:
        process.terminate()
        process.wait()
