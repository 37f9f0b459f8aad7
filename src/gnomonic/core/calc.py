"""Pocket sums: each core computation by itself, JSON in and JSON out.

The contract (keys, units, refusals) is in docs/calc.md; ``KINDS`` maps a kind to its input model and its function.
Every answer carries ``why``.
"""

import json
import math
from collections.abc import Callable, Sequence
from itertools import pairwise
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from gnomonic.core.brace.statics import diagonal_brace, h_brace
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.check import layout_breaks
from gnomonic.core.fabric.label import read_label
from gnomonic.core.fabric.lay import Piece, Rules, RunNeed
from gnomonic.core.fabric.rolls import plan_rolls
from gnomonic.core.fabric.wire import gauge
from gnomonic.core.ground.profile import Profile
from gnomonic.core.job import first_error
from gnomonic.core.setout.least_cost import Limits
from gnomonic.core.setout.line import even_layout, inside_any, merged, set_out

Number = Annotated[float, Field(allow_inf_nan=False, ge=-1e9, le=1e9)]
Positive = Annotated[float, Field(allow_inf_nan=False, gt=0, le=1e9)]
NotNegative = Annotated[float, Field(allow_inf_nan=False, ge=0, le=1e9)]
Answer = dict[str, Any]
MOST_NODES = 400_000
MOST_REACH = 4000


class _Input(BaseModel):
    model_config = ConfigDict(extra="forbid", strict=True, frozen=True)


def why(rule: str, working: str, source: str) -> dict[str, str]:
    """One row of an answer's ``why``."""
    return {"rule": rule, "working": working, "source": source}


class SetoutInput(_Input):
    """``setout``."""

    profile: Annotated[list[Annotated[list[Number], Field(min_length=2, max_length=2)]], Field(min_length=2)]
    length_m: Positive | None = None
    clearance_m: Number
    gap_min_m: Number
    gap_max_m: Number
    max_spacing_m: Positive
    grid_m: Positive = 0.25
    k_fill: NotNegative = 4.0
    k_cut: NotNegative = 8.0
    forced_m: list[Number] = Field(default_factory=list)
    forbidden_m: list[Annotated[list[Number], Field(min_length=2, max_length=2)]] = Field(default_factory=list)
    extra_m: list[Number] = Field(default_factory=list)


def _check_profile(q: SetoutInput, length: float) -> None:
    for k, (before, after) in enumerate(pairwise(row[0] for row in q.profile)):
        if after <= before:
            raise BadInput(
                f"profile[{k + 1}]", f"profile[{k + 1}] is at {after:g} m, not beyond {before:g} m: stations must rise"
            )
    if q.profile[0][0] > 0:
        raise BadInput(
            "profile[0]", f"profile[0] is at {q.profile[0][0]:g} m: the profile must cover the line from 0 m"
        )
    if q.profile[-1][0] < length:
        raise BadInput(
            "length_m", f"length_m is {length:g} but the profile ends at {q.profile[-1][0]:g} m: it must cover the line"
        )
    if length <= 0:
        raise BadInput("length_m", f"length_m is {length:g}; it must be greater than 0")


def calc_setout(q: SetoutInput) -> Answer:
    """Exact least-cost set-out of one line, beside even spacing."""
    length = q.profile[-1][0] if q.length_m is None else q.length_m
    _check_profile(q, length)
    if not q.gap_min_m <= q.clearance_m <= q.gap_max_m:
        field = "gap_min_m" if q.gap_min_m > q.clearance_m else "gap_max_m"
        raise BadInput(field, f"{field} must leave clearance_m ({q.clearance_m:g}) between gap_min_m and gap_max_m")
    if length / q.grid_m > MOST_NODES or q.max_spacing_m / q.grid_m > MOST_REACH:
        raise BadInput("grid_m", f"grid_m ({q.grid_m:g}) is too fine for this line: use a coarser one")
    for k, (low, high) in enumerate(q.forbidden_m):
        if high <= low:
            raise BadInput(
                f"forbidden_m[{k}]", f"forbidden_m[{k}] ends at {high:g} m, not beyond its start at {low:g} m"
            )
    for k, station in enumerate(q.extra_m):
        if not 0 <= station <= length:
            raise BadInput(f"extra_m[{k}]", f"extra_m[{k}] is {station:g} m, off the line of {length:g} m")
    limits = Limits(q.max_spacing_m, q.clearance_m, q.gap_min_m, q.gap_max_m, q.k_fill, q.k_cut)
    profile, forbidden = Profile.of(q.profile), [(a, b) for a, b in q.forbidden_m]
    own = set_out(profile, length, limits, q.forced_m, forbidden, q.grid_m, q.extra_m)
    even = even_layout(profile, merged([0.0, length], q.forced_m).tolist(), limits)
    inside = inside_any(merged(even.stations_m), forbidden)
    inside[[0, -1]] = False
    return {
        **own.figures(),
        "even": {**even.figures(), "posts_in_forbidden": int(inside.sum())},
        "gain_vs_even": 1 - own.cost / even.cost,
        "why": [
            why(
                "cost = posts + k_fill·fill + k_cut·cut, least over all choices of candidate stations; then least Σ bay²",
                f"{len(own.stations_m)} + {q.k_fill:g}·{own.fill_m2:.4g} + {q.k_cut:g}·{own.cut_m2:.4g} = {own.cost:.6g}",
                "shortest path on a directed acyclic graph, exact over the candidates; docs/method.md §2",
            )
        ],
    }


class HBraceInput(_Input):
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


class DiagonalInput(_Input):
    """``brace`` of type ``diagonal``."""

    type: Literal["diagonal"]
    pull_n: NotNegative
    pull_height_m: Positive
    strut_height_m: Positive
    reach_m: Positive | None = None
    angle_deg: Annotated[float, Field(gt=0, lt=90)] | None = None
    tie: Literal["none", "foot", "mid"] = "none"


class BraceInput(_Input):
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


class PieceInput(_Input):
    """A piece of a layout to be judged."""

    stock: str
    length_m: NotNegative


class RollsInput(_Input):
    """``rolls``."""

    roll_m: Positive
    runs_m: Annotated[list[Positive], Field(min_length=1, max_length=200)]
    offcuts_m: Annotated[list[Positive], Field(max_length=200)] = Field(default_factory=list)
    overlap_m: NotNegative
    piece_min_m: NotNegative
    posts_m: list[list[Number]] | None = None
    tie_off_m: NotNegative = 0.0
    clear_m: NotNegative = 0.0
    mode: Literal["plan", "check"] = "plan"
    layout: list[list[PieceInput]] | None = None


def _runs(q: RollsInput) -> list[RunNeed]:
    """Runs with their posts along the fabric."""
    if q.posts_m is None:
        return [RunNeed(need) for need in q.runs_m]
    if len(q.posts_m) != len(q.runs_m):
        raise BadInput("posts_m", f"posts_m has {len(q.posts_m)} lists where runs_m has {len(q.runs_m)} runs")
    for k, (posts, need) in enumerate(zip(q.posts_m, q.runs_m, strict=True)):
        if len(posts) < 2 or any(b <= a for a, b in pairwise(posts)):
            raise BadInput(f"posts_m[{k}]", f"posts_m[{k}] must hold at least two stations, rising")
        if posts[0] < 0 or posts[-1] > need + 1e-6:
            raise BadInput(f"posts_m[{k}]", f"posts_m[{k}] must lie on its run of {need:g} m")
    shifts = _shifts(q)
    return [
        RunNeed(need, tuple(p + shift for p in posts))
        for need, posts, shift in zip(q.runs_m, q.posts_m, shifts, strict=True)
    ]


def _shifts(q: RollsInput) -> list[float]:
    """How far fabric stations lie ahead of each run's post stations: ``tie_off_m`` where the first post is before it.

    Post stations may count from the fabric's cut end or from the first post; the answer counts as they do.
    """
    return [
        q.tie_off_m if posts[0] < q.tie_off_m - 1e-9 and posts[-1] + q.tie_off_m < need + 1e-6 else 0.0
        for need, posts in zip(q.runs_m, q.posts_m or [], strict=True)
    ]


def calc_rolls(q: RollsInput) -> Answer:
    """Rolls and splices for some runs, or the judgement of a layout made by hand."""
    if q.overlap_m >= q.roll_m / 2:
        raise BadInput("overlap_m", f"overlap_m ({q.overlap_m:g}) must be less than half of roll_m ({q.roll_m:g})")
    if q.piece_min_m > q.roll_m:
        raise BadInput("piece_min_m", f"piece_min_m ({q.piece_min_m:g}) is longer than a roll ({q.roll_m:g})")
    runs, rules = _runs(q), Rules(q.overlap_m, q.piece_min_m, q.clear_m)
    if q.mode == "check":
        return _check_layout(q, runs, rules)
    if q.layout is not None:
        raise BadInput("layout", "layout is only read in mode “check”")
    plan = plan_rolls(runs, q.roll_m, q.offcuts_m, rules)
    answer: Answer = {
        "new_rolls": plan.new_rolls,
        "splices": plan.splices,
        "longest_offcut_m": plan.longest_offcut_m,
        "proven": plan.proven,
        "bound": plan.bound,
        "layout": [[{"stock": p.stock, "length_m": p.length_m} for p in pieces] for pieces in plan.pieces],
        "greedy": plan.greedy,
        "why": [
            why(
                "fewest new rolls, then fewest splices, then the longest offcut kept; k pieces take Σ = need + (k−1)·overlap",
                f"{plan.new_rolls} rolls against a bound of {plan.bound['new_rolls']}, "
                f"{plan.splices} splices against {plan.bound['splices']}",
                "grouping of runs and rolls, derived in docs/method.md §9",
            )
        ],
    }
    if q.posts_m is not None:
        answer["splices_at_m"] = [
            [c - shift for c in stations] for stations, shift in zip(plan.splices_at_m, _shifts(q), strict=True)
        ]
    return answer


def _check_layout(q: RollsInput, runs: Sequence[RunNeed], rules: Rules) -> Answer:
    if q.layout is None:
        raise BadInput("layout", "layout is missing: mode “check” judges one")
    pieces = [[Piece(p.stock, p.length_m, k) for p in row] for k, row in enumerate(q.layout)]
    breaks, left = layout_breaks(pieces, runs, q.roll_m, q.offcuts_m, rules)
    return {
        "valid": not breaks,
        "breaks": breaks,
        "new_rolls": sum(name.startswith("new") for name in left),
        "splices": sum(max(0, len(row) - 1) for row in pieces),
        "longest_offcut_m": max(0.0, *left.values()) if left else 0.0,
        "why": [
            why("every piece, sum and splice station against the rules", f"{len(breaks)} broken", "docs/method.md §9")
        ],
    }


class LabelInput(_Input):
    """``label``."""

    label: Annotated[str, Field(min_length=1, max_length=60)]


def calc_label(q: LabelInput) -> Answer:
    """Read a roll label."""
    r = read_label(q.label)
    keys = {
        "woven": ("line_wires", "height_in", "stay_in"),
        "chain_link": ("height_in", "gauge", "diamond_in"),
        "gauge_pair": ("outer_gauge", "filler_gauge"),
    }[r.kind]
    rule = {
        "woven": "line wires – height in inches – stay spacing in inches",
        "chain_link": "height in inches – gauge – diamond in inches",
        "gauge_pair": "gauge of the top and bottom wires / gauge of the filler wires",
    }[r.kind]
    return {
        "kind": r.kind,
        **{k: getattr(r, k) for k in keys},
        "words": r.words,
        "why": [why(rule, q.label.strip(), "common practice")],
    }


class GaugeInput(_Input):
    """``gauge``."""

    gauge: Annotated[float, Field(allow_inf_nan=False, ge=0, le=20)]


def calc_gauge(q: GaugeInput) -> Answer:
    """A wire gauge's diameter, section and stiffness."""
    g = gauge(q.gauge)
    source = "Steel Wire Gauge table" if g.printed else "mean of the neighbouring gauges of the Steel Wire Gauge table"
    return {
        "inch": g.inch,
        "m": g.m,
        "area_m2": g.area_m2,
        "ea_n": g.ea_n,
        "why": [why("A = π·d²/4, E = 200 GPa", f"π·{g.m * 1000:.4g}²/4 = {g.area_m2 * 1e6:.4g} mm²", source)],
    }


KINDS: dict[str, tuple[type[BaseModel], Callable[[Any], Answer]]] = {
    "setout": (SetoutInput, calc_setout),
    "brace": (BraceInput, calc_brace),
    "rolls": (RollsInput, calc_rolls),
    "label": (LabelInput, calc_label),
    "gauge": (GaugeInput, calc_gauge),
}


def read_json(body: str | bytes) -> Any:
    """JSON text as data.  Raises BadInput."""
    try:
        return json.loads(body)
    except (json.JSONDecodeError, UnicodeDecodeError, RecursionError) as error:
        where = f" at line {error.lineno}, column {error.colno}" if isinstance(error, json.JSONDecodeError) else ""
        raise BadInput("", f"the input is not JSON{where}: it must be an object with named fields") from None


def calc(kind: str, data: Any) -> Answer:
    """Answer one pocket sum.  Raises BadInput with the field as a path and one sentence."""
    if kind not in KINDS:
        raise BadInput("kind", f"there is no pocket sum called “{kind[:40]}”: use {', '.join(KINDS)}")
    if not isinstance(data, dict):
        raise BadInput("", "the input must be a JSON object with named fields")
    model, answer = KINDS[kind]
    try:
        question = model.model_validate(data)
    except ValidationError as error:
        bad = first_error(error)
        for part in ("brace.h.", "brace.diagonal."):
            if bad.field.startswith(part):
                bad = BadInput(bad.field.removeprefix(part), bad.sentence.removeprefix(part))
        if bad.field == "brace":
            bad = BadInput("type", "type must be “h” or “diagonal”")
        raise bad from None
    return answer(question)
