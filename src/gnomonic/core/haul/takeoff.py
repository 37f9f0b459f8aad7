"""What to buy, counted post by post, bay by bay and piece by piece; ``tell/needs.py`` puts it into words."""

from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.fabric.fabrics import Fabric
from gnomonic.core.haul.counts import (
    filled_m3,
    filled_round,
    fitted_here,
    fitting_counts,
    gate_counts,
    own_posts,
    panel_rails_m,
    rope_bought_m,
    second_wires,
)
from gnomonic.core.job.fence import Fence
from gnomonic.core.kept import KeptBy
from gnomonic.core.plan.lows import filled, patches
from gnomonic.core.plan.model import Plan, Post

PLANS_KEPT = 128
SAWN = ("wood", "timber", "pipe")  # posts that may be cut from longer ones
UNIT_KINDS = {"": "count", "m": "station", "m3": "volume"}


@dataclass(frozen=True, slots=True)
class Need:
    """One line of the take-off: ``count`` in ``unit`` (pieces, ``m`` or ``m3``) of one thing, and what it is for.

    ``of`` is its key in the catalog, ``post`` or ``gate_leaf``, a wire's key or a fabric's label; ``sold_as`` what that leaves
    open (kind of post, of wire, of fabric); ``size_m`` and ``across_m`` its length and thickness, 0 where it has none.  ``use``
    and ``posts`` say where: a key, and the lasting names of the posts it goes to (none: all along).  ``key`` tells it from
    the others of its line.  ``each`` is its price index, a metre of fabric or wire for rolls and coils by ``metres`` needed.  ``cuts_m``
    are the pieces of what can be cut from a longer length.
    """

    key: str
    of: str
    count: float
    use: str
    posts: tuple[str, ...] = ()
    unit: str = ""
    sold_as: str = ""
    size_m: float = 0.0
    across_m: float = 0.0
    each: float = 0.0
    metres: float = 0.0
    cuts_m: tuple[float, ...] = ()

    @property
    def on_rolls(self) -> bool:
        """Whether it is fabric."""
        return self.metres > 0 and self.use != "strand"

    @property
    def alike(self) -> tuple[str, str, float, float]:
        """What is bought alike: the same thing of the same kind and size."""
        return self.of, self.sold_as, round(self.size_m, 4), round(self.across_m, 4)


def take_off(fence: Fence, plan: Plan) -> list[Need]:
    """The take-off in the order things are used."""
    return [need for part in _parts(fence, plan) for need in part]


_counted: KeptBy[list[list[Need]]] = KeptBy(PLANS_KEPT)


def _parts(fence: Fence, plan: Plan) -> list[list[Need]]:
    """Posts, fill, braces, struts, fillers under lows, fabric, coils, rails and boards, fittings, gates, crossings; a plan is counted once."""
    more = (fence.decisions.roll_m, fence.decisions.shave_m, fence.own.fillers)
    return _counted.of(plan, more, lambda: _count(fence, plan))


def _count(fence: Fence, plan: Plan) -> list[list[Need]]:
    roll_m = fence.decisions.roll_m
    parts = [
        _posts(plan), _fill(plan), _braces(plan), _struts(plan), _other_braces(plan), _lows(fence, plan), _fabric(plan, roll_m), _coils(plan), _sticks(plan),
        _fittings(plan), _gates(plan), _crossings(plan),
    ]  # fmt: skip
    return [[n for n in part if n.count > 0] for part in parts]


@dataclass(frozen=True, slots=True)
class JobNeed:
    """One line of the job's take-off: the needs that are bought alike, each with its line's letter; a line may have several."""

    needs: tuple[tuple[str, Need], ...]

    @property
    def need(self) -> Need:
        """The first: all are alike but in where they go."""
        return self.needs[0][1]

    @property
    def count(self) -> float:
        """How much for all lines."""
        return sum(need.count for _, need in self.needs)

    @property
    def parts(self) -> dict[str, float]:
        """How much for each line."""
        found: dict[str, float] = defaultdict(float)
        for line, need in self.needs:
            found[line] += need.count
        return dict(found)


def job_take_off(lines: Sequence[tuple[Fence, Plan]]) -> list[JobNeed]:
    """The take-off of all lines together: what is bought alike is one need, a post that lines share is in one of them."""
    merged: dict[tuple[str, str, float, float], list[tuple[str, Need]]] = {}
    by_line = [(fence.id, _parts(fence, plan)) for fence, plan in lines]
    for part in range(len(by_line[0][1]) if by_line else 0):
        for line, of_line in by_line:
            for need in of_line[part]:
                merged.setdefault(need.alike, []).append((line, need))
    return [JobNeed(tuple(needs)) for needs in merged.values()]


def _named(posts: Iterable[Post]) -> tuple[str, ...]:
    return tuple(p.name for p in posts)


def _at(plan: Plan, stations_m: Iterable[float]) -> tuple[str, ...]:
    """Names of the posts at these stations."""
    wanted = {round(s, 4) for s in stations_m}
    return _named(p for p in plan.posts if round(p.station_m, 4) in wanted)


def _of_catalog(
    key: str, count: float, use: str, posts: tuple[str, ...] = (), unit: str = "", size_m: float = 0.0
) -> Need:
    """An item of the catalog."""
    return Need(key, key, count, use, posts, unit, size_m=size_m, each=catalog()[key].index)


def _posts(plan: Plan) -> list[Need]:
    """Posts by kind and the length bought; one that a joining line asks for is of that line's kind."""
    needs = []
    alike: dict[tuple[str, str, float], list[Post]] = defaultdict(list)
    for post in own_posts(plan):
        alike[post.kind, post.rule.title, post.stock_m].append(post)
    order = list(plan.section.posts)
    for (kind, title, length), posts in sorted(
        alike.items(), key=lambda row: (order.index(row[0][0]), row[0][2], row[0][1])
    ):
        rule = posts[0].rule
        own = title == plan.section.posts[kind].title
        key = f"post_{kind}_{length:.2f}" + ("" if own else "_" + title.replace(" ", "_"))
        across = 0.0 if rule.material == "steel" else rule.diameter_m
        needs.append(
            Need(
                key,
                "post",
                len(posts),
                "post",
                _named(posts),
                sold_as=title,
                size_m=length,
                across_m=across,
                each=rule.index_m * length,
                cuts_m=(length,) * len(posts) if rule.material in SAWN else (),
            )
        )
    return needs


def _fill(plan: Plan) -> list[Need]:
    return [
        _of_catalog(
            fill.replace(" ", "_"),
            volume,
            "fill",
            _named(p for p in own_posts(plan) if filled_round(plan, p)[0] == fill),
            "m3",
        )
        for fill, volume in filled_m3(plan).items()
    ]


def _braces(plan: Plan) -> list[Need]:
    """Rails, pins, brace wire, its staples, and what twists it; ``posts`` are those the braces hold."""
    system, cuts = plan.system, panel_rails_m(plan)
    if not cuts:
        return []
    held = _at(plan, (b.end.stations_m[0] for b in plan.braces if b.kind != "welded"))
    second = second_wires(plan)
    diagonals = sum(b.end.panels for b in plan.braces if b.kind != "welded") + len(second)
    wire = sum(m for b in plan.braces for m in b.wire_m) + sum(m for _, m in second)
    gauge = f"{system.rule('brace_wire_gauge'):g} gauge"
    stick = plan.section.school("twist") == "stick"
    wood = plan.section.posts["brace"].material == "wood"
    staples = diagonals * (system.rule("brace_staples") * wood + system.rule("stick_staples") * stick * wood)
    rail, thick = catalog()["brace_rail"].index, system.rule("rail_diameter_m")
    return [
        Need("rail", "brace_rail", len(cuts), "brace_rail", held, across_m=thick, each=rail, cuts_m=tuple(cuts)),
        _of_catalog("pin", len(cuts) * system.rule("pins_per_rail"), "brace_pin", held),
        Need("brace_wire", "brace_wire", wire, "brace_wire", held, "m", gauge),
        _of_catalog("brace_staple", staples, "brace_staple", held),
        _of_catalog("twist_stick" if stick else "brace_ratchet", diagonals, "twist", held),
    ]


def _other_braces(plan: Plan) -> list[Need]:
    """Welded pipe, wires to buried logs, breast boards."""
    welded = [b for b in plan.braces if b.kind == "welded"]
    pipe = sum(cut + diagonal for b in welded for cut, diagonal in zip(b.rail_cut_m, b.diagonal_m, strict=True))
    logs = [a for a in plan.anchors if a.kind == "deadman"]
    boards = {a.station_m for a in plan.anchors if a.kind == "boards"} | {
        p.station_m for p in own_posts(plan) if p.block
    }
    return [
        _of_catalog("brace_pipe", pipe, "brace_pipe", _at(plan, (b.end.stations_m[0] for b in welded)), "m"),
        _of_catalog("anchor_log", len(logs), "anchor", _at(plan, (a.station_m for a in logs))),
        Need("anchor_wire", "brace_wire", sum(a.wire_m for a in logs), "anchor", _at(plan, (a.station_m for a in logs)), "m", f"{plan.system.rule('brace_wire_gauge'):g} gauge"),
        _of_catalog("breast_board", 2 * len(boards), "anchor", _at(plan, boards)),
    ]  # fmt: skip


def _lows(fence: Fence, plan: Plan) -> list[Need]:
    """What fills lows, as chosen one by one; soil where nothing was."""
    done = [filled(fence, p, fence.decisions.shave_m) for p in patches(plan) if p.low]
    by = {key: [f for f in done if f.what == key] for key in ("log", "stone", "skirt", "strand", "")}
    return [
        _of_catalog("filler_log", sum(f.pieces for f in by["log"]), "low"),
        _of_catalog("filler_stone", sum(f.volume_m3 for f in by["stone"]), "low", unit="m3"),
        _of_catalog("filler_skirt", sum(f.pieces for f in by["skirt"]), "low"),
        _of_catalog("filler_strand", sum(f.length_m for f in by["strand"]), "low", unit="m"),
        _of_catalog("filler_soil", sum(f.volume_m3 for f in by[""]), "low", unit="m3"),
    ]


def _struts(plan: Plan) -> list[Need]:
    if not plan.struts:
        return []
    held = _at(plan, (s.station_m for s in plan.struts))
    longest = max(s.length_m for s in plan.struts)
    return [
        replace(
            _of_catalog("strut", len(plan.struts), "strut", held, size_m=longest),
            cuts_m=tuple(s.length_m for s in plan.struts),
        ),
        _of_catalog("strut_wire", sum(s.wire_m for s in plan.struts), "strut_wire", held, "m"),
    ]


def _fabric(plan: Plan, roll_m: float) -> list[Need]:
    """Rolls, the lowest layer's by the roll the job decided on."""
    if plan.fabric is None:
        return []

    def rolls(key: str, fabric: Fabric, count: int, use: str, roll_m: float, need_m: float) -> Need:
        return Need(
            key,
            fabric.label,
            count,
            use,
            sold_as=fabric.kind,
            size_m=roll_m,
            each=fabric.index,
            metres=need_m,
        )

    made, need = plan.rolls.rolls, sum(plan.rolls.need_m)
    bought = Counter(made.bought_m) if made.bought_m else {roll_m: made.new_rolls}
    total = sum(m * n for m, n in bought.items())
    return [
        *(
            rolls(
                f"roll_of_{m:.2f}" if k else "roll",
                plan.fabric,
                n,
                "fabric",
                m,
                need * m * n / total if total else need,
            )
            for k, (m, n) in enumerate(sorted(bought.items(), reverse=True))
        ),
        *(
            rolls(f"roll_{k}", more.fabric, more.rolls, more.what, more.fabric.roll_m, more.need_m)
            for k, more in enumerate(plan.more, 2)
        ),
    ]


def _coils(plan: Plan) -> list[Need]:
    coils = [
        Need(
            f"coil_{coil.key}",
            coil.key,
            coil.coils,
            "strand",
            sold_as=coil.wire.title,
            size_m=coil.wire.coil_m,
            each=coil.wire.index,
            metres=coil.total_m,
        )
        for coil in plan.coils
    ]
    return [*coils, _of_catalog("joiner", sum(c.joins for c in plan.coils), "strand_joint")]


def _sticks(plan: Plan) -> list[Need]:
    needs = []
    for cut in plan.sticks:
        item = catalog()[cut.rule.item]
        for length, count in cut.bought:
            key, each = f"{cut.rule.item}_{length:.2f}", item.index * length / (item.length_m or length)
            sawn = (length,) * count
            needs.append(Need(key, cut.rule.item, count, "stick", size_m=length, each=each, cuts_m=sawn))
    return needs


def _fittings(plan: Plan) -> list[Need]:
    counts = fitting_counts(plan)
    return [
        _of_catalog(
            key, counts[key], "fitting", _named(p for p in plan.posts if fitted_here(p, key)), catalog()[key].unit
        )
        for key in catalog()
        if counts.get(key)
    ]


def _gates(plan: Plan) -> list[Need]:
    """Leaves by what is sold, and the hardware of every gate."""
    needs = []
    for gate in plan.gates:
        if gate.kind.leaves:
            hung = _at(plan, (gate.at_m, gate.end_m))
            count = gate.kind.leaves * gate.kind.stacked
            high = gate.high_m / gate.kind.stacked
            needs.append(Need(f"gate_{gate.id}", "gate_leaf", count, "gate", hung, size_m=gate.leaf_m, across_m=high))
    posts = _at(plan, (at for g in plan.gates for at in (g.at_m, g.end_m)))
    return [*needs, *(_of_catalog(item, number, "gate_part", posts) for item, number in gate_counts(plan).items())]


def _crossings(plan: Plan) -> list[Need]:
    """Rope with what is turned back and goes round both posts, clips, what hangs from it, weak ties and a keeper."""
    needs: list[Need] = []
    for over in plan.crossings:
        c, use, posts = over.built, "crossing", _at(plan, (over.at_m, over.to_m))
        needs += [
            _of_catalog(c.cable.item, rope_bought_m(plan, over), use, posts, "m"),
            _of_catalog("rope_clip", 2 * c.cable.clips, use, posts),
            _of_catalog(c.flap.item, c.hung_m, use, posts, "m"),
            _of_catalog("flap_tie", c.ties, use, posts),
            _of_catalog("flap_keeper", 1, use, posts),
        ]
    alike: dict[str, list[Need]] = defaultdict(list)
    for need in needs:
        alike[need.key].append(need)
    return [
        replace(rows[0], count=sum(r.count for r in rows), posts=tuple(p for r in rows for p in r.posts))
        for rows in alike.values()
    ]
