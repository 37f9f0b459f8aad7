"""Braces of a plan: which ends are braced and how, what each carries, what it is cut from."""

from itertools import pairwise

import numpy as np

from gnomonic.core.brace.layout import BraceEnd, brace_ends
from gnomonic.core.brace.statics import crossed_wire, diagonal_brace, h_brace
from gnomonic.core.demand.section import Section
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Brace, Strut
from gnomonic.core.setout.runs import Run


def run_ends(fence: Fence, section: Section, runs: list[Run], forbidden: list[tuple[float, float]]) -> list[BraceEnd]:
    """Both ends of every run: braced by H-panels, or by their post alone.

    At a braced post within a side both runs end on that post; the panel before it serves both, with a second wire on its
    other diagonal for the run ahead.
    """
    found: list[BraceEnd] = []
    d = fence.decisions
    for run in runs:
        low, high = run.start.station_m, run.end.station_m
        if section.system.brace != "h":
            found += [
                BraceEnd(run.index, True, (low,), False, False),
                BraceEnd(run.index, False, (high,), False, False),
            ]
            continue
        first, last = brace_ends(
            run.index, low, high, d.brace_spacing_m, int(d.brace_panels), d.longest_bay_m, forbidden
        )
        if run.start.role == "pull" and found and not found[-1].shared:
            first = BraceEnd(run.index, True, found[-1].stations_m[:2], False, False, True)
        found += [first, last]
    return found


def build_brace(end: BraceEnd, run: Run, section: Section, height_m: float, clearance_m: float) -> Brace:
    """Statics and cut lengths of one braced end; the pull acts where the fabrics' and wires' pulls balance."""
    system = section.system
    pull, middle = section.pull_n, clearance_m + section.pull_height_m
    rail = system.rule("rail_share") * height_m
    spacings = [abs(b - a) for a, b in pairwise(end.stations_m)]
    terminal, inner = section.posts["terminal"].diameter_m, section.posts["brace"].diameter_m
    second = terminal if end.stations_m[-1] in (run.start.station_m, run.end.station_m) else inner
    faces = [(terminal + second) / 2] + [inner] * (end.panels - 1)
    loops, wraps = system.rule("brace_wire_loops"), system.rule("brace_wire_wraps_m")
    return Brace(
        end=end,
        statics=crossed_wire(pull, middle, rail, spacings[0])
        if end.crossed
        else h_brace(pull, middle, rail, spacings[0], end.panels),
        pull_n=pull,
        pull_height_m=middle,
        rail_height_m=rail,
        rail_cut_m=tuple(s - f + system.rule("rail_seat_m") for s, f in zip(spacings, faces, strict=True)),
        wire_m=tuple(loops * 2 * float(np.hypot(s, rail)) + wraps for s in spacings),
    )


def build_struts(section: Section, runs: list[Run], height_m: float, clearance_m: float) -> tuple[Strut, ...]:
    """A diagonal brace at each end of every run, tied to its post's foot by the school chosen, where the system has them."""
    system = section.system
    if system.brace != "diagonal":
        return ()
    high = system.rule("strut_share") * height_m
    reach = system.rule("strut_reach") * high
    middle = clearance_m + section.pull_height_m
    foot = section.school("strut_tie") == "foot"
    statics = diagonal_brace(section.pull_n, middle, high, reach, "foot" if foot else "mid")
    long = float(np.hypot(high, reach))
    tie = reach if foot else float(np.hypot(reach / 2, high / 2))
    wire = system.rule("brace_wire_loops") * 2 * tie + system.rule("brace_wire_wraps_m")
    return tuple(
        Strut(run.index, at, statics, section.pull_n, middle, high, long + system.rule("strut_buried_m"), wire)
        for run in runs
        for at in (run.start.station_m, run.end.station_m)
    )
