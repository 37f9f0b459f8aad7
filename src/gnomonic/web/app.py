"""The application: routes gathered, assets under a content hash, a strict content policy, one shape of error."""

import copy
import hashlib
import threading
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from datetime import UTC, datetime
from functools import lru_cache
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

from fastapi import Depends, FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, RedirectResponse, Response
from fastapi.templating import Jinja2Templates
from markupsafe import Markup, escape
from pydantic import ValidationError
from sqlalchemy.exc import DataError
from starlette.datastructures import State
from starlette.exceptions import HTTPException
from starlette.middleware.trustedhost import TrustedHostMiddleware

from gnomonic import __version__
from gnomonic.core.errors import Away, BadInput, NoPlan, quoting
from gnomonic.core.job.reading import first_error
from gnomonic.core.prose import Both
from gnomonic.core.say import Say
from gnomonic.formats.beside import ready
from gnomonic.store import accounts
from gnomonic.store.jobs import Done, Moved, NotThere
from gnomonic.store.scope import UNSAVED, UNSEEN, DatabaseAway, FateUnknown, Scope, committed
from gnomonic.web.door.forms import Tokens
from gnomonic.web.door.known import Manners, NotOurPage, ProveAgain, asks, known, page_token, plans, sees_money
from gnomonic.web.door.rights import NotYours, SignInFirst
from gnomonic.web.draw.words import refusal
from gnomonic.web.guard import Guard
from gnomonic.web.parts import as_it_stands
from gnomonic.web.problems import RESPONSES, Problem, problem

HERE = Path(__file__).parent
ASSETS = {
    ".js": "text/javascript",
    ".css": "text/css",
    ".woff2": "font/woff2",
    ".svg": "image/svg+xml",
    ".png": "image/png",
}
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


def moment(when: datetime) -> str:
    """A moment that is kept with its zone, as pages of accounts and of the log say it."""
    return f"{when.astimezone(UTC):%-d %b %Y, %H:%M} UTC"


def link(request: Request, path: str, **query: str | int) -> str:
    """An address of the same job, of the line the page shows."""
    line = request.query_params.get("line", "")[:3]
    asked = {**query, **({"line": line} if line else {})}
    return f"{path}?{urlencode(asked)}" if asked else path


@lru_cache(maxsize=1)
def templates() -> Jinja2Templates:
    """Templates of every verb, compiled once in a process."""
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
                    "days",
                    "sums",
                    "patterns",
                    "door",
                    "field",
                    "log",
                )
            ),
        ]
    )
    made.env.add_extension(Tokens)
    made.env.globals.update(
        asset=asset, link=link, version=__version__, page_token=_token, asks=asks, plans=plans, sees_money=sees_money
    )
    made.env.filters.update(spoken=spoken, moment=moment)
    made.env.trim_blocks = made.env.lstrip_blocks = True
    return made


def _token(request: Request | None, given: str) -> str:
    return given or (page_token(request) if request is not None else "")


def create_app(scope: Scope, hosts: list[str] | None = None, demo: bool = False) -> FastAPI:
    """The application for the hosts named (loopback when none are: then it is one machine's own, until there are accounts).

    ``scope`` is the workspace of that machine; ``demo`` lets visitors in as the demo's owner, and also shows the patterns.
    """
    app = copy.copy(routed(demo))
    app.state, app.user_middleware = State(), []
    app.state.early = True  # the readers of files are loaded before the first file comes
    app.state.manners, app.state.anybody = Manners(alone=hosts is None, demo=demo, tls=hosts is not None), False
    _equip(app, scope)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=hosts or LOOPBACK)
    app.add_middleware(Guard, tls=app.state.manners.tls)
    return app


@lru_cache(maxsize=2)
def routed(demo: bool) -> FastAPI:
    """All routes, made once in a process.  Each application has its own state and its own middleware."""
    from gnomonic.web.doors import DOORS, PATTERNS

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        app.state.house.take_up()
        if app.state.early:
            threading.Thread(target=ready, daemon=True, name="readers").start()
        yield
        app.state.house.close()

    app = FastAPI(
        title="Gnomonic", version=__version__, docs_url=None, redoc_url=None, lifespan=lifespan, responses=RESPONSES,
        dependencies=[Depends(known)],
    )  # fmt: skip
    document = app.openapi

    def openapi() -> dict[str, Any]:
        whole = document()
        schemas = whole.setdefault("components", {}).setdefault("schemas", {})
        schemas.setdefault("Problem", Problem.model_json_schema())
        return whole

    app.openapi = openapi  # type: ignore[method-assign]
    if demo:
        app.include_router(PATTERNS)
    for router in DOORS:
        app.include_router(router)

    @app.get("/assets/{digest}/{path:path}", include_in_schema=False)
    def serve_asset(digest: str, path: str) -> Response:
        target = (HERE / path).resolve()
        if not target.is_relative_to(HERE) or target.suffix not in ASSETS or not target.is_file():
            raise HTTPException(404, "there is no such asset")
        lasting = "public, max-age=31536000, immutable" if digest == asset_hash() else "no-cache"
        return FileResponse(target, media_type=ASSETS[target.suffix], headers={"Cache-Control": lasting})

    _answer_errors(app)
    _answer_at_the_gate(app)
    return app


def _equip(app: FastAPI, scope: Scope) -> None:
    """What the routes share: templates, and the rooms of the workspaces."""
    from gnomonic.web.house import House

    app.state.templates = templates()
    app.state.house = House(scope, app.state.templates)
    app.state.room = app.state.house.room(scope.workspace)


def _answer_errors(app: FastAPI) -> None:
    """Every refusal and fault in one shape."""

    @app.exception_handler(BadInput)
    def bad_input(request: Request, error: BadInput) -> Response:
        said_of = refusal(error) if error.said else None
        kind = "plan" if isinstance(error, NoPlan) else "input"
        return problem(request, 422, error.sentence, error.field, said_of, kind)

    @app.exception_handler(Away)
    def away(request: Request, error: Away) -> Response:
        if isinstance(error, DatabaseAway) and request.method != "GET":
            if committed.get([]):
                sentence = "that was saved, but the database went away before it could be shown"
                return problem(request, 503, sentence, error.field, kind="unknown")
            return problem(request, 503, error.sentence.replace(UNSEEN, UNSAVED), error.field)
        return problem(request, 503, error.sentence, error.field)

    @app.exception_handler(FateUnknown)
    def unknown(request: Request, error: FateUnknown) -> Response:
        return problem(request, 503, str(error), "database", kind="unknown")

    @app.exception_handler(NotThere)
    def not_there(request: Request, error: NotThere) -> Response:
        return problem(request, 404, "there is nothing here by that name: it may have been removed")

    @app.exception_handler(Moved)
    def moved(request: Request, error: Moved) -> Response:
        sentence = "This job was changed in another window; nothing of yours was saved over it."
        return problem(request, 409, sentence, head=error.head)

    @app.exception_handler(Done)
    def done(request: Request, error: Done) -> Response:
        return as_it_stands(request, error.job_id)

    @app.exception_handler(DataError)
    def not_kept(request: Request, error: DataError) -> Response:
        return problem(request, 422, "something given can't be kept in the database: a text or a number that is none")

    @app.exception_handler(HTTPException)
    def http_error(request: Request, error: HTTPException) -> Response:
        headers = dict(error.headers) if error.headers else None
        return problem(request, error.status_code, str(error.detail), headers=headers)

    @app.exception_handler(ValidationError)
    def out_of_range(request: Request, error: ValidationError) -> Response:
        bad = first_error(error)
        return problem(request, 422, bad.sentence, bad.field)

    @app.exception_handler(RequestValidationError)
    def invalid(request: Request, error: RequestValidationError) -> Response:
        first: dict[str, Any] = error.errors()[0]
        field = ".".join(str(p) for p in first["loc"][1:])[:200]
        sentence = quoting(f"{field[:80] or 'the request'}: {first['msg'][0].lower()}{first['msg'][1:]}")
        return problem(request, 422, sentence, field)


def _answer_at_the_gate(app: FastAPI) -> None:
    """Who is not let in, in the same shape."""
    from gnomonic.web.door.keys import again_page

    @app.exception_handler(SignInFirst)
    def sign_in_first(request: Request, error: SignInFirst) -> Response:
        if request.method in ("GET", "HEAD") and not request.url.path.startswith("/api/"):
            to = request.url.path + (f"?{request.url.query}" if request.url.query else "")
            return RedirectResponse(f"/sign-in?{urlencode({'next': to[:400]})}", 303)
        return problem(request, 401, "sign in first: nothing was done", kind="sign-in")

    @app.exception_handler(NotYours)
    def not_yours(request: Request, error: NotYours) -> Response:
        return problem(request, 403, str(error), kind="role")

    @app.exception_handler(ProveAgain)
    def prove_again(request: Request, error: ProveAgain) -> Response:
        return again_page(request, error)

    @app.exception_handler(NotOurPage)
    def not_our_page(request: Request, error: NotOurPage) -> Response:
        return problem(request, 403, str(error))

    @app.exception_handler(accounts.NoSuchPass)
    def no_such_pass(request: Request, error: accounts.NoSuchPass) -> Response:
        return problem(request, 404, str(error))

    @app.exception_handler(accounts.TooOften)
    def too_often(request: Request, error: accounts.TooOften) -> Response:
        return problem(request, 429, str(error), headers={"Retry-After": "900"})
