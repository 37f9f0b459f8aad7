"""What the fencer decides: every decision with its start, its range and its reason (``data/decisions.toml``)."""

from functools import cache

from gnomonic.core.sourced import Sourced, read_data


class DecisionRule(Sourced):
    """What the fencer decides, with its start value and the range accepted (SI)."""

    label: str
    kind: str
    value: float
    least: float
    most: float


@cache
def decision_rules() -> dict[str, DecisionRule]:
    """Every decision by key, in the order of the file."""
    return {key: DecisionRule.model_validate(row) for key, row in read_data("decisions.toml", "job").items()}
