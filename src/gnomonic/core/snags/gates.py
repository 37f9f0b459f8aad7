"""Snags of gates: leaves that don't fit their openings, ground they rub on or hang over, bends, braces and water in their way."""

from typing import Any

from gnomonic.core.demand.animals import Book
from gnomonic.core.edits.gates import staked_gates, staked_leaf_m
from gnomonic.core.errors import BadInput
from gnomonic.core.finish.hanging import FITS_M, GIVE_M, HungGate
from gnomonic.core.finish.opening import leaf_that_fits_m
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.gates import beside, hang
from gnomonic.core.plan.model import Plan
from gnomonic.core.say import Say, Value, Values
from gnomonic.core.setout.runs import Gap
from gnomonic.core.snags.snag import Remedy, Snag
from gnomonic.core.units import TAPE_M

PAGE = "openings"
MOVED_M = 0.02
LOOSE_M = 0.025
LOW_M = 0.15
PIN_M = 0.05
SAME_M = 1e-3
ROOM_M = 2.0  # of fence at least is left beside a gate that is slid
SLIDE_M, MOST_STEPS = 0.9144, 14
WAYS = 3


def gate_snags(fence: Fence, plan: Plan, book: Book) -> list[Snag]:
    """Every snag of a line's gates."""
    return [s for gate in plan.gates for s in _gate(fence, plan, gate, book)]


def _at(gate: HungGate, **more: Value) -> Values:
    return {
        "name": gate.name,
        "at": (gate.at_m, "station"),
        "clear": (gate.clear_m, "cut"),
        "leaf": (gate.leaf_m, "cut"),
        "wide": (gate.opening_m, "cut"),
        **more,
    }


def _set(gate: HungGate, **said: Any) -> dict[str, Any]:
    return {"do": "set_gate", "id": gate.id, **said}


def _gate(fence: Fence, plan: Plan, gate: HungGate, book: Book) -> list[Snag]:
    found = []
    if not gate.made:
        found.append(_staked(fence, plan, gate))
    elif gate.fits_m < -FITS_M:
        found.append(_tight(gate))
    elif gate.fits_m > LOOSE_M:
        values = _at(gate, more=(gate.fits_m, "cut"), fits=(gate.leaf_m + gate.fits_m / gate.kind.panes, "cut"))
        ways = (Remedy(Say("a leaf made to measure: {fits}", values), _set(gate, leaf_m=round(gate.leaf_m + gate.fits_m / gate.kind.panes, 4))),)  # fmt: skip
        title = Say("{name} hangs in {clear} clear, {more} more than its leaf needs", values)
        why = Say("its posts are those of other runs on both sides: a longer leaf, or a wider post to latch on", values)
        found.append(Snag("gate-loose", False, 6.0, gate.at_m, title, why, ways, PAGE))
    elif abs(gate.moved_m) > MOVED_M:
        post = plan.post_at(gate.at_m) if gate.moved_m < 0 else plan.post_at(gate.end_m)
        values = _at(
            gate,
            by=(abs(gate.moved_m), "cut"),
            way="back" if gate.moved_m < 0 else "on",
            post=post.name if post else "",
        )
        title = Say("{name} was moved {way} by {by}: it hangs from the post at {at}", values)
        found.append(
            Snag(
                "gate-moved",
                False,
                0.4,
                gate.at_m,
                title,
                Say("its opening stays {clear} clear, as its leaf of {leaf} needs", values),
                go=PAGE,
            )
        )
    if gate.made and not gate.gate.measured and gate.kind.leaves:
        values = _at(gate)
        ways = (Remedy(Say("it is measured: {leaf}", values), _set(gate, measured=True)),)
        why = Say(
            "sold lengths are nominal: put the leaf together, measure it, then set out {clear} clear from that", values
        )
        found.append(
            Snag(
                "gate-unmeasured",
                False,
                0.3,
                gate.at_m,
                Say("Measure the leaf of {name} before its posts are set", values),
                why,
                ways,
                PAGE,
            )
        )
    found += [*_ground(fence, plan, gate), *_bend(plan, gate), *_short(plan, gate), *_passes(fence, gate, book)]
    return found


def _staked(fence: Fence, plan: Plan, gate: HungGate) -> Snag:
    """An opening staked between centres: asked about once."""
    fits = leaf_that_fits_m(gate.opening_m, gate.kind.panes, gate.kind.gaps_m, gate.posts_m) / gate.kind.panes
    ways = []
    try:
        sold = staked_leaf_m(fence, gate.gate, "widen")
        if abs(sold - fits) > TAPE_M:
            ways.append(
                Remedy(
                    Say("a leaf of {leaf}, its posts moved apart", _at(gate, leaf=(sold, "station"))),
                    _set(gate, leaf_m=sold),
                )
            )
        made = staked_leaf_m(fence, gate.gate, "made")
        ways.append(
            Remedy(Say("a leaf made to measure: {leaf}", _at(gate, leaf=(made, "cut"))), _set(gate, leaf_m=made))
        )
        staked = sum(map(staked_gates, fence.job.lines))
        if staked > 1:
            ways.append(
                Remedy(
                    Say(f"all {staked} of the job: leaves as sold, posts moved apart"),
                    {"do": "mend_gates", "how": "widen"},
                )
            )
    except BadInput:
        ways = [Remedy(Say("close it up"), {"do": "remove_gate", "id": gate.id})]
    values = _at(gate, fits=(max(fits, 0.0), "cut"))
    title = Say("{name} was staked {wide} between post centres: what leaf hangs there?", values)
    words = (
        "between the faces of its posts lie {clear}: a leaf of {fits} fits"
        if fits > 0
        else "its posts leave {clear} between their faces: no leaf fits"
    )
    return Snag("gate-staked", False, 25.0, gate.at_m, title, Say(words, values), tuple(ways[:WAYS]), PAGE)


def _tight(gate: HungGate) -> Snag:
    """A leaf that its opening, held between two other posts, is too narrow for."""
    fits = leaf_that_fits_m(gate.opening_m, gate.kind.panes, gate.kind.gaps_m, gate.posts_m) / gate.kind.panes
    sold = [m for m in gate.kind.leaves_m if m <= fits + FITS_M]
    ways = [Remedy(Say("a leaf of {long}", {"long": (m, "station")}), _set(gate, leaf_m=m)) for m in sold[-1:]]
    if fits > 0.25:
        ways.append(
            Remedy(Say("a leaf made to measure: {long}", {"long": (fits, "cut")}), _set(gate, leaf_m=round(fits, 4)))
        )
    values = _at(gate, short=(-gate.fits_m, "cut"))
    title = Say("{name} does not fit: its leaf of {leaf} is {short} too long for {clear} between the posts", values)
    why = Say(
        "its posts are those of other runs on both sides and can't be moved apart: another leaf, or another place",
        values,
    )
    return Snag("gate-tight", True, 60.0, gate.at_m, title, why, tuple(ways), PAGE)


def _ground(fence: Fence, plan: Plan, gate: HungGate) -> list[Snag]:
    """A leaf with too much under it, and one over water."""
    found = []
    for water in plan.waters:
        if water.from_m < gate.end_m and gate.at_m < water.to_m:
            values = _at(gate, water=water.name)
            room = [(water.to_m + 0.5, "beyond it"), (water.from_m - gate.opening_m - 0.5, "before it")]
            ways = [
                Remedy(
                    Say("hang it {where}, at {to}", {"where": where, "to": (to, "station")}),
                    {"do": "move_gate", "id": gate.id, "at_m": round(to, 3)},
                )
                for to, where in room
                if 0 < to < plan.course.length_m - gate.opening_m
            ]
            title, why = (
                Say("{name} hangs over {water}", values),
                Say(
                    "the first flood takes a leaf that hangs in it: cross the water by a rope, and hang the gate beside it"
                ),
            )
            found.append(Snag("gate-water", True, 70.0, gate.at_m, title, why, tuple(ways), PAGE))
    turn = gate.turn
    if gate.kind.leaves:
        found += _heads(plan, gate)
    if turn.gap_m <= gate.most_gap_m + GIVE_M or not gate.kind.leaves:
        return found
    worst = turn.worst
    better = [t for t in gate.turns if t.gap_m < turn.gap_m - FITS_M]
    ways = [
        Remedy(
            _way_words(gate, t.hinge, t.side, t.lie),
            _set(gate, hinge="" if t.hinge == "both" else t.hinge, side=t.side, lie=t.lie),
        )
        for t in sorted(better, key=lambda t: t.gap_m)[:1]
    ]
    ways += _slid(fence, plan, gate)
    values = _at(
        gate,
        gap=(turn.gap_m, "gap"),
        most=(gate.most_gap_m, "gap"),
        up=(worst.bottom_m, "gap"),
        high=(worst.highest_m, "gap"),
        grade=(abs(gate.grade), "grade"),
    )
    title = Say("{gap} under the leaf of {name} when it is shut", values)
    lifted = (
        "the ground it swings over rises {high} over its hinge, so it hangs {up} up"
        if worst.highest_m > 0.01
        else "the ground falls away under it"
    )
    why = Say(
        lifted + "; more than {most} lets stock under: slide it along, dig the sweep down, or hang a board under it",
        values,
    )
    found.append(Snag("gate-gap", False, 12.0, gate.at_m, title, why, tuple(ways), PAGE))
    return found


def _slid(fence: Fence, plan: Plan, gate: HungGate) -> list[Remedy]:
    """The nearest place a few steps along, between the posts of the runs beside it, where no more is left under the leaf than may be."""
    before = max((r.start.station_m for r in plan.runs if abs(r.end.station_m - gate.at_m) < SAME_M), default=None)
    after = min((r.end.station_m for r in plan.runs if abs(r.start.station_m - gate.end_m) < SAME_M), default=None)
    low = gate.at_m if before is None else before + ROOM_M
    high = gate.end_m if after is None else after - ROOM_M
    near = beside(fence, plan.course)

    def width(_: float) -> float:
        return gate.posts_m[0]

    for step in (d for k in range(1, MOST_STEPS) for d in (k * SLIDE_M, -k * SLIDE_M)):
        at = gate.at_m + step
        if not low <= at <= high - gate.opening_m:
            continue
        gap = Gap(gate.id, gate.name, at, gate.opening_m)
        there = hang(fence, plan.section, plan.course, [gap], width, near)[0]
        if there.turn.gap_m <= there.most_gap_m + GIVE_M and not _bent(plan, at, at + gate.opening_m):
            values: Values = {
                "by": (abs(step), "cut"),
                "gap": (there.turn.gap_m, "gap"),
                "way": "on" if step > 0 else "back",
            }
            return [Remedy(Say("slide it {by} {way}: {gap} under it", values), {"do": "move_gate", "id": gate.id, "at_m": round(at, 3)})]  # fmt: skip
    return []


def _bent(plan: Plan, low_m: float, high_m: float) -> bool:
    """Whether the line turns noticeably between two stations."""
    turns, noticed = plan.course.turns_deg(), plan.system.rule("noticed_turn_deg")
    pairs = zip(plan.course.stations_m[1:-1].tolist(), turns[1:-1].tolist(), strict=True)
    return any(low_m < s < high_m and abs(t) > noticed for s, t in pairs)


def _heads(plan: Plan, gate: HungGate) -> list[Snag]:
    """A leaf whose head is lower than the fence somewhere, and one whose upper pin stands over its post."""
    found = []
    raked = Remedy(Say("hang it with the land"), _set(gate, lie="land"))
    ways = (raked,) if gate.turn.lie == "level" and gate.gate.lie != "land" else ()
    if gate.top_m < plan.fence_height_m - LOW_M:
        values = _at(gate, top=(gate.top_m, "cut"), fence=(plan.fence_height_m, "cut"))
        title = Say("The leaf of {name} is only {top} over the ground at its lowest", values)
        found.append(Snag("gate-low", False, 10.0, gate.at_m, title, Say("the fence beside it is {fence}: what jumps finds it", values), ways, PAGE))  # fmt: skip
    high = gate.hinges_m[1]
    short = [p for at in gate.hinge_posts_m if (p := plan.post_at(at)) and p.above_m < high + PIN_M]
    if short:
        values = _at(gate, pin=(high, "cut"), head=(short[0].above_m, "cut"))
        title = Say("The upper pin of {name} stands {pin} up: its post is {head} out of the ground", values)
        found.append(Snag("gate-pin", True, 35.0, gate.at_m, title, Say("a longer post, a lower leaf, or hung with the land", values), ways, PAGE))  # fmt: skip
    return found


def _way_words(gate: HungGate, hinge: str, side: str, lie: str) -> Say:
    hung = {"first": "hung on its first post", "last": "hung on its last post", "both": "hung"}[hinge]
    return Say(f"{hung}, opening to the {side}, " + ("level" if lie == "level" else "with the land"))


def _bend(plan: Plan, gate: HungGate) -> list[Snag]:
    line, noticed = plan.course, plan.system.rule("noticed_turn_deg")
    for station, turn in zip(line.stations_m[1:-1].tolist(), line.turns_deg()[1:-1].tolist(), strict=True):
        if gate.at_m + 1e-6 < station < gate.end_m - 1e-6 and abs(turn) > noticed:
            values = _at(gate, turn=(abs(turn), "angle"), bend=(station, "station"))
            ways = [
                Remedy(Say("hang it from the bend"), {"do": "move_gate", "id": gate.id, "at_m": round(station, 3)}),
                Remedy(
                    Say("let it end at the bend"),
                    {"do": "move_gate", "id": gate.id, "at_m": round(station - gate.opening_m, 3)},
                ),
            ]
            short = Say("The line bends {turn} inside {name}, at {bend}", values)
            why = Say(
                "its posts stand nearer than {wide} measured along the line: the leaf does not shut straight", values
            )
            return [
                Snag(
                    "gate-bend", True, 40.0, gate.at_m, short, why, tuple(w for w in ways if w.edit["at_m"] >= 0), PAGE
                )
            ]
    return []


def _short(plan: Plan, gate: HungGate) -> list[Snag]:
    """A bit of fence beside a gate that has no room for braces of its own: the gate stands in another end's panel."""
    for brace in plan.braces:
        run = plan.runs[brace.end.run]
        if not brace.end.shared or brace.end.crossed or not brace.end.at_start:
            continue
        for at, far in ((run.end.station_m, run.start), (run.start.station_m, run.end)):
            if abs(at - (gate.at_m if far is run.start else gate.end_m)) > 1e-3 or far.role == "gate":
                continue
            ahead = far is run.start
            to = far.station_m if ahead else far.station_m - gate.opening_m
            room = 2 * max(brace.end.spacing_m, 2.4384)
            away = far.station_m + room if ahead else far.station_m - room - gate.opening_m
            ways = [
                Remedy(
                    Say("hang it from the post at {to}", {"to": (far.station_m, "station")}),
                    {"do": "move_gate", "id": gate.id, "at_m": round(max(0.0, to), 3)},
                )
            ]
            if 0 < away < plan.course.length_m - gate.opening_m:
                ways.append(
                    Remedy(
                        Say("move it to {to}, clear of the brace", {"to": (away, "station")}),
                        {"do": "move_gate", "id": gate.id, "at_m": round(away, 3)},
                    )
                )
            values = _at(gate, long=(run.length_m, "cut"), far=(far.station_m, "station"))
            title = Say("{name} stands in the brace of the post at {far}: {long} of fence between them", values)
            why = Say("too short for a brace at each end: both pulls and the leaf hang on one panel")
            return [Snag("gate-panel", False, 9.0, gate.at_m, title, why, tuple(ways), PAGE)]
    return []


def _passes(fence: Fence, gate: HungGate, book: Book) -> list[Snag]:
    """Who walks through what has no leaf."""
    held = {p.animal for p in fence.hold.animals} & set(gate.kind.passes) - {"people"}
    if not held:
        return []
    names = ", ".join(book.animals[k].title for k in sorted(held) if k in book.animals)
    values = _at(gate, who=names, what=gate.kind.title)
    ways = (Remedy(Say("a gate for people instead"), _set(gate, kind="person", leaf_m=1.2192)),)
    title = Say("{who} pass {name}", values)
    return [
        Snag(
            "gate-passed",
            True,
            55.0,
            gate.at_m,
            title,
            Say("a {what} holds cattle and horses, nothing that is narrower", values),
            ways,
            PAGE,
        )
    ]
