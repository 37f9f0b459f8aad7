"""Heights of strands for a demand: as few wires as its openings leave, closest where it is strictest."""

from gnomonic.core.demand.demand import Demand

ANYTHING_M = 0.35  # where no opening is demanded
LOWEST_M = 0.45
MOST = {"barbed": 6, "plain": 12}


def strand_heights(demand: Demand, wire: str) -> tuple[float, ...]:
    """Heights above the ground (m), rising, from the largest gap to the height demanded; empty when it takes too many.

    Each opening is as large as where it begins allows (openings only widen upward); the last ones, which allow the
    same, are made alike.  Source: derived.
    """
    if demand.height is None or demand.gap is None:
        return ()
    top = demand.height.value
    heights = [max(0.05, min(demand.gap.value, demand.most_at(0.0), LOWEST_M))]
    while heights[-1] < top - 1e-9:
        if len(heights) >= MOST[wire]:
            return ()
        heights.append(min(top, heights[-1] + min(demand.most_at(heights[-1]), ANYTHING_M)))
    if len(heights) < 2:
        return ()
    loosest = min(demand.most_at(heights[-2]), ANYTHING_M)
    first = next(k for k, h in enumerate(heights) if min(demand.most_at(h), ANYTHING_M) >= loosest - 1e-9)
    last = len(heights) - 1
    even = [heights[first] + (top - heights[first]) * (k - first) / (last - first) for k in range(first, last + 1)]
    return tuple(round(h, 4) for h in [*heights[:first], *even])
