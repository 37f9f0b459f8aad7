"""What keeps lines joined when one of them is mended: a joined end goes with its post, and the post with the end."""

from gnomonic.core.edits.measured import mended_fence
from gnomonic.core.errors import BadInput
from gnomonic.core.ground import mend
from gnomonic.core.ground.course import Course, course
from gnomonic.core.ground.joined import check_circles, check_joins, nearest_station, vertex_at
from gnomonic.core.job.document import Job, Join
from gnomonic.core.job.fence import Fence, checked, fence_of
from gnomonic.core.say import Say

ON_IT_M = 0.0005


def courses_of(job: Job) -> dict[str, Course]:
    """Every line of a job as a course, by its letter."""
    return {line.id: course(line.measured) for line in job.lines}


def joined_at(fence: Fence, index: int) -> Join | None:
    """The join of the end that is this measured point, if it is one and stands on another line."""
    if fence.line.closed or index not in (0, len(fence.line.points) - 1):
        return None
    end = "start" if index == 0 else "end"
    return next((j for j in fence.job.joins if (j.line, j.end) == (fence.id, end)), None)


def move_joined(fence: Fence, join: Join, e_m: float, n_m: float, h_m: float | None) -> Fence:
    """Move an end that stands on another line: a corner or an end of that line goes with it; on a leg it slides along."""
    other = fence_of(fence.job, join.on)
    way = course(other.line)
    vertex = vertex_at(way, join.at_m)
    if vertex is not None:
        deeper = joined_at(other, vertex)
        if deeper is not None:
            moved = move_joined(other, deeper, e_m, n_m, h_m)
        else:
            moved = mended_fence(other, mend.move_point(other.line, vertex, e_m, n_m, h_m))
        return fence_of(moved.job, fence.id)
    at, _ = nearest_station(way, e_m, n_m)
    slid = join.model_copy(update={"at_m": at})
    job = checked(fence.job, joins=tuple(slid if j is join else j for j in fence.job.joins))
    return fence_of(job, fence.id)


def settled(job: Job) -> Job:
    """The job with every joined end on its post, heights with it.  Raises BadInput for joins that can't be.

    An end is settled after the ends its own place hangs on; joins do not go in circles, so that comes to an end.
    """
    if not job.joins:
        return job
    check_circles(job, courses_of(job))
    for _ in range(len(job.joins) + 1):
        still = True
        for join in sorted(job.joins, key=lambda j: (j.line, j.end)):
            current = next((j for j in job.joins if (j.line, j.end) == (join.line, join.end)), None)
            if current is None:
                continue
            after = _set_down(job, current)
            still &= after is job
            job = after
        if still:
            break
    check_joins(job, courses_of(job))
    return job


def _set_down(job: Job, join: Join) -> Job:
    """The job with one end put on its post; the job itself where it stands there."""
    fence, other = fence_of(job, join.line), fence_of(job, join.on)
    way, own = course(other.line), course(fence.line)
    if join.at_m > way.length_m + 0.001:
        raise BadInput(
            "joins",
            Say(
                "{name} is joined to {on} at {at}, beyond its end at {end}",
                {"name": fence.name, "on": other.name, "at": (join.at_m, "station"), "end": (way.length_m, "station")},
            ),
        )
    east, north = way.place(join.at_m)
    index = 0 if join.end == "start" else len(fence.line.points) - 1
    point = fence.line.points[index]
    off = max(abs(point.e_m - east), abs(point.n_m - north))
    height = point.h_m
    if not (fence.line.level or other.line.level):
        height = round(float(way.profile.at(own.stations_m[:1] * 0 + join.at_m)[0]), 4)
    if off < ON_IT_M and abs(height - point.h_m) < ON_IT_M:
        return job
    moved = mended_fence(fence, mend.move_point(fence.line, index, round(east, 6), round(north, 6), height))
    return moved.job
