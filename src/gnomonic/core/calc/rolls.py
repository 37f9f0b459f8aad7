"""``rolls``: rolls of one length or several and splices for some runs, or the judgement of a layout."""

from collections.abc import Sequence
from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field

from gnomonic.core.calc.parts import Answer, Input, NotNegative, Number, Positive, why
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.check import layout_breaks
from gnomonic.core.fabric.lay import Piece, Rules, RunNeed
from gnomonic.core.fabric.mixed import RollKind, plan_mixed
from gnomonic.core.fabric.rolls import plan_rolls

MOST_ROLLS_A_RUN = 500


class PieceInput(Input):
    """A piece of a layout to be judged."""

    stock: str
    length_m: NotNegative


class KindInput(Input):
    """A roll as it is sold; its price is its length where none is given."""

    length_m: Positive
    price: Positive | None = None


class RollsInput(Input):
    """``rolls``: of one length (``roll_m``), or of several with their prices (``rolls_m``)."""

    roll_m: Positive | None = None
    rolls_m: Annotated[list[KindInput], Field(min_length=1, max_length=5)] | None = None
    splice_price: NotNegative = 0.0
    runs_m: Annotated[list[Positive], Field(min_length=1, max_length=200)]
    offcuts_m: Annotated[list[Positive], Field(max_length=200)] = Field(default_factory=list)
    overlap_m: NotNegative
    piece_min_m: NotNegative
    posts_m: list[list[Number]] | None = None
    tie_off_m: NotNegative = 0.0
    clear_m: NotNegative = 0.0
    mode: Literal["plan", "check"] = "plan"
    layout: list[list[PieceInput]] | None = None


def _runs(q: RollsInput) -> list[RunNeed]:
    """Runs with their posts along the fabric."""
    if q.posts_m is None:
        return [RunNeed(need) for need in q.runs_m]
    if len(q.posts_m) != len(q.runs_m):
        raise BadInput("posts_m", f"posts_m has {len(q.posts_m)} lists where runs_m has {len(q.runs_m)} runs")
    for k, (posts, need) in enumerate(zip(q.posts_m, q.runs_m, strict=True)):
        if len(posts) < 2 or any(b <= a for a, b in pairwise(posts)):
            raise BadInput(f"posts_m[{k}]", f"posts_m[{k}] must hold at least two stations, rising")
        if posts[0] < 0 or posts[-1] > need + 1e-6:
            raise BadInput(f"posts_m[{k}]", f"posts_m[{k}] must lie on its run of {need:g} m")
    shifts = _shifts(q)
    return [
        RunNeed(need, tuple(p + shift for p in posts))
        for need, posts, shift in zip(q.runs_m, q.posts_m, shifts, strict=True)
    ]


def _shifts(q: RollsInput) -> list[float]:
    """How far fabric stations lie ahead of each run's post stations: ``tie_off_m`` where the first post is before it.

    Post stations may count from the fabric's cut end or from the first post; the answer counts as they do.
    """
    return [
        q.tie_off_m if posts[0] < q.tie_off_m - 1e-9 and posts[-1] + q.tie_off_m < need + 1e-6 else 0.0
        for need, posts in zip(q.runs_m, q.posts_m or [], strict=True)
    ]


def calc_rolls(q: RollsInput) -> Answer:
    """Rolls and splices for some runs, or the judgement of a layout made by hand."""
    if q.rolls_m is not None:
        return _mixed(q, q.rolls_m)
    if q.roll_m is None:
        raise BadInput(
            "roll_m", "roll_m is missing: how long a roll is, or rolls_m with several lengths and their prices"
        )
    if q.splice_price:
        raise BadInput(
            "splice_price",
            "splice_price goes with rolls_m: without prices of rolls there is nothing to weigh it against",
        )
    if q.overlap_m >= q.roll_m / 2:
        raise BadInput("overlap_m", f"overlap_m ({q.overlap_m:g}) must be less than half of roll_m ({q.roll_m:g})")
    if q.piece_min_m > q.roll_m:
        raise BadInput("piece_min_m", f"piece_min_m ({q.piece_min_m:g}) is longer than a roll ({q.roll_m:g})")
    for k, need in enumerate(q.runs_m):
        if need / (q.roll_m - q.overlap_m) > MOST_ROLLS_A_RUN:
            raise BadInput(
                f"runs_m[{k}]", f"runs_m[{k}] ({need:g} m) takes more than {MOST_ROLLS_A_RUN} rolls: use longer ones"
            )
    runs, rules = _runs(q), Rules(q.overlap_m, q.piece_min_m, q.clear_m)
    if q.mode == "check":
        return _check_layout(q, runs, rules)
    if q.layout is not None:
        raise BadInput("layout", "layout is only read in mode “check”")
    plan = plan_rolls(runs, q.roll_m, q.offcuts_m, rules)
    answer: Answer = {
        "new_rolls": plan.new_rolls,
        "splices": plan.splices,
        "longest_offcut_m": plan.longest_offcut_m,
        "proven": plan.proven,
        "bound": plan.bound,
        "layout": [[{"stock": p.stock, "length_m": p.length_m} for p in pieces] for pieces in plan.pieces],
        "greedy": plan.greedy,
        "why": [
            why(
                "fewest new rolls, then fewest splices, then the longest offcut kept; k pieces take Σ = need + (k−1)·overlap",
                f"{plan.new_rolls} rolls against a bound of {plan.bound['new_rolls']}, "
                f"{plan.splices} splices against {plan.bound['splices']}",
                "grouping of runs and rolls, derived in docs/method.md §9",
            )
        ],
    }
    if q.posts_m is not None:
        answer["splices_at_m"] = [
            [c - shift for c in stations] for stations, shift in zip(plan.splices_at_m, _shifts(q), strict=True)
        ]
    return answer


def _mixed(q: RollsInput, sold: list[KindInput]) -> Answer:
    """Rolls of several lengths, the cheapest, splices paid for."""
    longest = max(k.length_m for k in sold)
    if q.roll_m is not None:
        raise BadInput("roll_m", "roll_m is one length and rolls_m are several: give one of them")
    if q.mode == "check" or q.layout is not None:
        raise BadInput("mode", "mode “check” judges a layout of rolls of one length: give roll_m")
    if q.overlap_m >= min(k.length_m for k in sold) / 2:
        raise BadInput("overlap_m", f"overlap_m ({q.overlap_m:g}) must be less than half of the shortest roll")
    if q.piece_min_m > longest:
        raise BadInput("piece_min_m", f"piece_min_m ({q.piece_min_m:g}) is longer than the longest roll ({longest:g})")
    kinds = [RollKind(k.length_m, k.length_m if k.price is None else k.price) for k in sold]
    runs, rules = _runs(q), Rules(q.overlap_m, q.piece_min_m, q.clear_m)
    made = plan_mixed(runs, kinds, q.offcuts_m, rules, q.splice_price)
    lengths = [*q.offcuts_m, *(k.length_m for k, n in zip(kinds, made.counts, strict=True) for _ in range(n))]
    names = [f"offcut{k}" if k < len(q.offcuts_m) else f"new{k - len(q.offcuts_m)}" for k in range(len(lengths))]
    called = {f"offcut{k}": name for k, name in enumerate(names)}
    answer: Answer = {
        "bought": [{"length_m": k.length_m, "count": n} for k, n in zip(kinds, made.counts, strict=True)],
        "new_rolls": sum(made.counts),
        "cost": made.cost,
        "splices": made.plan.splices,
        "stock": [{"stock": name, "length_m": m} for name, m in zip(names, lengths, strict=True)],
        "layout": [[{"stock": called[p.stock], "length_m": p.length_m} for p in row] for row in made.plan.pieces],
        "proven": {"cost": made.proven},
        "why": [
            why(
                "every number of each length, the cheapest first, until no other can cost less; splices are paid for",
                f"{' + '.join(f'{n} × {k.length_m:g} m' for k, n in zip(kinds, made.counts, strict=True) if n) or 'offcuts alone'}, "
                f"{made.plan.splices} splices: {made.cost:g}; {made.tried} choices cut",
                "docs/method.md §9",
            )
        ],
    }
    if q.posts_m is not None:
        answer["splices_at_m"] = [
            [c - shift for c in row] for row, shift in zip(made.plan.splices_at_m, _shifts(q), strict=True)
        ]
    return answer


def _check_layout(q: RollsInput, runs: Sequence[RunNeed], rules: Rules) -> Answer:
    if q.layout is None:
        raise BadInput("layout", "layout is missing: mode “check” judges one")
    pieces = [[Piece(p.stock, p.length_m, k) for p in row] for k, row in enumerate(q.layout)]
    breaks, left = layout_breaks(pieces, runs, q.roll_m or 0.0, q.offcuts_m, rules)
    return {
        "valid": not breaks,
        "breaks": breaks,
        "new_rolls": sum(name.startswith("new") for name in left),
        "splices": sum(max(0, len(row) - 1) for row in pieces),
        "longest_offcut_m": max(0.0, *left.values()) if left else 0.0,
        "why": [
            why("every piece, sum and splice station against the rules", f"{len(breaks)} broken", "docs/method.md §9")
        ],
    }
