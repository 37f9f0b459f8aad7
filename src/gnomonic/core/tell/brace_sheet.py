"""The brace sheet: marks, pins, cuts and turns for one braced end, from the distances as they were measured.

Source: common practice; lengths by docs/method.md §5.
"""

import math
from dataclasses import dataclass

from gnomonic.core.errors import BadInput
from gnomonic.core.log.events import CLEAR_LEAST_M, CLEAR_MOST_M
from gnomonic.core.plan.model import Brace, Plan, Post
from gnomonic.core.say import Say

STRING_OVER_M = 0.1


@dataclass(frozen=True, slots=True)
class Measured:
    """What was taped once the posts stood: clear between faces, level, and both posts' thickness (outer, inner)."""

    clear_m: float
    outer_m: float
    inner_m: float


@dataclass(frozen=True, slots=True)
class Mark:
    """A rail's mark on a post: below a level string, and over the post's own ground."""

    below_m: float
    over_m: float


@dataclass(frozen=True, slots=True)
class PanelSheet:
    """One panel, from the end inwards."""

    outer: Mark
    inner: Mark
    centres_m: float
    rail_m: float
    diagonal_m: float
    wire_m: float
    measured: bool


@dataclass(frozen=True, slots=True)
class BraceSheet:
    """Everything for one braced end; ``string_m`` is a level string over the end post's ground."""

    string_m: float
    panels: tuple[PanelSheet, ...]
    loops: float
    pin_m: float
    pin_long_m: float
    spike_long_m: float
    aim_n: float
    wire_n: float


def check_measured(measured: Measured) -> None:
    """Raises BadInput (``clear``, ``outer``, ``inner``) for what is no brace."""
    span: dict[str, tuple[float, str] | str] = {
        "a": (CLEAR_LEAST_M, "cut"),
        "b": (CLEAR_MOST_M, "cut"),
        "c": (measured.clear_m, "cut"),
    }
    if not CLEAR_LEAST_M <= measured.clear_m <= CLEAR_MOST_M:
        raise BadInput("clear", Say("clear is {c}: between the faces of a brace's posts it is {a} to {b}", span))
    for key, value in (("outer", measured.outer_m), ("inner", measured.inner_m)):
        if not 0.03 <= value <= 0.6:
            raise BadInput(key, Say(f"{key} is {{v}}: a post is 1¼ in to 2 ft across", {"v": (value, "cut")}))


def brace_sheet(plan: Plan, brace: Brace, measured: Measured | None = None) -> BraceSheet:
    """Marks, cuts and turns of an end; ``measured`` stands for the plan's distance in its first panel."""
    if measured is not None:
        check_measured(measured)
    rule = plan.system.rule
    loops, wraps = rule("brace_wire_loops"), rule("brace_wire_wraps_m")
    rise, made = 0.0, []
    highest = max(
        sum(p.rise_m for p in brace.panels[:k]) + h
        for k in range(len(brace.panels) + 1)
        for h in ([brace.panels[k].rail_out_m] if k < len(brace.panels) else [brace.panels[-1].rail_in_m])
    )
    string = highest + STRING_OVER_M
    stands = plan.post_at(brace.end.stations_m[0])
    terminal = stands.rule.diameter_m if stands else plan.section.posts["terminal"].diameter_m
    inner = plan.section.posts["brace"].diameter_m
    for k, panel in enumerate(brace.panels):
        faces = ((terminal if k == 0 else inner), inner)
        level, given = panel.level_m, measured is not None and k == 0
        if measured is not None and k == 0:
            faces = (measured.outer_m, measured.inner_m)
            level = measured.clear_m + (measured.outer_m + measured.inner_m) / 2
        grade = panel.rise_m / panel.level_m
        drop = (panel.rise_m + panel.rail_in_m - panel.rail_out_m) * (
            1 if brace.lay == "level" else level / panel.level_m
        )
        clear = level - sum(faces) / 2
        rail = math.hypot(clear, drop * clear / level) + rule("rail_seat_m")
        up = (panel.rail_out_m - grade * level) if brace.end.crossed else grade * level + panel.wire_in_m
        diagonal = math.hypot(level, up)
        made.append(
            PanelSheet(
                Mark(string - rise - panel.rail_out_m, panel.rail_out_m),
                Mark(string - rise - panel.rise_m - panel.rail_in_m, panel.rail_in_m),
                level,
                rail,
                diagonal,
                0.0 if brace.kind == "welded" else loops * 2 * diagonal + wraps,
                given,
            )
        )
        rise += panel.rise_m
    outer = measured.outer_m if measured else terminal
    wire = brace.statics.wire_n[0] if brace.statics.wire_n else 0.0
    return BraceSheet(
        string,
        tuple(made),
        loops,
        rule("pin_m"),
        rule("pin_long_m"),
        outer + rule("spike_into_rail_m"),
        rule("twist_share") * wire,
        wire,
    )


def brace_at(plan: Plan, at_m: float, ahead: bool) -> tuple[Post, Brace]:
    """A braced end by its station.  Raises BadInput (``at``)."""
    for brace in plan.braces:
        start = brace.end.stations_m[0]
        if brace.end.at_start == ahead and abs(start - at_m) < 0.02:
            post = plan.post_at(start)
            assert post is not None  # a brace starts on a terminal
            return post, brace
    raise BadInput("at", Say("no brace stands at {at}: choose one from the list", {"at": (at_m, "station")}))
