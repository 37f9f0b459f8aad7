"""What is told of days, of a log and of sites, as a person reads it (``told.py``)."""

from collections import Counter
from datetime import UTC, date, datetime, time, timedelta

from crews import MONDAY, crew, person
from told import DAY

from gnomonic.core.choose.siting import best_places, sites
from gnomonic.core.days.carrying import carried_on
from gnomonic.core.days.crew import Off, Plant
from gnomonic.core.days.laying import Busy, Given, lay
from gnomonic.core.days.logged import logged
from gnomonic.core.days.made import Chances, Made
from gnomonic.core.days.placing import placed
from gnomonic.core.days.progress import Tick, drifts, rates, usual_minutes
from gnomonic.core.days.sharing import busy_of, clashes
from gnomonic.core.days.simulate import simulate
from gnomonic.core.days.solve import quick
from gnomonic.core.days.weather import Weather
from gnomonic.core.days.words import (
    cautions,
    chain,
    chances_words,
    hands_words,
    held_by,
    load,
    sky_words,
    wearing,
    when_words,
    why_later,
)
from gnomonic.core.days.work import tasks_of
from gnomonic.core.log.events import Event, Kept
from gnomonic.core.log.facts import facts
from gnomonic.core.plan import road
from gnomonic.core.pull.climate import climate
from gnomonic.core.snags.all import snags
from gnomonic.core.tell.field_log import book_of, troubles, words_of
from gnomonic.core.tell.tag import post_tag

SOME = crew(
    person("Ann", range(6)),
    person("Ben", range(4), ends="12:30"),
    person("Cy", [5, 6], skills=["wire"]),
    off=(Off(first=date(2026, 3, 9), last=date(2026, 3, 10), why="hay"),),
    plant=("driver", Plant(kind="auger", hired=True), "pullers"),
)
SKIES = [
    Weather(day=MONDAY + timedelta(days=k), night_c=n, noon_c=m, rain_mm=r, wind_ms=w, **more)
    for k, (n, m, r, w, more) in enumerate(
        [(5, 11, 0, 4, {}), (-6, -1, 0, 3, {}), (4, 9, 30, 7, {}), (6, 12, 2, 19, {}), (9, 21, 6, 5, {"thunder_from": time(14), "thunder_until": time(15)})]
    )
]  # fmt: skip


def days_told(it, made, units="us"):
    """A line's plan of days for a small crew: frost, downpour, gale and thunder forecast, something pinned, something done."""
    tasks = tasks_of(it, made)
    by_key = {t.key: t for t in tasks}
    first = next(t for t in tasks if t.of.digs)
    last = tasks[-2]
    given = Given(
        MONDAY, marks={it.id: date(2026, 3, 4)}, weather=SKIES, done={tasks[0].key: 1.0, first.key: 0.4},
        done_at={tasks[0].key: datetime(2026, 3, 1, 16), first.key: datetime(2026, 3, 1, 16)}, rates={first.kind: 1.5},
        pins={last.key: datetime(2026, 3, 24, 10)}, busy=[Busy("ann", datetime(2026, 3, 5, 7), datetime(2026, 3, 5, 12))],
    )  # fmt: skip
    laid = lay(tasks, SOME, given)
    solved = quick(laid.problem, 60.0, laid.worth, tries=12)
    rows = placed(laid, solved)
    yield "days", [(p.key, when_words(p), p.hands, p.by, p.plant, [(s.day, s.begins, s.ends, s.people) for s in p.spells]) for p in rows]  # fmt: skip
    seasons = simulate(laid, solved, climate("oceanic"), SKIES, seed=3, count=60)
    ends = [Chances(half=a, nine=b) for a, b in ((seasons.half, seasons.nine), seasons.weather, seasons.rates)]
    when = rows[-1].ends
    kept = Made(made_at=when, state="quick", placed=tuple(rows), ends=when, fair=when - timedelta(days=1), bound=when, proven=False, both=ends[0], weather=ends[1], rates=ends[2], seasons=60, hired=2, forecast=5)  # fmt: skip
    left = {t.key: t.minutes[1] for t in tasks}
    yield "of the end", [held_by(kept), chances_words(ends[0], 60), why_later(kept), *chain(kept, by_key), *hands_words(tasks, left)]  # fmt: skip
    for day in sorted({s.day for p in rows for s in p.spells}):
        here = [by_key[p.key] for p in rows if any(s.day == day for s in p.spells)]
        yield f"day {day}", [*cautions(day, here, SKIES, {it.id: date(2026, 3, 4)}), *load([(t, 0.5) for t in here]), *wearing([(t, t.quantity) for t in here], {"driver": 480.0, "auger": 50.0})]  # fmt: skip
    yield "skies", [sky_words(w) for w in SKIES]
    ticks = [Tick(id=f"t{n}", task=t.key, kind=t.kind, share=1.0, hours=t.minutes[1] / 60 * (2 - n % 2), quantity=t.quantity, minutes=t.minutes[1], at=when + timedelta(hours=n)) for n, t in enumerate(tasks * 3)]  # fmt: skip
    usual = usual_minutes(tasks, SOME)
    found = rates(SOME, usual, [ticks])
    yield "drift", [(found, drifts(found, usual, {t.kind: t.unit for t in tasks}))]
    again = carried_on(laid, rows, {last.key: datetime(2026, 3, 30, 8)})
    yield "carried on", [again and (list(again.starts), list(again.ends), again.makespan)]
    yield "shared", [clashes({"here": rows, "there": rows[::2]}, SOME), [(b.who, b.begins, b.ends) for b in busy_of(rows[:3])]]  # fmt: skip


def log_told(it, units="us"):
    """A line with something of every kind written of its posts."""
    plain = road.plan(it.job).lines[it.id]
    posts = [p for p in plain.posts if not p.fixed][:9]
    ends = [p for p in plain.posts if p.fixed]
    p = posts
    rows = [
        (p[0], "depth", {"reached_m": 0.3, "met": "rock", "plumb": False}), (p[0], "proud", {"proud_m": 0.4}), (p[1], "depth", {"reached_m": 0.55, "met": "root"}),
        (p[1], "accept", {}), (p[2], "depth", {"reached_m": 0.7}), (p[2], "cut", {}), (p[3], "moved", {"along_m": 0.2, "across_m": -0.1}), (p[4], "redug", {"along_m": 0.3}),
        (p[4], "depth", {"reached_m": 0.76}), (p[5], "pilot", {"reached_m": 0.4, "met": "pipe"}), (p[6], "found", {"what": "service", "reached_m": 0.5}), (p[6], "settled", {"down_m": 0.06}),
        (p[7], "gap", {"gap_m": 0.5}), (p[7], "gap", {"gap_m": 0.45}), (p[8], "found", {"what": "rock"}), (p[0], "depth", {"reached_m": 0.32, "met": "rock"}),
        (ends[0], "depth", {"reached_m": 0.5, "met": "water"}), (ends[0], "clear", {"clear_m": 2.2, "ahead": True, "outer_m": 0.2}), (ends[0], "pulled", {"left_top": 0.5, "left_bottom": 0.4, "force_n": 900.0, "temp_c": 8.0}),
        (ends[-1], "pulled", {"force_n": 220.0, "push_m": 0.1, "bay_m": 5.0}), (ends[0], "gate", {"thing": "g1", "gap_m": 0.09}), (ends[0], "hung", {}), (None, "miss", {"note": "bar slipped"}), (None, "round", {"way": "spring"}), (p[1], "repair", {"way": "splice", "count": 2, "long_m": 3.0}), (None, "thunder", {}),
        (None, "hazard", {"what": "overhead"}), (None, "brief", {"names": "Ann, Ben"}), (None, "dig_anyway", {"note": "dug by hand"}), (p[1], "note", {"note": "gate left open"}),
    ]  # fmt: skip
    kept = []
    for n, (post, kind, more) in enumerate(rows):
        where = {"post": post.name, "at_m": post.station_m} if post else {}
        event = Event(id=f"00000000-0000-4000-8000-{n:012d}", device="phone", seq=n, clock=datetime(2026, 5, 4, 8, n, tzinfo=UTC), line=it.id, kind=kind, author="Ann" if n % 3 else "Ben", **where, **more)  # fmt: skip
        kept.append(Kept(event, timedelta(minutes=n % 2)))
    yield from folded(it, kept, (*p, ends[0]), units)


def folded(it, kept, posts, units="us"):
    """What events come to: in words, on the plan, in its snags and days."""
    known = facts(kept)
    made = road.plan(it.job, known=known.built).lines[it.id]
    yield "events", [words_of(k.event) for k in kept]
    yield "troubles", troubles(it, made, known, kept[:2])
    yield "book", [book_of(it, made, known)]
    yield "snags", snags(it, made, DAY)
    for number in sorted({q.index for q in posts if q.index < len(made.posts)}):
        tag = post_tag(it, made, number)
        yield f"post {made.posts[number].name}", [(f.name, f.value) for f in tag.facts if "tape" not in f.name.lower()]
    yield "logged", [sorted(logged(tasks_of(it, made), road.plan(it.job, known=known.built), known).items())]


def sites_told(it, made):
    """Where a gate could hang instead, and why not elsewhere."""
    for gate in made.gates:
        low, high = max(0.0, gate.at_m - 30), gate.at_m + 30
        found = sites(it, made, gate, low, high)
        yield f"sites of {gate.name}", [(round(float(found.at_m[k]), 3), found.ruled_out[k], float(found.gap_m[k]), float(found.bottom_m[k])) for k in range(0, len(found.at_m), 7)]  # fmt: skip
        yield f"why not, {gate.name}", sorted(Counter(found.ruled_out).items())
        yield f"places of {gate.name}", [(p.gate.at_m, p.posts, p.cost) for p in best_places(it, made, gate, found)]  # fmt: skip
