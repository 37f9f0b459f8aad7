"""Before a pull: where rolls are set down, which side of posts the fabric passes, what ends and wires ask of each other."""

import math

from gnomonic.core.finish.cable import GRAVITY
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.identity import tag_name
from gnomonic.core.plan.model import Plan
from gnomonic.core.plan.stretch import RunPull
from gnomonic.core.pull.gear import rule, takes, ties
from gnomonic.core.say import Say, Values
from gnomonic.core.tell.pulling import left_at_end


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
    if not d.fabric and d.tie_key == "turns" and not run.option.enough:
        found.append(Say("So stiff a wire on so short a run loses most of its pull to a hair of slip: put a tensioner in it, or a bolt that draws it up."))  # fmt: skip
    if d.tie_key == "tie" and d.known and d.aim.pull_n > 0 and not run.option.way.splices_m:
        now, clip = (left_at_end(run, ties()[key].slip_m)[0] for key in ("tie", "clip"))
        if clip - now > rule("clips_gain"):
            found.append(Say("With one-way end clips {clip} of the pull would stay at its end instead of {now}.", {"clip": (clip, "share"), "now": (now, "share")}))  # fmt: skip
    if d.fabric and d.known and run.path.bends and not any(o.way.splices_m for o in run.options):
        found.append(
            Say("No straight of it takes a splice: its bends, posts and end bays leave no room. End it at a bend.")
        )
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
        push = weight * GRAVITY * math.sin(math.atan(abs(grade)))
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
