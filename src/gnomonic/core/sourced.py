"""Trade facts as data: TOML beside the code, each value with its reason, its source and the date it was looked at."""

import tomllib
from datetime import date
from importlib.resources import files
from typing import Any

from pydantic import Field

from gnomonic.core.record import Record


class Row(Record):
    """A row of a data file."""


class Sourced(Row):
    """A value of the trade: why it holds, where it comes from and when it was last looked at."""

    reason: str = Field(min_length=10)
    source: str = Field(min_length=3)
    checked: date


class Rule(Sourced):
    """One number."""

    value: float
    unit: str


def inherit(tree: Any, source: str, checked: date) -> Any:
    """A file's ``source`` and ``checked`` hold for every row with a reason that names none of its own."""
    if isinstance(tree, list):
        return [inherit(part, source, checked) for part in tree]
    if not isinstance(tree, dict):
        return tree
    made = {key: inherit(part, source, checked) for key, part in tree.items()}
    return {"source": source, "checked": checked, **made} if "reason" in made else made


def read_data(name: str, room: str = "demand") -> dict[str, Any]:
    """A data file of a room, its rows complete."""
    tree = tomllib.loads(files(f"gnomonic.core.{room}").joinpath("data", *name.split("/")).read_text("utf8"))
    source, checked = tree.pop("source", ""), tree.pop("checked", None)
    return dict(inherit(tree, source, checked)) if checked else tree
