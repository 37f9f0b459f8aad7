"""The table of event kinds (``data/kinds.toml``): the values of each, their bounds, which of several counts, which others it ends.

The office reads it here, the phone as JSON, docs/job-format.md as a table.  A test compares them.
"""

from datetime import date
from functools import cache
from typing import Any, Literal

from pydantic import Field, model_validator
from pydantic.fields import FieldInfo

from gnomonic.core.record import Record
from gnomonic.core.sourced import read_data


class Bounds(Record):
    """What a number lies within: from ``least`` on, or ``above`` a value that is not allowed itself, to ``most``."""

    least: float | None = None
    above: float | None = None
    most: float


class Value(Record):
    """A value that an event may carry: a number, a whole number, one of some words, yes or no, or text of a pattern."""

    meaning: str
    number: Bounds | None = None
    whole: Bounds | None = None
    words: tuple[str, ...] = ()
    yes_no: bool = False
    text: str = ""
    longest: int = 0

    @model_validator(mode="after")
    def _one(self) -> "Value":
        if sum(map(bool, (self.number, self.whole, self.words, self.yes_no, self.text))) != 1:
            raise ValueError("a value is of one type")
        return self

    @property
    def told(self) -> str:
        """Its type and bounds, for the docs."""
        if bounds := self.number or self.whole:
            low = f"over {bounds.above:g}" if bounds.above is not None else f"{bounds.least:g}"
            return f"{low} to {bounds.most:,.10g}{' (whole)' if self.whole else ''}"
        if self.words:
            return ", ".join(self.words)
        return "true or false" if self.yes_no else f"up to {self.longest} signs"


class Kind(Record):
    """A kind of event: see the head of the table."""

    of: Literal["plan", "post", "job", "any"]
    meaning: str
    needs: tuple[str, ...] = ()
    may: tuple[str, ...] = ()
    one_of: tuple[str, ...] = ()
    told_by: tuple[str, ...] = ()
    beside: bool = False
    sets: dict[str, str] = Field(default_factory=dict)
    marks: str = ""
    ends: tuple[str, ...] = ()
    reason: str = ""
    source: str = ""
    checked: date | None = None


@cache
def values() -> dict[str, Value]:
    """Every value by its name."""
    return {key: Value.model_validate(row) for key, row in read_data("kinds.toml", "log")["fields"].items()}


@cache
def kinds() -> dict[str, Kind]:
    """Every kind by its key.  Raises ValueError where the table names a value or a kind that is none."""
    made = {key: Kind.model_validate(row) for key, row in read_data("kinds.toml", "log")["kinds"].items()}
    for key, kind in made.items():
        named = {*kind.needs, *kind.may, *kind.one_of, *kind.told_by, *kind.sets}
        if odd := (named - set(values())) | (set(kind.ends) - set(made)):
            raise ValueError(f"kind {key} names {', '.join(sorted(odd))}, which the table does not have")
        if kind.ends and not kind.reason:
            raise ValueError(f"kind {key} ends others and does not say why")
    return made


def bounded(name: str) -> FieldInfo:
    """The bounds of a value as Pydantic checks them."""
    value = values()[name]
    if bounds := value.number:
        return Field(ge=bounds.least, gt=bounds.above, le=bounds.most, allow_inf_nan=False)  # type: ignore[no-any-return]
    if bounds := value.whole:
        return Field(ge=int(bounds.least or 0), le=int(bounds.most))  # type: ignore[no-any-return]
    return Field(max_length=value.longest, pattern=value.text)  # type: ignore[no-any-return]


def for_the_phone() -> dict[str, dict[str, Any]]:
    """What the phone folds by, kind by kind."""
    keys = ("of", "told_by", "beside", "sets", "marks", "ends")
    return {name: {k: v for k in keys if (v := getattr(kind, k))} for name, kind in kinds().items()}


def bounds_for_the_phone() -> dict[str, dict[str, Any]]:
    """Between what each number may lie, so that the phone refuses what the office would."""
    found = {name: (value.meaning, value.number or value.whole) for name, value in values().items()}
    return {
        name: {
            "meaning": meaning,
            "over": b.above is not None,
            "least": b.above if b.above is not None else b.least,
            "most": b.most,
        }
        for name, (meaning, b) in found.items()
        if b
    }


def as_tables() -> str:
    """Both tables as docs/job-format.md has them."""

    def said(kind: Kind) -> str:
        parts = [f"`{n}`" for n in kind.needs] + [f"`{n}`?" for n in kind.may if n not in kind.one_of]
        parts += [f"one at least of {', '.join(f'`{n}`' for n in kind.one_of)}"] if kind.one_of else []
        return ", ".join(parts)

    rows = ["| kind | of | it says | of several | it ends |", "|---|---|---|---|---|"]
    for key, kind in kinds().items():
        several = (
            "all stand" if kind.beside else f"the later of each `{kind.told_by[0]}`" if kind.told_by else "the later"
        )
        ends = ", ".join(f"`{n}`" for n in kind.ends) + (f": {kind.reason}" if kind.reason else "")
        rows.append(
            f"| `{key}`: {kind.meaning} | {kind.of} | {said(kind)} | {'' if key == 'void' else several} | {ends} |"
        )
    rows += ["", "| value | what it is | what it may be |", "|---|---|---|"]
    rows += [f"| `{key}` | {value.meaning} | {value.told} |" for key, value in values().items()]
    return "\n".join(rows)
