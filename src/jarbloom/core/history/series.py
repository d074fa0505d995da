"""A quantity over time as arrays, read out of the log once, and thinned to what a picture can show."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.animals.bioload import load_of
from jarbloom.core.bloom.plans import noon
from jarbloom.core.history.quantities import MEASURED, QUANTITIES, READ, SCATTERED, SUMMED
from jarbloom.core.journal.book import JOINED, LEFT, STOCK, stocks
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.death import Death
from jarbloom.core.journal.kinds.feed import Feed
from jarbloom.core.journal.kinds.length import LengthMeasured
from jarbloom.core.journal.kinds.measured import Measured
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Body, Entry
from jarbloom.core.model.reference import Reference
from jarbloom.core.model.species import Species
from jarbloom.core.model.tank import Tank
from jarbloom.core.water.ammonia import unionised_fraction

Array = NDArray[np.float64]
GAP_DAYS = 21.0  # without a reading for longer than this, and than four times the usual pause, nothing is known between
USUAL_PAUSES = 4.0
PH_STANDS_DAYS = 14.0  # a pH read so long ago still tells the share of free ammonia; after that the set pH does
DAY_S = 86400.0


@dataclass(frozen=True)
class Series:
    """(n,) moments in epoch seconds, rising; what was seen, and the edges of what the kit could tell (inf: open)."""

    at: Array
    seen: Array
    low: Array
    high: Array

    def __len__(self) -> int:
        return len(self.at)

    def between(self, first: float, last: float, beside: int = 0) -> Series:
        """The part within two moments, with so many points beside it on each side."""
        a, b = np.searchsorted(self.at, (first, last), side="left")
        part = slice(max(int(a) - beside, 0), int(b) + beside)
        return Series(self.at[part], self.seen[part], self.low[part], self.high[part])

    def moved(self, seconds: float) -> Series:
        return Series(self.at + seconds, self.seen, self.low, self.high)

    def times(self, factor: float) -> Series:
        return self if factor == 1 else Series(self.at, self.seen * factor, self.low * factor, self.high * factor)

    def put(self, shown: Callable[[float], float]) -> Series:
        """In another unit; the relation is linear."""
        zero, one = shown(0.0), shown(1.0)
        return Series(self.at, *(zero + (one - zero) * v for v in (self.seen, self.low, self.high)))

    @cached_property
    def longest_pause_s(self) -> float:
        """A pause beyond which nothing is known between two readings."""
        usual = float(np.median(np.diff(self.at))) if len(self.at) > 1 else 0.0
        return max(GAP_DAYS * DAY_S, USUAL_PAUSES * usual)

    def value_at(self, moment: float, pause_s: float) -> float | None:
        """What was last seen by a moment; None before the first reading and in a gap longer than a pause."""
        return self.values_at(np.array([moment]), pause_s)[0]

    def values_at(self, moments: Array, pause_s: float) -> list[float | None]:
        """The same for many moments."""
        if not len(self):
            return [None] * len(moments)
        k = np.searchsorted(self.at, moments, side="right") - 1
        known = (k >= 0) & (moments - self.at[np.maximum(k, 0)] <= pause_s)
        return [v if there else None for v, there in zip(self.seen[k].tolist(), known.tolist(), strict=True)]

    def with_points(self, points: Sequence[Point]) -> Series:
        """With what came after; the very same where nothing did."""
        if not points:
            return self
        came = np.array(points, float).reshape(-1, 4).T
        if not len(self):
            return Series(*came)
        return Series(*(np.concatenate(p) for p in zip((self.at, self.seen, self.low, self.high), came, strict=True)))


Point = tuple[float, float, float, float]  # epoch seconds, seen, low, high
NOTHING = Series(*np.empty((4, 0)))


def _series(points: Sequence[Point]) -> Series:
    return NOTHING.with_points(points)


def readings(log: Log, quantity: str) -> Series:
    """Every reading of a quantity that is believed, as kept (nitrogen as N)."""
    start: Mapping[str, Series] = {}
    if QUANTITIES[quantity].source == MEASURED:
        return log.folded(("history", "measured"), (Measured,), start, _measured).get(quantity, NOTHING)
    return log.folded(("history", "tests"), (Tested,), start, _tested).get(quantity, NOTHING)


def _tested(known: Mapping[str, Series], came: Sequence[Entry]) -> Mapping[str, Series]:
    points: dict[str, list[Point]] = {}
    for e in came:
        at = e.at.timestamp()
        for r in e.readings:
            if not r.masked:
                point = (at, r.seen, r.low, math.inf if r.high is None else r.high)
                points.setdefault(r.quantity, []).append(point)
    return _grown(known, points)


def _measured(known: Mapping[str, Series], came: Sequence[Entry]) -> Mapping[str, Series]:
    points: dict[str, list[Point]] = {}
    for e in came:
        at = e.at.timestamp()
        for key, quantity in QUANTITIES.items():
            if quantity.source == MEASURED and (v := getattr(e.body, key)) is not None:
                points.setdefault(key, []).append((at, v, v, v))
    return _grown(known, points)


def _grown(known: Mapping[str, Series], points: Mapping[str, list[Point]]) -> Mapping[str, Series]:
    """Series of which nothing came stay the very same."""
    return {**known, **{key: known.get(key, NOTHING).with_points(p) for key, p in points.items()}}


def free_ammonia(log: Log, tank: Tank) -> Series:
    """Un-ionised ammonia, mg N/L, of every ammonia reading, at the pH and warmth that were last read (docs/science.md,
    un-ionised ammonia); where no pH stands within a fortnight, at the set one."""
    key = ("history", "nh3", tank.ph, tank.temp_c, tank.salinity_g_kg)
    return log.kept(key, (Tested,), lambda: _free(log, tank))


def _free(log: Log, tank: Tank) -> Series:
    tan, ph, temp, salt = (readings(log, q) for q in ("ammonia", "ph", "temp", "salinity"))

    def last(series: Series, fallback: float) -> Array:
        if not len(series):
            return np.full(len(tan), fallback)
        k = np.searchsorted(series.at, tan.at, side="right") - 1
        fresh = (k >= 0) & (tan.at - series.at[np.maximum(k, 0)] <= PH_STANDS_DAYS * DAY_S)
        return np.where(fresh, series.seen[np.maximum(k, 0)], fallback)

    share = unionised_fraction(last(ph, tank.ph), last(temp, tank.temp_c), last(salt, tank.salinity_g_kg))
    return Series(tan.at, tan.seen * share, tan.low * share, tan.high * share)


LOAD_EVERY_DAYS = 14  # animals grow between two arrivals


def load(log: Log, tank: Tank, reference: Reference, until: datetime) -> Series:
    """mg N a day of who lived in the tank, at the length of the day (docs/science.md, bioload)."""
    key = ("history", "load", tank.temp_c, until.date(), id(reference.species))
    return log.kept(key, STOCK, lambda: _load(log, tank, reference.species, until))


def _load(log: Log, tank: Tank, species: Mapping[str, Species], until: datetime) -> Series:
    moves = log.kinds(*STOCK)
    if not moves:
        return _series([])
    first, last = moves[0].day, until.date()
    days = {first + timedelta(days=k) for k in range(0, max((last - first).days, 0) + 1, LOAD_EVERY_DAYS)}
    days |= {e.day for e in moves if e.day <= last} | {last}
    found = []
    rising = sorted(days)
    for day, living in zip(rising, stocks(log, rising), strict=True):
        total = load_of(living, species, tank.temp_c, day).total
        found.append((noon(day, until).timestamp(), total, total, total))
    return _series(found)


def heads(log: Log, until: datetime) -> Series:
    """How many animals lived there, from day to day on which one came or left."""
    return log.kept(("history", "heads", until.date()), (*JOINED, *LEFT), lambda: _heads(log, until))


def _heads(log: Log, until: datetime) -> Series:
    days = sorted({e.day for e in log.kinds(*JOINED, *LEFT) if e.day <= until.date()} | {until.date()})
    counts = [(day, float(sum(a.count for a in here))) for day, here in zip(days, stocks(log, days), strict=True)]
    return _series([(noon(day, until).timestamp(), n, n, n) for day, n in counts])


_SUMMED_FROM: Mapping[str, type[Body]] = {"changed": Change, "food": Feed, "deaths": Death}
_AMOUNT: Mapping[type[Body], Callable[[Any], float]] = {
    Change: lambda b: b.litres, Feed: lambda b: b.grams or 0.0, Death: lambda b: float(b.count),
}  # fmt: skip


def summed(log: Log, quantity: str) -> Series:
    """What went in or was lost, each at its moment: litres of new water, grams of food, heads found dead."""
    return log.folded(("history", quantity), (_SUMMED_FROM[quantity],), NOTHING, _summed)


def _summed(known: Series, came: Sequence[Entry]) -> Series:
    points: list[Point] = []
    for e in came:
        v = _AMOUNT[type(e.body)](e.body)
        points.append((e.at.timestamp(), v, v, v))
    return known.with_points(points)


def lengths(log: Log) -> Series:
    """Every animal that was measured, cm."""
    return log.kept(("history", "length"), (LengthMeasured,), lambda: _lengths(log))


def _lengths(log: Log) -> Series:
    return _series([(e.at.timestamp(), *(3 * (e.body.length_cm,))) for e in log.kinds(LengthMeasured)])


def series_of(quantity: str, log: Log, tank: Tank, reference: Reference, until: datetime) -> Series:
    """A quantity by its key, as kept: nitrogen as N, warmth in deg C, litres, grams."""
    if quantity == "nh3":
        return free_ammonia(log, tank)
    if quantity == "load":
        return load(log, tank, reference, until)
    if quantity == "heads":
        return heads(log, until)
    if quantity == "length":
        return lengths(log)
    return summed(log, quantity) if QUANTITIES[quantity].source == SUMMED else readings(log, quantity)


def holds(log: Log, quantity: str) -> bool:
    """Whether the log has anything to show of it."""
    source = QUANTITIES[quantity].source
    if source in (READ, MEASURED):
        return bool(len(readings(log, quantity)))
    if source == SCATTERED:
        return bool(log.kinds(LengthMeasured))
    if source == SUMMED:
        return bool(log.kinds(_SUMMED_FROM[quantity]))
    return bool(len(readings(log, "ammonia")) if quantity == "nh3" else log.kinds(*JOINED))


def thin(series: Series, first: float, last: float, buckets: int) -> Series:
    """What a picture so many columns wide can show: of each column the first, least, highest and last point. No more
    than four points a column, however long the record; peaks stay. O(n log n)."""
    if len(series) <= 4 * buckets:
        return series
    column = np.clip(((series.at - first) / (last - first) * buckets).astype(int), -1, buckets)
    starts = np.flatnonzero(np.diff(column, prepend=column[0] - 1))
    ends = np.append(starts[1:], len(series))
    by_height = np.lexsort((series.seen, column))  # within each column from the least to the highest
    k = np.unique(np.concatenate((starts, by_height[starts], by_height[ends - 1], ends - 1)))
    return Series(series.at[k], series.seen[k], series.low[k], series.high[k])


def drawn_pause_s(pause_s: float, first: float, last: float, buckets: int) -> float:
    """A pause beyond which a line breaks that was thinned so: of a column the first and the last point may be all that
    is left, and between them it was read all the time. 0, of points that stand alone, stays."""
    return max(pause_s, (last - first) / buckets) if pause_s else 0.0


def runs(series: Series, pause_s: float | None = None) -> list[slice]:
    """Stretches without a gap: a line is drawn within each, and nowhere between."""
    if not len(series):
        return []
    pause = series.longest_pause_s if pause_s is None else pause_s
    cuts = (np.flatnonzero(np.diff(series.at) > pause) + 1).tolist()
    return [slice(a, b) for a, b in zip([0, *cuts], [*cuts, len(series)], strict=True)]


def per_bucket(series: Series, edges: Array) -> Array:
    """(len(edges) - 1,) sums of what lies between the edges."""
    found, _ = np.histogram(series.at, edges, weights=series.seen)
    return np.asarray(found, float)


@dataclass(frozen=True)
class InView:
    """Least, median and most of what was read in view, and of how many readings."""

    n: int
    least: float
    middle: float
    most: float


def in_view(series: Series) -> InView | None:
    if not len(series):
        return None
    return InView(len(series), float(series.seen.min()), float(np.median(series.seen)), float(series.seen.max()))
