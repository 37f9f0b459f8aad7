"""A job with its stock, its suppliers and its terms put together: what every page of money starts from."""

import hashlib
from dataclasses import dataclass, replace
from datetime import date

from fastapi import Request

from gnomonic.core.haul.costing import Cost, cost_of
from gnomonic.core.haul.money import show
from gnomonic.core.haul.prices import Seller, of_currency
from gnomonic.core.haul.supply import Lot, Supply, supply
from gnomonic.core.haul.takeoff import JobNeed, job_take_off
from gnomonic.core.haul.terms import Terms
from gnomonic.core.kept import KeptBy
from gnomonic.core.units import System
from gnomonic.store import hauling, jobs
from gnomonic.store.hauling import OnHand
from gnomonic.store.jobs import Stored
from gnomonic.web.parts import planned_job
from gnomonic.web.plans import PlannedJob
from gnomonic.web.room import room

COSTS_KEPT = 16
_costed: "KeptBy[Costed]" = KeptBy(COSTS_KEPT)  # by the plan itself, which is kept by what it was made of


@dataclass(frozen=True, slots=True)
class Books:
    """What a workspace buys and charges by, as a job sees it."""

    rows: list[OnHand]
    lots: list[Lot]
    everyone: list[Seller]
    sellers: list[Seller]
    terms: Terms
    said: bool

    @property
    def mark(self) -> str:
        """A digest of the stock, prices and terms that a job's sums use."""
        parts = [f"{lot.held.model_dump_json()} {lot.free}" for lot in self.lots]
        parts += [row.model_dump_json() for row in (*self.sellers, self.terms)]
        return hashlib.sha256("\n".join(parts).encode()).hexdigest()


@dataclass(frozen=True, slots=True)
class Costed:
    """A job's take-off with where it comes from and what it costs."""

    job: PlannedJob
    needs: list[JobNeed]
    books: Books
    supply: Supply
    cost: Cost

    def money(self, cents: int) -> str:
        """An amount as it is printed."""
        return show(cents, self.books.terms.currency)


def books(request: Request, job_id: str) -> Books:
    """The workspace's stock, suppliers and terms."""
    scope = room(request).scope
    rows, everyone, terms = hauling.on_hand(scope), hauling.sellers(scope), hauling.terms(scope)
    used = terms or Terms()
    return Books(
        rows, hauling.lots(rows, job_id), everyone, of_currency(everyone, used.currency), used, terms is not None
    )


def needs_of(job: PlannedJob) -> list[JobNeed]:
    """The take-off of all lines of a job."""
    return job_take_off([(it.fence, it.plan) for it in job.all()])


def costed(job: PlannedJob, known: Books) -> Costed:
    """Supply a job's lines and reckon what they cost."""
    needs = needs_of(job)
    temporary = all(it.fence.own.standing == "temporary" for it in job.all())
    made = supply(needs, known.lots, known.sellers, temporary)
    cost = cost_of(job.plan.lines, made, [lot.held for lot in known.lots], known.terms)
    return Costed(job, needs, known, made, cost)


def costed_of(request: Request, job_id: str) -> tuple[Stored, Costed]:
    """A stored job and what it costs as it stands.  Raises NotThere."""
    stored = jobs.glance(room(request).scope, job_id)
    job, known = planned_job(request, stored), books(request, job_id)
    return stored, replace(_costed.of(job, known.mark, lambda: costed(job, known)), books=known)


def system_of(units: str, job: PlannedJob) -> System:
    """The units asked for, or those the job was measured in."""
    if units in ("us", "metric"):
        return "metric" if units == "metric" else "us"
    return "metric" if job.job.lines[0].measured.source.unit == "m" else "us"


def old_prices(sellers: list[Seller], today: date) -> list[str]:
    """What is said of prices that are not of today any more."""
    return [
        f"prices of {s.name} are {why}: ask again before you rely on them" for s in sellers if (why := s.old(today))
    ]
