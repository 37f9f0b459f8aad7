"""The catalog: generic items, and a workspace's own from CSV."""

from typing import Annotated

from fastapi import APIRouter, File, Form, Request, UploadFile
from fastapi.responses import RedirectResponse, Response

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.demand.system import systems
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.fabrics import fabrics, wires
from gnomonic.core.limits import MOST_CATALOG_BYTES
from gnomonic.formats.catalog_csv import read_catalog, shipped_items, write_catalog
from gnomonic.store import workspace
from gnomonic.web.parts import file_out
from gnomonic.web.problems import a_file
from gnomonic.web.room import room

router = APIRouter()


@router.get("/catalog", include_in_schema=False)
def catalog_page(request: Request) -> Response:
    """Every item, shipped and own."""
    return _page(request, "")


def _page(request: Request, error: str) -> Response:
    posts = {p.title: p for s in systems().values() for p in s.posts.values()}
    context = {
        "fabrics": fabrics(),
        "wires": wires(),
        "posts": posts,
        "items": catalog(),
        "own": workspace.own_items(room(request).scope),
        "error": error,
    }
    status = 422 if error else 200
    return request.app.state.templates.TemplateResponse(request, "catalog.html", context, status_code=status)  # type: ignore[no-any-return]


@router.get("/catalog.csv", **a_file("text/csv"))
def catalog_out(request: Request) -> Response:
    """The catalog as CSV, the workspace's own items in it."""
    own = workspace.own_items(room(request).scope)
    mine = {i.key for i in own}
    rows = [i for i in shipped_items() if i.key not in mine]
    return file_out(write_catalog([*rows, *own]), "text/csv; charset=utf-8", "catalog", ".csv")


@router.post("/catalog", include_in_schema=False)
async def catalog_in(request: Request, file: Annotated[UploadFile, File()]) -> Response:
    """Items from CSV become the workspace's own: all of the file, or none of it."""
    body = await file.read(MOST_CATALOG_BYTES + 1)
    try:
        if len(body) > MOST_CATALOG_BYTES:
            raise BadInput("file", "the file is larger than 2 MB: a catalog is a table of items")
        workspace.put_items(room(request).scope, read_catalog(body))
    except BadInput as error:
        return _page(request, error.sentence)
    return RedirectResponse("/catalog#own", 303)


@router.post("/catalog/forget", include_in_schema=False)
def forget(request: Request, key: Annotated[str, Form()]) -> Response:
    """Forget one of the workspace's own items."""
    workspace.drop_item(room(request).scope, key)
    return RedirectResponse("/catalog#own", 303)
