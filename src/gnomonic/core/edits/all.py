"""Edits: commands that make the next version of a Job.

An edit is a JSON object whose ``do`` names it; ``apply`` returns the new Job and never changes the old one.
"""

from typing import Annotated, Any

from pydantic import Field, TypeAdapter, ValidationError

from gnomonic.core.demand.animals import Book
from gnomonic.core.edits.barrier import BarrierEdit, apply_to_barrier
from gnomonic.core.edits.gates import GateEdit, MendGates, apply_to_gates, mended_gates
from gnomonic.core.edits.joining import joined_at, move_joined, settled
from gnomonic.core.edits.lines import LinesEdit, apply_to_lines, named
from gnomonic.core.edits.measured import AddPoint, CloseLine, LineEdit, MovePoint, apply_to_line
from gnomonic.core.edits.posts import PostEdit, apply_to_posts
from gnomonic.core.edits.pulling import PullEdit, apply_to_pull
from gnomonic.core.edits.standing import StandingEdit, apply_to_standing
from gnomonic.core.errors import BadInput
from gnomonic.core.job.document import Job
from gnomonic.core.job.fence import Fence
from gnomonic.core.job.reading import first_error

Edit = Annotated[
    PostEdit | GateEdit | MendGates | StandingEdit | PullEdit | BarrierEdit | LineEdit | LinesEdit,
    Field(discriminator="do"),
]
_ADAPTER: TypeAdapter[Edit] = TypeAdapter(Edit)


def edit_schema() -> dict[str, Any]:
    """The JSON schema of all edits."""
    return _ADAPTER.json_schema()


def read_edit(data: Any) -> Edit:
    """Read an edit from plain data.  Raises BadInput."""
    try:
        return _ADAPTER.validate_python(data)
    except ValidationError as error:
        bad = first_error(error)
        name = f"{data['do']}." if isinstance(data, dict) and "do" in data else ""
        raise BadInput(bad.field.removeprefix(name), bad.sentence.removeprefix(name)) from None


def apply(job: Job, edit: Edit, book: Book | None = None) -> Job:
    """The next version of a job, under a workspace's rule book (the shipped one unless given).

    Lines that stand on one that is mended go with it; an edit that mends no line leaves every end where it is.  Raises BadInput when the edit does not fit the job.
    """
    try:
        if isinstance(edit, MendGates):
            return mended_gates(job, edit)
        if isinstance(edit, LinesEdit):
            return settled(apply_to_lines(job, edit))
        after = _of_the_line(named(job, edit.line), edit, book).job
        return settled(after) if isinstance(edit, LineEdit) else after
    except ValidationError as error:
        raise first_error(error) from None


def _of_the_line(
    fence: Fence, edit: PostEdit | GateEdit | StandingEdit | PullEdit | BarrierEdit | LineEdit, book: Book | None
) -> Fence:
    if isinstance(edit, PostEdit):
        return apply_to_posts(fence, edit)
    if isinstance(edit, GateEdit):
        return apply_to_gates(fence, edit)
    if isinstance(edit, StandingEdit):
        return apply_to_standing(fence, edit)
    if isinstance(edit, PullEdit):
        return apply_to_pull(fence, edit)
    if isinstance(edit, BarrierEdit):
        return apply_to_barrier(fence, edit, book)
    if isinstance(edit, MovePoint) and (join := joined_at(fence, edit.index)):
        return move_joined(fence, join, edit.e_m, edit.n_m, edit.h_m)
    if isinstance(edit, AddPoint):
        _free_end(fence, "start" if edit.at_start else "end", "run on")
    if isinstance(edit, CloseLine):
        for end in ("start", "end"):
            _free_end(fence, end, "closed")
    return apply_to_line(fence, edit)


def _free_end(fence: Fence, end: str, what: str) -> None:
    """Raises BadInput (``line``) where an end stands on another line."""
    join = next((j for j in fence.job.joins if (j.line, j.end) == (fence.id, end)), None)
    if join is not None:
        on = fence.job.line(join.on).name
        raise BadInput("line", f"the {end} of {fence.name} stands on {on}: part it from there before it is {what}")
