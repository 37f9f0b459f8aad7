"""Pocket sums: the core's computations one by one, as an API and as forms."""

import json
import tomllib
from functools import cache
from pathlib import Path
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response
from starlette.concurrency import run_in_threadpool

from gnomonic.core.calc import KINDS, calc, read_json
from gnomonic.core.errors import BadInput
from gnomonic.core.units import System
from gnomonic.web.parts import safe
from gnomonic.web.sums.forms import example, forms, read_form
from gnomonic.web.sums.words import WORDS, drawing

router = APIRouter()


@cache
def _titles() -> dict[str, dict[str, str]]:
    return tomllib.loads((Path(__file__).parent / "titles.toml").read_text("utf8"))


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


def _system(units: str) -> System:
    return "metric" if units == "metric" else "us"


def _page(request: Request, kind: str, units: System, **given: Any) -> Response:
    """The page of a sum: what was typed (or the JSON), and its answer or why there is none."""
    error: BadInput | None = given.get("error")
    result, asked = given.get("result"), given.get("asked") or {}
    words = WORDS[kind](result, asked) if result is not None and given.get("worded", True) else []
    context = {
        "kind": kind,
        "kinds": _titles(),
        "units": units,
        "fields": forms()[kind],
        "typed": given.get("typed", {}),
        "text": given.get("text") or json.dumps(_shown(asked), ensure_ascii=False, indent=1),
        "raw": "text" in given,
        "said": [s.text(units) for s in words],
        "drawn": safe(json.dumps(drawing(kind, result, asked) if words and result else None)),
        "rows": [(k, json.dumps(_shown(v), ensure_ascii=False)) for k, v in (result or {}).items() if k != "why"],
        "why": result["why"] if result else [],
        "error": "" if error is None else error.sentence[:1].upper() + error.sentence[1:],
        "field": "" if error is None else error.field.split("[")[0],
    }
    status = 422 if error else 200
    return request.app.state.templates.TemplateResponse(request, "sums.html", context, status_code=status)  # type: ignore[no-any-return]


def _known(kind: str) -> None:
    if kind not in KINDS:
        raise BadInput("kind", f"there is no pocket sum called “{kind[:40]}”")


@router.get("/sums/{kind}", include_in_schema=False)
def page(request: Request, kind: str, units: str = "us") -> Response:
    """A pocket sum with its worked example answered."""
    _known(kind)
    system = _system(units)
    typed = example(kind, system)
    asked = read_form(kind, typed, system)
    return _page(request, kind, system, typed=typed, asked=asked, result=calc(kind, asked))


@router.post("/sums/{kind}", include_in_schema=False)
async def page_answer(request: Request, kind: str) -> Response:
    """Answer what was typed, in the form or as JSON."""
    _known(kind)
    given = {k: str(v) for k, v in (await request.form()).items()}
    return await run_in_threadpool(_answered, request, kind, given)


def _answered(request: Request, kind: str, given: dict[str, str]) -> Response:
    units = _system(given.get("units", "us"))
    if "text" in given:
        text = given["text"]
        try:
            asked = read_json(text)
            result = calc(kind, asked)
        except BadInput as error:
            return _page(request, kind, units, typed=example(kind, units), text=text, error=error)
        return _page(request, kind, units, typed=example(kind, units), text=text, asked=asked, result=result)
    typed = {k.removeprefix("f."): v for k, v in given.items() if k.startswith("f.")}
    try:
        asked = read_form(kind, typed, units)
    except BadInput as error:
        return _page(request, kind, units, typed=typed, error=error)
    try:
        return _page(request, kind, units, typed=typed, asked=asked, result=calc(kind, asked))
    except BadInput as error:
        return _page(request, kind, units, typed=typed, asked=asked, error=_named(kind, error))


def _named(kind: str, error: BadInput) -> BadInput:
    """A refusal of the sum that speaks of its field by what the form asks."""
    key = error.field.split("[")[0].split(".")[0]
    ask = next((f.ask for f in forms()[kind] if f.key == key), "")
    return BadInput(key, f"{ask}: {error.sentence}") if ask else error
