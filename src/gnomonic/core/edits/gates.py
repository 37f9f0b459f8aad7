"""Edits of gates and crossings."""

from typing import Annotated, Any, Literal

from pydantic import Field

from gnomonic.core.edits.command import Command, Station
from gnomonic.core.errors import BadInput
from gnomonic.core.finish.cable import cables
from gnomonic.core.finish.crossing import flaps, section_of
from gnomonic.core.finish.gates import gate_kind, uses
from gnomonic.core.finish.opening import leaf_that_fits_m
from gnomonic.core.ground.course import course
from gnomonic.core.ground.found import on_line
from gnomonic.core.job.document import Job, Line
from gnomonic.core.job.fence import Fence, changed, fence_of
from gnomonic.core.job.parts import Crossing, Gate
from gnomonic.core.limits import MOST_NAME
from gnomonic.core.plan.crossings import NEAR_M, waters
from gnomonic.core.plan.gates import kind_of
from gnomonic.core.plan.line import section_of as barrier_of
from gnomonic.core.say import Say, Values

Key = Annotated[str, Field(max_length=24)]


class GateWords(Command):
    """What may be said of a gate; what is left out stays."""

    name: Annotated[str, Field(max_length=MOST_NAME)] | None = None
    kind: Key | None = None
    leaf_m: float | None = None
    measured: bool | None = None
    hinge: Literal["", "first", "last"] | None = None
    side: Literal["", "left", "right"] | None = None
    lie: Literal["", "level", "land"] | None = None
    open_deg: float | None = None
    rise_left: float | None = None


class AddGate(GateWords):
    """Open a gate: for a leaf, for a use (its ``wide_m`` where that goes by width), or as wide as was staked between centres."""

    do: Literal["add_gate"]
    at_m: Station
    opening_m: float | None = None
    use: Key = ""
    wide_m: Annotated[float, Field(gt=0, le=15)] | None = None


class SetGate(GateWords):
    """Say something of a gate."""

    do: Literal["set_gate"]
    id: str
    use: Key = ""
    wide_m: Annotated[float, Field(gt=0, le=15)] | None = None
    forget: tuple[Literal["rise_left"], ...] = ()


class MoveGate(Command):
    """Move a gate along the line."""

    do: Literal["move_gate"]
    id: str
    at_m: Station


class RemoveGate(Command):
    """Close a gate up."""

    do: Literal["remove_gate"]
    id: str


class SayCrossing(Command):
    """How the water at a station is crossed; what is left out stays, ``forget`` takes all that was said of it back."""

    do: Literal["say_crossing"]
    at_m: Station
    how: Literal["hung", "over"] | None = None
    flap: Key | None = None
    cable: Key | None = None
    flood_m: Annotated[float, Field(ge=0, le=10)] | None = None
    speed_m_s: Annotated[float, Field(ge=0, le=10)] | None = None
    sag: Annotated[float, Field(ge=0.02, le=0.3)] | None = None
    forget: bool = False


class MendGates(Command):
    """Gates that were staked between centres, each for its leaf: on all lines of a job."""

    do: Literal["mend_gates"]
    how: Literal["widen", "made"]


GateEdit = AddGate | SetGate | MoveGate | RemoveGate | SayCrossing
LEAST_M, MOST_M = 0.25, 15.0  # a leaf
STEEPEST = 2.0  # rise a metre across the fence
SAID = ("name", "kind", "leaf_m", "measured", "hinge", "side", "lie", "open_deg", "rise_left")


def apply_to_gates(fence: Fence, edit: GateEdit) -> Fence:
    """The next version of a line after an edit of its gates and crossings.  Raises BadInput."""
    match edit:
        case AddGate():
            return _added(fence, edit)
        case SetGate():
            gate = _gate(fence, edit.id)
            said = _said(fence, edit, gate.kind) | dict.fromkeys(edit.forget)
            return _with(fence, gate, gate.model_copy(update=said))
        case MoveGate(id=gate_id, at_m=at):
            gate = _gate(fence, gate_id)
            return _with(fence, gate, gate.model_copy(update={"at_m": at}))
        case RemoveGate(id=gate_id):
            gate = _gate(fence, gate_id)
            return changed(fence, gates=tuple(g for g in fence.gates if g is not gate))
        case SayCrossing():
            return _crossed(fence, edit)


def _added(fence: Fence, edit: AddGate) -> Fence:
    """A gate more.  Raises BadInput where its width is not said once."""
    said = _said(fence, edit, "")
    if (edit.opening_m is None) == ("leaf_m" not in said):
        raise BadInput(
            "leaf_m",
            "a gate wants the length of its leaf, or who passes it, or an opening between post centres: one of them",
        )
    number = 1 + max((int(g.id[1:]) for g in fence.gates if g.id[1:].isdigit()), default=0)
    width = {} if edit.opening_m is None else {"opening_m": edit.opening_m}
    gate = Gate.model_validate({"id": f"g{number}", "at_m": edit.at_m, **width, **said})
    return changed(fence, gates=(*fence.gates, gate))


def _said(fence: Fence, edit: AddGate | SetGate, kind: str) -> dict[str, Any]:
    """What an edit says of a gate, its leaf chosen by use where that is said.  Raises BadInput."""
    said = {k: v for k in SAID if (v := getattr(edit, k)) is not None}
    of = gate_kind(said["kind"] or barrier_of(fence).system.gate) if "kind" in said else None
    if edit.use:
        if edit.use not in uses():
            raise BadInput("use", f"nobody called “{edit.use}” passes a gate here; there are: {', '.join(uses())}")
        made = of or gate_kind(kind or barrier_of(fence).system.gate)
        use = uses()[edit.use]
        if edit.use == "implement" and edit.wide_m is None:
            raise BadInput("wide_m", "wide_m is missing: how wide is the implement?")
        clear = use.clear_m + (edit.wide_m or 0.0) * (edit.use == "implement")
        leaf = made.leaf_for(clear)
        if leaf is None:
            values: Values = {
                "clear": (clear, "station"),
                "most": (made.panes * made.leaves_m[-1], "station"),
                "what": made.title,
            }
            raise BadInput(
                "use", Say("{clear} to pass are more than a {what} is sold for ({most}): choose a double gate", values)
            )
        said["leaf_m"] = leaf
    if "leaf_m" in said:
        if not LEAST_M <= said["leaf_m"] <= MOST_M:
            size: Values = {"leaf": (said["leaf_m"], "station"), "a": (LEAST_M, "cut"), "b": (MOST_M, "station")}
            raise BadInput("leaf_m", Say("a leaf of {leaf} is no gate: give from {a} to {b}", size))
        said["opening_m"] = None
    if abs(said.get("rise_left", 0.0)) > STEEPEST:
        raise BadInput(
            "rise_left", f"ground that rises {abs(said['rise_left']):.0%} across is a wall: give up to {STEEPEST:.0%}"
        )
    return said


def _with(fence: Fence, gate: Gate, now: Gate) -> Fence:
    return changed(fence, gates=tuple(now if g is gate else g for g in fence.gates))


def _gate(fence: Fence, gate_id: str) -> Gate:
    for gate in fence.gates:
        if gate.id == gate_id:
            return gate
    raise BadInput("id", f"there is no gate {gate_id} on this job")


def _crossed(fence: Fence, edit: SayCrossing) -> Fence:
    """What is said of a crossing.  Raises BadInput (``at_m``, ``flood_m``, ``flap``, ``cable``)."""
    line, barrier = course(fence.line), barrier_of(fence)
    height = fence.decisions.clearance_m + barrier.top_m
    water = next(
        (
            w
            for w in waters(fence, barrier, line, on_line(line, fence.found), (), (), height)
            if w.from_m - NEAR_M <= edit.at_m <= w.to_m + NEAR_M
        ),
        None,
    )
    if water is None:
        raise BadInput("at_m", Say("no running water lies on the line at {at}", {"at": (edit.at_m, "station")}))
    for key, known, what in ((edit.flap, flaps(), "flap"), (edit.cable, cables(), "cable")):
        if key and key not in known:
            raise BadInput(what, f"there is no {what} called “{key}”; there are: {', '.join(known)}")
    if edit.flood_m is not None:
        channel = section_of(line.profile, water.from_m, water.to_m, height)
        most = min(channel.heads_m) - channel.lowest_m
        if edit.flood_m >= most:
            values: Values = {"flood": (edit.flood_m, "depth"), "most": (most, "depth")}
            text = "a flood {flood} over the bed stands over the posts, whose heads are {most} over it: nothing hung there holds; say less, or cross elsewhere"
            raise BadInput("flood_m", Say(text, values))
    kept = tuple(c for c in fence.own.crossings if c is not water.ask)
    if edit.forget:
        return changed(fence, crossings=kept)
    before = water.ask or Crossing(at_m=round(water.at_m, 3))
    said = {
        k: v for k in ("how", "flap", "cable", "flood_m", "speed_m_s", "sag") if (v := getattr(edit, k)) is not None
    }
    return changed(fence, crossings=(*kept, before.model_copy(update=said)))


def mended_gates(job: Job, edit: MendGates) -> Job:
    """Every gate staked between centres with a leaf: ``widen`` for the leaf sold that was meant (the nearest to what was
    staked less the hinges' and the latch's room), or ``made`` to measure for what its posts leave.  Raises BadInput."""
    for line in job.lines:
        if not staked_gates(line):
            continue
        fence = fence_of(job, line.id)
        gates = []
        for gate in line.gates:
            if gate.opening_m is None:
                gates.append(gate)
                continue
            leaf = staked_leaf_m(fence, gate, edit.how)
            gates.append(gate.model_copy(update={"opening_m": None, "leaf_m": leaf, "measured": False}))
        job = changed(fence, gates=tuple(gates)).job
    return job


def staked_gates(line: Line) -> int:
    """How many gates of a line were staked between centres and have no leaf yet; none of a fence that stands there already."""
    return 0 if line.standing == "there" else sum(gate.opening_m is not None for gate in line.gates)


def staked_leaf_m(fence: Fence, gate: Gate, how: str) -> float:
    """The leaf of a gate that was staked between centres.  Raises BadInput (``gates``) where none fits."""
    barrier = barrier_of(fence)
    _, kind = kind_of(barrier, gate)
    assert gate.opening_m is not None
    if how == "widen":
        meant = leaf_that_fits_m(gate.opening_m, kind.panes, kind.gaps_m, (0.0, 0.0)) / kind.panes
        return min(kind.leaves_m, key=lambda m: (abs(m - meant), m))
    width = barrier.gate_post.diameter_m
    fits = leaf_that_fits_m(gate.opening_m, kind.panes, kind.gaps_m, (width, width)) / kind.panes
    if fits < LEAST_M:
        values: Values = {"name": gate.name, "wide": (gate.opening_m, "cut")}
        raise BadInput(
            "gates", Say("no leaf fits {name}: {wide} between post centres leave nothing between their faces", values)
        )
    return round(fits, 4)
