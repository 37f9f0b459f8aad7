"""What was written in the field, in words; a line's book: what was built, by whom, when, what was read, mended, and is due.

Everything is of the events that stand (``log/facts.py``) and the plan; docs/method.md §19.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta

from gnomonic.core.job.fence import Fence
from gnomonic.core.job.parts import Marking
from gnomonic.core.log.events import MORE_GAP_M, SAME_DEPTH_M, Event, Kept
from gnomonic.core.log.facts import Facts
from gnomonic.core.log.upkeep import Due, due, pulled_on, repairs, rounds
from gnomonic.core.plan.identity import tag_name
from gnomonic.core.plan.model import Plan, Post
from gnomonic.core.say import Say, Value

SEEN = {
    "rock": "rock", "root": "a root", "water": "water", "wire": "old wire", "service": "a buried service", "junk": "buried junk", "nest": "a nest", "overhead": "a power line",
    "hole": "a hole", "other": "a hazard",
}  # fmt: skip
ON = {
    "rock": " on rock",
    "root": " on a root",
    "water": " in water",
    "pipe": " on something buried",
    "soft": " in soft ground",
}


def words_of(event: Event) -> Say:
    """An event in a few words, without its post."""
    e = event
    values: dict[str, Value] = {"note": e.note, "names": e.names or "", "what": SEEN.get(e.what or "", "")}
    for key, kind in (("reached_m", "depth"), ("proud_m", "gap"), ("clear_m", "cut"), ("down_m", "gap"), ("gap_m", "gap"), ("long_m", "depth"), ("force_n", "force"), ("left_top", "share"), ("left_bottom", "share"), ("temp_c", "temperature")):  # fmt: skip
        if (value := getattr(e, key)) is not None:
            values[key] = (value, kind)
    values["along"] = (abs(e.along_m or 0.0), "gap")
    way = "on" if (e.along_m or 0.0) >= 0 else "back"
    text = {
        "depth": "in, {reached_m}" + ON.get(e.met or "", "") + (", plumb" if e.plumb else ", not plumb" if e.plumb is False else ""),
        "proud": "stands {proud_m} proud",
        "moved": f"stands {{along}} {way}",
        "redug": f"dug again {{along}} {way}",
        "clear": "brace " + ("ahead" if e.ahead else "behind") + ": clear {clear_m}",
        "pilot": "pilot hole to {reached_m}" + (ON.get(e.met or "", "") or ", clear"),
        "accept": "let pass",
        "cut": "cut and capped",
        "found": "found {what}",
        "settled": "backfill sank {down_m}",
        "gate": "gate hung" + (", {gap_m} under it" if e.gap_m is not None else ""),
        "crossing": "crossing hung" + (", {gap_m} under it" if e.gap_m is not None else ""),
        "gap": "{gap_m} under the wire",
        "hung": "fabric hung",
        "photo": "photo",
        "note": "{note}",
        "repair": (repairs()[e.way].title if e.way in repairs() else "repair") + (", a piece of {long_m}" if e.long_m is not None else "") + (f", {e.count}" if e.count is not None else ""),
        "hazard": "saw {what}",
        "miss": "near miss: {note}",
        "thunder": "thunder heard",
        "brief": "toolbox talk, signed by {names}",
        "dig_anyway": "dug without marks: {note}",
        "round": "round: " + (rounds()[e.way].title.lower() if e.way in rounds() else "walked"),
        "void": "taken back",
        "pulled": ", ".join(t for t, v in (("pulled: {left_top} of the curve left at the top", e.left_top), ("{left_bottom} at the bottom", e.left_bottom), ("{force_n}", e.force_n), ("at {temp_c}", e.temp_c)) if v is not None),
    }[e.kind]  # fmt: skip
    if e.note and "{note}" not in text:
        text += "; {note}"
    return Say(text, {k: v for k, v in values.items() if f"{{{k}}}" in text})


def gap_planned_m(plan: Plan, post: Post) -> float | None:
    """The greatest gap planned under the bay after a post; none where no bay follows."""
    return next((b.ground.worst_gap_m for b in plan.bays if b.from_post == post.index), None)


def too_wide(event: Event, planned_m: float) -> bool:
    """Whether a gap that was measured is more than was planned."""
    return (event.gap_m or 0.0) > planned_m + MORE_GAP_M


def falls_short(event: Event, post: Post) -> bool:
    """Whether a post that was set stands less deep than planned."""
    return post.planned_m - (event.reached_m or 0.0) > SAME_DEPTH_M


@dataclass(frozen=True, slots=True)
class Trouble:
    """Something that is not as planned and asks for somebody: of what, in words, and how ``grave``."""

    line: str
    post: str
    at_m: float
    text: Say
    grave: bool


def troubles(fence: Fence, plan: Plan, known: Facts, unmarked: Sequence[Kept]) -> list[Trouble]:
    """What the log says that is not as planned on a line, the gravest first, then along it."""
    own = [k for k in known.stand if k.event.line == fence.id]
    posts = {p.name: p for p in plan.posts}
    found: list[Trouble] = []

    def add(e: Event, text: str, grave: bool = False, **values: Value) -> None:
        post = posts.get(e.post)
        found.append(Trouble(fence.id, e.post, post.station_m if post else e.at_m, Say(text, values), grave))

    for k in own:
        e, post = k.event, posts.get(k.event.post)
        if e.kind == "depth" and e.plumb is False:
            add(e, "stands out of plumb")
        if e.kind == "depth" and post is not None and falls_short(e, post) and not (post.built and post.built.accepted):
            add(
                e,
                "stopped at {d} of {p}" + ON.get(e.met or "", ""),
                d=(e.reached_m or 0.0, "depth"),
                p=(post.planned_m, "depth"),
            )
        if e.kind == "found" and e.what == "service":
            add(e, "a buried service was met: ask the marking service what it is", True)
        if e.kind == "settled":
            add(e, "the backfill sank {d}: fill and tamp", d=(e.down_m or 0.0, "gap"))
        if e.kind == "gap" and post is not None:
            planned = gap_planned_m(plan, post)
            if planned is not None and too_wide(e, planned):
                add(e, "{g} under the wire, {p} at most were planned", g=(e.gap_m or 0.0, "gap"), p=(planned, "gap"))
        if before := known.earlier.get(e.id):
            others = [o for o in before if o != e.id]
            add(
                e,
                f"said {'once' if len(others) == 1 else f'{len(others)} times'} before as something else: the later stands",
            )
        if e.post and post is None and e.kind != "photo":
            add(e, "was written of a post the plan does not have any more")
    for k in unmarked:
        if k.event.line == fence.id:
            add(k.event, "a hole was made without marks in date, and nobody gave a reason", True)
    return sorted(found, key=lambda t: (not t.grave, t.at_m))


@dataclass(frozen=True, slots=True)
class LineBook:
    """A line's book: how much of it stands, since when, who built it, what was read and mended, and rounds that are due."""

    line: str
    name: str
    posts: int
    posts_in: int
    braces: int
    braces_done: int
    runs: int
    runs_done: int
    begun: date | None
    last: date | None
    by: tuple[tuple[str, int], ...]
    pulled: date | None
    readings: tuple[Kept, ...]
    repairs: tuple[Kept, ...]
    rounds: tuple[Kept, ...]
    due: tuple[Due, ...]
    met: tuple[tuple[str, int], ...]


def book_of(fence: Fence, plan: Plan, known: Facts) -> LineBook:
    """A line's book as the log has it; a post that another line shares is that line's."""
    own = [k for k in known.stand if k.event.line == fence.id]
    mine = {p.name for p in plan.posts if not p.shared}
    deep = [k for k in own if k.event.kind == "depth" and k.event.post in mine]
    clear = {(k.event.post, k.event.ahead) for k in own if k.event.kind == "clear"}
    ends = {(p.name, b.end.at_start) for b in plan.braces if (p := plan.post_at(b.end.stations_m[0])) is not None}
    starts = {p.name for r in plan.runs if (p := plan.post_at(r.start.station_m)) is not None}
    days = sorted(k.order[0].date() for k in own if k.event.kind not in ("photo", "note", "void"))
    pulled = pulled_on(own, fence.id)
    walked = [k for k in own if k.event.kind == "round"]
    next_up = (
        due(fence.id, pulled, [(k.event.way or "", k.order[0].date()) for k in walked], bool(plan.crossings))
        if pulled
        else []
    )
    return LineBook(
        fence.id, fence.name, len(mine), len(deep), len(ends), len(ends & clear), len(starts), len(starts & {k.event.post for k in own if k.event.kind == "pulled"}),
        days[0] if days else None, days[-1] if days else None, tuple(Counter(k.by or k.event.author for k in own if k.by or k.event.author).most_common()), pulled,
        tuple(k for k in own if k.event.kind in ("pulled", "gap")), tuple(k for k in own if k.event.kind == "repair"), tuple(walked), tuple(next_up),
        tuple(Counter(k.event.what for k in own if k.event.kind == "found" and k.event.what).most_common()),
    )  # fmt: skip


def of_post(fence: Fence | None, event: Event) -> str:
    """What an event is of, as it is shown: a post's tag, a line's letter, or the job."""
    if event.post and fence is not None:
        return tag_name(fence, event.post)
    return f"{event.line}{event.post}" or "the job"


def marks_span(marking: Marking | None, good: bool) -> tuple[datetime, datetime] | None:
    """From when until when marks hold, for ``log/safety.py``: from the day they were asked for to the end of their last day, for good where
    they name none; none where they are not ``good``.  Days are those of the place, which may lie half a day off."""
    if marking is None or not good:
        return None
    half = timedelta(hours=14)
    since = datetime.combine(marking.asked_on, time.min, UTC) - half
    until = (
        datetime.max.replace(tzinfo=UTC)
        if marking.expires_on is None
        else datetime.combine(marking.expires_on, time.max, UTC) + half
    )
    return since, until
