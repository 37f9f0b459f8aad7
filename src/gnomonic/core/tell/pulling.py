"""Stretching in words: what a run is pulled to and keeps, from where, and everything that is done in its order."""

import math
from dataclasses import dataclass
from itertools import pairwise

from gnomonic.core.fabric.fabrics import curves
from gnomonic.core.fabric.wire import Crimped
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.identity import tag_name
from gnomonic.core.plan.model import Plan
from gnomonic.core.plan.stretch import Option, RunPull, Stretching, tail_m
from gnomonic.core.pull.dummy import Dummy, dummy
from gnomonic.core.pull.gear import pullers_needed, rule, takes, ties
from gnomonic.core.pull.path import greatest
from gnomonic.core.pull.soft import half_soft_n
from gnomonic.core.pull.ways import Part, both_ways, one_way
from gnomonic.core.say import Say, Values, Why
from gnomonic.core.tell.facts import METHOD, Fact

SLIPS_M = (0.010, 0.025)
GIVE_M = 0.127  # 4 to 6 in of sideways give at mid-bay: common practice
NEAR_BAR_M = 3.0
SEEN_M = 0.02
TURN_M = 0.07  # wire a turn of a tensioner's drum takes up: from memory
LOW_M = 0.05
TOUCHES_M = 0.02  # nearer to the taut fabric than this a post is a high
BY = {
    "curve": "no wire past half its curve on the coldest night",
    "working": "the working tension of the wire",
    "ends": "what its ends are designed for on the coldest night",
    "gear": "what the pullers may carry",
}


@dataclass(frozen=True, slots=True)
class Done:
    """One thing that is done, with its caution where it bites."""

    text: Say
    caution: str = ""


def ended(part: Part, run: RunPull, values: Values, key: str) -> str:
    """From where a part is pulled: a template, its stations put into ``values``."""
    low, high = run.station(part.from_m), run.station(part.to_m)
    if part.way == "both" and part.splice_m is not None:
        values[f"{key}s"] = (run.station(part.splice_m), "station")
        return f"both ways to a splice at {{{key}s}}"
    values[f"{key}p"] = (low if part.way == "start" else high, "station")
    return f"from its {'start' if part.way == 'start' else 'end'} at {{{key}p}}"


def way_words(run: RunPull, option: Option) -> Say:
    """A way to pull a run."""
    values: Values = {}
    parts = option.way.parts
    words = [ended(p, run, values, f"w{k}") for k, p in enumerate(parts)]
    if len(parts) == 1:
        return Say(words[0], values)
    ends = []
    for k, at in enumerate(option.way.ends_m):
        values[f"e{k}"] = (run.station(at), "station")
        ends.append(f"{{e{k}}}")
    return Say(f"ended on a braced post at {' and '.join(ends)}; the parts {', then '.join(words)}", values)


def verdict(run: RunPull) -> Say:
    """What a run keeps, in a few words."""
    if run.drawn.aim.pull_n <= 0:
        return Say("drawn by hand, no more than takes the folds out")
    values: Values = {"keeps": (run.option.keeps, "share"), "pull": (run.drawn.aim.pull_n, "force")}
    each = " a strand" if not run.drawn.fabric else ""
    if not run.carries:
        return Say(f"the pullers don't carry {{pull}}{each}", values)
    low = run.option.keeps < rule("least_share")
    return Say(f"{{pull}}{each}; {'only ' if low else ''}{{keeps}} of it stays where it is least", values)


def ok(run: RunPull) -> bool:
    """Whether a run can be pulled so, and keeps enough everywhere."""
    if run.drawn.aim.pull_n <= 0:
        return True
    return run.carries and run.option.keeps >= rule("least_share") and not run.drawn.aim.slack


def dummy_of(plan: Plan, run: RunPull, at_start: bool) -> Dummy | None:
    """The dummy brace one end of a run is pulled from; none where nothing is pulled hard."""
    if not run.drawn.fabric or run.drawn.aim.pull_n <= 0:
        return None
    end = run.posts[0 if at_start else -1]
    at = run.from_m if at_start else run.to_m
    held = next((b for b in plan.braces if abs(b.end.stations_m[0] - at) < 1e-3), None)
    rail = held.rail_height_m if held else 0.0
    foot = plan.limits.clearance_m + run.drawn.foot_m
    wide = plan.posts[end].rule.diameter_m
    return dummy(
        run.drawn.aim.pull_n,
        foot + run.drawn.at_m,
        rail,
        foot + run.drawn.high_m,
        (wide, plan.section.posts["brace"].diameter_m if "brace" in plan.section.posts else wide),
    )


def ends_pulled(run: RunPull) -> tuple[bool, ...]:
    """Ends of the run a bar is drawn from beyond its terminal: true its start, false its end; none for a splice in the middle."""
    found = []
    for p in run.option.way.parts:
        if p.way == "start" and p.from_m <= 0:
            found.append(True)
        if p.way == "end" and p.to_m >= run.path.length_m - 1e-6:
            found.append(False)
    return tuple(found)


def _keeps(run: RunPull, tie_m: float) -> tuple[float, float]:
    """Share of the pull left at the end that is let go with so much lost there, and how far in anything slides."""
    part, g, d = run.option.way.parts[0], run.gives, run.drawn
    path = run.path.part(part.from_m, part.to_m)
    if part.splice_m is not None:
        again = both_ways(path, d.bar, d.aim.pull_n, part.splice_m - part.from_m, tie_m)
    else:
        start = part.way == "start"
        again = one_way(path, d.bar, d.aim.pull_n, start, tie_m + (g.start_m if start else g.end_m))
    left = next(s.start_n for s in again.after if part.splice_m is not None and s.from_m >= part.splice_m - part.from_m - 1e-6) if part.splice_m is not None else again.after[0].start_n if part.way == "start" else again.after[-1].end_n  # fmt: skip
    return left / d.aim.pull_n, again.affected_m


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
    found.append(_tying(plan, run))
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
    if not d.fabric or not any(w.curve_m for w, _ in d.bar.wires):
        return []
    kind = next((c for c in curves().values() if any(abs(w.curve_m - c.curve_m) < 1e-9 for w, _ in d.bar.wires)), None)
    if kind is None:
        return []
    low, high = (soft_band(run, y) for y in kind.yield_range_pa)
    elastic = d.bar.half_first_n or 0.0
    if low >= elastic * 0.98:
        return []
    values: Values = {"low": (low, "force"), "high": (min(high, elastic), "force"), "usual": (soft_band(run, kind.yield_pa), "force"), "pull": (d.aim.pull_n, "force")}  # fmt: skip
    return [
        Fact(
            "If its wire is soft",
            Say("half the curve may be out between {low} and {high}", values),
            Why(
                "soft wire yields before half its curve is out and keeps part of the set: a crest carries σy·d³/6 and no more",
                Say("about {usual} with a usual wire; the spring law says {pull} is safe. Measure the curve as it is drawn: stop when half of it is gone, whatever the gauge says", values),
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
    keeps = [_keeps(run, slip) for slip in SLIPS_M]
    values: Values = {"a": (SLIPS_M[0], "gap"), "b": (SLIPS_M[1], "gap"), "ka": (1 - keeps[0][0], "share"), "kb": (1 - keeps[1][0], "share"), "far": (keeps[1][1], "station"), "lean": (max(run.gives.start_m, run.gives.end_m), "gap")}  # fmt: skip
    short = keeps[1][0] < keeps[0][0] - 0.08 and d.tie_key == "tie"
    told = " One-way end clips give less than half an inch: use them here." if short else ""
    return [
        Fact(
            "Lost at tie-off",
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
    values: Values = {"push": (4 * pull * GIVE_M / bay, "force"), "bay": (bay, "station"), "give": (GIVE_M, "gap")}
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


def run_order(fence: Fence, plan: Plan, whole: Stretching, run: RunPull) -> list[Done]:
    """Everything that is done at a run, in its order, with the caution where it bites."""
    if run.drawn.aim.pull_n <= 0:
        return [Done(Say(step)) for step in run.drawn.tie.steps]
    return _fabric_order(plan, run) if run.drawn.fabric else _strand_order(whole, run)


LOOK = "Stand clear of the wire, out of the bight; look down the line before every click. Nothing added to a lever."


def _fabric_order(plan: Plan, run: RunPull) -> list[Done]:
    d, way = run.drawn, run.option.way
    tail = tail_m(plan, run.number)
    starts = run.starts(tail)
    values: Values = {"pull": (d.aim.pull_n, "force"), "day": (d.aim.days.day_c, "temperature"), "back": (max(s.back_m for s in starts), "cut"), "tail": (tail, "cut")}  # fmt: skip
    found = [
        Done(
            Say("Braces tight again; posts in bends and lows looked at; the thermometer read: these figures are for {day}.", values)
        )
    ]  # fmt: skip
    if run.supports:
        names = ", ".join(plan.posts[s.post].name for s in run.supports)
        moves = max(s.moves for s in run.supports)
        values |= {"stay": (d.stay_m, "cut"), "travel": (max(s.travel_m for s in run.supports), "cut")}
        told = f" Nearest the puller it travels {{travel}}: its knots come by {moves} time{'s' * (moves != 1)}, lift them off." if moves else ""  # fmt: skip
        found.append(Done(Say(f"Hang it up on temporary supports at post{'s' * (len(run.supports) > 1)} {names}; knots catch on them every {{stay}}.{told}" if d.stay_m else f"Hang it up on temporary supports at posts {names}.", values)))  # fmt: skip
    for n, part in enumerate(way.parts):
        found += _part_order(plan, run, part, n, values)
    rest = "the rest " if _lows(plan, run)[0] else ""
    found.append(
        Done(Say(f"Fasten {rest}post by post, a wire at a time, free to slide; bottom two, up every other, top two."))
    )
    return found


def _part_order(plan: Plan, run: RunPull, part: Part, n: int, values: Values) -> list[Done]:
    d = run.drawn
    values = dict(values)
    words = ended(part, run, values, f"p{n}")
    found: list[Done] = []
    tied = d.tie.title
    low, high = run.station(part.from_m), run.station(part.to_m)
    values |= {"low": (low, "station"), "high": (high, "station")}
    if part.way == "both":
        found.append(Done(Say(f"Tie both ends first, at {{low}} and {{high}}: {tied}.", values)))
    else:
        values["far"] = (high if part.way == "start" else low, "station")
        found.append(Done(Say(f"Tie the far end first, at {{far}}: {tied}. {' '.join(d.tie.steps)}", values)))
        made = dummy_of(plan, run, part.way == "start")
        if made is not None:
            values |= {"off": (made.off_m, "station"), "up": (made.member_at_m, "station"), "member": (made.member_n, "force"), "cut": (made.member_cut_m, "cut")}  # fmt: skip
            found.append(
                Done(
                    Say(
                        "Set the dummy brace {off} beyond the terminal: a loose post in its hole, a cross member cut {cut}, pinned {up} up, over the permanent rail and the fabric; shim it tight. It carries {member} into the brace.",
                        values,
                    ),
                    "Never from a vehicle or a loader: nothing gives, nobody sees the wire, and it goes on pulling.",
                )
            )
    values["clear"] = (rule("bars_apart_m"), "station")
    over = _near_bar(plan, run, part)
    found.append(
        Done(
            Say(
                "Bar on the fabric {back} back, every line wire under a wedge, the fabric square in it; chains straight, not twisted, claws seated."
                + over,
                values,
            )
        )
    )
    loads = []
    for k, h in enumerate(reversed(run.hooks)):
        values |= {f"l{k}": (h.load_n, "force")}
        place = ("top", "bottom") if len(run.hooks) == 2 else ("top", "middle", "bottom")
        loads.append(f"{place[k] if len(run.hooks) in (2, 3) else 'puller'} {{l{k}}}")
    found.append(
        Done(
            Say(
                f"Draw it {words}, a few clicks on each in turn ({', '.join(loads)}), to {{pull}} in all; walk the line between, lift it over humps and off knots.",
                values,
            ),
            LOOK,
        )
    )
    found += _drawn_down(plan, run, part)
    if part.way == "both":
        found.append(Done(Say(f"Splice it: {d.joint.title}. {' '.join(d.joint.steps)}", values)))
        found.append(Done(Say("Let go slowly, the middle puller first, then the lower, the top last; the splice takes it over."), LOOK))  # fmt: skip
    else:
        found.append(Done(Say(f"Tie off as the far end was tied: {tied}, top and bottom wires last. Cut wrong: a line wire that was cut is spliced before anything else is.", values)))  # fmt: skip
        found.append(Done(Say("Let go slowly, the lower puller first. The bit of slack runs back, under one stay; if it shows, pull again."), LOOK))  # fmt: skip
    return found


def _near_bar(plan: Plan, run: RunPull, part: Part) -> str:
    """Humps the bar comes over as it is drawn."""
    at = part.splice_m if part.splice_m is not None else part.from_m if part.way == "start" else part.to_m
    near = [h for h in run.bears if abs(run.along_m[h.index] - at) < NEAR_BAR_M]
    if not near:
        return ""
    names = ", ".join(plan.posts[run.posts[h.index]].name for h in near)
    return f" The ground humps at {names}: lift the bar there, or it digs in."


def _lows(plan: Plan, run: RunPull, part: Part | None = None) -> tuple[list[tuple[float, str]], list[str]]:
    """Posts of a run, or of a part of it, that the taut fabric hangs over, with how far; and the highs beside them that it touches."""
    ends = (0.0, run.path.length_m) if part is None else (part.from_m, part.to_m)
    touches = [over <= TOUCHES_M for over in run.over_m]
    inner = [k for k in range(1, len(run.posts) - 1) if ends[0] < run.along_m[k] < ends[1]]
    name = [plan.posts[k].name for k in run.posts]
    lows = [(run.over_m[k], name[k]) for k in inner if run.over_m[k] > LOW_M]
    return lows, [name[k] for k in inner if touches[k] and not (touches[k - 1] and touches[k + 1])]


def _drawn_down(plan: Plan, run: RunPull, part: Part) -> list[Done]:
    """Highs first, then drawn down into the lows, the shallow ones first, with the pullers still on."""
    lows, high = _lows(plan, run, part)
    if not lows:
        return []
    values: Values = {f"d{k}": (over, "gap") for k, (over, _) in enumerate(lows)}
    values |= {"pull": (run.drawn.aim.pull_n, "force"), "more": (run.dips_m, "gap")}
    order = sorted(range(len(lows)), key=lambda k: lows[k][0])
    drawn = ", ".join(f"{lows[k][1]} ({{d{k}}})" for k in order)
    first = f"Fasten the highs first: {', '.join(high)}. " if high else ""
    text = (
        first
        + f"Then draw it down into the lows with the pullers still on, the shallow ones first: {drawn}; every wire there and on three posts each way. "
        "The way down is longer by {more} in all: it tightens, so ease the pullers back to {pull}."
    )
    return [
        Done(Say(text, values), "Fabric that is pressed down lifts with all its pull when it slips: no face over it.")
    ]


def _strand_order(whole: Stretching, run: RunPull) -> list[Done]:
    d = run.drawn
    values: Values = {"pull": (d.aim.pull_n, "force"), "day": (d.aim.days.day_c, "temperature")}
    words = ended(run.option.way.parts[0], run, values, "p")
    values |= {"from": (run.from_m, "station"), "to": (run.to_m, "station")}
    found = [
        Done(
            Say(
                "Set the coil on a spinner at {from} and walk each out to {to}, turn by turn off its outside; never throw it off over the end: it kinks, and a kink breaks.",
                values,
            ),
            "A coil springs open when its ties are cut: hold it, face away.",
        ),
        Done(Say(f"Tie the far end, then draw each of {d.count} {words} to {{pull}} at {{day}}: {d.tie.title}. {' '.join(d.tie.steps)}" if d.count > 1 else f"Draw it {words} to {{pull}} at {{day}}: {d.tie.title}. {' '.join(d.tie.steps)}", values), ("A barbed strand that lets go coils and cuts: leather gloves, eyes covered, nobody in its bight. " if d.barbs else "") + LOOK)
    ]  # fmt: skip
    many = whole.strands[whole.runs.index(run)]
    if many is not None:
        values |= {"first": (many.rounds_n[0][0], "force"), "single": (many.single_n[0], "force"), "down": (1 - many.rounds_n[0][0] / d.aim.pull_n, "share")}  # fmt: skip
        found.append(
            Done(
                Say(
                    f"The middle strand first, then by turns above and below it. Each one tightened moves the end posts and lets the others down: the first is left with {{first}}, {{down}} less. Go round {many.rounds} time{'s' * (many.rounds != 1)}, or draw the first to {{single}} and each later one to less.",
                    values,
                )
            )
        )
    if d.tie_key == "tensioner":
        up = sum(run.option.way.parts[0].take_up_m)
        values |= {"up": (up, "gap"), "turns": f"{up / TURN_M:.1f}"}
        turned = "Each takes {up} to come up from hand-tight, about {turns} turns of a tensioner’s drum."
        found.append(Done(Say(turned, values)))
    found.append(Done(Say("Go round the tensioners again after a month, and before the first winter." if d.tie_key == "tensioner" else "Look at it again after a month: take up at an end or at a splice, never by kinking.")))  # fmt: skip
    return found


@dataclass(frozen=True, slots=True)
class Move:
    """The dummy brace at one pull of a line: which run, the station of the terminal it stands beyond, and how far it was carried."""

    run: RunPull
    at_m: float
    carried_m: float


def dummy_moves(whole: Stretching) -> list[Move]:
    """The line's pulls in order, with the one dummy brace carried from each to the next; runs as they come along the line."""
    found: list[Move] = []
    for run in whole.runs:
        if not run.drawn.fabric or run.drawn.aim.pull_n <= 0:
            continue
        for at_start in ends_pulled(run):
            at = run.from_m if at_start else run.to_m
            found.append(Move(run, at, abs(at - found[-1].at_m) if found else 0.0))
    return found


def tie_advice(run: RunPull) -> list[Say]:
    """What thick wires and short runs ask of ends and splices."""
    d, found = run.drawn, list[Say]()
    thick = [w.d_m for w, _ in d.bar.wires if d.known and w.d_m > d.tie.thick_m]
    if thick:
        found.append(
            Say(f"Its thickest wires, {max(thick) * 1000:.1f} mm, are hard to turn on themselves: clips on those.")
        )
    if d.fabric and d.known and not takes(d.joint, [w.d_m for w, _ in d.bar.wires]):
        found.append(Say(f"A {d.joint.title} is not made for wire so thick or so thin: another splice there."))
    if not d.fabric and d.tie_key == "turns" and run.option.keeps < rule("least_share"):
        found.append(Say("So stiff a wire on so short a run loses most of its pull to a hair of slip: put a tensioner in it, or a bolt that draws it up."))  # fmt: skip
    if d.tie_key == "tie" and d.known and d.aim.pull_n > 0 and not run.option.way.splices_m:
        now, clip = (_keeps(run, ties()[key].slip_m)[0] for key in ("tie", "clip"))
        if clip - now > 0.08:
            found.append(Say("With one-way end clips {clip} of the pull would stay at its end instead of {now}.", {"clip": (clip, "share"), "now": (now, "share")}))  # fmt: skip
    return found


def laying(plan: Plan, number: int | None = None) -> list[Say]:
    """Where each roll of a run (of all of them) is set down, which way it unrolls, up or down, and what holds it."""
    if not plan.rolls.pieces or plan.fabric is None:
        return []
    found = []
    mass = plan.fabric.mass_kg_m
    low_m, high_m = 0.0, plan.course.length_m
    if number is not None:
        low_m, high_m = plan.runs[number].start.station_m, plan.runs[number].end.station_m
    for stock in dict.fromkeys(p.stock for p in plan.rolls.pieces):
        own = [p for p in plan.rolls.pieces if p.stock == stock]
        here = [k for k, p in enumerate(own) if p.from_m < high_m - 0.5 and p.to_m > low_m + 0.5]
        if not here:
            continue
        own = own[here[0] :]
        first = own[0]
        low, high = (
            float(plan.course.profile.at(plan.course.stations_m[:1] * 0 + s)[0]) for s in (first.from_m, first.to_m)
        )
        grade = (high - low) / max(first.to_m - first.from_m, 0.1)
        weight = mass * sum(p.length_m for p in own)
        push = weight * 9.80665 * math.sin(math.atan(abs(grade)))
        up = push < rule("roll_push_n")
        begin, end = (first.from_m, first.to_m) if (grade >= 0) == up else (first.to_m, first.from_m)
        name = f"Roll {int(stock[3:]) + 1}" if stock.startswith("new") else f"Offcut {int(stock[6:]) + 1}"
        values: Values = {"name": name, "at": (begin, "station"), "to": (end, "station"), "mass": (weight, "mass"), "push": (push, "force"), "grade": (abs(grade), "grade"), "cut": (first.length_m, "station"), "rest": (sum(p.length_m for p in own[1:]), "station")}  # fmt: skip
        way = (
            "on the level"
            if abs(grade) < 0.02
            else "uphill ({grade}): it stays where it is let go"
            if up
            else "downhill ({grade}), braked by a rope through its core"
        )
        chock = " Chock it wherever it stands." if abs(grade) >= 0.02 else ""
        more = " The rest, {rest}, goes on to the next length." if len(own) > 1 else ""
        found.append(
            Say(
                f"{{name}} ({{mass}}): set it down at {{at}}, unroll it towards {{to}}, {way}; cut {{cut}}.{chock}{more}",
                values,
            )
        )
    return found


def weave(fence: Fence, plan: Plan, run: RunPull) -> list[Say]:
    """Which side of every post in a bend the fabric goes, so that it bears on the post and not on its staples."""
    found = []
    turns = dict(
        zip((round(s, 3) for s in plan.course.stations_m.tolist()), plan.course.turns_deg().tolist(), strict=True)
    )
    sides = []
    for s, deg in turns.items():
        if run.from_m + 0.1 < s < run.to_m - 0.1 and abs(deg) >= plan.system.rule("noticed_turn_deg"):
            post = min((plan.posts[k] for k in run.posts), key=lambda p: abs(p.station_m - s))
            sides.append((tag_name(fence, post.name), "left" if deg > 0 else "right"))
    for name, side in sides:
        found.append(Say(f"At post {{name}} the fabric passes on the {side}, outside of the bend: it bears on the post.", {"name": name}))  # fmt: skip
    if len({side for _, side in sides}) > 1:
        found.append(Say("The bends turn both ways: between two that differ the fabric crosses from one side of the posts to the other, or the run is ended there."))  # fmt: skip
    return found
