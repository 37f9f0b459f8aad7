"""A job's plan of days as it is kept: what was asked of it, and what was made of that."""

from datetime import date, datetime
from typing import Annotated, Literal

from pydantic import Field

from gnomonic.core.days.placing import Placed
from gnomonic.core.days.progress import TaskKey
from gnomonic.core.record import Record

MOST_PINS = 400


class Asked(Record):
    """When a job begins, its place among the workspace's jobs (the lower goes first), and tasks that are not begun before a time."""

    start: date
    rank: Annotated[int, Field(ge=0, le=10_000)] = 0
    pins: Annotated[dict[TaskKey, datetime], Field(max_length=MOST_PINS)] = Field(default_factory=dict)


class Chances(Record):
    """The days by which it ends half the time and nine times in ten; none beyond the calendar."""

    half: date | None
    nine: date | None


class Made(Record):
    """A plan of days.

    ``fair`` is when the same order of work ends where no weather stops it, ``bound`` before when nothing ends in such weather
    (``proven``: that is it).  ``both`` counts weather and how fast work goes by ``seasons`` simulated, ``weather`` and ``rates`` each
    alone.  ``hired`` days of hired plant; ``forecast`` how many days of it are forecast, ``drifted`` how many days later it ends at the
    pace that was found here than at the usual one; ``state`` is quick
    until the search has been at it.
    """

    made_at: datetime
    state: Literal["quick", "searched"]
    placed: tuple[Placed, ...]
    ends: datetime
    fair: datetime
    bound: datetime
    proven: bool
    both: Chances
    weather: Chances
    rates: Chances
    seasons: int
    hired: int
    forecast: int
    drifted: int = 0
