"""Runs and stock in whole millimetres, and the plain bounds that follow from their lengths alone."""

import math
from dataclasses import dataclass

Grouping = list[tuple[tuple[int, ...], tuple[int, ...], int]]  # runs, offcuts and the number of new rolls of each group


@dataclass(frozen=True, slots=True)
class Lengths:
    """The task in whole millimetres: needs rounded up, stock down, so that a grouping always holds."""

    need: list[int]
    own: list[int]
    roll: int
    lap: int

    def whole_rolls(self, run: int) -> int:
        """Rolls used up by a run before its tail."""
        return max(0, math.ceil((self.need[run] - self.lap) / (self.roll - self.lap)) - 1)

    def tail(self, run: int) -> int:
        """What a run needs beyond its whole rolls."""
        return self.need[run] - self.whole_rolls(run) * (self.roll - self.lap)

    def least_splices(self) -> int:
        """No grouping has fewer splices: each run alone must be pieced from the longest stock there is."""
        longest = max([self.roll, *self.own])
        return sum(max(0, math.ceil((n - self.lap) / (longest - self.lap)) - 1) for n in self.need)

    def least_rolls(self) -> int:
        """No grouping has fewer rolls: needs and the splices that can't be saved must come from somewhere."""
        return max(0, math.ceil((sum(self.need) + self.lap * self.least_splices() - sum(self.own)) / self.roll))
