"""The cost of a job in words: what is charged, what is quoted, what a change comes to."""

from collections.abc import Mapping, Sequence
from fractions import Fraction

from gnomonic.core.haul.costing import Charge, Cost
from gnomonic.core.haul.money import show_round
from gnomonic.core.haul.takeoff import UNIT_KINDS, JobNeed, Need
from gnomonic.core.haul.terms import STEPS
from gnomonic.core.haul.wares import ware_of
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Plan
from gnomonic.core.say import Say, Values
from gnomonic.core.tell.needs import GROUPS, group_of, named
from gnomonic.core.units import System, format_quantity

OTHER = {"labour": "Work", "plant": "Plant", "fuel": "Plant", "delivery": "Delivery"}
TITLES = {"plant": "plant while posts are set", "fuel": "fuel for it", "delivery": "delivery"}
ORDER = (*GROUPS, "Work", "Plant", "Delivery")


def charge_words(charge: Charge) -> Say:
    """What a charge is for."""
    if charge.need is not None:
        return named(charge.need)
    return Say(STEPS[charge.step] if charge.what == "labour" else TITLES[charge.what])


def charge_amount(charge: Charge, units: System) -> str:
    """How much of it."""
    if charge.need is not None:
        return format_quantity(charge.amount, UNIT_KINDS[charge.need.unit], units)
    if charge.what == "delivery":
        return f"{charge.amount:.0f} order{'' if charge.amount == 1 else 's'}"
    return f"{charge.amount:.1f} h"


def group_of_charge(charge: Charge) -> str:
    """What it is read under."""
    return group_of(charge.need) if charge.need is not None else OTHER[charge.what]


def grouped(cost: Cost) -> list[tuple[str, list[Charge]]]:
    """Charges under their groups, in the order things are used."""
    rows = [(group, [c for c in cost.charges if group_of_charge(c) == group]) for group in ORDER]
    return [(group, charges) for group, charges in rows if charges]


def index_of(need: Need) -> float:
    """What a need comes to on the price index, a driven 6 ft steel post being 100."""
    return need.each * (need.metres or need.count)


def scope_of(fence: Fence, plan: Plan) -> Say:
    """What is built on a line, in words made from its plan."""
    hung = plan.section
    gates = [g for g in plan.gates if g.kind.leaves]
    values: Values = {
        "name": fence.name,
        "letter": fence.id,
        "hung": hung.named,
        "system": hung.system.title.lower(),
        "long": (plan.course.length_m, "station"),
        "high": (plan.fence_height_m, "cut"),
    }
    extras = "".join(f", {e.title}" for e in hung.extras)  # their lengths are said in the reader's units
    parts = [f"{sum(not p.shared for p in plan.posts)} posts"]
    if gates:
        parts.append(
            "gates " + ", ".join(f"{{g{k}}} ({{l{k}}})" for k in range(len(gates)))
            if len(gates) > 1
            else "gate {g0} ({l0})"
        )
        values |= {f"g{k}": g.name or "unnamed" for k, g in enumerate(gates)} | {
            f"l{k}": (g.leaf_m, "cut") for k, g in enumerate(gates)
        }
    if plan.crossings:
        parts.append(f"{len(plan.crossings)} crossing{'' if len(plan.crossings) == 1 else 's'} of running water")
    standing = (
        f", temporary until {fence.own.until}"
        if fence.own.until
        else ", temporary"
        if fence.own.standing == "temporary"
        else ""
    )
    return Say(
        "{letter} {name}: {long} of {system} ({hung}" + extras + "), {high} high" + standing + "; " + ", ".join(parts),
        values,
    )


def more_or_less(was: Sequence[JobNeed], now: Sequence[JobNeed], each: Mapping[str, Fraction], currency: str) -> str:
    """What a change of the take-off comes to: material at its least price a unit, ``+$14``; on the price index where prices are not known.

    Empty where it comes to nothing worth saying.
    """
    sides = [{both.need.alike: both for both in side} for side in (was, now)]
    cents, index, unknown = Fraction(0), 0.0, False
    for sign, side in ((-1, sides[0]), (1, sides[1])):
        other = sides[1] if sign < 0 else sides[0]
        for alike, both in side.items():
            if alike in other and other[alike].count == both.count and other[alike].need.metres == both.need.metres:
                continue
            index += sign * sum(index_of(need) for _, need in both.needs)
            price = each.get(ware_of(both.need).key)
            if price is None and both.need.each:
                unknown = True
            cents += sign * (price or 0) * Fraction(str(round(both.count, 6)))
    if each and not unknown:
        text = show_round(cents, currency)
        return f"{text} of material" if text else ""
    whole = round(index)
    some = ": not all of it has a price" if each else ""
    return f"{'+' if whole > 0 else '−'}{abs(whole)} on the price index{some}" if whole else ""
