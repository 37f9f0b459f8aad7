"""Terminals, gates and runs: where the fabric must end.

A run is fabric pulled between two terminals; it ends at the ends of the line, at turns beyond the stated angle and at
gates.  Source: common practice.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from gnomonic.core.errors import BadInput, NoPlan
from gnomonic.core.ground.course import Course
from gnomonic.core.job.parts import Gate
from gnomonic.core.say import Say
from gnomonic.core.units import TAPE_M, reaching

Role = Literal["end", "corner", "gate", "pull"]
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


def check_gates(course: Course, gates: Sequence[Gate], corners_m: Sequence[float]) -> list[Gate]:
    """Gates in order along the line.  Raises BadInput (``gates``) for one off the line, over a corner or another."""
    ordered = sorted(gates, key=lambda g: g.at_m)
    for gate in ordered:
        end = gate.at_m + gate.opening_m
        if end > course.length_m + 1e-6:
            raise BadInput(
                "gates",
                Say(
                    "{name} runs from {a} to {b}, beyond the line's end at {end}",
                    {
                        "name": gate.name,
                        "a": (gate.at_m, "station"),
                        "b": (end, "station"),
                        "end": (course.length_m, "station"),
                    },
                ),
            )
        for corner in corners_m:
            if gate.at_m + 1e-6 < corner < end - 1e-6:
                raise BadInput(
                    "gates",
                    Say(
                        "{name} would span the corner at {at}; hang it from the corner post or beyond it",
                        {"name": gate.name, "at": (corner, "station")},
                    ),
                )
    for before, after in pairwise(ordered):
        if after.at_m < before.at_m + before.opening_m + SHORTEST_RUN_M:
            raise BadInput(
                "gates",
                Say(
                    "{after} at {at} overlaps {before}, or leaves no fence between them",
                    {"after": after.name, "at": (after.at_m, "station"), "before": before.name},
                ),
            )
    return ordered


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
    gates: Sequence[Gate],
    corner_angle_deg: float,
    longest_m: float = 0.0,
    barred: Sequence[tuple[float, float]] = (),
    ends_at: Sequence[float] = (),
) -> tuple[list[Run], list[Gate]]:
    """Runs in order along the line, and the gates in order, as they hang; a side longer than ``longest_m`` (0: any) is broken,
    and one is where the fencer says so (``ends_at``).

    A gate whose post all but falls on another terminal hangs from that one: its place and opening are those between posts.
    """
    length, turns = course.length_m, course.turns_deg()
    last = len(turns) - 1
    corners = [
        Terminal(float(course.stations_m[k]), "corner", float(turns[k]))
        for k in range(1, last)
        if abs(turns[k]) > corner_angle_deg
    ]
    ordered = check_gates(course, gates, [c.station_m for c in corners])
    role: Role = "corner" if course.closed else "end"
    marks = {0.0: Terminal(0.0, role, float(turns[0])), length: Terminal(length, role, float(turns[-1]))}
    marks |= {c.station_m: c for c in corners}

    def near(station: float) -> float:
        """A gate post that all but falls on another terminal is that terminal."""
        return next((m for m in marks if abs(m - station) < SHORTEST_RUN_M), station)

    openings, hung = [], []
    for gate in ordered:
        low, high = near(gate.at_m), near(gate.at_m + gate.opening_m)
        for station in (low, high):
            marks[station] = Terminal(station, "gate", marks[station].turn_deg if station in marks else 0.0)
        openings.append((low, high))
        hung.append(
            gate.model_copy(update={"at_m": low, "opening_m": high - low})
            if (low, high) != (gate.at_m, gate.at_m + gate.opening_m)
            else gate
        )
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
