"""What a thing costs for every year it is wanted: bought now, and again in the year it is done.

Source: equal yearly cost of a present sum, any engineering-economics text (uniform-series capital recovery); docs/method.md §17.
"""

from dataclasses import dataclass

from gnomonic.core.units import reaching


def yearly(cost: float, rate: float, years: float) -> float:
    """The equal sum at the end of each of so many years that is worth ``cost`` now, at a rate a year; cost a year without a rate.

    >>> round(yearly(1000, 0.05, 10), 2), round(yearly(1000, 0.05, 1), 2), yearly(1000, 0.0, 10)
    (129.5, 1050.0, 100.0)
    """
    return cost / years if abs(rate) < 1e-9 else cost * rate / (1 - (1 + rate) ** -years)


@dataclass(frozen=True, slots=True)
class OverYears:
    """A thing over some years: in which years it is bought (0: now), what all of it is worth now, and the equal sum a year."""

    bought_in: tuple[float, ...]
    present: float
    yearly: float
    left_years: float


def over_years(cost: float, life_years: float, years: float, rate: float, upkeep: float = 0.0) -> OverYears:
    """Buy a thing that lasts ``life_years`` as often as it takes to have it for ``years``; ``upkeep`` is paid at the end of each.

    Every one costs what the first does, in money of today; what the last could do beyond the years is no income
    (``left_years``).

    >>> net = over_years(100.0, 1.0, 10.0, 0.0)
    >>> len(net.bought_in), net.present, net.yearly
    (10, 1000.0, 100.0)
    """
    times = max(1, reaching(years, life_years))
    bought = tuple(k * life_years for k in range(times))
    present = sum(cost / (1 + rate) ** at for at in bought)
    if upkeep:
        present += upkeep / yearly(1.0, rate, years)
    return OverYears(bought, present, yearly(present, rate, years), times * life_years - years)
