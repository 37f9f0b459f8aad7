"""A fence that stands: its life book, rounds due by date, small repairs (``data/upkeep.toml``).  Source: common practice; docs/method.md §19."""

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from functools import cache

from gnomonic.core.log.events import Kept
from gnomonic.core.sourced import Sourced, read_data


class Repair(Sourced):
    """A small repair: ``minutes`` at least, usually and at most for all ``hands`` together, what the log ``needs`` of it, ``steps`` in order."""

    title: str
    minutes: tuple[int, int, int]
    hands: int
    needs: tuple[str, ...]
    steps: tuple[str, ...]
    material: tuple[str, ...]
    caution: str


class Round(Sourced):
    """A round: first ``after_months`` from the pull, then ``every_months`` (0: once); ``water`` only where a line crosses some."""

    title: str
    after_months: int
    every_months: int
    look: tuple[str, ...]
    water: bool = False


@cache
def repairs() -> dict[str, Repair]:
    """Every repair by key."""
    return {k: Repair.model_validate(row) for k, row in read_data("upkeep.toml", "log")["repairs"].items()}


@cache
def rounds() -> dict[str, Round]:
    """Every round by key."""
    return {k: Round.model_validate(row) for k, row in read_data("upkeep.toml", "log")["rounds"].items()}


def months_on(day: date, months: int) -> date:
    """The same day so many months later, the month's last where it has none such.

    >>> months_on(date(2026, 11, 30), 3), months_on(date(2024, 2, 29), 12)
    (datetime.date(2027, 2, 28), datetime.date(2025, 2, 28))
    """
    month = day.month - 1 + months
    year, month = day.year + month // 12, month % 12 + 1
    for last in (day.day, 30, 29, 28):
        try:
            return date(year, month, min(day.day, last))
        except ValueError:
            continue
    raise AssertionError("every month has 28 days")


@dataclass(frozen=True, slots=True)
class Due:
    """A round of a line: when it is due, and when it was done last."""

    line: str
    key: str
    on: date
    last: date | None

    def late(self, today: date) -> bool:
        """Whether it should have been done by now."""
        return self.on < today


def due(line: str, pulled_on: date, done: Iterable[tuple[str, date]], water: bool) -> list[Due]:
    """The rounds of a line that are due next, the soonest first; one that is done once and was done is not due any more.

    ``done`` holds what rounds were made and when.  A yearly one is due a year after it was done last, whenever that was.
    """
    last: dict[str, date] = {}
    for key, day in done:
        if day >= pulled_on:
            last[key] = max(day, last.get(key, day))
    found = []
    for key, it in rounds().items():
        if it.water and not water:
            continue
        before = last.get(key)
        if before is not None and not it.every_months:
            continue
        on = months_on(before, it.every_months) if before else months_on(pulled_on, it.after_months)
        found.append(Due(line, key, on, before))
    return sorted(found, key=lambda d: (d.on, d.key))


def pulled_on(stand: Iterable[Kept], line: str) -> date | None:
    """The day a line was first pulled, as the log says; none before it was."""
    days = [k.order[0].date() for k in stand if k.event.line == line and k.event.kind == "pulled"]
    return min(days, default=None)
