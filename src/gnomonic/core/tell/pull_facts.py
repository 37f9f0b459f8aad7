"""Figures of a pull: how hard, how much curve, what is left along it, what is lost, bars and pullers, with what stands behind each."""

import math
from dataclasses import dataclass
from itertools import pairwise

from gnomonic.core.fabric.wire import Crimped
from gnomonic.core.plan.model import Plan
from gnomonic.core.plan.stretch import RunPull, tail_m
from gnomonic.core.pull.gear import pullers_needed, rule
from gnomonic.core.pull.path import greatest
from gnomonic.core.pull.soft import half_soft_n, softened
from gnomonic.core.say import Say, Values, Why
from gnomonic.core.tell.facts import METHOD, Fact
from gnomonic.core.tell.pulling import dummy_of, ends_pulled, left_at_end

SEEN_M = 0.02

BY = {
    "curve": "no wire past half its curve on the coldest night",
    "working": "the working tension of the wire",
    "ends": "what its ends are designed for on the coldest night",
}


def run_facts(plan: Plan, run: RunPull) -> list[Fact]:
    """What is known of a run's pull."""
    d, goal = run.drawn, run.drawn.aim
    if goal.pull_n <= 0:
        return [
            Fact(
                "Pull",
                Say("by hand"),
                Why("netting is drawn out, not stretched", Say(d.tie.reason), "common practice"),
            )
        ]
    found = [_aimed(run)]
    if d.known:
        found += [*_wires(run), *_soft(run), *_kept(run), *_lost(run), *_bars(plan, run)]
        found += _shaped(plan, run)
    else:
        found += [*_kept(run)]
        found.append(
            Fact(
                "Take-up",
                Say("not known"),
                Why("a mesh's own give is not on file", Say("start the bar 8 ft from its end at least, and watch the mesh: a diamond or square that closes has been pulled too far"), "common practice"),
            )
        )  # fmt: skip
    found += _gear(run)
    found += [*_dummy(plan, run), _tying(plan, run)]
    found += [_relaxed(run)] if d.known else []
    found += _pushed(plan, run)
    found += _risk(plan, run)
    return found


def _aimed(run: RunPull) -> Fact:
    d, goal = run.drawn, run.drawn.aim
    values: Values = {
        "pull": (goal.pull_n, "force"), "day": (goal.days.day_c, "temperature"), "cold": (goal.days.cold_c, "temperature"), "hot": (goal.days.hot_c, "temperature"),
        "cold_n": (goal.cold_n, "force"), "hot_n": (goal.hot_n, "force"), "slack": (goal.slack_n, "force"), "count": f"{d.count}",
    }  # fmt: skip
    each = "" if d.fabric else f" on each of {d.count}" if d.count > 1 else ""
    if not d.known:
        return Fact(
            "Pull",
            Say("{pull}", values),
            Why(
                "what such a mesh is drawn to: the system's rule",
                Say("what cold and heat do to it is not worked out: its own give is not known"),
                "common practice",
            ),
        )
    end = " It hangs slack on the hottest day: less than {slack} does not last till then." if goal.slack else ""
    return Fact(
        "Pull today",
        Say(f"{{pull}}{each} at {{day}}", values),
        Why(
            f"the least of half the curve on the coldest night, the working tension today, and what the ends are designed for: here {BY[goal.by]}",
            Say(
                f"ends fixed, strain stays: {{cold_n}} at {{cold}}, {{hot_n}} at {{hot}}; pulled to less than {{slack}} it would hang slack there.{end}",
                values,
            ),
            METHOD + "8",
        ),
    )


def _wires(run: RunPull) -> list[Fact]:
    d, goal = run.drawn, run.drawn.aim
    rows = wire_rows(run)
    if not d.fabric or not rows:
        return []
    first = max(rows, key=lambda r: r.out_cold or 0.0)
    values: Values = {"today": (first.out_today or 0.0, "share"), "cold": (first.out_cold or 0.0, "share"), "hot": (first.out_hot or 0.0, "share"), "at": (goal.days.cold_c, "temperature"), "left": (1 - (first.out_today or 0.0), "share"), "high": f"{run_curve_m(run) * (1 - (first.out_today or 0.0)) * 1000:.1f} mm", "was": f"{run_curve_m(run) * 1000:.1f} mm"}  # fmt: skip
    return [
        Fact(
            "Curve out",
            Say("{today} today; {cold} at {at}", values),
            Why(
                "share of the curve's height that is out, 1 − 1/(1 + T/Tc), of the wire that loses most; all wires share one strain",
                Say("{left} of the curve still stands today: {high} of {was} high; {hot} is out on the hottest day", values),
                METHOD + "8; heights of curves from memory",
            ),
        )
    ]  # fmt: skip


def run_curve_m(run: RunPull) -> float:
    """Height of the curve of the wire that loses most."""
    return max((w.curve_m for w, _ in run.drawn.bar.wires), default=0.0)


@dataclass(frozen=True, slots=True)
class WireRow:
    """Wires of one kind: thickness, how many, tension and share of the curve out today, on the coldest night, on the hottest day."""

    wire: Crimped
    count: int
    today_n: float
    cold_n: float
    hot_n: float
    out_today: float | None
    out_cold: float | None
    out_hot: float | None


def wire_rows(run: RunPull) -> list[WireRow]:
    """Tension by kind of wire where it is pulled."""
    d, goal = run.drawn, run.drawn.aim
    if not d.known:
        return []
    pulls = (goal.pull_n, goal.cold_n, goal.hot_n)
    tensions, outs = [d.bar.wires_n(p) for p in pulls], [d.bar.out(p) for p in pulls]
    return [WireRow(w, n, *(t[k] for t in tensions), *(o[k] for o in outs)) for k, (w, n) in enumerate(d.bar.wires)]


def soft_band(run: RunPull, yield_pa: float) -> float:
    """The sum of what each wire stands at with half its curve out, if it yields at so much."""
    return sum(n * half_soft_n(w, yield_pa) for w, n in run.drawn.bar.wires if w.curve_m)


def _soft(run: RunPull) -> list[Fact]:
    d = run.drawn
    kind = d.curve
    if kind is None:
        return []
    low, high = (soft_band(run, y) for y in kind.yield_range_pa)
    elastic = d.bar.half_first_n or 0.0
    if low >= elastic * 0.98:
        return []
    values: Values = {"low": (low, "force"), "high": (min(high, elastic), "force"), "usual": (soft_band(run, kind.yield_pa), "force"), "pull": (d.aim.pull_n, "force")}  # fmt: skip
    wire, tension = max(
        zip((w for w, _ in d.bar.wires), d.bar.wires_n(d.aim.pull_n), strict=True),
        key=lambda row: row[1] / row[0].half_n,
    )
    values["set"] = f"{softened(wire, tension, kind.yield_pa).set_m * 1000:.1f} mm"
    return [
        Fact(
            "If its wire is soft",
            Say("half the curve may be out between {low} and {high}", values),
            Why(
                "soft wire yields before half its curve is out and keeps part of the set: a crest carries σy·d³/6 and no more",
                Say("about {usual} with a usual wire; the spring law says {pull} is safe. Pulled to that it would keep {set} of its curve out for good. Measure the curve as it is drawn: stop when half of it is gone, whatever the gauge says", values),
                METHOD + "8; yield values from memory",
            ),
        )
    ]  # fmt: skip


def _kept(run: RunPull) -> list[Fact]:
    way, d = run.option.way, run.drawn
    least = min(way.after, key=lambda s: min(s.start_n, s.end_n))
    at = least.from_m if least.start_n <= least.end_n else least.to_m
    most, most_at = greatest(way.after)
    values: Values = {
        "least": (way.least_n, "force"), "at": (run.station(at), "station"), "most": (most, "force"), "most_at": (run.station(most_at), "station"),
        "keeps": (run.option.keeps, "share"), "turns": (math.degrees(sum(b.rad for b in run.path.bends)), "angle"), "drag": (run.path.drag_n_m * run.path.length_m, "force"),
    }  # fmt: skip
    bends = (
        f"{len(run.path.bends)} bend{'s' * (len(run.path.bends) != 1)} and highs turn it {{turns}} in all; "
        if run.path.bends
        else ""
    )
    told = "tied off and let go" if d.known else "with friction alone; what it loses at tie-off is not worked out"
    return [
        Fact(
            "Left along it",
            Say("{least} at {at}, {most} at {most_at}", values),
            Why(
                f"behind a bend T·e^(−μθ) less what knots catch, less the drag a metre; on release friction holds it in; {told}",
                Say(bends + "dragging takes {drag}; {keeps} of the pull stays where it is least", values),
                METHOD + "8; friction from memory until readings say better",
            ),
        )
    ]


def _lost(run: RunPull) -> list[Fact]:
    d = run.drawn
    slips = rule("slip_least_m"), rule("slip_most_m")
    keeps = [left_at_end(run, slip) for slip in slips]
    values: Values = {"a": (slips[0], "gap"), "b": (slips[1], "gap"), "ka": (1 - keeps[0][0], "share"), "kb": (1 - keeps[1][0], "share"), "far": (keeps[1][1], "station"), "lean": (max(run.gives.start_m, run.gives.end_m), "gap")}  # fmt: skip
    short = keeps[1][0] < keeps[0][0] - rule("clips_gain") and d.tie_key == "tie" and not run.option.way.splices_m
    told = " One-way end clips give less than half an inch: use them here." if short else ""
    return [
        Fact(
            "Lost at the splice" if run.option.way.splices_m else "Lost at tie-off",
            Say("{ka} by {a}, {kb} by {b}", values),
            Why(
                "what runs back between bar and post is given back by the strain of the wire that slides: bends and drag keep it local, on a short free run it is everywhere",
                Say(f"{{b}} reach {{far}} in; the end post leans {{lean}} as it takes the pull over, and that is counted too.{told}", values),
                METHOD + "8, the anchorage set of a tendon (EN 1992-1-1 §5.10.5)",
            ),
        )
    ]  # fmt: skip


def _bars(plan: Plan, run: RunPull) -> list[Fact]:
    if not run.drawn.fabric:
        (part,) = run.option.way.parts[:1]
        values: Values = {"up": (sum(part.take_up_m), "gap")}
        return [
            Fact("Take-up", Say("{up}", values), Why("strain summed along the run", Say("{up} of wire come out of it as it is drawn", values), METHOD + "8"))
        ]  # fmt: skip
    tail = tail_m(plan, run.number)
    starts = run.starts(tail)
    one = max(starts, key=lambda s: s.back_m)
    values = {"up": (one.take_up_m, "cut"), "slack": (one.slack_m, "cut"), "tail": (one.tail_m, "cut"), "back": (one.back_m, "cut")}  # fmt: skip
    least = " That is less than 8 ft: bars start 8 ft apart all the same." if one.least else ""
    return [
        Fact(
            "Bar starts",
            Say("{back} from where it ends" + (", on each side of the splice" if run.option.way.splices_m else ""), values),
            Why(
                "take-up, slack and tail, and 8 ft at least: all that is drawn in lies between the bars",
                Say(f"{{up}} taken up by the wires, {{slack}} of loose fabric, {{tail}} to tie with.{least}", values),
                METHOD + "8; slack from memory",
            ),
        )
    ]  # fmt: skip


def _gear(run: RunPull) -> list[Fact]:
    d = run.drawn
    if not d.fabric:
        values: Values = {"pull": (d.aim.pull_n, "force"), "can": (run.kind.can_n, "force")}
        return [
            Fact("Puller", Say("one, {pull}", values), Why("strands are drawn one by one", Say("it may carry {can}", values), run.kind.source))
        ]  # fmt: skip
    values = {"can": (run.kind.can_n, "force"), "pull": (d.aim.pull_n, "force"), "at": (d.at_m, "cut")}
    if not run.count:
        return [
            Fact("Pullers", Say(f"no number of one {run.kind.title} carries {{pull}}", values), Why("each may carry what it is rated for", Say("one may carry {can}: take stronger ones", values), run.kind.source))
        ]  # fmt: skip
    loads = []
    for k, h in enumerate(reversed(run.hooks)):
        values |= {f"l{k}": (h.load_n, "force"), f"h{k}": (h.at_m, "station")}
        loads.append(f"{{l{k}}} at {{h{k}}} up")
    over = "" if run.carries else f" One of them is loaded beyond what it may carry: {_enough(run)}"
    start = run.starts(0.0)[0]
    strokes, hooked = run.strokes(start)
    values["strokes"] = f"{strokes}"
    return [
        Fact(
            "Pullers",
            Say(f"{run.count} × {run.kind.title}: {', '.join(loads)}", values),
            Why(
                f"hooked a hand in from the bar's ends; loads balance a pull that acts {{at}} over the fabric's foot; {run.kind.reason}",
                Say(f"one may carry {{can}}.{over} About {{strokes}} strokes each, hooked on anew {hooked - 1} time{'s' * (hooked != 2)}; alternate, a few clicks each", values),
                run.kind.source,
            ),
        )
    ]  # fmt: skip


def _enough(run: RunPull) -> str:
    need = pullers_needed(run.drawn.aim.pull_n, run.drawn.at_m, run.drawn.high_m, run.kind)
    return f"{need} do." if need else "no number of them does: take stronger ones."


def _shaped(plan: Plan, run: RunPull) -> list[Fact]:
    """What the ground does to it: highs it bears on, lows it is drawn down into, top against bottom."""
    if not run.drawn.fabric:
        return []
    found = []
    d = run.drawn
    if run.dips_m > 0.001:
        least = run.option.way.least_n
        after = d.bar.pull_n(d.bar.strain(least) + run.dips_m / run.path.length_m)
        values: Values = {"more": (run.dips_m, "gap"), "was": (least, "force"), "now": (after, "force"), "deep": (max(run.over_m), "cut")}  # fmt: skip
        found.append(
            Fact(
                "Drawn down into lows",
                Say("{more} longer: with the pullers on, or {was} becomes {now}", values),
                Why(
                    "drawn taut it lies on the highs; the way through the lows is longer, and the wire gives that",
                    Say("it hangs {deep} over the deepest low; drawn down before it is tied off, the pullers eased as it tightens, it keeps what was aimed at", values),
                    METHOD + "8, a taut string is the ground's upper hull",
                ),
            )
        )  # fmt: skip
    tilt = _tilt(plan, run)
    if abs(tilt) * d.high_m > SEEN_M:
        longer = "top" if tilt > 0 else "bottom"
        values = {"more": (abs(tilt) * d.high_m, "station"), "high": (d.high_m, "cut"), "deg": (math.degrees(abs(tilt)), "angle")}  # fmt: skip
        found.append(
            Fact(
                "Top against bottom",
                Say(f"the {longer} puller draws about {{more}} less", values),
                Why(
                    "fabric that stays square to its wires has a longer way at the top over a hump, at the bottom through a hollow: height times the change of slope",
                    Say(f"{{high}} high over {{deg}} of change: the {longer} edge goes tight first and the other bows; let the stays lean plumb, or let the pullers differ so", values),
                    METHOD + "8, geometry",
                ),
            )
        )  # fmt: skip
    return found


def _tilt(plan: Plan, run: RunPull) -> float:
    """By how much the fabric's slope falls from the run's start to its end (radians; positive over a hump)."""
    posts = [plan.posts[k] for k in run.posts]
    if len(posts) < 2:
        return 0.0
    stations = run.stations_m

    def slope(a: int, b: int) -> float:
        return math.atan2(posts[b].ground_m - posts[a].ground_m, stations[b] - stations[a])

    return slope(0, 1) - slope(len(posts) - 2, len(posts) - 1)


def _dummy(plan: Plan, run: RunPull) -> list[Fact]:
    """What the dummy brace it is drawn from carries."""
    found = []
    for at_start in ends_pulled(run):
        made = dummy_of(plan, run, at_start)
        if made is None:
            continue
        values: Values = {"member": (made.member_n, "force"), "up": (made.member_at_m, "station"), "foot": (made.foot_n, "force"), "pull": (run.drawn.aim.pull_n, "force")}  # fmt: skip
        found.append(
            Fact(
                "Dummy brace",
                Say("its member carries {member}, {up} up", values),
                Why(
                    "the loose post turns about its foot: the member takes pull × its height / the member's, the foot the rest",
                    Say("of {pull}; {foot} are pushed against the hole. The brace sees the moment the fence will give it", values),
                    METHOD + "8, statics",
                ),
            )
        )  # fmt: skip
    return found


def _relaxed(run: RunPull) -> Fact:
    """What the first year takes of it."""
    values: Values = {"share": (run.drawn.relaxed_share, "share"), "left": (run.option.way.least_n * (1 - run.drawn.relaxed_share), "force")}  # fmt: skip
    return Fact(
        "First year",
        Say("takes about {share}: {left} left where it is least", values),
        Why("knots and wraps bed in, steel creeps, posts settle", Say("go round it before the first winter and after it", values), "from memory"),
    )  # fmt: skip


def _tying(plan: Plan, run: RunPull) -> Fact:
    """What its ends and splices are: how many wires by which way, and how long that takes."""
    d = run.drawn
    ends, wires = 2 * (len(run.option.way.ends_m) + 1), max(1, d.wires) * d.count
    splices = sum(run.from_m < s.at_m < run.to_m for s in plan.rolls.splices) if d.fabric else 0
    minutes = ends * wires * d.tie.minutes + splices * wires * d.joint.minutes
    joined = f", {splices} splice{'s' * (splices != 1)} ({d.joint.title})" if splices else ""
    let_go = "middle puller first at a splice, then the lower; " if splices else ""
    return Fact(
        "Ends and splices",
        Say(f"{ends * wires} wires tied{joined}, about {minutes / 60:.1f} h"),
        Why(
            f"{d.tie.title}; {d.tie.reason}",
            Say(f"{ends} ends of {wires}, {d.tie.minutes:g} min each; let go: {let_go}lower puller first at an end"),
            d.tie.source,
        ),
    )


def _pushed(plan: Plan, run: RunPull) -> list[Fact]:
    bay = max((b - a for a, b in pairwise(run.along_m)), default=0.0)
    if bay <= 0 or not run.drawn.known:
        return []
    pull = run.option.way.least_n
    values: Values = {
        "push": (4 * pull * rule("give_m") / bay, "force"),
        "bay": (bay, "station"),
        "give": (rule("give_m"), "gap"),
    }
    what = "the fabric" if run.drawn.fabric else "a strand"
    return [
        Fact(
            "Push at mid-bay",
            Say(f"{{push}} moves {what} {{give}}", values),
            Why(
                "F = 4·T·δ/L: 4 to 6 in of give between posts is what a hand expects",
                Say(
                    "in the longest bay, {bay}, where the pull is least; less give is tighter, more is slacker", values
                ),
                METHOD + "8; common practice",
            ),
        )
    ]


def _risk(plan: Plan, run: RunPull) -> list[Fact]:
    weak = [h for h in run.risks if not h.holds]
    if not run.risks:
        return []
    worst = max(run.risks, key=lambda h: h.lean_m)
    values: Values = {"lean": (worst.lean_m, "gap"), "side": (worst.asked_side_n, "force"), "at": (plan.posts[worst.post].station_m, "station")}  # fmt: skip
    names = ", ".join(plan.posts[h.post].name for h in weak)
    return [
        Fact(
            "Posts in bends",
            Say(f"{f'{names} would not stay put' if weak else 'all stay put'}; the worst leans {{lean}} at {{at}}", values),
            Why(
                "fabric carried round a bend pulls to its inside, 2·T·sin(θ/2), on the coldest night",
                Say("{side} to the side there; a post that has moved an inch is pulled no further: end the run there, or splice beyond", values),
                METHOD + "6",
            ),
        )
    ]  # fmt: skip
