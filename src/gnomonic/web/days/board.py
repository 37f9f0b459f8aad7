"""A day for the crew: what is done when, by whom, what to be careful of, what to load the night before."""

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Any

from gnomonic.core.days.book import plant_kinds
from gnomonic.core.days.clock import clock_words, sun
from gnomonic.core.days.crew import WEEK, Crew
from gnomonic.core.days.made import Made
from gnomonic.core.days.placing import Placed
from gnomonic.core.days.task import DayTask
from gnomonic.core.days.words import SET, cautions, day_words, hours_words, load, wearing, weather_words
from gnomonic.core.units import System
from gnomonic.web.days.inputs import Inputs


@dataclass(frozen=True, slots=True)
class Board:
    """A day as it is shown."""

    day: date
    title: str
    sun: str
    weather: str
    closed: str
    rows: list[dict[str, Any]]
    cautions: list[str]
    load: list[str]
    wearing: list[str]
    people: list[str]
    before: date
    after: date
    hours: str


def days_of(made: Made) -> list[date]:
    """Days on which something is planned or was done."""
    return sorted({s.day for p in made.placed for s in p.spells})


def board(given: Inputs, made: Made, day: date, units: System) -> Board:
    """A day's board."""
    crew, tasks = given.crew, given.tasks
    names = {p.id: p.name for p in crew.people}
    rows, here = [], list[tuple[DayTask, float]]()
    for p in made.placed:
        spells = [s for s in p.spells if s.day == day]
        if not spells or p.key not in tasks:
            continue
        task = tasks[p.key]
        of_day, total = (sum(s.ends - s.begins for s in some) for some in (spells, p.spells))
        share = given.done.share.get(p.key, 0.0)
        here.append((task, done_on(task, p, day, share)))
        days_of_it = sorted({s.day for s in p.spells})
        whole = f"day {days_of_it.index(day) + 1} of {len(days_of_it)}" if len(days_of_it) > 1 else ""
        who = list(dict.fromkeys(names.get(w, "somebody who has left") for s in spells for w in s.people))
        rows.append(
            {
                "key": p.key, "at": clock_words(spells[0].begins), "begins": spells[0].begins,
                "what": task.of.what, "line": task.line, "line_name": line_name(given, task.line), "side": None if task.side is None else task.side + 1, "amount": task.amount.text(units),
                "who": who, "hands": p.hands, "plant": [plant_kinds()[q].title for q in p.plant], "long": hours_words(of_day), "part": whole,
                "hours": f"{of_day * p.hands / 60:.2f}".rstrip("0").rstrip("."), "done": share, "text": task.text.text(units),
                "alone": task.of.trails and p.hands == 1, "wait": task.wait, "share_after": min(1.0, round((share + (1 - share) * of_day / total), 2)) if total else 1.0,
            }
        )  # fmt: skip
    rows.sort(key=lambda r: (r["begins"], r["line"], r["side"] or 0))
    days = days_of(made)
    today = next((w for w in given.weather if w.day == day), None)
    return Board(
        day, day_words(day), sun_words(crew, day), weather_words(today).text(units) if today else "", crew.closed(day), rows,
        [c.text(units) for c in cautions(day, [t for t, _ in here], given.weather, given.marks)], [c.text(units) for c in load(here)],
        wearing(here, posts_before(given, made, day)), [p.name for p in crew.there(day)],
        max((d for d in days if d < day), default=day - timedelta(days=1)), min((d for d in days if d > day), default=day + timedelta(days=1)),
        hours_words(sum(minutes_on(made, day))),
    )  # fmt: skip


def to_come(given: Inputs, made: Made | None, most: int) -> list[date]:
    """The days to come on which something is planned, so many at most."""
    return [d for d in days_of(made) if d >= given.now.date()][:most] if made else []


def ahead(given: Inputs, made: Made | None, units: System, most: int) -> list[Board]:
    """The boards of the days to come, so many at most."""
    return [board(given, made, d, units) for d in to_come(given, made, most) if made]


def minutes_on(made: Made, day: date) -> list[float]:
    """Minutes of people on a day, task by task."""
    return [float((s.ends - s.begins) * len(s.people)) for p in made.placed for s in p.spells if s.day == day]


def done_on(task: DayTask, p: Placed, day: date, share: float) -> float:
    """How much of a task is done on a day: what is left of it where it is not done, in proportion to the time."""
    of_day = sum(s.ends - s.begins for s in p.spells if s.day == day)
    left = task.quantity * (1 - share) if share < 1 else task.quantity
    return left * of_day / max(1, sum(s.ends - s.begins for s in p.spells))


def posts_before(given: Inputs, made: Made, day: date) -> dict[str, float]:
    """How many posts each kind of plant has done before a day."""
    found = {p.kind: float(p.posts_done) for p in given.crew.plant}
    for p in made.placed:
        task = given.tasks.get(p.key)
        if task is not None and task.unit in SET:
            much = sum(
                done_on(task, p, d, given.done.share.get(p.key, 0.0)) for d in {s.day for s in p.spells} if d < day
            )
            for q in p.plant:
                found[q] = found.get(q, 0.0) + much
    return found


def line_name(given: Inputs, line: str) -> str:
    """What a line is called."""
    return given.job.job.line(line).name


def sun_words(crew: Crew, day: date) -> str:
    """Sunrise and sunset where the place is known."""
    if crew.lat_deg is None or crew.lon_deg is None:
        return ""
    light = sun(crew.lat_deg, crew.lon_deg, crew.zone, day)
    return f"sun {clock_words(light[0])} to {clock_words(light[1])}" if light else "the sun does not rise"


def people_words(crew: Crew) -> str:
    """How many come, said by the days of the week: 2 people, Sat 4."""
    counts = [sum(d in p.days for p in crew.people) for d in range(7)]
    usual = max(set(counts[:5]), key=counts[:5].count)
    odd = [f"{WEEK[d]} {n or 'nobody'}" for d, n in enumerate(counts) if n != usual and (n or d < 5)]
    return f"{usual} {'person' if usual == 1 else 'people'}" + (f", {', '.join(odd)}" if odd else "")


def plant_words(crew: Crew) -> str:
    """What plant there is."""
    said = [
        f"{p.count} × {plant_kinds()[p.kind].title}" if p.count > 1 else plant_kinds()[p.kind].title
        for p in crew.plant
        if p.count
    ]
    return ", ".join(said) or "no plant"
