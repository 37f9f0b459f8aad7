"""A plan of days made: at once by placing, then by the search beside the pages; kept only where it is still of what is asked."""

from dataclasses import replace
from datetime import datetime, timedelta
from typing import Any

from gnomonic.core.days.carrying import Order, carried_on, in_order_of, order_of
from gnomonic.core.days.crew import Crew
from gnomonic.core.days.laying import Given, Laid, lay
from gnomonic.core.days.made import Chances, Made
from gnomonic.core.days.placing import Placed, Spell, placed
from gnomonic.core.days.problem import STEP_MIN, Schedule
from gnomonic.core.days.simulate import SEASONS, simulate
from gnomonic.core.days.solve import Solved, better, judged, nothing_worth, quick, solve
from gnomonic.core.limits import SEARCH_S
from gnomonic.core.pull.climate import climate
from gnomonic.store import days
from gnomonic.store.scope import Scope
from gnomonic.web.days.inputs import Inputs

QUICK_S = 0.8
FEW_SEASONS, SEED = 200, 17


def made_now(given: Inputs, anew: bool = False) -> Made:
    """A plan at once: the order there was where it still can be, made from the beginning where not, or ``anew``.  Raises BadInput, NoPlan."""
    laid = lay(list(given.tasks.values()), given.crew, given.given())
    was = None if anew or given.plan is None else given.plan.made
    start = carried_on(laid, was.placed, given.asked.pins) if was else None
    state = was.state if was and start else "quick"
    start = start or quick(laid.problem, QUICK_S, laid.worth)
    return told(given, laid, judged(laid.problem, start), state, FEW_SEASONS)


def told(given: Inputs, laid: Laid, solved: Solved, state: str, seasons: int) -> Made:
    """What is kept of a schedule."""
    kept: dict[str, Any] = {
        "made_at": given.now,
        "state": state,
        "proven": solved.proven,
        "seasons": seasons,
        "forecast": len(given.weather),
    }
    made, clock, placed_now = solved.schedule, laid.clock, kept_done(given)
    if not made.starts:
        none = Chances(half=None, nine=None)
        over = dict.fromkeys(("ends", "fair", "bound"), given.now) | dict.fromkeys(("both", "weather", "rates"), none)
        return Made.model_validate({**kept, **over, "placed": placed_now, "hired": 0})
    ends = simulate(laid, made, climate(given.job.job.climate), given.weather, SEED, seasons)
    chances = {
        key: Chances(half=half, nine=nine)
        for key, (half, nine) in (("both", (ends.half, ends.nine)), ("weather", ends.weather), ("rates", ends.rates))
    }
    times = {"ends": clock.ends(made.makespan), "fair": clock.ends(solved.fair), "bound": clock.ends(solved.bound)}
    hired, drifted = laid.worth(made.table())[0], drift_days(given, laid, made)
    return Made.model_validate(
        {**kept, **times, **chances, "placed": (*placed_now, *placed(laid, made)), "hired": hired, "drifted": drifted}
    )


def kept_done(given: Inputs) -> list[Placed]:
    """What is done, where it stood in the plan it was done by; no later than when it was said to be done."""
    was = given.plan.made if given.plan else None
    found = []
    for p in was.placed if was else ():
        if given.done.share.get(p.key, 0.0) >= 1 and p.key in given.tasks:
            at = given.done.at[p.key]
            found.append(p if p.ends <= at or not p.spells else _before(p, at))
    return found


def _before(p: Placed, at: datetime) -> Placed:
    """A task done sooner than it was planned, as if its last spell had ended then."""
    end = max(STEP_MIN, at.hour * 60 + at.minute)
    begin = max(0, end - sum(s.ends - s.begins for s in p.spells))
    spell = Spell(at.date(), begin, end, p.spells[0].people)
    return replace(p, begins=at - timedelta(minutes=end - begin), ends=at, spells=(spell,), by="")


def searched(given: Inputs, seconds: float = SEARCH_S) -> Made:
    """The plan after the search.  Raises BadInput, NoPlan."""
    laid = lay(list(given.tasks.values()), given.crew, given.given())
    was = given.plan.made if given.plan else None
    starts = [quick(laid.problem, 1.0, laid.worth), carried_on(laid, was.placed, given.asked.pins) if was else None]
    start = min((s for s in starts if s), key=lambda s: (s.makespan, *laid.worth(s.table())) if s.starts else (0,))
    solved = solve(laid.problem, seconds * 0.8, seconds, start, laid.worth)
    return told(given, laid, solved, "searched", SEASONS)


def fairly(given: Inputs, crew: Crew, what: Given) -> Laid:
    """The tasks in weather that stops nothing, with another crew or begun otherwise.  Raises BadInput."""
    return lay(list(given.tasks.values()), crew, replace(what, weather=()))


def found(laid: Laid, seconds: float, order: Order) -> tuple[datetime, Order]:
    """When it ends, and the order found: from one that is known, by the same short search for all.  Raises NoPlan."""
    start = in_order_of(laid, order) or quick(laid.problem, seconds / 2)
    made = better(laid.problem, start, seconds, nothing_worth)
    return laid.clock.ends(made.makespan), order_of(laid, made)


def ends_in(laid: Laid, order: Order) -> datetime:
    """When it ends in an order that is known; at no time where the clock is too short."""
    made = in_order_of(laid, order)
    return laid.clock.ends(made.makespan) if made else datetime.max


def drift_days(given: Inputs, laid: Laid, made: Schedule) -> int:
    """How many days later the same order of work ends at the pace that was found than at the usual one."""
    own = {kind: rate for kind, rate in given.rates.items() if rate.own}
    if len(own) == len(given.rates):
        return 0
    usual = lay(list(given.tasks.values()), given.crew, replace(given, rates=own).given())
    same = in_order_of(usual, order_of(laid, made))
    return (laid.clock.ends(made.makespan).date() - usual.clock.ends(same.makespan).date()).days if same else 0


def keep(scope: Scope, given: Inputs, made: Made) -> None:
    """Keep a plan made at once, where nobody has kept another since what it was made from was read."""
    only = given.plan.stamp if given.plan else None
    days.keep_days(scope, given.stored.job_id, made, given.stamp, only)
