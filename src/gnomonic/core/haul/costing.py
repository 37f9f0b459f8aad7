"""What a job costs: every charge in whole cents, shared out over its lines so that they sum to it.

Source: common practice; rounding half up, tax once on the sum; docs/method.md §17.
"""

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

from gnomonic.core.haul.held import Held
from gnomonic.core.haul.money import half_up, shared_out
from gnomonic.core.haul.supply import Supply, Wanted, pieces_of
from gnomonic.core.haul.takeoff import JobNeed, Need
from gnomonic.core.haul.terms import DIGGING, STEPS, Terms
from gnomonic.core.haul.work import minutes_of
from gnomonic.core.plan.model import Plan


@dataclass(frozen=True, slots=True)
class Charge:
    """One line of the cost: ``what`` is material, labour, plant, fuel or delivery; ``cents`` (none: nobody sells it) shared out over ``lines``.

    Material is of a ``need``: ``amount`` of it is needed, what is on hand of that costs ``stock``.  Labour is of a ``step``, its amount hours.
    """

    what: str
    amount: float
    cents: int | None
    lines: Mapping[str, int]
    need: Need | None = None
    step: str = ""
    stock: int = 0


@dataclass(frozen=True, slots=True)
class Cost:
    """All charges, with what is put on them, and the sum; ``missing`` counts charges without a price, which are in no sum."""

    charges: tuple[Charge, ...]
    margin: int
    tax: int
    margins: Mapping[str, int]

    @property
    def cost(self) -> int:
        """What it costs."""
        return sum(c.cents or 0 for c in self.charges)

    @property
    def net(self) -> int:
        """Cost with its margin."""
        return self.cost + self.margin

    @property
    def total(self) -> int:
        """With tax."""
        return self.net + self.tax

    @property
    def missing(self) -> int:
        """Charges that have no price."""
        return sum(c.cents is None for c in self.charges)

    def of(self, what: str) -> int:
        """The sum of one sort of charge."""
        return sum(c.cents or 0 for c in self.charges if c.what == what)

    @property
    def hours(self) -> float:
        """Hours of work."""
        return sum(c.amount for c in self.charges if c.what == "labour")

    def by_line(self) -> dict[str, int]:
        """Each line's part of the net sum."""
        parts: dict[str, int] = defaultdict(int)
        for charge in self.charges:
            for line, cents in charge.lines.items():
                parts[line] += cents
        for line, cents in self.margins.items():
            parts[line] += cents
        return dict(parts)


STANDS = ("post", "fill", "gate", "gate_part", "brace_rail", "brace_pin", "brace_wire", "brace_staple", "twist", "strut", "strut_wire", "brace_pipe", "anchor", "low", "crossing")  # fmt: skip


def rehung(cost: Cost, line: str) -> int:
    """What of a line's net sum is bought and done again when what hangs is done: fabric and wire with their fittings, and hanging them.

    Posts, braces, gates and crossings stay; how long those last is not known here.
    """
    net, parts = cost.by_line().get(line, 0), [(c, c.lines.get(line, 0)) for c in cost.charges if c.what != "delivery"]
    again = sum(
        cents
        for c, cents in parts
        if (c.need is not None and c.need.use not in STANDS) or c.step in ("hanging", "extras")
    )
    total = sum(cents for _, cents in parts)
    return half_up(Fraction(net * again, total)) if total else 0


def cost_of(plans: Mapping[str, Plan], made: Supply, held: Sequence[Held], terms: Terms) -> Cost:
    """What lines cost as they are supplied, on a workspace's terms."""
    charges = [*_materials(made, held), *_labour(plans, terms)]
    if made.buying.delivery:
        goods = defaultdict(Fraction, {k: Fraction(1, 10**9) for k in plans})
        for charge in charges:
            for line, cents in charge.lines.items() if charge.what == "material" else ():
                goods[line] += cents
        charges.append(
            Charge("delivery", len(made.buying.orders), made.buying.delivery, _over(made.buying.delivery, goods))
        )
    cost = sum(c.cents or 0 for c in charges)
    margin = half_up(cost * Fraction(terms.margin))
    by: dict[str, Fraction] = defaultdict(Fraction)
    for charge in charges:
        for line, cents in charge.lines.items():
            by[line] += cents
    tax = half_up((cost + margin) * Fraction(terms.tax))
    return Cost(tuple(charges), margin, tax, _over(margin, by))


def _over(cents: int, weights: Mapping[str, Fraction]) -> dict[str, int]:
    return dict(zip(weights, shared_out(cents, list(weights.values())), strict=True))


def _materials(made: Supply, held: Sequence[Held]) -> list[Charge]:
    """Every ware as it is bought and taken from what is on hand; of a family that is sawn one charge for each need, by the length of its pieces."""
    values = {h.id: h.value for h in held}
    charges: list[Charge] = []
    by_ware: dict[str, list[Wanted]] = defaultdict(list)
    for w in made.wanted:
        if not w.both.need.cuts_m:
            by_ware[w.ware.key].append(w)
    for key, alike in by_ware.items():
        none = [0] * len(alike)
        worth = sum(half_up(made.used.get(h.id, Fraction(0)) * values[h.id]) for h in held if h.item == key)
        spent = shared_out(made.paid(key), [w.left for w in alike]) if any(w.left for w in alike) else none
        taken = shared_out(worth, [w.held for w in alike]) if any(w.held for w in alike) else none
        for w, new, own in zip(alike, spent, taken, strict=True):
            charges.append(_material(w, None if key in made.unpriced else new + own, own, _parts(w.both)))
    for sawn in made.sawn:
        rows = [w for w in made.wanted if w.both.need.cuts_m and w.ware.family == sawn.family]
        bought = {sawn.names[o.name] for o in sawn.cut.layout if o.name.startswith("buy")}
        stock = sum(n * values.get(lot, 0) for lot, n in sawn.lots.items())
        paid, long = sum(map(made.paid, bought)), [_long(w.both) for w in rows]
        bare = bought & set(made.unpriced)
        for w, cents, own in zip(rows, shared_out(paid + stock, long), shared_out(stock, long), strict=True):
            charges.append(_material(w, None if bare else cents, own, _parts(w.both)))
    order = {id(w.both.need): k for k, w in enumerate(made.wanted)}
    return sorted(charges, key=lambda c: order[id(c.need)])


def _material(wanted: Wanted, cents: int | None, stock: int, parts: Mapping[str, Fraction]) -> Charge:
    lines = _over(cents, parts) if cents else {}
    return Charge(
        "material", float(wanted.qty), cents, lines, wanted.both.need, stock=stock if cents is not None else 0
    )


def _parts(both: JobNeed) -> dict[str, Fraction]:
    return {line: Fraction(str(round(count, 6))) for line, count in both.parts.items()}


def _long(both: JobNeed) -> Fraction:
    return sum(map(Fraction, map(str, pieces_of(both))), Fraction(0))


def _labour(plans: Mapping[str, Plan], terms: Terms) -> list[Charge]:
    """Hours by step at their rate, and plant with its fuel while posts are set; none where there is no rate."""
    minutes = {line: minutes_of(plan) for line, plan in plans.items()}
    charges = []

    def charge(what: str, step: str, hours: Mapping[str, Fraction], rate: int | None) -> None:
        total = sum(hours.values(), Fraction(0))
        if total > 0:
            cents = None if rate is None else half_up(total * rate)
            lines = _over(cents, hours) if cents else {}
            charges.append(Charge(what, float(total), cents, lines, step=step))

    for step in STEPS:
        charge(
            "labour", step, {k: Fraction(str(round(m[step], 3))) / 60 for k, m in minutes.items()}, terms.hourly(step)
        )
    digging = {k: sum((Fraction(str(round(m[s], 3))) for s in DIGGING), Fraction(0)) / 60 for k, m in minutes.items()}
    for what, rate in (("plant", terms.plant_hour), ("fuel", terms.fuel_hour)):
        if rate is not None:
            charge(what, "", digging, rate)
    return charges
