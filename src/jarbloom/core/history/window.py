"""The stretch of days that is looked at, and the older one that is laid over it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import date, datetime, time, timedelta

YEAR = 365  # days
SPANS = {"week": 7, "month": 30, "quarter": 91, "nine": 274, "year": YEAR}
MONTH_DAYS = 365.25 / 12
CLOSEST = 1


def day_begins(day: date, like: datetime) -> datetime:
    """Midnight of a day in the zone of a moment."""
    return datetime.combine(day, time(0), tzinfo=like.tzinfo)


def firsts_of_months(first: date, last: date) -> Iterator[date]:
    """The first days of the months from that of `first` to the one after `last`."""
    day = first.replace(day=1)
    while day <= last:
        yield day
        day = (day + timedelta(days=32)).replace(day=1)
    yield day


@dataclass(frozen=True)
class Window:
    """From the morning of `first` to the night of `last`, within the record from `begin` to `today`."""

    first: date
    last: date
    begin: date
    today: date

    @property
    def days(self) -> int:
        return (self.last - self.first).days + 1

    @property
    def whole(self) -> bool:
        return self.first <= self.begin and self.last >= self.today

    def of(self, first: date, last: date) -> Window:
        """Another stretch of the same record, brought into it; ends typed the wrong way round are turned."""
        first, last = min(first, last), max(first, last)
        last = min(max(last, self.begin), self.today)
        return Window(max(min(first, last), self.begin), last, self.begin, self.today)

    def all(self) -> Window:
        return self.of(self.begin, self.today)

    def latest(self, days: int) -> Window:
        return self.of(self.today - timedelta(days=days - 1), self.today)

    def earlier(self) -> Window | None:
        return self._moved(-max(self.days // 2, 1)) if self.first > self.begin else None

    def later(self) -> Window | None:
        return self._moved(max(self.days // 2, 1)) if self.last < self.today else None

    def closer(self) -> Window | None:
        """Half of it about its middle; at the record's end the newest half."""
        if self.days <= CLOSEST:
            return None
        keep = max(self.days // 2, CLOSEST)
        last = self.last if self.last >= self.today else self.last - timedelta(days=(self.days - keep) // 2)
        return self.of(last - timedelta(days=keep - 1), last)

    def wider(self) -> Window | None:
        if self.whole:
            return None
        more = timedelta(days=max(self.days // 2, 1))
        wide = self.of(self.first - more, self.last + more)
        return wide if wide.days > self.days else self.all()

    def _moved(self, days: int) -> Window:
        room = max(days, (self.begin - self.first).days) if days < 0 else min(days, (self.today - self.last).days)
        by = timedelta(days=room)
        return self.of(self.first + by, self.last + by)
