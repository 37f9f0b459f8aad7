"""Job → plan: the one road through the computations, in the order of the work.

``plan`` is deterministic and has no side effect; the optional memo only saves work.
"""

from collections.abc import Callable
from dataclasses import dataclass, field, replace

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import Course, course
from gnomonic.core.ground.joined import Meeting, check_joins, meetings, nearest_station
from gnomonic.core.job.document import Job
from gnomonic.core.job.fence import fence_of, fences
from gnomonic.core.job.parts import Gate, MeasuredLine
from gnomonic.core.limits import LONGEST_TOGETHER_M
from gnomonic.core.log.facts import Built, Known
from gnomonic.core.plan.gates import Beside, beside
from gnomonic.core.plan.holds import holds_of
from gnomonic.core.plan.identity import Names, in_order, renamed
from gnomonic.core.plan.line import Laid, LineMemo, lay_out
from gnomonic.core.plan.model import JobPlan, Plan
from gnomonic.core.plan.shared import asked_of, pulls_of, with_pulls
from gnomonic.core.plan.stock import RollMemo, share_coils, share_rolls
from gnomonic.core.say import Say


@dataclass(slots=True)
class Met:
    """Where lines met, and the lines and joins that was found for."""

    ways: list[Course] = field(default_factory=list)
    key: object = None
    found: tuple[Meeting, ...] = ()


@dataclass(slots=True)
class PlanMemo:
    """What the plan before was made of, so that only what an edit touched is made anew.

    ``work`` counts nodes solved in the last plan, ``laid`` the lines laid out in it.
    """

    lines: dict[str, LineMemo] = field(default_factory=dict)
    rolls: RollMemo = field(default_factory=RollMemo)
    courses: dict[str, tuple[MeasuredLine, Course]] = field(default_factory=dict)
    near: dict[str, tuple[tuple[Gate, ...], list[Course], Beside]] = field(default_factory=dict)
    met: Met = field(default_factory=Met)
    work: int = 0
    laid: tuple[str, ...] = ()


NamesOf = Callable[[str, Plan], Names | None]


def plan(
    job: Job, memo: PlanMemo | None = None, names_of: NamesOf | None = None, known: Known | None = None
) -> JobPlan:
    """Plan a job: each line by itself, then rolls and coils over all of them.

    Lines that are there already are not planned.  ``names_of`` calls a line's posts as they were called before; where it says
    nothing they are numbered in order.  ``known`` is what is known of posts as built, by line.  Raises BadInput when a barrier, the ground, gates, joins or forbidden
    stretches leave no plan.
    """
    memo = PlanMemo() if memo is None else memo
    courses = _courses(job, memo)
    check_joins(job, courses)
    near = _beside(job, courses, memo)
    asked, there = asked_of(job, courses)
    laid: dict[str, Laid] = {}
    built = [fence for fence in fences(job) if fence.own.standing != "there"]
    several = len(job.lines) > 1
    before, memo.work, done = memo.lines, 0, []
    memo.lines = {}
    for fence in built:
        own = before.get(fence.id) or LineMemo()
        built_here = _on_its_ground(courses[fence.id], (known or {}).get(fence.id, ()))
        key = (
            fence.own,
            fence.worn_m,
            fence.job.found,
            asked.get(fence.id, ()),
            there.get(fence.id, ()),
            built_here,
            near.get(fence.id, ()),
        )
        if own.laid is None or own.key != key:
            try:
                own.laid = lay_out(
                    fence,
                    courses[fence.id],
                    asked.get(fence.id, ()),
                    dict(there.get(fence.id, ())),
                    own,
                    built_here,
                    near.get(fence.id, ()),
                )
            except BadInput as error:
                raise (_of_line(fence.name, error) if several else error) from None
            own.key = key
            memo.work += own.work
            done.append(fence.id)
        memo.lines[fence.id] = own
        laid[fence.id] = own.laid
    memo.laid = tuple(done)
    names = {line.id: line.name for line in job.lines}
    offcuts = {fence.id: fence.offcuts_m for fence in built}
    shares, memo.rolls = share_rolls({k: v.wants for k, v in laid.items()}, offcuts, names, memo.rolls)
    coils = share_coils({k: v.wires for k, v in laid.items()})
    lines = {}
    for key_of, one in laid.items():
        own = memo.lines[key_of]
        parts = (one, shares.fabric[key_of], tuple(shares.more[key_of]), coils[key_of])
        if own.plan is None or own.parts != parts:
            own.parts = parts
            own.plan = replace(one.plan, rolls=parts[1], more=parts[2], coils=parts[3])
        lines[key_of] = own.plan
    if job.joins:
        pulls = pulls_of(job, courses, lines)
        for k, made in lines.items():
            now, kept = with_pulls(job, courses, made, k, pulls), memo.lines[k].pulled
            if kept is None or memo.lines[k].parts != memo.lines[k].pulled_of or kept.pulls != now.pulls:
                memo.lines[k].pulled, memo.lines[k].pulled_of = now, memo.lines[k].parts
        lines = {k: memo.lines[k].pulled or made for k, made in lines.items()}
    for fence in built:
        own, made = memo.lines[fence.id], lines[fence.id]
        if own.held is None or own.held_of is not made:
            own.held_of, own.held = made, replace(made, holds=holds_of(fence, made))
        made = lines[fence.id] = own.held
        called = (names_of(fence.id, made) if names_of else None) or in_order(made, fence.facts)
        if own.named is None or own.named_of is not made or tuple(p.name for p in own.named.posts) != called:
            own.named, own.named_of = renamed(made, called), made
        lines[fence.id] = own.named
    return JobPlan(lines, courses, _met(job, courses, memo))


OFF_LINE_M = 1.0  # what stood farther from the line than this stands on it no more


def _on_its_ground(course: Course, built: tuple[Built, ...]) -> tuple[Built, ...]:
    """Posts as built at the stations their places have on the line as it is; those it has left are its no more."""
    found = []
    for b in built:
        if b.place_m is None:
            found.append(b)
            continue
        at, off = nearest_station(course, *b.place_m)
        if off <= OFF_LINE_M:
            found.append(b if abs(at - b.at_m) < SAME_STATION_M else replace(b, at_m=at))
    return tuple(found)


SAME_STATION_M = 1e-3


def _of_line(name: str, error: BadInput) -> BadInput:
    """A refusal of one line among several, by its name."""
    if error.said is not None:
        return type(error)(error.field, Say("{of_line}: " + error.said.t, {**error.said.v, "of_line": name}))
    return type(error)(error.field, f"{name}: {error.sentence}")


def _courses(job: Job, memo: PlanMemo) -> dict[str, Course]:
    """Courses of all lines; those of lines not mended since the last plan stay the same objects.

    Raises BadInput (``lines``) where all of them together are longer than one plan is made for.
    """
    kept = memo.courses
    memo.courses = {
        line.id: found
        if (found := kept.get(line.id)) and (found[0] is line.measured or found[0] == line.measured)
        else (line.measured, course(line.measured))
        for line in job.lines
    }
    long = sum(made.length_m for _, made in memo.courses.values())
    if long > LONGEST_TOGETHER_M:
        most = LONGEST_TOGETHER_M / 1000
        raise BadInput(
            "lines",
            f"the lines of the job are {long / 1000:.0f} km together; more than {most:.0f} km is more than one job",
        )
    return {k: made for k, (_, made) in memo.courses.items()}


def _beside(job: Job, courses: dict[str, Course], memo: PlanMemo) -> dict[str, Beside]:
    """Measured points of other lines by the gates of each that has some, kept while its gates and no line's ground change."""
    ways, before = list(courses.values()), memo.near
    memo.near = {}
    for line in job.lines:
        if line.gates and not line.measured.level and line.standing != "there":
            gates, old_ways, near = before.get(line.id, ((), [], ()))
            if gates != line.gates or not _same(ways, old_ways):
                near = beside(fence_of(job, line.id), courses[line.id])
            memo.near[line.id] = (line.gates, ways, near)
    return {k: near for k, (_, _, near) in memo.near.items()}


def _same(one: list[Course], two: list[Course]) -> bool:
    """Whether two plans are over the very same ground."""
    return len(one) == len(two) and all(a is b for a, b in zip(one, two, strict=True))


def _met(job: Job, courses: dict[str, Course], memo: PlanMemo) -> tuple[Meeting, ...]:
    """Where lines nearly meet or cross, kept while no line and no join changes."""
    if len(courses) < 2:
        return ()
    ways, key = list(courses.values()), (job.joins, tuple((line.id, line.standing) for line in job.lines))
    old = memo.met
    if old.key != key or not _same(old.ways, ways):
        memo.met = Met(ways, key, tuple(meetings(job, courses)))
    return memo.met.found
