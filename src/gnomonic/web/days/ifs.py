"""What if: other people, other plant, another beginning; each planned by the same short search, so that the difference is the change's."""

from collections import OrderedDict
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from typing import Any

from gnomonic.core.days.book import plant_kinds
from gnomonic.core.days.crew import Crew, Plant
from gnomonic.core.days.laying import Given
from gnomonic.core.days.words import day_words
from gnomonic.core.errors import BadInput
from gnomonic.web.days.current import Current
from gnomonic.web.days.making import end_of

SEARCH_S, KEPT, SAT, SUN = 0.35, 32, 5, 6


@dataclass(frozen=True, slots=True)
class If:
    """A change, when it would end, and what that is worth in days (calendar days sooner); why it can't be where it can't."""

    what: str
    ends: str
    sooner: int | None
    why: str


def what_ifs(state: Any, now: Current) -> list[If]:
    """Changes worth a look, the first what there is; kept by what they rest on."""
    kept: OrderedDict[str, list[If]] = state.ifs
    key = f"{now.stored.job_id} {now.given.stamp}"
    if key not in kept:
        kept[key] = _made(now)
        while len(kept) > KEPT:
            kept.popitem(last=False)
    return kept[key]


def _made(now: Current) -> list[If]:
    crew, given = now.given.crew, now.given.given()
    base = end_of(now.given, crew, given, SEARCH_S)
    rows = [If("as it is planned", day_words(base.date()), None, "")]
    for what, other, asked in _changes(crew, given):
        try:
            ends = end_of(now.given, other, asked, SEARCH_S)
        except BadInput as error:
            rows.append(If(what, "", None, error.sentence))
            continue
        rows.append(If(what, day_words(ends.date()), (base.date() - ends.date()).days, _why(base, ends)))
    return rows


def _why(base: datetime, ends: datetime) -> str:
    """Why nothing changes, where nothing does."""
    if base.date() != ends.date():
        return ""
    hours = (base - ends).total_seconds() / 3600
    if abs(hours) < 0.3:
        return "nothing: something else holds the end"
    return f"{abs(hours):.1f} h {'sooner' if hours > 0 else 'later'}, the same day"


def _changes(crew: Crew, given: Given) -> list[tuple[str, Crew, Given]]:
    found: list[tuple[str, Crew, Given]] = []
    if crew.people:
        one = crew.people[0]
        more = one.model_copy(update={"id": "one-more", "name": "one more", "away": (), "comes": None, "goes": None})
        found.append(
            (
                f"one more person, who comes and knows what {one.name} does",
                crew.model_copy(update={"people": (*crew.people, more)}),
                given,
            )
        )
    if len(crew.people) > 1:
        last = crew.people[-1]
        found.append((f"without {last.name}", crew.model_copy(update={"people": crew.people[:-1]}), given))
    for key, kind in plant_kinds().items():
        there = next((p for p in crew.plant if p.kind == key), None)
        others = tuple(p for p in crew.plant if p.kind != key)
        if there is None or not there.count:
            found.append((f"with a {kind.title}", crew.model_copy(update={"plant": (*others, Plant(kind=key))}), given))
            continue
        second = there.model_copy(update={"count": there.count + 1})
        found.append((f"one more {kind.title}", crew.model_copy(update={"plant": (*others, second)}), given))
        fewer = (*others, there.model_copy(update={"count": there.count - 1}))
        found.append(
            (
                f"one {kind.title} fewer" if there.count > 1 else f"without the {kind.title}",
                crew.model_copy(update={"plant": fewer}),
                given,
            )
        )
    for day, name in ((SAT, "Saturdays"), (SUN, "Sundays")):
        if any(day not in p.days for p in crew.people):
            people = tuple(p.model_copy(update={"days": tuple(sorted({*p.days, day}))}) for p in crew.people)
            found.append((f"everybody works {name}", crew.model_copy(update={"people": people}), given))
    week = timedelta(days=7)
    later = {k: v + week for k, v in given.pins.items()}
    found.append(("begun a week later", crew, replace(given, start=given.begins.date() + week, pins=later)))
    return found
