"""Pocket sums: each core computation by itself, JSON in and JSON out.

The contract (keys, units, refusals) is in docs/calc.md; ``KINDS`` maps a kind to its input model and its function.
Every answer carries ``why``.
"""

from collections.abc import Callable, Iterator, Mapping
from functools import cache
from importlib import import_module
from typing import Any

from pydantic import BaseModel, ValidationError

from gnomonic.core.calc.parts import Answer
from gnomonic.core.errors import BadInput
from gnomonic.core.job.reading import first_error
from gnomonic.core.plain_json import read_json as read_json

ROOMS = {  # the module of each sum; it is loaded when one of its sums is asked for
    "setout": "setout", "brace": "brace", "corner": "ends", "lift": "ends", "press": "ends", "stringline": "rail", "embed": "holes",
    "backfill": "holes", "gate_opening": "openings", "gate_sweep": "openings", "cable": "openings", "wind": "openings", "pull": "pull",
    "tieoff": "tying", "dummy": "tying", "rolls": "rolls", "label": "wire", "gauge": "wire", "traverse": "ground", "levels": "ground",
    "square": "ground", "demand": "barrier", "layers": "barrier", "chainlink": "barrier", "stock": "haul", "buy": "haul", "eac": "haul",
    "mass": "haul", "days": "days",
}  # fmt: skip
Sum = tuple[type[BaseModel], Callable[[Any], Answer]]


class _Kinds(Mapping[str, Sum]):
    """Sums by kind: of ``gate_opening`` the input model ``GateOpeningInput`` and the function ``calc_gate_opening``."""

    def __iter__(self) -> Iterator[str]:
        return iter(ROOMS)

    def __len__(self) -> int:
        return len(ROOMS)

    def __contains__(self, kind: object) -> bool:
        return kind in ROOMS

    def __getitem__(self, kind: str) -> Sum:
        return _loaded(kind)


@cache
def _loaded(kind: str) -> Sum:
    room = import_module(f"{__name__}.{ROOMS[kind]}")
    model = "".join(part.capitalize() for part in kind.split("_")) + "Input"
    return getattr(room, model), getattr(room, f"calc_{kind}")


KINDS: Mapping[str, Sum] = _Kinds()


WAYS = {
    "brace": ("type", ("h", "diagonal")),
    "embed": ("method", ("ibc", "broms_sand", "broms_clay", "lean", "rock")),
    "pull": ("task", ("profile", "best_point", "temperature", "slip", "release", "deflection", "fit_mu")),
}


def _of_kind(kind: str, bad: BadInput) -> BadInput:
    """A refusal within a sum that comes in several ways, by the field as it was given."""
    if kind not in WAYS:
        return bad
    key, ways = WAYS[kind]
    if bad.field == kind:
        return BadInput(key, f"{key} must be {', '.join(f'“{w}”' for w in ways[:-1])} or “{ways[-1]}”")
    for way in ways:
        part = f"{kind}.{way}."
        if bad.field.startswith(part):
            return BadInput(bad.field.removeprefix(part), bad.sentence.removeprefix(part))
    return bad


def must_be_one(kind: str) -> None:
    """Raises BadInput (``kind``) where there is no pocket sum of that name."""
    if kind not in KINDS:
        raise BadInput("kind", f"there is no pocket sum called “{kind[:40]}”: use {', '.join(KINDS)}")


def calc(kind: str, data: Any) -> Answer:
    """Answer one pocket sum.  Raises BadInput with the field as a path and one sentence."""
    must_be_one(kind)
    if not isinstance(data, dict):
        raise BadInput("", "the input must be a JSON object with named fields")
    model, answer = KINDS[kind]
    try:
        question = model.model_validate(data)
    except ValidationError as error:
        bad = first_error(error)
        raise _of_kind(kind, bad) from None
    return answer(question)
