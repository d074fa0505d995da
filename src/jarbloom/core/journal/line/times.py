"""Words for a moment: 'yesterday 19:30', 'mon 8:00', '2026-11-20', '20 nov', '2h ago', '@20:50'."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from jarbloom.errors import Refused

SLACK = timedelta(minutes=5)  # a phone's clock may run a little ahead
_DAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
_MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
_NEAR = {"now": 0, "today": 0, "yesterday": -1, "tomorrow": 1}  # tomorrow is known so that it can be refused
_CLOCK = re.compile(r"^@?(\d{1,2}):(\d{2})$")
_ISO = re.compile(r"^(\d{4})-(\d{2})-(\d{2})(?:T(\d{1,2}):(\d{2}))?$")
_AGO = re.compile(r"^(\d{1,4})\s*(h|hours?|d|days?|min|minutes?)$")


@dataclass(frozen=True)
class Moment:
    at: datetime
    used: int  # tokens taken


def _clock(token: str) -> tuple[int, int] | None:
    found = _CLOCK.match(token)
    if not found:
        return None
    hour, minute = int(found[1]), int(found[2])
    if hour > 23 or minute > 59:
        raise Refused(f"{token.lstrip('@')} is no time of day.", "at")
    return hour, minute


def _on(day: date, tokens: list[str], used: int, now: datetime, default: tuple[int, int]) -> Moment:
    clock = _clock(tokens[used]) if used < len(tokens) else None
    hour, minute = clock or default
    at = datetime(day.year, day.month, day.day, hour, minute, tzinfo=now.tzinfo)
    return Moment(at, used + (clock is not None))


def _real_date(year: int, month: int, day: int) -> date:
    try:
        return date(year, month, day)
    except ValueError:
        raise Refused(f"{year}-{month:02}-{day:02} is no date.", "at") from None


def moment(tokens: list[str], now: datetime) -> Moment | None:
    """The moment that the first tokens name, or None. Raises Refused for an impossible date or time."""
    if not tokens:
        return None
    first = tokens[0].lower()
    same_clock = (now.hour, now.minute)
    if _clock(first):
        return _on(now.date(), tokens, 0, now, same_clock)
    if first in _NEAR:
        return _on(now.date() + timedelta(days=_NEAR[first]), tokens, 1, now, same_clock)
    if first[:3] in _DAYS and first in (
        first[:3],
        *(f"{d}day" for d in ("mon", "tues", "wednes", "thurs", "fri", "satur", "sun")),
    ):
        back = (now.weekday() - _DAYS.index(first[:3])) % 7
        return _on(now.date() - timedelta(days=back), tokens, 1, now, (12, 0))
    iso = _ISO.match(tokens[0])
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
            return Moment(now - timedelta(**{unit: int(found[1])}), taken + 1)
    return None


def _day_month(tokens: list[str], now: datetime) -> Moment | None:
    if len(tokens) < 2 or not tokens[0].isdigit() or tokens[1].lower()[:3] not in _MONTHS:
        return None
    if not 1 <= int(tokens[0]) <= 31:
        return None
    month = _MONTHS.index(tokens[1].lower()[:3]) + 1
    day = _real_date(now.year, month, int(tokens[0]))
    if day > now.date():
        day = _real_date(now.year - 1, month, int(tokens[0]))
    return _on(day, tokens, 2, now, (12, 0))


def check_not_future(at: datetime, now: datetime) -> None:
    if at > now + SLACK:
        raise Refused(f"{at:%-d %b %Y %H:%M} has not come yet. The log takes what has happened.", "at")
