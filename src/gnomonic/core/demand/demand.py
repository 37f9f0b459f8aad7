"""From animals to one demand: the strictest of each, each naming the animal that set it."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING

from gnomonic.core.demand.animals import Animal, Behaviour, Book, shipped
from gnomonic.core.errors import BadInput
from gnomonic.core.sourced import Sourced

if TYPE_CHECKING:
    from gnomonic.core.job.parts import Hold, Presence


@dataclass(frozen=True, slots=True)
class Want:
    """One thing demanded: its value, who set it, why."""

    value: float
    by: str
    reason: str
    source: str


@dataclass(frozen=True, slots=True)
class Band:
    """The largest opening between two heights above the ground (m)."""

    from_m: float
    to_m: float
    want: Want


@dataclass(frozen=True, slots=True)
class Below:
    """At the ground, any one of these."""

    any: tuple[tuple[str, float], ...]
    want: Want


@dataclass(frozen=True, slots=True)
class Named:
    """Something a top must be, that must not be near, or that must be on a side (``side`` of the animal)."""

    what: str
    want: Want
    side: str = ""


@dataclass(frozen=True, slots=True)
class Stuck:
    """Stays must be as close as ``low_m`` or at least ``high_m`` apart."""

    low_m: float
    high_m: float
    want: Want


@dataclass(frozen=True, slots=True)
class Strands:
    """How many strands at least, by the sort of wire, where no fabric hangs."""

    least: tuple[tuple[str, int], ...]
    want: Want


@dataclass(frozen=True, slots=True)
class Demand:
    """What a barrier must do.  Nothing demanded: ``height`` and ``gap`` are None."""

    height: Want | None = None
    openings: tuple[Band, ...] = ()
    gap: Want | None = None
    strength: Want | None = None
    stuck: tuple[Stuck, ...] = ()
    strands: tuple[Strands, ...] = ()
    below: tuple[Below, ...] = ()
    top: tuple[Named, ...] = ()
    avoid: tuple[Named, ...] = ()
    sides: tuple[Named, ...] = ()
    years: float = 0.0

    def least_strands(self, wire: str) -> int:
        """Strands of a wire at least, where only strands hang."""
        return max((n for s in self.strands for sort, n in s.least if sort == wire), default=0)

    def most_at(self, height_m: float) -> float:
        """Largest opening allowed at a height; infinite where anything goes."""
        return min((b.want.value for b in self.openings if b.from_m <= height_m < b.to_m), default=float("inf"))


def _want(row: Sourced, value: float, by: str) -> Want:
    return Want(value, by, row.reason, row.source)


def _animal(book: Book, presence: "Presence") -> Animal:
    if presence.animal not in book.animals:
        known = ", ".join(book.animals)
        raise BadInput("hold.animals", f"there is no “{presence.animal}” in the rule book; there are: {known}")
    for also in presence.also:
        if also not in book.behaviours:
            raise BadInput("hold.animals", f"there is no behaviour “{also}”; there are: {', '.join(book.behaviours)}")
    return book.animals[presence.animal]


def demand_of(hold: "Hold", book: Book | None = None) -> Demand:
    """The strictest of each demand.  Raises BadInput for an animal that is not on file and for a contradiction."""
    book = book or shipped()
    heights, gaps, strengths = [], [], []
    openings: list[tuple[float, Want]] = []
    stuck: list[Stuck] = []
    strands: list[Strands] = []
    below: list[Below] = []
    top, avoid, sides = [], [], []
    for presence in hold.animals:
        animal = _animal(book, presence)
        by = animal.title
        also = [book.behaviours[key] for key in presence.also]
        more = sum(b.more_height.value for b in also if b.more_height)
        tall = _want(animal.height, animal.height.value + more, by)
        if more:
            learnt = next(b for b in also if b.more_height)
            assert learnt.more_height is not None
            tall = Want(tall.value, f"{by}, {learnt.title}", learnt.more_height.reason, learnt.more_height.source)
        heights.append(tall)
        gaps.append(_want(animal.gap, animal.gap.value, by))
        strengths.append(_want(animal.strength, animal.strength.value, by))
        openings += [(o.upto_m, _want(o, o.most_m, by)) for o in animal.openings]
        if animal.stuck:
            stuck.append(Stuck(animal.stuck.low_m, animal.stuck.high_m, _want(animal.stuck, 0.0, by)))
        if few := animal.strands:
            strands.append(Strands((("barbed", few.barbed), ("plain", few.plain)), _want(few, 0.0, by)))
        top += [Named(t.needs, _want(t, 1.0, by)) for t in animal.top]
        rows: list[tuple[Animal | Behaviour, str]] = [(animal, by), *((b, f"{by}, {b.title}") for b in also)]
        for of, who in rows:
            below += [Below(tuple(b.any.items()), _want(b, 0.0, who)) for b in of.below]
            avoid += [Named(a.what, _want(a, 1.0, who)) for a in of.avoid]
            sides += [Named(s.rule, _want(s, 1.0, who), presence.side) for s in of.sides]
        gaps += [_want(b.gap, b.gap.value, f"{by}, {b.title}") for b in also if b.gap]
        strengths += [_want(b.strength, b.strength.value, f"{by}, {b.title}") for b in also if b.strength]
    yours = "as asked"
    if hold.visible:
        top.append(Named("visible", Want(1.0, "you", "it was asked that it be seen", yours)))
    avoid += [Named(what, Want(1.0, "you", "it was asked that there be none", yours)) for what in hold.never]
    _contradictions(hold, avoid)
    return Demand(
        height=max(heights, key=lambda w: w.value, default=None),
        openings=_bands(openings),
        gap=min(gaps, key=lambda w: w.value, default=None),
        strength=max(strengths, key=lambda w: w.value, default=None),
        stuck=tuple(stuck),
        strands=tuple(strands),
        below=_once(below),
        top=tuple({t.what: t for t in reversed(top)}.values()),
        avoid=tuple({a.what: a for a in reversed(avoid)}.values()),
        sides=tuple({(s.what, s.side): s for s in reversed(sides)}.values()),
        years=hold.years,
    )


def _bands(openings: Sequence[tuple[float, Want]]) -> tuple[Band, ...]:
    """Between each two heights the smallest opening of all whose reach goes that high."""
    edges = sorted({0.0, *(upto for upto, _ in openings)})
    bands: list[Band] = []
    for low, high in pairwise(edges):
        least = min((w for upto, w in openings if upto >= high - 1e-9), key=lambda w: w.value)
        if bands and bands[-1].want == least:
            bands[-1] = Band(bands[-1].from_m, high, least)
        else:
            bands.append(Band(low, high, least))
    return tuple(bands)


def _once(below: Sequence[Below]) -> tuple[Below, ...]:
    """The same demand of two animals is said once."""
    return tuple({b.any: b for b in reversed(below)}.values())[::-1]


def _contradictions(hold: "Hold", avoid: Sequence[Named]) -> None:
    """What is asked for and what must not be can't both be had."""
    if hold.only == "barbs":
        for named in avoid:
            if named.what == "barbs":
                who = "you asked for no barbs" if named.want.by == "you" else f"{named.want.by} must not meet barbs"
                raise BadInput(
                    "hold.only",
                    f"barbed wire only and no barbs can't both be had: {who} ({named.want.reason}); take one of them back",
                )
