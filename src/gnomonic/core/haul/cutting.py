"""Pieces cut from lengths: least money, then fewest lengths opened, with a bound on both.

Patterns (what is cut from one length) are priced into a linear programme until none can better it; its value bounds every
way to cut.  Whole numbers are then sought over the patterns found and, where that leaves a gap, over every pattern that
could close it.  Source: cutting stock by column generation (Gilmore and Gomory 1961), reduced-cost bounding; docs/method.md §17.
"""

import math
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import reduce

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.errors import BadInput

UNIT_M = 1e-4  # lengths are compared in tenths of a millimetre
MOST_PATTERNS = 12_000  # tried at once for whole numbers
MOST_NODES = 300_000
MOST_WORK = 250_000_000  # cells of knapsacks in one search: a second or two, the same on every machine
MOST_GREEDY = 1_500  # pieces that are also cut by hand rules
SOLVE_S = 1.2
NEAR = 1e-9
Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Length:
    """A length to cut from: its name, how long, what opening one costs (whole cents), how many there are (none: no end of them)."""

    name: str
    length_m: float
    price: int
    count: int | None = None


@dataclass(frozen=True, slots=True)
class Opened:
    """One length that is cut: pieces, the longest first, and what is left of it."""

    name: str
    length_m: float
    cuts_m: tuple[float, ...]
    left_m: float


@dataclass(frozen=True, slots=True)
class Cut:
    """How pieces are cut: ``cost`` and lengths ``opened``, each proven or with the least that is known possible."""

    layout: tuple[Opened, ...]
    cost: int
    opened: int
    cost_bound: int
    opened_bound: int

    @property
    def proven(self) -> dict[str, bool]:
        """Whether nothing can do better."""
        return {"cost": self.cost == self.cost_bound, "opened": self.opened == self.opened_bound}


class TooLittle(BadInput):
    """There are not enough lengths for what is to be cut."""


@dataclass(slots=True)
class _Task:
    """Widths (the longest first) and how many of each, lengths, both with kerf added and in units of one common divisor; prices, how many
    lengths there are."""

    widths: list[int]
    wanted: list[int]
    caps: list[int]
    prices: list[int]
    counts: list[int]


Pattern = tuple[int, tuple[int, ...]]  # which length, how many of each width
Used = dict[Pattern, int]


@dataclass(slots=True)
class _Aim:
    """What is made least: a ``price`` for each length, within a ``budget`` of the task's money where there is one."""

    price: Sequence[int]
    budget: int | None = None

    def of(self, used: Used) -> int:
        """What a way to cut comes to."""
        return sum(self.price[kind] * n for (kind, _), n in used.items())


@dataclass(frozen=True, slots=True)
class _Relaxed:
    """A bound with its proof: what a piece of each width is worth, and what each length costs less that it is scarce; whether it was
    worked out to the end."""

    bound: float
    worth: Floats
    costs: Floats
    done: bool = False


def cut_lengths(pieces: Sequence[tuple[float, int]], lengths: Sequence[Length], kerf_m: float) -> Cut:
    """Cut ``pieces`` (length in m, how many) from ``lengths`` with a saw ``kerf_m`` wide: pieces fit where Σ(piece + kerf) ≤ length + kerf.

    Raises BadInput (``need[k].length_m``, k counting ``pieces``) for one that fits no length, TooLittle (``have``) where the lengths do
    not suffice.

    >>> made = cut_lengths([(2.0, 3)], [Length("a", 4.1, 700), Length("b", 2.1, 400)], 0.003)
    >>> made.cost, made.opened, made.proven["cost"]
    (1100, 2, True)
    """
    usable = [item for item in lengths if item.count is None or item.count > 0]
    longest = max((item.length_m for item in usable), default=0.0)
    for k, (piece, count) in enumerate(pieces):
        if count and _units(piece) > _units(longest):
            field = f"need[{k}].length_m"
            known = f"; the longest is {longest:g} m" if usable else ""
            raise BadInput(field, f"{field} ({piece:g} m) fits none of the lengths there are" + known)
    task = _task(pieces, usable, kerf_m)
    if not task.widths:
        return Cut((), 0, 0, 0, 0)
    by_hand = _by_hand(task)
    pool: dict[Pattern, None] = dict.fromkeys([*_first(task), *(by_hand or {})])
    divisor = reduce(math.gcd, task.prices) or 1
    cheap, bound = _least(task, pool, _Aim([p // divisor for p in task.prices]), by_hand)
    cost = sum(task.prices[kind] * n for (kind, _), n in cheap.items())
    few = _Aim([1] * len(task.caps), cost)
    if bound * divisor == cost:
        used, fewest = _least(task, pool, few, cheap)
    else:  # who may still find it cheaper need not look for fewer at this price
        used, fewest = cheap, min(few.of(cheap), math.ceil(_by_area(task, few) - NEAR))
    layout = _laid(used, task, pieces, usable, kerf_m)
    price = {item.name: item.price for item in usable}
    cost = sum(price[row.name] for row in layout)  # a length of which every piece was one too many is not opened
    return Cut(layout, cost, len(layout), min(cost, bound * divisor), min(len(layout), fewest))


def _units(length_m: float) -> int:
    return round(length_m / UNIT_M)


def _task(pieces: Sequence[tuple[float, int]], lengths: Sequence[Length], kerf_m: float) -> _Task:
    kerf, wanted = _units(kerf_m), Counter[int]()
    for m, n in pieces:
        wanted[_units(m)] += n
    widths = sorted((w for w, n in wanted.items() if n), reverse=True)
    step = reduce(math.gcd, (w + kerf for w in widths), 0) or 1
    total = wanted.total()
    return _Task(
        [(w + kerf) // step for w in widths],
        [wanted[w] for w in widths],
        [(_units(item.length_m) + kerf) // step for item in lengths],
        [item.price for item in lengths],
        [total if item.count is None else min(total, item.count) for item in lengths],
    )


def _first(task: _Task) -> Iterator[Pattern]:
    """Patterns of one width, and of every width as often as it goes, the longest first."""
    for kind, cap in enumerate(task.caps):
        for k, width in enumerate(task.widths):
            if width <= cap:
                often = min(task.wanted[k], cap // width)
                yield kind, tuple(often if j == k else 0 for j in range(len(task.widths)))
        left, row = cap, []
        for width, most in zip(task.widths, task.wanted, strict=True):
            row.append(min(most, left // width))
            left -= row[-1] * width
        if any(row):
            yield kind, tuple(row)


def _by_hand(task: _Task) -> Used | None:
    """The cheapest of some ways a careful hand would cut: the longest piece first, into the first length begun that it fits, else from a new
    one of a kind in some order; each length then changed for the cheapest that holds its pieces.  None where that does not go."""
    if sum(task.wanted) > MOST_GREEDY:
        return None
    kinds = sorted(range(len(task.caps)), key=lambda k: (task.prices[k] / max(1, task.caps[k]), task.caps[k]))
    aim = _Aim(task.prices)
    best: Counter[Pattern] | None = None
    for first in [None, *kinds]:
        order = kinds if first is None else [*(k for k in kinds if task.prices[k] == 0), first, *kinds]
        made = _first_fit(task, order, kinds)
        if made is not None and (best is None or (aim.of(made), made.total()) < (aim.of(best), best.total())):
            best = made
    return best


def _first_fit(task: _Task, order: Sequence[int], kinds: Sequence[int]) -> Counter[Pattern] | None:
    begun: list[list[int]] = []  # room, kind, how many of each width
    there = list(task.counts)
    for k, width in enumerate(task.widths):
        for _ in range(task.wanted[k]):
            row = next((b for b in begun if b[0] >= width), None)
            if row is None:
                kind = next((j for j in order if task.caps[j] >= width and there[j] > 0), None)
                if kind is None:
                    return None
                there[kind] -= 1
                row = [task.caps[kind], kind, *[0] * len(task.widths)]
                begun.append(row)
            row[0] -= width
            row[2 + k] += 1
    made = Counter[Pattern]()
    for room, kind, *often in begun:
        used = task.caps[kind] - room
        fits = [j for j in kinds if task.caps[j] >= used and (there[j] > 0 or j == kind)]
        cheap = min(fits, key=lambda j: (task.prices[j], task.caps[j]))
        if cheap != kind:
            there[kind] += 1
            there[cheap] -= 1
        made[cheap, tuple(often)] += 1
    return made


def _least(task: _Task, pool: dict[Pattern, None], aim: _Aim, known: Used | None = None) -> tuple[Used, int]:
    """The least of an aim over all ways to cut, of which one may be known, and the bound on it.  Raises TooLittle."""
    relaxed = _relax(task, pool, aim)
    bound = math.ceil(relaxed.bound - NEAR * max(1.0, abs(relaxed.bound)) - NEAR)
    used, sure = (known, False) if known and aim.of(known) <= bound else _whole(task, list(pool), aim, known)
    if used is None or (aim.of(used) > bound and relaxed.done):
        gap = (aim.of(used) if used else bound + max(aim.price) + 1) - 1 - relaxed.bound
        every = _take_in(task, pool, relaxed, gap + NEAR)
        used, sure = _whole(task, list(pool), aim, used)
        if used is None and every and sure:
            raise TooLittle("have", "there is too little to cut all of this from in whole lengths")
        if used is None:
            raise TooLittle("have", "no way was found to cut all of this from what there is: add a length")
        if every and sure:
            bound = aim.of(used)
    return used, min(bound, aim.of(used))


def _by_area(task: _Task, aim: _Aim) -> float:
    """What an aim can't be under, were pieces as soft as water: the cheapest lengths for their room, as many as there are."""
    left, total = float(np.dot(task.widths, task.wanted)), 0.0
    for kind in sorted(range(len(task.caps)), key=lambda k: aim.price[k] / max(1, task.caps[k])):
        take = min(left, float(task.caps[kind] * task.counts[kind]))
        total += aim.price[kind] * take / max(1, task.caps[kind])
        left -= take
    return total


def _rows(task: _Task, pool: Sequence[Pattern], aim: _Aim) -> tuple[Floats, Floats, Floats, Floats]:
    """Pieces made, lengths opened and money spent by each pattern, and what each comes to."""
    kinds = [kind for kind, _ in pool]
    made = np.array([row for _, row in pool], dtype=float).T
    opened = np.zeros((len(task.caps), len(pool)))
    opened[kinds, range(len(pool))] = 1
    spent = np.array([[task.prices[k] for k in kinds]], dtype=float)
    return made, opened, spent, np.array([aim.price[k] for k in kinds], dtype=float)


def _relax(task: _Task, pool: dict[Pattern, None], aim: _Aim) -> _Relaxed:
    """Patterns taken in until none betters the linear programme.  Raises TooLittle where even parts of lengths do not suffice."""
    n, kinds, wanted = len(task.widths), len(task.caps), np.array(task.wanted, dtype=float)
    counts, prices = np.array(task.counts, dtype=float), np.array(task.prices, dtype=float)
    scale, dear = (
        max(1, *aim.price),
        10.0 * (sum(task.wanted) + 1),
    )  # what is missing costs more than anything that is there
    best = _Relaxed(_by_area(task, aim), np.zeros(n), np.array(aim.price, dtype=float))
    from scipy.optimize import linprog

    work = 0
    while True:
        made, opened, spent, price = _rows(task, list(pool), aim)
        rows, right = [-made, opened], [-wanted, counts]
        if aim.budget is not None:
            rows.append(spent)
            right.append(np.array([float(aim.budget)]))
        under = np.vstack(rows)
        missing = np.vstack([-np.eye(n), np.zeros((under.shape[0] - n, n))])
        solved = linprog(
            np.concatenate([price / scale, np.full(n, dear)]),
            A_ub=np.hstack([under, missing]),
            b_ub=np.concatenate(right),
            method="highs-ds",
        )
        dual = np.maximum(0.0, -solved.ineqlin.marginals) * scale
        worth, scarce = dual[:n], dual[n : n + kinds]
        money = float(dual[n + kinds]) if aim.budget is not None else 0.0
        costs = np.array(aim.price, dtype=float) + scarce + money * prices
        found = _worth_most(task, worth)
        over = np.array([value for value, _ in found]) - costs
        # what the duals prove once they are made to fit: smaller by as much as a pattern is over its price (Farley); where a
        # length has no price it is opened at most as often as it is there
        paid = np.array(aim.price) > 0
        shrink = max(1.0, *(1 + over[paid] / np.array(aim.price)[paid])) if paid.any() else 1.0
        bound = (worth @ wanted - scarce @ counts - money * (aim.budget or 0)) / shrink
        bound -= np.maximum(over[~paid], 0) @ counts[~paid]
        if bound > best.bound:
            best = _Relaxed(float(bound), worth, costs)
        fresh = [(k, row) for k, (_, row) in enumerate(found) if over[k] > NEAR * scale and (k, row) not in pool]
        if not fresh and solved.x[len(pool) :].sum() > UNIT_M:
            raise TooLittle("have", "there is too little to cut all of this from")
        work += max(task.caps) * sum(n.bit_length() for n in task.wanted)
        if not fresh or work > MOST_WORK:
            return replace(best, done=not fresh)
        pool.update(dict.fromkeys(fresh))


def _worth_most(task: _Task, worth: Floats) -> list[tuple[float, tuple[int, ...]]]:
    """For every length the pattern worth most, by what a piece of each width is worth; no width more often than it is wanted."""
    top = max(task.caps)
    value = np.zeros(top + 1)
    steps: list[tuple[int, int, int, NDArray[np.bool_]]] = []
    for k, width in enumerate(task.widths):
        left, often = min(task.wanted[k], top // width) if worth[k] > 0 else 0, 1
        while left:
            take = min(often, left)
            size = take * width
            if size <= top:
                better = np.zeros(top + 1, dtype=bool)
                more = value[: top + 1 - size] + take * worth[k]
                better[size:] = more > value[size:]
                value[size:] = np.maximum(more, value[size:])
                steps.append((k, take, size, better))
            left -= take
            often *= 2
    found = []
    for cap in task.caps:
        row, at = [0] * len(task.widths), cap
        for k, take, size, better in reversed(steps):
            if better[at]:
                row[k] += take
                at -= size
        found.append((float(worth @ np.array(row)), tuple(row)))
    return found


def _whole(task: _Task, pool: Sequence[Pattern], aim: _Aim, known: Used | None) -> tuple[Used | None, bool]:
    """Whole numbers of the patterns at hand, what is ``known`` where no better were found in time; and whether no others of them can do
    better."""
    from scipy.optimize import Bounds, LinearConstraint, milp

    made, opened, spent, price = _rows(task, pool, aim)
    limits = [LinearConstraint(made, lb=task.wanted), LinearConstraint(opened, ub=task.counts)]
    if aim.budget is not None:
        limits.append(LinearConstraint(spent, ub=aim.budget))
    solved = milp(
        price,
        constraints=limits,
        integrality=np.ones(len(price)),
        bounds=Bounds(0, np.array([task.counts[kind] for kind, _ in pool], dtype=float)),
        options={"time_limit": SOLVE_S, "mip_rel_gap": 0.0},
    )
    found = None if solved.x is None else {pool[k]: int(n) for k, n in enumerate(np.rint(solved.x)) if n}
    better = known if found is None or (known and aim.of(known) <= aim.of(found)) else found
    return better, solved.status in (0, 2)  # the best there is, or none at all


def _take_in(task: _Task, pool: dict[Pattern, None], relaxed: _Relaxed, gap: float) -> bool:
    """Take in every pattern that a better answer could use, those whose cost is at most ``gap`` over what they are worth; whether
    that was all of them."""
    order = sorted(range(len(task.widths)), key=lambda k: -relaxed.worth[k] / task.widths[k])
    nodes, taken = 0, 0
    for kind, cap in enumerate(task.caps):
        must = float(relaxed.costs[kind]) - gap
        stack: list[tuple[int, int, float, tuple[int, ...]]] = [(0, cap, 0.0, ())]
        while stack:
            depth, left, value, row = stack.pop()
            nodes += 1
            if nodes > MOST_NODES or taken > MOST_PATTERNS:
                return False
            if depth == len(order):
                whole = [0] * len(order)
                for k, often in zip(order, row, strict=True):
                    whole[k] = often
                pattern = kind, tuple(whole)
                if value >= must and any(row) and pattern not in pool:
                    pool[pattern] = None
                    taken += 1
                continue
            k = order[depth]
            if value + left * relaxed.worth[k] / task.widths[k] < must:
                continue
            for often in range(min(task.wanted[k], left // task.widths[k]) + 1):
                gained = value + often * float(relaxed.worth[k])
                stack.append((depth + 1, left - often * task.widths[k], gained, (*row, often)))
    return True


def _laid(
    used: Used, task: _Task, pieces: Sequence[tuple[float, int]], lengths: Sequence[Length], kerf_m: float
) -> tuple[Opened, ...]:
    """Patterns as cuts of single lengths; of a piece cut once too often the last is left on."""
    waiting: dict[int, list[float]] = {}
    for m, n in pieces:
        waiting.setdefault(_units(m), []).extend([m] * n)
    widths = sorted((w for w, those in waiting.items() if those), reverse=True)
    layout = []
    for (kind, row), times in sorted(used.items()):
        for _ in range(times):
            cuts = [
                waiting[w].pop()
                for w, often in zip(widths, row, strict=True)
                for _ in range(min(often, len(waiting[w])))
            ]
            length = lengths[kind]
            if cuts:
                left = max(0.0, length.length_m - sum(cuts) - kerf_m * len(cuts))
                layout.append(Opened(length.name, length.length_m, tuple(cuts), left))
    return tuple(layout)
