"""Why an edit changed nothing in the plan, in one sentence with this job's numbers."""

from collections.abc import Callable
from typing import Any

from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Plan
from gnomonic.core.say import Say
from gnomonic.core.units import TAPE_M

Values = dict[str, tuple[float, str] | str]
SAME = "the plan is the same"


def unchanged(was: Fence, now: Fence, plan: Plan, edit: dict[str, Any]) -> Say:
    """Why nothing changed; ``plan`` is the one that stayed."""
    if was == now:
        return Say(SAME + ": that is how it stood already")
    match edit.get("do"):
        case "decide":
            reason = DECISIONS.get(str(edit.get("key")), _other)(now, plan)
        case "own_offcuts":
            reason = _offcuts(now, plan)
        case "rename":
            reason = Say("it has another name")
        case "say_hold":
            reason = Say("what is asked of the barrier changed, not the barrier: see the demands and the snags")
        case "choose_way":
            reason = Say(
                "that choice changes how the work is done, not what is counted here: see the steps and the tags"
            )
        case "add_found" | "remove_found":
            reason = Say("nothing of it lies where a post stands, or where it asks for one")
        case "forbid" | "allow":
            reason = Say("no post stood there, and none would rather stand there")
        case "place_post" | "move_post" | "release_post":
            reason = Say("a post stands there anyway; now it is held there, or free again")
        case "say_soil" | "say_ground":
            reason = Say("what posts hold and lean is reckoned anew, and no verdict turned: see posts and braces")
        case "brace_end":
            reason = Say("that end is braced so already, or its run leaves no room for it")
        case "ask_post":
            reason = Say("a post stands so there already, or none stands there")
        case "end_run":
            reason = Say("a run ends there anyway, or a gate hangs there")
        case "lay_rail":
            reason = Say("no rigid rail runs along the top" if not plan.rails else "the rail lies so already")
        case "choose_spacing":
            reason = Say("posts stand alike by that school")
        case "fill_low":
            reason = Say("no low lies there that is deeper than allowed")
        case "set_gate":
            reason = Say("it hangs so already; what was said is kept with it")
        case "say_crossing":
            reason = Say("the same rope, flap and ties do; what was said is kept with it")
        case "mend_gates":
            reason = Say("every gate has its leaf already")
        case "say_rolls":
            reason = Say("the rolls there are do best as it is")
        case "set_pull" | "pull_from" | "set_climate":
            reason = Say("posts and rolls stay; how hard and from where it is pulled is reckoned anew: see the pull")
        case "swath":
            reason = Say("the swath is cleared, nothing is planned on it: see the walk sheet")
        case _:
            reason = Say("nothing that is counted or drawn hangs on it")
    return Say(f"{SAME}: {reason.t}", reason.v)


def _other(fence: Fence, plan: Plan) -> Say:
    return Say("nothing that is counted or drawn hangs on it")


def _longest_bay(fence: Fence, plan: Plan) -> Say:
    longest = max(b.to_m - b.from_m for b in plan.bays)
    return Say(
        "its longest bay is {m}, and evener or longer bays would take as many posts",
        {"m": (longest, "station")},
    )


def _gap(fence: Fence, plan: Plan) -> Say:
    worst = max(b.ground.worst_gap_m for b in plan.bays)
    least = min(b.ground.least_gap_m for b in plan.bays)
    return Say("the gaps planned run from {a} to {b} anyway", {"a": (least, "gap"), "b": (worst, "gap")})


def _fill(fence: Fence, plan: Plan) -> Say:
    return Say("no bay gains by it: {fill} are filled and {cut} cut under the wire either way", _areas(plan))


def _areas(plan: Plan) -> Values:
    return {
        "fill": (sum(b.ground.fill_m2 for b in plan.bays), "area"),
        "cut": (sum(b.ground.cut_m2 for b in plan.bays), "area"),
    }


def _wood(fence: Fence, plan: Plan) -> Say:
    if plan.system.firm_post == plan.system.line_post:
        return Say("every line post of this barrier is alike")
    longest = since = 0
    for post in plan.posts:
        since = since + 1 if post.slot == "light" else 0
        longest = max(longest, since)
    return Say(f"no more than {longest} driven posts stand in a row anyway")


def _corner(fence: Fence, plan: Plan) -> Say:
    turns = sorted({round(abs(t)) for t in plan.course.turns_deg()[1:-1].tolist() if abs(t) >= 1})
    if not turns:
        return Say("the line has no turns")
    shown = ", ".join(f"{t}°" for t in turns[:12]) + (" …" if len(turns) > 12 else "")
    return Say(f"no turn of the line lies between the old limit and the new one; its turns are {shown}")


def _brace(fence: Fence, plan: Plan) -> Say:
    if not plan.braces:
        return Say("this barrier is not braced by panels")
    panels = max(b.end.panels for b in plan.braces)
    return Say(f"the runs leave no room for more: {panels} panel{'' if panels == 1 else 's'} at an end")


def _rolls(fence: Fence, plan: Plan) -> Say:
    if not plan.section.layers:
        return Say("this barrier is strung from coils, not rolls")
    if not plan.rolls.splices:
        return Say("nothing is spliced: every side comes from one piece")
    shortest = min(p.length_m for p in plan.rolls.pieces)
    return Say("the shortest piece planned is {m}, its splices lie where they may", {"m": (shortest, "station")})


def _tails(fence: Fence, plan: Plan) -> Say:
    if not plan.section.layers:
        return Say("the wires' tails are counted by themselves")
    return Say("the sides take as many rolls with the one as with the other")


def _run(fence: Fence, plan: Plan) -> Say:
    longest = max(r.length_m for r in plan.runs)
    return Say("the longest run is {m}, which is broken no further", {"m": (longest, "station")})


def _battens(fence: Fence, plan: Plan) -> Say:
    if not any(rule.every == "batten_m" for rule in plan.system.bay_fittings):
        return Say("this barrier hangs no battens")
    return Say("as many battens stand between posts as before")


def _offcuts(fence: Fence, plan: Plan) -> Say:
    """An offcut that is too short to use is said so."""
    if not plan.section.layers:
        return Say("this barrier is strung from coils: offcuts of fabric serve nothing here")
    if short := too_short(fence, plan):
        return short
    return Say("no side comes out with fewer rolls or splices by them")


def too_short(fence: Fence, plan: Plan) -> Say | None:
    """Offcuts on hand that are too short to use, and why; a side that is itself shorter takes one whole piece."""
    least = min([fence.decisions.piece_min_m, *plan.rolls.need_m])
    short = [m for m in fence.offcuts_m if m < least - TAPE_M]
    if not short:
        return None
    values: Values = {f"s{k}": (m, "station") for k, m in enumerate(short)}
    names = ", ".join(f"{{s{k}}}" for k in range(len(short)))
    verb = "is" if len(short) == 1 else "are"
    return Say(
        f"{names} {verb} shorter than the shortest piece you allow, {{least}}", {**values, "least": (least, "station")}
    )


DECISIONS: dict[str, Callable[[Fence, Plan], Say]] = {
    "longest_bay_m": _longest_bay,
    "clearance_m": _gap,
    "gap_min_m": _gap,
    "gap_max_m": _gap,
    "k_fill": _fill,
    "k_cut": _fill,
    "wood_every": _wood,
    "corner_angle_deg": _corner,
    "brace_spacing_m": _brace,
    "brace_panels": _brace,
    "roll_m": _rolls,
    "overlap_m": _rolls,
    "splice_clear_m": _rolls,
    "piece_min_m": _rolls,
    "tie_off_m": _tails,
    "longest_run_m": _run,
    "batten_m": _battens,
}
