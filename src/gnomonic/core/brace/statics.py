"""Braces: posts pinned at the ground, rail, strut and wire as two-force members.

Source: statics by hand (derived in docs/method.md §5), checked against a frame-analysis library in the tests.
"""

import math
from dataclasses import dataclass
from typing import Literal


@dataclass(frozen=True, slots=True)
class HBrace:
    """Forces (N) in an H-brace.  ``rail_n``, ``wire_n``, ``wire_share`` per panel from the end post inwards;
    ``foot_shear_n`` per post.  Where the brace does not stand, nothing but the slack wires is known."""

    stands: bool
    rail_n: tuple[float, ...] | None
    wire_n: tuple[float, ...]
    wire_share: tuple[float, ...] | None
    end_post_uplift_n: float | None
    uplift_equal_sharing_n: float | None
    base_shear_n: float | None
    foot_shear_n: tuple[float, ...] | None


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
    """Rail, brace wire and uplift of an H-brace of equal panels.

    The right wire runs from the top of the inner post to the foot of the end post; ``wire_height_m`` is where it
    meets the inner post (the rail's height unless given); ``ea_ratio`` is EA of wire over EA of rail.  All in m, N.

    Rail C = H·hp/hr.  Each panel's rail passes on what its own wire does not take: with u the sway of a post at rail
    height in units of (rail stiffness)⁻¹ and g = r·cos³φ·(hw/hr)², C_k = u_k − u_{k+1} and wire_k = g·u_{k+1}.

    >>> b = h_brace(4000, 0.9, 1.05, 2.4)
    >>> round(b.rail_n[0], 1), round(b.wire_n[0], 1), b.end_post_uplift_n
    (3428.6, 3742.3, 1500.0)
    """
    if wire == "wrong":
        return HBrace(False, None, (0.0,) * panels, None, None, None, None, None)
    hw = rail_height_m if wire_height_m is None else wire_height_m
    phi = math.atan2(hw, spacing_m)
    g = ea_ratio * math.cos(phi) ** 3 * (hw / rail_height_m) ** 2
    sway = [1.0]  # of the innermost post, then outwards; scaled afterwards
    taken = [g]
    for _ in range(panels - 1):
        sway.append(sway[-1] + sum(taken))
        taken.append(g * sway[-1])
    total = sum(taken)
    share = tuple(t / total for t in reversed(taken))
    rail = pull_n * pull_height_m / rail_height_m
    passed = [1.0 - sum(share[:k]) for k in range(panels)]
    wires = tuple(s * rail * rail_height_m / (hw * math.cos(phi)) for s in share)
    level = [w * math.cos(phi) for w in wires]
    feet = [pull_n - rail + level[0]]
    for k in range(1, panels + 1):
        into = passed[k - 1] * rail - (passed[k] * rail if k < panels else 0.0)
        feet.append(into - level[k - 1] + (level[k] if k < panels else 0.0))
    return HBrace(
        stands=True,
        rail_n=tuple(p * rail for p in passed),
        wire_n=wires,
        wire_share=share,
        end_post_uplift_n=share[0] * pull_n * pull_height_m / spacing_m,
        uplift_equal_sharing_n=pull_n * pull_height_m / (panels * spacing_m),
        base_shear_n=pull_n,
        foot_shear_n=tuple(feet),
    )


def crossed_wire(pull_n: float, pull_height_m: float, rail_height_m: float, spacing_m: float) -> HBrace:
    """The second wire in the panel behind a braced post within a side, when only the run ahead pulls.

    It runs from the top of the braced post to the foot of the brace post behind and holds like a stay: T = H·hp/(hr·cos φ).
    The rail, which could only push, carries nothing of this run; the braced post is pressed down by H·hp/l and the brace
    post behind is lifted by as much.  ``foot_shear_n`` is of the braced post, then the brace post.  Derived from the
    moment balance of both posts pinned at the ground.

    >>> w = crossed_wire(4000, 0.9, 1.05, 2.4)
    >>> w.rail_n, round(w.wire_n[0], 1), w.end_post_uplift_n
    ((0.0,), 3742.3, -1500.0)
    """
    level = pull_n * pull_height_m / rail_height_m
    phi = math.atan2(rail_height_m, spacing_m)
    uplift = -pull_n * pull_height_m / spacing_m
    wire = level / math.cos(phi)
    return HBrace(True, (0.0,), (wire,), (1.0,), uplift, uplift, pull_n, (pull_n - level, level))


@dataclass(frozen=True, slots=True)
class DiagonalBrace:
    """Forces (N) in a diagonal brace; ``foot_reaction_n`` is what the strut's foot puts into the ground (out, down)."""

    reach_m: float
    angle_deg: float
    strut_n: float
    strut_moment_nm: float
    tie_n: float
    end_post_uplift_n: float
    foot_reaction_n: tuple[float, float]


def diagonal_brace(
    pull_n: float, pull_height_m: float, strut_height_m: float, reach_m: float, tie: Literal["none", "foot", "mid"]
) -> DiagonalBrace:
    """Strut from the end post at ``strut_height_m`` to a footing ``reach_m`` out.

    Strut H·hp/h/cos ψ, tan ψ = h/a; uplift H·hp/a at every angle.  A tie from the end post's foot takes the foot's
    outward push: straight across H·hp/h; to mid-strut H·hp/(h·cos ψ), bending the strut by H·hp/2 at its middle.

    >>> d = diagonal_brace(1000, 1.0, 1.0, 1.0, "foot")
    >>> round(d.strut_n, 1), d.tie_n, d.end_post_uplift_n
    (1414.2, 1000.0, 1000.0)
    """
    psi = math.atan2(strut_height_m, reach_m)
    push = pull_n * pull_height_m / strut_height_m
    uplift = pull_n * pull_height_m / reach_m
    return DiagonalBrace(
        reach_m=reach_m,
        angle_deg=math.degrees(psi),
        strut_n=push / math.cos(psi),
        strut_moment_nm=pull_n * pull_height_m / 2 if tie == "mid" else 0.0,
        tie_n={"none": 0.0, "foot": push, "mid": push / math.cos(psi)}[tie],
        end_post_uplift_n=uplift,
        foot_reaction_n=(push if tie == "none" else 0.0, uplift),
    )
