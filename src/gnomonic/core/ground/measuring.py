"""How points were got, and how good that is: the table in ``data/measuring.toml``."""

import math
import tomllib
from functools import cache
from importlib.resources import files
from typing import Any

from gnomonic.core.sourced import Rule, Sourced


class Method(Sourced):
    """A way of measuring: standard uncertainty along a leg ``fixed_m`` + ``share`` × length, and of its height (m)."""

    title: str
    fixed_m: float
    share: float
    height_m: float

    def along_m(self, length_m: float) -> float:
        """Standard uncertainty of a distance (m)."""
        return self.fixed_m + self.share * length_m


class Direction(Sourced):
    """How well a direction is known, standard uncertainty in degrees."""

    title: str
    degrees: float

    def across_m(self, length_m: float) -> float:
        """What the direction's uncertainty moves the far end of a leg by (m)."""
        return length_m * math.radians(self.degrees)


class Tape(Sourced):
    """A length a miscounted tape is out by."""

    said: str
    length_m: float


def _rows(name: str = "measuring.toml") -> dict[str, Any]:
    return tomllib.loads(files("gnomonic.core.ground").joinpath("data", name).read_text("utf8"))


@cache
def rules() -> dict[str, Rule]:
    """Every rule of measuring and marking by key."""
    return {key: Rule.model_validate(row) for key, row in _rows("rules.toml")["rules"].items()}


def rule(name: str) -> float:
    """The value of a rule."""
    return rules()[name].value


@cache
def tapes() -> tuple[Tape, ...]:
    """The lengths a miscounted tape is out by, the likelier first."""
    return tuple(Tape.model_validate(row) for row in _rows("rules.toml")["tapes"])


@cache
def methods() -> dict[str, Method]:
    """Every way of measuring by key."""
    return {key: Method.model_validate(row) for key, row in _rows().items() if key != "direction"}


@cache
def directions() -> dict[str, Direction]:
    """Every way of knowing a direction by key."""
    return {key: Direction.model_validate(row) for key, row in _rows()["direction"].items()}
