"""What goes on one post, between two posts and into one splice, counted by hand for every barrier."""

import pytest

from gnomonic.core.demand.section import section
from gnomonic.core.demand.system import system
from gnomonic.core.finish.fittings import bay_counts, post_fittings, run_counts, splice_counts

# system, label, what the post is, runs that end on it: what is put on it
POSTS = [
    ("woven", "13-48-6", "terminal", 1, {"tie_off": 13, "staple": 13}),
    ("woven", "13-48-6", "held", 1, {"staple": 13}),
    ("woven", "13-48-6", "firm", 1, {"staple": 8}),  # 2 below, 2 above, 4 of the 9 between
    ("high_tensile", "17-75-6", "terminal", 2, {"tie_off": 34}),
    ("high_tensile", "17-75-6", "firm", 1, {"long_staple": 10}),  # 2, 2 and 6 of 13
    ("high_tensile", "17-75-6", "light", 1, {"clip": 5, "cap": 1}),
    ("barbed", "6 strands", "terminal", 2, {"tie_off": 12, "staple": 12}),
    ("barbed", "6 strands", "light", 1, {"strand_clip": 6, "cap": 1}),
    ("multiwire", "9 wires", "terminal", 1, {"tie_off": 9}),
    ("multiwire", "9 wires", "light", 1, {"long_staple": 9}),
    ("welded", "welded 72-2×4", "terminal", 1, {"staple": 18}),  # 72 in by 4 in squares
    ("welded", "welded 72-2×4", "brace", 1, {"staple": 9}),
    ("welded", "welded 72-2×4", "light", 1, {"clip": 5, "cap": 1}),
    ("garden", "cloth 36", "terminal", 2, {"staple": 18}),  # 36 in, one every 4, for each of two sides
    ("garden", "cloth 36", "light", 1, {"staple": 4}),
    ("orchard", "netting 48, wires to 1.8 m", "terminal", 1, {"tie_off": 5}),
    ("orchard", "netting 48, wires to 1.8 m", "light", 1, {"long_staple": 5}),
    ("deer", "20-96-6", "terminal", 1, {"tie_off": 20}),
    ("deer", "20-96-6", "held", 1, {"long_staple": 20}),
    ("deer", "20-96-6", "light", 1, {"long_staple": 12}),  # 2, 2 and 8 of 16
    (
        "chainlink",
        "72-9-2",
        "terminal",
        1,
        {"brace_band": 2, "tension_band": 6, "rail_end": 1, "cap_dome": 1, "tension_bar": 1, "carriage_bolt": 8},
    ),
    ("chainlink", "72-9-2", "light", 1, {"loop_cap": 1, "tie": 6}),
    ("fauna", "sheet 40", "light", 1, {"guide_wrap": 1, "plastic_tie": 3, "cap": 1}),
    ("kennel", "welded 48-2×2, boards", "light", 1, {"staple": 8, "board_screw": 10}),
    ("concrete", "8 wires", "terminal", 2, {"tie_off": 16, "wire_sleeve": 16, "post_cap": 1}),
    ("concrete", "8 wires", "light", 1, {"tie_wire": 8}),
]


def totals(fittings):
    found = {}
    for f in fittings:
        found[f.item] = found.get(f.item, 0) + f.count
    return found


@pytest.mark.parametrize(("key", "label", "slot", "tied", "expected"), POSTS)
def test_one_post(key, label, slot, tied, expected):
    hung = section(key, label)
    clear = system(key).starts()["clearance_m"]
    found = post_fittings(hung, slot, tied, clear, clear + hung.top_m)
    assert totals(found) == expected
    for f in found:
        assert f.way and f.reason and len(f.heights_m) * f.tied == f.count


# system, label, extras, length between posts (m): what goes there
BAYS = [
    ("woven", "9-49-6", (), 3.0, {}),
    ("woven", "9-49-6", ("ribbon",), 3.0, {"ribbon": 1}),
    ("multiwire", "8 wires", (), 3.0, {"batten": 2, "batten_clip": 16}),
    ("multiwire", "9 wires", (), 5.0, {"batten": 4, "batten_clip": 36}),
    ("garden", "cloth 24 + hex 36", (), 2.4, {"sewing_wire": 4.8}),
    ("garden", "cloth 36", ("pegs",), 2.4, {}),
    ("orchard", "netting 48, wires to 1.8 m", (), 5.0, {"net_ring": 48, "peg": 4}),
    ("orchard", "netting 48, wires to 1.8 m", ("apron",), 5.0, {"net_ring": 48, "peg": 4}),
    ("chainlink", "48-11-2", (), 3.048, {"tie": 4, "hog_ring": 4}),
    ("chainlink", "48-11-2", ("pegs",), 3.048, {"tie": 4, "hog_ring": 4}),
    ("fauna", "sheet 40", (), 1.9, {"trench": 1.9}),
    ("kennel", "welded 48-2×2, boards", (), 2.4384, {}),
]


@pytest.mark.parametrize(("key", "label", "extras", "length", "expected"), BAYS)
def test_between_two_posts(key, label, extras, length, expected):
    found = bay_counts(section(key, label, extras), length, system(key).starts())
    assert found == pytest.approx(expected)


# system, label, extras, length of a run along the slope (m): what goes on it, wherever its posts stand
RUNS = [
    ("fauna", "sheet 40", (), 349 * 0.3048, {"guide_clip": 117, "lip_bracket": 117}),
    ("garden", "cloth 36", ("pegs",), 2.4, {"peg": 4}),
    ("chainlink", "48-11-2", ("pegs",), 3.048, {"peg": 5}),
    ("woven", "9-49-6", ("apron",), 30.0, {"peg": 30, "net_ring": 100, "apron_cover": 30 * 0.6096 * 0.05}),
    ("welded", "welded 60-2×4", ("apron", "pegs"), 30.0, {"peg": 60, "net_ring": 100, "apron_cover": 0.9144}),
    (
        "orchard",
        "netting 48, wires to 1.8 m",
        ("apron",),
        50.0,
        {"tensioner": 5, "peg": 50, "net_ring": 167, "apron_cover": 1.524},
    ),
]


@pytest.mark.parametrize(("key", "label", "extras", "length", "expected"), RUNS)
def test_along_a_run(key, label, extras, length, expected):
    assert run_counts(section(key, label, extras), length) == pytest.approx(expected)


# system, label: what one splice of the lowest fabric takes
SPLICES = [
    ("woven", "13-48-6", {"sleeve": 13}),
    ("high_tensile", "9-49-12", {"sleeve": 9}),
    ("welded", "welded 60-2×4", {"hog_ring": 15}),
    ("garden", "hex 48", {"sewing_wire": 2 * 1.2192}),
    ("orchard", "netting 48, wires to 1.8 m", {"net_ring": 12}),
    ("deer", "20-96-6", {"sleeve": 20}),
    ("chainlink", "48-11-2", {"weave_wire": 1}),
    ("fauna", "sheet 40", {"seam_wire": 45 * 0.0254}),
    ("kennel", "welded 48-2×2, boards", {"staple": 12}),
    ("concrete", "9-39-6", {"sleeve": 9}),
]


@pytest.mark.parametrize(("key", "label", "expected"), SPLICES)
def test_one_splice(key, label, expected):
    hung = section(key, label)
    assert splice_counts(hung, hung.layers[0]) == pytest.approx(expected)


@pytest.mark.parametrize("key", ["woven", "chainlink", "kennel", "fauna"])
def test_fittings_are_put_on_in_their_order_from_the_ground_up(key):
    """Bands before caps, ties before the post beside them: the order is the rules' own, heights rise within each."""
    hung = section(key, system(key).labels()[0])
    for slot in ("terminal", "light"):
        found = post_fittings(hung, slot, 1, 0.05, 1.4)
        assert [f.order for f in found] == sorted(f.order for f in found)
        assert all(list(f.heights_m) == sorted(f.heights_m) for f in found)
        caps = [f.order for f in found if f.item in ("cap", "cap_dome")]
        bands = [f.order for f in found if f.item in ("brace_band", "tension_band")]
        assert not caps or not bands or max(bands) < min(caps)
