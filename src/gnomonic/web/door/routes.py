"""Coming in and going: sign-in, links that open something, one's own page."""

from typing import Annotated, Any
from urllib.parse import urlsplit

from fastapi import APIRouter, Form, Query, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response

from gnomonic.core.errors import BadInput
from gnomonic.store import accounts, passes, passkeys, people
from gnomonic.store.accounts import LEFT, Who
from gnomonic.web.door.known import Manners, asks, drop_session, page_token, put_session, site
from gnomonic.web.door.rights import MAY
from gnomonic.web.room import room

router = APIRouter()
Typed = Annotated[str, Form(max_length=400)]


def gate_page(request: Request, template: str, status: int = 200, **more: Any) -> Response:
    """A page that no browser keeps."""
    answer: Response = request.app.state.templates.TemplateResponse(
        request, template, {"error": None, **more}, status_code=status
    )
    answer.headers["Cache-Control"] = "no-store"
    return answer


def agent_of(request: Request) -> str:
    """The browser, in a word or two."""
    text = request.headers.get("user-agent", "")
    browser = next((b for b in ("Firefox", "Edg", "Chrome", "Safari") if b in text), "a browser")
    system = next((s for s in ("Android", "iPhone", "iPad", "Windows", "Mac OS", "Linux") if s in text), "")
    return f"{browser.replace('Edg', 'Edge')}{f' on {system}' if system else ''}"


def called_from(request: Request) -> str:
    """The address tries are counted by."""
    return request.client.host if request.client else ""


def _ours(path: str) -> str:
    """A place of ours to go on to, and nothing else."""
    try:
        parts = urlsplit(path)
    except ValueError:
        return "/"
    ok = (
        path.startswith("/")
        and not path.startswith(("//", "/\\"))
        and not parts.scheme
        and not parts.netloc
        and path.isprintable()
    )
    return path if ok else "/"


def named(request: Request) -> str:
    """Empty where passkeys can be had at this address, else why not."""
    try:
        site(request)
    except BadInput as error:
        return error.sentence
    return ""


def engine_of(request: Request) -> Any:
    """The database everybody signs in to."""
    return request.app.state.house.scope.engine


@router.get("/sign-in", include_in_schema=False)
def sign_in_page(request: Request, next: Annotated[str, Query(max_length=400)] = "/") -> Response:
    """Where one signs in."""
    return _sign_in(request, _ours(next))


def _sign_in(request: Request, to: str, status: int = 200, login: str = "", error: str | None = None) -> Response:
    return gate_page(request, "sign_in.html", status, to=to, login=login, error=error, named=named(request))


@router.post("/sign-in", include_in_schema=False)
def sign_in(request: Request, login: Typed = "", password: Typed = "", to: Typed = "/") -> Response:
    """Sign in, and go on to where one wanted to go."""
    try:
        secret = accounts.sign_in(engine_of(request), login, password, agent_of(request), called_from(request))
    except BadInput as error:
        return _sign_in(request, _ours(to), 422, login[:120], error.sentence)
    except accounts.TooOften as error:
        return _sign_in(request, _ours(to), 429, login[:120], str(error))
    return put_session(request, RedirectResponse(_ours(to), 303), secret)


@router.post("/sign-out", include_in_schema=False)
def sign_out(request: Request) -> Response:
    """Sign this browser out."""
    if (found := asks(request)) and found.session:
        accounts.sign_out(engine_of(request), found)
    return drop_session(request, RedirectResponse("/sign-in", 303))


# ---- links


@router.get("/join/{secret}", include_in_schema=False)
def join_page(request: Request, secret: str) -> Response:
    """What one is invited to."""
    found = passes.opened(engine_of(request), secret, "join")
    return gate_page(request, "join.html", found=found, typed={"name": found.whom, "login": ""}, who=person_of(request))


def person_of(request: Request) -> Who | None:
    """The person who asks; none for a stranger, a client and the one machine's visitor."""
    found = asks(request)
    return found if found and found.person else None


@router.post("/join/{secret}", include_in_schema=False)
def join(
    request: Request, secret: str, login: Typed = "", name: Typed = "", password: Typed = "", mine: Typed = ""
) -> Response:
    """Take an invitation up, with a new account or with one's own (``mine``)."""
    engine, person = engine_of(request), person_of(request)
    found = passes.opened(engine, secret, "join")
    try:
        if mine and person:
            passes.join_as(engine, secret, person)
            return RedirectResponse("/", 303)
        made = passes.join(engine, secret, login, name, password, agent_of(request))
    except BadInput as error:
        typed = {"name": name, "login": login}
        return gate_page(request, "join.html", 422, found=found, typed=typed, who=person, error=error.sentence)
    return put_session(request, RedirectResponse("/", 303), made)


@router.get("/renew/{secret}", include_in_schema=False)
def renew_page(request: Request, secret: str) -> Response:
    """Where one chooses a new password."""
    return gate_page(request, "renew.html", found=passes.opened(engine_of(request), secret, "renew"))


@router.post("/renew/{secret}", include_in_schema=False)
def renew(request: Request, secret: str, password: Typed = "") -> Response:
    """Choose it."""
    found = passes.opened(engine_of(request), secret, "renew")
    try:
        made = passes.renew(engine_of(request), secret, password, agent_of(request))
    except BadInput as error:
        return gate_page(request, "renew.html", 422, found=found, error=error.sentence)
    return put_session(request, RedirectResponse("/", 303), made)


@router.get("/look/{secret}", include_in_schema=False)
def look(request: Request, secret: str) -> Response:
    """Come in as a client, to the one job."""
    made, job_id = passes.look(engine_of(request), secret, agent_of(request))
    return put_session(request, RedirectResponse(f"/jobs/{job_id}/look", 303), made)


# ---- one's own page


@router.get("/me", include_in_schema=False)
def me_page(request: Request) -> Response:
    """Who one is here, and where one is signed in."""
    return _me(request)


def _me(request: Request, status: int = 200, error: str | None = None, told: str = "") -> Response:
    found, engine = asks(request), engine_of(request)
    assert found is not None
    person = bool(found.person)
    return gate_page(
        request, "me.html", status, error=error, told=told, who=found, may=MAY,
        login=people.login_of(engine, found.person) if person else "",
        sessions=accounts.sessions_of(engine, found.person) if person else [],
        places=accounts.places_of(engine, found.person) if person else [],
        keys=passkeys.of(engine, found.person) if person else [], named=named(request),
    )  # fmt: skip


@router.post("/me/password", include_in_schema=False)
def change_password(request: Request, old: Typed = "", password: Typed = "") -> Response:
    """Change one's password; every other browser is signed out."""
    found = person_of(request)
    if found is None:
        return RedirectResponse("/me", 303)
    try:
        people.set_password(engine_of(request), found, old, password)
    except (BadInput, accounts.TooOften) as error:
        return _me(request, 422, error.sentence if isinstance(error, BadInput) else str(error))
    return _me(request, told="The password is changed; every other browser is signed out.")


@router.post("/me/sign-out-everywhere", include_in_schema=False)
def out_everywhere(request: Request) -> Response:
    """Sign every browser out."""
    if (found := asks(request)) and found.session:
        accounts.sign_out(engine_of(request), found, everywhere=True)
    return drop_session(request, RedirectResponse("/sign-in", 303))


@router.post("/me/workspace", include_in_schema=False)
def other_workspace(request: Request, workspace: Typed = "") -> Response:
    """Work in another workspace one has a role in."""
    if (found := person_of(request)) is not None:
        accounts.go_to(engine_of(request), found, workspace)
    return RedirectResponse("/", 303)


@router.get("/api/v1/me")
def me(request: Request) -> Response:
    """Who asks, in what role, and the token their changes carry (``X-Page-Token``)."""
    found = asks(request)
    assert found is not None
    manners: Manners = request.app.state.manners
    body = {
        "person": found.person, "name": found.name, "role": found.role, "workspace": found.workspace, "called": found.called, "alone": found.alone,
        "demo": manners.demo, "token": page_token(request), "actor": "" if found.role == LEFT else room(request).scope.actor,
    }  # fmt: skip
    return JSONResponse(body, headers={"Cache-Control": "no-store"})
