"""Facts of the tag, and those of a brace."""

import math
from collections import Counter
from dataclasses import dataclass

from gnomonic.core.demand.section import Section
from gnomonic.core.demand.system import System
from gnomonic.core.planned import Brace, Strut
from gnomonic.core.say import Say, Why

METHOD = "derived: docs/method.md §"
Values = dict[str, tuple[float, str] | str]


@dataclass(frozen=True, slots=True)
class Fact:
    """A named value and what stands behind it; ``note`` is how it is done."""

    name: str
    value: Say
    why: Why
    note: str = ""


def brace_facts(section: Section, brace: Brace, several: bool) -> list[Fact]:
    """Pull, rail, wire, uplift and cut lengths of one braced end; ``several`` names which of two runs it is."""
    s, end = brace.statics, brace.end
    system = section.system
    assert s.rail_n is not None and s.end_post_uplift_n is not None and s.wire_share is not None
    share = "{share} · " if end.panels > 1 else ""
    sharing = ": the first panel takes its share by stiffness" if end.panels > 1 else ""
    side = "" if not several else (", run ahead" if end.at_start else ", run behind")
    values: Values = {
        "pull": (brace.pull_n, "force"),
        "hp": (brace.pull_height_m, "cut"),
        "hr": (brace.rail_height_m, "cut"),
        "l": (end.spacing_m, "cut"),
        "rail": (s.rail_n[0], "force"),
        "wire": (s.wire_n[0], "force"),
        "uplift": (s.end_post_uplift_n, "force"),
        "cut": (brace.rail_cut_m[0], "cut"),
        "length": (brace.wire_m[0], "station"),
        "share": (s.wire_share[0], "share"),
        "angle": (math.degrees(math.atan2(brace.rail_height_m, end.spacing_m)), "angle"),
    }
    return [
        Fact("Pull of what hangs" + side, Say("{pull}", values), pull_why(section)),
        Fact(
            "Rail pushes" + side,
            Say("{rail}", values),
            Why(
                "C = H·hp/hr",
                Say("{pull} · {hp} / {hr} = {rail}", values),
                METHOD + "5",
                other=system.rules["rail_share"].reason,
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
            "Lifts this post by" + side,
            Say("{uplift}", values),
            Why(
                "H·hp/l: a longer rail, not a higher one, keeps the post in the ground" + sharing,
                Say(share + "{pull} · {hp} / {l} = {uplift}", values),
                METHOD + "5",
            ),
        ),
        Fact(
            "Cut the rail" + side,
            Say("about {cut}", values),
            Why(
                "post centres less half of each post",
                Say("{l} between centres leaves {cut}", values),
                "common practice",
                other=system.rules["rail_seat_m"].reason,
            ),
        ),
        Fact(
            "Brace wire, a panel" + side,
            Say("{length}", values),
            Why(
                system.rules["brace_wire_loops"].reason,
                Say(
                    f"{system.rule('brace_wire_loops'):g} turns of twice the diagonal, and the wraps: {{length}}",
                    values,
                ),
                "common practice",
            ),
        ),
    ]


def pull_why(section: Section) -> Why:
    """What the pull on an end is the sum of: fabrics drawn until half their curve is out, or to a force; strands."""
    parts, values = [], {}
    pulled = [(x.fabric.label, x.fabric.pull_n) for x in section.layers]
    pulled += [(s.wire.word, s.wire.pull_n) for s in section.strands]
    for k, (name, count) in enumerate(Counter(p for p in pulled if p[1] > 0).items()):
        parts.append((f"{count} × " if count > 1 else "") + f"{name[0]} {{p{k}}}")
        values[f"p{k}"] = (name[1], "force")
    cold = "Cold tightens what is fixed: about a fifth more at −40 °C for a wire pulled on a mild day."
    if any(x.fabric.spacing_in for x in section.layers):
        rule = (
            "half the tension curve left in every wire of the fabric, on the day of the pull; strands as they are drawn"
        )
        return Why(rule, Say("; ".join(parts), values), METHOD + "8", other=cold)
    return Why("what each is drawn to, taken together", Say("; ".join(parts), values), "from memory", other=cold)


def strut_facts(system: System, strut: Strut, count: int) -> list[Fact]:
    """Forces and cut length of a diagonal brace; ``count`` when a corner has one for each of its runs."""
    s, high = strut.statics, strut.height_m
    each = f", each of {count}" if count > 1 else ""
    values: Values = {
        "pull": (strut.pull_n, "force"),
        "hp": (strut.pull_height_m, "cut"),
        "h": (high, "cut"),
        "a": (s.reach_m, "cut"),
        "strut": (s.strut_n, "force"),
        "uplift": (s.end_post_uplift_n, "force"),
        "angle": (s.angle_deg, "angle"),
        "long": (strut.length_m, "cut"),
        "buried": (system.rule("strut_buried_m"), "cut"),
        "tie": (s.tie_n, "force"),
    }
    reach, share = system.rules["strut_reach"], system.rules["strut_share"]
    return [
        Fact(
            "Strut pushes" + each,
            Say("{strut}", values),
            Why(
                "H·hp/h / cos ψ", Say("{pull} · {hp} / {h} / cos {angle} = {strut}", values), METHOD + "5", share.reason
            ),
        ),
        Fact(
            "Lifts this post by" + each,
            Say("{uplift}", values),
            Why("H·hp/a at every angle", Say("{pull} · {hp} / {a} = {uplift}", values), METHOD + "5", reach.reason),
        ),
        Fact(
            "Cut the strut" + each,
            Say("{long}", values),
            Why(
                system.rules["strut_buried_m"].reason,
                Say("√({h}² + {a}²) and {buried} in the trench; its tie carries {tie}", values),
                "common practice",
                other="Tied straight across the foot it is simpler, and a steep strut then jacks the post out.",
            ),
        ),
    ]
