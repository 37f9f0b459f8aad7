"""Judging a layout of pieces that somebody made by hand."""

from collections.abc import Sequence

from gnomonic.core.fabric.lay import Piece, Rules, RunNeed, splice_stations

NEAR_M = 1e-4


def layout_breaks(
    layout: Sequence[Sequence[Piece]], runs: Sequence[RunNeed], roll_m: float, offcuts_m: Sequence[float], rules: Rules
) -> tuple[list[str], dict[str, float]]:
    """Every rule the layout breaks, as sentences, and what is left of each stock item (m)."""
    breaks: list[str] = []
    left = {f"offcut{k}": length for k, length in enumerate(offcuts_m)}
    if len(layout) != len(runs):
        breaks.append(f"the layout has {len(layout)} runs where {len(runs)} are needed")
    for k, (pieces, run) in enumerate(zip(layout, runs, strict=False)):
        names = [p.stock for p in pieces]
        for piece in pieces:
            if piece.stock not in left:
                if not (piece.stock.startswith("new") and piece.stock[3:].isdigit()):
                    breaks.append(f"run {k}: there is no stock item “{piece.stock}” (use new0, new1 … or offcut0 …)")
                    continue
                left[piece.stock] = roll_m
            left[piece.stock] -= piece.length_m
            if piece.length_m < rules.least_piece_m(run) - NEAR_M:
                least = rules.least_piece_m(run)
                breaks.append(f"run {k}: a piece of {piece.length_m:.2f} m is shorter than {least:.2f} m")
        for name in sorted({n for n in names if names.count(n) > 1}):
            breaks.append(f"run {k}: {name} gives more than one piece to the same run")
        given = sum(p.length_m for p in pieces) - (len(pieces) - 1) * rules.overlap_m
        if not pieces or abs(given - run.need_m) > NEAR_M:
            breaks.append(f"run {k}: its pieces cover {max(0.0, given):.2f} m where {run.need_m:.2f} m is needed")
        windows = rules.splice_windows(run)
        for c in splice_stations(pieces, rules.overlap_m):
            if not any(low - NEAR_M <= c <= high + NEAR_M for low, high in windows):
                breaks.append(f"run {k}: the splice that ends at {c:.2f} m is too near a post, or in an end bay")
    for name, length in left.items():
        if length < -NEAR_M:
            breaks.append(f"{name} is cut {-length:.2f} m longer than it is")
    return breaks, left
