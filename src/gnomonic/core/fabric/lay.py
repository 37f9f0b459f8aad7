"""Laying pieces of one group: which stock is cut where so that every run is covered and every splice is allowed.

A piece of stock laid in a run is joined to the next by an overlap; a run of k pieces takes Σ pieces = need +
(k−1)·overlap.  A group is runs and stock items laid one after another; where the stock ends inside a run there is a
splice.  Source: common practice (piece and splice rules); docs/method.md §9.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from itertools import pairwise, permutations

EPS_M = 1e-6
A_TRY = 600  # steps of search spent on one order


@dataclass(frozen=True, slots=True)
class RunNeed:
    """Fabric one run needs, tails included, and where its posts stand along that fabric (from its start; or None).

    ``shut`` bays at the start and at the end take no splice: the end bays, or all panels of a brace.
    """

    need_m: float
    posts_m: tuple[float, ...] | None = None
    shut: tuple[int, int] = (1, 1)


@dataclass(frozen=True, slots=True)
class Rules:
    """How pieces may be joined; all in metres.  ``give_m`` is what stock may be short by and still do: a tape's precision."""

    overlap_m: float
    piece_min_m: float
    clear_m: float = 0.0
    give_m: float = 0.0

    def splice_windows(self, run: RunNeed) -> list[tuple[float, float]]:
        """Where a splice's far edge c may lie along the run's fabric; the splice covers c−overlap to c.

        Every point of it is at least ``clear_m`` from each post and outside the bays that are shut.
        """
        if run.posts_m is None:
            return [(self.overlap_m, run.need_m)]
        windows = []
        open_posts = run.posts_m[run.shut[0] : len(run.posts_m) - run.shut[1]]
        for low, high in pairwise(open_posts):
            window = (low + self.clear_m + self.overlap_m, high - self.clear_m)
            if window[0] <= window[1] + EPS_M:
                windows.append(window)
        return windows

    def most_splices(self, run: RunNeed) -> int:
        """No run takes more splices than this: one where its pieces can be long enough and a bay takes it, and so on."""
        least = self.least_piece_m(run)
        room = math.inf if least <= self.overlap_m else (run.need_m - self.overlap_m) / (least - self.overlap_m)
        places = sum(
            int((high - low) / max(least - self.overlap_m, 0.01) + EPS_M) + 1 for low, high in self.splice_windows(run)
        )
        return max(0, min(places, 10**6 if room == math.inf else math.floor(room + EPS_M) - 1))

    def least_piece_m(self, run: RunNeed) -> float:
        """Shortest piece allowed in a run; a run that is itself shorter takes one whole piece."""
        return min(self.piece_min_m, run.need_m)


@dataclass(frozen=True, slots=True)
class Stock:
    """A roll or an owned offcut."""

    name: str
    length_m: float


@dataclass(frozen=True, slots=True)
class Piece:
    """A piece cut from a stock item for a run; ``run`` is an index into the runs as given."""

    stock: str
    length_m: float
    run: int


@dataclass(slots=True)
class _Search:
    """Depth-first laying of runs in one order from stock in one order."""

    runs: Sequence[tuple[int, RunNeed]]
    stock: Sequence[Stock]
    rules: Rules
    windows: dict[int, list[tuple[float, float]]]
    waste_m: float
    steps: int
    pieces: list[Piece] = field(default_factory=list)

    def lay(self, run: int, item: int, left_m: float, covered_m: float, waste_m: float, count: int) -> bool:
        """Cover the rest of ``run`` (``covered_m`` already) from ``item`` with ``left_m`` on it."""
        self.steps -= 1
        if self.steps < 0:
            return False
        if run == len(self.runs):
            return True
        index, need = self.runs[run]
        rest = need.need_m - covered_m + (self.rules.overlap_m if count else 0.0)
        least = self.rules.least_piece_m(need)
        if left_m >= rest - EPS_M and rest >= least - EPS_M:
            self.pieces.append(Piece(self.stock[item].name, rest, index))
            if self.lay(run + 1, item, max(0.0, left_m - rest), 0.0, waste_m, 0):
                return True
            self.pieces.pop()
        if item + 1 >= len(self.stock):
            return False
        for cut in self._cuts(index, need, covered_m, min(left_m, rest), least, count):
            lost = left_m - cut
            if lost > waste_m + EPS_M:
                break
            self.pieces.append(Piece(self.stock[item].name, cut, index))
            reached = covered_m + cut - (self.rules.overlap_m if count else 0.0)
            if self.lay(run, item + 1, self.stock[item + 1].length_m, reached, waste_m - lost, count + 1):
                return True
            self.pieces.pop()
        if count == 0 and left_m <= waste_m + EPS_M:  # leave what is on this item and start the run from the next
            return self.lay(run, item + 1, self.stock[item + 1].length_m, 0.0, waste_m - left_m, 0)
        return False

    def _cuts(
        self, index: int, need: RunNeed, covered_m: float, most_m: float, least_m: float, count: int
    ) -> Iterator[float]:
        """Lengths at which this piece may end in a splice, longest first."""
        lap = self.rules.overlap_m if count else 0.0
        start = covered_m - lap
        end = min(start + most_m, need.need_m + self.rules.overlap_m - least_m)
        for low, high in reversed(self.windows[index]):
            c = min(high, end)
            if c >= low - EPS_M and c - start >= least_m - EPS_M:
                yield c - start


def lay_group(
    runs: Sequence[tuple[int, RunNeed]], stock: Sequence[Stock], rules: Rules, steps: int = 4000
) -> tuple[list[Piece], float] | None:
    """Lay a group; pieces in order and the longest leftover of its stock, or None when no order tried works.

    The last item keeps the leftover, so orders are tried in which the largest items come last.
    """
    used = sum(r.need_m for _, r in runs) + (len(stock) - 1) * rules.overlap_m
    waste = sum(s.length_m for s in stock) - used
    if waste < -EPS_M:
        return None
    windows = {index: rules.splice_windows(need) for index, need in runs}
    orders = permutations(runs) if len(runs) <= 5 else iter([tuple(runs), tuple(reversed(runs))])
    by_size = sorted(stock, key=lambda s: s.length_m)
    for order in orders:
        search = _Search(order, by_size, rules, windows, waste, min(steps, A_TRY + 4 * len(stock)))
        if search.lay(0, 0, by_size[0].length_m, 0.0, max(0.0, waste), 0):
            cut = {s.name: s.length_m for s in stock}
            for piece in search.pieces:
                cut[piece.stock] -= piece.length_m
            if any(left < -1e-4 - rules.give_m for left in cut.values()):
                continue
            return search.pieces, max(0.0, *cut.values())
        steps -= A_TRY
        if steps <= 0:
            break
    return None


def splice_stations(pieces: Sequence[Piece], overlap_m: float) -> list[float]:
    """Far edges of the splices along one run's fabric, from its pieces in laying order."""
    stations, reached = [], 0.0
    for k, piece in enumerate(pieces):
        reached += piece.length_m - (overlap_m if k else 0.0)
        stations.append(reached)
    return stations[:-1]
