"""Rules of buying, cutting and charging (``data/rules.toml``)."""

from functools import cache

from gnomonic.core.sourced import Rule, read_data


@cache
def haul_rules() -> dict[str, Rule]:
    """Every rule by its key."""
    return {key: Rule.model_validate(row) for key, row in read_data("rules.toml", "haul").items()}


def haul_rule(key: str) -> float:
    """The value of one."""
    return haul_rules()[key].value
