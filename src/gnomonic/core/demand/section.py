"""The section: what a barrier's choice comes to, layer by layer and strand by strand, up from its bottom edge."""

import math
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise

from gnomonic.core.demand.system import Extra, Makeup, PostRule, System, system
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.fabrics import Fabric, Wire, fabrics, wires
from gnomonic.core.fabric.label import read_label
from gnomonic.core.fabric.wire import Crimped, cold_strain, relief

Rows = tuple[tuple[float, float, float], ...]


@dataclass(frozen=True, slots=True)
class HungLayer:
    """A fabric in place, heights above the barrier's bottom edge; ``lip_m`` of it is bent over at the top."""

    fabric: Fabric
    bottom_m: float
    lip_m: float = 0.0

    @property
    def top_m(self) -> float:
        """Its top edge, or the crease of its lip."""
        return self.bottom_m + self.fabric.height_m - self.lip_m


@dataclass(frozen=True, slots=True)
class HungStrand:
    """A wire in place, ``at_m`` above the barrier's bottom edge."""

    key: str
    wire: Wire
    at_m: float


@dataclass(frozen=True)
class Section:
    """Everything that hangs between two posts."""

    system: System
    label: str
    layers: tuple[HungLayer, ...]
    strands: tuple[HungStrand, ...]
    extras: tuple[Extra, ...] = ()
    schools: Mapping[str, str] = field(default_factory=dict)
    clearance_m: float | None = None

    @cached_property
    def posts(self) -> dict[str, PostRule]:
        """The system's posts, as the schools chosen have them; a barrier that is not braced by panels has brace posts like its
        terminals, for an end that is asked to be.
        """
        found = dict(self.system.posts)
        for school in self.system.schools:
            way = next(w for w in school.ways if w.key == self.school(school.key))
            for kind, changes in way.posts.items():
                found[kind] = found[kind].model_copy(update=changes)
        found.setdefault("brace", found["terminal"].model_copy(update={"title": "brace post, as the terminals"}))
        return found

    @cached_property
    def gate_post(self) -> PostRule:
        """A gate's post: a terminal one size bigger."""
        return self.posts["terminal"].model_copy(update=self.system.gate_post)

    def terminal(self, role: str) -> PostRule:
        """The post at an end of a run, by its role: a gate's is one size bigger."""
        return self.gate_post if role == "gate" else self.posts["terminal"]

    @property
    def named(self) -> str:
        """Its label for the eye: strands reckoned for a demand are counted."""
        counted = [s for s in self.strands if s.wire.coil_m]
        return f"{len(counted)} strands as demanded" if self.label == "as demanded" else self.label

    @property
    def fabric(self) -> Fabric | None:
        """The lowest fabric; none where only strands hang."""
        return self.layers[0].fabric if self.layers else None

    @cached_property
    def top_m(self) -> float:
        """Highest fabric edge or strand above the bottom edge."""
        return max([layer.top_m for layer in self.layers] + [s.at_m for s in self.strands])

    @property
    def wires(self) -> int:
        """Line wires and pulled strands."""
        return len(self.line_heights_m)

    @cached_property
    def fabric_wires_m(self) -> tuple[float, ...]:
        """Heights of the fabrics' line wires."""
        return tuple(
            layer.bottom_m + h for layer in self.layers if layer.fabric.wires for h in layer.fabric.wire_heights_m
        )

    @cached_property
    def rows_m(self) -> tuple[float, ...]:
        """Heights at which there is a wire of a fabric to fasten, from the bottom."""
        return tuple(sorted({round(x.bottom_m + h, 6) for x in self.layers for h in x.fabric.rows_m}))

    def strand_heights_m(self, of: str = "") -> tuple[float, ...]:
        """Heights of the strands, of one wire or of all."""
        return tuple(s.at_m for s in self.strands if of in ("", "strands", s.key))

    @cached_property
    def line_heights_m(self) -> tuple[float, ...]:
        """Heights of every line wire and pulled strand, from the bottom."""
        pulled = [s.at_m for s in self.strands if s.wire.pull_n > 0]
        return tuple(sorted([*self.fabric_wires_m, *pulled]))

    @cached_property
    def pull_n(self) -> float:
        """Pull of everything on an end post, on the day of the pull."""
        return sum(layer.fabric.pull_n for layer in self.layers) + sum(s.wire.pull_n for s in self.strands)

    @cached_property
    def cold(self) -> tuple[tuple[float, float], ...]:
        """Height above the bottom edge and tension of every wire on the coldest day, ends fixed, each by itself.

        A mesh whose own give is not known keeps what it is drawn to, at its middle.
        """
        drop, found = self.system.rule("cold_drop_k"), []
        for x in self.layers:
            if x.fabric.spacing_in:
                heights = (x.bottom_m + h for h in x.fabric.wire_heights_m)
                found += list(zip(heights, x.fabric.cold_wires_n(drop), strict=True))
            elif x.fabric.rolled_pull_n:
                found.append((x.bottom_m + x.fabric.height_m / 2, x.fabric.rolled_pull_n))
        found += [(s.at_m, s.wire.cold_pull_n(drop)) for s in self.strands if s.wire.pull_n]
        return tuple(found)

    @cached_property
    def cold_n(self) -> float:
        """What ends are designed for: the pull of everything on the coldest day."""
        return sum(pull for _, pull in self.cold)

    @cached_property
    def relief(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """Strains given back by ends that move, and the share of the cold day's pull left at each; none where nothing is known
        to give."""
        drop, alike, still = self.system.rule("cold_drop_k"), Counter[tuple[Crimped, float]](), 0.0
        for x in self.layers:
            for wire, tension in zip(x.fabric.line_wires, x.fabric.wires_n if x.fabric.spacing_in else (), strict=True):
                alike[wire, cold_strain(wire, tension, drop)] += 1
            still += 0.0 if x.fabric.spacing_in else x.fabric.rolled_pull_n
        for s in self.strands:
            if s.wire.pull_n:
                alike[s.wire.steel, cold_strain(s.wire.steel, s.wire.pull_n, drop)] += 1
        return relief(tuple((w, e, n) for (w, e), n in alike.items()), still) if alike else ((0.0,), (1.0,))

    @cached_property
    def pull_height_m(self) -> float:
        """Height above the bottom edge at which that acts: each wire's weighted by its tension."""
        return sum(at * pull for at, pull in self.cold) / self.cold_n if self.cold_n else self.top_m / 2

    @property
    def seams(self) -> int:
        """Seams along the fence where one layer laps the next."""
        return max(0, len(self.layers) - 1)

    @property
    def barbs(self) -> bool:
        """Whether anything in it is barbed."""
        return any(s.wire.barbs for s in self.strands)

    @property
    def plastic(self) -> bool:
        """Whether any of it is plastic."""
        return any(f.plastic for f in (*(x.fabric for x in self.layers), *self.linings))

    @property
    def railed(self) -> bool:
        """Whether a rail or board runs along the top."""
        return any(s.key in ("rail", "board") for s in self.strands)

    @property
    def strength(self) -> int:
        """1 a net, 2 light, 3 field, 4 strong, 5 yard; strands alone hold like field fabric."""
        return max((layer.fabric.strength for layer in self.layers), default=3)

    @property
    def life_years(self) -> float:
        """Years until the first of it is done."""
        years = [layer.fabric.life_years for layer in self.layers] + [s.wire.life_years for s in self.strands]
        return min(years)

    @cached_property
    def gives(self) -> dict[str, float]:
        """What it does below and above: apron out, pegs, visible top, lip …, the most of each."""
        given = dict(self.system.gives)
        for extra in self.extras:
            for key, value in extra.gives.items():
                given[key] = max(value, given.get(key, 0.0))
        for layer in self.layers:
            if layer.lip_m:
                given["lip"] = layer.lip_m
        return given

    @property
    def aprons(self) -> tuple[Fabric, ...]:
        """Fabrics that lie on the ground in front."""
        return tuple(fabrics()[e.apron] for e in self.extras if e.apron)

    @property
    def linings(self) -> tuple[Fabric, ...]:
        """Finer fabrics hung on its lower part, from the bottom edge up."""
        return tuple(fabrics()[e.lining] for e in self.extras if e.lining)

    def openings(self, clearance_m: float) -> Rows:
        """Openings from the bottom edge up, by height above the ground: (from, to, least side).

        Where a fabric hangs its own openings count (the smallest of several), elsewhere the distance between strands.
        """
        edges = {0.0, self.top_m, *(s.at_m for s in self.strands)}
        rows = []
        for layer in self.layers:
            for low, high, least in layer.fabric.openings_m:
                if layer.bottom_m + low < layer.top_m - 1e-9:
                    rows.append((layer.bottom_m + low, min(layer.bottom_m + high, layer.top_m), least))
            edges |= {layer.bottom_m, layer.top_m}
        for lining in self.linings:
            for low, high, least in lining.openings_m:
                if low < self.top_m - 1e-9:
                    rows.append((low, min(high, self.top_m), least))
        levels = sorted({round(e, 6) for e in edges} | {round(e, 6) for r in rows for e in r[:2]})
        found = []
        for low, high in pairwise(levels):
            own = [least for a, b, least in rows if a < high - 1e-6 and b > low + 1e-6]
            found.append((low + clearance_m, high + clearance_m, min(own) if own else self._apart(low, high)))
        return tuple(found)

    def _apart(self, low: float, high: float) -> float:
        """Distance between the neighbours of a place where no fabric hangs."""
        hung = [s.at_m for s in self.strands] + [e for layer in self.layers for e in (layer.bottom_m, layer.top_m)]
        below, above = [h for h in hung if h <= low + 1e-6], [h for h in hung if h >= high - 1e-6]
        return (min(above) if above else high) - (max(below) if below else 0.0)

    def school(self, key: str) -> str:
        """The way chosen where the trade disagrees; the first where none was."""
        chosen = self.schools.get(key)
        first = next((s.ways[0].key for s in self.system.schools if s.key == key), "")
        return chosen or first


def holes(least_m: float, mesh_m: float) -> float:
    """An overlap in whole holes of a mesh, at least so much.

    >>> round(holes(0.0762, 0.0254), 4), round(holes(0.08, 0.0254), 4)
    (0.0762, 0.1016)
    """
    return math.ceil(least_m / mesh_m - 1e-9) * mesh_m


def stacked(names: Sequence[str], lap_least_m: float) -> tuple[HungLayer, ...]:
    """Layers stacked from the bottom, each lapping the one below by whole holes of the coarser of the two."""
    layers: list[HungLayer] = []
    for name in names:
        if name not in fabrics():
            raise BadInput("barrier.label", f"there is no fabric “{name}” on file")
        fabric = fabrics()[name]
        at = 0.0
        if layers:
            mesh = max(fabric.mesh_m[0], layers[-1].fabric.mesh_m[0])
            at = layers[-1].top_m - holes(lap_least_m, mesh)
        layers.append(HungLayer(fabric, at))
    return tuple(layers)


def _woven_by_label(of: System, label: str) -> Fabric | None:
    """A woven fabric of a system by its label, however that is written."""
    try:
        reading = read_label(label)
    except BadInput:
        return None
    for name in of.fabrics:
        if fabrics()[name].spacing_in and read_label(name) == reading:
            return fabrics()[name]
    return None


def _made(of: System, makeup: Makeup) -> tuple[tuple[HungLayer, ...], tuple[HungStrand, ...]]:
    layers = tuple(HungLayer(fabrics()[layer.fabric], layer.at_m, layer.lip_m) for layer in makeup.layers)
    if not layers and not makeup.strands:
        layers = stacked(makeup.label.split(" + "), of.rule("lap_least_m"))
    return layers, tuple(HungStrand(s.wire, wires()[s.wire], s.at_m) for s in makeup.strands)


def section(
    key: str,
    label: str,
    extras: Sequence[str] = (),
    schools: Mapping[str, str] | None = None,
    strands_m: Sequence[float] = (),
    own: Fabric | None = None,
) -> Section:
    """What a barrier's choice comes to.

    ``strands_m`` are heights above the ground of strands reckoned for a demand, ``own`` a fabric that is not on file.
    Raises BadInput naming the field of the barrier.
    """
    of = system(key)
    layers: tuple[HungLayer, ...] = ()
    strands: tuple[HungStrand, ...] = ()
    clearance: float | None = None
    makeup = of.makeup(label)
    if strands_m:
        wire = next((m.solve for m in of.makeups if m.solve in wires()), "")
        if not wire or list(strands_m) != sorted(set(strands_m)) or strands_m[0] < 0:
            raise BadInput(
                "barrier.strands_m", "strand heights must rise from the ground, on a system that hangs strands"
            )
        strands = tuple(HungStrand(wire, wires()[wire], h - strands_m[0]) for h in strands_m)
        clearance = strands_m[0]
    elif own is not None and own.label == label:
        layers = (HungLayer(own, 0.0),)
    elif makeup is not None and not makeup.solve:
        layers, strands = _made(of, makeup)
        clearance = makeup.clearance_m
    elif (woven := _woven_by_label(of, label)) is not None:
        layers, label = (HungLayer(woven, 0.0),), woven.label
    elif label in of.fabrics:
        layers = (HungLayer(fabrics()[label], 0.0),)
    elif any(m.solve == "layers" for m in of.makeups) and _netting(label):
        layers = stacked(label.split(" + "), of.rule("lap_least_m"))
    else:
        raise BadInput("barrier.label", _unknown(of, label))
    chosen = tuple(of.extra(e) for e in dict.fromkeys(extras))
    _check_schools(of, schools or {})
    made = Section(of, label, layers, strands, chosen, dict(schools or {}), clearance)
    top = made.top_m
    more = tuple(
        HungStrand(s.wire, wires()[s.wire], s.over_m + (top if s.from_ == "top" else 0.0))
        for extra in chosen
        for s in extra.strands
    )
    return Section(of, label, layers, (*strands, *more), chosen, dict(schools or {}), clearance)


def _netting(label: str) -> bool:
    """Whether a label names netting widths on file, bottom first."""
    names = label.split(" + ")
    return all(name in fabrics() and fabrics()[name].kind in ("hex", "cloth") for name in names)


def _unknown(of: System, label: str) -> str:
    known = ", ".join(of.labels())
    try:
        kind = read_label(label).kind
    except BadInput:
        return f"“{label[:40]}” is not hung on {of.title}; there are: {known}"
    if kind == "woven" and any(fabrics()[f].spacing_in for f in of.fabrics):
        return f"there is no line-wire spacing on file for {label}; the fabrics are {known}"
    return f"{label} is not hung on {of.title}; there are: {known}"


def _check_schools(of: System, schools: Mapping[str, str]) -> None:
    for key, way in schools.items():
        school = next((s for s in of.schools if s.key == key), None)
        if school is None or way not in [w.key for w in school.ways]:
            known = "; ".join(f"{s.key}: {', '.join(w.key for w in s.ways)}" for s in of.schools) or "none"
            raise BadInput("barrier.schools", f"there is no choice “{key}: {way}” for {of.title}; there are: {known}")
