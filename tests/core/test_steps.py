"""The steps of the work: the numbers at each are those of that step, and its caution is given where it bites."""

import pytest
from core.test_hand_counts import counts, hung, line
from places import apply, fence, plan

from gnomonic.core.choose.typical import Hung
from gnomonic.core.choose.weigh import Ground, weigh
from gnomonic.core.demand.system import systems
from gnomonic.core.demand.tasks import handling
from gnomonic.core.edits.all import read_edit
from gnomonic.core.job.parts import MeasuredLine, Point, Source
from gnomonic.core.tell.steps import steps_of

SQUARE = line((0, 0), (0, 40), (60, 40), (60, 0), closed=True)


def said(job, word, of=steps_of):
    """Text and caution of the one step that has this word."""
    (step,) = [s for s in of(job, plan(job)) if word in s.text.text("us")]
    return step.text.text("us"), step.caution.text("us")


def test_pegs_and_rings_are_told_where_they_are_used():
    """50 m of netting on wires with an apron: a peg every metre of each of ten bays of 5 m but at the posts (40), a ring
    every foot on three wires and twelve at the joint (492, counted by hand elsewhere).  The apron's own: a peg a metre
    along 50 m (50), rings no farther than 30 cm apart (167)."""
    job = hung(line((0, 0), (50, 0)), "orchard", "netting 48, wires to 2.4 m", extras=["apron"])
    assert "peg it (40 pegs)" in said(job, "bottom wire first")[0]
    assert " 492 rings" in said(job, "ring the netting")[0]
    assert "(167 rings), peg its outer edge (50 pegs)" in said(job, "apron")[0]
    bought = counts(job)
    assert (bought["peg"], bought["net_ring"]) == (40 + 50, 492 + 167)


@pytest.mark.parametrize(
    ("system", "label", "pegs"), [("welded", "welded 60", 50), ("chainlink", "48", 83), ("garden", "", 83)]
)
def test_a_pegged_foot_has_a_step_of_its_own(system, label, pegs):
    """50 m: a peg a metre, 50; pegs 2 ft apart, 50 / 0.6096 = 82.02, so 83."""
    label = next(name for name in systems()[system].labels() if name.startswith(label))
    job = hung(line((0, 0), (50, 0)), system, label, extras=["pegs"])
    assert said(job, "Peg the foot")[0] == f"Peg the foot: {pegs} pegs."


def test_a_guide_wire_is_turned_round_and_not_tied_off():
    """Twenty wires, tied at both ends: 40 ties; the guide wire is none of them."""
    job = hung(line((0, 0), (60, 0)), "deer", "20-96-6", extras=["guide_wire"])
    assert "Tie all 20 wires at the terminals, 40 ties" in said(job, "at the terminals")[0]


@pytest.mark.parametrize("system", ["woven", "high_tensile", "multiwire", "fauna", "kennel"])
def test_a_side_without_posts_between_is_told_of_none(system):
    """Ten feet: a post at each end, and one between at most."""
    job = hung(line((0, 0), (3, 0)), system, systems()[system].labels()[0])
    words = " ".join(s.text.text("us") for s in steps_of(job, plan(job)))
    assert ": none" not in words and ": 0 " not in words and "1 posts" not in words


def test_the_school_chosen_is_the_one_told():
    tied = hung(SQUARE, "woven", "9-49-6", schools={"ends": "tie"})
    clipped = hung(SQUARE, "woven", "9-49-6", schools={"ends": "clip"})
    words = [" ".join(s.text.text("us") for s in steps_of(j, plan(j))) for j in (tied, clipped)]
    assert ("one-way clips" in words[0], "one-way clips" in words[1]) == (False, True)
    dry = hung(SQUARE, "woven", "9-49-6", schools={"setting": "concrete"})
    terminal = next(s for s in steps_of(dry, plan(dry)) if "terminal posts" in s.text.text("us"))
    assert "in concrete" in terminal.text.text("us") and "Wet cement burns" in terminal.caution.text("us")


@pytest.mark.parametrize(("rise", "chock"), [(0.0, False), (0.3, True)])
def test_a_roll_is_chocked_on_a_slope_only(rise, chock):
    points = tuple(Point(e_m=10.0 * k, n_m=0, h_m=5 + rise * 10 * k) for k in range(7))
    job = fence("Bank", MeasuredLine(points=points, source=Source(kind="legs", points_read=7)))
    job = hung(job, "woven", "9-49-6")
    assert any("chock the roll" in s.caution.text("us") for s in steps_of(job, plan(job))) == chock


def test_what_lies_in_the_ground_is_named_at_the_step_that_digs_there():
    """Scrap about the first post only: said where the terminals are dug, and not where the line posts are."""
    job = apply(SQUARE, read_edit({"do": "add_found", "kind": "scrap", "name": "nails", "from_m": 0, "to_m": 0.2}))
    job = hung(job, "woven", "9-49-6")
    ends, between = said(job, "terminal posts")[1], said(job, "String one line")[1]
    assert "Post 1: " in ends and "nails, probe and clear it first" in ends and "nails" not in between


@pytest.mark.no_cover
@pytest.mark.parametrize("system", ["woven", "barbed", "multiwire", "orchard", "chainlink"])
def test_a_line_as_long_as_a_job_may_be_is_planned(system):
    """49 km of every kind is planned whole: no bay past the longest, and the rolls reach."""
    job = hung(line((0, 0), (49_000, 0)), system, systems()[system].labels()[0])
    made = plan(job)
    assert made.posts[-1].station_m == pytest.approx(49_000)
    assert max(b.to_m - b.from_m for b in made.bays) <= job.decisions.longest_bay_m + 0.005
    if made.section.layers:
        assert made.rolls.rolls.new_rolls * job.decisions.roll_m * 1.01 >= 49_000  # chain-link gives 1 in 100


def test_a_step_knows_how_long_it_takes_who_it_wants_and_what_comes_first():
    """60 m level, counted by hand in test_plan: 2 ends of 45 min; 3 wood posts of 15 and 15 driven ones of 4: 105 min.

    Hanging takes 2.2 min a metre of a fabric like this: unroll, pull, tie and fasten share it as 15 : 25 : 15 : 25.
    """
    job = hung(line((0, 0), (60, 0)), "woven", "9-49-6")
    for key, value in {"longest_bay_m": 3.0, "brace_spacing_m": 2.5}.items():
        job = apply(job, read_edit({"do": "decide", "key": key, "value": value}))
    steps = {s.key: s for s in steps_of(job, plan(job))}
    assert list(steps) == ["marks", "ends", "line", "unroll", "pull", "tie_off", "fasten", "finish"]
    assert (steps["ends"].quantity, steps["ends"].minutes[1]) == (2, 90) and steps["ends"].minutes == (54, 90, 225)
    assert (steps["line"].quantity, steps["line"].minutes[1]) == (18, 3 * 15 + 15 * 4)
    hanging = 60 * 2.2 * handling(plan(job).fabric)
    assert steps["pull"].minutes[1] == pytest.approx(hanging * 25 / 80) and steps["pull"].crew == 2
    assert sum(steps[k].minutes[1] for k in ("unroll", "pull", "tie_off", "fasten")) == pytest.approx(hanging)
    assert (
        steps["ends"].wait_days == 14
        and steps["line"].after == ("ends",)
        and set(steps["pull"].after) == {"ends", "unroll"}
    )
    assert steps["pull"].tools == ("pullers",) and steps["line"].tools == systems()["woven"].tools


@pytest.mark.parametrize("key", list(systems()))
def test_the_steps_take_together_what_hold_weighs(key):
    """The same minutes, whether a barrier is ranked by them or its work is told; marks, gates and clean-up are told only."""
    of = systems()[key]
    job = hung(line((0, 0), (120, 0)), key, of.labels()[0])
    steps = steps_of(job, plan(job))
    assert len({s.key for s in steps}) == len(steps)
    for k, step in enumerate(steps):
        assert (
            set(step.after) <= {s.key for s in steps[:k]} and step.minutes[0] < step.minutes[1] < step.minutes[2]
        ) or not step.minutes[1]
    told = sum(s.minutes[1] for s in steps if s.task.of) / 120
    assert told == pytest.approx(sum(weigh(Hung(key, of.labels()[0]), Ground(120.0, 1, {})).minutes.values()), rel=0.08)
