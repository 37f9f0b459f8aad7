"""``gate_opening``, ``gate_sweep``, ``cable``, ``wind``: the pocket sums of gates, crossings and wind."""

import math
from typing import Annotated, Literal

from pydantic import Field

from gnomonic.core.calc.parts import Answer, Input, NotNegative, Positive, why
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.fabrics import fabrics
from gnomonic.core.finish.cable import hung
from gnomonic.core.finish.opening import leaf_that_fits_m, opening
from gnomonic.core.finish.swing import plane_sweep
from gnomonic.core.finish.wind import covered, force_coefficient, push_n_m, velocity_pressure_pa

GEOMETRY = "geometry, docs/method.md §13"
Grade = Annotated[float, Field(allow_inf_nan=False, ge=-10, le=10)]
NOTHING_M = 1e-9
Share = Annotated[float, Field(allow_inf_nan=False, ge=0, le=1)]


class GateOpeningInput(Input):
    """``gate_opening``."""

    leaf_m: Positive | None = None
    centres_m: Positive | None = None
    leaves: Literal[1, 2] = 1
    hinge_gap_m: NotNegative
    latch_gap_m: NotNegative
    hinge_post_m: NotNegative
    latch_post_m: NotNegative
    grade: Grade = 0.0


def calc_gate_opening(q: GateOpeningInput) -> Answer:
    """The opening of a leaf, or the leaf of an opening."""
    if (q.leaf_m is None) == (q.centres_m is None):
        raise BadInput("leaf_m", "leaf_m: give the leaf (each), or centres_m between post centres, one of them")
    gaps, posts = (q.hinge_gap_m, q.latch_gap_m), (q.hinge_post_m, q.latch_post_m)
    if q.centres_m is not None:
        total = leaf_that_fits_m(q.centres_m, q.leaves, gaps, posts)
        if total <= NOTHING_M:
            least = q.centres_m - total
            raise BadInput(
                "centres_m",
                f"centres_m is {q.centres_m:g}: posts, hinges and latch alone take {least:g} m, no leaf fits",
            )
        leaf = total / q.leaves
    else:
        assert q.leaf_m is not None
        leaf = q.leaf_m
    found = opening(leaf, q.leaves, gaps, posts, q.grade)
    said = {} if q.centres_m is None else {"leaf_that_fits_m": leaf * q.leaves}
    hinged = "both posts have hinges, the latch lies between the leaves" if q.leaves == 2 else "a hinge and a latch"
    return {
        "clear_m": found.clear_m,
        "centres_m": found.centres_m,
        "tape_on_slope_m": found.on_slope_m,
        **said,
        "why": [
            why(
                "clear = leaves + hinge and latch gaps; centres = clear + half of both posts; the leaf hangs level, so the tape "
                "on a slope reads centres·√(1 + grade²)",
                f"{q.leaves} × {leaf:g} m, {hinged}: {found.clear_m:.4f} m clear, {found.centres_m:.4f} m between centres",
                GEOMETRY,
            )
        ],
    }


class GateSweepInput(Input):
    """``gate_sweep``."""

    leaf_m: Positive
    m1: Grade
    m2: Grade
    open_to_deg: Annotated[float, Field(allow_inf_nan=False, gt=0, le=180)] = 90.0
    clearance_m: NotNegative = 0.05


def calc_gate_sweep(q: GateSweepInput) -> Answer:
    """A level leaf swung over sloping ground, and whether the other post would do better."""
    opened = math.radians(q.open_to_deg)
    this = plane_sweep(q.leaf_m, q.m1, q.m2, opened, q.clearance_m)
    other = plane_sweep(q.leaf_m, -q.m1, q.m2, opened, q.clearance_m)
    return {
        "highest_ground_m": this.highest_m,
        "at_deg": math.degrees(this.at_rad),
        "bottom_clearance_m": this.bottom_m,
        "largest_gap_under_tip_m": this.gap_m,
        "better_hinge": "other" if other.highest_m < this.highest_m - 1e-9 else "this",
        "other_bottom_clearance_m": other.bottom_m,
        "why": [
            why(
                "ground under the tip at φ: leaf·(m1 cos φ + m2 sin φ) = leaf·√(m1² + m2²)·cos(φ − atan2(m2, m1)); its highest and "
                "the clearance set the leaf's bottom",
                f"highest {this.highest_m:.3f} m at {math.degrees(this.at_rad):.0f}°; from the other post {other.highest_m:.3f} m",
                GEOMETRY,
            )
        ],
    }


class CableInput(Input):
    """``cable``."""

    w_n_per_m: Positive
    span_m: Annotated[float, Field(allow_inf_nan=False, gt=0, le=10_000)]
    sag_m: Positive


def calc_cable(q: CableInput) -> Answer:
    """What a hung cable pulls."""
    found = hung(q.w_n_per_m, q.span_m, q.sag_m)
    return {
        "horizontal_n": found.horizontal_n,
        "support_n": found.support_n,
        "catenary_horizontal_n": found.catenary_horizontal_n,
        "catenary_support_n": found.catenary_support_n,
        "catenary_length_m": found.catenary_length_m,
        "why": [
            why(
                "parabola: H = w·L²/(8f), at the support √(H² + (wL/2)²); catenary: a·(cosh(L/2a) − 1) = f, H = w·a, w·(a + f)",
                f"{q.w_n_per_m:g} N/m over {q.span_m:g} m sagging {q.sag_m:g} m: {found.horizontal_n:.1f} N, at the support "
                f"{found.support_n:.1f} N",
                "statics, any text; docs/method.md §15",
            )
        ],
    }


class WindInput(Input):
    """``wind``: a ``label`` on file, or a ``solidity`` with the ``wire_m`` it is made of."""

    speed_m_s: Annotated[float, Field(allow_inf_nan=False, ge=0, le=100)]
    height_m: Annotated[float, Field(allow_inf_nan=False, gt=0, le=20)]
    bay_m: Annotated[float, Field(allow_inf_nan=False, gt=0, le=50)]
    label: Annotated[str, Field(max_length=120)] | None = None
    solidity: Annotated[float, Field(allow_inf_nan=False, gt=0, le=1)] | None = None
    wire_m: Annotated[float, Field(allow_inf_nan=False, ge=0, le=0.2)] = 0.0025
    ice_m: Annotated[float, Field(allow_inf_nan=False, ge=0, le=0.1)] = 0.0
    litter: Share = 0.0


def calc_wind(q: WindInput) -> Answer:
    """Wind on what hangs and on a line post."""
    if (q.label is None) == (q.solidity is None):
        raise BadInput("label", "label: give a fabric on file, or a solidity, one of them")
    if q.solidity is not None and q.ice_m:
        raise BadInput("ice_m", "ice_m thickens the wires of a label; with solidity give what the ice makes of it")
    if q.label is not None:
        if q.label not in fabrics():
            raise BadInput("label", f"label “{q.label[:40]}” is no fabric on file; there are: {', '.join(fabrics())}")
        share, thick = covered(fabrics()[q.label], q.ice_m)
    else:
        share, thick = q.solidity or 0.0, q.wire_m
    share = max(share, q.litter)
    pressure = velocity_pressure_pa(q.speed_m_s)
    along = push_n_m(share, thick, q.height_m, q.speed_m_s)
    return {
        "q_pa": pressure,
        "solidity": share,
        "coefficient": force_coefficient(share, thick, pressure),
        "push_n_per_m": along,
        "post_n": along * q.bay_m,
        "at_m": q.height_m / 2,
        "moment_nm": along * q.bay_m * q.height_m / 2,
        "why": [
            why(
                "q = ½ρV² = 0.613·V²; force = q·Cf·solidity·area, at half the height; a post carries a bay of it",
                f"q = {pressure:.0f} Pa, {100 * share:.1f} % covered: {along:.0f} N a metre, {along * q.bay_m:.0f} N a post",
                "ASCE 7-10, figures 29.5-2 and 29.4-1, from memory; docs/method.md §16",
            )
        ],
    }
