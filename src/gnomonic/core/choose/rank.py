"""Barriers ranked for a line: every system and what it hangs against the demands, with what would mend a near miss."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import combinations
from typing import Any

import numpy as np

from gnomonic.core.choose.typical import Hung
from gnomonic.core.choose.weigh import Ground, Weighed, weigh
from gnomonic.core.demand.animals import Book
from gnomonic.core.demand.demand import Demand, demand_of
from gnomonic.core.demand.judge import Verdict, judge
from gnomonic.core.demand.section import Section
from gnomonic.core.demand.starts import starts_of
from gnomonic.core.demand.strands import strand_heights
from gnomonic.core.demand.system import System, common_rule, common_rules, systems
from gnomonic.core.fabric.fabrics import Fabric, fabrics
from gnomonic.core.fabric.layers import Width, stack
from gnomonic.core.ground.course import Course
from gnomonic.core.ground.found import OnLine
from gnomonic.core.job.decided import decision_rules
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Plan
from gnomonic.core.units import reaching

NEAR_MISSES = 3
MOST_EXTRAS = 3


@dataclass(frozen=True, slots=True)
class Candidate:
    """A barrier against the demands.

    ``cost`` and ``labour`` a metre are indices, 100 being the first woven fabric on the same ground; ``parts`` and
    ``work_parts`` are what they go into; ``years`` it is compared over (0: built once); ``mends`` are extras that were added so that it
    meets the demands.
    """

    section: Section
    edit: dict[str, Any]
    verdicts: tuple[Verdict, ...]
    parts: tuple[tuple[str, float], ...]
    work_parts: tuple[tuple[str, float], ...]
    years: float
    notes: tuple[str, ...] = ()
    mends: tuple[str, ...] = ()

    @property
    def cost(self) -> float:
        """Material a metre."""
        return sum(value for _, value in self.parts)

    @property
    def labour(self) -> float:
        """Work a metre."""
        return sum(value for _, value in self.work_parts)

    @property
    def life_years(self) -> float:
        """Years until the first of it is done."""
        return self.section.life_years

    @property
    def misses(self) -> tuple[Verdict, ...]:
        """Demands it does not meet."""
        return tuple(v for v in self.verdicts if not v.ok)

    @property
    def builds(self) -> int:
        """How often it is built within the years asked: again when it is done; once where no years were asked."""
        return max(1, reaching(self.years, self.life_years))

    @property
    def yearly(self) -> float:
        """Cost and labour, alike, for each of the years asked, what is done before they are over built again."""
        return (self.cost + self.labour) / 2 * self.builds / max(self.years, 1.0)

    @property
    def far(self) -> float:
        """How far it is from meeting the demands: what is missing of each, weighed by how hard that is to mend."""
        return sum(_hard(v) * max(v.short, LEAST_SHORT) for v in self.misses)


SEASONS = 2.0  # years under which a barrier is for temporary lines
LEAST_SHORT = 0.1  # a demand missed by a hair is missed all the same


def _hard(verdict: Verdict) -> float:
    """How hard a demand is to mend, from the rules."""
    name = f"near_{verdict.key}"
    return common_rule(name if name in common_rules() else "near_other")


@dataclass(frozen=True, slots=True)
class Ranking:
    """Candidates that meet every demand, best first over the ``years``; near misses, nearest first; and how many were left
    out.
    """

    demand: Demand
    years: float
    meets: tuple[Candidate, ...]
    near: tuple[Candidate, ...]
    others: int
    tried: int = field(default=0)


def ground_of(fence: Fence, line: Course, things: Sequence[OnLine]) -> Ground:
    """What of a line's ground bears on a choice: the same whatever hangs on it now.

    Steep and rough are judged over bays of the length most barriers start with (``typical_bay_m``), sides by its corners and
    gates alone.
    """
    count = max(1, round(line.length_m / common_rule("typical_bay_m")))
    stations = np.linspace(0.0, line.length_m, count + 1)
    heights = line.profile.at(stations)
    grades = np.abs(np.diff(heights) / np.diff(stations))
    is_: dict[str, str] = {}
    limit = common_rule("steep_run_grade")
    steep = float(np.mean(grades > limit))
    if steep > common_rule("steep_part"):
        is_["steep"] = f"{steep * 100:.0f} % of it is steeper than {limit * 100:.0f} %"
    breaks = line.stations_m
    if float(np.max(np.interp(breaks, stations, heights) - line.profile.heights_m)) > common_rule("rough_gap_m"):
        is_["rough"] = "it dips and rises within a bay"
    is_ |= _things(things)
    turned = (
        np.abs(line.turns_deg()[:-1]) > decision_rules()["corner_angle_deg"].value
    )  # both ends of an open line turn by 0
    sides = max(1, int(turned.sum()) + (not line.closed)) + len(fence.gates)
    return Ground(line.length_m, sides, is_)


def _things(things: Sequence[OnLine]) -> dict[str, str]:
    found = {}
    for thing in things:
        if thing.stretches and thing.found.kind in ("rock", "wet"):
            found[thing.found.kind] = "rock was found on it" if thing.found.kind == "rock" else "some of it is wet"
    return found


def _options(system: System, demand: Demand, own: Sequence[Fabric]) -> Iterator[dict[str, Any]]:
    """Everything a system can hang for a demand."""
    for label in system.labels():
        yield {"label": label}
    solves = {m.solve for m in system.makeups}
    for wire in ("barbed", "plain"):
        if wire in solves and (heights := strand_heights(demand, wire)):
            yield {"label": "as demanded", "strands_m": list(heights)}
    if "layers" in solves and (label := stacked_label(system, demand)):
        yield {"label": label}
    for fabric in own:
        if fabric.kind == "woven" and any(fabrics()[f].spacing_in for f in system.fabrics):
            yield {"label": fabric.label, "own": fabric.model_dump(mode="json")}


def stacked_label(system: System, demand: Demand) -> str:
    """The stack of netting widths on file that reaches the height demanded, as a label; empty when none does."""
    if demand.height is None:
        return ""
    hung = [f for f in fabrics().values() if f.kind in ("hex", "cloth")]
    widths = [Width(f.label, f.height_m, max(f.mesh_m), f.index) for f in hung]
    bands = [(b.from_m, b.to_m, b.want.value) for b in demand.openings]
    found = stack(demand.height.value, bands, widths, system.rule("lap_least_m"))
    return " + ".join(p.width.name for p in found.layers) if found else ""


def rank(fence: Fence, plan: Plan, book: Book, own: Sequence[Fabric] = ()) -> Ranking:
    """Rank every barrier for a job's demands on its ground.  Raises BadInput for demands that contradict."""
    demand, ground = demand_of(fence.hold, book), ground_of(fence, plan.course, plan.things)
    base = weigh(Hung("woven", "9-49-6"), ground)
    years = fence.hold.years
    meets, near, others, tried = [], [], 0, 0
    for key, system in systems().items():
        for option in _options(system, demand, own):
            tried += 1
            best = _mended(key, system, option, demand, ground, base, years)
            if best is None or _unwanted(fence, best.section):
                others += 1
            elif not best.misses:
                meets.append(best)
            elif len(best.misses) <= NEAR_MISSES:
                near.append(best)
            else:
                others += 1
    near.sort(key=lambda c: (round(c.far, 6), c.yearly))
    meets.sort(key=lambda c: c.yearly)
    return Ranking(demand, years, tuple(_distinct(meets)), tuple(_distinct(near)), others, tried)


def _unwanted(fence: Fence, hung: Section) -> bool:
    """Not of the sort asked for, or done within a season on a line that is to stay: options put that beside what lasts."""
    if hung.life_years < SEASONS and fence.own.standing != "temporary":
        return True
    sort = "barbs" if hung.barbs and not hung.layers else "mesh" if hung.layers else "wires"
    return bool(fence.hold.only) and sort != fence.hold.only


def _distinct(candidates: Sequence[Candidate]) -> list[Candidate]:
    seen: dict[tuple[str, str, tuple[str, ...], tuple[float, ...]], Candidate] = {}
    for c in candidates:
        key = (c.section.system.key, c.section.label, c.mends, tuple(c.edit.get("strands_m", ())))
        seen.setdefault(key, c)
    return list(seen.values())


def _mended(
    key: str, system: System, option: dict[str, Any], demand: Demand, ground: Ground, base: Weighed, years: float
) -> Candidate | None:
    """The option with as few extras as leave it nearest to the demands; None where no post is sold long enough.

    Only extras that mend something by themselves are tried together.
    """
    own = Fabric.model_validate(option["own"]).model_dump_json() if option.get("own") else ""
    tried: dict[tuple[str, ...], tuple[Section, tuple[Verdict, ...]]] = {}

    def hung_with(extras: tuple[str, ...]) -> Hung:
        return Hung(key, option["label"], extras, tuple(option.get("strands_m", ())), own)

    def misses(extras: tuple[str, ...]) -> set[str]:
        if extras not in tried:
            hung = hung_with(extras).section
            starts = starts_of(demand, hung)
            if _too_high(hung, starts["clearance_m"]):
                return NOT_BUILT
            tried[extras] = hung, judge(hung, demand, starts["clearance_m"], starts["gap_max_m"])
        return {f"{v.key} {v.title} {v.wanted.t}" for v in tried[extras][1] if not v.ok}

    best: tuple[str, ...] = ()
    if (fewest := misses(())) and fewest is not NOT_BUILT:
        easy = sorted(system.extras, key=lambda e: e.minutes_m)
        helps = [e.key for e in easy if fewest - misses((e.key,))]
        for count in range(1, min(MOST_EXTRAS, len(helps)) + 1):
            for extras in combinations(helps, count):
                left = misses(extras)
                if left is not NOT_BUILT and len(left) < len(misses(best)):
                    best = extras
            if not misses(best):
                break
    if best not in tried:
        return None
    hung, verdicts = tried[best]
    weighed = weigh(hung_with(best), ground)
    cost, work = (100 / sum(part.values()) for part in (base.cost, base.minutes))
    parts = tuple((name, value * cost) for name, value in weighed.cost.items())
    work_parts = tuple((name, value * work) for name, value in weighed.minutes.items())
    notes = tuple(f"{why}: {system.suits[what].reason}" for what, why in ground.is_.items() if what in system.suits)
    mends = tuple(e.key for e in hung.extras)
    return Candidate(
        section=hung,
        edit={"do": "hang_barrier", "system": key, "extras": list(mends), **option},
        verdicts=verdicts,
        parts=parts,
        work_parts=work_parts,
        years=years,
        notes=notes,
        mends=mends,
    )


NOT_BUILT = {"no post is sold long enough"}


def _too_high(hung: Section, clearance_m: float) -> bool:
    high = clearance_m + hung.top_m
    return any(p.too_short(high) for p in hung.posts.values())
