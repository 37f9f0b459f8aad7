"""Several jobs on one crew and its plant: what each takes of them, and where two want the same."""

from collections.abc import Mapping, Sequence
from datetime import date, datetime, time, timedelta

from gnomonic.core.days.crew import Crew
from gnomonic.core.days.laying import Busy
from gnomonic.core.days.placing import Placed


def clashes(plans: Mapping[str, Sequence[Placed]], crew: Crew) -> list[tuple[date, str, tuple[str, ...]]]:
    """Who or what several jobs want at the same time: the day, who (an id) or what (a kind of plant), and the jobs."""
    spans: dict[tuple[str, date], list[tuple[int, int, str]]] = {}
    for job, rows in plans.items():
        for row in rows:
            for s in row.spells:
                for who in (*s.people, *row.plant):
                    spans.setdefault((who, s.day), []).append((s.begins, s.ends, job))
    there = {p.kind: p for p in crew.plant}
    found = []
    for (who, day), wanted in sorted(spans.items(), key=lambda kv: (kv[0][1], kv[0][0])):
        most = there[who].there(day) if who in there else 1
        for low in sorted({low for low, _, _ in wanted}):
            here = [job for a, b, job in wanted if a <= low < b]
            if len(here) > most and len(set(here)) > 1:
                found.append((day, who, tuple(sorted(set(here)))))
                break
    return found


def busy_of(rows: Sequence[Placed]) -> list[Busy]:
    """What a job's plan takes of people and plant, for the jobs that come after it."""
    found = []
    for row in rows:
        for s in row.spells:
            low, high = (datetime.combine(s.day, time()) + timedelta(minutes=m) for m in (s.begins, s.ends))
            found += [Busy(who, low, high) for who in (*s.people, *row.plant)]
    return found
