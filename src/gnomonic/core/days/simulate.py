"""The same order of work in a thousand seasons: when it ends half the time and nine times in ten, and what makes the difference."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from gnomonic.core.days.book import days_rule, stops
from gnomonic.core.days.kernel import NEVER, placer_of, seasons
from gnomonic.core.days.laying import Laid
from gnomonic.core.days.problem import Schedule
from gnomonic.core.days.weather import STORM_LONG_MIN, Weather, bits, made_up
from gnomonic.core.demand.tasks import tasks
from gnomonic.core.pull.climate import Climate

SEASONS = 1000
ROOM = 2000  # quarters of the clock beyond twice what the plan takes: no season is followed longer
SHARED = 0.5  # of how far a task strays is that of its kind: a crew slow at posts is slow at all of them
GRID = np.linspace(-3.2, 3.2, 65)
Floats = NDArray[np.float64]
Ints = NDArray[np.int64]


@dataclass(frozen=True, slots=True)
class Ends:
    """The days by which the work ends half the time and nine times in ten, how many seasons that rests on, and the same where only the
    weather, or only how fast work goes, is left to chance; none where that is beyond the calendar."""

    half: date | None
    nine: date | None
    seasons: int
    weather: tuple[date | None, date | None]
    rates: tuple[date | None, date | None]


def simulate(
    laid: Laid, made: Schedule, of: Climate, weather: Sequence[Weather], seed: int, count: int = SEASONS
) -> Ends:
    """Seasons from a seed: the same seed gives the same days."""
    both = _ends(laid, made, of, weather, seed, count, True, True)
    few = max(50, count // 4)
    return Ends(
        *_shares(laid, both), count,
        _shares(laid, _ends(laid, made, of, weather, seed, few, True, False)),
        _shares(laid, _ends(laid, made, of, weather, seed, few, False, True)),
    )  # fmt: skip


def _shares(laid: Laid, ends: Ints) -> tuple[date | None, date | None]:
    """The days of the middle end and of the ninth in ten, those that never end being the last."""
    rows = np.sort(np.where(ends == NEVER, laid.clock.slots + 1, ends))
    found = []
    for share in (0.5, 0.9):
        at = int(rows[min(rows.size - 1, int(np.ceil(share * rows.size)) - 1)])
        found.append(None if at > laid.clock.slots else laid.clock.ends(at).date() if at else laid.clock.first)
    return found[0], found[1]


def _ends(
    laid: Laid,
    made: Schedule,
    of: Climate,
    weather: Sequence[Weather],
    seed: int,
    count: int,
    chance_weather: bool,
    chance_rates: bool,
) -> Ints:
    placer, clock = placer_of(laid.problem), laid.clock
    cut = min(clock.slots, 2 * made.makespan + ROOM)
    day, minute = clock.day[:cut].copy(), clock.minute[:cut].copy()
    ready = np.minimum(laid.problem.ready[:, : cut + 1], cut)
    days = int(day[-1]) + 1
    dice = np.random.default_rng(seed)
    rolls = dice.random((count, days, 4))
    slots = np.repeat(placer.slots[None], count, axis=0)
    factors = _factors(laid, dice, count)
    if chance_rates:
        slots = np.maximum(1, np.rint(slots * factors[:, :, None])).astype(np.int64)
        if laid.problem.activities and any(a.whole for a in laid.problem.activities):
            whole = placer.whole.astype(bool)
            most = _day_slots(laid)
            slots[:, whole] = np.minimum(slots[:, whole], most)
    dates = [clock.first + timedelta(days=d) for d in range(days)]
    chance = made_up(of, np.array([d.month - 1 for d in dates]), rolls)
    rain = chance.rain_mm
    known = {w.day: w for w in weather}
    masks = bits(
        chance.night_c,
        chance.noon_c,
        rain,
        chance.wind_ms,
        np.concatenate([np.zeros((count, 1)), rain[:, :-1]], axis=1),
    )
    thunder = chance.thunder.copy()
    off = thunder + STORM_LONG_MIN + round(days_rule("stand_off_min"))
    if not chance_weather:
        masks[:], thunder[:] = 0, -1
    for d, date_of in enumerate(dates):
        if date_of in known:
            w = known[date_of]
            masks[:, d] = laid.problem.stopped[clock.day == d].min() if (clock.day == d).any() else 0
            thunder[:, d], off[:, d] = w.stand_off or (-1, -1)
            rain[:, d] = w.rain_mm
    settle = tasks()["ends"].wait_days
    row = laid.waits.index(settle) if settle in laid.waits else -1
    settled = _settled(rain, settle) if chance_weather else np.tile(np.arange(days) + settle, (count, 1))
    ends = np.zeros(count, np.int64)
    seasons(
        np.array(made.order(), np.int64), slots, np.array(made.modes, np.int64), placer.shape, np.ascontiguousarray(laid.problem.capacity[:, :cut]), ready,
        day, minute, masks, thunder, off, stops()["lightning"].bit, settled, row, ends,
    )  # fmt: skip
    return ends


def _day_slots(laid: Laid) -> int:
    """A quarter less than a usual day has: what is done whole has to fit one."""
    counts = np.unique(laid.clock.day, return_counts=True)[1]
    return int(np.median(counts)) - 1


def _settled(rain: Floats, days: int) -> Ints:
    """The day on which posts set on each day have settled: so many days and rains later, no longer than a dry spell is waited for."""
    wet = np.cumsum(rain >= 1.0, axis=1)
    count, last = rain.shape
    need, most = round(days_rule("settle_rains")), round(days_rule("settle_most_days"))
    found = np.zeros((count, last), np.int64)
    for s in range(count):
        second = np.searchsorted(wet[s], wet[s] + need, side="left") + 1
        found[s] = np.clip(second, np.arange(last) + days, np.arange(last) + most)
    return found


@lru_cache(maxsize=256)
def _pert(least: float, most: float) -> Floats:
    """Times the usual by how far a normal throw strays (``GRID``), between least and most, the usual (1) the likeliest."""
    from scipy.stats import beta, norm

    low, high = 1 + 4 * (1 - least) / (most - least), 1 + 4 * (most - 1) / (most - least)
    table: Floats = least + (most - least) * beta.ppf(norm.cdf(GRID), low, high)
    return table


def _factors(laid: Laid, dice: np.random.Generator, count: int) -> Floats:
    """How many times the usual each task takes in each season: between least and most of its kind, the usual the likeliest (PERT, from memory)."""
    kinds_of = [laid.tasks[k].kind for k in laid.of]
    each = {k: n for n, k in enumerate(dict.fromkeys(kinds_of))}
    of_kind = dice.standard_normal((count, len(each)))
    own = dice.standard_normal((count, len(kinds_of)))
    found = np.ones((count, len(kinds_of)))
    for k, kind in enumerate(kinds_of):
        least, usual, most = laid.tasks[laid.of[k]].minutes
        if usual <= 0 or most <= least:
            continue
        table = _pert(round(least / usual, 6), round(most / usual, 6))
        z = np.sqrt(SHARED) * of_kind[:, each[kind]] + np.sqrt(1 - SHARED) * own[:, k]
        found[:, k] = np.interp(z, GRID, table)
    return found
