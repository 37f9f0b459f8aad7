"""Rolls and splices: fewest new rolls, then fewest splices, then the longest single offcut kept.

Runs and stock items joined by pieces form groups; a group of b items needs b−1 splices whatever its runs, so rolls
and splices are decided by how runs and offcuts are grouped.  Leaving the piece and splice-station rules out, the best
grouping is a bound; when a layout that keeps all the rules reaches it, the layout is proven best.  Small jobs are
grouped exactly over all subsets, large ones by constraint programming with its own bound.

Source: derived in docs/method.md §9.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cache

from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.lay import EPS_M, Piece, Rules, RunNeed, Stock, lay_group, splice_stations
from gnomonic.core.record import row

EXACT_UP_TO = 9  # runs + offcuts grouped over all subsets
SETTLED_UP_TO = 12  # new rolls of a job cut piece by piece
Score = tuple[int, int, float]  # new rolls, splices, −longest offcut: less is better


@dataclass(frozen=True, slots=True)
class RollPlan:
    """Pieces per run in laying order, the figures reached, what is proven and the bounds.

    ``bought_m`` are the lengths the new rolls go by, in their order, where several lengths are sold.
    """

    pieces: tuple[tuple[Piece, ...], ...]
    new_rolls: int
    splices: int
    longest_offcut_m: float
    proven: dict[str, bool]
    bound: dict[str, int]
    greedy: dict[str, int]
    splices_at_m: tuple[tuple[float, ...], ...]
    offcuts_kept_m: tuple[tuple[str, float], ...]
    bought_m: tuple[float, ...] = ()


@row
class _Group:
    """Runs and offcuts by index, and the new rolls they need."""

    runs: tuple[int, ...]
    offcuts: tuple[int, ...]
    new: int


@dataclass(slots=True)
class _Job:
    runs: Sequence[RunNeed]
    offcuts_m: Sequence[float]
    roll_m: float
    rules: Rules
    laid: dict[_Group, tuple[list[Piece], float] | None] = field(default_factory=dict)
    joints: list[int] = field(init=False)

    def __post_init__(self) -> None:
        self.joints = [self.rules.most_splices(run) for run in self.runs]

    def new_rolls(self, need_m: float, offcuts_m: Sequence[float]) -> int:
        """Fewest new rolls that cover a group; one where there is no offcut either."""
        return self.fewest(need_m, len(offcuts_m), sum(offcuts_m))

    def fewest(self, need_m: float, offcuts: int, sum_m: float) -> int:
        """The same, of so many offcuts that are so long together."""
        lap, give = self.rules.overlap_m, self.rules.give_m
        short = need_m + (offcuts - 1) * lap - sum_m - give * offcuts
        new = max(0, math.ceil((short - EPS_M) / (self.roll_m + give - lap)))
        return new if new + offcuts >= 1 else 1

    def lay(self, group: _Group) -> tuple[list[Piece], float] | None:
        """Lay a group under all the rules (kept)."""
        if group not in self.laid:
            give = self.rules.give_m
            stock = [Stock(f"offcut{k}", self.offcuts_m[k] + give) for k in group.offcuts]
            stock += [Stock(f"new{k}", self.roll_m + give) for k in range(group.new)]
            self.laid[group] = lay_group([(k, self.runs[k]) for k in group.runs], stock, self.rules)
        return self.laid[group]

    def grouped(self, real: bool) -> tuple[Score, list[_Group]] | None:
        """Best grouping over all subsets; ``real`` lays every group under all the rules, else only lengths count."""
        n, m = len(self.runs), len(self.offcuts_m)
        needs = [0.0] * (1 << n)
        joints = [0] * (1 << n)
        for mask in range(1, 1 << n):
            low = (mask & -mask).bit_length() - 1
            needs[mask] = needs[mask & (mask - 1)] + self.runs[low].need_m
            joints[mask] = joints[mask & (mask - 1)] + self.joints[low]
        untouched = [max((self.offcuts_m[k] for k in range(m) if mask >> k & 1), default=0.0) for mask in range(1 << m)]

        @cache
        def options(runs: int, offcuts: int) -> list[tuple[Score, _Group]]:
            own = tuple(k for k in range(m) if offcuts >> k & 1)
            long = sum(self.offcuts_m[k] for k in own)
            fewest = self.fewest(needs[runs], len(own), long)
            found: list[tuple[Score, _Group]] = []
            for new in range(fewest, fewest + (2 if real else 1)):
                items = len(own) + new
                slack = (
                    long
                    + new * self.roll_m
                    + items * self.rules.give_m
                    - needs[runs]
                    - (items - 1) * self.rules.overlap_m
                )
                if slack < -EPS_M or items - 1 > joints[runs]:
                    continue
                group = _Group(tuple(k for k in range(n) if runs >> k & 1), own, new)
                if not real:
                    found.append(((new, len(own) + new - 1, -slack), group))
                elif laid := self.lay(group):
                    found.append(((new, len(own) + new - 1, -laid[1]), group))
                    break
            return found

        @cache
        def best(runs: int, offcuts: int) -> tuple[Score, tuple[_Group, ...]] | None:
            if not runs:
                return (0, 0, -untouched[offcuts]), ()
            first = runs & -runs
            rest, top = runs ^ first, None
            subset = rest
            while True:
                own = offcuts
                while True:
                    made = options(subset | first, own)
                    for score, group in made:
                        if top is not None and score[0] > top[0][0]:
                            continue  # what is left takes rolls too: no fewer than this group alone
                        if after := best(rest ^ subset, offcuts ^ own):
                            total = (score[0] + after[0][0], score[1] + after[0][1], min(score[2], after[0][2]))
                            if top is None or total < top[0]:
                                top = (total, (group, *after[1]))
                    if not own:
                        break
                    own = (own - 1) & offcuts
                if not subset:
                    return top
                subset = (subset - 1) & rest

        answer = best((1 << n) - 1, (1 << m) - 1)
        return None if answer is None else (answer[0], list(answer[1]))

    def one_by_one(self) -> list[_Group] | None:
        """Every run by itself with as many new rolls as it takes: always buildable when anything is."""
        groups = []
        for k, run in enumerate(self.runs):
            fewest = self.new_rolls(run.need_m, ())
            fit = next((g for new in range(fewest, fewest + 4) if self.lay(g := _Group((k,), (), new))), None)
            if fit is None:
                return None
            groups.append(fit)
        return groups


def _first_fit(job: _Job) -> dict[str, int]:
    """What is done by hand: each run in turn from the roll that is open, a new one when it runs out."""
    left, new, splices = 0.0, 0, 0
    for run in job.runs:
        rest = run.need_m
        if left <= job.rules.overlap_m or left < job.rules.least_piece_m(run):
            left, new = job.roll_m, new + 1
        while rest > left + EPS_M:
            rest = rest - left + job.rules.overlap_m
            left, new, splices = job.roll_m, new + 1, splices + 1
        left -= rest
    return {"new_rolls": new, "splices": splices}


def plan_rolls(
    runs: Sequence[RunNeed], roll_m: float, offcuts_m: Sequence[float], rules: Rules, work_s: float = 4.0
) -> RollPlan:
    """Cut rolls and owned offcuts into runs.  Lengths in m.  Raises BadInput (``runs_m``) when a run can't be laid."""
    job = _Job(runs, offcuts_m, roll_m, rules)
    if len(runs) + len(offcuts_m) <= EXACT_UP_TO:
        relaxed = job.grouped(real=False)
        bound: Score = relaxed[0] if relaxed else (0, 0, 0.0)
        real = relaxed if relaxed and _as_good(job, relaxed) else job.grouped(real=True)
        groups = real[1] if real else job.one_by_one()
    else:
        from gnomonic.core.fabric.grouping import group_large

        give = rules.give_m
        stock = [m + give for m in offcuts_m]
        bound, grouping = group_large([r.need_m for r in runs], stock, roll_m + give, rules.overlap_m, work_s)
        groups = _mended(job, [_Group(*g) for g in grouping])
    if groups is None:
        k = next(k for k in range(len(runs)) if _Job([runs[k]], (), roll_m, rules).one_by_one() is None)
        raise BadInput(
            f"runs_m[{k}]",
            f"runs_m[{k}] ({runs[k].need_m:.2f} m) can't be laid: no splice station keeps clear of its posts and bays; "
            "lessen piece_min_m, clear_m or overlap_m, or use longer rolls",
        )
    made = _plan(job, _pieces(job, groups), sum(g.new for g in groups), bound)
    small = len(runs) + len(offcuts_m) <= EXACT_UP_TO and made.new_rolls <= SETTLED_UP_TO
    return (
        _settled(job, made, bound, work_s)
        if small and not (made.proven["new_rolls"] and made.proven["splices"])
        else made
    )


def _settled(job: _Job, made: RollPlan, bound: Score, work_s: float) -> RollPlan:
    """A small job whose rolls or splices are not proven yet: cut piece by piece, each aim proven, beaten or left open."""
    from gnomonic.core.fabric.piecewise import cut_with

    anything = sum(min(count, 10) for count in job.joints)
    rolls, best = made.new_rolls, [list(p) for p in made.pieces]
    proven = False
    while rolls > bound[0]:
        found, proven = cut_with(job.runs, job.offcuts_m, job.roll_m, job.rules, rolls - 1, anything, work_s / 2)
        if found is None:
            break
        best, rolls = found, rolls - 1
    least_rolls = rolls if proven else bound[0]
    splices = sum(len(p) - 1 for p in best)
    longest = max([job.roll_m, *job.offcuts_m]) + job.rules.give_m
    lap = job.rules.overlap_m
    least = sum(max(0, math.ceil((r.need_m - lap - EPS_M) / (longest - lap)) - 1) for r in job.runs)
    least = max(least, bound[1]) if rolls == bound[0] else least
    while splices > least:
        found, proven = cut_with(job.runs, job.offcuts_m, job.roll_m, job.rules, rolls, splices - 1, work_s / 5)
        if found is None:
            least = splices if proven and least_rolls == rolls else least
            break
        best, splices = found, sum(len(p) - 1 for p in found)
    return _plan(job, best, rolls, (least_rolls, least, -math.inf))


def _as_good(job: _Job, relaxed: tuple[Score, list[_Group]]) -> bool:
    """True when the best grouping by length can be laid as it is, keeping the offcut it promised."""
    laid = [job.lay(g) for g in relaxed[1]]
    if any(piece is None for piece in laid):
        return False
    touched = {k for g in relaxed[1] for k in g.offcuts}
    kept = [m for k, m in enumerate(job.offcuts_m) if k not in touched] + [piece[1] for piece in laid if piece]
    return max(kept, default=0.0) >= -relaxed[0][2] - 1e-6


def _mended(job: _Job, groups: list[_Group]) -> list[_Group] | None:
    """Lay each group; one that can't be laid gets one more roll, or is taken run by run."""
    kept: list[_Group] = []
    for group in groups:
        more = _Group(group.runs, group.offcuts, group.new + 1)
        if job.lay(group):
            kept.append(group)
        elif job.lay(more):
            kept.append(more)
        else:
            alone = _Job([job.runs[k] for k in group.runs], (), job.roll_m, job.rules).one_by_one()
            if alone is None:
                return None
            kept += [_Group((group.runs[k],), (), g.new) for k, g in enumerate(alone)]
    return kept


def _pieces(job: _Job, groups: Sequence[_Group]) -> list[list[Piece]]:
    """Pieces per run of laid groups, new rolls of each group told apart."""
    per_run: list[list[Piece]] = [[] for _ in job.runs]
    for number, group in enumerate(groups):
        laid = job.lay(group)
        assert laid is not None
        for piece in laid[0]:
            name = f"{number} {piece.stock}" if piece.stock.startswith("new") else piece.stock
            per_run[piece.run].append(Piece(name, piece.length_m, piece.run))
    return per_run


def _plan(job: _Job, per_run: Sequence[Sequence[Piece]], opened: int, bound: Score) -> RollPlan:
    """Name the new rolls in the order in which they are used along the line, and compare with the bound."""
    left = {f"offcut{k}": length for k, length in enumerate(job.offcuts_m)}
    names: dict[str, str] = {}
    named: list[tuple[Piece, ...]] = []
    for pieces in per_run:
        row = []
        for piece in pieces:
            name = piece.stock
            if not name.startswith("offcut"):
                name = names.setdefault(name, f"new{len(names)}")
            row.append(Piece(name, piece.length_m, piece.run))
            left[name] = left.get(name, job.roll_m) - piece.length_m
        named.append(tuple(row))
    splices = sum(len(p) - 1 for p in named)
    longest = max(0.0, *left.values()) if left else 0.0
    proven_rolls = opened <= bound[0]
    proven_splices = proven_rolls and splices <= bound[1]
    return RollPlan(
        pieces=tuple(named),
        new_rolls=opened,
        splices=splices,
        longest_offcut_m=longest,
        proven={
            "new_rolls": proven_rolls,
            "splices": proven_splices,
            "longest_offcut": proven_splices and longest >= -bound[2] - 1e-6,
        },
        bound={"new_rolls": bound[0], "splices": bound[1]},
        greedy=_first_fit(job),
        splices_at_m=tuple(tuple(splice_stations(p, job.rules.overlap_m)) for p in named),
        offcuts_kept_m=tuple((name, length) for name, length in left.items() if length > EPS_M),
    )
