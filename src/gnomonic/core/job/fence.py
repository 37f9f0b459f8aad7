"""One line seen with what of its job bears on it, and the next version of both."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from gnomonic.core.job.document import Job, Line, Offcut, Stock
from gnomonic.core.job.parts import (
    Barrier,
    BraceAsk,
    Decisions,
    Fact,
    ForcedPost,
    Found,
    Frame,
    Gate,
    Hold,
    Marking,
    MeasuredLine,
    PostAsk,
    PullWay,
    Reach,
    SharedPost,
    Standing,
    Stretch,
)

NEAR_END_M = 0.3  # an end keeps its brace when its gate or corner is moved by less
NEAR_POST_M = 0.15
OF_THE_JOB = ("frame", "joins", "marking", "stock", "climate")


@dataclass(frozen=True, slots=True)
class Fence:
    """A line of a job.  ``found`` is what was found at its stations and on the job's map."""

    job: Job
    own: Line

    @property
    def id(self) -> str:
        """The line's letter."""
        return self.own.id

    @property
    def name(self) -> str:
        """The line's name."""
        return self.own.name

    @property
    def title(self) -> str:
        """What is written over it: the job's name, and the line's where the job has several."""
        return self.job.name if len(self.job.lines) == 1 else f"{self.job.name} › {self.own.name}"

    @property
    def line(self) -> MeasuredLine:
        """The line as measured."""
        return self.own.measured

    @property
    def frame(self) -> Frame:
        """How the job's metres relate to the world."""
        return self.job.frame

    @property
    def hold(self) -> Hold:
        """What it must hold."""
        return self.own.hold

    @property
    def barrier(self) -> Barrier:
        """What hangs on it."""
        return self.own.barrier

    @property
    def decisions(self) -> Decisions:
        """What the fencer decided."""
        return self.own.decisions

    @property
    def gates(self) -> tuple[Gate, ...]:
        """Its openings."""
        return self.own.gates

    @property
    def posts(self) -> tuple[ForcedPost, ...]:
        """Posts placed by hand."""
        return self.own.posts

    @property
    def forbidden(self) -> tuple[Stretch, ...]:
        """Where no post may stand."""
        return self.own.forbidden

    @property
    def found(self) -> tuple[Found, ...]:
        """What was found at its stations, then on the map."""
        return (*self.own.found, *self.job.found)

    @property
    def facts(self) -> tuple[Fact, ...]:
        """What is known of its posts."""
        return self.own.facts

    @property
    def marking(self) -> Marking | None:
        """The job's request to have services marked."""
        return self.job.marking

    @property
    def swath_m(self) -> float:
        """How far each side is cleared."""
        return self.own.swath_m

    @property
    def shared(self) -> tuple[SharedPost, ...]:
        """Ends that stand on a post of a fence outside the job."""
        return self.own.shared

    @property
    def soil(self) -> Standing:
        """What its posts stand in."""
        return self.own.soil

    def bracing(self, at_m: float, ahead: bool) -> BraceAsk:
        """How the end of a run is to be braced: as asked there, or as the line has it."""
        own = next((b for b in self.own.braces if abs(b.at_m - at_m) < NEAR_END_M and b.ahead == ahead), None)
        return own or self.own.bracing

    def asked_at(self, at_m: float) -> PostAsk | None:
        """What is asked of the post at a station."""
        if not self.own.asked:
            return None
        return next((a for a in self.own.asked if abs(a.at_m - at_m) < NEAR_POST_M), None)

    def pulled_from(self, low_m: float, high_m: float) -> PullWay | None:
        """From where the run between two stations is said to be pulled; what was said last holds."""
        return next((w for w in reversed(self.own.pull.ways) if low_m < w.at_m < high_m), None)

    def on_hand_m(self, worn: bool) -> tuple[float, ...]:
        """Offcuts on hand of the fabric that hangs here, sound or worn."""
        own = self.own.barrier.label
        return tuple(o.length_m for o in self.job.stock.offcuts if o.label == own and o.worn == worn)

    @property
    def worn_m(self) -> tuple[float, ...]:
        """Worn offcuts that this line uses: a temporary one those there are, any other none."""
        return self.on_hand_m(True) if self.own.standing == "temporary" else ()

    @property
    def offcuts_m(self) -> tuple[float, ...]:
        """Offcuts this line uses: a temporary one the worn, where there are such, any other the sound."""
        return self.worn_m or self.on_hand_m(False)


def stationed(
    own: Line, to: Callable[[float], float | None], spans: Callable[[float, float], list[tuple[float, float]]]
) -> dict[str, Any]:
    """A line's soil, braces and asked posts where its stations are others; what has no place there goes."""
    stretches = tuple(
        s.model_copy(update={"from_m": a, "to_m": b}) for s in own.soil.stretches for a, b in spans(s.from_m, s.to_m)
    )
    braces = [(b, to(b.at_m)) for b in own.braces]
    asked = [(p, to(p.at_m)) for p in own.asked]
    return {
        "soil": own.soil.model_copy(update={"stretches": stretches}),
        "braces": tuple(b.model_copy(update={"at_m": max(0.0, at)}) for b, at in braces if at is not None),
        "fillers": tuple(
            f.model_copy(update={"at_m": max(0.0, at)}) for f in own.fillers if (at := to(f.at_m)) is not None
        ),
        "crossings": tuple(
            c.model_copy(update={"at_m": max(0.0, at)}) for c in own.crossings if (at := to(c.at_m)) is not None
        ),
        "pull": own.pull.model_copy(
            update={"ways": tuple(moved for w in own.pull.ways if (moved := _way_moved(w, to)) is not None)}
        ),
        "rolls": own.rolls.model_copy(
            update={
                "whole": tuple(Reach(from_m=a, to_m=b) for w in own.rolls.whole for a, b in spans(w.from_m, w.to_m))
            }
        ),
        "ends_at": tuple(sorted(max(0.0, at) for at in map(to, own.ends_at) if at is not None)),
        "asked": tuple(p.model_copy(update={"at_m": max(0.0, at)}) for p, at in asked if at is not None),
    }


def _way_moved(way: PullWay, to: Callable[[float], float | None]) -> PullWay | None:
    """From where a run is pulled, at the stations of its line as it is now; none where they are gone."""
    at, splice = to(way.at_m), None if way.splice_m is None else to(way.splice_m)
    if at is None or (splice is None and way.splice_m is not None):
        return None
    return way.model_copy(update={"at_m": max(0.0, at), "splice_m": splice})


def fence_of(job: Job, line_id: str = "") -> Fence:
    """A line of a job by its letter; the first one that is to be built when none is named.  Raises KeyError."""
    if line_id:
        found = next((line for line in job.lines if line.id == line_id), None)
        if found is None:
            raise KeyError(line_id)
        return Fence(job, found)
    return Fence(job, next((line for line in job.lines if line.standing != "there"), job.lines[0]))


def fences(job: Job) -> list[Fence]:
    """All lines of a job."""
    return [Fence(job, line) for line in job.lines]


def one_line(name: str, line: MeasuredLine, frame: Frame | None = None, job_name: str = "") -> Job:
    """A job of one line."""
    return Job(name=job_name or name, frame=frame or Frame(), lines=(Line(id="A", name=name, measured=line),))


def checked(job: Job, **changes: Any) -> Job:
    """A checked copy of a job with some fields changed; what stays is the same object."""
    return Job.model_validate({**{name: getattr(job, name) for name in Job.model_fields}, **changes})


def changed(fence: Fence, **changes: Any) -> Fence:
    """The fence with some of its line's or its job's fields changed, checked.

    ``line`` is the measured line; of ``found``, shapes go to the job and stations to the line; ``offcuts_m`` (and ``worn_m`` with
    them) are of the fabric that hangs here.
    """
    job, own = fence.job, fence.own
    of_job = {k: changes.pop(k) for k in OF_THE_JOB if k in changes}
    if "found" in changes:
        found = changes.pop("found")
        of_job["found"] = tuple(f for f in found if f.shape)
        changes["found"] = tuple(f for f in found if not f.shape)
    if "offcuts_m" in changes:
        label, worn = own.barrier.label, changes.pop("worn_m", None)
        kept = tuple(o for o in job.stock.offcuts if o.label != label or (o.worn and worn is None))
        new = tuple(Offcut(label=label, length_m=m) for m in changes.pop("offcuts_m"))
        new += tuple(Offcut(label=label, length_m=m, worn=True) for m in worn or ())
        of_job["stock"] = Stock(offcuts=(*kept, *new))
    if "line" in changes:
        changes["measured"] = changes.pop("line")
    now = Line.model_validate({**{n: getattr(own, n) for n in Line.model_fields}, **changes}) if changes else own
    lines = tuple(now if line is own else line for line in job.lines)
    job = checked(job, lines=lines, **of_job)
    return Fence(job, now)
