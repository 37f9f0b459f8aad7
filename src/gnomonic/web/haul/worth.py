"""What a change comes to in money, said wherever a change is: at the least price of every ware, on the price index before there are prices."""

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache

from gnomonic.core.haul.prices import Seller, of_currency, unit_prices
from gnomonic.core.haul.takeoff import JobNeed, job_take_off
from gnomonic.core.haul.terms import Terms
from gnomonic.core.job.fence import fence_of
from gnomonic.core.tell.money import more_or_less
from gnomonic.store import hauling
from gnomonic.store.scope import Scope
from gnomonic.web.plans import PlannedJob


@lru_cache(maxsize=8)
def _read(terms: str, sellers: tuple[str, ...]) -> tuple[Mapping[str, Fraction], str]:
    """Least prices and the currency, of what the store holds."""
    used = Terms.model_validate_json(terms) if terms else Terms()
    rows = [Seller.model_validate_json(row) for row in sellers]
    return unit_prices(of_currency(rows, used.currency)), used.currency


@dataclass(frozen=True, slots=True)
class Worth:
    """The least prices a workspace knows just now, as the store holds them."""

    terms: str
    sellers: tuple[str, ...]

    @classmethod
    def now(cls, scope: Scope) -> "Worth":
        """As it stands.  Raises DatabaseAway."""
        return cls(*hauling.prices_as_kept(scope))

    def of(self, was: PlannedJob, now: PlannedJob) -> str:
        """What the take-off of ``now`` costs more or less than that of ``was``; empty where that is nothing worth saying."""

        def touched(job: PlannedJob) -> list[JobNeed]:
            lines = [k for k in job.plan.lines if was.plan.lines.get(k) is not now.plan.lines.get(k)]
            return job_take_off([(fence_of(job.job, k), job.plan.lines[k]) for k in lines])

        return more_or_less(touched(was), touched(now), *_read(self.terms, self.sellers))
