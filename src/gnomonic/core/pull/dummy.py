"""The dummy brace: a loose post beyond the terminal, from which the fabric is pulled past it.

A cross member between the two, pinned above the permanent rail so that fabric and bar pass under it, takes the pull back into the
terminal's own brace.  Statics of a post that stands loose in its hole: pinned at its foot; docs/method.md §8.
"""

import math
from dataclasses import dataclass

from gnomonic.core.errors import BadInput
from gnomonic.core.pull.gear import rule
from gnomonic.core.units import FOOT_M


@dataclass(frozen=True, slots=True)
class Dummy:
    """A dummy brace: how far its post stands beyond the terminal's, where its cross member is pinned, its clear length, what the
    member and the loose post's foot carry, and what the terminal's brace sees: a pull at the member's height with the same moment as the
    fence's own."""

    off_m: float
    member_at_m: float
    member_cut_m: float
    member_n: float
    foot_n: float
    post_m: float


def dummy(
    pull_n: float,
    pull_at_m: float,
    rail_at_m: float,
    top_m: float,
    wide_m: tuple[float, float],
    off_m: float | None = None,
    member_at_m: float | None = None,
) -> Dummy:
    """A dummy brace for a pull that acts at a height.

    ``rail_at_m`` is the permanent rail's height, ``top_m`` the fabric's, ``wide_m`` the widths of terminal and loose post.
    Raises BadInput (``member_at_m``, ``off_m``).

    >>> d = dummy(2800.0, 0.65, 0.95, 1.27, (0.18, 0.15))
    >>> round(d.member_at_m, 2), round(d.member_n), round(d.foot_n)
    (1.37, 1328, 1472)
    """
    off = rule("dummy_off_m") if off_m is None else off_m
    at = max(rail_at_m, top_m) + rule("dummy_over_m") if member_at_m is None else member_at_m
    if at <= rail_at_m:
        raise BadInput(
            "member_at_m",
            f"member_at_m is {at:g}: it must be pinned above the permanent rail ({rail_at_m:g}), or fabric and bar don't pass",
        )
    cut = off - sum(wide_m) / 2
    if cut <= 0:
        raise BadInput("off_m", f"off_m is {off:g}: the two posts alone take {sum(wide_m) / 2:g} of it")
    member = pull_n * pull_at_m / at
    return Dummy(
        off,
        at,
        cut,
        member,
        pull_n - member,
        math.ceil((at + rule("dummy_head_m") + rule("dummy_hole_m")) / FOOT_M) * FOOT_M,
    )
