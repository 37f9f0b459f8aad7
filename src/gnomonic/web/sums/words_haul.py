"""The answers of the sums of buying in words."""

from collections import Counter
from collections.abc import Callable
from typing import Any

from gnomonic.core.say import Say, Values

Answer = dict[str, Any]


def _money(value: float) -> str:
    return f"{value:,.2f}"


def stock(a: Answer, q: Answer) -> list[Say]:
    """What is cut from what."""
    ways = Counter((row["stock"], row["length_m"], tuple(row["cuts_m"]), row["left_m"]) for row in a["layout"])
    said = []
    for (name, length, cuts, left), times in ways.items():
        values: Values = {"length": (length, "cut"), "left": (left, "cut")}
        values |= {f"c{k}": (m, "cut") for k, m in enumerate(cuts)}
        whose = "on hand" if name.startswith("have") else "bought"
        pieces = ", ".join(f"{{c{k}}}" for k in range(len(cuts)))
        said.append(Say(f"{times} × {{length}} {whose}: {pieces}; {{left}} left.", values))
    sure = "no cheaper way is possible" if a["proven"]["cost"] else f"it can't be under {_money(a['bound']['cost'])}"
    head = f"{a['opened']} lengths opened for {_money(a['cost'])}: {sure}."
    return [Say(head), *said, Say("{waste} goes to sawdust and short ends.", {"waste": (a["waste_m"], "cut")})]


def buy(a: Answer, q: Answer) -> list[Say]:
    """Orders, and what one supplier alone would cost."""
    sure = "nothing can cost less" if a["proven"] else f"it can't be under {_money(a['bound'])}"
    said = [Say(f"{_money(a['total'])}: goods {_money(a['goods'])}, delivery {_money(a['delivery'])}; {sure}.")]
    for order in a["orders"]:
        values: Values = {"name": order["name"]}
        lines = []
        for k, line in enumerate(order["lines"]):
            values[f"i{k}"] = line["item"]
            lines.append(f"{line['packs']} × {line['pack']:g} {{i{k}}} {_money(line['price'])}")
        said.append(Say("Of {name}: " + "; ".join(lines) + ".", values))
    for one in a["single"]:
        values = {"name": one["name"], **{f"m{k}": item for k, item in enumerate(one["missing"])}}
        missing = ", ".join(f"{{m{k}}}" for k in range(len(one["missing"])))
        if one["total"] is not None:
            said.append(Say(f"All of {{name}} would be {_money(one['total'])}.", values))
        elif missing:
            said.append(Say(f"{{name}} alone can't: too little {missing}.", values))
        else:
            said.append(Say("{name} alone can't: the order stays under the least it takes.", values))
    return said


def eac(a: Answer, q: Answer) -> list[Say]:
    """A year of it."""
    years = [y for y in a["bought_in"] if y]
    again = f" It is bought again after {', '.join(f'{y:g}' for y in years)} years." if years else ""
    left = (
        f" The last one is good for {a['left_years']:g} years more; that is no income here." if a["left_years"] else ""
    )
    return [
        Say(f"{_money(a['yearly'])} at the end of every year is what it costs, {_money(a['present'])} in money of today.{again}{left}")
    ]  # fmt: skip


def mass(a: Answer, q: Answer) -> list[Say]:
    """What it weighs."""
    values: Values = {"all": (a["mass_kg"], "mass"), "one": (a["each_kg"], "mass")}
    several = ", {one} each" if a["mass_kg"] > a["each_kg"] else ""
    return [Say("It weighs {all}" + several + ".", values)]


def days(a: Answer, q: Answer) -> list[Say]:
    """When each begins, and the chain that makes it so long."""
    sure = (
        "no order of the work ends sooner" if a["proven"] else f"no order of the work ends before hour {a['bound_h']:g}"
    )
    said = [Say(f"The last ends at hour {a['makespan_h']:g}: {sure}.")]
    rows = sorted((start, name) for name, start in a["starts_h"].items())
    said += [Say(f"hour {start:g}: {{name}}", {"name": name}) for start, name in rows]
    names: Values = {f"c{k}": name for k, name in enumerate(a["critical"])}
    return [*said, Say("What makes it so long: " + " → ".join(f"{{c{k}}}" for k in range(len(names))) + ".", names)]


HAULING: dict[str, Callable[[Answer, Answer], list[Say]]] = {
    "stock": stock,
    "buy": buy,
    "eac": eac,
    "mass": mass,
    "days": days,
}
