"""A zig-zag of three bends within one run, as a job: for tests of pulls."""

import math

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.job.fence import one_line
from gnomonic.core.job.parts import MeasuredLine, Point, Source


def zigzag():
    east, north, bearing, places = 0.0, 0.0, 90.0, [(0.0, 0.0)]
    for turn in (0, 45, -60, 45):
        bearing += turn
        east, north = east + 30 * math.sin(math.radians(bearing)), north + 30 * math.cos(math.radians(bearing))
        places.append((east, north))
    points = tuple(Point(e_m=e, n_m=n, h_m=10.0) for e, n in places)
    job = one_line("zigzag", MeasuredLine(points=points, source=Source(kind="drawn", points_read=5)))
    return apply(job, read_edit({"do": "decide", "key": "corner_angle_deg", "value": 80}))
