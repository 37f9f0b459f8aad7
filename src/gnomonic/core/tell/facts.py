"""Facts of the tag, what the pull of a section is made of, and what pulls on a shared post."""

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from gnomonic.core.demand.section import Section
from gnomonic.core.ground.bearing import quadrant
from gnomonic.core.plan.model import Pull
from gnomonic.core.say import Say, Why

LEVEL_M = 0.005  # a rise under this is level
METHOD = "derived: docs/method.md §"
Values = dict[str, tuple[float, str] | str]


@dataclass(frozen=True, slots=True)
class Fact:
    """A named value and what stands behind it; ``note`` is how it is done."""

    name: str
    value: Say
    why: Why
    note: str = ""


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
    twisted = "; twisted strands are taken as straight: at most so much" if section.barbs else ""
    values |= {
        "day": (section.pull_n, "force"),
        "cold": (section.cold_n, "force"),
        "at": (section.pull_height_m, "cut"),
    }
    gives = any(after is None for _, now, after in pulled if now > 0)
    drawn = "(a mesh as it is drawn: what cold adds to it is not worked out)"
    curved = any(x.fabric.spacing_in for x in section.layers)
    day = "half the tension curve left in every wire, or its working tension where that comes first"
    told = f"On the day of the pull, at most ({day if curved else 'what each is drawn to'}): "
    return Why(
        "ends are designed for the coldest day, their posts fixed, each wire by itself",
        Say(
            f"{{cold}} {drawn if gives else 'after a drop of {drop}'}, {{at}} above the bottom edge, where the tensions balance",
            values,
        ),
        METHOD + "8" if curved else "from memory; what cold adds: " + METHOD + "8",
        other=Say(told + "; ".join(parts) + ", {day} in all. Cold: " + "; ".join(cold) + twisted + ".", values),
    )


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
