"""What every pocket sum's input is made of."""

from typing import Annotated, Any

from pydantic import BaseModel, ConfigDict, Field

Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e9, le=1e9)]
Positive = Annotated[float, Field(allow_inf_nan=False, gt=0, le=1e9)]
NotNegative = Annotated[float, Field(allow_inf_nan=False, ge=0, le=1e9)]
Answer = dict[str, Any]


class Input(BaseModel):
    """Strict: numbers are numbers, and an unknown key is refused."""

    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)


def why(rule: str, working: str, source: str) -> dict[str, str]:
    """One row of an answer's ``why``."""
    return {"rule": rule, "working": working, "source": source}
