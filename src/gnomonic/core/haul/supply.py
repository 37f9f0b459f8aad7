"""Where what is needed comes from: what lies there first, cut where it may be, then bought in whole packs.

Source: common practice, the order; cutting and buying as in docs/method.md §17.
"""

import math
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache

from gnomonic.core.demand.catalog import catalog
from gnomonic.core.errors import BadInput
from gnomonic.core.haul.buying import Buying, buy, missing_of
from gnomonic.core.haul.cutting import Cut, Length, cut_lengths
from gnomonic.core.haul.held import Held
from gnomonic.core.haul.prices import Seller, unit_prices
from gnomonic.core.haul.rules import haul_rule
from gnomonic.core.haul.takeoff import JobNeed
from gnomonic.core.haul.wares import Ware, across_mm, ware, ware_of

NOTHING = Buying((), 0)
UNPRICED = 10**7  # cents a metre: what nobody sells is cut from what is on hand wherever that goes
FINE = 10**4  # parts of a unit that amounts are counted in


@dataclass(frozen=True, slots=True)
class Lot:
    """Something on hand that a job may use: how much of it is free or the job's own already."""

    held: Held
    free: Fraction


@dataclass(frozen=True, slots=True)
class Wanted:
    """A line of the job's take-off as it is bought: of a ware ``qty``, ``spare`` more of it, ``held`` of it from what is on hand."""

    both: JobNeed
    ware: Ware
    qty: Fraction
    spare: Fraction
    held: Fraction

    @property
    def left(self) -> Fraction:
        """What is to be bought of it, where nothing is cut."""
        return max(Fraction(0), self.qty + self.spare - self.held)


@dataclass(frozen=True, slots=True)
class Sawn:
    """Needs of one family cut from lengths; ``names`` says what a length of the plan is: a lot's id, or a ware's key that is bought."""

    family: str
    cut: Cut
    names: Mapping[str, str]
    lots: Mapping[str, int]


@dataclass(frozen=True, slots=True)
class Supply:
    """Where everything comes from: what is ``used`` of each lot, what is sawn, what is ``short`` (needed, not on hand, by ware), who sells it,
    and what of it nobody sells."""

    wanted: tuple[Wanted, ...]
    used: Mapping[str, Fraction]
    sawn: tuple[Sawn, ...]
    short: Mapping[str, Fraction]
    buying: Buying
    unpriced: tuple[str, ...]
    refused: str = ""

    def units(self, key: str) -> Fraction:
        """What is bought of a ware."""
        return sum((b.units for o in self.buying.orders for b in o.lines if b.offer.item == key), Fraction(0))

    def paid(self, key: str) -> int:
        """What that costs."""
        return sum(b.price for o in self.buying.orders for b in o.lines if b.offer.item == key)


def supply(needs: Sequence[JobNeed], lots: Sequence[Lot], sellers: Sequence[Seller], temporary: bool = False) -> Supply:
    """Supply a job's take-off; what does not last goes into ``temporary`` work only.

    What nobody sells, or too little of, is left out of the buying and named (``unpriced``); where no order can be made up at all, that is
    all of it, and ``refused`` says why.
    """
    lots = [lot for lot in lots if lot.free > 0 and (temporary or lot.held.lasting)]
    bought = [n for n in needs if not _free(n)]
    sawn_of: dict[str, list[JobNeed]] = defaultdict(list)
    for need in bought:
        if need.need.cuts_m:
            sawn_of[ware_of(need.need).family].append(need)
    each = unit_prices(sellers)
    used: dict[str, Fraction] = defaultdict(Fraction)
    short: dict[str, Fraction] = defaultdict(Fraction)
    sawn = []
    for family, rows in sawn_of.items():
        made = _saw(family, rows, lots, each)
        for lot, number in made.lots.items():
            used[lot] += number
        for row in made.cut.layout:
            if row.name.startswith("buy"):
                short[made.names[row.name]] += 1
        sawn.append(made)
    wanted = []
    for need in bought:
        key = ware_of(need.need)
        qty, spare = _exact(need), _spare(need)
        held = Fraction(0)
        if need.need.cuts_m:
            held = Fraction(_from_lots(key.family, need, sawn))
        else:
            for one in (lot for lot in lots if lot.held.item == key.key):
                take = min(one.free - used[one.held.id], qty + spare - held)
                if take > 0:
                    used[one.held.id] += take
                    held += take
        wanted.append(Wanted(need, key, qty, spare, held))
        if not need.need.cuts_m and wanted[-1].left > 0:
            short[key.key] += wanted[-1].left
    suppliers = [s.sells(short) for s in sellers]
    unpriced = tuple(key for key, qty in short.items() if missing_of(key, qty, suppliers))
    buying, refused = NOTHING, ""
    try:
        buying = buy({key: qty for key, qty in short.items() if key not in unpriced}, suppliers)
    except BadInput as error:
        refused, unpriced = error.sentence, tuple(short)
    return Supply(
        tuple(wanted), {k: v for k, v in used.items() if v}, tuple(sawn), dict(short), buying, unpriced, refused
    )


def _free(need: JobNeed) -> bool:
    """Whether nothing is bought for it: it is made on the spot."""
    item = catalog().get(need.need.of)
    return item is not None and item.index == 0


def _exact(need: JobNeed) -> Fraction:
    """How much of it, rounded up to what is counted; a hair's breadth of reckoning is no part."""
    whole = need.count if need.need.unit else math.ceil(need.count - 1e-6)
    return Fraction(math.ceil(whole * FINE - 1e-3), FINE)


def _spare(need: JobNeed) -> Fraction:
    """A spare for every hundred begun of small fittings."""
    small = need.need.use in ("fitting", "brace_pin", "brace_staple") and not need.need.unit
    hundreds = math.ceil(need.count / 100 - 1e-9) if small and need.count > 0 else 0
    return Fraction(hundreds) * Fraction(str(haul_rule("spare_per_hundred")))


def _saw(family: str, rows: Sequence[JobNeed], lots: Sequence[Lot], each: Mapping[str, Fraction]) -> Sawn:
    """Cut the needs of a family from lots and lengths sold, for the least money."""
    pieces = [(m, 1) for both in rows for m in pieces_of(both)]
    lengths: list[Length] = []
    names: dict[str, str] = {}
    for lot in lots:
        of = ware(lot.held.item)
        if of.family == family and of.long_mm and lot.free >= 1:
            names[f"have{len(lengths)}"] = lot.held.id
            lengths.append(Length(f"have{len(lengths)}", of.long_m, lot.held.value, int(lot.free)))
    sold = {key: price for key, price in each.items() if ware(key).family == family and ware(key).long_mm}
    longest = max((ware(key).long_m for key in sold), default=0.0)
    for key, price in sold.items():
        names[f"buy{len(lengths)}"] = key
        lengths.append(Length(f"buy{len(lengths)}", ware(key).long_m, math.ceil(price)))
    for both in rows:  # by the piece, or as long as it is needed where nobody sells that
        of = ware_of(both.need)
        for piece in [of.long_m] if of.long_mm else sorted(set(pieces_of(both))):
            if piece > longest or (of.key in each and not of.long_mm):
                names[f"buy{len(lengths)}"] = of.key
                price = each.get(of.key, Fraction(UNPRICED) * Fraction(piece))
                lengths.append(Length(f"buy{len(lengths)}", piece, math.ceil(price)))
    cut = _cut(tuple(pieces), tuple(lengths), haul_rule("kerf_m"))
    opened: dict[str, int] = defaultdict(int)
    for row in cut.layout:
        if row.name.startswith("have"):
            opened[names[row.name]] += 1
    return Sawn(family, cut, names, dict(opened))


CUTS_KEPT = 512


@lru_cache(maxsize=CUTS_KEPT)
def _cut(pieces: tuple[tuple[float, int], ...], lengths: tuple[Length, ...], kerf_m: float) -> Cut:
    """A family cut once: most are alike from one way to build a line to the next."""
    return cut_lengths(pieces, lengths, kerf_m)


def pieces_of(both: JobNeed) -> list[float]:
    """Pieces that are cut for a need; no longer than what is sold for it, which is named to the millimetre."""
    most = ware_of(both.need).long_m
    return [round(min(m, most) if most else m, 4) for _, need in both.needs for m in need.cuts_m]


def _from_lots(family: str, need: JobNeed, sawn: Sequence[Sawn]) -> int:
    """Pieces of a need that are cut from what is on hand, as far as pieces of its length are."""
    lengths = pieces_of(need)
    cut = [
        m for s in sawn if s.family == family for row in s.cut.layout if row.name.startswith("have") for m in row.cuts_m
    ]
    return sum(min(lengths.count(m), cut.count(m)) for m in set(lengths))


@dataclass(frozen=True, slots=True)
class Substitute:
    """A thicker thing of the same make and length that could be taken in place of one that is dear or not to be had; never taken by itself."""

    key: str
    instead_of: str
    saves: Fraction | None
    on_hand: Fraction


def substitutes(made: Supply, lots: Sequence[Lot], sellers: Sequence[Seller]) -> list[Substitute]:
    """What could be taken instead of what is short: the same thing a little thicker, on hand or cheaper or the only one sold."""
    each, most = unit_prices(sellers), haul_rule("thicker_most")
    there = {ware(lot.held.item).key: lot.free - made.used.get(lot.held.id, 0) for lot in lots if lot.held.lasting}
    found = []
    for key, qty in made.short.items():
        of = ware(key)
        thick = across_mm(of.family)
        if not thick:
            continue
        stem = of.family.rpartition(".")[0]
        for other in dict.fromkeys([*there, *each]):
            at = ware(other)
            across = across_mm(at.family)
            alike = at.family.rpartition(".")[0] == stem and at.long_mm == of.long_mm
            if not alike or not thick < across <= thick * most:
                continue
            saves = (each[key] - each[other]) * qty if key in each and other in each else None
            if key not in each or there.get(other, 0) > 0 or (saves is not None and saves > 0):
                found.append(Substitute(other, key, saves, there.get(other, Fraction(0))))
    return found
