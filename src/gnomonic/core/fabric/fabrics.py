"""What is hung: rolled fabrics and single wires, as data (``data/fabrics.toml``, ``data/wires.toml``)."""

import math
from functools import cache, cached_property
from itertools import pairwise
from typing import Literal

from pydantic import model_validator

from gnomonic.core.fabric.label import read_label
from gnomonic.core.fabric.wire import Crimped, bar_strain, cold_n, gauge
from gnomonic.core.sourced import Sourced, read_data
from gnomonic.core.units import INCH_M

FabricKind = Literal["woven", "link", "welded", "hex", "cloth", "netting", "sheet"]


class Fabric(Sourced):
    """A rolled fabric.

    Woven: line-wire ``spacing_in`` from the bottom, gauges of the outer and filler wires, height ``curve_m`` of the
    tension curve and its wavelength ``wave_m`` (those of its class in ``curves.toml`` unless given), knot.  Others: ``height_m`` of the roll, ``mesh_m`` [up, along] and the ``rolled_pull_n`` it is
    drawn to.  ``strength`` 1 a net … 5 yard; ``index`` is price a metre, a driven 6 ft steel post being 100.
    """

    label: str
    kind: FabricKind = "woven"
    spacing_in: tuple[float, ...] = ()
    outer_gauge: float = 0.0
    filler_gauge: float = 0.0
    curve_m: float = 0.0
    wave_m: float = 0.0
    knot: Literal["", "hinge", "square", "fixed", "s"] = ""
    tensile: Literal["low", "high"] = "low"
    wide_m: float = 0.0
    mesh_m: tuple[float, float] = (0.0, 0.0)
    gauge: float = 0.0
    rolled_pull_n: float = 0.0
    roll_m: float = 100.584
    strength: int
    index: float
    mass_kg_m: float
    life_years: float
    plastic: bool = False

    @model_validator(mode="after")
    def _whole(self) -> "Fabric":
        if (self.kind == "woven") != bool(self.spacing_in) or (self.kind != "woven") != (self.wide_m > 0):
            raise ValueError("a woven fabric has spacing_in, any other has height_m and mesh_m")
        if self.spacing_in and not (self.outer_gauge > 0 and self.filler_gauge > 0):
            raise ValueError(
                "how thick its wires are is missing: give outer_gauge and filler_gauge, they are on the roll"
            )
        return self

    @property
    def wires(self) -> int:
        """Line wires that are tied one by one; none in a mesh that is held as a sheet."""
        return len(self.spacing_in) + 1 if self.spacing_in else 0

    @property
    def height_m(self) -> float:
        """Bottom edge to top edge."""
        return sum(self.spacing_in) * INCH_M if self.spacing_in else self.wide_m

    @cached_property
    def stay_m(self) -> float:
        """Distance of the upright wires along the fence."""
        return (read_label(self.label).stay_in or 0.0) * INCH_M if self.spacing_in else self.mesh_m[1]

    @cached_property
    def wire_heights_m(self) -> tuple[float, ...]:
        """Heights of the line wires above the bottom edge; of a mesh, its two edges."""
        if not self.spacing_in:
            return (0.0, self.height_m)
        return tuple(sum(self.spacing_in[:k]) * INCH_M for k in range(self.wires))

    @cached_property
    def rows_m(self) -> tuple[float, ...]:
        """Heights above the bottom edge at which there is a wire to fasten: line wires, rows of a mesh, crossings of
        diamonds; none in a sheet, which takes a fastener anywhere."""
        if self.spacing_in:
            return self.wire_heights_m
        apart = self.mesh_m[0] / math.sqrt(2) if self.kind == "link" else self.mesh_m[0]
        if self.kind == "sheet":
            return ()
        return tuple(apart * k for k in range(int(self.height_m / apart + 1e-6) + 1))

    @cached_property
    def line_wires(self) -> tuple[Crimped, ...]:
        """The line wires from the bottom up, with the curve of their class."""
        if not self.spacing_in:
            return ()
        curve = curves()[self.tensile]
        outer, filler = gauge(self.outer_gauge).m, gauge(self.filler_gauge).m
        sizes = [outer, *[filler] * (self.wires - 2), outer]
        return tuple(Crimped(d, self.curve_m or curve.curve_m, self.wave_m or curve.wave_m) for d in sizes)

    @property
    def curve(self) -> "CurveClass | None":
        """The class of its line wires' curve; none of a mesh."""
        return curves()[self.tensile] if self.spacing_in else None

    @cached_property
    def working_n(self) -> tuple[float, ...]:
        """What every line wire is pulled to at most, by its section; empty where half the curve alone says."""
        most = curves()[self.tensile].working_n
        return tuple(most * (w.d_m / gauge(12.5).m) ** 2 for w in self.line_wires) if most else ()

    @cached_property
    def wires_n(self) -> tuple[float, ...]:
        """Tension of every line wire at half its curve or its working tension, whichever comes first."""
        strain = bar_strain(self.line_wires, self.working_n)
        return tuple(w.tension_n(strain) for w in self.line_wires)

    @cached_property
    def pull_n(self) -> float:
        """Pull on the whole fabric on the day of the pull."""
        return sum(self.wires_n) if self.spacing_in else self.rolled_pull_n

    def cold_wires_n(self, drop_k: float) -> tuple[float, ...]:
        """Tension of every line wire when it has cooled by ``drop_k``, each by itself."""
        return tuple(cold_n(w, t, drop_k) for w, t in zip(self.line_wires, self.wires_n, strict=True))

    def cold_pull_n(self, drop_k: float) -> float | None:
        """Pull of a woven fabric when it has cooled; none for a mesh, whose own give is not known."""
        return sum(self.cold_wires_n(drop_k)) if self.spacing_in else None

    @cached_property
    def openings_m(self) -> tuple[tuple[float, float, float], ...]:
        """Rows of openings from the bottom: (from, to, least side), heights above the bottom edge."""
        if not self.spacing_in:
            return ((0.0, self.height_m, max(self.mesh_m)),)
        heights = self.wire_heights_m
        return tuple((low, high, min(high - low, self.stay_m)) for low, high in pairwise(heights))


class CurveClass(Sourced):
    """The tension curve of a class of line wire: amplitude and wavelength as crimped, their ranges, and the ``working_n`` a 12½
    gauge wire is pulled to at most (0: half the curve alone says); where it yields in bending, and what of its tension the
    first year takes."""

    curve_m: float
    wave_m: float
    wave_range_m: tuple[float, float]
    working_n: float
    yield_pa: float
    yield_range_pa: tuple[float, float]
    relax_share: float


@cache
def curves() -> dict[str, CurveClass]:
    """The tension curve by tensile class."""
    return {key: CurveClass.model_validate(row) for key, row in read_data("curves.toml", "fabric").items()}


class Wire(Sourced):
    """A wire, rail or board strung by itself: how long its coil is, what it is drawn to, what breaks it.

    ``steel_m`` is the diameter of a round wire with as much steel in it, where that is not its own.
    """

    title: str
    word: str
    diameter_m: float
    coil_m: float
    pull_n: float
    break_n: float = 0.0
    steel_m: float = 0.0
    index: float
    life_years: float
    barbs: bool = False

    @property
    def steel(self) -> Crimped:
        """As a straight wire with as much steel in it."""
        return Crimped(self.steel_m or self.diameter_m)

    def cold_pull_n(self, drop_k: float) -> float:
        """Its pull when it has cooled by ``drop_k``, ends fixed, taken as straight."""
        return cold_n(self.steel, self.pull_n, drop_k) if self.pull_n else 0.0


@cache
def fabrics() -> dict[str, Fabric]:
    """Every fabric on file by its label."""
    data = read_data("fabrics.toml", "fabric")
    return {row["label"]: Fabric.model_validate(row) for row in (*data["woven"], *data["mesh"])}


@cache
def wires() -> dict[str, Wire]:
    """Every wire on file by its key."""
    return {key: Wire.model_validate(row) for key, row in read_data("wires.toml", "fabric").items()}
