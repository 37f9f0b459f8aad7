"""What if: other people, other plant, another beginning; each planned by the same short search, so that the difference is the change's."""

from collections import OrderedDict
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from starlette.datastructures import State

from gnomonic.core.days.book import plant_kinds
from gnomonic.core.days.crew import Crew, Plant
from gnomonic.core.days.laying import Given
from gnomonic.core.days.words import day_words
from gnomonic.core.errors import BadInput
from gnomonic.web.days.current import Current
from gnomonic.web.days.making import end_of

BASE_S, SEARCH_S, WORTH_H = 0.8, 0.3, 1.0
KEPT, SAT, SUN = 32, 5, 6


@dataclass(frozen=True, slots=True)
class If:
    """A change, when it would end, and what that is worth in days (calendar days sooner); why it can't be, or changes nothing."""

    what: str
    ends: str
    sooner: int | None
    why: str


def what_ifs(state: State, now: Current) -> list[If]:
    """Changes worth a look, the first what there is, none where nothing is left to do; kept by what they rest on."""
    if all(now.given.done.share.get(key, 0.0) >= 1 for key in now.given.tasks):
        return []
    kept: OrderedDict[str, list[If]] = state.ifs
    key = f"{now.stored.job_id} {now.given.stamp}"
    if key not in kept:
        kept[key] = _made(now)
        while len(kept) > KEPT:
            kept.popitem(last=False)
    return kept[key]


def _made(now: Current) -> list[If]:
    """With less nothing ends sooner, and with more nothing later: an order found for less is one for what there is, and that one for more."""
    assert now.made is not None
    given, order = now.given.given(), {p.key: float(k) for k, p in enumerate(now.made.placed)}
    base, order = end_of(now.given, now.given.crew, given, BASE_S, order)
    base = min(base, now.made.fair)
    found: list[tuple[Change, datetime | None, str]] = []
    for change in _changes(now.given.crew, given):
        try:
            found.append((change, end_of(now.given, change.crew, change.given, SEARCH_S, order)[0], ""))
        except BadInput as error:
            found.append((change, None, error.sentence))
    base = min([base, *(ends for change, ends, _ in found if ends and change.less)])
    kept = (
        f"in the order it was found in while looking; the plan as kept ends {day_words(now.made.fair.date())}"
        if base.date() < now.made.fair.date()
        else ""
    )
    rows = [_row(change, base, ends, why) for change, ends, why in found]
    rows.sort(key=lambda r: (r.sooner is None, -(r.sooner or 0)))
    return [If("as it is", day_words(base.date()), None, kept), *rows]


def _row(change: "Change", base: datetime, ends: datetime | None, why: str) -> If:
    if ends is None:
        return If(change.what, "", None, why)
    if change.more:
        ends = min(base, ends)
    sooner = (base.date() - ends.date()).days
    hours = (base - ends).total_seconds() / 3600
    if not sooner and abs(hours) < WORTH_H:
        return If(change.what, day_words(ends.date()), 0, "nothing: something else holds the end")
    return If(
        change.what,
        day_words(ends.date()),
        sooner,
        "" if sooner else f"{abs(hours):.0f} h {'sooner' if hours > 0 else 'later'}, the same day",
    )


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
