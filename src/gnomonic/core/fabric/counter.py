"""What is said at the counter: a label with its gauges, knot and roll length in one breath; and wires not on file.

Source: common practice.
"""

import re
from dataclasses import dataclass

from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.label import RollLabel, read_label
from gnomonic.core.units import parse_length_m

KNOTS = {
    "hinge": r"hinge(?:d)?(?:[ -]joint)?",
    "fixed": r"fixed(?:[ -]knot)?",
    "square": r"square(?:[ -](?:lock|deal|knot))?",
    "s": r"s[ -]knot",
}
KNOT_WORDS = {
    "hinge": "hinge joints, which slide along the wires: the weakest knot, and the one that folds rather than bends",
    "fixed": "fixed knots, the hardest to push apart: posts may stand wider",
    "square": "square locks, for a close mesh",
    "s": "S-knots, between a hinge joint and a fixed knot",
}
_GAUGE = r"(?:[89]|1\d|20)(?:\.5|½| ?1/2)?"
_GAUGES = rf"{_GAUGE}\s*/\s*{_GAUGE}"
_ROLL = r"(\d+(?:\.\d+)?)\s*(ft|feet|foot|'|m|metres?|meters?)(?:\s*rolls?)?"
ROLL_M = (5.0, 1000.0)


@dataclass(frozen=True, slots=True)
class RollSaid:
    """One roll as said: its label, or its gauges alone; knot and length where they were said."""

    label: RollLabel | None
    gauges: RollLabel | None
    knot: str
    roll_m: float | None


def read_roll(text: str) -> RollSaid:
    """Read what is printed on a label or said at the counter.  Raises BadInput (``label``).

    >>> said = read_roll("13-48-12 fixed knot 12½/12½ 330 ft")
    >>> said.label.line_wires, said.gauges.filler_gauge, said.knot, round(said.roll_m, 3)
    (13, 12.5, 'fixed', 100.584)
    """
    body, knot = text.strip(), ""
    for name, pattern in KNOTS.items():
        if match := re.search(rf"\b{pattern}\b", body, re.IGNORECASE):
            if knot:
                raise BadInput("label", f"label “{text.strip()}” names two knots: {knot} and {name}")
            knot, body = name, body[: match.start()] + " " + body[match.end() :]
    roll_m = None
    if match := re.search(rf"(?<![-\d]){_ROLL}\s*$", body.strip(), re.IGNORECASE):
        whole = body.strip()
        roll_m = parse_length_m(f"{match.group(1)} {match.group(2)[:1].replace('f', 'ft')}")
        if not ROLL_M[0] <= roll_m <= ROLL_M[1]:
            raise BadInput("label", f"a roll of {match.group(0).strip()} is not sold: 5 to 1000 m are")
        body = whole[: match.start()]
    gauges = None
    if match := re.search(rf"(?<![-\d]){_GAUGES}\s*(?:ga(?:uge)?)?", body, re.IGNORECASE):
        gauges = read_label(match.group(0))
        body = body[: match.start()] + " " + body[match.end() :]
    body = body.strip(" ,;")
    label = read_label(body) if body else None
    if label is None and gauges is None:
        raise BadInput("label", f"label “{text.strip()}” names no fabric: write it like 9-49-6, 1348-12 or 48-11-2")
    if label is not None and label.kind == "gauge_pair":
        gauges, label = gauges or label, None
    return RollSaid(label, gauges, knot, roll_m)


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
