"""What prices and stock are kept under: a ware's key, made of what is needed.

``post.wood-line-post.76@2438``: what it is, what that leaves open, how thick in mm, and after the @ how long in mm.
"""

import re
from dataclasses import dataclass
from functools import cache

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.haul.takeoff import Need

KEY = r"^[a-z0-9½¼¾⅛⅜⅝⅞./+-]{1,80}(@\d{1,7})?$"


@dataclass(frozen=True, slots=True)
class Ware:
    """A ``family`` of things that differ in length alone, and a length (mm, 0: none)."""

    family: str
    long_mm: int = 0

    @property
    def key(self) -> str:
        """How it is written.

        >>> Ware("post.wood-line-post.76", 2438).key, ware("staple").key
        ('post.wood-line-post.76@2438', 'staple')
        """
        return f"{self.family}@{self.long_mm}" if self.long_mm else self.family

    @property
    def long_m(self) -> float:
        """Its length."""
        return self.long_mm / 1000


def ware(key: str) -> Ware:
    """A ware by its key."""
    family, _, long = key.partition("@")
    return Ware(family, int(long) if long else 0)


def ware_of(need: Need) -> Ware:
    """The ware a need is for; of what is cut to fit the length is what it is cut from."""
    across = round(need.across_m * 1000)
    family = family_of(need.of, need.sold_as, str(across) if across else "")
    return Ware(family, 0 if need.cuts_m and not need.size_m else round(need.size_m * 1000))


def family_of(*parts: str) -> str:
    """A family's key, or the start of one.

    >>> family_of("post", "wood line post"), family_of("brace_wire")
    ('post.wood-line-post', 'brace-wire')
    """
    return ".".join(_slug(p) for p in parts if p)


def _slug(text: str) -> str:
    return re.sub(r"[^a-z0-9½¼¾⅛⅜⅝⅞/+-]+", "-", text.lower()).strip("-")


def across_mm(family: str) -> int:
    """How thick things of a family are (mm), 0 where that is not said."""
    last = family.rpartition(".")[2]
    return int(last) if last.isdigit() and "." in family else 0


UNIT_WORDS = {"": "each", "m": "m", "m3": "m3"}  # as a price list writes them


def unit_of(key: str) -> str:
    """What a ware is counted in: pieces (empty), ``m`` or ``m3``."""
    of = ware(key).family.partition(".")[0]
    return _units().get(of, "")


@cache
def _units() -> dict[str, str]:
    """Units of the catalog by the first part of a ware's key; brace wire is sold by the metre."""
    return {_slug(key): item.unit for key, item in catalog().items()} | {"brace-wire": "m"}
