"""The sheet of the record: its measures, its time axis and the scale of a strip."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta
from functools import lru_cache

import numpy as np

from jarbloom.core.history.record import Record
from jarbloom.core.history.window import MONTH_DAYS, day_begins, firsts_of_months
from jarbloom.units import figure
from jarbloom.views.drawn.axes import Tick, nice_step, r1

ROW_PX = 19  # from one bar or lane to the next


@dataclass(frozen=True)
class Layout:
    """px: the whole width, the plot between left and right, height of a strip's plot and of what stands above it."""

    name: str
    width: float
    left: float
    right: float
    plot: float
    above: float
    value_x: tuple[float, float, float]

    @property
    def narrow(self) -> bool:
        return self.name == "narrow"


WIDE = Layout("wide", 1200.0, 152.0, 1004.0, 62.0, 6.0, (1078.0, 1138.0, 1200.0))
NARROW = Layout("narrow", 358.0, 40.0, 354.0, 58.0, 42.0, (250.0, 302.0, 354.0))


@dataclass(frozen=True)
class Stretch:
    """Epoch seconds across [left, right] px."""

    start: float
    end: float
    left: float
    right: float

    def x(self, moment: float) -> float:
        share = (min(max(moment, self.start), self.end) - self.start) / (self.end - self.start)
        return r1(self.left + share * (self.right - self.left))

    def xs(self, moments: Sequence[float] | np.ndarray) -> list[float]:
        share = (np.clip(moments, self.start, self.end) - self.start) / (self.end - self.start)
        return list(np.round(self.left + share * (self.right - self.left), 1).tolist())


@dataclass(frozen=True)
class Scale:
    """low to high across [base, top] px; what is beyond stands at the edge."""

    low: float
    high: float
    base: float
    top: float

    def y(self, value: float) -> float:
        share = (min(max(value, self.low), self.high) - self.low) / (self.high - self.low)
        return r1(self.base - share * (self.base - self.top))

    def ys(self, values: np.ndarray) -> list[float]:
        share = (np.clip(values, self.low, self.high) - self.low) / (self.high - self.low)
        return list(np.round(self.base - share * (self.base - self.top), 1).tolist())

    def ticks(self) -> list[Tick]:
        step = nice_step((self.high - self.low) / 3.4)
        k = math.ceil(self.low / step - 1e-9)
        found = []
        while k * step <= self.high + 1e-9:
            found.append(Tick(self.y(k * step), figure(round(k * step, 6), 4)))
            k += 1
        return found


_MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")


def date_words(day: date) -> str:
    """Hundreds of marks tell theirs: by hand that is a tenth of what strftime takes."""
    return f"{day.day} {_MONTHS[day.month - 1]} {day.year}"


def day_start(day: date, r: Record) -> float:
    return day_begins(day, r.start).timestamp()


def ticks(r: Record, x: Stretch, layout: Layout) -> Iterable[Tick]:
    """Days, weeks, months or years, as many as have room."""
    days = r.window.days
    room = (layout.right - layout.left) / days
    if days <= 2:
        for hour in range(0, days * 24 + 1, 6):
            at = r.start + timedelta(hours=hour)
            yield Tick(x.x(at.timestamp()), f"{at:%-d %b}" if at.hour == 0 else f"{at:%H:%M}", at.hour == 0)
        return
    if room * 7 > 62:
        step = 1 if room > 62 else 7
        day = r.window.first if step == 1 else r.window.first + timedelta(days=-r.window.first.weekday() % 7)
        while day <= r.window.last:
            yield Tick(x.x(day_start(day, r)), f"{day:%-d %b}", False)
            day += timedelta(days=step)
        return
    every = next((m for m in (1, 2, 3, 6, 12) if room * MONTH_DAYS * m > 46), 12)
    yield from month_ticks(r, x, r.window.first, r.window.last, every)


def month_ticks(r: Record, x: Stretch, first: date, last: date, every: int) -> tuple[Tick, ...]:
    """A tick each so many months, counted from the year 0; Januaries with their year."""
    return _month_ticks(r.start, x, first, last, every)


@lru_cache(maxsize=64)
def _month_ticks(start: datetime, x: Stretch, first: date, last: date, every: int) -> tuple[Tick, ...]:
    months = (d for d in firsts_of_months(first, last) if (12 * d.year + d.month - 1) % every == 0)
    return tuple(
        Tick(
            x.x(day_begins(day, start).timestamp()),
            f"{day:%Y}" if day.month == 1 else f"{day:%b}",
            day.month == 1,
        )
        for day in months
        if first <= day <= last
    )
