"""Safety in the field (``data/safety.toml``): no hole without marks or a named person's reason; first-aid cards say what a bystander does
first.  Reach of hazards and standing off from storms are rules of the same file, told by the phone.  Source: common practice.
"""

from collections.abc import Iterable, Mapping
from datetime import datetime, timedelta
from functools import cache

from gnomonic.core.log.events import Kept
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
