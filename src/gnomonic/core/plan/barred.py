"""Where no post should stand: one rule for the planner and for posts placed by hand."""

from collections.abc import Sequence

from gnomonic.core.ground.found import OnLine, called, no_post_stretches
from gnomonic.core.job.fence import Fence
from gnomonic.core.plan.model import Barred
from gnomonic.core.setout.line import SAME_M


def barred_stretches(fence: Fence, things: Sequence[OnLine]) -> list[Barred]:
    """Where no post should stand: by hand and by what was found.

    Stretches found that lie together longer than the longest bay can't be spanned: posts will stand in them, flagged.
    """
    found = sorted(no_post_stretches(things), key=lambda s: s[:2])
    clusters: list[list[float]] = []
    for low, high in sorted([(s.from_m, s.to_m) for s in fence.forbidden] + [s[:2] for s in found]):
        if clusters and low < clusters[-1][1]:
            clusters[-1][1] = max(clusters[-1][1], high)
        else:
            clusters.append([low, high])
    wide = [(a, b) for a, b in clusters if b - a > fence.decisions.longest_bay_m]
    digs = {t.found.id for t in things if t.kind.effect == "hand_dig"}
    return [Barred(s.from_m, s.to_m, s.reason) for s in fence.forbidden] + [
        Barred(low, high, called(f), f.id, f.id in digs, not any(a <= low and high <= b for a, b in wide))
        for low, high, f in found
    ]


def barring(barred: Sequence[Barred], station_m: float) -> Barred | None:
    """What keeps a post from a place: a stretch that is kept clear; one too wide for any bay is not."""
    inside = (b for b in barred if b.kept and b.from_m + SAME_M < station_m < b.to_m - SAME_M)
    return next(inside, None)
