"""Passkeys: made on one's own page, used to sign in, and to show once more who one is before what matters."""

from collections import defaultdict
from typing import Annotated, Any

from fastapi import APIRouter, Body, Form, Request
from fastapi.responses import JSONResponse, RedirectResponse, Response

from gnomonic.store import passkeys
from gnomonic.store.accounts import Who
from gnomonic.web.door.known import AGAIN, AGAIN_KEY, ProveAgain, put_session, site
from gnomonic.web.door.rights import NotYours
from gnomonic.web.door.routes import agent_of, called_from, engine_of, gate_page, named, person_of

router = APIRouter()
# what is about to be done, by the last part of its address
ABOUT = {
    "first": "make the first account",
    "invite": "invite {whom} as {role}",
    "client": "give {whom} a link to look at a job by",
    "end-link": "take a link back",
    "name": "call the workspace “{name}”",
    "role": "give the role {role}",
    "take-away": "take a role away",
    "renew": "give a link for a new password",
}
Credential = Annotated[dict[str, Any], Body(embed=True)]


def _somebody(request: Request) -> Who:
    found = person_of(request)
    if found is None:
        raise NotYours("a passkey belongs to somebody with an account")
    return found


def _unkept(body: dict[str, Any], status: int = 200) -> JSONResponse:
    return JSONResponse(body, status, headers={"Cache-Control": "no-store"})


@router.post("/api/v1/passkeys/ask")
def ask_new(request: Request, password: Annotated[str, Body(embed=True, max_length=400)]) -> Response:
    """What the browser is to make a passkey for, the password given once more."""
    return _unkept(passkeys.begin_adding(engine_of(request), site(request), _somebody(request), password))


@router.post("/api/v1/passkeys")
def add(request: Request, credential: Credential) -> Response:
    """Keep a passkey that was just made."""
    passkeys.add(engine_of(request), site(request), _somebody(request), credential, agent_of(request))
    return _unkept({"kept": True}, 201)


@router.post("/me/passkeys/drop", include_in_schema=False)
def drop(request: Request, key: Annotated[str, Form(max_length=2000)] = "") -> Response:
    """Take one of one's own away."""
    passkeys.drop(engine_of(request), _somebody(request), key)
    return RedirectResponse("/me", 303)


@router.post("/api/v1/passkeys/sign-in/ask")
def ask_sign_in(request: Request) -> Response:
    """What a passkey is to sign to sign in."""
    return _unkept(passkeys.begin_using(engine_of(request), site(request), called_from(request)))


@router.post("/api/v1/passkeys/sign-in")
def sign_in(request: Request, credential: Credential) -> Response:
    """Sign in with what a passkey signed."""
    secret = passkeys.sign_in(engine_of(request), site(request), credential, agent_of(request), called_from(request))
    return put_session(request, _unkept({"in": True}), secret)


@router.post("/api/v1/passkeys/prove")
def ask_proof(request: Request) -> Response:
    """What a passkey is to sign to show once more who one is."""
    return _unkept(passkeys.begin_using(engine_of(request), site(request), called_from(request), _somebody(request)))


def again_page(request: Request, error: ProveAgain) -> Response:
    """Asks for the password, or a passkey, before what matters is done; what was typed goes along."""
    found = person_of(request)
    assert found is not None
    about = ABOUT[request.url.path.rsplit("/", 1)[1]].format_map(defaultdict(lambda: "…", error.fields))
    here = "" if named(request) else site(request).name
    keys = any(key.site == here for key in passkeys.of(engine_of(request), found.person))
    return gate_page(
        request, "again.html", 403, error=error.why or None, to=request.url.path, fields=error.fields, who=found, keys=keys, about=about,
        password_field=AGAIN, key_field=AGAIN_KEY,
    )  # fmt: skip
