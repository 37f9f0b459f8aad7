"""Two practice suppliers, invented: an HTTP service on loopback that quotes prices, runs out of stock and changes its mind.

    GET  /suppliers          → {"suppliers": ["the valley yard", …]}
    POST /prices {"supplier": …, "items": ["staple", …]}
                             → {"supplier", "currency", "delivery", "least_order", "lead_days", "valid_until",
                                "offers": [{"item", "pack", "price", "stock"}]}
    POST /orders {"supplier": …, "lines": [{"item", "pack", "packs"}]}
                             → {"order": …} and the stock is less by it; refused where it has run out

Amounts are strings of the currency's own unit.  What is asked for and not sold is left out of the answer.  Prices are made up from the
catalog's index; they rise a little with every order.
"""  # fmt: skip

import argparse
import threading
from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date, timedelta
from decimal import ROUND_HALF_UP, Decimal
from functools import cache
from typing import Any

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.demand.system import systems
from gnomonic.core.fabric.fabrics import fabrics, wires
from gnomonic.core.haul.wares import family_of, unit_of, ware
from gnomonic.shell import port
from gnomonic.standins.service import Answer, Service

DOLLARS_AN_INDEX = Decimal("0.075")  # a driven 6 ft steel post is 100 on the index
RISE = Decimal("0.015")  # with every order
MOST_BYTES = 500_000


@dataclass(frozen=True, slots=True)
class House:
    """One of the two: what it sells, how dear, in what packs, on what terms."""

    name: str
    share: Decimal
    sells: tuple[str, ...]
    packs: Mapping[str, Decimal]
    delivery: Decimal
    least_order: Decimal
    lead_days: int
    valid_days: int
    stock: int | None = None


SMALL = {"m": Decimal(30), "m3": Decimal("0.017"), "small": Decimal(100), "each": Decimal(1)}
LARGE = {"m": Decimal(100), "m3": Decimal(1), "small": Decimal(500), "each": Decimal(5)}
HOUSES = (
    House("the valley yard", Decimal("1.06"), ("heavy", "steel", "wire", "small", "stuff"), SMALL, Decimal(45), Decimal(0), 1, 21),
    House("the wire merchant", Decimal("0.93"), ("steel", "wire", "small"), LARGE, Decimal(95), Decimal(400), 6, 14, 60),
)  # fmt: skip


@cache
def _known() -> dict[str, tuple[str, Decimal]]:
    """What things are sold as and their index, for one or a metre of it, by the start of a ware's key."""
    found: dict[str, tuple[str, Decimal]] = {}
    for key, item in catalog().items():
        made = (
            "heavy"
            if key in ("brace_rail", "strut", "batten", "twist_stick", "breast_board", "anchor_log")
            else "small"
        )
        stuff = item.unit == "m3" or item.group == "fill"
        found[family_of(key)] = ("stuff" if stuff else "wire" if item.unit == "m" else made, Decimal(str(item.index)))
    found[family_of("brace_wire")] = ("wire", Decimal("2.2"))
    found[family_of("gate_leaf")] = ("steel", Decimal(420))
    for label, fabric in fabrics().items():
        found[family_of(label)] = ("wire", Decimal(str(fabric.index)))
    for key, wire in wires().items():
        found[family_of(key)] = ("wire", Decimal(str(wire.index)))
    for system in systems().values():
        for post in system.posts.values():
            made = "steel" if post.material in ("steel", "pipe") else "heavy"
            found[family_of("post", post.title)] = (made, Decimal(str(post.index_m)))
        if {"title", "index_m"} <= set(system.gate_post):
            found[family_of("post", system.gate_post["title"])] = ("heavy", Decimal(str(system.gate_post["index_m"])))
    return found


def indexed(key: str) -> tuple[str, Decimal] | None:
    """What a ware is sold as and its index, for one of it or for a unit; None for what nobody here knows."""
    of = ware(key)
    parts = of.family.split(".")
    for start in (".".join(parts[:2]), parts[0]):
        if start in _known():
            made, index = _known()[start]
            by_length = of.long_mm and (start.startswith("post.") or made == "wire")
            if long_mm := _index_is_of_mm().get(start):
                return made, index * Decimal(of.long_mm or long_mm) / long_mm
            return made, index * Decimal(of.long_mm) / 1000 if by_length else index
    return None


@cache
def _index_is_of_mm() -> dict[str, Decimal]:
    """What is sold in lengths at an index of one length: that length, by the start of a ware's key."""
    sold = {rule.item for of in systems().values() for rule in of.sticks}
    found = {family_of(key): Decimal(str(catalog()[key].length_m)) * 1000 for key in sold}
    return found | {family_of("gate_leaf"): Decimal(3000)}


@dataclass(slots=True)
class Houses:
    """Both houses' own books: what was ordered."""

    orders: dict[str, int] = field(default_factory=dict)
    sold: dict[tuple[str, str], int] = field(default_factory=dict)
    lock: threading.Lock = field(default_factory=threading.Lock)

    def _house(self, name: Any) -> House:
        found = next((h for h in HOUSES if h.name == name), None)
        if found is None:
            raise ValueError("there is no such supplier")
        return found

    def prices(self, name: Any, items: Any) -> dict[str, Any]:
        """What is offered of some items.  Raises ValueError."""
        house = self._house(name)
        if not isinstance(items, list) or len(items) > 2000:
            raise ValueError("items is a list of what prices are asked for")
        offers = [o for item in dict.fromkeys(map(str, items)) if (o := self._offer(house, item))]
        return {
            "supplier": house.name, "currency": "USD", "delivery": str(house.delivery), "least_order": str(house.least_order), "lead_days": house.lead_days,
            "valid_until": (date.today() + timedelta(days=house.valid_days)).isoformat(), "offers": offers,
        }  # fmt: skip

    def _offer(self, house: House, item: str) -> dict[str, Any] | None:
        try:
            known = indexed(item)
        except ValueError:
            return None
        if known is None or known[0] not in house.sells or known[1] <= 0:
            return None
        unit = unit_of(item)
        each = "small" if known[0] == "small" and known[1] < 8 else "each"
        pack = house.packs[unit or each] if unit or not ware(item).long_mm or each == "small" else Decimal(1)
        share = house.share * (1 + RISE * self.orders.get(house.name, 0))
        price = (known[1] * DOLLARS_AN_INDEX * share * pack).quantize(Decimal("0.01"), ROUND_HALF_UP)
        left = None if house.stock is None else max(0, house.stock - self.sold.get((house.name, item), 0))
        return {"item": item, "pack": f"{pack.normalize():f}", "price": str(max(price, Decimal("0.01"))), "stock": left}

    def order(self, name: Any, lines: Any) -> dict[str, Any]:
        """Take an order; its stock is less by it.  Raises ValueError with what has run out."""
        house = self._house(name)
        if not isinstance(lines, list) or not lines:
            raise ValueError("an order has lines")
        with self.lock:
            for line in lines:
                offer = self._offer(house, str(line.get("item")))
                if offer is None or not isinstance(line.get("packs"), int) or line["packs"] < 1:
                    raise ValueError(f"{line.get('item')} is not sold here")
                if offer["stock"] is not None and line["packs"] > offer["stock"]:
                    raise ValueError(f"{line['item']} has run out: {offer['stock']} packs are left")
            for line in lines:
                key = (house.name, line["item"])
                self.sold[key] = self.sold.get(key, 0) + line["packs"]
            self.orders[house.name] = self.orders.get(house.name, 0) + 1
            return {"order": f"{''.join(w[0] for w in house.name.split())}-{self.orders[house.name]:03d}"}


class PracticeSuppliers(Service):
    """Both houses listening on loopback."""

    def __init__(self, houses: Houses, port: int = 0) -> None:
        def get(path: str) -> Answer:
            known = path == "/suppliers"
            return (200, {"suppliers": [h.name for h in HOUSES]}) if known else (404, {"detail": "ask for /suppliers"})

        def post(path: str, body: dict[str, Any]) -> Answer:
            if path == "/prices":
                return 200, houses.prices(body.get("supplier"), body.get("items"))
            if path == "/orders":
                return 200, houses.order(body.get("supplier"), body.get("lines"))
            raise ValueError("ask /prices or send to /orders")

        super().__init__("practice suppliers", get, post, MOST_BYTES, port)


def main(words: list[str]) -> int:
    """``gnomonic practice suppliers``: the practice suppliers by themselves."""
    parser = argparse.ArgumentParser(
        prog="gnomonic practice suppliers", description="Two practice suppliers on loopback."
    )
    parser.add_argument("--port", type=port, default=0)
    given = parser.parse_args(words)
    return PracticeSuppliers(Houses(), given.port).until_interrupted("practice suppliers")
