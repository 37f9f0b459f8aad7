"""The Job: lines on one ground, one immutable document (gnomonic-job/2).

JSON, SI, documented in docs/job-format.md.  Edits make the next version; see ``core/edits``.
"""

from datetime import date
from typing import Annotated, Literal

from pydantic import Field, model_validator

from gnomonic.core.job.parts import (
    PLAIN_TEXT,
    Barrier,
    BraceAsk,
    Crossing,
    Decisions,
    EndBrace,
    Fact,
    Filler,
    ForcedPost,
    Found,
    Frame,
    Gate,
    Hold,
    Marking,
    MeasuredLine,
    Name,
    Part,
    PostAsk,
    PullAsk,
    RollsAsk,
    SharedPost,
    Span,
    Standing,
    Stretch,
)
from gnomonic.core.limits import MOST_FORCED, MOST_FOUND, MOST_GATES, MOST_LINES, MOST_NAME

LineId = Annotated[str, Field(pattern=r"^[A-Z]{1,3}$")]
End = Literal["start", "end"]


class Line(Part):
    """One line: as measured, what hangs on it, what was decided, what was found at its stations, what is
    known of its posts; the ``soil`` they stand in, how water is crossed (``crossings``), how its ends are braced (``bracing``, and ``braces`` that are other), how a rigid ``rail`` lies, by which school posts are spaced, what fills single lows, where runs are
    ended by hand (``ends_at``), what is ``asked`` of single posts, how it is stretched (``pull``), what
    other ``rolls`` its fabric is sold in.

    ``standing`` says whether it is built to stay, is temporary (``until`` a day, when one is named), or is there already:
    an old fence that others join, on which nothing is planned.
    """

    id: LineId
    name: Annotated[str, Field(min_length=1, max_length=MOST_NAME, pattern=PLAIN_TEXT)]
    measured: MeasuredLine
    standing: Literal["permanent", "temporary", "there"] = "permanent"
    until: date | None = None
    hold: Hold = Hold()
    barrier: Barrier = Barrier()
    decisions: Decisions = Field(default_factory=lambda: Decisions.model_validate({}))
    gates: Annotated[tuple[Gate, ...], Field(max_length=MOST_GATES)] = ()
    crossings: Annotated[tuple[Crossing, ...], Field(max_length=200)] = ()
    posts: Annotated[tuple[ForcedPost, ...], Field(max_length=MOST_FORCED)] = ()
    forbidden: Annotated[tuple[Stretch, ...], Field(max_length=MOST_FORCED)] = ()
    found: Annotated[tuple[Found, ...], Field(max_length=MOST_FOUND)] = ()
    facts: Annotated[tuple[Fact, ...], Field(max_length=2000)] = ()
    swath_m: Annotated[float, Field(ge=0.5, le=30)] = 3.048
    shared: Annotated[tuple[SharedPost, ...], Field(max_length=2)] = ()
    soil: Standing = Standing()
    bracing: BraceAsk = BraceAsk()
    braces: Annotated[tuple[EndBrace, ...], Field(max_length=400)] = ()
    rail: Literal["", "straight", "first", "last", "trench", "raked"] = ""
    spacing: Literal["", "even", "rule"] = ""
    fillers: Annotated[tuple[Filler, ...], Field(max_length=1000)] = ()
    ends_at: Annotated[tuple[Annotated[float, Field(ge=0, le=1e6)], ...], Field(max_length=400)] = ()
    asked: Annotated[tuple[PostAsk, ...], Field(max_length=2000)] = ()
    pull: PullAsk = PullAsk()
    rolls: RollsAsk = RollsAsk()

    @model_validator(mode="after")
    def _sound(self) -> "Line":
        if self.until is not None and self.standing != "temporary":
            raise ValueError("a day until which a line stands belongs to a temporary one")
        if any(f.shape for f in self.found):
            raise ValueError("what lies along a shape on the map belongs to the job, not to a line")
        return self


class Join(Part):
    """An end of ``line`` stands on a post of the line ``on``, at a station of it: its end, a corner, or between (a T)."""

    line: LineId
    end: End
    on: LineId
    at_m: Annotated[float, Field(ge=0, le=1e6)]


class Offcut(Part):
    """A piece of fabric on hand, by its label; a ``worn`` one is hung on temporary lines only."""

    label: Name
    length_m: Span
    worn: bool = False


class Stock(Part):
    """What is on hand for the job."""

    offcuts: Annotated[tuple[Offcut, ...], Field(max_length=200)] = ()


class Job(Part):
    """Lines on one ground, the joins between them, what was found on the map, and the ``climate`` it all stands in
    (``pull/data/climates.toml``)."""

    format: Literal["gnomonic-job/2"] = "gnomonic-job/2"
    name: Annotated[str, Field(min_length=1, max_length=MOST_NAME, pattern=PLAIN_TEXT)]
    frame: Frame = Frame()
    lines: Annotated[tuple[Line, ...], Field(min_length=1)]
    joins: tuple[Join, ...] = ()
    found: Annotated[tuple[Found, ...], Field(max_length=MOST_FOUND)] = ()
    marking: Marking | None = None
    stock: Stock = Stock()
    climate: Annotated[str, Field(pattern=r"^[a-z_]{1,24}$")] = "oceanic"

    @model_validator(mode="after")
    def _whole(self) -> "Job":
        if len(self.lines) > MOST_LINES:
            raise ValueError(
                f"{len(self.lines)} lines are more than the {MOST_LINES} a job holds: make two jobs of them"
            )
        _once("lines", [line.id for line in self.lines])
        _once("lines", [line.name for line in self.lines])
        _once("finds", [f.id for line in self.lines for f in line.found] + [f.id for f in self.found])
        if any(not f.shape for f in self.found):
            raise ValueError("what lies between stations belongs to a line, not to the job")
        lines = {line.id: line for line in self.lines}
        for join in self.joins:
            _check(join, lines)
        ends = [(j.line, j.end) for j in self.joins]
        if len(set(ends)) < len(ends):
            raise ValueError("an end of a line stands on one post, not on two")
        return self

    def line(self, line_id: str) -> Line:
        """A line by its letter.  Raises KeyError."""
        return next(line for line in self.lines if line.id == line_id)

    def canonical_json(self) -> str:
        """The document as stored and exported; reading it back gives an equal Job."""
        return self.model_dump_json(indent=1) + "\n"


def _once(what: str, names: list[str]) -> None:
    twice = next((n for k, n in enumerate(names) if n in names[:k]), None)
    if twice is not None:
        raise ValueError(f"two {what} of this job are called {twice}; each has a name of its own")


def _check(join: Join, lines: dict[str, Line]) -> None:
    """A join between lines that are there, from an end that is one, to another line."""
    for line_id in (join.line, join.on):
        if line_id not in lines:
            raise ValueError(f"a join speaks of line {line_id}, which this job does not have")
    name = lines[join.line].name
    if join.line == join.on:
        raise ValueError(f"{name} can't be joined to itself: close it instead")
    if lines[join.line].measured.closed:
        raise ValueError(f"{name} is closed: it has no {join.end} that could stand on another line")
