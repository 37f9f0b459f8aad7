"""A plan of days carried on: the order there was, for what is left of it today."""

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from datetime import datetime

from gnomonic.core.days.kernel import NEVER, Placer
from gnomonic.core.days.laying import Laid
from gnomonic.core.days.placing import Placed
from gnomonic.core.days.problem import Schedule

KNOWN_SHARE = 0.7  # of the tasks have to be those of the plan there was, for its order to be worth keeping


def carried_on(laid: Laid, was: Sequence[Placed], pins: Mapping[str, datetime]) -> Schedule | None:
    """The plan there was, in its order, for what is left; what is not to begin before a time goes before all that began later.

    None where too much of it is new, or the clock is too short.
    """
    rows = sorted(was, key=lambda p: p.begins)
    known = {p.key: float(k) for k, p in enumerate(rows)}
    if not laid.tasks or sum(t.key in known for t in laid.tasks) < KNOWN_SHARE * len(laid.tasks):
        return None
    known |= {key: bisect_left(rows, at, key=lambda p: p.begins) - 0.5 for key, at in pins.items()}
    return in_order_of(laid, known)


def in_order_of(laid: Laid, first: Mapping[str, float]) -> Schedule | None:
    """Tasks placed by their numbers ``first`` (by key), those without one last; none where the clock is too short."""
    placer = Placer(laid.problem)
    end, out = placer.place(placer.order([first.get(laid.tasks[k].key, float("inf")) for k in laid.of]))
    return placer.schedule(out) if end != NEVER else None
