"""Staff readings booked through a level: rise and fall, height of instrument, and the page check.

Source: any surveying text (differential levelling).
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from gnomonic.core.errors import BadInput

Sight = Literal["back", "inter", "fore"]


@dataclass(frozen=True, slots=True)
class Row:
    """One staff position: its readings (m), the columns of both bookings, and the height found (m)."""

    back_m: float | None
    inter_m: float | None
    fore_m: float | None
    rise_m: float | None
    fall_m: float | None
    instrument_m: float | None
    rl_m: float


@dataclass(frozen=True, slots=True)
class Levels:
    """A page of levels.  The check: Σ back − Σ fore = last − first height, when the page ends on a fore sight."""

    rows: tuple[Row, ...]
    sum_back_m: float
    sum_fore_m: float
    sum_rise_m: float
    sum_fall_m: float
    last_minus_first_m: float

    @property
    def agree(self) -> bool:
        """Whether all three ways give the same difference."""
        booked = self.sum_back_m - self.sum_fore_m
        by_rise = self.sum_rise_m - self.sum_fall_m
        return abs(booked - self.last_minus_first_m) < 5e-7 and abs(by_rise - self.last_minus_first_m) < 5e-7


def level_page(start_rl_m: float, readings: Sequence[dict[Sight, float]]) -> Levels:
    """Reduce readings in the order booked.  A change point carries a fore and a back sight.

    Raises BadInput naming ``readings[k]``: the page begins with a back sight, ends with a fore sight, and each row
    between is an intermediate sight or a change point.
    """
    last = len(readings) - 1
    if last < 1:
        raise BadInput("readings", "readings must hold a back sight and a fore sight at least")
    for k, row in enumerate(readings):
        want = {"back"} if k == 0 else {"fore"} if k == last else {"inter"} if "inter" in row else {"back", "fore"}
        if set(row) != want:
            hint = (
                "the first row is a back sight alone" if k == 0
                else "the last row is a fore sight alone, which closes the page" if k == last
                else "a row is an intermediate sight, or a change point with a fore and a back sight"
            )  # fmt: skip
            raise BadInput(f"readings[{k}]", f"readings[{k}]: {hint}")
    rows = [Row(readings[0]["back"], None, None, None, None, start_rl_m + readings[0]["back"], start_rl_m)]
    staff, instrument, rl = readings[0]["back"], start_rl_m + readings[0]["back"], start_rl_m
    for row in readings[1:]:
        seen = row["inter"] if "inter" in row else row["fore"]
        change = staff - seen
        rl += change
        staff = seen
        raised = None
        if "back" in row:
            staff, instrument = row["back"], instrument - seen + row["back"]
            raised = instrument
        rows.append(
            Row(
                row.get("back"),
                row.get("inter"),
                row.get("fore"),
                change if change >= 0 else None,
                -change if change < 0 else None,
                raised,
                rl,
            )
        )
    return Levels(
        tuple(rows),
        sum(r.back_m or 0.0 for r in rows),
        sum(r.fore_m or 0.0 for r in rows),
        sum(r.rise_m or 0.0 for r in rows),
        sum(r.fall_m or 0.0 for r in rows),
        rl - start_rl_m,
    )
