"""Calls of services outside: JSON over HTTP, patient and no more, every refusal one sentence that names the service."""

import json
import os
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from dataclasses import dataclass, field
from http.client import HTTPException, HTTPResponse
from typing import Any

from gnomonic.core.errors import Away, BadInput
from gnomonic.core.limits import MB, MOST_DESK_BYTES
from gnomonic.core.plain_json import read_json
from gnomonic.standins.service import Service

PATIENCE_S = 10


@dataclass(frozen=True, slots=True)
class Outside:
    """A service: its ``key`` in a refusal, what it is ``called``, the setting that holds its address, what holds when it fails
    (``unchanged``), and what else a person could do."""

    key: str
    called: str
    setting: str
    unchanged: str
    instead: str = ""
    unknown: tuple[str, str] = ("", "")

    def call(self, address: str, body: dict[str, Any] | None = None) -> dict[str, Any]:
        """One call.  Raises Away with one sentence; BadInput (``unknown``) where what was asked about is not known there."""
        data = None if body is None else json.dumps(body).encode()
        unread = f"{self.called}'s answer can't be read: {self.unchanged}"
        try:
            asked = urllib.request.Request(address, data, {"Content-Type": "application/json"})
            with urllib.request.urlopen(asked, timeout=PATIENCE_S) as reply:
                found = read_json(self.whole(reply))
        except urllib.error.HTTPError as error:
            error.close()
            if error.code == 404 and self.unknown[0]:
                raise BadInput(*self.unknown) from None
            raise Away(self.key, f"{self.called} refused the request (status {error.code}): {self.unchanged}") from None
        except HTTPException:
            name = self.called.removeprefix("the ")
            raise Away(self.key, f"what answers there is no {name}: {self.unchanged}") from None
        except OSError:
            raise Away(self.key, f"{self.called} does not answer: {self.unchanged}{self.instead}") from None
        except BadInput:
            raise Away(self.key, unread) from None
        except ValueError:
            name = self.called.removeprefix("the ")
            raise Away(self.key, f"{self.setting} is no address of a {name}: {self.unchanged}") from None
        if not isinstance(found, dict):
            raise Away(self.key, unread)
        return found

    def whole(self, reply: HTTPResponse) -> bytes:
        """All of an answer, if it is no longer than is taken and comes in time.  Raises Away."""
        until, parts, size = time.monotonic() + PATIENCE_S, [], 0
        while part := reply.read1(65536):
            parts.append(part)
            size += len(part)
            if size > MOST_DESK_BYTES:
                most = f"{MOST_DESK_BYTES / MB:g} MB"
                raise Away(self.key, f"{self.called}'s answer is longer than {most}: {self.unchanged}")
            if time.monotonic() > until:
                raise Away(self.key, f"{self.called} does not finish its answer: {self.unchanged}")
        return b"".join(parts)


@dataclass(slots=True)
class OnLine:
    """Where a service listens: at the address its ``setting`` names, or a practice one that ships, opened when first needed."""

    setting: str
    opened: Callable[[], Service]
    practice: Service | None = None
    lock: threading.Lock = field(default_factory=threading.Lock)

    @property
    def is_practice(self) -> bool:
        """Whether it only plays at being one."""
        return not os.environ.get(self.setting)

    def address(self) -> str:
        """Where it listens."""
        if not self.is_practice:
            return os.environ[self.setting].rstrip("/")
        with self.lock:
            if self.practice is None:
                self.practice = self.opened()
            return self.practice.address

    def close(self) -> None:
        """Close the practice one."""
        if self.practice is not None:
            self.practice.stop()
            self.practice = None
