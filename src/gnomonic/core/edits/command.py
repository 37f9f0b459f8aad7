"""What every edit is made of."""

from typing import Annotated

from pydantic import Field

from gnomonic.core.record import Record

Station = Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]
Coordinate = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]
NEAR_M = 0.05


class Command(Record):
    """An edit; ``do`` names it, ``line`` is the letter of the line it is of (the first line to be built when left out)."""

    line: Annotated[str, Field(max_length=3)] = ""
