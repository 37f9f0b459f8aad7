"""Edits of what the barrier must hold and of what is hung."""

import json
from typing import Any, Literal

from pydantic import Field

from gnomonic.core.demand.animals import Book
from gnomonic.core.demand.demand import Demand, demand_of
from gnomonic.core.demand.section import Section, section
from gnomonic.core.demand.starts import starts_of
from gnomonic.core.demand.system import system
from gnomonic.core.edits.command import Command
from gnomonic.core.errors import BadInput
from gnomonic.core.job.fence import Fence, changed
from gnomonic.core.job.parts import PLAIN_TEXT, Barrier, Decisions, Hold, SharedPost


class HangFabric(Command):
    """Hang another fabric of the same system, by its label."""

    do: Literal["hang_fabric"]
    label: str = Field(max_length=40)


class HangBarrier(Command):
    """Hang another barrier; decisions still where the one before started them go to where this one starts."""

    do: Literal["hang_barrier"]
    system: str = Field(max_length=32)
    label: str = Field(max_length=120)
    extras: tuple[str, ...] = ()
    schools: dict[str, str] = Field(default_factory=dict)
    strands_m: tuple[float, ...] = ()
    side: Literal["", "left", "right"] = ""
    own: dict[str, Any] | None = None


class ChooseWay(Command):
    """Where the trade disagrees, go one school's way."""

    do: Literal["choose_way"]
    school: str = Field(max_length=32)
    way: str = Field(max_length=32)


class SayHold(Command):
    """What the barrier must hold or keep out."""

    do: Literal["say_hold"]
    hold: dict[str, Any]


class SharePost(Command):
    """An end of the line stands on a post of another line; an empty ``of`` takes it back."""

    do: Literal["share_post"]
    at: Literal["start", "end"]
    of: str = Field(max_length=120, pattern=PLAIN_TEXT)


BarrierEdit = HangFabric | HangBarrier | ChooseWay | SayHold | SharePost


def apply_to_barrier(fence: Fence, edit: BarrierEdit, book: Book | None = None) -> Fence:
    """The next version of a line.  Raises BadInput, and pydantic's error for a hold that is none."""
    match edit:
        case HangFabric(label=label):
            return changed(
                fence, barrier=fence.barrier.model_copy(update={"label": label, "strands_m": (), "own": None})
            )
        case HangBarrier():
            said = {**edit.model_dump(exclude={"do", "line"}, mode="json"), "schools": _schools(fence.barrier, edit)}
            barrier = Barrier.model_validate_json(json.dumps(said))
            hung = section(
                barrier.system, barrier.label, barrier.extras, barrier.schools, barrier.strands_m, barrier.own
            )
            return changed(fence, barrier=barrier, decisions=started(fence, hung, book))
        case ChooseWay(school=school, way=way):
            schools = {**fence.barrier.schools, school: way}
            b = fence.barrier
            section(b.system, b.label, b.extras, schools, b.strands_m, b.own)
            return changed(fence, barrier=b.model_copy(update={"schools": schools}))
        case SayHold(hold=hold):
            held = Hold.model_validate_json(json.dumps(hold))
            demand_of(held, book)
            return changed(fence, hold=held)
        case SharePost(at=at, of=of):
            if fence.line.closed:
                raise BadInput("at", "a closed line has no end to share a post with")
            kept = tuple(s for s in fence.shared if s.at != at)
            return changed(fence, shared=(*kept, SharedPost(at=at, of=of)) if of else kept)


def _schools(was: Barrier, edit: HangBarrier) -> dict[str, str]:
    """Ways chosen before, where the new barrier has the same choice, and those chosen with it."""
    known = {(s.key, w.key) for s in system(edit.system).schools for w in s.ways}
    return {key: way for key, way in was.schools.items() if (key, way) in known} | edit.schools


def started(fence: Fence, hung: Section, book: Book | None = None) -> Decisions:
    """Decisions under a new barrier: those still where the barrier before started them go to where this one does.

    Where what was decided by hand does not fit, all go to the start.
    """
    b, demand = fence.barrier, demand_of(fence.hold, book)
    hanging = section(b.system, b.label, b.extras, b.schools, b.strands_m, b.own)
    untouched = starts_of(demand, hanging), starts_of(Demand(), hanging)
    after, now = starts_of(demand, hung), fence.decisions.model_dump()
    kept = {k: v for k, v in now.items() if min(abs(v - start[k]) for start in untouched) > 1e-9}
    try:
        return Decisions.model_validate({**after, **kept})
    except ValueError:
        return Decisions.model_validate(after)
