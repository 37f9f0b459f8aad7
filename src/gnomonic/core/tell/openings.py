"""Gates, crossings and wind in words: facts with what stands behind each, the order in which a gate is hung and a crossing is built."""

import math

from gnomonic.core.finish.hanging import HungGate
from gnomonic.core.haul.counts import rope_bought_m, second_wires
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.crossings import OverWater
from gnomonic.core.plan.model import Plan
from gnomonic.core.plan.wind import Blown
from gnomonic.core.say import Say, Values, Why
from gnomonic.core.tell.facts import METHOD, Fact

NOWHERE_M = 0.005
ACROSS = {
    "said": "as was said of it",
    "measured": "from measured points of other lines beside it",
    "": "not measured across the fence: taken as level there; lay a board to the side it opens to and type what it rises",
}
CASES = {"bare": "bare", "ice": "iced", "litter": "with litter caught"}


def way_words(gate: HungGate) -> str:
    """Which way round it hangs."""
    turn = gate.turn
    if not gate.kind.leaves:
        return "no leaf: nothing swings"
    on = {"first": "on its first post", "last": "on its last post", "both": "on both posts"}[turn.hinge]
    return f"hung {on}, opening to the {turn.side}, " + ("level" if turn.lie == "level" else "with the land")


def gate_values(plan: Plan, gate: HungGate) -> Values:
    """Everything that is said of a gate."""
    low, high = gate.hinges_m
    worst = gate.turn.worst
    lowest = max(gate.turn.swings, key=lambda s: s.bottom_m)
    return {
        "name": gate.name,
        "at": (gate.at_m, "station"),
        "leaf": (gate.leaf_m, "cut"),
        "leaf_high": (gate.high_m / gate.kind.stacked, "cut"),
        "clear": (gate.clear_m, "cut"),
        "centres": (gate.opening_m, "cut"),
        "tape": (gate.slope_tape_m, "cut"),
        "first": (gate.posts_m[0], "cut"),
        "last": (gate.posts_m[1], "cut"),
        "hinge_gap": (gate.kind.hinge_gap_m, "gap"),
        "latch_gap": (gate.kind.latch_gap_m, "gap"),
        "grade": (abs(gate.grade), "grade"),
        "up": (lowest.bottom_m, "gap"),
        "least": (gate.clearance_m, "gap"),
        "highest": (lowest.highest_m, "gap"),
        "open": (math.degrees(lowest.at_rad), "angle"),
        "along": (lowest.at_m, "station"),
        "gap": (gate.turn.gap_m, "gap"),
        "gap_at": (worst.gap_at_m, "station"),
        "tip": (worst.tip_gap_m, "gap"),
        "top": (gate.top_m, "cut"),
        "fence": (plan.fence_height_m, "cut"),
        "most": (gate.most_gap_m, "gap"),
        "low": (low, "cut"),
        "high": (high, "cut"),
        "apart": (high - low, "cut"),
        "weight": (gate.weight_n, "force"),
        "pull": (gate.hinge_n, "force"),
        "moment": (gate.moment_nm, "moment"),
        "across": (abs(gate.across[0]), "grade"),
        "thread": "as much thread above as below",
    }


def gate_facts(plan: Plan, gate: HungGate) -> list[Fact]:
    """What a gate's sheet says."""
    v, kind = gate_values(plan, gate), gate.kind
    panes = f"{kind.panes} × " if kind.panes > 1 else ""
    room = "{hinge_gap} at " + ("each hinge" if kind.panes > 1 else "the hinge") + ", {latch_gap} at the latch"
    found = []
    if kind.leaves:
        high = (
            f"{kind.stacked} leaves of {{leaf_high}}, one above the other" if kind.stacked > 1 else "{leaf_high} high"
        )
        state = (
            "measured"
            if gate.gate.measured
            else "as sold: measure it before its opening is set out"
            if gate.made
            else "what fits the opening that was staked"
        )
        found.append(
            Fact(
                "Leaf",
                Say(panes + "{leaf} long, " + high, v),
                Why(state, Say("about {weight} a leaf", v), "common practice; mass from memory"),
            )
        )
    rule = (
        f"clear = leaves + room for hinges and latch ({room})"
        if kind.leaves
        else "what is passed lies between the faces of the posts"
    )
    found += [
        Fact("Clear between faces", Say("{clear}, level", v), Why("the opening is measured between the posts’ faces, level", Say(rule + ": {clear}", v), "common practice")),
        Fact("Between post centres", Say("{centres}, level; {tape} along the ground", v), Why("centres = clear + half of both posts; stations are post centres", Say("{clear} + ({first} + {last}) / 2 = {centres}; the ground rises {grade} over it", v), METHOD + "13")),
        Fact("Posts across", Say("{first} and {last}", v), Why("a gate post is one size bigger than a terminal", Say("it carries its leaf besides the pull"), "common practice")),
    ]  # fmt: skip
    if not kind.leaves:
        return found
    swept = (
        "the highest ground under its swing rises {highest} over the hinge’s, {along} along the leaf, opened {open}"
        if v["highest"] != (0.0, "gap")
        else "nowhere does the ground it swings over rise over the hinge’s"
    )
    found += [
        Fact("Which way round", Say(way_words(gate)), Why("least left under it, then level, then lowest, unless it was said", Say(f"of {len(gate.turns)} ways", v), METHOD + "13")),
        Fact("Bottom over the hinge’s ground", Say("{up}", v), Why(swept + "; and {least} clear", Say("{highest} + {least} = {up}", v), METHOD + "13")),
        Fact("Under it when shut", Say("{gap} at most, {tip} under its tip", v), Why("measured ground under the closed leaf, at every break of it", Say("{gap} lies {gap_at} along; {most} is allowed", v), METHOD + "13")),
        Fact("Its head over the ground, shut", Say("{top} at the least", v), Why("a level leaf on a slope is lower at its upper end", Say("the fence beside it is {fence}", v), METHOD + "13")),
        Fact("Ground across", Say("rises {across} to the " + ("left" if gate.across[0] >= 0 else "right") if gate.across[1] else "not measured", v), Why(ACROSS[gate.across[1]], Say("{across}", v), METHOD + "13")),
        Fact("Hinge pins", Say("{low} and {high} over the ground at the post", v), Why("lower pin up, upper pin down, {thread}".replace("{thread}", "as much thread above as below"), Say("{apart} apart", v), "common practice")),
        Fact("Pull of the upper hinge", Say("{pull}, and the lower pushes as much", v), Why("the leaf’s weight at its middle over the hinges’ distance", Say("{weight} · {leaf} / 2 / {apart} = {pull}; nobody riding on it is reckoned", v), METHOD + "14")),
        Fact("Its post is turned by", Say("{moment}", v), Why("weight · (half the leaf, the hinge’s room and half the post), whichever way it stands; opened it adds to the fence’s pull", Say("taken as a pull at the upper hinge in what the post holds", v), METHOD + "14")),
    ]  # fmt: skip
    extra = [m for b, m in second_wires(plan) if any(abs(b.end.stations_m[0] - at) < 1e-3 for at in gate.hinge_posts_m)]
    if extra:
        wire: Values = {"wire": (extra[0], "station")}
        found.append(Fact("Braced both ways", Say("a second wire of {wire} behind " + ("each hinge post" if len(extra) > 1 else "the hinge post"), wire), Why("the first wire holds the fence’s pull and goes slack under the leaf: the second runs from the hinge post’s head to the brace post’s foot", Say("{wire}", wire), "common practice")))  # fmt: skip
    return found


def gate_order(plan: Plan, gate: HungGate) -> list[Say]:
    """How it is hung, in order, with its numbers."""
    values = gate_values(plan, gate)
    return [Say(text, values) for text in gate.kind.order]


def crossing_values(plan: Plan, over: OverWater) -> Values:
    """Everything that is said of a crossing."""
    c = over.built
    return {
        "name": over.name,
        "span": (c.section.span_m, "cut"),
        "sag": (c.sag_m, "cut"),
        "head": (plan.fence_height_m, "cut"),
        "rope": c.cable.title,
        "long": (rope_bought_m(plan, over), "station"),
        "hangs": (c.rope_m, "cut"),
        "back": (c.cable.back_m, "gap"),
        "torque": (c.cable.torque_nm, "torque"),
        "flap": c.flap.title,
        "metres": (c.hung_m, "station"),
        "drop": (c.drop_m, "cut"),
        "drop_most": (c.drop_most_m, "cut"),
        "load": (c.weight_n_m, "load"),
        "rest": (c.rest_n, "force"),
        "rest_end": (c.rest_end_n, "force"),
        "break": (c.cable.break_n, "force"),
        "flood": (c.flood_m, "depth"),
        "speed": (c.speed_m_s, "speed"),
        "wet": (c.wet_m2, "area"),
        "drag": (c.drag_n, "force"),
        "flood_end": (c.at_first_n, "force"),
        "posts": (c.posts_n, "force"),
        "stands": (c.rope_stands_n, "force"),
        "first": (c.first_n, "force"),
        "nose": (c.nose_n_m, "load"),
        "wanted": (c.wanted_nose_n_m, "load"),
        "opens": (c.rules.nose_m, "gap"),
        "under": (c.rules.under_m, "gap"),
    }


def crossing_facts(plan: Plan, over: OverWater) -> list[Fact]:
    """What a crossing's sheet says."""
    c, v, way = over.built, crossing_values(plan, over), METHOD + "15"
    ties = f"{c.ties} ties of {c.tie_gauge:g} gauge soft wire, one strand each"
    after = "before the flood that was reckoned" if c.first_n < c.drag_n else "above the flood that was reckoned"
    known = "as was said" if c.flood_said else "taken: nobody has said how high it comes"
    rules = c.rules
    wood = all(p is not None and p.rule.material == "wood" for p in map(plan.post_at, (over.at_m, over.to_m)))
    bending = ", and their own bending" if wood else "; what bends posts that are not wood is not known"
    return [
        Fact("Between post centres", Say("{span}, level", v), Why("the fabric ends at a braced terminal on each bank, clear of the water", Say(f"{over.channels} channels under one rope" if over.channels > 1 else "nothing stands in the channel"), "common practice")),
        Fact("Rope", Say("{rope}: {long}", v), Why("the thinnest that holds at rest and in flood with its factors", Say("{hangs} hang, twice round each post, {back} turned back at both ends; it breaks at {break}", v), "strength from memory")),
        Fact("Made fast", Say(f"{c.cable.clips} clips at each end, {{back}} turned back", v), Why("the saddle on the live side, the U on the dead end; nuts to {torque}, again after a week".replace("{torque}", "the torque"), Say("{torque} a nut", v), "published wire-rope clip table, from memory")),
        Fact("Sag", Say("{sag} in the middle", v), Why("a slacker rope pulls less", Say(f"{c.sag_m / c.section.span_m * 100:.0f} % of the span", v), "common practice")),
        Fact("Hangs from it", Say("{flap}: {metres} in all, {drop_most} at the longest", v), Why("the lightest that stock can’t lean through, down to {under} over the bed".replace("{under}", "a hand"), Say("{load} on the rope", v), "common practice")),
        Fact("Stock leaning", Say("{nose} opens it {opens} at its foot", v), Why("W·½·sin θ against a push at two thirds of its height", Say("they turn away from {wanted}", v), way)),
        Fact("Pull at rest", Say("{rest_end} at its higher end, {rest} level", v), Why("w·L²/8f, with the slope of its ends", Say(f"with {rules.rest_factor:g} times it must stay under {rules.clip_share:.0%} of {{break}}", v), way)),
        Fact("Flood", Say("{flood} over the bed, {speed}", v), Why(known, Say("look for drift in the bushes; ask who has seen it"), "the fencer; else from memory")),
        Fact("It pushes", Say("{drag} on {wet} of what hangs, shut by drift", v), Why("½·ρ·Cd·A·V²: a mat of drift is solid; a soaked post’s buoyancy is not reckoned", Say(f"½ · 1000 · {rules.drag:g} · {{wet}} · V² = {{drag}}", v), way)),
        Fact("Holds across", Say("posts {posts} together, rope {stands}", v), Why("both posts at the rope’s height in their soil with the factor" + bending + "; the rope with its own", Say("the weaker is what must not go"), way)),
        Fact("Lets go first", Say(ties + ": {first}", v), Why("on purpose, " + after, Say(f"at most {rules.first_share:.0%} of the weaker of posts and rope; what lets go hangs from a keeper on one bank", v), way)),
        Fact("Rope then", Say("{flood_end} at its higher end", v), Why("the push across and what hangs, together; its sag is taken to stay", Say("the second wire in the panel behind each post takes it"), way)),
    ]  # fmt: skip


def crossing_order(plan: Plan, over: OverWater) -> list[Say]:
    """How a crossing is built, in order."""
    v, c = crossing_values(plan, over), over.built
    return [
        Say(
            "Set and brace a terminal on each bank, clear of the highest water you know of; a second wire in each panel, from the terminal’s head to the brace post’s foot: the rope pulls the other way. End the fabric there.",
            v,
        ),
        Say(
            "Rope of {long}: twice round each post at its head, {head} over the ground, in a notch; draw it up until it sags {sag} in the middle, {span} between centres.",
            v,
        ),
        Say(
            f"{c.cable.clips} clips at each end: U on the dead end, saddle on the live side, {{back}} turned back; nuts to {{torque}}, again when it has carried a week.",
            v,
        ),
        Say(
            f"Hang {{flap}}, {{metres}} in all, {{under}} over the bed, each by its own ring or chain, the whole from {c.ties} single ties of {c.tie_gauge:g} gauge soft wire: they break first.",
            v,
        ),
        Say(
            "A keeper chain from one end of what hangs to the post on that bank, slack: what lets go is found there and hung again.",
            v,
        ),
    ]


def wind_said(fence: Fence, blown: Blown) -> Say:
    """What a gust does to a line post."""
    values: Values = {
        "push": (blown.push_n, "force"),
        "at": (blown.at_m, "cut"),
        "has": (min(blown.has_n, blown.stands_n or blown.has_n), "force"),
        "need": (blown.push_n * blown.factor, "force"),
        "speed": (blown.face.speed_m_s, "speed"),
        "share": (blown.face.solidity, "share"),
        "bay": (blown.bay_m, "station"),
    }
    return Say(
        f"{CASES[blown.face.case]}, {{share}} covered, {{speed}}: {{push}} on {{bay}} of it, {{at}} up; it should hold {{need}} and holds {{has}}",
        values,
    )
