"""Sentences with quantities in them, kept apart from the unit system they will be read in."""

import re
from collections.abc import Mapping, Sequence
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


def together(lead: str, sentences: Sequence[Say], end: str) -> Say:
    """Several sentences as one, parted by semicolons, each with its values.

    >>> together("so: ", [Say("at {a}", {"a": "1"}), Say("at {a}", {"a": "2"})], ".").text("us")
    'so: at 1; at 2.'
    """
    values = {f"s{n}_{k}": v for n, one in enumerate(sentences) for k, v in one.v.items()}
    parts = [re.sub(r"\{(\w+)\}", rf"{{s{n}_\1}}", one.t) for n, one in enumerate(sentences)]
    return Say(lead + "; ".join(parts) + end, values)


@dataclass(frozen=True, slots=True)
class Why:
    """What stands behind a number: the rule, the numbers put in, where it comes from, and what others hold."""

    rule: str
    working: Say
    source: str
    other: "Say | str" = ""
