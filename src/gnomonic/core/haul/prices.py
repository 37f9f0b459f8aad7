"""Who sells what, for how much and until when: a supplier's price list as it was given on a day."""

from collections.abc import Iterable, Mapping, Sequence
from datetime import date, timedelta
from fractions import Fraction
from typing import Annotated

from pydantic import Field

from gnomonic.core.haul.buying import Offer, Supplier
from gnomonic.core.haul.held import Amount, Cents, Words
from gnomonic.core.haul.rules import haul_rule
from gnomonic.core.haul.wares import KEY
from gnomonic.core.limits import MOST_OFFERS
from gnomonic.core.record import Record


class Price(Record):
    """A pack of a ware: how much is in it, its price (cents), how many packs there are (none: as many as are wanted)."""

    item: Annotated[str, Field(pattern=KEY)]
    pack: Amount
    price: Cents
    stock: Annotated[int, Field(ge=0, le=10**7)] | None = None


class Seller(Record):
    """A supplier and its prices of the day ``dated``; ``address`` where they can be asked for."""

    name: Annotated[str, Field(min_length=1, max_length=60)]
    currency: Annotated[str, Field(pattern="^[A-Z]{3}$")]
    delivery: Cents = 0
    least_order: Cents = 0
    lead_days: Annotated[int, Field(ge=0, le=365)] = 0
    valid_until: date | None = None
    dated: date
    address: Words = ""
    prices: Annotated[tuple[Price, ...], Field(max_length=MOST_OFFERS)] = ()

    def old(self, today: date) -> str:
        """Why these prices are not to be relied on any more; empty where they are."""
        if self.valid_until is not None and today > self.valid_until:
            return f"held until {self.valid_until.isoformat()}"
        if self.valid_until is None and today > self.dated + timedelta(days=haul_rule("old_days")):
            return f"of {self.dated.isoformat()}"
        return ""

    def sells(self, wares: Mapping[str, object]) -> Supplier:
        """What it offers of some wares, to buy by."""
        offers = tuple(Offer(p.item, Fraction(p.pack), p.price, p.stock) for p in self.prices if p.item in wares)
        return Supplier(self.name, self.delivery, self.least_order, offers)


def unit_prices(sellers: Iterable[Seller]) -> dict[str, Fraction]:
    """The least that one unit of every ware costs (cents), delivery not counted."""
    least: dict[str, Fraction] = {}
    for seller in sellers:
        for price in seller.prices:
            if price.stock != 0:
                each = price.price / Fraction(price.pack)
                least[price.item] = min(each, least.get(price.item, each))
    return least


def of_currency(sellers: Sequence[Seller], currency: str) -> list[Seller]:
    """Those whose prices are in a currency: amounts of another are not added to it."""
    return [s for s in sellers if s.currency == currency]
