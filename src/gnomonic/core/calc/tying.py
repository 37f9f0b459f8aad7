"""``tieoff`` and ``dummy``: what ends and splices take, and the brace that fabric is pulled from."""

import math
from typing import Annotated, Literal

from pydantic import Field

from gnomonic.core.calc.parts import Answer, Input, NotNegative, Positive, why
from gnomonic.core.errors import BadInput
from gnomonic.core.pull.dummy import dummy
from gnomonic.core.pull.gear import joints, rule, takes, ties

NEAR_M = 0.0127  # tails are taped to half an inch
Thick = Annotated[float, Field(allow_inf_nan=False, gt=0, le=0.02)]


class TiedInput(Input):
    """Wires of one kind that are tied or joined."""

    d_m: Thick
    count: Annotated[int, Field(ge=1, le=200)] = 1


class TieoffInput(Input):
    """``tieoff``: an end or a splice of so many wires."""

    what: Literal["end", "splice"]
    method: Annotated[str, Field(max_length=24)]
    wires: Annotated[list[TiedInput], Field(min_length=1, max_length=40)]
    post_m: Annotated[float, Field(allow_inf_nan=False, gt=0, le=1)] = 0.1778
    turns: Annotated[int, Field(ge=1, le=12)] = 4
    tail_m: NotNegative | None = None


def calc_tieoff(q: TieoffInput) -> Answer:
    """What an end or a splice takes: tails, minutes, what it gives back, and whether it takes the wire."""
    known = ties() if q.what == "end" else joints()
    if q.method not in known:
        raise BadInput("method", f"method “{q.method[:24]}” is no way to make {'an end' if q.what == 'end' else 'a splice'}: use {', '.join(known)}")  # fmt: skip
    thick = max(w.d_m for w in q.wires)
    count = sum(w.count for w in q.wires)
    if q.what == "end":
        tie = ties()[q.method]
        fits = thick <= tie.thick_m
        # round the far half of the post, back across it to its own wire; the turns are made of what the hand holds
        round_m = (math.pi / 2 + 1) * (q.post_m + thick)
        turned = max(rule("hand_m"), q.turns * math.pi * 2 * thick)
        tail = round_m + turned
        worked = (
            f"round the post and back to its wire {round_m * 1000:.0f} mm, to turn and break off {turned * 1000:.0f} mm"
        )
        slip, minutes, steps, tools, reason, source = tie.slip_m, tie.minutes, tie.steps, tie.tools, tie.reason, tie.source  # fmt: skip
    else:
        joint = joints()[q.method]
        fits = takes(joint, [w.d_m for w in q.wires])
        tail = rule("overlap_m") + rule("hand_m")
        worked = f"an overlap of {rule('overlap_m') * 1000:.0f} mm and {rule('hand_m') * 1000:.0f} mm in the hand on each side"
        slip, minutes, steps, tools, reason, source = joint.slip_m, joint.minutes, joint.steps, joint.tools, joint.reason, joint.source  # fmt: skip
    enough = None if q.tail_m is None else q.tail_m >= tail - NEAR_M
    return {
        "count": count,
        "minutes": minutes * count,
        "slip_m": slip,
        "tail_m": tail,
        "tail_enough": enough,
        "fits": fits,
        "order": "lower puller first" if q.what == "end" else "middle puller first",
        "steps": list(steps),
        "tools": list(tools),
        "why": [
            why("tail = round the far half of the post and back across it to its own wire, and a hand's length of which the turns are made", worked, "geometry; lengths common practice"),
            why(reason, f"{minutes:g} min a wire, {count} wires; {slip * 1000:g} mm run back", source),
        ],
    }  # fmt: skip


class DummyInput(Input):
    """``dummy``."""

    pull_n: Positive
    pull_height_m: Positive
    rail_height_m: NotNegative
    top_m: Positive
    end_post_m: Annotated[float, Field(allow_inf_nan=False, gt=0, le=1)]
    loose_post_m: Annotated[float, Field(allow_inf_nan=False, gt=0, le=1)]
    off_m: Positive | None = None
    member_at_m: Positive | None = None


def calc_dummy(q: DummyInput) -> Answer:
    """The dummy brace of a pull."""
    if q.pull_height_m > q.top_m:
        raise BadInput("pull_height_m", f"pull_height_m is {q.pull_height_m:g}, over the fabric's top ({q.top_m:g})")
    d = dummy(
        q.pull_n, q.pull_height_m, q.rail_height_m, q.top_m, (q.end_post_m, q.loose_post_m), q.off_m, q.member_at_m
    )
    if d.member_at_m < q.top_m:
        raise BadInput("member_at_m", f"member_at_m is {d.member_at_m:g}, under the fabric's top ({q.top_m:g}): fabric and bar don't pass it")  # fmt: skip
    return {
        "off_m": d.off_m,
        "member_at_m": d.member_at_m,
        "member_cut_m": d.member_cut_m,
        "member_n": d.member_n,
        "foot_n": d.foot_n,
        "loose_post_m": d.post_m,
        "brace_sees_nm": d.member_n * d.member_at_m,
        "fence_gives_nm": q.pull_n * q.pull_height_m,
        "why": [
            why(
                "the loose post turns about its foot: member = P·hp/h, its foot takes the rest; the terminal is pushed at h with the moment it will have from the fence",
                f"{q.pull_n:g}·{q.pull_height_m:g}/{d.member_at_m:.3f} = {d.member_n:.0f} N in the member, {d.foot_n:.0f} N at the loose post's foot",
                "statics; docs/method.md §8",
            )
        ],
    }
