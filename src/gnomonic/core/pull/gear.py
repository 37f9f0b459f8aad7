"""What pulls and on what, how ends are tied and pieces joined (``data/gear.toml``), and what that comes to on a bar."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from typing import Any

from gnomonic.core.errors import BadInput
from gnomonic.core.sourced import Rule, Sourced, read_data

MOST_PULLERS = 6


class Puller(Sourced):
    """A thing that pulls: what one may be loaded with, how far a stroke and a hooking take the bar; of rope and pulleys the
    ``parts`` of rope, what a sheave leaves of the pull, and what a hand pulls with."""

    title: str
    rated_n: float
    click_m: float
    reach_m: float
    parts: int = 1
    sheave_share: float = 1.0
    hand_n: float = 0.0

    @property
    def can_n(self) -> float:
        """What it can do: its rating, or what a hand makes of it through the sheaves if that is less.

        Rope of tension T comes off n sheaves as T·(1 + e + … + e^(n−1)), e what each leaves.
        """
        if not self.hand_n:
            return self.rated_n
        return min(self.rated_n, self.hand_n * self.advantage)

    @property
    def advantage(self) -> float:
        """Force on the load for a force of the hand."""
        return sum(self.sheave_share**k for k in range(1, self.parts + 1)) if self.parts > 1 else 1.0


class Friction(Sourced):
    """What fabric is drawn over: the belt's friction, and what a line wire's knots catch at a bend."""

    mu: float
    catch_n: float


class Tie(Sourced):
    """How wires end: what is lost as the end takes the pull over, minutes a wire, the thickest wire it is used on."""

    title: str
    slip_m: float
    minutes: float
    thick_m: float
    tools: tuple[str, ...]
    steps: tuple[str, ...]


class Joint(Sourced):
    """How two pieces are joined: what it gives, minutes a wire, and the wires it takes, from thinnest to thickest."""

    title: str
    slip_m: float
    minutes: float
    thin_m: float
    most_m: float
    tools: tuple[str, ...]
    steps: tuple[str, ...]


@cache
def _data() -> dict[str, Any]:
    return read_data("gear.toml", "pull")


@cache
def pullers() -> dict[str, Puller]:
    """Every puller by its key."""
    return {key: Puller.model_validate(row) for key, row in _data()["pullers"].items()}


@cache
def friction() -> dict[str, Friction]:
    """Friction by what the fabric is drawn over: wood, steel, ground."""
    return {key: Friction.model_validate(row) for key, row in _data()["friction"].items()}


@cache
def ties() -> dict[str, Tie]:
    """Every way to end wires."""
    return {key: Tie.model_validate(row) for key, row in _data()["ties"].items()}


@cache
def joints() -> dict[str, Joint]:
    """Every way to join two pieces."""
    return {key: Joint.model_validate(row) for key, row in _data()["splices"].items()}


@cache
def _rules() -> Mapping[str, Rule]:
    return {key: Rule.model_validate(row) for key, row in _data()["rules"].items()}


def rule(key: str) -> float:
    """A rule of stretching by its key."""
    return _rules()[key].value


def puller(key: str) -> Puller:
    """A puller by its key.  Raises BadInput (``puller``)."""
    if key not in pullers():
        raise BadInput("puller", f"there is no puller “{key[:24]}” on file; there are: {', '.join(pullers())}")
    return pullers()[key]


@dataclass(frozen=True, slots=True)
class Hooked:
    """One puller on the bar: its height over the fabric's foot, and its load."""

    at_m: float
    load_n: float


def hooked(pull_n: float, at_m: float, high_m: float, count: int) -> tuple[Hooked, ...]:
    """Loads of pullers spaced evenly on a rigid bar, a hand in from its ends, under a pull that acts at a height.

    Least squares of loads that balance pull and moment: P/n + P·(y − ym)·(yi − ym)/Σ(yi − ym)².  Raises BadInput (``pullers``).

    >>> [round(h.load_n) for h in hooked(2800.0, 0.5, 1.2, 2)]
    [1800, 1000]
    """
    if not 1 <= count <= MOST_PULLERS:
        raise BadInput(
            "pullers", f"pullers is {count}: one at least pulls, and no more than {MOST_PULLERS} hook on a bar"
        )
    inset = min(rule("puller_in_m"), high_m / 4)
    places = [high_m / 2] if count == 1 else [inset + (high_m - 2 * inset) * k / (count - 1) for k in range(count)]
    middle = sum(places) / count
    spread = sum((y - middle) ** 2 for y in places)
    lean = (at_m - middle) / spread if spread else 0.0
    return tuple(Hooked(y, pull_n / count + pull_n * lean * (y - middle)) for y in places)


def pullers_needed(pull_n: float, at_m: float, high_m: float, kind: Puller) -> int:
    """How many carry a pull without one of them beyond what it can do; none when not even the most do."""
    for count in range(1 if high_m <= 2 * rule("puller_in_m") else 2, MOST_PULLERS + 1):
        if max(h.load_n for h in hooked(pull_n, at_m, high_m, count)) <= kind.can_n:
            return max(count, 3) if high_m > rule("tall_m") else count
    return 0


@dataclass(frozen=True, slots=True)
class Start:
    """Where the bar starts: how far back from where it ends, and what that is made of."""

    take_up_m: float
    slack_m: float
    tail_m: float
    back_m: float
    least: bool


def bar_start(take_up_m: float, length_m: float, tail_m: float) -> Start:
    """How far back the bar starts: take-up, slack and tail, and eight feet at least."""
    slack = rule("slack_m") + rule("slack_share") * length_m
    needs = take_up_m + slack + tail_m
    return Start(take_up_m, slack, tail_m, max(needs, rule("bars_apart_m")), needs < rule("bars_apart_m"))


def clicks(travel_m: float, kind: Puller) -> tuple[int, int]:
    """Strokes and hookings a bar's travel takes.

    >>> clicks(0.7, pullers()["chain"])
    (37, 1)
    """
    return math.ceil(travel_m / kind.click_m - 1e-9), max(1, math.ceil(travel_m / kind.reach_m - 1e-9))


def takes(joint: Joint, wires_m: Sequence[float]) -> bool:
    """Whether a joint takes all wires of these thicknesses."""
    return all(joint.thin_m <= d <= joint.most_m for d in wires_m)
