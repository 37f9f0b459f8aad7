"""What is said at the counter: a label with its gauges, knot and roll length in one breath; and wires not on file.

Source: common practice.
"""

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise, product

from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.fabrics import Fabric, fabrics
from gnomonic.core.fabric.label import (
    PAIR_GAUGE,
    STAY_IN,
    WIRES,
    WOVEN_HEIGHT_IN,
    RollLabel,
    gauge_pair,
    halves,
    read_label,
    run_together,
    triples,
    within,
)
from gnomonic.core.units import FOOT_M, plain_fractions

KNOTS = {
    "hinge": r"hinge(?:d)?(?:[ -]joint)?s?",
    "fixed": r"fixed(?:[ -]knot)?s?",
    "square": r"square(?:[ -](?:lock|deal|knot))?s?",
    "s": r"s[ -]knots?",
}
KNOT_WORDS = {
    "hinge": "hinge joints, which slide along the wires: the weakest knot, and the one that folds rather than bends",
    "fixed": "fixed knots, the hardest to push apart: posts may stand wider",
    "square": "square locks, for a close mesh",
    "s": "S-knots, between a hinge joint and a fixed knot",
}
ROLL_M = (5.0, 1000.0)
SOLD_FT = {"woven": (165.0, 200.0, 330.0, 660.0), "chain_link": (50.0, 100.0), "gauge_pair": ()}
_ROLL = r"(?<![\d.])(\d+(?:\.\d+)?)\s*(ft|feet|foot|'|′|m|metres?|meters?)(?![a-z])(?:\s*rolls?)?"
_SAID = (
    r"wires?|line|high|height|tall|stays?|apart|every|inch(?:es)?|in|gauges?|ga|top|bottom|fillers?|and|rolls?|of|woven|fenc(?:e|ing)|field|mesh|fabric|"
    r"horse|cattle|deer|galvani[sz]ed|chain[ -]?link|(?:no|non)[ -]?climb|high[ -]tensile|with|at|the|label|a|long|diamonds?|knots?|joints?"
)
_OTHER_GOODS = (
    r"welded|weld|hex\w*|netting|net|cloth|hardware|sheet\w*|rabbit|poultry|chicken|panels?|barb(?:ed|s)?|strands?"
)
_NUMBER = re.compile(r"\d+(?:\.\d+)?")
NO_CLIMB_IN = (2.0, 4.0)


class Unclear(BadInput):
    """A label with something left out; ``offers`` are labels that it may be."""

    def __init__(self, sentence: str, offers: Sequence[str] = ()) -> None:
        super().__init__("label", sentence + (f"; on file nearest: {', '.join(offers)}" if offers else ""))
        self.offers = tuple(offers)


@dataclass(frozen=True, slots=True)
class RollSaid:
    """One roll as said: its label, or its gauges alone; knot and length where they were said, with what was taken for
    granted in ``assumed``.
    """

    label: RollLabel | None
    gauges: RollLabel | None
    knot: str
    roll_m: float | None
    assumed: str = ""


@dataclass(slots=True)
class _Numbers:
    """The numbers of a label in order; ``glued`` says which are joined to the next by a dash or a stroke."""

    values: list[float]
    glued: list[bool]
    crossed: int | None  # the first of two numbers with a × between them

    def part(self, start: int, count: int) -> list[float] | None:
        """A run of numbers that were written alike: all joined, or all apart; joined to nothing beyond it."""
        inside = self.glued[start : start + count - 1]
        before = start > 0 and self.glued[start - 1]
        after = start + count < len(self.values) and self.glued[start + count - 1]
        return None if before or after or len(set(inside)) > 1 else self.values[start : start + count]


def read_roll(text: str) -> RollSaid:
    """Read what is printed on a label or said at the counter.  Raises Unclear (``label``) naming what is missing.

    >>> said = read_roll("13-48-12 fixed knot 12½/12½ 330 ft")
    >>> said.label.line_wires, said.gauges.filler_gauge, said.knot, round(said.roll_m, 3)
    (13, 12.5, 'fixed', 100.584)
    """
    shown = text.strip()
    body, knot = _knot(_plain(shown), shown)
    body, roll_m, feet_in = _roll_length(body)
    body, alone = _one_gauge(body)
    numbers = _numbers(body, shown)
    if feet_in is not None:
        numbers.values.append(feet_in)
        numbers.glued.append(False)
    if numbers.crossed is not None:
        return _no_climb(numbers, shown, knot, alone, roll_m)
    found = dict.fromkeys(_readings(numbers, roll_m))
    if alone is not None and len(found) == 1 and next(iter(found))[0] is None:
        found = {}
    if not found:
        raise _missing(numbers, shown)
    if len(found) > 1:
        both = "; or ".join(one.words for label, gauges, _ in found if (one := label or gauges))
        raise Unclear(f"label “{shown}” reads two ways: {both}: write it with dashes between all its parts")
    label, gauges, said_m = next(iter(found))
    if alone is not None and gauges is None and label and label.kind == "woven":
        gauges = RollLabel("gauge_pair", outer_gauge=alone, filler_gauge=alone)
    assumed = "" if said_m is None else f"{said_m / FOOT_M:.0f} is taken for feet, as such rolls are sold"
    return RollSaid(label, gauges, knot, roll_m if said_m is None else said_m, assumed)


def _plain(text: str) -> str:
    """Fractions written out as decimals, dashes alike, inch marks gone."""
    body = re.sub(r"[‐‑‒–—―−]", "-", plain_fractions(text)).replace("⁄", "/")
    fraction = r"([1357])/([248])(?!\d)"
    body = re.sub(rf"(\d+)(?: |-){fraction}", lambda m: f"{int(m[1]) + int(m[2]) / int(m[3]):g}", body)
    body = re.sub(rf"(?<![\d/.-]){fraction}", lambda m: f"{int(m[1]) / int(m[2]):g}", body)
    return re.sub(r"[\"″”]|\bclass ?[13]\b", " ", body, flags=re.IGNORECASE)


def _knot(body: str, shown: str) -> tuple[str, str]:
    knot = ""
    for name, pattern in KNOTS.items():
        if match := re.search(rf"\b{pattern}\b", body, re.IGNORECASE):
            if knot:
                raise Unclear(f"label “{shown}” names two knots: {knot} and {name}")
            knot, body = name, body[: match.start()] + " " + body[match.end() :]
    return body, knot


def _roll_length(body: str) -> tuple[str, float | None, float | None]:
    """The rest, a roll's length (m), and a height said in feet (in)."""
    match = re.search(_ROLL, body, re.IGNORECASE)
    if not match:
        return body, None, None
    value, metric = float(match.group(1)), match.group(2).lower().startswith("m")
    rest = body[: match.start()] + " " + body[match.end() :]
    if not metric and value <= 10:
        return rest, None, value * 12
    roll_m = value * (1.0 if metric else FOOT_M)
    if not ROLL_M[0] <= roll_m <= ROLL_M[1]:
        raise Unclear(f"a roll of {match.group(0).strip()} is not sold: 5 to 1000 m are")
    return rest, roll_m, None


def _one_gauge(body: str) -> tuple[str, float | None]:
    """The rest, and a gauge said of all wires alike: “12½ gauge” with no other beside it."""
    match = re.search(r"(?<![\d./-])(\d+(?:\.\d+)?)\s*(?:gauges?|ga)\b", body, re.IGNORECASE)
    if not match or not within(float(match.group(1)), PAIR_GAUGE):
        return body, None
    rest = body[: match.start()] + " " + body[match.end() :]
    before = body[: match.start()].rstrip()
    if re.search(r"chain[ -]?link", body, re.IGNORECASE) or before.endswith(("/", "-", "and")):
        return body, None
    return rest, float(match.group(1))


def _not_read(word: str, shown: str) -> Unclear:
    """A word that means nothing here, or names goods that no label like these is printed on."""
    if not re.fullmatch(_OTHER_GOODS, word, re.IGNORECASE):
        return Unclear(f"label “{shown}” says “{word}”, which is not read: leave it out")
    held = ", ".join(name for name in fabrics() if name.startswith(word.casefold()))
    return Unclear(
        f"label “{shown}” says “{word}”: only woven fabric, no-climb and chain-link are read from their labels; "
        f"choose it under Hold of a line{f', where there is {held}' if held else ''}"
    )


def _numbers(body: str, shown: str) -> _Numbers:
    """Raises Unclear for a word that means nothing here, and where there is no number."""
    found = list(_NUMBER.finditer(body))
    between = [body[a.end() : b.start()] for a, b in pairwise(found)]
    ends = [body[: found[0].start()], body[found[-1].end() :]] if found else [body]
    crossed = next((k for k, gap in enumerate(between) if re.fullmatch(r"\s*(?:in\s*)?[x×]\s*", gap, re.I)), None)
    for k, gap in enumerate([*between, *ends]):
        left = re.sub(rf"\b(?:{_SAID})\b\.?", " ", gap, flags=re.IGNORECASE)
        if k != crossed and (word := re.search(r"[^\s,;:()/\-]+", left)):
            raise _not_read(word.group(0), shown)
    if not found:
        raise Unclear(f"label “{shown}” names no fabric: write it like 9-49-6, 1348-12 or 48-11-2")
    glued = [gap.strip() in ("-", "/") for gap in between]
    return _Numbers([float(m.group(0)) for m in found], glued, crossed)


Reading = tuple[RollLabel | None, RollLabel | None, float | None]


def _labels(part: list[float]) -> list[RollLabel]:
    if len(part) == 3:
        return triples(*part)
    return run_together(f"{part[0]:g}", part[1]) if part[0] >= 100 and part[0] == int(part[0]) else []


def _readings(numbers: _Numbers, roll_m: float | None) -> Iterator[Reading]:
    """Every way to part the numbers into a label, gauges and a roll's length."""
    total = len(numbers.values)
    for order, wide, rolled in product(("label", "label pair", "pair label", "pair"), (3, 2), (0, 1)):
        counts = {"label": wide, "pair": 2}
        kinds = order.split()
        if sum(counts[k] for k in kinds) + rolled != total or (rolled and roll_m is not None):
            continue
        start, label_at, pair_at = 0, None, None
        for kind in kinds:
            part = numbers.part(start, counts[kind])
            label_at, pair_at = (part, pair_at) if kind == "label" else (label_at, part)
            start += counts[kind]
        labels = _labels(label_at) if label_at else []
        pair = gauge_pair(*pair_at) if pair_at else None
        if ("label" in kinds) != bool(labels) or ("pair" in kinds) != bool(pair):
            continue
        if pair and labels and labels[0].kind != "woven":
            continue
        read: list[RollLabel | None] = list(labels) or [None]
        for label in read:
            last = numbers.values[-1]
            if not rolled:
                yield label, pair, None
            elif last in SOLD_FT[label.kind if label else "gauge_pair"]:
                yield label, pair, last * FOOT_M


def _no_climb(numbers: _Numbers, shown: str, knot: str, alone: float | None, roll_m: float | None) -> RollSaid:
    """Horse mesh by its openings: line wires 4 in apart, uprights 2 in, as high as said."""
    k = numbers.crossed or 0
    mesh = sorted(numbers.values[k : k + 2])
    rest = numbers.values[:k] + numbers.values[k + 2 :]
    heights = [v for v in rest if within(v, WOVEN_HEIGHT_IN)]
    if tuple(mesh) != NO_CLIMB_IN:
        raise Unclear(
            f"label “{shown}” says a mesh of {mesh[0]:g} × {mesh[1]:g} in: 2 × 4 in no-climb is read so; write others "
            "as line wires – height – stays"
        )
    if not heights:
        offers = [name for name, f in fabrics().items() if f.spacing_in and set(f.spacing_in) == {4.0}]
        raise Unclear(f"label “{shown}” says the mesh but not the height: write it like 2x4 48 no climb", offers)
    rolls = [v for v in rest if v != heights[0] and v in SOLD_FT["woven"]]
    if len(rest) != 1 + len(rolls):
        raise Unclear(f"label “{shown}” has numbers too many: write it like 2x4 48 no climb 200 ft")
    wires = round(heights[0] / mesh[1]) + 1
    label = RollLabel("woven", line_wires=wires, height_in=heights[0], stay_in=mesh[0])
    gauges = None if alone is None else RollLabel("gauge_pair", outer_gauge=alone, filler_gauge=alone)
    taken = "2 × 4 in no-climb has its line wires 4 in apart and its uprights 2 in"
    return RollSaid(label, gauges, knot or "square", rolls[0] * FOOT_M if rolls else roll_m, taken)


def _missing(numbers: _Numbers, shown: str) -> Unclear:
    """What was left out, and what on file is nearest."""
    values = [v for v in numbers.values if v == int(v)]
    first = [] if all(numbers.glued[:2]) and len(values) > 2 else values[:2]
    if len(numbers.values) in (4, 5) and len(values) >= 3 and (labels := _labels(values[:3])):
        last = numbers.values[-1]
        return Unclear(
            f"label “{shown}” ends in {halves(last)}: if that is the roll, write its unit, as in {last:g} ft or {last:g} m",
            [fabric.label for fabric in nearest(labels[0])][:1],
        )
    if len(first) == 2 and within(first[0], WOVEN_HEIGHT_IN) and within(first[1], STAY_IN):
        like = [
            f for f in _woven() if abs(f.height_m / 0.0254 - first[0]) <= 3 and abs(f.stay_m / 0.0254 - first[1]) < 0.1
        ]
        offers = [f.label for f in like] or [f.label for f in nearest(_like(0, *first))]
        write = f"write it like {_usual(first[0])}-{first[0]:g}-{first[1]:g}"
        return Unclear(
            f"label “{shown}” says height and stays but not how many line wires: count them and {write}", offers
        )
    if len(first) == 2 and within(first[0], WIRES) and within(first[1], WOVEN_HEIGHT_IN):
        offers = [f.label for f in _woven() if f.wires == first[0] and abs(f.height_m / 0.0254 - first[1]) <= 3]
        write = f"measure it and write it like {first[0]:g}-{first[1]:g}-6"
        return Unclear(f"label “{shown}” says wires and height but not how far apart its stays are: {write}", offers)
    sentence = f"label “{shown}” is not a roll that is made: write it like 9-49-6, 1348-12, 12½/14½ or 48-11-2"
    return Unclear(sentence, [f.label for f in nearest(_like(*values[:3]))] if len(values) >= 3 else [])


def _usual(height_in: float) -> int:
    """How many line wires a fabric so high usually has."""
    return min(_woven(), key=lambda f: abs(f.height_m / 0.0254 - height_in)).wires


def _like(wires: float, height: float, stay: float) -> RollLabel:
    return RollLabel("woven", line_wires=int(wires), height_in=height, stay_in=stay)


def _woven() -> list[Fabric]:
    return [f for f in fabrics().values() if f.spacing_in]


def nearest(label: RollLabel, most: int = 2) -> list[Fabric]:
    """Fabrics on file of a label's kind, those nearest to it first."""
    if label.kind == "chain_link":
        link = [f for f in fabrics().values() if f.kind == "link"]
        return sorted(link, key=lambda f: abs(f.height_m / 0.0254 - (label.height_in or 0)))[:most]

    def far(fabric: Fabric) -> float:
        own = read_label(fabric.label)
        count = abs((own.line_wires or 0) - label.line_wires) * 2 if label.line_wires else 0
        return (
            count + abs((own.height_in or 0) - (label.height_in or 0)) + abs((own.stay_in or 0) - (label.stay_in or 0))
        )

    return sorted(_woven(), key=far)[:most]


def graduated_in(wires: int, height_in: float) -> tuple[float, ...]:
    """Spacings of a fabric that is not on file, as fabrics usually are: each wider than the one below, evenly so.

    The lowest is three fifths of the mean, the highest seven fifths.  Source: from memory.

    >>> graduated_in(3, 20.0)
    (6.0, 14.0)
    """
    count = wires - 1
    mean = height_in / count
    if count == 1:
        return (height_in,)
    return tuple(mean * (0.6 + 0.8 * k / (count - 1)) for k in range(count))
