"""Jobs and planned batches as iCalendar (RFC 5545), by the `icalendar` package."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from icalendar import Calendar, Event

PRODUCT = "-//Jar Bloom//Jobs//EN"
LENGTH = timedelta(minutes=15)


@dataclass(frozen=True)
class Appointment:
    """Something in the calendar. `uid` stays the same while the job stays, so that it moves and is not doubled.

    `timed`: at that minute; else on that day.
    """

    uid: str
    title: str
    words: str
    at: datetime
    timed: bool
    tank: str


def calendar(appointments: Iterable[Appointment], made_at: datetime, name: str = "Jar Bloom") -> bytes:
    """One VCALENDAR. Moments are written in UTC, so that a change of the clocks moves nothing."""
    book = Calendar()
    book.add("prodid", PRODUCT)
    book.add("version", "2.0")
    book.add("method", "PUBLISH")
    book.add("x-wr-calname", name)
    for one in appointments:
        event = Event()
        event.add("uid", one.uid)
        event.add("dtstamp", made_at.astimezone(UTC))
        event.add("summary", f"{one.tank}: {one.title}")
        event.add("description", one.words)
        event.add("categories", [one.tank])
        if one.timed:
            event.add("dtstart", one.at.astimezone(UTC))
            event.add("dtend", one.at.astimezone(UTC) + LENGTH)
        else:
            event.add("dtstart", one.at.date())
            event.add("dtend", one.at.date() + timedelta(days=1))
        event.add("transp", "TRANSPARENT")
        book.add_component(event)
    return book.to_ical()
