"""Pocket sums: the core's computations one by one, as an API and as pages."""

import json
import tomllib
from functools import cache
from pathlib import Path
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from fastapi.responses import JSONResponse, Response
from starlette.concurrency import run_in_threadpool

from gnomonic.core.calc import KINDS, calc, read_json
from gnomonic.core.errors import BadInput

router = APIRouter()


@cache
def _examples() -> dict[str, dict[str, str]]:
    return tomllib.loads((Path(__file__).parent / "examples.toml").read_text("utf8"))


@router.post("/api/v1/calc/{kind}")
async def answer(request: Request, kind: str) -> Response:
    """Answer one pocket sum."""
    data = read_json(await request.body())
    return JSONResponse(await run_in_threadpool(calc, kind, data))


def _shown(value: Any) -> Any:
    """Six digits of a number are more than a tape delivers; the API and the command keep them all."""
    if isinstance(value, float):
        return float(f"{value:.6g}")
    if isinstance(value, list):
        return [_shown(part) for part in value]
    return {k: _shown(part) for k, part in value.items()} if isinstance(value, dict) else value


def _page(request: Request, kind: str, text: str, result: dict[str, Any] | None, error: str = "") -> Response:
    if kind not in KINDS:
        raise BadInput("kind", f"there is no pocket sum called “{kind[:40]}”")
    rows = (
        []
        if result is None
        else [(k, json.dumps(_shown(v), ensure_ascii=False)) for k, v in result.items() if k != "why"]
    )
    context = {
        "kind": kind,
        "kinds": _examples(),
        "text": text,
        "rows": rows,
        "why": [] if result is None else result["why"],
        "error": error,
    }
    status = 422 if error else 200
    return request.app.state.templates.TemplateResponse(request, "sums.html", context, status_code=status)  # type: ignore[no-any-return]


@router.get("/sums/{kind}", include_in_schema=False)
def page(request: Request, kind: str) -> Response:
    """A pocket sum with its worked example answered."""
    text = _examples().get(kind, {}).get("example", "")
    return _page(request, kind, text, calc(kind, json.loads(text)) if text else None)


@router.post("/sums/{kind}", include_in_schema=False)
def page_answer(request: Request, kind: str, text: Annotated[str, Form()] = "") -> Response:
    """Answer what was typed."""
    try:
        return _page(request, kind, text, calc(kind, read_json(text)))
    except BadInput as error:
        return _page(request, kind, text, None, error.sentence[:1].upper() + error.sentence[1:])
