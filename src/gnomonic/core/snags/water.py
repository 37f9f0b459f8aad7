"""Snags of running water: what no rope crosses, crossings that would not hold or give way in the wrong place."""

from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.crossings import OverWater, Water
from gnomonic.core.plan.holds import in_soil
from gnomonic.core.plan.model import Plan
from gnomonic.core.plan.open_ends import wood_stands_n
from gnomonic.core.say import Say, Values
from gnomonic.core.snags.snag import Remedy, Snag

PAGE = "openings"
ROUND_POSTS_M = 0.05
STEP_M, DEEPEST_M, MOST_STEPS = 0.1524, 1.6, 12


def water_snags(fence: Fence, plan: Plan) -> list[Snag]:
    """Every snag of the water on a line."""
    found = [s for water in plan.waters if (s := _water(plan, water))]
    return found + [s for over in plan.crossings for s in _crossing(fence, plan, over)]


NOT_CROSSED = {
    "along": (
        "{name} takes {long} of the line",
        "a rope spans {most} at most here: where it runs along, move the line to one bank; where it crosses, cross where it is narrower",
    ),
    "gate": (
        "A gate hangs in {name} at {at}, or so near that no fence stands between",
        "move the gate: both banks want a braced post",
    ),
    "corner": (
        "The line turns in {name} at {at}",
        "a rope runs straight from bank to bank: move the corner out of the water",
    ),
    "end": ("The line begins or ends in {name} at {at}", "begin and end it on a bank, or run it across"),
    "join": ("Another line stands in {name} at {at}", "join it on a bank: nothing stands in the channel"),
}


def _water(plan: Plan, water: Water) -> Snag | None:
    """Water that is not crossed: posts and fabric are in it."""
    if water.why == "narrow":
        here: Values = {"name": water.name, "wide": (water.to_m - water.from_m, "cut"), "at": (water.at_m, "station")}
        hang = Remedy(Say("cross it by a rope"), {"do": "say_crossing", "at_m": round(water.at_m, 3), "how": "hung"})
        over = Remedy(Say("it stays so"), {"do": "say_crossing", "at_m": round(water.at_m, 3), "how": "over"})
        said = Say("no wider than a bay steps over: keep the bottom wire out of it, a short flap below", here)
        return Snag("water-narrow", False, 1.0, water.at_m, Say("The fabric goes over {name} at {at}, {wide} from post to post at least", here), said, (hang, over), PAGE)  # fmt: skip
    if water.why not in NOT_CROSSED:
        return None
    values: Values = {
        "name": water.name,
        "at": (water.at_m, "station"),
        "long": (water.to_m - water.from_m, "station"),
        "most": (water.most_m, "station"),
    }
    title, why = NOT_CROSSED[water.why]
    return Snag("water-" + water.why, True, 65.0, water.at_m, Say(title, values), Say(why, values), (), PAGE)


def _crossing(fence: Fence, plan: Plan, over: OverWater) -> list[Snag]:
    """What is wrong with a crossing, and what nobody has said of it."""
    c, found = over.built, []
    at = round(over.middle_m, 3)
    values: Values = {
        "name": over.name, "at": (at, "station"), "flood": (c.flood_m, "depth"), "heads": (min(c.section.heads_m) - c.section.lowest_m, "depth"),
        "pull": (c.rest_end_n, "force"), "rope": c.cable.title, "first": (c.first_n, "force"), "posts": (c.posts_n, "force"), "stands": (c.rope_stands_n, "force"),
        "drag": (c.drag_n, "force"), "nose": (c.nose_n_m, "load"), "wanted": (c.wanted_nose_n_m, "load"), "span": (c.section.span_m, "station"),
    }  # fmt: skip
    say = {"do": "say_crossing", "at_m": at}
    if c.over_posts:
        why = Say(
            "what hangs there is under water to its rope: it goes with the first of it. Cross elsewhere, or let the fence lie down there",
            values,
        )
        found.append(
            Snag(
                "flood-over",
                True,
                60.0,
                at,
                Say("A flood of {flood} stands over the posts at {name} ({heads})", values),
                why,
                (),
                PAGE,
            )
        )
    elif not c.fails_first:
        why = Say(
            "even the lightest ties let go only at {first} across; the posts hold {posts}, the rope {stands}: the posts would go first",
            values,
        )
        found.append(
            Snag(
                "flood-posts",
                True,
                45.0,
                at,
                Say("At {name} the posts would go before what hangs between them", values),
                why,
                _deeper(fence, plan, over),
                PAGE,
            )
        )
    if not c.rest_holds:
        thinner = Remedy(Say("more sag: a tenth of the span"), {**say, "sag": 0.1})
        found.append(
            Snag(
                "rope",
                True,
                45.0,
                at,
                Say("The rope over {name} is pulled {pull} by what hangs from it", values),
                Say(
                    "a {rope} holds less than that with its factor: a thicker one, more sag, or a lighter flap", values
                ),
                (thinner,),
                PAGE,
            )
        )
    level = c.section.lowest_m + c.flood_m
    if c.flood_said and min(c.section.banks_m) < level - ROUND_POSTS_M:
        values["deep"] = (level - min(c.section.banks_m), "depth")
        why = Say(
            "its water is wider than the rope spans, or something stands in the way: fence beside the posts is in it, and catches drift",
            values,
        )
        found.append(Snag("flood-wide", False, 15.0, at, Say("A flood of {flood} at {name} stands {deep} deep round its posts", values), why, (), PAGE))  # fmt: skip
    if not c.heavy:
        heavier = Remedy(Say("the heaviest flap"), {**say, "flap": "heavy"})
        more = [] if c.flap_key == "heavy" else [heavier]
        found.append(
            Snag(
                "flap-light",
                False,
                8.0,
                at,
                Say("Stock can lean through what hangs over {name}", values),
                Say("{nose} opens it a foot; {wanted} is what they push with", values),
                tuple(more),
                PAGE,
            )
        )
    if not c.flood_said:
        ways = tuple(
            Remedy(Say("{high} over the bed", {"high": (m, "depth")}), {**say, "flood_m": m}) for m in (0.6096, 0.9144)
        )
        found.append(
            Snag(
                "flood-unknown",
                False,
                0.35,
                at,
                Say("How high does {name} come?", values),
                Say("{flood} over its bed is taken: look for drift in the bushes, ask who has seen it", values),
                ways,
                PAGE,
            )
        )
    return found


def _deeper(fence: Fence, plan: Plan, over: OverWater) -> tuple[Remedy, ...]:
    """Posts so deep in concrete that the ties go before they do; none where their wood breaks first."""
    high, c = plan.fence_height_m, over.built
    posts = [p for at in (over.at_m, over.to_m) if (p := plan.post_at(at))]
    for k in range(1, MOST_STEPS):
        deep = max(p.depth_m for p in posts) + k * STEP_M
        if deep > DEEPEST_M:
            break
        stands = []
        for post in posts:
            at, wide = (
                in_soil(fence, plan, post),
                post.rule.hole_m or post.rule.diameter_m + plan.system.rule("footing_round_m"),
            )
            held = at.like(deep, wide).ultimate_n(high) / fence.decisions.hold_factor
            stands.append(min(held, wood_stands_n(plan, post, high)))
        if 2 * min(stands) * c.rules.first_share >= c.first_n:
            edit = {
                "do": "ask_post",
                "at_m": round(over.at_m, 3),
                "also": [round(over.to_m, 3)],
                "depth_m": round(deep, 3),
                "fill": "concrete",
            }
            return (Remedy(Say("its posts {deep} deep in concrete", {"deep": (deep, "depth")}), edit),)
    return ()
