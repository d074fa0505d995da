"""Scales for the charts: dates to x, amounts to y, and paths rounded to a tenth."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime, timedelta

import numpy as np
from numpy.typing import ArrayLike

LETTER = 6.4  # px of a letter of the charts' face, a little more than it takes


def r1(value: float) -> float:
    return round(float(value), 1)


@dataclass(frozen=True)
class Tick:
    at: float
    label: str
    strong: bool = False


@dataclass(frozen=True)
class TimeAxis:
    """Days from `first` to `last` across [left, right] px."""

    first: date
    last: date
    left: float
    right: float

    @property
    def per_day(self) -> float:
        return (self.right - self.left) / max((self.last - self.first).days, 1)

    def day(self, d: date) -> float:
        return r1(self.left + ((d - self.first).days + 0.5) * self.per_day) if d < self.last else r1(self.right)

    def at(self, moment: datetime) -> float:
        since = (moment.date() - self.first).days + (moment.hour * 60 + moment.minute) / 1440
        return r1(min(max(self.left + since * self.per_day, self.left), self.right))

    def edge(self, d: date) -> float:
        """Left edge of a day, kept on the chart."""
        return r1(min(max(self.left + (d - self.first).days * self.per_day, self.left), self.right))

    def weekly(self, today: date) -> list[Tick]:
        """A tick on today's weekday of every week."""
        found, day = [], today - timedelta(days=7 * ((today - self.first).days // 7))
        while day < self.last:
            found.append(Tick(self.edge(day), f"{day:%-d %b}", day == today))
            day += timedelta(days=7)
        return found

    def daily(self) -> list[float]:
        n = (self.last - self.first).days
        return [r1(self.left + k * self.per_day) for k in range(n + 1)]


@dataclass(frozen=True)
class LinearAxis:
    """0 to `top` across [bottom, high] px; beyond the top is clipped by the page."""

    top: float
    bottom: float
    high: float

    def y(self, value: float) -> float:
        value = min(max(value, 0.0), self.top * 1.5)
        return r1(self.bottom - (self.bottom - self.high) * value / self.top)

    def ys(self, values: ArrayLike) -> list[float]:
        """`y` of many at once."""
        kept = np.clip(values, 0.0, self.top * 1.5)
        return list(np.round(self.bottom - (self.bottom - self.high) * kept / self.top, 1).tolist())

    def ticks(self) -> list[Tick]:
        step = nice_step(self.top / 3.2)
        found, value = [], 0.0
        while value <= self.top * 1.0001:
            found.append(Tick(self.y(value), f"{value:g}"))
            value = round(value + step, 6)
        return found


def nice_step(rough: float) -> float:
    """1, 2 or 5 times a power of ten, at least `rough`."""
    power = 10.0 ** math.floor(math.log10(max(rough, 1e-6)))
    return next(power * k for k in (1, 2, 5, 10) if power * k >= rough * 0.999)


@dataclass(frozen=True)
class RootLogAxis:
    """log(1 + v / 0.15): tells 0 from 0.25 and still holds 40."""

    top: float
    bottom: float
    high: float

    def y(self, value: float) -> float:
        span = math.log1p(self.top / 0.15)
        return r1(self.bottom - (self.bottom - self.high) * math.log1p(min(max(value, 0), self.top) / 0.15) / span)

    def ys(self, values: ArrayLike) -> list[float]:
        """`y` of many at once."""
        span = math.log1p(self.top / 0.15)
        at = np.log1p(np.clip(values, 0.0, self.top) / 0.15) / span
        return list(np.round(self.bottom - (self.bottom - self.high) * at, 1).tolist())

    def ticks(self) -> list[Tick]:
        return [Tick(self.y(v), f"{v:g}") for v in (0.25, 1, 5, 20) if v <= self.top]


def line(points: Sequence[tuple[float, float]]) -> str:
    """An SVG path through points; empty for none, a dot's worth for one."""
    if not points:
        return ""
    return "M" + "L".join([f"{x:.1f} {y:.1f}" for x, y in points])


def area(upper: Sequence[tuple[float, float]], lower: Sequence[tuple[float, float]]) -> str:
    """A closed band between two edges that run left to right."""
    if len(upper) < 2:
        return ""
    return line(upper) + "L" + "L".join([f"{x:.1f} {y:.1f}" for x, y in reversed(lower)]) + "Z"
