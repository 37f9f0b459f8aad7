"""What every value of the core that Pydantic checks is made of."""

from collections.abc import Mapping
from typing import Any, Self

from pydantic import BaseModel, ConfigDict


class Record(BaseModel):
    """A value that never changes; an unknown key is a mistake.

    A copy with changes is made anew from its fields and checked, so that nothing worked out for the first one (a cached
    property lives beside the fields) is taken over by the copy.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """The same value with some fields changed.  Raises Pydantic's error for one that does not fit."""
        fields = {f.alias or name: getattr(self, name) for name, f in type(self).model_fields.items()}
        return type(self).model_validate({**fields, **(update or {})})
