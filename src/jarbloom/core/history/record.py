"""The record of a tank as one looks at it: chosen quantities, who lived there and what was done in a stretch of days,
with another stretch laid over it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta

import numpy as np

from jarbloom.core.history import lived
from jarbloom.core.history.drift import Beyond, Drift, beyond, drifts, ends, why_nitrate
from jarbloom.core.history.happened import Marks, marks_between
from jarbloom.core.history.quantities import QUANTITIES, SCATTERED, SUMMED, Quantity
from jarbloom.core.history.series import (
    DAY_S,
    Array,
    InView,
    Series,
    drawn_pause_s,
    holds,
    in_view,
    per_bucket,
    series_of,
    thin,
)
from jarbloom.core.history.wanted import Range, wanted
from jarbloom.core.history.window import Window, day_begins, firsts_of_months
from jarbloom.core.journal.book import stock
from jarbloom.core.journal.log import Log
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.species import Animals
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


NO_CAPACITY: Array = np.empty((0, 4))


@dataclass(frozen=True, eq=False)
class Curve:
    """One quantity, in its shown unit. `read`: as the log keeps it; `known`: every point of the record; `whole`: those
    in view; `series`, `before`: thinned to what can be seen, with a point beside it on either side. `pause_s`: beyond
    it nothing is known between two readings, `drawn_pause_s` where they are thinned. `capacity`: beside the load that
    it has to carry (as in Reads)."""

    quantity: Quantity
    unit: str
    read: Series
    known: Series
    whole: Series
    series: Series
    pause_s: float
    drawn_pause_s: float
    capacity: Array
    before: Series | None = None
    before_whole: Series | None = None
    probe: Series | None = None
    bears: Range | None = None
    beyond: tuple[Beyond, ...] = ()
    sums: Sums | None = None

    @property
    def view(self) -> InView | None:
        return in_view(self.whole)


@dataclass(frozen=True, eq=False)
class Reads:
    """What strips, drifts and the thin picture of the whole follow from: each series as the log keeps it, who lives
    there at the end of the stretch, and the capacity as far as the present forecast looks back: (n, 4) epoch seconds
    and the sure, likely and best, mg N a day. A note adds nothing to it."""

    series: tuple[Series, ...]
    living: tuple[Animals, ...]
    capacity: Array

    def are_as(self, other: Reads) -> bool:
        """The very same ones."""
        same = all(a is b for a, b in zip(self.series, other.series, strict=True))
        return same and self.living is other.living and np.array_equal(self.capacity, other.capacity)


def reads_of(shown: Source, reference: Reference, now: datetime, capacity: Array = NO_CAPACITY) -> Reads:
    series = tuple(series_of(key, shown.log, shown.tank, reference, now) for key in QUANTITIES)
    return Reads(series, stock(shown.log, shown.window.last), capacity)


@dataclass(frozen=True)
class Record:
    """Everything of a stretch of days. `reads`: what all but rows and marks stand and fall with; `there`: quantities
    that the log holds at all."""

    reads: Reads
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
    overview_pause_s: float
    overview_of: Quantity
    over: Source | None = None


def record(
    shown: Source, reference: Reference, units: Units, now: datetime, *, chosen: Sequence[str] = (),
    over: Source | None = None, probe: Mapping[str, Series] | None = None, reads: Reads | None = None,
    earlier: Record | None = None,
) -> Record:  # fmt: skip
    """The record of a stretch. `chosen`: quantities to show, else the usual ones that were read in it. `probe`: traces,
    as kept. `now` bounds what is reckoned and gives the keeper's zone. `earlier`: of the same question, asked before
    the log went on; curves to which nothing came are taken from it."""
    start, end = (day_begins(d, now) for d in (shown.window.first, shown.window.last + timedelta(days=1)))
    reads = reads or reads_of(shown, reference, now)
    stand = () if earlier is None or earlier.reads.living is not reads.living else earlier.strips
    draw = _Drawer(shown, over, reference, units, now, start.timestamp(), end.timestamp(), probe or {}, reads.capacity,
                   {c.quantity.key: c for curves in stand for c in curves})  # fmt: skip
    there = tuple(key for key in QUANTITIES if holds(shown.log, key) or key in (probe or {}))
    keys = tuple(k for k in chosen if k in QUANTITIES) or tuple(k for k in FIRST_SHOWN if k in there and draw.tells(k))
    whole = {k: draw.series(k, shown) for k in there}
    main = next((k for k in OVERVIEW_OF if k in there), next(iter(there), "heads"))
    whole_main = draw.series(main, shown)
    begin, today = (day_begins(d, now).timestamp() for d in (shown.window.begin, shown.window.today))
    own = over is not None and over.tank.id == shown.tank.id
    between = ends(start, end, over.shift_days if over is not None and own else 0)
    return Record(
        reads=reads,
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
        overview=thin(draw.as_shown(main, whole_main), begin, today + DAY_S, THIN_COLUMNS),
        overview_pause_s=drawn_pause_s(whole_main.longest_pause_s, begin, today + DAY_S, THIN_COLUMNS),
        overview_of=QUANTITIES[main],
        over=over,
    )


def with_news(r: Record, shown: Source) -> Record:
    """The same stretch of a log that went on by entries that read nothing: notes, what was seen, photos."""
    return replace(r, rows=_rows_in(shown.log, shown.window), marks=marks_between(shown.log, r.start, r.end))


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
    known_capacity: Array
    earlier: Mapping[str, Curve]

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
        full, capacity = self.series(key, self.shown), self.capacity(key)
        before = self.earlier.get(key)
        if before is not None and before.read is full and np.array_equal(before.capacity, capacity):
            return before
        pause = full.longest_pause_s if quantity.source != SUMMED and key not in ("load", "heads") else np.inf
        pause = 0.0 if quantity.source == SCATTERED else pause
        inside = full.between(self.start, self.end)
        laid = laid_whole = None
        if self.over is not None:
            shift = self.over.shift_days * DAY_S
            moved = self.series(key, self.over).moved(shift)
            laid_whole = self.as_shown(key, moved)
            laid = self.in_sight(key, moved.between(self.start, self.end, beside=1))
        living = stock(self.shown.log, self.shown.window.last)
        bears = wanted(key, living, self.reference.species, self.shown.tank)
        unit = self.units.unit(quantity.dimension) if quantity.dimension else quantity.in_unit_of(self.shown.tank.kit)
        trace = self.probe.get(key)
        return Curve(
            quantity=quantity,
            unit=unit,
            read=full,
            known=self.as_shown(key, full),
            whole=self.as_shown(key, inside),
            series=self.in_sight(key, full.between(self.start, self.end, beside=1)),
            pause_s=pause,
            drawn_pause_s=drawn_pause_s(pause, self.start, self.end, COLUMNS),
            capacity=capacity,
            before=laid,
            before_whole=laid_whole,
            probe=None if trace is None else self.in_sight(key, trace.between(self.start, self.end)),
            bears=self._bears(key, bears),
            beyond=self._beyond(key, full, bears),
            sums=self._sums(key, full) if quantity.source == SUMMED else None,
        )

    def capacity(self, key: str) -> Array:
        """What lies in view, for the load alone."""
        at = self.known_capacity[:, 0]
        return self.known_capacity[(at >= self.start) & (at <= self.end)] if key == "load" else NO_CAPACITY

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
