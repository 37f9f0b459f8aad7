"""What every pocket sum's input is made of."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Annotated, Any

from pydantic import ConfigDict, Field

from gnomonic.core.errors import BadInput
from gnomonic.core.record import Record

Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e9, le=1e9)]
Positive = Annotated[float, Field(allow_inf_nan=False, gt=0, le=1e9)]
NotNegative = Annotated[float, Field(allow_inf_nan=False, ge=0, le=1e9)]
Answer = dict[str, Any]


class Input(Record):
    """Strict: numbers are numbers."""

    model_config = ConfigDict(strict=True)


def why(rule: str, working: str, source: str) -> dict[str, str]:
    """One row of an answer's ``why``."""
    return {"rule": rule, "working": working, "source": source}


def check_profile(profile: Sequence[Sequence[float]], length_m: float | None) -> float:
    """The length of a line whose ground is given as [station, height] rows.  Raises BadInput (``profile[k]``, ``length_m``)."""
    length = profile[-1][0] if length_m is None else length_m
    for k, (before, after) in enumerate(pairwise(row[0] for row in profile)):
        if after <= before:
            raise BadInput(
                f"profile[{k + 1}]", f"profile[{k + 1}] is at {after:g} m, not beyond {before:g} m: stations must rise"
            )
    if profile[0][0] > 0:
        raise BadInput("profile[0]", f"profile[0] is at {profile[0][0]:g} m: the profile must cover the line from 0 m")
    if profile[-1][0] < length:
        raise BadInput(
            "length_m", f"length_m is {length:g} but the profile ends at {profile[-1][0]:g} m: it must cover the line"
        )
    if length <= 0:
        raise BadInput("length_m", f"length_m is {length:g}; it must be greater than 0")
    return length
