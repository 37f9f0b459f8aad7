"""The answers of the sums of gates, crossings and wind in words."""

from collections.abc import Callable
from typing import Any

from gnomonic.core.say import Say

Answer = dict[str, Any]


def gate_opening(a: Answer, q: Answer) -> list[Say]:
    """A gate's opening."""
    values = {k: (a[f"{k}_m"], "cut") for k in ("clear", "centres", "tape_on_slope", "leaf_that_fits") if f"{k}_m" in a}
    leaf = [Say("A leaf of {leaf_that_fits} in all fits.", values)] if "leaf_that_fits_m" in a else []
    slope = " Along this slope the tape reads {tape_on_slope}: hold it level instead." if q.get("grade") else ""
    said = Say(
        "The opening is {clear} clear, level, between the faces of the posts; their centres stand {centres} apart."
        + slope,
        values,
    )
    return [*leaf, said]


def gate_sweep(a: Answer, q: Answer) -> list[Say]:
    """A gate's swing."""
    values = {
        "high": (a["highest_ground_m"], "gap"), "at": (a["at_deg"], "angle"), "up": (a["bottom_clearance_m"], "gap"),
        "gap": (a["largest_gap_under_tip_m"], "gap"), "other": (a["other_bottom_clearance_m"], "gap"),
    }  # fmt: skip
    lifted = (
        "The ground under its tip rises {high}, opened {at}"
        if a["highest_ground_m"] > 0
        else "Nowhere does the ground under its tip rise"
    )
    better = (
        "From the other post it would hang {other} up."
        if a["better_hinge"] == "other"
        else "The other post does no better ({other})."
    )
    return [
        Say(
            lifted + ": a level leaf hangs {up} over the ground at its hinge, and leaves {gap} under its tip at most.",
            values,
        ),
        Say(better, values),
    ]


def cable(a: Answer, q: Answer) -> list[Say]:
    """A cable across."""
    values = {
        "h": (a["horizontal_n"], "force"), "t": (a["support_n"], "force"), "ct": (a["catenary_support_n"], "force"),
        "long": (a["catenary_length_m"], "cut"),
    }  # fmt: skip
    return [
        Say("It pulls {h} level all along, and {t} on each anchor.", values),
        Say(
            "As a catenary, its load along the cable itself, the anchors see {ct}; it is {long} long between them.",
            values,
        ),
    ]


def wind(a: Answer, q: Answer) -> list[Say]:
    """Wind on a barrier."""
    values = {
        "one": (a["push_n_per_m"], "load"), "post": (a["post_n"], "force"), "at": (a["at_m"], "cut"), "share": (a["solidity"], "share"),
    }  # fmt: skip
    return [
        Say(
            "{share} of its face is covered: the wind pushes {one} of line, {post} on a line post, {at} up.",
            values,
        ),
        Say("Ends of the fence and gusts between buildings see more; that is not reckoned here."),
    ]


OPENINGS: dict[str, Callable[[Answer, Answer], list[Say]]] = {
    "gate_opening": gate_opening,
    "gate_sweep": gate_sweep,
    "cable": cable,
    "wind": wind,
}
