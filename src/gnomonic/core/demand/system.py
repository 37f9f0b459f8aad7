"""The barrier system and the decisions as data, read once and checked by Pydantic."""

import tomllib
from datetime import date
from functools import cache, cached_property
from importlib.resources import files
from typing import Any

from pydantic import BaseModel, ConfigDict, Field

from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.label import read_label
from gnomonic.core.fabric.wire import fabric_pull_n, gauge
from gnomonic.core.units import INCH_M

PostKind = str  # "terminal", "brace", "wood", "steel"


class Sourced(BaseModel):
    """A value of the trade: why it holds, where it comes from and when it was last looked at."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    reason: str = Field(min_length=10)
    source: str = Field(min_length=3)
    checked: date


class Rule(Sourced):
    """One number."""

    value: float
    unit: str


class SteepBay(Sourced):
    """Shorter bays on steep ground."""

    grade: float
    share: float


class DecisionRule(Sourced):
    """What the fencer decides, with its start value and the range accepted (SI)."""

    label: str
    kind: str
    value: float
    least: float
    most: float


class PostRule(Sourced):
    """A kind of post."""

    title: str
    depth_m: float
    diameter_m: float
    stock_m: tuple[float, ...]

    def stock_for(self, above_m: float) -> float:
        """The shortest length sold that stands ``above_m`` out of the ground; the longest when none does."""
        return next((s for s in self.stock_m if s >= above_m + self.depth_m - 1e-6), self.stock_m[-1])


class Fabric(BaseModel):
    """A woven fabric: label, line-wire spacings from the bottom (in), gauges, tension curve."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    label: str
    spacing_in: tuple[float, ...]
    outer_gauge: float
    filler_gauge: float
    curve_m: float
    source: str
    checked: date

    @property
    def wires(self) -> int:
        """Line wires."""
        return len(self.spacing_in) + 1

    @property
    def height_m(self) -> float:
        """Bottom wire to top wire."""
        return sum(self.spacing_in) * INCH_M

    @property
    def stay_m(self) -> float:
        """Stay spacing, from the label."""
        return (read_label(self.label).stay_in or 0.0) * INCH_M

    @property
    def wire_heights_m(self) -> tuple[float, ...]:
        """Heights of the line wires above the bottom one."""
        return tuple(sum(self.spacing_in[:k]) * INCH_M for k in range(self.wires))

    @cached_property
    def pull_n(self) -> float:
        """Pull on the whole fabric that leaves half the tension curve in every wire."""
        outer, filler = gauge(self.outer_gauge).m, gauge(self.filler_gauge).m
        return fabric_pull_n([outer] * 2 + [filler] * (self.wires - 2), self.curve_m, self.stay_m)


class WovenSystem(BaseModel):
    """Woven field fabric on wood and driven steel posts."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    title: str
    steep_bays: tuple[SteepBay, ...]
    fabrics: tuple[Fabric, ...]
    posts: dict[str, PostRule]
    rules: dict[str, Rule]

    def fabric(self, label: str) -> Fabric:
        """A fabric by its label, however that is written.  Raises BadInput (``barrier.label``)."""
        reading = read_label(label)
        for fabric in self.fabrics:
            if read_label(fabric.label) == reading:
                return fabric
        known = ", ".join(f.label for f in self.fabrics)
        raise BadInput("barrier.label", f"there is no line-wire spacing on file for {label}; the fabrics are {known}")

    def rule(self, name: str) -> float:
        """The value of a rule."""
        return self.rules[name].value


def _toml(name: str) -> dict[str, Any]:
    return tomllib.loads(files("gnomonic.core.demand").joinpath("data", name).read_text("utf8"))


@cache
def woven() -> WovenSystem:
    """The one barrier system of this version."""
    return WovenSystem.model_validate(_toml("woven.toml"))


@cache
def decision_rules() -> dict[str, DecisionRule]:
    """Every decision by key, in the order of the file."""
    return {key: DecisionRule.model_validate(row) for key, row in _toml("decisions.toml").items()}
