"""``brace``: forces in an H-brace or a diagonal one."""

import math
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from gnomonic.core.brace.statics import diagonal_brace, h_brace
from gnomonic.core.calc.parts import Answer, Input, NotNegative, Positive, why
from gnomonic.core.errors import BadInput


class HBraceInput(Input):
    """``brace`` of type ``h``."""

    type: Literal["h"]
    pull_n: NotNegative
    pull_height_m: Positive
    rail_height_m: Positive
    spacing_m: Positive
    panels: Annotated[int, Field(ge=1, le=10)] = 1
    wire: Literal["right", "wrong"] = "right"
    wire_height_m: Positive | None = None
    ea_rail_n: Positive | None = None
    ea_wire_n: Positive | None = None


class DiagonalInput(Input):
    """``brace`` of type ``diagonal``."""

    type: Literal["diagonal"]
    pull_n: NotNegative
    pull_height_m: Positive
    strut_height_m: Positive
    reach_m: Positive | None = None
    angle_deg: Annotated[float, Field(gt=0, lt=90)] | None = None
    tie: Literal["none", "foot", "mid"] = "none"


class BraceInput(Input):
    """``brace``."""

    brace: Annotated[HBraceInput | DiagonalInput, Field(discriminator="type")]

    @model_validator(mode="before")
    @classmethod
    def _wrap(cls, data: Any) -> Any:
        return {"brace": data}


def calc_brace(q: BraceInput) -> Answer:
    """Forces in an H-brace or a diagonal brace."""
    return _h(q.brace) if isinstance(q.brace, HBraceInput) else _diagonal(q.brace)


def _h(q: HBraceInput) -> Answer:
    ratio = 1.0
    if (q.ea_rail_n is None) != (q.ea_wire_n is None):
        field = "ea_rail_n" if q.ea_rail_n is None else "ea_wire_n"
        raise BadInput(field, f"{field} is missing: give ea_rail_n and ea_wire_n both, or neither for equal ones")
    if q.ea_rail_n is not None and q.ea_wire_n is not None:
        ratio = q.ea_wire_n / q.ea_rail_n
    b = h_brace(q.pull_n, q.pull_height_m, q.rail_height_m, q.spacing_m, q.panels, q.wire, q.wire_height_m, ratio)
    rail = q.pull_n * q.pull_height_m / q.rail_height_m
    reason = why(
        "rail C = H·hp/hr; wire T = C·hr/(hw·cos φ), tan φ = hw/l; uplift = H·hp/l, panels sharing by stiffness",
        f"C = {q.pull_n:g}·{q.pull_height_m:g}/{q.rail_height_m:g} = {rail:.1f} N",
        "statics of pinned posts, derived in docs/method.md §5",
    )
    if not b.stands:
        reason = why(
            "the brace wire runs from the top of the inner post to the foot of the end post",
            "on the other diagonal it goes slack when the fence pulls, and the panel is a mechanism",
            "statics of pinned posts, derived in docs/method.md §5",
        )
    return {
        "stands": b.stands,
        "rail_n": None if b.rail_n is None else list(b.rail_n),
        "wire_n": list(b.wire_n),
        "end_post_uplift_n": b.end_post_uplift_n,
        "uplift_equal_sharing_n": b.uplift_equal_sharing_n,
        "first_panel_share": None if b.wire_share is None else b.wire_share[0],
        "base_shear_n": b.base_shear_n,
        "foot_shear_n": None if b.foot_shear_n is None else list(b.foot_shear_n),
        "why": [reason],
    }


def _diagonal(q: DiagonalInput) -> Answer:
    if (q.reach_m is None) == (q.angle_deg is None):
        raise BadInput("reach_m", "reach_m or angle_deg must be given, and not both")
    reach = q.reach_m
    if reach is None:
        assert q.angle_deg is not None
        reach = q.strut_height_m / math.tan(math.radians(q.angle_deg))
    d = diagonal_brace(q.pull_n, q.pull_height_m, q.strut_height_m, reach, q.tie)
    return {
        "reach_m": d.reach_m,
        "angle_deg": d.angle_deg,
        "strut_n": d.strut_n,
        "strut_moment_nm": d.strut_moment_nm,
        "tie_n": d.tie_n,
        "end_post_uplift_n": d.end_post_uplift_n,
        "foot_reaction_n": list(d.foot_reaction_n),
        "why": [
            why(
                "strut = H·hp/h/cos ψ, tan ψ = h/a; uplift = H·hp/a at every angle: a longer reach lifts less",
                f"uplift = {q.pull_n:g}·{q.pull_height_m:g}/{reach:.3g} = {d.end_post_uplift_n:.1f} N",
                "statics of pinned members, derived in docs/method.md §5",
            )
        ],
    }
