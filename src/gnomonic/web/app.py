"""The application: routes gathered, assets under a content hash, a strict content policy, one shape of error."""

import hashlib
from collections import OrderedDict
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from functools import lru_cache, partial
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse, Response
from fastapi.templating import Jinja2Templates
from markupsafe import Markup, escape
from starlette.exceptions import HTTPException
from starlette.middleware.trustedhost import TrustedHostMiddleware
from starlette.types import ASGIApp, Message, Receive, Send
from starlette.types import Scope as Asked

from gnomonic import __version__
from gnomonic.core.errors import Away, BadInput, NoPlan
from gnomonic.core.log.events import fold
from gnomonic.core.prose import Both
from gnomonic.core.say import Say
from gnomonic.store import events, workspace
from gnomonic.store.jobs import Moved, NotThere
from gnomonic.store.scope import Scope
from gnomonic.web.draw.words import refusal, said
from gnomonic.web.plans import Plans, of_this_request

HERE = Path(__file__).parent
ASSETS = {
    ".js": "text/javascript",
    ".css": "text/css",
    ".woff2": "font/woff2",
    ".svg": "image/svg+xml",
    ".png": "image/png",
}
POLICY = (
    "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; frame-ancestors 'none'; "
    "form-action 'self'"
)
HEADERS = [
    (b"content-security-policy", POLICY.encode()),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"same-origin"),
]
LOOPBACK = ["127.0.0.1", "localhost", "testserver"]


@lru_cache(maxsize=1)
def asset_hash() -> str:
    """One hash over everything that is served as an asset."""
    digest = hashlib.sha256()
    for path in sorted(p for p in HERE.rglob("*") if p.suffix in ASSETS):
        digest.update(str(path.relative_to(HERE)).encode() + path.read_bytes())
    return digest.hexdigest()[:12]


def asset(path: str) -> str:
    """Address of an asset; the one place that builds them."""
    return f"/assets/{asset_hash()}/{path}"


def spoken(text: str) -> Markup:
    """Text whose lengths a page prints in the reader's units."""
    template, values = Say(text).spoken()
    body = escape(template)
    for key, value in values.items():
        if isinstance(value, Both):
            shown = Markup('<span data-us="{}" data-metric="{}">{}</span>').format(value.us, value.metric, value.us)
            body = body.replace(Markup(f"{{{key}}}"), shown)
    return body


def link(request: Request, path: str, **query: str | int) -> str:
    """An address of the same job, of the line the page shows."""
    line = request.query_params.get("line", "")[:3]
    asked = {**query, **({"line": line} if line else {})}
    return f"{path}?{urlencode(asked)}" if asked else path


def templates() -> Jinja2Templates:
    """Templates of every verb."""
    made = Jinja2Templates(
        directory=[
            HERE / "templates",
            *(
                HERE / verb
                for verb in (
                    "home",
                    "lines",
                    "walk",
                    "hold",
                    "set",
                    "haul",
                    "stand",
                    "openings",
                    "pull",
                    "sums",
                    "patterns",
                )
            ),
        ]
    )
    made.env.globals.update(asset=asset, link=link, version=__version__)
    made.env.filters["spoken"] = spoken
    made.env.trim_blocks = made.env.lstrip_blocks = True
    return made


class Guard:
    """Adds the policy headers, and refuses requests that change things from another site's page."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Asked, receive: Receive, send: Send) -> None:
        """Handle one request."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        of_this_request.set({})
        headers = dict(scope["headers"])
        origin = headers.get(b"origin")
        if scope["method"] not in ("GET", "HEAD") and origin is not None:
            host = origin.split(b"://", 1)[-1]
            if host != headers.get(b"host"):
                response = JSONResponse({"detail": "this request came from another site's page and was refused"}, 403)
                await response(scope, receive, send)
                return

        async def sending(message: Message) -> None:
            if message["type"] == "http.response.start":
                message["headers"] = [*message["headers"], *HEADERS]
            await send(message)

        await self.app(scope, receive, sending)


def problem(
    request: Request, status: int, detail: str, field: str = "", sentence: Say | None = None, kind: str = ""
) -> Response:
    """One shape of error: JSON for the API, a page for people; ``said`` where the page can print it in its own units."""
    if request.url.path.startswith("/api/"):
        values: dict[str, Any] = {} if sentence is None else {"said": said(sentence)}
        return JSONResponse(
            {"detail": detail, "field": field, "kind": kind or ("away" if status == 503 else "input"), **values}, status
        )
    context = {"detail": detail, "status": status}
    response: Response = request.app.state.templates.TemplateResponse(
        request, "problem.html", context, status_code=status
    )
    return response


def create_app(scope: Scope, hosts: list[str] | None = None, demo: bool = False) -> FastAPI:
    """The application on a workspace's rows, for the hosts named (loopback when none are); ``demo`` also shows the patterns."""
    from gnomonic.web.haul import routes as haul
    from gnomonic.web.hold import book, labels, shop
    from gnomonic.web.hold import routes as hold
    from gnomonic.web.home import routes as home
    from gnomonic.web.lines import routes as lines
    from gnomonic.web.openings import routes as openings
    from gnomonic.web.openings import sheet as gate_sheet
    from gnomonic.web.patterns import routes as patterns
    from gnomonic.web.pull import routes as pull
    from gnomonic.web.set import routes as set_out
    from gnomonic.web.stand import log, sheet
    from gnomonic.web.stand import routes as stand
    from gnomonic.web.sums import routes as sums
    from gnomonic.web.walk import line, marking, rover
    from gnomonic.web.walk import routes as walk

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        yield
        app.state.hub.close()
        app.state.desk.close()

    app = FastAPI(title="Gnomonic", version=__version__, docs_url=None, redoc_url=None, lifespan=lifespan)
    app.state.scope, app.state.templates = scope, templates()
    app.state.plans = Plans(
        read_overrides=partial(workspace.overrides, scope), read_known=lambda job_id: fold(events.of_job(scope, job_id))
    )
    app.state.hub, app.state.brought = rover.Hub(scope), OrderedDict()
    app.state.desk = marking.Desk()
    if demo:
        app.include_router(patterns.router)
    for part in (
        home,
        lines,
        walk,
        rover,
        line,
        marking,
        hold,
        labels,
        book,
        shop,
        set_out,
        stand,
        sheet,
        log,
        openings,
        gate_sheet,
        pull,
        haul,
        sums,
    ):
        app.include_router(part.router)

    @app.get("/assets/{digest}/{path:path}", include_in_schema=False)
    def serve_asset(digest: str, path: str) -> Response:
        target = (HERE / path).resolve()
        if not target.is_relative_to(HERE) or target.suffix not in ASSETS or not target.is_file():
            raise HTTPException(404, "there is no such asset")
        lasting = "public, max-age=31536000, immutable" if digest == asset_hash() else "no-cache"
        return FileResponse(target, media_type=ASSETS[target.suffix], headers={"Cache-Control": lasting})

    _answer_errors(app)
    app.add_middleware(Guard)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=hosts or LOOPBACK)
    return app


def _answer_errors(app: FastAPI) -> None:
    """Every refusal and fault in one shape."""

    @app.exception_handler(BadInput)
    def bad_input(request: Request, error: BadInput) -> Response:
        said_of = refusal(error) if error.said else None
        return problem(
            request, 422, error.sentence, error.field, said_of, "plan" if isinstance(error, NoPlan) else "input"
        )

    @app.exception_handler(Away)
    def away(request: Request, error: Away) -> Response:
        return problem(request, 503, error.sentence, error.field)

    @app.exception_handler(NotThere)
    def not_there(request: Request, error: NotThere) -> Response:
        return problem(request, 404, "there is nothing here by that name: it may have been removed")

    @app.exception_handler(Moved)
    def moved(request: Request, error: Moved) -> Response:
        sentence = "This job was changed in another window; nothing of yours was saved over it."
        return JSONResponse({"detail": sentence, "head": error.head}, 409)

    @app.exception_handler(HTTPException)
    def http_error(request: Request, error: HTTPException) -> Response:
        return problem(request, error.status_code, str(error.detail))

    @app.exception_handler(RequestValidationError)
    def invalid(request: Request, error: RequestValidationError) -> Response:
        first: dict[str, Any] = error.errors()[0]
        field = ".".join(str(p) for p in first["loc"][1:])
        return problem(request, 422, f"{field or 'the request'}: {first['msg'][0].lower()}{first['msg'][1:]}", field)

    @app.exception_handler(Exception)
    def ours(request: Request, error: Exception) -> Response:
        sentence = "something went wrong in Gnomonic itself; nothing was saved, and what is written in the log helps to mend it"
        return problem(request, 500, sentence)
