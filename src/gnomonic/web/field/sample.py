"""The demo's field: accounts of the crew, marks that are in, the plan given out, a week of log with trouble in it, an old fence with its book."""

import hashlib
import json
from dataclasses import replace
from datetime import UTC, datetime, timedelta

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.log.events import Event
from gnomonic.demo.field import CREW, late, marks, picture, stood, week
from gnomonic.demo.load import PLACE
from gnomonic.formats.photo import shown
from gnomonic.store import accounts, events, field, jobs, people
from gnomonic.web.field.routes import give_out
from gnomonic.web.parts import plan_of
from gnomonic.web.room import Room


def fill(here: Room, job_id: str, old_id: str) -> None:
    """All of it."""
    scope, now = here.scope, datetime.now(UTC)
    accounts.make_workspace(scope.engine, scope.workspace, PLACE)
    them = {login: people.add_person(scope, f"{login}@larkspur.example", name, role) for login, name, role in CREW}
    stored = jobs.load(scope, job_id)
    job = plan_of(here, stored)
    made = job.job
    for edit in marks(now.date()):
        made = apply(made, read_edit(edit), here.plans.book())
    stored = jobs.save(
        scope,
        job_id,
        stored.version,
        made,
        json.dumps({"do": "take_marks"}),
        here.plans.after(job_id, job, made).names(),
    )
    job = plan_of(here, stored)
    body = picture()
    digest = hashlib.sha256(body).hexdigest()
    give_out(replace(here, scope=replace(scope, actor="Tamsin")), stored, job)
    _write(here, job_id, week(job.plan, now, digest))
    kept, wide, high = shown(digest, body)
    field.keep_photo(scope, job_id, digest, wide, high, kept)
    people.take_away(scope, them["fern"])
    events.add(replace(scope, actor="Fern"), job_id, late(job.plan, now), timedelta(), events.WAIT)
    _write(here, old_id, stood(plan_of(here, jobs.load(scope, old_id)).plan, now.date()))


def _write(here: Room, job_id: str, rows: list[Event]) -> None:
    """Each phone's events, as who wrote them."""
    for who in dict.fromkeys(e.author for e in rows):
        events.add(replace(here.scope, actor=who), job_id, [e for e in rows if e.author == who], timedelta())
