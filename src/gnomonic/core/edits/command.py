"""What every edit is made of."""

from typing import Annotated, Any

from pydantic import Field

from gnomonic.core.job.document import Job
from gnomonic.core.record import Record

Station = Annotated[float, Field(ge=0, le=1e6, allow_inf_nan=False)]
Coordinate = Annotated[float, Field(ge=-1e7, le=1e7, allow_inf_nan=False)]
NEAR_M = 0.05


class Command(Record):
    """An edit; ``do`` names it."""


def changed(job: Job, **changes: Any) -> Job:
    """A checked copy of a job with some fields changed."""
    return Job.model_validate({**{name: getattr(job, name) for name in Job.model_fields}, **changes})
