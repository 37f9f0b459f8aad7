"""What an edit did, in one sentence: +1 post, −1 splice, and every item of the take-off that changed."""

from collections.abc import Callable, Sequence
from itertools import pairwise

from gnomonic.core.finish.hanging import HungGate
from gnomonic.core.haul.takeoff import UNIT_KINDS, JobNeed, Need, job_take_off
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.crossings import OverWater
from gnomonic.core.plan.model import Plan
from gnomonic.core.say import Say, Value
from gnomonic.core.setout.line import Layout
from gnomonic.core.tell.needs import named
from gnomonic.core.units import TAPE_M


def _signed(count: int, one: str, many: str) -> str:
    return f"{'+' if count > 0 else '−'}{abs(count)} {one if abs(count) == 1 else many}"


Side = tuple[Fence, Plan]
Named = dict[str, Value]
MOST_ITEMS = 4
SAME_GAP_M = 0.003
LEAST = {"": 0.5, "m": 0.05, "m3": 0.005}


def difference(was: Sequence[Side], now: Sequence[Side]) -> Say | None:
    """What changed from one plan of some lines to the next: its figures, and every item of the take-off; None when nothing did."""
    before, after = [plan for _, plan in was], [plan for _, plan in now]
    parts: list[str] = []
    values: Named = {}
    for one, many, old, new in (
        ("post", "posts", _count(before, _own), _count(after, _own)),
        ("wood post", "wood posts", _count(before, _wood), _count(after, _wood)),
        ("run", "runs", _count(before, lambda p: len(p.runs)), _count(after, lambda p: len(p.runs))),
        ("roll", "rolls", _count(before, _new_rolls), _count(after, _new_rolls)),
        ("splice", "splices", _count(before, _splices), _count(after, _splices)),
        ("gate", "gates", _count(before, lambda p: len(p.gates)), _count(after, lambda p: len(p.gates))),
    ):
        if new != old:
            parts.append(_signed(new - old, one, many))
    weak_old, weak_new = _count(before, _weak), _count(after, _weak)
    if weak_old != weak_new:
        parts.append(f"posts that do not stay put {weak_old} → {weak_new}")
    for more_parts, more_values in (_gates(was, now), _water(was, now)):
        parts += more_parts
        values |= more_values
    parts += _hung_instead(was, now)
    for name, kind, (old_m, new_m), least in (
        ("worst gap", "gap", _most(before, after, _worst), 0.003),
        ("fill", "area", (sum(map(_fill, before)), sum(map(_fill, after))), 0.01),
        ("cut", "area", (sum(map(_cut, before)), sum(map(_cut, after))), 0.01),
        ("offcut kept", "station", _most(before, after, lambda p: p.rolls.whole.longest_offcut_m), 0.05),
    ):
        if abs(new_m - old_m) > least:
            key = name.replace(" ", "_")
            parts.append(f"{name} {{{key}_old}} → {{{key}_new}}")
            values[f"{key}_old"], values[f"{key}_new"] = (old_m, kind), (new_m, kind)
    alike = all(_count(before, of) == _count(after, of) for of in (_own, _wood))
    more, named = _items(was, now, posts_told=not alike)
    parts += more
    values |= named
    if not parts and [_places(p) for p in before] != [_places(p) for p in after]:
        parts.append("posts moved, nothing else changed")
    return Say(", ".join(parts), values) if parts else None


def _gates(was: Sequence[Side], now: Sequence[Side]) -> tuple[list[str], Named]:
    """Gates that hang otherwise than they did: one by name, several counted."""
    before = {(f.id, g.id): g for f, p in was for g in p.gates}
    pairs = [(before[f.id, g.id], g) for f, p in now for g in p.gates if (f.id, g.id) in before]
    other = [(a, b) for a, b in pairs if _hangs(a) != _hangs(b)]
    if len(other) > 1:
        return [f"{len(other)} gates hang otherwise: openings made for their leaves"], {}
    values: Named = {}
    parts = []
    for old, it in other:
        values |= {
            "gate_name": it.name,
            "gate_leaf": (it.leaf_m, "cut"),
            "gate_clear": (it.clear_m, "cut"),
            "gate_old": (old.turn.gap_m, "gap"),
            "gate_gap": (it.turn.gap_m, "gap"),
        }
        under = ", {gate_old} → {gate_gap} under it" if abs(old.turn.gap_m - it.turn.gap_m) > SAME_GAP_M else ""
        parts.append("{gate_name}: leaf {gate_leaf}, {gate_clear} clear" + under)
    return parts, values


def _hangs(gate: HungGate) -> tuple[object, ...]:
    """What of a gate is worth a word when it changes."""
    turn = gate.turn
    return gate.leaf_m, gate.key, gate.made, turn.hinge, turn.side, turn.lie, round(gate.clear_m, 4)


def _water(was: Sequence[Side], now: Sequence[Side]) -> tuple[list[str], Named]:
    """Crossings more or less, and one that is built otherwise."""
    old, new = ({(f.id, c.name, round(c.middle_m)): c for f, p in side for c in p.crossings} for side in (was, now))
    if len(old) != len(new):
        return [_signed(len(new) - len(old), "crossing", "crossings")], {}
    for key, c in new.items():
        if key in old and _built(old[key]) != _built(c):
            values: Named = {
                "water": c.name,
                "rope": c.built.cable.title,
                "span": (c.built.section.span_m, "cut"),
                "push": (c.built.push_n, "force"),
            }
            return ["{water}: {rope} over {span}, pushed {push} at most"], values
    return [], {}


def _built(over: OverWater) -> tuple[object, ...]:
    """What of a crossing is worth a word when it changes."""
    c = over.built
    return c.cable_key, c.flap_key, round(c.push_n), round(c.section.span_m, 2)


def _count(plans: Sequence[Plan], of: Callable[[Plan], int]) -> int:
    return sum(map(of, plans))


def _most(before: Sequence[Plan], after: Sequence[Plan], of: Callable[[Plan], float]) -> tuple[float, float]:
    """The largest before and after; nothing to compare where there was no plan."""
    if not before or not after:
        return 0.0, 0.0
    return max(map(of, before)), max(map(of, after))


def _own(plan: Plan) -> int:
    """Posts of a line's own."""
    return sum(not p.shared for p in plan.posts)


def _weak(plan: Plan) -> int:
    """Posts of a line's own that do not stay put."""
    return sum(not h.holds for h in plan.holds if not plan.posts[h.post].shared)


def _new_rolls(plan: Plan) -> int:
    """New rolls of all fabrics."""
    return plan.rolls.rolls.new_rolls + sum(m.rolls for m in plan.more)


def _splices(plan: Plan) -> int:
    return len(plan.rolls.splices) + sum(m.splices for m in plan.more)


def _taken(sides: Sequence[Side]) -> dict[tuple[str, str, float, float], JobNeed]:
    return {both.need.alike: both for both in job_take_off(sides)}


def _items(was: Sequence[Side], now: Sequence[Side], posts_told: bool) -> tuple[list[str], Named]:
    """Items of the take-off that changed, the dearest changes first; posts by length where their number stayed."""
    old, new = _taken(was), _taken(now)
    changed: list[tuple[float, str, Need, float]] = []
    for alike in {**old, **new}:  # in order: a set has another in every process
        need = (new.get(alike) or old[alike]).need
        change = (new[alike].count if alike in new else 0.0) - (old[alike].count if alike in old else 0.0)
        told = need.of == "gate_leaf" or need.on_rolls or (need.of == "post" and posts_told)
        if abs(change) >= LEAST[need.unit] and not told:
            changed.append((-abs(change) * max(need.each or 100.0, 0.1), need.key, need, change))
    parts, values = [], Named({})
    for n, (_, _, need, change) in enumerate(sorted(changed, key=lambda row: row[:2])[:MOST_ITEMS]):
        sign = "+" if change > 0 else "−"
        values[f"i{n}"] = (abs(change), UNIT_KINDS[need.unit])
        called = named(need)
        values |= {f"i{n}_{k}": v for k, v in called.v.items()}
        parts.append(f"{sign}{{i{n}}} {'× ' * (not need.unit)}" + called.t.replace("{", f"{{i{n}_"))
    if len(changed) > MOST_ITEMS:
        left = len(changed) - MOST_ITEMS
        parts.append(f"and {left} more {'line' if left == 1 else 'lines'} of the take-off")
    return parts, values


def _places(plan: Plan) -> set[float]:
    return {round(p.station_m, 3) for p in plan.posts}


def hung(plan: Plan) -> str:
    """What hangs, in a word: the label with what kind of barrier it is, where it does not say so itself, and the extras."""
    label, word = plan.section.named, plan.system.word
    kind = "" if plan.system.key == "woven" or word.split()[0] in label else f" ({word})"
    return label + kind + "".join(f", {e.title}" for e in plan.section.extras)


def _hung_instead(was: Sequence[Side], now: Sequence[Side]) -> list[str]:
    """What hangs instead of what on a line; extras by themselves, where the rest stayed."""
    told = []
    old = {fence.id: plan for fence, plan in was}
    for fence, after in now:
        before = old.get(fence.id)
        if before is None:
            continue
        was_extra, is_extra = ([e.title for e in p.section.extras] for p in (before, after))
        if (before.section.named, before.system.key) != (after.section.named, after.system.key):
            told.append(f"{hung(after)} hung instead of {hung(before)}")
        else:
            told += [f"{t} added" for t in is_extra if t not in was_extra]
            told += [f"{t} left off" for t in was_extra if t not in is_extra]
    return told


def _wood(plan: Plan) -> int:
    return sum(p.kind == "wood" for p in plan.posts)


def _worst(plan: Plan) -> float:
    return max(b.ground.worst_gap_m for b in plan.bays)


def _fill(plan: Plan) -> float:
    return sum(b.ground.fill_m2 for b in plan.bays)


def _cut(plan: Plan) -> float:
    return sum(b.ground.cut_m2 for b in plan.bays)


def against_even(plan: Plan) -> Say:
    """What even spacing would have cost instead."""
    fill, cut = sum(e.fill_m2 for e in plan.even), sum(e.cut_m2 for e in plan.even)
    # terminals that two runs share are counted once in both
    own = sum(len(p.stations_m) for p in plan.layout)
    even = sum(len(e.stations_m) for e in plan.even)
    worst = max(b.worst_gap_m for e in plan.even for b in e.bays)
    inside = sum(
        any(b.kept and b.from_m < m < b.to_m for b in plan.barred) for e in plan.even for m in e.stations_m
    )  # fmt: skip
    diff = even - own
    posts = (
        "as many posts"
        if diff == 0
        else f"{abs(diff)} {'fewer' if diff < 0 else 'more'} {'post' if abs(diff) == 1 else 'posts'}"
    )
    needs = [f"{{{name}}} of {name}" for name, area in (("fill", fill), ("cut", cut)) if area > 0.005]
    leave = "leave {worst} under the wire" if worst >= 0 else "have its foot only {deep} in the ground"
    text = f"Even spacing would take {posts}" + (", " if needs else " and ") + leave
    text += f" and need {' and '.join(needs)}" if needs else ""
    faults = []
    if inside:
        faults.append(f"{inside} {'post' if inside == 1 else 'posts'} where none may stand")
    if steep := sum(_too_long(layout) for layout in plan.even):
        faults.append(f"{steep} {'bay' if steep == 1 else 'bays'} too long for steep ground")
    text += f", with {' and '.join(faults)}" if faults else ""
    values: dict[str, tuple[float, str] | str] = {
        "worst": (worst, "gap"),
        "deep": (-worst, "gap"),
        "fill": (fill, "area"),
        "cut": (cut, "area"),
    }
    return Say(text + ".", values)


def _too_long(layout: Layout) -> int:
    """Bays longer than the grade of their chord allows."""
    return sum(
        any(abs(bay.grade) >= grade and high - low > longest + TAPE_M for grade, longest in layout.limits.steep)
        for (low, high), bay in zip(pairwise(layout.stations_m), layout.bays, strict=True)
    )
