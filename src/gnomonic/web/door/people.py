"""People of a workspace, for its owners: roles, invitations, clients' links, new passwords, the audit trail."""

from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from gnomonic.core.errors import BadInput
from gnomonic.store import accounts, jobs, passes, people
from gnomonic.web.door.known import address_of, asks, put_session
from gnomonic.web.door.rights import MAY
from gnomonic.web.door.routes import agent_of, gate_page
from gnomonic.web.room import room

router = APIRouter()
Typed = Annotated[str, Form(max_length=400)]


def _people(request: Request, status: int = 200, **more: Any) -> Response:
    scope, found = room(request).scope, asks(request)
    names = {row.job_id: row.name for row in jobs.listed(scope, "", 0, 200)}
    context = {
        "members": people.members(scope), "passes": passes.open_ones(scope), "trail": accounts.audited(scope), "who": found, "may": MAY,
        "called": accounts.called(scope), "jobs": names, "link": "", "typed": {}, "first": found is not None and found.alone and not request.app.state.manners.demo,
        "base": address_of(request), **more,
    }  # fmt: skip
    return gate_page(request, "people.html", status, **context)


@router.get("/people", include_in_schema=False)
def people_page(request: Request) -> Response:
    """Who comes in."""
    return _people(request)


@router.post("/people/first", include_in_schema=False)
def first(request: Request, login: Typed = "", name: Typed = "", password: Typed = "") -> Response:
    """The first account: from then on everybody signs in."""
    try:
        secret = people.first_owner(room(request).scope, login, name, password, agent_of(request))
    except BadInput as error:
        return _people(request, 422, error=error.sentence, typed={"login": login, "name": name})
    return put_session(request, RedirectResponse("/people", 303), secret)


@router.post("/people/name", include_in_schema=False)
def rename(request: Request, name: Typed = "") -> Response:
    """Call the workspace something else."""
    scope = room(request).scope
    if not name.strip() or len(name) > 120:
        return _people(request, 422, error="a workspace has a name of 1 to 120 characters")
    accounts.make_workspace(scope.engine, scope.workspace, name.strip())
    return RedirectResponse("/people", 303)


@router.post("/people/invite", include_in_schema=False)
def invite(request: Request, role: Typed = "", whom: Typed = "") -> Response:
    """A link for somebody to come in by."""
    try:
        secret = passes.invite(room(request).scope, role, whom)
    except BadInput as error:
        return _people(request, 422, error=error.sentence, typed={"whom": whom, "role": role})
    return _people(request, given=f"/join/{secret}", words=f"for {whom.strip()}, as {role}: opens once, within 7 days")


@router.post("/people/client", include_in_schema=False)
def client_link(request: Request, job_id: Typed = "", whom: Typed = "") -> Response:
    """A link for a client to look at one job by."""
    scope = room(request).scope
    jobs.glance(scope, job_id)
    if not whom.strip():
        return _people(request, 422, error="say for whom the link is, so that it can be taken back")
    secret = passes.give_pass(scope, "look", accounts.LOOKED, job_id=job_id, whom=whom.strip()[:120])
    return _people(
        request,
        given=f"/look/{secret}",
        words=f"for {whom.strip()}: looks at that one job, for 90 days, and changes nothing",
    )


@router.post("/people/end-link", include_in_schema=False)
def end_link(request: Request, digest: Typed = "") -> Response:
    """Take a link back."""
    passes.end_pass(room(request).scope, digest)
    return RedirectResponse("/people", 303)


@router.post("/people/{person}/role", include_in_schema=False)
def set_role(request: Request, person: str, role: Typed = "") -> Response:
    """Give a role."""
    try:
        people.set_role(room(request).scope, person, role)
    except BadInput as error:
        return _people(request, 422, error=error.sentence)
    return RedirectResponse("/people", 303)


@router.post("/people/{person}/take-away", include_in_schema=False)
def take_away(request: Request, person: str) -> Response:
    """Take a role away."""
    try:
        people.take_away(room(request).scope, person)
    except BadInput as error:
        return _people(request, 422, error=error.sentence)
    return RedirectResponse("/people", 303)


@router.post("/people/{person}/renew", include_in_schema=False)
def renew(request: Request, person: str) -> Response:
    """A link for somebody who lost their password."""
    try:
        secret = passes.renewing(room(request).scope, person)
    except BadInput as error:
        return _people(request, 422, error=error.sentence)
    return _people(
        request,
        given=f"/renew/{secret}",
        words="for a new password: opens once, within a day; every browser signed in before is signed out",
    )
