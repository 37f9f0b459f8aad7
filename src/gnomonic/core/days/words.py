"""Words about a plan of days: what holds its end, what a day is to be careful of, what to load the night before."""

import math
import re
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from datetime import date, datetime

from gnomonic.core.days.book import plant_kinds, stops
from gnomonic.core.days.made import Chances, Made
from gnomonic.core.days.placing import Placed
from gnomonic.core.days.task import DayTask
from gnomonic.core.days.weather import Weather, bits_of, storm_words
from gnomonic.core.say import Say, Values, together
from gnomonic.core.tell.steps import ranges

SET = ("post", "run_end")  # units of work that posts are counted by


def day_words(day: date) -> str:
    """A day as a crew says it.

    >>> day_words(date(2026, 3, 21))
    'Sat 21 March'
    """
    return f"{day:%a %-d %B}"


def hours_words(minutes: float) -> str:
    """How long something takes.

    >>> hours_words(45), hours_words(60), hours_words(135)
    ('45 min', '1 h', '2 h 15')
    """
    whole = round(minutes)
    if whole < 60:
        return f"{whole} min"
    return f"{whole // 60} h" + (f" {whole % 60:02d}" if whole % 60 else "")


def weather_words(w: Weather) -> Say:
    """A day's weather in words: night and noon, rain, wind.

    >>> weather_words(Weather(day=date(2026, 3, 2), night_c=2, noon_c=9, rain_mm=4.2, wind_ms=8)).text("metric")
    '2 °C to 9 °C, 4 mm of rain, wind to 8 m/s'
    """
    rain = "dry" if w.rain_mm < 0.5 else "{rain} of rain"
    wind = "light wind" if w.wind_ms < 6 else "wind to {wind}"
    values: Values = {
        "low": (w.night_c, "temperature"),
        "high": (w.noon_c, "temperature"),
        "rain": (w.rain_mm, "rain"),
        "wind": (w.wind_ms, "speed"),
    }
    return Say(f"{{low}} to {{high}}, {rain}, {wind}", values)


def sky_words(w: Weather) -> Say:
    """The same in few words, beside a day."""
    values: Values = {"low": (w.night_c, "temperature"), "high": (w.noon_c, "temperature"), "rain": (w.rain_mm, "rain")}
    return Say("{low} to {high}" + (", {rain}" if w.rain_mm >= 0.5 else ""), values)


def chain(made: Made, tasks: Mapping[str, DayTask]) -> list[str]:
    """What holds the end, in the order of the work: each kind of work in it once, where it first comes, and the waits before it."""
    said: list[str] = []
    rows = [p for p in made.placed if p.by and p.key in tasks]
    keys = {p.key for p in rows}
    for row in rows:
        task = tasks[row.key]
        wait = max((days for key, days in task.after if row.by == "after" and key in keys), default=0)
        for words in ([f"{wait} days’ settling"] if wait else []) + [task.of.what]:
            if words not in said:
                said.append(words)
    return said


def held_by(made: Made) -> str:
    """Whether hands or the order of the work hold the end: of the tasks that do, how many wait for people or plant."""
    rows = [p for p in made.placed if p.by]
    hands = sum(p.by in ("use", "there") for p in rows)
    if not rows:
        return ""
    if hands > len(rows) / 2:
        return f"Hands hold it: of the {len(rows)} tasks that make it as long as it is, {hands} wait for people or plant, not for what comes before them."
    return f"The order of the work holds it: of the {len(rows)} tasks that make it as long as it is, only {hands} wait for people or plant."


def hands_words(rows: Sequence[DayTask], left: Mapping[str, float]) -> list[str]:
    """What needs two or more at once, and what one person can trail alone, of the minutes of one person that are left of each, the most first."""
    several: Counter[str] = Counter()
    alone: Counter[str] = Counter()
    for t in rows:
        if t.crew > 1:
            several[t.of.what] += round(left[t.key])
        elif t.of.trails:
            alone[t.of.what] += round(left[t.key])
    said = []
    for lead, counts in (("Takes two or more at once", several), ("One person can trail it alone", alone)):
        if counts.total():
            kinds = ", ".join(what for what, _ in counts.most_common(7))
            said.append(f"{lead}: {hours_words(counts.total())} of work ({kinds})")
    return said


def chances_words(both: Chances, seasons: int) -> str:
    """By when it ends, half the time and nine times in ten."""
    if both.half is None:
        return f"In more than half of {seasons} seasons it does not end within the calendar"
    nine = (
        f"by {day_words(both.nine)} nine times in ten" if both.nine else "in one season of ten not within the calendar"
    )
    return f"Done by {day_words(both.half)} half the time, {nine}"


def why_later(made: Made) -> str:
    """How much weather, and how fast work goes, each take by itself, nine times in ten."""
    parts = []
    for what, chances in (("the weather", made.weather), ("good and bad days at work", made.rates)):
        if chances.nine is not None:
            late = (chances.nine - made.fair.date()).days
            parts.append(f"{what} alone {late} day{'' if late == 1 else 's'}" if late > 0 else f"{what} alone nothing")
    return f"Later than in fair weather on usual days, nine times in ten: {'; '.join(parts)}." if parts else ""


def cautions(
    day: date, rows: Sequence[DayTask], weather: Sequence[Weather], marks: Mapping[str, date | None]
) -> list[Say]:
    """What a day is to be careful of, the gravest first."""
    found: list[Say] = []
    today = next((w for w in weather if w.day == day), None)
    near_wire = any("lightning" in t.of.stops for t in rows)
    dug = sorted({t.line for t in rows if t.of.digs})
    unmarked = [line for line in dug if (when := marks.get(line)) is not None and when > day]
    if unmarked:
        found.append(
            Say(f"Line{'' if len(unmarked) == 1 else 's'} {ranges(unmarked)}: no hole before the marks are in.")
        )
    elif dug and any(marks.get(line) for line in dug):
        found.append(Say("Holes today: see that the marks are in and in date, dig by hand within the tolerance zone."))
    if today is not None:
        if near_wire and (storm := storm_words(today)):
            found.append(Say(storm + "."))
        mask = bits_of(weather)[day]
        found += [Say(stop.say) for stop in stops().values() if stop.say and mask & stop.bit]
    return [*found, *_once(t.caution for t in rows)]


def _once(said: Iterable[Say]) -> list[Say]:
    """Sentences of several cautions, each once, in one paragraph."""
    seen: dict[str, Say] = {}
    for caution in said:
        for sentence in re.split(r"(?<=[.!])\s+", caution.t):
            if sentence:
                seen.setdefault(Say(sentence, caution.v).text("metric"), Say(sentence, caution.v))
    return [together("", list(seen.values()), "", " ")] if seen else []


def load(rows: Sequence[tuple[DayTask, float]]) -> list[Say]:
    """What to load the night before, of tasks with how much of each is done on the day: posts, fabric, plant, tools."""
    plant = sorted({plant_kinds()[p].title for t, _ in rows for p in t.of.plant})
    tools = sorted({tool for t, _ in rows for tool in t.tools})
    much: dict[tuple[str, str], float] = {}
    for t, quantity in rows:
        if t.of.carries:
            much[t.of.carries, t.unit] = much.get((t.of.carries, t.unit), 0.0) + quantity
    lead = [
        Say(f"{{n}} of {what}", {"n": (n, "stretch")}) if unit == "m" else Say(f"{math.ceil(n - 0.05)} {what}")
        for (what, unit), n in much.items()
    ]
    return [*lead, *([Say(", ".join(plant))] if plant else []), *([Say(", ".join(tools))] if tools else [])]


def wearing(rows: Sequence[tuple[DayTask, float]], before: Mapping[str, float]) -> list[str]:
    """Plant whose worn part is due for a new one on a day, of tasks with how much of each is done on it, counted from what it has done (``before``)."""
    done: dict[str, float] = dict(before)
    due = []
    for t, quantity in rows:
        for p in t.of.plant:
            kind = plant_kinds()[p]
            if kind.every and t.unit in SET:
                was = done.get(p, 0.0)
                done[p] = was + quantity
                if was // kind.every < done[p] // kind.every:
                    due.append(f"{kind.title}: {kind.wears} after {round(done[p] // kind.every * kind.every)} posts")
    return due


def when_words(row: Placed) -> str:
    """From when to when a task is done."""
    if row.begins.date() == row.ends.date():
        return f"{day_words(row.begins.date())}, {row.begins:%-H:%M} to {row.ends:%-H:%M}"
    return f"{moment(row.begins)} to {moment(row.ends)}"


def moment(at: datetime) -> str:
    """A time of a day in words."""
    return f"{day_words(at.date())} {at:%-H:%M}"
