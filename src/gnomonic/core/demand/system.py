"""Barrier systems and decisions as data, read once and checked by Pydantic.

Each system is one file of ``data/systems``; rules that hold for all are in ``data/common.toml``.
"""

import math
from functools import cache
from typing import Any, Literal

from pydantic import Field

from gnomonic.core.errors import BadInput
from gnomonic.core.job.decided import decision_rules
from gnomonic.core.sourced import Row, Rule, Sourced, read_data

PostKind = str  # a key of the system's posts: "terminal", "brace", "wood", "steel", "pipe", "timber", "concrete"
Slot = Literal["terminal", "brace", "held", "firm", "light"]


class SteepBay(Sourced):
    """Shorter bays on steep ground."""

    grade: float
    share: float


class StartValue(Sourced):
    """Where a decision starts under a system."""

    value: float


class PostRule(Sourced):
    """A kind of post.

    ``fit``: ``stand`` in a hole of ``depth_m``, what is over stands up; ``drive`` what is over down; ``cut`` to length.
    ``over_m`` is how far its head stands above what it carries (``head_over_m`` or ``head_over_steel_m`` of the rules where it says nothing); ``hole_m`` what it stands in and ``fill`` what is filled round
    it (where it says nothing, the school ``setting`` does).
    """

    title: str
    material: Literal["wood", "steel", "pipe", "timber", "concrete"]
    depth_m: float
    diameter_m: float
    stock_m: tuple[float, ...]
    fit: Literal["stand", "drive", "cut"] = "stand"
    over_m: float = 0.0
    hole_m: float = 0.0
    fill: str = ""
    index_m: float

    def stock_for(self, above_m: float) -> float:
        """The shortest length sold that stands ``above_m`` out of the ground; the longest when none does."""
        return next((s for s in self.stock_m if s >= above_m + self.depth_m - 1e-6), self.stock_m[-1])

    def too_short(self, high_m: float) -> bool:
        """Whether no length sold stands deep enough under a barrier this high."""
        return high_m + self.over_m + self.depth_m > self.stock_m[-1] + 1e-6

    def round_m3(self, depth_m: float) -> float:
        """Hole less post.  Source: π/4·(hole² − post²)·depth."""
        return math.pi / 4 * (self.hole_m**2 - self.diameter_m**2) * depth_m if self.hole_m else 0.0


class Layer(Row):
    """A fabric of a make-up: where its bottom edge hangs above the barrier's; ``lip_m`` of it bent over at the top."""

    fabric: str
    at_m: float = 0.0
    lip_m: float = 0.0


class Strand(Row):
    """A wire of a make-up, ``at_m`` above the barrier's bottom edge."""

    wire: str
    at_m: float


class Makeup(Sourced):
    """What is hung together: layers and strands.  ``solve`` names what reckons it from the demands instead."""

    label: str
    layers: tuple[Layer, ...] = ()
    strands: tuple[Strand, ...] = ()
    clearance_m: float | None = None
    solve: Literal["", "barbed", "plain", "layers"] = ""


class Way(Sourced):
    """One school's answer; ``posts`` is what is other about some kinds of post under it."""

    key: str
    title: str
    posts: dict[str, dict[str, Any]] = Field(default_factory=dict)


class School(Row):
    """Where the trade disagrees; the first way is the one started with."""

    key: str
    question: str
    ways: tuple[Way, ...] = Field(min_length=2)


class FittingRule(Sourced):
    """What goes on posts of some slots: where (``place``), how many, which way up, and in what order.

    ``place``: ``wires`` each line wire of the fabric; ``spread`` the bottom and top ones and every other between;
    ``strands`` each strand (of the wire ``of``); ``lines`` line wires and strands; ``share`` the top and bottom wires and so
    many between them that there are ``number``, as evenly as real wires allow; ``step`` one every ``step_m`` of the height,
    ``less`` fewer (``snap``: each on a wire); ``even`` so many between bottom and top of a sheet;
    ``head``, ``mid``.
    """

    item: str
    on: tuple[str, ...]
    place: Literal["wires", "spread", "strands", "lines", "share", "step", "even", "head", "mid"]
    each: Literal["post", "run_end"] = "post"
    number: int = 1
    step_m: float = 0.0
    less: int = 0
    bottom: int = 0
    top: int = 0
    of: str = ""
    snap: bool = False
    order: int
    school: tuple[str, str] | None = None
    way: str


class BayRule(Sourced):
    """What goes between posts: one every ``every_m``, every so many ``diamonds``, or every so much of a decision."""

    item: str
    every_m: float = 0.0
    every: str = ""
    diamonds: float = 0.0
    of: str = ""
    measure: Literal["count", "length"] = "count"
    times: float = 1.0
    school: tuple[str, str] | None = None
    way: str


class RunRule(Sourced):
    """What goes on each run: ``number`` for each strand of a wire (``of``), or one every ``every_m`` along it."""

    item: str
    of: str = ""
    number: int = 0
    every_m: float = 0.0
    way: str


class SpliceRule(Sourced):
    """What joins two pieces: one a line wire, one every ``step_m`` of the height, or a length to sew."""

    item: str
    place: Literal["wires", "step", "height", "once"]
    step_m: float = 0.0
    measure: Literal["count", "length", "sew"] = "count"
    times: float = 1.0
    school: tuple[str, str] | None = None
    way: str
    other: str = ""


class StickRule(Sourced):
    """Rails and boards cut from lengths sold; ``lap_m`` of each goes into the next, ``end`` names the rule for both ends."""

    item: str
    per: Literal["run", "bay", "post"]
    of: str = ""
    stock_m: tuple[float, ...]
    lap_m: float
    end: str = ""
    way: str


class Extra(Sourced):
    """Something added to a barrier: strands over (or under) it, an apron, pegs, ribbons; what it ``gives``.

    ``lining`` a finer fabric hung on its lower part; ``pegs_m`` and ``rings_m`` how far apart pegs stand and an apron or lining is ringed on along the line,
    ``cover_m`` how deep an apron is covered, ``step`` how it is done.
    """

    key: str
    title: str
    strands: tuple["ExtraStrand", ...] = ()
    apron: str = ""
    lining: str = ""
    pegs_m: float = 0.0
    rings_m: float = 0.0
    cover_m: float = 0.0
    step: str = ""
    gives: dict[str, float] = Field(default_factory=dict)
    minutes_m: float


class ExtraStrand(Row):
    """A strand ``over_m`` above the barrier's top, or above its bottom edge."""

    wire: str
    over_m: float
    from_: Literal["top", "bottom"] = Field("top", alias="from")


class Suits(Sourced):
    """How much longer the work takes on some ground."""

    share: float


class Labour(Sourced):
    """Minutes of one person: a post of each sort, a metre of each layer and strand."""

    terminal_min: float
    firm_min: float
    light_min: float
    layer_min_m: float
    strand_min_m: float


class Step(Row):
    """A step of the work: a ``task`` (``tasks.py``) in this system's words; its numbers are those of the job.

    Done only under a ``school``, or ``when`` the job has what it is for; ``bores`` where holes are bored, ``sets`` where
    posts (of the ends, of the line) are set, ``steep`` a caution for steep ground.
    """

    task: str = "extra"
    text: str
    caution: str = ""
    steep: str = ""
    school: tuple[str, str] | None = None
    when: str = ""
    bores: bool = False
    sets: Literal["", "ends", "line", "all"] = ""


class System(Row):
    """A barrier system: posts, what is hung, how it is fastened, in what order it is built.

    ``continuous`` when its fabric goes round corners in one length; ``corner_seam`` when two runs that end on one post
    are lapped and joined there like any two pieces; ``gate`` is the kind hung where none is said,
    ``gate_post`` what is other about a gate's posts than about the terminals.
    """

    key: str
    title: str
    word: str
    line_post: str
    firm_post: str
    brace: Literal["h", "diagonal", "none"]
    gate: str = "single"
    continuous: bool = False
    corner_seam: bool = False
    fabrics: tuple[str, ...] = ()
    makeups: tuple[Makeup, ...] = ()
    gives: dict[str, float] = Field(default_factory=dict)
    tools: tuple[str, ...]
    labour: Labour
    suits: dict[str, Suits]
    start: dict[str, StartValue]
    posts: dict[str, PostRule]
    gate_post: dict[str, Any] = Field(default_factory=dict)
    rules: dict[str, Rule]
    steep_bays: tuple[SteepBay, ...]
    schools: tuple[School, ...] = ()
    fittings: tuple[FittingRule, ...]
    bay_fittings: tuple[BayRule, ...] = ()
    run_fittings: tuple[RunRule, ...] = ()
    splice_fittings: tuple[SpliceRule, ...] = ()
    sticks: tuple[StickRule, ...] = ()
    extras: tuple[Extra, ...] = ()
    steps: tuple[Step, ...]

    def rule(self, name: str) -> float:
        """The value of a rule."""
        return self.rules[name].value

    def makeup(self, label: str) -> Makeup | None:
        """A make-up by its label."""
        return next((m for m in self.makeups if m.label == label), None)

    def labels(self) -> tuple[str, ...]:
        """Everything this system hangs, by label."""
        return (*self.fabrics, *(m.label for m in self.makeups if not m.solve))

    def extra(self, key: str) -> Extra:
        """An extra by its key.  Raises BadInput (``barrier.extras``)."""
        for extra in self.extras:
            if extra.key == key:
                return extra
        known = ", ".join(e.key for e in self.extras) or "none"
        raise BadInput("barrier.extras", f"there is no extra “{key}” for {self.title}; there are: {known}")

    def starts(self) -> dict[str, float]:
        """Every decision's start value under this system."""
        return {
            key: self.start[key].value if key in self.start else rule.value for key, rule in decision_rules().items()
        }


@cache
def common_caution(name: str) -> str:
    """A caution that is said wherever the work is done that it is for."""
    return str(read_data("common.toml")["cautions"][name])


@cache
def opening_steps() -> tuple[Step, ...]:
    """Steps of whatever has gates or crosses water."""
    return tuple(Step.model_validate(row) for row in read_data("common.toml")["opening_steps"])


@cache
def common_rules() -> dict[str, Rule]:
    """Rules that hold for every system unless it has its own."""
    return {name: Rule.model_validate(row) for name, row in read_data("common.toml")["rules"].items()}


def common_rule(name: str) -> float:
    """The value of a rule that hangs on no system."""
    return common_rules()[name].value


SYSTEM_KEYS = (
    "woven", "high_tensile", "barbed", "multiwire", "welded", "garden", "orchard", "deer", "chainlink", "fauna", "kennel",
    "concrete",
)  # fmt: skip


@cache
def systems() -> dict[str, System]:
    """Every barrier system by its key."""
    common = read_data("common.toml")
    made = {}
    for key in SYSTEM_KEYS:
        data: dict[str, Any] = read_data(f"systems/{key}.toml")
        data["rules"] = {**common["rules"], **data.get("rules", {})}
        for post in data["posts"].values():
            over = data["rules"]["head_over_steel_m" if post["material"] == "steel" else "head_over_m"]
            post.setdefault("over_m", over["value"])
        data["steep_bays"] = data.get("steep_bays", common["steep_bays"])
        shared = [{"key": name, **common["schools"][name]} for name in data.pop("shares", ())]
        data["schools"] = [*data.get("schools", ()), *shared]
        made[key] = System.model_validate({"key": key, **data})
    return made


def system(key: str) -> System:
    """A barrier system.  Raises BadInput (``barrier.system``)."""
    if key not in systems():
        raise BadInput(
            "barrier.system", f"there is no barrier system “{key[:40]}”; there are: {', '.join(SYSTEM_KEYS)}"
        )
    return systems()[key]
