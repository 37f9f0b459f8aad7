"""Facts of how an end is held: brace, strut or anchor."""

import math

from gnomonic.core.demand.section import Section
from gnomonic.core.plan.model import Anchor, Brace, Strut
from gnomonic.core.say import Say, Why
from gnomonic.core.tell.facts import LEVEL_M, METHOD, Fact, Values, pull_why

KINDS = {
    "h": "H-brace",
    "box": "box stay, its rail at the top",
    "welded": "welded pipe brace",
    "strut": "diagonal strut",
    "deadman": "wire to a buried log",
    "boards": "breast boards",
    "rail": "the top rail between its ends",
    "none": "the post alone",
}


def side_of(ahead: bool, several: bool) -> str:
    """Which of two runs on one post."""
    return "" if not several else (", run ahead" if ahead else ", run behind")


def brace_facts(section: Section, brace: Brace, several: bool) -> list[Fact]:
    """Pull, rail, wire, uplift and cut lengths of one braced end; ``several`` names which of two runs it is."""
    s, end, side = brace.statics, brace.end, side_of(brace.end.at_start, several)
    first = brace.panels[0]
    values: Values = {
        "pull": (brace.pull_n, "force"),
        "hp": (brace.pull_height_m, "cut"),
        "hr": (brace.rail_height_m, "cut"),
        "inner": (first.rail_in_m, "cut"),
        "l": (end.spacing_m, "cut"),
        "rise": (abs(first.rise_m), "cut"),
        "grade": (first.rise_m / first.level_m, "grade"),
        **{f"cut{k}": (m, "cut") for k, m in enumerate(brace.rail_cut_m)},
        "length": (brace.wire_m[0], "station"),
        "diagonal": (brace.diagonal_m[0], "cut"),
    }
    found = [Fact("Pull of what hangs, cold" + side, Say("{pull}", values), pull_why(section))]
    found.append(_rail_height(section, brace, values, side))
    if s.rail_n is None or s.end_post_uplift_n is None or s.wire_share is None or s.foot_shear_n is None:
        return [*found, Fact("Does not stand" + side, Say(s.because), Why(s.because, Say("shorten the panel, or lay the rail along the ground"), METHOD + "5"))]  # fmt: skip
    values |= {
        "rail": (s.rail_n[0], "force"),
        "wire": (s.wire_n[0], "force"),
        "uplift": (s.end_post_uplift_n, "force"),
        "lift": (abs(s.end_post_uplift_n), "force"),
        "share": (s.wire_share[0], "share"),
        "foot": (s.foot_shear_n[0], "force"),
        "angle": (math.degrees(math.acos(min(1.0, first.level_m / brace.diagonal_m[0]))), "angle"),
    }
    held = _crossed(values, side) if end.crossed else _held(section, brace, values, side)
    return [*found, *held, *_cuts(section, brace, values, side)]


def _rail_height(section: Section, brace: Brace, values: Values, side: str) -> Fact:
    rules, level = section.system.rules, brace.lay == "level"
    share = rules["box_rail_share" if brace.kind == "box" else "rail_share"]
    text = "{hr} on this post, {inner} on the next one in"
    lay = (
        "level from a string, not from the ground"
        if level
        else "along the ground: level it would meet the inner post badly"
    )
    sloped = abs(brace.panels[0].rise_m) > LEVEL_M
    working = (
        "the ground rises {rise} between them" if brace.panels[0].rise_m > 0 else "the ground falls {rise} between them"
    )
    return Fact(
        "Rail's height" + side,
        Say(text, values) if sloped or len(brace.panels) > 1 else Say("{hr}", values),
        Why(share.reason, Say(f"{lay}; {working}" if sloped else lay, values), "common practice"),
    )


def _crossed(values: Values, side: str) -> list[Fact]:
    """The run ahead of a braced post within a side: its wire lies on the other diagonal of the panel behind and holds alone."""
    working = Say("{pull} · {hp} / {hr} / cos {angle} = {wire}, by the real angles", values)
    press = {**values, "press": values["lift"]}
    return [
        Fact(
            "Rail" + side,
            Say("not loaded by this run"),
            Why(
                "the panel lies behind the post: a rail can push, not pull, so this run is held by its wire alone",
                Say("with both runs pulled their forces meet in this post, and rail and wires carry what is left over"),
                METHOD + "5",
            ),
        ),
        Fact(
            "Second wire pulls" + side,
            Say("{wire}", values),
            Why("from the top of this post to the foot of the brace post behind, like a stay", working, METHOD + "5"),
        ),
        Fact(
            "Lifts the brace post behind by" + side,
            Say("{press}", press),
            Why(
                "H·hp/l, and presses this post down by as much",
                Say("{pull} · {hp} / {l} = {press}", press),
                METHOD + "5",
            ),
        ),
    ]


def _held(section: Section, brace: Brace, values: Values, side: str) -> list[Fact]:
    several = brace.end.panels > 1
    share = "{share} · " if several else ""
    sharing = ": the first panel takes its share by stiffness" if several else ""
    sloped = abs(brace.panels[0].rise_m) > LEVEL_M
    on_slope = ", along the slope of {grade}: resolved at the real angles of pull, rail and wire" if sloped else ""
    up = "Lifts this post by" if (brace.statics.end_post_uplift_n or 0.0) >= 0 else "Presses this post down by"
    return [
        Fact(
            "Rail pushes" + side,
            Say("{rail}", values),
            Why(
                "C = H·hp/hr",
                Say("{pull} · {hp} / {hr}" + (on_slope + ": {rail}" if sloped else " = {rail}"), values),
                METHOD + "5",
                other=section.system.rules["rail_share"].reason,
            ),
        ),
        Fact(
            "Brace wire pulls" + side,
            Say("{wire}", values),
            Why(
                "T = C/cos φ, from the top of the brace post to the foot of this one" + sharing,
                Say(share + "{rail} / cos {angle} = {wire}", values),
                METHOD + "5",
                other="On the other diagonal the wire goes slack and nothing holds.",
            ),
        ),
        Fact(
            up + side,
            Say("{lift}", values),
            Why(
                "H·hp/l: a longer rail, not a higher one, keeps the post in the ground" + sharing,
                Say(share + "{pull} · {hp} / {l}" + (on_slope + ": {uplift}" if sloped else " = {uplift}"), values),
                METHOD + "5",
            ),
        ),
        Fact(
            "Pushes this post's foot by" + side,
            Say("{foot}", values),
            Why(
                "the brace takes the pull down to the foot, it does not take it away: H − C + what the wire brings back",
                Say("of {pull}, {foot} arrive at the foot of this post", values),
                METHOD + "5",
            ),
        ),
    ]


def _cuts(section: Section, brace: Brace, values: Values, side: str) -> list[Fact]:
    """What a brace is cut from; a crossed wire shares the rail of the run behind."""
    rules = section.system.rules
    cuts = [f"{{cut{k}}}" for k in range(len(brace.rail_cut_m))]
    several = "" if len(cuts) == 1 else "s, from this post inwards"
    rail = Fact(
        f"Cut the rail{several}, between faces" + side,
        Say("about " + ", ".join(cuts), values),
        Why(
            "post centres less half of each post, along the rail as it lies",
            Say("{l} between centres leaves " + ", ".join(cuts), values),
            "common practice",
            other=rules["rail_seat_m"].reason,
        ),
    )
    if not brace.wire_m[0]:
        return [rail]
    turns = f"{rules['brace_wire_loops'].value:g} turns of twice the diagonal, {{diagonal}}, and the wraps: {{length}}"
    wire = Fact(
        "Brace wire, a panel" + side,
        Say("{length}", values),
        Why(rules["brace_wire_loops"].reason, Say(turns, values), "common practice"),
    )
    return [wire] if brace.end.crossed else [rail, wire]


TIES = {
    "mid": "Tied to the middle of the strut, the lift comes on the post's foot through the tie, and the strut's head only "
    "pushes; the strut is bent.",
    "foot": "Tied straight across its foot, the lift comes on the post where the strut's head sits: a steep strut slides "
    "up there and jacks the post out.",
    "none": "Without a tie the strut's foot must hold its own push in the ground.",
}


def strut_facts(section: Section, strut: Strut, several: bool) -> list[Fact]:
    """Forces, cut and trench of a diagonal brace; ``several`` names which of two runs it is."""
    system, side = section.system, side_of(strut.at_start, several)
    s = strut.statics
    start, end, deep = strut.trench_m
    values: Values = {
        "pull": (strut.pull_n, "force"),
        "hp": (strut.pull_height_m, "cut"),
        "h": (strut.height_m, "cut"),
        "a": (s.reach_m, "cut"),
        "strut": (s.strut_n, "force"),
        "uplift": (s.end_post_uplift_n, "force"),
        "foot": (s.foot_shear_n, "force"),
        "angle": (s.angle_deg, "angle"),
        "long": (strut.length_m, "cut"),
        "buried": (strut.buried_m, "cut"),
        "tie": (s.tie_n, "force"),
        "from": (start, "cut"),
        "to": (end, "cut"),
        "deep": (deep, "cut"),
        "rise": (strut.rise_m, "cut"),
    }
    other = "foot" if strut.tie == "mid" else "mid"
    tied = f"; its tie ({strut.tie}) carries {{tie}}" if strut.tie != "none" else "; it has no tie"
    sloped = ", on ground that rises {rise} to its foot" if abs(strut.rise_m) > LEVEL_M else ""
    return [
        Fact("Pull of what hangs, cold" + side, Say("{pull}", values), pull_why(section)),
        Fact(
            "Strut pushes" + side,
            Say("{strut}", values),
            Why(
                "H·hp/h / cos ψ",
                Say("{pull} · {hp} / {h} / cos {angle}" + (sloped + ": {strut}" if sloped else " = {strut}"), values),
                METHOD + "5",
                system.rules["strut_share"].reason,
            ),
        ),
        Fact(
            "Lifts this post by" + side,
            Say("{uplift}", values),
            Why(
                "H·hp/a, the same whatever the tie, which only changes where on the post it acts; a longer reach lifts less",
                Say("{pull} · {hp} / {a}" + (sloped + ": {uplift}" if sloped else " = {uplift}"), values),
                METHOD + "5",
                TIES[strut.tie],
            ),
        ),
        Fact(
            "Pushes this post's foot by" + side,
            Say("{foot}", values),
            Why(
                "a tie brings the strut's push back to this post's foot; without one its own foot keeps it",
                Say("{foot} of {pull}", values),
                METHOD + "5",
            ),
        ),
        Fact(
            "Cut the strut" + side,
            Say("{long}, its head at {angle} from square", values),
            Why(
                system.rules["strut_buried_m"].reason,
                Say("√({h}² + {a}²) and {buried} in the trench" + tied, values),
                "common practice",
                other=TIES[other],
            ),
        ),
        Fact(
            "Trench for its foot" + side,
            Say("from {from} to {to} out, down to {deep}", values),
            Why(
                "the strut runs on into the ground in its own direction and rests on undisturbed soil",
                Say("{buried} of it lie in the ground at {angle}", values),
                "common practice",
            ),
        ),
    ]


def anchor_facts(section: Section, anchor: Anchor, several: bool) -> list[Fact]:
    """An end that has neither panel nor strut."""
    side = side_of(anchor.at_start, several)
    values: Values = {
        "pull": (anchor.pull_n, "force"),
        "hp": (anchor.pull_height_m, "cut"),
        "foot": (anchor.shear_n, "force"),
        "at": (anchor.shear_at_m, "cut"),
        "wire": (anchor.wire_n, "force"),
        "head": (anchor.head_m, "cut"),
        "out": (anchor.reach_m, "station"),
        "long": (anchor.wire_m, "station"),
    }
    if not anchor.pull_n:
        return []
    found = [Fact("Pull of what hangs, cold" + side, Say("{pull}", values), pull_why(section))]
    if anchor.kind == "rail":
        rule = "the rail along the top keeps both ends of its run apart: it pushes H·hp/top, what is left comes on the foot"
        working = Say("{pull} · {hp} / {head} = {wire} in the rail, {foot} at the foot", values)
        return [*found, Fact("Top rail pushes" + side, Say("{wire}", values), Why(rule, working, METHOD + "5"))]
    if anchor.kind == "deadman":
        rule = "the wire holds H·hp/h back at its head and presses the post down; what the log holds in the ground is not worked out"
        working = Say("from {head} up the post to a log {out} out: {wire}, and {foot} left at the foot", values)
        return [
            *found,
            Fact("Wire to the log pulls" + side, Say("{wire}", values), Why(rule, working, METHOD + "5")),
            Fact(
                "Wire to the log" + side,
                Say("{long}", values),
                Why("two turns and the wraps", working, "common practice"),
            ),
        ]
    rule = "nothing braces this end: the post takes the pull where it acts, and the ground takes the post"
    return [*found, Fact("Pulls this post" + side, Say("{foot} at {at}", values), Why(rule, Say("{pull} at {hp}", values), METHOD + "6"))]  # fmt: skip
