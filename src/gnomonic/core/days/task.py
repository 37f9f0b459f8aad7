"""A task of a crew's days: what it is, how much of it, how long it takes, what comes before it, where it is."""

from dataclasses import dataclass, field

from gnomonic.core.days.book import Kind, kinds, stops
from gnomonic.core.say import Say, Values

CONCRETE = "frost_concrete"  # stops only where there is concrete
UNITS = {"run": "side", "run_end": "end"}  # what units are called where that is not their name
Links = tuple[tuple[str, int], ...]


@dataclass(frozen=True, slots=True)
class DayTask:
    """Something a crew does in one go on one side of a line, at a gate or at a crossing.

    ``key`` tells it from the others of the job; ``side`` is the run it is on (none at a gate or over the line); ``quantity`` of
    ``unit``; ``minutes`` of one person at least, usually and at most on easy ground; it comes ``after`` tasks of those keys, and
    then so many days pass.  It covers the line from ``from_m`` to ``to_m``; one that ``loads`` pulls on the posts it hangs on, in
    one that is ``poured`` concrete is placed.
    """

    key: str
    line: str
    side: int | None
    kind: str
    quantity: float
    unit: str
    minutes: tuple[float, float, float]
    crew: int
    after: Links
    from_m: float
    to_m: float
    tools: tuple[str, ...] = ()
    text: Say = field(default_factory=lambda: Say(""))
    caution: Say = field(default_factory=lambda: Say(""))
    wait: str = ""
    loads: bool = False
    poured: bool = False

    @property
    def of(self) -> Kind:
        """What kind of work it is."""
        return kinds()[self.kind]

    @property
    def stops(self) -> int:
        """What weather it can't be done in, as bits."""
        return sum(stops()[s].bit for s in self.of.stops if self.poured or s != CONCRETE)

    @property
    def amount(self) -> Say:
        """How much of it there is, in words."""
        return amount(self.quantity, self.unit)


def amount(quantity: float, unit: str) -> Say:
    """So much of a unit in words: 12 posts, a length of line.

    >>> amount(12, "post").text("us"), amount(1, "side").text("us"), amount(100.0, "m").text("metric")
    ('12 posts', '1 side', '100 m')
    """
    if unit == "m":
        values: Values = {"n": (quantity, "stretch")}
        return Say("{n}", values)
    word = UNITS.get(unit, unit)
    shown = f"{quantity:.0f}" if abs(quantity - round(quantity)) < 0.05 else f"{quantity:.1f}"
    return Say(f"{shown} {word}{'' if shown == '1' else 's'}")
