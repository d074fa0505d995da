"""What animals have been exposed to while a tank cycles with them in it: concentration x time, against the limits.

Two courses are laid over each other and the higher counts, hour by hour: the forecast's, conditioned on the readings,
and the readings joined by straight lines. A model that does not believe a reading must not talk an exposure away.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, date, datetime

import numpy as np
from numpy.typing import NDArray

from jarbloom.core.bloom.capacity import AT_BEST, LIKELY
from jarbloom.core.bloom.forecast import Forecast
from jarbloom.core.bloom.plans import noon
from jarbloom.core.journal.kinds.arrival import Arrival
from jarbloom.core.journal.kinds.change import Change
from jarbloom.core.journal.kinds.test import Tested
from jarbloom.core.journal.log import Log
from jarbloom.core.model.entry import Entry
from jarbloom.core.model.tank import Tank
from jarbloom.core.upset.levels import spread
from jarbloom.core.vessel.volume import net_l
from jarbloom.core.water.ammonia import Limits, unionised_fraction

Array = NDArray[np.float64]


@dataclass(frozen=True)
class ExposureSum:
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
    nh3: ExposureSum
    no2: ExposureSum


def exposure(
    tank: Tank, forecast: Forecast, entries: Sequence[Entry], limits: Limits, now: datetime
) -> Exposure | None:
    """Since the first animals; None without any. What happened between two readings is inferred."""
    known = Log.of(entries, now.tzinfo).until(now)
    came = known.kinds(Arrival)
    if not came:
        return None
    arrived, first_day = came[0].at, came[0].day
    hours = np.arange(0.0, max(_hours(arrived, now), 1.0), 1.0)
    read = _read(tank, known, arrived)
    return Exposure(
        first_day,
        (now.date() - first_day).days + 1,
        _dose(hours, _foretold(forecast, "nh3", arrived), read["nh3"], limits.nh3),
        _dose(hours, _foretold(forecast, "no2", arrived), read["no2"], limits.no2),
    )


def _hours(start: datetime, at: datetime) -> float:
    return (at.astimezone(UTC) - start.astimezone(UTC)).total_seconds() / 3600


Course = tuple[list[float], list[float], list[float]]  # hours since the first animals, likely, worst


def _foretold(forecast: Forecast, name: str, arrived: datetime) -> Course:
    """The forecast's course by its noons. The ninth decile of a concentration is its bad side."""
    at, likely, worst = [], [], []
    for k, day in enumerate(forecast.days[: forecast.today + 1]):
        moment = forecast.as_of if k == forecast.today else noon(day, forecast.as_of)
        at.append(_hours(arrived, moment))
        likely.append(forecast.band(name, LIKELY, k))
        worst.append(forecast.band(name, AT_BEST, k))
    return at, likely, worst


def _read(tank: Tank, known: Log, arrived: datetime) -> dict[str, Course]:
    """The readings as they were seen, rising from nothing at the arrival; water changes thin what was read last."""
    found: dict[str, Course] = {"nh3": ([], [], []), "no2": ([], [], [])}
    ph, temp, salinity = tank.ph, tank.temp_c, tank.salinity_g_kg

    def point(name: str, at: datetime, likely: float, worst: float) -> None:
        for values, value in zip(found[name], (_hours(arrived, at), likely, worst), strict=True):
            values.append(value)

    for e in known.kinds(Tested, Change):
        told = {r.quantity: r for r in e.readings if not r.masked}
        ph = told["ph"].seen if "ph" in told else ph
        temp = told["temp"].seen if "temp" in told else temp
        salinity = told["salinity"].seen if "salinity" in told else salinity
        for quantity, name in (("ammonia", "nh3"), ("nitrite", "no2")):
            if e.at < arrived:
                continue
            at, likely, worst = found[name]
            if quantity in told:
                if not at:
                    point(name, arrived, 0.0, 0.0)
                seen = spread(told[quantity])
                share = float(unionised_fraction(ph, temp, salinity)) if name == "nh3" else 1.0
                point(name, e.at, seen.seen * share, seen.high * share)
            elif isinstance(e.body, Change) and at:
                left = 1 - min(1.0, e.body.litres / net_l(tank))
                point(name, e.at, likely[-1], worst[-1])
                point(name, e.at, likely[-1] * left, worst[-1] * left)
    return found


def _dose(hours: Array, foretold: Course, read: Course, limit: float) -> ExposureSum:
    likely, worst = (np.interp(hours, foretold[0], foretold[k]) for k in (1, 2))
    if read[0]:
        likely = np.maximum(likely, np.interp(hours, read[0], read[1]))
        worst = np.maximum(worst, np.interp(hours, read[0], read[2]))
    worst = np.maximum(worst, likely)
    return ExposureSum(
        float(likely.sum()), float(worst.sum()), float((likely >= limit).sum()), float(likely.mean() / limit)
    )
