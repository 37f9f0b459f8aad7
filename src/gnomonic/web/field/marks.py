"""Where the marks of a job's lines stand today: news of its own, whatever issue of the plan a phone has."""

from datetime import date
from functools import lru_cache

from gnomonic.core.ground.course import course
from gnomonic.core.ground.marking import state_of
from gnomonic.core.job.document import Job
from gnomonic.core.job.reading import read_job
from gnomonic.store import jobs
from gnomonic.store.scope import Scope

Marks = dict[str, dict[str, str]]


def of_lines(job: Job, today: date) -> Marks:
    """By line: the state, until when it holds, the ticket."""
    m = job.marking
    more = {"asked": m.ticket if m else "", "until": m.expires_on.isoformat() if m and m.expires_on else ""}
    return {
        line.id: {"state": state_of(m, course(line.measured), today), **more}
        for line in job.lines
        if line.standing != "there"
    }


@lru_cache(maxsize=64)
def _of(digest: str, document: str, today: date) -> Marks:
    return of_lines(read_job(document), today)


def marks_today(scope: Scope, job_id: str) -> Marks:
    """Those of a stored job.  Raises NotThere."""
    stored = jobs.load(scope, job_id)
    return _of(stored.digest, stored.document, date.today())
