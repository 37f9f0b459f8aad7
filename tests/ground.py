"""A line over ground given by its points, edited; and what hangs and stands on it in many tests."""

from places import apply, fence

from gnomonic.core.edits.all import read_edit
from gnomonic.core.job.parts import MeasuredLine, Point, Source

IN, FT = 0.0254, 0.3048


def line(*points, edits=(), closed=False):
    measured = MeasuredLine(
        points=tuple(Point(e_m=e, n_m=n, h_m=h) for e, n, h in points),
        closed=closed,
        source=Source(kind="legs", points_read=2),
    )
    it = fence("Test line", measured)
    for edit in edits:
        it = apply(it, read_edit(edit))
    return it


def do(it, **edit):
    return apply(it, read_edit(edit))


def held_at(made, station):
    return next(h for h in made.holds if abs(made.posts[h.post].station_m - station) < 0.01)


SAND = {"do": "say_soil", "soil": "sand"}
LOAM = {"do": "say_soil", "soil": "loam"}
BARBED = {"do": "hang_barrier", "system": "barbed", "label": "5 strands"}
HIGH = {"do": "hang_barrier", "system": "high_tensile", "label": "13-48-12"}
LINK = {"do": "hang_barrier", "system": "chainlink", "label": "48-11-2"}
