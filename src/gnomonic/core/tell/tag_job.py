"""The tag of the whole job: the line, its posts, what is hung and how much of it."""

from collections import Counter

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.demand.kinds import kind_of_post, kinds
from gnomonic.core.fabric.layers import rolls_each_side
from gnomonic.core.fabric.rolls import RollPlan
from gnomonic.core.finish.fittings import diamond_m
from gnomonic.core.ground.found import called
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Plan
from gnomonic.core.say import Say, Why
from gnomonic.core.tell.compare import against_even
from gnomonic.core.tell.facts import METHOD, Fact, Values
from gnomonic.core.tell.tag import Tag


def job_tag(fence: Fence, plan: Plan) -> Tag:
    """The tag of the whole job."""
    own = [p.kind for p in plan.posts]
    values: Values = {
        "length": (plan.course.length_m, "station"),
        "gates": (sum(g.opening_m for g in plan.gates), "station"),
    }
    order = list(kinds())
    told = sorted(set(own), key=lambda k: (order.index(k) if k in order else len(order), k))
    counts = ", ".join(f"{own.count(kind)} {kind_of_post(kind).words}" for kind in told)
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
            Say(f"{len(own)}"),
            Why(
                "least cost over all candidate stations",
                Say(counts),
                METHOD + "2",
                other=against_even(plan),
            ),
        ),
    )
    hung = _rolled(fence, plan) if plan.fabric else []
    return Tag(
        "The whole line",
        None,
        (*facts, *hung, *_meshes(plan), *_wires(plan, fence.decisions.clearance_m), *_rails(plan), *_side(fence, plan)),
    )


def _meshes(plan: Plan) -> list[Fact]:
    """Chain link in whole diamonds; netting in rolls a side, and the seams to sew."""
    fabric = plan.fabric
    if fabric is None or fabric.kind == "woven":
        return []
    found = []
    if fabric.kind == "link":
        pitch = diamond_m(fabric.mesh_m[1])
        stretch = plan.system.rules["stretch_share"]
        values: Values = {"pitch": (pitch, "gap"), "share": (stretch.value, "share")}
        counts = ", ".join(f"{round(need / pitch)}" for need in plan.rolls.need_m)
        why = Why(
            stretch.reason,
            Say("clear length over {pitch} and a stretch of {share}, whole diamonds up", values),
            stretch.source,
        )
        found.append(Fact("Diamonds, side by side", Say(counts), why))
    sides = rolls_each_side(plan.rolls.need_m, fabric.roll_m)
    why = Why(
        "each side from its own rolls, nothing carried round a corner",
        Say(" + ".join(map(str, sides))),
        "common practice",
    )
    found.append(Fact("Rolls, sides unjoined", Say(f"{sum(sides)} a layer"), why))
    if plan.section.seams:
        seam: Values = {"seam": (plan.section.seams * sum(plan.rolls.need_m), "station")}
        why = Why(
            "one seam along the line where a layer laps the next", Say(f"{plan.section.seams} × the fabric"), "derived"
        )
        found.append(Fact("Seam to sew", Say("{seam}", seam), why))
    return found


def _rails(plan: Plan) -> list[Fact]:
    """Rails and boards: what is bought, and how the last of each side is cut."""
    found = []
    for cut in plan.sticks:
        rule = cut.rule
        bought = ", ".join(f"{count} of {{l{k}}}" for k, (_, count) in enumerate(cut.bought))
        values: Values = {f"l{k}": (length, "depth") for k, (length, _) in enumerate(cut.bought)}
        values |= {f"c{k}": (length, "cut") for k, length in enumerate(cut.cuts_m)}
        last = "last ones cut to " + ", ".join(f"{{c{k}}}" for k in range(len(cut.cuts_m)))
        working = last if rule.per == "run" else f"{len(cut.cuts_m)} cuts, packed into the lengths sold"
        title = catalog()[rule.item].title
        why = Why(rule.reason, Say(working, values), rule.source)
        found.append(Fact(title[:1].upper() + title[1:], Say(bought, values), why, rule.way))
    return found


def _bought(rolls: RollPlan, roll_m: float) -> tuple[str, Values]:
    """How many rolls of which length: a template and its values."""
    counts = sorted(Counter(rolls.bought_m).items(), reverse=True) if rolls.bought_m else [(roll_m, rolls.new_rolls)]
    parts = [f"{n} of {{r{k}}}" for k, (_, n) in enumerate(counts)]
    return " and ".join(parts), {f"r{k}": (m, "station") for k, (m, _) in enumerate(counts)}


def _rolled(fence: Fence, plan: Plan) -> list[Fact]:
    """Fabric, rolls and splices of the lowest layer."""
    rolls = plan.rolls.rolls
    values: Values = {
        "need": (sum(plan.rolls.need_m), "station"),
        "tails": (2 * len(plan.rolls.need_m) * fence.decisions.tie_off_m, "station"),
        "offcut": (rolls.longest_offcut_m, "station"),
        "roll": (fence.decisions.roll_m, "station"),
    }
    whole, together = plan.rolls.whole, len(plan.rolls.over) > 1
    greedy = whole.greedy
    kept = f"the longest of {len(rolls.offcuts_kept_m)} kept"
    proof = "proven fewest" if whole.proven["new_rolls"] else f"at least {whole.bound['new_rolls']} needed"
    joins = "proven fewest" if whole.proven["splices"] else f"at least {whole.bound['splices']} needed"
    if together:
        lines = f"cut together with {len(plan.rolls.over) - 1} more line{'' if len(plan.rolls.over) == 2 else 's'}"
        proof, joins = (
            f"{lines}, {whole.new_rolls} rolls in all: {proof}",
            f"{lines}, {whole.splices} splices in all: {joins}",
        )
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
            Say(*_bought(rolls, fence.decisions.roll_m)),
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


def _wires(plan: Plan, clearance_m: float) -> list[Fact]:
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
    by_word: dict[str, list[float]] = {}
    for s in plan.section.strands:
        by_word.setdefault(s.wire.word, []).append(s.at_m + clearance_m)
    for word, heights in by_word.items():
        at: Values = {f"h{k}": (h, "cut") for k, h in enumerate(sorted(heights))}
        why = Why("above the ground at posts", Say(", ".join(f"{{{name}}}" for name in at), at), "as hung")
        several = len(at) > 1
        name = f"{word[:1].upper()}{word[1:]} {'stand' if several else 'stands'} at"
        found.append(Fact(name, Say("{h0}" + (f" to {{h{len(at) - 1}}}" if several else ""), at), why))
    return found


def _side(fence: Fence, plan: Plan) -> list[Fact]:
    """Which side of the posts the barrier hangs on: as decided, or where stock was noted on one side."""
    if fence.barrier.side:
        why = Why("decided by the fencer", Say(f"the {fence.barrier.side} of the line's direction"), "as decided")
        return [Fact("Hangs on", Say(f"the {fence.barrier.side}"), why)]
    stock = [t for t in plan.things if t.found.kind == "stock" and t.found.side]
    sides = {t.found.side for t in stock}
    if len(sides) != 1:
        return []
    side, names = sides.pop(), ", ".join(dict.fromkeys(called(t.found) for t in stock))
    kind = stock[0].kind
    return [Fact("Hangs on", Say(f"the {side}"), Why(kind.reason, Say(f"{names} on the {side}"), kind.source))]
