"""Money in whole minor units of its currency (cents), read and printed; never a binary float.

Source of currencies and their places: the general library's copy of the standard's table (ISO 4217).
"""

import re
from collections.abc import Sequence
from decimal import ROUND_HALF_UP, Decimal
from fractions import Fraction

from babel.numbers import format_currency, get_currency_precision, get_currency_symbol, is_currency

from gnomonic.core.errors import BadInput

LOCALE = "en_US"
MOST = 10**12  # cents; more is a slip of the pen
_AMOUNT = re.compile(r"-?\d{1,3}(,\d{3})+(\.\d+)?|-?\d+(\.\d+)?")


def must_be_currency(code: str, field: str = "currency") -> str:
    """A currency's code.  Raises BadInput."""
    if not re.fullmatch("[A-Z]{3}", code) or not is_currency(code):
        raise BadInput(field, f"{field}: “{code[:12]}” is not a currency’s code; write one like USD, EUR or NZD")
    return code


def places(currency: str) -> int:
    """Decimal places of a currency."""
    return get_currency_precision(currency)


def half_up(value: Fraction) -> int:
    """To a whole cent, halves away from zero.

    >>> half_up(Fraction(5, 2)), half_up(Fraction(-5, 2)), half_up(Fraction(7, 3))
    (3, -3, 2)
    """
    whole = (abs(value) + Fraction(1, 2)).__floor__()
    return whole if value >= 0 else -whole


def read_money(text: str, currency: str, field: str) -> int:
    """An amount as it is written, in cents.  Raises BadInput (the field) for what is none, is negative or finer than the currency.

    >>> read_money("1,234.5", "USD", "price"), read_money("900", "JPY", "price")
    (123450, 900)
    """
    plain = text.strip().removeprefix(get_currency_symbol(currency, LOCALE)).strip()
    if not _AMOUNT.fullmatch(plain):
        raise BadInput(field, f"{field}: “{text.strip()[:40]}” is not an amount of money; write it like 12.50")
    value, places = Decimal(plain.replace(",", "")), get_currency_precision(currency)
    if value < 0:
        raise BadInput(field, f"{field}: {plain} is less than nothing; a price is 0 or more")
    cents = value.scaleb(places)
    if cents != cents.to_integral_value():
        raise BadInput(field, f"{field}: {plain} is finer than {currency} goes: {places} decimal places")
    if cents > MOST:
        raise BadInput(field, f"{field}: {plain} is more than is taken for an amount")
    return int(cents)


def amount(cents: int, currency: str) -> Decimal:
    """An amount in the currency's own unit."""
    return Decimal(cents).scaleb(-get_currency_precision(currency))


def show(cents: int, currency: str) -> str:
    """An amount with its sign of currency.

    >>> show(123450, "USD"), show(-5, "EUR"), show(900, "JPY")
    ('$1,234.50', '−€0.05', '¥900')
    """
    shown = format_currency(abs(amount(cents, currency)), currency, locale=LOCALE)
    return f"−{shown}" if cents < 0 else shown


def show_round(value: Fraction, currency: str) -> str:
    """An amount in whole units, with its sign: what a change comes to; empty for less than one.

    >>> show_round(Fraction(1449), "USD"), show_round(Fraction(-1250), "USD"), show_round(Fraction(20), "USD")
    ('+$14', '−$13', '')
    """
    one = 10 ** get_currency_precision(currency)
    whole = half_up(value / one)
    if not whole:
        return ""
    shown = format_currency(Decimal(abs(whole)), currency, format="¤#,##0", locale=LOCALE, currency_digits=False)
    return f"{'−' if whole < 0 else '+'}{shown}"


def percent(share: Decimal) -> str:
    """A share as it is written: 0.0825 is 8.25 %."""
    shown = f"{(share * 100).quantize(Decimal('0.01'), ROUND_HALF_UP):f}"
    return f"{shown.rstrip('0').rstrip('.')} %"


def shared_out(cents: int, weights: Sequence[Fraction]) -> list[int]:
    """An amount shared out by weight in whole cents that sum to it: what is left over goes where most was cut off.

    >>> shared_out(100, [Fraction(1), Fraction(1), Fraction(1)]), shared_out(-5, [Fraction(1), Fraction(0)])
    ([34, 33, 33], [-5, 0])
    """
    total = sum(weights)
    if not weights or not total:
        return [cents, *[0] * (len(weights) - 1)] if weights else []
    exact = [Fraction(abs(cents)) * w / total for w in weights]
    parts = [e.__floor__() for e in exact]
    order = sorted(range(len(parts)), key=lambda k: (parts[k] - exact[k], k))
    for k in order[: abs(cents) - sum(parts)]:
        parts[k] += 1
    return parts if cents >= 0 else [-p for p in parts]
