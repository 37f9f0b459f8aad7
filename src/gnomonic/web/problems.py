"""One shape of error (RFC 9457): a problem document for the API, a page for people."""

from typing import Any
from urllib.parse import urlsplit, urlunsplit

from fastapi import Request
from fastapi.responses import JSONResponse, Response
from pydantic import BaseModel

from gnomonic.core.say import Say
from gnomonic.web.draw.words import said

MEDIA = "application/problem+json"
TITLES = {
    400: "The request can't be read",
    401: "Nobody is signed in",
    403: "Refused",
    404: "Nothing here",
    405: "Not to be done here",
    409: "Changed meanwhile",
    413: "Too large",
    422: "Something given can't be used",
    429: "Too often",
    500: "Something went wrong in Gnomonic itself",
    503: "Something needed is away",
}
KINDS = {409: "moved", 413: "large", 500: "ours", 503: "away"}
AGAIN_S = 3


class Problem(BaseModel):
    """What went wrong.  ``detail`` is one sentence for a person, ``said`` the same with its lengths apart, to be printed in either
    units; ``field`` the path of what was given wrongly; ``kind`` input | plan | moved | large | sign-in | role | away (known not to be saved) |
    unknown (nobody knows yet: ask again under the same Idempotency-Key) | ours; ``head`` where a job stands now."""

    type: str
    title: str
    status: int
    detail: str
    field: str = ""
    kind: str = "input"
    said: dict[str, Any] | str | None = None
    head: int | None = None


RESPONSES: dict[int | str, dict[str, Any]] = {
    status: {"description": TITLES[status], "content": {MEDIA: {"schema": {"$ref": "#/components/schemas/Problem"}}}}
    for status in (400, 401, 403, 404, 405, 409, 413, 422, 429, 500, 503)
}


def a_file(*media: str) -> dict[str, Any]:
    """What a route that hands a file out answers with: the file, or a page that says why not."""
    pages = {status: {"description": TITLES[int(status)], "content": {"text/html": {}}} for status in RESPONSES}
    file = {"description": "The file", "content": {one.partition(";")[0]: {} for one in media}}
    return {"responses": {**pages, 200: file}, "response_class": Response}


def _came_from(request: Request) -> str:
    """The page of ours that led here, or the list of jobs."""
    try:
        page = urlsplit(request.headers.get("referer", ""))
    except ValueError:
        return "/"
    ours = page.netloc == request.headers.get("host") and page.path.startswith("/") and not page.path.startswith("//")
    return urlunsplit(("", "", page.path, page.query, "")) if ours else "/"


def problem(
    request: Request,
    status: int,
    detail: str,
    field: str = "",
    sentence: Say | None = None,
    kind: str = "",
    head: int | None = None,
    headers: dict[str, str] | None = None,
) -> Response:
    """An error in the shape of what was asked: of the API, or of a page; ``sentence`` where a page can print it in its own units."""
    kind = kind or KINDS.get(status, "input")
    more = dict(headers or {}) | ({"Retry-After": str(AGAIN_S)} if status == 503 else {})
    if request.url.path.startswith("/api/"):
        body = {
            "type": f"urn:gnomonic:problem:{kind}",
            "title": TITLES.get(status, "That did not work"),
            "status": status,
        }
        body |= {"detail": detail, "field": field, "kind": kind}
        body |= {} if sentence is None else {"said": said(sentence)}
        body |= {} if head is None else {"head": head}
        return JSONResponse(body, status, more, MEDIA)
    context = {
        "detail": detail,
        "status": status,
        "kind": kind,
        "field": field,
        "asked": request.method in ("GET", "HEAD"),
        "back": _came_from(request),
    }
    response: Response = request.app.state.templates.TemplateResponse(
        request, "problem.html", context, status_code=status, headers=more
    )
    return response
