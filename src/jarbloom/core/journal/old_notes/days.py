"""Days and times as people write them in tables, and the order of day and month, which may be open."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import date, time, timedelta

from jarbloom.patterns import regex

ORDERS = {"dmy": "day, month, year", "mdy": "month, day, year", "ymd": "year, month, day"}
SERIAL_FROM = date(1899, 12, 30)  # day 0 of a spreadsheet's numbers of days
_SERIAL = range(20_000, 80_000)  # 1954 to 2118
_MONTHS = {m: k for k, names in enumerate((
    "jan januar january enero", "feb februar february febrero", "mar mär märz march marzo", "apr april abril",
    "may mai mayo", "jun juni june junio", "jul juli july julio", "aug august agosto", "sep sept september septiembre",
    "oct okt oktober october octubre", "nov november noviembre", "dec dez dezember december diciembre",
), 1) for m in names.split()}  # fmt: skip
_NUMBERS = regex(r"^\D{0,12}?(\d{1,4})\s*[./\-\s]\s*(\d{1,2})\s*[./\-\s]\s*(\d{1,4})\b")
_DAY_NAMED = regex(r"(\d{1,2})(?:st|nd|rd|th|\.)?\s*[\-\s]\s*([a-zäû]{3,10})\.?\s*,?[\-\s]*(\d{2,4})?", re.I)
_NAMED_DAY = regex(r"([a-zäû]{3,10})\.?\s+(\d{1,2})(?:st|nd|rd|th)?,?\s+(\d{4})", re.I)
_TIME = regex(r"(?<!\d)(\d{1,2})[:.h](\d{2})(?::\d{2})?\s*([ap]\.?m\.?)?", re.I)


def read_day(text: str, order: str) -> date | None:
    """A day by one order of its numbers; None where it is none. Two figures of a year are of this century."""
    told = text.strip().lower()
    if re.fullmatch(r"\d{5}(?:\.\d+)?", told) and int(float(told)) in _SERIAL:
        return SERIAL_FROM + timedelta(days=int(float(told)))
    if found := _NUMBERS.match(told):
        a, b, c = found.groups()
        if len(a) == 4:
            return _day(a, b, c)
        if len(c) not in (2, 4):
            return None
        day, month = (b, a) if order == "mdy" else (a, b)
        if order == "ymd":
            return _day(a, b, c) if len(a) == 2 and len(c) == 2 else None
        return _day(c, month, day)
    if found := _NAMED_DAY.search(told):
        return _day(found[3], str(_MONTHS.get(found[1], 0)), found[2])
    if (found := _DAY_NAMED.search(told)) and found[3]:
        return _day(found[3], str(_MONTHS.get(found[2], 0)), found[1])
    return None


def _day(year: str, month: str, day: str) -> date | None:
    y = int(year)
    try:
        return date(y + 2000 if len(year) == 2 else y, int(month), int(day))
    except ValueError:
        return None


def read_time(text: str) -> time | None:
    found = _TIME.search(text)
    if not found:
        return None
    hour, minute, half = int(found[1]), int(found[2]), (found[3] or "").lower()[:1]
    if half and not 1 <= hour <= 12:
        return None
    hour = hour % 12 + 12 * (half == "p") if half else hour
    return time(hour, minute) if hour < 24 and minute < 60 else None


def reads_as_day(text: str) -> bool:
    return any(read_day(text, order) for order in ORDERS)


def reads_as_time(text: str) -> bool:
    return read_time(text) is not None and not reads_as_day(text)


def orders_of(cells: Sequence[str], latest: date) -> tuple[str, ...]:
    """The orders in which every day of a column can be read, none of them after `latest`; the likeliest first: that in
    which they follow each other. More than one: only the keeper knows."""
    filled = [c for c in cells if c.strip()]
    fits: list[tuple[float, str]] = []
    seen: set[tuple[date | None, ...]] = set()
    for order in ORDERS:
        days = tuple(read_day(c, order) for c in filled)
        read = [d for d in days if d is not None]
        if not read or len(read) < 0.8 * len(filled) or sum(d > latest for d in read) > 0.02 * len(read):
            continue
        if days in seen:
            continue
        seen.add(days)
        back = sum(b < a for a, b in zip(read, read[1:], strict=False))
        disorder = min(back, len(read) - 1 - back) / max(len(read) - 1, 1)
        fits.append((disorder + 1 - len(read) / len(filled), order))
    return tuple(order for _, order in sorted(fits))
