"""Snags of running water: what no rope crosses, crossings that would not hold or give way in the wrong place."""

from gnomonic.core.finish.cable import cables
from gnomonic.core.finish.crossing import cross
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.crossings import OverWater, Water
from gnomonic.core.plan.holds import in_soil
from gnomonic.core.plan.model import Plan
from gnomonic.core.plan.open_ends import stands_across_n
from gnomonic.core.say import Say, Values
from gnomonic.core.snags.snag import Remedy, Snag

PAGE = "openings"
ROUND_POSTS_M = 0.05
SAGS = (0.1, 0.15, 0.2, 0.3)
FLOODS_M = (0.6096, 0.9144)
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
    "near": (
        "{name} at {at} lies so near the water before it that no fence stands between them",
        "one rope spans {most} at most, and not both: cross where they are one, or where there is ground for posts between them",
    ),
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
    c = over.built
    values: Values = {
        "name": over.name, "at": (over.middle_m, "station"), "flood": (c.flood_m, "depth"), "heads": (min(c.section.heads_m) - c.section.lowest_m, "depth"),
        "pull": (c.rest_end_n, "force"), "rope": c.cable.title, "first": (c.first_n, "force"), "posts": (c.posts_n, "force"), "stands": (c.rope_stands_n, "force"),
        "nose": (c.nose_n_m, "load"), "wanted": (c.wanted_nose_n_m, "load"),
    }  # fmt: skip
    found = (_first_to_go(fence, plan, over, values), _rope(over, values), _wide(over, values), _flap(over, values), _unknown(over, values))  # fmt: skip
    return [snag for snag in found if snag]


def _say(over: OverWater, **more: object) -> dict[str, object]:
    """The edit that says something of a crossing."""
    return {"do": "say_crossing", "at_m": round(over.middle_m, 3), **more}


def _first_to_go(fence: Fence, plan: Plan, over: OverWater, values: Values) -> Snag | None:
    """Posts that go under, or go before what hangs between them."""
    if over.built.over_posts:
        title = Say("A flood of {flood} stands over the posts at {name} ({heads})", values)
        why = Say(
            "what hangs there is under water to its rope: it goes with the first of it. Cross elsewhere, or let the fence lie down there",
            values,
        )
        return Snag("flood-over", True, 60.0, over.middle_m, title, why, (), PAGE)
    if over.built.fails_first:
        return None
    title = Say("At {name} the posts would go before what hangs between them", values)
    why = Say(
        "even the lightest ties let go only at {first} across; the posts hold {posts}, the rope {stands}: the posts would go first",
        values,
    )
    return Snag("flood-posts", True, 45.0, over.middle_m, title, why, _deeper(fence, plan, over), PAGE)


def _rope(over: OverWater, values: Values) -> Snag | None:
    """A rope pulled past what it holds at rest, with the first sag and the first rope that hold it."""
    c, ways = over.built, []
    if c.rest_holds:
        return None

    def holds(cable: str, sag: float) -> bool:
        return cross(c.section, c.rules, c.posts_n, c.flap_key, cable, c.flood_m, c.speed_m_s, sag).rest_holds

    now = c.sag_m / c.section.span_m
    if sag := next((s for s in SAGS if s > now + 1e-9 and holds(c.cable_key, s)), None):
        ways.append(Remedy(Say(f"more sag: {sag:.0%} of the span"), _say(over, sag=sag)))
    if cable := next((key for key in cables() if holds(key, now)), ""):
        ways.append(Remedy(Say("a {rope}", {"rope": cables()[cable].title}), _say(over, cable=cable)))
    title = Say("The rope over {name} is pulled {pull} by what hangs from it", values)
    why = Say("a {rope} holds less than that with its factor: a thicker one, more sag, or a lighter flap", values)
    return Snag("rope", True, 45.0, over.middle_m, title, why, tuple(ways), PAGE)


def _wide(over: OverWater, values: Values) -> Snag | None:
    """A flood that was said and stands round the posts."""
    section, level = over.built.section, over.built.section.lowest_m + over.built.flood_m
    if not over.built.flood_said or min(section.banks_m) >= level - ROUND_POSTS_M:
        return None
    deep: Values = {**values, "deep": (level - min(section.banks_m), "depth")}
    title = Say("A flood of {flood} at {name} stands {deep} deep round its posts", deep)
    why = Say(
        "its water is wider than the rope spans, or something stands in the way: fence beside the posts is in it, and catches drift",
        deep,
    )
    return Snag("flood-wide", False, 15.0, over.middle_m, title, why, (), PAGE)


def _flap(over: OverWater, values: Values) -> Snag | None:
    """What stock lean through."""
    if over.built.heavy:
        return None
    heavier = Remedy(Say("the heaviest flap"), _say(over, flap="heavy"))
    title = Say("Stock can lean through what hangs over {name}", values)
    why = Say("{nose} opens it a foot; {wanted} is what they push with", values)
    ways = () if over.built.flap_key == "heavy" else (heavier,)
    return Snag("flap-light", False, 8.0, over.middle_m, title, why, ways, PAGE)


def _unknown(over: OverWater, values: Values) -> Snag | None:
    """A flood nobody has said."""
    if over.built.flood_said:
        return None
    ways = tuple(Remedy(Say("{high} over the bed", {"high": (m, "depth")}), _say(over, flood_m=m)) for m in FLOODS_M)
    title = Say("How high does {name} come?", values)
    why = Say("{flood} over its bed is taken: look for drift in the bushes, ask who has seen it", values)
    return Snag("flood-unknown", False, 0.35, over.middle_m, title, why, ways, PAGE)


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
            stands.append(stands_across_n(fence, plan, post, at.like(deep, wide), high))
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
