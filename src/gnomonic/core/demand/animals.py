"""Animals and behaviours as data, with what a workspace has put in their place.

A value is named by its path: ``sheep.height.value``, ``sheep.openings[0].most_m``.
"""

import copy
import re
from collections.abc import Iterator, Mapping
from datetime import date
from functools import cache, lru_cache
from typing import Any, Literal

from pydantic import Field

from gnomonic.core.errors import BadInput
from gnomonic.core.sourced import Row, Sourced, read_data

WHAT = Literal["barbs", "plastic", "link", "gap_over_mesh"]


class Least(Sourced):
    """One number that is demanded."""

    value: float


class OpeningRow(Sourced):
    """The largest opening up to a height."""

    upto_m: float
    most_m: float


class StrandsRow(Sourced):
    """How many strands at least, where only strands hang."""

    barbed: int
    plain: int


class StuckRow(Sourced):
    """Stays between these apart catch heads."""

    low_m: float
    high_m: float


class BelowRow(Sourced):
    """At the ground, any one of these, at least so much of it."""

    any: dict[str, float]


class TopRow(Sourced):
    """What the top must be."""

    needs: Literal["visible", "lip"]


class AvoidRow(Sourced):
    """What must not be near it."""

    what: WHAT


class SideRow(Sourced):
    """On which side of the posts things must be."""

    rule: Literal["struts_away", "posts_away"]


class Animal(Row):
    """What one kind of animal demands."""

    title: str
    group: Literal["stock", "yard", "wild", "fauna"]
    does: tuple[str, ...]
    height: Least
    openings: tuple[OpeningRow, ...]
    gap: Least
    strength: Least
    stuck: StuckRow | None = None
    strands: StrandsRow | None = None
    below: tuple[BelowRow, ...] = ()
    top: tuple[TopRow, ...] = ()
    avoid: tuple[AvoidRow, ...] = ()
    sides: tuple[SideRow, ...] = ()


class Behaviour(Row):
    """What a behaviour adds to an animal's demands."""

    title: str
    strength: Least | None = None
    more_height: Least | None = None
    gap: Least | None = None
    below: tuple[BelowRow, ...] = ()
    avoid: tuple[AvoidRow, ...] = ()
    sides: tuple[SideRow, ...] = ()


class Override(Row):
    """A workspace's own value in place of a shipped one, and why."""

    path: str = Field(max_length=120)
    value: float
    reason: str = Field(max_length=400)


class Book(Row):
    """Animals as a workspace holds them; ``shipped`` keeps each overridden value as it was shipped."""

    animals: dict[str, Animal]
    behaviours: dict[str, Behaviour]
    shipped: dict[str, float] = Field(default_factory=dict)


@cache
def _data() -> tuple[dict[str, Any], dict[str, Behaviour]]:
    behaviours = {key: Behaviour.model_validate(row) for key, row in read_data("behaviours.toml").items()}
    return read_data("animals.toml"), behaviours


@cache
def shipped() -> Book:
    """The book as shipped."""
    animals, behaviours = _data()
    return Book(animals={k: Animal.model_validate(row) for k, row in animals.items()}, behaviours=behaviours)


def numbers(tree: Any, path: str = "") -> Iterator[tuple[str, float]]:
    """Every number of a tree with its path."""
    if isinstance(tree, Mapping):
        for key, part in tree.items():
            yield from numbers(part, f"{path}.{key}" if path else key)
    elif isinstance(tree, list | tuple):
        for k, part in enumerate(tree):
            yield from numbers(part, f"{path}[{k}]")
    elif isinstance(tree, int | float) and not isinstance(tree, bool):
        yield path, float(tree)


@cache
def paths() -> dict[str, float]:
    """Every value of the shipped book that may be overridden, with its path."""
    return dict(numbers(_data()[0]))


def check_override(path: str, value: float, reason: str) -> Override:
    """An override that can be used.  Raises BadInput (``path``, ``value``, ``reason``)."""
    if path not in paths():
        raise BadInput("path", f"there is no value “{path[:60]}” in the rule book")
    if len(reason.strip()) < 10 or not reason.strip().isprintable():
        raise BadInput(
            "reason",
            "an override needs a reason of at least ten plain letters: who will know next year why it is there",
        )
    if not 0 <= value <= 10:
        raise BadInput(
            "value", f"{value:g} can't stand in the rule book: a value between 0 and 10 can (metres, or a strength)"
        )
    if path.endswith("strength.value") and value not in (1, 2, 3, 4, 5):
        raise BadInput("value", "a strength is 1, 2, 3, 4 or 5")
    return Override(path=path, value=value, reason=reason.strip())


@lru_cache(maxsize=8)
def with_overrides(overrides: tuple[Override, ...], on: date) -> Book:
    """The shipped book with a workspace's own values in it; their source says so."""
    if not overrides:
        return shipped()
    animals = copy.deepcopy(_data()[0])
    was = {}
    for override in overrides:
        keys = [int(p[1:-1]) if p.startswith("[") else p for p in re.findall(r"\w+|\[\d+\]", override.path)]
        row: Any = animals
        held: dict[str, Any] = {}
        for key in keys[:-1]:
            row = row[key]
            held = row if isinstance(row, dict) and "reason" in row else held
        was[override.path] = float(row[keys[-1]])
        row[keys[-1]] = override.value
        held |= {"reason": override.reason, "source": "this workspace", "checked": on}
    behaviours = shipped().behaviours
    return Book(
        animals={k: Animal.model_validate(row) for k, row in animals.items()}, behaviours=behaviours, shipped=was
    )
