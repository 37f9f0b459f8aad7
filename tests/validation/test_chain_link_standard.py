"""Chain link against what is published of it.

ASTM F567, Standard Practice for Installation of Chain-Link Fence (from memory): fabric tied to line posts at most 12 in
apart, to rails at most 24 in; hog rings on a tension wire at most 24 in apart; line posts at most 10 ft apart.
ASTM F1083 pipe sizes (from memory) as they stand in the pipe tables of the library fluids (ASME B36.10).
"""

import itertools
import math

import pytest
from fluids.piping import nearest_pipe

from gnomonic.core.demand.section import section
from gnomonic.core.demand.system import system
from gnomonic.core.finish.fittings import bay_counts, post_fittings

LINK = system("chainlink")
INCH = 0.0254


@pytest.mark.parametrize(("post", "nps", "inches"), [("terminal", 2, 2.375), ("pipe", 1.5, 1.9)])
def test_posts_are_trade_pipe_by_outside_diameter(post, nps, inches):
    _, _, outside, _ = nearest_pipe(NPS=nps)
    assert outside / INCH == pytest.approx(inches, abs=0.005)
    assert LINK.posts[post].diameter_m == pytest.approx(outside, abs=0.0008)  # the trade's 1⅞ in is 1.9 in pipe


@pytest.mark.parametrize("label", ["48-11-2", "60-11-2", "72-9-2"])
@pytest.mark.parametrize("bay", [1.5, 2.4, 3.048])
def test_ties_and_rings_are_as_close_as_the_standard_asks(label, bay):
    hung = section("chainlink", label, (), {"ties": "standard"})
    between = bay_counts(hung, bay, {})
    assert bay / (between["tie"] + 1) <= 24 * INCH + 1e-9 and bay / (between["hog_ring"] + 1) <= 24 * INCH + 1e-9
    ties = next(f for f in post_fittings(hung, "light", 1, 0.0254, 1.2) if f.item == "tie")
    heights = sorted(ties.heights_m)
    assert all(b - a <= 12 * INCH + 1e-6 for a, b in itertools.pairwise(heights))


def test_nine_diamonds_are_a_little_more_than_the_standard():
    """Nine diamonds of 2 in mesh are 25.5 in: the school that counts diamonds is an inch and a half over the standard."""
    nine = 9 * 2 * math.sqrt(2)
    assert nine == pytest.approx(25.46, abs=0.01) and nine > 24
    assert LINK.start["longest_bay_m"].value == pytest.approx(10 * 12 * INCH)


def test_diamonds_are_squares_on_their_corners():
    """A 2 in mesh is measured across its wires; its diagonal is 2.83 in (geometry)."""
    hung = section("chainlink", "48-11-2")
    assert hung.fabric.mesh_m[0] / INCH == pytest.approx(2.0)
