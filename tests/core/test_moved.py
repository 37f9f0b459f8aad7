"""A fence is the same fence wherever its ground lies: moved east, north and up, nothing of its plan may change but its places.

Derived: no rule of the trade, no balance of forces and no count knows where the origin of the map is.
"""

import pytest
from ground import BARBED, HIGH, IN, LOAM, SAND, line
from places import TODAY, demo_fences, fence_of, plan, telling

from gnomonic.core.fabric.fabrics import fabrics
from gnomonic.core.haul.takeoff import take_off
from gnomonic.core.plan.stretch import stretching
from gnomonic.core.snags.all import snags
from gnomonic.core.tell.dips import dips
from gnomonic.core.tell.steps import steps_of
from gnomonic.core.tell.tag import post_tag

EAST, NORTH, UP = 4321.0, -2345.0, 678.0


def moved(it):
    """A line's job with all of its ground somewhere else."""
    job = it.job
    lines = tuple(
        row.model_copy(update={"measured": row.measured.model_copy(update={"points": tuple(p.model_copy(update={"e_m": p.e_m + EAST, "n_m": p.n_m + NORTH, "h_m": p.h_m + UP}) for p in row.measured.points)})})
        for row in job.lines
    )  # fmt: skip
    found = tuple(f.model_copy(update={"shape": tuple((e + EAST, n + NORTH) for e, n in f.shape)}) for f in job.found)
    return fence_of(job.model_copy(update={"lines": lines, "found": found}), it.id)


def near(values):
    return pytest.approx(values, rel=1e-5, abs=1e-5)


FEW = ("paddock", "gully", "workshop", "hill")


@pytest.mark.parametrize("it", telling(demo_fences(), *FEW), ids=lambda it: it.title)
def test_a_line_moved_is_the_same_fence(it):
    there = moved(it)
    one, two = plan(it), plan(there)
    assert [(p.kind, p.role, p.name, p.fill) for p in one.posts] == [
        (p.kind, p.role, p.name, p.fill) for p in two.posts
    ]
    for name in ("station_m", "depth_m", "length_m", "stock_m", "turn_deg", "grade_change"):
        assert [getattr(p, name) for p in two.posts] == near([getattr(p, name) for p in one.posts]), name
    for name, by in (("east_m", EAST), ("north_m", NORTH), ("ground_m", UP)):
        assert [getattr(p, name) - by for p in two.posts] == near([getattr(p, name) for p in one.posts]), name
    assert [(h.why, h.stands) for h in one.holds] == [(h.why, h.stands) for h in two.holds]
    for name in ("side_n", "side_deg", "lift_n", "has_n", "code_n", "lean_m", "grip_n", "bend_pa"):
        assert [getattr(h, name) or 0.0 for h in two.holds] == near([getattr(h, name) or 0.0 for h in one.holds]), name
    assert [p.bearing_deg for _, p in two.ends] == near([p.bearing_deg for _, p in one.ends])
    for a, b in zip(one.braces, two.braces, strict=True):
        assert (*b.rail_cut_m, *b.wire_m, *b.statics.wire_n) == near((*a.rail_cut_m, *a.wire_m, *a.statics.wire_n))
    assert {n.key: n.count for n in take_off(there, two)} == near({n.key: n.count for n in take_off(it, one)})
    for a, b in zip(stretching(it, one, 12.0).runs, stretching(there, two, 12.0).runs, strict=True):
        assert (b.option.keeps, b.drawn.aim.pull_n, b.dips_m) == near((a.option.keeps, a.drawn.aim.pull_n, a.dips_m))


@pytest.mark.parametrize("it", telling(demo_fences(), *FEW), ids=lambda it: it.title)
def test_of_a_line_moved_the_same_is_told(it):
    there = moved(it)
    one, two = plan(it), plan(there)
    said = [
        [
            (s.code, s.title.text("us"), s.consequence.text("us"), [r.label.text("us") for r in s.remedies])
            for s in snags(f, p, TODAY)
        ]
        for f, p in ((it, one), (there, two))
    ]
    assert said[0] == said[1]
    steps = [[s.text.text("metric") for s in steps_of(f, p)] for f, p in ((it, one), (there, two))]
    assert steps[0] == steps[1]
    sheets = [[(d.post.name, round(d.hangs_m, 4), round(d.pressed.force_n, 2)) for d in dips(p)] for p in (one, two)]
    assert sheets[0] == sheets[1]
    for k in range(0, len(one.posts), 7):
        tags = [
            [(x.name, x.value if isinstance(x.value, str) else x.value.text("us")) for x in post_tag(f, p, k).facts]
            for f, p in ((it, one), (there, two))
        ]
        assert tags[0] == tags[1]


def test_a_corner_far_from_the_map_s_origin_is_pulled_between_its_runs():
    """One run goes back west from it, the other on to the north: together √2 of one, to the north-west."""
    here = plan(moved(line((0, 0, 5), (60, 0, 5), (60, 60, 5), edits=[BARBED, SAND])))
    corner = next(h for h in here.holds if abs(here.posts[h.post].station_m - 60) < 0.01)
    assert corner.side_deg == pytest.approx(315.0) and sorted(
        p.bearing_deg for at, p in here.ends if abs(at - 60) < 0.01
    ) == pytest.approx([0.0, 270.0])


def test_a_dip_high_up_is_a_dip():
    """20 % down and up again, 700 m above the sea: the same dip, lifted by as much, hanging as far."""
    it = line((0, 0, 10), (50, 0, 0), (100, 0, 10), edits=[HIGH, LOAM, {"do": "place_post", "at_m": 50}])
    low, high = (next(d for d in dips(plan(f)) if abs(d.post.station_m - 50) < 0.01) for f in (it, moved(it)))
    assert (high.hangs_m, high.pressed.force_n) == near(
        (low.hangs_m, low.pressed.force_n)
    ) and low.hangs_m == pytest.approx(10.0)


def test_a_mesh_begins_at_its_bottom_edge():
    for label in ("welded 48-2×2", "48-11-2"):
        assert fabrics()[label].wire_heights_m == (0.0, pytest.approx(48 * IN))
