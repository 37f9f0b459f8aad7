"""Sentences with quantities in them, kept apart from the unit system they will be read in."""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from gnomonic.core.prose import Both, in_both
from gnomonic.core.units import System, format_quantity

Value = tuple[float, str] | str | Both
Values = dict[str, Value]


@dataclass(frozen=True, slots=True)
class Say:
    """A template such as ``{gap} under the wire at {at}`` with values ``{"gap": (0.2, "gap"), …}`` in SI.

    A value may also be plain text, which is put in as it stands; braces that name no value stay as they are.  Lengths
    written out in the template are said in the reader's units too (``prose.py``); names belong among the values.

    >>> Say("a post at {at}", {"at": (3.048, "station")}).text("us")
    'a post at 10 ft'
    >>> Say("{n}: 2 to 3 in under it", {"n": "the 4 in gap"}).text("metric")
    'the 4 in gap: 50 to 75 mm under it'
    """

    t: str
    v: Mapping[str, Value] = field(default_factory=dict)

    def spoken(self) -> tuple[str, Mapping[str, Value]]:
        """Template and values, lengths of the template among the values."""
        template, more = in_both(self.t)
        return template, {**self.v, **dict(more)} if more else self.v

    def text(self, system: System) -> str:
        """The sentence in one unit system."""
        template, values = self.spoken()

        def put(match: re.Match[str]) -> str:
            value = values.get(match.group(1), match.group(0))
            if isinstance(value, Both):
                return value.us if system == "us" else value.metric
            return value if isinstance(value, str) else format_quantity(value[0], value[1], system)

        return re.sub(r"\{(~?\w+)\}", put, template)


def together(lead: str, sentences: Sequence[Say], end: str, between: str = "; ") -> Say:
    """Several sentences as one, parted by semicolons unless told, each with its values.

    >>> together("so: ", [Say("at {a}", {"a": "1"}), Say("at {a}", {"a": "2"})], ".").text("us")
    'so: at 1; at 2.'
    """
    values = {f"s{n}_{k}": v for n, one in enumerate(sentences) for k, v in one.v.items()}
    parts = [re.sub(r"\{(\w+)\}", rf"{{s{n}_\1}}", one.t) for n, one in enumerate(sentences)]
    return Say(lead + between.join(parts) + end, values)


@dataclass(frozen=True, slots=True)
class Why:
    """What stands behind a number: the rule, the numbers put in, where it comes from, and what others hold."""

    rule: str
    working: Say
    source: str
    other: "Say | str" = ""
