"""``stock``, ``buy``, ``eac`` and ``mass``: what is cut from what, from whom it is bought, what a year of it costs, what it weighs."""

import math
from collections import Counter, defaultdict
from collections.abc import Iterable
from decimal import Decimal
from fractions import Fraction
from typing import Annotated, Literal

from pydantic import Field

from gnomonic.core.calc.parts import Answer, Input, NotNegative, Positive, why
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.wire import gauge
from gnomonic.core.finish.cable import GRAVITY
from gnomonic.core.haul.buying import Offer, Supplier, alone, buy
from gnomonic.core.haul.cutting import UNIT_M, Cut, Length, TooLittle, cut_lengths
from gnomonic.core.haul.life import over_years
from gnomonic.core.haul.mass import densities, fabric_kg_m, wire_kg_m

MOST_PIECES = 20_000
MOST_PLACES = 6  # decimal places of a price or a pack
Text = Annotated[str, Field(max_length=120)]
Count = Annotated[int, Field(ge=1, le=MOST_PIECES)]


class PieceInput(Input):
    """So many pieces of a length."""

    length_m: Annotated[float, Field(ge=0.001, le=100)]
    count: Count = 1
    kind: Text = ""


class HaveInput(Input):
    """Lengths that are owned; a price counts when one is opened."""

    length_m: Annotated[float, Field(ge=0.001, le=100)]
    count: Count = 1
    kind: Text = ""
    price: NotNegative = 0.0


class LengthInput(Input):
    """A length that is sold."""

    length_m: Annotated[float, Field(ge=0.001, le=100)]
    price: NotNegative
    kind: Text = ""
    count: Annotated[int, Field(ge=0, le=MOST_PIECES)] | None = None


class StockInput(Input):
    """``stock``."""

    need: Annotated[list[PieceInput], Field(min_length=1, max_length=500)]
    have: Annotated[list[HaveInput], Field(max_length=500)] = Field(default_factory=list)
    buy: Annotated[list[LengthInput], Field(max_length=500)] = Field(default_factory=list)
    kerf_m: Annotated[float, Field(ge=0, le=0.1)] = 0.003
    keep_m: NotNegative = 1.0


def whole(prices: Iterable[tuple[str, float]]) -> tuple[list[int], int]:
    """Numbers with few decimal places as whole parts, and how many parts one is.  Raises BadInput (the path given with a number)."""
    exact = []
    for path, price in prices:
        value = Decimal(repr(price)).normalize()
        if -int(value.as_tuple().exponent) > MOST_PLACES:
            raise BadInput(path, f"{path} ({price:g}) has more than {MOST_PLACES} decimal places")
        exact.append(Fraction(value))
    parts = math.lcm(*(v.denominator for v in exact)) if exact else 1
    return [int(v * parts) for v in exact], parts


def calc_stock(q: StockInput) -> Answer:
    """Pieces cut from lengths, kind by kind: least money, then fewest lengths opened."""
    if sum(n.count for n in q.need) > MOST_PIECES:
        raise BadInput("need", f"need has more than {MOST_PIECES} pieces: cut them in parts")
    sold = [(f"have[{k}].price", h.price) for k, h in enumerate(q.have)]
    prices, parts = whole(sold + [(f"buy[{k}].price", b.price) for k, b in enumerate(q.buy)])
    lengths: dict[str, list[Length]] = defaultdict(list)
    for k, have in enumerate(q.have):
        lengths[have.kind].append(Length(f"have{k}", have.length_m, prices[k], have.count))
    for k, kind in enumerate(q.buy):
        lengths[kind.kind].append(Length(f"buy{k}", kind.length_m, prices[len(q.have) + k], kind.count))
    cuts: dict[str, Cut] = {}
    for kind_of in dict.fromkeys(n.kind for n in q.need):
        rows = [k for k, n in enumerate(q.need) if n.kind == kind_of]
        try:
            cuts[kind_of] = cut_lengths(
                [(q.need[k].length_m, q.need[k].count) for k in rows], lengths[kind_of], q.kerf_m
            )
        except TooLittle as error:
            field, called = f"need[{rows[0]}].count", f" of kind “{kind_of}”" if kind_of else ""
            raise BadInput(field, f"{field}: {error.sentence}{called}") from None
        except BadInput as error:
            row = rows[int(error.field.partition("[")[2].partition("]")[0])]
            field = f"need[{row}].length_m"
            raise BadInput(field, error.sentence.replace(error.field, field)) from None
    layout = [row for cut in cuts.values() for row in cut.layout]
    bought = Counter(row.name for row in layout if row.name.startswith("buy"))
    left = [row.left_m for row in layout]
    used = sum(row.length_m - sum(row.cuts_m) - row.left_m for row in layout)
    kept = [m for m in left if m >= q.keep_m - UNIT_M / 2]
    cost, opened = sum(c.cost for c in cuts.values()), len(layout)
    bound = {"cost": sum(c.cost_bound for c in cuts.values()), "opened": sum(c.opened_bound for c in cuts.values())}
    return {
        "cost": cost / parts,
        "opened": opened,
        "bought": [
            {"length_m": b.length_m, "kind": b.kind, "count": bought[f"buy{k}"]}
            for k, b in enumerate(q.buy)
            if bought[f"buy{k}"]
        ],
        "layout": [
            {"stock": row.name, "length_m": row.length_m, "cuts_m": list(row.cuts_m), "left_m": row.left_m}
            for row in layout
        ],
        "offcuts_m": kept,
        "waste_m": used + sum(left) - sum(kept),
        "proven": {key: all(c.proven[key] for c in cuts.values()) for key in ("cost", "opened")},
        "bound": {"cost": bound["cost"] / parts, "opened": bound["opened"]},
        "why": [
            why(
                "least money, then fewest lengths opened; pieces fit a length S when Σ(piece + kerf) ≤ S + kerf",
                f"cost {cost / parts:g} against a bound of {bound['cost'] / parts:g}, {opened} lengths against {bound['opened']}",
                "column generation, Gilmore and Gomory 1961, from memory; docs/method.md §17",
            )
        ],
    }


class NeedInput(Input):
    """So much of an item."""

    item: Annotated[str, Field(min_length=1, max_length=120)]
    qty: Positive


class OwnedInput(Input):
    """What there is of an item."""

    item: Annotated[str, Field(min_length=1, max_length=120)]
    qty: NotNegative


class OfferInput(Input):
    """A pack of an item."""

    item: Annotated[str, Field(min_length=1, max_length=120)]
    pack: Positive
    price: NotNegative
    stock: Annotated[int, Field(ge=0, le=10**9)] | None = None


class SupplierInput(Input):
    """A supplier and the offers."""

    name: Annotated[str, Field(min_length=1, max_length=120)]
    delivery: NotNegative = 0.0
    least_order: NotNegative = 0.0
    offers: Annotated[list[OfferInput], Field(max_length=2000)]


class BuyInput(Input):
    """``buy``."""

    need: Annotated[list[NeedInput], Field(min_length=1, max_length=500)]
    owned: Annotated[list[OwnedInput], Field(max_length=500)] = Field(default_factory=list)
    suppliers: Annotated[list[SupplierInput], Field(min_length=1, max_length=40)]


def _exact(path: str, value: float) -> Fraction:
    (whole_of,), parts = whole([(path, value)])
    return Fraction(whole_of, parts)


def calc_buy(q: BuyInput) -> Answer:
    """Whole packs from one supplier or several."""
    names = [s.name for s in q.suppliers]
    if twice := next((n for k, n in enumerate(names) if n in names[:k]), None):
        raise BadInput("suppliers", f"suppliers: two are called “{twice}”; each has a name of its own")
    priced = []
    for k, s in enumerate(q.suppliers):
        priced += [(f"suppliers[{k}].delivery", s.delivery), (f"suppliers[{k}].least_order", s.least_order)]
        priced += [(f"suppliers[{k}].offers[{j}].price", o.price) for j, o in enumerate(s.offers)]
    prices, parts = whole(priced)
    at = iter(prices)
    suppliers = []
    for k, s in enumerate(q.suppliers):
        delivery, least = next(at), next(at)
        offers = tuple(
            Offer(o.item, _exact(f"suppliers[{k}].offers[{j}].pack", o.pack), next(at), o.stock)
            for j, o in enumerate(s.offers)
        )
        suppliers.append(Supplier(s.name, delivery, least, offers))
    needs: dict[str, Fraction] = defaultdict(Fraction)
    for k, need in enumerate(q.need):
        needs[need.item] += _exact(f"need[{k}].qty", need.qty)
    for k, own in enumerate(q.owned):
        if own.item in needs:
            needs[own.item] -= _exact(f"owned[{k}].qty", own.qty)
    wanted = {item: qty for item, qty in needs.items() if qty > 0}
    made = buy(wanted, suppliers)
    units: dict[str, Fraction] = defaultdict(Fraction)
    for order in made.orders:
        for line in order.lines:
            units[line.offer.item] += line.units
    single = [(s.name, *alone(wanted, s)) for s in suppliers]
    return {
        "total": made.total / parts,
        "goods": made.goods / parts,
        "delivery": made.delivery / parts,
        "orders": [
            {
                "name": order.supplier.name,
                "lines": [
                    {"item": b.offer.item, "pack": float(b.offer.pack), "packs": b.packs, "units": float(b.units), "price": b.price / parts}
                    for b in order.lines
                ],
                "goods": order.goods / parts,
                "delivery": order.supplier.delivery / parts,
            }
            for order in made.orders
        ],
        "over": [{"item": item, "units": float(got - needs[item])} for item, got in units.items() if got > needs[item]],
        "single": [
            {"name": name, "total": one.total / parts if one else None, "missing": missing}
            for name, one, missing in single
        ],
        "proven": made.proven,
        "bound": made.bound / parts,
        "why": [
            why(
                "least goods and delivery in whole packs, then fewest suppliers; every choice of suppliers is priced",
                f"{made.goods / parts:g} + {made.delivery / parts:g} = {made.total / parts:g} against a bound of {made.bound / parts:g}",
                "derived in docs/method.md §17",
            )
        ],
    }  # fmt: skip


class EacInput(Input):
    """``eac``."""

    cost: NotNegative
    rate: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)]
    years: Annotated[float, Field(gt=0, le=200, allow_inf_nan=False)]
    life_years: Annotated[float, Field(ge=0.1, le=1000, allow_inf_nan=False)] | None = None
    upkeep: NotNegative = 0.0


def calc_eac(q: EacInput) -> Answer:
    """Equal yearly cost over the years asked, with what is bought again in its year."""
    life = q.years if q.life_years is None else q.life_years
    made = over_years(q.cost, life, q.years, q.rate, q.upkeep)
    return {
        "yearly": made.yearly,
        "present": made.present,
        "bought_in": list(made.bought_in),
        "left_years": made.left_years,
        "why": [
            why(
                "equal yearly cost of C over n years at rate r: C·r/(1 − (1+r)^−n); what is bought in year k is worth C/(1+r)^k now",
                f"bought {len(made.bought_in)} ×, worth {made.present:.2f} now: {made.yearly:.2f} a year for {q.years:g} years at {q.rate * 100:g} %",
                "any engineering-economics text; docs/method.md §17",
            ),
            why(
                "what the last one could do beyond the years asked is no income",
                f"{made.left_years:g} years of it are left over",
                "common practice",
            ),
        ],
    }


class MassInput(Input):
    """``mass``."""

    of: Literal["wire", "fabric", "wood", "concrete"]
    length_m: Positive | None = None
    count: Annotated[int, Field(ge=1, le=10**6)] = 1
    d_m: Annotated[float, Field(gt=0, le=2)] | None = None
    gauge: float | None = None
    line_wires: Annotated[int, Field(ge=1, le=60)] | None = None
    stay_gauge: float | None = None
    stay_m: Annotated[float, Field(gt=0, le=2)] | None = None
    height_m: Annotated[float, Field(gt=0, le=5)] | None = None
    wood: Literal["softwood", "dense_softwood", "hardwood", "heavy_hardwood"] = "softwood"
    volume_m3: Positive | None = None


MASS_KEYS = {
    "wire": ("length_m",),
    "fabric": ("length_m", "line_wires", "stay_m", "height_m"),
    "wood": ("length_m", "d_m"),
    "concrete": ("volume_m3",),
}


def calc_mass(q: MassInput) -> Answer:
    """Mass of wire, of a roll of fabric, of posts, of concrete."""
    for key in MASS_KEYS[q.of]:
        if getattr(q, key) is None:
            raise BadInput(key, f"{key} is missing: the mass of {q.of} is reckoned from {', '.join(MASS_KEYS[q.of])}")
    long, steel = q.length_m or 0.0, densities()["steel"].value
    if q.of in ("wire", "fabric"):
        if (q.d_m is None) == (q.gauge is None):
            raise BadInput("d_m", "give how thick the wire is once: d_m or gauge")
        d = gauge(q.gauge).m if q.gauge is not None else q.d_m or 0.0
    if q.of == "wire":
        each, density = wire_kg_m(d), steel
        one, working = each * long, f"{steel:g} kg/m³ × π/4·{d:.5f}² = {each * 1000:.1f} g/m, × {long:g} m"
    elif q.of == "fabric":
        stay_d = d if q.stay_gauge is None else gauge(q.stay_gauge).m
        each, density = fabric_kg_m([d] * (q.line_wires or 0), q.stay_m or 1.0, stay_d, q.height_m or 0.0), steel
        one = each * long
        working = f"{q.line_wires} line wires and a stay of {q.height_m:g} m every {q.stay_m:g} m: {each:.3f} kg/m, × {long:g} m; knots and curves add a little"
    elif q.of == "wood":
        density = densities()[q.wood].value
        each = density * math.pi / 4 * (q.d_m or 0.0) ** 2
        one, working = each * long, f"{density:g} kg/m³ × π/4·{q.d_m:g}² × {long:g} m; freshly treated up to twice that"
    else:
        density, each = densities()["concrete"].value, 0.0
        one = density * (q.volume_m3 or 0.0)
        working = f"{density:g} kg/m³ × {q.volume_m3:g} m³"
    source = densities()["steel" if q.of in ("wire", "fabric") else q.wood if q.of == "wood" else "concrete"].source
    return {
        "mass_kg": one * q.count,
        "each_kg": one,
        "kg_per_m": each or None,
        "weight_n": one * q.count * GRAVITY,
        "density_kg_m3": density,
        "why": [why("mass = volume × density", working, source)],
    }
