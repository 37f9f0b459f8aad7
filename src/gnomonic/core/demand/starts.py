"""Where decisions start under a barrier and a demand."""

from gnomonic.core.demand.demand import Demand
from gnomonic.core.demand.section import Section
from gnomonic.core.demand.system import common_rule
from gnomonic.core.job.decided import decision_rules
from gnomonic.core.sourced import Sourced


def reason_of(hung: Section, key: str) -> Sourced:
    """Why a decision starts where it does under a barrier: its make-up's reason, its system's, or the common one."""
    makeup = hung.system.makeup(hung.label)
    if key == "clearance_m" and makeup is not None and makeup.clearance_m is not None:
        return makeup
    return hung.system.start.get(key) or decision_rules()[key]


def starts_of(demand: Demand, hung: Section) -> dict[str, float]:
    """The system's start values, a make-up's own height, and the largest gap that is demanded."""
    starts = hung.system.starts()
    if (clear := hung.clearance_m) is not None:
        about = common_rule("strand_about_m")
        most = clear + about if demand.gap is None else max(clear, min(clear + about, demand.gap.value))
        starts |= {"clearance_m": clear, "gap_max_m": most, "gap_min_m": max(0.0, clear - about)}
    elif demand.gap and starts["clearance_m"] >= 0:
        starts["clearance_m"] = max(0.0, min(starts["clearance_m"], demand.gap.value - common_rule("under_gap_m")))
        starts["gap_min_m"] = min(starts["gap_min_m"], starts["clearance_m"])
        starts["gap_max_m"] = max(starts["clearance_m"], min(starts["gap_max_m"], demand.gap.value))
    return starts
