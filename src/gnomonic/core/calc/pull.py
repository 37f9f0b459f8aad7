"""``pull``: tension along a run, on the day, on release, through the seasons, and what readings say of it."""

import math
from collections.abc import Sequence
from itertools import groupby
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from gnomonic.core.calc.ends import PullSaid, Wires, bar_of, pull_said
from gnomonic.core.calc.parts import Answer, Input, NotNegative, Number, Positive, why
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.bar import Bar
from gnomonic.core.pull.path import Bend, Path, Stretch, greatest, least_n, pulled, take_up_m
from gnomonic.core.pull.readings import deflection_n, fit_friction
from gnomonic.core.pull.release import release
from gnomonic.core.pull.ways import best_point, ended_at

METHOD = "docs/method.md §8"
BELT = f"belt-friction equation, any statics text; {METHOD}"
Long = Annotated[float, Field(allow_inf_nan=False, gt=0, le=100_000)]
Slips = Annotated[list[Annotated[float, Field(allow_inf_nan=False, ge=0, le=100)]], Field(min_length=1, max_length=100)]
Changes = Annotated[list[Annotated[float, Field(allow_inf_nan=False, ge=-300, le=300)]], Field(max_length=400)]
Pair = Annotated[list[Number], Field(min_length=2, max_length=2)]
MOST_TRIES = 200_000
UTMOST_PA = 2.5e9  # no drawn steel wire breaks later than this: from memory


class Pulling(Input):
    """What every task but the field readings takes."""

    wires: Wires
    pull_n: PullSaid


class Along(Pulling):
    """A run with its bends and what drags."""

    length_m: Long
    bends: Annotated[list[Pair], Field(max_length=400)] = Field(default_factory=list)
    mu: Annotated[float, Field(allow_inf_nan=False, ge=0, le=5)] = 0.0
    catch_n: NotNegative = 0.0
    drag_n_per_m: NotNegative = 0.0

    def path(self) -> Path:
        """The run as it is pulled.  Raises BadInput naming the bend."""
        for k, (at, _) in enumerate(self.bends):
            if not 0 < at < self.length_m:
                raise BadInput(
                    f"bends[{k}]",
                    f"bends[{k}] is at {at:g} m: a bend lies within the run, between 0 and {self.length_m:g} m",
                )
            if k and at <= self.bends[k - 1][0]:
                raise BadInput(
                    f"bends[{k}]",
                    f"bends[{k}] is at {at:g} m, not beyond {self.bends[k - 1][0]:g} m: stations must rise",
                )
        bends = tuple(Bend(at, math.radians(abs(deg)), self.mu, self.catch_n) for at, deg in self.bends)
        return Path(self.length_m, bends, self.drag_n_per_m)


class ProfileTask(Along):
    """``profile``."""

    task: Literal["profile"]
    dtheta_c: Changes = Field(default_factory=list)


class BestTask(Along):
    """``best_point``."""

    task: Literal["best_point"]
    search_step_m: Positive


class TemperatureTask(Pulling):
    """``temperature``."""

    task: Literal["temperature"]
    dtheta_c: Annotated[Changes, Field(min_length=1)]


class SlipTask(Pulling):
    """``slip``."""

    task: Literal["slip"]
    length_m: Long
    slip_m: Slips


class ReleaseTask(Along):
    """``release``."""

    task: Literal["release"]
    slip_m: Slips


class DeflectionTask(Input):
    """``deflection``."""

    task: Literal["deflection"]
    wires: Wires | None = None
    pull_n: PullSaid | None = None
    force_n: Positive
    push_m: Positive
    bay_m: Positive


class FitTask(Input):
    """``fit_mu``."""

    task: Literal["fit_mu"]
    wires: Wires | None = None
    pull_n: PullSaid | None = None
    readings: Annotated[list[Pair], Field(min_length=2, max_length=1000)]


class PullInput(Input):
    """``pull``."""

    pull: Annotated[
        ProfileTask | BestTask | TemperatureTask | SlipTask | ReleaseTask | DeflectionTask | FitTask,
        Field(discriminator="task"),
    ]

    @model_validator(mode="before")
    @classmethod
    def _wrap(cls, data: Any) -> Any:
        return {"pull": data}


def calc_pull(q: PullInput) -> Answer:
    """Stretching by one of the tasks."""
    match q.pull:
        case ProfileTask() as ask:
            return _profile(ask)
        case BestTask() as ask:
            return _best(ask)
        case TemperatureTask() as ask:
            return _temperature(ask)
        case SlipTask() as ask:
            return _slip(ask)
        case ReleaseTask() as ask:
            return _release(ask)
        case DeflectionTask() as ask:
            return _deflection(ask)
        case FitTask() as ask:
            return _fit(ask)


def _asked(q: Pulling) -> tuple[Bar, float, Answer]:
    bar = bar_of(q.wires)
    pull = pull_said(q.pull_n, bar)
    most = [w.break_n for w in q.wires]
    for k, (tension, breaks) in enumerate(zip(bar.wires_n(pull), most, strict=True)):
        if breaks is not None and tension > breaks:
            raise BadInput(
                "pull_n",
                f"pull_n ({pull:.0f} N) puts {tension:.0f} N on wires[{k}], which breaks at {breaks:g} N: pull less",
            )
    utmost = [UTMOST_PA * math.pi * w.d_m**2 / 4 for w in q.wires]
    for k, (tension, limit) in enumerate(zip(bar.wires_n(pull), utmost, strict=True)):
        if tension > limit:
            raise BadInput(
                "pull_n", f"pull_n ({pull:g} N) puts {tension:.0f} N on wires[{k}]: no steel wire of {q.wires[k].d_m * 1000:g} mm carries over {limit:.0f} N"
            )  # fmt: skip
    halves = [None if math.isinf(w.half_n) else w.half_n for w, _ in bar.wires]
    said = {"pull_n": pull, "half_sum_n": bar.half_sum_n, "half_first_n": bar.half_first_n, "tc_n": halves}
    return bar, pull, said


def _profile(q: ProfileTask) -> Answer:
    bar, pull, said = _asked(q)
    path = q.path()
    drawn = pulled(path, pull)
    edges = [b.at_m for b in path.bends]
    by_bend = [list(rows) for _, rows in groupby(drawn, lambda s: sum(e < s.to_m - 1e-12 for e in edges))]
    segments = [_segment(bar, rows, q.dtheta_c) for rows in by_bend]
    total = take_up_m(bar, drawn)
    return {
        **said,
        "take_up_m": total,
        "least_n": least_n(drawn),
        "segments": segments,
        "why": [
            why(
                "behind a bend of θ: T·e^(−μθ) − catch, never below 0; along a metre: less the drag; take-up is the strain summed along the run",
                f"{pull:.1f} N at the puller, {least_n(drawn):.1f} N where it is least; {total * 1000:.0f} mm taken up",
                BELT,
            ),
            why(
                "seasons: the strain at every place stays what it was when it was tied, less α·Δθ of the wire's own growth",
                "friction that would let the wire slide with the seasons is left out: a few per cent in the cold on a run with bends",
                METHOD,
            ),
        ],
    }


def _segment(bar: Bar, rows: Sequence[Stretch], changes: Sequence[float]) -> Answer:
    start, end = rows[0].start_n, rows[-1].end_n
    return {
        "from_m": rows[0].from_m,
        "to_m": rows[-1].to_m,
        "start_n": start,
        "end_n": end,
        "take_up_m": take_up_m(bar, rows),
        "out_start": list(bar.out(start)),
        "out_end": list(bar.out(end)),
        "wires_start_n": list(bar.wires_n(start)),
        "wires_end_n": list(bar.wires_n(end)),
        "seasons": [{"dtheta_c": d, "start_n": bar.warmer_n(start, d), "end_n": bar.warmer_n(end, d)} for d in changes],
    }


def _best(q: BestTask) -> Answer:
    _, pull, said = _asked(q)
    path = q.path()
    if path.length_m / q.search_step_m > MOST_TRIES:
        raise BadInput("search_step_m", f"search_step_m is {q.search_step_m:g}: that is more than {MOST_TRIES} places")
    best = best_point(path, pull, q.search_step_m)
    ends = [least_n(pulled(side, pull)) for side in (path, path.turned())]
    return {
        **said,
        "end_a_least_n": ends[0],
        "end_b_least_n": ends[1],
        "best_at_m": [best.from_m, best.to_m],
        "best_least_n": best.least_n,
        "terminate": [{"terminate_at_m": b.at_m, "least_n": ended_at(path, pull, b.at_m)} for b in path.bends],
        "why": [
            why(
                "the least pull along the run, drawn from either end, both ways from every place of a grid, or ended at a bend and each side drawn from its better end; nothing let go yet",
                f"from the start {ends[0]:.0f} N, from the end {ends[1]:.0f} N, both ways from {best.from_m:g} to {best.to_m:g} m {best.least_n:.0f} N",
                BELT,
            )
        ],
    }


def _temperature(q: TemperatureTask) -> Answer:
    bar, pull, said = _asked(q)
    rows = []
    for change in q.dtheta_c:
        now = bar.warmer_n(pull, change)
        rows.append(
            {
                "dtheta_c": change,
                "pull_n": now,
                "out": list(bar.out(now)),
                "wires_n": list(bar.wires_n(now)),
                "slack": now <= 0,
            }
        )
    return {
        **said,
        "rows": rows,
        "why": [
            why(
                "ends fixed: strain(T) + α·Δθ stays what it was, α = 11.7e-6/K, for each wire by itself",
                "; ".join(f"{r['dtheta_c']:+g} °C: {r['pull_n']:.0f} N" for r in rows[:8]),
                METHOD,
            )
        ],
    }


def _slip(q: SlipTask) -> Answer:
    bar, pull, said = _asked(q)
    path = Path(q.length_m)
    rows = []
    for slip in q.slip_m:
        left = release(path, bar, pull, slip).end_n
        rows.append({"slip_m": slip, "pull_n": left, "loss_share": 1 - left / pull if pull else 0.0})
    return {
        **said,
        "take_up_m": take_up_m(bar, pulled(path, pull)),
        "rows": rows,
        "why": [
            why(
                "a run that slides freely: the strain falls by slip/length",
                "; ".join(f"{r['slip_m'] * 1000:g} mm: {100 * r['loss_share']:.1f} % lost" for r in rows[:8]),
                f"{METHOD}; with bends or drag the loss is local: task release",
            )
        ],
    }


def _release(q: ReleaseTask) -> Answer:
    bar, pull, said = _asked(q)
    path = q.path()
    rows = []
    for slip in q.slip_m:
        freed = release(path, bar, pull, slip)
        most, at = greatest(freed.stretches)
        rows.append(
            {
                "slip_m": slip,
                "end_n": freed.end_n,
                "affected_m": freed.affected_m,
                "least_n": least_n(freed.stretches),
                "greatest_n": most,
                "greatest_at_m": at,
                "slack_m": freed.slack_m,
            }
        )
    return {
        **said,
        "take_up_m": take_up_m(bar, pulled(path, pull)),
        "rows": rows,
        "why": [
            why(
                "friction turns round: inward from the released end the pull rises by the drag, and at a bend to (T + catch)·e^(μθ), until it meets the pull that was there; what the strains give back up to there is the slip",
                "; ".join(f"{r['slip_m'] * 1000:g} mm: {r['affected_m']:.1f} m slid" for r in rows[:8]),
                f"anchorage set of a post-tensioned tendon, EN 1992-1-1 §5.10.5; {METHOD}",
            )
        ],
    }


def _deflection(q: DeflectionTask) -> Answer:
    found = deflection_n(q.force_n, q.push_m, q.bay_m)
    return {
        "tension_simple_n": found.simple_n,
        "tension_exact_n": found.exact_n,
        "why": [
            why(
                "a push at the middle of a bay: F = 4·T·δ/L while δ is small; exactly F = 2·T·sin θ, tan θ = 2δ/L",
                f"{q.force_n:g}·{q.bay_m:g}/(4·{q.push_m:g}) = {found.simple_n:.1f} N; exactly {found.exact_n:.1f} N. It is the tension while pushed: what the push adds is in it",
                METHOD,
            )
        ],
    }


def _fit(q: FitTask) -> Answer:
    for k, (deg, tension) in enumerate(q.readings):
        if deg < 0 or tension <= 0:
            raise BadInput(
                f"readings[{k}]",
                f"readings[{k}] is {deg:g}° and {tension:g} N: a turn is 0 or more, a tension above 0",
            )
    turns = [math.radians(deg) for deg, _ in q.readings]
    if max(turns) - min(turns) < 1e-9:
        raise BadInput("readings", "readings all lie behind the same turn: read before and behind a bend at least")
    found = fit_friction(turns, [n for _, n in q.readings])
    return {
        "mu": found.mu,
        "t0_n": found.t0_n,
        "residuals": list(found.residuals),
        "residuals_n": list(found.residuals_n),
        "why": [
            why(
                "log T = log T0 − μ·θ, least squares on log T; residuals are of log T",
                f"{len(turns)} readings: μ = {found.mu:.4f}, T0 = {found.t0_n:.0f} N",
                BELT,
            )
        ],
    }
