"""Terminals, gates and runs: where the fabric must end.

A run is fabric pulled between two terminals; it ends at the ends of the line, at turns beyond the stated angle, at gates and on
both sides of water.  Source: common practice.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Literal

from gnomonic.core.errors import BadInput, NoPlan
from gnomonic.core.ground.course import Course
from gnomonic.core.say import Say, Values
from gnomonic.core.units import TAPE_M, reaching

Role = Literal["end", "corner", "gate", "crossing", "pull"]
SHORTEST_RUN_M = 0.3
STRAIGHT_DEG = 3.0  # up to here the panel behind a braced post lies in line with the run ahead


@dataclass(frozen=True, slots=True)
class Terminal:
    """A post that carries tension; ``turn_deg`` of the line there, right positive."""

    station_m: float
    role: Role
    turn_deg: float


@dataclass(frozen=True, slots=True)
class Run:
    """Fabric from one terminal to the next."""

    index: int
    start: Terminal
    end: Terminal

    @property
    def length_m(self) -> float:
        """Plan length."""
        return self.end.station_m - self.start.station_m


@dataclass(frozen=True, slots=True)
class Gap:
    """Where no fabric hangs: a gate, or water.  ``wide_m`` between post centres from ``at_m``; a ``stiff`` one keeps that width
    where it is moved to hang from another terminal."""

    key: str
    name: str
    at_m: float
    wide_m: float
    role: Role = "gate"
    stiff: bool = False

    @property
    def end_m(self) -> float:
        """Its second post's centre."""
        return self.at_m + self.wide_m


def _hung(gap: Gap, marks: Sequence[float]) -> Gap:
    """A gap whose post all but falls on another terminal hangs from that one; one that is stiff moves, others stretch."""

    def near(station: float) -> float:
        return next((m for m in marks if abs(m - station) < SHORTEST_RUN_M), station)

    low, high = near(gap.at_m), near(gap.end_m)
    if gap.stiff and (low, high) != (gap.at_m, gap.end_m):
        if high == gap.end_m:
            high = near(low + gap.wide_m)
        elif low == gap.at_m:
            low = near(high - gap.wide_m)
    return gap if (low, high) == (gap.at_m, gap.end_m) else replace(gap, at_m=low, wide_m=high - low)


def check_gaps(length_m: float, gaps: Sequence[Gap], corners_m: Sequence[float]) -> None:
    """Raises BadInput (``gates``) for a gap off the line, over a corner or over another; they are given in order."""
    for gap in gaps:
        at: Values = {
            "name": gap.name,
            "a": (gap.at_m, "station"),
            "b": (gap.end_m, "station"),
            "end": (length_m, "station"),
        }
        if gap.end_m > length_m + 1e-6 or gap.at_m < -1e-6:
            raise BadInput("gates", Say("{name} runs from {a} to {b}, beyond the line's end at {end}", at))
        for corner in corners_m:
            if gap.at_m + 1e-6 < corner < gap.end_m - 1e-6:
                text = "{name} would span the corner at {at}; hang it from the corner post or beyond it"
                raise BadInput("gates", Say(text, {"name": gap.name, "at": (corner, "station")}))
    for before, after in pairwise(gaps):
        both: Values = {
            "after": after.name,
            "at": (after.at_m, "station"),
            "before": before.name,
            "least": (SHORTEST_RUN_M, "cut"),
        }
        if abs(after.at_m - before.end_m) < SHORTEST_RUN_M:
            text = "{before} and {after} would hang on one post at {at}: leave {least} of fence or more between their posts"
            raise BadInput("gates", Say(text, both))
        if after.at_m < before.end_m + SHORTEST_RUN_M:
            raise BadInput("gates", Say("{after} at {at} overlaps {before}, or leaves no fence between them", both))


def _pull_posts(low_m: float, high_m: float, longest_m: float, barred: Sequence[tuple[float, float]]) -> list[float]:
    """Where a long side is broken by braced posts: evenly, each beside what is barred there."""
    count = reaching(high_m - low_m, longest_m)
    found = []
    for k in range(1, count):
        at = low_m + (high_m - low_m) * k / count
        for low, high in barred:
            if low < at < high:
                at = low if at - low <= high - at else high
        if low_m + SHORTEST_RUN_M < at < high_m - SHORTEST_RUN_M:
            found.append(at)
    return found


def split_runs(
    course: Course,
    gaps: Sequence[Gap],
    corner_angle_deg: float,
    longest_m: float = 0.0,
    barred: Sequence[tuple[float, float]] = (),
    ends_at: Sequence[float] = (),
) -> tuple[list[Run], list[Gap]]:
    """Runs in order along the line, and the gaps in order, as they hang; a side longer than ``longest_m`` (0: any) is broken,
    and one is where the fencer says so (``ends_at``).

    A gap whose post all but falls on another terminal hangs from that one: its place and width are those between posts.
    """
    length, turns = course.length_m, course.turns_deg()
    last = len(turns) - 1
    corners = [
        Terminal(float(course.stations_m[k]), "corner", float(turns[k]))
        for k in range(1, last)
        if abs(turns[k]) > corner_angle_deg
    ]
    role: Role = "corner" if course.closed else "end"
    marks = {0.0: Terminal(0.0, role, float(turns[0])), length: Terminal(length, role, float(turns[-1]))}
    marks |= {c.station_m: c for c in corners}
    hung = [_hung(gap, list(marks)) for gap in sorted(gaps, key=lambda g: g.at_m)]
    check_gaps(length, hung, [c.station_m for c in corners])
    openings = [(g.at_m, g.end_m) for g in hung]
    for gap in hung:
        for station in (gap.at_m, gap.end_m):
            known = marks.get(station)
            if gap.role == "gate" or known is None:
                marks[station] = Terminal(station, gap.role, known.turn_deg if known else 0.0)
    for asked in ends_at:
        corner = next((k for k in range(1, last) if abs(course.stations_m[k] - asked) < SHORTEST_RUN_M), None)
        at, turn = (asked, 0.0) if corner is None else (float(course.stations_m[corner]), float(turns[corner]))
        clear = min(abs(at - m) for m in marks) > SHORTEST_RUN_M
        if clear and 0 < at < length and not any(low < at < high for low, high in openings):
            marks[at] = Terminal(at, "corner" if abs(turn) > STRAIGHT_DEG else "pull", turn)
    if longest_m:
        for low, high in pairwise(sorted(marks)):
            if (low, high) not in openings and high - low > longest_m + TAPE_M:
                for at in _pull_posts(low, high, longest_m, barred):
                    marks[at] = Terminal(at, "pull", 0.0)
    stations = sorted(marks)
    runs: list[Run] = []
    for start, end in pairwise(stations):
        if (start, end) not in openings:
            runs.append(Run(len(runs), marks[start], marks[end]))
    if not runs:
        raise NoPlan("gates", "the gates leave no fence at all; take one away or make it narrower")
    return runs, hung
