"""Rolls of several lengths, each with its price, and splices that may be priced.

Every choice of how many of each length is tried, the cheapest first, until none that is left can be cheaper than the best found (of
those that cost the same the one with fewest splices); each is cut by the search for one length (``rolls.py``), its rolls given as if they were owned.  Source: derived in docs/method.md §9.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from heapq import heappop, heappush

from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.lay import Rules, RunNeed
from gnomonic.core.fabric.rolls import RollPlan, plan_rolls

MOST_TRIED = 400
MOST_ROLLS = 24
NEAR = 1e-6


@dataclass(frozen=True, slots=True)
class RollKind:
    """A roll as it is sold: the length that can be used of it, what it costs, and the length it goes by (0: the same)."""

    length_m: float
    price: float
    sold_m: float = 0.0


@dataclass(frozen=True, slots=True)
class MixedPlan:
    """How many of each kind are bought, what that and the splices cost, the layout (stock ``offcut0`` … owned, then the rolls bought in
    the order of their kinds), and whether no other choice is cheaper."""

    counts: tuple[int, ...]
    cost: float
    plan: RollPlan
    proven: bool
    tried: int


def _choices(kinds: Sequence[RollKind]) -> Iterator[tuple[float, tuple[int, ...]]]:
    """Counts of each kind with what they cost, the cheapest first, then the fewest rolls; each once."""
    heap: list[tuple[float, int, tuple[int, ...]]] = [(0.0, 0, (0,) * len(kinds))]
    seen = {heap[0][2]}
    while heap:
        cost, rolls, counts = heappop(heap)
        yield cost, counts
        for k, kind in enumerate(kinds):
            more = (*counts[:k], counts[k] + 1, *counts[k + 1 :])
            if more not in seen and sum(more) <= MOST_ROLLS:
                seen.add(more)
                heappush(heap, (round(cost + kind.price, 9), rolls + 1, more))


def plan_mixed(
    runs: Sequence[RunNeed],
    kinds: Sequence[RollKind],
    offcuts_m: Sequence[float],
    rules: Rules,
    splice_price: float = 0.0,
    work_s: float = 0.3,
    most_tried: int = MOST_TRIED,
) -> MixedPlan:
    """The cheapest rolls for some runs, splices paid for.  Raises BadInput (``rolls_m``) when none of what is tried covers them."""
    need = sum(r.need_m for r in runs)
    owned, longest = sum(offcuts_m), max(k.length_m for k in kinds)
    best: MixedPlan | None = None
    tried, proven = 0, True
    for cost, counts in _choices(kinds):
        if best is not None and cost > best.cost + NEAR:
            break
        bought = [kind.length_m for kind, n in zip(kinds, counts, strict=True) for _ in range(n)]
        if owned + sum(bought) + rules.give_m * len(bought) < need:
            continue
        tried += 1
        if tried > most_tried:
            proven = best is not None and cost >= best.cost - NEAR
            break
        try:
            made = plan_rolls(runs, longest, [*offcuts_m, *bought], rules, work_s)
        except BadInput:
            continue
        if made.new_rolls:
            proven = proven and made.bound["new_rolls"] > 0
            continue
        total = cost + splice_price * made.splices
        better = best is None or total < best.cost - NEAR
        if better or (best is not None and total < best.cost + NEAR and made.splices < best.plan.splices):
            sure = made.proven["splices"] or splice_price == 0
            best = MixedPlan(counts, total, made, sure, tried)
    if best is None:
        raise BadInput("rolls_m", f"no choice of up to {MOST_ROLLS} of these rolls covers the runs: use longer rolls")
    return MixedPlan(best.counts, best.cost, best.plan, best.proven and proven, tried)


def as_rolls(made: MixedPlan, kinds: Sequence[RollKind], owned: int) -> RollPlan:
    """A mixed plan as the plans of one length are: what was bought is called new, with the length each goes by."""
    lengths = [k.sold_m or k.length_m for k, n in zip(kinds, made.counts, strict=True) for _ in range(n)]
    cut = {p.stock for row in made.plan.pieces for p in row}
    opened = [k for k in range(len(lengths)) if f"offcut{owned + k}" in cut]
    called = {f"offcut{owned + k}": f"new{n}" for n, k in enumerate(opened)}
    idle = {f"offcut{owned + k}" for k in range(len(lengths)) if k not in opened}
    kept = tuple((called.get(name, name), m) for name, m in made.plan.offcuts_kept_m if name not in idle)
    pieces = tuple(tuple(replace(p, stock=called.get(p.stock, p.stock)) for p in row) for row in made.plan.pieces)
    return replace(
        made.plan,
        pieces=pieces,
        new_rolls=len(opened),
        longest_offcut_m=max((m for _, m in kept), default=0.0),
        proven={"new_rolls": made.proven, "splices": made.proven, "longest_offcut": False},
        bound={"new_rolls": len(opened), "splices": made.plan.splices},
        offcuts_kept_m=kept,
        bought_m=tuple(lengths[k] for k in opened),
    )
