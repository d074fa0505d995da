"""Jobs and planned batches as iCalendar (RFC 5545), by the `icalendar` package."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

PRODUCT = "-//Jar Bloom//Jobs//EN"
LENGTH, REFRESH = timedelta(minutes=15), timedelta(hours=1)


@dataclass(frozen=True)
class Appointment:
    """Something in the calendar. `uid` stays the same while the job stays, so that it moves and is not doubled.

    `timed`: at that minute, with an alarm; else on that day. `path`: of the page that it is about.
    """

    uid: str
    title: str
    words: str
    at: datetime
    timed: bool
    tank: str
    path: str = ""


def calendar(
    appointments: Iterable[Appointment], made_at: datetime, house: str, base: str = "", name: str = "Jar Bloom"
) -> bytes:
    """One VCALENDAR. Moments are written in UTC, so that a change of the clocks moves nothing. `house`: what makes an
    identity unique among houses; `base`: the address that pages lie under."""
    from icalendar import Alarm, Calendar, Event  # a quarter of the start, for who asks for a calendar

    book = Calendar()
    book.add("prodid", PRODUCT)
    book.add("version", "2.0")
    book.add("method", "PUBLISH")
    book.add("x-wr-calname", name)
    book.add("refresh-interval", REFRESH, parameters={"value": "DURATION"})
    book.add("x-published-ttl", REFRESH)
    for one in appointments:
        event = Event()
        event.add("uid", f"{one.uid}@{house}.jarbloom.invalid")
        event.add("sequence", int(made_at.timestamp()) // 60)  # a later word on the same thing stands
        event.add("dtstamp", made_at.astimezone(UTC))
        event.add("summary", f"{one.tank}: {one.title}")
        event.add("description", one.words)
        event.add("categories", [one.tank])
        if base and one.path:
            event.add("url", base + one.path)
        if one.timed:
            event.add("dtstart", one.at.astimezone(UTC))
            event.add("dtend", one.at.astimezone(UTC) + LENGTH)
            alarm = Alarm()
            alarm.add("action", "DISPLAY")
            alarm.add("description", one.title)
            alarm.add("trigger", timedelta(0))
            event.add_component(alarm)
        else:
            event.add("dtstart", one.at.date())
            event.add("dtend", one.at.date() + timedelta(days=1))
        event.add("transp", "TRANSPARENT")
        book.add_component(event)
    return book.to_ical()
