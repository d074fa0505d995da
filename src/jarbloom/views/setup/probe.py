"""A probe's traces as geometry: hourly means with their range, and the tests beside them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from jarbloom.core.model.entry import Entry
from jarbloom.core.setup.probe import Hour, TestBesideProbe
from jarbloom.units import Units, figure
from jarbloom.views.drawn.axes import Tick, r1

H, LEFT, TOP, BASE = 132.0, 46.0, 20.0, 108.0
WIDE, NARROW = (1200.0, 10), (358.0, 3)  # px, and days shown
GAP = timedelta(hours=2)  # hours further apart are not joined
NAMES = {"temp": "temperature", "ph": "pH", "salinity": "salinity", "ammonia": "ammonia electrode"}
LEAST_SPAN = {"temp": 2.0, "ph": 0.6, "salinity": 2.0, "ammonia": 0.6}


@dataclass(frozen=True)
class TestMark:
    x: float
    y: float
    title: str


@dataclass(frozen=True)
class Trace:
    key: str
    name: str
    unit: str
    band: str
    line: str
    marks: tuple[TestMark, ...]
    y_ticks: tuple[Tick, ...]
    x_ticks: tuple[Tick, ...]
    words: str
    width: float
    right: float
    height: float = H
    left: float = LEFT
    top: float = TOP
    base: float = BASE


def _shown(quantity: str, value: float, units: Units) -> float:
    return units.value(value, "temp") if quantity == "temp" else value


def unit_of(quantity: str, units: Units) -> str:
    return {"temp": units.unit("temp"), "ph": "", "salinity": "g/kg", "ammonia": "mg N/L"}[quantity]


def trace(
    quantity: str,
    hours: Sequence[Hour],
    entries: Sequence[Entry],
    now: datetime,
    units: Units,
    size: tuple[float, int] = WIDE,
) -> Trace:
    """The last days of one quantity; `size` is the width in px and the days shown in it."""
    width, days_shown = size
    right = width - 14
    first = now - timedelta(days=days_shown)
    kept = [h for h in hours if h.at >= first - timedelta(hours=1)]
    tests = [
        (e.at, r)
        for e in entries
        if e.kind == "test" and e.at >= first
        for r in e.readings
        if r.quantity == quantity and not r.masked
    ]
    values = [v for h in kept for v in (h.low, h.high)] + [r.seen for _, r in tests] or [0.0]
    low, high = min(values), max(values)
    spare = max(LEAST_SPAN[quantity] - (high - low), 0.1 * (high - low)) / 2
    low, high = low - spare, high + spare
    if quantity in ("ammonia", "salinity"):
        low = max(low, 0.0)

    def x(at: datetime) -> float:
        share = (at - first).total_seconds() / (days_shown * 86400)
        return r1(LEFT + (right - LEFT) * min(max(share, 0.0), 1.0))

    def y(value: float) -> float:
        return r1(BASE - (BASE - TOP) * (value - low) / (high - low))

    half = timedelta(minutes=30)
    line, band = [], []
    for run in _runs(kept):
        line.append("M" + "L".join(f"{x(h.at + half):g} {y(h.mean):g}" for h in run))
        upper = [f"{x(h.at + half):g} {y(h.high):g}" for h in run]
        lower = [f"{x(h.at + half):g} {y(h.low):g}" for h in reversed(run)]
        band.append("M" + "L".join(upper + lower) + "Z")
    marks = tuple(TestMark(x(at), y(r.seen), f"test {r.typed}, {at:%a %-d %b %H:%M}") for at, r in tests)
    ticks = tuple(Tick(y(v), figure(_shown(quantity, v, units), 3)) for v in _round_values(low, high))
    days = [
        (now - timedelta(days=k)).replace(hour=0, minute=0, second=0, microsecond=0) for k in range(days_shown, -1, -1)
    ]
    x_ticks = tuple(Tick(x(d), f"{d:%a %-d}", False) for d in days if d >= first)
    unit = unit_of(quantity, units)
    words = f"{NAMES[quantity]}, {len(kept)} hours heard"
    if kept:
        words += f", last {figure(_shown(quantity, kept[-1].mean, units), 3)} {unit}".rstrip()
    return Trace(
        quantity, NAMES[quantity], unit, "".join(band), "".join(line), marks, ticks, x_ticks, words, width, right
    )


def _round_values(low: float, high: float) -> list[float]:
    """Two or three round values within a span."""
    step = 10 ** math.floor(math.log10(high - low))
    for part in (1.0, 0.5, 0.2):
        found = [k * step * part for k in range(math.ceil(low / (step * part)), int(high / (step * part)) + 1)]
        if len(found) >= 2:
            return found
    return [low, high]


def _runs(hours: Sequence[Hour]) -> list[list[Hour]]:
    """Hours that follow one another; a gap in what was heard is a gap in the line."""
    found: list[list[Hour]] = []
    for h in hours:
        if found and h.at - found[-1][-1].at < GAP:
            found[-1].append(h)
        else:
            found.append([h])
    return found


def beside_rows(beside: Sequence[TestBesideProbe], quantity: str, units: Units) -> list[tuple[str, str, str, str]]:
    def text(v: float) -> str:
        return figure(_shown(quantity, v, units), 3)

    def off(b: TestBesideProbe) -> str:
        step = b.off * (9 / 5 if quantity == "temp" and units.system == "us" else 1.0)
        return ("+" if step > 0 else "") + figure(step, 2)

    return [(f"{b.at:%a %-d %b %H:%M}", text(b.test), text(b.probe), off(b)) for b in reversed(beside)]
