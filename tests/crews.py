"""Crews and tasks written short, and a checker of plans of days that knows nothing of how they are made."""

from datetime import date, datetime, time, timedelta

from gnomonic.core.days.book import plant_kinds, stops
from gnomonic.core.days.crew import Crew, Person, Plant
from gnomonic.core.days.laying import Given, lay
from gnomonic.core.days.placing import placed
from gnomonic.core.days.solve import quick
from gnomonic.core.days.task import DayTask

MONDAY = date(2026, 3, 2)  # a Monday
PUBLISHED_STAND_OFF_MIN = 30  # half an hour after the last thunder


def person(name, days=range(5), skills=("machines", "wire"), begins="7:30", ends="16:30", **more):
    """Somebody who comes on some days of the week."""
    low, high = (time(*map(int, t.split(":"))) for t in (begins, ends))
    return Person(id=name.lower(), name=name, days=tuple(days), skills=tuple(skills), begins=low, ends=high, **more)


def crew(*people, plant=("auger", "driver", "loader", "pullers"), **more):
    """A crew; two who know everything where nobody is named."""
    there = tuple(p if isinstance(p, Plant) else Plant(kind=p) for p in plant)
    return Crew(people=people or (person("Ann"), person("Ben")), plant=there, **more)


def job(kind, hours, after=(), key="", line="A", side=0, least=1, unit="post", **more):
    """A task of so many hours of one person; what comes before it as keys or (key, days)."""
    minutes = hours * 60
    links = tuple(a if isinstance(a, tuple) else (a, 0) for a in after)
    given = {"quantity": 10.0, "from_m": 0.0, "to_m": 10.0, **more}
    spread = given.pop("spread", (1.0, 1.0))
    made = (minutes * spread[0], minutes, minutes * spread[1])
    name = key or f"{line}.{side + 1}.{kind}"
    return DayTask(
        name,
        line,
        side,
        kind,
        given.pop("quantity"),
        unit,
        made,
        least,
        links,
        given.pop("from_m"),
        given.pop("to_m"),
        **given,
    )


def planned(tasks, of=None, start=MONDAY, **given):
    """A plan of days by task."""
    laid = lay(tasks, of or crew(), Given(start, **given))
    return {p.key: p for p in placed(laid, quick(laid.problem, 0.2, laid.worth, tries=60))}


def worked_off(scope):
    """All that waits in the queue, done; in a thread of its own, since a browser test has a loop running."""
    import asyncio
    from concurrent.futures import ThreadPoolExecutor

    from gnomonic.store.queue import work
    from gnomonic.working import tasks_on

    with ThreadPoolExecutor(1) as beside:
        beside.submit(lambda: asyncio.run(work(scope.engine, tasks_on(scope.engine), wait=False))).result()


def minutes_of(t):
    return t.hour * 60 + t.minute


def check_plan(rows, tasks, of, given):
    """All that has to hold of a plan of days, read from who is where when."""
    people = {p.id: p for p in of.people}
    spans = {}
    for row in rows.values():
        task = next(t for t in tasks if t.key == row.key)
        begins = min(datetime.combine(s.day, time()) + timedelta(minutes=s.begins) for s in row.spells)
        ends = max(datetime.combine(s.day, time()) + timedelta(minutes=s.ends) for s in row.spells)
        assert (row.begins, row.ends) == (begins, ends)
        assert task.crew <= row.hands <= max(task.crew, task.of.hands)
        for s in row.spells:
            assert len(set(s.people)) == row.hands, "as many as are needed, all the while"
            _there(s, people, of)
            _weather(s, task, given)
            if task.of.skill and set(task.of.plant) <= set(row.plant):
                assert any(task.of.skill in people[w].skills for w in s.people)
            for who in s.people:
                spans.setdefault(who, []).append((s.day, s.begins, s.ends, row.key))
            for what in row.plant:
                spans.setdefault(what, []).append((s.day, s.begins, s.ends, row.key))
        if task.of.digs and task.line in given.marks:
            assert row.begins.date() >= given.marks[task.line], "nothing is dug before the marks"
        assert row.begins.date() >= given.start
        for key, days in task.after:
            if key in rows:
                assert row.begins >= rows[key].ends
                assert row.begins.date() >= rows[key].ends.date() + timedelta(days=days), "waits run on the calendar"
    _nobody_twice(spans, of)


def _there(spell, people, of):
    """Everybody is there on that day and at those hours, and not at the break."""
    assert not of.closed(spell.day)
    for who in spell.people:
        p = people[who]
        assert p.there(spell.day)
        assert minutes_of(p.begins) <= spell.begins < spell.ends <= minutes_of(p.ends)
    rest = minutes_of(of.rest_from)
    assert not of.rest_min or spell.ends <= rest or spell.begins >= rest + of.rest_min


def _weather(spell, task, given):
    """Nothing is done in weather it can't be done in."""
    before = None
    for w in given.weather:
        if w.day == spell.day:
            wet_before = before is not None and before.rain_mm >= stops()["downpour"].rain_mm
            bad = {
                "downpour": w.rain_mm >= 15,
                "mud": w.rain_mm >= 8 or wet_before,
                "frost_concrete": w.night_c < 0 and task.poured,
                "wind": w.wind_ms > 14,
                "heat": w.noon_c > 38,
            }
            assert not [k for k in task.of.stops if bad.get(k)], (task.key, spell.day)
            if "lightning" in task.of.stops and w.thunder_from:
                off = minutes_of(w.thunder_from), minutes_of(w.thunder_until) + PUBLISHED_STAND_OFF_MIN
                assert spell.ends <= off[0] or spell.begins >= off[1]
        before = w


def _nobody_twice(spans, of):
    """At no moment is anybody at two things, or more plant in use than there is."""
    for who, rows in spans.items():
        most = next((p.count for p in of.plant if p.kind == who), 1)
        assert who in plant_kinds() or most == 1
        for day, low, _, _ in rows:
            at_once = [key for d, a, b, key in rows if d == day and a <= low < b]
            assert len(at_once) <= most, (who, day, at_once)
