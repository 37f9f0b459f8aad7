"""What a schedule is asked for and what it answers: activities on a clock of equal slots, and what there is of everything they use.

One engine serves the planner, which lays a calendar over the slots, and the pocket sum, which does not.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field
from graphlib import CycleError, TopologicalSorter

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.errors import BadInput

Ints = NDArray[np.int64]
NO_WAIT = -1
STEP_MIN = 15  # what a slot of the planner is; the sum chooses its own


@dataclass(frozen=True, slots=True)
class Mode:
    """One way to do an activity: how many slots it takes, and how much of each resource (by index) all the while."""

    slots: int
    uses: tuple[tuple[int, int], ...] = ()


@dataclass(frozen=True, slots=True)
class After:
    """The activity ``key`` ends ``lag`` slots before this one begins, and the wait ``wait`` (a row of ``Problem.ready``) is over."""

    key: str
    lag: int = 0
    wait: int = NO_WAIT


@dataclass(frozen=True, slots=True)
class Activity:
    """Something to be done in one go, from slot ``earliest`` on; ``stops`` are bits of what it can't be done in: it pauses then.

    One that is to be done ``whole`` does not pause: it begins only where it can end before that, and on the same day.
    """

    key: str
    modes: tuple[Mode, ...]
    after: tuple[After, ...] = ()
    earliest: int = 0
    stops: int = 0
    whole: bool = False


@dataclass(frozen=True, slots=True)
class Problem:
    """Activities and what there is.

    ``capacity`` (resources, slots); ``ready`` (waits, slots + 1): the slot from which the next may begin, by the slot in which the one
    before ended; ``stopped`` (slots) bits of what can't be done in a slot, ``day`` (slots) which day it is.
    """

    activities: tuple[Activity, ...]
    capacity: Ints
    ready: Ints = field(default_factory=lambda: np.zeros((0, 1), np.int64))
    stopped: Ints = field(default_factory=lambda: np.zeros(0, np.int64))
    day: Ints = field(default_factory=lambda: np.zeros(0, np.int64))

    @property
    def slots(self) -> int:
        """How long the clock is."""
        return int(self.capacity.shape[1])

    def index(self) -> dict[str, int]:
        """Where each activity stands, by key."""
        return {a.key: k for k, a in enumerate(self.activities)}


@dataclass(frozen=True, slots=True)
class Schedule:
    """From when to when (slots) each activity is done, and in which of its modes."""

    starts: tuple[int, ...]
    ends: tuple[int, ...]
    modes: tuple[int, ...]

    @property
    def makespan(self) -> int:
        """When the last of them ends."""
        return max(self.ends, default=0)

    def table(self) -> Ints:
        """Start, end and mode of each, a row each."""
        return np.array([self.starts, self.ends, self.modes], np.int64).T.reshape(-1, 3)

    def order(self) -> list[int]:
        """Activities in the order in which they begin."""
        return sorted(range(len(self.starts)), key=lambda k: (self.starts[k], self.ends[k], k))


def in_order(activities: Sequence[tuple[str, Sequence[str]]]) -> list[str]:
    """Keys with what comes first before them.  Raises BadInput (``after``), naming the circle where they wait for each other."""
    sorter: TopologicalSorter[str] = TopologicalSorter()
    for key, after in activities:
        sorter.add(key, *after)
    try:
        return list(sorter.static_order())
    except CycleError as error:
        circle = [str(k) for k in error.args[1]]
        shown = circle if len(circle) <= 9 else [*circle[:8], "…", circle[-1]]
        said = " → ".join(f"“{k}”" if k != "…" else k for k in shown)
        raise BadInput("after", f"these wait for each other in a circle, so none can begin: {said}") from None


def most_slots(activities: Sequence[Activity]) -> int:
    """A clock on which all of them can be done, where nothing but each other and their lags keeps them waiting.

    While nothing is done everything left waits for a lag or an earliest hour: that is no longer than the longest chain of those.
    """
    by_key = {a.key: a for a in activities}
    waits: dict[str, int] = {}
    for key in in_order([(a.key, [p.key for p in a.after]) for a in activities]):
        a = by_key[key]
        waits[key] = max([a.earliest, *(waits[p.key] + p.lag for p in a.after)])
    return sum(max(m.slots for m in a.modes) for a in activities) + max(waits.values(), default=0) + 1


@dataclass(frozen=True, slots=True)
class Link:
    """An activity of a critical chain, and what it begins by: the ``hour`` it may begin, what comes ``after`` what, what both
    ``use``, or who or what it needs is ``there`` again."""

    key: str
    by: str


def critical(problem: Problem, made: Schedule) -> list[Link]:
    """A chain of activities from the beginning to the end in which each begins when the one before, plus its wait, ends.

    The schedule must be pushed left.  Where two can be the one before, what must come first goes before what uses the same.
    """
    if not made.starts:
        return []
    index = problem.index()
    at = max(range(len(made.ends)), key=lambda k: (made.ends[k], -made.starts[k]))
    chain, seen = list[Link](), set[int]()
    while at not in seen:
        seen.add(at)
        before, by = _before(problem, made, index, at)
        chain.append(Link(problem.activities[at].key, by))
        if before is None:
            break
        at = before
    return chain[::-1]


def _before(problem: Problem, made: Schedule, index: dict[str, int], k: int) -> tuple[int | None, str]:
    """What an activity begins by: the one before, and how."""
    a, start = problem.activities[k], made.starts[k]
    if start == a.earliest:
        return None, "hour"
    for p in a.after:
        if _ready(problem, made.ends[index[p.key]], p) == start:
            return index[p.key], "after"
    mine = {r for r, units in a.modes[made.modes[k]].uses if units}
    for j in range(len(made.ends)):
        if made.ends[j] == start and j != k:
            uses = {r for r, units in problem.activities[j].modes[made.modes[j]].uses if units}
            if uses & mine:
                return j, "use"
    return None, "there"


def _ready(problem: Problem, end: int, after: After) -> int:
    by_wait = int(problem.ready[after.wait, end]) if after.wait != NO_WAIT else 0
    return max(end + after.lag, by_wait)
