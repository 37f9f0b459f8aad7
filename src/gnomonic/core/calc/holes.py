"""``embed`` and ``backfill``: posts in soil, and what fills the hole round them."""

import math
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from gnomonic.core.calc.parts import Answer, Input, NotNegative, Positive, why
from gnomonic.core.errors import BadInput
from gnomonic.core.soil.backfill import backfill, fills
from gnomonic.core.soil.embed import (
    IBC_DEEPEST_FT,
    Ground,
    Lean,
    broms_clay,
    broms_sand_n,
    ibc_depth_ft,
    lean_clay,
    lean_sand,
)
from gnomonic.core.units import FOOT_M

BROMS = "Broms (1964), short free-headed pile; docs/method.md §6"
IBC = "International Building Code §1807.3.2.1; docs/method.md §6"
Depth = Annotated[float, Field(allow_inf_nan=False, gt=0, le=50)]


class IbcInput(Input):
    """``embed`` of method ``ibc``; pounds and feet, as the code writes them."""

    method: Literal["ibc"]
    p_lb: NotNegative
    h_ft: NotNegative
    b_ft: Positive
    s_psf_per_ft: Positive


class SandInput(Input):
    """``embed`` of method ``broms_sand``."""

    method: Literal["broms_sand"]
    gamma_n_m3: Positive
    kp: Positive
    b_m: Positive
    depth_m: Depth
    e_m: NotNegative


class ClayInput(Input):
    """``embed`` of method ``broms_clay``."""

    method: Literal["broms_clay"]
    cu_pa: Positive
    b_m: Positive
    depth_m: Depth
    e_m: NotNegative


class LeanInput(Input):
    """``embed`` of method ``lean``."""

    method: Literal["lean"]
    soil: Literal["clay", "sand"]
    k_pa: Positive | None = None
    nh_n_m3: Positive | None = None
    pull_n: NotNegative
    e_m: NotNegative
    depth_m: Depth
    top_at_m: NotNegative | None = None


class RockInput(Input):
    """``embed`` of method ``rock``: a hole that stopped short."""

    method: Literal["rock"]
    soil: Literal["clay", "sand"]
    gamma_n_m3: Positive | None = None
    kp: Positive | None = None
    cu_pa: Positive | None = None
    b_m: Positive
    depth_planned_m: Depth
    depth_reached_m: Depth
    e_m: NotNegative
    pull_n: NotNegative
    factor: Positive


class EmbedInput(Input):
    """``embed``."""

    embed: Annotated[IbcInput | SandInput | ClayInput | LeanInput | RockInput, Field(discriminator="method")]

    @model_validator(mode="before")
    @classmethod
    def _wrap(cls, data: Any) -> Any:
        return {"embed": data}


def calc_embed(q: EmbedInput) -> Answer:
    """Posts in soil by one of the methods."""
    match q.embed:
        case IbcInput() as ask:
            return _ibc(ask)
        case SandInput() as ask:
            return _sand(ask)
        case ClayInput() as ask:
            return _clay(ask)
        case LeanInput() as ask:
            return _lean(ask)
        case RockInput() as ask:
            return _rock(ask)


def _ibc(q: IbcInput) -> Answer:
    d = ibc_depth_ft(q.p_lb, q.h_ft, q.b_ft, q.s_psf_per_ft)
    s1 = q.s_psf_per_ft * min(d, IBC_DEEPEST_FT) / 3
    return {
        "depth_ft": d,
        "depth_m": d * FOOT_M,
        "pressure_capped": d > IBC_DEEPEST_FT,
        "s1_psf": s1,
        "why": [
            why(
                "d = 0.5·A·(1 + √(1 + 4.36·h/A)), A = 2.34·P/(S1·b), S1 at a third of the depth, found by trying again until d is its own",
                f"S1 = {s1:.1f} psf gives d = {d:.2f} ft",
                IBC,
            )
        ],
    }


def _sand(q: SandInput) -> Answer:
    hu = broms_sand_n(q.gamma_n_m3, q.kp, q.b_m, q.depth_m, q.e_m)
    working = f"0.5·{q.gamma_n_m3:g}·{q.b_m:g}·{q.depth_m:g}³·{q.kp:g}/({q.e_m:g} + {q.depth_m:g}) = {hu:.1f} N"
    return {"hu_n": hu, "why": [why("Hu = 0.5·γ·b·L³·Kp/(e + L), ultimate: divide by a factor", working, BROMS)]}


def _clay(q: ClayInput) -> Answer:
    if q.depth_m <= 1.5 * q.b_m:
        raise BadInput(
            "depth_m",
            f"depth_m is {q.depth_m:g}; it must be more than 1.5·b_m ({1.5 * q.b_m:g}): so much of the top holds nothing in clay",
        )
    found = broms_clay(q.cu_pa, q.b_m, q.depth_m, q.e_m)
    rule = "L = 1.5·b + f + g, f = Hu/(9·cu·b), Hu·(e + 1.5·b + 0.5·f) = 2.25·cu·b·g², ultimate: divide by a factor"
    working = f"f = {found.f_m:.4g} m, g = {found.g_m:.4g} m: Hu = {found.hu_n:.1f} N"
    return {
        "hu_n": found.hu_n,
        "f_m": found.f_m,
        "g_m": found.g_m,
        "max_moment_nm": found.max_moment_nm,
        "why": [why(rule, working, BROMS)],
    }


def _given(q: Input, wanted: tuple[str, ...], unwanted: tuple[str, ...], soil: str) -> tuple[float, ...]:
    """The values of a soil; each must be given, none of the other's."""
    for key in wanted:
        if getattr(q, key) is None:
            raise BadInput(key, f"{key} is missing: soil {soil} is described by {' and '.join(wanted)}")
    for key in unwanted:
        if getattr(q, key) is not None:
            raise BadInput(key, f"{key} does not belong to soil {soil}: give {' and '.join(wanted)}")
    return tuple(getattr(q, key) for key in wanted)


def _leaning(q: LeanInput) -> Lean:
    if q.soil == "clay":
        (k,) = _given(q, ("k_pa",), ("nh_n_m3",), "clay")
        return lean_clay(q.pull_n, q.e_m, q.depth_m, k)
    (nh,) = _given(q, ("nh_n_m3",), ("k_pa",), "sand")
    return lean_sand(q.pull_n, q.e_m, q.depth_m, nh)


def _lean(q: LeanInput) -> Answer:
    found = _leaning(q)
    top = q.e_m if q.top_at_m is None else q.top_at_m
    still = found.turns_about_m if found.rotation_rad else None
    rules = {
        "clay": "y0 = 4H·(1 + 1.5·e/L)/(k·L), turn 6H·(L + 2e)/(k·L³)",
        "sand": "y0 = 18H·(1 + 4/3·e/L)/(nh·L²), turn 24H·(L + 1.5·e)/(nh·L⁴)",
    }
    return {
        "ground_m": found.ground_m,
        "rotation_rad": found.rotation_rad,
        "top_m": found.at_m(top),
        "turns_about_m": still,
        "why": [
            why(
                rules[q.soil] + "; a rigid post on springs",
                f"{found.ground_m * 1000:.2f} mm at the ground, {found.at_m(top) * 1000:.2f} mm at {top:g} m over it",
                "balance of forces and moments, the same as Broms (1964); docs/method.md §6",
            )
        ],
    }


def _rock(q: RockInput) -> Answer:
    if q.soil == "sand":
        gamma, kp = _given(q, ("gamma_n_m3", "kp"), ("cu_pa",), "sand")
        ground = Ground("sand", gamma, kp)
    else:
        (cu,) = _given(q, ("cu_pa",), ("gamma_n_m3", "kp"), "clay")
        ground = Ground("clay", cu_pa=cu)
    reached = ground.ultimate_n(q.b_m, q.depth_reached_m, q.e_m)
    need = q.pull_n * q.factor
    ok = reached >= need
    return {
        "hu_n": reached,
        "hu_planned_n": ground.ultimate_n(q.b_m, q.depth_planned_m, q.e_m),
        "need_n": need,
        "ok": ok,
        "depth_needed_m": ground.depth_for_m(need, q.b_m, q.e_m),
        "width_needed_m": ground.width_for_m(need, q.depth_reached_m, q.e_m),
        "why": [
            why(
                "what the post holds at the depth reached against the pull times its factor",
                f"{reached:.0f} N {'≥' if ok else '<'} {q.pull_n:g}·{q.factor:g} = {need:.0f} N",
                BROMS,
            )
        ],
    }


class BackfillInput(Input):
    """``backfill``: one hole, and how many alike."""

    fill: Literal["tamped", "gravel", "concrete", "soil_cement"]
    hole_m: Annotated[float, Field(allow_inf_nan=False, gt=0, le=5)]
    post_m: Annotated[float, Field(allow_inf_nan=False, ge=0, le=5)]
    square: bool = False
    depth_m: Depth
    gravel_m: Annotated[float, Field(allow_inf_nan=False, ge=0, le=5)] = 0.0
    count: Annotated[int, Field(ge=1, le=100_000)] = 1


def calc_backfill(q: BackfillInput) -> Answer:
    """What holes round posts take."""
    hole = math.pi / 4 * q.hole_m**2
    post = q.post_m**2 if q.square else math.pi / 4 * q.post_m**2
    across = q.post_m * (math.sqrt(2) if q.square else 1.0)
    if across >= q.hole_m:
        raise BadInput(
            "post_m", f"post_m is {q.post_m:g}{' square' * q.square}: it does not go into a hole of {q.hole_m:g} m"
        )
    fill = fills()[q.fill]
    one = backfill(fill, hole, post, q.depth_m, q.gravel_m)
    total = one.bags * q.count
    return {
        "hole_m3": one.hole_m3,
        "round_m3": one.round_m3,
        "loose_m3": one.loose_m3,
        "lifts": one.lifts,
        "bags": one.bags,
        "cement_kg": one.cement_kg,
        "water_kg": one.water_kg,
        "gravel_m3": hole * q.gravel_m,
        "all": {
            "hole_m3": one.hole_m3 * q.count,
            "round_m3": one.round_m3 * q.count,
            "loose_m3": one.loose_m3 * q.count,
            "bags": math.ceil(total - 1e-6),
            "cement_kg": one.cement_kg * q.count,
            "water_kg": one.water_kg * q.count,
            "gravel_m3": hole * q.gravel_m * q.count,
        },
        "why": [
            why(
                "hole less post, times the depth; " + fill.reason,
                f"({hole:.4f} − {post:.4f}) m² · {q.depth_m:g} m = {one.round_m3:.4f} m³ a hole",
                fill.source,
            )
        ],
    }
