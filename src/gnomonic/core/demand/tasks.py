"""Kinds of work (``data/tasks.toml``): what they are counted by, how long they take, who they want, what comes first."""

from functools import cache
from typing import Literal

from gnomonic.core.demand.system import common_rule
from gnomonic.core.fabric.fabrics import Fabric
from gnomonic.core.sourced import Sourced, read_data

Per = Literal["m", "post", "run", "run_end", "roll", "splice", "strand_m", "gate", "crossing"]


class Task(Sourced):
    """A kind of work.

    ``minutes`` one takes one person on easy ground, or ``of`` what part of a system's labour it is; ``least`` and ``most``
    shares of the usual; ``crew`` fewest people; ``after`` tasks that come first where they are done; ``wait_days`` on the
    calendar when it is done, ``concrete_days`` where concrete was poured.
    """

    what: str
    per: Per
    of: Literal["", "ends", "line", "posts", "hanging", "extras"] = ""
    share: float = 1.0
    minutes: float = 0.0
    least: float
    most: float
    crew: int
    tools: tuple[str, ...] = ()
    after: tuple[str, ...] = ()
    wait_days: int = 0
    wait: str = ""
    concrete_days: int = 0
    concrete: str = ""


@cache
def tasks() -> dict[str, Task]:
    """Every kind of work by its key, in the order of the work."""
    found = {key: Task.model_validate(row) for key, row in read_data("tasks.toml")["tasks"].items()}
    for task in found.values():
        assert set(task.after) <= set(found), task.what
    return found


def handling(fabric: Fabric) -> float:
    """How much longer a fabric takes to hang than a light one of four feet: it grows with height and with mass."""
    tall, heavy = fabric.height_m / common_rule("handled_high_m"), fabric.mass_kg_m / common_rule("handled_kg_m")
    share = common_rule("handled_share")
    return 1 - share + share * (tall + heavy) / 2
