"""What the phone is told on steep ground: levels and what the tape reads, worked out by hand from √(1 + slope²)."""

import pytest

from gnomonic.core.edits.all import apply, read_edit
from gnomonic.core.job.fence import one_line
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.store import jobs


def line_on(*heights, every=40.0):
    """A line due east with these heights, so far apart, level distances."""
    points = tuple(Point(e_m=every * k, n_m=0.0, h_m=h) for k, h in enumerate(heights))
    return one_line("slope", MeasuredLine(points=points, source=Source(kind="drawn", points_read=len(points))))


def packed_posts(client, scope, job):
    made = client.get(f"/api/v1/jobs/{jobs.create(scope, job)}/field").json()["pack"]
    return {p["name"]: p for p in made["lines"][0]["posts"]}, made["lines"][0]


@pytest.mark.parametrize(("slope", "longer"), [(0.15, 1.01119), (0.50, 1.11803), (-0.50, 1.11803)])
def test_a_tape_laid_on_a_slope_reads_more_than_the_level_distance_the_post_is_set_by(client, scope, slope, longer):
    """√(1 + 0.15²) = 1.01119, √(1 + 0.5²) = 1.11803, uphill as down (a square root, by hand)."""
    posts, line = packed_posts(client, scope, line_on(50, 50 + 40 * slope, 50 + 80 * slope))
    last = list(posts.values())[-1]
    assert last["taped"] == pytest.approx(80.0, abs=0.002) and last["from"] == "1"
    assert last["along"] == pytest.approx(80.0 * longer, abs=0.01)
    run = line["runs"][0]
    assert run["to"] - run["from"] == pytest.approx(80.0, abs=0.002) and run["along"] == last["along"]
    for post in posts.values():
        assert post["along"] == pytest.approx(post["taped"] * longer, abs=0.01)


def test_over_level_ground_both_are_the_same_and_over_a_dip_and_a_hump_the_tape_reads_more(client, scope):
    flat, _ = packed_posts(client, scope, line_on(50, 50, 50))
    assert all(p["along"] == pytest.approx(p["taped"], abs=0.001) for p in flat.values())
    rough = apply(line_on(50, 44, 50, 56, 50), read_edit({"do": "decide", "key": "corner_angle_deg", "value": 30}))
    posts, line = packed_posts(client, scope, rough)
    last = list(posts.values())[-1]
    assert last["taped"] == pytest.approx(160, abs=0.01)
    assert (
        160 < last["along"] <= 4 * (40**2 + 6**2) ** 0.5 + 0.01
    )  # 161.79 over its peaks; a chord from post to post is no longer
    assert last["along"] == pytest.approx(161.79, abs=0.25)
    assert any(p.get("gap", {}).get("m", 0) > 0 for p in posts.values()) and line["snags"]


def test_a_line_after_a_gate_is_taped_from_the_gates_post(client, scope):
    """The tape is run anew from a terminal: no distance runs over a gate."""
    job = apply(line_on(50, 50, 50), read_edit({"do": "add_gate", "at_m": 30, "leaf_m": 4.2672, "name": "field gate"}))
    posts, line = packed_posts(client, scope, job)
    gate = line["gates"][0]
    assert gate["to"] - gate["at"] > 4.2672  # the leaf, room at hinge and latch, half of both posts
    after = [p for p in posts.values() if p["at"] > gate["to"] + 0.1]
    assert after and all(p["taped"] == pytest.approx(p["at"] - gate["to"], abs=0.002) for p in after)
    assert all(p["along"] == pytest.approx(p["taped"], abs=0.002) for p in after)
    assert {p["from"] for p in after} == {gate["posts"][1]}
