"""Words for a moment: 'yesterday 19:30', 'mon 8:00', '5:15 pm', '2026-11-20', '20 nov', '2h ago', '@20:50'."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import UTC, date, datetime, timedelta

from jarbloom.errors import Refused
from jarbloom.patterns import regex

SLACK = timedelta(minutes=5)  # a phone's clock may run a little ahead
NEAR_LAST_YEAR = timedelta(days=60)  # a day and month of last year is meant only when it was so lately
_DAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
_MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
_LONG_MONTHS = (
    "january", "february", "march", "april", "may", "june", "july", "august", "september", "october", "november",
    "december",
)  # fmt: skip
_LONG_DAYS = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
_NEAR = {"now": 0, "today": 0, "yesterday": -1, "tomorrow": 1}  # tomorrow is known so that it can be refused
_CLOCK = regex(r"^@?(\d{1,2}):(\d{2})(am|pm)?$")
_ISO = regex(r"^(\d{4})-(\d{2})-(\d{2})(?:t(\d{1,2}):(\d{2}))?$")
_AGO = regex(r"^(\d{1,4})\s*(h|hours?|d|days?|min|minutes?)$")
_NUMBER = regex(r"^[<>]?[\d.,]+")


@dataclass(frozen=True)
class Moment:
    at: datetime
    used: int  # tokens taken


def _clock(tokens: list[str], k: int) -> tuple[int, int, int] | None:
    """(hour, minute, tokens taken). 'am' behind a time is ammonia when a number follows it."""
    found = _CLOCK.match(tokens[k].lower()) if k < len(tokens) else None
    if not found:
        return None
    hour, minute, half, used = int(found[1]), int(found[2]), found[3] or "", 1
    behind = tokens[k + 1].lower() if k + 1 < len(tokens) else ""
    reading = k + 2 < len(tokens) and bool(_NUMBER.match(tokens[k + 2]))
    if not half and (behind == "pm" or (behind == "am" and not reading)):
        half, used = behind, 2
    if half and not 1 <= hour <= 12:
        raise Refused(f"{hour}:{minute:02} {half} is no time of day.", "at")
    if half:
        hour = hour % 12 + (12 if half == "pm" else 0)
    if hour > 23 or minute > 59:
        raise Refused(f"{tokens[k].lstrip('@')} is no time of day.", "at")
    return hour, minute, used


def _on(day: date, tokens: list[str], used: int, now: datetime, default: tuple[int, int]) -> Moment:
    clock = _clock(tokens, used)
    hour, minute = clock[:2] if clock else default
    at = datetime(day.year, day.month, day.day, hour, minute, tzinfo=now.tzinfo)
    return Moment(at, used + (clock[2] if clock else 0))


def _real_date(year: int, month: int, day: int) -> date:
    try:
        return date(year, month, day)
    except ValueError:
        raise Refused(f"{year}-{month:02}-{day:02} is no date.", "at") from None


def moment(tokens: list[str], now: datetime) -> Moment | None:
    """The moment that the first tokens name, or None. Raises Refused for an impossible date or time."""
    if not tokens:
        return None
    first = tokens[0].lower().rstrip(":")
    same_clock = (now.hour, now.minute)
    if _clock(tokens, 0):
        return _on(now.date(), tokens, 0, now, same_clock)
    if first in _NEAR:
        return _on(now.date() + timedelta(days=_NEAR[first]), tokens, 1, now, same_clock)
    if first in _DAYS or first in _LONG_DAYS:
        back = (now.weekday() - _DAYS.index(first[:3])) % 7
        return _on(now.date() - timedelta(days=back), tokens, 1, now, (12, 0))
    iso = _ISO.match(first)
    if iso:
        day = _real_date(int(iso[1]), int(iso[2]), int(iso[3]))
        default = (int(iso[4]), int(iso[5])) if iso[4] else (12, 0)
        if default[0] > 23 or default[1] > 59:
            raise Refused(f"{iso[4]}:{iso[5]} is no time of day.", "at")
        return _on(day, tokens, 1, now, default)
    return _ago(tokens, now) or _day_month(tokens, now)


def _ago(tokens: list[str], now: datetime) -> Moment | None:
    for taken in (1, 2):
        found = _AGO.match(" ".join(tokens[:taken]).lower())
        if found and len(tokens) > taken and tokens[taken].lower() == "ago":
            unit = {"h": "hours", "d": "days", "m": "minutes"}[found[2][0]]
            ago = timedelta(**{unit: int(found[1])})
            if unit in ("hours", "minutes"):  # hours that really passed, also across a change of the clocks
                return Moment((now.astimezone(UTC) - ago).astimezone(now.tzinfo), taken + 1)
            return Moment(now - ago, taken + 1)
    return None


def _day_month(tokens: list[str], now: datetime) -> Moment | None:
    """'20 nov', '20 nov 2025'. Without a year it is the last such day, if that was not long ago."""
    if len(tokens) < 2 or not re.fullmatch(r"\d{1,2}", tokens[0]):
        return None
    word = tokens[1].lower().rstrip(":")
    if word not in _MONTHS and word not in _LONG_MONTHS:
        return None
    number, month = int(tokens[0]), _MONTHS.index(word[:3]) + 1
    if len(tokens) > 2 and re.fullmatch(r"(19|20)\d\d", tokens[2]):
        return _on(_real_date(int(tokens[2]), month, number), tokens, 3, now, (12, 0))
    day = _real_date(now.year, month, number)
    if day > now.date():
        before = _real_date(now.year - 1, month, number)
        if now.date() - before > NEAR_LAST_YEAR:
            raise Refused(
                f"{day:%-d %b} has not come yet. If you mean last year, write {before:%-d %b %Y}.".replace("  ", " "),
                "at",
            )
        day = before
    return _on(day, tokens, 2, now, (12, 0))


def check_not_future(at: datetime, now: datetime) -> None:
    if at > now + SLACK:
        raise Refused(f"{at:%-d %b %Y %H:%M} has not come yet. The log takes what has happened.", "at")
