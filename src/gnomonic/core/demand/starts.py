"""Where decisions start under a barrier and a demand."""

from gnomonic.core.demand.demand import Demand
from gnomonic.core.demand.section import Section

ABOUT_M = 0.0762  # a strand's height gives or takes 3 in with the ground (common practice)
UNDER_M = 0.0127  # posts hang it half an inch lower than the gap allowed, for the ground between them (common practice)


def starts_of(demand: Demand, hung: Section) -> dict[str, float]:
    """The system's start values, a make-up's own height, and the largest gap that is demanded."""
    starts = hung.system.starts()
    if (clear := hung.clearance_m) is not None:
        most = clear + ABOUT_M if demand.gap is None else max(clear, min(clear + ABOUT_M, demand.gap.value))
        starts |= {"clearance_m": clear, "gap_max_m": most, "gap_min_m": max(0.0, clear - ABOUT_M)}
    elif demand.gap and starts["clearance_m"] >= 0:
        starts["clearance_m"] = max(0.0, min(starts["clearance_m"], demand.gap.value - UNDER_M))
        starts["gap_min_m"] = min(starts["gap_min_m"], starts["clearance_m"])
        starts["gap_max_m"] = max(starts["clearance_m"], min(starts["gap_max_m"], demand.gap.value))
    return starts
