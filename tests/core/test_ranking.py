"""What a fencer would hang for each animal, and what never: written down from the trade before the ranking was asked.

Common practice (source of every row): what stands in the table of demands, and what is hung for it.  ``usual``: the first
three are all of these; ``never``: none of these is among the first five.
"""

import pytest
from core.test_hold import holding, level
from places import apply, demo_fences, plan

from gnomonic.core.choose.rank import rank
from gnomonic.core.choose.typical import Hung, planned
from gnomonic.core.choose.weigh import Ground, weigh
from gnomonic.core.demand.animals import shipped
from gnomonic.core.demand.system import systems
from gnomonic.core.edits.all import read_edit
from gnomonic.core.haul.takeoff import take_off
from gnomonic.core.job.fence import changed
from gnomonic.core.job.parts import Point

FIELD = {"9-49-6", "9-39-6", "8-32-6", "13-48-6", "9-49-12", "13-48-12"}
BARBED = {"4 strands", "5 strands", "6 strands"}
LINK = {"48-11-2", "60-11-2", "72-9-2"}
TALL = {"17-75-6", "20-96-6", "20-96-6, guide wire", "13-48-6, two high"}
NET = {
    "hex 36",
    "hex 48",
    "hex 72",
    "cloth 36",
    "cloth 48",
    "cloth 24",
    "cloth 24 + hex 36",
    "cloth 24 + hex 48",
    "cloth 24 + hex 72",
    "fine cloth 36",
}
NO_CLIMB = {"13-48-2", "16-60-2", "26-48-2", "31-60-2"}
SHEET, BOARDS = {"sheet 40"}, {"welded 48-2×2, boards"}
ORCHARD = {"netting 48, wires to 1.8 m", "netting 48, wires to 2.4 m"}
WELDED = {"welded 60-2×4", "welded 72-2×4"}
# animal: (the first three are of these, what is never among the first five, because)
TRADE = {
    "cattle": (BARBED | FIELD, {"4 strands"} | LINK | NET | TALL, "five or six barbed strands or field fabric; four are walked through"),
    "calves": (BARBED | FIELD, {"4 strands"} | LINK | NET | TALL, "the same, low enough that they can't push under"),
    "sheep": (FIELD, BARBED | TALL | LINK | NET, "field fabric with stays of 6 in, or 12; wool hangs in barbs"),
    "lambs": (FIELD, BARBED | TALL | LINK | NET, "close at the bottom"),
    "goats": (FIELD | {"16-48-4"} | NO_CLIMB, BARBED | LINK | NET, "stays of 4 in, or 12 so that horns come out again"),
    "kids": (FIELD | WELDED | {"9 wires"}, BARBED | LINK | NET, "close mesh low down"),
    "horses": (NO_CLIMB, BARBED | LINK | FIELD, "2 × 4 in no-climb mesh that is seen; no barbs, no diamonds"),
    "foals": (NO_CLIMB, BARBED | LINK | FIELD | NET, "2 in no-climb mesh"),
    "pigs": (FIELD, LINK | NET | TALL, "strong graduated fabric with a barb or a board at its foot"),
    "weaners": (FIELD, BARBED | LINK | TALL, "the same, closer"),
    "alpacas": (FIELD, BARBED | LINK | TALL, "field fabric; fleece hangs in barbs"),
    "dogs": (WELDED | BOARDS | NO_CLIMB | {"16-48-4"}, BARBED | TALL, "2 × 4 or 2 × 2 in mesh, pinned"),
    "small_dogs": (WELDED | NET | ORCHARD | FIELD | BOARDS | {"rabbit 42 on wires"}, BARBED | TALL, "fine mesh, pinned"),
    "poultry": (NET | {"13-48-2"}, BARBED | TALL | LINK | {"31-60-2", "16-60-2"}, "hexagonal netting, pegged"),
    "chicks": (NET | SHEET | {"rabbit 42 on wires"}, BARBED | TALL | LINK | NO_CLIMB, "fine cloth or netting"),
    "deer": (TALL, BARBED | FIELD | LINK, "eight feet, whatever the mesh"),
    "kangaroos": (ORCHARD | WELDED, BARBED | LINK | FIELD, "mesh to 1.2 m and wires above, pegged"),
    "wallabies": (ORCHARD | WELDED | NET | {"rabbit 42 on wires"}, BARBED | LINK | TALL, "1.2 m of mesh, pegged"),
    "rabbits": (NET | {"rabbit 42 on wires"} | FIELD, BARBED | LINK | TALL | NO_CLIMB, "1¼ in netting with an apron"),
    "hares": (NET | {"rabbit 42 on wires"} | FIELD, BARBED | LINK | TALL, "netting higher than they jump"),
    "groundhogs": (NET | FIELD, BARBED | LINK | TALL, "mesh with an apron"),
    "mice": ({"fine cloth 36"}, BARBED | LINK | TALL | FIELD, "¼ in hardware cloth"),
    "raccoons": (NO_CLIMB | WELDED | BOARDS, BARBED | NET | SHEET | FIELD, "strong wire: what is light is torn down"),
    "snakes": (SHEET, BARBED | LINK | TALL | FIELD | NET, "a sheet, buried, with a lip"),
    "newts": (SHEET, BARBED | LINK | TALL | FIELD | NET, "a sheet, buried, with a lip"),
    "people": (LINK, BARBED | FIELD | NET | TALL, "chain link on a rail"),
    "intruders": ({"72-9-2"}, BARBED | FIELD | NET | TALL | {"48-11-2"}, "six feet of chain link"),
}  # fmt: skip


def ranked(*animals, **more):
    job = level(200.0, [holding(*((a, "left") for a in animals), **more)])
    return rank(job, plan(job), shipped())


def label(c):
    """What hangs, strands reckoned for the demand counted as the makeup they come to."""
    if c.section.label != "as demanded":
        return c.section.label
    sort = "strands" if c.section.barbs else "wires"
    return f"{len(c.section.strands)} {sort}"


@pytest.mark.parametrize("animal", TRADE)
def test_what_is_hung_for_an_animal_comes_first_and_what_never_is_does_not(animal):
    usual, never, because = TRADE[animal]
    first = [label(c) for c in ranked(animal).meets[:5]]
    assert first and set(first[:3]) <= usual, (first, because)
    # fine mesh hung low on a field fabric makes another barrier of it
    plain = [label(c) for c in ranked(animal).meets[:5] if "fine_mesh" not in c.mends]
    assert not set(plain) & never, (plain, because)


def test_every_animal_of_the_book_is_in_the_table():
    assert set(TRADE) == set(shipped().animals)


def test_tall_and_small_together_want_tall_fabric_with_a_fine_mesh_low_and_an_apron():
    found = ranked("deer", "rabbits").meets
    assert found and found[0].section.system.key == "deer" and {"fine_mesh", "apron"} <= set(found[0].mends)


def test_sheep_for_ten_years():
    """Six barbed strands and a 75 in fabric are not among them; a 39 in fabric is among the first five."""
    first = [label(c) for c in ranked("sheep", years=10).meets[:5]]
    assert "9-39-6" in first and not set(first) & (BARBED | TALL)


def test_cost_is_over_the_years_asked_with_what_wears_out_built_again():
    asked, usual = ranked("poultry", years=5), ranked("poultry")
    assert {c.builds for c in usual.meets} == {1}
    hexes = next(c for c in asked.meets if c.section.label == "hex 48")
    assert hexes.yearly == pytest.approx((hexes.cost + hexes.labour) / 2 / 5)
    assert [c.yearly for c in asked.meets] == sorted(c.yearly for c in asked.meets)
    nine = ranked("poultry", years=10)
    assert "hex 48" not in [c.section.label for c in nine.meets]  # it lasts eight
    short = next(c for c in nine.near if c.section.label == "hex 48")
    assert short.builds == 2 and [v.key for v in short.misses] == ["life"]


def test_work_grows_with_height_and_mass():
    by = {c.section.label: c for c in ranked("cattle").meets}
    assert by["17-75-6"].labour > 1.15 * by["9-49-12"].labour


def test_near_misses_are_weighed_by_how_far_and_how_hard_to_mend():
    """Against deer four feet of chain link are farther off than six feet of anything."""
    found = ranked("deer")
    far = [round(c.far, 6) for c in found.near]
    assert far == sorted(far)
    labels = [label(c) for c in found.near]
    assert "17-75-6" in labels and ("48-11-2" not in labels or labels.index("48-11-2") > labels.index("17-75-6"))
    cattle = [label(c) for c in ranked("cattle").near]
    assert cattle[0] == "4 strands"  # one strand more mends it


@pytest.mark.parametrize("other", ["barbed", "deer", "garden", "chainlink"])
def test_a_rank_does_not_depend_on_what_hangs_now(other):
    """Its bays, what breaks its sides and its steepness by bays all change with the barrier: none of that may move the ranking."""
    paddock = demo_fences()[-1]
    changed = apply(paddock, read_edit({"do": "hang_barrier", "system": other, "label": systems()[other].labels()[0]}))
    first, second = (rank(job, plan(job), shipped()) for job in (paddock, changed))
    assert [(c.section.named, c.cost, c.labour) for c in first.meets] == [
        (c.section.named, c.cost, c.labour) for c in second.meets
    ]


@pytest.mark.parametrize("key", list(systems()))
def test_what_hold_weighs_is_what_the_take_off_counts(key):
    """A typical run's own index is its take-off priced, to the last staple; a job of other sides is near what is counted there.

    Two sides of 60 m that meet at a right angle, level, differ from it by whole bays, whole lengths of rail, where the first
    wood post falls and the seam at the corner: 10 %.
    """
    bent = level(120.0, [])
    corner = tuple(Point(e_m=e, n_m=n, h_m=0.0) for e, n in ((0, 0), (60, 0), (60, 60)))
    bent = changed(bent, line=bent.line.model_copy(update={"points": corner}))
    for label in systems()[key].labels():
        hung = Hung(key, label)
        for steep in (False, True):
            made, needs, length = planned(hung, steep)
            counted = sum(n.each * (n.metres or n.count) for n in needs) / length
            weighed = weigh(hung, Ground(length, 1, {"steep": "steep"} if steep else {}))
            assert sum(weighed.cost.values()) == pytest.approx(counted, rel=1e-9), label
            assert made.posts and len(made.runs) == 1
        job = apply(bent, read_edit({"do": "hang_barrier", "system": key, "label": label}))
        of_bent = plan(job)
        counted = sum(n.each * (n.metres or n.count) for n in take_off(job, of_bent)) / 120.0
        assert len(of_bent.runs) == 2
        assert sum(weigh(hung, Ground(120.0, 2, {})).cost.values()) == pytest.approx(counted, rel=0.1), label
