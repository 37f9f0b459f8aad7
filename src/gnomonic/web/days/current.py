"""A job's plan of days as it is today: placed anew where something it rests on has changed."""

import hashlib
from dataclasses import dataclass
from datetime import datetime

from gnomonic.core.days.made import Made
from gnomonic.core.errors import BadInput
from gnomonic.store import days, jobs
from gnomonic.store.jobs import Stored
from gnomonic.web.days import making
from gnomonic.web.days.inputs import Inputs, inputs
from gnomonic.web.parts import plan_of
from gnomonic.web.room import Room

SEARCH, SHEETS = "search_days", "day_sheets"


@dataclass(frozen=True, slots=True)
class Current:
    """A job with what its days are planned from and the plan; none before it has a beginning, or where none can be made (``refused``)."""

    stored: Stored
    given: Inputs
    made: Made | None
    refused: str

    @property
    def mark(self) -> str:
        """What is made further of a plan is of all it rests on and of what is where when in it."""
        return f"{self.given.stamp} {hashlib.sha256(repr(self.made and self.made.placed).encode()).hexdigest()[:12]}"


def current(state: Room, job_id: str, anew: bool = False, now: datetime | None = None) -> Current:
    """It; made from the beginning where ``anew``; as at another moment where ``now`` is given.  Raises NotThere."""
    scope = state.scope
    stored = jobs.glance(scope, job_id)
    given = inputs(scope, state.skies, stored, plan_of(state, stored), now)
    if given.plan is None:
        return Current(stored, given, None, "")
    if given.plan.made is not None and given.plan.stamp == given.stamp and not anew:
        return Current(stored, given, given.plan.made, "")
    try:
        made = making.made_now(given, anew)
    except BadInput as error:
        return Current(stored, given, None, error.sentence)
    making.keep(scope, given, made)
    return Current(stored, given, made, "")


def follow(state: Room, job_id: str) -> None:
    """Plan the jobs that go after one on what it leaves them.  Raises NotThere."""
    now = current(state, job_id)
    ids = [r.job_id for r in days.day_plans(state.scope, job_id, since=now.given.now.date())]
    for other in ids[ids.index(job_id) + 1 :]:
        current(state, other)


def queued(state: Room, job_id: str) -> str:
    """What the work on a job is called in the queue."""
    return f"{state.scope.workspace} {job_id}"


def look_further(state: Room, job_id: str) -> None:
    """Have a worker look for a better order of a job's days."""
    state.queue.put(SEARCH, queued(state, job_id), workspace=state.scope.workspace, job_id=job_id)
