"""The catalog: generic items with their size, mass and price index (``data/catalog.toml``)."""

from functools import cache

from gnomonic.core.fabric.fabrics import Fabric
from gnomonic.core.sourced import Row, Sourced, read_data


class Sized(Row):
    """What is known of an item; ``mass_kg`` and ``index`` (a driven 6 ft steel post being 100) are for one ``unit``."""

    title: str
    group: str
    unit: str = ""
    length_m: float = 0.0
    width_m: float = 0.0
    diameter_m: float = 0.0
    strength_n: float = 0.0
    mass_kg: float = 0.0
    index: float


class Item(Sized, Sourced):
    """An item of the shop as shipped."""


class OwnItem(Sized):
    """An item of a workspace's own; a fabric carries what hanging it takes."""

    key: str
    fabric: Fabric | None = None


@cache
def catalog() -> dict[str, Item]:
    """Every item on file by its key."""
    return {key: Item.model_validate(row) for key, row in read_data("catalog.toml").items()}
