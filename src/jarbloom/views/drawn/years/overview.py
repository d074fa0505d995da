"""A thin picture of the whole record, with the frame that is shown and the one laid over it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import timedelta

from jarbloom.core.history.record import Record
from jarbloom.core.history.window import MONTH_DAYS
from jarbloom.views.drawn.axes import Tick, r1
from jarbloom.views.drawn.years.layout import Layout, Scale, Stretch, day_start, month_ticks
from jarbloom.views.drawn.years.strips import broken


@dataclass(frozen=True)
class Overview:
    """A thin picture of all of it, with the frame that is shown and the one laid over it."""

    width: float
    left: float
    right: float
    height: float
    path: str
    ticks: tuple[Tick, ...]
    frame: tuple[float, float]
    over: tuple[float, float] | None
    first: str
    last: str
    of: str


def overview(r: Record, layout: Layout) -> Overview:
    begin, today = (day_start(d, r) for d in (r.window.begin, r.window.today + timedelta(days=1)))
    left, right = (layout.left, layout.width - 2) if not layout.narrow else (2.0, layout.width - 2)
    x = Stretch(begin, max(today, begin + 1), left, right)
    s = r.overview
    scale = Scale(0.0 if r.overview_of.from_zero or not len(s) else float(s.seen.min()),
                  max(float(s.seen.max()) if len(s) else 1.0, 1e-3) * 1.05, 38.0, 8.0)  # fmt: skip
    path = broken(s, r.overview_pause_s, scale, x)
    over = None
    if r.over is not None and r.over.tank.id == r.tank.id:
        a, b = x.x(day_start(r.over.window.first, r)), x.x(day_start(r.over.window.last + timedelta(days=1), r))
        over = (a, r1(max(b - a, 2)))
    a, b = x.x(r.start.timestamp()), x.x(r.end.timestamp())
    return Overview(
        width=layout.width,
        left=left,
        right=right,
        height=58.0,
        path=path,
        ticks=tuple(_year_ticks(r, x)),
        frame=(a, r1(max(b - a, 3))),
        over=over,
        first=r.window.begin.isoformat(),
        last=r.window.today.isoformat(),
        of=r.overview_of.label,
    )


def _year_ticks(r: Record, x: Stretch) -> Iterable[Tick]:
    days = max((r.window.today - r.window.begin).days, 1)
    every = next(m for m in (1, 3, 6, 12, 24, 60) if (x.right - x.left) / days * MONTH_DAYS * m > 44 or m == 60)
    return month_ticks(r, x, r.window.begin, r.window.today, every)
