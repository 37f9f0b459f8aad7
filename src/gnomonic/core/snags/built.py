"""Snags of what a hole told: posts that stopped short of their depth, and what pilot holes met."""

from gnomonic.core.job.fence import Fence
from gnomonic.core.log.events import SAME_DEPTH_M
from gnomonic.core.plan.holds import SOLID, in_soil
from gnomonic.core.plan.model import Holding, Plan, Post
from gnomonic.core.say import Say, Value
from gnomonic.core.snags.snag import Remedy, Snag
from gnomonic.core.snags.standing import footing_m, would_hold

MET = {"rock": "on rock", "root": "on a root", "water": "in water", "pipe": "on something buried", "soft": "in soft ground", "nothing": "", "": ""}  # fmt: skip
SHIFT_M = 0.3048


def short_share(plan: Plan, fence: Fence, post: Post) -> float:
    """What is left of a post's hold against being pushed over, of what it would have at its planned depth."""
    at = in_soil(fence, plan, post)
    e = plan.system.rule("push_share") * plan.fence_height_m
    planned = at.like(post.planned_m, at.wide_m).ultimate_n(e)
    return at.ultimate_n(e) / planned if planned else 1.0


def passes(plan: Plan, fence: Fence, post: Post) -> bool:
    """Whether a post as it was set does: it keeps enough of its hold, and the lost depth is not what makes it fail."""
    held = next((h for h in plan.holds if h.post == post.index), None)
    enough = short_share(plan, fence, post) >= plan.system.rule("short_hole_share")
    return enough and (held is None or held.holds or not would_hold(held, post.planned_m, held.at.wide_m))


def least_depth_m(plan: Plan, fence: Fence, post: Post) -> float:
    """The least depth at which a post may stop and does all the same, by the rule of ``passes``, to half an inch; its planned depth where
    nothing less does."""
    at = in_soil(fence, plan, post)
    e = plan.system.rule("push_share") * plan.fence_height_m
    held = next((h for h in plan.holds if h.post == post.index), None)
    least = plan.system.rule("short_hole_share") * at.like(post.planned_m, at.wide_m).ultimate_n(e)
    asked = held is not None and would_hold(held, post.planned_m, at.wide_m)

    def does(depth_m: float) -> bool:
        held_still = not asked or (held is not None and would_hold(held, depth_m, at.wide_m))
        return at.like(depth_m, at.wide_m).ultimate_n(e) >= least and held_still

    low, high = 0, int(post.planned_m / SAME_DEPTH_M)
    while low < high:  # holding grows with depth
        middle = (low + high) // 2
        low, high = (low, middle) if does(middle * SAME_DEPTH_M) else (middle + 1, high)
    return min(post.planned_m, low * SAME_DEPTH_M)


def short_holes(fence: Fence, plan: Plan) -> list[Snag]:
    """Every post that stands less deep than planned, unless that was accepted; pipes that a pilot hole met."""
    found = []
    for post in plan.posts:
        known = post.built
        if known is None:
            continue
        if known.pilot_met == "pipe" or known.met == "pipe":
            found.append(_buried(post))
        if post.planned_m - post.depth_m > SAME_DEPTH_M and not known.accepted:
            found.append(_short(fence, plan, post))
    return found


def _buried(post: Post) -> Snag:
    at: dict[str, Value] = {"at": (post.station_m, "station")}
    say = Say("stop: hand-dig round it, ask the marking service what it is before anything is driven there")
    return Snag("met-pipe", True, 1e5, post.station_m, Say("The hole at {at} met something buried", at), say)


def _log(post: Post, kind: str, line: str) -> dict[str, object]:
    return {
        "do": "log",
        "kind": kind,
        "line": line,
        "post": post.name,
        "at_m": post.built.at_m if post.built else post.station_m,
    }


def _short(fence: Fence, plan: Plan, post: Post) -> Snag:
    known = post.built
    assert known is not None
    ok, share = passes(plan, fence, post), short_share(plan, fence, post)
    held = next((h for h in plan.holds if h.post == post.index), None)
    values: dict[str, Value] = {
        "post": fence.id + post.name,
        "reached": (post.depth_m, "depth"),
        "planned": (post.planned_m, "depth"),
        "at": (post.station_m, "station"),
        "share": (share, "share"),
        "met": f" {MET[known.met]}" if MET[known.met] else "",
        "has": (held.has_n if held else 0.0, "force"),
        "asked": (held.asked_side_n if held else 0.0, "force"),
    }
    title = Say("{post} stopped at {reached} of {planned}{met}", values)
    loads = "; {asked} are asked of it, {has} is what it holds" if held and held.asked_side_n else ""
    if ok:
        text = "it keeps {share} of its hold" + loads + ": usually let pass"
    else:
        text = "it keeps {share} of its hold" + loads + ": not to be let pass as it is"
    return Snag(
        "short-hole",
        False,
        8.0 if ok else 60.0,
        post.station_m,
        title,
        Say(text, values),
        _ways(fence, plan, post, held, ok),
    )


def _ways(fence: Fence, plan: Plan, post: Post, held: Holding | None, ok: bool) -> tuple[Remedy, ...]:
    """Accept it, or what gives its hold back: concrete, a board, another place."""
    at, line = round(post.station_m, 3), fence.id
    accept = Remedy(Say("let it pass" if ok else "let it pass all the same"), _log(post, "accept", line))
    ways: list[Remedy] = []
    in_it = in_soil(fence, plan, post)
    e = plan.system.rule("push_share") * plan.fence_height_m
    need = in_it.like(post.planned_m, in_it.wide_m).ultimate_n(e) * plan.system.rule("short_hole_share")
    wide = in_it.ground.width_for_m(need, post.depth_m, e)
    footing = footing_m(plan, post)
    if post.fill not in SOLID and wide is not None and wide <= footing:  # as wide as the edit makes it
        values: dict[str, Value] = {"wide": (footing, "cut")}
        ways.append(Remedy(Say("concrete, {wide} across", values), {"do": "ask_post", "at_m": at, "fill": "concrete"}))
    if not post.block:
        ways.append(Remedy(Say("a breast board against it"), {"do": "ask_post", "at_m": at, "block": True}))
    if not post.fixed and not ok:
        aside = SHIFT_M if at + SHIFT_M < plan.course.length_m else -SHIFT_M
        shifted = (post.built.along_m if post.built else 0.0) + aside
        ways.append(
            Remedy(
                Say("give the hole up, dig again a foot on"),
                {**_log(post, "redug", line), "along_m": round(shifted, 4)},
            )
        )
    if not (post.built and post.built.cut):
        ways.append(Remedy(Say("cut its head and cap it"), _log(post, "cut", line)))
    return tuple([accept, *ways] if ok else [*ways[:3], accept])[:4]
