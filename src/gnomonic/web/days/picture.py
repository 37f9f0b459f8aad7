"""The lines across and the days down: every task a stroke along the stretch it covers, so that crews that would meet are seen."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from gnomonic.core.days.book import stops
from gnomonic.core.days.crew import Crew
from gnomonic.core.days.placing import Placed
from gnomonic.core.days.task import DayTask
from gnomonic.core.days.weather import Weather
from gnomonic.core.days.words import sky_words
from gnomonic.core.plan.model import Plan
from gnomonic.core.units import System

WIDE, LEFT, TOP = 960.0, 116.0, 46.0
DAY, CLOSED, GAP = 46.0, 13.0, 40.0
LEAST_COLUMN, BETWEEN = 26.0, 6.0
SETTLING = "posts settle, nothing is waiting for hands"
LETTER = 6.2  # how wide a letter of a label is, about
THICK = {"pulling": 7.0, "timber": 5.0, "steel": 5.0, "turf": 5.0, "soil": 5.0}


@dataclass(frozen=True, slots=True)
class Column:
    """A line across the picture, with where its sides meet."""

    line: str
    name: str
    x: float
    wide: float
    length_m: float
    meets: tuple[float, ...]

    def at(self, station_m: float) -> float:
        """Where a station is."""
        return self.x + self.wide * min(1.0, max(0.0, station_m / self.length_m if self.length_m else 0.0))


@dataclass(frozen=True, slots=True)
class Row:
    """A day down the picture, or days in which nothing is done as one."""

    first: date
    last: date
    y: float
    high: float
    kind: str  # day | closed | gap
    text: str
    opens: int
    closes: int

    def at(self, minute: int) -> float:
        """Where a time of the day is."""
        share = (minute - self.opens) / max(1, self.closes - self.opens)
        return self.y + 2 + (self.high - 4) * min(1.0, max(0.0, share))


@dataclass(frozen=True, slots=True)
class Stroke:
    """A task as it is drawn: its points, what kind of work it is drawn as, how thick, a label where it has room."""

    key: str
    points: str
    group: str
    thick: float
    day: date
    title: str
    done: bool
    tight: bool
    hands: int
    label: str = ""
    lx: float = 0.0
    ly: float = 0.0


@dataclass(frozen=True, slots=True)
class Picture:
    """All of it, in units of the view box."""

    wide: float
    high: float
    columns: list[Column]
    rows: list[Row]
    strokes: list[Stroke]
    now_y: float | None
    skies: dict[date, str]


def picture(
    plans: Mapping[str, Plan], names: Mapping[str, str], placed: Sequence[Placed], tasks: Mapping[str, DayTask], crew: Crew, weather: Sequence[Weather],
    now: datetime, done: Mapping[str, float], units: System, only: str = "",
) -> Picture:  # fmt: skip
    """The picture of a plan of days, of one line where it is named."""
    shown = [p for p in placed if p.spells and p.key in tasks and (not only or tasks[p.key].line == only)]
    columns = _columns({k: p for k, p in plans.items() if not only or k == only}, names)
    by_line = {c.line: c for c in columns}
    rows = _rows(shown, crew, weather, "nothing on this line" if only else SETTLING)
    strokes = _strokes(shown, tasks, by_line, rows, done)
    high = rows[-1].y + rows[-1].high + 8 if rows else TOP + 40
    now_y = next((r.at(now.hour * 60 + now.minute) for r in rows if r.kind == "day" and r.first == now.date()), None)
    return Picture(
        LEFT + WIDE + 8, high, columns, rows, strokes, now_y, {w.day: sky_words(w).text(units) for w in weather}
    )


def _columns(plans: Mapping[str, Plan], names: Mapping[str, str]) -> list[Column]:
    total = sum(p.course.length_m for p in plans.values()) or 1.0
    room = WIDE - BETWEEN * (len(plans) - 1)
    spare = max(0.0, room - LEAST_COLUMN * len(plans))
    found, x = [], LEFT
    for k, plan in plans.items():
        wide = LEAST_COLUMN + spare * plan.course.length_m / total
        long = plan.course.length_m
        meets = sorted({r.start.station_m for r in plan.runs[1:]} | {r.end.station_m for r in plan.runs[:-1]})
        found.append(Column(k, names[k], x, wide, long, tuple(x + wide * m / long for m in meets)))
        x += wide + BETWEEN
    return found


def _rows(placed: Sequence[Placed], crew: Crew, weather: Sequence[Weather], idle: str) -> list[Row]:
    """Days from the first to the last; days without work, where there are several, as one."""
    worked: dict[date, list[tuple[int, int]]] = {}
    for p in placed:
        for s in p.spells:
            worked.setdefault(s.day, []).append((s.begins, s.ends))
    if not worked:
        return []
    wet = {w.day for w in weather if w.rain_mm >= (stops()["mud"].rain_mm or 0)}
    found, y, day, last = list[Row](), TOP, min(worked), max(worked)
    opens = min(b for rows in worked.values() for b, _ in rows)
    closes = max(e for rows in worked.values() for _, e in rows)
    while day <= last:
        until = day
        while until not in worked and until + timedelta(days=1) not in worked and until < last:
            until += timedelta(days=1)
        if day in worked:
            text = "rain likely" if day in wet else ""
            found.append(Row(day, day, y, DAY, "day", text, opens, closes))
        elif (until - day).days >= 3:
            found.append(Row(day, until, y, GAP, "gap", f"{(until - day).days + 1} days: {idle}", opens, closes))
        else:
            for k in range((until - day).days + 1):
                on = day + timedelta(days=k)
                why = crew.closed(on) or ("nobody comes" if not crew.there(on) else "nothing to do")
                found.append(Row(on, on, y, CLOSED, "closed", why, opens, closes))
                y += CLOSED
            y -= CLOSED
        y += found[-1].high
        day = until + timedelta(days=1)
    return found


def _strokes(
    placed: Sequence[Placed],
    tasks: Mapping[str, DayTask],
    columns: Mapping[str, Column],
    rows: Sequence[Row],
    done: Mapping[str, float],
) -> list[Stroke]:
    by_day = {r.first: r for r in rows if r.kind == "day"}
    found, boxes = list[Stroke](), list[tuple[float, float, float, float]]()
    for p in sorted(placed, key=lambda p: -sum(s.ends - s.begins for s in p.spells)):
        task = tasks[p.key]
        column = columns[task.line]
        total = sum(s.ends - s.begins for s in p.spells)
        at, points = 0, list[tuple[float, float]]()
        low, high = column.at(task.from_m), column.at(task.to_m)
        if high - low < 5:
            low, high = low - 2.5, low + 2.5
        for s in p.spells:
            row = by_day.get(s.day)
            if row is None:
                continue
            for minute, share in ((s.begins, at / total), (s.ends, (at + s.ends - s.begins) / total)):
                points.append((low + (high - low) * share, row.at(minute)))
            at += s.ends - s.begins
        if not points:
            continue
        found.append(
            Stroke(
                p.key, " ".join(f"{x:.1f},{y:.1f}" for x, y in points), task.of.group, THICK.get(task.of.group, 4.0), p.spells[0].day,
                f"{task.line}: {task.of.what}", done.get(p.key, 0.0) >= 1, bool(p.by), p.hands, *_label(task.of.what, points, boxes),
            )
        )  # fmt: skip
    return found[::-1]


def _label(
    word: str, points: Sequence[tuple[float, float]], boxes: list[tuple[float, float, float, float]]
) -> tuple[str, float, float]:
    """A label over the middle of a stroke, where it is wide enough and no other label is."""
    wide = LETTER * len(word)
    left, right = points[0][0], points[-1][0]
    if right - left < wide * 0.8:
        return "", 0, 0
    x = (left + right - wide) / 2
    middle = points[len(points) // 2 - 1][1], points[len(points) // 2][1]
    y = sum(middle) / 2 - 5
    box = (x - 3, y - 10, x + wide + 3, y + 3)
    if any(box[0] < b[2] and b[0] < box[2] and box[1] < b[3] and b[1] < box[3] for b in boxes):
        return "", 0, 0
    boxes.append(box)
    return word, x, y
