"""A worker: takes heavy work from the queue in the database, on this or any other machine that reaches it."""

import asyncio
import contextlib
import logging
import os
import signal
import threading
import time
from typing import Any

from sqlalchemy.engine import Engine

from gnomonic.store.queue import work
from gnomonic.store.scope import Scope, connect

POLL_S, PARENT_S = 5.0, 1.0


def tasks_on(engine: Engine) -> dict[str, Any]:
    """What a worker can do, by name."""
    from gnomonic.core.errors import BadInput
    from gnomonic.store import days
    from gnomonic.store.jobs import NotThere
    from gnomonic.web.app import templates
    from gnomonic.web.days import making, paper
    from gnomonic.web.days.current import SEARCH, SHEETS, current, follow
    from gnomonic.web.house import House

    house = House(Scope(engine), templates())

    def search_days(workspace: str, job_id: str) -> None:
        with contextlib.suppress(NotThere, BadInput):
            now = current(house.room(workspace), job_id)
            if now.made is not None:
                made = making.searched(now.given)
                if days.keep_days(Scope(engine, workspace), job_id, made, now.given.stamp, only=now.given.stamp):
                    follow(house.room(workspace), job_id)

    def day_sheets(workspace: str, job_id: str, units: str) -> None:
        with contextlib.suppress(NotThere, BadInput):
            paper.lay_out(house.room(workspace), job_id, units)

    return {SEARCH: search_days, SHEETS: day_sheets}


def run(url: str, wait: bool = True) -> None:
    """Work until interrupted, or until nothing waits."""
    logging.getLogger("procrastinate").setLevel(logging.ERROR)
    engine = connect(url)
    try:
        asyncio.run(
            work(
                engine,
                tasks_on(engine),
                wait,
                install_signal_handlers=wait,
                fetch_job_polling_interval=POLL_S,
                shutdown_graceful_timeout=2.0,
            )
        )
    except KeyboardInterrupt:
        pass
    finally:
        engine.dispose()


def _with_parent(parent: int) -> None:
    """End as at the keyboard when who started this is gone."""
    while os.getppid() == parent:
        time.sleep(PARENT_S)
    os.kill(os.getpid(), signal.SIGINT)


def main() -> None:
    """A worker started beside a server: the database is named in its environment; it ends with who started it."""
    from gnomonic.serving import DATABASE

    threading.Thread(target=_with_parent, args=(os.getppid(),), daemon=True, name="parent").start()
    run(os.environ[DATABASE])


if __name__ == "__main__":
    main()
