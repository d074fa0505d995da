"""The upset desk's chart: what comes with no water change, and with the planned ones."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.advice.situation import Situation
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.model.kit import Reading
from jarbloom.core.upset.courses import DAYS, UpsetCourse
from jarbloom.core.water.ammonia import unionised_fraction
from jarbloom.units import figure
from jarbloom.views.drawn.axes import LinearAxis, Tick, TimeAxis, area, line
from jarbloom.views.drawn.strip import Mark

PAST_DAYS = 3


@dataclass(frozen=True)
class ChangeStep:
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
    steps: tuple[ChangeStep, ...]
    x_ticks: tuple[Tick, ...]
    y_ticks: tuple[Tick, ...]
    now_x: float
    now_text: str


def upset_chart(s: Situation, ways: Sequence[UpsetCourse], width: float = 756) -> UpsetChart | None:
    """`ways` are the courses with nothing done and with the plan; None when nothing is over its limit."""
    if s.response is None or len(ways) < 2:
        return None
    without, planned = ways
    lv = s.levels
    free = lv.worst == "ammonia"
    limit = lv.limits.nh3 if free else lv.limits.no2
    first, last = s.now.date() - timedelta(days=PAST_DAYS), s.now.date() + timedelta(days=DAYS + 1)
    x = TimeAxis(first, last, 46.0, width)
    xs = [x.at(without.start + timedelta(days=k * without.dt)) for k in range(without.n)]
    still, changed = ((c.nh3 if free else c.no2) for c in (without, planned))  # each (low, mid, high) by step
    readings = _readings(s, free, x)
    high = max([limit * 1.4, float(still[2].max()), *(m[2] for m in readings)])
    y = LinearAxis(high * 1.05, 236.0, 18.0)

    def points(values: NDArray[np.float64]) -> list[tuple[float, float]]:
        return [(px, y.y(v)) for px, v in zip(xs, values, strict=True)]

    marks = tuple(
        Mark(px, y.y(seen), y.y(low), y.y(up), "ammonia" if free else "nitrite", title)
        for px, seen, up, low, title in readings
    )
    what = "free ammonia, mg N/L" if free else "nitrite, mg N/L"

    def at(moment: datetime) -> int:
        return min(max(int((moment - planned.start).total_seconds() / 86400 / planned.dt), 0), planned.n - 1)

    steps = tuple(
        ChangeStep(x.at(c.at), y.y(float(changed[1][at(c.at)])), f"−{s.units.volume(c.litres)}")
        for c in s.response.changes
    )
    days = [first + timedelta(days=k) for k in range((last - first).days)]
    label_at = int(without.n * 0.55)
    return UpsetChart(
        width, 262, 236.0, 18.0, 46.0, what, "ammonia" if free else "nitrite",
        f"{what}, the last {PAST_DAYS} days and the next {DAYS}",
        f"Without a change it would likely be {figure(float(still[1][-1]), 2)} after {DAYS} days, with the "
        f"planned changes {figure(float(changed[1][-1]), 2)}; the limit is {figure(limit)}.",
        area(points(still[1]), [(px, y.bottom) for px in xs]), line(points(still[1])),
        (xs[label_at], max(y.y(float(still[1][label_at])) - 7, 26.0)),
        area(points(changed[2]), points(changed[0])), line(points(changed[1])),
        y.y(limit), f"limit here {figure(limit)}", marks, steps,
        tuple(Tick(x.edge(d), f"{d:%a %-d}", d == s.now.date()) for d in days), tuple(y.ticks()), x.at(s.now),
        f"Now {s.now:%H:%M}",
    )  # fmt: skip


def _readings(s: Situation, free: bool, x: TimeAxis) -> list[tuple[float, float, float, float, str]]:
    """(x, seen, high, low, title) of the readings since the chart's first day."""
    found = []
    wanted = "ammonia" if free else "nitrite"
    for e in s.entries.kinds_since(x.first, Tested):
        ph = next((r.seen for r in e.readings if r.quantity == "ph"), s.levels.ph)
        factor = float(unionised_fraction(ph, s.levels.temp_c, s.levels.salinity_g_kg)) if free else 1.0
        for r in (r for r in e.readings if r.quantity == wanted):
            found.append(
                (x.at(e.at), r.seen * factor, _high(r) * factor, r.low * factor, f"{wanted} {r.typed}, {e.at:%a %H:%M}")
            )
    return found


def _high(reading: Reading) -> float:
    return reading.high if reading.high is not None else reading.seen * 1.5
