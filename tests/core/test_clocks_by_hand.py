"""Times and places by hand: work in daylight, ticks in the order they were made, white marks, where a long side is ended."""

from datetime import date, datetime, time

import pytest
from crews import crew, person
from ground import line
from places import plan

from gnomonic.core.days.clock import quarters
from gnomonic.core.days.progress import Tick, done, found_rates
from gnomonic.core.ground.marking import white_lining
from gnomonic.core.setout.runs import split_runs


def worked(day, **place):
    """The quarters of a day somebody works who would from 6:00 to 22:00, without a break."""
    at, _ = quarters(crew(person("Ann", range(7), begins="6:00", ends="22:00"), rest_min=0, **place), day)
    return [time(m // 60, m % 60) for m in (int(at[0]), int(at[-1]))], len(at)


@pytest.mark.parametrize(("day", "first", "last"), [
    # 50° N on the meridian of Greenwich: the sun rises at 7:58 and sets at 15:53 at midwinter, 3:50 and 20:13 at midsummer (an almanac's
    # times, from memory to the minute or two): the first quarter begins after the one, the last ends before the other
    (date(2026, 12, 21), time(8, 0), time(15, 30)),
    (date(2026, 6, 21), time(6, 0), time(19, 45)),
])  # fmt: skip
def test_nobody_works_before_sunrise_or_past_sunset(day, first, last):
    (low, high), count = worked(day, lat_deg=50.0, lon_deg=0.0)
    assert (low, high) == (first, last)
    assert count == (last.hour - first.hour) * 4 + (last.minute - first.minute) // 15 + 1
    assert worked(day) == ([time(6, 0), time(21, 45)], 64)  # where the place is not known they come as they said


def test_the_midday_break_is_left_out_whole():
    at, _ = quarters(
        crew(person("Ann", begins="11:00", ends="14:00"), rest_from=time(12, 10), rest_min=40), date(2026, 3, 2)
    )
    assert [f"{m // 60}:{m % 60:02d}" for m in map(int, at)] == [
        "11:00", "11:15", "11:30", "11:45", "13:00", "13:15", "13:30", "13:45",
    ]  # fmt: skip


def tick(key, at, share, hours=None, task="A.1.drive"):
    return Tick(
        id=key, task=task, kind="drive", share=share, hours=hours, quantity=10, minutes=240, at=datetime(2026, 6, 1, at)
    )


def test_of_two_ticks_the_later_made_stands_in_whatever_order_they_come():
    """Half done by ten, all by nine o'clock's card that came late: half is done.  At one time the later id stands."""
    late, early = tick("b", 10, 0.5), tick("a", 9, 1.0)
    for rows in ([late, early], [early, late]):
        assert done(rows).share == {"A.1.drive": 0.5} and done(rows).at["A.1.drive"].hour == 10
    assert done([tick("d", 9, 0.2), tick("c", 9, 0.8)]).share == {"A.1.drive": 0.2}


def test_a_rate_is_of_what_was_done_since_the_tick_before():
    """4 h usual.  The first half in 2 h: as usual; the other half in 3 h: 1.5; a quarter taken back and done again in 2 h: 2.  Median 1.5."""
    rows = [tick("a", 9, 0.5, 2), tick("b", 12, 1.0, 3), tick("c", 13, 0.75), tick("d", 15, 1.0, 2)]
    for order in (rows, rows[::-1]):
        assert found_rates([order]) == {"drive": (1.5, 3)}
    assert found_rates([rows[:2], [tick("e", 9, 0.5, 1)]]) == {"drive": (1.0, 3)}  # of 1, 1.5 and another job's 0.5


def test_white_marks_stand_at_ends_and_corners_and_no_farther_apart_than_50_ft():
    """100 ft and 50 ft sides: one mark between on the first (at 50 ft: two gaps of 50, and one more than needed is no harm), on 101 ft two."""
    made = plan(line((0, 0, 5), (30.0, 0, 5), (30.0, 15.0, 5)))
    marks = white_lining(made.course, [30.0])
    assert [(round(m.station_m, 3), m.why) for m in marks] == [
        (0.0, "start"),
        (15.0, "between"),
        (30.0, "corner"),
        (45.0, "end"),
    ]
    assert (marks[1].east_m, marks[1].north_m) == (15.0, 0.0) and (marks[3].east_m, marks[3].north_m) == (30.0, 15.0)
    longer = plan(line((0, 0, 5), (30.6, 0, 5)))
    assert [round(m.station_m, 2) for m in white_lining(longer.course, [])] == [0.0, 10.2, 20.4, 30.6]
    ring = plan(line((0, 0, 5), (15.0, 0, 5), (15.0, 15.0, 5), (0, 15.0, 5), closed=True))
    assert [(m.station_m, m.why) for m in white_lining(ring.course, [15.0, 30.0, 45.0])] == [
        (0.0, "start"), (15.0, "corner"), (30.0, "corner"), (45.0, "corner"),
    ]  # fmt: skip


@pytest.mark.parametrize(("barred", "at"), [
    ((), [50.0]),
    (((45.0, 58.0),), [45.0]),  # 5 m back, 8 m on
    (((42.0, 53.0),), [53.0]),
    (((44.0, 56.0),), [44.0]),  # as far either way: back
    (((50.0, 60.0),), [50.0]),  # on its edge it may stand
    (((0.0, 99.9),), []),  # beside what is barred is the line's own end: no post there
])  # fmt: skip
def test_a_long_side_is_ended_beside_what_is_barred(barred, at):
    """100 m, no run longer than 60: one pull post, in the middle where it may stand there."""
    course = plan(line((0, 0, 5), (100, 0, 5))).course
    runs, _ = split_runs(course, [], 20.0, 60.0, barred)
    assert [r.end.station_m for r in runs[:-1]] == at and all(r.end.role == "pull" for r in runs[:-1])
