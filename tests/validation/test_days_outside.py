"""Days against the world: the sun by another astronomy library, holidays by their own tables, calendars read back by another library.

Sources: PyEphem (XEphem's routines) for sunrise with the usual 34′ of refraction; the tables of the ``holidays`` library; RFC 5545 as ``vobject``
reads it; clocks change by the IANA time zone database.
"""

import math
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import ephem
import holidays
import pytest
import vobject
from crews import crew, person

from gnomonic.core.days.clock import clock_of, quarters, sun
from gnomonic.core.days.crew import Crew, holidays_of
from gnomonic.core.errors import BadInput
from gnomonic.formats.ics import Event, calendar_ics

PLACES = [
    ("a sea in the middle of the north", 47.0, -30.0, "Atlantic/Azores"),
    ("south", -38.5, 145.0, "Australia/Melbourne"),
    ("near the equator", 1.3, 103.8, "Asia/Singapore"),
    ("north", 60.4, 5.3, "Europe/Oslo"),
    ("west", 40.0, -105.0, "America/Denver"),
]


def by_ephem(lat, lon, zone, day):
    """Sunrise and sunset in minutes of the local day, from midnight by the local clock."""
    there = ephem.Observer()
    there.lat, there.lon, there.elevation = str(lat), str(lon), 0
    there.pressure, there.horizon = 0, "-0:34"  # refraction; the upper limb is what rises
    middle = datetime.combine(day, datetime.min.time(), ZoneInfo(zone))
    there.date = ephem.Date(middle.astimezone(UTC).replace(tzinfo=None))
    found = []
    for when in (there.next_rising(ephem.Sun()), there.next_setting(ephem.Sun())):
        local = when.datetime().replace(tzinfo=UTC).astimezone(ZoneInfo(zone))
        found.append((local.replace(tzinfo=None) - middle.replace(tzinfo=None)).total_seconds() / 60)
    return found


@pytest.mark.parametrize(("name", "lat", "lon", "zone"), PLACES, ids=[p[0] for p in PLACES])
@pytest.mark.parametrize("month", [1, 3, 6, 9, 12])
def test_the_sun_rises_when_another_library_says(name, lat, lon, zone, month):
    """Within two minutes: ours are whole minutes of daylight, refraction is a convention."""
    day = date(2026, month, 21)
    ours, theirs = sun(lat, lon, zone, day), by_ephem(lat, lon, zone, day)
    assert ours is not None
    assert ours[0] == pytest.approx(theirs[0], abs=2)
    assert ours[1] == pytest.approx(theirs[1], abs=2)


@pytest.mark.parametrize("day", [date(2026, 3, 28), date(2026, 3, 29), date(2026, 10, 24), date(2026, 10, 25)])
def test_the_sun_keeps_its_time_when_the_clocks_change(day):
    """The clocks of Lisbon go forward on 29 March 2026 and back on 25 October: by the clock the sun rises an hour later, or sooner."""
    ours, theirs = sun(38.7, -9.1, "Europe/Lisbon", day), by_ephem(38.7, -9.1, "Europe/Lisbon", day)
    assert ours is not None
    summer = date(2026, 3, 29) <= day < date(2026, 10, 25)
    offset = datetime.combine(day, datetime.min.time(), ZoneInfo("Europe/Lisbon")).replace(hour=12).utcoffset()
    assert offset == timedelta(hours=summer)
    assert ours[0] == pytest.approx(theirs[0], abs=2), "by the clock on the wall"
    assert ours[1] == pytest.approx(theirs[1], abs=2)


def test_sunrise_jumps_by_an_hour_on_the_clock():
    before, after = (sun(38.7, -9.1, "Europe/Lisbon", date(2026, 3, d)) for d in (28, 29))
    assert before and after
    assert after[0] - before[0] == pytest.approx(60 - 1.6, abs=1.5), "an hour by the clock, less what the day grows"
    before, after = (sun(38.7, -9.1, "Europe/Lisbon", date(2026, 10, d)) for d in (24, 25))
    assert before and after
    assert after[0] - before[0] == pytest.approx(-60 + 1.0, abs=1.5)


def test_a_day_is_as_long_as_the_sun_formula_says():
    """cos H = −tan φ · tan δ with the sun's 0.833° below the horizon: at 47° on the day of least declination, 23.44° south, by hand."""
    lat, dec, low = math.radians(47), math.radians(-23.44), math.radians(-0.833)
    hour_angle = math.degrees(
        math.acos((math.sin(low) - math.sin(lat) * math.sin(dec)) / (math.cos(lat) * math.cos(dec)))
    )
    ours = sun(47.0, 0.0, "UTC", date(2026, 12, 21))
    assert ours is not None
    assert ours[1] - ours[0] == pytest.approx(2 * hour_angle * 4, abs=2)


def test_the_day_on_which_clocks_change_is_as_long_as_others():
    """Nobody works at two in the morning: the working quarters of a Sunday on which clocks change are those of any Sunday."""
    every = crew(person("Ann", days=range(7)), zone="Europe/Lisbon")
    for day in (date(2026, 3, 29), date(2026, 10, 25)):
        assert quarters(every, day)[0].tolist() == quarters(every, day + timedelta(days=7))[0].tolist()
    clock = clock_of(every, date(2026, 3, 28))
    assert clock.begins(33) == datetime(2026, 3, 29, 7, 30)
    assert clock.after_days(1)[1] == 33


@pytest.mark.parametrize(
    ("country", "region"), [("PT", ""), ("US", "CO"), ("GB", "SCT"), ("AU", "VIC"), ("DE", "BY"), ("NZ", "")]
)
def test_holidays_are_those_of_their_own_tables(country, region):
    """Every day of three years: closed exactly where the library's own table has it, by its name."""
    some = Crew(country=country, region=region)
    for year in (2025, 2026, 2027):
        table = holidays.country_holidays(country, subdiv=region or None, years=year, language="en_US")
        days = [date(year, 1, 1) + timedelta(days=k) for k in range(365)]
        assert {d: some.holiday(d) for d in days if some.holiday(d)} == {
            d: n for d, n in table.items() if d.year == year
        }
        assert not some.there(date(year, 1, 1))


def test_a_country_or_a_region_that_is_none():
    with pytest.raises(BadInput) as refused:
        holidays_of("XX", "", 2026)
    assert refused.value.sentence == "no holidays of “XX” are on file: write the country's two letters, as PT or US"
    with pytest.raises(BadInput) as refused:
        holidays_of("DE", "ZZ", 2026)
    assert refused.value.field == "region"
    assert refused.value.sentence.startswith("DE has no region “ZZ”; there are: BB, ")


def test_a_calendar_is_read_back_by_another_library():
    """Two days on either side of the change of clocks: 7:30 by the clock is 7:30 UTC in winter and 6:30 in summer."""
    rows = [
        Event("a", date(2026, 3, 27), 450, 555, "pull: lane side, side 1", "Wren, Tamsin", "stand clear of the line"),
        Event("b", date(2026, 3, 30), 450, 990, "fasten; every post, of “lane”", "", ""),
    ]
    read = vobject.readOne(calendar_ics("Larkspur Holm", rows, "Europe/Lisbon").decode())
    events = list(read.vevent_list)
    assert [e.summary.value for e in events] == ["pull: lane side, side 1", "fasten; every post, of “lane”"]
    assert events[0].location.value == "Wren, Tamsin"
    assert events[0].description.value == "stand clear of the line"
    begins = [e.dtstart.value.astimezone(UTC) for e in events]
    assert begins == [datetime(2026, 3, 27, 7, 30, tzinfo=UTC), datetime(2026, 3, 30, 6, 30, tzinfo=UTC)]
    assert [e.dtend.value - e.dtstart.value for e in events] == [timedelta(minutes=105), timedelta(minutes=540)]
    assert len({e.uid.value for e in events}) == 2


def test_an_empty_calendar_is_one():
    read = vobject.readOne(calendar_ics("nothing", [], "UTC").decode())
    assert not hasattr(read, "vevent")
