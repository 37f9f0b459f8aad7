"""A schedule by task: from when to when, and who is at it hour by hour, nobody twice."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.days.clock import Clock
from gnomonic.core.days.laying import Laid, skill_of
from gnomonic.core.days.problem import STEP_MIN, Schedule, critical

Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Spell:
    """Part of a task within a day, from and until minutes of it, with who is at it (by id)."""

    day: date
    begins: int
    ends: int
    people: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Placed:
    """A task with when it is done, by how many, and by whom hour by hour, with what ``plant``; ``by`` is empty where it has time to spare, else what it begins by
    (``Link.by``): it makes the job as long as it is."""

    key: str
    begins: datetime
    ends: datetime
    hands: int
    spells: tuple[Spell, ...]
    by: str = ""
    plant: tuple[str, ...] = ()


def placed(laid: Laid, made: Schedule) -> list[Placed]:
    """The schedule by task, with who does it."""
    working = [_quarters_of(laid, made, k) for k in range(len(made.starts))]
    who = _assign(laid, made, working)
    tight = {link.key: link.by for link in critical(laid.problem, made)}
    rows: dict[str, list[Placed]] = {}
    for k, act in enumerate(laid.problem.activities):
        task = laid.tasks[laid.of[k]]
        spells = _spells(laid.clock, who[k])
        hands = laid.hands[k][made.modes[k]]
        row = Placed(
            task.key,
            laid.clock.begins(made.starts[k]),
            laid.clock.ends(made.ends[k]),
            hands,
            spells,
            tight.get(act.key, ""),
            laid.plant[k],
        )
        rows.setdefault(task.key, []).append(row)
    found = []
    for key, parts in rows.items():
        by = next((p.by for p in parts if p.by), "")
        spells = tuple(s for p in parts for s in p.spells)
        found.append(Placed(key, parts[0].begins, parts[-1].ends, parts[0].hands, spells, by, parts[0].plant))
    return sorted(found, key=lambda p: (p.begins, p.ends, p.key))


def _quarters_of(laid: Laid, made: Schedule, k: int) -> Ints:
    """The quarters in which an activity is worked at."""
    slots = np.arange(made.starts[k], made.ends[k])
    stopped = laid.problem.stopped
    return slots[(stopped[slots] & laid.problem.activities[k].stops) == 0] if stopped.size else slots


def _assign(laid: Laid, made: Schedule, working: list[Ints]) -> list[list[tuple[int, tuple[str, ...]]]]:
    """Who is at each activity in each quarter: whoever is at it stays where possible, and goes on in the same place before another."""
    clock = laid.clock
    at: dict[int, list[int]] = {}
    for k, slots in enumerate(working):
        for t in slots.tolist():
            at.setdefault(t, []).append(k)
    found: list[list[tuple[int, tuple[str, ...]]]] = [[] for _ in working]
    now: dict[int, tuple[int, ...]] = {}
    was_there: Ints | None = None
    where: dict[int, int] = {}
    for t in sorted(at):
        there = np.flatnonzero(laid.there[:, t])
        busy = at[t]
        if set(busy) != set(now) or was_there is None or not np.array_equal(there, was_there):
            now = _match(laid, made, busy, there, now, where)
            was_there = there
            for k, people in now.items():
                for p in people:
                    where[p] = int(laid.place[k])
        for k in busy:
            found[k].append((t, tuple(clock.people[p].id for p in now[k])))
    return found


def _match(
    laid: Laid,
    made: Schedule,
    busy: Sequence[int],
    there: Ints,
    now: Mapping[int, tuple[int, ...]],
    where: Mapping[int, int],
) -> dict[int, tuple[int, ...]]:
    """People for what is done at a moment: the skilled place first, nobody twice."""
    people, rows = laid.clock.people, list[tuple[int, str]]()
    for k in busy:
        skill = skill_of(laid.tasks[laid.of[k]].of, laid.plant[k])
        rows += [(k, skill if n == 0 else "") for n in range(laid.hands[k][made.modes[k]])]
    cost = np.zeros((len(rows), there.size))
    for i, (k, skill) in enumerate(rows):
        for j, p in enumerate(there.tolist()):
            able = not skill or skill in people[p].skills
            kept = -20.0 if p in now.get(k, ()) else 0.0
            near = -4.0 if where.get(p) == int(laid.place[k]) else 0.0
            cost[i, j] = (kept + near + (0 if skill else len(people[p].skills)) + 0.01 * p) if able else 1e6
    from scipy.optimize import linear_sum_assignment

    took, whom = linear_sum_assignment(cost)
    made_of: dict[int, list[int]] = {k: [] for k in busy}
    for i, j in zip(took, whom, strict=True):
        made_of[rows[i][0]].append(int(there[j]))
    return {k: tuple(sorted(v)) for k, v in made_of.items()}


def _spells(clock: Clock, rows: Sequence[tuple[int, tuple[str, ...]]]) -> tuple[Spell, ...]:
    """Quarters with the same people one after the other as one."""
    found: list[list[tuple[int, tuple[str, ...]]]] = []
    for t, who in rows:
        last = found[-1][-1] if found else None
        goes_on = (
            last is not None
            and last[1] == who
            and clock.day[t] == clock.day[last[0]]
            and clock.minute[t] == clock.minute[last[0]] + STEP_MIN
        )
        if goes_on:
            found[-1].append((t, who))
        else:
            found.append([(t, who)])
    return tuple(
        Spell(
            clock.first + timedelta(days=int(clock.day[g[0][0]])),
            int(clock.minute[g[0][0]]),
            int(clock.minute[g[-1][0]]) + STEP_MIN,
            g[0][1],
        )
        for g in found
    )
