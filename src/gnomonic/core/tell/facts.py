"""Facts of the tag, and those of a brace."""

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from gnomonic.core.demand.section import Section
from gnomonic.core.ground.bearing import quadrant
from gnomonic.core.plan.model import Brace, Pull, Strut
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
        "lift": (abs(s.end_post_uplift_n), "force"),
        **{f"cut{k}": (m, "cut") for k, m in enumerate(brace.rail_cut_m)},
        "length": (brace.wire_m[0], "station"),
        "share": (s.wire_share[0], "share"),
        "angle": (math.degrees(math.atan2(brace.rail_height_m, end.spacing_m)), "angle"),
    }
    pulls = Fact("Pull of what hangs" + side, Say("{pull}", values), pull_why(section))
    return [
        pulls,
        *(_crossed(values, side) if end.crossed else _held(section, values, side, share, sharing)),
        *_cuts(section, values, side, len(brace.rail_cut_m), end.crossed),
    ]


def _crossed(values: Values, side: str) -> list[Fact]:
    """The run ahead of a braced post within a side: its wire lies on the other diagonal of the panel behind and holds alone."""
    working = Say("{pull} · {hp} / {hr} / cos {angle} = {wire}", values)
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


def _held(section: Section, values: Values, side: str, share: str, sharing: str) -> list[Fact]:
    return [
        Fact(
            "Rail pushes" + side,
            Say("{rail}", values),
            Why(
                "C = H·hp/hr",
                Say("{pull} · {hp} / {hr} = {rail}", values),
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
            "Lifts this post by" + side,
            Say("{uplift}", values),
            Why(
                "H·hp/l: a longer rail, not a higher one, keeps the post in the ground" + sharing,
                Say(share + "{pull} · {hp} / {l} = {uplift}", values),
                METHOD + "5",
            ),
        ),
    ]


def _cuts(section: Section, values: Values, side: str, rails: int, crossed: bool) -> list[Fact]:
    """What a brace is cut from; a crossed wire shares the rail of the run behind."""
    rules = section.system.rules
    cuts = [f"{{cut{k}}}" for k in range(rails)]
    several = "" if len(cuts) == 1 else "s, from this post inwards"
    rail = Fact(
        f"Cut the rail{several}, between faces" + side,
        Say("about " + ", ".join(cuts), values),
        Why(
            "post centres less half of each post",
            Say("{l} between centres leaves " + ", ".join(cuts), values),
            "common practice",
            other=rules["rail_seat_m"].reason,
        ),
    )
    turns = f"{rules['brace_wire_loops'].value:g} turns of twice the diagonal, and the wraps: {{length}}"
    wire = Fact(
        "Brace wire, a panel" + side,
        Say("{length}", values),
        Why(rules["brace_wire_loops"].reason, Say(turns, values), "common practice"),
    )
    return [wire] if crossed else [rail, wire]


def pull_why(section: Section) -> Why:
    """What the pull on an end is the sum of: fabrics drawn until half their curve is out, or to a force; strands; and what
    cold makes of each."""
    drop = section.system.rule("cold_drop_k")
    pulled = [(x.fabric.label, x.fabric.pull_n, x.fabric.cold_pull_n(drop)) for x in section.layers]
    pulled += [(s.wire.word, s.wire.pull_n, s.wire.cold_pull_n(drop)) for s in section.strands]
    parts, cold, values = [], [], Values({"drop": (drop, "warmth")})
    for k, (each, count) in enumerate(Counter(p for p in pulled if p[1] > 0).items()):
        name, now, after = each
        number = f"{count} × " if count > 1 else ""
        parts.append(f"{number}{{n{k}}} {{p{k}}}")
        values |= {f"n{k}": name, f"p{k}": (now, "force")}
        if after is None:
            cold.append(f"{{n{k}}} is not worked out, its mesh gives")
        else:
            values |= {f"c{k}": (after, "force"), f"g{k}": (after / now - 1, "share")}
            cold.append(f"{{n{k}}} {{c{k}}}, {{g{k}}} more")
    twisted = " (twisted strands are taken as straight: at most so much)" if section.barbs else ""
    other = Say("Ends fixed, after a drop of {drop}: " + "; ".join(cold) + twisted + ".", values)
    if any(x.fabric.spacing_in for x in section.layers):
        rule = (
            "half the tension curve left in every wire of the fabric, on the day of the pull; strands as they are drawn"
        )
        return Why(rule, Say("; ".join(parts), values), METHOD + "8", other=other)
    return Why("what each is drawn to, taken together", Say("; ".join(parts), values), "from memory", other=other)


def strut_facts(section: Section, strut: Strut, count: int) -> list[Fact]:
    """Forces and cut length of a diagonal brace; ``count`` when a corner has one for each of its runs."""
    system = section.system
    s, high = strut.statics, strut.height_m
    tie = {
        "mid": "Tied to the middle of the strut, the lift comes on the post's foot through the tie, and the strut's head only "
        "pushes; the strut is bent.",
        "foot": "Tied straight across its foot, the lift comes on the post where the strut's head sits: a steep strut slides "
        "up there and jacks the post out.",
    }
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
    share = system.rules["strut_share"]
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
            Why(
                "H·hp/a, the same whatever the tie, which only changes where on the post it acts; a longer reach lifts less",
                Say("{pull} · {hp} / {a} = {uplift}", values),
                METHOD + "5",
                tie[section.school("strut_tie")],
            ),
        ),
        Fact(
            "Cut the strut" + each,
            Say("{long}", values),
            Why(
                system.rules["strut_buried_m"].reason,
                Say("√({h}² + {a}²) and {buried} in the trench; its tie carries {tie}", values),
                "common practice",
                other=tie["foot" if section.school("strut_tie") == "mid" else "mid"],
            ),
        ),
    ]


def pull_facts(pulls: Sequence[Pull]) -> list[Fact]:
    """What pulls on a post that lines share: each run, all together, and what their braces lift."""
    if not pulls:
        return []
    east = sum(p.pull_n * math.sin(math.radians(p.bearing_deg)) for p in pulls)
    north = sum(p.pull_n * math.cos(math.radians(p.bearing_deg)) for p in pulls)
    values: Values = {
        "all": (math.hypot(east, north), "force"),
        "worst": (max(p.pull_n for p in pulls), "force"),
        "lift": (sum(p.uplift_n for p in pulls), "force"),
        "way": quadrant(round(math.degrees(math.atan2(east, north))) % 360),
    }
    parts = []
    for k, p in enumerate(pulls):
        values |= {
            f"n{k}": p.name,
            f"f{k}": (p.pull_n, "force"),
            f"b{k}": quadrant(round(p.bearing_deg)),
            f"u{k}": (p.uplift_n, "force"),
        }
        parts.append(f"{{n{k}}} {{f{k}}} to {{b{k}}}")
    several = len(pulls) > 1
    rule = "runs that end on one post pull on it together: forces add as vectors; one of them may be pulled before the others, so the worst single run counts too"
    together = Why(rule, Say("; ".join(parts) + "; the worst by itself {worst}" * several, values), "statics")
    found = [
        Fact(
            "Lines pull on it" if several else "A line pulls on it",
            Say("{all}" + " together" * several + ", to {way}", values),
            together,
        )
    ]
    if any(p.uplift_n > 0 for p in pulls):
        lifts = " + ".join(f"{{u{k}}}" for k in range(len(pulls)))
        why = Why("what their braces lift adds as numbers, on the safe side", Say(lifts, values), "statics")
        found.append(Fact("Their braces lift it" if several else "Its brace lifts it", Say("{lift}", values), why))
    return found
