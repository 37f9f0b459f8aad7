"""What a plan is made of: posts, bays, braces, pieces, splices."""

import math
from bisect import bisect_left
from collections.abc import Mapping
from dataclasses import dataclass
from itertools import accumulate, pairwise

import numpy as np

from gnomonic.core.brace.layout import BraceEnd
from gnomonic.core.brace.statics import DiagonalBrace, HBrace, Panel
from gnomonic.core.demand.section import Section
from gnomonic.core.demand.system import PostKind, PostRule, Slot, System
from gnomonic.core.fabric.fabrics import Fabric, Wire
from gnomonic.core.fabric.lay import Rules, RunNeed
from gnomonic.core.fabric.rolls import RollPlan
from gnomonic.core.finish.fittings import Fitting, Sticks
from gnomonic.core.finish.hanging import HungGate
from gnomonic.core.ground.course import Course
from gnomonic.core.ground.found import OnLine
from gnomonic.core.ground.joined import Meeting
from gnomonic.core.log.facts import Built
from gnomonic.core.plan.crossings import OverWater, Water
from gnomonic.core.plan.rails import Rail
from gnomonic.core.record import row
from gnomonic.core.setout.least_cost import BayGround, Limits
from gnomonic.core.setout.line import Layout, inside_any
from gnomonic.core.setout.runs import Run
from gnomonic.core.soil.soils import InSoil

SAME_POST_M = 1e-3


@row
class Post:
    """One post.

    ``kind`` is a key of the system's posts; ``role`` end | corner | gate | crossing | pull | brace | line | dip | hump | bend | join;
    ``role`` join where another line stands on it between this one's ends; ``stock_m`` the length bought; ``shared`` names
    the other line whose post it is; ``joined`` the lines of the job that stand on it; ``name`` is its lasting one
    (``identity.py``); ``rule`` is its kind's, or the kind's of
    the line among them that asks for the longest and stoutest; ``fill`` is what is filled round it (empty: the native soil, or
    it is driven), ``block`` a breast board against it; ``built`` is what is known of it as built, ``planned_m`` how deep it was
    meant to stand; it is ``short_m`` too short where none is sold as long.
    """

    index: int
    station_m: float
    kind: PostKind
    role: str
    east_m: float
    north_m: float
    ground_m: float
    depth_m: float
    length_m: float
    turn_deg: float
    grade_change: float
    forced: bool
    fittings: tuple[Fitting, ...]
    slot: Slot
    stock_m: float
    rule: PostRule
    name: str
    fill: str = ""
    block: bool = False
    planned_m: float = 0.0
    built: Built | None = None
    deeper_m: float = 0.0
    because: str = ""
    shared: str = ""
    joined: tuple[str, ...] = ()
    short_m: float = 0.0

    @property
    def fixed(self) -> bool:
        """Whether it carries tension, so that the set-out can't move it."""
        return self.kind in ("terminal", "brace")

    def count(self, item: str) -> int:
        """How many of an item are put on it."""
        return sum(f.count for f in self.fittings if f.item == item)

    @property
    def above_m(self) -> float:
        """Height out of the ground."""
        return self.length_m - self.depth_m


@row
class Bay:
    """Post to post in a run."""

    run: int
    from_post: int
    to_post: int
    from_m: float
    to_m: float
    ground: BayGround

    @property
    def slope_m(self) -> float:
        """Length along the slope of its chord."""
        return math.hypot(self.to_m - self.from_m, (self.to_m - self.from_m) * self.ground.grade)


@dataclass(frozen=True, slots=True)
class Brace:
    """A braced end with its statics, by panel: the ``panels`` on their ground, ``rail_cut_m`` between faces, ``wire_m`` brace
    wire in all and the ``diagonal_m`` it runs along; ``lay`` is how the rail lies: level, or along the ground."""

    end: BraceEnd
    kind: str
    statics: HBrace
    pull_n: float
    pull_height_m: float
    rail_height_m: float
    panels: tuple[Panel, ...]
    lay: str
    rail_cut_m: tuple[float, ...]
    wire_m: tuple[float, ...]
    diagonal_m: tuple[float, ...]


@dataclass(frozen=True, slots=True)
class Strut:
    """A diagonal brace at one end of a run; ``length_m`` of the strut with what lies in the ground."""

    run: int
    at_start: bool
    station_m: float
    statics: DiagonalBrace
    pull_n: float
    pull_height_m: float
    height_m: float
    length_m: float
    wire_m: float
    tie: str
    buried_m: float
    rise_m: float
    side: str

    @property
    def trench_m(self) -> tuple[float, float, float]:
        """The trench of its foot: from, to (along the ground from the post) and how deep."""
        s, psi = self.statics, math.radians(self.statics.angle_deg)
        return s.reach_m, s.reach_m + self.buried_m * math.cos(psi), self.buried_m * math.sin(psi)


@dataclass(frozen=True, slots=True)
class Anchor:
    """An end without panel or strut: held by a wire to a buried log (``deadman``), by ``boards`` against its post, by the
    top ``rail`` that keeps the ends of its run apart, or by the post alone (``none``).  ``shear_n`` is left on the post ``shear_at_m`` above its ground; of a dead-man ``head_m`` where the wire meets
    the post, how far out the log lies, the wire's pull and its length."""

    run: int
    at_start: bool
    station_m: float
    kind: str
    pull_n: float
    pull_height_m: float
    shear_n: float
    shear_at_m: float
    uplift_n: float
    head_m: float = 0.0
    reach_m: float = 0.0
    wire_n: float = 0.0
    wire_m: float = 0.0


@dataclass(frozen=True, slots=True)
class MoreRolls:
    """A further layer or an apron: its own rolls."""

    fabric: Fabric
    need_m: float
    rolls: int
    splices: int
    what: str


@dataclass(frozen=True, slots=True)
class Coils:
    """One wire strung all along: so many strands, metres in all with the tails, coils bought, joins where one ends."""

    key: str
    wire: Wire
    strands: int
    total_m: float
    coils: int
    joins: int


@dataclass(frozen=True, slots=True)
class Splice:
    """Two pieces joined: the overlap covers ``from_m`` to ``at_m`` (plan stations)."""

    run: int
    from_m: float
    at_m: float
    clear_m: float


@dataclass(frozen=True, slots=True)
class LaidPiece:
    """A piece of fabric in place, by plan stations.

    The roll it is cut from was ``opened`` on that line, and its ``rest`` goes to that one next (letters; empty where there is
    no such line, or none but this).
    """

    run: int
    stock: str
    length_m: float
    from_m: float
    to_m: float
    opened: str = ""
    rest: str = ""


@dataclass(frozen=True, slots=True)
class FabricPlan:
    """A line's part of the rolls; ``runs`` is the first run of each length of fabric ``need_m`` speaks of.

    ``rolls`` counts what is opened and spliced on this line; ``whole`` is cut for all lines of ``over`` (letters) together,
    each of its lengths for the line ``lines`` names.  ``needs`` and ``rules`` are what it was laid by.
    """

    rolls: RollPlan
    whole: RollPlan
    over: tuple[str, ...]
    need_m: tuple[float, ...]
    runs: tuple[int, ...]
    pieces: tuple[LaidPiece, ...]
    splices: tuple[Splice, ...]
    lines: tuple[str, ...] = ()
    needs: tuple[RunNeed, ...] = ()
    rules: Rules | None = None


@dataclass(frozen=True, slots=True)
class Barred:
    """A stretch where no post should stand (open): forbidden by hand, or because of what was found there.

    ``found_id`` is empty for a stretch forbidden by hand; ``hand_dig`` where a hole, if it must be, is dug by hand;
    ``kept`` false where no bay could span it, so that posts stand in it all the same.
    """

    from_m: float
    to_m: float
    reason: str
    found_id: str = ""
    hand_dig: bool = False
    kept: bool = True


@dataclass(frozen=True, slots=True)
class Asked:
    """A post that another line asks for where it stands on this one: of its own kind, or as high, as deep and as stout."""

    at_m: float
    line: str
    name: str
    height_m: float
    rule: PostRule


@dataclass(frozen=True, slots=True)
class Pull:
    """What pulls on a post: a run of a line, the way it runs from the post, its pull, what its brace lifts, and the force it
    leaves on the post ``shear_at_m`` above its ground (at its foot, where it is braced); ``stands`` false where its brace does not.

    ``moment_nm`` bends the post between its foot and the rail; ``crossed`` where a second wire in the panel behind holds it; ``relief`` what of the pull is left as the ends of its
    ``run_m`` give (``Section.relief``).
    """

    line: str
    name: str
    bearing_deg: float
    pull_n: float
    uplift_n: float
    shear_n: float
    shear_at_m: float
    stands: bool = True
    crossed: bool = False
    moment_nm: float = 0.0
    run_m: float = 0.0
    relief: tuple[tuple[float, ...], tuple[float, ...]] = ((0.0,), (1.0,))

    def left(self, moved_m: float) -> float:
        """Share of its pull that is left when both its ends have given so much along it."""
        if moved_m <= 0 or not self.run_m:
            return 1.0
        return float(np.interp(2 * moved_m / self.run_m, *self.relief))


@row
class Holding:
    """What one post is asked to hold on the coldest day, and what it has where it stands.

    ``side_n`` acts sideways ``side_at_m`` above the ground (the resultant of all runs), ``lift_n`` up; ``alone`` is the most any of
    its runs by itself pushes and lifts.  ``why`` names what asks: ends, bend, dip, hump.  ``has_n`` is ultimate, ``code_n`` what the building
    code allows, ``lean_m`` how far it moves at the ground until the wire has given enough, ``left`` the share of the pull left then, ``grip_n`` what holds it down; ``bend_pa`` the greatest bending stress
    in it and ``breaks_pa`` what its material stands (0: not known).
    """

    post: int
    why: str
    side_n: float
    side_at_m: float
    side_deg: float | None
    lift_n: float
    alone: tuple[float, float] | None
    at: InSoil
    has_n: float
    code_n: float
    lean_m: float
    top_m: float
    left: float
    grip_n: float
    board_n: float
    bend_pa: float
    breaks_pa: float
    factor: float
    method: str
    stop_m: float
    stands: bool = True

    @property
    def asked_side_n(self) -> float:
        """The greater of all runs together and the worst alone."""
        return max(self.side_n, self.alone[0] if self.alone else 0.0)

    @property
    def asked_lift_n(self) -> float:
        """The greater of all runs together and the worst alone: one that presses down may not be pulled yet."""
        return max(self.lift_n, self.alone[1] if self.alone else self.lift_n)

    @property
    def side_share(self) -> float:
        """What it is asked sideways, with the factor (the code's value has its own), over what it has."""
        if self.asked_side_n <= 0:
            return 0.0
        has, asked = (
            (self.code_n, self.asked_side_n) if self.method == "code" else (self.has_n, self.asked_side_n * self.factor)
        )
        return asked / has if has > 0 else math.inf

    @property
    def lift_share(self) -> float:
        """What lifts it, with the factor, over what holds it down."""
        if self.asked_lift_n <= 0:
            return 0.0
        return self.asked_lift_n * self.factor / self.grip_n if self.grip_n > 0 else math.inf

    @property
    def bends(self) -> bool:
        """Whether the post itself is bent beyond what its material stands; false where that is not known."""
        return self.breaks_pa > 0 and self.bend_pa > self.breaks_pa

    @property
    def leans(self) -> bool:
        """Whether it moves so far at the ground that one stops pulling."""
        return self.lean_m > self.stop_m

    @property
    def holds(self) -> bool:
        """Whether it stays put."""
        return self.stands and self.side_share <= 1 and self.lift_share <= 1 and not self.leans and not self.bends


@dataclass(frozen=True, slots=True)
class Plan:
    """Everything a line makes; ``slope_m`` is each run's length along the ground, post foot to post foot.

    ``ends`` is what every run does to the posts it ends on, by station; ``pulls`` holds, by post, all that pulls on it where
    more than this line does; ``holds`` what every post is asked and what it has (``holds.py``); ``rails`` the
    rigid rail of every run, none where nothing rigid runs along the top; ``waters`` is all running water on it, ``crossings`` what of it is
    crossed.
    """

    course: Course
    section: Section
    limits: Limits
    fence_height_m: float
    runs: tuple[Run, ...]
    gates: tuple[HungGate, ...]
    posts: tuple[Post, ...]
    bays: tuple[Bay, ...]
    braces: tuple[Brace, ...]
    struts: tuple[Strut, ...]
    anchors: tuple[Anchor, ...]
    ends: tuple[tuple[float, Pull], ...]
    rolls: FabricPlan
    more: tuple[MoreRolls, ...]
    coils: tuple[Coils, ...]
    slope_m: tuple[float, ...]
    between: tuple[tuple[str, float], ...]
    sticks: tuple[Sticks, ...]
    layout: tuple[Layout, ...]
    even: tuple[Layout, ...]
    ignored_posts_m: tuple[float, ...]
    barred: tuple[Barred, ...]
    things: tuple[OnLine, ...]
    pulls: tuple[tuple[int, tuple[Pull, ...]], ...] = ()
    holds: tuple[Holding, ...] = ()
    rails: tuple[Rail, ...] = ()
    crossings: tuple[OverWater, ...] = ()
    waters: tuple[Water, ...] = ()

    @property
    def system(self) -> System:
        """The barrier system."""
        return self.section.system

    @property
    def fabric(self) -> Fabric | None:
        """The lowest fabric; none where only strands hang."""
        return self.section.fabric

    @property
    def corner_seams(self) -> int:
        """Posts between gates on which two runs end, whose fabrics are lapped and joined there."""
        if not self.system.corner_seam:
            return 0
        ends = [
            round(r.end.station_m % self.course.length_m if self.course.closed else r.end.station_m, 6)
            for r in self.runs
        ]
        starts = {round(r.start.station_m, 6): r.start.role for r in self.runs}
        return sum(1 for at in ends if starts.get(at, "gate") != "gate")

    def edge_m(self, bay: Bay, far: bool) -> float:
        """Height of the bottom edge over the ground at one end of a bay: as planned, or as a rigid rail has it."""
        if not self.rails:
            return self.limits.clearance_m
        layout, at = self.layout[bay.run], bay.to_m if far else bay.from_m
        k = bisect_left(layout.stations_m, at - 1e-7)
        return self.rails[bay.run].heights_m[k] - self.section.top_m

    def post_at(self, station_m: float) -> Post | None:
        """The post that stands at a station, within a millimetre; the end of a closed line is its first post."""
        closes = self.course.closed and station_m > self.course.length_m - SAME_POST_M
        at = 0.0 if closes else station_m
        k = bisect_left(self.posts, at - SAME_POST_M, key=lambda p: p.station_m)
        found = self.posts[k] if k < len(self.posts) else None
        return found if found is not None and found.station_m <= at + SAME_POST_M else None

    @property
    def wet_at(self) -> list[tuple[float, float]]:
        """Stretches where wet ground was found."""
        return [s for t in self.things if t.found.kind == "wet" for s in t.stretches]

    @property
    def cost(self) -> float:
        """Set-out cost over all runs in post-equivalents."""
        return sum(p.cost for p in self.layout)


@dataclass(frozen=True, slots=True)
class JobPlan:
    """What all lines of a job make together: each line's plan by its letter, courses of all lines, where they nearly meet."""

    lines: Mapping[str, Plan]
    courses: Mapping[str, Course]
    meetings: tuple[Meeting, ...]


def taped_from(plan: Plan, post: Post) -> Run:
    """The run whose tape a post is read on; a terminal between two runs starts the tape of the later one."""
    own = [r for r in plan.runs if r.start.station_m - 1e-6 <= post.station_m <= r.end.station_m + 1e-6]
    return own[-1]


def along_ground_m(plan: Plan) -> list[float]:
    """Post by post, what a tape laid on the ground reads from the terminal its run is taped from, foot to foot: never less than level.

    Source: √(level² + rise²) from each post to the next, common practice.
    """
    steps = (math.hypot(b.station_m - a.station_m, b.ground_m - a.ground_m) for a, b in pairwise(plan.posts))
    laid = [0.0, *accumulate(steps)]
    stations = [p.station_m for p in plan.posts]
    starts = (bisect_left(stations, taped_from(plan, p).start.station_m - 1e-6) for p in plan.posts)
    return [at - laid[start] for at, start in zip(laid, starts, strict=True)]


def posts_in(plan: Plan, stretch: Barred) -> list[Post]:
    """Posts that stand in a barred stretch: terminals and braces that can't be moved, or where no bay spans it."""
    inside = inside_any(np.array([p.station_m for p in plan.posts]), [(stretch.from_m, stretch.to_m)])
    return [p for p, bad in zip(plan.posts, inside, strict=True) if bad]


def hand_dug(plan: Plan) -> set[int]:
    """Posts (by index) whose hole lies in a service's tolerance zone."""
    return {p.index for b in plan.barred if b.hand_dig for p in posts_in(plan, b)}
