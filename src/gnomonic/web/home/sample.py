"""A line to try everything on before one of one's own is measured, and to throw away."""

from gnomonic.core.ground.measuring import methods
from gnomonic.core.job.document import Job
from gnomonic.core.job.fence import one_line
from gnomonic.core.job.parts import MeasuredLine, Point, Source

FILE = "sample line"
NAME = "Sample line"
# East, north and height in metres: invented ground with a dip, a hump and one corner.
PLACES = (
    (0.0, 0.0, 2.0), (12.0, 1.0, 2.3), (22.0, 2.0, 1.9), (26.0, 2.4, 1.2), (29.0, 2.6, 1.0), (33.0, 3.0, 1.8), (44.0, 4.0, 2.6),
    (55.0, 5.0, 3.4), (61.0, 5.4, 3.9), (66.0, 5.8, 3.5), (80.0, 7.0, 2.9), (82.0, 24.0, 2.4), (84.0, 40.0, 2.0), (86.0, 58.0, 2.2),
)  # fmt: skip


def job() -> Job:
    """The sample as a job of one line."""
    good = methods()["tape"].fixed_m
    points = tuple(Point(e_m=e, n_m=n, h_m=h, how="tape", good_m=good) for e, n, h in PLACES)
    source = Source(kind="drawn", file=FILE, points_read=len(points), notes=("a sample: nobody measured it",))
    return one_line(NAME, MeasuredLine(points=points, closed=False, source=source))


def is_sample(made: Job) -> bool:
    """Whether a job is the sample."""
    return any(line.measured.source.file == FILE for line in made.lines)
