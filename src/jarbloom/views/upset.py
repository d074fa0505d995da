"""The upset desk's chart: what comes with no water change, and with the planned ones."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.advice.situation import Situation
from jarbloom.core.bloom.capacity import AT_BEST, LIKELY, SURE
from jarbloom.core.bloom.ensemble import Projection
from jarbloom.core.model import Reading
from jarbloom.core.water.ammonia import unionised_fraction
from jarbloom.units import figure
from jarbloom.views.axes import LinearAxis, Tick, TimeAxis, area, line
from jarbloom.views.strip import Mark

HOURS = 96
PAST_DAYS = 3


@dataclass(frozen=True)
class Step:
    """A planned change on the chart."""

    x: float
    y: float
    label: str


@dataclass(frozen=True)
class UpsetChart:
    width: float
    height: float
    base: float
    top: float
    left: float
    what: str
    quantity: str
    title: str
    description: str
    without: str
    without_line: str
    without_label: tuple[float, float]
    band: str
    mid: str
    limit_y: float
    limit_text: str
    marks: tuple[Mark, ...]
    steps: tuple[Step, ...]
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    now_x: float
    now_text: str


def upset_chart(s: Situation, without: Projection, planned: Projection, width: float = 756) -> UpsetChart | None:
    """None when nothing is over its limit."""
    if s.response is None:
        return None
    lv = s.levels
    free = lv.worst == "ammonia"
    limit = lv.limits.nh3 if free else lv.limits.no2
    n = int(HOURS / 24 / without.dt)
    first, last = s.now.date() - timedelta(days=PAST_DAYS), s.now.date() + timedelta(days=HOURS // 24 + 1)
    x = TimeAxis(first, last, 46.0, width)
    moments = [s.forecast.as_of + timedelta(days=k * without.dt) for k in range(n)]
    xs = [x.at(m) for m in moments]
    paths = [
        np.quantile((p.nh3() if free else p.path.no2)[:n], (SURE, LIKELY, AT_BEST), axis=1) for p in (without, planned)
    ]
    readings = _readings(s, free, x)
    high = max([limit * 1.4, float(paths[0][2].max()), *(m[2] for m in readings)])
    y = LinearAxis(high * 1.05, 236.0, 18.0)

    def points(values: NDArray[np.float64]) -> list[tuple[float, float]]:
        return [(px, y.y(v)) for px, v in zip(xs, values, strict=True)]

    marks = tuple(
        Mark(px, y.y(seen), y.y(low), y.y(up), "ammonia" if free else "nitrite", title)
        for px, seen, up, low, title in readings
    )
    what = "free ammonia, mg N/L" if free else "nitrite, mg N/L"
    steps = tuple(Step(x.at(c.at), y.y(float(paths[1][1][min(int((c.at - s.forecast.as_of).total_seconds() / 86400
                  / without.dt), n - 1)])), f"−{s.units.volume(c.litres)}") for c in s.response.changes)  # fmt: skip
    days = [first + timedelta(days=k) for k in range((last - first).days)]
    label_at = int(n * 0.55)
    return UpsetChart(
        width, 262, 236.0, 18.0, 46.0, what, "ammonia" if free else "nitrite",
        f"{what}, the last {PAST_DAYS} days and the next {HOURS // 24}",
        f"Without a change it would likely be {figure(float(paths[0][1][-1]), 2)} after {HOURS // 24} days, with the "
        f"planned changes {figure(float(paths[1][1][-1]), 2)}; the limit is {figure(limit)}.",
        area(points(paths[0][1]), [(px, y.bottom) for px in xs]), line(points(paths[0][1])),
        (xs[label_at], max(y.y(float(paths[0][1][label_at])) - 7, 26.0)),
        area(points(paths[1][2]), points(paths[1][0])), line(points(paths[1][1])),
        y.y(limit), f"limit here {figure(limit)}", marks, steps,
        tuple(Tick(x.edge(d), f"{d:%a %-d}", d == s.now.date()) for d in days), tuple(y.ticks()), x.at(s.now),
        f"Now {s.now:%H:%M}",
    )  # fmt: skip


def _readings(s: Situation, free: bool, x: TimeAxis) -> list[tuple[float, float, float, float, str]]:
    """(x, seen, high, low, title) of the readings since the chart's first day."""
    found = []
    wanted = "ammonia" if free else "nitrite"
    for e in s.entries:
        if e.kind != "test" or e.at.date() < x.first:
            continue
        ph = next((r.seen for r in e.readings if r.quantity == "ph"), s.levels.ph)
        factor = float(unionised_fraction(ph, s.levels.temp_c)) if free else 1.0
        for r in (r for r in e.readings if r.quantity == wanted):
            found.append(
                (x.at(e.at), r.seen * factor, _high(r) * factor, r.low * factor, f"{wanted} {r.typed}, {e.at:%a %H:%M}")
            )
    return found


def _high(reading: Reading) -> float:
    return reading.high if reading.high is not None else reading.seen * 1.5
