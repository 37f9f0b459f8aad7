"""The tag of the whole job: the line, its posts, what is hung and how much of it."""

from gnomonic.core.compare import against_even
from gnomonic.core.ground.found import called
from gnomonic.core.job import Job
from gnomonic.core.planned import Plan
from gnomonic.core.say import Say, Why
from gnomonic.core.tag import Tag
from gnomonic.core.tag_facts import METHOD, Fact, Values

KIND_WORDS = {
    "terminal": "terminals",
    "brace": "brace",
    "wood": "wood",
    "steel": "driven steel",
    "pipe": "pipe",
    "timber": "timber",
    "concrete": "concrete",
}


def job_tag(job: Job, plan: Plan) -> Tag:
    """The tag of the whole job."""
    kinds = [p.kind for p in plan.posts]
    values: Values = {
        "length": (plan.course.length_m, "station"),
        "gates": (sum(g.opening_m for g in plan.gates), "station"),
    }
    counts = ", ".join(f"{kinds.count(kind)} {word}" for kind, word in KIND_WORDS.items() if kinds.count(kind))
    facts = (
        Fact(
            "Line",
            Say("{length}", values),
            Why(
                "level distance along the measured points",
                Say("{gates} of it gate openings", values),
                "as measured",
            ),
        ),
        Fact(
            "Posts",
            Say(f"{len(kinds)}"),
            Why(
                "least cost over all candidate stations",
                Say(counts),
                METHOD + "2",
                other=against_even(plan),
            ),
        ),
    )
    hung = _rolled(job, plan) if plan.fabric else []
    return Tag("The whole line", None, (*facts, *hung, *_wires(plan), *_side(job, plan)))


def _rolled(job: Job, plan: Plan) -> list[Fact]:
    """Fabric, rolls and splices of the lowest layer."""
    rolls = plan.rolls.rolls
    values: Values = {
        "need": (sum(plan.rolls.need_m), "station"),
        "tails": (2 * len(plan.rolls.need_m) * job.decisions.tie_off_m, "station"),
        "offcut": (rolls.longest_offcut_m, "station"),
        "roll": (job.decisions.roll_m, "station"),
    }
    greedy = rolls.greedy
    kept = f"the longest of {len(rolls.offcuts_kept_m)} kept"
    proof = "proven fewest" if rolls.proven["new_rolls"] else f"at least {rolls.bound['new_rolls']} needed"
    joins = "proven fewest" if rolls.proven["splices"] else f"at least {rolls.bound['splices']} needed"
    return [
        Fact(
            "Fabric needed",
            Say("{need}", values),
            Why(
                "slope length of every run and a tail at each end",
                Say("{tails} of it tails", values),
                "common practice",
            ),
        ),
        Fact(
            "Rolls",
            Say(f"{rolls.new_rolls} of {{roll}}", values),
            Why(
                "fewest new rolls, then fewest splices, then the longest offcut",
                Say(f"{proof}; roll after roll in order takes {greedy['new_rolls']}"),
                METHOD + "9",
            ),
        ),
        Fact(
            "Splices",
            Say(f"{rolls.splices}"),
            Why(
                "runs and rolls in groups: a group of b rolls has b − 1 splices",
                Say(f"{joins}; roll after roll in order makes {greedy['splices']}"),
                METHOD + "9",
            ),
        ),
        Fact(
            "Longest offcut kept",
            Say("{offcut}", values),
            Why("a long offcut is money, short ones are scrap", Say(kept), METHOD + "9"),
        ),
    ]


def _wires(plan: Plan) -> list[Fact]:
    """Coils of each wire strung along the line."""
    found = []
    for coil in plan.coils:
        values: Values = {"total": (coil.total_m, "station"), "coil": (coil.wire.coil_m, "station")}
        why = Why(
            "slope length of every run, a tail at both ends, each strand; one coil joined to the next",
            Say(f"{{total}} for {coil.strands} of them, {coil.joins} joined where a coil runs out", values),
            coil.wire.source,
            other=coil.wire.reason,
        )
        word = coil.wire.word
        found.append(Fact(word[:1].upper() + word[1:], Say(f"{coil.coils} of {{coil}}", values), why))
    return found


def _side(job: Job, plan: Plan) -> list[Fact]:
    """Which side of the posts the barrier hangs on: as decided, or where stock was noted on one side."""
    if job.barrier.side:
        why = Why("decided by the fencer", Say(f"the {job.barrier.side} of the line's direction"), "as decided")
        return [Fact("Hangs on", Say(f"the {job.barrier.side}"), why)]
    stock = [t for t in plan.things if t.found.kind == "stock" and t.found.side]
    sides = {t.found.side for t in stock}
    if len(sides) != 1:
        return []
    side, names = sides.pop(), ", ".join(dict.fromkeys(called(t.found) for t in stock))
    kind = stock[0].kind
    return [Fact("Hangs on", Say(f"the {side}"), Why(kind.reason, Say(f"{names} on the {side}"), kind.source))]
