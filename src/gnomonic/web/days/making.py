"""A plan of days made: at once by placing, then by the search beside the pages; kept only where it is still of what is asked."""

from bisect import bisect_left
from collections.abc import Mapping
from dataclasses import replace
from datetime import datetime, timedelta

import numpy as np

from gnomonic.core.days.bound import bound
from gnomonic.core.days.clock import STEP_MIN
from gnomonic.core.days.crew import Crew
from gnomonic.core.days.kernel import NEVER, Placer
from gnomonic.core.days.laying import Given, Laid, lay
from gnomonic.core.days.made import Chances, Made
from gnomonic.core.days.placing import Placed, Spell, placed
from gnomonic.core.days.problem import Schedule
from gnomonic.core.days.simulate import SEASONS, simulate
from gnomonic.core.days.solve import Solved, better, nothing_worth, quick, solve
from gnomonic.core.limits import SEARCH_S
from gnomonic.core.pull.climate import climate
from gnomonic.store import days
from gnomonic.store.scope import Scope
from gnomonic.web.days.inputs import Inputs

QUICK_S, AGAIN_S = 0.8, 0.0
FEW_SEASONS, SEED = 200, 17
KNOWN_SHARE = 0.7  # of the tasks have to be those of the plan there was, for its order to be worth keeping


def made_now(given: Inputs, seconds: float = QUICK_S) -> Made:
    """A plan at once: that there was, placed anew where it still can be, else made from the beginning.  Raises BadInput, NoPlan."""
    laid = lay(list(given.tasks.values()), given.crew, given.given())
    was = given.plan.made if given.plan else None
    start = carried_on(laid, was, given.asked.pins) if was else None
    if start is None:
        start = quick(laid.problem, seconds, laid.worth)
    elif seconds > AGAIN_S:
        start = better(laid.problem, start, seconds / 2, laid.worth)
    state = was.state if was and seconds <= AGAIN_S else "quick"
    return told(given, laid, solved_of(laid, start), state, FEW_SEASONS)


def solved_of(laid: Laid, made: Schedule) -> Solved:
    """A schedule with what is proven of it without a search."""
    fair = replace(laid.problem, stopped=np.zeros(0, np.int64))
    _, out = Placer(fair).place(made.order(), np.array(made.modes, np.int64))
    return Solved(made, int(out[:, 1].max()) if out.size else 0, bound(fair))


def carried_on(laid: Laid, was: Made, pins: Mapping[str, datetime]) -> Schedule | None:
    """The plan there was, in its order, for what is left; what is not to begin before a time goes before all that began later.

    None where too much of it is new.
    """
    rows = sorted(was.placed, key=lambda p: p.begins)
    known = {p.key: float(k) for k, p in enumerate(rows)}
    if not laid.tasks or sum(t.key in known for t in laid.tasks) < KNOWN_SHARE * len(laid.tasks):
        return None
    known |= {key: bisect_left(rows, at, key=lambda p: p.begins) - 0.5 for key, at in pins.items()}
    first = [known.get(laid.tasks[k].key, 1e6) for k in laid.of]
    placer = Placer(laid.problem)
    end, out = placer.place(placer.order(first))
    return placer.schedule(out) if end != NEVER else None


def told(given: Inputs, laid: Laid, solved: Solved, state: str, seasons: int) -> Made:
    """What is kept of a schedule."""
    made, clock, now = solved.schedule, laid.clock, given.now
    over = simulate(laid, made, climate(given.job.job.climate), given.weather, SEED, seasons) if made.starts else None
    none = Chances(half=None, nine=None)
    worth = laid.worth(np.array([made.starts, made.ends, made.modes], np.int64).T) if made.starts else (0, 0)
    return Made.model_validate(
        {
            "made_at": now,
            "state": state,
            "placed": (*kept_done(given), *placed(laid, made)),
            "ends": clock.ends(made.makespan) if made.starts else now,
            "fair": clock.ends(solved.fair) if made.starts else now,
            "bound": clock.ends(solved.bound) if made.starts else now,
            "proven": solved.proven,
            "both": Chances(half=over.half, nine=over.nine) if over else none,
            "weather": Chances(half=over.weather[0], nine=over.weather[1]) if over else none,
            "rates": Chances(half=over.rates[0], nine=over.rates[1]) if over else none,
            "seasons": seasons,
            "hired": worth[0],
            "moves": worth[1],
            "forecast": len(given.weather),
            "drifted": drift_days(given, laid, made),
        }
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
    start = carried_on(laid, was, given.asked.pins) if was else None
    fresh = quick(laid.problem, 1.0, laid.worth)
    if start is None or (fresh.makespan, *_worth(laid, fresh)) < (start.makespan, *_worth(laid, start)):
        start = fresh
    solved = solve(laid.problem, seconds * 0.8, seconds, start, laid.worth)
    return told(given, laid, solved, "searched", SEASONS)


def _worth(laid: Laid, made: Schedule) -> tuple[int, ...]:
    return laid.worth(np.array([made.starts, made.ends, made.modes], np.int64).T)


def end_of(
    given: Inputs, crew: Crew, what: Given, seconds: float, first: Mapping[str, float]
) -> tuple[datetime, dict[str, float]]:
    """When it ends in fair weather with another crew, or begun otherwise, and the order found (by key): from an order that is known, by the
    same short search for all.  Raises BadInput, NoPlan."""
    laid = lay(list(given.tasks.values()), crew, replace(what, weather=()))
    placer = Placer(laid.problem)
    end, out = placer.place(placer.order([first.get(laid.tasks[k].key, 0.0) for k in laid.of]))
    start = placer.schedule(out) if end != NEVER else quick(laid.problem, seconds / 2)
    made = better(laid.problem, start, seconds, nothing_worth)
    return laid.clock.ends(made.makespan), {
        laid.tasks[k].key: float(s) for k, s in zip(laid.of, made.starts, strict=True)
    }


def drift_days(given: Inputs, laid: Laid, made: Schedule) -> int:
    """How many days later the same order of work ends at the pace that was found than at the usual one."""
    own = {kind: rate for kind, rate in given.rates.items() if rate.own}
    if len(own) == len(given.rates) or not made.starts:
        return 0
    usual = lay(list(given.tasks.values()), given.crew, replace(given, rates=own).given())
    first = {laid.tasks[k].key: float(start) for k, start in zip(laid.of, made.starts, strict=True)}
    placer = Placer(usual.problem)
    end, _ = placer.place(placer.order([first[usual.tasks[k].key] for k in usual.of]))
    return (laid.clock.ends(made.makespan).date() - usual.clock.ends(end).date()).days if end != NEVER else 0


def keep(scope: Scope, given: Inputs, made: Made) -> None:
    """Keep a plan made at once, where nobody has kept another since what it was made from was read."""
    only = given.plan.stamp if given.plan else None
    days.keep_days(scope, given.stored.job_id, made, given.stamp, only)
