"""The order of a pull: everything that is done at a run, with the caution where it bites."""

from dataclasses import dataclass

from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Plan
from gnomonic.core.plan.stretch import RunPull, Stretching, tail_m
from gnomonic.core.pull.gear import rule
from gnomonic.core.pull.ways import Part
from gnomonic.core.say import Say, Values
from gnomonic.core.tell.pulling import dummy_of, ended, ends_pulled


@dataclass(frozen=True, slots=True)
class Done:
    """One thing that is done, with its caution where it bites."""

    text: Say
    caution: str = ""


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
    near = [h for h in run.bears if abs(run.along_m[h.index] - at) < rule("near_bar_m")]
    if not near:
        return ""
    names = ", ".join(plan.posts[run.posts[h.index]].name for h in near)
    return f" The ground humps at {names}: lift the bar there, or it digs in."


def _lows(plan: Plan, run: RunPull, part: Part | None = None) -> tuple[list[tuple[float, str]], list[str]]:
    """Posts of a run, or of a part of it, that the taut fabric hangs over, with how far; and the highs beside them that it touches."""
    ends = (0.0, run.path.length_m) if part is None else (part.from_m, part.to_m)
    touches = [over <= rule("touches_m") for over in run.over_m]
    inner = [k for k in range(1, len(run.posts) - 1) if ends[0] < run.along_m[k] < ends[1]]
    name = [plan.posts[k].name for k in run.posts]
    lows = [(run.over_m[k], name[k]) for k in inner if run.over_m[k] > rule("low_m")]
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
        values |= {"up": (up, "gap"), "turns": f"{up / rule('drum_turn_m'):.1f}"}
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
