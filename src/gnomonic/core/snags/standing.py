"""Snags of what posts must hold: ends dragged at the foot or drawn up, bends pulled over, posts lifted out of dips."""

import math
from dataclasses import dataclass

from gnomonic.core.brace.statics import braced
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.braces import ea_ratio
from gnomonic.core.plan.holds import SOLID
from gnomonic.core.plan.model import Holding, Plan, Post
from gnomonic.core.say import Say, Value
from gnomonic.core.snags.snag import Remedy, Snag
from gnomonic.core.soil.soils import soils
from gnomonic.core.units import INCH_M

DEEPEST_M = 1.5
STEP_M = 2 * INCH_M
MOST_REMEDIES = 3
AT_FOOT_M = 0.01


def stand_snags(fence: Fence, plan: Plan) -> list[Snag]:
    """Every post that does not stay put; ends that fail alike stand together, the worst of them named."""
    bad = [h for h in plan.holds if not h.holds and not plan.posts[h.post].shared]
    found = [_fallen(fence, plan, h) for h in bad if not h.stands]
    ends = [h for h in bad if h.stands and h.why in ("ends", "brace")]
    for asks in ("side", "lift"):
        own = [
            h
            for h in ends
            if not _only_bent(h) and (_side_fails(h) if asks == "side" else h.lift_share > 1 and not _side_fails(h))
        ]
        if own:
            found.append(_ends(fence, plan, own, asks))
    found += [_bent(plan, h) for h in ends if h.bends and h.side_share <= 1 and not h.leans]
    found += [_passing(fence, plan, h) for h in bad if h.stands and h.why in ("dip", "bend", "hump")]
    return [*found, *_unknown(fence, plan, bool(bad))]


def _side_fails(held: Holding) -> bool:
    return held.side_share > 1 or held.leans or held.bends


def _only_bent(held: Holding) -> bool:
    return held.bends and held.side_share <= 1 and not held.leans


def _bent(plan: Plan, held: Holding) -> Snag:
    """A post that the ground holds and the pull breaks."""
    post = plan.posts[held.post]
    values: dict[str, Value] = {
        "at": (post.station_m, "station"),
        "share": (held.bend_pa / held.breaks_pa, "share"),
        "wide": (post.rule.diameter_m, "cut"),
    }
    title = Say("The {role} post at {at} is bent to {share} of what it stands", values | {"role": post.role})
    return Snag(
        "bent",
        False,
        40.0,
        post.station_m,
        title,
        Say("{wide} across: a stouter post, or another panel behind it", values),
        go="stand",
    )


def _words(held: Holding) -> dict[str, Value]:
    return {
        "asked": (held.asked_side_n, "force"),
        "has": (held.code_n if held.method == "code" else held.has_n, "force"),
        "need": (held.asked_side_n * (1.0 if held.method == "code" else held.factor), "force"),
        "lift": (held.asked_lift_n, "force"),
        "down": (held.asked_lift_n * held.factor, "force"),
        "grip": (held.grip_n, "force"),
        "lean": (held.lean_m, "gap"),
        "stop": (held.stop_m, "gap"),
        "deep": (held.at.depth_m, "depth"),
        "times": f"{held.factor:g} times",
        "soil": held.at.soil.words + (", wet" if held.at.wet else ""),
    }


def _ends(fence: Fence, plan: Plan, own: list[Holding], asks: str) -> Snag:
    """Posts of ends that fail one way, by the worst of them."""
    worst = max(own, key=lambda h: round(max(h.side_share, h.lean_m / h.stop_m) if asks == "side" else h.lift_share, 6))
    post = plan.posts[worst.post]
    values = {**_words(worst), "at": (post.station_m, "station"), "name": post.name}
    many = len(own)
    who = "The {role} post at {at}" if many == 1 else f"{many} end posts, the worst at {{at}}"
    values["role"] = "end" if post.role in ("end", "line") else post.role
    if asks == "side" and worst.side_share > 1:
        push = "{asked} push at its foot" if worst.side_at_m < AT_FOOT_M else "{asked} pull it over"
        title = f"{who}: {push}, {{has}} is what it holds"
        method = (
            "that is the building code's method"
            if worst.method == "code"
            else "with {times} on the pull it should hold {need}"
        )
        consequence = (
            f"{{deep}} deep in {{soil}}: {method}; it moves about {{lean}} at the ground in the first hard winter"
        )
    elif asks == "side":
        title = who + (" leans about {lean} at the ground" if many == 1 else " leaning about {lean} at the ground")
        consequence = (
            "a corner that has moved {stop} is pulled no further, and the wire goes slack; {deep} deep in {soil}"
        )
    else:
        title = who + ": {lift} lift it, {grip} is what holds it down"
        consequence = "{deep} deep in {soil}: with {times} it should be {down}; what its braces lift draws it out, a little each winter"
    weight = 30.0 * min(4.0, max(worst.side_share, worst.lean_m / worst.stop_m, worst.lift_share))
    return Snag("foot" if asks == "side" else "uplift", False, weight, post.station_m, Say(title, values), Say(consequence, values), _end_remedies(plan, own), "stand")  # fmt: skip


@dataclass(frozen=True, slots=True)
class Way:
    """One way to make posts hold: how deep, in concrete or as they are, with how many panels behind."""

    depth_m: float | None
    concrete: bool
    panels: int | None

    def words(self, many: int) -> Say:
        """What it is, said of one post or of all that fail."""
        parts = (
            [f"{self.panels} panels at each of their ends" if many > 1 else f"{self.panels} panels"]
            if self.panels
            else []
        )
        them = f"all {many} " if many > 1 else ("the post " if self.panels else "it ")
        set_it = "set " + them + ("{deep} deep" if self.depth_m else "") + (" in concrete" * self.concrete)
        if self.depth_m or self.concrete:
            parts.append(set_it.replace("  ", " "))
        return Say(", ".join(parts), {"deep": (self.depth_m or 0.0, "depth")})


def would_hold(held: Holding, depth_m: float, wide_m: float, share: float = 1.0) -> bool:
    """Whether the post would hold, so deep and bearing so wide, with a share of what it is asked now.

    On the safe side: its board counts as it does now, a footing weighs for its depth and not for its width.
    """
    at = held.at.like(depth_m, wide_m)
    grip = at.up_n + (held.grip_n - held.at.up_n) * depth_m / held.at.depth_m if held.at.depth_m > 0 else at.up_n
    e, asked = held.side_at_m, held.asked_side_n * share
    has, need = (
        (at.allowed_n(e), asked) if held.method == "code" else (at.ultimate_n(e) + held.board_n, asked * held.factor)
    )
    side = has >= need
    lean = asked == 0 or at.lean(asked, e).ground_m * held.left <= held.stop_m
    return side and lean and grip >= max(0.0, held.asked_lift_n) * share * held.factor


def _deep_enough(held: Holding, wide_m: float, share: float = 1.0) -> float | None:
    """The least depth in 2 in steps that holds, from what it has down to 5 ft."""
    if would_hold(held, held.at.depth_m, wide_m, share):
        return held.at.depth_m
    depth = STEP_M * math.floor(held.at.depth_m / STEP_M + 1e-6)
    while depth < DEEPEST_M:
        depth += STEP_M
        if would_hold(held, depth, wide_m, share):
            return depth
    return None


def footing_m(plan: Plan, post: Post) -> float:
    """How wide the footing is that a post asked into concrete gets."""
    return post.rule.hole_m or post.rule.diameter_m + plan.system.rule("footing_round_m")


def _ways(plan: Plan, helds: list[Holding]) -> list[Way]:
    """Ways that make every one of these posts hold, the least work first: deeper, in concrete, more panels and what they still need."""
    found: list[Way] = []
    most = max((_panels_at(plan, plan.posts[h.post]) for h in helds), default=0)
    solid = all(plan.posts[h.post].fill in SOLID for h in helds)
    for panels in (None, *range(most + 1, 4)) if most else (None,):
        for concrete in (False,) if solid else (False, True):
            depths = [
                _deep_enough(
                    h, footing_m(plan, plan.posts[h.post]) if concrete else h.at.wide_m, _share(plan, h, panels)
                )
                for h in helds
            ]
            if all(d is not None for d in depths):
                deepest = max(d for d in depths if d is not None)
                same = all(d is not None and d <= h.at.depth_m + 1e-9 for d, h in zip(depths, helds, strict=True))
                found.append(Way(None if same else deepest, concrete, panels))
        if len(found) >= 2 or (found and panels):
            break
    return found[:MOST_REMEDIES]


def _panels_at(plan: Plan, post: Post) -> int:
    return max(
        (b.end.panels for b in plan.braces if plan.post_at(b.end.stations_m[0]) is post and not b.end.shared), default=0
    )


def _share(plan: Plan, held: Holding, panels: int | None) -> float:
    """What is left at the post's foot with so many panels of what there is now."""
    if panels is None:
        return 1.0
    shares = [1.0]
    for brace in plan.braces:
        if (
            plan.post_at(brace.end.stations_m[0]) is plan.posts[held.post]
            and brace.statics.foot_shear_n
            and not brace.end.crossed
        ):
            first = brace.panels[0]
            grade = first.rise_m / first.level_m
            more = braced(brace.pull_n, brace.pull_height_m, grade, [first] * panels, ea_ratio(plan.section, "h"))
            if more.foot_shear_n:
                shares.append(more.foot_shear_n[0] / brace.statics.foot_shear_n[0])
    return max(shares[1:], default=1.0)


def _remedies(plan: Plan, helds: list[Holding]) -> list[Remedy]:
    """The ways as edits of all these posts at once."""
    stations = [round(plan.posts[h.post].station_m, 3) for h in helds]
    found = []
    for way in _ways(plan, helds):
        edit: dict[str, object] = {"do": "ask_post", "at_m": stations[0], "also": stations[1:]}
        if way.depth_m:
            edit["depth_m"] = round(way.depth_m, 4)
        if way.concrete:
            edit["fill"] = "concrete"
        if way.panels:
            edit["panels"] = way.panels
        found.append(Remedy(way.words(len(helds)), edit))
    return found


def _end_remedies(plan: Plan, own: list[Holding]) -> tuple[Remedy, ...]:
    """What makes all of them hold; where nothing does, a board is the least that helps."""
    found = _remedies(plan, own)
    stations = [round(plan.posts[h.post].station_m, 3) for h in own]
    if not found and any(_side_fails(h) and not plan.posts[h.post].block for h in own):
        words = Say(
            "breast boards against them (helps, does not do it alone)"
            if len(own) > 1
            else "a breast board against it (helps, does not do it alone)"
        )
        found = [Remedy(words, {"do": "ask_post", "at_m": stations[0], "also": stations[1:], "block": True})]
    return tuple(found[:MOST_REMEDIES])


def _fallen(fence: Fence, plan: Plan, held: Holding) -> Snag:
    post = plan.posts[held.post]
    brace = next((b for b in plan.braces if not b.statics.stands and plan.post_at(b.end.stations_m[0]) is post), None)
    why = Say("it belongs to another line that ends on this post: see there")
    ways: tuple[Remedy, ...] = ()
    if brace is not None:
        at = round(brace.end.stations_m[0], 3)
        edit = {"do": "brace_end", "at_m": at, "ahead": brace.end.at_start, "kind": brace.kind, "lay": "ground"}
        why, ways = Say(brace.statics.because), (Remedy(Say("lay its rail along the ground"), edit),)
    return Snag(
        "brace-falls",
        True,
        80.0,
        post.station_m,
        Say("The brace at {at} does not stand", {"at": (post.station_m, "station")}),
        why,
        ways,
        "stand",
    )


def _passing(fence: Fence, plan: Plan, held: Holding) -> Snag:
    """A post that fabric passes in a dip, over a hump or round a bend."""
    post = plan.posts[held.post]
    values = {**_words(held), "at": (post.station_m, "station"), "kind": post.rule.title}
    ways: list[Remedy] = []
    lifted = held.lift_share > 1
    if lifted:
        title, code = "{lift} lift the post in the dip at {at}, {grip} is what holds it", "lifted"
        text = "{kind}, {deep} deep in {soil}; with {times} it should be {down}. Tight wire draws it out; tie every wire on it and three posts each way, and fasten the highs first"
    else:
        values["turn"] = (abs(post.turn_deg), "angle")
        title, code = (
            "The bend of {turn} at {at} pulls its post sideways by {asked}, {has} is what it holds",
            "bend-post",
        )
        text = "{kind}, {deep} deep in {soil}: it leans to the inside, about {lean} at the ground, and the wire behind it goes slack"
    firm = plan.system.firm_post
    at = round(post.station_m, 3)
    if post.rule.material == "steel" and firm != post.kind and would_hold(held, plan.section.posts[firm].depth_m, plan.section.posts[firm].diameter_m):  # fmt: skip
        ways.append(
            Remedy(Say(f"{plan.section.posts[firm].title} there"), {"do": "ask_post", "at_m": at, "kind": firm})
        )
    ways += _remedies(plan, [held])
    ways.append(Remedy(Say("end the run there"), {"do": "end_run", "at_m": at}))
    weight = 25.0 * min(4.0, max(held.lift_share, held.side_share, held.lean_m / held.stop_m))
    return Snag(
        code,
        False,
        weight,
        post.station_m,
        Say(title, values),
        Say(text, values),
        tuple([*ways[: MOST_REMEDIES - 1], ways[-1]] if len(ways) > MOST_REMEDIES else ways),
    )


def _unknown(fence: Fence, plan: Plan, bad: bool) -> list[Snag]:
    """The soil was not said: everything about posts rests on a guess on the safe side."""
    if fence.soil.soil != "unknown" or not plan.holds:
        return []
    unsaid = [h for h in plan.holds if h.at.soil is soils()["unknown"]]
    if not unsaid:
        return []
    ways = tuple(
        Remedy(Say(f"it is {soils()[key].words}"), {"do": "say_soil", "soil": key}) for key in ("loam", "sand", "clay")
    )
    return [
        Snag(
            "soil",
            False,
            500.0 if bad else 2.0,
            0.0,
            Say("The soil is not known: posts are reckoned in loose sand"),
            Say(
                "a safe guess: what posts hold, lean and are lifted out of hangs on it; dig one hole and say what it is"
            ),
            ways,
        )
    ]
