"""Quotes and change orders: frozen when they are made, so that what was said is what stands.

Every amount printed is a whole cent, and every sum printed is the sum of the lines printed above it.
"""

from collections.abc import Mapping, Sequence
from datetime import date
from decimal import Decimal
from fractions import Fraction
from typing import Annotated, Literal

from pydantic import Field

from gnomonic.core.errors import BadInput
from gnomonic.core.haul.costing import Cost
from gnomonic.core.haul.held import Words
from gnomonic.core.haul.money import half_up, shared_out
from gnomonic.core.haul.terms import Share, Terms
from gnomonic.core.log.events import PLAIN_TEXT
from gnomonic.core.record import Record

Text = Annotated[str, Field(max_length=2000, pattern=PLAIN_TEXT)]
Signed = Annotated[int, Field(ge=-(10**13), le=10**13)]


class QuoteLine(Record):
    """A line with its amount, what of it is ``text`` in words."""

    text: Text
    cents: Signed


class Due(Record):
    """A part of the sum and when it is due."""

    text: Text
    share: Share
    cents: Signed


class Sold(Record):
    """So much of a thing at a price for one, margin in it: what changes are counted by."""

    key: str
    text: Text
    amount: float
    unit: str = ""
    each: str = "0"

    @property
    def each_cents(self) -> Fraction:
        """The price of one, in cents, exactly."""
        return Fraction(self.each)


class Option(Record):
    """Another way, what it would come to instead, and what is different."""

    title: Text
    change: Text
    cents: Signed


class Quote(Record):
    """A quote or a change order as it went out."""

    kind: Literal["quote", "change"] = "quote"
    number: Annotated[int, Field(ge=1)]
    revision: Annotated[int, Field(ge=1)] = 1
    version: int
    job: Words
    made_on: date
    valid_until: date
    customer: Words = ""
    who: Words = ""
    currency: str
    scope: tuple[Text, ...]
    lines: tuple[QuoteLine, ...]
    net: Signed
    tax: Signed
    tax_name: str
    tax_share: Share
    total: Signed
    due: tuple[Due, ...]
    options: tuple[Option, ...] = ()
    exclusions: tuple[Text, ...] = ()
    sold: tuple[Sold, ...] = ()
    of: str = ""

    @property
    def called(self) -> str:
        """Its number as it is printed.

        >>> Quote.model_construct(kind="quote", number=7, revision=2).called
        'Q-0007 rev 2'
        """
        head = "Q" if self.kind == "quote" else "C"
        return f"{head}-{self.number:04d}" + (f" rev {self.revision}" if self.revision > 1 else "")


def dues(total: int, terms: Terms) -> tuple[Due, ...]:
    """The payments, which come to the sum."""
    parts = shared_out(total, [Fraction(p.share) for p in terms.payments])
    return tuple(Due(text=p.text, share=p.share, cents=c) for p, c in zip(terms.payments, parts, strict=True))


def taxed(net: int, share: Decimal) -> int:
    """Tax on a sum."""
    return half_up(net * Fraction(share))


def sold_of(cost: Cost, words: Mapping[str, str], units: Mapping[str, str], terms: Terms) -> tuple[Sold, ...]:
    """Every charge at what one of it is sold for, but delivery, which is the builder's own affair; ``words`` and ``units`` by the charge's key."""
    rows = []
    for charge in cost.charges:
        key = key_of(charge.need.alike if charge.need else (), charge.what, charge.step)
        if charge.cents is None or not charge.amount or charge.what == "delivery" or key not in words:
            continue
        each = Fraction(charge.cents) * (1 + Fraction(terms.margin)) / Fraction(str(round(charge.amount, 6)))
        rows.append(Sold(key=key, text=words[key], amount=charge.amount, unit=units.get(key, ""), each=str(each)))
    return tuple(rows)


def key_of(alike: Sequence[object], what: str, step: str) -> str:
    """What a charge is known by from one plan to the next."""
    return " ".join([what, step, *map(str, alike)]).strip()


LEAST_CHANGE = {"": 0.5, "m": 0.05, "m3": 0.0005, "h": 0.02}


def changes(was: Sequence[Sold], now: Sequence[Sold]) -> list[tuple[Sold, float, int]]:
    """What is more or less than was sold, with its amount and what that comes to: at the price it was sold for, today's for what is new."""
    before, found = {s.key: s for s in was}, []
    for row in [*now, *(s for s in was if all(n.key != s.key for n in now))]:
        old = before.get(row.key)
        gone = all(n.key != row.key for n in now)
        more = (0.0 if gone else row.amount) - (old.amount if old else 0.0)
        if abs(more) >= LEAST_CHANGE.get(row.unit, 0.5):
            price = old.each_cents if old else row.each_cents
            found.append((row, more, half_up(Fraction(str(round(more, 6))) * price)))
    return found


def at_prices_sold(was: Sequence[Sold], now: Sequence[Sold]) -> tuple[Sold, ...]:
    """What is sold now at the price it was sold for; at today's what is new: what the next change is counted from."""
    before = {s.key: s.each for s in was}
    return tuple(s.model_copy(update={"each": before.get(s.key, s.each)}) for s in now)


def must_change(quote: Quote, accepted: bool) -> None:
    """Raises BadInput where a quote that was accepted is to be changed."""
    if accepted:
        raise BadInput(
            "quote", f"{quote.called} was accepted and stays as it is: make a new revision, or a change order"
        )
