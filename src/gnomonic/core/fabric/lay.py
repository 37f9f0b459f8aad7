"""Laying pieces of one group: which stock is cut where so that every run is covered and every splice is allowed.

A piece of stock laid in a run is joined to the next by an overlap; a run of k pieces takes Σ pieces = need +
(k−1)·overlap.  A group is runs and stock items laid one after another; where the stock ends inside a run there is a
splice.  Source: common practice (piece and splice rules); docs/method.md §9.
"""

import math
from bisect import bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise, permutations

EPS_M = 1e-6
A_TRY = 600  # steps of search spent on one order


@dataclass(frozen=True, slots=True)
class RunNeed:
    """Fabric one run needs, tails included, and where its posts stand along that fabric (from its start; or None).

    ``shut`` bays at the start and at the end take no splice: the end bays, or all panels of a brace; nor do the ``barred``
    stretches, along the fabric.
    """

    need_m: float
    posts_m: tuple[float, ...] | None = None
    shut: tuple[int, int] = (1, 1)
    barred: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True, slots=True)
class Rules:
    """How pieces may be joined; all in metres.  ``give_m`` is what stock may be short by and still do: a tape's precision."""

    overlap_m: float
    piece_min_m: float
    clear_m: float = 0.0
    give_m: float = 0.0

    def splice_windows(self, run: RunNeed) -> list[tuple[float, float]]:
        """Where a splice's far edge c may lie along the run's fabric; the splice covers c−overlap to c.

        Every point of it is at least ``clear_m`` from each post and outside the bays that are shut and the stretches that are barred.
        """
        found = self._between_posts(run)
        for low, high in run.barred:  # the far edge lies before it, or the near edge behind it
            parts = [(a, min(b, low)) for a, b in found] + [(max(a, high + self.overlap_m), b) for a, b in found]
            found = sorted({(a, b) for a, b in parts if a <= b + EPS_M})
        return found

    def _between_posts(self, run: RunNeed) -> list[tuple[float, float]]:
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


@dataclass(frozen=True, slots=True)
class _State:
    """How far the laying has come: ``covered_m`` of ``run`` by ``count`` pieces, ``left_m`` on ``item``, ``waste_m`` to lose."""

    run: int
    item: int
    left_m: float
    covered_m: float
    waste_m: float
    count: int


@dataclass(slots=True)
class _Search:
    """Depth-first laying of runs in one order from stock in one order."""

    runs: Sequence[tuple[int, RunNeed]]
    stock: Sequence[Stock]
    rules: Rules
    windows: dict[int, list[tuple[float, float]]]

    def lay(self, waste_m: float, steps: int) -> list[Piece] | None:
        """Pieces that cover every run, or None when none are found within so many steps."""
        ways = [self._ways(_State(0, 0, self.stock[0].length_m, 0.0, waste_m, 0))]
        path: list[Piece | None] = []
        while ways:
            found = next(ways[-1], None)
            if found is None:
                ways.pop()
                if path:
                    path.pop()
                continue
            steps -= 1
            if steps < 0:
                return None
            piece, state = found
            path.append(piece)
            if state.run == len(self.runs):
                return [p for p in path if p is not None]
            ways.append(self._ways(state))
        return None

    def _ways(self, s: _State) -> Iterator[tuple[Piece | None, _State]]:
        """What can be laid next, the most hopeful first."""
        index, need = self.runs[s.run]
        rest = need.need_m - s.covered_m + (self.rules.overlap_m if s.count else 0.0)
        least = self.rules.least_piece_m(need)
        name = self.stock[s.item].name
        if s.left_m >= rest - EPS_M and rest >= least - EPS_M:
            left = max(0.0, s.left_m - rest)
            yield Piece(name, rest, index), _State(s.run + 1, s.item, left, 0.0, s.waste_m, 0)
        if s.item + 1 >= len(self.stock):
            return
        whole = self.stock[s.item + 1].length_m
        for cut in self._cuts(index, need, s.covered_m, min(s.left_m, rest), least, s.count):
            lost = s.left_m - cut
            if lost > s.waste_m + EPS_M:
                break
            reached = s.covered_m + cut - (self.rules.overlap_m if s.count else 0.0)
            more = _State(s.run, s.item + 1, whole, reached, s.waste_m - lost, s.count + 1)
            yield Piece(name, cut, index), more
        if s.count == 0 and s.left_m <= s.waste_m + EPS_M:  # leave what is on this item, start the run from the next
            yield None, _State(s.run, s.item + 1, whole, 0.0, s.waste_m - s.left_m, 0)

    def _cuts(
        self, index: int, need: RunNeed, covered_m: float, most_m: float, least_m: float, count: int
    ) -> Iterator[float]:
        """Lengths at which this piece may end in a splice, longest first."""
        lap = self.rules.overlap_m if count else 0.0
        start = covered_m - lap
        end = min(start + most_m, need.need_m + self.rules.overlap_m - least_m)
        windows = self.windows[index]
        for k in range(bisect_right(windows, end + EPS_M, key=lambda w: w[0]) - 1, -1, -1):
            c = min(windows[k][1], end)
            if c - start < least_m - EPS_M:
                return
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
        search = _Search(order, by_size, rules, windows)
        pieces = search.lay(max(0.0, waste), min(steps, A_TRY + 4 * len(stock)))
        if pieces is not None:
            cut = {s.name: s.length_m for s in stock}
            for piece in pieces:
                cut[piece.stock] -= piece.length_m
            if any(left < -1e-4 - rules.give_m for left in cut.values()):
                continue
            return pieces, max(0.0, *cut.values())
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
