"""Where the marks of a job's lines stand today: news of its own, whatever issue of the plan a phone has."""

from datetime import date

from gnomonic.core.ground.course import course
from gnomonic.core.ground.marking import state_of
from gnomonic.core.job.document import Job
from gnomonic.core.job.reading import read_job
from gnomonic.core.kept import KeptBy
from gnomonic.store import jobs
from gnomonic.store.scope import Scope

Marks = dict[str, dict[str, str]]
_kept: KeptBy[Marks] = KeptBy(64)


def of_lines(job: Job, today: date) -> Marks:
    """By line: the state, until when it holds, the ticket."""
    m = job.marking
    more = {"asked": m.ticket if m else "", "until": m.expires_on.isoformat() if m and m.expires_on else ""}
    return {
        line.id: {"state": state_of(m, course(line.measured), today), **more}
        for line in job.lines
        if line.standing != "there"
    }


def marks_today(scope: Scope, job_id: str) -> Marks:
    """Those of a stored job; its document is read only where it is another than the last time.  Raises NotThere."""
    stored, today = jobs.glance(scope, job_id), date.today()
    return _kept.of(
        scope.engine, (stored.digest, today), lambda: of_lines(read_job(jobs.document(scope, stored.version)), today)
    )
