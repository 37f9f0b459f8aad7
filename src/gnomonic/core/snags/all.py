"""Snags: what the plan does not like, worst first, each with its place, its consequence and remedies that are edits."""

import math
from collections.abc import Sequence
from datetime import date

from gnomonic.core.demand.animals import Book, shipped
from gnomonic.core.ground.joined import Meeting
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Bay, Plan, posts_in
from gnomonic.core.say import Say
from gnomonic.core.setout.least_cost import BayGround
from gnomonic.core.snags.built import short_holes
from gnomonic.core.snags.gates import gate_snags
from gnomonic.core.snags.ground import ground_snags
from gnomonic.core.snags.hold import hold_snags
from gnomonic.core.snags.joins import join_snags
from gnomonic.core.snags.pulling import pull_snags
from gnomonic.core.snags.snag import Remedy, Snag
from gnomonic.core.snags.standing import stand_snags
from gnomonic.core.snags.water import water_snags
from gnomonic.core.snags.wind import wind_snags
from gnomonic.core.units import TAPE_M

WORTH_SAYING_M2 = 0.005
Values = dict[str, tuple[float, str] | str]


def snags(
    fence: Fence, plan: Plan, today: date, book: Book | None = None, meetings: Sequence[Meeting] = ()
) -> list[Snag]:
    """Every snag of a line on a day, worst first; ``book`` is the rule book of animals, the shipped one unless given.

    ``meetings`` are those of the job.
    """
    found = [
        *hold_snags(fence, plan, book or shipped()),
        *ground_snags(fence, plan, today),
        *join_snags(fence, meetings, today),
        *stand_snags(fence, plan),
        *gate_snags(fence, plan, book or shipped()),
        *water_snags(fence, plan),
        *wind_snags(fence, plan),
        *pull_snags(fence, plan),
        *short_holes(fence, plan),
        *_under_the_wire(fence, plan),
        *_forbidden(plan),
        *_ignored(fence, plan),
        *_rolls(fence, plan),
        *_bends(fence, plan),
        *_short_runs(plan),
        *_slopes(plan),
        *_short_posts(plan),
        *_rail_steps(plan),
    ]
    return sorted(found, key=lambda s: (not s.grave, -s.weight, s.at_m))


def _under_the_wire(fence: Fence, plan: Plan) -> list[Snag]:
    found = []
    for bay in plan.bays:
        ground = bay.ground
        if ground.fill_m2 > WORTH_SAYING_M2 and not _filled(fence, bay):
            found.append(_dip(fence, plan, bay, _no_post(plan, bay, ground.worst_gap_at_m)))
        if ground.cut_m2 > WORTH_SAYING_M2:
            at = ground.least_gap_at_m
            found.append(
                Snag(
                    "hump",
                    False,
                    fence.decisions.k_cut * ground.cut_m2,
                    at,
                    Say(_hump_words(fence, ground), {"gap": (abs(ground.least_gap_m), "gap"), "at": (at, "station")}),
                    Say(
                        "dig {area} side-on deeper than planned"
                        if fence.decisions.gap_max_m < 0
                        else "dig {area} side-on, or the bottom edge drags",
                        {"area": (ground.cut_m2, "area")},
                    ),
                    ()
                    if _no_post(plan, bay, at)
                    else (Remedy(Say("post on the hump"), {"do": "place_post", "at_m": round(at, 3)}),),
                )
            )
    return found


def _no_post(plan: Plan, bay: Bay, at_m: float) -> bool:
    """True where no further post can stand: in a brace panel or a forbidden stretch."""
    return any(b.kept and b.from_m < at_m < b.to_m for b in plan.barred) or any(
        min(b.end.stations_m) - 1e-6 <= bay.from_m and bay.to_m <= max(b.end.stations_m) + 1e-6 for b in plan.braces
    )


def _hump_words(fence: Fence, ground: BayGround) -> str:
    if fence.decisions.gap_max_m < 0:
        return "The foot would lie {gap} in the ground at {at}"
    above = "The ground stands {gap} above the bottom edge at {at}"
    return above if ground.least_gap_m < 0 else "The ground comes within {gap} of the bottom edge at {at}"


def _filled(fence: Fence, bay: Bay) -> bool:
    """Whether something was chosen to fill the low under a bay: it is bought and done, and no snag any more."""
    return any(bay.from_m < f.at_m < bay.to_m for f in fence.own.fillers)


def _lows_filled(at_m: float) -> list[Remedy]:
    """What fills a low, each as a choice."""
    at = round(at_m, 3)
    return [
        Remedy(Say(words), {"do": "fill_low", "at_m": at, "what": what})
        for what, words in (("log", "logs under it"), ("stone", "stone under it"), ("skirt", "a skirt panel there"))
    ]


def _rail_ways(plan: Plan, bay: Bay) -> list[Remedy]:
    """How else a rigid rail could lie."""
    rail = plan.rails[bay.run]
    ways = [("raked", "rake the rail at posts")] if rail.straight else [("straight", "one straight rail all the same")]
    if rail.straight and rail.string.hump_at_m is not None:
        ways.insert(0, ("trench", "the rail at its least height, the hump dug down {dig} at {hump}"))
    values: Values = {"dig": (rail.string.trench_m, "gap"), "hump": (rail.string.hump_at_m or 0.0, "station")}
    return [Remedy(Say(words, values), {"do": "lay_rail", "rail": how}) for how, words in ways]


def _dip(fence: Fence, plan: Plan, bay: Bay, no_post: bool) -> Snag:
    ground, at = bay.ground, bay.ground.worst_gap_at_m
    wider, buried = round(ground.worst_gap_m + 0.0005, 3), fence.decisions.gap_max_m < 0
    values: Values = {
        "gap": (abs(ground.worst_gap_m), "gap"),
        "at": (at, "station"),
        "limit": (abs(fence.decisions.gap_max_m), "gap"),
        "area": (ground.fill_m2, "area"),
        "wider": (abs(wider), "gap"),
    }
    shallow = (
        "The foot is only {gap} in the ground at {at}" if ground.worst_gap_m < 0 else "{gap} under the sheet at {at}"
    )
    title = Say(shallow if buried else "{gap} under the wire at {at}", values)
    less = "less than {limit}: fill {area} side-on and tamp it, or it is dug under"
    more = "more than {limit}: fill {area} side-on, or animals go under"
    allow = "allow {wider} in the ground" if buried and wider < 0 else "allow {wider}"
    return Snag(
        "dip",
        False,
        fence.decisions.k_fill * ground.fill_m2,
        at,
        title,
        Say(less if buried else more, values),
        (
            *(_rail_ways(plan, bay) if plan.rails else ()),
            *(
                ()
                if no_post or plan.rails
                else (Remedy(Say("post in the dip"), {"do": "place_post", "at_m": round(at, 3)}),)
            ),
            *_lows_filled(at)[: 2 if plan.rails else 3],
            Remedy(Say(allow, values), {"do": "decide", "key": "gap_max_m", "value": wider}),
        ),
    )


def _forbidden(plan: Plan) -> list[Snag]:
    found = []
    for stretch in plan.barred:
        if stretch.found_id:
            continue
        for post in posts_in(plan, stretch):
            reason: dict[str, tuple[float, str] | str] = {
                "why": stretch.reason or "a forbidden stretch",
                "at": (post.station_m, "station"),
            }
            allow = {"do": "allow", "from_m": stretch.from_m, "to_m": stretch.to_m}
            found.append(
                Snag(
                    "forbidden",
                    True,
                    100.0,
                    post.station_m,
                    Say("The " + post.role + " post at {at} stands in {why}", reason),
                    Say(
                        "it carries tension and can't be shifted by the set-out: dig by hand, or move the line, gate "
                        "or brace"
                    ),
                    (Remedy(Say("lift the forbidden stretch"), allow),),
                )
            )
    return found


def _ignored(fence: Fence, plan: Plan) -> list[Snag]:
    return [
        Snag(
            "ignored",
            False,
            5.0,
            min(at, plan.course.length_m),
            Say("The post you placed at {at} is left out", {"at": (at, "station")}),
            Say("it falls in a gate, a brace panel or a forbidden stretch, off the line or on another post"),
            (Remedy(Say("forget it"), {"do": "release_post", "at_m": at}),),
        )
        for at in plan.ignored_posts_m
    ]


def _rolls(fence: Fence, plan: Plan) -> list[Snag]:
    found = []
    for number, need in zip(plan.rolls.runs, plan.rolls.need_m, strict=True):
        run = plan.runs[number]
        over = need - fence.decisions.roll_m
        if TAPE_M < over < plan.system.rule("just_over_m"):
            found.append(
                Snag(
                    "just-over",
                    False,
                    2.0,
                    run.start.station_m,
                    Say("Run {n} is {over} longer than a roll", {"n": str(run.index + 1), "over": (over, "cut")}),
                    Say(
                        "tails of {tail} at each end are counted in: it takes a splice"
                        if fence.decisions.tie_off_m
                        else "it takes a splice",
                        {"tail": (fence.decisions.tie_off_m, "cut")},
                    ),
                )
            )
    rolls = plan.rolls.rolls
    if not rolls.proven["new_rolls"]:
        whole = plan.rolls.whole
        text = Say("{n} rolls; {least} might do", {"n": str(whole.new_rolls), "least": str(whole.bound["new_rolls"])})
        found.append(Snag("rolls-open", False, 0.5, 0.0, text, Say("no better layout was found in the time allowed")))
    return found


def _bends(fence: Fence, plan: Plan) -> list[Snag]:
    line, limit = plan.course, fence.decisions.corner_angle_deg
    noticed = plan.system.rule("noticed_turn_deg")
    found = []
    for station, turn in zip(line.stations_m[1:-1].tolist(), line.turns_deg()[1:-1].tolist(), strict=True):
        in_gate = any(g.at_m < station < g.at_m + g.opening_m for g in plan.gates)
        if noticed < abs(turn) <= limit and not in_gate:
            value = max(1.0, math.ceil(abs(turn) - 1e-3) - 1.0)  # the turn must lie beyond it
            found.append(
                Snag(
                    "bend",
                    False,
                    abs(turn) / 20,
                    station,
                    Say(
                        "The line bends {turn} at {at} within a run",
                        {"turn": (abs(turn), "angle"), "at": (station, "station")},
                    ),
                    Say("fabric does not slide round a post freely: less tension is left behind the bend"),
                    (Remedy(Say("end the run there"), {"do": "decide", "key": "corner_angle_deg", "value": value}),),
                )
            )
    return found


def _short_runs(plan: Plan) -> list[Snag]:
    return [
        Snag(
            "short-run",
            False,
            1.0,
            brace.end.stations_m[0],
            Say("Run {n} is too short for a brace of its own at each end", {"n": str(brace.end.run + 1)}),
            Say("its ends share one brace; a short run loses its tension with a few millimetres of slip"),
        )
        for brace in plan.braces
        if brace.end.shared and brace.end.at_start
    ]


def _slopes(plan: Plan) -> list[Snag]:
    limit = plan.system.rule("steep_run_grade")
    steep = [b for b in plan.bays if abs(b.ground.grade) > limit]
    if not steep:
        return []
    worst = max(steep, key=lambda b: round(abs(b.ground.grade), 6))  # of those alike the first
    return [
        Snag(
            "steep",
            False,
            abs(worst.ground.grade),
            worst.from_m,
            Say(
                "{n} are steeper than {limit}, the worst {grade} at {at}",
                {
                    "n": _bays(len(steep)),
                    "limit": (limit, "grade"),
                    "grade": (abs(worst.ground.grade), "grade"),
                    "at": (worst.from_m, "station"),
                },
            ),
            Say("chock rolls, and keep machines off ground they can't hold on"),
        )
    ]


def _bays(count: int) -> str:
    return "One bay" if count == 1 else f"{count} bays"


def _rail_steps(plan: Plan) -> list[Snag]:
    """Corners whose two runs bring a rigid rail in and out at different heights."""
    found = []
    for k, (run, rail) in enumerate(zip(plan.runs, plan.rails, strict=False)):
        after = (k + 1) % len(plan.runs)
        at, next_at = run.end.station_m, plan.runs[after].start.station_m
        meets = abs(at - next_at) < 1e-6 or (
            plan.course.closed and after == 0 and abs(at - plan.course.length_m) < 1e-6
        )
        step = rail.heights_m[-1] - plan.rails[after].heights_m[0] if meets else 0.0
        if abs(step) > TAPE_M:
            values: Values = {
                "at": (at, "station"),
                "a": (rail.heights_m[-1], "cut"),
                "b": (plan.rails[after].heights_m[0], "cut"),
            }
            title = Say("The rail comes in at {a} and goes out at {b} on the post at {at}", values)
            say = Say(
                "the post is as tall as the higher, the lower rail's band sits under its cap; raise the lower run's end by as much where the step shows",
                values,
            )
            found.append(
                Snag(
                    "rail-step",
                    False,
                    3.0,
                    at % plan.course.length_m if plan.course.closed else at,
                    title,
                    say,
                    go="stand",
                )
            )
    return found


def _short_posts(plan: Plan) -> list[Snag]:
    found = []
    for rule in plan.section.posts.values():
        if rule.too_short(plan.fence_height_m):
            text = Say("No {kind} is sold long enough", {"kind": rule.title})
            found.append(Snag("short-post", True, 50.0, 0.0, text, Say("choose a lower fabric")))
    for post in plan.posts:
        if post.short_m > TAPE_M:
            short: Values = {"at": (post.station_m, "station"), "short": (post.short_m, "cut")}
            if not post.joined:
                less = Say("The post at {at} stands {short} less deep than asked", short)
                found.append(
                    Snag(
                        "less-deep",
                        False,
                        15.0,
                        post.station_m,
                        less,
                        Say("none of its kind is sold as long: ask for another kind there"),
                    )
                )
                continue
            text = Say("The post at {at} that lines share is {short} too short for the taller of them", short)
            said = Say("none is sold that long for that depth: give the taller line a post of its own")
            found.append(Snag("short-post", True, 50.0, post.station_m, text, said))
    return found
