"""What a barrier costs and how long it takes a metre on a line's ground, as indices, from a typical run of it.

Source: indices and minutes of the data files (from memory, common practice); they rank, they are no price.
"""

import math
from dataclasses import dataclass

from gnomonic.core.choose.typical import Hung, typical
from gnomonic.core.units import reaching


@dataclass(frozen=True, slots=True)
class Ground:
    """What of a line's ground bears on a choice: lengths (m), runs, and which of ``suits`` apply, with why."""

    length_m: float
    runs: int
    is_: dict[str, str]


@dataclass(frozen=True, slots=True)
class Weighed:
    """Price index and minutes a metre, by what they go into."""

    cost: dict[str, float]
    minutes: dict[str, float]


def weigh(hung: Hung, ground: Ground) -> Weighed:
    """Weigh a barrier on a line's ground: its typical run, with as many ends and braces as the line has sides and breaks."""
    system = hung.section.system
    of = typical(hung, "steep" in ground.is_)
    runs = ground.runs
    # A long side is broken by braced posts, whose panel serves both its runs.
    if longest := system.starts()["longest_run_m"]:
        runs *= max(1, reaching(ground.length_m / ground.runs, longest))
    braced = runs + ground.runs if system.brace == "h" else 2 * runs
    ends = (runs + 1) * of.post + 2 * runs * of.run_end
    price = {**of.along, "ends": ends / ground.length_m, "braces": braced * of.brace / ground.length_m}
    minutes = {**of.work_along, "ends and braces": braced * of.work_end / ground.length_m}
    plain = sum(minutes.values())
    share = math.prod(system.suits[what].share for what in ground.is_ if what in system.suits)
    minutes["the ground"] = plain * (share - 1)
    return Weighed({k: v for k, v in price.items() if v}, {k: v for k, v in minutes.items() if v})
