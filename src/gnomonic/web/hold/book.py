"""The rule book: what animals demand, and the systems' rules, to read; a workspace's own values beside the shipped ones."""

from collections.abc import Iterator
from datetime import date
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from fastapi.responses import RedirectResponse, Response

from gnomonic.core.demand.animals import Animal, Book, check_override, paths, with_overrides
from gnomonic.core.demand.catalog import catalog
from gnomonic.core.demand.judge import STRENGTH_WORDS
from gnomonic.core.demand.system import System, systems
from gnomonic.core.errors import BadInput
from gnomonic.core.sourced import Sourced
from gnomonic.core.units import parse_length_m
from gnomonic.store import jobs, workspace
from gnomonic.web.room import room

router = APIRouter()
LENGTHS = {"height": "Height", "gap": "Gap underneath"}


@router.get("/rules", include_in_schema=False)
def rules_page(request: Request) -> Response:
    """Every demand of every animal, and every rule of every system, with reason, source and date."""
    return _page(request, "", {})


def _page(request: Request, error: str, typed: dict[str, str]) -> Response:
    book = room(request).plans.book()
    context = {
        "animals": [(key, a, list(rows_of(key, a, book))) for key, a in book.animals.items()],
        "behaviours": book.behaviours,
        "systems": [(s, list(system_rows(s))) for s in systems().values()],
        "error": error,
        "typed": typed,
        "overridden": len(book.shipped),
    }
    status = 422 if error else 200
    return request.app.state.templates.TemplateResponse(request, "rules.html", context, status_code=status)  # type: ignore[no-any-return]


def rows_of(key: str, animal: Animal, book: Book) -> Iterator[dict[str, Any]]:
    """Rows of an animal's demands; those with a path can be overridden."""

    def row(title: str, path: str, value: float, sourced: Any, kind: str = "gap", words: str = "") -> dict[str, Any]:
        return {
            "title": title,
            "path": path,
            "value": value,
            "kind": kind,
            "words": words,
            "reason": sourced.reason,
            "source": sourced.source,
            "checked": sourced.checked,
            "was": book.shipped.get(path),
        }

    strength = STRENGTH_WORDS[int(animal.strength.value)] + f", {animal.strength.value:g} of 5"
    yield row("At least high", f"{key}.height.value", animal.height.value, animal.height, "cut")
    for k, o in enumerate(animal.openings):
        yield row("Openings at most", f"{key}.openings[{k}].most_m", o.most_m, o)
        yield row("up to a height of", f"{key}.openings[{k}].upto_m", o.upto_m, o, "cut")
    yield row("Gap underneath at most", f"{key}.gap.value", animal.gap.value, animal.gap)
    yield row("Strength at least", f"{key}.strength.value", animal.strength.value, animal.strength, "count", strength)
    if animal.stuck:
        yield row("Stays no wider than", f"{key}.stuck.low_m", animal.stuck.low_m, animal.stuck)
        yield row("or at least", f"{key}.stuck.high_m", animal.stuck.high_m, animal.stuck)
    for below in animal.below:
        yield row("At the ground", "", 0, below, words=" or ".join(below.any))
    for what, rows in (("Top", animal.top), ("Not near it", animal.avoid), ("Sides", animal.sides)):
        for r in rows:
            words = getattr(r, "needs", "") or getattr(r, "what", "") or getattr(r, "rule", "")
            yield row(what, "", 0, r, words=words.replace("_", " "))


def system_rows(system: System) -> Iterator[dict[str, Any]]:
    """Rules of a system: starts, posts, fittings, steps' sources."""
    for key, start in system.start.items():
        yield {"title": key.removesuffix("_m").replace("_", " "), "value": start.value, "key": key, "row": start}
    for post in system.posts.values():
        yield {"title": post.title, "value": None, "row": post}
    rules: list[tuple[str, Sourced]] = [(r.item, r) for r in system.fittings]
    rules += [(r.item, r) for r in system.bay_fittings]
    rules += [(r.item, r) for r in system.run_fittings] + [(r.item, r) for r in system.splice_fittings]
    for item, rule in rules:
        yield {"title": catalog()[item].title, "value": None, "row": rule}
    work = system.labour
    minutes = (
        f"{work.light_min:g} min a line post, {work.terminal_min:g} an end, {work.layer_min_m:g} a metre of fabric"
    )
    yield {"title": f"work: {minutes}, {work.strand_min_m:g} of strand", "value": None, "row": work}
    for what, suits in system.suits.items():
        yield {"title": f"on {what} ground the work is {suits.share:g} times that", "value": None, "row": suits}
    for school in system.schools:
        for way in school.ways:
            yield {"title": f"{school.question}: {way.title}", "value": None, "row": way}


@router.post("/rules", include_in_schema=False)
def override(
    request: Request,
    path: Annotated[str, Form()],
    value: Annotated[str, Form()] = "",
    reason: Annotated[str, Form()] = "",
    back: Annotated[str, Form()] = "",
) -> Response:
    """Put a value of the workspace's own in place of a shipped one, or go back to it."""
    scope = room(request).scope
    try:
        if back:
            if path not in paths():
                raise BadInput("path", f"there is no value “{path[:60]}” in the rule book")
            workspace.drop_override(scope, path)
        else:
            typed = _number(path, value)
            mine = check_override(path, typed, reason)
            others = [o for o in workspace.overrides(scope) if o.path != path]
            _holds_together(with_overrides((*others, mine), date.today()))
            workspace.put_override(scope, mine)
    except BadInput as error:
        return _page(request, error.sentence, {"path": path, "value": value, "reason": reason})
    jobs.forget_summaries(scope)
    return RedirectResponse(f"/rules#{path.split('.')[0]}", 303)


def _number(path: str, text: str) -> float:
    """A length as typed, with its unit; a strength as a number."""
    if path.endswith("strength.value"):
        try:
            return float(text)
        except ValueError:
            raise BadInput("value", f"“{text[:30]}” is not a strength: write 1, 2, 3, 4 or 5") from None
    return parse_length_m(text, None)


def _holds_together(book: Book) -> None:
    """Stays that must be close, or far apart, must leave something between."""
    for animal in book.animals.values():
        if animal.stuck and animal.stuck.low_m >= animal.stuck.high_m:
            raise BadInput("value", f"{animal.title}: the closer stays must be closer than the wider ones")
