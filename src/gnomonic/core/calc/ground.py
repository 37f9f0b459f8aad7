"""``traverse``, ``levels`` and ``square``: the pocket sums of measuring."""

import math
from typing import Annotated, Self

import numpy as np
from pydantic import Field, model_validator

from gnomonic.core.calc.parts import Answer, Input, NotNegative, Number, Positive, why
from gnomonic.core.errors import BadInput
from gnomonic.core.ground.levels import Sight, level_page
from gnomonic.core.ground.measuring import directions, methods
from gnomonic.core.ground.square import out_of_square, pegs, three_four_five
from gnomonic.core.ground.traverse import Closure, closure, suspects
from gnomonic.core.units import FOOT_M

TEXTS = "any surveying text"
Pair = tuple[Number, Number]


class TraverseLeg(Input):
    """A leg: level distance, or slope distance with a vertical angle or a rise."""

    bearing_deg: Annotated[float, Field(allow_inf_nan=False, ge=0, lt=360)]
    dist_m: Positive | None = None
    slope_m: Positive | None = None
    vert_deg: Annotated[float, Field(allow_inf_nan=False, gt=-90, lt=90)] | None = None
    dh_m: Number | None = None

    @model_validator(mode="after")
    def _measured(self) -> Self:
        if (self.dist_m is None) == (self.slope_m is None):
            raise ValueError("a leg has dist_m (level) or slope_m, one of them")
        if self.slope_m is not None and (self.vert_deg is None) == (self.dh_m is None):
            raise ValueError("a slope distance needs vert_deg or dh_m, one of them")
        if self.dist_m is not None and self.vert_deg is not None:
            raise ValueError("vert_deg belongs with slope_m; a level distance takes dh_m")
        if self.slope_m is not None and self.dh_m is not None and abs(self.dh_m) >= self.slope_m:
            raise ValueError("dh_m must be less than slope_m")
        return self

    def level(self) -> tuple[float, float]:
        """Level distance and rise (m)."""
        if self.slope_m is None:
            return self.dist_m or 0.0, self.dh_m or 0.0
        if self.vert_deg is not None:
            angle = math.radians(self.vert_deg)
            return self.slope_m * math.cos(angle), self.slope_m * math.sin(angle)
        rise = self.dh_m or 0.0
        return math.sqrt(self.slope_m**2 - rise**2), rise


class TraverseInput(Input):
    """``legs`` from ``start`` to ``close_on`` (the start unless given)."""

    legs: Annotated[list[TraverseLeg], Field(min_length=1, max_length=10_000)]
    start: Annotated[list[Number], Field(min_length=2, max_length=2)] = Field(default_factory=lambda: [0.0, 0.0])
    close_on: Annotated[list[Number], Field(min_length=2, max_length=2)] | None = None


def _traverse_whys(found: Closure, expected: float) -> list[dict[str, str]]:
    ratio = "exactly" if found.ratio is None else f"1:{found.ratio:.0f}"
    return [
        why(
            "misclosure = end − where it should end; ratio = perimeter / misclosure",
            f"({found.miss_e_m:.4f}, {found.miss_n_m:.4f}) m, {found.miss_m:.4f} m on {found.perimeter_m:.2f} m, {ratio}",
            TEXTS,
        ),
        why(
            "compass rule: each point moves by −misclosure × distance to it / perimeter",
            f"the last point by ({-found.miss_e_m:.4f}, {-found.miss_n_m:.4f}) m",
            TEXTS,
        ),
        why(
            "to be expected = √Σ (tape² + direction²) over the legs",
            f"{expected:.3f} m: a larger misclosure wants a blunder, and legs that alone explain it are named",
            "derived; how good a tape and a bearing are is from memory",
        ),
    ]


def calc_traverse(q: TraverseInput) -> Answer:
    """Misclosure, compass rule, area, and the leg that alone would explain the misclosure."""
    vectors = []
    for leg in q.legs:
        level, rise = leg.level()
        angle = math.radians(leg.bearing_deg)
        vectors.append((level * math.sin(angle), level * math.cos(angle), rise))
    legs = np.array(vectors)
    target = q.close_on if q.close_on is not None else q.start
    # heights are run through as booked: nothing says what height the end ought to have
    found = closure(legs, (*q.start, 0.0), (*target, float(legs[:, 2].sum())))
    lengths = np.hypot(legs[:, 0], legs[:, 1])
    on_start = math.dist(target, q.start) < 1e-9
    e, n = found.adjusted[:, 0], found.adjusted[:, 1]
    area = abs(float(np.dot(e[:-1], n[1:]) - np.dot(e[1:], n[:-1]))) / 2 if on_start and len(legs) > 2 else None
    expected = math.sqrt(
        sum(
            methods()["tape"].along_m(length) ** 2 + directions()["circle"].across_m(length) ** 2
            for length in lengths.tolist()
        )
    )
    blunders = suspects(legs, (found.miss_e_m, found.miss_n_m)) if found.miss_m > expected else []
    return {
        "perimeter_m": found.perimeter_m,
        "misclosure_e_m": found.miss_e_m,
        "misclosure_n_m": found.miss_n_m,
        "misclosure_m": found.miss_m,
        "ratio": found.ratio,
        "points": found.points[:, :2].tolist(),
        "adjusted": found.adjusted[:, :2].tolist(),
        "heights_m": found.points[:, 2].tolist(),
        "area_m2": area,
        "expected_m": expected,
        "suspects": [
            {
                "leg": s.leg,
                "what": s.kind,
                "change": s.change,
                "unit": "m" if s.kind == "distance" else "deg",
                "explains": s.explains,
                "likely": s.likely,
            }
            for s in blunders
        ],
        "why": _traverse_whys(found, expected),
    }


class Reading(Input):
    """One row of the book."""

    back_m: Number | None = None
    inter_m: Number | None = None
    fore_m: Number | None = None


class LevelsInput(Input):
    """``start_rl_m`` and ``readings`` in the order booked."""

    start_rl_m: Number
    readings: Annotated[list[Reading], Field(min_length=2, max_length=10_000)]


def calc_levels(q: LevelsInput) -> Answer:
    """Heights by rise and fall and by height of instrument, with the page check."""
    names: dict[str, Sight] = {"back_m": "back", "inter_m": "inter", "fore_m": "fore"}
    rows: list[dict[Sight, float]] = []
    for reading in q.readings:
        values = {sight: getattr(reading, key) for key, sight in names.items()}
        rows.append({sight: value for sight, value in values.items() if value is not None})
    page = level_page(q.start_rl_m, rows)
    return {
        "rl_m": [r.rl_m for r in page.rows],
        "rise_m": [r.rise_m for r in page.rows],
        "fall_m": [r.fall_m for r in page.rows],
        "instrument_m": [r.instrument_m for r in page.rows],
        "check": {
            "sum_back": page.sum_back_m,
            "sum_fore": page.sum_fore_m,
            "sum_rise": page.sum_rise_m,
            "sum_fall": page.sum_fall_m,
            "last_minus_first": page.last_minus_first_m,
            "agree": page.agree,
        },
        "why": [
            why(
                "Σ back − Σ fore = Σ rise − Σ fall = last − first",
                f"{page.sum_back_m:.3f} − {page.sum_fore_m:.3f} = {page.last_minus_first_m:.3f} m",
                TEXTS,
            )
        ],
    }


class SquareInput(Input):
    """Sides ``a_m`` (A–B) and ``b_m`` (A–D); ``diagonal_m`` as taped, A–C and B–D."""

    a_m: Positive
    b_m: Positive
    diagonal_m: Annotated[list[NotNegative], Field(min_length=2, max_length=2)] | None = None


def calc_square(q: SquareInput) -> Answer:
    """Pegs and the diagonal of a right-angled plot; which far peg is out."""
    diagonal = math.hypot(q.a_m, q.b_m)
    answer: Answer = {
        "diagonal_m": diagonal,
        "pegs": [list(p) for p in pegs(q.a_m, q.b_m)],
        "multiples": {
            "m": [[3 * k, 4 * k, 5 * k] for k in three_four_five(q.a_m, q.b_m, 1.0)][-10:],
            "ft": [[3 * k, 4 * k, 5 * k] for k in three_four_five(q.a_m, q.b_m, FOOT_M)][-10:],
        },
        "why": [
            why("diagonal = √(a² + b²)", f"√({q.a_m:g}² + {q.b_m:g}²) = {diagonal:.4f} m", "Pythagoras"),
            why("a triangle of 3, 4 and 5 has a right angle", "the larger the multiple, the truer the corner", "common practice"),
        ],
    }  # fmt: skip
    if q.diagonal_m is not None:
        try:
            out = out_of_square(q.a_m, q.b_m, q.diagonal_m[0], q.diagonal_m[1])
        except BadInput as error:
            raise BadInput(error.field, error.sentence) from None
        answer["square"] = not out
        answer["corners_out"] = [{"corner": p.corner, "out_m": p.out_m, "move_m": [p.east_m, p.north_m]} for p in out]
        difference = q.diagonal_m[0] - q.diagonal_m[1]
        answer["why"].append(
            why(
                "equal diagonals make right angles; C lies b from B and its diagonal from A, D b from A and its from B",
                f"diagonals differ by {difference:.4f} m"
                + "".join(f"; {p.corner} is out by {p.out_m:.3f} m" for p in out),
                "derived, A–B and the sides of b taken as right",
            )
        )
    return answer
