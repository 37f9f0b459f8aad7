"""What was done: ticks of the board, what is left of a task, and how fast work goes here, as it was found."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from statistics import median
from typing import Annotated

from pydantic import Field

from gnomonic.core.days.book import days_rule, kinds
from gnomonic.core.days.crew import Crew, Note
from gnomonic.core.days.laying import usual_minutes_of
from gnomonic.core.days.task import DayTask
from gnomonic.core.log.events import PLAIN_TEXT
from gnomonic.core.record import Record
from gnomonic.core.say import Say

TaskKey = Annotated[str, Field(min_length=3, max_length=80, pattern=r"^[A-Za-z0-9_.#-]+$")]


class Tick(Record):
    """What was said to be done of a task: the ``share`` of all of it that is done now (0: not begun after all), the hours of one person it
    took since the last tick (none: not said), by whom, when by the local clock; ``minutes`` of one person all of it usually takes this crew."""

    id: Annotated[str, Field(min_length=1, max_length=64, pattern=r"^[A-Za-z0-9-]+$")]
    task: TaskKey
    kind: Annotated[str, Field(max_length=24)] = ""
    share: Annotated[float, Field(ge=0, le=1)]
    hours: Annotated[float, Field(gt=0, le=1000)] | None = None
    quantity: Annotated[float, Field(ge=0, le=1e7)] = 0.0
    minutes: Annotated[float, Field(ge=0, le=1e7)] = 0.0
    by: Annotated[tuple[Note, ...], Field(max_length=24)] = ()
    at: datetime
    note: Annotated[str, Field(max_length=200, pattern=PLAIN_TEXT)] = ""


@dataclass(frozen=True, slots=True)
class Done:
    """How much of each task is done, and when it was last said to be."""

    share: Mapping[str, float]
    at: Mapping[str, datetime]


def done(ticks: Iterable[Tick]) -> Done:
    """The state of every task: of two ticks the later stands, by their time and then their id, in whatever order they came."""
    rows = sorted(ticks, key=lambda t: (t.at, t.id))
    return Done({t.task: t.share for t in rows}, {t.task: t.at for t in rows})


@dataclass(frozen=True, slots=True)
class Rate:
    """How long a kind of work takes here, as a share of the usual: what it rests on (``ticks``, 0 where the workspace said so itself)."""

    kind: str
    share: float
    ticks: int
    own: bool


def found_rates(jobs: Iterable[Sequence[Tick]]) -> dict[str, tuple[float, int]]:
    """By kind of work, the median of hours taken over hours usual, and how many ticks it rests on, of the ticks of each job.

    A tick counts that says how long it took; what it did is the share since the one before of its task.
    """
    rows: dict[str, list[float]] = {}
    for ticks in jobs:
        before: dict[str, float] = {}
        for t in sorted(ticks, key=lambda t: (t.at, t.id)):
            did = t.share - before.get(t.task, 0.0)
            before[t.task] = t.share
            if t.hours is not None and did > 0 and t.minutes > 0 and t.kind in kinds():
                rows.setdefault(t.kind, []).append(t.hours * 60 / (t.minutes * did))
    return {kind: (median(shares), len(shares)) for kind, shares in rows.items()}


def rates(crew: Crew, usual: Mapping[str, float], jobs: Iterable[Sequence[Tick]]) -> dict[str, Rate]:
    """How long each kind of work is taken to take: what the workspace says itself, else the median of what was found where that rests on
    enough; ``usual`` minutes for one of each kind."""
    made: dict[str, Rate] = {}
    for kind, (share, count) in found_rates(jobs).items():
        if count >= days_rule("learned_from"):
            made[kind] = Rate(kind, share, count, False)
    for kind, minutes in crew.rates.items():
        if usual.get(kind):
            made[kind] = Rate(kind, minutes / usual[kind], 0, True)
    return made


def usual_minutes(tasks: Iterable[DayTask], crew: Crew) -> dict[str, float]:
    """Minutes of one person for one (post, end, metre …) of each kind of work, as it usually takes this crew, by hand where it has no plant for it."""
    minutes: dict[str, float] = {}
    amounts: dict[str, float] = {}
    for t in tasks:
        minutes[t.kind] = minutes.get(t.kind, 0.0) + usual_minutes_of(t, crew)
        amounts[t.kind] = amounts.get(t.kind, 0.0) + t.quantity
    return {kind: m / amounts[kind] for kind, m in minutes.items() if amounts[kind] > 0}


def drifts(found: Mapping[str, Rate], usual: Mapping[str, float], units: Mapping[str, str]) -> list[Say]:
    """Where work goes faster or slower than planned, said as a crew says it: so many an hour, not so many; ``usual`` minutes for one."""
    said = []
    for kind, rate in found.items():
        if rate.own or abs(rate.share - 1) < days_rule("drift_share") or kind not in usual:
            continue
        planned, now = 60 / usual[kind], 60 / (usual[kind] * rate.share)
        what, unit = kinds()[kind].what, units.get(kind, "")
        if unit == "m":
            said.append(
                Say(
                    f"“{what}” goes at {{now}} an hour with one person, not {{planned}} (median of {rate.ticks})",
                    {"now": (now, "stretch"), "planned": (planned, "stretch")},
                )
            )
        else:
            said.append(
                Say(f"“{what}” goes at {now:.1f} an hour with one person, not {planned:.1f} (median of {rate.ticks})")
            )
    return said
