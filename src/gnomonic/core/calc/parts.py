"""What every pocket sum's input is made of."""

from typing import Annotated, Any

from pydantic import ConfigDict, Field

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
