"""Demands against published conservation-practice minimums for livestock fence.

USDA NRCS Conservation Practice Standard 382, Fence (from memory; states set their own figures): a perimeter barbed-wire
fence for cattle has at least four strands, its top wire at 42 to 48 in, its bottom wire at 12 to 18 in, wires at most
12 in apart; woven wire for sheep is at least 32 in high with a strand above; deer exclusion is at least 8 ft.
"""

import itertools

import pytest

from gnomonic.core.demand.animals import shipped
from gnomonic.core.demand.demand import demand_of
from gnomonic.core.demand.section import section
from gnomonic.core.job.parts import Hold, Presence

INCH = 0.0254


def demanded(animal):
    return demand_of(Hold(animals=(Presence(animal=animal, side="left"),)))


def test_cattle_and_barbed_wire():
    assert 42 <= demanded("cattle").height.value / INCH <= 48
    four = section("barbed", "4 strands")
    heights = [(four.clearance_m + s.at_m) / INCH for s in four.strands]
    assert len(heights) == 4 and 12 <= heights[0] <= 18 and 42 <= heights[-1] <= 48
    assert all(b - a <= 12 + 0.01 for a, b in itertools.pairwise(heights))


def test_sheep_and_deer():
    assert demanded("sheep").height.value / INCH >= 32
    assert demanded("deer").height.value / INCH == pytest.approx(96)


def test_young_ask_for_less_height_and_smaller_openings():
    """Common practice: the young go through and under, the grown go over."""
    book = shipped().animals
    for young, grown in (
        ("calves", "cattle"),
        ("lambs", "sheep"),
        ("kids", "goats"),
        ("foals", "horses"),
        ("weaners", "pigs"),
    ):
        assert book[young].height.value < book[grown].height.value
        assert book[young].openings[0].most_m < book[grown].openings[0].most_m
        assert book[young].gap.value <= book[grown].gap.value
