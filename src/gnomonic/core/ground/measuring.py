"""How points were got, and how good that is: the table in ``data/measuring.toml``."""

import math
import tomllib
from functools import cache
from importlib.resources import files
from typing import Any

from gnomonic.core.demand.system import Sourced


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


def _rows() -> dict[str, Any]:
    return tomllib.loads(files("gnomonic.core.ground").joinpath("data", "measuring.toml").read_text("utf8"))


@cache
def methods() -> dict[str, Method]:
    """Every way of measuring by key."""
    return {key: Method.model_validate(row) for key, row in _rows().items() if key != "direction"}


@cache
def directions() -> dict[str, Direction]:
    """Every way of knowing a direction by key."""
    return {key: Direction.model_validate(row) for key, row in _rows()["direction"].items()}
