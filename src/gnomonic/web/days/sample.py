"""The demo's days: the co-op's crew, two of its jobs begun, and what was ticked in the first days."""

from datetime import datetime, time, timedelta

from gnomonic.core.days.laying import usual_minutes_of
from gnomonic.core.days.made import Asked
from gnomonic.core.days.progress import Tick
from gnomonic.demo.load import holm_crew
from gnomonic.store import days
from gnomonic.web.days.current import Current, current, look_further
from gnomonic.web.days.inputs import local_now
from gnomonic.web.room import Room

DAYS_BACK = 3


def fill(state: Room, job_id: str, other_id: str) -> None:
    """Say the crew, begin the co-op's ground some days ago and a smaller job after it, tick what was done."""
    scope, (crew, done) = state.scope, holm_crew()
    days.put_crew(scope, crew)
    today = local_now(crew).date()
    first = today - timedelta(days=DAYS_BACK + (today - timedelta(days=DAYS_BACK)).weekday() % 7)
    days.ask_days(scope, job_id, Asked(start=first, rank=1))
    now = current(state, job_id, anew=True, now=datetime.combine(first, time(7)))
    days.add_ticks(scope, job_id, _ticks(now, done))
    current(state, job_id)
    days.ask_days(scope, other_id, Asked(start=first + timedelta(days=14), rank=2))
    current(state, other_id, anew=True)
    for each in (job_id, other_id):
        look_further(state, each)


def _ticks(now: Current, done: list[dict[str, object]]) -> list[Tick]:
    """What was ticked: the first tasks of each kind, on the evenings since the job began."""
    found: list[Tick] = []
    names = tuple(p.name for p in now.given.crew.people[:2])
    begun = datetime.combine(now.given.asked.start, time(16, 15))
    for row in done:
        keys = [p.key for p in now.made.placed if now.given.tasks[p.key].kind == row["kind"]] if now.made else []
        for key in keys[: int(str(row["count"]))]:
            task = now.given.tasks[key]
            at = min(begun + timedelta(days=len(found) % DAYS_BACK), now.given.now)
            found.append(
                Tick(
                    id=f"demo-{len(found)}", task=key, kind=task.kind, share=1.0, hours=round(task.minutes[1] * float(str(row["took"])) / 60, 2), quantity=task.quantity,
                    minutes=usual_minutes_of(task, now.given.crew), by=names, at=at,
                )
            )  # fmt: skip
    return found
