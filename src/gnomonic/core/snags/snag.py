"""A snag and its remedies."""

from dataclasses import dataclass
from typing import Any

from gnomonic.core.say import Say


@dataclass(frozen=True, slots=True)
class Remedy:
    """A way out: what it does, and the edit that does it."""

    label: Say
    edit: dict[str, Any]


@dataclass(frozen=True, slots=True)
class Snag:
    """``weight`` orders snags (larger is worse); ``grave`` ones stop the build; ``go`` names the page where it is seen to."""

    code: str
    grave: bool
    weight: float
    at_m: float
    title: Say
    consequence: Say
    remedies: tuple[Remedy, ...] = ()
    go: str = ""
