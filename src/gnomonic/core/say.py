"""Sentences with quantities in them, kept apart from the unit system they will be read in."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field

from gnomonic.core.units import System, format_quantity


@dataclass(frozen=True, slots=True)
class Say:
    """A template such as ``{gap} under the wire at {at}`` with values ``{"gap": (0.2, "gap"), …}`` in SI.

    A value may also be plain text, which is put in as it stands; braces that name no value stay as they are.

    >>> Say("a post at {at}", {"at": (3.048, "station")}).text("us")
    'a post at 10 ft'
    """

    t: str
    v: Mapping[str, tuple[float, str] | str] = field(default_factory=dict)

    def text(self, system: System) -> str:
        """The sentence in one unit system."""

        def put(match: re.Match[str]) -> str:
            value = self.v.get(match.group(1), match.group(0))
            return value if isinstance(value, str) else format_quantity(value[0], value[1], system)

        return re.sub(r"\{(\w+)\}", put, self.t)


@dataclass(frozen=True, slots=True)
class Why:
    """What stands behind a number: the rule, the numbers put in, where it comes from, and what others hold."""

    rule: str
    working: Say
    source: str
    other: "Say | str" = ""
