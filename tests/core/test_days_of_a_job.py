"""Tasks of real lines, rates as they were found, seasons simulated, what is said of a plan of days."""

from dataclasses import replace
from datetime import date, datetime, timedelta
from functools import cache

import numpy as np
import pytest
from core.test_pull_plan import STRAIGHT, edited
from crews import MONDAY, check_plan, crew, job, person
from hypothesis import given
from hypothesis import strategies as st
from places import demo_fences, fence, plan

from gnomonic.core.days.bound import bound, heads, tails
from gnomonic.core.days.crew import Off, Person, Plant
from gnomonic.core.days.laying import Given, lay
from gnomonic.core.days.made import Asked, Chances, Made
from gnomonic.core.days.placing import placed
from gnomonic.core.days.progress import Tick, done, drifts, found_rates, rates, usual_minutes
from gnomonic.core.days.simulate import simulate
from gnomonic.core.days.solve import quick
from gnomonic.core.days.weather import Weather, made_up
from gnomonic.core.days.words import (
    cautions,
    chain,
    chances_words,
    day_words,
    hands_words,
    held_by,
    hours_words,
    load,
    wearing,
    why_later,
)
from gnomonic.core.days.work import job_tasks, tasks_of
from gnomonic.core.haul.work import settling
from gnomonic.core.job.fence import fence_of
from gnomonic.core.plan import road
from gnomonic.core.pull.climate import climate, climates
from gnomonic.core.tell.steps import steps_of
from gnomonic.demo.load import holm
from gnomonic.standins.weather import forecast


@cache
def ground():
    """The co-op's ground planned, its tasks, and its lines' letters by name."""
    job = holm()
    made = road.plan(job)
    return made, job_tasks(made, {k: fence_of(job, k) for k in made.lines}), {line.name: line.id for line in job.lines}


def by_key(tasks):
    return {t.key: t for t in tasks}


# --- tasks from the plan -----------------------------------------------------------------------------------------------------
def test_a_straight_line_by_hand():
    """100 m of woven fabric from a roll of 100 m: one side, and what is wrapped at its ends makes it a roll and a splice.  Its steps, side by side of it, in the order of the work."""
    tasks = tasks_of(STRAIGHT, plan(STRAIGHT))
    assert [t.key.removeprefix("A.1.") for t in tasks] == [
        "marks", "end_holes", "end_posts", "braces", "drill", "set", "drive", "unroll", "splice", "retighten", "pull", "tie_off", "fasten", "finish", "inspect",
    ]  # fmt: skip
    rows = by_key(tasks)
    assert rows["A.1.marks"].quantity == pytest.approx(100.0)
    assert rows["A.1.end_holes"].quantity == rows["A.1.retighten"].quantity == 2
    assert rows["A.1.retighten"].minutes[1] == 12, "six minutes an end"
    assert dict(rows["A.1.pull"].after)["A.1.braces"] == 14
    assert dict(rows["A.1.retighten"].after)["A.1.braces"] == 14
    assert ("A.1.retighten", 0) in rows["A.1.pull"].after
    assert set(dict(rows["A.1.inspect"].after)) == set(rows) - {"A.1.inspect"}
    assert rows["A.1.pull"].loads and not rows["A.1.unroll"].loads
    assert (rows["A.1.pull"].from_m, rows["A.1.pull"].to_m) == (0.0, 100.0)


@pytest.mark.parametrize("it", demo_fences(), ids=lambda it: it.title)
def test_tasks_are_the_steps_no_more_and_no_less(it):
    """Minutes of the tasks of a step are the step's; every length and every post is on one side."""
    made = plan(it)
    tasks, steps = tasks_of(it, made), steps_of(it, made)
    own = {"retighten", "fill_lows", "inspect"}
    for n in range(3):
        of_steps = sum(s.minutes[n] for s in steps if s.minutes[1] > 0)
        assert sum(t.minutes[n] for t in tasks if t.kind not in own) == pytest.approx(of_steps, rel=1e-6)
    along = [t for t in tasks if t.kind == "inspect"]
    assert sum(t.quantity for t in along) == pytest.approx(sum(r.length_m for r in made.runs))
    posts = sum(t.quantity for t in tasks if t.kind == "fasten" and t.unit == "post")
    assert posts in (0, sum(not p.fixed for p in made.posts))


@pytest.mark.parametrize("it", demo_fences(), ids=lambda it: it.title)
def test_nothing_pulls_on_posts_that_are_not_set(it):
    """Whatever loads a side comes, over any way round, after the last of what sets its ends, and inspection after everything on it."""
    tasks = by_key(tasks_of(it, plan(it)))

    def before(key, seen):
        for k, _ in tasks[key].after:
            if k not in seen:
                seen.add(k)
                before(k, seen)
        return seen

    loading = [t for t in tasks.values() if t.loads and t.side is not None]
    assert loading
    for t in loading:
        sets = {k for k, o in tasks.items() if o.side == t.side and o.of.step in ("ends", "posts")}
        assert sets and sets <= before(t.key, set()), t.key
    for t in tasks.values():
        if t.kind == "inspect":
            assert {k for k, o in tasks.items() if o.side == t.side and k != t.key} <= before(t.key, set())


@pytest.mark.parametrize("it", demo_fences(), ids=lambda it: it.title)
def test_splices_are_whole_ones_and_none_is_lost(it):
    """Every side has whole splices, of all layers together as many as are made where they are a step of their own; fabric goes by its length on
    each side."""
    made = plan(it)
    tasks = tasks_of(it, made)
    spliced = [t.quantity for t in tasks if t.kind == "splice"]
    assert all(q == int(q) >= 1 for q in spliced)
    spliced_here = any(s.task.per == "splice" for s in steps_of(it, made))
    assert sum(spliced) == (len(made.rolls.splices) + sum(m.splices for m in made.more) if spliced_here else 0)
    hung = [(t.quantity, t.unit, made.runs[t.side].length_m) for t in tasks if t.kind in ("unroll", "hang")]
    assert all(unit == "m" and quantity == pytest.approx(length) for quantity, unit, length in hung)


def test_barbed_strands_are_pulled_as_they_are_run_out():
    """A barbed line has no pull of its own: its strands wait for the posts to settle, and are fastened afterwards."""
    rows = by_key(t for t in ground()[1] if t.line == "H")
    strands = rows["H.4.strands"]
    assert strands.loads
    assert dict(strands.after)["H.4.braces"] == 14
    assert ("H.4.strands", 0) in rows["H.4.fasten"].after


def test_a_line_on_anothers_post_waits_for_that_post():
    """What pulls on a post that another line sets comes after it, with its settling."""
    found = 0
    for k, made in ground()[0].lines.items():
        for post in made.posts:
            if post.shared in ground()[2]:
                pulls = [
                    t
                    for t in ground()[1]
                    if t.line == k and t.loads and t.from_m - 0.05 <= post.station_m <= t.to_m + 0.05
                ]
                if pulls:
                    others = {
                        key for t in pulls for key, _ in t.after if key.startswith(f"{ground()[2][post.shared]}.")
                    }
                    assert others, (k, post.name)
                    found += 1
    assert found >= 3


def test_how_long_posts_settle_follows_what_is_round_them():
    """Tamped two weeks, concrete a week, driven not at all: a line whose ends are asked into concrete waits seven days."""
    made = plan(STRAIGHT)
    ends = next(s for s in steps_of(STRAIGHT, made) if s.task.of == "ends")
    assert settling(made, ends.task)[0] == 14
    poured = replace(made, posts=tuple(replace(p, fill="concrete") if p.fixed else p for p in made.posts))
    assert settling(poured, ends.task) == (7, ends.task.concrete)
    driven = replace(made, posts=tuple(replace(p, rule=p.rule.model_copy(update={"fit": "drive"})) for p in made.posts))
    assert settling(driven, ends.task) == (0, "")
    line = next(s for s in steps_of(STRAIGHT, made) if s.task.of == "line")
    assert settling(made, line.task) == (0, "")
    mixed = replace(made, posts=tuple(replace(p, fill="concrete") if k == 0 else p for k, p in enumerate(made.posts)))
    assert settling(mixed, ends.task)[0] == 14, "the longest of them"


def test_frost_stops_only_where_concrete_is_placed():
    it = edited(fence("posts in concrete", STRAIGHT.line), {"do": "ask_post", "at_m": 0.0, "fill": "concrete"})
    rows = by_key(tasks_of(it, plan(it)))
    assert rows["A.1.end_posts"].poured and not rows["A.1.set"].poured
    plain = by_key(tasks_of(STRAIGHT, plan(STRAIGHT)))
    assert rows["A.1.end_posts"].stops - plain["A.1.end_posts"].stops == 8


def test_a_line_of_two_sides_and_a_gate():
    """Gates are hung when the posts on both sides of the gate have settled; leaves are measured before any of its posts is set."""
    rows = by_key(t for t in ground()[1] if t.line == "B")
    assert dict(rows["B.g1.gates"].after) == {"B.1.braces": 14, "B.2.braces": 14}
    assert ("B.g1.measure_gates", 0) in rows["B.1.end_holes"].after and ("B.g1.measure_gates", 0) in rows[
        "B.2.end_holes"
    ].after
    assert not rows["B.g1.measure_gates"].after


def test_the_whole_job_is_planned_and_holds():
    """Nine lines, more than three hundred tasks; two people and a Saturday's help; hay in the first week."""
    some = crew(
        person("Ann", range(6)),
        person("Ben", range(5)),
        person("Cy", [5], skills=["wire"]),
        off=(Off(first=date(2026, 3, 9), last=date(2026, 3, 11), why="hay"),),
    )
    given_now = Given(
        MONDAY,
        marks=dict.fromkeys(ground()[0].lines, date(2026, 3, 4)),
        weather=forecast("oceanic", MONDAY, place="the test"),
    )
    laid = lay(ground()[1], some, given_now)
    made = quick(laid.problem, 4.0, laid.worth)
    rows = {p.key: p for p in placed(laid, made)}
    assert len(rows) == len(ground()[1]) > 300
    check_plan(rows, ground()[1], some, given_now)
    assert made.makespan <= 1.12 * bound(laid.problem)


# --- bounds -------------------------------------------------------------------------------------------------------------------
def test_bounds_by_hand():
    """Three tasks of four quarters for one person, then a fortnight: heads 0; the last waits 330 − … ; two people halve the energy."""
    tasks = [job("fasten", 1, key=f"A.{n}.fasten", side=n) for n in range(3)]
    alone = lay(tasks, crew(person("Ann")), Given(MONDAY)).problem
    assert bound(alone) == 12
    assert heads(alone).tolist() == [0, 0, 0]
    assert tails(alone) == [4, 4, 4]
    assert bound(lay(tasks, crew(), Given(MONDAY)).problem) == 6
    waits = [job("end_posts", 1), job("gates", 1, [("A.1.end_posts", 14)], unit="gate")]
    assert bound(lay(waits, crew(person("Ann")), Given(MONDAY)).problem) == 330 + 4
    nothing = lay([], crew(), Given(MONDAY)).problem
    assert bound(nothing) == 0


# --- rates, ticks ------------------------------------------------------------------------------------------------------------
def tick(n, share=1.0, hours=None, task="A.1.fasten", kind="fasten", minutes=60.0, at=None):
    when = at or datetime(2026, 3, 2, 16) + timedelta(hours=n)
    return Tick(id=f"t{n}", task=task, kind=kind, share=share, hours=hours, quantity=10, minutes=minutes, at=when)


def test_a_rate_is_the_median_of_what_was_found():
    """An hour's work that took 1.5, 1.2 and 3 h: the median is 1.5 times; of two nothing is said yet."""
    took = [tick(k, hours=h, task=f"A.{k}.fasten") for k, h in enumerate((1.5, 1.2, 3.0))]
    assert found_rates([took]) == {"fasten": (1.5, 3)}
    some = crew()
    assert rates(some, {"fasten": 6.0}, [took])["fasten"].share == 1.5
    assert rates(some, {"fasten": 6.0}, [took[:2]]) == {}
    own = some.model_copy(update={"rates": {"fasten": 9.0, "sew": 1.0}})
    mine = rates(own, {"fasten": 6.0}, [took])
    assert (mine["fasten"].share, mine["fasten"].own, mine["fasten"].ticks) == (1.5, True, 0)
    assert "sew" not in mine, "nothing is sewn here"


def test_a_tick_of_part_counts_for_its_part():
    """Half of an hour's work in 45 min is one and a half times the usual; the second half in another 30 min is the usual."""
    rows = [tick(1, 0.5, 0.75), tick(2, 1.0, 0.5)]
    assert found_rates([rows])["fasten"] == (1.25, 2)
    assert found_rates([[tick(1, 1.0), tick(2, 1.0, 2.0)]]) == {}, "nothing was done in those two hours"
    assert found_rates([[tick(1, 1.0, 1.0, kind="knitting")]]) == {}


def test_two_jobs_that_name_their_tasks_alike_both_count():
    """Side 1 of line A was fastened in each of three jobs, in 2, 1 and 3 h for an hour's work: the median of three is twice the usual."""
    jobs = [[tick(k, hours=h)] for k, h in enumerate((2.0, 1.0, 3.0))]
    assert found_rates(jobs) == {"fasten": (2.0, 3)}


@given(st.permutations(range(5)))
def test_ticks_come_in_any_order(order):
    rows = [tick(k, share) for k, share in enumerate((0.2, 0.5, 0.5, 1.0, 0.7))]
    state = done([rows[k] for k in order])
    assert state.share == {"A.1.fasten": 0.7}, "the later stands"
    assert state.at["A.1.fasten"] == rows[4].at


def test_two_ticks_at_once_are_told_apart_by_their_id():
    same = datetime(2026, 3, 2, 16)
    rows = [tick(1, 0.4, at=same), tick(2, 0.6, at=same)]
    assert done(rows).share == done(rows[::-1]).share == {"A.1.fasten": 0.6}


def test_drift_is_said_as_a_crew_says_it():
    """Six minutes a post are 10 an hour; 1.5 times as long are 6.7.  What is off by a tenth is within a good and a bad day."""
    tasks = [job("fasten", 2, quantity=20.0)]
    assert usual_minutes(tasks, crew()) == {"fasten": 6.0}
    slow = rates(crew(), {"fasten": 6.0}, [[tick(k, hours=1.5, task=f"A.{k}.fasten") for k in range(3)]])
    (said,) = drifts(slow, {"fasten": 6.0}, {"fasten": "post"})
    assert said.text("us") == "“fasten every post” goes at 6.7 an hour with one person, not 10.0 (median of 3)"
    near = rates(crew(), {"fasten": 6.0}, [[tick(k, hours=1.1, task=f"A.{k}.fasten") for k in range(3)]])
    assert drifts(near, {"fasten": 6.0}, {"fasten": "post"}) == []
    along = [job("marks", 1, quantity=100.0, unit="m")]
    slow = rates(crew(), {"marks": 0.6}, [[tick(k, hours=2.0, task=f"A.{k}.marks", kind="marks") for k in range(3)]])
    assert usual_minutes(along, crew()) == {"marks": pytest.approx(0.6)}
    (said,) = drifts(slow, {"marks": 0.6}, {"marks": "m"})
    assert said.text("metric") == "“mark out and clear” goes at 50 m an hour with one person, not 100 m (median of 3)"
    assert "164 ft an hour" in said.text("us")


# --- seasons ------------------------------------------------------------------------------------------------------------------
SPREAD = (0.6, 2.5)


def laid_out(spread=SPREAD, weather=()):
    tasks = [
        job("end_posts", 8, spread=spread),
        job("pull", 6, [("A.1.end_posts", 14)], least=2, unit="run", loads=True, spread=spread),
        job("fasten", 30, ["A.1.pull"], spread=spread),
    ]
    laid = lay(tasks, crew(), Given(MONDAY, weather=weather))
    return laid, quick(laid.problem, 0.1)


def test_the_same_seed_gives_the_same_seasons():
    laid, made = laid_out()
    first = simulate(laid, made, climate("oceanic"), (), seed=3, count=120)
    assert simulate(laid, made, climate("oceanic"), (), seed=3, count=120) == first
    assert first.seasons == 120


@pytest.mark.parametrize("key", list(climates()))
def test_chance_never_makes_it_earlier_than_its_parts(key):
    """Nine in ten is no sooner than half; weather alone, with work at the usual pace, never ends before fair weather."""
    laid, made = laid_out()
    ends = simulate(laid, made, climate(key), (), seed=5, count=160)
    fair = laid.clock.ends(made.makespan).date()
    assert ends.half and ends.nine and ends.weather[0] and ends.weather[1]
    assert ends.half <= ends.nine
    assert fair <= ends.weather[0] <= ends.weather[1]


def test_wet_ground_takes_longer_than_dry():
    """A week of fastening, nothing settling: in a wet climate downpours stop it, in a dry one hardly."""
    laid = lay([job("fasten", 80)], crew(), Given(MONDAY))
    made = quick(laid.problem, 0.1)
    wet = simulate(laid, made, climate("tropical"), (), seed=5, count=200)
    dry = simulate(laid, made, climate("arid"), (), seed=5, count=200)
    assert wet.nine and dry.nine
    assert wet.nine > dry.nine
    assert dry.rates == (laid.clock.ends(made.makespan).date(),) * 2, (
        "where work always takes the usual, its chance changes nothing"
    )


def test_tamped_posts_wait_for_two_rains_but_not_for_ever():
    """Without a drop of rain the fortnight becomes four weeks, and no longer: posts set on the 2nd are pulled on the 30th."""
    dry = replace_rain(climate("arid"), 0.0)
    tasks = [job("end_posts", 2), job("pull", 2, [("A.1.end_posts", 14)], least=2, unit="run", loads=True)]
    laid = lay(tasks, crew(), Given(MONDAY))
    ends = simulate(laid, quick(laid.problem, 0.1), dry, (), seed=1, count=60)
    assert ends.weather == (date(2026, 3, 30), date(2026, 3, 30))
    wet = replace_rain(climate("oceanic"), 30.4)
    ends = simulate(laid, quick(laid.problem, 0.1), wet, (), seed=1, count=60)
    assert ends.weather[0] == date(2026, 3, 16), "it rains every day: a fortnight is enough"


def replace_rain(of, days):
    return of.model_copy(update={"rain": (days,) * 12, "thunder": (0.0,) * 12, "wet_mm": 1.5, "wind_ms": 2.0})


def test_forecast_days_are_the_same_in_every_season():
    """Three days of downpour are forecast: nothing ends on them, in no season."""
    storm = [Weather(day=MONDAY + timedelta(days=k), night_c=5, noon_c=9, rain_mm=30.0) for k in range(3)]
    tasks = [job("fasten", 2)]
    laid = lay(tasks, crew(), Given(MONDAY, weather=storm))
    ends = simulate(laid, quick(laid.problem, 0.1), replace_rain(climate("arid"), 0.0), storm, seed=1, count=60)
    assert ends.half == ends.nine == date(2026, 3, 5)


def test_made_up_days_are_as_the_climate_has_them():
    """Of 40,000 days of January near the sea: 13 of 30.4 with rain, 5 mm a rainy day, wind of 8 m/s in the strongest hour."""
    of = climate("oceanic")
    dice = np.random.default_rng(1)
    days = made_up(of, np.zeros(200, np.int64), dice.random((200, 200, 4)))
    wet = days.rain_mm > 0
    assert wet.mean() == pytest.approx(13 / 30.4, abs=0.01)
    assert days.rain_mm[wet].mean() == pytest.approx(5.0, abs=0.15)
    assert days.rain_mm[wet].min() >= 1.0
    assert days.wind_ms.mean() == pytest.approx(8.0, abs=0.1)
    assert (days.thunder >= 0).mean() == pytest.approx(0.2 / 30.4, abs=0.002)
    assert (days.night_c <= days.noon_c).all()
    assert days.noon_c.max() <= of.hot[0] and days.night_c.min() >= of.cold[0]
    storms = days.thunder[days.thunder >= 0]
    assert storms.min() >= 12 * 60 and storms.max() + 120 <= 20 * 60


def test_the_practice_forecast_is_a_week_and_the_same_again():
    days = forecast("continental", MONDAY, place="somewhere")
    assert [d.day for d in days] == [MONDAY + timedelta(days=k) for k in range(7)]
    assert forecast("continental", MONDAY + timedelta(days=3), 1, "somewhere")[0] == days[3]
    assert forecast("continental", MONDAY, place="elsewhere") != days


# --- words ------------------------------------------------------------------------------------------------------------------
def made_of(rows, **more):
    when = datetime(2026, 3, 20, 16)
    none = Chances(half=None, nine=None)
    given_now = {
        "made_at": when,
        "state": "quick",
        "placed": tuple(rows),
        "ends": when,
        "fair": when,
        "bound": when,
        "proven": True,
        "both": none,
        "weather": none,
        "rates": none,
    }
    return Made.model_validate({**given_now, "seasons": 200, "hired": 0, "forecast": 7, **more})


def test_what_holds_the_end_is_said_in_the_order_of_the_work():
    tasks = tasks_of(STRAIGHT, plan(STRAIGHT))
    laid = lay(tasks, crew(), Given(MONDAY))
    made = made_of(placed(laid, quick(laid.problem, 0.2, laid.worth)))
    said = chain(made, by_key(tasks))
    assert "14 days’ settling" in said
    assert said.index("braces") < said.index("14 days’ settling") < said.index("pull")
    assert said[-1] == "inspect"
    assert held_by(made).startswith(("The order of the work holds it", "Hands hold it"))
    assert held_by(made_of([])) == ""


def test_what_is_said_of_the_end():
    both = Chances(half=date(2026, 3, 26), nine=date(2026, 4, 2))
    assert chances_words(both, 1000) == "Done by Thu 26 March half the time, by Thu 2 April nine times in ten"
    assert chances_words(Chances(half=None, nine=None), 1000).startswith("In more than half of 1000 seasons")
    assert "one season of ten" in chances_words(Chances(half=both.half, nine=None), 10)
    late = made_of(
        [],
        weather=Chances(half=date(2026, 3, 21), nine=date(2026, 3, 24)),
        rates=Chances(half=date(2026, 3, 20), nine=date(2026, 3, 20)),
    )
    assert why_later(late).endswith("the weather alone 4 days; good and bad days at work alone nothing.")
    assert day_words(MONDAY) == "Mon 2 March"
    assert [hours_words(m) for m in (59.6, 90, 600)] == ["1 h", "1 h 30", "10 h"]


def test_a_day_is_told_what_to_be_careful_of():
    tasks = tasks_of(STRAIGHT, plan(STRAIGHT))
    rows = by_key(tasks)
    holes, pull = rows["A.1.end_holes"], rows["A.1.pull"]
    today = date(2026, 3, 3)
    marked = [c.text("us") for c in cautions(today, [holes], [], {"A": date(2026, 3, 9)})]
    assert marked[0] == "Line A: no hole before the marks are in."
    storm = Weather(
        day=today,
        night_c=-2,
        noon_c=3,
        rain_mm=16,
        wind_ms=15,
        thunder_from=datetime(2026, 3, 3, 15).time(),
        thunder_until=datetime(2026, 3, 3, 16).time(),
    )
    said = [c.text("us") for c in cautions(today, [pull, holes], [storm], {"A": None})]
    assert said[0].startswith("Thunder likely from 15:00")
    assert "A downpour: nobody works outside." in said and "Wind: no fabric is stood up." in said
    whole = " ".join(said)
    assert whole.count("Hand-dig in the tolerance zone.") <= 1, "no sentence twice"
    assert "before every click" in whole


def test_load_the_night_before():
    """Of 29 line posts 12 on the day, of 100 m of fabric 40 m; what is pulled is no load."""
    rows = by_key(tasks_of(STRAIGHT, plan(STRAIGHT)))
    said = [
        s.text("metric") for s in load([(rows["A.1.drive"], 12.0), (rows["A.1.unroll"], 40.0), (rows["A.1.pull"], 1.0)])
    ]
    assert said[:2] == ["12 posts", "40 m of fabric, by the rolls on the Hang page"]
    assert "post driver" in said[2] and len(said) == 4
    assert "131 ft of fabric" in " ".join(s.text("us") for s in load([(rows["A.1.unroll"], 40.0)]))
    both = load([(job("drive", 2), 2.3), (job("set", 2), 2.3)])
    assert both[0].text("us") == "5 posts", "4.6 posts are five"
    assert load([]) == []


def test_a_drivers_cap_is_due_each_five_hundred_posts():
    """430 driven and 80 on the day: the 500th is among them; of 80 of which 60 are for tomorrow it is not."""
    drive = job("drive", 2, quantity=80.0)
    assert wearing([(drive, 80.0)], {"driver": 430.0}) == ["post driver: driver cap after 500 posts"]
    assert wearing([(drive, 20.0)], {"driver": 430.0}) == []
    assert wearing([(drive, 80.0)], {"driver": 300.0}) == []
    assert wearing([(drive, 520.0)], {}) == ["post driver: driver cap after 500 posts"]


def test_who_is_needed_and_what_one_can_trail():
    tasks = [
        job("pull", 2, least=2, unit="run"),
        job("gates", 4, least=2, unit="gate"),
        job("fasten", 3),
        job("marks", 9),
    ]
    said = hands_words(tasks, {"A.1.pull": 120, "A.1.gates": 120, "A.1.fasten": 180, "A.1.marks": 540})
    assert (
        said[0] == "Takes two or more at once: 4 h of work (pull, hang gates)"
        or said[0] == "Takes two or more at once: 4 h of work (hang gates, pull)"
    )
    assert said[1] == "One person can trail it alone: 3 h of work (fasten every post)"


# --- what is kept ---------------------------------------------------------------------------------------------------------
def test_what_is_kept_is_read_back():
    laid, made = laid_out()
    kept = made_of(placed(laid, made))
    assert Made.model_validate_json(kept.model_dump_json()) == kept
    asked = Asked(start=MONDAY, pins={"A.1.fasten": datetime(2026, 3, 4, 10)})
    assert Asked.model_validate_json(asked.model_dump_json()) == asked
    some = crew(person("Ann", away=(Off(first=MONDAY, last=MONDAY),)), country="PT", rates={"fasten": 3.0})
    assert type(some).model_validate_json(some.model_dump_json()) == some


@pytest.mark.parametrize(
    ("given_now", "words"),
    [
        ({"people": (person("Ann"), person("Ann", [5]))}, "the same name"),
        ({"plant": (Plant(kind="auger"), Plant(kind="auger"))}, "stands once"),
        ({"lat_deg": 4.0}, "latitude and longitude"),
        ({"zone": "Middle/Earth"}, "no time zone “Middle/Earth”"),
        ({"rates": {"knitting": 2.0}}, "no kind of work “knitting”"),
    ],
)
def test_a_crew_that_can_not_be(given_now, words):
    with pytest.raises(ValueError, match=words):
        crew().model_copy(update=given_now)


@pytest.mark.parametrize(
    ("given_now", "words"),
    [
        ({"begins": "16:30", "ends": "7:30"}, "stops before beginning"),
        ({"skills": ["juggling"]}, "no skill “juggling”"),
        ({"comes": date(2026, 3, 9), "goes": date(2026, 3, 2)}, "goes before coming"),
    ],
)
def test_a_person_that_can_not_be(given_now, words):
    with pytest.raises(ValueError, match=words):
        person("Ann", **given_now)
    with pytest.raises(ValueError, match="before the first"):
        Off(first=date(2026, 3, 9), last=date(2026, 3, 2))
    with pytest.raises(ValueError, match="no plant “crane”"):
        Plant(kind="crane")
    assert Person(id="a", name="A").there(MONDAY)
