"""Thinning a measured line without moving it further than said."""

import numpy as np
from numba import njit
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Indices = NDArray[np.intp]
STRETCH = 2000  # points thinned at once: the work of the worst stretch grows with its square


def simplify(table: Floats, tolerance_m: float) -> Indices:
    """Indices of points (n, 3: east, north, height) to keep so that neither plan nor heights move by more than the
    tolerance (m).

    Douglas–Peucker at half the tolerance on the plan and on the profile; keeping what either keeps splits a chord at
    points of the line itself, which at most doubles how far it is off.
    """
    return np.flatnonzero(weights_m(table) > tolerance_m / 2)


def weights_m(table: Floats) -> Floats:
    """How far from its chord (m) each point (n, 3) stands, in plan or in profile, where Douglas–Peucker would split there.

    A tolerance keeps the points that weigh more than half of it; ends of the line, and of every stretch of 2,000 points,
    weigh infinitely.
    """
    stations = np.concatenate([[0.0], np.cumsum(np.hypot(np.diff(table[:, 0]), np.diff(table[:, 1])))])
    plan, ground = np.ascontiguousarray(table[:, :2]), np.column_stack([stations, table[:, 2]])
    return np.maximum(_weights(plan, STRETCH), _weights(ground, STRETCH))


@njit(cache=True, nogil=True)
def _weights(points: Floats, stretch: int) -> Floats:
    """Weight (n,) of each vertex (n, 2): what splits a chord weighs no more than the split it lies within."""
    last = len(points) - 1
    weight = np.zeros(last + 1)
    weight[0] = weight[last] = np.inf
    stack = np.empty((stretch + 2, 2), dtype=np.int64)
    for start in range(0, last, stretch):
        end = min(start + stretch, last)
        weight[start] = weight[end] = np.inf
        stack[0, 0], stack[0, 1] = start, end
        high = 1
        while high:
            high -= 1
            a, b = stack[high, 0], stack[high, 1]
            if b - a < 2:
                continue
            e, n = points[b, 0] - points[a, 0], points[b, 1] - points[a, 1]
            squared = e * e + n * n
            most, at = -1.0, a + 1
            for k in range(a + 1, b):
                x, y = points[k, 0] - points[a, 0], points[k, 1] - points[a, 1]
                share = min(1.0, max(0.0, (x * e + y * n) / squared)) if squared > 0 else 0.0
                off = (x - share * e) ** 2 + (y - share * n) ** 2
                if off > most:
                    most, at = off, k
            if most <= 0:
                continue
            weight[at] = min(np.sqrt(most), weight[a], weight[b])
            stack[high, 0], stack[high, 1] = a, at
            stack[high + 1, 0], stack[high + 1, 1] = at, b
            high += 2
    return weight
