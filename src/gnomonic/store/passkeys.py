"""Passkeys: a key that a phone or a computer keeps, unlocked there by a finger, a face or a PIN, in place of the password.

The checking is py_webauthn's (W3C Web Authentication, level 2, §7.1 and §7.2); here it is kept who they belong to, and that what was asked to
be signed was asked by us, for that purpose, once.
"""

import json
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import lru_cache
from ipaddress import ip_address
from typing import Any
from urllib.parse import urlsplit

from sqlalchemy import Engine, delete, func, insert, select, update

from gnomonic.core.errors import BadInput
from gnomonic.store.accounts import (
    SHORT_FROM,
    SHORT_MOST,
    Who,
    audit,
    begin_session,
    digest_of,
    must_not_be_too_often,
    proves_anew,
    where_to,
)
from gnomonic.store.models import ChallengeRow, PasskeyRow, PersonRow
from gnomonic.store.scope import Scope

ASKED_FOR = timedelta(minutes=5)
MOST_KEYS, MOST_BODY = 20, 20_000
SIGN_IN, PROVE, ADD = "sign in", "prove", "add"
NOT_IT = "that passkey does not open anything here: sign in with the password"


@dataclass(frozen=True, slots=True)
class Site:
    """What a passkey is bound to: the name of the host, and where its pages come from."""

    name: str
    origin: str


@dataclass(frozen=True, slots=True)
class Passkey:
    """A passkey as its owner's page shows it."""

    id: str
    site: str
    label: str
    made_at: datetime
    used_at: datetime | None


def site_of(address: str) -> Site:
    """What a passkey made at an address (``https://name:port``) is bound to.  Raises BadInput where it is a number: no browser makes one there."""
    parts = urlsplit(address)
    name = parts.hostname or ""
    try:
        ip_address(name)
    except ValueError:
        return Site(name, address)
    port = parts.netloc[len(name) :] if not name.count(":") else ""
    raise BadInput(
        "host", f"a passkey is bound to a name, and this page was opened by a number: open it as localhost{port}"
    )


@lru_cache(maxsize=1)
def _library() -> Any:
    """The library that makes questions and checks answers: a third of a second to load, and few ask for it."""
    import webauthn

    return webauthn


def _refusals() -> tuple[type[Exception], ...]:
    """What the library raises at an answer that is none."""
    return (_library().helpers.exceptions.WebAuthnException, ValueError, TypeError, KeyError, AttributeError)


def _ask(engine: Engine, challenge: bytes, purpose: str) -> None:
    with Scope(engine).writing() as connection:
        connection.execute(delete(ChallengeRow).where(ChallengeRow.until < func.now()))
        row = {"digest": digest_of(challenge.hex()), "purpose": purpose, "until": func.now() + ASKED_FOR}
        connection.execute(insert(ChallengeRow).values(**row))


def _asked(engine: Engine, credential: Any, purpose: str) -> bytes:
    """The challenge an answer signs, which was ours, for this, and is spent now.  Raises BadInput."""

    known = _library().helpers
    try:
        signed = known.base64url_to_bytes(credential["response"]["clientDataJSON"])
        challenge: bytes = known.parse_client_data_json(signed).challenge
    except _refusals():
        raise BadInput("credential", "that is no answer of a passkey") from None
    own = (ChallengeRow.digest == digest_of(challenge.hex()), ChallengeRow.purpose == purpose)
    with Scope(engine).writing() as connection:
        spent = delete(ChallengeRow).where(*own, ChallengeRow.until > func.now()).returning(ChallengeRow.digest)
        if connection.execute(spent).first() is None:
            raise BadInput("credential", "that was asked for too long ago, or answered already: begin again")
    return challenge


def of(engine: Engine, person: str) -> list[Passkey]:
    """Somebody's passkeys, the newest first."""
    query = select(PasskeyRow.id, PasskeyRow.site, PasskeyRow.label, PasskeyRow.made_at, PasskeyRow.used_at)
    with Scope(engine).reading() as connection:
        found = connection.execute(query.where(PasskeyRow.person == person).order_by(PasskeyRow.made_at.desc()))
        return [Passkey(*row) for row in found]


def begin_adding(engine: Engine, site: Site, found: Who, password: str) -> dict[str, Any]:
    """What the browser is asked to make a passkey for, the password given once more.  Raises BadInput, TooOften."""
    lib, kinds = _library(), _library().helpers.structs
    login = proves_anew(engine, found, password)
    there = of(engine, found.person)
    if len(there) >= MOST_KEYS:
        raise BadInput("passkey", f"there are {MOST_KEYS} passkeys already: take one away first")
    options = lib.generate_registration_options(
        rp_id=site.name, rp_name="Gnomonic", user_name=login, user_id=found.person.encode(), user_display_name=found.name,
        exclude_credentials=[kinds.PublicKeyCredentialDescriptor(lib.helpers.base64url_to_bytes(k.id)) for k in there if k.site == site.name],
        authenticator_selection=kinds.AuthenticatorSelectionCriteria(
            resident_key=kinds.ResidentKeyRequirement.REQUIRED, require_resident_key=True,
            user_verification=kinds.UserVerificationRequirement.REQUIRED,
        ),
    )  # fmt: skip
    _ask(engine, options.challenge, f"{ADD} {found.session}")
    made: dict[str, Any] = _library().helpers.options_to_json_dict(options)
    return made


def add(engine: Engine, site: Site, found: Who, credential: Any, label: str) -> None:
    """Keep a passkey that was just made.  Raises BadInput."""
    challenge = _asked(engine, credential, f"{ADD} {found.session}")
    try:
        made = _library().verify_registration_response(
            credential=credential, expected_challenge=challenge, expected_rp_id=site.name, expected_origin=site.origin,
            require_user_verification=True,
        )  # fmt: skip
    except _refusals():
        raise BadInput(
            "credential", "that passkey was not made for this site, or not unlocked when it was made"
        ) from None
    row = {
        "id": _library().helpers.bytes_to_base64url(made.credential_id),
        "person": found.person,
        "site": site.name,
        "label": label[:200],
    }
    with Scope(engine, found.workspace, found.name).writing() as connection:
        if connection.execute(select(PasskeyRow.id).where(PasskeyRow.id == row["id"])).first() is not None:
            raise BadInput("credential", "that passkey is there already")
        connection.execute(
            insert(PasskeyRow).values(public_key=made.credential_public_key, uses=made.sign_count, **row)
        )
        audit(connection, Scope(engine, found.workspace, found.name), "added a passkey", label)


def drop(engine: Engine, found: Who, key: str) -> None:
    """Take one of one's own passkeys away."""
    with Scope(engine, found.workspace, found.name).writing() as connection:
        own = (PasskeyRow.id == key, PasskeyRow.person == found.person)
        gone = connection.execute(delete(PasskeyRow).where(*own).returning(PasskeyRow.label)).first()
        if gone is not None:
            audit(connection, Scope(engine, found.workspace, found.name), "took a passkey away", gone.label)


def begin_using(engine: Engine, site: Site, address: str, found: Who | None = None) -> dict[str, Any]:
    """What a passkey is asked to sign: to sign in, or to prove who sits there.  Raises TooOften."""
    must_not_be_too_often(engine, (f"passkey from {address}", SHORT_FROM))
    required = _library().helpers.structs.UserVerificationRequirement.REQUIRED
    options = _library().generate_authentication_options(rp_id=site.name, user_verification=required)
    _ask(engine, options.challenge, f"{PROVE} {found.session}" if found else SIGN_IN)
    made: dict[str, Any] = _library().helpers.options_to_json_dict(options)
    return made


def _whose(engine: Engine, site: Site, credential: Any, purpose: str) -> str:
    """The person whose passkey signed what was asked.  Raises BadInput."""
    challenge = _asked(engine, credential, purpose)
    with Scope(engine).writing() as connection:
        query = select(PasskeyRow.id, PasskeyRow.person, PasskeyRow.public_key, PasskeyRow.uses)
        own = (PasskeyRow.id == str(credential.get("id", "")), PasskeyRow.site == site.name)
        key = connection.execute(query.where(*own).with_for_update()).first()
        if key is None:
            raise BadInput("credential", NOT_IT)
        try:
            handle = credential["response"].get("userHandle")
            if handle and _library().helpers.base64url_to_bytes(handle) != key.person.encode():
                raise BadInput("credential", NOT_IT)
            proved = _library().verify_authentication_response(
                credential=credential, expected_challenge=challenge, expected_rp_id=site.name, expected_origin=site.origin,
                credential_public_key=key.public_key, credential_current_sign_count=key.uses, require_user_verification=True,
            )  # fmt: skip
        except _refusals():
            raise BadInput("credential", NOT_IT) from None
        used = update(PasskeyRow).where(PasskeyRow.id == key.id)
        connection.execute(used.values(uses=proved.new_sign_count, used_at=func.now()))
        return str(key.person)


def sign_in(engine: Engine, site: Site, credential: Any, agent: str, address: str) -> str:
    """Sign in with a passkey; the secret for the browser.  Raises BadInput, TooOften."""
    must_not_be_too_often(engine, (f"from {address}", SHORT_FROM))
    person = _whose(engine, site, credential, SIGN_IN)
    with Scope(engine).writing() as connection:
        name = connection.execute(select(PersonRow.name).where(PersonRow.id == person)).scalar_one()
        workspace = where_to(connection, person)
        if workspace is None:
            raise BadInput("credential", NOT_IT)
        secret = begin_session(connection, workspace, person, agent)
        audit(connection, Scope(engine, workspace, name), "signed in with a passkey", agent)
    return secret


def prove(engine: Engine, site: Site, found: Who, answer: str) -> None:
    """Prove with a passkey (its answer as JSON) who sits there.  Raises BadInput, TooOften."""
    must_not_be_too_often(engine, (f"password of {found.person}", SHORT_MOST))
    try:
        credential = json.loads(answer[:MOST_BODY])
    except ValueError:
        raise BadInput("again", "that is no answer of a passkey") from None
    if _whose(engine, site, credential, f"{PROVE} {found.session}") != found.person:
        raise BadInput("again", "that is somebody else’s passkey")
