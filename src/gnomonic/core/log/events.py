"""Facts from the field: events that are kept once, whatever order they come in.  What they come to is folded in ``facts.py``.

Never edits of the document.  Source: docs/method.md §11 and §19.
"""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Annotated, Literal, get_args

from pydantic import ConfigDict, Field, model_validator

from gnomonic.core.record import Record
from gnomonic.core.units import INCH_M

PLAIN_TEXT = r"^[^\x00-\x1f\x7f]*$"
Text = Annotated[str, Field(max_length=200, pattern=PLAIN_TEXT)]
Long = Annotated[str, Field(max_length=1000, pattern=PLAIN_TEXT)]
Deep = Annotated[float, Field(ge=0, le=4, allow_inf_nan=False)]
Shift = Annotated[float, Field(ge=-3, le=3, allow_inf_nan=False)]
Share = Annotated[float, Field(ge=0, le=1.2, allow_inf_nan=False)]
Newtons = Annotated[float, Field(gt=0, le=1e5, allow_inf_nan=False)]
Met = Literal["rock", "root", "water", "pipe", "soft", "nothing"]
# of a post's place: these the plan answers to
OfPlan = Literal["depth", "proud", "moved", "redug", "clear", "pilot", "accept", "cut"]
# of a post or what stands on it: written down, shown, counted
OfPost = Literal["found", "settled", "gate", "crossing", "pulled", "gap", "hung", "photo", "note", "repair"]
# of the job: safety, and the fence when it stands
OfJob = Literal["hazard", "miss", "thunder", "brief", "dig_anyway", "round"]
Kind = Literal[OfPlan, OfPost, OfJob, "void"]
PLAN_KINDS, POST_KINDS, JOB_KINDS = (frozenset(get_args(k)) for k in (OfPlan, OfPost, OfJob))
What = Literal["rock", "root", "water", "wire", "service", "junk", "nest", "overhead", "hole", "other"]
# what an event of each kind says, and what it may say besides
NEEDS: dict[str, tuple[str, ...]] = {
    "depth": ("reached_m",),
    "proud": ("proud_m",),
    "moved": ("along_m",),
    "redug": ("along_m",),
    "clear": ("clear_m", "ahead"),
    "pilot": ("reached_m", "met"),
    "found": ("what",),
    "settled": ("down_m",),
    "gate": ("thing",),
    "crossing": ("thing",),
    "gap": ("gap_m",),
    "photo": ("photo",),
    "note": ("note",),
    "repair": ("way",),
    "hazard": ("what",),
    "miss": ("note",),
    "brief": ("names",),
    "dig_anyway": ("note",),
    "round": ("way",),
    "void": ("of",),
}
MAY: dict[str, tuple[str, ...]] = {
    "depth": ("met", "plumb"),
    "moved": ("across_m",),
    "clear": ("outer_m", "inner_m"),
    "found": ("reached_m",),
    "gate": ("gap_m",),
    "crossing": ("gap_m",),
    "pulled": ("left_top", "left_bottom", "force_n", "push_m", "bay_m", "temp_c"),
    "photo": ("thing",),
    "repair": ("long_m", "count"),
    "round": ("count",),
    "brief": ("strokes",),
}
ONE_OF = {"pulled": ("left_top", "left_bottom", "force_n")}  # a reading reads something
CLEAR_LEAST_M, CLEAR_MOST_M = 0.5, 4.5
SAME_DEPTH_M = INCH_M / 2
MORE_GAP_M = INCH_M / 2  # half an inch more or less under the wire is grass


class Event(Record):
    """One fact of one post, by its lasting name and the station it was planned at; or of the job, without a post.

    ``id`` made where it was seen; ``clock`` of that device, ``seq`` its own count.  Values by kind: ``reached_m`` depth and what it ``met``;
    ``proud_m`` its head over where it was planned; ``along_m`` (on along the line) and ``across_m`` (to the right) it moved, or its hole was dug again (``redug``); ``clear_m`` between the faces
    of a brace's posts, their ``outer_m`` and ``inner_m`` thickness; ``of`` the event a void takes back.  ``e_m``, ``n_m`` is where the post
    was planned on the ground, so that the fact stays there when the line's stations are others.  ``plumb`` within half a bubble;
    ``what`` was found, ``down_m`` the backfill sank; ``thing`` a gate or a crossing; ``gap_m`` under the wire, or under a gate; shares of the
    curve ``left_top`` and ``left_bottom``, the ``force_n`` read or pushed with, ``push_m`` in a ``bay_m``, at ``temp_c``; ``photo`` its digest; ``way`` a kind of repair or
    round; ``names`` and ``strokes`` of who signed.
    """

    model_config = ConfigDict(strict=True)
    id: Annotated[str, Field(pattern=r"^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$")]
    device: Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{1,40}$")]
    seq: Annotated[int, Field(ge=0, le=2**53)]
    clock: Annotated[datetime, Field(strict=False)]
    author: Text = ""
    line: Annotated[str, Field(pattern=r"^[A-Z]{0,3}$")] = ""
    post: Annotated[str, Field(pattern=r"^([0-9]{1,6}[a-z]{0,4})?$")] = ""
    at_m: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)] = 0.0
    kind: Kind
    reached_m: Deep | None = None
    met: Met | None = None
    proud_m: Annotated[float, Field(ge=-1, le=2, allow_inf_nan=False)] | None = None
    along_m: Shift | None = None
    across_m: Shift | None = None
    clear_m: Annotated[float, Field(allow_inf_nan=False)] | None = None
    outer_m: Annotated[float, Field(gt=0, le=1, allow_inf_nan=False)] | None = None
    inner_m: Annotated[float, Field(gt=0, le=1, allow_inf_nan=False)] | None = None
    ahead: bool | None = None
    of: Annotated[str, Field(max_length=36)] | None = None
    plumb: bool | None = None
    what: What | None = None
    down_m: Annotated[float, Field(ge=0, le=2, allow_inf_nan=False)] | None = None
    thing: Annotated[str, Field(max_length=60, pattern=r"^[A-Za-z0-9 ._-]+$")] | None = None
    gap_m: Annotated[float, Field(ge=0, le=3, allow_inf_nan=False)] | None = None
    left_top: Share | None = None
    left_bottom: Share | None = None
    force_n: Newtons | None = None
    push_m: Annotated[float, Field(gt=0, le=1, allow_inf_nan=False)] | None = None
    bay_m: Annotated[float, Field(gt=0, le=30, allow_inf_nan=False)] | None = None
    temp_c: Annotated[float, Field(ge=-60, le=60, allow_inf_nan=False)] | None = None
    photo: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")] | None = None
    way: Annotated[str, Field(pattern=r"^[a-z_]{1,24}$")] | None = None
    long_m: Annotated[float, Field(ge=0, le=1e5, allow_inf_nan=False)] | None = None
    count: Annotated[int, Field(ge=0, le=100_000)] | None = None
    names: Text | None = None
    strokes: Annotated[str, Field(max_length=8000, pattern=r"^[MLml0-9 .,-]*$")] | None = None
    note: Long = ""
    e_m: Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)] | None = None
    n_m: Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)] | None = None

    @model_validator(mode="after")
    def _whole(self) -> "Event":
        if self.clock.tzinfo is None:
            raise ValueError("the clock must say its time zone, as in 2026-06-01T08:30:00Z")
        if self.kind not in JOB_KINDS and self.kind != "void" and not (self.line and self.post):
            raise ValueError(f"an event of kind {self.kind} says of which line and post it is")
        values = {k for k in VALUES if getattr(self, k) is not None} | ({"note"} if self.note.strip() else set())
        needs = NEEDS.get(self.kind, ())
        if missing := [k for k in needs if k not in values]:
            raise ValueError(f"an event of kind {self.kind} says {' and '.join(needs)}; {missing[0]} is missing")
        one_of = ONE_OF.get(self.kind, ())
        if one_of and not values.intersection(one_of):
            raise ValueError(f"an event of kind {self.kind} says one of {', '.join(one_of)}")
        if extra := sorted(values - {"note"} - set(needs) - set(MAY.get(self.kind, ()))):
            raise ValueError(f"{extra[0]} does not belong to an event of kind {self.kind}")
        if self.clear_m is not None and not CLEAR_LEAST_M <= self.clear_m <= CLEAR_MOST_M:
            raise ValueError(
                f"clear_m is {self.clear_m:g}; between the posts of a brace it is {CLEAR_LEAST_M:g} to {CLEAR_MOST_M:g} m"
            )
        return self


VALUES = (
    "reached_m", "met", "proud_m", "along_m", "across_m", "clear_m", "outer_m", "inner_m", "ahead", "of", "plumb", "what", "down_m", "thing", "gap_m",
    "left_top", "left_bottom", "force_n", "push_m", "bay_m", "temp_c", "photo", "way", "long_m", "count", "names", "strokes",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Kept:
    """An event as it was kept: with what its device's clock was behind when it came in, and who was signed in there (``by``)."""

    event: Event
    offset: timedelta = timedelta()
    by: str = ""

    @property
    def order(self) -> tuple[datetime, str, int]:
        """Corrected clock, device, its count: the same on every machine."""
        return self.event.clock + self.offset, self.event.device, self.event.seq
