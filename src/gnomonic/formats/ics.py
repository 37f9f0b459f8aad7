"""Days for a calendar (iCalendar, RFC 5545): hours by the clock on the wall, written in UTC, which every calendar reads alike."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from zoneinfo import ZoneInfo


@dataclass(frozen=True, slots=True)
class Event:
    """One thing on one day: from and until minutes of the local day."""

    id: str
    day: date
    begins: int
    ends: int
    title: str
    who: str
    note: str


def calendar_ics(name: str, events: Sequence[Event], zone: str) -> bytes:
    """A calendar of them."""
    from icalendar import Calendar
    from icalendar import Event as Entry

    made, at = Calendar(), ZoneInfo(zone)
    made.add("prodid", "-//Gnomonic//days//EN")
    made.add("version", "2.0")
    made.add("x-wr-calname", name)
    for e in events:
        entry = Entry()
        entry.add("uid", f"{e.id}@gnomonic")
        entry.add("dtstamp", datetime.now(UTC))
        for key, minutes in (("dtstart", e.begins), ("dtend", e.ends)):
            local = datetime.combine(e.day, time(), at) + timedelta(minutes=minutes)  # by the clock on the wall
            entry.add(key, local.astimezone(UTC))
        entry.add("summary", e.title)
        if e.who:
            entry.add("location", e.who)
        if e.note:
            entry.add("description", e.note)
        made.add_component(entry)
    text: bytes = made.to_ical()
    return text
