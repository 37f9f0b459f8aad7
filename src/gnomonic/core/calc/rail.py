"""``stringline``: a straight rail over uneven ground."""

from typing import Annotated

from pydantic import Field

from gnomonic.core.calc.parts import Answer, Input, NotNegative, Number, Positive, check_profile, why
from gnomonic.core.ground.profile import Profile
from gnomonic.core.setout.line import merged
from gnomonic.core.setout.string_line import string_line


class StringlineInput(Input):
    """``stringline``."""

    length_m: Positive | None = None
    profile: Annotated[
        list[Annotated[list[Number], Field(min_length=2, max_length=2)]], Field(min_length=2, max_length=20_000)
    ]
    h_min_m: NotNegative


def calc_stringline(q: StringlineInput) -> Answer:
    """Least largest clear height of a straight rail, and the repairs."""
    length = check_profile(q.profile, q.length_m)
    ground = Profile.of(q.profile)
    stations = merged([0.0, length], ground.breaks_between(0.0, length))
    found = string_line(stations, ground.at(stations), q.h_min_m)
    return {
        "hA_m": found.a_m,
        "hB_m": found.b_m,
        "sum_m": found.a_m + found.b_m,
        "worst_clear_m": found.worst_clear_m,
        "worst_clear_at_m": found.worst_clear_at_m,
        "least_clear_m": found.least_clear_m,
        "hump_at_m": found.hump_at_m,
        "raise_both_m": found.raise_both_m,
        "raise_a_only_m": found.raise_a_only_m,
        "raise_b_only_m": found.raise_b_only_m,
        "trench_m": found.trench_m,
        "trench_at_m": found.trench_at_m,
        "why": [
            why(
                "least largest clear height, then least hA + hB with that within 10 mm of it, then least |hA − hB|",
                f"hA = {found.a_m:.3f} m, hB = {found.b_m:.3f} m leave at most {found.worst_clear_m:.3f} m",
                "upright width of the ground's hull, exact; docs/method.md §2",
            )
        ],
    }
