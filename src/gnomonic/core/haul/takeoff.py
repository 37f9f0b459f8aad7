"""What to buy, counted post by post, bay by bay and piece by piece."""

from collections import Counter, defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.finish.fittings import run_counts, splice_counts
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Plan, Post
from gnomonic.core.say import Say

UNIT_KINDS = {"": "count", "m": "station", "m3": "volume"}
Values = dict[str, tuple[float, str] | str]


@dataclass(frozen=True, slots=True)
class Item:
    """One need: ``count`` in ``unit`` (pieces, ``m`` or ``m3``), where it is used, and the words made from it.

    ``of`` is what it is in the catalog (``post``, ``gate_leaf``, a fabric's label, a wire's or an item's key) and ``size_m`` the
    length it is bought in, 0 where it has none; ``key`` tells it from the others of its line.  ``each`` is its price index, a
    metre of fabric or wire for rolls and coils by ``metres`` needed.
    """

    key: str
    name: Say
    count: float
    unit: str
    where: Say
    of: str
    size_m: float = 0.0
    each: float = 0.0
    metres: float = 0.0

    @property
    def alike(self) -> tuple[str, float, str]:
        """What is bought alike: the same thing in the same size under the same name."""
        return self.of, round(self.size_m, 4), self.name.text("metric")


def take_off(fence: Fence, plan: Plan) -> list[Item]:
    """The take-off in the order things are used."""
    return [item for part in _parts(fence, plan) for item in part]


def _parts(fence: Fence, plan: Plan) -> list[list[Item]]:
    """Posts, fill, braces, struts, fabric, coils, rails and boards, fittings, gates."""
    parts = [
        _posts(plan), _fill(plan), _braces(plan), _struts(plan), _fabric(fence, plan), _coils(plan), _sticks(plan),
        _fittings(plan), _gates(plan),
    ]  # fmt: skip
    return [[i for i in part if i.count > 0] for part in parts]


@dataclass(frozen=True, slots=True)
class JobItem:
    """One line of the job's take-off, and how much of it is each line's (by letter)."""

    item: Item
    parts: tuple[tuple[str, float], ...]


def job_take_off(lines: Sequence[tuple[Fence, Plan]]) -> list[JobItem]:
    """The take-off of all lines together: what is bought alike is one item, a post that lines share is in one of them."""
    merged: dict[tuple[str, float, str], tuple[Item, list[tuple[str, float]]]] = {}
    by_line = [(fence.id, _parts(fence, plan)) for fence, plan in lines]
    for part in range(len(by_line[0][1]) if by_line else 0):
        for line, of_line in by_line:
            for item in of_line[part]:
                merged.setdefault(item.alike, (item, []))[1].append((line, item.count))
    found = []
    for item, parts in merged.values():
        where = item.where
        if len(parts) > 1:
            rows: Values = {f"c{k}": (count, UNIT_KINDS[item.unit]) for k, (_, count) in enumerate(parts)}
            where = Say(", ".join(f"{line} {{c{k}}}" for k, (line, _) in enumerate(parts)), rows)
        found.append(JobItem(replace(item, count=sum(c for _, c in parts), where=where), tuple(parts)))
    return found


def own_posts(plan: Plan) -> list[Post]:
    """Posts this line brings itself: not those it shares with another."""
    return [p for p in plan.posts if not p.shared]


def _posts(plan: Plan) -> list[Item]:
    """Posts by kind and the length bought; one that a joining line asks for is of that line's kind."""
    items = []
    alike: dict[tuple[str, str, float], list[Post]] = defaultdict(list)
    for post in own_posts(plan):
        alike[post.kind, post.rule.title, post.stock_m].append(post)
    order = list(plan.section.posts)
    for (kind, title, length), posts in sorted(
        alike.items(), key=lambda row: (order.index(row[0][0]), row[0][2], row[0][1])
    ):
        rule = posts[0].rule
        size: Values = {"post": title, "length": (length, "depth"), "across": (rule.diameter_m, "gap")}
        name = "{post}, {length}" + ("" if rule.material == "steel" else ", {across} across")
        own = title == plan.section.posts[kind].title
        key = f"post_{kind}_{length:.2f}" + ("" if own else "_" + title.replace(" ", "_"))
        items.append(Item(key, Say(name, size), len(posts), "", _depths(posts), "post", length, rule.index_m * length))
    return items


def _depths(posts: list[Post]) -> Say:
    """How deep posts bought alike are set, the deepest last with what makes them so."""
    counts = Counter((round(p.depth_m, 4), p.because) for p in posts)
    values: Values = {}
    parts = []
    for k, ((depth, because), count) in enumerate(sorted(counts.items())):
        values[f"d{k}"], values[f"b{k}"] = (depth, "depth"), because
        number = f"{count} " if len(counts) > 1 else ""
        parts.append(number + f"{{d{k}}} deep" + (f" for {{b{k}}}" if because else ""))
    return Say("set " + ", ".join(parts), values)


def filled_round(plan: Plan, post: Post) -> tuple[str, float]:
    """What is filled round a post and how much (m³): hole less post; nothing where the soil goes back."""
    rule = post.rule
    way = {"concrete": "concrete", "soil_cement": "soil cement"}.get(plan.section.school("setting"), "")
    fill, volume = rule.fill or way, rule.round_m3(post.depth_m)
    return (fill, volume) if fill and volume else ("", 0.0)


def filled_m3(plan: Plan) -> dict[str, float]:
    """What is filled round the line's own posts, by material."""
    filled: dict[str, float] = defaultdict(float)
    for post in own_posts(plan):
        fill, volume = filled_round(plan, post)
        if fill:
            filled[fill] += volume
    return dict(filled)


def _fill(plan: Plan) -> list[Item]:
    return [
        _of_catalog(name.replace(" ", "_"), volume, "m3", Say("round the posts: hole less post"))
        for name, volume in filled_m3(plan).items()
    ]


def panel_rails_m(plan: Plan) -> list[float]:
    """Cut length of every brace rail; a panel shared by two braces has one."""
    spanned: dict[tuple[float, float], float] = {}
    for brace in plan.braces:
        for a, b, cut in zip(brace.end.stations_m[:-1], brace.end.stations_m[1:], brace.rail_cut_m, strict=True):
            spanned[min(a, b), max(a, b)] = cut
    return list(spanned.values())


def _braces(plan: Plan) -> list[Item]:
    system, cuts = plan.system, panel_rails_m(plan)
    if not cuts:
        return []
    loops, pins = system.rule("brace_wire_loops"), system.rule("pins_per_rail")
    thick: Values = {"d": (system.rule("rail_diameter_m"), "gap")}
    diagonals = sum(b.end.panels for b in plan.braces)
    each = f"on each of {diagonals} diagonals"
    wire = sum(m for b in plan.braces for m in b.wire_m)
    named: Values = {"gauge": f"{system.rule('brace_wire_gauge'):g} gauge"}
    rails, a_rail = catalog()["brace_rail"].index, Say(f"{pins:g} a rail")
    found = [
        Item(
            "rail",
            Say("brace rail, {d} or more across", thick),
            len(cuts),
            "",
            _cut_to(cuts),
            "brace_rail",
            0.0,
            rails,
        ),
        _of_catalog("pin", len(cuts) * pins, "", a_rail),
        Item(
            "brace_wire",
            Say("brace wire, {gauge} soft", named),
            wire,
            "m",
            Say(f"{loops:g} turns {each}"),
            "brace_wire",
        ),
    ]
    stick = plan.section.school("twist") == "stick"
    wood = plan.section.posts["brace"].material == "wood"
    staples = diagonals * (system.rule("brace_staples") * wood + system.rule("stick_staples") * stick * wood)
    said = Say("two on each post; one for the stick" if stick else "two on each post")
    found.append(_of_catalog("brace_staple", staples, "", said))
    found.append(_of_catalog("twist_stick" if stick else "brace_ratchet", diagonals, "", Say(f"one {each}")))
    return found


def _of_catalog(key: str, count: float, unit: str, where: Say) -> Item:
    """An item of the catalog under its own name."""
    return Item(key, _titled(key), count, unit, where, key, 0.0, catalog()[key].index)


def _titled(key: str) -> Say:
    """An item by the name it is sold under, which stays what it is in either unit system."""
    return Say("{item}", {"item": catalog()[key].title})


def _cut_to(cuts: list[float]) -> Say:
    return Say("cut to fit, longest about {m}", {"m": (max(cuts), "cut")})


def _struts(plan: Plan) -> list[Item]:
    if not plan.struts:
        return []
    long: Values = {"item": catalog()["strut"].title, "m": (plan.struts[0].length_m, "cut")}
    wire = sum(s.wire_m for s in plan.struts)
    return [
        Item(
            "strut",
            Say("{item}, {m}", long),
            len(plan.struts),
            "",
            Say("one at each end of a run"),
            "strut",
            plan.struts[0].length_m,
            catalog()["strut"].index,
        ),
        _of_catalog("strut_wire", wire, "m", Say("from each end post's foot to its strut")),
    ]


def _fabric(fence: Fence, plan: Plan) -> list[Item]:
    if plan.fabric is None:
        return []
    rolls = plan.rolls.rolls
    label: Values = {"label": plan.fabric.label, "roll": (fence.decisions.roll_m, "station")}
    bound = rolls.bound["new_rolls"]
    proof = "no fewer can do" if rolls.proven["new_rolls"] else f"at least {bound} are needed"
    if len(plan.rolls.over) > 1:
        whole = plan.rolls.whole
        least = "no fewer can do" if whole.proven["new_rolls"] else f"at least {whole.bound['new_rolls']} are needed"
        proof = f"opened here, of {whole.new_rolls} for {len(plan.rolls.over)} lines together: {least}"
    if plan.fabric.kind == "link":
        proof += ", cut between whole diamonds"
    word = "" if plan.fabric.kind != "woven" else " woven fabric"
    first = Say("roll of {label}" + word + ", {roll}", label)
    roll, need = fence.decisions.roll_m, sum(plan.rolls.need_m)
    items = [Item("roll", first, rolls.new_rolls, "", Say(proof), plan.fabric.label, roll, plan.fabric.index, need)]
    for k, more in enumerate(plan.more):
        size: Values = {
            "label": more.fabric.label,
            "roll": (more.fabric.roll_m, "station"),
            "need": (more.need_m, "station"),
        }
        where = Say("{need} of " + ("the layer above" if more.what.startswith("layer") else more.what), size)
        other = more.fabric
        name = Say("roll of {label}, {roll}", size)
        items.append(
            Item(f"roll_{k + 2}", name, more.rolls, "", where, other.label, other.roll_m, other.index, more.need_m)
        )
    return items


def _coils(plan: Plan) -> list[Item]:
    items = []
    for coil in plan.coils:
        size: Values = {
            "coil": (coil.wire.coil_m, "station"),
            "total": (coil.total_m, "station"),
            "wire": coil.wire.title,
        }
        strands = f"{coil.strands} strand{'' if coil.strands == 1 else 's'}"
        items.append(
            Item(
                f"coil_{coil.key}",
                Say("coil of {wire}, {coil}", size),
                coil.coils,
                "",
                Say(f"{{total}} for {strands}, tails counted in", size),
                coil.key,
                coil.wire.coil_m,
                coil.wire.index,
                coil.total_m,
            )
        )
    items.append(_of_catalog("joiner", sum(c.joins for c in plan.coils), "", Say("where a coil runs out")))
    return items


def _sticks(plan: Plan) -> list[Item]:
    return [
        Item(
            f"{cut.rule.item}_{length:.2f}",
            Say("{item}, {length}", {"item": catalog()[cut.rule.item].title, "length": (length, "depth")}),
            count,
            "",
            Say(cut.rule.way),
            cut.rule.item,
            length,
            catalog()[cut.rule.item].index * length / (catalog()[cut.rule.item].length_m or length),
        )
        for cut in plan.sticks
        for length, count in cut.bought
    ]


def fitting_counts(plan: Plan) -> dict[str, float]:
    """Every fitting of the job: on posts, between them, on runs, at splices and corners, and at gates."""
    counts: dict[str, float] = defaultdict(float)
    joints = [len(plan.rolls.splices), *(m.splices for m in plan.more if m.what.startswith("layer"))]
    for layer, splices in zip(plan.section.layers, joints, strict=False):
        for item, number in splice_counts(plan.section, layer).items():
            counts[item] += number * (splices + plan.corner_seams)
    for post in plan.posts:
        for fitting in post.fittings:
            if fitting.per_end or not post.shared:  # a shared post's cap is on it already
                counts[fitting.item] += fitting.count
    for item, number in plan.between:
        counts[item] += number
    for slope_m in plan.slope_m:
        for item, number in run_counts(plan.section, slope_m).items():
            counts[item] += number
    for gate in plan.system.gate_fittings:
        counts[gate.item] += gate.number * len(plan.gates)
    return dict(counts)


def _fittings(plan: Plan) -> list[Item]:
    counts, of = fitting_counts(plan), plan.system
    ways = {r.item: r.way for r in of.gate_fittings} | {r.item: r.way for r in of.splice_fittings}
    ways |= {r.item: r.way for r in of.run_fittings} | {r.item: r.way for r in of.bay_fittings}
    ways |= {r.item: r.way for r in of.fittings}
    return [
        _of_catalog(key, counts[key], item.unit, Say(ways.get(key, item.reason)))
        for key, item in catalog().items()
        if counts.get(key)
    ]


def _gates(plan: Plan) -> list[Item]:
    items = []
    for gate in plan.gates:
        leaf = gate.opening_m - plan.system.rule("gate_clearance_m")
        where = Say(
            "{name} at {at}: the opening is {wide} between post centres",
            {"name": gate.name, "at": (gate.at_m, "station"), "wide": (gate.opening_m, "station")},
        )
        name = Say("gate leaf, {leaf}", {"leaf": (leaf, "station")})
        items.append(Item(f"gate_{gate.id}", name, 1, "", where, "gate_leaf", leaf))
    return items
