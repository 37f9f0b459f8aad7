"""Rolls and coils over all lines of a job: cut together, then told line by line.

What is opened on a line is counted there; where a roll goes on to another line, the piece says so.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from math import floor

import numpy as np

from gnomonic.core.errors import BadInput, NoPlan
from gnomonic.core.fabric.lay import Piece, RunNeed
from gnomonic.core.fabric.mixed import as_rolls, plan_mixed
from gnomonic.core.fabric.rolls import RollPlan, plan_rolls
from gnomonic.core.plan.hung import Want, WireWant, stock_cut
from gnomonic.core.plan.model import Coils, FabricPlan, LaidPiece, MoreRolls, Splice
from gnomonic.core.units import reaching

PLAN_WORK_S = 0.05
TRIED = 8  # choices of roll lengths that are cut for a plan
NO_ROLLS = RollPlan(
    (), 0, 0, 0.0, {"new_rolls": True, "splices": True, "longest_offcut": True}, {"new_rolls": 0, "splices": 0},
    {"new_rolls": 0, "splices": 0}, (), (),
)  # fmt: skip
NOTHING_HUNG = FabricPlan(NO_ROLLS, NO_ROLLS, (), (), (), (), ())
Memo = dict[tuple[object, ...], RollPlan]
Wanted = Mapping[str, tuple[Want, ...]]


@dataclass(slots=True)
class Shares:
    """What each line gets, by its letter."""

    fabric: dict[str, FabricPlan] = field(default_factory=dict)
    more: dict[str, list[MoreRolls]] = field(default_factory=dict)


@dataclass(slots=True)
class RollMemo:
    """Rolls cut for the plan before: by what was asked, by group as the lines asked it, and each line's part."""

    asked: Memo = field(default_factory=dict)
    groups: dict[tuple[object, ...], tuple[list[tuple[str, Want]], tuple[float, ...], RollPlan]] = field(
        default_factory=dict
    )
    laid: dict[str, tuple[Want, RollPlan, range, FabricPlan]] = field(default_factory=dict)


def share_rolls(
    wanted: Wanted, offcuts_m: Mapping[str, tuple[float, ...]], names: Mapping[str, str], memo: RollMemo
) -> tuple[Shares, RollMemo]:
    """Rolls of every fabric over all lines, each line's part, and the memo of this plan; ``offcuts_m`` by line's letter.

    Lines that hang the same fabric from rolls of one length under the same rules of splicing are cut together.
    """
    used = RollMemo()
    shares = Shares(dict.fromkeys(wanted, NOTHING_HUNG), {k: [] for k in wanted})
    groups: dict[tuple[object, ...], list[tuple[str, Want]]] = {}
    for line in sorted(wanted, key=lambda k: (len(k), k)):
        for want in wanted[line]:
            groups.setdefault(want.key, []).append((line, want))
    taken: set[tuple[float, ...]] = set()
    for key, members in groups.items():
        own = () if members[0][1].what else _offcuts(members, offcuts_m, taken)
        whole = _cut(key, members, own, names, memo, used)
        low = 0
        for line, want in members:
            forced = len(want.needs) - len(want.whole or want.needs)
            span = range(low, low + len(want.needs))
            low = span.stop
            if want.what:
                part, need = _part(whole, span, len(members) == 1), sum(n.need_m for n in want.needs)
                shares.more[line].append(MoreRolls(want.fabric, need, part.new_rolls, part.splices, want.what))
                continue
            before = memo.laid.get(line)
            if before is None or before[0] is not want or before[1] is not whole or before[2] != span:
                part = _part(whole, span, len(members) == 1)
                if forced:
                    bound = {**part.bound, "splices": part.bound["splices"] + forced}
                    part = replace(part, splices=part.splices + forced, bound=bound)
                before = (want, whole, span, _laid(want, whole, part, span, members))
            used.laid[line] = before
            shares.fabric[line] = before[3]
    return shares, used


def _cut(
    key: tuple[object, ...],
    members: list[tuple[str, Want]],
    own_m: tuple[float, ...],
    names: Mapping[str, str],
    memo: RollMemo,
    used: RollMemo,
) -> RollPlan:
    """Rolls of one group; the plan before where every line of it asks what it asked then."""
    old = memo.groups.get(key)
    same = old is not None and old[1] == own_m and len(old[0]) == len(members)
    if old is not None and same and all(a == c and b is d for (a, b), (c, d) in zip(old[0], members, strict=True)):
        whole = old[2]
    else:
        first = members[0][1]
        needs = [need for _, want in members for need in want.needs]
        cut = tuple(stock_cut(first.fabric, own_m))
        whole = _planned_rolls(needs, first, cut, memo.asked, used.asked, _namer(members, names))
    used.groups[key] = (members, own_m, whole)
    return whole


def _offcuts(
    members: Sequence[tuple[str, Want]], offcuts_m: Mapping[str, tuple[float, ...]], taken: set[tuple[float, ...]]
) -> tuple[float, ...]:
    """Offcuts of the fabric of a group; those that another group of the same fabric was given are gone."""
    rows = list(dict.fromkeys(offcuts_m.get(line, ()) for line, _ in members))
    free = [row for row in rows if row and row not in taken]
    taken.update(free)
    return tuple(m for row in free for m in row)


def _namer(members: Sequence[tuple[str, Want]], names: Mapping[str, str]) -> list[str]:
    """What each need of a group is called in a refusal."""
    several = len(members) > 1
    return [
        f"run {run + 1}" + (f" of {names[line]}" if several else "")
        for line, want in members
        for run in (want.runs if several else range(len(want.needs)))
    ]


def _planned_rolls(
    needs: list[RunNeed],
    want: Want,
    offcuts_m: tuple[float, ...],
    memo: Memo,
    used: Memo,
    called: Sequence[str],
) -> RollPlan:
    rules = want.rules
    key = (tuple(needs), want.roll_m, offcuts_m, rules, want.sold, want.splice_worth_m)
    found = used.get(key) or memo.get(key)
    if found is None:
        try:
            if want.sold:
                mixed = plan_mixed(needs, want.sold, offcuts_m, rules, want.splice_worth_m, PLAN_WORK_S, TRIED)
                found = as_rolls(mixed, want.sold, len(offcuts_m))
            else:
                found = plan_rolls(needs, want.roll_m, offcuts_m, rules, PLAN_WORK_S)
        except BadInput as error:
            if error.field == "rolls_m":
                raise NoPlan(
                    "decisions",
                    "no choice of these rolls covers the line: splices keep clear of posts and end bays, and pieces must be long enough; use longer rolls",
                ) from None
            number = int(error.field.removeprefix("runs_m[").rstrip("]"))
            raise NoPlan(
                "decisions",
                f"{called[number]} can't be laid: no splices keep clear of posts and end bays with pieces long enough; "
                "lessen the shortest piece, the clearance or the overlap of splices, or use longer rolls",
            ) from None
    used[key] = found
    return found


def _uses(pieces: Sequence[Sequence[Piece]]) -> dict[str, list[int]]:
    """Needs that each roll or offcut goes to, in laying order."""
    found: dict[str, list[int]] = {}
    for k, row in enumerate(pieces):
        for piece in row:
            found.setdefault(piece.stock, []).append(k)
    return found


def _part(whole: RollPlan, span: range, alone: bool) -> RollPlan:
    """What of a plan over several lines is one line's: rolls opened on it, its splices, the rests that end with it."""
    if alone:
        return whole
    uses = _uses(whole.pieces)
    opened = sum(1 for stock, needs in uses.items() if stock.startswith("new") and needs[0] in span)
    ended = {stock for stock, needs in uses.items() if needs[-1] in span}
    kept = tuple((stock, m) for stock, m in whole.offcuts_kept_m if stock in ended)
    here = sorted(int(s[3:]) for s, needs in uses.items() if s.startswith("new") and needs[0] in span)
    spliced = sum(len(whole.pieces[k]) - 1 for k in span)
    return RollPlan(
        pieces=tuple(whole.pieces[k] for k in span),
        new_rolls=opened,
        splices=spliced,
        longest_offcut_m=max((m for _, m in kept), default=0.0),
        proven=whole.proven,
        bound={
            "new_rolls": max(0, opened - (whole.new_rolls - whole.bound["new_rolls"])),
            "splices": max(0, spliced - (whole.splices - whole.bound["splices"])),
        },
        greedy=whole.greedy,
        splices_at_m=tuple(whole.splices_at_m[k] for k in span),
        offcuts_kept_m=kept,
        bought_m=tuple(whole.bought_m[k] for k in here) if whole.bought_m else (),
    )


def _laid(want: Want, whole: RollPlan, part: RollPlan, span: range, members: Sequence[tuple[str, Want]]) -> FabricPlan:
    """Pieces and splices of a line's lowest fabric, by stations."""
    line_of = [line for line, other in members for _ in other.needs]
    uses = _uses(whole.pieces)
    lap, firsts = want.rules.overlap_m, tuple(dict.fromkeys(want.runs))
    pieces, splices = [], []
    for k, laid in enumerate(part.pieces):
        along, stations = want.along[k], want.stations[k]

        def station(fabric_m: float, along: np.ndarray = along, stations: np.ndarray = stations) -> float:
            return float(np.interp(fabric_m, along, stations))

        reached = 0.0
        for piece in laid:
            start = max(0.0, reached - lap) if reached else 0.0
            reached = start + piece.length_m
            needs = uses[piece.stock]
            later = needs[needs.index(span[k]) + 1 :]
            own = line_of[span[k]]
            opened, rest = line_of[needs[0]], line_of[later[0]] if later else own
            pieces.append(
                LaidPiece(
                    want.runs[k],
                    piece.stock,
                    piece.length_m,
                    station(start),
                    station(reached),
                    opened if opened != own else "",
                    rest if rest != own else "",
                )
            )
        joined = [reached] if k + 1 < len(want.runs) and want.runs[k + 1] == want.runs[k] else []
        for c in (*part.splices_at_m[k], *joined):
            gap = float(np.min(np.maximum(along - c, c - lap - along)))
            splices.append(Splice(want.runs[k], station(c - lap), station(c), max(0.0, gap)))
    return FabricPlan(
        part,
        whole,
        tuple(line for line, _ in members),
        tuple(sum(n.need_m for n, r in zip(want.needs, want.runs, strict=True) if r == run) for run in firsts),
        firsts,
        tuple(pieces),
        tuple(splices),
        tuple(line_of),
        want.whole,
        want.rules,
    )


def share_coils(wanted: Mapping[str, tuple[WireWant, ...]]) -> dict[str, tuple[Coils, ...]]:
    """Coils of every wire, each strung on where the last ended: those opened on a line are its own.

    A line is joined where a coil runs out on it.
    """
    reached: dict[str, float] = {}
    found: dict[str, tuple[Coils, ...]] = {}
    for line in sorted(wanted, key=lambda k: (len(k), k)):
        rows = []
        for want in wanted[line]:
            coil, before = want.wire.coil_m, reached.get(want.key, 0.0)
            after = before + want.total_m
            reached[want.key] = after
            opened = reaching(after, coil) - (reaching(before, coil) if before else 0)
            touched = reaching(after, coil) - floor(before / coil + 1e-9)
            rows.append(Coils(want.key, want.wire, want.strands, want.total_m, opened, touched - 1))
        found[line] = tuple(rows)
    return found
