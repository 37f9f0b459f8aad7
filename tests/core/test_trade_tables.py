"""The data against the trade's own figures, written down here by hand in inches (common practice unless said)."""

import pytest
from core.test_hold import level
from places import plan

from gnomonic.core.calc import calc
from gnomonic.core.demand.animals import shipped
from gnomonic.core.demand.section import section
from gnomonic.core.demand.system import system

INCH = 0.0254

# animal: least height from … to, gap underneath at most, largest opening low down at most
ANIMALS = [
    ("cattle", 46, 48, 18, 13),
    ("calves", 40, 48, 3, 12),
    ("sheep", 39, 48, 4, 6),
    ("lambs", 30, 40, 3, 6),
    ("goats", 42, 48, 3.2, 6),
    ("kids", 36, 48, 3.2, 6),
    ("horses", 54, 60, 4, 4),
    ("foals", 48, 60, 4, 4),
    ("pigs", 32, 40, 1, 6),
    ("weaners", 24, 32, 1, 4),
    ("alpacas", 46, 48, 6, 6),
    ("dogs", 48, 72, 2, 4),
    ("small_dogs", 30, 48, 2, 2),
    ("poultry", 48, 72, 1, 2),
    ("chicks", 18, 36, 1, 1),
    ("deer", 84, 96, 8, 8),
    ("kangaroos", 70.8, 94.6, 4, 6),
    ("wallabies", 47, 60, 3, 6),
    ("rabbits", 36, 42, 1, 1.25),
    ("hares", 36, 42, 2, 2),
    ("groundhogs", 24, 36, 1, 3),
    ("mice", 24, 36, 0.26, 0.5),
    ("raccoons", 48, 72, 2, 3),
    ("snakes", 30, 36, 0, 0.26),
    ("newts", 30, 36, 0, 0.1),
    ("people", 42, 72, 2, 4),
    ("intruders", 72, 96, 2, 2),
]


@pytest.mark.parametrize(("animal", "low", "high", "gap", "opening"), ANIMALS)
def test_each_animal_asks_for_what_the_trade_builds(animal, low, high, gap, opening):
    row = shipped().animals[animal]
    assert low - 0.01 <= row.height.value / INCH <= high + 0.01
    assert row.gap.value / INCH <= gap + 0.01
    assert row.openings[0].most_m / INCH <= opening + 0.01
    assert [o.upto_m for o in row.openings] == sorted(o.upto_m for o in row.openings)


def test_no_animal_is_left_out():
    assert {row[0] for row in ANIMALS} == set(shipped().animals)


# system, label: height of its top above the ground, line wires and pulled strands
SECTIONS = [
    ("woven", "8-32-6", 34.5, 8),
    ("woven", "9-39-6", 41.5, 9),
    ("woven", "9-49-6", 51.5, 9),
    ("woven", "13-48-6", 50.5, 13),
    ("woven", "16-48-4", 50.5, 16),
    ("woven", "26-48-2", 50.5, 26),
    ("woven", "31-60-2", 62.5, 31),
    ("high_tensile", "13-48-12", 50.5, 13),
    ("high_tensile", "9-49-12", 51.5, 9),
    ("high_tensile", "17-75-6", 77.5, 17),
    ("barbed", "4 strands", 46, 4),
    ("barbed", "5 strands", 47, 5),
    ("barbed", "6 strands", 47, 6),
    ("multiwire", "8 wires", 41.34, 8),
    ("multiwire", "9 wires", 46.06, 9),
    ("welded", "welded 60-2×4", 61, 0),
    ("welded", "welded 72-2×4", 73, 0),
    ("garden", "cloth 24 + hex 36", 57, 0),
    ("garden", "cloth 24 + hex 48", 69, 0),
    ("garden", "cloth 24 + hex 72", 93, 0),
    ("garden", "cloth 36", 36, 0),
    ("garden", "fine cloth 36", 36, 0),
    ("orchard", "netting 48, wires to 1.8 m", 71.87, 5),
    ("orchard", "netting 48, wires to 2.4 m", 95.49, 7),
    ("deer", "20-96-6", 98.5, 20),
    ("deer", "20-96-6, guide wire", 98.5, 21),
    ("deer", "13-48-6, two high", 98.5, 26),
    ("chainlink", "48-11-2", 49, 1),
    ("chainlink", "60-11-2", 61, 1),
    ("chainlink", "72-9-2", 73, 1),
    ("fauna", "sheet 40", 30, 1),
    ("kennel", "welded 48-2×2, boards", 49, 0),
    ("concrete", "9-39-6", 41.5, 9),
    ("concrete", "8 wires", 41.34, 8),
]


@pytest.mark.parametrize(("key", "label", "inches", "lines"), SECTIONS)
def test_each_barrier_is_as_high_as_it_is_built(key, label, inches, lines):
    hung = section(key, label)
    clear = system(key).starts()["clearance_m"] if hung.clearance_m is None else hung.clearance_m
    assert (clear + hung.top_m) / INCH == pytest.approx(inches, abs=0.02)
    assert hung.wires == lines


# system, label, post: above the ground, in it, length of the post (feet)
POSTS = [
    ("woven", "9-49-6", "terminal", 60, 36, 8),
    ("woven", "9-49-6", "brace", 60, 36, 8),
    ("woven", "9-49-6", "wood", 54, 30, 7),
    ("woven", "9-49-6", "steel", 53.5, 18.5, 6),
    ("high_tensile", "13-48-12", "terminal", 54, 42, 8),
    ("high_tensile", "13-48-12", "steel", 52.5, 25.5, 6.5),
    ("barbed", "5 strands", "steel", 49, 23, 6),
    ("barbed", "5 strands", "terminal", 48, 36, 7),
    ("multiwire", "8 wires", "terminal", 42, 42, 7),
    ("multiwire", "8 wires", "wood", 42, 30, 6),
    ("welded", "welded 60-2×4", "steel", 63, 21, 7),
    ("garden", "cloth 24 + hex 36", "wood", 72, 24, 8),
    ("orchard", "netting 48, wires to 2.4 m", "wood", 110.24, 31.5, 11.811),
    ("deer", "20-96-6", "wood", 120, 72, 16),
    ("chainlink", "48-11-2", "terminal", 50, 30, 6.6667),
    ("chainlink", "48-11-2", "pipe", 46, 24, 5.8333),
    ("chainlink", "72-9-2", "pipe", 70, 24, 7.8333),
    ("fauna", "sheet 40", "steel", 42, 18, 5),
    ("kennel", "welded 48-2×2, boards", "timber", 49, 24, 6.0833),
    ("concrete", "9-39-6", "terminal", 60, 36, 8),
    ("concrete", "9-39-6", "concrete", 48, 24, 6),
]


@pytest.mark.parametrize(("key", "label", "kind", "above", "deep", "feet"), POSTS)
def test_each_post_stands_as_high_and_as_deep_as_the_trade_sets_it(key, label, kind, above, deep, feet):
    made = plan(level(60.0, [{"do": "hang_barrier", "system": key, "label": label}]))
    post = next(p for p in made.posts if p.kind == kind)
    assert post.above_m / INCH == pytest.approx(above, abs=0.05)
    assert post.depth_m / INCH == pytest.approx(deep, abs=0.05)
    assert post.length_m / 0.3048 == pytest.approx(feet, abs=0.01)


# system: longest bay in feet, braced or not, longest run in feet (0: any), roll or coil in feet
STARTS = [
    ("woven", 10, "h", 0, 330),
    ("high_tensile", 15, "h", 0, 330),
    ("barbed", 12, "h", 300, 1320),
    ("multiwire", 16.4042, "h", 0, 3280.84),
    ("welded", 12, "h", 0, 100),
    ("garden", 8, "none", 0, 50),
    ("orchard", 16.4042, "diagonal", 0, 164.042),
    ("deer", 16, "h", 0, 330),
    ("chainlink", 10, "none", 0, 50),
    ("fauna", 6, "none", 0, 100),
    ("kennel", 8, "none", 0, 100),
    ("concrete", 12, "h", 0, 330),
]


@pytest.mark.parametrize(("key", "bay", "brace", "run", "roll"), STARTS)
def test_where_each_system_starts(key, bay, brace, run, roll):
    starts = system(key).starts()
    assert starts["longest_bay_m"] / 0.3048 == pytest.approx(bay, abs=0.01)
    assert system(key).brace == brace and starts["longest_run_m"] / 0.3048 == pytest.approx(run, abs=0.01)
    assert starts["roll_m"] / 0.3048 == pytest.approx(roll, abs=0.01)


# a label as said, the animals it is held against, what of it fails
LABELS = [
    ("9-49-6", ["sheep"], []),
    ("9-49-6", ["goats"], ["Stays apart"]),
    ("13-48-12", ["goats"], []),
    ("8-32-6", ["cattle"], ["Height"]),
    ("20-96-6", ["deer"], ["Top"]),
    ("48-11-2", ["people"], []),
    ("48-11-2", ["intruders"], ["Height"]),
    ("72-9-2", ["intruders"], []),
    ("26-48-2", ["horses"], ["Height", "Top"]),
    ("31-60-2", ["foals"], []),
    ("9-39-6", ["rabbits"], ["Opening", "At the ground"]),
]


@pytest.mark.parametrize(("label", "animals", "fails"), LABELS)
def test_labels_against_animals(label, animals, fails):
    answer = calc("label", {"label": label, "animals": animals})
    assert answer["on_file"] and [v["demand"] for v in answer["meets"] if not v["ok"]] == fails
