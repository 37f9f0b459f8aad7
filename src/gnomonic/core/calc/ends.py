"""``lift``, ``press``, ``corner``: what fabric does to a post it passes or ends on."""

from typing import Annotated, Any

from pydantic import Field, PlainValidator

from gnomonic.core.brace.forces import Ends, corner, lift
from gnomonic.core.brace.statics import h_brace
from gnomonic.core.calc.parts import Answer, Input, NotNegative, Positive, why
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.bar import Bar
from gnomonic.core.fabric.press import press
from gnomonic.core.fabric.wire import E_STEEL_PA, Crimped

STATICS = "statics, derived in docs/method.md §{}"
Grade = Annotated[float, Field(allow_inf_nan=False, ge=-100, le=100)]


class LiftInput(Input):
    """``lift``."""

    pull_n: NotNegative
    m1: Grade
    m2: Grade


def calc_lift(q: LiftInput) -> Answer:
    """What fabric that changes its slope at a post lifts it by."""
    found = lift(q.pull_n, q.m1, q.m2)
    return {
        "lift_n": found.lift_n,
        "along_n": found.along_n,
        "total_n": found.total_n,
        "why": [
            why(
                "T·(sin θ2 − sin θ1), θ = atan m; negative presses the post down",
                f"{q.pull_n:g}·(sin atan {q.m2:g} − sin atan {q.m1:g}) = {found.lift_n:.1f} N",
                STATICS.format(6),
            )
        ],
    }


class WireInput(Input):
    """Wires of one kind on a bar."""

    d_m: Annotated[float, Field(allow_inf_nan=False, gt=0, le=0.1)]
    a0_m: Annotated[float, Field(allow_inf_nan=False, ge=0, le=1)] = 0.0
    p_m: Annotated[float, Field(allow_inf_nan=False, gt=0, le=100)] | None = None
    count: Annotated[int, Field(ge=1, le=200)] = 1
    e_pa: Annotated[float, Field(allow_inf_nan=False, gt=0, le=1e13)] = E_STEEL_PA
    break_n: Positive | None = None


Wires = Annotated[list[WireInput], Field(min_length=1, max_length=40)]
HALVES = ("half_sum", "half_first")
MOST_N = 1e9


def _pull_said(value: Any) -> float | str:
    if isinstance(value, str) and value in HALVES:
        return value
    if isinstance(value, bool) or not isinstance(value, int | float) or not 0 <= value <= MOST_N:
        raise ValueError("must be a number of newtons, 0 or more, or “half_sum” or “half_first”")
    return float(value)


PullSaid = Annotated[float | str, PlainValidator(_pull_said)]


def bar_of(wires: list[WireInput]) -> Bar:
    """Wires as the core takes them.  Raises BadInput naming the wire."""
    found = []
    for k, w in enumerate(wires):
        if w.a0_m and w.p_m is None:
            raise BadInput(f"wires[{k}].p_m", f"wires[{k}].p_m is missing: a wire with a curve (a0_m) has a wavelength")
        found.append((Crimped(w.d_m, w.a0_m, w.p_m or 0.0, w.e_pa), w.count))
    return Bar(tuple(found))


def pull_said(pull: float | str, bar: Bar) -> float:
    """A pull as given, or what half the curve makes it.  Raises BadInput (``pull_n``) without a curve to go by."""
    if not isinstance(pull, str):
        return pull
    found = bar.half_sum_n if pull == "half_sum" else bar.half_first_n
    if found is None:
        raise BadInput(
            "pull_n", f"pull_n is {pull}, but a straight wire has no curve to be half out: give a number of newtons"
        )
    return found


class PressInput(Input):
    """``press``."""

    wires: Wires
    pull_n: PullSaid
    a_m: Positive
    b_m: Positive
    depth_m: NotNegative
    run_m: Positive | None = None


def calc_press(q: PressInput) -> Answer:
    """The force that presses fabric down in a dip, and what that does to its wires."""
    bar = bar_of(q.wires)
    pull, run = pull_said(q.pull_n, bar), q.a_m + q.b_m if q.run_m is None else q.run_m
    if run < q.a_m + q.b_m - 1e-9:
        raise BadInput("run_m", f"run_m is {run:g}; it must be at least a_m + b_m ({q.a_m + q.b_m:g})")
    found = press(bar, pull, q.a_m, q.b_m, q.depth_m, run)
    known = [w.break_n for w in q.wires]
    reasons = [
        why(
            "extra length √(a² + d²) + √(b² + d²) − (a + b), taken up by the wires' strain over run_m; force T′·(sin θa + sin θb)",
            f"{found.extra_m * 1000:.4g} mm over {run:g} m raise {pull:.0f} N to {found.pull_n:.0f} N: {found.force_n:.0f} N to press",
            STATICS.format(8),
        )
    ]
    if all(k is None for k in known):
        reasons.append(why("a wire breaks at its own strength", "break_n was not given: not said", "no value on file"))
    return {
        "extra_m": found.extra_m,
        "pull_n": pull,
        "pull_after_n": found.pull_n,
        "out_after": list(found.out),
        "wires_after_n": list(found.wires_n),
        "force_n": found.force_n,
        "force_at_start_n": found.force_at_start_n,
        "breaks": None
        if all(k is None for k in known)
        else any(k is not None and t > k for k, t in zip(known, found.wires_n, strict=True)),
        "why": reasons,
    }


class RunOnPost(Input):
    """A run that ends on the post, held by an H-brace along itself."""

    pull_n: NotNegative
    bearing_deg: Annotated[float, Field(allow_inf_nan=False, ge=-360, le=360)]
    pull_height_m: Positive
    rail_height_m: Positive
    spacing_m: Positive
    panels: Annotated[int, Field(ge=1, le=10)] = 1


class CornerInput(Input):
    """``corner``."""

    runs: Annotated[list[RunOnPost], Field(min_length=1, max_length=12)]


def calc_corner(q: CornerInput) -> Answer:
    """Runs that end on one post."""
    ends = []
    for run in q.runs:
        held = h_brace(run.pull_n, run.pull_height_m, run.rail_height_m, run.spacing_m, run.panels)
        assert held.foot_shear_n is not None and held.end_post_uplift_n is not None
        ends.append(Ends(run.pull_n, run.bearing_deg, held.foot_shear_n[0], held.end_post_uplift_n))
    c = corner(ends)
    return {
        "resultant_n": c.resultant_n,
        "resultant_bearing_deg": c.bearing_deg,
        "foot_shear_n": c.foot_shear_n,
        "foot_shear_bearing_deg": c.foot_bearing_deg,
        "uplift_n": c.uplift_n,
        "worst_single": {
            "run": c.worst,
            "foot_shear_n": ends[c.worst].foot_shear_n,
            "uplift_n": ends[c.worst].uplift_n,
        },
        "why": [
            why(
                "forces of runs on one post add as vectors, their uplifts as numbers (a safe rule); the worst single run counts too",
                f"{' and '.join(f'{e.foot_shear_n:.0f} N' for e in ends)} at the foot make {c.foot_shear_n:.0f} N; "
                f"{' + '.join(f'{e.uplift_n:.0f}' for e in ends)} = {c.uplift_n:.0f} N up",
                STATICS.format(5),
            )
        ],
    }
