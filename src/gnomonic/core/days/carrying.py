"""An order of work carried on: as it was found for one plan of days, for what is left of it, or for another crew."""

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np

from gnomonic.core.days.kernel import NEVER, placer_of
from gnomonic.core.days.laying import Laid
from gnomonic.core.days.placing import Placed
from gnomonic.core.days.problem import Schedule

KNOWN_SHARE = 0.7  # of the tasks have to be those of the plan there was, for its order to be worth keeping
AS_MANY = -1  # hands as they end it first


@dataclass(frozen=True, slots=True)
class Order:
    """Tasks by key: which goes ``first`` (the lower number), and how many ``hands`` are at each."""

    first: Mapping[str, float]
    hands: Mapping[str, int]


def order_of(laid: Laid, made: Schedule) -> Order:
    """The order of a schedule."""
    rows = list(zip(laid.of, laid.hands, made.starts, made.modes, strict=True))
    keys = [laid.tasks[k].key for k, *_ in rows]
    return Order(
        {key: float(start) for key, (_, _, start, _) in zip(keys, rows, strict=True)},
        {key: hands[mode] for key, (_, hands, _, mode) in zip(keys, rows, strict=True)},
    )


def order_placed(rows: Sequence[Placed]) -> Order:
    """The order of a plan of days as it is kept."""
    begun = sorted(rows, key=lambda p: p.begins)
    return Order({p.key: float(k) for k, p in enumerate(begun)}, {p.key: p.hands for p in begun})


def carried_on(laid: Laid, was: Sequence[Placed], pins: Mapping[str, datetime]) -> Schedule | None:
    """The plan there was, in its order, for what is left; what is not to begin before a time goes before all that began later.

    None where too much of it is new, or the clock is too short.
    """
    rows, order = sorted(was, key=lambda p: p.begins), order_placed(was)
    if not laid.tasks or sum(t.key in order.first for t in laid.tasks) < KNOWN_SHARE * len(laid.tasks):
        return None
    later = {key: bisect_left(rows, at, key=lambda p: p.begins) - 0.5 for key, at in pins.items()}
    return in_order_of(laid, replace(order, first={**order.first, **later}))


def in_order_of(laid: Laid, order: Order) -> Schedule | None:
    """Tasks placed in an order, those it does not know last; with the hands it had, or with as many as end each first, whichever ends the
    whole sooner; none where the clock is too short."""
    placer = placer_of(laid.problem)
    keys = [laid.tasks[k].key for k in laid.of]
    rank = placer.order([order.first.get(key, float("inf")) for key in keys])
    known = [
        hands.index(order.hands[key]) if order.hands.get(key) in hands else AS_MANY
        for key, hands in zip(keys, laid.hands, strict=True)
    ]
    placed = [placer.place(rank, fixed) for fixed in (np.array(known, np.int64), None)]
    ended = [row for row in placed if row[0] != NEVER]
    return placer.schedule(min(ended, key=lambda row: row[0])[1]) if ended else None
