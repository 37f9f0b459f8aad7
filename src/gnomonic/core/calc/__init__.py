"""Pocket sums: each core computation by itself, JSON in and JSON out.

The contract (keys, units, refusals) is in docs/calc.md; ``KINDS`` maps a kind to its input model and its function.
Every answer carries ``why``.
"""

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
from gnomonic.core.calc.days import DaysInput, calc_days
from gnomonic.core.calc.ends import CornerInput, LiftInput, PressInput, calc_corner, calc_lift, calc_press
from gnomonic.core.calc.ground import (
    LevelsInput,
    SquareInput,
    TraverseInput,
    calc_levels,
    calc_square,
    calc_traverse,
)
from gnomonic.core.calc.haul import (
    BuyInput,
    EacInput,
    MassInput,
    StockInput,
    calc_buy,
    calc_eac,
    calc_mass,
    calc_stock,
)
from gnomonic.core.calc.holes import BackfillInput, EmbedInput, calc_backfill, calc_embed
from gnomonic.core.calc.openings import (
    CableInput,
    GateOpeningInput,
    GateSweepInput,
    WindInput,
    calc_cable,
    calc_gate_opening,
    calc_gate_sweep,
    calc_wind,
)
from gnomonic.core.calc.parts import Answer
from gnomonic.core.calc.pull import PullInput, calc_pull
from gnomonic.core.calc.rail import StringlineInput, calc_stringline
from gnomonic.core.calc.rolls import RollsInput, calc_rolls
from gnomonic.core.calc.setout import SetoutInput, calc_setout
from gnomonic.core.calc.tying import DummyInput, TieoffInput, calc_dummy, calc_tieoff
from gnomonic.core.calc.wire import GaugeInput, LabelInput, calc_gauge, calc_label
from gnomonic.core.errors import BadInput
from gnomonic.core.job.reading import first_error
from gnomonic.core.plain_json import read_json as read_json

KINDS: dict[str, tuple[type[BaseModel], Callable[[Any], Answer]]] = {
    "setout": (SetoutInput, calc_setout),
    "brace": (BraceInput, calc_brace),
    "corner": (CornerInput, calc_corner),
    "lift": (LiftInput, calc_lift),
    "press": (PressInput, calc_press),
    "stringline": (StringlineInput, calc_stringline),
    "embed": (EmbedInput, calc_embed),
    "backfill": (BackfillInput, calc_backfill),
    "gate_opening": (GateOpeningInput, calc_gate_opening),
    "gate_sweep": (GateSweepInput, calc_gate_sweep),
    "cable": (CableInput, calc_cable),
    "wind": (WindInput, calc_wind),
    "pull": (PullInput, calc_pull),
    "tieoff": (TieoffInput, calc_tieoff),
    "dummy": (DummyInput, calc_dummy),
    "rolls": (RollsInput, calc_rolls),
    "label": (LabelInput, calc_label),
    "gauge": (GaugeInput, calc_gauge),
    "traverse": (TraverseInput, calc_traverse),
    "levels": (LevelsInput, calc_levels),
    "square": (SquareInput, calc_square),
    "demand": (DemandInput, calc_demand),
    "layers": (LayersInput, calc_layers),
    "chainlink": (ChainlinkInput, calc_chainlink),
    "stock": (StockInput, calc_stock),
    "buy": (BuyInput, calc_buy),
    "eac": (EacInput, calc_eac),
    "mass": (MassInput, calc_mass),
    "days": (DaysInput, calc_days),
}


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
