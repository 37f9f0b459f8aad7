"""Netting stacked to height from the widths on hand, a sheet's section, and what hexagons trade of length for height."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product

from gnomonic.core.errors import BadInput
from gnomonic.core.units import reaching

MOST_LAYERS = 4


@dataclass(frozen=True, slots=True)
class Width:
    """A width on hand: its name, how wide, its mesh, its price index a metre."""

    name: str
    wide_m: float
    mesh_m: float
    index: float = 0.0


@dataclass(frozen=True, slots=True)
class Placed:
    """A layer of a stack: ``lap_m`` over the layer below, ``lap_holes`` of the coarser mesh."""

    width: Width
    bottom_m: float
    lap_m: float
    lap_holes: int

    @property
    def top_m(self) -> float:
        """Its upper edge."""
        return self.bottom_m + self.width.wide_m


@dataclass(frozen=True, slots=True)
class Stack:
    """Layers from the bottom up; ``waste_m`` is width bought beyond the height asked for."""

    layers: tuple[Placed, ...]
    height_m: float
    waste_m: float


def stack(
    height_m: float,
    bands: Sequence[tuple[float, float, float]],
    widths: Sequence[Width],
    lap_least_m: float,
    most_layers: int = 3,
) -> Stack | None:
    """The stack of widths that reaches a height with least width wasted, then fewest seams, then the cheapest.

    ``bands`` are (from, to, largest opening).  Layers lap by whole holes of the coarser mesh, at least ``lap_least_m``,
    and no layer lower than a coarser one hangs above a finer demand: each keeps to the opening of every band it
    reaches.  None when nothing reaches.  Source: exhaustive over the widths on hand.
    """
    best: tuple[tuple[float, int, float, tuple[str, ...]], Stack] | None = None
    for count in range(1, min(most_layers, MOST_LAYERS) + 1):
        for chosen in product(widths, repeat=count):
            layers = _placed(chosen, lap_least_m)
            if layers is None or layers[-1].top_m < height_m - 1e-9 or not _keeps(layers, bands):
                continue
            waste = sum(w.wide_m for w in chosen) - height_m
            price = sum(w.index for w in chosen)
            score = (round(waste, 6), count, price, tuple(w.name for w in chosen))
            if best is None or score < best[0]:
                best = (score, Stack(layers, layers[-1].top_m, waste))
    return best[1] if best else None


def _placed(chosen: Sequence[Width], lap_least_m: float) -> tuple[Placed, ...] | None:
    layers = [Placed(chosen[0], 0.0, 0.0, 0)]
    for width in chosen[1:]:
        below = layers[-1]
        mesh = max(width.mesh_m, below.width.mesh_m)
        holes = max(1, math.ceil(lap_least_m / mesh - 1e-9))
        bottom = below.top_m - holes * mesh
        if bottom <= below.bottom_m:
            return None
        layers.append(Placed(width, bottom, holes * mesh, holes))
    return tuple(layers)


def _keeps(layers: Sequence[Placed], bands: Sequence[tuple[float, float, float]]) -> bool:
    for low, high, most in bands:
        for k, layer in enumerate(layers):
            start = layers[k - 1].top_m if k else 0.0  # where it laps, the layer below closes it too
            if start < high - 1e-9 and layer.top_m > low + 1e-9 and layer.width.mesh_m > most + 1e-9:
                return False
    return True


def rolls_each_side(sides_m: Sequence[float], roll_m: float) -> list[int]:
    """Rolls of one layer for each side by itself, nothing joined round a corner or carried to the next."""
    return [reaching(side, roll_m) for side in sides_m]


@dataclass(frozen=True, slots=True)
class SheetSection:
    """A sheet across: lip + above + buried = width."""

    width_m: float
    lip_m: float
    above_m: float
    buried_m: float


def sheet_section(
    width_m: float | None, lip_m: float | None, above_m: float | None, buried_m: float | None
) -> SheetSection:
    """Solve the one part that is not given.  Raises BadInput when two are missing or what is left is not positive."""
    parts = {"width_m": width_m, "lip_m": lip_m, "above_m": above_m, "buried_m": buried_m}
    missing = [name for name, value in parts.items() if value is None]
    if len(missing) > 1:
        raise BadInput(missing[1], f"{missing[0]} and {missing[1]} are both missing: give three of the four")
    given = sum(v for n, v in parts.items() if v is not None and n != "width_m")
    if not missing:
        assert width_m is not None
        if abs(given - width_m) > 1e-6:
            raise BadInput("width_m", f"lip, above and buried make {given:g} m, not the sheet's {width_m:g} m")
        return SheetSection(width_m, lip_m or 0.0, above_m or 0.0, buried_m or 0.0)
    rest = given if missing[0] == "width_m" else (width_m or 0.0) - given
    if rest < -1e-9 or (missing[0] in ("width_m", "above_m") and rest <= 0):
        raise BadInput(missing[0], f"a sheet of {width_m or 0:g} m leaves {rest:g} m for {missing[0]}")
    parts[missing[0]] = max(0.0, rest)
    return SheetSection(
        parts["width_m"] or 0.0, parts["lip_m"] or 0.0, parts["above_m"] or 0.0, parts["buried_m"] or 0.0
    )


def hexagon_length_share(stretch: float) -> float:
    """Share of its length that hexagonal netting keeps when its height is pulled out by ``stretch``.

    Regular hexagons whose twisted sides run along the roll, wires that do not lengthen: half a cell is a·sin θ high and
    a + a·cos θ long, θ = 60° as made.  Source: derived.  Raises BadInput beyond what the cells can give (15 %).

    >>> round(hexagon_length_share(0.0), 6), round(hexagon_length_share(0.05), 4)
    (1.0, 0.9441)
    """
    sine = math.sin(math.radians(60)) * (1 + stretch)
    if not stretch >= -0.5 or sine > 1:
        raise BadInput(
            "stretch", f"netting can't be {stretch:g} higher than it was made: its wires would lie straight at 0.155"
        )
    return (1 + math.sqrt(1 - sine**2)) / 1.5
