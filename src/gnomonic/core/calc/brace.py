"""``brace``: forces in an H-brace or a diagonal one."""

import math
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from gnomonic.core.brace.statics import SLACK, braced, diagonal_brace, fallen, panel_on, why_not
from gnomonic.core.calc.parts import Answer, Input, NotNegative, Number, Positive, why
from gnomonic.core.errors import BadInput

STATICS = "statics of pinned posts, derived in docs/method.md §5"


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
    rise_m: Number = 0.0
    rail: Literal["level", "ground"] = "level"
    post_top_m: Positive | None = None


class DiagonalInput(Input):
    """``brace`` of type ``diagonal``."""

    type: Literal["diagonal"]
    pull_n: NotNegative
    pull_height_m: Positive
    strut_height_m: Positive
    reach_m: Positive | None = None
    angle_deg: Annotated[float, Field(gt=0, lt=90)] | None = None
    tie: Literal["none", "foot", "mid"] = "none"
    rise_m: Number = 0.0


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
    if q.rise_m and q.panels > 1:
        raise BadInput(
            "rise_m", f"rise_m ({q.rise_m:g}) goes with one panel, not with {q.panels}: reckon each by itself"
        )
    panel = panel_on(q.spacing_m, q.rise_m, q.rail_height_m, q.rail, q.wire_height_m)
    because = SLACK if q.wire == "wrong" else why_not(panel, q.post_top_m)
    grade = q.rise_m / q.spacing_m
    b = fallen(q.panels, because) if because else braced(q.pull_n, q.pull_height_m, grade, [panel] * q.panels, ratio)
    if b.stands and b.rail_n:
        along = "" if not q.rise_m else f"·cos {math.degrees(math.atan(grade)):.3g}°"
        reason = why(
            "rail C·cos ρ = H·cos β·hp/hr; wire T·cos φ·hw = C·cos ρ·(rail's height on the inner post); uplift from the real "
            "angles, on level ground H·hp/l; panels share by stiffness",
            f"{q.pull_n:g}{along}·{q.pull_height_m:g}/{q.rail_height_m:g}: first rail {b.rail_n[0]:.1f} N",
            STATICS,
        )
    else:
        reason = why("the brace wire runs from the top of the inner post to the foot of the end post", because, STATICS)
    return {
        "stands": b.stands,
        "rail_n": None if b.rail_n is None else list(b.rail_n),
        "wire_n": list(b.wire_n),
        "end_post_uplift_n": b.end_post_uplift_n,
        "uplift_equal_sharing_n": b.uplift_equal_sharing_n,
        "first_panel_share": None if b.wire_share is None else b.wire_share[0],
        "base_shear_n": b.base_shear_n,
        "foot_shear_n": None if b.foot_shear_n is None else list(b.foot_shear_n),
        **({"because": because} if because else {}),
        "rail_length_m": panel.rail_m,
        "wire_length_m": panel.wire_m,
        "rail_on_inner_m": panel.rail_in_m,
        "why": [reason],
    }


def _diagonal(q: DiagonalInput) -> Answer:
    if q.rise_m:
        raise BadInput("rise_m", f"rise_m ({q.rise_m:g}) goes with one panel of type “h”, not with a strut")
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
                STATICS,
            )
        ],
    }
