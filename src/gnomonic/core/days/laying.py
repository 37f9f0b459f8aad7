"""A job's tasks laid over its crew's calendar: the problem the engine solves."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import date, datetime, time, timedelta
from functools import cache

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.days.book import Kind, days_rule, plant_kinds, skills, stops
from gnomonic.core.days.clock import Clock, clock_of
from gnomonic.core.days.crew import Crew
from gnomonic.core.days.problem import STEP_MIN, Activity, After, Mode, Problem
from gnomonic.core.days.solve import Worth
from gnomonic.core.days.task import DayTask
from gnomonic.core.days.weather import Weather, bits_of
from gnomonic.core.errors import BadInput

Ints = NDArray[np.int64]
MACHINES = "machines"
PART = "#"  # parts of a task that is too long for the days there are


@dataclass(frozen=True, slots=True)
class Busy:
    """Somebody or something another job has, from when to when."""

    who: str
    begins: datetime
    ends: datetime


@dataclass(frozen=True, slots=True)
class Given:
    """What a plan of days starts from.

    ``start`` the day the work begins; ``marks`` the day from which may be dug, by line; ``now`` the moment from which is planned; ``done`` shares
    of tasks that are done, ``done_at`` when they were; ``rates`` how many times the usual each kind of work takes here; ``pins``
    tasks that are not begun before a time; ``weather`` the days that are forecast; ``busy`` what other jobs have.
    """

    start: date
    marks: Mapping[str, date] = field(default_factory=dict)
    now: datetime | None = None
    done: Mapping[str, float] = field(default_factory=dict)
    done_at: Mapping[str, datetime] = field(default_factory=dict)
    rates: Mapping[str, float] = field(default_factory=dict)
    pins: Mapping[str, datetime] = field(default_factory=dict)
    weather: Sequence[Weather] = ()
    busy: Sequence[Busy] = ()

    @property
    def begins(self) -> datetime:
        """From when on work can be planned."""
        first = datetime.combine(self.start, time())
        return max(first, self.now) if self.now else first


@dataclass(frozen=True, slots=True)
class Laid:
    """A problem with what its activities and resources stand for: the task ``of`` each, the ``hands`` of its modes, its ``plant`` and the
    ``place`` it is at; who is ``there`` (people, quarters) and in no other job."""

    problem: Problem
    clock: Clock
    tasks: tuple[DayTask, ...]
    of: tuple[int, ...]
    hands: tuple[tuple[int, ...], ...]
    waits: tuple[int, ...]
    worth: Worth
    place: Ints
    there: NDArray[np.bool_]
    plant: tuple[tuple[str, ...], ...]


class _Windows:
    """The most quarters one after the other (on one day, for what is done whole) in which there is enough of everything, looked up once."""

    def __init__(self, capacity: Ints, day: Ints) -> None:
        self.capacity, self.new_day = capacity, np.diff(day, prepend=day[:1]) != 0
        self.known: dict[tuple[tuple[tuple[int, int], ...], bool], int] = {}

    def most(self, uses: tuple[tuple[int, int], ...], whole: bool) -> int:
        """How many."""
        if (uses, whole) not in self.known:
            enough = np.ones(self.capacity.shape[1], np.bool_)
            for r, units in uses:
                enough &= self.capacity[r] >= units
            stretch = np.cumsum(~enough | self.new_day if whole else ~enough)[enough]
            self.known[uses, whole] = int(np.bincount(stretch).max()) if stretch.size else 0
        return self.known[uses, whole]


def usual_minutes_of(task: DayTask, crew: Crew) -> float:
    """Minutes of one person that all of a task usually takes this crew: by hand where there is no plant for it."""
    kind = task.of
    missing = [p for p in kind.plant if not any(have.kind == p and have.count for have in crew.plant)]
    return task.minutes[1] * (kind.by_hand if missing else 1.0)


def minutes_left(task: DayTask, given: Given, crew: Crew) -> float:
    """Minutes of one person that a task still takes at the pace that is taken here."""
    return usual_minutes_of(task, crew) * given.rates.get(task.kind, 1.0) * (1 - given.done.get(task.key, 0.0))


def must_follow_marks(task: DayTask, pin: datetime, marks: Mapping[str, date]) -> None:
    """Raises BadInput (``at``) where work in the ground is asked for before the marks are in."""
    in_on = marks.get(task.line) if task.of.digs else None
    if in_on and pin.date() < in_on:
        raise BadInput(
            "at",
            f"{said(task)} is work in the ground: it can’t begin on {pin:%-d %B %Y}, before the marks are in ({in_on:%-d %B %Y})",
        )


def lay(tasks: Sequence[DayTask], crew: Crew, given: Given) -> Laid:
    """The problem of a job's tasks that are left, on its crew's clock.  Raises BadInput (``crew``)."""
    clock = clock_of(crew, given.begins.date())
    capacity, there = _free(clock, given.busy)
    windows = _Windows(capacity, clock.day)
    left = [t for t in tasks if given.done.get(t.key, 0.0) < 1]
    waits = tuple(sorted({days for t in tasks for _, days in t.after if days}))
    ready = np.array([clock.after_days(d) for d in waits], np.int64).reshape(len(waits), clock.slots + 1)
    acts, of, hands = list[Activity](), list[int](), list[tuple[int, ...]]()
    first_of, last_of = dict[str, str](), dict[str, str]()
    slot_at, link = cache(clock.slot_at), cache(After)
    for k, task in enumerate(left):
        modes, parts, whole = _modes(task, crew, given, clock, windows)
        earliest = slot_at(_earliest(task, given))
        for n in range(parts):
            key = task.key if parts == 1 else f"{task.key}{PART}{n + 1}"
            after = (After(last_of[task.key]),) if n else ()
            acts.append(
                Activity(key, tuple(Mode(m.slots, m.uses) for _, m in modes), after, earliest, task.stops, whole)
            )
            of.append(k)
            hands.append(tuple(people for people, _ in modes))
            first_of.setdefault(task.key, key)
            last_of[task.key] = key
    for n, act in enumerate(acts):
        task = left[of[n]]
        if act.key == first_of[task.key]:
            links = [link(last_of[k], 0, waits.index(d) if d else -1) for k, d in task.after if k in last_of]
            acts[n] = replace(act, after=(*act.after, *links))
    problem = Problem(tuple(acts), capacity, ready, _stopped(clock, given.weather), clock.day)
    places = {p: n for n, p in enumerate(dict.fromkeys((t.line, t.side) for t in left))}
    place = np.array([places[left[k].line, left[k].side] for k in of], np.int64)
    plant = tuple(tuple(p for p in left[k].of.plant if p in clock.plant) for k in of)
    worth = _worth(problem, clock, crew, place)
    return Laid(problem, clock, tuple(left), tuple(of), tuple(hands), waits, worth, place, there, plant)


def _free(clock: Clock, busy: Sequence[Busy]) -> tuple[Ints, NDArray[np.bool_]]:
    """What is left of everything, and who is free when, where other jobs have some of it."""
    free, there = clock.capacity.copy(), clock.there.copy()
    for b in busy:
        low, high = clock.slot_at(b.begins), clock.slot_at(b.ends)
        if b.who in clock.plant:
            row = clock.resource(b.who)
            free[row, low:high] = np.maximum(0, free[row, low:high] - 1)
        for n, p in enumerate(clock.people):
            if p.id == b.who:
                there[n, low:high] = False
    if busy:
        free[0] = there.sum(axis=0)
        for k, group in enumerate(clock.groups):
            free[1 + k] = there[[bool(set(group) & set(p.skills)) for p in clock.people]].sum(axis=0)
    return free, there


def _modes(
    task: DayTask, crew: Crew, given: Given, clock: Clock, windows: _Windows
) -> tuple[list[tuple[int, Mode]], int, bool]:
    """The ways a crew can do a task (people, mode), into how many parts it is split, and whether each is done whole."""
    kind, minutes = task.of, minutes_left(task, given, crew)
    plant = [p for p in kind.plant if p in clock.plant]
    if kind.by_hand == 0 and len(plant) < len(kind.plant):
        lacks = ", ".join(plant_kinds()[p].title for p in kind.plant if p not in plant)
        raise BadInput(
            "crew",
            f"{said(task)} can’t be done without a {lacks}: add it to the plant, or choose another way to build it",
        )
    skill = skill_of(kind, plant)
    fixed = [(r, 1) for r in (*(clock.skilled(skill) if skill else ()), *(clock.resource(p) for p in plant))]
    found: list[tuple[int, Mode]] = []
    whole = kind.loads and task.unit == "run"
    most: dict[int, int] = {}
    for people in range(task.crew, max(task.crew, kind.hands) + 1):
        uses = ((0, people), *fixed)
        most[people] = windows.most(uses, whole)
        slots = max(1, round(minutes / people / STEP_MIN))
        if most[people] and not (found and found[-1][1].slots <= slots):
            found.append((people, Mode(slots, uses)))
    if not found:
        raise BadInput("crew", _why_nobody(task, crew, clock, fixed))
    fits = [(people, mode) for people, mode in found if mode.slots <= most[people]]
    if fits:
        return fits, 1, whole
    people, mode = max(found, key=lambda row: most[row[0]] / row[1].slots)
    window = windows.most(mode.uses, False)
    parts = -(-mode.slots // max(1, window))
    return [(people, Mode(-(-mode.slots // parts), mode.uses))], parts, False


def _why_nobody(task: DayTask, crew: Crew, clock: Clock, fixed: Sequence[tuple[int, int]]) -> str:
    """What keeps any crew from doing a task."""
    kind = task.of
    most = int(clock.capacity[0].max())
    if most < task.crew:
        return f"{said(task)} takes {task.crew} people at once, and there {'is' if most == 1 else 'are'} never more than {most}: say who comes and helps"
    skill = skill_of(kind, [p for p in kind.plant if p in clock.plant])
    if skill and not any(skill in p.skills for p in crew.people):
        return f"{said(task)} takes somebody who {skills()[skill].title}, and nobody does: say who"
    return f"{said(task)} finds no hour in which people and plant for it are there together: see who is there when"


def skill_of(kind: Kind, plant: Sequence[str]) -> str:
    """What one of those at a kind of work has to know: nobody drives a machine that is not there."""
    return "" if kind.skill == MACHINES and len(plant) < len(kind.plant) else kind.skill


def said(task: DayTask) -> str:
    """A task by what it is and where."""
    where = f"line {task.line}" + (f", side {task.side + 1}" if task.side is not None else "")
    return f"“{task.of.what}” ({where})"


def _earliest(task: DayTask, given: Given) -> datetime:
    """The time before which a task is not begun: marks, pins, and what is done already settling."""
    when = max(given.begins, given.pins.get(task.key, given.begins))
    if task.of.digs and (in_on := given.marks.get(task.line)):
        when = max(when, datetime.combine(in_on, time()))
    for key, days in task.after:
        if (at := given.done_at.get(key)) is not None and given.done.get(key, 0.0) >= 1:
            when = max(when, datetime.combine(at.date() + timedelta(days=days), time()) if days else at)
    return when


def _stopped(clock: Clock, weather: Sequence[Weather]) -> Ints:
    """What can't be done in each quarter, as far as weather is forecast."""
    found = np.zeros(clock.slots, np.int64)
    masks, lightning = bits_of(weather), stops()["lightning"].bit
    for w in weather:
        on = clock.day == (w.day - clock.first).days
        found[on] |= masks[w.day]
        if w.stand_off:
            low, high = w.stand_off
            found[on & (clock.minute + STEP_MIN > low) & (clock.minute < high)] |= lightning
    return found


def _worth(problem: Problem, clock: Clock, crew: Crew, place: Ints) -> Worth:
    """Days of hired plant, then how often the work goes on in another place, of schedules that end alike."""
    hired = [clock.resource(p.kind) for p in crew.plant if p.hired and p.count]
    users = [
        [k for k, a in enumerate(problem.activities) if any(r == row for r, _ in a.modes[0].uses)] for row in hired
    ]
    day = clock.day

    def worth(out: Ints) -> tuple[int, ...]:
        days = 0
        for rows in users:
            days += len({d for k in rows for d in range(day[out[k, 0]], day[out[k, 1] - 1] + 1)})
        order = np.argsort(out[:, 0], kind="stable")
        return days, int(np.count_nonzero(np.diff(place[order])))

    return worth


def marks_day(state: str, wait_until: date | None, today: date) -> date | None:
    """The day from which may be dug: that of the marks, no sooner than tomorrow while they are not in, or some days from now where nobody
    has asked; none where they are in."""
    if state in ("marked", "clear"):
        return None
    if state == "requested" and wait_until is not None:
        return max(wait_until, today + timedelta(days=1))
    return today + timedelta(days=round(days_rule("marks_days")))
