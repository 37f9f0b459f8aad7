"""The measured line as a course with stations: plan, profile, turns, and where it crosses itself."""

from dataclasses import dataclass

import numpy as np
import shapely

from gnomonic.core.errors import BadInput
from gnomonic.core.ground.profile import LONGEST_M, Floats, Profile
from gnomonic.core.job.parts import MeasuredLine


@dataclass(frozen=True, slots=True)
class Course:
    """Stations along a measured line.  Arrays (n,) per vertex; a closed line ends on its first point again."""

    stations_m: Floats
    east_m: Floats
    north_m: Floats
    profile: Profile
    closed: bool

    @property
    def length_m(self) -> float:
        """Plan length."""
        return float(self.stations_m[-1])

    def place(self, station_m: float) -> tuple[float, float]:
        """East and north at a station."""
        east, north = self.places(np.array([station_m]))
        return east[0], north[0]

    def places(self, stations_m: Floats) -> tuple[list[float], list[float]]:
        """East and north at many stations."""
        return (
            np.interp(stations_m, self.stations_m, self.east_m).tolist(),
            np.interp(stations_m, self.stations_m, self.north_m).tolist(),
        )

    def turns_deg(self) -> Floats:
        """Turn at each vertex (n,), right positive; 0 at the ends of an open line, both ends alike when closed."""
        bearing = np.degrees(np.arctan2(np.diff(self.east_m), np.diff(self.north_m)))
        turn = np.zeros(len(self.stations_m))
        turn[1:-1] = np.diff(bearing)
        if self.closed:
            turn[0] = turn[-1] = bearing[0] - bearing[-1]
        return (turn + 180.0) % 360.0 - 180.0

    def area_m2(self) -> float | None:
        """Area enclosed by a closed line (shoelace), None for an open one."""
        if not self.closed:
            return None
        e, n = self.east_m, self.north_m
        return float(abs(np.dot(e[:-1], n[1:]) - np.dot(e[1:], n[:-1])) / 2)


def course(line: MeasuredLine) -> Course:
    """Lay stations along a measured line.  Raises BadInput (``line``) for one too long, or on ground that can't be."""
    table = np.array([(p.e_m, p.n_m, p.h_m) for p in line.points], dtype=np.float64)
    if line.closed:
        table = np.vstack([table, table[:1]])
    legs = np.hypot(np.diff(table[:, 0]), np.diff(table[:, 1]))
    stations = np.concatenate([[0.0], np.cumsum(legs)])
    if stations[-1] > LONGEST_M:
        limit = LONGEST_M / 1000
        raise BadInput(
            "line", f"the line is {stations[-1] / 1000:.0f} km long; more than {limit:.0f} km is more than one job"
        )
    profile = Profile(stations, table[:, 2])
    profile.check("line", "point {n}")
    return Course(stations, table[:, 0], table[:, 1], profile, line.closed)


def self_crossing(east_m: Floats, north_m: Floats) -> tuple[int, int] | None:
    """The first two legs (by index) of a line that cross or touch though they are not neighbours, or None.

    The first and last legs of a line that returns to its start may meet there.
    """
    points = np.column_stack([east_m, north_m])
    legs = shapely.linestrings(np.stack([points[:-1], points[1:]], axis=1))
    first, second = shapely.STRtree(legs).query(legs, predicate="intersects")
    apart = second - first
    far = apart > 1
    if np.allclose(points[0], points[-1], atol=1e-6):
        far &= ~((first == 0) & (second == len(legs) - 1))
    hits = np.flatnonzero(far)
    if not len(hits):
        return None
    k = hits[np.lexsort((second[hits], first[hits]))[0]]
    return int(first[k]), int(second[k])
