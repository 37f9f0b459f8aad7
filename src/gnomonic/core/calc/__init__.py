"""Pocket sums: each core computation by itself, JSON in and JSON out.

The contract (keys, units, refusals) is in docs/calc.md; ``KINDS`` maps a kind to its input model and its function.
Every answer carries ``why``.
"""

import json
from collections.abc import Callable
from typing import Any

from pydantic import BaseModel, ValidationError

from gnomonic.core.calc.barrier import (
    ChainlinkInput,
    DemandInput,
    LayersInput,
    calc_chainlink,
    calc_demand,
    calc_layers,
)
from gnomonic.core.calc.brace import BraceInput, calc_brace
from gnomonic.core.calc.ground import (
    LevelsInput,
    SquareInput,
    TraverseInput,
    calc_levels,
    calc_square,
    calc_traverse,
)
from gnomonic.core.calc.parts import Answer
from gnomonic.core.calc.rolls import RollsInput, calc_rolls
from gnomonic.core.calc.setout import SetoutInput, calc_setout
from gnomonic.core.calc.wire import GaugeInput, LabelInput, calc_gauge, calc_label
from gnomonic.core.errors import BadInput
from gnomonic.core.job.reading import first_error

KINDS: dict[str, tuple[type[BaseModel], Callable[[Any], Answer]]] = {
    "setout": (SetoutInput, calc_setout),
    "brace": (BraceInput, calc_brace),
    "rolls": (RollsInput, calc_rolls),
    "label": (LabelInput, calc_label),
    "gauge": (GaugeInput, calc_gauge),
    "traverse": (TraverseInput, calc_traverse),
    "levels": (LevelsInput, calc_levels),
    "square": (SquareInput, calc_square),
    "demand": (DemandInput, calc_demand),
    "layers": (LayersInput, calc_layers),
    "chainlink": (ChainlinkInput, calc_chainlink),
}


def read_json(body: str | bytes) -> Any:
    """JSON text as data.  Raises BadInput."""
    try:
        return json.loads(body)
    except (json.JSONDecodeError, UnicodeDecodeError, RecursionError) as error:
        where = f" at line {error.lineno}, column {error.colno}" if isinstance(error, json.JSONDecodeError) else ""
        raise BadInput("", f"the input is not JSON{where}: it must be an object with named fields") from None


def calc(kind: str, data: Any) -> Answer:
    """Answer one pocket sum.  Raises BadInput with the field as a path and one sentence."""
    if kind not in KINDS:
        raise BadInput("kind", f"there is no pocket sum called “{kind[:40]}”: use {', '.join(KINDS)}")
    if not isinstance(data, dict):
        raise BadInput("", "the input must be a JSON object with named fields")
    model, answer = KINDS[kind]
    try:
        question = model.model_validate(data)
    except ValidationError as error:
        bad = first_error(error)
        for part in ("brace.h.", "brace.diagonal."):
            if bad.field.startswith(part):
                bad = BadInput(bad.field.removeprefix(part), bad.sentence.removeprefix(part))
        if bad.field == "brace":
            bad = BadInput("type", "type must be “h” or “diagonal”")
        raise bad from None
    return answer(question)
