"""What stands before every route: headers on every answer, bodies held to their limits, JSON that can be kept, and no fault unanswered."""

import contextlib
import logging
import re

from fastapi import Request
from fastapi.responses import Response
from starlette.exceptions import HTTPException
from starlette.requests import ClientDisconnect
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from gnomonic.core.errors import BadInput
from gnomonic.core.limits import (
    MB,
    MOST_CATALOG_BYTES,
    MOST_FILE_BYTES,
    MOST_FORM_BYTES,
    MOST_GRID_BYTES,
    MOST_JOB_BYTES,
    MOST_JSON_BYTES,
    MOST_PHOTO_BYTES,
)
from gnomonic.core.plain_json import read_json
from gnomonic.store.scope import committed
from gnomonic.web.flowing import changes
from gnomonic.web.plans import of_this_request
from gnomonic.web.problems import problem

log = logging.getLogger("gnomonic.web")
POLICY = (
    "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; "
    "form-action 'self'"
)
HEADERS = [
    (b"content-security-policy", POLICY.encode()),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"same-origin"),
    (b"permissions-policy", b"camera=(self), geolocation=(self), microphone=()"),
    (b"cross-origin-opener-policy", b"same-origin"),
]
OVER_TLS = [(b"strict-transport-security", b"max-age=31536000")]  # where others reach the server
ROUND_A_FILE = MB // 2  # what a form puts round its file
# where a body may be longer than a form or the JSON of a request, and what may be round it
LARGER = (
    (re.compile(r"/bring-in"), MOST_FILE_BYTES, ROUND_A_FILE),
    (re.compile(r"/api/v1/jobs/[^/]+/grid"), MOST_GRID_BYTES, ROUND_A_FILE),
    (re.compile(r"/jobs/[^/]+/log/phone"), MOST_FILE_BYTES, ROUND_A_FILE),
    (re.compile(r"/catalog"), MOST_CATALOG_BYTES, ROUND_A_FILE),
    (re.compile(r"/jobs/[^/]+/suppliers"), MOST_CATALOG_BYTES, ROUND_A_FILE),
    (re.compile(r"/api/v1/jobs/[^/]+/photos/[0-9a-f]+"), MOST_PHOTO_BYTES, 0),
    (re.compile(r"/api/v1/calc/[^/]+"), MOST_JOB_BYTES, 0),
    (re.compile(r"/sums/[^/]+"), MOST_JOB_BYTES, 0),
)
SECRETS = re.compile(r"^/(join|renew|look)/.+")  # what the rest of the path opens is nobody's who reads a log
OURS = "something went wrong in Gnomonic itself: look whether what you did is there before you do it again; the log says more"


def most_bytes(path: str) -> tuple[int, int]:
    """How long what is sent in a request may be, and what may be round it."""
    found = next(((most, round_it) for way, most, round_it in LARGER if way.fullmatch(path)), None)
    return found or (MOST_JSON_BYTES if path.startswith("/api/") else MOST_FORM_BYTES, 0)


def too_long(most: int) -> str:
    """What is said of a body beyond its limit."""
    return f"what was sent is longer than {most / MB:.3g} MB, which is all that is taken here: nothing was saved"


def _named(path: str) -> str:
    """A path as a log has it."""
    return SECRETS.sub(r"/\1/…", path)


class Guard:
    """Outermost of all: HEAD as GET without its body, requests from other sites' pages refused, limits kept while a body streams in."""

    def __init__(self, app: ASGIApp, tls: bool = False) -> None:
        self.app, self.headers = app, HEADERS + (OVER_TLS if tls else [])

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Handle one request."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        of_this_request.set({})
        committed.set([])
        answer = _Answer(send, scope["method"] == "HEAD", self.headers)
        if scope["method"] == "HEAD":
            scope = {**scope, "method": "GET"}
        try:
            refused, receive = await self._looked_at(scope, receive)
            if refused is not None:
                await refused(scope, receive, answer.send)
            else:
                with contextlib.nullcontext() if scope["method"] == "GET" else changes.made():
                    await self.app(scope, receive, answer.send)
        except ClientDisconnect:  # a line that broke is no fault of ours, and nobody is there to be answered
            log.info("%s %s: who asked went away", scope["method"], _named(scope["path"]))
        except Exception:
            log.exception("%s %s", scope["method"], _named(scope["path"]))
            if answer.started:
                raise
            await problem(Request(scope), 500, OURS)(scope, receive, answer.send)

    async def _looked_at(self, scope: Scope, receive: Receive) -> tuple[Response | None, Receive]:
        """What is refused before any route sees it, and the body as it may be read."""
        request, headers = Request(scope), dict(scope["headers"])
        if "\0" in scope["path"]:
            return problem(request, 404, "there is nothing here by that name"), receive
        if scope["method"] == "GET":
            return None, receive
        origin = headers.get(b"origin")
        if origin is not None and origin.split(b"://", 1)[-1] != headers.get(b"host"):
            return problem(request, 403, "this request came from another site's page and was refused"), receive
        most, round_it = most_bytes(scope["path"])
        said = headers.get(b"content-length", b"")
        if said.isdigit() and (len(said) > 12 or int(said) > most + round_it):
            return problem(request, 413, too_long(most)), receive
        limited = _Limited(receive, most, round_it)
        if not scope["path"].startswith("/api/") or headers.get(b"content-type", b"").startswith(
            (b"multipart/", b"image/")
        ):
            return None, limited.receive
        try:
            body = await limited.whole()
            if body.strip():
                read_json(body)
        except BadInput as error:
            return problem(request, 422, error.sentence, error.field), receive
        except HTTPException as error:
            return problem(request, error.status_code, str(error.detail)), receive
        return None, _again(body, receive)


class _Limited:
    """A body that is counted as it comes.  Raises HTTPException (413) beyond its limit."""

    def __init__(self, receive: Receive, most: int, round_it: int) -> None:
        self.wait, self.left, self.most = receive, most + round_it, most

    async def receive(self) -> Message:
        """The next part."""
        message = await self.wait()
        self.left -= len(message.get("body", b""))
        if self.left < 0:
            raise HTTPException(413, too_long(self.most))
        return message

    async def whole(self) -> bytes:
        """All of it."""
        parts = []
        while True:
            message = await self.receive()
            parts.append(message.get("body", b""))
            if message["type"] != "http.request" or not message.get("more_body"):
                return b"".join(parts)


def _again(body: bytes, receive: Receive) -> Receive:
    """A body that was read, to be read by a route."""
    given = [body]

    async def once() -> Message:
        if given:
            return {"type": "http.request", "body": given.pop(), "more_body": False}
        return await receive()

    return once


class _Answer:
    """An answer with the policy on it; without its body for HEAD."""

    def __init__(self, send: Send, bare: bool, more: list[tuple[bytes, bytes]]) -> None:
        self.out, self.bare, self.more, self.started = send, bare, more, False

    async def send(self, message: Message) -> None:
        """Send a part of it."""
        if message["type"] == "http.response.start":
            self.started = True
            await self.out({**message, "headers": [*message.get("headers", []), *self.more]})
            if self.bare:
                await self.out({"type": "http.response.body", "body": b""})
        elif not self.bare:
            await self.out(message)
