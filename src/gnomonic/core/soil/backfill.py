"""What goes into a hole round a post: volumes, lifts, bags, cement and water apart."""

import math
from dataclasses import dataclass
from functools import cache

from gnomonic.core.sourced import Sourced, read_data


class Fill(Sourced):
    """One way to fill a hole.

    ``lift_m`` how much is put in at a time; ``loose`` loose volume for one volume in place; of a mix, cement by volume of
    the whole (``cement_share``), a bag's yield and mass, a cement bag's volume, and water a m³.
    """

    title: str
    lift_m: float
    loose: float = 1.0
    bag_m3: float = 0.0
    bag_kg: float = 0.0
    cement_share: float = 0.0
    cement_kg_m3: float = 0.0
    water_kg_m3: float = 0.0


@cache
def fills() -> dict[str, Fill]:
    """Every way to fill a hole by its key."""
    return {key: Fill.model_validate(row) for key, row in read_data("fills.toml", "soil").items()}


@dataclass(frozen=True, slots=True)
class Backfill:
    """For one hole: ``hole_m3`` dug (the spoil, as it lies in the ground), ``round_m3`` between hole and post, ``loose_m3`` to bring, lifts, bags of mix,
    cement and water by mass."""

    hole_m3: float
    round_m3: float
    loose_m3: float
    lifts: int
    bags: float
    cement_kg: float
    water_kg: float


def backfill(fill: Fill, hole_area_m2: float, post_area_m2: float, depth_m: float, below_m: float = 0.0) -> Backfill:
    """What a hole of an area takes round a post that stands ``depth_m`` deep, on ``below_m`` of gravel.

    Volume = (hole − post)·depth.  Source: geometry; the mix from the data.
    """
    around = (hole_area_m2 - post_area_m2) * depth_m
    bags = around / fill.bag_m3 if fill.bag_m3 else 0.0
    cement = around * fill.cement_share * fill.cement_kg_m3
    return Backfill(
        hole_area_m2 * (depth_m + below_m),
        around,
        around * fill.loose,
        max(1, math.ceil(depth_m / fill.lift_m - 1e-9)) if fill.lift_m else 1,
        bags,
        cement,
        around * fill.water_kg_m3,
    )
