"""When a keeper is at home and awake: nobody changes water in the night, unless somebody stands there with a test."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import datetime, time, timedelta

from jarbloom.errors import Refused

_WINDOW = re.compile(r"(\d{1,2})(?:[:.](\d{2}))?\s*(?:-|–|to|until)\s*(\d{1,2})(?:[:.](\d{2}))?")
MANY = 6


@dataclass(frozen=True)
class Hours:
    """Windows of a day, by the clock, in order; each begins before it ends."""

    windows: tuple[tuple[time, time], ...] = ((time(7, 30), time(22, 0)),)

    def next(self, at: datetime) -> datetime:
        """`at` itself inside a window, else the beginning of the next one."""
        for day in (at, at + timedelta(days=1)):
            for begins, ends in self.windows:
                opens = day.replace(hour=begins.hour, minute=begins.minute, second=0, microsecond=0)
                closes = day.replace(hour=ends.hour, minute=ends.minute, second=0, microsecond=0)
                if at <= closes:
                    return max(at, opens)
        raise ValueError("no window")  # never: a day has at least one

    def covers(self, at: datetime) -> bool:
        """Whether the keeper is at home then."""
        return self.next(at) == at

    def __str__(self) -> str:
        return ", ".join(f"{a:%H:%M}-{b:%H:%M}" for a, b in self.windows)


def hours_from(text: str, name: str = "home_hours") -> Hours:
    """'06:30-08:00, 17-22' as typed; nothing typed is the ordinary day. Raises Refused."""
    if not text.strip():
        return Hours()
    found = []
    for part in re.split(r"\s*[,;]\s*|\s+and\s+", text.strip()):
        m = _WINDOW.fullmatch(part)
        if m is None:
            raise Refused(f"{part}: write hours from and to, like 06:30-08:00, 17:00-22:30.", name)
        try:
            window = (time(int(m[1]), int(m[2] or 0)), time(int(m[3]), int(m[4] or 0)))
        except ValueError:
            raise Refused(f"{part}: a day has the hours 0:00 to 23:59.", name) from None
        if window[0] >= window[1]:
            raise Refused(f"{part}: it ends before it begins. Hours over midnight are two parts.", name)
        found.append(window)
    found.sort()
    if len(found) > MANY or any(a[1] >= b[0] for a, b in zip(found, found[1:], strict=False)):
        raise Refused("The hours overlap, or there are too many of them: up to six parts, one after the other.", name)
    return Hours(tuple(found))
