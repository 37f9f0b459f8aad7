"""Kinds of gate as data (``data/gates.toml``): what each is for, is made of, hangs on and is hung by."""

import math
from functools import cache
from typing import Literal

from gnomonic.core.errors import BadInput
from gnomonic.core.sourced import Sourced, read_data

RAIL_APART_M = 0.3


class Hardware(Sourced):
    """What a gate takes: so many ``number`` for each gate, leaf or rail, and how it goes on."""

    item: str
    number: int
    per: Literal["gate", "leaf", "rail"] = "gate"
    way: str


class GateKind(Sourced):
    """A kind of gate.

    ``leaves`` side by side (0: it has none), ``stacked`` one above the other in each; room at a hinge and at the latch; ``kg_m2`` of a
    leaf's face; ``hinges_share`` of its height between the outermost hinges; lengths a leaf is sold in; what walks through it all
    the same; ``order`` in which it is hung; ``draw`` names its drawing.
    """

    title: str
    leaves: int
    stacked: int = 1
    hinge_gap_m: float
    latch_gap_m: float
    kg_m2: float = 0.0
    hinges_share: float = 0.7
    leaves_m: tuple[float, ...]
    passes: tuple[str, ...] = ()
    hardware: tuple[Hardware, ...]
    order: tuple[str, ...]
    draw: str

    @property
    def gaps_m(self) -> tuple[float, float]:
        """Room at a hinge and at the latch."""
        return self.hinge_gap_m, self.latch_gap_m

    @property
    def panes(self) -> int:
        """Leaves side by side; what is no leaf at all is one opening."""
        return max(1, self.leaves)

    def rails(self, high_m: float) -> int:
        """Rails of a gate made of them.

        >>> gate_kinds()["slip_rails"].rails(1.2)
        4
        """
        return math.ceil(high_m / RAIL_APART_M - 1e-6) if any(h.per == "rail" for h in self.hardware) else 0

    def counts(self, high_m: float) -> dict[str, int]:
        """Its hardware, by item."""
        times = {"gate": 1, "leaf": self.leaves, "rail": self.rails(high_m)}
        found: dict[str, int] = {}
        for h in self.hardware:
            found[h.item] = found.get(h.item, 0) + h.number * times[h.per]
        return found

    def leaf_for(self, clear_m: float) -> float | None:
        """The shortest leaf sold that leaves so much clear to pass; none where none does."""
        return next((m for m in self.leaves_m if self.panes * m >= clear_m - 1e-6), None)


class Use(Sourced):
    """Who passes a gate, and how wide a way that takes."""

    title: str
    clear_m: float


@cache
def gate_kinds() -> dict[str, GateKind]:
    """Every kind by its key."""
    return {key: GateKind.model_validate(row) for key, row in read_data("gates.toml", "finish")["kinds"].items()}


@cache
def uses() -> dict[str, Use]:
    """Every use by its key."""
    return {key: Use.model_validate(row) for key, row in read_data("gates.toml", "finish")["uses"].items()}


def gate_kind(key: str) -> GateKind:
    """A kind of gate.  Raises BadInput (``kind``)."""
    if key not in gate_kinds():
        raise BadInput("kind", f"there is no gate called “{key[:40]}”; there are: {', '.join(gate_kinds())}")
    return gate_kinds()[key]
