"""Does a barrier do what is demanded: one verdict for each demand, with what is wanted, what is given and by how much."""

from dataclasses import dataclass

from gnomonic.core.demand.demand import Demand, Named, Want
from gnomonic.core.demand.section import Section
from gnomonic.core.demand.system import common_rule
from gnomonic.core.say import Say

ROUND_M = 0.0016  # what a tape can't tell apart
STRENGTH_WORDS = {1: "a net", 2: "light", 3: "field", 4: "strong", 5: "yard"}
BELOW_WORDS = {
    "pegged": "pegged",
    "apron": "an apron {m} out",
    "l_apron": "cloth turned out as an L",
    "buried": "buried {m}",
    "barbed_bottom": "a barbed wire at the bottom",
    "board": "a board at its foot",
}
TOP_WORDS = {"visible": "easily seen", "lip": "a lip bent over, away from the works"}
AVOID_WORDS = {
    "barbs": "barbs",
    "plastic": "plastic",
    "link": "chain link",
    "gap_over_mesh": "a gap between mesh and what runs above it",
}


@dataclass(frozen=True, slots=True)
class Verdict:
    """One demand against one barrier; ``margin`` is how much better than wanted (below 0: worse), where it is a length;
    ``short`` how much of what is wanted is missing, where that can be said (1: all of it)."""

    key: str
    title: str
    ok: bool
    wanted: Say
    given: Say
    by: str
    reason: str
    source: str
    margin_m: float | None = None
    short: float = 1.0


def _length(key: str, title: str, want: Want, given_m: float, more: bool, kind: str = "gap") -> Verdict:
    margin = (given_m - want.value) * (1 if more else -1)
    word = "at least {m}" if more else "at most {m}"
    return Verdict(
        key,
        title,
        margin >= -ROUND_M,
        Say(word, {"m": (want.value, kind)}),
        Say("{m}", {"m": (given_m, kind)}),
        want.by,
        want.reason,
        want.source,
        margin,
        min(1.0, -margin / want.value) if want.value > 0 else 1.0,
    )


def judge(hung: Section, demand: Demand, clearance_m: float, gap_m: float) -> tuple[Verdict, ...]:
    """Every demand against what hangs ``clearance_m`` above the ground with gaps up to ``gap_m`` under it."""
    found: list[Verdict] = []
    if demand.height:
        found.append(_length("height", "Height", demand.height, clearance_m + hung.top_m, True, "cut"))
    rows = hung.openings(clearance_m)
    for k, band in enumerate(demand.openings):
        within = [least for low, high, least in rows if low < band.to_m - ROUND_M and high > band.from_m + ROUND_M]
        title = "Opening" if len(demand.openings) == 1 else "Opening low down" if k == 0 else "Opening higher up"
        found.append(_length("opening", title, band.want, max(within, default=0.0), False))
    if demand.gap:
        found.append(_length("gap", "Gap underneath", demand.gap, max(0.0, gap_m), False))
    stay = next((layer.fabric.stay_m for layer in hung.layers if layer.fabric.spacing_in), None)
    for s in demand.stuck:
        if stay is not None:
            found.append(
                Verdict(
                    "stuck",
                    "Stays apart",
                    stay <= s.low_m + ROUND_M or stay >= s.high_m - ROUND_M,
                    Say("up to {a}, or {b} and more", {"a": (s.low_m, "gap"), "b": (s.high_m, "gap")}),
                    Say("{m}", {"m": (stay, "gap")}),
                    s.want.by,
                    s.want.reason,
                    s.want.source,
                )
            )
    found += [*_strands(hung, demand), *_strength(hung, demand)]
    found += _below(hung, demand, gap_m)
    found += [_top(hung, named) for named in demand.top]
    found += [_avoid(hung, named) for named in demand.avoid]
    found += _life(hung, demand)
    return tuple(found)


def _strands(hung: Section, demand: Demand) -> list[Verdict]:
    """How many strands there are, where nothing but strands hangs."""
    if not (demand.strands and not hung.layers):
        return []
    wire = "barbed" if hung.barbs else "plain"
    least = demand.least_strands(wire)
    ask = next(s.want for s in demand.strands if dict(s.least)[wire] == least)
    words = Say(f"{least} or more {wire}"), Say(f"{hung.wires} {wire}")
    return [
        Verdict(
            "strands",
            "Strands",
            hung.wires >= least,
            *words,
            ask.by,
            ask.reason,
            ask.source,
            None,
            (least - hung.wires) / max(least, 1),
        )
    ]


def _strength(hung: Section, demand: Demand) -> list[Verdict]:
    """How strong it is."""
    if not demand.strength:
        return []
    want, has = demand.strength, hung.strength
    words = Say(STRENGTH_WORDS[int(want.value)]), Say(STRENGTH_WORDS[has])
    ok = has >= want.value
    return [
        Verdict(
            "strength",
            "Strength",
            ok,
            *words,
            want.by,
            want.reason,
            want.source,
            None,
            (want.value - has) / want.value,
        )
    ]


def _life(hung: Section, demand: Demand) -> list[Verdict]:
    """How long it lasts."""
    if not demand.years:
        return []
    want = Want(demand.years, "you", "it was asked that it last so long", "as asked")
    ok = hung.life_years >= demand.years
    years = Say(f"{demand.years:g} years"), Say(f"about {hung.life_years:g} years")
    short = (demand.years - hung.life_years) / demand.years
    return [Verdict("life", "Life", ok, *years, want.by, want.reason, want.source, None, short)]


def provisions(hung: Section, gap_m: float) -> dict[str, float]:
    """What a barrier does at the ground: what it gives, how deep it is buried where least, and that an apron or burying pegs it."""
    given = dict(hung.gives)
    if gap_m < 0:
        given["buried"] = -gap_m
    if given.keys() & {"apron", "buried", "l_apron"}:
        given.setdefault("pegged", 1.0)
    return given


def below_words(options: tuple[tuple[str, float], ...], joined: str = " or ") -> Say:
    """What is to be done at the ground, one or another of it, or what is (``joined`` by and), in words."""
    words, values = [], {}
    for k, (key, least) in enumerate(options):
        words.append(BELOW_WORDS.get(key, key).replace("{m}", f"{{m{k}}}"))
        values[f"m{k}"] = (least, "depth")
    return Say(joined.join(words), values)


def _below(hung: Section, demand: Demand, gap_m: float) -> list[Verdict]:
    given = provisions(hung, gap_m)
    has = tuple((key, value) for key, value in given.items() if key in BELOW_WORDS)
    found = []
    for row in demand.below:
        ok = any(given.get(key, 0.0) >= least - ROUND_M for key, least in row.any)
        want = row.want
        said = below_words(has, " and ") if has else Say("nothing")
        found.append(
            Verdict("below", "At the ground", ok, below_words(row.any), said, want.by, want.reason, want.source)
        )
    return found


def _top(hung: Section, named: Named) -> Verdict:
    want, given = named.want, hung.gives
    if named.what == "visible":
        ok = "visible" in given or hung.railed
        says = Say(TOP_WORDS["visible"]), Say("it is" if ok else "bare wire")
        return Verdict("visible", "Top", ok, *says, want.by, want.reason, want.source)
    ok = given.get("lip", 0.0) > 0
    says = Say(TOP_WORDS["lip"]), Say("it has one" if ok else "straight")
    return Verdict("lip", "Top", ok, *says, want.by, want.reason, want.source)


def _avoid(hung: Section, named: Named) -> Verdict:
    want = named.want
    if named.what == "gap_over_mesh":
        mesh = max((layer.top_m for layer in hung.layers), default=hung.top_m)
        over = [s.at_m - mesh for s in hung.strands if s.at_m > mesh + ROUND_M]
        there = bool(over) and min(over) > common_rule("gap_over_mesh_m")
    else:
        has = {"barbs": hung.barbs, "plastic": hung.plastic, "link": any(x.fabric.kind == "link" for x in hung.layers)}
        there = has[named.what]
    words = Say("no " + AVOID_WORDS[named.what].removeprefix("a ")), Say("there" if there else "none")
    return Verdict(named.what, "Must not have", not there, *words, want.by, want.reason, want.source)
