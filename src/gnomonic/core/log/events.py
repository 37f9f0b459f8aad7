"""Facts from the field: events that are kept once, whatever order they come in, and folded into what is known of each post.

Never edits of the document.  Source: docs/method.md §11.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from typing import Annotated, Literal

from pydantic import ConfigDict, Field, model_validator

from gnomonic.core.record import Record
from gnomonic.core.units import INCH_M

PLAIN_TEXT = r"^[^\x00-\x1f\x7f]*$"
Text = Annotated[str, Field(max_length=200, pattern=PLAIN_TEXT)]
Deep = Annotated[float, Field(ge=0, le=4, allow_inf_nan=False)]
Shift = Annotated[float, Field(ge=-3, le=3, allow_inf_nan=False)]
Met = Literal["rock", "root", "water", "pipe", "soft", "nothing"]
Kind = Literal["depth", "proud", "moved", "redug", "clear", "pilot", "accept", "cut", "void"]
NEEDS: dict[str, tuple[str, ...]] = {
    "depth": ("reached_m",),
    "proud": ("proud_m",),
    "moved": ("along_m",),
    "redug": ("along_m",),
    "clear": ("clear_m", "ahead"),
    "pilot": ("reached_m", "met"),
    "accept": (),
    "cut": (),
    "void": ("of",),
}
MAY = {"depth": ("met",), "moved": ("across_m",), "clear": ("outer_m", "inner_m"), "pilot": (), "accept": (), "cut": ()}
CLEAR_LEAST_M, CLEAR_MOST_M = 0.5, 4.5
SAME_DEPTH_M = INCH_M / 2


class Event(Record):
    """One fact of one post, by its lasting name and the station it was planned at.

    ``id`` made where it was seen; ``clock`` of that device, ``seq`` its own count.  Values by kind: ``reached_m`` depth and what it ``met``;
    ``proud_m`` its head over where it was planned; ``along_m`` (on along the line) and ``across_m`` (to the right) it moved, or its hole was dug again (``redug``); ``clear_m`` between the faces
    of a brace's posts, their ``outer_m`` and ``inner_m`` thickness; ``of`` the event a void takes back.  ``e_m``, ``n_m`` is where the post
    was planned on the ground, so that the fact stays there when the line's stations are others.
    """

    model_config = ConfigDict(strict=True)
    id: Annotated[str, Field(pattern=r"^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$")]
    device: Annotated[str, Field(pattern=r"^[A-Za-z0-9-]{1,40}$")]
    seq: Annotated[int, Field(ge=0, le=2**53)]
    clock: Annotated[datetime, Field(strict=False)]
    author: Text = ""
    line: Annotated[str, Field(pattern=r"^[A-Z]{1,3}$")]
    post: Annotated[str, Field(pattern=r"^[0-9]{1,6}[a-z]{0,4}$")]
    at_m: Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]
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
    note: Text = ""
    e_m: Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)] | None = None
    n_m: Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)] | None = None

    @model_validator(mode="after")
    def _whole(self) -> "Event":
        if self.clock.tzinfo is None:
            raise ValueError("the clock must say its time zone, as in 2026-06-01T08:30:00Z")
        values = {k for k in Event.model_fields if k in VALUES and getattr(self, k) is not None}
        needs = NEEDS[self.kind]
        if missing := [k for k in needs if k not in values]:
            raise ValueError(f"an event of kind {self.kind} says {' and '.join(needs)}; {missing[0]} is missing")
        if extra := sorted(values - set(needs) - set(MAY.get(self.kind, ()))):
            raise ValueError(f"{extra[0]} does not belong to an event of kind {self.kind}")
        if self.clear_m is not None and not CLEAR_LEAST_M <= self.clear_m <= CLEAR_MOST_M:
            raise ValueError(
                f"clear_m is {self.clear_m:g}; between the posts of a brace it is {CLEAR_LEAST_M:g} to {CLEAR_MOST_M:g} m"
            )
        return self


VALUES = ("reached_m", "met", "proud_m", "along_m", "across_m", "clear_m", "outer_m", "inner_m", "ahead", "of")


@dataclass(frozen=True, slots=True)
class Kept:
    """An event as it was kept: with what its device's clock was behind when it came in."""

    event: Event
    offset: timedelta = timedelta()

    @property
    def order(self) -> tuple[datetime, str, int]:
        """Corrected clock, device, its count: the same on every machine."""
        return self.event.clock + self.offset, self.event.device, self.event.seq


@dataclass(frozen=True, slots=True)
class Clear:
    """A brace as measured: clear distance between faces and the posts' thickness, where that was."""

    ahead: bool
    clear_m: float
    outer_m: float | None
    inner_m: float | None


@dataclass(frozen=True, slots=True)
class Built:
    """What is known of one post as built; ``said`` the events that stand, ``earlier`` those that another stands over."""

    post: str
    at_m: float
    reached_m: float | None = None
    met: str = ""
    proud_m: float | None = None
    along_m: float = 0.0
    across_m: float = 0.0
    pilot_m: float | None = None
    pilot_met: str = ""
    accepted: bool = False
    cut: bool = False
    clear: tuple[Clear, ...] = ()
    place_m: tuple[float, float] | None = None
    said: tuple[str, ...] = ()
    earlier: tuple[str, ...] = ()

    @property
    def stands_m(self) -> float:
        """The station it stands at."""
        return self.at_m + self.along_m


Known = Mapping[str, tuple[Built, ...]]  # by line letter


@dataclass(slots=True)
class _Of:
    """A post while its events are folded: what is known, and the event that says each thing."""

    built: Built
    by: dict[str, str] = field(default_factory=dict)
    over: list[str] = field(default_factory=list)

    def take(self, key: str, event: Event) -> None:
        if key in self.by:
            self.over.append(self.by[key])
        self.by[key] = event.id


def fold(kept: Iterable[Kept]) -> dict[str, tuple[Built, ...]]:
    """What is known of every post, by line, in order of the stations.

    The later event on one thing stands, the earlier is named; a void takes one back.  Any order of arrival gives the same.
    """
    events = sorted({k.event.id: k for k in kept}.values(), key=lambda k: k.order)
    gone = {k.event.of for k in events if k.event.kind == "void"}
    found: dict[tuple[str, str], _Of] = {}
    for e in (k.event for k in events if k.event.id not in gone and k.event.kind != "void"):
        of = found.setdefault((e.line, e.post), _Of(Built(e.post, e.at_m)))
        b = of.built
        match e.kind:
            case "depth":
                b = replace(b, reached_m=e.reached_m, met=e.met or "", accepted=False, cut=False)
            case "proud":
                b = replace(b, proud_m=e.proud_m, accepted=False, cut=False)
            case "moved":
                b = replace(b, at_m=e.at_m, along_m=e.along_m or 0.0, across_m=e.across_m or 0.0)
            case "redug":  # the hole was given up: what was reached in it is no fact of the post any more
                b = Built(b.post, e.at_m, along_m=e.along_m or 0.0, clear=b.clear)
            case "pilot":
                b = replace(b, pilot_m=e.reached_m, pilot_met=e.met or "")
            case "clear":
                own = Clear(bool(e.ahead), e.clear_m or 0.0, e.outer_m, e.inner_m)
                b = replace(b, clear=(*(c for c in b.clear if c.ahead != own.ahead), own))
            case "accept":
                b = replace(b, accepted=True)
            case "cut":
                b = replace(b, cut=True)
        if e.e_m is not None and e.n_m is not None:
            b = replace(b, place_m=(e.e_m, e.n_m))
        of.built = b
        of.take(f"{e.kind}{e.ahead if e.kind == 'clear' else ''}", e)
    lines: dict[str, list[Built]] = {}
    for (line, _), of in found.items():
        lines.setdefault(line, []).append(replace(of.built, said=tuple(of.by.values()), earlier=tuple(of.over)))
    return {line: tuple(sorted(rows, key=lambda b: (b.at_m, b.post))) for line, rows in lines.items()}
