"""Price lists as CSV: a row an offer, every amount in its currency, every pack in its unit."""

import re
from collections.abc import Iterable, Mapping, Sequence
from datetime import date
from decimal import Decimal, InvalidOperation

from gnomonic.core.errors import BadInput
from gnomonic.core.haul.money import amount, must_be_currency, read_money
from gnomonic.core.haul.prices import Price, Seller
from gnomonic.core.haul.wares import KEY, UNIT_WORDS, unit_of
from gnomonic.core.limits import MOST_OFFERS, MOST_SELLERS
from gnomonic.formats.cells import write_rows
from gnomonic.formats.table_csv import at, must_have, read_table

COLUMNS = ("supplier", "item", "what", "unit", "pack", "price", "currency", "stock", "delivery", "least order", "lead days", "valid until")  # fmt: skip
NEEDED = ("supplier", "item", "unit", "pack", "price", "currency")
WORDS = {
    "each": "each",
    "piece": "each",
    "pieces": "each",
    "m": "m",
    "metre": "m",
    "metres": "m",
    "m3": "m3",
    "m³": "m3",
}
OF_THE_SUPPLIER = ("currency", "delivery", "least order", "lead days", "valid until")


def write_prices(sellers: Sequence[Seller], wanted: Iterable[tuple[str, str]] = (), currency: str = "USD") -> bytes:
    """What suppliers offer, and a row without a price for every ware of ``wanted`` (key, words) that none of them does."""
    words = dict(wanted)
    rows: list[Mapping[str, str]] = []
    for s in sellers:
        for p in s.prices:
            rows.append(
                {
                    "supplier": s.name, "item": p.item, "what": words.get(p.item, ""), "unit": UNIT_WORDS[unit_of(p.item)], "pack": f"{p.pack.normalize():f}",
                    "price": str(amount(p.price, s.currency)), "currency": s.currency, "stock": "" if p.stock is None else str(p.stock),
                    "delivery": str(amount(s.delivery, s.currency)), "least order": str(amount(s.least_order, s.currency)), "lead days": str(s.lead_days),
                    "valid until": s.valid_until.isoformat() if s.valid_until else "",
                }
            )  # fmt: skip
    known = {p.item for s in sellers for p in s.prices}
    for key, text in words.items():
        if key not in known:
            rows.append({"item": key, "what": text, "unit": UNIT_WORDS[unit_of(key)], "currency": currency})
    return write_rows(COLUMNS, rows)


def read_prices(body: bytes, today: date) -> list[Seller]:
    """Suppliers of a price list; rows that name no supplier and no price were left to be filled in and are passed over.

    Raises BadInput naming the row and the column.
    """
    found: dict[str, tuple[int, dict[str, str], list[Price]]] = {}
    for n, row in read_table(body, COLUMNS, NEEDED, MOST_OFFERS):
        if not row.get("supplier") and not row.get("price"):
            continue
        must_have(n, row, NEEDED)
        first, head, prices = found.setdefault(row["supplier"], (n, row, []))
        for name in OF_THE_SUPPLIER:
            if row.get(name, "") != head.get(name, ""):
                raise BadInput(at(n, name), f"{at(n, name)}: “{row.get(name, '')[:40]}” is not what row {first} says of {row['supplier'][:60]}: {_mixed(name, head)}")  # fmt: skip
        prices.append(_price(n, row))
        if sum(p.item == prices[-1].item and p.pack == prices[-1].pack for p in prices) > 1:
            raise BadInput(
                at(n, "item"), f"{at(n, 'item')}: a pack of this size of {prices[-1].item} stands above already"
            )
    if not found:
        raise BadInput("file", "the file has no price in it: fill in supplier, pack and price")
    if len(found) > MOST_SELLERS:
        raise BadInput("file", f"the file has {len(found)} suppliers; at most {MOST_SELLERS} are compared")
    return [_seller(n, head, prices, today) for n, head, prices in found.values()]


def _mixed(name: str, head: Mapping[str, str]) -> str:
    if name == "currency":
        return f"a supplier’s prices are in one currency ({head['currency']})"
    return "it is said once for all rows of a supplier"


def _price(n: int, row: dict[str, str]) -> Price:
    if not re.fullmatch(KEY, row["item"]):
        raise BadInput(
            at(n, "item"),
            f"{at(n, 'item')}: “{row['item'][:60]}” is not an item’s key: take the list out of the job, its keys are in it",
        )
    unit, wants = WORDS.get(row["unit"].lower()), UNIT_WORDS[unit_of(row["item"])]
    if unit != wants:
        raise BadInput(
            at(n, "unit"),
            f"{at(n, 'unit')}: “{row['unit'][:20]}” is not the unit of {row['item']}, which is bought by “{wants}”",
        )
    must_be_currency(row["currency"], at(n, "currency"))
    pack = _number(n, "pack", row["pack"])
    if not 0 < pack <= 10**7:
        raise BadInput(at(n, "pack"), f"{at(n, 'pack')}: a pack holds more than nothing; “{row['pack'][:20]}” does not")
    stock = _whole(n, "stock", row["stock"]) if row.get("stock") else None
    return Price(
        item=row["item"], pack=pack, price=read_money(row["price"], row["currency"], at(n, "price")), stock=stock
    )


def _number(n: int, column: str, text: str) -> Decimal:
    try:
        value = Decimal(text)
        if value.is_finite() and round(value, 4) == value:
            return value
    except InvalidOperation:
        pass
    raise BadInput(at(n, column), f"{at(n, column)}: “{text[:20]}” is not a number with up to four places")


def _whole(n: int, column: str, text: str) -> int:
    value = _number(n, column, text)
    if value != value.to_integral_value() or not 0 <= value <= 10**7:
        raise BadInput(at(n, column), f"{at(n, column)}: “{text[:20]}” is not a whole number from 0 up")
    return int(value)


def _seller(n: int, row: dict[str, str], prices: list[Price], today: date) -> Seller:
    if len(row["supplier"]) > 60 or not row["supplier"].isprintable():
        raise BadInput(at(n, "supplier"), f"{at(n, 'supplier')}: a name has at most 60 plain letters")
    until = None
    if text := row.get("valid until"):
        try:
            until = date.fromisoformat(text)
        except ValueError:
            raise BadInput(
                at(n, "valid until"), f"{at(n, 'valid until')}: “{text[:20]}” is not a day; write it like 2026-12-31"
            ) from None
    money = {
        key: read_money(row.get(column) or "0", row["currency"], at(n, column))
        for key, column in (("delivery", "delivery"), ("least_order", "least order"))
    }
    lead = _whole(n, "lead days", row["lead days"]) if row.get("lead days") else 0
    if lead > 365:
        raise BadInput(at(n, "lead days"), f"{at(n, 'lead days')}: {lead} days is more than a year")
    return Seller(
        name=row["supplier"], currency=row["currency"], lead_days=lead, valid_until=until, dated=today, prices=tuple(prices), **money
    )  # fmt: skip
