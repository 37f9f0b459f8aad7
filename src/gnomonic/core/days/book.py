"""How work is planned in days (``data/work.toml``): kinds of work, plant, skills, weather that stops it, rules."""

from functools import cache

from gnomonic.core.demand.tasks import Per, tasks
from gnomonic.core.sourced import Rule, Sourced, read_data


class Kind(Sourced):
    """A kind of work as a crew plans it.

    ``step`` is the kind of step (``demand/tasks.py``) whose minutes it has a ``share`` of; without one ``minutes`` for one, ``least``
    and ``most`` shares of it, ``crew`` people at least.  ``hands`` at most; ``plant`` there all the while, without it ``by_hand`` times
    as long (0: it can't be done).  ``dug`` and ``driven`` say for which posts; ``humps`` only where lows lie between highs,
    ``braced`` only where there are braces; ``before`` what pulls on its side; ``waits`` for the ends of its side to settle; one that ``loads`` posts waits until those they stand on have settled; ``group`` what it is drawn with,
    ``carries`` what is loaded for it.
    """

    what: str
    step: str = ""
    share: float = 1.0
    per: Per | str = "m"
    minutes: float = 0.0
    least: float = 1.0
    most: float = 1.0
    crew: int = 0
    hands: int
    plant: tuple[str, ...] = ()
    by_hand: float = 1.0
    skill: str = ""
    stops: tuple[str, ...]
    after: tuple[str, ...] = ()
    before: bool = False
    dug: bool = False
    driven: bool = False
    humps: bool = False
    braced: bool = False
    loads: bool = False
    waits: bool = False
    digs: bool = False
    trails: bool = False
    group: str
    carries: str = ""


class PlantKind(Sourced):
    """A machine or a tool there are few of; what of it ``wears`` out ``every`` so many posts."""

    title: str
    wears: str
    every: int


class Skill(Sourced):
    """What somebody has learned."""

    title: str


class Stop(Sourced):
    """Weather that work stops for, on a day with so much of it or after one (``rain_before_mm``); ``bit`` is its place in a mask, ``say`` what a
    crew is told on such a day."""

    title: str
    bit: int
    say: str = ""
    rain_mm: float | None = None
    rain_before_mm: float | None = None
    below_c: float | None = None
    above_c: float | None = None
    wind_ms: float | None = None


@cache
def kinds() -> dict[str, Kind]:
    """Every kind of work, in the order of the work."""
    found = {k: Kind.model_validate(row) for k, row in read_data("work.toml", "days")["kinds"].items()}
    for key, kind in found.items():
        assert not kind.step or kind.step in tasks(), key
        assert set(kind.stops) <= set(stops()) and set(kind.plant) <= set(plant_kinds()), key
        assert set(kind.after) <= {*tasks(), *found, "*"}, key
    return found


@cache
def plant_kinds() -> dict[str, PlantKind]:
    """Every kind of plant."""
    return {k: PlantKind.model_validate(row) for k, row in read_data("work.toml", "days")["plant"].items()}


@cache
def skills() -> dict[str, Skill]:
    """Every skill."""
    return {k: Skill.model_validate(row) for k, row in read_data("work.toml", "days")["skills"].items()}


@cache
def stops() -> dict[str, Stop]:
    """Weather that stops work."""
    return {k: Stop.model_validate(row) for k, row in read_data("work.toml", "days")["stops"].items()}


@cache
def _rules() -> dict[str, Rule]:
    return {k: Rule.model_validate(row) for k, row in read_data("work.toml", "days")["rules"].items()}


def days_rule(key: str) -> float:
    """The value of a rule."""
    return _rules()[key].value
