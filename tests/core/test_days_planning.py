"""Days laid over a calendar: who is there, waits, weather, marks, plant.  Expectations by hand, on a calendar of March 2026."""

from datetime import date, datetime, time, timedelta

import numpy as np
import pytest
from crews import MONDAY, check_plan, crew, job, person, planned
from hypothesis import given
from hypothesis import strategies as st

from gnomonic.core.days.book import days_rule, kinds, plant_kinds, stops
from gnomonic.core.days.carrying import Order, carried_on, in_order_of, order_of
from gnomonic.core.days.clock import clock_of, quarters
from gnomonic.core.days.crew import Crew, Off, Plant
from gnomonic.core.days.laying import Busy, Given, lay, marks_day, minutes_left, must_follow_marks
from gnomonic.core.days.placing import placed
from gnomonic.core.days.progress import rates, usual_minutes
from gnomonic.core.days.sharing import busy_of, clashes
from gnomonic.core.days.solve import judged, quick, solve
from gnomonic.core.days.weather import Weather, bits_of, storm_words
from gnomonic.core.errors import BadInput, NoPlan


def at(text):
    """A time of March 2026: "2 7:30" is Monday the 2nd, half past seven."""
    day, _, clock = text.partition(" ")
    hour, minute = map(int, clock.split(":"))
    return datetime(2026, 3, int(day), hour, minute)


def day(n, **more):
    return Weather(day=date(2026, 3, n), **{"night_c": 4.0, "noon_c": 10.0, **more})


# --- the clock ---------------------------------------------------------------------------------------------------------------
def test_a_working_day_by_hand():
    """7:30 to 12:00 is 18 quarters, 12:45 to 16:30 is 15: 33 a day, 165 a week; the 166th is on the next Monday."""
    clock = clock_of(crew(), MONDAY)
    assert int((clock.day == 0).sum()) == 33
    assert clock.begins(0) == at("2 7:30")
    assert clock.ends(18) == at("2 12:00")
    assert clock.begins(18) == at("2 12:45")
    assert clock.ends(33) == at("2 16:30")
    assert clock.begins(33) == at("3 7:30")
    assert clock.begins(165) == at("9 7:30")
    assert clock.ends(0) == at("2 7:30")


def test_a_wait_runs_on_the_calendar():
    """What ends on Monday the 2nd may go on fourteen days later on Monday the 16th, ten working days after: 330 quarters."""
    ready = clock_of(crew(), MONDAY).after_days(14)
    assert ready[1] == ready[33] == 330
    assert ready[34] == 363, "a day later where it ends a day later"
    assert ready[165] == 14 * 33, "Friday the 6th and a fortnight is Friday the 20th"
    assert ready[0] == 0


def test_a_time_is_found_on_the_clock():
    clock = clock_of(crew(), MONDAY)
    assert clock.slot_at(at("2 7:30")) == 0
    assert clock.slot_at(at("2 7:31")) == 1, "not in the quarter that has begun"
    assert clock.slot_at(at("2 12:10")) == 18, "in the break: after it"
    assert clock.slot_at(at("7 9:00")) == 165, "on Saturday: on Monday"


def test_people_with_different_hours_are_counted_hour_by_hour():
    some = crew(person("Ann"), person("Cy", days=[0], begins="9:00", ends="11:00", skills=[]))
    clock = clock_of(some, MONDAY)
    counts = [int(clock.capacity[0, k]) for k in range(18)]
    assert counts == [1] * 6 + [2] * 8 + [1] * 4
    knows = clock.skilled("machines")[0]
    assert clock.capacity[knows].max() == 1


def test_days_off_holidays_and_hay_are_no_days():
    hay = Off(first=date(2026, 7, 3), last=date(2026, 7, 10), why="hay")
    away = Off(first=date(2026, 3, 3), last=date(2026, 3, 3))
    some = crew(person("Ann", away=(away,)), off=(hay,), country="PT")
    assert quarters(some, date(2026, 3, 3))[0].size == 0, "she is away"
    assert quarters(some, date(2026, 7, 3))[0].size == 0, "hay"
    assert quarters(some, date(2026, 7, 10))[0].size == 0, "the last day of it too"
    assert quarters(some, date(2026, 7, 13))[0].size == 33
    assert quarters(some, date(2026, 6, 10))[0].size == 0, "a Wednesday, a public holiday there"
    assert "Portugal" in some.closed(date(2026, 6, 10))
    assert some.closed(date(2026, 7, 3)) == "hay"


def test_it_is_worked_in_daylight_only():
    """In December at 60° north the sun is up from about nine to three: nobody works at half past seven."""
    some = crew(lat_deg=60.0, lon_deg=5.0, zone="Europe/Oslo")
    worked = quarters(some, date(2026, 12, 21))[0]
    assert 9 * 60 <= worked[0] <= 10 * 60
    assert worked[-1] + 15 <= 15 * 60 + 45
    assert quarters(some, date(2026, 6, 22))[0].size == 33
    polar = crew(lat_deg=78.0, lon_deg=15.0, zone="Europe/Oslo")
    assert quarters(polar, date(2026, 12, 21))[0].size == 0
    assert quarters(polar, date(2026, 6, 22))[0].size == 33


def test_a_calendar_without_a_day_is_refused():
    for nobody in (Crew(people=()), crew(person("Ann", days=[])), crew(person("Ann", goes=date(2026, 3, 1)))):
        with pytest.raises(BadInput) as refused:
            clock_of(nobody, MONDAY)
        assert refused.value.field == "crew"
        assert "nobody works on any day from 2 March 2026 on" in refused.value.sentence


# --- one after the other ----------------------------------------------------------------------------------------------------
def side(line="A", n=0):
    """A side as it is built: holes, posts, braces, a fortnight, re-tightened, pulled."""
    name = f"{line}.{n + 1}."
    more = {"line": line, "side": n}
    return [
        job("end_holes", 2, **more),
        job("end_posts", 4, [f"{name}end_holes"], **more),
        job("braces", 2, [f"{name}end_posts"], **more),
        job("retighten", 1, [(f"{name}braces", 14)], unit="run_end", **more),
        job("pull", 2, [(f"{name}braces", 14), f"{name}retighten"], least=2, unit="run", loads=True, **more),
        job("fasten", 3, [f"{name}pull"], **more),
    ]


def test_posts_settle_before_they_are_pulled():
    """With two at it: holes 7:30–8:30, posts to 10:30, braces to 11:30 on the 2nd; then a fortnight: re-tightened at 7:30 on the 16th (half
    an hour), pulled 8:00–9:00, fastened by two to 10:30."""
    rows = planned(side())
    assert rows["A.1.braces"].ends == at("2 11:30")
    assert rows["A.1.retighten"].begins == at("16 7:30")
    assert (rows["A.1.pull"].begins, rows["A.1.pull"].ends) == (at("16 8:00"), at("16 9:00"))
    assert rows["A.1.fasten"].ends == at("16 10:30")
    assert [k for k, r in rows.items() if r.by] == [
        "A.1.end_holes",
        "A.1.end_posts",
        "A.1.braces",
        "A.1.retighten",
        "A.1.pull",
        "A.1.fasten",
    ]


def test_one_side_is_set_while_the_next_is_drilled():
    """Four hours of drilling and four of setting on each of two sides, one auger, four people.  Two drill for two hours, twice: 4 h; while
    the second is drilled two set the first; three set the second in 1 h 15 (5⅓ quarters): 5 h 15, to 13:30 with the break, where one side
    after the other would take 6 h 30."""
    four = crew(*(person(n) for n in ("Ann", "Ben", "Cy", "Dee")))
    tasks = [*(job("drill", 4, side=n) for n in (0, 1)), *(job("set", 4, [f"A.{n + 1}.drill"], side=n) for n in (0, 1))]
    rows = planned(tasks, four)
    assert max(r.ends for r in rows.values()) == at("2 13:30")
    first, second = sorted((rows["A.1.drill"], rows["A.2.drill"]), key=lambda r: r.begins)
    assert first.ends <= second.begins, "there is one auger"
    assert rows[first.key.replace("drill", "set")].begins < second.ends, "set while the next is drilled"


def test_who_drives_can_not_be_at_two_augers():
    """Two augers, three people, one of whom drives: two hours of drilling twice, one after the other, with two at each: 1 h + 1 h."""
    one = crew(person("Ann"), person("Ben", skills=[]), person("Cy", skills=[]), plant=(Plant(kind="auger", count=2),))
    rows = planned([job("drill", 2, side=n) for n in (0, 1)], one)
    spans = sorted((r.begins, r.ends) for r in rows.values())
    assert spans == [(at("2 7:30"), at("2 8:30")), (at("2 8:30"), at("2 9:30"))]
    assert all("ann" in s.people for r in rows.values() for s in r.spells)
    both = crew(person("Ann"), person("Ben"), plant=(Plant(kind="auger", count=2),))
    rows = planned([job("drill", 2, side=n) for n in (0, 1)], both)
    assert max(r.ends for r in rows.values()) == at("2 9:30")


def test_what_takes_two_waits_for_the_one_who_comes_on_saturday():
    """She alone on weekdays, he with her on Saturdays from 8 to 15: the pull is on Saturday the 7th at eight, what one can trail is done
    before."""
    some = crew(person("Ann", days=range(6)), person("Sam", days=[5], begins="8:00", ends="15:00", skills=[]))
    rows = planned([job("fasten", 5, side=1), job("pull", 4, least=2, unit="run", loads=True)], some)
    assert rows["A.1.pull"].begins == at("7 8:00")
    assert rows["A.2.fasten"].begins == at("2 7:30")
    assert set(rows["A.1.pull"].spells[0].people) == {"ann", "sam"}


def test_work_too_long_for_the_days_there_are_is_parted():
    """Two needed, both there on Saturdays from 8 to 15 with the break: 25 quarters.  Ten hours for two are 40 quarters: in two parts of 20,
    on the 7th and the 14th."""
    some = crew(person("Ann", days=range(6)), person("Sam", days=[5], begins="8:00", ends="15:00"))
    row = planned([job("gates", 20, least=2, unit="gate")], some)["A.1.gates"]
    assert [(s.day.day, s.begins, s.ends) for s in row.spells] == [
        (7, 480, 720),
        (7, 765, 825),
        (14, 480, 720),
        (14, 765, 825),
    ]
    assert (row.begins, row.ends) == (at("7 8:00"), at("14 13:45"))


def test_a_pull_is_done_whole_and_never_over_night():
    """Two hours for two; what comes before ends at 15:30: pulled the next morning, not half of it that evening."""
    rows = planned([job("boards", 14.5), job("pull", 4, ["A.1.boards"], least=2, unit="run", loads=True)])
    assert rows["A.1.boards"].ends == at("2 15:30")
    assert rows["A.1.pull"].begins == at("3 7:30")
    rows = planned([job("boards", 14.5), job("boards", 4, ["A.1.boards"], key="A.2.boards", side=1)])
    assert rows["A.2.boards"].begins == at("2 15:30"), "boards go on in the morning"
    assert rows["A.2.boards"].ends == at("3 8:30")


def test_more_hands_are_quicker_up_to_as_many_as_can_be_at_it():
    four = crew(*(person(n) for n in ("Ann", "Ben", "Cy", "Dee")))
    assert kinds()["marks"].hands == 4 and kinds()["drill"].hands == 2
    assert planned([job("marks", 8)], four)["A.1.marks"].ends == at("2 9:30")
    assert planned([job("drill", 8)], four)["A.1.drill"].ends == at("2 11:30")


def test_without_plant_it_is_done_by_hand_or_not_at_all():
    """An auger's hole takes two and a half times as long with a bar: 2 h are 5, by two 2.5 h; nobody pulls with bare hands."""
    bare = crew(plant=())
    assert kinds()["end_holes"].by_hand == 2.5
    assert planned([job("end_holes", 2)], bare)["A.1.end_holes"].ends == at("2 10:00")
    with pytest.raises(BadInput) as refused:
        planned([job("pull", 2, least=2, unit="run")], bare)
    assert refused.value.sentence.startswith("“pull” (line A, side 1) can’t be done without a set of pullers")
    loose = crew(person("Ann", skills=["wire"]), plant=())
    assert planned([job("end_holes", 1)], loose)["A.1.end_holes"].ends == at("2 10:00"), "a bar needs no licence"


def test_own_minutes_are_taken_as_they_were_said_with_and_without_an_auger():
    """Ten holes in 2 h are 12 minutes each, with a bar 30.  A crew that says 20 takes 200 minutes for ten, whatever it has."""
    for some, usual in ((crew(), 12.0), (crew(plant=()), 30.0)):
        holes = job("end_holes", 2)
        assert usual_minutes([holes], some) == {"end_holes": pytest.approx(usual)}
        mine = some.model_copy(update={"rates": {"end_holes": 20.0}})
        shares = {k: r.share for k, r in rates(mine, usual_minutes([holes], mine), []).items()}
        assert minutes_left(holes, Given(MONDAY, rates=shares), mine) == pytest.approx(200.0)


@pytest.mark.parametrize(
    ("some", "task", "words"),
    [
        (
            crew(person("Ann")),
            job("pull", 2, least=2, unit="run"),
            "takes 2 people at once, and there is never more than 1",
        ),
        (
            crew(person("Ann", skills=[]), person("Ben", skills=[])),
            job("splice", 2),
            "takes somebody who knows wire, and nobody does",
        ),
        (crew(person("Ann", skills=["wire"])), job("drill", 2), "takes somebody who drives machines, and nobody does"),
        (
            crew(person("Ann", days=[0]), person("Ben", days=[1])),
            job("gates", 2, least=2, unit="gate"),
            "takes 2 people at once, and there is never more than 1",
        ),
        (
            crew(person("Ann"), plant=(Plant(kind="auger", goes=date(2026, 3, 1)),)),
            job("drill", 2),
            "finds no hour in which people and plant for it are there together",
        ),
    ],
)
def test_a_task_no_crew_can_do_is_named(some, task, words):
    with pytest.raises(BadInput) as refused:
        planned([task], some)
    assert refused.value.field == "crew"
    assert words in refused.value.sentence


def test_a_circle_of_tasks_is_refused():
    with pytest.raises(BadInput, match="circle"):
        planned([job("marks", 1, ["A.1.set"]), job("set", 1, ["A.1.marks"])])


def test_what_never_ends_says_so():
    with pytest.raises(NoPlan, match="not all of it can be done"):
        planned([job("fasten", 20_000, key=f"A.{n}.fasten", side=n) for n in range(2)])


# --- marks, pins, what is done ------------------------------------------------------------------------------------------------
def test_nothing_is_dug_before_the_marks():
    rows = planned([job("marks", 2), *side()], marks={"A": date(2026, 3, 6)})
    assert rows["A.1.end_holes"].begins == at("6 7:30")
    assert rows["A.1.marks"].begins == at("2 7:30"), "clearing is no digging"


def test_who_asks_for_a_hole_before_the_marks_is_refused():
    """Asked for on the 4th where marks come on the 6th; the 6th itself will do, and clearing may begin before."""
    marks, holes = {"A": date(2026, 3, 6)}, side()[0]
    with pytest.raises(BadInput) as refused:
        must_follow_marks(holes, at("4 7:30"), marks)
    assert refused.value.field == "at"
    assert refused.value.sentence == (
        "“holes of the ends” (line A, side 1) is work in the ground: it can’t begin on 4 March 2026, before the marks are in (6 March 2026)"
    )
    must_follow_marks(holes, at("6 7:30"), marks)
    must_follow_marks(job("marks", 2), at("4 7:30"), marks)
    must_follow_marks(holes, at("4 7:30"), {"B": date(2026, 3, 6)})


def test_marks_that_come_later_than_a_hole_was_asked_for_hold_it_back():
    """The 4th was asked for while there were marks; they ran out, and new ones are in on the 6th: the plan is made all the same."""
    rows = planned(side(), marks={"A": date(2026, 3, 6)}, pins={"A.1.end_holes": at("4 7:30")})
    assert rows["A.1.end_holes"].begins == at("6 7:30")


def test_a_pin_holds_a_task_back_and_what_waits_for_it():
    rows = planned(side(), pins={"A.1.end_posts": at("4 10:00")})
    assert rows["A.1.end_holes"].begins == at("2 7:30")
    assert rows["A.1.end_posts"].begins == at("4 10:00")
    assert rows["A.1.retighten"].begins == at("18 7:30")


def test_what_is_not_begun_before_a_time_goes_before_what_wanted_the_same():
    """Four tasks of 16 quarters for one person, the first of them on Tuesday: the next two end at quarter 32 of Monday, one quarter is left
    over, then it and the last: 33 + 16 + 16 quarters instead of 64."""
    tasks = [job("fasten", 4, key=f"A.{n + 1}.fasten", side=n) for n in range(4)]
    alone = crew(person("Ann"))
    laid = lay(tasks, alone, Given(MONDAY))
    first = quick(laid.problem, 0.1)
    was = sorted(placed(laid, first), key=lambda p: p.begins)
    assert first.makespan == 64
    pins = {was[0].key: at("3 7:30")}
    again = lay(tasks, alone, Given(MONDAY, pins=pins))
    order = carried_on(again, was, pins)
    assert order.makespan == 65
    rows = {p.key: p for p in placed(again, order)}
    assert [rows[p.key].begins for p in was] == [at("3 7:30"), at("2 7:30"), at("2 11:30"), at("3 11:30")]
    assert judged(again.problem, order).bound == 64, (
        "no more is known without a search: that is the bound of all orders"
    )


def test_an_order_is_carried_on_with_the_hands_it_had():
    """Two tasks of 2 h and one of 4 h that two can be at: one at each of the short ones, then both at the long one, ends at quarter 16; with as
    many as end each first it is no later.  An order known from two is one for one person too: 32 quarters."""
    tasks = [job("fasten", h, key=f"A.{n + 1}.fasten", side=n) for n, h in enumerate((2, 2, 4))]
    laid = lay(tasks, crew(), Given(MONDAY))
    one_each = laid.problem.activities[0].modes[0].slots
    assert one_each == 8 and laid.hands[0] == (1, 2)
    order = Order({t.key: float(k) for k, t in enumerate(tasks)}, {"A.1.fasten": 1, "A.2.fasten": 1, "A.3.fasten": 2})
    made = in_order_of(laid, order)
    assert made.makespan == 16
    assert order_of(laid, made).first == {"A.1.fasten": 0, "A.2.fasten": 0, "A.3.fasten": 8}
    assert order_of(laid, made).hands == order.hands
    alone = lay(tasks, crew(person("Ann")), Given(MONDAY))
    assert in_order_of(alone, order_of(laid, made)).makespan == 32
    endless = lay([job("fasten", 20_000)], crew(), Given(MONDAY))
    assert in_order_of(endless, order) is None and carried_on(endless, placed(laid, made), {}) is None


def test_an_order_is_carried_on_where_most_of_it_is_known():
    """Of ten tasks seven are known: their order stays, the new come last; of ten tasks six are: it is made from the beginning."""
    tasks = [job("fasten", 1, key=f"A.{n + 1}.fasten", side=n) for n in range(10)]
    alone = crew(person("Ann"))
    for known, kept in ((7, True), (6, False)):
        before = lay(tasks[10 - known :], alone, Given(MONDAY))
        was = sorted(placed(before, quick(before.problem, 0.1)), key=lambda p: p.begins)
        now = lay(tasks, alone, Given(MONDAY))
        order = carried_on(now, was, {})
        assert (order is not None) == kept
        if order:
            rows = sorted(placed(now, order), key=lambda p: p.begins)
            assert [p.key for p in rows][:known] == [p.key for p in was]
    assert carried_on(lay([], alone, Given(MONDAY)), [], {}) is None


def test_what_is_done_is_done_and_its_wait_runs_from_then():
    """Braces ticked on the 4th: pulled on the 18th; half a task done leaves half of it."""
    ticked = {
        "done": dict.fromkeys(["A.1.end_holes", "A.1.end_posts", "A.1.braces"], 1.0),
        "done_at": {"A.1.braces": at("4 15:00")},
    }
    rows = planned(side(), now=at("5 0:00"), **ticked)
    assert set(rows) == {"A.1.retighten", "A.1.pull", "A.1.fasten"}
    assert rows["A.1.retighten"].begins == at("18 7:30")
    half = planned([job("fasten", 8)], done={"A.1.fasten": 0.5})
    assert half["A.1.fasten"].ends == at("2 9:30"), "four hours by two"


def test_a_rate_found_here_makes_it_as_long_as_it_is():
    rows = planned([job("fasten", 4)], rates={"fasten": 1.5})
    assert rows["A.1.fasten"].ends == at("2 10:30")


def test_days_until_the_marks():
    today = date(2026, 3, 2)
    assert marks_day("marked", None, today) is None
    assert marks_day("clear", date(2026, 3, 9), today) is None
    assert marks_day("requested", date(2026, 3, 9), today) == date(2026, 3, 9)
    assert marks_day("requested", date(2026, 2, 20), today) == date(2026, 3, 3), "late, and not in yet"
    assert marks_day("not asked", None, today) == today + timedelta(days=days_rule("marks_days"))
    assert marks_day("expired", date(2026, 2, 9), today) == today + timedelta(days=days_rule("marks_days"))


# --- weather ------------------------------------------------------------------------------------------------------------------
def test_a_downpour_stops_it_and_it_goes_on_the_day_after():
    """Twelve hours of fastening by one: 8.25 on Monday, none on Tuesday in 20 mm, 3.75 on Wednesday: to 11:15."""
    one = crew(person("Ann"))
    rows = planned([job("fasten", 12)], one, weather=[day(2), day(3, rain_mm=20.0), day(4)])
    spells = rows["A.1.fasten"].spells
    assert [s.day.day for s in spells] == [2, 2, 4]
    assert rows["A.1.fasten"].ends == at("4 11:15")


def test_mud_keeps_machines_off_the_day_after_too_but_not_hands():
    rows = planned(
        [job("drill", 2), job("fasten", 2, side=1)], crew(person("Ann")), weather=[day(2, rain_mm=15.0), day(3), day(4)]
    )
    assert rows["A.2.fasten"].begins == at("3 7:30")
    assert rows["A.1.drill"].begins == at("4 7:30")


def test_a_storm_at_three_and_no_pull_is_begun_that_ends_later():
    """Four hours for two: from 7:30 it would do; after a morning of boards, at 12:45, it would end at 16:45, in the storm: the next day."""
    storm = [day(2, thunder_from=time(15, 0), thunder_until=time(16, 0)), day(3)]
    rows = planned([job("boards", 9), job("pull", 6, ["A.1.boards"], least=2, unit="run", loads=True)], weather=storm)
    assert rows["A.1.boards"].ends == at("2 12:00")
    assert rows["A.1.pull"].begins == at("3 7:30")
    rows = planned([job("boards", 9), job("pull", 4, ["A.1.boards"], least=2, unit="run", loads=True)], weather=storm)
    assert (rows["A.1.pull"].begins, rows["A.1.pull"].ends) == (at("2 12:45"), at("2 14:45"))
    rows = planned([job("fasten", 16)], weather=[day(2, thunder_from=time(9, 0), thunder_until=time(10, 0)), day(3)])
    stood_off = rows["A.1.fasten"].spells
    assert (stood_off[0].ends, stood_off[1].begins) == (9 * 60, 10 * 60 + 30), "half an hour after the last of it"
    assert planned([job("drill", 2)], weather=storm)["A.1.drill"].begins == at("2 7:30")


def test_what_is_said_of_a_storm():
    said = storm_words(day(2, thunder_from=time(15, 0), thunder_until=time(17, 0)))
    assert said.startswith(
        "Thunder likely from 15:00: start no pull that ends later, and keep off the wire until 17:30"
    )
    assert storm_words(day(2)) == ""


def test_frost_is_for_concrete_alone():
    cold = [day(2, night_c=-3.0, noon_c=2.0), day(3)]
    assert planned([job("set", 2)], weather=cold)["A.1.set"].begins == at("2 7:30")
    assert planned([job("set", 2, poured=True)], weather=cold)["A.1.set"].begins == at("3 7:30")


def test_bits_by_hand():
    rows = bits_of(
        [
            day(2, rain_mm=15.0),
            day(3),
            day(4, rain_mm=8.0),
            day(5, wind_ms=14.1),
            day(6, night_c=-0.1),
            day(7, noon_c=38.5),
            day(8),
        ]
    )
    names = [{k for k, s in stops().items() if rows[date(2026, 3, n)] & s.bit} for n in range(2, 9)]
    assert names == [{"downpour", "mud"}, {"mud"}, {"mud"}, {"wind"}, {"frost_concrete"}, {"heat"}, set()]


@pytest.mark.parametrize(
    ("given_day", "words"),
    [
        ({"night_c": 9, "noon_c": 4}, "colder than the noon"),
        ({"thunder_from": time(15)}, "a beginning and an end"),
        ({"thunder_from": time(15), "thunder_until": time(14)}, "ends after it begins"),
    ],
)
def test_weather_that_can_not_be(given_day, words):
    with pytest.raises(ValueError, match=words):
        day(2, **given_day)


# --- several jobs ---------------------------------------------------------------------------------------------------------------
def test_what_one_job_has_another_can_not():
    first = planned([job("drill", 4)])
    other = planned([job("drill", 4)], busy=busy_of(list(first.values())))
    assert first["A.1.drill"].ends == at("2 9:30")
    assert other["A.1.drill"].begins >= at("2 9:30"), "both people and the auger are at the first"
    assert not clashes({"a": list(first.values()), "b": list(other.values())}, crew())
    alone = planned([job("drill", 4)])
    found = clashes({"a": list(first.values()), "b": list(alone.values())}, crew())
    assert {who for _, who, _ in found} == {"ann", "ben", "auger"}
    assert all(d == MONDAY and jobs == ("a", "b") for d, _, jobs in found)


def test_who_is_busy_for_an_hour_is_free_after_it():
    busy = [Busy("ann", at("2 7:30"), at("2 9:00"))]
    rows = planned([job("gates", 4, least=2, unit="gate"), job("fasten", 1.5, side=1)], busy=busy)
    assert rows["A.1.gates"].begins == at("2 9:00")
    assert rows["A.2.fasten"].spells[0].people == ("ben",)


# --- who ------------------------------------------------------------------------------------------------------------------------
def test_who_begins_a_task_goes_on_with_it():
    tasks = [job("fasten", 5), job("sew", 3, side=1), job("battens", 4, side=2)]
    rows = planned(tasks, crew(person("Ann"), person("Ben"), person("Cy")))
    for row in rows.values():
        assert len({s.people for s in row.spells if len(s.people) == row.hands}) == 1


# --- a checker that knows nothing of how it is made -----------------------------------------------------------------------------
KINDS = (
    "marks",
    "end_holes",
    "end_posts",
    "drill",
    "set",
    "unroll",
    "splice",
    "pull",
    "tie_off",
    "fasten",
    "gates",
    "inspect",
)


@st.composite
def plans(draw):
    names = ("Ann", "Ben", "Cy", "Dee")
    skilled = st.lists(st.sampled_from(["machines", "wire"]), unique=True)
    week = st.sampled_from([range(5), range(6), [5], [0, 2, 4], range(7)])
    hours = st.sampled_from([("7:30", "16:30"), ("8:00", "12:00"), ("9:15", "15:45")])
    people = [person("Eve", range(6)), person("Fay", range(5))]
    for name in names[: draw(st.integers(0, 3))]:
        low, high = draw(hours)
        people.append(person(name, draw(week), draw(skilled), low, high))
    some = crew(
        *people,
        plant=(Plant(kind="auger", count=draw(st.integers(1, 2)), hired=draw(st.booleans())), "pullers", "loader"),
    )
    tasks = []
    for k in range(draw(st.integers(1, 8))):
        kind = draw(st.sampled_from(KINDS))
        before = draw(st.lists(st.integers(0, k - 1), unique=True, max_size=2)) if k else []
        links = [(tasks[b].key, draw(st.sampled_from([0, 0, 1, 3]))) for b in before]
        unit = "run" if kind == "pull" else "post"
        least = draw(st.integers(1, 2)) if kind != "inspect" else 1
        tasks.append(
            job(
                kind,
                draw(st.sampled_from([0.5, 2, 5, 11])),
                links,
                key=f"A.{k + 1}.{kind}",
                side=k,
                least=least,
                unit=unit,
                loads=kind == "pull",
            )
        )
    rain = st.sampled_from([0.0, 0.0, 9.0, 20.0])
    weather = [
        day(2 + n, rain_mm=draw(rain), wind_ms=draw(st.sampled_from([5.0, 16.0])))
        for n in range(draw(st.integers(0, 5)))
    ]
    if weather and draw(st.booleans()):
        weather[0] = day(2, thunder_from=time(11, 0), thunder_until=time(13, 0))
    marks = draw(st.sampled_from([{}, {"A": date(2026, 3, 4)}]))
    return tasks, some, Given(MONDAY, marks=marks, weather=weather)


@given(plans())
def test_every_plan_of_days_holds(made):
    tasks, some, given_now = made
    laid = lay(tasks, some, given_now)
    rows = {p.key: p for p in placed(laid, quick(laid.problem, 0.1, laid.worth, tries=20))}
    assert set(rows) == {t.key for t in tasks}
    check_plan(rows, tasks, some, given_now)
    for task in tasks:
        row = rows[task.key]
        worked = sum(s.ends - s.begins for s in row.spells)
        needed = task.minutes[1] / row.hands
        assert abs(worked - needed) <= 15 * (1 + len(row.spells)), "as long as it takes, to the quarter"


@given(plans())
def test_what_is_proven_of_a_plan_is_no_more_than_so(made):
    """The bound is of fair weather: no search finds less, and proven means that it was reached."""
    tasks, some, given_now = made
    laid = lay(tasks, some, given_now)
    solved = solve(laid.problem, 0.5, 2.0, quick(laid.problem, 0.1, tries=20), laid.worth)
    assert solved.bound <= solved.fair
    assert solved.proven == (solved.bound == solved.fair)
    rows = {p.key: p for p in placed(laid, solved.schedule)}
    check_plan(rows, tasks, some, given_now)


def test_hired_plant_is_used_on_fewer_days_where_that_costs_nothing():
    """Drilling could be on Monday or Thursday beside a week of fastening: of two ends alike, fewer days with the hired auger."""
    tasks = [job("fasten", 33), *(job("drill", 1, key=f"A.{n + 2}.drill", side=n + 1) for n in range(3))]
    some = crew(person("Ann"), plant=(Plant(kind="auger", hired=True),))
    laid = lay(tasks, some, Given(MONDAY))
    made = quick(laid.problem, 1.0, laid.worth, tries=800)
    out = np.array([made.starts, made.ends, made.modes], np.int64).T
    assert laid.worth(out)[0] == 1


def test_every_kind_of_work_is_whole():
    for key, kind in kinds().items():
        assert kind.hands >= max(1, kind.crew), key
        assert 0 < kind.share <= 1 and kind.least <= 1 <= kind.most
        assert all(p in plant_kinds() for p in kind.plant)
    assert len({s.bit for s in stops().values()}) == len(stops())
