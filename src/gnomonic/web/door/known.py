"""Who asks, before any route: the session, the role, and that a change was asked for by a page of ours."""

import hashlib
import hmac
from dataclasses import dataclass

from fastapi import Request
from fastapi.responses import Response
from starlette.concurrency import run_in_threadpool

from gnomonic.core.errors import BadInput, GnomonicError
from gnomonic.demo.load import PLACE
from gnomonic.store import accounts, passkeys
from gnomonic.store.accounts import OWNER, PLANNER, Who
from gnomonic.store.scope import DatabaseAway, Scope
from gnomonic.web.door.rights import SignInFirst, matters, must_be_let, needed, reads_no_rows
from gnomonic.web.house import House

FORMS = ("application/x-www-form-urlencoded", "multipart/form-data")
TOKEN, TOKEN_HEADER = "page_token", "x-page-token"
AGAIN, AGAIN_KEY = "again", "again_key"  # the password, or a passkey's answer, sent along with what matters
SAFE = ("GET", "HEAD", "OPTIONS")


class NotOurPage(GnomonicError):
    """A change that no page of ours asked for."""


class ProveAgain(GnomonicError):
    """Something that matters, asked for by a session that has not shown for a while who holds it.

    ``fields`` is what was typed, to be sent again with the proof.
    """

    def __init__(self, fields: list[tuple[str, str]], why: str = "") -> None:
        super().__init__(why)
        self.fields, self.why = fields, why


@dataclass(frozen=True, slots=True)
class Manners:
    """How a server lets people in: ``alone`` on one machine, where a visitor is its owner; as the ``demo``'s owner; only by ``tls`` beyond it."""

    alone: bool = True
    demo: bool = False
    tls: bool = False

    @property
    def cookie(self) -> str:
        """What the cookie is called: beyond one machine it is bound to the host and to TLS by its name."""
        return "__Host-gnomonic" if self.tls else "gnomonic"


def token_of(session: str) -> str:
    """What a page shows to have been made for a session."""
    return hmac.new(session.encode(), b"page", hashlib.sha256).hexdigest()[:32]


async def known(request: Request) -> None:
    """Let the request in with its room, or not.  Raises SignInFirst, NotYours, NotOurPage, DatabaseAway."""
    path = getattr(request.scope.get("route"), "path", "")
    method = request.method
    if method not in SAFE and request.headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
        raise NotOurPage("this request came from another site's page and was refused")
    if path.startswith("/assets/") or path.startswith("/field"):
        return
    need = needed(method, path)
    try:
        found = await run_in_threadpool(_asks, request) if _looks_up(request) else _asks(request)
    except DatabaseAway as error:
        if need != "open" and not reads_no_rows(method, path):
            raise
        request.state.away = error  # said by whoever wants rows all the same
        return
    request.state.who = found
    if found is None:
        if need != "open":
            raise SignInFirst("sign in first")
        return
    house: House = request.app.state.house
    request.state.room = house.room(found.workspace, "" if found.alone and not found.person else found.name)
    must_be_let(found, method, path, str(request.path_params.get("job_id", "")))
    if method not in SAFE and found.session and need != "open" and not await _shows_token(request, found):
        raise NotOurPage(
            "this page is older than your sign-in: go back, load it anew and do it again; nothing was saved"
        )
    if found.session and not found.proved and matters(method, path):
        await _proves(request, found)


async def _proves(request: Request, found: Who) -> None:
    """Take the proof that came along.  Raises ProveAgain without one, or with one that is none."""
    form = await request.form()
    given, key = str(form.get(AGAIN, "")), str(form.get(AGAIN_KEY, ""))
    hidden = (TOKEN, AGAIN, AGAIN_KEY)
    fields = [(k, v) for k, v in form.multi_items() if isinstance(v, str) and k not in hidden]
    if not given and not key:
        raise ProveAgain(fields)
    engine = request.app.state.house.scope.engine
    try:
        if key:
            await run_in_threadpool(passkeys.prove, engine, site(request), found, key)
        else:
            await run_in_threadpool(accounts.proves_anew, engine, found, given)
    except BadInput as error:
        raise ProveAgain(fields, error.sentence) from None
    except accounts.TooOften as error:
        raise ProveAgain(fields, str(error)) from None
    await run_in_threadpool(accounts.proved, engine, found)


def site(request: Request) -> passkeys.Site:
    """What passkeys made here are bound to.  Raises BadInput where the page was opened by a number."""
    return passkeys.site_of(address_of(request))


def address_of(request: Request) -> str:
    """How the server is called by whoever asks: with TLS in front, whatever that passes on."""
    manners: Manners = request.app.state.manners
    return f"{'https' if manners.tls else request.url.scheme}://{request.headers.get('host', '')}"


def _looks_up(request: Request) -> bool:
    """Whether the database must be asked who it is: not in a demo that nobody signed in to."""
    manners: Manners = request.app.state.manners
    return not manners.demo or manners.cookie in request.cookies


def _asks(request: Request) -> Who | None:
    manners: Manners = request.app.state.manners
    scope: Scope = request.app.state.house.scope
    secret = request.cookies.get(manners.cookie, "")
    if secret and (found := accounts.who(scope.engine, secret)):
        return found
    if manners.demo:
        return Who("", "the demo’s owner", OWNER, scope.workspace, PLACE, alone=True)
    if manners.alone and not request.app.state.anybody:
        request.app.state.anybody = accounts.anybody(scope.engine)  # once there is one there always is
        if not request.app.state.anybody:
            return Who("", "", OWNER, scope.workspace, "this machine", alone=True)
    return None


async def _shows_token(request: Request, found: Who) -> bool:
    shown = request.headers.get(TOKEN_HEADER, "")
    if not shown and request.headers.get("content-type", "").startswith(FORMS):
        shown = str((await request.form()).get(TOKEN, ""))
    return hmac.compare_digest(shown.encode(), token_of(found.session).encode())


def asks(request: Request) -> Who | None:
    """Who asks; none where nobody is signed in."""
    return getattr(request.state, "who", None)


def plans(request: Request) -> bool:
    """Whether who asks may change the plan; who may not is shown no button for it."""
    found = asks(request)
    return found is None or found.role in (OWNER, PLANNER)


def sees_money(request: Request) -> bool:
    """Whether who asks may see prices: whoever plans."""
    return plans(request)


def page_token(request: Request) -> str:
    """The token of a page; empty where nobody signed in."""
    found = asks(request)
    return token_of(found.session) if found and found.session else ""


def put_session(request: Request, answer: Response, secret: str) -> Response:
    """Have the browser hold a session."""
    manners: Manners = request.app.state.manners
    answer.set_cookie(
        manners.cookie,
        secret,
        max_age=int(accounts.LONGEST.total_seconds()),
        path="/",
        secure=manners.tls,
        httponly=True,
        samesite="lax",
    )
    return answer


def drop_session(request: Request, answer: Response) -> Response:
    """Have the browser forget its session."""
    manners: Manners = request.app.state.manners
    answer.delete_cookie(manners.cookie, path="/", secure=manners.tls, httponly=True, samesite="lax")
    return answer
