"""What animals demand, which barriers do it, strands and layers reckoned for them."""

import math
from datetime import date

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from places import apply, fence, plan, snags_of

from gnomonic.core.calc import calc
from gnomonic.core.choose.rank import rank
from gnomonic.core.demand.animals import check_override, paths, shipped, with_overrides
from gnomonic.core.demand.demand import demand_of
from gnomonic.core.demand.judge import judge
from gnomonic.core.demand.section import section
from gnomonic.core.demand.strands import strand_heights
from gnomonic.core.demand.system import systems
from gnomonic.core.edits.all import read_edit
from gnomonic.core.errors import BadInput
from gnomonic.core.fabric.fabrics import fabrics
from gnomonic.core.fabric.layers import Width, hexagon_length_share, stack
from gnomonic.core.haul.takeoff import take_off
from gnomonic.core.job.parts import Hold, MeasuredLine, Point, Presence, Source
from gnomonic.core.tell.steps import steps_of
from gnomonic.core.tell.tag import post_tag

ANIMALS = sorted(shipped().animals)
BEHAVIOURS = sorted(shipped().behaviours)
presences = st.builds(
    lambda a, s, also: Presence(animal=a, side=s, also=tuple(also)),
    st.sampled_from(ANIMALS),
    st.sampled_from(["left", "right"]),
    st.lists(st.sampled_from(BEHAVIOURS), max_size=2, unique=True),
)


def level(length=60.0, edits=()):
    points = (Point(e_m=0.0, n_m=0.0, h_m=5.0), Point(e_m=float(length), n_m=0.0, h_m=5.0))
    job = fence("Level", MeasuredLine(points=points, source=Source(kind="legs", points_read=2)))
    for edit in edits:
        job = apply(job, read_edit(edit))
    return job


def holding(*animals, **more):
    return {"do": "say_hold", "hold": {"animals": [{"animal": a, "side": s} for a, s in animals], **more}}


@given(st.lists(presences, min_size=1, max_size=4), presences)
def test_adding_an_animal_never_weakens_a_demand(some, another):
    before, after = demand_of(Hold(animals=tuple(some))), demand_of(Hold(animals=(*some, another)))
    assert after.height.value >= before.height.value and after.gap.value <= before.gap.value
    assert after.strength.value >= before.strength.value
    for k in range(60):
        assert after.most_at(k * 0.05) <= before.most_at(k * 0.05)
    assert {b.any for b in before.below} <= {b.any for b in after.below}
    for name in ("top", "avoid", "sides"):
        assert {(n.what, n.side) for n in getattr(before, name)} <= {(n.what, n.side) for n in getattr(after, name)}
    assert {(s.low_m, s.high_m) for s in before.stuck} <= {(s.low_m, s.high_m) for s in after.stuck}


@given(st.lists(presences, min_size=1, max_size=3), st.sampled_from(["barbed", "plain"]))
def test_strands_reckoned_meet_what_they_were_reckoned_for(some, wire):
    demand = demand_of(Hold(animals=tuple(some)))
    heights = strand_heights(demand, wire)
    if heights:
        hung = section("barbed" if wire == "barbed" else "multiwire", "as demanded", strands_m=heights)
        verdicts = judge(hung, demand, heights[0], heights[0])
        assert all(v.ok for v in verdicts if v.key in ("height", "opening")), heights
        assert len(heights) <= 12 and list(heights) == sorted(heights)


@given(
    st.floats(0.3, 3.0),
    st.lists(
        st.builds(Width, st.sampled_from("abcde"), st.floats(0.3, 1.9), st.sampled_from([0.0127, 0.0254, 0.05])),
        min_size=1,
        max_size=4,
        unique_by=lambda w: w.name,
    ),
    st.lists(st.tuples(st.floats(0.1, 1.0), st.sampled_from([0.02, 0.03, 0.06])), max_size=2),
)
def test_a_stack_is_never_lower_than_asked_and_laps_by_whole_holes(height, widths, openings):
    bands = [(0.0, upto, most) for upto, most in openings]
    found = stack(height, bands, widths, 0.0762)
    if found is None:
        return
    assert found.height_m >= height - 1e-9 and found.waste_m >= found.height_m - height - 1e-9
    for below, layer in zip(found.layers[:-1], found.layers[1:], strict=True):
        mesh = max(below.width.mesh_m, layer.width.mesh_m)
        assert layer.lap_m == pytest.approx(layer.lap_holes * mesh) and layer.lap_m >= 0.0762 - 1e-9
        assert layer.bottom_m == pytest.approx(below.top_m - layer.lap_m)
    for low, high, most in bands:
        for at in (low + 1e-6, (low + high) / 2, min(high, found.height_m) - 1e-6):
            over = [p.width.mesh_m for p in found.layers if p.bottom_m <= at <= p.top_m]
            assert not over or min(over) <= most + 1e-9


def test_a_stack_tried_by_hand():
    """24 and 36 and 48 in for 55 in: 24 + 36 lapped 3 in reaches 57 for 60 of width; 36 + 24 the same with the finer on top."""
    widths = [Width("24", 0.6096, 0.0127), Width("36", 0.9144, 0.0254), Width("48", 1.2192, 0.0254)]
    found = stack(55 * 0.0254, [(0.0, 0.6, 0.02)], widths, 0.0762)
    assert [p.width.name for p in found.layers] == ["24", "36"] and found.layers[1].lap_holes == 3
    assert found.height_m == pytest.approx(57 * 0.0254) and found.waste_m == pytest.approx(5 * 0.0254)
    assert stack(5.0, [], widths, 0.0762) is None


@given(st.floats(-0.3, 0.15))
def test_hexagons_keep_their_wires_length(stretch):
    """The half cell rebuilt as a polygon: its slanting side stays 1 long, its twist 1, whatever the height."""
    share = hexagon_length_share(stretch)
    high, along = math.sin(math.radians(60)) * (1 + stretch), 1.5 * share - 1.0
    assert math.hypot(high, along) == pytest.approx(1.0)


@pytest.mark.parametrize("key", sorted(systems()))
@settings(max_examples=12)
@given(st.floats(12.0, 60.0), st.floats(0.1, 40.0))
def test_counts_never_fall_when_a_line_grows(key, length, more):
    of = systems()[key]
    hang = {"do": "hang_barrier", "system": key, "label": of.labels()[0], "extras": [e.key for e in of.extras[:1]]}
    short, long = (
        {i.key.split("_")[0] if i.key.startswith(("top_rail", "post_board", "top_board")) else i.key: i.count for i in take_off(job, plan(job))}
        for job in (level(length, [hang]), level(length + more, [hang]))
    )  # fmt: skip
    for item, count in short.items():
        if item not in ("post", "top"):  # longer sticks may be fewer
            assert long.get(item, 0) >= count - 1e-9, item


def ranked(*animals, **more):
    job = level(edits=[holding(*animals, **more)])
    return rank(job, plan(job), shipped())


@pytest.mark.parametrize(
    ("animals", "does", "never"),
    [
        (["cattle"], {"barbed", "woven", "high_tensile"}, {"garden", "fauna"}),
        (["sheep", "lambs"], {"woven", "high_tensile"}, {"barbed", "fauna"}),
        (["horses"], {"woven"}, {"barbed", "multiwire", "chainlink"}),
        (["deer"], {"deer"}, {"chainlink", "woven", "kennel"}),
        (["rabbits"], {"garden", "orchard"}, {"barbed", "multiwire"}),
        (["newts"], {"fauna"}, {"garden", "chainlink"}),
        (["intruders"], {"chainlink"}, {"woven", "kennel"}),
        (["dogs"], {"kennel", "chainlink"}, {"barbed"}),
    ],
)
def test_barriers_the_trade_would_name(animals, does, never):
    """Common practice: which barrier is built for whom."""
    ranking = ranked(*((a, "left") for a in animals))
    meets = {c.section.system.key for c in ranking.meets}
    assert does <= meets and not never & meets
    assert all(v.ok for c in ranking.meets for v in c.verdicts)
    assert [c.yearly for c in ranking.meets] == sorted(c.yearly for c in ranking.meets)
    for c in ranking.near:
        assert 1 <= len(c.misses) <= 3


def test_a_ranked_barrier_can_be_hung_and_then_has_no_snag_of_its_demand():
    for animals in (["cattle", "calves"], ["goats"], ["rabbits"], ["newts"], ["deer"], ["dogs"]):
        job = level(edits=[holding(*((a, "left") for a in animals))])
        for c in rank(job, plan(job), shipped()).meets[:4]:
            after = apply(job, read_edit({**c.edit, "side": "left"}))
            codes = {s.code for s in snags_of(after, plan(after)) if s.code.startswith("hold")}
            assert not codes - {"hold-struts"}, (animals, c.section.label, codes)


def test_what_mends_a_near_miss_is_found_by_trying():
    ranking = ranked(("pigs", "left"))
    woven = next(c for c in ranking.meets if c.section.label == "9-39-6" and c.section.system.key == "woven")
    assert woven.mends == ("bottom_barb",)


def test_a_fabric_lower_than_the_demand_is_allowed_and_snagged():
    low = level(edits=[holding(("deer", "left")), {"do": "hang_barrier", "system": "woven", "label": "9-39-6"}])
    found = {s.code: s for s in snags_of(low, plan(low))}
    assert "at least 8 ft for deer, 3 ft 5½ in planned" in found["hold-height"].title.text("us")
    assert found["hold-height"].go == "hold"
    barbs = level(edits=[holding(("horses", "left")), {"do": "hang_barrier", "system": "barbed", "label": "4 strands"}])
    assert next(s for s in snags_of(barbs, plan(barbs)) if s.code == "hold-barbs").grave


def test_remedies_of_a_demand_are_edits_that_meet_it():
    pigs = level(edits=[holding(("pigs", "left")), {"do": "hang_barrier", "system": "woven", "label": "9-39-6"}])
    snag = next(s for s in snags_of(pigs, plan(pigs)) if s.code == "hold-below")
    mended = apply(pigs, read_edit(snag.remedies[0].edit))
    assert "hold-below" not in {s.code for s in snags_of(mended, plan(mended))}
    newts = level(edits=[holding(("newts", "left")), {"do": "hang_barrier", "system": "fauna", "label": "sheet 40"}])
    snag = next(s for s in snags_of(newts, plan(newts)) if s.code == "hold-posts")
    assert apply(newts, read_edit(snag.remedies[0].edit)).barrier.side == "left"


@pytest.mark.parametrize(
    ("edit", "words"),
    [
        (holding(("horses", "left"), only="barbs"), "horses must not meet barbs"),
        (holding(("cattle", "left"), only="barbs", never=["barbs"]), "you asked for no barbs"),
        (holding(("dragons", "left")), "there is no “dragons” in the rule book"),
        ({"do": "say_hold", "hold": {"animals": [{"animal": "sheep", "side": "up"}]}}, "animals"),
        ({"do": "say_hold", "hold": {"years": -1}}, "years"),
        ({"do": "hang_barrier", "system": "moat", "label": "9-49-6"}, "there is no barrier system “moat”"),
        ({"do": "hang_barrier", "system": "chainlink", "label": "9-49-6"}, "is not hung on Chain link"),
        ({"do": "hang_barrier", "system": "woven", "label": "9-49-6", "extras": ["moat"]}, "there is no extra “moat”"),
        ({"do": "hang_barrier", "system": "woven", "label": "9-49-6", "strands_m": [0.3, 0.6]}, "strand heights must rise"),
        ({"do": "hang_barrier", "system": "barbed", "label": "as demanded", "strands_m": [0.6, 0.3]}, "strand heights must rise"),
        ({"do": "hang_barrier", "system": "barbed", "label": "as demanded"}, "is not hung"),
        ({"do": "choose_way", "school": "bands", "way": "foot"}, "there is no choice “bands: foot”"),
        ({"do": "share_post", "at": "middle", "of": "x"}, "at"),
        ({"do": "decide", "key": "longest_run_m", "value": 0.1}, "it must be 0 for none, or at least 10"),
        ({"do": "decide", "key": "batten_m", "value": 0.01}, "it must be 0 for none, or at least 0.2"),
    ],
)  # fmt: skip
def test_barriers_and_holds_refused(edit, words):
    with pytest.raises(BadInput, match=words):
        apply(level(), read_edit(edit))


def test_decisions_follow_the_barrier_unless_they_were_made_by_hand():
    job = level(edits=[{"do": "decide", "key": "brace_spacing_m", "value": 2.0}])
    deer = apply(job, read_edit({"do": "hang_barrier", "system": "deer", "label": "20-96-6"}))
    assert (deer.decisions.longest_bay_m, deer.decisions.brace_spacing_m) == (4.8768, 2.0)
    back = apply(deer, read_edit({"do": "hang_barrier", "system": "woven", "label": "9-49-6"}))
    assert back.decisions == job.decisions
    fauna = apply(job, read_edit({"do": "hang_barrier", "system": "fauna", "label": "sheet 40"}))
    assert fauna.decisions.clearance_m == -0.127


def test_overrides_stand_apart_and_need_a_reason():
    mine = check_override("sheep.gap.value", 0.15, "our ewes are big and quiet")
    book = with_overrides((mine,), date(2026, 6, 1))
    assert book.animals["sheep"].gap.value == 0.15 and shipped().animals["sheep"].gap.value == 0.1016
    assert book.animals["sheep"].gap.source == "this workspace" and book.shipped == {"sheep.gap.value": 0.1016}
    assert demand_of(Hold(animals=(Presence(animal="sheep", side="left"),)), book).gap.value == 0.15
    deeper = with_overrides(
        (check_override("pigs.below[0].any.buried", 0.3, "they were deeper than that"),), date.today()
    )
    assert dict(deeper.animals["pigs"].below[0].any)["buried"] == 0.3
    for path, value, reason, words in (
        ("sheep.gap.value", 0.1, "  ", "an override needs a reason"),
        ("sheep.gap.value", 0.1, "because\x00 it is so", "an override needs a reason"),
        ("sheep.wings", 0.1, "because it is so", "there is no value"),
        ("sheep.gap.value", 11.0, "because it is so", "can't stand in the rule book"),
        ("sheep.gap.value", math.nan, "because it is so", "can't stand in the rule book"),
        ("sheep.strength.value", 2.5, "because it is so", "a strength is 1, 2, 3, 4 or 5"),
    ):
        with pytest.raises(BadInput, match=words):
            check_override(path, value, reason)
    assert len(paths()) > 100


def test_every_system_says_its_steps_and_its_fittings_with_this_jobs_numbers():
    for key, of in systems().items():
        for label in of.labels()[:1]:
            job = level(
                90.0,
                [
                    {"do": "hang_barrier", "system": key, "label": label},
                    {"do": "add_gate", "at_m": 30.0, "opening_m": 3.6},
                ],
            )
            made = plan(job)
            steps = [s.text.text("us") for s in steps_of(job, made)]
            assert len(steps) >= 4 and not any("{" in s for s in steps), steps
            assert any(s.caution for s in steps_of(job, made))
            for k in range(len(made.posts)):
                tag = post_tag(job, made, k)
                assert tag.fittings and [f.order for f in tag.fittings] == sorted(f.order for f in tag.fittings)
                assert all(len(f.heights_m) * f.tied == f.count for f in tag.fittings)
                assert all(-0.2 < h <= made.posts[k].above_m + 0.13 for f in tag.fittings for h in f.heights_m), (
                    key,
                    k,
                )


def test_tie_all_wires_on_the_posts_in_dips():
    points = [(k * 2.0, 0.0, 5 - 1.2 * math.exp(-(((k - 15) / 1.4) ** 2))) for k in range(31)]
    line = MeasuredLine(
        points=tuple(Point(e_m=e, n_m=n, h_m=h) for e, n, h in points), source=Source(kind="legs", points_read=31)
    )
    job = apply(fence("Dip", line), read_edit({"do": "hang_fabric", "label": "13-48-6"}))
    said = " ".join(s.text.text("us") for s in steps_of(job, plan(job)))
    assert "inside the braces and on posts" in said and "in dips, on humps and in bends" in said


def test_openings_of_what_hangs():
    woven = section("woven", "9-49-6")
    assert max(least for _, _, least in woven.openings(0.06)) == pytest.approx(0.1524)  # stays 6 in apart
    wires = section("barbed", "5 strands")
    assert [round(least / 0.0254) for _, _, least in wires.openings(0.2032)] == [8, 9, 10, 12]
    netting = section("orchard", "netting 48, wires to 1.8 m").openings(0.0)
    assert [round(least, 2) for _, _, least in netting][-2:] == [0.3, 0.3] and netting[0][2] == pytest.approx(0.04)


def test_pocket_sums_of_hold():
    demand = calc(
        "demand",
        {"animals": [{"animal": "sheep"}, {"animal": "lambs"}], "barrier": {"system": "woven", "label": "949-6"}},
    )
    assert demand["height_m"] == {"value": 0.9906, "by": "sheep"} and demand["gap_m"]["by"] == "lambs"
    assert demand["meets"] and all(v["ok"] for v in demand["verdicts"]) and demand["why"]
    sheet = calc("layers", {"kind": "sheet", "width_m": 1.016, "lip_m": 0.127, "buried_m": 0.127})
    assert sheet["above_m"] == pytest.approx(0.762)
    link = calc("chainlink", {"sides_m": [12.192] * 4, "closed": True})
    assert link["fittings"]["tie"] == 112 and link["fittings"]["tension_band"] == 32 and link["rolls"] == 4
    assert link["string_offset_m"] == pytest.approx(0.25 * 0.0254, abs=1e-4) and link["diamonds"] == 672
    assert (link["line_top_m"], link["terminal_top_m"]) == pytest.approx((46 * 0.0254, 50 * 0.0254))
    hexagons = calc("layers", {"kind": "hexagons", "stretch": 0.05, "length_m": 15.24})
    assert hexagons["length_m"] == pytest.approx(15.24 * 0.9441, abs=0.01)
    for kind, data, field in (
        ("layers", {"kind": "sheet", "width_m": 1.0}, "above_m"),
        ("layers", {"kind": "sheet", "width_m": 0.2, "lip_m": 0.127, "buried_m": 0.127}, "above_m"),
        ("layers", {"height_m": 9.0, "widths": [{"name": "a", "width_m": 1, "mesh_m": 0.02}]}, "height_m"),
        ("layers", {}, "height_m"),
        ("layers", {"kind": "hexagons", "stretch": 0.3}, "stretch"),
        ("chainlink", {"sides_m": [10.0], "label": "9-49-6"}, "barrier.label"),
        ("chainlink", {"sides_m": [0.1]}, "sides_m"),
        ("chainlink", {"sides_m": [10.0], "line_od_m": 0.07}, "line_od_m"),
        ("demand", {"animals": []}, "animals"),
        ("demand", {"animals": [{"animal": "horses"}], "only": "barbs"}, "only"),
        ("demand", {"animals": [{"animal": "wyvern"}]}, "animals"),
    ):
        with pytest.raises(BadInput) as caught:
            calc(kind, data)
        assert caught.value.field == field, (kind, data)


def test_a_fabric_of_ones_own_hangs_like_those_on_file():
    own = fabrics()["9-49-6"].model_copy(
        update={"label": "10-47-6", "spacing_in": (3.0, 3.5, 4.0, 4.5, 5.0, 6.0, 6.5, 7.0, 7.5)}
    )
    hang = {"do": "hang_barrier", "system": "woven", "label": "10-47-6", "own": own.model_dump(mode="json")}
    made = plan(level(edits=[hang]))
    assert made.fabric.wires == 10 and made.posts[0].count("tie_off") == 10
    job = level(edits=[holding(("sheep", "left"))])
    assert any(c.section.label == "10-47-6" for c in rank(job, plan(job), shipped(), [own]).meets)
