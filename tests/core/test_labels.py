"""Roll labels as they are printed and said at the counter, with what they mean; written down before the reader was asked.

Source: common practice (what stands on rolls and how it is asked for); no-climb 2 × 4: uprights 2 in apart, line wires 4.
"""

import pytest

from gnomonic.core.calc.wire import explain_label
from gnomonic.core.fabric.counter import Unclear, read_roll
from gnomonic.core.fabric.fabrics import fabrics
from gnomonic.core.job.parts import Hold, Presence

FT_330, FT_200, FT_50 = 100.584, 60.96, 15.24
LIGHT, HEAVY = (12.5, 14.5), (12.5, 12.5)
# text → (line wires, height in, stay in), gauges, knot, roll in m
WOVEN = [
    ("9-49-6", (9, 49, 6), None, "", None),
    ("949-6", (9, 49, 6), None, "", None),
    ("1348-12", (13, 48, 12), None, "", None),
    ("9 49 6", (9, 49, 6), None, "", None),
    ("13/48/12", (13, 48, 12), None, "", None),
    ("9–39–6", (9, 39, 6), None, "", None),
    ("9 - 39 - 6", (9, 39, 6), None, "", None),
    ("8/32/6", (8, 32, 6), None, "", None),
    ("8-42-12", (8, 42, 12), None, "", None),
    ("1549-3", (15, 49, 3), None, "", None),
    ("26-48-2", (26, 48, 2), None, "", None),
    ("11-47-6 square lock", (11, 47, 6), None, "square", None),
    ("13-48-4 fixed knot 12½/12½", (13, 48, 4), HEAVY, "fixed", None),
    ("2096-6 s-knot", (20, 96, 6), None, "s", None),
    ("9-49-6 hinge joint 12½/14½ ga, 330 ft roll", (9, 49, 6), LIGHT, "hinge", FT_330),
    ("9-49-6 330", (9, 49, 6), None, "", FT_330),
    ("13-48-12 330'", (13, 48, 12), None, "", FT_330),
    ("1047-6 12½/14½ 330", (10, 47, 6), LIGHT, "", FT_330),
    ("20-96-6 fixed knot 330", (20, 96, 6), None, "fixed", FT_330),
    ("9-49-6 100 m", (9, 49, 6), None, "", 100.0),
    ("17-75-6 12½ gauge", (17, 75, 6), HEAVY, "", None),
    ("9 wires 47 in high, 6 in stays", (9, 47, 6), None, "", None),
    ("13 48 6 12½ 14½", (13, 48, 6), LIGHT, "", None),
    ("12½/14½ 9-49-6", (9, 49, 6), LIGHT, "", None),
    ("9-49-6 woven field fence class 3", (9, 49, 6), None, "", None),
    ("2x4 48 no climb", (13, 48, 2), None, "square", None),
    ("2 × 4 60 in no-climb 200 ft", (16, 60, 2), None, "square", FT_200),
    ("48 in 2x4 no climb", (13, 48, 2), None, "square", None),
    ("5 ft 2x4 no-climb horse fence 200", (16, 60, 2), None, "square", FT_200),
]
LINK = [
    ("48-11-2", (48, 11, 2), None),
    ("48-11-2 50", (48, 11, 2), FT_50),
    ("72 9 2 chain link", (72, 9, 2), None),
    ("60-11½-2 1/4", (60, 11.5, 2.25), None),
    ("chain link 48 in 11 gauge 2 in", (48, 11, 2), None),
]
PAIRS = ["12½/14½", "12½-14½", "12 1/2-14 1/2 gauge", "12.5/14.5", "12-1/2 / 14-1/2", "12½ top and bottom, 14½ filler"]
# text → what the refusal names, and what it offers
UNCLEAR = [
    ("47-6 12½-14½", "how many line wires", "9-49-6"),
    ("47-6", "how many line wires", "9-49-6"),
    ("9-49", "how far apart its stays", "9-49-6"),
    ("2x4 no climb", "not the height", "13-48-2"),
    ("9-49-6 77", "write its unit, as in 77 ft or 77 m", "9-49-6"),
    ("9-49-6 100", "write its unit", "9-49-6"),
    ("9-49-60", "not a roll that is made", "9-49-6"),
    ("49", "not a roll that is made", ""),
    ("fixed knot", "names no fabric", ""),
    ("9-49-6 purple", "“purple”", ""),
    ("square lock hinge joint 9-49-6", "two knots", ""),
    ("9-49-6 2 m", "is not sold", ""),
    ("welded 60-2×4", "choose it under Hold of a line, where there is welded 60-2×4", ""),
    ("2x4 welded 48 in 100 ft", "only woven fabric, no-climb and chain-link", ""),
    ("hex 48", "hex 36, hex 48, hex 72", ""),
    ("barbed 5 strands", "choose it under Hold", ""),
]


@pytest.mark.parametrize(("text", "numbers", "gauges", "knot", "roll_m"), WOVEN)
def test_woven_labels(text, numbers, gauges, knot, roll_m):
    said = read_roll(text)
    assert said.label.kind == "woven"
    assert (said.label.line_wires, said.label.height_in, said.label.stay_in) == numbers
    assert (said.gauges and (said.gauges.outer_gauge, said.gauges.filler_gauge)) == gauges
    assert said.knot == knot and said.roll_m == (None if roll_m is None else pytest.approx(roll_m))


@pytest.mark.parametrize(("text", "numbers", "roll_m"), LINK)
def test_chain_link_labels(text, numbers, roll_m):
    said = read_roll(text)
    assert (said.label.height_in, said.label.gauge, said.label.diamond_in) == numbers
    assert said.roll_m == (None if roll_m is None else pytest.approx(roll_m))


@pytest.mark.parametrize("text", PAIRS)
def test_gauge_pairs(text):
    said = read_roll(text)
    assert said.label is None and (said.gauges.outer_gauge, said.gauges.filler_gauge) == LIGHT


@pytest.mark.parametrize(("text", "names", "offers"), UNCLEAR)
def test_what_is_missing_is_named_and_the_nearest_offered(text, names, offers):
    with pytest.raises(Unclear) as caught:
        read_roll(text)
    assert names in caught.value.sentence
    assert offers in caught.value.offers if offers else not caught.value.offers


def test_a_label_is_read_the_same_after_other_pages_were_used():
    """Thirteen wires 4 in apart at the stays, whatever was worked out for the fabric it is made from before."""
    base = fabrics()["9-49-6"]
    assert (
        len(base.wire_heights_m) == 9 and base.stay_m == pytest.approx(6 * 0.0254) and base.pull_n and base.openings_m
    )
    goats = Hold(animals=(Presence(animal="goats", side="left"),))
    read = explain_label("13-48-4 fixed knot 12½/12½", goats)
    assert len(read["drawn"]["wires"]) == 13 and read["drawn"]["stay"] == pytest.approx(4 * 0.0254)
    assert all(v["ok"] for v in read["meets"] if v["demand"] == "Stays apart")
    other = explain_label("8-42-12", goats)
    assert len(other["drawn"]["wires"]) == 8 and other["drawn"]["stay"] == pytest.approx(12 * 0.0254)


def test_no_copy_with_changes_keeps_what_was_worked_out_before():
    one = fabrics()["20-96-6"]
    before = (one.stay_m, one.pull_n, one.openings_m)
    two = one.model_copy(update={"label": "9-49-6", "spacing_in": fabrics()["9-49-6"].spacing_in})
    assert two.wires == 9 and two.stay_m == before[0] and len(two.openings_m) == 8 and two.pull_n < before[1]
    with pytest.raises(ValueError, match="spacing_in"):
        one.model_copy(update={"spacing_in": ()})  # a copy is checked like any other
