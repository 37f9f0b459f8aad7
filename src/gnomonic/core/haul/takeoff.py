"""What to buy, counted post by post and piece by piece."""

from collections import Counter
from dataclasses import dataclass

from gnomonic.core.demand.system import woven
from gnomonic.core.job import Job
from gnomonic.core.planned import Plan
from gnomonic.core.say import Say


@dataclass(frozen=True, slots=True)
class Item:
    """One line of the take-off: ``count`` in ``unit`` (pieces unless it says otherwise) and where it is used."""

    key: str
    name: Say
    count: float
    unit: str
    where: Say


def take_off(job: Job, plan: Plan) -> list[Item]:
    """The take-off in the order things are used."""
    system, items = woven(), []
    posts = Counter((p.kind, p.length_m) for p in plan.posts)
    for kind in ("terminal", "brace", "wood", "steel"):
        rule = system.posts[kind]
        for (k, length), count in sorted(posts.items()):
            if k == kind:
                size = {"length": (length, "depth"), "across": (rule.diameter_m, "gap")}
                name = f"{rule.title}, {{length}}" + ("" if kind == "steel" else ", {across} across")
                depths = [p.depth_m for p in plan.posts if p.kind == kind and p.length_m == length]
                where = Say("set {depth} deep", {"depth": (min(depths), "depth")})
                items.append(Item(f"post_{kind}_{length:.2f}", Say(name, size), count, "", where))
    spanned: dict[tuple[float, float], float] = {}  # a panel shared by both ends of a short run has one rail
    for brace in plan.braces:
        for a, b, cut in zip(brace.end.stations_m[:-1], brace.end.stations_m[1:], brace.rail_cut_m, strict=True):
            spanned[min(a, b), max(a, b)] = cut
    cuts = list(spanned.values())
    if cuts:
        count = len(cuts)
        longest = max(cuts)
        items.append(
            Item(
                "rail",
                Say("brace rail, {d} or more across", {"d": (system.rule("rail_diameter_m"), "gap")}),
                count,
                "",
                Say("cut to fit, longest about {m}", {"m": (longest, "cut")}),
            )
        )
        items.append(
            Item(
                "pin",
                Say("⅜ in brace pin"),
                count * system.rule("pins_per_rail"),
                "",
                Say(f"{system.rule('pins_per_rail'):g} a rail"),
            )
        )
        wire = sum(m for b in plan.braces for m in b.wire_m)
        items.append(
            Item(
                "brace_wire",
                Say(f"brace wire, {system.rule('brace_wire_gauge'):g} gauge soft"),
                wire,
                "m",
                Say(
                    f"{system.rule('brace_wire_loops'):g} turns on each of {sum(b.end.panels for b in plan.braces)} diagonals"
                ),
            )
        )
    rolls = plan.rolls.rolls
    label: dict[str, tuple[float, str] | str] = {"label": plan.fabric.label, "roll": (job.decisions.roll_m, "station")}
    bound = rolls.bound["new_rolls"]
    proof = "no fewer can do" if rolls.proven["new_rolls"] else f"at least {bound} are needed"
    items.append(Item("roll", Say("roll of {label} woven fabric, {roll}", label), rolls.new_rolls, "", Say(proof)))
    wires = plan.fabric.wires
    splices = len(plan.rolls.splices)
    items.append(
        Item(
            "sleeve",
            Say("crimp sleeve, long"),
            splices * wires * system.rule("sleeves_per_wire"),
            "",
            Say(f"{splices} splices of {wires} wires"),
        )
    )
    for key, name, count in (
        ("tie_off", "end tie-off, a line wire each", sum(p.fasteners.tie_offs for p in plan.posts)),
        ("staple", "fence staple", sum(p.fasteners.staples for p in plan.posts)),
        ("clip", "steel-post clip", sum(p.fasteners.clips for p in plan.posts)),
    ):
        used = {
            "tie_off": "at both ends of every run",
            "staple": "wood posts, snug but not tight",
            "clip": "driven steel posts",
        }
        items.append(Item(key, Say(name), count, "", Say(used[key])))
    steel = sum(p.kind == "steel" for p in plan.posts)
    items.append(
        Item("cap", Say("cap for a driven steel post"), steel * system.rule("caps_per_steel"), "", Say("one each"))
    )
    for gate in plan.gates:
        leaf = gate.opening_m - system.rule("gate_clearance_m")
        items.append(
            Item(
                f"gate_{gate.id}",
                Say("gate leaf, {leaf}", {"leaf": (leaf, "station")}),
                1,
                "",
                Say("{name} at {at}", {"name": gate.name, "at": (gate.at_m, "station")}),
            )
        )
    return [i for i in items if i.count]
