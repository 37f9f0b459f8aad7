"""Heavy work beside the pages: a queue kept in the same database, worked off by workers on this or any other machine."""

import threading
from collections.abc import Callable
from contextlib import suppress
from typing import Any

import procrastinate
import psycopg
from procrastinate.exceptions import AlreadyEnqueued, ConnectorException
from sqlalchemy import Engine, text

from gnomonic.store.scope import CONNECT_S, UNSAVED, DatabaseAway, Scope

Task = Callable[..., None]
KEPT_H = 24  # finished work is forgotten after a day


def address(engine: Engine) -> str:
    """The database as its driver takes it."""
    return engine.url.set(drivername="postgresql").render_as_string(hide_password=False)


class Queue:
    """Where a web process puts work down; it opens a connection when it first has some."""

    def __init__(self, engine: Engine) -> None:
        self.engine, self.lock = engine, threading.Lock()
        self.app: procrastinate.App | None = None

    def put(self, task: str, key: str, **given: str) -> bool:
        """Put work down unless the same (``key``) is waiting already; whether it was put down.  Raises DatabaseAway."""
        try:
            with self.lock:
                if self.app is None:
                    connector = procrastinate.SyncPsycopgConnector(conninfo=address(self.engine), min_size=0, max_size=2, timeout=CONNECT_S, kwargs={"connect_timeout": CONNECT_S})  # fmt: skip
                    self.app = procrastinate.App(connector=connector)
                    self.app.open()
            self.app.configure_task(task, queueing_lock=f"{task} {key}", lock=f"{task} {key}").defer(**given)
        except AlreadyEnqueued:
            return False
        except (ConnectorException, psycopg.Error):
            raise DatabaseAway(f"the database does not answer: {UNSAVED}") from None
        return True

    def waiting(self, task: str, key: str) -> str:
        """Whether a piece of work is waiting (todo) or being done (doing); empty where it is neither.  Raises DatabaseAway."""
        query = text(
            "SELECT status::text FROM procrastinate_jobs WHERE lock = :name AND status IN ('todo', 'doing') ORDER BY status LIMIT 1"
        )
        with Scope(self.engine).reading() as connection:
            return connection.execute(query, {"name": f"{task} {key}"}).scalar_one_or_none() or ""

    def close(self) -> None:
        """Close what was opened."""
        with self.lock, suppress(ConnectorException, psycopg.Error):
            if self.app is not None:
                self.app.close()
            self.app = None


async def work(engine: Engine, tasks: dict[str, Task], wait: bool = True, **more: Any) -> None:
    """Work the queue off, one piece of work at a time: until interrupted, or until nothing waits (``wait`` false)."""
    connector = procrastinate.PsycopgConnector(conninfo=address(engine), min_size=1, max_size=4)
    app = procrastinate.App(connector=connector)
    for name, task in tasks.items():
        app.task(name=name)(task)
    async with app.open_async():
        await app.run_worker_async(wait=wait, concurrency=1, delete_jobs="always", **more)
