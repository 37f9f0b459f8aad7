"""Edits of what posts stand in and how they are held: soil, braces of ends, single posts, where runs are ended by hand."""

from typing import Annotated, Literal

from pydantic import Field

from gnomonic.core.edits.command import NEAR_M, Command, Station
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import course
from gnomonic.core.job.fence import NEAR_END_M, NEAR_POST_M, Fence, changed
from gnomonic.core.job.parts import BraceAsk, EndBrace, Filler, PostAsk, SoilStretch
from gnomonic.core.say import Say
from gnomonic.core.soil.soils import soil

NEAR_LOW_M = 0.3
Key = Annotated[str, Field(max_length=24)]


class SaySoil(Command):
    """What the ground is: of the whole line, or between two stations; an empty soil forgets what was said there."""

    do: Literal["say_soil"]
    soil: Key
    wet: bool = False
    from_m: Station | None = None
    to_m: Station | None = None


class SayGround(Command):
    """How deep it freezes, and by which method posts are passed."""

    do: Literal["say_ground"]
    frost_m: Annotated[float, Field(ge=0, le=3)] | None = None
    method: Literal["ultimate", "code"] | None = None


class BraceEndEdit(BraceAsk, Command):
    """How an end is braced: the run ahead of or behind a station; without one, all ends of the line that are not other."""

    do: Literal["brace_end"]
    at_m: Station | None = None
    ahead: bool = True


class AskPost(Command):
    """What is asked of the post at a station and of those ``also`` named, over what was asked before; ``panels`` at the ends of
    runs there.  ``forget`` takes back what was asked of the post."""

    do: Literal["ask_post"]
    at_m: Station
    also: Annotated[tuple[Station, ...], Field(max_length=400)] = ()
    panels: Annotated[int, Field(ge=1, le=3)] | None = None
    depth_m: Annotated[float, Field(ge=0.2, le=3)] | None = None
    fill: Literal["", "tamped", "gravel", "concrete", "soil_cement"] = ""
    block: bool | None = None
    kind: Key = ""
    forget: bool = False


class EndRun(Command):
    """The run is ended here by a braced post, or (``end`` false) goes through again."""

    do: Literal["end_run"]
    at_m: Station
    end: bool = True


class LayRail(Command):
    """How a rigid top rail lies: straight where it can be, straight whatever that leaves (both ends raised, or only
    the first or the last), at the least height with the humps dug, or
    raked at posts."""

    do: Literal["lay_rail"]
    rail: Literal["", "straight", "first", "last", "trench", "raked"]


class ChooseSpacing(Command):
    """By which school posts are spaced: along the ground, evenly, or a full bay at a time with the odd one last."""

    do: Literal["choose_spacing"]
    spacing: Literal["", "even", "rule"]


class FillLow(Command):
    """What fills the low at a station; nothing leaves it to whoever comes by."""

    do: Literal["fill_low"]
    at_m: Station
    what: Literal["", "log", "stone", "skirt", "strand"]


StandingEdit = SaySoil | SayGround | BraceEndEdit | AskPost | EndRun | LayRail | ChooseSpacing | FillLow


def apply_to_standing(fence: Fence, edit: StandingEdit) -> Fence:
    """The next version of a line.  Raises BadInput when the edit does not fit it."""
    match edit:
        case SaySoil():
            return _soil(fence, edit)
        case SayGround(frost_m=frost, method=method):
            more = {k: v for k, v in (("frost_m", frost), ("method", method)) if v is not None}
            return changed(fence, soil=fence.soil.model_copy(update=more))
        case BraceEndEdit():
            return _brace(fence, edit)
        case ChooseSpacing(spacing=spacing):
            return changed(fence, spacing=spacing)
        case FillLow(at_m=at, what=what):
            left = tuple(f for f in fence.own.fillers if abs(f.at_m - at) > NEAR_LOW_M)
            if not what and len(left) == len(fence.own.fillers):
                raise BadInput("at_m", Say("nothing was chosen for the low at {at}", {"at": (at, "station")}))
            return changed(fence, fillers=(*left, Filler(at_m=at, what=what)) if what else left)
        case LayRail(rail=rail):
            return changed(fence, rail=rail)
        case AskPost():
            return _post(fence, edit)
        case EndRun(at_m=at, end=end):
            kept = tuple(s for s in fence.own.ends_at if abs(s - at) > NEAR_END_M)
            if not end and len(kept) == len(fence.own.ends_at):
                raise BadInput("at_m", Say("no run was ended by hand at {at}", {"at": (at, "station")}))
            length = course(fence.line).length_m
            if end and not NEAR_END_M < at < length - NEAR_END_M:
                raise BadInput(
                    "at_m",
                    Say("a run can't be ended at {at}: the line ends there, or before it", {"at": (at, "station")}),
                )
            return changed(fence, ends_at=tuple(sorted((*kept, at))) if end else kept)


def _soil(fence: Fence, edit: SaySoil) -> Fence:
    if edit.soil:
        soil(edit.soil)
    if (edit.from_m is None) != (edit.to_m is None):
        raise BadInput("to_m", "a stretch of soil has two ends: give from_m and to_m, or neither for the whole line")
    was = fence.soil
    if edit.from_m is None or edit.to_m is None:
        return changed(
            fence, soil=was.model_copy(update={"soil": edit.soil or "unknown", "wet": edit.wet, "stretches": ()})
        )
    low, high = min(edit.from_m, edit.to_m), max(edit.from_m, edit.to_m)
    if high - low < NEAR_M:
        raise BadInput("to_m", "a stretch of soil has some length: its two ends lie at one place")
    if edit.soil:
        kept = tuple(s for s in was.stretches if s.from_m < low - NEAR_M or s.to_m > high + NEAR_M)
        made = SoilStretch(from_m=low, to_m=high, soil=edit.soil, wet=edit.wet)
        return changed(fence, soil=was.model_copy(update={"stretches": (*kept, made)}))
    kept = tuple(s for s in was.stretches if s.to_m <= low + NEAR_M or s.from_m >= high - NEAR_M)
    if len(kept) == len(was.stretches):
        raise BadInput("from_m", "no soil was said of that stretch by itself")
    return changed(fence, soil=was.model_copy(update={"stretches": kept}))


def _brace(fence: Fence, edit: BraceEndEdit) -> Fence:
    asked = {k: getattr(edit, k) for k in BraceAsk.model_fields}
    ask = BraceAsk.model_validate(asked)
    if edit.at_m is None:
        return changed(fence, bracing=ask)
    at, ahead = edit.at_m, edit.ahead
    kept = tuple(b for b in fence.own.braces if abs(b.at_m - at) > NEAR_END_M or b.ahead != ahead)
    own = () if ask == BraceAsk() else (EndBrace.model_validate({**asked, "at_m": at, "ahead": ahead}),)
    return changed(fence, braces=(*kept, *own))


def _post(fence: Fence, edit: AskPost) -> Fence:
    for at in (edit.at_m, *edit.also):
        fence = _asked(fence, edit, at)
        for ahead in (True, False) if edit.panels else ():
            was = fence.bracing(at, ahead)
            own = {k: getattr(was, k) for k in BraceAsk.model_fields} | {"panels": edit.panels}
            made = EndBrace.model_validate({**own, "at_m": at, "ahead": ahead})
            rest = tuple(b for b in fence.own.braces if abs(b.at_m - at) > NEAR_END_M or b.ahead != ahead)
            fence = changed(fence, braces=(*rest, made))
    return fence


def _asked(fence: Fence, edit: AskPost, at: float) -> Fence:
    """One post with what is asked of it."""
    was = fence.asked_at(at)
    kept = tuple(a for a in fence.own.asked if abs(a.at_m - at) >= NEAR_POST_M)
    if edit.forget:
        if was is None:
            raise BadInput("at_m", Say("nothing was asked of the post at {at}", {"at": (at, "station")}))
        return changed(fence, asked=kept)
    before = was or PostAsk(at_m=at)
    if edit.depth_m is None and not edit.fill and edit.block is None and not edit.kind:
        return fence
    ask = PostAsk(
        at_m=before.at_m,
        depth_m=before.depth_m if edit.depth_m is None else edit.depth_m,
        fill=edit.fill or before.fill,
        block=before.block if edit.block is None else edit.block,
        kind=edit.kind or before.kind,
    )
    return changed(fence, asked=(*kept, ask))
