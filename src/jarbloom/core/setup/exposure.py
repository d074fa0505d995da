"""What animals have been exposed to while a tank cycles with them in it: concentration x time, against the limits."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

from jarbloom.core.bloom.capacity import AT_BEST, LIKELY
from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.model import Entry
from jarbloom.core.water.ammonia import Limits


@dataclass(frozen=True)
class Dose:
    """Exposure to one substance: mg N/L x hours, likely and at the worst decile; hours above the limit, likely; and
    the likely sum as a share of what the limit held all the time would come to."""

    likely_mg_h_l: float
    worst_mg_h_l: float
    hours_over: float
    of_limit: float


@dataclass(frozen=True)
class Exposure:
    since: date
    days: int
    nh3: Dose
    no2: Dose


def exposure(forecast: Forecast, entries: Sequence[Entry], limits: Limits) -> Exposure | None:
    """Since the first animals, by the forecast's course of each day (its noon), conditioned on the readings. None
    without animals. An estimate: what happened between two readings is inferred."""
    arrived = min((e.at.date() for e in entries if e.kind == "arrival" and e.state == "live"), default=None)
    if arrived is None:
        return None
    span = [k for k, d in enumerate(forecast.days) if arrived <= d and k <= forecast.today]
    if not span:
        return None
    return Exposure(
        arrived,
        len(span),
        _dose(forecast, "nh3", span, limits.nh3),
        _dose(forecast, "no2", span, limits.no2),
    )


def _dose(forecast: Forecast, name: str, span: Sequence[int], limit: float) -> Dose:
    likely = [forecast.band(name, LIKELY, k) for k in span]
    worst = [forecast.band(name, AT_BEST, k) for k in span]  # the ninth decile of a concentration is its bad side
    hours = 24.0
    return Dose(
        hours * sum(likely),
        hours * sum(worst),
        hours * sum(v >= limit for v in likely),
        sum(likely) / (limit * len(span)),
    )
