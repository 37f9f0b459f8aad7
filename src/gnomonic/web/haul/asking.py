"""Suppliers on line: those at ``GNOMONIC_SUPPLIERS_URL``, or the practice suppliers that ship with Gnomonic."""

from collections.abc import Sequence
from datetime import date
from decimal import Decimal
from typing import Any

from pydantic import ValidationError

from gnomonic.core.errors import Away, BadInput
from gnomonic.core.haul.money import must_be_currency, read_money
from gnomonic.core.haul.prices import Price, Seller
from gnomonic.core.limits import MOST_SELLERS
from gnomonic.standins.suppliers import Houses, PracticeSuppliers
from gnomonic.web.outside import OnLine, Outside

UNCHANGED = "nothing was changed"
OUTSIDE = Outside(
    "suppliers", "the supplier", "GNOMONIC_SUPPLIERS_URL", UNCHANGED, "; try again, or take a price list in"
)


class Suppliers(OnLine):
    """What answers for them."""

    def __init__(self) -> None:
        super().__init__("GNOMONIC_SUPPLIERS_URL", lambda: PracticeSuppliers(Houses()))

    def names(self) -> list[str]:
        """Who answers there.  Raises Away."""
        found = OUTSIDE.call(f"{self.address()}/suppliers").get("suppliers")
        if (
            not isinstance(found, list)
            or not 0 < len(found) <= MOST_SELLERS
            or not all(isinstance(n, str) for n in found)
        ):
            raise Away("suppliers", f"the supplier's answer names nobody: {UNCHANGED}")
        return found

    def prices(self, name: str, keys: Sequence[str]) -> Seller:
        """What one of them asks for some wares today.  Raises Away."""
        answer = OUTSIDE.call(f"{self.address()}/prices", {"supplier": name, "items": list(keys)})
        try:
            return read_seller(name, answer, set(keys), self.address())
        except (BadInput, ValidationError, KeyError, TypeError, ValueError, ArithmeticError) as error:
            said = f" ({error.sentence})" if isinstance(error, BadInput) else ""
            raise Away("suppliers", f"the prices of {name} can't be read{said}: {UNCHANGED}") from None


def read_seller(name: str, answer: dict[str, Any], keys: set[str], address: str) -> Seller:
    """A supplier from its answer.  Raises BadInput, Pydantic's error, KeyError, TypeError, ValueError or ArithmeticError."""
    currency = must_be_currency(str(answer["currency"]))
    offers = [o for o in answer["offers"] if o["item"] in keys]
    prices = [
        Price(
            item=o["item"],
            pack=Decimal(str(o["pack"])),
            price=read_money(str(o["price"]), currency, str(o["item"])),
            stock=o.get("stock"),
        )
        for o in offers
    ]
    until = answer.get("valid_until")
    return Seller(
        name=name,
        currency=currency,
        delivery=read_money(str(answer.get("delivery", "0")), currency, "delivery"),
        least_order=read_money(str(answer.get("least_order", "0")), currency, "least order"),
        lead_days=answer.get("lead_days", 0),
        valid_until=date.fromisoformat(until) if until else None,
        dated=date.today(),
        address=address[:120],
        prices=tuple(prices),
    )
