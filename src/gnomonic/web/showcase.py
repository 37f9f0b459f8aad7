"""The demo co-op put into a workspace: its jobs, books, days, accounts and log, with what the list shows of each."""

from collections.abc import Callable

from gnomonic.demo.field import begun
from gnomonic.demo.load import OLD, demo_jobs, holm_facts
from gnomonic.store import jobs
from gnomonic.web.days import sample as crews
from gnomonic.web.field import sample as logs
from gnomonic.web.haul import sample as books
from gnomonic.web.home import summary
from gnomonic.web.parts import plan_of
from gnomonic.web.room import Room


def fill(here: Room, tell: Callable[[str], None] = lambda words: None) -> list[str]:
    """Put it in; the jobs' ids, the co-op's own ground last."""
    scope, made = here.scope, demo_jobs()
    ids = [jobs.create(scope, job) for job in made]
    books.fill(scope, here.plans, ids[-1], holm_facts(made[-1], begun()))
    tell("planning the co-op's days")
    crews.fill(here, ids[-1], ids[0])
    tell("writing a week of its log")
    logs.fill(here, ids[-1], ids[OLD])
    for job_id in ids:
        stored = jobs.glance(scope, job_id)
        summary.keep(scope, job_id, stored.version, plan_of(here, stored))
    return ids
