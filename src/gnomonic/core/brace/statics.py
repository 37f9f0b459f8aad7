"""Braces: posts pinned at the ground, rail, strut and wire as two-force members.

Source: statics by hand (derived in docs/method.md §5), checked against a frame-analysis library in the tests.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from gnomonic.core.errors import BadInput


@dataclass(frozen=True, slots=True)
class Panel:
    """One panel from an outer post to the next one in.

    ``level_m`` between post centres; ``rise_m`` of the inner post's ground over the outer's; the rail meets the outer post
    ``rail_out_m`` and the inner one ``rail_in_m`` above its own ground, the wire the inner one at ``wire_in_m``; it ends at
    the outer post's foot.
    """

    level_m: float
    rail_out_m: float
    rail_in_m: float
    wire_in_m: float
    rise_m: float = 0.0

    @property
    def rail_m(self) -> float:
        """Rail between the posts' centre lines."""
        return math.hypot(self.level_m, self.rise_m + self.rail_in_m - self.rail_out_m)

    @property
    def wire_m(self) -> float:
        """Diagonal of the brace wire between the posts' centre lines."""
        return math.hypot(self.level_m, self.rise_m + self.wire_in_m)


@dataclass(frozen=True, slots=True)
class HBrace:
    """Forces (N) in an H-brace.  ``rail_n``, ``wire_n``, ``wire_share`` per panel from the end post inwards;
    ``foot_shear_n`` (level, with the pull) and ``uplift_n`` per post.  Where the brace does not stand, nothing but the slack
    wires is known and ``because`` says why."""

    stands: bool
    rail_n: tuple[float, ...] | None
    wire_n: tuple[float, ...]
    wire_share: tuple[float, ...] | None
    end_post_uplift_n: float | None
    uplift_equal_sharing_n: float | None
    base_shear_n: float | None
    foot_shear_n: tuple[float, ...] | None
    uplift_n: tuple[float, ...] | None = None
    because: str = ""


SLACK = "the wire lies on the other diagonal: it goes slack when the fence pulls, and the panel is a mechanism"
IN_GROUND = "the rail would meet the inner post at or under its ground"
OVER_TOP = "the rail would meet the inner post above its top"


def fallen(panels: int, because: str) -> HBrace:
    """A brace that does not stand."""
    return HBrace(False, None, (0.0,) * panels, None, None, None, None, None, None, because)


def panel_on(
    level_m: float,
    rise_m: float,
    rail_height_m: float,
    rail: Literal["level", "ground"] = "level",
    wire_height_m: float | None = None,
) -> Panel:
    """A panel on ground that rises: its rail level, or parallel to the ground; the wire meets the inner post at the rail
    unless told."""
    inner = rail_height_m - (rise_m if rail == "level" else 0.0)
    return Panel(level_m, rail_height_m, inner, inner if wire_height_m is None else wire_height_m, rise_m)


def why_not(panel: Panel, top_m: float | None = None) -> str:
    """Why a panel can't stand: its rail or wire off the inner post, whose head is ``top_m`` above its ground; else empty."""
    if panel.rail_in_m <= 0 or panel.wire_in_m <= 0:
        return IN_GROUND
    if top_m is not None and max(panel.rail_in_m, panel.wire_in_m) > top_m:
        return OVER_TOP
    return ""


def braced(pull_n: float, pull_height_m: float, grade: float, panels: Sequence[Panel], ea_ratio: float = 1.0) -> HBrace:
    """Forces in panels in a row, each on its own ground.

    The pull acts ``pull_height_m`` up the end post along ground of this ``grade`` (rise over level run, toward the inner
    post).  Posts are pinned at their own ground and rigid, so that a turn ω of a post moves a point h up it by ω·h;
    ``ea_ratio`` is EA of wire over EA of rail.  From the innermost post (ω = 1) outwards: its wire stretches by
    ω·hw·cos φ, its balance gives the rail, the rail's shortening the next post's turn; the pull scales it all.  Moments
    about the end post's foot: C·cos ρ·hr = H·cos β·hp.  Derived: docs/method.md §5.
    """
    for panel in panels:
        if because := why_not(panel):
            return fallen(len(panels), because)
    down, along = math.sin(math.atan(grade)), math.cos(math.atan(grade))
    turn, outer = 1.0, 0.0
    rails: list[float] = []
    wires: list[float] = []
    for panel in reversed(panels):
        rail_m, wire_m = panel.rail_m, panel.wire_m
        cos_rail, cos_wire = panel.level_m / rail_m, panel.level_m / wire_m
        wire = ea_ratio / wire_m * turn * panel.wire_in_m * cos_wire
        rail = (outer + wire * cos_wire * panel.wire_in_m) / (cos_rail * panel.rail_in_m)
        turn = (rail * rail_m / cos_rail + turn * panel.rail_in_m) / panel.rail_out_m
        outer = rail * cos_rail * panel.rail_out_m
        rails.insert(0, rail)
        wires.insert(0, wire)
    share = tuple(w / sum(wires) for w in wires)
    scale = pull_n * along * pull_height_m / outer
    rails, wires = [r * scale for r in rails], [w * scale for w in wires]
    shear, uplift = [pull_n * along], [pull_n * down]
    for k, panel in enumerate(panels):
        rail_x, wire_x = rails[k] * panel.level_m / panel.rail_m, wires[k] * panel.level_m / panel.wire_m
        rail_y = rails[k] * (panel.rise_m + panel.rail_in_m - panel.rail_out_m) / panel.rail_m
        wire_y = wires[k] * (panel.rise_m + panel.wire_in_m) / panel.wire_m
        shear[k] += wire_x - rail_x
        uplift[k] += wire_y - rail_y
        shear.append(rail_x - wire_x)
        uplift.append(rail_y - wire_y)
    level = sum(p.level_m for p in panels)
    return HBrace(
        stands=True,
        rail_n=tuple(rails),
        wire_n=tuple(wires),
        wire_share=share,
        end_post_uplift_n=uplift[0],
        uplift_equal_sharing_n=pull_n * pull_height_m / level,
        base_shear_n=pull_n,
        foot_shear_n=tuple(shear),
        uplift_n=tuple(uplift),
    )


def h_brace(
    pull_n: float,
    pull_height_m: float,
    rail_height_m: float,
    spacing_m: float,
    panels: int = 1,
    wire: Literal["right", "wrong"] = "right",
    wire_height_m: float | None = None,
    ea_ratio: float = 1.0,
) -> HBrace:
    """Rail, brace wire and uplift of an H-brace of equal panels on level ground.

    The right wire runs from the top of the inner post to the foot of the end post; ``wire_height_m`` is where it
    meets the inner post (the rail's height unless given); ``ea_ratio`` is EA of wire over EA of rail.  All in m, N.

    >>> b = h_brace(4000, 0.9, 1.05, 2.4)
    >>> round(b.rail_n[0], 1), round(b.wire_n[0], 1), round(b.end_post_uplift_n, 6)
    (3428.6, 3742.3, 1500.0)
    """
    if wire == "wrong":
        return fallen(panels, SLACK)
    one = panel_on(spacing_m, 0.0, rail_height_m, wire_height_m=wire_height_m)
    return braced(pull_n, pull_height_m, 0.0, [one] * panels, ea_ratio)


def crossed_wire(pull_n: float, pull_height_m: float, grade: float, panel: Panel) -> HBrace:
    """The second wire in the panel behind a braced post within a side, when only the run ahead pulls.

    ``panel`` runs from the braced post (outer) to the brace post behind it; the wire goes from ``rail_out_m`` up the braced
    post to the other's foot and holds like a stay: T = H·cos β·hp/(hr·cos φ).  The rail, which could only push, carries
    nothing of this run; the braced post is pressed down, the brace post behind lifted.  ``foot_shear_n`` and ``uplift_n``
    are of the braced post, then the brace post.  Derived from the moment balance of both posts pinned at the ground.

    >>> w = crossed_wire(4000, 0.9, 0.0, panel_on(2.4, 0.0, 1.05))
    >>> w.rail_n, round(w.wire_n[0], 1), round(w.end_post_uplift_n)
    ((0.0,), 3742.3, -1500)
    """
    along, up = math.cos(math.atan(grade)), math.sin(math.atan(grade))
    level = pull_n * along * pull_height_m / panel.rail_out_m
    fall = panel.rail_out_m - panel.rise_m
    wire = level * math.hypot(panel.level_m, fall) / panel.level_m
    press = level * fall / panel.level_m
    uplift = pull_n * up - press
    shear = (pull_n * along - level, level)
    return HBrace(True, (0.0,), (wire,), (1.0,), uplift, uplift, pull_n, shear, (uplift, press))


@dataclass(frozen=True, slots=True)
class DiagonalBrace:
    """Forces (N) in a diagonal brace; ``foot_reaction_n`` is what the strut's foot puts into the ground (out, down),
    ``foot_shear_n`` what the end post's foot does."""

    reach_m: float
    angle_deg: float
    strut_n: float
    strut_moment_nm: float
    tie_n: float
    end_post_uplift_n: float
    foot_reaction_n: tuple[float, float]
    foot_shear_n: float


def diagonal_brace(
    pull_n: float,
    pull_height_m: float,
    strut_height_m: float,
    reach_m: float,
    tie: Literal["none", "foot", "mid"],
    rise_m: float = 0.0,
) -> DiagonalBrace:
    """Strut from the end post at ``strut_height_m`` to a footing ``reach_m`` out, whose ground is ``rise_m`` higher.

    The pull acts along that ground.  Strut X/cos ψ with X = H·cos β·hp/h, tan ψ = (h − rise)/a; on level ground uplift
    H·hp/a at every angle.  A tie from the end post's foot takes the foot's outward push: straight across, or to mid-strut,
    bending the strut by X·h/2 at its middle; then the post's own foot takes the whole pull, without it only H·cos β − X.

    >>> d = diagonal_brace(1000, 1.0, 1.0, 1.0, "foot")
    >>> round(d.strut_n, 1), d.tie_n, d.end_post_uplift_n
    (1414.2, 1000.0, 1000.0)
    """
    if rise_m >= strut_height_m:
        raise BadInput(
            "strut_height_m", "the strut's foot would lie higher than its head: brace with a level rail there"
        )
    grade = rise_m / reach_m
    along, up = math.cos(math.atan(grade)), math.sin(math.atan(grade))
    fall = strut_height_m - rise_m
    psi = math.atan2(fall, reach_m)
    push = pull_n * along * pull_height_m / strut_height_m
    held = {
        "none": push * fall / reach_m,
        "foot": push * strut_height_m / reach_m,
        "mid": push * strut_height_m / reach_m,
    }
    ties = {
        "none": 0.0,
        "foot": push * math.hypot(reach_m, rise_m) / reach_m,
        "mid": push * math.hypot(reach_m, strut_height_m + rise_m) / reach_m,
    }
    uplift = pull_n * up + held[tie]
    return DiagonalBrace(
        reach_m=reach_m,
        angle_deg=math.degrees(psi),
        strut_n=push / math.cos(psi),
        strut_moment_nm=push * strut_height_m / 2 if tie == "mid" else 0.0,
        tie_n=ties[tie],
        end_post_uplift_n=uplift,
        foot_reaction_n=(push if tie == "none" else 0.0, held[tie]),
        foot_shear_n=pull_n * along - (push if tie == "none" else 0.0),
    )
