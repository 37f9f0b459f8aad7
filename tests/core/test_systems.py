"""What differs from barrier to barrier: schools, tags, ground, labels at the counter, sections, sharing."""

import itertools
import json
import math

import pytest
from core.test_hold import holding, level
from places import apply, plan, snags_of

from gnomonic.core.choose.rank import ground_of, rank
from gnomonic.core.demand.animals import shipped
from gnomonic.core.demand.demand import demand_of
from gnomonic.core.demand.judge import provisions
from gnomonic.core.demand.section import holes, section, stacked
from gnomonic.core.demand.system import system, systems
from gnomonic.core.edits.all import read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.counter import graduated_in, read_roll
from gnomonic.core.fabric.fabrics import fabrics, wires
from gnomonic.core.finish.fittings import between, joined, packed
from gnomonic.core.haul.takeoff import take_off
from gnomonic.core.job.parts import Hold, Presence
from gnomonic.core.job.reading import read_job
from gnomonic.core.plan.road import PlanMemo
from gnomonic.core.tell.compare import difference, hung
from gnomonic.core.tell.needs import named, where
from gnomonic.core.tell.steps import ranges
from gnomonic.core.tell.tag import post_tag, splice_tag
from gnomonic.core.tell.tag_job import job_tag
from gnomonic.core.units import format_quantity
from gnomonic.formats.sheets import stake_out


def with_barrier(length, key, label, **more):
    return level(length, [{"do": "hang_barrier", "system": key, "label": label, **more}])


def counts(job):
    return {i.key: i.count for i in take_off(job, plan(job))}


def facts(tag):
    return {f.name: f for f in tag.facts}


def test_what_is_filled_round_posts_is_a_school():
    """60 m of woven: 2 terminals of 7 in and 2 brace posts of 6 in, 3 ft deep in 12 in holes; 3 wood posts of 4½ in,
    30 in deep in 9 in holes.  Driven steel takes none."""
    job = with_barrier(60.0, "woven", "9-49-6")
    assert not {"concrete", "soil_cement"} & counts(job).keys()
    for way in ("concrete", "soil_cement"):
        filled = counts(apply(job, read_edit({"do": "choose_way", "school": "setting", "way": way})))[way]
        ends = sum(math.pi / 4 * (0.3048**2 - d**2) * 0.9144 * 2 for d in (0.1778, 0.1524))
        wood = sum(p.kind == "wood" for p in plan(job).posts)
        assert filled == pytest.approx(ends + wood * math.pi / 4 * (0.2286**2 - 0.1143**2) * 0.762)


@pytest.mark.parametrize(("way", "item"), [("sleeve", "sleeve"), ("joiner", "joiner"), ("lap", "lap_wrap")])
def test_how_pieces_are_joined_is_a_school(way, item):
    job = with_barrier(120.0, "woven", "9-49-6", schools={"splice": way})
    made = plan(job)
    assert len(made.rolls.splices) == 1
    found = counts(job)
    assert [k for k in ("sleeve", "joiner", "lap_wrap") if k in found] == [item] and found[item] == 9
    join = facts(splice_tag(job, made, 0))["Join"]
    assert join.value.text("us").startswith("9 × ")


def test_a_strut_tied_across_its_foot_pulls_less_and_takes_another_length():
    mid = plan(with_barrier(30.0, "orchard", "netting 48, wires to 1.8 m"))
    foot = plan(with_barrier(30.0, "orchard", "netting 48, wires to 1.8 m", schools={"strut_tie": "foot"}))
    a, b = mid.struts[0].statics, foot.struts[0].statics
    assert a.strut_n == b.strut_n and a.tie_n > b.tie_n and a.strut_moment_nm > 0 == b.strut_moment_nm
    assert foot.struts[0].wire_m == pytest.approx(4 * b.reach_m + 1)
    tag = facts(post_tag(with_barrier(30.0, "orchard", "netting 48, wires to 1.8 m"), mid, 0))
    pull = sum(wires()[s.key].pull_n for s in mid.section.strands)
    assert (
        mid.section.pull_n == pull and "Strut pushes" in tag and "jacks the post" in str(tag["Cut the strut"].why.other)
    )


def test_chain_links_tag_says_offset_diamonds_and_rails():
    job = with_barrier(12.192, "chainlink", "48-11-2")
    made = plan(job)
    tag = facts(post_tag(job, made, 1))
    assert tag["Off the string"].value.text("us") == "¼ in"
    assert tag["2. Fabric tie"].note.startswith("round the post") and tag["2. Fabric tie"].value.text("us").startswith(
        "4, "
    )
    thin = apply(job, read_edit({"do": "choose_way", "school": "line_posts", "way": "thin"}))
    narrow = plan(thin)
    assert facts(post_tag(thin, narrow, 1))["Off the string"].value.text("us") == "⅜ in"
    assert next(iter(counts(thin))) == "post_terminal_2.13" and "1⅝ in" in named(take_off(thin, narrow)[1]).text("us")
    whole = facts(job_tag(job, made))
    assert whole["Diamonds, side by side"].value.text("us") == "168"
    assert whole["Top rail tube, 1⅜ in"].value.text("us") == "2 of 21 ft"
    assert "19 ft ⅝ in" in whole["Top rail tube, 1⅜ in"].why.working.text("us")
    assert whole["Rolls, sides unjoined"].value.text("us") == "1 a layer"
    beds = with_barrier(20.0, "garden", "cloth 24 + hex 36")
    garden = facts(job_tag(beds, plan(beds)))
    assert garden["Rolls, sides unjoined"].value.text("us") == "2 a layer" and "Seam to sew" in garden


def test_two_fabrics_one_above_the_other():
    """96 in of two 48 in rolls: 26 line wires tied at each end, as many rolls of each."""
    job = with_barrier(60.0, "deer", "13-48-6, two high")
    made = plan(job)
    assert made.fence_height_m == pytest.approx(0.0635 + 2 * 1.2192) and made.section.wires == 26
    found = counts(job)
    assert found["tie_off"] == 52 and found["roll"] == found["roll_2"] == 1 and "coil_guide" not in found


def test_plastic_ties_are_for_two_years():
    job = level(
        edits=[
            holding(("newts", "left"), years=4),
            {"do": "hang_barrier", "system": "fauna", "label": "sheet 40", "side": "left"},
        ]
    )
    (snag,) = [s for s in snags_of(job, plan(job)) if s.code == "hold-ties"]
    mended = apply(job, read_edit(snag.remedies[0].edit))
    assert not [s for s in snags_of(mended, plan(mended)) if s.code == "hold-ties"] and "wire_tie" in counts(mended)


@pytest.mark.parametrize(
    ("key", "label", "says", "source"),
    [
        ("barbed", "5 strands", "5 × barbed wire 250 lb", "from memory"),
        ("welded", "welded 60-2×4", "welded 60-2×4 270 lb", "from memory"),
        ("woven", "9-49-6", "9-49-6 630 lb", "derived"),
    ],
)
def test_why_an_end_is_pulled_so_hard_speaks_of_what_hangs(key, label, says, source):
    job = with_barrier(40.0, key, label)
    why = facts(post_tag(job, plan(job), 0))["Pull of what hangs, cold"].why
    told = why.other.text("us")
    assert f": {says}" in told and why.source.startswith(source) and ("tension curve" in told) == (key == "woven")
    assert ("not worked out" in why.working.text("us")) == (key == "welded")


def test_the_sheets_say_how_an_item_goes_on_and_which_post_is_there_already():
    garden = with_barrier(12.0, "garden", "cloth 36")
    staple = next(i for i in take_off(garden, plan(garden)) if i.key == "staple")
    assert "nothing slides here" in where(staple, plan(garden)).text("us")  # not the field fence's loose staple
    shared = apply(garden, read_edit({"do": "share_post", "at": "end", "of": "yard fence"}))
    marks = [row["mark"] for row in stake_out(plan(shared), "us")]
    assert marks[-1] == "stands already: yard fence" and "stands already" not in marks[0]


def test_a_foot_is_buried_as_deep_as_where_it_is_buried_least():
    hung_sheet = section("fauna", "sheet 40")
    assert provisions(hung_sheet, -0.05)["buried"] == 0.05 and "buried" not in provisions(hung_sheet, 0.02)


def test_ground_that_bears_on_the_choice_is_said_and_costs_work():
    easy = level(60.0, [holding(("cattle", "left"))])
    rock = apply(easy, read_edit({"do": "add_found", "kind": "rock", "name": "ledge", "from_m": 20.0, "to_m": 21.0}))
    assert ground_of(easy, plan(easy).course, plan(easy).things).is_ == {} and list(
        ground_of(rock, plan(rock).course, plan(rock).things).is_
    ) == ["rock"]
    one = {c.section.label: c for c in rank(easy, plan(easy), shipped()).meets}
    two = {c.section.label: c for c in rank(rock, plan(rock), shipped()).meets}
    label = "9-49-12"
    for c in one.values():
        assert sum(v for _, v in c.parts) == pytest.approx(c.cost) and sum(v for _, v in c.work_parts) == pytest.approx(
            c.labour
        )
    assert dict(two[label].work_parts)["the ground"] == pytest.approx(two[label].labour * 0.4 / 1.4)  # rock: 1.4
    assert not one[label].notes and "rock was found on it" in two[label].notes[0]


def test_only_one_sort_is_ranked_when_asked():
    for only in ("mesh", "wires", "barbs"):
        job = level(60.0, [holding(("cattle", "left"), only=only)])
        for c in rank(job, plan(job), shipped()).meets:
            sort = "barbs" if c.section.barbs and not c.section.layers else "mesh" if c.section.layers else "wires"
            assert sort == only


def test_behaviours_add_to_demands():
    plain = demand_of(Hold(animals=(Presence(animal="sheep", side="left"),)))
    for also, name in (("jump", "height"), ("squeeze", "gap"), ("lean", "strength")):
        learnt = demand_of(Hold(animals=(Presence(animal="sheep", side="left", also=(also,)),)))
        assert getattr(learnt, name).value != getattr(plain, name).value and "sheep, " in getattr(learnt, name).by
    digs = demand_of(Hold(animals=(Presence(animal="sheep", side="left", also=("dig", "chew", "climb")),)))
    assert digs.below and digs.avoid[0].what == "plastic" and digs.sides[0].side == "left"
    with pytest.raises(BadInput, match="there is no behaviour"):
        demand_of(Hold(animals=(Presence(animal="sheep", side="left", also=("fly",)),)))
    asked = demand_of(Hold(visible=True, never=("plastic",)))
    assert asked.height is None and asked.top[0].want.by == "you" and asked.avoid[0].want.by == "you"


def test_extras_stand_where_the_trade_has_them():
    over = section("woven", "9-49-6", ["top_barb", "bottom_barb"])
    top, bottom = (s.at_m for s in over.strands)
    assert 2.5 * 0.0254 <= top - over.layers[0].top_m <= 3 * 0.0254 + 1e-9 and bottom < 0  # common practice: 2½ to 3 in
    assert over.barbs and over.gives["barbed_bottom"] == 1.0
    apron = section("welded", "welded 60-2×4", ["apron", "pegs"])
    assert apron.aprons[0].label == "apron 24" and apron.gives == {"apron": 0.6096, "pegged": 1.0}
    with pytest.raises(BadInput, match="there is no fabric"):
        stacked(["cloth 24", "moss"], 0.0762)
    assert holes(0.0762, 0.05) == pytest.approx(0.1)


def test_labels_said_at_the_counter():
    said = read_roll("9-49-6 hinge joint 12½/14½ ga, 330 ft roll")
    assert (said.label.line_wires, said.gauges.filler_gauge, said.knot, round(said.roll_m, 1)) == (
        9,
        14.5,
        "hinge",
        100.6,
    )
    assert read_roll("48-11-2 50 ft").label.kind == "chain_link" and read_roll("48-11-2").roll_m is None
    assert read_roll("2096-6 s-knot").knot == "s" and read_roll("12.5/14.5").label is None
    assert read_roll("72-11½-2 1/4").label.diamond_in == 2.25
    for text, words in (
        ("fixed knot", "names no fabric"),
        ("330 ft", "names no fabric"),
        ("9-49-6 2 m", "is not sold"),
        ("square lock hinge joint 9-49-6", "two knots"),
    ):
        with pytest.raises(BadInput, match=words):
            read_roll(text)
    spacing = graduated_in(10, 47.0)
    assert sum(spacing) == pytest.approx(47.0) and list(spacing) == sorted(spacing) and len(spacing) == 9
    assert graduated_in(2, 20.0) == (20.0,)


def test_small_sums_of_fittings():
    assert [between(m, 0.5) for m in (0.4, 0.5, 0.51, 1.0)] == [0, 0, 1, 1]
    assert joined(2.0, [3.2004, 6.4008], 0.1524) == ([3.2004], 2.0)
    sticks, last = joined(20.0, [3.2004, 6.4008], 0.1524)
    assert sum(sticks) - 0.1524 * (len(sticks) - 1) >= 20.0 and last == pytest.approx(20.0 - 3 * 6.2484)
    assert packed([1.2] * 7, [2.4384, 3.6576]) == {2.4384: 1, 3.6576: 2}
    assert packed([10.0], [2.4384, 4.8768]) == {4.8768: 2, 2.4384: 1}
    assert ranges([]) == "" and ranges(["1", "2"]) == "1 and 2" and ranges(["1", "3", "4", "5", "9"]) == "1, 3–5 and 9"
    assert (
        format_quantity(2.5, "volume", "us") == "88.3 cu ft" and format_quantity(2.5, "volume", "metric") == "2.50 m³"
    )


def test_a_job_with_a_hold_and_any_barrier_is_written_and_read():
    for key, of in systems().items():
        extras = [e.key for e in of.extras]
        job = level(40.0, [holding(("sheep", "left"), years=5, visible=True, never=["plastic"])])
        job = apply(
            job,
            read_edit(
                {"do": "hang_barrier", "system": key, "label": of.labels()[-1], "extras": extras, "side": "right"}
            ),
        )
        assert read_job(job.job.canonical_json()) == job.job
        made = plan(job)
        assert plan(job, PlanMemo()).posts == made.posts and hung(made).startswith(made.section.named)
    for field, value, words in (
        ("barrier", {"system": "Moat!"}, "barrier.system"),
        ("barrier", {"extras": ["a"] * 9}, "barrier.extras"),
        ("hold", {"animals": [{"animal": "sheep"}]}, "hold.animals[0].side"),
        ("shared", [{"at": "end", "of": ""}], "shared[0].of"),
    ):
        data = json.loads(job.job.canonical_json())
        data["lines"][0][field] = value
        with pytest.raises(BadInput) as caught:
            read_job(json.dumps(data))
        assert caught.value.field == f"lines[0].{words}"


def test_what_another_barrier_changes_is_said():
    before, after = with_barrier(60.0, "woven", "9-49-6"), with_barrier(60.0, "deer", "20-96-6")
    words = difference([(before, plan(before))], [(after, plan(after))]).text("us")
    assert "20-96-6 (tall fabric) hung instead of 9-49-6" in words and "posts" in words


def test_the_whole_pull_of_a_section_acts_between_its_edges():
    for key, of in systems().items():
        for label in of.labels():
            made = section(key, label)
            assert 0 <= made.pull_height_m <= made.top_m and made.pull_n >= 0
            assert made.life_years <= min(
                f.life_years for f in [x.fabric for x in made.layers] or [fabrics()["20-96-6"]]
            )
            rows = made.openings(0.05)
            assert rows[0][0] == pytest.approx(0.05) and rows[-1][1] == pytest.approx(0.05 + made.top_m)
            assert all(a[1] == pytest.approx(b[0]) for a, b in itertools.pairwise(rows))
    assert system("woven").makeup("9-49-6") is None and section("deer", "2096-6").label == "20-96-6"
