"""Soils as data, and what a post in one of them holds."""

from dataclasses import replace
from functools import cache

from gnomonic.core.errors import BadInput
from gnomonic.core.record import row
from gnomonic.core.soil.embed import Family, Ground, Lean, ibc_holds_n, lean_clay, lean_sand, pull_out_n
from gnomonic.core.sourced import Sourced, read_data

FRICTION_OF_BEARING = 1 / 6  # International Building Code: skin friction at most a sixth of the bearing
FRICTION_MOST_PA = 23940.0  # and at most 500 psf


class Soil(Sourced):
    """A soil (``data/soils.toml``); ``wet`` is what is left of its weight or strength and its stiffness when soaked,
    ``hard`` what a post is driven into through a pilot hole only."""

    title: str
    words: str
    family: Family
    gamma_n_m3: float = 0.0
    kp: float = 0.0
    nh_n_m3: float = 0.0
    cu_pa: float = 0.0
    k_pa: float = 0.0
    lateral_pa_m: float
    bearing_pa: float
    wet: float
    hard: bool = False

    @property
    def friction_pa(self) -> float:
        """Grip on a post's sides.  Source: International Building Code §1810.3.3.1.4, from memory."""
        return min(self.bearing_pa * FRICTION_OF_BEARING, FRICTION_MOST_PA)


@cache
def soils() -> dict[str, Soil]:
    """Every soil by its key."""
    return {key: Soil.model_validate(row) for key, row in read_data("soils.toml", "soil").items()}


def soil(key: str) -> Soil:
    """A soil.  Raises BadInput (``soil``)."""
    if key not in soils():
        raise BadInput("soil", f"there is no soil “{key[:40]}”; there are: {', '.join(soils())}")
    return soils()[key]


@row
class InSoil:
    """A post where it stands: its soil, whether it is wet, how wide what bears on the ground is and how deep it goes.

    ``post_m`` is the width of the post alone, which slides out of what is tamped round it; of a post in concrete it is the
    footing.
    """

    soil: Soil
    wet: bool
    wide_m: float
    depth_m: float
    perimeter_m: float

    def like(self, depth_m: float, wide_m: float) -> "InSoil":
        """The same ground, so deep and bearing so wide."""
        return replace(self, depth_m=depth_m, wide_m=wide_m, perimeter_m=self.perimeter_m * wide_m / self.wide_m)

    @property
    def left(self) -> float:
        """What the wet leaves."""
        return self.soil.wet if self.wet else 1.0

    @property
    def ground(self) -> Ground:
        """Its soil as it is, dry or wet."""
        s = self.soil
        return Ground(s.family, s.gamma_n_m3 * self.left, s.kp, s.cu_pa * self.left)

    def ultimate_n(self, e_m: float) -> float:
        """Broms' ultimate sideways force at a height above the ground."""
        return self.ground.ultimate_n(self.wide_m, self.depth_m, e_m) if self.depth_m > 0 else 0.0

    def allowed_n(self, e_m: float) -> float:
        """What the building code's clause allows there."""
        s = self.soil.lateral_pa_m * self.left
        return ibc_holds_n(self.depth_m, e_m, self.wide_m, s) if self.depth_m > 0 else 0.0

    def lean(self, pull_n: float, e_m: float) -> Lean:
        """How far it moves under a pull."""
        depth = max(self.depth_m, 0.01)
        if self.soil.family == "clay":  # the springs of a wide footing are not stiffer for each metre of depth
            return lean_clay(pull_n, e_m, depth, self.soil.k_pa * self.left)
        return lean_sand(pull_n, e_m, depth, self.soil.nh_n_m3 * self.left)

    @property
    def up_n(self) -> float:
        """What its sides hold against being drawn out."""
        return pull_out_n(self.perimeter_m, max(self.depth_m, 0.0), self.soil.friction_pa * self.left)
