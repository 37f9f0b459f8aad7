"""Fittings and fasteners, post by post, bay by bay, from the rules of the barrier's system.

Source: the rules' own (``demand/data/systems``).
"""

import math
from bisect import bisect_right, insort
from collections.abc import Sequence
from dataclasses import dataclass

from gnomonic.core.demand.section import HungLayer, Section
from gnomonic.core.demand.system import Extra, FittingRule, Slot, StickRule, System
from gnomonic.core.fabric.fabrics import fabrics
from gnomonic.core.units import TAPE_M, reaching


@dataclass(frozen=True, slots=True)
class Fitting:
    """What is put on one post: how many, at which heights above the ground, which way up, in what order.

    ``tied`` says for how many runs' ends it is there (1 unless it is put on once a run, ``per_end``).
    """

    item: str
    count: int
    heights_m: tuple[float, ...]
    way: str
    order: int
    tied: int
    reason: str
    source: str
    per_end: bool = False


def slot_of(system: System, kind: str, role: str) -> Slot:
    """What a post is to the fittings' rules: terminal, brace, held (in a dip, on a hump, in a bend, where a line joins from the side), firm or light."""
    if role == "join":
        return "held"
    if kind in ("terminal", "brace"):
        return "terminal" if kind == "terminal" else "brace"
    if role in ("dip", "hump", "bend"):
        return "held"
    return "firm" if kind == system.firm_post and system.firm_post != system.line_post else "light"


def _heights(rule: FittingRule, section: Section, head_m: float) -> tuple[float, ...]:
    """Heights above the barrier's bottom edge at which a rule puts its item; ``head_m`` is the post's top."""
    bottom, top = 0.0, section.top_m
    if section.layers:
        bottom, top = min(x.bottom_m for x in section.layers), max(x.top_m for x in section.layers)
    match rule.place:
        case "wires":
            return section.fabric_wires_m
        case "spread":
            wires = section.fabric_wires_m
            if len(wires) <= rule.bottom + rule.top:
                return wires
            low, between, high = wires[: rule.bottom], wires[rule.bottom : -rule.top], wires[-rule.top :]
            return (*low, *between[1::2], *high)
        case "strands":
            return section.strand_heights_m(rule.of)
        case "lines":
            return section.line_heights_m
        case "share":
            return shared_out(section.rows_m, rule.number)
        case "step":
            count = max(0, math.floor((top - bottom) / rule.step_m + 1e-6) - rule.less)
            heights = tuple(bottom + (k + 0.5) * (top - bottom) / count for k in range(count))
            return stepped(section.rows_m, rule.step_m, count) if rule.snap else heights
        case "even":
            inset = min(0.05, (top - bottom) / 4)
            span = top - bottom - 2 * inset
            return tuple(bottom + inset + span * k / max(1, rule.number - 1) for k in range(rule.number))
        case "head":
            return (head_m,) * rule.number
        case _:
            return ((bottom + top) / 2,)


def stepped(rows_m: Sequence[float], step_m: float, count: int) -> tuple[float, ...]:
    """So many of the wires, as many wires apart as a step allows, as far from the bottom as from the top.

    >>> stepped([2.0 * k for k in range(13)], 6.5, 4)
    (2.0, 8.0, 14.0, 20.0)
    """
    if len(rows_m) <= count or count < 1:
        return tuple(rows_m[:count])
    apart = max(1, math.floor(step_m / (rows_m[1] - rows_m[0]) + 1e-6))
    apart = min(apart, (len(rows_m) - 1) // max(1, count - 1))
    first = (len(rows_m) - 1 - apart * (count - 1)) // 2
    return tuple(rows_m[first + apart * k] for k in range(count))


def shared_out(rows_m: Sequence[float], number: int) -> tuple[float, ...]:
    """So many of the wires: the bottom and the top one, the others nearest to even between them.

    >>> shared_out((0.0, 4.0, 8.5, 13.5, 19.0, 25.0, 32.0, 40.0, 49.0), 5)
    (0.0, 13.5, 25.0, 40.0, 49.0)
    """
    if len(rows_m) <= number:
        return tuple(rows_m)
    low, high = rows_m[0], rows_m[-1]
    left, found = list(rows_m[1:-1]), [low, high]
    for k in range(1, number - 1):
        even = low + (high - low) * k / (number - 1)
        found.append(left.pop(min(range(len(left)), key=lambda i: abs(left[i] - even))))
    return tuple(sorted(found))


def chosen(section: Section, school: tuple[str, str] | None) -> bool:
    """Whether a rule belongs to the school chosen."""
    return school is None or section.school(school[0]) == school[1]


def post_fittings(section: Section, slot: Slot, tied: int, clearance_m: float, above_m: float) -> tuple[Fitting, ...]:
    """Fittings of one post in the order they are put on; ``tied`` is how many runs end on it."""
    found: dict[tuple[str, int], Fitting] = {}
    for rule in section.system.fittings:
        if slot not in rule.on or not chosen(section, rule.school):
            continue
        times = tied if rule.each == "run_end" else 1
        heights = tuple(h + clearance_m for h in _heights(rule, section, above_m - clearance_m))
        if not heights or not times:
            continue
        same = found.get((rule.item, rule.order))
        if same:
            heights = tuple(sorted((*same.heights_m, *heights)))
        found[rule.item, rule.order] = Fitting(
            rule.item,
            len(heights) * times,
            heights,
            rule.way,
            rule.order,
            times,
            f"{same.reason}; {rule.reason}" if same else rule.reason,
            rule.source,
            rule.each == "run_end",
        )
    return tuple(sorted(found.values(), key=lambda f: f.order))


def between(length_m: float, apart_m: float) -> int:
    """How many stand between two posts when no two are farther apart than this.

    >>> between(3.0, 1.0), between(3.1, 1.0), between(0.8, 1.0)
    (2, 3, 0)
    """
    return max(0, reaching(length_m, apart_m) - 1)


def diamond_m(mesh_m: float) -> float:
    """Width of a chain-link diamond along the fence: mesh · √2.  Source: geometry of a square stood on its corner."""
    return mesh_m * math.sqrt(2)


def bay_counts(section: Section, length_m: float, decided: dict[str, float]) -> dict[str, float]:
    """What goes between two posts: counts, or metres for what is measured."""
    counts: dict[str, float] = {}
    for rule in section.system.bay_fittings:
        if not chosen(section, rule.school):
            continue
        times = len(section.strand_heights_m(rule.of)) if rule.of not in ("", "seams") else 1
        times = section.seams if rule.of == "seams" else times
        apart = rule.every_m or decided.get(rule.every, 0.0)
        if rule.diamonds and section.fabric:
            apart = rule.diamonds * diamond_m(section.fabric.mesh_m[1])
        if rule.measure != "count":
            number: float = length_m * rule.times
        else:
            number = between(length_m, apart) if apart > 0 else 0
        if number * times:
            counts[rule.item] = counts.get(rule.item, 0.0) + number * times
    for extra in section.extras:
        if "visible" in extra.gives:
            counts["ribbon"] = counts.get("ribbon", 0.0) + 1
    return counts


def extra_counts(extra: Extra, length_m: float) -> dict[str, int]:
    """Pegs and rings that something added takes along a run of this length; a lining is ringed top and bottom."""
    return {
        "peg": along(length_m, extra.pegs_m),
        "net_ring": along(length_m, extra.rings_m) * (2 if extra.lining else 1),
    }


def run_counts(section: Section, length_m: float) -> dict[str, float]:
    """What goes on a run of this length along the slope: counts, or m³ of an apron's cover."""
    counts: dict[str, float] = {}

    def add(item: str, number: float) -> None:
        if number:
            counts[item] = counts.get(item, 0.0) + number

    for rule in section.system.run_fittings:
        if rule.of:
            add(rule.item, rule.number * len(section.strand_heights_m(rule.of)))
        else:
            add(rule.item, along(length_m, rule.every_m))
    for extra in section.extras:
        for item, number in extra_counts(extra, length_m).items():
            add(item, number)
        if extra.apron:
            add("apron_cover", length_m * fabrics()[extra.apron].height_m * extra.cover_m)
    return counts


def along(length_m: float, apart_m: float) -> int:
    """How many stand along a length no farther apart than this (0: none).

    >>> along(349 * 0.3048, 0.9144), along(3.0, 0.0)
    (117, 0)
    """
    return reaching(length_m, apart_m) if apart_m else 0


def splice_counts(section: Section, layer: HungLayer) -> dict[str, float]:
    """What one splice of a layer takes."""
    counts: dict[str, float] = {}
    high = layer.fabric.height_m
    for rule in section.system.splice_fittings:
        if not chosen(section, rule.school):
            continue
        if rule.place == "wires":
            number: float = layer.fabric.wires
        elif rule.place == "once":
            number = 1
        elif rule.place == "step":
            number = math.floor(high / rule.step_m + 1e-6)
        else:
            number = high * rule.times + (section.system.rule("sew_allow_m") if rule.measure == "sew" else 0.0)
        counts[rule.item] = counts.get(rule.item, 0.0) + number
    return counts


@dataclass(frozen=True, slots=True)
class Sticks:
    """Rails or boards: how many of each length sold, and the cuts in order (m)."""

    rule: StickRule
    bought: tuple[tuple[float, int], ...]
    cuts_m: tuple[float, ...]


def joined(need_m: float, stock_m: Sequence[float], lap_m: float) -> tuple[list[float], float]:
    """Sticks end to end with a lap at each joint, least length bought and then fewest; and the last one's cut length.

    >>> joined(9.0, [3.2004, 6.4008], 0.1524)
    ([6.4008, 3.2004], 2.7516)
    """
    longest = max(stock_m)
    whole = reaching(need_m - longest, longest - lap_m)
    left = need_m - whole * (longest - lap_m)
    last = next((s for s in sorted(stock_m) if s >= left - TAPE_M), longest)
    return [longest] * whole + [last], left


def packed(cuts_m: Sequence[float], stock_m: Sequence[float]) -> dict[float, int]:
    """Lengths sold that hold the cuts: longest cut first into the fullest stick with room, each stick then as short as
    holds what is in it.  A cut longer than any length sold is made of whole longest ones and a rest."""
    longest = max(stock_m)
    bins: list[float] = []
    bought: dict[float, int] = {}
    rest = []
    for cut in cuts_m:
        over = max(0, reaching(cut, longest) - 1)
        if over:
            bought[longest] = bought.get(longest, 0) + over
        rest.append(cut - over * longest)
    rest.sort(reverse=True)
    for cut in rest:
        k = bisect_right(bins, longest + TAPE_M - cut)  # bins rise in what is used of them
        used = bins.pop(k - 1) if k else 0.0
        insort(bins, used + cut)
    for used in bins:
        length = next(s for s in sorted(stock_m) if s >= used - TAPE_M)
        bought[length] = bought.get(length, 0) + 1
    return bought


def sticks(
    section: Section, runs_m: Sequence[float], bays_m: Sequence[float], posts: int, high_m: float
) -> list[Sticks]:
    """Rails and boards of a job; ``runs_m`` clear between terminal faces, ``bays_m`` between post centres."""
    found = []
    for rule in section.system.sticks:
        if rule.of and not section.strand_heights_m(rule.of):
            continue
        bought: dict[float, int] = {}
        if rule.per == "run":
            ends = 2 * section.system.rule(rule.end) if rule.end else 0.0
            cuts = []
            for run in runs_m:
                pieces, last = joined(max(0.0, run - ends), rule.stock_m, rule.lap_m)
                cuts.append(last)
                for piece in pieces:
                    bought[piece] = bought.get(piece, 0) + 1
        else:
            cuts = list(bays_m) if rule.per == "bay" else [high_m] * posts
            bought = packed(cuts, rule.stock_m)
        found.append(Sticks(rule, tuple(sorted(bought.items())), tuple(cuts)))
    return found
