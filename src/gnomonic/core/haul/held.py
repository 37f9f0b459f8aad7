"""What a workspace has lying about: posts, rails, fittings, and where."""

from decimal import Decimal
from typing import Annotated, Literal

from pydantic import Field

from gnomonic.core.haul.money import MOST
from gnomonic.core.haul.rules import haul_rule
from gnomonic.core.haul.wares import KEY
from gnomonic.core.log.events import PLAIN_TEXT
from gnomonic.core.record import Record

Words = Annotated[str, Field(max_length=120, pattern=PLAIN_TEXT)]
Cents = Annotated[int, Field(ge=0, le=MOST)]
Amount = Annotated[Decimal, Field(gt=0, le=10**7, max_digits=14, decimal_places=4)]
CONDITIONS = {"new": "new", "sound": "used, sound", "worn": "worn"}


class Held(Record):
    """So many of a ware (in its unit), in what ``condition``, how old, whether of ``heartwood``; ``where`` it lies, and what using
    one is charged (``value``, cents)."""

    id: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,40}$")]
    item: Annotated[str, Field(pattern=KEY)]
    what: Words = ""
    count: Amount
    condition: Literal["new", "sound", "worn"] = "sound"
    age_years: Annotated[int, Field(ge=0, le=200)] = 0
    heartwood: bool = False
    where: Words = ""
    value: Cents = 0

    @property
    def lasting(self) -> bool:
        """Whether it may go into a line that is to stay: not what is worn, nor a wood post that is old sapwood."""
        wood = self.item.startswith("post.wood-")
        return self.condition != "worn" and not (
            wood and not self.heartwood and self.age_years >= haul_rule("sapwood_years")
        )
