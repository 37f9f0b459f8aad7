"""What both practice suppliers ask for a take-off."""

from datetime import date
from decimal import Decimal

from gnomonic.core.haul.prices import Price, Seller
from gnomonic.core.haul.wares import ware_of
from gnomonic.standins.suppliers import HOUSES, Houses

TODAY = date(2026, 11, 27)


def practice(needs):
    """Both price lists for these needs."""
    keys, found = [ware_of(n.need).key for n in needs], []
    for house in HOUSES:
        rows = tuple(Price(item=o["item"], pack=Decimal(o["pack"]), price=int(Decimal(o["price"]) * 100), stock=o["stock"]) for o in Houses().prices(house.name, keys)["offers"])  # fmt: skip
        found.append(Seller(name=house.name, currency="USD", dated=TODAY, delivery=int(house.delivery * 100), least_order=int(house.least_order * 100), prices=rows))  # fmt: skip
    return found
