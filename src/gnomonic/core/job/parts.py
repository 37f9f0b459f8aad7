"""What a Job document is made of: measured lines, what hangs on them, what was decided and found.  SI."""

import math
from datetime import date
from typing import Annotated, Any, Literal

from pydantic import ConfigDict, Field, model_validator

from gnomonic.core.fabric.fabrics import Fabric
from gnomonic.core.job.decided import decision_rules
from gnomonic.core.limits import MOST_BOOK_CHARACTERS, MOST_NAME, MOST_OUTLINE
from gnomonic.core.record import Record

Metres = Annotated[float, Field(allow_inf_nan=False, ge=-1e7, le=1e7)]
Span = Annotated[float, Field(allow_inf_nan=False, gt=0, le=1e6)]
PLAIN_TEXT = r"^[^\x00-\x1f\x7f]*$"  # no control characters
Name = Annotated[str, Field(max_length=MOST_NAME, pattern=PLAIN_TEXT)]


class Part(Record):
    """A part of the document; JSON is read strictly."""

    model_config = ConfigDict(strict=True)


class Point(Part):
    """A measured point: metres east, north and up in the job's local grid.

    ``how`` the leg to it was got (a key of ``ground/data/measuring.toml``, empty when the file did not say) and
    ``good_m``, that leg's standard uncertainty.
    """

    e_m: Metres
    n_m: Metres
    h_m: Metres
    name: Name = ""
    how: Annotated[str, Field(pattern=r"^[a-z]{0,12}$")] = ""
    good_m: Annotated[float, Field(ge=0, le=1e5)] | None = None


class Frame(Part):
    """How local metres relate to the world: ``local``, or a transverse Mercator grid on WGS 84 about an origin."""

    kind: Literal["local", "geographic"] = "local"
    lon0_deg: Annotated[float, Field(ge=-180, le=180)] | None = None
    lat0_deg: Annotated[float, Field(ge=-90, le=90)] | None = None

    @model_validator(mode="after")
    def _whole(self) -> "Frame":
        if (self.kind == "geographic") != (self.lon0_deg is not None and self.lat0_deg is not None):
            raise ValueError("a geographic frame has lon0_deg and lat0_deg, a local one has neither")
        return self


SourceKind = Literal["gpx", "geojson", "csv", "legs", "kml", "dxf", "shapefile", "walk", "drawn"]


class Source(Part):
    """Where a line came from, what was done to it on the way in, and what it was measured in (empty when nothing says)."""

    kind: SourceKind
    file: Name = ""
    points_read: Annotated[int, Field(ge=2)]
    simplified_m: Annotated[float, Field(ge=0)] | None = None
    notes: tuple[str, ...] = ()
    unit: Literal["", "m", "ft"] = ""


class FieldBook(Part):
    """What was written in the field (``ground/book.py``) and how it was reduced.

    ``unit`` of numbers written without one; ``adjust`` by the compass rule or not; ``mended`` when points were moved by
    hand since, so that reading the book again would undo that; ``start`` (east, north, up) where the book's own
    origin lies on the job's ground.
    """

    text: Annotated[str, Field(max_length=MOST_BOOK_CHARACTERS, pattern=r"^[^\x00-\x08\x0b\x0c\x0e-\x1f\x7f]*$")]
    unit: Literal["", "m", "ft"] = ""
    adjust: Literal["none", "compass"] = "none"
    mended: bool = False
    start: tuple[Metres, Metres, Metres] = (0.0, 0.0, 0.0)


class HeightGrid(Part):
    """The grid heights were taken from: its cell and its name."""

    cell_m: Annotated[float, Field(gt=0, le=1e5)]
    file: Name = ""


class MeasuredLine(Part):
    """The line as measured.  ``closed`` joins the last point to the first (which is not repeated).

    ``level`` when no heights were measured and the ground is only taken as level.
    """

    points: Annotated[tuple[Point, ...], Field(min_length=2)]
    closed: bool = False
    source: Source
    book: FieldBook | None = None
    grid: HeightGrid | None = None
    level: bool = False


Key = Annotated[str, Field(pattern=r"^[a-z][a-z0-9_]{0,31}$")]


class Barrier(Part):
    """What is hung: a barrier system (``demand/data/systems``) and what of it, by label.

    ``extras`` added to it, the ``schools`` chosen where the trade disagrees, heights above the ground of strands
    reckoned for a demand, an ``own`` fabric that is not on file, and the ``side`` of the posts it hangs on.
    """

    system: Key = "woven"
    label: Name = "9-49-6"
    extras: Annotated[tuple[Key, ...], Field(max_length=8)] = ()
    schools: dict[Key, Key] = Field(default_factory=dict)
    strands_m: Annotated[tuple[Annotated[float, Field(ge=0, le=5)], ...], Field(max_length=40)] = ()
    own: Fabric | None = None
    side: Literal["", "left", "right"] = ""


class Presence(Part):
    """Who is on a side of the line (a key of ``demand/data/animals.toml``) and what they ``also`` do."""

    animal: Key
    side: Literal["left", "right"]
    also: Annotated[tuple[Key, ...], Field(max_length=8)] = ()


class Hold(Part):
    """What the barrier must hold or keep out, for how many ``years`` (0: not said), and what the fencer will not have."""

    animals: Annotated[tuple[Presence, ...], Field(max_length=40)] = ()
    years: Annotated[float, Field(ge=0, le=100)] = 0.0
    visible: bool = False
    never: Annotated[tuple[Literal["barbs", "plastic"], ...], Field(max_length=2)] = ()
    only: Literal["", "barbs", "mesh", "wires"] = ""


class SharedPost(Part):
    """An end of the line that stands on a post of a fence outside the job, named ``of``: it is there already."""

    at: Literal["start", "end"]
    of: Annotated[str, Field(min_length=1, max_length=MOST_NAME, pattern=PLAIN_TEXT)]


class Decisions(Part):
    """What the fencer decides (SI); meaning, start value, range and reason of each in ``data/decisions.toml``."""

    longest_bay_m: float
    clearance_m: float
    gap_min_m: float
    gap_max_m: float
    k_fill: float
    k_cut: float
    wood_every: float
    corner_angle_deg: float
    brace_spacing_m: float
    brace_panels: float
    roll_m: float
    tie_off_m: float
    overlap_m: float
    splice_clear_m: float
    piece_min_m: float
    longest_run_m: float
    batten_m: float
    hold_factor: float
    shave_m: float
    wind_m_s: float

    @model_validator(mode="before")
    @classmethod
    def _defaults(cls, data: Any) -> Any:
        if isinstance(data, dict):
            return {**{key: rule.value for key, rule in decision_rules().items()}, **data}
        return data

    @model_validator(mode="after")
    def _in_range(self) -> "Decisions":
        for key, rule in decision_rules().items():
            value = getattr(self, key)
            if not math.isfinite(value) or not rule.least <= value <= rule.most:
                raise ValueError(f"{key} is {value:g}; it must lie between {rule.least:g} and {rule.most:g}")
        for key in ("wood_every", "brace_panels"):
            if getattr(self, key) != int(getattr(self, key)):
                raise ValueError(f"{key} is {getattr(self, key):g}; it must be a whole number")
        for key, least in (("longest_run_m", 10.0), ("batten_m", 0.2)):
            if 0 < getattr(self, key) < least:
                raise ValueError(f"{key} is {getattr(self, key):g}; it must be 0 for none, or at least {least:g}")
        if not self.gap_min_m <= self.clearance_m <= self.gap_max_m:
            raise ValueError("the wire's clearance at posts must lie between the least and the largest gap")
        if self.overlap_m >= self.roll_m / 2:
            raise ValueError("overlap_m must be less than half of roll_m")
        return self


class Gate(Part):
    """A gate whose first post's centre stands at ``at_m``.

    ``leaf_m`` is the length of each leaf, its opening made for it; one staked before a leaf was chosen has ``opening_m`` between
    post centres instead.  ``kind`` a key of ``finish/data/gates.toml``; ``measured`` when the real leaf was; the post it hangs on
    (``hinge``), the ``side`` it opens to, how it lies on a slope, how far it opens, how much the ground rises to the left a metre
    (``rise_left``): what is empty is chosen by the ground.
    """

    id: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,24}$")]
    at_m: Annotated[float, Field(ge=0, le=1e6)]
    opening_m: Annotated[float, Field(ge=0.5, le=30)] | None = None
    leaf_m: Annotated[float, Field(ge=0.25, le=15)] | None = None
    name: Name = "gate"
    kind: Annotated[str, Field(pattern=r"^[a-z_]{0,24}$")] = ""
    measured: bool = False
    hinge: Literal["", "first", "last"] = ""
    side: Literal["", "left", "right"] = ""
    lie: Literal["", "level", "land"] = ""
    open_deg: Annotated[float, Field(ge=10, le=180)] = 90.0
    rise_left: Annotated[float, Field(ge=-2, le=2)] | None = None

    @model_validator(mode="after")
    def _one_width(self) -> "Gate":
        if (self.opening_m is None) == (self.leaf_m is None):
            raise ValueError(
                "a gate has the length of its leaf (leaf_m) or an opening between post centres (opening_m), one of them"
            )
        return self


class Crossing(Part):
    """How the water at a station is crossed: ``hung`` from a rope (where nothing is said), or the fabric goes ``over`` it.

    ``flap`` and ``cable`` are keys of ``finish/data/cables.toml``; ``flood_m`` the flood over the lowest of the bed, its speed, the
    rope's sag as a share of its span: what is left out is taken from the ground and the rules.
    """

    at_m: Annotated[float, Field(ge=0, le=1e6)]
    how: Literal["hung", "over"] = "hung"
    flap: Annotated[str, Field(pattern=r"^[a-z_]{0,24}$")] = ""
    cable: Annotated[str, Field(pattern=r"^[a-z0-9_]{0,24}$")] = ""
    flood_m: Annotated[float, Field(ge=0, le=10)] | None = None
    speed_m_s: Annotated[float, Field(ge=0, le=10)] | None = None
    sag: Annotated[float, Field(ge=0.02, le=0.3)] | None = None


class ForcedPost(Part):
    """A post that stands where the fencer put it."""

    at_m: Annotated[float, Field(ge=0, le=1e6)]


class Stretch(Part):
    """Where no post may stand (open at both ends)."""

    from_m: Annotated[float, Field(ge=0, le=1e6)]
    to_m: Span
    reason: Name = ""

    @model_validator(mode="after")
    def _rising(self) -> "Stretch":
        if self.to_m <= self.from_m:
            raise ValueError("a forbidden stretch ends beyond where it starts")
        return self


class SoilStretch(Part):
    """Ground of one kind between two stations; a later stretch stands over an earlier one."""

    from_m: Annotated[float, Field(ge=0, le=1e6)]
    to_m: Span
    soil: Key
    wet: bool = False

    @model_validator(mode="after")
    def _rising(self) -> "SoilStretch":
        if self.to_m <= self.from_m:
            raise ValueError("a stretch of soil ends beyond where it starts")
        return self


class Standing(Part):
    """What posts stand in: a soil (``soil/data/soils.toml``), by stretch where it changes, how deep it freezes (0: not said), by which
    ``method`` a post is passed: what it holds at last with a factor, or what the building code allows.
    """

    soil: Key = "unknown"
    wet: bool = False
    stretches: Annotated[tuple[SoilStretch, ...], Field(max_length=200)] = ()
    frost_m: Annotated[float, Field(ge=0, le=3)] = 0.0
    method: Literal["ultimate", "code"] = "ultimate"

    def at(self, station_m: float) -> tuple[str, bool]:
        """Soil and whether it is wet at a station."""
        found = [s for s in self.stretches if s.from_m <= station_m <= s.to_m]
        return (found[-1].soil, found[-1].wet) if found else (self.soil, self.wet)


class Reach(Part):
    """From one station to another."""

    from_m: Annotated[float, Field(ge=0, le=1e6)]
    to_m: Annotated[float, Field(ge=0, le=1e6)]

    @model_validator(mode="after")
    def _ahead(self) -> "Reach":
        if self.to_m <= self.from_m:
            raise ValueError("a stretch ends beyond where it begins")
        return self


class RollsAsk(Part):
    """What else its fabric is sold in: further lengths of roll (``also_m``), paid for by their length, and what a splice is worth,
    as a length of fabric, and stretches (``whole``) in which none is made."""

    also_m: Annotated[tuple[Annotated[float, Field(ge=5, le=2000)], ...], Field(max_length=4)] = ()
    splice_worth_m: Annotated[float, Field(ge=0, le=200)] = 0.0
    whole: Annotated[tuple[Reach, ...], Field(max_length=100)] = ()


class PullWay(Part):
    """From where the run about a station is pulled: its start, its end, or both ways to a splice at ``splice_m``."""

    at_m: Annotated[float, Field(ge=0, le=1e6)]
    way: Literal["start", "end", "both"]
    splice_m: Annotated[float, Field(ge=0, le=1e6)] | None = None

    @model_validator(mode="after")
    def _whole(self) -> "PullWay":
        if (self.way == "both") != (self.splice_m is not None):
            raise ValueError("a run pulled both ways is spliced somewhere (splice_m), any other is not")
        return self


class PullAsk(Part):
    """How a line is stretched: on a day of so many °C (none: what the weather says), with which ``puller`` (``pull/data/gear.toml``) and
    how many on the bar (none: as many as it takes), and from where single runs are pulled where that is not searched."""

    temp_c: Annotated[float, Field(ge=-60, le=60)] | None = None
    puller: Key = "chain"
    pullers: Annotated[int, Field(ge=1, le=6)] | None = None
    ways: Annotated[tuple[PullWay, ...], Field(max_length=400)] = ()


BraceKind = Literal["", "h", "strut", "box", "welded", "deadman", "boards", "none"]


class BraceAsk(Part):
    """How an end is braced; what is left out is as the job, the barrier and the decisions have it.

    ``rail_share`` height of rail or strut as a share of the fence's; ``lay`` how the rail lies on a slope.
    """

    kind: BraceKind = ""
    panels: Annotated[int, Field(ge=1, le=3)] | None = None
    spacing_m: Annotated[float, Field(ge=1.0, le=4.0)] | None = None
    rail_share: Annotated[float, Field(ge=0.4, le=1.0)] | None = None
    lay: Literal["", "level", "ground"] = ""
    angle_deg: Annotated[float, Field(ge=30, le=60)] | None = None
    tie: Literal["", "none", "foot", "mid"] = ""
    side: Literal["", "left", "right"] = ""


class EndBrace(BraceAsk):
    """How one end of a run is braced: the run that starts (``ahead``) or ends at this station."""

    at_m: Annotated[float, Field(ge=0, le=1e6)]
    ahead: bool


class PostAsk(Part):
    """What is asked of the post at a station: how deep, what is filled round it, a board against it, another kind."""

    at_m: Annotated[float, Field(ge=0, le=1e6)]
    depth_m: Annotated[float, Field(ge=0.2, le=3)] | None = None
    fill: Literal["", "tamped", "gravel", "concrete", "soil_cement"] = ""
    block: bool = False
    kind: Annotated[str, Field(pattern=r"^[a-z_]{0,24}$")] = ""


class Filler(Part):
    """What fills the low at a station."""

    at_m: Annotated[float, Field(ge=0, le=1e6)]
    what: Literal["log", "stone", "skirt", "strand"]


class Fact(Part):
    """Something that is known of one post: its lasting name (``plan/identity.py``), where it stood, and what was found."""

    post: Annotated[str, Field(pattern=r"^[0-9]{1,6}[a-z]{0,4}$")]
    at_m: Annotated[float, Field(ge=0, le=1e6)]
    text: Annotated[str, Field(min_length=1, max_length=400, pattern=PLAIN_TEXT)]


Place = tuple[Metres, Metres]
Route = Annotated[tuple[Place, ...], Field(min_length=2)]


class Found(Part):
    """Something on the line, under it or beside it (``ground/data/found.toml`` says what each kind does).

    It lies either between two stations (equal ones for a thing at one place) or along a shape on the map (east, north;
    one place or more).  ``zone_m`` is how far from it no post may stand, the kind's own when left out.
    """

    id: Annotated[str, Field(pattern=r"^[a-z0-9-]{1,24}$")]
    kind: Annotated[str, Field(pattern=r"^[a-z_]{1,24}$")]
    name: Name = ""
    from_m: Annotated[float, Field(ge=0, le=1e6)] | None = None
    to_m: Annotated[float, Field(ge=0, le=1e6)] | None = None
    shape: Annotated[tuple[Place, ...], Field(max_length=MOST_OUTLINE)] = ()
    zone_m: Annotated[float, Field(ge=0, le=100)] | None = None
    side: Literal["", "left", "right"] = ""
    count: Annotated[int, Field(ge=0, le=100_000)] | None = None
    ticket: Name = ""

    @model_validator(mode="after")
    def _somewhere(self) -> "Found":
        if (self.from_m is None) == (not self.shape) or (self.from_m is None) != (self.to_m is None):
            raise ValueError("what was found lies between two stations (from_m, to_m) or along a shape, one of them")
        if self.from_m is not None and self.to_m is not None and self.to_m < self.from_m:
            raise ValueError("what was found ends before it starts")
        return self


class Marking(Part):
    """A request to have buried services marked, and what came of it.  The marks themselves are ``found``.

    ``routes`` is what was asked about; a line that has left it must be asked about again.
    """

    state: Literal["requested", "marked", "clear"]
    ticket: Annotated[str, Field(min_length=1, max_length=40, pattern=PLAIN_TEXT)]
    asked_on: date
    wait_until: date
    expires_on: date | None = None
    routes: Annotated[tuple[Route, ...], Field(min_length=1)]
    reach_m: Annotated[float, Field(gt=0, le=100)]
