"""One quantity of the forecast by day, with its ranges, as geometry."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, timedelta

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.advice.situation import Situation
from jarbloom.core.animals.bioload import load_of
from jarbloom.core.bloom.capacity import QUANTILES
from jarbloom.core.bloom.track import Met
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.model.kit import Reading
from jarbloom.units import figure, load_text
from jarbloom.views.drawn.axes import LinearAxis, RootLogAxis, Tick, TimeAxis, area, line, r1

Array = NDArray[np.float64]
Axis = LinearAxis | RootLogAxis
PAST_DAYS, FUTURE_DAYS = 28, 35
SMALL = 358.0  # px: the phone's chart
LABEL_GAP = 13.0  # px that one name needs


@dataclass(frozen=True)
class Quantity:
    """Something the chart can show: band of the forecast, words, unit, the reading it is seen by, colour class."""

    key: str
    name: str
    unit: str
    reading: str
    colour: str


QUANTITIES: tuple[Quantity, ...] = (
    Quantity("no2", "nitrite", "mg N/L", "nitrite", "nitrite"),
    Quantity("tan", "ammonia, total", "mg N/L", "ammonia", "ammonia"),
    Quantity("nh3", "ammonia, un-ionised", "mg N/L", "", "ammonia"),
    Quantity("no3", "nitrate", "mg N/L", "nitrate", "nitrate"),
    Quantity("capacity", "capacity and load", "mg N a day", "", "bloom"),
    Quantity("capacity_a", "capacity for ammonia", "mg N a day", "", "bloom"),
    Quantity("capacity_b", "capacity for nitrite", "mg N a day", "", "bloom"),
)
BY_KEY = {q.key: q for q in QUANTITIES}


@dataclass(frozen=True)
class Spot:
    """A reading (with the interval of its step) or what had been foretold for it."""

    x: float
    y: float
    low_y: float
    high_y: float
    title: str
    inside: bool = True


@dataclass(frozen=True)
class FanLine:
    """A straight line across the chart with its name: a limit, or the load."""

    path: str
    label: str
    x: float
    y: float
    kind: str


@dataclass(frozen=True)
class FanDay:
    x: float
    small_x: float | None  # on the phone's chart, which shows fewer days
    label: str
    values: tuple[str, ...]
    events: str
    today: bool


@dataclass(frozen=True)
class Fan:
    """A quantity by day with its 50, 80 and 90 % ranges."""

    width: float
    height: float
    left: float
    right: float
    top: float
    base: float
    title: str
    description: str
    unit: str
    colour: str
    ranges: tuple[str, ...]
    past: str
    future: str
    other: str
    spots: tuple[Spot, ...]
    foretold: tuple[Spot, ...]
    lines: tuple[FanLine, ...]
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    today_x: float
    flag: str
    rows: tuple[FanDay, ...] = ()


def _window(s: Situation, width: float) -> TimeAxis:
    past, ahead = (10, 28) if width < 500 else (PAST_DAYS, FUTURE_DAYS)
    f = s.forecast
    today = f.days[f.today]
    first, last = max(f.days[0], today - timedelta(days=past)), min(f.days[-1], today + timedelta(days=ahead))
    return TimeAxis(first, last, 46.0, width)


def fan(
    s: Situation,
    q: Quantity,
    width: float,
    height: float,
    *,
    bands_by_key: Mapping[str, Array] | None = None,
    other: Array | None = None,
    met: Sequence[Met] = (),
    table: bool = False,
) -> Fan:
    """The chart of one quantity: of the forecast, or of a what-if's bands (n_quantile, n_day) with the plan's own
    likely line, `other` (n_day,), thin beside it."""
    f = s.forecast
    bands = (f.bands if bands_by_key is None else bands_by_key)[q.key]
    x, today = _window(s, width), f.days[f.today]
    first, last, left, top, base = x.first, x.last, x.left, 26.0, height - 24.0
    shown = [k for k, d in enumerate(f.days) if first <= d <= last]
    y = _axis(s, q, bands, shown, other, base, top)
    xs = [x.at(s.now) if f.days[k] == today else x.day(f.days[k]) for k in shown]
    n_past = sum(1 for k in shown if k <= f.today)

    def points(values: Array) -> list[tuple[float, float]]:
        return [(px, y.y(float(values[k]))) for px, k in zip(xs, shown, strict=True)]

    edges = [points(bands[i]) for i in range(len(QUANTILES))]
    ranges = tuple(area(edges[-1 - i], edges[i]) for i in range(3))
    middle = edges[3]
    return Fan(
        width, height, left, width, top, base,
        f"{q.name} of {s.tank.name}, {first:%-d %B} to {last:%-d %B}",
        _describe(s, q, bands), q.unit, q.colour, ranges, line(middle[:n_past]), line(middle[n_past - 1:]),
        line(points(other)[n_past - 1:]) if other is not None else "",
        _spots(s, q, x, y), _foretold(met, x, y), _lines(s, q, x, y),
        tuple(x.weekly(today)), tuple(y.ticks()), x.at(s.now), f"{s.now:%a %-d %b}",
        _rows(s, q, shown, xs) if table else (),
    )  # fmt: skip


def _axis(
    s: Situation, q: Quantity, bands: Array, shown: list[int], other: Array | None, base: float, top: float
) -> LinearAxis | RootLogAxis:
    best = max(float(bands[-2][k]) for k in shown)
    if other is not None:
        best = max(best, *(float(other[k]) for k in shown))
    best = max(best, *(m.seen for m in _readings(s, q)), 0.0) if q.reading else best
    if q.key == "nh3":
        return LinearAxis(max(1.1 * best, 1.5 * s.levels.limits.nh3), base, top)
    if q.unit == "mg N/L":
        return RootLogAxis(max(1.0, min(1.15 * best, 200.0)), base, top)
    return LinearAxis(max(1.08 * best, 1.3 * s.forecast.load_adult, 1.0), base, top)


def _readings(s: Situation, q: Quantity) -> list[Reading]:
    return [r for e in s.entries if e.kind == "test" for r in e.readings if r.quantity == q.reading]


def _spots(s: Situation, q: Quantity, x: TimeAxis, y: Axis) -> tuple[Spot, ...]:
    found = []
    for e in s.entries.kinds_since(x.first, Tested):
        for r in e.readings:
            if r.quantity == q.reading:
                high = r.high if r.high is not None else 1.5 * r.seen
                words = f"{q.name} {r.typed}, {e.at:%a %-d %b %H:%M}"
                found.append(Spot(x.at(e.at), y.y(r.seen), y.y(r.low), y.y(high), words, not r.masked))
    return tuple(found)


def _foretold(met: Sequence[Met], x: TimeAxis, y: Axis) -> tuple[Spot, ...]:
    return tuple(
        Spot(
            x.at(m.at), y.y(m.said_likely), y.y(m.said_low), y.y(m.said_high),
            f"foretold on {m.asked:%-d %b}: {seen_words(m.said_low)} to {seen_words(m.said_high)}", m.inside,
        )
        for m in met if m.at.date() >= x.first
    )  # fmt: skip


def _lines(s: Situation, q: Quantity, x: TimeAxis, y: Axis) -> tuple[FanLine, ...]:
    limits = s.levels.limits
    if q.key in ("no2", "nh3") and (s.living or s.waiting):
        value = limits.no2 if q.key == "no2" else limits.nh3
        return (_line(value, f"limit for animals {figure(value)}", x.left, x, y, "limit"),)
    if q.key.startswith("capacity"):
        found, load = [], s.forecast.load_adult
        if load:
            found.append(_line(load, f"living here {load_text(load)}", x.left, x, y, "load"))
        for b in s.waiting:
            load += load_of(b.items, s.reference.species, s.tank.temp_c, adult=True).total
            if b.planned < x.last:
                found.append(_line(load, f"with {b.name.lower()} {load_text(load)}", x.edge(b.planned), x, y, "load"))
        return _apart(found)
    return ()


def _line(value: float, label: str, start: float, x: TimeAxis, y: Axis, kind: str) -> FanLine:
    return FanLine(f"M{r1(start)} {y.y(value)}H{x.right}", label, r1(x.right - 4), r1(y.y(value) - 5), kind)


def _apart(lines: list[FanLine]) -> tuple[FanLine, ...]:
    """Names that would stand on one another are left to the upper line."""
    found: list[FanLine] = []
    for k, one in enumerate(lines):
        crowded = any(one.y - above.y < LABEL_GAP for above in lines[k + 1 :])
        found.append(replace(one, label="") if crowded else one)
    return tuple(found)


def _describe(s: Situation, q: Quantity, bands: Array) -> str:
    f = s.forecast
    low, mid, high = (float(bands[i][f.today]) for i in (1, 3, 5))
    k = min(f.today + 14, len(f.days) - 1)
    later = [float(bands[i][k]) for i in (1, 3, 5)]
    return (
        f"Today likely {figure(mid, 2)}, eight times in ten {figure(low, 2)} to {figure(high, 2)} {q.unit}; on "
        f"{f.days[k]:%-d %B} likely {figure(later[1], 2)}, {figure(later[0], 2)} to {figure(later[2], 2)}."
    )


def _rows(s: Situation, q: Quantity, shown: list[int], xs: list[float]) -> tuple[FanDay, ...]:
    f = s.forecast
    happened: dict[date, list[str]] = {}
    for e in s.entries.since(f.days[shown[0]]) if shown else ():
        read = [r.typed for r in e.readings if r.quantity == q.reading]
        text = f"read {read[0]}" if read else (e.kind if e.kind not in ("test", "note", "observation") else "")
        if text:
            happened.setdefault(e.day, []).append(text)
    small = _window(s, SMALL)

    def on_small(d: date) -> float | None:
        if not small.first <= d <= small.last:
            return None
        return small.at(s.now) if d == f.days[f.today] else small.day(d)

    return tuple(
        FanDay(
            px,
            on_small(f.days[k]),
            f"{f.days[k]:%a %-d %b}",
            tuple(figure(float(f.bands[q.key][i, k]), 2) for i in range(len(QUANTILES))),
            ", ".join(happened.get(f.days[k], ())),
            k == f.today,
        )
        for px, k in zip(xs, shown, strict=True)
    )


def seen_words(mg_n_l: float) -> str:
    """A concentration as far as any kit could tell it from nothing."""
    return "0" if mg_n_l < 0.01 else figure(mg_n_l, 2)
