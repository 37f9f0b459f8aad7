"""Which panels brace a run: inner posts from each terminal, shortened or shared where the run is short."""

from collections.abc import Sequence
from dataclasses import dataclass

from gnomonic.core.setout.line import SAME_M

Stretches = Sequence[tuple[float, float]]


@dataclass(frozen=True, slots=True)
class BraceEnd:
    """The H-brace at one end of a run.

    ``stations_m`` from the terminal inwards (terminal included; alone where nothing braces it); ``shared`` when the
    other end's brace uses the same panel; ``in_forbidden`` when an inner post had to stand where none may; ``crossed``
    when it is the second wire in the last panel of the run before, at a braced post within a side: its panel then lies
    behind the post, outside its own run.
    """

    run: int
    at_start: bool
    stations_m: tuple[float, ...]
    shared: bool
    in_forbidden: bool
    crossed: bool = False

    @property
    def panels(self) -> int:
        """Panels in a row."""
        return len(self.stations_m) - 1

    @property
    def spacing_m(self) -> float:
        """Post centres of the first panel."""
        return abs(self.stations_m[1] - self.stations_m[0])


def _clear_of(
    distance_m: float, station_of: "tuple[float, int]", forbidden: Stretches, longest_m: float
) -> float | None:
    """A distance from the terminal near ``distance_m`` at which a post may stand, within 60 to 125 % of it."""
    origin, way = station_of
    tries = [distance_m]
    for low, high in forbidden:
        tries += [(low - origin) * way, (high - origin) * way]
    fits = [
        d
        for d in tries
        if 0.6 * distance_m <= d <= min(1.25 * distance_m, max(longest_m, distance_m))
        and not any(low + SAME_M < origin + way * d < high - SAME_M for low, high in forbidden)
    ]
    return min(fits, key=lambda d: abs(d - distance_m)) if fits else None


Spec = tuple[float, int]  # post centres of a panel and panels in a row; none where the end has no panel


def brace_ends(
    run: int, start_m: float, end_m: float, specs: tuple[Spec, Spec], longest_m: float, forbidden: Stretches
) -> tuple[BraceEnd, BraceEnd]:
    """Panels at both ends of a run, each as asked.  Lengths in m.

    A run with no room for its panels gets fewer of them, then two half panels with one post between them, and a
    run of up to one and a half rails becomes a single panel with crossed wires.
    """
    length = end_m - start_m
    steps, counts = [s for s, _ in specs], [n for _, n in specs]
    both = counts[0] > 0 and counts[1] > 0
    braced = [s for s, n in specs if n]
    if braced and length <= 1.5 * min(braced) and length <= max(longest_m, *braced) + SAME_M:
        pair = (start_m, end_m)
        return (
            BraceEnd(run, True, pair if counts[0] else pair[:1], both, False),
            BraceEnd(run, False, pair[::-1] if counts[1] else pair[1:], both, False),
        )
    while max(counts) > 1 and length < sum(n * s for n, s in zip(counts, steps, strict=True)):
        most = max(counts)
        counts = [n - (n == most) for n in counts]
    if both and length < sum(steps):
        middle = (start_m + end_m) / 2
        bad = any(low + SAME_M < middle < high - SAME_M for low, high in forbidden)
        return (
            BraceEnd(run, True, (start_m, middle), True, bad),
            BraceEnd(run, False, (end_m, middle), True, bad),
        )
    ends = []
    for origin, way, step, panels in zip((start_m, end_m), (1, -1), steps, counts, strict=True):
        stations, bad = [origin], False
        for _ in range(panels):
            fit = _clear_of(step, (stations[-1], way), forbidden, longest_m)
            bad |= fit is None
            stations.append(stations[-1] + way * (step if fit is None else fit))
        ends.append(BraceEnd(run, way == 1, tuple(stations), False, bad))
    first, second = ends
    if both and first.stations_m[-1] > second.stations_m[-1] + SAME_M:  # shifted into one another: share the middle
        one = min(steps)
        return brace_ends(run, start_m, end_m, ((one, 1), (one, 1)), longest_m, ())
    return first, second
