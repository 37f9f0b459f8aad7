"""The demo's books: what the co-op has, who it asked, a quote that was accepted, and the change that rock made of it."""

import json
from dataclasses import replace
from datetime import date, timedelta

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.haul.prices import Seller
from gnomonic.core.haul.wares import ware_of
from gnomonic.core.log.events import Event
from gnomonic.core.plan.model import Post
from gnomonic.demo.load import holm_books
from gnomonic.standins.suppliers import HOUSES, Houses
from gnomonic.store import events, hauling, jobs
from gnomonic.store.scope import Scope
from gnomonic.web.haul.asking import read_seller
from gnomonic.web.haul.costed import Books, Costed, costed, needs_of
from gnomonic.web.haul.quoted import change_of, quote_of
from gnomonic.web.plans import PlannedJob, Plans

CUSTOMER = "the meeting of the co-op"


def fill(scope: Scope, plans: Plans, job_id: str, facts: list[Event]) -> None:
    """Say terms and stock, ask the practice suppliers, quote the job and accept it; then, where facts are given, take in what was
    found, set posts that stopped on rock in concrete, and order the change."""
    terms, held = holm_books()
    hauling.put_terms(scope, terms)
    hauling.put_held(scope, held)
    before = _job(scope, plans, job_id)
    hauling.put_sellers(scope, asked(before, ["concrete"]))
    quote = quote_of(
        plans, job_id, _costed(scope, job_id, before), "us", CUSTOMER, jobs.load(scope, job_id).version, "B"
    )
    kept = hauling.add_quote(scope, job_id, quote)
    hauling.accept(scope, "quote", kept.number, kept.revision, CUSTOMER, date.today())
    if not facts:
        return
    events.add(scope, job_id, facts, timedelta())
    for line, post in _on_rock(_job(scope, plans, job_id)):
        stored = jobs.load(scope, job_id)
        edit = {"do": "ask_post", "at_m": round(post.station_m, 3), "fill": "concrete", "line": line}
        was = _job(scope, plans, job_id)
        made = apply(was.job, read_edit(edit), plans.book())
        names = plans.after(job_id, was, made).names()
        jobs.save(replace(scope, asked=""), job_id, stored.version, made, json.dumps(edit), names)
    now = _costed(scope, job_id, _job(scope, plans, job_id))
    rows = hauling.quotes(scope, job_id)
    hauling.add_quote(scope, job_id, change_of(now, "us", rows, CUSTOMER, jobs.load(scope, job_id).version))


def _job(scope: Scope, plans: Plans, job_id: str) -> PlannedJob:
    row = jobs.load(scope, job_id)
    return plans.of(job_id, row.key, row.document, row.names)


def asked(job: PlannedJob, more: list[str]) -> list[Seller]:
    """What both practice suppliers ask for the job's wares today."""
    keys, books = [*(ware_of(n.need).key for n in needs_of(job)), *more], Houses()
    return [read_seller(h.name, books.prices(h.name, keys), set(keys), "practice") for h in HOUSES]


def _costed(scope: Scope, job_id: str, job: PlannedJob) -> Costed:
    rows, sellers, terms = hauling.on_hand(scope), hauling.sellers(scope), hauling.terms(scope)
    assert terms is not None
    return costed(job, Books(rows, hauling.lots(rows, job_id), sellers, sellers, terms, True))


def _on_rock(job: PlannedJob) -> list[tuple[str, Post]]:
    """Posts whose holes stopped on rock."""
    return [
        (it.fence.id, p) for it in job.all() for p in it.plan.posts if p.built is not None and p.built.met == "rock"
    ]
