"""Several jobs on one crew and its plant: what each takes of them, and where two want the same."""

from collections.abc import Mapping, Sequence
from datetime import date, datetime, time, timedelta
from itertools import pairwise

from gnomonic.core.days.crew import Crew
from gnomonic.core.days.laying import Busy
from gnomonic.core.days.placing import Placed
from gnomonic.core.days.work import DayTask


def _plant(row: Placed, crew: Crew, tasks: Mapping[str, DayTask]) -> list[str]:
    """The plant a task is done with, of what there is."""
    kind = tasks[row.key].of if row.key in tasks else None
    return [p for p in (kind.plant if kind else ()) if any(h.kind == p and h.count for h in crew.plant)]


def clashes(
    plans: Mapping[str, Sequence[Placed]], crew: Crew, tasks: Mapping[str, Mapping[str, DayTask]]
) -> list[tuple[date, str, tuple[str, ...]]]:
    """Who or what several jobs want at the same time: the day, who (an id) or what (a kind of plant), and the jobs."""
    spans: dict[tuple[str, date], list[tuple[int, int, str]]] = {}
    for job, rows in plans.items():
        for row in rows:
            plant = _plant(row, crew, tasks[job])
            for s in row.spells:
                for who in (*s.people, *plant):
                    spans.setdefault((who, s.day), []).append((s.begins, s.ends, job))
    there = {p.kind: p for p in crew.plant}
    found = []
    for (who, day), wanted in sorted(spans.items(), key=lambda kv: (kv[0][1], kv[0][0])):
        most = there[who].there(day) if who in there else 1
        edges = sorted({e for low, high, _ in wanted for e in (low, high)})
        for low, _ in pairwise(edges):
            here = [job for a, b, job in wanted if a <= low < b]
            if len(here) > most and len(set(here)) > 1:
                found.append((day, who, tuple(sorted(set(here)))))
                break
    return found


def busy_of(rows: Sequence[Placed], crew: Crew, tasks: Mapping[str, DayTask]) -> list[Busy]:
    """What a job's plan takes of people and plant, for the jobs that come after it."""
    found = []
    for row in rows:
        plant = _plant(row, crew, tasks)
        for s in row.spells:
            low, high = (datetime.combine(s.day, time()) + timedelta(minutes=m) for m in (s.begins, s.ends))
            found += [Busy(who, low, high) for who in (*s.people, *plant)]
    return found
