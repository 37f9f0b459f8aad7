"""A server on a socket of its own and a browser, for the bench, the pictures and the browser tests."""

import os
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from gnomonic.provision import chromium

STARTS_WITHIN_S = 60


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
    from gnomonic.store.scope import Scope, connect
    from gnomonic.web.app import create_app

    return create_app(Scope(connect(os.environ["GNOMONIC_DATABASE_URL"])), demo=True)


def own() -> object:
    """The application as ``serve`` has it: once there is an account everybody signs in."""
    from gnomonic.store.scope import Scope, connect
    from gnomonic.web.app import create_app

    return create_app(Scope(connect(os.environ["GNOMONIC_DATABASE_URL"])))


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


@contextmanager
def serving(url: str, factory: str = "application", workers: int = 1) -> Iterator[Running]:
    """Serve a database on a free port of loopback; yields the address, and what process serves there."""
    listener = socket.socket()
    listener.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
    listener.bind(("127.0.0.1", 0))
    listener.listen(128)
    listener.set_inheritable(True)
    number = listener.fileno()
    command = [sys.executable, "-m", "uvicorn", "--factory", f"gnomonic.workshop.running:{factory}"]
    process = subprocess.Popen(
        [
            *command,
            "--fd",
            str(number),
            "--log-level",
            "warning",
            "--no-access-log",
            "--timeout-graceful-shutdown",
            "1",
            "--timeout-keep-alive",
            "65",
            "--workers",
            str(workers),
        ],
        pass_fds=[number],
        env={**os.environ, "GNOMONIC_DATABASE_URL": url, "PYTHONPATH": os.pathsep.join(p for p in sys.path if p)},
    )
    address = f"http://127.0.0.1:{listener.getsockname()[1]}"
    listener.close()
    try:
        deadline = time.monotonic() + STARTS_WITHIN_S
        while True:
            try:
                urllib.request.urlopen(f"{address}/bring-in", timeout=STARTS_WITHIN_S).close()
                break
            except OSError:
                if process.poll() is not None or time.monotonic() > deadline:
                    raise RuntimeError("the server did not start") from None
        running = Running(address)
        running.pid = process.pid
        yield running
    finally:
        process.terminate()
        process.wait()
