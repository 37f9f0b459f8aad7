"""The errors a user can cause.

GnomonicError
 ├── BadInput       one field is wrong; the sentence names it, what is wrong and what would be right
 │    └── NoPlan    everything can be read, but no plan keeps to all of it at once
 └── Away           a service outside does not answer, or not in a way that can be read; nothing was changed
"""

import re
from collections.abc import Mapping
from typing import Any, Literal, Protocol

from gnomonic.core.limits import MOST_QUOTED

_LONG = re.compile(f"“([^“”]{{{MOST_QUOTED - 1}}})[^“”]+”")
MOST_FIELD = 200


def quoting(sentence: str) -> str:
    """A sentence on one line whose quotes are cut to what a reader needs to find the place.

    >>> cut = quoting("row 2 has “" + "9" * 5000 + "”, which is no height")
    >>> len(cut), cut.endswith("9…”, which is no height")
    (112, True)
    """
    return _LONG.sub(r"“\1…”", " ".join(sentence.split()) if "\n" in sentence or "\r" in sentence else sentence)


class Said(Protocol):
    """A sentence that can be read in either unit system."""

    @property
    def t(self) -> str:
        """Its template."""
        ...

    @property
    def v(self) -> Mapping[str, Any]:
        """Its values."""
        ...

    def text(self, system: Literal["us", "metric"]) -> str:
        """The sentence in one unit system."""
        ...


class GnomonicError(Exception):
    """Base of every error raised on purpose."""


class BadInput(GnomonicError):
    """Something that was given cannot be used.

    ``field`` is a path such as ``profile[3]`` (empty when the whole input is meant); ``sentence`` is what
    the user reads and already contains the field where that helps.  Where it has lengths in it, it may be given with
    its values (``said``, a ``say.Say``), which a page prints in its own units.
    """

    def __init__(self, field: str, sentence: "str | Said") -> None:
        self.said = None if isinstance(sentence, str) else sentence
        self.sentence = quoting(sentence if isinstance(sentence, str) else sentence.text("metric"))
        self.field = field[:MOST_FIELD]
        super().__init__(self.sentence)


class NoPlan(BadInput):
    """What was given is in order one by one, but nothing can be built that keeps to all of it."""


class Away(GnomonicError):
    """A service outside is away; ``sentence`` is what the user reads, ``field`` what was asked of it."""

    def __init__(self, field: str, sentence: str) -> None:
        self.field, self.sentence = field, sentence
        super().__init__(sentence)
