"""What if: other people, other plant, another beginning; each planned by the same short search, so that the difference is the change's."""

from collections import OrderedDict
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from gnomonic.core.days.book import plant_kinds
from gnomonic.core.days.carrying import Order, order_placed
from gnomonic.core.days.crew import Crew, Plant
from gnomonic.core.days.laying import Given, Laid
from gnomonic.core.days.words import day_words
from gnomonic.core.errors import BadInput, NoPlan
from gnomonic.web.days.current import Current
from gnomonic.web.days.making import ends_in, fairly, found
from gnomonic.web.flowing import changes
from gnomonic.web.room import Room

BASE_S, SEARCH_S, WORTH_H = 0.25, 0.08, 1.0
KEPT, SAT, SUN = 32, 5, 6


@dataclass(frozen=True, slots=True)
class If:
    """A change, when it would end, and what that is worth in days (calendar days sooner); why it can't be, or changes nothing."""

    what: str
    ends: str
    sooner: int | None
    why: str


def is_done(now: Current) -> bool:
    """Whether nothing is left to do."""
    return all(now.given.done.share.get(key, 0.0) >= 1 for key in now.given.tasks)


def what_ifs(state: Room, now: Current) -> Iterator[Iterable[If]]:
    """Changes worth a look, the first what there is: at a first look in the order there is, as they are made (each is to be taken before what
    follows), then in the best order that was found for any of them.  What was found is kept by what it rests on."""
    kept: OrderedDict[str, list[If]] = state.ifs
    key = f"{now.stored.job_id} {now.mark}"
    if key not in kept:
        look, search = _looked(now)
        yield look
        kept[key] = search()
        while len(kept) > KEPT:
            kept.popitem(last=False)
    yield kept[key]


@dataclass(slots=True)
class _Tried:
    """A change laid out, when it ends in the best order known of it; or why it can't be."""

    change: "Change"
    laid: Laid | None
    order: Order
    ends: datetime
    why: str = ""


def _looked(now: Current) -> tuple[Iterator[If], Callable[[], list[If]]]:
    """Every change in the order there is, as they are made; and what searches them, once those are."""
    assert now.made is not None
    given, kept = now.given.given(), now.made.fair
    base = fairly(now.given, now.given.crew, given)
    order = order_placed(now.made.placed)
    tried = list[_Tried]()

    def first_look() -> Iterator[If]:
        ends = ends_in(base, order)
        known = ends < datetime.max  # else the clock is too short in this order, and only a search can tell
        if known:
            yield If("as it is", day_words(ends.date()), None, "")
        for change in _changes(now.given.crew, given):
            changes.first()
            try:
                laid = fairly(now.given, change.crew, change.given)
                when = ends_in(laid, order)
                when = min(when, ends) if change.more else max(when, ends) if change.less else when
                tried.append(_Tried(change, laid, order, when))
            except BadInput as error:
                tried.append(_Tried(change, None, order, datetime.max, error.sentence))
            if known and (tried[-1].laid is None or tried[-1].ends < datetime.max):
                yield _row(tried[-1], ends)

    def search() -> list[If]:
        ends, best = found(base, BASE_S, order)
        for t in tried:
            if t.laid:
                changes.first()
                try:
                    t.ends, t.order = found(t.laid, SEARCH_S, best)
                except NoPlan as error:
                    t.laid, t.why = None, error.sentence
        return _compared(base, ends, best, tried, kept)

    return first_look(), search


def _compared(base: Laid, ends: datetime, order: Order, tried: Sequence[_Tried], kept: datetime) -> list[If]:
    """Every order that is found for a change is tried with what there is, and the best for that with every change: what is left between them
    is the change's.  With less nothing ends sooner, and with more nothing later."""
    others = {id(t.order): t.order for t in tried if t.laid and t.order is not order}
    ends, order = min([(ends, order), *((ends_in(base, o), o) for o in others.values())], key=lambda row: row[0])
    ends = min([ends, kept, *(t.ends for t in tried if t.change.less)])
    for t in tried:
        if t.laid:
            again = t.ends if t.order is order else ends_in(t.laid, order)
            t.ends = min(t.ends, again, *([ends] if t.change.more else []))
    rows = [_row(t, ends) for t in tried]
    rows.sort(key=lambda r: (r.sooner is None, -(r.sooner or 0)))
    sooner = f"in the order it was found in while looking; the plan as kept ends {day_words(kept.date())}"
    return [If("as it is", day_words(ends.date()), None, sooner if ends.date() < kept.date() else ""), *rows]


def _row(tried: _Tried, base: datetime) -> If:
    what, ends = tried.change.what, tried.ends
    if tried.laid is None:
        return If(what, "", None, tried.why)
    sooner = (base.date() - ends.date()).days
    hours = (base - ends).total_seconds() / 3600
    why = "" if sooner else f"{abs(hours):.0f} h {'sooner' if hours > 0 else 'later'}, the same day"
    if not sooner and abs(hours) < WORTH_H:
        why = "nothing: something else holds the end"
    return If(what, day_words(ends.date()), sooner, why)


@dataclass(frozen=True, slots=True)
class Change:
    """Something that could be otherwise: ``more`` of something, or ``less``."""

    what: str
    crew: Crew
    given: Given
    more: bool = False
    less: bool = False


def _changes(crew: Crew, given: Given) -> list[Change]:
    found = list[Change]()
    if crew.people:
        one = crew.people[0]
        more = one.model_copy(update={"id": "one-more", "name": "one more", "away": (), "comes": None, "goes": None})
        found.append(
            Change(
                f"one more person, who comes and knows what {one.name} does",
                crew.model_copy(update={"people": (*crew.people, more)}),
                given,
                more=True,
            )
        )
    for person in crew.people[1:] if len(crew.people) > 1 else ():
        rest = tuple(p for p in crew.people if p is not person)
        found.append(Change(f"without {person.name}", crew.model_copy(update={"people": rest}), given, less=True))
    for key, kind in plant_kinds().items():
        there = next((p for p in crew.plant if p.kind == key), None)
        others = tuple(p for p in crew.plant if p.kind != key)
        if there is None or not there.count:
            found.append(
                Change(f"with a {kind.title}", crew.model_copy(update={"plant": (*others, Plant(kind=key))}), given)
            )
            continue
        second = there.model_copy(update={"count": there.count + 1})
        found.append(
            Change(f"one more {kind.title}", crew.model_copy(update={"plant": (*others, second)}), given, more=True)
        )
        fewer = (*others, there.model_copy(update={"count": there.count - 1}))
        found.append(
            Change(
                f"one {kind.title} fewer" if there.count > 1 else f"without the {kind.title}",
                crew.model_copy(update={"plant": fewer}),
                given,
                less=there.count > 1,
            )
        )
    for day, name in ((SAT, "Saturdays"), (SUN, "Sundays")):
        if any(day not in p.days for p in crew.people):
            people = tuple(p.model_copy(update={"days": tuple(sorted({*p.days, day}))}) for p in crew.people)
            found.append(
                Change(f"everybody works {name}", crew.model_copy(update={"people": people}), given, more=True)
            )
    week = timedelta(days=7)
    later = {k: v + week for k, v in given.pins.items()}
    found.append(
        Change("begun a week later", crew, replace(given, start=given.begins.date() + week, pins=later), less=True)
    )
    return found
