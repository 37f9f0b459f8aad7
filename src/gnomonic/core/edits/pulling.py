"""Edits of how a line is stretched: the day, what pulls, from where; what its rolls are sold in."""

from typing import Annotated, Literal

from pydantic import Field

from gnomonic.core.edits.command import Command, Station
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.course import course
from gnomonic.core.job.fence import NEAR_END_M, Fence, changed
from gnomonic.core.job.parts import PullWay, Reach
from gnomonic.core.pull.climate import climate
from gnomonic.core.pull.gear import MOST_PULLERS, puller
from gnomonic.core.say import Say

Key = Annotated[str, Field(max_length=24)]


class SetPull(Command):
    """On what day and with what a line is stretched; what is left out stays, ``forget`` takes a saying back."""

    do: Literal["set_pull"]
    temp_c: float | None = None
    puller: Key | None = None
    pullers: int | None = None
    forget: tuple[Literal["temp_c", "pullers"], ...] = ()


class PullFrom(Command):
    """From where the run about a station is pulled; without a ``way`` what was said is forgotten and the best is taken."""

    do: Literal["pull_from"]
    at_m: Station
    way: Literal["", "start", "end", "both"] = ""
    splice_m: Station | None = None


class SayRolls(Command):
    """What else the line's fabric is sold in, what a splice is worth as a length of fabric, and where none is made."""

    do: Literal["say_rolls"]
    also_m: Annotated[tuple[float, ...], Field(max_length=4)] | None = None
    splice_worth_m: float | None = None
    whole: Annotated[tuple[Reach, ...], Field(max_length=100)] | None = None


class SetClimate(Command):
    """The climate the job stands in."""

    do: Literal["set_climate"]
    climate: Key


PullEdit = SetPull | PullFrom | SayRolls | SetClimate


def apply_to_pull(fence: Fence, edit: PullEdit) -> Fence:
    """The fence after an edit of how it is stretched.  Raises BadInput, also where a day was said that the climate never has."""
    was = fence.own.pull
    match edit:
        case SetClimate(climate=key):
            climate(key)
            for own in fence.job.lines:
                if own.pull.temp_c is not None:
                    climate(key).check_day(own.pull.temp_c)
            return changed(fence, climate=key)
        case SayRolls():
            said_of = {k: v for k in ("also_m", "splice_worth_m", "whole") if (v := getattr(edit, k)) is not None}
            return changed(fence, rolls=fence.own.rolls.model_copy(update=said_of))
        case PullFrom():
            return changed(fence, pull=was.model_copy(update={"ways": _ways(fence, edit)}))
        case SetPull():
            said: dict[str, object] = dict.fromkeys(edit.forget)
            if edit.temp_c is not None:
                said["temp_c"] = climate(fence.job.climate).check_day(edit.temp_c)
            if edit.puller is not None:
                puller(edit.puller)
                said["puller"] = edit.puller
            if edit.pullers is not None:
                if not 1 <= edit.pullers <= MOST_PULLERS:
                    text = f"{edit.pullers} pullers can't draw it: one at least pulls, and no more than {MOST_PULLERS} hook on a bar"
                    raise BadInput("pullers", text)
                said["pullers"] = edit.pullers
            return changed(fence, pull=was.model_copy(update=said))


def _ways(fence: Fence, edit: PullFrom) -> tuple[PullWay, ...]:
    length = course(fence.line).length_m
    if edit.at_m > length:
        raise BadInput("at_m", Say("the line ends at {end}, before {at}", {"end": (length, "station"), "at": (edit.at_m, "station")}))  # fmt: skip
    kept = tuple(w for w in fence.own.pull.ways if abs(w.at_m - edit.at_m) > NEAR_END_M)
    if not edit.way:
        return kept
    if edit.way == "both" and edit.splice_m is None:
        raise BadInput("splice_m", "splice_m is missing: a run pulled both ways is spliced somewhere between its ends")
    splice = edit.splice_m if edit.way == "both" else None
    return (*kept, PullWay(at_m=edit.at_m, way=edit.way, splice_m=splice))
