"""Whose rows are meant, and how the database is spoken to: every call of the store goes through here.

A database that is away is said to be; of a change that was being saved it is said whether it was, or that nobody knows.
"""

import contextlib
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from typing import Any

import psycopg
from sqlalchemy import Connection, Engine, create_engine, event, select, text
from sqlalchemy.exc import DBAPIError, DisconnectionError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from gnomonic.core.errors import Away, GnomonicError
from gnomonic.core.limits import DATABASE_S, LOCK_S, STATEMENT_S

committed: ContextVar[list[bool]] = ContextVar("committed")  # what one request has saved so far
OWN = "own"  # the workspace of a server that has no accounts
CONNECT_S = 2
LOOK_S = 1.0  # for a connection that was idle to say that it is there
IDLE_S = 1.0  # a connection that was used so lately is not looked at first
UNSEEN, UNSAVED = "nothing can be shown until it does", "nothing was saved; try again in a moment"


class DatabaseAway(Away):
    """The database does not answer, or not now; what was being changed was not saved."""

    def __init__(self, sentence: str) -> None:
        super().__init__("database", sentence)


class FateUnknown(GnomonicError):
    """The database went away while a change was being committed: nobody knows yet whether it was saved."""


class Patient(psycopg.Connection[Any]):
    """A connection that waits for the database so long and no longer; one that was given up on is closed."""

    patience_s = DATABASE_S

    def wait(self, gen: Any, interval: float = 0.1, timeout: float | None = None) -> Any:
        """Run one exchange with the server.  Raises psycopg.OperationalError where it takes too long."""
        try:
            return super().wait(gen, interval, self.patience_s if timeout is None else timeout)
        except psycopg.OperationalError:
            if self.pgconn.transaction_status == psycopg.pq.TransactionStatus.ACTIVE:  # given up on
                self.pgconn.finish()
            raise


def connect(url: str, times: int = 1) -> Engine:
    """An engine for the application's database, patient and no more.

    Where no person waits, it waits ``times`` as long.
    """
    limits = f"-c statement_timeout={int(STATEMENT_S * 1000) * times} -c lock_timeout={int(LOCK_S * 1000) * times}"
    given = {"connect_timeout": CONNECT_S * times, "options": limits}
    engine = create_engine(url, pool_size=5, max_overflow=20, pool_timeout=DATABASE_S * times, connect_args=given)

    @event.listens_for(engine, "do_connect")
    def _open(_dialect: Any, _record: Any, args: Any, params: Any) -> Any:
        made = Patient.connect(*args, **params)
        made.patience_s = DATABASE_S * times
        return made

    @event.listens_for(engine, "checkin")
    def _left(_connection: Any, record: Any) -> None:
        record.info["left"] = time.monotonic()

    @event.listens_for(engine, "checkout")
    def _look(connection: Any, record: Any, _proxy: Any) -> None:
        if time.monotonic() - record.info.get("left", time.monotonic()) < IDLE_S:
            return
        connection.patience_s = LOOK_S * times
        try:
            connection.execute("SELECT 1")
            connection.rollback()
        except psycopg.Error:
            raise DisconnectionError("the database is not there any more") from None
        finally:
            connection.patience_s = DATABASE_S * times

    return engine


@contextmanager
def _telling(what: str) -> Iterator[None]:
    """What the database refuses or leaves unanswered, as one of ours.  Raises DatabaseAway."""
    try:
        yield
    except (PoolTimeout, DisconnectionError):
        raise DatabaseAway(f"the database does not answer: {what}") from None
    except DBAPIError as error:
        state = getattr(error.orig, "sqlstate", None) or ""
        if state == "55P03":
            raise DatabaseAway(f"somebody else is changing this just now: {what}") from None
        if state == "53100":
            raise DatabaseAway(f"the disk of the database is full: {what}") from None
        if isinstance(error.orig, psycopg.OperationalError | psycopg.InterfaceError) or error.connection_invalidated:
            raise DatabaseAway(f"the database does not answer: {what}") from None
        raise


@dataclass(frozen=True, slots=True)
class Scope:
    """A database, the workspace whose rows are read and written there, and who does it (empty where nobody signed in).

    ``asked`` is what the page called the change it asks for: the same one asked for twice is done once.
    """

    engine: Engine
    workspace: str = OWN
    actor: str = ""
    asked: str = ""

    @contextmanager
    def reading(self) -> Iterator[Connection]:
        """A connection to read by, each statement by itself: no beginning and no end to wait for.  Raises DatabaseAway."""
        with _telling(UNSEEN), self.engine.connect() as connection:
            yield connection.execution_options(isolation_level="AUTOCOMMIT")

    @contextmanager
    def at_one_moment(self) -> Iterator[Connection]:
        """A connection to read by on which nothing changes meanwhile, however long it takes.  Raises DatabaseAway."""
        with _telling(UNSEEN), self.engine.connect() as connection:
            steady = connection.execution_options(isolation_level="REPEATABLE READ", postgresql_readonly=True)
            steady.execute(text("SET LOCAL statement_timeout = 0"))
            yield steady

    def look(self) -> None:
        """See whether the database answers.  Raises DatabaseAway."""
        with self.reading() as connection:
            connection.execute(select(1))

    @contextmanager
    def writing(self) -> Iterator[Connection]:
        """A transaction: all that is done in it is saved at its end, or none.  Raises DatabaseAway, FateUnknown."""
        with _telling(UNSAVED), self.engine.connect() as connection:
            work = connection.begin()
            try:
                yield connection
            except BaseException:
                _quietly(work.rollback)
                raise
            try:
                work.commit()
                committed.get([]).append(True)
            except DBAPIError as error:
                if known_undone(error):
                    raise
                raise FateUnknown(
                    "the database went away while that was being saved: it is not known yet whether it was"
                ) from None


def known_undone(error: DBAPIError) -> bool:
    """Whether a failed commit was refused by a server that is still there: then nothing of it was kept."""
    state = getattr(error.orig, "sqlstate", None) or ""
    return bool(state) and state[:2] not in ("08", "57") and not error.connection_invalidated


def _quietly(what: Callable[[], object]) -> None:
    with contextlib.suppress(DBAPIError):
        what()
