"""The set-out in plain Python, loop by loop: the reference that the bench and the tests hold the fast one to."""

Best = tuple[float, float]


def positive_area(first: float, second: float, width: float) -> float:
    """∫ max(0, f) over a segment on which f runs straight from first to second."""
    if first <= 0 and second <= 0:
        return 0.0
    if first >= 0 and second >= 0:
        return (first + second) / 2 * width
    top = max(first, second)
    return top * top / (2 * abs(first - second)) * width


def bay_cost(
    x: list[float], z: list[float], i: int, j: int, clearance: float, low: float, high: float, fill: float, cut: float
) -> float:
    """One post, and the fill and cut under the chord from node i to node j."""
    slope = (z[j] - z[i]) / (x[j] - x[i])
    total = 1.0
    before = clearance
    for m in range(i + 1, j + 1):
        after = clearance + z[i] + slope * (x[m] - x[i]) - z[m]
        width = x[m] - x[m - 1]
        total += fill * positive_area(before - high, after - high, width)
        total += cut * positive_area(low - before, low - after, width)
        before = after
    return total


def plain_set_out(
    x: list[float], z: list[float], allowed: list[bool], longest: float, clearance: float, low: float, high: float,
    fill: float = 4.0, cut: float = 8.0,
) -> Best:  # fmt: skip
    """Least (cost, Σ bay²) from the first node to the last; cost counts one post a bay."""
    n = len(x)
    best: list[Best] = [(float("inf"), float("inf"))] * n
    best[0] = (0.0, 0.0)
    for i in range(n - 1):
        if best[i][0] == float("inf") or not (allowed[i] or i == 0):
            continue
        for j in range(i + 1, n):
            length = x[j] - x[i]
            if length > longest + 1e-9:
                break
            if not (allowed[j] or j == n - 1):
                continue
            cost = round(best[i][0] + bay_cost(x, z, i, j, clearance, low, high, fill, cut), 9)
            candidate = (cost, best[i][1] + length * length)
            if candidate[0] < best[j][0] - 1e-7 or (
                abs(candidate[0] - best[j][0]) <= 1e-7 and candidate[1] < best[j][1]
            ):
                best[j] = candidate
    return best[-1]
