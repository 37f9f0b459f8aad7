"""Thinning a measured line without moving it further than said."""

import numpy as np
import shapely
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Indices = NDArray[np.intp]


def simplify(table: Floats, tolerance_m: float) -> Indices:
    """Indices of points (n, 3: east, north, height) to keep so that neither plan nor heights move by more than the
    tolerance (m).

    Douglas–Peucker at half the tolerance on the plan and on the profile; keeping what either keeps splits a chord at
    points of the line itself, which at most doubles how far it is off.
    """
    plan = _kept(table[:, :2], tolerance_m / 2)
    stations = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(table[:, 0]), np.diff(table[:, 1])))])
    ground = _kept(np.column_stack([stations, table[:, 2]]), tolerance_m / 2)
    return np.union1d(plan, ground)


def _kept(points: Floats, tolerance_m: float) -> Indices:
    """Indices of the vertices Douglas–Peucker keeps; each vertex carries its index as a third coordinate."""
    numbered = shapely.linestrings(np.column_stack([points, np.arange(len(points), dtype=np.float64)]))
    kept = shapely.simplify(numbered, tolerance_m, preserve_topology=False)
    indices: Indices = shapely.get_coordinates(kept, include_z=True)[:, 2].astype(np.intp)
    return indices
