"""What is taken out of days: the plan as JSON, days for a calendar."""

from fastapi import APIRouter, Request
from fastapi.responses import JSONResponse, Response

from gnomonic.core.days.crew import Person
from gnomonic.core.errors import BadInput
from gnomonic.formats.ics import Event, calendar_ics
from gnomonic.web.days.board import line_name
from gnomonic.web.days.current import SEARCH, Current, current, queued
from gnomonic.web.parts import file_out
from gnomonic.web.problems import a_file
from gnomonic.web.room import room

router = APIRouter()
ICS = "text/calendar"


@router.get("/api/v1/jobs/{job_id}/days")
def days_json(request: Request, job_id: str) -> Response:
    """A job's plan of days: every task with when and by whom, when it ends, what is proven; null before it has a beginning."""
    now = current(room(request), job_id)
    looking = room(request).queue.waiting(SEARCH, queued(room(request), job_id))
    made = now.made.model_dump(mode="json") if now.made else None
    return JSONResponse(
        {
            "stamp": now.given.plan.stamp if now.given.plan else "",
            "looking": looking,
            "refused": now.refused,
            "plan": made,
        }
    )


@router.get("/jobs/{job_id}/days.ics", **a_file(ICS))
def days_ics(request: Request, job_id: str, who: str = "") -> Response:
    """A job's days for a calendar, all of them or one person's."""
    now = current(room(request), job_id)
    events = job_events(now, who)
    return file_out(calendar_ics(now.stored.name, events, now.given.crew.zone), ICS, now.stored.name, "-days.ics")


def job_events(now: Current, who: str = "") -> list[Event]:
    """What a calendar shows of a job: every task on every day it is worked at."""
    people: dict[str, Person] = {p.id: p for p in now.given.crew.people}
    if who and who not in people:
        raise BadInput("who", f"nobody is called “{who[:24]}” here; there are: {', '.join(people) or 'none'}")
    found = []
    for p in now.made.placed if now.made else ():
        task = now.given.tasks.get(p.key)
        for day in dict.fromkeys(s.day for s in p.spells):
            spells = [s for s in p.spells if s.day == day and (not who or who in s.people)]
            if task is None or not spells:
                continue
            names = ", ".join(dict.fromkeys(people[w].name for s in spells for w in s.people if w in people))
            where = line_name(now.given, task.line) + (f", side {task.side + 1}" if task.side is not None else "")
            found.append(
                Event(
                    f"{now.stored.job_id}-{p.key}-{day}",
                    day,
                    spells[0].begins,
                    spells[-1].ends,
                    f"{task.of.what}: {where}",
                    names,
                    task.caution.text("metric"),
                )
            )
    return found
