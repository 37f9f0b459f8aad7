"""Heights of strands for a demand: as few wires as its openings leave, closest where it is strictest."""

from gnomonic.core.demand.demand import Demand
from gnomonic.core.demand.system import common_rule


def strand_heights(demand: Demand, wire: str) -> tuple[float, ...]:
    """Heights above the ground (m), rising, from the largest gap to the height demanded; empty when it takes too many.

    Each opening is as large as where it begins allows (openings only widen upward); the last ones, which allow the
    same, are made alike.  Source: derived.
    """
    if demand.height is None or demand.gap is None:
        return ()
    top, anything = demand.height.value, common_rule("strand_apart_m")
    most = common_rule(f"strands_{wire}")
    heights = [max(0.05, min(demand.gap.value, demand.most_at(0.0), common_rule("strand_lowest_m")))]
    while heights[-1] < top - 1e-9:
        if len(heights) >= most:
            return ()
        heights.append(min(top, heights[-1] + min(demand.most_at(heights[-1]), anything)))
    if len(heights) < 2:
        return ()
    if len(heights) < (least := demand.least_strands(wire)):
        # closest at the bottom: each wider than the one below, evenly so
        steps = [0.7 + 0.6 * k / max(1, least - 2) for k in range(least - 1)]
        rise = (top - heights[0]) / sum(steps)
        return tuple(round(heights[0] + rise * sum(steps[:k]), 4) for k in range(least))
    loosest = min(demand.most_at(heights[-2]), anything)
    first = next(k for k, h in enumerate(heights) if min(demand.most_at(h), anything) >= loosest - 1e-9)
    last = len(heights) - 1
    even = [heights[first] + (top - heights[first]) * (k - first) / (last - first) for k in range(first, last + 1)]
    return tuple(round(h, 4) for h in [*heights[:first], *even])
