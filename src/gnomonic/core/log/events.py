"""Facts from the field: events that are kept once, whatever order they come in.  What they come to is folded in ``facts.py``.

Never edits of the document.  Source: docs/method.md §11 and §19.
"""

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import TYPE_CHECKING, Annotated, Literal, TypeAlias

from pydantic import ConfigDict, Field, model_validator

from gnomonic.core.log.kinds import bounded, kinds, values
from gnomonic.core.record import Record
from gnomonic.core.units import INCH_M

PLAIN_TEXT = values()["note"].text
Text = Annotated[str, bounded("names")]
if TYPE_CHECKING:
    Kind: TypeAlias = str
    Met: TypeAlias = str
    What: TypeAlias = str
else:
    Kind, Met, What = Literal[tuple(kinds())], Literal[values()["met"].words], Literal[values()["what"].words]
PLAN_KINDS = frozenset(k for k, kind in kinds().items() if kind.of == "plan")
CLEAR = values()["clear_m"].number
assert CLEAR is not None and CLEAR.least is not None
CLEAR_LEAST_M, CLEAR_MOST_M = CLEAR.least, CLEAR.most
SAME_DEPTH_M = INCH_M / 2
MORE_GAP_M = INCH_M / 2  # half an inch more or less under the wire is grass


class Event(Record):
    """One fact of one post, by its lasting name and the station it was planned at; or of the job, without a post.

    ``id`` made where it was seen; ``clock`` of that device, ``seq`` its own count.  Its values, with their meaning and bounds, and which of them
    each kind says, are those of ``data/kinds.toml``.  ``e_m``, ``n_m`` is where the post was planned on the ground, so that the fact
    stays there when the line's stations are others.
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
    reached_m: Annotated[float, bounded("reached_m")] | None = None
    met: Met | None = None
    proud_m: Annotated[float, bounded("proud_m")] | None = None
    along_m: Annotated[float, bounded("along_m")] | None = None
    across_m: Annotated[float, bounded("across_m")] | None = None
    clear_m: Annotated[float, bounded("clear_m")] | None = None
    outer_m: Annotated[float, bounded("outer_m")] | None = None
    inner_m: Annotated[float, bounded("inner_m")] | None = None
    ahead: bool | None = None
    of: Annotated[str, bounded("of")] | None = None
    plumb: bool | None = None
    what: What | None = None
    down_m: Annotated[float, bounded("down_m")] | None = None
    thing: Annotated[str, bounded("thing")] | None = None
    gap_m: Annotated[float, bounded("gap_m")] | None = None
    left_top: Annotated[float, bounded("left_top")] | None = None
    left_bottom: Annotated[float, bounded("left_bottom")] | None = None
    force_n: Annotated[float, bounded("force_n")] | None = None
    push_m: Annotated[float, bounded("push_m")] | None = None
    bay_m: Annotated[float, bounded("bay_m")] | None = None
    temp_c: Annotated[float, bounded("temp_c")] | None = None
    photo: Annotated[str, bounded("photo")] | None = None
    way: Annotated[str, bounded("way")] | None = None
    long_m: Annotated[float, bounded("long_m")] | None = None
    count: Annotated[int, bounded("count")] | None = None
    names: Annotated[str, bounded("names")] | None = None
    strokes: Annotated[str, bounded("strokes")] | None = None
    note: Annotated[str, bounded("note")] = ""
    e_m: Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)] | None = None
    n_m: Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)] | None = None

    @model_validator(mode="after")
    def _whole(self) -> "Event":
        if self.clock.tzinfo is None:
            raise ValueError("the clock must say its time zone, as in 2026-06-01T08:30:00Z")
        kind = kinds()[self.kind]
        if kind.of in ("plan", "post") and not (self.line and self.post):
            raise ValueError(f"an event of kind {self.kind} says of which line and post it is")
        said = {k for k in values() if k != "note" and getattr(self, k) is not None} | (
            {"note"} if self.note.strip() else set()
        )
        if missing := [k for k in kind.needs if k not in said]:
            raise ValueError(f"an event of kind {self.kind} says {' and '.join(kind.needs)}; {missing[0]} is missing")
        if kind.one_of and not said.intersection(kind.one_of):
            raise ValueError(f"an event of kind {self.kind} says one of {', '.join(kind.one_of)}")
        if extra := sorted(said - {"note"} - set(kind.needs) - set(kind.may)):
            raise ValueError(f"{extra[0]} does not belong to an event of kind {self.kind}")
        return self


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
