"""Who may use which door: the one table of it.  What it does not name a crew may look at and a planner may change.

Doors are named by method and by the path they were made with.
"""

from gnomonic.core.errors import GnomonicError
from gnomonic.store.accounts import CLIENT, CREW, LEFT, OWNER, PLANNER, Who

# no account is needed
OPEN = {
    ("GET", "/assets/{digest}/{path:path}"),
    ("GET", "/api/v1/health"),
    ("GET", "/openapi.json"),
    ("GET", "/sign-in"),
    ("POST", "/sign-in"),
    ("GET", "/join/{secret}"),
    ("POST", "/join/{secret}"),
    ("GET", "/renew/{secret}"),
    ("POST", "/renew/{secret}"),
    ("GET", "/look/{secret}"),
    ("POST", "/api/v1/passkeys/sign-in/ask"),
    ("POST", "/api/v1/passkeys/sign-in"),
    ("GET", "/field"),
    ("GET", "/field/"),
    ("GET", "/field/worker.js"),
    ("GET", "/field/manifest.webmanifest"),
}
# whoever is signed in, also one whose role was taken away
ANYBODY = {
    ("POST", "/sign-out"),
    ("GET", "/me"),
    ("POST", "/me/password"),
    ("POST", "/me/sign-out-everywhere"),
    ("POST", "/me/workspace"),
    ("GET", "/api/v1/me"),
}
# a person's with an account, also of one whose role was taken away, never a client's: what the phone delivers, passkeys
OF_PERSON = {
    ("POST", "/api/v1/jobs/{job_id}/log"),
    ("POST", "/api/v1/jobs/{job_id}/photos/{digest}"),
    ("POST", "/api/v1/passkeys/ask"),
    ("POST", "/api/v1/passkeys"),
    ("POST", "/api/v1/passkeys/prove"),
    ("POST", "/me/passkeys/drop"),
}
# what the crew writes
OF_CREW = {
    ("POST", "/api/v1/jobs/{job_id}/events"),
    ("POST", "/jobs/{job_id}/brace"),
    ("POST", "/jobs/{job_id}/gate"),
    ("POST", "/jobs/{job_id}/ticks"),
    ("POST", "/api/v1/jobs/{job_id}/shopping"),
    ("POST", "/jobs/{job_id}/log/phone"),
    ("POST", "/api/v1/calc/{kind}"),
    ("POST", "/api/v1/book"),
    ("POST", "/sums/{kind}"),
    ("POST", "/api/v1/jobs/{job_id}/weigh"),
}
# what a client may look at, of the one job
OF_CLIENT = {("GET", "/jobs/{job_id}/look"), ("GET", "/api/v1/jobs/{job_id}/photos/{digest}")}
OF_OWNER_BEGIN = "/people"
# they read no rows, so that they go on while the database can't say who asks
WITHOUT_ROWS = {
    ("GET", "/sums/{kind}"),
    ("POST", "/sums/{kind}"),
    ("POST", "/api/v1/calc/{kind}"),
    ("GET", "/draw"),
    ("GET", "/walk-sheet"),
}
# pages that begin what a planner does
OF_PLANNER = {
    ("GET", "/bring-in"),
    ("GET", "/bring-in/{arrival_id}"),
    ("GET", "/draw"),
    ("GET", "/rover"),
    ("GET", "/rover/{walk_id}"),
    ("GET", "/jobs/{job_id}/crew"),
}
OF_OWNER = {("POST", "/jobs/{job_id}/log/decide")}
# money: the crew does not see it
MONEY = (
    "/cost",
    "/terms",
    "/quotes",
    "/options",
    "/suppliers",
    "/prices.csv",
    "/settle",
    "/stock",
    "/shopping.xlsx",
    "/shopping.pdf",
)

NAMES = {
    OWNER: "an owner",
    PLANNER: "a planner",
    CREW: "one of the crew",
    CLIENT: "a client",
    LEFT: "nobody here any more",
}
# what a role is told to be for; the tables above are what holds
MAY = {
    OWNER: "everything, and who comes in",
    PLANNER: "plans, prices, days, what the crew works from",
    CREW: "looks at plans and days, writes what was done and found; no prices",
}
_RANK = {OWNER: 3, PLANNER: 2, CREW: 1}


def reads_no_rows(method: str, path: str) -> bool:
    """Whether a door can be used while nobody knows who asks: nothing of anybody is behind it."""
    return ("GET" if method == "HEAD" else method, path) in WITHOUT_ROWS


class SignInFirst(GnomonicError):
    """Nobody is signed in, and this door is not open to all."""


class NotYours(GnomonicError):
    """A door that is not open to the role of who asks."""


def matters(method: str, path: str) -> bool:
    """Whether a door is about who comes in: before it the password is asked once more, unless it was just now."""
    return method == "POST" and path.startswith(OF_OWNER_BEGIN)


def needed(method: str, path: str) -> str:
    """The role a door asks for: open | anybody | client | left | crew | planner | owner."""
    door = ("GET" if method == "HEAD" else method, path)
    if door in OPEN:
        return "open"
    if door in ANYBODY:
        return "anybody"
    if door in OF_PERSON:
        return LEFT
    if door in OF_CLIENT:
        return CLIENT
    if path.startswith(OF_OWNER_BEGIN) or door in OF_OWNER:
        return OWNER
    if door in OF_PLANNER or any(part in path for part in MONEY):
        return PLANNER
    return CREW if door in OF_CREW or method in ("GET", "HEAD") else PLANNER


def must_be_let(found: Who, method: str, path: str, job_id: str) -> None:
    """Raises NotYours, with a sentence that names who may."""
    need = needed(method, path)
    if need in ("open", "anybody"):
        return
    if found.role == CLIENT:
        if need != CLIENT or job_id != found.job_id:
            raise NotYours("this link shows one job and no more")
        return
    if found.role == LEFT and need != LEFT:
        raise NotYours(
            f"your role in {found.called} was taken away; what your phone still holds can be delivered, and an owner of it decides"
        )
    if found.role != LEFT and _RANK[found.role] < _RANK.get(need, 1):
        raise NotYours(f"that is for {NAMES[need]}; you are {NAMES[found.role]} in {found.called}")
