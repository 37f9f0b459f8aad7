"""Heavy work beside the pages: a queue kept in the same database, worked off by workers on this or any other machine."""

import asyncio
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
ALIVE_S = 30.0  # a worker that has not been heard of for so long is gone


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
            "SELECT j.status::text FROM procrastinate_jobs j LEFT JOIN procrastinate_workers w ON w.id = j.worker_id WHERE j.lock = :name "
            "AND (j.status = 'todo' OR (j.status = 'doing' AND w.last_heartbeat > now() - make_interval(secs => :alive))) ORDER BY j.status LIMIT 1"
        )
        with Scope(self.engine).reading() as connection:
            return connection.execute(query, {"name": f"{task} {key}", "alive": ALIVE_S}).scalar_one_or_none() or ""

    def close(self) -> None:
        """Close what was opened."""
        with self.lock, suppress(ConnectorException, psycopg.Error):
            if self.app is not None:
                self.app.close()
            self.app = None


async def work(engine: Engine, tasks: dict[str, Task], wait: bool = True, **more: Any) -> None:
    """Work the queue off, one piece of work at a time: until interrupted, or until nothing waits (``wait`` false).

    What a worker that is gone had begun is taken up again.
    """
    connector = procrastinate.PsycopgConnector(conninfo=address(engine), min_size=1, max_size=4)
    app = procrastinate.App(connector=connector)
    for name, task in tasks.items():
        app.task(name=name)(task)
    async with app.open_async():
        await _take_up(app)
        rescuing = asyncio.create_task(_rescue(app)) if wait else None
        try:
            await app.run_worker_async(wait=wait, concurrency=1, delete_jobs="always", **more)
        finally:
            if rescuing is not None:
                rescuing.cancel()


async def _rescue(app: procrastinate.App) -> None:
    while True:
        await asyncio.sleep(ALIVE_S)
        with suppress(ConnectorException):
            await _take_up(app)


async def _take_up(app: procrastinate.App) -> None:
    """Put what a worker that is gone had begun back into the queue."""
    for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=ALIVE_S):
        await app.job_manager.retry_job(job)
