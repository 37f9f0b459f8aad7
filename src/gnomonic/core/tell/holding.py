"""Facts of what every post is asked and has, and of what was found of it as it was set."""

from gnomonic.core.ground.bearing import quadrant
from gnomonic.core.plan.model import Holding, Plan, Post
from gnomonic.core.say import Say, Why
from gnomonic.core.tell.facts import LEVEL_M, METHOD, Fact, Values

ASKS = {
    "ends": "runs that end here: forces as vectors, uplifts as numbers; the worst run alone counts too",
    "brace": "what the panel leaves on this post's foot",
    "bend": "fabric carried round a bend pulls to its inside: 2·T·sin(θ/2)",
    "dip": "fabric that rises on both sides of a post lifts it: T·(sin θ2 − sin θ1)",
    "hump": "fabric that falls on both sides of a post presses it down: T·(sin θ2 − sin θ1)",
}


MET_WORDS = {
    "rock": "rock",
    "root": "a root",
    "water": "water",
    "pipe": "something buried",
    "soft": "soft ground",
    "nothing": "nothing",
}


def built_facts(post: Post) -> list[Fact]:
    """What was found of a post as it was set."""
    known = post.built
    if known is None:
        return []
    values: Values = {
        "reached": (post.depth_m, "depth"),
        "planned": (post.planned_m, "depth"),
        "proud": (max(0.0, post.planned_m - post.depth_m), "gap"),
        "along": (abs(known.along_m), "cut"),
        "pilot": (known.pilot_m or 0.0, "depth"),
    }
    found = []
    kept = Say("written down where it was seen; the plan answers to it")
    if known.reached_m is not None or known.proud_m is not None:
        met = f", on {MET_WORDS[known.met]}" if known.met else ""
        text = "{reached} of {planned}" + met
        cut = "its head was cut and capped" if known.cut else "its head stands {proud} higher than planned"
        accepted = "; let pass" if known.accepted else ""
        same = abs(post.planned_m - post.depth_m) < LEVEL_M
        found.append(
            Fact(
                "As built, depth",
                Say(text, values),
                Why("how deep it came to stand", Say("as planned" if same else cut + accepted, values), "the log"),
            )
        )
    if known.along_m or known.across_m:
        way = "on" if known.along_m > 0 else "back"
        found.append(
            Fact(
                "As built, moved",
                Say(f"{{along}} {way} along the line", values),
                Why("where it came to stand", kept, "the log"),
            )
        )
    if known.pilot_met:
        found.append(
            Fact(
                "Pilot hole",
                Say(f"{MET_WORDS[known.pilot_met]} at {{pilot}}", values),
                Why("what the pilot hole or bar met", kept, "the log"),
            )
        )
    if known.earlier:
        found.append(
            Fact(
                "Said before",
                Say(f"{len(known.earlier)} earlier entries stand behind these"),
                Why("the later of two entries on one thing stands; none is dropped", kept, "the log"),
            )
        )
    return found


def hold_values(held: Holding) -> Values:
    """The numbers of a post's hold."""
    alone = held.alone or (0.0, 0.0)
    return {
        "side": (held.side_n, "force"),
        "asked": (held.asked_side_n, "force"),
        "at": (held.side_at_m, "cut"),
        "way": "" if held.side_deg is None else quadrant(round(held.side_deg) % 360),
        "one": (alone[0], "force"),
        "has": (held.has_n, "force"),
        "code": (held.code_n, "force"),
        "lean": (held.lean_m, "gap"),
        "stop": (held.stop_m, "gap"),
        "top": (held.top_m, "gap"),
        "lift": (abs(held.lift_n), "force"),
        "draws": (held.asked_lift_n, "force"),
        "up": (alone[1], "force"),
        "grip": (held.grip_n, "force"),
        "times": (held.factor, "times"),
        "board": (held.board_n, "force"),
        "deep": (held.at.depth_m, "depth"),
        "wide": (held.at.wide_m, "cut"),
        "soil": held.at.soil.words + (", wet" if held.at.wet else ""),
    }


def hold_facts(plan: Plan, post: Post, held: Holding) -> list[Fact]:
    """What a post is asked sideways and up, what it has, how far it leans."""
    values = hold_values(held)
    found = []
    rule = ASKS[held.why]
    deep = "{wide} wide, {deep} deep in {soil}"
    source = "Broms (1964); International Building Code §1807.3.2.1; " + METHOD + "6"
    if held.asked_side_n:
        where = "at its foot" if held.side_at_m < LEVEL_M else "{at} up"
        way = ", to {way}" if held.side_deg is not None else ""
        alone = "; the worst run alone {one}" if held.alone else ""
        found.append(
            Fact(
                "Pushed sideways, cold",
                Say(f"{{side}} {where}{way}", values),
                Why(rule, Say("{side} together" + alone, values), METHOD + "6"),
            )
        )
        board = ", {board} of it by its board" if held.board_n else ""
        verdict = "" if held.side_share <= 1 else " — too little"
        governs = (
            "the building code governs here, as chosen"
            if held.method == "code"
            else "what it holds at last governs, with its factor on the pull; the building code, made for posts whose head may not move, is told beside it"
        )
        found.append(
            Fact(
                "Holds sideways" + verdict,
                Say(("{code} allowed" if held.method == "code" else "{has} at last") + board, values),
                Why(
                    f"a short post turning in its soil; {governs}",
                    Say(deep + ": {has} at last, {code} by the code; {times} {asked} are asked", values),
                    source,
                    other=held.at.soil.reason,
                ),
            )
        )
        found.append(
            Fact(
                "Leans at the ground, cold" + (" — too far" if held.leans else ""),
                Say("about {lean}", values),
                Why(
                    plan.system.rules["lean_stop_m"].reason,
                    Say(
                        "a rigid post on the soil's springs: {lean} at the ground, {top} at the fence's top; one stops pulling at {stop}",
                        values,
                    ),
                    METHOD + "6",
                ),
            )
        )
    if held.breaks_pa and held.bend_pa:
        stress: Values = {"share": (held.bend_pa / held.breaks_pa, "share")}
        too = " — too much" if held.bends else ""
        found.append(
            Fact(
                "Bent, cold" + too,
                Say("to {share} of what it stands", stress),
                Why(
                    plan.system.rules["wood_bends_pa"].reason,
                    Say(
                        "greatest moment between foot and rail, or below ground (Broms), over π·d³/32: {share}", stress
                    ),
                    source,
                ),
            )
        )
    up = held.asked_lift_n >= 1
    if up or abs(held.lift_n) >= 1:
        worst = "; the worst run alone {up} up" if held.alone else ""
        verdict = " — too little" if held.lift_share > 1 else ""
        found.append(
            Fact(
                "Lifted, cold" if up else "Pressed down, cold",
                Say("{draws}" if up else "{lift}", values),
                Why(
                    rule,
                    Say("{lift} " + ("up" if held.lift_n >= 0 else "down") + " together" + worst, values),
                    METHOD + "6",
                ),
            )
        )
        if up:
            found.append(
                Fact(
                    "Held down by" + verdict,
                    Say("{grip}", values),
                    Why(
                        "what its sides grip, embedded perimeter times depth times skin friction (a sixth of the bearing, 500 psf at most), and a footing's weight",
                        Say(deep + ": {grip}, of which {times} the lift is asked", values),
                        METHOD + "6",
                    ),
                )
            )
    return found
