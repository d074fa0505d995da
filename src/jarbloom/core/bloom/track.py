"""How good it has been: earlier forecasts, as they were made, against what came."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, datetime

from jarbloom.core.bloom.capacity import AT_BEST, LIKELY, SURE
from jarbloom.core.bloom.conditioning import SPECIES_OF
from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.kit import NITROGEN

LEAST_AHEAD_DAYS = 2  # a reading the next day is hardly foretold


@dataclass(frozen=True)
class Met:
    """A reading and the 80 % range that the latest forecast of some days before had given for its day, mg N/L."""

    at: datetime
    quantity: str
    typed: str
    low: float
    high: float | None
    said_low: float
    said_likely: float
    said_high: float
    asked: date

    @property
    def inside(self) -> bool:
        """The interval of the colour step and the range said have something in common."""
        return self.low <= self.said_high and (self.high is None or self.high >= self.said_low)


@dataclass(frozen=True)
class Said:
    """What an earlier forecast said of the day of readiness."""

    asked: date
    p10: date | None
    p50: date | None
    p90: date | None


@dataclass(frozen=True)
class Track:
    met: tuple[Met, ...]
    said: tuple[Said, ...]

    @property
    def inside(self) -> int:
        return sum(m.inside for m in self.met)


def track(earlier: Sequence[Forecast], entries: Sequence[Entry]) -> Track:
    """Earlier forecasts in order of their moment, against the readings that came at least two days later."""
    ordered = sorted(earlier, key=lambda f: f.as_of)
    met = []
    zone = ordered[0].as_of.tzinfo if ordered else None
    for e in Log.of(entries, zone).kinds(Tested):
        before = [f for f in ordered if (e.at - f.as_of).total_seconds() >= LEAST_AHEAD_DAYS * 86400]
        if not before or e.day not in before[-1].days:
            continue
        f = before[-1]
        k = f.days.index(e.day)
        for r in e.readings:
            if r.quantity in NITROGEN and not r.masked:
                name = SPECIES_OF[r.quantity]
                p10, p50, p90 = (f.band(name, q, k) for q in (SURE, LIKELY, AT_BEST))
                met.append(Met(e.at, r.quantity, r.typed, r.low, r.high, p10, p50, p90, f.as_of.date()))
    said_days = [Said(f.as_of.date(), f.readiness.p10, f.readiness.p50, f.readiness.p90) for f in ordered]
    return Track(tuple(met), tuple(said_days))
