"""The record of a tank as one looks at it: chosen quantities, who lived there and what was done in a stretch of days,
with another stretch laid over it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, datetime, timedelta

import numpy as np

from jarbloom.core.history import lived
from jarbloom.core.history.drift import Beyond, Drift, beyond, drifts, ends, why_nitrate
from jarbloom.core.history.happened import Marks, marks_between
from jarbloom.core.history.quantities import QUANTITIES, SCATTERED, SUMMED, Quantity
from jarbloom.core.history.series import DAY_S, Array, InView, Series, holds, in_view, per_bucket, series_of, thin
from jarbloom.core.history.wanted import Range, wanted
from jarbloom.core.history.window import Window, day_begins, firsts_of_months
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.log import Log
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.tank import Tank
from jarbloom.units import Units

COLUMNS = 240  # what a picture can tell apart
THIN_COLUMNS = 120  # the thin one of the whole record
TOGETHER: tuple[tuple[str, ...], ...] = (("ammonia", "nitrite"), ("ph", "kh"))  # on one strip, each on its own scale
FIRST_SHOWN = ("nitrate", "ammonia", "ph", "temp", "salinity", "load")  # unless others are chosen
OVERVIEW_OF = ("nitrate", "temp", "ph")  # of the whole record, the first that was ever read
MOST_STRIPS = 9
WEEKS_UP_TO_DAYS = 400  # sums by the week, beyond it by the month


@dataclass(frozen=True)
class Source:
    """A tank with its log, and the stretch taken from it; `shift_days` brings it under the one that is shown."""

    tank: Tank
    log: Log
    window: Window
    shift_days: int = 0


@dataclass(frozen=True)
class Sums:
    """What went in between edges (epoch seconds): (n + 1,) and (n,), in the shown unit; `before` of the stretch laid
    over."""

    edges: Array
    totals: Array
    before: Array | None
    by: str  # week or month


@dataclass(frozen=True)
class Curve:
    """One quantity, in its shown unit. `known`: every point of the record; `whole`: those in view; `series`, `before`:
    thinned to what can be seen, with a point beside it on either side."""

    quantity: Quantity
    unit: str
    known: Series
    whole: Series
    series: Series
    pause_s: float
    before: Series | None = None
    before_whole: Series | None = None
    probe: Series | None = None
    bears: Range | None = None
    beyond: tuple[Beyond, ...] = ()
    sums: Sums | None = None

    @property
    def view(self) -> InView | None:
        return in_view(self.whole)


@dataclass(frozen=True)
class Record:
    """Everything of a stretch of days. `capacity`: (n, 4) epoch seconds and the sure, likely and best capacity, mg N a
    day, as far as the present forecast looks back; `there`: quantities that the log holds at all."""

    tank: Tank
    window: Window
    start: datetime
    end: datetime
    strips: tuple[tuple[Curve, ...], ...]
    rows: tuple[lived.Row, ...]
    marks: Mapping[str, Marks]  # by lane
    drifts: tuple[Drift, ...]
    nitrate_why: str
    there: tuple[str, ...]
    chosen: tuple[str, ...]
    overview: Series
    overview_of: Quantity
    capacity: Array = field(default_factory=lambda: np.empty((0, 4)))
    over: Source | None = None


def record(
    shown: Source, reference: Reference, units: Units, now: datetime, *, chosen: Sequence[str] = (),
    over: Source | None = None, probe: Mapping[str, Series] | None = None, capacity: Array | None = None,
) -> Record:  # fmt: skip
    """The record of a stretch. `chosen`: quantities to show, else the usual ones that were read in it. `probe`: traces,
    as kept. `now` bounds what is reckoned and gives the keeper's zone."""
    start, end = (day_begins(d, now) for d in (shown.window.first, shown.window.last + timedelta(days=1)))
    draw = _Drawer(shown, over, reference, units, now, start.timestamp(), end.timestamp(), probe or {})
    there = tuple(key for key in QUANTITIES if holds(shown.log, key) or key in (probe or {}))
    keys = tuple(k for k in chosen if k in QUANTITIES) or tuple(k for k in FIRST_SHOWN if k in there and draw.tells(k))
    whole = {k: draw.series(k, shown) for k in there}
    main = next((k for k in OVERVIEW_OF if k in there), next(iter(there), "heads"))
    begin, today = (day_begins(d, now).timestamp() for d in (shown.window.begin, shown.window.today))
    own = over is not None and over.tank.id == shown.tank.id
    between = ends(start, end, over.shift_days if over is not None and own else 0)
    known = np.empty((0, 4)) if capacity is None else capacity
    return Record(
        tank=shown.tank,
        window=shown.window,
        start=start,
        end=end,
        strips=draw.strips(keys),
        rows=_rows_in(shown.log, shown.window),
        marks=marks_between(shown.log, start, end),
        drifts=drifts(whole, between),
        nitrate_why=why_nitrate(draw.series("load", shown), draw.series("changed", shown), between),
        there=there,
        chosen=keys,
        overview=thin(draw.as_shown(main, draw.series(main, shown)), begin, today + DAY_S, THIN_COLUMNS),
        overview_of=QUANTITIES[main],
        capacity=known[(known[:, 0] >= start.timestamp()) & (known[:, 0] <= end.timestamp())],
        over=over,
    )


def _rows_in(log: Log, window: Window) -> tuple[lived.Row, ...]:
    """Kinds of which one lived there on some day in view."""
    return tuple(
        r for r in lived.rows(log)
        if r.since <= window.last
        and (r.count_on(window.first) or any(window.first <= s.day <= window.last for s in r.steps))
    )  # fmt: skip


@dataclass(frozen=True)
class _Drawer:
    shown: Source
    over: Source | None
    reference: Reference
    units: Units
    now: datetime
    start: float
    end: float
    probe: Mapping[str, Series]

    def strips(self, keys: Sequence[str]) -> tuple[tuple[Curve, ...], ...]:
        together = {k: group for group in TOGETHER for k in group}
        found: dict[tuple[str, ...], list[Curve]] = {}
        for key in QUANTITIES:
            group = together.get(key, (key,))
            if key in keys or (len(group) > 1 and group[0] in keys and self.tells(key)):
                found.setdefault(group, []).append(self.curve(key))
        order = sorted(found, key=lambda g: min((keys.index(k) for k in g if k in keys), default=len(keys)))
        return tuple(tuple(found[g]) for g in order[:MOST_STRIPS])

    def series(self, key: str, source: Source) -> Series:
        return series_of(key, source.log, source.tank, self.reference, self.now)

    def tells(self, key: str) -> bool:
        """Something of it lies in view; of ammonia and nitrite, something that was not nothing."""
        inside = self.series(key, self.shown).between(self.start, self.end)
        if key in ("ammonia", "nitrite"):
            return bool((inside.seen > 0).any())
        return bool(len(inside)) or key in self.probe

    def as_shown(self, key: str, series: Series) -> Series:
        quantity = QUANTITIES[key]
        if quantity.dimension:
            return series.put(lambda v: self.units.value(v, quantity.dimension))
        return series.times(quantity.factor(self.shown.tank.kit))

    def curve(self, key: str) -> Curve:
        quantity = QUANTITIES[key]
        full = self.series(key, self.shown)
        pause = full.longest_pause_s if quantity.source != SUMMED and key not in ("load", "heads") else np.inf
        pause = 0.0 if quantity.source == SCATTERED else pause
        inside = full.between(self.start, self.end)
        before = before_whole = None
        if self.over is not None:
            shift = self.over.shift_days * DAY_S
            moved = self.series(key, self.over).moved(shift)
            before_whole = self.as_shown(key, moved)
            before = self.in_sight(key, moved.between(self.start, self.end, beside=1))
        living = stock(self.shown.log, self.shown.window.last)
        bears = wanted(key, living, self.reference.species, self.shown.tank)
        unit = self.units.unit(quantity.dimension) if quantity.dimension else quantity.in_unit_of(self.shown.tank.kit)
        trace = self.probe.get(key)
        return Curve(
            quantity=quantity,
            unit=unit,
            known=self.as_shown(key, full),
            whole=self.as_shown(key, inside),
            series=self.in_sight(key, full.between(self.start, self.end, beside=1)),
            pause_s=pause,
            before=before,
            before_whole=before_whole,
            probe=None if trace is None else self.in_sight(key, trace.between(self.start, self.end)),
            bears=self._bears(key, bears),
            beyond=self._beyond(key, full, bears),
            sums=self._sums(key, full) if quantity.source == SUMMED else None,
        )

    def in_sight(self, key: str, series: Series) -> Series:
        """Thinned to what a picture can show, in the shown unit."""
        return self.as_shown(key, thin(series, self.start, self.end, COLUMNS))

    def _bears(self, key: str, bears: Range | None) -> Range | None:
        if bears is None:
            return None
        low, high = (float(self.as_shown(key, Series(*(np.array([v]),) * 4)).seen[0]) for v in (bears.low, bears.high))
        return Range(low, high, bears.low_by, bears.high_by)

    def _beyond(self, key: str, full: Series, bears: Range | None) -> tuple[Beyond, ...]:
        inside = full.between(self.start, self.end, beside=1)
        return beyond(key, self.as_shown(key, inside), self._bears(key, bears))

    def _sums(self, key: str, full: Series) -> Sums:
        by_week = self.shown.window.days <= WEEKS_UP_TO_DAYS
        edges = np.array([day_begins(d, self.now).timestamp() for d in _edges(self.shown.window, by_week)])
        totals = per_bucket(self.as_shown(key, full), edges)
        before = None
        if self.over is not None:
            moved = self.series(key, self.over).moved(self.over.shift_days * DAY_S)
            before = per_bucket(self.as_shown(key, moved), edges)
        return Sums(edges, totals, before, "week" if by_week else "month")


def _edges(window: Window, by_week: bool) -> list[date]:
    """Mondays, or firsts of the month, from before the first day to after the last."""
    if by_week:
        day = window.first - timedelta(days=window.first.weekday())
        found = [day]
        while day <= window.last:
            day += timedelta(days=7)
            found.append(day)
        return found
    return list(firsts_of_months(window.first, window.last))
