"""Safety in the field (``data/safety.toml``): no hole without marks or a named person's reason, what lies near, standing off from storms.

First-aid cards say what a bystander does first.  Source: common practice.
"""

from collections.abc import Iterable, Mapping
from datetime import datetime, timedelta
from functools import cache
from math import hypot

from gnomonic.core.log.events import Event, Kept
from gnomonic.core.sourced import Rule, Sourced, read_data

DIGS = frozenset({"depth", "pilot", "redug"})


class Card(Sourced):
    """What to do ``first``, and when to ``call`` for help."""

    title: str
    first: tuple[str, ...]
    call: str


class Said(Sourced):
    """Something that is said before the day's work."""

    text: str


@cache
def cards() -> dict[str, Card]:
    """First-aid cards by key."""
    return {k: Card.model_validate(row) for k, row in read_data("safety.toml", "log")["cards"].items()}


@cache
def toolbox() -> tuple[Said, ...]:
    """What is said before the day's work."""
    return tuple(Said.model_validate(row) for row in read_data("safety.toml", "log")["toolbox"])


@cache
def rule(key: str) -> float:
    """A number of these rules."""
    return Rule.model_validate(read_data("safety.toml", "log")["rules"][key]).value


def without_marks(stand: Iterable[Kept], held: Mapping[str, tuple[datetime, datetime] | None]) -> list[Kept]:
    """Holes that were dug on a line without marks in date and without a named person's reason.

    ``held`` says for each line from when until when its marks hold (none: they don't).  They are kept all the same: what was dug was dug.
    """
    rows = list(stand)
    reasons = [k for k in rows if k.event.kind == "dig_anyway"]

    def excused(k: Kept) -> bool:
        window = timedelta(hours=rule("override"))
        return any(
            r.event.line in ("", k.event.line) and timedelta() <= k.order[0] - r.order[0] <= window for r in reasons
        )

    def marked(k: Kept) -> bool:
        span = held.get(k.event.line)
        return span is not None and span[0] <= k.order[0] <= span[1]

    return [k for k in rows if k.event.kind in DIGS and not marked(k) and not excused(k)]


def near(events: Iterable[Kept], east_m: float, north_m: float) -> list[tuple[float, Event]]:
    """Hazards that were seen within reach of a place, the nearest first (m)."""
    found = [
        (hypot(k.event.e_m - east_m, k.event.n_m - north_m), k.event)
        for k in events
        if k.event.kind in ("hazard", "found") and k.event.e_m is not None and k.event.n_m is not None
    ]
    return sorted((row for row in found if row[0] <= rule("near")), key=lambda row: row[0])


def stand_off_until(stand: Iterable[Kept]) -> datetime | None:
    """Until when everybody keeps away from the fence: half an hour after the last thunder that was written down."""
    heard = [k.order[0] for k in stand if k.event.kind == "thunder"]
    return max(heard) + timedelta(minutes=rule("stand_off")) if heard else None
