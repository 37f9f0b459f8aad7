"""Pages that take a while: each row is sent when it is made.  A change that anybody makes goes before the next row."""

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from typing import Any, TypeVar

from fastapi import Request
from fastapi.responses import StreamingResponse

from gnomonic.core.errors import Away, BadInput

T = TypeVar("T")
SENT = "\x1e"  # a template's mark: send the page up to here
PATIENCE_S = 1.0  # that a row waits for changes at most


@dataclass(slots=True)
class Changes:
    """Changes that are under way in this process, and who waits for them.

    >>> changes = Changes()
    >>> with changes.made():
    ...     changes.under_way
    1
    >>> changes.first(), changes.under_way
    (True, 0)
    """

    under_way: int = 0
    none: threading.Condition = field(default_factory=threading.Condition)

    @contextmanager
    def made(self) -> Iterator[None]:
        """While a change is made."""
        with self.none:
            self.under_way += 1
        try:
            yield
        finally:
            with self.none:
                self.under_way -= 1
                self.none.notify_all()

    def first(self, patience_s: float = PATIENCE_S) -> bool:
        """Wait for the changes under way; whether there is none now."""
        with self.none:
            return self.none.wait_for(lambda: not self.under_way, patience_s)


changes = Changes()


def one_by_one(rows: Iterator[T], stopped: Callable[[str], T]) -> Iterator[T]:
    """Rows, each made after the changes under way.  Where they can't go on the last row says why."""
    while True:
        changes.first()
        try:
            row = next(rows)
        except StopIteration:
            return
        except (Away, BadInput) as error:
            yield stopped(error.sentence)
            return
        yield row


def flowing(request: Request, template: str, context: dict[str, Any]) -> StreamingResponse:
    """A page that is sent piece by piece, up to each ``{{ sent }}`` in its template."""
    made = request.app.state.templates.get_template(template).generate({"request": request, "sent": SENT, **context})
    return StreamingResponse(_parts(made), media_type="text/html; charset=utf-8")


def _parts(pieces: Iterator[str]) -> Iterator[str]:
    held: list[str] = []
    for piece in pieces:
        if piece != SENT:
            held.append(piece)
        elif held:
            yield "".join(held)
            held.clear()
    yield "".join(held)
