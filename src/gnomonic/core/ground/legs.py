"""The line as legs: what each is, how it was got and how good that is."""

import math
from dataclasses import dataclass

from gnomonic.core.ground.course import Course
from gnomonic.core.ground.measuring import methods
from gnomonic.core.job.parts import MeasuredLine


@dataclass(frozen=True, slots=True)
class LegRow:
    """One leg from point ``number`` to the next (counting from 0); bearing clockwise from north."""

    number: int
    to: int
    name: str
    at_m: float
    bearing_deg: float
    level_m: float
    slope_m: float
    rise_m: float
    how: str
    good_m: float | None


def legs(line: MeasuredLine, course: Course) -> list[LegRow]:
    """Every leg in order; ``name`` is that of the point it leads to."""
    rows = []
    count = len(line.points)
    for k in range(len(course.stations_m) - 1):
        east = float(course.east_m[k + 1] - course.east_m[k])
        north = float(course.north_m[k + 1] - course.north_m[k])
        rise = float(course.profile.heights_m[k + 1] - course.profile.heights_m[k])
        level = math.hypot(east, north)
        to = line.points[(k + 1) % count]
        closing = line.closed and k == count - 1
        how = methods()[to.how].title if to.how in methods() and not closing else "closes the line" if closing else ""
        rows.append(
            LegRow(
                k,
                (k + 1) % count,
                to.name,
                float(course.stations_m[k]),
                math.degrees(math.atan2(east, north)) % 360,
                level,
                math.hypot(level, rise),
                rise,
                how,
                None if closing else to.good_m,
            )
        )
    return rows
