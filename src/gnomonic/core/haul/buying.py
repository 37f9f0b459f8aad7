"""From whom to buy, in which packs: least goods and delivery together, then fewest suppliers.

Source: a covering problem in whole packs, solved and bounded by a general solver; docs/method.md §17.
"""

import math
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.errors import BadInput

NODES = 2_000  # of the search: the same on any machine, a second or two
WALL_S = 30.0  # for a machine that hangs
NEAR = 1e-7
MOST_CHOSEN = 8  # suppliers of whom every choice is priced
MOST_PARTS = 100_000
NEVER = 2**61
LARGEST = 2**52  # sums up to this are exact in every part of the search


@dataclass(frozen=True, slots=True)
class Offer:
    """A pack of so many units of an item, its price in whole cents, and how many packs there are (none: no end of them)."""

    item: str
    pack: Fraction
    price: int
    stock: int | None = None


@dataclass(frozen=True, slots=True)
class Supplier:
    """Who sells: what bringing it costs once an order, what goods must come to at least, and what is offered."""

    name: str
    delivery: int = 0
    least_order: int = 0
    offers: tuple[Offer, ...] = ()


@dataclass(frozen=True, slots=True)
class Bought:
    """So many packs of an offer."""

    offer: Offer
    packs: int

    @property
    def units(self) -> Fraction:
        """What is in them."""
        return self.offer.pack * self.packs

    @property
    def price(self) -> int:
        """What they cost together."""
        return self.offer.price * self.packs


@dataclass(frozen=True, slots=True)
class Order:
    """What is bought of one supplier."""

    supplier: Supplier
    lines: tuple[Bought, ...]

    @property
    def goods(self) -> int:
        """The sum of its lines."""
        return sum(line.price for line in self.lines)


@dataclass(frozen=True, slots=True)
class Buying:
    """Orders, and the least that goods and delivery can come to as far as is known."""

    orders: tuple[Order, ...]
    bound: int

    @property
    def goods(self) -> int:
        """Goods of all orders."""
        return sum(order.goods for order in self.orders)

    @property
    def delivery(self) -> int:
        """Delivery of all orders."""
        return sum(order.supplier.delivery for order in self.orders)

    @property
    def total(self) -> int:
        """Goods and delivery."""
        return self.goods + self.delivery

    @property
    def proven(self) -> bool:
        """Whether nothing can cost less."""
        return self.total == self.bound


def buy(needs: Mapping[str, Fraction], suppliers: Sequence[Supplier]) -> Buying:
    """Buy at least ``needs`` (units, by item), whole packs, of any of the suppliers.

    Every choice of suppliers is priced item by item, exactly; where the cheapest of them leaves an order under the least its supplier
    takes, more may be bought of what is needed.  Raises BadInput (``suppliers``), naming an item that nobody offers or of which all
    offers together are too little, where no order can reach what it must, or where sums are beyond what is reckoned exactly.

    >>> cheap = Supplier("a", 1000, 0, (Offer("clip", Fraction(100), 900),))
    >>> near = Supplier("b", 0, 0, (Offer("clip", Fraction(25), 400),))
    >>> buy({"clip": Fraction(60)}, [cheap, near]).total, buy({"clip": Fraction(160)}, [cheap, near]).total
    (1200, 2800)
    """
    needs = {item: qty for item, qty in needs.items() if qty > 0}
    if not needs:
        return Buying((), 0)
    for item in needs:
        if missing := missing_of(item, needs[item], suppliers):
            raise BadInput("suppliers", missing)
    sellers = [s for s in suppliers if any(o.item in needs for o in s.offers)]
    wares = [_ware(item, qty, sellers) for item, qty in needs.items()]
    dearest = [sum(o.price * _most(w, o, size) for _, o, size in w.offers) for w in wares]
    if sum(dearest) + sum(s.delivery + s.least_order for s in sellers) >= LARGEST:
        raise BadInput(
            "suppliers", "the sums are too large to be reckoned to the last cent: buy it in parts, or in larger packs"
        )
    if len(sellers) > MOST_CHOSEN or any(w.parts > MOST_PARTS for w in wares):
        found, bound = _searched(wares, sellers, range(len(sellers)), (), NEVER)
        return Buying(found.orders, bound) if found else _refused()
    floors = [_floors(ware, len(sellers)) for ware in wares]
    choices = []
    for chosen in range(1, 1 << len(sellers)):
        least = [floor[chosen] for floor in floors]
        who = [k for k in range(len(sellers)) if chosen >> k & 1]
        if NEVER not in least:
            choices.append((sum(least) + sum(sellers[k].delivery for k in who), len(who), who, least))
    best: Buying | None = None
    doubt = NEVER  # what a choice that was not searched to the end could still come to
    for total, _, who, least in sorted(choices):
        if best is not None and total > min(best.total, doubt):
            break
        made: Buying | None = _taken(wares, sellers, who)
        if made and any(row.goods < row.supplier.least_order for row in made.orders) | (len(made.orders) < len(who)):
            made, bound = _searched(wares, sellers, who, least, best.total if best else NEVER)
            if made is None or bound < made.total:
                doubt = min(doubt, max(bound, total))
        if made and (best is None or (made.total, len(made.orders)) < (best.total, len(best.orders))):
            best = made
    if best is None:
        return _refused()
    return Buying(best.orders, min(best.total, doubt))


def _refused() -> Buying:
    raise BadInput(
        "suppliers", "no order reaches the least that its supplier takes: lower a least order, or add a supplier"
    )


@dataclass(frozen=True, slots=True)
class _Ware:
    """What is needed of an item in whole parts (the largest length, weight or number that every pack is a multiple of), and its offers
    by supplier: packs in parts."""

    parts: int
    offers: tuple[tuple[int, Offer, int], ...]


def _ware(item: str, qty: Fraction, sellers: Sequence[Supplier]) -> _Ware:
    rows = [(k, o) for k, s in enumerate(sellers) for o in s.offers if o.item == item]
    below = math.lcm(*(o.pack.denominator for _, o in rows))
    part = Fraction(math.gcd(*(int(o.pack * below) for _, o in rows)), below)
    return _Ware(math.ceil(qty / part), tuple((k, o, int(o.pack / part)) for k, o in rows))


def _most(ware: _Ware, offer: Offer, size: int) -> int:
    most = -(-ware.parts // size)
    return most if offer.stock is None else min(most, offer.stock)


def _lots(most: int) -> Iterator[int]:
    """Numbers whose sums give every number up to ``most``."""
    often = 1
    while most:
        yield min(often, most)
        most -= min(often, most)
        often *= 2


def _floors(ware: _Ware, sellers: int) -> list[int]:
    """The least an item costs by the suppliers that may be bought of, as a mask; NEVER where they have too little."""
    floors = [NEVER] * (1 << sellers)
    none = np.full(ware.parts + 1, NEVER, dtype=np.int64)
    none[0] = 0
    least = [none]
    for chosen in range(1, 1 << sellers):
        last = chosen.bit_length() - 1
        costs = least[chosen ^ 1 << last]
        for k, offer, size in ware.offers:
            if k == last:
                for lot in _lots(_most(ware, offer, size)):
                    costs = np.minimum(costs, _after(costs, lot * size, lot * offer.price))
        least.append(costs)
        floors[chosen] = min(NEVER, int(costs[-1]))
    return floors


def _after(costs: NDArray[np.int64], size: int, price: int) -> NDArray[np.int64]:
    """What every amount costs where a lot of so many parts is taken with it."""
    size = min(size, len(costs) - 1)
    return np.concatenate([np.full(size, costs[0]), costs[: len(costs) - size]]) + price


def _taken(wares: Sequence[_Ware], sellers: Sequence[Supplier], who: Sequence[int]) -> Buying:
    """The cheapest packs of every item of some suppliers, whatever their least orders."""
    lines: dict[int, list[Bought]] = {k: [] for k in who}
    for ware in wares:
        costs = np.full(ware.parts + 1, NEVER, dtype=np.int64)
        costs[0] = 0
        steps: list[tuple[int, Offer, int, int, NDArray[np.bool_]]] = []
        for k, offer, size in ware.offers:
            for lot in _lots(_most(ware, offer, size)) if k in lines else ():
                more = _after(costs, lot * size, lot * offer.price)
                steps.append((k, offer, lot, lot * size, more < costs))
                costs = np.minimum(costs, more)
        at, packs = ware.parts, Counter[tuple[int, Offer]]()
        for k, offer, lot, size, better in reversed(steps):
            if at and better[at]:
                packs[k, offer] += lot
                at = max(0, at - size)
        for (k, offer), number in packs.items():
            lines[k].append(Bought(offer, number))
    return _ordered(sellers, lines)


def _ordered(sellers: Sequence[Supplier], lines: Mapping[int, Sequence[Bought]]) -> Buying:
    made = Buying(tuple(Order(sellers[k], tuple(rows)) for k, rows in sorted(lines.items()) if rows), 0)
    return replace(made, bound=made.total)


def _searched(
    wares: Sequence[_Ware], sellers: Sequence[Supplier], who: Sequence[int], least: Sequence[int], below: int
) -> tuple[Buying | None, int]:
    """Packs of some suppliers, each order at least what its supplier takes, all together below a sum; and what they can't come to less
    than.  ``least`` is what each item can't cost less than where all of them are bought of; without it some may be left out."""
    packs = [(n, k, o, size) for n, ware in enumerate(wares) for k, o, size in ware.offers if k in who]
    used = {k: len(packs) + j for j, k in enumerate(who)}
    wide = len(packs) + len(used)
    price, top = np.zeros(wide), np.ones(wide)
    has, costs = np.zeros((len(wares), wide)), np.zeros((len(wares), wide))
    goods, only = np.zeros((len(who), wide)), np.zeros((len(packs), wide))
    for j, (n, k, offer, size) in enumerate(packs):
        most = -(-wares[n].parts // size)
        if sellers[k].least_order and offer.price:  # as many as reach the least order alone
            most += -(-sellers[k].least_order // offer.price)
        top[j] = most if offer.stock is None else min(most, offer.stock)
        price[j] = costs[n, j] = goods[used[k] - len(packs), j] = offer.price
        has[n, j] = size
        only[j, j], only[j, used[k]] = 1, -top[j]
    for k, at in used.items():
        price[at], goods[at - len(packs), at] = sellers[k].delivery, -sellers[k].least_order
    from scipy.optimize import Bounds, LinearConstraint, milp

    solved = milp(
        price,
        constraints=[
            LinearConstraint(has, lb=[w.parts for w in wares]),
            LinearConstraint(costs, lb=least or 0),
            LinearConstraint(goods, lb=0),
            LinearConstraint(only, ub=0),
            LinearConstraint(price[None, :], ub=min(below, NEVER) - 1),
        ],
        integrality=np.ones(wide),
        bounds=Bounds(np.where(np.arange(wide) < len(packs), 0, bool(least)), top),
        options={"node_limit": NODES, "time_limit": WALL_S, "mip_rel_gap": 0.0},
    )
    if solved.x is None:
        return None, NEVER if solved.status == 2 else 0
    lines: dict[int, list[Bought]] = {k: [] for k in who}
    for (_, k, offer, _), number in zip(packs, np.rint(solved.x[: len(packs)]), strict=True):
        if number:
            lines[k].append(Bought(offer, int(number)))
    made = _ordered(sellers, lines)
    known = math.ceil(solved.mip_dual_bound - NEAR * max(1.0, abs(solved.mip_dual_bound)) - NEAR)
    return made, made.total if solved.status == 0 else min(made.total, max(0, known))


def missing_of(item: str, qty: Fraction, suppliers: Sequence[Supplier]) -> str:
    """What is wrong where suppliers can't give so much of an item; empty where they can."""
    offers = [o for s in suppliers for o in s.offers if o.item == item]
    if not offers:
        return f"nobody offers “{item}”"
    if any(o.stock is None for o in offers):
        return ""
    there = sum((o.pack * (o.stock or 0) for o in offers), Fraction(0))
    return f"all offers of “{item}” together have {float(there):g} of the {float(qty):g} needed" if there < qty else ""


def alone(needs: Mapping[str, Fraction], supplier: Supplier) -> tuple[Buying | None, list[str]]:
    """All of it of one supplier, or none with the items it has too little of."""
    missing = [item for item, qty in needs.items() if qty > 0 and missing_of(item, qty, [supplier])]
    if missing:
        return None, missing
    try:
        return buy(needs, [supplier]), []
    except BadInput:
        return None, []
