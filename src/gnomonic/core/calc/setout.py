"""``setout``: where posts go on one line."""

from typing import Annotated

from pydantic import Field

from gnomonic.core.calc.parts import Answer, Input, NotNegative, Number, Positive, check_profile, why
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.profile import Profile
from gnomonic.core.setout.least_cost import Limits
from gnomonic.core.setout.line import even_layout, inside_any, merged, set_out

MOST_NODES = 400_000
MOST_REACH = 4000


class SetoutInput(Input):
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


def calc_setout(q: SetoutInput) -> Answer:
    """Exact least-cost set-out of one line, beside even spacing."""
    length = check_profile(q.profile, q.length_m)
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
    profile.check("profile[{k}]", "profile[{k}]")
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
