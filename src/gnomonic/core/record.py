"""What values of the core are made of: records that Pydantic checks, and rows that a plan makes by the hundred."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Self, TypeVar, dataclass_transform

from pydantic import BaseModel, ConfigDict

Value = TypeVar("Value")


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


@dataclass_transform(frozen_default=True)
def row(made: type[Value]) -> type[Value]:
    """A value that never changes, of which an edit makes hundreds.

    The type checker refuses a change, not the program: a frozen dataclass of 26 fields takes ten times as long to make.
    """
    return dataclass(slots=True, unsafe_hash=True)(made)
