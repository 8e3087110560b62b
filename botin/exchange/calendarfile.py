"""A calendar file (iCalendar, RFC 5545) of days that must not be forgotten, to take along."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from icalendar import Alarm, Calendar, Event

MIME = "text/calendar"


@dataclass(frozen=True, slots=True)
class Entry:
    """A day: what tells it apart from others, when, what for, and how long before one is reminded."""

    key: str
    day: date
    words: str
    remind: timedelta = timedelta(days=1)


def calendar_file(entries: Iterable[Entry], made_at: datetime, domain: str = "botin.invalid") -> bytes:
    """Return the file; the same entry has the same identity again, so that taking it in twice keeps one.

    Parameters
    ----------
    made_at : datetime
        When the file is made (aware).
    domain : str
        What stands behind the identities; of the names that RFC 2606 leaves to nobody.
    """
    calendar = Calendar()
    calendar.add("prodid", "-//Botin//Days//EN")
    calendar.add("version", "2.0")
    for entry in entries:
        event = Event()
        event.add("uid", f"{entry.key}@{domain}")
        event.add("dtstamp", made_at)
        event.add("dtstart", entry.day)
        event.add("dtend", entry.day + timedelta(days=1))
        event.add("summary", entry.words)
        alarm = Alarm()
        alarm.add("action", "DISPLAY")
        alarm.add("description", entry.words)
        alarm.add("trigger", -entry.remind)
        event.add_component(alarm)
        calendar.add_component(event)
    return bytes(calendar.to_ical())
